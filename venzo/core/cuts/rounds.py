"""Round features and slots: drilling by pecks, boring along a helix, running a slot as wide as the cutter."""

from __future__ import annotations

import math

from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array, Contour, arc_of
from venzo.core.tolerances import FIT

CLEAR = 0.5
"""mm above the last peck at which slow feed begins again."""


def circle_of(contour: Contour, tolerance: float = 0.02) -> tuple[float, float, float] | None:
    """Centre and radius (mm) of a contour that is a circle, however many arcs it has; else None."""
    if not contour.closed or len(contour.vertices) > 8 or not contour.vertices[:, 2].all():
        return None
    found = [arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[:3] for s in contour.segments()]
    x, y, r = (sum(v) / len(found) for v in zip(*found, strict=True))
    if any(math.dist((x, y), f[:2]) > tolerance or abs(f[2] - r) > tolerance for f in found):
        return None
    return (x, y, r) if abs(abs(contour.area) - math.pi * r * r) < 4 * tolerance * r + 1e-9 else None


def peck_depths(depth: float, peck: float) -> list[float]:
    """Depths of equal pecks, negative.

    >>> peck_depths(10, 4)
    [-3.3333333333333335, -6.666666666666667, -10.0]
    """
    n = max(1, math.ceil(depth / peck - 1e-9))
    return [-depth * (k + 1) / n for k in range(n)]


def drill_moves(x: float, y: float, depth: float, peck: float, track: Track, dwell: float = 0.0) -> Array:
    """Down by pecks, out of the hole between them to clear the chips; ``dwell``: seconds that it stands at
    the bottom of each.
    """
    track.over(x, y)
    done = 0.0
    depths = peck_depths(depth, peck)
    for k, z in enumerate(depths):
        if k:
            track.down(min(0.0, done + CLEAR), track.feed)
        track.down(z, track.plunge)
        track.dwell(dwell)
        if k < len(depths) - 1:
            track.down(track.retract, track.feed)
        done = z
    return track.array()


def bore_moves(
    x: float,
    y: float,
    radius: float,
    cutter_radius: float,
    levels: tuple[float, ...],
    pitch: float,
    climb: bool,
    track: Track,
) -> Array:
    """Down a helix to the last level, once round at the floor, in to the middle and out. ``radius`` is the
    hole's.
    """
    turn = radius - cutter_radius
    depth = -levels[-1]
    turns = max(1, math.ceil(depth / pitch - 1e-9))
    track.over(x + turn, y)
    track.down(0.0)
    drop = depth / turns
    slope = math.hypot(2 * math.pi * turn, drop) / drop
    feed = min(track.feed, max(track.plunge, track.plunge * slope))
    for k in range(2 * turns + 2):
        side = -1 if k % 2 == 0 else 1
        track.arc(
            climb,
            x + side * turn,
            y,
            x,
            y,
            max(-depth, -drop * (k + 1) / 2),
            feed if k < 2 * turns else track.feed,
        )
    track.line(x + turn - min(turn, 0.5), y)
    return track.array()


SLENDER = 8.0
"""Half the way round over the mean width (twice the area over the way round): a rectangle six times as long
as wide.
"""


def slender(contour: Contour) -> bool:
    """Is a closed contour as long and narrow as a groove drawn by its edges?

    >>> [slender(Contour.of([(0, 0), (long, 0), (long, 20), (0, 20)])) for long in (20, 60, 150)]
    [False, False, True]
    """
    return contour.length**2 / 4 >= SLENDER * abs(contour.area)


def slot_line(contour: Contour, diameter: float) -> Contour | None:
    """Centre line of a slot (rectangle or obround) as wide as the cutter within FIT, from end to end of the
    cutter's travel; else None.
    """
    if not contour.closed or len(contour.vertices) > 8:
        return None
    segs = contour.segments()
    straight = [s for s in segs if not s.bulge]
    for k, a in enumerate(straight):
        ax, ay = (a.x1 - a.x0) / a.length, (a.y1 - a.y0) / a.length
        for b in straight[k + 1 :]:
            bx, by = (b.x1 - b.x0) / b.length, (b.y1 - b.y0) / b.length
            if abs(ax * by - ay * bx) > 1e-3 or ax * bx + ay * by > 0:
                continue
            width = abs((b.x0 - a.x0) * -ay + (b.y0 - a.y0) * ax)
            if abs(width - diameter) > FIT:
                continue
            # along the sides: from end to end of the whole shape, less the cutter's radius
            along = [(v[0] - a.x0) * ax + (v[1] - a.y0) * ay for v in contour.points(0.01)]
            across = ((b.x0 - a.x0) * -ay + (b.y0 - a.y0) * ax) / 2
            t0, t1 = min(along) + diameter / 2, max(along) - diameter / 2
            length_area = abs(contour.area) / width
            if t1 - t0 < 0.1 or length_area < (max(along) - min(along)) * 0.7:
                continue
            ox, oy = a.x0 - ay * across, a.y0 + ax * across
            return Contour.of([(ox + ax * t0, oy + ay * t0), (ox + ax * t1, oy + ay * t1)], closed=False)
    return None
