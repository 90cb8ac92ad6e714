from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0011_kerf_origin'),
    ]

    operations = [
        migrations.CreateModel(
            name='ShopLettering',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('values', models.JSONField(default=dict)),
            ],
        ),
        migrations.AddField(
            model_name='blank',
            name='markup',
            field=models.JSONField(default=dict),
        ),
    ]
