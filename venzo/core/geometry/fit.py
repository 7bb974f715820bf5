"""Which lines and arcs stand for a run of points? Greedy refitting within a tolerance."""

from __future__ import annotations

import math

import numpy as np

from venzo.core.geometry.contour import Array, Contour
from venzo.core.tolerances import REFIT


def _line_error(p: Array) -> float:
    d = p[-1] - p[0]
    n = math.hypot(*d)
    q = p - p[0]
    if n < 1e-12:
        return float(np.hypot(*q.T).max())
    along = (q @ d) / n
    if along.min() < -1e-9 or along.max() > n + 1e-9:
        return math.inf
    return float(np.abs(q[:, 0] * d[1] - q[:, 1] * d[0]).max() / n)


def _arc_bulge(p: Array, tolerance: float) -> float | None:
    """Bulge of the arc through the first, a middle and the last point if all points and all chord
    middles lie within ``tolerance`` of it and the run turns one way by at most half a circle."""
    a, m, b = p[0], p[len(p) // 2], p[-1]
    ab, am = b - a, m - a
    cross = am[0] * ab[1] - am[1] * ab[0]
    chord = math.hypot(*ab)
    if abs(cross) < 1e-12 or chord < 1e-9:
        return None
    # circumcentre relative to a
    d = 2 * cross
    am2, ab2 = am @ am, ab @ ab
    ux = (ab[1] * am2 - am[1] * ab2) / d
    uy = (am[0] * ab2 - ab[0] * am2) / d
    r = math.hypot(ux, uy)
    if r > 1e5:
        return None
    q = p - (a + (ux, uy))
    if np.abs(np.hypot(*q.T) - r).max() > tolerance:
        return None
    mid = (q[1:] + q[:-1]) / 2
    if np.abs(np.hypot(*mid.T) - r).max() > tolerance:
        return None
    turns = np.arctan2(q[:-1, 0] * q[1:, 1] - q[:-1, 1] * q[1:, 0], np.sum(q[:-1] * q[1:], axis=1))
    if not (np.all(turns > 0) or np.all(turns < 0)):
        return None
    sweep = float(turns.sum())
    if abs(sweep) > math.pi + 1e-6:
        return None
    return math.tan(sweep / 4)


def _reach(points: Array, start: int, stop: int, good) -> int:
    """Largest end index for which ``good(points[start:end + 1])``: doubling, then bisection."""
    low, step = start + 1, 2
    while low < stop:
        probe = min(stop, start + step)
        if probe <= low:
            break
        if not good(points[start : probe + 1]):
            high = probe
            while high - low > 1:
                middle = (low + high) // 2
                if good(points[start : middle + 1]):
                    low = middle
                else:
                    high = middle
            return low
        low, step = probe, step * 2
    return low


def fit(points: Array, closed: bool = True, tolerance: float = REFIT, layer: str = "") -> Contour:
    """Lines and arcs through some of ``points`` (n, 2) from which no point lies further than ``tolerance`` mm.

    Chord middles are held to the tolerance as well, so that the corners of a square are not taken for
    a circle. Greedy from the sharpest corner: each segment reaches as far as it can.

    >>> t = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    >>> len(fit(np.column_stack([10 * np.cos(t), 10 * np.sin(t)])).vertices)
    2
    """
    p = np.asarray(points, dtype=float)
    keep = np.hypot(*(p - np.roll(p, 1, axis=0)).T) > 1e-7
    if not closed:
        keep[0] = True
    p = p[keep]
    if len(p) < 3:
        return Contour.of(p, closed, layer)
    if closed:
        into, out = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
        turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], np.sum(into * out, axis=1)))
        p = np.roll(p, -int(np.argmax(turn)), axis=0)
        p = np.vstack([p, p[:1]])
    stop = len(p) - 1
    rows: list[tuple[float, float, float]] = []
    i = 0
    while i < stop:
        line = _reach(p, i, stop, lambda q: _line_error(q) <= tolerance)
        end, bulge = line, 0.0
        if line < stop:
            arc = _reach(p, i, stop, lambda q: len(q) < 4 or _arc_bulge(q, tolerance) is not None)
            if arc > line and arc - i >= 3:
                found = _arc_bulge(p[i : arc + 1], tolerance)
                if found is not None:
                    end, bulge = arc, found
        rows.append((float(p[i, 0]), float(p[i, 1]), bulge))
        i = end
    if not closed:
        rows.append((float(p[-1, 0]), float(p[-1, 1]), 0.0))
    return Contour.of(rows, closed, layer)
