"""What takes away what is left standing: a smaller cutter, relieved corners, a rest step, more overshoot. All
are tried on the plan, and what stands then is measured anew; offered is what leaves less.
"""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial

import numpy as np
from pydantic import JsonValue

from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.moves import X, Y
from venzo.core.cuts.operations import Operation, Profile
from venzo.core.derive import DerivedSetup
from venzo.core.memo import known, memo
from venzo.core.model import Fields, Value, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.measure import RELIEF
from venzo.core.plan import Plan
from venzo.core.proof.check import Subject
from venzo.core.proof.left import Kind, Left, left_over
from venzo.core.proof.removal import FINEST, stages_of
from venzo.core.snags import BadInput, Remedy
from venzo.core.tooling.cutter import FLAT, Cutter
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt, left_of, sheet_of
from venzo.desk.remedies import Applied, applied, worse
from venzo.store.store import Store

Group = tuple[Kind, str, str]
"""Kind, part and contour: what is alike on all pieces of a part."""
PLAN_RULES = ("cuts.unreached", "cuts.lip", "cuts.not-through")
"""Rules of the plan whose remedies may take away what stands."""
MOST_GROUPS = 12
"""Groups of a sheet for which remedies are sought, the highest first."""
SPENT = 15.0
"""s that go into trying remedies for a sheet at a time; what is beyond is tried when asked for again."""
MARGIN = 5.0
"""mm round a piece's cuts that are measured."""
LESS = 0.7
"""A remedy leaves at most this share of the length that stood."""


class LeftRemedies(Value):
    """Remedies for what stands of one kind on one contour of a part."""

    kind: Kind
    part: str
    contour: str
    remedies: tuple[Remedy, ...]


def remedies_for(store: Store, plan: Plan, at: SheetAt) -> list[LeftRemedies]:
    """What takes away what is left on a sheet; groups for which nothing helps are left out.

    Raises:
        BadInput: no such sheet.
    """
    sheet = sheet_of(store, plan, at)[1]
    d = jobs.derive(store, plan)[at.setup]  # with its hold: a remedy must not loosen what is held
    until = time.monotonic() + SPENT
    groups: dict[Group, Left] = {}
    for f in left_of(store, plan, at):
        groups.setdefault((f.kind, f.part, f.contour), f)
    out = []
    for group, first in list(groups.items())[:MOST_GROUPS]:
        key = digest("left-remedies-2", digest(plan), group, [at.setup, at.sheet, at.copy_no])
        if time.monotonic() > until and not known("left-remedies", key):
            continue
        found = memo("left-remedies", key, partial(_tried, store, plan, d, sheet, group, first))
        if found:
            out.append(LeftRemedies(kind=group[0], part=group[1], contour=group[2], remedies=found))
    return out


def _tried(
    store: Store, plan: Plan, d: DerivedSetup, sheet: SheetPlan, group: Group, first: Left
) -> tuple[Remedy, ...]:
    """Such remedies as leave less and stop nothing that went before."""
    now = Applied(plan, {d.setup.id: d}, store.shapes)
    before = standing_of(now, d.setup.id, sheet, first.piece, group)
    if not before:
        return ()  # what stands is a neighbour's doing
    long = sum(f.length for f in before)
    out: list[Remedy] = []
    for remedy in candidates(d, sheet, group, first.piece):
        try:
            after = applied(store, plan, remedy)
        except BadInput:
            continue
        if any(s.severity == "stop" for s in worse(d.snags, after.derived[d.setup.id].snags)):
            continue
        still = standing_of(after, d.setup.id, sheet, first.piece, group)
        if still is None or sum(f.length for f in still) > LESS * long:
            continue
        trades = (
            f"{len(still)} of {len(before)} still stand, up to {max(f.length for f in still):.1f} mm along"
            if still
            else next((s.message for s in worse(d.snags, after.derived[d.setup.id].snags)), "")
        )
        out.append(remedy.model_copy(update={"trades": trades}))
    return tuple(out)


