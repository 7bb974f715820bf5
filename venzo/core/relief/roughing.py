"""Roughing a relief in levels, an allowance off the surface.

On every level the cutter runs along rows at that height, and rises with the surface where that is higher; it
runs only where the level before stopped short, so that each level takes no more than its depth anywhere.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.model import NotNegative, Positive, Value
from venzo.core.relief.block import Relief
from venzo.core.relief.finishing import RETRACT, Above, Pace, ReliefPass, as_moves
from venzo.core.relief.patterns import over
from venzo.core.relief.rolling import Rolls, followed
from venzo.core.relief.tip import Tip
from venzo.core.tooling.cutter import Cutter

SHORT = 0.05
"""mm: what a level would take less of is left to the next."""
RAMP = 0.1
"""mm down a mm along, at most, where it goes into the material."""
STRAIGHT = 1e-9
"""Sine of the angle by which a way may turn and still run straight on."""
TRIES = 40
"""Times that it goes to and fro on a short way down, at most."""
LINKS = 1.6
"""Step-overs: two rows that are no further apart are joined without lifting."""


class Rough(Value):
    """How a relief is roughed. ``allowance``: left for finishing, normal to the surface (common practice 0.04
    in); ``level``: depth of a level, at most; ``step_over``: share of the diameter between rows or rings;
    ``round_last``: on every level once along the boundary when its rows are done (common practice).
    """

    allowance: NotNegative = 1.0
    level: Positive = 3.0
    step_over: Annotated[float, Field(gt=0.02, le=1)] = 0.45
    angle: Annotated[float, Field(ge=-360, le=360)] = 0.0
    pattern: Literal["raster", "rings"] = "raster"
    round_last: bool = False
    retract: Positive = RETRACT


def rough(relief: Relief, cutter: Cutter, how: Rough, pace: Pace, rigid: Above = ()) -> ReliefPass:
    """The roughing pass of a cutter over a relief; ``rigid``: what is
    over its edge, as for ``finish``.

    Raises:
        BadInput: a cutter that leaves no relief.
    """
    tip = Tip.of(cutter)
    step = tip.across * how.step_over
    rolls = Rolls(tip, how.allowance, rigid)
    ways = _on_allowance(relief, over(relief.boundary, how.pattern, step, how.angle), rolls)
    rim = _on_allowance(relief, _rims(relief.boundary) if how.round_last else [], rolls)
    lowest = min((float(w[:, 2].min()) for w in (*ways, *rim)), default=0.0)
    levels = _levels(lowest, how.level)
    room = relief.boundary.buffer(1e-6)
    shapely.prepare(room)
    out: list[Array] = []
    above = 0.0
    for level in levels:
        runs = [r for w in ways for r in _runs(w, level, above)]
        out += _joined(relief, rolls, runs, level, above, step, room)
        out += [_down_along(r, above) for w in rim for r in _runs(w, level, above)]
        above = level
    moves = as_moves(out, pace, how.retract)
    return ReliefPass("rough", cutter, moves, step, tuple(levels))


def _on_allowance(relief: Relief, lines: Sequence[Array], rolls: Rolls) -> list[Array]:
    """Lines in plan laid an allowance off the surface, no lower than its floor."""
    ways = followed(relief.ground, list(lines), rolls)
    return [np.column_stack([w[:, :2], np.maximum(w[:, 2], relief.floor)]) for w in ways]


def _rims(boundary: BaseGeometry) -> list[Array]:
    """The boundary as closed lines, climb milling: what stands beyond them lies on the right."""
    out = []
    for p in shapely.get_parts(boundary).tolist():
        for k, ring in enumerate((p.exterior, *p.interiors)):
            at = np.array(ring.coords)
            out.append(at if ring.is_ccw == (k == 0) else at[::-1])
    return out


def _levels(lowest: float, most: float) -> list[float]:
    """Heights of the levels, the last at the lowest place, evenly apart.

    >>> _levels(-7.0, 3.0)
    [-2.3333333333333335, -4.666666666666667, -7.0]
    """
    if lowest > -SHORT:
        return []
    n = max(1, math.ceil(-lowest / most - 1e-6))
    return [lowest * (k + 1) / n for k in range(n)]


def _runs(way: Array, level: float, above: float) -> list[Array]:
    """The stretches of a way on which something is left under the level above, at this level or at the
    surface's own height where that is higher.
    """
    under = way[:, 2] < above - SHORT
    if not under.any():
        return []
    way = _with_crossings(way, (above - SHORT, level))
    under = way[:, 2] <= above - SHORT + 1e-9
    edges = np.flatnonzero(np.diff(np.concatenate([[0], under.astype(int), [0]])))
    out = []
    for a, b in edges.reshape(-1, 2):
        part = way[a:b].copy()
        part[:, 2] = np.maximum(part[:, 2], level)
        if len(part) > 1:
            out.append(_fewer(part))
    return out


def _with_crossings(way: Array, heights: Sequence[float]) -> Array:
    """A way with a point wherever it comes through a height."""
    for h in heights:
        z = way[:, 2] - h
        at = np.flatnonzero((z[:-1] < -1e-9) & (z[1:] > 1e-9) | (z[:-1] > 1e-9) & (z[1:] < -1e-9))
        if len(at):
            t = z[at] / (z[at] - z[at + 1])
            between = way[at] + (way[at + 1] - way[at]) * t[:, None]
            between[:, 2] = h
            way = np.insert(way, at + 1, between, axis=0)
    return way


def _fewer(part: Array) -> Array:
    """A way without the points inside its level, straight stretches."""
    d = np.diff(part, axis=0)
    level = np.abs(d[:, 2]) < 1e-12
    long = np.hypot(d[:, 0], d[:, 1])
    turn = np.abs(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0])
    ahead = (d[:-1, :2] * d[1:, :2]).sum(axis=1) > 0
    inside = np.zeros(len(part), dtype=bool)
    inside[1:-1] = level[:-1] & level[1:] & ahead & (turn <= STRAIGHT * long[:-1] * long[1:])
    return part[~inside]


def _joined(
    relief: Relief,
    rolls: Rolls,
    runs: Sequence[Array],
    level: float,
    above: float,
    step: float,
    room: shapely.Geometry,
) -> list[Array]:
    """Runs of one level joined where the way from one to the next stays within what is to be cut, each chain
    gone down into along its own way.
    """
    chains: list[list[Array]] = []
    left = list(runs)
    while left:
        chain = [left.pop(0)]
        while left:
            linked = _link(relief, rolls, chain[-1][-1], left[0], level, above, step, room)
            if linked is None:
                break
            chain += [linked, left.pop(0)]
        chains.append(chain)
    return [_down_along(np.vstack(c), above) for c in chains]


def _link(
    relief: Relief,
    rolls: Rolls,
    at: Array,
    run: Array,
    level: float,
    above: float,
    step: float,
    room: shapely.Geometry,
) -> Array | None:
    """The way over to the next run; None where it is long, leaves the boundary or meets what stands."""
    to = run[0]
    gap = math.dist(at[:2], to[:2])
    if gap > LINKS * step or not room.covers(shapely.LineString([at[:2], to[:2]])):
        return None
    (way,) = followed(relief.ground, [np.array([at[:2], to[:2]])], rolls)
    if way[:, 2].max() > above:
        return None
    way[:, 2] = np.maximum(way[:, 2], level)
    way[0, 2], way[-1, 2] = max(way[0, 2], at[2]), max(way[-1, 2], to[2])
    return way


def _down_along(way: Array, above: float) -> Array:
    """A way that begins by going down along itself from the level above, to and fro where it is short, then
    back to its start, and on.
    """
    drop = above - float(way[0, 2])
    if drop <= SHORT * 2:
        return way
    d = np.hypot(*np.diff(way[:, :2], axis=0).T)
    far = np.concatenate([[0.0], np.cumsum(d)])
    long = min(far[-1], max(drop / RAMP, 5.0))
    if far[-1] < 0.5:
        return way
    n = min(TRIES, max(1, math.ceil(drop / RAMP / long / 2)))
    cut = int(np.searchsorted(far, long))
    end = way[cut - 1] + (way[cut] - way[cut - 1]) * ((long - far[cut - 1]) / max(d[cut - 1], 1e-12))
    there = np.vstack([way[:cut], end])
    s = np.concatenate([far[:cut], [long]])
    out = []
    for k in range(n):  # down on the way there and on the way back
        for back in (False, True):
            at = s if not back else s[::-1]
            gone = (2 * k + back) * long + (at if not back else long - at)
            pts = there if not back else there[::-1]
            ramp = above - drop * gone / (2 * n * long)
            out.append(np.column_stack([pts[:, :2], np.maximum(pts[:, 2], ramp)]))
    return np.vstack([*out, way])
