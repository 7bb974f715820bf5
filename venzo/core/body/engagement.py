"""How much of a cutter is in material as it goes along a path, measured in the body it goes through."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from types import ModuleType

import numpy as np

from venzo.core.body.field import Box, Mask, StockBody, profile_of, segments
from venzo.core.cuts.moves import LINE, RAPID, row
from venzo.core.feeds.mechanics import RADIAL
from venzo.core.geometry.contour import Array
from venzo.core.tooling.cutter import Cutter

ARCS = 91
"""Points on the leading half of the rim that are asked."""


STEP = 6
"""Cells along the way from one measuring to the next."""


def cell_for(cutter: Cutter, fine: int = 64) -> float:
    """Cells that show a cutter's rim: ``fine`` across its diameter, mm."""
    return min(0.5, max(0.04, cutter.diameter / fine))


@dataclass(frozen=True, eq=False)
class Engagement:
    """What a cutter met, step by step along its way. mm.

    ``at`` (n, 3): where; ``s``: distance along; ``width``: across the travel; ``depth``: along the axis;
    ``thick``: width of what is deeper than the limit asked for; ``section``: largest chip section in the arc
    engaged, over the feed per tooth, radial share included; ``area``: section of what is taken across the
    travel, mm2. Of a step straight down only the depth, on the cutter's axis.
    """

    at: Array
    s: Array
    width: Array
    depth: Array
    thick: Array
    section: Array
    area: Array

    def worst(self) -> tuple[float, float, float]:
        """Widest, deepest and largest section anywhere; zeros where it met nothing."""
        return (
            (float(self.width.max()), float(self.depth.max()), float(self.section.max()))
            if len(self.s)
            else (0.0, 0.0, 0.0)
        )

    def outside(self, over: Sequence[tuple[float, float]], total: float) -> Mask:
        """Which steps lie outside some stretches (from, to) of a closed path ``total`` mm long?"""
        keep = np.ones(len(self.s), dtype=bool)
        for a, b in over:
            keep &= (self.s - a) % total > b - a
        return keep

    def at_steps(self, keep: Mask) -> Engagement:
        """What was met at some of the steps."""
        return Engagement(
            self.at[keep],
            self.s[keep],
            self.width[keep],
            self.depth[keep],
            self.thick[keep],
            self.section[keep],
            self.area[keep],
        )

    def stretches(self, closed: Mask, reach: float, total: float) -> list[tuple[float, float]]:
        """Runs (from, to, distance along a closed path ``total`` mm long) where ``closed`` holds, widened by
        ``reach`` at both ends and joined where they meet.
        """
        marks = sorted(
            (float(s) - reach - gap, float(s) + reach)
            for s, gap, c in zip(self.s, np.diff(self.s, prepend=0.0), closed, strict=True)
            if c
        )
        out: list[list[float]] = []
        for a, b in marks:
            if out and a <= out[-1][1]:
                out[-1][1] = max(out[-1][1], b)
            else:
                out.append([a, b])
        if len(out) > 1 and out[-1][1] >= out[0][0] + total:  # over the path's start
            out[-1][1] = max(out[-1][1], out[0][1] + total)
            out.pop(0)
        return [(a, b) for a, b in out]


def engage(body: StockBody, moves: Array, cutter: Cutter, limit: float = math.inf) -> Engagement:
    """Run ``moves`` (n, 7) through a body, taking away what they sweep, and measure what the cutter meets.

    Args:
        body: lowered as the cutter goes.
        moves: the first only a start; fast moves meet nothing.
        cutter: its rim is asked where it is as wide as it is below the top.
        limit: mm along the axis; ``thick`` counts what is deeper.
    """
    steps = segments(moves, STEP * body.cell)
    if not len(steps):
        none = np.zeros(0)
        return Engagement(np.zeros((0, 3)), none, none, none, none, none, none)
    body.settle()
    body.story = body.story_after(moves, cutter)
    body.room(steps, cutter.radius)
    profile, step = profile_of(cutter)
    rows = np.column_stack([steps, np.ones(len(steps))])
    out = np.zeros((len(steps), 5))
    far = min(limit, 1e9)
    _kernel().engage(
        body.index,
        body.tiles,
        body.box.x0,
        body.box.y0,
        body.cell,
        body.top,
        rows,
        profile,
        step,
        cutter.radius,
        far,
        cutter.flutes,
        RADIAL,
        ARCS,
        out,
    )
    s = np.cumsum(np.hypot(steps[:, 2] - steps[:, 0], steps[:, 3] - steps[:, 1]))
    return Engagement(steps[:, 2:5], s, *out.T)


def warm() -> None:
    """Compile the loops over tiles by a cut of some millimetres."""
    body = StockBody(Box(0, 0, 8, 8), 0.5)
    mill = Cutter(id="warm", number=1, name="warm", kind="up-cut", diameter=2, cutting_length=8)
    moves = np.array([row(RAPID, 2, 2, 1), row(LINE, 2, 2, -1), row(LINE, 6, 6, -1)])
    engage(body, moves, mill)
    body.cut(moves, mill)
    body.highest(moves[:, 1:3], 1.0)
    body.heights(moves[:, 1:3])
    body.clash(np.ascontiguousarray(moves[:, 1:4]), mill)
    body.removed(-8.0)
    body.copy().watch([moves[:, 1:3]], 2.0)


def body_around(paths: Sequence[Array], reach: float, cell: float) -> StockBody:
    """An untouched body that holds all that cutters up to ``reach`` mm beyond some points (n, 2 or more)
    touch.
    """
    points = np.vstack([p[:, :2] for p in paths])
    (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
    return StockBody(Box(float(x0 - reach), float(y0 - reach), float(x1 + reach), float(y1 + reach)), cell)


def _kernel() -> ModuleType:
    """The compiled loops, loaded when they are first needed: their compiler takes half a second to load."""
    from venzo.core.body import kernel

    return kernel
