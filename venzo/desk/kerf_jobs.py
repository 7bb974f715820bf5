"""Setups on a kerf table: what the screen shows of them, their programs, proof and paper, and coupons."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from functools import partial
from typing import Any, Literal

import numpy as np
from pydantic import Field

from venzo.core.cuts.moves import X, Y, Z, lengths
from venzo.core.derive import DerivedSetup
from venzo.core.kerf.cautions import cautions
from venzo.core.kerf.coupon import Size, corrected, coupon
from venzo.core.kerf.how import KerfChoices
from venzo.core.kerf.kerf_costs import kerf_cost
from venzo.core.kerf.kerf_cuts import kerf_cuts
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.kerf_proof import against_run, against_world, taken_apart
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.kerf.running import run
from venzo.core.memo import memo
from venzo.core.model import Document, Point, digest
from venzo.core.motion.time import move_time, path_time
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.world import Figures
from venzo.core.release.contents import Contents, PartCount
from venzo.core.release.file_names import slug
from venzo.core.release.picking import Before, Picked, PickedSheet
from venzo.core.release.programs import ProgramFile, Stamp
from venzo.core.snags import BadInput, Snag
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import touched_off
from venzo.core.tooling.head import HeadSetting, KerfMeasured, Sort
from venzo.core.voice import counted
from venzo.desk import jobs, library
from venzo.formats.kerf_program import write_kerf
from venzo.formats.kerf_sheet import KerfOnPaper, kerf_paper
from venzo.formats.rs274 import interpret
from venzo.store.store import Store


class KerfCutDrawn(Document):
    """One cut of the head on a sheet: its way as polylines (mm, y up), when it begins and how it is come to.

    ``way``: with the lead; ``came``: the way from the cut before, empty for the first; ``loosens``: ids of
    pieces that are free once it is done.
    """

    name: str
    pieces: list[str]
    contour: str
    inside: bool
    common: bool
    spot: bool
    tabbed: bool
    pierce: Point
    lead: list[Point]
    way: list[Point]
    came: list[Point]
    down: bool
    begins: float
    seconds: float
    length: float
    loosens: list[str]
    prepares: bool = False
    """It only pierces, for another cut to begin there later."""


class MisfitDrawn(Document):
    """A lead as it was asked for, where it finds no room so. ``cut``: a changed one is cut in its place;
    else ``line``, a closed polyline, is left out.
    """

    name: str
    lead: list[Point]
    cut: bool
    line: list[Point]


class RestDrawn(Document):
    """A piece or a drop that comes loose: when, and how it rests then."""

    name: str
    piece: str
    seconds: float
    state: Literal["held", "lies", "tips", "falls"]
    at: Point


class KerfSheetDocument(Document):
    """One sheet of a kerf table. Lengths mm, times s, money in the shop's currency."""

    sheet: str
    copy_no: int
    name: str
    size: Point
    pierces: int
    cut_length: float
    hop_length: float
    lift_length: float
    seconds: float
    head_on: float
    saved: float
    """mm of cut that common lines save."""
    warmest: float
    warm: float
    """Most and mean warmth that a cut finds where it begins, in seconds of arc."""
    cost: dict[str, float]
    slats: list[tuple[Point, Point]]
    cuts: list[KerfCutDrawn]
    rests: list[RestDrawn]
    misfits: list[MisfitDrawn]
    rows: int
    """How many rows of parts bridges make."""
    file: str
    proof: list[Snag]


class KerfDocument(Document):
    """How a setup on a kerf table cuts, and what follows for each of its sheets.

    ``room``: what pieces keep between them, mm; ``kerf`` to ``source``: what counts for the first sheet.
    """

    setup: str
    process: str
    choices: KerfChoices
    head: HeadSetting | None
    heads: list[HeadSetting]
    room: float
    level: int
    """Edge quality that a jet cuts at: the setup's, or the house rules'."""
    kerf: float
    feed: float
    lead_feed: float
    hop_feed: float
    pierce: float | None
    pierce_height: float
    cut_height: float
    source: str
    cautions: list[str]
    sheets: list[KerfSheetDocument]


