
from django.db import migrations, models


def keep_the_factors(apps, schema_editor):
    """Turn the one K of gauges and blanks into charts of one K."""
    origins = ("standard", "supplier", "measured", "typed")

    def point(k, origin):
        known = origin if origin in origins else "typed"
        return {"value": k, "ratio": 0.0, "angle": 0.0, "radius": 0.0, "origin": known}

    for gauge in apps.get_model("shop", "Gauge").objects.all():
        gauge.points = [point(gauge.k, gauge.origin)]
        gauge.save()
    for blank in apps.get_model("shop", "Blank").objects.select_related("part"):
        blank.chart = {
            "thickness": blank.part.thickness or 1.0,
            "method": "k",
            "name": "the chart before",
            "points": [point(blank.k, "typed")],
        }
        blank.save()


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0001_initial'),
    ]

    operations = [
        migrations.CreateModel(
            name='ShopLimits',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('values', models.JSONField(default=dict)),
            ],
        ),
        migrations.AddField(
            model_name='blank',
            name='bend_rules',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='blank',
            name='chart',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='blank',
            name='corners',
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name='blank',
            name='grain',
            field=models.CharField(blank=True, max_length=6),
        ),
        migrations.AddField(
            model_name='blank',
            name='line_marks',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='blank',
            name='previous',
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name='blank',
            name='turn',
            field=models.FloatField(default=0),
        ),
        migrations.AddField(
            model_name='gauge',
            name='method',
            field=models.CharField(default='k', max_length=12),
        ),
        migrations.AddField(
            model_name='gauge',
            name='number',
            field=models.CharField(blank=True, max_length=10),
        ),
        migrations.AddField(
            model_name='gauge',
            name='points',
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name='gauge',
            name='radii',
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name='material',
            name='note',
            field=models.CharField(blank=True, max_length=200),
        ),
        migrations.AddField(
            model_name='material',
            name='tensile',
            field=models.FloatField(default=400),
        ),
        migrations.AddField(
            model_name='part',
            name='drawn',
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name='part',
            name='given',
            field=models.JSONField(default=dict),
        ),
        migrations.AddField(
            model_name='part',
            name='revision',
            field=models.PositiveSmallIntegerField(default=1),
        ),
        migrations.AddField(
            model_name='part',
            name='revision_fault',
            field=models.TextField(blank=True),
        ),
        migrations.AddField(
            model_name='part',
            name='shell',
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name='part',
            name='spot',
            field=models.JSONField(null=True),
        ),
        migrations.AlterField(
            model_name='part',
            name='state',
            field=models.CharField(choices=[('reading', 'Reading'), ('asking', 'Asking'), ('ready', 'Ready'), ('refused', 'Refused')], default='reading', max_length=10),
        ),
        migrations.RunPython(keep_the_factors, migrations.RunPython.noop),
        migrations.RemoveConstraint(
            model_name='gauge',
            name='k_0_to_1',
        ),
        migrations.RemoveField(
            model_name='blank',
            name='k',
        ),
        migrations.RemoveField(
            model_name='blank',
            name='k_origin',
        ),
        migrations.RemoveField(
            model_name='blank',
            name='quarter_turns',
        ),
        migrations.RemoveField(
            model_name='gauge',
            name='k',
        ),
        migrations.RemoveField(
            model_name='gauge',
            name='origin',
        ),
    ]
