"""Finish or sand: what is weighed is what would be planned; the choice is recorded, and taken back with what
it was made of."""

import io

import pytest
from pypdf import PdfReader

from tests.core.test_reliefs_on_parts import carved, reliefs
from venzo.core.edits import ChangeSteps
from venzo.core.edits.fields import Changed
from venzo.core.release.programs import Stamp
from venzo.core.relief.sanding import sanding_minutes
from venzo.core.snags import BadInput
from venzo.desk.finish_or_sand import Whose, choices, weigh
from venzo.desk.jobs import programs
from venzo.formats.setup_sheet import setup_sheet


def asked(job):
    step = next(s for s in job.setup.operations if s.kind == "relief finish")
    return step, Whose("main", step.id)


def change(job, step, **fields):
    job.do(ChangeSteps(setup="main", on="reliefs", change=(Changed(id=step.id, fields=fields),)))


def test_a_way_comes_to_what_it_comes_to_once_it_is_taken(store):
    job = carved(store)
    step, whose = asked(job)
    ways = choices(store, job.plan, whose)
    assert ways[0].now and (ways[0].cutter, ways[0].step_over) == (step.cutter, step.step_over)
    other = next(w for w in ways if w.cutter == step.cutter and w.step_over == 0.35)
    coarse = weigh(store, job.plan, whose, other.cutter, other.step_over)
    now = weigh(store, job.plan, whose, step.cutter, step.step_over)
    assert now.seconds == pytest.approx(reliefs(job)[1].seconds, abs=0.06)
    # ball of 6 mm: r - sqrt(r2 - (step / 2)2), elementary geometry
    assert coarse.cusp == pytest.approx(3 - (9 - (0.35 * 6 / 2) ** 2) ** 0.5, abs=1e-3)
    assert coarse.seconds < now.seconds and coarse.sanding_minutes > now.sanding_minutes
    assert coarse.left_99 >= now.left_99
    before = job.store.get(job.job).number
    change(
        job, step, cutter=other.cutter, step_over=other.step_over, note="finish or sand: coarse, then by hand"
    )
    assert job.store.get(job.job).number == before + 1
    assert reliefs(job)[1].seconds == pytest.approx(coarse.seconds, abs=0.06)


def test_the_choice_is_on_the_paper_and_goes_with_what_it_was_made_of(store):
    job = carved(store)
    step, _whose = asked(job)
    change(job, step, step_over=0.2, note="finish or sand: 20 %, 7 min of sanding")
    printed = setup_sheet(
        job.plan, job.derived, programs(job.plan, job.derived), True, store.shapes, Stamp(1)
    )
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(printed)).pages)
    assert "finish or sand: 20 %, 7 min of sanding" in text.replace("\n", " ")
    noted = next(s for s in job.setup.operations if s.kind == "relief finish")
    assert noted.note.startswith("finish or sand")
    change(job, step, plunge=900.0)
    assert next(s for s in job.setup.operations if s.kind == "relief finish").note
    change(job, step, step_over=0.1)
    assert not next(s for s in job.setup.operations if s.kind == "relief finish").note


def test_what_is_planned_by_ridges_is_weighed_as_it_is_planned(store):
    job = carved(store)
    step, whose = asked(job)
    change(job, step, cusp=0.05)
    first = choices(store, job.plan, whose)[0]
    assert first.now and first.cusp == 0.05
    now = weigh(store, job.plan, whose, first.cutter, first.step_over, now=True)
    assert now.seconds == pytest.approx(reliefs(job)[1].seconds, abs=0.06) and now.cusp == 0.05
    even = weigh(store, job.plan, whose, first.cutter, first.step_over)
    assert even.seconds != pytest.approx(now.seconds, abs=1.0)


def test_sanding_goes_with_area_height_and_the_house_rule():
    assert sanding_minutes(0.1, 1e4, 3.0) == pytest.approx(3.0)
    assert sanding_minutes(0.2, 2e4, 3.0) == pytest.approx(12.0)
    assert sanding_minutes(0.2, 2e4, 0.0) == 0.0


def test_what_cannot_be_weighed_is_said(store):
    job = carved(store)
    step, whose = asked(job)
    with pytest.raises(BadInput, match="no finishing step"):
        choices(store, job.plan, Whose("main", "gone"))
    with pytest.raises(BadInput, match="no setup"):
        choices(store, job.plan, Whose("gone", step.id))
    with pytest.raises(BadInput, match="no cutter"):
        weigh(store, job.plan, whose, "gone", 0.1)
    with pytest.raises(BadInput, match=r"step.over"):
        weigh(store, job.plan, whose, step.cutter, 0.001)
    with pytest.raises(BadInput, match="is a drill"):
        weigh(store, job.plan, whose, "drill-5", 0.1)
