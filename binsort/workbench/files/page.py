"""Bringing a file in: what the page shows of an upload."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from binsort.catalog.dictionary.attributes import definitions
from binsort.catalog.files.cautions import said
from binsort.catalog.files.columns import LISTS, MEANINGS
from binsort.catalog.files.uploads import WAYS
from binsort.catalog.models import Revision, Upload
from binsort.changes.revisions import KEPT
from binsort.core.insight.coverage import percent
from binsort.racks.setup import the_setup
from binsort.tally.activity import COUNTING, Line, line, running
from binsort.tally.current import are_behind
from binsort.workbench.activity.page import in_words

_USUAL = ("name", "identity", "sku", "parent", "category", "brand", "tags", "price", "list_price", "level", "availability")


@dataclass(frozen=True, slots=True)
class QuestionView:
    """What a column does not tell by itself."""

    name: str  # of the field of the form
    text: str
    choices: tuple[tuple[str, str], ...]
    chosen: str
    settled: bool  # somebody answered it


@dataclass(frozen=True, slots=True)
class RefusalView:
    """Why a row is not taken, and what mends it in place."""

    line: int
    column: str
    value: str
    reason: str
    mend: str
    field: str  # of the form, where a cell mends it
    cell: str  # what stands in it
    proposal: str
    leaves: tuple[int, ...]
    label: str


@dataclass(frozen=True, slots=True)
class ColumnView:
    """A column of the file with its meaning."""

    place: int
    header: str
    samples: tuple[tuple[str, str], ...]  # and how each is read, where that is otherwise than written
    questions: tuple[QuestionView, ...]
    meaning: str
    words: str
    unit: str
    separator: str
    sureness: str  # the first word of why
    why: str
    is_attribute: bool
    may_be_list: bool
    left_out: bool
    asks_unit: bool  # a number of unknown unit

    @property
    def asks(self) -> bool:
        """Whether something of it waits for an answer."""
        return self.asks_unit or any(not question.settled for question in self.questions)


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
    cautions: tuple[str, ...]
    refusals: tuple[RefusalView, ...]
    mended: int  # rows put right here
    counts_follow: bool  # it is brought in, and the counts are still those of before

    @property
    def sheets(self) -> tuple[tuple[str, str], ...]:
        """The sheets of a workbook that has several, each as an answer and in words."""
        sheets = self.upload.workbook.get("sheets", ())
        return tuple((name, name) for name in sheets) if len(sheets) > 1 else ()

    @property
    def has_no_facets(self) -> bool:
        """Whether the shop has no rack to narrow by yet."""
        return not any(rack["facets"] for rack in the_setup().draft.document["racks"])

    @property
    def ways(self) -> tuple[str, ...]:
        """What may become of products that the file does not name."""
        return WAYS

    @property
    def step(self) -> int:
        """Which of the three steps it is at: 2, the columns, or 3, done."""
        return 3 if self.upload.state == Upload.State.DONE and not self.counts_follow else 2

    @property
    def rows(self) -> int:
        """What all parts of the trial are together."""
        return sum(count for _key, _words, count in self.parts)

    @property
    def is_busy(self) -> bool:
        """Whether it is being worked on, or the counts follow it."""
        return self.counts_follow or self.upload.state in (Upload.State.TRYING, Upload.State.BRINGING)


def bring_page(upload: Upload) -> BringPage:
    """Build the page of an upload."""
    report = upload.report or {}
    names = [(key, meaning.words) for key, meaning in MEANINGS.items() if key != "unused"]
    usual = sorted(names, key=lambda item: _USUAL.index(item[0]) if item[0] in _USUAL else 99)
    job = line(upload.work) if upload.work else None
    follows = upload.state == Upload.State.DONE and are_behind()
    if follows:
        job = next((work for work in [running()] if work and work.what == COUNTING), None)
    before, new = report.get("before", 0), report.get("new", 0)
    gone = report.get("missing", 0) if upload.missing == "delete" else 0
    left = report.get("missing", 0) if upload.missing != "keep" else 0
    return BringPage(
        upload=upload,
        columns=tuple(_column(place, stored, report) for place, stored in enumerate(upload.columns)),
        meanings=tuple(usual),
        attributes=tuple((f"attribute:{row.name}", row.name) for row in definitions().values()),
        line=job if job and job.is_open else None,
        left=in_words(job.left) if job and job.left else "",
        parts=tuple(_parts(report)),
        taken=new + report.get("changed", 0) + left,
        coverage=tuple(_shares(report)),
        after=before + new - gone,
        cautions=(*report.get("notes", []), *map(said, report.get("cautions", []))),
        refusals=tuple(_refusal(told, upload.columns) for told in report.get("refusals", [])),
        mended=len(upload.mends),
        counts_follow=follows,
    )


def _column(place: int, stored: Mapping[str, Any], report: Mapping[str, Any]) -> ColumnView:
    kind, is_attribute = stored["kind"], stored["kind"] == "attribute"
    sureness, colon, why = stored["why"].partition(":")
    samples, questions = report.get("samples", []), report.get("questions", [])
    return ColumnView(
        place=place,
        header=stored["header"] or _("(no name)"),
        samples=tuple((text, read) for text, read in (samples[place] if place < len(samples) else [])),
        questions=tuple(_question(place, asked) for asked in (questions[place] if place < len(questions) else [])),
        meaning=f"attribute:{stored['name']}" if is_attribute else kind,
        words=stored["name"] if is_attribute else MEANINGS[kind].words,
        unit=stored["unit"],
        separator=stored["separator"],
        sureness=sureness if colon else "",
        why="; ".join(part for part in (why.strip() if colon else stored["why"], stored.get("read_as", "")) if part),
        is_attribute=is_attribute,
        may_be_list=kind in LISTS,
        left_out=kind == "unused",
        asks_unit=is_attribute and stored["is_number"] and not stored["unit"] and sureness == "New attribute",
    )


def _question(place: int, asked: Mapping[str, Any]) -> QuestionView:
    choices = tuple((answer, words) for answer, words in asked["choices"])
    return QuestionView(f"c:{place}:{asked['field']}", asked["text"], choices, asked["chosen"], asked["settled"])


def _refusal(told: Mapping[str, Any], columns: list[dict[str, Any]]) -> RefusalView:
    place = told.get("place", -1)
    header = columns[place]["header"] if 0 <= place < len(columns) else ""
    return RefusalView(
        line=told["line"],
        column=told["column"],
        value=told["value"],
        reason=told["reason"],
        mend=told["mend"],
        field=f"m:{told['line']}:{place}" if header else "",
        cell="" if not told["column"] or told["column"] != header else told["value"],
        proposal=told.get("proposal", ""),
        leaves=tuple(told.get("leaves", ())),
        label=header,
    )


def _parts(report: Mapping[str, Any]) -> list[tuple[str, str, int]]:
    names = (("new", "New"), ("changed", "Changed"), ("unchanged", "Unchanged"), ("missing", "Missing"), ("refused", "Refused"))
    return [(key, words, report.get(key, 0)) for key, words in names if report]


def _shares(report: Mapping[str, Any]) -> list[tuple[str, int, int]]:
    before, after = report.get("before", 0), report.get("before", 0) + report.get("new", 0)
    return [(name, percent(old, max(before, 1)), percent(new, max(after, 1))) for name, old, new in report.get("coverage", [])]


def earlier() -> list[tuple[Revision, bool]]:
    """Return the files that were brought in, newest first, and whether each can still be taken back."""
    kept = set(Revision.objects.values_list("pk", flat=True)[:KEPT])
    rows = Revision.objects.filter(kind=Revision.Kind.FILE).select_related("actor")[:12]
    return [(row, row.pk in kept and row.undone_at is None) for row in rows]