def document(store: Store, plan: Plan, setup_id: str) -> KerfDocument:
    """What the screen shows of a setup on a kerf table.

    Raises:
        BadInput: there is no such setup, or it is on a router.
    """
    derived = _derived(store, plan, setup_id)
    s = derived.setup
    table = s.machine.head
    assert table is not None
    how, said = s.kerf_how(round(s.stock[0].thickness, 4) if s.stock else 1.0)
    return KerfDocument(
        setup=s.id,
        process=table.process,
        choices=s.kerf_cutting,
        head=s.head,
        heads=[h for h in s.heads if h.process == table.process],
        room=plan.spacing(s),
        level=s.kerf_cutting.level or s.rules.jet_level,
        kerf=how.kerf,
        feed=how.feed,
        lead_feed=how.into_at,
        hop_feed=how.hop_at,
        pierce=said.pierce,
        pierce_height=said.pierce_height,
        cut_height=said.cut_height,
        source=said.source,
        cautions=cautions(s),
        sheets=[_sheet(plan, derived, k) for k in derived.kerf],
    )


def _derived(store: Store, plan: Plan, setup_id: str) -> DerivedSetup:
    s = plan.setup(setup_id)
    if s is None:
        raise BadInput(f"the plan has no setup {setup_id!r}; it may have been removed")
    if s.machine.head is None:
        raise BadInput(f"{s.name} is cut on {s.machine.name}, a router: it has steps, not kerfs")
    return jobs.derive(store, plan)[setup_id]


def _points(way: np.ndarray) -> list[Point]:
    return [(round(float(x), 3), round(float(y), 3)) for x, y in way]


def _drawn(sheet: KerfSheet, k: int) -> KerfCutDrawn:
    done = sheet.run
    cut, way = done.cuts[k], done.ways[k]
    points = np.array(cut.line.coords)[:, :2]
    lead = np.array(cut.lead.line.coords)[:, :2] if cut.lead is not None else points[:1]
    return KerfCutDrawn(
        name=cut.name,
        pieces=[sheet.pieces[b].id for b in cut.whose],
        contour=cut.contour,
        inside=cut.inside,
        common=cut.contour == "common line",
        spot=cut.spot,
        tabbed=cut.tabbed,
        pierce=_points(np.array([cut.pierce]))[0],
        lead=_points(lead),
        way=_points(points),
        came=[] if k == 0 else _points(np.array([way.a, way.b])),
        down=way.down,
        begins=round(done.begins[k], 3),
        seconds=round(done.seconds[k], 3),
        length=round(cut.length, 3),
        loosens=[sheet.pieces[b].id for b in done.freed[k]],
        prepares=cut.prepares,
    )


def _misfits(sheet: KerfSheet) -> list[MisfitDrawn]:
    return [
        MisfitDrawn(
            name=m.name,
            lead=_points(np.array(m.lead.line.coords)[:, :2]),
            cut=m.cut,
            line=[] if m.cut else _points(np.array(m.line.boundary.coords)[:, :2]),
        )
        for m in sheet.planned.misfits
    ]


def _slats(setup: Setup, stock: Stock) -> list[tuple[Point, Point]]:
    """The bars under a sheet, in its coordinates."""
    table = setup.machine.head
    if table is None or table.slats is None:
        return []
    lies = setup.lying
    x0, y0, x1, y1 = lies.bounds(stock.width, stock.height)
    along_y = table.slats.along == "y"
    ends = []
    for at in table.slats.places(x0 if along_y else y0, x1 if along_y else y1):
        bar = [(at, y0), (at, y1)] if along_y else [(x0, at), (x1, at)]
        a, b = _points(lies.on_sheet(np.array(bar)))
        ends.append((a, b))
    return ends


