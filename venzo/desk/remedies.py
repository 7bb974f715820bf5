"""Remedies are tried before they are offered: applied to the plan as it is, derived, and kept only if the
snag goes and no new *stop* comes.

A remedy that brings something to look at says so. What a trial found is remembered by the plan and the
command.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from threading import Lock

from cachetools import LRUCache

from venzo.core.derive import DerivedSetup, derive
from venzo.core.edits import read_command
from venzo.core.edits.aimed import applied_to
from venzo.core.edits.asks import AlterPart, ChangeModel, Remake
from venzo.core.memo import known, memo, passing
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan
from venzo.core.snags import BadInput, Remedy, Snag
from venzo.desk.drawings import alteration, remaking
from venzo.desk.models import changed_model
from venzo.store.store import Store

SEARCHES = frozenset({"read-again", "find-place", "move-cut"})
"""Kinds of command that read or search anew: what comes of them is shown when they are asked for, so they
cannot be tried beforehand.
"""
ABOUT = ("setup", "part", "contour", "piece", "sheet", "sheet_copy", "stock", "cutter", "fixing", "drawing")
"""What of a snag's ``where`` tells which thing it is about."""
MOST = 60
"""Remedies of one plan that are tried."""
SPENT = float(os.environ.get("VENZO_REMEDY_SECONDS", "20"))
"""Seconds of computing that go into trying one plan's remedies; of 500 pieces a trial takes three.
VENZO_REMEDY_SECONDS sets another.
"""
_spent: LRUCache[str, float] = LRUCache(64)
"""Seconds that went into trying, by plan."""
_one_at_a_time = Lock()
RANK = {"note": 0, "look": 1, "stop": 2}


@dataclass(frozen=True)
class Trial:
    """What came of a remedy: whether it may be offered, and what there is to look at then."""

    works: bool
    trades: str = ""


def key_of(s: Snag) -> tuple:
    """What a snag is about, whatever its numbers: the rule and the thing."""
    where = s.where or {}
    return (s.rule, *(str(where.get(k, "")) for k in ABOUT))


class _Shapes(Mapping[str, Shape]):
    """The store's shapes and some more that are not kept."""

    def __init__(self, store: Store, extra: Mapping[str, Shape]):
        self.store, self.extra = store, extra
        self.surfaces = store.shapes.surfaces

    def __getitem__(self, key: str) -> Shape:
        return self.extra.get(key) or self.store.shapes[key]

    def __iter__(self) -> Iterator[str]:
        return iter(())

    def __len__(self) -> int:
        return 0


@dataclass(frozen=True)
class Applied:
    """A plan with a remedy applied, what follows from it, and the shapes of its parts."""

    plan: Plan
    derived: Mapping[str, DerivedSetup]
    shapes: Mapping[str, Shape]


def applied(store: Store, plan: Plan, remedy: Remedy) -> Applied:
    """Apply a remedy to a plan; nothing is stored.

    Raises:
        BadInput: it cannot be applied.
    """
    shapes: Mapping[str, Shape] = store.shapes
    if remedy.command["kind"] in ("alter-part", "change-model"):
        ask = (
            AlterPart.model_validate(remedy.command)
            if remedy.command["kind"] == "alter-part"
            else changed_model(store, plan, ChangeModel.model_validate(remedy.command))
        )
        command, shape = alteration(store, plan, ask)
        after_plan, shapes = command.apply(plan), _Shapes(store, {shape.digest: shape})
    elif remedy.command["kind"] == "remake":
        made = remaking(store, plan, Remake.model_validate(remedy.command))
        after_plan, shapes = made.command.apply(plan), _Shapes(store, made.shapes)
    else:
        after_plan = applied_to(plan, read_command(remedy.command))
    return Applied(after_plan, derive(after_plan, shapes), shapes)


def try_remedy(
    store: Store, plan: Plan, derived: Mapping[str, DerivedSetup], snag: Snag, remedy: Remedy
) -> Trial:
    """Apply a remedy to a plan and see: the snag must go (or weigh less), and nothing new may stop the
    job.
    """
    try:
        with passing():  # most are never taken
            after = applied(store, plan, remedy).derived
    except BadInput:
        return Trial(False)
    before_all = [s for d in derived.values() for s in d.snags]
    after_all = [s for d in after.values() for s in d.snags]
    left = max((RANK[s.severity] for s in after_all if key_of(s) == key_of(snag)), default=-1)
    if left >= RANK[snag.severity]:
        return Trial(False)
    new = worse(before_all, after_all)
    if any(s.severity == "stop" for s in new):
        return Trial(False)
    return Trial(True, next((s.message for s in new if s.severity == "look"), ""))


def worse(before: Sequence[Snag], after: Sequence[Snag]) -> list[Snag]:
    """What is said after a change that was not said before, or not so gravely."""
    known_before = {key_of(s): RANK[s.severity] for s in sorted(before, key=lambda s: RANK[s.severity])}
    return [s for s in after if RANK[s.severity] > known_before.get(key_of(s), -1)]


def offered(
    store: Store, plan: Plan, derived: Mapping[str, DerivedSetup], seconds: float
) -> tuple[dict[str, tuple[Snag, ...]], bool]:
    """Every setup's snags with only such remedies as work, and whether all were tried within ``seconds`` (0:
    only what is known already).

    What weighs most is tried first: of one plan ``MOST`` remedies, and such as come up before ``SPENT``
    seconds went into it. Those beyond are not offered.
    """
    until = time.monotonic() + seconds
    about = digest(plan.model_dump_json())
    complete, count = True, 0
    kept: dict[tuple[str, int, int], Remedy] = {}
    for setup, i, k in _by_weight(derived):
        snag = derived[setup].snags[i]
        remedy = snag.remedies[k]
        if remedy.command["kind"] in SEARCHES:
            kept[setup, i, k] = remedy
            continue
        key = digest(about, snag.rule, snag.where, remedy.command)
        if not known("remedy", key):
            if count >= MOST or _spend(about, 0.0) >= SPENT:
                continue
            if time.monotonic() > until:
                complete = False
                continue
        count += 1
        began = time.thread_time()
        trial = memo("remedy", key, partial(try_remedy, store, plan, derived, snag, remedy))
        _spend(about, time.thread_time() - began)
        if trial.works:
            kept[setup, i, k] = remedy.model_copy(update={"trades": trial.trades})
    out = {}
    for setup, d in derived.items():
        out[setup] = tuple(_with_those_kept(s, setup, i, kept) for i, s in enumerate(d.snags))
    return out, complete


def _with_those_kept(s: Snag, setup: str, i: int, kept: Mapping[tuple[str, int, int], Remedy]) -> Snag:
    """A setup's snag ``i`` with such of its remedies as are kept."""
    if not s.remedies:
        return s
    working = tuple(kept[setup, i, k] for k in range(len(s.remedies)) if (setup, i, k) in kept)
    return s.model_copy(update={"remedies": working})


def _spend(about: str, seconds: float) -> float:
    """Book seconds of trying to a plan; returns all that went into it."""
    with _one_at_a_time:
        _spent[about] = _spent.get(about, 0.0) + seconds
        return _spent[about]


def _by_weight(derived: Mapping[str, DerivedSetup]) -> list[tuple[str, int, int]]:
    """Setup, snag and remedy of all that is proposed: what stops the job first, notes last."""
    every = [
        (-RANK[s.severity], setup, i, k)
        for setup, d in derived.items()
        for i, s in enumerate(d.snags)
        for k in range(len(s.remedies))
    ]
    return [(setup, i, k) for _, setup, i, k in sorted(every, key=lambda e: e[0])]
