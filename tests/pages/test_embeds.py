"""Listings of other sites: exact under whatever they always narrow by, kept in step with the shop, changed by one at a time."""

import re
from datetime import timedelta
from random import Random
from urllib.parse import urlencode

from django.contrib.auth import get_user_model
from django.test import TestCase
from django.utils import timezone

from binsort.catalog.models import Category, Product
from binsort.changes import categories, embeds, live
from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.changes.embeds import ChangedMeanwhile, Wanted
from binsort.changes.locks import Refused
from binsort.demo.loader import load_demo
from binsort.footfall.counting import Counter, counter
from binsort.footfall.kinds import SITE_SHOWN, Kind
from binsort.footfall.models import DaySum
from binsort.footfall.tasks import forget_old_sums
from binsort.racks.models import Embed, Site
from binsort.racks.setup import facet_document, the_setup

from .test_shop_counts import CHOICE

API, CLUB = "/api/shop/v1", "https://gullhythe.example"
COUNTED = re.compile(r'name="([^"]+)"\s+value="([^"]+)".*?<span class="count">([\d,]+)</span>', re.DOTALL)


class EmbedTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop, and a listing that is always narrowed to red articles in stock."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")
        cls.embed = cls.saved(embeds.add_embed("Marram 19", actor=cls.owner), category="safety", picks=(("colour", "red"), ("stock", "in")))

    @classmethod
    def saved(cls, embed, **changed):
        """Save an embed with something changed."""
        category = Category.objects.get(path_identity=changed.pop("category")) if "category" in changed else embed.category
        known = {"label": embed.label, "picks": embed.pairs, "rack": embed.rack, "parts": embed.parts, "look": embed.look, **changed}
        wanted = Wanted(category=category.pk if category else None, **known)
        return embeds.save_embed(embed.name, wanted, version=embed.version, actor=cls.owner)

    def ask(self, query="", name="marram-19", **headers):
        """Ask as the script of the embed does."""
        return self.client.get(f"{API}/embeds/{name}?{query}", headers=headers)


