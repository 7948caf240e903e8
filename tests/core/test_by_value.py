"""The order of products by the values of a source, held against sorting them one by one."""

from functools import cmp_to_key
from unittest import TestCase

from hypothesis import assume, given
from hypothesis import strategies as st

from binsort.core.answers.by_value import part_by_value
from binsort.core.facets.spec import Source
from binsort.core.index.bitmaps import numbers
from binsort.core.index.catalogue_index import build_index
from binsort.core.index.columns import VARIANT
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant
from binsort.core.values.text import natural_key
from tests.examples import examples

from .worlds import CATALOGUES

NOW = instant("2024-06-15T11:30:00Z")
SOURCES = [Source("attribute", "Colour"), Source("attribute", "Mixed"), Source("brand"), Source("price"), Source("category")]


def slowly(index, source, *, down):
    """Sort all products as the rule says: by the least value (down: the greatest), numbers before words, without one last, then as they came."""
    column = index.column(source)
    ties = dict(zip(index.every_product, index.orders.ties(numbers(index.every_product)).tolist(), strict=True))

    def values(slot):
        owners = range(int(index.starts[slot]), int(index.starts[slot + 1])) if column.level == VARIANT else [slot]
        members = [value for code, value in enumerate(column.values) if any(owner in column.members(code) for owner in owners)]
        return [
            (value.number is None, value.number or 0, [natural_key(word) for word in value.path or (value.label,)]) for value in members
        ]

    def compare(one, other):
        mine, others = values(one), values(other)
        if mine and others and (first := (max if down else min)(mine)) != (second := (max if down else min)(others)):
            return 1 if (first > second) != down else -1
        return bool(others) - bool(mine) or ties[one] - ties[other]

    return sorted(index.every_product, key=cmp_to_key(compare))


class ByValueTests(TestCase):
    @examples(60)
    @given(CATALOGUES, st.sampled_from(SOURCES), st.booleans(), st.integers(0, 6))
    def test_any_part_of_any_order(self, lines, source, down, start):
        """Any part of it, up and down, is what sorting all of them gives; of some products it is the same without the others."""
        index = build_index(read_catalogue(lines).products, NOW)
        column = index.column(source)
        keys = [(value.number, value.path or natural_key(value.label)) for value in column.values]
        wanted = slowly(index, source, down=down)
        assume(len(set(map(str, keys))) == len(keys))  # of two spellings that sort alike either may stand first
        everyone = index.every_product
        self.assertEqual(part_by_value(index, source, everyone, 0, len(everyone) + 3, down=down), wanted)
        self.assertEqual(part_by_value(index, source, everyone, start, start + 2, down=down), wanted[start : start + 2])
        some = everyone & index.every_product.__class__(list(everyone)[::2])
        self.assertEqual(part_by_value(index, source, some, 0, len(some), down=down), [slot for slot in wanted if slot in some])
