"""The shopper's pages."""

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.cache import patch_vary_headers
from django.utils.safestring import SafeString
from django.views import View

from binsort.catalog.models import Category
from binsort.racks.addresses import query_string, typed_pairs
from binsort.racks.models import DraftLink
from binsort.tally.current import NotReady, current

from .addresses import UnknownCategory, address_of, near_addresses
from .asked import Asked, asked
from .linked_data import as_script, listing_data, way_data
from .listings import ListingPage, departments_of, listing_page
from .products import product_page
from .suggestions import suggestions
from .why import slot_of, why


class Listing(View):
    """A listing: the page, the part of it that a pick changes, or the next products."""

    def get(self, request: HttpRequest, slugs: str = "") -> HttpResponse:
        try:
            query = _at_its_address(
                asked(typed_pairs(request), request.path, slugs.split("/") if slugs else (), draft=_link(request) is not None)
            )
        except UnknownCategory as error:
            raise Http404("There is no such category.") from error
        htmx = request.htmx  # type: ignore[attr-defined]
        is_more = bool(htmx) and htmx.target == "more"
        page = listing_page(query, is_more=is_more)
        if not htmx and not page.is_canonical:
            return redirect(page.address)
        more = {} if htmx else {"linked_data": _listing_data(request, page)}
        response = render(request, self._template(request), _context(request, page.trail, page.departments, listing=page, **more))
        patch_vary_headers(response, ["HX-Request", "HX-Target", "Cookie"])
        response["Cache-Control"] = "private, no-cache" if _link(request) else "no-cache"
        if is_more:
            response["HX-Replace-Url"] = page.address
        return response

    def _template(self, request: HttpRequest) -> str:
        htmx = request.htmx  # type: ignore[attr-defined]
        if not htmx or htmx.history_restore_request:
            return "shopfront/listing.html"
        return "shopfront/_more.html" if htmx.target == "more" else "shopfront/_swapped.html"


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
        return render(request, "shopfront/_why.html", {"why": why(query, product, slot_of(query, product))})


def _asked_of_listing(request: HttpRequest) -> Asked:
    """Understand a query that names its listing itself; addresses lead to the listing's own."""
    return _at_its_address(asked(typed_pairs(request), reverse("shop"), draft=_link(request) is not None))


def _at_its_address(query: Asked) -> Asked:
    """Return a query that names its category as one on the category's own listing."""
    trail = query.trail if query.in_query else ()
    return replace(query, path=address_of(trail), in_query=False) if trail else query


def _listing_data(request: HttpRequest, page: ListingPage) -> SafeString:
    absolute = request.build_absolute_uri
    listed = listing_data(page.title, page.canonical, page.total, page.first, page.cards, absolute) if page.total else None
    return as_script([*([listed] if listed else []), *way_data(page.trail, absolute)])


def _context(request: HttpRequest, trail: Sequence[Category], departments: Any, **shown: Any) -> dict[str, Any]:
    site = request.build_absolute_uri("/").removesuffix("/")
    return {
        **shown,
        "site": site,
        "departments": departments,
        "here": {category.pk for category in trail},
        "sees_draft": _link(request) is not None,
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
        page = product_page(identity, _asked_of_listing(request))
        if page is None:
            raise Http404("There is no such product.")
        data = as_script([page.linked_data(request.build_absolute_uri), *way_data(page.trail, request.build_absolute_uri)])
        return render(request, "shopfront/product.html", _context(request, page.trail, page.departments, product=page, linked_data=data))


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
