"""Boards on the surfacing bench: kept, planned, probed, booked, released."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np
import shapely
from pydantic import ValidationError
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.edits.surface import ChangeSurface, SetSurface, surface_of
from venzo.core.memo import memo
from venzo.core.model import Document, Fields, digest
from venzo.core.motion.time import Axes
from venzo.core.plan import Plan
from venzo.core.proof.world import Given, World, world_snags
from venzo.core.runs.records import SheetRun
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput, Snag, look, note, plain_error
from venzo.core.stock.grid import Grid, squares
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Dialect, Machine
from venzo.core.surfacing.board import Reading, SurfaceSetup
from venzo.core.surfacing.faces import faces
from venzo.core.surfacing.flatness import Flatness, flatness, pasted
from venzo.core.surfacing.ledger import Entry, State, state
from venzo.core.surfacing.passes import Layer, Passes, plan_passes
from venzo.core.surfacing.rows import CLEAR
from venzo.core.surfacing.shifts import Shift, shifts
from venzo.core.surfacing.tradeoff import Choice, choices, worth
from venzo.core.tooling.cutter import Cutter
from venzo.desk.grids import Marker, grid_program
from venzo.desk.surfacing import Placed, clearance_snags, program, reach_of
from venzo.devices.probe import SimulatedProbe
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound, Revision, Store


def surface_setups(store: Store) -> list[SurfaceSetup]:
    """Every board on the bench."""
    found = [r.plan.surface for r in store.of_kind("surface")]
    return [b for b in found if b is not None and not b.away]


def surface_setup(store: Store, board: str) -> SurfaceSetup:
    """One board.

    Raises:
        NotFound: no such board.
    """
    return surface_of(revision_of(store, board).plan)


def revision_of(store: Store, board: str) -> Revision:
    """The newest revision of a board's job.

    Raises:
        NotFound: no such board.
    """
    try:
        found = store.get(board)
    except NotFound:
        raise NotFound(f"there is no board {board!r} on the bench") from None
    if found.plan.surface is None or found.plan.surface.away:
        raise NotFound(f"there is no board {board!r} on the bench")
    return found


def put(store: Store, data: Fields) -> SurfaceSetup:
    """Start a job for a board, or replace the board of the job with its id.

    Raises:
        BadInput: the entry is not valid, or a job that cuts parts has that id.
    """
    try:
        new = SurfaceSetup.model_validate(data)
    except ValidationError as e:
        raise BadInput(f"board: {plain_error(e)}") from e
    command = SetSurface(surface=new)
    if any(j["id"] == new.id for j in store.jobs()):
        return surface_of(store.apply(new.id, store.head(new.id), command).plan)
    plan = Plan(id=new.id, name=new.board.name, surface=new)
    return surface_of(store.create(command.apply(plan), command.says(plan)).plan)


def change(store: Store, board: str, fields: Fields) -> SurfaceSetup:
    """Change only the fields named of a board; nested ones are merged.

    Raises:
        NotFound: no such board.
        BadInput: a field it has not, or what comes of it is not valid.
    """
    at = revision_of(store, board)
    try:
        command = ChangeSurface(fields=fields)
    except ValidationError as e:
        raise BadInput(f"{at.plan.name}: {plain_error(e)}") from e
    return surface_of(store.apply(board, at.number, command).plan)


def undo(store: Store, board: str) -> SurfaceSetup:
    """Take back the last change of a board; its ledger stays as it is."""
    revision_of(store, board)
    return surface_of(store.undo(board).plan)


def redo(store: Store, board: str) -> SurfaceSetup:
    """Bring back what was undone last."""
    revision_of(store, board)
    return surface_of(store.redo(board).plan)


def remove(store: Store, board: str) -> None:
    """Take a board off the bench; its job and its ledger stay, for when it comes back."""
    change(store, board, {"away": True})


def machine_of(store: Store, b: SurfaceSetup) -> Machine | None:
    """The machine it lies on."""
    return next(
        (Machine.model_validate(m) for m in store.library("machine") if m["id"] == b.board.machine), None
    )


def entries(store: Store, bench_id: str) -> list[tuple[int, Entry]]:
    """The board's ledger: what was booked, and what the runs that lay on it cut into it, as it came."""
    return [(line.number, line.entry) for line in _lines(store, bench_id)]


