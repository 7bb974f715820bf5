"""The kernel that carvings are measured with, against a plain reckoning of its own: every cutter is put down
at thousands of places along its way, and the lowest point that passes over a cell counts.

A cutter's profile is elementary geometry: a cone rises by the radius over the tangent of half its angle, a
rounded point is a sphere that meets the cone where it touches it, an end mill is flat.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import MANY
from venzo.core.carving.bit import Bit
from venzo.core.carving.sweep import flat, sweep
from venzo.core.cuts.moves import LINE, RAPID, row

PLACES = 4001
CELL = 0.4
BOX = (0.0, 0.0, 9.0, 7.0)


def profile(r, angle, size, tip=0.0, ball=0.0):
    """Height (mm) of a cutter's surface over its tip at a distance from its axis; infinite beyond it.

    ``angle``: included, degrees, None: an end mill; ``size``: diameter; ``tip``: of a flat point; ``ball``:
    radius of a rounded point.
    """
    if angle is None:
        return np.where(r <= size / 2, 0.0, np.inf)
    half = math.radians(angle) / 2
    if ball:
        touch = ball * math.cos(half)  # from the axis, where the sphere ends
        on_ball = ball - np.sqrt(np.maximum(ball**2 - np.minimum(r, ball) ** 2, 0.0))
        on_cone = ball * (1 - math.sin(half)) + (r - touch) / math.tan(half)
        up = np.where(r <= touch, on_ball, on_cone)
    else:
        up = np.maximum(r - tip / 2, 0.0) / math.tan(half)
    return np.where(r <= size / 2, up, np.inf)


def plainly(lines, xs, ys, *cutter):
    """The surface left by straight lines, cell by cell."""
    x, y = np.meshgrid(xs, ys)
    out = np.zeros_like(x)
    for a, b in lines:
        t = np.linspace(0, 1, PLACES)[:, None]
        at = np.array(a) + t * (np.array(b) - np.array(a))
        for i in range(x.shape[0]):
            r = np.hypot(x[i][:, None] - at[:, 0], y[i][:, None] - at[:, 1])
            out[i] = np.minimum(out[i], (at[:, 2] + profile(r, *cutter)).min(axis=1))
    return out


def by_kernel(lines, bit, radius=0.0):
    s = flat(BOX, CELL)
    rows = []
    for a, b in lines:
        rows += [row(RAPID, *a, 0.0), row(LINE, *b, 1.0)]
    sweep(s, np.array(rows), bit, radius)
    return s


spot = st.tuples(st.floats(0.5, 8.5), st.floats(0.5, 6.5), st.floats(-4.0, -0.1))
ways = st.lists(st.tuples(spot, spot), min_size=1, max_size=3)
POINTS = {
    "pointed 60": (60.0, 12.0, 0.0, 0.0),
    "pointed 90": (90.0, 12.0, 0.0, 0.0),
    "flat point": (90.0, 12.0, 0.5, 0.0),
    "rounded point": (60.0, 12.0, 0.0, 0.4),
}


def cone_of(lines):
    """A cutter wide enough for the deepest line is not cut off by its own rim."""
    return all(-z * math.tan(math.radians(45)) < 5.5 for line in lines for _x, _y, z in line)


@pytest.mark.parametrize("point", POINTS)
@settings(max_examples=10 * MANY)
@given(lines=ways)
def test_a_bit_on_any_line(point, lines):
    angle, size, tip, ball = POINTS[point]
    bit = Bit(angle, size, tip=tip, tip_radius=ball)
    s = by_kernel(lines, bit)
    want = plainly(lines, s.xs, s.ys, angle, size, tip, ball)
    # between two places the axis is at most half a step away from where it counts
    step = max(math.dist(a, b) for a, b in lines) / (PLACES - 1)
    slack = step / 2 * (1 + 1 / math.tan(math.radians(angle) / 2)) + 2e-4
    assert cone_of(lines)
    assert np.abs(s.heights - want).max() < slack


@settings(max_examples=10 * MANY)
@given(lines=ways, radius=st.sampled_from([0.8, 1.5]))
def test_an_end_mill_on_any_line(lines, radius):
    s = by_kernel(lines, None, radius)
    inner = plainly(lines, s.xs, s.ys, None, 2 * (radius - 2e-3))
    outer = plainly(lines, s.xs, s.ys, None, 2 * (radius + 2e-3))
    # a flat end has an edge: a cell that lies on it may be counted either way
    assert (s.heights <= inner + 5e-3).all() and (s.heights >= outer - 5e-3).all()


def test_what_is_above_the_top_or_fast_cuts_nothing():
    s = flat(BOX, CELL)
    moves = [row(RAPID, 1, 1, 5, 0.0), row(RAPID, 8, 6, 5, 0.0), row(LINE, 1, 6, 0.5, 1.0)]
    sweep(s, np.array(moves), Bit(60, 12))
    assert not s.heights.any()
