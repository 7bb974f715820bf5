"""Edits one after the other: undo and redo say what they take, quick edits keep each other, nothing is stored
that cannot be planned.
"""

import threading

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from tests.conftest import MANY
from tests.support.trial import TrialJob, rect
from venzo.api.app import make_app
from venzo.core.edits import RenameJob, SetAlterations, SetStock, read_command
from venzo.core.edits.fields import merged
from venzo.core.plan import Plan
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.store.author import author, made_by
from venzo.store.store import Conflict, Store


@settings(max_examples=30 * MANY)
@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), min_size=3, max_size=14))
def test_undo_says_what_it_takes_back(tmp_path_factory, doing):
    """Against a plain pair of stacks, which is what undo and redo mean: the state and the words agree after
    every step.
    """
    store = Store(tmp_path_factory.mktemp("undo"))
    job = store.create(Plan(id="job", name="start")).plan.id
    done, undone = ["start"], []
    for k, what in enumerate(doing):
        if what == "edit":
            r = store.apply(job, store.get(job).number, RenameJob(name=f"n{k}"))
            done.append(f"n{k}")
            undone = []
            assert r.says == f"job renamed to n{k}"
        elif what == "undo" and len(done) > 1:
            undone.append(done.pop())
            r = store.undo(job)
            assert r.says == f"undone: job renamed to {undone[-1]}"
        elif what == "redo" and undone:
            done.append(undone.pop())
            r = store.redo(job)
            assert r.says == f"redone: job renamed to {done[-1]}"
        else:
            with pytest.raises(BadInput, match="nothing to"):
                store.undo(job) if what == "undo" else store.redo(job)
            continue
        assert r.plan.name == done[-1] and (r.can_undo, r.can_redo) == (len(done) > 1, bool(undone))
    store.close()


def test_a_revision_is_read_once_and_is_what_was_stored(store, tmp_path):
    b = TrialJob(store, (rect(120, 80, [(40, 40, 15)]), [(20, 20), (160, 20)]))
    first, done = b.plan, b.do(RenameJob(name="another"))
    assert store.get(b.job).plan is store.get(b.job).plan and store.get(b.job).plan == done.plan
    assert store.get(b.job, 1).plan == first and store.undo(b.job).plan == first
    again = Store(store.folder)
    assert [again.get(b.job, n).plan for n in (1, 2, 3)] == [first, done.plan, first]
    again.close()


STEP = {"kind": "change-steps", "setup": "main", "on": "outlines"}


def test_two_quick_edits_of_one_step_keep_each_other(store):
    """Both made on the same revision, as two clicks are: another feed and another depth per pass, then its
    tabs' count and width.
    """
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({})
    base = store.get(b.job).number
    for fields in ({"feed": 3000.0}, {"step_down": 6.0}, {"tabs": {"count": 3}}):
        store.apply(b.job, base, read_command({**STEP, "change": [{"id": "step0", "fields": fields}]}))
    b.do({**STEP, "change": [{"id": "step0", "fields": {"tabs": {"width": 9.0}}}]})
    (o,) = b.setup.steps_on("outlines")
    assert (o.feed, o.step_down, o.tabs.count, o.tabs.width) == (3000.0, 6.0, 3, 9.0)
    with pytest.raises(Conflict, match="feed changed"):
        store.apply(
            b.job, base, read_command({**STEP, "change": [{"id": "step0", "fields": {"feed": 2000.0}}]})
        )
    with pytest.raises(Conflict):
        store.apply(
            b.job,
            base,
            read_command(
                {"kind": "set-steps", "setup": "main", "on": "outlines", "steps": [o.model_dump(mode="json")]}
            ),
        )


