"""Very many texts in little memory: their bytes one after the other, and where each one ends."""

from array import array
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import overload

import numpy as np
from numpy.typing import NDArray


class Texts(Sequence[str]):
    """A sequence of texts, never altered; a few that changed or came later stand beside the bytes.

    >>> texts = Texts.of(["shackle", "élan"])
    >>> texts[1], len(texts), list(texts.replaced({0: "cleat", 2: "fid"}))
    ('élan', 2, ['cleat', 'élan', 'fid'])
    """

    def __init__(self, data: NDArray[np.uint8], ends: NDArray[np.uint64], changed: Mapping[int, str] | None = None) -> None:
        self.data, self.ends = data, ends
        self._changed = changed or {}
        self._bytes = memoryview(data)  # type: ignore[arg-type]
        self._size = max(len(ends), max(self._changed, default=-1) + 1)

    @classmethod
    def of(cls, texts: Iterable[str]) -> "Texts":
        """Keep texts."""
        builder = TextsBuilder()
        for text in texts:
            builder.add(text)
        return builder.build()

    def __len__(self) -> int:
        return self._size

    @overload
    def __getitem__(self, place: int) -> str: ...
    @overload
    def __getitem__(self, place: slice) -> Sequence[str]: ...
    def __getitem__(self, place: int | slice) -> str | Sequence[str]:
        if isinstance(place, slice):
            return [self[number] for number in range(*place.indices(self._size))]
        changed = self._changed.get(place) if self._changed else None
        if changed is not None:
            return changed
        if not 0 <= place < self._size:
            raise IndexError(place)
        start = int(self.ends[place - 1]) if place else 0
        return bytes(self._bytes[start : int(self.ends[place])]).decode("utf-8", "surrogatepass")

    def many(self, places: Sequence[int]) -> list[str]:
        """Return the texts at some places; faster than one by one."""
        at = np.array(places, dtype=np.int64)
        if self._changed or not len(at):
            return [self[place] for place in places]
        ends, starts = self.ends[at].tolist(), np.where(at > 0, self.ends[at - 1], 0).tolist()
        data = self._bytes
        return [bytes(data[start:end]).decode("utf-8", "surrogatepass") for start, end in zip(starts, ends, strict=True)]

    def __iter__(self) -> Iterator[str]:
        return (self[place] for place in range(self._size))

    @property
    def changed(self) -> Mapping[int, str]:
        """The texts that stand beside the bytes, by their places."""
        return self._changed

    def unchanged(self) -> "Texts":
        """Return the texts of the bytes alone, as they were before anything changed."""
        return Texts(self.data, self.ends)

    def replaced(self, texts: Mapping[int, str]) -> "Texts":
        """Return the texts with some others at their places; new places follow the last one without a gap."""
        changed = {place: text for place, text in texts.items() if place >= self._size or self[place] != text}
        return Texts(self.data, self.ends, {**self._changed, **changed}) if changed else self


class TextsBuilder:
    """Collects texts."""

    def __init__(self) -> None:
        self._data = bytearray()
        self._ends = array("Q")

    def add(self, text: str) -> None:
        """Put a text behind the others."""
        self._data += text.encode("utf-8", "surrogatepass")
        self._ends.append(len(self._data))

    def build(self) -> Texts:
        """Return the texts."""
        return Texts(np.frombuffer(bytes(self._data), dtype=np.uint8), np.array(self._ends, dtype=np.uint64))
