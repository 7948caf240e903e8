"""The page of other sites: which may show listings of this shop, and how they ask for them."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.changes import sites
from binsort.changes.locks import Refused
from binsort.racks.models import Site
from binsort.workbench.frame.views import OwnerView, back_to


class SitesView(OwnerView):
    """Its part of the tool."""

    section = "sites"


class Sites(SitesView):
    """Who may show listings."""

    template = "workbench/sites/sites.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show the sites, and a call to begin with."""
        address = request.build_absolute_uri(reverse("shop-api:listing-data"))
        return self.show(request, {"sites": Site.objects.select_related("actor"), "address": address, "wrong": "", "typed": ""})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Let one in."""
        text = request.POST.get("site", "")
        try:
            site, is_new = sites.let_in(text, actor=request.user)
        except Refused as error:
            address = request.build_absolute_uri(reverse("shop-api:listing-data"))
            known = {"sites": Site.objects.select_related("actor"), "address": address, "wrong": str(error), "typed": text[:200]}
            return self.show(request, known, status=422)
        said = _("%(site)s may show listings from now on.") if is_new else _("%(site)s was let in before.")
        messages.info(request, said % {"site": site.origin})
        return redirect("sites")


class SiteEnd(SitesView):
    """Letting a site in no more."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        site = sites.end(number, actor=request.user)
        said = _("%(site)s may show listings no more. Let it in again below if that was not meant.") if site else _("It was ended before.")
        messages.info(request, said % {"site": site.origin} if site else said)
        return back_to(request, "sites")