def test_steps_are_added_moved_and_taken_out_one_by_one(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({"side_allowance": 0.4}, {})
    extra = {"kind": "chamfer", "id": "edge", "on": "outlines", "cutter": "vee-90"}
    if b.setup.cutter("vee-90") is None:
        extra["cutter"] = next(c.id for c in b.setup.cutters if c.kind == "v-bit")
    b.do({**STEP, "add": [extra], "order": ["edge", "step0", "step1"]})
    assert [o.id for o in b.setup.steps_on("outlines")] == ["edge", "step0", "step1"]
    b.do({**STEP, "drop": ["step0"]})
    assert [o.id for o in b.setup.steps_on("outlines")] == ["edge", "step1"]
    own = [o.model_dump(mode="json") for o in b.setup.steps_on("outlines")]
    b.do({"kind": "set-steps", "part": b.part(), "on": "outlines", "steps": own})
    b.do(
        {
            "kind": "change-steps",
            "part": b.part(),
            "on": "outlines",
            "change": [{"id": "step1", "fields": {"feed": 2500}}],
        }
    )
    assert b.plan.steps[0].steps[1].feed == 2500 and b.setup.steps_on("outlines")[1].feed is None


@pytest.mark.parametrize(
    ("command", "why"),
    [
        ({**STEP, "change": [{"id": "gone", "fields": {"feed": 1.0}}]}, "no step 'gone'"),
        ({**STEP, "change": [{"id": "step0", "fields": {"fed": 1.0}}]}, "has no 'fed'"),
        ({**STEP, "change": [{"id": "step0", "fields": {"id": "x"}}]}, "stays as it is"),
        ({**STEP, "change": [{"id": "step0", "fields": {"feed": -5}}]}, "feed"),
        ({**STEP, "change": [{"id": "step0", "fields": {"cutter": "none"}}]}, "no cutter"),
        ({**STEP, "change": [{"id": "step0", "fields": {"cutter": {"id": "up-6"}}}]}, "cutter"),
        ({**STEP, "change": [{"id": "step0", "fields": {"cutter": ["up-6"]}}]}, "cutter"),
        (
            {"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"flaws": {"3": {"x": 5}}}},
            "no '3' of its 0",
        ),
        (
            {
                "kind": "change-steps",
                "part": "PART",
                "on": "outlines",
                "change": [{"id": "step0", "fields": {"feed": 900}}],
            },
            "no steps of its own",
        ),
        (
            {"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"margin": 300}},
            "leaves nothing",
        ),
        ({"kind": "change-stock", "setup": "main", "stock": "other", "fields": {"margin": 3}}, "no stock"),
        ({"kind": "change-setup", "setup": "main", "zones": {"9": True}}, "no vacuum zone"),
        ({"kind": "change-setup", "setup": "main", "rules": {"web": "wide"}}, "web"),
        (
            {"kind": "change-screws", "setup": "main", "change": [{"id": "s99", "fields": {"x": 5}}]},
            "no screw",
        ),
        (
            {
                "kind": "set-alterations",
                "part": "PART",
                "alterations": [],
                "shape": "0" * 32,
                "drawn": "SHAPE",
            },
            "nothing was changed",
        ),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_stored(store, command, why):
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({})
    said = {
        k: {"PART": b.part(), "SHAPE": b.plan.parts[0].shape}.get(v, v) if isinstance(v, str) else v
        for k, v in command.items()
    }
    before = store.get(b.job)
    with pytest.raises(BadInput, match=why):
        b.do(said)
    assert store.get(b.job).number == before.number


def test_lists_of_things_change_by_what_is_named(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    base = store.get(b.job).number
    for k, x in (("s0", 20.0), ("s1", 570.0)):
        store.apply(
            b.job,
            base,
            read_command(
                {"kind": "change-screws", "setup": "main", "change": [{"id": k, "fields": {"x": x}}]}
            ),
        )
    clamp = {"kind": "clamp", "id": "c", "x": 30, "y": 200}
    store.apply(b.job, base, read_command({"kind": "change-fixings", "setup": "main", "add": [clamp]}))
    b.do({"kind": "change-fixings", "setup": "main", "change": [{"id": "c", "fields": {"proud": 12}}]})
    b.do({"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"price": 40}})
    b.do({"kind": "change-screws", "setup": "main", "drop": ["s2"]})
    assert [s.x for s in b.setup.screws[:2]] == [20.0, 570.0] and len(b.setup.screws) == 3
    assert b.setup.fixings[0].proud == 12 and b.setup.stock[0].price == 40 and b.setup.stock[0].width == 600
    b.do(
        {
            "kind": "change-setup",
            "setup": "main",
            "machine": {"dialect": {"ending": "tap"}},
            "rules": {"web": 4.0},
        }
    )
    assert (
        b.setup.machine.dialect.ending == "tap" and b.setup.rules.web == 4.0 and b.setup.machine.dialect.name
    )


def test_threads_that_edit_one_job_lose_nothing(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    names = [f"t{k}" for k in range(24)]

    def put(name):
        stock = b.setup.stock[0].model_copy(update={"id": name, "name": name})
        store.apply(b.job, store.get(b.job).number, SetStock(setup="main", stock=stock))

    threads = [threading.Thread(target=put, args=(n,)) for n in names]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert {s.id for s in b.setup.stock} == {"own", *names}


@pytest.mark.parametrize(
    "order",
    [
        [{}, {"floor_allowance": 0.8}],
        [{"floor_allowance": 0.8}, {}],
        [{"side_allowance": 0.5}, {"floor_allowance": 0.8}],
    ],
)
def test_steps_in_any_order_are_planned(store, order):
    """A step behind the one that frees the piece was a contradiction that no reading of the job survived."""
    b = TrialJob(store, (rect(200, 120, [(60, 60, 20)]), [(100, 100)])).outline(*order)
    assert not b.derived.underived and [
        c.cut.step for c in b.sheet.cuts if c.cut.contour == "outline"
    ] == list(range(len(order)))
    b.do({**STEP, "order": ["step1", "step0"]})
    assert [c.cut.operation for c in b.sheet.cuts if c.cut.contour == "outline"] == ["step1", "step0"]


def test_a_plan_that_cannot_be_derived_opens_says_why_and_is_undone(store, monkeypatch):
    """Stored by an older version: two such revisions on top of each other."""
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({})
    good = store.get(b.job)
    p = b.plan.parts[0]
    monkeypatch.setattr("venzo.store.store.check_derives", lambda *a: None)
    for k in "12":
        b.do(
            SetAlterations(
                part=p.id, alterations=(), shape=k * 32, drawn=b.plan.parts[0].drawn or b.plan.parts[0].shape
            )
        )
    monkeypatch.undo()
    d = jobs.derive(store, b.plan)["main"]
    assert (
        d.underived
        and "cannot be planned" in d.snags[0].message
        and d.snags[0].severity == "stop"
        and not d.sheets
    )
    b.do(RenameJob(name="another name"))  # what has nothing to do with it still goes
    for _ in range(3):
        store.undo(b.job)
    assert b.plan == good.plan and not b.derived.underived


def test_merging_changes_what_it_names():
    assert merged({"a": {"b": 1, "c": {"d": 2}}, "e": [1]}, {"a": {"c": {"d": 3}}, "e": [2]}) == {
        "a": {"b": 1, "c": {"d": 3}},
        "e": [2],
    }
    assert merged({"a": None}, {"a": {"b": 1}}) == {"a": {"b": 1}}


def test_who_made_a_change_is_kept_with_it(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    with made_by(" Mara\n(office) "):
        b.do(RenameJob(name="signed"))
        store.put_library("cutter", {**store.library("cutter")[0], "name": "signed too"}, "renamed")
    store.undo(b.job)
    lines = store.history(b.job)
    assert [line["author"] for line in lines[:3]] == ["", "Mara (office)", ""]
    assert store.library_history(["cutter"])[0]["author"] == "Mara (office)"


@given(st.text(max_size=300))
def test_any_name_is_one_short_line(name):
    with made_by(name):
        kept = author()
    assert len(kept) <= 80 and kept == kept.strip() and kept.isprintable() and author() == ""


def test_the_name_comes_with_the_request_and_stays_with_it(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    number = store.get(b.job).number
    with TestClient(make_app(store), base_url="http://testserver") as web:
        for name in ("J%C3%BCrgen", ""):
            body = {"base": number, "command": {"kind": "rename-job", "name": f"by {name or 'nobody'}"}}
            sent = web.post(f"/api/jobs/{b.job}/commands", json=body, headers={"x-author": name})
            number = sent.json()["revision"]
        lines = web.get(f"/api/jobs/{b.job}/history").json()
    assert [line["author"] for line in lines[:2]] == ["", "Jürgen"]
