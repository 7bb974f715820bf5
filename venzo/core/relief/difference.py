"""What stands above a model, or is cut into it, as colours that also differ by pattern."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from venzo.core.geometry.contour import Array

Pattern = Literal["plain", "dots", "lines", "crossed", "close lines"]
Picture = npt.NDArray[np.uint8]


@dataclass(frozen=True)
class Band:
    """Heights above the model up to ``upto`` mm: how they are called and shown."""

    upto: float
    called: str
    colour: tuple[int, int, int]
    ink: tuple[int, int, int]
    pattern: Pattern


INTO = -0.02
"""mm: less than so far into the model is the proof's own budget."""
BANDS = (
    Band(INTO, "cut into", (224, 150, 138), (150, 30, 20), "crossed"),
    Band(0.05, "as modelled", (216, 232, 222), (216, 232, 222), "plain"),
    Band(0.2, "ridges", (236, 226, 176), (150, 128, 60), "dots"),
    Band(1.0, "left", (226, 190, 122), (120, 84, 24), "lines"),
    Band(np.inf, "not reached", (176, 140, 96), (70, 46, 14), "close lines"),
)
"""From below the model to far above it; each band reads by its pattern too."""


def band_of(left: Array) -> npt.NDArray[np.int64]:
    """The number of the band of every height above the model, mm.

    >>> band_of(np.array([-0.1, 0.0, 0.1, 0.5, 3.0])).tolist()
    [0, 1, 2, 3, 4]
    """
    return np.searchsorted(np.array([b.upto for b in BANDS[:-1]]), left, side="right")


def coloured(picture: Picture, left: Array) -> Picture:
    """A picture (rows, columns, 3) with the bands of ``left`` (rows, columns; nan: no model there) on it,
    light and shade of the picture kept.
    """
    out = picture.copy()
    there = np.isfinite(left)
    if not there.any():
        return out
    bands = band_of(np.where(there, left, 0.0))
    x, y = np.meshgrid(np.arange(left.shape[1]), np.arange(left.shape[0]))
    shade = picture.astype(float).mean(axis=2) / 225.0
    for k, band in enumerate(BANDS):
        own = there & (bands == k)
        inked = own & _inked(band.pattern, x, y)
        for mask, colour in ((own, band.colour), (inked, band.ink)):
            lit = np.clip(shade[mask], 0.45, 1.15)[:, None] * np.array(colour, dtype=float)
            out[mask] = np.clip(lit, 0, 255).astype(np.uint8)
    return out


def _inked(pattern: Pattern, x: npt.NDArray[np.int64], y: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
    if pattern == "dots":
        return ((x % 6) < 2) & ((y % 6) < 2)
    if pattern == "lines":
        return (x + y) % 8 < 1
    if pattern == "close lines":
        return (x + y) % 4 < 1
    if pattern == "crossed":
        return ((x + y) % 6 < 1) | ((x - y) % 6 < 1)
    return np.zeros(x.shape, dtype=bool)
