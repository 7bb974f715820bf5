"""What the first face has left of stock that is turned over: what it cut through, what tabs and skins stand,
and where the stock no longer lies on the table.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import CarvedCut, ContourCut, ReliefCut, Tab
from venzo.core.cuts.moves import KIND, RAPID, chords
from venzo.core.faces.turn import Turn
from venzo.core.holding.swath import NOTHING, Kerf, kerf_of, swept
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.plan import Setup
from venzo.core.stock.sheet import Stock

SHALLOW = 0.05
"""mm; less than this under the stock seals and carries as if it were not there."""
CHORD = 0.2


@dataclass(frozen=True, eq=False)
class LeftByFirst:
    """Where the stock lies when it is turned: of every cut of the first face its ``kerfs`` and ``tabs``, and
    ``hollow``: where nothing lies on the table any more; ``key``: digest of it.
    """

    kerfs: tuple[Kerf, ...]
    tabs: tuple[Tab | None, ...]
    hollow: BaseGeometry
    key: str


def left_by_first(setup: Setup, sheet: SheetPlan, stock: Stock, turn: Turn) -> LeftByFirst:
    """What ``sheet`` of ``setup``, the first face, leaves when it is turned; remembered by what it follows
    from.
    """
    key = digest("left-by-first-1", sheet.key, stock.thickness, turn.axis, turn.width, turn.height)

    def make() -> LeftByFirst:
        kerfs, tabs, hollows = [], [], []
        for pc in sheet.cuts:
            kerf, hollow = _of_cut(setup, pc, stock.thickness)
            place = _placed(pc)
            kerfs.append(_turned(kerf, place, turn))
            tabs.append(pc.cut.tab if isinstance(pc.cut, ContourCut) else None)
            if hollow is not None:
                hollows.append(affine_transform(affine_transform(hollow, place), turn.affine))
        hollow = shapely.union_all(hollows) if hollows else MultiPolygon()
        return LeftByFirst(tuple(kerfs), tuple(tabs), hollow, key)

    return memo("left-by-first", key, make)


def _placed(pc: PlacedCut) -> list[float]:
    """Where a cut's part lies on its sheet, for ``affine_transform``."""
    c, s = math.cos(math.radians(pc.piece.rotation)), math.sin(math.radians(pc.piece.rotation))
    return [c, -s, s, c, pc.piece.x, pc.piece.y]


def _of_cut(setup: Setup, pc: PlacedCut, thickness: float) -> tuple[Kerf, BaseGeometry | None]:
    """A cut's kerf and what it takes off the face, in its part's frame."""
    cutter = setup.cutter(pc.cut.cutter)
    if cutter is None:
        return NOTHING, None
    kerf = kerf_of(pc.cut, cutter, thickness)
    if isinstance(pc.cut, ReliefCut | CarvedCut) and pc.cut.path.closed:  # what lies within its boundary
        return kerf, Polygon(pc.cut.path.points(CHORD)).buffer(0)
    path, of = chords(pc.cut.moves, CHORD)
    return kerf, swept(path, pc.cut.moves[of, KIND] != RAPID, -SHALLOW, cutter)


def _turned(kerf: Kerf, place: list[float], turn: Turn) -> Kerf:
    """A kerf in the part's frame where its piece lies when the stock is turned."""

    def at(g: BaseGeometry | None) -> BaseGeometry | None:
        return affine_transform(affine_transform(g, place), turn.affine) if g is not None else None

    return Kerf(at(kerf.through), at(kerf.thin), at(kerf.swath), kerf.left)
