"""Bezier curves as points."""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import pairwise

import numpy as np

from venzo.core.geometry.contour import Array

MOST_CHORDS = 2000
"""Chords of one curve: absurd sizes must not cost absurd time."""


def bezier_points(control: Array, chord: float) -> Array:
    """A Bezier curve of degree 2 or 3 as points whose chords stay within ``chord`` of it.

    Uses the bound chord error <= max|B''| / (8 n^2), B'' bounded by the control polygon's second differences.
    """
    rows = control.tolist()
    degree = len(rows) - 1
    second = (
        max(
            math.hypot(p[0] - 2 * q[0] + r[0], p[1] - 2 * q[1] + r[1])
            for p, q, r in zip(rows, rows[1:], rows[2:], strict=False)
        )
        * degree
        * (degree - 1)
    )
    n = int(min(MOST_CHORDS, max(4, math.ceil(math.sqrt(second / (8 * chord))))))
    return _basis(degree, n) @ control


@lru_cache(maxsize=2000)
def _basis(degree: int, n: int) -> Array:
    """Bernstein polynomials of degree 2 or 3 at n + 1 even places ``(n + 1, degree + 1)``."""
    t = np.linspace(0, 1, n + 1)[:, None]
    u = 1 - t
    return np.hstack([u**2, 2 * t * u, t**2] if degree == 2 else [u**3, 3 * t * u**2, 3 * t**2 * u, t**3])


def bspline_points(
    control: Array, knots: Array, degree: int, chord: float, weights: Array | None = None
) -> Array:
    """Points (n, 2) on a B-spline curve within ``chord`` of it, over the part of its knots on which it is
    defined.

    Args:
        control: (n, 2).
        knots: (n + degree + 1), not decreasing.
        chord: largest distance of the curve from the line between two points.
        weights: of a rational curve, positive.

    Every span between two knots is cut as finely as its largest second difference asks for (de Boor, A
    Practical Guide to Splines).

    Raises:
        ValueError: knots that decrease, or weights that are not positive.
    """
    from scipy.interpolate import BSpline

    if (np.diff(knots) < 0).any() or (weights is not None and not (weights > 0).all()):
        raise ValueError("a spline whose knots decrease or whose weights are not positive")
    if weights is None:
        curve = BSpline(knots, control, degree)
        at = curve
    else:
        homogeneous = BSpline(knots, np.column_stack([control * weights[:, None], weights]), degree)

        def at(t: Array) -> Array:
            h = homogeneous(t)
            return h[:, :2] / h[:, 2:]

    spans = np.unique(knots[degree : len(control) + 1])
    out: list[Array] = []
    for a, b in pairwise(spans):
        n = 8
        while True:
            t = np.linspace(a, b, 2 * n + 1)
            t[-1] = b if b == spans[-1] else b - 1e-12 * (b - a)
            p = at(t)
            away = np.abs(p[1::2] - (p[:-1:2] + p[2::2]) / 2).max() if len(p) > 2 else 0.0
            if away <= chord or n >= MOST_CHORDS:
                break
            n = min(MOST_CHORDS, max(2 * n, math.ceil(n * math.sqrt(away / chord) * 1.1)))
        out.append(p[:-1])
    return np.vstack([*out, at(np.array([spans[-1]]))])
