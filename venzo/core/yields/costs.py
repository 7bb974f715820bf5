"""What does a job cost, in all and by part: material net of what is kept, machine, cutters, work by hand."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from venzo.core.holding.hand_work import HandWork, hand_work, kerf_hand_work
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.model import Value
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.voice import counted
from venzo.core.yields.material_use import Amounts
from venzo.core.yields.remnants import Remnant
from venzo.core.yields.sheet_yield import SheetYield

Of = Literal[
    "material", "remnants", "machine", "cutters", "consumables", "set-up", "by hand", "scrap", "spoilt"
]
AnySheet = SheetPlan | KerfSheet
"""A sheet of a router or of a kerf table."""


class CostLine(Value):
    """One kind of cost: its sum (None: not known, since ``lacks`` has no price) and how it comes about."""

    of: Of
    sum: float | None
    says: str
    lacks: tuple[str, ...] = ()


class PartCost(Value):
    """What one piece of a part costs on average over its pieces, by kind; ``each`` and kinds are None where
    something has no price. ``pieces``: laid. ``seconds``: of the machine, ``hand_seconds`` by hand, a piece.
    """

    part: str
    name: str
    pieces: int
    seconds: float
    hand_seconds: float
    by_kind: dict[Of, float | None]
    each: float | None


class JobCost(Value):
    """Costs of a setup. ``total``: None where something has no price; ``known``: the sum of what has one."""

    lines: tuple[CostLine, ...]
    parts: tuple[PartCost, ...]
    total: float | None
    known: float

    @property
    def lacks(self) -> tuple[str, ...]:
        """What nobody has given a price."""
        return tuple(dict.fromkeys(x for line in self.lines for x in line.lacks))


class Used(Value):
    """What one sheet has to do with costs: its figures, the remnants kept of it (area, mm2), and kg of drops,
    skeleton and edge that go for scrap.
    """

    sheet: SheetYield
    remnant_areas: tuple[float, ...]
    scrap_kg: float = 0.0

    def remnant_value(self, setup: Setup) -> float:
        """What the remnants kept are worth, each by itself."""
        price = self.sheet.material_cost / self.sheet.sheet_area
        return sum(setup.rules.costs.remnant_value(a, price) for a in self.remnant_areas)


def used(sheet: SheetYield, kept: Sequence[Remnant], amounts: Amounts) -> Used:
    """A sheet with what is kept of it, and what goes for scrap: chips are swept up with others and bring
    nothing.
    """
    scrap = math.fsum(amounts.mass_kg[k] for k in ("drops", "skeleton", "edge"))
    return Used(sheet=sheet, remnant_areas=tuple(r.area for r in kept), scrap_kg=scrap)


class _Shares:
    """How each part has a share in everything; all shares are the whole."""

    def __init__(self) -> None:
        self.pieces: dict[str, int] = {}
        self.area: dict[str, float] = {}
        self.seconds: dict[str, float] = {}
        self.metres: dict[str, dict[str, float]] = {}
        self.hand: dict[str, float] = {}

    def total(self, of: Mapping[str, float]) -> float:
        return math.fsum(of.values())

    def share(self, of: Mapping[str, float], part: str) -> float:
        whole = self.total(of)
        return of.get(part, 0.0) / whole if whole > 0 else self.pieces[part] / sum(self.pieces.values())


def _shares(
    plan: Plan, setup: Setup, sheets: Sequence[AnySheet], shapes: Mapping[str, Shape]
) -> tuple[_Shares, HandWork]:
    out, rules = _Shares(), setup.rules
    by_id = {p.id: p for p in plan.parts}
    work = HandWork()
    edge_s = rules.costs.edge_seconds_m.get(setup.material.family, 0.0) / 1000
    face_s = rules.costs.face_minutes_m2.get(setup.material.family, 0.0) * 60 / 1e6
    for sheet in sheets:
        stock = setup.stock_of(sheet.sheet)
        thickness = stock.thickness if stock else 0.0
        left = kerf_hand_work(sheet) if isinstance(sheet, KerfSheet) else hand_work(sheet.cuts, thickness)
        for q in sheet.pieces:
            region = shapes[by_id[q.part].shape].region
            out.pieces[q.part] = out.pieces.get(q.part, 0) + 1
            out.area[q.part] = out.area.get(q.part, 0.0) + region.area
            mine = left.get(q.id, HandWork())
            work += mine
            seconds = mine.seconds(rules.hold) + region.perimeter * edge_s + region.area * face_s
            out.hand[q.part] = out.hand.get(q.part, 0.0) + seconds
        if isinstance(sheet, KerfSheet):
            for k, way, own in zip(sheet.run.cuts, sheet.run.ways_take, sheet.run.seconds, strict=True):
                whose = k.whose or range(len(sheet.pieces))  # what is cut for none is cut for all
                for b in whose:
                    part = sheet.pieces[b].part
                    out.seconds[part] = out.seconds.get(part, 0.0) + (way + own) / len(whose)
            continue
        for c in sheet.cuts:
            part = c.piece.part
            out.seconds[part] = out.seconds.get(part, 0.0) + c.takes
            metres = out.metres.setdefault(part, {})
            metres[c.cut.cutter] = metres.get(c.cut.cutter, 0.0) + c.cut_length / 1000
    return out, work


def job_cost(
    plan: Plan, setup: Setup, sheets: Sequence[AnySheet], using: Sequence[Used], shapes: Mapping[str, Shape]
) -> JobCost:
    """Costs of a setup as it is planned.

    Material and remnants are shared by the net area of the parts, so that waste is paid by the parts; machine
    time by what each cut takes of it; cutters by the metres each cuts; set-up and handling of sheets by
    machine time; hand work where it falls. All parts together cost what the job costs.
    """
    shares, work = _shares(plan, setup, sheets, shapes)
    if not shares.pieces:
        return JobCost(lines=(), parts=(), total=0.0, known=0.0)
    lines = _lines(setup, plan.turns(setup.id), shares, work, using)
    if setup.material.scrap_price:
        scrap = math.fsum(u.scrap_kg for u in using)
        price = setup.material.scrap_price
        says = f"{scrap:.1f} kg of drops, skeleton and edge at {price:g} a kg"
        lines.append(CostLine(of="scrap", sum=-scrap * price, says=says))
    lines.append(_spoilt(setup, lines))
    sums = {line.of: line.sum for line in lines}
    wear = {p: sum(_wear(setup, m)[0] for m in [shares.metres.get(p, {})]) for p in shares.pieces}
    keys: dict[Of, Mapping[str, float]] = {
        "material": shares.area,
        "remnants": shares.area,
        "machine": shares.seconds,
        "cutters": wear,
        "consumables": shares.seconds,
        "set-up": shares.seconds,
        "by hand": shares.hand,
        "scrap": shares.area,
    }
    keys["spoilt"] = {
        part: math.fsum((v or 0.0) * shares.share(keys[of], part) for of, v in sums.items() if of != "spoilt")
        for part in shares.pieces
    }
    parts = []
    for p in plan.parts:
        n = shares.pieces.get(p.id, 0)
        if not n:
            continue
        kinds: dict[Of, float | None] = {
            of: None if whole is None else whole * shares.share(keys[of], p.id) / n
            for of, whole in sums.items()
        }
        known = [v for v in kinds.values() if v is not None]
        parts.append(
            PartCost(
                part=p.id,
                name=p.name,
                pieces=n,
                seconds=shares.seconds.get(p.id, 0.0) / n,
                hand_seconds=shares.hand.get(p.id, 0.0) / n,
                by_kind=kinds,
                each=math.fsum(known) if len(known) == len(kinds) else None,
            )
        )
    known = [v for v in sums.values() if v is not None]
    whole = math.fsum(known)
    return JobCost(
        lines=tuple(lines), parts=tuple(parts), total=whole if len(known) == len(sums) else None, known=whole
    )


def _wear(setup: Setup, metres: Mapping[str, float]) -> tuple[float, list[str]]:
    """What cutters wear by so many metres of each, and those without a price or a life."""
    total, lacks = 0.0, []
    for cutter_id, m in metres.items():
        cutter = setup.cutter(cutter_id)
        if cutter is None or m <= 0:
            continue
        if cutter.price is None or cutter.life is None:
            lacks.append(cutter.name)
        else:
            total += cutter.price * m / cutter.life
    return total, lacks


def _spoilt(setup: Setup, lines: Sequence[CostLine]) -> CostLine:
    """What pieces cost that are spoilt and cut again: of a share s of all that are made, s / (1 - s) of the
    cost of those that come off sound.
    """
    s = setup.rules.costs.spoilt_share
    known = [line.sum for line in lines if line.sum is not None]
    whole = math.fsum(known) * s / (1 - s) if len(known) == len(lines) else None
    return CostLine(
        of="spoilt",
        sum=0.0 if s == 0 else whole,
        says=f"1 in {1 / s:.0f} is cut again" if s else "nothing reckoned",
    )


def _consumables(setup: Setup, using: Sequence[Used]) -> CostLine:
    """Gas, nozzle sets by starts, and abrasive of a kerf table."""
    head = setup.head
    lacks = (head.name,) if head and (head.price is None or head.starts is None) else ()
    return CostLine(
        of="consumables",
        sum=None if lacks else math.fsum(u.sheet.running_cost for u in using),
        says="gas or power and abrasive by the minute with the head on, nozzle sets by starts",
        lacks=lacks,
    )


def sheet_minutes(setup: Setup, turns: int) -> float:
    """What a sheet that is turned over so many times takes by hand, min: laid, fixed, turned, cleared."""
    return setup.rules.costs.sheet_minutes + turns * setup.rules.costs.turn_minutes


def _lines(
    setup: Setup, turns: int, shares: _Shares, work: HandWork, using: Sequence[Used]
) -> list[CostLine]:
    rules, n = setup.rules.costs, len(using)
    seconds = math.fsum(u.sheet.seconds for u in using)
    metres: dict[str, float] = {}
    for each in shares.metres.values():
        for cutter, m in each.items():
            metres[cutter] = metres.get(cutter, 0.0) + m
    worn, no_price = _wear(setup, metres)
    unpriced = any(not u.sheet.priced for u in using)
    handling = (rules.setup_minutes + n * sheet_minutes(setup, turns)) * 60
    over = f", {rules.turn_minutes:g} min a turn" if turns else ""
    by_hand = shares.total(shares.hand)
    kept = sum(len(u.remnant_areas) for u in using)

    def labour(s: float) -> float | None:
        return s / 3600 * rules.labour_per_hour if rules.labour_per_hour else None

    no_labour = () if rules.labour_per_hour else ("an hour of hand work",)
    material = (setup.material.name,) if unpriced else ()
    return [
        CostLine(
            of="material",
            sum=None if unpriced else math.fsum(u.sheet.material_cost for u in using),
            says=f"{counted(n, 'sheet')}, whole",
            lacks=material,
        ),
        CostLine(
            of="remnants",
            sum=None if unpriced else -math.fsum(u.remnant_value(setup) for u in using),
            says=f"{kept} kept, at {rules.remnant_share:.0%} of new"
            + (f", less {rules.remnant_handling:g} each" if rules.remnant_handling else ""),
            lacks=material,
        ),
        CostLine(
            of="machine",
            sum=math.fsum(u.sheet.machine_cost for u in using) if setup.machine.rate_per_hour else None,
            says=f"{seconds / 60:.0f} min at {setup.machine.rate_per_hour:g} an hour",
            lacks=() if setup.machine.rate_per_hour else (setup.machine.name,),
        ),
        _consumables(setup, using)
        if setup.machine.head is not None
        else CostLine(
            of="cutters",
            sum=None if no_price else worn,
            says=f"{sum(metres.values()):.0f} m cut, by price over life",
            lacks=tuple(no_price),
        ),
        CostLine(
            of="set-up",
            sum=labour(handling),
            says=f"{rules.setup_minutes:g} min, and {rules.sheet_minutes:g} min a sheet{over}",
            lacks=no_labour,
        ),
        CostLine(
            of="by hand",
            sum=labour(by_hand),
            says=f"{by_hand / 60:.0f} min: {counted(work.tabs, 'tab')}, {work.skin / 1000:.0f} m of skin,"
            " edges, faces",
            lacks=no_labour,
        ),
    ]
