"""What people ask about holding and order: what holds this, which way is better, may this cut go there, where
could screws go.

The command line and the API both work through this room.
"""

from __future__ import annotations

import math
from typing import Literal
from weakref import WeakKeyDictionary

from venzo.core.derive import DerivedSetup, derive_setup
from venzo.core.edits.aimed import applied_to
from venzo.core.edits.hold import SetHold, SetOrder, Way
from venzo.core.faces.seen import seen
from venzo.core.holding.fixings import Cover
from venzo.core.holding.hand_work import HandWork, hand_work
from venzo.core.holding.screw_places import propose_covers, propose_screws
from venzo.core.holding.screws import Screw
from venzo.core.holding.strength import HoldRules
from venzo.core.holding.timeline import Held, Hold, SheetHold, hold_sheet
from venzo.core.model import Document, Point
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import MovedCut, OrderBy, Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.voice import counted
from venzo.store.store import Revision, Store

ORDERS: dict[OrderBy, str] = {
    "insides first": (
        "all insides while the sheet is whole, then outlines: every cutter once, parts stay tied longest"
    ),
    "outsides first": (
        "each outline before the insides of its piece: where something else than the sheet holds it then"
    ),
    "piece by piece": (
        "each outline as soon as its own insides are done: shortest travel, parts come free early"
    ),
    "small parts first": "small outlines while the sheet is stiff and the vacuum tight, large ones last",
    "heat spread": "no two cuts in a row near each other: for plastics that melt and thin metal that buckles",
}
WAYS: dict[Way, str] = {
    "tabs": "tabs: sure without vacuum, cut and cleaned by hand afterwards",
    "skin, last pass": (
        "onion skin, freed by a last pass: no tabs to clean, the table's surface is spared until the end; the"
        " last pass needs little force"
    ),
    "skin, by hand": (
        "onion skin left on: knife or flush-trim cutter at the bench; the program never cuts through"
    ),
    "nothing": "nothing but the table: good vacuum on parts large enough",
}


def one_setup(plan: Plan, setup_id: str) -> Setup:
    """The setup with an id; BadInput where there is none."""
    found = plan.setup(setup_id)
    if found is None:
        raise BadInput(f"the job has no setup {setup_id!r}")
    return found


def one_sheet(derived: DerivedSetup, sheet: str, copy_no: int) -> SheetPlan:
    """The sheet with an id and copy number; BadInput where nothing is cut on it."""
    found = next((s for s in derived.sheets if (s.sheet, s.copy_no) == (sheet, copy_no)), None)
    if found is None:
        raise BadInput(f"nothing is cut on sheet {sheet}, copy {copy_no + 1}; nest first")
    return found


def sheet_hold(store: Store, plan: Plan, derived: DerivedSetup, sheet: SheetPlan) -> SheetHold:
    """The hold of one sheet."""
    stock = derived.setup.stock_of(sheet.sheet)
    assert stock is not None
    return hold_sheet(plan, derived.setup, sheet, stock, store.shapes)


class HoldKind(Document):
    """What holds in one way: how many, N sideways and upwards, and where (mm)."""

    kind: str
    says: str
    count: int
    side: float
    up: float
    at: list[Point]


class HeldBy(Document):
    """How a piece, a drop or the sheet is held after a cut: N that hold and that load it; ``ratio`` None:
    nothing loads it.
    """

    cut: int
    kind: str
    side: float
    up: float
    load: float
    lift: float
    ratio: float | None
    area: float
    holds: list[HoldKind]


class HeldAt(HeldBy):
    """The same at a moment (s), in words."""

    at: float
    says: str


class WhatHolds(HeldBy):
    """What holds a piece after a cut, and through its whole program. ``pressure``: kPa."""

    pressure: float | None
    joined: bool
    freed: int | None
    loose: int | None
    cuts_left: int
    timeline: list[HeldAt]


class Figures(Document):
    """What a way of cutting comes to: s, mm, changes, the lowest hold and how many stops it raises."""

    seconds: float
    travel: float
    changes: int
    lowest: float | None
    stops: int


