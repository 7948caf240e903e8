"""The facet file: every forbidden thing has an id and names the facet, the property and the mend."""

from unittest import TestCase

from binsort.core.facets.facet_file import FacetFileError, check_document, facet_file, read_facet_file, schema
from binsort.core.facets.kinds import kinds
from binsort.core.index.sources import READERS
from binsort.core.values.strict_json import dumps, loads

WORDS = {"kind": "words", "in": ["name"], "groups": [{"label": "A", "texts": ["a"]}]}
BRAND, PRICE, GROUP = {"kind": "brand"}, {"kind": "price"}, {"kind": "category"}


def problems(*facets, **rest):
    """Return ids and properties of what is wrong with a file of these facets."""
    listed = [{"key": "f", "label": "F", "source": BRAND, **facet} for facet in facets]
    try:
        facet_file({"binsort": 1, "facets": listed, **rest})
    except FacetFileError as error:
        return [(problem.id, problem.property) for problem in error.problems]
    return []


def rule(key, **parts):
    """A facet that shows when another is picked."""
    return {"key": key, "show_when": {"all": [parts]}}


class CheckTests(TestCase):
    CASES = [
        ({"colour": 1}, "unknown-property", "colour"),
        ({"label": " "}, "empty-label", "label"),
        ({"label": 5}, "wrong-type", "label"),
        ({"key": "Big"}, "bad-key", "key"),
        ({"key": "size\n"}, "bad-key", "key"),
        ({"key": "sort"}, "reserved-key", "key"),
        ({"match": "some"}, "wrong-value", "match"),
        ({"source": {"kind": "magic"}}, "wrong-value", "source.kind"),
        ({"source": {"kind": "attribute"}}, "source-attribute", "source.attribute"),
        ({"source": {"kind": "brand", "attribute": "x"}}, "source-attribute-extra", "source.attribute"),
        ({"source": {"kind": "brand", "unit": "mm"}}, "source-unit", "source.unit"),
        ({"source": {"kind": "number_from", "from": "tag", "attribute": "x"}}, "source-attribute-extra", "source.attribute"),
        ({"source": {"kind": "number_from", "from": "tag", "prefix": " "}}, "source-prefix", "source.prefix"),
        ({"source": {"kind": "number_from"}}, "source-from", "source.from"),
        ({"source": {"kind": "price", "prefix": "x"}}, "source-extra", "source.prefix"),
        ({"source": {"kind": "price", "groups": []}}, "empty-list", "source.groups"),
        ({"source": {"kind": "brand", "in": ["name"]}}, "source-extra", "source.in"),
        ({"source": {"kind": "words", "in": ["name"]}}, "words-groups", "source.groups"),
        ({"source": {"kind": "words", "groups": [{"label": "A", "texts": ["a"]}]}}, "words-in", "source.in"),
        ({"source": {**WORDS, "in": []}}, "empty-list", "source.in"),
        ({"source": {**WORDS, "in": ["name", "name"]}}, "repeated", "source.in"),
        ({"source": {**WORDS, "groups": [{"label": "A", "texts": []}]}}, "empty-list", "source.groups.0.texts"),
        ({"source": {**WORDS, "groups": [{"label": "A", "texts": [" "]}]}}, "words-empty", "source.groups.0.texts"),
        ({"source": {**WORDS, "groups": [{"label": " ", "texts": ["a"]}]}}, "empty-label", "source.groups.0.label"),
        (
            {"source": {**WORDS, "groups": [{"label": "A b", "texts": ["a"]}, {"label": "a  B", "texts": ["c"]}]}},
            "words-label-twice",
            "source.groups.1.label",
        ),
        ({"source": WORDS, "bins": {"only": []}}, "words-bins", "bins.only"),
        ({"source": WORDS, "cuts": [1]}, "kind-without-ranges", "cuts"),
        ({"source": WORDS, "free": True}, "kind-without-ranges", "free"),
        ({"cuts": [1]}, "kind-without-ranges", "cuts"),
        ({"free": True}, "kind-without-ranges", "free"),
        ({"source": PRICE, "cuts": [1], "at_least": [1]}, "two-ranges", "at_least"),
        ({"source": PRICE, "cuts": [1], "bins": {}}, "ranges-and-bins", "bins"),
        ({"source": PRICE, "free": True, "bins": {"only": []}}, "free-and-bins", "bins"),
        ({"source": PRICE, "ends": "closed"}, "ends-without-cuts", "ends"),
        ({"source": PRICE, "ends": "closed", "cuts": [1]}, "closed-one-cut", "ends"),
        ({"source": PRICE, "cuts": []}, "empty-list", "cuts"),
        ({"source": PRICE, "cuts": [2, 1]}, "cuts-not-rising", "cuts"),
        ({"source": PRICE, "at_most": [1, 1]}, "repeated-bound", "at_most"),
        ({"source": PRICE, "cuts": ["5"]}, "wrong-bound", "cuts"),
        ({"source": {"kind": "published"}, "cuts": ["2024-02-30"]}, "wrong-bound", "cuts"),
        ({"source": PRICE, "ranges": [{}]}, "range-without-ends", "ranges.0"),
        ({"source": PRICE, "ends_at": {"low": 1}}, "ends-at-without-free", "ends_at"),
        ({"source": PRICE, "free": True, "ends_at": {}}, "empty-list", "ends_at"),
        ({"source": PRICE, "free": True, "ends_at": {"low": 2, "high": 1}}, "ends-at-backwards", "ends_at"),
        ({"source": {"kind": "published"}, "free": True, "ends_at": {"low": 5}}, "wrong-bound", "ends_at"),
        ({"order": "tree"}, "order-tree", "order"),
        ({"show_when": {"all": [{"listing": " > "}]}}, "rule-listing", "show_when.all.0"),
        ({"show_when": {"all": [{"listing": "Ropes", "picked": True}]}}, "rule-shape", "show_when.all.0"),
        ({"show_when": {"all": [{"listing": "Ropes", "from": "2024-01-01"}]}}, "rule-shape", "show_when.all.0"),
        ({"show_when": {"all": [{"from": "soon"}]}}, "wrong-bound", "show_when.all.0"),
        ({"show_when": {"any": [{"from": "2024-12-24", "to": "2024-12-01"}]}}, "rule-days-backwards", "show_when.any.0"),
        ({"show_when": {"any": [{}]}}, "rule-shape", "show_when.any.0"),
        ({"source": PRICE, "ranges": [{"from": 5, "to": 5}]}, "range-backwards", "ranges.0"),
        ({"source": PRICE, "ranges": [{"from": 5, "label": ""}]}, "empty-label", "ranges.0.label"),
        ({"bins": {"merge": [{"label": "", "values": []}]}}, "empty-label", "bins.merge.0.label"),
        ({"bins": {"rename": {"a": " "}}}, "empty-label", "bins.rename.a"),
        ({"bins": {"order": [5]}}, "wrong-type", "bins.order.0"),
        ({"source": GROUP, "bins": {"merge": [{"label": "x", "values": []}]}}, "category-merge", "bins.merge"),
        ({"scope": "top"}, "scope-kind", "scope"),
        ({"source": GROUP, "scope": "under"}, "under-missing", "under"),
        ({"source": GROUP, "scope": "under", "under": " > "}, "under-empty", "under"),
        ({"source": GROUP, "deep": True}, "under-without-scope", "deep"),
        ({"show_when": {"all": [{"facet": "f"}]}}, "rule-shape", "show_when.all.0"),
        ({"show_when": {"all": [{"facet": "g", "picked": True}]}}, "rule-unknown-facet", "show_when"),
        ({"show_when": {"all": [{"facet": "f", "picked": True}]}}, "rule-circle", "show_when"),
        ({"show_when": {"all": [], "any": []}}, "too-many", "show_when"),
        ({"show_when": {}}, "empty-list", "show_when"),
        ({"show_when": {"any": [{"facet": "f", "bins": []}]}}, "empty-list", "show_when.any.0.bins"),
    ]

    def test_each_problem_has_its_id_and_place(self):
        """Each of these, alone in a file, is found."""
        for facet, id, name in self.CASES:
            with self.subTest(id=id, name=name):
                self.assertIn((id, name), problems(facet))

    def test_all_problems_at_once(self):
        """Nothing stops at the first problem; texts name the facet and end in the mend."""
        with self.assertRaises(FacetFileError) as caught:
            facet_file(
                loads('{"binsort": 1, "facets": [{"key": "a", "label": "", "source": {"kind": "price"}, "cuts": [2, 1]}, {"key": "b"}]}')
            )
        texts = list(map(str, caught.exception.problems))
        self.assertEqual(len(texts), 4)
        self.assertIn("[empty-label] facet a: label is empty. Give it a name that shoppers can read.", texts)
        self.assertIn("[missing-property] facet b: source is missing. Add it.", texts)

    def test_circles_and_equal_keys(self):
        """A circle is named once, whole."""
        circle = [rule("a", facet="b", picked=True), rule("b", facet="c", picked=True), rule("c", facet="a", picked=False)]
        self.assertEqual(problems(*circle), [("rule-circle", "show_when")])
        self.assertIn(("equal-keys", "key"), problems({}, {}))

    def test_racks(self):
        """Racks have keys of their own and name facets that exist, each once."""
        side = {"key": "side", "label": "Side", "facets": ["f", "g"]}
        self.assertEqual(problems({}, racks=[side]), [("rack-unknown-facet", "facets")])
        self.assertIn(("equal-rack-keys", "key"), problems({}, racks=[{**side, "facets": []}] * 2))
        self.assertIn(("repeated", "facets"), problems({}, racks=[{**side, "facets": ["f", "f"]}]))

    def test_fine_points_that_are_no_problems(self):
        """Open ends, empty lists and free: false are fine; an empty look says nothing."""
        fine = {"ends": "open", "free": False, "bins": {"only": [], "merge": [], "rename": {}}, "look": {}}
        self.assertEqual(problems(fine), [])

    def test_texts_that_are_no_facet_file(self):
        """Broken JSON, surrogates, long numbers and other versions are refused."""
        cases = {
            b"\xff": "file-encoding", b"{": "file-json", b'{"binsort": 2, "facets": []}': "wrong-value", b'{"binsort": 1}': "missing-property",
            b"[]": "wrong-type", b'{"binsort": 1, "facets": [{"key": "a", "label": "\\ud800", "source": {"kind": "brand"}}]}': "text-surrogate",
            b'{"binsort": 1.0, "facets": [{"key": "a", "label": "x", "source": {"kind": "price"}, "cuts": [1e1000]}]}': "number-too-long",
        }  # fmt: skip
        for text, id in cases.items():
            with self.subTest(id), self.assertRaises(FacetFileError) as caught:
                read_facet_file(text)
            self.assertEqual([problem.id for problem in caught.exception.problems], [id])

    def test_written_documents_lose_nothing(self):
        """Numbers come out of the writer as exactly as they went in."""
        document = loads('{"a": [0.1, 1e3, {"b": 12345678901234567890.5}], "c": "\\u00e9", "d": {}, "e": [[]], "f": true, "g": null}')
        self.assertEqual(loads(dumps(document)), document)


class KindTests(TestCase):
    def test_kinds_are_those_of_the_schema(self):
        """Every kind that is declared is in the schema that ships with the project, and the other way round; its proposal is valid."""
        listed = schema()["properties"]["facets"]["items"]["properties"]["source"]["properties"]["kind"]["enum"]
        self.assertEqual(sorted(listed), sorted(kind.name for kind in kinds()))
        self.assertEqual({name for name, reader in READERS.items() if not reader.kind.for_sorting}, set(listed))
        for kind in kinds():
            if kind.proposal:
                document = {"binsort": 1, "facets": [{"key": "x", "source": {"kind": kind.name}, **kind.proposal}]}
                self.assertEqual(check_document(document), [], kind.name)
