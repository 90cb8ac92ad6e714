from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0010_people_and_trail'),
    ]

    operations = [
        migrations.AddField(
            model_name='cutrow',
            name='kerf_origin',
            field=models.CharField(blank=True, max_length=120),
        ),
    ]
