"""What is counted. A kind is declared here, once, with the most different things a day may have of it."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Kind:
    """Something that happens."""

    key: str
    most: int = 5_000  # different things a day; the address of a stranger's making may name anything


SITE_SHOWN = Kind("site shown", 500)  # a listing was shown on another site; what: its origin
SITE_ASKED = Kind("site asked", 500)  # a site that is let in asked the API
SITE_REFUSED = Kind("site refused", 100)  # a site that is not let in asked

VISIT = Kind("visit", 2)  # somebody came from elsewhere
LOOKED = Kind("looked at", 5_000)  # somebody came to a listing; what: its path, empty for all products
UNFOLDED = Kind("unfolded", 2_000)  # a facet that stands shut was opened; what: the facet
USED = Kind("used", 2_000)  # a facet was picked in that had no pick before; what: the facet
FIRST = Kind("first", 2_000)  # of these the first of all; what: the facet
PICK = Kind("pick", 20_000)  # what: FACET=BIN, of a range FACET
TOGETHER = Kind("together", 5_000)  # two facets that are picked in at once; what: FACET FACET
DEAD_END = Kind("dead end", 5_000)  # picks that left nothing; what: them, as an address has them
IN_VAIN = Kind("in vain", 5_000)  # a search that found nothing; what: the text
FEW = Kind("few", 2)  # picks came down to twelve products or fewer
OPENED = Kind("opened", 2)  # a product's page was opened from a listing
REACHED = Kind("reached", 50_000)  # what: the product
BASKET = Kind("basket", 2)  # something was put into the basket
