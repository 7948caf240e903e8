"""The pages of the catalogue sheet: the products, one cell, many at once, taking back."""

import tempfile
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl

from django.contrib import messages
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse

from binsort.catalog.entering import BadValue, Entry, edit_of, shown, typed
from binsort.catalog.records import products_of
from binsort.catalog.revising import ChangedSince, Refused, newest, revise_each, take_back
from binsort.catalog.taking_out import FORMS, take_out
from binsort.core.edits import SET, WAYS, Varies, edited, held
from binsort.tally.current import is_worker_alive

from .bulk import INLINE, change_many, delete_many, effect
from .sheet import Sheet, suggest_columns
from .sheetparts import source_of
from .suggested import suggested
from .tasks import change_products
from .views import OwnerView, query_pairs

_MOST_COLUMNS = 40


def sheet_of(request: HttpRequest, pairs: list[tuple[str, str]] | None = None) -> Sheet:
    """Return the sheet that a request asks for, with the columns that this person chose."""
    return Sheet(query_pairs(request) if pairs is None else pairs, request.session.get("columns"), reverse("catalogue"))


def back_to_sheet(request: HttpRequest) -> HttpResponse:
    """Go back to the page that a form names, if it is one of the catalogue."""
    target = request.POST.get("next", "")
    safe = target.startswith("/catalogue/") and "//" not in target and "\\" not in target
    return redirect(target if safe else "catalogue")


