"""Strict JSON with exact numbers: what RFC 8259 allows and nothing more."""

import json
import re
from collections.abc import Iterator
from fractions import Fraction
from secrets import token_hex
from typing import Any

from .numbers import TooLong, Unusable, exact, written

_MARK = token_hex(12)  # nobody can write it into a text beforehand
_SHORT, _SMALL = 10_000, 2**33  # four decimals, ten digits before them
_MARKED = re.compile(f'"{_MARK}([^"]*)"')


class BadJson(ValueError):
    """The text is not JSON, or holds a lone surrogate."""


def loads(text: str, *, surrogates: bool = False) -> Any:
    """Read JSON text; numbers become exact int or Fraction, too long ones :class:`Unusable`.

    Raises:
        BadJson: not JSON (``NaN`` is not), nested too deeply, or (unless ``surrogates``) a lone surrogate.
    """
    try:
        document = json.loads(text, parse_int=_number, parse_float=_number, parse_constant=_constant)
    except (ValueError, RecursionError) as error:
        raise BadJson("not JSON: " + str(error).split(":")[0]) from error
    if not surrogates and "\\u" in text and any(has_surrogate(part) for _, part in walk(document)):
        raise BadJson("not JSON text: half of a surrogate pair")
    return document


def _number(literal: str) -> int | Fraction | Unusable:
    try:
        return exact(literal)
    except TooLong:
        return Unusable("a number of more than 1,000 digits")


def _constant(name: str) -> Any:
    raise ValueError(f"{name} is not JSON")


def one_line(node: Any) -> str:
    """Write JSON on one line with exact numbers.

    >>> one_line({"cuts": [exact("0.10"), 2]})
    '{"cuts": [0.1, 2]}'
    """
    text = _ENCODER.encode(node)
    return _MARKED.sub(r"\1", text) if _MARK in text else text


def _marked(node: Any) -> str | float:
    """Return a number as a text that is known again, for the encoder cannot write it; a short one as the float written so.

    Of up to 15 digits each decimal has a float of its own, which is written as that decimal (IEEE 754: binary64).
    """
    if isinstance(node, Fraction):
        if _SHORT % node.denominator == 0 and -_SMALL < node.numerator < _SMALL:
            return node.numerator / node.denominator
        return _MARK + written(node)
    raise TypeError(f"{type(node).__name__} is nothing that JSON has")


_ENCODER = json.JSONEncoder(ensure_ascii=False, default=_marked)


def dumps(node: Any, indent: int = 0) -> str:
    """Write a document with exact numbers, indented; what :func:`loads` read comes out with nothing rounded.

    >>> dumps({"cuts": [exact("0.10"), 2]})
    '{\\n  "cuts": [0.1, 2]\\n}'
    """
    if (
        not isinstance(node, dict | list)
        or not node
        or (isinstance(node, list) and not any(isinstance(item, dict | list) for item in node))
    ):
        return one_line(node)
    inner = "\n" + "  " * (indent + 1)
    outer = "\n" + "  " * indent
    if isinstance(node, list):
        return f"[{inner}{f',{inner}'.join(dumps(item, indent + 1) for item in node)}{outer}]"
    parts = (f"{json.dumps(name, ensure_ascii=False)}: {dumps(child, indent + 1)}" for name, child in node.items())
    return f"{{{inner}{f',{inner}'.join(parts)}{outer}}}"


def walk(node: Any, path: tuple[str | int, ...] = ()) -> Iterator[tuple[tuple[str | int, ...], Any]]:
    """Yield every name and every leaf of a document with the path that leads to it."""
    if isinstance(node, dict):
        for name, child in node.items():
            yield (*path, name), name
            yield from walk(child, (*path, name))
    elif isinstance(node, list):
        for place, child in enumerate(node):
            yield from walk(child, (*path, place))
    else:
        yield path, node


def has_surrogate(part: Any) -> bool:
    """Tell whether a text holds half of a surrogate pair."""
    return isinstance(part, str) and any("\ud800" <= c <= "\udfff" for c in part)
