"""What cutters leave standing on a relief, and what they took that is the model's."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from venzo.core.body.field import Box, StockBody
from venzo.core.geometry.contour import Array
from venzo.core.relief.block import Relief
from venzo.core.relief.finishing import ReliefPass

CELLS = 1_200_000
"""Places at which a relief is looked at."""
FINEST = 0.05
"""mm between them, at least."""


@dataclass(frozen=True, eq=False)
class Carved:
    """The block after some passes, looked at in cells over the model.

    ``body``: the stock; ``points`` (n, 2): the places inside the outline; ``left``: what stands there above
    the model, vertical, mm; below 0: cut into it.
    """

    body: StockBody
    points: Array
    left: Array

    def share(self, percent: float) -> float:
        """What is left at so many percent of the places, at most."""
        return float(np.percentile(self.left, percent)) if len(self.left) else 0.0

    @property
    def worst(self) -> float:
        """Most that is left anywhere, mm."""
        return float(self.left.max()) if len(self.left) else 0.0

    @property
    def deepest_in(self) -> float:
        """How far a cutter went into the model at most, mm."""
        return max(0.0, -float(self.left.min())) if len(self.left) else 0.0


def carved(relief: Relief, passes: Sequence[ReliefPass], cells: int = CELLS) -> Carved:
    """The block after passes were run, held against the model.

    Cells whose middle lies inside the model's outline and boundary count; heights are exact at the middles.
    """
    x0, y0, x1, y1 = relief.boundary.bounds
    cell = max(FINEST, math.sqrt((x1 - x0) * (y1 - y0) / cells))
    widest = max((p.cutter.radius for p in passes), default=0.0)
    box = Box(x0 - widest, y0 - widest, x1 + widest, y1 + widest)
    body = StockBody(box, cell)
    for p in passes:
        if len(p.moves) > 1:
            body.cut(p.moves, p.cutter)
    xs, ys = (np.arange(a, b, cell) + cell / 2 for a, b in ((box.x0, box.x1), (box.y0, box.y1)))
    at = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    at = at[shapely.contains_xy(relief.outline, at[:, 0], at[:, 1])]
    model = np.maximum(relief.ground.heights(at), -relief.block.thickness)
    return Carved(body, at, body.heights(at) - model)
