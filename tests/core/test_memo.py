"""What is remembered: one thread makes a result, faults are told to all, and a budget of bytes is kept
whatever is asked for.
"""

import threading
import time
import tracemalloc
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Point

from venzo.core import memo as memory
from venzo.core.memo import LASTING, budget, forget, held, keep_with, known, memo, passing
from venzo.core.weight import weight


@pytest.fixture(autouse=True)
def fresh():
    with budget(1_000_000):
        yield


def test_four_threads_that_ask_one_thing_make_it_once():
    made, gate = [], threading.Barrier(4)

    def ask(_):
        gate.wait()
        return memo("test", "one", make)

    def make():
        made.append(threading.get_ident())
        return object()

    with ThreadPoolExecutor(4) as pool:
        got = list(pool.map(ask, range(4)))
    assert len(made) == 1 and len(set(map(id, got))) == 1


def test_a_fault_reaches_everyone_and_is_not_remembered():
    inside, release, asked = threading.Event(), threading.Event(), threading.Event()

    def make():
        inside.set()
        release.wait(20)
        raise ValueError("no")

    def second():
        asked.set()
        return memo("test", "bad", lambda: "made anew")

    with ThreadPoolExecutor(2) as pool:
        first = pool.submit(memo, "test", "bad", make)
        assert inside.wait(20)
        other = pool.submit(second)
        assert asked.wait(20)
        release.set()
        with pytest.raises(ValueError, match="no"):
            first.result(20)
        fault = other.exception(20)
    assert fault is None or isinstance(fault, ValueError), (
        "it waited and was told, or came later and made its own"
    )
    assert memo("test", "bad", lambda: "made anew") == "made anew"


@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 40_000)), max_size=60))
def test_the_budget_is_kept_and_every_answer_is_right(asks):
    with budget(500_000):
        for key, size in asks:
            got = memo("test", f"{key}/{size}", lambda key=key, size=size: np.full(size, key))
            assert len(got) == size and (got == key).all()
            assert held()[1] <= 500_000


def test_the_longest_unasked_goes_first_and_what_is_too_heavy_is_not_kept():
    for k in range(4):
        memo("test", str(k), lambda: np.zeros(25_000))
    memo("test", "0", lambda: pytest.fail("it is remembered"))
    memo("test", "4", lambda: np.zeros(25_000))
    assert [known("test", str(k)) for k in range(5)] == [True, False, True, True, True]
    memo("test", "huge", lambda: np.zeros(2_000_000))
    assert not known("test", "huge") and known("test", "4")
    forget("test")
    assert held() == (0, 0)


@pytest.mark.parametrize(
    "make",
    [
        lambda: [np.random.default_rng(1).random((n, 3)) for n in range(200)],
        lambda: {f"part {k}": ("outline", [k + n / 7 for n in range(50)]) for k in range(400)},
        lambda: [Point(k, 0).buffer(3) for k in range(400)],
        lambda: [tuple(f"{k} {n}" for n in range(30)) for k in range(300)],
    ],
)
def test_what_is_reckoned_is_near_what_is_held(make):
    make()
    tracemalloc.start(4)
    try:
        value = make()
        # only what was asked for here: other threads of the test runner take memory meanwhile
        asked_here = tracemalloc.Filter(True, __file__, all_frames=True)
        taken = tracemalloc.take_snapshot().filter_traces([asked_here])
    finally:
        tracemalloc.stop()
    measured = sum(trace.size for trace in taken.traces)
    assert weight(value) > 0.5 * measured and weight(value) < max(
        3 * measured, 1.2 * 400 * (200 + 65 * 16)
    ), "geometry lives outside of what Python counts"


def test_what_cannot_be_weighed_is_answered_all_the_same():
    class Odd:
        __slots__ = ("own",)

        def __getattribute__(self, name):
            if name == "own":
                raise RuntimeError("not now")
            return object.__getattribute__(self, name)

    with ThreadPoolExecutor(2) as pool:
        got = [f.result(20) for f in [pool.submit(memo, "test", "odd", Odd) for _ in range(2)]]
    assert all(isinstance(g, Odd) for g in got) and not known("test", "odd")
    assert isinstance(memo("test", "odd", Odd), Odd), "nobody waits for ever"


def test_a_real_derivation_is_weighed(demo):
    from venzo.desk import jobs

    with budget(50_000_000):
        jobs.derive(demo, demo.get("estuary-hide-ribs-and-benches").plan)
        count, heavy = held()
        assert count > 100 and 1_000_000 < heavy <= 50_000_000
        assert memory.BUDGET >= 500_000_000


def test_what_is_only_tried_is_remembered_and_not_kept_on_disk():
    kept = []

    class Keeper:
        def find(self, stage, key):
            return None

        def keep(self, stage, key, value, heavy):
            kept.append((stage, key))

    def slow():
        until = time.perf_counter() + 2 * LASTING
        while time.perf_counter() < until:
            pass
        return "made"

    before = keep_with(Keeper())
    try:
        with passing():
            assert memo("passing", "tried", slow) == "made"
        assert known("passing", "tried") and not kept
        memo("passing", "meant", slow)
        assert kept == [("passing", "meant")]
    finally:
        keep_with(before)
