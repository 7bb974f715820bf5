"""Finish or sand: what a relief's finishing step comes to with other cutters and step-overs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from venzo.core.cuts.cut import Cut, ReliefCut
from venzo.core.cuts.on_reliefs import relief_of
from venzo.core.cuts.operations import Operation, ReliefFinish
from venzo.core.derive import DerivedSetup, derive
from venzo.core.edits.aimed import applied_to
from venzo.core.edits.fields import Changed, ChangeSteps
from venzo.core.memo import memo, passing
from venzo.core.model import Document, digest
from venzo.core.plan import Part, Plan, Setup
from venzo.core.relief.block import Relief
from venzo.core.relief.finishing import ReliefPass
from venzo.core.relief.kept_surface import mesh_of
from venzo.core.relief.left_on import carved
from venzo.core.relief.sanding import sanding_minutes
from venzo.core.relief.tip import Tip
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter
from venzo.desk.library import cutters as shop_cutters
from venzo.store.store import Store

STEPS = (0.08, 0.12, 0.2, 0.35)
"""Step-overs that are weighed, as shares of the tip's diameter (common practice: 8 to 10 % to be done with,
more where it is sanded).
"""
MOST_CUTTERS = 3
CELLS = 250_000
UNREACHED = 0.1
"""mm left over, above three ridges' height, from which a place counts as not reached by the tip."""
VERSION = "finish-or-sand-1"


@dataclass(frozen=True)
class Whose:
    """The finishing step that is asked about: of the setup, of a part, or of one of its reliefs."""

    setup: str
    step: str
    part: str = ""
    contour: str = ""


class FinishChoice(Document):
    """A cutter and step-over (share of the tip's diameter) that may finish the reliefs; ``now``: as
    planned.
    """

    cutter: str
    name: str
    step_over: float
    now: bool
    cusp: float | None = None
    """mm, where what is planned goes by the height of its ridges."""


class FinishWeighed(Document):
    """What a choice comes to over all reliefs that the step finishes.

    ``seconds``: by machine; ``cusp``: height of ridges on a flat floor, ``left_99``: what 99 % of the places
    keep at most, ``left_most`` anywhere, mm; ``unreached_mm2``: where detail is left that the tip does not
    come into; ``sanding_minutes``: by house rule; ``cost``: of machine and hand, None where a rate is not
    said.
    """

    cutter: str
    step_over: float
    seconds: float
    cusp: float
    left_99: float
    left_most: float
    unreached_mm2: float
    sanding_minutes: float
    cost: float | None


def choices(store: Store, plan: Plan, whose: Whose) -> list[FinishChoice]:
    """Cutters of the setup, then of the shop, that could finish the reliefs, each with a few step-overs; what
    is planned comes first.

    Raises:
        BadInput: no such step.
    """
    setup, step = _step(plan, whose)
    able = [c for c in setup.cutters if _able(c, setup)]
    brought = [
        c
        for c in shop_cutters(store)
        if _able(c, setup) and setup.cutter(c.id) is None and all(k.number != c.number for k in setup.cutters)
    ]
    own = [c for c in able if c.id == step.cutter]
    rest = sorted(
        (c for c in (*able, *brought) if c.id != step.cutter), key=lambda c: _width(c), reverse=True
    )
    out = [
        FinishChoice(cutter=c.id, name=c.name, step_over=step.step_over, now=True, cusp=step.cusp)
        for c in own
    ]
    for c in (*own, *rest[: MOST_CUTTERS - len(own)]):
        out += [
            FinishChoice(cutter=c.id, name=c.name, step_over=s, now=False)
            for s in STEPS
            if c.id != step.cutter or step.cusp or abs(s - step.step_over) > 1e-9
        ]
    return out


def weigh(
    store: Store, plan: Plan, whose: Whose, cutter: str, step_over: float, now: bool = False
) -> FinishWeighed:
    """What a cutter and step-over come to: the plan derived with them, timed and carved as it would be;
    nothing is stored. ``now``: the step as it is planned, whatever else is said.

    Raises:
        BadInput: no such step or cutter, or one that makes no relief.
    """
    setup, step = _step(plan, whose)
    if now:
        planned = setup.cutter(step.cutter)
        if planned is None:
            raise BadInput(f"the setup has no cutter {step.cutter!r} any more; choose another")
        cusp = step.cusp or _ridge(planned, step.step_over)
        return _weighed(
            store, plan, derive(plan, store.shapes)[whose.setup], whose, planned, step.step_over, cusp
        )
    c = setup.cutter(cutter) or next((s for s in shop_cutters(store) if s.id == cutter), None)
    if c is None:
        raise BadInput(f"there is no cutter {cutter!r}; it may have left the library")
    try:
        command = ChangeSteps(
            setup=None if whose.part else whose.setup,
            part=whose.part or None,
            contour=whose.contour,
            on="reliefs",
            change=(Changed(id=whose.step, fields={"cutter": cutter, "step_over": step_over, "cusp": None}),),
            cutters=(c,),
        )
    except ValueError as e:
        raise BadInput(f"step-over {step_over:g}: {e}") from e
    after = applied_to(plan, command)
    with passing():
        derived = derive(after, store.shapes)[whose.setup]
        return _weighed(store, after, derived, whose, c, step_over, _ridge(c, step_over))


