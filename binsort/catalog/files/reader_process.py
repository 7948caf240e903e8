"""The process that reads a big file ahead of whoever takes its products in. It asks the database nothing.

It is sent a reader, and sends groups of rows back, so many at a time; at the end None with the cautions, or what went wrong.
"""

import gc
import pickle
import sys
from typing import BinaryIO

import django


def main(size: int, sent: BinaryIO, results: BinaryIO) -> None:
    """Read what is sent and write results."""
    from binsort.catalog.store.batches import batched

    gc.disable()  # what is read has no cycles, and goes when it is sent
    try:
        reader = pickle.load(sent)  # made by the process that began this one
        for groups in batched(reader.groups(), size):
            pickle.dump(groups, results, pickle.HIGHEST_PROTOCOL)
            results.flush()
        pickle.dump((None, reader.cautions), results)
    except BrokenPipeError:
        return  # nobody wants the rest
    except Exception as error:
        pickle.dump((error, None), results)
    results.flush()


if __name__ == "__main__":
    django.setup()
    main(int(sys.argv[1]), sys.stdin.buffer, sys.stdout.buffer)
