"""The hot loop of shortening a run of cuts, written so that it runs as plain Python and compiled alike."""

from __future__ import annotations

from typing import Any

from venzo.core.geometry.contour import Array

MUCH = 90
"""Runs of more stops than this are worth loading the compiler for."""
_compiled: Any = None


def _two_opt(pts, tour, last, closing, rounds):
    """Reverse stretches of ``tour`` between its first stop and ``last`` while that shortens it; the best for every start. Returns rounds used."""
    n = len(tour)
    for r in range(rounds):
        improved = False
        for i in range(last):
            ax, ay = pts[tour[i], 0], pts[tour[i], 1]
            bx, by = pts[tour[i + 1], 0], pts[tour[i + 1], 1]
            ab = ((ax - bx) ** 2 + (ay - by) ** 2) ** 0.5
            best, at = 1e-6, -1
            for j in range(i + 1, last + 1):
                cx, cy = pts[tour[j], 0], pts[tour[j], 1]
                gain = ab - ((ax - cx) ** 2 + (ay - cy) ** 2) ** 0.5
                if gain <= -closing:
                    continue
                if j + 1 < n:
                    dx, dy = pts[tour[j + 1], 0], pts[tour[j + 1], 1]
                    gain += ((cx - dx) ** 2 + (cy - dy) ** 2) ** 0.5 - ((bx - dx) ** 2 + (by - dy) ** 2) ** 0.5
                if gain > best:
                    best, at = gain, j
            if at >= 0:
                lo, hi = i + 1, at
                while lo < hi:
                    swap = tour[lo]
                    tour[lo] = tour[hi]
                    tour[hi] = swap
                    lo += 1
                    hi -= 1
                improved = True
        if not improved:
            return r + 1
    return rounds


def shorten(pts: Array, tour: Any, last: int, closing: float, rounds: int = 40) -> None:
    """Shorten ``tour`` (indices into ``pts`` (n, 2), changed in place) between its first stop and index ``last``.

    ``closing``: an upper bound of what a new last leg can save, mm.
    """
    if _compiled is None and len(tour) > MUCH:
        warm()
    (_compiled or _two_opt)(pts, tour, last, closing, rounds)


def warm() -> None:
    """Compile the loop (kept on disk from then on)."""
    global _compiled
    import numba

    _compiled = numba.njit(cache=True, nogil=True)(_two_opt)
