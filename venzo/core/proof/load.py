"""What every moment of a sheet's tape asks of cutter, spindle and machine, measured in the sheet as it is cut
by then: removal, chips, power, bending, and how much of its feed the machine reaches.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from venzo.core.body.engagement import STEP, engage
from venzo.core.body.field import Box, StockBody, moves_of
from venzo.core.cuts.moves import KIND, RAPID, lengths
from venzo.core.feeds import mechanics as m
from venzo.core.feeds.windows import energy, window
from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.motion.time import Pace, pace
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.plan import Setup
from venzo.core.rules.house import HouseRules
from venzo.core.snags import Snag, Where, look, note
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter

FINEST = 0.1
"""mm; cells of a sheet in which loads are measured are no smaller."""
MOST_CELLS = 80_000_000
"""Cells of a sheet; only those that a cutter passes take room."""
SHARE = 0.8
"""Share of the spindle's power that may be asked for without a word, as at Cuts (common practice)."""
NEAR = 0.95
"""Share of the feed from which it counts as reached."""
SLOW_WAY = 0.25
"""Share of a cutter's way at feed that may rub before it is said."""
WORTH = 5.0
"""s; what slow moves cost is told from here on."""


@dataclass(frozen=True, eq=False)
class LoadOfCut:
    """What a cut asks, step by step: when it begins and how long it takes (s), how fast it goes there and was
    to go (mm/s), and what it meets: width, depth (mm), area across the travel (mm2; straight down the
    cutter's own), chip section over the feed per tooth (mm). ``energy``: of the material, J/mm3.
    """

    cut: int
    cutter: Cutter
    rpm: float
    energy: float
    at: Array
    begins: Array
    took: Array
    speed: Array
    wanted: Array
    width: Array
    depth: Array
    area: Array
    section: Array

    @property
    def down(self) -> npt.NDArray[np.bool_]:
        """Steps straight down into material: something is met, and no width of it."""
        return (self.depth > 0) & (self.width == 0)

    @property
    def removal(self) -> Array:
        """mm3/s: the section taken across the travel at its speed."""
        return self.area * self.speed

    @property
    def power(self) -> Array:
        """W at the edge (``mechanics.cutting_power``)."""
        return m.cutting_power(1.0, self.energy) * self.removal

    @property
    def per_tooth(self) -> Array:
        """Feed per tooth at the speed reached, mm."""
        return self.speed * 60 / max(self.rpm * self.cutter.flutes, 1e-9)

    @property
    def chip(self) -> Array:
        """Thickest chip, mm, at the width met (``mechanics.chip_thickness``); 0 where nothing is met."""
        share = np.clip(self.width / self.cutter.diameter, 0.0, 1.0)
        thin = np.where(share >= 0.5, 1.0, 2 * np.sqrt(share * (1 - share)))
        met = (self.width > 0) & ~self.down
        return np.where(met, self.per_tooth * thin, 0.0)

    @property
    def force(self) -> Array:
        """Of the heaviest moment of a turn, N (``mechanics.chip_force``)."""
        return m.chip_force(self.energy, 1.0, 1.0) * self.per_tooth * self.section

    @property
    def bend(self) -> Array:
        """Of the tip, mm (``mechanics.deflection``)."""
        c = self.cutter
        stem = min(c.diameter, c.shank) if c.overhang > 1.5 * c.cutting_length else c.diameter
        return m.deflection(1.0, c.overhang, stem) * self.force if c.kind != "drill" else 0.0 * self.force

    @property
    def reached(self) -> Array:
        """Share of the feed that is reached."""
        return np.where(self.wanted > 0, self.speed / np.maximum(self.wanted, 1e-12), 1.0)


@dataclass(frozen=True, eq=False)
class Loads:
    """All cuts of a sheet, in time. ``seconds``: of the whole tape; ``lost``: s by moves that do not reach
    their feed, by cutter id; ``slow``: of each cutter's way at feed the share that does not; ``starved``:
    (cut, move) where lines come faster than the controller takes them.
    """

    cuts: tuple[LoadOfCut, ...]
    seconds: float
    lost: dict[str, float]
    slow: dict[str, float]
    starved: tuple[tuple[int, int], ...]


