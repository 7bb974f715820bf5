"""Ways over a relief in plan: rows, rings, a spiral. Lengths in mm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput

Pattern = Literal["raster", "rings", "spiral"]
Ways = Literal["both ways", "one way"]
MOST_LINES = 20_000
CHORD = 0.005
"""mm; how far a chord of a spiral or of a ring's corner lies off its arc."""


def rows(
    boundary: BaseGeometry, step: float, angle: float = 0.0, ways: Ways = "both ways", between: int = 0
) -> list[Array]:
    """Rows at an ``angle`` (degrees from X), at most ``step`` apart, from one edge of the boundary to the
    other; every second one runs back. ``between``: only those that halve the gaps for the so-manieth time.

    Raises:
        BadInput: more rows than MOST_LINES.

    >>> [r.round(1).tolist() for r in rows(shapely.box(0, 0, 10, 4), 3)]
    [[[0.0, 0.0], [10.0, 0.0]], [[10.0, 2.0], [0.0, 2.0]], [[0.0, 4.0], [10.0, 4.0]]]
    """
    turned = shapely.affinity.rotate(boundary, -angle, origin=(0, 0))
    x0, y0, x1, y1 = turned.bounds
    # a row along an edge would meet it in points only: a hair inside
    hair = min(1e-6, (y1 - y0) / 4)
    n = _many((y1 - y0) / step) * 2**between
    at = np.linspace(y0 + hair, y1 - hair, _many(n) + 1)[1 if between else 0 :: 2 if between else 1]
    across = shapely.linestrings([[(x0 - 1, y), (x1 + 1, y)] for y in at])
    out: list[Array] = []
    back = False
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    turn = np.array([[c, s], [-s, c]])
    shapely.prepare(turned)
    for line in shapely.intersection(turned, across).tolist():
        pieces = [np.array(g.coords) for g in shapely.get_parts(line).tolist() if g.geom_type == "LineString"]
        pieces = [g if g[0, 0] < g[-1, 0] else g[::-1] for g in pieces if len(g) > 1]
        pieces.sort(key=lambda g: g[0, 0])
        if back:
            pieces = [g[::-1] for g in reversed(pieces)]
        out += [g @ turn for g in pieces]
        if pieces and ways == "both ways":
            back = not back
    return out


def rings(boundary: BaseGeometry, step: float, climb: bool = True, between: int = 0) -> list[Array]:
    """The boundary and rings inside it, ``step`` apart, closed, the innermost of each area first;
    ``between``: as for ``rows``.

    >>> [round(shapely.LineString(r).length) for r in rings(shapely.box(0, 0, 10, 10), 4)]
    [8, 40]
    """
    levels: list[list[Array]] = []
    step = step / 2**between
    area = boundary
    for _k in range(_many(max(np.ptp(np.reshape(boundary.bounds, (2, 2)), axis=0)) / step / 2 + 2)):
        if area.is_empty:
            break
        level = []
        for p in shapely.get_parts(area).tolist():
            for k, ring in enumerate((p.exterior, *p.interiors)):
                coords = np.array(ring.coords)
                runs = ring.is_ccw == (climb == (k == 0))  # what stands lies on the right of a climb cut
                level.append(coords if runs else coords[::-1])
        levels.append(level)
        area = area.buffer(-step, quad_segs=16)
    return _from_the_middle(levels[1::2] if between else levels)


def _from_the_middle(levels: Sequence[Sequence[Array]]) -> list[Array]:
    """Rings in running order: always on to the nearest of those outside, each from where it is nearest."""
    out: list[Array] = []
    at = None
    for level in reversed(levels):
        left = list(level)
        while left:
            here = at if at is not None else left[0][0]
            gaps = [np.hypot(*(g - here).T) for g in left]
            k = int(np.argmin([g.min() for g in gaps]))
            ring, j = left.pop(k), int(np.argmin(gaps[k][:-1]))
            turned = np.vstack([ring[:-1][j:], ring[:-1][:j], ring[:-1][j : j + 1]])
            out.append(turned)
            at = turned[-1]
    return out


