"""An open data set comes in from its CSV as it is published, and the counts are those that pandas finds in it.

Airports of the United States: the first thousand rows of the list of the Bureau of Transportation Statistics (a work of the
United States government, in the public domain), as the package vega_datasets 0.9 distributes it.
"""

from fractions import Fraction
from pathlib import Path

import pandas
from django.test import TestCase

from binsort.catalog.files import uploads
from binsort.catalog.models import Upload
from binsort.changes.imports import take
from binsort.core.facets.query import Query
from binsort.core.facets.spec import facet_spec
from binsort.tally.current import current

from .test_revising import state

AIRPORTS = Path(__file__).parents[1] / "data" / "airports.csv"
STATE = {"key": "state", "label": "State", "source": {"kind": "attribute", "attribute": "State"}, "empty": "keep"}
NORTH = {"key": "north", "label": "North", "source": {"kind": "attribute", "attribute": "Latitude"}, "cuts": [30, 40, 50]}


class OpenDataTests(TestCase):
    def test_airports(self):
        """The one column that nothing tells of is named by hand; then every row is a product, exact to the last digit."""
        upload = uploads.keep([AIRPORTS.read_bytes()], "airports.csv")
        uploads.try_out(upload)
        self.assertIn("No column says which product a row is", upload.problem)
        self.assertEqual([column["kind"] for column in upload.columns], ["attribute", "name", *["attribute"] * 5])
        uploads.choose(upload, {0: {"meaning": "identity"}})
        uploads.try_out(upload)
        rows = pandas.read_csv(AIRPORTS, dtype=str, keep_default_na=False)
        self.assertEqual((upload.report["new"], upload.report["refused"]), (len(rows), 0))
        take(Upload.objects.get(pk=upload.pk))
        found = state()
        for _, row in rows.iterrows():
            product = found[row["iata"]]
            said = {prop.name: prop.values[0] for prop in product.properties}
            self.assertEqual(
                (product.name, said["state"], said["latitude"]), (" ".join(row["name"].split()), row["state"], Fraction(row["latitude"]))
            )
        rack = current().rack(tuple(map(facet_spec, (STATE, NORTH))))
        states, north = rack.answer(Query()).facets
        self.assertEqual({made.label: made.count for made in states.bins}, rows["state"].value_counts().to_dict())
        wanted = pandas.cut(rows["latitude"].astype(float), [-90, 30, 40, 50, 90], right=False).value_counts(sort=False)
        self.assertEqual([made.count for made in north.bins], wanted.tolist())
