"""What cutters take off a sheet, against exact solids.

Closed forms: a slot, a spherical and a conical hole, a ball's trough, a surfaced face. Booleans of solids:
manifold3d, a general-purpose library that knows nothing of cutters; of a convex cutter what it sweeps along a
line is the hull of the cutter at both ends. Heights: every cutter dense along its way, by a plain reckoning.
"""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from manifold3d import CrossSection, Manifold
from shapely.geometry import LineString, Point, Polygon

from tests.support.breadth import spread
from venzo.core.body.field import Box, StockBody
from venzo.core.body.moments import Moments, Stage
from venzo.core.body.slope_kernel import point_of
from venzo.core.cuts.moves import CCW, LINE, RAPID, row
from venzo.core.motion.time import Axes
from venzo.core.proof.removal import cell_of
from venzo.core.tooling.cutter import Cutter
from venzo.desk.proving import prove_programs, world_of


def cutter(kind: str, diameter: float, **more) -> Cutter:
    return Cutter(id="c", number=1, name=kind, kind=kind, diameter=diameter, cutting_length=40, **more)


FLAT = cutter("up-cut", 6.35)
KINDS = [
    FLAT,
    cutter("ball", 8),
    cutter("v-bit", 16, angle=60),
    cutter("v-bit", 12, angle=90, tip=1),
    cutter("v-bit", 12, angle=90, corner_radius=0.5),
    cutter("tapered ball", 6, tip=2, angle=10),
    cutter("bowl", 16, corner_radius=4),
    cutter("roundover", 20, tip=4, corner_radius=6),
    cutter("drill", 5, angle=118),
    cutter("surfacing", 50),
]
THICK = 18.0


def removed(moves, tool, width=200.0, height=120.0) -> float:
    """By the resolution that the product itself takes for such a sheet."""
    body = StockBody(Box(0, 0, width, height), cell_of(width, height), spread=True)
    body.cut(np.array(moves), tool)
    return body.removed(-THICK)


def plunged(x, y, z):
    return [row(RAPID, x, y, 5), row(LINE, x, y, z)]


RIGHT_ANGLE = cutter("v-bit", 30, angle=90)
SLOT = [row(RAPID, -10, 60, -5), row(LINE, 210, 60, -5)]
EXACT = {
    "a slot across": (FLAT, SLOT, 200 * 6.35 * 5),
    "a slot askew": (
        FLAT,
        [row(RAPID, 20, 20, 5), row(LINE, 20, 20, -5), row(LINE, 140, 77, -5)],
        (math.hypot(120, 57) * 6.35 + math.pi * 3.175**2) * 5,
    ),
    "a hole through, the board under it cut too": (FLAT, plunged(60, 60, -20), math.pi * 3.175**2 * THICK),
    "half a ball": (cutter("ball", 20), plunged(60, 60, -10), 2 / 3 * math.pi * 1000),
    "a cone": (RIGHT_ANGLE, plunged(60, 60, -10), math.pi * 1000 / 3),
    "a trough of a ball": (
        cutter("ball", 20),
        [row(RAPID, -20, 60, -4), row(LINE, 220, 60, -4)],
        200 * (100 * math.acos(0.6) - 6 * 8),
    ),
    "a ramp": (
        FLAT,
        [row(RAPID, -100, 60, 10), row(LINE, 300, 60, -10)],
        None,
    ),
    "a whole circle": (
        FLAT,
        [row(RAPID, 90, 60, 5), row(LINE, 90, 60, -4), row(CCW, 90, 60, -4, 1000, 60, 60)],
        2 * math.pi * 30 * 6.35 * 4,
    ),
    "a face": (
        cutter("surfacing", 50),
        [row(RAPID, -40, 0, -1)]
        + [r for k in range(4) for r in (row(LINE, 240, 40 * k, -1), row(LINE, -40, 40 * k, -1))],
        200 * 120 * 1,
    ),
}


