"""Bezier curves as points."""

from __future__ import annotations

import math
from functools import lru_cache

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
    second = max(math.hypot(p[0] - 2 * q[0] + r[0], p[1] - 2 * q[1] + r[1]) for p, q, r in zip(rows, rows[1:], rows[2:], strict=False)) * degree * (degree - 1)
    n = int(min(MOST_CHORDS, max(4, math.ceil(math.sqrt(second / (8 * chord))))))
    return _basis(degree, n) @ control


@lru_cache(maxsize=2000)
def _basis(degree: int, n: int) -> Array:
    """Bernstein polynomials of degree 2 or 3 at n + 1 even places ``(n + 1, degree + 1)``."""
    t = np.linspace(0, 1, n + 1)[:, None]
    u = 1 - t
    return np.hstack([u**2, 2 * t * u, t**2] if degree == 2 else [u**3, 3 * t * u**2, 3 * t**2 * u, t**3])
