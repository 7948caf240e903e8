"""Random catalogues, facet files and queries that reach every branch of what facets mean."""

import json

from hypothesis import strategies as st

TEXTS = st.sampled_from(["Navy", "navy", "NAVY ", "Red", "red", "Navy  blue", "Été", "ete", "10", "10 mm", "4.5", "-5", "yes", "#", "a/b", "a b"])
NUMBERS = st.sampled_from([0, 1, 2, 4.5, 10, 10.0, 12, 16, -5, 0.1, 1e1, 100])
UNITS = st.sampled_from(["mm", "cm", "in", "kg", "parsec", "millimetre", ""])
NAMES = st.sampled_from(["Colour", "colour", "Size", "Diameter", "Mixed"])
PATHS = st.sampled_from(["Ropes", "ropes > Mooring", "Ropes > Mooring > Dock", "Ropes>Anchor", "Fenders", "Sale", "A > b", "A b"])
TAGS = st.sampled_from(["new", "New", "length-12", "length-5 m", "Length-20", "1/2 in", "1 1/2 in", "7", "0/0"])
DATES = st.sampled_from(["2024-01-01", "2024-02-30", "2023-12-31T23:59:59Z", "2024-06-15", "soon"])
MOMENTS = st.sampled_from(["2024-06-14", "2024-06-15", "2024-06-15T12:00:00Z", "2024-06-15T12:00:00+01:00", "2024-07-01", "never", "", None])
VALUES = st.one_of(TEXTS, NUMBERS, st.booleans(), st.lists(st.one_of(TEXTS, NUMBERS, st.none()), max_size=3))


def some(**parts):
    """An object that has each property or not."""
    return st.fixed_dictionaries({}, optional=parts)


PROPERTIES = st.lists(
    st.builds(lambda name, value, unit: {"name": name, "value": value, **({"unitText": unit} if unit else {})}, NAMES, VALUES, UNITS), max_size=3
)
PRICES = st.sampled_from([5, 9.99, 10, 10.5, "12", " 20 ", 20, 35, 50, "dear"])
SPECIFICATIONS = st.lists(
    some(priceType=st.sampled_from(["https://schema.org/ListPrice", "SalePrice", "x/SalePrice"]), price=PRICES, validFrom=MOMENTS, validThrough=MOMENTS),
    max_size=2,
)
OFFERS = some(
    price=PRICES,
    availability=st.sampled_from(["https://schema.org/InStock", "OutOfStock", "BackOrder", "x/PreOrder"]),
    inventoryLevel=st.sampled_from([0, 1, 5, -1, {"value": 0}, {"value": "3"}]),
    priceSpecification=SPECIFICATIONS,
)
VARIANTS = st.lists(some(offers=OFFERS, additionalProperty=PROPERTIES, sku=TEXTS), max_size=3)
PRODUCTS = st.builds(
    lambda base, rest: {**base, **rest},
    st.fixed_dictionaries({"sku": st.sampled_from("ABCDEFGHI"), "name": st.sampled_from(["Rope 10", "rope 9", "Rope 9", "élan", "Elan", "3-strand", "(x)"])}),
    some(
        brand=st.sampled_from(["Hollin", "hollin", "Orrin", {"name": "Orrin"}]),
        category=st.one_of(PATHS, st.lists(PATHS, max_size=2)),
        keywords=st.one_of(st.lists(TAGS, max_size=3), st.just("new, length-12")),
        datePublished=DATES,
        aggregateRating=some(ratingValue=st.sampled_from([4.25, 4.24, "3", 5, 0]), reviewCount=st.sampled_from([0, 3]), ratingCount=st.sampled_from([0, 1])),
        additionalProperty=PROPERTIES,
        offers=OFFERS,
        hasVariant=VARIANTS,
        isVisible=st.booleans(),
    ),
)
CATALOGUES = st.lists(PRODUCTS, max_size=7).map(lambda products: [json.dumps(product).encode() for product in products])

SOURCES = st.one_of(
    st.builds(lambda name, unit: {"kind": "attribute", "attribute": name, **unit}, NAMES, st.sampled_from([{}, {}, {"unit": "mm"}, {"unit": "cm"}])),
    st.sampled_from([{"kind": k} for k in ("category", "brand", "tag", "price", "reduced", "stock", "rating", "published", "initial")]),
    st.sampled_from([
        {"kind": "number_from", "from": "tag"},
        {"kind": "number_from", "from": "tag", "prefix": "LENGTH-", "unit": "cm"},
        {"kind": "number_from", "from": "attribute", "attribute": "Mixed"},
        {"kind": "number_from", "from": "attribute", "attribute": "Diameter", "unit": "in"},
    ]),
)  # fmt: skip
BOUNDS = st.lists(st.sampled_from([-5, 0, 1, 4.5, 10, 12, 20, 100]), min_size=1, max_size=3, unique=True)
DATE_BOUNDS = st.lists(st.sampled_from(["2023-12-31", "2024-01-01", "2024-06-15"]), min_size=1, max_size=3, unique=True)
BIN_VALUES = st.one_of(TEXTS, NUMBERS, st.booleans(), PATHS)
LABELS = st.sampled_from(["Blue", "navy", "Red", "10", "Other", "other"])


