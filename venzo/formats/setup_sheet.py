"""The setup sheet: for each sheet of stock what the operator does, in the order in which he does it: fetch,
measure, lay, fix, zero, load, run, take off. With boxes to tick and to write in, as PDF.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from venzo.core.cuts.moves import FEED
from venzo.core.derive import DerivedSetup
from venzo.core.faces.hollow import filled_says
from venzo.core.faces.registration import Dowels, JigCorner, OtherFace, Takes, registration_says
from venzo.core.faces.singly import in_the_corner
from venzo.core.faces.turn import turn_of
from venzo.core.holding.fixings import FixtureBoard
from venzo.core.indexing.positions import FenceMark, Indexing, brought_says
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.release.programs import ProgramFile, Stamp, same_cuts
from venzo.core.snags import Snag
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import called, touched_off, turned
from venzo.core.voice import counted, in_unit, thickness
from venzo.formats.index_drawing import OnStrips, draw_positions
from venzo.formats.paper import LEFT, RIGHT, Paper
from venzo.formats.sheet_drawing import Drawn, draw_sheet, draw_table, fixings, numbers
from venzo.formats.turn_drawing import HIGH, draw_turn

CAUTIONS = (
    (
        "Eyes, ears and lungs: glasses, ear defenders, extraction on, mask where dust escapes. No gloves or"
        " loose clothes at the spindle."
    ),
    (
        "Check the hold, the zero and the clearance over screws and clamps before the spindle starts. First"
        " piece: in air or at reduced feed, hand at the stop."
    ),
    "Never leave a running machine. Local codes, the makers' instructions and trained people come first.",
)
KEY = (
    "Numbers: pieces in the order in which they are cut free. Thick strokes: tabs. S, F: as listed under Fix."
    " Lines in a piece: full a pocket or hole, dashed a groove, dotted an engraving or carving."
)
OTHERS: dict[Takes, str] = {
    "all": "the others go out apart",
    "roughing": "the others when this face is up once more",
    "rest": "the others have roughed it before",
}
"""Where cuts of a sheet are made that are not made now."""
DRAWING, TABLE = (400.0, 210.0), (96.0, 70.0)
"""Points that the sheet and the table may take."""


@dataclass(frozen=True)
class SheetPage:
    """What the page of one sheet is about: the plan, the sheet, its programs, whether they are released."""

    plan: Plan
    derived: DerivedSetup
    sheet: SheetPlan
    files: Sequence[ProgramFile]
    released: bool
    shapes: Mapping[str, Shape]

    @property
    def setup(self) -> Setup:
        return self.derived.setup

    @property
    def stock(self) -> Stock:
        found = self.setup.stock_of(self.sheet.sheet)
        assert found is not None
        return found

    @property
    def unit(self) -> str:
        return unit_of(self.setup)

    @property
    def turn(self) -> tuple[OtherFace, Stock] | None:
        """How the sheet is turned over, and the sheet as its first face is up; None: it is not."""
        own = self.setup.other_face is not None
        back = self.setup if own else self.plan.other_face_of(self.setup.id)
        if self.setup.turned_back is not None:
            back = self.plan.setup(self.setup.turned_back.after)
        if back is None or back.other_face is None or back.other_face.singly:
            return None
        first = self.derived.first.setup if self.derived.first else self.setup
        stock = first.stock_of(self.sheet.sheet)
        return (back.other_face, stock) if stock else None

    def named(self, piece: str) -> str:
        """A piece by number and name, as drawing and lists have it."""
        part = self.plan.part(piece.split("#")[0])
        return f"no. {numbers(self.sheet)[piece]} {part.name if part else ''}".strip()


def setup_sheet(
    plan: Plan,
    derived: DerivedSetup,
    files: list[ProgramFile],
    released: bool,
    shapes: Mapping[str, Shape],
    stamp: Stamp,
) -> bytes:
    """PDF bytes: for every sheet its drawing and the operator's steps; cautions at the foot of every page."""
    own = derived.setup.material.caution
    paper = Paper(f"{plan.name}: setup sheet", [*CAUTIONS, *([own] if own else [])])
    setup = derived.setup
    orders = ", ".join(o.name for o in plan.orders)
    alike = same_cuts(derived.sheets) if setup.in_jig else None
    for i, (n, sheet) in enumerate(derived.numbered):
        if alike is not None and i not in alike:  # the same piece once more
            continue
        page = SheetPage(plan, derived, sheet, files, released, shapes)
        which = f"sheet {n} of {derived.count}"
        if alike is not None:
            which = f"{page.stock.name}, {counted(len(alike[i]), 'piece')}"
        paper.begin(
            plan.name,
            f"{which}, {stamp.words()}",
            f"{setup.name} on {setup.machine.name}; order {orders}",
            _standing(released, stamp),
        )
        if setup.rules.setup_sheets == "one page a sheet":
            _on_one_page(paper, page)
            continue
        _drawing(paper, page, DRAWING)
        _turned_over(paper, page)
        for step in STEPS:
            step(paper, page)
            paper.gap(2)
        say_snags(paper, _of_sheet(derived.snags, sheet), unit_of(setup))
    return paper.finish()


