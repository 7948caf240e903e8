from django.db import migrations

from binsort.core.facets.former_forms import upgraded
from binsort.core.values.strict_json import dumps, loads


def ends_hold(apps, schema_editor):
    """Let the ends of sliders, words in a look until now, be the ends of their facets; backward ones, which drew nothing, go."""
    for edition in apps.get_model("racks", "Edition").objects.iterator():
        document = loads(edition.text)
        changed = upgraded(document)
        for facet in changed["facets"]:
            ends = facet.get("ends_at", {})
            if "low" in ends and "high" in ends and type(ends["low"]) is not str and ends["low"] > ends["high"]:
                del facet["ends_at"]
        if changed != document:
            edition.text = dumps(changed)
            edition.save(update_fields=["text"])


class Migration(migrations.Migration):
    dependencies = [("racks", "0007_left_as_is")]
    operations = [migrations.RunPython(ends_hold, migrations.RunPython.noop)]
