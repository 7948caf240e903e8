"""Shopping: what is typed is understood, former names lead on, pages are stable, search forgives, products open on what was looked for."""

from itertools import pairwise
from urllib.parse import parse_qsl, urlsplit

from django.test import TestCase

from binsort.catalog.models import Product, Variant
from binsort.changes import facets, live
from binsort.core.answers.answer import State
from binsort.demo.loader import load_demo
from binsort.racks.models import FormerKey
from binsort.racks.setup import facet_document, the_setup
from binsort.search.by_text import search
from binsort.tally.current import current

CLICK = {"HX-Request": "true", "HX-Target": "narrow"}
MORE = {"HX-Request": "true", "HX-Target": "more"}


class ShopTestCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    def listing(self, query="", path="/shop/", **headers):
        """Return what a listing shows."""
        return self.client.get(f"{path}{query}", headers=headers, follow=True).context["listing"]

    def facet(self, listing, key):
        """Return a facet as shoppers see it."""
        return next(facet for facet in listing.facets if facet.key == key)


class TypedTests(ShopTestCase):
    def test_ends_of_ranges(self):
        """Money signs, commas and loose points are read; ends the wrong way round are turned; other picks always hold."""
        wanted = self.listing("?price=10..20.5&stock=in")
        for query in (
            "?price.from=%C2%A310&price.to=20%2C50&stock=in",
            "?price.from=10.&price.to=20.50&stock=in",
            "?price.from=20.5&price.to=10&stock=in",
        ):
            with self.subTest(query=query):
                found = self.listing(query)
                self.assertEqual((found.total, found.address), (wanted.total, wanted.address))

    def test_what_cannot_be_read_is_said_beside_the_box(self):
        """The box keeps it, says why, and the other picks hold."""
        page = self.client.get("/shop/?price.from=cheap&price.to=20&stock=in", follow=True)
        listing = page.context["listing"]
        self.assertContains(page, "“cheap” is no number. Write it as 20 or 20.50.")
        self.assertContains(page, 'value="cheap"')
        self.assertContains(page, 'aria-invalid="true"')
        self.assertEqual(listing.total, self.listing("?price=..20&stock=in").total)
        self.assertEqual(self.facet(listing, "price").range.end, "20")

    def test_a_bin_of_a_range_shows_in_the_boxes(self):
        """Sent as they stand it stays the bin; typing takes its place."""
        listing = self.listing("?price=10-to-20")
        self.assertEqual((self.facet(listing, "price").range.start, self.facet(listing, "price").range.end), ("10", "20"))
        self.assertIn(("price", "10-to-20"), listing.kept)
        self.assertEqual(self.listing("?price=10-to-20&price.from=10&price.to=20").address, listing.address)
        self.assertEqual(self.listing("?price=10-to-20&price.from=12&price.to=20").address, self.listing("?price=12..20").address)

    def test_a_single_value_has_no_slider(self):
        """Two boxes are left."""
        only = self.listing("?price=" + "..".join(2 * [str(Variant.objects.exclude(price=None).first().price)]))
        self.assertTrue(only.total)
        alone = Product.objects.first()
        Product.objects.exclude(pk=alone.pk).update(visible=False)
        listing = self.listing()
        bounds = self.facet(listing, "price").range
        self.assertEqual(bounds.slides, bounds.low != bounds.high)

    def test_one_outlier_does_not_spoil_the_slider(self):
        """With one price of a million, half of all products still stand below the middle two thirds of the axis."""
        Variant.objects.filter(pk=Variant.objects.first().pk).update(price=1_000_000, list_price=None, sales=[])
        listing = self.listing()
        bars = self.facet(listing, "price").range.bars
        places = [int(part.split()[0]) for path in bars[:2] for part in path.split("M")[1:]]
        self.assertGreater(sum(place < 30 for place in places), 10)


