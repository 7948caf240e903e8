"""Single rules of matching and counting, each on a catalogue small enough to count by eye."""

import json
from datetime import date
from fractions import Fraction
from unittest import TestCase

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import pairs_of
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.cuts import round_cuts
from binsort.core.insight.histograms import histogram
from binsort.core.insight.proposals import free_key, proposals
from binsort.core.insight.vessels import shelf
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant

COLOUR = {"key": "colour", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}}
SIZE = {"key": "size", "label": "Size", "source": {"kind": "attribute", "attribute": "Size"}}
PRICE = {"key": "price", "label": "Price", "source": {"kind": "price"}, "free": True}


def shirt(sku, *variants, **rest):
    """A product with variants given as (colour, size)."""
    listed = [{"additionalProperty": [{"name": "Colour", "value": c}, {"name": "Size", "value": s}]} for c, s in variants]
    return {"sku": sku, "name": sku, "hasVariant": listed, **rest}


def plain(sku, colour, price=None, **rest):
    """A product without variants."""
    facts = {"additionalProperty": [{"name": "Colour", "value": colour}]} if colour is not None else {}
    return {"sku": sku, "name": sku, **facts, **({"offers": {"price": price}} if price is not None else {}), **rest}


def catalogue(*products):
    """Read products given as schema.org objects."""
    return read_catalogue(json.dumps(product).encode() for product in products).products


def rack(products, *facets):
    """Return the index of facets given as documents."""
    return RackIndex(build_index(products, 0), facet_file({"binsort": 1, "facets": list(facets)}).facets)


def answer(found, query):
    """Answer a query; returns it with the bins by facet and key."""
    given = found.answer(found.read(pairs_of(query)))
    return given, {facet.key: {made.key: made.count for made in facet.bins} for facet in given.facets}


