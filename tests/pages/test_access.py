"""Who may see what: a table of every address."""

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings
from django.urls import URLResolver, get_resolver

from binsort.changes.tokens import end, give

OPEN, OWNER, TOKEN = "open", "owner", "token"
# address, method, for whom, status for those; everybody else is sent to sign in
ADDRESSES = {
    "home": ("/", "get", OPEN, 302),
    "sign-in": ("/sign-in/", "get", OPEN, 200),
    "sign-out": ("/sign-out/", "post", OPEN, 302),
    "rack": ("/racks/", "get", OWNER, 200),
    "rack-add": ("/racks/add/", "get", OWNER, 200),
    "rack-order": ("/racks/order/", "post", OWNER, 302),
    "undo": ("/racks/undo/", "post", OWNER, 302),
    "redo": ("/racks/redo/", "post", OWNER, 302),
    "put-live": ("/racks/put-live/", "post", OWNER, 302),
    "jump": ("/racks/jump/?find=a", "get", OWNER, 200),
    "components": ("/racks/components/", "get", OWNER, 200),
    "facet": ("/racks/facets/nothing/", "get", OWNER, 404),
    "facet-move": ("/racks/facets/nothing/move/", "post", OWNER, 302),
    "facet-order": ("/racks/facets/nothing/order/", "post", OWNER, 302),
    "facet-remove": ("/racks/facets/nothing/remove/", "post", OWNER, 302),
    "facet-unbinned": ("/racks/facets/nothing/unbinned/", "get", OWNER, 404),
    "activity": ("/activity/", "get", OWNER, 200),
    "activity-again": ("/activity/again/", "post", OWNER, 302),
    "activity-cancel": ("/activity/1/cancel/", "post", OWNER, 302),
    "activity-try-again": ("/activity/1/try-again/", "post", OWNER, 302),
    "do-again": ("/catalogue/changes/1/redo/", "post", OWNER, 302),
    "catalogue": ("/catalogue/", "get", OWNER, 200),
    "catalogue-head": ("/catalogue/head/", "get", OWNER, 200),
    "catalogue-columns": ("/catalogue/columns/", "post", OWNER, 302),
    "catalogue-cell": ("/catalogue/cell/", "post", OWNER, 410),
    "catalogue-suggest": ("/catalogue/suggest/", "get", OWNER, 200),
    "catalogue-bulk": ("/catalogue/many/", "post", OWNER, 302),
    "take-back": ("/catalogue/changes/1/undo/", "post", OWNER, 302),
    "take-out": ("/catalogue/take-out/pdf/", "post", OWNER, 404),
    "taken-out": ("/catalogue/take-out/1/file/", "get", OWNER, 404),
    "product-new": ("/catalogue/new/", "get", OWNER, 200),
    "product": ("/catalogue/products/nothing/", "get", OWNER, 404),
    "product-delete": ("/catalogue/products/nothing/delete/", "post", OWNER, 302),
    "bring-in": ("/catalogue/bring-in/", "get", OWNER, 200),
    "bring-file": ("/catalogue/bring-in/1/", "get", OWNER, 404),
    "bring-refused": ("/catalogue/bring-in/1/refused/", "get", OWNER, 404),
    "bring-forget": ("/catalogue/bring-in/1/forget/", "post", OWNER, 302),
    "attributes": ("/catalogue/attributes/", "get", OWNER, 200),
    "attributes-order": ("/catalogue/attributes/order/", "post", OWNER, 302),
    "attribute": ("/catalogue/attributes/1/", "get", OWNER, 404),
    "attribute-delete": ("/catalogue/attributes/1/delete/", "get", OWNER, 404),
    "attribute-values": ("/catalogue/attributes/1/values/", "post", OWNER, 404),
    "categories": ("/catalogue/categories/", "get", OWNER, 200),
    "category-delete": ("/catalogue/categories/1/delete/", "get", OWNER, 404),
    "api": ("/catalogue/api/", "get", OWNER, 200),
    "token-end": ("/catalogue/api/0/end/", "post", OWNER, 302),
    "openapi-json": ("/api/v1/openapi.json", "get", OPEN, 200),
    "api-root": ("/api/v1/", "get", OPEN, 404),
    "list_products": ("/api/v1/products", "get", TOKEN, 200),
    "put_products": ("/api/v1/products", "put", TOKEN, 422),
    "delete_products": ("/api/v1/products/delete", "post", TOKEN, 400),
    "get_product": ("/api/v1/products/nothing", "get", TOKEN, 404),
    "set_offers": ("/api/v1/offers", "patch", TOKEN, 422),
    "send_file": ("/api/v1/files", "post", TOKEN, 422),
    "get_file": ("/api/v1/files/1", "get", TOKEN, 404),
    "bring_file": ("/api/v1/files/1/bring", "post", TOKEN, 404),
    "shop": ("/shop/", "get", OPEN, 200),
    "shop-category": ("/shop/c/nothing/", "get", OPEN, 404),
    "shop-product": ("/shop/p/nothing/", "get", OPEN, 404),
    "picture": ("/pictures/coil-3b5488.svg", "get", OPEN, 200),
}


