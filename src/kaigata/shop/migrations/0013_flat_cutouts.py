from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0012_lettering'),
    ]

    operations = [
        migrations.AddField(
            model_name='blank',
            name='flat_cutouts',
            field=models.JSONField(default=list),
        ),
    ]
