"""Do the boards of a joint go together as they will be cut? They are bound to the sheet they are cut from and
to the cutter that cuts them, and put together in the computer.

>>> a, b = box(0, 0, 12, 20), box(0, 20.2, 12, 40)
>>> put_together(a, b, 12.0, 12.0, 40.0).overlap
0.0
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.geometry.polygon import orient

from venzo.core.cuts.cut import Cut
from venzo.core.cuts.moves import KIND, RAPID, Z, polyline
from venzo.core.cuts.planned import PartCuts
from venzo.core.geometry.contour import Array
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.joints import mortise
from venzo.core.parts.made import BoxSet, MortiseTenon
from venzo.core.parts.shape import Shape
from venzo.core.plan import Drawing, Part, Plan, Setup
from venzo.core.snags import Remedy, Snag, Where, look, note, stop
from venzo.core.tooling.cutter import Cutter

DIFFERS = 0.05
"""mm by which a sheet may differ from what a joint was made for."""
STEP = 0.05
"""mm between the levels at which two boards are laid over each other."""
SEEN = 0.02
"""mm of wood in one place that counts as in the way."""
LEVELS = (0.15, 0.3, 0.5, 0.7, 0.85)
"""Shares of a board's thickness at which the sides of a joint are measured."""
CHORD = 0.002
QUARTER = 64
"""Chords of a quarter turn of the cutter: within 0.0002 mm for 20 mm."""


@dataclass(frozen=True)
class Board:
    """A board of a joint: its part, what the recipe says of it and what it is cut from and with."""

    name: str
    part: Part
    setup: Setup
    shape: Shape
    cuts: PartCuts
    field: str
    """The recipe's field with its thickness."""
    made_for: float
    thickness: float

    @property
    def cutters(self) -> list[Cutter]:
        """Cutters that cut its contours through."""
        names = dict.fromkeys(c.cutter for c in _through(self.cuts))
        return self.setup.cutters_named(list(names))


@dataclass(frozen=True)
class Together:
    """Two boards laid into each other: the wood that both want, mm3, how wide it is in the worst place, mm,
    and the least and most gap between their sides along the joint, mm, negative where they overlap.
    """

    overlap: float
    wide: float
    gaps: tuple[float, ...]


@dataclass(frozen=True)
class JointFit:
    """How the boards of a drawing go together as cut. ``overlap``: wood in the way, mm3, ``wide``: how wide
    at its worst, mm; ``gaps``: least and most between sides, mm, ``wanted``: as the recipe has it; ``pare``:
    wood left for the chisel on sloping walls, mm3, in how many ``walls``; ``proud``: by which the ends of
    each board stand beyond the other's face, mm.
    """

    overlap: float
    wide: float
    gaps: tuple[float, float]
    wanted: float
    pare: float
    walls: int
    proud: Mapping[str, float]


def boards_of(
    plan: Plan,
    drawing: Drawing,
    cuts: Mapping[str, Mapping[str, Mapping[tuple[str, bool], PartCuts]]],
    shapes: Mapping[str, Shape],
) -> list[Board]:
    """The boards of a jointed drawing; none where a part of it is missing or not planned. ``cuts``: by setup,
    stock, then part.
    """
    recipe = drawing.made
    if not isinstance(recipe, BoxSet | MortiseTenon):
        return []
    parts = [p for p in plan.parts if p.drawing == drawing.id and not p.missing]
    if len(parts) != len(recipe.boards):
        return []
    out = []
    for part, (name, field) in zip(parts, recipe.boards.items(), strict=True):
        setup = plan.setup(part.setup)
        planned = cuts.get(part.setup, {})
        if setup is None:
            return []
        on = {q.sheet for q in setup.nest.pieces if q.part == part.id} if setup.nest else set()
        lines = [k for k in setup.stock if (k.id in on if on else k.quantity) and k.id in planned]
        found = [(k.thickness, pc) for k in lines if (pc := planned[k.id].get((part.id, False)))]
        if not found:
            return []
        made_for = float(getattr(recipe, field))
        thickness, pc = max(found, key=lambda f: abs(f[0] - made_for))
        out.append(Board(name, part, setup, shapes[part.shape], pc, field, made_for, thickness))
    return out


