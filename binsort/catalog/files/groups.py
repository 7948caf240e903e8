"""Groups: the rows of a file that make one product, and why some of them are not taken."""

from dataclasses import dataclass, field

from django.utils.translation import gettext as _

from binsort.core.products.limits import beyond_limits
from binsort.core.products.product import Product

from .table import TableRow


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a row is not taken: where, what, why, and how to mend it."""

    line: int
    column: str
    value: str
    reason: str
    mend: str
    place: int = -1  # of the column whose cell mends it
    proposal: str = ""  # what the cell may mean
    leaves: tuple[int, ...] = ()  # the other lines of the same number, of which only one can be taken

    def __str__(self) -> str:
        where = f"line {self.line}, {self.column}" if self.column else f"line {self.line}"
        return f"{where}: {f'{self.value!r} ' if self.value else ''}{self.reason}. {self.mend}"


@dataclass(slots=True)
class Group:
    """The rows of one product, and the product that they make."""

    key: str
    rows: list[TableRow] = field(default_factory=list)
    product: Product | None = None
    is_named: bool = True  # else the product has its number for a name, and can only be one that is known
    is_whole: bool = False  # a cell has all of the product
    only_variants: bool = False  # its rows are of variants of a product that is known
    refusals: list[Refusal] = field(default_factory=list)


def too_many_cells(row: TableRow) -> list[Refusal]:
    """Return why a row with more cells than the header has names is not taken: nobody knows which of them is which."""
    if not row.beyond:
        return []
    words = {"cells": len(row.cells) + len(row.beyond), "names": len(row.cells)}
    reason = _("has %(cells)s cells, the header has %(names)s") % words
    return [Refusal(row.line, "", "", reason, _("Put a cell with a delimiter in it in quotes."))]


def refusals_of_limits(line: int, product: Product) -> list[Refusal]:
    """Return why a product that begins on a line cannot be kept."""
    return [Refusal(line, words, value[:60], reason, mend) for words, value, reason, mend in beyond_limits(product)]