def _sheet(plan: Plan, derived: DerivedSetup, sheet: KerfSheet) -> KerfSheetDocument:
    s = derived.setup
    stock = s.stock_of(sheet.sheet)
    assert stock is not None
    done = sheet.run
    file = program(plan, derived, sheet)
    cost = kerf_cost(s, done.time, done.head_on, done.pierces)
    return KerfSheetDocument(
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        name=stock.name,
        size=(stock.width, stock.height),
        pierces=done.pierces,
        cut_length=done.cut_length,
        hop_length=done.hop_length,
        lift_length=done.lift_length,
        seconds=done.time,
        head_on=done.head_on,
        saved=sheet.planned.common.saved,
        warmest=done.heat.most,
        warm=done.heat.mean,
        cost={**asdict(cost), "total": cost.total},
        slats=_slats(s, stock),
        cuts=[_drawn(sheet, k) for k in range(len(done.cuts))],
        rests=[
            RestDrawn(
                name=x.name,
                piece=x.piece,
                seconds=round(x.seconds, 3),
                state=x.state,
                at=(round(x.x, 3), round(x.y, 3)),
            )
            for x in sheet.loosened
        ],
        misfits=_misfits(sheet),
        rows=len(sheet.planned.rows),
        file=file.name,
        proof=prove(derived, sheet, file),
    )


def program(plan: Plan, derived: DerivedSetup, sheet: KerfSheet) -> ProgramFile:
    """The program of one sheet."""
    s = derived.setup
    stock = s.stock_of(sheet.sheet)
    assert stock is not None
    number = derived.kerf.index(sheet) + 1
    setup = f"_{slug(s.name)}" if len(plan.setups) > 1 else ""
    name = f"{slug(plan.name)}{setup}_s{number}_kerf.{s.machine.dialect.ending}"
    head = s.head
    header = [
        f"{plan.name}, {s.name}, sheet {number} of {len(derived.kerf)}",
        f"{stock.name} {stock.width:g} x {stock.height:g} x {stock.thickness:.2f} mm",
        f"head: {head.name}" if head else "head: none",
        f"kerf {sheet.how.kerf:.3f} mm ({sheet.said.source}), feed {sheet.how.feed:.0f} mm/min",
        f"{counted(sheet.run.pierces, 'pierce')}, {sheet.run.cut_length / 1000:.2f} m with the head on",
    ]

    def write() -> str:
        return write_kerf(sheet.run, sheet.how, header, s.machine.dialect, s.lying, datum_on_sheet(s, stock))

    text = memo("kerf-program", digest(sheet.key, header, s.machine.dialect, s.datum), write)
    return ProgramFile(
        name,
        text,
        sheet.sheet,
        sheet.copy_no,
        (head.id,) if head else (),
        sheet.run.time,
        (sheet.copy_no,),
        cuts=tuple(range(len(sheet.run.cuts))),
    )


def programs(plan: Plan, derived: DerivedSetup, sheets: Sequence[KerfSheet]) -> list[ProgramFile]:
    """The programs of some of a setup's sheets, one each."""
    return [program(plan, derived, sheet) for sheet in sheets]


def prove(derived: DerivedSetup, sheet: KerfSheet, file: ProgramFile) -> list[Snag]:
    """A sheet's program read back and held against plan and world; remembered while nothing changes."""
    return memo("kerf-proof", digest(sheet.key, file.text), partial(_proven, derived, sheet, file))


def _proven(derived: DerivedSetup, sheet: KerfSheet, file: ProgramFile) -> list[Snag]:
    s = derived.setup
    found, _sums = held_against(derived, sheet, file.name, file.text)
    at = {"setup": s.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no, "file": file.name}
    part_of = {b.name: q.part for b, q in zip(sheet.bodies, sheet.pieces, strict=True)}
    out = []
    for x in found:
        where: Any = {**(x.where or {}), **at}
        if where.get("part") in part_of:
            where["part"] = part_of[where["part"]]
        out.append(x.model_copy(update={"where": where}))
    return out