def standing_of(of: Applied, setup: str, sheet: SheetPlan, piece: str, group: Group) -> list[Left] | None:
    """What stands of a group on one piece, measured about it alone; None: the piece is not cut any more."""
    d = of.derived[setup]
    there = next((s for s in d.sheets if (s.sheet, s.copy_no) == (sheet.sheet, sheet.copy_no)), None)
    mine = tuple(c for c in there.cuts if c.piece.id == piece) if there else ()
    if there is None or not mine:
        return None
    alone = replace(there, pieces=tuple(q for q in there.pieces if q.id == piece), cuts=mine)
    way = np.vstack([c.moves[:, [X, Y]] for c in mine])
    (x0, y0), (x1, y1) = way.min(axis=0) - MARGIN, way.max(axis=0) + MARGIN
    wide = max((c.diameter for c in d.setup.cutters), default=0.0) / 2
    body = StockBody(Box(float(x0 - wide), float(y0 - wide), float(x1 + wide), float(y1 + wide)), FINEST)
    for stage in stages_of(d.setup, alone):
        body.cut(stage.moves, stage.cutter)
    subject = Subject(of.plan, d.setup, alone, of.shapes, d.cuts[sheet.sheet])
    return [f for f in left_over(subject, body) if (f.kind, f.part, f.contour) == group]


def candidates(d: DerivedSetup, sheet: SheetPlan, group: Group, piece: str) -> Iterator[Remedy]:
    """Remedies worth a trial: those that the plan's rules offer there, and by what stands."""
    kind, part, contour = group
    for s in d.snags:
        where = s.where or {}
        if s.rule in PLAN_RULES and (where.get("part"), where.get("contour")) == (part, contour):
            yield from s.remedies
    cuts = [c for c in sheet.cuts if c.piece.id == piece and c.cut.contour == contour]
    used = [k for c in cuts if (k := d.setup.cutter(c.cut.cutter)) is not None]
    if kind != "corner" or not used:
        return
    last = used[-1]
    deep = max((-c.cut.levels[-1] for c in cuts if c.cut.levels), default=0.0)
    smaller_ones = _smaller(d.setup.cutters, last, deep, d.setup.material.family)
    steps = _profiles(d, sheet, part, contour)
    for smaller in smaller_ones if steps else ():
        yield _rest(part, contour, steps, smaller)
    for smaller in smaller_ones:
        choose: Fields = {"kind": "set-contour", "part": part, "contour": contour, "cutter": smaller.id}
        yield Remedy(label=f"Cut it with {smaller.name}", command=choose)
    relief: Fields = {
        "kind": "relief",
        "style": "dog-bone",
        "radius": round(last.radius + RELIEF, 3),
        "contours": [contour],
    }
    alter: Fields = {"kind": "alter-part", "part": part, "add": relief}
    yield Remedy(label="Relieve its inside corners, dog-bone", command=alter)


def _profiles(d: DerivedSetup, sheet: SheetPlan, part: str, contour: str) -> list[Operation]:
    """The steps on a contour, where they end with a profile."""
    planned = next((pc for (p, _flip), pc in d.cuts[sheet.sheet].items() if p == part), None)
    found = planned.of(contour) if planned else None
    if found is None:
        return []
    by_id = {o.id: o for o in d.setup.operations}
    steps = [by_id[s.operation] for s in found.steps if s.operation in by_id]
    whole = len(steps) == len(found.steps) and steps and isinstance(steps[-1], Profile)
    return steps if whole else []


def _rest(part: str, contour: str, steps: Sequence[Operation], smaller: Cutter) -> Remedy:
    """A step more, with a smaller cutter, along nothing but what the steps before left."""
    last = steps[-1]
    more = last.model_copy(
        update={
            "id": f"rest {smaller.number}",
            "cutter": smaller.id,
            "rest": True,
            "side_allowance": 0.0,
            "rpm": None,
            "feed": None,
            "plunge": None,
        }
    )
    stated: list[JsonValue] = [s.model_dump(mode="json") for s in (*steps, more)]
    command: Fields = {"kind": "set-steps", "part": part, "on": last.on, "contour": contour, "steps": stated}
    return Remedy(label=f"Take the rest alone with {smaller.name}", command=command)


def _smaller(cutters: Sequence[Cutter], than: Cutter, deep: float, family: str) -> list[Cutter]:
    """Flat cutters that reach and are smaller, the largest and the smallest of them."""
    able = [
        c
        for c in cutters
        if c.kind in FLAT
        and c.kind not in ("surfacing", "roughing")
        and family in c.feeds
        and c.reach >= deep - 1e-6
        and c.diameter < than.diameter - 0.05
    ]
    by_size = sorted(able, key=lambda c: -c.diameter)
    return [*by_size[:1], *by_size[-1:]] if len(by_size) > 1 else by_size