def _standing(released: bool, stamp: Stamp) -> str:
    if not released:
        return "NOT RELEASED: stops open, programs withheld"
    return f"release {stamp.release}" if stamp.release else "released"


SMALL, SMALLEST = 8.5, 5.0
"""Points; small print of a page that holds all."""
LEAST_DRAWING = 90.0
"""Points; no sheet is drawn lower than this."""


class _Gathered:
    """What a step writes, gathered instead of printed: the steps write on it as on a ``Paper``."""

    def __init__(self) -> None:
        self.said: list[tuple[str, list[str]]] = []

    def step(self, words: str) -> None:
        self.said.append((words.split("  ")[-1].split(",")[0], []))

    heading = step

    def tick(self, words: str) -> None:
        self.said[-1][1].append(words)

    def text(self, words: str, size: float = 9.0, font: str = "", indent: float = 0.0) -> None:
        self.said[-1][1].append(words)

    def fact(self, label: str, words: str) -> None:
        self.said[-1][1].append(f"{label[0].lower()}{label[1:]}: {words}")

    def blanks(self, words: str, count: int, unit: str) -> None:
        self.said[-1][1].append(f"{words} {' '.join(['______'] * count)} {unit}".strip())

    def gap(self, height: float = 6.0) -> None:
        """Small print has none."""


Writes = Paper | _Gathered


def _on_one_page(paper: Paper, page: SheetPage) -> None:
    """The drawing as large as the rest lets it be, and every step in small print."""
    told = _Gathered()
    for step in STEPS:
        step(told, page)
    say_snags(told, _of_sheet(page.derived.snags, page.sheet), page.unit)
    said = [(label, "; ".join(words)) for label, words in told.said if words]
    room = paper.y - paper.lowest

    def high(size: float) -> float:
        return sum(len(paper.small_lines(w, size)) * size * 1.22 + size * 0.25 for _l, w in said)

    size = SMALL
    while high(size) > room - LEAST_DRAWING - 60 and size > SMALLEST:
        size -= 0.25
    _drawing(paper, page, (DRAWING[0], max(LEAST_DRAWING, room - high(size) - 62)))
    for label, words in said:
        paper.small(label, words, size)


def _drawing(paper: Paper, page: SheetPage, most: tuple[float, float]) -> None:
    """Sheet and table side by side, with the key; the sheet in ``most`` points."""
    stock = page.stock
    k = min(most[0] / stock.width, most[1] / stock.height)
    height = max(stock.height * k, 0.0 if page.setup.indexing else TABLE[1]) + 16
    paper.room(height + 24)
    bottom = paper.y - height + 4
    drawn = Drawn(page.plan, page.derived, page.sheet, page.shapes, LEFT, bottom, k)
    draw_sheet(paper.canvas, drawn)
    if page.setup.indexing is None:
        draw_table(paper.canvas, page.setup, stock, (RIGHT - TABLE[0], bottom + 10), TABLE)
    marked = _corners_marked(paper, page, (LEFT, bottom, k))
    paper.y = bottom - 22
    paper.text(f"{KEY}{' Filled: the corner that comes into the jig.' if marked else ''}", 7.5)
    _along_the_table(paper, page)


