"""Leads run into the path's own direction from the waste's side where there is room, and nowhere else."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point

from venzo.core.cuts.leads import SHORTEST, fitting_lead, lead_at
from venzo.core.geometry.contour import Contour, arc_of

kinds = st.sampled_from(["arc", "straight"])
paths = st.tuples(st.floats(20, 200), st.floats(20, 200), st.sampled_from([0.0, 0.2, -0.15]))


def path_of(w, h, bulge):
    return Contour.of([(0, 0, bulge), (w, 0, 0), (w, h, bulge), (0, h, 0)])


def start_of(segment):
    """Place and direction at a segment's start."""
    return segment.at(0.0)


def end_of(segment):
    """Place and direction at a segment's end."""
    return segment.at(1.0)


@given(paths, st.floats(0, 1), st.booleans(), kinds, st.floats(0.5, 20))
def test_a_lead_meets_the_path_where_and_as_it_runs(shape, share, left, kind, length):
    path = path_of(*shape)
    s = share * path.length
    lead = lead_at(path, s, left, kind, length)
    x, y, tx, ty = path.at(s)
    ix, iy, idx, idy = end_of(lead.into[-1])
    ox, oy, odx, ody = start_of(lead.out[0])
    assert (ix, iy) == pytest.approx((x, y), abs=1e-6) and (ox, oy) == pytest.approx((x, y), abs=1e-6)
    if kind == "arc":
        assert (idx, idy) == pytest.approx((tx, ty), abs=1e-6), "no corner where it meets the path"
        assert (odx, ody) == pytest.approx((tx, ty), abs=1e-6)
    else:
        assert idx * tx + idy * ty == pytest.approx(math.sqrt(0.5), abs=1e-6), "at 45 degrees"
        assert odx * tx + ody * ty == pytest.approx(math.sqrt(0.5), abs=1e-6)


@given(paths, st.floats(0, 1), st.booleans(), kinds, st.floats(0.5, 20))
def test_a_lead_lies_on_the_waste_s_side_of_the_path_s_direction(shape, share, left, kind, length):
    path = path_of(*shape)
    s = share * path.length
    x, y, tx, ty = path.at(s)
    lead = lead_at(path, s, left, kind, length)
    for segment in (*lead.into, *lead.out):
        for t in (0.0, 0.25, 0.5, 0.75, 1.0):
            px, py = segment.at(t)[:2]
            side = tx * (py - y) - ty * (px - x)
            assert (side if left else -side) >= -1e-6


@given(paths, st.floats(0, 1), st.booleans(), st.floats(0.5, 20))
def test_an_arc_is_a_quarter_turn_of_its_radius(shape, share, left, length):
    path = path_of(*shape)
    lead = lead_at(path, share * path.length, left, "arc", length)
    for segment in (*lead.into, *lead.out):
        _cx, _cy, r, _start, sweep = arc_of((segment.x0, segment.y0), (segment.x1, segment.y1), segment.bulge)
        assert r == pytest.approx(length, rel=1e-6) and abs(sweep) == pytest.approx(math.pi / 2, rel=1e-6)
        assert segment.length == pytest.approx(length * math.pi / 2)


@given(st.floats(1, 30), st.floats(1, 60), kinds)
def test_the_longest_lead_that_has_room_is_taken_and_none_shorter_than_is_worth_it(room, length, kind):
    """A bay of ``room`` mm beside a straight path: what does not fit in it is not run."""
    path = path_of(200, 100, 0.0)
    bay = LineString(path.points(0.01)).buffer(room)

    def clear(points):
        return all(bay.covers(Point(p)) for p in points)

    lead = fitting_lead(path, 100.0, False, kind, length, [], clear)
    reach = length if kind == "arc" else length / math.sqrt(2)
    if lead is None:
        assert room < SHORTEST * 4
        return
    assert SHORTEST <= lead.length <= length + 1e-9
    spots = [segment.at(t / 8)[:2] for segment in (*lead.into, *lead.out) for t in range(9)]
    assert all(bay.buffer(1e-6).covers(Point(p)) for p in spots)
    if reach < room * 0.98:
        assert lead.length == pytest.approx(length), "there is room for all of it"


def test_where_there_is_no_room_at_the_wanted_start_the_nearest_that_has_some_is_taken():
    path = path_of(100, 100, 0.0)

    def clear(points):
        return all(x > 60 for x, _y in points)

    lead = fitting_lead(path, 10.0, False, "arc", 4.0, [20.0, 50.0, 80.0, 150.0], clear)
    assert lead is not None and lead.s == 80.0
    assert fitting_lead(path, 10.0, False, "arc", 4.0, [20.0, 50.0], clear) is None
