"""Rows of parts in one pierce: neighbours joined by bridges of metal, so that one line goes round them all.

What is joined comes off the sheet as one piece; the bridges are broken or filed off at the bench (common
practice for rows of small parts: one pierce instead of many, and nothing small that tips between the slats).
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence

import shapely
from shapely.geometry import LineString, Polygon

from venzo.core.geometry.contour import Contour, Segment
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_lines import FINE, Body, Row
from venzo.core.snags import Snag, note

FACING = 0.05
"""mm; edges of two neighbours face each other where they are at most so much further apart than at their
nearest.
"""
MOST = 60
"""Parts in one row, at most, whatever was asked for."""


def rows_of(bodies: Sequence[Body], how: KerfHow) -> tuple[list[Row], list[Snag]]:
    """Parts joined to rows: nearest neighbours first, each with at most ``how.bridge_most`` parts.

    Two parts are joined where they lie within ``how.bridge_reach`` of each other and a bridge as wide as
    ``how.bridge`` finds room between edges that face each other, a kerf clear of every other part. A part
    that lies in another, whose outline is not cut, or whose tabs were set by hand stays alone.

    >>> from venzo.core.geometry.regions import Region
    >>> def square(x): return Contour.of([(x, 0), (x + 10, 0), (x + 10, 10), (x, 10)])
    >>> three = [Body(str(k), Region(square(14 * k), ())) for k in range(3)]
    >>> rows, said = rows_of(three, KerfHow(kerf=1, feed=3000, bridge=2, bridge_reach=5))
    >>> [(r.bodies, round(r.outline.area)) for r in rows]
    [((0, 1, 2), 316)]
    """
    if how.bridge <= 0 or len(bodies) < 2:
        return [], []
    filled = [Polygon(b.polygon.exterior) for b in bodies]
    tree = shapely.STRtree(filled)
    alone = {
        n
        for n, b in enumerate(bodies)
        if b.contour_name(0) in b.omit or b.tabs.get(b.contour_name(0)) or _lies_within(n, filled, tree)
    }
    row_of = {n: Row((n,), b.region.outline.oriented(True)) for n, b in enumerate(bodies) if n not in alone}
    most = min(MOST, how.bridge_most)
    lost = 0
    for a, b in _pairs(filled, tree, row_of.keys(), how.bridge_reach):
        one, two = row_of[a], row_of[b]
        if one is two or len(one.bodies) + len(two.bodies) > most:
            continue
        joined = _joined(one, two, how, filled, tree)
        if joined is None:
            lost += 1
            continue
        for n in joined.bodies:
            row_of[n] = joined
    rows = sorted({id(r): r for r in row_of.values() if len(r.bodies) > 1}.values(), key=lambda r: r.bodies)
    said = []
    if lost:
        said.append(
            note(
                "kerf.bridge",
                f"{lost} {'pair' if lost == 1 else 'pairs'} of neighbours found no room for a bridge of"
                f" {how.bridge:g} mm between edges that face each other, and stay apart there",
            )
        )
    return rows, said


def _lies_within(n: int, filled: Sequence[Polygon], tree: shapely.STRtree) -> bool:
    """Does a part lie in a hole of another?"""
    return any(int(k) != n for k in tree.query(filled[n], "covered_by"))


def _pairs(
    filled: Sequence[Polygon], tree: shapely.STRtree, among: Collection[int], reach: float
) -> list[tuple[int, int]]:
    """Neighbours within reach, the nearest first."""
    near = tree.query(filled, "dwithin", reach).T
    pairs = [(int(a), int(b)) for a, b in near if a < b and a in among and b in among]
    return sorted(pairs, key=lambda p: (round(float(filled[p[0]].distance(filled[p[1]])), 3), p))


def _joined(one: Row, two: Row, how: KerfHow, filled: Sequence[Polygon], tree: shapely.STRtree) -> Row | None:
    """Two rows with a bridge between them in the middle of where their edges face each other."""
    a, b = one.outline, two.outline
    line_a, line_b = (shapely.LinearRing(c.points(FINE)) for c in (a, b))
    gap = float(line_a.distance(line_b))
    facing = line_a.intersection(line_b.buffer(gap + FACING, quad_segs=32))
    runs = [p for p in shapely.get_parts(shapely.line_merge(facing)) if p.geom_type == "LineString"]
    for run in sorted(runs, key=lambda r: -r.length)[:6]:
        middle = run.interpolate(0.5, normalized=True)
        s = a.nearest(middle.x, middle.y)[0]
        t = b.nearest(middle.x, middle.y)[0]
        joined = _spliced(a, s, b, t, how.bridge)
        if joined is not None and _clear(one, two, a.at(s)[:2], b.at(t)[:2], how, filled, tree):
            return Row(tuple(sorted((*one.bodies, *two.bodies))), joined)
    return None


def _clear(
    one: Row,
    two: Row,
    p: tuple[float, float],
    q: tuple[float, float],
    how: KerfHow,
    filled: Sequence[Polygon],
    tree: shapely.STRtree,
) -> bool:
    """Does a bridge with the kerfs beside it keep off every other part?"""
    strip = LineString([p, q]).buffer(how.bridge / 2 + how.kerf, cap_style="flat")
    own = {*one.bodies, *two.bodies}
    return all(int(k) in own for k in tree.query(strip, "intersects"))


def _spliced(a: Contour, s: float, b: Contour, t: float, width: float) -> Contour | None:
    """Two outlines, opened over ``width`` about ``s`` and ``t`` and joined by the bridge's two sides; None
    where the edge turns too much there for its sides to be about straight across.
    """
    half = width / 2
    if a.length < 4 * width or b.length < 4 * width:
        return None
    ends = [a.at(s + half)[:2], a.at(s - half)[:2], b.at(t + half)[:2], b.at(t - half)[:2]]
    # both are counter-clockwise, so that what begins the gap in one faces what ends it in the other
    sides = LineString([ends[1], ends[2]]), LineString([ends[3], ends[0]])
    across = math.dist(ends[0], ends[1]), math.dist(ends[2], ends[3])
    if min(across) < 0.9 * width or sides[0].distance(sides[1]) < 0.9 * width:
        return None
    if any(
        shapely.intersection(Polygon(c.points(FINE)).buffer(0), side).length > 0.05
        for c in (a, b)
        for side in sides
    ):
        return None
    segments: list[Segment] = [
        *a.walk(s + half, s - half + a.length),
        _line(ends[1], ends[2]),
        *b.walk(t + half, t - half + b.length),
        _line(ends[3], ends[0]),
    ]
    return Contour.of([(g.x0, g.y0, g.bulge) for g in segments if g.length > 1e-9])


def _line(p: tuple[float, float], q: tuple[float, float]) -> Segment:
    return Segment(*p, *q, 0.0, math.dist(p, q))


def joined_to(rows: Sequence[Row], bodies: Sequence[Body]) -> dict[int, Polygon]:
    """By a body's index, what comes off the sheet in one piece with it: the row's metal less all holes."""
    out: dict[int, Polygon] = {}
    for r in rows:
        holes = [Polygon(h.points(FINE)) for n in r.bodies for h in bodies[n].region.holes]
        left = r.metal.difference(shapely.union_all(holes)) if holes else r.metal
        whole = max(shapely.get_parts(left), key=lambda p: p.area)
        out.update(dict.fromkeys(r.bodies, whole))
    return out
