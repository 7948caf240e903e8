"""Findings about racks, listings and the catalogue: each speaks where it must, and is silent where it must be."""

import json
from unittest import TestCase

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import check_document, facet_file
from binsort.core.facets.spec import Source
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.coverage import lacking, not_asked
from binsort.core.insight.findings import WHOLE_FINDERS, Whole, findings_of_whole
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.text import identity
from binsort.demo.loader import CATALOGUE, FACETS

NOW = instant("2026-06-15T11:30:00Z")


def facet(name, **more):
    """A facet of an attribute."""
    return {"key": name.lower(), "label": name, "source": {"kind": "attribute", "attribute": name}, **more}


def set_up(*facets, place=None, **racks):
    """A set-up with one rack of these facets, or with the racks that are named."""
    listed = racks or {"side": [one["key"] for one in facets]}
    made = [{"key": key, "label": key.capitalize(), "facets": keys} for key, keys in listed.items()]
    if place:
        made[0]["place"] = place
    return {"binsort": 1, "facets": list(facets), "racks": made}


def rope(number, **facts):
    """A rope among ropes."""
    known = {"Fibre": ("PES", "PA", "CA")[number % 3], "Diameter": 6 + number % 5, "Stretch": 2 + number % 3, **facts}
    return thing(number, "Rope", known, price=20 + number % 9)


def paint(number, **facts):
    """A paint among paints."""
    return thing(100 + number, "Paint", {"Finish": ("Matt", "Gloss")[number % 2], "Volume": 1 + number % 3, **facts}, price=15 + number % 7)


def thing(number, category, facts, price):
    """A product."""
    said = [{"name": name, "value": value} for name, value in facts.items() if value is not None]
    offer = {"price": price, "availability": "InStock"}
    return {"sku": f"P{number}", "name": f"Thing {number}", "category": category, "offers": offer, "additionalProperty": said}


def whole_of(products, document, off=()):
    """Return what findings of the whole look at."""
    index = build_index(products, NOW)
    paths = sorted({tuple(map(identity, path[:end])) for one in products for path in one.categories for end in range(1, len(path) + 1)})
    specs = {spec.key: spec for spec in facet_file(document).facets}
    return Whole(
        index, document, specs, lambda facets, query: State(RackIndex(index, facets), query), tuple(paths), lambda path: path[-1].title(),
        frozenset(off),
    )  # fmt: skip


def read(products):
    """Read products as a catalogue file has them."""
    return read_catalogue([json.dumps(one).encode() for one in products]).products


