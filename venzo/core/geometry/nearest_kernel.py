"""Where along lines and arcs lies the point nearest to a given one? One compiled loop over all segments."""

from __future__ import annotations

import math
from typing import cast

import numba
import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.float64]


@numba.njit(cache=True, nogil=True)
def _nearest(rows, starts, lengths, x, y):
    """``rows``: x0, y0, x1, y1, centre x, y, radius, start angle, sweep (0: a line) of each segment."""
    best, along = math.inf, 0.0
    for i in range(len(rows)):
        x0, y0, x1, y1 = rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3]
        sweep = rows[i, 8]
        if sweep == 0.0:
            dx, dy = x1 - x0, y1 - y0
            n = max(dx * dx + dy * dy, 1e-300)
            t = min(1.0, max(0.0, ((x - x0) * dx + (y - y0) * dy) / n))
            away = math.hypot(x0 + dx * t - x, y0 + dy * t - y)
        else:
            cx, cy = rows[i, 4], rows[i, 5]
            turn = math.atan2(y - cy, x - cx) - rows[i, 7]
            if sweep < 0.0:
                turn = -turn
            turn = turn % (2.0 * math.pi)
            if turn <= abs(sweep):
                t, away = turn / abs(sweep), abs(math.hypot(x - cx, y - cy) - rows[i, 6])
            else:
                to_a, to_b = math.hypot(x0 - x, y0 - y), math.hypot(x1 - x, y1 - y)
                t, away = (0.0, to_a) if to_a < to_b else (1.0, to_b)
        if away < best:
            best, along = away, starts[i] + t * lengths[i]
    return along, best


def nearest(rows: Rows, starts: Rows, lengths: Rows, x: float, y: float) -> tuple[float, float]:
    """Distance along and distance from the nearest of the segments ``rows`` (n, 9), mm: ends, centre, radius,
    start angle and sweep, which is 0 for a line.

    >>> line = np.array([[0.0, 0, 10, 0, 0, 0, 0, 0, 0]])
    >>> nearest(line, np.zeros(1), np.full(1, 10.0), 4, 3)
    (4.0, 3.0)
    """
    return cast("tuple[float, float]", _nearest(rows, starts, lengths, float(x), float(y)))


def warm() -> None:
    """Compile into the cache."""
    nearest(np.zeros((1, 9)), np.zeros(1), np.ones(1), 0.0, 0.0)
