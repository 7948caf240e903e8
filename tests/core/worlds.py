"""Random catalogues, facet files and queries that reach every branch of what facets mean."""

import json

from hypothesis import strategies as st

TEXTS = st.sampled_from(
    ["Navy", "navy", "NAVY ", "Red", "red", "Navy  blue", "Été", "ete", "10", "10 mm", "4.5", "-5", "yes", "#", "a/b", "a b"]
)
NUMBERS = st.sampled_from([0, 1, 2, 4.5, 10, 10.0, 12, 16, -5, 0.1, 1e1, 100])
UNITS = st.sampled_from(["mm", "cm", "in", "kg", "parsec", "millimetre", ""])
NAMES = st.sampled_from(["Colour", "colour", "Colour", "Diameter", "Mixed"])
PATHS = st.sampled_from(["Ropes", "ropes > Mooring", "Ropes > Mooring > Dock", "Ropes>Anchor", "Fenders", "Sale", "A > b", "A b"])
TAGS = st.sampled_from(["new", "New", "length-12", "length-5 m", "Length-20", "1/2 in", "1 1/2 in", "7", "0/0"])
DATES = st.sampled_from(["2024-01-01", "2024-02-30", "2023-12-31T23:59:59Z", "2024-06-15", "soon"])
MOMENTS = st.sampled_from(
    ["2024-06-14", "2024-06-15", "2024-06-15T12:00:00Z", "2024-06-15T12:00:00+01:00", "2024-07-01", "never", "", None]
)
VALUES = st.one_of(TEXTS, NUMBERS, st.booleans(), st.lists(st.one_of(TEXTS, NUMBERS, st.none()), max_size=3))


def some(**parts):
    """An object that has each property or not."""
    return st.fixed_dictionaries({}, optional=parts)


_PROPERTY = st.builds(
    lambda name, value, unit: {"name": name, "value": value, **({"unitText": unit} if unit else {})}, NAMES, VALUES, UNITS
)
_DATED = st.fixed_dictionaries({"name": st.sampled_from(["Made on", "made  on"]), "value": DATES})
PROPERTIES = st.lists(st.one_of(_PROPERTY, _PROPERTY, _PROPERTY, _DATED), min_size=1, max_size=3)
PRICES = st.sampled_from([5, 9.99, 10, 10.5, "12", " 20 ", 20, 35, 50, "dear"])
SPECIFICATIONS = st.lists(
    some(
        priceType=st.sampled_from(["https://schema.org/ListPrice", "SalePrice", "x/SalePrice"]),
        price=PRICES,
        validFrom=MOMENTS,
        validThrough=MOMENTS,
    ),
    max_size=2,
)
OFFERS = some(
    price=PRICES,
    availability=st.sampled_from(["https://schema.org/InStock", "OutOfStock", "BackOrder", "x/PreOrder"]),
    inventoryLevel=st.sampled_from([0, 1, 5, -1, {"value": 0}, {"value": "3"}]),
    priceSpecification=SPECIFICATIONS,
)
VARIANTS = st.lists(some(offers=OFFERS, additionalProperty=PROPERTIES, sku=st.one_of(TEXTS, st.just(12))), max_size=3)
PRODUCTS = st.builds(
    lambda base, rest: {**base, **rest},
    st.fixed_dictionaries(
        {
            "additionalProperty": PROPERTIES,
            "sku": st.sampled_from("ABCDEFGHI"),
            "name": st.sampled_from(["Rope 10", "rope 9", "Rope 9", "élan", "Elan", "3-strand", "(x)"]),
        }
    ),
    some(
        brand=st.sampled_from(["Hollin", "hollin", "Orrin", {"name": "Orrin"}]),
        category=st.one_of(PATHS, st.lists(PATHS, max_size=2)),
        keywords=st.one_of(st.lists(TAGS, max_size=3), st.just("new, length-12")),
        datePublished=DATES,
        aggregateRating=some(
            ratingValue=st.sampled_from([4.25, 4.24, "3", 5, 0]), reviewCount=st.sampled_from([0, 3]), ratingCount=st.sampled_from([0, 1])
        ),
        offers=OFFERS,
        hasVariant=VARIANTS,
        description=st.sampled_from(["Upbraided rope", "Braided, 10 mm", "Ein_Seil; Élan\u0301 10", "ropes-braid"]),
        productGroupID=st.sampled_from(["A", "G 10"]),
        isVisible=st.sampled_from([True, True, False]),
    ),
)
CATALOGUES = st.lists(PRODUCTS, min_size=1, max_size=7).map(lambda products: [json.dumps(product).encode() for product in products])