class OrderLine(Figures):
    """An order of cuts with its figures."""

    order_by: OrderBy
    why: str
    now: bool


class WayLine(Figures):
    """A way of holding the outlines with its figures and the hand work it leaves."""

    way: Way
    why: str
    now: bool
    tabs: int
    hand_seconds: int


class Lowest(Document):
    """The least held of all at its own cuts."""

    ratio: float | None
    piece: str
    cut: int
    kind: str


class SheetHolding(Document):
    """What the table and the tape show of a sheet's hold.

    ``pieces``: by id, rows (cut, ratio): after that cut the piece is held so many times its load. ``sheet``:
    the same of what is still one sheet. ``marks``: (cut, kind, piece): "loose", "thin", "stop", "drop".
    ``pressure``: kPa at the start and at the end.
    """

    pieces: dict[str, list[tuple[int, float | None]]]
    sheet: list[tuple[int, float | None]]
    marks: list[tuple[int, Literal["loose", "thin", "stop", "drop"], str]]
    freed: dict[str, int]
    loose: dict[str, int]
    margin: float
    lowest: Lowest | None
    pressure: Point | None


def what_holds(
    store: Store, plan: Plan, setup_id: str, sheet: str, copy_no: int, piece: str, cut: int
) -> WhatHolds:
    """What holds a piece after a cut (-1: before the first), with every number."""
    derived = derive_setup(plan, one_setup(plan, setup_id), store.shapes, hold=False)
    planned = one_sheet(derived, sheet, copy_no)
    hold = sheet_hold(store, plan, derived, planned)
    if not -1 <= cut < len(planned.cuts):
        raise BadInput(
            f"the sheet has {counted(len(planned.cuts), 'cut')}, numbered from 0; {cut} is none of them"
        )
    held = hold.at(piece, cut)
    if held is None:
        raise BadInput(f"piece {piece} is not on this sheet")
    mine = [k for k, c in enumerate(planned.cuts) if c.piece.id == piece]
    own = hold.of_piece.get(piece, ())
    timeline = [
        HeldAt(
            **dict(held_by(h)),
            at=_end(planned, h.cut),
            says=f"{planned.cuts[h.cut].cut.contour}, {planned.cuts[h.cut].cut.kind}",
        )
        for h in own
    ]
    return WhatHolds(
        **dict(held_by(held)),
        pressure=hold.pressures[cut + 1] if hold.pressures else None,
        joined=not held.frees,
        freed=hold.freed.get(piece),
        loose=hold.loose.get(piece),
        cuts_left=sum(k > cut for k in mine),
        timeline=timeline,
    )


def _end(sheet: SheetPlan, cut: int) -> float:
    return round(sheet.cuts[cut].begins + sheet.cuts[cut].seconds, 2)


def held_by(h: Held) -> HeldBy:
    """A finding for people; a ratio without load is None."""
    groups: dict[str, list[Hold]] = {}
    for x in h.holds:
        groups.setdefault(x.says, []).append(x)
    holds = [
        HoldKind(
            kind=g[0].kind,
            says=says,
            count=len(g),
            side=sum(round(x.side, 1) for x in g),
            up=sum(round(x.up, 1) for x in g),
            at=[(round(x.x, 1), round(x.y, 1)) for x in g],
        )
        for says, g in groups.items()
    ]
    return HeldBy(
        cut=h.cut,
        kind=h.kind,
        side=round(h.side, 1),
        up=round(h.up, 1),
        load=round(h.load, 1),
        lift=round(h.lift, 1),
        ratio=ratio(h.ratio),
        area=round(h.area, 1),
        holds=holds,
    )


def ratio(v: float) -> float | None:
    """A ratio for JSON: None where nothing loads."""
    return None if math.isinf(v) else round(min(v, 999.0), 3)


def lowest(hold: SheetHold, kinds: tuple[str, ...] = ("piece", "sheet")) -> Held | None:
    """The least held of all pieces at their own cuts, over the whole program."""
    own = (
        h
        for h in hold.held
        if h.kind in kinds
        and (h.load > 0.05 or h.lift > 0.05)
        and (h.kind != "piece" or hold.scene_at(h.cut).cuts[h.cut].piece.id == h.piece)
    )
    return min(own, key=lambda h: h.ratio, default=None)


