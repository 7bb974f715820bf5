"""Everything that follows from a plan, computed on demand and never stale."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import partial, reduce

from shapely.errors import ShapelyError

from venzo.core.cuts.in_hand import PartToCut
from venzo.core.cuts.of_part import PartCuts, part_key, plan_part, setup_key, with_clear_tabs
from venzo.core.cuts.operations import Profile
from venzo.core.faces.face_snags import face_snags
from venzo.core.faces.face_turns import taken
from venzo.core.faces.faces_cut import FacesCut
from venzo.core.faces.left_by_first import LeftByFirst, left_by_both, left_by_first, left_singly
from venzo.core.faces.registration import Dowels
from venzo.core.faces.seen import OWN_WHEN_TURNED_BACK, face_before, face_up, first_face, seen
from venzo.core.faces.turn import turn_of
from venzo.core.holding.facing import facing
from venzo.core.holding.in_the_way import way_snags
from venzo.core.holding.screw_places import propose_screws
from venzo.core.holding.timeline import SheetHold, hold_ready, hold_sheet
from venzo.core.holding.verdict import hold_snags
from venzo.core.indexing.index_snags import Indexed, index_snags
from venzo.core.kerf.kerf_costs import kerf_cost
from venzo.core.kerf.of_setup import KerfSheet, kerf_sheets, net_area, right_end
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.layout import Layout, judge_layout
from venzo.core.order.of_sheet import SheetPlan, plan_sheet
from venzo.core.parts.alter import Alteration, alter, says
from venzo.core.parts.measure import part_snags
from venzo.core.parts.shape import Shape
from venzo.core.plan import ContourChoice, Part, Plan, Setup, StepsChoice
from venzo.core.proof.assembled import boards_of, joint_snags
from venzo.core.proof.limits import setup_snags, sheet_snags
from venzo.core.relief.kept_surface import surfaces_of
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.set_on_part import relief_snags
from venzo.core.snags import BadInput, Remedy, Snag, Where, look, stop
from venzo.core.stock.sheet import Stock, thickness_snags
from venzo.core.voice import counted
from venzo.core.yields.sheet_yield import JobYield, SheetYield, both_faces, job_yield, sheet_yield

UNDERIVED = "plan.underived"
RANK = {"stop": 0, "look": 1, "note": 2}
"""The order in which snags are listed."""


@dataclass(frozen=True)
class DerivedSetup:
    """All that follows for one setup. ``cuts``: by stock id, then (part id, mirrored)."""

    setup: Setup
    layout: Layout
    cuts: dict[str, dict[tuple[str, bool], PartCuts]]
    sheets: tuple[SheetPlan, ...]
    yields: JobYield
    snags: tuple[Snag, ...]
    holds: tuple[SheetHold | None, ...] = ()
    """Of each sheet what holds its pieces; None: still to be worked out."""
    own: Mapping[str, PartCuts] = field(default_factory=dict)
    """Cuts of single pieces whose tabs lie elsewhere than on the part's other copies."""
    numbers: tuple[int, ...] = ()
    """Where these sheets are some of the setup's: the numbers that they have in the whole."""
    of: int = 0
    """Sheets of the whole setup; 0: these are all."""
    begun: Mapping[tuple[str, int], int] = field(default_factory=dict)
    """Of a sheet (stock line, copy) how many programs went out before: numbers go on from there."""
    wholes: Mapping[tuple[str, int], SheetPlan] = field(default_factory=dict)
    """Of sheets with only some of their cuts the whole ones."""
    first: DerivedSetup | None = None
    """Of stock that was turned over what follows for its first face."""
    back: DerivedSetup | None = None
    """Of stock that is turned over what follows for its other face."""
    again: DerivedSetup | None = None
    """Of stock that is turned back what follows for its first face once more."""
    kerf: tuple[KerfSheet, ...] = ()
    """Of a kerf table its sheets, in place of ``sheets``."""

    @property
    def underived(self) -> bool:
        """Could it not be planned at all?"""
        return any(s.rule == UNDERIVED for s in self.snags)

    @property
    def numbered(self) -> list[tuple[int, SheetPlan]]:
        """The sheets with their numbers, from 1; of a part of the setup those that they have in the whole."""
        return list(zip(self.numbers or range(1, len(self.sheets) + 1), self.sheets, strict=True))

    @property
    def count(self) -> int:
        """Sheets of the whole setup."""
        return self.of or len(self.sheets)

    @property
    def turns_before(self) -> tuple[DerivedSetup, ...]:
        """The turns of the same stock that are cut before this one, in running order."""
        return tuple(d for d in (self.first, self.back) if d) if self.first else ()

    @property
    def turns_after(self) -> tuple[DerivedSetup, ...]:
        """The turns of the same stock that are cut after this one, in running order."""
        later = (self.back, self.again) if self.first is None else (self.again,)
        return tuple(d for d in later if d)

    def cut_in(self, sheet: SheetPlan) -> SheetPlan | None:
        """A sheet of another turn of the same stock as it is cut here; None where it is not, or its pieces
        are turned one by one.
        """
        at = (sheet.sheet, sheet.copy_no)
        return next((s for s in self.sheets if (s.sheet, s.copy_no) == at), None)

    def cut_of(self, sheet: SheetPlan) -> list[SheetPlan]:
        """What is cut here of the pieces of a sheet of the first turn: the same sheet, or each of its pieces
        by itself.
        """
        if self.setup.role is None or not self.setup.role.singly:
            found = self.cut_in(sheet)
            return [found] if found else []
        mine = {q.id for q in sheet.pieces}
        return [s for s in self.sheets if any(q.id in mine for q in s.pieces)]

    @property
    def yields_of_both(self) -> JobYield:
        """The sums with the time and the lengths of all turns; of any turn but the first its own."""
        if self.first is not None:
            return self.yields
        sheets = list(self.yields.sheets)
        for later in self.turns_after:
            theirs = {(y.sheet, y.copy_no): y for y in later.yields.sheets}
            for i, s in enumerate(self.sheets):
                for there in later.cut_of(s):
                    sheets[i] = both_faces(sheets[i], theirs[there.sheet, there.copy_no])
        return job_yield(sheets, self.yields.bound, self.setup) if self.turns_after else self.yields

    @property
    def cutters_used(self) -> list[str]:
        """Ids of the cutters that cut something, by tool number."""
        used = {c.cut.cutter for s in self.sheets for c in s.cuts} or {
            c.cutter for parts in self.cuts.values() for pc in parts.values() for c in pc.cuts
        }
        numbers = {c.id: c.number for c in self.setup.cutters}
        return sorted(used, key=lambda i: numbers.get(i, 0))


