"""Screens hear of every edit, whoever makes it, as soon as it is stored."""

import json
import threading
from concurrent.futures import ThreadPoolExecutor
from urllib.request import urlopen

import pytest
from starlette.testclient import TestClient

from tests.support.server import Server
from tests.support.trial import TrialJob, rect
from venzo.api.app import make_app
from venzo.api.routes.changes import MOST_LISTENING
from venzo.core.edits import RenameJob
from venzo.store.store import Conflict


@pytest.fixture
def served(store):
    b = TrialJob(store, (rect(100, 60), [(30, 30)]))
    server = Server(store.folder)
    server.up()
    yield server.url, b.job
    server.down()


def listened(url, job):
    """Numbers of revisions as they come, without end."""
    with urlopen(f"{url}/api/jobs/{job}/changes", timeout=20) as stream:
        assert stream.headers["content-type"].startswith("text/event-stream")
        for line in stream:
            if line.startswith(b"data:"):
                yield json.loads(line[5:])["revision"]


def posted(url, path, body):
    from urllib.request import Request

    data = json.dumps(body).encode()
    return json.load(urlopen(Request(url + path, data, {"content-type": "application/json"}), timeout=60))


def test_edits_undo_and_redo_are_heard_of_by_all_who_listen(served):
    url, job = served
    one, two = listened(url, job), listened(url, job)
    now = next(one)
    assert next(two) == now
    posted(url, f"/api/jobs/{job}/commands", {"base": now, "command": {"kind": "rename-job", "name": "A"}})
    assert next(one) == next(two) == now + 1
    posted(url, f"/api/jobs/{job}/undo", None)
    assert next(one) == now + 2
    posted(url, f"/api/jobs/{job}/redo", None)
    assert next(one) == now + 3
    one.close()
    # who does not listen any more holds nobody up
    posted(url, f"/api/jobs/{job}/undo", None)
    heard = list(iter(lambda: next(two), now + 4))
    assert heard == sorted(heard)
    two.close()


def test_whoever_leaves_makes_room_for_others(served):
    """More screens come and go than may listen at once."""
    url, job = served
    for _ in range(MOST_LISTENING + 6):
        stream = listened(url, job)
        assert next(stream) >= 1
        stream.close()


def test_a_job_that_is_not_there_is_told_before_anything_is_sent(store):
    with TestClient(make_app(store)) as api:
        found = api.get("/api/jobs/nobody/changes")
    assert found.status_code == 404 and "nobody" in found.json()["detail"]


def test_every_edit_is_told_once_with_its_number_and_none_that_was_refused(store):
    b = TrialJob(store, (rect(100, 60), [(30, 30)]))
    told = []
    end = store.watch(lambda job, number: told.append((job, number)))
    base = store.get(b.job).number
    b.do(RenameJob(name="one"))
    with pytest.raises(Conflict):
        store.apply(b.job, base, RenameJob(name="two"))
    store.undo(b.job)
    end()
    b.do(RenameJob(name="three"))
    assert told == [(b.job, base + 1), (b.job, base + 2)]


def test_somebody_who_cannot_hear_undoes_nothing(store):
    b = TrialJob(store, (rect(100, 60), [(30, 30)]))
    heard = []

    def deaf(_job, _number):
        raise RuntimeError("gone")

    store.watch(deaf)
    store.watch(lambda _job, number: heard.append(number))
    done = b.do(RenameJob(name="stored"))
    assert store.get(b.job).plan.name == "stored" and heard == [done.number]


def test_edits_from_many_threads_are_all_told(store):
    jobs = [TrialJob(store, (rect(100, 60), [(30, 30)])).job for _ in range(3)]
    lock, told = threading.Lock(), []

    def tell(job, number):
        with lock:
            told.append((job, number))

    store.watch(tell)

    def edit(k):
        job = jobs[k % 3]
        try:
            store.apply(job, store.get(job).number, RenameJob(name=f"name {k}"))
        except Conflict:
            return 0
        return 1

    with ThreadPoolExecutor(6) as pool:
        stored = sum(pool.map(edit, range(30)))
    assert len(told) == len(set(told)) == stored
    for job in jobs:
        numbers = sorted(n for j, n in told if j == job)
        assert numbers == list(range(numbers[0], numbers[0] + len(numbers)))
