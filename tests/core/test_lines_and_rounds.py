"""Moves along lines and in round holes, held against what the tip may and must touch: the line at its depth
and nothing beside it, no fast move below the face, no plunge where a ramp was asked for.
"""

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box
from shapely.ops import unary_union

from venzo.core.cuts.follow import beside, follow_moves
from venzo.core.cuts.moves import CCW, CW, FEED, KIND, LINE, RAPID, X, Y, Z, dwells, lengths, polyline
from venzo.core.cuts.rounds import bore_moves, circle_of, drill_moves, peck_depths, slender, slot_line
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.tolerances import FIT

RETRACT, FEED_AT, PLUNGE_AT = 5.0, 3000.0, 900.0
NEAR = 0.02

steps = st.tuples(st.floats(3, 60), st.floats(-1.2, 1.2), st.sampled_from([0.0, 0.0, 0.3, -0.5]))
level_lists = st.lists(st.floats(0.5, 6), min_size=1, max_size=4)


def track():
    return Track(RETRACT, FEED_AT, PLUNGE_AT)


def walked(rows):
    """An open line of straight runs and arcs that never doubles back on itself."""
    x = y = heading = 0.0
    out = []
    for length, turn, bulge in rows:
        out.append((x, y, bulge))
        heading = max(-1.0, min(1.0, heading + turn))
        x, y = x + length * math.cos(heading), y + length * math.sin(heading)
    return Contour.of([*out, (x, y, 0.0)], closed=False)


def deepening(drops):
    """Depths of passes, negative, each below the one before."""
    return tuple(float(z) for z in -np.cumsum(drops))


def cutting(moves, level=None):
    """Stretches that are cut, as chords in space; of one level only."""
    out = []
    for a, b in itertools.pairwise(moves):
        if b[KIND] == RAPID:
            continue
        p = polyline(np.array([a, b]), 0.002)
        if level is None or (abs(a[Z] - level) < 1e-9 and abs(b[Z] - level) < 1e-9):
            out.append(p)
    return out


def plan_of(chords):
    """What chords draw on the face."""
    lines = [LineString(p[:, :2]) for p in chords if np.ptp(p[:, :2], axis=0).max() > 1e-9]
    return unary_union(lines)


@given(
    st.lists(steps, min_size=1, max_size=6),
    level_lists,
    st.sampled_from(["ramp", "plunge"]),
    st.floats(2, 80),
)
def test_an_open_line_is_run_at_every_depth_and_nothing_beside_it(rows, drops, entry, ramp):
    line, levels = walked(rows), deepening(drops)
    moves = follow_moves([line], levels, entry, ramp, track())
    drawn = LineString(line.points(0.002))
    assert moves[:, Z].min() == pytest.approx(levels[-1])
    assert (moves[moves[:, KIND] == RAPID][:, Z] >= RETRACT - 1e-9).all()
    for level in levels:
        done = plan_of(cutting(moves, level))
        assert drawn.difference(done.buffer(NEAR)).length < NEAR, "all of it at that depth"
    assert plan_of(cutting(moves)).difference(drawn.buffer(NEAR)).length < NEAR, "and nothing else"


@given(st.floats(20, 200), st.floats(20, 200), level_lists, st.floats(2, 300))
def test_a_closed_line_is_run_round_at_every_depth_after_its_ramp(w, h, drops, ramp):
    line, levels = Contour.of([(0, 0, 0.2), (w, 0, 0), (w, h, -0.1), (0, h, 0)]), deepening(drops)
    moves = follow_moves([line], levels, "ramp", ramp, track())
    drawn = LineString(np.vstack([line.points(0.002), line.points(0.002)[:1]]))
    for level in levels:
        assert drawn.difference(plan_of(cutting(moves, level)).buffer(NEAR)).length < NEAR
    assert plan_of(cutting(moves)).difference(drawn.buffer(NEAR)).length < NEAR


@given(st.lists(steps, min_size=1, max_size=5), level_lists, st.floats(6, 80))
def test_with_a_ramp_the_tip_never_goes_straight_down_into_the_work(rows, drops, ramp):
    line = walked(rows)
    assume(line.length > 6)
    moves = follow_moves([line], deepening(drops), "ramp", ramp, track())
    for a, b in itertools.pairwise(moves):
        if b[KIND] == RAPID or b[Z] >= a[Z] - 1e-9:
            continue
        flat = float(lengths(np.array([a, b]))[1])
        flat = math.sqrt(max(0.0, flat**2 - (b[Z] - a[Z]) ** 2))
        assert flat > 1e-6 or b[Z] >= -1e-9, "straight down only to the face"
        # a descent no faster than the plunge feed, however flat the ramp
        assert b[FEED] * (a[Z] - b[Z]) / math.hypot(flat, a[Z] - b[Z]) <= PLUNGE_AT * 1.001


@given(st.lists(steps, min_size=1, max_size=5), level_lists)
def test_where_plunging_is_asked_for_every_descent_is_straight_and_at_plunge_feed(rows, drops):
    moves = follow_moves([walked(rows)], deepening(drops), "plunge", 10.0, track())
    for a, b in itertools.pairwise(moves):
        if b[KIND] != RAPID and b[Z] < a[Z] - 1e-9:
            assert math.dist(a[[X, Y]], b[[X, Y]]) < 1e-9 and b[FEED] == PLUNGE_AT


