"""The small sums of the trade, each with its fields, its formula, its source and a drawing, any way round.
They are worked out by the functions that the planner uses.

>>> from venzo.core.reckonings.reckoning import work_out
>>> groove = find("v-groove")
>>> round(work_out(groove, {"depth": 2.0, "angle": 90.0}).values["width"], 9)
4.0
>>> round(work_out(groove, {"depth": 2.0, "width": 4.0}).values["angle"], 6)
90.0
"""

from __future__ import annotations

from venzo.core.reckonings import (
    amounts_of_stock,
    chips,
    grip,
    grooves,
    growth_and_turning,
    inside_corners,
    passes_and_rows,
)
from venzo.core.reckonings.reckoning import Reckoning
from venzo.core.snags import BadInput

RECKONINGS: tuple[Reckoning, ...] = (
    chips.CHIP_LOAD,
    chips.EDGE_SPEED,
    chips.THINNING,
    chips.BEND,
    passes_and_rows.PASSES,
    grooves.V_GROOVE,
    grooves.BALL_LIP,
    grooves.CUSP,
    passes_and_rows.SURFACING,
    inside_corners.INSIDE,
    inside_corners.RELIEF,
    grooves.FOLD,
    grip.VACUUM,
    grip.SCREWS,
    grip.TABS,
    amounts_of_stock.BOARD_FEET,
    amounts_of_stock.MASS,
    amounts_of_stock.GAUGE,
    amounts_of_stock.FRACTION,
    growth_and_turning.HEAT,
    growth_and_turning.SEASON,
    growth_and_turning.FLIP,
)


def find(name: str) -> Reckoning:
    """A reckoning by its name.

    Raises:
        BadInput: there is none; those there are, are named.
    """
    for r in RECKONINGS:
        if r.name == name:
            return r
    raise BadInput(f"there is no reckoning {name[:60]!r}; there are: {', '.join(r.name for r in RECKONINGS)}")
