"""The greedy walk of ``fit`` over plain numbers: interpreted for small work, compiled for large."""

from __future__ import annotations

import math
from collections.abc import Callable
from types import FunctionType

from venzo.core.geometry.contour import Array

MUCH = 20_000
"""Points in one go from which compiling pays: importing the compiler takes about a second."""
_done = 0
_compiled: Callable | None = None


def _line_fits(p, i, k, tolerance):
    """Do all points from i to k lie within the tolerance of the line between these two, in order?"""
    x0, y0 = p[i, 0], p[i, 1]
    dx, dy = p[k, 0] - x0, p[k, 1] - y0
    n = math.sqrt(dx * dx + dy * dy)
    if n < 1e-12:
        return False
    for j in range(i + 1, k):
        qx, qy = p[j, 0] - x0, p[j, 1] - y0
        along = (qx * dx + qy * dy) / n
        if along < -1e-9 or along > n + 1e-9 or abs(qx * dy - qy * dx) > tolerance * n:
            return False
    return True


def _arc_bulge(p, i, k, tolerance):
    """Bulge of the arc through points i, the middle one and k; 0 where a point or chord middle lies off it or
    it turns back.
    """
    m = i + (k - i + 1) // 2
    ax, ay = p[i, 0], p[i, 1]
    abx, aby, amx, amy = p[k, 0] - ax, p[k, 1] - ay, p[m, 0] - ax, p[m, 1] - ay
    cross = amx * aby - amy * abx
    ab2, am2 = abx * abx + aby * aby, amx * amx + amy * amy
    if abs(cross) < 1e-12 or ab2 < 1e-18:
        return 0.0
    ux, uy = (aby * am2 - amy * ab2) / (2 * cross), (amx * ab2 - abx * am2) / (2 * cross)
    r = math.sqrt(ux * ux + uy * uy)
    if r > 1e5 or r < tolerance:
        return 0.0
    low, high = (r - tolerance) ** 2, (r + tolerance) ** 2
    cx, cy = ax + ux, ay + uy
    # the points in the middle of the run fail first: look there before walking it
    side = 0.0
    sweep = 0.0
    for j in range(i, k):
        x0, y0, x1, y1 = p[j, 0] - cx, p[j, 1] - cy, p[j + 1, 0] - cx, p[j + 1, 1] - cy
        far = x1 * x1 + y1 * y1
        if far < low or far > high:
            return 0.0
        mx, my = (x0 + x1) / 2, (y0 + y1) / 2
        far = mx * mx + my * my
        if far < low or far > high:
            return 0.0
        turn = math.atan2(x0 * y1 - y0 * x1, x0 * x1 + y0 * y1)
        if turn == 0.0 or turn * side < 0:
            return 0.0
        side = turn
        sweep += turn
        if abs(sweep) > math.pi + 1e-6:
            return 0.0
    return math.tan(sweep / 4)


def _walk(p, tolerance, rows):
    """Fill ``rows`` (n, 3) with vertices of lines and arcs along the run p; returns how many. The last point
    is not written.
    """
    stop = len(p) - 1
    i = count = 0
    while i < stop:
        reach = [i + 1, i + 1]
        for kind in range(2):
            low, step = i + 1, 2
            while low < stop:
                probe = min(stop, i + step)
                if probe <= low:
                    break
                good = (
                    _line_fits(p, i, probe, tolerance)
                    if kind == 0
                    else probe - i < 3 or _arc_bulge(p, i, probe, tolerance) != 0.0
                )
                if not good:
                    high = probe
                    while high - low > 1:
                        middle = (low + high) // 2
                        good = (
                            _line_fits(p, i, middle, tolerance)
                            if kind == 0
                            else middle - i < 3 or _arc_bulge(p, i, middle, tolerance) != 0.0
                        )
                        if good:
                            low = middle
                        else:
                            high = middle
                    break
                low, step = probe, step * 2
            reach[kind] = low
            if low == stop:
                break
        end, bulge = reach[0], 0.0
        if reach[1] > reach[0] and reach[1] - i >= 3:
            found = _arc_bulge(p, i, reach[1], tolerance)
            if found != 0.0:
                end, bulge = reach[1], found
        rows[count, 0], rows[count, 1], rows[count, 2] = p[i, 0], p[i, 1], bulge
        count += 1
        i = end
    return count


def walk(p: Array, tolerance: float, rows: Array) -> int:
    """``_walk``, compiled once much has been asked of it."""
    global _done
    _done += len(p)
    if _compiled is None and (_done > MUCH or len(p) > MUCH // 4):
        warm()
    if _compiled is not None:
        return int(_compiled(p, tolerance, rows))
    return _walk(p, tolerance, rows)


def warm() -> None:
    """Compile the walk (kept on disk from then on)."""
    global _compiled
    import numba

    parts = {f.__name__: numba.njit(cache=True, nogil=True)(f) for f in (_line_fits, _arc_bulge)}
    # the same code with the compiled helpers in place of the interpreted ones
    _compiled = numba.njit(cache=True, nogil=True)(
        FunctionType(_walk.__code__, {**globals(), **parts}, "_walk")
    )
