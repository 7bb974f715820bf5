"""What people do with a shop's data, without any web: start a job, derive, prove, release. Drawings have a
room of their own (``drawings``).

The command line and the API both work through this room.
"""

from __future__ import annotations

import io
import time
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial

from venzo.core import derive as derivation
from venzo.core.edits import AddSetup
from venzo.core.edits.base import default_zones
from venzo.core.memo import memo
from venzo.core.model import Fields, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Order, Plan, Setup
from venzo.core.proof.check import AsRun, Program, Proof, Ran, Subject, prove
from venzo.core.proof.program import Reading
from venzo.core.proof.removal import removed_volume
from venzo.core.release.file_names import slug
from venzo.core.release.pen_lines import off_plan, pen_lines
from venzo.core.release.programs import ProgramFile, tool_runs
from venzo.core.release.programs import programs as release_of
from venzo.core.rules.house import HouseRules
from venzo.core.rules.propose import propose_operations
from venzo.core.snags import BadInput, Snag, Where, look, stop
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter, Holder
from venzo.core.tooling.head import HeadSetting
from venzo.desk.guide_holes import spoilboard_snags
from venzo.formats.gcode import write
from venzo.formats.program_text import write_program
from venzo.formats.rs274 import interpret, read
from venzo.store.store import Revision, Store


def new_setup(
    store: Store, machine: str | None = None, material: str | None = None, setup_id: str = "main"
) -> Setup:
    """A setup from the shop library: the named (or first) machine and material, every cutter that suits, the
    shop's rules.

    Raises:
        BadInput: the library lacks what is needed.
    """

    def pick(kind: str, wanted: str | None) -> Fields:
        items = store.library(kind)
        found = next((i for i in items if wanted is None or i["id"] == wanted), None)
        if found is None:
            raise BadInput(
                f"the shop library has no {kind} {wanted!r}"
                if wanted
                else f"the shop library has no {kind} yet; enter one first"
            )
        return found

    m, mat = (
        Machine.model_validate(pick("machine", machine)),
        Material.model_validate(pick("material", material)),
    )
    rules = store.library("rules")
    house = (
        HouseRules.model_validate({k: v for k, v in rules[0].items() if k != "id"}) if rules else HouseRules()
    )
    cutters = tuple(
        c for c in (Cutter.model_validate(c) for c in store.library("cutter")) if mat.family in c.feeds
    )
    # what calipers said of an earlier sheet says nothing of the next one
    stock = [
        Stock.model_validate({**{k: v for k, v in s.items() if k != "material"}, "readings": ()})
        for s in store.library("stock")
        if s.get("material") == mat.id
    ]
    thickness = stock[0].thickness if stock else 18.0
    at = _first_place(m)
    zones = default_zones(m, stock[0], Lying(at)) if stock else tuple(z.id for z in m.zones)
    if m.head is not None:
        return _on_kerf_table(store, m, mat, house, tuple(stock[:1]), at, setup_id)
    operations = propose_operations(cutters, mat, thickness, house, m)
    return Setup(
        id=setup_id,
        name=mat.name,
        machine=m,
        material=mat,
        cutters=cutters,
        holders=tuple(Holder.model_validate(h) for h in store.library("holder")),
        rules=house,
        stock=tuple(stock[:1]),
        zones_on=zones,
        sheet_at=at,
    ).with_proposal(operations)


def _on_kerf_table(
    store: Store,
    table: Machine,
    material: Material,
    house: HouseRules,
    stock: tuple[Stock, ...],
    at: tuple[float, float],
    setup_id: str,
) -> Setup:
    """A setup on a kerf table: every head setting of its process, the one that knows the material first."""
    process = table.head.process if table.head else "plasma"
    heads = [
        h for h in (HeadSetting.model_validate(x) for x in store.library("head")) if h.process == process
    ]
    named = (material.sort or material.name).lower()
    heads.sort(key=lambda h: named not in [s.lower() for s in h.sorts])
    return Setup(
        id=setup_id,
        name=material.name,
        machine=table,
        material=material,
        cutters=(),
        heads=tuple(heads),
        rules=house,
        stock=stock,
        sheet_at=at,
    )


