"""Which cuts of a face rough it, where both faces are roughed before either is finished."""

from __future__ import annotations

from collections.abc import Sequence
from typing import assert_never

from venzo.core.cuts.operations import Operation, Pocket, Profile, ReliefRough
from venzo.core.faces.registration import FaceRole
from venzo.core.order.of_sheet import PlacedCut, SheetPlan, some_of
from venzo.core.plan import Plan, Setup

PARTING = ("outlines", "holes", "round holes")
"""What is cut on these goes through the stock: it waits for the finish."""


def leaves(step: Operation) -> float:
    """What a step leaves on walls or floor for a later one, mm.

    >>> leaves(ReliefRough(id="r", cutter="c", on="reliefs", allowance=0.8))
    0.8
    """
    if isinstance(step, ReliefRough):
        return step.allowance
    if isinstance(step, Pocket | Profile) and step.on not in PARTING:
        return max(step.side_allowance, step.floor_allowance)
    return 0.0


def roughing_of(plan: Plan, setup: Setup, sheet: SheetPlan) -> tuple[int, ...]:
    """The cuts of a sheet (indices) that leave something for a later step on the same feature, and those that
    make the face flat before all else. None where nothing is roughed: a face that is only made flat is not.
    """
    steps = {o.id: leaves(o) for o in _steps(plan, setup)}
    last: dict[tuple[str, str], int] = {}
    for c in sheet.cuts:
        at = (c.piece.id, c.cut.contour)
        last[at] = max(last.get(at, 0), c.cut.step)

    def roughs(c: PlacedCut) -> bool:
        return steps.get(c.cut.operation, 0.0) > 0 and c.cut.step < last[c.piece.id, c.cut.contour]

    rough = [i for i, c in enumerate(sheet.cuts) if roughs(c)]
    flat = [i for i, c in enumerate(sheet.cuts) if c.cut.face_first and i not in set(rough)]
    return tuple(sorted([*rough, *flat])) if rough else ()


def _steps(plan: Plan, setup: Setup) -> list[Operation]:
    mine = {p.id for p in plan.parts_of(setup.id)}
    return [*setup.operations, *(o for c in plan.steps if c.part in mine for o in c.steps)]


def least_left(plan: Plan, setup: Setup, sheets: Sequence[SheetPlan]) -> float | None:
    """The least that roughing leaves anywhere on sheets, mm; None: nothing is roughed."""
    steps = {o.id: leaves(o) for o in _steps(plan, setup)}
    left = [
        steps[s.cuts[i].cut.operation]
        for s in sheets
        for i in roughing_of(plan, setup, s)
        if steps.get(s.cuts[i].cut.operation)
    ]
    return min(left, default=None)


def taken(plan: Plan, setup: Setup, sheet: SheetPlan) -> SheetPlan:
    """A sheet of a face with the cuts that are made in this turn of it, in their order and timed anew."""
    role: FaceRole | None = setup.role
    if role is None or role.takes == "all":
        return sheet
    rough = roughing_of(plan, setup, sheet)
    match role.takes:
        case "roughing":
            return some_of(setup, sheet, rough)
        case "rest":
            return some_of(setup, sheet, sorted(set(range(len(sheet.cuts))) - set(rough)))
        case _:
            assert_never(role.takes)
