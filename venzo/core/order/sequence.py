"""A cutting order: insides before outsides, each cutter loaded as seldom as that allows, short travel."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from venzo.core.order.loads import classes_of, fewest_loads
from venzo.core.snags import BadInput

VERSION = "greedy-ils-7"
EXACT = 10
"""Runs of no more cuts than this are put in the best order there is."""
APART = 150.0
"""mm between cuts that follow one another where heat is to spread."""


@dataclass(frozen=True)
class Task:
    """One cut to be ordered: where it starts and ends (mm), its cutter, and whether it frees its part.

    ``after``: indices of tasks that must come before it. ``stage``: 0 is cut before 1 (a trial before the
    rest), as far as ``after`` allows. ``size``: of its part, mm2.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    cutter: str
    outline: bool
    after: frozenset[int] = frozenset()
    stage: int = 0
    size: float = 0.0


def cutter_order(tasks: Sequence[Task], numbers: dict[str, int], by: str = "insides first") -> list[str]:
    """Cutters of inside cuts first, those that also cut outlines last among them, then the outline cutters;
    the other way round where outsides come first.
    """
    inside = {t.cutter for t in tasks if not t.outline}
    outline = {t.cutter for t in tasks if t.outline}
    first = sorted(inside - outline, key=lambda c: numbers.get(c, 0))
    both = sorted(inside & outline, key=lambda c: numbers.get(c, 0))
    rest = sorted(outline - inside, key=lambda c: numbers.get(c, 0))
    return rest + both + first if by == "outsides first" else first + both + rest


