"""The basket: the matching article goes in, it stays while narrowing, and it says what it costs now."""

from fractions import Fraction

from django.test import Client, TestCase

from binsort.catalog.models import Product, Variant
from binsort.demo.loader import load_demo
from binsort.shopfront.basket import MOST_LINES, MOST_OF_ONE


class BasketTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        """Load the demo shop."""
        load_demo()

    def cards(self, query="?colour=navy&stock=in"):
        """Return the cards of a listing."""
        return self.client.get(f"/shop/{query}").context["listing"].cards

    def add(self, key, **more):
        """Put an article in as the form of a page does."""
        return self.client.post("/shop/basket/add/", {"add": key, "next": "/shop/?colour=navy", **more})

    def change(self, key, quantity):
        """Have another number of it."""
        return self.client.post("/shop/basket/change/", {"article": key, "quantity": quantity})

    @property
    def basket(self):
        """The basket as its page shows it."""
        return self.client.get("/shop/basket/").context["basket"]

    def test_the_matching_article_goes_in(self):
        """Of a product with several articles the one that was looked for; where several match, the page asks which."""
        card = next(card for card in self.cards() if card.add and card.article)
        back = self.add(card.add, quantity="2")
        self.assertRedirects(back, "/shop/?colour=navy")
        self.assertContains(self.client.get("/shop/?colour=navy"), '<span class="badge">2</span>')
        [line] = self.basket.lines
        self.assertEqual((line.name, line.options, line.quantity), (card.name, card.article, 2))
        asks = next(card for card in self.cards("") if card.asks_which)
        self.assertEqual(asks.add, "")
        self.assertContains(self.client.get(asks.address), "Choose an article above")
        article = self.client.get(asks.address).context["product"].articles[0]
        self.assertContains(self.client.get(article.address), "Add to basket" if article.stock != "out" else "Sold out")

    def test_what_it_costs(self):
        """The sum is that of the prices of this moment; free delivery from £75; what is sold out costs nothing and says so."""
        first, second = [card for card in self.cards("?stock=in&sort=price") if card.add][:2]
        self.add(first.add, quantity="3")
        self.add(second.add)
        self.add(first.add)
        variants = {name: Variant.objects.filter(product__identity=name, sku=sku).first() or Variant.objects.get(product__identity=name)
                    for name, sku in ((first.id, first.add.rpartition("=")[2]), (second.id, second.add.rpartition("=")[2]))}  # fmt: skip
        Variant.objects.filter(pk=variants[first.id].pk).update(price="10.10", list_price=None, sales=[])
        Variant.objects.filter(pk=variants[second.id].pk).update(price=4, list_price=None, sales=[])
        basket = self.basket
        self.assertEqual((basket.count, basket.total, basket.missing), (5, "£44.40", "£30.60"))
        self.assertEqual(Fraction(str(round(basket.share, 6))), Fraction("59.2"))
        Variant.objects.filter(pk=variants[first.id].pk).update(price=20)
        self.assertEqual((self.basket.total, self.basket.missing), ("£84.00", ""))
        Variant.objects.filter(pk=variants[first.id].pk).update(availability="SoldOut")
        self.assertEqual([line.trouble for line in self.basket.lines], ["Sold out", ""])
        self.assertEqual(self.basket.total, "£4.00")
        Product.objects.filter(identity=first.id).update(visible=False)
        self.assertEqual(self.basket.lines[0].trouble, "No longer offered")

    def test_change_and_take_out(self):
        """Quantities are bounded, none takes it out; what nobody can mean changes nothing."""
        card = next(card for card in self.cards() if card.add)
        for wrong in ("", "product=none&article=x", "nonsense", "product=" + "x" * 5000):
            self.add(wrong)
        self.add(card.add, quantity="-3")
        self.assertEqual(self.basket.lines[0].quantity, 1)  # what is no number is one
        self.add(card.add, quantity="9999")
        self.assertEqual(self.basket.lines[0].quantity, MOST_OF_ONE)
        self.change(card.add, "7")
        self.assertEqual(self.basket.count, 7)
        self.change("product=other", "7")
        self.assertEqual(self.basket.count, 7)
        self.change(card.add, "0")
        self.assertContains(self.client.get("/shop/basket/"), "Nothing is in it yet")

    def test_it_is_not_without_end(self):
        """So many different articles go in; a form may not lead elsewhere; nobody else sees it."""
        keys = [card.add for page in range(1, 12) for card in self.cards(f"?stock=in{f'&page={page}' if page > 1 else ''}") if card.add]
        for key in keys[: MOST_LINES + 3]:
            self.add(key)
        self.assertEqual(len(self.basket.lines), MOST_LINES)
        elsewhere = self.client.post("/shop/basket/add/", {"add": keys[0], "next": "https://elsewhere.example/"})
        self.assertRedirects(elsewhere, "/shop/basket/")
        self.assertEqual(Client().get("/shop/basket/").context["basket"].count, 0)

    def test_with_scripts(self):
        """The answer has the number for the top of the page and a word for the status; beside a product the whole basket."""
        card = next(card for card in self.cards() if card.add)
        answer = self.client.post("/shop/basket/add/", {"add": card.add}, headers={"HX-Request": "true"})
        self.assertContains(answer, "In the basket: 1 article in all.")
        self.assertNotContains(answer, "basket-panel")
        beside = self.client.post("/shop/basket/add/", {"add": card.add, "panel": "1"}, headers={"HX-Request": "true"})
        self.assertContains(beside, 'id="basket-panel"')
        self.assertContains(self.client.post("/shop/basket/add/", {"add": "x"}, headers={"HX-Request": "true"}), "It was not put in")
