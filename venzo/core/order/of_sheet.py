"""The cutting order of one sheet: every cut of every piece placed, ordered and timed."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial

import numpy as np
from shapely import STRtree
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry import Polygon

from venzo.core.cuts.cut import ON_RELIEFS, Cut, ReliefCut
from venzo.core.cuts.moves import X, Y, Z, placed
from venzo.core.cuts.of_part import PartCuts
from venzo.core.geometry.contour import Array, rotation_matrix
from venzo.core.indexing.assigned import Assigned, CutOnSheet, Made, Reached, Seam, assign
from venzo.core.indexing.reach import spans
from venzo.core.memo import memo
from venzo.core.model import Point, digest
from venzo.core.motion.time import Axes, path_time
from venzo.core.order.sequence import VERSION, Task, moved, sequence
from venzo.core.parts.shape import Shape
from venzo.core.plan import MovedCut, OperatorStop, Part, Piece, Plan, Setup
from venzo.core.stock.zeros import HomeZero, JigZero, SquareZero, corner_of, place


@dataclass(frozen=True)
class PlacedCut:
    """A cut on the sheet: moves in sheet coordinates, when it starts (s), how long it takes and the travel
    before it (mm).
    """

    piece: Piece
    cut: Cut
    moves: Array
    begins: float
    seconds: float
    cut_length: float
    travel: float
    trial: bool = False
    """It belongs to the pieces that are cut first."""
    outline: bool = False
    """It frees its piece."""
    takes: float = 0.0
    """Its share of the sheet's time, s: loading its cutter where that changes, the way there, the cut, the
    way up, and home where its program ends there. All shares are the sheet's time.
    """
    comes_from: Point = (0.0, 0.0)
    """Where the travel to it begins, mm."""
    stop: str = ""
    """What the operator does before it, while the program stops."""
    position: int = 0
    """Of stock that is moved along the table: at which of its positions it is made, from 0."""

    @property
    def name(self) -> str:
        """What it is called on its sheet: piece, contour, step."""
        return f"{self.piece.id}/{self.cut.name}"


@dataclass(frozen=True)
class SheetPlan:
    """One sheet: its pieces and its cuts in order. ``changes``: (time, cutter id) of every cutter loaded.

    ``refused``: hand moves that the rules forbid now, each with its reason; they were left out. ``moved``:
    how many were made.
    """

    sheet: str
    copy_no: int
    pieces: tuple[Piece, ...]
    cuts: tuple[PlacedCut, ...]
    changes: tuple[tuple[float, str], ...]
    seconds: float
    cut_length: float
    rapid_length: float
    key: str
    refused: tuple[tuple[MovedCut, str], ...] = ()
    moved: int = 0
    goes_to: Point | None = None
    """Where its programs end, mm; None: over their last cut."""
    stops_lost: tuple[OperatorStop, ...] = ()
    """Stops before cuts that are no longer made."""
    seams: tuple[Seam, ...] = ()
    """Of stock that is moved along the table: where cuts are made in lengths."""
    out_of_reach: tuple[str, ...] = ()
    """Names of cuts that lie where the table never reaches."""

    @cached_property
    def loads(self) -> str:
        """Digest of what its cuts push and lift with, N; what holds the pieces follows from it."""
        return digest("|".join(f"{c.cut.load.force:.2f},{c.cut.load.lift:.2f}" for c in self.cuts))

    @property
    def positions(self) -> tuple[int, ...]:
        """At which positions of the stock something is cut."""
        return tuple(sorted({c.position for c in self.cuts}))


@dataclass(frozen=True)
class Rest:
    """Where the cutter is before a sheet is begun, and where every program goes when it is done (None: it
    stays where it is), mm on the sheet.
    """

    before: Point
    after: Point | None = None


def rest_of(setup: Setup, sheet: str) -> Rest:
    """A zero of the table leaves the machine at home, and programs go back there; any other has just been
    touched off, and where home lies is not known to its programs well enough to go there.
    """
    stock = setup.stock_of(sheet)
    if isinstance(setup.datum, SquareZero | JigZero | HomeZero):
        m = setup.machine
        home = setup.lying.point_on_sheet(corner_of(m.home, m.width, m.height))
        return Rest(home, home)
    return Rest(place(setup.datum, stock, setup.machine, setup.lying) if stock else (0.0, 0.0))


def file_of(setup: Setup, cut: Cut, trial: bool, outline: bool, position: int = 0) -> tuple[object, ...]:
    """What tells the program of a cut from that of the cut before: its cutter where the machine changes none
    itself or the setup asks for it, its operation if so wished, its Z zero, the position of the stock, the
    end of the trial and the step from insides to outlines.
    """
    by_cutter = setup.files_by not in ("job", "sheet") or not setup.machine.dialect.tool_change
    return (
        cut.cutter if by_cutter else None,
        cut.kind if setup.files_by == "operation" else None,
        cut.z_zero or setup.z_zero,
        position,
        trial,
        setup.insides_apart and outline,
    )


def plan_sheet(
    plan: Plan,
    setup: Setup,
    sheet: str,
    copy_no: int,
    shapes: Mapping[str, Shape],
    part_cuts: Mapping[tuple[str, bool], PartCuts],
    own: Mapping[str, PartCuts] | None = None,
) -> SheetPlan:
    """Order and time all cuts of one sheet. ``own``: cuts of single pieces (by id) that differ from their
    part's.
    """
    pieces = tuple(
        sorted(
            (
                q
                for q in (setup.nest.pieces if setup.nest else ())
                if (q.sheet, q.sheet_copy) == (sheet, copy_no) and (q.part, q.mirrored) in part_cuts
            ),
            key=lambda q: (q.part, q.copy_no),
        )
    )
    items: list[tuple[Piece, Cut, str]] = []
    for q in pieces:
        for c in ((own or {}).get(q.id) or part_cuts[q.part, q.mirrored]).cuts:
            items.append((q, c, c.contour))
    machine = setup.machine
    prints = "|".join(f"{q.id},{q.x!r},{q.y!r},{q.rotation!r},{q.mirrored},{c.key}" for q, c, _n in items)
    shape_of = {p.id: p.shape for p in plan.parts}
    key = digest(
        VERSION,
        sheet,
        copy_no,
        prints,
        [machine.clearance, machine.retract, machine.change_seconds, repr(machine.axes)],
        [(c.id, c.number) for c in setup.cutters],
        [(q.id, q.x, q.y, q.rotation, q.mirrored, shape_of[q.part]) for q in pieces if q.part in shape_of],
        setup.order_by,
        _moves_on(setup, sheet, copy_no),
        [q.id for q in pieces if q.id in setup.trial],
        setup.insides_apart,
        repr(rest_of(setup, sheet)),
        [machine.stop_seconds, _stops_on(setup, sheet, copy_no)],
        setup.lying.turn,
        [setup.z_zero, machine.dialect.tool_change, machine.dialect.stops, setup.files_by],
        [[c.z_zero for _q, c, _n in items]],
        _reach_key(setup, sheet),
    )
    return memo("sheet", key, lambda: _plan_sheet(plan, setup, sheet, copy_no, pieces, items, shapes, key))


def _stops_on(setup: Setup, sheet: str, copy_no: int) -> list[OperatorStop]:
    return [s for s in setup.stops if (s.sheet, s.sheet_copy) == (sheet, copy_no)]


def _moves_on(setup: Setup, sheet: str, copy_no: int) -> list[MovedCut]:
    return [m for m in setup.moved_cuts if (m.sheet, m.sheet_copy) == (sheet, copy_no)]


def _plan_sheet(
    plan: Plan,
    setup: Setup,
    sheet: str,
    copy_no: int,
    pieces: tuple[Piece, ...],
    items: list[tuple[Piece, Cut, str]],
    shapes: Mapping[str, Shape],
    key: str,
) -> SheetPlan:
    ways = [c.placed(q.x, q.y, q.rotation) for q, c, _n in items]
    along = _along(setup, sheet, items, ways)
    items = [(items[m.of][0], m.cut, items[m.of][2]) for m in along.made]
    ways, positions = [m.moves for m in along.made], [m.position for m in along.made]
    tasks, must = _tasks(plan, setup, items, ways, shapes)
    tasks = _at_positions(tasks, positions)
    numbers = {c.id: c.number for c in setup.cutters}
    by = "insides first" if setup.insides_apart and setup.order_by == "piece by piece" else setup.order_by
    order, refused, done_moves = _by_hand(
        _in_turn(tasks, positions, numbers, by), must, items, _moves_on(setup, sheet, copy_no), tasks
    )
    if not order:
        return SheetPlan(sheet, copy_no, pieces, (), (), 0.0, 0.0, 0.0, key)
    trial = any(q.id in setup.trial for q in pieces)
    stops = _stops_on(setup, sheet, copy_no)
    named = {s.before: s.words for s in stops}
    in_order = [
        _Ordered(
            items[i][0],
            items[i][1],
            ways[i],
            tasks[i].stage % 2 == 0 and trial,
            tasks[i].outline,
            named.get(f"{items[i][0].id}/{items[i][1].name}", ""),
            positions[i],
        )
        for i in order
    ]
    timed = _timed(setup, sheet, in_order)
    lost = tuple(s for s in stops if s.before not in {c.name for c in timed.cuts})
    return SheetPlan(
        sheet,
        copy_no,
        pieces,
        timed.cuts,
        timed.changes,
        timed.seconds,
        sum(c.cut_length for c in timed.cuts),
        timed.travel,
        key,
        tuple(refused),
        done_moves,
        timed.goes_to,
        lost,
        along.seams,
        tuple(
            f"{items[i][0].id}/{items[i][1].name}"
            for i, m in enumerate(along.made)
            if m.of in along.out_of_reach
        ),
    )


def _reach_key(setup: Setup, sheet: str) -> object:
    """What it depends on at which position a cut of long stock is made."""
    stock = setup.stock_of(sheet)
    if setup.indexing is None or stock is None:
        return None
    return [setup.indexing, spans(setup, stock, setup.indexing)]


def _along(setup: Setup, sheet: str, items: list[tuple[Piece, Cut, str]], ways: list[Array]) -> Assigned:
    """The cuts with the positions at which they are made; all at the first where the stock stays."""
    stock = setup.stock_of(sheet)
    if setup.indexing is None or stock is None:
        return Assigned(
            tuple(Made(i, c, w, 0) for i, ((_q, c, _n), w) in enumerate(zip(items, ways, strict=True))),
            (),
            (),
        )
    lying = [CutOnSheet(q, c, n, w) for (q, c, n), w in zip(items, ways, strict=True)]
    column, overlap = setup.indexing.column, setup.indexing.overlap
    return assign(Reached(lying, spans(setup, stock, setup.indexing), column, overlap, setup.machine.retract))


def _at_positions(tasks: list[Task], positions: Sequence[int]) -> list[Task]:
    """What is cut at one position comes before what is cut at the next; within it a trial before the rest."""
    if not any(positions):
        return tasks
    return [
        replace(t, stage=2 * p + t.stage, after=frozenset(a for a in t.after if positions[a] <= p))
        for t, p in zip(tasks, positions, strict=True)
    ]


def _in_turn(tasks: list[Task], positions: Sequence[int], numbers: dict[str, int], by: str) -> list[int]:
    """The order, position by position."""
    if not any(positions):
        return _order(tasks, numbers, by)
    out: list[int] = []
    for p in sorted(set(positions)):
        here = [i for i, q in enumerate(positions) if q == p]
        at = {i: n for n, i in enumerate(here)}
        own = [replace(tasks[i], after=frozenset(at[a] for a in tasks[i].after if a in at)) for i in here]
        out += [here[n] for n in _order(own, numbers, by)]
    return out


def some_of(setup: Setup, sheet: SheetPlan, wanted: Sequence[int]) -> SheetPlan:
    """A sheet with only some of its cuts (indices), in their order and timed anew; its pieces lie on it as
    they do, so that what is not cut is not cut into.
    """
    rows = tuple(sorted(set(wanted)))
    if rows == tuple(range(len(sheet.cuts))):
        return sheet
    key = digest(sheet.key, "some of", list(rows))
    chosen = [
        _Ordered(c.piece, c.cut, c.moves, c.trial, c.outline, c.stop, c.position)
        for c in (sheet.cuts[i] for i in rows)
    ]

    def make() -> SheetPlan:
        t = _timed(setup, sheet.sheet, chosen)
        length = sum(c.cut_length for c in t.cuts)
        return SheetPlan(
            sheet.sheet,
            sheet.copy_no,
            sheet.pieces,
            t.cuts,
            t.changes,
            t.seconds,
            length,
            t.travel,
            key,
            goes_to=t.goes_to,
            seams=sheet.seams,
        )

    if not chosen:
        return replace(sheet, cuts=(), changes=(), seconds=0.0, cut_length=0.0, rapid_length=0.0, key=key)
    return memo("sheet", key, make)


@dataclass(frozen=True)
class _Ordered:
    """A cut in its place of the order, before it is timed."""

    piece: Piece
    cut: Cut
    moves: Array
    trial: bool
    outline: bool
    stop: str
    position: int = 0


@dataclass(frozen=True)
class _Timed:
    """Cuts with their times, what is loaded when, s, and mm of travel."""

    cuts: tuple[PlacedCut, ...]
    changes: tuple[tuple[float, str], ...]
    seconds: float
    travel: float
    goes_to: Point | None


def _timed(setup: Setup, sheet: str, order: Sequence[_Ordered]) -> _Timed:
    """When each cut of an order begins and how long it takes, with all that comes between."""
    machine = setup.machine
    rest = rest_of(setup, sheet)
    # where stock is moved along, places are told from where it lay first: the machine stays where it is
    shifts = np.array([(*setup.shift(o.position), 0.0) for o in order])
    starts = np.array([o.moves[0, [X, Y, Z]] for o in order]) - shifts
    ends = np.array([o.moves[-1, [X, Y, Z]] for o in order]) - shifts
    files = [file_of(setup, o.cut, o.trial, o.outline, o.position) for o in order]
    parted = [bool(o.stop) and not machine.dialect.stops for o in order[1:]]
    last = np.array([a != b or p for a, b, p in zip(files, [*files[1:], None], [*parted, True], strict=True)])
    before = np.vstack([rest.before, ends[:-1, :2]])
    if rest.after is not None:  # every program begins and ends there
        before[1:][last[:-1]] = rest.after
    across = np.hypot(*(starts[:, :2] - before).T)
    down, up = machine.clearance - starts[:, 2], machine.clearance - ends[:, 2]
    axes = machine.axes
    upright = np.zeros((len(order), 2))
    turn = math.degrees(setup.lying.turn)
    over = np.column_stack([starts[:, :2] - before, upright[:, 0]])
    to_it = axes.travel_times(_along_axes(over, setup)) + axes.travel_times(np.column_stack([upright, down]))
    from_it = axes.travel_times(np.column_stack([upright, up]))
    homeward = np.zeros((len(order), 3))
    if rest.after is not None:
        homeward[last, :2] = np.array(rest.after) - ends[last, :2]
    from_it += axes.travel_times(_along_axes(homeward, setup))
    spent = np.array([_cut_time(o.cut, axes, o.piece.rotation + turn) for o in order])
    tools = [o.cut.cutter for o in order]
    loads = np.array([k == 0 or tools[k] != tools[k - 1] for k in range(len(tools))])
    waits = loads * machine.change_seconds + np.array([bool(o.stop) for o in order]) * machine.stop_seconds
    if setup.indexing is not None:
        at = np.array([o.position for o in order])
        waits[1:] += np.diff(at) * setup.indexing.seconds
    whole = waits + to_it + spent + from_it
    done = np.cumsum(whole)
    began = done - whole
    begins = began + waits + to_it
    hops = (across + down + up + np.hypot(homeward[:, 0], homeward[:, 1])).tolist()
    cuts = tuple(
        PlacedCut(
            o.piece,
            o.cut,
            o.moves,
            b,
            s,
            o.cut.cut_length,
            h,
            o.trial,
            o.outline,
            w,
            (origin[0], origin[1]),
            o.stop,
            o.position,
        )
        for o, b, s, h, w, origin in zip(
            order,
            begins.tolist(),
            spent.tolist(),
            hops,
            whole.tolist(),
            (before + shifts[:, :2]).tolist(),
            strict=True,
        )
    )
    changes = tuple((float(began[k]), tools[k]) for k in np.flatnonzero(loads))
    return _Timed(cuts, changes, float(done[-1]), float(sum(hops)), rest.after)


def _along_axes(ways: Array, setup: Setup) -> Array:
    """Ways on the sheet (n, 3) along the machine's axes."""
    return setup.lying.moves_from(ways, (0.0, 0.0), ((0, 1),))


