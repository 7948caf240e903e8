"""Changes of what a facet waits for."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths
from binsort.changes import facets as facet_changes
from binsort.changes import rules as rule_changes
from binsort.core.facets.rule_edits import BINS, DAYS, HOWS, LISTING, PICKED, Line, below_it, circle_with, lines_of, needs_every
from binsort.core.insight.proposals import free_key
from binsort.core.values.dates import day
from binsort.core.values.text import identity
from binsort.racks.addresses import Pair
from binsort.racks.setup import Document, facet_document, rack_document, rack_of, the_setup
from binsort.workbench.frame.views import Edit, based_on
from binsort.workbench.rack.page import rack_address, rack_page
from binsort.workbench.rack.rule_mode import RULES, pairs_of_address


class When(Edit):
    """One change of a facet's rule; a circle is shown and not kept."""

    template = "workbench/rack/rack.html"
    fragment = "workbench/rack/_rack.html"

    def post(self, request: HttpRequest, **names: str) -> HttpResponse:
        key, document = names["key"], the_setup().draft.document
        asked = self._asked(request, document, key)
        if asked and "untie" not in request.POST and circle_with(document["facets"], key, asked[0]):
            return self._refused(request, key, asked)
        return super().post(request, **names)

    def _refused(self, request: HttpRequest, key: str, asked: tuple[list[Line], bool]) -> HttpResponse:
        """Show the circle that the lines would make."""
        setup = the_setup()
        rack = request.POST.get("rack") or rack_of(setup.draft.document, key)
        pairs: list[Pair] = [pair for pair in pairs_of_address(request.POST.get("next", "")) if pair[0] != RULES]
        page = rack_page(setup, [*pairs, (RULES, key)], rack_address(setup.draft.document, rack), rack, asked=asked)
        status = 200 if request.htmx else 422  # type: ignore[attr-defined]
        return self.show(request, {"setup": setup, "rack": page}, status=status)

    def _asked(self, request: HttpRequest, document: Document, key: str) -> tuple[list[Line], bool] | None:
        """Return the lines that the form asks for, None where the facet is gone."""
        facet = next((one for one in document["facets"] if one["key"] == key), None)
        if facet is None:
            return None
        form = request.POST
        if "tie" in form:
            return [*lines_of(facet), Line(form["tie"])], needs_every(facet)
        if "split" in form:
            return None
        if "bin" in form:
            other, _colon, bin_key = form["bin"].partition(":")
            return [_with_bin(line, bin_key) if line.facet == other else line for line in lines_of(facet)], needs_every(facet)
        count = int(form["lines"]) if form.get("lines", "").isdigit() else 0
        lines = [line for number in range(min(count, 50)) if (line := _line(request, number)) and form.get("drop") != str(number)]
        if form.get("add") == LISTING:
            lines.append(Line(how=LISTING, listing=_first_listing(form.get("next", ""))))
        elif form.get("add") == DAYS:
            lines.append(Line(how=DAYS, days=(timezone.localdate().isoformat(), "")))
        elif "add" in form and (free := _free(document, key, form.get("rack", ""), [line.facet for line in lines])):
            lines.append(Line(free))
        return lines, form.get("every") == "all"

    def change(self, request: HttpRequest, **names: str) -> None:
        key, document = names["key"], the_setup().draft.document
        facet = facet_document(document, key)
        if "split" in request.POST:
            self._split(request, facet)
            return
        asked = self._asked(request, document, key)
        if asked is None:
            return
        untie = tuple(request.POST.get("untie", "").split(":")[:2])
        rule_changes.set_rule(
            key, asked[0], every=asked[1], untie=untie if len(untie) == 2 else None, actor=request.user, based_on=based_on(request)
        )

    def _split(self, request: HttpRequest, facet: Document) -> None:
        """Add a facet of the categories below, which waits for this one."""
        document = the_setup().draft.document
        label = _kind_of(facet["label"])
        new = free_key(label, {one["key"] for one in document["facets"]})
        tops = [path[0] for path in category_paths().values() if len(path) == 1]
        rack = request.POST.get("rack") or rack_of(document, facet["key"])
        place, seen = rack_document(document, rack)["facets"].index(facet["key"]) + 1, based_on(request)
        done = facet_changes.add_facet(below_it(facet, new, label, tops), rack=rack, place=place, actor=request.user, based_on=seen)
        messages.success(request, f"{done.summary}.", extra_tags="undo")


_GENERAL = frozenset({"category", "categories", "department", "departments", "group", "groups", "section", "sections", "type", "types"})


def _kind_of(label: str) -> str:
    """Return what people would call the categories below those of a facet: kinds of rope, or just kinds."""
    return _("Kind") if identity(label) in _GENERAL else _("Kind of %(label)s") % {"label": label[:1].lower() + label[1:]}


def _first_listing(address: str) -> str:
    """Return the category that the page shows, else the first of the tree."""
    here = dict(pairs_of_address(address)).get("category", "")
    return here or next((" > ".join(path) for path in category_paths().values()), "")


def _day(request: HttpRequest, name: str) -> str:
    text = request.POST.get(name, "").strip()
    return text if day(text) and len(text) == len("2026-12-24") else ""


def _line(request: HttpRequest, number: int) -> Line | None:
    kind = request.POST.get(f"kind_{number}", "")
    if kind == LISTING:
        return Line(how=LISTING, listing=request.POST.get(f"listing_{number}", ""))
    if kind == DAYS:
        days = _day(request, f"from_{number}"), _day(request, f"to_{number}")
        return Line(how=DAYS, days=days if not all(days) or days[0] <= days[1] else (days[1], days[0]))
    facet, how = request.POST.get(f"facet_{number}", ""), request.POST.get(f"how_{number}", PICKED)
    return (
        Line(facet, how if how in HOWS else PICKED, tuple(request.POST.getlist(f"bins_{number}")) if how == BINS else ()) if facet else None
    )


def _with_bin(line: Line, key: str) -> Line:
    """Return a line with a bin waited for, or no longer."""
    bins = tuple(one for one in line.bins if one != key) if key in line.bins else (*line.bins, key)
    return Line(line.facet, BINS if bins else PICKED, bins)


def _free(document: Document, key: str, rack: str, taken: list[str]) -> str:
    """Return the facet that a new line asks for: the nearest one above it on its rack that makes no circle, else below."""
    having = [one for one in document["racks"] if key in one["facets"]]
    here = next((one for one in having if one["key"] == rack), having[0] if having else {"facets": []})
    keys: list[str] = here["facets"]
    place = keys.index(key) if key in keys else 0
    order = [*reversed(keys[:place]), *keys[place + 1 :]]
    free = [other for other in order if other not in taken]
    fit = [other for other in free if not circle_with(document["facets"], key, [Line(other)])]
    return next(iter(fit or free), "")