class MatchingTests(TestCase):
    def test_red_and_medium_is_one_article(self):
        """Picks of red and medium do not show what is red in large only."""
        found = rack(catalogue(shirt("A", ("Red", "L"), ("Blue", "M")), shirt("B", ("Red", "M"))), COLOUR, SIZE)
        given, bins = answer(found, "colour=red&size=m")
        self.assertEqual(given.products, ("B",))
        self.assertEqual((bins["colour"], bins["size"]), ({"blue": 1, "red": 1}, {"l": 1, "m": 1}))

    def test_all_of_needs_variants_that_meet_the_other_picks(self):
        """Both colours must be there in medium."""
        both = {**COLOUR, "match": "all"}
        found = rack(catalogue(shirt("A", ("Red", "M"), ("Blue", "M")), shirt("B", ("Red", "M"), ("Blue", "L"))), both, SIZE)
        given, bins = answer(found, "colour=red&colour=blue&size=m")
        self.assertEqual((given.products, bins["size"]), (("A",), {"l": 0, "m": 1}))

    def test_one_pick_only(self):
        """Where one can be picked the last counts, and a count is what it would be in its place."""
        found = rack(catalogue(plain("A", "Red"), plain("B", "Blue"), plain("C", "Blue")), {**COLOUR, "pick": "one", "match": "all"})
        given, bins = answer(found, "colour=red&colour=blue")
        self.assertEqual((given.products, bins["colour"]), (("B", "C"), {"blue": 2, "red": 1}))

    def test_merges_with_one_label_share_a_bin(self):
        """The first merge gives the spelling; a number keeps its plain form as key unless merged."""
        merged = {
            **COLOUR,
            "bins": {"merge": [{"label": "BLUES", "values": ["navy"]}, {"label": "Blues", "values": ["sky"]}], "rename": {"4.5": "Four"}},
        }
        found = rack(catalogue(plain("A", "Navy"), plain("B", "sky"), plain("C", 4.5), plain("D", "blues")), merged)
        bins = {made.key: (made.label, len(made.members)) for made in found.facets[0].bins}
        self.assertEqual(bins, {"blues": ("BLUES", 3), "4.5": ("Four", 1)})

    def test_many_bins_side_by_side(self):
        """Facets with more bins together than a small number holds, counted in one pass because little is left."""
        brands = {"key": "brand", "label": "Brand", "source": {"kind": "brand"}}
        said = [(f"c{n % 200}", f"b{n * 7 % 190}", n % 9) for n in range(3000)]
        found = rack(catalogue(*(plain(str(n), c, p, brand=b) for n, (c, b, p) in enumerate(said))), COLOUR, brands, {**PRICE, "cuts": [1]})
        _, bins = answer(found, "price=lt-1")
        for key, place in (("colour", 0), ("brand", 1)):
            counts = {name: sum(one[place] == name and one[2] == 0 for one in said) for name in {one[place] for one in said}}
            self.assertEqual(bins[key], counts)

    def test_ignored_pairs(self):
        """What is not understood is listed as written, in its order; broken UTF-8 reads as U+FFFD."""
        found = rack(catalogue(plain("A", "Red", 5)), COLOUR, PRICE)
        query = "x=1&colour=%FF&price=9..1&price.from=7&price.to=5&page=0&sort=dear&colour=&q=a&colour.from=1&price=..&category=%3E"
        given, _ = answer(found, query)
        self.assertEqual(
            given.ignored,
            (("x", "1"), ("colour", "\ufffd"), ("price", "9..1"), ("price.from", "7"), ("price.to", "5"), ("page", "0"), ("sort", "dear"),
             ("colour.from", "1"), ("price", ".."), ("category", ">")),
        )  # fmt: skip

    def test_sale_prices_change_at_the_moment_itself(self):
        """The index says when it stops holding: at the next start or end of a sale price."""
        window = {"priceType": "SalePrice", "price": 5, "validFrom": "2024-06-15T12:00:00Z", "validThrough": "2024-06-20"}
        products = catalogue(plain("A", "Red", offers={"price": 9, "priceSpecification": window}))
        noon = instant("2024-06-15T12:00:00Z")
        found = [build_index(products, now) for now in (noon - 1, noon, instant("2024-06-21"))]
        self.assertEqual([index.column(PRICE_SOURCE).numbers for index in found], [[9], [5], [9]])
        self.assertEqual([index.until for index in found], [noon, instant("2024-06-21"), None])

    def test_dates_as_bins(self):
        """A bin of one date has the date for its label and key, which an address can name."""
        dated = [plain(f"P{day}", "Red", datePublished=f"2020-07-{day:02}") for day in (4, 4, 5)]
        found = rack(
            catalogue(*dated, plain("Q", "Red", datePublished="2020-07-05")),
            {"key": "date", "label": "Date", "source": {"kind": "published"}},
        )
        given, bins = answer(found, "date=2020-07-05")
        self.assertEqual(
            [(one.key, one.label) for one in given.facets[0].bins], [("2020-07-04", "2020-07-04"), ("2020-07-05", "2020-07-05")]
        )
        self.assertEqual((given.products, bins["date"]), (("P5", "Q"), {"2020-07-04": 1, "2020-07-05": 2}))

    def test_ranges_with_equal_ends(self):
        """They stand in the order of their keys, whatever they are called."""
        ranges = [{"from": 1, "to": 9, "label": "Zander"}, {"from": 1, "to": 9, "label": "Aal"}, {"to": 5}]
        found = rack(catalogue(plain("A", "Red", 4)), {**PRICE, "free": False, "ranges": ranges})
        given, _ = answer(found, "")
        self.assertEqual([one.label for one in given.facets[0].bins], ["lt-5", "Zander", "Aal"])


PRICE_SOURCE = facet_file({"binsort": 1, "facets": [PRICE]}).facets[0].source


