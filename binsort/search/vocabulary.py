"""The words there are in names, for words that are typed wrongly."""

import re
from collections.abc import Iterable
from threading import Lock

import numpy as np
from numpy.typing import NDArray
from rapidfuzz import process
from rapidfuzz.distance import OSA

from binsort.core.index.packed_texts import Texts
from binsort.core.values.text import folded

WORD = re.compile(r"[^\W_]+(?:[.'’-][^\W_]+)*")
_MOST = 50  # words as like as each other
_read: dict[str, tuple[NDArray[np.uint8], frozenset[str]]] = {}  # the words of the names that were read last
_lock = Lock()


def words_of(texts: Iterable[str]) -> frozenset[str]:
    """Return the words of some texts, as identities."""
    return frozenset(word for text in set(texts) for word in WORD.findall(folded(text)))


def likest_words(names: Texts, word: str, errors: int) -> list[list[str]]:
    """Return the words of names that are most like a word, of one error first, then of two and so on.

    Likeness is told by the number of letters that are wrong, missing, too many or swapped (optimal string alignment distance).

    Args:
        names: of all products. The bulk of them is read once, what changed since is read every time.
        word: an identity.
        errors: the most that are forgiven.
    """
    known = [*_words_of_most(names), *words_of(names.changed.values())]
    found: list[set[str]] = [set() for _ in range(errors)]
    for other, distance, _place in process.extract(word, known, scorer=OSA.distance, processor=None, score_cutoff=errors, limit=_MOST):
        if distance:
            found[int(distance) - 1].add(other)
    return [sorted(words) for words in found if words]


def _words_of_most(names: Texts) -> frozenset[str]:
    with _lock:
        read = _read.get("names")
        if read is None or read[0] is not names.data:
            read = _read["names"] = (names.data, words_of(names.unchanged()))
        return read[1]
