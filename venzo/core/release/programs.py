"""Programs of a setup: which there are, what each holds, and their text."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import partial
from typing import Literal

import numpy as np

from venzo.core.cuts.moves import PLANE
from venzo.core.cuts.rounds import drill_moves
from venzo.core.cuts.track import Track
from venzo.core.derive import DerivedSetup
from venzo.core.faces.registration import Dowels, JigCorner
from venzo.core.faces.seen import face_before
from venzo.core.faces.turn import turn_of
from venzo.core.indexing.positions import brought_says
from venzo.core.memo import memo
from venzo.core.model import Point, digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan, file_of
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.program import ToolRun
from venzo.core.release.file_names import filled, slug, told_apart
from venzo.core.release.guides import Guide, Guides, IndexGuides, guides_of
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.sheet import Stock
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
    """Indices of the sheet's cuts that it makes; none: it drills the marks of screws, or holes for dowels."""
    guide: Literal["", "spoilboard", "stock"] = ""
    """In what it makes holes for dowels."""
    position: int = 0
    """Of stock that is moved along the table: at which of its positions it is run, from 0."""

    def serves(self, sheet: SheetPlan) -> bool:
        """Is this (one of) the sheet's program(s)? Holes in the spoilboard are nobody's."""
        return (
            self.guide != "spoilboard"
            and self.sheet == sheet.sheet
            and sheet.copy_no in (self.copies or (self.copy_no,))
        )


@dataclass(frozen=True)
class Stamp:
    """Which revision of the plan a paper is of, when and by whom it was made; ``release``: with which release
    of the job it goes out, 0: with none that is kept.
    """

    revision: int
    made: datetime | None = None
    author: str = ""
    release: int = 0

    def words(self) -> str:
        """For the head of a page."""
        when = f" of {self.made:%Y-%m-%d %H:%M}" if self.made else ""
        return f"plan revision {self.revision}{when}{f', {self.author}' if self.author else ''}"


GUIDES: tuple[Guide, ...] = ("spoilboard", "stock")
"""The order in which holes for dowels are made."""
Writer = Callable[[list[ToolRun], Dialect, Iterable[str], float, float, Sequence[int]], str]
"""Writes a program: what each cutter does, the dialect, lines for people, the height of fast moves and where
Z 0 lies over the moves' zero, mm, and the numbers of the vacuum zones that are on.
"""


def programs(plan: Plan, derived: DerivedSetup, write: Writer | None = None) -> list[ProgramFile]:
    """Every program of a setup: one a layout (sheets that carry the same share it), or one a layout and
    cutter or operation where the machine has no changer or the setup asks for that.

    ``write`` None lists them with empty texts, which is quick.
    """
    whole = _Whole(plan, derived, write)
    alike = same_cuts(derived.sheets)
    out: list[ProgramFile] = []
    guides = guides_of(plan, derived.setup)
    for i, (n, sheet) in enumerate(derived.numbered):
        before = derived.begun.get((sheet.sheet, sheet.copy_no), 0)
        if not before:  # marks are drilled before all else, once
            out += marks_program(plan, derived, sheet, n, write)
        first_of_stock = all(s.sheet != sheet.sheet for s in derived.sheets[:i])
        if guides and not before and first_of_stock:
            made = guides_programs(plan, derived, guides, (n, sheet), write)
            out += made
            before = len(made)
        if derived.setup.indexing is not None:
            if i in alike:
                out += _at_each_position(whole, guides, File(sheet, n, before, (), 0, alike[i]))
            continue
        for earlier in derived.turns_before:  # files are numbered over the turns
            before += _numbered_before(programs(plan, earlier), sheet, earlier)
        if derived.setup.in_jig and i in alike:
            before += len(out)
        if i in alike:
            out += [
                whole.file(File(sheet, n, k, cuts, first, alike[i]))
                for k, (first, cuts) in enumerate(_runs(derived.setup, sheet), 1 + before)
            ]
    stems = told_apart(f.name.rsplit(".", 1)[0] for f in out)
    ending = derived.setup.machine.dialect.ending
    return [replace(f, name=f"{stem}.{ending}") for f, stem in zip(out, stems, strict=True)]


