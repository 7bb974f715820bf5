"""A closed line on a groove layer: asked once, then cut as said; what the cutter sweeps is held against exact
bands.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from shapely.geometry import LineString, Point, box
from shapely.ops import unary_union

from tests.conftest import dxf
from tests.support.breadth import spread
from venzo.core.cuts.moves import polyline
from venzo.core.edits import SetContour, SetQuantity, SetSteps, read_command
from venzo.demo.seed import nest_job
from venzo.desk import drawings, jobs

SIDE = 80.0


def plate(m):
    m.doc.layers.add("GROOVE 4mm")
    m.add_lwpolyline([(0, 0), (300, 0), (300, 200), (0, 200)], close=True)
    m.add_lwpolyline(
        [(40, 40), (40 + SIDE, 40), (40 + SIDE, 40 + SIDE), (40, 40 + SIDE)],
        close=True,
        dxfattribs={"layer": "GROOVE 4mm"},
    )
    m.add_circle((200, 100), 30, dxfattribs={"layer": "GROOVE 4mm"})
    m.add_lwpolyline(
        [(40, 150), (260, 150), (260, 168), (40, 168)], close=True, dxfattribs={"layer": "GROOVE 4mm"}
    )  # as a shelf's groove is drawn


class Job:
    def __init__(self, store):
        self.store = store
        self.id = jobs.new_job(store, "frames", "long-bed", "birch-ply").plan.id
        drawings.take_drawing(store, self.id, 1, "main", "frames.dxf", dxf(plate))
        self.part = self.plan.parts[0].id
        self.do(SetQuantity(part=self.part, order="order-1", quantity=1))
        nest_job(store, self.id, "main", 1)

    plan = property(lambda self: self.store.get(self.id).plan)
    derived = property(lambda self: jobs.derive(self.store, self.plan)["main"])

    def do(self, command):
        return self.store.apply(self.id, self.store.get(self.id).number, command)

    def asked(self):
        return [s for s in self.derived.snags if s.rule == "cuts.closed-line"]

    def named(self, area):
        shape = self.store.shapes[self.plan.parts[0].shape]
        return next(
            f.name for f in shape.features if f.kind == "groove" and abs(abs(f.contour.area) - area) < 1
        )

    def swept(self, name):
        """What the cutter sweeps at the groove's full depth, in the part's frame; and its radius, mm."""
        cuts = [c.cut for s in self.derived.sheets for c in s.cuts if c.cut.contour == name]
        (cutter,) = {c.cutter for c in cuts}
        radius = self.derived.setup.cutter(cutter).radius
        runs = []
        for cut in cuts:
            points = polyline(cut.moves, 0.002)
            runs += [
                LineString([a[:2], b[:2]])
                for a, b in pairwise(points)
                if max(a[2], b[2]) <= -4 + 1e-6 and not np.allclose(a[:2], b[:2])
            ]
        return unary_union(runs).buffer(radius, quad_segs=64), radius


@pytest.fixture
def job(store):
    return Job(store)


SQUARE = box(40, 40, 40 + SIDE, 40 + SIDE)
ROUND = Point(200, 100).buffer(30, quad_segs=200)


def band(shape, way, radius):
    """What is cut of a closed line, by set operations alone: two cutter radii wide on it, within it, or
    beyond it.
    """
    rounded = {"quad_segs": 200}
    if way == "clear":
        return shape.buffer(-radius, join_style="mitre").buffer(radius, **rounded)
    if way == "on line":
        return shape.exterior.buffer(radius, **rounded)
    if way == "inside":
        return shape.buffer(-radius, join_style="mitre").exterior.buffer(radius, **rounded)
    return shape.buffer(radius, **rounded).exterior.buffer(radius, **rounded)


def test_a_closed_groove_line_is_asked_for_once_and_withheld_until_then(job):
    asked = job.asked()
    lines = {job.named(SIDE**2), job.named(math.pi * 900)}
    assert len(asked) == 1 and asked[0].severity == "stop" and len(asked[0].remedies) == 4
    assert all(n in asked[0].message for n in lines) and asked[0].message.count("groove 2") == 0, (
        "the long, narrow one is a groove as drawn"
    )
    assert not [c for s in job.derived.sheets for c in s.cuts if c.cut.contour in lines]
    job.do(read_command(asked[0].remedies[0].command))
    assert not job.asked(), "one answer does for all of the setup"


@pytest.mark.parametrize("way", spread(["inside", "on line", "clear", "outside"], 2))
def test_what_is_said_of_a_closed_line_is_what_the_cutter_sweeps(job, way):
    remedy = next(r for r in job.asked()[0].remedies if r.command["rules"]["closed_grooves"] == way)
    job.do(read_command(remedy.command))
    for name, shape in ((job.named(SIDE**2), SQUARE), (job.named(math.pi * 900), ROUND)):
        got, radius = job.swept(name)
        want = band(shape, way, radius)
        assert got.symmetric_difference(want).area < 0.02 * shape.length, (way, name)
    assert all(
        p.snags == () or not any(s.severity == "stop" for s in p.snags)
        for p in jobs.prove_setup(job.store, job.plan, job.derived)
    )


def test_one_line_may_differ_from_the_others_and_go_back(job):
    job.do(read_command(job.asked()[0].remedies[0].command))
    square = job.named(SIDE**2)
    on_line = job.swept(square)[0].area
    job.do(SetContour(part=job.part, contour=square, line="clear"))
    assert job.swept(square)[0].area > 2 * on_line
    assert (
        job.swept(job.named(math.pi * 900))[0].interiors
        or job.swept(job.named(math.pi * 900))[0].area < math.pi * 900
    )
    job.do(SetContour(part=job.part, contour=square, automatic=("line",)))
    assert job.swept(square)[0].area == pytest.approx(on_line)
    assert not job.plan.choices


def test_without_a_groove_step_a_closed_line_is_said_not_to_be_cut(job):
    job.do(read_command(job.asked()[0].remedies[0].command))
    square = job.named(SIDE**2)
    steps = [o for o in job.plan.setups[0].operations if o.on == "grooves" and o.kind == "pocket"]
    job.do(SetSteps(setup="main", on="grooves", steps=tuple(steps)))
    said = [
        s for s in job.derived.snags if s.severity == "stop" and s.where and s.where.get("contour") == square
    ]
    assert said and said[0].rule == "cuts.open-line" and said[0].remedies
    job.do(read_command(said[0].remedies[0].command))
    assert job.swept(square)[0].area > 0
