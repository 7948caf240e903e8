"""What moves between a facet's bins, and taking one change of a set-up back: against brute force, product by product."""

from copy import deepcopy
from types import SimpleNamespace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st
from pyroaring import BitMap

from binsort.core.facets.take_back import touched, without_change
from binsort.core.insight.compared import Side, compared
from tests.examples import examples

PRODUCTS = range(12)
MEMBERS = st.lists(st.frozensets(st.sampled_from(PRODUCTS), min_size=1), max_size=5)


def side(members):
    """Return a side of bins with these products."""
    bins = tuple(SimpleNamespace(key=str(place)) for place in range(len(members)))
    held = tuple(BitMap(one) for one in members)
    return Side(bins, held, BitMap(PRODUCTS) - BitMap.union(BitMap(), *held))


class ComparedTests(TestCase):
    @examples(200)
    @given(MEMBERS, MEMBERS)
    def test_each_product_is_accounted_for(self, before, after):
        """Ribbons hold exactly the products that stay with a bin's heir, leave it for another, or come from or go to none."""
        found = compared(side(before), side(after))
        stays = {(ribbon.start, ribbon.end) for ribbon in found.ribbons if not ribbon.moved and ribbon.start is not None}
        heirs, ancestors = dict(stays), {end: start for start, end in stays}
        self.assertEqual((len(heirs), len(ancestors)), (len(stays), len(stays)))  # each bin goes on once
        moved, lost = set(), set()
        for product in PRODUCTS:
            was = {place for place, members in enumerate(before) if product in members}
            now = {place for place, members in enumerate(after) if product in members}
            left = {start for start in was if heirs.get(start) not in now}
            came = {end for end in now if ancestors.get(end) not in was}
            if (left and came) or (was and not now) or (now and not was):
                moved.add(product)
            if was and not now:
                lost.add(product)
        self.assertEqual((found.moved, found.left), (len(moved), len(lost)))
        same = compared(side(before), side(before))
        self.assertEqual(same.moved, 0)

    def test_a_merge_and_a_new_cut(self):
        """The larger bin goes on, the smaller one moves into it; of a bin that is parted the smaller piece moves."""
        merged = compared(side([{1, 2, 3}, {4, 5}]), side([{1, 2, 3, 4, 5}]))
        self.assertEqual((merged.moved, merged.touched), (2, (frozenset({1}), frozenset({0}))))
        parted = compared(side([{1, 2, 3, 4, 5}]), side([{1, 2, 3}, {4, 5}]))
        self.assertEqual((parted.moved, parted.left), (2, 0))


KEYS = ("a", "b", "c")
FACET = st.fixed_dictionaries({"label": st.sampled_from("xyz"), "order": st.sampled_from("lc")}, optional={"match": st.just("all")})
SETUP = st.dictionaries(st.sampled_from(KEYS), FACET, max_size=3)


def whole(facets, order):
    """Return a set-up with one rack."""
    return {
        "facets": [{"key": key, **parts} for key, parts in sorted(facets.items())],
        "racks": [{"key": "side", "label": "Side", "facets": [key for key in order if key in facets]}],
    }


class TakeBackTests(TestCase):
    @examples(200)
    @given(SETUP, SETUP, st.permutations(KEYS), st.permutations(KEYS))
    def test_the_newest_change_goes_wholly(self, old, new, first, second):
        """Without anything since, taking a change back gives what was before, to the order of the facets."""
        before, after = whole(old, first), whole(new, second)
        changed, clashes = without_change(after, before, after)
        self.assertEqual(clashes, [])
        self.assertEqual({one["key"]: one for one in changed["facets"]}, {one["key"]: one for one in before["facets"]})
        if set(old) == set(new):
            self.assertEqual(changed["racks"], before["racks"])
        self.assertEqual(set(changed["racks"][0]["facets"]), set(before["racks"][0]["facets"]))

    @examples(200)
    @given(SETUP, st.sampled_from(KEYS), FACET, st.sampled_from(KEYS), FACET)
    def test_what_came_since_stays(self, old, key, parts, other, later):
        """A later change of another facet stays; of the same property it is named, and nothing of that facet is touched."""
        before = whole(old, KEYS)
        after = whole({**old, key: parts}, KEYS)
        now = whole({**old, key: parts, other: later}, KEYS)
        kept = deepcopy(now)
        changed, clashes = without_change(now, before, after)
        self.assertEqual(now, kept)
        facets = {one["key"]: one for one in changed["facets"]}
        if other != key:
            self.assertEqual(facets[other], {"key": other, **later})
        if clashes:
            self.assertEqual(facets[key], {"key": key, **(later if other == key else parts)})
        self.assertLessEqual({kind for kind, _key in touched(before, after)}, {"facet", "rack"})
