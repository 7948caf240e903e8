"""Who may see what: a table of every address."""

import importlib
import inspect
import pkgutil

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings
from django.urls import URLResolver, get_resolver

from binsort import changes
from binsort.changes.tokens import end, give
from binsort.people.acts import Role, acts_of
from binsort.people.models import Member
from binsort.people.rights import SERVICES, NotAllowed
from binsort.workbench.rights import NEEDED, needed

OPEN, TOOL, TOKEN = "open", "tool", "token"
# address, method, for whom, status for those who may; of the tool the rights say who that is, everybody else is sent to sign in
ADDRESSES = {
    "home": ("/", "get", OPEN, 302),
    "picture": ("/pictures/nothing.webp", "get", OPEN, 404),
    "theme": ("/theme.css", "get", OPEN, 200),
    "robots": ("/robots.txt", "get", OPEN, 200),
    "privacy-control": ("/.well-known/gpc.json", "get", OPEN, 200),
    "sitemaps": ("/sitemap.xml", "get", OPEN, 200),
    "sitemap": ("/sitemap-listings.xml", "get", OPEN, 200),
    "shop-basket": ("/shop/basket/", "get", OPEN, 200),
    "shop-basket-add": ("/shop/basket/add/", "post", OPEN, 302),
    "shop-basket-change": ("/shop/basket/change/", "post", OPEN, 302),
    "listing-data": ("/api/shop/v1/listing", "get", OPEN, 200),
    "suggestions-data": ("/api/shop/v1/suggestions", "get", OPEN, 200),
    "product-data": ("/api/shop/v1/products/nothing", "get", OPEN, 404),
    "categories-data": ("/api/shop/v1/categories", "get", OPEN, 200),
    "embed-data": ("/api/shop/v1/embeds/nothing", "get", OPEN, 404),
    "bins": ("/bins.js", "get", OPEN, 200),
    "sites": ("/listings/sites/", "get", TOOL, 200),
    "embed": ("/listings/sites/of/nothing/", "get", TOOL, 404),
    "embed-add": ("/listings/sites/add/", "post", TOOL, 422),
    "embed-delete": ("/listings/sites/of/nothing/delete/", "get", TOOL, 404),
    "site-end": ("/listings/sites/0/end/", "post", TOOL, 302),
    "sign-in": ("/sign-in/", "get", OPEN, 200),
    "sign-out": ("/sign-out/", "post", OPEN, 302),
    "rack": ("/racks/", "get", TOOL, 200),
    "footfall": ("/racks/of/nothing/footfall/", "get", TOOL, 404),
    "footfall-switch": ("/racks/footfall/switch/", "post", TOOL, 302),
    "why-of": ("/racks/why/?product=nothing", "get", TOOL, 302),
    "why": ("/racks/of/nothing/why/", "get", TOOL, 404),
    "what-if": ("/racks/of/nothing/what-if/", "get", TOOL, 404),
    "checkup": ("/checkup/", "get", TOOL, 200),
    "checkup-number": ("/checkup/number/", "get", TOOL, 200),
    "checkup-mend": ("/checkup/mend/", "post", TOOL, 302),
    "checkup-lead": ("/checkup/lead/", "post", TOOL, 302),
    "checkup-leave": ("/checkup/leave/", "post", TOOL, 302),
    "checkup-take-up": ("/checkup/take-up/0/", "post", TOOL, 302),
    "start": ("/racks/start/", "get", TOOL, 200),
    "rack-add": ("/racks/add/", "get", TOOL, 200),
    "rack-of": ("/racks/of/nothing/", "get", TOOL, 404),
    "racks": ("/racks/all/", "get", TOOL, 200),
    "rack-rename": ("/racks/of/nothing/rename/", "post", TOOL, 302),
    "rack-copy": ("/racks/of/nothing/copy/", "post", TOOL, 302),
    "rack-delete": ("/racks/of/nothing/delete/", "get", TOOL, 404),
    "rack-behaves": ("/racks/of/nothing/behaves/", "get", TOOL, 404),
    "facet-when": ("/racks/facets/nothing/when/", "post", TOOL, 302),
    "facet-apart": ("/racks/facets/nothing/apart/", "post", TOOL, 302),
    "facet-heading": ("/racks/facets/nothing/heading/", "post", TOOL, 302),
    "facet-put": ("/racks/facets/nothing/put/", "post", TOOL, 302),
    "placing": ("/listings/", "get", TOOL, 200),
    "shop-theme": ("/shop-theme/", "get", TOOL, 200),
    "shop-face": ("/shop-face/", "get", TOOL, 200),
    "rack-order": ("/racks/order/", "post", TOOL, 302),
    "undo": ("/racks/undo/", "post", TOOL, 302),
    "redo": ("/racks/redo/", "post", TOOL, 302),
    "review": ("/racks/review/", "get", TOOL, 200),
    "review-take-back": ("/racks/review/take-back/", "post", TOOL, 302),
    "schedule": ("/racks/schedule/", "post", TOOL, 302),
    "call-off": ("/racks/call-off/", "post", TOOL, 302),
    "draft-link": ("/racks/draft-link/", "post", TOOL, 302),
    "draft-link-end": ("/racks/draft-link/1/end/", "post", TOOL, 302),
    "shop-draft": ("/shop/draft/nothing/", "get", OPEN, 404),
    "shop-leave-draft": ("/shop/draft/leave/", "post", OPEN, 302),
    "put-live": ("/racks/put-live/", "post", TOOL, 302),
    "jump": ("/racks/jump/?find=a", "get", TOOL, 200),
    "components": ("/racks/components/", "get", TOOL, 200),
    "facet": ("/racks/facets/nothing/", "get", TOOL, 404),
    "facet-act": ("/racks/facets/nothing/act/", "post", TOOL, 404),
    "facet-numbers": ("/racks/facets/nothing/numbers/", "get", TOOL, 404),
    "facet-read": ("/racks/facets/nothing/read/", "post", TOOL, 404),
    "facet-reading": ("/racks/facets/nothing/reading/", "get", TOOL, 404),
    "facet-shoppers": ("/racks/facets/nothing/shoppers/", "get", TOOL, 404),
    "facet-move": ("/racks/facets/nothing/move/", "post", TOOL, 302),
    "facet-order": ("/racks/facets/nothing/order/", "post", TOOL, 302),
    "facet-remove": ("/racks/facets/nothing/remove/", "post", TOOL, 302),
    "facet-text": ("/racks/facets/nothing/texts/", "post", TOOL, 404),
    "facet-unbinned": ("/racks/facets/nothing/unbinned/", "get", TOOL, 404),
    "setup-file": ("/racks/file/", "get", TOOL, 200),
    "setup-out": ("/racks/file/out/", "get", TOOL, 200),
    "setup-master": ("/racks/file/master/", "post", TOOL, 302),
    "people": ("/people/", "get", TOOL, 200),
    "person": ("/people/0/", "post", TOOL, 404),
    "invitation-end": ("/people/invitations/0/end/", "post", TOOL, 302),
    "account": ("/account/", "get", TOOL, 200),
    "account-sign-out": ("/account/sign-out-everywhere/", "post", TOOL, 302),
    "come-in": ("/in/nothing/", "get", OPEN, 404),
    "new-password": ("/new-password/nothing/", "get", OPEN, 404),
    "history": ("/history/", "get", TOOL, 200),
    "entry-take-back": ("/history/0/take-back/", "post", TOOL, 302),
    "go-back": ("/history/live/0/go-back/", "post", TOOL, 302),
    "into-draft": ("/history/live/0/into-draft/", "post", TOOL, 302),
    "activity": ("/activity/", "get", TOOL, 200),
    "activity-again": ("/activity/again/", "post", TOOL, 302),
    "activity-cancel": ("/activity/1/cancel/", "post", TOOL, 302),
    "activity-try-again": ("/activity/1/try-again/", "post", TOOL, 302),
    "do-again": ("/catalogue/changes/1/redo/", "post", TOOL, 302),
    "catalogue": ("/catalogue/", "get", TOOL, 200),
    "catalogue-head": ("/catalogue/head/", "get", TOOL, 200),
    "catalogue-columns": ("/catalogue/columns/", "post", TOOL, 302),
    "catalogue-cell": ("/catalogue/cell/", "post", TOOL, 410),
    "catalogue-suggest": ("/catalogue/suggest/", "get", TOOL, 200),
    "catalogue-bulk": ("/catalogue/many/", "post", TOOL, 302),
    "take-back": ("/catalogue/changes/1/undo/", "post", TOOL, 302),
    "take-out": ("/catalogue/take-out/pdf/", "post", TOOL, 404),
    "taken-out": ("/catalogue/take-out/1/file/", "get", TOOL, 404),
    "product-new": ("/catalogue/new/", "get", TOOL, 200),
    "product": ("/catalogue/products/nothing/", "get", TOOL, 404),
    "product-delete": ("/catalogue/products/nothing/delete/", "post", TOOL, 302),
    "bring-in": ("/catalogue/bring-in/", "get", TOOL, 200),
    "bring-file": ("/catalogue/bring-in/1/", "get", TOOL, 404),
    "bring-refused": ("/catalogue/bring-in/1/refused/", "get", TOOL, 404),
    "bring-forget": ("/catalogue/bring-in/1/forget/", "post", TOOL, 302),
    "attributes": ("/catalogue/attributes/", "get", TOOL, 200),
    "attributes-order": ("/catalogue/attributes/order/", "post", TOOL, 302),
    "attribute": ("/catalogue/attributes/1/", "get", TOOL, 404),
    "attribute-delete": ("/catalogue/attributes/1/delete/", "get", TOOL, 404),
    "attribute-values": ("/catalogue/attributes/1/values/", "post", TOOL, 404),
    "categories": ("/catalogue/categories/", "get", TOOL, 200),
    "category-delete": ("/catalogue/categories/1/delete/", "get", TOOL, 404),
    "api": ("/catalogue/api/", "get", TOOL, 200),
    "token-end": ("/catalogue/api/0/end/", "post", TOOL, 302),
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
    "shop-unfolded": ("/shop/unfolded/", "post", OPEN, 204),
    "shop-tag": ("/shop/t/nothing/", "get", OPEN, 404),
    "shop-suggest": ("/shop/suggest/?q=rope", "get", OPEN, 200),
    "shop-why": ("/shop/why/nothing/", "get", OPEN, 404),
}