class ShownTests(EmbedTestCase):
    def test_counts_are_those_of_the_shop(self):
        """At random picks the total, the products and every count drawn are those of the shop with all picks made by hand."""
        chance, compared = Random(13), 0
        whole = self.client.get(f"{API}/listing?category=Safety").json()
        choices = [
            (facet["key"], one["key"]) for facet in whole["facets"] for one in facet["choices"] if facet["key"] not in ("colour", "stock")
        ]
        for _ in range(40):
            picks = chance.sample(choices, chance.randint(0, 2))
            with self.subTest(picks=picks):
                shop = self.client.get(
                    f"{API}/listing?{urlencode([('category', 'Safety'), ('colour', 'red'), ('stock', 'in'), *picks])}"
                ).json()
                there = self.ask(urlencode([*picks, ("colour", "navy")])).json()  # what it always narrows by cannot be picked otherwise
                self.assertEqual((there["total"], there["shown"]), (shop["total"], min(24, shop["total"])))
                shown = re.findall(r'id="p-([^"]+)"', there["parts"]["products"])
                self.assertEqual(shown, [card["id"] for card in shop["products"]])
                counts = {(facet["key"], one["key"]): one["count"] for facet in shop["facets"] for one in facet["choices"]}
                for choice in CHOICE.findall(there["parts"]["rack"]):
                    facet, one, count = COUNTED.search(choice).groups()
                    self.assertEqual(int(count.replace(",", "")), counts[facet, one], choice)
                    compared += 1
                self.assertNotIn('name="colour"', there["parts"]["rack"])
                if not there["total"]:
                    self.assertNotIn("Red", there["parts"]["products"])
        self.assertGreater(compared, 150)
        self.assertEqual(
            self.ask().json()["listing"], self.client.get(f"{API}/listing?category=Safety&colour=red&stock=in").json()["total"]
        )

    def test_racks(self):
        """As on Listings, another one, or none; one that is not there is said, and so is a listing that is not."""
        facet_changes.add_facet({"key": "brand", "label": "Brand", "source": {"kind": "brand"}}, rack="side", actor=self.owner)
        rack_changes.make_rack("Other", actor=self.owner)
        live.put_live(actor=self.owner, based_on=the_setup().draft_id)
        self.assertIn('name="brand"', self.ask().json()["parts"]["rack"])
        self.assertEqual(self.ask("_rack=other").json()["parts"]["rack"], "")
        self.assertEqual(self.ask("_rack=-").json()["parts"]["rack"], "")
        for query, name, words in (("_rack=mine", "marram-19", "no rack"), ("", "nothing", "No listing is called")):
            answer = self.ask(query, name)
            self.assertEqual(answer.status_code, 404)
            self.assertIn(words, answer.json()["title"])

    def test_facets_by_themselves(self):
        """A facet that the page names stands alone, and nowhere else; two racks stand apart, a facet of both in the first."""
        rack_changes.make_rack("Other", actor=self.owner)
        shown = re.findall(r'id="facet-([^"]+)"', self.ask().json()["parts"]["rack"])
        rack_changes.put_on_rack(shown[0], "other", actor=self.owner)
        live.put_live(actor=self.owner, based_on=the_setup().draft_id)

        def facets(part):
            return re.findall(r'id="facet-([^"]+)"', part)

        parts = self.ask(f"_facet={shown[1]}&_facet=nothing").json()["parts"]
        self.assertEqual((facets(parts[f"facet:{shown[1]}"]), facets(parts["rack"])), ([shown[1]], [shown[0], *shown[2:]]))
        self.assertNotIn("facet:nothing", parts)
        racks = self.ask("_rack=other&_rack=side").json()["parts"]
        self.assertEqual((facets(racks["rack:other"]), facets(racks["rack:side"])), (shown[:1], shown[1:]))

    def test_searched(self):
        """A search narrows it, stays in its query, and can be taken away; the words of the button come without the parts."""
        word = "torch"
        found = self.ask(f"q={word}").json()
        shop = self.client.get(f"{API}/listing?category=Safety&colour=red&stock=in&q={word}").json()
        self.assertEqual((found["total"], found["query"]), (shop["total"], f"q={word}"))
        self.assertLess(found["total"], self.ask().json()["total"])
        self.assertIn('name="q"', found["parts"]["search"])
        self.assertIn("Take the search away", self.ask("q=zzzzzz").json()["parts"]["products"])
        few = self.ask(f"q={word}&_only=total").json()
        self.assertEqual((few["total"], few["parts"]), (shop["total"], {}))
        self.assertEqual(few["words"], f"Show {shop['total']} product{'' if shop['total'] == 1 else 's'}")

    def test_follows_the_shop(self):
        """It keeps its meaning where a facet gets another key and a category another name; never more products than were meant."""
        total = self.ask().json()["total"]
        colour = facet_document(the_setup().draft.document, "colour")
        facet_changes.change_facet("colour", {**colour, "key": "tint"}, actor=self.owner)
        live.put_live(actor=self.owner, based_on=the_setup().draft_id)
        safety = Category.objects.get(path_identity="safety")
        categories.rename(safety.pk, "Safe afloat", actor=self.owner)
        self.assertEqual(self.ask().json()["total"], total)
        self.saved(self.embed, picks=(("colour", "tangerine"),))
        answer = self.ask()
        self.assertEqual(answer.status_code, 404)
        self.assertIn("tangerine", answer.json()["title"])
        self.client.force_login(self.owner)
        self.assertContains(self.client.get("/listings/sites/of/marram-19/"), "tangerine", status_code=200)

    def test_links(self):
        """A product leads to its own page where the catalogue names one on the web, else to the shop's."""
        first = re.search(r'id="p-([^"]+)"', self.ask().json()["parts"]["products"])[1]
        self.assertIn(f'href="/shop/p/{first}/?', self.ask().json()["parts"]["products"])
        for url, leads in (("https://shop.example/p/1", True), ("javascript:alert(1)", False)):
            Product.objects.filter(identity=first).update(url=url)
            self.assertEqual(f'href="{url}"' in self.ask().json()["parts"]["products"], leads)

    def test_the_script(self):
        """Every site may fetch it, it is asked for again for nothing, and it stays below 20 kB packed."""
        answer = self.client.get("/bins.js", headers={"accept-encoding": "gzip"})
        self.assertEqual((answer["Content-Encoding"], answer["Access-Control-Allow-Origin"]), ("gzip", "*"))
        self.assertLess(len(answer.content), 20_000)
        self.assertEqual(self.client.get("/bins.js", headers={"if-none-match": self.client.get("/bins.js")["ETag"]}).status_code, 304)


