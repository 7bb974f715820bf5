"""A contour: a chain of lines and arcs, open or closed, kept as vertices with bulge."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from venzo.core.tolerances import CHORD, SAME

Array = NDArray[np.float64]
MOST_CHORDS = 20_000
"""Chords of one arc: a circle of a kilometre still keeps within 0.01 mm, larger ones must not cost absurd
time.
"""
SMALL = 12
"""Contours of at most so many vertices are measured in plain Python."""
FLAT = 1e-9
"""A smaller bulge is a straight line: over 10 m it would belly out by 5 nanometres."""


def arc_of(a: Sequence[float], b: Sequence[float], bulge: float) -> tuple[float, float, float, float, float]:
    """Centre x, centre y, radius, start angle and signed sweep (radians) of the arc from ``a`` to ``b``.

    ``bulge`` is the tangent of a quarter of the arc's angle, positive counter-clockwise, as DXF
    defines it; it must not be 0.

    >>> cx, cy, r, start, sweep = arc_of((1, 0), (0, 1), math.tan(math.pi / 8))
    >>> round(cx, 9) + 0.0, round(cy, 9) + 0.0, round(r, 9), round(sweep / math.pi, 9)
    (0.0, 0.0, 1.0, 0.5)
    """
    dx, dy = b[0] - a[0], b[1] - a[1]
    k = (1.0 - bulge * bulge) / (4.0 * bulge)
    cx = (a[0] + b[0]) / 2 - dy * k
    cy = (a[1] + b[1]) / 2 + dx * k
    return cx, cy, math.hypot(a[0] - cx, a[1] - cy), math.atan2(a[1] - cy, a[0] - cx), 4.0 * math.atan(bulge)


@dataclass(frozen=True)
class Segment:
    """One line (bulge 0) or arc of a contour, with its length in mm."""

    x0: float
    y0: float
    x1: float
    y1: float
    bulge: float
    length: float

    def at(self, t: float) -> tuple[float, float, float, float]:
        """Point and unit direction of travel (x, y, dx, dy) at the share ``t`` of the length."""
        if self.bulge == 0.0:
            n = self.length or 1.0
            dx, dy = self.x1 - self.x0, self.y1 - self.y0
            return self.x0 + dx * t, self.y0 + dy * t, dx / n, dy / n
        cx, cy, r, start, sweep = arc_of((self.x0, self.y0), (self.x1, self.y1), self.bulge)
        angle, turn = start + sweep * t, math.copysign(1.0, sweep)
        c, s = math.cos(angle), math.sin(angle)
        return cx + r * c, cy + r * s, -s * turn, c * turn

    def part(self, t0: float, t1: float) -> Segment:
        """The piece of this segment between two shares of its length."""
        a = (self.x0, self.y0) if t0 <= 0 else self.at(t0)[:2]
        b = (self.x1, self.y1) if t1 >= 1 else self.at(t1)[:2]
        bulge = math.tan(math.atan(self.bulge) * (t1 - t0)) if self.bulge else 0.0
        return Segment(*a, *b, bulge, self.length * (t1 - t0))


@dataclass(frozen=True, eq=False)
class Contour:
    """Vertices ``(n, 3)``: x, y (mm) and the bulge of the segment that leaves the vertex.

    A closed contour does not repeat its first vertex; the last vertex's bulge then belongs to the
    closing segment. In an open contour the last bulge means nothing and is 0.
    """

    vertices: Array
    closed: bool = True
    layer: str = field(default="", compare=False)

    @staticmethod
    def of(points: Iterable[Sequence[float]], closed: bool = True, layer: str = "") -> Contour:
        """A contour from ``(x, y)`` or ``(x, y, bulge)`` rows; a repeated closing vertex is dropped."""
        rows = [
            (float(p[0]), float(p[1]), float(p[2]) if len(p) > 2 and abs(p[2]) > FLAT else 0.0)
            for p in points
        ]
        if closed and len(rows) > 1 and math.dist(rows[0][:2], rows[-1][:2]) < SAME:
            rows.pop()
        return Contour(np.array(rows, dtype=float).reshape(-1, 3), closed, layer)

    @staticmethod
    def circle(cx: float, cy: float, r: float, layer: str = "") -> Contour:
        """A full circle, counter-clockwise, as two half arcs."""
        return Contour(np.array([[cx + r, cy, 1.0], [cx - r, cy, 1.0]]), True, layer)

    def rows(self, digits: int = 6) -> list[list[float]]:
        """Rounded vertex rows for JSON; -0.0 is written 0.0."""
        return (np.round(self.vertices, digits) + 0.0).tolist()

    @cached_property
    def _rows(self) -> list[tuple[float, float, float, float, float]]:
        """Segments of a small contour as plain numbers: numpy costs more than it saves there."""
        v = self.vertices.tolist()
        nxt = v[1:] + v[:1] if self.closed else v[1:]
        return [(a[0], a[1], b[0], b[1], a[2]) for a, b in zip(v, nxt, strict=False)]

    @cached_property
    def _ends(self) -> tuple[Array, Array, Array]:
        v = self.vertices
        if self.closed:
            return v[:, :2], np.roll(v[:, :2], -1, axis=0), v[:, 2]
        return v[:-1, :2], v[1:, :2], v[:-1, 2]

    @cached_property
    def lengths(self) -> Array:
        """Length of every segment, mm."""
        if len(self.vertices) <= SMALL:
            return np.array([_length(*s) for s in self._rows])
        a, b, bulge = self._ends
        chord = np.hypot(*(b - a).T)
        quarter = np.arctan(np.abs(bulge))
        with np.errstate(divide="ignore", invalid="ignore"):
            arc = chord * 2 * quarter / np.sin(2 * quarter)
        return np.where(bulge == 0, chord, arc)

    @cached_property
    def starts(self) -> Array:
        """Distance along the contour at which every segment starts, with the total length last."""
        return np.concatenate([[0.0], np.cumsum(self.lengths)])

    @cached_property
    def length(self) -> float:
        """Total length, mm (arcs exact)."""
        return float(self.lengths.sum())

    @cached_property
    def area(self) -> float:
        """Signed area, mm2: positive counter-clockwise. Arcs are exact (circular segments added)."""
        if not self.closed or len(self.vertices) < 2:
            return 0.0
        if len(self.vertices) <= SMALL:
            ox, oy = self._rows[0][:2]
            total = 0.0
            for x0, y0, x1, y1, k in self._rows:
                total += ((x0 - ox) * (y1 - oy) - (y0 - oy) * (x1 - ox)) / 2
                if k:
                    w = 4 * math.atan(k)
                    r = math.hypot(x1 - x0, y1 - y0) / (2 * math.sin(abs(w) / 2))
                    total += r * r * (w - math.sin(w)) / 2
            return total
        a, b, bulge = self._ends
        shift = a[0]
        p, q = a - shift, b - shift
        area = float(np.sum(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]) / 2)
        arcs = bulge != 0
        if arcs.any():
            w = 4 * np.arctan(bulge[arcs])
            chord = np.hypot(*(b - a)[arcs].T)
            r = chord / (2 * np.sin(np.abs(w) / 2))
            area += float(np.sum(r * r * (w - np.sin(w)) / 2))
        return area

    @cached_property
    def bbox(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 with the bellies of arcs."""
        v = self.vertices
        if not v[:, 2].any():
            x0, y0 = v[:, :2].min(axis=0).tolist()
            x1, y1 = v[:, :2].max(axis=0).tolist()
            return x0, y0, x1, y1
        pts = [v[:, :2]]
        for s in self.segments():
            if s.bulge:
                cx, cy, r, start, sweep = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)
                for k in range(4):
                    turn = (k * math.pi / 2 - start) * math.copysign(1, sweep) % (2 * math.pi)
                    if turn < abs(sweep):
                        pts.append(
                            np.array(
                                [[cx + r * math.cos(k * math.pi / 2), cy + r * math.sin(k * math.pi / 2)]]
                            )
                        )
        p = np.concatenate(pts)
        return float(p[:, 0].min()), float(p[:, 1].min()), float(p[:, 0].max()), float(p[:, 1].max())

    @cached_property
    def _segments(self) -> tuple[Segment, ...]:
        a, b, bulge = self._ends
        rows = np.column_stack([a, b, bulge, self.lengths]).tolist()
        return tuple(Segment(*row) for row in rows)

    def segments(self) -> tuple[Segment, ...]:
        """Every segment in order of travel."""
        return self._segments

    def at(self, s: float) -> tuple[float, float, float, float]:
        """Point and unit direction (x, y, dx, dy) at the distance ``s`` along; closed contours wrap."""
        total = self.length
        s = s % total if self.closed else min(max(s, 0.0), total)
        i = min(int(np.searchsorted(self.starts, s, side="right")) - 1, len(self.lengths) - 1)
        seg = self._segments[i]
        return seg.at((s - self.starts[i]) / seg.length if seg.length else 0.0)

    def walk(self, s0: float, s1: float) -> Iterator[Segment]:
        """Segments between two distances along a closed contour, ``s1`` > ``s0``; may go round often."""
        total, n = self.length, len(self.lengths)
        lap, s = divmod(s0, total)
        i = min(int(np.searchsorted(self.starts, s, side="right")) - 1, n - 1)
        base = lap * total
        while True:
            begin, end = base + self.starts[i], base + self.starts[i + 1]
            if begin >= s1 - SAME:
                return
            t0 = max(0.0, (s0 - begin) / self.lengths[i]) if self.lengths[i] else 0.0
            t1 = min(1.0, (s1 - begin) / self.lengths[i]) if self.lengths[i] else 1.0
            if (t1 - t0) * self.lengths[i] > SAME:
                seg = self._segments[i]
                yield seg if t0 <= 0 and t1 >= 1 else seg.part(t0, t1)
            if end >= s1 - SAME:
                return
            i += 1
            if i == n:
                i, base = 0, base + total

    def points(self, chord: float = CHORD, circumscribed: int = 0) -> Array:
        """The contour as points ``(n, 2)``, arcs replaced by chords.

        The polygon differs from each arc by at most ``chord`` mm. With ``circumscribed`` 0 the points lie
        on the contour (chords inside convex arcs); +1 puts the polygon outside arcs that bulge out of
        a counter-clockwise contour and leaves hollow arcs inscribed, so that the solid polygon contains the
        true region; -1 does the reverse.
        """
        if not self.vertices[:, 2].any():
            return self.vertices[:, :2].copy()
        if len(self.vertices) > SMALL and not circumscribed:
            return self._points(chord)
        out: list[tuple[float, float]] = []
        for s in self._segments:
            out.append((s.x0, s.y0))
            if not s.bulge:
                continue
            cx, cy, r, start, sweep = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)
            half = 2 * math.acos(max(0.0, 1 - chord / r)) if r > chord else math.pi / 2
            n = min(MOST_CHORDS, max(2, math.ceil(abs(sweep) / max(half, 1e-7))))
            if circumscribed and math.copysign(1, s.bulge) == circumscribed:
                step = sweep / n
                big = r / math.cos(step / 2)
                angles = [start + step * (k + 0.5) for k in range(n)]
                out.extend((cx + big * math.cos(w), cy + big * math.sin(w)) for w in angles)
            else:
                out.extend(
                    (cx + r * math.cos(start + sweep * k / n), cy + r * math.sin(start + sweep * k / n))
                    for k in range(1, n)
                )
        if not self.closed:
            out.append((float(self.vertices[-1, 0]), float(self.vertices[-1, 1])))
        return np.array(out)

    def _points(self, chord: float) -> Array:
        """Inscribed ``points`` of a contour of many segments."""
        a, _b, bulge = self._ends
        centre, radius, start, sweep = self._arcs
        with np.errstate(divide="ignore", invalid="ignore"):
            half = np.where(radius > chord, 2 * np.arccos(np.maximum(0.0, 1 - chord / radius)), math.pi / 2)
        n = np.where(
            bulge != 0, np.clip(np.ceil(np.abs(sweep) / np.maximum(half, 1e-7)), 2, MOST_CHORDS), 1
        ).astype(int)
        seg = np.repeat(np.arange(len(n)), n)
        k = np.arange(len(seg)) - np.repeat(np.cumsum(n) - n, n)
        w = start[seg] + sweep[seg] * k / n[seg]
        turned = centre[seg] + radius[seg, None] * np.column_stack([np.cos(w), np.sin(w)])
        out = np.where((k > 0)[:, None], turned, a[seg])
        return out if self.closed else np.vstack([out, self.vertices[-1:, :2]])

    def reversed_at(self, s: float) -> float:
        """Distance along the reversed closed contour of the place at distance ``s`` along this one (it starts
        at this one's last vertex).

        >>> c = Contour.of([(0, 0), (4, 0), (4, 3)])
        >>> [float(v) for v in c.reversed().at(c.reversed_at(1.0))[:2]]
        [1.0, 0.0]
        """
        return (self.length - float(self.lengths[-1]) - s) % self.length

    def reversed(self) -> Contour:
        """The same contour travelled the other way."""
        v = self.vertices[::-1].copy()
        b = -v[:, 2]
        v[:-1, 2] = b[1:]
        v[-1, 2] = b[0] if self.closed else 0.0
        out = Contour(v, self.closed, self.layer)
        known = self.__dict__
        if "bbox" in known:
            out.__dict__["bbox"] = known["bbox"]
        if "area" in known:
            out.__dict__["area"] = -known["area"]
        if "lengths" in known:
            n = known["lengths"]
            out.__dict__["lengths"] = np.concatenate([n[-2::-1], n[-1:]]) if self.closed else n[::-1]
        return out

    def oriented(self, counter_clockwise: bool = True) -> Contour:
        """This contour or its reverse, whichever has the wanted direction."""
        return self if (self.area > 0) == counter_clockwise else self.reversed()

    def scaled(self, k: float) -> Contour:
        """Scaled evenly about the origin."""
        return Contour(self.vertices * np.array([k, k, 1.0]), self.closed, self.layer)

    def moved(self, dx: float, dy: float) -> Contour:
        """Shifted by (dx, dy) mm."""
        out = Contour(self.vertices + np.array([dx, dy, 0.0]), self.closed, self.layer)
        known = self.__dict__
        for same in ("area", "lengths", "starts", "length"):
            if same in known:
                out.__dict__[same] = known[same]
        if "bbox" in known:
            x0, y0, x1, y1 = known["bbox"]
            out.__dict__["bbox"] = (x0 + dx, y0 + dy, x1 + dx, y1 + dy)
        return out

    def placed(self, x: float, y: float, rotation: float = 0.0, mirrored: bool = False) -> Contour:
        """Mirrored (x -> -x) if asked, rotated counter-clockwise by degrees about the origin, moved by (x,
        y).
        """
        v = self.vertices.copy()
        if mirrored:
            v[:, 0] *= -1
            v[:, 2] *= -1
        v[:, :2] = v[:, :2] @ rotation_matrix(rotation).T + (x, y)
        return Contour(v, self.closed, self.layer)

    def from_start(self, index: int) -> Contour:
        """The closed contour with another first vertex."""
        return Contour(np.roll(self.vertices, -index, axis=0), True, self.layer)

    def simplified(self, tolerance: float = SAME) -> Contour:
        """Without zero-length segments, and with collinear lines and arcs of one circle merged.

        A full circle comes back as two half arcs from its rightmost point.
        """
        segs = [s for s in self._segments if s.length > tolerance]
        if not segs:
            return self
        circle = _full_circle(segs, tolerance) if self.closed else None
        if circle:
            c = Contour.circle(*circle, layer=self.layer)
            return c if self.area > 0 else c.reversed()
        merged = [segs[0]]
        for s in segs[1:]:
            joined = _merge(merged[-1], s, tolerance)
            if joined:
                merged[-1] = joined
            else:
                merged.append(s)
        if self.closed and len(merged) > 2:
            joined = _merge(merged[-1], merged[0], tolerance)
            if joined:
                merged = [joined, *merged[1:-1]]
        rows = [(s.x0, s.y0, s.bulge) for s in merged]
        if not self.closed:
            rows.append((merged[-1].x1, merged[-1].y1, 0.0))
        return Contour.of(rows, self.closed, self.layer)

    def nearest(self, x: float, y: float) -> tuple[float, float]:
        """Distance along the contour of the point nearest to (x, y), and how far away it is (mm)."""
        if len(self.vertices) > SMALL:
            return self._nearest(x, y)
        best = (0.0, math.inf)
        for s, begin in zip(self._segments, self.starts[:-1], strict=True):
            if s.bulge == 0.0:
                dx, dy = s.x1 - s.x0, s.y1 - s.y0
                n = dx * dx + dy * dy
                t = min(1.0, max(0.0, ((x - s.x0) * dx + (y - s.y0) * dy) / n)) if n else 0.0
            else:
                cx, cy, _r, start, sweep = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)
                turn = math.atan2(y - cy, x - cx) - start
                turn = (turn * math.copysign(1, sweep)) % (2 * math.pi)
                if turn <= abs(sweep):
                    t = turn / abs(sweep)
                else:
                    t = 0.0 if math.dist((x, y), (s.x0, s.y0)) < math.dist((x, y), (s.x1, s.y1)) else 1.0
            px, py = s.at(t)[:2]
            d = math.hypot(px - x, py - y)
            if d < best[1]:
                best = (float(begin) + t * s.length, d)
        return best

    @cached_property
    def _arcs(self) -> tuple[Array, Array, Array, Array]:
        """Centre (n, 2), radius, start angle and sweep of every segment; zeros for lines."""
        a, b, bulge = self._ends
        arc = bulge != 0
        d = b - a
        k = np.where(arc, (1.0 - bulge * bulge) / np.where(arc, 4.0 * bulge, 1.0), 0.0)
        centre = (a + b) / 2 + np.column_stack([-d[:, 1] * k, d[:, 0] * k])
        rel = a - centre
        return (
            centre,
            np.hypot(rel[:, 0], rel[:, 1]),
            np.arctan2(rel[:, 1], rel[:, 0]),
            4.0 * np.arctan(bulge),
        )

    @cached_property
    def _measured(self) -> Array:
        """Every segment as ``nearest_kernel`` takes it."""
        a, b, bulge = self._ends
        centre, radius, start, sweep = self._arcs
        return np.column_stack([a, b, centre, radius, start, np.where(bulge != 0, sweep, 0.0)])

    def _nearest(self, x: float, y: float) -> tuple[float, float]:
        """``nearest`` for many segments at once."""
        from venzo.core.geometry import nearest_kernel  # the compiler is loaded when it is first needed

        return nearest_kernel.nearest(self._measured, self.starts, self.lengths, x, y)


