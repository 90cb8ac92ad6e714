from django.db import migrations


def write_enough(apps, schema_editor):
    """Give posts in inches, whose arcs go by their centre, the five decimals they take."""
    for post in apps.get_model("shop", "Post").objects.all():
        document = post.document
        if document["units"] == "in":
            least = 5 if document["arcs"] == "centre" else 4
            document["decimals"] = max(document["decimals"], least)
            post.save()


class Migration(migrations.Migration):

    dependencies = [
        ('shop', '0005_posts_and_paths'),
    ]

    operations = [
        migrations.RunPython(write_enough, migrations.RunPython.noop),
    ]