def _by_hand(
    order: list[int],
    must: list[frozenset[int]],
    items: list[tuple[Piece, Cut, str]],
    moves: list[MovedCut],
    tasks: list[Task],
) -> tuple[list[int], list[tuple[MovedCut, str]], int]:
    """The order with a person's moves made one after the other; those that the rules forbid are left out with
    the reason.
    """
    at = {f"{q.id}/{c.name}": i for i, (q, c, _n) in enumerate(items)}
    refused: list[tuple[MovedCut, str]] = []
    done = 0
    for m in moves:
        task, before = at.get(m.cut), at.get(m.before) if m.before else None
        if task is None or (m.before and before is None) or task == before:
            refused.append((m, f"{m.cut if task is None else m.before} is not cut on this sheet any more"))
            continue
        new, clash = moved(order, must, task, before)
        if clash:
            first, then = clash
            refused.append(
                (
                    m,
                    (
                        f"{_called(items, first)} must come before {_called(items, then)}:"
                        f" {_why(items, first, then)}"
                    ),
                )
            )
            continue
        other = tasks[before if before is not None else order[-1]]
        if tasks[task].stage // 2 != other.stage // 2:
            refused.append(
                (m, f"{_called(items, task)} is made at another position of the stock, and in its turn there")
            )
            continue
        if tasks[task].stage != other.stage:
            refused.append(
                (
                    m,
                    (
                        f"{_called(items, task)}: trial pieces are cut in a program of their own, before the"
                        " rest"
                    ),
                )
            )
            continue
        order, done = new, done + 1
    return order, refused, done


