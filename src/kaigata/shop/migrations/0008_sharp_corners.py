from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0007_rules_of_lines'),
    ]

    operations = [
        migrations.AddField(
            model_name='blank',
            name='sharp_corners',
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name='blank',
            name='shift',
            field=models.JSONField(default=list),
        ),
    ]
