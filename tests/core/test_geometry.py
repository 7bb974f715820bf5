"""Contours, fits, offsets and loops, held against shapely and against their own promises."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.loops import join
from venzo.core.geometry.offset import offset
from venzo.core.geometry.regions import regions
from venzo.core.tolerances import BUDGET


@st.composite
def shapes(draw, size=100.0, arcs=True):
    """Star-shaped contours with straight and bulged sides."""
    n = draw(st.integers(3, 9))
    radii = [draw(st.floats(0.35, 1)) * size for _ in range(n)]
    bulges = [draw(st.floats(-0.25, 0.25)) if arcs and draw(st.booleans()) else 0.0 for _ in range(n)]
    rows = [
        (r * math.cos(2 * math.pi * k / n), r * math.sin(2 * math.pi * k / n), b)
        for k, (r, b) in enumerate(zip(radii, bulges, strict=True))
    ]
    c = Contour.of(rows)
    p = Polygon(c.points(0.01))
    return c if p.is_valid and c.area > 100 else Contour.of([(r[0], r[1]) for r in rows])


@given(shapes())
def test_area_length_and_box_agree_with_a_fine_polygon(c):
    p = Polygon(c.points(1e-5))
    assert c.area == pytest.approx(p.area, rel=1e-5)
    assert c.length == pytest.approx(p.length, rel=1e-5)
    assert c.bbox == pytest.approx(p.bounds, abs=1e-3)
    assert c.reversed().area == pytest.approx(-c.area)
    outside, inside = Polygon(c.points(0.05, 1)).buffer(0), Polygon(c.points(0.05, -1)).buffer(0)
    assert p.difference(outside.buffer(1e-4)).area < 1e-3, "a circumscribed polygon contains the region"
    assert inside.difference(p.buffer(1e-4)).area < 1e-3


@given(shapes(), st.lists(st.tuples(st.floats(-150, 150), st.floats(-150, 150)), min_size=1, max_size=9))
def test_the_nearest_point_is_the_same_on_few_sides_and_on_many(c, spots):
    # each side in four: the same curve with so many sides that the compiled kernel measures it
    quarters = [s.part(k / 4, (k + 1) / 4) for s in c.segments() for k in range(4)]
    many = Contour.of([(s.x0, s.y0, s.bulge) for s in quarters])
    ring = LineString(c.points(1e-5)[[*range(len(c.points(1e-5))), 0]])
    for x, y in spots:
        for one in (c, many):
            along, away = one.nearest(x, y)
            assert away == pytest.approx(ring.distance(Point(x, y)), abs=2e-5)
            assert math.dist(one.at(along)[:2], (x, y)) == pytest.approx(away, abs=1e-9)


@given(shapes(), st.floats(0, 1), st.floats(0.05, 2.5))
def test_walking_a_contour_covers_exactly_that_stretch(c, start, laps):
    s0, s1 = start * c.length, (start + laps) * c.length
    segments = list(c.walk(s0, s1))
    assert sum(s.length for s in segments) == pytest.approx(s1 - s0, rel=1e-6)
    assert (segments[0].x0, segments[0].y0) == pytest.approx(c.at(s0)[:2], abs=1e-4)
    assert (segments[-1].x1, segments[-1].y1) == pytest.approx(c.at(s1)[:2], abs=1e-4)
    for a, b in itertools.pairwise(segments):
        assert (a.x1, a.y1) == pytest.approx((b.x0, b.y0), abs=1e-6)


@given(shapes(), st.floats(0.002, 0.05))
def test_refit_stays_within_tolerance_and_does_not_take_a_polygon_for_arcs(c, tolerance):
    points = c.points(0.0005)
    fitted = fit(points, True, tolerance)
    line = LineString(np.vstack([fitted.points(1e-4), fitted.points(1e-4)[:1]]))
    ring = Polygon(points).exterior
    assert line.hausdorff_distance(ring) <= tolerance + 0.002
    assert len(fitted.vertices) <= len(points)


def test_circles_come_back_as_circles_and_squares_as_squares():
    circle = fit(Contour.circle(3, 4, 50).points(0.002))
    assert len(circle.vertices) == 2
    assert abs(abs(circle.area) - math.pi * 2500) < 2
    square = fit(np.array([[0, 0], [10, 0], [10, 10], [0, 10.0]]))
    assert len(square.vertices) == 4
    assert not square.vertices[:, 2].any()


@given(shapes(), st.sampled_from([-6.0, -1.5, 1.5, 3.175, 8.0]))
def test_offset_lies_at_the_distance_within_the_budget(c, d):
    """Every point of the path is d from the contour (shapely distance), and covers what shapely's buffer
    covers.
    """
    rings = offset([c.oriented(True)], d)
    edge = Polygon(c.points(0.0005)).exterior
    for r in rings:
        for x, y in r.contour.points(0.05):
            from shapely.geometry import Point

            assert edge.distance(Point(x, y)) == pytest.approx(abs(d), abs=BUDGET - 0.005)
    wanted = Polygon(c.points(0.0005)).buffer(d, quad_segs=180)
    got = Polygon()
    for r in sorted(rings, key=lambda r: r.hole):
        p = Polygon(r.contour.points(0.001)).buffer(0)
        got = got.difference(p) if r.hole else got.union(p)
    assert got.symmetric_difference(wanted).area <= 0.02 * (wanted.length + 1)


@given(st.lists(shapes(), min_size=1, max_size=3), st.randoms(use_true_random=False))
def test_shuffled_and_gapped_segments_join_to_the_same_loops(contours, rnd):
    chains, total = [], 0.0
    for k, c in enumerate(contours):
        c = c.moved(400 * k, 0)
        total += abs(c.area)
        for s in c.segments():
            jitter = [rnd.uniform(-0.01, 0.01) for _ in range(4)]
            rows = [(s.x0 + jitter[0], s.y0 + jitter[1], s.bulge), (s.x1 + jitter[2], s.y1 + jitter[3], 0.0)]
            part = Contour.of(rows, False)
            chains.append(part.reversed() if rnd.random() < 0.5 else part)
    chains.append(chains[0])  # drawn twice
    rnd.shuffle(chains)
    joined = join(chains, 0.05)
    assert len(joined.closed) == len(contours)
    assert not joined.open and joined.duplicates == 1
    assert sum(abs(c.area) for c in joined.closed) == pytest.approx(total, rel=2e-3)


def test_branches_and_dead_ends_are_told():
    square = [
        Contour.of([a, b], False)
        for a, b in [((0, 0), (10, 0)), ((10, 0), (10, 10)), ((10, 10), (0, 10)), ((0, 10), (0, 0))]
    ]
    joined = join(
        [
            *square,
            Contour.of([(0, 0), (10, 10)], False),
            Contour.of([(20, 0), (25, 0)], False),
            Contour.of([(25, 0), (25, 9)], False),
        ],
        0.05,
    )
    assert len(joined.closed) == 2 and len(joined.branches) == 2
    assert len(joined.open) == 1 and joined.open[0].length == pytest.approx(14)


def test_regions_nest_even_odd():
    rings = [Contour.circle(0, 0, r) for r in (40, 30, 20, 10)] + [Contour.circle(100, 0, 5)]
    found = sorted(regions(rings), key=lambda r: -r.outline.area)
    assert [len(r.holes) for r in found] == [1, 1, 0]
    assert found[0].area == pytest.approx(math.pi * 700)