def _called(items: list[tuple[Piece, Cut, str]], i: int) -> str:
    q, c, _n = items[i]
    return f"{c.contour}{f', step {c.step + 1},' if c.step else ''} of piece {q.copy_no + 1}"


def _why(items: list[tuple[Piece, Cut, str]], first: int, then: int) -> str:
    (q, c, _n), (r, d, _m) = items[first], items[then]
    if q.id != r.id:
        return "the piece lies in a drop that comes free then"
    if c.contour == d.contour:
        return "a later step needs what an earlier one has opened"
    if isinstance(c, ReliefCut) and d.kind in ON_RELIEFS:
        return "what is carved over a relief comes after it"
    return "the face comes first" if c.face_first else "it would be cut loose"


def _order(tasks: list[Task], numbers: dict[str, int], by: str) -> list[int]:
    """The sequence, remembered by what it depends on: other feeds, depths or zeros leave it as it is."""
    ends = np.array([(*t.start, *t.end) for t in tasks]).tobytes()
    rest = "|".join(
        f"{t.cutter}{t.outline}{t.stage}{t.size if by == 'small parts first' else ''}{sorted(t.after)}"
        for t in tasks
    )
    key = hashlib.sha256(ends + rest.encode()).hexdigest()
    return memo("order", digest(VERSION, key, numbers, by), lambda: sequence(tasks, numbers, by=by))


