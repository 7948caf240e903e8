"""The formats that catalogues come in, against what their standards say; money against ISO 4217; labels with accents."""

import json
import unicodedata
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from pathlib import Path
from random import Random
from unittest import TestCase

from babel import Locale
from babel.numbers import get_currency_precision, list_currencies
from jsonschema import Draft202012Validator

from binsort.core.answers.answer import RackIndex
from binsort.core.facets.facet_file import facet_file, schema
from binsort.core.facets.query import Query
from binsort.core.index.catalogue_index import build_index
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.numbers import half_up, written
from binsort.core.values.strict_json import BadJson, loads
from binsort.core.values.text import natural_key

# RFC 8259, section 13, all five examples.
RFC_8259_EXAMPLES = [
    """{"Image": {"Width":  800, "Height": 600, "Title":  "View from 15th Floor",
        "Thumbnail": {"Url": "http://www.example.com/image/481989943", "Height": 125, "Width":  100},
        "Animated" : false, "IDs": [116, 943, 234, 38793]}}""",
    """[{"precision": "zip", "Latitude":  37.7668, "Longitude": -122.3959, "Address": "", "City": "SAN FRANCISCO", "State": "CA",
         "Zip": "94107", "Country": "US"},
        {"precision": "zip", "Latitude":  37.371991, "Longitude": -122.026020, "Address": "", "City": "SUNNYVALE", "State": "CA",
         "Zip": "94085", "Country": "US"}]""",
    '"Hello world!"',
    "42",
    "true",
]
# RFC 8259, sections 2 to 7: what the grammar allows, and what it does not.
GRAMMAR = [
    "-0",
    "1e5",
    "1E+5",
    "0.5e-3",
    "[]",
    "{}",
    ' \t\n\r"x"\r\n\t ',
    '"\\"\\\\\\/\\b\\f\\n\\r\\t\\u00e9"',
    '"\\ud834\\udd1e"',
    '"\u2028"',
]
NOT_GRAMMAR = [
    "",
    "01",
    "+1",
    ".5",
    "1.",
    "1e",
    "0x1",
    "NaN",
    "Infinity",
    "'x'",
    "[1,]",
    '{"a":1,}',
    "{a:1}",
    '"\t"',
    '"\\x41"',
    "[1 2]",
    "tru",
    "\ufeff1",
]

# The Product example on the page of the type Product at schema.org, name and description shortened, from memory; it has no
# identity of its own there, so one is given.
SCHEMA_ORG_PRODUCT = """{"@context": "https://schema.org", "@type": "Product",
  "aggregateRating": {"@type": "AggregateRating", "ratingValue": "3.5", "reviewCount": "11"},
  "description": "0.7 cubic feet countertop microwave.", "name": "White 17\\" Microwave", "image": "microwave-17in.jpg",
  "offers": {"@type": "Offer", "availability": "https://schema.org/InStock", "price": "55.00", "priceCurrency": "USD"},
  "review": [{"@type": "Review", "author": "Ellie", "datePublished": "2011-04-01", "reviewBody": "The lamp burned out.", "name": "Not a happy camper",
    "reviewRating": {"@type": "Rating", "bestRating": "5", "ratingValue": "1", "worstRating": "1"}}], "sku": "M-17"}"""
# A ProductGroup in the manner of the example on that type's page: variants that differ by size and colour.
SCHEMA_ORG_GROUP = """{"@context": "https://schema.org/", "@type": "ProductGroup", "name": "Wool winter coat", "productGroupID": "44E01",
  "brand": {"@type": "Brand", "name": "Good brand"}, "variesBy": ["https://schema.org/size", "https://schema.org/color"],
  "hasVariant": [
    {"@type": "Product", "sku": "44E01-M11000", "additionalProperty": {"@type": "PropertyValue", "name": "Colour", "value": "Green"},
     "offers": {"@type": "Offer", "priceCurrency": "USD", "price": 39.99, "availability": "https://schema.org/InStock"}},
    {"@type": "Product", "sku": "44E01-K11000", "additionalProperty": {"@type": "PropertyValue", "name": "Colour", "value": "Red"},
     "offers": {"@type": "Offer", "priceCurrency": "USD", "price": 49.95, "availability": "https://schema.org/BackOrder"}}]}"""


class JsonTests(TestCase):
    def test_the_standard_and_nothing_more(self):
        """RFC 8259: its examples and what its grammar allows are read as Python's reader has them; all else is refused."""
        for text in RFC_8259_EXAMPLES + GRAMMAR:
            self.assertEqual(loads(text), json.loads(text, parse_float=Fraction), text)
        for text in NOT_GRAMMAR:
            with self.assertRaises(BadJson, msg=repr(text)):
                loads(text)

    def test_numbers_keep_every_digit(self):
        """Section 6 warns that readers round; this one does not."""
        self.assertEqual(loads("3.141592653589793238462643383279"), Fraction("3.141592653589793238462643383279"))
        self.assertEqual(loads("1E400"), 10**400)

    def test_json_lines(self):
        """jsonlines.org: UTF-8, one value a line, lines end in LF, the last one may; CR LF is fine, blank lines are passed over."""
        lines = [
            b'\xef\xbb\xbf{"sku": 1, "name": "caf\xc3\xa9"}\r\n',
            b"\r\n",
            b'{"sku": "2", "name": "x"}',
            b'{"sku": "3"} {"sku": "4"}\n',
        ]
        found = read_catalogue(lines)
        self.assertEqual([(product.id, product.name) for product in found.products], [("1", "café"), ("2", "x")])
        self.assertEqual([line for line, _ in found.broken], [4])


