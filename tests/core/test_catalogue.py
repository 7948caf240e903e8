"""Reading the catalogue file: what is read, what is skipped, what is reported."""

import json
from datetime import date
from fractions import Fraction
from unittest import TestCase

from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant

NOON = instant("2024-06-15T12:00:00Z")


def product(**parts):
    """Read one product with these properties."""
    found = read_catalogue([json.dumps({"sku": "A", "name": "x", **parts}).encode()])
    return found.products[0]


def offer(**parts):
    """Read one offer."""
    return product(offers=parts).articles[0].offer


def sale(price, start=None, end=None):
    """A sale price as schema.org writes it."""
    window = {"validFrom": start, "validThrough": end}
    return {"priceType": "https://schema.org/SalePrice", "price": price, **{k: v for k, v in window.items() if v is not None}}


class LineTests(TestCase):
    def test_broken_lines_are_named_and_blank_lines_count(self):
        """Each broken line is skipped with its number and reason; all else is read."""
        lines = [
            b'\xef\xbb\xbf{"sku": 7.0, "name": "seven"}\r\n', b"  \n", b'{"sku": "B"}', b'{"name": "no identity"}', b"[1]", b'{"sku": NaN, "name": "x"}',
            b'{"sku": "\xff", "name": "x"}', b'{"sku": "S", "name": "\\ud800"}', b'{"sku": " B ", "name": " Bow\\u00a0 shackle "}', b"[" * 100_000,
        ]  # fmt: skip
        found = read_catalogue(lines)
        self.assertEqual([(p.id, p.name) for p in found.products], [("7", "seven"), ("B", "Bow shackle")])
        self.assertEqual([number for number, _ in found.broken], [3, 4, 5, 6, 7, 8, 10])
        self.assertEqual(dict(found.broken)[3], "no name")
        self.assertEqual(dict(found.broken)[4], "no productGroupID and no sku")

    def test_later_line_takes_the_place_of_the_first(self):
        """The order is the first's, the content the later one's."""
        lines = [b'{"sku": "A", "name": "old"}', b'{"sku": "B", "name": "b"}', b'{"sku": "A", "name": "new"}']
        self.assertEqual([p.name for p in read_catalogue(lines).products], ["new", "b"])

    def test_second_currency_is_reported(self):
        """A price in another currency than the first is reported with its line and product."""
        lines = [json.dumps({"sku": c, "name": "x", "offers": {"price": 1, "priceCurrency": c}}).encode() for c in ("GBP", "EUR")]
        self.assertEqual(read_catalogue(lines).reports, ["line 2: product EUR has a price in EUR, the catalogue is in GBP"])

    def test_numbers_too_long_are_no_value_and_reported(self):
        """1,000 digits are a number, 1,001 are none."""
        lines = [f'{{"sku": "A", "name": "x", "offers": {{"price": {"9" * n}}}}}'.encode() for n in (1000, 1001)]
        found = [read_catalogue([line]) for line in lines]
        self.assertEqual([c.products[0].articles[0].offer.price for c in found], [10**1000 - 1, None])
        self.assertIn("product A: price is a number of more than 1,000 digits", found[1].reports[0])


