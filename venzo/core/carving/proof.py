"""Does a carving's program stay within its walls? Every cutting move is held against the drawn shapes: at no
depth may a cutter reach beyond the slope the bit leaves.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.carving.bit import Bit
from venzo.core.cuts.moves import KIND, RAPID, polyline
from venzo.core.geometry.contour import Array
from venzo.core.snags import Snag, stop
from venzo.core.tolerances import BUDGET

CHORD = 0.005
"""mm; arcs of the program become chords within this."""
DRAWN = 0.004
"""mm by which the polygons may lie inside the drawn curves (flattening at intake and chords)."""


def carving_snags(
    polygons: Sequence[BaseGeometry], bit: Bit, below: float, runs: Sequence[tuple[float | None, Array]]
) -> list[Snag]:
    """A *stop* where a program cuts beyond the walls of a carving, with the worst place.

    Args:
        polygons: the drawn shapes, mm.
        bit: the V bit that leaves the walls.
        below: mm under the surface of the plane they are reckoned from.
        runs: (radius of an end mill, None: the bit itself; moves (n, 7) with Z 0 at the surface).
    """
    solid = shapely.union_all(list(polygons))
    shapely.prepare(solid)
    rings = shapely.get_parts(shapely.boundary(shapely.get_parts(solid)))
    corners = [shapely.get_coordinates(r) for r in rings]
    edge = shapely.STRtree(
        shapely.linestrings(np.concatenate([np.stack([c[:-1], c[1:]], axis=1) for c in corners]))
    )
    out = []
    for radius, moves in runs:
        found = _beyond(edge, solid, bit, below, radius, moves)
        if found:
            bite, x, y, z = found
            what = "the bit" if radius is None else f"the {2 * radius:g} mm end mill"
            words = (
                f"{what} cuts {bite:.2f} mm through the wall of the carving at {x:.2f}, {y:.2f}, {-z:.2f} mm"
                " deep"
            )
            out.append(stop("carve.gouge", words, {"x": round(x, 3), "y": round(y, 3)}))
    return out


def _beyond(
    edge: shapely.STRtree, solid: BaseGeometry, bit: Bit, below: float, radius: float | None, moves: Array
) -> tuple[float, float, float, float] | None:
    """How far (mm), where and how deep moves reach beyond the walls at worst; None: nowhere by more than the
    error budget.
    """
    p = polyline(moves, CHORD)
    cutting = _chords_cut(moves, p)
    a, b = p[:-1][cutting], p[1:][cutting]
    low = np.minimum(a[:, 2], b[:, 2]) < -1e-6
    a, b = a[low], b[low]
    if not len(a):
        return None
    pts = np.concatenate([a, (a + b) / 2, b])
    depth = np.maximum(-pts[:, 2], 0.0)
    wall = np.maximum(bit.cone_radius(np.maximum(depth - below, 0.0)) if below else bit.radius(depth), 0.0)
    if below:  # over the plane the slope goes on outwards
        wall = np.where(depth < below, -(below - depth) * bit.tan, wall)
    need = wall + (radius or 0.0)
    spots = shapely.points(pts[:, :2])
    _near, far = edge.query_nearest(spots, return_distance=True, all_matches=False)
    away = far * np.where(shapely.contains(solid, spots), 1.0, -1.0)
    bite = need - away - DRAWN
    if radius is None:  # the point of a flat or round bit is as wide as it is, however shallow
        bite = np.where(depth > 1e-6, bite, 0.0)
    k = int(np.argmax(bite))
    return (float(bite[k]), *map(float, pts[k])) if bite[k] > BUDGET else None  # type: ignore[return-value]


def _chords_cut(moves: Array, p: Array) -> Array:
    """For every chord of ``p``: does it belong to a cutting move?"""
    ends = np.flatnonzero(moves[1:, KIND] == RAPID) + 1
    fast = {tuple(m) for m in np.round(moves[ends][:, [1, 2, 3]], 9).tolist()}
    return np.array([tuple(q) not in fast for q in np.round(p[1:], 9).tolist()], dtype=bool)