def held_against(derived: DerivedSetup, sheet: KerfSheet, name: str, text: str) -> tuple[list[Snag], Figures]:
    """Any program held against a sheet's plan and its parts, and its sums, places from the program's zero.

    Raises:
        BadInput: it is no program at all.
    """
    s = derived.setup
    stock = s.stock_of(sheet.sheet)
    assert stock is not None
    reading = interpret(text, name, s.machine.dialect)
    told = taken_apart(reading, s.lying, datum_on_sheet(s, stock), s.machine.dialect.offset or "G54")
    found = [
        *told.snags,
        *against_run(told, sheet.run),
        *against_world(told, sheet.bodies, sheet.how, sheet.plate, sheet.planned.left_out, sheet.joined),
    ]
    axes, moves = s.machine.axes, reading.moves
    burnt = sum(path_time(b.moves, axes)[0] for b in told.burns)
    ways = [(a, b, slow) for burn in told.burns for a, b, slow in burn.came]
    between = sum(
        move_time(
            float(np.hypot(b[0] - a[0], b[1] - a[1])),
            sheet.how.hop_at if slow else axes.rapid,
            axes.acceleration,
        )
        for a, b, slow in ways
    )
    at = moves[:, [X, Y, Z]] if len(moves) else np.zeros((0, 3))
    return found, Figures(
        moves=len(moves),
        lowest=at.min(axis=0) if len(at) else np.zeros(3),
        highest=at.max(axis=0) if len(at) else np.zeros(3),
        cut_length=sum(float(lengths(b.moves).sum()) for b in told.burns),
        rapid_length=sum(float(np.hypot(b[0] - a[0], b[1] - a[1])) for a, b, _s in ways),
        seconds=burnt + between,
        tools=[],
    )


def proofs(plan: Plan, derived: DerivedSetup) -> list[Snag]:
    """What the programs of all sheets give cause to say."""
    return [x for sheet in derived.kerf for x in prove(derived, sheet, program(plan, derived, sheet))]


def prints(sheet: KerfSheet) -> dict[str, str]:
    """By the name of every cut of a sheet: digest of where it goes, how fast, by which kerf."""

    def make() -> dict[str, str]:
        return {
            c.name: digest(np.round(c.moves, 4).tolist(), round(sheet.how.kerf, 4))[:24]
            for c in sheet.run.cuts
        }

    return memo("kerf-prints", sheet.key, make)


def due(derived: DerivedSetup, before: Before, picked: Picked) -> list[KerfSheet]:
    """The sheets of a setup that a release takes: a kerf table's programs go out by whole sheets.

    Those asked for by name, or all; of them those of which something did not go out yet, or is otherwise
    since. A part by pieces, parts or tools holds none of them.
    """
    if picked.which == "spoilt" or not (picked.whole or picked.sheets):
        return []
    out = []
    for sheet in derived.kerf:
        here = PickedSheet(setup=derived.setup.id, sheet=sheet.sheet, copy_no=sheet.copy_no)
        if picked.sheets is not None and here not in picked.sheets:
            continue
        now = prints(sheet)
        missing = any(name not in before for name in now)
        changed = any(name in before and before[name].prints != p for name, p in now.items())
        if picked.which == "everything" or missing or (changed and picked.which == "left over and changed"):
            out.append(sheet)
    return out


def contents(plan: Plan, derived: DerivedSetup, sheets: Sequence[KerfSheet], stops: list[str]) -> Contents:
    """What the release of some of a setup's sheets contains and leaves out."""
    names = {p.id: p.name for p in plan.parts}
    cut: dict[str, int] = {}
    for sheet in sheets:
        for q in sheet.pieces:
            cut[q.part] = cut.get(q.part, 0) + 1
    left = [f"{names[p]}: {n} not placed" for p, n in derived.layout.unplaced.items()]
    left += [
        f"{sheet.bodies[b].name}, {c}: no kerf goes round it"
        for sheet in sheets
        for b, c in sorted(sheet.planned.left_out)
    ]
    return Contents(
        setup=derived.setup.name,
        contains=[
            PartCount(part=names[p], pieces=n) for p, n in sorted(cut.items(), key=lambda v: names[v[0]])
        ],
        cuts=sum(sheet.run.pierces for sheet in sheets),
        sheets=len(sheets),
        layouts=len(sheets),
        leaves_out=left,
        stops=stops,
    )


