"""The proof: a written program is read back and held against the plan it should carry out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import STRtree
from shapely.affinity import affine_transform
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from venzo.core.cuts.areas import Area
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z, lengths, polyline
from venzo.core.cuts.of_part import PartCuts
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import path_time
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.proof.machine import datum_on_sheet
from venzo.core.proof.program import Reading
from venzo.core.snags import Snag, note, stop
from venzo.core.tolerances import BUDGET, PROVE_CHORD
from venzo.core.tooling.cutter import Cutter

HAIR = 1e-4
"""mm; a strip of material thinner than this between a pocket and the edge of its piece is rounding."""
DEEPER = 0.002
"""mm; a cut this much deeper than its feature is rounding."""


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


def prove(plan: Plan, setup: Setup, sheet: SheetPlan, readings: list[tuple[Reading, int, str]], shapes: Mapping[str, Shape], part_cuts: Mapping[tuple[str, bool], PartCuts]) -> Proof:
    """Hold the programs of one sheet against the plan.

    Each reading comes with the number of the cutter that is loaded when the file starts and with the file's Z zero. Checks that rapids stay at the safe
    height, nothing is cut into by more than BUDGET (0.02 mm), no pocket, groove or edge is cut wider or deeper than it is meant, every planned contour is
    cut through except at its tabs, every pocket and line is run at its depth, and the cutter stays over the table.
    """
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    dx, dy = datum_on_sheet(setup, stock)
    where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    solids: list[tuple[str, _Solid]] = []
    for q in sheet.pieces:
        part = plan.part(q.part)
        assert part is not None
        cuts = part_cuts.get((q.part, q.mirrored))
        body = shapes[part.shape].region.placed(q.x, q.y, q.rotation, q.mirrored).polygon(PROVE_CHORD)
        solids.append((f"{part.name} piece {q.copy_no + 1}", _Solid(body, q, cuts.areas if cuts else ())))
    tree = STRtree([p.body for _n, p in solids])
    snags: list[Snag] = []
    floors: dict[int, list[tuple[LineString, float]]] = {}
    cut = rapid = seconds = 0.0
    pos = np.array([0.0, 0.0, setup.machine.clearance])
    lowest, highest, count = np.full(3, np.inf), np.full(3, -np.inf), 0
    gouged: set[str] = set()
    carved: dict[int, list[Array]] = {}
    for reading, loaded, zero in readings:
        top = 0.0 if zero == "top" else stock.thickness
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
            seconds += path_time(chain, setup.machine.acceleration, setup.machine.rapid, setup.machine.z_speed)[0]
            lowest, highest = np.minimum(lowest, m[:, [X, Y, Z]].min(axis=0)), np.maximum(highest, m[:, [X, Y, Z]].max(axis=0))
            across = rapids & (np.hypot(*np.diff(chain[:, [X, Y]], axis=0, prepend=chain[:1, [X, Y]]).T) > 1e-6)
            low = across & (np.minimum(chain[:, Z], np.roll(chain[:, Z], 1)) < min(setup.machine.clearance, 1.0) - 1e-6)
            if low.any():
                snags.append(stop("proof.rapid", f"{int(low.sum())} fast moves below the safe height", where))
            deep = rapids & (chain[:, Z] < -1e-6)
            if deep.any():
                snags.append(stop("proof.rapid", f"{int(deep.sum())} fast moves go into the material", where))
            pointed = cutter.kind == "v-bit"
            if pointed:
                snags += _carved_into(chain, cutter, tree, solids, gouged, where)
            for line, deepest, highest_z in _cutting_lines(chain):
                if pointed and deepest < highest_z - 1e-6:
                    continue  # a slope of a pointed bit is narrower where it is higher: held against the pieces above
                if deepest > highest_z - 1e-6:
                    floors.setdefault(cutter.number, []).append((line, deepest))
                radius = cutter.radius_at(-deepest)
                for k in tree.query(line, predicate="dwithin", distance=max(radius - BUDGET, 0.0)):
                    name, solid = solids[k]
                    if name in gouged:
                        continue
                    keep = solid.keep(-deepest, pointed)
                    away = line.distance(keep) if not keep.is_empty else np.inf
                    if away < radius - BUDGET:
                        gouged.add(name)
                        bite = radius - away
                        snags.append(stop("proof.gouge", f"{name} is cut into by {bite:.3f} mm, {-deepest:.2f} mm deep, by {cutter.name}", where))
            if pointed:
                carved.setdefault(cutter.number, []).append(m[m[:, KIND] != RAPID][:, [X, Y, Z]])
            pos = m[-1, [X, Y, Z]]
    snags += _uncut(plan, setup, sheet, stock.thickness, floors, where)
    snags += _uncarved(plan, setup, sheet, carved, where)
    low_xy = lowest[:2] + setup.sheet_at
    high_xy = highest[:2] + setup.sheet_at
    if count and (low_xy.min() < -1e-6 or high_xy[0] > setup.machine.width + 1e-6 or high_xy[1] > setup.machine.height + 1e-6):
        snags.append(stop("proof.table", "the program leaves the table", where))
    if not snags:
        snags.append(note("proof.clear", f"read back: {count} moves; no part cut into, every contour cut through, fast moves clear", where))
    return Proof(tuple(snags), lowest, highest, cut, rapid, seconds, count)


class _Solid:
    """A piece and what its cuts may take out of it, by depth."""

    def __init__(self, body: Polygon, piece: Piece, areas: Sequence[Area]):
        self.body = body
        c, s = np.cos(np.radians(piece.rotation)), np.sin(np.radians(piece.rotation))
        self.areas = [(a.depth, a.pointed, affine_transform(a.target, [c, -s, s, c, piece.x, piece.y])) for a in areas]
        self.kept: dict[tuple[int, bool], BaseGeometry] = {}

    def keep(self, depth: float, pointed: bool) -> BaseGeometry:
        """What must not be touched at a depth, mm: the piece less every area that is at least so deep; areas with sloping walls are a pointed bit's alone."""
        fine = [g for d, slopes, g in self.areas if d >= depth - DEEPER and (pointed or not slopes)]
        key = (len(fine), pointed)
        if key not in self.kept:
            self.kept[key] = self.body.difference(unary_union(fine).buffer(HAIR)) if fine else self.body
        return self.kept[key]


