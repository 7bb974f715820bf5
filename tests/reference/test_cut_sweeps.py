"""Every operation swept with shapely over random geometry: nothing outside what may be cut is touched, what
should go is gone except where a round cutter cannot reach (the morphological opening, exact mathematics),
allowances stay, entries stay clear.

Arcs are flattened here, by this file's own few lines; no code of the planner or the proof is used for
judging.
"""

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import LineString, MultiLineString, Point, Polygon
from shapely.ops import unary_union

from tests.conftest import MANY
from tests.core.test_geometry import shapes
from venzo.core.cuts.in_hand import PartToCut
from venzo.core.cuts.of_part import plan_part
from venzo.core.cuts.operations import Bore, Chamfer, Drill, Face, Groove, Pocket, Profile
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.parts.shape import Feature, Shape
from venzo.core.plan import Part, Setup, StepsChoice
from venzo.core.rules.house import HouseRules, Tabs
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.tooling.cutter import Cutter, Feeds

TOL = 0.02
FEEDS = {"wood": Feeds(rpm=18000, feed=3000, plunge=1000)}
CASES = 6 * MANY


def cutter(number, diameter, kind="up-cut", **more):
    return Cutter(
        id=f"c{number}",
        number=number,
        name=f"c{number}",
        kind=kind,
        diameter=diameter,
        cutting_length=60,
        feeds=FEEDS,
        **more,
    )


def setup_of(cutters, *operations, rules=None, web=4.0):
    rules = rules or HouseRules(tabs={"wood": Tabs(count=0)}, web=web)
    return Setup(
        id="main",
        name="s",
        machine=Machine(id="m", name="m", width=3000, height=2000),
        material=Material(id="w", name="w", family="wood", density=600),
        cutters=cutters,
        rules=rules,
        operations=operations,
        zones_on=("1",),
    )


def plan(shape, setup, thickness=18.0, spacing=20.0, steps=(), mirrored=False):
    part = Part(id="p", name="p", setup="main", drawing="d", shape=shape.digest, origin=(0, 0), lines=())
    return plan_part(PartToCut(part, shape, setup, [], list(steps), thickness, spacing, mirrored))


def own_points(moves):
    """(rapid?, points (k, 3)) of every move after the first; arcs as chords within 0.0005 mm."""
    out = []
    for a, b in itertools.pairwise(moves):
        kind, start, end = b[0], a[1:4], b[1:4]
        if kind < 2:
            out.append((kind == 0, np.array([start, end])))
            continue
        c = b[4:6]
        r = math.hypot(*(start[:2] - c))
        w0, w1 = math.atan2(*(start[:2] - c)[::-1]), math.atan2(*(end[:2] - c)[::-1])
        turn = (w1 - w0) % (2 * math.pi) if kind == 3 else -((w0 - w1) % (2 * math.pi))
        turn = turn or (2 * math.pi if kind == 3 else -2 * math.pi)
        n = max(2, math.ceil(abs(turn) / (2 * math.acos(1 - 0.0005 / max(r, 0.001)))))
        t = np.arange(n + 1)[:, None] / n
        pts = np.hstack(
            [
                c + r * np.hstack([np.cos(w0 + turn * t), np.sin(w0 + turn * t)]),
                start[2] + (end[2] - start[2]) * t,
            ]
        )
        pts[-1] = end
        out.append((False, pts))
    return out


def lines_below(cuts, z=-1e-6):
    """Lines of the cutter's middle that lie wholly below a height."""
    got = []
    for c in cuts:
        for rapid, p in own_points(c.moves):
            if p[:, 2].max() <= z + 1e-9:
                assert not rapid, "no fast move in the material"
                got.append(
                    LineString(p[:, :2])
                    if np.ptp(p[:, :2], axis=0).max() > 1e-9
                    else Point(p[0, :2]).buffer(1e-6).exterior
                )
    return MultiLineString(got)