def joint_snags(drawing: Drawing, boards: Sequence[Board]) -> list[tuple[str, Snag]]:
    """What is to be said of the joints of a drawing, each with its setup. How the boards go together is asked
    once they are made for what they are cut from and with.
    """
    recipe = drawing.made
    assert isinstance(recipe, BoxSet | MortiseTenon)
    bound = [*_thickness(drawing, recipe, boards), *_cutter(drawing, recipe, boards)]
    out = [(boards[0].setup.id, s) for s in bound]
    fit = None if any(s.severity == "stop" for s in bound) else fit_of(recipe, boards)
    return out if fit is None else [*out, *((boards[0].setup.id, s) for s in _fits(drawing, boards, fit))]


def _fits(drawing: Drawing, boards: Sequence[Board], fit: JointFit) -> list[Snag]:
    """What is to be said of boards put together."""
    where: Where = {"drawing": drawing.id, "setup": boards[0].setup.id}
    out = []
    if fit.wide > SEEN:
        words = (
            f"{drawing.filename}: as they are cut the boards want {fit.overlap:.1f} mm3 of the same wood, up"
            f" to {fit.wide:.2f} mm wide: they do not go together; relieve the inside corners"
        )
        mend = _remake(drawing, "Dog-bones in the corners", relief="dog-bone", cutter=_largest(boards))
        out.append(stop("joint.overlap", words, where, mend))
    elif fit.gaps[0] < fit.wanted - DIFFERS or fit.gaps[1] > fit.wanted + DIFFERS:
        words = (
            f"{drawing.filename}: as they are cut the joint has gaps from {fit.gaps[0]:.2f} to"
            f" {fit.gaps[1]:.2f} mm, {fit.wanted:.2f} mm are wanted"
        )
        out.append(look("joint.gap", words, where))
    if fit.pare > 1.0:
        words = (
            f"{drawing.filename}: {fit.pare / 1000:.1f} cm3 of wood stay on {fit.walls} sloping walls for the"
            " chisel, or a tapered cutter, up to the engraved lines: a straight cutter cannot take them"
        )
        out.append(note("joint.pare", words, where))
    return out