def _figures(store: Store, plan: Plan, derived: DerivedSetup) -> Figures:
    worst: float = math.inf
    for sheet in derived.sheets:
        held = lowest(sheet_hold(store, plan, derived, sheet))
        worst = min(worst, held.ratio if held else math.inf)
    stops = [s for s in derived.snags if s.severity == "stop" and s.rule.startswith("holding.")]
    return Figures(
        seconds=round(sum(s.seconds for s in derived.sheets), 1),
        travel=round(sum(s.rapid_length for s in derived.sheets), 1),
        changes=sum(len(s.changes) for s in derived.sheets),
        lowest=ratio(worst),
        stops=len(stops),
    )


def compare_orders(store: Store, plan: Plan, setup_id: str, only: OrderBy | None = None) -> list[OrderLine]:
    """Every order of cuts (or ``only`` one) with its time, travel, cutter changes and lowest hold; hand moves
    are left out of all but the one in force.
    """
    setup = seen(plan, one_setup(plan, setup_id))[1]
    out = []
    for by, why in ORDERS.items():
        if only and by != only:
            continue
        now = by == setup.order_by
        other = plan if now else applied_to(plan, SetOrder(setup=setup_id, order_by=by, moved_cuts=()))
        figures = _figures(store, other, derive_setup(other, one_setup(other, setup_id), store.shapes))
        out.append(OrderLine(order_by=by, why=why, now=now, **dict(figures)))
    return out


def compare_ways(store: Store, plan: Plan, setup_id: str, only: Way | None = None) -> list[WayLine]:
    """Every way of holding the outlines (or ``only`` one) with machine time, hand work, lowest hold and
    stops, and the school it follows.
    """
    setup = seen(plan, one_setup(plan, setup_id))[1]
    rules: HoldRules = setup.rules.hold
    out = []
    for way, why in WAYS.items():
        if only and way != only:
            continue
        try:
            other = applied_to(plan, SetHold(setup=setup_id, way=way))
        except BadInput:
            return []
        derived = derive_setup(other, one_setup(other, setup_id), store.shapes)
        work = left_by_hand(derived)
        out.append(
            WayLine(
                way=way,
                why=why,
                now=same_way(setup, way),
                tabs=work.tabs,
                hand_seconds=round(work.seconds(rules)),
                **dict(_figures(store, other, derived)),
            )
        )
    return out


def left_by_hand(derived: DerivedSetup) -> HandWork:
    """What a setup's cuts leave to be done by hand."""
    work = HandWork()
    for sheet in derived.sheets:
        stock = derived.setup.stock_of(sheet.sheet)
        for mine in hand_work(sheet.cuts, stock.thickness if stock else 0.0).values():
            work += mine
    return work


def same_way(setup: Setup, way: Way) -> bool:
    """Are the setup's outlines held in this way now?"""
    steps = [o for o in setup.operations if o.on == "outlines" and o.kind == "profile"]
    skins = [o for o in steps if o.floor_allowance > 0]
    if skins:
        return way == ("skin, last pass" if steps[-1] not in skins else "skin, by hand")
    return bool(steps) and way == ("tabs" if setup.tabs_on("outlines").count else "nothing")


