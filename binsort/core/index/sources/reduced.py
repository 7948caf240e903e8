"""Whether the price now is below the regular price."""

from collections.abc import Iterator
from typing import Any

from binsort.core.facets.kinds import SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import PRICING, FieldKey
from binsort.core.index.columns import VARIANT, Value
from binsort.core.index.facts import Facts
from binsort.core.products.product import Offer

from .source_reader import Circumstances, SourceReader

_PROPOSAL = {"label": "Reduced", "bins": {"rename": {"yes": "Reduced"}}}


class Reduced(SourceReader):
    """Reads whether the price now is below the regular price."""

    kind = register(SourceKind(name="reduced", may_be_absent=True, words="reduced prices", says_itself=True, place=40, proposal=_PROPOSAL))

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (PRICING,)

    def level(self, facts: Facts, source: Source) -> str:
        return VARIANT

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        if Offer(*item).is_reduced(at.now):
            yield Value("yes", "yes")


READER = Reduced()
