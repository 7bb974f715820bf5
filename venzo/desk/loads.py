"""What every moment of a sheet's tape asks, as the strip beneath the tape shows it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Literal

import numpy as np

from venzo.core.derive import DerivedSetup
from venzo.core.feeds.windows import window
from venzo.core.geometry.contour import Array
from venzo.core.memo import memo
from venzo.core.model import Value, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan, Setup
from venzo.core.proof.load import NEAR, SHARE, WORTH, LoadOfCut, Loads, held, load_snags, sheet_loads
from venzo.core.snags import Snag
from venzo.core.stock.sheet import Stock
from venzo.desk.cut_stock import SheetAt, sheet_of
from venzo.store.store import Store

BINS = 600
"""Stretches of the tape that the strip shows."""
Quantity = Literal["removal", "power", "chip", "bend", "feed"]


class LoadLimit(Value):
    """What a quantity should keep between while a cutter is in: from and to, s; None: no such limit."""

    begins: float
    ends: float
    least: float | None
    most: float | None


class LoadRow(Value):
    """A quantity along the tape: in every stretch its highest value (of the feed the mean share that is
    reached), None where nothing is cut. removal mm3/s, power W, chip and bend mm.
    """

    of: Quantity
    values: list[float | None]
    limits: list[LoadLimit]


class LostTime(Value):
    """What a cutter loses by moves that do not reach their feed: s, and the share of its way at feed."""

    cutter: str
    seconds: float
    share: float


class LoadDocument(Value):
    """The loads of a sheet along its tape, ``seconds`` long."""

    seconds: float
    rows: list[LoadRow]
    lost: list[LostTime]
    snags: list[Snag]


def loads_of(setup: Setup, sheet: SheetPlan, stock: Stock) -> Loads:
    """A sheet's loads, remembered while nothing that they follow from changes."""
    key = digest(
        "loads-1",
        sheet.key,
        [stock.width, stock.height, [list(p) for p in stock.outline]],
        setup.cutters,
        setup.material,
        repr(setup.machine.axes),
        [c.cut.rpm for c in sheet.cuts],
    )
    return memo("loads", key, partial(sheet_loads, setup, sheet, stock))


def load_document(store: Store, plan: Plan, at: SheetAt) -> LoadDocument:
    """The loads of a sheet of a job.

    Raises:
        BadInput: no such sheet.
    """
    d, sheet, stock = sheet_of(store, plan, at)
    loads = loads_of(d.setup, sheet, stock)
    return LoadDocument(
        seconds=round(loads.seconds, 2),
        rows=[_row(d, sheet, loads, of) for of in _VALUES],
        lost=[
            LostTime(cutter=i, seconds=round(s, 1), share=round(loads.slow[i], 3))
            for i, s in loads.lost.items()
            if s >= WORTH
        ],
        snags=load_snags(d.setup, sheet, loads),
    )


_VALUES: dict[Quantity, Callable[[LoadOfCut], Array]] = {
    "removal": lambda c: held(c.removal),
    "power": lambda c: held(c.power),
    "chip": lambda c: held(c.chip),
    "bend": lambda c: held(c.bend),
    "feed": lambda c: c.reached,
}


def _row(d: DerivedSetup, sheet: SheetPlan, loads: Loads, of: Quantity) -> LoadRow:
    """A quantity in stretches of the tape."""
    each = max(loads.seconds, 1e-9) / BINS
    highest, total, spent = np.full(BINS, -1.0), np.zeros(BINS), np.zeros(BINS)
    for c in loads.cuts:
        if not len(c.at):
            continue
        where = np.minimum((c.begins / each).astype(int), BINS - 1)
        values = _VALUES[of](c)
        np.maximum.at(highest, where, values)
        np.add.at(total, where, values * c.took)
        np.add.at(spent, where, c.took)
    found = np.where(spent > 0, total / np.maximum(spent, 1e-12), -1.0) if of == "feed" else highest
    digits = {"removal": 0, "power": 0, "chip": 4, "bend": 4, "feed": 3}[of]
    return LoadRow(
        of=of,
        values=[None if v < 0 else round(float(v), digits) for v in found],
        limits=_limits(d.setup, sheet, loads, of),
    )


def _limits(setup: Setup, sheet: SheetPlan, loads: Loads, of: Quantity) -> list[LoadLimit]:
    """Limits of a quantity, a stretch for every cutter loaded."""
    out = []
    ends = [t for t, _c in sheet.changes[1:]] + [loads.seconds]
    for (begins, cutter_id), end in zip(sheet.changes, ends, strict=True):
        mine = [c for c in loads.cuts if c.cutter.id == cutter_id]
        least: float | None = None
        most: float | None = None
        if of == "power" and mine:
            gives = setup.machine.power_at(mine[0].rpm)
            most = None if gives is None else SHARE * gives * 1000
        elif of == "chip" and mine:
            least, most = window(mine[0].cutter, setup.material).chip
        elif of == "bend":
            most = setup.rules.deflection_limit
        elif of == "feed":
            least = NEAR
        if least is not None or most is not None:
            out.append(LoadLimit(begins=round(begins, 2), ends=round(end, 2), least=least, most=most))
    return out
