"""Programs of reliefs, read by another library and swept here, against the models they were made from.

Sources: the reader is the package gcodeparser; the sweep and the cutters' shapes are written down anew in
``tests/support/relief_sweep``; heights of models are those of their own formulas; public
meshes are the packages ``bunny`` and ``teapot`` (public domain, npm registry), made ones come from trimesh.
Cusps on planes and slopes: CHECK-VALUES (exact). Allowance 0.04 in, rough before finish, one file a cutter:
common practice.
"""

import json
import math
import re
from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from tests.conftest import MANY
from tests.support.breadth import spread
from tests.support.relief_sweep import dense, heights_on, rise, spared_to, swept_to, way_of
from venzo.core.relief.block import Block, Sitting
from venzo.core.relief.finishing import Finish
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.roughing import Rough
from venzo.desk import relief as desk
from venzo.desk.proving import tool
from venzo.desk.vcarve import Feeds

INTO, OVER = 0.02, 0.02
"""mm that a cutter may go into a model, and that may stay over its cusp."""
MODULES = Path(__file__).parents[2] / "web/node_modules"


def cutter(text):
    return tool(text)[1].cutter


def stl(mesh):
    return mesh.export(file_type="stl")


def surface(f, w, h, n):
    """A model of heights f(x, y) over w x h mm, n places a side, with its STL."""
    x, y = np.meshgrid(np.linspace(0, w, n), np.linspace(0, h, n))
    mesh = grid_mesh("m", f(x, y))
    mesh = mesh.placed((w / (n - 1), h / (n - 1), 1.0), (0.0, 0.0, 0.0))
    return stl(trimesh.Trimesh(mesh.points, mesh.faces, process=False))


def made(data, block, last, step=0.1, name="model.stl", rough=None, depth=0.0, margin=0.0, size=(), **more):
    inch = more.pop("inch", False)
    roughs = more.pop("roughs", {})
    how = desk.HowMade(
        tool(last)[1],
        Finish(step_over=step, **more),
        tool(rough)[1] if rough else None,
        Rough(level=3.0, allowance=1.0, **roughs),
        Feeds(),
        0.0,
        inch,
    )
    w, h, t = block
    sitting = Sitting(depth=depth, margin=margin, size=size)
    return desk.relief(data, name, Block(width=w, height=h, thickness=t), sitting, how)


def swept(out, kinds, points, spared=0.0):
    """Height to which all programs together cut places of the block; ``spared``: by cutters so much thinner
    all round.
    """
    z = np.zeros(len(points))
    for f, kind in zip(out.files, kinds, strict=True):
        words = kind.split(":")
        sizes = [float(v) for v in words[1:]]
        way = dense(*way_of(f.text), 0.03)
        z = np.minimum(z, spared_to(way, points, spared, words[0], *sizes))
    return z


def inside(rng, box, n):
    x0, y0, x1, y1 = box
    return np.column_stack([rng.uniform(x0, x1, n), rng.uniform(y0, y1, n)])


WAVY = [("raster", "ball:6"), ("rings", "ball:6"), ("rings", "taper:0.8:5:6")]
WAVY += [("spiral", "taper:0.8:5:6"), ("spiral", "ball:6"), ("raster", "taper:0.8:5:6")]


@pytest.mark.parametrize(("pattern", "last"), spread(WAVY, 2))
def test_a_wavy_surface_comes_out_true(pattern, last):
    """Waves of radius 8 mm and more, which either tip comes into everywhere; the margin lets it come to the
    rim's slopes as well.
    """
    w, h = 44.0, 30.0

    def f(x, y):
        return 2.0 * np.sin(x / 5.0) * np.cos(y / 6.0)

    out = made(surface(f, w, h, 221), (50, 36, 20), last, 0.12, depth=0.5, margin=4, pattern=pattern)
    assert not [s for s in out.snags if s.rule not in ("relief.step",)], out.snags
    rng = np.random.default_rng(5)
    at = inside(rng, (3.5, 3.5, 46.5, 32.5), 700)
    x, y = at[:, 0] - 3, at[:, 1] - 3
    top = f(*np.meshgrid(np.linspace(0, w, 221), np.linspace(0, h, 221))).max()
    model = f(x, y) - top - 0.5
    left = swept(out, [last], at) - model
    facets = 0.004  # triangles of 0.2 mm stand for waves: so far do they lie off them
    assert left.min() > -INTO - facets
    gx, gy = 0.4 * np.cos(x / 5) * np.cos(y / 6), -np.sin(x / 5) * np.sin(y / 6) / 3
    steep = np.hypot(1.0, np.hypot(gx, gy))
    radius = 3.0 if last.startswith("ball") else 0.8
    step = 2 * radius * 0.12 * steep  # between ways, on the slope, where they run along it
    hollow = 1 / (1 - radius / 8)  # ridges between ways are higher on a crest, lower in a hollow
    cusp = (radius - np.sqrt(radius**2 - (step / 2) ** 2)) * max(1.0, hollow)
    assert (left / steep <= cusp + OVER + facets).all()