@pytest.mark.parametrize("name", [n for n, e in EXACT.items() if e[2] is not None])
def test_volumes_of_simple_cuts(name):
    tool, moves, volume = EXACT[name]
    assert removed(moves, tool) == pytest.approx(volume, rel=0.005)


def test_a_ramp_is_cut_as_deep_as_the_lowest_of_the_disc_that_passed():
    """Down along X the last of the disc to pass a point is its trailing rim, and it is the lowest: at a point
    beside the axis by d, the way's height the root of r2 - d2 further on.
    """
    tool, moves, _ = EXACT["a ramp"]
    slope, r, total = 20 / 400, 3.175, 0.0
    d = np.linspace(-r, r, 4001)
    for x in np.linspace(0.05, 199.95, 2000):
        z = 10 - slope * (x + 100 + np.sqrt(np.maximum(0, r * r - d * d)))
        total += np.trapezoid(np.clip(-z, 0, THICK), d) * 0.1
    assert removed(moves, tool) == pytest.approx(total, rel=0.005)


# -- against Booleans of solids


def solid(tool: Cutter) -> Manifold:
    """A cutter, its tip at the origin, its shank 60 mm long. Only corners: hulls of solids with points along
    straight sides came out too large by half (seen at 32 points; by closed form and sweep alike).
    """
    heights = np.concatenate([np.linspace(0, 1, 32) ** 2 * tool.height_at(tool.radius), [60.0]])
    points = [(0.0, 0.0)] + [(tool.radius_at(h), h) for h in heights[:-1]]
    points += [(tool.radius, heights[-2]), (tool.radius, 60.0), (0.0, 60.0)]
    half = list(LineString(points).simplify(1e-4).coords)
    return Manifold.revolve(CrossSection([half]), 96)


CONVEX = [k for k in KINDS if k.kind != "roundover"]


@pytest.mark.parametrize("seed", spread(range(54), 20))
def test_random_programs_take_off_what_a_boolean_of_solids_does(seed):
    rng = np.random.default_rng(seed)
    tool = CONVEX[seed % len(CONVEX)]
    width, height = rng.uniform(60, 160), rng.uniform(40, 100)
    sheet = Manifold.cube([width, height, THICK]).translate([0, 0, -THICK])
    form, moves, swept = solid(tool), [], []
    deepest = min(15.0, 0.9 * tool.diameter)
    for _ in range(rng.integers(2, 4)):
        at = np.array([rng.uniform(-5, width + 5), rng.uniform(-5, height + 5), rng.uniform(-deepest, 0)])
        moves += [row(RAPID, at[0], at[1], 5), row(LINE, *at)]
        swept.append(form.translate(at.tolist()))
        for _ in range(rng.integers(1, 4)):
            to = at + [rng.uniform(-60, 60), rng.uniform(-40, 40), rng.uniform(-4, 4)]
            to[2] = min(-0.1, max(-deepest, to[2]))
            moves.append(row(LINE, *to))
            swept.append(Manifold.batch_hull([form.translate(at.tolist()), form.translate(to.tolist())]))
            at = to
    taken = sheet - Manifold.batch_boolean(swept, op=_add())
    exact = sheet.volume() - taken.volume()
    assert removed(moves, tool, width, height) == pytest.approx(exact, rel=0.005, abs=2.0)


def _add():
    from manifold3d import OpType

    return OpType.Add


# -- heights