def _first_place(machine: Machine) -> tuple[float, float]:
    """Lower left corner of the table clear of dead areas that run along its left or lower edge."""
    x = max(
        (d[2] for d in machine.dead_areas if d[0] <= 0 and d[3] - d[1] >= machine.height - 1), default=0.0
    )
    y = max((d[3] for d in machine.dead_areas if d[1] <= 0 and d[2] - d[0] >= machine.width - 1), default=0.0)
    return (x, y)


def free_id(store: Store, name: str) -> str:
    """An id for a new job of a name, which no job has or had."""
    taken, base = store.used_ids(), slug(name)
    if base not in taken:
        return base
    return next(f"{base}-{n}" for n in range(2, 10_000) if f"{base}-{n}" not in taken)


def new_job(store: Store, name: str, machine: str | None = None, material: str | None = None) -> Revision:
    """Start a job with one order and one setup."""
    if not name.strip():
        raise BadInput("the job needs a name")
    setup = new_setup(store, machine, material)
    return store.create(
        Plan(
            id=free_id(store, name),
            name=name.strip()[:200],
            orders=(Order(id="order-1", name="Order 1"),),
            setups=(setup,),
        )
    )


def add_setup(store: Store, job: str, base: int, machine: str | None, material: str) -> Revision:
    """Cut parts of a job from another material too, or on another machine.

    Raises:
        BadInput: the library has no such machine or material, or the job surfaces a board.
    """
    plan = store.get(job).plan
    if plan.kind != "parts":
        does = "surfaces a board" if plan.surface else "runs sheets of other jobs"
        raise BadInput(f"{plan.name} {does}; parts go into a job of their own")
    taken = {s.id for s in plan.setups}
    new = next(f"setup-{n}" for n in range(2, 10_000) if f"setup-{n}" not in taken)
    setup = new_setup(store, machine or plan.setups[0].machine.id, material, new)
    return store.apply(job, base, AddSetup(setup=setup))


def derive(store: Store, plan: Plan, hold: bool = True) -> dict[str, derivation.DerivedSetup]:
    """Everything that follows from a plan; ``hold`` False: only such holds as are known already."""
    return derivation.derive(plan, store.shapes, hold)


def derived_of(store: Store, revision: Revision) -> Mapping[str, derivation.DerivedSetup]:
    """What follows from a revision, all of it."""
    return derive(store, revision.plan)


def followed(store: Store, revision: Revision) -> Mapping[str, derivation.DerivedSetup]:
    """What follows from a revision, with such holds as are known already: as it was worked out when the edit
    was checked, where it was just made.
    """
    return revision.derived if revision.derived is not None else derive(store, revision.plan, hold=False)


def edited_since(store: Store, job: str, number: int) -> Callable[[], bool]:
    """Does a job have a newer revision than one? To be asked as often as one likes; it looks ten times a
    second.
    """
    looked, newer = 0.0, False

    def ask() -> bool:
        nonlocal looked, newer
        now = time.monotonic()
        if not newer and now - looked > 0.1:
            looked, newer = now, store.head(job) != number
        return newer

    return ask


def prove_setup(store: Store, plan: Plan, derived: derivation.DerivedSetup) -> list[Proof]:
    """Write every sheet's programs, read them back and hold them against plan and world; remembered while
    nothing changes.
    """
    return [prove_sheet(store, plan, derived, sheet) for sheet in derived.sheets]


@dataclass(frozen=True)
class Earlier:
    """A program that was released before, as it went out: its text and dialect, the sheet that it cuts with
    its copies, the number of the cutter in the collet, where its Z 0 is, and the names of its cuts there.
    """

    name: str
    text: str
    dialect: Dialect
    sheet: str
    copies: tuple[int, ...]
    loaded: int
    z_zero: str
    cuts: frozenset[str]
    moved: tuple[float, float] = (0.0, 0.0)
    """How far the sheet had been moved along the table, mm."""