class ChangedTests(EmbedTestCase):
    def test_two_people(self):
        """The second of two who save from the same state is told, and nothing of the first one's is lost."""
        self.saved(self.embed, rack="side")
        with self.assertRaisesMessage(ChangedMeanwhile, "meanwhile mara changed it"):
            self.saved(self.embed, look="plain")
        kept = Embed.objects.get(name="marram-19")
        self.assertEqual((kept.rack, kept.look, kept.version), ("side", "theirs", self.embed.version + 1))
        self.client.force_login(self.owner)
        page = self.client.post(
            "/listings/sites/of/marram-19/", {"version": "1", "label": "X", "parts": "rack", "look": "plain"}, follow=True
        )
        self.assertContains(page, "Not done: meanwhile mara changed it")

    def test_what_is_refused(self):
        """An empty name, a rack that is not live, a category that is gone, something that is not offered; names stay apart."""
        for changed in ({"label": " "}, {"rack": "mine"}, {"look": "neon"}, {"picks": tuple(("colour", str(n)) for n in range(21))}):
            with self.subTest(changed=changed), self.assertRaises(Refused):
                self.saved(self.embed, **changed)
        with self.assertRaises(Refused):
            embeds.save_embed(
                "marram-19", Wanted(label="a", category=0, picks=(), rack="", parts="rack", look="plain"), version=2, actor=self.owner
            )
        self.assertEqual(
            [embeds.add_embed("Marram 19!", actor=self.owner).name, embeds.add_embed("船", actor=self.owner).name],
            ["marram-19-2", "listing"],
        )

    def test_lines_and_ending(self):
        """The lines to paste for each arrangement; after a question it is deleted, and other sites get their own link."""
        self.client.force_login(self.owner)
        keys = next(rack["facets"] for rack in the_setup().live.document["racks"] if rack["key"] == "side")
        of_rack = [key for key in keys if key not in ("colour", "stock")]  # what it always narrows by is not offered
        for parts, lines in (("together", 1), ("rack", 2), ("each", 7), ("facets", 1 + len(of_rack))):
            self.embed = self.saved(self.embed, parts=parts)
            page = self.client.get("/listings/sites/of/marram-19/").content.decode()
            self.assertEqual(page.count("&lt;bin-sort listing=&quot;marram-19&quot;"), lines)
            self.assertIn("/shop/c/safety/?colour=red&amp;amp;stock=in", page)
        self.assertContains(self.client.get("/listings/sites/of/marram-19/delete/"), "Delete Marram 19?")
        self.client.post("/listings/sites/of/marram-19/delete/")
        self.assertEqual(self.ask().status_code, 404)
        self.assertContains(self.client.get("/listings/sites/"), "What it is called")


class SeenTests(EmbedTestCase):
    def test_sites_are_counted(self):
        """Those that showed it, those that asked in vain; the owner sees them and lets one in by a button."""
        Site.objects.create(origin=CLUB)
        for _ in range(3):
            self.ask(origin=CLUB)
        self.ask("material=foam", origin=CLUB)
        self.ask(origin="https://quaydeals.example")
        for strange in ("null", "https://evil.example/\0", "http://testserver", "https://a b"):
            self.ask(origin=strange)
        counter.write()
        self.client.force_login(self.owner)
        page = self.client.get("/listings/sites/of/marram-19/")
        self.assertContains(page, "shown 3 times in 30 days")
        self.assertContains(page, "asked once, not let in")
        self.assertEqual(DaySum.objects.filter(kind="site refused").count(), 1)
        done = self.client.post("/listings/sites/", {"site": "https://quaydeals.example", "embed": "marram-19"}, follow=True)
        self.assertContains(done, "may show listings from now on")

    def test_counters_add_up(self):
        """Two processes that count the same thing add to one sum; a kind has only so many things a day, and old days are forgotten."""
        one, other = Counter(), Counter()
        few = Kind("few", 3)
        for number in range(10):
            one.count(SITE_SHOWN, CLUB)
            other.count(SITE_SHOWN, CLUB, times=2)
            one.count(few, str(number))
        for process in (one, other, one):
            process.write()
        self.assertEqual(DaySum.objects.get(kind="site shown").times, 30)
        one.count(few, "0")
        one.count(few, "new")
        one.write()
        self.assertEqual(dict(DaySum.objects.filter(kind="few").values_list("what", "times")), {"0": 2, "1": 1, "2": 1})
        today = timezone.localdate()
        DaySum.objects.create(day=today - timedelta(days=401), kind="few", what="old", times=1, last=timezone.now())
        forget_old_sums(0)
        self.assertFalse(DaySum.objects.filter(what="old").exists())
