"""The JSON API for other systems: products, prices, stock and files. Described by OpenAPI 3.1 at ``/api/v1/openapi.json``."""

from collections.abc import Callable
from typing import Annotated, Any

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse
from ninja import File, NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError
from ninja.files import UploadedFile
from ninja.parser import Parser
from ninja.renderers import BaseRenderer
from ninja.security import HttpBearer
from pydantic import Field

from binsort.catalog.api import payloads
from binsort.catalog.files import uploads
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.models import Product as Row
from binsort.catalog.models import Token, Upload
from binsort.catalog.store.product_rows import products_of, read_products
from binsort.changes import tokens, upserts
from binsort.changes.imports import take
from binsort.changes.locks import BeyondLimit, Refused
from binsort.core.products.catalogue_writer import document_of
from binsort.core.values.strict_json import BadJson, dumps, loads

PAGE = 200  # products in one answer at most


class ExactParser(Parser):
    """Reads numbers exactly, as everywhere else."""

    def parse_body(self, request: HttpRequest) -> Any:
        """Return the body of a request."""
        try:
            return loads(request.body.decode("utf-8"))
        except RequestDataTooBig as error:
            raise HttpError(413, "The body is larger than 32 MB. Send fewer products in a call.") from error
        except (UnicodeDecodeError, BadJson, RecursionError) as error:
            raise HttpError(400, "The body is no JSON in UTF-8.") from error


class ExactRenderer(BaseRenderer):
    """Writes numbers exactly."""

    media_type = "application/json"

    def render(self, request: HttpRequest, data: Any, *, response_status: int) -> str:
        """Return an answer as JSON."""
        return dumps(data)


class Bearer(HttpBearer):
    """A token in the header ``Authorization: Bearer …``."""

    def authenticate(self, request: HttpRequest, token: str) -> Token | None:
        """Return the token, None where it is none. Raises HttpError where it may not do that."""
        known = tokens.known(token)
        needed = "look" if request.method in ("GET", "HEAD") else "products"
        if known is not None and needed not in known.acts:
            raise HttpError(403, f"The token of {known.name} may not do that. Give it one that may, on the page People.")
        return known


Item = dict[str, Any]
Amount = Annotated[Any, Field(json_schema_extra={"anyOf": [{"type": "number"}, {"type": "string"}, {"type": "null"}]})]


class Products(Schema):
    """Products as schema.org has them."""

    products: list[Item] = Field(max_length=payloads.MOST)


class Numbers(Schema):
    """Numbers of products."""

    numbers: list[str] = Field(max_length=payloads.MOST)


class Article(Schema):
    """What is to be set of one article; what is not sent stays, null takes it away."""

    sku: str = Field(min_length=1, description="of a variant, or of a product without variants")
    price: Amount = None
    list_price: Amount = None
    level: Amount = None
    availability: str | None = Field(None, description="as schema.org has it: InStock, OutOfStock, BackOrder…")


class Articles(Schema):
    """Prices and stock of articles."""

    items: list[Article] = Field(max_length=payloads.MOST)


class Done(Schema):
    """What a call did."""

    new: int = 0
    changed: int = 0
    unchanged: int = 0
    unknown: list[str] = []


class Listed(Schema):
    """A part of the catalogue."""

    products: list[Item]
    next: int | None = Field(None, description="to be sent as `after` for those that follow; null: there are none")


class Wrong(Schema):
    """What is wrong with one part of a call."""

    place: str
    text: str


class Problem(Schema):
    """Why nothing was done (RFC 9457)."""

    title: str
    status: int
    problems: list[Wrong] = []


class FileState(Schema):
    """A file on its way in."""

    number: int
    name: str
    form: str
    state: str
    problem: str
    report: Item


api = NinjaAPI(
    title="Bin Sort catalogue", version="1", description="Products, prices and stock from other systems. Every call is all or nothing.",
    auth=Bearer(), parser=ExactParser(), renderer=ExactRenderer(), docs_url=None, urls_namespace="catalogue-api",
)  # fmt: skip
_REFUSED: dict[Any, Any] = {400: Problem, 401: Problem, 403: Problem, 413: Problem, 422: Problem, 429: Problem, 503: Problem}
_OF_ONE: dict[Any, Any] = {404: Problem, **_REFUSED}


def _problem(request: HttpRequest, status: int, title: str, problems: list[dict[str, str]] | None = None) -> HttpResponse:
    content = dumps({"title": title, "status": status, "problems": problems or []})
    response = HttpResponse(content, status=status, content_type="application/json")
    if status == 503:
        response["Retry-After"] = "5"
    if status == 401:
        response["WWW-Authenticate"] = "Bearer"
    return response