@pytest.mark.parametrize("slope", spread([0.0, 0.5, 1.2], 2))
@pytest.mark.parametrize("angle", [0.0, 90.0])
def test_cusps_on_a_slope_are_those_of_the_formula(slope, angle):
    """CHECK-VALUES: rows along the slope's level lines leave R - sqrt(R2 - (s / 2 cos t)2), rows up and down
    it R - sqrt(R2 - (s / 2)2), normal to it.
    """
    n = 3

    def f(x, y):
        return slope * y + 0 * x

    out = made(surface(f, 24, 20, n), (24, 20, 60), "ball:4", 0.25, margin=0.0, angle=angle)
    way = dense(*way_of(out.files[0].text), 0.01)
    # all across the middle, where neighbours on both sides pass
    line = np.column_stack([np.full(1200, 12.03), np.linspace(7, 12, 1200)])
    if angle:
        line = np.column_stack([np.linspace(9, 14, 1200), np.full(1200, 10.03)])
    left = swept_to(way, line, "ball", 4.0) - (slope * (line[:, 1] - 20))
    normal = left / math.hypot(1, slope)
    rows = round((20 if not angle else 24) / 1.0)
    step = (20 if not angle else 24) / rows
    lies = step * math.hypot(1, slope) if not angle else step
    expected = 2 - math.sqrt(4 - (lies / 2) ** 2)
    assert normal.max() == pytest.approx(expected, abs=0.004)
    assert normal.min() > -0.004
    if not slope:
        assert out.cusp == pytest.approx(expected, abs=1e-9)


SLOPES = [("raster", 0.3), ("rings", 0.3), ("spiral", 0.3), ("rings", 1.2), ("raster", 1.2), ("spiral", 1.2)]
SLOPES += [("spiral", 3.0), ("raster", 3.0), ("rings", 3.0)]


@pytest.mark.parametrize(("pattern", "slope"), spread(SLOPES, 3))
def test_ridges_are_kept_on_slopes_by_closing_the_ways_up(pattern, slope):
    """A plane: whichever way lines run on it, its ridges are no higher than asked, normal to it."""
    asked = 0.03
    out = made(
        surface(lambda x, y: slope * y + 0 * x, 24, 20, 3),
        (24, 20, 90),
        "ball:4",
        0.25,
        cusp=asked,
        pattern=pattern,
    )
    way = dense(*way_of(out.files[0].text), 0.01)
    rng = np.random.default_rng(8)
    at = inside(rng, (5, 5, 19, 14), 1500)
    left = (swept_to(way, at, "ball", 4.0) - slope * (at[:, 1] - 20)) / math.hypot(1, slope)
    assert left.min() > -0.004
    # rings turn sharply at corners, where the way between two is longer
    most = asked * (1.1 if pattern == "raster" else 1.6) + 0.005
    assert np.percentile(left, 99) < most
    even = made(
        surface(lambda x, y: slope * y + 0 * x, 24, 20, 3), (24, 20, 90), "ball:4", 0.25, pattern=pattern
    )
    assert even.cusp == pytest.approx(2 - math.sqrt(4 - 0.25), abs=1e-3)


def test_ways_are_closed_up_only_where_it_is_steep():
    def f(x, y):
        return np.where(x < 20, 0.0, 1.5 * (x - 20))

    out = made(surface(f, 40, 20, 81), (40, 20, 60), "ball:4", 0.25, cusp=0.02, angle=90.0)
    x = out.passes[0].moves
    x = x[(x[:, 0] != 0)][:, 1]
    flat, steep = (
        len(np.unique(x[(x > 4) & (x < 16)].round(2))),
        len(np.unique(x[(x > 24) & (x < 36)].round(2))),
    )
    assert 1.5 * flat < steep < 2.6 * flat


