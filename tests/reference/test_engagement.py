"""What a cutter meets, measured in the stock body, against exact geometry; and passes that count only what
was really opened.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from tests.conftest import MANY
from tests.reference.test_cut_sweeps import cutter, plan, pocketed, setup_of
from tests.support.trial import TrialJob, rect, ring
from venzo.core.body.engagement import cell_for, engage
from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.depths import DepthRule, levels_in
from venzo.core.cuts.moves import CCW, LINE, RAPID, row
from venzo.core.cuts.operations import Pocket, Profile
from venzo.core.feeds.mechanics import slot_section
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.memo import forget
from venzo.core.parts.shape import Shape
from venzo.core.rules.house import HouseRules, Tabs
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import Cutter, Feeds
from venzo.desk import jobs

MILL = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=30)

VEE = Cutter(id="v", number=2, name="V", kind="v-bit", diameter=12, angle=90, cutting_length=10)


def straight(y, z=-5.0, x0=10, x1=90):
    return np.array([row(RAPID, x0, y, 3), row(LINE, x0, y, z, 900), row(LINE, x1, y, z, 900)])


@settings(max_examples=20 * MANY)
@given(st.lists(st.tuples(st.floats(8, 92), st.floats(8, 52), st.floats(-8, -0.5)), min_size=2, max_size=8))
def test_the_body_is_what_shapely_says_was_swept(points):
    """[EX] Height along random paths: the lowest of the moves whose sweep covers a place; slopes are taken at
    their higher end.
    """
    body = StockBody(Box(0, 0, 100, 60), 0.1)
    x, y, z = points[0]
    moves = [row(RAPID, x, y, 3), row(LINE, x, y, z)]
    for px, py, _z in points[1:]:
        moves.append(row(LINE, px, py, z))
    body.cut(np.array(moves), MILL)
    line = (
        LineString([(p[0], p[1]) for p in points])
        if len({p[:2] for p in points}) > 1
        else Point(points[0][:2])
    )
    rng = np.random.default_rng(len(points))
    spots = np.column_stack([rng.uniform(1, 99, 400), rng.uniform(1, 59, 400)])
    away = np.array([line.distance(Point(p)) for p in spots])
    heights = body.heights(spots)
    assert np.allclose(heights[away < 3 - 0.1], z, atol=1e-5) and (heights[away > 3 + 0.1] == 0).all()


@settings(max_examples=15 * MANY)
@given(
    st.lists(st.tuples(st.floats(4, 96), st.floats(4, 56), st.floats(-8, -0.5)), min_size=2, max_size=7),
    st.sampled_from([MILL, VEE]),
)
def test_moves_in_any_order_leave_one_body(points, tool):
    """[EX] The lowest wins, so the order of cuts is nothing to the heights; nor is going on where the move
    before ended, which is swept faster.
    """
    ways = [(a[0], a[1], b[0], b[1], min(a[2], b[2])) for a, b in pairwise(points)]
    there, back = StockBody(Box(0, 0, 100, 60), 0.15), StockBody(Box(0, 0, 100, 60), 0.15)
    rows = [row(RAPID, *ways[0][:2], 3.0)]
    for ax, ay, bx, by, z in ways:  # in one go, straight up or down where two ways meet
        rows += [row(LINE, ax, ay, z), row(LINE, bx, by, z)]
    there.cut(np.array(rows), tool)
    for ax, ay, bx, by, z in ways[::-1]:
        back.cut(np.array([row(RAPID, bx, by, 3.0), row(LINE, bx, by, z), row(LINE, ax, ay, z)]), tool)
        back.settle()
    spots = np.stack(np.meshgrid(np.arange(0.5, 100, 0.7), np.arange(0.5, 60, 0.7)), axis=-1).reshape(-1, 2)
    assert np.allclose(there.heights(spots), back.heights(spots), atol=1e-5)


def test_a_body_tells_its_story():
    """Like cuts, like story, whatever their feed; and what is measured again is what is remembered."""
    one, other, third = (StockBody(Box(0, 0, 100, 60), 0.1) for _ in range(3))
    slow, fast = straight(20), straight(20)
    fast[:, 6] = 4000
    one.cut(slow, MILL)
    other.cut(fast, MILL)
    third.cut(straight(20.001), MILL)
    assert one.story == other.story != third.story and one.copy().story == one.story and one.touched
    other.cut(straight(30), MILL)
    assert one.story != other.story
    ring, rule = Contour.of([(10, 20), (90, 20), (90, 30), (10, 30)]), DepthRule(2.0, "a third", HouseRules())
    first = levels_in(one, ring, MILL, 5.0, rule)
    forget("levels")
    forget("lap")
    assert levels_in(one, ring, MILL, 5.0, rule) == first
    assert levels_in(other, ring, MILL, 5.0, rule) != first, "the other is open further up"
    assert levels_in(one, ring, MILL, 5.0, rule, [(0.0, 80.0)]) != first, "what lies over tabs is not asked"


def test_shaped_cutters_leave_their_profile():
    """[EX] A V of 60 degrees 4 mm deep: the wall rises by distance / tan(30 degrees); a ball of radius 3: its
    circle.
    """
    for tool, wall in (
        (
            Cutter(id="v", number=1, name="v", kind="v-bit", diameter=12, angle=60, cutting_length=10),
            lambda d: -4 + d / math.tan(math.radians(30)),
        ),
        (
            Cutter(id="b", number=1, name="b", kind="ball", diameter=6, cutting_length=20),
            lambda d: -4 + 3 - math.sqrt(9 - d * d),
        ),
    ):
        body = StockBody(Box(0, 0, 100, 20), 0.02)
        body.cut(straight(10, -4.0), tool)
        for d in (0.3, 1.0, 1.8):
            assert body.heights(np.array([[50, 10 + d]]))[0] == pytest.approx(wall(d), abs=0.05)


@settings(max_examples=15 * MANY)
@given(st.floats(0.4, 6.0), st.integers(1, 4), st.floats(2, 12))
def test_a_cut_beside_a_cut_meets_what_is_left_of_it(width, flutes, diameter):
    """[EX] A straight pass ``width`` mm off the one before: that width, the whole depth, and the section of a
    straight wall.
    """
    tool = MILL.model_copy(update={"diameter": diameter, "flutes": flutes})
    width = min(width, diameter)
    body = StockBody(Box(0, 0, 120, 60), cell_for(tool))
    body.cut(straight(30, x1=110), tool)
    met = engage(body, straight(30 + width, x0=20, x1=100), tool)
    middle = (met.s > 20) & (met.s < 60)
    assert np.median(met.width[middle]) == pytest.approx(width, abs=0.03 * diameter) and met.depth[
        middle
    ].max() == pytest.approx(5.0, abs=1e-6)
    exact = slot_section(5.0, width, diameter, flutes)
    # a rim asked 0.75 cells inside itself sees a wall so much narrower
    low = slot_section(5.0, max(width - 1.6 * body.cell, 0.0), diameter, flutes)
    assert low * 0.97 <= np.median(met.section[middle]) <= exact * 1.05 + 0.05


def test_a_slot_meets_the_whole_diameter_and_a_repeated_pass_nothing():
    body = StockBody(Box(0, 0, 100, 100), cell_for(MILL))
    arc = np.array(
        [
            row(RAPID, 80, 50, 3),
            row(LINE, 80, 50, -5),
            row(CCW, 20, 50, -5, 900, 50, 50),
            row(CCW, 80, 50, -5, 900, 50, 50),
        ]
    )
    assert engage(body, arc, MILL).worst()[0] == pytest.approx(6.0, abs=0.05)
    assert engage(body, arc, MILL).worst()[1] == 0.0, "a spring pass"


NOTCHED = Contour.of([(0, 0), (120, 0), (120, 60), (62.5, 60), (62.5, 30), (57.5, 30), (57.5, 60), (0, 60)])


def stations(got, tool, step):
    """Widest full-depth engagement of a step's own moves in the body that the steps before left: (width of
    what is deeper than a pass may be).
    """
    before = [c for c in got.cuts if c.step < step]
    mine = [c for c in got.cuts if c.step == step]
    everything = np.vstack([c.moves[:, 1:3] for c in got.cuts])
    (x0, y0), (x1, y1) = everything.min(axis=0) - 12, everything.max(axis=0) + 12
    body = StockBody(Box(x0, y0, x1, y1), 0.06)
    for c in before:
        body.cut(c.moves, tool[c.cutter])
    limit = HouseRules().largest_step("wood", tool[mine[0].cutter].diameter) * 1.05
    return max(engage(body, c.moves, tool[c.cutter], limit).thick.max() for c in mine)


def test_a_finisher_steps_down_where_the_rougher_never_was():
    """A 1/8 in finisher in notches that a 1/4 in rougher cannot enter: nowhere more than a skim at full depth
    (it went 4 D deep in one pass).
    """
    tools = {"c1": cutter(1, 6.35), "c2": cutter(2, 3.175)}
    shape = Shape(Region(NOTCHED, ()), ("outline",))
    got = plan(
        shape,
        setup_of(
            tuple(tools.values()),
            Profile(id="r", on="outlines", cutter="c1", side_allowance=0.5),
            Profile(id="f", on="outlines", cutter="c2"),
            rules=HouseRules(tabs={"wood": Tabs(count=0)}),
        ),
    )
    assert stations(got, tools, 1) < 0.5 * 3.175 + 0.2, "never full width at full depth"
    (said,) = [s for s in got.snags if s.rule == "cuts.not-opened"]
    assert "could not enter" in said.message
    finish = next(c for c in got.contours if c.contour == "outline").steps[1]
    assert finish.width == pytest.approx(3.175, abs=0.01) and "cut first" in dict(finish.why)["passes"]
    swept = LineString(np.vstack([c.moves[:, 1:3] for c in got.cuts if c.step == 1])).buffer(3.175 / 2)
    assert swept.buffer(0.05).contains(Polygon([(58, 40), (62, 40), (62, 58), (58, 58)])), (
        "the notch is cut out all the same"
    )


def test_a_narrow_channel_is_no_skim():
    """A 0.22 in channel in 3/16 in aluminium: a finisher as wide as 0.2 in meets its whole width where a 1/4
    in rougher could not go in.
    """
    inch = 25.4
    feeds = {"aluminium": Feeds(rpm=18_000, feed=1500, plunge=400)}
    tools = {
        k: cutter(n, d * inch).model_copy(update={"feeds": feeds})
        for k, n, d in (("c1", 1, 0.25), ("c2", 2, 0.2))
    }
    w, c = 3 * inch, 0.11 * inch
    outline = Contour.of(
        [
            (0, 0),
            (w, 0),
            (w, w),
            (w / 2 + c, w),
            (w / 2 + c, w / 2),
            (w / 2 - c, w / 2),
            (w / 2 - c, w),
            (0, w),
        ]
    )
    shape = Shape(Region(outline, ()), ("outline",))
    setup = setup_of(
        tuple(tools.values()),
        Profile(id="r", on="outlines", cutter="c1", side_allowance=0.76),
        Profile(id="f", on="outlines", cutter="c2"),
        rules=HouseRules(tabs={"aluminium": Tabs(count=0)}),
    )
    setup = setup.model_copy(
        update={"material": Material(id="a", name="6061", family="aluminium", density=2700)}
    )
    got = plan(shape, setup, thickness=0.1875 * inch)
    finish = next(k for k in got.contours if k.contour == "outline").steps[1]
    assert finish.width == pytest.approx(0.2 * inch, abs=0.01) and "skim" not in dict(finish.why)["passes"]
    forces = [k.load.force for k in got.cuts if k.step == 1]
    alone = plan(
        shape,
        setup.model_copy(update={"operations": (Profile(id="f", on="outlines", cutter="c2"),)}),
        thickness=0.1875 * inch,
    )
    assert max(forces) == pytest.approx(max(k.load.force for k in alone.cuts), rel=0.05), (
        "the force is that of a full slot"
    )


def test_force_inherits_what_is_met(store):
    """A finishing skim pushes with what its own chips ask, not with a slot's, and the other way round."""
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({"side_allowance": 0.5}, {"cutter": "up-4"})
    rough, finish = (next(c.cut for c in b.sheet.cuts if c.cut.step == k) for k in (0, 1))
    b.outline({"cutter": "up-4"})
    slot = b.sheet.cuts[-1].cut
    # [EX] chips of a straight wall 0.5 mm wide over the whole depth against those of a slot a pass deep; same
    # cutter, same feed
    assert (
        finish.load.force / slot.load.force
        == pytest.approx(
            slot_section(18.35, 0.5, 4, 2) / slot_section(18.35 / len(slot.levels), 4, 4, 2), rel=0.25
        )
        and rough.load.force > finish.load.force
    )
    assert not [s for s in jobs.prove_setup(b.store, b.plan, b.derived)[0].snags if s.severity == "stop"]


def test_the_first_ring_of_a_pocket_is_a_slot():
    """A pocket's rings are a step-over wide, but the first runs in full material: that is what its load
    is.
    """
    square = Contour.of([(20, 20), (100, 20), (100, 80), (20, 80)])
    got = plan(
        pocketed(square),
        setup_of(
            (cutter(1, 6.0),),
            Pocket(id="p", cutter="c1", step_over=0.4),
            Profile(id="o", on="outlines", cutter="c1"),
        ),
    )
    pocket = next(s for c in got.contours for s in c.steps if s.kind == "pocket")
    assert pocket.width == pytest.approx(6.0, abs=0.2)


def test_unreached_is_said_only_of_what_no_step_reaches(store):
    notched = ring([(x, y) for x, y in NOTCHED.vertices[:, :2].tolist()])
    b = TrialJob(store, (notched, [(100, 100)])).outline({"side_allowance": 0.5}, {"cutter": "up-4"})
    assert not b.said("cuts.unreached"), "the second step reaches it"
    assert b.outline({}).said("cuts.unreached")
