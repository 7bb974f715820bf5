"""Several materials in one job: parts move between setups, each is nested, cut and released from its own;
slots are judged against the other's measured sheet.
"""

import pytest

from tests.conftest import dxf
from tests.core.test_mates import slotted
from tests.support.trial import TrialJob, rect
from venzo.core.edits import MoveParts, RemoveSetup, SetStock
from venzo.core.snags import BadInput
from venzo.desk import jobs, releases


@pytest.fixture
def job(store):
    b = TrialJob(store, (dxf(slotted), [(100, 100)]), (rect(120, 80), [(400, 200)]))
    jobs.add_setup(store, b.job, store.head(b.job), None, "acrylic")
    return b


def test_a_part_is_cut_from_another_material_of_the_same_job(job):
    second = job.plan.setups[1]
    assert second.material.id == "acrylic" and second.machine.id == job.setup.machine.id
    assert all("plastic" in c.feeds for c in second.cutters)
    part = job.part(1)
    job.do(MoveParts(setup="main", parts=(part,), to=second.id))
    assert [p.id for p in job.plan.parts_of(second.id)] == [part]
    assert {q.part for q in job.setup.nest.pieces} == {job.part(0)}, "its piece left the plywood"
    derived = jobs.derive(job.store, job.plan)
    assert {q.part for s in derived["main"].sheets for q in s.pieces} == {job.part(0)}
    files, manifest = releases.release(job.store, job.plan, store_head(job))
    assert [s.setup for s in manifest.setups] == [s.name for s in job.plan.setups]
    assert any("not placed" in line for line in manifest.setups[1].leaves_out)
    assert files
    job.store.undo(job.job)
    assert job.plan.part(part).setup == "main" and len(job.setup.nest.pieces) == 2


def store_head(job):
    return job.store.head(job.job)


def test_a_slot_is_judged_against_the_other_material_s_measure(job):
    second = job.plan.setups[1]
    for measured, gap in ((5.7, "0.30 mm loose"), (5.93, "only 0.07 mm clear")):
        sheet = second.stock[0].model_copy(update={"readings": (measured,)})
        job.do(SetStock(setup=second.id, stock=sheet))
        (snag,) = job.said("parts.slot")
        assert gap in snag.message and f"{measured:.2f} mm" in snag.message
    sheet = second.stock[0].model_copy(update={"readings": (5.85,)})
    job.do(SetStock(setup=second.id, stock=sheet))
    assert not job.said("parts.slot"), "the joint's clearance is 0.15 mm"


def test_what_cannot_be_moved_or_taken_out_is_refused(job):
    second = job.plan.setups[1].id
    with pytest.raises(BadInput, match="choose another for it"):
        job.do(MoveParts(setup="main", parts=(job.part(),), to="main"))
    with pytest.raises(BadInput, match="no setup"):
        job.do(MoveParts(setup="main", parts=(job.part(),), to="gone"))
    with pytest.raises(BadInput, match="move its parts elsewhere"):
        job.do(RemoveSetup(setup="main"))
    job.do(RemoveSetup(setup=second))
    assert [s.id for s in job.plan.setups] == ["main"]
    with pytest.raises(BadInput, match="library has no material"):
        jobs.add_setup(job.store, job.job, store_head(job), None, "cheese")
