"""Boards on the surfacing bench: kept, planned, probed, booked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import ValidationError

from venzo.core.edits.surface import ChangeSurface, SetSurface, surface_of
from venzo.core.memo import memo
from venzo.core.model import Document, Fields, digest
from venzo.core.motion.time import Axes
from venzo.core.plan import Plan
from venzo.core.runs.records import SheetRun
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput, Snag, look, note, plain_error
from venzo.core.stock.grid import Grid, squares
from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.faces import Faces, faces, passes_for, turned
from venzo.core.surfacing.flatness import Flatness, flatness, pasted
from venzo.core.surfacing.ledger import Entry, State, standing_entries, state
from venzo.core.surfacing.passes import CLEARANCE, Passes, plan_passes
from venzo.core.surfacing.rows import Room
from venzo.core.surfacing.shifts import Shift, shifts
from venzo.desk.surfacing import clearance_snags, reach_of
from venzo.devices.probe import SimulatedProbe
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
    return [(line.number, line.entry) for line in ledger_lines(store, bench_id)]


def ledger_lines(store: Store, bench_id: str) -> list[LedgerLine]:
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
    room = Room() if len(shifts_of(store, b)) > 1 else Room(reach_of(m, b.board))
    key = digest("surfacing-2", b.board, b.how, b.readings, m, room.reach is None)
    return memo("surfacing", key, lambda: passes_in(b, m, room))


def passes_in(b: SurfaceSetup, m: Machine | None, room: Room) -> Passes:
    """Its passes where only some room is left for them, on a machine."""
    return plan_passes(b.board, b.how, flat_of(b), room, axes_of(m), height_of(m, [b]))


def height_of(m: Machine | None, boards: Sequence[SurfaceSetup]) -> float:
    """mm over a board at which the cutter travels: as its machine says, else over the tallest fixing."""
    return m.clearance if m else max([CLEARANCE, *(d.over for b in boards for d in b.board.dead)])


Side = Literal[1, 2]
"""First or second face of a board."""


def faces_of(store: Store, b: SurfaceSetup) -> Faces:
    """What each face takes and what is left: of the first what its ledger says, once it was cut.

    Raises:
        BadInput: the board is too thin for what is wanted.
    """
    booked = [e for _n, e in standing_entries(entries(store, b.id)) if e.kind == "surfaced"]
    first = sum(e.removed for e in booked if e.face == 1)
    flat = flat_of(b)
    needs = first or (flat.least_depth() if flat else b.how.total)
    second = b.second.how.depth if b.second else b.how.depth
    f = faces(b.board.thickness, b.wanted, needs, second)
    if b.second:
        passes_for(f.second + b.second.stands, b.second.how)  # refused here, for all who ask
    return f


def as_it_lies(store: Store, b: SurfaceSetup, face: Side) -> SurfaceSetup:
    """A board as it lies for one of its faces.

    Raises:
        BadInput: it has no second face, or is too thin for it.
    """
    return b if face == 1 else turned(b, faces_of(store, b))


def two_faced(store: Store, b: SurfaceSetup) -> bool:
    """Has the board a second face that can be cut?"""
    if b.second is None or b.board.kind != "board":
        return False
    try:
        faces_of(store, b)
    except BadInput:
        return False
    return True


def state_of(store: Store, b: SurfaceSetup) -> State:
    """How it stands, with what the plan would take off."""
    return state(b.board, entries(store, b.id), b.how.total)


class LedgerLine(Document):
    """An entry of a board's ledger."""

    number: int
    made: str
    entry: Entry


def machine_snags(b: SurfaceSetup, m: Machine | None) -> list[Snag]:
    """What its machine cannot do."""
    if m is None:
        return []
    out = clearance_snags([b.board], m.clearance)
    if not (m.rpm_min <= b.how.rpm <= m.rpm_max):
        out.append(
            look(
                "surface.rpm",
                f"{b.how.rpm:.0f} rpm is outside what {m.name} turns, {m.rpm_min:.0f} to {m.rpm_max:.0f}",
            )
        )
    if b.how.feed > m.fastest_feed:
        out.append(
            note(
                "surface.feed",
                f"{b.how.feed:.0f} mm/min is more than {m.name} runs, {m.fastest_feed:.0f}; it will be slower"
                " than planned",
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
    if entry.kind == "zero" and b.how.start:
        change(store, bench_id, {"how": {"start": 0.0}})


def surfaced(store: Store, bench_id: str, face: Side = 1) -> SurfaceSetup:
    """The planned passes of a face were cut: booked with the flatness to expect, and the plan of the first
    set to go on below.

    Raises:
        BadInput: it has no second face, or that is booked already.
    """
    whole = surface_setup(store, bench_id)
    b = as_it_lies(store, whole, face)
    if face == 2 and any(
        e.kind == "surfaced" and e.face == 2 for _n, e in standing_entries(entries(store, bench_id))
    ):
        raise BadInput(f"{b.board.name}: its second face is booked already; take that entry back first")
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
        f"{'second face: ' if face == 2 else ''}{len(p.layers)} pass{'es' * (len(p.layers) != 1)},"
        f" {kinds[b.how.pattern]}, step-over {b.how.step_over:.0%}"
        + (f", fine {b.how.finish_step_over:.0%}" if b.how.finish_depth else "")
    )
    # of the second face the board's thickness loses what lay over the first, not what stood proud of that
    removed = b.how.total - (whole.second.stands if face == 2 and whole.second else 0.0)
    book(
        store,
        bench_id,
        Entry(kind="surfaced", removed=round(removed, 4), flat=round(expect, 3), says=says, face=face),
    )
    if face == 2:
        return surface_setup(store, bench_id)
    return change(
        store,
        bench_id,
        {"how": {"start": round(b.how.start + b.how.total, 6)}, "readings": [], "simulated": False},
    )


def grid_of(b: SurfaceSetup, m: Machine | None) -> Grid:
    """The numbered grid of the table a board lies on; of squares of its own pitch where that has none."""
    if m is not None and m.grid is not None:
        return m.grid
    width, height = (m.width, m.height) if m else (b.board.width, b.board.height)
    columns, rows = squares(width, height, b.pitch)
    return Grid(pitch=b.pitch, columns=columns, rows=rows)
