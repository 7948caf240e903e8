"""The page *Add a facet*."""

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.racks.setup import rack_key, the_setup
from binsort.workbench.frame.views import OwnerView, based_on

from .page import add_page, proposal_named


class Add(OwnerView):
    """What can shoppers narrow by? Every source, tried on a listing."""

    template = "workbench/add/add.html"
    fragment = "workbench/add/_add.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        asked = {name: request.GET.get(name, "") for name in ("category", "group", "find", "source")}
        return self.show(request, {"page": add_page(the_setup(), **asked), "asked": asked})

    def post(self, request: HttpRequest) -> HttpResponse:
        setup, listing = the_setup(), request.POST.get("category", "")
        proposal = proposal_named(setup, listing, request.POST.get("source", ""))
        if proposal is None:
            messages.warning(request, _("Not added: that source is on the rack already, or gone from the catalogue."))
            return redirect("rack-add")
        try:
            done = facet_changes.add_facet(proposal.document, rack=rack_key(), actor=request.user, based_on=based_on(request))
        except facet_changes.EditedMeanwhile as other:
            messages.warning(
                request, _("Not added: meanwhile somebody else made a change, “%(other)s”. Look again, then add it.") % {"other": other}
            )
            return redirect("rack-add")
        messages.success(request, f"{done.summary}.", extra_tags="undo")
        if "set_up" in request.POST:
            return redirect("facet", key=proposal.spec.key)
        where = f"?{urlencode({'category': listing})}" if listing else ""
        return HttpResponseRedirect(f"{reverse('rack')}{where}#shelf-{proposal.spec.key}")