def cell_of(stock: Stock) -> float:
    """Cells in which loads are measured on a sheet, mm."""
    return max(FINEST, math.sqrt(stock.width * stock.height / MOST_CELLS))


def sheet_loads(setup: Setup, sheet: SheetPlan, stock: Stock) -> Loads:
    """Run a sheet's cuts through a body of it, measuring what each meets."""
    body = StockBody(Box(0, 0, stock.width, stock.height), cell_of(stock)).within(stock.outline)
    per_joule, axes = energy(setup.material)[0], setup.machine.axes
    out: list[LoadOfCut] = []
    starved: list[tuple[int, int]] = []
    lost: dict[str, float] = defaultdict(float)
    slow: dict[str, float] = defaultdict(float)
    way: dict[str, float] = defaultdict(float)
    for k, c in enumerate(sheet.cuts):
        give_way()
        cutter = setup.cutter(c.cut.cutter)
        if cutter is None:
            continue
        p = pace(c.moves, axes)
        out.append(_cut_load(body, k, c, cutter, per_joule, p))
        starved += [(k, int(i)) for i in np.flatnonzero(p.starved)[:1]]
        far, at_feed, late = _late(c, p)
        lost[cutter.id] += float(np.maximum(p.seconds - far / np.maximum(p.wanted, 1e-12), 0.0)[late].sum())
        slow[cutter.id] += float(far[late].sum())
        way[cutter.id] += float(far[at_feed].sum())
    share = {i: slow[i] / max(way[i], 1e-9) for i in way}
    return Loads(tuple(out), sheet.seconds, dict(lost), share, tuple(starved))


