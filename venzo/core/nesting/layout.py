"""The nest problem that a plan's setup states, and what became of the layout that was accepted for it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

from venzo.core.geometry.contour import Contour
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.problem import Firm, Keepout, NestPart, NestProblem, NestResult, Placement, SheetKind
from venzo.core.nesting.verify import fault_in_short, faults, faults_between
from venzo.core.nesting.zones import live_areas, zone_notes
from venzo.core.parts.shape import Shape
from venzo.core.plan import AcceptedNest, Piece, Plan, Setup
from venzo.core.snags import BadInput, Remedy, Snag, Where, look, note, stop
from venzo.core.stock.sheet import Stock

ON_A_BOARD = 0.9
"""Firmness of fixture boards and pods: small pieces go there, others may bridge them."""
State = Literal["none", "fits", "out of date", "at fault"]


@dataclass(frozen=True)
class InTheWay:
    """Something on a sheet that pieces keep away from: its outline (x, y(, bulge)) and by how much, mm;
    ``copy_no``: the only sheet of its kind that has it, None: all.
    """

    name: str
    shape: list[list[float]]
    clearance: float
    copy_no: int | None = None


def in_the_way(setup: Setup, stock: Stock, diameter: float) -> list[InTheWay]:
    """All that pieces keep away from on the sheets of a stock; ``diameter``: of the cutter that goes between.

    The nest, its judge and the screen all read this one list.
    """
    screws = [
        InTheWay(
            "a screw",
            Contour.circle(c.x, c.y, c.head / 2).rows(),
            c.clearance(diameter),
            None if c.sheet is None else c.sheet_copy,
        )
        for c in setup.screws
        if c.sheet in (None, stock.id)
    ]
    fixings = [
        InTheWay(f"a {f.kind}", _ring(*f.box), diameter + setup.rules.hold.keep_clear)
        for f in setup.fixings
        if f.kind in ("clamp", "pin")
    ]
    flaws = [
        InTheWay("a flaw", _ring(f.x, f.y, f.x + f.width, f.y + f.height), f.clearance) for f in stock.flaws
    ]
    return [*screws, *fixings, *flaws]


def nest_problem(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> NestProblem:
    """The problem of nesting a setup's pieces on its stock, locked pieces included.

    Raises:
        BadInput: nothing to nest, or nothing to nest it on.
    """
    if setup.follows:
        raise BadInput(
            f"{setup.name} has no layout of its own: its sheets are turned over with what lies on them; nest"
            " the first face"
        )
    parts = [p for p in plan.parts_of(setup.id) if p.quantity and not p.missing]
    if not parts:
        raise BadInput(f"{setup.name}: no pieces to nest; drop a drawing at Parts first")
    stock = [s for s in setup.stock if s.quantity]
    if not stock:
        raise BadInput(f"{setup.name}: no sheet on hand; choose one at Stock & table first")
    diameter = plan.kerf(setup)
    kinds = []
    for s in stock:
        in_all = [w for w in in_the_way(setup, s, diameter) if w.copy_no is None]
        keepouts = [Keepout(shape=w.shape, clearance=w.clearance) for w in in_all]
        boards = [
            Firm(shape=_ring(*f.box), firmness=ON_A_BOARD)
            for f in setup.fixings
            if f.kind in ("fixture board", "pod")
        ]
        kinds.append(
            SheetKind(
                id=s.id,
                width=s.width,
                height=s.height,
                quantity=s.quantity,
                margin=s.margin,
                grain=s.grain,
                keepouts=keepouts,
                outline=[list(q) for q in s.outline] or None,
                firm=boards or live_areas(setup, s),
                cost=s.price if s.price is not None else s.area * setup.material.price_m2 / 1e6 or None,
            )
        )
    items = []
    for p in parts:
        shape = shapes[p.shape]
        items.append(
            NestPart(
                id=p.id,
                outline=shape.region.outline.rows(),
                holes=[h.rows() for h in shape.region.holes],
                quantity=p.quantity,
                rotations=list(p.rotations) if p.rotations != "free" else "free",
                grain=p.grain,
                mirror=p.mirror,
                group=p.group or None,
                priority=p.priority,
                fill=p.fill,
            )
        )
    locked = [
        placement(q) for q in (setup.nest.pieces if setup.nest else ()) if q.locked and plan.part(q.part)
    ]
    return NestProblem(
        sheets=kinds,
        parts=items,
        locked=locked,
        spacing=plan.spacing(setup),
        part_in_hole=setup.allow_in_holes,
        guillotine=setup.guillotine,
        repeat=setup.same_layouts,
    )


def _ring(x0: float, y0: float, x1: float, y1: float) -> list[list[float]]:
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


def inputs_digest(problem: NestProblem) -> str:
    """Digest of what a layout depends on; locked pieces and wishes that bear on no piece's legality are
    choices within it, not inputs.
    """
    sheets = {i: {"firm"} for i in range(len(problem.sheets))}
    return digest(
        problem.model_dump(
            mode="json",
            exclude={"locked": True, "steps": True, "guillotine": True, "repeat": True, "sheets": sheets},
        )
    )


def _inputs(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> str:
    """``inputs_digest`` of a setup's problem, remembered by what the problem is made from.

    Raises:
        BadInput: as ``nest_problem``.
    """
    parts = [
        (p.id, p.shape, p.quantity, p.rotations, p.grain, p.mirror, p.group, p.priority, p.fill, p.missing)
        for p in plan.parts_of(setup.id)
    ]
    on = [setup.stock, setup.screws, setup.fixings, setup.rules.hold.keep_clear, setup.material.price_m2]
    told = [setup.follows, plan.kerf(setup), plan.spacing(setup), setup.allow_in_holes]
    make = partial(nest_problem, plan, setup, shapes)
    return memo("nest inputs", digest("inputs-1", parts, on, told), lambda: inputs_digest(make()))


def placement(q: Piece) -> Placement:
    """A plan's piece as the nest engine's placement."""
    return Placement(
        part=q.part,
        copy=q.copy_no,
        sheet=q.sheet,
        sheet_copy=q.sheet_copy,
        x=q.x,
        y=q.y,
        rotation=q.rotation,
        mirrored=q.mirrored,
    )


def accepted(result: NestResult, problem: NestProblem, engine: str) -> AcceptedNest:
    """A search result as the plan keeps it; pieces that were locked stay locked."""
    locked = {(pl.part, pl.copy_) for pl in problem.locked}
    pieces = tuple(
        Piece(
            part=pl.part,
            copy_no=pl.copy_,
            sheet=pl.sheet,
            sheet_copy=pl.sheet_copy,
            x=pl.x,
            y=pl.y,
            rotation=pl.rotation,
            mirrored=pl.mirrored,
            locked=(pl.part, pl.copy_) in locked,
        )
        for pl in result.placements
    )
    return AcceptedNest(
        pieces=pieces,
        inputs=inputs_digest(problem),
        reasons={u.part: u.reason for u in result.unplaced},
        engine=engine,
        seed=result.seed,
        steps=result.steps,
        bound=result.bound["sheets"],
    )


@dataclass(frozen=True)
class Layout:
    """What became of the accepted layout: its state, the snags, unplaced copies by part, which pieces are at
    fault, and the fault in a few words.
    """

    state: State
    snags: tuple[Snag, ...]
    unplaced: dict[str, int]
    at_fault: frozenset[str]
    fault: str = ""


def _unplaced(plan: Plan, setup: Setup, waiting: dict[str, int]) -> list[Snag]:
    """A stop for every part of which pieces wait for a place, with the reason the search gave."""
    reasons = setup.nest.reasons if setup.nest else {}
    stock = {s.id: s.name for s in setup.stock}
    out = []
    for p in plan.parts:
        n = waiting.get(p.id)
        if n:
            why = reasons.get(p.id, "")
            for sheet_id, name in stock.items():
                why = why.replace(f"sheet {sheet_id}", name)
            if p.fill:
                out.append(
                    note(
                        "nest.unplaced",
                        f"{p.name}: {n} fill piece{'s' * (n != 1)} left over; they open no sheet of"
                        " their own",
                        {"setup": setup.id, "part": p.id},
                    )
                )
                continue
            out.append(
                stop(
                    "nest.unplaced",
                    f"{p.name}: {n} piece{'s' * (n != 1)} not placed{': ' + why if why else '; nest again'}",
                    {"setup": setup.id, "part": p.id},
                )
            )
    return out


def check_locked(plan: Plan, problem: NestProblem) -> None:
    """Raise BadInput, naming the part, where locked pieces are in each other's way."""
    wrong = faults(problem, problem.locked)
    if wrong:
        said = wrong[0][1]
        for p in plan.parts:
            said = said.replace(p.id, p.name)
        raise BadInput(f"locked pieces are in each other's way: {said}; unlock or move one")


