import django.contrib.postgres.fields
import django.db.models.deletion
from django.db import migrations, models


def define_attributes(apps, schema_editor):
    """Give every attribute that products have a definition."""
    from binsort.catalog.dictionary.attribute_kinds import guessed_kind
    from binsort.core.values.text import identity

    said, units, several, varying = {}, {}, set(), set()
    for name in ("Product", "Variant"):
        for properties in apps.get_model("catalog", name).objects.values_list("properties", flat=True).iterator():
            for given in properties:
                key = identity(given["name"])
                values = [1 if isinstance(value, dict) else value for value in given["values"]]
                found = said.setdefault(key, (given["name"], []))[1]
                found += values[: max(0, 1000 - len(found))]
                units.setdefault(key, given.get("unit") or "")
                several |= {key} if len(values) > 1 else set()
                varying |= {key} if name == "Variant" else set()
    apps.get_model("catalog", "Attribute").objects.bulk_create(
        apps.get_model("catalog", "Attribute")(
            identity=key, name=name, kind=str(guessed_kind(values)), unit=units[key], many=key in several, on_variants=key in varying, place=place,
        )
        for place, (key, (name, values)) in enumerate(said.items())
    )


class Migration(migrations.Migration):
    dependencies = [("catalog", "0002_imports")]

    operations = [
        migrations.RenameModel("Import", "Revision"),
        migrations.RenameModel("ImportedProduct", "RevisedProduct"),
        migrations.AlterModelOptions("revision", {"ordering": ("-id",)}),
        migrations.RemoveConstraint("revisedproduct", "imported_product_once"),
        migrations.RenameField("revisedproduct", "record", "revision"),
        migrations.AlterField("revisedproduct", "before", models.TextField(blank=True)),
        migrations.AddConstraint("revisedproduct", models.UniqueConstraint(fields=("revision", "identity"), name="revised_product_once")),
        migrations.AddField(
            "revision", "kind",
            models.TextField(choices=[("file", "A file"), ("products", "Products"), ("dictionary", "Attributes"), ("categories", "Categories")], default="file"),
        ),
        migrations.AddField("revision", "summary", models.TextField(blank=True)),
        migrations.AddField("revision", "definitions", models.JSONField(blank=True, default=dict)),
        migrations.AlterField("revision", "file", models.TextField(blank=True)),
        migrations.AlterField("revision", "form", models.TextField(blank=True)),
        migrations.AlterField("revision", "missing", models.TextField(blank=True)),
        migrations.AlterField("revision", "new", models.PositiveIntegerField(default=0)),
        migrations.AlterField("revision", "changed", models.PositiveIntegerField(default=0)),
        migrations.AlterField("revision", "left", models.PositiveIntegerField(default=0)),
        migrations.AlterField("revision", "refused", models.PositiveIntegerField(default=0)),
        migrations.CreateModel(
            "Attribute",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("identity", models.TextField(unique=True)),
                ("name", models.TextField()),
                ("kind", models.TextField(choices=[("choice", "Choice"), ("text", "Text"), ("number", "Number"), ("yes_no", "Yes or no"), ("date", "Date")])),
                ("unit", models.TextField(blank=True)),
                ("many", models.BooleanField(default=False)),
                ("on_variants", models.BooleanField(default=False)),
                ("narrowing", models.BooleanField(default=True)),
                ("on_pages", models.BooleanField(default=True)),
                ("note", models.TextField(blank=True)),
                ("place", models.PositiveIntegerField(default=0)),
            ],
            options={
                "ordering": ("place", "identity"),
                "constraints": [models.CheckConstraint(condition=models.Q(("name", ""), _negated=True), name="attribute_has_name")],
            },
        ),
        migrations.CreateModel(
            "AttributeValue",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("identity", models.TextField()),
                ("text", models.TextField()),
                ("place", models.PositiveIntegerField(default=0)),
                ("colours", django.contrib.postgres.fields.ArrayField(base_field=models.TextField(), blank=True, default=list, size=3)),
                ("image", models.TextField(blank=True)),
                ("note", models.TextField(blank=True)),
                ("attribute", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="values", to="catalog.attribute")),
            ],
            options={
                "ordering": ("place", "id"),
                "constraints": [models.UniqueConstraint(fields=("attribute", "identity"), name="value_once_in_attribute")],
            },
        ),
        migrations.RunPython(define_attributes, migrations.RunPython.noop),
    ]
