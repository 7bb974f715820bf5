"""Questions answered in a process beside the server and on a real Dask cluster on loopback: the same
answers, stop and best so far across the wire, and a worker that dies in the middle costs nothing but time.
"""

import os
import signal

import pytest
from distributed import Client, LocalCluster

from tests.support.waiting import until
from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.questions import CheapestAsked, CurveAsked, NestAsked, answer
from venzo.core.snags import BadInput
from venzo.work.executor import DaskExecutor, LocalExecutor, executor

PARTS = [
    {"id": "ell", "outline": [[0, 0], [300, 0], [300, 90], [110, 90], [110, 260], [0, 260]], "quantity": 9},
    {"id": "tri", "outline": [[0, 0], [240, 30], [60, 210]], "quantity": 14},
]
SHEETS = [
    {"id": "large", "width": 1200, "height": 800, "quantity": 6, "cost": 40, "margin": 5},
    {"id": "small", "width": 700, "height": 500, "quantity": 4, "cost": 13, "margin": 5},
]
PROBLEM = NestProblem.model_validate(
    {"sheets": SHEETS, "parts": [{**p, "rotations": "free"} for p in PARTS], "spacing": 6}
)
SMALL = NestProblem.model_validate(
    {"sheets": SHEETS, "parts": [{**p, "rotations": [0, 90], "quantity": 4} for p in PARTS], "spacing": 6}
)
ENDLESS = NestAsked(problem=PROBLEM, seconds=300)


@pytest.fixture(scope="module")
def cluster():
    with LocalCluster(
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None, silence_logs=50
    ) as made:
        with Client(made) as client:
            client.run(os.nice, 10)  # other tests go on beside
        yield made


@pytest.fixture(scope="module")
def places(cluster):
    """Both executors, made once."""
    both = LocalExecutor(), DaskExecutor(cluster.scheduler_address)
    yield dict(zip(("local", "cluster"), both, strict=True))
    for e in both:
        e.close()


def done(task, seconds=120):
    assert task.over.wait(seconds), f"{task.state}, {task.share:.0%}"
    return task


def bare(found):
    return found.model_copy(update={"seconds": 0.0})


def test_the_same_question_has_the_same_answer_wherever_it_is_asked(places):
    asked = [
        NestAsked(problem=SMALL, seed=3, steps=6),
        CheapestAsked(problem=SMALL, steps=5, endless=("large",)),
        CurveAsked(problem=SMALL, part="tri", first=6, last=9, steps=3),
    ]
    tasks = {name: [e.submit(q) for q in asked] for name, e in places.items()}
    here = [bare(answer(q)) for q in asked]
    assert here[0].unplaced == 0 and here[0].placements and here[1].bound <= here[1].cost
    assert [q.quantity for q in here[2].curve] == [6, 7, 8, 9]
    for name, mine in tasks.items():
        assert [bare(done(t).answer) for t in mine] == here, name
        assert [t.state for t in mine] == ["done"] * 3


@pytest.mark.parametrize("place", ["local", "cluster"])
def test_stop_and_best_so_far_cross_the_wire(places, place):
    task = places[place].submit(ENDLESS)
    until(lambda: task.best is not None, 60)
    assert task.state == "running" and task.best.cost > 0 and 0 <= task.share < 0.5
    places[place].stop(task)
    found = done(task, 30).answer
    assert task.state == "stopped" and found.cut_short and found.unplaced == 0 and found.seconds < 60
    assert found.cost <= task.best.cost


def test_a_waiting_question_is_stopped_as_well(places):
    first, second = (places["local"].submit(ENDLESS) for _ in range(2))
    places["local"].stop(second)
    places["local"].stop(first)
    assert done(first).state == done(second).state == "stopped"


@pytest.mark.long
def test_what_a_killed_worker_had_is_answered_by_another(places, cluster):
    asked = NestAsked(problem=PROBLEM, seed=5, steps=60)
    task = places["cluster"].submit(asked)
    until(lambda: task.best is not None, 60)
    client = places["cluster"]._client
    busy = {w for w, keys in client.processing().items() if keys}
    pids = client.run(os.getpid)
    assert busy and not task.over.is_set()
    os.kill(pids[busy.pop()], signal.SIGKILL)
    found = done(task).answer
    assert task.state == "done" and bare(found) == bare(answer(asked))


@pytest.mark.parametrize("place", ["local", "cluster"])
def test_an_impossible_question_is_answered_in_words(places, place):
    asked = CurveAsked(problem=PROBLEM, part="none", first=1, last=2, steps=1)
    task = done(places[place].submit(asked))
    assert task.state == "failed" and "part 'none' is not in the problem" in task.fault


def test_a_cluster_that_is_not_there_is_said_to_be_away(monkeypatch):
    monkeypatch.setattr("venzo.work.executor.CONNECT", 0.5)
    with pytest.raises(BadInput, match=r"no scheduler answers there; start it, or unset VENZO_DASK"):
        executor("tcp://127.0.0.1:9")


@pytest.mark.long
def test_the_process_beside_the_server_is_made_anew_when_it_died(places):
    local = LocalExecutor()
    task = local.submit(ENDLESS)
    until(lambda: task.state == "running", 60)
    for pid in list(local._pool._processes):
        os.kill(pid, signal.SIGKILL)
    assert "ask again" in done(task).fault and task.state == "failed"
    again = done(local.submit(NestAsked(problem=PROBLEM, steps=2)))
    assert again.state == "done"
    local.close()
