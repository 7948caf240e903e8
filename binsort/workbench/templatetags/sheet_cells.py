"""The cells of a row of the sheet. There are hundreds on a page; as a template they would be most of its time."""

from django import template
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _

from binsort.racks.templatetags.drawing import colours
from binsort.workbench.sheet.cells import Cell, SheetRow

register = template.Library()


@register.simple_tag
def cells(row: SheetRow) -> SafeString:
    """Draw the cells of a row; the first one can be reached by Tab."""
    return mark_safe("".join(_cell(cell, is_first=place == 0) for place, cell in enumerate(row.cells)))


def _cell(cell: Cell, *, is_first: bool) -> str:
    kinds = f"cell{' number' if cell.is_number else ''}{' varies' if cell.varies else ''}"
    told = f' aria-label="{escape(_("%(label)s: missing") % {"label": cell.label})}"' if cell.is_missing else ""
    told += f' title="{escape(_("Its variants differ: open the product to change them"))}"' if cell.varies else ""
    key, text = escape(cell.key), escape(cell.text)
    inside = (
        '<i class="lack"></i>'
        if cell.is_missing
        else f'{colours(cell.swatch, "dot") if cell.swatch else ""}<span dir="auto">{escape(cell.words)}</span>'
    )
    return f'<td class="{kinds}" data-field="{key}" data-text="{text}" tabindex="{0 if is_first else -1}"{told}>{inside}</td>'