SOURCES = st.sampled_from([
    *[{"kind": "attribute", "attribute": name} for name in ("Colour", "colour", "Colour", "Diameter", "Mixed", "Nothing")],
    {"kind": "attribute", "attribute": "Diameter", "unit": "mm"},
    {"kind": "attribute", "attribute": "Mixed", "unit": "cm"},
    *[{"kind": k} for k in ("category", "category", "brand", "tag", "price", "price", "reduced", "stock", "rating", "published", "initial")],
    {"kind": "age"}, {"kind": "level"}, {"kind": "level"},
    {"kind": "number_from", "from": "tag"},
    {"kind": "number_from", "from": "tag", "prefix": "LENGTH-", "unit": "cm"},
    {"kind": "number_from", "from": "attribute", "attribute": "Mixed"},
    {"kind": "number_from", "from": "attribute", "attribute": "Diameter", "unit": "in"},
])  # fmt: skip
WORDS = st.lists(st.sampled_from(["Braid", "rope", "10", "élan", "e", "-", "Navy  blue", "ROPE 9", "mm"]), min_size=1, max_size=3)
WORD_SOURCES = st.builds(
    lambda places, labels, texts: {
        "kind": "words", "in": places, "groups": [{"label": label, "texts": said} for label, said in zip(labels, texts, strict=False)],
    },
    st.lists(st.sampled_from(["name", "description", "sku", "tag"]), min_size=1, max_size=4, unique=True),
    st.lists(st.sampled_from(["Braid", "A b", "a-b", "Élan", "10", "*"]), min_size=1, max_size=4, unique=True),
    st.lists(WORDS, min_size=4, max_size=4),
)  # fmt: skip
BOUNDS = st.lists(st.sampled_from([-5, 0, 1, 4.5, 10, 12, 20, 100]), min_size=1, max_size=3, unique=True)
DATE_BOUNDS = st.lists(st.sampled_from(["2023-12-31", "2024-01-01", "2024-06-15"]), min_size=1, max_size=3, unique=True)
FREQUENT = st.sampled_from(["navy", "Red", "10", "été", "yes", "4.5", "12", "#", "a b"])
BIN_VALUES = st.one_of(FREQUENT, FREQUENT, st.sampled_from([10, True, "new", "hollin", "in", "e"]), PATHS)
LABELS = st.sampled_from(["Blue", "blue", "navy", "Red", "10"])


@st.composite
def bin_rules(draw, category):
    rules = draw(some(
        only=st.just([]), leave_out=st.lists(BIN_VALUES, max_size=2),
        rename=st.dictionaries(st.one_of(FREQUENT, FREQUENT, PATHS), LABELS, min_size=1, max_size=3), order=st.lists(st.one_of(LABELS, TEXTS), max_size=3),
    ))  # fmt: skip
    if draw(st.integers(0, 3)) == 0:
        rules["only"] = draw(st.lists(BIN_VALUES, min_size=2, max_size=8))
    if not category and draw(st.integers(0, 2)):
        rules["merge"] = draw(
            st.lists(
                st.fixed_dictionaries({"label": LABELS, "values": st.lists(BIN_VALUES, min_size=1, max_size=5)}), min_size=1, max_size=3
            )
        )
    return rules


@st.composite
def range_rules(draw, dates):
    values = draw(DATE_BOUNDS if dates else BOUNDS)
    shape = draw(st.sampled_from(["cuts", "closed", "at_least", "at_most", "ranges", "none"]))
    if shape in ("cuts", "closed"):
        return {"cuts": sorted(values), **({"ends": "closed"} if shape == "closed" and len(values) > 1 else {})}
    if shape == "ranges":
        low, high = sorted(values)[0], sorted(values)[-1]
        listed = [
            {"from": low},
            {"to": high, "label": draw(LABELS)},
            *([{"from": low, "to": high}, {"from": low, "to": high}] if low < high else []),
        ]
        return {"ranges": draw(st.permutations(listed))}
    return {} if shape == "none" else {shape: values}


