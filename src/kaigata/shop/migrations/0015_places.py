"""Where the parts of an assembly lie in it."""

from django.db import migrations, models


class Migration(migrations.Migration):
    """Give parts places."""

    dependencies = (("shop", "0014_pressings"),)

    operations = (
        migrations.AddField(
            model_name="part", name="places", field=models.JSONField(default=list)
        ),
        migrations.AddField(
            model_name="part", name="came_in", field=models.CharField(default="", max_length=64)
        ),
    )
