"""Which lines and arcs stand for a run of points? Greedy refitting within a tolerance."""

from __future__ import annotations

import numpy as np

from venzo.core.geometry.contour import Array, Contour
from venzo.core.tolerances import REFIT


def _circle(p: Array, tolerance: float) -> Array | None:
    """Two half arcs where all points and chord middles lie within the tolerance of one circle that is run
    round once.
    """
    a, b, c = p[0], p[len(p) // 3], p[2 * len(p) // 3]
    ab, ac = b - a, c - a
    cross = 2 * (ab[0] * ac[1] - ab[1] * ac[0])
    if abs(cross) < 1e-12:
        return None
    centre = (
        a + np.array([ac[1] * (ab @ ab) - ab[1] * (ac @ ac), ab[0] * (ac @ ac) - ac[0] * (ab @ ab)]) / cross
    )
    q = p - centre
    n = np.roll(q, -1, axis=0)
    r = float(np.hypot(*q[0]))
    for s in (q, (q + n) / 2):
        if np.abs(np.hypot(s[:, 0], s[:, 1]) - r).max() > tolerance:
            return None
    turns = np.arctan2(q[:, 0] * n[:, 1] - q[:, 1] * n[:, 0], np.sum(q * n, axis=1))
    if abs(abs(turns.sum()) - 2 * np.pi) > 1e-6 or not (np.all(turns > 0) or np.all(turns < 0)):
        return None
    side = np.sign(turns[0])
    return np.array([[*p[0], side], [*(centre - q[0]), side]])


def fit(points: Array, closed: bool = True, tolerance: float = REFIT, layer: str = "") -> Contour:
    """Lines and arcs through some of ``points`` (n, 2) from which no point lies further than ``tolerance``
    mm.

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
        circle = _circle(p, tolerance) if len(p) >= 8 else None
        if circle is not None:
            return Contour(circle, True, layer)
        into, out = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
        turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], np.sum(into * out, axis=1)))
        p = np.roll(p, -int(np.argmax(turn)), axis=0)
        p = np.vstack([p, p[:1]])
    rows = np.empty((len(p), 3))
    from venzo.core.geometry.fit_kernel import walk  # here, since its compiler is dear to load

    n = walk(p, tolerance, rows)
    if closed:
        return Contour(rows[:n].copy(), True, layer)
    rows[n] = (p[-1, 0], p[-1, 1], 0.0)
    return Contour(rows[: n + 1].copy(), False, layer)