def _corners_marked(paper: Paper, page: SheetPage, at: tuple[float, float, float]) -> bool:
    """Of pieces that will be turned one by one the corners that come into the jig; are there any?"""
    back = page.plan.other_face_of(page.setup.id)
    if back is None or back.other_face is None or not back.other_face.singly:
        return False
    x0, y0, k = at
    here = (page.sheet.sheet, page.sheet.copy_no)
    found = in_the_corner(page.plan, page.setup, back.other_face, page.shapes)
    mine = [c.at for c in found if (c.sheet, c.sheet_copy) == here]
    for x, y in mine:
        paper.canvas.circle(x0 + x * k, y0 + y * k, 2.4, stroke=0, fill=1)
    return bool(mine)


def _along_the_table(paper: Paper, page: SheetPage) -> None:
    """Of long stock how it lies on the table at each position."""
    if page.setup.indexing is None:
        return
    strips = OnStrips(page.setup, page.stock, page.sheet)
    paper.room(strips.height + 8)
    bottom = paper.y - strips.height
    draw_positions(paper.canvas, strips, (LEFT, bottom))
    paper.y = bottom - 4


def _turned_over(paper: Paper, page: SheetPage) -> None:
    """Of stock cut from both faces how it is turned, on both its pages."""
    found = page.turn
    if found is None:
        return
    turn, stock = found
    paper.room(HIGH + 16)
    bottom = paper.y - HIGH
    draw_turn(paper.canvas, turn, stock, (LEFT, bottom), back=page.setup.turned_back is not None)
    paper.y = bottom - 10


def _fact(paper: Writes, page: SheetPage, label: str, words: str) -> None:
    paper.fact(label, in_unit(words, page.unit))


def _fetch(paper: Writes, page: SheetPage) -> None:
    stock, setup = page.stock, page.setup
    paper.step("1  Fetch")
    grain = {None: "", 0: ", grain along its length in X", 90: ", grain along Y"}[stock.grain]
    tick(
        paper,
        page,
        f"{setup.material.name}: {stock.name}, {stock.width:g} x {stock.height:g} mm{grain}",
    )
    marks = [m for m, *_rest in fixings(setup, page.sheet)]
    kinds: dict[str, int] = {}
    for _m, what, _x, _y in fixings(setup, page.sheet):
        kinds[what] = kinds.get(what, 0) + 1
    if marks:
        tick(paper, page, ", ".join(f"{n} {k}{'s' * (n > 1)}" for k, n in kinds.items()))


def _measure(paper: Writes, page: SheetPage) -> None:
    stock, setup = page.stock, page.setup
    paper.step("2  Measure")
    how = (
        f"mean of {counted(len(stock.readings), 'reading')}"
        f"{f' of {stock.measured}' if stock.measured else ''}, spread {stock.spread:.2f} mm"
        if stock.readings
        else "nominal: measure it"
    )
    planned = f"{thickness(stock.thickness, unit_of(setup))}, {how}"
    _fact(paper, page, "Thickness", f"planned for {planned}")
    paper.blanks("read in several places", 4, unit_of(setup))
    limit = setup.rules.spread_limit
    tick(
        paper,
        page,
        f"within {limit:g} mm of what was planned; if not, say so to the programmer before cutting",
    )


def _lay(paper: Writes, page: SheetPage) -> None:
    stock, setup = page.stock, page.setup
    paper.step("3  Lay")
    if setup.other_face and isinstance(setup.other_face.registration, JigCorner):
        _lay_in_the_jig(paper, page, setup.other_face)
        return
    if page.turn and setup.other_face:
        _lay_turned(paper, page, setup.other_face)
    if page.turn and setup.turned_back:
        _lay_turned_back(paper, page, page.turn[0])
    x, y = setup.sheet_at
    long = "X" if stock.width >= stock.height else "Y"
    words = f"its lower left corner at {x:g}, {y:g} mm of the table, long side along {long}"
    if setup.lying.turn:
        words += f"; it lies turned {turned(setup.lying)}"
    tick(paper, page, words)
    if setup.indexing is not None and len(page.sheet.positions) > 1:
        _lay_along(paper, page, setup.indexing)


