"""The theme of the shop's facets: tried on real ones, kept by a button, taken back by one."""

from collections.abc import Iterator
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.changes.shop_face import set_theme
from binsort.racks.models import theme_address
from binsort.racks.setup import the_setup
from binsort.racks.shop_face import the_face
from binsort.racks.shown_facet import Shown
from binsort.racks.theme import Theme
from binsort.workbench.frame.views import OwnerView
from binsort.workbench.rack.page import Sight

from .form import ThemeForm

_DRAWN = 6  # facets, each by another control
_CHOICES = 6  # of each
_COLOURS = {"ink": _l("Words"), "accent": _l("What is picked"), "edge": _l("Edges")}


class ThemePage(OwnerView):
    """The theme, on facets of the rack as they are; nothing reaches shoppers before it is kept."""

    template = "workbench/theme/theme.html"
    fragment = "workbench/theme/_theme.html"
    section = "listings"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show what holds, or what is tried."""
        if not request.GET:
            theme = the_face().themed
            return self._page(request, ThemeForm.showing(theme), theme)
        form = ThemeForm(request.GET)
        form.is_valid()
        return self._page(request, form, form.theme)

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep it."""
        form = ThemeForm(request.POST)
        if not form.is_valid():
            return self._page(request, form, form.theme, status=422)
        if "try" in request.POST:
            return self._page(request, form, form.theme)
        before = the_face().themed
        if set_theme(form.theme, actor=request.user):
            request.session["theme_before"] = before.said
            messages.success(request, _("Kept. Shoppers see it on their next page."))
        return redirect("shop-theme")

    def _page(self, request: HttpRequest, form: ThemeForm, theme: Theme, *, status: int = 200) -> HttpResponse:
        live, before = the_face().themed, request.session.get("theme_before")
        return self.show(request, {
            "form": form,
            "face": None,  # what is live is not drawn over what is tried
            "address": theme_address(theme),
            "unreadable": tuple(_said(theme)),
            "drawn": tuple(_drawn()),
            "is_live": theme == live,
            "before": Theme.of(before).said if before is not None and Theme.of(before) != live else None,
        }, status=status)  # fmt: skip


def _said(theme: Theme) -> Iterator[dict[str, Any]]:
    """Yield what could not be read, in words, with the colour that is drawn instead."""
    for name, ratio, least, instead in theme.unreadable():
        yield {"name": name, "label": _COLOURS[name], "ratio": f"{ratio:.1f}", "least": f"{least:g}", "instead": instead}


def _drawn() -> Iterator[Shown]:
    """Yield facets of the rack, as many different controls as there are."""
    sight, seen = Sight(the_setup(), []), set[str]()
    for facet in sight.state.rack.facets:
        drawn = sight.preview(facet, most=_CHOICES, whenever=True)
        if drawn and drawn.control.key not in seen and len(seen) < _DRAWN:
            seen.add(drawn.control.key)
            yield drawn
