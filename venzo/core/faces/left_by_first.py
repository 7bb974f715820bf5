"""What the first face has left of stock that is turned over: what it cut through, what tabs and skins stand,
and where the stock no longer lies on the table.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import shapely
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import CarvedCut, ContourCut, ReliefCut, Tab
from venzo.core.cuts.moves import KIND, RAPID, chords
from venzo.core.faces.turn import Turn
from venzo.core.geometry.contour import rotation_matrix
from venzo.core.holding.swath import GRID, NOTHING, Kerf, kerf_of, surface, swept
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.plan import Piece, Setup
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter

SHALLOW = 0.05
"""mm; less than this under the stock seals and carries as if it were not there."""
CHORD = 0.2
HAIR = 1e-3
AS_IT_LAY = [1.0, 0.0, 0.0, 1.0, 0.0, 0.0]
"""As shapely's ``affine_transform`` takes it."""


@dataclass(frozen=True)
class Half:
    """How deep one face was cut along an outline, and over its tabs (None: it has none), mm."""

    depth: float
    over_tabs: float | None


@dataclass(frozen=True, eq=False)
class LeftByFirst:
    """Where the stock lies when it is turned: of every cut of the first face its ``kerfs`` and ``tabs``, and
    ``hollow``: where nothing lies on the table any more; ``key``: digest of it.
    """

    kerfs: tuple[Kerf, ...]
    tabs: tuple[Tab | None, ...]
    hollow: BaseGeometry
    key: str
    halves: Mapping[tuple[str, str], Half] = field(default_factory=dict)
    """By piece and contour how deep an outline was cut that is cut half from each face."""


def left_by_first(setup: Setup, sheet: SheetPlan, stock: Stock, turn: Turn | None) -> LeftByFirst:
    """What ``sheet`` of ``setup``, cut before, leaves when it is turned (None: when the same face is up once
    more, and nothing of it lies on the table); remembered by what it follows from.
    """
    turned = (turn.axis, turn.width, turn.height) if turn else ()
    key = digest("left-by-first-3", sheet.key, stock.thickness, list(turned), setup.role)
    moved = turn.affine if turn else AS_IT_LAY

    def make() -> LeftByFirst:
        kerfs, tabs, hollows = [], [], []
        for pc in sheet.cuts:
            kerf, hollow = _of_cut(setup, pc, stock.thickness)
            place = _placed(pc)
            kerfs.append(_turned(kerf, place, moved))
            tabs.append(pc.cut.tab if isinstance(pc.cut, ContourCut) else None)
            if hollow is not None and turn is not None:
                hollows.append(affine_transform(affine_transform(hollow, place), moved))
        hollow = shapely.union_all(hollows) if hollows else MultiPolygon()
        return LeftByFirst(tuple(kerfs), tuple(tabs), hollow, key, halves_of(setup, sheet))

    return memo("left-by-first", key, make)


def left_by_both(one: LeftByFirst, other: LeftByFirst) -> LeftByFirst:
    """What two turns have left together."""
    return LeftByFirst(
        (*one.kerfs, *other.kerfs),
        (*one.tabs, *other.tabs),
        shapely.union(one.hollow, other.hollow),
        digest("left-by-both", one.key, other.key),
        {**one.halves, **other.halves},
    )


def left_singly(first: Setup, sheet: SheetPlan, lies: Piece, thickness: float) -> LeftByFirst:
    """What the first face took off a piece that lies in the jig by itself: its hollow is underneath; kerfs
    are beside it, where no stock is any more.
    """
    mine = [pc for pc in sheet.cuts if pc.piece.id == lies.id]
    key = digest("left-singly", [pc.cut.key for pc in mine], thickness, lies, first.cutters)

    def make() -> LeftByFirst:
        m = rotation_matrix(lies.rotation)
        # a cut is in the frame of its piece as that lay, which is the part's seen from its other face
        over = [-m[0, 0], m[0, 1], -m[1, 0], m[1, 1], lies.x, lies.y]
        hollows = [affine_transform(h, over) for pc in mine if (h := taken_off(first, pc)) is not None]
        return LeftByFirst((), (), shapely.union_all(hollows) if hollows else MultiPolygon(), key)

    return memo("left-singly", key, make)