@api.exception_handler(AuthenticationError)
def _no_token(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _problem(request, 401, "No token, or one that was ended. Send Authorization: Bearer and a token of the page API.")


@api.exception_handler(ValidationError)
def _not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    problems = [{"place": ".".join(map(str, one.get("loc", ()))), "text": str(one.get("msg", ""))} for one in error.errors]
    return _problem(request, 422, "The call is not as the description has it.", problems)


@api.exception_handler(HttpError)
def _http(request: HttpRequest, error: HttpError) -> HttpResponse:
    return _problem(request, error.status_code, str(error))


@api.exception_handler(payloads.BadItems)
def _bad_items(request: HttpRequest, error: payloads.BadItems) -> HttpResponse:
    return _problem(request, 422, "Nothing was changed.", [{"place": str(one.place), "text": one.text} for one in error.problems])


@api.exception_handler(BeyondLimit)
def _beyond_limit(request: HttpRequest, error: BeyondLimit) -> HttpResponse:
    return _problem(request, 422, f"Nothing was changed: {error}")


@api.exception_handler(Refused)
def _refused(request: HttpRequest, error: Refused) -> HttpResponse:
    return _problem(request, 503, f"Nothing was changed: {error}")


@api.exception_handler(UnreadableTable)
def _unreadable(request: HttpRequest, error: UnreadableTable) -> HttpResponse:
    return _problem(request, 422, f"The file cannot be read: {error}")


def _name(request: HttpRequest) -> str:
    """Return the name of the system that calls."""
    return str(request.auth.name)  # type: ignore[attr-defined]


def _told(done: upserts.Done) -> Item:
    return {"new": done.new, "changed": done.changed, "unchanged": done.unchanged, "unknown": done.unknown}


@api.get("/products", response={200: Listed, **_REFUSED}, operation_id="list_products", summary="The catalogue, some products at a time")
def list_products(
    request: HttpRequest, after: Annotated[int, Field(ge=0, le=2**62)] = 0, most: Annotated[int, Field(ge=1, le=PAGE)] = PAGE
) -> HttpResponse:
    """Give products in the order in which they came, from behind ``after``."""
    keys = list(Row.objects.filter(pk__gt=after).order_by("pk").values_list("pk", flat=True)[: most + 1])
    documents = {key: document_of(product) for key, _, product in read_products(keys[:most])}
    following = keys[most - 1] if len(keys) > most else None
    return _answer({"products": [documents[key] for key in keys[:most] if key in documents], "next": following})


@api.put("/products", response={200: Done, **_REFUSED}, operation_id="put_products", summary="Write up to 1,000 products")
def put_products(request: HttpRequest, body: Products) -> Item:
    """Write products; those that are there are replaced. Sending them again changes nothing."""
    return _told(upserts.upsert_products(body.products, by=_name(request)))


@api.post("/products/delete", response={200: Done, **_REFUSED}, operation_id="delete_products", summary="Delete up to 1,000 products")
def delete_products(request: HttpRequest, body: Numbers) -> Item:
    """Delete products by number."""
    return _told(upserts.delete_products(body.numbers, by=_name(request)))


@api.get("/products/{path:number}", response={200: Item, **_OF_ONE}, operation_id="get_product", summary="One product")
def get_product(request: HttpRequest, number: str) -> HttpResponse:
    """Give a product by its number."""
    product = products_of([number], hidden=True).get(number)
    if product is None:
        return _problem(request, 404, f"There is no product {number}.")
    return _answer(document_of(product))


@api.patch("/offers", response={200: Done, **_REFUSED}, operation_id="set_offers", summary="Set price and stock of up to 1,000 articles")
def set_offers(request: HttpRequest, body: Articles) -> Item:
    """Set price, list price, stock level and availability. Numbers that are not known are told."""
    sent = [{name: getattr(item, name) for name in item.model_fields_set} for item in body.items]  # as it came: numbers stay exact
    return _told(upserts.set_offers(sent, by=_name(request)))


@api.post("/files", response={200: FileState, **_REFUSED}, operation_id="send_file", summary="Send a file and try it")
def send_file(request: HttpRequest, file: File[UploadedFile]) -> Item:
    """Keep a file and say what it would do."""
    upload = uploads.keep(file.chunks(), file.name or "file", actor=request.auth.actor)  # type: ignore[attr-defined]
    uploads.try_out(upload)
    return _file(upload)


@api.get("/files/{int:number}", response={200: FileState, **_OF_ONE}, operation_id="get_file", summary="What a file would do")
def get_file(request: HttpRequest, number: int) -> Any:
    """Say what a file would do, or did."""
    return _with_file(request, number, _file)


@api.post("/files/{int:number}/bring", response={200: FileState, **_OF_ONE}, operation_id="bring_file", summary="Bring a file in")
def bring_file(request: HttpRequest, number: int) -> Any:
    """Bring in a file that was tried, all of it or nothing."""

    def bring(upload: Upload) -> Item:
        if upload.state != Upload.State.DONE:
            take(upload)
        return _file(upload)

    return _with_file(request, number, bring)


def _with_file(request: HttpRequest, number: int, do: Callable[[Upload], Item]) -> Any:
    upload = Upload.objects.filter(pk=number).first() if number < 2**62 else None
    return do(upload) if upload else _problem(request, 404, "There is no such file.")


def _file(upload: Upload) -> Item:
    return {
        "number": upload.pk, "name": upload.name, "form": upload.form, "state": upload.state, "problem": upload.problem,
        "report": upload.report,
    }  # fmt: skip


def _answer(content: Item) -> HttpResponse:
    return HttpResponse(dumps(content), content_type="application/json")
