"""The theme of the shop's facets: type, sizes, gaps, corner and colours, as tokens that the shop, previews and other sites share."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields
from typing import Any, Self
from urllib.parse import urlencode

from binsort.core.values.colours import contrast, is_colour, legible, mixed

FAMILIES = {  # none is fetched from anywhere
    "shop": "inherit",
    "system": "system-ui, sans-serif",
    "serif": 'ui-serif, Georgia, "Times New Roman", serif',
    "mono": "ui-monospace, SFMono-Regular, Menlo, monospace",
}
SIZES = {  # of each measure: the least, the most, and what is usual, in pixels
    "type": (12, 20, 14), "box": (12, 28, 16), "swatch": (12, 44, 20), "row": (20, 44, 26), "gap": (4, 48, 14), "corner": (0, 22, -1),
}  # fmt: skip
USUAL = {"accent": "#1d3156", "ink": "#1b2740", "edge": "#82806f", "ground": "#f8f4e9"}
TEXT, MARK = 4.5, 3.0  # the least contrast of words and of marks (WCAG 2.2, 1.4.3 and 1.4.11)
_NEEDS = (("ink", TEXT), ("accent", TEXT), ("edge", MARK))
_MOST_SAID = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class Theme:
    """What is set of it; empty and -1 are as the shop has it."""

    family: str = "shop"
    type: int = -1
    box: int = -1
    swatch: int = -1
    row: int = -1
    gap: int = -1
    corner: int = -1
    accent: str = ""  # colours as #rrggbb
    ink: str = ""
    edge: str = ""
    ground: str = ""

    @classmethod
    def of(cls, said: Mapping[str, Any]) -> Self:
        """Read what was kept or stands in an address; whatever cannot be used counts as not said."""
        read: dict[str, Any] = {}
        for name, (least, most, _usual) in SIZES.items():
            text = str(said.get(name, ""))[:_MOST_SAID]
            if text.isascii() and text.isdigit() and least <= int(text) <= most:
                read[name] = int(text)
        read |= {name: str(said[name]).lower() for name in USUAL if is_colour(str(said.get(name, "")))}
        if said.get("family") in FAMILIES:
            read["family"] = said["family"]
        return cls(**read)

    @property
    def said(self) -> dict[str, Any]:
        """What is set, nothing else."""
        usual = Theme()
        return {field.name: value for field in fields(self) if (value := getattr(self, field.name)) != getattr(usual, field.name)}

    @property
    def query(self) -> str:
        """What is set, as the address of its style sheet has it; empty where nothing is."""
        return urlencode(self.said)

    @property
    def _asked(self) -> dict[str, str]:
        """The colours set, else the shop's."""
        return {name: getattr(self, name) or usual for name, usual in USUAL.items()}

    @property
    def has_colours(self) -> bool:
        """Whether it sets any colour."""
        return any(getattr(self, name) for name in USUAL)

    @property
    def colours(self) -> dict[str, str]:
        """The colours that are drawn: those asked for, but none that could not be read on the ground."""
        asked = self._asked
        return asked | {name: legible(asked[name], asked["ground"], least) for name, least in _NEEDS}

    def unreadable(self) -> Iterator[tuple[str, float, float, str]]:
        """Yield each colour that cannot be read on the ground: its name, its contrast, what is needed, and what is drawn instead."""
        asked, drawn = self._asked, self.colours
        for name, least in _NEEDS:
            if asked[name] != drawn[name]:
                yield name, contrast(asked[name], asked["ground"]), least, drawn[name]

    def tokens(self, *, colours: bool = True) -> dict[str, str]:
        """Return the properties of CSS that say it.

        Args:
            colours: its colours and type, too; without them only measures, for a page with a hand of its own.
        """
        found = {f"--facet-{name}": f"{getattr(self, name)}px" for name in SIZES if getattr(self, name) >= 0}
        if not colours:
            return found
        found |= {"--facet-family": FAMILIES[self.family]} if self.family != "shop" else {}
        return found | self._colour_tokens()

    def _colour_tokens(self) -> dict[str, str]:
        if not self.has_colours:
            return {}
        drawn = self.colours
        ground, ink, accent = drawn["ground"], drawn["ink"], drawn["accent"]
        quiet = legible(mixed(ink, ground, 0.76), ground, TEXT)
        return {
            "--color-navy": accent, "--color-ink": ink, "--color-edge": drawn["edge"], "--color-cream": ground, "--color-paper": ground,
            "--ground": ground,
            "--color-quiet": quiet, "--color-bare": quiet, "--color-rule": mixed(ink, ground, 0.16),
            "--color-mass": mixed(accent, ground, 0.3), "--color-fall": mixed(accent, ground, 0.18),
            "--color-gold": accent, "--color-wrong": legible("#93460f", ground, TEXT),
        }  # fmt: skip

    def sheet(self) -> str:
        """Return the style sheet that draws facets by it."""
        rules = [f"{name}:{value}" for name, value in self.tokens().items()]
        if self.has_colours:
            rules.append("color:var(--color-ink)")
        if self.ground:
            rules += ["background:var(--color-cream)", "padding-inline:12px"]
        return f".facet{{{';'.join(rules)}}}\n" if rules else ""
