"""Remedies beside what is left standing do what they say: once taken, less stands, and nothing new stops."""

import pytest

from tests.conftest import dxf
from tests.support.trial import TrialJob, ring
from venzo.core.edits import read_command
from venzo.core.edits.asks import AlterPart
from venzo.desk.cut_stock import SheetAt, left_of
from venzo.desk.drawings import alter_part
from venzo.desk.left_remedies import remedies_for

NOTCHED = ring([(0, 0), (200, 0), (200, 150), (120, 150), (120, 90), (60, 90), (60, 150), (0, 150)])


def pocketed(m):
    """A panel with a square pocket, and a square hole."""
    m.add_lwpolyline([(0, 0), (240, 0), (240, 160), (0, 160)], close=True)
    m.add_lwpolyline([(150, 40), (210, 40), (210, 120), (150, 120)], close=True)
    m.doc.layers.add("POCKET 6mm")
    m.add_lwpolyline(
        [(30, 30), (110, 30), (110, 130), (30, 130)], close=True, dxfattribs={"layer": "POCKET 6mm"}
    )


@pytest.fixture(params=["notch", "pocket and hole"])
def job(store, request):
    return TrialJob(store, (NOTCHED if request.param == "notch" else dxf(pocketed), [(100, 100)]))


def at_of(job):
    return SheetAt(setup=job.setup.id, sheet=job.sheet.sheet)


def standing(job, kind, part, contour):
    found = left_of(job.store, job.plan, at_of(job))
    return sum(f.length for f in found if (f.kind, f.part, f.contour) == (kind, part, contour))


def apply(job, command):
    if command["kind"] == "alter-part":
        alter_part(job.store, job.job, job.store.head(job.job), AlterPart.model_validate(command))
    else:
        job.do(read_command(command))


def test_every_remedy_offered_leaves_less_and_stops_nothing(job):
    offered = remedies_for(job.store, job.plan, at_of(job))
    assert offered, "square corners stand, and something helps"
    stops = {s.rule for s in job.derived.snags if s.severity == "stop"}
    for group in offered:
        before = standing(job, group.kind, group.part, group.contour)
        assert before > 0 and group.remedies
        for remedy in group.remedies:
            number = job.store.head(job.job)
            apply(job, remedy.command)
            after = standing(job, group.kind, group.part, group.contour)
            assert after < 0.8 * before, (remedy.label, before, after)
            assert ("still stand" in remedy.trades) == (after > 0), (remedy.trades, after)
            assert not {s.rule for s in job.derived.snags if s.severity == "stop"} - stops
            job.store.undo(job.job)
            assert job.store.head(job.job) > number


def test_where_the_smallest_cutter_is_in_use_corners_are_relieved(store):
    job = TrialJob(store, (NOTCHED, [(100, 100)]))
    smallest = min(
        (c for c in job.setup.cutters if c.kind in ("up-cut", "compression") and c.reach > 18),
        key=lambda c: c.diameter,
    )
    job.do(
        read_command({"kind": "set-contour", "part": job.part(), "contour": "outline", "cutter": smallest.id})
    )
    (group,) = remedies_for(job.store, job.plan, at_of(job))
    assert [r.label for r in group.remedies] == ["Relieve its inside corners, dog-bone"]


def test_where_nothing_stands_nothing_is_offered(store):
    job = TrialJob(store, (ring([(0, 0), (200, 0), (200, 150), (0, 150)]), [(100, 100)]))
    assert standing(job, "corner", job.part(), "outline") == 0
    assert remedies_for(job.store, job.plan, at_of(job)) == []
