"""Finishes: two cutters or feeds on the same part noted side by side, with the numbers of the plan that cut
it; found from the cutter; taken back and still in the log.
"""

import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.edits import ChangeSteps
from venzo.core.runs.records import READ
from venzo.core.snags import BadInput
from venzo.desk import finishes
from venzo.desk.finishes import FinishSaid
from venzo.store.store import NotFound


@pytest.fixture
def job(store):
    return TrialJob(store, (rect(200, 120), [(60, 60)]))


def noted(job, finish, **more):
    said = FinishSaid(setup="main", part=job.part(), contour="outline", finish=finish, **more)
    return finishes.note_finish(job.store, job.job, said)


def test_two_feeds_on_one_part_stand_side_by_side_and_are_found_from_the_cutter(job):
    step = next(o for o in job.setup.operations if o.on == "outlines")
    first = job.store.head(job.job)
    noted(job, "fuzzy", note="under edge")
    change = {"id": step.id, "fields": {"feed": 2500.0, "rpm": 15000.0}}
    job.do(ChangeSteps(setup="main", on="outlines", change=(change,)))
    noted(job, "clean")
    newer, older = finishes.of_job(job.store, job.job)
    assert (older.seen.finish, older.seen.note, newer.seen.finish) == ("fuzzy", "under edge", "clean")
    assert (newer.seen.feed, newer.seen.rpm) == (2500.0, 15000.0) and older.seen.feed != 2500.0
    cutter = job.setup.cutter(step.cutter)
    # chip load by its definition: feed / (rpm x flutes)
    assert newer.seen.chip == pytest.approx(2500 / (15000 * cutter.flutes), rel=1e-3)
    assert [x.number for x in finishes.of_cutter(job.store, cutter.id)] == [newer.number, older.number]
    # said later of programs made earlier: the numbers are those of then
    number = noted(job, "burnt", revision=first)
    late = finishes.of_job(job.store, job.job)[0]
    assert late.number == number and late.seen.feed == older.seen.feed and late.seen.revision == first


def test_a_note_is_taken_back_once_and_stays_in_the_log(job):
    number = noted(job, "steps")
    finishes.take_back(job.store, job.job, number)
    assert finishes.of_job(job.store, job.job) == []
    assert job.store.runs(job.job)[0].record.finish == "steps"
    with pytest.raises(BadInput, match="already"):
        finishes.take_back(job.store, job.job, number)
    with pytest.raises(NotFound, match="no finish"):
        finishes.take_back(job.store, job.job, 999)


def test_what_is_not_cut_cannot_have_a_finish(job):
    for fields, words in (({"contour": "hole 9"}, "hole 9 is not cut"), ({"part": "gone"}, "no part 'gone'")):
        said = FinishSaid(
            **{"setup": "main", "part": job.part(), "contour": "outline", "finish": "clean", **fields}
        )
        with pytest.raises(BadInput, match=words):
            finishes.note_finish(job.store, job.job, said)


def test_a_finish_reads_back_as_it_was_kept(job):
    noted(job, "chatter")
    kept = job.store.runs(job.job)[-1].record
    assert READ.validate_python(kept.model_dump(mode="json")) == kept
