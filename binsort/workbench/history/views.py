"""The history, taking back, and going back."""

from datetime import date, datetime

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.utils.translation import gettext as _

from binsort.changes import facets as facet_changes
from binsort.changes import live as live_changes
from binsort.changes.history import CannotTakeBack
from binsort.changes.live import NotLive
from binsort.core.facets.facet_file import FacetFileError
from binsort.racks.models import Entry
from binsort.racks.models import PutLive as PutLiveRow
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import Edit, OwnerView, based_on

from .lines import CATALOGUE, SETUP, Asked
from .page import history_page

_ASKED = ("what", "who", "facet", "find", "until", "before", "live")


class History(OwnerView):
    """Every change of set-up and catalogue."""

    template = "workbench/history/history.html"
    fragment = "workbench/history/_history.html"
    section = "history"

    def get(self, request: HttpRequest) -> HttpResponse:
        kept = {name: request.GET.get(name, "").replace("\0", "") for name in _ASKED}
        setup = the_setup()
        page = history_page(setup, _asked(kept), _number(kept["live"]), kept)
        return self.show(request, {"setup": setup, "page": page})


def _asked(kept: dict[str, str]) -> Asked:
    """Return what an address asks for; what is no answer to its question is as if it were not there."""
    who = kept["who"] if kept["who"].startswith("token:") or _number(kept["who"]) else ""
    return Asked(
        what=kept["what"] if kept["what"] in (SETUP, CATALOGUE) else "",
        who=who,
        facet=kept["facet"],
        find=kept["find"].strip(),
        until=_day(kept["until"]),
        before=_moment(kept["before"]),
    )


def _number(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None


def _day(text: str) -> date | None:
    try:
        found = date.fromisoformat(text)
    except ValueError:
        return None
    return found if 1900 < found.year < 2200 else None


def _moment(text: str) -> datetime | None:
    try:
        found = parse_datetime(text)
    except ValueError:
        return None
    if found is None or not 1900 < found.year < 2200:
        return None
    return timezone.make_aware(found) if timezone.is_naive(found) else found


class TakeBackEntry(Edit):
    """Take one change of the set-up back."""

    def change(self, request: HttpRequest, **names: str) -> None:
        try:
            done = facet_changes.take_back(int(names["number"]), actor=request.user, based_on=based_on(request))
        except Entry.DoesNotExist:
            messages.warning(request, _("Not done: there is no such change."))
        except CannotTakeBack as reason:
            messages.warning(request, _("Not done. %(reason)s") % {"reason": reason})
        except FacetFileError as error:
            messages.warning(request, _("Not done: %(why)s") % {"why": error.problems[0].text})
        else:
            messages.success(request, f"{done.summary}.", extra_tags="undo")


class GoBack(Edit):
    """Let shoppers see again what was live."""

    def change(self, request: HttpRequest, **names: str) -> None:
        seen = _number(request.POST.get("seen", ""))
        try:
            live_changes.go_back(int(names["number"]), note=request.POST.get("note", ""), actor=request.user, seen=seen)
        except PutLiveRow.DoesNotExist:
            raise NotLive(_("That was never live.")) from None
        messages.success(request, _("Live: shoppers see that again from now on. The draft is as it was."))


class IntoDraft(Edit):
    """Make what was live the draft."""

    def change(self, request: HttpRequest, **names: str) -> None:
        try:
            done = live_changes.into_draft(int(names["number"]), actor=request.user, based_on=based_on(request))
        except PutLiveRow.DoesNotExist:
            raise NotLive(_("That was never live.")) from None
        messages.success(request, f"{done.summary}.", extra_tags="undo")
