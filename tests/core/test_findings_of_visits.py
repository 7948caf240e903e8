"""What visits tell: each kind speaks where it must, and is silent where it must be; and what a finding weighs."""

import re
from pathlib import Path
from unittest import TestCase

from pyroaring import BitMap

from binsort.core.facets.facet_file import check_document
from binsort.core.insight.findings import FINDERS, VISITED_FINDERS, WHOLE_FINDERS, About, Found, Visited, Visits
from binsort.core.insight.findings.whole import FACET, LISTING, PRODUCTS, RACK

from .test_findings_of_whole import facet, read, rope, set_up, whole_of

ROPES = [rope(number, Colour=("Navy", "Red", "White")[number % 3], Use=("Sail", "Race")[number % 2]) for number in range(60)]
# Navy ropes are the thick ones: no navy rope of 6, and no white one of 10.
for number, one in enumerate(ROPES):
    one["additionalProperty"][1]["value"] = {0: (8, 10), 1: (6, 8), 2: (6, 8)}[number % 3][number % 2]
SIDE = [facet("Fibre"), facet("Stretch"), facet("Use"), facet("Diameter"), facet("Colour", empty="keep")]
CAME = {"": 200}


class KindsTests(TestCase):
    def test_they_are_written_down(self):
        """docs/checkup.md has every kind, and no other; no two have one name."""
        kinds = [finder.id for finder in (*FINDERS, *WHOLE_FINDERS, *VISITED_FINDERS)]
        lines = (Path(__file__).parents[2] / "docs" / "checkup.md").read_text(encoding="utf-8").splitlines()
        written = [kind for line in lines if line.startswith("| `") for kind in re.findall(r"`([a-z-]+)`", line.split("|")[1])]
        self.assertEqual(sorted(written), sorted(kinds))
        self.assertEqual(len(set(kinds)), len(kinds))