def _thickness(drawing: Drawing, recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> list[Snag]:
    """Boards that are cut from another thickness than the joint was made for."""
    wrong = [b for b in boards if abs(b.thickness - b.made_for) > DIFFERS]
    if not wrong:
        return []
    made = " and ".join(dict.fromkeys(f"{b.made_for:g} mm" for b in wrong))
    real = " and ".join(dict.fromkeys(f"{b.thickness:.2f} mm" for b in wrong))
    words = (
        f"{drawing.filename}: the joint is made for {' and '.join(b.name for b in wrong)} {made} thick, they"
        f" are cut from {real}: they cannot go together; make it anew for the sheet"
    )
    fields: dict[str, float | str] = {b.field: round(b.thickness, 3) for b in wrong}
    label, large = f"Make it for {real}", _largest(boards)
    if recipe.relief != "none" and large > recipe.cutter + 2 * recipe.allowance + 1e-6:
        fields["cutter"], label = large, f"{label} and a {large:g} mm cutter"
    mend = _remake(drawing, label, **fields)
    where: Where = {"drawing": drawing.id, "part": wrong[0].part.id, "setup": wrong[0].setup.id}
    return [stop("joint.thickness", words, where, mend)]


def _largest(boards: Sequence[Board]) -> float:
    return max((c.diameter for b in boards for c in b.cutters), default=6.0)


def _cutter(drawing: Drawing, recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> list[Snag]:
    """Another cutter than the corners were relieved for."""
    if recipe.relief == "none":
        return []
    large, where = _largest(boards), Where(drawing=drawing.id, setup=boards[0].setup.id)
    mend = _remake(drawing, f"Make it for {large:g} mm", cutter=large)
    if large > recipe.cutter + 2 * recipe.allowance + 1e-6:
        words = (
            f"{drawing.filename}: its corners are made for a {recipe.cutter:g} mm cutter, it is cut with"
            f" {large:g} mm: that does not reach into them; make it anew, or take the thinner cutter"
        )
        return [stop("joint.cutter", words, where, mend)]
    if large < recipe.cutter - 0.01:
        words = (
            f"{drawing.filename}: its corners are relieved for a {recipe.cutter:g} mm cutter, it is cut with"
            f" {large:g} mm: smaller reliefs would do"
        )
        return [note("joint.cutter", words, where, mend)]
    return []


def _remake(drawing: Drawing, label: str, **fields: float | str) -> Remedy:
    return Remedy(label=label, command={"kind": "remake", "drawing": drawing.id, "fields": dict(fields)})


def fit_of(recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> JointFit | None:
    """Put the boards together as they are cut; None where one of them is not cut out yet."""
    key = digest(
        "joint-1",
        recipe,
        [(b.thickness, b.shape.digest, [c.key for c in _through(b.cuts)]) for b in boards],
        [[(c.id, c.diameter) for c in b.cutters] for b in boards],
    )
    return memo("joint", key, partial(_fit, recipe, boards))


def _fit(recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> JointFit | None:
    cut = [as_cut(b) for b in boards]
    if any(c is None for c in cut):
        return None
    a, b = (c for c in cut if c is not None)
    if isinstance(recipe, BoxSet):
        return _box_fit(recipe, boards, a, b)
    return _mortise_fit(recipe, boards, a, b)


def _through(cuts: PartCuts) -> list[Cut]:
    """Cuts that go through along a contour."""
    return [c for c in cuts.cuts if c.frees]


def as_cut(board: Board) -> Polygon | None:
    """A board's outline with its holes as the cutter leaves it, mm in the part's frame: what stays of the
    sheet about the middle of the part where every through cut has swept. None: the outline is not cut.
    """
    swept = []
    for c in _through(board.cuts):
        cutter = board.setup.cutter(c.cutter)
        if cutter is None:
            return None
        swept += [LineString(w).buffer(cutter.radius, quad_segs=QUARTER) for w in _below(c.moves)]
    x0, y0, x1, y1 = board.shape.region.outline.bbox
    sheet = box(x0 - 50, y0 - 50, x1 + 50, y1 + 50)
    left = shapely.get_parts(sheet.difference(shapely.union_all(swept)))
    middle = board.shape.polygon.representative_point()
    found = next((p for p in left if p.contains(middle)), None)
    return None if found is None or found.bounds[0] < x0 - 49 else found


def _below(moves: Array) -> list[Array]:
    """Ways of the tip under the surface, in plan."""
    out: list[Array] = []
    under = (moves[:, Z] < 0) & (moves[:, KIND] != RAPID)
    k = 1
    while k < len(moves):
        j = k
        while j < len(moves) and under[j]:
            j += 1
        if j > k:
            way = polyline(moves[k - 1 : j], CHORD)[:, :2]
            if np.abs(np.diff(way, axis=0)).max() > 1e-6:
                out.append(way)
        k = max(j, k) + 1
    return out


def put_together(
    a: BaseGeometry, b: BaseGeometry, through_b: float, through_a: float, edge: float
) -> Together:
    """Two ends that meet at a corner of a box, each drawn as (out from its shoulder, along the edge), mm:
    ``a`` enters a board ``through_b`` thick, ``b`` one ``through_a`` thick.

    At a height y along the edge both want the block where A is solid for so many mm of B's thickness and B
    for so many of A's: the wood that both want is the product, summed over the edge.
    """
    rows = np.arange(STEP / 2, edge, STEP)
    in_a, in_b = _solid(a, through_b, rows), _solid(b, through_a, rows)
    both = np.minimum(in_a, in_b) > SEEN
    wide = 0.0
    for k in np.flatnonzero(both & ~np.concatenate([[False], both[:-1]])).tolist():
        wide = max(wide, STEP * float(np.argmin(np.append(both[k:], False))))
    # reliefs lie at the shoulders or at the tips: the sides' gap is that of the level that has none
    levels = [
        clear
        for share in LEVELS
        if (clear := _gaps(_along(a, share * through_b, edge), _along(b, share * through_a, edge)))
    ]
    least = min((min(c) for c in levels), default=0.0)
    most = min((max(c) for c in levels), default=0.0)
    return Together(float((in_a * in_b)[both].sum() * STEP), wide, (least, most))


def _solid(end: BaseGeometry, deep: float, rows: Array) -> Array:
    """mm of solid wood within ``deep`` of the shoulder on every level along the edge: where a ring that runs
    counter-clockwise crosses a level upwards wood ends, downwards it begins.
    """
    out = np.zeros_like(rows)
    near = shapely.clip_by_rect(end, 0.0, float(rows[0]) - 1.0, deep, float(rows[-1]) + 1.0)
    for p in shapely.get_parts(near):
        whole = orient(p)
        for ring in (whole.exterior, *whole.interiors):
            xy = shapely.get_coordinates(ring)
            (x0, y0), (x1, y1) = xy[:-1].T[:, :, None], xy[1:].T[:, :, None]
            up, down = (y0 <= rows) & (rows < y1), (y1 <= rows) & (rows < y0)
            share = (rows - y0) / np.where(y1 == y0, 1.0, y1 - y0)
            out += ((up.astype(float) - down) * (x0 + (x1 - x0) * share)).sum(axis=0)
    return out


def _along(end: BaseGeometry, out: float, edge: float) -> list[tuple[float, float]]:
    """Where an end is solid along the edge, so far out from its shoulder."""
    hit = LineString([(out, -1.0), (out, edge + 1.0)]).intersection(end)
    return sorted((p.bounds[1], p.bounds[3]) for p in shapely.get_parts(hit) if p.length > 1e-6)


def _gaps(a: Sequence[tuple[float, float]], b: Sequence[tuple[float, float]]) -> tuple[float, ...]:
    """Gaps between the sides of neighbours of two boards along an edge, mm; negative: they overlap."""
    spans = sorted([(*s, 0) for s in a] + [(*s, 1) for s in b])
    return tuple(n[0] - s[1] for s, n in pairwise(spans) if s[2] != n[2])


def _box_fit(recipe: BoxSet, boards: Sequence[Board], a: Polygon, b: Polygon) -> JointFit:
    front, side = boards
    j = recipe.edge_joint()
    ends = _ends(a, recipe.length, j.depth_a), _ends(b, recipe.width, j.depth_b)
    proud = {
        front.name: j.depth_a - side.thickness,
        side.name: j.depth_b - front.thickness,
    }
    tries = [
        put_together(ea, eb, side.thickness, front.thickness, recipe.height)
        for ea, eb in zip(*ends, strict=True)
    ]
    if not j.slope:
        worst = max(tries, key=lambda t: t.wide)
        return JointFit(
            sum(t.overlap for t in tries),
            worst.wide,
            (min(t.gaps[0] for t in tries), max(t.gaps[1] for t in tries)),
            recipe.clearance,
            0.0,
            0,
            proud,
        )
    # the sides' walls are cut upright: what the tails want of them is pared; then the walls slope as drawn
    levels = [
        clear
        for end in ends[0]
        for share in LEVELS
        if (clear := _gaps(_along(end, share * j.depth_a, recipe.height), j.solid("B", share)))
    ]
    least, most = min(min(c) for c in levels), min(max(c) for c in levels)
    return JointFit(
        0.0,
        max(0.0, -least),
        (least, most),
        recipe.clearance,
        sum(t.overlap for t in tries),
        2 * len(j.slope_lines()),
        proud,
    )


def _ends(board: Polygon, long: float, reach: float) -> tuple[BaseGeometry, BaseGeometry]:
    """Both ends of a board as (out from the shoulder, along the edge), mm."""
    right = shapely.transform(board, lambda p: np.column_stack([p[:, 0] - (long - reach), p[:, 1]]))
    left = shapely.transform(board, lambda p: np.column_stack([reach - p[:, 0], p[:, 1]]))
    return right, left


@dataclass(frozen=True)
class Corner:
    """Two boards where they meet, laid flat: ``first`` as it lies, ``second`` as it comes into it;
    ``window``: where they meet (x0, y0, x1, y1), mm.
    """

    first: BaseGeometry
    second: BaseGeometry
    window: tuple[float, float, float, float]


def corner_of(recipe: BoxSet | MortiseTenon, boards: Sequence[Board]) -> Corner:
    """A corner of a joint as cut, for a picture. Of a box the second board comes from the other side, its
    depth drawn as that of the first; of a mortise it is the tenon in its hole.

    Raises:
        ValueError: a board is not cut out.
    """
    a, b = (as_cut(x) for x in boards)
    if a is None or b is None:
        raise ValueError("a board is not cut out")
    if isinstance(recipe, MortiseTenon):
        x, y = recipe.board_length / 2, recipe.board_width / 2
        w, h = _footprint(recipe, boards, a)
        half = (w / 2, h / 2)
        return Corner(b, box(x - half[0], y - half[1], x + half[0], y + half[1]), _about(x, y, half))
    j = recipe.edge_joint()
    first = _ends(a, recipe.length, j.depth_a)[0]
    second = _ends(b, recipe.width, j.depth_b)[0]
    deep, share = boards[1].thickness, boards[1].thickness / boards[0].thickness
    facing = shapely.transform(second, lambda p: np.column_stack([deep - p[:, 0] * share, p[:, 1]]))
    return Corner(first, facing, (0.0, 0.0, deep, recipe.height))


def _about(x: float, y: float, half: tuple[float, float]) -> tuple[float, float, float, float]:
    room = 15.0
    return (x - half[0], y - half[1] - room, x + half[0], y + half[1] + room)


def _footprint(recipe: MortiseTenon, boards: Sequence[Board], rail: Polygon) -> tuple[float, float]:
    """What the tenon as cut needs of its board, on any level, mm along and across."""
    of_rail, of_board = boards
    along = recipe.leans == "along"
    return mortise(of_rail.thickness, _tenon(recipe, rail), of_board.thickness, 0.0, recipe.lean, along)


def _mortise_fit(recipe: MortiseTenon, boards: Sequence[Board], rail: Polygon, board: Polygon) -> JointFit:
    of_board, need = boards[1], _footprint(recipe, boards, rail)
    x, y = recipe.board_length / 2, recipe.board_width / 2
    hole = next((Polygon(r) for r in board.interiors if Polygon(r).contains(shapely.Point(x, y))), None)
    if hole is None:
        return JointFit(0.0, 0.0, (0.0, 0.0), recipe.clearance, 0.0, 0, {})
    wanted = box(x - need[0] / 2, y - need[1] / 2, x + need[0] / 2, y + need[1] / 2)
    over = wanted.difference(hole)
    # across its middle, clear of reliefs; the wedges that a leaning tenon leaves open are in what it needs
    gaps = (
        _across(hole, [(x - 1e4, y), (x + 1e4, y)]) - need[0],
        _across(hole, [(x, y - 1e4), (x, y + 1e4)]) - need[1],
    )
    wide = _thickest(over) if not over.is_empty else 0.0
    return JointFit(
        float(over.area * of_board.thickness),
        wide,
        (min(gaps), max(gaps)),
        recipe.clearance,
        0.0,
        0,
        {},
    )


def _tenon(recipe: MortiseTenon, rail: Polygon) -> float:
    """How wide the tenon is as cut, mm, measured along its shoulder's direction, clear of the shoulder."""
    w = math.radians(recipe.lean)
    cot = 1 / math.tan(w) if recipe.lean < 90 and recipe.leans == "along" else 0.0
    out = recipe.rail_length + 0.75 * (recipe.board / math.sin(w) + recipe.proud)
    low, high = -1.0, recipe.rail_width + 1.0
    hit = LineString([(out + low * cot, low), (out + high * cot, high)]).intersection(rail)
    return float(hit.bounds[3] - hit.bounds[1]) if not hit.is_empty else 0.0


def _across(hole: Polygon, line: list[tuple[float, float]]) -> float:
    return float(LineString(line).intersection(hole).length)


def _thickest(area: BaseGeometry) -> float:
    """How wide an area is in its widest place, mm: twice the largest circle's radius, about."""
    return 2 * max(
        float(shapely.length(shapely.maximum_inscribed_circle(p, 0.005)))
        for p in shapely.get_parts(area)
        if p.area > 1e-9
    )
