"""How far can a piece slide in one direction before it touches something? Exact, over polygon edges."""

from __future__ import annotations

import numba
import numpy as np

from venzo.core.geometry.contour import Array

BACK_OFF = 1e-4
"""mm left between things that were slid into contact, so that they can pass each other afterwards."""


def edges(rings: list[Array]) -> Array:
    """Edges ``(n, 4)``: x0, y0, x1, y1 of closed point rings."""
    return (
        np.concatenate([np.hstack([r, np.roll(r, -1, axis=0)]) for r in rings]) if rings else np.zeros((0, 4))
    )


@numba.njit(cache=True, nogil=True)
def _clear(mover, obstacles, axis, sign, limit):  # pragma: no cover - compiled
    """Largest travel (<= limit) of ``mover`` along ``sign`` times axis 0 or 1."""
    best = limit
    u, v = axis, 1 - axis
    lo, hi = 1e300, -1e300
    for i in range(len(mover)):
        lo, hi = min(lo, mover[i, v]), max(hi, mover[i, v])
    for j in range(len(obstacles)):
        a0, a1 = sign * obstacles[j, u], obstacles[j, v]
        b0, b1 = sign * obstacles[j, 2 + u], obstacles[j, 2 + v]
        if max(a1, b1) < lo or min(a1, b1) > hi:
            continue
        for i in range(len(mover)):
            # the mover's vertex against the obstacle's edge
            p0, p1 = sign * mover[i, u], mover[i, v]
            if a1 != b1 and min(a1, b1) <= p1 <= max(a1, b1):
                t = a0 + (p1 - a1) / (b1 - a1) * (b0 - a0) - p0
                if -1e-9 < t < best:
                    best = t
            # the obstacle's vertex against the mover's edge
            q0, q1 = sign * mover[i, 2 + u], mover[i, 2 + v]
            if p1 != q1 and min(p1, q1) <= a1 <= max(p1, q1):
                t = a0 - (p0 + (a1 - p1) / (q1 - p1) * (q0 - p0))
                if -1e-9 < t < best:
                    best = t
    return best


def settle(
    mover: Array, obstacles: Array, box: tuple[float, float, float, float], rounds: int = 4
) -> tuple[float, float]:
    """Shift (dx, dy) that lets a piece settle left and down, by turns, until it rests.

    Args:
        mover: edges of the piece where it is now; it must be clear of every obstacle.
        obstacles: edges of what it may not touch, already grown by the spacing.
        box: x0, y0, x1, y1 that the piece stays inside.
    """
    dx = dy = 0.0
    for _ in range(rounds):
        now = mover + np.array([dx, dy, dx, dy])
        left = max(0.0, _clear(now, obstacles, 0, -1.0, now[:, 0].min() - box[0] + BACK_OFF) - BACK_OFF)
        now = now - np.array([left, 0, left, 0])
        down = max(0.0, _clear(now, obstacles, 1, -1.0, now[:, 1].min() - box[1] + BACK_OFF) - BACK_OFF)
        dx, dy = dx - left, dy - down
        if left + down < 1e-3:
            break
    return dx, dy
