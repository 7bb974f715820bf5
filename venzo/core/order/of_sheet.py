"""The cutting order of one sheet: every cut of every piece placed, ordered and timed."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial

import numpy as np
from shapely import STRtree
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry import Polygon

from venzo.core.cuts.moves import X, Y, Z, lengths, placed
from venzo.core.cuts.cut import Cut
from venzo.core.cuts.of_part import PartCuts
from venzo.core.geometry.contour import Array, rotation_matrix
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.motion.time import move_time, path_time
from venzo.core.order.sequence import VERSION, Task, sequence
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.stock.machine import Machine


@dataclass(frozen=True)
class PlacedCut:
    """A cut on the sheet: moves in sheet coordinates, when it starts (s), how long it takes and the travel before it (mm)."""

    piece: Piece
    cut: Cut
    moves: Array
    begins: float
    seconds: float
    cut_length: float
    travel: float


@dataclass(frozen=True)
class SheetPlan:
    """One sheet: its pieces and its cuts in order. ``changes``: (time, cutter id) of every cutter loaded."""

    sheet: str
    copy_no: int
    pieces: tuple[Piece, ...]
    cuts: tuple[PlacedCut, ...]
    changes: tuple[tuple[float, str], ...]
    seconds: float
    cut_length: float
    rapid_length: float
    key: str


def plan_sheet(plan: Plan, setup: Setup, sheet: str, copy_no: int, shapes: Mapping[str, Shape], part_cuts: Mapping[tuple[str, bool], PartCuts]) -> SheetPlan:
    """Order and time all cuts of one sheet."""
    pieces = tuple(sorted((q for q in (setup.nest.pieces if setup.nest else ()) if (q.sheet, q.sheet_copy) == (sheet, copy_no) and (q.part, q.mirrored) in part_cuts),
                          key=lambda q: (q.part, q.copy_no)))
    items: list[tuple[Piece, Cut, str]] = []
    for q in pieces:
        for c in part_cuts[q.part, q.mirrored].cuts:
            items.append((q, c, c.contour))
    machine = setup.machine
    prints = [(q.id, q.x, q.y, q.rotation, q.mirrored, c.contour, c.cutter, c.operation, c.step, c.frees, float(c.moves.sum()), c.moves.shape[0]) for q, c, _n in items]
    key = digest(VERSION, sheet, copy_no, prints, [machine.clearance, machine.retract, machine.rapid, machine.acceleration, machine.change_seconds],
                 [(c.id, c.number) for c in setup.cutters], [plan.part(q.part).shape for q in pieces if plan.part(q.part)])  # type: ignore[union-attr]
    return memo("sheet", key, lambda: _plan_sheet(plan, setup, sheet, copy_no, pieces, items, shapes, key))


def _plan_sheet(plan: Plan, setup: Setup, sheet: str, copy_no: int, pieces: tuple[Piece, ...], items: list[tuple[Piece, Cut, str]], shapes: Mapping[str, Shape], key: str) -> SheetPlan:
    machine = setup.machine
    moved = [placed(c.moves, q.x, q.y, q.rotation) for q, c, _n in items]
    tasks = _tasks(plan, items, moved, shapes)
    numbers = {c.id: c.number for c in setup.cutters}
    order = sequence(tasks, numbers)
    time, here = 0.0, np.array([0.0, 0.0, machine.clearance])
    cuts: list[PlacedCut] = []
    changes: list[tuple[float, str]] = []
    rapid_length = 0.0
    loaded = None
    for i in order:
        q, c, _name = items[i]
        m = moved[i]
        if c.cutter != loaded:
            loaded = c.cutter
            changes.append((time, c.cutter))
            time += machine.change_seconds
        x, y, z = m[0, [X, Y, Z]]
        across, down, up = math.hypot(x - here[0], y - here[1]), machine.clearance - z, machine.clearance - m[-1, Z]
        travel_time, up_time = (sum(move_time(d, machine.rapid, machine.acceleration) for d in legs) for legs in ((across, down), (up,)))
        # time does not depend on where or how a piece lies: remembered per cut
        spent = memo("cut-time", digest(float(c.moves.sum()), c.moves.shape[0], c.contour, c.operation, c.cutter, q.part, machine.acceleration, machine.rapid, c.levels, c.tabs),
                     partial(_cut_time, c, machine))
        length = float(lengths(c.moves).sum())
        hop_length = float(across + down + up)
        cuts.append(PlacedCut(q, c, m, time + travel_time, spent, length, hop_length))
        time += travel_time + spent + up_time
        rapid_length += hop_length
        here = np.array([m[-1, X], m[-1, Y], machine.clearance])
    return SheetPlan(sheet, copy_no, pieces, tuple(cuts), tuple(changes), time, sum(c.cut_length for c in cuts), rapid_length, key)


def _cut_time(cut: Cut, machine: Machine) -> float:
    return path_time(cut.moves, machine.acceleration, machine.rapid)[0]


def _inner_point(shape: Shape) -> tuple[float, float]:
    """A point surely inside the part, in its own frame."""
    p = shape.polygon.representative_point()
    return p.x, p.y


def _tasks(plan: Plan, items: list[tuple[Piece, Cut, str]], moved: list[Array], shapes: Mapping[str, Shape]) -> list[Task]:
    """Faces first, steps of a feature in their order, insides before the outline; a piece that lies in another's hole before that hole's drop comes free."""
    of_piece: dict[str, list[int]] = {}
    for i, (q, _c, _n) in enumerate(items):
        of_piece.setdefault(q.id, []).append(i)
    frees = [_frees_part(plan, item, shapes) for item in items]
    # a piece's representative point tells in whose hole it lies
    names, points = [], []
    for q, _c, _n in items:
        if not names or names[-1] != q.id:
            part = plan.part(q.part)
            assert part is not None
            spot = memo("inner-point", part.shape, partial(_inner_point, shapes[part.shape]))
            x, y = rotation_matrix(q.rotation) @ np.array([-spot[0] if q.mirrored else spot[0], spot[1]])
            names.append(q.id)
            points.append(ShapelyPoint(x + q.x, y + q.y))
    tree = STRtree(points)
    after: list[set[int]] = [set() for _ in items]
    for i, (q, c, _n) in enumerate(items):
        own = of_piece[q.id]
        after[i] |= {k for k in own if items[k][1].contour == c.contour and items[k][1].step < c.step}
        if c.kind != "face":
            after[i] |= {k for k in own if items[k][1].kind == "face"}
        if frees[i]:
            after[i] |= {k for k in own if not frees[k]}
            after[i] |= {k for k in own if frees[k] and items[k][1].step == c.step and k < i}  # bays before the main path
        elif c.frees and len(names) > 1:
            ring = Polygon(c.path.placed(q.x, q.y, q.rotation).points(0.1))
            for k in tree.query(ring, predicate="contains"):
                if names[k] != q.id:
                    after[i] |= set(of_piece[names[k]])
    return [Task((m[0, X], m[0, Y]), (m[-1, X], m[-1, Y]), c.cutter, f, frozenset(a)) for (_q, c, _n), m, a, f in zip(items, moved, after, frees, strict=True)]


def _frees_part(plan: Plan, item: tuple[Piece, Cut, str], shapes: Mapping[str, Shape]) -> bool:
    """Does the cut go through along the part's outline?"""
    part = plan.part(item[0].part)
    return part is not None and item[1].frees and item[2] == shapes[part.shape].names[0]
