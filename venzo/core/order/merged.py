"""Sheets of several jobs cut by one program: which cutter is loaded when, and what it then does.

Every sheet keeps its own order; cutters are loaded as seldom as these orders allow (``loads``).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, groupby

import numpy as np
import shapely
from shapely.affinity import translate
from shapely.geometry import MultiLineString, Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import CX, CY, KIND, RAPID, X, Y, Z, polyline
from venzo.core.geometry.contour import Array
from venzo.core.holding.in_the_way import obstacles
from venzo.core.model import Point
from venzo.core.order.loads import classes_of, fewest_loads
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.plan import Setup
from venzo.core.proof.program import ToolRun
from venzo.core.snags import Snag, look, stop
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter

SAME_THICK = 0.05
"""mm by which tops may differ where Z 0 is taken on one of them."""
CHORD = 0.05


@dataclass(frozen=True, eq=False)
class OnTable:
    """A planned sheet on the table. ``at``: where its lower left corner lies, program coordinates, mm;
    ``names``: of its parts; ``called``: it, for people.
    """

    id: str
    called: str
    setup: Setup
    sheet: SheetPlan
    stock: Stock
    at: Point
    names: Mapping[str, str]

    def cutter(self, cut: PlacedCut) -> Cutter:
        """The cutter of one of its cuts."""
        found = self.setup.cutter(cut.cut.cutter)
        assert found is not None
        return found

    @property
    def outline(self) -> BaseGeometry:
        """Of the stock, program coordinates."""
        stock = self.stock
        own = Polygon(stock.outline) if stock.outline else box(0, 0, stock.width, stock.height)
        return translate(own, *self.at)

    @property
    def swept(self) -> BaseGeometry:
        """What its cutters sweep in plan, program coordinates."""
        out: list[BaseGeometry] = []
        for cutter, cuts in _by_cutter(self):
            lines = [polyline(_cutting(c.moves), CHORD)[:, :2] for c in cuts]
            drawn = MultiLineString([p if len(p) > 1 else np.vstack([p, p + 1e-6]) for p in lines])
            out.append(drawn.buffer(cutter.radius, quad_segs=8))
        return translate(shapely.union_all(out), *self.at)


def _cutting(moves: Array) -> Array:
    """The moves from where the first cutting one starts to the last cutting one."""
    at = np.flatnonzero(moves[:, KIND] != RAPID)
    return moves[max(0, int(at[0]) - 1) : int(at[-1]) + 1] if len(at) else moves[:1]


def _by_cutter(on: OnTable) -> Iterator[tuple[Cutter, list[PlacedCut]]]:
    """Consecutive cuts with one cutter."""
    for _key, cuts in groupby(on.sheet.cuts, key=lambda c: c.cut.cutter):
        some = list(cuts)
        yield on.cutter(some[0]), some


Load = list[tuple[OnTable, list[PlacedCut]]]
"""What is cut while one cutter is loaded, sheet by sheet."""


def loads_together(sheets: Sequence[OnTable]) -> list[Load]:
    """The cutters in order, each with all that is cut while it is loaded; sheets in the order given."""
    tasks: list[tuple[OnTable, list[PlacedCut]]] = []
    numbers: list[str] = []
    after: list[frozenset[int]] = []
    for on in sheets:
        before: frozenset[int] = frozenset()
        for cutter, cuts in _by_cutter(on):
            after.append(before)
            before = frozenset({len(tasks)})
            tasks.append((on, cuts))
            numbers.append(str(cutter.number))
    classes = classes_of(numbers, [0] * len(tasks), after)
    rank = {number: k for k, number in enumerate(dict.fromkeys(numbers))}
    found = fewest_loads(classes, rank)
    if found is None:  # too many ways: sheet after sheet
        return [[task] for task in tasks]
    out: list[Load] = [[] for _ in range(max(found, default=-1) + 1)]
    for n, c in sorted(zip(found, classes, strict=True), key=lambda pair: (pair[0], min(pair[1].members))):
        out[n] += [tasks[k] for k in c.members]
    return out


def runs_together(loads: Sequence[Load], top: float | None) -> list[ToolRun]:
    """What a program of some loads is to do, in program X and Y; Z 0 at ``top`` mm over the bed, None: at
    the top of every sheet, which are equally thick.
    """
    runs: list[ToolRun] = []
    for load in loads:
        for on, cuts in load:
            for c in cuts:
                runs = _with(runs, on, c, 0.0 if top is None else on.stock.thickness - top)
    return runs


def _with(runs: list[ToolRun], on: OnTable, c: PlacedCut, lift: float) -> list[ToolRun]:
    cutter = on.cutter(c)
    moves = c.moves.copy()
    moves[:, [X, Y]] += on.at
    moves[:, [CX, CY]] += on.at
    moves[:, Z] += lift
    part = on.names.get(c.piece.part, c.piece.part)
    label = f"{on.called}: {part} piece {c.piece.copy_no + 1}: {c.cut.contour}, {c.cut.kind}"
    if not runs or runs[-1].number != cutter.number or runs[-1].rpm != c.cut.rpm:
        runs = [*runs, ToolRun(cutter.number, cutter.name, c.cut.rpm, [])]
    if c.stop:
        stops = {**runs[-1].stops, len(runs[-1].cuts): f"{on.called}: {c.stop}"}
        runs = [*runs[:-1], replace(runs[-1], stops=stops)]
    runs[-1].cuts.append((label, moves))
    return runs


def judged_together(sheets: Sequence[OnTable], z_zero: str) -> list[Snag]:
    """What forbids that sheets are cut by one program where they lie."""
    return [
        *_one_machine(sheets),
        *_one_number_a_cutter(sheets),
        *_one_zero(sheets, z_zero),
        *_own_files(sheets),
        *_apart(sheets),
        *_fixings(sheets),
    ]


def _one_machine(sheets: Sequence[OnTable]) -> list[Snag]:
    machines = {on.setup.machine.id: on for on in sheets}
    if len(machines) < 2:
        return []
    named = " and ".join(f"{on.called} on {on.setup.machine.name}" for on in machines.values())
    return [stop("table.machines", f"{named}: one program runs on one machine; take the others out")]


def _one_number_a_cutter(sheets: Sequence[OnTable]) -> list[Snag]:
    """One number is one cutter, and one cutter has one number."""
    out: list[Snag] = []
    known: dict[int, tuple[OnTable, Cutter]] = {}
    numbers: dict[str, tuple[OnTable, Cutter]] = {}
    for on in sheets:
        for cutter, _cuts in _by_cutter(on):
            first, other = known.setdefault(cutter.number, (on, cutter))
            if _shape(other) != _shape(cutter):
                out.append(
                    stop(
                        "table.cutters",
                        f"T{cutter.number} is {other.name} for {first.called} and {cutter.name} for"
                        f" {on.called}: give one of them another number in its job",
                    )
                )
            first, other = numbers.setdefault(cutter.id, (on, cutter))
            if other.number != cutter.number:
                out.append(
                    look(
                        "table.twice",
                        f"{cutter.name} is T{other.number} for {first.called} and T{cutter.number} for"
                        f" {on.called}: it is loaded twice; give it one number",
                    )
                )
    return list(dict.fromkeys(out))


def _shape(c: Cutter) -> tuple[object, ...]:
    return c.id, c.kind, c.diameter, c.angle, c.tip, c.corner_radius


def _one_zero(sheets: Sequence[OnTable], z_zero: str) -> list[Snag]:
    thick = sorted(sheets, key=lambda on: on.stock.thickness)
    if z_zero != "top" or not thick:
        return []
    thin, most = thick[0], thick[-1]
    if most.stock.thickness - thin.stock.thickness <= SAME_THICK:
        return []
    return [
        stop(
            "table.thickness",
            f"Z 0 is taken on top of the material, and {thin.called} is {thin.stock.thickness:.2f} mm thick,"
            f" {most.called} {most.stock.thickness:.2f} mm: take Z 0 on the spoilboard",
        )
    ]


def _own_files(sheets: Sequence[OnTable]) -> list[Snag]:
    """What has programs of its own and cannot be part of another."""
    out: list[Snag] = []
    for on in sheets:
        mixed = any(c.cut.z_zero and c.cut.z_zero != on.setup.z_zero for c in on.sheet.cuts)
        for wrong, words in (
            (any(c.trial for c in on.sheet.cuts), "has trial pieces in a program of their own"),
            (mixed, "has cuts with a Z zero of their own"),
            (bool(on.setup.lying.turn), "lies crooked"),
            (on.setup.indexing is not None, "is moved along the table"),
            (any(f.kind == "fixture board" for f in on.setup.fixings), "lies on a fixture board"),
        ):
            if wrong:
                out.append(stop("table.own-files", f"{on.called} {words}: run it by itself"))
        if any(s.marked and s.on(on.sheet.sheet, on.sheet.copy_no) for s in on.setup.screws):
            out.append(
                look(
                    "table.marks",
                    f"the marks for the screws of {on.called} are no part of this program: set them out by"
                    " hand, or drill them with its own job's file at this square",
                )
            )
    return out


def _apart(sheets: Sequence[OnTable]) -> list[Snag]:
    """Sheets that lie on one another, or are cut into by another's cutters."""
    out: list[Snag] = []
    swept = {on.id: on.swept for on in sheets}
    for one, two in combinations(sheets, 2):
        if one.outline.intersection(two.outline).area > 1.0:
            words = f"{one.called} and {two.called} lie on one another: give one another square"
            out.append(stop("table.overlap", words))
            continue
        for a, b in ((one, two), (two, one)):
            hit = swept[a.id].intersection(b.outline)
            if hit.area > 0.5:
                x, y = hit.representative_point().coords[0]
                words = f"cuts of {a.called} run into {b.called} at X {x:.0f} Y {y:.0f}"
                out.append(stop("table.cut-into", f"{words}: give them squares further apart"))
    return out


def _fixings(sheets: Sequence[OnTable]) -> list[Snag]:
    """Clamps and screws of one sheet in the way of the cutters of another, or of the ways between them."""
    out: list[Snag] = []
    travel = max((on.stock.thickness for on in sheets), default=0.0)
    travel += max((on.setup.machine.clearance for on in sheets), default=0.0)
    swept = {on.id: on.swept for on in sheets} if len(sheets) > 1 else {}
    for on in sheets:
        keep = on.setup.rules.hold.keep_clear
        for t in obstacles(on.setup, on.sheet):
            if on.stock.thickness + t.top > travel - keep + 1e-9:
                high = on.stock.thickness + t.top
                words = f"{t.says} of {on.called} stands {high:.0f} mm over the table, fast moves pass at"
                out.append(
                    stop("table.high", f"{words} {travel:.0f} mm: take it lower, or raise the clearance")
                )
            shape = translate(t.shape, *on.at)
            met = next((o for o in sheets if o is not on and swept[o.id].distance(shape) < keep), None)
            if met:
                words = f"{t.says} of {on.called} stands in the way of what is cut of {met.called}"
                out.append(stop("table.fixing", f"{words}: put it elsewhere, or the sheets further apart"))
    return out
