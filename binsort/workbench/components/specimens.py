"""The components page: every part the tool is made of, in all its states, for those who work on it."""

from dataclasses import dataclass

from binsort.racks.shown_facet import Swatch
from binsort.workbench.shelf.view import BarView, CutView, GroupView, ShelfView, VesselView


@dataclass(frozen=True, slots=True)
class Specimen:
    """A shelf in one state."""

    title: str
    shelf: ShelfView
    trying: bool
    proposed: bool = False


def _vessel(name: str, total: int, inside: int = 0, *, adds: int = 0, picked: bool = False, swatch: str = "") -> VesselView:
    return VesselView(
        key=name.lower().replace(" ", "-"),
        name=name,
        total=total,
        inside=inside,
        adds=adds,
        level=round(100 * inside / total, 1) if total else 0,
        dashed=round(100 * (inside + adds) / total, 1) if adds else None,
        picked=picked,
        address="#",
        swatch=Swatch((swatch,) if swatch else (), False),
        least_width=60,
        share=total,
    )


def _range(name: str, total: int, left: float, width: float, inside: int = 0, *, picked: bool = False) -> VesselView:
    vessel = _vessel(name, total, inside, picked=picked)
    return VesselView(**{**{slot: getattr(vessel, slot) for slot in vessel.__slots__}, "left": left, "width": width, "short": name})


def _shelf(*vessels: VesselView, unbinned: int = 0, **more: object) -> ShelfView:
    listed = {"rest": 0, "rest_share": 0, "bars": (), "cuts": (), "spans": (), "has_swatches": False, **more}
    return ShelfView(
        key="sample",
        label="Sample",
        source="attribute",
        matching="any of",
        changed=True,
        vessels=vessels,
        unbinned=unbinned,
        unbinned_inside=unbinned // 3,
        unbinned_level=33.3,
        binned_share=88,
        binned=sum(vessel.total for vessel in vessels) or 100,
        shown=True,
        unbinned_share=unbinned,
        binned_width=100 - unbinned,
        **listed,  # type: ignore[arg-type]
    )


def specimens() -> list[Specimen]:
    """Return a shelf of every sort."""
    plain = (_vessel("Polyester", 132), _vessel("Nylon", 37), _vessel("Hemp", 12))
    tried = (
        _vessel("Navy", 64, 37, picked=True, swatch="#22345c"),
        _vessel("White", 41, 3, adds=12, swatch="#ffffff"),
        _vessel("Full", 20, 19),
        _vessel("Empty", 9),
    )
    bars = tuple(BarView(5.0 * place, 5.0, 10 + 7 * (place % 9), 4 * (place % 5), 0) for place in range(20))
    proposed = (_range("under 5", 40, 0, 30), _range("5–10", 70, 30, 40), _range("10 and above", 25, 70, 30))
    ranges = (_range("under 5", 40, 0, 30), _range("5–10", 70, 30, 40, 20, picked=True), _range("10 and above", 25, 70, 30))
    cuts = (CutView("5", 30), CutView("10", 70))
    group = GroupView(_vessel("Mooring", 67, 12), (_vessel("Mooring lines", 39, 12), _vessel("Warps", 28)), 2)
    return [
        Specimen("Nothing tried", _shelf(*plain, unbinned=20, rest=4, rest_share=20), trying=False),
        Specimen("Tried, with swatches: picked, a sibling, nearly full, empty", _shelf(*tried, unbinned=9, has_swatches=True), trying=True),
        Specimen("Ranges under a histogram, one picked", _shelf(*ranges, bars=bars, cuts=cuts, unbinned=12), trying=True),
        Specimen("Ranges proposed", _shelf(*proposed, bars=bars, cuts=cuts), trying=False, proposed=True),
        Specimen("Categories under ledges", _shelf(group.ledge, groups=(group,)), trying=True),
        Specimen("Only unbinned products", _shelf(unbinned=100), trying=False),
    ]
