"""Bringing a file in: what the page shows of an upload."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.files.columns import LISTS, MEANINGS
from binsort.catalog.files.uploads import WAYS
from binsort.catalog.models import Revision, Upload
from binsort.changes.revisions import KEPT
from binsort.tally.activity import Line, line
from binsort.workbench.activity.page import in_words

_USUAL = ("name", "identity", "sku", "parent", "category", "brand", "tags", "price", "list_price", "level", "availability")


@dataclass(frozen=True, slots=True)
class ColumnView:
    """A column of the file with its meaning."""

    place: int
    header: str
    samples: tuple[str, ...]
    meaning: str
    words: str
    unit: str
    separator: str
    sureness: str  # the first word of why
    why: str
    is_attribute: bool
    may_be_list: bool
    left_out: bool
    asks: bool  # a number of unknown unit


@dataclass(frozen=True, slots=True)
class BringPage:
    """All that the page shows."""

    upload: Upload
    columns: tuple[ColumnView, ...]
    meanings: tuple[tuple[str, str], ...]
    attributes: tuple[tuple[str, str], ...]
    line: Line | None  # of the work that is being done on it
    left: str
    parts: tuple[tuple[str, str, int], ...]  # of the trial: key, words, number
    taken: int
    coverage: tuple[tuple[str, int, int], ...]  # attribute, hundredths before and after
    after: int  # products in the catalogue

    @property
    def ways(self) -> tuple[str, ...]:
        """What may become of products that the file does not name."""
        return WAYS

    @property
    def step(self) -> int:
        """Which of the three steps it is at: 2, the columns, or 3, done."""
        return 3 if self.upload.state == Upload.State.DONE else 2

    @property
    def rows(self) -> int:
        """What all parts of the trial are together."""
        return sum(count for _, _, count in self.parts)

    @property
    def is_busy(self) -> bool:
        """Whether it is being worked on."""
        return self.upload.state in (Upload.State.TRYING, Upload.State.BRINGING)


def bring_page(upload: Upload) -> BringPage:
    """Build the page of an upload."""
    report = upload.report or {}
    names = [(key, meaning.words) for key, meaning in MEANINGS.items() if key != "unused"]
    usual = sorted(names, key=lambda item: _USUAL.index(item[0]) if item[0] in _USUAL else 99)
    job = line(upload.work) if upload.work else None
    before, new = report.get("before", 0), report.get("new", 0)
    gone = report.get("missing", 0) if upload.missing == "delete" else 0
    left = report.get("missing", 0) if upload.missing != "keep" else 0
    return BringPage(
        upload=upload,
        columns=tuple(_column(place, stored, report.get("samples", [])) for place, stored in enumerate(upload.columns)),
        meanings=tuple(usual),
        attributes=tuple((f"attribute:{row.name}", row.name) for row in definitions().values()),
        line=job if job and job.is_open else None,
        left=in_words(job.left) if job and job.left else "",
        parts=tuple(_parts(report)),
        taken=new + report.get("changed", 0) + left,
        coverage=tuple(_shares(report)),
        after=before + new - gone,
    )


def _column(place: int, stored: Mapping[str, Any], samples: list[list[str]]) -> ColumnView:
    kind, is_attribute = stored["kind"], stored["kind"] == "attribute"
    sureness, colon, why = stored["why"].partition(":")
    return ColumnView(
        place=place,
        header=stored["header"] or "(no name)",
        samples=tuple((samples[place] if place < len(samples) else [])[:3]),
        meaning=f"attribute:{stored['name']}" if is_attribute else kind,
        words=stored["name"] if is_attribute else MEANINGS[kind].words,
        unit=stored["unit"],
        separator=stored["separator"],
        sureness=sureness if colon else "",
        why="; ".join(part for part in (why.strip() if colon else stored["why"], stored.get("read_as", "")) if part),
        is_attribute=is_attribute,
        may_be_list=kind in LISTS,
        left_out=kind == "unused",
        asks=is_attribute and stored["is_number"] and not stored["unit"] and sureness == "New attribute",
    )


def _parts(report: Mapping[str, Any]) -> list[tuple[str, str, int]]:
    names = (("new", "New"), ("changed", "Changed"), ("unchanged", "Unchanged"), ("missing", "Missing"), ("refused", "Refused"))
    return [(key, words, report.get(key, 0)) for key, words in names if report]


def _shares(report: Mapping[str, Any]) -> list[tuple[str, int, int]]:
    before, after = report.get("before", 0), report.get("before", 0) + report.get("new", 0)
    return [(name, 100 * old // max(before, 1), 100 * new // max(after, 1)) for name, old, new in report.get("coverage", [])]


def earlier() -> list[tuple[Revision, bool]]:
    """Return the files that were brought in, newest first, and whether each can still be taken back."""
    kept = set(Revision.objects.values_list("pk", flat=True)[:KEPT])
    rows = Revision.objects.filter(kind=Revision.Kind.FILE).select_related("actor")[:12]
    return [(row, row.pk in kept and row.undone_at is None) for row in rows]
