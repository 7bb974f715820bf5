"""In how many ways can each part lie, and as which polygon? The forms that the improving search works on.

A form is a part (or its mirror image) as loops about its own middle; a *way* is a form at one of the
problem's turns. Forms that coincide under a turn share tables. Arcs stand as circumscribed chords, so a form
never lies inside its part.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from venzo.core.geometry.contour import Array, Contour, rotation_matrix
from venzo.core.geometry.offset import offset_points
from venzo.core.nesting.problem import NestPart, NestProblem, Placement, SheetKind
from venzo.core.nesting.tables import Fields

SAFE = 0.003
"""mm added to every clearance: the tables are kept in single precision, and the judge must never be met at
its limit.
"""
COARSE = 0.1
"""How far a chord may lie outside an arc in the search, mm; a finer outline would buy less than it costs."""
MOST_CORNERS = 60
MOST_TABLES = 7500
"""Tables that a search may need before the turns it tries are thinned out (about 25 kB and 0.6 ms each)."""


@dataclass
class Form:
    """One shape of a part: loops about their middle; ``lean`` and ``middle`` undo the move into that
    frame.
    """

    loops: list[Array]
    mirrored: bool
    lean: float
    middle: Array


@dataclass
class Forms:
    """All forms of a problem with the ways in which each kind of piece may lie.

    ``kinds`` are part ids with a grain of the sheet (None where it does not matter);
    ``first_way[k]:first_way[k + 1]`` are its rows of ``ways``.
    """

    fields: Fields
    forms: list[Form]
    angles: list[float]
    boxes: Array
    spin: Array
    kinds: dict[tuple[str, float | None], int]
    first_way: np.ndarray
    ways: np.ndarray
    areas: dict[str, float]
    obstacles: dict[str, list[tuple[int, float, float]]]
    boxes_of: dict[str, tuple[float, float, float, float]]
    apart: float
    """mm that two sheets must lie apart so that nothing on one meets anything of the other."""
    _by_part: dict[tuple[str, bool], int] = field(default_factory=dict)

    def placement(
        self, part: str, copy: int, sheet: str, sheet_copy: int, form: int, turn: int, x: float, y: float
    ) -> Placement:
        """The contract's placement of a form at a turn with its middle at (x, y)."""
        f = self.forms[form]
        # world = R(turn) (R(lean) M p - middle) + (x, y)
        off = np.array(rotation_matrix(self.angles[turn])) @ f.middle
        return Placement(
            part=part,
            copy=copy,
            sheet=sheet,
            sheet_copy=sheet_copy,
            x=x - off[0],
            y=y - off[1],
            rotation=(self.angles[turn] + f.lean) % 360,
            mirrored=f.mirrored,
        )

    def usual(self, form: int, turn: int) -> int:
        """The first turn at which the form is the same figure as at ``turn``: the one the ways name."""
        return self.fields.same(form, turn)

    def pose(self, pl: Placement) -> tuple[int, int, float, float]:
        """Form, turn and middle of a placement (nearest turn that the search knows)."""
        form = self._by_part[pl.part, pl.mirrored]
        f = self.forms[form]
        want = (pl.rotation - f.lean) % 360
        turn = min(range(len(self.angles)), key=lambda k: abs((self.angles[k] - want + 180) % 360 - 180))
        off = np.array(rotation_matrix(self.angles[turn])) @ f.middle
        return form, turn, pl.x + off[0], pl.y + off[1]


def lean_of(points: Array) -> float:
    """Turn (degrees, 0 to 90) that lays the narrowest box around points along the axes."""
    corner = np.array(Polygon(points).minimum_rotated_rectangle.exterior.coords)[:2]
    return -math.degrees(math.atan2(*(corner[1] - corner[0])[::-1])) % 90


