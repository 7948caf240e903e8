"""The Activity page, and the page that waits for the first counts."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _

from binsort.racks.setup import the_setup
from binsort.tally.activity import COUNTING, ask_to_stop, end_rest, rests_until, running, try_again
from binsort.tally.current import ask_for_snapshot
from binsort.workbench.frame.views import OwnerView, back_to
from binsort.workbench.rack.page import draft_state

from .page import activity_page, in_words


class Activity(OwnerView):
    """What takes long, and how far it is."""

    section = "activity"

    template, fragment = "workbench/activity/activity.html", "workbench/activity/_activity.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        return self.show(request, {"page": activity_page()})


class ActivityCancel(OwnerView):
    """Stopping a piece of work."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Ask it to stop."""
        if not ask_to_stop(number):
            messages.info(request, _("That has ended already."))
        return back_to(request, "activity")


class ActivityTryAgain(OwnerView):
    """Doing work again that failed."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Have it done."""
        if not try_again(number):
            messages.info(request, _("That cannot be done again from here: begin it anew where it was begun."))
        return back_to(request, "activity")


class ActivityAgain(OwnerView):
    """Beginning the counting again after it was cancelled."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """End its rest."""
        end_rest(COUNTING)
        ask_for_snapshot()
        return redirect("activity")


def counting(request: HttpRequest) -> HttpResponse:
    """Say that there are no counts yet, and how far they are."""
    line = running()
    context = {
        "line": line,
        "left": in_words(line.left) if line else "",
        "rests_until": rests_until(COUNTING),
        **draft_state(the_setup()),
    }
    return render(request, "workbench/activity/counting.html", context, status=503)
