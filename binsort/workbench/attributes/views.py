"""The pages of the dictionary."""

import re
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions, state_mark
from binsort.catalog.models import Attribute
from binsort.changes.attributes import (
    Clash,
    add_attribute,
    change_attribute,
    describe_value,
    merge_values,
    order_attributes,
    order_values,
    remove_attribute,
)
from binsort.changes.locks import Refused
from binsort.core.values.colours import colour
from binsort.core.values.text import identity
from binsort.workbench.frame.messages import say_done, undo_state
from binsort.workbench.frame.views import CatalogueView

from .page import AttributeForm, attribute_lines, attribute_page, moved_value

_HEX = re.compile(r"#[0-9a-f]{6}", re.IGNORECASE)


class Attributes(CatalogueView):
    """The list of attributes."""

    template = "workbench/attributes/attributes.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show it."""
        return self._page(request, AttributeForm(initial={"kind": "choice", "narrowing": True, "on_pages": True}))

    def post(self, request: HttpRequest) -> HttpResponse:
        """Take a new attribute in."""
        form = AttributeForm(request.POST)
        if form.is_valid():
            try:
                row = add_attribute(form.definition, actor=request.user)
                return redirect("attribute", number=row.pk)
            except Refused as error:
                form.add_error("name", str(error))
        return self._page(request, form, status=422)

    def _page(self, request: HttpRequest, form: AttributeForm, status: int = 200) -> HttpResponse:
        return self.show(request, {"lines": attribute_lines(), "form": form, **undo_state()}, status=status)


class AttributesOrder(CatalogueView):
    """The order of the dictionary."""

    def post(self, request: HttpRequest) -> HttpResponse:
        """Move one attribute up or down, or put all into an order."""
        keys = list(definitions())
        moved = request.POST.get("key", "")
        if moved in keys:
            place = keys.index(moved)
            keys.insert(max(0, place + (-1 if request.POST.get("way") == "up" else 1)), keys.pop(place))
        else:
            keys = request.POST.getlist("attribute")
        order_attributes(keys, actor=request.user)
        return redirect("attributes")


class AttributePage(CatalogueView):
    """One attribute: what it is, its values."""

    template = "workbench/attributes/attribute.html"

    def get(self, request: HttpRequest, number: int) -> HttpResponse:
        """Show it."""
        return self._page(request, get_object_or_404(Attribute, pk=number))

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Change what it is."""
        row = get_object_or_404(Attribute, pk=number)
        form = AttributeForm(request.POST)
        seen = request.POST.get("seen", "")
        if form.is_valid():
            try:
                say_done(request, change_attribute(row, form.definition, seen=seen, actor=request.user))
                return redirect("attribute", number=number)
            except Clash as error:
                row.refresh_from_db()
                form.add_error(None if seen != state_mark(row) else "name", str(error))
            except Refused as error:
                form.add_error(None, _("Not saved: %(error)s") % {"error": error})
        return self._page(request, Attribute.objects.get(pk=number), form, status=422)

    def _page(self, request: HttpRequest, row: Attribute, form: AttributeForm | None = None, status: int = 200) -> HttpResponse:
        page = attribute_page(row, request.GET.get("find", ""))
        context: dict[str, Any] = {"page": page, "form": form or AttributeForm(initial=row.__dict__), **undo_state()}
        return self.show(request, context, status=status)


class AttributeDelete(CatalogueView):
    """Deleting an attribute, from the dictionary and from every product; it can be undone."""

    template = "workbench/attributes/attribute_delete.html"

    def get(self, request: HttpRequest, number: int) -> HttpResponse:
        """Say what it touches."""
        return self.show(request, {"page": attribute_page(get_object_or_404(Attribute, pk=number))})

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        row = get_object_or_404(Attribute, pk=number)
        try:
            say_done(request, remove_attribute(row, actor=request.user))
        except Refused as error:
            messages.warning(request, _("Not deleted: %(error)s") % {"error": error})
        return redirect("attributes")


class Values(CatalogueView):
    """Changing the values of an attribute."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Merge, rename, describe or order them."""
        row = get_object_or_404(Attribute, pk=number)
        try:
            self._change(request, row)
        except Refused as error:
            messages.warning(request, _("Nothing was changed: %(error)s") % {"error": error})
        return redirect("attribute", number=number)

    def _change(self, request: HttpRequest, row: Attribute) -> None:
        values, text = request.POST.getlist("value"), request.POST.get("text", "")
        if "merge" in request.POST:
            others = [value for value in values if identity(value) != identity(text)]
            spelling = [value for value in values if identity(value) == identity(text) and value != text]
            say_done(request, merge_values(row, [*others, *spelling], text, actor=request.user))
        elif "way" in request.POST:
            order_values(row, moved_value(row, text, request.POST["way"]), actor=request.user)
        elif "describe" in request.POST:
            describe_value(
                row, text, colours=_colours(request.POST.get("colours", "")), image=request.POST.get("image", "").strip(),
                note=request.POST.get("note", "").strip(), actor=request.user,
            )  # fmt: skip
            messages.success(request, _("%(strip)s is in the dictionary.") % {"strip": text.strip()})


def _colours(text: str) -> list[str]:
    """Read up to three colours, by hexadecimal number or by name. Raises Refused."""
    colours = []
    for word in text.replace(",", " ").split():
        named = word.lower() if _HEX.fullmatch(word) else colour(word)
        if named is None:
            raise Refused(_("“%(word)s” is no colour. Write a name as navy, or a number as #1d3156.") % {"word": word})
        colours.append(named)
    if len(colours) > 3:
        raise Refused(_("a value has up to three colours."))
    return colours