def _lines(store: Store, bench_id: str) -> list[LedgerLine]:
    """Lines of a ledger in order. Those of runs have the number of their record, negative: they are not taken
    back here.
    """
    booked = [LedgerLine(**line) for line in store.ledger(bench_id)]
    kept = store.runs()
    counting = {n for n, _r in standing([(k.number, k.record) for k in kept])}
    ran = [
        LedgerLine(
            number=-k.number,
            made=k.made.isoformat(timespec="microseconds"),
            entry=Entry(
                kind="through-cut",
                metres=k.record.through,
                score=k.record.score,
                says=f"{k.record.job}, sheet {k.record.sheet} {k.record.sheet_copy + 1}",
                run=k.number,
            ),
        )
        for k in kept
        if k.number in counting
        and isinstance(k.record, SheetRun)
        and k.record.board == bench_id
        and k.record.through
    ]
    return sorted([*booked, *ran], key=lambda line: line.made)


def flat_of(b: SurfaceSetup) -> Flatness | None:
    """What its readings tell."""
    if not b.readings:
        return None
    key = digest([r.model_dump() for r in b.readings], b.board.width, b.board.height)
    return memo("flatness", key, lambda: flatness(b.readings, b.board.width, b.board.height))


def shifts_of(store: Store, b: SurfaceSetup) -> list[Shift]:
    """Positions of a board that is longer than its table along x; one where it fits."""
    m = machine_of(store, b)
    room = m.width - max(0.0, b.board.x) if m else b.board.width
    return (
        shifts(b.board.width, room, b.overlap)
        if b.board.kind == "board" and room > 10
        else [Shift(1, 0.0, b.board.width, 0.0)]
    )


def axes_of(m: Machine | None) -> Axes:
    """What a board's times are reckoned with; where it lies on no machine, usual axes."""
    return m.axes if m else Axes()


def planned(store: Store, b: SurfaceSetup) -> Passes:
    """Its passes, remembered while nothing changes; a board in shifts is planned as one, each shift's program
    is cut from it.
    """
    m = machine_of(store, b)
    in_shifts = len(shifts_of(store, b)) > 1
    key = digest("surfacing-1", b.board, b.how, b.readings, m, in_shifts)
    return memo(
        "surfacing",
        key,
        lambda: plan_passes(
            b.board, b.how, flat_of(b), None if in_shifts else reach_of(m, b.board), axes_of(m)
        ),
    )


def state_of(store: Store, b: SurfaceSetup) -> State:
    """How it stands, with what the plan would take off."""
    return state(b.board, entries(store, b.id), b.how.total)


Span = tuple[float, float]


class RunDrawn(Document):
    """A run of a pass as SVG path data; ``outside``: it enters from beside the board."""

    d: str
    outside: bool
    start: Span


class PassDocument(Document):
    """A pass over the board: mm, s; ``touched``: share of it that cuts, where readings tell."""

    name: str
    depth: float
    takes: float
    step_over: float
    rows: int
    cut_length: float
    seconds: float
    touched: float | None
    runs: list[RunDrawn]


class BoardState(Document):
    """How a board stands after its ledger: mm, m."""

    thickness: float
    removed: float
    since_zero: float
    metres: float
    score: float
    flat: float | None
    cover: float | None
    due: bool
    passes_left: int | None


class FlatnessDocument(Document):
    """What the readings tell: tilt and droop (mm), what is left over, the grid of heights between ``x`` and
    ``y``.
    """

    tilt: tuple[float, ...]
    droop: tuple[float, ...]
    rest: float
    range: float
    least: float
    high: Reading
    low: Reading
    x: Span
    y: Span
    z: list[list[float]]


