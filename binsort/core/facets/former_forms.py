"""Former forms: what facet files said otherwise once, put the way it is said now."""

from typing import Any

_ENDS = {"least": "low", "most": "high"}


def upgraded(document: Any) -> Any:
    """Return a facet file's document in today's form; what cannot be read is left to the checks.

    The ends of a slider stood in the look of its facet, where they changed nothing but words.

    >>> upgraded({"facets": [{"key": "a", "free": True, "look": {"ends": {"most": 150}}}]})
    {'facets': [{'key': 'a', 'free': True, 'ends_at': {'high': 150}}]}
    """
    if not isinstance(document, dict) or not isinstance(document.get("facets"), list):
        return document
    return {**document, "facets": [_facet(facet) for facet in document["facets"]]}


def _facet(facet: Any) -> Any:
    if not isinstance(facet, dict) or not isinstance(facet.get("look"), dict) or not isinstance(facet["look"].get("ends"), dict):
        return facet
    look = {name: value for name, value in facet["look"].items() if name != "ends"}
    ends = {_ENDS.get(name, name): value for name, value in facet["look"]["ends"].items()}
    kept = {name: value for name, value in facet.items() if name != "look"} | ({"look": look} if look else {})
    holds = ends and facet.get("free") and "ends_at" not in facet
    return {**kept, "ends_at": ends} if holds else kept
