"""The pages of the catalogue sheet: the products, one cell, many at once, taking back."""

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO
from urllib.parse import parse_qsl

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.categories import missing_categories
from binsort.catalog.dictionary.entry import BadValue, Entry, edit_of, source_of
from binsort.catalog.files.export import FORMS, CannotWrite, take_out
from binsort.catalog.files.kept_exports import content_of
from binsort.catalog.models import Export, Revision
from binsort.changes.locks import Refused
from binsort.changes.product_writes import NewCategories
from binsort.changes.products import Gone, SeenOtherwise, change_many, delete_many, set_field
from binsort.changes.undo import ChangedSince, ParentGone, do_again, take_back
from binsort.core.insight.coverage import percent
from binsort.core.products.edits import EMPTY, REMOVE, SET, WAYS, Varies
from binsort.racks.addresses import query_pairs
from binsort.tally.current import is_worker_alive
from binsort.workbench.frame.messages import say_done, say_undone, undo_state
from binsort.workbench.frame.views import CatalogueView, back_to
from binsort.workbench.tasks import SMALL, change_products, take_out_products

from .bulk import INLINE, effect
from .page import Sheet, suggest_columns
from .suggest import suggested

_MOST_COLUMNS = 40


def sheet_of(request: HttpRequest, pairs: list[tuple[str, str]] | None = None) -> Sheet:
    """Return the sheet that a request asks for, with the columns that this person chose."""
    return Sheet(query_pairs(request) if pairs is None else pairs, request.session.get("columns"), reverse("catalogue"))


class Catalogue(CatalogueView):
    """The sheet."""

    template, fragment = "workbench/sheet/catalogue.html", "workbench/sheet/_catalogue.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        sheet = sheet_of(request)
        opened = request.GET.get("open", "")
        context = {
            "sheet": sheet,
            **undo_state(),
            "opened": opened,
            "choices": sheet.choices(opened) if opened else [],
            "all_columns": [(key, label, key in sheet.shown_keys) for key, label in suggest_columns(sheet.attributes)],
            "fields": _bulk_fields(sheet),
        }
        return self.show(request, context)


def _bulk_fields(sheet: Sheet) -> list[Entry]:
    """Return what can be changed on many products: the shown columns first."""
    first = [sheet.entries[key] for key in sheet.shown_keys]
    rest = [
        entry for entry in sheet.entries.values() if entry not in first and entry.field.kind not in ("name", "description", "image", "url")
    ]
    return [*first, *rest]


class Head(CatalogueView):
    """The heads of the columns anew, after a cell was changed."""

    template = fragment = "workbench/sheet/_sheet_head.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show them."""
        return self.show(request, {"sheet": sheet_of(request), **undo_state(), "with_undo": True})


class Columns(CatalogueView):
    """Choosing the columns."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep the choice."""
        chosen = [key for key in request.POST.getlist("column") if len(key) < 500][:_MOST_COLUMNS]
        if "usual" in request.POST or not chosen:
            request.session.pop("columns", None)
        else:
            request.session["columns"] = chosen
        return back_to(request, "catalogue")


class CellEdit(CatalogueView):
    """One cell: what is typed into it is kept, or refused with the reason."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep it; answers with the row as it is then."""
        columns = request.POST.getlist("column")[:_MOST_COLUMNS]  # that the row stands under; a listing has its own
        sheet = Sheet([], columns, reverse("catalogue")) if columns else sheet_of(request, [])
        entry = sheet.entries.get(request.POST.get("field", ""))
        name, text, seen = (request.POST.get(key, "") for key in ("product", "text", "seen"))
        if entry is None:
            return self._refused(request, _("That field is gone. Load the page anew."), 410)
        ask = "make_categories" not in request.POST
        try:
            shown_before = None if "anyway" in request.POST else seen
            after, revision = set_field(name, entry, text, seen=shown_before, ask=ask, actor=request.user)
        except Varies:
            return self._refused(request, _("Its variants differ here. Open the product to change them one by one."), 422)
        except Gone as error:
            return self._refused(request, str(error), 410)
        except SeenOtherwise as error:
            return self._refused(request, str(error), 409, theirs=error.theirs)
        except NewCategories as question:
            return self._refused(request, f"{str(question)[:1].upper()}{str(question)[1:]}", 422, new_categories=question.paths)
        except (BadValue, Refused) as error:
            return self._refused(request, str(error), 422)
        response = render(request, "workbench/sheet/_sheet_row.html", {"row": sheet.row(after), "sheet": sheet})
        response["X-Revision"] = str(revision.pk) if revision else ""
        return response

    def _refused(self, request: HttpRequest, text: str, status: int, **more: Any) -> HttpResponse:
        return render(request, "workbench/sheet/_cell_refused.html", {"text": text, **more}, status=status)


