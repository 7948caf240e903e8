"""The page of other sites: what they show of this shop, how, and which of them may."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _

from binsort.catalog.store.category_paths import category_paths
from binsort.changes import embeds, sites
from binsort.changes.locks import Refused
from binsort.racks.models import Embed
from binsort.workbench.frame.views import OwnerView

from .known import DAYS, known_sites
from .page import embed_view


class SitesView(OwnerView):
    """Its part of the tool."""

    section = "sites"
    template = "workbench/sites/sites.html"
    fragment = "workbench/sites/_sites.html"

    def page(self, request: HttpRequest, name: str, *, status: int = 200, **more: Any) -> HttpResponse:
        """Show a listing of other sites, or where there is none how to begin."""
        embed = get_object_or_404(Embed.objects.select_related("category", "actor"), name=name) if name else None
        site = request.build_absolute_uri("/").removesuffix("/")
        return self.show(request, {
            "embeds": Embed.objects.all(),
            "page": embed_view(embed, site) if embed else None,
            "categories": [(number, "\u2003" * (len(path) - 1) + path[-1]) for number, path in category_paths().items()],
            "sites": known_sites(),
            "days": DAYS,
            "parts": Embed.Parts.choices,
            "looks": Embed.Look.choices,
            "wrong": "", "typed": "", "wrong_label": "", "typed_label": "",
            **more,
        }, status=status)  # fmt: skip


class Sites(SitesView):
    """The first listing of other sites, or how to begin; and letting a site in."""

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        first = Embed.objects.first()
        return redirect("embed", first.name) if first else self.page(request, "")

    def post(self, request: HttpRequest) -> HttpResponse:
        """Let a site in."""
        text, name = request.POST.get("site", ""), _known(request.POST.get("embed", ""))
        try:
            site, is_new = sites.let_in(text, actor=request.user)
        except Refused as error:
            return self.page(request, name, status=422, wrong=str(error), typed=text[:200])
        said = _("%(site)s may show listings from now on.") if is_new else _("%(site)s was let in before.")
        messages.info(request, said % {"site": site.origin})
        return redirect("embed", name) if name else redirect("sites")


class EmbedAdd(SitesView):
    """A new listing for other sites."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Begin it, then go to its page."""
        text = request.POST.get("label", "")
        try:
            made = embeds.add_embed(text, actor=request.user)
        except Refused as error:
            name = _known(request.POST.get("embed", ""))
            return self.page(request, name, status=422, wrong_label=str(error), typed_label=text[:200])
        return redirect("embed", made.name)


class EmbedPage(SitesView):
    """A listing as other sites show it; each change is kept at once."""

    def get(self, request: HttpRequest, name: str) -> HttpResponse:
        """Show it."""
        return self.page(request, name)

    def post(self, request: HttpRequest, name: str) -> HttpResponse:
        """Keep what was changed."""
        given = request.POST
        category = given.get("category", "")
        picks = [*given.getlist("pick"), given.get("narrow", "")]
        wanted = embeds.Wanted(
            label=given.get("label", ""),
            category=int(category) if category.isascii() and category.isdigit() and len(category) < 18 else None,
            picks=tuple((key, value) for key, _mark, value in (pick.partition("=") for pick in picks) if key and value),
            rack=given.get("rack", ""),
            parts=given.get("parts", ""),
            look=given.get("look", ""),
        )
        version = given.get("version", "")
        try:
            embeds.save_embed(name, wanted, version=int(version) if version.isascii() and version.isdigit() else 0, actor=request.user)
        except Embed.DoesNotExist as error:
            raise Http404(_("It was deleted.")) from error
        except Refused as error:
            messages.warning(request, str(error))
        return self.get(request, name) if request.htmx else redirect("embed", name)  # type: ignore[attr-defined]


class EmbedDelete(SitesView):
    """Deleting a listing of other sites, after a question."""

    template, fragment = "workbench/sites/delete.html", ""

    def get(self, request: HttpRequest, name: str) -> HttpResponse:
        """Ask."""
        embed = get_object_or_404(Embed, name=name)
        return self.show(request, {"embed": embed, "sites": [site for site in known_sites() if site.shown], "days": DAYS})

    def post(self, request: HttpRequest, name: str) -> HttpResponse:
        """Do it."""
        label = embeds.delete_embed(name, actor=request.user)
        said = _("%(label)s is deleted: other sites show their own link there.") if label else _("It was deleted before.")
        messages.info(request, said % {"label": label} if label else said)
        return redirect("sites")


class SiteEnd(SitesView):
    """Letting a site in no more."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        site, name = sites.end(number, actor=request.user), _known(request.POST.get("embed", ""))
        said = _("%(site)s may show listings no more. Let it in again below if that was not meant.") if site else _("It was ended before.")
        messages.info(request, said % {"site": site.origin} if site else said)
        return redirect("embed", name) if name else redirect("sites")


def _known(name: str) -> str:
    """Return the name of a listing if there is one."""
    return name if "\0" not in name and Embed.objects.filter(name=name).exists() else ""