def paper(
    plan: Plan, derived: DerivedSetup, sheets_out: Sequence[KerfSheet], held: bool, stamp: Stamp
) -> tuple[str, bytes]:
    """The kerf sheet of some of a setup's sheets as a PDF; ``held``: its programs are withheld."""
    s = derived.setup
    sheets = []
    for n, sheet in enumerate(derived.kerf, 1):
        if sheet not in sheets_out:
            continue
        stock = s.stock_of(sheet.sheet)
        assert stock is not None
        file = program(plan, derived, sheet)
        own = [x for x in derived.snags if (x.where or {}).get("sheet") in (None, sheet.sheet)]
        sheets.append(
            KerfOnPaper(
                n,
                len(derived.kerf),
                sheet,
                stock,
                "" if held else file.name,
                touched_off(s.datum, s.machine, s.lying, lambda v: f"{v:g} mm"),
                kerf_cost(s, sheet.run.time, sheet.run.head_on, sheet.run.pierces),
                [*own, *prove(derived, sheet, file)],
            )
        )
    title = f"{plan.name} ({stamp.words()})"
    name = f"{slug(plan.name)}_{slug(s.name)}_kerf-sheet.pdf"
    return name, kerf_paper(title, s, sheets, cautions(s))


class CouponAsk(Document):
    """Sizes measured on a coupon; ``on``: the day, ``note``: what it was cut from; ``keep``: put it into the
    history of the library's head setting.
    """

    head: str
    sort: Sort
    thickness: float = Field(gt=0, le=300)
    taken: float = Field(gt=0.01, le=20)
    sizes: list[Size] = Field(min_length=1, max_length=200)
    on: date
    note: str = Field(default="", max_length=200)
    keep: bool = False


class CouponSaid(Document):
    """What the sizes say, mm: the kerf, the scatter of single sizes, one standard error of the kerf, by how
    much outsides and insides came out larger than drawn, and an allowance that a part comes out no smaller
    with; ``history``: kerfs measured for this head.
    """

    kerf: float
    scatter: float
    unsure: float
    outside: float | None
    inside: float | None
    allowance: float
    history: list[KerfMeasured]


def measured(store: Store, ask: CouponAsk) -> CouponSaid:
    """The kerf that measured sizes tell; kept in the head's history where that is asked for.

    Raises:
        BadInput: no such head, no sizes, or sizes that no kerf explains.
    """
    heads = [HeadSetting.model_validate(h) for h in store.library("head")]
    head = next((h for h in heads if h.id == ask.head), None)
    if head is None:
        raise BadInput(f"the library has no head setting {ask.head!r} any more")
    found = corrected(ask.taken, ask.sizes)
    line = KerfMeasured(
        sort=ask.sort,
        thickness=ask.thickness,
        kerf=round(found.kerf, 4),
        scatter=round(found.scatter, 4),
        sizes=len(ask.sizes),
        on=ask.on,
        note=ask.note,
    )
    if ask.keep:
        head = head.model_copy(update={"measured": (*head.measured, line)})
        with store.shelf:
            library.shelve(store, "head", head, f"kerf of {line.kerf:g} mm measured in {line.sort}")
    return CouponSaid(**asdict(found), history=list(head.measured))


def coupon_program(store: Store, plan: Plan, setup_id: str) -> tuple[str, str]:
    """A coupon's program with the setup's own kerf, zero at its lower left corner: name and text.

    Raises:
        BadInput: there is no such setup, or it is on a router.
    """
    s = _derived(store, plan, setup_id).setup
    how = s.kerf_how(round(s.stock[0].thickness, 4) if s.stock else 1.0)[0]
    how = how.model_copy(update={"tabs": how.tabs.model_copy(update={"count": 0}), "common_line": False})
    gap = 2 * how.lead + 4 * how.kerf
    bodies = [Body(f"coupon {n}", r.placed(gap, gap)) for n, r in enumerate(coupon(gap), 1)]
    planned = kerf_cuts(bodies, how)
    done = run(planned.cuts, bodies, how, s.machine.axes, lift=s.machine.head.lift if s.machine.head else 0)
    header = [f"coupon for {s.name}: kerf taken {how.kerf:.3f} mm; measure outsides and holes"]
    return f"coupon_{slug(s.name)}.{s.machine.dialect.ending}", write_kerf(
        done, how, header, s.machine.dialect
    )
