"""A rack to start with: looked at with any of its shelves left out, then taken."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.changes import facets as facet_changes
from binsort.changes.racks import RackRefused
from binsort.changes.starts import start_rack
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import OwnerView, based_on
from binsort.workbench.rack.page import rack_address

from .page import documents_of, start_page


class Start(OwnerView):
    """The proposal."""

    template = "workbench/start/start.html"
    fragment = "workbench/start/_start.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it with the facets that are ticked; at first with those that are proposed."""
        ticked = request.GET.getlist("facet") if "chosen" in request.GET else None
        setup = the_setup()
        return self.show(request, {"setup": setup, "page": start_page(setup, ticked)})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Take it into the draft."""
        documents = documents_of(the_setup(), request.POST.getlist("facet"))
        try:
            _edition, rack = start_rack(documents, actor=request.user, based_on=based_on(request))
        except facet_changes.EditedMeanwhile as other:
            messages.warning(request, _("Not done: meanwhile %(who)s made a change, “%(other)s”. Look again, then start.") % other.said)
            return redirect("start")
        except RackRefused as reason:
            messages.warning(request, _("Not done. %(reason)s") % {"reason": reason})
            return redirect("start")
        said = ngettext("%(count)s facet is on the rack.", "%(count)s facets are on the rack.", len(documents)) % {"count": len(documents)}
        messages.success(request, said + " " + _("Try it, then put it live."), extra_tags="undo")
        return redirect(rack_address(the_setup().draft.document, rack))