def _numbered_before(files: Sequence[ProgramFile], sheet: SheetPlan, earlier: DerivedSetup) -> int:
    """How many files of a turn go before those of a sheet in another: where its pieces are turned one by one,
    as many as the fullest sheet of the first turn has.
    """
    if earlier.setup.role is None or not earlier.setup.role.singly:
        return sum(f.serves(sheet) or f.guide != "" for f in files)
    return max((sum(f.serves(s) or f.guide != "" for f in files) for s in earlier.sheets), default=0)


def _at_each_position(whole: _Whole, guides: Guides | None, on: File) -> list[ProgramFile]:
    """The programs of a sheet that is moved along the table, position by position: the holes by which it lies
    at the next, then the cuts. ``on``: the sheet, and how many files went before.
    """
    out: list[ProgramFile] = []
    stock = whole.derived.setup.stock_of(on.sheet.sheet)
    assert stock is not None
    runs = _runs(whole.derived.setup, on.sheet)
    last = max(on.sheet.positions, default=0)
    for position in range(last + 1):
        if guides is not None and position < last:
            for own in _guide_runs(guides, "stock", stock, position):
                order = on.order + len(out) + 1
                bores = _GuideFile("stock", own, on.sheet, on.number, order, on.copies, position)
                out.append(_guide_file(whole.plan, whole.derived, guides, bores, whole.write))
        for first, cuts in runs:
            if cuts[0].position == position:
                order = on.order + len(out) + 1
                out.append(whole.file(replace(on, order=order, cuts=cuts, first=first)))
    return out


@dataclass(frozen=True)
class File:
    """A program to be: the sheet with its number, the file's own number in running order, its cuts with the
    index of the first, and the sheets that it serves.
    """

    sheet: SheetPlan
    number: int
    order: int
    cuts: Sequence[PlacedCut]
    first: int
    copies: tuple[int, ...]


@dataclass(frozen=True)
class _Whole:
    """The setup whose programs are listed, and what writes them."""

    plan: Plan
    derived: DerivedSetup
    write: Writer | None

    def file(self, f: File) -> ProgramFile:
        s = self.derived.setup
        zero = f.cuts[0].cut.z_zero or s.z_zero
        used = tuple(dict.fromkeys(c.cut.cutter for c in f.cuts))
        made = ProgramFile(
            name_of(self.plan, self.derived, f.sheet.sheet, self._words(f, zero, used)),
            "",
            f.sheet.sheet,
            f.sheet.copy_no,
            used,
            sum(c.takes for c in f.cuts) - _moving(s, f),
            f.copies,
            zero,
            tuple(range(f.first, f.first + len(f.cuts))),
            position=f.cuts[0].position,
        )
        if self.write is None:
            return made
        stock = s.stock_of(f.sheet.sheet)
        assert stock is not None
        key = digest(
            "program-3",
            f.sheet.key,
            f.number,
            f.order,
            [f.first, len(f.cuts)],
            len(f.copies),
            self.plan.name,
            s.name,
            _face(self.plan, s, stock),
            s.datum,
            list(s.sheet_at),
            s.edge_at,
            s.indexing,
            s.first_run,
            s.z_zero,
            s.zones_on,
            s.machine,
            s.stock_of(f.sheet.sheet),
            s.cutters,
            s.material,
            [p.name for p in self.plan.parts],
        )
        return replace(made, text=memo("program", key, partial(_text, self.write, self.plan, s, f)))

    def _words(self, f: File, zero: str, used: Sequence[str]) -> dict[str, str]:
        """What stands for the words of the house pattern."""
        s = self.derived.setup
        mixed = {c.cut.z_zero or s.z_zero for c in f.sheet.cuts} != {s.z_zero}
        told = dict.fromkeys(map(slug, dict.fromkeys(c.cut.kind for c in f.cuts)))
        what = [
            f"position-{f.cuts[0].position + 1}" if s.indexing and len(f.sheet.positions) > 1 else "",
            "trial" if f.cuts[0].trial else "",
            ("outlines" if f.cuts[0].outline else "insides") if s.insides_apart else "",
            "-".join(told) if s.files_by == "operation" or (s.role and len(told) <= MOST_TOLD) else "",
            f"z-{zero}" if mixed else "",
        ]
        return {
            "sheet": self._sheet(f) + (f"x{len(f.copies)}" if len(f.copies) > 1 else ""),
            "order": f"{f.order:02d}",
            "what": "_".join(w for w in what if w),
            "cutter": "-".join(f"t{c.number}" for c in s.cutters_named(used)),
        }

    def _sheet(self, f: File) -> str:
        """Which sheet it is: by number, or the part that is turned by itself."""
        stock = self.derived.setup.stock_of(f.sheet.sheet)
        if self.derived.setup.in_jig and stock is not None:
            return f"-{slug(stock.name)}"
        return sheet_number(self.derived, f.number)


