"""Review, putting live, schedules, and the secret links that show the draft."""

from datetime import datetime

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes.live import NotLive
from binsort.changes.tasks import carry_out_at
from binsort.racks.setup import Document, the_setup
from binsort.workbench.frame.views import Edit, OwnerView, based_on

from .page import review_page, said_when, taken_back


class Review(OwnerView):
    """The draft against what is live."""

    template = "workbench/review/review.html"
    fragment = "workbench/review/_review.html"
    section = "review"

    def get(self, request: HttpRequest) -> HttpResponse:
        setup = the_setup()
        return self.show(request, {"setup": setup, "page": review_page(setup, request.GET.get("category", ""))})


class TakeBack(Edit):
    """Let one facet or rack of the draft be as it is live."""

    def change(self, request: HttpRequest, **names: str) -> None:
        setup, kind, key = the_setup(), request.POST.get("kind", ""), request.POST.get("key", "")
        live = setup.for_shoppers
        if live is None or kind not in ("facet", "rack"):
            return
        part = "facets" if kind == "facet" else "racks"
        labels = {one["key"]: one["label"] for document in (live.document, setup.draft.document) for one in document[part]}

        def edit(document: Document) -> None:
            taken_back(document, live.document, kind, key)

        words = _("%(label)s as it is live") % {"label": labels.get(key, key)}
        facet_changes.change(words, edit, actor=request.user, based_on=based_on(request))
        messages.success(request, f"{words}.", extra_tags="undo")


class PutLive(Edit):
    """Let shoppers see the draft."""

    def change(self, request: HttpRequest, **names: str) -> None:
        live_changes.put_live(note=request.POST.get("note", ""), actor=request.user, based_on=based_on(request))
        messages.success(request, _("Live: shoppers see this from now on."))


class Scheduling(Edit):
    """Let shoppers see the draft from a moment on."""

    def change(self, request: HttpRequest, **names: str) -> None:
        at = local_moment(request.POST.get("at", ""))
        done = live_changes.schedule(at, note=request.POST.get("note", ""), actor=request.user, based_on=based_on(request))
        carry_out_at(done.at)
        messages.success(request, _("It goes live %(when)s. Until then shoppers see what they see now.") % {"when": said_when(done.at)})


def local_moment(text: str) -> datetime:
    """Return the moment that a field of a form names, by the shop's clock.

    Raises:
        NotLive: it is none, or one that the change to summer time leaves out.
    """
    try:
        found = parse_datetime(text)
    except ValueError:
        found = None
    if found is None:
        raise NotLive(_("Choose a day and a time."))
    moment = timezone.make_aware(found) if timezone.is_naive(found) else found
    back = timezone.localtime(moment.astimezone(timezone.get_fixed_timezone(0)))
    if timezone.is_naive(found) and back.replace(tzinfo=None) != found:
        raise NotLive(_("There is no such time on that day: clocks go forward then. Choose an hour later."))
    return moment


class CallOff(Edit):
    """Call off what waits to go live."""

    def change(self, request: HttpRequest, **names: str) -> None:
        done = live_changes.call_off(actor=request.user)
        messages.info(request, _("Called off: nothing waits to go live.") if done else _("Nothing waited to go live."))


class MakeLink(Edit):
    """Make a secret link that shows the draft."""

    def change(self, request: HttpRequest, **names: str) -> None:
        live_changes.make_link(actor=request.user)
        messages.success(request, _("Whoever has the link sees the draft in the shop, until you end it."))


class EndLink(Edit):
    """End a secret link."""

    def change(self, request: HttpRequest, **names: str) -> None:
        live_changes.end_link(int(names["number"]), actor=request.user)
        messages.info(request, _("It is ended: whoever has the link sees what all shoppers see."))
