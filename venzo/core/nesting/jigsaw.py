"""Do the pieces of a nearly full sheet fit together corner to corner? Exact contact, and a search that goes
back.

Where pieces fill a sheet to the last per cent, places found by sliding or by parting overlaps leave gaps that
add up. Here the sharpest corner of the room that is left is filled next: by a piece one of whose corners has
the same two sides, or lies along one of them. What would leave a remnant that nothing can fill is not
followed (corner occupancy: Huang and others, and the usual pruning of jigsaws by area; from memory).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from venzo.core.geometry.contour import Array, Contour
from venzo.core.nesting.bound import room, taken
from venzo.core.nesting.forms import turns_of
from venzo.core.nesting.problem import NestProblem, Placement, SheetKind
from venzo.core.nesting.verify import usable
from venzo.core.nesting.worth import Worth
from venzo.core.tolerances import NEST_CHORD

FULL = 0.965
"""Share of the sheet's room that the pieces must take for a try."""
MOST_PIECES = 60
NODES_A_STEP = 12
"""Corners filled between two looks at the stop."""
CONTACT = 0.002
"""mm by which a piece may lie over what it touches: numbers are rounded, sheets are not cut so finely."""
OVER = 0.005
"""mm2 of such overlap in all."""
ALIKE = 2e-4
"""mm by which two sides may lie apart over their length and still be the same direction, per mm."""
EMPTY = 5.0
"""mm2 that may stay empty in all, up to which every corner must be filled."""
SNUG = 1.1
"""Times a piece's area that a room may have for the piece to be put into its corners."""
MOST_LYING = 600
"""Pieces in a layout up to which places that they just fit are looked for."""
MOST_PASSED = 12
"""Corners that nothing fits into, passed over on the way to one that can be filled."""
WIDEST = math.pi - 1e-3
"""An angle (radians) from which on a corner is no corner to be filled."""


@dataclass(frozen=True)
class Shape:
    """A part as it may lie: its polygon about its own origin, turned."""

    part: str
    turn: float
    mirrored: bool
    polygon: Polygon
    area: float


@dataclass
class Node:
    """One piece laid: what room is left, and the other ways that the corner could have been filled."""

    free: list[Polygon]
    ways: Iterator[tuple[Shape, float, float]]
    laid: tuple[Shape, float, float] | None = None


@dataclass
class Corners:
    """Corners of all shapes in one table: shape, place, directions of the sides before and after, their
    lengths, the angle between.
    """

    shape: np.ndarray
    at: Array
    before: Array
    after: Array
    length_before: Array
    length_after: Array
    angle: Array


@dataclass(frozen=True)
class Corner:
    """A corner of the room that is left, with its sides."""

    room: Polygon
    at: Array
    before: float
    after: float
    length_before: float
    length_after: float
    angle: float


