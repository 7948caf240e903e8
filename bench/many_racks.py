"""A set-up as large as they come: 30 racks, 200 facets, 2,000 categories, with rules, places and a history."""

import json
from collections.abc import Iterator

DEPARTMENTS, GROUPS, SHELVES = 10, 18, 10  # 10 + 180 + 1,800 categories
FACETS, RACKS, ON_A_RACK, ATTRIBUTES, PRODUCTS = 200, 30, 10, 20, 20_000


def product_lines() -> Iterator[bytes]:
    """Yield the products of a catalogue with that many categories, each attribute on half of them."""
    for number in range(PRODUCTS):
        department, group, shelf = number % DEPARTMENTS, number // DEPARTMENTS % GROUPS, number // (DEPARTMENTS * GROUPS) % SHELVES
        properties = [
            {"name": f"Attribute {attribute}", "value": f"value {(number // 7 + attribute * number) % (3 + attribute)}"}
            for attribute in range(ATTRIBUTES)
            if (number + attribute) % 2
        ]
        yield json.dumps({
            "@type": "Product", "sku": f"B-{number}", "name": f"Product {number}",
            "category": f"Department {department} > Group {group} > Shelf {shelf}",
            "offers": {"price": 1 + number % 400, "priceCurrency": "GBP"}, "additionalProperty": properties,
        }).encode() + b"\n"  # fmt: skip


def document() -> dict[str, object]:
    """Return that set-up: facets wait for others, racks stand on departments, groups and shelves."""
    facets: list[dict[str, object]] = [
        {"key": f"f{number}", "label": f"Facet {number}", "source": {"kind": "attribute", "attribute": f"Attribute {number % ATTRIBUTES}"}}
        for number in range(FACETS)
    ]
    for number in range(5, FACETS, 5):
        facets[number]["show_when"] = {"any": [{"facet": f"f{number - 1}", "picked": True}]}
    racks = []
    for number in range(RACKS):
        held = [f"f{(number * 7 + place) % FACETS}" for place in range(ON_A_RACK)]
        shows = [{"where": "side", "listing": "all"}] if number == 0 else []
        for place in range(number, DEPARTMENTS * GROUPS, RACKS):
            path = f"Department {place % DEPARTMENTS} > Group {place // DEPARTMENTS}"
            shows.append({"where": ("side", "above", "below")[place % 3], "listing": "category", "category": path})
        racks.append({"key": f"r{number}", "label": f"Rack {number}", "facets": held, "place": {"shows": shows}})
    return {"binsort": 1, "facets": facets, "racks": racks}


def build() -> None:
    """Put it into an empty database, with a hundred changes after it was put live."""
    from django.contrib.auth import get_user_model

    from binsort.changes import facets, live
    from binsort.changes.catalogue import replace_catalogue
    from binsort.changes.setup_files import bring_setup_in
    from binsort.core.values.strict_json import dumps
    from binsort.racks.setup import facet_document, the_setup

    replace_catalogue(product_lines())
    get_user_model().objects.create_user("mara", is_staff=True)
    bring_setup_in(dumps(document()), name="many.json", actor=None)
    live.put_live()
    for number in range(100):
        key = f"f{number % 40}"
        before = facet_document(the_setup().draft.document, key)
        values = [f"value {number % 3}", f"value {1 + number % 3}"]
        facets.change_facet(key, {**before, "bins": {"merge": [{"label": f"M {number}", "values": values}]}}, actor=None)