@st.composite
def bin_rules(draw, category):
    rules = draw(some(
        only=st.lists(BIN_VALUES, max_size=4), leave_out=st.lists(BIN_VALUES, max_size=2),
        rename=st.dictionaries(st.one_of(TEXTS, PATHS), LABELS, max_size=2), order=st.lists(st.one_of(LABELS, TEXTS), max_size=3),
    ))  # fmt: skip
    if not category and draw(st.booleans()):
        rules["merge"] = draw(st.lists(st.fixed_dictionaries({"label": LABELS, "values": st.lists(BIN_VALUES, max_size=3)}), max_size=2))
    return rules


@st.composite
def range_rules(draw, dates):
    values = draw(DATE_BOUNDS if dates else BOUNDS)
    shape = draw(st.sampled_from(["cuts", "closed", "at_least", "at_most", "ranges", "none"]))
    if shape in ("cuts", "closed"):
        return {"cuts": sorted(values), **({"ends": "closed"} if shape == "closed" and len(values) > 1 else {})}
    if shape == "ranges":
        low, high = sorted(values)[0], sorted(values)[-1]
        listed = [{"from": low}, {"to": high, "label": draw(LABELS)}, *([{"from": low, "to": high}, {"from": low, "to": high}] if low < high else [])]
        return {"ranges": draw(st.permutations(listed))}
    return {} if shape == "none" else {shape: values}


@st.composite
def facet_files(draw):
    """A facet file of a few facets, later ones with rules on earlier ones."""
    facets = []
    for place in range(draw(st.integers(1, 4))):
        source = draw(SOURCES)
        facet = {"key": f"f{place}", "label": "F", "source": source}
        facet |= draw(some(match=st.sampled_from(["any", "all"]), pick=st.sampled_from(["one", "many"]), empty=st.sampled_from(["hide", "dim", "keep"])))
        facet |= draw(some(order=st.sampled_from(["label", "count", "listed", "value", "-label", "-count", "-listed", "-value"])))
        if source["kind"] in ("attribute", "price", "rating", "number_from", "published") and draw(st.booleans()):
            facet |= draw(range_rules(source["kind"] == "published"))
            facet |= draw(some(free=st.booleans()))
        elif draw(st.booleans()):
            facet["bins"] = draw(bin_rules(source["kind"] == "category"))
        if source["kind"] == "category":
            facet |= draw(st.sampled_from([
                {}, {"scope": "top"}, {"scope": "under", "under": "listing"}, {"scope": "under", "under": "listing", "deep": True},
                {"scope": "under", "under": "ropes"}, {"scope": "under", "under": "Ropes > Mooring", "deep": True},
            ]))  # fmt: skip
        if facets and draw(st.integers(0, 3)) == 0:
            facet["show_when"] = draw(show_when([other["key"] for other in facets]))
        facets.append(facet)
    return {"binsort": 1, "facets": draw(st.permutations(facets))}


def show_when(keys):
    rule = st.one_of(
        st.fixed_dictionaries({"facet": st.sampled_from(keys), "picked": st.booleans()}),
        st.fixed_dictionaries({"facet": st.sampled_from(keys), "bins": st.lists(st.sampled_from(["navy", "red", "10", "in"]), min_size=1, max_size=2)}),
    )
    return st.one_of(*(st.fixed_dictionaries({mode: st.lists(rule, min_size=1, max_size=2)}) for mode in ("all", "any")))


def queries(keys_of):
    """Pairs of a query: mostly bins that exist, and everything that may go wrong.

    Args:
        keys_of: the bin keys of each facet.
    """
    real = [(key, made) for key, bins in keys_of.items() for made in bins] or [("f0", "none")]
    wild = st.tuples(
        st.sampled_from(["f0", "f1", "f0.from", "f0.to", "f1.from", "f1.to", "f2", "x", "f2.x", "q"]),
        st.sampled_from(["", "navy", "10..20", "..10", "5..", "20..5", "..", "5", "12", "2024-01-01..", "2024-01-01", "yes", "a b"]),
    )
    reserved = st.one_of(
        st.tuples(st.just("sort"), st.sampled_from(["listed", "price", "-price", "name", "-name", "newest", "-rating", "dear"])),
        st.tuples(st.just("category"), st.sampled_from(["ropes", "Ropes > MOORING", "Nowhere", " > "])),
        st.tuples(st.sampled_from(["page", "per"]), st.sampled_from(["1", "2", "0", "x", "02"])),
    )
    return st.lists(st.one_of(st.sampled_from(real), st.sampled_from(real), wild, reserved), max_size=5)