def touching(cuts):
    """Lines of every move that is anywhere below the surface."""
    got = []
    for c in cuts:
        for rapid, p in own_points(c.moves):
            if rapid and p[-1, 2] > 0:
                assert np.ptp(p[:, :2], axis=0).max() < 1e-9 or p[0, 2] > 0, (
                    "fast out of the material straight up only"
                )
            elif p[:, 2].min() < -1e-6:
                assert not rapid, "no fast move into the material"
                got.append(
                    LineString(p[:, :2])
                    if np.ptp(p[:, :2], axis=0).max() > 1e-9
                    else Point(p[0, :2]).buffer(1e-6).exterior
                )
    return MultiLineString(got)


def exact(c):
    return Polygon(c.points(0.0005)).buffer(0)


BOARD = Contour.of([(-300, -300), (300, -300), (300, 300), (-300, 300)])


def pocketed(*contours, depth=6.0, kind="pocket", board=BOARD):
    return Shape(
        Region(board, ()),
        ("outline",),
        tuple(Feature(kind, f"{kind} {k + 1}", c.oriented(True), depth) for k, c in enumerate(contours)),
    )


@st.composite
def pocket_cases(draw):
    outer = draw(shapes(size=draw(st.floats(25, 120))))
    island = None
    if draw(st.booleans()):
        small = draw(shapes(size=12.0))
        x, y = draw(st.floats(-15, 15)), draw(st.floats(-15, 15))
        island = small.moved(x, y)
    return outer, island


@settings(max_examples=CASES)
@given(
    pocket_cases(),
    st.floats(2, 16),
    st.floats(0.08, 0.99),
    st.sampled_from(["offset", "raster"]),
    st.floats(-90, 90),
    st.sampled_from([0.0, 0.3, 1.0]),
    st.booleans(),
    st.sampled_from(["ramp", "zigzag", "helix", "plunge"]),
    st.booleans(),
)
@example(
    (
        Contour.of([(45.27013, 0), (-38.91658581, 67.40550387), (-27.48777236, -47.61021832)]),
        Contour.of(
            [
                (10.04218285, -9.1646778),
                (14.1577586, -0.84910205),
                (5.84218285, -4.92977457),
                (-2.64301367, -0.67948127),
                (-3.52530036, -9.1646778),
                (0.10085676, -14.90600389),
                (5.84218285, -13.9646778),
                (12.41954912, -15.74204407),
            ]
        ),
    ),
    8.004935374052575,
    0.82,
    "offset",
    0.0,
    1.0,
    False,
    "ramp",
    True,
)  # a ring smaller than its own chords
def test_a_pocket_clears_its_opening_and_nothing_else(
    case, diameter, over, pattern, angle, left, climb, entry, mirrored
):
    outer, island = case
    region = exact(outer)
    if island is not None:
        assume(region.buffer(-0.5).contains(exact(island)))
        region = region.difference(exact(island))
    step = Pocket(
        id="p",
        on="pockets",
        cutter="c1",
        pattern=pattern,
        angle=angle,
        step_over=over,
        side_allowance=left,
        floor_allowance=0.5,
        entry=entry,
        direction="climb" if climb else "conventional",
    )
    contours = [outer] + ([island] if island is not None else [])
    setup = setup_of((cutter(1, diameter),), step, Profile(id="o", on="outlines", cutter="c1"))
    got = plan(pocketed(*contours), setup, mirrored=mirrored)
    cuts = [c for c in got.cuts if c.kind == "pocket"]
    r = diameter / 2
    may = region.buffer(-(r + left), quad_segs=96)
    want = may.buffer(r, quad_segs=96)
    if mirrored:
        region, may, want = (affinity.scale(g, -1, 1, origin=(0, 0)) for g in (region, may, want))
    if not cuts:
        assert may.area < 0.5 and any(s.rule == "cuts.too-small" for s in got.snags)
        return
    assert touching(cuts).difference(region.buffer(-(r + left - TOL), quad_segs=96)).length < 1e-6, (
        "the cutter stays off walls and islands by its radius and the allowance"
    )
    floor = lines_below(cuts, -5.5)
    swept = floor.buffer(r, quad_segs=48)
    rest = want.difference(swept.buffer(TOL))
    assert rest.buffer(-0.01).is_empty, f"{rest.area:.3f} mm2 stand"
    assert min(c.moves[:, 3].min() for c in cuts) == pytest.approx(-5.5), "the floor's allowance stays"


