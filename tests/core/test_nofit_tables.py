"""No-fit polygons and depth tables against shapely: the same question asked of a library that shares nothing
with ours.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import translate
from shapely.geometry import Point, Polygon

from tests.conftest import MANY
from tests.support.breadth import spread
from venzo.core.nesting import tables
from venzo.core.nesting.arena import Arena
from venzo.core.nesting.forms import SAFE, make_forms
from venzo.core.nesting.nofit import no_fit
from venzo.core.nesting.problem import NestProblem
from venzo.core.nesting.separate import overlaps


@st.composite
def loops(draw, least=15.0, most=90.0):
    """A simple polygon around its own middle, convex or not, sometimes with right angles and parallel edges
    (the hard ties).
    """
    if draw(st.booleans()):
        w, h = draw(st.integers(20, 90)), draw(st.integers(20, 90))
        a, b = draw(st.integers(5, w - 5)), draw(st.integers(5, h - 5))
        return np.array(
            draw(
                st.sampled_from(
                    [
                        [[0, 0], [w, 0], [w, h], [0, h]],
                        [[0, 0], [w, 0], [w, b], [a, b], [a, h], [0, h]],
                        [[0, 0], [w, 0], [w, h], [w - 4, h], [w - 4, 4], [4, 4], [4, h], [0, h]],
                        [[0, 0], [w, 0], [a, h]],
                    ]
                )
            ),
            float,
        ) - (w / 2, h / 2)
    n = draw(st.integers(3, 11))
    r = draw(st.lists(st.floats(least, most), min_size=n, max_size=n))
    return np.array(
        [[q * math.cos(2 * math.pi * k / n), q * math.sin(2 * math.pi * k / n)] for k, q in enumerate(r)]
    )


def inside(rings, x, y):
    wind = 0
    for p in rings:
        q = np.roll(p, -1, axis=0)
        side = (q[:, 0] - p[:, 0]) * (y - p[:, 1]) - (x - p[:, 0]) * (q[:, 1] - p[:, 1])
        wind += int(((side > 0) & (p[:, 1] <= y) & (q[:, 1] > y)).sum()) - int(
            ((side < 0) & (p[:, 1] > y) & (q[:, 1] <= y)).sum()
        )
    return wind > 0


@settings(max_examples=150 * MANY)
@given(loops(), loops(), st.lists(st.tuples(st.floats(-1, 1), st.floats(-1, 1)), min_size=12, max_size=12))
def test_the_no_fit_polygon_holds_just_the_offsets_at_which_shapely_sees_an_overlap(a, b, spots):
    rings = no_fit([a], [b])
    low, high = np.concatenate(rings).min(0) - 3, np.concatenate(rings).max(0) + 3
    for u, v in spots:
        x, y = low + (np.array([u, v]) + 1) / 2 * (high - low)
        one, two = Polygon(a), translate(Polygon(b), x, y)
        if one.intersection(two).area > 1e-3 or one.distance(two) > 1e-3:  # touching is either
            assert inside(rings, x, y) == one.intersects(two)


def test_a_cap_may_lie_in_a_hoop():
    circle = np.array([[math.cos(k * math.pi / 24), math.sin(k * math.pi / 24)] for k in range(48)])
    rings = no_fit([circle * 60, circle[::-1] * 42], [circle * 30])
    assert (
        not inside(rings, 0, 0)
        and not inside(rings, 11.5, 0)
        and inside(rings, 13, 0)
        and inside(rings, 85, 0)
        and not inside(rings, 91, 0)
    )


@settings(max_examples=60 * MANY)
@given(
    loops(),
    loops(),
    st.sampled_from([0.0, 5.0]),
    st.sampled_from([[0], [0, 90, 180, 270], [0, 33, 200]]),
    st.integers(0, 2**31),
)
def test_gaps_are_exact_and_overlaps_are_never_missed_from_either_side(a, b, spacing, rotations, seed):
    """The depth that the search drives to zero is spacing less shapely's distance outside, and more than the
    spacing inside.
    """
    rng = np.random.default_rng(seed)
    parts = [
        {"id": k, "outline": p.tolist(), "quantity": 1, "rotations": rotations}
        for k, p in (("a", a), ("b", b))
    ]
    forms = make_forms(
        NestProblem.model_validate(
            {"sheets": [{"id": "s", "width": 500, "height": 500}], "parts": parts, "spacing": spacing}
        )
    )
    forms.fields.ensure(Arena.tables(forms, [0, 1], []))

    def solid(form, turn, x, y):
        c, s = forms.spin[turn]
        return Polygon(forms.forms[form].loops[0] @ np.array([[c, s], [-s, c]]) + (x, y))

    for _ in range(25):
        (f, r), (g, q) = (forms.ways[int(rng.integers(len(forms.ways)))] for _ in range(2))
        reach = 1.3 * (np.abs(forms.boxes[f, r]).max() + np.abs(forms.boxes[g, q]).max())
        x, y = (0.0 if rng.random() < 0.15 else float(v) for v in rng.uniform(-reach, reach, 2))
        arena = Arena(forms, [0, 0], [], [(0, 0, 1, 1)])
        arena.put(0, f, r, 0.0, 0.0)
        arena.put(1, g, q, x, y)
        one = overlaps(0, arena.pose, arena.place, arena.depths, arena.reach, arena.address)
        two = overlaps(1, arena.pose, arena.place, arena.depths, arena.reach, arena.address)
        own, other = solid(f, r, 0, 0), solid(g, q, x, y)
        gap = own.distance(other)
        if gap > 1e-3:
            assert one == pytest.approx(max(0.0, spacing + SAFE - gap), abs=2e-3) and two == pytest.approx(
                one, abs=2e-3
            )
        elif own.intersection(other).area > 0.5:
            assert min(one, two) > spacing


@pytest.mark.parametrize("cells", [tables.CELLS, tables.FEWER])
@pytest.mark.parametrize("radius", spread([65.2598269741674, 19.0, 240.0, 900.0], 2))
def test_a_corner_that_is_hardly_one_hides_no_overlap(radius, cells, monkeypatch):
    """Two hoops, seen from places straight inside the corners of their chords: rounding once said that 13 mm
    deep was outside, and hundreds of layouts after it were for nothing.
    """
    monkeypatch.setattr(tables, "CELLS", cells)
    hole = [[-0.7 * radius, 0, 1], [0.7 * radius, 0, 1]]
    hoop = {"id": "d", "outline": [[-radius, 0, 1], [radius, 0, 1]], "holes": [hole], "quantity": 2}
    sheet = {"id": "s", "width": 5000, "height": 5000}
    forms = make_forms(NestProblem.model_validate({"sheets": [sheet], "parts": [hoop], "spacing": 8}))
    forms.fields.ensure(Arena.tables(forms, [0], []))
    loop = forms.forms[0].loops[0]
    (rings,) = no_fit([loop], [loop])
    form, turn = forms.ways[0]
    arena = Arena(forms, [0, 0], [], [(0, 0, 1, 1)])
    arena.put(0, form, turn, 0.0, 0.0)
    solid = Polygon(rings)
    rng = np.random.default_rng(1)
    depths = radius * 10 ** rng.uniform(-2, -0.15, 25)
    for x, y in rings:
        out = np.array([x, y]) / math.hypot(x, y)
        for depth in depths:
            at = (x, y) - depth * out + rng.uniform(-4e-3, 4e-3, 2)
            arena.put(1, form, turn, *at)
            found = overlaps(1, arena.pose, arena.place, arena.depths, arena.reach, arena.address)
            # exact near the rim; a cell deep inside knows the distance at its middle and its slope
            assert found == pytest.approx(8 + SAFE + solid.exterior.distance(Point(at)), abs=0.02 * radius)