class KeyTests(TestCase):
    def test_keys_made_of_labels(self):
        """Small letters without accents; a number where the key is taken or addresses need it."""
        cases = [
            ("Größe", [], "grosse"),
            ("Sort", [], "by-sort"),
            ("3-strand", [], "facet-3-strand"),
            ("Colour", ["colour", "colour-2"], "colour-3"),
            ("חבל", [], "facet"),
        ]
        self.assertEqual([free_key(label, taken) for label, taken, _ in cases], [key for _, _, key in cases])


class OwnersSightTests(TestCase):
    PRODUCTS = catalogue(*(plain(f"P{n}", ["Red", "Blue", None][n % 3], n) for n in range(1, 13)))

    def test_levels_and_what_a_pick_adds(self):
        """A picked bin holds the result; a sibling says what it would add; the rest is unbinned."""
        found = rack(self.PRODUCTS, COLOUR, {**PRICE, "cuts": [4, 8]})
        state = State(found, found.read(pairs_of("colour=red&price=4-to-8")))
        colour = shelf(state, found.facets[0])
        self.assertEqual(
            [(v.bin.key, v.total, v.inside, v.adds, v.picked) for v in colour.vessels], [("blue", 4, 0, 2, False), ("red", 4, 1, 0, True)]
        )
        self.assertEqual((colour.unbinned, colour.unbinned_inside), (4, 0))
        price = shelf(state, found.facets[1])
        self.assertEqual([(v.total, v.inside, v.adds) for v in price.vessels], [(3, 0, 1), (4, 1, 0), (5, 0, 2)])
        self.assertEqual([float(share) for _, share in price.histogram.cuts], [3 / 11, 7 / 11])
        self.assertEqual(sum(bar.total for bar in price.histogram.bars), 12)
        self.assertEqual(sum(bar.inside for bar in price.histogram.bars), 1)

    def test_histogram_without_numbers(self):
        """Where no product has a number there is no histogram; one number alone stands at the left."""
        found = rack(catalogue(plain("A", "Red"), plain("B", "Red", 10**400)), PRICE)
        state = State(found, found.read([]))
        self.assertIsNone(histogram(state, found.facets[0], state.products - state.rack.index.project(found.facets[0].column.with_number)))
        self.assertEqual([bar.total for bar in histogram(state, found.facets[0], state.products).bars], [1])

    def test_proposals(self):
        """Every source with something in it is proposed; colours get swatches, numbers get cuts; none twice."""
        products = catalogue(
            *(plain(f"P{n}", ["Red", "Blue", "Green"][n % 3], n, brand="Orrin", keywords=[f"length-{n}"]) for n in range(1, 41))
        )
        found = {item.spec.label: item for item in proposals(build_index(products, 0), None, ["colour"])}
        self.assertEqual(set(found), {"Brand", "Colour", "First letter", "Length", "Price", "Stock", "Tag"})
        self.assertEqual(found["Colour"].document["look"], {"control": "swatches"})
        self.assertEqual((found["Colour"].spec.key, found["Colour"].bins, found["Colour"].average), ("colour-2", (14, 13, 13), 40 / 3))
        self.assertEqual(found["Length"].document["source"], {"kind": "number_from", "from": "tag", "prefix": "length-"})
        self.assertTrue(facet_file({"binsort": 1, "facets": [item.document for item in found.values()]}))

    def test_round_cuts(self):
        """Cuts rise, are round, and leave no bin empty."""
        self.assertEqual(round_cuts([Fraction(x, 10) for x in range(1, 100)], [1] * 99), [2, 4, 6, 8])
        self.assertEqual(round_cuts([5], [3]), [])
        skewed = round_cuts([1, 2, 3, 4, 1000], [5, 5, 5, 5, 1])
        self.assertEqual(skewed, sorted(set(skewed)))
        self.assertTrue(all(1 < cut <= 1000 for cut in skewed))


