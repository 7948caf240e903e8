"""The rating of a product, as shown."""

from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from binsort.core.facets.kinds import RATED, SourceKind, register
from binsort.core.facets.spec import Source
from binsort.core.index.codes import RATING, FieldKey
from binsort.core.index.columns import Value

from .source_reader import Circumstances, SourceReader, number_value

_PROPOSAL = {"label": "Rating", "cuts": [3, 4, Fraction(9, 2)], "order": "-value", "look": {"control": "stars"}}


class Rating(SourceReader):
    """Reads ratings."""

    kind = register(
        SourceKind(
            name="rating",
            known_as=("review", "reviews", "stars", "score", "liked"),
            words="review average",
            has_numbers=True,
            written=RATED,
            group="numbers",
            proposal=_PROPOSAL,
            place=60,
        )
    )

    def fields(self, source: Source) -> tuple[FieldKey, ...]:
        return (RATING,)

    def read(self, item: Any, at: Circumstances) -> Iterator[Value | str]:
        yield number_value(item)


READER = Rating()
