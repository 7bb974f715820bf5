"""A surface as it is seen from above, lit from the upper left."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely

from venzo.core.body.picture import TONES
from venzo.core.relief.block import Relief

LIGHT = np.array([-0.5, 0.6, 0.62])
"""From where it is lit: x, y, z."""
PLAIN = 0.55
"""How bright a level place is, of 1."""


def lit(relief: Relief, width: int) -> npt.NDArray[np.uint8]:
    """The box of a relief's outline as (rows, ``width``, 4): its depth as a tone, slopes lit; nothing where
    the outline does not reach. The first row is the highest in Y.
    """
    x0, y0, x1, y1 = relief.outline.bounds
    rows = max(1, round(width * (y1 - y0) / (x1 - x0)))
    step = (x1 - x0) / width
    xs = x0 + (np.arange(width) + 0.5) * step
    ys = y1 - (np.arange(rows) + 0.5) * (y1 - y0) / rows
    at = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    off = relief.ground.lowest - 1.0
    z = relief.ground.heights(at).reshape(rows, width)
    seen = z > off
    dy, dx = np.gradient(z, -(y1 - y0) / rows, step)
    normal = np.stack([-dx, -dy, np.ones_like(z)], axis=-1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    bright = np.clip((normal @ (LIGHT / np.linalg.norm(LIGHT))), 0.0, 1.0)
    deep = np.clip(-z / max(relief.depth, 1e-6), 0.0, 1.0)
    tone = TONES[(deep * 0.55 * (len(TONES) - 1)).astype(int)]
    shade = 0.42 + 0.5 * bright / PLAIN
    out = np.zeros((rows, width, 4), dtype=np.uint8)
    out[..., :3] = np.clip(tone * shade[..., None], 0, 255)
    inside = shapely.contains_xy(relief.outline, at[:, 0], at[:, 1]).reshape(rows, width)
    out[..., 3] = np.where(seen & inside, 255, 0)
    return out