def named_addresses(resolver):
    """Yield the name of every address."""
    for pattern in resolver.url_patterns:
        if isinstance(pattern, URLResolver):
            yield from named_addresses(pattern)
        else:
            yield pattern.name


class AccessTests(TestCase):
    def test_every_address_is_listed(self):
        """An address that is not in the table fails here."""
        self.assertEqual(set(named_addresses(get_resolver())), set(ADDRESSES))

    def test_strangers_and_the_owner(self):
        """The shop is open; the tool asks strangers to sign in, the API for a token, which may be one that was ended."""
        owner = get_user_model().objects.create_user("owner", password="thrift-and-samphire", is_staff=True)
        (_, good), (ended, bad) = give("shop", actor=owner), give("old shop", actor=owner)
        end(ended.pk)
        for name, (address, method, role, status) in ADDRESSES.items():
            with self.subTest(name):
                self.client.logout()
                found = getattr(self.client, method)(address)
                if role == TOKEN:
                    self.assertEqual(found.status_code, 401)
                    self.assertEqual(getattr(self.client, method)(address, headers={"Authorization": f"Bearer {bad}"}).status_code, 401)
                    found = getattr(self.client, method)(address, headers={"Authorization": f"Bearer {good}"})
                if role == OWNER:
                    self.assertRedirects(found, f"/sign-in/?next={address.replace('?', '%3F').replace('=', '%3D')}")
                    self.client.force_login(owner)
                    found = getattr(self.client, method)(address)
                self.assertEqual(found.status_code, status)

    def test_an_account_of_somebody_else(self):
        """Signed in, but not of the shop's own people: nothing of the tool is shown or done, and the way out is."""
        self.client.force_login(get_user_model().objects.create_user("stranger"))
        for name, (address, method, role, _) in ADDRESSES.items():
            if role == OWNER:
                with self.subTest(name):
                    page = getattr(self.client, method)(address)
                    self.assertContains(page, "not one of the shop", status_code=403)
                    self.assertNotContains(page, "jump-targets", status_code=403)

    @override_settings(AXES_ENABLED=True)
    def test_tries_are_limited(self):
        """After five wrong passwords even the right one has to wait."""
        get_user_model().objects.create_user("owner", password="thrift-and-samphire", is_staff=True)
        for _ in range(5):
            found = self.client.post("/sign-in/", {"username": "owner", "password": "wrong"})
        self.assertEqual(found.status_code, 429)
        right = self.client.post("/sign-in/", {"username": "owner", "password": "thrift-and-samphire"})
        self.assertContains(right, "In 15 minutes you can try again", status_code=429)

    @override_settings(AXES_ENABLED=True)
    def test_tries_from_one_address_are_limited(self):
        """Going through names does not help."""
        tries = [self.client.post("/sign-in/", {"username": f"name-{n}", "password": "wrong"}).status_code for n in range(5)]
        self.assertEqual(tries[-1], 429)

    def test_redirects_stay_here(self):
        """A form cannot send the owner to another site."""
        self.client.force_login(get_user_model().objects.create_user("owner", is_staff=True))
        for target in ("https://example.com/", "//example.com", "/\\example.com", "\\\\example.com", "javascript:alert(1)", "racks"):
            self.assertRedirects(self.client.post("/racks/put-live/", {"next": target}), "/racks/")
