"""Programs of a setup, and the word on what they contain and what they leave out."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial

import numpy as np

from venzo.core.cuts.moves import PLANE
from venzo.core.cuts.rounds import drill_moves
from venzo.core.cuts.track import Track
from venzo.core.derive import DerivedSetup
from venzo.core.memo import memo
from venzo.core.model import Document, Point, digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan, file_of
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.program import ToolRun
from venzo.core.stock.machine import Dialect
from venzo.core.stock.zeros import called, turned
from venzo.core.tooling.cutter import Cutter
from venzo.core.units import show_length
from venzo.core.voice import counted


@dataclass(frozen=True)
class ProgramFile:
    """One program: file name, text, the sheet it cuts (``copies``: all sheets with this very layout) and the
    cutters it loads.
    """

    name: str
    text: str
    sheet: str
    copy_no: int
    cutters: tuple[str, ...]
    seconds: float
    copies: tuple[int, ...] = ()
    z_zero: str = "top"
    cuts: tuple[int, ...] = ()
    """Indices of the sheet's cuts that it makes; none: it drills the marks of screws."""

    def serves(self, sheet: SheetPlan) -> bool:
        """Is this (one of) the sheet's program(s)?"""
        return self.sheet == sheet.sheet and sheet.copy_no in (self.copies or (self.copy_no,))


@dataclass(frozen=True)
class Stamp:
    """Which revision of the plan a paper is of, when and by whom it was made."""

    revision: int
    made: datetime | None = None
    author: str = ""

    def words(self) -> str:
        """For the head of a page."""
        when = f" of {self.made:%Y-%m-%d %H:%M}" if self.made else ""
        return f"plan revision {self.revision}{when}{f', {self.author}' if self.author else ''}"


def slug(text: str) -> str:
    """Letters, digits and dashes only, for file names.

    >>> slug("Hide, wall ribs & bench ends")
    'hide-wall-ribs-bench-ends'
    """
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40].strip("-") or "job"


Writer = Callable[[list[ToolRun], Dialect, Iterable[str], float, float], str]
"""Writes a program: what each cutter does, the dialect, lines for people, the height of fast moves and where
Z 0 lies over the moves' zero, mm.
"""


def programs(plan: Plan, derived: DerivedSetup, write: Writer | None = None) -> list[ProgramFile]:
    """Every program of a setup: one a layout (sheets that carry the same share it), or one a layout and
    cutter where the machine has no changer.

    ``write`` None lists them with empty texts, which is quick.
    """
    out = []
    alike = same_cuts(derived.sheets)
    for n, sheet in enumerate(derived.sheets, 1):
        out += marks_program(plan, derived, sheet, n, write)
        copies = alike.get(n - 1)
        if copies is None:
            continue
        first = 0
        for k, run in enumerate(_runs(derived.setup, sheet), 1):
            file = replace(
                _listed(plan, derived.setup, sheet, n, k, run, copies),
                cuts=tuple(range(first, first + len(run))),
            )
            first += len(run)
            if write is not None:
                s = derived.setup
                key = digest(
                    sheet.key,
                    file.name,
                    len(copies),
                    plan.name,
                    s.name,
                    s.datum,
                    list(s.sheet_at),
                    s.edge_at,
                    s.first_run,
                    s.z_zero,
                    s.machine,
                    s.stock_of(sheet.sheet),
                    s.cutters,
                    s.material,
                    [p.name for p in plan.parts],
                )
                file = replace(
                    file,
                    text=memo("program", key, partial(_text, write, plan, s, sheet, n, k, run, len(copies))),
                )
            out.append(file)
    return out


MARK = 1.5
"""mm; depth of the marks in which screws are set."""


