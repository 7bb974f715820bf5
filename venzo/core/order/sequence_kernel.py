"""The hot loops of ordering cuts, written so that they run as plain Python and compiled alike."""

from __future__ import annotations

from typing import Any

from venzo.core.geometry.contour import Array

MUCH = 90
"""Runs of more stops than this are worth loading the compiler for."""
_compiled: Any = None


def _greedy(starts, ends, kinds, outline, waits, first, followers, x, y, order):
    """Fill ``order`` (n) with cuts: the nearest that may be made with the loaded cutter, insides before outlines. Returns how many.

    ``kinds``: rank of each cut's cutter; ``waits``: how many must come before it; ``first``, ``followers``: who waits for it (rows one after the other).
    """
    n = len(kinds)
    inside = 0
    for i in range(n):
        if not outline[i]:
            inside += 1
    loaded = -1
    for done in range(n):
        least = -1  # rank of the cutter that cuts next: the loaded one if it can, outlines only where no inside cut can be made
        for only_inside in range(2):
            if only_inside == 0 and inside == 0:
                continue
            for i in range(n):
                if waits[i] == 0 and (only_inside == 1 or not outline[i]):
                    if kinds[i] == loaded:
                        least = loaded
                        break
                    if least < 0 or kinds[i] < least:
                        least = kinds[i]
            if least >= 0:
                break
        if least < 0:
            return done
        loaded = least
        pick, best = -1, 0.0
        for i in range(n):
            if waits[i] == 0 and kinds[i] == loaded and (only_inside == 1 or not outline[i]):
                far = round((((starts[i, 0] - x) ** 2 + (starts[i, 1] - y) ** 2) ** 0.5) * 1e6) / 1e6
                if pick < 0 or far < best:
                    pick, best = i, far
        order[done] = pick
        waits[pick] = -1
        for k in range(first[pick], first[pick + 1]):
            waits[followers[k]] -= 1
        if not outline[pick]:
            inside -= 1
        x, y = ends[pick, 0], ends[pick, 1]
    return n


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
    _ready(len(tour))["_two_opt"](pts, tour, last, closing, rounds)


def greedy(starts: Array, ends: Array, kinds: Any, outline: Any, waits: Any, first: Any, followers: Any, at: tuple[float, float], order: Any) -> int:
    """``_greedy``, compiled for long lists; ``waits`` and ``order`` are changed in place."""
    return int(_ready(len(kinds))["_greedy"](starts, ends, kinds, outline, waits, first, followers, float(at[0]), float(at[1]), order))


def _ready(size: int) -> dict[str, Any]:
    if _compiled is None and size > MUCH:
        warm()
    return _compiled or {"_two_opt": _two_opt, "_greedy": _greedy}


def warm() -> None:
    """Compile the loops (kept on disk from then on)."""
    global _compiled
    import numba

    _compiled = {f.__name__: numba.njit(cache=True, nogil=True)(f) for f in (_two_opt, _greedy)}
