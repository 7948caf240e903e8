"""Where it is told why a product is in a listing or is not."""

from collections.abc import Sequence

from django.urls import reverse

from binsort.core.facets.places import SIDE, Listing, Places
from binsort.core.values.text import category_path, identity
from binsort.racks.addresses import Pair, query_string
from binsort.racks.models import Setup
from binsort.tally.current import current


def reasons_address(setup: Setup, pairs: Sequence[Pair]) -> str:
    """Return the address for a product, a listing and picks; without a listing the product's longest category is taken. Raises NotReady.

    Args:
        setup: the set-up.
        pairs: ``product``, its number; ``category``, a path; picks.
    """
    named = dict(pairs)
    path = category_path(named.get("category", ""))
    if not path and (number := named.get("product", "")):
        product = current().products_of([number]).get(number)
        path = max(product.categories, key=len, default=()) if product else ()
    document = setup.draft.document
    keys = [rack["key"] for rack in document["racks"]]
    shown = Places.of(document).at(Listing.of(tuple(map(identity, path)) or None), SIDE).rack
    rest = [pair for pair in pairs if pair[0] not in ("category", "sort", "page", "per", "q")]
    return reverse("why", args=[shown if shown in keys else keys[0]]) + query_string(
        [*([("category", " > ".join(path))] if path else []), *rest]
    )