def _cut_time(cut: Cut, axes: Axes, turn: float) -> float:
    """Seconds of a cut, remembered by the cut; how it is turned against the machine's axes (degrees) tells
    where X and Y are not equally fast.
    """
    turn = 0.0 if axes.alike else turn % 180.0
    if (axes, turn) not in cut.times:
        cut.times[axes, turn] = path_time(placed(cut.moves, 0.0, 0.0, turn) if turn else cut.moves, axes)[0]
    return cut.times[axes, turn]


def _inner_point(shape: Shape) -> tuple[float, float]:
    """A point surely inside the part, in its own frame."""
    p = shape.polygon.representative_point()
    return p.x, p.y


def _tasks(
    plan: Plan,
    setup: Setup,
    items: list[tuple[Piece, Cut, str]],
    ways: list[Array],
    shapes: Mapping[str, Shape],
) -> tuple[list[Task], list[frozenset[int]]]:
    """Faces first, steps of a feature in their order, insides before the outline; a piece that lies in
    another's hole before that hole's drop comes free.

    Also what must come first whatever a person wants: an inside after its outline is allowed where the piece
    is held then.
    """
    by_id = {p.id: p for p in plan.parts}
    outlines = {p: shapes[by_id[p].shape].names[0] for p in {q.part for q, _c, _n in items}}
    areas = {p: shapes[by_id[p].shape].region.area for p in outlines}
    frees = [c.frees and name == outlines[q.part] for q, c, name in items]
    prints = "|".join(
        f"{q.id},{q.x!r},{q.y!r},{q.rotation!r},{q.mirrored},{c.shape_key}" for q, c, _n in items
    )
    after, must = memo(
        "precedence",
        digest(VERSION, prints, sorted(by_id[p].shape for p in outlines)),
        lambda: _precedence(items, frees, by_id, shapes),
    )
    if setup.order_by == "outsides first":
        after = _outsides_first(items, frees, must)
    first = {i for i, (q, _c, _n) in enumerate(items) if q.id in setup.trial}
    todo = list(first)
    while todo:  # what a trial piece waits for is cut with it
        for a in after[todo.pop()]:
            if a not in first:
                first.add(a)
                todo.append(a)
    rest = 1 if first else 0
    return [
        Task(
            (m[0, X], m[0, Y]), (m[-1, X], m[-1, Y]), c.cutter, f, a, 0 if i in first else rest, areas[q.part]
        )
        for i, ((q, c, _n), m, a, f) in enumerate(zip(items, ways, after, frees, strict=True))
    ], must


