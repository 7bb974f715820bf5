"""Both faces roughed before either is finished: what is cut in which turn, what is refused, what is said."""

import pytest

from tests.core.test_turned_setups import PLATE, TWO
from tests.reference.test_turned_stock import roughed_first
from tests.support.trial import TrialJob, screws
from venzo.core.derive import check_derives
from venzo.core.edits import (
    AcceptNest,
    ChangeSetup,
    ChangeSteps,
    MoveParts,
    RemoveSetup,
    SetScrews,
    SetSetup,
    SetSteps,
)
from venzo.core.edits.aimed import aimed
from venzo.core.edits.fields import Changed
from venzo.core.edits.turning import OrderFaces, TurnOver
from venzo.core.faces.registration import FenceCorners, MeasuredEdges
from venzo.core.order.of_sheet import some_of
from venzo.core.plan import AcceptedNest
from venzo.core.release.programs import Stamp
from venzo.core.snags import BadInput
from venzo.core.stock.zeros import CentreZero, CornerZero
from venzo.desk import archives, copies, face_orders, jobs, papers, rack_of_job, runs, yields
from venzo.desk.jobs import programs
from venzo.desk.library import news
from venzo.store.store import Store

TURNS = ("main", "main-back", "main-again")


def job(store, allowance=0.5, registration=TWO, **more):
    b = TrialJob(store, (PLATE, [(60, 60), (300, 60)]), **more)
    b.do(TurnOver(setup="main", axis="x", registration=registration))
    roughed_first(b, allowance)
    b.up = "main-again"
    return b


def derived(b):
    return jobs.derive(b.store, b.plan)


def cut_in(d, turn):
    return [(c.piece.id, c.cut.contour, c.cut.step) for s in d[turn].sheets for c in s.cuts]


@pytest.mark.parametrize("outlines", ["here", "before", "half"])
def test_every_cut_is_made_once_and_each_face_is_roughed_before_either_is_finished(store, outlines):
    b = job(store)
    b.do(OrderFaces(setup="main-back", rough_both_first=False, outlines=outlines))
    one = derived(b)
    b.do(OrderFaces(setup="main-back", rough_both_first=True))
    three = derived(b)
    first = cut_in(three, "main") + cut_in(three, "main-again")
    assert sorted(first) == sorted(cut_in(one, "main")) and len(set(first)) == len(first)
    assert sorted(cut_in(three, "main-back")) == sorted(cut_in(one, "main-back"))
    assert {c[1:] for c in cut_in(three, "main")} == {("pocket 1", 0)}  # what goes through waits
    assert [three[t].setup.role.takes for t in TURNS] == ["roughing", "all", "rest"]
    last = {"here": "main-back", "before": "main-again", "half": "main-again"}[outlines]
    for t in TURNS:
        frees = any(c.cut.frees and c.outline for s in three[t].sheets for c in s.cuts)
        assert frees == (t == last)
    stops = [s.message for t in TURNS for s in three[t].snags if s.severity == "stop"]
    assert not stops, stops


def test_files_run_on_over_the_turns_and_say_what_is_done_of_a_face(store):
    b = job(store)
    d = derived(b)
    files = [f for t in TURNS for f in programs(b.plan, d[t])]
    names = [f.name for f in files]
    numbers = [int(n.split("face-")[1].split("_")[1]) for n in names]
    assert numbers == list(range(1, len(files) + 1)) and len(set(names)) == len(names)
    sides = list(dict.fromkeys(n.split("_")[2] for n in names))
    assert sides == ["face-1-rough", "face-2", "face-1-finish"], names
    texts = {t: [f.text for f in programs(b.plan, d[t]) if f.cuts] for t in TURNS}
    assert all("FACE 1 of 2, roughed only" in x for x in texts["main"])
    assert all("FACE 1 once more, turned back about X" in x for x in texts["main-again"])
    for t in TURNS:
        proofs = jobs.prove_setup(store, b.plan, d[t])
        assert [s.rule for p in proofs for s in p.snags] == ["proof.clear"] * len(proofs)


