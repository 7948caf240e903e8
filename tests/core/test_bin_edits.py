"""Editing bins: whatever the catalogue and the document, each edit does what it says and no more."""

import json
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets import bin_edits
from binsort.core.facets.facet_file import check_document, facet_file
from binsort.core.facets.query import Query
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.findings import Bench, findings
from binsort.core.insight.value_list import LEFT_OUT, WAITS, by_bins, raw_values
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.numbers import written
from binsort.core.values.sizes import are_sizes, by_size
from binsort.core.values.strict_json import loads
from binsort.core.values.text import identity
from tests.examples import examples

COLOURS = st.sampled_from(["Navy", "navy ", "Marine", "Red", "Grey", "Gray", "10", 10, "Default", True])
WORLDS = st.lists(st.lists(COLOURS, max_size=2), min_size=1, max_size=8)
RULES = st.fixed_dictionaries({}, optional={
    "merge": st.lists(st.fixed_dictionaries({"label": st.sampled_from(["Navy", "Blue", "Red"]), "values": st.lists(COLOURS, min_size=1, max_size=3)}), max_size=2),
    "rename": st.dictionaries(st.sampled_from(["Red", "Grey", "Marine", "Teal"]), st.sampled_from(["Crimson", "Navy", "Grey"]), max_size=2),
    "leave_out": st.lists(COLOURS, max_size=2), "only": st.lists(COLOURS, max_size=5), "order": st.just(["Red", "Navy"]),
})  # fmt: skip


def fold(label):
    """The identity of a label, None for none."""
    return label and identity(label)


class World:
    """A facet over products that have these values."""

    def __init__(self, values, **document):
        lines = [
            json.dumps({"sku": str(n), "name": "x", "additionalProperty": {"name": "Colour", "value": given}}).encode()
            for n, given in enumerate(values)
        ]
        self.index = build_index(read_catalogue(lines).products, 0)
        self.document = {"key": "f", "label": "Colour", "source": {"kind": "attribute", "attribute": "Colour"}, **document}
        self.see(self.document)

    def see(self, document):
        """Look at the facet as a document has it."""
        whole = loads(json.dumps({"binsort": 1, "facets": [document]}, default=written))
        assert not check_document(whole), check_document(whole)
        self.document = document
        rack = RackIndex(self.index, facet_file(whole).facets)
        self.state, self.facet = State(rack, Query()), rack.facets[0]
        self.values = raw_values(self.state, self.facet, document)
        return self

    @property
    def bin_of(self):
        """The label of the bin that each value is in, None for none."""
        return {value.name: value.bin.label if value.bin else None for value in self.values}

    def held(self, label):
        """The names of the values in a bin."""
        return [name for name, into in self.bin_of.items() if into == label]

    def findings(self, **more):
        """What is found, by id."""
        bench = Bench(self.state, self.facet, self.document, number=written, name=lambda made: made.label, **more)
        return {found.id: found for found in findings(bench)}