def _moving(setup: Setup, f: File) -> float:
    """Of the time of a file's first cut what goes to moving the stock to its position, s."""
    if setup.indexing is None or not f.first:
        return 0.0
    went = f.cuts[0].position - f.sheet.cuts[f.first - 1].position
    return went * setup.indexing.seconds


def sheet_number(derived: DerivedSetup, n: int) -> str:
    """A sheet's number, so wide that names sort by it."""
    return f"{n:0{len(str(derived.count))}d}"


def name_of(plan: Plan, derived: DerivedSetup, sheet: str, words: Mapping[str, str]) -> str:
    """What a program is called, by the house pattern."""
    s = derived.setup
    stock = s.stock_of(sheet)
    assert stock is not None
    k_mm = 25.4 if s.machine.dialect.inch else 1.0
    several = sum(not s.follows for s in plan.setups) > 1
    every = {
        "job": slug(plan.name),
        "setup": slug(s.name) if several else "",
        "side": side_of(s),
        "size": f"{stock.width / k_mm:.0f}x{stock.height / k_mm:.0f}",
        "stock": slug(stock.name),
        "material": slug(s.material.name),
        **words,
    }
    pattern = s.rules.file_names
    if s.role and "{side}" not in pattern:  # in running order over the turn
        pattern = (
            pattern.replace("{order}", "{side}_{order}") if "{order}" in pattern else pattern + "_{side}"
        )
    if several and "{setup}" not in pattern:  # files of two setups must not be called the same
        pattern += "_{setup}"
    return f"{filled(pattern, every)}.{s.machine.dialect.ending}"


def side_of(setup: Setup) -> str:
    """Which face is up, for the name of a file; where a face is up twice also what is done of it."""
    if setup.role is None:
        return "face-1"
    face = "face-1" if setup.role.face == "front" else "face-2"
    return face + {"all": "", "roughing": "-rough", "rest": "-finish"}[setup.role.takes]


@dataclass(frozen=True)
class Joined:
    """One file for several sheets: its name, its parts in running order with what the operator does before
    each, and how long it runs, s.
    """

    name: str
    parts: tuple[tuple[str, ProgramFile], ...]
    seconds: float


def joined(plan: Plan, derived: DerivedSetup, files: Sequence[ProgramFile]) -> Joined | None:
    """The one file that a setup's programs go out as, where it asks for that, its controller can and there is
    more than one; marks of screws stay apart.
    """
    setup = derived.setup
    if setup.files_by != "job" or not setup.machine.dialect.joins:
        return None
    parts: list[tuple[str, ProgramFile]] = []
    for n, sheet in derived.numbered:
        for k, f in enumerate(f for f in files if f.cuts and f.serves(sheet)):
            zero = "top of the material" if f.z_zero == "top" else "bed (spoilboard)"
            does = f"lay sheet {n} of {derived.count}" if not k else f"sheet {n} goes on"
            if setup.indexing and parts and f.position != parts[-1][1].position and k:
                does = brought_says(setup.indexing, f.position, lambda v: f"{v:g}")
            parts.append((f"{does}; Z0 {zero}", f))
    if len(parts) < 2:
        return None
    numbers = [n for n, _s in derived.numbered]
    used = dict.fromkeys(c for _w, f in parts for c in f.cutters)
    words = {
        "sheet": f"{numbers[0]}-{numbers[-1]}" if len(numbers) > 1 else f"{numbers[0]}",
        "order": f"{1 + max(derived.begun.values(), default=0):02d}",
        "what": "all",
        "cutter": "-".join(f"t{c.number}" for c in setup.cutters_named(list(used))),
    }
    seconds = sum(f.seconds for _w, f in parts) + (len(parts) - 1) * setup.machine.stop_seconds
    return Joined(name_of(plan, derived, parts[0][1].sheet, words), tuple(parts), seconds)


