"""Derived results kept on disk: after a restart they are found, equal to what is reckoned, without reckoning;
whatever is wrong with the file costs time and nothing else.
"""

import os
import pickle
import shutil
import sqlite3

import numpy as np
import pytest
from shapely.geometry import MultiPolygon, Point

from tests.conftest import MANY
from tests.support.trial import TrialJob, disc, rect
from tests.support.waiting import until
from venzo.core import memo as memory
from venzo.core.memo import budget, keep_with, memo
from venzo.core.plan import Piece
from venzo.core.snags import look
from venzo.desk import jobs
from venzo.store.derived import FILE, Derived
from venzo.store.store import Store


@pytest.fixture
def keeper(tmp_path):
    made = Derived(tmp_path)
    yield made
    made.close()


@pytest.fixture
def in_memory_nothing():
    with budget(1_000_000_000):
        yield
    keep_with(None)


def never():
    raise AssertionError("made again")


def of_a_process(folder, work, most=400_000_000):
    """What a process that starts, works with the kept results and ends comes to."""
    with budget(1_000_000_000):
        kept = Derived(folder, most)
        before = keep_with(kept)
        try:
            return work()
        finally:
            keep_with(before)
            kept.close()


def figures(store, job):
    """All that follows for a job, in numbers and words."""
    out = []
    for d in jobs.derive(store, store.get(job).plan).values():
        out.append([(s.rule, s.message, s.where, s.remedies) for s in d.snags])
        for sheet, held in zip(d.sheets, d.holds, strict=True):
            out.append((sheet.key, sheet.seconds, sheet.cut_length, sheet.rapid_length, len(sheet.cuts)))
            out.append([(c.piece, c.cut.key, c.cut_length) for c in sheet.cuts])
            out.append(held and (held.key, len(held.steps) if hasattr(held, "steps") else 0))
        out.append([p.text for p in jobs.programs(store.get(job).plan, d)])
        out.append(
            [[s.message for s in proof.snags] for proof in jobs.prove_setup(store, store.get(job).plan, d)]
        )
    return out


def test_a_known_shop_is_the_same_after_a_restart(demo_folder, tmp_path, monkeypatch):
    folder = tmp_path / "shop"
    shutil.copytree(demo_folder, folder)
    store = Store(folder)
    names = [j["id"] for j in store.jobs() if not j["id"].startswith("estuary")]  # the largest takes long
    names = names if MANY > 1 else names[::2]

    def everything():
        return [figures(store, j) for j in names]

    plain = everything()
    assert of_a_process(folder, everything) == plain
    made = []
    find = Derived.find

    def asked(self, stage, key):
        found = find(self, stage, key)
        if found is None:
            made.append(stage)
        return found

    monkeypatch.setattr(Derived, "find", asked)
    assert of_a_process(folder, everything) == plain
    heavy = {"cuts", "carving", "hold", "divided", "tabs", "sheet", "order", "proof", "medial", "rings"}
    assert not heavy & set(made), "what takes long is not made again"
    store.close()


@pytest.mark.parametrize(
    "value",
    [
        [1, "two", 3.0, None, (True, b"six"), {"seven": {8, 9}}, frozenset({10})],
        np.linspace(0, 1, 1000).reshape(10, 100),
        np.array([1, 2], dtype=np.int64)[0],
        MultiPolygon([Point(0, 0).buffer(2), Point(9, 0).buffer(2)]),
        Point(1, 2).buffer(3).exterior,
        Piece(part="a", copy_no=0, sheet="s", sheet_copy=0, x=1.5, y=2.5),
        look("a.rule", "words", {"part": "a"}),
    ],
    ids=lambda v: type(v).__name__,
)
def test_what_results_are_made_of_is_kept(keeper, value):
    keeper.keep("test", "one", value, 100)
    assert keeper.settle()
    found = keeper.find("test", "one")
    assert type(found) is type(value)
    assert np.array_equal(found, value) if isinstance(value, np.ndarray) else found == value


class Call:
    def __init__(self, function, *args):
        self.how = function, args

    def __reduce__(self):
        return self.how


@pytest.mark.parametrize(
    "value",
    [
        Call(os.system, "false"),
        Call(eval, "1 + 1"),
        Call(memo, "a", "b", None),
        Call(getattr, "a", "upper"),
        lambda: 1,
    ],
    ids=["a command", "a text that runs", "a function of the core", "an attribute", "a lambda"],
)
def test_nothing_else_is_kept_or_called(keeper, value, tmp_path, caplog):
    keeper.keep("test", "bad", value, 100)
    keeper.keep("test", "good", 1, 100)
    assert keeper.settle() and keeper.find("test", "bad") is None and keeper.find("test", "good") == 1
    assert caplog.records, "it is said in the log"


def test_a_file_that_names_a_command_runs_nothing(tmp_path, caplog):
    first = Derived(tmp_path, version="1")
    first.keep("test", "one", 1, 100)
    first.close()
    touched = tmp_path / "touched"
    with sqlite3.connect(tmp_path / FILE) as base:
        base.execute("UPDATE derived SET value = ?", (pickle.dumps(Call(os.mkdir, str(touched))),))
    second = Derived(tmp_path, version="1")
    assert second.find("test", "one") is None and not touched.exists()
    assert second.find("test", "one") is None, "and it is not tried again"
    second.close()