def derive(plan: Plan, shapes: Mapping[str, Shape], hold: bool = True) -> dict[str, DerivedSetup]:
    """Derive every setup of a plan; ``shapes`` maps the digests the plan refers to. ``hold`` False: only such
    holds as are known already.

    A setup that cannot be derived is a *stop* that says why, so that the plan still opens and the edit can be
    undone.
    """
    out: dict[str, DerivedSetup] = {}
    for s in plan.setups:
        try:
            out[s.id] = derive_setup(plan, s, shapes, hold, out)
        except BadInput as e:
            out[s.id] = _underived(s, str(e))
        except (
            ShapelyError,
            ArithmeticError,
            AttributeError,
            LookupError,
            MemoryError,
            RuntimeError,
            TypeError,
            ValueError,
        ) as e:
            logging.getLogger("venzo").exception("plan %s, setup %s", plan.id, s.id)
            out[s.id] = _underived(s, f"{type(e).__name__}: {e}")
    for d in list(out.values()):
        if d.back is not None and d.first is not None:
            for turn in (d.first.setup.id, d.back.setup.id):
                out[turn] = replace(out[turn], again=d)
        elif d.first is not None:
            out[d.first.setup.id] = replace(out[d.first.setup.id], back=d)
    return _with_joints(plan, shapes, out)


