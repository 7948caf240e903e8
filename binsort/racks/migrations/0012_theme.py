from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("racks", "0011_picture")]

    operations = [migrations.AddField("ShopFace", "theme", models.JSONField(blank=True, default=dict))]
