"""What else could an order be? One piece more, other sheets, the rack's remnants, price breaks, pieces
spoilt, another machine: questions made of a plan, and what their answers come to.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.derive import DerivedSetup
from venzo.core.edits import SetSetup
from venzo.core.model import Document, Id, Value
from venzo.core.nesting.buying import MOST_QUANTITIES, as_many_as_wanted
from venzo.core.nesting.layout import nest_problem
from venzo.core.nesting.problem import MOST_PIECES, NestProblem
from venzo.core.nesting.questions import Answer, Asked, CheapestAsked, CurveAsked, NestAsked, Quantity
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.core.stock.sheet import Stock
from venzo.core.voice import counted
from venzo.core.yields.costs import JobCost, sheet_minutes
from venzo.desk import jobs
from venzo.desk.rack import standing
from venzo.desk.rack_of_job import NEAR, suits
from venzo.desk.yields import job_use
from venzo.store.store import NotFound, Store

Times = Annotated[int, Field(ge=1, le=1000)]
Seconds = Annotated[float, Field(gt=0, le=600)]


class OneMore(Value):
    """What does each quantity of a part cost, from now up to ``last``?"""

    kind: Literal["one more"] = "one more"
    part: Id
    last: Annotated[int, Field(ge=1, le=10_000)]


class WhichSheets(Value):
    """Which sheets of the market list, the library's stock, are cheapest for this order?"""

    kind: Literal["which sheets"] = "which sheets"


class OutOfRack(Value):
    """Remnants of the rack at what they are worth, or new sheets?"""

    kind: Literal["out of the rack"] = "out of the rack"


class Breaks(Value):
    """What does a set cost where several are made in one go?"""

    kind: Literal["breaks"] = "breaks"
    times: Annotated[tuple[Times, ...], Field(min_length=1, max_length=8)] = (1, 2, 5, 10)


class Spoilt(Value):
    """What does it take to have enough where one piece in ``one_in`` fails?"""

    kind: Literal["spoilt"] = "spoilt"
    one_in: Annotated[int, Field(ge=2, le=1000)] = 10


WhatIf = Annotated[OneMore | WhichSheets | OutOfRack | Breaks | Spoilt, Field(discriminator="kind")]


class WhatIfLine(Document):
    """One way it could be: in words, the sheets it takes, what they cost and what all comes to (None: no
    price), for one set, and pieces without a place.
    """

    says: str
    sheets: int
    counts: dict[str, int]
    material: float | None
    total: float | None = None
    each: float | None = None
    unplaced: int
    why: str = ""


class KindOfSheet(Document):
    """A kind of sheet that is named in an outcome; mm."""

    id: str
    name: str
    width: float
    height: float


class LaidPiece(Document):
    """A piece of a layout that was found: of which part, on which sheet, where and how it lies."""

    part: str
    sheet: str
    sheet_copy: int
    x: float
    y: float
    rotation: float
    mirrored: bool


class Outcome(Document):
    """What a question comes to: ways side by side, or a curve; ``says``: the answer in a sentence;
    ``layout``: of the cheapest sheets, to be drawn.
    """

    lines: list[WhatIfLine]
    curve: list[Quantity]
    bound: float | None
    says: str
    kinds: list[KindOfSheet]
    layout: list[LaidPiece]


@dataclass(frozen=True)
class Posed:
    """Questions of one kind about a setup, ready to be asked. ``labels``: what each asks, in words;
    ``kinds``: of sheet; ``priced``: has every sheet a price? ``scale``: how many sets each makes;
    ``cost``: of the plan as it stands, for what goes with the number of sets.
    """

    setup: str
    title: str
    labels: tuple[str, ...]
    asked: tuple[Asked, ...]
    kinds: tuple[Stock, ...]
    priced: bool
    scale: tuple[int, ...] = ()
    cost: JobCost | None = None
    handling: tuple[float, float] = (0.0, 0.0)
    """What setting up costs, once and a sheet."""
    drawn: bool = False
    """Is the layout shown?"""