class EditTests(TestCase):
    @examples(150)
    @given(WORLDS, RULES, st.data())
    def test_merging(self, values, rules, data):
        """The values and all that the bin held are in one bin of that label; no other value moves."""
        world = World(values, bins=rules)
        bins = list(world.facet.bins)
        assume(bins and world.values)
        into = data.draw(st.sampled_from([bin.label for bin in bins]))
        moved = data.draw(st.lists(st.sampled_from([value.name for value in world.values]), min_size=1, unique=True))
        before, held = world.bin_of, world.held(into)
        after = world.see(bin_edits.merged(world.document, moved, into, held)).bin_of
        self.assertEqual({after[name] for name in (*moved, *held)}, {into})
        for name in before.keys() - set(moved) - set(held):
            self.assertEqual(fold(after[name]), fold(before[name]))  # spelt as a merge had it, or as the catalogue has it

    @examples(150)
    @given(WORLDS, RULES, st.data())
    def test_parting(self, values, rules, data):
        """Each value is alone in a bin of its own label; the others stay together as they were, and none falls out."""
        world = World(values, bins=rules)
        assume(world.values)
        moved = data.draw(st.lists(st.sampled_from([value.name for value in world.values]), min_size=1, max_size=2, unique=True))
        before = world.bin_of
        after = world.see(bin_edits.parted(world.document, moved)).bin_of
        for name in moved:
            self.assertEqual([other for other, label in after.items() if label == after[name]], [name])
        for name in before.keys() - set(moved):
            self.assertEqual(after[name] is None, before[name] is None)
            together = {other for other in before.keys() - set(moved) if before[other] == before[name]}
            if before[name] is not None and before[name] not in moved:
                self.assertEqual({after[other] for other in together}, {after[name]})

    @examples(100)
    @given(WORLDS, RULES, st.data())
    def test_leaving_out_and_back(self, values, rules, data):
        """Left out they are in no bin; put back all is as it was, but for those that were out before."""
        world = World(values, bins=rules)
        assume(world.values)
        names = data.draw(st.lists(st.sampled_from([value.name for value in world.values]), min_size=1, unique=True))
        before = world.bin_of
        world.see(bin_edits.left_out(world.document, names))
        self.assertEqual({world.bin_of[name] for name in names}, {None})
        after = world.see(bin_edits.put_back(world.document, names)).bin_of
        for name, label in before.items():
            if label is not None:  # the same bin; one of those that come back may be renamed to another spelling of it
                self.assertEqual(fold(after[name]), fold(label))
        self.assertTrue(all(after[name] for name in names))

    @examples(100)
    @given(WORLDS, RULES, st.sampled_from(["Blue", "Sea", "Red"]), st.data())
    def test_renaming(self, values, rules, new, data):
        """A bin has another label and the same values; its place by hand follows."""
        world = World(values, bins=rules)
        labels = [bin.label for bin in world.facet.bins]
        assume(labels and new not in labels)
        label = data.draw(st.sampled_from(labels))
        before, held = world.bin_of, set(world.held(label))
        after = world.see(bin_edits.renamed(world.document, label, new, sorted(held))).bin_of
        self.assertEqual({name for name, into in after.items() if into == new}, held)
        self.assertEqual(
            {name: into for name, into in after.items() if name not in held},
            {name: into for name, into in before.items() if name not in held},
        )

    def test_only_these_and_new_values(self):
        """Those kept alone stay, and what comes later waits to be looked at; it can be let in, or left out for good."""
        world = World([["Navy"], ["Red"], ["Grey"]])
        kept = bin_edits.kept_alone(world.document, ["Navy", "Red"], [value.name for value in world.values])
        later = World([["Navy"], ["Red"], ["Grey"], ["Teal"]]).see(kept)
        self.assertEqual({value.name: value.state for value in later.values}, {"Grey": LEFT_OUT, "Navy": "", "Red": "", "Teal": WAITS})
        groups = [(bin and bin.label, [value.name for value in inside]) for bin, inside in by_bins(later.values, later.facet.bins)]
        self.assertEqual(groups, [("Navy", ["Navy"]), ("Red", ["Red"]), (None, ["Teal", "Grey"])])
        found = later.findings()["new-values"]
        self.assertEqual(
            (found.text, [mend.words for mend in found.mends]),
            ("“Teal” is new and in no bin yet: 1 product", ["Give it a bin", "Leave out"]),
        )
        self.assertEqual(World([["Navy"], ["Teal"]]).see(found.mends[0].change(kept)).bin_of["Teal"], "Teal")
        self.assertEqual(later.see(found.mends[1].change(kept)).findings().get("new-values"), None)
        self.assertEqual(bin_edits.new_values_wait(kept, [], wait=False)["bins"], {"leave_out": ["Grey"]})

    def test_sizes(self):
        """S to 2XL by the ladder, lengths by length whatever the unit; words that say no size come last."""
        self.assertEqual(
            by_size(["2XL", "M", "xs", "XXL", "Extra large", "L", "S", "One size"]),
            ["xs", "S", "M", "L", "Extra large", "2XL", "XXL", "One size"],
        )
        self.assertEqual(
            by_size(["1/2 in", "10 mm", "1 1/4 in", "1 cm", "0.5 m", "8"]), ["1 cm", "10 mm", "1/2 in", "1 1/4 in", "8", "0.5 m"]
        )
        self.assertEqual(
            [are_sizes(labels) for labels in (["S", "M"], ["Red", "M", "Blue"], ["12 mm", "8 mm"], ["M"])], [True, False, True, False]
        )


