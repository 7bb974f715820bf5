"""A first layout in one pass: each piece at the leftmost free place of the first sheet that takes it.

Bottom-left fill (Burke, Hellier, Kendall and Whitwell 2006, from memory) on a grid of cells, after which each
piece settles into exact contact. The improving search starts from here; a drawn-out order (large pieces
first) decides most of the quality.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from venzo.core.geometry.contour import Array, Contour
from venzo.core.geometry.offset import offset_points
from venzo.core.nesting.forms import COARSE, free_steps, lean_of
from venzo.core.nesting.problem import NestProblem, Placement, SheetKind
from venzo.core.nesting.raster import TOUCH, Grid, Ints, column_runs
from venzo.core.nesting.slide import edges, settle
from venzo.core.tolerances import NEST_CHORD

SETTLE = 6
"""Cells that a piece may settle by, either way."""
SAFE = 0.003
"""mm added to the spacing in contact: the offsetter's round joins lie inside the true arc by less than
this.
"""


@dataclass
class Pose:
    """A part turned and mirrored, its box corner at (0, 0): rings, contact edges, grown cells."""

    part: str
    rotation: float
    mirrored: bool
    dx: float
    dy: float
    width: float
    height: float
    rings: list[Array]
    edges: Array
    grown: list[Array]
    swollen: list[Array]
    runs: dict[float, tuple[int, Ints, Ints, Ints]] = field(default_factory=dict)


@dataclass
class OpenSheet:
    """A sheet being filled during one pass."""

    kind: SheetKind
    copy: int
    grid: Grid
    obstacles: list[Array]
    box: tuple[float, float, float, float]
    started: dict[int, int] = field(default_factory=dict)
    used: float = 0.0
    count: int = 0
    spans: list[tuple[float, float, float, float]] = field(default_factory=list)
    """Box of each obstacle."""

    def block(self, edge_rows: Array) -> None:
        """Something that pieces may not touch, as edges already grown by the clearance."""
        if len(edge_rows):
            self.obstacles.append(edge_rows)
            x, y = edge_rows[:, ::2], edge_rows[:, 1::2]
            self.spans.append((float(x.min()), float(y.min()), float(x.max()), float(y.max())))

    def near(self, x0: float, y0: float, x1: float, y1: float) -> Array:
        """Edges of the obstacles whose boxes meet a box."""
        out = [
            o
            for o, (a, b, c, d) in zip(self.obstacles, self.spans, strict=True)
            if c >= x0 and a <= x1 and d >= y0 and b <= y1
        ]
        return np.concatenate(out) if out else np.zeros((0, 4))

    def copy_of(self) -> OpenSheet:
        """The sheet as it is, to try something on."""
        return OpenSheet(
            self.kind,
            self.copy,
            self.grid.copy(),
            list(self.obstacles),
            self.box,
            dict(self.started),
            self.used,
            self.count,
            list(self.spans),
        )


@dataclass
class Draft:
    """A layout by one pass: placements, copies by part that found no place, and whether time ran out before
    all were tried.
    """

    placements: list[Placement]
    failed: Counter[str]
    late: bool = False


class Fill:
    """Fills the sheets of a problem, pass after pass, each in its own order.

    Args:
        problem: checked by ``NestProblem.check``.
        seed: of the orders after the first ones.
    """

    def __init__(self, problem: NestProblem, seed: int = 0):
        self.problem, self.passes = problem, 0
        self.parts = {p.id: p for p in problem.parts}
        self.regions = {p.id: p.region() for p in problem.parts}
        self.free = free_steps(problem)
        span = max(max(s.width, s.height) for s in problem.sheets)
        self.cell = min(10.0, max(0.25, span / 1500))
        self.rng = np.random.default_rng(seed)
        self._poses: dict[tuple[str, float | None], list[Pose]] = {}
        self._blank: dict[str, OpenSheet] = {}
        self.best_order: list[list[str]] = []
        self.this_order: list[list[str]] = []

    # -- shapes ---------------------------------------------------------------

    def poses(self, part_id: str, grain: float | None) -> list[Pose]:
        """Every way the part may lie on a sheet with this grain."""
        key = (part_id, grain if self.parts[part_id].grain is not None else None)
        if key not in self._poses:
            self._poses[key] = self._make_poses(part_id, grain)
        return self._poses[key]

    def _make_poses(self, part_id: str, grain: float | None) -> list[Pose]:
        part, region = self.parts[part_id], self.regions[part_id]
        if part.rotations == "free":
            lean = lean_of(region.outline.points(COARSE, 1)) if part.grain is None else 0.0
            turns = [(lean + k * 360 / self.free) % 360 for k in range(self.free)]
        else:
            turns = [t % 360 for t in part.rotations]
        if part.grain is not None and grain is not None:
            if part.rotations == "free":
                turns = [(grain - part.grain) % 360, (grain - part.grain + 180) % 360]
            turns = [
                t for t in turns if min((part.grain + t - grain) % 180, (grain - part.grain - t) % 180) < 1e-3
            ]
        out: list[Pose] = []
        seen: set[tuple] = set()
        for mirrored in (False, True) if part.mirror else (False,):
            for turn in dict.fromkeys(round(t, 9) for t in turns):
                placed = region.placed(0, 0, turn, mirrored)
                x0, y0, x1, y1 = placed.outline.bbox
                loops = placed.loops if self.problem.part_in_hole else [placed.outline]
                rings = [c.points(NEST_CHORD, 1) - (x0, y0) for c in loops]
                # poses that look the same (a square turned by 90 degrees) are tried once
                print_ = (
                    round(x1 - x0, 3),
                    round(y1 - y0, 3),
                    *sorted(map(tuple, np.round(np.concatenate(rings), 2).tolist())),
                )
                if print_ in seen:
                    continue
                seen.add(print_)
                grow = self.problem.spacing / 2 + TOUCH * self.cell
                out.append(
                    Pose(
                        part_id,
                        turn,
                        mirrored,
                        x0,
                        y0,
                        x1 - x0,
                        y1 - y0,
                        rings,
                        edges(rings),
                        _grown(rings, grow, self.cell * 0.05),
                        _grown(rings, self.problem.spacing + SAFE if self.problem.spacing else 0, 0.002),
                    )
                )
        return out

    def _runs(self, pose: Pose) -> tuple[int, Ints, Ints, Ints]:
        if self.cell not in pose.runs:
            pose.runs[self.cell] = column_runs(pose.grown, self.cell)
        return pose.runs[self.cell]

    # -- sheets ---------------------------------------------------------------

    def _new_sheet(self, kind: SheetKind, copy: int) -> OpenSheet:
        if kind.id not in self._blank:
            spacing, cell = self.problem.spacing, self.cell
            pad = math.ceil((spacing / 2) / cell) + 3
            rims: list[Array] = []
            box = (kind.margin, kind.margin, kind.width - kind.margin, kind.height - kind.margin)
            inner: list[Array] = []
            if kind.outline:
                outline = Contour.of(kind.outline).oriented(True).points(NEST_CHORD, -1)
                inner = (
                    offset_points([outline], -kind.margin, round_joins=False) if kind.margin else [outline]
                )
                xs, ys = np.concatenate(inner).T if inner else (np.zeros(1), np.zeros(1))
                box = (float(xs.min()), float(ys.min()), float(xs.max()), float(ys.max()))
            # counted from the corner that pieces lie in: one that just fits falls on whole cells
            grid = Grid(kind.width, kind.height, cell, pad, box[:2])
            if kind.outline:
                beyond = np.array([[-1, -1], [-1, 2], [2, 2], [2, -1]]) * (2 * max(kind.width, kind.height))
                grid.fill([beyond, *offset_points(inner, -TOUCH * cell)])
                rims.append(edges(inner))
            for k in kind.keepouts:
                ring = Contour.of(k.shape).oriented(True).points(NEST_CHORD, 1)
                clearance = spacing if k.clearance is None else k.clearance
                for r in offset_points([ring], max(clearance - spacing / 2, 0) + TOUCH * cell):
                    grid.fill([r])
                rims.append(edges(offset_points([ring], clearance + SAFE)))
            self._blank[kind.id] = OpenSheet(kind, -1, grid, [], box)
            for rim in rims:
                self._blank[kind.id].block(rim)
        blank = self._blank[kind.id].copy_of()
        blank.copy = copy
        return blank

    def _find(self, sheet: OpenSheet, pose: Pose) -> tuple[float, float] | None:
        """The leftmost, lowest free place (box corner, mm) for a pose on a sheet."""
        x0, y0, x1, y1 = sheet.box
        slack_x, slack_y = x1 - x0 - pose.width, y1 - y0 - pose.height
        if slack_x < -1e-6 or slack_y < -1e-6:
            return None
        cell = self.cell
        nx, ny = math.floor(slack_x / cell + 1e-9), math.floor(slack_y / cell + 1e-9)
        key = id(pose)
        runs = self._runs(pose)
        if sheet.count == 0 and not sheet.kind.outline and not sheet.kind.keepouts:
            return x0, y0
        if nx < 0 or ny < 0:
            return None
        ix, iy = sheet.grid.fit(runs, sheet.started.get(key, 0), nx, ny)
        if ix < 0:
            sheet.started[key] = nx + 1
            return None
        sheet.started[key] = ix
        return x0 + ix * cell, y0 + iy * cell

    def _put(self, sheet: OpenSheet, pose: Pose, x: float, y: float) -> None:
        sheet.grid.fill([r + (x, y) for r in pose.grown])
        sheet.block(edges([r + (x, y) for r in pose.swollen]))
        sheet.used = max(sheet.used, x + pose.width)
        sheet.count += 1

    def _still(self, sheet: OpenSheet, lying: Placement) -> None:
        """A piece that lies on a sheet already."""
        region = self.regions[lying.part].placed(lying.x, lying.y, lying.rotation, lying.mirrored)
        loops = region.loops if self.problem.part_in_hole else [region.outline]
        rings = [c.points(NEST_CHORD, 1) for c in loops]
        spacing = self.problem.spacing
        sheet.grid.fill(_grown(rings, spacing / 2 + TOUCH * self.cell, self.cell * 0.05))
        sheet.block(edges(_grown(rings, spacing + SAFE if spacing else 0, 0.002)))
        sheet.used = max(sheet.used, region.outline.bbox[2])
        sheet.count += 1

    def more(
        self, kind: SheetKind, copy: int, lying: Sequence[Placement], waiting: Sequence[tuple[str, int]]
    ) -> list[Placement]:
        """Places on a sheet for pieces (part, copy) that wait, in that order, around what lies there
        already; those that find none are left out.
        """
        sheet = self._new_sheet(kind, copy)
        for pl in lying:
            self._still(sheet, pl)
        out: list[Placement] = []
        hopeless: set[str] = set()
        for part_id, number in waiting:
            found = None if part_id in hopeless else self._best_pose(sheet, part_id)
            if found is None:
                hopeless.add(part_id)
                continue
            _sheet, pose, x, y = found
            self._put(sheet, pose, x, y)
            out.append(_placed(pose, number, sheet, x, y))
        return out

    # -- passes ---------------------------------------------------------------

    def next(self, stop: Callable[[], bool] = lambda: False, partial: bool = False) -> Draft | None:
        """The next pass. When ``stop`` cuts it short: None, or as far as it got if ``partial``."""
        order, kinds = self._order(), self._kinds()
        sheets: dict[tuple[str, int], OpenSheet] = {}
        placements: list[Placement] = []
        left = Counter({p.id: p.quantity for p in self.problem.parts})
        for lock in self.problem.locked:
            where = (lock.sheet, lock.sheet_copy)
            if where not in sheets:
                kind = next(s for s in self.problem.sheets if s.id == lock.sheet)
                sheets[where] = self._new_sheet(kind, lock.sheet_copy)
            self._still(sheets[where], lock)
            placements.append(lock)
            left[lock.part] -= 1
        taken = {(pl.part, pl.copy_) for pl in self.problem.locked}
        copies = {
            p.id: iter([c for c in range(p.quantity) if (p.id, c) not in taken]) for p in self.problem.parts
        }
        failed: Counter[str] = Counter()
        hopeless: set[str] = set()
        cut_short = False

        def put(sheet: OpenSheet, pose: Pose, x: float, y: float) -> None:
            self._put(sheet, pose, x, y)
            placements.append(_placed(pose, next(copies[pose.part]), sheet, x, y))

        for block in order:
            wanted: list[str] = []
            for part_id in block:
                if left[part_id] > 0:
                    left[part_id] -= 1
                    wanted.append(part_id)
            if not wanted:
                continue
            if stop():
                if not partial:
                    return None
                cut_short = True
            if cut_short:  # a first layout is kept as far as it got
                failed.update(wanted)
                continue
            if len(wanted) > 1:
                together = self._together(wanted, sheets, kinds)
                if together is not None:
                    where, sheet, found = together
                    sheets[where] = sheet
                    for pose, x, y in found:
                        placements.append(_placed(pose, next(copies[pose.part]), sheet, x, y))
                    continue
            for part_id in wanted:
                placed = None if part_id in hopeless else self._place(part_id, sheets, kinds)
                if placed is None:
                    failed[part_id] += 1
                    hopeless.add(part_id)
                else:
                    put(*placed)
        self.passes += 1
        return Draft(placements, failed, cut_short)

    def _together(self, group: list[str], sheets: dict[tuple[str, int], OpenSheet], kinds: list[SheetKind]):
        """The pieces of a group on one sheet, tried on copies of the open sheets and then on a new one; None
        when no sheet takes them all.
        """
        fill = all(self.parts[p].fill for p in group)
        fresh = (
            [
                (kind, next((c for c in range(kind.quantity) if (kind.id, c) not in sheets), None))
                for kind in kinds
            ]
            if not (fill and sheets)
            else []
        )
        for trial in [
            *(s.copy_of() for s in sheets.values()),
            *(self._new_sheet(k, c) for k, c in fresh if c is not None),
        ]:
            found = []
            for part_id in group:
                placed = self._best_pose(trial, part_id)
                if placed is None:
                    break
                _sheet, pose, x, y = placed
                self._put(trial, pose, x, y)
                found.append((pose, x, y))
            if len(found) == len(group):
                return (trial.kind.id, trial.copy), trial, found
        return None

    def _place(self, part_id: str, sheets: dict[tuple[str, int], OpenSheet], kinds: list[SheetKind]):
        for sheet in sheets.values():
            found = self._best_pose(sheet, part_id)
            if found:
                return found
        if self.parts[part_id].fill and sheets:
            return None
        for kind in kinds:
            copy = next((c for c in range(kind.quantity) if (kind.id, c) not in sheets), None)
            if copy is None:
                continue
            sheet = self._new_sheet(kind, copy)
            found = self._best_pose(sheet, part_id)
            if found:
                sheets[kind.id, copy] = sheet
                return found
        return None

    def _best_pose(self, sheet: OpenSheet, part_id: str):
        best = None
        for pose in self.poses(part_id, sheet.kind.grain):
            at = self._find(sheet, pose)
            if at is None:
                continue
            reach = max(at[0] + pose.width, sheet.used)
            key = (round(reach / self.cell), round((at[0] + pose.width) / self.cell), at[1] + pose.height)
            if best is None or key < best[0]:
                best = (key, pose, at)
        if best is None:
            return None
        _key, pose, (x, y) = best
        # the grid has found the place to within a cell or two: what is farther off cannot be touched
        reach = SETTLE * self.cell
        near = sheet.near(x - reach, y - reach, x + pose.width + reach, y + pose.height + reach)
        low = (max(sheet.box[0], x - reach), max(sheet.box[1], y - reach), sheet.box[2], sheet.box[3])
        dx, dy = settle(pose.edges + np.array([x, y, x, y]), near, low)
        return sheet, pose, x + dx, y + dy

    def _order(self) -> list[list[str]]:
        """Pieces (or groups) in the order of this pass: by size at first, then the best order so far with a
        few pieces moved.

        Pieces are shuffled in blocks: a group is one block and so stays together.
        """
        if self.passes < 3:
            blocks: dict[tuple, list[str]] = {}
            sizes: dict[tuple, float] = {}
            for p in self.problem.parts:
                b = self.regions[p.id].outline.bbox
                w, h = b[2] - b[0], b[3] - b[1]
                size = (w * h, max(w, h) ** 2, min(w, h) * math.sqrt(max(w, h)))[self.passes]
                for c in range(p.quantity):
                    key = ("group", p.group) if p.group else ("piece", p.id, c)
                    blocks.setdefault(key, []).append(p.id)
                    sizes[key] = max(sizes.get(key, 0.0), size)
            order = [blocks[k] for k in sorted(blocks, key=lambda k: -sizes[k])]
        else:
            order = list(self.best_order)
            for _ in range(int(self.rng.integers(1, 5))):
                i, j = self.rng.integers(0, len(order), 2)
                order.insert(int(j), order.pop(int(i)))
        order.sort(key=lambda block: (self.parts[block[0]].fill, -self.parts[block[0]].priority))
        self.this_order = order
        return order

    def _kinds(self) -> list[SheetKind]:
        """Sheets in the order in which new ones are opened: cheapest per area first, then variations."""
        kinds = sorted(self.problem.sheets, key=lambda s: (s.price / (s.width * s.height), s.price))
        if self.passes % 3 == 1:
            kinds.sort(key=lambda s: s.price)
        elif self.passes > 2 and len(kinds) > 1:
            kinds = [kinds[i] for i in self.rng.permutation(len(kinds))]
        return kinds

    def reason(self, part_id: str, late: bool) -> str:
        """Why a part found no place, in words with the number that is missing; ``late``: time ran out."""
        kinds = [s for s in self.problem.sheets if s.quantity]
        if not kinds:
            return "no sheet is on hand"
        if words := self._too_large(part_id, kinds):
            return words
        if late:
            return "time ran out before it was tried"
        if not any(
            self._find(self._new_sheet(kind, 0), pose) is not None
            for kind in kinds
            for pose in self.poses(part_id, kind.grain)
        ):
            return "no place for it even on an empty sheet: its outline, or what stands on it, is in the way"
        if self.parts[part_id].fill:
            return "a fill piece opens no sheet of its own, and the open ones have no room for it"
        return "no room left on the sheets in stock"

    def _too_large(self, part_id: str, kinds: list[SheetKind]) -> str:
        """By how much its box is larger than the nearest sheet; nothing where one is large enough."""
        best = math.inf
        words = ""
        for kind in kinds:
            box = self._blank[kind.id].box if kind.id in self._blank else self._new_sheet(kind, 0).box
            room_x, room_y = box[2] - box[0], box[3] - box[1]
            poses = self.poses(part_id, kind.grain)
            if not poses and not words:
                words = f"none of its allowed rotations lies along the grain of sheet {kind.id}"
            for pose in poses:
                over_x, over_y = pose.width - room_x, pose.height - room_y
                over = max(over_x, 0) + max(over_y, 0)
                if over < best:
                    best = over
                    long = [f"{over_x:.1f} mm too long"] if over_x > 1e-6 else []
                    high = [f"{over_y:.1f} mm too high"] if over_y > 1e-6 else []
                    words = (
                        f"{' and '.join(long + high)} for sheet {kind.id} inside its margins"
                        if long + high
                        else ""
                    )
        return words


def _placed(pose: Pose, copy: int, sheet: OpenSheet, x: float, y: float) -> Placement:
    """A pose with its box corner at (x, y) as a placement."""
    return Placement(
        part=pose.part,
        copy=copy,
        sheet=sheet.kind.id,
        sheet_copy=sheet.copy,
        x=x - pose.dx,
        y=y - pose.dy,
        rotation=pose.rotation,
        mirrored=pose.mirrored,
    )


def _grown(rings: list[Array], distance: float, chord: float) -> list[Array]:
    if distance <= 0:
        return rings
    return offset_points(rings, distance, chord=chord)
