"""How wide is a cut, and how thick is what stands, at a point: the least distance across, whichever way."""

from __future__ import annotations

import numpy as np

from venzo.core.body.field import StockBody

WAYS = 24
"""Directions in which it is measured, half a turn."""
FARTHEST = 80.0
"""mm; what is wider is not told."""
ALIKE = 0.05
"""mm of height by which a cut's floor may vary and still be one floor."""


def across(body: StockBody, x: float, y: float, floor: float) -> tuple[float, float | None]:
    """Height at a point, and the least distance (mm) across the cut there or, where nothing was cut, across
    what stands between two cuts; None: over ``FARTHEST``. Right within a cell at each end; below ``floor``
    all is one.

    >>> from venzo.core.body.field import Box
    >>> from venzo.core.cuts.moves import LINE, RAPID, row
    >>> from venzo.core.tooling.cutter import Cutter
    >>> body = StockBody(Box(0, 0, 60, 40), 0.1)
    >>> mill = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=20)
    >>> body.cut(np.array([row(RAPID, 5, 20, 3), row(LINE, 5, 20, -5), row(LINE, 55, 20, -5)]), mill)
    >>> h, wide = across(body, 30, 20.5, -18)
    >>> h, round(wide, 1)
    (-5.0, 6.0)
    """
    n = int(FARTHEST / body.cell)
    turn = np.arange(WAYS) * np.pi / WAYS
    way = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    steps = np.arange(-n, n + 1)[None, :, None] * body.cell
    points = np.array([x, y]) + way[:, None, :] * steps
    h = np.maximum(body.heights(points.reshape(-1, 2)).reshape(WAYS, 2 * n + 1), floor)
    here = float(h[0, n])
    other = np.abs(h - here) > ALIKE if here >= body.top - 1e-6 or here <= floor + 1e-6 else h > here + ALIKE
    before = np.argmax(other[:, :n][:, ::-1], axis=1)
    after = np.argmax(other[:, n + 1 :], axis=1)
    walled = other[:, :n].any(axis=1) & other[:, n + 1 :].any(axis=1)
    least = float(((before + after + 1) * body.cell)[walled].min()) if walled.any() else None
    return here, least