@dataclass(frozen=True)
class _Asking:
    """A setup about which something is asked. ``within``: seconds and steps of each search."""

    store: Store
    plan: Plan
    setup: Setup
    problem: NestProblem
    seconds: float
    steps: int | None

    @property
    def priced(self) -> bool:
        return all(s.cost is not None for s in self.problem.sheets)

    @property
    def endless(self) -> NestProblem:
        """With as many sheets as the pieces could take of what can be bought."""
        return _endless(self.problem)

    def nest(self, problem: NestProblem) -> NestAsked:
        return NestAsked(problem=problem, seconds=self.seconds, steps=self.steps)

    def one_more(self, what: OneMore) -> Posed:
        part = self.plan.part(what.part)
        if part is None or part.setup != self.setup.id:
            raise NotFound(f"{self.setup.name} has no part {what.part!r}")
        first = max(1, part.quantity)
        many = what.last - first + 1
        if many < 1:
            raise BadInput(f"{part.name}: {first} are wanted now; ask for that many or more, not {what.last}")
        if many > MOST_QUANTITIES:
            raise BadInput(
                f"{part.name}: {many} quantities are more than the limit of {MOST_QUANTITIES}; ask for up to"
                f" {first + MOST_QUANTITIES - 1}"
            )
        asked = CurveAsked(
            problem=self.endless,
            part=part.id,
            first=first,
            last=what.last,
            seconds=self.seconds,
            steps=self.steps,
        )
        title = f"{part.name}: what {first} to {what.last} cost"
        return Posed(self.setup.id, title, (part.name,), (asked,), self.setup.stock, self.priced)

    def which_sheets(self) -> Posed:
        market = _market(self.store, self.setup)
        if not market:
            raise BadInput(
                f"{self.setup.material.name}: the library has no sheet of it with a price; enter what can be"
                " bought there"
            )
        setup = self.setup.model_copy(update={"stock": tuple(market), "nest": None})
        problem = nest_problem(self.plan, setup, self.store.shapes)
        ids = tuple(s.id for s in market)
        asked = CheapestAsked(problem=problem, endless=ids, seconds=self.seconds, steps=self.steps)
        title = f"the cheapest of {counted(len(market), 'kind')} of sheet on the market list"
        return Posed(
            self.setup.id, title, ("bought for this order",), (asked,), tuple(market), True, drawn=True
        )

    def out_of_rack(self) -> Posed:
        lots = [
            s
            for s in standing(self.store).values()
            if s.lot.remnant and s.for_job(self.plan.id) and suits(self.setup, s.lot)
        ]
        new = tuple(s for s in self.setup.stock if not (s.lot and _is_remnant(self.store, s.lot)))
        if not lots:
            raise BadInput(f"{self.setup.material.name}: no remnant of it about as thick is free in the rack")
        if not new:
            raise BadInput(
                f"{self.setup.name}: it has nothing but remnants; add a whole sheet to compare with"
            )
        rest = [x.lot.as_stock(x.for_job(self.plan.id)) for x in lots]
        both = [*new, *(r for r in rest if r.id not in {s.id for s in new})]
        ways = [self.setup.model_copy(update={"stock": x, "nest": None}) for x in (new, tuple(both))]
        problems = [nest_problem(self.plan, way, self.store.shapes) for way in ways]
        priced = all(s.cost is not None for p in problems for s in p.sheets)
        title = f"new sheets, or {counted(len(lots), 'remnant')} out of the rack as well"
        labels = ("without remnants", "with remnants at what they are worth")
        return Posed(self.setup.id, title, labels, tuple(self.nest(p) for p in problems), tuple(both), priced)

    def breaks(self, what: Breaks) -> Posed:
        times = sorted(set(what.times))
        pieces = sum(p.quantity for p in self.problem.parts)
        if pieces * times[-1] > MOST_PIECES:
            raise BadInput(
                f"{times[-1]} sets are {counted(pieces * times[-1], 'piece')}, more than the limit of"
                f" {MOST_PIECES}; ask for fewer"
            )
        asked = [self.nest(_endless(_times(self.problem, n))) for n in times]
        use = next(s for s in job_use(self.store, self.plan).setups if s.setup == self.setup.id)
        c = self.setup.rules.costs
        hour = c.labour_per_hour / 60
        return Posed(
            self.setup.id,
            f"what a set costs where {', '.join(map(str, times))} are made in one go",
            tuple(counted(n, "set") for n in times),
            tuple(asked),
            self.setup.stock,
            self.priced,
            tuple(times),
            use.cost,
            (c.setup_minutes * hour, sheet_minutes(self.setup, self.plan.turns(self.setup.id)) * hour),
        )

    def spoilt(self, what: Spoilt) -> Posed:
        share = 1 / what.one_in
        more = [
            p.model_copy(update={"quantity": math.ceil(p.quantity / (1 - share) - 1e-9)})
            for p in self.problem.parts
        ]
        extra = sum(p.quantity for p in more) - sum(p.quantity for p in self.problem.parts)
        problem = self.endless
        title = f"enough where 1 in {what.one_in} fails: {counted(extra, 'piece')} more"
        labels = ("as ordered", f"with {counted(extra, 'piece')} to spare")
        asked = (self.nest(problem), self.nest(problem.model_copy(update={"parts": more})))
        return Posed(self.setup.id, title, labels, asked, self.setup.stock, self.priced)


