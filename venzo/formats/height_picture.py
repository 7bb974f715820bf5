"""Pictures of heights in: PNG and TIFF, white high, 8 or 16 bits a place."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from pathlib import PurePath

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.relief.height_grid import STAIR
from venzo.core.snags import BadInput, Snag, look, note

KINDS = (".png", ".tif", ".tiff")
LARGEST = 200 * 1024**2
"""Bytes of a file, at most."""
MOST_PLACES = 1_400_000
"""Pixels of which a surface is made; a larger picture is averaged down."""
MOST_READ = 100_000_000
"""Pixels of a picture that is opened at all."""


@dataclass(frozen=True)
class HeightPicture:
    """Heights from 0 (black) to 1 (white); row 0 is the lowest in Y. ``steps``: grey levels that the file can
    tell apart.
    """

    name: str
    heights: Array
    steps: int
    snags: tuple[Snag, ...] = ()

    @property
    def stair_share(self) -> float:
        """Height of one grey level as a share of the height from lowest to highest."""
        return min(1.0, self.stair(1.0))

    def stair(self, height: float) -> float:
        """Height of one grey level, mm, where black to white is ``height`` mm.

        >>> round(HeightPicture("a", np.eye(2), 255).stair(10), 4)
        0.0392
        """
        spread = float(np.ptp(self.heights))
        return height / (self.steps * spread) if spread > 0 else math.inf


def read_heights(data: bytes, name: str, smooth: float = 0.0, black_high: bool = False) -> HeightPicture:
    """A picture as heights; ``smooth``: pixels over which neighbours are averaged (a bell curve's width).

    Raises:
        BadInput: another kind, damaged, too large, all of one grey.
    """
    from PIL import Image, UnidentifiedImageError

    if PurePath(name).suffix.lower() not in KINDS:
        raise BadInput(f"{name}: heights are read from {', '.join(KINDS)}; save the picture as one of these")
    if len(data) > LARGEST:
        raise BadInput(f"{name}: over {LARGEST // 1024**2} MB; save the picture smaller")
    if not 0 <= smooth <= 200:
        raise BadInput(f"smoothing over {smooth:g} pixels: give 0 to 200")
    try:
        with Image.open(io.BytesIO(data)) as picture:
            if picture.width * picture.height > MOST_READ:
                raise BadInput(
                    f"{name}: {picture.width} x {picture.height} pixels; at most {MOST_READ:,} are read: save"
                    " it smaller"
                )
            grey, full = _grey(picture)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as e:
        raise BadInput(f"{name}: not a picture that can be read ({e}); save it again as PNG") from e
    if min(grey.shape) < 2 or not np.isfinite(grey).all():
        raise BadInput(f"{name}: a picture of at least 2 x 2 pixels with a grey in each is wanted")
    heights = (1.0 - grey / full if black_high else grey / full)[::-1]
    said: list[Snag] = []
    if heights.size > MOST_PLACES:
        heights = _smaller(heights)
        said.append(
            note(
                "relief.averaged",
                f"{name}: {grey.shape[1]} x {grey.shape[0]} pixels were averaged to {heights.shape[1]} x"
                f" {heights.shape[0]}; {MOST_PLACES:,} are used at most",
            )
        )
    if smooth:
        from scipy.ndimage import gaussian_filter

        heights = gaussian_filter(heights, smooth, mode="nearest")
    if np.ptp(heights) < 1e-9:
        raise BadInput(f"{name}: all of it is one grey, so that it has no heights; choose another picture")
    return HeightPicture(name, np.ascontiguousarray(heights), 255 if full <= 255 else 65535, tuple(said))


def stairs(picture: HeightPicture, height: float, smooth: float) -> list[Snag]:
    """Are its grey levels seen as stairs, at a height in mm from lowest to highest?"""
    step = picture.stair(height)
    if smooth or step <= STAIR:
        return []
    return [
        look(
            "relief.stairs",
            f"{picture.name} tells {picture.steps + 1} greys apart: over {height:g} mm one is a stair"
            f" of {step:.3f} mm that may be seen on slopes; smooth it over a few pixels, or save 16 bits",
        )
    ]


def _grey(picture: object) -> tuple[Array, float]:
    """Greys as numbers, and what white is."""
    from PIL import Image

    assert isinstance(picture, Image.Image)
    mode = picture.mode
    if mode.startswith("I"):
        values = np.asarray(picture.convert("I") if mode == "I" else picture, dtype=float)
        return values, 65535.0
    if mode == "F":
        values = np.asarray(picture, dtype=float)
        low, high = float(np.nanmin(values)), float(np.nanmax(values))
        return (values - low) / (high - low) * 65535.0 if high > low else values * 0, 65535.0
    if mode in ("RGBA", "LA", "PA", "P"):
        # what can be seen through is as low as black
        seen = picture.convert("RGBA")
        under = Image.new("RGBA", seen.size, (0, 0, 0, 255))
        return np.asarray(Image.alpha_composite(under, seen).convert("L"), dtype=float), 255.0
    return np.asarray(picture.convert("L"), dtype=float), 255.0


def _smaller(heights: Array) -> Array:
    """Averaged in whole squares of pixels until it is no larger than MOST_PLACES."""
    k = math.ceil(math.sqrt(heights.size / MOST_PLACES))
    rows, columns = heights.shape[0] // k, heights.shape[1] // k
    return heights[: rows * k, : columns * k].reshape(rows, k, columns, k).mean(axis=(1, 3))
