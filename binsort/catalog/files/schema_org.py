"""What shops publish of their products beyond what a catalogue file has, read as attributes, prices and pictures of ours.

Names of properties are those of schema.org; codes of units those of UN/CEFACT recommendation 20.
"""

from collections.abc import Callable, Iterator
from typing import Any

from binsort.core.values.text import identity, normalise

_ATTRIBUTES = {
    "color": "Colour", "material": "Material", "pattern": "Pattern", "size": "Size", "model": "Model", "width": "Width",
    "height": "Height", "depth": "Depth", "weight": "Weight",
}  # fmt: skip
_CODES = "MMT mm CMT cm MTR m KMT km INH in FOT ft YRD yd MGM mg GRM g KGM kg TNE t LBR lb ONZ oz LTR l MLT ml CLT cl NEW N B47 kN"
_UNITS = dict(zip(_CODES.split()[::2], _CODES.split()[1::2], strict=True)) | {"WTT": "W", "KWT": "kW", "VLT": "V"}
_TAKEN = (
    "productGroupID sku name description image url brand category keywords datePublished releaseDate aggregateRating additionalProperty "
    "offers hasVariant isVisible manufacturer position"
)
_TAKEN_NAMES = frozenset(_TAKEN.split()) | _ATTRIBUTES.keys()
Note = Callable[[str, str], None]  # a kind of caution, and of what


def as_ours(document: dict[str, Any], note: Note) -> dict[str, Any]:
    """Return a product as a catalogue file has it; what has no place in one is noted."""
    ours = {**document}
    for name in sorted(document):
        if name not in _TAKEN_NAMES and not name.startswith("@") and document[name] not in (None, "", [], {}):
            note("untaken", name)
    ours["image"] = next(_addresses(document.get("image")), "")
    ours["brand"] = _first(document.get("brand")) or _first(document.get("manufacturer"))
    ours["datePublished"] = document.get("datePublished") or document.get("releaseDate")
    ours["category"] = [name for item in _listed(document.get("category")) if (name := _name(item))]
    keywords = document.get("keywords")
    ours["keywords"] = keywords if isinstance(keywords, str) else [name for item in _listed(keywords) if (name := _name(item))]
    if _first(document.get("offers")):
        ours["offers"] = _offer(_first(document.get("offers")), note)
    given = _listed(document.get("additionalProperty"))
    names = {identity(str(item.get("name"))) for item in given if isinstance(item, dict)}
    ours["additionalProperty"] = [*map(_measured, given), *_attributes(document, names)]
    ours["hasVariant"] = [as_ours(item, note) if isinstance(item, dict) else item for item in _listed(document.get("hasVariant"))]
    return {name: value for name, value in ours.items() if value not in (None, "", [])}


def _listed(written: Any) -> list[Any]:
    return written if isinstance(written, list) else [] if written is None else [written]


def _first(written: Any) -> Any:
    return next((item for item in _listed(written) if item), None)


def _addresses(written: Any) -> Iterator[str]:
    """Yield the addresses of pictures."""
    for item in _listed(written):
        address = item.get("contentUrl") or item.get("url") or item.get("@id") if isinstance(item, dict) else item
        if isinstance(address, str) and address:
            yield address


def _name(written: Any) -> str:
    """Return a text, or the name of an object that stands for one."""
    text = (written.get("name") or written.get("codeValue")) if isinstance(written, dict) else written
    return normalise(text) if isinstance(text, str) else ""


def _offer(offer: Any, note: Note) -> Any:
    """Return an offer; of several together the first, or one with the lowest of their prices."""
    if not isinstance(offer, dict) or ("lowPrice" not in offer and "offers" not in offer):
        return offer
    single = _first(offer.get("offers"))
    if isinstance(single, dict):
        return {**{name: offer[name] for name in ("priceCurrency", "availability") if name in offer}, **single}
    if offer.get("highPrice") not in (None, offer.get("lowPrice")):
        note("range", "")
    return {"price": offer.get("lowPrice"), **{name: value for name, value in offer.items() if name not in ("lowPrice", "highPrice")}}


def _attributes(document: dict[str, Any], names: set[str]) -> Iterator[dict[str, Any]]:
    for key, name in _ATTRIBUTES.items():
        if key not in document or {identity(name), identity(key)} & names:
            continue
        for value in _listed(document[key]):
            if isinstance(value, dict) and "value" in value:
                yield {**_measured(value), "name": name}
            elif isinstance(value, str | int) or _name(value):
                yield {"name": name, "value": value if isinstance(value, str | int) else _name(value)}


def _measured(item: Any) -> Any:
    """Return a value with its unit in letters."""
    if not isinstance(item, dict) or item.get("unitText") or item.get("unitCode") not in _UNITS:
        return item
    return {**item, "unitText": _UNITS[item["unitCode"]]}
