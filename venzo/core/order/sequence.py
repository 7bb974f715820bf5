"""A cutting order: insides before outsides, each cutter loaded as seldom as that allows, short travel."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

VERSION = "greedy-2opt-1"


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
    rank = {c: i for i, c in enumerate(cutter_order(tasks, numbers))}
    waiting = [set(t.after) for t in tasks]
    left = set(range(n))
    open_inside = sum(not t.outline for t in tasks)
    order: list[int] = []
    loaded: str | None = None
    here = at
    starts = np.array([t.start for t in tasks]).reshape(-1, 2)
    while left:
        ready = [i for i in left if not waiting[i] & left]
        if not ready:
            raise ValueError("the order of cuts contradicts itself")
        if open_inside:  # outlines wait while any inside cut can be made
            ready = [i for i in ready if not tasks[i].outline] or ready
        with_loaded = [i for i in ready if tasks[i].cutter == loaded]
        if not with_loaded:
            loaded = min((tasks[i].cutter for i in ready), key=lambda c: rank[c])
            with_loaded = [i for i in ready if tasks[i].cutter == loaded]
        index = np.array(with_loaded)
        far = np.hypot(*(starts[index] - here).T)
        pick = int(index[int(np.lexsort((index, np.round(far, 6)))[0])])
        order.append(pick)
        left.discard(pick)
        open_inside -= not tasks[pick].outline
        here = tasks[pick].end
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
    dist = np.hypot(pts[:, None, 0] - pts[None, :, 0], pts[:, None, 1] - pts[None, :, 1])
    tour = np.arange(len(pts))
    last = len(tour) - (2 if after else 1)
    for _ in range(40):
        improved = False
        for i in range(last):
            j = np.arange(i + 1, last + 1)
            a, b, c = tour[i], tour[i + 1], tour[j]
            d = np.where(j + 1 < len(tour), tour[np.minimum(j + 1, len(tour) - 1)], -1)
            gain = dist[a, b] - dist[a, c] + np.where(d >= 0, dist[c, d] - dist[b, d], 0.0)
            k = int(np.argmax(gain))
            if gain[k] > 1e-6:
                tour[i + 1 : j[k] + 1] = tour[i + 1 : j[k] + 1][::-1]
                improved = True
        if not improved:
            break
    return [run[k - 1] for k in tour[1 : last + 1]]


def travel(tasks: Sequence[Task], order: Sequence[int], at: tuple[float, float] = (0.0, 0.0)) -> float:
    """Length of the moves between cuts, mm."""
    total, here = 0.0, at
    for i in order:
        total += math.dist(here, tasks[i].start)
        here = tasks[i].end
    return total
