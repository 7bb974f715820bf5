"""A drawing of a part's back: laid by its outline, seen from either side, it cuts what the layers of one
drawing of both faces would.
"""

import math

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.conftest import dxf
from tests.support.trial import TrialJob
from venzo.core.edits.asks import AlterPart
from venzo.core.snags import BadInput
from venzo.desk import back_drawings, drawings

L = [(0, 0), (200, 0), (200, 60), (90, 60), (90, 130), (0, 130)]
"""An outline that lies on itself in no other way."""
BOARD = [(0, 0), (200, 0), (200, 120), (0, 120)]
boxes = st.tuples(st.integers(6, 40), st.integers(6, 30), st.integers(8, 40), st.integers(8, 20))


def ring(x, y, w, h):
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


def turned(points, by, mirrored, at=(0.0, 0.0)):
    c, s = round(math.cos(math.radians(by))), round(math.sin(math.radians(by)))
    flip = -1 if mirrored else 1
    return [(at[0] + c * flip * x - s * y, at[1] + s * flip * x + c * y) for x, y in points]


def drawn(outline, layers, way=lambda points: points, hole=None):
    """A drawing of an outline and rings on layers, each point of it laid some way."""

    def draw(m):
        m.add_lwpolyline(way(outline), close=True)
        if hole:
            ((x, y),) = way([hole[:2]])
            m.add_circle((x, y), hole[2])
        for layer, points in layers:
            m.doc.layers.add(layer)
            m.add_lwpolyline(way(points), close=True, dxfattribs={"layer": layer})

    return dxf(draw)


def backs(b):
    """Boxes and depths of what is cut into the back, in the part's frame."""
    shape = b.store.shapes[b.plan.parts[0].shape]
    return sorted(
        (*(round(v, 3) for v in f.contour.bbox), f.depth) for f in shape.features if f.face == "back"
    )


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(boxes, boxes, st.sampled_from([0, 90, 180, 270]), st.booleans(), st.integers(-500, 500))
def test_a_back_that_is_drawn_apart_is_the_back_drawn_through_the_part(store, one, other, by, behind, x):
    """Seen from the back the drawing is the mirror of what it is seen through the part, however it is turned
    and wherever it lies.
    """
    b = TrialJob(store, (drawn(L, [("POCKET 4", ring(5, 5, 20, 20))]), [(100, 100)]), screwed=False)
    seen = "the back" if behind else "the front"
    file = drawn(
        L,
        [("pocket 3", ring(*one)), ("GROOVE 2", ring(*other))],
        lambda points: turned(points, by, behind, (x, 3 * x)),
    )
    back_drawings.set_back(store, b.job, store.get(b.job).number, b.part(), "behind.dxf", file, seen)
    wanted = [(*ring(*box)[0], box[0] + box[2], box[1] + box[3], d) for box, d in ((one, 3.0), (other, 2.0))]
    found = backs(b)
    assert len(found) == 2
    for have, want in zip(found, sorted(wanted), strict=True):
        assert have == pytest.approx(want, abs=0.01)
    fronts = [f for f in store.shapes[b.plan.parts[0].shape].features if f.face == "front"]
    assert [f.name for f in fronts] == ["pocket 1"]


def test_a_back_that_fits_several_ways_says_so_and_is_turned(store):
    b = TrialJob(store, (drawn(BOARD, []), [(100, 100)]), screwed=False)
    file = drawn(BOARD, [("POCKET 3", ring(10, 20, 30, 10))])
    back_drawings.set_back(store, b.job, store.get(b.job).number, b.part(), "behind.dxf", file)
    (a,) = b.plan.parts[0].alterations
    assert (a.turn, a.also) == (0, (180,))
    assert backs(b) == [(160.0, 20.0, 190.0, 30.0, 3.0)]  # mirrored about the upright middle
    back_drawings.turn_back(store, b.job, store.get(b.job).number, b.part(), 0)
    assert backs(b) == [(10.0, 90.0, 40.0, 100.0, 3.0)]
    back_drawings.turn_back(store, b.job, store.get(b.job).number, b.part(), 0)
    assert backs(b) == [(160.0, 20.0, 190.0, 30.0, 3.0)]
    # a newer drawing of it comes in its place, and everything is taken back
    newer = drawn(BOARD, [("POCKET 5", ring(10, 20, 30, 10))])
    back_drawings.set_back(store, b.job, store.get(b.job).number, b.part(), "behind.dxf", newer)
    assert backs(b) == [(160.0, 20.0, 190.0, 30.0, 5.0)]
    drawings.alter_part(store, b.job, store.get(b.job).number, AlterPart(part=b.part(), drop=0))
    assert backs(b) == []


def test_a_square_back_is_turned_by_quarters(store):
    square = [(0, 0), (120, 0), (120, 120), (0, 120)]
    b = TrialJob(store, (drawn(square, []), [(100, 100)]), screwed=False)
    file = drawn(square, [("POCKET 3", ring(10, 20, 30, 10))])
    job, part = b.job, b.part()
    back_drawings.set_back(store, job, store.get(job).number, part, "behind.dxf", file, "the front")
    seen = [backs(b)[0]]
    for _ in range(3):
        back_drawings.turn_back(store, job, store.get(job).number, part, 0)
        seen.append(backs(b)[0])
    assert seen == [
        (10.0, 20.0, 40.0, 30.0, 3.0),
        (90.0, 10.0, 100.0, 40.0, 3.0),
        (80.0, 90.0, 110.0, 100.0, 3.0),
        (20.0, 80.0, 30.0, 110.0, 3.0),
    ]


@pytest.mark.parametrize(
    ("file", "says"),
    [
        (
            drawn([(0, 0), (150, 0), (150, 90), (0, 90)], [("POCKET 3", ring(9, 9, 9, 9))]),
            "150.00 x 90.00 mm",
        ),
        (drawn(L, [("POCKET 3", ring(9, 9, 9, 9))], hole=(60, 30, 10)), "the same holes"),
        (drawn(L, []), "nothing in it is cut into the back"),
        (b"no drawing at all", "behind.dxf"),
    ],
)
def test_what_is_no_back_of_the_part_is_refused_and_nothing_is_lost(store, file, says):
    b = TrialJob(store, (drawn(L, []), [(100, 100)]), screwed=False)
    before = b.plan
    with pytest.raises(BadInput, match=says):
        back_drawings.set_back(
            store, b.job, store.get(b.job).number, b.part(), "behind.dxf", file, "the front"
        )
    assert b.plan == before
    with pytest.raises(BadInput, match="no drawing of its back"):
        back_drawings.turn_back(store, b.job, store.get(b.job).number, b.part(), 0)