def _ridge(cutter: Cutter, step_over: float) -> float:
    tip = Tip.of(cutter)
    return tip.cusp(tip.across * step_over)


def _weighed(
    store: Store,
    plan: Plan,
    derived: DerivedSetup,
    whose: Whose,
    cutter: Cutter,
    step_over: float,
    cusp: float,
) -> FinishWeighed:
    setup = plan.setup(whose.setup)
    assert setup is not None
    seconds, area = 0.0, 0.0
    left: list[np.ndarray] = []
    unreached = 0.0
    for sheet in derived.sheets:
        thickness = next((s.thickness for s in setup.stock if s.id == sheet.sheet), 0.0)
        for piece in sheet.pieces:
            part = plan.part(piece.part)
            mine = [pc for pc in sheet.cuts if pc.piece.id == piece.id and isinstance(pc.cut, ReliefCut)]
            done = [pc for pc in mine if _is_of(pc.cut, whose, piece.part)]
            if part is None or not done:
                continue
            seconds += sum(pc.seconds for pc in done)
            for name in dict.fromkeys(pc.cut.contour for pc in done):
                passes = [pc.cut for pc in mine if pc.cut.contour == name]
                found = _left(store, setup, part, name, passes, round(thickness, 4), piece.mirrored)
                if found is None:
                    continue
                own, outline = found
                area += outline
                left.append(own)
                unreached += outline * float((own > max(UNREACHED, 3 * cusp)).mean()) if len(own) else 0.0
    every = np.concatenate(left) if left else np.zeros(1)
    if not seconds:
        raise BadInput(f"{cutter.name} finds nothing to finish there; see what is said of the step")
    costs = setup.rules.costs
    sand = sanding_minutes(cusp, area, costs.ridge_minutes_dm2)
    rates = setup.machine.rate_per_hour, costs.labour_per_hour
    cost = seconds / 3600 * rates[0] + sand / 60 * rates[1] if all(rates) else None
    return FinishWeighed(
        cutter=cutter.id,
        step_over=step_over,
        seconds=round(seconds, 1),
        cusp=round(cusp, 4),
        left_99=round(float(np.percentile(every, 99)), 3),
        left_most=round(float(every.max()), 3),
        unreached_mm2=round(unreached, 1),
        sanding_minutes=round(sand, 2),
        cost=None if cost is None else round(cost, 2),
    )


def _is_of(cut: Cut, whose: Whose, part: str) -> bool:
    return (
        cut.kind == "relief finish"
        and cut.operation == whose.step
        and (not whose.part or part == whose.part)
        and (not whose.contour or cut.contour == whose.contour)
    )


def _left(
    store: Store,
    setup: Setup,
    part: Part,
    name: str,
    cuts: list[Cut],
    thickness: float,
    mirrored: bool,
) -> tuple[np.ndarray, float] | None:
    """What is left above a relief, mm, at places inside it once its passes are run, and its area, mm2."""
    shape = store.shapes[part.shape]
    f = next((f for f in shape.features if f.name == name), None)
    mesh = mesh_of(f, store.shapes.surfaces) if f is not None else None
    if f is None or mesh is None:
        return None

    def make() -> tuple[np.ndarray, float]:
        relief: Relief = relief_of(f, mesh, thickness, mirrored)
        passes = [
            ReliefPass("finish", c, cut.moves, 0.0)
            for cut in cuts
            if (c := setup.cutter(cut.cutter)) is not None
        ]
        return carved(relief, passes, CELLS).left, float(relief.outline.area)

    return memo("relief-left", digest(VERSION, part.shape, name, thickness, [c.key for c in cuts]), make)


def _able(c: Cutter, setup: Setup) -> bool:
    if setup.material.family not in c.feeds:
        return False
    try:
        tip = Tip.of(c)
    except BadInput:
        return False
    return tip.corner > 0


def _width(c: Cutter) -> float:
    return Tip.of(c).across


def _step(plan: Plan, whose: Whose) -> tuple[Setup, ReliefFinish]:
    setup = plan.setup(whose.setup)
    if setup is None:
        raise BadInput(f"the job has no setup {whose.setup!r} any more")
    steps: Mapping[str, Operation] = {
        s.id: s
        for s in (
            next(
                (
                    c.steps
                    for c in plan.steps
                    if c.part == whose.part and c.on == "reliefs" and c.contour == whose.contour
                ),
                (),
            )
            if whose.part
            else setup.steps_on("reliefs")
        )
    }
    step = steps.get(whose.step)
    if not isinstance(step, ReliefFinish):
        raise BadInput(f"there is no finishing step {whose.step!r} on reliefs any more; look again")
    return setup, step
