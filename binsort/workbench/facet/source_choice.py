"""Choosing another source for a facet: what there is, and what of the facet has no meaning there."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from binsort.core.facets.facet_file import check_document
from binsort.core.facets.kinds import kind_of, kinds
from binsort.core.facets.range_edits import without_free
from binsort.core.facets.source_edits import resourced
from binsort.core.facets.spec import facet_spec
from binsort.core.index.catalogue_index import Index
from binsort.core.insight.hidden_numbers import places
from binsort.core.insight.proposals import words_document
from binsort.racks.controls import control_of, fitting

Document = dict[str, Any]


@dataclass(frozen=True, slots=True)
class SourceQuestion:
    """What is said before a source is changed."""

    key: str
    words: str
    lost: str  # what goes, in words


def source_key(source: Document) -> str:
    """Return what names a source in a form."""
    return f"attribute:{source['attribute']}" if source["kind"] == "attribute" else str(source["kind"])


def source_choices(index: Index, source: Document) -> tuple[tuple[str, str], ...]:
    """Return the sources that a facet could be made of, its own among them: key and words."""
    listed = [(kind.name, kind.words) for kind in kinds() if kind.words and not kind.properties]
    listed += [(f"attribute:{given.name}", given.name) for given in index.attributes()]
    listed += [("number_from", _("numbers in texts")), ("words", _("words in texts"))]
    own = source_key(source)
    if own not in dict(listed):
        listed.append((own, kind_of(source["kind"]).words))
    return tuple(listed)


def _source_of(index: Index, key: str, label: str) -> Document:
    """Return the source that a key names, as a facet file has it, found in the catalogue where it is to be read out of texts."""
    kind, _colon, name = key.partition(":")
    if kind == "attribute":
        return {"kind": kind, "attribute": name}
    if kind == "number_from":
        found = places(index, index.every_product)
        return found[0].source if found else {"kind": kind, "from": "tag"}
    if kind == "words":
        proposed = words_document(index)
        return dict(proposed["source"]) if proposed else {"kind": kind, "in": ["name"], "groups": [{"label": label, "texts": [label]}]}
    return {"kind": kind}


def with_source(index: Index, document: Document, key: str) -> tuple[Document, list[str]]:
    """Return a facet's document made of another source, and what of it goes, in words."""
    source = _source_of(index, key, document["label"])
    column = index.column(facet_spec({"key": "x", "label": "x", "source": source}).source)
    known = [" > ".join(value.nodes) if value.nodes else value.identity for value in column.values]
    changed, lost = resourced(document, source, known)
    control = control_of(changed.get("look", {}))
    bare = {**changed, "look": {name: value for name, value in changed.get("look", {}).items() if name != "control"}}
    if control not in fitting(bare, has_numbers=bool(column.numbers)):
        lost.append(_("“%(control)s” as its control") % {"control": str(control.words).lower()})
        changed = {name: value for name, value in bare.items() if value or name != "look"}
        if control.is_range:
            changed = without_free(changed)
    assert not check_document({"binsort": 1, "facets": [{name: value for name, value in changed.items() if name != "show_when"}]})
    return changed, lost
