"""What a job takes of its material, what is kept, and what it costs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import partial, reduce
from typing import Annotated

from pydantic import Field
from shapely.geometry.base import BaseGeometry

from venzo.core.derive import DerivedSetup
from venzo.core.faces.left_by_first import LeftByFirst, left_by_both, left_by_first
from venzo.core.faces.turn import turn_of
from venzo.core.holding.timeline import divide_sheet
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.memo import memo
from venzo.core.model import Document, Point, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Stock
from venzo.core.yields.costs import AnySheet, JobCost, job_cost, used
from venzo.core.yields.material_use import Amounts, Removed, amounts, together
from venzo.core.yields.parted import KINDS, SheetParted, burnt, milled, part_sheet
from venzo.core.yields.remnants import Remnant
from venzo.core.yields.sheet_yield import SheetYield
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt, sheet_of
from venzo.store.store import Store

VERSION = "parted-1"


class KeptRemnant(Document):
    """A remnant that a sheet leaves: corners on the sheet, width and height of its box, area (mm2), and
    what it is worth (None: the sheet has no price).
    """

    corners: list[Point]
    width: float
    height: float
    area: float
    value: float | None


class UsedSheet(Document):
    """What becomes of one sheet. ``utilisation``: by each definition; ``board_feet``: of wood only;
    ``chips_l``: litres of chips as solid material.
    """

    setup: str
    sheet: str
    sheet_copy: int
    area_mm2: dict[str, float]
    mass_kg: dict[str, float]
    utilisation: dict[str, float]
    chips_l: float
    board_feet: Annotated[float | None, Field(exclude_if=lambda v: v is None)] = None
    remnants: list[KeptRemnant]


class Use(Document):
    """The same sums over several sheets; ``volume_m3`` of the sheets."""

    sheets: int
    pieces: int
    area_mm2: dict[str, float]
    mass_kg: dict[str, float]
    utilisation: dict[str, float]
    chips_l: float
    volume_m3: float
    board_feet: Annotated[float | None, Field(exclude_if=lambda v: v is None)] = None


class SetupUse(Document):
    """What a setup takes and costs. ``least``: sheets that no layout can do without, by area; ``gauge``: of
    sheet metal, the nearest to what was measured.
    """

    setup: str
    name: str
    material: str
    family: str
    thickness: float
    gauge: str
    use: Use
    least: int
    in_sheets: dict[str, float]
    """How many sheets each kind comes to: why there are as many as there are."""
    cost: JobCost


class OrderUse(Document):
    """What one customer's order takes: pieces wanted, their net area, and what they cost (None: not all
    have a place or a price).
    """

    order: str
    name: str
    pieces: int
    area_mm2: float
    cost: float | None


class JobUse(Document):
    """What a job takes and costs: each sheet, each setup, and all together. ``cost``: by kind, over the
    setups; ``total`` None where something has no price, ``lacks`` what.
    """

    sheets: list[UsedSheet]
    setups: list[SetupUse]
    job: Use
    orders: list[OrderUse]
    cost: dict[str, float | None]
    lacks: list[str]
    currency: str


def job_use(store: Store, plan: Plan) -> JobUse:
    """What a job takes, keeps and costs, as it is planned. Sheets are remembered while nothing that they
    follow from changes.
    """
    derived = jobs.derive(store, plan, False)
    sheets: list[UsedSheet] = []
    setups: list[SetupUse] = []
    every: list[Amounts] = []
    wood = True
    for d in paid_for(derived):
        laid, figures = sheets_of(d), d.yields_of_both
        mine = [sheet_amounts(store, plan, d, s, y) for s, y in zip(laid, figures.sheets, strict=True)]
        using = [used(y, *_kept(m)) for y, m in zip(figures.sheets, mine, strict=True)]
        cost = job_cost(plan, d.setup, _on_both(d), using, store.shapes)
        own = [a for _p, a in mine]
        every += own
        wood = wood and _lumber(d.setup)
        sheets += [_as_sheet(d.setup, s, y, m) for s, y, m in zip(laid, d.yields.sheets, mine, strict=True)]
        setups.append(
            SetupUse(
                setup=d.setup.id,
                name=d.setup.name,
                material=d.setup.material.name,
                family=d.setup.material.family,
                thickness=_thickness(d),
                gauge=_gauge(d),
                use=_as_use(own, d.yields.pieces, _lumber(d.setup)),
                least=d.yields.bound,
                in_sheets=_in_sheets(own),
                cost=cost,
            )
        )
    kinds = dict.fromkeys(line.of for s in setups for line in s.cost.lines)
    sums: dict[str, float | None] = {
        of: _sum([line.sum for s in setups for line in s.cost.lines if line.of == of]) for of in kinds
    }
    return JobUse(
        sheets=sheets,
        setups=setups,
        job=_as_use(every, sum(s.use.pieces for s in setups), wood and bool(setups)),
        orders=_orders(plan, setups, store.shapes),
        cost=sums | {"total": _sum([s.cost.total for s in setups])},
        lacks=list(dict.fromkeys(x for s in setups for x in s.cost.lacks)),
        currency=next((s.rules.currency for s in plan.setups if s.rules.currency), ""),
    )


def total_cost(store: Store, plan: Plan, derived: Mapping[str, DerivedSetup]) -> float | None:
    """What a job comes to; None where something has no price, or nothing is laid. What pockets take out is
    not measured for it: no cost hangs on that.
    """
    totals: list[float | None] = []
    for d in paid_for(derived):
        using = []
        for sheet, y in zip(sheets_of(d), d.yields_of_both.sheets, strict=True):
            stock = d.setup.stock_of(sheet.sheet)
            assert stock is not None
            found = parted(store, plan, d, sheet, y)
            left = amounts(found, stock, d.setup.material, y.used_length, Removed(None, False))
            using.append(used(y, found.kept, left))
        totals.append(job_cost(plan, d.setup, _on_both(d), using, store.shapes).total)
    return _sum(totals) if any(sheets_of(d) for d in derived.values()) else None


def _kept(m: tuple[SheetParted, Amounts]) -> tuple[tuple[Remnant, ...], Amounts]:
    return m[0].kept, m[1]


def _orders(plan: Plan, setups: Sequence[SetupUse], shapes: Mapping[str, Shape]) -> list[OrderUse]:
    """What each customer's order takes of a job that may serve several: its pieces, their share of the
    material, and what they cost.
    """
    each = {p.part: p.each for s in setups for p in s.cost.parts}
    laid = {p.part: p.pieces for s in setups for p in s.cost.parts}
    out = []
    for order in plan.orders:
        mine = [
            (p, line.quantity)
            for p in plan.parts
            for line in p.lines
            if line.order == order.id and line.quantity
        ]
        placed = [(p, n) for p, n in mine if laid.get(p.id, 0) >= p.quantity]
        out.append(
            OrderUse(
                order=order.id,
                name=order.name,
                pieces=sum(n for _p, n in mine),
                area_mm2=sum(shapes[p.shape].region.area * n for p, n in mine),
                cost=_sum([None if (c := each.get(p.id)) is None else c * n for p, n in mine])
                if len(placed) == len(mine)
                else None,
            )
        )
    return out


def _sum(values: Sequence[float | None]) -> float | None:
    known = [v for v in values if v is not None]
    return sum(known) if len(known) == len(values) else None


def sheets_of(d: DerivedSetup) -> Sequence[AnySheet]:
    """The sheets of a setup, of whichever machine."""
    return d.kerf or d.sheets


def paid_for(derived: Mapping[str, DerivedSetup]) -> list[DerivedSetup]:
    """The setups that take sheets: the other face of one takes none of its own."""
    return [d for d in derived.values() if d.first is None]


def _on_both(d: DerivedSetup) -> list[AnySheet]:
    """The sheets of a setup with the cuts of both faces."""
    out: list[AnySheet] = []
    for s in sheets_of(d):
        if isinstance(s, SheetPlan):
            more = [c for later in d.turns_after for there in later.cut_of(s) for c in there.cuts]
            s = replace(s, cuts=(*s.cuts, *more)) if more else s
        out.append(s)
    return out


def _cut_behind(d: DerivedSetup, sheet: AnySheet, stock: Stock) -> LeftByFirst | None:
    """What is cut of a sheet in the turns after its first, where it lies as the first face is up."""
    if d.back is None or d.back.setup.other_face is None or not isinstance(sheet, SheetPlan):
        return None
    turn = turn_of(d.back.setup.other_face.axis, stock)
    found = [
        left_by_first(later.setup, there, stock, turn if later is d.back else None)
        for later in d.turns_after
        if (there := later.cut_in(sheet))
    ]
    return reduce(left_by_both, found) if found else None


def parted(store: Store, plan: Plan, d: DerivedSetup, sheet: AnySheet, y: SheetYield) -> SheetParted:
    """A sheet as what becomes of it; remembered while nothing that it follows from changes."""
    stock = d.setup.stock_of(sheet.sheet)
    assert stock is not None
    behind = _cut_behind(d, sheet, stock)
    swath = (
        burnt(sheet) if isinstance(sheet, KerfSheet) else milled(divide_sheet(d.setup, sheet, stock, behind))
    )
    price = y.material_cost / y.sheet_area
    costs = d.setup.rules.costs
    shapes = [store.shapes[plan.shape_of(q.part)].digest for q in sheet.pieces]
    key = digest(VERSION, sheet.key, shapes, stock, costs, price, behind.key if behind else "")
    keeps = partial(_keeps, d.setup, price)
    return memo("parted", key, lambda: part_sheet(plan, stock, sheet.pieces, store.shapes, swath, keeps))


def kept_of(store: Store, plan: Plan, d: DerivedSetup, sheet: AnySheet) -> list[tuple[Remnant, float | None]]:
    """The remnants that are kept of a sheet, with what each is worth (None: the sheet has no price)."""
    y = next(y for y in d.yields.sheets if (y.sheet, y.copy_no) == (sheet.sheet, sheet.copy_no))
    costs, price = d.setup.rules.costs, y.material_cost / y.sheet_area
    return [
        (r, costs.remnant_value(r.area, price) if y.priced else None)
        for r in parted(store, plan, d, sheet, y).kept
    ]


def _keeps(setup: Setup, price: float, short: float, area: float) -> bool:
    return setup.rules.costs.kept(short, area, price)


def sheet_amounts(
    store: Store, plan: Plan, d: DerivedSetup, sheet: AnySheet, y: SheetYield
) -> tuple[SheetParted, Amounts]:
    """A sheet as what becomes of it, with its areas and masses."""
    stock = d.setup.stock_of(sheet.sheet)
    assert stock is not None
    found = parted(store, plan, d, sheet, y)
    blind = isinstance(sheet, SheetPlan) and _blind(sheet, stock)
    volume = jobs.removed_from(store, plan, d, sheet) if isinstance(sheet, SheetPlan) and blind else None
    for later in d.turns_after:
        for there in later.cut_of(sheet) if isinstance(sheet, SheetPlan) else ():
            if _blind(there, stock):
                more = jobs.removed_from(store, plan, later, there)
                volume = (volume or 0.0) + more if more is not None else volume
                blind = True
    return found, amounts(found, stock, d.setup.material, y.used_length, Removed(volume, blind))


def _blind(sheet: SheetPlan, stock: Stock) -> bool:
    """Does any cut take something out of a part without going through?"""
    last: dict[tuple[str, str], float] = {}
    for c in sheet.cuts:
        key = (c.piece.id, c.cut.contour)
        last[key] = min(last.get(key, 0.0), c.cut.levels[-1] if c.cut.levels else 0.0)
    return any(deepest > -stock.thickness + 1e-3 for deepest in last.values())


def _as_sheet(setup: Setup, sheet: AnySheet, y: SheetYield, found: tuple[SheetParted, Amounts]) -> UsedSheet:
    whole, a = found
    price = y.material_cost / y.sheet_area
    return UsedSheet(
        setup=setup.id,
        sheet=sheet.sheet,
        sheet_copy=sheet.copy_no,
        area_mm2=a.area_mm2,
        mass_kg=a.mass_kg,
        utilisation=a.utilisation,
        chips_l=a.chips / 1e6,
        board_feet=a.board_feet if _lumber(setup) else None,
        remnants=[
            KeptRemnant(
                corners=list(r.corners),
                width=r.size[0],
                height=r.size[1],
                area=r.area,
                value=setup.rules.costs.remnant_value(r.area, price) if y.priced else None,
            )
            for r in whole.kept
        ],
    )


def _as_use(each: Sequence[Amounts], pieces: int, lumber: bool) -> Use:
    a = together(each)
    return Use(
        sheets=len(each),
        pieces=pieces,
        area_mm2=a.area_mm2,
        mass_kg=a.mass_kg,
        utilisation=a.utilisation,
        chips_l=a.chips / 1e6,
        volume_m3=a.volume / 1e9,
        board_feet=a.board_feet if lumber else None,
    )


def _lumber(setup: Setup) -> bool:
    """Is it wood, which is bought by the board foot or the cubic metre?"""
    return setup.material.family == "wood"


def _in_sheets(each: Sequence[Amounts]) -> dict[str, float]:
    """What each kind takes, in sheets of the mean size."""
    areas = together(each).area_mm2
    one = areas["sheet"] / len(each) if each else 0.0
    return {k: areas[k] / one for k in KINDS} if one else {}


def _thickness(d: DerivedSetup) -> float:
    """Of the sheets that are used, in the mean, mm."""
    each = [k.thickness for s in sheets_of(d) if (k := d.setup.stock_of(s.sheet))]
    return sum(each) / len(each) if each else 0.0


def _gauge(d: DerivedSetup) -> str:
    """The nearest gauge of sheet metal in words; empty where it has none near."""
    from venzo.core.stock.amounts import Gauged, gauge_thickness, nearest_gauge

    of: Gauged | None = {"steel": "steel sheet", "aluminium": "aluminium sheet"}.get(d.setup.material.family)  # type: ignore[assignment]
    t = _thickness(d)
    if of is None or not t:
        return ""
    n = nearest_gauge(t, of)
    off = abs(gauge_thickness(n, of) - t)
    return f"gauge {n}" if off <= 0.06 * t else ""


class UsedSheetDrawn(Document):
    """A sheet as what becomes of it: path data (mm, Y up) of each kind but the parts, which are drawn
    anyway.
    """

    kerf: str
    drops: str
    skeleton: str
    edge: str
    remnant: str


def sheet_drawn(store: Store, plan: Plan, at: SheetAt) -> UsedSheetDrawn:
    """One sheet as what becomes of it, simplified to what a screen shows.

    Raises:
        BadInput: no such sheet.
    """
    d = jobs.derive(store, plan, False).get(at.setup)
    if d is not None and d.kerf:
        sheet: AnySheet | None = next(
            (k for k in d.kerf if (k.sheet, k.copy_no) == (at.sheet, at.copy_no)), None
        )
    else:
        d, sheet, _stock = sheet_of(store, plan, at)
    if sheet is None:
        raise BadInput(f"{plan.name}: no piece lies on sheet {at.sheet!r}, copy {at.copy_no}")
    y = next(y for y in d.yields.sheets if (y.sheet, y.copy_no) == (sheet.sheet, sheet.copy_no))
    found = parted(store, plan, d, sheet, y)
    return UsedSheetDrawn(
        kerf=_path(found.kerf),
        drops=_path(found.drops),
        skeleton=_path(found.skeleton),
        edge=_path(found.edge),
        remnant=_path(found.remnant),
    )


SIMPLE = 0.2
"""mm by which what is drawn on a screen may be off."""


def _path(shape: BaseGeometry) -> str:
    simple = shape.simplify(SIMPLE)
    out = []
    for p in getattr(simple, "geoms", [simple]):
        if p.geom_type == "Polygon" and not p.is_empty:
            for ring in (p.exterior, *p.interiors):
                corners = [f"{x:.1f} {y:.1f}" for x, y in ring.coords[:-1]]
                out.append(f"M{'L'.join(corners)}Z")
    return "".join(out)