def count_files(plan: Plan, derived: DerivedSetup, files: Sequence[ProgramFile]) -> int:
    """How many program files go out of a setup."""
    one = joined(plan, derived, files)
    return sum(not f.cuts for f in files) + 1 if one else len(files)


MOST_TOLD = 3
"""Kinds of operation that a file of stock cut from both faces is named for."""
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
    words = {
        "sheet": sheet_number(derived, n),
        "order": "00",
        "what": "screw-marks",
        "cutter": f"t{cutter.number}",
    }
    name = name_of(plan, derived, sheet.sheet, words)
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
        zones_on(setup),
    )
    return [replace(file, text=text)]


def guides_programs(
    plan: Plan, derived: DerivedSetup, guides: Guides, on: tuple[int, SheetPlan], write: Writer | None
) -> list[ProgramFile]:
    """The programs of holes for dowels: in the spoilboard, then in every sheet; none that has no cutter."""
    setup, (n, sheet) = derived.setup, on
    stock = setup.stock_of(sheet.sheet)
    copies = tuple(s.copy_no for s in derived.sheets if s.sheet == sheet.sheet)
    if stock is None or not guides.cutters(stock):
        return []
    now: tuple[Guide, ...] = ("spoilboard",) if isinstance(guides, IndexGuides) else GUIDES
    made = [(guide, runs) for guide in now for runs in _guide_runs(guides, guide, stock)]
    return [
        _guide_file(plan, derived, guides, _GuideFile(guide, runs, sheet, n, k, copies), write)
        for k, (guide, runs) in enumerate(made, 1)
    ]


@dataclass(frozen=True)
class _GuideFile:
    """A program of holes for dowels to be: what it does in what, for which sheet (number, copies), and its
    own number in running order.
    """

    guide: Guide
    runs: list[ToolRun]
    sheet: SheetPlan
    number: int
    order: int
    copies: tuple[int, ...]
    position: int = 0


def _guide_runs(guides: Guides, guide: Guide, stock: Stock, position: int = 0) -> list[list[ToolRun]]:
    """What each file does: all of it, or what one cutter does where the machine changes none itself."""
    runs = guides.runs(guide, stock, position)
    if not runs:
        return []
    return [runs] if guides.setup.machine.dialect.tool_change else [[r] for r in runs]


def _guide_file(
    plan: Plan, derived: DerivedSetup, guides: Guides, f: _GuideFile, write: Writer | None
) -> ProgramFile:
    setup = derived.setup
    stock = setup.stock_of(f.sheet.sheet)
    assert stock is not None
    numbers = [r.number for r in f.runs]
    words = {
        "sheet": sheet_number(derived, f.number),
        "order": f"{f.order:02d}",
        "what": f"position-{f.position + 1}_pins"
        if isinstance(guides, IndexGuides) and f.guide == "stock"
        else f"{guides.noun}s-{f.guide}",
        "cutter": "-".join(f"t{k}" for k in numbers),
    }
    zero = "bed" if f.guide == "spoilboard" else setup.z_zero
    name = name_of(plan, derived, f.sheet.sheet, words)
    used = tuple(c.id for c in setup.cutters if c.number in numbers)
    seconds = guides.seconds(f.runs)
    at = (f.sheet.sheet, f.sheet.copy_no)
    file = ProgramFile(name, "", *at, used, seconds, f.copies, zero, guide=f.guide, position=f.position)
    if write is None:
        return file
    text = write(
        f.runs,
        setup.machine.dialect,
        _guide_header(plan, guides, f, stock, zero),
        setup.machine.clearance,
        stock.thickness if f.guide == "stock" and zero == "bed" else 0.0,
        zones_on(setup) if f.guide == "stock" else [],
    )
    return replace(file, text=text)