def test_a_finish_that_is_run_on_stock_that_was_not_roughed_is_not_what_is_proven(store):
    """The proof of the last turn begins with what the first has cut: its volume is the rest alone."""
    b = job(store)
    d = derived(b)
    taken = {t: jobs.removed_from(store, b.plan, d[t], d[t].sheets[0]) for t in TURNS}
    b.do(OrderFaces(setup="main-back", rough_both_first=False))
    one = derived(b)
    whole = jobs.removed_from(store, b.plan, one["main"], one["main"].sheets[0])
    assert taken["main"] + taken["main-again"] == pytest.approx(whole, rel=0.002)
    assert taken["main-again"] < 0.5 * whole


def test_what_is_changed_in_the_last_turn_is_changed_where_it_was_roughed(store):
    b = job(store)
    step = next(o for o in b.plan.setup("main").operations if o.on == "pockets" and o.id != "rough")
    one = ChangeSteps(setup="main-again", on="pockets", change=(Changed(id=step.id, fields={"feed": 900}),))
    assert (
        aimed(b.plan, one).setup == "main"
        and aimed(b.plan, one.model_copy(update={"setup": "main"})).setup == "main"
    )
    b.do(one)
    assert next(o for o in b.plan.setup("main").operations if o.id == step.id).feed == 900
    b.do(ChangeSetup(setup="main-again", machine={"clearance": 31.0}))
    assert b.plan.setup("main").machine.clearance == 31.0
    assert derived(b)["main-again"].setup.machine.clearance == 31.0
    # what it has of its own stays with it
    b.do(SetSetup(setup="main-again", z_zero="top"))
    b.do(SetScrews(setup="main-again", screws=screws((12, 12), (588, 388))))
    assert (b.plan.setup("main").z_zero, len(b.plan.setup("main").screws)) == ("top", 4)
    d = derived(b)
    assert d["main-again"].setup.z_zero == "top" and len(d["main-again"].setup.screws) == 2
    assert "turn.zero" in {s.rule for s in d["main-again"].snags}


def test_it_has_no_layout_stock_or_parts_of_its_own_and_goes_with_the_other_face(store):
    b = job(store)
    nest = AcceptedNest(pieces=b.setup.nest.pieces, inputs="mine")
    for command, words in (
        (AcceptNest(setup="main-again", nest=nest), "no layout of its own"),
        (MoveParts(setup="main", to="main-again", parts=(b.part(),)), "once more"),
        (TurnOver(setup="main-again"), "turned already"),
        (OrderFaces(setup="main", rough_both_first=True), "not turned over"),
    ):
        with pytest.raises(BadInput, match=words):
            b.do(command)
    b.do(RemoveSetup(setup="main-back"))
    assert [s.id for s in b.plan.setups] == ["main"]
    store.undo(b.job)
    assert [s.id for s in b.plan.setups] == list(TURNS)
    b.do(RemoveSetup(setup="main-again"))
    assert [s.id for s in b.plan.setups] == ["main", "main-back"]
    assert derived(b)["main"].setup.role.takes == "all"


@pytest.mark.parametrize(
    ("registration", "zero"),
    [(FenceCorners(corner="lower right"), CornerZero()), (MeasuredEdges(), CentreZero())],
    ids=["fences", "edges"],
)
def test_it_lies_where_its_registration_brings_it(store, registration, zero):
    b = job(store, registration=registration)
    d = derived(b)
    assert d["main-again"].setup.datum == zero
    for t in TURNS:
        proofs = jobs.prove_setup(store, b.plan, d[t])
        assert [s.rule for p in proofs for s in p.snags] == ["proof.clear"], t


def test_it_is_paid_for_once_and_each_turn_takes_its_time(store):
    b = job(store)
    use = yields.job_use(store, b.plan)
    assert [s.setup for s in use.setups] == ["main"]
    says = {line.of: line.says for line in use.setups[0].cost.lines}["set-up"]
    assert "4 min a turn" in says
    d = derived(b)
    each = [d[t].yields.seconds for t in TURNS]
    assert d["main"].yields_of_both.seconds == pytest.approx(sum(each)) and min(each) > 0
    assert d["main"].yields_of_both.material_cost == d["main"].yields.material_cost
    assert [d[t].yields.material_cost for t in TURNS[1:]] == [0.0, 0.0]
    assert b.plan.turns("main") == 2
    assert not rack_of_job.needed(d["main-again"], ())
    assert set(news(store, b.plan)) <= {"main", "main-back"}
    assert [s.id for s in copies.asked_again(store, b.job).setups] == ["main", "main-back"]


