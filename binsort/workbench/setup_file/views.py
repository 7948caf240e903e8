"""The set-up as a file: taken out, tried and brought in; and where its master is kept."""

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.changes import setup_files
from binsort.changes.facets import EditedMeanwhile
from binsort.core.facets.facet_file import FacetFileError
from binsort.racks.setup import the_setup
from binsort.workbench.frame.views import Edit, OwnerView, based_on

_LARGEST = 2_000_000  # bytes of a file
_PROBLEMS_SHOWN = 20


class SetupFile(OwnerView):
    """Out, and in with a trial."""

    template = "workbench/setup_file/file.html"
    section = "file"

    def get(self, request: HttpRequest) -> HttpResponse:
        return self.show(request, self._context())

    def post(self, request: HttpRequest) -> HttpResponse:
        """Try a file that is sent, or bring in the one that was tried."""
        name, text = self._given(request)
        if not text:
            return self.show(request, {**self._context(), "problems": [_("Choose a facet file first.")]}, status=422)
        try:
            if "bring" in request.POST:
                return self._bring(request, name, text)
            trial = setup_files.try_setup(text)
        except FacetFileError as error:
            problems = [problem.text for problem in error.problems]
            return self.show(request, {**self._context(), "name": name, "problems": problems[:_PROBLEMS_SHOWN]}, status=422)
        return self.show(request, {**self._context(), "name": name, "text": text.decode("utf-8-sig"), "trial": trial})

    def _given(self, request: HttpRequest) -> tuple[str, bytes]:
        file = request.FILES.get("file")
        if file is not None and file.size is not None and file.size <= _LARGEST:
            return str(file.name), file.read()
        return request.POST.get("name", ""), request.POST.get("text", "").encode("utf-8", "surrogatepass")

    def _bring(self, request: HttpRequest, name: str, text: bytes) -> HttpResponse:
        try:
            done = setup_files.bring_setup_in(text, name=name or _("a file"), actor=request.user, based_on=based_on(request))
        except EditedMeanwhile as other:
            messages.warning(request, _("Not done: meanwhile %(who)s made a change, “%(other)s”. Try the file again.") % other.said)
            return redirect("setup-file")
        if done is None:
            messages.info(request, _("Nothing changes: the draft is like that already."))
        else:
            messages.success(request, f"{done.summary}.", extra_tags="undo")
        return redirect("review")

    def _context(self) -> dict[str, Any]:
        return {"setup": the_setup()}


class SetupOut(OwnerView):
    """The draft, or what is live, as a file."""

    def get(self, request: HttpRequest) -> HttpResponse:
        setup = the_setup()
        live = setup.for_shoppers if request.GET.get("of") == "live" else None
        response = HttpResponse(setup_files.setup_text(live or setup.draft), content_type="application/json; charset=utf-8")
        response["Content-Disposition"] = f'attachment; filename="facets{"-live" if live else ""}.json"'
        response["Cache-Control"] = "no-store"
        return response


class Master(Edit):
    """Where the file is kept that is the master of the set-up."""

    def change(self, request: HttpRequest, **names: str) -> None:
        try:
            done = setup_files.set_master(request.POST.get("master", ""), actor=request.user)
        except ValueError as reason:
            messages.warning(request, str(reason))
            return
        if done:
            messages.success(request, _("The pages say so from now on."))
