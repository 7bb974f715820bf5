"""The stock as it is seen: depth as a tone, walls and steps as ink lines, light from the upper left."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import numpy.typing as npt

from venzo.core.body.field import THREADS, Box, StockBody

Picture = npt.NDArray[np.uint8]
_TONES = np.array([(245, 236, 214), (196, 204, 196), (120, 152, 154), (52, 92, 100)], dtype=float)
TONES = np.column_stack(
    [np.interp(np.linspace(0, 1, 1024), np.linspace(0, 1, len(_TONES)), _TONES[:, k]) for k in range(3)]
).astype(np.float32)
"""From the untouched face to the sheet's underside; light to dark, so that depth reads without colour."""
UNDER = np.array([214.0, 205.0, 190.0], dtype=np.float32)
"""The spoilboard where the sheet is cut through; hatched too."""
LIGHT = 0.6
"""How much a slope is lit or shaded."""
STRIP = 64
"""Rows of a picture painted in one go: few enough that their heights stay in the processor's own memory."""
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
    dx, dy = (area.x1 - area.x0) / width, (area.y1 - area.y0) / rows
    about = max(1, round(body.cell / dx))
    xs = area.x0 + (np.arange(-about, 2 * width + about) + 0.5) * dx / 2

    def strip(first: int) -> None:
        end = min(rows, first + STRIP)
        ys = area.y1 - (np.arange(2 * first - about, 2 * end + about) + 0.5) * dy / 2
        picture_kernel.paint(
            picture_kernel.sampled(
                body.index, body.tiles, body.box.x0, body.box.y0, body.cell, body.top, xs, ys
            ),
            body.top,
            body.top - thickness,
            every,
            about,
            about * dx / 2,
            LIGHT,
            TONES,
            UNDER,
            HATCH,
            first,
            out[first:end],
        )

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(strip, range(0, rows, STRIP)))
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
