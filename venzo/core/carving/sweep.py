"""What does a program leave? The surface that cutters sweep, as heights on a grid."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numba import njit

from venzo.core.carving.bit import Bit
from venzo.core.cuts.moves import RAPID, X, Y, Z, polyline
from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput

MOST_CELLS = 40_000_000


@dataclass(frozen=True, eq=False)
class Surface:
    """Heights (rows, columns) in mm, 0 untouched and down negative; cell (i, j) stands for the point (x0 + j
    cell, y0 + i cell).
    """

    heights: Array
    x0: float
    y0: float
    cell: float

    @property
    def xs(self) -> Array:
        """x of every column, mm."""
        return np.asarray(self.x0 + np.arange(self.heights.shape[1]) * self.cell, dtype=float)

    @property
    def ys(self) -> Array:
        """y of every row, mm."""
        return np.asarray(self.y0 + np.arange(self.heights.shape[0]) * self.cell, dtype=float)


def flat(box: tuple[float, float, float, float], cell: float) -> Surface:
    """An untouched surface over a box.

    Raises:
        BadInput: more than MOST_CELLS cells.
    """
    nx, ny = (math.floor((box[k + 2] - box[k]) / cell + 1e-6) + 1 for k in (0, 1))
    if nx * ny > MOST_CELLS:
        raise BadInput(
            f"a surface of {nx} x {ny} cells is over the limit of {MOST_CELLS}; take a coarser cell than"
            f" {cell:g} mm"
        )
    return Surface(np.zeros((ny, nx)), box[0], box[1], cell)


def sweep(surface: Surface, moves: Array, bit: Bit | None, radius: float = 0.0) -> None:
    """Take off what a cutter sweeps along its cutting moves; ``bit`` a V bit, None an end mill of ``radius``
    mm. Changes ``surface`` in place.

    Lines are exact up to the grid: of every cell the lowest point of the cutter that passes over it, found in
    closed form for a pointed cone and by ternary search (the height over a line is convex) for other points.
    """
    p = polyline(moves, 0.002)
    cutting = np.ones(len(p) - 1, dtype=bool)
    if len(p) == len(moves):
        cutting = moves[1:, 0] != RAPID
    else:  # arcs became chords: rapids are always straight
        rapid = {(round(a[X], 6), round(a[Y], 6), round(a[Z], 6)) for a in moves[1:] if a[0] == RAPID}
        cutting = np.array([tuple(np.round(q, 6)) not in rapid for q in p[1:]])
    seg = np.hstack([p[:-1], p[1:]])[cutting]
    seg = seg[np.minimum(seg[:, 2], seg[:, 5]) < 0]
    if not len(seg):
        return
    if bit is None:
        _sweep(surface.heights, surface.x0, surface.y0, surface.cell, seg, 1.0, radius, 0.0, radius, 1)
    else:
        kind = 2 if bit.tip_radius else 3 if bit.tip else 0
        _sweep(
            surface.heights,
            surface.x0,
            surface.y0,
            surface.cell,
            seg,
            bit.tan,
            bit.tip / 2,
            bit.tip_radius,
            bit.diameter / 2,
            kind,
        )


@njit(cache=True, nogil=True)
def _rise(d, tan, tip, ball, kind):  # pragma: no cover - compiled
    """Height of the cutter over its point at a distance from its axis."""
    if kind == 1:
        return 0.0
    if ball > 0.0:
        half = math.atan(tan)
        touch = ball * math.cos(half)
        if d <= touch:
            return ball - math.sqrt(max(0.0, ball * ball - d * d))
        return ball * (1 - math.sin(half)) + (d - touch) / tan
    return max(0.0, d - tip) / tan


@njit(cache=True, nogil=True)
def _sweep(h, x0, y0, cell, seg, tan, tip, ball, full, kind):  # pragma: no cover - compiled
    ny, nx = h.shape
    for n in range(len(seg)):
        ax, ay, az, bx, by, bz = seg[n, 0], seg[n, 1], seg[n, 2], seg[n, 3], seg[n, 4], seg[n, 5]
        low = min(az, bz)
        r = full
        if kind != 1:
            depth = -low
            if ball > 0.0:
                half = math.atan(tan)
                r = (
                    min(full, ball * math.cos(half) + max(0.0, depth - ball * (1 - math.sin(half))) * tan)
                    if depth > ball * (1 - math.sin(half))
                    else min(full, math.sqrt(max(0.0, ball * ball - (ball - depth) ** 2)))
                )
            else:
                r = min(full, tip + depth * tan)
        j0 = max(0, int(math.floor((min(ax, bx) - r - x0) / cell)))
        j1 = min(nx - 1, int(math.ceil((max(ax, bx) + r - x0) / cell)))
        i0 = max(0, int(math.floor((min(ay, by) - r - y0) / cell)))
        i1 = min(ny - 1, int(math.ceil((max(ay, by) + r - y0) / cell)))
        dx, dy, dz = bx - ax, by - ay, bz - az
        long = math.hypot(dx, dy)
        ux, uy = (dx / long, dy / long) if long > 1e-12 else (1.0, 0.0)
        slope = dz / long if long > 1e-12 else 0.0
        base = low if long <= 1e-12 else az
        for i in range(i0, i1 + 1):
            py = y0 + i * cell - ay
            for j in range(j0, j1 + 1):
                if h[i, j] <= low:
                    continue
                px = x0 + j * cell - ax
                s = px * ux + py * uy
                d = abs(px * uy - py * ux)
                if d > r:
                    continue
                reach = math.sqrt(max(0.0, full * full - d * d))
                t0, t1 = max(0.0, s - reach), min(long, s + reach)
                if t0 > t1:
                    continue
                if kind == 1:
                    z = min(base + slope * t0, base + slope * t1)
                elif kind == 0:
                    c = 1.0 / tan
                    if abs(slope) < c:
                        t = s - slope * d / math.sqrt(c * c - slope * slope)
                    else:
                        t = t1 if slope < 0 else t0
                    t = min(t1, max(t0, t))
                    z = base + slope * t + math.hypot(d, t - s) * c
                elif kind == 3:
                    # a flat point: the height is convex along the line, so its least value lies at the cone's
                    # stationary point, where the flat begins or ends, or at an end
                    c = 1.0 / tan
                    if abs(slope) < c:
                        t = s - slope * d / math.sqrt(c * c - slope * slope)
                    else:
                        t = t1 if slope < 0 else t0
                    z = 1e30
                    half = math.sqrt(max(0.0, tip * tip - d * d))
                    for q in (t, s - half, s + half):
                        q = min(t1, max(t0, q))
                        z = min(z, base + slope * q + max(0.0, math.hypot(d, q - s) - tip) * c)
                else:
                    a, b = t0, t1
                    for _k in range(40):
                        m1, m2 = a + (b - a) / 3, b - (b - a) / 3
                        f1 = base + slope * m1 + _rise(math.hypot(d, m1 - s), tan, tip, ball, kind)
                        f2 = base + slope * m2 + _rise(math.hypot(d, m2 - s), tan, tip, ball, kind)
                        if f1 < f2:
                            b = m2
                        else:
                            a = m1
                    t = (a + b) / 2
                    z = base + slope * t + _rise(math.hypot(d, t - s), tan, tip, ball, kind)
                if z < h[i, j]:
                    h[i, j] = z


def warm() -> None:
    """Compile the sweep."""
    s = flat((0, 0, 1, 1), 0.5)
    _sweep(s.heights, 0.0, 0.0, 0.5, np.array([[0.0, 0, -1, 1, 1, -1]]), 1.0, 0.0, 0.0, 1.0, 0)
