"""Leftovers and thin walls planted in a job's steps and drawings: each is found where it is; sound work
passes. What must stand follows from plain geometry: an allowance that nobody takes, a lip of a round end, the
ridges between rows of a ball, a wall that two pockets leave.
"""

import pytest

from tests.conftest import dxf
from tests.support.trial import TrialJob, rect
from venzo.core.cuts.operations import Pocket, Profile
from venzo.core.edits import SetContour, SetSteps
from venzo.desk.cut_stock import SheetAt, left_of

AT = (100, 100)
SMALL = (500, 380)


def pockets(*boxes, depth=6, size=(240, 160)):
    """A panel with rectangular pockets (x0, y0, x1, y1)."""

    def draw(m):
        m.add_lwpolyline([(0, 0), (size[0], 0), size, (0, size[1])], close=True)
        layer = f"POCKET {depth}mm"
        m.doc.layers.add(layer)
        for x0, y0, x1, y1 in boxes:
            m.add_lwpolyline(
                [(x0, y0), (x1, y0), (x1, y1), (x0, y1)], close=True, dxfattribs={"layer": layer}
            )

    return dxf(draw)


ONE = (40, 40, 140, 120)


def pocketed(store, *steps):
    job = TrialJob(store, (pockets(ONE), [AT]), sheet=SMALL)
    job.do(SetSteps(part=job.part(), on="pockets", steps=steps))
    return job


def outlined(store, step, data=None):
    job = TrialJob(store, (data or rect(240, 160), [AT]), sheet=SMALL)
    job.do(SetSteps(part=job.part(), on="outlines", steps=(step,)))
    return job


def clear(cutter="up-6", **more):
    return Pocket(id="p1", on="pockets", cutter=cutter, **more)


def around(cutter="comp-8", **more):
    return Profile(id="o1", on="outlines", cutter=cutter, **more)


STANDS = {
    "a floor left for a later step": (
        lambda s: pocketed(s, clear(floor_allowance=0.5)),
        "floor",
        "pocket 1",
        0.5,
    ),
    "a thin floor left": (lambda s: pocketed(s, clear(floor_allowance=0.1)), "floor", "pocket 1", 0.1),
    "a wall left for a later step": (
        lambda s: pocketed(s, clear(side_allowance=0.8)),
        "beside",
        "pocket 1",
        6.0,
    ),
    "a raster without its pass along the walls": (
        lambda s: pocketed(s, clear(pattern="raster", wall_pass=False, step_over=0.8)),
        None,
        "pocket 1",
        6.0,
    ),
    "ridges between rows of a ball": (
        # rows 3 mm apart with a ball of 3 mm radius: 3 - sqrt(9 - 2.25) high
        lambda s: pocketed(s, clear("ball-6", pattern="raster", step_over=0.5)),
        "floor",
        "pocket 1",
        3 - (9 - 2.25) ** 0.5,
    ),
    "square corners of a pocket": (lambda s: pocketed(s, clear("up-6")), "corner", "pocket 1", 6.0),
    "large corners of a large cutter": (lambda s: pocketed(s, clear("rough-12")), "corner", "pocket 1", 6.0),
    "the lip of a ball that goes just through": (
        # 0.5 mm beneath: the ball is 3 - sqrt(9 - 2.5^2) from the wall at the underside
        lambda s: outlined(s, around("ball-6", overshoot=0.5)),
        "beside",
        "outline",
        None,
    ),
    "a wall allowance along an outline": (
        lambda s: outlined(s, around(side_allowance=1.0)),
        "beside",
        "outline",
        17.6,
    ),
}
"""What: the job, the kind that must be told, its contour, how high it stands at least (mm; None: any)."""


def standing(job):
    return left_of(job.store, job.plan, SheetAt(setup=job.setup.id, sheet=job.sheet.sheet))


@pytest.mark.parametrize("what", STANDS)
def test_a_planted_leftover_is_found(store, what):
    make, kind, contour, high = STANDS[what]
    job = make(store)
    mine = [f for f in standing(job) if f.contour == contour and kind in (None, f.kind)]
    assert mine, [(f.kind, f.contour) for f in standing(job)]
    if high is not None:
        assert max(f.height for f in mine) > 0.9 * high - 0.03


@pytest.mark.parametrize(
    "steps",
    [
        (clear("up-4"),),
        (clear(floor_allowance=0.5), clear("up-4").model_copy(update={"id": "p2"})),
        (clear("up-4", pattern="raster"),),
    ],
)
def test_a_pocket_that_is_cleared_keeps_its_corners_alone(store, steps):
    assert {f.kind for f in standing(pocketed(store, *steps))} <= {"corner"}


def test_a_ball_that_goes_its_radius_through_and_a_skin_that_is_meant_leave_nothing_to_tell(store):
    job = outlined(store, around("ball-6", overshoot=3.0))
    assert standing(job) == ()
    job.do(SetSteps(part=job.part(), on="outlines", steps=(around(floor_allowance=0.5),)))
    assert standing(job) == ()
    job.do(SetContour(part=job.part(), contour="outline", omit=True))
    assert standing(job) == (), "what is not cut is said by the plan"


def walls(store, *boxes, depth=6, **more):
    job = TrialJob(store, (pockets(*boxes, depth=depth, **more), [AT]), sheet=SMALL)
    return job.said("cuts.thin-wall")


@pytest.mark.parametrize(
    ("boxes", "depth", "wide"),
    [
        ([(2, 40, 100, 120)], 9, 2.0),  # beside the edge
        ([(40, 40, 100, 120), (101.5, 40, 180, 120)], 9, 1.5),  # between two
        ([(40, 40, 100, 120), (100.6, 40, 180, 120)], 3, 0.6),  # between two shallow ones
        ([(40, 1.2, 100, 60), (40, 100, 100, 157)], 6, 1.2),  # the narrower of two
        ([(40, 40, 100, 119), (60, 120, 160, 150)], 12, 1.0),  # corner to side
    ],
)
def test_a_planted_thin_wall_is_found_with_its_width(store, boxes, depth, wide):
    (snag,) = walls(store, *boxes, depth=depth)
    assert f"a wall {wide:.2f} mm wide" in snag.message and snag.where["contour"].startswith("pocket")


@pytest.mark.parametrize(
    ("boxes", "depth"),
    [
        ([(4, 40, 100, 120)], 9),  # wide enough
        ([(40, 40, 100, 120), (102, 40, 180, 120)], 3),  # low enough for 2 mm
        ([(-5, 40, 100, 120)], 9),  # open towards the edge: no wall
        ([(0, 40, 100, 120)], 9),
        ([ONE], 12),
    ],
)
def test_sound_walls_pass(store, boxes, depth):
    assert not walls(store, *boxes, depth=depth)