def _with_joints(
    plan: Plan, shapes: Mapping[str, Shape], out: dict[str, DerivedSetup]
) -> dict[str, DerivedSetup]:
    """What is to be said of joints, whose boards may be cut in several setups, each with its setup."""
    for drawing in plan.drawings:
        boards = boards_of(plan, drawing, {i: d.cuts for i, d in out.items()}, shapes)
        for setup, snag in joint_snags(drawing, boards) if boards else []:
            d = out[setup]
            out[setup] = replace(d, snags=tuple(sorted((*d.snags, snag), key=lambda s: RANK[s.severity])))
    return out


def _underived(setup: Setup, why: str) -> DerivedSetup:
    """A setup of which nothing follows, and why."""
    words = (
        f"this setup cannot be planned as it stands: {' '.join(why.split())[:300]}; undo the last edit, or"
        " change what it names"
    )
    snags = (stop(UNDERIVED, words, {"setup": setup.id}),)
    return DerivedSetup(
        setup, Layout("at fault", (), {}, frozenset(), "not planned"), {}, (), job_yield([], 0, setup), snags
    )


def check_derives(
    plan: Plan, shapes: Mapping[str, Shape], before: Plan | None = None
) -> dict[str, DerivedSetup]:
    """Refuse a plan of which a setup cannot be derived, unless it could not be ``before`` either, and one
    that mixes parts with a board to surface. Returns what follows, with such holds as are known.

    Raises:
        BadInput: naming what cannot be planned.
    """
    if plan.kind != "parts" and (plan.setups or plan.parts or plan.drawings or plan.orders):
        does = "surfaces a board" if plan.surface else "runs sheets of other jobs"
        raise BadInput(f"{plan.name} {does}; parts go into a job of their own")
    _check_turned(plan, before)
    _check_indexed(plan)
    derived = derive(plan, shapes, False)
    failed = {i: d for i, d in derived.items() if d.underived}
    was = {i for i, d in derive(before, shapes, False).items() if d.underived} if failed and before else set()
    for i, d in failed.items():
        if i not in was:
            raise BadInput(f"nothing was changed: {d.snags[0].message.split('; undo')[0]}")
    return derived


def _check_turned(plan: Plan, before: Plan | None) -> None:
    """Refuse a plan in which an other face has a layout, stock or parts of its own, or no first face, and an
    edit of what its registration decides.

    Raises:
        BadInput: naming the setup, and where to change it instead.
    """
    for s in plan.setups:
        if s.turned_back is not None:
            _check_turned_back(plan, s, before.setup(s.id) if before else None)
        if s.other_face is None:
            continue
        first = first_face(plan, s)
        own = "a layout" if s.nest else "stock" if s.stock else "parts" if plan.parts_of(s.id) else ""
        if own:
            raise BadInput(
                f"{s.name} has no {own} of its own: it is {first.name} turned over; change that one"
            )
        was = before.setup(s.id) if before else None
        decided = [
            "datum",
            *(["sheet_at", "edge_at"] if isinstance(s.other_face.registration, Dowels) else []),
        ]
        if was and any(getattr(was, k) != getattr(s, k) for k in decided):
            raise BadInput(
                f"{s.name} is zeroed and lies as its registration has it; change {first.name}, or how it is"
                " registered"
            )


def _check_turned_back(plan: Plan, setup: Setup, was: Setup | None) -> None:
    """Refuse a plan in which what is turned back has parts of its own, or is changed in what it has of the
    first face.

    Raises:
        BadInput: naming the setup, and where to change it instead.
    """
    other = face_before(plan, setup)
    if other.other_face is not None and other.other_face.singly:
        raise BadInput(
            f"{other.name}: its pieces are turned one by one, cut out before: there is no stock to turn back;"
            " cut one face and then the other"
        )
    first = first_face(plan, other)
    changed = was is not None and any(
        getattr(was, k) != getattr(setup, k) for k in Setup.model_fields if k not in OWN_WHEN_TURNED_BACK
    )
    if changed or setup.nest or setup.stock or plan.parts_of(setup.id):
        raise BadInput(
            f"{setup.name} is {first.name} once more, with its stock, layout, cutters and steps; change that"
            " one"
        )


