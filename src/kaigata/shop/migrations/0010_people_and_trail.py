import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


RIGHTS = ("plan", "release", "stores", "people")


def give_everybody_every_right(apps, schema_editor):
    """Who could sign in until now could do everything."""
    groups = [apps.get_model("auth", "Group").objects.get_or_create(name=r)[0] for r in RIGHTS]
    for user in apps.get_model("auth", "User").objects.all():
        user.groups.add(*groups)


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0009_words_on_checks'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Deed',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(auto_now_add=True, db_index=True)),
                ('what', models.CharField(max_length=200)),
                ('about', models.CharField(blank=True, max_length=200)),
                ('order_number', models.CharField(blank=True, max_length=60)),
                ('by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='deeds', to=settings.AUTH_USER_MODEL)),
                ('order', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='deeds', to='shop.order')),
            ],
            options={
                'ordering': ('-pk',),
            },
        ),
        migrations.RunPython(give_everybody_every_right, migrations.RunPython.noop),
    ]
