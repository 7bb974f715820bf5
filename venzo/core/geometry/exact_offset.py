"""The offset of a contour with its own lines and arcs, where nothing of it vanishes: no chords, no refit."""

from __future__ import annotations

import math
from dataclasses import dataclass

import shapely

from venzo.core.geometry.contour import Contour, Segment, arc_of

SMOOTH = 1e-7
"""Sine of the bend below which two segments run on into one another."""
NEAR = 1e-7
"""mm; shorter segments are left out."""


@dataclass
class _Moved:
    """A segment beside the drawn one. ``r``: of an arc, 0 for a line; (cx, cy): its middle."""

    x0: float
    y0: float
    x1: float
    y1: float
    bulge: float
    cx: float = 0.0
    cy: float = 0.0
    r: float = 0.0


def exact_offset(contour: Contour, distance: float, near: Contour | None = None) -> Contour | None:
    """The one ring at ``distance`` mm outside (positive) or inside of a closed counter-clockwise contour:
    lines stay lines, arcs arcs about the same middle; corners that open get an arc round the corner, those
    that close are cut where their sides meet.

    None where a segment vanishes or the ring would cross itself. ``near``: a ring found otherwise, which it
    must not leave by more than 0.02 mm.

    >>> ring = exact_offset(Contour.of([(0, 0), (10, 0), (10, 10), (0, 10)]), 2)
    >>> len(ring.vertices), round(ring.length, 6) == round(40 + 4 * math.pi, 6)
    (8, True)
    >>> exact_offset(Contour.of([(0, 0), (10, 0), (10, 10), (0, 10)]), -6) is None
    True
    """
    segs = [s for s in contour.segments() if s.length > NEAR]
    moved = [_beside(s, distance) for s in segs]
    if len(segs) < 2 or any(m is None for m in moved):
        return None
    sides = [m for m in moved if m is not None]
    n = len(sides)
    joins: list[tuple[float, float, float] | None] = [None] * n
    for k in range(n):
        a, b = segs[k], segs[(k + 1) % n]
        ax, ay = a.at(1.0)[2:]
        bx, by = b.at(0.0)[2:]
        cross, dot = ax * by - ay * bx, ax * bx + ay * by
        if abs(cross) < SMOOTH and dot > 0:
            continue
        if cross * distance > 0:
            joins[k] = (sides[k].x1, sides[k].y1, math.tan(math.atan2(cross, dot) / 4))
        elif not _cut(sides[k], sides[(k + 1) % n], (a.x1, a.y1)):
            return None
    rows: list[tuple[float, float, float]] = []
    for k, m in enumerate(sides):
        bulge = _bulge(m, segs[k])
        if bulge is None:
            return None
        rows.append((m.x0, m.y0, bulge))
        join = joins[k]
        if join is not None:
            rows.append(join)
    rows = [p for k, p in enumerate(rows) if math.dist(p[:2], rows[(k + 1) % len(rows)][:2]) > NEAR]
    if len(rows) < 2:
        return None
    ring = Contour.of(rows)
    line = shapely.LinearRing(ring.points(0.002)) if len(ring.points(0.002)) > 2 else None
    if line is None or not line.is_simple or ring.area <= 0:
        return None
    if near is not None and line.hausdorff_distance(shapely.LinearRing(near.points(0.002))) > 0.02:
        return None
    return ring


def _beside(s: Segment, d: float) -> _Moved | None:
    """A segment moved ``d`` mm to its right; None where an arc vanishes."""
    _x, _y, tx, ty = s.at(0.0)
    _x, _y, ux, uy = s.at(1.0)
    out = _Moved(s.x0 + ty * d, s.y0 - tx * d, s.x1 + uy * d, s.y1 - ux * d, s.bulge)
    if s.bulge:
        out.cx, out.cy, r = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[:3]
        out.r = r + math.copysign(d, s.bulge * d) if d else r
        if out.r <= NEAR:
            return None
    return out


def _cut(a: _Moved, b: _Moved, corner: tuple[float, float]) -> bool:
    """Ends ``a`` and begins ``b`` where they meet, at the meeting nearest to the drawn corner."""
    meet = _meetings(a, b)
    if not meet:
        return False
    x, y = min(meet, key=lambda p: math.dist(p, corner))
    a.x1, a.y1 = b.x0, b.y0 = x, y
    return True


def _meetings(a: _Moved, b: _Moved) -> list[tuple[float, float]]:
    """Where two lines or circles meet."""
    if not a.r and not b.r:
        ux, uy, vx, vy = a.x1 - a.x0, a.y1 - a.y0, b.x1 - b.x0, b.y1 - b.y0
        cross = ux * vy - uy * vx
        if abs(cross) < 1e-12:
            return []
        t = ((b.x0 - a.x0) * vy - (b.y0 - a.y0) * vx) / cross
        return [(a.x0 + ux * t, a.y0 + uy * t)]
    if not a.r or not b.r:
        line, arc = (a, b) if b.r else (b, a)
        ux, uy = line.x1 - line.x0, line.y1 - line.y0
        n = math.hypot(ux, uy)
        if n < NEAR:
            return []
        ux, uy = ux / n, uy / n
        along = (arc.cx - line.x0) * ux + (arc.cy - line.y0) * uy
        off = (arc.cx - line.x0) * uy - (arc.cy - line.y0) * ux
        if abs(off) > arc.r:
            return []
        half = math.sqrt(arc.r * arc.r - off * off)
        return [(line.x0 + ux * t, line.y0 + uy * t) for t in (along - half, along + half)]
    d = math.hypot(b.cx - a.cx, b.cy - a.cy)
    if d < NEAR or d > a.r + b.r or d < abs(a.r - b.r):
        return []
    along = (d * d + a.r * a.r - b.r * b.r) / (2 * d)
    half = math.sqrt(max(0.0, a.r * a.r - along * along))
    ux, uy = (b.cx - a.cx) / d, (b.cy - a.cy) / d
    return [(a.cx + ux * along - uy * h, a.cy + uy * along + ux * h) for h in (half, -half)]


def _bulge(m: _Moved, drawn: Segment) -> float | None:
    """The bulge of a segment between the ends it has now; None where it runs backwards."""
    if not m.r:
        forward = (m.x1 - m.x0) * (drawn.x1 - drawn.x0) + (m.y1 - m.y0) * (drawn.y1 - drawn.y0)
        return 0.0 if forward >= 0 else None
    a, b = math.atan2(m.y0 - m.cy, m.x0 - m.cx), math.atan2(m.y1 - m.cy, m.x1 - m.cx)
    side = math.copysign(1.0, drawn.bulge)
    sweep, was = ((b - a) * side) % (2 * math.pi), abs(4 * math.atan(drawn.bulge))
    if sweep > was + 1e-6:  # cut at both ends it can only be less; a touch below nothing is nothing
        return 0.0 if 2 * math.pi - sweep < 1e-6 else None
    return math.tan(sweep / 4) * side