def _cutting_lines(chain: Array):
    """Runs of cutting moves below the surface as (line or point, deepest, highest z), split where they are level and where they slope."""
    z0, z1 = chain[:-1, Z], chain[1:, Z]
    below = (chain[1:, KIND] != RAPID) & (np.minimum(z0, z1) < -1e-6)
    level = np.abs(z1 - z0) < 1e-6
    i, n = 0, len(z0)
    while i < n:
        j = i + 1
        if not below[i]:
            i = j
            continue
        if level[i]:
            while j < n and below[j] and level[j] and abs(z1[j] - z1[i]) < 1e-6:
                j += 1
        else:
            while j < n and below[j] and not level[j]:
                j += 1
        run = chain[i : j + 1]
        pts = polyline(np.vstack([run[:1], run[1:]]), PROVE_CHORD)[:, :2]
        shape = LineString(pts) if np.ptp(pts, axis=0).max() > 1e-9 else Point(pts[0])
        yield shape, float(run[:, Z].min()), float(run[:, Z].max())
        i = j


def _carved_into(chain: Array, cutter: Cutter, tree: STRtree, solids: list[tuple[str, _Solid]], gouged: set[str], where: dict) -> list[Snag]:
    """Pieces that a pointed bit cuts into on its slopes: at every point and half way to the next the disc it is at the surface must lie in what may go.

    Between these the bit's radius is a straight line and the distance to an edge nearly so.
    """
    z0, z1 = chain[:-1, Z], chain[1:, Z]
    slope = (chain[1:, KIND] != RAPID) & (np.minimum(z0, z1) < -1e-6) & (np.abs(z1 - z0) >= 1e-6)
    a, b = chain[:-1][slope][:, [X, Y, Z]], chain[1:][slope][:, [X, Y, Z]]
    pts = np.concatenate([a, (a + b) / 2, b])
    pts = pts[pts[:, 2] < -1e-6]
    if not len(pts):
        return []
    deepest = -float(pts[:, 2].min())
    radius = np.array([cutter.radius_at(-z) for z in pts[:, 2]]) - BUDGET
    spots = shapely.points(pts[:, :2])
    out = []
    near: dict[int, list[int]] = {}
    hits = tree.query(spots, predicate="dwithin", distance=np.maximum(radius, 0.0))
    for i, k in hits.T.tolist():
        near.setdefault(k, []).append(i)
    for k, mine in near.items():
        name, solid = solids[k]
        if name in gouged:
            continue
        keep = solid.keep(deepest, True)
        if keep.is_empty:
            continue
        shapely.prepare(keep)
        bad = shapely.dwithin(keep, spots[mine], np.maximum(radius[mine], 0.0)) & (radius[mine] > 0)
        if bad.any():
            worst = np.array(mine)[bad]
            bite = float((radius[worst] + BUDGET - shapely.distance(keep, spots[worst])).max())
            gouged.add(name)
            out.append(stop("proof.gouge", f"{name} is cut into by {bite:.3f} mm by {cutter.name} on a slope", where))
    return out