class FacesDocument(Document):
    """Both faces of a board: what each takes and leaves, mm; ``wrong``: why it cannot be planed so."""

    first: float = 0.0
    after_first: float = 0.0
    second: float = 0.0
    after_second: float = 0.0
    says: list[str] = []
    wrong: str = ""


class LedgerLine(Document):
    """An entry of a board's ledger."""

    number: int
    made: str
    entry: Entry


class CutterNews(Document):
    """What the shop library says newer of a board's cutter, and the fields that take it over."""

    name: str
    changes: list[str]
    how: Fields


class BoardLine(Document):
    """A board in the list, and how it stands."""

    id: str
    name: str
    kind: str
    machine: str | None
    square: int | None
    width: float
    height: float
    thickness: float
    due: bool
    metres: float
    score: float


class BoardDocument(Document):
    """Everything that the bench's screen draws of a board, and the revision of its job."""

    revision: int
    says: str
    can_undo: bool
    can_redo: bool
    bench: SurfaceSetup
    machine: Machine | None
    layers: list[PassDocument]
    skipped: list[str]
    cut_length: float
    seconds: float
    deepest: float
    uncut: list[list[Span]]
    state: BoardState
    flatness: FlatnessDocument | None
    choices: list[Choice]
    worth: float | None
    snags: list[Snag]
    ledger: list[LedgerLine]
    shifts: list[Shift]
    grid: Grid
    """The numbered grid it lies on."""
    own_grid: bool
    """The grid is the bench's own, made of its pitch: its machine has none."""
    faces: FacesDocument | None
    news: CutterNews | None


def line_of(store: Store, b: SurfaceSetup) -> BoardLine:
    """A board for the list."""
    st = state_of(store, b)
    own = {k: getattr(b.board, k) for k in ("name", "kind", "machine", "width", "height")}
    return BoardLine(
        id=b.id,
        square=b.square,
        **own,
        **{k: getattr(st, k) for k in ("thickness", "due", "metres", "score")},
    )


def view(store: Store, b: SurfaceSetup) -> BoardDocument:
    """Everything the bench's screen draws."""
    p, st, flat, m = planned(store, b), state_of(store, b), flat_of(b), machine_of(store, b)
    found = memo(
        "tradeoff",
        digest("1", b.board, b.how, b.tilt_across, b.tilt_along, m),
        lambda: choices(b.board, b.how, b.tilt_across, b.tilt_along, axes_of(m)),
    )
    best = worth(found, b.ridge_limit)
    rank = {"stop": 0, "look": 1, "note": 2}
    uncut = [g for g in getattr(p.uncut, "geoms", [p.uncut]) if isinstance(g, Polygon) and not g.is_empty]
    at = revision_of(store, b.id)
    return BoardDocument(
        revision=at.number,
        says=at.says,
        can_undo=at.can_undo,
        can_redo=at.can_redo,
        bench=b,
        machine=m,
        layers=[_pass(x) for x in p.layers],
        skipped=list(p.skipped),
        cut_length=p.cut_length,
        seconds=p.seconds,
        deepest=p.deepest,
        uncut=[shapely.get_coordinates(g.exterior).round(1).tolist() for g in uncut],
        state=BoardState(**{k: v for k, v in vars(st).items() if k != "snags"}),
        flatness=_flat(flat),
        choices=list(found),
        worth=best.share if best else None,
        snags=sorted((*p.snags, *st.snags, *_more(store, b, flat, st)), key=lambda s: rank[s.severity]),
        ledger=_lines(store, b.id)[::-1],
        shifts=list(shifts_of(store, b)),
        grid=grid_of(b, m),
        own_grid=m is None or m.grid is None,
        faces=_faces(b, flat),
        news=news(store, b),
    )


