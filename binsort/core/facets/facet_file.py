"""The facet file: read, checked whole, every problem named with its mend."""

import json
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from importlib.resources import files
from typing import Any

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError

from binsort.core.values.numbers import Unusable
from binsort.core.values.strict_json import BadJson, has_surrogate, loads, walk

from .checks import check_facet, check_racks, check_rules
from .former_forms import upgraded
from .problem import Problem
from .spec import FacetSpec, facet_spec


class FacetFileError(ValueError):
    """A facet file that cannot be used; ``problems`` names all that is wrong with it."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("\n".join(map(str, problems)))
        self.problems = problems


@dataclass(frozen=True, slots=True)
class Rack:
    """Facets in an order, shown together."""

    key: str
    label: str
    facets: tuple[FacetSpec, ...]


@dataclass(frozen=True, slots=True)
class FacetFile:
    """A checked facet file."""

    facets: tuple[FacetSpec, ...]
    racks: tuple[Rack, ...]

    def rack(self, key: str) -> Rack:
        """Return the rack of this key. Raises KeyError."""
        return next_or_raise([rack for rack in self.racks if rack.key == key], key)


def next_or_raise(racks: list[Rack], key: str) -> Rack:
    """Return the only item, or raise KeyError with the key."""
    if not racks:
        raise KeyError(key)
    return racks[0]


def read_facet_file(text: str | bytes) -> FacetFile:
    """Read a facet file. Raises FacetFileError with all problems at once."""
    return facet_file(upgraded(read_document(text)))


def read_document(text: str | bytes) -> Any:
    """Read the JSON of a facet file, what it says not checked yet. Raises FacetFileError."""
    try:
        if isinstance(text, bytes):
            text = text.decode("utf-8-sig")
        return loads(text, surrogates=True)
    except UnicodeDecodeError as error:
        raise FacetFileError([Problem("file-encoding", "", "", "The facet file is not UTF-8. Save it as UTF-8.")]) from error
    except BadJson as error:
        raise FacetFileError([Problem("file-json", "", "", f"The facet file is {error}. Mend the JSON.")]) from error


def facet_file(document: Any) -> FacetFile:
    """Build the facets and racks of a document. Raises FacetFileError with all problems at once."""
    problems = check_document(document)
    if problems:
        raise FacetFileError(problems)
    facets = {facet["key"]: facet_spec(facet) for facet in document["facets"]}
    racks = tuple(Rack(rack["key"], rack["label"], tuple(facets[key] for key in rack["facets"])) for rack in document.get("racks", ()))
    return FacetFile(tuple(facets.values()), racks)


def check_document(document: Any) -> list[Problem]:
    """Return every problem of a facet file's document, in the order of the document."""
    problems = [*_check_leaves(document), *_check_shape(document)]
    if not isinstance(document, dict) or not isinstance(document.get("facets"), list):
        return problems
    named = {problem.place for problem in problems}
    facets = [facet for facet in document["facets"] if isinstance(facet, dict)]
    for place, facet in enumerate(document["facets"]):
        if not any(spot[:2] == ("facets", place) for spot in named):
            problems += check_facet(facet)
    problems += check_rules([facet for facet in facets if isinstance(facet.get("key"), str)])
    problems += check_racks(document)
    return problems


@cache
def schema() -> dict[str, Any]:
    """Return the JSON Schema (draft 2020-12) of a facet file."""
    return json.loads(files(__package__).joinpath("facet_file.schema.json").read_text("utf-8"))  # type: ignore[no-any-return]


def _check_leaves(document: Any) -> list[Problem]:
    problems = []
    for path, part in walk(document):
        if has_surrogate(part):
            problems.append(_problem("text-surrogate", document, path, "holds half of a surrogate pair. Write the whole character."))
        if isinstance(part, Unusable):
            problems.append(_problem("number-too-long", document, path, f"is {part.reason}. Write a shorter number."))
    return problems


def _check_shape(document: Any) -> list[Problem]:
    errors = Draft202012Validator(schema()).iter_errors(document)
    problems = [problem for error in errors if not isinstance(error.instance, Unusable) for problem in _shape_problems(document, error)]
    return list(dict.fromkeys(problems))  # each missing property is an error of its own, and gives them all


def _shape_problems(document: Any, error: ValidationError) -> list[Problem]:
    path = tuple(error.absolute_path)
    if error.validator == "additionalProperties":
        known = error.schema.get("properties", {})  # type: ignore[union-attr]
        text = f"is not known here. Take it out, or use one of: {', '.join(known)}."
        return [_problem("unknown-property", document, (*path, name), text) for name in error.instance if name not in known]  # type: ignore[union-attr]
    if error.validator == "required":
        missing = [name for name in error.validator_value if name not in error.instance]  # type: ignore[union-attr,operator]
        return [_problem("missing-property", document, (*path, name), "is missing. Add it.") for name in missing]
    return [_shape_problem(document, error, path)]


def _shape_problem(document: Any, error: ValidationError, path: tuple[str | int, ...]) -> Problem:
    match error.validator:
        case "type":
            wanted = error.validator_value
            words = " or ".join(wanted) if isinstance(wanted, list) else wanted
            return _problem("wrong-type", document, path, f"must be of type {words}, not {_shown(error.instance)}.")
        case "enum" | "const":
            wanted = error.validator_value
            words = ", ".join(map(str, wanted)) if isinstance(wanted, list) else str(wanted)
            return _problem("wrong-value", document, path, f"must be one of: {words}; it is {_shown(error.instance)}.")
        case "pattern" if path and path[-1] != "key":
            return _problem("wrong-text", document, path, f"must be written as {error.validator_value}; it is {_shown(error.instance)}.")
        case "maxItems":
            return _problem("too-many-items", document, path, f"holds more than {error.validator_value}. Take some out.")
        case "pattern":
            return _problem(
                "bad-key", document, path, f"must be a small letter, then small letters, digits, _ or -; it is {_shown(error.instance)}."
            )
        case "minItems" | "minProperties":
            return _problem("empty-list", document, path, "is empty. Put something in, or take it out.")
        case "uniqueItems":
            return _problem("repeated", document, path, "names something twice. Name each once.")
        case "maxLength" | "minLength":
            words = f"at most {error.validator_value} characters" if error.validator == "maxLength" else "a character at least"
            return _problem("wrong-length", document, path, f"must have {words}.")
        case "minimum" | "maximum":
            words = "at least" if error.validator == "minimum" else "at most"
            return _problem("out-of-range", document, path, f"must be {words} {error.validator_value}, not {_shown(error.instance)}.")
        case None:
            return _problem("unknown-property", document, path, "is not known beside what stands there. Take it out.")
        case _:
            return _problem("too-many", document, path, "holds more than one property. Keep one.")


def _shown(value: Any) -> str:
    return str(value) if isinstance(value, Fraction | int | bool) else repr(value)[:60]


def _problem(id: str, document: Any, path: tuple[str | int, ...], text: str) -> Problem:
    """Name the facet or rack and the property that a path of the document leads to."""
    owner, rest = "", path
    if len(path) >= 2 and path[0] in ("facets", "racks") and isinstance(path[1], int):
        item = document[path[0]][path[1]]
        key = item.get("key") if isinstance(item, dict) else None
        owner = f"{path[0][:-1]} {key if isinstance(key, str) and not has_surrogate(key) else path[1] + 1}"
        rest = path[2:]
    name = ".".join(str(part) for part in rest).encode("utf-8", "replace").decode() or "the document"
    return Problem(id, owner, name, f"{owner + ': ' if owner else ''}{name} {text}", path)
