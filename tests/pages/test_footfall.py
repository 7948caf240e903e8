"""Footfall: what shoppers do is counted as sums, never who; told to the owner; small numbers are not; switched off in one click."""

from datetime import timedelta
from random import Random
from unittest import mock

from django.contrib.auth import get_user_model
from django.db import OperationalError
from django.db.models import Sum
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from binsort.changes.footfall import count_visits
from binsort.demo.crowd import visit
from binsort.demo.loader import load_demo
from binsort.footfall import counting
from binsort.footfall.counting import Counter, counter, forget_old
from binsort.footfall.kinds import LOOKED, PICK, USED, VISIT, Kind
from binsort.footfall.models import DaySum
from binsort.footfall.reading import sums
from tests.connections import elsewhere

HOST = "http://testserver"


class FootfallTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """The demo shop."""
        load_demo()
        cls.owner = get_user_model().objects.get(username="mara")

    def setUp(self):
        """Nothing counted yet."""
        counter.write()
        DaySum.objects.all().delete()

    def look(self, address, before="", **headers):
        """Look at a page of the shop, coming from another."""
        referer = {"referer": before if before.startswith("http") else HOST + before} if before else {}
        return self.client.get(address, headers={**referer, **headers}, follow=True)

    def told(self):
        """Return the sums of today."""
        counter.write()
        return {kind: dict(found) for kind, found in sums(1).items()}


class CountedTests(FootfallTestCase):
    def test_a_visit(self):
        """From elsewhere she comes; then each new pick, the first facet, pairs, the few that are left, a product, a dead end, a vain search."""
        rope = "/shop/c/rope-and-cordage/"
        self.look(rope, "https://search.example/?q=rope")
        self.look(f"{rope}?colour=navy", rope)
        self.look(f"{rope}?colour=navy&diameter=5-to-8", f"{rope}?colour=navy")
        self.look(f"{rope}?colour=navy&diameter=5-to-8&stock=out&rating=lt-3", f"{rope}?colour=navy&diameter=5-to-8")
        self.look(f"{rope}?colour=navy", f"{rope}?colour=navy&diameter=5-to-8")  # a pick taken away is none
        self.look("/shop/p/SC-1004/?colour=navy", f"{rope}?colour=navy")
        self.look("/shop/?q=Bungee+rope+zzz", rope)
        told = self.told()
        self.assertEqual(told["visit"], {"": 1})
        self.assertEqual(told["used"], {"colour": 1, "diameter": 1, "rating": 1, "stock": 1})
        self.assertEqual(told["first"], {"colour": 1})
        self.assertEqual(told["pick"], {"colour=navy": 1, "diameter=5-to-8": 1, "stock=out": 1, "rating=lt-3": 1})
        self.assertEqual(told["together"]["colour diameter"], 1)
        self.assertEqual(told["dead end"], {"category=rope+and+cordage&colour=navy&diameter=5-to-8&rating=lt-3&stock=out": 1})
        self.assertEqual(told["looked at"], {"rope and cordage": 1, "": 1})
        self.assertEqual((told["opened"], told["reached"]), ({"": 1}, {"SC-1004": 1}))
        self.assertEqual(told["in vain"], {"bungee rope zzz": 1})

    def test_what_is_opened(self):
        """A facet that stood shut, told by the shop's own page and by no other; only facets that shoppers have."""
        for address, site, facet in (
            ("/shop/", "same-origin", "colour"), ("https://elsewhere.example/shop/", "cross-site", "colour"),
            ("/shop/", "same-origin", "nothing"), ("/shop/", "cross-site", "colour"), ("", "same-origin", "colour"),
        ):  # fmt: skip
            referer = {"referer": address if "//" in address else HOST + address} if address else {}
            self.client.post("/shop/unfolded/", {"facet": facet}, headers={**referer, "sec-fetch-site": site})
        self.assertEqual(self.told(), {"unfolded": {"colour": 1}})

    def test_with_scripts(self):
        """A pick that is sent by script says where it comes from in another header."""
        headers = {"hx-request": "true", "hx-target": "narrow", "hx-current-url": f"{HOST}/shop/"}
        self.look("/shop/?colour=navy", **headers)
        self.assertEqual(self.told()["first"], {"colour": 1})

    def test_who_is_not_counted(self):
        """Do Not Track, Global Privacy Control, robots, a shop that is switched off, and what cannot be read as an address."""
        quiet = ({"dnt": "1"}, {"dnt": "1xyz"}, {"sec-gpc": "1"}, {"sec-purpose": "prefetch;prerender"}, {"user-agent": "Examplebot/2.1"})
        for headers in quiet:
            self.look("/shop/?colour=navy", **headers)
            self.look("/shop/p/SC-1004/", **headers)
            self.client.post("/shop/unfolded/", {"facet": "colour"}, headers={"referer": f"{HOST}/shop/", **headers})
        self.assertEqual(self.told(), {})
        for headers in ({"dnt": "0"}, {"sec-gpc": "0"}, {"sec-gpc": "true"}):  # the first says that it may be; the others say nothing
            self.look("/shop/", **headers)
        self.assertEqual(self.told()["visit"], {"": 3})
        self.assertEqual(self.client.get("/.well-known/gpc.json").json()["gpc"], True)
        DaySum.objects.all().delete()
        count_visits(on=False, actor=self.owner)
        self.look("/shop/?colour=navy")
        self.assertEqual(self.told(), {})
        count_visits(on=True, actor=self.owner)
        self.look("/shop/", "http://[broken")
        self.assertEqual(self.told()["visit"], {"": 1})

    def test_nothing_of_anybody(self):
        """No cookie is set, and no row says more than a day, a thing and how often."""
        response = self.look("/shop/?colour=navy", **{"user-agent": "Somebody's browser", "x-forwarded-for": "192.0.2.7"})
        self.assertLessEqual(set(response.cookies), {"binsort_csrf"})  # which guards forms, and was there before
        self.told()
        text = repr(list(DaySum.objects.values_list("kind", "what", "times")))
        for secret in ("Somebody", "192.0.2.7", "127.0.0.1"):
            self.assertNotIn(secret, text)

    def test_a_database_that_is_away(self):
        """What was counted meanwhile is written when it is back; a request is never kept waiting."""
        one = Counter()
        one.count(VISIT, "")
        with mock.patch.object(counting, "_add", side_effect=OperationalError):
            one.write()
        one.count(VISIT, "")
        one.write()
        self.assertEqual(DaySum.objects.get(kind="visit").times, 2)


