"""What was run: a sheet recorded as cut, records taken back, wear and boards as sums over the records."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from venzo.core.derive import DerivedSetup
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.model import Document, Id, Moment, Value
from venzo.core.order.of_sheet import PlacedCut, SheetPlan, some_of
from venzo.core.runs.records import Finish, Released, Renewed, SheetRun, TakenBack, Words, Worn
from venzo.core.runs.sums import Made, made, standing, wear
from venzo.core.snags import BadInput
from venzo.core.voice import counted
from venzo.core.yields.costs import AnySheet
from venzo.desk import jobs
from venzo.desk.machine_folders import write_list
from venzo.desk.rack_of_job import SheetOff, moved_back, moved_by_run
from venzo.desk.release_record import manifest_of, released, run_cuts, standing_releases
from venzo.desk.spoilboards import surface_setups
from venzo.desk.yields import kept_of, sheet_amounts
from venzo.store.store import KeptRun, NotFound, Revision, Store


class SheetCut(Value):
    """What a person says of a sheet that was run. ``done``: how many cuts of its tape (None: all);
    ``seconds``: real time (None: not taken); ``spoilt``: ids of pieces that did not come off sound;
    ``board``: the spoilboard it lay on (None: the machine's, where it has one); ``revision``: the programs
    were made from it (None: the newest); ``again``: it was recorded as cut before, this is another sheet.
    ``release``: which release was run (None: the revision's programs, whole); ``edge``: what the edges
    looked like. ``keep``: which of the remnants that the plan keeps of a whole sheet went into the rack, by
    their place in its list (None: all), and ``place`` there.
    """

    setup: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    done: Annotated[int | None, Field(ge=1)] = None
    seconds: Annotated[float | None, Field(gt=0, le=2_000_000)] = None
    spoilt: Annotated[tuple[str, ...], Field(max_length=5000)] = ()
    board: Id | None = None
    revision: Annotated[int | None, Field(ge=1)] = None
    again: bool = False
    keep: Annotated[tuple[int, ...] | None, Field(max_length=20)] = None
    place: Annotated[str, Field(max_length=200)] = ""
    release: Annotated[int | None, Field(ge=1)] = None
    edge: Finish | None = None
    note: Words = ""


class RunLine(Document):
    """A sheet's run with its number, when it was recorded and by whom; ``taken_back``: it counts no more."""

    number: int
    made: Moment
    author: str
    taken_back: bool
    run: SheetRun


class RunsDocument(Document):
    """Runs of a job, newest first, and what they come to: pieces by part, and seconds planned and real of
    those whose time was taken.
    """

    runs: list[RunLine]
    sound: dict[str, int]
    spoilt: dict[str, int]
    planned: float
    seconds: float


def of_job(store: Store, job: str) -> RunsDocument:
    """What was run of a job.

    Raises:
        NotFound: no such job.
    """
    store.head(job)
    kept = store.runs(job)
    counting = standing([(k.number, k.record) for k in kept])
    numbers = {n for n, _r in counting}
    lines = [
        RunLine(
            number=k.number, made=k.made, author=k.author, taken_back=k.number not in numbers, run=k.record
        )
        for k in reversed(kept)
        if isinstance(k.record, SheetRun) and k.record.job == job
    ]
    came_to: Made = made(counting, job)
    return RunsDocument(
        runs=lines,
        sound=came_to.sound,
        spoilt=came_to.spoilt,
        planned=round(came_to.planned, 1),
        seconds=round(came_to.seconds, 1),
    )


def record(store: Store, job: str, said: SheetCut) -> int:
    """Record that a sheet was run, with the figures of the plan that its programs were made from; the number
    of the record.

    Raises:
        NotFound: no such job or revision.
        BadInput: the plan has no such sheet, piece or cut, or the sheet is recorded as cut already.
    """
    went = released(store, job, said.release) if said.release is not None else None
    revision = store.get(job, went.revision if went else said.revision)
    derived = jobs.derive(store, revision.plan, False).get(said.setup)
    if derived is None:
        raise BadInput(f"{revision.plan.name}: there is no setup {said.setup!r}")
    number_of_release = 0
    sheet: AnySheet
    if derived.kerf:
        sheet = _kerf_sheet(derived, said)
        new = _kerf_run(revision.number, job, derived, sheet, said)
        if went is not None:
            number_of_release = next(k.number for k in store.runs(job) if k.record == went)
    else:
        on = _on(store, derived, said, went)
        new = _as_run(store, revision.number, job, derived, on, said)
        sheet, number_of_release = on.whole, on.record

    def check(kept: list[KeptRun]) -> None:
        if any(isinstance(k.record, TakenBack) and k.record.number == number_of_release for k in kept):
            raise BadInput(f"release {said.release} was withdrawn: its programs are not to be run")
        for n, r in standing([(k.number, k.record) for k in kept]):
            if not isinstance(r, SheetRun) or not _same_sheet(r, new) or said.again:
                continue
            if r.complete if new.release is None else r.release == new.release and r.done == r.planned_cuts:
                what = _named(sheet) + (f" of release {new.release}" if new.release else "")
                raise BadInput(
                    f"{what} is recorded as cut already (record {n}); take that back, or say that it was cut"
                    " again"
                )

    if new.complete and derived.first is None:  # a sheet that was turned is off the rack already
        new = _with_material(store, revision, derived, sheet, new)
        off = _off(store, revision, derived, sheet, said)
        number = store.record(new, check, lambda n, so_far: moved_by_run(off, n, so_far))
    else:
        number = store.record(new, check)
    write_list(store, new.machine)
    return number


def _with_material(
    store: Store, revision: Revision, derived: DerivedSetup, sheet: AnySheet, new: SheetRun
) -> SheetRun:
    """The record of a whole sheet with what became of it."""
    y = next(y for y in derived.yields.sheets if (y.sheet, y.copy_no) == (sheet.sheet, sheet.copy_no))
    _parted, amounts = sheet_amounts(store, revision.plan, derived, sheet, y)
    return new.model_copy(
        update={
            "area_mm2": {k: round(v, 1) for k, v in amounts.area_mm2.items()},
            "mass_kg": {k: round(v, 4) for k, v in amounts.mass_kg.items()},
            "material_cost": round(y.material_cost, 2) if y.priced else None,
        }
    )


def _off(
    store: Store, revision: Revision, derived: DerivedSetup, sheet: AnySheet, said: SheetCut
) -> SheetOff:
    """What of a whole sheet goes into the rack."""
    found = kept_of(store, revision.plan, derived, sheet)
    wrong = [i for i in said.keep or () if not 0 <= i < len(found)]
    if wrong:
        raise BadInput(
            f"{_named(sheet)} leaves {counted(len(found), 'remnant')}, there is none numbered {wrong[0] + 1}"
        )
    kept = found if said.keep is None else [found[i] for i in sorted(set(said.keep))]
    return SheetOff(
        revision.plan,
        revision.number,
        derived.setup,
        sheet.sheet,
        sheet.copy_no,
        tuple(kept),
        said.place.strip(),
    )


def take_back(store: Store, job: str, number: int, says: str = "") -> None:
    """Take a record of a job back; it stays in the log and counts no more. Its sheet comes back into the
    rack, and the remnants it left leave it.

    Raises:
        NotFound: the job has no such record.
        BadInput: it is taken back already, or a remnant that it left is reserved or used.
    """

    def check(kept: list[KeptRun]) -> None:
        target = next((k.record for k in kept if k.number == number), None)
        if not isinstance(target, SheetRun) or target.job != job:
            raise NotFound(f"job {job!r} has no run recorded as {number}")
        if any(isinstance(k.record, TakenBack) and k.record.number == number for k in kept):
            raise BadInput(f"run {number} is taken back already")

    store.record(
        TakenBack(number=number, job=job, says=says), check, lambda _n, so_far: moved_back(number, so_far)
    )


def book_wear(store: Store, cutter: str, metres: float, sharpened: bool = False) -> None:
    """Metres that a cutter has cut beside the runs kept here; ``sharpened``: its wear begins anew with
    them.
    """
    if sharpened:
        store.record(Renewed(cutter=cutter))
    if metres:
        store.record(Worn(cutter=cutter, metres=metres))


def worn(store: Store) -> dict[str, float]:
    """Metres that each cutter has cut since it was new or sharpened."""
    return wear(standing([(k.number, k.record) for k in store.runs()]))


@dataclass(frozen=True)
class _OnTable:
    """What was run of a sheet: ``cut`` of the ``whole``, which cuts were made by runs of other parts before,
    the record of the release (0: none), and whether spoilt pieces were cut again.
    """

    cut: SheetPlan
    whole: SheetPlan
    made: frozenset[str]
    record: int = 0
    recut: bool = False


def _on(store: Store, derived: DerivedSetup, said: SheetCut, went: Released | None) -> _OnTable:
    whole = _sheet(derived, said)
    if went is None:
        return _OnTable(whole, whole, frozenset())
    at = f"{said.sheet}/{said.sheet_copy}"
    told = manifest_of(store, went)
    names = told.cuts.get(said.setup, {}).get(at)
    if not names:
        raise BadInput(f"release {went.release} has no program for {_named(whole)}")
    rows = [i for i, c in enumerate(whole.cuts) if c.name in names]
    kept = store.runs(went.job)
    number = next(k.number for k in kept if k.record == went)
    made = {
        name
        for setup, name in run_cuts(store, went.job, standing_releases(store, went.job))
        if setup == said.setup and name not in names
    }
    recut = told.picked is not None and told.picked.which == "spoilt"
    return _OnTable(some_of(derived.setup, whole, rows), whole, frozenset(made), number, recut)


def _sheet(derived: DerivedSetup, said: SheetCut) -> SheetPlan:
    for s in derived.sheets:
        if (s.sheet, s.copy_no) == (said.sheet, said.sheet_copy):
            return s
    raise BadInput(
        f"{derived.setup.name}: there is no sheet {said.sheet} {said.sheet_copy + 1} in the plan that its"
        " programs were made from"
    )


def _named(sheet: AnySheet) -> str:
    return f"sheet {sheet.sheet} {sheet.copy_no + 1}"


def _same_sheet(a: SheetRun, b: SheetRun) -> bool:
    return (a.setup, a.sheet, a.sheet_copy) == (b.setup, b.sheet, b.sheet_copy)


def _done(sheet: AnySheet, count: int, said: SheetCut) -> int:
    """How many of a sheet's cuts were made."""
    done = count if said.done is None else said.done
    if not 1 <= done <= count:
        raise BadInput(
            f"{_named(sheet)} has {counted(count, 'cut')}, not {done}; say after which of them it stopped"
        )
    return done


def _sound(sheet: AnySheet, part_of: Mapping[str, str], waiting: set[str], said: SheetCut) -> dict[str, int]:
    """Sound pieces by part: those of which nothing is still to be cut, and that are not spoilt."""
    unknown = sorted(set(said.spoilt) - part_of.keys())
    if unknown:
        raise BadInput(f"{_named(sheet)} holds no piece {unknown[0]!r}; name pieces that lie on it")
    sound: dict[str, int] = {}
    for piece in sorted(part_of.keys() - waiting - set(said.spoilt)):
        sound[part_of[piece]] = sound.get(part_of[piece], 0) + 1
    return sound


def _as_run(
    store: Store, revision: int, job: str, derived: DerivedSetup, on: _OnTable, said: SheetCut
) -> SheetRun:
    sheet = on.cut
    count = len(sheet.cuts)
    done = _done(sheet, count, said)
    cuts = sheet.cuts[:done]
    now = {c.name for c in cuts}
    rest = [c for c in on.whole.cuts if c.name not in now and c.name not in on.made]
    waiting = {c.piece.id for c in rest}
    # a piece comes off with the run that makes the last of its cuts
    here = {c.piece.id for c in cuts}
    if derived.setup.role is not None:  # which may be another turn of the stock
        later = [s for t in derived.turns_after for s in t.cut_of(on.whole)]
        waiting |= {c.piece.id for s in later for c in s.cuts} | ({q.id for q in sheet.pieces} - here)
    pieces = {q.id: q.part for q in sheet.pieces if sheet is on.whole or q.id in here}
    sound = _sound(sheet, pieces, waiting, said)
    metres: dict[str, float] = {}
    for c in cuts:
        metres[c.cut.cutter] = metres.get(c.cut.cutter, 0.0) + c.cut_length / 1000
    through, score = _through(derived, sheet, cuts)
    return SheetRun(
        job=job,
        revision=revision,
        setup=derived.setup.id,
        sheet=sheet.sheet,
        sheet_copy=sheet.copy_no,
        machine=derived.setup.machine.id,
        material=derived.setup.material.id,
        done=done,
        planned_cuts=count,
        planned=round(sheet.seconds if done == count else sum(c.takes for c in cuts), 1),
        seconds=said.seconds,
        sound=sound,
        spoilt=tuple(dict.fromkeys(said.spoilt)),
        metres={cutter: round(m, 3) for cutter, m in metres.items()},
        board=_board(store, derived.setup.machine.id, said.board),
        release=said.release,
        rest=len(rest) - (count - done),
        recut=on.recut,
        edge=said.edge,
        through=round(through, 3),
        score=round(score, 3),
        note=said.note.strip(),
    )


def _kerf_sheet(derived: DerivedSetup, said: SheetCut) -> KerfSheet:
    for k in derived.kerf:
        if (k.sheet, k.copy_no) == (said.sheet, said.sheet_copy):
            return k
    raise BadInput(
        f"{derived.setup.name}: there is no sheet {said.sheet} {said.sheet_copy + 1} in the plan that its"
        " programs were made from"
    )


def _kerf_run(revision: int, job: str, derived: DerivedSetup, sheet: KerfSheet, said: SheetCut) -> SheetRun:
    """The record of a kerf table's sheet: a piece comes off once all its cuts are made."""
    cuts = sheet.run.cuts
    done = _done(sheet, len(cuts), said)
    part = {q.id: q.part for q in sheet.pieces}
    waiting = {sheet.pieces[b].id for c in cuts[done:] for b in c.whose}
    sound = _sound(sheet, part, waiting, said)
    took = sum(sheet.run.seconds[:done]) + sum(sheet.run.ways_take[:done])
    return SheetRun(
        job=job,
        revision=revision,
        setup=derived.setup.id,
        sheet=sheet.sheet,
        sheet_copy=sheet.copy_no,
        machine=derived.setup.machine.id,
        material=derived.setup.material.id,
        done=done,
        planned_cuts=len(cuts),
        planned=round(took, 1),
        seconds=said.seconds,
        sound=sound,
        spoilt=tuple(dict.fromkeys(said.spoilt)),
        release=said.release,
        edge=said.edge,
        note=said.note.strip(),
    )


def _through(derived: DerivedSetup, sheet: SheetPlan, cuts: tuple[PlacedCut, ...]) -> tuple[float, float]:
    """Metres that cuts go through into the spoilboard, and how deep, mm."""
    stock = derived.setup.stock_of(sheet.sheet)
    thickness = stock.thickness if stock else 0.0
    below = [(c.cut_length / 1000, -c.cut.levels[-1] - thickness) for c in cuts]
    through = [(metres, deep) for metres, deep in below if deep > 1e-6]
    return sum(m for m, _deep in through), max((deep for _m, deep in through), default=0.0)


def _board(store: Store, machine: str, said: str | None) -> str | None:
    """The spoilboard that a run lay on: as said, or the machine's only one."""
    boards = [
        b.id for b in surface_setups(store) if b.board.kind == "spoilboard" and b.board.machine == machine
    ]
    if said is not None and said not in boards:
        raise BadInput(f"machine {machine} has no spoilboard {said!r}; name one of its own")
    return said or (boards[0] if len(boards) == 1 else None)
