"""What does not look right: labels too long for a phone, two bins of one colour, values with no known colour."""

from collections.abc import Iterator

from binsort.core.insight.look_alikes import look_alikes
from binsort.core.values.colours import CLEAR
from binsort.core.values.text import identity

from .alike import JUNK
from .finding import FOCUS, Bench, Finding, Found, Mend, listed

LONGEST = 32  # letters of a label that stand in one line on a phone 360 wide, beside a box and a count
_SHOWN = 3


class LongLabels(Finding):
    """Labels that a phone breaks over several lines."""

    id = "long-labels"
    matters = 0.01

    def look(self, bench: Bench) -> Iterator[Found]:
        long = [bin for bin in bench.held if len(bench.name(bin)) > LONGEST]
        keys = tuple(bin.key for bin in long)
        if long:
            what = f"“{bench.name(long[0])[:60]}” is" if len(long) == 1 else f"{len(long):,} labels are"
            mend = Mend(
                "rename", "Shorten it" if len(long) == 1 else "Shorten the first", "leads to its label", leads=FOCUS, target=long[0].key
            )
            text = f"{what} too long for one line on a phone"
            yield self.says("", bench.held_by(keys), text, mend, more=f"More than {LONGEST} letters break.", bins=keys)


class SameSwatch(Finding):
    """Two bins that nobody can tell apart by their colour."""

    id = "same-swatch"
    matters = 0.1

    def look(self, bench: Bench) -> Iterator[Found]:
        if not bench.is_drawn_by_colour:
            return
        by_colour: dict[tuple[str, ...], list[str]] = {}
        known = {bin.label: bin.key for bin in bench.bins}
        for bin in bench.held:
            colours = bench.swatch(bin)
            if colours:
                by_colour.setdefault(colours, []).append(bin.label)
        for colours, labels in by_colour.items():
            if len(labels) > 1 and not look_alikes(dict.fromkeys(labels, 1)):  # those are told as one value
                names = listed([f"“{label}”" for label in labels[: _SHOWN + 1]])
                keys = tuple(known[label] for label in labels)
                mend = Mend("colour", f"Choose colours for {labels[1]}", "leads to its swatch", leads=FOCUS, target=keys[1])
                more = "Only their names tell them apart."
                yield self.says("/".join(colours), bench.held_by(keys), f"{names} have one swatch", mend, more=more, bins=keys)


class NoColour(Finding):
    """Bins drawn as swatches whose words name no colour."""

    id = "no-colour"
    matters = 0.05

    def look(self, bench: Bench) -> Iterator[Found]:
        if not bench.is_drawn_by_colour:
            return
        silent = [bin for bin in bench.held if not bench.swatch(bin)]
        unknown = [bin for bin in silent if not JUNK.fullmatch(identity(bin.label)) and identity(bin.label) not in CLEAR]
        if unknown:
            what = f"“{unknown[0].label}” is no colour word" if len(unknown) == 1 else f"{len(unknown):,} labels are no colour words"
            mend = Mend("colour", f"Choose colours for {unknown[0].label}", "leads to its swatch", leads=FOCUS, target=unknown[0].key)
            keys = tuple(bin.key for bin in unknown)
            yield self.says("", bench.held_by(keys), f"{what}: drawn as an empty dashed patch", mend, bins=keys)


FINDERS = (LongLabels(), SameSwatch(), NoColour())
