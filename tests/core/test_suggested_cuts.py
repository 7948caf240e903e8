"""Suggested cuts, axes and histograms against what others work out, and the number line against looking at each product."""

import json
from datetime import date
from fractions import Fraction
from random import Random
from unittest import TestCase

import jenkspy
import numpy as np
import pandas as pd
from hypothesis import given
from hypothesis import strategies as st

from binsort.core.answers.answer import RackIndex
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.spec import Range
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.axis import EVEN, LOG, ROOTS, Axis, axis_of, nice, preferred
from binsort.core.insight.number_line import bars_of, freedman_diaconis, number_line, sturges
from binsort.core.insight.suggested_cuts import WAYS, counts_of, natural_breaks, proposed_bins, simplest, suggested
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.strict_json import loads
from tests.examples import examples

from .worlds import CATALOGUES


def line_of(numbers, kind="attribute"):
    """The number line of products that have these numbers, or lists of them, or dates."""
    parts = (
        {"datePublished": value} if kind == "published" else {"additionalProperty": {"name": "Load", "value": value}} for value in numbers
    )
    lines = [json.dumps({"sku": str(n), "name": "x", **part}).encode() for n, part in enumerate(parts)]
    index = build_index(read_catalogue(lines).products, 0)
    source = {"kind": kind, **({"attribute": "Load"} if kind == "attribute" else {})}
    (spec,) = facet_file({"binsort": 1, "facets": [{"key": "f", "label": "F", "source": source, "free": True}]}).facets
    return number_line(index, RackIndex(index, [spec]).facets[0], index.every_product)


class AgainstOthersTests(TestCase):
    RANDOM = np.random.default_rng(7)

    def test_natural_groups_are_those_of_jenkspy(self):
        """jenkspy 0.4.1 finds the same breaks; where two partings are equally good, ours costs as much."""
        for size, groups in ((12, 3), (40, 4), (150, 5), (400, 7)):
            values = np.unique(np.round(self.RANDOM.lognormal(3, 1, size), 2))
            ours = natural_breaks(values, np.ones(len(values)), groups)
            edges = jenkspy.jenks_breaks(values, n_classes=groups)[1:-1]  # the greatest value of each group but the last
            theirs = [int(np.searchsorted(values, edge, "right")) for edge in edges]
            self.assertAlmostEqual(spread(values, ours), spread(values, theirs))
            self.assertEqual(ours, theirs)

    def test_natural_groups_weigh_repeats(self):
        """Weights count as often as the value is there: jenkspy is given each value as often."""
        values, weights = np.array([1.0, 2, 4, 8, 9, 15, 16, 30]), np.array([5, 1, 7, 2, 2, 9, 1, 3])
        repeated = np.repeat(values, weights)
        edges = jenkspy.jenks_breaks(repeated, n_classes=4)[1:-1]
        self.assertEqual(natural_breaks(values, weights.astype(float), 4), [int(np.searchsorted(values, edge, "right")) for edge in edges])

    def test_natural_groups_of_very_many_numbers(self):
        """50,000 distinct numbers are grouped exactly; no single break can be moved by one to make the groups closer."""
        values = np.unique(self.RANDOM.lognormal(3, 1, 50_000))
        breaks = natural_breaks(values, np.ones(len(values)), 6)
        best = spread(values, breaks)
        for place in range(len(breaks)):
            for step in (-1, 1):
                moved = [at + step * (n == place) for n, at in enumerate(breaks)]
                self.assertGreaterEqual(spread(values, moved) + 1e-6, best)

    def test_even_counts_are_quantiles(self):
        """Of distinct numbers each range holds what numpy's and pandas' quantiles give it."""
        numbers = sorted({int(number) for number in self.RANDOM.integers(0, 10**6, 1000)})
        line = line_of(numbers)
        for bins in (2, 3, 4, 5, 10):
            counts = counts_of(line, suggested(line, "counts", bins))
            theirs = pd.qcut(pd.Series(numbers), bins).value_counts(sort=False).tolist()
            self.assertTrue(all(abs(ours - other) <= 1 for ours, other in zip(counts, theirs, strict=True)), (counts, theirs))
            edges = np.quantile(numbers, [step / bins for step in range(1, bins)], method="inverted_cdf")
            below = np.searchsorted(numbers, edges, "right")
            self.assertTrue(np.all(np.abs(np.cumsum(counts)[:-1] - below) <= 1))

    def test_even_widths_are_histogram_edges(self):
        """Within a fiftieth of a bin they are where numpy's histogram has its edges."""
        numbers = [round(float(number), 3) for number in self.RANDOM.normal(50, 12, 500)]
        line = line_of(numbers)
        edges = np.histogram_bin_edges(numbers, 6)
        for cut, edge in zip(suggested(line, "widths", 6), edges[1:-1], strict=True):
            self.assertLess(abs(float(cut) - edge), (edges[1] - edges[0]) / 50)

    def test_rules_for_bars_are_those_of_numpy(self):
        """Freedman and Diaconis, and Sturges, give as many bars as numpy's."""
        for size in (10, 100, 1000, 54321):
            values = self.RANDOM.normal(0, 1, size)
            self.assertEqual(freedman_diaconis(values), len(np.histogram_bin_edges(values, "fd")) - 1)
            self.assertEqual(sturges(size), len(np.histogram_bin_edges(values, "sturges")) - 1)
        self.assertEqual(freedman_diaconis(np.array([1.0, 1, 1, 1, 9])), 1)

    def test_nice_numbers_of_heckbert(self):
        """His worked example: data from 105 to 543, five labels: range 500, step 100, from 100 to 600 (Graphics Gems, 1990, page 62)."""
        self.assertEqual((nice(543 - 105, rounded=False), nice(500 / 4, rounded=True)), (500, 100))
        self.assertEqual([nice(size, rounded=True) for size in (1.4, 1.6, 2.9, 3.1, 6.9, 7.1)], [1, 2, 2, 5, 5, 10])

    def test_preferred_numbers(self):
        """1, 2, 5, 10 stand in the series R 10 of ISO 3 (rounded values 1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10), three steps apart."""
        r10 = [1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8]
        self.assertEqual([number for number in preferred(9) if number >= 1], [r10[0], r10[3], r10[7 - 0]])
        for place, exact in enumerate(10 ** (step / 10) for step in range(10)):
            self.assertLess(abs(r10[place] - exact) / exact, 0.013)