ROLES = ((Role.VIEWER, True), (Role.EDITOR, True), (Role.EDITOR, False), (Role.KEEPER, True), (Role.OWNER, True))
TOKENS = (("shop", ("look", "products")), ("old shop", ("look", "products")), ("reader", ("look",)))
# Parts of services, which ask for themselves or stand behind one that did.
BEHIND = {
    "actors.user_of", "followers.follow", "followers.take_facets_back", "history.tell", "revisions.begin", "revisions.revise", "revisions.revise_each",
    "people.sign_out_everywhere", "product_form.save_product", "products.set_field",
}  # fmt: skip
WITHOUT_ACTOR = {"catalogue.replace_catalogue", "imports.take", "upserts.upsert_products", "upserts.delete_products", "upserts.set_offers"}


def services():
    """Yield every public function of the services that takes an actor, by its name."""
    for module in pkgutil.iter_modules(changes.__path__):
        found = importlib.import_module(f"{changes.__name__}.{module.name}") if not module.ispkg else None
        for name, one in vars(found or object()).items() if found else ():
            own = inspect.isfunction(one) and one.__module__ == found.__name__ and not name.startswith("_")
            if own and "actor" in inspect.signature(one).parameters:
                yield f"{module.name}.{name}", one


def named_addresses(resolver):
    """Yield the name of every address."""
    for pattern in resolver.url_patterns:
        if isinstance(pattern, URLResolver):
            yield from named_addresses(pattern)
        else:
            yield pattern.name


