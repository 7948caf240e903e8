"""The shopper's pages."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from functools import partial
from typing import Any

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.cache import patch_vary_headers
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.safestring import SafeString
from django.views import View
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_safe

from binsort.catalog.models import Category
from binsort.people.acts import Act
from binsort.people.rights import allowed
from binsort.racks.addresses import query_string, typed_pairs
from binsort.racks.models import DraftLink, Picture
from binsort.racks.shop_face import the_face
from binsort.racks.theme import Theme
from binsort.tally.current import Current, NotReady, current

from .addresses import UnknownCategory, address_of, departments_of, near_addresses
from .asked import Asked, UnknownTag, asked
from .basket import basket_of, count_of, put_in, set_quantity
from .footfall import note_basket, note_listing, note_product, note_unfolded
from .linked_data import as_script, listing_data, way_data
from .listings import ListingPage, listing_page
from .products import product_page
from .suggestions import suggestions
from .why import slot_of, why


class Listing(View):
    """A listing: the page, the part of it that a pick changes, or the next products."""

    def get(self, request: HttpRequest, slugs: str = "", slug: str = "") -> HttpResponse:
        path = slugs.split("/") if slugs else ()
        try:
            query = _at_its_address(asked(typed_pairs(request), request.path, path, tag=slug, draft=_link(request) is not None))
        except UnknownCategory as error:
            raise Http404("There is no such category.") from error
        except UnknownTag as error:
            raise Http404("No product has that tag.") from error
        htmx = request.htmx  # type: ignore[attr-defined]
        is_more = bool(htmx) and htmx.target == "more"
        page = listing_page(query, is_more=is_more)
        if request.headers.get("X-Only") == "total":
            return _total_only(page)
        if not htmx and not page.is_canonical:
            return redirect(page.address)
        if not is_more and not _link(request):
            note_listing(request, page)
        more = {} if htmx else {"linked_data": _listing_data(request, page)}
        context = _context(request, page.trail, page.departments, query.held, listing=page, **more)
        response = render(request, self._template(request), {**context, "next": page.address})
        patch_vary_headers(response, ["HX-Request", "HX-Target", "X-Only", "Cookie"])
        response["Cache-Control"] = "private, no-cache" if _link(request) else "no-cache"
        if is_more:
            response["HX-Replace-Url"] = page.address
        return response

    def _template(self, request: HttpRequest) -> str:
        htmx = request.htmx  # type: ignore[attr-defined]
        if not htmx or htmx.history_restore_request:
            return "shopfront/listing.html"
        return "shopfront/_more.html" if htmx.target == "more" else "shopfront/_swapped.html"


def _total_only(page: ListingPage) -> HttpResponse:
    """Answer how many products picks would show that were not sent yet: what the button says that sends them."""
    response = JsonResponse({"total": page.total, "words": page.total_words})
    patch_vary_headers(response, ["HX-Request", "HX-Target", "X-Only", "Cookie"])
    response["Cache-Control"] = "no-store"
    return response


class Suggest(View):
    """What is suggested while somebody types, of the listing that the query names."""

    def get(self, request: HttpRequest) -> HttpResponse:
        found = suggestions(_asked_of_listing(request))
        return render(request, "shopfront/_suggestions.html", {"suggestions": found})


class WhyHere(View):
    """Why a product is in the listing that the query names: one line."""

    def get(self, request: HttpRequest, identity: str) -> HttpResponse:
        query = _asked_of_listing(request)
        product = query.held.products_of([identity]).get(identity)
        if product is None:
            raise Http404("There is no such product.")
        if not request.htmx:  # type: ignore[attr-defined]
            return redirect(f"{reverse('shop-product', kwargs={'identity': identity})}{query_string(query.listing_pairs)}#why")
        in_full = ""
        if Act.LOOK in allowed(request.user):  # the shop's own people may follow it further, in the tool
            where = [("category", " > ".join(query.nodes))] if query.nodes else []
            in_full = reverse("why-of") + query_string([("product", identity), *where, *query.picks])
        return render(request, "shopfront/_why.html", {"why": why(query, product, slot_of(query, product)), "in_full": in_full})


def _asked_of_listing(request: HttpRequest) -> Asked:
    """Understand a query that names its listing itself; addresses lead to the listing's own."""
    return _at_its_address(asked(typed_pairs(request), reverse("shop"), draft=_link(request) is not None))


def _at_its_address(query: Asked) -> Asked:
    """Return a query that names its category as one on the category's own listing."""
    trail = query.trail if query.in_query and (not query.tag or query.tag_in_query) else ()
    return replace(query, path=address_of(trail), in_query=False) if trail else query


def _listing_data(request: HttpRequest, page: ListingPage) -> SafeString:
    absolute = request.build_absolute_uri
    listed = listing_data(page.title, page.canonical, page.total, page.first, page.cards, absolute) if page.total else None
    return as_script([*([listed] if listed else []), *way_data(page.trail, absolute)])


def _context(request: HttpRequest, trail: Sequence[Category], departments: Any, held: Current, **shown: Any) -> dict[str, Any]:
    site = request.build_absolute_uri("/").removesuffix("/")
    return {
        **shown,
        "site": site,
        "departments": departments,
        "face": held.beside("face", the_face),
        "here": {category.pk for category in trail},
        "sees_draft": _link(request) is not None,
        "basket_count": count_of(request.session) if settings.SESSION_COOKIE_NAME in request.COOKIES else 0,
        "next": request.get_full_path(),
    }


_SEEN = "draft"  # the cookie of who was given a link


