"""What is left to do by hand on pieces that come off: tabs to clean, skins to cut."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from venzo.core.cuts.cut import ContourCut
from venzo.core.holding.strength import HoldRules
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.order.of_sheet import PlacedCut


@dataclass(frozen=True)
class HandWork:
    """Tabs to clean, and mm of skin to cut with a knife or flush-trim."""

    tabs: int = 0
    skin: float = 0.0

    def seconds(self, rules: HoldRules) -> float:
        """What it takes, s.

        >>> HandWork(tabs=4, skin=2000.0).seconds(HoldRules())
        120.0
        """
        return self.tabs * rules.tab_seconds + self.skin / 1000 * rules.skin_seconds_m

    def __add__(self, other: HandWork) -> HandWork:
        return HandWork(self.tabs + other.tabs, self.skin + other.skin)


def kerf_hand_work(sheet: KerfSheet) -> dict[str, HandWork]:
    """The tabs that a kerf table leaves on each piece, by its id."""
    out: dict[str, HandWork] = {}
    for c in sheet.run.cuts:
        if c.tabbed:
            piece = sheet.pieces[c.body].id
            out[piece] = out.get(piece, HandWork()) + HandWork(tabs=1)
    return out


def hand_work(cuts: Iterable[PlacedCut], thickness: float) -> dict[str, HandWork]:
    """What the cuts of a sheet leave to do on each piece, by its id: the tabs of each outline once, however
    many passes leave them, and the outlines whose deepest pass leaves a skin.
    """
    tabs: dict[tuple[str, str], int] = {}
    skins: dict[tuple[str, str], tuple[float, float]] = {}
    for c in cuts:
        if not (c.outline or isinstance(c.cut, ContourCut)):
            continue
        key = (c.piece.id, c.cut.contour)
        if c.outline:
            tabs[key] = max(tabs.get(key, 0), len(c.cut.tabs))
        if isinstance(c.cut, ContourCut) and not c.cut.inside:
            deepest = min(c.cut.levels[-1], skins.get(key, (0.0, 0.0))[0])
            skins[key] = (deepest, c.cut.path.length)
    out: dict[str, HandWork] = {}
    for (piece, _contour), n in tabs.items():
        out[piece] = out.get(piece, HandWork()) + HandWork(tabs=n)
    for (piece, _contour), (deepest, length) in skins.items():
        # half the sheet left is no skin but an outline that is not meant to go through
        if -thickness + 1e-3 < deepest < -0.5 * thickness:
            out[piece] = out.get(piece, HandWork()) + HandWork(skin=length)
    return out