class Suggest(CatalogueView):
    """Values for a cell."""

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show them."""
        sheet = sheet_of(request, [])
        entry = sheet.entries.get(request.GET.get("field", ""))
        suggestions = suggested(sheet, request.GET.get("product", ""), entry, request.GET.get("typed", "")) if entry else []
        return render(request, "workbench/sheet/_suggestions.html", {"suggestions": suggestions, "entry": entry})


class Bulk(CatalogueView):
    """Many products at once."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Change them, or say what would change."""
        sheet = sheet_of(request, parse_qsl(request.POST.get("query", "")))
        chosen = sheet.identities if request.POST.get("every") else list(dict.fromkeys(request.POST.getlist("product")))
        if "preview" in request.POST:
            return render(request, "workbench/sheet/_effect.html", self._effect(request, sheet, chosen))
        if not chosen:
            messages.warning(request, _("No product is selected. Tick some first."))
            return back_to(request, "catalogue")
        entry = sheet.entries.get(request.POST.get("field", ""))
        if len(chosen) > INLINE and request.POST.get("every") and is_worker_alive():
            return self._later(request, entry)
        try:
            say_done(request, self._changed(request, entry, chosen), nothing=_("Nothing changes: they are like that already."))
        except (BadValue, Refused) as error:
            messages.warning(request, _("Nothing was changed: %(error)s") % {"error": error})
        return back_to(request, "catalogue")

    def _changed(self, request: HttpRequest, entry: Entry | None, chosen: list[str]) -> Revision | None:
        if "delete" in request.POST:
            return delete_many(chosen, actor=request.user)
        if entry is None:
            raise BadValue(_("That field is gone. Load the page anew."))
        way, text, old = _typed(request)
        return change_many(entry, way, (text, old), chosen, ask="make_categories" not in request.POST, actor=request.user)

    def _later(self, request: HttpRequest, entry: Entry | None) -> HttpResponse:
        """Have very many products changed in the background."""
        way, text, old = _typed(request)
        try:
            if entry is None:
                raise BadValue(_("That field is gone. Load the page anew."))
            if "delete" not in request.POST:
                edit_of(entry, way, text, old)
        except BadValue as error:
            messages.warning(request, _("Nothing was changed: %(error)s") % {"error": error})
            return back_to(request, "catalogue")
        way = "" if "delete" in request.POST else way
        query, field = request.POST.get("query", ""), request.POST.get("field", "")
        change_products.defer(query=query, field=field, way=way, text=text, old=old, actor=request.user.pk or 0)
        messages.info(request, _("It is being done in the background; here is how far it is. Undo on the catalogue page takes it back."))
        return redirect("activity")

    def _effect(self, request: HttpRequest, sheet: Sheet, chosen: list[str]) -> dict[str, Any]:
        entry = sheet.entries.get(request.POST.get("field", ""))
        if entry is None or not chosen:
            return {"chosen": len(chosen)}
        way, text, old = _typed(request)
        source = source_of(entry)
        column = sheet.column(entry)
        total = len(sheet.listing)
        try:
            if not text.strip() and way != EMPTY:
                return {"chosen": len(chosen), "entry": entry, "waits": True}
            if len(chosen) > INLINE:
                edit_of(entry, way, text, old)
                return {"chosen": len(chosen), "entry": entry, "many": True}
            edit = edit_of(entry, way, text, old)
            outcome = effect(entry, edit, chosen)
        except BadValue as error:
            return {"chosen": len(chosen), "entry": entry, "problem": str(error)}
        new = missing_categories(value for value, _ in edit.values) if entry.kind == "category" and way != REMOVE else ()
        after = percent(total - column.missing + outcome.gained - outcome.lost, total) if source else 100
        return {
            "chosen": len(chosen), "entry": entry, "effect": outcome, "before": column.covered, "after": max(0, min(100, after)),
            "empties": way == EMPTY, "new_categories": new,
        }  # fmt: skip


def _typed(request: HttpRequest) -> tuple[str, str, str]:
    way = request.POST.get("way", SET)
    return way if way in WAYS else SET, request.POST.get("text", ""), request.POST.get("old", "")


class TakeBack(CatalogueView):
    """Taking a change of the catalogue back."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it, or ask where something would be lost."""
        try:
            done = take_back(number, anyway="anyway" in request.POST, nearest="nearest" in request.POST, actor=request.user)
        except ChangedSince as error:
            messages.warning(request, _("Not undone: %(error)s") % {"error": error}, extra_tags=f"take-back-anyway:{number}")
        except ParentGone as error:
            messages.warning(request, _("Not undone: %(error)s") % {"error": error}, extra_tags=f"take-back-nearest:{number}")
        except Refused as error:
            messages.warning(request, _("Not undone: %(error)s") % {"error": error})
        else:
            say_undone(request, done)
        return back_to(request, "catalogue")


class DoAgain(CatalogueView):
    """Doing a change of the catalogue again that was taken back."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it, or say why not."""
        try:
            say_done(request, do_again(number, anyway="anyway" in request.POST, actor=request.user).revision)
        except Refused as error:
            messages.warning(request, _("Not done again: %(error)s") % {"error": error})
        return back_to(request, "catalogue")


class TakeOut(CatalogueView):
    """The products that are found, as a file: at once, or, where they are many, written in the background."""

    def post(self, request: HttpRequest, form: str) -> HttpResponseBase:
        """Give it, or have it written."""
        if form not in FORMS:
            raise Http404("There is no such form of file.")
        query = request.POST.get("query", "")
        sheet = Sheet(parse_qsl(query))
        if sheet.total > SMALL and is_worker_alive():
            take_out_products.defer(query=query, form=form)
            messages.info(request, _("The file is being written; here is how far it is. Take it from here when it is done."))
            return redirect("activity")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"products.{form}"
            try:
                take_out(path, form, sheet.everything_or_found)
            except CannotWrite as error:
                messages.error(request, str(error))
                return redirect(f"{reverse('catalogue')}?{query}")
            return _as_file(path.open("rb"), form)


class TakenOut(CatalogueView):
    """A file that was written in the background."""

    def get(self, request: HttpRequest, number: int) -> HttpResponseBase:
        """Give it."""
        export = get_object_or_404(Export, pk=number)
        return _as_file(content_of(export), export.form)


def _as_file(content: BinaryIO | Iterator[bytes], form: str) -> HttpResponseBase:
    """Return a file to be kept."""
    response = FileResponse(content, content_type=FORMS[form][1])
    response["Content-Disposition"] = f'attachment; filename="products.{form}"'
    return response