def _lay_along(paper: Writes, page: SheetPage, indexing: Indexing) -> None:
    """Long stock: what holds it up, and what is prepared for its positions."""
    positions = range(1, max(page.sheet.positions) + 1)
    tick(
        paper, page, f"it is cut at {len(positions) + 1} positions; carry what hangs over the table on stands"
    )
    if isinstance(indexing.brought, FenceMark):
        lines = ", ".join(f"{indexing.brought.at + indexing.offset(k):g} mm" for k in positions)
        tick(paper, page, f"its long edge along the fence; draw lines on its edge {lines} from its low end")
        tick(paper, page, f"put the fence's mark {indexing.brought.at:g} mm from its low end as it lies now")
    else:
        pins = ", ".join(f"{p.id} {p.diameter:g} mm" for p in indexing.brought.pins)
        tick(paper, page, f"run the file of holes in the spoilboard first; keep the pins {pins} at hand")


def _lay_turned(paper: Writes, page: SheetPage, turn: OtherFace) -> None:
    """How the sheet is turned, and how it is told that it was."""
    way = "the far edge comes near" if turn.axis == "x" else "the right edge comes to the left"
    here = turn_of(turn.axis, page.stock).corner(turn.mark)
    tick(paper, page, f"turn it over about {turn.axis.upper()}: {way}")
    tick(
        paper,
        page,
        f"the marked corner lies at the {here}, underneath: if you see the mark, it is not turned",
    )
    _registered(paper, page, turn)


def _registered(paper: Writes, page: SheetPage, turn: OtherFace) -> None:
    if turn.filled:
        tick(paper, page, filled_says(turn))
    said = registration_says(turn.registration, lambda v: f"{v:g} mm")
    tick(paper, page, f"registered by {said}")
    if isinstance(turn.registration, Dowels):
        tick(paper, page, "it goes on the dowels without force, and lies flat")


def _lay_in_the_jig(paper: Writes, page: SheetPage, turn: OtherFace) -> None:
    """How each piece is turned and comes into the jig's corner."""
    register, machine = turn.registration, page.setup.machine
    assert isinstance(register, JigCorner)
    jig = next((j for j in machine.jigs if j.id == register.jig), None)
    name = f"{jig.name}, its corner at {jig.at[0]:g}, {jig.at[1]:g} mm of the table" if jig else register.jig
    tick(paper, page, "one piece after the other, run the files once for each; clear the jig of chips first")
    tick(paper, page, "turn it over: the face that was up lies down, the marked corner comes into the jig's")
    if turn.filled:
        tick(paper, page, filled_says(turn))
    tick(paper, page, f"pushed against both sides of {name}, its long side along {register.long.upper()}")


def _lay_turned_back(paper: Writes, page: SheetPage, turn: OtherFace) -> None:
    """How the sheet gets its first face up once more, and how it is told that it has."""
    way = "the far edge comes near" if turn.axis == "x" else "the right edge comes to the left"
    tick(paper, page, f"turn it back about {turn.axis.upper()}: {way}")
    tick(
        paper, page, f"the marked corner lies at the {turn.mark}, on top: if you do not see it, turn it back"
    )
    _registered(paper, page, turn)


