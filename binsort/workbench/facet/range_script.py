"""What the script of the range bench is given: the axis, the cuts, and how numbers and ranges are said."""

import json
from typing import Any

from django.conf import settings

from binsort.core.facets.kinds import AGE, DAYS, MONEY, RATED
from binsort.core.insight.axis import Axis
from binsort.racks.number_words import Words

_SIGN = "%"  # stands for a number in a pattern


def script_data(axis: Axis, words: Words, **more: Any) -> str:
    """Return it as JSON.

    Args:
        axis: of the bench.
        words: how numbers are written.
        more: what else the script needs.
    """
    return json.dumps({"axis": {"low": axis.low, "high": axis.high, "scale": axis.scale}, "words": _patterns(words), **more})


def _patterns(words: Words) -> dict[str, Any]:
    """Return how numbers and ranges are said, as patterns: a range while it is dragged reads as the server will say it."""
    said: dict[str, Any] = {"locale": settings.LOCALE.replace("_", "-"), "written": words.written}
    if words.written in (DAYS, AGE):
        return said
    style, nought = words.style, words.number(0)
    suffix = f" {words.unit}" if words.unit and words.written != RATED else ""
    return said | {
        "currency": words.currency if words.written == MONEY and style.prefix is None and style.suffix is None else "",
        "prefix": style.prefix or "",
        "suffix": suffix if style.suffix is None else style.suffix,
        "decimals": style.decimals,
        "grouped": style.grouped,
        "under": words.range(None, 0, inclusive=False).replace(nought, _SIGN),
        "upto": words.range(None, 0, inclusive=True).replace(nought, _SIGN),
        "over": words.range(0, None, inclusive=False).replace(nought, _SIGN),
        "between": " to " if words.written in (MONEY, RATED) else "–",
    }
