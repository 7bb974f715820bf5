"""Order keeps every precedence; tabs keep clear of corners; time obeys the closed formula."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon

from tests.core.test_geometry import shapes
from venzo.core.cuts.moves import LINE, RAPID, row
from venzo.core.geometry.contour import Contour
from venzo.core.holding.tabs import FINE, FLAT_RADIUS, Shy, outside_of, place_tabs, shy_stretches, tab_count
from venzo.core.holding.tabs_kernel import spread
from venzo.core.motion.time import Axes, move_time, path_time
from venzo.core.order.sequence import Task, sequence, travel

points = st.tuples(st.floats(0, 2000), st.floats(0, 1000))


@given(
    st.lists(
        st.tuples(points, st.sampled_from("abc"), st.booleans(), st.lists(st.integers(0, 30), max_size=3)),
        min_size=1,
        max_size=30,
    )
)
def test_every_precedence_is_kept_and_nothing_is_forgotten(rows):
    tasks = [
        Task(p, p, c, o, frozenset(a for a in after if a < i)) for i, (p, c, o, after) in enumerate(rows)
    ]
    order = sequence(tasks, {"a": 1, "b": 2, "c": 3})
    assert sorted(order) == list(range(len(tasks)))
    at = {t: k for k, t in enumerate(order)}
    for i, t in enumerate(tasks):
        assert all(at[a] < at[i] for a in t.after)


def test_insides_come_first_each_cutter_once_and_travel_is_short():
    rng = np.random.default_rng(4)
    spots = [tuple(p) for p in rng.uniform(0, 1000, (60, 2))]
    tasks = [Task(p, p, "small", False) for p in spots] + [
        Task(p, p, "big", True, frozenset([i])) for i, p in enumerate(spots)
    ]
    order = sequence(tasks, {"small": 2, "big": 1})
    assert {tasks[i].cutter for i in order[:60]} == {"small"}
    # 0.7124 sqrt(n A) is the length of the best long tour (Beardwood, Halton and Hammersley 1959, constant
    # quoted from memory)
    assert travel(tasks, order[:60]) < 1.35 * 0.7124 * math.sqrt(60 * 1e6) + 1000


@given(shapes(), st.integers(1, 8), st.floats(2, 10), st.floats(3, 12))
def test_tabs_stay_clear_of_corners_and_of_tight_arcs_where_straight_runs_have_room(
    c, count, width, diameter
):
    tabs = place_tabs(c, count, width, diameter)
    lift = width + diameter
    assert len(tabs) <= count
    straight = [s for s in c.segments() if not s.bulge]
    room = sum(int((s.length - lift - 4) // (2 * lift)) + 1 for s in straight if s.length > lift + 4)
    for s in tabs:
        i = int(np.searchsorted(c.starts, s, side="right")) - 1
        seg = c.segments()[i]
        inside = min(s - c.starts[i], c.starts[i + 1] - s)
        if room >= count:
            assert not seg.bulge, "straight runs have room"
            assert inside >= lift / 2 + 2 - 1e-6
        elif seg.bulge and seg.length / abs(4 * math.atan(seg.bulge)) < FLAT_RADIUS:
            assert inside >= width / 2 - 1e-6
    for a, b in itertools.pairwise(tabs):
        assert b - a >= 2 * lift - 1e-5


@given(
    shapes(),
    st.integers(1, 6),
    st.lists(st.tuples(st.floats(0, 1), st.floats(0.02, 0.3)), max_size=3),
    st.data(),
)
def test_tabs_keep_out_of_blocked_stretches_and_of_what_they_shy_from(c, count, rows, data):
    blocked = [(a * c.length, min(a + w, 1.0) * c.length) for a, w in rows]
    tabs = place_tabs(c, count, 5, 6, blocked=blocked)
    for s in tabs:
        assert not any(a < s < b for a, b in blocked)
    fine = data.draw(st.lists(st.floats(0, 1), max_size=2))
    shy = Shy(fine=tuple((f * c.length, min(f + 0.1, 1.0) * c.length) for f in fine))
    free = place_tabs(c, count, 5, 6, shy)
    straight = [
        (float(b) + 7.5, float(b) + s.length - 7.5)
        for s, b in zip(c.segments(), c.starts[:-1], strict=True)
        if not s.bulge and s.length > 15
    ]
    room = sum(int((b - a) // 22) + 1 for a, b in outside_of(straight, shy.fine, 2.5, c.length))
    if room >= count:
        assert not any(a < s < b for s in free for a, b in shy.fine), (
            "where a straight run elsewhere has room"
        )


@given(shapes())
def test_fine_detail_is_where_a_disc_does_not_fit(c):
    """What is called too fine for a tab is narrower there than the disc of its width allows, by shapely's own
    distances.
    """
    width = 5.0
    solid = Polygon(c.points(0.02)).buffer(0)
    for a, b in shy_stretches(c, width, 6.0).fine:
        x, y = c.at((a + b) / 2)[:2]
        near = solid.buffer(-FINE * width / 2)
        assert near.is_empty or near.distance(Point(x, y)) > FINE * width / 2 + 0.1


def test_tab_counts_follow_size():
    big, small = (
        Contour.of([(0, 0), (3000, 0), (3000, 500), (0, 500)]),
        Contour.of([(0, 0), (60, 0), (60, 40), (0, 40)]),
    )
    assert tab_count(big, 4, 700, 14) == 10
    assert tab_count(small, 4, 700, 14) == 4 and tab_count(small, 0, 700, 14) == 0
    assert len(place_tabs(Contour.circle(0, 0, 60), 4, 6, 8)) == 4


@given(st.floats(0.01, 3000), st.floats(200, 30_000), st.floats(100, 5000))
def test_one_move_takes_what_the_trapezoid_says(distance, feed, a):
    moves = np.array([row(RAPID, 0, 0, 0), row(LINE, distance, 0, 0, feed)])
    assert path_time(moves, Axes(a, 30_000))[0] == pytest.approx(move_time(distance, feed, a), rel=1e-6)


def test_smooth_corners_are_passed_without_stopping_and_sharp_ones_are_not():
    straight = np.array([row(RAPID, 0, 0, 0), *(row(LINE, 10.0 * k, 0, 0, 6000) for k in range(1, 21))])
    assert path_time(straight, Axes(1000, 9000))[0] == pytest.approx(move_time(200, 6000, 1000), rel=1e-6)
    back = np.array([row(RAPID, 0, 0, 0), row(LINE, 100, 0, 0, 6000), row(LINE, 0, 0, 0, 6000)])
    assert path_time(back, Axes(1000, 9000))[0] == pytest.approx(2 * move_time(100, 6000, 1000), rel=1e-3)


runs_of_a_contour = st.lists(st.tuples(st.floats(1, 60), st.floats(0.5, 25)), min_size=1, max_size=9)


@given(runs_of_a_contour, st.integers(1, 7), st.floats(4, 40), st.lists(st.floats(0, 1), max_size=2))
def test_tabs_stand_on_their_runs_apart_and_as_evenly_as_any_turn_allows(rows, count, least, ends):
    """The compiled search against the definition: of 24 turns of an even spread, each tab put on the nearest
    free place, the one whose tabs are least far from it."""
    at, lo, hi = 0.0, [], []
    for length, gap in rows:
        lo.append(at)
        hi.append(at + length)
        at += length + gap
    total = at
    ends = [e * total for e in ends]
    got = spread(np.array(lo), np.array(hi), total, count, least, np.array(ends))
    assert (np.diff(got) >= 0).all() and len(got) <= count
    for k, s in enumerate(got):
        assert any(a - 1e-6 <= s <= b + 1e-6 for a, b in zip(lo, hi, strict=True))
        others = np.delete(got, k)
        apart = np.abs((others - s + total / 2) % total - total / 2)
        assert (apart >= least - 1e-5).all()
    best = (math.inf, [])
    for phase in range(24):
        tried = _tried(lo, hi, total, count, least, ends, phase)
        best = tried if tried[0] < best[0] - 1e-9 else best
    assert got == pytest.approx(best[1], abs=1e-6)


def _way(a, b, total):
    return (a - b + total / 2) % total - total / 2


def _tried(lo, hi, total, count, least, ends, phase):
    chosen, cost = [], 0.0
    for k in range(count):
        target = (phase / 24 * total / count + k * total / count) % total
        free = []
        for a, b in zip(lo, hi, strict=True):
            s = min(max(target, a), b)
            for c in chosen:
                gap = _way(s, c, total)
                if abs(gap) < least - 1e-9:
                    s = c + least if gap >= 0 else c - least
            on_it = a - 1e-9 <= s <= b + 1e-9
            if on_it and all(abs(_way(s, c, total)) >= least - 1e-6 for c in chosen):
                free.append(s)
        if not free:
            cost += total**2
            continue
        s = min(free, key=lambda s: abs(_way(s, target, total)))
        cost += _way(s, target, total) ** 2
        chosen.append(s % total)
    cost += sum(min(abs(_way(c, e, total)) for c in chosen) ** 2 for e in ends) if chosen else 0.0
    return cost, sorted(chosen)