def spiral(boundary: BaseGeometry, step: float, climb: bool = True, turned: float = 0.0) -> list[Array]:
    """An even spiral about the middle of the boundary's box, from the middle out, where it runs inside the
    boundary; ``turned``: by so much of a lap.

    >>> (first,) = spiral(shapely.Point(0, 0).buffer(10), 2)[:1]
    >>> bool(np.allclose(first[0], 0)), round(float(np.hypot(*first.T).max()), 1)
    (True, 10.0)
    """
    x0, y0, x1, y1 = boundary.bounds
    cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
    far = float(shapely.hausdorff_distance(shapely.Point(cx, cy), boundary))
    laps = _many(far / step) + 1
    # as many points a lap as its chords allow
    parts = [np.zeros((1, 2))]
    for lap in range(laps):
        r1 = (lap + 1) * step
        n = max(16, math.ceil(math.pi / math.acos(max(0.0, 1 - CHORD / max(r1, 2 * CHORD)))))
        turn = np.arange(1, n + 1) / n
        w = 2 * math.pi * turn * (1 if climb else -1)
        r = (lap + turn) * step
        parts.append(np.column_stack([r * np.cos(w), r * np.sin(w)]))
    w = np.linspace(0, 2 * math.pi, max(16, len(parts[-1])) + 1)[1:] * (1 if climb else -1)
    parts.append(np.column_stack([laps * step * np.cos(w), laps * step * np.sin(w)]))
    c, s = math.cos(2 * math.pi * turned), math.sin(2 * math.pi * turned)
    line = shapely.LineString(np.vstack(parts) @ np.array([[c, s], [-s, c]]) + (cx, cy))
    inside = shapely.line_merge(shapely.intersection(line, boundary))
    pieces = [np.array(g.coords) for g in shapely.get_parts(inside).tolist() if g.geom_type == "LineString"]
    # it runs outwards all the way: how far out tells what comes first
    out = [np.hypot(*(g[[0, -1]] - (cx, cy)).T) for g in pieces]
    pieces = [g if a <= b else g[::-1] for g, (a, b) in zip(pieces, out, strict=True)]
    return sorted(pieces, key=lambda g: float(np.hypot(*(g[len(g) // 2] - (cx, cy)))))


def over(
    boundary: BaseGeometry,
    pattern: Pattern,
    step: float,
    angle: float = 0.0,
    ways: Ways = "both ways",
) -> list[Array]:
    """Lines in plan that cover a boundary, in running order.

    Raises:
        BadInput: an unknown pattern, a step that is none, more lines than MOST_LINES.
    """
    if not 0 < step < 1e4:
        raise BadInput(f"a step-over of {step:g} mm: give one above 0")
    if pattern == "raster":
        return rows(boundary, step, angle, ways)
    if pattern == "rings":
        return rings(boundary, step)
    if pattern == "spiral":
        return spiral(boundary, step)
    raise BadInput(f"pattern {pattern!r}: choose raster, rings or spiral")


HALVED = 4
"""Times that the gaps between lines are halved at most: slopes of up to 16 rises a run."""


def between_lines(
    boundary: BaseGeometry, pattern: Pattern, step: float, angle: float, halved: int
) -> list[Array]:
    """Lines midway between those of ``over`` and of all such halvings before, for the so-manieth time."""
    if pattern == "raster":
        return rows(boundary, step, angle, between=halved)
    if pattern == "rings":
        return rings(boundary, step, between=halved)
    odd = range(1, 2**halved, 2)
    return [line for k in odd for line in spiral(boundary, step, turned=k / 2**halved)]


def _many(n: float) -> int:
    if n > MOST_LINES:
        raise BadInput(
            f"{n:,.0f} rows; at most {MOST_LINES:,} are made: take a larger step-over or a smaller model"
        )
    return max(1, math.ceil(n - 1e-9))


def chained(lines: Sequence[Array], boundary: BaseGeometry, longest: float) -> list[Array]:
    """Lines joined end to start where the way between is at most ``longest`` and inside the boundary."""
    if not lines:
        return []
    room = boundary.buffer(1e-6)
    shapely.prepare(room)
    links = shapely.linestrings([[a[-1], b[0]] for a, b in pairwise(lines)])
    near = shapely.length(links) <= longest if len(lines) > 1 else np.zeros(0, dtype=bool)
    good = near & shapely.covers(room, links) if len(lines) > 1 else near
    out: list[list[Array]] = [[lines[0]]]
    for line, joins in zip(lines[1:], good, strict=True):
        if joins:
            out[-1].append(line)
        else:
            out.append([line])
    return [np.vstack(chain) for chain in out]
