"""Yield of one sheet and of a job."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from venzo.core.model import Value
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.stock.sheet import Stock


class SheetYield(Value):
    """Areas in mm2, lengths in mm, time in s, cost in the shop's currency, mass in kg.

    ``used_length``: the largest x that a piece reaches. ``priced``: has anybody given the sheet a price?
    """

    sheet: str
    copy_no: int
    pieces: int
    net_area: float
    sheet_area: float
    utilisation: float
    used_length: float
    cut_length: float
    rapid_length: float
    seconds: float
    material_cost: float
    machine_cost: float
    net_mass: float
    running_cost: float = 0.0
    """Gas, nozzle sets and abrasive of a kerf table."""
    priced: bool = True


class JobYield(Value):
    """The sums over all sheets of a setup."""

    sheets: tuple[SheetYield, ...]
    pieces: int
    net_area: float
    sheet_area: float
    utilisation: float
    cut_length: float
    seconds: float
    material_cost: float
    machine_cost: float
    bound: int
    unpriced: tuple[Literal["material", "machine"], ...] = ()
    """What nobody has given a price yet: its cost is then not known, not nothing."""


def sheet_yield(
    plan: Plan, setup: Setup, sheet: SheetPlan, stock: Stock, shapes: Mapping[str, Shape]
) -> SheetYield:
    """Figures of one sheet: utilisation = net area of the pieces / sheet area."""
    net, right = 0.0, 0.0
    by_id = {p.id: p for p in plan.parts}
    for q in sheet.pieces:
        shape = by_id[q.part].shape
        region = shapes[shape].region
        net += region.area
        right = max(right, q.x + shapes[shape].right(q.rotation, q.mirrored))
    area = stock.area
    turned = setup.follows  # the sheet is paid for once
    price = stock.price if stock.price is not None else area * setup.material.price_m2 / 1e6
    return SheetYield(
        sheet=sheet.sheet,
        copy_no=sheet.copy_no,
        pieces=len(sheet.pieces),
        net_area=net,
        sheet_area=area,
        utilisation=net / area,
        used_length=right,
        cut_length=sheet.cut_length,
        rapid_length=sheet.rapid_length,
        seconds=sheet.seconds,
        material_cost=0.0 if turned else price,
        machine_cost=sheet.seconds / 3600 * setup.machine.rate_per_hour,
        net_mass=net * stock.thickness * setup.material.density / 1e9,
        priced=turned or stock.price is not None or setup.material.price_m2 > 0,
    )


def both_faces(front: SheetYield, back: SheetYield | None) -> SheetYield:
    """A sheet cut from both faces: one sheet, with the time and the lengths of both."""
    if back is None:
        return front
    added = ("cut_length", "rapid_length", "seconds", "machine_cost", "running_cost")
    return front.model_copy(update={k: getattr(front, k) + getattr(back, k) for k in added})


def unpriced(setup: Setup, used: list[SheetYield]) -> tuple[Literal["material", "machine"], ...]:
    """What of a setup's cost cannot be told: its material without a price, its machine without an hourly
    rate.
    """
    sheets: tuple[Literal["material"], ...] = () if all(s.priced for s in used) else ("material",)
    machine: tuple[Literal["machine"], ...] = () if setup.machine.rate_per_hour else ("machine",)
    return (*sheets, *machine)


def job_yield(sheets: list[SheetYield], bound: int, setup: Setup) -> JobYield:
    """Sums over a setup's sheets."""
    net, area = sum(s.net_area for s in sheets), sum(s.sheet_area for s in sheets)
    return JobYield(
        sheets=tuple(sheets),
        pieces=sum(s.pieces for s in sheets),
        net_area=net,
        sheet_area=area,
        utilisation=net / area if area else 0.0,
        cut_length=sum(s.cut_length for s in sheets),
        seconds=sum(s.seconds for s in sheets),
        material_cost=sum(s.material_cost for s in sheets),
        machine_cost=sum(s.machine_cost for s in sheets),
        bound=bound,
        unpriced=unpriced(setup, sheets),
    )
