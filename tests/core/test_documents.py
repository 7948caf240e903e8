"""Products written as documents come back as they were."""

from datetime import datetime, time
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from binsort.core.products.catalogue_reader import read_catalogue, read_line
from binsort.core.products.catalogue_writer import line_of
from binsort.core.values.dates import instant, moment_text
from tests.examples import examples

from .worlds import CATALOGUES


class DocumentTests(TestCase):
    @examples(80)
    @given(CATALOGUES)
    def test_what_goes_out_comes_back_in(self, lines):
        """Any catalogue, written and read again, is the same, without a report."""
        products = read_catalogue(lines).products
        again = read_catalogue([line_of(product) for product in products])
        self.assertEqual(again.products, products)
        self.assertEqual(again.broken, [])

    def test_awkward_products(self):
        """Moments with fractions and offsets, ends of days, variants without offers beside a product's, line breaks in texts."""
        awkward = [
            '{"sku": 7, "name": "a\\u2028\\"b\\\\", "offers": {"price": 1e2, "inventoryLevel": {"value": "0"}, "priceSpecification": ['
            '{"priceType": "SalePrice", "price": 0.1, "validFrom": "2024-06-15T12:00:00.125+02:00", "validThrough": "9999-12-31"}]}}',
            '{"sku": "x", "name": "n", "offers": {"price": 3}, "hasVariant": [{"offers": {}}, {}, {"sku": "v", "image": "i.svg"}]}',
            '{"sku": "y", "name": "חבל 🚤", "additionalProperty": [{"name": "A", "value": []}, {"name": "B", "value": [true, "yes", 1, "1"]}]}',
            '{"productGroupID": "g", "sku": 12, "name": "n"}',
            '{"sku": "z", "name": "n", "offers": {"priceSpecification": {"priceType": "SalePrice", "price": "dear"}}, "isVisible": false}',
        ]
        for text in awkward:
            product = read_line(text.encode())
            self.assertEqual(read_line(line_of(product)), product, text)
            self.assertNotIn(b"\n", line_of(product))

    @given(
        st.one_of(st.datetimes(), st.sampled_from([datetime.min, datetime.max])), st.sampled_from(["Z", "+23:59", "-23:59"]), st.booleans()
    )
    def test_moments(self, moment, offset, end):
        """Any moment is read again as the same one, those outside the years of UTC included."""
        seconds = instant(moment.isoformat() + offset)
        self.assertEqual(instant(moment_text(seconds, end=end), end=end), seconds)
        if moment.time() == time():
            whole = instant(moment.date().isoformat(), end=end)
            self.assertEqual(instant(moment_text(whole, end=end), end=end), whole)
