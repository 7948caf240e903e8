"""The cells of a row of the sheet. There are hundreds on a page; as a template they would be most of its time."""

from django import template
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _

from binsort.racks.templatetags.drawing import colours
from binsort.workbench.sheet.cells import Cell, SheetRow

register = template.Library()


_MOST_SIZE, _FEW = 22, 6
_LONG = 30  # characters of a name that has room


@register.simple_tag
def product_name(name: str) -> SafeString:
    """Draw a name so that, where it is cut, its size stays."""
    parts = "".join(f"<span>{escape(part)}</span>" for part in head_and_size(name) if part)
    return mark_safe(f'<b dir="auto" title="{escape(name)}">{parts}</b>')


def head_and_size(name: str) -> tuple[str, str]:
    """Return a name in two parts, the second kept where the first is cut: behind the last comma stands the size that tells names apart.

    >>> head_and_size("Samphire cruising halyard, 10 mm × 20 m")
    ('Samphire cruising halyard,', ' 10 mm × 20 m')
    >>> head_and_size("Bosun")
    ('Bosun', '')
    """
    if len(name) <= _LONG:
        return name, ""
    head, comma, tail = name.rpartition(",")
    if comma and len(tail) <= _MOST_SIZE:
        return f"{head},", tail
    head = name[:-_FEW].rpartition(" ")[0]
    tail = name[len(head) :]
    return (head, tail) if head and len(tail) <= _MOST_SIZE else (name, "")


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