class OccasionTests(TestCase):
    """Rules on categories, listings and days; bins that picks emptied; ends of one's own; further orders."""

    def setUp(self):
        """Two departments, the second with a sub-category; one product in neither."""
        self.products = catalogue(
            plain("A", "Navy", 5, category="Ropes"),
            plain("B", "Red", 8, category="Fenders > Ball", datePublished="2024-01-01"),
            plain("C", "Navy", 20),
        )
        self.group = {"key": "group", "label": "Group", "source": {"kind": "category"}}

    def shown(self, query, *rules, **rest):
        """Tell whether colour shows under a query with some rules, beside a facet of categories."""
        found = rack(self.products, {**COLOUR, "show_when": {"any": list(rules)}}, {**self.group, **rest})
        return answer(found, query)[0].facets[0].shown

    def test_a_category_holds_on_its_listing_and_below(self):
        """A rule on a category holds where it, or one below it, is picked or is the listing; the scope of its bins does not matter."""
        rule = {"facet": "group", "bins": ["fenders"]}
        told = [
            self.shown(query, rule, scope="top")
            for query in ("", "group=fenders", "category=Fenders > Ball", "category=Ropes", "group=ropes")
        ]
        self.assertEqual(told, [False, True, True, False, False])
        self.assertTrue(self.shown("group=fenders-ball", rule))
        self.assertEqual([self.shown(query, {"facet": "group", "picked": False}) for query in ("", "category=Ropes")], [True, False])

    def test_the_listing_itself_and_days(self):
        """A rule on the listing needs no facet of categories; one on days goes by the day of the index, or of the shop."""
        found = rack(self.products, {**COLOUR, "show_when": {"all": [{"listing": "fenders"}, {"from": "2024-12-01", "to": "2024-12-24"}]}})
        days = ("2024-11-30", "2024-12-01", "2024-12-24", "2024-12-25")
        shown = []
        for day in days:
            found.index.day = date.fromisoformat(day).toordinal()
            shown.append([answer(found, query)[0].facets[0].shown for query in ("category=Fenders > Ball", "category=Ropes")])
        self.assertEqual(shown, [[False, False], [True, False], [True, False], [False, False]])

    def test_emptied(self):
        """What picks emptied is dimmed, what the listing never has is hidden, and the facet keeps its place."""
        found = rack(self.products, {**COLOUR, "empty": "emptied"}, PRICE)
        given, _ = answer(found, "category=Ropes&price=6..")
        self.assertTrue(given.facets[0].shown)
        self.assertEqual([(b.key, b.shown, b.enabled) for b in given.facets[0].bins], [("navy", True, False), ("red", False, False)])

    def test_ends_of_its_own(self):
        """Fixed ends are the bounds whatever the data; one that is left out comes from the data, and needs some."""
        both, one = ({**PRICE, "ends_at": ends} for ends in ({"low": 0, "high": 10}, {"high": 10}))
        self.assertEqual(answer(rack(self.products, both), "category=nowhere")[0].facets[0].bounds, ("0", "10"))
        self.assertEqual(answer(rack(self.products, one), "")[0].facets[0].bounds, ("5", "10"))
        self.assertIsNone(answer(rack(self.products, one), "category=nowhere")[0].facets[0].bounds)
        self.assertEqual(answer(rack(self.products, one), "price=15..")[0].products, ("C",))

    def test_the_tree_of_the_catalogue(self):
        """Categories stand as their paths first occur, unless the catalogue has a tree of its own; fewest first is most first reversed."""
        found = rack(self.products, {**self.group, "order": "tree"})
        self.assertEqual(list(answer(found, "")[1]["group"]), ["ropes", "fenders", "fenders-ball"])
        found.index.tree = {("fenders",): 0, ("fenders", "ball"): 1, ("ropes",): 2}
        self.assertEqual(list(answer(found, "")[1]["group"]), ["fenders", "fenders-ball", "ropes"])
        self.assertEqual(list(answer(rack(self.products, {**COLOUR, "order": "-count"}), "")[1]["colour"]), ["red", "navy"])