class ToldTests(FootfallTestCase):
    def test_what_the_owner_sees(self):
        """Shares of visits below each bin, what leads nowhere, what was searched in vain; nothing of fewer than five visits."""
        self.client.force_login(self.owner)
        self.assertContains(self.client.get("/racks/of/side/footfall/"), "Nobody came yet")
        chance = Random(14)
        for _ in range(150):
            visit(chance, lambda address, before: self.look(address, before))
        for _ in range(5):
            self.look("/shop/?colour=navy&stock=out&rating=lt-3&price=lt-10&diameter=lt-5", "/shop/")
        counter.write()
        page = self.client.get("/racks/of/side/footfall/?days=7")
        self.assertContains(page, "visits")
        self.assertContains(page, "leads nowhere")
        self.assertContains(page, "bungee")
        self.assertContains(page, "Of 100 visits")
        told = sums(7)
        rare = [what for what, number in told["in vain"].items() if number < 5]
        for what in rare:
            self.assertNotContains(page, f">{what}<")
        self.assertContains(self.client.get("/racks/of/side/footfall/?category=Rope+and+cordage&days=90"), "of visits")
        off = self.client.post("/racks/footfall/switch/", {"on": "0", "next": "/racks/of/side/footfall/"}, follow=True)
        self.assertContains(off, "Visits are counted no more")
        self.assertContains(off, "Switch on")


class TogetherTests(TransactionTestCase):
    def test_two_processes_add_up(self):
        """Each counts in its own memory and writes when it likes, in whatever order things happened: nothing is lost, doubled or waits for ever."""
        kinds = (LOOKED, PICK, USED)

        def work(seed):
            one, chance, done = Counter(), Random(seed), 0
            for _ in range(25):
                for _ in range(40):
                    one.count(chance.choice(kinds), f"thing {chance.randrange(6)}")
                    done += 1
                one.write()
            return done

        started = [elsewhere(lambda seed=seed: work(seed)) for seed in (1, 2, 3)]
        counted = sum(one.result(60) for one in started)
        self.assertEqual(counted, 3 * 25 * 40)
        self.assertEqual(DaySum.objects.aggregate(all=Sum("times"))["all"], counted)
        self.assertLessEqual(DaySum.objects.count(), 18)

    def test_bounds(self):
        """A day has so many different things of a kind and no more; sums are kept for 400 days."""
        one = Counter()
        for number in range(6):
            one.count(Kind("narrow", 4), f"thing {number}")
        one.write()
        for number in range(6):
            one.count(Kind("narrow", 4), f"thing {number}")
        one.write()
        self.assertEqual(sorted(DaySum.objects.values_list("times", flat=True)), [2, 2, 2, 2])
        for days in (399, 400, 401):
            old = timezone.localdate() - timedelta(days=days)
            DaySum.objects.create(day=old, kind="visit", what="", times=1, last=timezone.now())
        forget_old()
        self.assertEqual(DaySum.objects.filter(kind="visit").count(), 2)