class VisitedTests(TestCase):
    def found(self, finding, visits, document=None, *, same=None, finds=()):
        """Return what one kind tells."""
        document = document or set_up(*SIDE)
        self.assertFalse(check_document(document))
        known = same if same is not None else {"side": document["racks"][0]["facets"]}
        whole = whole_of(read(ROPES), document)
        searched = lambda text: BitMap([1]) if text in finds else BitMap()  # noqa: E731
        [finder] = [one for one in VISITED_FINDERS if one.id == finding]
        return list(finder.look(Visited(whole, visits, known, searched, lambda facet, one: one.label)))

    def mended(self, found, document=None):
        """Return the set-up after the first mend; it is a valid one."""
        changed = found.found.mends[0].change(document or set_up(*SIDE))
        self.assertFalse(check_document(changed))
        return changed

    def test_dead_end(self):
        """The two picks that leave nothing together, whatever else was picked; not fewer than five visits, not what leaves something."""
        met = {"colour=navy&diameter=6": 4, "colour=navy&diameter=6&use=sail": 3, "colour=red&diameter=6": 9, "colour=white&diameter=10": 4}
        [one] = self.found("dead-end", Visits(count=200, listings=CAME, dead_ends=met))
        self.assertEqual((one.found.text, one.found.met, one.about.key), ("6 with Navy leads nowhere", 7, "colour"))
        self.assertEqual(one.found.more, "7 visits met it. Without one of the picks up to 20 come back.")
        self.assertEqual(self.mended(one)["facets"][-1]["empty"], "emptied")
        self.assertEqual(one.found.mends[-1].target, "shop?colour=navy&diameter=6")
        self.assertEqual(self.found("dead-end", Visits(count=200, listings=CAME, dead_ends=met), same={"side": ["colour"]}), [])

    def test_in_vain(self):
        """What finds nothing still, with the bin that is called like it; not what is found by now, nor fewer than five searches."""
        visits = Visits(count=200, in_vain={"na-vy": 6, "bungee": 9, "rope": 12, "kedge": 4})
        told = self.found("in-vain", visits, finds=("rope",))
        self.assertEqual([one.found.text for one in told], ["“bungee” is searched for in vain", "“na-vy” is searched for in vain"])
        self.assertEqual([mend.words for mend in told[1].found.mends], ["Find Navy", "Choose a bin"])
        self.assertEqual(self.mended(told[1])["facets"][-1]["look"], {"found_by": {"Navy": ["na-vy"]}})

    def test_hardly_used(self):
        """A facet standing open that 3 of 100 visits that came there do not use; not one that starts shut or that the draft changed."""
        used = {"fibre": 90, "stretch": 2, "use": 80, "diameter": 80, "colour": 80}
        [one] = self.found("hardly-used", Visits(count=200, listings=CAME, used=used))
        self.assertEqual((one.found.text, one.found.more), (
            "Hardly anyone picks in Stretch", "Hardly any of 100 visits, on shelf 2, standing open."))  # fmt: skip
        self.assertIs(self.mended(one)["facets"][1]["look"]["open"], False)
        self.assertEqual(self.found("hardly-used", Visits(count=200, listings=CAME, used=used), self.mended(one)), [])
        changed = {"side": ["fibre", "use", "diameter", "colour"]}
        self.assertEqual(self.found("hardly-used", Visits(count=200, listings=CAME, used=used), same=changed), [])
        self.assertEqual(self.found("hardly-used", Visits(count=200, listings={"": 60}, used=used)), [])  # too few came there

    def test_hardly_opened(self):
        """A facet that starts shut and stays so; not one that is opened, or picked in."""
        shut = set_up(*SIDE[:4], facet("Colour", look={"open": False}))
        visits = {"count": 200, "listings": CAME}
        [one] = self.found("hardly-opened", Visits(**visits, unfolded={"colour": 3}), shut)
        self.assertEqual(one.found.text, "Hardly anyone opens Colour")
        self.assertIs(self.mended(one, shut)["facets"][-1]["look"]["open"], True)
        for more in ({"unfolded": {"colour": 20}}, {"used": {"colour": 20}}):
            self.assertEqual(self.found("hardly-opened", Visits(**visits, **more), shut), [])

    def test_used_most(self):
        """The one that most use, on the fourth shelf or further down, with the clicks that it saves at the top; not one on the third."""
        visits = {"count": 200, "listings": CAME}
        [one] = self.found("used-most", Visits(**visits, used={"colour": 90, "fibre": 30}))
        self.assertEqual(one.found.text, "Colour stands on shelf 5, and is used most")
        self.assertTrue(one.found.more.startswith("45 of 100 visits use it"), one.found.more)
        self.assertEqual(self.mended(one)["racks"][0]["facets"], ["colour", "fibre", "stretch", "use", "diameter"])
        self.assertEqual(self.found("used-most", Visits(**visits, used={"use": 90, "colour": 30})), [])

    def test_never_picked(self):
        """A bin that should have had five picks by now and has none; not where so few picked that chance tells nothing, nor a changed facet."""
        visits = {"count": 200, "listings": CAME}
        picked = {("colour", "navy"): 30, ("colour", "white"): 30}
        [one] = self.found("never-picked", Visits(**visits, used={"colour": 60}, picked=picked))
        self.assertEqual((one.found.text, one.found.touched, one.found.bins), ("Nobody picks Red", 20, ("red",)))
        self.assertEqual(self.mended(one)["facets"][-1]["bins"], {"order": ["Navy", "White"]})
        self.assertEqual(self.found("never-picked", Visits(**visits, used={"colour": 14}, picked=picked)), [])

    def test_what_a_finding_weighs(self):
        """Products, how much it matters, and the share of visits that meet it: of bins, a facet, a listing with those below it, all."""
        found = Found(id="x", subject="", touched=40, matters=0.5, text="")
        visits = Visits(
            count=200,
            used={"colour": 50},
            picked={("colour", "red"): 20, ("colour", "navy"): 10},
            listings={"rope": 30, "rope > thin": 10, "ropes": 7, "": 100},
        )
        bins = Found(id="x", subject="", touched=40, matters=0.5, text="", bins=("red", "navy"))
        table = (
            (found, About(FACET, "colour"), 50),
            (bins, About(FACET, "colour"), 30),
            (found, About(FACET, "other"), 0),
            (found, About(LISTING, "rope"), 40),
            (found, About(PRODUCTS, "rope > thin", products=(1,)), 10),
            (found, About(PRODUCTS, "maker"), 200),
            (found, About(RACK, "side", "side"), 200),
        )
        for one, about, met in table:
            with self.subTest(about):
                self.assertEqual(visits.met(one, about), met)
                self.assertEqual(visits.weight(one, about), 20 * max(met, 5) / 200)
        few = Visits(count=99)
        self.assertEqual((few.met(found, About(RACK)), few.weight(found, About(RACK))), (None, 20))
