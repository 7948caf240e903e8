"""What the benches draw by the hundred: values, their ribbons, their bins."""

from django import template
from django.urls import reverse
from django.utils.html import escape, format_html
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l
from django.utils.translation import ngettext

from binsort.core.insight.value_list import LEFT_OUT, WAITS
from binsort.racks.addresses import query_string
from binsort.racks.templatetags.drawing import colours
from binsort.workbench.facet.page import FacetView
from binsort.workbench.facet.page import leads_to as address_of_mend
from binsort.workbench.facet.value_bench import BinRow, ValueBench, ValueRow

register = template.Library()
_TOLD = {LEFT_OUT: _l("left out"), WAITS: _l("new, in no bin yet")}
_ROOMY = 40  # pixels of a vessel that its figure has room in

_PICTURES = {
    "widths": "M1 1v9M8 1v9M15 1v9M22 1v9M29 1v9M0 10h30",
    "counts": "M1 1v9M6 1v9M10 1v9M17 1v9M29 1v9M0 10h30",
    "groups": "M1 10c3 0 3-7 6-7s3 7 5 7 2-5 5-5 2 5 4 5 3-8 5-8 2 8 4 8z",
    "round": "M1 6v4M4 8v2M7 8v2M10 8v2M13 8v2M16 5v5M19 8v2M22 8v2M25 8v2M29 6v4M0 10h30M14 1h4l-2 3z",
    "calendar": "M3 2h24v8H3zM3 5h24M9 5v5M15 5v5M21 5v5",
}


@register.simple_tag
def way_picture(key: str) -> SafeString:
    """Draw a way to cut."""
    filled = ' fill="currentColor"' if key == "groups" else ' fill="none" stroke="currentColor"'
    picture = '<svg width="30" height="11" viewBox="0 0 30 11" aria-hidden="true"><path d="{}"{}/></svg>'
    return format_html(picture, _PICTURES[key], mark_safe(filled))


@register.simple_tag
def bench_address(page: FacetView) -> str:
    """Return the address that the acts of a bench are sent to: it keeps the listing and what is looked at."""
    listing = [("category", page.listing_path)] if page.listing_path else []
    return reverse("facet-act", args=[page.key]) + query_string([*listing, *page.asked])


@register.simple_tag
def more_rows(page: FacetView) -> str:
    """Return the address that draws more values."""
    kept = [pair for pair in page.asked if pair[0] != "rows"]
    listing = [("category", page.listing_path)] if page.listing_path else []
    rows = str(page.values.rows_next) if page.values else ""
    return reverse("facet", args=[page.key]) + query_string([*listing, *kept, ("rows", rows)])


@register.simple_tag
def leads_to(mend: object, page: FacetView) -> str:
    """Return the address that a mend leads to."""
    return address_of_mend(mend, page)


@register.simple_tag
def minus(whole: float, part: float) -> str:
    """Return what is left of a whole."""
    return f"{whole - part:g}"


@register.simple_tag
def draw_values(bench: ValueBench, page: FacetView) -> SafeString:
    """Draw the three columns of the value bench; by hand, because there may be thousands of rows."""
    parts = ['<div class="flow', " compact" if bench.compact else "", '"><ul class="raws" aria-label="', escape(_("Values")), '">']
    parts += [_value(row) for row in bench.rows]
    if bench.unbinned:
        parts.append(_none(bench, page))
    height = bench.height
    parts.append(f'</ul><svg class="streams" height="{height}" viewBox="0 0 100 {height}" preserveAspectRatio="none" aria-hidden="true">')
    for ribbon in bench.ribbons:
        kind = ' class="out"' if ribbon.out else ""
        parts.append(f'<path d="{ribbon.path}" data-from="{escape(ribbon.value)}"{kind}/>')
    parts += ['</svg><ol class="targets" aria-label="', escape(_("Bins")), '">']
    parts += [_bin(row, bench) for row in bench.bins]
    parts.append(_unbinned(bench))
    parts.append("</ol></div>")
    return mark_safe("".join(parts))


def _gap(pixels: int) -> str:
    return f'<svg width="1" height="{pixels}" aria-hidden="true"></svg>' if pixels else ""


def _value(row: ValueRow) -> str:
    name, label = escape(row.name), escape(row.label)
    told = str(_TOLD[row.state]) if row.state else ""
    state = f"<small>{escape(told)}</small>" if told else ""
    kind = {LEFT_OUT: " left-out", WAITS: " waits"}.get(row.state, "")
    return (
        f'<li>{_gap(row.gap)}<label class="raw{kind} in-{min(row.indent, 6)}" data-value="{name}">'
        f'<input type="checkbox" name="value" value="{name}" id="{row.id}">'
        f'<span dir="auto">{label}</span>{state}<b class="n">{row.count:,}</b></label></li>'
    )


def _none(bench: ValueBench, page: FacetView) -> str:
    words = escape(_("no %(label)s given, or left out") % {"label": page.label.lower()})
    link = f'<a class="raw none" href="{escape(page.unbinned_address)}"><span>{words}</span><b class="n">{bench.unbinned:,}</b></a>'
    return f"<li>{_gap(9)}{link}</li>"


def _bin(row: BinRow, bench: ValueBench) -> str:
    label, words = escape(row.label), escape(row.words)
    called = escape(_("Name of the bin %(name)s") % {"name": row.words})
    patch = _patch(row) if bench.with_swatches else ""
    small = "" if bench.compact else f"<small>{escape(_values(row.values))}</small>"
    return (
        f'<li>{_gap(row.gap)}<div class="target{" tall" if row.tall else ""}" data-bin="{label}" data-key="{escape(row.key)}">{patch}'
        f'<span class="called"><input class="bin-name" id="bin-{escape(row.key)}" value="{label}" data-rename="{label}" '
        f'aria-label="{called}" maxlength="80" dir="auto" title="{words}">{small}</span>'
        f'<span class="held"><svg width="{row.vessel}" height="24" aria-hidden="true"><rect width="100%" height="100%"/></svg>'
        f'<b class="n{" in" if row.vessel >= _ROOMY else ""}">{row.count:,}</b></span></div></li>'
    )


def _values(number: int) -> str:
    return ngettext("%(count)s value", "%(count)s values", number) % {"count": f"{number:,}"}


def _patch(row: BinRow) -> str:
    told = escape(_("Swatch of %(name)s") % {"name": row.words})
    if isinstance(row.given, dict) and row.given.get("text"):
        drawn = f'<i class="patch text">{escape(row.given["text"])}</i>'
    elif isinstance(row.given, dict) and row.given.get("image"):
        drawn = f'<i class="patch"><img src="{escape(row.given["image"])}" alt="" width="22" height="22"></i>'
    else:
        drawn = colours(row.swatch, "patch")
    given = escape(",".join(row.swatch.colours if row.swatch else ()))
    data = f'data-swatch="{escape(row.label)}" data-colours="{given}"'
    return f'<button type="button" class="swatch-of" {data} aria-label="{told}">{drawn}</button>'


def _unbinned(bench: ValueBench) -> str:
    words = escape(_("Unbinned"))
    return (
        f'<li>{_gap(bench.ground)}<div class="target un" data-bin-none><span class="called"><b>{words}</b></span>'
        f'<b class="n">{bench.unbinned:,}</b></div></li>'
    )