class FormerNamesTests(ShopTestCase):
    def put_live(self):
        """Put the draft live."""
        live.put_live(actor=None, based_on=the_setup().draft_id)

    def change(self, facet, **parts):
        """Change a facet and put it live."""
        document = facet_document(the_setup().draft.document, facet)
        facets.change_facet(facet, {**document, **parts}, actor=None)
        self.put_live()

    def test_renamed_keys_lead_on(self):
        """Two names later, an old address leads to where its picks are now; taken back, the new name leads to the old one."""
        self.change("colour", key="hue")
        self.change("hue", key="tint")
        page = self.client.get("/shop/?colour=navy&sort=price", follow=True)
        self.assertRedirects(page, "/shop/?tint=navy&sort=price")
        self.assertEqual(self.listing("?colour=navy", **CLICK).total, self.listing("?tint=navy").total)
        self.change("tint", key="colour")
        self.assertRedirects(self.client.get("/shop/?hue=navy", follow=True), "/shop/?colour=navy")
        self.assertEqual(FormerKey.objects.count(), 3)

    def test_values_that_were_merged_lead_to_their_bin(self):
        """The bin that holds the value now is picked."""
        self.change("colour", bins={"merge": [{"label": "Blues", "values": ["Navy", "White/blue fleck"]}]})
        self.assertRedirects(self.client.get("/shop/?colour=navy", follow=True), "/shop/?colour=blues")

    def test_what_is_no_longer_offered_is_said(self):
        """A value, a facet that is not on the listing; strange pairs of others are passed over in silence."""
        page = self.client.get("/shop/?colour=teal&colour=navy&utm_source=gull", follow=True)
        self.assertContains(page, "Teal is no longer offered under Colour.")
        self.assertNotContains(page, "utm_source=gull")
        self.assertEqual(page.context["listing"].total, self.listing("?colour=navy").total)

    def test_an_unknown_category_names_what_may_be_meant(self):
        """It is a 404 with ways on."""
        page = self.client.get("/shop/c/rope-and-cordge/")
        self.assertContains(page, 'href="/shop/c/rope-and-cordage/"', status_code=404)
        self.assertEqual(self.client.get("/shop/c/%00/").status_code, 404)


class PagesTests(ShopTestCase):
    def prices(self, identities, price):
        """Give products another price."""
        Variant.objects.filter(product__identity__in=identities).update(price=price, list_price=None, sales=[])

    def test_none_twice_and_none_left_out_while_prices_change(self):
        """Show more and the next page go on with what was not seen, whatever moved meanwhile."""
        for is_more in (True, False):
            with self.subTest(is_more=is_more):
                listing = self.listing("c/paint-and-varnish/?sort=price")
                seen = [card.id for card in listing.cards]
                everything = {*self.ids("?sort=price")}
                step = 0
                while listing.next:
                    step += 1
                    self.prices(seen[:2], 9_000 + step)  # seen ones become the dearest
                    unseen = sorted(everything - set(seen))
                    self.prices(unseen[-2:], 1)  # and some that were not seen the cheapest
                    if is_more:
                        listing = self.listing(
                            f"{urlsplit(listing.more).query and '?' + urlsplit(listing.more).query}&seen={listing.seen_keys}",
                            "/shop/c/paint-and-varnish/",
                            **MORE,
                        )
                    else:
                        listing = self.listing(listing.next.removeprefix("/shop/"))
                    seen += [card.id for card in listing.cards]
                self.assertEqual(len(seen), len(set(seen)))
                self.assertEqual(set(seen), everything)

    def ids(self, query):
        """Return all products of a department."""
        slots = State(current().rack(()), current().rack(()).read([("category", "Paint and varnish")])).result
        return current().index.ids.many(list(slots))

    def test_the_same_cards_again(self):
        """An address with ``shown`` has so many cards; it is bounded, and a facet of that name goes before it."""
        listing = self.listing("?shown=72&sort=price")
        self.assertEqual((len(listing.cards), listing.address), (72, "/shop/?sort=price&shown=72"))
        self.assertEqual(len(self.listing("?shown=99999999").cards), 480)
        self.assertEqual(len(self.listing("?shown=-1").cards), 24)

    def test_the_shelf_of_pages(self):
        """Seen pages are full, the next one stands open, many are folded; the last is as wide as its products."""
        shelf = self.listing("?page=3").shelf
        self.assertEqual([part.state for part in shelf if not part.folded][:4], ["earlier", "earlier", "seen", "next"])
        self.assertLessEqual(len(shelf), 12)
        self.assertEqual((shelf[-1].last, shelf[0].first), (self.listing().total, 1))
        covered = [(part.first, part.last) for part in shelf]
        self.assertTrue(all(before[1] + 1 == after[0] for before, after in pairwise(covered)))

    def test_clear_all_keeps_the_order(self):
        """And where a search found nothing, it leaves the search too."""
        listing = self.listing("?sort=-price&colour=navy&q=halyard")
        self.assertEqual(listing.clear, "/shop/?sort=-price")
        self.assertEqual(self.listing("?sort=-price&colour=navy", "/shop/c/safety/").clear, "/shop/c/safety/?sort=-price")


