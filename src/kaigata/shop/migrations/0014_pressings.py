from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0013_flat_cutouts'),
    ]

    operations = [
        migrations.CreateModel(
            name='Pressing',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=60, unique=True)),
                ('kind', models.CharField(choices=[('in', 'pressed in'), ('out', 'pressed out')], max_length=8)),
                ('hole', models.FloatField(null=True)),
                ('clear', models.FloatField()),
            ],
            options={
                'ordering': ('kind', 'name'),
            },
        ),
    ]
