"""Sheets of several jobs cut by one program: laid on squares of the table's grid, judged, written, proven."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.affinity import translate

from venzo.core.memo import memo
from venzo.core.model import Document, digest
from venzo.core.order.merged import Load, OnTable, judged_together, loads_together, runs_together
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.compare import first_deviation, planned_sections, read_sections
from venzo.core.proof.program import ToolRun
from venzo.core.proof.world import Given, figures
from venzo.core.release.file_names import slug
from venzo.core.snags import BadInput, Snag, look, stop
from venzo.core.stock.grid import Grid
from venzo.core.stock.laid_sheets import LaidSheet, TableRun
from venzo.core.stock.machine import Machine
from venzo.core.units import show_length
from venzo.core.voice import counted
from venzo.desk import jobs
from venzo.desk.board_programs import met_on_table
from venzo.desk.library import shop_machine
from venzo.formats.gcode import write
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound, Revision, Store

Span = tuple[float, float]
CHORD = 0.5
"""mm; chords of outlines that are only drawn."""


@dataclass(frozen=True, eq=False)
class Laid:
    """A sheet that was found in its job, with what its job says against it."""

    of: LaidSheet
    on: OnTable
    plan: Plan
    parts: list[list[Span]]
    stops: list[str]


class LaidDocument(Document):
    """A sheet on the table: where it lies on it, what is cut of it; mm, s. ``wrong``: why it cannot be
    found.
    """

    id: str
    job: str
    called: str
    square: int
    at: Span
    width: float
    height: float
    thickness: float
    outline: list[Span]
    parts: list[list[Span]]
    seconds: float
    wrong: str


class CutterLoad(Document):
    """A cutter loaded once, and the sheets it cuts then."""

    number: int
    name: str
    sheets: list[str]
    cuts: int


class TableDocument(Document):
    """A run of sheets of several jobs, and what comes of it; ``alone``: cutter loads, were each run by
    itself.
    """

    revision: int
    says: str
    can_undo: bool
    can_redo: bool
    name: str
    run: TableRun
    machine: str
    width: float
    height: float
    grid: Grid | None
    sheets: list[LaidDocument]
    loads: list[CutterLoad]
    alone: int
    seconds: float
    cut_length: float
    files: list[str]
    snags: list[Snag]


class SheetChoice(Document):
    """A sheet of a job that can be laid on a table."""

    job: str
    setup: str
    sheet: str
    copy_no: int
    called: str
    machine: str
    width: float
    height: float
    thickness: float


class TableLine(Document):
    """A run in the list."""

    id: str
    name: str
    sheets: int


def listed(store: Store) -> list[TableLine]:
    """Every run of sheets of several jobs."""
    found = [(r.plan, r.plan.run) for r in store.of_kind("run")]
    return [TableLine(id=p.id, name=p.name, sheets=len(run.sheets)) for p, run in found if run]


def start(store: Store, name: str) -> Revision:
    """A new run, nothing laid on its table yet.

    Raises:
        BadInput: it has no name.
    """
    if not name.strip():
        raise BadInput("the table needs a name")
    taken = store.used_ids()
    base = slug(name)
    others = (f"{base}-{n}" for n in range(2, 10_000))
    own = base if base not in taken else next(i for i in others if i not in taken)
    return store.create(Plan(id=own, name=name.strip()[:200], run=TableRun(id=own)))


def burn(store: Store, job: str) -> None:
    """Delete a job that lies in the bin for good.

    Raises:
        NotFound: no such job.
        BadInput: it is not in the bin, or a table lays a sheet of it.
    """
    for r in store.of_kind("run"):
        if r.plan.run and any(s.job == job for s in r.plan.run.sheets):
            raise BadInput(f"{r.plan.name} lays sheets of it on its table; take them off there first")
    store.burn(job)


def run_revision(store: Store, run: str) -> Revision:
    """The newest revision of a run.

    Raises:
        NotFound: no such run.
    """
    found = store.get(run)
    if found.plan.run is None:
        raise NotFound(f"{found.plan.name} runs no sheets of other jobs")
    return found


def sheets_of(store: Store, job: str) -> list[SheetChoice]:
    """The planned sheets of a job."""
    plan = store.get(job).plan
    out = []
    for derived in jobs.derive(store, plan, hold=False).values():
        for n, sheet in enumerate(derived.sheets, 1):
            stock = derived.setup.stock_of(sheet.sheet)
            if (
                stock is None or not sheet.cuts or derived.setup.role or derived.setup.indexing
            ):  # registered where it lies
                continue
            out.append(
                SheetChoice(
                    job=job,
                    setup=derived.setup.id,
                    sheet=sheet.sheet,
                    copy_no=sheet.copy_no,
                    called=f"{plan.name}, sheet {n}",
                    machine=derived.setup.machine.name,
                    width=stock.width,
                    height=stock.height,
                    thickness=stock.thickness,
                )
            )
    return out


def _machine(store: Store, found: Sequence[Laid]) -> Machine | None:
    """The machine of the first sheet, with its grid as the shop has it now: a table has only one."""
    return shop_machine(store, found[0].on.setup.machine) if found else None


def _found(store: Store, run: TableRun) -> tuple[list[Laid], dict[str, str]]:
    """Sheets that are there, at the corner of the grid for now, and why others are not, by their ids."""
    out: list[Laid] = []
    wrong: dict[str, str] = {}
    for s in run.sheets:
        try:
            plan = store.get(s.job).plan
        except NotFound:
            wrong[s.id] = f"there is no job {s.job!r} any more"
            continue
        derived = jobs.derive(store, plan).get(s.setup)
        if derived is not None and (derived.setup.role or derived.setup.indexing):
            how = "cut from both faces" if derived.setup.role else "moved along the table"
            wrong[s.id] = f"{plan.name} is {how}: its sheets lie where they are registered; run them alone"
            continue
        at = [
            (n, x)
            for n, x in enumerate(derived.sheets if derived else (), 1)
            if (x.sheet, x.copy_no) == (s.sheet, s.copy_no)
        ]
        stock = derived.setup.stock_of(s.sheet) if derived else None
        if derived is None or stock is None or not at:
            wrong[s.id] = f"{plan.name} has no such sheet any more: its parts are nested otherwise now"
            continue
        n, sheet = at[0]
        names = {p.id: p.name for p in plan.parts}
        on = OnTable(s.id, f"{plan.name}, sheet {n}", derived.setup, sheet, stock, (0.0, 0.0), names)
        said = [x.message for x in derived.snags if x.severity == "stop"]
        said += [
            x.message for x in jobs.prove_sheet(store, plan, derived, sheet).snags if x.severity == "stop"
        ]
        out.append(Laid(s, on, plan, _drawn(store, plan, sheet), said))
    return out, wrong


def _drawn(store: Store, plan: Plan, sheet: SheetPlan) -> list[list[Span]]:
    """Outlines of a sheet's pieces, from its lower left corner."""
    out = []
    for q in sheet.pieces:
        part = plan.part(q.part)
        if part is None:
            continue
        region = store.shapes[part.shape].region.placed(q.x, q.y, q.rotation, q.mirrored)
        out.append(shapely.get_coordinates(region.polygon(CHORD).exterior).round(1).tolist())
    return out