def _guide_header(plan: Plan, guides: Guides, f: _GuideFile, stock: Stock, zero: str) -> list[str]:
    setup, guide = guides.setup, f.guide
    unit = "in" if setup.machine.dialect.inch else "mm"
    places = guides.places(guide, stock, f.position)
    x, y = (show_length(v, unit) for v in setup.lying.point_on_table((0.0, 0.0)))
    at = "top of the material" if zero == "top" else "bed (spoilboard)"
    if guide == "spoilboard":
        at = "top of the spoilboard (the bed)"
    return [
        f"VENZO {plan.name}",
        f"setup {setup.name}; {guides.says(guide)}",
        f"X0 Y0 {_zero(setup, f.position)}; Z0 {at}",
        f"the sheet's lower left corner lies at {x}, {y} of the table",
        *_lies_crooked(setup),
        f"units {'inch' if setup.machine.dialect.inch else 'millimetre'}; {setup.machine.name}",
        *(
            f"{guides.noun} {d.id} D{show_length(d.diameter, unit)}, hole D{show_length(d.hole, unit)}"
            f" {show_length(guides.depth(guide, stock), unit)} deep"
            for d, _at in places
        ),
        *(_moved(setup, f.sheet, f.position) if guide == "stock" else []),
        "one zero for all files: X0 Y0 is not touched off again",
    ]


def zones_on(setup: Setup) -> list[int]:
    """Numbers of the vacuum zones that are on, from 1, in the order of the machine's list."""
    return [i for i, z in enumerate(setup.machine.zones, 1) if z.id in setup.zones_on]


def _zero(setup: Setup, position: int = 0) -> str:
    """Where X0 Y0 lies, in the words of a header."""
    unit = "in" if setup.machine.dialect.inch else "mm"
    zero = called(setup.datum, setup.machine, lambda v: show_length(v, unit))
    return f"where at position 1 was: {zero}" if position else zero


def _face(plan: Plan, setup: Setup, stock: Stock) -> list[str]:
    """The lines of a header that tell which face is up."""
    if setup.role is None:
        return []
    kept = ["dowels keep X0 Y0 where it was for face 1: not touched off again"]
    if setup.turned_back is not None:
        turn = face_before(plan, setup).other_face
        assert turn is not None
        return [
            f"FACE 1 once more, turned back about {turn.axis.upper()}; the marked corner lies {turn.mark}, on"
            " top",
            *(kept if isinstance(turn.registration, Dowels) else []),
        ]
    if setup.other_face is None:
        back = plan.other_face_of(setup.id)
        mark = back.other_face.mark if back and back.other_face else "lower left"
        rough = ", roughed only" if setup.role.takes == "roughing" else ""
        return [f"FACE 1 of 2{rough}; mark the {mark} corner of the sheet"]
    turn = setup.other_face
    if isinstance(turn.registration, JigCorner):
        return [
            f"FACE 2 of 2: {stock.name}, one piece after the other, turned over about {turn.axis.upper()}",
            f"pushed into the corner of {_jig(setup, turn.registration)}; zeroed there, not touched off",
        ]
    here = turn_of(turn.axis, stock).corner(turn.mark)
    return [
        f"FACE 2 of 2, turned over about {turn.axis.upper()}; the marked corner lies {here}, underneath",
        *(kept if isinstance(turn.registration, Dowels) else []),
    ]


def _jig(setup: Setup, register: JigCorner) -> str:
    """A jig by its name."""
    return next((j.name for j in setup.machine.jigs if j.id == register.jig), register.jig)