class Jigsaw:
    """The search, step by step; ``layout`` is a fuller one found in the last step, or None.

    Args:
        problem: checked; ``able`` is False where it is none for this road (free turns, groups, locked pieces,
            several kinds of sheet, pieces that leave room enough).
    """

    def __init__(self, problem: NestProblem, worth: Worth):
        self.problem, self.worth = problem, worth
        self.kind: SheetKind = next((s for s in problem.sheets if s.quantity), problem.sheets[0])
        self.layout: list[Placement] | None = None
        self.fullest: list[Placement] = []
        """The fullest layout of all steps."""
        self.done = False
        self.able = self._able()
        self._left: Counter[str] = Counter()
        self._stack: list[Node] = []
        self._best = 0.0

    def _able(self) -> bool:
        p = self.problem
        pieces = [q for q in p.parts if q.quantity]
        if (
            len([s for s in p.sheets if s.quantity]) != 1
            or p.locked
            or any(q.rotations == "free" or q.group or q.fill for q in pieces)
            or any(not turns_of(q, self.kind.grain, []) for q in pieces)
            or sum(q.quantity for q in pieces) > MOST_PIECES
        ):
            return False
        space = room(self.kind, p.spacing)
        need = sum(q.quantity * taken(self.worth.areas[q.id], p.spacing) for q in pieces)
        return FULL * space <= need <= space * (1 + 1e-6)

    def _begin(self) -> None:
        self._shapes = list(_shapes(self.problem, self.worth, self.kind))
        self._corners = _corners_of(self._shapes)
        self._left = Counter({p.id: p.quantity for p in self.problem.parts if p.quantity})
        half = self.problem.spacing / 2
        around = {s.part: s.polygon.buffer(half, quad_segs=32).area for s in self._shapes}
        self._allowed = 1.0 + max(
            0.0, room(self.kind, self.problem.spacing) - sum(around[p] * n for p, n in self._left.items())
        )
        """Area that may stay empty: what the pieces, half the spacing around each, leave of the sheet."""
        # with a gap between them pieces may lie a hair nearer, not over each other
        self._over = OVER if not self.problem.spacing else CONTACT * 500
        start = _room_on(self.problem, self.kind)
        self._stack = [Node(start, self._ways(start))]

    def step(self, stop: Callable[[], bool]) -> bool:
        """A few corners more; False when all is laid or nothing is left to try."""
        self.layout = None
        if not self._stack:
            self._begin()
        for _ in range(NODES_A_STEP):
            if stop() or not self._stack:
                break
            self._advance()
            if not +self._left:
                self.done = True
                return False
        return bool(self._stack)

    def _advance(self) -> None:
        """Fill the next corner, or take the last piece back."""
        node = self._stack[-1]
        if node.laid is not None:
            self._left[node.laid[0].part] += 1
            node.laid = None
        way = next(node.ways, None)
        if way is None:
            self._stack.pop()
            return
        shape, x, y = way
        body = shapely.affinity.translate(shape.polygon, x, y)
        node.laid = way
        self._left[shape.part] -= 1
        free = _without(node.free, body, self.problem.spacing)
        laid = sum(n.laid[0].area for n in self._stack if n.laid)
        if laid > self._best:
            self._best = laid
            self.layout = self.fullest = self._placements()
        if self._wasted(free) <= self._allowed:
            self._stack.append(Node(free, self._ways(free)))

    def _wasted(self, free: list[Polygon]) -> float:
        """Area that no piece left is small enough for."""
        least = min((s.area for s in self._shapes if self._left[s.part]), default=0.0)
        return sum(f.area for f in free if f.area < least * (1 - 1e-6))

    def _ways(self, free: list[Polygon]) -> Iterator[tuple[Shape, float, float]]:
        """Pieces for the sharpest corner of the room left, the likeliest first.

        Where something may stay empty a corner that nothing fits into is passed over.
        """
        least = min((s.area for s in self._shapes if self._left[s.part]), default=0.0)
        roomy = [f for f in free if f.area >= least * (1 - 1e-6)]
        for tried, corner in enumerate(_sharp_corners(roomy)):
            found = False
            for way in _into(corner, self._shapes, self._corners, self._left, self._over):
                found = True
                yield way
            if found or self._allowed <= EMPTY or tried == MOST_PASSED:
                return

    def _placements(self) -> list[Placement]:
        counts: Counter[str] = Counter()
        out = []
        for node in self._stack:
            if node.laid is None:
                continue
            part = node.laid[0].part
            out.append(_placement(node.laid, counts[part], self.kind.id, 0))
            counts[part] += 1
        return out


def snug(problem: NestProblem, worth: Worth, placements: list[Placement]) -> list[Placement] | None:
    """The layout with pieces that wait, and those of the emptiest sheet, put where they just fit; None where
    none does.

    A square in a hole that is larger by the spacing only has one place: passes over cells and the parting of
    overlaps, which both keep a hair more, do not find it.
    """
    sheets: dict[tuple[str, int], list[Placement]] = {}
    for pl in placements:
        sheets.setdefault((pl.sheet, pl.sheet_copy), []).append(pl)
    taken_copies = {(pl.part, pl.copy_) for pl in placements}
    coming: list[tuple[str, int, Placement | None]] = [
        (p.id, c, None)
        for p in problem.parts
        for c in range(p.quantity)
        if (p.id, c) not in taken_copies and not p.group
    ]
    fixed = {(pl.part, pl.copy_) for pl in problem.locked}
    if not coming and len(sheets) > 1:
        least = min(sheets, key=lambda w: (sum(worth.areas[pl.part] for pl in sheets[w]), w))
        if any((pl.part, pl.copy_) in fixed or worth.parts[pl.part].group for pl in sheets[least]):
            return None
        coming = [(pl.part, pl.copy_, pl) for pl in sheets.pop(least)]
    if any(old is None for _p, _c, old in coming):  # an empty sheet of each kind may be just large enough
        for kind in problem.sheets:
            spare = next((c for c in range(kind.quantity) if (kind.id, c) not in sheets), None)
            if spare is not None and not all(worth.parts[p].fill for p, _c, _old in coming):
                sheets[kind.id, spare] = []
    out = list(placements)
    over = OVER if not problem.spacing else CONTACT * 500
    kinds = {s.id: s for s in problem.sheets}
    moved = False
    if len(placements) > MOST_LYING:
        return None
    for (sheet, copy), lying in sheets.items():
        shapes = list(_shapes(problem, worth, kinds[sheet], {p for p, _c, _pl in coming}))
        if not shapes:
            continue
        corners = _corners_of(shapes)
        free = _room_on(problem, kinds[sheet])
        bodies = []
        for pl in lying:
            region = worth.regions[pl.part].placed(pl.x, pl.y, pl.rotation, pl.mirrored)
            holes = [c.points(NEST_CHORD, 1) for c in region.holes] if problem.part_in_hole else []
            bodies.append(Polygon(region.outline.points(NEST_CHORD, 1), holes))
        free = _without(free, shapely.MultiPolygon(bodies), problem.spacing)
        for part, number, old in sorted(coming, key=lambda c: (-worth.areas[c[0]], c[0], c[1])):
            way = _snug_way(free, shapes, corners, part, over)
            if way is None:
                continue
            shape, x, y = way
            free = _without(free, shapely.affinity.translate(shape.polygon, x, y), problem.spacing)
            out = [pl for pl in out if pl is not old]
            out.append(_placement(way, number, sheet, copy))
            coming.remove((part, number, old))
            moved = True
    return out if moved else None


