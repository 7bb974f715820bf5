"""The clock of motion: against a plain simulation in small steps of the same limits, against its own mirror
image in time, and an arc against the chords that draw it.

The limits: a feed for every move, an acceleration along the path, arcs at v2 <= a r, corners at the speed of
the arc that rounds them by the deviation (common practice of controllers; the formula as in ``motion.time``).
"""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import CCW, CW, CX, CY, FEED, KIND, LINE, RAPID, X, Y, Z, lengths, row, sweeps
from venzo.core.motion.time import Axes, move_time, pace, path_time
from venzo.desk import jobs

AXES = Axes(800.0, 20_000.0, 0.02)


def simulated(moves, axes: Axes, step: float = 0.03) -> float:
    """Seconds by steps of ``step`` mm: the speed allowed everywhere, then no faster than acceleration lets
    it come from before or be gone by after, then time by the mean speed of every step.
    """
    points, allowed = [0.0], [0.0]
    before = None
    at = 0.0
    turn = sweeps(moves)
    far = lengths(moves)
    for k in range(1, len(moves)):
        a, b = moves[k - 1], moves[k]
        if far[k] < 1e-9:
            continue
        feed = (axes.rapid if b[KIND] == RAPID else min(b[FEED], axes.rapid)) / 60
        steep = abs(b[Z] - a[Z]) / far[k]
        if steep > 1e-9 and axes.z_speed:
            feed = min(feed, axes.z_speed / 60 / steep)
        if b[KIND] >= CW:
            r = math.hypot(b[X] - b[CX], b[Y] - b[CY])
            feed = min(feed, math.sqrt(axes.acceleration * r))
            side = math.copysign(1.0, turn[k])
            way = lambda p, b=b, r=r, side=side: np.array(  # noqa: E731
                [-(p[Y] - b[CY]) / r * side, (p[X] - b[CX]) / r * side, 0.0]
            )
            enter, leave = way(a), way(b)
        else:
            enter = leave = (b[X : Z + 1] - a[X : Z + 1]) / far[k]
        if before is not None:
            s = math.sqrt(max(0.0, (1 + float(before @ enter)) / 2))
            corner = math.sqrt(axes.acceleration * axes.deviation * s / max(1 - s, 1e-12))
            allowed[-1] = min(allowed[-1], corner, feed)
        n = max(4, math.ceil(far[k] / step))
        points += [at + far[k] * (i + 1) / n for i in range(n)]
        allowed += [feed] * n
        at += far[k]
        before = leave
    allowed[-1] = 0.0
    v = np.array(allowed)
    d = np.diff(points)
    for i in range(1, len(v)):
        v[i] = min(v[i], math.sqrt(v[i - 1] ** 2 + 2 * axes.acceleration * d[i - 1]))
    for i in range(len(v) - 2, -1, -1):
        v[i] = min(v[i], math.sqrt(v[i + 1] ** 2 + 2 * axes.acceleration * d[i]))
    return float((2 * d / (v[:-1] + v[1:])).sum())


def chain(seed: int):
    """Lines, arcs and travels at random, chained."""
    rng = np.random.default_rng(seed)
    x, y, z = 0.0, 0.0, 5.0
    moves = [row(RAPID, x, y, z)]
    for _ in range(rng.integers(2, 12)):
        kind = rng.choice([RAPID, LINE, LINE, CW, CCW])
        feed = float(rng.uniform(300, 9000))
        if kind >= CW:
            r, begin, by = rng.uniform(1, 40), rng.uniform(0, 2 * np.pi), rng.uniform(0.3, 6)
            cx, cy = x - r * math.cos(begin), y - r * math.sin(begin)
            end = begin + (by if kind == CCW else -by)
            x, y = cx + r * math.cos(end), cy + r * math.sin(end)
            moves.append(row(kind, x, y, z, feed, cx, cy))
        else:
            x, y, z = x + rng.uniform(-80, 80), y + rng.uniform(-80, 80), z + rng.uniform(-4, 4)
            moves.append(row(kind, x, y, z, 0.0 if kind == RAPID else feed))
    return np.array(moves)


def backwards(moves):
    """The same way from its end to its start."""
    out = [row(RAPID, *moves[-1, [X, Y, Z]])]
    for a, b in reversed(list(pairwise(moves))):
        kind = {CW: CCW, CCW: CW}.get(b[KIND], b[KIND])
        out.append(row(kind, *a[[X, Y, Z]], b[FEED], *b[[CX, CY]]))
    return np.array(out)


