"""The checkup: looked at, mended, left as it is."""

from collections.abc import Callable

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.changes import checkups
from binsort.changes.facets import EditedMeanwhile
from binsort.changes.locks import Refused
from binsort.core.facets.facet_file import FacetFileError
from binsort.core.facets.found_by import named, with_words
from binsort.core.insight.findings.finding import by
from binsort.core.insight.findings.whole import SEARCH
from binsort.racks.setup import Document, the_setup
from binsort.tally.current import NotReady
from binsort.workbench.frame.views import OwnerView, back_to, based_on

from .looking import Finding, look
from .page import checkup_page, open_findings
from .rows import bin_of, subject_of

_SEEN = "checkup"  # in the session: the findings that were there when this person looked last


class Checkup(OwnerView):
    """Every finding."""

    section = "checkup"
    template = "workbench/checkup/checkup.html"
    fragment = "workbench/checkup/_checkup.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show them; those that were not there last time are marked."""
        setup, seen = the_setup(), request.session.get(_SEEN)
        asked = {name: request.GET.get(name, "") for name in ("rack", "by", "all")}
        page = checkup_page(setup, asked, None if seen is None else [tuple(key) for key in seen])
        if not page.waits:
            request.session[_SEEN] = [list(key) for key in page.keys]
        return self.show(request, {"setup": setup, "page": page})


class Number(OwnerView):
    """How many findings there are, for the bar at the top."""

    section = "checkup"
    template = fragment = "workbench/checkup/_number.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Tell it; nothing while the counts are being made."""
        try:
            count = len(open_findings(the_setup()))
        except NotReady:
            count = 0
        return self.show(request, {"count": count})


class _OfFinding(OwnerView):
    section = "checkup"

    def finding(self, request: HttpRequest) -> Finding | None:
        """Return the finding that a form names, None where it is gone."""
        key = tuple(request.POST.get(name, "") for name in ("place", "finding", "subject"))
        return next((one for one in look(the_setup()) if one.key == key), None)


class MendWhole(_OfFinding):
    """Mending something of the whole."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Do it."""
        one = self.finding(request)
        mend = one.mend(request.POST.get("mend", "")) if one and one.is_whole else None
        if one is None or mend is None or mend.change is None:
            messages.info(request, _("That has been mended meanwhile."))
            return back_to(request, "checkup")
        subject = subject_of(the_setup(), one)
        return self.done(request, f"{subject}: {mend.words.lower()}" if subject else mend.words, mend.change)

    def done(self, request: HttpRequest, words: str, change: Callable[[Document], Document]) -> HttpResponse:
        """Change the set-up, say so, and go back."""
        try:
            made = checkups.mend_whole(words, change, actor=request.user, based_on=based_on(request))
        except EditedMeanwhile as other:
            messages.warning(request, _("Not done: meanwhile %(who)s made a change, “%(other)s”. Look again.") % other.said)
        except FacetFileError as error:
            messages.warning(request, _("Not done: %(error)s") % {"error": error})
        else:
            messages.success(request, f"{made.summary}.", extra_tags="undo")
        return back_to(request, "checkup")


class Lead(MendWhole):
    """Saying which bin a text means that was searched for in vain."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Do it."""
        one = self.finding(request)
        facet, _mark, key = request.POST.get("bin", "").partition("=")
        bin = bin_of(the_setup(), facet, key)
        if one is None or one.about.kind != SEARCH:
            messages.info(request, _("That has been mended meanwhile."))
            return back_to(request, "checkup")
        if bin is None:
            messages.warning(request, _("There is no such bin any more. Choose another."))
            return back_to(request, "checkup")
        text = one.about.key
        words = _("“%(text)s” finds %(bin)s") % {"text": text, "bin": bin.label}
        return self.done(request, words, by(with_words, facet, named(bin.label, bin.nodes), text))


class Leave(_OfFinding):
    """Leaving a finding as it is."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Do it."""
        one = self.finding(request)
        if one is None:
            messages.info(request, _("That has been mended meanwhile."))
            return redirect("checkup")
        try:
            checkups.leave(*one.key, said=one.found.text, reason=request.POST.get("reason", ""), actor=request.user)
        except Refused as reason:
            messages.warning(request, str(reason))
        else:
            messages.info(request, _("Left as it is; it comes back when the facts change."))
        return redirect("checkup")


class TakeUp(OwnerView):
    """Taking a finding up again."""

    section = "checkup"

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        said = checkups.take_up(number, actor=request.user)
        messages.info(request, _("Taken up again: %(said)s") % {"said": said} if said else _("It was taken up before."))
        return redirect("checkup")