def test_orders_of_the_faces_are_compared_and_the_one_in_force_is_told(store):
    b = job(store)
    found = {
        (rough, outlines): face_orders.face_order(store, b.job, "main-back", rough, outlines)
        for rough in (False, True)
        for outlines in ("here", "before", "half")
    }
    assert [k for k, v in found.items() if v.now] == [(True, "here")]
    assert {v.turns for k, v in found.items() if k[0]} == {2}
    assert {v.turns for k, v in found.items() if not k[0]} == {1}
    assert all(v.turning == 240 * v.turns for v in found.values())
    assert found[True, "here"].seconds > found[False, "here"].seconds  # cutters are loaded once more
    assert found[True, "here"].files > found[False, "here"].files
    assert not any(v.stops or v.refused for v in found.values())
    for (rough, outlines), v in found.items():  # each is what comes when it is taken
        b.do(OrderFaces(setup="main-back", rough_both_first=rough, outlines=outlines))
        assert derived(b)["main"].yields_of_both.seconds == pytest.approx(v.seconds, abs=0.06)
    with pytest.raises(BadInput, match="not turned over"):
        face_orders.face_order(store, b.job, "main", True, "here")


def test_where_nothing_is_roughed_that_is_said_in_the_comparison_too(store):
    b = TrialJob(store, (PLATE, [(60, 60)]))
    b.do(TurnOver(setup="main", axis="x", registration=TWO))
    tried = face_orders.face_order(store, b.job, "main-back", True, "here")
    assert tried.stops == 1 and "nothing is roughed" in tried.said[0]


def test_steps_of_one_part_that_rough_count_too(store):
    """Steps that a part has of its own are looked at as the setup's are."""
    b = TrialJob(store, (PLATE, [(60, 60)]))
    b.do(TurnOver(setup="main", axis="x", registration=TWO))
    fine = next(o for o in b.plan.setup("main").operations if o.on == "pockets")
    rough = fine.model_copy(update={"id": "own", "floor_allowance": 0.7})
    b.do(SetSteps(part=b.part(), on="pockets", contour="pocket 1", steps=(rough, fine)))
    b.do(OrderFaces(setup="main-back", rough_both_first=True))
    d = derived(b)
    assert [c[1:] for c in cut_in(d, "main")] == [("pocket 1", 0)]
    assert ("pocket 1", 1) in [c[1:] for c in cut_in(d, "main-again")]


def test_papers_draw_the_way_back_and_labels_go_out_last(store):
    b = job(store)
    d = derived(b)
    named = {
        t: [n for n, _body in papers.papers_of(store, b.plan, d[t], programs(b.plan, d[t]), True, Stamp(1))]
        for t in TURNS
    }
    assert [any("labels" in n for n in named[t]) for t in TURNS] == [False, False, True]


def test_it_goes_into_an_archive_and_is_logged_turn_by_turn(store, tmp_path):
    b = job(store)
    data = archives.export(store, store.get(b.job))
    other = Store(tmp_path / "other")
    there = other.get(archives.bring_in(other, data, "turned.zip", True).job)
    assert [s.id for s in there.plan.setups] == list(TURNS)
    check_derives(there.plan, other.shapes)
    d = derived(b)
    for t in TURNS:
        s = d[t].sheets[0]
        said = runs.SheetCut(revision=store.get(b.job).number, setup=t, sheet=s.sheet)
        runs.record(store, b.job, said)
    logged = runs.of_job(store, b.job)
    assert len(logged.runs) == 3 and sum(logged.sound.values()) == 2  # its pieces come off once


def test_a_sheet_on_which_nothing_is_roughed_takes_nothing_before_the_turn(store):
    """Of two kinds of sheet only one carries what is roughed: the other is cut in the later turns alone."""
    b = job(store)
    d = derived(b)
    whole = d["main-again"].wholes["own", 0]
    empty = some_of(b.setup, whole, ())
    assert not empty.cuts and (empty.seconds, empty.cut_length, empty.rapid_length) == (0.0, 0.0, 0.0)