@given(st.integers(0, 10_000), st.sampled_from([AXES, Axes(300, 9000, 0.1, 2000), Axes(4000, 40_000, 0.005)]))
def test_the_time_of_any_path_is_that_of_a_simulation(seed, axes):
    moves = chain(seed)
    assert path_time(moves, axes)[0] == pytest.approx(simulated(moves, axes), rel=0.01)


@given(st.integers(0, 10_000))
def test_a_path_backwards_takes_as_long(seed):
    moves = chain(seed)
    assert path_time(backwards(moves), AXES)[0] == pytest.approx(path_time(moves, AXES)[0], rel=1e-9)


@given(st.integers(0, 10_000), st.floats(0.001, 1.0), st.floats(1.0, 20.0))
def test_no_machine_that_may_do_more_is_slower(seed, deviation, more):
    moves = chain(seed)
    slow = path_time(moves, Axes(800, 20_000, deviation))[0]
    assert path_time(moves, Axes(800, 20_000, deviation * more))[0] <= slow + 1e-9
    assert path_time(moves, Axes(800 * more, 20_000, deviation))[0] <= slow + 1e-9


@pytest.mark.parametrize("radius", (5.0, 20.0, 100.0))
@pytest.mark.parametrize("feed", (1500.0, 4000.0, 9000.0))
def test_a_circle_in_fine_chords_takes_as_long_as_its_arc(radius, feed):
    """Where the chords' corners are so slight that the arc's own limit is the lower one."""
    arc = np.array([row(RAPID, radius, 0, 0), row(CCW, radius, 0, 0, feed, 0, 0)])
    n = math.ceil(2 * math.pi / (2 * math.acos(1 - 0.002 / radius)))
    angle = np.linspace(0, 2 * math.pi, n + 1)[1:]
    fine = np.array(
        [row(RAPID, radius, 0, 0)]
        + [row(LINE, radius * math.cos(t), radius * math.sin(t), 0, feed) for t in angle]
    )
    limit = min(feed, 60 * math.sqrt(AXES.acceleration * radius))
    assert path_time(arc, AXES)[0] == pytest.approx(move_time(2 * math.pi * radius, limit, 800), rel=1e-6)
    fine[1:, FEED] = limit
    assert path_time(fine, AXES)[0] == pytest.approx(path_time(arc, AXES)[0], rel=0.02)


def test_real_programs_take_as_long_as_in_a_simulation(store):
    job = TrialJob(store, (rect(300, 200), [(50, 50), (400, 50), (50, 300)]))
    (d,) = jobs.derive(store, job.plan).values()
    axes = d.setup.machine.axes
    for c in d.sheets[0].cuts:
        assert c.seconds == pytest.approx(simulated(c.moves, axes), rel=0.01)


def test_demo_programs_take_as_long_as_in_a_simulation(known_demo):
    """Some cuts of every sheet of the demo; a carved board's first 250 moves."""
    tried = 0
    for j in known_demo.jobs():
        for d in jobs.derive(known_demo, known_demo.get(j["id"]).plan, hold=False).values():
            for c in (c for s in d.sheets for c in s.cuts[::15]):
                moves = c.moves[:250]
                axes = d.setup.machine.axes
                assert path_time(moves, axes)[0] == pytest.approx(simulated(moves, axes, 0.06), rel=0.01)
                tried += 1
    assert tried >= 20


def test_another_speed_of_z_or_another_deviation_is_another_time(store):
    """Both were left out of what a sheet's times are remembered by, and a changed Z speed changed nothing."""
    job = TrialJob(store, (rect(300, 200), [(50, 50)]))
    machine = job.setup.machine
    seen = set()
    for change in ({}, {"z_speed": 900.0}, {"deviation": 0.5}, {"acceleration": 300.0}):
        setup = job.setup.model_copy(update={"machine": machine.model_copy(update=change)})
        plan = job.plan.model_copy(update={"setups": (setup,)})
        (d,) = jobs.derive(store, plan).values()
        seen.add(round(d.sheets[0].seconds, 6))
    assert len(seen) == 4


