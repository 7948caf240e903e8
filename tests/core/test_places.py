"""Places, rules and behaviour as documents: the nearest rule wins, a facet shows once, circles are found, what is written is valid."""

from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st

from binsort.core.facets.behaviour import CHOICES, Behaviour, Sort, with_behaviour
from binsort.core.facets.facet_file import check_document, schema
from binsort.core.facets.place_edits import INHERIT, NOTHING, rename_categories, said_of_listing, with_place, without_rack
from binsort.core.facets.places import DRAWER, LISTINGS, PLACES, SIDE, SPOTS, Listing, Places, plan, rules_of
from binsort.core.facets.rule_edits import HOWS, Line, circle_with, lines_of, needs_every, untied, with_lines
from tests.examples import examples

PATHS = [(), ("A",), ("A", "B"), ("A", "B", "C"), ("A", "D"), ("E",), ("E", "F")]
KEYS = ("one", "two", "three")
FACETS = ("f", "g", "h", "i")


def document(facets=FACETS):
    """Return a set-up of three racks that share facets."""
    racks = [{"key": key, "label": key, "facets": [name for name in facets if (place + number) % 3]} for number, (place, key) in
             ((number, (number + 1, key)) for number, key in enumerate(KEYS))]  # fmt: skip
    return {"binsort": 1, "facets": [{"key": name, "label": name, "source": {"kind": "brand"}} for name in facets], "racks": racks}


def said(path):
    """Return how a rule names a category, or all products."""
    return said_of_listing("category", " > ".join(path)) if path else said_of_listing("all")


EDITS = st.lists(
    st.tuples(st.sampled_from(PATHS), st.sampled_from(PLACES), st.sampled_from((*KEYS, NOTHING, INHERIT)), st.booleans()), max_size=12
)


def made(edits):
    """Return the document after some edits, and by place and path what was said last."""
    made_document, last = document(), {(SIDE, ()): ("one", True)}
    for path, where, choice, below in edits:
        made_document = with_place(made_document, said(path), where, choice, below=below)
        last[where, path] = (choice, below)
        if choice == INHERIT:
            del last[where, path]
        if not any(rack.get("place") for rack in made_document["racks"]):
            last[SIDE, ()] = ("one", True)  # where nothing is said the first rack stands at the side
    return made_document, last


def expected(last, path, where):
    """Say what stands there by going up one listing at a time."""
    own = path
    while True:
        choice, below = last.get((where, path), (INHERIT, True))
        if choice != INHERIT and (below or path == own):
            return "" if choice == NOTHING else choice
        if not path:
            return ""
        path = path[:-1]


class PlacesTests(TestCase):
    @examples(150)
    @given(EDITS)
    @example([((), SIDE, INHERIT, True), (("A",), SIDE, "two", True)])
    def test_the_nearest_rule_wins(self, edits):
        """After any edits every place of every listing has what going up from it finds; the file stays valid."""
        changed, last = made(edits)
        places = Places.of(changed)
        for path in PATHS:
            for where in PLACES:
                self.assertEqual(places.at(Listing.of(path), where).rack, expected(last, path, where), (path, where))
        self.assertEqual(check_document(changed), [])

    @examples(100)
    @given(EDITS, st.sampled_from(PATHS), st.dictionaries(st.sampled_from(FACETS), st.sampled_from(SPOTS), max_size=3))
    def test_a_facet_shows_once(self, edits, path, apart):
        """On a wide page and on a phone alike, where its rack stands or apart; every facet of the racks there shows.

        The drawer follows the side unless it has its own rack.
        """
        changed, _last = made(edits)
        for rack in changed["racks"]:
            rack.setdefault("place", {})["apart"] = apart
        listed = {rack["key"]: rack["facets"] for rack in changed["racks"]}
        planned = plan(changed, Listing.of(path))
        for shown in ((SIDE, "above", "below"), (DRAWER, "above", "below")):
            keys = [key for where in shown for key in planned.facets[where]]
            self.assertEqual(len(keys), len(set(keys)))
        wide = {key for where in ("side", "above", "below") for key in listed.get(planned.racks[where].rack, ())}
        self.assertEqual({key for where in ("side", "above", "below") for key in planned.facets[where]}, wide)
        if Places.of(changed).at(Listing.of(path), DRAWER).rule is None:
            self.assertEqual(planned.racks[DRAWER].rack, planned.racks[SIDE].rack)
            self.assertEqual({key for where in (DRAWER, "above", "below") for key in planned.facets[where]}, wide)
        for key in wide & set(apart):
            self.assertIn(key, planned.facets[apart[key]])
        self.assertEqual(check_document(changed), [])
        self.assertEqual(set(dict(planned.owners(changed))), set(planned.keys))

    @examples(60)
    @given(EDITS, st.sampled_from(KEYS))
    def test_a_rack_goes(self, edits, key):
        """What it had the nearest rule that is left has; nowhere does another rack take over by itself."""
        changed, _last = made(edits)
        left = [rule for rule in rules_of(changed) if rule.rack != key]
        without_rack(changed, key)
        for path in PATHS:
            for where in PLACES:
                self.assertEqual(Places.of(changed).at(Listing.of(path), where).rack, Places(left).at(Listing.of(path), where).rack)

    def test_categories_get_other_names(self):
        """Rules follow; where two then speak of one place the first stays."""
        rack = {"place": {"shows": [{"where": "side", "listing": "category", "category": path} for path in ("A", "Z", "Q")]}}
        rename_categories({"racks": [rack]}, lambda path: "A > B" if path == "Z" else "A" if path == "Q" else path)
        self.assertEqual([rule["category"] for rule in rack["place"]["shows"]], ["A", "A > B"])

    def test_what_is_refused(self):
        """Two rules for one place, a category without a name, one named beside another listing: each is told by its own id."""
        broken = document()
        here = {"where": "side", "listing": "category", "category": "Rope"}
        broken["racks"][0]["place"] = {"shows": [here, {"where": "side", "listing": "category"}, {**here, "listing": "all"}]}
        broken["racks"][1]["place"] = {"shows": [{**here, "category": "rope"}]}
        self.assertEqual({problem.id for problem in check_document(broken)}, {"place-taken", "place-unnamed", "place-named"})


