"""Newer drawings: a part drawn the other way round is the same one, mirrored; what was chosen by hand moves
with what it was chosen on.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.affinity import scale as stretched

from tests.conftest import dxf
from venzo.core.edits import SetContour
from venzo.core.geometry.contour import Contour
from venzo.core.parts.match import carried, mirrored_in_place
from venzo.core.parts.shape import Shape
from venzo.desk import drawings
from venzo.desk.jobs import new_job

ELL = [(0, 0), (300, 0), (300, 80), (120, 80), (120, 200), (0, 200)]


def ell(mirrored=False, hole=(60, 150), radius=10, groove=True):
    def turn(p):
        return (300 - p[0], p[1]) if mirrored else p

    def draw(m):
        m.doc.layers.add("GROOVE 3")
        m.add_lwpolyline([turn(p) for p in ELL], close=True)
        m.add_circle(turn(hole), radius)
        if groove:
            m.add_line(turn((140, 30)), turn((280, 30)), dxfattribs={"layer": "GROOVE 3"})

    return dxf(draw)


class Job:
    def __init__(self, store, data):
        self.store, self.id = store, new_job(store, "job").plan.id
        self.take(data)
        self.part = self.plan.parts[0].id

    plan = property(lambda self: self.store.get(self.id).plan)
    shape = property(lambda self: self.store.shapes[self.plan.part(self.part).shape])

    def take(self, data):
        drawings.take_drawing(self.store, self.id, self.store.get(self.id).number, "main", "ell.dxf", data)

    def compared(self, data):
        return drawings.compare(self.store, self.plan, "main", "ell.dxf", data).parts

    def choose(self, **fields):
        self.store.apply(self.id, self.store.get(self.id).number, SetContour(part=self.part, **fields))

    def choice(self, contour):
        return self.plan.choice(self.part, contour)


@pytest.fixture
def job(store):
    return Job(store, ell())


def test_a_part_drawn_the_other_way_round_is_the_same_one_mirrored(job):
    before = job.shape
    job.choose(contour="outline", tabs=((150.0, 0.0), (0.0, 100.0)))
    job.choose(contour="hole 1", start=(70.0, 150.0))
    seen = job.compared(ell(mirrored=True))
    assert [(p.id, p.state) for p in seen] == [(job.part, "mirrored")], "not one part gone and another new"
    job.take(ell(mirrored=True))
    (part,) = job.plan.parts
    assert part.id == job.part and not part.missing and set(job.shape.names) == set(before.names)
    turned = stretched(before.region.polygon(), -1, 1, origin=(150, 0))
    assert job.shape.region.polygon().symmetric_difference(turned).area < 0.05
    assert job.choice("outline").tabs == ((150.0, 0.0), (300.0, 100.0)) and job.choice(
        "hole 1"
    ).start == pytest.approx((230.0, 150.0))
    job.store.undo(job.id)
    assert job.choice("hole 1").start == (70.0, 150.0), "taken back with the drawing"


def test_a_symmetric_outline_is_mirrored_by_what_is_in_it(store):
    def plate(hole, groove):
        def draw(m):
            m.doc.layers.add("GROOVE 3")
            m.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True)
            m.add_circle((hole, 20), 8)
            m.add_line((groove, 10), (groove, 60), dxfattribs={"layer": "GROOVE 3"})

        return dxf(draw)

    job = Job(store, plate(50, 30))
    assert [p.state for p in job.compared(plate(150, 170))] == ["mirrored"]
    assert [p.state for p in job.compared(plate(50, 30))] == ["same"]
    assert [p.state for p in job.compared(plate(80, 30))] == ["changed"], "one hole moved is no mirror"


def test_a_start_moves_with_its_hole_and_tabs_with_a_wider_outline(job):
    job.choose(contour="hole 1", start=(70.0, 150.0))
    job.choose(contour="outline", tabs=((0.0, 100.0), (300.0, 40.0)))
    job.take(ell(hole=(60, 100)))
    assert job.choice("hole 1").start == pytest.approx((70.0, 100.0), abs=1e-6)
    assert job.choice("outline").tabs == ((0.0, 100.0), (300.0, 40.0)), "nothing else moved"
    job.take(ell(hole=(60, 100), radius=15))
    assert job.choice("hole 1").start == pytest.approx((75.0, 100.0), abs=1e-6)
    drawings.read_again(
        job.store, job.id, job.store.get(job.id).number, job.plan.drawings[0].id, {"scale": 2.0}
    )
    assert job.choice("hole 1").start == pytest.approx((150.0, 200.0), abs=1e-6)
    assert job.choice("outline").tabs[1] == pytest.approx((600.0, 80.0), abs=1e-6)
    job.store.undo(job.id)
    assert job.choice("hole 1").start == pytest.approx((75.0, 100.0), abs=1e-6)


def test_what_was_chosen_on_a_part_that_is_gone_is_listed(store):
    both = dxf(
        lambda m: (
            [m.add_lwpolyline([(x, 0), (x + 90, 0), (x + 90, 60), (x, 60)], close=True) for x in (0,)]
            + [m.add_lwpolyline([(200, 0), (420, 0), (420, 50), (200, 50)], close=True)]
        )
    )
    one = dxf(lambda m: m.add_lwpolyline([(0, 0), (90, 0), (90, 60), (0, 60)], close=True))
    job = Job(store, both)
    long = next(p.id for p in job.plan.parts if store.shapes[p.shape].size[0] > 200)
    job.store.apply(
        job.id, job.store.get(job.id).number, SetContour(part=long, contour="outline", tab_count=3)
    )
    (gone,) = [p for p in job.compared(one) if p.state == "missing"]
    assert gone.choices == ["outline"] and gone.lost == ["outline: chosen by hand, goes with the part"]


boxes = st.tuples(st.floats(-500, 500), st.floats(-500, 500), st.floats(5, 400), st.floats(5, 400))


@given(boxes, boxes, st.floats(0, 3.999))
def test_a_carried_place_lies_on_the_newer_contour(a, b, at):
    def rect(x, y, w, h):
        return Contour.of([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])

    old, new = rect(*a), rect(*b)
    x, y, w, h = a
    side, t = int(at), at % 1
    point = [(x + t * w, y), (x + w, y + t * h), (x + w - t * w, y + h), (x, y + h - t * h)][side]
    assert new.nearest(*carried(point, old, new))[1] < 0.06
    assert carried(point, old, old) == pytest.approx(point)


def test_twice_mirrored_is_as_it_was(job):
    again = mirrored_in_place(mirrored_in_place(job.shape))
    assert isinstance(again, Shape) and again.names == job.shape.names
    assert again.region.polygon().symmetric_difference(job.shape.region.polygon()).area < 1e-6