def test_several_lines_are_left_at_the_retract_height():
    lines = [walked([(20, 0, 0)]).moved(0, 30.0 * k) for k in range(3)]
    moves = follow_moves(lines, (-2.0, -4.0), "ramp", 10.0, track())
    rapid = moves[moves[:, KIND] == RAPID]
    assert (rapid[:, Z] == RETRACT).all() and len(rapid) == 1 + 2 * 2


@given(st.floats(1.05, 4.0), st.floats(0.2, 0.9), st.floats(40, 200), st.floats(-0.4, 0.4))
def test_a_groove_wider_than_its_cutter_is_cleared_to_its_width_and_no_wider(ratio, over, length, bulge):
    diameter = 4.0
    width = diameter * ratio
    line = Contour.of([(0, 0, bulge), (length, 0, 0)], closed=False)
    assume(line.length > 8 * width)
    found = beside(line, width, diameter, over * diameter)
    swept = unary_union([LineString(c.points(0.002)).buffer(diameter / 2, quad_segs=64) for c in found])
    middle = LineString(line.points(0.002))
    wanted = middle.buffer(width / 2, cap_style="flat", quad_segs=64)
    assert wanted.difference(swept.buffer(NEAR)).area < 0.01 * wanted.area
    assert swept.difference(middle.buffer(width / 2 + NEAR, quad_segs=64)).area < 0.05
    gaps = [
        LineString(a.points(0.01)).hausdorff_distance(LineString(b.points(0.01)))
        for a, b in itertools.pairwise(found)
    ]
    assert all(g <= over * diameter + 0.05 for g in gaps)
    ends = [(c.at(0.0)[:2], c.at(c.length)[:2]) for c in found]
    for (_s, end), (start, _e) in itertools.pairwise(ends):
        assert math.dist(end, start) < over * diameter + 0.1, "to and fro, so that the tip stays in the work"


@given(st.floats(-1e-4, 1e-4), st.floats(1.05, 4.0), st.floats(60, 200))
def test_a_groove_along_a_line_that_bends_by_a_hair_is_cleared_as_a_straight_one(bulge, ratio, length):
    """Refused as too sharply bent before: the offset of a bend of less than a micron came in two pieces."""
    line = Contour.of([(0, 0, bulge), (length, 0, 0)], closed=False)
    straight = Contour.of([(0, 0, 0), (length, 0, 0)], closed=False)
    assert len(beside(line, 4 * ratio, 4.0, 2.0)) == len(beside(straight, 4 * ratio, 4.0, 2.0))


def test_a_groove_as_wide_as_its_cutter_is_one_line_and_a_bend_too_sharp_is_told():
    line = walked([(50, 0, 0)])
    assert beside(line, 6.0, 6.0, 3.0) == [line]
    hairpin = Contour.of([(0, 0, 0), (10, 0, 0), (0, 1, 0)], closed=False)
    with pytest.raises(ValueError, match="bends too sharply"):
        beside(hairpin, 60.0, 4.0, 2.0)


@given(st.floats(0.3, 60), st.floats(0.2, 20))
def test_pecks_are_equal_none_deeper_than_asked_and_they_end_at_the_depth(depth, peck):
    found = peck_depths(depth, peck)
    drops = -np.diff([0.0, *found])
    assert found[-1] == pytest.approx(-depth) and (drops <= peck * (1 + 1e-6)).all()
    assert np.ptp(drops) < 1e-9 * depth and len(found) <= math.ceil(depth / peck + 1e-6)


@given(st.floats(1, 40), st.floats(0.5, 12), st.floats(0, 2))
def test_a_drill_clears_its_chips_between_pecks_and_rests_where_it_is_told(depth, peck, rest):
    moves = drill_moves(30, 40, depth, peck, track(), rest)
    n = len(peck_depths(depth, peck))
    assert (moves[:, [X, Y]] == (30, 40)).all() and moves[:, Z].min() == pytest.approx(-depth)
    assert dwells(moves).sum() == pytest.approx(n * rest)
    tops = sum(1 for r in moves[1:] if r[Z] == RETRACT)
    assert tops == n - 1, "out of the hole between two pecks"
    deepest = 0.0
    for a, b in itertools.pairwise(moves):
        if b[Z] < min(a[Z], deepest) - 1e-9:
            assert b[FEED] == PLUNGE_AT, "new material only at plunge feed"
            assert (a[Z] >= deepest - 1e-9 and a[Z] <= deepest + 0.51) or deepest == 0.0
        deepest = min(deepest, b[Z])


