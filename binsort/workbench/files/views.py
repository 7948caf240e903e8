"""The pages of bringing a file in: choosing it, its columns and trial run, and what was done."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _

from binsort.catalog.files import uploads
from binsort.catalog.files.unreadable import UnreadableTable
from binsort.catalog.models import Upload
from binsort.changes.tasks import settle, take_soon, try_soon
from binsort.workbench.frame.views import CatalogueView

from .page import bring_page, earlier


class BringIn(CatalogueView):
    """Choosing a file."""

    template = "workbench/files/bring_in.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Ask for one."""
        return self.show(request, self._context())

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep it, and try it."""
        file = request.FILES.get("file")
        if file is None:
            return self.show(request, self._context("Choose a file first."), status=422)
        try:
            upload = uploads.keep(file.chunks(), file.name or "file", actor=request.user)
        except UnreadableTable as error:
            return self.show(request, self._context(f"{file.name} cannot be read: {error}"), status=422)
        try_soon(upload)
        return redirect("bring-file", number=upload.pk)

    def _context(self, problem: str = "") -> dict[str, object]:
        return {"problem": problem, "earlier": earlier(), "waiting": Upload.objects.exclude(state=Upload.State.DONE)[:5]}


class BringFile(CatalogueView):
    """The columns of a file, and what it would do."""

    template, fragment = "workbench/files/bring_file.html", "workbench/files/_bring_file.html"

    def get(self, request: HttpRequest, number: int) -> HttpResponse:
        """Show them."""
        upload = get_object_or_404(Upload, pk=number)
        settle(upload)
        return self.show(request, {"page": bring_page(upload)})

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Read columns in another way, or bring the file in."""
        upload = get_object_or_404(Upload, pk=number)
        if upload.state in (Upload.State.TRYING, Upload.State.BRINGING, Upload.State.DONE):
            messages.info(
                request, _("Wait until it is done.") if upload.state != Upload.State.DONE else _("The file was brought in already.")
            )
            return redirect("bring-file", number=number)
        if uploads.choose_sheet(upload, request.POST.get("sheet", "")):
            try_soon(upload)
            return self._shown(request, upload)
        before = upload.columns
        mended = uploads.mend(upload, _mends(request))
        missing = request.POST.get("missing", "")
        more = {"remembered": "remember" in request.POST, **({"missing": missing} if missing in uploads.WAYS else {})}
        try:
            if not uploads.choose(upload, _chosen(request), **more):
                return redirect("bring-file", number=number)
        except UnreadableTable as error:
            messages.warning(request, _("The file cannot be read: %(error)s") % {"error": error})
        if upload.columns != before or mended or "again" in request.POST:
            try_soon(upload)
        elif "bring" in request.POST:
            take_soon(upload)
        return self._shown(request, upload)

    def _shown(self, request: HttpRequest, upload: Upload) -> HttpResponse:
        if request.htmx:  # type: ignore[attr-defined]
            upload.refresh_from_db()
            return self.show(request, {"page": bring_page(upload)})
        return redirect("bring-file", number=upload.pk)


def _mends(request: HttpRequest) -> dict[int, dict[int, str] | None]:
    """Return what a form says of refused rows: ``m:LINE:PLACE`` another text of a cell, ``leave`` the lines to be left out."""
    mends: dict[int, dict[int, str] | None] = {}
    pressed = request.POST.get("mend", "")  # a button: m:LINE:PLACE:TEXT
    for name, text in (*request.POST.items(), _parted_mend(pressed)):
        mark, _, rest = name.partition(":")
        line, _, place = rest.partition(":")
        was = request.POST.get(f"was:{rest}")
        if mark == "m" and _is_number(line) and _is_number(place) and str(text).strip() != was:
            mends.setdefault(int(line), {})[int(place)] = str(text).strip()  # type: ignore[index]
    for line in request.POST.get("leave", "").split(","):
        if _is_number(line):
            mends[int(line)] = None
    return mends


def _parted_mend(pressed: str) -> tuple[str, str]:
    name, text = pressed.rsplit("=", 1) if "=" in pressed else ("", "")
    return name, text


def _is_number(text: str) -> bool:
    return text.isascii() and text.isdigit() and len(text) < 9


def _chosen(request: HttpRequest) -> dict[int, dict[str, str]]:
    """Return what a form says of columns: ``c:PLACE:meaning``, ``c:PLACE:unit``, ``c:PLACE:separator``."""
    chosen: dict[int, dict[str, str]] = {}
    for name, text in request.POST.items():
        mark, _, rest = name.partition(":")
        place, _, what = rest.partition(":")
        if mark == "c" and place.isascii() and place.isdigit() and len(place) < 5:
            chosen.setdefault(int(place), {})[what] = str(text)
    return chosen


class RefusedRows(CatalogueView):
    """The rows that are not taken, as a file to be corrected and brought in again."""

    def get(self, request: HttpRequest, number: int) -> HttpResponse:
        """Give it."""
        upload = get_object_or_404(Upload, pk=number)
        ending = "csv" if upload.columns else "jsonl"
        response = HttpResponse(bytes(upload.refused), content_type="text/csv; charset=utf-8" if upload.columns else "application/jsonl")
        response["Content-Disposition"] = f'attachment; filename="refused-rows.{ending}"'
        return response


class BringForget(CatalogueView):
    """Leaving a file that was not brought in."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Forget it."""
        for upload in Upload.objects.filter(pk=number):
            settle(upload)
            if upload.state != Upload.State.BRINGING:
                upload.delete()
        return redirect("bring-in")
