"""Why a facet is proposed, and why one is left off, in words."""

from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.core.insight import starter
from binsort.core.insight.coverage import percent
from binsort.core.insight.starter import Candidate, LeftOff, OnRack


def why_on(shelf: OnRack, total: int, hanging: list[str]) -> str:
    """Say why a facet is on the rack."""
    one = shelf.candidate
    share = percent(one.binned, total)
    if shelf.why == starter.FIRST:
        return _first(one, total, hanging)
    if shelf.why == starter.ASKED:
        return _("Hardly narrows, but it is asked for: one switch, off at first.")
    if shelf.why == starter.WAITS:
        said = {"homes": _or(one.homes), "share": round(100 * one.at_home)}
        return _("Shows on %(homes)s and below: %(share)s%% have it there.") % said
    parts = [_("All have one.") if one.binned == total else _("%(share)s%% have it.") % {"share": share}]
    if one.spec.ranges:
        most = percent(max(one.counts), total)
        parts.append(_("Cut at round numbers, none above %(most)s%%.") % {"most": most + 1})
    elif one.spellings:
        bins = {"spellings": f"{one.spellings:,}", "bins": f"{len(one.counts):,}"}
        parts.append(_("%(spellings)s spellings make %(bins)s bins.") % bins)
    else:
        parts.append(_("A pick leaves 1 in %(part)s.") % {"part": max(1, round(total / shelf.leaves)) if shelf.leaves else 1})
    return " ".join(parts)


def _first(one: Candidate, total: int, hanging: list[str]) -> str:
    begin = _("All products are in one.") if one.binned == total else _("%(share)s%% are in one.") % {"share": percent(one.binned, total)}
    if not hanging:
        return begin
    first = ngettext("First, because %(facets)s hangs on it.", "First, because %(facets)s hang on it.", len(hanging))
    return f"{begin} {first % {'facets': _and(hanging)}}"


def why_off(one: LeftOff, total: int) -> str:
    """Say why a facet is left off."""
    candidate = one.candidate
    if one.why == starter.SAME and one.other and one.likeness:
        told = min(9, int(10 * one.likeness.guessed))
        return _("Says the same as %(other)s for %(told)s of 10 products") % {"other": one.other.spec.label, "told": told}
    if one.why == starter.EXACT and one.other:
        said = {"other": one.other.spec.label, "bins": f"{len(candidate.counts):,}"}
        return _("Says more exactly, in %(bins)s bins, what %(other)s says: for product pages") % said
    if one.why == starter.RARE:
        return _("Only %(share)s%% have it: most picks would hide the rest") % {"share": percent(candidate.binned, total)}
    if one.why == starter.MANY:
        return _("%(bins)s values: nobody reads that many") % {"bins": f"{len(candidate.counts):,}"}
    if one.why == starter.SELDOM:
        return _("Seldom what shoppers go by")
    if one.why == starter.ONE_BIN:
        most = {"most": f"{max(candidate.counts, default=0):,}", "total": f"{total:,}"}
        return _("Hardly narrows: %(most)s of %(total)s are in one bin") % most
    if one.why == starter.NARROW:
        return _("Saves next to nothing: few clicks lead to everything already")
    return ngettext("%(count)s shelf is enough", "%(count)s shelves are enough", starter.MOST) % {"count": starter.MOST}


_NAMED = 3


def _or(names: tuple[str, ...]) -> str:
    shown = names[:_NAMED]
    if len(names) > _NAMED:
        more = len(names) - _NAMED
        return ", ".join(shown) + " " + ngettext("or %(count)s more", "or one of %(count)s more", more) % {"count": more}
    return shown[0] if len(shown) == 1 else _("%(some)s or %(last)s") % {"some": ", ".join(shown[:-1]), "last": shown[-1]}


def _and(names: list[str]) -> str:
    if len(names) > _NAMED + 1:
        more = len(names) - _NAMED
        return ", ".join(names[:_NAMED]) + " " + ngettext("and %(count)s more", "and %(count)s more", more) % {"count": more}
    return names[0] if len(names) == 1 else _("%(some)s and %(last)s") % {"some": ", ".join(names[:-1]), "last": names[-1]}
