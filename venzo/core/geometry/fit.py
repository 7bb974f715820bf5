"""Which lines and arcs stand for a run of points? Greedy refitting within a tolerance."""

from __future__ import annotations

import numpy as np

from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.fit_kernel import walk
from venzo.core.tolerances import REFIT


def fit(points: Array, closed: bool = True, tolerance: float = REFIT, layer: str = "") -> Contour:
    """Lines and arcs through some of ``points`` (n, 2) from which no point lies further than ``tolerance`` mm.

    Chord middles are held to the tolerance as well, so that the corners of a square are not taken for
    a circle. Greedy from the sharpest corner: each segment reaches as far as it can.

    >>> t = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    >>> len(fit(np.column_stack([10 * np.cos(t), 10 * np.sin(t)])).vertices)
    2
    """
    p = np.ascontiguousarray(points, dtype=float)
    if len(p) > 1:
        d = p[1:] - p[:-1]
        short = d[:, 0] * d[:, 0] + d[:, 1] * d[:, 1] <= 1e-14
        if short.any():
            p = p[np.r_[True, ~short]]
        if closed and len(p) > 1 and abs(p[0] - p[-1]).max() <= 1e-7:
            p = p[:-1]
    if len(p) < 3:
        return Contour.of(p, closed, layer)
    if closed:
        into, out = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
        turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], np.sum(into * out, axis=1)))
        p = np.roll(p, -int(np.argmax(turn)), axis=0)
        p = np.vstack([p, p[:1]])
    rows = np.empty((len(p), 3))
    n = walk(p, tolerance, rows)
    if closed:
        return Contour(rows[:n].copy(), True, layer)
    rows[n] = (p[-1, 0], p[-1, 1], 0.0)
    return Contour(rows[: n + 1].copy(), False, layer)
