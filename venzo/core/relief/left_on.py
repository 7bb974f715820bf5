"""What cutters leave standing on a relief, and what they took that is the model's."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z
from venzo.core.geometry.contour import Array
from venzo.core.relief.block import Relief
from venzo.core.relief.finishing import ReliefPass

CELLS = 1_200_000
"""Places at which a relief is looked at."""
BITES = 20_000
"""Places along a pass at which it is asked what stands there."""
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
    deepest_in: float
    """How far a cutter went into the model at most, mm, normal to its surface."""
    bites: tuple[Array, ...] = ()
    """Of every pass, how high the stock stood over the middle of its tip when it began, mm, at ``BITES``
    places along its way.
    """

    def share(self, percent: float) -> float:
        """What is left at so many percent of the places, at most."""
        return float(np.percentile(self.left, percent)) if len(self.left) else 0.0

    @property
    def worst(self) -> float:
        """Most that is left anywhere, mm."""
        return float(self.left.max()) if len(self.left) else 0.0


STEPS = (0.005, 0.01, 0.015, 0.02, 0.03, 0.05, 0.1, 0.2)
"""mm: how far aside the model is looked at where a cutter seems to have gone into it."""
AROUND = np.column_stack([np.cos(np.arange(16) * math.pi / 8), np.sin(np.arange(16) * math.pi / 8)])


def _deepest_in(relief: Relief, points: Array, cut: Array, model: Array) -> float:
    """How far what was cut lies inside the model. Beside a wall that stands upright a hair aside is all of
    the wall's height: what lies within ``STEPS`` of the model's surface is in no further than that.
    """
    deep = model - cut
    ask = np.flatnonzero(deep > STEPS[0])
    if not len(ask):
        return max(0.0, float(deep.max(initial=0.0)))
    found = deep[ask].copy()
    for r in reversed(STEPS):
        near = (points[ask, None, :] + r * AROUND).reshape(-1, 2)
        low = relief.ground.heights(near).reshape(-1, len(AROUND)).min(axis=1)
        found = np.where(low <= cut[ask] + r, np.minimum(found, r), found)
    return float(found.max())


def bites_of(body: StockBody, p: ReliefPass) -> Array:
    """How high the stock stands over a pass's tip all along its way, before the pass."""
    at = p.moves[p.moves[:, KIND] != RAPID][:, [X, Y, Z]]
    at = at[:: max(1, len(at) // BITES)]
    return body.heights(at[:, :2]) - at[:, 2] if len(at) else np.zeros(0)


def stock_for(relief: Relief, widest: float, cells: int = CELLS) -> StockBody:
    """The block over a relief's boundary and ``widest`` mm beside it, uncut."""
    x0, y0, x1, y1 = relief.boundary.bounds
    cell = max(FINEST, math.sqrt((x1 - x0) * (y1 - y0) / cells))
    return StockBody(Box(x0 - widest, y0 - widest, x1 + widest, y1 + widest), cell)


def stock_after(relief: Relief, passes: Sequence[ReliefPass], cells: int = CELLS) -> StockBody:
    """The block once some passes were run."""
    body = stock_for(relief, max((p.cutter.radius for p in passes), default=0.0), cells)
    for p in passes:
        if len(p.moves) > 1:
            body.cut(p.moves, p.cutter)
    return body


def carved(relief: Relief, passes: Sequence[ReliefPass], cells: int = CELLS) -> Carved:
    """The block after passes were run, held against the model.

    Cells whose middle lies inside the model's outline and boundary count; heights are exact at the middles.
    """
    body = stock_for(relief, max((p.cutter.radius for p in passes), default=0.0), cells)
    box, cell = body.box, body.cell
    bites = []
    for p in passes:
        bites.append(bites_of(body, p))
        if len(p.moves) > 1:
            body.cut(p.moves, p.cutter)
    xs, ys = (np.arange(a, b, cell) + cell / 2 for a, b in ((box.x0, box.x1), (box.y0, box.y1)))
    at = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    at = at[shapely.contains_xy(relief.outline, at[:, 0], at[:, 1])]
    model = np.maximum(relief.ground.heights(at), -relief.block.thickness)
    cut = body.heights(at)
    return Carved(body, at, cut - model, _deepest_in(relief, at, cut, model), tuple(bites))
