"""The shopper's pages."""

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.cache import patch_vary_headers
from django.views import View

from binsort.catalog.models import Category
from binsort.racks.addresses import query_pairs
from binsort.tally.current import NotReady, current

from .listings import ListingPage, departments_of, listing_page
from .products import product_page


class Listing(View):
    """A listing: the page, the part of it that a pick swaps, or the next products."""

    def get(self, request: HttpRequest, slugs: str = "") -> HttpResponse:
        category = find_category(slugs.split("/")) if slugs else None
        page = listing_page(query_pairs(request), category, request.path)
        response = render(request, self._template(request), self._context(page))
        patch_vary_headers(response, ["HX-Request", "HX-Target"])
        response["Cache-Control"] = "no-cache"
        return response

    def _template(self, request: HttpRequest) -> str:
        htmx = request.htmx  # type: ignore[attr-defined]
        if not htmx or htmx.history_restore_request:
            return "shopfront/listing.html"
        return "shopfront/_more.html" if htmx.target == "more" else "shopfront/_listing.html"

    def _context(self, page: ListingPage) -> dict[str, Any]:
        return {"listing": page, "departments": page.departments, "here": {category.pk for category in page.trail}}


def find_category(slugs: Sequence[str]) -> Category:
    """Return the category of an address. Raises Http404."""
    category: Category | None = None
    for slug in slugs if "\0" not in "".join(slugs) else ():  # which the database cannot even be asked for
        category = Category.objects.filter(parent=category, slug=slug).first()
        if category is None:
            raise Http404("There is no such category.")
    if category is None:
        raise Http404("There is no such category.")
    return category


class ProductPage(View):
    """A product."""

    def get(self, request: HttpRequest, identity: str) -> HttpResponse:
        page = product_page(identity)
        if page is None:
            raise Http404("There is no such product.")
        return render(
            request, "shopfront/product.html", {"product": page, "departments": page.departments, "here": {c.pk for c in page.trail}}
        )


def counting(request: HttpRequest) -> HttpResponse:
    """Say that the listing comes in a moment."""
    return render(request, "shopfront/counting.html", {"departments": []}, status=503)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that there is nothing here, and where to go instead."""
    with suppress(NotReady):
        return render(request, "shopfront/not_found.html", {"departments": departments_of(current().index)}, status=404)
    return render(request, "shopfront/not_found.html", {"departments": []}, status=404)
