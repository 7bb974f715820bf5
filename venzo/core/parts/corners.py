"""Corners of a part: which are inside ones, how sharp, how round; and corners made round or relieved for a
round cutter.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from venzo.core.geometry.contour import Array, Contour, arc_of

ReliefStyle = Literal["dog-bone", "T-bone, long side", "T-bone, short side"]
NARROW = math.radians(89.5)
"""A corner under this is too narrow for a circle in it to be reached through its own mouth."""
TANGENT = 0.02
"""Radians; a smaller change of direction is no corner."""


@dataclass(frozen=True)
class Corner:
    """A sharp corner between two straight lines: vertex index, place, angle of the waste in it (degrees;
    inside corners under 180).
    """

    index: int
    x: float
    y: float
    inside: bool
    angle: float


@dataclass(frozen=True)
class Fillet:
    """A rounded corner between two straight lines, tangent to both: index of the arc's first vertex, middle,
    radius.
    """

    index: int
    x: float
    y: float
    inside: bool
    radius: float


def _turn(a: np.ndarray, b: np.ndarray) -> float:
    return math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b))


def corners(contour: Contour, hole: bool) -> list[Corner]:
    """Sharp corners between straight lines. A corner is inside where the part lies on its reflex side: a
    round cutter cannot reach into it.
    """
    c = contour.oriented(not hole)  # the part lies on the left
    v = c.vertices
    out = []
    flip = c is not contour
    n = len(v)
    for i in range(n):
        j = (i - 1) % n
        if v[j, 2] or v[i, 2]:
            continue
        a, b = v[i, :2] - v[j, :2], v[(i + 1) % n, :2] - v[i, :2]
        w = _turn(a, b)
        if abs(w) < TANGENT or min(np.hypot(*a), np.hypot(*b)) < 1e-6:
            continue
        # turning right with the part on the left: the waste angle is under 180 degrees
        index = (n - 1 - i) % n if flip else i
        out.append(
            Corner(
                index,
                float(v[i, 0]),
                float(v[i, 1]),
                w < 0,
                180 - math.degrees(abs(w)) if w < 0 else 180 + math.degrees(abs(w)),
            )
        )
    return out


def fillets(contour: Contour, hole: bool) -> list[Fillet]:
    """Arcs that round the corner between two straight lines."""
    v = contour.vertices
    out = []
    n = len(v)
    ccw = contour.area > 0
    if n < 4:
        return []
    for i in range(n):
        j, k = (i - 1) % n, (i + 1) % n
        if not v[i, 2] or v[j, 2] or v[k, 2] or abs(v[i, 2]) > 0.999:
            continue
        _cx, _cy, r, start, sweep = arc_of(v[i], v[k], v[i, 2])
        side = math.copysign(1, sweep)
        t0 = np.array([-math.sin(start), math.cos(start)]) * side
        t1 = np.array([-math.sin(start + sweep), math.cos(start + sweep)]) * side
        if (
            abs(_turn(v[i, :2] - v[j, :2], t0)) > TANGENT
            or abs(_turn(t1, v[(k + 1) % n, :2] - v[k, :2])) > TANGENT
        ):
            continue
        solid_left = ccw != hole  # does the part lie on the left of the travel?
        inside = (sweep < 0) == solid_left
        mid = contour.segments()[i].at(0.5)
        out.append(Fillet(i, mid[0], mid[1], inside, r))
    return out


def smallest_inside_radius(contour: Contour, hole: bool) -> float | None:
    """Radius (mm) of the tightest inside corner or curve: 0 for a sharp inside corner, None where the contour
    has none.
    """
    if any(k.inside for k in corners(contour, hole)):
        return 0.0
    c = contour.oriented(not hole)
    found = []
    for s in c.segments():
        if s.bulge < 0:  # the part on the left, the curve turns right: hollow
            found.append(arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[2])
    return min(found, default=None)


def left_in_corner(radius: float, angle: float) -> float:
    """mm from a sharp inside corner of an angle (degrees) to the nearest point that a cutter of this radius
    reaches: R (1 / sin(a / 2) - 1).

    >>> round(left_in_corner(3, 90), 4)
    1.2426
    """
    return radius * (1 / math.sin(math.radians(angle) / 2) - 1)


def rounded(contour: Contour, index: int, radius: float) -> Contour | None:
    """The contour with the sharp corner at vertex ``index`` rounded; None where the neighbouring lines are
    too short.
    """
    v = contour.vertices
    n = len(v)
    j, k = (index - 1) % n, (index + 1) % n
    p, q, r = v[j, :2], v[index, :2], v[k, :2]
    a, b = q - p, r - q
    la, lb = float(np.hypot(*a)), float(np.hypot(*b))
    w = _turn(a, b)
    t = radius * math.tan(abs(w) / 2)
    if t > la + 1e-9 or t > lb + 1e-9:
        return None
    first, second = q - a / la * t, q + b / lb * t
    new = np.vstack([v[:index], [[*first, math.tan(w / 4)], [*second, 0.0]], v[index + 1 :]])
    return Contour.of(new, True, contour.layer)


def refilleted(contour: Contour, index: int, radius: float) -> Contour | None:
    """The contour with the fillet whose arc starts at vertex ``index`` at another radius; None where there is
    no room.
    """
    v = contour.vertices
    n = len(v)
    j, k, m = (index - 1) % n, (index + 1) % n, (index + 2) % n
    p, d = v[j, :2], v[index, :2] - v[j, :2]
    q, e = v[m, :2], v[k, :2] - v[m, :2]
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 1e-12:
        return None
    s = ((q - p)[0] * e[1] - (q - p)[1] * e[0]) / cross
    keep = [i for i in range(n) if i != k]
    sharp = v.copy()
    sharp[index] = [*(p + d * s), 0.0]
    return rounded(Contour(sharp[keep], True, contour.layer), keep.index(index), radius)


def relieved(contour: Contour, corner: Corner, radius: float, style: ReliefStyle) -> Contour | None:
    """The contour with a round relief in an inside corner, so that a square corner seats although the cutter
    is round.

    The circle of ``radius`` passes through the corner: its middle lies on the bisector (dog-bone), or on the
    longer or shorter of the two sides (T-bone). In an acute corner its mouth, 2 R sin of the corner, is
    narrower than the circle: the way in is widened to that. None where a side is too short for it.
    """
    v = contour.vertices
    n = len(v)
    i = corner.index
    q = v[i, :2]
    back, ahead = v[(i - 1) % n, :2] - q, v[(i + 1) % n, :2] - q
    lb, la = float(np.hypot(*back)), float(np.hypot(*ahead))
    u, w = back / lb, ahead / la
    angle = math.radians(corner.angle)
    if style == "dog-bone":
        toward = u + w
        centre = q + toward / np.hypot(*toward) * radius
        reach_b = reach_a = 2 * radius * math.cos(angle / 2)
    else:
        on_back = (lb >= la) == (style == "T-bone, long side")
        centre = q + (u if on_back else w) * radius
        other = max(0.0, 2 * radius * math.cos(angle))
        reach_b, reach_a = (2 * radius, other) if on_back else (other, 2 * radius)
    if angle < NARROW:
        return _widened(contour, Wedge(i, q, (u, w), (lb, la), angle), centre, radius)
    if reach_b > lb + 1e-9 or reach_a > la + 1e-9:
        return None
    a, b = q + u * reach_b, q + w * reach_a
    start, end = math.atan2(*(a - centre)[::-1]), math.atan2(*(b - centre)[::-1])
    sweep = (end - start) % (2 * math.pi)
    # of the two ways from a to b the arc takes the one whose middle lies less far out in the waste
    middle = start + sweep / 2
    if math.cos(middle) * (u + w)[0] + math.sin(middle) * (u + w)[1] > 0:
        sweep -= 2 * math.pi
    if abs(sweep) < 1e-9:
        return None
    rows = []
    parts = 2 if abs(sweep) > math.pi - 1e-9 else 1
    for k in range(parts):
        t = start + sweep * k / parts
        at = a if k == 0 else centre + radius * np.array([math.cos(t), math.sin(t)])
        rows.append([*at, math.tan(sweep / parts / 4)])
    rows.append([*b, v[i, 2]])
    return Contour.of(np.vstack([v[:i], rows, v[i + 1 :]]), True, contour.layer)


def relieved_end(
    contour: Contour, first: Corner, second: Corner, radius: float, style: ReliefStyle
) -> Contour | None:
    """The contour with both corners of a narrow end relieved at once, where the side between them (from
    ``first`` to ``second``) is too short for one relief beside the other: their circles run into each other.
    None: they do not, or a side beside them is too short.
    """
    circles = [_circle_in(contour, c, radius, style) for c in (first, second)]
    v = np.roll(contour.vertices, -first.index, axis=0)  # the end is its first side
    if v[0, 2] or any(c is None for c in circles):
        return None
    (c1, back, _ahead1), (c2, _back2, ahead) = (c for c in circles if c is not None)
    before, after = v[-1, :2] - v[0, :2], v[2, :2] - v[1, :2]
    u, w = before / np.hypot(*before), after / np.hypot(*after)
    gap = c2 - c1
    d = float(np.hypot(*gap))
    if not 1e-6 < d < 2 * radius or back > np.hypot(*before) + 1e-9 or ahead > np.hypot(*after) + 1e-9:
        return None
    middle, across, inwards = (c1 + c2) / 2, np.array([-gap[1], gap[0]]) / d, (u + w) / np.hypot(*(u + w))
    off = math.sqrt(radius**2 - d**2 / 4)
    x = min((middle + across * off, middle - across * off), key=lambda p: float((p - middle) @ inwards))
    if (x - v[0, :2]) @ inwards > 1e-9:
        return None  # there is room between them
    a, b = v[0, :2] + u * back, v[1, :2] + w * ahead
    rows = [
        [*a, _bulge(c1, a, x, c1 - inwards * radius)],
        [*x, _bulge(c2, x, b, c2 - inwards * radius)],
        [*b, float(v[1, 2])],
    ]
    return Contour.of(np.vstack([rows, v[2:]]), True, contour.layer)


def _circle_in(
    contour: Contour, corner: Corner, radius: float, style: ReliefStyle
) -> tuple[Array, float, float] | None:
    """Middle of a relief's circle in a corner that is wide enough for it, and how far it reaches along the
    sides back and ahead, mm.
    """
    angle = math.radians(corner.angle)
    if angle < NARROW:
        return None
    v, i = contour.vertices, corner.index
    n, q = len(v), v[i, :2]
    back, ahead = v[(i - 1) % n, :2] - q, v[(i + 1) % n, :2] - q
    lb, la = float(np.hypot(*back)), float(np.hypot(*ahead))
    u, w = back / lb, ahead / la
    if style == "dog-bone":
        toward = u + w
        reach = 2 * radius * math.cos(angle / 2)
        return q + toward / np.hypot(*toward) * radius, reach, reach
    other = max(0.0, 2 * radius * math.cos(angle))
    on_back = (lb >= la) == (style == "T-bone, long side")
    return q + (u if on_back else w) * radius, *((2 * radius, other) if on_back else (other, 2 * radius))


@dataclass(frozen=True)
class Wedge:
    """An inside corner: vertex index, its point, directions and lengths of the sides back and ahead, mm, and
    its angle, radians.
    """

    index: int
    point: Array
    sides: tuple[Array, Array]
    lengths: tuple[float, float]
    angle: float


def _widened(contour: Contour, corner: Wedge, centre: Array, radius: float) -> Contour | None:
    """A relief in an acute corner with the way to it: the circle swept to its place from where it touches
    both sides. None where a side ends before.
    """
    (u, w), q = corner.sides, corner.point
    toward = u + w
    touching = q + toward / np.hypot(*toward) * radius / math.sin(corner.angle / 2)
    way = touching - centre
    across = np.array([-way[1], way[0]]) / np.hypot(*way) * radius
    across = across if across @ u > across @ w else -across  # the side from which the contour comes
    ends = [
        _onto(q, side, length, centre + off, way, (centre, radius))
        for side, length, off in ((u, corner.lengths[0], across), (w, corner.lengths[1], -across))
    ]
    if any(e is None for e in ends):
        return None
    (a, first), (b, last) = (e for e in ends if e is not None)
    rows = [[*a, 0.0]] if np.hypot(*(first - a)) > 1e-9 else []
    rows.append([*first, _bulge(centre, first, last, q)])
    if np.hypot(*(last - b)) > 1e-9:
        rows.append([*last, 0.0])
    rows.append([*b, float(contour.vertices[corner.index, 2])])
    v = contour.vertices
    return Contour.of(np.vstack([v[: corner.index], rows, v[corner.index + 1 :]]), True, contour.layer)


def _onto(
    q: Array, side: Array, length: float, start: Array, way: Array, circle: tuple[Array, float]
) -> tuple[Array, Array] | None:
    """Where the border of a swept circle comes onto a side from q, and where it leaves the circle at its end:
    along the line from ``start``, or on the circle itself where that lies within the wedge already. None: the
    side ends before.
    """
    cross = way[0] * side[1] - way[1] * side[0]
    t = ((q - start)[0] * side[1] - (q - start)[1] * side[0]) / cross if abs(cross) > 1e-12 else -1.0
    if 0 < t <= 1 + 1e-9:
        at, leaves = start + way * t, start
    else:
        (middle, radius), along = circle, float((circle[0] - q) @ side)
        off = float(np.hypot(*(middle - q - side * along)))
        at = leaves = q + side * (along + math.sqrt(max(0.0, radius**2 - off**2)))
    return (at, leaves) if float((at - q) @ side) <= length + 1e-9 else None


def _bulge(middle: Array, start: Array, end: Array, corner: Array) -> float:
    """Bulge of the arc about a middle from one point to another by way of a third on its circle."""
    a, b, k = (math.atan2(*(p - middle)[::-1]) for p in (start, end, corner))
    sweep = (b - a) % (2 * math.pi)
    if (k - a) % (2 * math.pi) > sweep:
        sweep -= 2 * math.pi
    return math.tan(sweep / 4)