def judge_layout(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> Layout:
    """*fits*: made for just these inputs, legal and complete; *out of date*: inputs changed or pieces wait,
    still legal; *at fault*: not legal any more.
    """
    judged = _judged(plan, setup, shapes)
    if judged.state == "none" and not judged.unplaced:
        return judged
    return replace(judged, snags=(*judged.snags, *zone_notes(setup)))


def _judged(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> Layout:
    where: Where = {"setup": setup.id}
    wanted = {p.id: p.quantity for p in plan.parts_of(setup.id) if p.quantity and not p.missing}
    pieces = list(setup.nest.pieces) if setup.nest else []
    if not pieces:
        if not wanted:
            return Layout("none", (), {}, frozenset())
        if setup.nest and setup.nest.reasons:
            return Layout(
                "at fault", tuple(_unplaced(plan, setup, wanted)), wanted, frozenset(), "no piece has a place"
            )
        total = sum(wanted.values())
        return Layout(
            "none",
            (stop("nest.none", f"{total} piece{'s' * (total != 1)} not nested yet", where),),
            wanted,
            frozenset(),
        )
    try:
        inputs = _inputs(plan, setup, shapes)
    except BadInput as e:
        every = frozenset(q.id for q in pieces)
        why_not = stop("nest.impossible", str(e), where)
        return Layout("at fault", (why_not,), wanted, every, "nothing to lie on")

    def judge() -> list[tuple[int, str, int | None]]:
        problem = nest_problem(plan, setup, shapes)
        placements = [placement(q) for q in pieces]
        known = {s.id for s in problem.sheets}
        gone = [
            (i, "its sheet is not on hand any more", None)
            for i, pl in enumerate(placements)
            if pl.sheet not in known
        ]
        stray = [
            (i, "its part is not in this setup", None)
            for i, pl in enumerate(placements)
            if pl.part not in wanted
        ]
        good = [i for i, pl in enumerate(placements) if pl.sheet in known and pl.part in wanted]
        found = faults_between(problem, [placements[i] for i in good], remembered=True)
        met = [(good[i], why, None if other is None else good[other]) for i, why, other in found]
        return [*gone, *stray, *met]

    prints = "|".join(
        f"{q.part},{q.copy_no},{q.sheet},{q.sheet_copy},{q.x!r},{q.y!r},{q.rotation!r},{q.mirrored}"
        for q in pieces
    )
    wrong = memo("layout", digest(inputs, prints), judge)
    placed = Counter(q.part for q in pieces)
    unplaced = {p: n - placed[p] for p, n in wanted.items() if n > placed[p]}
    snags: list[Snag] = []
    names = {p.id: p.name for p in plan.parts}
    by_piece: dict[int, list[str]] = {}
    for i, why, _other in wrong:
        by_piece.setdefault(i, []).append(why.removeprefix(f"{pieces[i].part}: "))
    for i, whys in list(by_piece.items())[:8]:
        q = pieces[i]
        said = "; ".join(dict.fromkeys(whys))
        for part_id, name in names.items():
            said = said.replace(part_id, name)
        off = Remedy(
            label="Take the piece off its sheet",
            command={"kind": "take-off-piece", "setup": setup.id, "part": q.part, "copy_no": q.copy_no},
        )
        snags.append(
            stop(
                "nest.fault",
                f"{names.get(q.part, q.part)}, piece {q.copy_no + 1}: {said}",
                {**where, "piece": q.id},
                off,
            )
        )
    snags += _unplaced(plan, setup, unplaced)
    if wrong:
        short = fault_in_short([why for _i, why, _other in wrong])
        # of two that are too near, both are marked
        met = {i for one, _why, other in wrong for i in (one, other) if i is not None}
        return Layout("at fault", tuple(snags), unplaced, frozenset(pieces[i].id for i in met), short)
    fill = {p.id for p in plan.parts if p.fill}
    unplaced = {p: n for p, n in unplaced.items() if p not in fill}
    if unplaced or (setup.nest and setup.nest.inputs != inputs):
        if not unplaced:
            snags.append(
                look(
                    "nest.out-of-date",
                    "the layout is still legal, but parts, stock or spacing have changed since; nest again to"
                    " use the change",
                    where,
                )
            )
        return Layout("out of date", tuple(snags), unplaced, frozenset())
    return Layout("fits", tuple(snags), {}, frozenset())


@dataclass(frozen=True)
class Figures:
    """What a layout comes to: sheets, used length of the last one (mm), material yield and pieces."""

    sheets: int
    last: float
    material_yield: float
    pieces: int


def figures(plan: Plan, setup: Setup, nest: AcceptedNest, shapes: Mapping[str, Shape]) -> Figures:
    """Figures of an accepted or kept layout; pieces of parts or sheets that are gone do not count."""
    stock = {s.id: s for s in setup.stock}
    used: dict[tuple[str, int], float] = {}
    net = 0.0
    by_id = {p.id: p for p in plan.parts}
    known = [q for q in nest.pieces if q.part in by_id and q.sheet in stock]
    for q in known:
        shape = shapes[by_id[q.part].shape]
        net += shape.region.area
        where = (q.sheet, q.sheet_copy)
        used[where] = max(used.get(where, 0.0), q.x + shape.right(q.rotation, q.mirrored))
    if not used:
        return Figures(0, 0.0, 0.0, 0)
    last = min(used, key=lambda w: used[w] / stock[w[0]].width)
    material = (
        sum(stock[s].width * stock[s].height for s, c in used if (s, c) != last)
        + used[last] * stock[last[0]].height
    )
    return Figures(len(used), used[last], net / material, len(known))


def inputs_now(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> str:
    """Digest of the inputs that a nest started now would answer; empty when there is nothing to nest."""
    try:
        return _inputs(plan, setup, shapes)
    except BadInput:
        return ""


def find_place(
    plan: Plan,
    setup: Setup,
    shapes: Mapping[str, Shape],
    part_id: str,
    copy_no: int,
    sheet: str,
    sheet_copy: int,
) -> Placement:
    """A free place for one piece on a sheet, leftmost first, among the pieces that lie there already.

    Raises:
        BadInput: there is none, with what is missing.
    """
    from venzo.core.nesting.fill import Fill

    problem = nest_problem(plan, setup, shapes)
    kind = next((s for s in problem.sheets if s.id == sheet), None)
    part = next((p for p in problem.parts if p.id == part_id), None)
    if kind is None or part is None or sheet_copy >= kind.quantity:
        raise BadInput("no such part or sheet in this setup any more; the job was changed meanwhile")
    here = [
        placement(q)
        for q in (setup.nest.pieces if setup.nest else ())
        if (q.sheet, q.sheet_copy) == (sheet, sheet_copy) and (q.part, q.copy_no) != (part_id, copy_no)
    ]
    still = [
        pl.model_copy(update={"sheet_copy": 0}) for pl in here if any(p.id == pl.part for p in problem.parts)
    ]
    count = Counter(pl.part for pl in still)
    # the pieces that lie there keep their numbers; the one to be placed is the only one left over
    renumbered, seen = [], Counter[str]()
    for pl in still:
        renumbered.append(pl.model_copy(update={"copy_": seen[pl.part]}))
        seen[pl.part] += 1
    parts = [
        p.model_copy(update={"quantity": count[p.id] + (p.id == part_id), "fill": False, "group": None})
        for p in problem.parts
        if count[p.id] or p.id == part_id
    ]
    # screws of this one sheet are in the way too
    board = setup.stock_of(sheet)
    found = in_the_way(setup, board, plan.kerf(setup)) if board else []
    heads = [Keepout(shape=w.shape, clearance=w.clearance) for w in found if w.copy_no == sheet_copy]
    one = problem.model_copy(
        update={
            "sheets": [kind.model_copy(update={"quantity": 1, "keepouts": [*kind.keepouts, *heads]})],
            "parts": parts,
            "locked": renumbered,
            "steps": None,
        }
    )
    fill = Fill(one)
    draft = fill.next()
    new = draft.placements[len(renumbered) :] if draft else []
    if not new:
        name = next(p.name for p in plan.parts if p.id == part_id)
        stock = next(s.name for s in setup.stock if s.id == sheet)
        why = (
            fill.reason(part_id, False)
            .replace(f"sheet {sheet}", stock)
            .replace("the sheets in stock", "this sheet")
        )
        raise BadInput(
            f"{name}: no free place on that sheet of {stock}: {why}; move or take off another piece first"
        )
    return new[0].model_copy(update={"copy_": copy_no, "sheet_copy": sheet_copy})
