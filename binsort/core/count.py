"""``count``: check facets against a catalogue file, with no database and no server."""

import argparse
import json
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Any, NoReturn

from binsort.core.answers.answer import Answer, RackIndex
from binsort.core.facets.facet_file import FacetFileError, read_facet_file
from binsort.core.facets.query import pairs_of
from binsort.core.index.catalogue_index import build_index
from binsort.core.products.catalogue_reader import read_catalogue
from binsort.core.values.dates import instant, now_in_seconds
from binsort.core.values.numbers import Number
from binsort.core.values.text import category_path, identity


def answer_document(answer: Answer) -> dict[str, Any]:
    """Return an answer as the JSON object that ``count`` prints."""
    return {
        "total": answer.total,
        "listing": answer.listing,
        "facets": [
            {
                "key": facet.key,
                "shown": facet.shown,
                "unbinned": facet.unbinned,
                "bounds": facet.bounds,
                "free": facet.free,
                "bins": [
                    {"key": b.key, "label": b.label, "count": b.count, "picked": b.picked, "shown": b.shown, "enabled": b.enabled}
                    for b in facet.bins
                ],
            }
            for facet in answer.facets
        ],
        "products": answer.products,
        "ignored": answer.ignored,
    }


def main(arguments: list[str] | None = None) -> int:
    """Run the command; returns the exit status."""
    options = _parser().parse_args(arguments)
    try:
        _count(options)
    except _Refused as refused:
        for reason in refused.reasons:
            print(reason, file=sys.stderr)
        return 2
    return 0


class _Refused(Exception):
    def __init__(self, reasons: Iterable[str]) -> None:
        super().__init__()
        self.reasons = list(reasons)


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        self.exit(2, f"count: {message}. See ./run count --help.\n")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="./run count", description="Answer queries from a catalogue file and a facet file.", allow_abbrev=False)
    parser.add_argument("catalogue", metavar="CATALOGUE.jsonl", type=Path)
    parser.add_argument("facets", metavar="FACETS.json", type=Path)
    parser.add_argument("query", metavar="QUERY", nargs="?")
    parser.add_argument("--category", metavar="PATH", help='list only this category, as in "Ropes > Mooring"')
    parser.add_argument("--rack", metavar="KEY", help="use only the facets of this rack")
    parser.add_argument("--now", metavar="ISO-TIME", help="the moment that decides which sale prices are valid")
    parser.add_argument("--per", metavar="N", default="24", help="products a page (24)")
    parser.add_argument("--queries", metavar="FILE", type=Path, help="one query a line, one JSON object a line as answer")
    return parser


def _count(options: argparse.Namespace) -> None:
    per, now, category = _checked_options(options)
    facets = _read_facets(options)
    queries = _read_queries(options)
    try:
        with options.catalogue.open("rb") as lines:
            catalogue = read_catalogue(lines)
    except OSError as error:
        raise _Refused([_unreadable("catalogue", options.catalogue, error)]) from error
    for line, reason in catalogue.broken:
        print(f"line {line} skipped: {reason}", file=sys.stderr)
    for report in catalogue.reports:
        print(report, file=sys.stderr)
    index = build_index(catalogue.products, now, lambda text: print(text, file=sys.stderr))
    on_variants = sorted(given.name for given in index.attributes() if given.on_variants)
    if on_variants:
        print(f"variant attributes: {', '.join(on_variants)}", file=sys.stderr)
    rack = RackIndex(index, facets)
    for query in queries:
        answer = rack.answer(rack.read(pairs_of(query), category), per=per)
        sys.stdout.write(json.dumps(answer_document(answer), ensure_ascii=False) + "\n")


def _checked_options(options: argparse.Namespace) -> tuple[int, Number, tuple[str, ...] | None]:
    reasons = []
    if not (options.per.isascii() and options.per.isdigit() and options.per.strip("0")):
        reasons.append(f"count: --per is {options.per!r}; give a whole number from 1 up.")
    now = now_in_seconds() if options.now is None else instant(options.now)
    if now is None:
        reasons.append(f"count: --now is {options.now!r}; give a time such as 2024-06-15T12:00:00Z.")
    category = None if options.category is None else tuple(map(identity, category_path(options.category)))
    if category == ():
        reasons.append("count: --category names no category; give a path such as Ropes > Mooring.")
    if options.query is not None and options.queries is not None:
        reasons.append("count: QUERY stands beside --queries; give one of the two.")
    if reasons or now is None:
        raise _Refused(reasons)
    return int(options.per), now, category


def _read_facets(options: argparse.Namespace) -> Any:
    try:
        facet_file = read_facet_file(options.facets.read_bytes())
    except OSError as error:
        raise _Refused([_unreadable("facet", options.facets, error)]) from error
    except FacetFileError as error:
        raise _Refused(map(str, error.problems)) from error
    if options.rack is None:
        return facet_file.facets
    try:
        return facet_file.rack(options.rack).facets
    except KeyError as error:
        names = ", ".join(rack.key for rack in facet_file.racks) or "there are none"
        raise _Refused([f"count: --rack {options.rack!r} is no rack of the facet file; its racks: {names}."]) from error


def _read_queries(options: argparse.Namespace) -> list[str]:
    if options.queries is None:
        return [(options.query or "").encode("utf-8", "surrogateescape").decode("utf-8", "replace")]
    try:
        text = options.queries.read_bytes()
    except OSError as error:
        raise _Refused([_unreadable("query", options.queries, error)]) from error
    lines = text.removeprefix(b"\xef\xbb\xbf").split(b"\n")
    if lines and not lines[-1]:
        lines.pop()
    return [line.removesuffix(b"\r").decode("utf-8", "replace") for line in lines]


def _unreadable(what: str, path: Path, error: OSError) -> str:
    return f"count: the {what} file {path} cannot be read: {error.strerror}. Check its name and rights."


if __name__ == "__main__":
    sys.exit(main())