def prove_sheet(
    store: Store,
    plan: Plan,
    derived: derivation.DerivedSetup,
    sheet: SheetPlan,
    earlier: Sequence[Earlier] = (),
) -> Proof:
    """Write a sheet's programs, read them back and hold them against plan and world; remembered while nothing
    that it follows from changes. ``earlier``: programs that went out before, of which those for this sheet
    have been run on it.
    """
    every = programs(plan, derived)
    own = [f for f in every if f.serves(sheet)]
    boards = [
        f for f in every if f.guide == "spoilboard" and (f.sheet, f.copy_no) == (sheet.sheet, sheet.copy_no)
    ]
    ran = [
        e
        for e in earlier
        if e.sheet == sheet.sheet and sheet.copy_no in e.copies and e.dialect.language == "rs-274"
    ]
    key = _proof_key(store, plan, derived.setup, sheet, own)
    if boards:
        key = digest(key, [f.text for f in boards])
    if ran:
        key = digest(key, [e.text for e in ran], [sorted(e.cuts) for e in ran])
    made = _made_before(plan, derived, sheet)
    if made:
        key = digest(key, [f.text for f in made])
    return memo("proof", key, partial(_prove, store, plan, derived, sheet, [*own, *boards], ran))


def removed_from(
    store: Store, plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan
) -> float | None:
    """mm3 that a sheet's programs take off it, run in order; remembered as its proof is."""
    own = [f for f in programs(plan, derived) if f.serves(sheet)]

    made = _made_before(plan, derived, sheet)

    def measure() -> float | None:
        subject, read_back = _read_back(store, plan, derived, sheet, own)
        before = [r.given for r in _roughed_on(store, plan, derived, sheet)]
        whole = removed_volume(subject.world(), [*before, *(p.given for p in read_back)])
        if whole is None or not before:
            return whole
        return whole - (removed_volume(subject.world(), before) or 0.0)

    key = _proof_key(store, plan, derived.setup, sheet, own)
    return memo("removed", digest(key, [f.text for f in made]) if made else key, measure)


def _made_before(plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan) -> list[ProgramFile]:
    """The programs that have cut a sheet's face when it was up before, where it is up once more."""
    first = derived.first
    if first is None or derived.setup.turned_back is None or first.cut_in(sheet) is None:
        return []
    return [f for f in programs(plan, first) if f.serves(sheet) and f.cuts]


def _roughed_on(store: Store, plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan) -> list[Ran]:
    """The same as they are read, where the sheet lay then."""
    made, first = _made_before(plan, derived, sheet), derived.first
    there = first.cut_in(sheet) if first else None
    if not made or first is None or there is None:
        return []
    read_back = _read_back(store, plan, first, there, made)[1]
    return [
        Ran(
            replace(p.given, name=f"before the turn: {p.given.name}"),
            frozenset(there.cuts[i].name for i in f.cuts),
        )
        for p, f in zip(read_back, made, strict=True)
    ]


def _proof_key(store: Store, plan: Plan, s: Setup, sheet: SheetPlan, own: list[ProgramFile]) -> str:
    shapes: list[Shape] = [store.shapes[plan.shape_of(q.part)] for q in sheet.pieces]
    return digest(
        "proof-2",
        sheet.key,
        [f.text for f in own],
        [x.digest for x in shapes],
        list(s.sheet_at),
        s.edge_at,
        s.indexing,
        s.machine,
        s.cutters,
        s.holders,
        s.screws,
        s.fixings,
        s.rules.hold.keep_clear,
        s.stock_of(sheet.sheet),
    )


def subject_of(store: Store, plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan) -> Subject:
    """What the programs of a sheet are held against."""
    whole = derived.wholes.get((sheet.sheet, sheet.copy_no))
    return Subject(plan, derived.setup, sheet, store.shapes, derived.cuts[sheet.sheet], whole)


def as_program(subject: Subject, file: ProgramFile, reading: Reading) -> Program:
    """A reading as one of a sheet's programs."""
    bare = not file.cuts and not file.guide
    run = AsRun(
        file.name, _number(subject.setup, file), file.z_zero, bare, subject.setup.shift(file.position)
    )
    given = subject.given(run, reading)
    return Program(given, tool_runs(subject.plan, subject.setup, subject.sheet, file), file.cuts)


