"""What if: changes of a rack tried together, then kept in the draft or dropped."""

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.changes.checkups import mend_whole
from binsort.changes.facets import EditedMeanwhile
from binsort.core.facets.facet_file import FacetFileError
from binsort.core.insight.what_if import Change, tried
from binsort.racks.setup import UnknownRack, the_setup
from binsort.workbench.frame.views import OwnerView, based_on
from binsort.workbench.start.offered import offered_facets

from .page import changed_by, what_if_page


class WhatIf(OwnerView):
    """Changes on a copy, and their clicks."""

    template = "workbench/what_if/what_if.html"

    def get(self, request: HttpRequest, rack: str) -> HttpResponse:
        """Show them."""
        setup = the_setup()
        asked = {name: request.GET.get(name, "") for name in ("category", "shopper", "against", "look")}
        try:
            page = what_if_page(setup, rack, changed_by(request.GET), asked)
        except UnknownRack as error:
            raise Http404("There is no such rack.") from error
        return self.show(request, {"setup": setup, "page": page})

    def post(self, request: HttpRequest, rack: str) -> HttpResponse:
        """Keep what was tried in the draft."""
        changes = changed_by(request.POST)
        here = f"{reverse('what-if', args=[rack])}?{request.POST.get('query', '')}"
        try:
            self._keep(request, rack, changes)
        except EditedMeanwhile as other:
            messages.warning(request, _("Not done: meanwhile %(who)s made a change, “%(other)s”. Look again.") % other.said)
            return redirect(here)
        except (FacetFileError, StopIteration):
            messages.warning(request, _("Not done: that cannot be any more. Look again."))
            return redirect("racks")
        messages.success(request, _("Kept in the draft."), extra_tags="undo")
        return redirect("rack-of", rack)

    def _keep(self, request: HttpRequest, rack: str, changes: list[Change]) -> None:
        offered = offered_facets(the_setup())
        several = _("Kept %(count)s changes tried together") % {"count": len(changes)}
        words = several if len(changes) > 1 else _("Kept a change that was tried")
        mend_whole(words, lambda document: tried(document, rack, changes, offered), actor=request.user, based_on=based_on(request))
