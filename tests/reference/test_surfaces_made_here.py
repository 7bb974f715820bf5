"""Surfaces made here against closed forms: caps, planes, quarter rounds, walls and sections (elementary
geometry, written anew here), on outlines for which the distance to the rim is known.
"""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from venzo.core.geometry.contour import Contour
from venzo.core.relief import surface_forms as f
from venzo.core.relief.drop import Ground
from venzo.core.relief.formed_mesh import formed_mesh
from venzo.core.relief.surface_forms import Formed, Laid, Line
from venzo.core.snags import BadInput

CHORD = 0.002
"""mm by which chords of an outline lie inside it."""


def heights(field, laid, at):
    made = Formed(field=Line.of(field), laid=tuple(Laid(form=g, lines=(Line.of(c),)) for g, c in laid))
    mesh = formed_mesh("made", made, {})
    return Ground(mesh.triangles, lowest=-999.0).heights(np.asarray(at, float)), mesh


def inside(rng, radius, n=4000):
    a, r = rng.uniform(0, 2 * math.pi, n), radius * np.sqrt(rng.uniform(0, 0.995, n))
    return np.column_stack([r * np.cos(a), r * np.sin(a)]), r


@given(radius=st.floats(8, 80), share=st.floats(0.05, 1.0))
@settings(max_examples=6, deadline=None)
def test_a_dome_over_a_circle_is_a_spherical_cap(radius, share):
    high = max(0.1, round(radius * share, 3))
    disc = Contour.circle(0, 0, radius)
    at, r = inside(np.random.default_rng(1), radius)
    z, _mesh = heights(disc, [(f.Dome(height=high), disc)], at)
    ball = (radius**2 + high**2) / (2 * high)  # the ball of which the cap is cut
    # how far from the ball's surface, normal to it
    off = np.hypot(r, z + ball - high) - ball
    assert np.abs(off).max() <= f.SAGITTA + 2 * CHORD


@given(st.floats(10, 60), st.floats(0.5, 8), st.floats(0, 60))
@settings(max_examples=6, deadline=None)
def test_walls_of_a_plateau_lean_as_asked(half, high, draft):
    square = Contour.of([(-half, -half), (half, -half), (half, half), (-half, half)])
    field = Contour.circle(0, 0, 2 * half)
    rng = np.random.default_rng(2)
    at = rng.uniform(-1.2 * half, 1.2 * half, (4000, 2))
    rim = half - np.abs(at).max(axis=1)
    clear = np.abs(rim) > 0.01
    z, _mesh = heights(field, [(f.Plateau(height=high, draft=draft), square)], at[clear])
    lean = math.tan(math.radians(draft))
    rim = rim[clear]
    want = np.where(
        rim < 0, 0, high if high * lean < 1e-3 else np.minimum(high, np.maximum(rim, 0) / max(lean, 1e-9))
    )
    # the line where two walls meet runs across the squares of the grid
    corner = np.abs(np.abs(at[clear, 0]) - np.abs(at[clear, 1])) < 1.0
    assert np.abs(z - want)[~corner].max() < 0.02
    assert np.abs(z - want)[corner].max(initial=0.0) < min(high, 1.0 / max(lean, 0.1))


@given(st.floats(0, 360), st.floats(-6, 6), st.floats(-6, 6))
@settings(max_examples=6, deadline=None)
def test_a_ramp_is_a_plane(angle, low, high):
    box = Contour.of([(0, 0), (80, 0), (80, 50), (0, 50)])
    at = np.random.default_rng(3).uniform((0.1, 0.1), (79.9, 49.9), (2000, 2))
    if abs(high - low) < 0.1:
        return
    z, _mesh = heights(box, [(f.Ramp(low=low, high=high, angle=angle), box)], at)
    way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    along = np.array([(x * way[0] + y * way[1]) for x in (0, 80) for y in (0, 50)])
    want = low + (high - low) * (at @ way - along.min()) / np.ptp(along)
    assert np.abs(z - want).max() < 1e-6


def test_a_rounded_edge_is_a_quarter_of_a_circle():
    box = Contour.of([(0, 0), (80, 0), (80, 50), (0, 50)])
    y = np.linspace(0.02, 10, 400)
    at = np.column_stack([np.full(400, 40.0), y])
    z, _mesh = heights(box, [(f.RoundedEdge(radius=6), box)], at)
    off = np.where(y < 6, np.hypot(6 - y, z + 6) - 6, z)
    assert np.abs(off).max() <= f.SAGITTA + 2 * CHORD