@dataclass(frozen=True, eq=False)
class Whole:
    """A run with all that follows from it."""

    laid: list[Laid]
    wrong: dict[str, str]
    machine: Machine | None
    loads: list[Load]
    files: list[tuple[str, str]]
    seconds: float
    cut_length: float
    snags: list[Snag]


def whole(store: Store, plan: Plan) -> Whole:
    """What follows from a run: where its sheets lie, what is loaded when, the programs read back, snags."""
    assert plan.run is not None
    found, wrong = _found(store, plan.run)
    machine = _machine(store, found)
    snags = [stop("table.gone", f"{words}: take it off the table") for words in wrong.values()]
    grid = machine.grid if machine else None
    if machine and grid is None:
        words = f"the table of {machine.name} has no numbered grid; enter it with the machine in the library"
        return Whole(found, wrong, machine, [], [], 0.0, 0.0, [*snags, stop("table.no-grid", words)])
    laid: list[Laid] = []
    for x in found:
        try:
            corner = grid.corner(*grid.square(x.of.square)) if grid else (0.0, 0.0)
        except BadInput as e:
            snags.append(stop("table.no-square", f"{x.on.called}: {e}"))
            continue
        at = (corner[0] - grid.at[0], corner[1] - grid.at[1]) if grid else (0.0, 0.0)
        on = OnTable(x.on.id, x.on.called, x.on.setup, x.on.sheet, x.on.stock, at, x.on.names)
        laid.append(Laid(x.of, on, x.plan, x.parts, x.stops))
        snags += _as_in_its_job(laid[-1], corner)
    sheets = [x.on for x in laid]
    snags += memo(
        "judged together",
        digest("1", plan.run.z_zero, [(on.called, on.sheet.key, list(on.at), on.setup) for on in sheets]),
        lambda: judged_together(sheets, plan.run.z_zero if plan.run else "bed"),
    )
    if not sheets or machine is None or grid is None:
        return Whole(laid, wrong, machine, [], [], 0.0, 0.0, snags)
    loads = loads_together(sheets)
    written = _written(plan, machine, loads, sheets)
    found_, seconds, length = _proven(machine, grid, written)
    return Whole(
        laid, wrong, machine, loads, [(f.name, f.text) for f in written], seconds, length, [*snags, *found_]
    )


