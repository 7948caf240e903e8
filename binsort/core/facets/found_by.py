"""Words that shoppers use for what is in a bin, and the catalogue does not: search takes the bin for them.

They stand in the look of the facet, ``{"found_by": {BIN: [TEXT, ...]}}``, because no count of a listing changes by them. A bin is named
by its label, that of a category by its path, so that the words follow when these get other names.
"""

from collections.abc import Callable, Iterator
from copy import deepcopy
from typing import Any

from binsort.core.values.text import identity, normalise

FOUND_BY = "found_by"


def found_by(document: dict[str, Any]) -> Iterator[tuple[str, str, str]]:
    """Yield the words of a set-up: facet, bin, text; what is written otherwise than it should be is passed over.

    >>> facet = {"key": "group", "look": {"found_by": {"Shock cord": ["Bungee", 7], "Rope": "line"}}}
    >>> list(found_by({"facets": [facet, {"key": "price"}]}))
    [('group', 'Shock cord', 'Bungee')]
    """
    for facet in document["facets"]:
        known = facet.get("look", {}).get(FOUND_BY)
        for bin, texts in known.items() if isinstance(known, dict) else ():
            for text in texts if isinstance(texts, list) else ():
                if isinstance(text, str) and normalise(text):
                    yield facet["key"], bin, normalise(text)


def with_words(document: dict[str, Any], key: str, bin: str, text: str) -> dict[str, Any]:
    """Return a set-up in which a text leads to a bin of a facet, and to no other.

    >>> setup = {"facets": [{"key": "group", "look": {"found_by": {"Rope": ["bungee", "line"]}}}]}
    >>> with_words(setup, "group", "Shock cord", "Bungee")["facets"][0]["look"]
    {'found_by': {'Rope': ['line'], 'Shock cord': ['Bungee']}}
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


def named(label: str, nodes: tuple[str, ...]) -> str:
    """Return how a bin is named here.

    >>> named("Navy", ()), named("Shock cord", ("rope", "shock cord"))
    ('Navy', 'rope > shock cord')
    """
    return " > ".join(nodes) or label


def renamed(look: dict[str, Any], rename: Callable[[str], str]) -> None:
    """Let the words of a look follow bins that are called otherwise; those of two that become one stand together.

    >>> look = {"found_by": {"Navy": ["marine"], "Navy blue": ["marine", "ink"], "Red": []}}
    >>> renamed(look, lambda name: "Navy" if name == "Navy blue" else name)
    >>> look["found_by"]
    {'Navy': ['marine', 'ink'], 'Red': []}
    """
    known = look.get(FOUND_BY)
    if isinstance(known, dict):
        made: dict[str, list[Any]] = {}
        for name, texts in known.items():
            kept = made.setdefault(rename(name), [])
            kept += [text for text in texts if text not in kept]
        look[FOUND_BY] = made