def _loops(part: NestPart, mirrored: bool, with_holes: bool) -> list[Array]:
    region = part.region()
    placed = region.placed(0, 0, 0, mirrored)
    loops = [c.points(COARSE, 1) for c in (placed.loops if with_holes else [placed.outline])]
    if sum(map(len, loops)) > MOST_CORNERS:
        # many short chords: grown by as much as thinning them may take away
        grown = offset_points(loops, COARSE / 2, round_joins=False)
        outer = max(grown, key=len) if not with_holes else None
        body = Polygon(grown[0], grown[1:]) if outer is None else Polygon(outer)
        thin = body.simplify(COARSE / 2)
        if (
            thin.geom_type == "Polygon"
            and not thin.is_empty
            and sum(map(len, loops))
            > 1.3 * (len(thin.exterior.coords) + sum(len(r.coords) for r in thin.interiors))
        ):
            thin = orient(thin)
            loops = [np.array(r.coords)[:-1] for r in (thin.exterior, *thin.interiors)]
    out = []
    for loop in loops:
        keep = np.hypot(*(loop - np.roll(loop, 1, axis=0)).T) > 1e-4
        out.append(loop[keep])
    return [loop for loop in out if len(loop) > 2]


def turns_of(part: NestPart, grain: float | None, free: list[float]) -> list[float]:
    """Rotations that a part may take on a sheet with this grain; of free ones those in ``free``."""
    if part.rotations == "free":
        turns = (
            [(grain - part.grain) % 360, (grain - part.grain + 180) % 360]
            if part.grain is not None and grain is not None
            else list(free)
        )
    else:
        turns = [t % 360 for t in part.rotations]
    if part.grain is not None and grain is not None:
        turns = [
            t for t in turns if min((part.grain + t - grain) % 180, (grain - part.grain - t) % 180) < 1e-3
        ]
    return list(dict.fromkeys(round(t, 9) % 360 for t in turns))


def free_steps(problem: NestProblem) -> int:
    """Steps of a full turn at which freely turning parts are tried: as many as tables may be had for."""
    count = sum(2 if p.mirror else 1 for p in problem.parts if p.quantity)
    return next((n for n in (16, 8) if count * (count + 1) / 2 * n <= MOST_TABLES), 4)