def _as_in_its_job(x: Laid, corner: Span) -> list[Snag]:
    """What its own job says, and what that judged for another place."""
    out: list[Snag] = [stop("table.job", f"{x.on.called}: {words}") for words in x.stops[:1]]
    at = x.on.setup.sheet_at
    if x.on.setup.zones_on and np.hypot(corner[0] - at[0], corner[1] - at[1]) > 1.0:
        out.append(
            look(
                "table.zones",
                f"{x.on.called} is held by vacuum where its job lays it, X {at[0]:.0f} Y {at[1]:.0f}; under"
                f" square {x.of.square} other zones lie: lay it at X {corner[0]:.0f} Y {corner[1]:.0f} in its"
                " job, and it is judged there",
            )
        )
    return out


@dataclass(frozen=True, eq=False)
class Written:
    """A program with what it is to do; ``top``: height of the highest sheet in its Z, mm."""

    name: str
    text: str
    runs: list[ToolRun]
    top: float
    clearance: float
    loaded: int


def _written(plan: Plan, machine: Machine, loads: Sequence[Load], sheets: Sequence[OnTable]) -> list[Written]:
    """One program, or one a load where the machine changes no cutters itself."""
    assert plan.run is not None
    dialect = machine.dialect
    on_bed = plan.run.z_zero == "bed"
    most = max(on.stock.thickness for on in sheets)
    top = most if on_bed else 0.0
    clearance = max(on.setup.machine.clearance for on in sheets)
    unit = "in" if dialect.inch else "mm"
    parts: list[Sequence[Load]] = [loads] if dialect.tool_change else [[load] for load in loads]
    out = []
    for k, some in enumerate(parts, 1):
        runs = runs_together(some, most if on_bed else None)
        numbers = list(dict.fromkeys(r.number for r in runs))
        tools = "-".join(f"t{n}" for n in numbers)
        header = [
            f"VENZO {plan.name}",
            f"{counted(len(sheets), 'sheet')} of several jobs in one program; file {k} of {len(parts)}",
            (
                "X0 Y0 lower left corner of square 1 of the table's grid; Z0 "
                + ("bed (spoilboard)" if on_bed else "top of the material")
            ),
            *(
                f"square {x.square}: {x.called}, {show_length(x.thickness, unit)} thick"
                for x in _on_squares(plan, sheets)
            ),
            f"units {'inch' if dialect.inch else 'millimetre'}; {machine.name}",
            *(f"T{n} {next(r.name for r in runs if r.number == n)}" for n in numbers),
            *(f"stops for the operator: {words}" for r in runs for words in r.stops.values()),
        ]
        text = write(runs, dialect, header, clearance, top)
        name = f"{slug(plan.name)}_{k:02d}_{tools}.{dialect.ending}"
        out.append(Written(name, text, runs, top, clearance, numbers[0] if numbers else 0))
    return out


@dataclass(frozen=True)
class _Square:
    square: int
    called: str
    thickness: float


def _on_squares(plan: Plan, sheets: Sequence[OnTable]) -> list[_Square]:
    assert plan.run is not None
    squares = {s.id: s.square for s in plan.run.sheets}
    found = [_Square(squares[on.id], on.called, on.stock.thickness) for on in sheets]
    return sorted(found, key=lambda x: x.square)


def _proven(machine: Machine, grid: Grid, written: Sequence[Written]) -> tuple[list[Snag], float, float]:
    """The programs read back: do they what the sheets' own plans say, in the table's room? With their time
    (changes and stops too) and length of cut.
    """
    snags: list[Snag] = []
    seconds = length = 0.0
    for f in written:
        reading = interpret(f.text, f.name, machine.dialect)
        given = Given(f.name, reading, f.loaded, top=f.top)
        want = planned_sections(f.runs, f.clearance, f.top)
        last = max((b.lines[-1] for b in reading.blocks if b.lines), default=0)
        wrong = first_deviation(want, read_sections(reading.blocks, f.loaded), last)
        if wrong:
            words = f"{f.name}, line {wrong.line}: {wrong.message}"
            snags.append(stop("table.program", words))
        stops = [e for e in reading.events if e.kind == "stop"]
        if len(stops) != sum(len(r.stops) for r in f.runs):
            snags.append(stop("table.program", f"{f.name}: a stop for the operator is lost"))
        snags += [stop("table.program", f"{f.name}, line {x.line}: {x.message}") for x in reading.faults[:1]]
        snags += met_on_table(grid, machine, f.text)
        told = figures([given], machine.axes)
        changes = len({r.number for r in f.runs}) if not machine.dialect.tool_change else _changes(f.runs)
        seconds += told.seconds + changes * machine.change_seconds + len(stops) * machine.stop_seconds
        length += told.cut_length
    return snags, seconds, length


