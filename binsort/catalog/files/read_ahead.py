"""Reading ahead: the products of a big file are read by a process of its own while others are being written."""

import pickle
import subprocess
import sys
from collections.abc import Iterator

from django.conf import settings
from django.utils.translation import gettext as _

from binsort.catalog.store.batches import batched

from .cautions import Cautions
from .groups import Group
from .product_file import ProductFile
from .unreadable import UnreadableTable

MANY = 10_000  # lines from which a process of its own is worth its beginning


def groups_ahead(source: ProductFile, cautions: Cautions, size: int) -> Iterator[list[Group]]:
    """Yield the groups of a file, so many at a time; ``cautions`` are complete at the end.

    Raises:
        UnreadableTable: the file breaks off, or its reader does.
    """
    if source.table is None or source.size() < MANY:
        yield from batched(source.groups(cautions), size)
        return
    command = [sys.executable, "-m", "binsort.catalog.files.reader_process", str(size)]
    process = subprocess.Popen(command, cwd=settings.BASE_DIR.parent, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert process.stdin and process.stdout
    try:
        pickle.dump(source.row_reader(cautions).apart(), process.stdin)
        process.stdin.close()
        while isinstance(found := pickle.load(process.stdout), list):  # of our own process
            yield found
        error, met = found
        if error is not None:
            raise error
        cautions.take(met)
    except (EOFError, BrokenPipeError, pickle.UnpicklingError) as error:
        raise UnreadableTable(_("its reader ended before the file did; memory may be short. Nothing was changed: try again.")) from error
    finally:
        process.kill()
        process.stdout.close()
        process.wait()
