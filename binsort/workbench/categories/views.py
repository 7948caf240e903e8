"""The pages of the category tree."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _

from binsort.catalog.models import Category
from binsort.changes import categories
from binsort.changes.locks import Refused
from binsort.workbench.frame.messages import say_done, undo_state
from binsort.workbench.frame.views import CatalogueView

from .page import step, touched, tree


class Categories(CatalogueView):
    """The tree."""

    template, fragment = "workbench/categories/categories.html", "workbench/categories/_categories.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        return self.show(request, {"nodes": tree(), **undo_state()})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Add, rename or move a category."""
        try:
            self._change(request)
        except Refused as error:
            messages.warning(request, _("Not done: %(error)s") % {"error": error})
        if request.htmx:  # type: ignore[attr-defined]
            return self.get(request)
        return redirect("categories")

    def _change(self, request: HttpRequest) -> None:
        key, parent, name = (request.POST.get(item, "") for item in ("key", "parent", "name"))
        number, above = _number(key), _number(parent)
        if "add" in request.POST:
            category = categories.add(name, above, actor=request.user)
            messages.success(
                request, _("%(name)s is in the tree. Put products into it on their pages or on the sheet.") % {"name": category.name}
            )
        elif number is None:
            raise Refused(_("that category is gone. Load the page anew."))
        elif "rename" in request.POST:
            say_done(request, categories.rename(number, name, seen=request.POST.get("seen", ""), actor=request.user))
        elif "way" in request.POST:
            say_done(request, categories.move(number, *step(number, request.POST["way"]), actor=request.user))
        else:
            say_done(request, categories.move(number, above, _number(request.POST.get("place", "")) or 0, actor=request.user))


def _number(text: str) -> int | None:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 18 else None


class CategoryDelete(CatalogueView):
    """Deleting a category with all below it; it can be undone."""

    template = "workbench/categories/category_delete.html"

    def get(self, request: HttpRequest, number: int) -> HttpResponse:
        """Say what it touches."""
        row = get_object_or_404(Category, pk=number)
        return self.show(request, {"category": row, "touched": touched(number), "below": len(categories.branch_of(number)) - 1})

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        try:
            say_done(request, categories.delete(number, actor=request.user))
        except Refused as error:
            messages.warning(request, _("Not deleted: %(error)s") % {"error": error})
        return redirect("categories")
