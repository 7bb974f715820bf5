"""What is kept of a sheet is free, whole, worth it, and about as large as can be."""

import itertools
import random

import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon, box

from tests.support.breadth import spread
from venzo.core.yields.costing import CostRules
from venzo.core.yields.remnants import PARTING, remnants

SHEET = box(0, 0, 2000, 1000)


def some_taken(rng, n):
    return [
        box(x, y, x + rng.uniform(80, 700), y + rng.uniform(80, 500)).intersection(SHEET)
        for x, y in ((rng.uniform(0, 1500), rng.uniform(0, 800)) for _ in range(n))
    ]


def keeps(short, area):
    return CostRules().worth_keeping(short, area)


@pytest.mark.parametrize("seed", spread(range(12), 4))
def test_what_is_kept_is_free_apart_and_worth_it(seed):
    rng = random.Random(seed)
    shapes = [*some_taken(rng, 5), Point(rng.uniform(0, 2000), 500).buffer(rng.uniform(50, 300))]
    taken = shapely.union_all(shapes)
    found = remnants(SHEET, taken, keeps)
    for r in found:
        assert r.polygon.intersection(taken).area < 1e-3 and SHEET.buffer(1e-6).covers(r.polygon)
        assert min(r.size) >= CostRules().keep_side - 1e-6 and r.area >= 8e4 - 1
    for a, b in itertools.combinations(found, 2):
        assert a.polygon.distance(b.polygon) >= PARTING - 1e-6


@pytest.mark.parametrize("seed", spread(range(12), 4))
def test_the_first_is_about_the_largest_there_is(seed):
    """Against every rectangle between edges of what is taken."""
    rng = random.Random(100 + seed)
    shapes = some_taken(rng, 4)
    taken = shapely.union_all(shapes)
    xs = sorted({0.0, 2000.0, *(v for s in shapes for v in s.bounds[::2])})
    ys = sorted({0.0, 1000.0, *(v for s in shapes for v in s.bounds[1::2])})
    best = 0.0
    for x0, x1 in itertools.combinations(xs, 2):
        for y0, y1 in itertools.combinations(ys, 2):
            area = (x1 - x0) * (y1 - y0)
            if area > best and box(x0, y0, x1, y1).intersection(taken).area < 1e-6:
                best = area
    found = remnants(SHEET, taken, lambda short, area: True, most=1)
    # cells are 8 mm wide: two rectangles alike to that are alike
    assert found[0].area >= 0.97 * best and found[0].area <= best + 1e-3


def test_of_an_irregular_sheet_the_true_outline_is_kept():
    sheet = Polygon([(0, 0), (1500, 0), (1500, 400), (900, 900), (0, 900)])
    found = remnants(sheet, box(0, 0, 500, 900), keeps)
    assert not found[0].rectangular and found[0].area == pytest.approx(sheet.area - 500 * 900)
    assert found[0].polygon.within(sheet.buffer(1e-6))


def test_a_free_strip_between_rows_is_found_to_its_full_width():
    taken = shapely.union_all([box(0, 0, 2000, 390), box(0, 610.5, 2000, 1000)])
    found = remnants(SHEET, taken, keeps)
    assert found[0].box == pytest.approx((0, 390, 2000, 610.5))


def test_a_thin_kerf_across_parts_what_is_kept():
    taken = shapely.union_all([box(0, 0, 600, 1000), LineString([(1300, 0), (1300, 1000)]).buffer(3)])
    found = remnants(SHEET, taken, keeps)
    assert {tuple(round(v) for v in r.box) for r in found} == {(600, 0, 1297, 1000), (1303, 0, 2000, 1000)}


def test_nothing_is_kept_that_costs_more_to_handle_than_it_is_worth():
    rules = CostRules(remnant_handling=10.0)
    price = 20e-6  # a mm2
    assert rules.kept(400, 1.2e6, price) and not rules.kept(400, 0.9e6, price)
    assert rules.remnant_value(0.9e6, price) == 0.0
    assert rules.kept(400, 0.9e6, 0.0)  # without a price only its size counts
