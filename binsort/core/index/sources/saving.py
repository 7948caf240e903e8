"""What is saved on an article now: its regular price less what it costs, for sorting only."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import MONEY, SourceKind, register
from binsort.core.index.columns import Value
from binsort.core.products.product import Offer

from .pricing import PricingReader
from .source_reader import Circumstances, number_value


class Saving(PricingReader):
    """Reads what is saved on an article, 0 where it costs more than it does regularly."""

    kind = register(SourceKind(name="saving", has_numbers=True, written=MONEY, for_sorting=True))

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        offer = Offer(*item)
        price, regular = offer.price_now(at.now), offer.regular
        if price is not None and regular is not None:
            yield number_value(max(0, regular - price))


READER = Saving()