def _check_indexed(plan: Plan) -> None:
    """Refuse a plan in which stock that is moved along the table is turned over as well, or lies crooked.

    Raises:
        BadInput: naming the setup.
    """
    for s in plan.setups:
        if s.indexing is None:
            continue
        if s.follows or plan.other_face_of(s.id) is not None:
            raise BadInput(
                f"{s.name}: stock that is moved along the table is not turned over as well; cut it to length"
                " first, or leave it where it lies"
            )
        if s.edge_at is not None:
            raise BadInput(
                f"{s.name}: stock that is moved along the table lies straight: it runs along a fence or on"
                " pins; set its turn back to none"
            )


def derive_setup(
    plan: Plan,
    setup: Setup,
    shapes: Mapping[str, Shape],
    hold: bool = True,
    done: Mapping[str, DerivedSetup] | None = None,
) -> DerivedSetup:
    """Cuts, layout, order, hold, yield and snags of one setup; ``done``: what follows for others, where it
    was worked out already.
    """
    if setup.machine.head is not None:
        return _on_kerf_table(plan, setup, shapes)
    turns = _turns_before(plan, setup, shapes, done or {})
    first = turns[0] if turns else None
    plan, setup = seen(plan, setup, shapes)
    layout = _image(first.layout) if first else judge_layout(plan, setup, shapes)
    spacing = plan.spacing(setup)
    snags: list[Snag] = [*setup_snags(setup, spacing), *layout.snags]
    drawings = {p.drawing for p in plan.parts_of(setup.id)}
    for d in plan.drawings:
        if d.id in drawings:
            snags += [of_drawing(s, d.id) for s in d.snags]
    cuts: dict[str, dict[tuple[str, bool], PartCuts]] = {}
    own: dict[str, PartCuts] = {}
    sheets: list[SheetPlan] = []
    holds: list[SheetHold | None] = []
    wholes: dict[tuple[str, int], SheetPlan] = {}
    about = ""
    parts = [p for p in plan.parts_of(setup.id) if not p.missing]
    snags += [_missing(p) for p in plan.parts_of(setup.id) if p.missing]
    if first is None:
        snags += _part_snags(plan, setup, parts, shapes)
    said: set[tuple[str, str]] = set()
    key, table_key = setup_key(setup), _table_key(setup)
    by_part = _by_part(plan)
    used = sorted({(q.sheet, q.sheet_copy) for q in setup.nest.pieces}) if setup.nest else []
    for stock in setup.stock:
        on_it = [c for s, c in used if s == stock.id]
        if not on_it and used:
            continue
        if stock.quantity and not setup.in_jig:  # pieces are as thick as what they were cut from
            snags += thickness_snags(stock, setup.rules.spread_limit, setup.rules.nominal_share, setup.id)
        mirrored = {(q.part, q.mirrored) for q in setup.nest.pieces} if setup.nest else set()
        here: dict[tuple[str, bool], PartCuts] = {}
        surfaces = surfaces_of(shapes)
        for p in parts:
            if not p.quantity or not _lies_on(setup, stock, p):
                continue
            choices, steps = by_part(p.id)
            choices = _tied_as_first(first, setup, stock.id, p, shapes, choices)
            for flip in sorted({m for part, m in mirrored if part == p.id} | {False}):
                thick = round(stock.thickness, 4)
                wanted = PartToCut(p, shapes[p.shape], setup, choices, steps, thick, spacing, flip, surfaces)
                pc = plan_part(wanted, key)
                here[p.id, flip] = pc
                for s in pc.snags if setup.turned_back is None else ():  # said where it was roughed
                    if (s.rule, s.message) not in said:
                        said.add((s.rule, s.message))
                        snags.append(s)
        cuts[stock.id] = here
        for c in on_it:
            if first is not None and setup.halves:
                clear = _own_as_first(first, plan, setup, (stock, c), shapes, spacing)
            else:
                clear = _clear_tabs(plan, setup, stock, c, shapes, here, spacing, key)
            own |= clear
            whole = plan_sheet(plan, setup, stock.id, c, shapes, here, clear)
            sheet = taken(plan, setup, whole)
            if sheet is not whole:
                wholes[stock.id, c] = whole
            sheets.append(sheet)
            snags += _on_table(setup, sheet, stock, table_key)
            snags += _moves(setup, whole)
            left = _left(turns, setup, sheet, stock)
            if hold or hold_ready(setup, sheet, stock, left):
                held = hold_sheet(plan, setup, sheet, stock, shapes, left)
                holds.append(held)
                about = about or digest(
                    setup.model_copy(update={"nest": None, "kept": ()}),
                    [(p.id, p.name, p.shape) for p in plan.parts],
                )
                snags += memo(
                    "hold-snags",
                    f"{held.key}|{about}|{digest(stock)}",
                    partial(hold_snags, plan, setup, sheet, stock, held, shapes),
                )
            else:
                holds.append(None)
    snags = _hold_the_sheet(setup, sheets, holds, snags)
    snags += index_snags(Indexed(plan, setup, sheets, shapes))
    before = first.cuts if first else None
    snags += face_snags(FacesCut(plan, setup, cuts, sheets, shapes, before, tuple(wholes.values())))
    yields = [sheet_yield(plan, setup, s, _stock(setup, s.sheet), shapes) for s in sheets]
    snags = _asked_once(snags)
    snags.sort(key=lambda s: RANK[s.severity])
    return DerivedSetup(
        setup,
        layout,
        cuts,
        tuple(sheets),
        job_yield(yields, setup.nest.bound if setup.nest else 0, setup),
        tuple(snags),
        tuple(holds),
        own,
        wholes=wholes,
        first=first,
        back=turns[1] if len(turns) > 1 else None,
    )