@given(st.floats(1.5, 30), st.floats(0.3, 0.98), st.floats(0.5, 30), st.floats(0.2, 5), st.booleans())
def test_a_helix_opens_its_hole_to_size_at_the_floor_and_turns_the_right_way(
    radius, share, depth, pitch, climb
):
    cutter = radius * share
    moves = bore_moves(10, 20, radius, cutter, (-depth,), pitch, climb, track())
    turn = radius - cutter
    arcs = moves[moves[:, KIND] >= CW]
    assert (arcs[:, KIND] == (CCW if climb else CW)).all(), "climb: counter-clockwise within a hole"
    assert np.hypot(arcs[:, X] - 10, arcs[:, Y] - 20) == pytest.approx(turn)
    halves = -np.diff([0.0, *arcs[:, Z]])
    assert (2 * halves <= pitch * (1 + 1e-6) + 1e-9).all() and moves[:, Z].min() == pytest.approx(-depth)
    floor = plan_of(cutting(moves, moves[:, Z].min()))
    swept = floor.buffer(cutter, quad_segs=64)
    hole = Point(10, 20).buffer(radius, quad_segs=256)
    assert swept.difference(hole.buffer(NEAR)).area < 1e-3
    ring = hole.difference(Point(10, 20).buffer(max(radius - 2 * cutter, 0.0) + 1e-6, quad_segs=256))
    assert ring.difference(swept.buffer(NEAR)).area < 0.002 * hole.area, "but for a core, if there is one"
    # it is left away from the wall
    x, y = moves[-1, [X, Y]]
    assert math.dist((x, y), (10, 20)) <= turn - min(turn, 0.5) + 1e-9


@given(st.floats(15, 120), st.floats(2, 12), st.floats(0, 360), st.booleans(), st.floats(-1, 1))
def test_a_slot_as_wide_as_its_cutter_is_run_along_its_middle(length, width, turn, rounded, off):
    assume(length > 1.6 * width)
    if rounded:
        r = width / 2
        shape = Contour.of([(r, 0, 0), (length - r, 0, 1.0), (length - r, width, 0), (r, width, 1.0)])
    else:
        shape = Contour.of([(0, 0), (length, 0), (length, width), (0, width)])
    shape = shape.placed(7.0, -3.0, turn)
    line = slot_line(shape, width + off * FIT * 0.9)
    assert line is not None and not line.closed
    swept = LineString(line.points(0.01)).buffer(width / 2, quad_segs=64)
    drawn = LineString(np.vstack([shape.points(0.002), shape.points(0.002)[:1]]))
    outside = swept.difference(unary_union([drawn.buffer(FIT + NEAR), _filled(shape)]))
    assert outside.area < 1e-6, "nothing beyond the slot"
    missed = _filled(shape).difference(swept.buffer(FIT + NEAR)).area
    assert missed <= (0.0 if rounded else (1 - math.pi / 4) * width * width) + 0.3, "but for square corners"
    assert slot_line(shape, width + 3 * FIT) is None and slot_line(shape, width - 3 * FIT) is None


def _filled(contour):
    from shapely.geometry import Polygon

    return Polygon(contour.points(0.002)).buffer(0)


@given(st.integers(2, 8), st.floats(0.5, 200), st.floats(-500, 500), st.floats(0, 360))
def test_a_circle_is_known_however_many_arcs_it_came_in(n, r, at, turn):
    bulge = math.tan(math.pi / n / 2)
    corners = [
        (r * math.cos(2 * math.pi * k / n), r * math.sin(2 * math.pi * k / n), bulge) for k in range(n)
    ]
    c = Contour.of(corners).placed(at, -at, turn)
    assert circle_of(c) == pytest.approx((at, -at, r), abs=1e-6)
    bent = Contour.of([(x, y * 1.02 + 0.05, b) for x, y, b in corners]).placed(at, -at, turn)
    assert n < 3 or r < 5 or circle_of(bent) is None, "squeezed by a fiftieth it is none"


def test_what_is_no_circle():
    square = Contour.of([(0, 0), (10, 0), (10, 10), (0, 10)])
    obround = Contour.of([(0, 0, 0), (20, 0, 1.0), (20, 10, 0), (0, 10, 1.0)])
    lens = Contour.of([(0, 0, 0.5), (10, 0, 0.5)])
    assert [circle_of(c) for c in (square, obround, lens)] == [None, None, None]


@given(st.floats(1, 50), st.floats(1, 400))
def test_long_and_narrow_is_a_matter_of_shape_and_not_of_size(width, times):
    small = Contour.of([(0, 0), (width * times, 0), (width * times, width), (0, width)])
    large = Contour.of([(3 * x, 3 * y) for x, y in small.points(0.1)])
    assert slender(small) == slender(large)
    assert slender(small) == ((times + 1) ** 2 >= 8 * times or times < 1 / 6)


def test_a_track_goes_over_at_the_retract_height_and_repeats_no_move():
    t = track()
    t.over(0, 0)
    t.down(-1)
    t.line(10, 0)
    t.line(10, 0)
    t.down(-1)
    t.over(10, 20)
    t.over(10, 20)
    rows = t.array()
    assert [r[KIND] for r in rows] == [RAPID, LINE, LINE, RAPID, RAPID]
    assert rows[3].tolist()[1:4] == [10, 0, RETRACT] and rows[4].tolist()[1:4] == [10, 20, RETRACT]
    assert box(0, 0, 10, 20).covers(LineString(rows[:, [X, Y]]))