def _link(request: HttpRequest) -> DraftLink | None:
    """Return the secret link by which the draft is seen here, None for what all shoppers see; no query for them."""
    token = request.COOKIES.get(_SEEN, "")
    if not token or "\0" in token:
        return None
    if not hasattr(request, "draft_link"):
        request.draft_link = DraftLink.objects.filter(token=token, ended_at=None).first()  # type: ignore[attr-defined]
    return request.draft_link  # type: ignore[attr-defined,no-any-return]


class SeeDraft(View):
    """A secret link: from now on this browser sees the draft, until the link is ended or left."""

    def get(self, request: HttpRequest, token: str) -> HttpResponse:
        if "\0" in token or not DraftLink.objects.filter(token=token, ended_at=None).exists():
            raise Http404("That link was ended.")
        response = redirect("shop")
        response.set_cookie(_SEEN, token, httponly=True, samesite="Lax", secure=request.is_secure())
        response["Cache-Control"] = "no-store"
        return response


class LeaveDraft(View):
    """Back to what all shoppers see."""

    def post(self, request: HttpRequest) -> HttpResponse:
        response = redirect("shop")
        response.delete_cookie(_SEEN)
        return response


class ProductPage(View):
    """A product, on the article that was looked for."""

    def get(self, request: HttpRequest, identity: str) -> HttpResponse:
        query = _asked_of_listing(request)
        page = product_page(identity, query)
        if page is None:
            raise Http404("There is no such product.")
        if not _link(request):
            note_product(request, query.held, identity)
        data = as_script([page.linked_data(request.build_absolute_uri), *way_data(page.trail, request.build_absolute_uri)])
        shown = {"product": page, "linked_data": data, "basket": basket_of(request.session, current())}
        return render(request, "shopfront/product.html", _context(request, page.trail, page.departments, query.held, **shown))


@method_decorator(csrf_exempt, name="dispatch")  # it writes nothing but a sum, and a browser sends it as the page is left
class Unfolded(View):
    """A facet that stood shut was opened."""

    def post(self, request: HttpRequest) -> HttpResponse:
        if not _link(request):
            note_unfolded(request, current(), request.POST.get("facet", ""))
        return HttpResponse(status=204)


class BasketPage(View):
    """The basket."""

    def get(self, request: HttpRequest) -> HttpResponse:
        held = current()
        known = _context(request, (), partial(departments_of, held), held, basket=basket_of(request.session, held))
        return render(request, "shopfront/basket.html", {**known, "here": {"basket"}})


class PutIntoBasket(View):
    """Put some of an article into the basket; then back to where that was done."""

    def post(self, request: HttpRequest) -> HttpResponse:
        held = current()
        done = put_in(request.session, request.POST.get("add", ""), _number(request.POST.get("quantity"), 1), held)
        if done:
            note_basket(request, held)
        if request.htmx:  # type: ignore[attr-defined]
            basket = basket_of(request.session, held) if "panel" in request.POST else None
            shown = {"done": done, "basket_count": count_of(request.session), "basket": basket, "next": request.POST.get("next", "")}
            return render(request, "shopfront/_put_in.html", shown)
        return _back(request)


class ChangeBasket(View):
    """Have another number of an article in the basket, or none."""

    def post(self, request: HttpRequest) -> HttpResponse:
        set_quantity(request.session, request.POST.get("article", ""), _number(request.POST.get("quantity"), 0))
        return _back(request)


def _number(text: str | None, usual: int) -> int:
    return int(text) if text and text.isascii() and text.isdigit() and len(text) < 5 else usual


def _back(request: HttpRequest) -> HttpResponse:
    """Go back to the page of the shop that a form names, else to the basket."""
    target = request.POST.get("next", "")
    is_ours = target.startswith("/shop/") and url_has_allowed_host_and_scheme(target, None)
    return redirect(target if is_ours else "shop-basket")


def privacy_control(request: HttpRequest) -> HttpResponse:
    """Say that Global Privacy Control is honoured (W3C Global Privacy Control, 4)."""
    return JsonResponse({"gpc": True, "lastUpdate": "2026-11-27"})


@require_safe
def theme(request: HttpRequest) -> HttpResponse:
    """Give the style sheet of a theme; its address says all of it."""
    response = HttpResponse(Theme.of(request.GET.dict()).sheet(), content_type="text/css; charset=utf-8")
    response["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


@require_safe
def picture(request: HttpRequest, name: str) -> HttpResponse:
    """Give a picture of a bin; under its name there is never another one."""
    found = get_object_or_404(Picture, name=name)
    response = HttpResponse(bytes(found.data), content_type="image/webp")
    response["Cache-Control"] = "public, max-age=31536000, immutable"
    response["Cross-Origin-Resource-Policy"] = "cross-origin"
    return response


def robots(request: HttpRequest) -> HttpResponse:
    """What search engines are asked to leave alone (RFC 9309), and where the map is."""
    closed = [
        reverse("shop-suggest"),
        reverse("shop-why", kwargs={"identity": "any"}).removesuffix("any/"),
        reverse("shop-leave-draft").removesuffix("leave/"),
    ]
    lines = ["User-agent: *", *(f"Disallow: {path}" for path in closed), f"Sitemap: {request.build_absolute_uri(reverse('sitemaps'))}"]
    return HttpResponse("\n".join(lines) + "\n", content_type="text/plain; charset=utf-8")


def counting(request: HttpRequest) -> HttpResponse:
    """Say that the listing comes in a moment."""
    return render(request, "shopfront/counting.html", {"departments": []}, status=503)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that there is nothing here, and where to go instead."""
    with suppress(NotReady):
        known = {"departments": departments_of(current()), "near": near_addresses(request.path)}
        return render(request, "shopfront/not_found.html", known, status=404)
    return render(request, "shopfront/not_found.html", {"departments": []}, status=404)