class LeniencyTests(TestCase):
    def test_texts_lists_and_objects(self):
        """One stands for a list of one; other types are absent."""
        found = product(brand={"name": "Orrin"}, category=["Ropes > > Mooring", 5, " > "], keywords="uv, , new", isVisible="no", url=4)
        self.assertEqual((found.brand, found.categories, found.tags), ("Orrin", (("Ropes", "Mooring"),), ("uv", "new")))
        self.assertEqual((found.visible, found.url), (True, ""))

    def test_values_of_attributes(self):
        """A plain decimal is a number only beside a unit; other items of a list are absent."""
        found = product(additionalProperty=[
            {"name": "D", "value": " 10.50 ", "unitText": "mm"}, {"name": "D", "value": ["10", True, None, {}, " "]}, {"name": "", "value": 1},
        ])  # fmt: skip
        self.assertEqual([p.values for p in found.properties], [(Fraction(21, 2),), ("10", True)])

    def test_dates(self):
        """Year, month and day as written; all else is no date."""
        good = {"2024-02-29": date(2024, 2, 29), "2024-06-30T23:59:59.5-05:00": date(2024, 6, 30), "0001-01-01T00:00": date(1, 1, 1)}
        bad = [
            "2023-02-29",
            "2024-06",
            "2024-06-15T24:00",
            "2024-06-15Z",
            "2024-06-15T12:00:60Z",
            "0000-01-01",
            "15/06/2024",
            "2024-06-15 12:00",
        ]
        for text, expected in good.items():
            self.assertEqual(product(datePublished=text).published, expected, text)
        for text in bad:
            self.assertIsNone(product(datePublished=text).published, text)

    def test_rating_is_shown_half_up_to_one_decimal(self):
        """Half goes up; no reviews, no rating; reviewCount goes before ratingCount."""
        cases = [
            ({"ratingValue": 4.25}, Fraction(43, 10)), ({"ratingValue": "4.24", "reviewCount": 2}, Fraction(21, 5)), ({"ratingValue": 4, "reviewCount": 0}, None),
            ({"ratingValue": 4, "reviewCount": 1, "ratingCount": 0}, 4), ({"ratingValue": 4, "ratingCount": 0}, None), ({}, None),
        ]  # fmt: skip
        for given, expected in cases:
            self.assertEqual(product(aggregateRating=given).rating, expected, given)

    def test_stock(self):
        """The first state that fits."""
        cases = [
            ({"availability": "https://schema.org/MadeToOrder", "inventoryLevel": 0}, "backorder"), ({"availability": "SoldOut", "inventoryLevel": 4}, "out"),
            ({"inventoryLevel": {"value": "-1"}}, "out"), ({"availability": "InStock", "inventoryLevel": 0}, "out"), ({"availability": "Whatever"}, "in"), ({}, "in"),
        ]  # fmt: skip
        for given, expected in cases:
            self.assertEqual(offer(**given).stock, expected, given)

    def test_prices(self):
        """Regular price, price now and reduced, at noon of 15 June 2024 UTC."""
        listed = {"priceType": "x/ListPrice", "price": 12}
        cases = [  # offer, regular, now, reduced
            ({"price": 9}, 9, 9, False),
            ({"price": 9, "priceSpecification": listed}, 12, 9, True),
            ({"priceSpecification": [listed]}, 12, 12, False),
            ({"price": 10, "priceSpecification": [sale(8, end="2024-06-15")]}, 10, 8, True),
            ({"price": 10, "priceSpecification": [sale(8, end="2024-06-14")]}, 10, 10, False),
            ({"price": 10, "priceSpecification": [sale(8, "2024-06-15T12:00:00Z")]}, 10, 8, True),
            ({"price": 10, "priceSpecification": [sale(8, end="2024-06-15T12:00:00Z")]}, 10, 10, False),
            ({"price": 10, "priceSpecification": [sale(8, end="2024-06-15T13:00+01:00")]}, 10, 10, False),
            ({"price": 10, "priceSpecification": [sale(8, "soon"), sale(7, "", "")]}, 10, 7, True),
            ({"price": 9, "priceSpecification": [listed, sale(8, "2025-01-01")]}, 12, 12, False),
            ({"price": 9, "priceSpecification": [listed, sale(None)]}, 12, 12, False),
            ({"price": 9, "priceSpecification": [sale(11)]}, 9, 11, False),
        ]
        for given, regular, now, reduced in cases:
            found = offer(**given)
            self.assertEqual((found.regular, found.price_now(NOON), found.is_reduced(NOON)), (regular, now, reduced), given)

    def test_variants_without_offers_have_the_groups(self):
        """An empty list of variants is none; a variant without an offer has its product's."""
        group = product(offers=[{"price": 5}, {"price": 6}], hasVariant=[{"sku": "v"}, {"offers": {"price": 7}}])
        self.assertEqual([v.offer.price for v in group.articles], [5, 7])
        self.assertEqual(len(product(hasVariant=[]).articles), 1)