def _pass(x: Layer) -> PassDocument:
    runs = [
        RunDrawn(
            d=_path(r.points),
            outside=r.outside,
            start=(round(float(r.points[0][0]), 1), round(float(r.points[0][1]), 1)),
        )
        for r in x.runs
    ]
    return PassDocument(
        name=x.name,
        depth=x.depth,
        takes=x.takes,
        step_over=x.step_over,
        rows=x.rows,
        cut_length=x.cut_length,
        seconds=x.seconds,
        touched=x.touched,
        runs=runs,
    )


def news(store: Store, b: SurfaceSetup) -> CutterNews | None:
    """What the shop library says newer of a board's cutter; None where they agree, or the board names none of
    its cutters.
    """
    item = (
        next((c for c in store.library("cutter") if c["id"] == b.how.cutter_id), None)
        if b.how.cutter_id
        else None
    )
    if item is None:
        return None
    c = Cutter.model_validate(item)
    now: Fields = {"cutter": c.diameter, "cutter_name": c.name, "number": c.number}
    changed = {k: v for k, v in now.items() if getattr(b.how, k) != v}
    words = {"cutter": "diameter", "cutter_name": "name", "number": "number"}
    return CutterNews(name=c.name, changes=[words[k] for k in changed], how=changed) if changed else None


def _path(points: np.ndarray) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def _flat(f: Flatness | None) -> FlatnessDocument | None:
    if f is None:
        return None
    xs, ys, z = f.grid
    return FlatnessDocument(
        tilt=tuple(f.tilt),
        droop=tuple(f.droop),
        rest=f.rest,
        range=f.range,
        least=f.least_depth(),
        high=f.high,
        low=f.low,
        x=(round(float(xs[0]), 2), round(float(xs[-1]), 2)),
        y=(round(float(ys[0]), 2), round(float(ys[-1]), 2)),
        z=[[round(float(v), 3) for v in row] for row in z],
    )


def _faces(b: SurfaceSetup, flat: Flatness | None) -> FacesDocument | None:
    if b.board.kind != "board":
        return None
    need = flat.least_depth() if flat else b.how.total
    try:
        f = faces(b.board.thickness, b.wanted, need, b.how.depth)
    except BadInput as e:
        return FacesDocument(wrong=str(e))
    return FacesDocument(
        first=f.first,
        after_first=f.after_first,
        second=f.second,
        after_second=f.after_second,
        says=[s.message for s in f.snags],
    )


def _more(store: Store, b: SurfaceSetup, flat: Flatness | None, st: State) -> list[Snag]:
    out: list[Snag] = []
    m = machine_of(store, b)
    if b.simulated and b.readings:
        out.append(note("flat.simulated", SimulatedProbe.says))
    if abs(st.since_zero - b.how.start) > 1e-6:
        out.append(
            look(
                "ledger.start",
                f"the ledger says {st.since_zero:.2f} mm came off since Z was set to 0, the plan starts at"
                f" {b.how.start:.2f} mm: take the ledger's, or touch off anew",
            )
        )
    if m:
        out += clearance_snags([b.board], m.clearance)
    if m and not (m.rpm_min <= b.how.rpm <= m.rpm_max):
        out.append(
            look(
                "surface.rpm",
                f"{b.how.rpm:.0f} rpm is outside what {m.name} turns, {m.rpm_min:.0f} to {m.rpm_max:.0f}",
            )
        )
    if m and b.how.feed > m.fastest_feed:
        out.append(
            note(
                "surface.feed",
                f"{b.how.feed:.0f} mm/min is more than {m.name} runs, {m.fastest_feed:.0f}; it will be slower"
                " than planned",
            )
        )
    if flat and flat.range > 2.5:
        out.append(
            look(
                "flat.range",
                f"high and low spot differ by {flat.range:.2f} mm: before so much is cut away, look for what"
                " lies under it (chips, a swollen joint, a loose screw)",
            )
        )
    return out


