"""Freezing: facts as bytes that are read back fast, for keeping them beside the catalogue they come from.

The bytes are a zip archive of arrays in numpy's documented ``.npy`` format, without pickled objects; texts are JSON
inside such an array.
"""

import json
from collections.abc import Callable
from datetime import date
from fractions import Fraction
from io import BytesIO
from typing import Any
from zipfile import BadZipFile

import numpy as np
from numpy.typing import NDArray

from binsort.core.products.product import Property, Sale
from binsort.core.values.numbers import Number, Unusable

from .codes import FieldKey, Pricing, Vocabulary
from .facts import CodedField, Facts
from .packed_texts import Texts

FORMAT = 2  # moved on whenever older bytes could be misread


class UnreadableSnapshot(ValueError):
    """Bytes that hold no facts of this format."""


def freeze(facts: Facts, extra: dict[str, NDArray[Any]]) -> bytes:
    """Return facts as bytes.

    Args:
        facts: without empty slots, as :meth:`.facts.Facts.renumbered` gives them.
        extra: arrays to keep beside them.
    """
    fields = list(facts.fields)
    texts = {
        "format": FORMAT,
        "fields": fields,
        "items": [[_written(key)(item) for item in facts.items(key)] for key in fields],
    }
    arrays = {"keys": facts.keys, "places": facts.places, "visible": facts.visible, "starts": facts.starts, "by_key": facts.by_key}
    arrays |= {"ids": facts.ids.data, "id_ends": facts.ids.ends, "names": facts.names.data, "name_ends": facts.names.ends}
    for number, key in enumerate(fields):
        coded = facts.fields[key]
        arrays |= {f"owners{number}": coded.owners, f"codes{number}": coded.codes}
    arrays |= {f"extra_{name}": array for name, array in extra.items()}
    out = BytesIO()
    np.savez(out, texts=np.frombuffer(json.dumps(texts).encode(), dtype=np.uint8), **arrays)  # type: ignore[arg-type]
    return out.getvalue()


def thaw(frozen: bytes) -> tuple[Facts, dict[str, NDArray[Any]]]:
    """Return what :func:`freeze` was given. Raises UnreadableSnapshot."""
    try:
        with np.load(BytesIO(frozen), allow_pickle=False) as archive:
            arrays = {name: archive[name] for name in archive.files}
        texts = json.loads(arrays["texts"].tobytes())
        if texts["format"] != FORMAT:
            raise UnreadableSnapshot(f"format {texts['format']}, not {FORMAT}")
        vocabularies: dict[FieldKey, Vocabulary] = {}
        fields: dict[FieldKey, CodedField] = {}
        for number, (listed, items) in enumerate(zip(texts["fields"], texts["items"], strict=True)):
            key = tuple(listed)
            vocabularies[key] = Vocabulary(map(_read(key), items))
            codes = arrays[f"codes{number}"]
            fields[key] = CodedField(arrays[f"owners{number}"], codes, np.bincount(codes, minlength=len(items)))
    except (KeyError, ValueError, TypeError, OSError, EOFError, BadZipFile) as error:
        raise UnreadableSnapshot(str(error)) from error
    there = np.ones(len(arrays["keys"]), dtype=bool)
    facts = Facts(
        vocabularies, fields, arrays["keys"], arrays["places"], there, arrays["visible"], arrays["starts"],
        Texts(arrays["ids"], arrays["id_ends"]), Texts(arrays["names"], arrays["name_ends"]), arrays["by_key"],
    )  # fmt: skip
    return facts, {name.removeprefix("extra_"): array for name, array in arrays.items() if name.startswith("extra_")}


def _number(number: Number | None) -> str | None:
    return None if number is None else str(number)


def _exact(text: str | None) -> Any:
    if text is None:
        return None
    above, _, below = text.partition("/")
    return Fraction(int(above), int(below)) if below else int(above)


def _write_pricing(item: Pricing) -> list[Any]:
    sales = [[_number(sale.price), _number(sale.start), _number(sale.end)] for sale in item.sales]
    return [_number(item.price), _number(item.list_price), sales, item.has_sale_entry]


def _read_pricing(parts: list[Any]) -> Pricing:
    price, listed, sales, entry = parts
    return Pricing(_exact(price), _exact(listed), tuple(Sale(*map(_exact, sale)) for sale in sales), entry)


def _write_value(value: Any) -> Any:
    if isinstance(value, str | bool):
        return value
    return {"unusable": value.reason} if isinstance(value, Unusable) else {"n": str(value)}


def _read_value(stored: Any) -> Any:
    if isinstance(stored, dict):
        return _exact(stored["n"]) if "n" in stored else Unusable(stored["unusable"])
    return stored


def _write_property(item: Property) -> list[Any]:
    return [item.name, list(map(_write_value, item.values)), item.unit]


def _read_property(parts: list[Any]) -> Property:
    name, values, unit = parts
    return Property(name, tuple(map(_read_value, values)), unit)


_WAYS: dict[str, tuple[Callable[[Any], Any], Callable[[Any], Any]]] = {
    "attribute": (_write_property, _read_property),
    "pricing": (_write_pricing, _read_pricing),
    "category": (list, tuple),
    "rating": (_number, _exact),
    "level": (_number, _exact),
    "published": (date.isoformat, date.fromisoformat),
}


def _written(key: FieldKey) -> Callable[[Any], Any]:
    return _WAYS[key[0]][0] if key[0] in _WAYS else str


def _read(key: FieldKey) -> Callable[[Any], Any]:
    return _WAYS[key[0]][1] if key[0] in _WAYS else str
