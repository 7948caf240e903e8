"""Strict JSON with exact numbers: what RFC 8259 allows and nothing more."""

import json
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from .numbers import TooLong, exact, written
from .products import Unusable


class BadJson(ValueError):
    """The text is not JSON, or holds a lone surrogate."""


def loads(text: str, *, surrogates: bool = False) -> Any:
    """Read JSON text; numbers become exact int or Fraction, too long ones :class:`Unusable`.

    Raises:
        BadJson: not JSON (``NaN`` is not), nested too deeply, or (unless ``surrogates``) a lone surrogate.
    """
    try:
        found = json.loads(text, parse_int=_number, parse_float=_number, parse_constant=_constant)
    except (ValueError, RecursionError) as error:
        raise BadJson("not JSON: " + str(error).split(":")[0]) from error
    if not surrogates and "\\u" in text and any(has_surrogate(part) for _, part in walk(found)):
        raise BadJson("not JSON text: half of a surrogate pair")
    return found


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
    if isinstance(node, int | Fraction) and not isinstance(node, bool):
        return written(node)
    if isinstance(node, list):
        return f"[{', '.join(map(one_line, node))}]"
    if isinstance(node, dict):
        parts = (f"{json.dumps(name, ensure_ascii=False)}: {one_line(child)}" for name, child in node.items())
        return f"{{{', '.join(parts)}}}"
    return json.dumps(node, ensure_ascii=False)


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