def probe(store: Store, bench_id: str, columns: int, rows: int, seed: int = 1) -> SurfaceSetup:
    """Readings of the simulated probe on a grid."""
    b = surface_setup(store, bench_id)
    readings = tuple(SimulatedProbe(b.board, seed).walk(columns, rows))
    return change(
        store, bench_id, {"readings": [r.model_dump(mode="json") for r in readings], "simulated": True}
    )


def paste(store: Store, bench_id: str, text: str, inch: bool = False) -> SurfaceSetup:
    """Readings from pasted lines."""
    readings = pasted(text, 25.4 if inch else 1.0)
    return change(
        store, bench_id, {"readings": [r.model_dump(mode="json") for r in readings], "simulated": False}
    )


def book(store: Store, bench_id: str, entry: Entry) -> None:
    """Book an entry, checked against those there are.

    Raises:
        BadInput: it takes back what is not there or is taken back already, or books nothing.
    """
    b = surface_setup(store, bench_id)
    known = entries(store, bench_id)
    if entry.kind == "reversed":
        target = next((e for n, e in known if n == entry.reverses), None)
        if target is not None and target.run is not None:
            raise BadInput(
                f"{b.board.name}: that is run {target.run}; take the run back at its job's release"
            )
        if target is None or target.kind == "reversed":
            raise BadInput(f"{b.board.name}: its ledger has no entry {entry.reverses} to take back")
        if any(e.kind == "reversed" and e.reverses == entry.reverses for _n, e in known):
            raise BadInput(f"{b.board.name}: entry {entry.reverses} is taken back already")
    if entry.kind == "surfaced" and not entry.removed:
        raise BadInput(f"{b.board.name}: a surfacing that takes nothing off is not booked")
    if entry.kind == "surfaced" and entry.removed >= state(b.board, known).thickness:
        raise BadInput(
            f"{b.board.name}: {entry.removed:g} mm off a board {state(b.board, known).thickness:g} mm thick;"
            " check the number"
        )
    store.book(bench_id, entry.model_dump(mode="json"))


def surfaced(store: Store, bench_id: str) -> SurfaceSetup:
    """The planned passes were cut: booked with the flatness to expect, and the plan set to go on below."""
    b = surface_setup(store, bench_id)
    p = planned(store, b)
    flat = flat_of(b)
    shallow = flat is not None and flat.least_depth() > p.deepest
    expect = (
        max(0.02, flat.least_depth() - p.deepest)
        if flat and shallow
        else 0.02 + max((x.ridge for x in p.layers), default=0.0)
    )
    kinds = {"rows": "rows", "rows+perimeter": "perimeter and rows", "spiral": "spiral"}
    says = (
        f"{len(p.layers)} pass{'es' * (len(p.layers) != 1)}, {kinds[b.how.pattern]}, step-over"
        f" {b.how.step_over:.0%}" + (f", fine {b.how.finish_step_over:.0%}" if b.how.finish_depth else "")
    )
    book(
        store,
        bench_id,
        Entry(kind="surfaced", removed=round(b.how.total, 4), flat=round(expect, 3), says=says),
    )
    return change(
        store,
        bench_id,
        {"how": {"start": round(b.how.start + b.how.total, 6)}, "readings": [], "simulated": False},
    )


