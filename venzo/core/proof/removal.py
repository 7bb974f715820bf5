"""What programs take off a sheet, and the sheet as it is at any moment of its plan."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from venzo.core.body.field import Box, StockBody
from venzo.core.body.moments import Moments, Stage
from venzo.core.memo import give_way
from venzo.core.motion.time import path_time
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.proof.world import MOST_CELLS, Given, World
from venzo.core.stock.sheet import Stock

FINEST = 0.1
"""mm; cells of a sheet are no smaller."""


def cell_of(width: float, height: float) -> float:
    """Cells in which a sheet is followed, mm: as fine as ``MOST_CELLS`` allow.

    >>> cell_of(300, 200), round(cell_of(2440, 1220), 2)
    (0.1, 0.43)
    """
    return max(FINEST, math.sqrt(width * height / MOST_CELLS))


def removed_volume(world: World, programs: Sequence[Given]) -> float | None:
    """mm3 that programs, run in order on one sheet, take off it; what they take off the spoilboard is not
    counted. None: a cutter is not named. Sums over cells whose points are spread (``StockBody.spread``).
    """
    body = StockBody(Box(0, 0, world.width, world.height), cell_of(world.width, world.height), spread=True)
    missing = body.within(world.outline).removed(-world.thickness)
    for p in programs:
        for b in p.reading.blocks:
            give_way()
            tool = world.tool(b.tool or p.loaded)
            if tool is None:
                return None
            if len(b.moves) > 1:
                body.cut(p.on_sheet(b), tool.cutter)
    return body.removed(-world.thickness) - missing


def stages_of(setup: Setup, sheet: SheetPlan) -> list[Stage]:
    """A sheet's cuts in time, as its tape has them."""
    out = []
    for c in sheet.cuts:
        cutter = setup.cutter(c.cut.cutter)
        if cutter is not None:
            each = path_time(c.moves, setup.machine.axes)[1]
            out.append(Stage(c.moves, cutter, c.begins, c.begins + np.cumsum(each)))
    return out


def sheet_moments(
    setup: Setup, sheet: SheetPlan, stock: Stock, before: tuple[Setup, SheetPlan] | None = None
) -> Moments:
    """A sheet at any moment of its tape. ``before``: the turn in which the same face was up already, whose
    cuts are made when the tape begins.
    """
    earlier = stages_of(*before) if before else []
    ended = max((float(s.done[-1]) for s in earlier), default=0.0)
    made = [replace(s, begins=s.begins - ended - 1, done=s.done - ended - 1) for s in earlier]
    return Moments(
        Box(0, 0, stock.width, stock.height),
        cell_of(stock.width, stock.height),
        [*made, *stages_of(setup, sheet)],
        outline=stock.outline,
    )