class FindingTests(TestCase):
    def test_values(self):
        """Look-alikes, values that say nothing, those without a value, all-of that cannot work: each with a mend that does it."""
        world = World([["Grey"], ["Grey"], ["Gray"], ["Default"], [], ["Navy"]], match="all", look={"control": "swatches"})
        found = world.findings(
            is_drawn_by_colour=True, swatch=lambda made: ("#888888",) if made.label in ("Grey", "Gray") else (), refused=2
        )
        self.assertEqual(
            {id: one.text for id, one in found.items()},
            {
                "look-alikes": "“Grey” and “Gray” look alike: the same but for spelling", "junk": "“Default” says nothing to a shopper: 1 product",
                "unbinned": "1 product has no colour", "all-of-one": "No product has two of these: with “all of” a second pick always leaves nothing",
                "no-colour": "“Navy” is no colour word: drawn as an empty dashed patch",
                "unreadable": "2 products have a value that cannot be read in this unit",
            },
        )  # fmt: skip
        merge, keep = found["look-alikes"].mends
        self.assertEqual((merge.words, merge.effect), ("Merge into Grey", "moves 1 product into Grey"))
        self.assertNotIn("look-alikes", world.see(keep.change(world.document)).findings())
        self.assertEqual(world.see(merge.change(world.document)).held("Grey"), ["Gray", "Grey"])
        self.assertNotIn("junk", world.see(found["junk"].mends[0].change(world.document)).findings())
        self.assertNotIn("all-of-one", world.see(found["all-of-one"].mends[0].change(world.document)).findings())
        told = World([["Navy"], ["Teal"]], look={"control": "swatches"}).findings(is_drawn_by_colour=True, swatch=lambda made: ("#000080",))
        self.assertEqual(told["same-swatch"].text, "“Navy” and “Teal” have one swatch")  # those that look alike are told as that

    def test_ranges(self):
        """Lopsided and empty ranges, gaps, overlaps, values on a cut, nothing above the last: mended they are gone, and say so with numbers."""
        numbers = [*([1] * 5), *([20] * 12), *range(30, 80)]
        cases = [
            ({"cuts": [10, 25]}, "lopsided", "“ge-25” holds 75% of the products", "Cut it at 55"),
            ({"cuts": [2, 5, 25]}, "nearly-empty", "“2-to-5” holds no product", "Take the cut at 2 out"),
            ({"cuts": [20]}, "on-a-cut", "12 products lie exactly on 20 and count above it", "Cut at 30 instead"),
            ({"ranges": [{"to": 10}, {"from": 25}]}, "gaps", "12 products fall between 10 and 25: no range takes them", "Let the lower range go on to 25"),
            ({"ranges": [{"to": 40}, {"from": 20}]}, "overlaps", "22 products from 20 on are in two ranges", "End the lower range at 20"),
            ({"ranges": [{"from": 0, "to": 50}]}, "above-missing", "30 products above 50 are in no bin", "Let the last one stay open: 0 and above"),
            ({"cuts": [0, 20, 50], "ends": "closed"}, "above-missing", "29 products above 50 are in no bin", "Let the last one stay open: 20 and above"),
            ({"cuts": [500]}, "one-bin", "All are in “lt-500”: a pick narrows nothing here", "Cut at 30, 46, 63"),
            ({}, "many-numbers", "52 numbers are 52 bins: few will read them", "Cut at 20, 40, 60"),
        ]  # fmt: skip
        for document, id, text, words in cases:
            world = World([[number] for number in numbers], **document)
            found = world.findings()
            self.assertIn(id, found, document)
            self.assertEqual((found[id].text, found[id].mends[0].words), (text, words))
            self.assertNotIn(id, world.see(found[id].mends[0].change(world.document)).findings())