def _length(x0: float, y0: float, x1: float, y1: float, bulge: float) -> float:
    chord = math.hypot(x1 - x0, y1 - y0)
    if not bulge:
        return chord
    quarter = math.atan(abs(bulge))
    return chord * 2 * quarter / math.sin(2 * quarter)


def rotation_matrix(degrees: float) -> Array:
    """2 x 2 counter-clockwise rotation; multiples of 90 degrees are exact.

    >>> rotation_matrix(90).tolist()
    [[0.0, -1.0], [1.0, 0.0]]
    """
    quarter = degrees / 90.0
    if quarter == round(quarter):
        c, s = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarter) % 4]
    else:
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([[c, -s], [s, c]])


def _circle_of(s: Segment) -> tuple[float, float, float]:
    return arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[:3]


def _full_circle(segs: list[Segment], tolerance: float) -> tuple[float, float, float] | None:
    if any(s.bulge == 0 for s in segs) or len({s.bulge > 0 for s in segs}) != 1:
        return None
    cx, cy, r = _circle_of(segs[0])
    for s in segs[1:]:
        x, y, q = _circle_of(s)
        if math.hypot(x - cx, y - cy) > tolerance or abs(q - r) > tolerance:
            return None
    if abs(sum(s.length for s in segs) - 2 * math.pi * r) > 10 * tolerance + 1e-9 * r:
        return None
    return cx, cy, r


def _merge(a: Segment, b: Segment, tolerance: float) -> Segment | None:
    """The one segment that stands for two that follow each other, or None."""
    if a.bulge == 0 and b.bulge == 0:
        dx, dy = b.x1 - a.x0, b.y1 - a.y0
        n = math.hypot(dx, dy)
        if n < max(a.length, b.length):  # turns back on itself
            return None
        off = abs((a.x1 - a.x0) * dy - (a.y1 - a.y0) * dx) / n
        return Segment(a.x0, a.y0, b.x1, b.y1, 0.0, n) if off <= tolerance else None
    if a.bulge * b.bulge <= 0:
        return None
    (ax, ay, ar), (bx, by, br) = _circle_of(a), _circle_of(b)
    if math.hypot(ax - bx, ay - by) > tolerance or abs(ar - br) > tolerance:
        return None
    quarter = math.atan(a.bulge) + math.atan(b.bulge)
    if abs(quarter) > math.pi / 4 + 1e-9:  # keep arcs to half a circle: the bulge stays well conditioned
        return None
    return Segment(a.x0, a.y0, b.x1, b.y1, math.tan(quarter), a.length + b.length)
