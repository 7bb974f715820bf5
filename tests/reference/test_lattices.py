"""Many like pieces against what a hand lays out on paper: rows and columns of six shapes, each with the
formula that a programmer would use (elementary geometry of the shapes; common practice).
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import MultiPoint

from tests.conftest import MANY
from tests.support.breadth import spread
from venzo.core.nesting.engine import Search
from venzo.core.nesting.fill import Fill
from venzo.core.nesting.lattice import MOST_POSES, Lattice, _upright
from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.verify import faults
from venzo.core.nesting.worth import Worth

pytestmark = pytest.mark.usefixtures("short_steps")

HIGH, GAP = 1220.0, 6.0


def regular(n, radius):
    return [
        [radius * math.cos(2 * math.pi * k / n), radius * math.sin(2 * math.pi * k / n)] for k in range(n)
    ]


def zigzag(count, across, along, end):
    """Columns of n and n - 1 (or n) by turns: pitch ``across`` in a column, ``along`` between columns, whose
    outer ones reach ``end`` to each side."""
    high = across - GAP
    full = int((HIGH - high) / across + 1e-9) + 1
    half = int((HIGH - high - across / 2) / across + 1e-9) + 1
    columns = 0
    while count > 0:
        count -= half if columns % 2 else full
        columns += 1
    return 2 * end + (columns - 1) * along


def rows(count, pitch, wide, high, each=1):
    """Rows of ``each`` pieces a pitch, ``wide`` for the last, as many rows as go into the strip."""
    in_strip = int((HIGH + GAP) / (high + GAP) + 1e-9)
    per_row = math.ceil(count / in_strip)
    return (math.ceil(per_row / each) - 1) * pitch + wide


def slant(x, y):
    """How far two parallel slanting edges are apart along X when they are the gap apart."""
    return GAP * math.hypot(x, y) / y


HEX, DISC = 60.0, 55.0
FLAT = math.sqrt(3) * HEX + GAP
SHAPES = {
    "hexagons": (regular(6, HEX), 200, (0, 90), zigzag(200, FLAT, FLAT * math.sqrt(3) / 2, HEX)),
    "discs": (
        [[x, y, math.tan(math.pi / 8)] for x, y in regular(4, DISC)],
        200,
        (0,),
        zigzag(200, 2 * DISC + GAP, (2 * DISC + GAP) * math.sqrt(3) / 2, DISC),
    ),
    "rectangles": ([[0, 0], [190, 0], [190, 110], [0, 110]], 90, (0, 90), rows(90, 196, 190, 110)),
    "right triangles": (
        [[0, 0], [200, 0], [0, 160]],
        120,
        (0, 180),
        rows(120, 200 + slant(200, 160) + GAP, 200 + slant(200, 160), 160, each=2),
    ),
    "trapezoids": (
        [[0, 0], [240, 0], [180, 110], [60, 110]],
        100,
        (0, 180),
        rows(100, 360 + 2 * slant(60, 110), 420 + slant(60, 110), 110, each=2),
    ),
    "parallelograms": (
        [[0, 0], [150, 0], [210, 120], [60, 120]],
        100,
        (0,),
        rows(100, 150 + slant(60, 120), 210, 120),
    ),
}


def problem(outline, quantity, turns, sheet=(20_000, HIGH), copies=1, gap=GAP, margin=0):
    sheet = {"id": "s", "width": sheet[0], "height": sheet[1], "quantity": copies, "margin": margin}
    part = {"id": "p", "outline": outline, "quantity": quantity, "rotations": list(turns)}
    return NestProblem.model_validate({"sheets": [sheet], "parts": [part], "spacing": gap})


def laid(p):
    worth = Worth(p)
    return Lattice(p, worth, Fill(p)).layout(), worth


@pytest.mark.parametrize("name", spread(SHAPES, 3))
def test_columns_are_no_longer_than_rows_by_hand(name):
    outline, count, turns, by_hand = SHAPES[name]
    p = problem(outline, count, turns)
    placements, worth = laid(p)
    assert faults(p, placements) == [] and not worth.failed(placements)
    assert worth.uses(placements)[0].used_length <= 1.002 * by_hand


def test_the_hexagons_of_the_bench():
    """200 hexagons of 60 mm side, 6 mm apart on a strip of 1,220 mm take 1,833.5 mm in rows by hand."""
    assert SHAPES["hexagons"][3] == pytest.approx(1833.5, abs=0.1)


def test_a_search_starts_from_them_and_is_never_worse():
    outline, count, turns, by_hand = SHAPES["trapezoids"]
    search = Search(problem(outline, count, turns))
    while search.steps < 4 and search.step():
        pass
    assert search.best is not None and not search.best.unplaced
    assert search.best.sheets[0].used_length <= 1.002 * by_hand


def test_full_sheets_carry_the_same_layout():
    p = problem(regular(6, HEX), 400, (0, 90), sheet=(1220, 1220), copies=8, margin=10)
    placements, worth = laid(p)
    assert faults(p, placements) == [] and not worth.failed(placements)
    on = {}
    for pl in placements:
        on.setdefault(pl.sheet_copy, set()).add((round(pl.x, 3), round(pl.y, 3), pl.rotation))
    full = [on[n] for n in sorted(on)[:-1]]
    assert len(full) >= 3 and all(s == full[0] for s in full)
    assert len(on[max(on)]) <= len(full[0])


def test_other_parts_are_laid_about_them():
    p = problem(regular(6, HEX), 60, (0,), sheet=(2440, 1220), copies=2)
    more = {"id": "q", "outline": [[0, 0], [300, 0], [300, 90]], "quantity": 7, "rotations": [0, 180]}
    p = NestProblem.model_validate({**p.model_dump(by_alias=True), "parts": [p.parts[0].model_dump(), more]})
    placements, worth = laid(p)
    assert faults(p, placements) == [] and not worth.failed(placements)


def test_what_only_fills_up_opens_no_sheet():
    p = problem(regular(6, HEX), 60, (0,), sheet=(1220, 1220), copies=3)
    fill = {**p.parts[0].model_dump(), "fill": True}
    p = NestProblem.model_validate({**p.model_dump(by_alias=True), "parts": [fill]})
    assert Lattice(p, Worth(p), Fill(p)).many == []


def test_of_a_part_that_turns_freely_only_turns_at_right_angles_are_paired():
    """All pairs of dozens of turns would take minutes."""
    p = problem(SHAPES["trapezoids"][0], 40, (0,))
    part = {**p.parts[0].model_dump(), "rotations": "free", "mirror": True}
    p = NestProblem.model_validate({**p.model_dump(by_alias=True), "parts": [part]})
    fill = Fill(p)
    poses = fill.poses("p", None)
    chosen = _upright(poses)
    assert len(poses) > MOST_POSES >= len(chosen) > 1
    assert {round((q.rotation - poses[0].rotation) % 90, 6) % 90 for q in chosen} == {0.0}


def test_a_stop_ends_it_between_two_ways_of_laying():
    p = problem(regular(6, HEX), 200, (0, 90))
    asked = []

    def stop():
        asked.append(1)
        return len(asked) > 6

    assert Lattice(p, Worth(p), Fill(p)).layout(stop) is None


points = st.lists(st.tuples(st.integers(0, 200), st.integers(0, 160)), min_size=4, max_size=9)


@settings(max_examples=5 * MANY)
@given(
    points,
    st.integers(8, 40),
    st.sampled_from([(0,), (0, 180), (0, 90, 180, 270)]),
    st.sampled_from([0.0, 4.0, 12.5]),
)
def test_whatever_the_shape_nothing_is_too_near(corners, count, turns, gap):
    hull = MultiPoint(corners).convex_hull
    if hull.geom_type != "Polygon" or hull.area < 500:
        return
    outline = [[float(x), float(y)] for x, y in list(hull.exterior.coords)[:-1]]
    # a notch makes it no convex one
    middle = np.mean(outline, axis=0)
    a, b = np.array(outline[0]), np.array(outline[1])
    outline.insert(1, ((a + b) / 2 * 0.6 + middle * 0.4).tolist())
    p = problem(outline, count, turns, sheet=(1500, 700), copies=6, gap=gap, margin=8)
    placements, worth = laid(p)
    if placements is not None:
        assert faults(p, placements) == []
        assert not worth.failed(placements) or len(worth.uses(placements)) == 6
