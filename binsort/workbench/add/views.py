"""The page *Add a facet*."""

from urllib.parse import urlencode

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.changes import racks as rack_changes
from binsort.changes.racks import RackRefused
from binsort.racks.models import Edition
from binsort.racks.setup import UnknownFacet, UnknownRack, the_setup
from binsort.workbench.frame.views import OwnerView, based_on
from binsort.workbench.rack.page import rack_address

from .page import add_page, proposal_named


class Add(OwnerView):
    """What can shoppers narrow by? Every source, tried on a listing."""

    template = "workbench/add/add.html"
    fragment = "workbench/add/_add.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        asked = {name: request.GET.get(name, "") for name in ("rack", "category", "group", "find", "source")}
        return self.show(request, {"page": add_page(the_setup(), **asked), "asked": asked})

    def post(self, request: HttpRequest) -> HttpResponse:
        setup, listing = the_setup(), request.POST.get("category", "")
        rack = request.POST.get("rack") or setup.draft.document["racks"][0]["key"]
        where = urlencode({name: text for name, text in (("rack", rack), ("category", listing)) if text})
        try:
            key, done = self._add(request, rack, listing)
        except facet_changes.EditedMeanwhile as other:
            messages.warning(request, _("Not added: meanwhile %(who)s made a change, “%(other)s”. Look again, then add it.") % other.said)
        except UnknownRack:
            messages.warning(request, _("Not added: that rack is not there any more. Choose another one."))
            return redirect("rack")
        except (UnknownFacet, RackRefused):
            messages.warning(request, _("Not added: that source is on the rack already, or gone from the catalogue."))
        else:
            messages.success(request, f"{done.summary}.", extra_tags="undo")
            if "set_up" in request.POST:
                return redirect("facet", key=key)
            query = f"?{urlencode({'category': listing})}" if listing else ""
            return HttpResponseRedirect(f"{rack_address(the_setup().draft.document, rack)}{query}#shelf-{key}")
        return HttpResponseRedirect(f"{reverse('rack-add')}?{where}")

    def _add(self, request: HttpRequest, rack: str, listing: str) -> tuple[str, Edition]:
        """Make a facet of a source, or take one of another rack. Raises UnknownFacet where there is nothing of the kind."""
        seen = based_on(request)
        if facet := request.POST.get("facet"):
            copied = "copy" in request.POST
            return rack_changes.put_on_rack(facet, rack, copied=copied, actor=request.user, based_on=seen)
        proposal = proposal_named(the_setup(), listing, request.POST.get("source", ""))
        if proposal is None:
            raise UnknownFacet
        done = facet_changes.add_facet(proposal.document, rack=rack, actor=request.user, based_on=seen)
        return proposal.spec.key, done