def _snug_way(
    free: list[Polygon], shapes: list[Shape], corners: Corners, part: str, over: float
) -> tuple[Shape, float, float] | None:
    """The first place where a part lies with a corner in one of the rooms, which it nearly fills."""
    area = max((Polygon(s.polygon.exterior).area for s in shapes if s.part == part), default=math.inf)
    rooms = [f for f in free if area * (1 - 1e-6) <= Polygon(f.exterior).area <= area * SNUG]
    for corner in islice(_sharp_corners(rooms), MOST_PASSED):
        for way in _into(corner, shapes, corners, Counter({part: 1}), over):
            return way
    return None


def _placement(way: tuple[Shape, float, float], copy: int, sheet: str, sheet_copy: int) -> Placement:
    shape, x, y = way
    return Placement(
        part=shape.part,
        copy=copy,
        sheet=sheet,
        sheet_copy=sheet_copy,
        x=x,
        y=y,
        rotation=shape.turn,
        mirrored=shape.mirrored,
    )


def _room_on(problem: NestProblem, kind: SheetKind) -> list[Polygon]:
    """Where on an empty sheet pieces may lie."""
    free = usable(kind)
    for k in kind.keepouts:
        clearance = problem.spacing if k.clearance is None else k.clearance
        free = free.difference(Polygon(Contour.of(k.shape).points(NEST_CHORD, 1)).buffer(clearance))
    return _parts(free)


def _shapes(
    problem: NestProblem, worth: Worth, kind: SheetKind, wanted: set[str] | None = None
) -> Iterator[Shape]:
    """All ways in which the parts (those wanted) may lie on a sheet, like ones once."""
    for p in problem.parts:
        if not p.quantity or p.rotations == "free" or (wanted is not None and p.id not in wanted):
            continue
        seen: set[tuple] = set()
        for mirrored in (False, True) if p.mirror else (False,):
            for turn in turns_of(p, kind.grain, []):
                region = worth.regions[p.id].placed(0, 0, turn, mirrored)
                points = region.outline.points(NEST_CHORD, 1)
                holes = [c.points(NEST_CHORD, 1) for c in region.holes] if problem.part_in_hole else []
                every = np.concatenate([points, *holes]) - points.min(0)
                key = tuple(sorted(map(tuple, np.round(every, 4).tolist())))
                if key not in seen:
                    seen.add(key)
                    polygon = orient(Polygon(points, holes))
                    yield Shape(p.id, turn, mirrored, polygon, polygon.area)


def _without(free: list[Polygon], body: BaseGeometry, spacing: float) -> list[Polygon]:
    """The room that is left once a piece lies in it; hairs between what touches are no room."""
    grown = body.buffer(spacing, quad_segs=48)  # chords within a thousandth of the spacing
    out: list[Polygon] = []
    for f in free:
        if not f.intersects(grown):
            out.append(f)
            continue
        opened = f.difference(grown).buffer(-CONTACT, join_style="mitre", mitre_limit=1e3)
        out += _parts(opened.buffer(CONTACT, join_style="mitre", mitre_limit=1e3).simplify(CONTACT))
    return out


