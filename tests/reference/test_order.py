"""Cutting orders against an exact solver and against instances whose optimum is known.

Exact: dynamic programming over subsets (Held and Karp 1962; Bellman 1962), with precedences as for the
sequential ordering problem (Escudero 1988). Known optimum: stops on a square lattice joined along a
boustrophedon, n - 1 steps of the lattice (no way is shorter than the spacing).
"""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import MANY
from venzo.core.order.loads import classes_of
from venzo.core.order.sequence import Task, blocks, moved, sequence, travel

spots = st.tuples(st.floats(0, 1200), st.floats(0, 600))


def exact(tasks):
    """Length of the shortest legal way through all tasks, from X0 Y0."""
    n = len(tasks)
    best = {(1 << i, i): math.dist((0, 0), tasks[i].start) for i in range(n) if not tasks[i].after}
    for size in range(1, n):
        for (done, last), length in [(k, v) for k, v in best.items() if bin(k[0]).count("1") == size]:
            for i in range(n):
                if not done >> i & 1 and all(done >> a & 1 for a in tasks[i].after):
                    key = done | 1 << i, i
                    new = length + math.dist(tasks[last].end, tasks[i].start)
                    if new < best.get(key, math.inf):
                        best[key] = new
    return min(v for (done, _last), v in best.items() if done == (1 << n) - 1)


@settings(max_examples=60 * MANY)
@given(
    st.lists(
        st.tuples(
            spots, st.tuples(st.floats(-40, 40), st.floats(-40, 40)), st.lists(st.integers(0, 9), max_size=2)
        ),
        min_size=2,
        max_size=9,
    )
)
def test_within_five_per_cent_of_the_exact_order(rows):
    tasks = [
        Task(p, (p[0] + d[0], p[1] + d[1]), "a", False, frozenset(a for a in after if a < i))
        for i, (p, d, after) in enumerate(rows)
    ]
    order = sequence(tasks, {"a": 1})
    at = {t: k for k, t in enumerate(order)}
    assert sorted(order) == list(range(len(tasks))) and all(
        at[a] < at[i] for i, t in enumerate(tasks) for a in t.after
    )
    assert travel(tasks, order) <= 1.05 * exact(tasks) + 1.0


@pytest.mark.parametrize("columns, rows", [(6, 4), (10, 10), (25, 8), (32, 32)])
def test_a_lattice_is_walked_nearly_without_a_detour(columns, rows):
    rng = np.random.default_rng(columns)
    grid = np.array([(70.0 * x, 70.0 * y) for x in range(columns) for y in range(rows)])
    tasks = [Task(tuple(p), tuple(p), "a", False) for p in rng.permutation(grid).tolist()]
    assert travel(tasks, sequence(tasks, {"a": 1})) <= 1.05 * 70.0 * (len(tasks) - 1)


def test_an_outline_waits_for_its_own_insides_piece_by_piece_and_all_insides_otherwise():
    pieces = [(300.0 * k, 0.0) for k in range(8)]
    tasks = [Task(p, p, "a", False) for p in pieces] + [
        Task((x, 90.0), (x, 90.0), "a", True, frozenset([i])) for i, (x, _y) in enumerate(pieces)
    ]
    for by in ("insides first", "piece by piece", "small parts first", "heat spread"):
        order = sequence(tasks, {"a": 1}, by=by)
        at = {t: k for k, t in enumerate(order)}
        assert all(at[i] < at[8 + i] for i in range(8))
        if by != "piece by piece":
            assert max(at[i] for i in range(8)) < min(at[i] for i in range(8, 16))
    assert travel(tasks, sequence(tasks, {"a": 1}, by="piece by piece")) < 0.8 * travel(
        tasks, sequence(tasks, {"a": 1})
    )


def test_small_parts_come_early_and_heat_is_spread():
    rng = np.random.default_rng(3)
    tasks = [
        Task(tuple(p), tuple(p), "a", True, size=float(100 + 37 * i % 900))
        for i, p in enumerate(rng.uniform(0, 1500, (30, 2)).tolist())
    ]
    order = sequence(tasks, {"a": 1}, by="small parts first")
    bands = np.array_split([tasks[i].size for i in order], 3)
    assert max(bands[0]) <= min(bands[1]) and max(bands[1]) <= min(bands[2])
    spread = sequence(tasks, {"a": 1}, by="heat spread")
    near = sum(math.dist(tasks[a].end, tasks[b].start) < 150 for a, b in itertools.pairwise(spread))
    assert near <= 2