def _table_key(setup: Setup) -> str:
    """Digest of all that stands on a machine's table, of how the sheet lies there, and of what cuts it."""
    return digest(
        setup.id,
        setup.screws,
        setup.fixings,
        setup.machine,
        setup.cutters,
        setup.holders,
        setup.rules.hold,
        [setup.sheet_at, setup.edge_at, setup.indexing, setup.z_zero],
    )


def _on_table(setup: Setup, sheet: SheetPlan, stock: Stock, table: str) -> list[Snag]:
    """Judgements on the cuts of a sheet against its table and all that is in the way; ``table``:
    ``_table_key``.
    """
    key = digest(sheet.key, table, stock)
    return [
        *memo("limits", key, partial(sheet_snags, setup, sheet, stock)),
        *memo("way", key, partial(way_snags, setup, sheet, stock)),
    ]


def _turns_before(
    plan: Plan, setup: Setup, shapes: Mapping[str, Shape], done: Mapping[str, DerivedSetup]
) -> tuple[DerivedSetup, ...]:
    """What follows for the turns of the same stock before a setup, in running order."""
    if setup.turned_back is not None:
        other = face_before(plan, setup)
        before = [first_face(plan, other), other]
    elif setup.other_face is not None:
        before = [first_face(plan, setup)]
    else:
        return ()
    return tuple(done.get(s.id) or derive_setup(plan, s, shapes, False, done) for s in before)


def _lies_on(setup: Setup, stock: Stock, p: Part) -> bool:
    """May a part lie on a kind of sheet? Where pieces are turned one by one each is stock of its own."""
    if not setup.in_jig or setup.nest is None:
        return True
    return any(q.part == p.id and q.sheet == stock.id for q in setup.nest.pieces)


def _image(layout: Layout) -> Layout:
    """How a layout stands where the sheets are turned: as on the first face, where all is said of it."""
    return Layout(layout.state, (), {}, layout.at_fault, layout.fault)


def _left(turns: Sequence[DerivedSetup], setup: Setup, sheet: SheetPlan, stock: Stock) -> LeftByFirst | None:
    """What the turns before have left of a sheet: what the other face cut lies turned over, what this face
    cut lies as it lay.
    """
    over = next((t for s in (setup, *(d.setup for d in turns)) if (t := s.other_face)), None)
    if over is not None and over.singly:
        (lies,) = sheet.pieces
        whole = next(s for s in turns[0].sheets if lies.id in {q.id for q in s.pieces})
        return left_singly(turns[0].setup, whole, lies, stock.thickness)
    found = []
    for d in turns:
        before = d.cut_in(sheet)
        if before is not None and over is not None:
            same = face_up(d.setup) == face_up(setup)
            found.append(left_by_first(d.setup, before, stock, None if same else turn_of(over.axis, stock)))
    return reduce(left_by_both, found) if found else None