@pytest.mark.long
def test_necks_corners_and_large_step_overs_leave_no_island():
    """Corners and narrow necks at step-overs up to just below the diameter (the cases a ring or row pattern
    alone fails).
    """
    dumbbell = Contour.of(
        [
            (0, 0),
            (60, 0),
            (60, 26),
            (100, 26),
            (100, 0),
            (160, 0),
            (160, 60),
            (100, 60),
            (100, 34.2),
            (60, 34.2),
            (60, 60),
            (0, 60),
        ]
    )
    spike = Contour.of([(0, 0), (120, 4), (120, 30), (0, 34)])
    for c in (dumbbell, spike, Contour.of([(0, 0), (100, 0), (100, 100), (0, 100)])):
        for over in (0.45, 0.71, 0.92, 0.99):
            for pattern, angle in (("offset", 0), ("raster", 0), ("raster", 33)):
                setup = setup_of(
                    (cutter(1, 8.0),),
                    Pocket(id="p", cutter="c1", pattern=pattern, angle=angle, step_over=over),
                    Profile(id="o", on="outlines", cutter="c1"),
                )
                cuts = [k for k in plan(pocketed(c.moved(-50, -30)), setup).cuts if k.kind == "pocket"]
                want = exact(c.moved(-50, -30)).buffer(-4, quad_segs=96).buffer(4, quad_segs=96)
                assert (
                    want.difference(lines_below(cuts, -6).buffer(4 + TOL, quad_segs=48))
                    .buffer(-0.01)
                    .is_empty
                ), (over, pattern, angle)