class Catalogue(OwnerView):
    """The sheet."""

    template, fragment = "workbench/catalogue.html", "workbench/_catalogue.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        sheet = sheet_of(request)
        opened = request.GET.get("open", "")
        context = {
            "sheet": sheet,
            "newest": newest(),
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


class Head(OwnerView):
    """The heads of the columns anew, after a cell was changed."""

    template = fragment = "workbench/_sheet_head.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show them."""
        return self.show(request, {"sheet": sheet_of(request), "newest": newest(), "with_undo": True})


class Columns(OwnerView):
    """Choosing the columns."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep the choice."""
        chosen = [key for key in request.POST.getlist("column") if len(key) < 500][:_MOST_COLUMNS]
        if "usual" in request.POST or not chosen:
            request.session.pop("columns", None)
        else:
            request.session["columns"] = chosen
        return back_to_sheet(request)


class CellEdit(OwnerView):
    """One cell: what is typed into it is kept, or refused with the reason."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Keep it; answers with the row as it is then."""
        sheet = sheet_of(request, [])
        entry = sheet.entries.get(request.POST.get("field", ""))
        name, text, seen = (request.POST.get(key, "") for key in ("product", "text", "seen"))
        now = products_of([name], hidden=True).get(name)
        if entry is None or now is None:
            return self._refused(request, "That product or field is gone. Load the page anew.", 410)
        if shown(entry, held(now, entry.field)) != seen and "anyway" not in request.POST:
            theirs = shown(entry, held(now, entry.field))
            return self._refused(request, f"Meanwhile somebody else changed it to “{theirs or 'nothing'}”.", 409, theirs=theirs)
        try:
            edit = edit_of(entry, SET, text)
            what = f"Set {entry.label} of {now.name} to {text}" if text.strip() else f"Emptied {entry.label} of {now.name}"
            revision = revise_each(what, [name], lambda _, product: product and edited(product, edit), actor=request.user)
        except Varies:
            return self._refused(request, "Its variants differ here. Open the product to change them one by one.", 422)
        except (BadValue, Refused) as error:
            return self._refused(request, str(error), 422)
        after = products_of([name], hidden=True)[name]
        response = render(request, "workbench/_sheet_row.html", {"row": sheet.row(after), "sheet": sheet})
        response["X-Revision"] = str(revision.pk) if revision else ""
        return response

    def _refused(self, request: HttpRequest, text: str, status: int, theirs: str | None = None) -> HttpResponse:
        return render(request, "workbench/_cell_refused.html", {"text": text, "theirs": theirs}, status=status)


class Suggest(OwnerView):
    """Values for a cell."""

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show them."""
        sheet = sheet_of(request, [])
        entry = sheet.entries.get(request.GET.get("field", ""))
        found = suggested(sheet, request.GET.get("product", ""), entry, request.GET.get("typed", "")) if entry else []
        return render(request, "workbench/_suggestions.html", {"suggestions": found, "entry": entry})


class Bulk(OwnerView):
    """Many products at once."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Change them, or say what would change."""
        sheet = sheet_of(request, parse_qsl(request.POST.get("query", "")))
        chosen = sheet.identities if request.POST.get("every") else list(dict.fromkeys(request.POST.getlist("product")))
        if "preview" in request.POST:
            return render(request, "workbench/_effect.html", self._effect(request, sheet, chosen))
        if not chosen:
            messages.warning(request, "No product is selected. Tick some first.")
            return back_to_sheet(request)
        entry = sheet.entries.get(request.POST.get("field", ""))
        if len(chosen) > INLINE and request.POST.get("every") and is_worker_alive():
            return self._later(request, entry)
        try:
            if "delete" in request.POST:
                revision = delete_many(chosen, actor=request.user)
            else:
                revision = change_many(entry, *_typed(request), chosen, actor=request.user) if entry else None
        except (BadValue, Refused) as error:
            messages.warning(request, f"Nothing was changed: {error}")
        else:
            said = (
                f"{revision.summary}: {revision.changed + revision.left:,} changed."
                if revision
                else "Nothing changes: they are like that already."
            )
            messages.success(request, said, extra_tags=f"take-back:{revision.pk}" if revision else "")
        return back_to_sheet(request)

    def _later(self, request: HttpRequest, entry: Entry | None) -> HttpResponse:
        """Have very many products changed in the background."""
        way, text, old = _typed(request)
        try:
            if entry is None:
                raise BadValue("That field is gone. Load the page anew.")
            if "delete" not in request.POST:
                edit_of(entry, way, text, old)
        except BadValue as error:
            messages.warning(request, f"Nothing was changed: {error}")
            return back_to_sheet(request)
        way = "" if "delete" in request.POST else way
        query, field = request.POST.get("query", ""), request.POST.get("field", "")
        change_products.defer(query=query, field=field, way=way, text=text, old=old, actor=request.user.pk)
        messages.info(request, "It is being done in the background; here is how far it is. Undo on the catalogue page takes it back.")
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
            if not text.strip() and way != SET:
                return {"chosen": len(chosen), "entry": entry, "waits": True}
            if len(chosen) > INLINE:
                edit_of(entry, way, text, old)
                return {"chosen": len(chosen), "entry": entry, "many": True}
            found = effect(entry, edit_of(entry, way, text, old), chosen)
        except BadValue as error:
            return {"chosen": len(chosen), "entry": entry, "problem": str(error)}
        after = 100 * (total - column.missing + found.gained - found.lost) // total if total and source else 100
        return {
            "chosen": len(chosen), "entry": entry, "effect": found, "before": column.covered, "after": max(0, min(100, after)),
            "empties": way == SET and not typed(entry, text),
        }  # fmt: skip


def _typed(request: HttpRequest) -> tuple[str, str, str]:
    way = request.POST.get("way", SET)
    return way if way in WAYS else SET, request.POST.get("text", ""), request.POST.get("old", "")


class TakeBack(OwnerView):
    """Taking a change of the catalogue back."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it, or ask where something would be lost."""
        try:
            revision = take_back(number, anyway="anyway" in request.POST)
        except ChangedSince as error:
            messages.warning(request, f"Not undone: {error}", extra_tags=f"take-back-anyway:{number}")
        except Refused as error:
            messages.warning(request, f"Not undone: {error}")
        else:
            messages.info(request, f"Undone: {revision}.")
        return back_to_sheet(request)


class TakeOut(OwnerView):
    """The products that are found, as a file."""

    def get(self, request: HttpRequest, form: str) -> HttpResponse:
        """Give it."""
        if form not in FORMS:
            raise Http404("There is no such form of file.")
        sheet = sheet_of(request)
        every = not sheet.chips and not sheet.listing_path
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"products.{form}"
            take_out(path, form, None if every else sheet.identities)
            response = FileResponse(path.open("rb"), content_type=FORMS[form])
        response["Content-Disposition"] = f'attachment; filename="products.{form}"'
        return response
