from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0006_decimals_of_posts'),
    ]

    operations = [
        migrations.AddField(
            model_name='orderline',
            name='priority',
            field=models.SmallIntegerField(default=0),
        ),
        migrations.AddField(
            model_name='orderline',
            name='is_filler',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='orderline',
            name='may_mirror',
            field=models.BooleanField(default=False),
        ),
    ]