def _changes(runs: Sequence[ToolRun]) -> int:
    """Cutters loaded."""
    numbers = [r.number for r in runs]
    return sum(a != b for a, b in zip([None, *numbers], numbers, strict=False))


def document(store: Store, run: str) -> TableDocument:
    """Everything that the table's screen draws."""
    at = run_revision(store, run)
    plan = at.plan
    assert plan.run is not None
    w = whole(store, plan)
    rank = {"stop": 0, "look": 1, "note": 2}
    grid = w.machine.grid if w.machine else None
    laid = {x.of.id: x for x in w.laid}
    return TableDocument(
        revision=at.number,
        says=at.says,
        can_undo=at.can_undo,
        can_redo=at.can_redo,
        name=plan.name,
        run=plan.run,
        machine=w.machine.name if w.machine else "",
        width=w.machine.width if w.machine else 0.0,
        height=w.machine.height if w.machine else 0.0,
        grid=grid,
        sheets=[_laid(s, laid.get(s.id), grid, w.wrong.get(s.id, "")) for s in plan.run.sheets],
        loads=[
            CutterLoad(
                number=load[0][0].cutter(load[0][1][0]).number,
                name=load[0][0].cutter(load[0][1][0]).name,
                sheets=[on.called for on, _cuts in load],
                cuts=sum(len(cuts) for _on, cuts in load),
            )
            for load in w.loads
        ],
        alone=sum(len(x.on.sheet.changes) for x in w.laid),
        seconds=w.seconds,
        cut_length=w.cut_length,
        files=[name for name, _text in w.files],
        snags=sorted(w.snags, key=lambda s: rank[s.severity]),
    )


def _laid(s: LaidSheet, x: Laid | None, grid: Grid | None, wrong: str) -> LaidDocument:
    """A sheet as it is drawn; where it was not found, only its square."""
    own = {"id": s.id, "job": s.job, "square": s.square}
    if x is None:
        return LaidDocument(
            **own,
            called=s.job,
            at=(0.0, 0.0),
            width=0.0,
            height=0.0,
            thickness=0.0,
            outline=[],
            parts=[],
            seconds=0.0,
            wrong=wrong or "it lies on no square",
        )
    at = (x.on.at[0] + (grid.at[0] if grid else 0.0), x.on.at[1] + (grid.at[1] if grid else 0.0))
    outline = translate(x.on.outline, at[0] - x.on.at[0], at[1] - x.on.at[1])
    return LaidDocument(
        **own,
        called=x.on.called,
        at=at,
        width=x.on.stock.width,
        height=x.on.stock.height,
        thickness=x.on.stock.thickness,
        outline=shapely.get_coordinates(outline.exterior).round(1).tolist(),
        parts=[[(px + at[0], py + at[1]) for px, py in part] for part in x.parts],
        seconds=x.on.sheet.seconds,
        wrong=wrong,
    )


def programs(store: Store, run: str) -> list[tuple[str, str]]:
    """Programs of a run.

    Raises:
        BadInput: a stop stands in the way, or nothing lies on the table.
    """
    at = run_revision(store, run)
    w = whole(store, at.plan)
    stops = [s.message for s in w.snags if s.severity == "stop"]
    if stops:
        raise BadInput(f"{at.plan.name}: no program while this stands: {stops[0]}")
    if not w.files:
        raise BadInput(f"{at.plan.name}: nothing lies on its table yet; lay a sheet of a job on a square")
    return w.files


def ready(store: Store, run: str) -> list[tuple[str, str]]:
    """Programs of a run; none where something stops it."""
    w = whole(store, run_revision(store, run).plan)
    return [] if any(s.severity == "stop" for s in w.snags) else w.files


def paper(store: Store, run: str) -> tuple[str, bytes]:
    """The table sheet: what lies where, what is loaded when; each job's own setup sheet says how its sheets
    are held.
    """
    from venzo.formats.table_sheet import SheetOnPaper, TableOnPaper, table_sheet

    at = run_revision(store, run)
    d, machine = document(store, run), whole(store, at.plan).machine
    laid = [
        SheetOnPaper(s.square, s.called, (s.width, s.height, s.thickness), [s.outline, *s.parts])
        for s in d.sheets
    ]
    loads = [(x.number, x.name, x.cuts, x.sheets) for x in d.loads]
    table = TableOnPaper(d.name, machine, d.run.z_zero, d.seconds, d.alone, laid, loads, d.files, d.snags)
    return f"{slug(d.name)}_table-sheet.pdf", table_sheet(table)
