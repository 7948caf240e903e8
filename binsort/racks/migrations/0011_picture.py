from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("racks", "0010_facets_apart")]

    operations = [
        migrations.CreateModel(
            name="Picture",
            fields=[
                ("name", models.SlugField(max_length=64, primary_key=True, serialize=False)),
                ("data", models.BinaryField()),
                ("at", models.DateTimeField(auto_now_add=True)),
            ],
        ),
    ]
