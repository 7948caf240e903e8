"""The price of an article now."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import MONEY, SourceKind, register
from binsort.core.index.columns import Value
from binsort.core.products.product import Offer

from .pricing import PricingReader
from .source_reader import Circumstances, number_value


class Price(PricingReader):
    """Reads the price of an article now."""

    kind = register(
        SourceKind(
            name="price",
            known_as=("cost", "amount", "money"),
            words="price",
            has_numbers=True,
            written=MONEY,
            group="numbers",
            proposed_cuts=True,
            place=30,
            proposal={"label": "Price", "free": True, "look": {"control": "slider"}},
        )
    )

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        price = Offer(*item).price_now(at.now)
        if price is not None:
            yield number_value(price)


READER = Price()
