"""Makes the demo catalogue: seeded, so that every run gives the same file, and as imperfect as real data."""

import json
from collections.abc import Iterator
from datetime import date, timedelta
from random import Random
from typing import Any

from .families import BRANDS, COLOURS, FAMILIES, Family

_SEED = 1851
_KN_PER_TONNE_FORCE = 9.80665
_OPENED, _LAST_DAY = date(2019, 5, 4), date(2026, 11, 20)
# Sale windows: running, over, to come. Long enough to be seen for years, with both ends within the day.
_WINDOWS = (
    ("2025-03-01", "2031-03-31"),
    ("2025-06-01T08:00:00Z", "2030-09-30T20:00:00Z"),
    ("2024-01-15", "2024-02-29"),
    ("2033-05-01T00:00:00+01:00", None),
    (None, "2029-12-31"),
)

_TAGS = {"uv-safe": 0.2, "floating": 0.1, "soft-hand": 0.07, "made-to-measure": 0.04}

Json = dict[str, Any]


def catalogue_lines() -> Iterator[str]:
    """Yield the lines of the demo catalogue."""
    random = Random(_SEED)
    number = 1000
    seen: set[str] = set()
    for family in FAMILIES:
        for model in family.models:
            for brand in random.sample(BRANDS[family.brands], 3 if len(family.models) > 2 else 4):
                for size in family.sizes:
                    if random.random() < 0.1:
                        continue  # not every size is made
                    number += random.randint(1, 4)
                    product = _product(random, family, (model, brand, size), number)
                    if product["name"] not in seen:
                        seen.add(product["name"])
                        yield json.dumps(product, ensure_ascii=False)


def _product(random: Random, family: Family, named: tuple[str, str, float], number: int) -> Json:
    model, brand, size = named
    words = family.size_words.format(f"{size:g}")
    length = random.choice(family.lengths) if family.lengths else 0
    name = f"{brand} {model[0].lower()}{model[1:]} {family.noun}, {words}" + (f" × {length} m" if length else "")
    identity = f"SC-{number}"
    price = round((family.price[0] + family.price[1] * size) * (1 + length / 60) * random.uniform(0.8, 1.35), 1)
    colours = random.sample(family.colours, min(len(family.colours), random.choice((1, 2, 2, 3, 3, 4, 5))))
    product: Json = {
        "@type": "Product",
        "sku": identity,
        "name": name,
        "description": _description(family, model, brand),
        "image": _picture(family, colours[0]),
        "brand": brand,
        "category": _categories(random, family),
        "datePublished": _day(random).isoformat(),
    }
    if random.random() < 0.03:
        del product["brand"]
    tags = _tags(random, length)
    if tags:
        product["keywords"] = tags
    if random.random() > 0.18:
        product["aggregateRating"] = _rating(random)
    elif random.random() < 0.2:
        product["aggregateRating"] = {"ratingValue": 0, "reviewCount": 0}
    product["additionalProperty"] = list(_facts(random, family, size))
    _add_articles(random, family, product, (price, colours))
    if random.random() < 0.005:
        product["isVisible"] = False
    return product


def _picture(family: Family, colour: str) -> str:
    return f"/pictures/{family.picture}-{COLOURS[colour][0]}.svg"


def _description(family: Family, model: str, brand: str) -> str:
    return f"{model} {family.noun} from {brand}. Checked, bagged and labelled at the quay in Saltmarsh."


def _categories(random: Random, family: Family) -> str | list[str]:
    return [family.path, "Spring refit"] if random.random() < family.refit else family.path


def _day(random: Random) -> date:
    share = random.random() ** 0.6  # more of them lately
    return _OPENED + timedelta(days=round(share * (_LAST_DAY - _OPENED).days))


def _tags(random: Random, length: int) -> list[str]:
    tags = [
        tag
        for tag, share in (("uv-safe", 0.2), ("floating", 0.1), ("soft-hand", 0.07), ("made-to-measure", 0.04))
        if random.random() < share
    ]
    if length and random.random() < 0.9:
        tags.append(f"length-{length}")
    return tags