def _before_the_turn(paper: Writes, page: SheetPage) -> None:
    """What is done to a sheet that will be turned: its mark, and the holes for its dowels; or the marks of
    pieces that will be turned one by one.
    """
    back = page.plan.other_face_of(page.setup.id)
    if back is not None and back.other_face is not None and back.other_face.singly:
        tick(
            paper,
            page,
            "mark on every piece the corner that is filled in the drawing, on top",
        )
    if page.turn is None or page.setup.follows:
        return
    turn = page.turn[0]
    tick(paper, page, f"mark its {turn.mark} corner: it tells turned from not turned")
    if isinstance(turn.registration, Dowels) and turn.registration.dowels:
        pins = ", ".join(f"{d.id} {d.diameter:g} mm" for d in turn.registration.dowels)
        when = "before it is laid" if turn.registration.sets == "one" else "before it is turned"
        tick(paper, page, f"run the files of dowel holes first; set the dowels {pins} {when}")


def _fix(paper: Writes, page: SheetPage) -> None:
    setup = page.setup
    paper.step("4  Fix")
    _fact(paper, page, "Hold", _hold(page.derived, page.sheet))
    for what in ("S", "F"):
        mine = [(m, w, x, y) for m, w, x, y in fixings(setup, page.sheet) if m[0] == what]
        if mine:
            places = "; ".join(
                f"{m}{'' if what == 'S' else f' {w}'} {x:.0f}, {y:.0f} mm" for m, w, x, y in mine
            )
            tick(paper, page, f"from the sheet's lower left corner: {places}")
    _before_the_turn(paper, page)
    if any(s.marked for s in setup.screws):
        tick(paper, page, "run the file of screw marks first, then screw into the marks, spindle stopped")


def _zero(paper: Writes, page: SheetPage) -> None:
    setup, stock = page.setup, page.stock

    def mm(v: float) -> str:
        return f"{v:g} mm"

    paper.step("5  Zero")
    deepest = max((-min(pc.cut.levels) for pc in page.sheet.cuts), default=0.0)
    below = max(0.0, deepest - stock.thickness)
    into = f" ({below:.2f} mm into the spoilboard)" if below else ""
    boards = {f.thickness for f in setup.fixings if isinstance(f, FixtureBoard)}
    bed = f"top of the fixture board, {min(boards):g} mm thick" if boards else "spoilboard"
    zero_z = "top of the material" if setup.z_zero == "top" else f"bed ({bed})"
    turned_over = page.turn[0] if page.turn and setup.follows else None
    if turned_over and isinstance(turned_over.registration, Dowels):
        tick(paper, page, "X Y: as for the first face, not touched off again: the dowels keep it")
    else:
        tick(paper, page, f"X Y: {called(setup.datum, setup.machine, mm)}")
        _fact(paper, page, "Touch off", touched_off(setup.datum, setup.machine, setup.lying, mm))
    if turned_over and setup.z_zero == "top":
        tick(paper, page, "measure the thickness again: Z is zeroed on what the turns before have left")
    tick(paper, page, f"Z: {zero_z}; deepest cut {deepest:.2f} mm below the top{into}")
    other = {c.cut.z_zero for c in page.sheet.cuts if c.cut.z_zero and c.cut.z_zero != setup.z_zero}
    if other:
        tick(paper, page, "some files have another Z zero: their names say so; touch off again before them")
    tick(paper, page, f"fast moves run {setup.machine.clearance:g} mm over the top: nothing stands higher")


def _load(paper: Writes, page: SheetPage) -> None:
    """The cutters of a sheet as they are loaded, in what, how far out, with all their speeds."""
    setup, sheet = page.setup, page.sheet
    paper.step("6  Load, in this order")
    holders = {h.id: h.name for h in setup.holders}
    for _t, cid in sheet.changes:
        cutter = setup.cutter(cid)
        assert cutter is not None
        mine = [pc.cut for pc in sheet.cuts if pc.cut.cutter == cid]
        speeds = dict.fromkeys((m.kind, m.rpm, float(m.moves[:, FEED].max())) for m in mine)
        told: dict[tuple[float, float], list[str]] = {}
        for kind, rpm, feed in speeds:
            told.setdefault((rpm, feed), []).append(kind)
        said = "; ".join(
            f"{', '.join(dict.fromkeys(kinds))} {rpm:.0f} rpm, {_feed(feed, page.unit)}"
            for (rpm, feed), kinds in told.items()
        )
        holder = f"in {holders[cutter.holder]}, " if cutter.holder in holders else ""
        out = f"{cutter.overhang:g} mm out" if cutter.stick_out else f"at least {cutter.overhang:g} mm out"
        tick(paper, page, f"T{cutter.number} {cutter.name}: {holder}{out}; {said}", whole=False)