def pose(
    store: Store, plan: Plan, setup_id: str, what: WhatIf, seconds: float, steps: int | None = None
) -> Posed:
    """The questions that answer a what-if; each is given ``seconds`` (and ``steps``) of search.

    Raises:
        NotFound: no such setup or part.
        BadInput: nothing is to be nested, or the question is impossible.
    """
    setup = plan.setup(setup_id)
    if setup is None:
        raise NotFound(f"{plan.name} has no setup {setup_id!r}")
    asking = _Asking(store, plan, setup, nest_problem(plan, setup, store.shapes), seconds, steps)
    match what:
        case OneMore():
            return asking.one_more(what)
        case WhichSheets():
            return asking.which_sheets()
        case OutOfRack():
            return asking.out_of_rack()
        case Breaks():
            return asking.breaks(what)
        case Spoilt():
            return asking.spoilt(what)


def _endless(problem: NestProblem) -> NestProblem:
    """As many sheets as the pieces could take of all but remnants, or of the first kind where all may be:
    more can be bought.
    """
    kinds = [s.id for s in problem.sheets if s.outline is None and s.quantity > 1]
    return as_many_as_wanted(problem, kinds or [problem.sheets[0].id])


def _market(store: Store, setup: Setup) -> list[Stock]:
    """Whole sheets of the library of the setup's material, about as thick, with a price."""
    thick = [s.nominal for s in setup.stock]
    out = []
    for entry in store.library("stock"):
        if entry.get("material") != setup.material.id:
            continue
        stock = Stock.model_validate({k: v for k, v in entry.items() if k != "material"})
        near = not thick or any(abs(stock.nominal - t) <= NEAR * t for t in thick)
        if near and (stock.price is not None or setup.material.price_m2):
            out.append(stock.model_copy(update={"quantity": 1}))
    return out


def _is_remnant(store: Store, lot: str) -> bool:
    shelf = standing(store).get(lot)
    return shelf is not None and shelf.lot.remnant


def _times(problem: NestProblem, n: int) -> NestProblem:
    parts = [p.model_copy(update={"quantity": p.quantity * n}) for p in problem.parts]
    return problem.model_copy(update={"parts": parts, "locked": [] if n > 1 else problem.locked})


def outcome(posed: Posed, answers: Sequence[Answer]) -> Outcome:
    """What the answers come to."""
    lines = [
        WhatIfLine(
            says=label,
            sheets=a.sheets,
            counts=a.counts,
            material=a.cost if posed.priced else None,
            unplaced=a.unplaced,
            why=a.why,
        )
        for label, a in zip(posed.labels, answers, strict=True)
    ]
    if posed.scale:
        lines = _of_sets(posed, lines)
    curve = list(answers[0].curve)
    says = _curve_says(curve, posed.priced) if curve else _lines_say(posed, lines)
    bound = answers[0].bound if posed.priced else None
    used = {k for a in answers for k in a.counts}
    return Outcome(
        lines=[] if curve else lines,
        curve=curve,
        bound=bound,
        says=says,
        kinds=[
            KindOfSheet(id=s.id, name=s.name, width=s.width, height=s.height)
            for s in posed.kinds
            if s.id in used
        ],
        layout=[
            LaidPiece(
                part=p.part,
                sheet=p.sheet,
                sheet_copy=p.sheet_copy,
                x=p.x,
                y=p.y,
                rotation=p.rotation,
                mirrored=p.mirrored,
            )
            for p in (answers[0].placements if posed.drawn else ())
        ],
    )


