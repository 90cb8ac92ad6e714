"""Drawings of assemblies, made by a worker."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Keep them as runs."""

    dependencies = (("shop", "0015_places"),)

    operations = (
        migrations.CreateModel(
            name="AssemblyRun",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False,
                                           verbose_name="ID")),
                ("state", models.CharField(
                    choices=[("queued", "Queued"), ("running", "Running"), ("done", "Done"),
                             ("stopped", "Stopped"), ("failed", "Failed")],
                    default="queued", max_length=10)),
                ("inputs", models.JSONField(default=dict)),
                ("settings", models.JSONField(default=dict)),
                ("what", models.TextField(blank=True)),
                ("where", models.TextField(blank=True)),
                ("fix", models.TextField(blank=True)),
                ("progress", models.FloatField(default=0)),
                ("stop_wanted", models.BooleanField(default=False)),
                ("attempts", models.PositiveSmallIntegerField(default=0)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("started", models.DateTimeField(null=True)),
                ("came_in", models.CharField(max_length=64)),
                ("sheets", models.JSONField(default=list)),
                ("sizes", models.JSONField(default=list)),
                ("pdf", models.BinaryField(null=True)),
                ("order", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE,
                                            related_name="%(class)ss", to="shop.order")),
            ],
            options={"ordering": ("-pk",), "abstract": False},
        ),
    )
