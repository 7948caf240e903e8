"""What a shopper has seen, as a short text in an address: the next products are those that come first and were not seen yet.

So that none comes twice and none is left out while prices change between one page and the next.
"""

from base64 import urlsafe_b64decode, urlsafe_b64encode
from collections.abc import Iterable

MOST = 2_000  # characters in an address; who has seen more goes on by the number of the page


def written_seen(keys: Iterable[int]) -> str:
    """Write the primary keys of products, empty where they are too many.

    >>> written_seen([7, 300, 5]), written_seen([])
    ('BQKlAg', '')
    """
    rising = sorted(set(keys))
    steps = bytearray()
    for before, key in zip([0, *rising], rising, strict=False):
        step = key - before
        while step > 127:
            steps.append(step & 127 | 128)
            step >>= 7
        steps.append(step)
    text = urlsafe_b64encode(bytes(steps)).decode().rstrip("=")
    return text if len(text) <= MOST else ""


def read_seen(text: str) -> list[int]:
    """Read them back, rising; whatever is no such text holds none.

    >>> read_seen("BQKlAg"), read_seen("?"), read_seen("")
    ([5, 7, 300], [], [])
    """
    try:
        steps = urlsafe_b64decode(text[:MOST].encode("ascii") + b"=" * (-len(text[:MOST]) % 4))
    except ValueError:
        return []
    keys, step, shift, last = [], 0, 0, 0
    for byte in steps:
        step |= (byte & 127) << shift
        shift += 7
        if byte < 128:
            last += step
            keys.append(last)
            step = shift = 0
        elif shift > 56:
            return []
    return keys if all(key < 1 << 62 for key in keys) else []