@settings(max_examples=CASES // 2)
@given(shapes(size=80.0), st.floats(8, 16), st.floats(2, 5), st.floats(0.2, 0.9))
def test_rest_machining_takes_exactly_what_the_larger_cutter_left(outer, large, small, over):
    steps = Pocket(id="a", cutter="c1", step_over=0.6), Pocket(id="b", cutter="c2", rest=True, step_over=over)
    setup = setup_of(
        (cutter(1, large), cutter(2, small)), *steps, Profile(id="o", on="outlines", cutter="c1")
    )
    got = plan(pocketed(outer), setup)
    first, second = ([c for c in got.cuts if c.operation == k] for k in ("a", "b"))
    assume(first)
    region = exact(outer)
    opening = region.buffer(-small / 2, quad_segs=96).buffer(small / 2, quad_segs=96)
    swept = unary_union(
        [
            lines_below(first, -6).buffer(large / 2, quad_segs=48),
            lines_below(second, -6).buffer(small / 2, quad_segs=48) if second else Point(1e4, 0),
        ]
    )
    assert opening.difference(swept.buffer(TOL)).buffer(-0.015).is_empty
    if second:
        assert touching(second).difference(region.buffer(-(small / 2 - TOL), quad_segs=96)).length < 1e-6
        # climb along a wall keeps the wall on the right of travel (right-hand spindle, common practice)
        wall = region.boundary
        for c in second:
            for rapid, p in own_points(c.moves):
                mid = (p[0, :2] + p[-1, :2]) / 2
                if (
                    rapid
                    or abs(p[-1, 2] + 6) > 1e-6
                    or abs(p[0, 2] + 6) > 1e-6
                    or abs(Point(mid).distance(wall) - small / 2) > 0.01
                    or math.dist(p[0, :2], p[-1, :2]) < 0.5
                ):
                    continue
                near = wall.interpolate(wall.project(Point(mid)))
                d = p[-1, :2] - p[0, :2]
                assert d[0] * (near.y - mid[1]) - d[1] * (near.x - mid[0]) < 0, (
                    "the rest is cut in the stated direction too"
                )
        assert (
            sum(c.trace[i].length for c in second for i in range(len(c.trace))) < 8 * region.area / small
        ), "not the whole pocket again"


@settings(max_examples=CASES // 2)
@given(
    st.floats(20, 80),
    st.floats(20, 80),
    st.floats(3, 12),
    st.sampled_from(["offset", "raster"]),
    st.floats(0.2, 0.9),
    st.floats(6, 20),
)
def test_open_sides_are_cut_clean_and_neighbours_stay_clear(w, h, diameter, pattern, over, spacing):
    assume(spacing > diameter + 0.5 and min(w, h) > diameter)
    board = Contour.of([(0, 0), (200, 0), (200, 150), (0, 150)])
    notch = Contour.of(
        [(200 - w, 150 - h), (200, 150 - h), (200, 150), (200 - w, 150)]
    )  # a corner: two open sides
    setup = setup_of(
        (cutter(1, diameter),),
        Pocket(id="p", cutter="c1", pattern=pattern, step_over=over),
        Profile(id="o", on="outlines", cutter="c1"),
    )
    got = plan(pocketed(notch, board=board), setup, spacing=spacing)
    cuts = [c for c in got.cuts if c.kind == "pocket"]
    r, target, part = diameter / 2, exact(notch), exact(board)
    swept = lines_below(cuts, -6).buffer(r, quad_segs=48)
    inner = target.difference(Point(200 - w, 150 - h).buffer(r))  # only the one inside corner stays round
    assert inner.difference(swept.buffer(TOL)).buffer(-0.02).is_empty
    assert touching(cuts).buffer(r - TOL, quad_segs=48).intersection(part.difference(target)).area < 1e-6
    assert all(
        Point(p).distance(part) + r <= spacing + TOL
        for c in cuts
        for _r, q in own_points(c.moves)
        if q[:, 2].min() < -1e-6
        for p in q[:, :2]
    )


@settings(max_examples=CASES)
@given(
    shapes(size=60.0),
    st.floats(2, 12),
    st.sampled_from([0.0, 0.25, 1.3]),
    st.sampled_from(["none", "arc", "straight"]),
    st.floats(1, 8),
    st.sampled_from(["ramp", "zigzag", "helix", "plunge"]),
    st.booleans(),
    st.booleans(),
    st.sampled_from(["steady", "slow", "round"]),
    st.floats(1, 20),
)
def test_profiles_leave_their_allowance_and_their_leads_touch_nobody(
    c, diameter, left, lead, length, entry, climb, inside, corners, web
):
    r, spacing = diameter / 2, diameter + web + left
    op = Profile(
        id="x",
        on="holes" if inside else "outlines",
        cutter="c1",
        side_allowance=left,
        lead=lead,
        lead_length=length,
        entry=entry,
        direction="climb" if climb else "conventional",
        corners=corners,
    )
    other = Profile(id="y", on="outlines" if inside else "holes", cutter="c1")
    shape = (
        Shape(Region(BOARD, (c.oriented(False),)), ("outline", "hole 1"))
        if inside
        else Shape(Region(c.oriented(True), ()), ("outline",))
    )
    got = plan(shape, setup_of((cutter(1, diameter),), op, other), spacing=spacing)
    cuts = [k for k in got.cuts if k.operation == "x"]
    solid = exact(BOARD).difference(exact(c)) if inside else exact(c)
    if not cuts:
        assert inside and exact(c).buffer(-(r + left)).area < 0.5
        return
    path = touching(cuts)
    assert path.distance(solid) >= r + left - TOL
    assert path.buffer(r, quad_segs=48).difference(solid.buffer(spacing + TOL, quad_segs=96)).area < 1e-3, (
        "a neighbour at the spacing is not touched"
    )
    # what stands beside the contour is the allowance, wherever a round cutter can follow
    bottom = lines_below(cuts, -18.7)
    reach = (
        exact(c).buffer(-(r + left), quad_segs=96) if inside else exact(c).buffer(r + left, quad_segs=96)
    ).boundary
    near = 0.03 + (
        r / 2 * (1 / math.sin(0.12) - 1) if corners == "round" else 0
    )  # rounded corners leave the tips of sharp ones
    missing = [s for s in np.linspace(0, reach.length, 60) if bottom.distance(reach.interpolate(s)) > near]
    assert not missing, "the whole contour is cut to depth"
    if lead != "none" and not any(s.rule == "cuts.lead" for s in got.snags):
        down = next(p for rapid, p in own_points(cuts[-1].moves) if not rapid and p[1, 2] < 0)
        assert Point(down[0, :2]).distance(solid) > r + left + 0.1 * min(length, 0.5) - TOL, (
            "it goes down off the finished wall"
        )


@settings(max_examples=CASES)
@given(st.floats(4.2, 40), st.floats(2, 12), st.floats(2, 30), st.floats(0.5, 6), st.booleans())
def test_bores_cut_their_own_size_from_top_to_floor(hole, diameter, depth, pitch, climb):
    assume(diameter * 1.05 < hole < 3 * diameter)
    shape = Shape(
        Region(BOARD, ()),
        ("outline",),
        (Feature("drilling", "drilling 1", Contour.circle(10, 20, hole / 2), depth),),
    )
    setup = setup_of(
        (cutter(1, diameter),),
        Bore(
            id="b", on="drillings", cutter="c1", pitch=pitch, direction="climb" if climb else "conventional"
        ),
        Profile(id="o", on="outlines", cutter="c1"),
    )
    got = plan(shape, setup, thickness=40.0)
    (cut,) = [c for c in got.cuts if c.kind == "bore"]
    pts = [p for rapid, p in own_points(cut.moves) if not rapid]
    away = np.concatenate([np.hypot(p[:, 0] - 10, p[:, 1] - 20) for p in pts])
    assert away.max() + diameter / 2 == pytest.approx(hole / 2, abs=1e-6)
    assert min(p[:, 2].min() for p in pts) == pytest.approx(-depth)
    drops = [p[0, 2] - p[-1, 2] for p in pts if len(p) > 2]
    assert max(drops) <= pitch / 2 + 1e-9, "no half turn goes down by more than half the pitch"
    last = [p for p in pts if len(p) > 2][-2:]
    assert all(np.allclose(p[:, 2], -depth) for p in last), "a full turn at the floor"


@settings(max_examples=CASES // 2)
@given(st.floats(1, 12), st.floats(2, 50), st.floats(0.5, 15))
def test_drills_peck_to_depth_and_leave_the_hole_between(diameter, depth, peck):
    drill = cutter(2, diameter, "drill", angle=118)
    shape = Shape(
        Region(BOARD, ()),
        ("outline",),
        (Feature("drilling", "drilling 1", Contour.circle(5, 5, diameter / 2), depth),),
    )
    got = plan(
        shape,
        setup_of(
            (cutter(1, 6), drill),
            Drill(id="d", cutter="c2", peck=peck),
            Profile(id="o", on="outlines", cutter="c1"),
        ),
        thickness=60.0,
    )
    (cut,) = [c for c in got.cuts if c.kind == "drill"]
    z = cut.moves[:, 3]
    assert z.min() == pytest.approx(-depth) and np.ptp(cut.moves[:, 1]) == 0 == np.ptp(cut.moves[:, 2])
    bottoms = [b for a, b, c in zip(z, z[1:], [*z[2:], 99], strict=False) if b < a and b < c and b < 0]
    assert len(bottoms) == math.ceil(depth / peck - 1e-9) and all(
        a - b <= peck + 1e-9 for a, b in zip([0, *bottoms], bottoms, strict=False)
    )


@settings(max_examples=CASES // 2)
@given(
    shapes(size=60.0),
    st.floats(30, 120),
    st.floats(0.3, 2.0),
    st.floats(0.0, 1.0),
    st.floats(0, 0.5),
    st.booleans(),
)
def test_a_chamfer_is_as_wide_as_stated_and_no_wider(c, angle, width, off, tip, inside):
    vee = Cutter(
        id="v",
        number=9,
        name="v",
        kind="v-bit",
        diameter=12,
        cutting_length=12,
        angle=angle,
        tip=tip,
        feeds=FEEDS,
    )
    assume(off >= tip / 2)
    op = Chamfer(id="x", on="holes" if inside else "outlines", cutter="v", width=width, offset=off)
    shape = (
        Shape(Region(BOARD, (c.oriented(False),)), ("outline", "hole 1"))
        if inside
        else Shape(Region(c.oriented(True), ()), ("outline",))
    )
    got = plan(
        shape,
        setup_of(
            (cutter(1, 3.0), vee),
            op,
            Profile(id="o", on="outlines", cutter="c1"),
            Profile(id="h", on="holes", cutter="c1"),
        ),
        thickness=30.0,
        spacing=30.0,
    )
    cuts = [k for k in got.cuts if k.kind == "chamfer"]
    assume(cuts)
    solid = exact(BOARD).difference(exact(c)) if inside else exact(c)
    depth = -cuts[0].levels[-1]
    slope = math.tan(math.radians(angle) / 2)
    for h in (0.0, depth / 3, depth):  # at a height h below the face the cone is this wide
        cone = tip / 2 + (depth - h) * slope
        reach = cone - touching(cuts).distance(solid)
        assert reach <= max(0.0, width - h * slope) + TOL, "never wider than stated, at any height"
    full = lines_below(cuts, -depth)
    cone = tip / 2 + depth * slope
    swept = full.buffer(cone, quad_segs=96).intersection(solid)
    ring = solid.boundary if not inside else exact(c).boundary
    follow = (exact(c).buffer(-off, quad_segs=96) if inside else exact(c).buffer(off, quad_segs=96)).boundary
    for s in np.linspace(0, follow.length, 40):
        p = follow.interpolate(s)
        assert full.distance(p) < 0.03, "the whole contour is chamfered"
    assert swept.buffer(-1e-3).difference(ring.buffer(width + TOL, quad_segs=96)).area < 1e-3


@settings(max_examples=CASES // 2)
@given(
    st.lists(st.tuples(st.floats(-80, 80), st.floats(-80, 80)), min_size=2, max_size=6, unique=True),
    st.floats(1, 8),
    st.floats(0.5, 15),
    st.sampled_from(["ramp", "plunge"]),
)
def test_grooves_follow_their_line_at_every_depth(points, diameter, depth, entry):
    assume(all(math.dist(a, b) > 1 for a, b in itertools.pairwise(points)))
    line = Contour.of(points, closed=False)
    shape = Shape(Region(BOARD, ()), ("outline",), (Feature("groove", "groove 1", line, depth),))
    got = plan(
        shape,
        setup_of(
            (cutter(1, diameter),),
            Groove(id="g", cutter="c1", entry=entry),
            Profile(id="o", on="outlines", cutter="c1"),
        ),
    )
    (cut,) = [c for c in got.cuts if c.kind == "groove"]
    drawn = LineString(points)
    below = touching([cut])
    assert below.hausdorff_distance(drawn) < TOL
    assert lines_below([cut], -depth).length >= drawn.length - 1e-6
    steps = [a - b for a, b in zip((0.0, *cut.levels), cut.levels, strict=False)]
    assert max(steps) <= 2 * diameter * 1.05 + 1e-9, "wood: two diameters a pass and the accepted excess"


@settings(max_examples=CASES // 2)
@given(
    shapes(size=90.0),
    st.floats(6, 30),
    st.sampled_from(["offset", "raster"]),
    st.floats(0.3, 0.9),
    st.floats(8, 40),
)
def test_a_face_is_taken_down_whole_and_no_neighbour_with_it(c, diameter, pattern, over, spacing):
    assume(spacing > 0.6 * diameter)
    shape = Shape(Region(c.oriented(True), ()), ("outline",))
    got = plan(
        shape,
        setup_of(
            (cutter(1, 6.0), cutter(2, diameter)),
            Face(id="f", cutter="c2", depth=1.5, pattern=pattern, step_over=over),
            Profile(id="o", on="outlines", cutter="c1"),
        ),
        spacing=spacing,
    )
    cuts = [k for k in got.cuts if k.kind == "face"]
    part, r = exact(c), diameter / 2
    swept = lines_below(cuts, -1.5).buffer(r, quad_segs=48)
    grown = part.buffer(min(spacing - 0.05, diameter), quad_segs=96)
    can = grown.buffer(-r, quad_segs=96).buffer(r, quad_segs=96)
    assert part.intersection(can.buffer(-0.01)).difference(swept.buffer(TOL)).buffer(-0.02).is_empty
    assert (
        touching(cuts).buffer(r, quad_segs=48).difference(part.buffer(spacing + TOL, quad_segs=96)).area
        < 1e-3
    )


def test_stairs_under_a_bowl_cutter_follow_its_hollow():
    bowl = Cutter(
        id="b",
        number=7,
        name="bowl",
        kind="bowl",
        diameter=20,
        corner_radius=6,
        cutting_length=25,
        feeds=FEEDS,
    )
    ring = Contour.of([(-60, -40), (60, -40), (60, 40), (-60, 40)])
    setup = setup_of(
        (cutter(1, 8), bowl),
        Pocket(id="a", cutter="c1", bowl="b", step_down=2.0, side_allowance=0.3),
        Profile(id="o", on="outlines", cutter="c1"),
    )
    cuts = [c for c in plan(pocketed(ring, depth=12.0), setup, thickness=25.0).cuts if c.kind == "pocket"]
    wall = exact(ring).boundary
    for z in cuts[0].levels:
        height = 12.0 + z
        inset = (
            6 - math.sqrt(36 - (6 - height) ** 2) if height < 6 else 0.0
        )  # the hollow of the corner, exact
        level = lines_below([cuts[0]], z)
        flat = MultiLineString(
            [
                g
                for rapid, p in own_points(cuts[0].moves)
                if not rapid and np.allclose(p[:, 2], z) and np.ptp(p[:, :2], axis=0).max() > 1e-6
                for g in [LineString(p[:, :2])]
            ]
        )
        assert flat.distance(wall) == pytest.approx(4 + 0.3 + inset, abs=TOL), z
        assert level.length > 0


def test_steps_of_one_part_alone_and_depths_shared_with_steps_before():
    """A skim and a skin are exempt from the depth rule, which counts engaged material (common practice)."""
    square = Shape(Region(Contour.of([(0, 0), (100, 0), (100, 80), (0, 80)]), ()), ("outline",))
    tools = (cutter(1, 6.0), cutter(2, 6.0))
    rules = HouseRules(tabs={"wood": Tabs(count=0)}, step_down="half diameter")
    rough = Profile(id="r", on="outlines", cutter="c1", side_allowance=1.0)
    skim = Profile(id="f", on="outlines", cutter="c2", lead="arc", lead_length=2.0)
    got = plan(square, setup_of(tools, rough, skim, rules=rules))
    a, b = got.contours[-1].steps
    assert (
        a.passes == 6 and b.passes == 1 and b.width == pytest.approx(1.0, abs=0.1)
    )  # measured; 18.75 mm at 3 mm a pass and 5 % excess: 6 passes
    skin = plan(
        square,
        setup_of(
            tools,
            Profile(id="s", on="outlines", cutter="c1", floor_allowance=0.6),
            Profile(id="t", on="outlines", cutter="c1"),
            rules=rules,
        ),
    )
    a, b = skin.contours[-1].steps
    assert (
        a.depth == pytest.approx(17.4)
        and b.passes == 1
        and b.begins == pytest.approx(17.4)
        and b.depth == pytest.approx(18.75)
    )
    own = StepsChoice(
        part="p", on="outlines", steps=(Profile(id="only", on="outlines", cutter="c2", one_pass=True),)
    )
    alone = plan(square, setup_of(tools, rough, skim, rules=rules), steps=[own])
    assert [s.passes for s in alone.contours[-1].steps] == [1] and alone.contours[-1].own_steps


@settings(max_examples=CASES)
@given(
    st.lists(st.tuples(st.floats(20, 260), st.floats(6.5, 11), st.floats(10, 30)), min_size=1, max_size=3),
    st.sampled_from([3.0, 4.0, 6.0]),
    st.sampled_from(["ramp", "plunge"]),
    st.booleans(),
)
def test_a_rest_step_cuts_the_notches_alone_and_all_that_the_larger_cutter_left(notches, small, entry, climb):
    """A panel with notches in its upper edge that a 12 mm cutter cannot enter: after the rest step no more
    stands than if the smaller cutter had run the whole outline, the part is not touched, and the way is a
    fraction of that outline's.
    """
    edge, taken = [], []
    for x, wide, deep in sorted(notches):
        if all(abs(x - t) > 60 for t in taken):
            taken.append(x)
            edge += [(x, 100.0), (x, 100.0 - deep), (x + wide, 100.0 - deep), (x + wide, 100.0)]
    outline = Contour.of([(0, 0), (320, 0), (320, 100), *reversed(edge), (0, 100)])
    shape = Shape(Region(outline, ()), ("outline",), ())

    def steps(rest):
        way = "climb" if climb else "conventional"
        return plan(
            shape,
            setup_of(
                (cutter(1, 12.0), cutter(2, small)),
                Profile(id="o", on="outlines", cutter="c1", direction=way),
                Profile(id="r", on="outlines", cutter="c2", rest=rest, direction=way, entry=entry),
            ),
        )

    got, whole = steps(True), steps(False)
    part = exact(outline)
    swept = [
        lines_below([c]).buffer(d / 2, quad_segs=64) for c, d in zip(got.cuts, (12.0, small), strict=True)
    ]
    everywhere = touching(got.cuts).buffer(small / 2 - TOL)
    assert everywhere.intersection(part).area < 1e-6, "the part is not cut into"
    assert unary_union(swept).buffer(-TOL).intersection(part).area < 1e-6
    # what the smaller cutter takes of the waste near the part
    near = part.buffer(8.0).difference(part)
    taken_whole = lines_below(whole.cuts).buffer(small / 2, quad_segs=64).intersection(near)
    assert taken_whole.difference(unary_union(swept).buffer(0.05)).area < 0.3 * len(taken)
    first, rest = got.cuts[0].cut_length, got.cuts[-1].cut_length
    assert rest < 0.8 * whole.cuts[-1].cut_length and len(got.cuts) == 2 and first > 0
    assert any("only what the steps before left" in why for _what, why in got.of("outline").steps[-1].why)


def test_a_rest_step_with_nothing_left_cuts_nothing_and_says_so():
    panel = Contour.of([(0, 0), (200, 0), (200, 100), (0, 100)])
    got = plan(
        Shape(Region(panel, ()), ("outline",), ()),
        setup_of(
            (cutter(1, 12.0), cutter(2, 4.0)),
            Profile(id="o", on="outlines", cutter="c1"),
            Profile(id="r", on="outlines", cutter="c2", rest=True),
        ),
    )
    assert len(got.cuts) == 1 and any("left nothing" in s.message for s in got.snags)
