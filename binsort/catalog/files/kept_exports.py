"""Files that were written in the background: kept in pieces for some days, and read again."""

from collections.abc import Iterable, Iterator
from datetime import timedelta
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from binsort.catalog.models import Export, ExportPart

_PIECE = 1 << 20  # bytes of a file in one row
_KEPT = timedelta(days=7)


@transaction.atomic
def keep_export(path: Path, form: str, *, work: int) -> Export:
    """Keep a file that was taken out. Those of last week go.

    Args:
        path: of the file.
        form: of :data:`.export.FORMS`.
        work: the number of the work that wrote it.
    """
    Export.objects.filter(at__lt=timezone.now() - _KEPT).delete()
    kept = Export.objects.create(form=form, work=work)
    with path.open("rb") as file:
        for place, content in enumerate(iter(lambda: file.read(_PIECE), b"")):
            ExportPart.objects.create(export=kept, place=place, content=content)
    return kept


def content_of(export: Export) -> Iterator[bytes]:
    """Yield the pieces of a file."""
    yield from map(bytes, export.parts.order_by("place").values_list("content", flat=True).iterator(8))


def exports_of(works: Iterable[int]) -> dict[int, Export]:
    """Return the files that pieces of work wrote, by the numbers of the work; one query."""
    return {export.work: export for export in Export.objects.filter(work__in=list(works))}