def _feed(feed: float, unit: str) -> str:
    return f"{feed / 1000:.2f} m/min" if unit == "mm" else f"{feed / 25.4:.0f} in/min"


def _run(paper: Writes, page: SheetPage) -> None:
    setup, sheet = page.setup, page.sheet
    paper.step("7  Run, in running order" if page.released else "7  Files withheld")
    if setup.first_run < 100:
        slow = sheet.seconds + sum(c.seconds for c in sheet.cuts) * (100 / setup.first_run - 1)
        tick(
            paper,
            page,
            f"first sheet: feed override at {setup.first_run:g} %, about {_clock(slow)}; then 100 %",
        )
    whole = page.derived.wholes.get((sheet.sheet, sheet.copy_no), sheet)
    if len(whole.cuts) != len(sheet.cuts):
        takes = setup.role.takes if setup.role else "all"
        part = f"{counted(len(sheet.cuts), 'cut')} of the sheet's {len(whole.cuts)}; {OTHERS[takes]}"
        _fact(paper, page, "Part", part)
    trial, at = list(dict.fromkeys(c.piece.id for c in sheet.cuts if c.trial)), 0
    for f in page.files:
        if not f.serves(sheet) and not (f.guide and f.sheet == sheet.sheet and sheet.copy_no in f.copies[:1]):
            continue
        if setup.indexing is not None and f.position > at:
            at = f.position
            tick(paper, page, brought_says(setup.indexing, at, lambda v: f"{v:g} mm"))
            tick(paper, page, "hold it again; X Y and Z are not touched off again")
        paper.tick(f"{f.name}, {_clock(f.seconds)}")
        if "_trial" in f.name and trial:
            names = ", ".join(page.named(q) for q in trial)
            paper.text(f"then look at the trial: {names}", indent=14)
        for i in f.cuts:
            if sheet.cuts[i].stop:
                c = sheet.cuts[i]
                paper.text(
                    f"it stops before {c.cut.contour} of {page.named(c.piece.id)}: {c.stop}", indent=14
                )
    _fact(
        paper,
        page,
        "Time",
        f"{_clock(sheet.seconds)} estimated, {sheet.cut_length / 1000:.1f} m of cut",
    )
    paper.blanks("took", 1, "min")


def _take_off(paper: Writes, page: SheetPage) -> None:
    sheet = page.sheet
    paper.step("8  Take off")
    of_part: dict[str, list[int]] = {}
    for piece, n in numbers(sheet).items():
        of_part.setdefault(piece.split("#")[0], []).append(n)
    names = {p.id: p.name for p in page.plan.parts}
    for part, nos in sorted(of_part.items(), key=lambda kv: names[kv[0]]):
        paper.tick(f"{names[part]} {len(nos)}x: no. {', '.join(str(n) for n in sorted(nos))}")
    if page.setup.material.family == "plastic":
        paper.tick("let it cool, then peel the film")
    tabs, skins = _by_hand(page)
    if tabs:
        paper.tick(f"break and clean {counted(tabs, 'tab')}")
    if skins:
        tick(paper, page, f"cut the skin by hand: {skins}")
    for note in _notes(page):
        tick(paper, page, note)
    paper.blanks("good pieces, by whom, when", 3, "")