@pytest.mark.parametrize(
    ("distance", "feed", "jerk", "seconds"),
    [
        (100, 6000, 10_000, 100 / 100 + 100 / 1000 + 1000 / 10_000),  # all reached: d/v + v/a + a/j
        (40, 60_000, 10_000, None),  # the acceleration is reached, the speed is not
        (0.5, 6000, 10_000, 4 * (0.5 / (2 * 10_000)) ** (1 / 3)),  # neither: 4 (d / 2j)^(1/3)
        (100, 300, 10_000, 100 / 5 + 2 * math.sqrt(5 / 10_000)),  # the speed, not the acceleration
    ],
)
def test_limited_jerk_takes_as_long_as_the_s_curve_says(distance, feed, jerk, seconds):
    """Closed forms of a move from rest to rest (handbooks of motion control; quoted from memory)."""
    axes = Axes(1000.0, 60_000.0, 0.02, jerk=jerk)
    moves = np.array([row(RAPID, 0, 0, 0), row(LINE, distance, 0, 0, feed)])
    if seconds is None:
        peak = -(1000**2) / (2 * jerk) + math.sqrt((1000**2 / (2 * jerk)) ** 2 + 1000 * distance)
        seconds = 2 * distance / peak
    assert path_time(moves, axes)[0] == pytest.approx(seconds, rel=1e-6)
    pieces = np.array(
        [row(RAPID, 0, 0, 0), *(row(LINE, distance * k / 20, 0, 0, feed) for k in range(1, 21))]
    )
    assert path_time(pieces, axes)[0] == pytest.approx(seconds, rel=1e-6)
    fast = axes.travel_times(np.array([[distance, 0.0, 0.0]]))[0]
    assert fast == pytest.approx(
        path_time(np.array([row(RAPID, 0, 0, 0), row(RAPID, distance, 0, 0)]), axes)[0]
    )


@given(st.integers(0, 10_000), st.floats(500, 1e6), st.floats(1.1, 10))
def test_less_jerk_is_never_quicker_and_endless_jerk_is_none(seed, jerk, less):
    moves = chain(seed)
    plain = path_time(moves, AXES)[0]
    first, second = (path_time(moves, replace(AXES, jerk=j))[0] for j in (jerk, jerk / less))
    assert plain - 1e-9 <= first <= second * (1 + 1e-6)
    assert path_time(moves, replace(AXES, jerk=1e12))[0] == pytest.approx(plain, rel=1e-4)
    assert path_time(backwards(moves), replace(AXES, jerk=jerk))[0] == pytest.approx(first, rel=1e-6)


@pytest.mark.parametrize("axis", (1, 2))
def test_each_axis_keeps_to_what_it_can(axis):
    """A move along an axis is that of a machine with this axis' figures; a slanted one is held by the slower
    axis in proportion.
    """
    axes = Axes(2000.0, 20_000.0, 0.02, 6000.0, 9000.0, 500.0, 300.0)
    along = np.zeros(3)
    along[axis] = 50.0
    speed, acceleration = ((9000, 500), (6000, 300))[axis - 1]
    straight = np.array([row(RAPID, 0, 0, 0), row(RAPID, *along)])
    assert path_time(straight, axes)[0] == pytest.approx(move_time(50, speed, acceleration))
    along[0] = 50.0
    slanted = np.array([row(RAPID, 0, 0, 0), row(RAPID, *along)])
    root = math.sqrt(2)
    assert path_time(slanted, axes)[0] == pytest.approx(
        move_time(50 * root, speed * root, acceleration * root)
    )
    assert axes.travel_times(along[None])[0] == pytest.approx(path_time(slanted, axes)[0])


def test_a_controller_that_takes_few_lines_goes_no_faster_than_they_come():
    step, many = 0.1, 400
    moves = np.array([row(RAPID, 0, 0, 0), *(row(LINE, step * k, 0, 0, 6000) for k in range(1, many))])
    free, held = pace(moves, AXES), pace(moves, replace(AXES, blocks=200.0))
    assert not free.starved.any() and held.starved[1:].all()
    assert held.reached.max() == pytest.approx(0.1 * 200)
    lone = np.array(
        [
            row(RAPID, 0, 0, 0),
            row(LINE, 80, 0, 0, 3000),
            row(LINE, 80.1, 0, 0, 3000),
            row(LINE, 160, 0, 0, 3000),
        ]
    )
    assert not pace(lone, replace(AXES, blocks=200.0)).starved.any(), (
        "one short line among long ones is read ahead"
    )


def test_what_is_reached_is_told():
    """d < v2/a: the feed is never reached; the highest speed is sqrt(a d)."""
    moves = np.array([row(RAPID, 0, 0, 0), row(LINE, 5, 0, 0, 12_000), row(LINE, 0, 0, 0, 600)])
    p = pace(moves, AXES)
    assert p.wanted[1:].tolist() == [200.0, 10.0]
    assert (
        p.reached[2] == pytest.approx(10.0)
        and p.reached[1] < 80
        and p.total == pytest.approx(p.seconds.sum())
    )
