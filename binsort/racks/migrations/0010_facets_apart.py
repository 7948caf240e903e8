from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("racks", "0009_shop_face")]

    operations = [
        migrations.AlterField(
            model_name="embed",
            name="parts",
            field=models.TextField(
                choices=[("together", "Together"), ("rack", "Rack apart"), ("each", "Each apart"), ("facets", "Each facet apart")],
                default="rack",
            ),
        ),
    ]
