"""Nothing acknowledged is lost: not by kill -9, not by two writers, not by the clean-up of blobs."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tests.conftest import panel
from venzo.core.edits import RenameJob, SetQuantity
from venzo.desk import drawings, jobs
from venzo.store.store import Conflict, Store

WRITER = """
import sys
from pathlib import Path
from tests.conftest import panel
from venzo.desk import drawings, jobs as shop
from venzo.core.edits import RenameJob
from venzo.store.store import Store
store = Store(Path(sys.argv[1]))
for n in range(100000):
    if n % 5 == 4:
        number = store.get("victim").number
        r, _i = drawings.take_drawing(store, "victim", number, "main", f"p{n}.dxf", panel(100 + n, 50, ()))
    else:
        r = store.apply("victim", store.get("victim").number, RenameJob(name=f"edit {n}"))
    print(r.number, r.plan.name, len(r.plan.parts), flush=True)
"""


def test_kill_9_in_the_middle_of_work_loses_no_acknowledged_edit(store):
    jobs.new_job(store, "victim", "long-bed", "birch-ply")
    store.close()
    for pause in (0.15, 0.4):
        p = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(store.folder)],
            stdout=subprocess.PIPE,
            text=True,
            cwd=Path(__file__).parents[2],
        )
        assert p.stdout.readline()
        time.sleep(pause)
        os.kill(p.pid, signal.SIGKILL)
        said = [line.split(" ") for line in p.stdout.read().splitlines() if line.count(" ") >= 2]
        p.wait()
        again = Store(store.folder)
        now = again.get("victim")
        if said:
            number = int(said[-1][0])
            assert now.number >= number
            then = again.get("victim", number).plan
            assert (then.name, len(then.parts)) == (" ".join(said[-1][1:-1]), int(said[-1][-1]))
        assert all(
            again.shapes[p.shape].region.area > 0 and again.blobs.get(d.blob)
            for p in now.plan.parts
            for d in now.plan.drawings
            if d.id == p.drawing
        )
        assert jobs.derive(again, now.plan)
        again.close()


def test_two_stores_on_one_folder_cannot_overwrite_each_other(store):
    job = jobs.new_job(store, "shared", "long-bed", "birch-ply").plan.id
    other = Store(store.folder)
    store.apply(job, 1, RenameJob(name="mine"))
    with pytest.raises(Conflict):
        other.apply(job, 1, RenameJob(name="theirs"))
    assert other.get(job).plan.name == "mine"
    other.close()


def test_blobs_are_collected_only_when_no_revision_names_them(store):
    job = jobs.new_job(store, "blobs", "long-bed", "birch-ply").plan.id
    drawings.take_drawing(store, job, 1, "main", "a.dxf", panel())
    part = store.get(job).plan.parts[0].id
    store.apply(job, 2, SetQuantity(part=part, order="order-1", quantity=7))
    store.undo(job)
    store.undo(job)
    stray = store.blobs.put(b"nobody names me")
    assert store.collect() == 1
    with pytest.raises(KeyError):
        store.blobs.get(stray)
    assert store.redo(job).plan.parts and jobs.derive(store, store.get(job).plan)
