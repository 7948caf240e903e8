"""Whether the price now is below the regular price."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.index.columns import Value
from binsort.core.products.product import Offer

from .pricing import PricingReader
from .source_reader import Circumstances

_PROPOSAL = {"label": "Reduced", "bins": {"rename": {"yes": "Reduced"}}}


class Reduced(PricingReader):
    """Reads whether the price now is below the regular price."""

    kind = register(
        SourceKind(
            name="reduced",
            known_as=("sale", "discount", "offer", "deal", "promotion", "special", "bargain"),
            may_be_absent=True,
            words="reduced prices",
            says_itself=True,
            place=40,
            proposal=_PROPOSAL,
        )
    )

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        if Offer(*item).is_reduced(at.now):
            yield Value("yes", "yes")


READER = Reduced()