def _uncarved(plan: Plan, setup: Setup, sheet: SheetPlan, carved: dict[int, list[Array]], where: dict) -> list[Snag]:
    """Carvings of which the program leaves out something: every planned point must be one of its points, within BUDGET."""
    from scipy.spatial import cKDTree

    out = []
    names = {p.id: p.name for p in plan.parts}
    trees = {n: cKDTree(np.concatenate(rows)) for n, rows in carved.items()}
    for pc in sheet.cuts:
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None or pc.cut.kind != "v-carve" or cutter.kind != "v-bit":
            continue
        want = pc.moves[pc.moves[:, KIND] != RAPID][:, [X, Y, Z]]
        tree = trees.get(cutter.number)
        missed = len(want) if tree is None else int((tree.query(want)[0] > BUDGET).sum())
        if missed:
            label = f"{names[pc.piece.part]} piece {pc.piece.copy_no + 1}, carving"
            out.append(stop("proof.uncut", f"{label}: {missed / len(want):.0%} of it is not carved as planned", {**where, "piece": pc.piece.id}))
    return out


def _uncut(plan: Plan, setup: Setup, sheet: SheetPlan, thickness: float, floors: dict[int, list[tuple[LineString, float]]], where: dict) -> list[Snag]:
    """Planned lines that are not run at their depth everywhere but at the tabs."""
    out = []
    names = {p.id: p.name for p in plan.parts}
    trees: dict[tuple[int, float], STRtree] = {}
    for pc in sheet.cuts:
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None or not (pc.cut.by_trace or pc.cut.trace) or (pc.cut.kind == "v-carve" and cutter.kind == "v-bit"):
            continue
        through = -pc.cut.levels[-1] >= thickness - 1e-6
        need = -thickness if through and pc.cut.frees else pc.cut.levels[-1]
        key = (cutter.number, round(need, 3))
        if key not in trees:
            trees[key] = STRtree([line for line, z in floors.get(cutter.number, ()) if z <= need + 2e-3])
        lift = max(setup.tabs_on("holes").width, setup.tabs_on("outlines").width) / 2 + cutter.radius + 0.1
        missed = tried = 0
        for line in pc.cut.lines:
            path = line.placed(pc.piece.x, pc.piece.y, pc.piece.rotation)
            tabs = [line.nearest(*t)[0] for t in pc.cut.tabs]
            total = path.length
            n = max(3, int(total / 4)) if pc.cut.trace else max(12, int(total / 4))
            for s in (np.arange(n) + 0.5) * total / n:
                if any(abs((s - t + total / 2) % total - total / 2) <= lift for t in tabs):
                    continue
                tried += 1
                if not len(trees[key].query(Point(path.at(s)[:2]), predicate="dwithin", distance=BUDGET)):
                    missed += 1
        if missed:
            what = "cut through" if through and pc.cut.frees else f"cut to {-need:.2f} mm"
            out.append(stop("proof.uncut", f"{names[pc.piece.part]} piece {pc.piece.copy_no + 1}, {pc.cut.contour}: {missed / tried:.0%} of it is not {what}", {**where,
                "piece": pc.piece.id}))
    return out
