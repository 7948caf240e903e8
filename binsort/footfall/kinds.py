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