def _rating(random: Random) -> Json:
    return {"ratingValue": round(min(5, max(1.4, random.gauss(4.2, 0.55))), 2), "reviewCount": max(1, round(random.expovariate(1 / 40)))}


def _facts(random: Random, family: Family, size: float) -> Iterator[Json]:
    if family.size_attribute and random.random() > 0.06:
        yield _measure(random, family, size)
    if family.load and random.random() > 0.09:
        load = family.load * size * size * random.uniform(0.9, 1.1)
        if random.random() < 0.07:
            yield {"name": "Breaking load", "value": round(load / _KN_PER_TONNE_FORCE, 2), "unitText": "tonnes-force"}
        else:
            yield {"name": "Breaking load", "value": round(load, 1), "unitText": "kN"}
    for name, choices in family.facts.items():
        if random.random() > 0.05:
            value = random.choice(choices)
            yield {"name": name, "value": value, **({"unitText": "%"} if isinstance(value, float | int) else {})}


def _measure(random: Random, family: Family, size: float) -> Json:
    value: float | str = int(size) if size == int(size) else size
    if family.unit == "cm" and random.random() < 0.3:
        return {"name": family.size_attribute, "value": int(size * 10), "unitText": "mm"}
    if random.random() < 0.05:
        value = f"{size:g}"  # a number kept as text, as spreadsheets do
    return {"name": family.size_attribute, "value": value, "unitText": family.unit}


def _add_articles(random: Random, family: Family, product: Json, offer: tuple[float, list[str]]) -> None:
    price, colours = offer
    sizes = [dict(zip(family.options, (value,), strict=True)) for value in next(iter(family.options.values()))] if family.options else [{}]
    choices = [(colour, size) for colour in colours for size in sizes if random.random() > 0.08] or [(colours[0], sizes[0])]
    sale = _sale(random, price)
    if len(choices) == 1:
        product["additionalProperty"] += _options(random, *choices[0])
        product["offers"] = _offer(random, price, sale)
        return
    product |= {"@type": "ProductGroup", "productGroupID": product.pop("sku"), "offers": _offer(random, price, sale)}
    product["hasVariant"] = []
    for place, (colour, size) in enumerate(choices):
        article: Json = {"sku": f"{product['productGroupID']}-{place + 1}", "image": _picture(family, colour)}
        article["additionalProperty"] = _options(random, colour, size)
        own = round(price * random.choice((1, 1, 1, 1.1, 1.25)), 1)
        article["offers"] = _offer(random, own, _sale(random, own) if sale else None)
        product["hasVariant"].append(article)


def _options(random: Random, colour: str, size: dict[str, str]) -> list[Json]:
    written = "Default" if random.random() < 0.012 else random.choice(COLOURS[colour][1])
    options = [] if random.random() < 0.03 else [{"name": "Colour", "value": written}]
    return options + [{"name": name, "value": value} for name, value in size.items()]


def _offer(random: Random, price: float, sale: list[Json] | None) -> Json:
    state = random.random()
    offer: Json = {"price": f"{price:.2f}" if random.random() < 0.2 else price, "priceCurrency": "GBP"}
    if state < 0.08:
        offer["availability"] = "https://schema.org/OutOfStock"
    elif state < 0.16:
        offer["availability"] = random.choice(("https://schema.org/BackOrder", "https://schema.org/MadeToOrder"))
    else:
        offer |= {"availability": "https://schema.org/InStock", "inventoryLevel": max(0, round(random.expovariate(1 / 14)) - 1)}
    if sale:
        offer["priceSpecification"] = sale
    return offer


def _sale(random: Random, price: float) -> list[Json] | None:
    if random.random() > 0.14:
        return None
    if random.random() < 0.3:
        return [{"priceType": "https://schema.org/ListPrice", "price": round(price * 1.2, 1)}]
    start, end = random.choice(_WINDOWS)
    entry: Json = {"priceType": "https://schema.org/SalePrice", "price": round(price * random.choice((0.7, 0.8, 0.85)), 1)}
    entry |= {name: value for name, value in (("validFrom", start), ("validThrough", end)) if value}
    return [entry]