def marks_program(
    plan: Plan, derived: DerivedSetup, sheet: SheetPlan, n: int, write: Writer | None
) -> list[ProgramFile]:
    """A program that drills shallow marks where the marked screws of a sheet go; none where there are none,
    or no cutter can drill them.
    """
    setup = derived.setup
    screws = [s for s in setup.screws if s.marked and s.on(sheet.sheet, sheet.copy_no)]
    fit = [
        c
        for c in setup.cutters
        if c.kind in ("drill", "v-bit", "up-cut", "single-flute", "straight", "down-cut")
        and c.centre_cutting
        and setup.material.family in c.feeds
    ]
    stock = setup.stock_of(sheet.sheet)
    if not screws or not fit or stock is None:
        return []
    cutter = min(fit, key=lambda c: (c.kind not in ("drill", "v-bit"), c.kind != "drill", c.diameter))
    job = slug(plan.name) if len(plan.setups) == 1 else f"{slug(plan.name)}_{slug(setup.name)}"
    k_mm = 25.4 if setup.machine.dialect.inch else 1.0
    size = f"{stock.width / k_mm:.0f}x{stock.height / k_mm:.0f}"
    name = f"{size}_{job}_s{n}_00_screw-marks_t{cutter.number}.{setup.machine.dialect.ending}"
    seconds = setup.machine.change_seconds + 3.0 * len(screws)
    file = ProgramFile(name, "", sheet.sheet, sheet.copy_no, (cutter.id,), seconds, (), setup.z_zero)
    if write is None:
        return [file]
    zero = "top of the material" if setup.z_zero == "top" else "bed (spoilboard)"
    header = [
        f"VENZO {plan.name}",
        f"setup {setup.name}; sheet {n}; screw marks",
        f"X0 Y0 {_zero(setup)}; Z0 {zero}",
        *_lies_crooked(setup),
        f"units {'inch' if setup.machine.dialect.inch else 'millimetre'}; {setup.machine.name}",
        f"T{cutter.number} {cutter.name}",
        "screw into the marks with the spindle stopped, then run the other files",
    ]
    text = write(
        _mark_runs(setup, sheet, cutter),
        setup.machine.dialect,
        header,
        setup.machine.clearance,
        0.0 if setup.z_zero == "top" else stock.thickness,
    )
    return [replace(file, text=text)]


def _zero(setup: Setup) -> str:
    """Where X0 Y0 lies, in the words of a header."""
    unit = "in" if setup.machine.dialect.inch else "mm"
    return called(setup.datum, setup.machine, lambda v: show_length(v, unit))


def _lies_crooked(setup: Setup) -> list[str]:
    """The line of a header that tells of a turned program."""
    if not setup.lying.turn:
        return []
    return [f"written for a sheet that lies turned {turned(setup.lying)}: not for another"]


def _mark_runs(setup: Setup, sheet: SheetPlan, cutter: Cutter) -> list[ToolRun]:
    """What the program of screw marks does."""
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    datum = datum_on_sheet(setup, stock)
    feeds = cutter.feeds[setup.material.family]
    screws = [s for s in setup.screws if s.marked and s.on(sheet.sheet, sheet.copy_no)]
    track = Track(setup.machine.retract, feeds.feed, feeds.plunge)
    cuts = [
        (
            f"mark for {s.kind} {s.id}",
            setup.lying.moves_from(drill_moves(s.x, s.y, MARK, MARK, track), datum, PLANE),
        )
        for s in screws
    ]
    return [ToolRun(cutter.number, cutter.name, feeds.rpm, cuts)]


def tool_runs(plan: Plan, setup: Setup, sheet: SheetPlan, file: ProgramFile) -> list[ToolRun]:
    """What a program is to do, cutter by cutter, in program X and Y with Z 0 at the top of the stock: what is
    written, and what a file is held against.
    """
    if not file.cuts:
        cutter = setup.cutter(file.cutters[0])
        assert cutter is not None
        return _mark_runs(setup, sheet, cutter)
    return _runs_of(plan, setup, sheet, [sheet.cuts[i] for i in file.cuts])