@settings(max_examples=5 if MANY == 1 else 12 * MANY, deadline=None)
@given(
    seed=st.integers(0, 2**31),
    last=st.sampled_from(["ball:3", "taper:0.5:8:6", "bull:6:1"]),
    pattern=st.sampled_from(["raster", "rings", "spiral"]),
    angle=st.sampled_from([0.0, 30.0, 90.0, -45.0]),
    inch=st.booleans(),
)
def test_random_rugged_ground_is_never_cut_into(seed, last, pattern, angle, inch):
    """Heights thrown at random, 1.5 mm apart: full of spikes and pits that no tip comes into."""
    rng = np.random.default_rng(seed)
    mesh = grid_mesh("m", rng.uniform(0, 3.0, (13, 15))).placed((1.5, 1.5, 1.0), (0.0, 0.0, 0.0))
    rough = trimesh.Trimesh(mesh.points, mesh.faces, process=False)
    data = rough.export(file_type="stl")
    out = made(
        data, (30, 26, 12), last, 0.2, rough="flat:4", margin=2, pattern=pattern, angle=angle, inch=inch
    )
    assert not [s for s in out.snags if s.severity == "stop"]
    low, high = rough.bounds
    rough.apply_translation([15 - (low + high)[0] / 2, 13 - (low + high)[1] / 2, -high[2]])
    at = inside(rng, (4.6, 4.1, 25.4, 21.9), 400)
    model = heights_on(rough.triangles, at)
    got = swept(out, ["flat:4", last], at)
    assert (swept(out, ["flat:4", last], at, INTO) >= model - 1e-3).all()
    # and where it cannot be reached, it is as low as the finishing tip gets: it touches somewhere near
    assert np.isfinite(got).all() and out.carved.deepest_in < INTO
    # figures agree with this sweep
    assert out.carved.share(50) == pytest.approx(np.median((got - model)[np.isfinite(model)]), abs=0.06)


@pytest.mark.parametrize(
    "roughs", spread([{}, {"round_last": True}, {"pattern": "rings", "round_last": True}], 2)
)
def test_roughing_leaves_its_allowance_and_takes_no_more_than_a_level(roughs):
    def f(x, y):
        return 9 * np.exp(-((x - 30) ** 2 + (y - 22) ** 2) / 160)

    out = made(surface(f, 60, 44, 121), (60, 44, 16), "ball:6", 0.2, rough="flat:8", depth=1.5, roughs=roughs)
    way, cuts = way_of(out.files[0].text)
    tops = np.zeros((89, 121))
    x, y = np.meshgrid(np.linspace(0, 60, 121), np.linspace(0, 44, 89))
    model = f(x, y) - 9 - 1.5
    deepest = 0.0
    for px, py, pz in dense(way, cuts, 0.4):
        disc = (x - px) ** 2 + (y - py) ** 2 <= 16.0
        deepest = max(deepest, float((tops[disc] - pz).max(initial=0.0)))
        tops[disc] = np.minimum(tops[disc], pz)
    levels = out.passes[0].levels
    assert deepest <= -levels[0] + 0.06 <= 3.06, "no cut is deeper than a level"
    # nowhere nearer the model than the allowance, normal to it
    points = np.column_stack([x.ravel(), y.ravel(), tops.ravel()])
    model_at = np.column_stack([x.ravel(), y.ravel(), model.ravel()])
    near = cKDTree(model_at).query(points)[0]
    assert near.min() > 1.0 - 0.12  # looked at in cells of 0.5 mm
    left = (tops - model)[8:-8, 8:-8]
    assert np.percentile(left, 90) < 1.0 + 1.6
    # finishing never has to take more than what roughing was to leave, but for steps between rows on slopes
    assert out.files[0].name < out.files[1].name
    assert "rough" in out.files[0].name and "finish" in out.files[1].name


def test_a_needle_and_an_upright_wall_are_not_cut_into():
    """What even samples may step over: a spike 0.02 mm thick, and a wall that stands upright."""
    spike = trimesh.creation.cone(radius=0.02, height=4.0, sections=8)
    spike.apply_translation([7.013, 5.027, 0])
    post = trimesh.creation.box(extents=(3, 3, 4))
    post.apply_translation([15, 6, 2.0])
    plate = trimesh.creation.box(extents=(24, 12, 1))
    plate.apply_translation([12, 6, -0.5])
    out = made(stl(trimesh.util.concatenate([spike, post, plate])), (24, 12, 8), "ball:2", 0.1, margin=1)
    way = dense(*way_of(out.files[0].text), 0.01)
    tip = np.array([[7.013, 5.027]])
    assert spared_to(way, tip, INTO, "ball", 2.0)[0] >= -1e-3
    rim = np.array([[13.501, y] for y in np.linspace(4.6, 7.4, 40)])
    assert spared_to(way, rim, INTO, "ball", 2.0).min() >= -1e-3
    side = np.array([[13.48, y] for y in np.linspace(4.6, 7.4, 40)])
    # right beside the wall it goes down to the plate, but for the ball's own round
    assert swept_to(way, side, "ball", 2.0).max() < -4 + 1.02