def blocks(tasks: Sequence[Task], by: str) -> list[int]:
    """In which block each task is cut under an order: ``insides first``, ``piece by piece``, ``small parts
    first`` (outlines in three bands of size), ``heat spread`` or ``outsides first``.
    """
    if by == "outsides first":
        return [10 * t.stage + (0 if t.outline else 1) for t in tasks]
    sizes = sorted({t.size for t in tasks if t.outline})
    cuts = (
        [sizes[len(sizes) // 3], sizes[2 * len(sizes) // 3]]
        if by == "small parts first" and len(sizes) > 2
        else []
    )
    out = []
    for t in tasks:
        band = sum(t.size >= c for c in cuts) if t.outline else 0
        out.append(10 * t.stage + (0 if by == "piece by piece" else 1 + band if t.outline else 0))
    return out


def sequence(
    tasks: Sequence[Task],
    numbers: dict[str, int],
    at: tuple[float, float] = (0.0, 0.0),
    by: str = "insides first",
    kicks: int | None = None,
) -> list[int]:
    """An order of all tasks that keeps every ``after``.

    First the row of cutters that is loaded least often is found (``loads``). Then greedy: empty the earliest
    block of the load; go to the nearest that may be cut. Then
    every run of one cutter and block is shortened as a sequential ordering problem (Escudero 1988): 2-opt and
    or-opt moves that keep what waits (Or 1976; Gambardella and Dorigo 2000), disturbed by double bridges and
    settled again (iterated local search, Lourenco, Martin and Stuetzle 2003).

    Args:
        tasks: the cuts.
        numbers: tool number by cutter.
        at: where the cutter comes from, mm.
        by: see ``blocks``.
        kicks: disturbances a run; None: a few, so that an edit is answered at once (within a few per cent of
        what thousands find, docs/benchmarks.md).

    Raises:
        ValueError: the precedences form a ring.
    """
    n = len(tasks)
    if not n:
        return []
    rank = {c: i for i, c in enumerate(cutter_order(tasks, numbers, by))}
    kinds = np.array([rank[t.cutter] for t in tasks], dtype=np.int64)
    block = np.array(_by_load(tasks, blocks(tasks, by), rank), dtype=np.int64)
    waits = np.array([len(t.after) for t in tasks], dtype=np.int64)
    followers: list[list[int]] = [[] for _ in tasks]
    for i, t in enumerate(tasks):
        for a in t.after:
            followers[a].append(i)
    first = np.concatenate([[0], np.cumsum([len(f) for f in followers])]).astype(np.int64)
    flat = np.array([i for f in followers for i in f] or [0], dtype=np.int64)
    starts, ends = (
        np.array([getattr(t, k) for t in tasks], dtype=float).reshape(-1, 2) for k in ("start", "end")
    )
    found = np.empty(n, dtype=np.int64)
    from venzo.core.order.sequence_kernel import greedy  # here, since its compiler is dear to load

    if greedy(starts, ends, kinds, block, waits, first, flat, at, found) < n:
        raise BadInput(
            "the order of cuts contradicts itself: two cuts each wait for the other; take the last change of"
            " steps or order back"
        )
    order: list[int] = found.tolist()
    out: list[int] = []
    for i, j in runs([(kinds[k], block[k]) for k in order]):
        run = order[i:j]
        before = tasks[out[-1]].end if out else at
        after = tasks[order[j]].start if j < n else None
        out += (
            _spread(tasks, run, before)
            if by == "heat spread"
            else _shortened(tasks, run, starts, ends, before, after, kicks)
        )
    return out


def _by_load(tasks: Sequence[Task], block: Sequence[int], rank: dict[str, int]) -> list[int]:
    """Blocks within loads, of the row of loads that is shortest; the blocks alone where none was found.

    Raises:
        BadInput: two cuts wait for one another.
    """
    try:
        classes = classes_of([t.cutter for t in tasks], block, [t.after for t in tasks])
    except ValueError:
        raise BadInput(
            "the order of cuts contradicts itself: two cuts each wait for the other; take the last change of"
            " steps or order back"
        ) from None
    loads = fewest_loads(classes, rank)
    if loads is None:
        return list(block)
    many = max(block) + 1
    out = [0] * len(tasks)
    for c, load in zip(classes, loads, strict=True):
        for i in c.members:
            out[i] = load * many + c.block
    return out


def runs(keys: Sequence[object]) -> list[tuple[int, int]]:
    """Stretches of equal keys as (first, end)."""
    marks = [0, *(k for k in range(1, len(keys)) if keys[k] != keys[k - 1]), len(keys)]
    return list(pairwise(marks))


def _shortened(
    tasks: Sequence[Task],
    run: list[int],
    starts: np.ndarray,
    ends: np.ndarray,
    before: tuple[float, float],
    after: tuple[float, float] | None,
    kicks: int | None,
) -> list[int]:
    n = len(run)
    at = {task: k for k, task in enumerate(run)}
    waits = [[at[a] for a in tasks[i].after if a in at] for i in run]
    disturbed = kicks if kicks is not None else 110 if n <= 12 else 50
    if n <= EXACT:
        return [run[k] for k in _exact(starts[run], ends[run], before, after, waits)]
    from venzo.core.order.sequence_kernel import improve  # here, since its compiler is dear to load

    better = improve(starts[run], ends[run], np.arange(n, dtype=np.int64), before, after, waits, disturbed)
    return [run[k] for k in better]


def _exact(
    starts: np.ndarray,
    ends: np.ndarray,
    before: tuple[float, float],
    after: tuple[float, float] | None,
    waits: list[list[int]],
) -> list[int]:
    """The shortest legal order of a few cuts, by dynamic programming over subsets (Held and Karp 1962)."""
    n = len(starts)
    need = [sum(1 << a for a in w) for w in waits]
    first: list[list[float]] = starts.tolist()
    final: list[list[float]] = ends.tolist()
    way = [[math.dist(a, b) for b in first] for a in final]
    best: dict[tuple[int, int], tuple[float, int]] = {
        (1 << i, i): (math.dist(before, first[i]), -1) for i in range(n) if not need[i]
    }
    layer = list(best)
    for _ in range(n - 1):
        grown: dict[tuple[int, int], tuple[float, int]] = {}
        for done, last in layer:
            length = best[done, last][0]
            for i in range(n):
                if done >> i & 1 or need[i] & ~done:
                    continue
                key, new = (done | 1 << i, i), length + way[last][i]
                if key not in grown or new < grown[key][0] - 1e-9:
                    grown[key] = (new, last)
        best |= grown
        layer = list(grown)
    at = min(layer, key=lambda k: best[k][0] + (math.dist(final[k[1]], after) if after else 0.0))
    out = []
    while at[1] >= 0:
        out.append(at[1])
        at = (at[0] ^ 1 << at[1], best[at][1])
    return out[::-1]


def _spread(tasks: Sequence[Task], run: list[int], before: tuple[float, float]) -> list[int]:
    """The nearest that lies at least APART from the two cuts before it, else the farthest: heat goes where
    the last cuts were not.
    """
    left = dict.fromkeys(run)
    inside = set(run)
    done: list[int] = []
    here = before
    while left:
        ready = [i for i in left if all(a not in inside or a in done for a in tasks[i].after)]
        last = [tasks[k].end for k in done[-2:]]
        gap = [min((math.dist(tasks[i].start, p) for p in last), default=math.inf) for i in ready]
        apart = [i for i, g in zip(ready, gap, strict=True) if g >= APART]
        pick = (
            min(apart, key=lambda i: (round(math.dist(here, tasks[i].start), 6), i))
            if apart
            else ready[int(np.argmax(gap))]
        )
        done.append(pick)
        del left[pick]
        here = tasks[pick].end
    return done


def moved(
    order: Sequence[int], after: Sequence[frozenset[int]], task: int, before: int | None
) -> tuple[list[int], tuple[int, int] | None]:
    """``order`` with a task put just before another (None: at the end), and what forbids it: (the task that
    must come first, the one that waits for it), None where nothing does.
    """
    out = [i for i in order if i != task]
    out.insert(out.index(before) if before is not None else len(out), task)
    at = {i: k for k, i in enumerate(out)}
    clash = next(((a, i) for i in out for a in after[i] if at[a] > at[i]), None)
    return out, clash


def travel(tasks: Sequence[Task], order: Sequence[int], at: tuple[float, float] = (0.0, 0.0)) -> float:
    """Length of the moves between cuts, mm."""
    total, here = 0.0, at
    for i in order:
        total += math.dist(here, tasks[i].start)
        here = tasks[i].end
    return total