def _on_kerf_table(plan: Plan, setup: Setup, shapes: Mapping[str, Shape]) -> DerivedSetup:
    """Layout, kerfs, yield and snags of a setup on a kerf table."""
    layout = judge_layout(plan, setup, shapes)
    snags: list[Snag] = [*setup_snags(setup, plan.spacing(setup)), *layout.snags]
    parts = plan.parts_of(setup.id)
    drawings = {p.drawing for p in parts}
    for d in plan.drawings:
        if d.id in drawings:
            snags += [of_drawing(s, d.id) for s in d.snags]
    snags += [_missing(p) for p in parts if p.missing]
    snags += _part_snags(plan, setup, [p for p in parts if not p.missing], shapes)
    for stock in setup.stock:
        if stock.quantity:
            snags += thickness_snags(stock, setup.rules.spread_limit, setup.rules.nominal_share, setup.id)
    sheets, said = kerf_sheets(plan, setup, shapes)
    snags += said
    yields = [_kerf_yield(setup, s, _stock(setup, s.sheet)) for s in sheets]
    snags.sort(key=lambda s: RANK[s.severity])
    return DerivedSetup(
        setup,
        layout,
        {},
        (),
        job_yield(yields, setup.nest.bound if setup.nest else 0, setup),
        tuple(snags),
        kerf=tuple(sheets),
    )


def _kerf_yield(setup: Setup, sheet: KerfSheet, stock: Stock) -> SheetYield:
    """Figures of one sheet of a kerf table."""
    net = net_area(sheet)
    price = stock.price if stock.price is not None else stock.area * setup.material.price_m2 / 1e6
    cost = kerf_cost(setup, sheet.run.time, sheet.run.head_on, sheet.run.pierces)
    return SheetYield(
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        pieces=len(sheet.pieces),
        net_area=net,
        sheet_area=stock.area,
        utilisation=net / stock.area,
        used_length=right_end(sheet),
        cut_length=sheet.run.cut_length,
        rapid_length=sheet.run.hop_length + sheet.run.lift_length,
        seconds=sheet.run.time,
        material_cost=price,
        machine_cost=cost.machine,
        running_cost=cost.total - cost.machine,
        net_mass=net * stock.thickness * setup.material.density / 1e9,
        priced=stock.price is not None or setup.material.price_m2 > 0,
    )


def _missing(p: Part) -> Snag:
    return stop(
        "parts.missing",
        f"{p.name}: the newer drawing no longer has this part; remove it, or bring the older drawing back",
        {"part": p.id},
    )


ASKED_ONCE = ("cuts.closed-line",)
"""Rules whose one answer does for the whole setup."""


def _asked_once(snags: list[Snag]) -> list[Snag]:
    """Questions with one answer for all of a setup as one snag that names the others."""
    alike = [s for s in snags if s.rule in ASKED_ONCE]
    if len(alike) < 2:
        return snags
    others = ", ".join(s.message.split(":")[0] for s in alike[1:4])
    more = f" and {len(alike) - 4} more" if len(alike) > 4 else ""
    first = alike[0].model_copy(update={"message": f"{alike[0].message}; also {others}{more}"})
    return [first if s is alike[0] else s for s in snags if s is alike[0] or s not in alike]