def make_forms(problem: NestProblem, lying: Sequence[Placement] = ()) -> Forms:
    """Forms, ways and obstacles of a problem; tables are built later, as they are needed.

    ``lying``: placements that the search starts from, whose turns must be known although it would not choose
    them.
    """
    parts = [p for p in problem.parts if p.quantity]
    grains = list(dict.fromkeys(s.grain for s in problem.sheets))
    steps = free_steps(problem)
    free = [k * 360 / steps for k in range(steps)]
    forms: list[Form] = []
    by_part: dict[tuple[str, bool], int] = {}
    areas: dict[str, float] = {}
    for p in parts:
        areas[p.id] = p.region().area
        # a part that turns freely is laid along its narrowest box first; with grain its own frame counts
        base = p.rotations == "free" and p.grain is None
        for mirrored in (False, True) if p.mirror else (False,):
            loops = _loops(p, mirrored, problem.part_in_hole)
            lean = lean_of(loops[0]) if base else 0.0
            turn = np.array(rotation_matrix(lean)).T
            loops = [loop @ turn for loop in loops]
            middle = (loops[0].min(0) + loops[0].max(0)) / 2
            by_part[p.id, mirrored] = len(forms)
            forms.append(Form([loop - middle for loop in loops], mirrored, lean, middle))
    angles: list[float] = []
    kinds: dict[tuple[str, float | None], int] = {}
    turns: list[list[tuple[int, float]]] = []
    for p in parts:
        for grain in grains if p.grain is not None else [None]:
            kinds[p.id, grain] = len(turns)
            allowed = turns_of(p, grain, free)
            turns.append(
                [(by_part[p.id, m], t) for m in ((False, True) if p.mirror else (False,)) for t in allowed]
            )
            angles += [t for t in allowed if t not in angles]
    for lock in (*problem.locked, *lying):
        form = forms[by_part[lock.part, lock.mirrored]]
        want = (lock.rotation - form.lean) % 360
        if all(abs((want - a + 180) % 360 - 180) > 1e-6 for a in angles):
            angles.append(want)
    if 0.0 not in angles:
        angles.append(0.0)
    shapes = [f.loops for f in forms]
    clearances: dict[int, float] = {}
    obstacles: dict[str, list[tuple[int, float, float]]] = {}
    boxes_of: dict[str, tuple[float, float, float, float]] = {}
    biggest = max((float(np.hypot(*np.ptp(s[0], axis=0))) for s in shapes), default=1.0)
    seen: dict[tuple, int] = {}
    for sheet in problem.sheets:
        box, found = _obstacles(sheet, problem.spacing, biggest)
        boxes_of[sheet.id] = box
        obstacles[sheet.id] = []
        for loops, clearance in found:
            middle = (loops[0].min(0) + loops[0].max(0)) / 2
            own = [loop - middle for loop in loops]
            key = (round(clearance, 6), *(tuple(np.round(loop, 4).ravel().tolist()) for loop in own))
            if key not in seen:
                seen[key] = len(shapes)
                clearances[len(shapes)] = clearance + SAFE
                shapes.append(own)
            obstacles[sheet.id].append((seen[key], float(middle[0]), float(middle[1])))
    fields = Fields(shapes, angles, problem.spacing + SAFE, clearances)
    spin = np.array([[math.cos(math.radians(a)), math.sin(math.radians(a))] for a in angles])
    boxes = np.zeros((len(shapes), len(angles), 4))
    for i, loops in enumerate(shapes):
        for k, (c, s) in enumerate(spin):
            turned = loops[0] @ np.array([[c, s], [-s, c]])
            boxes[i, k] = [*turned.min(0), *turned.max(0)]
    first, ways = [0], []
    for options in turns:
        known: set[tuple[int, int]] = set()
        for form_no, t in options:
            k = angles.index(t)
            # the same figure at another turn is no further way to lie
            like = (form_no, fields.same(form_no, k))
            if like not in known:
                known.add(like)
                ways.append((form_no, k))
        first.append(len(ways))
    return Forms(
        fields,
        forms,
        angles,
        boxes,
        spin,
        kinds,
        np.array(first),
        np.array(ways, np.int64).reshape(-1, 2),
        areas,
        obstacles,
        boxes_of,
        6 * biggest + 100,
        by_part,
    )


def _obstacles(
    sheet: SheetKind, spacing: float, biggest: float
) -> tuple[tuple[float, float, float, float], list[tuple[list[Array], float]]]:
    """The box that pieces stay in, and what lies in it: loops with the clearance to each."""
    box = (sheet.margin, sheet.margin, sheet.width - sheet.margin, sheet.height - sheet.margin)
    out: list[tuple[list[Array], float]] = []
    if sheet.outline:
        outline = Contour.of(sheet.outline).oriented(True).points(COARSE / 2, -1)
        inner = offset_points([outline], -sheet.margin, round_joins=False) if sheet.margin else [outline]
        if not inner:
            return (0.0, 0.0, 0.0, 0.0), []
        points = np.concatenate(inner)
        lo, hi = points.min(0), points.max(0)
        box = (float(lo[0]), float(lo[1]), float(hi[0]), float(hi[1]))
        # all that is not sheet, far enough out that a way back is always inwards
        far = 2 * biggest + 10
        frame = np.array(
            [
                [lo[0] - far, lo[1] - far],
                [hi[0] + far, lo[1] - far],
                [hi[0] + far, hi[1] + far],
                [lo[0] - far, hi[1] + far],
            ]
        )
        out.append(([frame, *(loop[::-1] for loop in inner)], 0.0))
    for k in sheet.keepouts:
        ring = Contour.of(k.shape).oriented(True).points(COARSE / 2, 1)
        out.append(([ring], spacing if k.clearance is None else k.clearance))
    return box, out
