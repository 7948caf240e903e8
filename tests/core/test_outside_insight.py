"""Insight against the outside: mutual information as scikit-learn has it, Fisher's iris, a worked example, and shoppers drawn by chance."""

import json
from random import Random
from statistics import fmean, stdev
from unittest import TestCase

import numpy as np
from sklearn.datasets import load_iris
from sklearn.metrics import mutual_info_score, normalized_mutual_info_score

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Query
from binsort.core.index.catalogue_index import build_index
from binsort.core.insight.clicks import Reach, Walk, in_order
from binsort.core.insight.findings import WHOLE_FINDERS
from binsort.core.insight.likeness import likeness
from binsort.core.insight.what_if import TOP, reach_of
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.strict_json import loads
from binsort.demo.loader import CATALOGUE, FACETS

from .test_clicks import walked
from .test_findings_of_whole import NOW, facet, set_up, whole_of

CUTS = {"Petal length": [2, 5], "Petal width": ["0.8", "1.7"], "Sepal width": [3], "Sepal length": ["5.5", "6.5"]}


def flowers():
    """Fisher's iris (1936), as scikit-learn ships it: 150 flowers of three species, four measures of each."""
    iris = load_iris()
    names = [name.removesuffix(" (cm)").capitalize() for name in iris.feature_names]
    for number, (row, kind) in enumerate(zip(iris.data, iris.target, strict=True)):
        facts = {**dict(zip(names, row.tolist(), strict=True)), "Species": str(iris.target_names[kind])}
        said = [{"name": name, "value": value} for name, value in facts.items()]
        yield {"sku": f"F{number}", "name": f"Flower {number}", "category": "Iris", "additionalProperty": said}


def measure(name):
    """A facet of a measure, cut as above."""
    return {**facet(name), "key": name.lower().replace(" ", "-"), "cuts": [loads(str(cut)) for cut in CUTS[name]]}


class IrisTests(TestCase):
    @classmethod
    def setUpClass(cls):
        """The flowers as a catalogue, with a rack of all that is known of them."""
        super().setUpClass()
        cls.products = read_catalogue([json.dumps(one).encode() for one in flowers()]).products
        cls.document = set_up(facet("Species"), *map(measure, CUTS))
        cls.whole = whole_of(cls.products, cls.document)

    def test_against_scikit_learn(self):
        """What one column tells of another: mutual information over the entropy of the one that is told, for every two of them."""
        state = self.whole.state("side")
        walk = Walk(state)
        shelves = [walk.shelves(one)[0] for one in state.rack.facets]
        codes = [shelf.bins for shelf in shelves]  # every flower is in one bin of each
        for one, first in zip(shelves, codes, strict=True):
            for other, second in zip(shelves, codes, strict=True):
                own = mutual_info_score(second, second)
                self.assertAlmostEqual(likeness(one, other).told, mutual_info_score(first, second) / own, places=12)
        both = likeness(shelves[0], shelves[1])
        mean = normalized_mutual_info_score(codes[0], codes[1], average_method="arithmetic")
        told = both.told, likeness(shelves[1], shelves[0]).told
        self.assertAlmostEqual(2 / (1 / told[0] + 1 / told[1]), mean, places=12)  # the harmonic mean of the two directions

    def test_what_says_the_same(self):
        """Petals tell the species and each other, as every book on the flowers says; the width of sepals tells nothing."""
        [finder] = [one for one in WHOLE_FINDERS if one.id == "says-the-same"]
        told = {(one.about.key, one.found.subject) for one in finder.look(self.whole)}
        self.assertLessEqual({("petal-length", "species"), ("petal-width", "species"), ("petal-width", "petal length")}, told)
        self.assertFalse([pair for pair in told if "sepal-width" in pair or "sepal width" in pair])


class ClicksTests(TestCase):
    def test_the_worked_example(self):
        """As it is written down in docs/semantics.md, section 8."""
        kinds = [("Red", 1, 12), ("Red", 9, 12), ("Blue", 1, 12), ("Blue", 9, 12), (None, 1, 12)]
        lines = []
        for colour, thickness, count in kinds:
            for _ in range(count):
                said = [{"name": "Thickness", "value": thickness}, *([{"name": "Colour", "value": colour}] if colour else [])]
                lines.append(json.dumps({"sku": f"R{len(lines)}", "name": "Rope", "additionalProperty": said}).encode())
        specs = facet_file(set_up(facet("Colour"), facet("Thickness", cuts=[5]))).facets
        state = State(RackIndex(build_index(read_catalogue(lines).products, NOW), specs), Query())
        reach: Reach = reach_of(state, TOP)
        self.assertEqual(reach.clicks.tolist(), [2] * 48 + [3] * 12)
        self.assertEqual((reach.average, in_order(Walk(state), []).average), (2.2, 4.0))
        self.assertEqual(np.flatnonzero(reach.left > reach.few).tolist(), list(range(48, 60)))

    def test_shoppers_drawn_by_chance(self):
        """On the demo: the average over all products lies within three standard errors of that of shoppers who each seek one by chance."""
        with CATALOGUE.open("rb") as lines:
            products = read_catalogue(lines).products
        document = loads(FACETS.read_text())
        keys = document["racks"][0]["facets"]
        specs = {spec.key: spec for spec in facet_file(document).facets}
        state = State(RackIndex(build_index(products, NOW), [specs[key] for key in keys]), Query())
        chance, drawn = Random(1936), []
        for product in chance.choices(list(state.products), k=250):
            sizes = walked(state, product, 12, best=False)
            drawn.append(len(sizes) - 1 + max(0, -(-(sizes[-1] - 12) // 12)))
        error = stdev(drawn) / len(drawn) ** 0.5
        self.assertLess(abs(fmean(drawn) - reach_of(state, TOP).average), 3 * error)
        self.assertLess(error, 0.2)