LINES = st.lists(st.builds(Line, st.sampled_from(FACETS), st.sampled_from(HOWS), st.just(("x",))), max_size=4)


class RuleTests(TestCase):
    @examples(120)
    @given(st.dictionaries(st.sampled_from(FACETS), LINES, max_size=4), st.booleans())
    def test_circles_are_found(self, rules, every):
        """A set-up has an error exactly where a facet is found in a circle; untying a facet of it breaks it."""
        made_document = document()
        made_document["facets"] = [with_lines(facet, rules.get(facet["key"], ()), every=every) for facet in made_document["facets"]]
        facets = made_document["facets"]
        circles = {facet["key"]: circle_with(facets, facet["key"], lines_of(facet)) for facet in facets}
        self.assertEqual(any(circles.values()), "rule-circle" in {problem.id for problem in check_document(made_document)})
        for key, circle in circles.items():
            if circle:
                last, first = circle[-1], key
                freed = [untied(facet, first) if facet["key"] == last else facet for facet in facets]
                lines = lines_of(next(facet for facet in freed if facet["key"] == key))
                self.assertNotEqual(circle_with(freed, key, lines), circle)

    @examples(60)
    @given(LINES, st.booleans())
    def test_lines_are_kept(self, lines, every):
        """What is written is read; equal lines stay once, a line of no bins is one of any pick."""
        bare = [Line(line.facet, line.how, line.bins if line.how == "bins" else ()) for line in lines]
        facet = with_lines({"key": "k"}, bare, every=every)
        self.assertEqual((lines_of(facet), needs_every(facet)), (tuple(dict.fromkeys(bare)), every and bool(bare)))
        self.assertEqual(lines_of(with_lines(facet, [Line("f", "bins")], every=False)), (Line("f"),))


class BehaviourTests(TestCase):
    @examples(60)
    @given(
        st.fixed_dictionaries({name: st.sampled_from(choices) for name, choices in CHOICES.items()}),
        st.integers(1, 100),
        st.lists(
            st.sampled_from([Sort("price"), Sort("-rating", label="Best"), Sort("attribute", "Length", True)]), min_size=1, max_size=3
        ),
    )
    def test_written_and_read(self, chosen, per, sorts):
        """A rack that behaves somehow is valid and reads as that; the usual way is not written at all."""
        behaviour = Behaviour(**chosen, per=per, sorts=tuple(dict.fromkeys(sorts)))
        changed = document()
        changed["racks"][0] = with_behaviour(changed["racks"][0], behaviour)
        self.assertEqual(check_document(changed), [])
        self.assertEqual(Behaviour.of(changed["racks"][0]), behaviour)
        self.assertNotIn("place", with_behaviour(changed["racks"][0], Behaviour()))

    def test_the_schema_knows_the_same_choices(self):
        """Each setting, its choices and places are those of the schema."""
        place = schema()["properties"]["racks"]["items"]["properties"]["place"]["properties"]
        behaves = place["behaviour"]["properties"]
        self.assertEqual(set(behaves), set(Behaviour.__dataclass_fields__))
        self.assertEqual({name: tuple(behaves[name]["enum"]) for name in CHOICES}, CHOICES)
        rule = place["shows"]["items"]["properties"]
        self.assertEqual((tuple(rule["where"]["enum"]), tuple(rule["listing"]["enum"])), (PLACES, LISTINGS))

    def test_what_is_refused(self):
        """An attribute without a name, one beside another order, too many products a page: named, with the mend."""
        for said_so, id in (
            ({"sorts": [{"by": "attribute"}]}, "missing-property"),
            ({"sorts": [{"by": "price", "attribute": "Length"}]}, "unknown-property"),
            ({"sorts": []}, "empty-list"),
            ({"per": 101}, "out-of-range"),
            ({"clear": "x" * 81}, "wrong-length"),
        ):
            changed = document()
            changed["racks"][0]["place"] = {"behaviour": said_so}
            self.assertEqual({problem.id for problem in check_document(changed)}, {id}, said_so)