@pytest.mark.parametrize("harm", ["noise", "cut short", "another table", "a folder"])
def test_a_damaged_file_is_begun_anew(tmp_path, harm):
    first = Derived(tmp_path)
    first.keep("test", "one", list(range(10_000)), 100)
    first.close()
    file = tmp_path / FILE
    if harm == "noise":
        file.write_bytes(os.urandom(5000))
    elif harm == "cut short":
        file.write_bytes(file.read_bytes()[:6000])
    else:
        file.unlink()
        if harm == "a folder":
            file.mkdir()
        else:
            with sqlite3.connect(file) as base:
                base.execute("CREATE TABLE derived (other INTEGER)")
    second = Derived(tmp_path)
    assert second.find("test", "one") in (None, list(range(10_000)))
    second.keep("test", "two", 2, 100)
    assert second.settle()
    assert second.find("test", "two") == (None if harm == "a folder" else 2)
    second.close()


def test_a_file_that_another_process_writes_is_left_alone(tmp_path, monkeypatch):
    first = Derived(tmp_path)
    first.keep("test", "one", 1, 100)
    assert first.settle()
    with sqlite3.connect(tmp_path / FILE, isolation_level=None) as base:
        base.execute("BEGIN IMMEDIATE")
        real = sqlite3.connect
        monkeypatch.setattr(sqlite3, "connect", lambda *a, **k: real(*a, **{**k, "timeout": 0.05}))
        second = Derived(tmp_path, version="another")
        assert second.find("test", "one") is None and second.size == 0
        second.keep("test", "two", 2, 100)
        second.close()
        base.execute("ROLLBACK")
    base.close()
    assert first.find("test", "one") == 1 and (tmp_path / FILE).exists()
    first.close()


def test_another_version_never_sees_what_one_made(tmp_path):
    for version, expected in (("1", None), ("1", "by 1"), ("2", None)):
        kept = Derived(tmp_path, version=version)
        assert kept.find("test", "one") == expected
        kept.keep("test", "one", f"by {version}", 100)
        kept.close()


def test_two_versions_at_once_never_see_each_others(tmp_path):
    old = Derived(tmp_path, version="1")
    old.keep("test", "one", "by 1", 100)
    assert old.settle() and old.find("test", "one") == "by 1"
    new = Derived(tmp_path, version="2")
    new.keep("test", "one", "by 2", 100)
    assert new.settle() and new.find("test", "one") == "by 2"
    assert old.find("test", "one") is None
    old.close()
    new.close()


def test_what_was_used_longest_ago_makes_room(tmp_path):
    kept = Derived(tmp_path, most=1_000_000)
    for k in range(40):
        kept.keep("test", str(k), os.urandom(50_000), 100)
        assert kept.settle()
        assert kept.find("test", "0") is not None, "it is asked for all the time"
        assert kept.size <= 1_000_000
    assert kept.find("test", "39") is not None and kept.find("test", "3") is None
    kept.close()


def test_a_result_too_large_is_not_kept(keeper, monkeypatch):
    monkeypatch.setattr("venzo.store.derived.LARGEST", 1000)
    keeper.keep("test", "one", bytes(2000), 100)
    assert keeper.settle() and keeper.find("test", "one") is None


def test_only_what_takes_long_is_kept(keeper, in_memory_nothing, monkeypatch):
    keep_with(keeper)
    monkeypatch.setattr(memory, "LASTING", 1e9)
    memo("test", "quick", lambda: 1)
    monkeypatch.setattr(memory, "LASTING", 0.0)
    memo("test", "slow", lambda: 2)
    assert keeper.settle() and keeper.find("test", "quick") is None
    with budget(1_000_000):
        assert memo("test", "slow", never) == 2


def test_after_it_is_closed_nothing_fails(tmp_path, in_memory_nothing):
    kept = Derived(tmp_path)
    keep_with(kept)
    kept.close()
    assert memo("test", "one", lambda: 1) == 1 and kept.find("test", "one") is None and kept.size == 0


def test_an_edit_finds_what_it_leaves_alone(store, tmp_path, monkeypatch):
    b = TrialJob(store, (rect(150, 90, [(40, 40, 12)]), [(20, 20)]), (disc(30), [(250, 150)]))
    of_a_process(tmp_path, lambda: b.derived)
    asked = []
    real = Derived.find
    monkeypatch.setattr(
        Derived, "find", lambda self, *at: asked.append((at, real(self, *at))) or asked[-1][1]
    )
    b.do({"kind": "set-quantity", "part": b.part(1), "order": "order-1", "quantity": 0})
    of_a_process(tmp_path, lambda: b.derived)
    cuts = [found for (stage, _key), found in asked if stage == "cuts"]
    assert cuts and cuts[0] is not None, "the part that stays is not planned again"


def test_what_waits_to_be_written_is_bounded_and_never_in_the_way_of_an_edit(keeper, monkeypatch):
    monkeypatch.setattr("venzo.store.derived.WAITING", 1000)
    monkeypatch.setattr("venzo.store.derived.QUIET", 0.01)
    with memory.urgent():
        for k in range(50):
            keeper.keep("test", str(k), k, 100)
        assert keeper.find("test", "49") is None and len(keeper._waiting) <= 10
    assert keeper.settle()
    assert [keeper.find("test", str(k)) for k in (0, 39, 40, 49)] == [None, None, 40, 49]
    assert keeper._burden == 0


def test_it_is_written_once_it_is_quiet(keeper, monkeypatch):
    monkeypatch.setattr("venzo.store.derived.QUIET", 0.01)
    keeper.keep("test", "one", 1, 100)
    until(lambda: keeper.find("test", "one") == 1)