def _of_sets(posed: Posed, lines: list[WhatIfLine]) -> list[WhatIfLine]:
    """What several sets cost: material as it is nested, set-up once, handling by the sheet, all else as
    often.
    """
    cost = posed.cost
    by = {line.of: line.sum for line in cost.lines} if cost else {}
    again = [by.get(of) for of in ("machine", "cutters", "by hand")]
    spoilt_known = by.get("spoilt")
    out = []
    for n, line in zip(posed.scale, lines, strict=True):
        known = [v for v in again if v is not None]
        total = each = None
        if line.material is not None and len(known) == len(again) and spoilt_known is not None and cost:
            once, a_sheet = posed.handling
            sound = line.material + once + a_sheet * line.sheets + n * sum(known)
            share = spoilt_known / (cost.total - spoilt_known) if cost.total else 0.0
            total = sound * (1 + share)
            each = total / n
        out.append(line.model_copy(update={"total": total, "each": each}))
    return out


def _curve_says(curve: Sequence[Quantity], priced: bool) -> str:
    """Up to how many the same sheets serve, and what the next one costs."""
    now = curve[0]
    same = [q for q in curve if q.sheets == now.sheets and q.cost <= now.cost and not q.unplaced]
    up_to = same[-1].quantity if same else now.quantity
    after = next((q for q in curve if q.quantity == up_to + 1), None)
    if now.unplaced:
        return f"not even {now.quantity} have a place on the sheets there are"
    if after is None:
        serve = "serves" if now.sheets == 1 else "serve"
        return f"{counted(now.sheets, 'sheet')} {serve} for all up to {up_to}"
    more = after.cost - now.cost
    costs = (
        f"{more:.2f} of material more" if priced else f"{counted(after.sheets - now.sheets, 'sheet')} more"
    )
    if up_to == now.quantity:
        return f"one more takes {costs}"
    return f"up to {up_to} take no more material than {now.quantity}; number {after.quantity} takes {costs}"


def _lines_say(posed: Posed, lines: Sequence[WhatIfLine]) -> str:
    first, last = lines[0], lines[-1]
    if any(x.unplaced for x in lines):
        lacking = next(x for x in lines if x.unplaced)
        return f"{lacking.says}: {counted(lacking.unplaced, 'piece')} without a place. {lacking.why}".strip()
    if posed.scale and first.each is not None and last.each is not None:
        less = 1 - last.each / first.each if first.each else 0.0
        return f"a set costs {less:.1%} less where {last.says} are made in one go"
    if len(lines) == 1:
        name = {s.id: s.name for s in posed.kinds}
        bought = ", ".join(f"{n} x {name.get(k, k)}" for k, n in first.counts.items())
        return f"buy {bought}" if bought else "nothing is to be bought"
    if first.material is not None and last.material is not None:
        more = last.material - first.material
        if abs(more) < 0.005:
            return f"{last.says}: the material costs the same"
        return f"{last.says}: {abs(more):.2f} of material {'more' if more > 0 else 'less'}"
    more = last.sheets - first.sheets
    return f"{last.says}: {counted(abs(more), 'sheet')} {'more' if more > 0 else 'less'}"


# -- another machine ---------------------------------------------------------------


class OnMachine(Document):
    """The same layout on a machine of the library: its time, what the setup comes to there (None: no
    price), and stops that it would meet.
    """

    machine: str
    name: str
    now: bool
    seconds: float
    total: float | None
    stops: list[str]


def on_machines(store: Store, plan: Plan, setup_id: str) -> list[OnMachine]:
    """The same order on every machine of the shop that can hold its cutters.

    Raises:
        NotFound: no such setup.
    """
    setup = plan.setup(setup_id)
    if setup is None:
        raise NotFound(f"{plan.name} has no setup {setup_id!r}")
    out = []
    for entry in store.library("machine"):
        machine = Machine.model_validate(entry)
        own = machine.id == setup.machine.id
        try:
            other = plan if own else SetSetup(setup=setup.id, machine=machine).apply(plan)
        except BadInput as e:
            out.append(_cannot(machine, str(e)))
            continue
        d: DerivedSetup = jobs.derive(store, other, False)[setup.id]
        use = next(s for s in job_use(store, other).setups if s.setup == setup.id)
        out.append(
            OnMachine(
                machine=machine.id,
                name=machine.name,
                now=own,
                seconds=d.yields.seconds,
                total=use.cost.total,
                stops=list(dict.fromkeys(s.message for s in d.snags if s.severity == "stop"))[:5],
            )
        )
    return sorted(out, key=lambda m: (not m.now, m.name))


def _cannot(machine: Machine, why: str) -> OnMachine:
    return OnMachine(machine=machine.id, name=machine.name, now=False, seconds=0.0, total=None, stops=[why])
