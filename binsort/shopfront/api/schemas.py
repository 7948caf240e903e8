"""What the API answers, as OpenAPI describes it."""

from typing import Annotated, Any

from ninja import Schema
from pydantic import Field, WithJsonSchema

Number = Annotated[Any, WithJsonSchema({"type": ["number", "null"]})]  # written exactly, as the catalogue has it


class Sort(Schema):
    """An order of products that shoppers may choose."""

    key: str = Field(description="to be sent as `sort`")
    words: str
    chosen: bool


class Choice(Schema):
    """A bin as a shopper sees it."""

    key: str = Field(description="to be sent as the value of its facet")
    label: str
    count: int = Field(description="products there would be with it picked, too; of any-of facets in place of the others")
    picked: bool
    enabled: bool = Field(description="false: picking it leaves nothing")
    level: int = Field(description="of a category: how far it stands below the topmost shown")
    colours: list[str] = Field(description="as #rrggbb")
    image: str
    query: str = Field(description="the listing with it picked, or without it where it is picked")


class Range(Schema):
    """Two ends that a shopper may set freely: `facet=low..high`, either end may be left out."""

    low: str = Field(description="the bounds under the other picks")
    high: str
    start: str = Field(description="what is picked, empty for open")
    end: str
    prefix: str
    suffix: str


class Facet(Schema):
    """A facet under these picks, with its bins in the order of the rack."""

    key: str
    label: str
    help: str
    place: str = Field(description="`above` the products, at the `side`, or `below` them")
    control: str = Field(description="the control that the owner chose")
    one: bool = Field(description="one pick takes the place of the other")
    counts: bool = Field(description="whether counts are to be shown")
    open: bool
    choices: list[Choice]
    range: Range | None


class Pick(Schema):
    """A pick and the way out of it."""

    facet: str
    key: str = Field(description="a bin, or a range as `low..high`")
    label: str
    facet_label: str
    query: str = Field(description="the listing without it")


class Card(Schema):
    """A product in a listing: price, stock and picture are those of the articles that meet the picks."""

    id: str
    name: str
    brand: str
    image: str
    url: str = Field(description="as the catalogue has it; empty where it has none")
    address: str = Field(description="its page in the shop that Bin Sort serves")
    price: str = Field(description="in words, empty where there is none")
    lowest: Number
    highest: Number
    was: str = Field(description="the regular price in words, where the article is reduced")
    stock: str = Field(description="`in`, `backorder` or `out`")
    stock_words: str
    rating: str
    reviews: int
    article: str = Field(description="in which options it meets the picks, where other articles do not")


class Way(Schema):
    """What to leave out where nothing is left, and what that gives."""

    labels: list[str]
    total: int
    words: str
    query: str


class Listing(Schema):
    """A listing under picks."""

    title: str
    category: str | None
    query: str = Field(description="this listing, in its one form")
    address: str = Field(description="the same in the shop that Bin Sort serves")
    total: int = Field(description="products that meet the picks")
    whole: int = Field(description="products of the listing, or found in it by text, whatever is picked")
    search: str
    forgiven: list[str] = Field(description="words that are nowhere; what is most like them was taken")
    said: list[str] = Field(description="what of the query was not understood, or is no longer offered")
    currency: str
    sorts: list[Sort]
    facets: list[Facet]
    picks: list[Pick]
    clear: str = Field(description="the listing with nothing picked")
    page: int
    pages: int
    per: int
    products: list[Card]
    following: str = Field(description="the next page, begun behind the last product seen; empty after the last")
    ways_out: list[Way] = Field(description="where nothing is left: what to leave out, best first")


class EmbedTheme(Schema):
    """Properties of CSS by which the shop draws its facets: with its colours and type, and its measures alone."""

    colours: dict[str, str]
    measures: dict[str, str]


class EmbedApplies(Schema):
    """When a pick applies: `once`, or with a `button`."""

    wide: str
    phone: str


class EmbedListing(Schema):
    """A listing of another site under picks, as `/bins.js` shows it."""

    label: str
    query: str = Field(description="the picks and the order, in their one form")
    total: int
    listing: int = Field(description="products with nothing picked")
    said: str = Field(description="what a screen reader says after a pick")
    shown: int = Field(description="products that are shown")
    applies: EmbedApplies
    theme: EmbedTheme
    words: str = Field(description="what the button says that applies picks")
    parts: dict[str, str] = Field(
        description="HTML by part, empty where there is nothing to show; `rack:KEY` and `facet:KEY` of those that the query names"
    )


class SuggestedBin(Schema):
    """A bin to narrow to."""

    label: str
    facet: str
    total: int
    query: str


class Suggestions(Schema):
    """What is suggested while somebody types; empty below three letters."""

    text: str
    total: int
    bins: list[SuggestedBin]
    products: list[Card]
    forgiven: list[str]


class Article(Schema):
    """An article of a product."""

    sku: str
    options: dict[str, str]
    price: str
    was: str
    stock: str
    stock_words: str
    image: str
    matches: bool = Field(description="it is what was looked for")
    chosen: bool = Field(description="the page opens on it")


class Reason(Schema):
    """A pick, and what of the product meets it."""

    facet: str
    pick: str
    values: str


class Product(Schema):
    """A product, on the article that was looked for."""

    id: str
    name: str
    brand: str
    description: str
    image: str
    url: str
    address: str
    price: str
    was: str
    stock: str
    stock_words: str
    rating: str
    reviews: int
    facts: dict[str, str]
    articles: list[Article]
    reasons: list[Reason] = Field(description="why it is in the listing of the query")
    kept_out_by: list[str] = Field(description="picks, each of which alone keeps it out of the listing of the query")


class Category(Schema):
    """A listing of a category."""

    name: str
    category: str = Field(description="to be sent as `category`")
    level: int
    total: int


class Problem(Schema):
    """Why there is no answer (RFC 9457)."""

    title: str
    status: int