def test_a_section_is_carried_along_its_line_left_of_it_above_nought():
    field = Contour.of([(0, 0), (200, 0), (200, 100), (0, 100)])
    line = Contour.of([(20, 50), (180, 50)], False)
    swept = f.SweptSection(section=((-8, 0), (-2, 4), (0, 1), (6, 1), (6.5, 0)))
    y = np.linspace(30, 70, 801)
    at = np.column_stack([np.full(801, 100.3), y])
    z, _mesh = heights(field, [(swept, line)], at)
    want = np.interp(y - 50, *zip(*swept.section, strict=True), left=0, right=0)
    assert np.abs(z - want).max() < 0.02
    # and nothing beyond the line's ends
    assert np.abs(heights(field, [(swept, line)], [(19.9, 48.0), (180.1, 52.0)])[0]).max() == 0


def test_a_bead_has_round_ends_and_its_own_height():
    field = Contour.of([(0, 0), (120, 0), (120, 60), (0, 60)])
    line = Contour.of([(30, 30), (90, 30)], False)
    at = np.array([(60, 30), (60, 33), (60, 36.05), (26, 30), (24, 30)], float)
    z, _mesh = heights(field, [(f.Bead(width=12, height=6), line)], at)
    want = [6, math.sqrt(36 - 9), 0, math.sqrt(36 - 16), 0]
    assert z == pytest.approx(want, abs=0.05)


def test_forms_meet_in_their_order():
    field = Contour.of([(0, 0), (100, 0), (100, 60), (0, 60)])
    box = Contour.of([(20, 10), (80, 10), (80, 50), (20, 50)])
    tall, low = f.Plateau(height=4, draft=0), f.Plateau(height=1, draft=0, together="lower")
    spot = [(50, 30)]
    assert heights(field, [(tall, box), (low, box)], spot)[0] == pytest.approx([1])
    assert heights(field, [(low, box), (tall, box)], spot)[0] == pytest.approx([4])  # 0 is lower than 1
    cut = f.Plateau(height=1.5, draft=0, together="cut")
    assert heights(field, [(tall, box), (cut, box)], spot)[0] == pytest.approx([2.5])
    high = f.Plateau(height=6, draft=0, together="higher")
    assert heights(field, [(tall, box), (high, box)], spot)[0] == pytest.approx([6])


def test_upright_walls_stand_upright_on_slanted_outlines():
    field = Contour.circle(0, 0, 40)
    a = np.arange(5) * 2 * math.pi / 5 + 0.3
    star = Contour.of(np.column_stack([20 * np.cos(a), 20 * np.sin(a)]))
    edge = np.array([star.at(s)[:2] for s in np.linspace(0, star.length, 200, endpoint=False)])
    z_in, mesh = heights(field, [(f.Plateau(height=3, draft=0), star)], edge * 0.9995)
    z_out, _mesh = heights(field, [(f.Plateau(height=3, draft=0), star)], edge * 1.0005)
    assert (z_in == 3).all()
    assert (z_out == 0).all()
    assert mesh.outline.area == pytest.approx(math.pi * 1600, rel=1e-4)


def test_a_texture_repeats_its_picture():
    from venzo.core.relief.height_grid import grid_mesh

    field = Contour.of([(0, 0), (80, 0), (80, 40), (0, 40)])
    picture = grid_mesh("t", np.array([[0.0, 1.0, 0.0], [0.0, 1.0, 0.0]])).placed((0.5, 1, 1), (0, 0, 0))
    made = Formed(
        field=Line.of(field),
        laid=(Laid(form=f.Texture(name="t", surface="0" * 32, tile=20, height=2), lines=(Line.of(field),)),),
    )
    ground = Ground(formed_mesh("made", made, {"0" * 32: picture}).triangles)
    x = np.array([0.0, 5, 10, 15, 25, 30, 70])
    z = ground.heights(np.column_stack([x, np.full(7, 11.3)]))
    assert z == pytest.approx([0, 1, 2, 1, 1, 2, 2], abs=0.05)
    with pytest.raises(BadInput, match="picture is not there"):
        formed_mesh("made", made, {})


def test_what_cannot_be_made_is_said():
    tiny = Contour.of([(0, 0), (0.5, 0), (0.5, 0.5), (0, 0.5)])
    with pytest.raises(BadInput, match="at least 1 mm2"):
        heights(tiny, [(f.Dome(), tiny)], [(0.2, 0.2)])
    with pytest.raises(ValueError, match="from left to right"):
        f.SweptSection(section=((0, 1), (0, 2)))
