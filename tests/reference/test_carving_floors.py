"""Floors of carvings at strokes just as wide as the bit is at the floor's depth: rings, ellipses, wavy
strokes, 2 % either side, against scipy's distance transform.
"""

import math

import numpy as np
import pytest
import shapely
from scipy.ndimage import distance_transform_edt
from shapely.geometry import LineString, Point, Polygon

from tests.conftest import MANY, dxf
from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Depths
from venzo.core.carving.sweep import flat, sweep
from venzo.core.geometry.offset import offset_points
from venzo.desk import vcarve
from venzo.formats.rs274 import read

SHARES = (-0.02, -0.004, 0.0, 0.0004, 0.004, 0.02)
CASES = [(4.0, 90.0, 2.0, 3.0), (6.0, 90.0, 3.0, 3.0), (3.464, 60.0, 3.0, 2.0)]
"""(critical width, angle, floor depth, end mill) as used hard: mm, degrees."""
WORST = 4000


def ring(width):
    return dxf(lambda m: (m.add_circle((40, 40), 30), m.add_circle((40, 40), 30 - width))), Point(
        40, 40
    ).buffer(30, quad_segs=400).difference(Point(40, 40).buffer(30 - width, quad_segs=400))


def ellipse(width):
    """A ring between an ellipse and its offset inwards: ``width`` wide all round."""
    t = np.linspace(0, 2 * math.pi, 1500)[:-1]
    outer = Polygon(np.column_stack([40 + 34 * np.cos(t), 30 + 22 * np.sin(t)]))
    return _drawn(outer.difference(outer.buffer(-width, quad_segs=64)))


def wavy(width):
    x = np.linspace(5, 75, 400)
    line = LineString(np.column_stack([x, 25 + 8 * np.sin(x / 6)]))
    return _drawn(line.buffer(width / 2, quad_segs=64))


def _drawn(shape):
    def draw(m):
        for r in [shape.exterior, *shape.interiors]:
            m.add_lwpolyline(list(r.coords)[:-1], close=True)

    return dxf(draw), shape


def errors(text, area, angle, floor, mill):
    """How far (mm, square to the wall) the swept surface of the written program lies beyond the carving as it
    should be, and how far short of it.

    The surface should lie at minus the lesser of distance to the walls / tan(angle / 2) and floor. scipy's
    distance transform, good to a cell, finds the worst places of the whole grid; at the ``WORST`` of them the
    distance is measured against the drawn walls themselves, so that the grid is not part of the answer.
    """
    cell, tan = 0.025, math.tan(math.radians(angle / 2))
    x0, y0, x1, y1 = (v + d for v, d in zip(area.bounds, (-4, -4, 4, 4), strict=True))
    s = flat((x0, y0, x1, y1), cell)
    bit = Bit(angle, 40)
    for b in read(text).blocks:
        if b.tool == 1 and "T2 M6" in text:
            sweep(s, b.moves, None, mill / 2)
        else:
            sweep(s, b.moves, bit)
    gx, gy = np.meshgrid(s.xs, s.ys)
    shapely.prepare(area)
    inside = shapely.contains_xy(area, gx, gy)
    below = (
        -np.minimum(np.maximum(distance_transform_edt(inside) * cell - cell / 2, 0.0) / tan, floor)
        - s.heights
    )

    def worst(sign):
        at = np.argpartition(sign * below.ravel(), -WORST)[-WORST:]
        away = np.where(
            inside.ravel()[at],
            shapely.distance(shapely.points(gx.ravel()[at], gy.ravel()[at]), area.boundary),
            0.0,
        )
        return float((sign * (-np.minimum(away / tan, floor) - s.heights.ravel()[at])).max() * tan)

    return worst(1), worst(-1)


SHORT = [(ring, CASES[1]), (wavy, CASES[0])]
ALL = [(shape, case) for shape in (ring, ellipse, wavy) for case in CASES]


@pytest.mark.parametrize(("shape", "case"), ALL if MANY > 1 else SHORT)
def test_no_floor_is_cut_through_the_walls_near_the_critical_width(shape, case):
    width, angle, floor, mill = case
    beyond = short = 0.0
    for share in (
        SHARES if MANY > 1 else SHARES[1:2] if shape is ring else SHARES[1:5:3]
    ):  # all in the long check
        data, area = shape(width * (1 + share))
        made = vcarve.vcarve(data, "x.dxf", Bit(angle, 40), Depths(floor=floor, clear=mill), vcarve.Feeds())
        assert not [s.message for s in made.snags if s.severity == "stop"]
        this = errors(made.text, area, angle, floor, mill)
        beyond, short = max(beyond, this[0]), max(short, this[1])
    print(
        f"{shape.__name__}, {width:g} mm, {angle:g} degrees: at worst {beyond:.3f} mm through the walls,"
        f" {short:.3f} mm short of them"
    )
    assert beyond <= 0.02
    assert short <= 0.025, (
        "ridges of 0.02 mm where the bit clears a floor of its own (carve.RIDGES), and the chords of path and"
        " drawing"
    )


def test_the_carvings_own_proof_finds_a_floor_that_is_too_wide(tmp_path):
    """A program in which the end mill runs in a groove too narrow for it: a stop with the place, on the
    command line too.
    """
    data, _area = ring(4.0)
    made = vcarve.vcarve(data, "x.dxf", Bit(90, 40), Depths(floor=2.0), vcarve.Feeds())
    c = vcarve.carve(shapely.union_all([_area]), Bit(90, 40), Depths(floor=2.0, clear=3.0))
    bad = (
        "%\nG21 G90\nT1 M6\nS18000 M3\nG0 X68 Y40\nG0 Z3\nG1 Z-2 F900\nG3 X12 Y40 I-28 J0\nG3 X68 Y40 I28"
        " J0\nG0 Z3\nT2 M6\n" + made.text.split("M3\n", 1)[1]
    )
    snag, *_more = vcarve.proven(bad, "bad.nc", c, (), 1)
    assert (
        snag.rule == "carve.gouge"
        and snag.severity == "stop"
        and "1.5" in snag.message.split(" mm through")[0]
    )
    assert not vcarve.proven(made.text, "good.nc", c)


def test_shrinking_a_sliver_leaves_nothing():
    """[EX] A strip thinner than the grid of whole numbers holds no disc: nothing is left of it, and it is
    never grown instead.
    """
    t = np.linspace(0, 2, 60)
    for thin in (1e-3, 1e-4, 1e-5, 0.0, -1e-5):
        strip = np.vstack(
            [np.column_stack([t, 0.1 * t * t]), np.column_stack([t[::-1], 0.1 * t[::-1] ** 2 + thin])]
        )
        assert offset_points([strip], -1.5) == []