def _runs_of(plan: Plan, setup: Setup, sheet: SheetPlan, cuts: Sequence[PlacedCut]) -> list[ToolRun]:
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    datum = datum_on_sheet(setup, stock)
    runs: list[ToolRun] = []
    names = {p.id: p.name for p in plan.parts}
    for c in cuts:
        cutter = setup.cutter(c.cut.cutter)
        assert cutter is not None
        moves = setup.lying.moves_from(c.moves, datum, PLANE)
        label = (
            f"{names.get(c.piece.part, c.piece.part)} piece {c.piece.copy_no + 1}: {c.cut.contour},"
            f" {c.cut.kind}"
        )
        if not runs or runs[-1].number != cutter.number or runs[-1].rpm != c.cut.rpm:
            runs.append(ToolRun(cutter.number, cutter.name, c.cut.rpm, []))
        if c.stop:
            stops = {**runs[-1].stops, len(runs[-1].cuts): c.stop}
            runs[-1] = replace(runs[-1], stops=stops)
        runs[-1].cuts.append((label, moves))
    return _parked(runs, setup, sheet, datum)


def _parked(runs: list[ToolRun], setup: Setup, sheet: SheetPlan, datum: Point) -> list[ToolRun]:
    """The runs of a program, the last of which goes home where the sheet's programs do."""
    if sheet.goes_to is None or not runs:
        return runs
    x, y = setup.lying.moves_from(np.array([sheet.goes_to]), datum, ((0, 1),))[0].tolist()
    return [*runs[:-1], replace(runs[-1], park=(x, y))]


def moves_print(sheet: SheetPlan) -> str:
    """Digest of what a sheet's cuts are and how they move, to 0.0001 mm: equal for sheets that one program
    serves.
    """

    def make() -> str:
        hashed = hashlib.blake2b(digest_size=16)
        for c in sheet.cuts:
            told = (c.piece.part, c.cut.contour, c.cut.cutter, len(c.moves), c.stop)
            hashed.update("|".join(map(str, told)).encode())
            hashed.update(np.round(c.moves, 4).tobytes())
        return hashed.hexdigest()

    return memo("moves print", sheet.key, make)


def same_cuts(sheets: Sequence[SheetPlan]) -> dict[int, tuple[int, ...]]:
    """Index of the first sheet of each layout -> copy numbers of all sheets whose cuts are move for move the
    same.
    """
    first: dict[tuple[str, str], int] = {}
    out: dict[int, list[int]] = {}
    for i, s in enumerate(sheets):
        out.setdefault(first.setdefault((s.sheet, moves_print(s)), i), []).append(s.copy_no)
    return {i: tuple(copies) for i, copies in out.items()}


def _runs(setup: Setup, sheet: SheetPlan) -> list[list]:
    """Consecutive cuts of one file: all of them where the machine changes cutters itself, else by cutter;
    another Z zero, the end of the trial and, if so wished, the step from insides to outlines start another.
    """
    runs: list[list] = []
    last: tuple[object, ...] | None = None
    for c in sheet.cuts:
        key = file_of(setup, c.cut, c.trial, c.outline)
        if key != last:
            runs.append([])
            last = key
        runs[-1].append(c)
    return runs


def _listed(
    plan: Plan, setup: Setup, sheet: SheetPlan, n: int, k: int, cuts: list, copies: tuple[int, ...]
) -> ProgramFile:
    sheet_cuts = sheet.cuts
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    used = list(dict.fromkeys(c.cut.cutter for c in cuts))
    job = slug(plan.name) if len(plan.setups) == 1 else f"{slug(plan.name)}_{slug(setup.name)}"
    tools = "-".join(f"t{c.number}" for c in setup.cutters_named(used))
    times = f"x{len(copies)}" if len(copies) > 1 else ""
    zero = cuts[0].cut.z_zero or setup.z_zero
    mixed = {c.cut.z_zero or setup.z_zero for c in sheet_cuts} != {setup.z_zero}
    what = ("_trial" if cuts[0].trial else "") + (
        ("_outlines" if cuts[0].outline else "_insides") if setup.insides_apart else ""
    )
    k_mm = 25.4 if setup.machine.dialect.inch else 1.0
    size = f"{stock.width / k_mm:.0f}x{stock.height / k_mm:.0f}"
    by_zero = f"_z-{zero}" if mixed else ""
    name = f"{size}_{job}_s{n}{times}_{k:02d}{what}_{tools}{by_zero}.{setup.machine.dialect.ending}"
    return ProgramFile(
        name, "", sheet.sheet, sheet.copy_no, tuple(used), sum(c.takes for c in cuts), copies, zero
    )