def halves_of(setup: Setup, sheet: SheetPlan) -> dict[tuple[str, str], Half]:
    """How deep the outlines of a sheet are cut that are cut half from each face, as they are planned."""
    out: dict[tuple[str, str], Half] = {}
    if not setup.halves:
        return out
    for pc in sheet.cuts:
        if not isinstance(pc.cut, ContourCut) or pc.cut.inside or pc.cut.in_area:
            continue
        key, depth = (pc.piece.id, pc.cut.contour), -pc.cut.levels[-1]
        if key not in out or depth > out[key].depth:
            tab = pc.cut.tab if pc.cut.tabs else None
            out[key] = Half(depth, -tab.top if tab is not None else None)
    return out


def kerf_to_half(cut: ContourCut, cutter: Cutter, thickness: float, half: Half) -> Kerf:
    """The kerf of an outline whose other half was cut from the other face: it parts where both meet; where
    both rise over a tab its whole height stands; where they do not meet a web is left.
    """
    deepest = -cut.levels[-1]
    over = -cut.tab.top if cut.tabs and cut.tab is not None else None
    web = thickness - half.depth - deepest
    path, of = chords(cut.moves, CHORD)
    cutting = cut.moves[of, KIND] != RAPID
    down = swept(path, cutting, -deepest + HAIR, cutter)
    if down is None:
        return NOTHING
    if web > HAIR:
        return Kerf(None, down, down, web)
    if over is None or half.over_tabs is None:
        return Kerf(down, None, down, 0.0)
    whole = swept(path, cutting, -over + HAIR, cutter) or down
    thin = surface(shapely.difference(whole, down, grid_size=GRID))
    left = max(thickness - over - half.over_tabs, 0.0)
    return Kerf(down, thin, surface(shapely.union(down, thin, grid_size=GRID)), left)


def _placed(pc: PlacedCut) -> list[float]:
    """Where a cut's part lies on its sheet, for ``affine_transform``."""
    c, s = math.cos(math.radians(pc.piece.rotation)), math.sin(math.radians(pc.piece.rotation))
    return [c, -s, s, c, pc.piece.x, pc.piece.y]


def _of_cut(setup: Setup, pc: PlacedCut, thickness: float) -> tuple[Kerf, BaseGeometry | None]:
    """A cut's kerf and what it takes off the face, in its part's frame."""
    cutter = setup.cutter(pc.cut.cutter)
    if cutter is None:
        return NOTHING, None
    return kerf_of(pc.cut, cutter, thickness), taken_off(setup, pc)


def taken_off(setup: Setup, pc: PlacedCut) -> BaseGeometry | None:
    """Where a cut takes the face away, in its part's frame as the piece lay."""
    cutter = setup.cutter(pc.cut.cutter)
    if cutter is None:
        return None
    if isinstance(pc.cut, ReliefCut | CarvedCut) and pc.cut.path.closed:  # what lies within its boundary
        return Polygon(pc.cut.path.points(CHORD)).buffer(0)
    path, of = chords(pc.cut.moves, CHORD)
    return swept(path, pc.cut.moves[of, KIND] != RAPID, -SHALLOW, cutter)


def _turned(kerf: Kerf, place: list[float], moved: list[float]) -> Kerf:
    """A kerf in the part's frame where its piece lies when the stock is turned."""

    def at(g: BaseGeometry | None) -> BaseGeometry | None:
        return affine_transform(affine_transform(g, place), moved) if g is not None else None

    return Kerf(at(kerf.through), at(kerf.thin), at(kerf.swath), kerf.left)
