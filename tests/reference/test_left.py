"""What a sheet's cuts leave standing, against plain geometry: where a round cutter cannot come into a corner,
and nowhere else.

In a corner of 90 degrees into which a cutter of radius R runs, a line d beside the wall is covered from
R - sqrt(R2 - (R - d)2) on: what is shorter stands.
"""

from __future__ import annotations

import math

import pytest

from tests.conftest import dxf
from tests.support.trial import TrialJob, rect, ring
from venzo.core.body.field import StockBody
from venzo.core.edits import SetContour, read_command
from venzo.core.proof.left import BESIDE, left_over
from venzo.core.proof.removal import sheet_moments
from venzo.desk import jobs
from venzo.desk.jobs import subject_of

SMALL = (500, 380)
"""A sheet on which cells are at their finest."""


def left_of(job: TrialJob):
    """What stands on the first sheet of a trial, and its cutters' radii by id."""
    (d,) = jobs.derive(job.store, job.plan).values()
    sheet = d.sheets[0]
    stock = d.setup.stock_of(sheet.sheet)
    film = sheet_moments(d.setup, sheet, stock)
    found = left_over(subject_of(job.store, job.plan, d, sheet), film.final)
    used = {c.cut.contour: d.setup.cutter(c.cut.cutter).radius for c in sheet.cuts}
    return found, used, film.final, stock


def covered_from(radius: float, beside: float) -> float:
    return radius - math.sqrt(radius**2 - (radius - beside) ** 2)


NOTCHED = ring([(0, 0), (200, 0), (200, 150), (120, 150), (120, 90), (60, 90), (60, 150), (0, 150)])


def test_the_corners_of_a_notch_stand_and_nothing_else(store):
    job = TrialJob(store, (NOTCHED, [(100, 100)]), sheet=SMALL)
    found, used, body, stock = left_of(job)
    want = 2 * covered_from(used["outline"], max(BESIDE, 1.2 * body.cell))
    assert len(found) == 2
    assert all(f.kind == "corner" and f.height == pytest.approx(stock.thickness) for f in found)
    assert sorted(round(f.at[0] - 100) for f in found) == pytest.approx([60, 120], abs=1)
    assert all(f.at[1] - 100 == pytest.approx(90, abs=1) for f in found)
    assert all(f.length == pytest.approx(want, abs=1.2) for f in found)


def test_tabs_are_meant_and_a_plain_panel_leaves_nothing(store):
    job = TrialJob(store, (rect(300, 200), [(100, 100)]))
    job.do(SetContour(part=job.plan.parts[0].id, contour="outline", tab_count=5))
    assert left_of(job)[0] == ()


def holed(m):
    """A square hole and a round one."""
    m.add_lwpolyline([(0, 0), (300, 0), (300, 200), (0, 200)], close=True)
    m.add_lwpolyline([(60, 60), (110, 60), (110, 110), (60, 110)], close=True)
    m.add_circle((220, 100), 30)


def test_a_square_hole_keeps_four_corners_and_a_round_one_none(store):
    found, _used, _body, _stock = left_of(TrialJob(store, (dxf(holed), [(80, 80)])))
    assert len(found) == 4
    corners = {(round(f.at[0] - 80, -1), round(f.at[1] - 80, -1)) for f in found}
    assert corners == {(60, 60), (110, 60), (110, 110), (60, 110)}


def test_a_body_in_which_nothing_was_cut_shows_every_contour_all_along(store):
    job = TrialJob(store, (rect(300, 200), [(100, 100)]))
    (d,) = jobs.derive(job.store, job.plan).values()
    stock = d.setup.stock_of(d.sheets[0].sheet)
    whole = StockBody(sheet_moments(d.setup, d.sheets[0], stock).box, 0.4)
    found = left_over(subject_of(store, job.plan, d, d.sheets[0]), whole)
    tabs = sum(len(c.cut.tabs) for c in d.sheets[0].cuts)
    assert tabs and [f.kind for f in found] == ["beside"], "one, though tabs part it"
    assert found[0].height == pytest.approx(stock.thickness)
    assert 1000 - 25 * tabs < sum(f.length for f in found) < 1000


def pocketed(m):
    m.add_lwpolyline([(0, 0), (200, 0), (200, 150), (0, 150)], close=True)
    m.doc.layers.add("POCKET 6mm")
    corners = [(50, 50), (130, 50), (130, 110), (50, 110)]
    m.add_lwpolyline(corners, close=True, dxfattribs={"layer": "POCKET 6mm"})


@pytest.mark.parametrize("turn", (0.0, 90.0, 180.0))
def test_a_pocket_is_looked_at_on_its_floor_and_in_its_corners(store, turn):
    job = TrialJob(store, (dxf(pocketed), [(250, 180)]))
    move = {"kind": "move-piece", "setup": "main", "part": job.plan.parts[0].id, "copy_no": 0}
    place = {"sheet": "own", "sheet_copy": 0, "x": 300, "y": 200, "rotation": turn}
    job.do(read_command({**move, **place}))
    found, _used, _body, _stock = left_of(job)
    assert len(found) == 4
    assert all(f.kind == "corner" and f.height == pytest.approx(6.0, abs=1e-3) for f in found)
    assert len({f.contour for f in found}) == 1 and "pocket" in found[0].contour


def test_what_is_left_is_told_over_http(store):
    job = TrialJob(store, (NOTCHED, [(100, 100)]))
    from venzo.desk.cut_stock import SheetAt, left_standing

    told = left_standing(store, job.plan, SheetAt(setup="main", sheet="own"))
    assert [(f.kind, f.name, f.through) for f in told] == [("corner", job.plan.parts[0].name, True)] * 2
