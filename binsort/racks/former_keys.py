"""Former keys: addresses that people kept, and pages of others, name facets as they were called once."""

from collections.abc import Container

from django.db.models import Q

from .models import FormerKey


def keys_now(unknown: set[str], known: Container[str]) -> dict[str, str]:
    """Return the keys of today, among those known, of facets that were called otherwise; a facet may have had several."""
    safe = {name for name in unknown if "\0" not in name}
    rows = list(FormerKey.objects.filter(Q(old__in=safe) | Q(new__in=safe)).values_list("old", "new")) if safe else []
    if not rows:
        return {}
    links: dict[str, set[str]] = {}
    for old, new in FormerKey.objects.values_list("old", "new"):
        links.setdefault(old, set()).add(new)
        links.setdefault(new, set()).add(old)
    return {name: now for name in safe if (now := _reached(name, links, known))}


def _reached(name: str, links: dict[str, set[str]], known: Container[str]) -> str:
    """Return the known key to which names lead, one after another; empty where none is."""
    reached, waiting = {name}, [name]
    while waiting:
        for other in sorted(links.get(waiting.pop(0), set()) - reached):
            if other in known:
                return other
            reached.add(other)
            waiting.append(other)
    return ""
