"""Rectangles laid in an order: the compiled packers, and which of two packings is better.

* largest free rectangles (Jylanki 2010, from memory), scored by short side, long side, area or reach;
* guillotine: every cut goes from edge to edge of what is left, so that a saw can make it.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np
from numpy.typing import NDArray

from venzo.core.geometry.contour import Array

EPS = 1e-7
MOST_FREE = 600
"""Free rectangles kept per sheet; the smallest give way."""


class Pieces(NamedTuple):
    """What the packers know of the pieces, one row each: width and height with the spacing, ways to lie on
    each kind of sheet (bit 1 as drawn, bit 2 turned), whether they only fill up, what leaving one out weighs,
    and classes (priority) of which a lower one comes first.
    """

    w: Array
    h: Array
    ways: NDArray[np.int64]
    fill: NDArray[np.bool_]
    weight: Array
    classes: NDArray[np.int64]


class Sheets(NamedTuple):
    """The sheets in the order in which they are opened: width and height ``(n, 2)``, kind, price."""

    size: Array
    kinds: NDArray[np.int64]
    costs: Array


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _insert(free, count, x, y, w, h):  # pragma: no cover - compiled
    """Add a free rectangle unless another holds it; those that it holds go. New count."""
    if w <= EPS or h <= EPS:
        return count
    k = 0
    while k < count:
        f = free[k]
        if f[0] <= x + EPS and f[1] <= y + EPS and f[0] + f[2] >= x + w - EPS and f[1] + f[3] >= y + h - EPS:
            return count
        if x <= f[0] + EPS and y <= f[1] + EPS and x + w >= f[0] + f[2] - EPS and y + h >= f[1] + f[3] - EPS:
            count -= 1
            free[k] = free[count]
        else:
            k += 1
    if count < len(free):
        free[count, 0], free[count, 1], free[count, 2], free[count, 3] = x, y, w, h
        count += 1
    return count


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _carve(free, count, x, y, w, h):  # pragma: no cover - compiled
    """Take a placed rectangle out of the largest free rectangles. New count."""
    old = free[:count].copy()
    kept = 0
    hit = np.zeros(count, np.bool_)
    for k in range(count):
        f = old[k]
        hit[k] = x < f[0] + f[2] - EPS and x + w > f[0] + EPS and y < f[1] + f[3] - EPS and y + h > f[1] + EPS
        if not hit[k]:
            free[kept] = f
            kept += 1
    for k in range(count):
        if hit[k]:
            f = old[k]
            kept = _insert(free, kept, f[0], f[1], x - f[0], f[3])
            kept = _insert(free, kept, x + w, f[1], f[0] + f[2] - x - w, f[3])
            kept = _insert(free, kept, f[0], f[1], f[2], y - f[1])
            kept = _insert(free, kept, f[0], y + h, f[2], f[1] + f[3] - y - h)
    return kept


@numba.njit(cache=True, nogil=True, error_model="numpy")
def pack(order, pieces, sheets, how, free, counts, out):  # pragma: no cover - compiled
    """Lay pieces in ``order`` on the sheets, opened in turn.

    ``how``: score, whether the best of the open sheets is taken, how a guillotine splits, whether it is one.
    ``out`` rows: sheet (-1: no place), x, y, turned. Returns the number of sheets opened.
    """
    w, h, ways, fill, bins, kinds = pieces.w, pieces.h, pieces.ways, pieces.fill, sheets.size, sheets.kinds
    score, best_bin, split, guillotine = how[0], how[1] == 1, how[2], how[3] == 1
    opened = 0
    # widest and highest free rectangle of each sheet: most pieces that find no place are told so at once
    widest, highest = bins[:, 0].copy(), bins[:, 1].copy()
    for o in range(len(order)):
        i = order[o]
        best, second = 1e300, 1e300
        at_bin, at_x, at_y, at_turn, at_free = -1, 0.0, 0.0, 0, -1
        b = 0
        while b < len(bins):
            if b == opened:
                if fill[i] and opened > 0:
                    break
                counts[b] = 1
                free[b, 0, 0], free[b, 0, 1], free[b, 0, 2], free[b, 0, 3] = 0.0, 0.0, bins[b, 0], bins[b, 1]
            for turn in range(2):
                if not (ways[i, kinds[b]] >> turn) & 1:
                    continue
                pw, ph = (w[i], h[i]) if turn == 0 else (h[i], w[i])
                if pw > widest[b] + EPS or ph > highest[b] + EPS:
                    continue
                for k in range(counts[b]):
                    f = free[b, k]
                    rx, ry = f[2] - pw, f[3] - ph
                    if rx < -EPS or ry < -EPS:
                        continue
                    if score == 0:
                        s, t = min(rx, ry), max(rx, ry)
                    elif score == 1:
                        s, t = max(rx, ry), min(rx, ry)
                    elif score == 2:
                        s, t = f[2] * f[3] - pw * ph, min(rx, ry)
                    elif score == 3:
                        s, t = f[0] + pw, f[1]
                    else:
                        s, t = f[0], f[1] + ph
                    if s < best - EPS or (s < best + EPS and t < second - EPS):
                        best, second, at_bin, at_x, at_y, at_turn, at_free = s, t, b, f[0], f[1], turn, k
            # a new sheet is opened only when the open ones cannot take the piece
            if at_bin >= 0 and (not best_bin or b + 1 >= opened):
                break
            b += 1
        out[i, 0] = at_bin
        if at_bin < 0:
            continue
        opened = max(opened, at_bin + 1)
        out[i, 1], out[i, 2], out[i, 3] = at_x, at_y, at_turn
        pw, ph = (w[i], h[i]) if at_turn == 0 else (h[i], w[i])
        if not guillotine:
            counts[at_bin] = _carve(free[at_bin], counts[at_bin], at_x, at_y, pw, ph)
            widest[at_bin] = highest[at_bin] = 0.0
            for k in range(counts[at_bin]):
                widest[at_bin] = max(widest[at_bin], free[at_bin, k, 2])
                highest[at_bin] = max(highest[at_bin], free[at_bin, k, 3])
            continue
        f = free[at_bin, at_free].copy()
        counts[at_bin] -= 1
        free[at_bin, at_free] = free[at_bin, counts[at_bin]]
        rx, ry = f[2] - pw, f[3] - ph
        across = (
            rx <= ry
            if split == 0
            else (rx > ry if split == 1 else (pw * ry <= ph * rx if split == 2 else pw * ry > ph * rx))
        )
        # the first cut runs along X (across) or along Y; the two pieces left keep the rest
        if across:
            rest = ((f[0] + pw, f[1], rx, ph), (f[0], f[1] + ph, f[2], ry))
        else:
            rest = ((f[0] + pw, f[1], rx, f[3]), (f[0], f[1] + ph, pw, ry))
        for r in rest:
            if r[2] > EPS and r[3] > EPS and counts[at_bin] < free.shape[1]:
                k = counts[at_bin]
                free[at_bin, k, 0], free[at_bin, k, 1], free[at_bin, k, 2], free[at_bin, k, 3] = r
                counts[at_bin] += 1
    return opened


@numba.njit(cache=True, nogil=True, error_model="numpy")
def judge(out, pieces, sheets, right, key):  # pragma: no cover - compiled
    """Key of a packing: weight over, cost, sheets, fill over, shortest used sheet (by share), sum of used
    lengths.
    """
    w, h, fill, weight, bins, costs = (
        pieces.w,
        pieces.h,
        pieces.fill,
        pieces.weight,
        sheets.size,
        sheets.costs,
    )
    for k in range(6):
        key[k] = 0.0
    right[:] = 0.0
    for i in range(len(out)):
        b = int(out[i, 0])
        if b < 0:
            key[3 if fill[i] else 0] += weight[i]
        else:
            right[b] = max(right[b], out[i, 1] + (w[i] if out[i, 3] == 0 else h[i]))
    share = 1e300
    for b in range(len(bins)):
        if right[b] > 0:
            key[1] += costs[b]
            key[2] += 1
            key[5] += right[b]
            if right[b] / bins[b, 0] < share:
                share = right[b] / bins[b, 0]
                key[4] = right[b]


@numba.njit(cache=True, nogil=True, error_model="numpy")
def less(a, b):  # pragma: no cover - compiled
    """Which key is lower? -1 the first, 1 the second, 0 neither."""
    for k in range(len(a)):
        if a[k] < b[k] - 1e-6:
            return -1
        if a[k] > b[k] + 1e-6:
            return 1
    return 0