def _into(
    corner: Corner, shapes: list[Shape], c: Corners, left: Counter[str], over: float
) -> Iterator[tuple[Shape, float, float]]:
    """Pieces that have a corner like this one, or a side along one of its own, the likeliest first."""
    here = np.array([left[s.part] > 0 for s in shapes])[c.shape]
    along_before, along_after = _same(c.before, corner.before), _same(c.after, corner.after)
    fits = here & (c.angle <= corner.angle + 2 * ALIKE) & (along_before | along_after)
    chosen = np.flatnonzero(fits)
    ends_before = _likeness(c.length_before[chosen], corner.length_before) * along_before[chosen]
    ends_after = _likeness(c.length_after[chosen], corner.length_after) * along_after[chosen]
    both = (along_before & along_after)[chosen]
    size = np.array([shapes[k].area for k in c.shape[chosen]])
    order = np.lexsort((chosen, -size, -(ends_before + ends_after), ~both))
    around = shapely.prepared.prep(corner.room.buffer(CONTACT, join_style="mitre"))
    known: set[tuple[int, float, float]] = set()
    for k in chosen[order]:
        shape = shapes[int(c.shape[k])]
        x, y = (float(v) for v in corner.at - c.at[k])
        key = (int(c.shape[k]), round(x, 3), round(y, 3))
        if key in known:
            continue
        known.add(key)
        body = shapely.affinity.translate(shape.polygon, x, y)
        if around.covers(body) and body.difference(corner.room).area < over:
            yield shape, x, y


def _parts(shape: BaseGeometry) -> list[Polygon]:
    return [orient(g) for g in shapely.get_parts(shape) if g.geom_type == "Polygon" and not g.is_empty]


def _sides(ring: Array) -> tuple[Array, Array, Array, Array, Array]:
    """Of each corner of a ring (counter-clockwise): directions of the sides before and after it, their
    lengths, the angle inside.
    """
    ahead = np.roll(ring, -1, axis=0) - ring
    after, long_after = np.arctan2(ahead[:, 1], ahead[:, 0]), np.hypot(*ahead.T)
    before, long_before = np.roll(after, 1), np.roll(long_after, 1)
    return before, after, long_before, long_after, math.pi - _turned(after - before)


def _turned(angle: Array) -> Array:
    """The same angle between -pi and pi."""
    return np.asarray((angle + math.pi) % (2 * math.pi) - math.pi)


def _same(directions: Array, direction: float) -> np.ndarray:
    return np.abs(_turned(directions - direction)) < ALIKE


def _likeness(lengths: Array, length: float) -> Array:
    """2 where a side ends where the room's does, 1 where it is shorter, 0 where it is longer."""
    return np.where(np.abs(lengths - length) < 0.02, 2.0, np.where(lengths < length, 1.0, 0.0))


def _corners_of(shapes: list[Shape]) -> Corners:
    rows = []
    for k, s in enumerate(shapes):
        ring = _straightened(np.array(s.polygon.exterior.coords)[:-1])
        before, after, long_before, long_after, angle = _sides(ring)
        rows.append((np.full(len(ring), k), ring, before, after, long_before, long_after, angle))
    shape, at, before, after, long_before, long_after, angle = (
        np.concatenate(c) for c in zip(*rows, strict=True)
    )
    keep = angle < WIDEST
    return Corners(
        shape[keep], at[keep], before[keep], after[keep], long_before[keep], long_after[keep], angle[keep]
    )


def _straightened(ring: Array) -> Array:
    """A ring without points on a straight line."""
    _b, _a, long_before, long_after, angle = _sides(ring)
    keep = (np.abs(angle - math.pi) > 1e-4) & (np.minimum(long_before, long_after) > 0)
    return ring[keep] if keep.sum() > 2 else ring


def _sharp_corners(free: list[Polygon]) -> Iterator[Corner]:
    """The corners of the room left, hardest to fill first: in the smallest room, the sharpest."""
    for f in sorted(free, key=lambda q: q.area):
        ring = _straightened(np.array(f.exterior.coords)[:-1])
        before, after, long_before, long_after, angle = _sides(ring)
        for k in np.argsort(angle, kind="stable"):
            if angle[k] >= WIDEST:
                break
            yield Corner(
                f,
                ring[k],
                float(before[k]),
                float(after[k]),
                float(long_before[k]),
                float(long_after[k]),
                float(angle[k]),
            )