def _hold_the_sheet(
    setup: Setup, sheets: Sequence[SheetPlan], holds: Sequence[SheetHold | None], snags: list[Snag]
) -> list[Snag]:
    """Where nothing holds the sheet: screws where the layout has waste for them, in place of any in its
    corners.
    """
    if not any(s.rule == "holding.sheet" for s in snags) or not sheets or any(h is None for h in holds):
        return snags
    new = [
        x
        for sheet, h in zip(sheets, holds, strict=True)
        if h is not None
        for x in propose_screws(setup, sheet, _stock(setup, sheet.sheet), h, 8)
    ]
    named = [s.model_copy(update={"id": f"w{k + 1}"}).model_dump(mode="json") for k, s in enumerate(new)]
    screw = Remedy(
        label=f"{counted(len(named), 'screw')} in the waste",
        command={"kind": "set-screws", "setup": setup.id, "screws": named},
    )
    out = []
    for s in snags:
        if s.rule == "holding.sheet":
            rest = tuple(r for r in s.remedies if r.command["kind"] != "set-screws")
            s = s.model_copy(update={"remedies": (*rest, screw) if named else rest})
        out.append(s)
    return out


def _moves(setup: Setup, sheet: SheetPlan) -> list[Snag]:
    """Hand moves that no longer go, and stops before cuts that are no longer made."""
    out = []
    for s in sheet.stops_lost:
        drop = Remedy(
            label="Take this stop out",
            command={"kind": "change-stops", "setup": setup.id, "drop": [s.id]},
        )
        out.append(
            stop(
                "order.stop",
                f'the stop for the operator ("{s.words}") was before a cut that is no longer made'
                f" ({s.before}); put it elsewhere, or take it out",
                {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no},
                drop,
            )
        )
    for m, why in sheet.refused:
        rest = [o.model_dump(mode="json") for o in setup.moved_cuts if o != m]
        where: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
        drop = Remedy(
            label="Drop this move", command={"kind": "set-order", "setup": setup.id, "moved_cuts": rest}
        )
        out.append(
            look(
                "order.by-hand",
                f"a cut that was moved by hand is back in its usual place: {why}",
                where,
                drop,
            )
        )
    return out


def _by_part(plan: Plan) -> Callable[[str], tuple[list[ContourChoice], list[StepsChoice]]]:
    """Hand choices and own steps by part, found without going through all of them for every piece."""
    choices: dict[str, list[ContourChoice]] = {}
    steps: dict[str, list[StepsChoice]] = {}
    for c in plan.choices:
        choices.setdefault(c.part, []).append(c)
    for s in plan.steps:
        steps.setdefault(s.part, []).append(s)
    return lambda part: (choices.get(part, []), steps.get(part, []))


def _clear_tabs(
    plan: Plan,
    setup: Setup,
    stock: Stock,
    copy_no: int,
    shapes: Mapping[str, Shape],
    here: Mapping[tuple[str, bool], PartCuts],
    spacing: float,
    key: str,
) -> dict[str, PartCuts]:
    """Pieces of a sheet whose automatic tabs are moved clear of their neighbours' cuts."""
    if setup.nest is None:
        return {}
    pieces = [
        q
        for q in setup.nest.pieces
        if (q.sheet, q.sheet_copy) == (stock.id, copy_no) and (q.part, q.mirrored) in here
    ]
    by_id = {p.id: p for p in plan.parts}
    out: dict[str, PartCuts] = {}
    at = {q.id: q for q in pieces}
    by_part, surfaces = _by_part(plan), surfaces_of(shapes)
    asked: dict[tuple[str, bool], tuple[PartToCut, str]] = {}  # of a part the same for all of its pieces
    for q_id, blocked in facing(plan, setup, pieces, stock, shapes).items():
        q, p = at[q_id], by_id[at[q_id].part]
        base = here[q.part, q.mirrored]
        if (p.id, q.mirrored) not in asked:
            choices, steps = by_part(p.id)
            thick = round(stock.thickness, 4)
            wanted = PartToCut(
                p, shapes[p.shape], setup, choices, steps, thick, spacing, q.mirrored, surfaces
            )
            asked[p.id, q.mirrored] = wanted, part_key(wanted, key)
        new = with_clear_tabs(base, *asked[p.id, q.mirrored], blocked)
        if new is not base:
            out[q_id] = new
    return out


def _tied_as_first(
    first: DerivedSetup | None,
    setup: Setup,
    stock: str,
    p: Part,
    shapes: Mapping[str, Shape],
    choices: list[ContourChoice],
) -> list[ContourChoice]:
    """Hand choices for a part; where its outline is cut half from each face its tabs are where the first face
    has them, or they would not meet.
    """
    if first is None or not setup.halves:
        return choices
    planned = first.cuts.get(stock, {})
    cuts = planned.get((p.id, False)) or planned.get((p.id, True))
    return _tied(cuts, p, shapes, choices)