def placed(store: Store, bench_id: str, others: list[str]) -> list[Placed]:
    """Boards of one program, each at its square of the first one's grid, or at the corner alone."""
    first = surface_setup(store, bench_id)
    if not others:
        return [Placed(first.board, planned(store, first), (0.0, 0.0))]
    m = machine_of(store, first)
    grid = grid_of(first, m)
    out = []
    for b in [first, *(surface_setup(store, o) for o in others)]:
        if b.square is None:
            raise BadInput(
                f"{b.board.name}: several boards in one program lie on numbered squares; say which is its"
            )
        at = grid.corner(*grid.square(b.square))
        here = b.board.model_copy(update={"x": at[0], "y": at[1]})
        if abs(b.how.start - first.how.start) > 1e-6:
            raise BadInput(
                f"{b.board.name} starts {b.how.start:g} mm down, {first.board.name} {first.how.start:g} mm:"
                " one program cuts both alike; surface them apart, or set Z anew"
            )
        # X0 Y0 of the program is the grid's corner
        zero = (at[0] - grid.at[0], at[1] - grid.at[1])
        out.append(
            Placed(b.board, plan_passes(here, first.how, flat_of(b), reach_of(m, here), axes_of(m)), zero)
        )
    # the cutter goes down beside a board: there must be room for it beside every other
    room = max(first.how.cutter + 2 * CLEAR, first.how.overrun)
    for one, two in combinations(out, 2):
        a, o = (box(k.at[0], k.at[1], k.at[0] + k.board.width, k.at[1] + k.board.height) for k in (one, two))
        if a.distance(o) < room:
            words = "lie on one another" if a.intersects(o) else f"lie {a.distance(o):.0f} mm apart"
            raise BadInput(
                f"{one.board.name} and {two.board.name} {words}; the cutter goes down between them and needs"
                f" {room:.0f} mm: give them squares further apart"
            )
    return out


def programs(store: Store, bench_id: str, others: list[str] | None = None) -> list[tuple[str, str]]:
    """(file name, text) of a board's program, one a shift where it is longer than the table.

    Raises:
        BadInput: a stop stands in the way.
    """
    b = surface_setup(store, bench_id)
    for one in (b, *(surface_setup(store, o) for o in others or [])):
        asked = one.model_copy(update={"how": b.how})
        m = machine_of(store, b)
        said = (
            *planned(store, asked).snags,
            *state_of(store, asked).snags,
            *(clearance_snags([one.board], m.clearance) if m else ()),
        )
        stops = [s.message for s in said if s.severity == "stop"]
        if stops:
            raise BadInput(f"{one.board.name}: no program while this stands: {stops[0]}")
    m = machine_of(store, b)
    together = [b, *(surface_setup(store, o) for o in others or [])]
    tall = max([15.0, *(d.over for one in together for d in one.board.dead)])
    dialect, clearance = (m.dialect, m.clearance) if m else (Dialect(), tall)
    stem, ending = f"surface_{b.id}", dialect.ending
    parts = shifts_of(store, b)
    if len(parts) == 1 or others:
        lying = placed(store, bench_id, others or [])
        made = program(lying, b.how, b.board.name, dialect, clearance)
        if others:
            _refuse([*made.snags, *_met(grid_of(b, m), m, made.text)])
        return [(f"{stem}.{ending}", made.text)]
    out = []
    far = 1e6
    for s in parts:
        # planned on the whole board, so that the cutter never goes straight down on the part that lies beyond
        # this shift
        zone: BaseGeometry = box(
            s.start if s.number > 1 else -far, -far, s.end if s.number < len(parts) else far, far
        )
        reach = reach_of(m, b.board.model_copy(update={"x": b.board.x - s.mark}))
        zone = zone.intersection(reach) if reach is not None else zone
        p = plan_passes(b.board, b.how, flat_of(b), zone, axes_of(m))
        named = b.board.model_copy(
            update={
                "name": (
                    f"{b.board.name}, shift {s.number} of {len(parts)}: line at {s.mark:.0f} mm on the"
                    " table's zero"
                )
            }
        )
        made = program([Placed(named, p, (-s.mark, 0.0))], b.how, named.name, dialect, clearance)
        out.append((f"{stem}_shift-{s.number}.{ending}", made.text))
    return out


def grid_of(b: SurfaceSetup, m: Machine | None) -> Grid:
    """The numbered grid of the table a board lies on; of squares of its own pitch where that has none."""
    if m is not None and m.grid is not None:
        return m.grid
    width, height = (m.width, m.height) if m else (b.board.width, b.board.height)
    columns, rows = squares(width, height, b.pitch)
    return Grid(pitch=b.pitch, columns=columns, rows=rows)


