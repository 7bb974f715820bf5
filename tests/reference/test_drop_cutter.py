"""Where a cutter comes to rest on triangles, against closed forms and dense sampling.

Sources: a ball at plan distance d from the top of an upright edge rests sqrt(R2 - d2) - R over it
(CHECK-VALUES, exact); a ball of radius R on a plane that rises by m rests R (sqrt(1 + m2) - 1) over the plane
under its middle, an end mill of radius R rests m R over it, a cone of rise k (steeper than the plane) with a
point rests on its point: each by the geometry of one contact. Dense sampling: the cutter's height over its
tip at every one of many points of the surface; what sampling misses is stated where it is used.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support.relief_sweep import radius_of, rise
from venzo.core.relief.drop import Ground
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.tip import Tip

TIPS = {
    "flat": ((6.0,), Tip.mill(6)),
    "ball": ((6.0,), Tip.ball(6)),
    "bull": ((6.0, 1.0), Tip.bull(6, 1)),
    "taper": ((0.8, 3.0, 6.0), Tip.tapered(0.8, 3, 6)),
    "vee": ((6.0, 60.0), Tip.vee(6, 60)),
}
EXACT = 1e-6
FAR = -1e3


def ground(*triangles):
    return Ground(np.array(triangles, dtype=float), FAR)


@pytest.mark.parametrize("kind", TIPS)
@pytest.mark.parametrize("away", [0.0, 0.3, 0.79, 0.81, 1.5, 2.05, 2.9, 2.999])
def test_on_a_vertex(kind, away):
    """A spike so thin that only its point is touched."""
    sizes, tip = TIPS[kind]
    spike = ground([[0, 0, 5], [1e-7, 0, -500], [0, 1e-7, -500]])
    at = np.array([[away * math.cos(1.0), away * math.sin(1.0)]])
    assert spike.rest(at, tip)[0] == pytest.approx(5 - float(rise(kind, away, *sizes)), abs=EXACT)


@pytest.mark.parametrize("kind", TIPS)
@pytest.mark.parametrize("away", [0.0, 0.5, 0.79, 1.9, 2.6])
def test_on_the_top_of_an_upright_wall(kind, away):
    """A level edge, touched where it passes the axis."""
    sizes, tip = TIPS[kind]
    wall = ground([[-50, 0, 2], [50, 0, 2], [0, 0, -40]])
    got = wall.rest(np.array([[3.0, away]]), tip)[0]
    assert got == pytest.approx(2 - float(rise(kind, away, *sizes)), abs=EXACT)
    if kind == "ball":  # CHECK-VALUES
        assert got - 2 == pytest.approx(math.sqrt(9 - away**2) - 3, abs=EXACT)


def best_on_line(kind, sizes, slope, away):
    """Greatest of slope * t - rise(hypot(away, t)): by bisection of ever finer steps, to 1e-9."""
    radius = radius_of(kind, *sizes)
    half = math.sqrt(radius**2 - away**2)
    low, high = -half, half
    for _ in range(60):
        t = np.linspace(low, high, 41)
        v = slope * t - rise(kind, np.minimum(np.hypot(away, t), radius), *sizes)
        k = int(np.argmax(v))
        low, high = t[max(0, k - 1)], t[min(40, k + 1)]
    return float(v.max())


@pytest.mark.parametrize("kind", TIPS)
@pytest.mark.parametrize("slope", [0.2, 0.7, 1.6, 5.0, 25.0])
@pytest.mark.parametrize("away", [0.0, 0.4, 1.1, 2.3])
def test_on_an_edge_that_rises(kind, slope, away):
    sizes, tip = TIPS[kind]
    wall = ground([[-50, 0, -50 * slope], [50, 0, 50 * slope], [0, 0, -5000]])
    got = wall.rest(np.array([[1.0, away]]), tip)[0]
    assert got == pytest.approx(slope + best_on_line(kind, sizes, slope, away), abs=EXACT)


@pytest.mark.parametrize("kind", TIPS)
@pytest.mark.parametrize("slope", [0.0, 0.3, 1.0, 1.7, 4.0])
def test_on_a_plane(kind, slope):
    sizes, tip = TIPS[kind]
    w = 0.7
    gx, gy = slope * math.cos(w), slope * math.sin(w)
    corners = [(-90.0, -80.0), (100.0, -70.0), (5.0, 110.0)]
    plane = ground([(x, y, gx * x + gy * y) for x, y in corners])
    got = plane.rest(np.array([[2.0, 1.0]]), tip)[0] - (2 * gx + gy)
    assert got == pytest.approx(best_on_line(kind, sizes, slope, 0.0), abs=EXACT)
    closed = {
        "ball": 3 * (math.sqrt(1 + slope**2) - 1),
        "flat": 3 * slope,
        "bull": 2 * slope + (math.sqrt(1 + slope**2) - 1),
        "vee": 0.0 if slope <= math.sqrt(3) else 3 * (slope - math.sqrt(3)),
    }
    if kind in closed:
        assert got == pytest.approx(closed[kind], abs=EXACT)


def test_an_allowance_is_kept_normal_to_the_surface():
    for slope in (0.0, 0.5, 2.0):
        plane = ground([(-90, -80, -90 * slope), (100, -70, 100 * slope), (5, 110, 5 * slope)])
        at = np.array([[0.0, 0.0]])
        ball = plane.rest(at, Tip.ball(6), 0.8)[0] - plane.rest(at, Tip.ball(6))[0]
        # the ball's middle moves 0.8 away from the plane
        assert ball == pytest.approx(0.8 * math.sqrt(1 + slope**2), abs=EXACT)


def cloud(triangles, per=60):
    """Points all over some triangles, corners and edges among them."""
    u, v = np.meshgrid(np.linspace(0, 1, per), np.linspace(0, 1, per))
    keep = u + v <= 1 + 1e-12
    u, v = u[keep][:, None], v[keep][:, None]
    return np.vstack([t[0] + u * (t[1] - t[0]) + v * (t[2] - t[0]) for t in triangles])


@settings(max_examples=40, deadline=None)
@given(
    kind=st.sampled_from(sorted(TIPS)),
    seed=st.integers(0, 2**31),
    heights=st.floats(0.2, 12.0),
)
def test_on_any_heap_of_triangles_it_touches_and_goes_into_nothing(kind, seed, heights):
    """Triangles of 1 to 8 mm that cross and lie over one another. Between samples 1/60 of a side apart a face
    may come as near as its steepness times that; stated as ``missed``.
    """
    sizes, tip = TIPS[kind]
    rng = np.random.default_rng(seed)
    middles = rng.uniform(-10, 10, (12, 1, 3)) * (1, 1, heights / 10)
    heap = middles + rng.uniform(-4, 4, (12, 3, 3)) * (1, 1, heights / 8)
    at = rng.uniform(-9, 9, (30, 2))
    got = Ground(heap, FAR).rest(at, tip)
    points = cloud(heap)
    side = float(np.abs(np.diff(heap[:, [0, 1, 2, 0]], axis=1)).max())
    for p, z in zip(at, got, strict=True):
        away = np.hypot(*(points[:, :2] - p).T)
        inside = away <= radius_of(kind, *sizes)
        if not inside.any():
            continue
        least = (points[inside, 2] - rise(kind, away[inside], *sizes)).max()
        assert z >= least - 1e-9, "never deeper than any sampled point lets it"
        # ever higher than samples only as far as one may lie between them; flat ends meet rims from one side
        missed = side / 60 * (2 + heights) + (side if kind in ("flat", "bull") else 0) / 12
        steep = 40 if kind == "taper" else 6
        assert z <= least + missed * (1 + steep / 6)


@settings(max_examples=25, deadline=None)
@given(kind=st.sampled_from(sorted(TIPS)), seed=st.integers(0, 2**31), rough=st.floats(0.05, 4.0))
def test_edges_in_valleys_may_be_left_out(kind, seed, rough):
    """On a surface of heights all edges asked are as good as the sharp ones alone."""
    rng = np.random.default_rng(seed)
    mesh = grid_mesh("g", rng.uniform(0, rough, (9, 11)))
    one, every = Ground(mesh.triangles, FAR), Ground(mesh.triangles, FAR)
    every.sharp[:] = 7
    at = rng.uniform(-1, 11, (200, 2))
    tip = TIPS[kind][1]
    np.testing.assert_allclose(one.rest(at, tip), every.rest(at, tip), atol=1e-9)
    assert (one.sharp != 7).any()


def test_the_surface_itself_and_what_lies_over_itself():
    mesh = grid_mesh("g", np.array([[0.0, 1, 0], [1, 3, 1], [0, 1, 0]]))
    g = Ground(mesh.triangles, FAR)
    at = np.array([[1.0, 1.0], [0.25, 0.0], [0.5, 0.5], [9.0, 9.0]])
    assert g.heights(at)[:2] == pytest.approx([3.0, 0.25], abs=1e-8) and g.heights(at)[3] == FAR
    two = Ground(np.vstack([mesh.triangles, mesh.triangles + (0, 0, 4)]), FAR)
    assert two.layers(at + 0.01).tolist() == [2, 2, 2, 0] and g.layers(at + 0.01).tolist() == [1, 1, 1, 0]