def _text(
    write: Writer, plan: Plan, setup: Setup, sheet: SheetPlan, n: int, k: int, cuts: list, times: int
) -> str:
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    runs = _runs_of(plan, setup, sheet, cuts)
    unit = "in" if setup.machine.dialect.inch else "mm"
    used = list(dict.fromkeys(c.cut.cutter for c in cuts))
    depth = max((-min(c.cut.levels) for c in cuts), default=0.0)
    zero = cuts[0].cut.z_zero or setup.z_zero
    at = "top of the material" if zero == "top" else "bed (spoilboard)"
    if zero != setup.z_zero:
        at += "; NOT AS THE OTHER FILES: touch off again"
    header = [
        f"VENZO {plan.name}",
        f"setup {setup.name}; sheet {n}; file {k}",
        *([f"this layout is cut {times} times, on {times} sheets"] if times > 1 else []),
        f"stock {stock.name} {show_length(stock.width, unit)} x {show_length(stock.height, unit)}",
        (
            f"thickness {show_length(stock.thickness, unit)} {'measured' if stock.readings else 'nominal'};"
            f" deepest cut {show_length(depth, unit)}"
        ),
        f"X0 Y0 {_zero(setup)}; Z0 {at}",
        *_lies_crooked(setup),
        f"units {'inch' if setup.machine.dialect.inch else 'millimetre'}; {setup.machine.name}",
        *([f"first run at {setup.first_run:g} % feed override"] if setup.first_run < 100 else []),
        *(f"stops for the operator: {c.stop}" for c in cuts if c.stop),
        *(f"T{c.number} {c.name} D{show_length(c.diameter, unit)}" for c in setup.cutters_named(used)),
        f"{counted(len({c.piece.id for c in cuts}), 'piece')}, {counted(len(cuts), 'cut')}",
    ]
    return write(
        runs,
        setup.machine.dialect,
        header,
        setup.machine.clearance,
        0.0 if zero == "top" else stock.thickness,
    )


class PartCount(Document):
    """Pieces of a part, by its name."""

    part: str
    pieces: int


class Contents(Document):
    """What the release of a setup contains and what it leaves out, by name and number."""

    setup: str
    contains: list[PartCount]
    cuts: int
    sheets: int
    layouts: int
    leaves_out: list[str]
    stops: list[str]


def contents(plan: Plan, derived: DerivedSetup) -> Contents:
    """What the release contains and what it leaves out, by name and number."""
    names = {p.id: p.name for p in plan.parts}
    cut: dict[str, int] = {}
    for s in derived.sheets:
        for q in s.pieces:
            cut[q.part] = cut.get(q.part, 0) + 1
    left = [f"{names[p]}: {n} not placed" for p, n in derived.layout.unplaced.items()]
    left += [f"{p.name}: none wanted" for p in plan.parts_of(derived.setup.id) if not p.quantity]
    left += [
        f"{p.name}: missing from the newer drawing" for p in plan.parts_of(derived.setup.id) if p.missing
    ]
    seen = dict.fromkeys(w for parts in derived.cuts.values() for pc in parts.values() for w in pc.left_out)
    stops = [s.message for s in derived.snags if s.severity == "stop"]
    return Contents(
        setup=derived.setup.name,
        contains=[
            PartCount(part=names[p], pieces=n) for p, n in sorted(cut.items(), key=lambda kv: names[kv[0]])
        ],
        cuts=sum(len(s.cuts) for s in derived.sheets),
        sheets=len(derived.sheets),
        layouts=len(same_cuts(derived.sheets)),
        leaves_out=[*left, *seen],
        stops=stops,
    )
