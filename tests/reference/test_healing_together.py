"""Healings together: gaps, lines drawn twice, lines turned round, lines in pieces, small holes, in any
company: the area is the drawn one, or it is said.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import MANY, dxf
from venzo.core.parts.intake import take_in
from venzo.formats.drawing_file import read_file


def outline(rng, corners):
    """A star-shaped outline: (x, y, bulge) rows, and its area."""
    turn = (np.arange(corners) + rng.uniform(-0.25, 0.25, corners)) * 2 * math.pi / corners
    radius = rng.uniform(60, 140, corners)
    xy = np.column_stack([radius * np.cos(turn), radius * np.sin(turn)])
    bulge = np.where(rng.random(corners) < 0.3, rng.uniform(-0.12, 0.12, corners), 0.0)
    nxt = np.roll(xy, -1, axis=0)
    area = (xy[:, 0] * nxt[:, 1] - xy[:, 1] * nxt[:, 0]).sum() / 2
    chord = np.hypot(*(nxt - xy).T)
    angle = 4 * np.arctan(np.abs(bulge))
    with np.errstate(divide="ignore", invalid="ignore"):
        segment = np.where(
            bulge != 0, (angle - np.sin(angle)) / 2 * (chord / 2 / np.sin(angle / 2)) ** 2, 0.0
        )
    return xy, bulge, area + (np.sign(bulge) * segment).sum()


def drawn(rng, gap, twins, near, turned, pieces, holes, corners):
    """The outline taken apart and spoiled, as a file; and its area."""
    xy, bulge, area = outline(rng, corners)
    lines = []
    for k in range(corners):
        a, b = xy[k].copy(), xy[(k + 1) % corners].copy()
        if gap and rng.random() < 0.5:
            a += rng.uniform(-1, 1, 2) * gap / 3
        if pieces and bulge[k] == 0 and rng.random() < 0.4:
            t = rng.uniform(0.3, 0.5)
            lines += [(a, a + (b - a) * (t + 0.2), 0.0), (a + (b - a) * t, b, 0.0)]
        else:
            lines.append((a, b, bulge[k]))
        if twins and rng.random() < 0.5:
            off = rng.uniform(-1, 1, 2) * near
            lines.append((a + off, b + off, bulge[k]))
    for h in range(holes):
        cx, cy, r = (h - holes / 2) * 12.0, 0.0, 1.0
        c = [np.array([cx + r * x, cy + r * y]) for x, y in ((1, 0), (0, 1), (-1, 0), (0, -1))]
        lines += [(c[i], c[(i + 1) % 4], 0.0) for i in range(4)]
        area -= 2.0 * r * r
    rng.shuffle(lines)

    def do(m):
        for a, b, k in lines:
            if turned and rng.random() < 0.5:
                a, b, k = b, a, -k
            if k:
                m.add_lwpolyline([(*a, k), (*b, 0)], format="xyb")
            else:
                m.add_line(a, b)

    return dxf(do), area


SPOILT = st.tuples(
    st.integers(0, 10**6),
    st.sampled_from([0.0, 0.0008, 0.005, 0.02]),
    st.booleans(),
    st.sampled_from([0.0, 0.0004, 0.004]),
    st.booleans(),
    st.booleans(),
    st.sampled_from([0, 0, 3]),
    st.integers(5, 14),
)


@settings(max_examples=100 * min(MANY, 5))
@given(SPOILT)
def test_an_outline_survives_all_that_is_mended_about_it(how):
    seed, gap, twins, near, turned, pieces, holes, corners = how
    rng = np.random.default_rng(seed)
    data, area = drawn(rng, gap, twins, near, turned, pieces, holes, corners)
    got = take_in(read_file(data, "spoilt.dxf"), "spoilt.dxf")
    said = {s.rule for s in got.snags if s.severity != "note"}
    areas = sorted((p.shape.region.area for p in got.parts for _ in range(p.quantity)), reverse=True)
    right = len(areas) == 1 and areas[0] == pytest.approx(area, rel=2e-4, abs=2.0 * (gap + near) * 140)
    assert right, (areas, area, said, [s.message for s in got.snags])


def test_small_holes_of_lines_are_not_lost_at_a_wide_join():
    """Three holes of 1 mm drawn in lines vanished without a word when gaps of 1.2 mm were to be closed."""
    rng = np.random.default_rng(4)
    data, area = drawn(rng, 0.0, False, 0.0, False, False, 3, 8)
    for join in (0.05, 0.3, 1.2, 2.5):
        got = take_in(read_file(data, "holes.dxf"), "holes.dxf", "mm", join)
        (part,) = got.parts
        lost = 3 - len(part.shape.region.holes)
        assert lost == 0 and part.shape.region.area == pytest.approx(area, rel=1e-6), (
            join,
            [s.message for s in got.snags],
        )


def test_lines_that_a_wide_join_swallows_are_told():
    """A plate whose small notch is drawn with a gap: closed only by a join as wide as the notch itself."""
    points = [(0, 0), (50, 0), (50, 1), (51, 1), (51, 0), (100, 0), (100, 60), (0, 60)]
    sides = [*pairwise(points), (points[-1], (0.0, 1.5))]
    data = dxf(lambda m: [m.add_line(a, b) for a, b in sides])
    got = take_in(read_file(data, "notch.dxf"), "notch.dxf", "mm", 2.0)
    assert len(got.parts) == 1 and any(s.rule == "intake.lost" and s.severity == "look" for s in got.snags), [
        s.message for s in got.snags
    ]