def triangles_of(package):
    text = (MODULES / package[0] / package[1]).read_text()
    points, cells = (
        json.loads(re.search(rf"exports\.{k}\s*=\s*(\[.*?\]\])", text, re.S)[1])
        for k in ("positions", "cells")
    )
    return trimesh.Trimesh(points, cells, process=False)


def shapes():
    c = trimesh.creation
    tilt = trimesh.transformations.rotation_matrix(0.5, [1, 0.3, 0])
    return {
        "box": c.box((30, 20, 6)),
        "tilted box": c.box((30, 20, 6)).apply_transform(tilt),
        "ball": c.icosphere(3, 12),
        "egg": c.icosphere(3, 12).apply_scale((1.2, 1, 0.5)),
        "capsule": c.capsule(20, 6).apply_transform(tilt),
        "cylinder": c.cylinder(12, 8),
        "lying cylinder": c.cylinder(6, 30).apply_transform(
            trimesh.transformations.rotation_matrix(math.pi / 2, [0, 1, 0])
        ),
        "cone": c.cone(12, 9),
        "ring": c.torus(12, 3),
        "tube": c.annulus(6, 14, 5),
        "icosahedron": c.icosahedron().apply_scale(12),
        "pyramid": c.cone(14, 6, sections=4),
        "star": c.extrude_polygon(
            trimesh.path.polygons.Polygon(
                [
                    (
                        (14 if k % 2 else 6) * math.cos(k * math.pi / 5),
                        (14 if k % 2 else 6) * math.sin(k * math.pi / 5),
                    )
                    for k in range(10)
                ]
            ),
            5,
            engine="earcut",
        )
        if trimesh.util.has_module("mapbox_earcut")
        else c.cone(14, 5, sections=5),
        "wedge": trimesh.convex.convex_hull(
            trimesh.PointCloud([[0, 0, 0], [30, 0, 0], [30, 18, 0], [0, 18, 0], [30, 0, 7], [30, 18, 7]])
        ),
        "steps": trimesh.util.concatenate(
            [c.box((30 - 6 * k, 20, 1.5)).apply_translation([0, 0, 1.5 * k]) for k in range(4)]
        ),
    }


@pytest.mark.parametrize("name", spread([*shapes(), "bunny", "teapot"], 7))
def test_shapes_and_public_meshes_are_roughed_finished_and_proven(name):
    public = {"bunny": ("bunny", "index.js"), "teapot": ("teapot", "teapot.js")}
    mesh = triangles_of(public[name]) if name in public else shapes()[name]
    if name in public:  # they stand on their feet along y
        mesh.apply_transform(trimesh.transformations.rotation_matrix(math.pi / 2, [1, 0, 0]))
        mesh.apply_scale(30 / float(np.ptp(mesh.vertices[:, 0])))
    w, h, t = (float(v) for v in np.ptp(mesh.vertices, axis=0))
    out = made(stl(mesh), (w + 12, h + 12, t + 1), "ball:3", 0.25, rough="flat:6", depth=0.5, margin=5)
    stops = [s.message for s in out.snags if s.severity == "stop"]
    assert not stops and len(out.files) == 2
    assert out.carved.deepest_in < INTO
    low, high = mesh.bounds
    shift = [w / 2 + 6 - (low + high)[0] / 2, h / 2 + 6 - (low + high)[1] / 2, -0.5 - high[2]]
    mesh.apply_translation(shift)
    rng = np.random.default_rng(1)
    corners = mesh.vertices[rng.choice(len(mesh.vertices), min(150, len(mesh.vertices)), replace=False)]
    middles = mesh.triangles_center[rng.choice(len(mesh.faces), min(150, len(mesh.faces)), replace=False)]
    at = np.vstack([corners, middles])
    got = swept(out, ["flat:6", "ball:3"], at[:, :2], INTO)
    assert (got >= at[:, 2] - 1e-3).all(), "no corner and no face of it is cut into"
    assert min(p.lowest for p in out.passes) >= low[2] - high[2] - 0.5 - 1e-6