def _outsides_first(
    items: list[tuple[Piece, Cut, str]], frees: list[bool], must: list[frozenset[int]]
) -> list[frozenset[int]]:
    """What comes before every cut where a piece's outside is cut before its inside: only what must, and the
    outline before all but the face.
    """
    outline: dict[str, set[int]] = {}
    for i, (q, _c, _n) in enumerate(items):
        if frees[i]:
            outline.setdefault(q.id, set()).add(i)
    out = []
    for i, (q, c, _n) in enumerate(items):
        mine = set() if frees[i] or c.face_first else outline.get(q.id, set())
        own = {k for k in mine if i not in must[k]}
        rings = {k for k in outline.get(q.id, set()) if frees[i] and k < i and items[k][1].step == c.step}
        out.append(must[i] | own | rings)
    return out


def _precedence(
    items: list[tuple[Piece, Cut, str]],
    frees: list[bool],
    by_id: Mapping[str, Part],
    shapes: Mapping[str, Shape],
) -> tuple[list[frozenset[int]], list[frozenset[int]]]:
    """For every cut those that come before it by rule, and of them those that must."""
    of_piece: dict[str, list[int]] = {}
    for i, (q, _c, _n) in enumerate(items):
        of_piece.setdefault(q.id, []).append(i)
    # a piece's representative point tells in whose hole it lies
    names: list[str] = []
    points: list[ShapelyPoint] = []
    for q, _c, _n in items:
        if not names or names[-1] != q.id:
            part = by_id[q.part]
            spot = memo("inner-point", part.shape, partial(_inner_point, shapes[part.shape]))
            x, y = rotation_matrix(q.rotation) @ np.array([-spot[0] if q.mirrored else spot[0], spot[1]])
            names.append(q.id)
            points.append(ShapelyPoint(x + q.x, y + q.y))
    tree = STRtree(points)
    # no piece lies in a hole that is smaller across than the smallest piece
    smallest = min((min(shapes[by_id[p].shape].size) for p in {q.part for q, _c, _n in items}), default=0.0)
    after: list[set[int]] = [set() for _ in items]
    soft: list[set[int]] = [set() for _ in items]
    for i, (q, c, _n) in enumerate(items):
        own = of_piece[q.id]
        if not c.face_first:
            after[i] |= {k for k in own if items[k][1].contour == c.contour and items[k][1].step < c.step}
            after[i] |= {k for k in own if items[k][1].face_first}
            if not isinstance(c, ReliefCut) and c.kind in ON_RELIEFS:
                after[i] |= {k for k in own if isinstance(items[k][1], ReliefCut)}
        if frees[i]:
            later = {
                k for k in own if items[k][1].contour == c.contour and items[k][1].step > c.step
            }  # a person put it behind: what holds the piece then is judged
            soft[i] |= {k for k in own if not frees[k]} - later
            soft[i] |= {
                k for k in own if frees[k] and items[k][1].step == c.step and k < i
            }  # bays before the main path
        elif c.frees and len(names) > 1:
            x0, y0, x1, y1 = c.path.bbox
            span = math.hypot(x1 - x0, y1 - y0)
            if span < smallest:
                continue
            ring = Polygon(c.path.placed(q.x, q.y, q.rotation).points(0.1))
            for k in tree.query(ring, predicate="contains"):
                if names[k] != q.id:
                    after[i] |= set(of_piece[names[k]])
    return [frozenset(a | b) for a, b in zip(after, soft, strict=True)], [frozenset(a) for a in after]
