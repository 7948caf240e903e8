"""Words that shoppers use for what is in a bin, and the catalogue does not: search takes the bin for them.

They stand in the look of the facet, ``{"found_by": {BIN: [TEXT, ...]}}``, because no count of a listing changes by them.
"""

from collections.abc import Iterator
from copy import deepcopy
from typing import Any

from binsort.core.values.text import identity, normalise

FOUND_BY = "found_by"


def found_by(document: dict[str, Any]) -> Iterator[tuple[str, str, str]]:
    """Yield the words of a set-up: facet, bin, text; what is written otherwise than it should be is passed over.

    >>> facet = {"key": "group", "look": {"found_by": {"shock-cord": ["Bungee", 7], "rope": "line"}}}
    >>> list(found_by({"facets": [facet, {"key": "price"}]}))
    [('group', 'shock-cord', 'Bungee')]
    """
    for facet in document["facets"]:
        known = facet.get("look", {}).get(FOUND_BY)
        for bin, texts in known.items() if isinstance(known, dict) else ():
            for text in texts if isinstance(texts, list) else ():
                if isinstance(text, str) and normalise(text):
                    yield facet["key"], bin, normalise(text)


def with_words(document: dict[str, Any], key: str, bin: str, text: str) -> dict[str, Any]:
    """Return a set-up in which a text leads to a bin of a facet, and to no other.

    >>> setup = {"facets": [{"key": "group", "look": {"found_by": {"rope": ["bungee", "line"]}}}]}
    >>> with_words(setup, "group", "shock-cord", "Bungee")["facets"][0]["look"]
    {'found_by': {'rope': ['line'], 'shock-cord': ['Bungee']}}
    """
    changed, wanted = deepcopy(document), (key, bin, normalise(text))
    kept = [one for one in found_by(document) if identity(one[2]) != identity(text)]
    for facet in changed["facets"]:
        words: dict[str, list[str]] = {}
        for of, place, said in [*kept, wanted]:
            if of == facet["key"]:
                words.setdefault(place, []).append(said)
        look = {name: value for name, value in facet.get("look", {}).items() if name != FOUND_BY}
        if words or FOUND_BY in facet.get("look", {}):
            facet["look"] = {**look, **({FOUND_BY: words} if words else {})}
    return changed
