"""The page *How it behaves*."""

from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.utils.translation import gettext as _

from binsort.changes import racks as rack_changes
from binsort.core.facets.behaviour import Behaviour
from binsort.racks.addresses import query_pairs
from binsort.racks.models import Setup
from binsort.racks.setup import UnknownRack, rack_document, the_setup
from binsort.workbench.frame.views import Edit, based_on
from binsort.workbench.rack.page import listings

from .form import BehaviourForm, sorts_of
from .page import behaves_page


class Behaves(Edit):
    """How a rack behaves; each change is kept at once."""

    template = "workbench/behaves/behaves.html"
    fragment = "workbench/behaves/_behaves.html"

    def get(self, request: HttpRequest, rack: str) -> HttpResponse:
        setup = the_setup()
        form = BehaviourForm(behaviour=_behaviour_or_404(setup, rack), listings=listings())
        return self.show(request, self._context(request, setup, rack, form))

    def post(self, request: HttpRequest, **names: str) -> HttpResponse:
        setup, rack = the_setup(), names["rack"]
        behaviour = _behaviour_or_404(setup, rack)
        form = BehaviourForm(request.POST, behaviour=behaviour, listings=listings())
        if "per" in request.POST and not form.is_valid():
            status = 200 if request.htmx else 422  # type: ignore[attr-defined]
            return self.show(request, self._context(request, setup, rack, form), status=status)
        done = super().post(request, **names)
        return self.get(request, rack) if request.htmx else done  # type: ignore[attr-defined]

    def _context(self, request: HttpRequest, setup: Setup, rack: str, form: BehaviourForm) -> dict[str, Any]:
        return {"setup": setup, "page": behaves_page(setup, rack, query_pairs(request)), "form": form}

    def change(self, request: HttpRequest, **names: str) -> None:
        behaviour = Behaviour.of(rack_document(the_setup().draft.document, names["rack"]))
        form = BehaviourForm(request.POST, behaviour=behaviour, listings=listings())
        made = form.made() if "per" in request.POST and form.is_valid() else behaviour
        sorting = "hidden" if request.POST.get("sorting") == "hidden" else made.sorting
        made = replace(made, sorts=sorts_of(request.POST, request.POST.getlist("sort"), behaviour), sorting=sorting)
        rack_changes.set_behaviour(names["rack"], made, actor=request.user, based_on=based_on(request))


def _behaviour_or_404(setup: Setup, rack: str) -> Behaviour:
    try:
        return Behaviour.of(rack_document(setup.draft.document, rack))
    except UnknownRack as error:
        raise Http404(_("There is no such rack.")) from error
