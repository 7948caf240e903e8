"""The rows of variants on the page of a product. There may be hundreds; as a template they would be most of its time."""

from collections.abc import Iterable

from django import template
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe
from django.utils.translation import gettext as _

from binsort.workbench.product.page import FieldView, VariantView

register = template.Library()


@register.simple_tag
def variant_rows(variants: Iterable[VariantView]) -> SafeString:
    """Draw variants as rows of fields, each with its SKU, its cells and a box to delete it."""
    words = _Words(_("one more"), _("SKU"), _("%(label)s of %(of)s"), _("Delete %(sku)s"))
    return mark_safe("".join(words.row(variant) for variant in variants))


class _Words:
    """What rows say, looked up once."""

    def __init__(self, one_more: str, sku: str, label_of: str, delete: str) -> None:
        self.one_more, self.sku, self.label_of, self.delete = one_more, sku, label_of, delete

    def row(self, variant: VariantView) -> str:
        name, sku = escape(variant.name), escape(variant.sku)
        spare = f' placeholder="{escape(self.one_more)}"' if variant.is_spare else ""
        gone = "" if variant.is_spare else (
            f'<input type="checkbox" name="v:{name}:gone" value="1" aria-label="{escape(self.delete % {"sku": variant.sku})}"'
            f'{" checked" if variant.gone else ""}>'
        )  # fmt: skip
        return (
            f'<tr><td class="min-w-138"><input name="v:{name}:sku" value="{sku}" aria-label="{escape(self.sku)}" class="n"{spare}></td>'
            f"{''.join(self.cell(variant, name, cell) for cell in variant.cells)}<td>{gone}</td></tr>"
        )

    def cell(self, variant: VariantView, name: str, cell: FieldView) -> str:
        told = escape(self.label_of % {"label": cell.entry.label, "of": variant.sku or self.one_more})
        kinds = " ".join(kind for kind, is_so in (("lacks", not cell.text and not variant.is_spare), ("n", cell.is_number)) if is_so)
        error = f'<p class="error">{escape(cell.error)}</p>' if cell.error else ""
        key, text = escape(cell.entry.key), escape(cell.text)
        many = " data-many" if cell.entry.many else ""
        field = f' data-field="{key}"{many} autocomplete="off"' if cell.is_suggested else ""
        return (
            f"<td{' class=wrong' if cell.error else ''}>"
            f'<input name="v:{name}:{key}" value="{text}" aria-label="{told}" class="{kinds}"{field}>'
            f"{error}</td>"
        )