class SearchTests(ShopTestCase):
    def found(self, text):
        """Return names that a text finds, best first."""
        return [card.name for card in self.listing(f"?q={text}").cards]

    def test_words_stems_beginnings_and_errors(self):
        """Every word has to be there; its beginning, another ending, a typing error will do."""
        names = list(Product.objects.filter(visible=True).values_list("name", flat=True))
        holding = {name for name in names if "halyard" in name.lower()}
        for text in ("halyard", "halyards", "HALY", "halyrad", "haylard"):
            with self.subTest(text=text):
                self.assertEqual(self.listing(f"?q={text}").total, len(holding))
        both = {name for name in holding if "orrin" in name.lower()}
        self.assertEqual(set(self.found("orrin+halyard")) - both, set())
        self.assertEqual(self.listing("?q=orrin+halyard").total, len(both))
        self.assertContains(self.client.get("/shop/?q=halyrad", follow=True), "Nothing here is called “halyrad”")
        self.assertEqual(self.listing("?q=xyzzy+qqq").total, 0)

    def test_numbers_and_tags(self):
        """An article's number finds its product, part of it too; tags are found by their words."""
        variant = Variant.objects.exclude(sku="").filter(is_implicit=False).first()
        self.assertIn(variant.product.name, self.found(variant.sku))
        tagged = Product.objects.exclude(tags=[]).first()
        tag = tagged.tags[0]
        self.assertIn(tagged.pk, {*current().index.facts.keys[list(search(current(), tag).products)].tolist()})

    def test_search_and_picks_count_together(self):
        """What is found narrows like a pick: counts are of products that are found and meet the picks."""
        listing = self.listing("?q=halyard&colour=navy")
        found = search(current(), "halyard").products
        self.assertEqual(listing.listing, len(found))
        expected = self.listing("?colour=navy").asked.state.result & found
        self.assertEqual(listing.total, len(expected))
        white = next(choice for choice in self.facet(listing, "colour").choices if choice.key == "white")
        self.assertEqual(white.count, len(self.listing("?colour=white").asked.state.result & found))

    def test_order_is_best_match_first(self):
        """Names before numbers and tags; other orders can be chosen."""
        listing = self.listing("?q=halyard")
        self.assertEqual((listing.sort, listing.sorts[0]), ("match", ("match", "Best match first")))
        self.assertEqual(self.listing("?q=halyard&sort=price").asked.state.query.sort, "price")
        self.assertNotIn("match", dict(self.listing().sorts))

    def test_suggestions_stay_in_the_listing(self):
        """Bins and products of this listing under these picks only, each with an address that gives what it says."""
        page = self.client.get("/shop/suggest/?category=Rope and cordage&q=pol&stock=in")
        shown = page.context["suggestions"]
        polyester = next(made for made in shown.bins if "Po" in made.label)
        self.assertEqual(self.client.get(polyester.address).context["listing"].total, polyester.total)
        self.assertTrue(polyester.address.startswith("/shop/c/rope-and-cordage/?"))
        within = self.listing("?category=Rope and cordage&stock=in&q=pol").total
        self.assertEqual(shown.total, within)
        self.assertNotContains(self.client.get("/shop/suggest/?q=p"), "option")

    def test_awkward_texts(self):
        """Quotes, strokes, right-to-left letters, very long texts and signs of the query language find or find not, and break nothing."""
        for text in ("'", "a'b", "\\", "& | !", ":*", "<->", "חבל", "🚤", "x" * 5_000, "%00", "%", "_", "o'ring"):
            with self.subTest(text=text[:20]):
                self.assertEqual(self.client.get("/shop/", {"q": text}, follow=True).status_code, 200)
                self.assertEqual(self.client.get("/shop/suggest/", {"q": text}).status_code, 200)


