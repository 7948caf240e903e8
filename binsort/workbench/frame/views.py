"""What every page of the owner's starts from: signed in, with the draft in the top bar, a part of it for htmx."""

from typing import Any
from urllib.parse import urlsplit

from django.contrib import messages
from django.contrib.auth import logout
from django.contrib.auth.mixins import LoginRequiredMixin, UserPassesTestMixin
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import Resolver404, resolve
from django.utils.cache import patch_vary_headers
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l
from django.views import View

from binsort.changes.facets import EditedMeanwhile, KeptElsewhere
from binsort.changes.live import NotLive
from binsort.changes.racks import RackRefused
from binsort.people.acts import Act
from binsort.people.rights import allowed, member_of
from binsort.racks.setup import UnknownFacet, UnknownRack, the_setup
from binsort.workbench.rack.page import draft_state
from binsort.workbench.rights import needed

SIGNED_IN = "signed_in_at"  # in the session, as seconds


class OwnerView(LoginRequiredMixin, UserPassesTestMixin, View):
    """A page of the owner's: for the shop's own people, with the draft in the top bar; a part of it for htmx."""

    template = ""
    fragment = ""
    section = "racks"  # of the bar at the top

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        """Answer, unless it is somebody who was signed out everywhere since."""
        member = member_of(request.user)
        if member and member.signed_out_at and request.session.get(SIGNED_IN, 0) <= member.signed_out_at.timestamp():
            logout(request)
        try:
            return super().dispatch(request, *args, **kwargs)
        except KeptElsewhere as kept:
            return render(request, "workbench/frame/kept_elsewhere.html", {**self.rights(request, ""), "kept_in": kept.master}, status=409)

    def test_func(self) -> bool:
        """Tell whether the account may do what this address is for."""
        match = self.request.resolver_match
        act = needed(match.url_name or "", self.request.method or "GET") if match else None
        return act is not None and act in allowed(self.request.user)

    def show(self, request: HttpRequest, context: dict[str, Any], *, status: int = 200) -> HttpResponse:
        """Render the page, or the part of it that htmx swaps."""
        htmx = request.htmx  # type: ignore[attr-defined]
        partial = self.fragment and htmx and not htmx.history_restore_request
        setup = context.get("setup") or the_setup()
        frame = {"section": self.section, **draft_state(setup), **self.rights(request, setup.master)}
        response = render(request, self.fragment if partial else self.template, {**frame, **context}, status=status)
        patch_vary_headers(response, ["HX-Request"])
        response["Cache-Control"] = "no-store"
        return response

    def rights(self, request: HttpRequest, master: str) -> dict[str, Any]:
        """Return what the page shows of what somebody may do."""
        may, needs = allowed(request.user), _OF_SECTION.get(self.section, Act.DRAFT)
        is_kept = bool(master) and needs is Act.DRAFT and self.section not in ("review", "history", "file")
        return {
            "may": {act.value: act in may for act in Act},
            "perms_live": Act.LIVE in may,
            "looks_only": needs not in may or is_kept,
            "master": master if is_kept else "",
        }


_OF_SECTION = {
    "catalogue": Act.PRODUCTS,
    "activity": Act.PRODUCTS,
    "people": Act.PEOPLE,
    "sites": Act.LIVE,
}  # what changing something there needs


class CatalogueView(OwnerView):
    """A page about the catalogue."""

    section = "catalogue"


def back_to(request: HttpRequest, page: str) -> HttpResponse:
    """Go to the address of this tool that a form names as ``next``, else to a page by its name."""
    target = request.POST.get("next", "")
    is_own = target.startswith("/") and url_has_allowed_host_and_scheme(target, None)
    return redirect(target if is_own else page)


def based_on(request: HttpRequest) -> int | None:
    """Return the edition that the form was made from."""
    text = request.POST.get("edition", "")
    return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None


class Edit(OwnerView):
    """One change of the draft by a form; then back to where it was made."""

    def post(self, request: HttpRequest, **names: str) -> HttpResponse:
        try:
            self.change(request, **names)
        except EditedMeanwhile as other:
            messages.warning(
                request,
                _("Not done: meanwhile %(who)s made a change, “%(other)s”. You see it now; do yours again if it is still right.")
                % other.said,
            )
        except UnknownFacet:
            messages.warning(request, _("Not done: that facet is no longer on the rack."))
        except UnknownRack:
            messages.warning(request, _("Not done: that rack is not there any more."))
        except (RackRefused, NotLive) as reason:
            messages.warning(request, _("Not done. %(reason)s") % {"reason": reason})
        return redirect("rack") if _is_gone(request.POST.get("next", "")) else back_to(request, "rack")

    def change(self, request: HttpRequest, **names: str) -> None:
        """Make the change and say so."""
        raise NotImplementedError


def _is_gone(address: str) -> bool:
    """Tell whether an address is the page of a facet or rack that is not there any more, as after an undo of its beginning."""
    try:
        found = resolve(urlsplit(address).path)
    except (Resolver404, ValueError):
        return False
    racks = the_setup().draft.document["racks"]
    if "rack" in found.kwargs:
        return all(rack["key"] != found.kwargs["rack"] for rack in racks)
    return found.url_name == "facet" and all(found.kwargs["key"] not in rack["facets"] for rack in racks)


def not_allowed(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say to somebody who is signed in that this, or the whole tool, is not for this account."""
    return render(request, "workbench/frame/not_allowed.html", {"works_here": bool(allowed(request.user))}, status=403)


_ELSEWHERE = (  # what may have become of it, where to look for it
    ("/catalogue/attributes/", _l("The attribute may have been deleted."), "attributes", _l("Go to the attributes")),
    ("/catalogue/categories/", _l("The category may have been deleted."), "categories", _l("Go to the categories")),
    ("/catalogue/bring-in/", _l("The file may have been left, or is older than a week."), "bring-in", _l("Bring in a file")),
    ("/catalogue/", _l("The product may have been deleted or given another number."), "catalogue", _l("Go to the catalogue")),
    ("/", _l("The facet may have been taken off the rack or given another key."), "rack", _l("Go to the rack")),
)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say that there is nothing at an address of the tool."""
    _start, reason, page, words = next(one for one in _ELSEWHERE if request.path.startswith(one[0]))
    return render(request, "workbench/frame/not_found.html", {"reason": reason, "page": page, "words": words}, status=404)
