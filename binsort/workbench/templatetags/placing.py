"""The cells of the tree of listings: a page holds them by the thousand."""

from django import template
from django.utils.html import escape
from django.utils.safestring import SafeString
from django.utils.text import slugify

from binsort.workbench.placing.page import CellView, RowView
from binsort.workbench.placing.strands import ROW, Strand

from .links import goes

register = template.Library()
_WIDE = 150  # pixels that strands may take


@register.simple_tag
def place_cells(row: RowView) -> SafeString:
    """Draw what stands at the places of a listing, with the strands that lead there; the chosen one is set at the foot."""
    slug = slugify(row.node.key)
    return SafeString("".join(_cell(cell, slug) for cell in row.cells))


def _cell(cell: CellView, slug: str) -> str:
    strands = cell.spot.strands
    drawn = f'<svg class="strands" width="{_WIDE}" height="{ROW}" aria-hidden="true">{_paths(strands)}</svg>' if strands else ""
    kinds = " ".join(name for name, is_so in (("own", cell.is_own), ("alone", cell.is_alone), ("chosen", cell.chosen)) if is_so)
    count = f' <span class="n">{cell.facets}</span>' if cell.facets is not None else ""
    here = ' aria-current="true"' if cell.chosen else ""
    return (
        f'<td><div class="spot">{drawn}<svg width="{cell.spot.indent}" height="1" aria-hidden="true"></svg>'
        f'<a {goes(cell.address)} id="cell-{cell.where}-{slug}" class="{kinds}"{here}>'
        f'<span class="truncate" dir="auto">{escape(cell.label)}</span>{count}</a></div></td>'
    )


def _paths(strands: tuple[Strand, ...]) -> str:
    """Return the paths of strands; they hold nothing but numbers."""
    return "".join(map(_path, strands))


def _path(one: Strand) -> str:
    stub = f"M{one.x}.5 {ROW // 2}.5h8" if one.takes else ""
    return f'<path{" class=inked" if one.inked else ""} d="M{one.x}.5 {one.top}V{one.bottom}{stub}"/>'