class AccessTests(TestCase):
    def test_every_address_is_listed(self):
        """An address that is in neither table fails here: that of what it is, or, of the tool, that of what it needs."""
        self.assertEqual(set(named_addresses(get_resolver())), set(ADDRESSES))
        self.assertEqual({name for name, (_a, _m, kind, _s) in ADDRESSES.items() if kind == TOOL}, set(NEEDED))

    def test_strangers_and_tokens(self):
        """The shop is open; the tool asks strangers to sign in, the API for a token that was not ended and may do that."""
        owner = get_user_model().objects.create_user("owner", password="thrift-and-samphire", is_staff=True)
        (_, good), (ended, bad), (_, reader) = (give(name, acts=acts, actor=owner) for name, acts in TOKENS)
        end(ended.pk)
        for name, (address, method, kind, status) in ADDRESSES.items():
            with self.subTest(name):
                self.client.logout()
                found = getattr(self.client, method)(address)
                if kind == TOKEN:
                    self.assertEqual(found.status_code, 401)
                    for token, expected in ((bad, 401), (reader, status if method == "get" else 403), (good, status)):
                        found = getattr(self.client, method)(address, headers={"Authorization": f"Bearer {token}"})
                        self.assertEqual(found.status_code, expected)
                elif kind == TOOL:
                    self.assertRedirects(found, f"/sign-in/?next={address.replace('?', '%3F').replace('=', '%3D')}")
                else:
                    self.assertEqual(found.status_code, status)

    def test_every_role_at_every_address(self):
        """Each may do what the table of acts says, and nothing else; whatever is refused changes nothing and says so."""
        for role, products in ROLES:
            user = get_user_model().objects.create_user(f"{role}-{products}")
            Member.objects.create(user=user, role=role, products=products)
            may = acts_of(role, products=products)
            for name, (address, method, kind, status) in ADDRESSES.items():
                if kind != TOOL:
                    continue
                self.client.force_login(user)
                with self.subTest(f"{role} {name}"):
                    found = getattr(self.client, method)(address)
                    self.assertEqual(found.status_code, status if needed(name, method.upper()) in may else 403)
                    other = "post" if method == "get" else "get"
                    if needed(name, other.upper()) not in may:
                        self.assertIn(getattr(self.client, other)(address).status_code, (403, 405))

    def test_every_service(self):
        """Each service that takes an actor is in the table, and refuses whoever may not do that before it does anything."""
        users = {}
        for role, products in ROLES:
            users[role, products] = get_user_model().objects.create_user(f"{role}-{products}")
            Member.objects.create(user=users[role, products], role=role, products=products)
        for name, service in services():
            self.assertTrue(name in SERVICES or name in BEHIND, name)
            for key, user in users.items():
                if name in SERVICES and SERVICES[name] not in acts_of(key[0], products=key[1]):
                    with self.subTest(f"{key} {name}"), self.assertRaises(NotAllowed):
                        service(actor=user)
        self.assertEqual(set(SERVICES) - {name for name, _service in services()}, WITHOUT_ACTOR)

    def test_an_account_of_somebody_else(self):
        """Signed in, but not of the shop's own people: nothing of the tool is shown or done, and the way out is."""
        self.client.force_login(get_user_model().objects.create_user("stranger"))
        for name, (address, method, kind, _) in ADDRESSES.items():
            if kind == TOOL:
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
