"""The proof: a written program is read back and held against the plan it should carry out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from shapely import STRtree
from shapely.geometry import LineString, Point, Polygon

from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z, lengths, polyline
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import path_time
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.proof.machine import datum_on_sheet
from venzo.core.proof.program import Reading
from venzo.core.snags import Snag, note, stop
from venzo.core.tolerances import BUDGET, PROVE_CHORD


@dataclass(frozen=True)
class Proof:
    """What was found: snags, extents (program mm), lengths (mm), time (s)."""

    snags: tuple[Snag, ...]
    lowest: Array
    highest: Array
    cut_length: float
    rapid_length: float
    seconds: float
    moves: int


def prove(plan: Plan, setup: Setup, sheet: SheetPlan, readings: list[tuple[Reading, int]], shapes: Mapping[str, Shape]) -> Proof:
    """Hold the programs of one sheet against the plan.

    Each reading comes with the number of the cutter that is loaded when the file starts. Checks that rapids stay at the safe
    height, nothing is cut into by more than BUDGET (0.02 mm), every planned contour is cut through except
    at its tabs, and the cutter stays over the table.
    """
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    dx, dy = datum_on_sheet(setup, stock)
    top = 0.0 if setup.z_zero == "top" else stock.thickness
    where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    solids: list[tuple[str, Polygon]] = []
    for q in sheet.pieces:
        part = plan.part(q.part)
        assert part is not None
        solids.append((f"{part.name} piece {q.copy_no + 1}", shapes[part.shape].region.placed(q.x, q.y, q.rotation, q.mirrored).polygon(PROVE_CHORD)))
    tree = STRtree([p for _n, p in solids])
    snags: list[Snag] = []
    bottom: dict[int, list[LineString]] = {}
    cut = rapid = seconds = 0.0
    pos = np.array([0.0, 0.0, setup.machine.clearance])
    lowest, highest, count = np.full(3, np.inf), np.full(3, -np.inf), 0
    gouged: set[str] = set()
    for reading, loaded in readings:
        for block in reading.blocks:
            cutter = next((c for c in setup.cutters if c.number == (block.tool or loaded)), None)
            if cutter is None:
                snags.append(stop("proof.tool", f"the program loads T{block.tool}, which the setup does not have", where))
                continue
            m = block.moves.copy()
            m[:, [X, Y]] += (dx, dy)
            m[:, [4, 5]] += (dx, dy)
            m[:, Z] -= top
            chain = np.vstack([[0.0, *pos, 0, 0, 0], m])
            d = lengths(chain)
            rapids = chain[:, KIND] == RAPID
            cut, rapid, count = cut + float(d[~rapids].sum()), rapid + float(d[rapids].sum()), count + len(m)
            seconds += path_time(chain, setup.machine.acceleration, setup.machine.rapid)[0]
            lowest, highest = np.minimum(lowest, m[:, [X, Y, Z]].min(axis=0)), np.maximum(highest, m[:, [X, Y, Z]].max(axis=0))
            across = rapids & (np.hypot(*np.diff(chain[:, [X, Y]], axis=0, prepend=chain[:1, [X, Y]]).T) > 1e-6)
            low = across & (np.minimum(chain[:, Z], np.roll(chain[:, Z], 1)) < min(setup.machine.clearance, 1.0) - 1e-6)
            if low.any():
                snags.append(stop("proof.rapid", f"{int(low.sum())} fast moves below the safe height", where))
            deep = rapids & (chain[:, Z] < -1e-6)
            if deep.any():
                snags.append(stop("proof.rapid", f"{int(deep.sum())} fast moves go into the material", where))
            for line, at_bottom in _cutting_lines(chain, stock.thickness):
                if at_bottom:
                    bottom.setdefault(cutter.number, []).append(line)
                for k in tree.query(line, predicate="dwithin", distance=cutter.radius - BUDGET):
                    name = solids[k][0]
                    if name not in gouged:
                        gouged.add(name)
                        bite = cutter.radius - line.distance(solids[k][1])
                        snags.append(stop("proof.gouge", f"{name} is cut into by {bite:.3f} mm", where))
            pos = m[-1, [X, Y, Z]]
    snags += _uncut(plan, setup, sheet, bottom, where)
    low_xy = lowest[:2] + setup.sheet_at
    high_xy = highest[:2] + setup.sheet_at
    if count and (low_xy.min() < -1e-6 or high_xy[0] > setup.machine.width + 1e-6 or high_xy[1] > setup.machine.height + 1e-6):
        snags.append(stop("proof.table", "the program leaves the table", where))
    if not snags:
        snags.append(note("proof.clear", f"read back: {count} moves; no part cut into, every contour cut through, fast moves clear", where))
    return Proof(tuple(snags), lowest, highest, cut, rapid, seconds, count)


def _cutting_lines(chain: Array, thickness: float):
    """Runs of cutting moves below the surface as lines, split where they reach or leave the sheet's underside."""
    i = 1
    while i < len(chain):
        def state(k: int) -> tuple[bool, bool]:
            below = chain[k, KIND] != RAPID and min(chain[k, Z], chain[k - 1, Z]) < -1e-6
            return below, below and max(chain[k, Z], chain[k - 1, Z]) <= -thickness + 1e-6
        now = state(i)
        j = i + 1
        while j < len(chain) and state(j) == now:
            j += 1
        if now[0]:
            pts = polyline(np.vstack([chain[i - 1], chain[i:j]]), PROVE_CHORD)[:, :2]
            if np.ptp(pts, axis=0).max() > 1e-9:
                yield LineString(pts), now[1]
        i = j


def _uncut(plan: Plan, setup: Setup, sheet: SheetPlan, bottom: dict[int, list[LineString]], where: dict) -> list[Snag]:
    """Planned contours whose path is not run at full depth everywhere but at the tabs."""
    out = []
    names = {p.id: p.name for p in plan.parts}
    trees = {n: STRtree(lines) for n, lines in bottom.items()}
    for pc in sheet.cuts:
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None:
            continue
        path = pc.cut.path.placed(pc.piece.x, pc.piece.y, pc.piece.rotation)
        lift = max(setup.tabs_on("holes").width, setup.tabs_on("outlines").width) / 2 + cutter.radius + 0.1
        tabs = [pc.cut.path.nearest(*t)[0] for t in pc.cut.tabs]
        total = path.length
        n = max(12, int(total / 4))
        missed = 0
        for s in (np.arange(n) + 0.5) * total / n:
            if any(abs((s - t + total / 2) % total - total / 2) <= lift for t in tabs):
                continue
            p = Point(path.at(s)[:2])
            tree = trees.get(cutter.number)
            if tree is None or not len(tree.query(p, predicate="dwithin", distance=BUDGET)):
                missed += 1
        if missed:
            out.append(stop("proof.uncut", f"{names[pc.piece.part]} piece {pc.piece.copy_no + 1}, {pc.cut.contour}: {missed / n:.0%} of it is not cut through",
                            {**where, "piece": pc.piece.id}))
    return out