def move_cut(
    store: Store, job: str, base: int, setup_id: str, sheet: str, copy_no: int, cut: str, before: str
) -> Revision:
    """Put a cut just before another (or at the end) on one sheet, if the rules and the hold allow it.

    Raises:
        BadInput: a rule forbids it, or a piece would be cut with too little to hold it; the reason is said.
    """
    if cut == before:
        raise BadInput("a cut cannot go before itself")
    plan = store.get(job).plan
    setup = one_setup(plan, setup_id)
    was = derive_setup(plan, setup, store.shapes)
    one_sheet(was, sheet, copy_no)
    wanted = MovedCut(sheet=sheet, sheet_copy=copy_no, cut=cut, before=before)
    # a cut that is moved again has one place, the last
    rest = tuple(
        m for m in setup.moved_cuts if not (m.cut == cut and (m.sheet, m.sheet_copy) == (sheet, copy_no))
    )
    command = SetOrder(setup=setup_id, moved_cuts=(*rest, wanted))
    now = derive_setup(new := command.apply(plan), one_setup(new, setup_id), store.shapes)
    planned = one_sheet(now, sheet, copy_no)
    refused = next((why for m, why in planned.refused if m == wanted), None)
    if refused:
        raise BadInput(f"this cut cannot go there: {refused}")
    known = {s.message for s in was.snags if s.severity == "stop"}
    worse = next(
        (
            s
            for s in now.snags
            if s.severity == "stop" and s.rule.startswith("holding.") and s.message not in known
        ),
        None,
    )
    if worse:
        raise BadInput(f"this cut cannot go there: {worse.message}")
    return store.apply(job, base, command)


def screws_for(
    store: Store, plan: Plan, setup_id: str, sheet: str, copy_no: int, count: int, kind: str
) -> list[Screw]:
    """Places for screws on one sheet, as ``set-screws`` takes them."""
    derived = derive_setup(plan, one_setup(plan, setup_id), store.shapes, hold=False)
    planned = one_sheet(derived, sheet, copy_no)
    stock = derived.setup.stock_of(sheet)
    assert stock is not None
    found = propose_screws(
        derived.setup, planned, stock, sheet_hold(store, plan, derived, planned), count, kind
    )
    if not found:
        raise BadInput(
            "the layout leaves no waste in which a screw is clear of every cutter and its holder; keep a"
            " wider margin, or a skeleton between the pieces"
        )
    return found


def covers_for(plan: Plan, setup_id: str) -> list[Cover]:
    """Strips that cover the live spoilboard beside the sheet, as ``set-fixings`` takes them."""
    setup = one_setup(plan, setup_id)
    stock = next((s for s in setup.stock if s.quantity), None)
    return propose_covers(setup, stock) if stock else []


def sheet_holding(hold: SheetHold | None) -> SheetHolding | None:
    """What the table and the tape show of a sheet's hold; None while it is worked out."""
    if hold is None:
        return None
    if hold not in _shown:
        _shown[hold] = _sheet_holding(hold)
    return _shown[hold]


_shown: WeakKeyDictionary[SheetHold, SheetHolding] = WeakKeyDictionary()
"""What is shown of a hold, worked out once: most edits leave most sheets as they are held."""


def _sheet_holding(hold: SheetHold) -> SheetHolding:
    pieces: dict[str, list[tuple[int, float | None]]] = {}
    marks: list[tuple[int, Literal["loose", "thin", "stop", "drop"], str]] = []
    whole: list[tuple[int, float | None]] = []
    margin = hold.scene_at(-1).rules.margin
    for h in hold.held:
        loads = h.load > 0.05 or h.lift > 0.05
        if h.kind == "piece":
            pieces.setdefault(h.piece, []).append((h.cut, ratio(h.ratio)))
            if loads and h.ratio < margin:
                marks.append(
                    (
                        h.cut,
                        "stop"
                        if h.ratio < 1 and hold.scene_at(h.cut).cuts[h.cut].piece.id == h.piece
                        else "thin",
                        h.piece,
                    )
                )
        elif h.kind == "sheet" and loads:
            whole.append((h.cut, ratio(h.ratio)))
        elif h.kind == "drop" and h.frees and h.area > 300:
            marks.append((h.cut, "drop", h.piece))
    marks += [(k, "loose", q) for q, k in hold.loose.items()]
    worst = lowest(hold)
    return SheetHolding(
        pieces=pieces,
        sheet=whole,
        marks=marks,
        freed=dict(hold.freed),
        loose=dict(hold.loose),
        margin=margin,
        lowest=(
            Lowest(ratio=ratio(worst.ratio), piece=worst.piece, cut=worst.cut, kind=worst.kind)
            if worst
            else None
        ),
        pressure=(round(hold.pressures[0], 1), round(hold.pressures[-1], 1)) if hold.pressures else None,
    )