def _tied(
    cuts: PartCuts | None, p: Part, shapes: Mapping[str, Shape], choices: list[ContourChoice]
) -> list[ContourChoice]:
    name = shapes[p.shape].names[0]
    plan = cuts.of(name) if cuts else None
    if plan is None:
        return choices
    own = next((c for c in choices if c.contour == name), ContourChoice(part=p.id, contour=name))
    tied = own.model_copy(update={"tabs": plan.tabs})
    return [*(c for c in choices if c.contour != name), tied]


def _own_as_first(
    first: DerivedSetup,
    plan: Plan,
    setup: Setup,
    on: tuple[Stock, int],
    shapes: Mapping[str, Shape],
    spacing: float,
) -> dict[str, PartCuts]:
    """Pieces of a sheet whose tabs lie elsewhere than on the part's others on the first face."""
    stock, copy_no = on
    key, by_part, by_id = setup_key(setup), _by_part(plan), {p.id: p for p in plan.parts}
    out: dict[str, PartCuts] = {}
    for q in setup.nest.pieces if setup.nest else ():
        if (q.sheet, q.sheet_copy) != (stock.id, copy_no) or q.id not in first.own or q.part not in by_id:
            continue
        p = by_id[q.part]
        choices, steps = by_part(p.id)
        tied = _tied(first.own[q.id], p, shapes, choices)
        thick = round(stock.thickness, 4)
        surfaces = surfaces_of(shapes)
        out[q.id] = plan_part(
            PartToCut(p, shapes[p.shape], setup, tied, steps, thick, spacing, q.mirrored, surfaces), key
        )
    return out


def of_drawing(s: Snag, drawing: str) -> Snag:
    """A snag of a drawing with the drawing's id, also in its remedies."""
    remedies = tuple(r.model_copy(update={"command": {**r.command, "drawing": drawing}}) for r in s.remedies)
    return s.model_copy(update={"where": {**(s.where or {}), "drawing": drawing}, "remedies": remedies})


def _part_snags(plan: Plan, setup: Setup, parts: list[Part], shapes: Mapping[str, Shape]) -> list[Snag]:
    """Judgements on parts as they are, and alterations that no longer find what they were made for."""
    used = {o.cutter for o in setup.operations if isinstance(o, Profile) and o.on in ("outlines", "holes")}
    cutters = [c for c in setup.cutters if c.id in used]
    mates = [(k.name, k.thickness) for s in plan.setups for k in s.stock if k.quantity]
    mates += [(m.name, m.thickness) for m in plan.mates]
    spread = max((s.spread for s in setup.stock), default=0.0)
    out: list[Snag] = []
    for p in parts:
        out += part_snags(
            p.id, p.name, shapes[p.shape], cutters, mates, setup.rules.joint_clearance, setup.rules.least_web
        )
        out += relief_snags(p.id, p.name, shapes[p.shape], p.alterations, spread)
        for k, a in enumerate(p.alterations):
            lost = memo(
                "altered",
                digest(p.drawn, p.alterations[: k + 1]),
                partial(_lost, shapes[p.drawn], p.alterations[: k + 1], surfaces_of(shapes)),
            )
            drop = Remedy(
                label="Drop this alteration", command={"kind": "alter-part", "part": p.id, "drop": k}
            )
            for why in lost:
                severity = stop if why.startswith(says(a)) else look
                out.append(severity("parts.alteration", f"{p.name}: {why}", {"part": p.id}, drop))
    return out


def _lost(drawn: Shape, alterations: Sequence[Alteration], pictures: Mapping[str, Mesh]) -> list[str]:
    before = alter(drawn, alterations[:-1], pictures)[1]
    return alter(drawn, alterations, pictures)[1][len(before) :]


def _stock(setup: Setup, stock_id: str) -> Stock:
    found = setup.stock_of(stock_id)
    assert found is not None
    return found
