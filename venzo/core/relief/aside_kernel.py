"""Compiled loops that tell how far places lie from lines. Lengths in mm."""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def nearest(points, lines, away, which, share):
    """For every place (n, 2) of the straight ``lines`` (m, 4: x0, y0, x1, y1) the nearest: its distance, its
    number, and where along it, from 0 to 1, the nearest point lies.
    """
    for i in range(len(points)):
        x, y = points[i, 0], points[i, 1]
        best, at, along = math.inf, 0, 0.0
        for k in range(len(lines)):
            x0, y0 = lines[k, 0], lines[k, 1]
            dx, dy = lines[k, 2] - x0, lines[k, 3] - y0
            long = dx * dx + dy * dy
            t = 0.0
            if long > 0.0:
                t = min(1.0, max(0.0, ((x - x0) * dx + (y - y0) * dy) / long))
            u, v = x - x0 - t * dx, y - y0 - t * dy
            d = u * u + v * v
            if d < best:
                best, at, along = d, k, t
        away[i], which[i], share[i] = math.sqrt(best), at, along


def warm() -> None:
    """Compile what is used."""
    one = np.zeros((1, 2))
    nearest(one, np.array([[0.0, 0.0, 1.0, 0.0]]), np.empty(1), np.empty(1, dtype=np.int64), np.empty(1))
