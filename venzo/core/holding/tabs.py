"""Where do tabs go on a contour? On straight runs clear of corners, fine detail and end grain, spread evenly,
near the ends that would chatter.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array, Contour
from venzo.core.memo import memo

FLAT_RADIUS = 25.0
"""An arc of at least this radius (mm) takes a tab where straight runs are short of room (common practice: not
on fine detail).
"""
CLEAR = 2.0
"""mm that the lifted stretch of a tab keeps from the ends of its run."""
FINE = 1.5
"""A part narrower behind a tab than so many tab widths is fine detail: the part breaks before the tab
does.
"""
STEP = 3.0
"""mm between the places that are looked at along a contour."""
Stretch = tuple[float, float]


def tab_count(contour: Contour, asked: int, every: float, footprint: float) -> int:
    """Tabs for this outline: as asked, more on a long one (one per ``every`` mm), fewer where they would
    crowd.

    A small part keeps at least two, unless none are asked for.
    """
    if asked == 0:
        return 0
    wanted = max(asked, math.ceil(contour.length / every))
    room = int(contour.length // (3 * footprint))
    return max(min(wanted, room), min(asked, 2))


@dataclass(frozen=True)
class Shy:
    """Stretches of a contour (start, end along it, mm) that a tab keeps away from where it can: ``fine``
    detail, narrow ``bays``, ``end_grain``.
    """

    fine: tuple[Stretch, ...] = ()
    bays: tuple[Stretch, ...] = ()
    end_grain: tuple[Stretch, ...] = ()


def shy_stretches(
    contour: Contour, width: float, diameter: float, grain: float | None = None, key: str = ""
) -> Shy:
    """Where a part should not be tied.

    Args:
        contour: the outline.
        width: of a tab, mm.
        diameter: of the cutter, mm: a bay that it only just enters is hard to reach with a knife or a chisel.
        grain: direction of the grain in the part's frame, degrees; None: none.
        key: digest of the contour, if known: the answer is remembered.
    """
    return (
        memo("shy", f"{key}|{width!r}|{diameter!r}|{grain!r}", lambda: _shy(contour, width, diameter, grain))
        if key
        else _shy(contour, width, diameter, grain)
    )


def _shy(contour: Contour, width: float, diameter: float, grain: float | None) -> Shy:
    solid = Polygon(contour.points(0.05)).buffer(0)
    n = max(8, math.ceil(contour.length / STEP))
    at = (np.arange(n) + 0.5) * contour.length / n
    places = np.array([contour.at(float(s)) for s in at])
    points = shapely.points(places[:, :2])
    f, g = FINE * width / 2, diameter * 0.75
    # what is wider than 2 f stays when a disc of that radius is rolled inside; bays narrower than 2 g fill
    # when one is rolled outside
    bold = solid.buffer(-f, quad_segs=4).buffer(f, quad_segs=4)
    filled = solid.buffer(g, quad_segs=4).buffer(-g, quad_segs=4)
    fine = _far(points, bold, 0.45 * f)
    # a corner of the part rounds off in the disc too: only stretches longer than that are detail
    bay = shapely.distance(
        points, filled.exterior if filled.geom_type == "Polygon" else shapely.boundary(filled)
    ) > max(0.3 * g, 0.5)
    end = np.zeros(n, dtype=bool)
    if grain is not None:
        a = math.radians(grain)
        end = np.abs(places[:, 2] * math.cos(a) + places[:, 3] * math.sin(a)) < math.cos(math.radians(60))
    return Shy(
        stretches(fine, contour.length), stretches(bay, contour.length), stretches(end, contour.length)
    )


def _far(points: Array, shape: BaseGeometry, limit: float) -> Array:
    return np.ones(len(points), dtype=bool) if shape.is_empty else shapely.distance(points, shape) > limit


def stretches(mask: Array, total: float) -> tuple[Stretch, ...]:
    """Runs of True as (start, end) along a contour of length ``total``."""
    n = len(mask)
    out: list[Stretch] = []
    step = total / n
    k = 0
    while k < n:
        if mask[k]:
            j = k
            while j < n and mask[j]:
                j += 1
            out.append((k * step, j * step))
            k = j
        else:
            k += 1
    return tuple(out)


def outside_of(runs: Sequence[Stretch], away: Sequence[Stretch], reach: float, total: float) -> list[Stretch]:
    """``runs`` less every stretch of ``away`` with ``reach`` mm on both sides, on a closed contour of length
    ``total``.
    """
    cuts = sorted((a + lap - reach, b + lap + reach) for a, b in away for lap in (-total, 0.0, total))
    out = []
    for a, b in runs:
        at = a
        for lo, hi in cuts:
            if hi <= at or lo >= b:
                continue
            if lo > at:
                out.append((at, lo))
            at = max(at, hi)
        if at < b:
            out.append((at, b))
    return [r for r in out if r[1] - r[0] > -1e-9]


def _intervals(contour: Contour, clear: float, tightest: float, straight_only: bool) -> list[Stretch]:
    """Stretches (start, end along the contour) where a tab's middle may lie ``clear`` mm from each end of its
    segment.
    """
    out = []
    for s, begin in zip(contour.segments(), contour.starts[:-1], strict=True):
        if s.bulge:
            radius = s.length / abs(4 * math.atan(s.bulge))
            if straight_only or radius < tightest:
                continue
        if s.length > 2 * clear:
            out.append((float(begin) + clear, float(begin) + s.length - clear))
    if len(contour.vertices) == 2 and not straight_only and contour.vertices[0, 2] and len(out) == 2:
        return [(0.0, contour.length)]  # a full circle has no corners
    return out


def place_tabs(
    contour: Contour,
    count: int,
    width: float,
    diameter: float,
    shy: Shy = Shy(),
    blocked: Sequence[Stretch] = (),
    loaded: Sequence[float] = (),
) -> list[float]:
    """Distances along a closed contour for ``count`` tabs, spread as evenly as the runs allow.

    Args:
        contour: the part's own contour.
        count: how many are wanted; fewer come back where there is no room.
        width: of the tab along the cut, mm.
        diameter: of the cutter, mm: the cutter lifts over ``width + diameter``.
        shy: where tabs go only if nothing better has room.
        blocked: stretches that face another piece's cut: a tab there holds nothing.
        loaded: distances along the contour of ends that need a tab near.

    A tab's middle stays half that lift plus 2 mm away from each end of its run. Straight runs clear of fine
    detail, bays and end grain are used first; then end grain; then arcs of at least FLAT_RADIUS; then bays,
    fine detail and any arc.
    """
    if count <= 0:
        return []
    lift = width + diameter
    clear = lift / 2 + CLEAR
    total = contour.length
    fine, bays, grain = shy.fine, shy.bays, shy.end_grain
    tiers: tuple[tuple[float, bool, tuple[Stretch, ...]], ...] = (
        (0, True, (*fine, *bays, *grain)),
        (0, True, (*fine, *bays)),
        (FLAT_RADIUS, False, (*fine, *bays)),
        (0, True, fine),
        (FLAT_RADIUS, False, fine),
        (0, True, ()),
        (FLAT_RADIUS, False, ()),
        (width, False, ()),
    )
    runs: list[Stretch] = []

    def room(of: list[Stretch]) -> int:
        return sum(int((b - a) // (2 * lift)) + 1 for a, b in of)

    for tightest, straight_only, away in tiers:
        whole = _intervals(contour, clear, tightest, straight_only)
        runs = outside_of(outside_of(whole, away, width / 2, total), blocked, width / 2 + CLEAR, total)
        if room(runs) >= count:
            break
    else:
        runs = runs or outside_of(_intervals(contour, width / 2, width / 2, False), blocked, width / 2, total)
        count = min(count, room(runs))
    if not runs or count == 0:
        return []
    from venzo.core.holding.tabs_kernel import spread  # here, since its compiler is dear to load

    lo, hi = np.array(runs, dtype=float).reshape(-1, 2).T.copy()
    return [float(s) for s in spread(lo, hi, total, count, 2 * lift, np.array(loaded, dtype=float))]


def loaded_ends(contour: Contour) -> list[float]:
    """Distances along an outline of the two ends of a long thin part (length at least three times its mean
    width): they chatter without a tab near.
    """
    points = contour.points(0.2)
    hull = Polygon(points).buffer(0)
    rect = hull.minimum_rotated_rectangle
    if rect.geom_type != "Polygon":
        return []
    c = np.array(rect.exterior.coords[:4])
    a, b = c[1] - c[0], c[2] - c[1]
    long_side = a if np.hypot(*a) >= np.hypot(*b) else b
    length = float(np.hypot(*long_side))
    if length < 3 * hull.area / max(length, 1e-9):
        return []
    along = points @ (long_side / length)
    return [
        contour.nearest(*points[int(np.argmin(along))])[0],
        contour.nearest(*points[int(np.argmax(along))])[0],
    ]


def on_detail(contour: Contour, x: float, y: float, width: float) -> float | None:
    """Width (mm) of the part behind a tab at (x, y), where it is narrower than FINE tab widths; None where it
    is wide enough.

    The largest disc that lies in the part and touches it there.
    """
    solid = Polygon(contour.points(0.05)).buffer(0)
    s, _away = contour.nearest(x, y)
    px, py, tx, ty = contour.at(s)
    inward = 1.0 if contour.area > 0 else -1.0
    nx, ny = -ty * inward, tx * inward
    limit = FINE * width
    low, high = 0.0, limit / 2
    edge = solid.boundary
    if edge.distance(shapely.Point(px + nx * high, py + ny * high)) >= high - 0.05 and solid.contains(
        shapely.Point(px + nx * high, py + ny * high)
    ):
        return None
    for _ in range(24):
        r = (low + high) / 2
        inside = edge.distance(shapely.Point(px + nx * r, py + ny * r)) >= r - 0.02
        low, high = (r, high) if inside else (low, r)
    return 2 * low