def _moved(setup: Setup, sheet: SheetPlan, position: int) -> list[str]:
    """The lines of a header that tell at which position of long stock it is run."""
    if setup.indexing is None or len(sheet.positions) < 2:
        return []
    unit = "in" if setup.machine.dialect.inch else "mm"
    told = brought_says(setup.indexing, position, lambda v: show_length(v, unit))
    kept = ["X0 Y0 stays where it was on the table: not touched off again"] if position else []
    return [f"POSITION {position + 1} of {setup.indexing.count}: {told}", *kept]


def _before(setup: Setup) -> str:
    """What a header says of a stop for the operator: a controller that knows none begins a file with it."""
    return "stops for the operator" if setup.machine.dialect.stops else "OPERATOR, before this file"


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
        guides = guides_of(plan, setup)
        if file.guide and guides is not None:
            stock = setup.stock_of(sheet.sheet)
            assert stock is not None
            numbers = {c.number for c in setup.cutters_named(file.cutters)}
            return [r for r in guides.runs(file.guide, stock, file.position) if r.number in numbers]
        cutter = setup.cutter(file.cutters[0])
        assert cutter is not None
        return _mark_runs(setup, sheet, cutter)
    return _runs_of(plan, setup, sheet, [sheet.cuts[i] for i in file.cuts])


def _runs_of(plan: Plan, setup: Setup, sheet: SheetPlan, cuts: Sequence[PlacedCut]) -> list[ToolRun]:
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    datum = datum_on_sheet(setup, stock, cuts[0].position if cuts else 0)
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
        if c.stop and setup.machine.dialect.stops:
            stops = {**runs[-1].stops, len(runs[-1].cuts): c.stop}
            runs[-1] = replace(runs[-1], stops=stops)
        runs[-1].cuts.append((label, moves))
    return _parked(runs, setup, sheet, datum_on_sheet(setup, stock))


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


def _runs(setup: Setup, sheet: SheetPlan) -> list[tuple[int, list[PlacedCut]]]:
    """The cuts of each file of a sheet, in running order, with the index of the first: all of them where the
    machine changes cutters itself, else by cutter; another Z zero, the end of the trial and, if so wished,
    another operation or the step from insides to outlines start another.
    """
    runs: list[tuple[int, list[PlacedCut]]] = []
    last: tuple[object, ...] | None = None
    for i, c in enumerate(sheet.cuts):
        key = file_of(setup, c.cut, c.trial, c.outline, c.position)
        stopped = bool(c.stop) and not setup.machine.dialect.stops
        if key != last or stopped:
            runs.append((i, []))
            last = key
        runs[-1][1].append(c)
    return runs


def _text(write: Writer, plan: Plan, setup: Setup, f: File) -> str:
    sheet, cuts, times = f.sheet, f.cuts, len(f.copies)
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
        f"setup {setup.name}; sheet {f.number}; file {f.order}",
        *([f"this layout is cut {times} times, on {times} sheets"] if times > 1 else []),
        f"stock {stock.name} {show_length(stock.width, unit)} x {show_length(stock.height, unit)}",
        (
            f"thickness {show_length(stock.thickness, unit)} {'measured' if stock.readings else 'nominal'};"
            f" deepest cut {show_length(depth, unit)}"
        ),
        *_face(plan, setup, stock),
        f"X0 Y0 {_zero(setup, cuts[0].position)}; Z0 {at}",
        *_lies_crooked(setup),
        *_moved(setup, sheet, cuts[0].position),
        f"units {'inch' if setup.machine.dialect.inch else 'millimetre'}; {setup.machine.name}",
        *([f"first run at {setup.first_run:g} % feed override"] if setup.first_run < 100 else []),
        *(f"{_before(setup)}: {c.stop}" for c in cuts if c.stop),
        *(f"T{c.number} {c.name} D{show_length(c.diameter, unit)}" for c in setup.cutters_named(used)),
        f"{counted(len({c.piece.id for c in cuts}), 'piece')}, {counted(len(cuts), 'cut')}",
    ]
    return write(
        runs,
        setup.machine.dialect,
        header,
        setup.machine.clearance,
        0.0 if zero == "top" else stock.thickness,
        zones_on(setup),
    )
