"""The stock as it is seen: depth as a tone, walls and steps as ink lines, light from the upper left."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import numpy.typing as npt

from venzo.core.body.field import THREADS, Box, StockBody

Picture = npt.NDArray[np.uint8]
TONES = np.array([(245, 236, 214), (196, 204, 196), (120, 152, 154), (52, 92, 100)], dtype=float)
"""From the untouched face to the sheet's underside; light to dark, so that depth reads without colour."""
UNDER = (214.0, 205.0, 190.0)
"""The spoilboard where the sheet is cut through; hatched too."""
LIGHT = 0.6
"""How much a slope is lit or shaded."""
HATCH = 7
"""Pixels from line to line of the hatching."""


def painted(body: StockBody, thickness: float, area: Box, width: int, every: float) -> Picture:
    """An area of a sheet as (rows, ``width``, 3): its depth from the top to the underside ``thickness`` mm
    below, lines ``every`` mm of depth.
    """
    from venzo.core.body import picture_kernel

    body.settle()
    rows = max(1, round(width * (area.y1 - area.y0) / (area.x1 - area.x0)))
    out = np.zeros((rows, width, 3), dtype=np.uint8)
    bounds = [rows * k // THREADS for k in range(THREADS + 1)]

    def part(k: int) -> None:
        picture_kernel.paint(
            body.index,
            body.tiles,
            body.box.x0,
            body.box.y0,
            body.cell,
            body.top,
            (area.x0, area.y0, area.x1, area.y1),
            body.top - thickness,
            every,
            LIGHT,
            TONES,
            UNDER,
            HATCH,
            (bounds[k], rows),
            out[bounds[k] : bounds[k + 1]],
        )

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(part, range(THREADS)))
    return out


def section(body: StockBody, start: tuple[float, float], end: tuple[float, float]) -> npt.NDArray[np.float64]:
    """Distance along a line and the height there (n, 2), a point a cell; kept only where the height changes.

    >>> section(StockBody(Box(0, 0, 10, 10), 0.5), (0.0, 5.0), (10.0, 5.0)).tolist()
    [[0.0, 0.0], [10.0, 0.0]]
    """
    long = math.dist(start, end)
    n = max(2, math.ceil(long / body.cell) + 1)
    t = np.linspace(0.0, 1.0, n)[:, None]
    points = np.array(start) + (np.array(end) - np.array(start)) * t
    h = body.heights(points)
    turn = np.ones(n, dtype=bool)
    turn[1:-1] = np.abs(h[2:] - 2 * h[1:-1] + h[:-2]) > 1e-4
    return np.column_stack([t[turn, 0] * long, h[turn]])


def warm() -> None:
    """Compile the loops by a picture of some pixels."""
    painted(StockBody(Box(0, 0, 8, 8), 0.5), 4.0, Box(0, 0, 8, 8), 8, 1.0)