def test_what_is_left_is_what_this_sweep_finds():
    out = made(stl(trimesh.creation.icosphere(4, 12).apply_scale((1.2, 1, 0.5))), (44, 40, 13), "ball:4", 0.2)
    rng = np.random.default_rng(3)
    at = out.carved.points[rng.choice(len(out.carved.points), 500, replace=False)]
    mine = swept(out, ["ball:4"], at)
    x, y = (at[:, 0] - 22) / 14.4, (at[:, 1] - 20) / 12
    away = np.hypot(x, y)
    keep = away < 0.93
    model = 6 * np.sqrt(1 - np.minimum(away, 1) ** 2) - 6
    theirs = out.carved.body.heights(at)
    np.testing.assert_allclose(theirs[keep], mine[keep], atol=0.01)
    assert out.carved.share(50) == pytest.approx(float(np.median((mine - model)[keep])), abs=0.02)


def test_rises_are_those_of_the_cutters_of_the_library():
    """The shapes written down for these checks are the library's own."""
    for text in ("flat:6", "ball:6", "bull:6:1", "taper:0.8:5:6", "vee:6:60"):
        c = cutter(text)
        words = text.split(":")
        away = np.linspace(0, c.radius, 40)[:-1]
        mine = rise(words[0], away, *map(float, words[1:]))
        theirs = [c.height_at(float(a)) for a in away]
        np.testing.assert_allclose(mine, theirs, atol=1e-6)


def test_what_roughing_could_not_reach_is_said_by_how_much_finishing_takes_there():
    box = stl(trimesh.creation.box((30, 20, 9)))
    said = {s.rule: s for s in made(box, (42, 32, 12), "ball:3", 0.25, rough="flat:6", margin=3).snags}
    assert said["relief.step"].severity == "stop" and "9.0 mm" in said["relief.step"].message
    assert "wider margin" in said["relief.step"].message
    two = stl(trimesh.util.concatenate([trimesh.creation.box((30, 20, 9)), trimesh.creation.box((70, 4, 1))]))
    part = {s.rule: s for s in made(two, (76, 32, 12), "ball:3", 0.25, rough="flat:6", margin=3).snags}
    assert part["relief.bite"].severity == "look" and "roughing did not come" in part["relief.bite"].message
    wide = made(box, (50, 40, 12), "ball:3", 0.25, rough="flat:6", margin=5)
    assert not [s for s in wide.snags if s.rule in ("relief.bite", "relief.step")]
    alone = {s.rule: s for s in made(box, (42, 32, 12), "ball:3", 0.25, margin=3).snags}
    assert alone["relief.step"].severity == "stop" and "6.3 mm" in alone["relief.step"].message
    shallow = stl(trimesh.creation.box((30, 20, 6)))
    assert not made(shallow, (42, 32, 12), "ball:3", 0.25, margin=3).snags


def test_shank_and_nut_stay_clear_of_the_model():
    """A post 20 mm high beside the floor: with a stick-out of 12 mm the nut would run into it."""
    post = trimesh.creation.box((8, 8, 20)).apply_translation([0, 0, 10])
    floor = trimesh.creation.box((90, 60, 2)).apply_translation([0, 0, -1])
    data = stl(trimesh.util.concatenate([post, floor]))
    free = made(data, (90, 60, 30), "ball:6", 0.2, rough="flat:8", margin=0)
    assert "relief.shank" not in {s.rule for s in free.snags}
    short = made(data, (90, 60, 30), "ball:6:out=12:nut=30", 0.2, rough="flat:8", margin=0)
    said = {s.rule: s for s in short.snags}
    assert said["relief.shank"].severity == "look"
    way = dense(*way_of(short.files[1].text), 0.2)
    away = np.maximum(np.abs(way[:, 0] - 45) - 4, 0), np.maximum(np.abs(way[:, 1] - 30) - 4, 0)
    beside = np.hypot(*away) < 15 - 0.05
    # the nut's lower end, 12 mm over the tip, stays over the post's top at Z 0
    assert (way[beside, 2] + 12 >= 0.5 - 0.02).all()
    assert way[:, 2].min() < -19.9, "beyond the nut's reach it goes down to the floor"
    wide = made(data, (90, 60, 30), "ball:3:edge=8:out=60:nut=10", 0.25, rough="flat:8", margin=0)
    assert "relief.shank" in {s.rule for s in wide.snags}  # a shank of 6 mm over an edge of 8 mm