def _by_hand(page: SheetPage) -> tuple[int, str]:
    """Tabs to be broken, and pieces whose skin is left for knife or trimmer."""
    thick = page.stock.thickness
    tabs: dict[tuple[str, str], int] = {}
    deepest: dict[tuple[str, str], float] = {}
    for pc in page.sheet.cuts:
        if pc.cut.tabs:
            tabs[pc.piece.id, pc.cut.contour] = len(pc.cut.tabs)
        if pc.outline or pc.cut.frees:
            continue
        if pc.cut.kind == "profile" and pc.cut.contour == "outline":
            key = (pc.piece.id, pc.cut.contour)
            deepest[key] = max(deepest.get(key, 0.0), -pc.cut.levels[-1])
    freed = {(pc.piece.id, pc.cut.contour) for pc in page.sheet.cuts if pc.cut.frees}
    left = [
        (q, thick - deep) for (q, c), deep in deepest.items() if (q, c) not in freed and deep < thick - 1e-6
    ]
    said = ", ".join(f"{page.named(q)} {skin:.2f} mm" for q, skin in left)
    return sum(tabs.values()), said


def _notes(page: SheetPage) -> list[str]:
    """What was recorded with the steps that cut the sheet, such as how a relief is to be sanded."""
    own = [s for c in page.plan.steps for s in c.steps]
    used = {pc.cut.operation for pc in page.sheet.cuts}
    return list(dict.fromkeys(s.note for s in (*page.setup.operations, *own) if s.note and s.id in used))


STEPS = (_fetch, _measure, _lay, _fix, _zero, _load, _run, _take_off)


def tick(paper: Writes, page: SheetPage, words: str, whole: bool = True) -> None:
    """A line with a box to tick, in the machine's unit; ``whole`` False: a cutter is called as it is."""
    if whole:
        paper.tick(in_unit(words, page.unit))
        return
    name, rest = words.split(": ", 1)
    paper.tick(f"{name}: {in_unit(rest, page.unit)}")


def _clock(seconds: float) -> str:
    minutes, s = divmod(round(seconds), 60)
    return f"{minutes // 60}:{minutes % 60:02d}:{s:02d}" if minutes >= 60 else f"{minutes}:{s:02d}"


def unit_of(setup: Setup) -> str:
    """The unit of a setup's papers: that of its machine's programs."""
    return "in" if setup.machine.dialect.inch else "mm"


def _of_sheet(found: Sequence[Snag], sheet: SheetPlan) -> list[Snag]:
    """Snags of this sheet, of what lies on it, or of the whole setup."""
    here = {q.part for q in sheet.pieces}

    def mine(s: Snag) -> bool:
        w = s.where or {}
        if "sheet" in w and (w["sheet"], w.get("sheet_copy", 0)) != (sheet.sheet, sheet.copy_no):
            return False
        if "stock" in w and w["stock"] != sheet.sheet:
            return False
        return not ("part" in w and w["part"] not in here)

    return [s for s in found if mine(s)]


def say_snags(paper: Writes, found: Sequence[Snag], unit: str = "mm") -> None:
    """Every stop and look, and skins that stay on purpose."""
    snags = [s for s in found if s.severity != "note" or s.rule == "cuts.skin-left"]
    if snags:
        paper.heading("Snags")
    for s in snags:
        paper.text(in_unit(f"{s.severity}: {s.message}", unit))


def _hold(derived: DerivedSetup, sheet: SheetPlan) -> str:
    tabs = sum(
        {(pc.piece.id, pc.cut.contour): len(pc.cut.tabs) for pc in sheet.cuts if pc.cut.tabs}.values()
    )  # once a contour, not once a step
    zones = derived.setup.zones_on
    how = [f"vacuum zones {', '.join(zones)} on"] if zones else []
    off = [z.id for z in derived.setup.machine.zones if z.id not in zones]
    how += [f"zones {', '.join(off)} off"] if zones and off else []
    screws = [s for s in derived.setup.screws if s.on(sheet.sheet, sheet.copy_no)]
    how += (
        [f"{len(screws)} {'nails' if all(s.kind == 'nail' for s in screws) else 'screws'}"] if screws else []
    )
    kinds: dict[str, int] = {}
    for f in derived.setup.fixings:
        kinds[f.kind] = kinds.get(f.kind, 0) + 1
    how += [f"{n} {k}{'s' * (n > 1)}" for k, n in kinds.items()]
    how += [counted(tabs, "tab")] if tabs else []
    return ", ".join(how) or "nothing planned: decide before cutting"
