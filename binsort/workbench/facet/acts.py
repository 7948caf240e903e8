"""What can be done on a bench: each act reads what was sent and returns the facet's document as it becomes, with what is done in words."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.http import QueryDict
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from binsort.changes.facets import split_off
from binsort.core.answers.matching import Facet
from binsort.core.facets import bin_edits, range_edits
from binsort.core.facets.kinds import kind_of
from binsort.core.index.bins import Bin
from binsort.core.insight.hidden_numbers import pointed
from binsort.core.insight.number_line import NumberLine, number_line
from binsort.core.insight.proposals import tidy_label
from binsort.core.insight.suggested_cuts import proposed_bins, suggested
from binsort.core.insight.value_list import RawValue, raw_values, value_name
from binsort.core.values.amounts import read_amount
from binsort.core.values.colours import MOST
from binsort.core.values.dates import day
from binsort.core.values.numbers import Number, plain
from binsort.core.values.strict_json import BadJson, loads
from binsort.core.values.text import identity, normalise
from binsort.core.values.units import KNOWN
from binsort.racks.differences import cuts_said, values_said
from binsort.racks.number_words import bin_words
from binsort.workbench.rack.page import Sight

_LONGEST = 80  # label of a facet
_MARK = re.compile(r"[:=/_\s-]")  # behind the group of a tag
Document = dict[str, Any]
Done = tuple[Document, str]


class CannotDo(ValueError):
    """What was sent cannot be done; says why and how to mend it."""


@dataclass
class Acting:
    """A facet being changed on a listing, with what was sent."""

    sight: Sight
    key: str
    document: Document
    data: QueryDict

    @cached_property
    def facet(self) -> Facet:
        """The facet as it is."""
        return self.sight.state.rack.by_key[self.key]

    @cached_property
    def line(self) -> NumberLine:
        """The numbers of the listing."""
        return number_line(self.sight.held.index, self.facet, self.sight.state.products)

    @cached_property
    def raw(self) -> list[RawValue]:
        """The raw values."""
        return raw_values(self.sight.state, self.facet, self.document)

    @cached_property
    def everything(self) -> list[str]:
        """The names of all values that the catalogue has of the source."""
        return [value_name(value) for value in self.facet.column.values]

    def number(self, cut: Any) -> str:
        """Write a cut in words."""
        words = self.sight.words(self.facet)
        return words.number(self.read(cut) if isinstance(cut, str) else cut)

    def read(self, text: str) -> Number:
        """Read a cut as typed. Raises CannotDo."""
        if kind_of(self.facet.spec.source.kind).has_dates:
            read = day(text.strip())
            if read is None:
                raise CannotDo(_("“%(text)s” is no day. Write one such as 2026-03-01.") % {"text": text[:30]})
            return read.toordinal()
        exact = plain(text.strip()) if len(text) < 60 else None
        amount = exact if exact is not None else (read_amount(text.strip()) or (None, ""))[0]
        if amount is None:
            raise CannotDo(_("“%(text)s” is no number. Write one such as 10 or 2.5.") % {"text": text[:30]})
        return amount

    def names(self) -> list[str]:
        """Return the values that were sent and that there are. Raises CannotDo."""
        known = set(self.everything)
        names = [name for name in dict.fromkeys(self.data.getlist("value")) if name in known]
        if not names:
            raise CannotDo(_("Select a value first: tick it, or drag it."))
        return names

    def bin(self, name: str = "into") -> Bin:
        """Return the bin that was sent, by its label. Raises CannotDo."""
        wanted = identity(self.data.get(name, ""))
        for bin in self.facet.bins:
            if identity(bin.label) == wanted:
                return bin
        raise CannotDo(_("There is no bin “%(label)s”. Choose one of those at the right.") % {"label": self.data.get(name, "")[:60]})

    def held(self, bin: Bin) -> list[str]:
        """Return the names of the values in a bin."""
        names = set(bin.values or (" > ".join(bin.nodes),))
        by_identity = {" > ".join(value.nodes) if value.nodes else value.identity: value_name(value) for value in self.facet.column.values}
        return [by_identity[name] for name in by_identity if name in names]


def cuts(acting: Acting) -> Done:
    """Set the cuts."""
    bounds = sorted({acting.read(text) for text in acting.data.getlist("cut") if text.strip()})
    before = range_edits.bounds_of(acting.document)
    if bounds == before:
        return acting.document, ""
    changed = range_edits.with_bounds({name: value for name, value in acting.document.items() if name != "bins"}, bounds)
    return changed, cuts_said(before, bounds, acting.number) if bounds else _("all cuts taken out")


def suggest(acting: Acting) -> Done:
    """Take suggested cuts: those that were looked at, else those of a way."""
    typed = acting.data.getlist("cut")
    bounds = [acting.read(text) for text in typed] if typed else suggested(acting.line, acting.data.get("way", "round"))
    if not bounds:
        raise CannotDo(_("There is nothing to cut: all products of this listing have one number."))
    document = {name: value for name, value in acting.document.items() if name not in ("bins", "ranges", "ends")}
    return range_edits.with_bounds(document, bounds), _("cut at %(cuts)s, as suggested") % {"cuts": ", ".join(map(acting.number, bounds))}


def shape(acting: Acting) -> Done:
    """Make the bins another way."""
    wanted = acting.data.get("shape", "")
    if wanted not in range_edits.SHAPES:
        raise CannotDo(_("Choose how the bins are made."))
    cuts_found = (
        suggested(acting.line, "calendar" if acting.line.are_days else "round", proposed_bins(acting.line)) if acting.line.numbers else []
    )
    words = {
        range_edits.CUTS: _("bins by cuts"), range_edits.BY_HAND: _("ranges by hand"), range_edits.AT_LEAST: _("bins from a number up"),
        range_edits.AT_MOST: _("bins up to a number"), range_edits.VALUES: _("a bin for each number"), range_edits.FREE: _("any range"),
    }  # fmt: skip
    return range_edits.reshaped(acting.document, wanted, cuts_found), words[wanted]


def ends(acting: Acting) -> Done:
    """Close the lowest and the highest bin, or open them."""
    closed = acting.data.get("closed") == "1"
    return range_edits.with_ends(acting.document, closed=closed), _("ends closed") if closed else _("ends open")


def free(acting: Acting) -> Done:
    """Let shoppers set a range of their own beside the bins, or not."""
    wanted = acting.data.get("free") == "1"
    if wanted:
        return {**acting.document, "free": True}, _("any range beside the bins")
    return range_edits.without_free(acting.document), _("no range of their own")


def rows(acting: Acting) -> Done:
    """Set what was typed in the list of bins: ends of ranges by hand, labels."""
    data, document = acting.data, acting.document
    keys, labels = data.getlist("key"), [normalise(label) for label in data.getlist("label")]
    if range_edits.shape_of(document) != range_edits.BY_HAND:
        for key, label in zip(keys, labels, strict=False):
            document = range_edits.labelled(document, key, label)
        return document, _("labels of bins")
    ranges = []
    gone = set(data.getlist("gone"))
    for key, low, high, label in zip(keys, data.getlist("from"), data.getlist("to"), labels, strict=False):
        if key in gone or not (low.strip() or high.strip()):
            continue
        read = {name: acting.read(text) for name, text in (("from", low), ("to", high)) if text.strip()}
        if len(read) == 2 and read["from"] >= read["to"]:
            raise CannotDo(
                _("A range from %(low)s to %(high)s holds nothing. Let it end above where it begins.") % {"low": low, "high": high}
            )
        kept = dict(zip(read, range_edits.written_bounds(document, list(read.values())), strict=True))
        ranges.append(kept | ({"label": label} if label else {}))
    if not ranges:
        raise CannotDo(_("Keep one range at least, or choose another way to make bins."))
    return {**document, "ranges": ranges}, _("ranges by hand")


def merge(acting: Acting) -> Done:
    """Put values into a bin."""
    names, bin = acting.names(), acting.bin()
    changed = bin_edits.merged(acting.document, names, bin.label, acting.held(bin))
    return changed, _("%(values)s merged into %(bin)s") % {
        "values": values_said(names),
        "bin": bin_words(bin, acting.sight.words(acting.facet)),
    }


def gather(acting: Acting) -> Done:
    """Put values into a new bin of a name."""
    label, names = normalise(acting.data.get("label", "")), acting.names()
    if not label:
        raise CannotDo(_("Give the new bin a name."))
    held = [name for bin in acting.facet.bins if identity(bin.label) == identity(label) for name in acting.held(bin)]
    return bin_edits.merged(acting.document, names, label, held), _("%(values)s in a new bin %(bin)s") % {
        "values": values_said(names),
        "bin": label,
    }


def part(acting: Acting) -> Done:
    """Give values bins of their own."""
    names = acting.names()
    return bin_edits.parted(acting.document, names), ngettext(
        "a bin of its own for %(values)s", "bins of their own for %(values)s", len(names)
    ) % {"values": values_said(names)}


def leave_out(acting: Acting) -> Done:
    """Leave values out."""
    names = acting.names()
    return bin_edits.left_out(acting.document, names), _("%(values)s left out") % {"values": values_said(names)}


def put_back(acting: Acting) -> Done:
    """Put values back that were left out."""
    names = acting.names()
    return bin_edits.put_back(acting.document, names), _("%(values)s put back") % {"values": values_said(names)}


def only(acting: Acting) -> Done:
    """Keep only some values."""
    names = acting.names()
    return bin_edits.kept_alone(acting.document, names, acting.everything), _("only %(values)s kept") % {"values": values_said(names)}


def facet_of_its_own(acting: Acting, *, actor: Any, based_on: int | None) -> tuple[str, str]:
    """Make another facet out of some values; returns its key and its label. Raises CannotDo, and what the service raises."""
    names = acting.names()
    out = {identity(name) for name in acting.document.get("bins", {}).get("leave_out", ())}
    if {identity(name) for name in acting.everything} - out <= {identity(name) for name in names}:
        raise CannotDo(_("Tick some of the values, not all of them: the facet would be left with nothing."))
    label = _label_of_group(acting.facet.spec.label, names)
    new, _edition = split_off(acting.key, names, acting.everything, label, actor=actor, based_on=based_on)
    return new, label


def _label_of_group(label: str, names: list[str]) -> str:
    """Return what a facet of some values may be called: what all of them begin with, else the facet and the first of them."""
    starts = {identity(_MARK.split(name, maxsplit=1)[0]) for name in names if _MARK.search(name)}
    is_alike = len(starts) == 1 and len(names) > 1 and all(map(_MARK.search, names))
    return tidy_label(starts.pop()) if is_alike else f"{label}: {names[0]}"[:_LONGEST]


def rename(acting: Acting) -> Done:
    """Give a bin another label."""
    bin, label = acting.bin("bin"), normalise(acting.data.get("label", ""))
    if not label:
        raise CannotDo(_("A bin needs a name that shoppers can read."))
    if label == bin.label:
        return acting.document, ""
    return bin_edits.renamed(acting.document, bin.label, label, acting.held(bin)), _("%(old)s called %(new)s") % {
        "old": bin.label,
        "new": label,
    }


def new_values(acting: Acting) -> Done:
    """Say where values go that come later."""
    wait = acting.data.get("new_values") == "unbinned"
    changed = bin_edits.new_values_wait(acting.document, acting.everything, wait=wait)
    return changed, _("new values wait to be looked at") if wait else _("new values get bins of their own")


def colour(acting: Acting) -> Done:
    """Set the swatch of a bin: colours, a short text, a picture, or what its words say."""
    bin, data = acting.bin("bin"), acting.data
    look = dict(acting.document.get("look", {}))
    swatches = {label: given for label, given in look.get("swatches", {}).items() if identity(label) != identity(bin.label)}
    given = _swatch(data)
    if given:
        swatches[bin.label] = given
    look["swatches"] = swatches
    if not swatches:
        del look["swatches"]
    return {**acting.document, "look": look}, _("swatch of %(bin)s") % {"bin": bin.label}


def _swatch(data: QueryDict) -> Any:
    way = data.get("way", "colours")
    if way == "text":
        return {"text": normalise(data.get("text", ""))[:4]} if normalise(data.get("text", "")) else None
    if way == "image":
        address = data.get("image", "").strip()
        if address and not (address.startswith(("/", "https://", "http://")) and len(address) < 500):
            raise CannotDo(_("Write the address of a picture: it begins with / or https://."))
        return {"image": address} if address else None
    colours = [text.lower() for text in data.getlist("colour") if len(text) == 7 and text[0] == "#"]
    count = data.get("count", "1")
    return colours[: min(MOST, max(1, int(count[:3])))] if way == "colours" and count.isascii() and count.isdigit() else None


def place(acting: Acting) -> Done:
    """Read numbers in another place."""
    try:
        source = loads(acting.data.get("source", ""))
    except BadJson as error:
        raise CannotDo(_("Choose one of the places shown.")) from error
    named = {name: source[name] for name in ("kind", "from", "attribute", "prefix") if isinstance(source, dict) and name in source}
    if named.get("kind") != "number_from":
        raise CannotDo(_("Choose one of the places shown."))
    document = {
        name: value for name, value in acting.document.items() if name not in ("cuts", "ranges", "at_least", "at_most", "ends", "bins")
    }
    return {**document, "source": named}, _("numbers read in another place")


def point(acting: Acting) -> Done:
    """Read what stands where a number was pointed at."""
    text, start = acting.data.get("text", ""), acting.data.get("start", "")
    prefix = pointed(text, int(start)) if start.isascii() and start.isdigit() and len(start) < 6 else None
    if prefix is None:
        raise CannotDo(_("Point at one of the numbers in the text."))
    source = {name: value for name, value in acting.document["source"].items() if name != "prefix"}
    return {**acting.document, "source": source | ({"prefix": prefix} if prefix.strip() else {})}, _("number pointed at")


def unit(acting: Acting) -> Done:
    """Read numbers in a unit."""
    source = {name: value for name, value in acting.document["source"].items() if name != "unit"}
    wanted = acting.data.get("unit", "")
    if wanted and wanted not in KNOWN:
        raise CannotDo(_("Choose one of the units."))
    return {**acting.document, "source": source | ({"unit": wanted} if wanted else {})}, _("numbers read in %(unit)s") % {
        "unit": wanted or _("the unit written")
    }


def words(acting: Acting) -> Done:
    """Set the groups of words, and where they are looked for."""
    data = acting.data
    groups: list[dict[str, Any]] = []
    for label, texts in zip(data.getlist("label"), data.getlist("texts"), strict=False):
        said = [normalise(text) for text in texts.split(",") if normalise(text)]
        name = normalise(label) or (said[0].capitalize() if said else "")
        if said:
            groups.append({"label": name, "texts": list(dict.fromkeys(said))})
    if word := normalise(data.get("word", "")):
        into = data.get("group", "")
        at = int(into) if into.isascii() and into.isdigit() and int(into) < len(groups) else None
        if at is None:
            groups.append({"label": word.capitalize(), "texts": [word]})
        elif word not in groups[at]["texts"]:
            groups[at]["texts"].append(word)
    places = [name for name in ("name", "description", "sku", "tag") if name in data.getlist("in")]
    if not groups:
        raise CannotDo(_("Keep one group at least, with one word in it."))
    if not places:
        raise CannotDo(_("Say where the words are looked for: in names, descriptions, numbers or tags."))
    source = {"kind": "words", "in": places, "groups": groups}
    return {**acting.document, "source": source}, _("groups of words")


ACTS: dict[str, Callable[[Acting], Done]] = {
    act.__name__: act
    for act in (
        cuts,
        suggest,
        shape,
        ends,
        free,
        rows,
        merge,
        gather,
        part,
        leave_out,
        put_back,
        only,
        rename,
        new_values,
        colour,
        place,
        point,
        unit,
        words,
    )
}


def done(acting: Acting, act: str) -> Done:
    """Do what was sent. Raises CannotDo."""
    if act not in ACTS:
        raise CannotDo(_("That cannot be done here."))
    return ACTS[act](acting)