def spread(values, breaks):
    """The squared deviations from the means of the groups."""
    return sum(float(((part - part.mean()) ** 2).sum()) for part in np.split(values, breaks))


class SuggestionTests(TestCase):
    def test_each_way_gives_useful_cuts(self):
        """Rising, none leaves an empty range, at most as many bins as asked for; of one number there is nothing to cut."""
        chance = Random(3)
        for numbers in (
            [5] * 9,
            [1, 2],
            [chance.expovariate(0.02) for _ in range(400)],
            [chance.choice([1, 10, 100]) for _ in range(50)],
            [-5, -3, 0, 2],
        ):
            line = line_of([round(number, 2) for number in numbers])
            for way in WAYS:
                for bins in (0, 2, 5, 12, 99):
                    if way != "calendar":
                        cuts = suggested(line, way, bins)
                        self.assertEqual(cuts, sorted(set(cuts)))
                        self.assertTrue(not cuts or all(counts_of(line, cuts)), (way, bins, cuts))
                        self.assertLess(len(cuts), 12)

    def test_cuts_are_as_simple_as_their_counts_allow(self):
        """Within a gap any cut parts the same products, so the one with fewest digits is suggested."""
        line = line_of([*[3.17] * 5, *[9.81] * 5, *[11.2] * 5, *[48.6] * 5])
        self.assertEqual([suggested(line, way, 4) for way in ("counts", "groups")], [[5, 10, 30]] * 2)
        self.assertEqual(simplest(Fraction("0.0131"), Fraction("0.0139")), Fraction("0.0135"))

    def test_dates_by_the_calendar(self):
        """Over years by years, over months by months; dates part at days that mean something."""
        years = line_of([f"{year}-0{month}-17" for year in range(2019, 2025) for month in (2, 5, 8)], "published")
        days = [date.fromordinal(int(cut)).isoformat() for cut in suggested(years, "calendar", 6)]
        self.assertEqual(days, [f"{year}-01-01" for year in range(2020, 2025)])
        self.assertEqual(suggested(years, "counts", 2), [date(2022, 1, 1).toordinal()])
        months = line_of([f"2024-0{month}-09" for month in range(1, 7)], "published")
        self.assertEqual(date.fromordinal(int(suggested(months, "calendar", 6)[0])).isoformat(), "2024-02-01")

    def test_round_numbers_by_the_spread(self):
        """Even values are cut in even steps, skewed ones where 1, 2, 5, 10… part them best."""
        self.assertEqual(suggested(line_of(list(range(1, 100))), "round", 5), [20, 40, 60, 80])
        skewed = suggested(line_of([round(1.15**n, 2) for n in range(60)]), "round", 4)
        self.assertTrue(all(str(cut).rstrip("0") in {"1", "2", "5"} for cut in skewed), skewed)

    def test_how_many_bins(self):
        """Few for few, never more than seven, never more than there are numbers."""
        self.assertEqual([proposed_bins(line_of(list(range(size)))) for size in (2, 3, 30, 1000)], [2, 3, 3, 6])