@given(
    st.lists(st.tuples(spots, st.lists(st.integers(0, 14), max_size=3)), min_size=3, max_size=15), st.data()
)
def test_a_move_by_hand_says_what_forbids_it_or_keeps_every_rule(rows, data):
    after = [frozenset(a for a in waits if a < i) for i, (_p, waits) in enumerate(rows)]
    tasks = [Task(p, p, "a", False, a) for (p, _w), a in zip(rows, after, strict=True)]
    order = sequence(tasks, {"a": 1})
    task = data.draw(st.sampled_from(order))
    before = data.draw(st.sampled_from([None, *(i for i in order if i != task)]))
    new, clash = moved(order, after, task, before)
    assert sorted(new) == sorted(order) and (
        new[-1] == task if before is None else new.index(task) + 1 == new.index(before)
    )
    broken = any(new.index(a) > new.index(i) for i in new for a in after[i])
    assert broken == (clash is not None) and (clash is None or clash[0] in after[clash[1]])


def loads(order, tasks):
    return sum(k == 0 or tasks[i].cutter != tasks[order[k - 1]].cutter for k, i in enumerate(order))


def fewest(tasks, by):
    """Fewest loads by trying every way (breadth first over sets of cuts), where a loaded cutter cuts all it
    may in the earliest block of what may be cut.
    """
    block, n = blocks(tasks, by), len(tasks)
    todo, seen, count = {(frozenset(), None)}, set(), 0
    while todo:
        ends, after = list(todo), set()
        while ends:
            done, loaded = ends.pop()
            if len(done) == n:
                return count
            if (done, loaded) in seen:
                continue
            seen.add((done, loaded))
            free = [i for i in range(n) if i not in done and tasks[i].after <= done]
            low = min(block[i] for i in free)
            first = [i for i in free if block[i] == low]
            same = [i for i in first if tasks[i].cutter == loaded]
            if same:
                ends += [(done | {i}, loaded) for i in same]
            else:
                after |= {(done | {i}, tasks[i].cutter) for i in first}
        todo, count = after, count + 1
    return count


@settings(max_examples=60 * MANY)
@given(
    st.lists(
        st.tuples(spots, st.sampled_from("abc"), st.booleans(), st.lists(st.integers(0, 7), max_size=2)),
        min_size=2,
        max_size=8,
    ),
    st.sampled_from(["insides first", "outsides first", "piece by piece"]),
)
def test_no_cutter_is_loaded_oftener_than_the_order_needs(rows, by):
    tasks = [
        Task(p, p, cutter, outline, frozenset(a for a in after if a < i))
        for i, (p, cutter, outline, after) in enumerate(rows)
    ]
    order = sequence(tasks, {"a": 1, "b": 2, "c": 3}, by=by)
    at = {t: k for k, t in enumerate(order)}
    assert all(at[a] < at[i] for i, t in enumerate(tasks) for a in t.after)
    assert loads(order, tasks) == fewest(tasks, by)


def test_many_like_pieces_are_a_handful_of_classes_and_loads():
    """200 pieces, each with a pocket (a), an engraving (b), a hole (a) after the pocket and an outline (c)
    after all: three loads, however many pieces there are.
    """
    tasks = []
    for k in range(200):
        p, n = (30.0 * k, 0.0), len(tasks)
        tasks += [
            Task(p, p, "a", False),
            Task(p, p, "b", False),
            Task(p, p, "a", False, frozenset([n])),
            Task(p, p, "c", True, frozenset([n, n + 1, n + 2])),
        ]
    assert len(classes_of([t.cutter for t in tasks], blocks(tasks, ""), [t.after for t in tasks])) == 4
    assert loads(sequence(tasks, {"a": 1, "b": 2, "c": 3}), tasks) == 3