class SchemaOrgTests(TestCase):
    def test_published_examples(self):
        """The examples of schema.org are read and counted as they say."""
        products = read_catalogue([line.replace("\n", " ").encode() for line in (SCHEMA_ORG_PRODUCT, SCHEMA_ORG_GROUP)]).products
        microwave, coat = products
        self.assertEqual(
            (microwave.rating, microwave.review_count, microwave.offer.price, microwave.offer.stock), (Fraction(7, 2), 11, 55, "in")
        )
        self.assertEqual(
            (coat.id, coat.brand, [article.sku for article in coat.variants]), ("44E01", "Good brand", ["44E01-M11000", "44E01-K11000"])
        )
        kinds = [{"kind": "attribute", "attribute": "colour"}, {"kind": "stock"}, {"kind": "price"}]
        facets = [{"key": f"f{n}", "label": "F", "source": source} for n, source in enumerate(kinds)]
        answer = RackIndex(build_index(products, 0), facet_file({"binsort": 1, "facets": facets}).facets).answer(Query())
        counts = [{made.label: made.count for made in facet.bins} for facet in answer.facets]
        self.assertEqual(counts, [{"Green": 1, "Red": 1}, {"in": 2, "backorder": 1}, {"39.99": 1, "49.95": 1, "55": 1}])


class MoneyTests(TestCase):
    def test_minor_units_of_every_currency(self):
        """ISO 4217 as Babel has it: amounts rounded half up to a currency's minor unit are those of the decimal module."""
        chance = Random(4217)
        precisions = {get_currency_precision(currency) for currency in list_currencies()}
        self.assertEqual(precisions, {0, 2, 3, 4})
        for currency in sorted(list_currencies()):
            places = get_currency_precision(currency)
            for _ in range(20):
                text = f"{chance.randrange(10**6)}.{chance.choice([5, 49, 51, 499, 45, 125, 375, chance.randrange(10**6)])}"
                expected = Decimal(text).quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)
                self.assertEqual(Decimal(written(half_up(Fraction(text), places))), expected, f"{currency} {text}")


class LabelTests(TestCase):
    def test_country_names_sort_as_without_their_accents(self):
        """The names of all territories in nine languages, as CLDR has them: accents do not move a label away from its letters."""
        for language in ("fr", "es", "pt", "sv", "cs", "de", "it", "hu", "tr"):
            names = [name for name in Locale(language).territories.values() if _letters(name).isascii()]
            self.assertGreater(len(names), 200)
            ordered = sorted(names, key=natural_key)
            plain = [_letters(name.lower()) for name in ordered]
            self.assertEqual([text for text in plain if text.isalpha()], sorted(text for text in plain if text.isalpha()), language)
            self.assertNotEqual(ordered, sorted(names), language)


def _letters(text):
    return "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))


# JSON-Schema-Test-Suite, draft 2020-12 (Julian Berman and others, MIT), as shipped with jsonschema 4.26.0: every case of the keywords that
# the schema of a facet file uses; of $ref those that stay within one schema.
SCHEMA_CASES = Path(__file__).parent.parent / "data" / "json_schema_2020_12.json"


class JsonSchemaTests(TestCase):
    def test_the_official_cases(self):
        """Numbers as they are read here, exact, are valid and invalid as the standard has it; every keyword in use has cases."""
        groups = loads(SCHEMA_CASES.read_text(encoding="utf-8"), surrogates=True)
        count = 0
        for keyword, found in groups.items():
            for group in found:
                validator = Draft202012Validator(group["schema"])
                for case in group["tests"]:
                    with self.subTest(f"{keyword}: {group['description']}: {case['description']}"):
                        self.assertEqual(validator.is_valid(case["data"]), case["valid"])
                        count += 1
        self.assertGreater(count, 300)
        self.assertLessEqual(_keywords(schema()) - {"$schema", "title", "description", "$defs", "then", "else"}, set(groups))


def _keywords(part):
    """Return every keyword that a schema uses."""
    if isinstance(part, list):
        return set().union(*map(_keywords, part))
    if not isinstance(part, dict):
        return set()
    below = [value for name, named in part.items() if name in ("properties", "$defs") for value in named.values()]
    below += [value for name, value in part.items() if name not in ("properties", "$defs", "enum", "const", "required")]
    return set(part) | set().union(*map(_keywords, below), set())