class ProductTests(ShopTestCase):
    def product(self, address):
        """Return the page of a product."""
        return self.client.get(address).context["product"]

    def test_cards_speak_of_what_meets_the_picks(self):
        """Price and stock are of the navy articles; a sold-out navy one is never said to be in stock."""
        for card in self.listing("?colour=navy&per=100").cards:
            navy = [
                v
                for v in Variant.objects.filter(product__identity=card.id)
                if any(p["name"] == "Colour" and "Navy" in str(p) for p in v.properties)
            ]
            if navy and all(v.availability in ("OutOfStock", "SoldOut") or v.level == 0 for v in navy):
                self.assertEqual((card.stock, card.stock_words), ("out", "Sold out"), card.id)
            self.assertIn("colour=navy", card.address)

    def test_the_page_opens_on_the_article_and_says_why(self):
        """From a narrowed listing: the article, how many of its articles match, by what, the way back, its neighbours."""
        listing = self.listing("?colour=navy&stock=in&sort=price", "/shop/c/rope-and-cordage/")
        card = next(card for card in listing.cards if card.article)
        page = self.client.get(card.address)
        product = page.context["product"]
        self.assertEqual(product.chosen_words.lower(), "navy")
        self.assertEqual((product.price, product.stock), (card.price, "in"))
        self.assertContains(page, "what you were looking at")
        self.assertEqual({reason.facet for reason in product.why.reasons}, {"Colour", "Stock"})
        self.assertEqual(product.origin.address, listing.address)
        self.assertEqual((product.origin.total, listing.cards[product.origin.place - 1].id), (listing.total, card.id))
        self.assertIn("1 review" if product.review_count == 1 else "reviews", page.content.decode())
        line = self.client.get(card.why, headers={"HX-Request": "true"})
        self.assertContains(line, product.why.article)
        self.assertRedirects(self.client.get(card.why), f"{card.address}#why", fetch_redirect_response=False)

    def test_one_that_does_not_meet_the_picks_says_what_keeps_it_out(self):
        """A product that is sold out in navy opens on navy, says so, and names the pick without which it is there."""
        sold_out = next(card for card in self.listing("?colour=navy&per=100").cards if card.stock == "out" and card.article)
        page = self.client.get(f"/shop/p/{sold_out.id}/?colour=navy&stock=in")
        product = page.context["product"]
        self.assertEqual((product.chosen_words.lower(), product.stock), ("navy", "out"))
        self.assertIn("In stock", product.why.but)
        self.assertFalse(product.why.is_in)

    def test_former_price_and_awkward_queries(self):
        """A reduced product shows what it was; no query breaks the page."""
        reduced = next(card for card in self.listing("?per=100").cards if card.was)
        self.assertTrue(self.product(f"/shop/p/{reduced.id}/").was or self.product(f"/shop/p/{reduced.id}/").price_varies)
        for query in ("?colour=%00", "?category=%00", "?article=%00", "?category=Nowhere&colour=navy", "?seen=%F0%9F", "?shown=x&page=9"):
            self.assertEqual(self.client.get(f"/shop/p/{reduced.id}/{query}").status_code, 200)


class CountedTests(ShopTestCase):
    def test_pictures_of_ways_lead_to_products_that_come_back(self):
        """Of an empty result every picture, step, wider range and other article leads to what it says."""
        page = self.listing("?price=20..40&colour=red&rating=4-to-4.5&material=polyester&stock=in", "/shop/c/rope-and-cordage/")
        self.assertEqual(page.total, 0)
        for way in page.ways_out:
            self.assertEqual(self.client.get(way.address).context["listing"].total, way.total)
            for glimpse in way.pictures:
                self.assertTrue(self.client.get(glimpse.address).context["product"].why.is_in)
        for scale in page.near.scales:
            for step in scale.steps:
                self.assertEqual(self.client.get(step.address).context["listing"].total, step.total)
        for near in page.near.numbers:
            self.assertIn(f": {self.client.get(near.address).context['listing'].total} product", near.words)
        for near in page.near.articles:
            self.assertTrue(self.client.get(near.address).context["product"].why.is_in)
        self.assertTrue(page.near.scales and page.near.numbers and page.near.articles)
        narrow = self.listing(
            "?price=20.10..20.40&colour=red&rating=4-to-4.5&material=polyester&stock=in", "/shop/c/rope-and-cordage/"
        ).near
        self.assertEqual({len(near.ends) for near in narrow.numbers if near.key == "price"}, {1})  # they would lie on each other

    def test_pills_say_what_comes_back(self):
        """The number on a pill's tail is how many more there are without it."""
        listing = self.listing("?colour=navy&colour=white&stock=in&price=..50")
        for pill in listing.pills:
            self.assertEqual(self.client.get(pill.without).context["listing"].total - listing.total, pill.back)
            for pick in pill.picks:
                self.assertNotIn((pick.key, pick.value), parse_qsl(urlsplit(pick.without).query))
