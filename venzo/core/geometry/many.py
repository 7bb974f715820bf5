"""The same questions asked of many contours at once: one pass of numpy instead of one a contour."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from venzo.core.geometry.contour import MOST_CHORDS, Array, Contour


class _Flat:
    """Segments of many contours one after the other; ``own`` says whose each is."""

    def __init__(self, contours: Sequence[Contour]):
        sizes = np.array([len(c.vertices) for c in contours])
        v = np.concatenate([c.vertices for c in contours])
        first = np.cumsum(sizes) - sizes
        self.own = np.repeat(np.arange(len(contours)), sizes)
        nxt = np.arange(1, len(v) + 1)
        nxt[first + sizes - 1] = first
        closed = np.array([c.closed for c in contours])
        self.last = first + sizes - 1
        self.real = np.ones(len(v), bool)
        self.real[self.last[~closed]] = False  # an open contour has no segment from its last vertex
        self.first, self.sizes, self.closed = first, sizes, closed
        self.a, self.b, self.bulge = v[:, :2], v[nxt, :2], np.where(self.real, v[:, 2], 0.0)
        self.before = np.empty(len(v), int)
        self.before[nxt] = np.arange(len(v))
        d = self.b - self.a
        self.chord = np.hypot(d[:, 0], d[:, 1])
        with np.errstate(divide="ignore", invalid="ignore"):
            quarter = np.arctan(np.abs(self.bulge))
            self.length = (
                np.where(self.bulge == 0, self.chord, self.chord * 2 * quarter / np.sin(2 * quarter))
                * self.real
            )
            k = (1.0 - self.bulge**2) / (4.0 * self.bulge)
            centre = (self.a + self.b) / 2 + np.column_stack([-d[:, 1] * k, d[:, 0] * k])
        self.arc = self.bulge != 0
        self.centre = np.where(self.arc[:, None], centre, 0.0)
        self.sweep = 4 * np.arctan(self.bulge)
        rel = np.where(self.arc[:, None], self.a - self.centre, 0.0)
        self.radius = np.hypot(rel[:, 0], rel[:, 1])
        self.start = np.arctan2(rel[:, 1], rel[:, 0])


def measure(contours: Sequence[Contour]) -> None:
    """Work out length, area and box of many contours; each remembers its own, as if it had been asked.

    >>> c = Contour.circle(0, 0, 10)
    >>> measure([c]); round(c.area, 4), c.bbox
    (314.1593, (-10.0, -10.0, 10.0, 10.0))
    """
    if not contours:
        return
    f = _Flat(contours)
    p, q = f.a - f.a[f.first][f.own], f.b - f.a[f.first][f.own]
    w, r = f.sweep, f.radius
    part = (p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]) / 2 + r * r * (w - np.sin(w)) / 2
    area = np.add.reduceat(part, f.first)
    low, high = f.a.copy(), f.a.copy()
    for k in range(4):  # the outermost points of arcs
        turn = (k * np.pi / 2 - f.start) * np.sign(f.sweep) % (2 * np.pi)
        hit = f.arc & (turn < np.abs(f.sweep))
        x, y = (1, 0, -1, 0)[k], (0, 1, 0, -1)[k]
        tip = f.centre[hit] + np.column_stack([r[hit] * x, r[hit] * y])
        low[hit], high[hit] = np.minimum(low[hit], tip), np.maximum(high[hit], tip)
    low, high = np.minimum.reduceat(low, f.first), np.maximum.reduceat(high, f.first)
    boxes = np.hstack([low, high]).tolist()
    for c, i, n, a, box in zip(
        contours, f.first.tolist(), f.sizes.tolist(), area.tolist(), boxes, strict=True
    ):
        own = c.__dict__
        own["lengths"] = f.length[i : i + n] if c.closed else f.length[i : i + n - 1]
        own["area"] = a if c.closed else 0.0
        own["bbox"] = tuple(box)


def simplified(contours: Sequence[Contour], tolerance: float) -> list[Contour]:
    """``Contour.simplified`` for many: only those that can need it are taken apart."""
    if not contours:
        return []
    f = _Flat(contours)
    prev = f.before
    d = np.where(f.chord[:, None] > 0, (f.b - f.a) / np.maximum(f.chord, 1e-300)[:, None], 0.0)
    both = f.real & f.real[prev]
    straight = (
        ~f.arc
        & ~f.arc[prev]
        & (
            np.abs(d[:, 0] * d[prev, 1] - d[:, 1] * d[prev, 0]) * np.minimum(f.chord, f.chord[prev])
            <= 2 * tolerance
        )
    )
    round_ = (
        f.arc
        & f.arc[prev]
        & (np.hypot(*(f.centre - f.centre[prev]).T) <= 10 * tolerance + 1e-6)
        & (np.abs(f.radius - f.radius[prev]) <= 10 * tolerance + 1e-6)
    )
    short = f.real & (f.length <= tolerance)
    needs = np.logical_or.reduceat((both & (straight | round_)) | short, f.first)
    return [c.simplified(tolerance) if n else c for c, n in zip(contours, needs.tolist(), strict=True)]


def points(contours: Sequence[Contour], chord: float) -> tuple[Array, NDArray[np.intp]]:
    """All contours as points ``(n, 2)``, arcs as chords within ``chord`` mm, and the contour number of each;
    rings are not closed.
    """
    f = _Flat(contours)
    with np.errstate(divide="ignore", invalid="ignore"):
        half = np.where(f.radius > chord, 2 * np.arccos(np.maximum(0.0, 1 - chord / f.radius)), np.pi / 2)
        n = np.where(
            f.arc, np.clip(np.ceil(np.abs(f.sweep) / np.maximum(half, 1e-7)), 2, MOST_CHORDS), 1
        ).astype(int)
    seg = np.repeat(np.arange(len(n)), n)
    k = np.arange(len(seg)) - np.repeat(np.cumsum(n) - n, n)
    t = k / n[seg]
    angle = f.start[seg] + f.sweep[seg] * t
    on_arc = np.column_stack(
        [f.centre[seg, 0] + f.radius[seg] * np.cos(angle), f.centre[seg, 1] + f.radius[seg] * np.sin(angle)]
    )
    out = np.where((f.arc[seg] & (k > 0))[:, None], on_arc, f.a[seg])
    return out, f.own[seg]


def polygons(contours: Sequence[Contour], chord: float) -> NDArray[np.object_]:
    """The inside of each closed contour as a shapely polygon (it may be invalid where a contour crosses
    itself).
    """
    if not contours:
        return np.array([], dtype=object)
    xy, own = points(contours, chord)
    ends = np.flatnonzero(np.diff(own, append=-1)) + 1
    starts = np.concatenate([[0], ends[:-1]])
    index = np.concatenate([np.append(np.arange(a, b), a) for a, b in zip(starts, ends, strict=True)])
    rings = shapely.linearrings(xy[index], indices=own[index])
    return shapely.polygons(rings)
