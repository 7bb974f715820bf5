"""Stops for the operator stand in the program before the cut they were said for, with their words; one left
out, moved or added is found by the proof. Outsides first where what then holds is enough; a slow first run.
"""

import re

import pytest

from tests.core.test_zeros import prove_texts
from tests.support.trial import TrialJob, rect
from venzo.core.edits import ChangeStops, SetOrder, SetSetup, read_command
from venzo.core.plan import OperatorStop
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.formats.rs274 import interpret

PARTS = (rect(220, 140, ((60, 60, 20), (140, 60, 20))), [(40, 40), (310, 200)])


@pytest.fixture
def job(store):
    return TrialJob(store, PARTS)


def stop_before(job, k, words="turn the clamp", name="s1"):
    cut = job.sheet.cuts[k].name
    job.do(ChangeStops(setup="main", add=[OperatorStop(id=name, sheet="own", before=cut, words=words)]))
    return cut


def texts(job):
    (d,) = jobs.derive(job.store, job.plan).values()
    return d, [f.text for f in jobs.programs(job.plan, d)]


def stops_said(job, changed):
    (d,) = jobs.derive(job.store, job.plan).values()
    return [s.rule for s in prove_texts(job.store, job.plan, d, changed).snags if s.severity == "stop"]


@pytest.mark.parametrize("changer", [True, False])
@pytest.mark.parametrize("k", [0, 2, 5])
def test_a_stop_is_written_before_its_cut_timed_and_proven(job, k, changer):
    machine = job.setup.machine
    dialect = machine.dialect.model_copy(update={"tool_change": changer})
    job.do(SetSetup(setup="main", machine=machine.model_copy(update={"dialect": dialect})))
    before = job.sheet.seconds
    cut = stop_before(job, k)
    _d, made = texts(job)
    assert job.sheet.seconds == pytest.approx(before + machine.stop_seconds)
    (text,) = [t for t in made if "M0" in t.split()]
    lines = text.splitlines()
    at = lines.index("M0")
    assert lines[at - 1] == "(OPERATOR: turn the clamp)" and lines[at - 2] == "M5"
    assert re.match(r"S\d+ M3", lines[at + 1]), "the spindle turns again before the cut"
    # the line that names the cut comes next, and no move lies between stop and cut but the way there
    named = job.sheet.cuts[k]
    assert f"{named.cut.contour}, {named.cut.kind}" in lines[at + 2] and cut == named.name
    assert "stops for the operator: turn the clamp" in text
    assert not stops_said(job, made)
    (event,) = [e for t in made for e in interpret(t, "p").events if e.kind == "stop"]
    assert not event.turning and event.z == pytest.approx(machine.clearance)


def test_a_stop_left_out_moved_or_added_is_found(job):
    stop_before(job, 3)
    _d, made = texts(job)
    n = next(k for k, t in enumerate(made) if "M0" in t.split())
    lines = made[n].splitlines()
    at = lines.index("M0")
    bundle = lines[at - 2 : at + 2]
    without = lines[: at - 2] + lines[at + 2 :]
    heads = [i for i, t in enumerate(without) if t.startswith("(") and " piece " in t]
    moved = without[: heads[1]] + bundle + without[heads[1] :]
    twice = lines[: heads[1]] + bundle + lines[heads[1] :]

    def said(changed):
        return stops_said(job, [*made[:n], "\n".join(changed) + "\n", *made[n + 1 :]])

    assert not said(lines)
    assert "proof.stop" in said(without) and "proof.stop" in said(moved)
    assert {"proof.stop", "proof.pause"} & set(said(twice))


def test_a_stop_whose_cut_is_gone_stops_the_job_and_its_remedy_takes_it_out(job):
    hole = next(k for k, c in enumerate(job.sheet.cuts) if c.cut.contour.startswith("hole"))
    contour = job.sheet.cuts[hole].cut.contour
    stop_before(job, hole)
    job.do(read_command({"kind": "set-contour", "part": job.part(), "contour": contour, "omit": True}))
    (snag,) = job.said("order.stop")
    assert snag.severity == "stop" and "turn the clamp" in snag.message
    job.do(read_command(snag.remedies[0].command))
    assert not job.said("order.stop") and not job.setup.stops


def test_two_stops_at_one_cut_and_one_that_is_not_there_are_refused(job):
    cut = stop_before(job, 1)
    with pytest.raises(BadInput, match="already"):
        job.do(ChangeStops(setup="main", add=[OperatorStop(id="s2", sheet="own", before=cut, words="x")]))
    with pytest.raises(BadInput, match="no stop 'gone'"):
        job.do(ChangeStops(setup="main", drop=["gone"]))


def test_sheets_with_different_stops_are_different_programs(store):
    job = TrialJob(store, PARTS)
    (d,) = jobs.derive(store, job.plan).values()
    first = [f.text for f in jobs.programs(job.plan, d)]
    stop_before(job, 2)
    _d, second = texts(job)
    assert first != second


def test_outsides_first_cuts_every_outline_before_its_insides_and_stops_where_nothing_holds(job):
    job.do(SetOrder(setup="main", order_by="outsides first"))
    for piece in {c.piece.id for c in job.sheet.cuts}:
        mine = [c for c in job.sheet.cuts if c.piece.id == piece]
        assert mine[0].outline and not any(c.outline for c in mine[1:])
    assert job.sheet.refused == ()
    # by tabs it is held, as anything is; with none it is a crash
    job.do(read_command({"kind": "set-hold", "setup": "main", "way": "nothing"}))
    loose = job.said("holding.loose-cut")
    assert loose and loose[0].severity == "stop"
    job.do(SetOrder(setup="main", order_by="insides first"))
    assert not job.said("holding.loose-cut")


def test_a_slow_first_run_is_on_the_paper_and_in_the_programs_at_the_same_feeds(job):
    from tests.formats.test_papers import pages, printed

    _d, full = texts(job)
    job.do(SetOrder(setup="main", first_run=50))
    _d, slow = texts(job)
    assert all("first run at 50 % feed override" in t for t in slow)
    same = [re.sub(r"\(first run.*\n", "", t) for t in slow]
    assert same == full, "the feeds are the whole ones"
    assert "feed override at 50 %" in pages(printed(job.store, job.job)[0])[0]
    with pytest.raises(ValueError, match="first_run"):
        SetOrder(setup="main", first_run=5)
