"""Where do tabs go so that they stand as evenly as their runs allow? The search, compiled. Lengths in mm."""

from __future__ import annotations

import numpy as np
from numba import njit

PHASES = 24
"""Turns of the even spread that are tried."""


@njit(cache=True, nogil=True)
def _gap(a, b, total):  # pragma: no cover - compiled
    """From ``b`` to ``a`` along a closed contour, the shorter way, with its sign."""
    return (a - b + total / 2) % total - total / 2


@njit(cache=True, nogil=True)
def _nearest(lo, hi, total, target, least, chosen, n):  # pragma: no cover - compiled
    """The free place nearest to ``target``, and how far off it is; infinitely far where there is none.

    It steps aside from the first ``n`` of ``chosen`` as far as two tabs must keep apart.
    """
    off, place = np.inf, 0.0
    for r in range(len(lo)):
        s = min(max(target, lo[r]), hi[r])
        for c in chosen[:n]:
            gap = _gap(s, c, total)
            if abs(gap) < least - 1e-9:
                s = c + least if gap >= 0 else c - least
        if s < lo[r] - 1e-9 or s > hi[r] + 1e-9:
            continue
        free = True
        for c in chosen[:n]:
            if abs(_gap(s, c, total)) < least - 1e-6:
                free = False
        away = abs(_gap(s, target, total))
        if free and away < off:
            off, place = away, s
    return off, place


@njit(cache=True, nogil=True)
def spread(lo, hi, total, count, least, ends):  # pragma: no cover - compiled
    """Places of up to ``count`` tabs on a closed contour of length ``total``, sorted.

    Args:
        lo, hi: ends of the runs, along the contour.
        least: that two tabs keep apart.
        ends: places that want a tab near.
    """
    best_cost, best = np.inf, np.empty(0)
    for phase in range(PHASES):
        chosen, n, cost = np.empty(count), 0, 0.0
        for k in range(count):
            target = (phase / PHASES * total / count + k * total / count) % total
            off, place = _nearest(lo, hi, total, target, least, chosen, n)
            if off == np.inf:
                cost += total * total
                continue
            chosen[n] = place % total
            n += 1
            cost += off * off
        if n:
            for e in ends:
                away = np.inf
                for c in chosen[:n]:
                    away = min(away, abs(_gap(c, e, total)))
                cost += away * away
        if cost < best_cost - 1e-9:
            best_cost, best = cost, np.sort(chosen[:n])
    return best


def warm() -> None:
    """Compile the search."""
    runs = np.array([[0.0, 40.0], [50.0, 90.0]])
    spread(runs[:, 0].copy(), runs[:, 1].copy(), 100.0, 2, 20.0, np.array([10.0]))