def _late(c: PlacedCut, p: Pace) -> tuple[Array, npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
    """How far every move of a cut goes (mm), which are at feed, and which of those do not come up to it."""
    far = lengths(c.moves)
    at_feed = (c.moves[:, KIND] != RAPID) & (far > 1e-9)
    return far, at_feed, at_feed & (p.reached < NEAR * p.wanted)


def _cut_load(body: StockBody, k: int, c: PlacedCut, cutter: Cutter, per_joule: float, p: Pace) -> LoadOfCut:
    """A cut's load; it is taken out of the body."""
    met = engage(body, c.moves, cutter)
    move = moves_of(c.moves, STEP * body.cell)
    down = (met.depth > 0) & (met.width == 0)
    disc = np.array([math.pi * cutter.radius_at(-z) ** 2 for z in met.at[down, 2]])
    area = met.area.copy()
    area[down] = disc
    parts = np.bincount(move, minlength=len(c.moves))[move] if len(move) else np.zeros(0)
    took = p.seconds[move] / np.maximum(parts, 1)
    before = np.cumsum(p.seconds) - p.seconds
    nth = np.arange(len(move)) - np.searchsorted(move, move)
    return LoadOfCut(
        k,
        cutter,
        c.cut.rpm,
        per_joule,
        met.at,
        c.begins + before[move] + nth * took,
        took,
        p.reached[move],
        p.wanted[move],
        met.width,
        met.depth,
        area,
        met.section,
    )


def load_snags(setup: Setup, sheet: SheetPlan, loads: Loads) -> list[Snag]:
    """Peaks of a sheet, each with the moment that shows it: power, bending, chips that rub because the feed
    is not reached, lines that come too fast.
    """
    where: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    out: list[Snag] = []
    for cutter in {c.cutter.id: c.cutter for c in loads.cuts}.values():
        mine = [c for c in loads.cuts if c.cutter.id == cutter.id]
        out += _power(setup, sheet, mine, where)
        out += _bend(setup.rules, sheet, mine, where)
        out += _rubs(setup, sheet, loads, mine, where)
    if loads.starved:
        k, i = loads.starved[0]
        c = sheet.cuts[k]
        when = c.begins + float(pace(c.moves, setup.machine.axes).seconds[: i + 1].sum())
        out.append(
            look(
                "load.blocks",
                f"lines come faster than the {setup.machine.blocks:g} a second that {setup.machine.name}"
                " takes: it slows down there; draw the curve with arcs, or in longer pieces",
                {**where, "piece": c.piece.id, "cut": k, "seconds": round(when, 2)},
            )
        )
    return out


def held(values: Array) -> Array:
    """The least of every value and its two neighbours.

    >>> held(np.array([1.0, 9.0, 1.0, 4.0, 5.0, 4.5])).tolist()
    [1.0, 1.0, 1.0, 1.0, 4.0, 4.5]
    """
    padded = np.concatenate([values[:1], values, values[-1:]])
    return np.minimum(np.minimum(padded[:-2], padded[2:]), values)


def _moment(sheet: SheetPlan, load: LoadOfCut, step: int, where: Where) -> Where:
    piece = sheet.cuts[load.cut].piece.id
    return {**where, "piece": piece, "cut": load.cut, "seconds": round(float(load.begins[step]), 2)}


def _highest(mine: Sequence[LoadOfCut], of: str) -> tuple[LoadOfCut, int, float] | None:
    """Where a quantity is highest and stays so for three steps: one alone may be a cell's rounding."""
    tops = [(c, held(getattr(c, of))) for c in mine if len(c.at)]
    if not tops:
        return None
    load, values = max(tops, key=lambda t: float(t[1].max()))
    k = int(np.argmax(values))
    return load, k, float(values[k])


def _power(setup: Setup, sheet: SheetPlan, mine: Sequence[LoadOfCut], where: Where) -> list[Snag]:
    top = _highest(mine, "power")
    gives = setup.machine.power_at(mine[0].rpm)
    if top is None or gives is None or top[2] <= SHARE * gives * 1000:
        return []
    load, k, watts = top
    words = (
        f"{load.cutter.name} asks for {watts / 1000:.2f} kW here; the spindle gives {gives:.2f} kW at"
        f" {load.rpm:.0f} rpm, of which a plan may ask for {SHARE:.0%}: feed slower there or go less deep"
    )
    return [look("load.power", words, _moment(sheet, load, k, where))]


def _bend(rules: HouseRules, sheet: SheetPlan, mine: Sequence[LoadOfCut], where: Where) -> list[Snag]:
    top = _highest(mine, "bend")
    if top is None or top[2] <= rules.deflection_limit:
        return []
    load, k, bend = top
    words = (
        f"{load.cutter.name} bends {bend:.3f} mm here, the house rule is {rules.deflection_limit:g} mm:"
        f" {load.width[k]:.1f} mm wide and {load.depth[k]:.1f} mm deep are met; feed slower there, go less"
        " deep, or clamp it shorter"
    )
    return [look("load.bend", words, _moment(sheet, load, k, where))]


def _rubs(
    setup: Setup, sheet: SheetPlan, loads: Loads, mine: Sequence[LoadOfCut], where: Where
) -> list[Snag]:
    """A feed that is not reached makes chips too thin where the programmed one would not."""
    cutter = mine[0].cutter
    low = window(cutter, setup.material).chip[0]
    worst: tuple[float, LoadOfCut, int] | None = None
    rubs = way = 0.0
    for c in mine:
        meant = c.wanted * 60 / max(c.rpm * cutter.flutes, 1e-9)
        cutting = (c.width > 0) & ~c.down
        far = c.took * c.speed
        bad = cutting & (c.per_tooth < low) & (meant >= low)
        rubs, way = rubs + float(far[bad].sum()), way + float(far[cutting].sum())
        if bad.any():
            k = int(np.flatnonzero(bad)[np.argmin(c.per_tooth[bad])])
            if worst is None or c.per_tooth[k] < worst[0]:
                worst = (float(c.per_tooth[k]), c, k)
    if worst is None or rubs <= SLOW_WAY * way:
        return []
    rpm = max(setup.machine.rpm_min, 60 * float(worst[1].speed[worst[2]]) / (low * cutter.flutes))
    words = (
        f"{cutter.name} does not come up to its feed on {rubs / way:.0%} of its way: chips of"
        f" {worst[0]:.3g} mm a tooth here, below the window's {low:.3g} mm; it rubs there. Turn slower"
        f" ({rpm:.0f} rpm would do here), or feed so that it is reached"
    )
    # in wood it makes dust and burns, elsewhere it melts, welds or dulls
    tell = note if setup.material.family == "wood" else look
    return [tell("load.slow", words, _moment(sheet, worst[1], worst[2], where))]
