"""Files brought in: all of what can be taken, or nothing, as one revision."""

from dataclasses import replace
from typing import Any

from django.utils.translation import gettext as _

from binsort.catalog import models
from binsort.catalog.files.product_file import ProductFile
from binsort.catalog.files.trial import Progress, Trial, silent, steps
from binsort.catalog.files.uploads import HIDE, KEEP, header_mark, unpacked
from binsort.catalog.models import Revision, Shape, Upload
from binsort.catalog.store.batches import batched
from binsort.catalog.store.product_rows import products_of
from binsort.catalog.store.product_writer import BATCH, look_anew
from binsort.core.index.collector import without_collecting
from binsort.core.products.product import Product

from .locks import Refused, change, hold
from .revisions import begin, write

_LOOKED_AFTER = (2, 20)  # batches, so that the database does not go through whole tables that it believes to be empty


@change
def bring_in(source: ProductFile, *, missing: str = KEEP, actor: Any = None, progress: Progress = silent) -> tuple[models.Revision, Trial]:
    """Take the products of a file: new and changed ones are written, unchanged ones left alone, refused rows passed over.

    All of it or nothing: where anything fails, or ``progress`` raises, the catalogue stays as it was.

    Args:
        source: the file.
        missing: what becomes of products that the file does not name: ``keep``, ``hide`` or ``delete``.
        actor: who does it.
        progress: called with how many products are done, of how many.

    Raises:
        Refused: something else is being written, or no row of this one can be taken.
    """
    hold(alone=True)
    result = Trial()
    kind = models.Revision.Kind.FILE
    revision = begin(kind, f"Brought in {source.name}", file=source.name, form=source.form, actor=actor, missing=missing)
    batches, noted = 0, set[str]()
    with without_collecting():
        for after, before in steps(source, result, progress):
            if after:
                _write_noted(revision, after, before, noted)
                batches += 1
                if batches in _LOOKED_AFTER:
                    look_anew(batches * BATCH)
    if not result.new and not result.changed and not result.unchanged:
        raise Refused("no row of the file can be taken" + (f"; the first: {result.refusals[0]}" if result.refusals else "; it has none"))
    leaving = result.missing if missing != KEEP else []
    for names in batched(leaving, BATCH):
        known = products_of(names, hidden=True)
        hidden = {name: replace(product, visible=False) for name, product in known.items()}
        write(revision, hidden if missing == HIDE else dict.fromkeys(known), known, known)
        progress(0, 0)
    revision.new, revision.changed, revision.left = len(result.new), len(result.changed), len(leaving)
    revision.refused = len(result.refused_rows)
    revision.save()
    if batches < _LOOKED_AFTER[-1]:
        look_anew(revision.new + revision.changed)
    return revision, result


def _write_noted(revision: models.Revision, after: dict[str, Product], before: dict[str, Product], noted: set[str]) -> None:
    """Write products; whatever goes wrong names the first and the last of them."""
    try:
        write(revision, after, before, before, noted=noted)
    except Exception as error:
        names = list(after)
        error.add_note(_("among the products %(first)s to %(last)s") % {"first": names[0], "last": names[-1]})
        raise


@change
def take(upload: Upload, progress: Progress = silent) -> Revision:
    """Bring the file in, all of it or nothing; remember how its columns are read where that was asked for.

    Raises:
        Refused: something else is being written, or no row can be taken.
        UnreadableFile: it is not what it seemed.
    """
    with unpacked(upload) as source:
        revision, _trial = bring_in(source, missing=upload.missing, actor=upload.actor, progress=progress)
        if upload.remembered and source.table:
            Shape.objects.update_or_create(header=header_mark(source), defaults={"columns": upload.columns})
    upload.state, upload.revision, upload.problem = Upload.State.DONE, revision, ""
    upload.save(update_fields=["state", "revision", "problem"])
    upload.parts.all().delete()
    return revision