def board_grid(store: Store, bench_id: str, depth: float = 0.3) -> tuple[str, str]:
    """File name and program that draws the numbered grid of the table a board lies on with a pen."""
    b = surface_setup(store, bench_id)
    m = machine_of(store, b)
    if m is None:
        raise BadInput(f"{b.board.name} lies on no machine of the library: whose table is to be marked?")
    return grid_program(m.model_copy(update={"grid": grid_of(b, m)}), Marker(depth=depth))


def _met(grid: Grid, m: Machine | None, text: str) -> list[Snag]:
    """What a program of several boards meets on the table: its edge, its dead areas."""
    if m is None:
        return []
    world = World(
        m.width,
        m.height,
        1e3,
        {},
        reach=(0.0, 0.0, m.width, m.height),
        z_span=m.z_travel,
        dead=m.dead_areas,
        axes=m.axes,
        lies=Lying(grid.at),
    )
    found = world_snags(world, [Given("boards", interpret(text, "boards"))])
    return [s for s in found if s.rule == "proof.table"]


def _refuse(snags: Sequence[Snag]) -> None:
    """Raise BadInput with the first stop."""
    stops = [s.message for s in snags if s.severity == "stop"]
    if stops:
        raise BadInput(f"no program while this stands: {stops[0]}")


class OnSquare(Document):
    """A board of a set: where it lies and what stays uncut of it, mm2."""

    name: str
    square: int
    uncut: float
    entries: int
    """Runs that cannot start clear of the work and ramp in on it."""


class TogetherDocument(Document):
    """Several boards in one program, planned where they lie: s, mm."""

    boards: list[OnSquare]
    seconds: float
    cut_length: float
    snags: list[Snag]


def together(store: Store, bench_id: str, others: list[str]) -> TogetherDocument:
    """What comes of several boards in one program.

    Raises:
        BadInput: they cannot lie so.
    """
    b = surface_setup(store, bench_id)
    m = machine_of(store, b)
    lying = placed(store, bench_id, others)
    dialect, clearance = (m.dialect, m.clearance) if m else (Dialect(), 15.0)
    made = program(lying, b.how, b.board.name, dialect, clearance)
    squares_of = [surface_setup(store, i).square or 0 for i in (bench_id, *others)]
    return TogetherDocument(
        boards=[
            OnSquare(
                name=p.board.name,
                square=n,
                uncut=p.plan.uncut.area,
                entries=sum(not r.outside for layer in p.plan.layers for r in layer.runs),
            )
            for p, n in zip(lying, squares_of, strict=True)
        ],
        seconds=made.seconds,
        cut_length=made.cut_length,
        snags=[*made.snags, *_met(grid_of(b, m), m, made.text)],
    )


def paper(store: Store, board: str, others: list[str] | None = None) -> tuple[str, bytes]:
    """The surfacing sheet of a board, with the names of its programs, as a PDF with its name; of several
    boards in one program with the whole set.
    """
    from venzo.formats.surfacing_sheet import surfacing_sheet

    b = surface_setup(store, board)
    p, st = planned(store, b), state_of(store, b)
    files = [] if stops(store, b) else [n for n, _t in programs(store, board, others)]
    the_set = together(store, board, others) if others else None
    lines = [
        f"{x.name} on square {x.square}: {x.uncut / 100:.1f} cm2 stay uncut"
        if x.uncut > 1
        else f"{x.name} on square {x.square}"
        for x in (the_set.boards if the_set else ())
    ]
    data = surfacing_sheet(b, p, st, flat_of(b), machine_of(store, b), files, lines)
    return f"surface_{b.id}.pdf", data


def stops(store: Store, b: SurfaceSetup) -> list[str]:
    """What forbids that a board's programs are cut, in sentences."""
    found = (*planned(store, b).snags, *state_of(store, b).snags)
    return [s.message for s in found if s.severity == "stop"]
