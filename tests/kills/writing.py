"""A process that writes to the catalogue in every way there is: one seed a line on its input, one line back when it is done."""

import random
import sys
from pathlib import Path

import django

django.setup()

from django.db import Error, close_old_connections, connection, transaction  # noqa: E402
from django.db.models import F  # noqa: E402

from binsort.catalog.models import Category, Placement, Product, Variant  # noqa: E402
from binsort.changes.catalogue import replace_catalogue  # noqa: E402

LINES = (Path(__file__).parents[2] / "binsort" / "demo" / "data" / "saltmarsh.jsonl").read_bytes().splitlines()
BRANDS = ["Orrin", "Hollin", "orrin", "Tarn & Daughters", "Zed"]


def import_some(chance):
    """Put another small catalogue in place."""
    replace_catalogue(chance.sample(LINES, chance.randrange(30, 60)))


def edit_many(chance):
    """Change brands, prices and stock of many products in one transaction."""
    with transaction.atomic():
        Product.objects.filter(pk__in=some(chance)).update(brand=chance.choice(BRANDS))
        Variant.objects.filter(product__in=some(chance)).update(price=F("price") + chance.randrange(1, 9), level=chance.randrange(3))
        Product.objects.filter(pk__in=some(chance)).update(visible=chance.random() < 0.8)


def raw(chance):
    """Write past every layer."""
    with connection.cursor() as cursor:
        cursor.execute("UPDATE catalog_product SET tags = %s, name = name || %s WHERE id %% 5 = %s", [["new"], " x", chance.randrange(5)])


def delete_some(chance):
    """Take products and variants away."""
    Product.objects.filter(pk__in=some(chance)[:4]).delete()
    Variant.objects.filter(pk__in=list(Variant.objects.filter(is_implicit=False).values_list("pk", flat=True)[:2])).delete()


def add_some(chance):
    """Bring products in, in bulk."""
    with transaction.atomic():
        rows = [
            Product(identity=f"K{chance.getrandbits(40)}", name=f"New {n}", place=chance.randrange(99), brand=chance.choice(BRANDS))
            for n in range(5)
        ]
        Product.objects.bulk_create(rows)
        Variant.objects.bulk_create(Variant(product=row, price=chance.randrange(1, 90), currency="GBP", is_implicit=True) for row in rows)
        category = Category.objects.first()
        Placement.objects.bulk_create(Placement(product=row, category=category) for row in rows if category)


def rename(chance):
    """Give a category another name."""
    row = chance.choice(list(Category.objects.all()) or [None])
    if row:
        row.name = f"{row.name[:20]} {chance.randrange(9)}"
        row.save()


def give_up_half_way(chance):
    """Change everything, then think better of it."""
    with transaction.atomic():
        Product.objects.update(brand="Never")
        Variant.objects.update(price=1)
        transaction.set_rollback(True)


def some(chance):
    """Return about half of the products there are."""
    return [key for key in Product.objects.values_list("pk", flat=True) if chance.random() < 0.5]


WAYS = [import_some, edit_many, edit_many, raw, delete_some, add_some, rename, give_up_half_way]

if __name__ == "__main__":
    print("ready", flush=True)
    for line in sys.stdin:
        chance = random.Random(int(line))
        close_old_connections()
        try:
            for way in chance.choices(WAYS, k=3):
                way(chance)
            print("done", flush=True)
        except Error as error:
            print(f"failed {type(error).__name__}", flush=True)