@pytest.mark.parametrize("spread", (False, True))
@pytest.mark.parametrize("tool", KINDS, ids=lambda c: f"{c.kind} {c.angle or ''}")
def test_heights_are_the_lowest_of_the_cutter_that_passed(tool, spread):
    """Where the side of a cutter stands upright a hair of plan is any height: looked at within 1/400 of
    its radius to both sides (the steps in which its profile is tabulated).
    """
    rng = np.random.default_rng(7)
    ends = np.column_stack([rng.uniform(5, 35, (7, 2)), rng.uniform(-8, 1, 7)])
    moves = np.array([row(LINE if k else RAPID, *p) for k, p in enumerate(ends)])
    cell = 0.5
    body = StockBody(Box(0, 0, 40, 40), cell, spread=spread)
    body.cut(moves, tool)
    body.settle()
    away = np.linspace(0, tool.radius, 4000)
    rise = np.array([tool.height_at(a) for a in away])
    way = np.concatenate([a + (b - a) * np.linspace(0, 1, 1500)[:, None] for a, b in pairwise(ends)])
    slack = tool.radius / 400 + 0.01

    def lowest(x, y, by):
        d = np.maximum(0, np.hypot(way[:, 0] - x, way[:, 1] - y) + by)
        near = d <= tool.radius
        return min(0.0, float((way[near, 2] + np.interp(d[near], away, rise)).min())) if near.any() else 0.0

    for i, j in rng.integers(0, 80, (60, 2)):
        px, py = point_of(i, j, cell, spread)
        x, y = j * cell + px, i * cell + py
        slot = body.index[i // 64, j // 64]
        here = float(body.tiles[slot, i % 64, j % 64]) if slot >= 0 else 0.0
        assert lowest(x, y, -slack) - 0.01 <= here <= lowest(x, y, slack) + 0.01


def test_horizontal_error_is_below_a_cell_on_a_full_sheet():
    """A slot on a full sheet is as wide as its cutter, within a cell, wherever it lies."""
    cell = cell_of(2440, 1220)
    body = StockBody(Box(0, 0, 2440, 1220), cell)
    for k in range(12):
        y = 50.0 + 90.123 * k
        body.cut(np.array([row(RAPID, 50, y, -5), row(LINE, 2300, y + 7, -5)]), FLAT)
    across = math.cos(math.atan2(7, 2250))
    for k in range(12):
        x, y = 1000.0, 50.0 + 90.123 * k + 7 * 950 / 2250
        ys = np.arange(y - 5, y + 5, 0.01)
        cut = ys[body.heights(np.column_stack([np.full(len(ys), x), ys])) < -4.99]
        assert abs((cut[-1] - cut[0]) * across - 6.35) < cell
        assert abs((cut[-1] + cut[0]) / 2 - y) < cell


@pytest.mark.parametrize("outline", ([(0, 0), (100, 0), (0, 80)], [(10, 5), (90, 20), (60, 75)]))
def test_a_remnant_is_cut_within_its_own_outline(outline):
    """A slot right across a remnant takes its width times the way within the outline (shapely), no more; and
    the remnant is gone beyond, at any moment and seen closely.
    """
    way = LineString([(-10, 30), (110, 30)])
    within = Polygon(outline).intersection(way.buffer(3, cap_style="flat")).area
    text = "G21 G90\nS9000 M3\nG0 X-10 Y30\nG0 Z5\nG1 Z-4 F900\nG1 X110 F3000\nG0 Z5\nM5\nM30\n"
    world = replace(world_of("100x80x10", ["flat:6"], None, "0,0", Axes()), outline=outline)
    found = prove_programs([("p.nc", text)], world, (0.0, 0.0), False)
    assert found.removed == pytest.approx(4 * within, rel=0.005)
    moves = np.array([row(RAPID, -10, 30, 5), row(LINE, -10, 30, -4, 900), row(LINE, 110, 30, -4, 3000)])
    stage = Stage(moves, world.any_tool.cutter, 0.0, np.array([0.0, 1.0, 5.0]))
    film = Moments(Box(0, 0, 100, 80), 0.25, [stage], outline=outline)
    spots = np.random.default_rng(1).uniform((1, 1), (99, 79), (300, 2))
    inside = Polygon(outline).buffer(-0.5)
    outside = Polygon(outline).buffer(0.5)
    for body in (film.at(0.0), film.at(3.0), film.final, film.close(3.0, Box(0, 0, 100, 80), 0.2)):
        h = body.heights(spots)
        for (x, y), z in zip(spots, h, strict=True):
            if inside.contains(Point(x, y)):
                assert -4.01 <= z <= 0
            elif not outside.contains(Point(x, y)):
                assert z < -100
