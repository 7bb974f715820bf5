"""What may wait gives way to an edit, and goes on when it is answered."""

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.support.trial import TrialJob, rect
from tests.support.waiting import until
from venzo.core.memo import Overtaken, behind, give_way, memo, urgent
from venzo.desk import jobs


def test_work_behind_waits_for_urgent_work_and_then_goes_on():
    began, done = threading.Event(), threading.Event()

    def trial():
        with behind():
            began.set()
            memo("give-way-test", "a", lambda: 1)
            done.set()

    with urgent():
        t = threading.Thread(target=trial)
        t.start()
        began.wait()
        assert not done.wait(0.2), "it made its stage while an edit was under way"
        assert memo("give-way-test", "b", lambda: 2) == 2, "the edit itself does not wait"
    t.join(5)
    assert done.is_set()


def test_urgent_work_that_fails_lets_the_others_go_on():
    try:
        with urgent():
            raise ValueError
    except ValueError:
        pass
    with behind():
        give_way()


def test_overtaken_work_ends_between_stages_and_whoever_waits_for_its_result_makes_it():
    begun, gone, made = threading.Event(), threading.Event(), []

    def stage():
        begun.set()
        assert gone.wait(5)
        give_way()
        return made.append("stale")

    def stale():
        with behind(gone.is_set):
            try:
                memo("overtaken-test", "a", stage)
            except Overtaken:
                made.append("ended")

    t = threading.Thread(target=stale)
    t.start()
    assert begun.wait(5)
    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(lambda: _behind_nobody("overtaken-test", "a", lambda: "fresh"))
        gone.set()
        assert waiting.result(5) == "fresh"
    t.join(5)
    assert made == ["ended"]


def _behind_nobody(stage, key, make):
    """A stage asked for by work that gives way too, and that nothing overtakes."""
    with behind():
        return memo(stage, key, make)


def test_a_proof_of_a_plan_that_was_edited_since_ends(store, monkeypatch):
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({})
    number = b.store.get(b.job).number
    ask = jobs.edited_since(store, b.job, number)
    assert not ask()
    b.outline({"feed": 2000.0})
    until(ask)
    with behind(ask), pytest.raises(Overtaken):
        jobs.prove_setup(store, b.plan, jobs.derive(store, b.plan)["main"])
