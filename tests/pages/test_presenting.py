"""Facets in words: ranges, money, dates, swatches."""

from fractions import Fraction
from unittest import TestCase

from binsort.core.values.dates import day
from binsort.racks.number_words import Words, money
from binsort.racks.shown_facet import CUTS, Swatch
from binsort.racks.templatetags.drawing import colours


def ordinal(text):
    """Return a day as the core counts it."""
    return day(text).toordinal()


class WordsTests(TestCase):
    def test_ranges_in_words(self):
        """The unit once, the upper end left out where the range is open."""
        load, price, rating, bare = (
            Words("measured", "kN", "GBP"),
            Words("money", "", "GBP"),
            Words("rated", "", ""),
            Words("measured", "", ""),
        )
        cases = [
            (load, None, 5, False, "under 5 kN"), (load, 5, Fraction(25, 2), False, "5–12.5 kN"), (load, 60, None, False, "60 kN and above"),
            (load, None, 20, True, "up to 20 kN"), (price, 10, 20, False, "£10 to £20"), (price, Fraction(19, 2), None, False, "£9.50 and above"),
            (rating, 4, Fraction(9, 2), False, "4 to 4.5"), (rating, Fraction(9, 2), None, False, "4.5 and above"), (bare, -5, 0, False, "-5–0"),
            (bare, 1000, 2000, False, "1,000–2,000"),
        ]  # fmt: skip
        for words, low, high, inclusive, expected in cases:
            self.assertEqual(words.range(low, high, inclusive=inclusive), expected)

    def test_days_in_words(self):
        """Whole years by their number, other days by date; an included end is said as it is."""
        words = Words("days", "", "")
        cases = [
            (None, "2023-01-01", False, "before 2023"), ("2023-01-01", "2024-01-01", False, "2023"), ("2023-01-01", "2026-01-01", False, "2023–2025"),
            ("2026-01-01", None, False, "2026 and later"), ("2024-05-01", None, False, "1 May 2024 and later"), (None, "2024-05-01", True, "until 1 May 2024"),
            ("2024-05-01", "2024-06-15", True, "1 May 2024–15 Jun 2024"),
        ]  # fmt: skip
        for low, high, inclusive, expected in cases:
            ends = [None if end is None else ordinal(end) for end in (low, high)]
            self.assertEqual(words.range(*ends, inclusive=inclusive), expected)

    def test_money(self):
        """Minor units as ISO 4217 has them (Babel's CLDR data); numbers beyond reading in short."""
        cases = [
            (Fraction(49, 2), "GBP", "£24.50"),
            (20, "GBP", "£20.00"),
            (1500, "JPY", "JP¥1,500"),
            (Fraction("1.2345"), "KWD", "KWD1.234"),
            (10**20, "EUR", "EUR 1e+20"),
        ]
        for amount, currency, expected in cases:
            self.assertEqual(money(amount, currency), expected)
        self.assertEqual([money(x, "GBP", short=True) for x in (20, Fraction(41, 2))], ["£20", "£20.50"])

    def test_swatches(self):
        """Several colours are parted from corner to corner, none is marked as such; a tick is white on the dark ones."""
        two = colours(Swatch(("#ffffff", "#0000ff"), False), "dot")
        self.assertIn('<path d="M0 0H12V12L12 12H0z" fill="#0000ff"/><path d="M0 0H12L0 12z" fill="#ffffff"/>', two)
        self.assertIn('class="dot has-colours clear"', colours(Swatch((), True), "dot"))
        self.assertIn('class="strip has-colours none"', colours(None, "strip"))
        five = {cut: colours(Swatch(("#111111", "#222222", "#333333", "#444444", "#555555"), False, cut, line=True), "dot") for cut in CUTS}
        self.assertEqual({drawn.count("<path") for drawn in five.values()}, {5})
        self.assertEqual(len(set(five.values())), 4)
        self.assertIn('d="M2.4 0H4.8V12H2.4z" fill="#222222" stroke="#fff"', five["stripes"])
        self.assertIn('d="M0 2.4V4.8H12V2.4z" fill="#222222"', five["halves"])
        self.assertIn('d="M6 6L6 -2.64A8.64 8.64 0 0 1', five["sectors"])
        dark = {colour: Swatch((colour,), False).is_dark for colour in ("#22345c", "#ffffff", "#b3262b", "#e3b505")}
        self.assertEqual(dark, {"#22345c": True, "#ffffff": False, "#b3262b": True, "#e3b505": False})
