"""Laying moves one after the other: down, along, over, up."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from venzo.core.cuts.moves import CCW, CW, LINE, RAPID, along, row
from venzo.core.geometry.contour import Array, Contour, Segment
from venzo.core.tolerances import SAME


class Track:
    """A growing run of moves with Z 0 at the top of the stock; the first is the rapid to its start."""

    def __init__(self, retract: float, feed: float, plunge: float):
        self.retract, self.feed, self.plunge = retract, feed, plunge
        self.rows: list[list[float]] = []

    @property
    def at(self) -> tuple[float, float, float]:
        """Where the tip is."""
        if not self.rows:
            return math.nan, math.nan, math.nan
        x, y, z = self.rows[-1][1:4]
        return x, y, z

    def over(self, x: float, y: float) -> None:
        """Up to the retract height and across at rapid."""
        if self.rows and self.at[2] < self.retract - SAME:
            self.rows.append(row(RAPID, *self.at[:2], self.retract))
        if not self.rows or math.dist(self.at[:2], (x, y)) > SAME:
            self.rows.append(row(RAPID, x, y, self.retract))

    def down(self, z: float, feed: float | None = None) -> None:
        """Straight down (or up) at plunge feed."""
        if abs(self.at[2] - z) > SAME:
            self.rows.append(
                row(LINE, *self.at[:2], z, feed or (self.plunge if z < self.at[2] else self.feed))
            )

    def line(self, x: float, y: float, z: float | None = None, feed: float | None = None) -> None:
        """Straight to a point."""
        if math.dist(self.at, (x, y, self.at[2] if z is None else z)) > SAME:
            self.rows.append(row(LINE, x, y, self.at[2] if z is None else z, feed or self.feed))

    def arc(
        self,
        ccw: bool,
        x: float,
        y: float,
        cx: float,
        cy: float,
        z: float | None = None,
        feed: float | None = None,
    ) -> None:
        """Along an arc or a turn of a helix."""
        self.rows.append(
            row(CCW if ccw else CW, x, y, self.at[2] if z is None else z, feed or self.feed, cx, cy)
        )

    def follow(
        self, segments: Iterable[Segment], z0: float, z1: float, length: float, feed: float | None = None
    ) -> None:
        """Along segments of a total ``length``, the height going evenly from z0 to z1."""
        f = feed or self.feed
        if abs(z1 - z0) > SAME and length > 0 and z1 < z0:
            f = min(f, max(self.plunge, self.plunge * math.hypot(length, z1 - z0) / abs(z1 - z0)))
        done = 0.0
        for s in segments:
            done += s.length
            self.rows.append(along(s, z0 + (z1 - z0) * min(1.0, done / max(length, SAME)), f))

    def dwell(self, seconds: float) -> None:
        """Stand still: a move of no length whose feed is the time, negative (``moves.dwells``)."""
        if seconds > 0:
            self.rows.append(row(LINE, *self.at, -seconds))

    def array(self) -> Array:
        """The moves as an array ``(n, 7)``."""
        return np.array(self.rows)


def run(path: Contour, a: float, b: float) -> list[Segment]:
    """Segments from distance a to b along a path; backwards where b < a. Open paths too."""
    if b >= a:
        return list(path.walk(a, b)) if path.closed else _open_run(path, a, b)
    back = list(path.walk(b, a)) if path.closed else _open_run(path, b, a)
    return [Segment(s.x1, s.y1, s.x0, s.y0, -s.bulge, s.length) for s in reversed(back)]


def open_run(path: Contour, a: float, b: float) -> Contour:
    """The line from distance a to b > a along a path, as a contour of its own."""
    found = run(path, a, b)
    rows = [(s.x0, s.y0, s.bulge) for s in found]
    return Contour.of([*rows, (found[-1].x1, found[-1].y1, 0.0)], False)


def _open_run(path: Contour, a: float, b: float) -> list[Segment]:
    out = []
    for s, begin in zip(path.segments(), path.starts[:-1], strict=True):
        t0, t1 = max(0.0, (a - begin) / s.length), min(1.0, (b - begin) / s.length)
        if (t1 - t0) * s.length > SAME:
            out.append(s if t0 <= 0 and t1 >= 1 else s.part(t0, t1))
    return out


def ramp_down(track: Track, path: Contour, s: float, z0: float, z1: float, length: float) -> float:
    """Go down from z0 to z1 along a path, standing at its distance ``s``; where it ends along the path.

    Round and round a closed one; to and fro over the first stretch of an open one, ending where it began.
    """
    drop = z0 - z1
    if drop <= SAME:
        return s
    total = path.length
    if path.closed:
        ramp = min(length, max(3 * total, 5 * drop))
        track.follow(run(path, s, s + ramp), z0, z1, ramp)
        return s + ramp
    stretch = min(length / 2, total)
    if stretch < 0.2:
        track.down(z1)
        return s
    strokes = max(2, 2 * math.ceil(length / (2 * stretch)))
    strokes = min(strokes, 2 * math.ceil(5 * drop / stretch) + 2)
    for k in range(strokes):
        a, b = z0 - drop * k / strokes, z0 - drop * (k + 1) / strokes
        track.follow(run(path, 0.0, stretch) if k % 2 == 0 else run(path, stretch, 0.0), a, b, stretch)
    return 0.0