class NumberLineTests(TestCase):
    @examples(40)
    @given(
        CATALOGUES,
        st.lists(st.sampled_from([-5, 0, 1, 4.5, 10, 12, 100]), min_size=2, max_size=2),
        st.sampled_from(["price", "attribute", "level"]),
    )
    def test_ranges_hold_what_the_index_counts(self, lines, ends, kind):
        """Any range counts each product once, also one with several numbers in it; so do several ranges together."""
        source = {"kind": kind, **({"attribute": "Colour"} if kind == "attribute" else {})}
        low, high = sorted(loads(json.dumps(ends)))
        ranges = [{"from": low}, *([{"from": low, "to": high}] if low < high else []), {"to": high}]
        (spec,) = facet_file({"binsort": 1, "facets": [{"key": "f", "label": "F", "source": source, "ranges": ranges}]}).facets
        index = build_index(read_catalogue(lines).products, 0)
        rack = RackIndex(index, [spec])
        line = number_line(index, rack.facets[0], index.every_product)
        here = rack.on_listing(rack.facets[0], None)
        counts = dict(zip((made.place for made in here.bins), here.counts, strict=True))
        self.assertEqual([line.in_range(bounds) for bounds in spec.ranges], [counts[place] for place in range(len(ranges))])
        self.assertEqual(line.in_ranges(spec.ranges), len(index.every_product) - here.unbinned)
        below, above = line.around(low)
        self.assertTrue(all(number < low for number, _ in below) and all(number >= low for number, _ in above))
        drawn = bars_of(line, axis_of([float(number) for number in line.numbers], reach=[float(low)]), [low], 9) if line.numbers else []
        if all(first < 0 for first in line.before.tolist()):
            self.assertEqual(sum(bar.count for bar in drawn), line.entries)

    def test_bars_never_straddle_a_cut(self):
        """An edge stands at each cut, and what is left of it is what the range holds."""
        line = line_of([Fraction(n, 7).__float__().__round__(3) for n in range(200)])
        axis = axis_of([float(number) for number in line.numbers])
        for cut in (3, 11.02, 28):
            exact = Fraction(str(cut))
            bars = bars_of(line, axis, [exact], 40)
            share = axis.share(cut)
            self.assertFalse([bar for bar in bars if bar.left < share < bar.right])
            self.assertEqual(sum(bar.count for bar in bars if bar.right <= share), line.in_range(Range(None, exact, False, "", "")))

    def test_axes_there_and_back(self):
        """What stands at a share of an axis is placed there again; the scale is chosen by the values."""
        for axis in (Axis(0, 120), Axis(-3, 50, ROOTS), Axis(0.2, 900, LOG)):
            for share in (0, 0.25, 0.5, 1):
                self.assertAlmostEqual(axis.share(axis.value(share)), share)
        self.assertEqual(
            [axis_of(values).scale for values in (range(1, 100), [1, 2, 3, 4, 5, 60], [1, 1.1, 1.2, 1.3, 900])], [EVEN, ROOTS, LOG]
        )
        self.assertEqual(axis_of([-1, 0, 1], scale=LOG).scale, EVEN)
        self.assertEqual((axis_of([7]).low, axis_of([7]).high > 7), (0, True))
