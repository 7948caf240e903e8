"""A problem of a facet file: a stable id, where it is, and a sentence that ends in the mend."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing wrong with a facet file."""

    id: str
    facet: str  # "facet KEY" or "rack KEY"; empty for the file as a whole
    property: str
    text: str
    place: tuple[str | int, ...] = ()

    def __str__(self) -> str:
        return f"[{self.id}] {self.text}"
