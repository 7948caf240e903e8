"""The JSON API for shops of others: what the shop's own pages show, as data. OpenAPI 3.1 at ``/api/shop/v1/openapi.json``.

Open to all, as the shop is; browsers let other sites read it where the owner let them in. Every answer has a validator: asked for again
with ``If-None-Match``, it is 304 while nothing changed (RFC 9110, section 13).
"""

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.urls import reverse
from django.views.decorators.http import conditional_page
from ninja import NinjaAPI
from ninja.decorators import decorate_view
from ninja.errors import ValidationError

from binsort.core.values.strict_json import one_line
from binsort.racks.addresses import typed_pairs
from binsort.racks.hosted import NotThere
from binsort.shopfront.asked import Asked, asked
from binsort.shopfront.embed.parts import MEANT, embed_document
from binsort.shopfront.listings import listing_page
from binsort.shopfront.products import product_page
from binsort.tally.current import NotReady, current

from . import documents, schemas, sites

api = NinjaAPI(
    title="Bin Sort shop", version="1", description="Listings, facets, counts and products for shops of others.",
    docs_url=None, urls_namespace="shop-api",
)  # fmt: skip
_OTHERWISE: dict[Any, Any] = {414: schemas.Problem, 404: schemas.Problem, 422: schemas.Problem, 429: schemas.Problem, 503: schemas.Problem}
_TEXT = {"type": "string"}
_QUERY: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("category", "the listing, as `Rope and cordage > Mooring`; without it all products", _TEXT),
    ("q", "a search in the listing: every word, typing errors forgiven", {"type": "string", "maxLength": 80}),
    ("sort", "one of the listing's `sorts`", _TEXT),
    ("page", "from 1", {"type": "integer", "minimum": 1}),
    ("per", "products on a page", {"type": "integer", "minimum": 1, "maximum": 100}),
)
_PICKS = {
    "name": "picks", "in": "query", "style": "form", "explode": True,
    "description": "Any facet by its key: a bin\'s key, or `low..high` where it has a range; several times for several picks. "
                   "What is not known is passed over and said.",
    "schema": {"type": "object", "additionalProperties": {"type": "array", "items": {"type": "string"}}},
}  # fmt: skip


def _described(*names: str, picks: bool = True) -> dict[str, Any]:
    listed = [{"name": name, "in": "query", "description": words, "schema": schema} for name, words, schema in _QUERY if name in names]
    return {"parameters": [*listed, *([_PICKS] if picks else [])]}


def _problem(status: int, title: str) -> HttpResponse:
    response = HttpResponse(one_line({"title": title, "status": status}), status=status, content_type="application/json")
    if status == 503:
        response["Retry-After"] = "5"
    response["Cache-Control"] = "no-store"
    return response


@api.exception_handler(NotReady)
def _not_ready(request: HttpRequest, error: NotReady) -> HttpResponse:
    return _problem(503, "The first counts of the catalogue are being made. Ask again in a moment.")


@api.exception_handler(ValidationError)
def _not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    return _problem(422, "The call is not as the description has it.")


def _answer(request: HttpRequest, document: Any) -> HttpResponse:
    response = HttpResponse(one_line(documents.with_hosts(document, request.build_absolute_uri)), content_type="application/json")
    response["Cache-Control"] = "no-cache"  # to be kept, and asked whether it still holds
    return response


_validated: Callable[[Any], Any] = decorate_view(conditional_page)


def _asked(request: HttpRequest) -> Asked:
    sites.note_site(request)
    return asked(typed_pairs(request), reverse("shop-api:listing-data"))


def _is_unknown(query: Asked) -> bool:
    return query.nodes is not None and not query.index.has_category(query.nodes)


@api.get(
    "/listing", response={200: schemas.Listing, **_OTHERWISE}, operation_id="listing", url_name="listing-data",
    summary="Facets, counts and products under picks", openapi_extra=_described("category", "q", "sort", "page", "per"),
)  # fmt: skip
@_validated
def listing(request: HttpRequest) -> HttpResponse:
    """Give a listing as the shop shows it."""
    query = _asked(request)
    return _no_category() if _is_unknown(query) else _answer(request, documents.listing_document(listing_page(query)))


@api.get(
    "/suggestions", response={200: schemas.Suggestions, **_OTHERWISE}, operation_id="suggestions", url_name="suggestions-data",
    summary="What to suggest while somebody types", openapi_extra=_described("category", "q"),
)  # fmt: skip
@_validated
def suggest(request: HttpRequest) -> HttpResponse:
    """Give bins and products of the listing, under its picks."""
    query = _asked(request)
    return _no_category() if _is_unknown(query) else _answer(request, documents.suggestions_document(query))


@api.get(
    "/products/{path:number}", response={200: schemas.Product, **_OTHERWISE}, operation_id="product", url_name="product-data",
    summary="A product, on the article that was looked for", openapi_extra=_described("category", "q"),
)  # fmt: skip
@_validated
def product(request: HttpRequest, number: str) -> HttpResponse:
    """Give a product by its number, with the reasons why it is in the listing of the query."""
    query = _asked(request)
    known = query.held.products_of([number]).get(number)
    page = product_page(number, query) if known else None
    return _answer(request, documents.product_document(page, known)) if page and known else _problem(404, "There is no such product.")


@api.get(
    "/embeds/{name}", response={200: schemas.EmbedListing, **_OTHERWISE}, operation_id="embed", url_name="embed-data",
    summary="A listing as other sites show it, in parts",
    openapi_extra={"parameters": [*_described("sort", "per", "q")["parameters"], *(
        {"name": name, "in": "query", "schema": _TEXT, "description": words} for name, words in MEANT.items()
    )]},
)  # fmt: skip
@_validated
def embed(request: HttpRequest, name: str) -> HttpResponse:
    """Give the parts of a listing that the owner prepared for other sites, drawn."""
    pairs = typed_pairs(request)
    sites.note_site(request, shows=all(key in MEANT for key, _value in pairs))
    try:
        return _answer(request, embed_document(name, pairs))
    except NotThere as error:
        return _problem(404, str(error))


@api.get(
    "/categories",
    response={200: list[schemas.Category], **_OTHERWISE},
    operation_id="categories",
    url_name="categories-data",
    summary="The listings of categories",
)
@_validated
def categories(request: HttpRequest) -> HttpResponse:
    """Give the categories that have products."""
    sites.note_site(request)
    return _answer(request, documents.categories_document(current()))


def _no_category() -> HttpResponse:
    return _problem(404, "There is no such category, or nothing in it. /categories lists those there are.")