def _prove(
    store: Store,
    plan: Plan,
    derived: derivation.DerivedSetup,
    sheet: SheetPlan,
    files: list[ProgramFile],
    earlier: Sequence[Earlier],
) -> Proof:
    boards = [f for f in files if f.guide == "spoilboard"]
    files = [f for f in files if f not in boards]
    subject, own = _read_back(store, plan, derived, sheet, files)
    made = _roughed_on(store, plan, derived, sheet)
    found = prove(subject, own, [*made, *(_ran(subject, e) for e in earlier)])
    plotted = _plotted(plan, derived, sheet, files)
    for f in boards:
        plotted += spoilboard_snags(plan, derived.setup, sheet, f)
    snags = sorted([*found.snags, *plotted], key=lambda s: derivation.RANK[s.severity])
    return replace(found, snags=tuple(snags)) if plotted else found


def _ran(subject: Subject, e: Earlier) -> Ran:
    """A program that went out before, as it reads."""
    reading = interpret(e.text, e.name, e.dialect)
    run = AsRun(f"before: {e.name}", e.loaded, e.z_zero, moved=e.moved)
    return Ran(subject.given(run, reading), e.cuts)


def _plotted(
    plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan, files: list[ProgramFile]
) -> list[Snag]:
    """What is to be said of plots: whether they draw the planned lines, and that they say no heights."""
    from venzo.formats.hpgl import strokes

    s = derived.setup
    if s.machine.dialect.language != "hpgl":
        return []
    where: Where = {"setup": s.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    out = []
    for f in files:
        wanted = [line for _pen, line in pen_lines(tool_runs(plan, s, sheet, f))]
        off = off_plan(wanted, strokes(f.text.encode(), f.name))
        if off:
            at = f"{off[0]} at {off[1]:.2f}, {off[2]:.2f} mm"
            out.append(stop("proof.plot", f"{f.name} does not draw what was planned: {at}", where))
    deepest = max((-min(c.cut.levels) for c in sheet.cuts), default=0.0)
    words = (
        f"a plot says no heights, no feeds in the work and no speeds: set the pen or cutter down to"
        f" {deepest:.2f} mm by hand; passes at several depths are drawn once"
    )
    return [*out, look("proof.heights", words, where)]


def _read_back(
    store: Store, plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan, files: list[ProgramFile]
) -> tuple[Subject, list[Program]]:
    """A sheet and its programs, as a controller reads them."""
    subject = subject_of(store, plan, derived, sheet)
    dialect = derived.setup.machine.dialect
    return subject, [
        as_program(subject, f, read(_as_moves(plan, derived, sheet, f), f.name, dialect)) for f in files
    ]


def _as_moves(plan: Plan, derived: derivation.DerivedSetup, sheet: SheetPlan, file: ProgramFile) -> str:
    """A program as moves with heights: itself, or of a plot what it is to be run as; what it draws is held
    against that apart.
    """
    s = derived.setup
    if s.machine.dialect.language == "rs-274":
        return file.text
    stock = s.stock_of(sheet.sheet)
    top = stock.thickness if stock and file.z_zero == "bed" else 0.0
    plain = Dialect(tool_change=False, offset=s.machine.dialect.offset)
    return write(tool_runs(plan, s, sheet, file), plain, [], s.machine.clearance, top)


def _number(setup: Setup, file: ProgramFile) -> int:
    """Number of the cutter in the collet when a file starts."""
    cutter = setup.cutter(file.cutters[0]) if file.cutters else None
    return cutter.number if cutter else 0


def programs(plan: Plan, derived: derivation.DerivedSetup) -> list[ProgramFile]:
    """Every program of a setup, written in its machine's dialect."""
    return release_of(plan, derived, write_program)


def zipped(files: list[tuple[str, bytes]]) -> bytes:
    """Files as one zip archive."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for name, body in files:
            z.writestr(name, body)
    return out.getvalue()
