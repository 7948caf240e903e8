"""What every page of the owner's starts from: signed in, with the draft in the top bar, a part of it for htmx."""

from typing import Any
from urllib.parse import urlsplit

from django.contrib import messages
from django.contrib.auth.mixins import LoginRequiredMixin, UserPassesTestMixin
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import Resolver404, resolve
from django.utils.cache import patch_vary_headers
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l
from django.views import View

from binsort.changes.facets import EditedMeanwhile
from binsort.racks.setup import UnknownFacet, the_setup
from binsort.workbench.rack.page import draft_state


class OwnerView(LoginRequiredMixin, UserPassesTestMixin, View):
    """A page of the owner's: for the shop's own people, with the draft in the top bar; a part of it for htmx."""

    template = ""
    fragment = ""
    section = "racks"  # of the bar at the top

    def test_func(self) -> bool:
        """Tell whether the account is of somebody who works here."""
        return bool(self.request.user.is_staff)

    def show(self, request: HttpRequest, context: dict[str, Any], *, status: int = 200) -> HttpResponse:
        """Render the page, or the part of it that htmx swaps."""
        htmx = request.htmx  # type: ignore[attr-defined]
        partial = self.fragment and htmx and not htmx.history_restore_request
        setup = context.get("setup") or the_setup()
        response = render(
            request, self.fragment if partial else self.template, {"section": self.section, **draft_state(setup), **context}, status=status
        )
        patch_vary_headers(response, ["HX-Request"])
        response["Cache-Control"] = "no-store"
        return response


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
                _("Not done: meanwhile somebody else made a change, “%(other)s”. You see it now; do yours again if it is still right.")
                % {"other": other},
            )
        except UnknownFacet:
            messages.warning(request, _("Not done: that facet is no longer on the rack."))
        return redirect("rack") if _is_gone(request.POST.get("next", "")) else back_to(request, "rack")

    def change(self, request: HttpRequest, **names: str) -> None:
        """Make the change and say so."""
        raise NotImplementedError


def _is_gone(address: str) -> bool:
    """Tell whether an address is the page of a facet that is not on the rack any more, as after an undo of its beginning."""
    try:
        found = resolve(urlsplit(address).path)
    except (Resolver404, ValueError):
        return False
    return found.url_name == "facet" and found.kwargs["key"] not in the_setup().draft.document["racks"][0]["facets"]


def not_allowed(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Say to somebody who is signed in that the tool is not for this account."""
    return render(request, "workbench/frame/not_allowed.html", status=403)


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
