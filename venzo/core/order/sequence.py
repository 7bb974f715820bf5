"""A cutting order: insides before outsides, each cutter loaded as seldom as that allows, short travel."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from venzo.core.order.sequence_kernel import greedy, shorten

VERSION = "greedy-2opt-3"


@dataclass(frozen=True)
class Task:
    """One cut to be ordered: where it starts and ends (mm), its cutter, and whether it frees its part.

    ``after``: indices of tasks that must come before it.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    cutter: str
    outline: bool
    after: frozenset[int] = frozenset()


def cutter_order(tasks: Sequence[Task], numbers: dict[str, int]) -> list[str]:
    """Cutters of inside cuts first, those that also cut outlines last among them, then the outline cutters."""
    inside = {t.cutter for t in tasks if not t.outline}
    outline = {t.cutter for t in tasks if t.outline}
    first = sorted(inside - outline, key=lambda c: numbers.get(c, 0))
    both = sorted(inside & outline, key=lambda c: numbers.get(c, 0))
    rest = sorted(outline - inside, key=lambda c: numbers.get(c, 0))
    return first + both + rest


def sequence(tasks: Sequence[Task], numbers: dict[str, int], at: tuple[float, float] = (0.0, 0.0)) -> list[int]:
    """An order of all tasks that keeps every ``after``.

    Greedy: stay with the loaded cutter; take inside cuts before outlines; go to the nearest that may be cut. Then 2-opt on
    runs of tasks that do not constrain each other.

    Raises:
        ValueError: the precedences form a ring.
    """
    n = len(tasks)
    if not n:
        return []
    rank = {c: i for i, c in enumerate(cutter_order(tasks, numbers))}
    kinds = np.array([rank[t.cutter] for t in tasks], dtype=np.int64)
    outline = np.array([t.outline for t in tasks])
    waits = np.array([len(t.after) for t in tasks], dtype=np.int64)
    followers: list[list[int]] = [[] for _ in tasks]
    for i, t in enumerate(tasks):
        for a in t.after:
            followers[a].append(i)
    first = np.concatenate([[0], np.cumsum([len(f) for f in followers])]).astype(np.int64)
    flat = np.array([i for f in followers for i in f] or [0], dtype=np.int64)
    starts, ends = (np.array([getattr(t, k) for t in tasks], dtype=float).reshape(-1, 2) for k in ("start", "end"))
    found = np.empty(n, dtype=np.int64)
    if greedy(starts, ends, kinds, outline, waits, first, flat, at, found) < n:
        raise ValueError("the order of cuts contradicts itself")
    order = found.tolist()
    return _shorten(tasks, order, at)


def _shorten(tasks: Sequence[Task], order: list[int], at: tuple[float, float]) -> list[int]:
    """2-opt within runs of one cutter and kind whose members do not wait for each other."""
    out: list[int] = []
    i = 0
    while i < len(order):
        j = i + 1
        run = {order[i]}
        while j < len(order) and tasks[order[j]].cutter == tasks[order[i]].cutter and tasks[order[j]].outline == tasks[order[i]].outline \
                and not tasks[order[j]].after & run:
            run.add(order[j])
            j += 1
        before = tasks[out[-1]].end if out else at
        after = tasks[order[j]].start if j < len(order) else None
        out.extend(_two_opt([order[k] for k in range(i, j)], tasks, before, after))
        i = j
    return out


def _two_opt(run: list[int], tasks: Sequence[Task], before: tuple[float, float], after: tuple[float, float] | None) -> list[int]:
    if len(run) < 3:
        return run
    # starts and ends nearly coincide on closed profiles: their middle serves both ways round
    pts = np.array([before] + [((tasks[i].start[0] + tasks[i].end[0]) / 2, (tasks[i].start[1] + tasks[i].end[1]) / 2) for i in run] + ([after] if after else []))
    tour = np.arange(len(pts))
    last = len(tour) - (2 if after else 1)
    step = np.hypot(*np.diff(pts, axis=0).T)
    shorten(pts, tour, last, float(2 * step.max()))
    return [run[k - 1] for k in tour[1 : last + 1]]


def travel(tasks: Sequence[Task], order: Sequence[int], at: tuple[float, float] = (0.0, 0.0)) -> float:
    """Length of the moves between cuts, mm."""
    total, here = 0.0, at
    for i in order:
        total += math.dist(here, tasks[i].start)
        here = tasks[i].end
    return total