class WholeTests(TestCase):
    def found(self, products, document, finding):
        """Return what one kind of finding says."""
        self.assertFalse(check_document(document))
        whole = whole_of(read(products), document)
        [finder] = [one for one in WHOLE_FINDERS if one.id == finding]
        return list(finder.look(whole))

    def mended(self, found, document):
        """Return the set-up after the first mend; it is a valid one."""
        changed = found.found.mends[0].change(document)
        self.assertFalse(check_document(changed))
        return changed

    def test_says_the_same(self):
        """A facet that another of the rack tells, and not one that only hints at it."""
        document = set_up(facet("Fibre"), facet("Short"))
        twins = [rope(number, Short=("PES", "PA", "CA")[number % 3].lower() + "-") for number in range(30)]
        [one] = self.found(twins, document, "says-the-same")
        self.assertEqual(one.found.text, "Short says the same as Fibre for 9 of 10 products")
        self.assertEqual(self.mended(one, document)["racks"][0]["facets"], ["fibre"])
        hints = [rope(number, Short=str(number * 7 % 4)) for number in range(30)]
        self.assertEqual(self.found(hints, document, "says-the-same"), [])

    def test_says_nothing_here(self):
        """One bin with all products of a listing; not where the listing has two bins, or the facet waits for a pick."""
        products = [
            *(rope(number, Use="Sailing") for number in range(20)),
            *(paint(number, Use=("Sailing", "Racing")[number % 2]) for number in range(20)),
        ]
        [one] = self.found(products, set_up(facet("Use")), "says-nothing-here")
        self.assertEqual(one.found.text, "Use has one bin with all products of Rope")
        waits = set_up(facet("Fibre"), facet("Use", show_when={"all": [{"facet": "fibre", "picked": True}]}))
        self.assertEqual(self.found(products, waits, "says-nothing-here"), [])

    def test_too_long(self):
        """Ten facets standing open; those beyond the sixth are shut by the mend, and then it is silent."""
        names = [f"F{number}" for number in range(10)]
        products = [rope(number, **dict.fromkeys(names, str(number % 3))) for number in range(12)]
        document = set_up(*map(facet, names))
        [one] = self.found(products, document, "too-long")
        after = self.mended(one, document)
        self.assertEqual([one.get("look", {}).get("open", True) for one in after["facets"]], [True] * 6 + [False] * 4)
        self.assertEqual(self.found(products, after, "too-long"), [])

    def test_too_wide(self):
        """A listing of which too much is left whatever is picked; not where another facet brings it down."""
        products = [rope(number, Use="Sailing" if number % 20 else "Racing", Serial=f"S{number % 20}") for number in range(80)]
        [one] = self.found(products, set_up(facet("Use")), "too-wide")
        self.assertEqual(one.found.text, "No picks bring 76 products of Rope down to 24")
        self.assertEqual(self.found(products, set_up(facet("Use"), facet("Serial")), "too-wide"), [])

    def test_shows_nowhere(self):
        """A rack that no rule shows; the first one shows everywhere where no rule is."""
        products = [rope(number) for number in range(12)]
        document = set_up(facet("Fibre"), side=["fibre"], spare=["fibre"])
        document["racks"][0]["place"] = {"shows": [{"where": "side", "listing": "all"}]}
        self.assertEqual([one.about.key for one in self.found(products, document, "shows-nowhere")], ["spare"])
        document["racks"][1]["place"] = {"shows": [{"where": "above", "listing": "category", "category": "Rope"}]}
        self.assertEqual(self.found(products, document, "shows-nowhere"), [])

    def test_not_serving(self):
        """A facet on a rack whose attribute does not serve narrowing; not one that does, and not one on no rack."""
        document = set_up(facet("Fibre"), facet("Stretch"), side=["fibre", "stretch"])
        finder = next(one for one in WHOLE_FINDERS if one.id == "not-serving")
        said = [one.found.text for one in finder.look(whole_of(read([rope(number) for number in range(12)]), document, ["fibre"]))]
        self.assertEqual(said, ["Fibre is on Side and not shown: the attribute Fibre does not serve narrowing"])
        self.assertEqual(self.found([rope(number) for number in range(12)], document, "not-serving"), [])

    def test_unused_attribute(self):
        """An attribute that many have and no facet uses; not one that few have, that is used, or that does not serve narrowing."""
        products = [rope(number, Maker=f"M{number % 4}", Rare="x" if number < 3 else None) for number in range(40)]
        document = set_up(facet("Fibre"), facet("Diameter"), facet("Stretch"))
        [one] = self.found(products, document, "unused-attribute")
        self.assertEqual(one.found.text, "40 products have maker, and nobody can narrow by it")
        twins = [rope(number, Maker=f"M{number % 4}", House=f"H{number % 4}", Cloth=f"C{number % 3}") for number in range(40)]
        told = [one.found.subject for one in self.found(twins, document, "unused-attribute")]
        self.assertEqual(told, ["house"])  # the maker says no more than the house, the cloth no more than the fibre that is on the rack
        self.assertEqual(self.mended(one, document)["racks"][0]["facets"], ["fibre", "diameter", "stretch", "maker"])
        told = [one.found.id for one in findings_of_whole(whole_of(read(products), document, off=("maker",)))]
        self.assertNotIn("unused-attribute", told)

    def test_wrong_category(self):
        """Three paints among ropes; not ropes that only lack one thing, nor a category of two kinds of things."""
        ropes = [rope(number) for number in range(40)]
        strangers = [{**paint(number + 50), "category": "Rope"} for number in range(3)]
        paints = [paint(number) for number in range(20)]
        document = set_up(facet("Fibre"))
        [one] = self.found([*ropes, *strangers, *paints], document, "wrong-category")
        self.assertEqual(one.found.text, "3 products in Rope look like Paint")
        self.assertTrue(one.found.more.startswith("Without diameter, fibre and stretch, with "), one.found.more)
        self.assertEqual(len(one.about.products), 3)
        lacking = [rope(number, Stretch=None) for number in range(40, 44)]
        self.assertEqual(self.found([*ropes, *lacking, *paints], document, "wrong-category"), [])

    def test_off_by_a_factor(self):
        """Prices and measures that are 10, 100 or 1,000 times too large or small; not a catalogue whose numbers are wide apart."""
        ropes = [rope(number) for number in range(40)]
        ropes[3]["offers"]["price"] = 2_300
        ropes[9]["additionalProperty"][1]["value"] = 0.8
        found = self.found(ropes, set_up(facet("Fibre")), "off-by-a-factor")
        self.assertEqual(
            [one.found.text for one in found],
            ["Price of 1 product in Rope is about 100 times what others have",
             "Diameter of 1 product in Rope is about a tenth of what others have"],
        )  # fmt: skip
        ropes = [rope(number) for number in range(40)]
        for one in ropes:
            one["additionalProperty"][1]["unitText"] = "mm"
        ropes[5]["additionalProperty"][1] = {"name": "Diameter", "value": 0.31}  # five sixteenths of an inch, and no unit said
        [inches] = self.found(ropes, set_up(facet("Fibre")), "off-by-a-factor")
        self.assertEqual(inches.found.text, "Diameter of 1 product in Rope is about 1/25.4 of what others have")
        self.assertEqual(inches.found.more, "As if given in inches.")
        wide = [rope(number) for number in range(40)]
        for number, one in enumerate(wide):
            one["offers"]["price"] = 2 ** (number % 14)
        self.assertEqual(self.found(wide, set_up(facet("Fibre")), "off-by-a-factor"), [])

    def test_what_nothing_is_meant_to_have(self):
        """Paint is asked for no diameter; a rope without one is, and so is what stands in a category of few products."""
        products = [*(rope(number, Diameter=None if number < 3 else 8) for number in range(20)), *map(paint, range(20))]
        products.append(thing(300, "Sundries", {}, price=5))
        index = build_index(read(products), NOW)
        diameter = Source("attribute", "Diameter")
        self.assertEqual(len(lacking(index, diameter, index.every_product)), 24)
        self.assertEqual(sorted(index.ids.many(list(not_asked(index, diameter)))), sorted(f"P{100 + number}" for number in range(20)))

    def test_the_demo(self):
        """The chandlery has one attribute that nobody uses, and nothing else wrong with the whole."""
        with CATALOGUE.open("rb") as lines:
            products = read_catalogue(lines).products
        document = json.loads(FACETS.read_text(), parse_float=str)
        for one in document["facets"]:
            if one["key"] == "rating":
                one["cuts"] = [3, 4]
        told = [(one.found.id, one.found.subject) for one in findings_of_whole(whole_of(products, document))]
        self.assertEqual(told, [("unused-attribute", "breaking load")])
