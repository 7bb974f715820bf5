"""Disks and folders as they go wrong: a plain sentence with a way out, the rest usable, nothing half
stored.
"""

import errno
import os
import sqlite3
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from starlette.testclient import TestClient

from tests.conftest import panel
from tests.support.trial import TrialJob, rect
from venzo.api.app import make_app
from venzo.core.memo import behind, forget, memo
from venzo.core.snags import BadInput
from venzo.desk import drawings, jobs
from venzo.store.faults import MissingBlob, plain_fault
from venzo.store.folder import hold_folder
from venzo.store.store import Store


def test_equal_files_at_the_same_time_are_all_stored(store):
    """Five of 48 answered 500: they shared the name of their temporary file."""
    data = b"x" * 300_000
    with ThreadPoolExecutor(24) as pool:
        assert len(set(pool.map(lambda _k: store.blobs.put(data), range(48)))) == 1
    assert not list(store.blobs.folder.glob("*.part"))


def test_an_altered_or_missing_blob_is_noticed_and_the_rest_opens(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]), (rect(80, 60), [(350, 100)]))
    drawing, shape = b.plan.drawings[0].blob, b.plan.parts[0].shape
    path = store.blobs.folder / drawing
    path.write_bytes(path.read_bytes().replace(b"LINE", b"LINF"))
    with pytest.raises(MissingBlob, match="was altered"):
        store.blobs.get(drawing)
    (store.blobs.folder / shape).write_text((store.blobs.folder / shape).read_text().replace("200", "201"))
    again = Store(store.folder)
    with pytest.raises(MissingBlob, match="was altered"):
        again.shapes[shape]
    client = TestClient(make_app(again), base_url="http://testserver")
    job = client.get(f"/api/jobs/{b.job}").json()
    (said,) = [s for s in job["setups"][0]["snags"] if s["rule"] == "plan.underived"]
    assert "restore it from a backup" in said["message"] and len(job["parts"]) == 2
    answer = client.get(f"/api/jobs/{b.job}/drawings/{b.plan.drawings[0].id}")
    assert answer.status_code == 404 and "was altered" in answer.json()["detail"]
    (store.blobs.folder / shape).unlink()
    third = Store(store.folder)
    with pytest.raises(MissingBlob, match="is missing"):
        third.shapes[shape]
    assert client.get("/api/jobs").status_code == 200 and client.get("/api/library").status_code == 200


@pytest.mark.parametrize(
    ("number", "words"),
    [
        (errno.ENOSPC, "disk is full"),
        (errno.EROFS, "cannot be written"),
        (errno.EACCES, "cannot be written"),
        (errno.EIO, "disk refuses"),
    ],
)
def test_a_disk_that_refuses_is_a_sentence_and_nothing_is_half_stored(store, monkeypatch, number, words):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    client = TestClient(make_app(store), base_url="http://testserver", raise_server_exceptions=False)
    before = store.get(b.job).number

    def refuse(_fd):
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(os, "fsync", refuse)
    answer = client.post(
        f"/api/jobs/{b.job}/drawings",
        data={"setup": "main"},
        files={"files": ("new.dxf", panel(333, 55, ()))},
    )
    assert answer.status_code == 507 and words in answer.json()["detail"]
    monkeypatch.undo()
    assert store.get(b.job).number == before and not list(store.blobs.folder.glob("*.part"))
    assert client.post(
        f"/api/jobs/{b.job}/drawings",
        data={"setup": "main"},
        files={"files": ("new.dxf", panel(333, 55, ()))},
    ).json()["results"][0]["ok"]


def test_faults_of_the_database_are_told_apart():
    for text, status, words in (
        ("database or disk is full", 507, "full"),
        ("attempt to write a readonly database", 507, "written"),
        ("database disk image is malformed", 500, "backup"),
        ("database is locked", 503, "another program"),
    ):
        assert (
            plain_fault(sqlite3.OperationalError(text))[0] == status
            and words in plain_fault(sqlite3.OperationalError(text))[1]
        )
    assert plain_fault(ValueError("x")) is None


def test_folders_that_cannot_be_used_say_so(tmp_path, store):
    (tmp_path / "file").write_text("no folder")
    with pytest.raises(BadInput, match="cannot be used"):
        Store(tmp_path / "file")
    damaged = tmp_path / "damaged"
    damaged.mkdir()
    (damaged / "venzo.db").write_bytes(b"SQLite format 3\0" + b"\xff" * 4000)
    with pytest.raises(BadInput, match=r"damaged.*backup"):
        Store(damaged)
    with sqlite3.connect(store.folder / "venzo.db") as db:
        db.execute("update alembic_version set version_num = '9999'")
    with pytest.raises(BadInput, match="newer version of Venzo"):
        Store(store.folder)


def test_one_server_to_a_folder(tmp_path):
    tmp_path.joinpath("shop").mkdir()
    held = hold_folder(tmp_path / "shop")
    with pytest.raises(BadInput, match=f"process {os.getpid()}.*--data"):
        hold_folder(tmp_path / "shop")
    held.close()
    hold_folder(tmp_path / "shop").close()


def test_only_old_files_that_no_plan_names_are_removed(store):
    job = jobs.new_job(store, "job").plan.id
    drawings.take_drawing(store, job, 1, "main", "panel.dxf", panel(300, 200, ()))
    lost, fresh = store.blobs.put(b"refused upload"), store.blobs.put(b"on its way")
    os.utime(store.blobs.folder / lost, (time.time() - 7200,) * 2)
    assert store.collect(3600.0) == 1
    assert store.blobs.get(fresh) and store.shapes[store.get(job).plan.parts[0].shape]
    with pytest.raises(MissingBlob):
        store.blobs.get(lost)


def test_history_goes_on_beyond_a_page(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    for k in range(230):
        b.do({"kind": "rename-job", "name": f"n{k}"})
    first = store.history(b.job)
    rest = store.history(b.job, before=first[-1]["revision"])
    assert len(first) == 200 and [r["revision"] for r in (*first, *rest)] == list(
        range(store.get(b.job).number, 0, -1)
    )


def test_threads_that_ask_for_one_thing_have_it_made_once():
    made, began, go = [], threading.Event(), threading.Event()

    def make():
        made.append(1)
        began.set()
        go.wait(5)
        return len(made)

    forget("once")
    with ThreadPoolExecutor(4) as pool:
        asked = [pool.submit(memo, "once", "key", make) for _ in range(4)]
        began.wait(5)
        go.set()
        assert [a.result() for a in asked] == [1, 1, 1, 1] and len(made) == 1

    def fails():
        raise BadInput("no")

    for _ in range(2):  # a fault is not remembered
        with pytest.raises(BadInput):
            memo("once", "bad", fails)


def test_an_edit_does_not_wait_for_work_that_gives_way():
    began, go = threading.Event(), threading.Event()

    def slow():
        began.set()
        go.wait(5)
        return "slow"

    def trial():
        with behind():
            memo("apart", "key", slow)

    forget("apart")
    t = threading.Thread(target=trial)
    t.start()
    began.wait(5)
    assert memo("apart", "key", lambda: "own") == "own"
    go.set()
    t.join()
