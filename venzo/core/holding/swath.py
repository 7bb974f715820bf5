"""What does a cut take out of the sheet? The kerf that goes through, and the swath whose bottom is left thin:
tabs and skins.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import ContourCut, Cut, HoleCut
from venzo.core.cuts.moves import KIND, RAPID, polyline
from venzo.core.geometry.contour import Array
from venzo.core.tooling.cutter import Cutter

CHORD = 0.1
"""mm; arcs of a kerf become chords within this. Connectivity is asked to half a millimetre."""
THIN = 0.5
"""What a profile leaves under it is a tab or a skin up to this share of the sheet; more is the sheet
itself.
"""
EPS = 1e-3


@dataclass(frozen=True)
class Kerf:
    """Of one cut: ``through``: no material left in the whole thickness; ``thin``: a tab or a skin is left;
    ``swath``: both.

    ``left``: thickness of that tab or skin, mm. None: nothing of the kind.
    """

    through: BaseGeometry | None
    thin: BaseGeometry | None
    swath: BaseGeometry | None
    left: float


NOTHING = Kerf(None, None, None, 0.0)
GRID = 1e-4
"""mm; overlays snap to it, so that two edges which should be one leave no hair between them."""


def kerf_of(cut: Cut, cutter: Cutter, thickness: float) -> Kerf:
    """The kerf of a cut in its part's frame, from its moves; the cut remembers it."""
    key = (cutter.kind, cutter.diameter, cutter.tip, cutter.angle or 0.0, cutter.corner_radius, thickness)
    if key not in cut.kerfs:
        cut.kerfs[key] = _kerf(cut, cutter, thickness)
    return cut.kerfs[key]


def _kerf(cut: Cut, cutter: Cutter, thickness: float) -> Kerf:
    deepest = cut.levels[-1]
    if not cut.takes_through or deepest > -thickness * (1 - THIN):
        return NOTHING
    if isinstance(cut, HoleCut) and cut.frees and not cut.ringed:
        hole = Point(cut.moves[-1, 1], cut.moves[-1, 2]).buffer(cutter.radius, quad_segs=6)
        return Kerf(hole, None, hole, 0.0)
    through = deepest <= -thickness + EPS
    path = polyline(cut.moves, CHORD)
    cutting = _cutting(cut, path)
    # a round or pointed end leaves lips beside its way: they hold nothing, so the kerf counts as wide as it
    # is half way up
    gone = swept(path, cutting, -thickness + EPS, cutter, thickness * THIN) if through else None
    only_gone = Kerf(gone, None, gone, 0.0) if gone is not None else NOTHING
    if not isinstance(cut, ContourCut):
        return only_gone
    floor = (
        cut.tab.top if through and cut.tab is not None else deepest
    )  # over a skin the tabs are not counted: the skin holds
    if floor > -thickness * (1 - THIN):
        floor = deepest
    left = max(0.0, thickness + floor)
    low = (
        swept(path, cutting, floor + EPS, cutter, max(0.0, -thickness * (1 - THIN) - floor))
        if left > EPS
        else None
    )
    if low is None:
        return only_gone
    if gone is None:
        return Kerf(None, low, low, left)
    thin = surface(shapely.difference(low, gone, grid_size=GRID))
    return Kerf(gone, thin, surface(shapely.union(gone, thin, grid_size=GRID)), left)


def surface(shape: BaseGeometry) -> BaseGeometry:
    """The polygons of an overlay's result: where edges only touch it leaves lines and points beside them.

    >>> mixed = "GEOMETRYCOLLECTION (POINT (0 0), POLYGON ((0 0, 1 0, 1 1, 0 0)))"
    >>> surface(shapely.from_wkt(mixed)).geom_type
    'MultiPolygon'
    """
    if shape.geom_type in ("Polygon", "MultiPolygon"):
        return shape
    return MultiPolygon([p for p in shapely.get_parts(shapely.get_parts(shape)) if p.geom_type == "Polygon"])


def _cutting(cut: Cut, path: Array) -> Array:
    """For every chord of ``path``: is it cut (not a rapid)?"""
    moves = cut.moves
    if not (moves[1:, KIND] == RAPID).any():
        return np.ones(len(path) - 1, dtype=bool)
    # chords of a move end where the move ends
    ends = {tuple(m) for m in np.round(moves[moves[:, KIND] == RAPID][:, [1, 2, 3]], 9).tolist()}
    return np.array([tuple(p) not in ends for p in np.round(path[1:], 9).tolist()])


def swept(
    path: Array, cutting: Array, below: float, cutter: Cutter, wider: float = 0.0
) -> BaseGeometry | None:
    """Area (mm2 on the face) in which the tip of the cutter comes down to ``below`` (mm) along a path ``(n,
    3)``; None where it never does.

    ``wider``: mm over ``below`` at which the cutter's width is taken.
    """
    runs: list[tuple[list[tuple[float, float]], float]] = []
    open_run = False
    for (a, b), cuts in zip(pairwise(path), cutting, strict=True):
        za, zb = float(a[2]), float(b[2])
        if not cuts or min(za, zb) > below:
            open_run = False
            continue
        t0 = 0.0 if za <= below else (za - below) / (za - zb)
        t1 = 1.0 if zb <= below else (za - below) / (za - zb)
        p, q = a + (b - a) * t0, a + (b - a) * t1
        if not open_run or t0 > 0:
            runs.append(([(p[0], p[1])], min(za, zb)))
        points, lowest = runs[-1]
        points.append((q[0], q[1]))
        runs[-1] = (points, min(lowest, za, zb))
        open_run = t1 >= 1.0
    shapes = []
    for points, lowest in runs:
        r = max(cutter.radius_at(below + wider - lowest), 0.01)
        far = np.ptp(np.array(points), axis=0).max() > 1e-6
        shapes.append((LineString(points) if far else Point(points[0])).buffer(r, quad_segs=6))
    if not shapes:
        return None
    return shapes[0] if len(shapes) == 1 else shapely.union_all(shapes)
