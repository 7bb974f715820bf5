"""What a cutter takes off a grid of heights along lines, compiled. Lengths in mm."""

from __future__ import annotations

import math

from numba import njit


@njit(cache=True, nogil=True)
def rise(d, tan, tip, ball, kind):  # pragma: no cover - compiled
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
def sweep_lines(h, x0, y0, cell, seg, tan, tip, ball, full, kind):  # pragma: no cover - compiled
    """Lower heights (ny, nx) to what a cutter sweeps along lines (n, 6); ``kind``: 0 a sharp cone, 1 a flat
    mill, 2 a rounded point, 3 a flat one.
    """
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
                        f1 = base + slope * m1 + rise(math.hypot(d, m1 - s), tan, tip, ball, kind)
                        f2 = base + slope * m2 + rise(math.hypot(d, m2 - s), tan, tip, ball, kind)
                        if f1 < f2:
                            b = m2
                        else:
                            a = m1
                    t = (a + b) / 2
                    z = base + slope * t + rise(math.hypot(d, t - s), tan, tip, ball, kind)
                if z < h[i, j]:
                    h[i, j] = z