@st.composite
def facet_files(draw):
    """A facet file of a few facets, later ones with rules on earlier ones."""
    facets = []
    for place in range(draw(st.sampled_from([1, 2, 3, 3, 4]))):
        source = draw(st.one_of(SOURCES, SOURCES, SOURCES, WORD_SOURCES))
        facet = {"key": f"f{place}", "label": "F", "source": source}
        facet |= draw(
            some(
                match=st.sampled_from(["any", "all"]),
                pick=st.sampled_from(["one", "many"]),
                empty=st.sampled_from(["hide", "dim", "keep", "emptied"]),
            )
        )
        facet |= draw(some(order=st.sampled_from(["label", "count", "listed", "value", "-label", "-count", "-listed", "-value"])))
        shape = draw(st.sampled_from(["ranges", "bins", "bins", "plain"]))
        if shape == "ranges" and source["kind"] in ("attribute", "price", "rating", "number_from", "published", "age", "level"):
            facet |= draw(range_rules(source["kind"] == "published"))
            facet |= draw(st.sampled_from([{}, {"free": True}, {"free": True}]))
            if facet.get("free"):
                facet |= draw(ends_at(source["kind"] == "published"))
        elif shape == "bins" and source["kind"] == "words":
            facet["bins"] = {"order": draw(st.lists(st.one_of(LABELS, st.just("a b"), st.just("braid")), max_size=3))}
        elif shape == "bins":
            facet["bins"] = draw(bin_rules(source["kind"] == "category"))
        if source["kind"] == "category":
            facet |= draw(st.sampled_from([
                {}, {"scope": "top"}, {"scope": "under", "under": "listing"}, {"scope": "under", "under": "listing", "deep": True},
                {"scope": "under", "under": "ropes"}, {"scope": "under", "under": "Ropes > Mooring", "deep": True},
            ]))  # fmt: skip
        if source["kind"] == "category" and draw(st.booleans()):
            facet["order"] = draw(st.sampled_from(["tree", "-tree"]))
        if draw(st.booleans()):
            trees = [other["key"] for other in facets if other["source"]["kind"] == "category"]
            facet["show_when"] = draw(show_when([other["key"] for other in facets], trees))
        facets.append(facet)
    return {"binsort": 1, "facets": draw(st.permutations(facets))}


def ends_at(dates):
    values = ["2023-12-31", "2024-01-01", "2024-06-15"] if dates else [-5, 1, 4.5, 100]
    return st.one_of(
        st.just({}),
        st.sampled_from(
            [{"low": values[0]}, {"high": values[2]}, {"low": values[1], "high": values[1]}, {"low": values[0], "high": values[2]}]
        ).map(lambda ends: {"ends_at": ends}),
    )


def show_when(keys, trees):
    rules = [
        st.fixed_dictionaries({"listing": PATHS}),
        st.sampled_from([{"from": "2024-06-15"}, {"from": "2024-06-16"}, {"to": "2024-06-14"}, {"from": "2024-01-01", "to": "2024-06-15"}]),
    ]
    if keys:
        values = st.lists(st.sampled_from(["navy", "red", "10", "yes"]), min_size=1, max_size=2)
        rules += [
            st.fixed_dictionaries({"facet": st.sampled_from(keys), "picked": st.booleans()}),
            st.fixed_dictionaries({"facet": st.sampled_from(keys), "bins": values}),
        ]
    if trees:
        paths = st.lists(st.sampled_from(["ropes", "ropes-mooring", "fenders", "a-b", "nowhere"]), min_size=1, max_size=2)
        rules.append(st.fixed_dictionaries({"facet": st.sampled_from(trees), "bins": paths}))
    rule = st.one_of(*rules)
    return st.one_of(*(st.fixed_dictionaries({mode: st.lists(rule, min_size=1, max_size=2)}) for mode in ("all", "any")))


WILD_NAMES = ["f0", "f1", "f2", "f0.from", "f0.to", "f1.from", "f1.to", "f2.from", "f2.to", "x", "x.from", "q"]
WILD_VALUES = ["", "navy", "10..20", "..10", "5..", "20..5", "..", "5", "12", "4.5", "2024-01-01..", "2024-01-01", "yes", "1" * 1001]
RESERVED = {
    "sort": [
        *(
            "listed",
            "price",
            "-price",
            "name",
            "-name",
            "newest",
            "-rating",
            "dear",
            "-newest",
            "level",
            "-level",
            "saving",
            "-saving",
            "buyable",
        ),
        *(
            "-buyable",
            "attribute.diameter",
            "-attribute.Diameter",
            "attribute.MIXED",
            "-attribute.mixed",
            "attribute.",
            "attribute.nothing",
        ),
        *("attribute.Made on", "-attribute.made ON"),
    ],
    "category": ["ropes", "Ropes > MOORING", "Nowhere", " > "],
    "page": ["1", "2", "0", "x", "02"],
    "per": ["1", "2", "0"],
}


def random_query(random, keys_of):
    """Make the pairs of a query, evenly mixed: bins that exist, free ranges, and everything that may go wrong.

    Args:
        random: where chance comes from.
        keys_of: the bin keys of each facet.
    """
    real = [(key, made) for key, bins in keys_of.items() for made in bins] or [("f0", "none")]
    pairs = [random.choice(real) for _ in range(random.choice([0, 1, 2, 2, 3]))]
    pairs += [(random.choice(WILD_NAMES), random.choice(WILD_VALUES)) for _ in range(random.choice([0, 0, 1, 3]))]
    for name in random.sample(list(RESERVED), random.choice([0, 0, 1, 2])):
        pairs.append((name, random.choice(RESERVED[name])))
    random.shuffle(pairs)
    return pairs
