"""A rack to start with: looked at with any of its shelves left out, then taken."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.changes import facets as facet_changes
from binsort.changes.checkups import mend_whole
from binsort.changes.racks import RackRefused
from binsort.changes.starts import start_rack
from binsort.core.insight.what_if import tried
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import OwnerView, based_on
from binsort.workbench.rack.page import rack_address

from .offered import offered_facets
from .page import documents_of, start_page
from .second import changes_for, rack_with_facets, second_page


class Start(OwnerView):
    """The proposal."""

    template = "workbench/start/start.html"
    fragment = "workbench/start/_start.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it with the facets that are ticked; at first with those that are proposed."""
        ticked = request.GET.getlist("facet") if "chosen" in request.GET else None
        setup = the_setup()
        rack = rack_with_facets(setup)
        page = second_page(setup, rack, ticked) if rack and "anew" not in request.GET else start_page(setup, ticked)
        return self.show(request, {"setup": setup, "page": page})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Take it into the draft: on a rack of its own, or what is new on the one there is."""
        if "rack" in request.POST:
            return self._add(request)
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

    def _add(self, request: HttpRequest) -> HttpResponse:
        setup = the_setup()
        rack, keys = rack_with_facets(setup), request.POST.getlist("facet")
        changes = changes_for(setup, rack, keys) if rack else []
        if not changes:
            messages.warning(request, _("Not done. Tick one facet at least."))
            return redirect("start")
        offered = offered_facets(setup)
        words = ngettext("Added %(count)s proposed facet", "Added %(count)s proposed facets", len(changes)) % {"count": len(changes)}
        try:
            mend_whole(words, lambda document: tried(document, rack, changes, offered), actor=request.user, based_on=based_on(request))
        except facet_changes.EditedMeanwhile as other:
            messages.warning(request, _("Not done: meanwhile %(who)s made a change, “%(other)s”. Look again, then add.") % other.said)
            return redirect("start")
        messages.success(request, f"{words}. " + _("Try it, then put it live."), extra_tags="undo")
        return redirect(rack_address(the_setup().draft.document, rack))
