"""V-carving against the outside: scipy's Euclidean distance transform, closed formulas, an independent G-code
reader, open icons and fonts.

Depth = half width / tan(half the included angle): exact mathematics. Icons: npm package bootstrap-icons
(MIT); fonts: three that ship with Venzo and seven of the @fontsource packages (SIL Open Font Licence), all
installed with the test tools.
"""

import io
import math
import random
from pathlib import Path

import numpy as np
import pathops
import pytest
import shapely
import uharfbuzz as hb
from fontTools.ttLib import TTFont
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import distance_transform_edt
from shapely.affinity import rotate, translate

from tests.conftest import MANY
from tests.reference.test_open_drawings import ICONS
from tests.reference.test_program_sweep import explicit, segments
from tests.support.breadth import spread
from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import carve, judged
from venzo.core.carving.fold import fold
from venzo.core.carving.inlay import gaps, inlay, mating, section
from venzo.core.carving.medial import clean, medial_axis
from venzo.core.carving.sweep import flat, sweep
from venzo.core.cuts.moves import LINE, RAPID, row
from venzo.core.geometry.regions import regions
from venzo.desk.vcarve import Depths, Feeds, drawn_area, program
from venzo.formats.fonts import BUNDLED, FOLDER, Font, bundled

WITHIN = 0.03
"""mm between the carved and the ideal surface: what the issue allows."""
FONTS = [FOLDER / f for f in BUNDLED.values()] + [
    Path(__file__).parents[2] / f"web/node_modules/@fontsource/{n}/files/{n}-latin-400-normal.woff"
    for n in ("lora", "pacifico", "playfair-display", "bebas-neue", "rokkitt", "cinzel", "dancing-script")
]


def swept(text: str, box, cell: float, tools):
    """The surface that a program leaves, read by the independent parser. ``tools``: T number -> (bit or None,
    radius).
    """
    s = flat(box, cell)
    by_tool: dict[int, list] = {}
    for tool, rapid, pts in segments(explicit(text), 1):
        rows = by_tool.setdefault(tool, [])
        for p in pts:
            rows.append(row(RAPID if rapid else LINE, *p, 0.0 if rapid else 1.0))
    for tool, rows in by_tool.items():
        sweep(s, np.array(rows), *tools[tool])
    return s


def carved(area, bit: Bit, depths: Depths, cell: float):
    """(surface from the program's text, carving) with 1 mm of ground around the area."""
    c = carve(area, bit, depths)
    b = shapely.union_all(list(c.polygons)).bounds
    m = 1.0 + depths.below * bit.tan
    tools = {1: (None, depths.clear / 2), 2: (bit, 0.0)} if c.cleared else {1: (bit, 0.0)}
    return swept(program(c, Feeds(), "test").text, (b[0] - m, b[1] - m, b[2] + m, b[3] + m), cell, tools), c


def by_transform(area, s):
    """Distance (mm) of every cell to the edge, positive inside, from scipy's exact Euclidean distance
    transform of the painted area.
    """
    x, y = np.meshgrid(s.xs, s.ys)
    shapely.prepare(area)
    inside = shapely.contains_xy(area, x, y)
    # a cell's middle is half a cell from the boundary between it and its neighbour
    return np.where(
        inside,
        distance_transform_edt(inside) * s.cell - s.cell / 2,
        -(distance_transform_edt(~inside) * s.cell - s.cell / 2),
    )


def by_formula(area, s):
    """The same by shapely's distance to the boundary."""
    x, y = np.meshgrid(s.xs, s.ys)
    shapely.prepare(area)
    return np.where(shapely.contains_xy(area, x, y), 1, -1) * shapely.distance(
        area.boundary, shapely.points(x, y)
    )


def ideal(d, bit: Bit, floor=None, below=0.0):
    """Z of the ideal surface: the cone of the bit's angle under the edge at the reckoning plane, cut off at
    the floor.
    """
    depth = d / bit.tan + below
    return -np.clip(depth, 0.0, floor if floor else np.inf)


def letters(text: str, height: float, font: str, chord: float = 0.004):
    return shapely.union_all([r.polygon(chord) for r in regions(bundled(font).outlines(text, height)[0])])


def ornament(name: str):
    area, _lines, _snags = drawn_area((ICONS[0].parent / name).read_bytes(), name, "mm")
    return area


def blob(seed: int):
    """A random polygon with a hole: star-shaped, reflex corners, some of them very sharp."""
    r = np.random.default_rng(seed)
    n = int(r.integers(4, 24))
    t = np.sort(r.uniform(0, 2 * np.pi, n))
    rad = r.uniform(3, 12, n)
    p = shapely.Polygon(np.column_stack([rad * np.cos(t), rad * np.sin(t)])).buffer(0)
    p = max(getattr(p, "geoms", [p]), key=lambda g: g.area)
    hole = translate(rotate(shapely.box(-0.7, -0.7, 0.7, 0.7), float(r.uniform(0, 90))), *r.uniform(-2, 2, 2))
    return p.difference(hole) if p.buffer(-0.3).contains(hole) else p


@pytest.mark.parametrize(
    "what", spread(["serif R&g", "plain 8@k", "gear-fill.svg", "flower1.svg", "moon-stars-fill.svg"], 3)
)
def test_the_carved_surface_is_the_distance_transform(what):
    area = letters(what[6:], 12, what[:5]) if what[:5] in ("serif", "plain") else ornament(what)
    bit = Bit(90, 60)
    s, _c = carved(area, bit, Depths(), 0.02)
    off = s.heights - ideal(by_transform(area, s), bit)
    assert np.abs(off).max() < WITHIN, (off.min(), off.max())


@pytest.mark.parametrize("seed", range(3 if MANY == 1 else 200))
def test_random_polygons_carve_to_the_ideal(seed):
    area = blob(seed)
    r = random.Random(seed)
    bit = Bit(r.choice([40, 60, 90, 120]), 80)
    widest = 2 * medial_axis(clean(area)).widest / 2
    depths = r.choice(
        [
            Depths(),
            Depths(step_down=1.0),
            Depths(below=0.8),
            Depths(floor=0.5 * widest / bit.tan, clear=1.5, ridge=0.02),
            Depths(most=0.6 * widest / bit.tan, ridge=0.02),
        ]
    )
    s, c = carved(area, bit, depths, 0.05)
    off = s.heights - ideal(by_formula(area, s), bit, c.floor_depth, depths.below)
    assert np.abs(off).max() < WITHIN, (off.min(), off.max(), depths)


def test_shapes_whose_depth_is_known():
    bit = Bit(60, 80)
    t = math.tan(math.radians(30))
    square = carve(shapely.box(0, 0, 10, 10), bit)
    assert square.deepest == pytest.approx(5 / t) and square.length == pytest.approx(
        4 * math.hypot(5 * math.sqrt(2), 5 / t)
        + sum(w.again for w in square.walks) * math.hypot(1, 1 / t / math.sqrt(2)),
        rel=1e-3,
    )
    oblong = carve(shapely.box(0, 0, 30, 10), bit)
    assert oblong.deepest == pytest.approx(5 / t) and len(oblong.walks) == 1
    slot = carve(shapely.LineString([(0, 0), (50, 0)]).buffer(3, quad_segs=200), bit)
    assert slot.deepest == pytest.approx(3 / t, abs=0.01) and slot.length == pytest.approx(50, abs=0.1), (
        "one straight run along the middle"
    )
    disc = carve(shapely.Point(0, 0).buffer(6, quad_segs=400), bit)
    assert disc.length < 0.05 and disc.deepest == pytest.approx(6 / t, abs=0.01), "one plunge"
    ring = carve(
        shapely.Point(0, 0)
        .buffer(20, quad_segs=400)
        .difference(shapely.Point(0, 0).buffer(12, quad_segs=400)),
        bit,
    )
    z = np.concatenate([w.points for w in ring.walks])
    assert (
        np.abs(np.hypot(z[:, 0], z[:, 1]) - 16).max() < 0.01
        and np.ptp(z[:, 2]) < 0.02
        and ring.deepest == pytest.approx(4 / t, abs=0.02)
    )
    # a wedge: the axis runs along its middle, the incircle at its wide end is the deepest point
    wedge = shapely.Polygon([(0, 0), (40, -6), (40, 6)])
    r = wedge.area * 2 / wedge.length
    assert carve(wedge, bit).deepest == pytest.approx(r / t, abs=0.01)
    starts = [w.points[0] for w in carve(wedge, bit).walks]
    assert abs(starts[0][2]) < 1e-6, "it goes in at a corner, where the bit comes up to the surface"


@pytest.mark.parametrize("stroke", spread([5.9995, 6.0, 6.0005, 6.003, 6.02], 2))
def test_a_stroke_just_as_wide_as_the_bit_is_carved(stroke):
    area = shapely.union_all([shapely.box(0, 0, 30, stroke), shapely.box(30, -8, 48, 14)])
    bit = Bit(60, 6)
    s, c = carved(area, bit, Depths(ridge=0.02), 0.1)
    off = s.heights - ideal(by_formula(area, s), bit, c.floor_depth)
    assert c.limited_by == "bit" and np.abs(off).max() < WITHIN, (off.min(), off.max())


@pytest.mark.long
def test_flat_and_round_points_and_planes_below():
    line = shapely.LineString([(0, 0), (40, 0)]).buffer(2, quad_segs=64)
    assert carve(line, Bit(90, 20, tip=0.6)).deepest == pytest.approx(2 - 0.3, abs=0.01)
    ball = Bit(90, 20, tip_radius=0.5)  # point of a sphere tangent to the cone: height lost is R (1/sin - 1)
    assert carve(line, ball).deepest == pytest.approx(2 - 0.5 * (math.sqrt(2) - 1), abs=0.01)
    for bit in (Bit(90, 20, tip=0.6), ball):
        s, _c = carved(line, bit, Depths(), 0.05)
        off = s.heights - np.maximum(ideal(by_formula(line, s), bit), -carve(line, bit).deepest)
        assert off.min() > -0.02 and off.max() < 0.21, "true at the edges, blunt only at the bottom"
    lower = carve(line, Bit(90, 20), Depths(below=1.0))
    assert lower.deepest == pytest.approx(3.0, abs=0.01)
    assert carve(shapely.box(0, 0, 9, 0.4), Bit(60, 6, tip=0.5)).snags[0].rule == "carve.point"


def test_passes_leave_the_last_one_light_and_never_cut_deeper():
    area = letters("W", 30, "plain")
    once, many = carve(area, Bit(60, 30)), carve(area, Bit(60, 30), Depths(step_down=1.5, finish=0.3))
    from venzo.core.carving.toolpath import bit_moves

    passes = bit_moves(many, 3, 3000, 900)
    assert len(passes) > 3 and [round(float(p[:, 3].min()), 2) for p in passes[:2]] == [
        round(v, 2) for v in many.levels[:2]
    ]
    box = (*[v - 1 for v in area.bounds[:2]], *[v + 1 for v in area.bounds[2:]])
    left = flat(box, 0.1)
    for p in passes[:-1]:
        before = left.heights.copy()
        sweep(left, p, many.bit)
        assert (before - left.heights).max() < 1.5 + 1e-6 or p is passes[0]
    rough = left.heights.copy()
    sweep(left, passes[-1], many.bit)
    whole = flat(box, 0.1)
    sweep(whole, bit_moves(once, 3, 3000, 900)[-1], once.bit)
    assert np.abs(left.heights - whole.heights).max() < 1e-9, "the same surface"
    assert (rough - left.heights).max() <= 0.3 / math.sin(math.radians(30)) + 1e-6, (
        "no more than its allowance is left to the last pass"
    )


def test_walks_avoid_air_and_run_every_branch():
    area = letters("MARRAM WORKS", 40, "serif")
    c = carve(area, Bit(60, 40))
    axis = medial_axis(list(c.polygons), 1.0)
    again = sum(w.again for w in c.walks)
    plan = sum(float(np.hypot(*np.diff(w.points[:, :2], axis=0).T).sum()) for w in c.walks)
    assert plan - again == pytest.approx(axis.length, rel=1e-3), "every branch, once"
    assert again < 0.35 * axis.length and len(c.walks) <= 2 * len(c.polygons), (
        "few lifts, little walked twice"
    )


@pytest.mark.parametrize("clear", spread([2.0, None], 1))
def test_an_inlay_pair_mates(clear):
    area = shapely.union_all([letters("Rs", 25, "serif"), shapely.Point(-15, 12).buffer(8, quad_segs=100)])
    pair = inlay(area, Bit(60, 20), depth=4.0, gap=0.4, saw=1.5, clear=clear)
    m = mating(pair, 0.1)
    assert m.overlap == 0 and m.deepest_overlap < 0.02, "nothing overlaps beyond the chord tolerance"
    # without an end mill the ground around the plug keeps the ridges of the bit's rows
    assert m.floor_gap == pytest.approx(0.4, abs=0.02) and m.saw == pytest.approx(
        1.5, abs=0.02 if clear else pair.plug.ridge + 0.02
    )
    socket, turned, gap, _s = gaps(pair, 0.1)
    wall = (socket < -0.2) & (socket > -3.4) & (turned > -pair.plane + 0.1)
    assert wall.sum() > 1000 and np.abs(gap[wall]).max() < 0.03, "the walls touch"
    x, a, b = section(pair, 12.0)
    assert (
        len(x) == len(a) == len(b)
        and a.min() == pytest.approx(-4.0, abs=0.02)
        and b.min() == pytest.approx(-3.6, abs=1e-6)
    )


def test_a_folding_groove_by_the_handbook():
    # Machinery's Handbook, bend allowance (from memory): BA = angle (R + K T), setback = tan(angle / 2) (R +
    # T); here T is the skin that bends
    f = fold(3.0, 0.5, 90, Bit(90, 12))
    assert f.depth == 2.5 and f.width == pytest.approx(5.0)
    assert f.allowance == pytest.approx(math.pi / 2 * 0.44 * 0.5) and f.deduction == pytest.approx(
        2 * 0.5 - f.allowance
    )
    assert (
        "short of the fold" in fold(3.0, 0.5, 120, Bit(90, 12)).says
        and "open" in fold(3.0, 0.5, 45, Bit(90, 12)).says
    )


def test_judgements():
    wide = carve(shapely.box(0, 0, 60, 30), Bit(60, 6))
    rules = {s.rule: s for s in judged(wide, thickness=5.0, spread=0.4)}
    assert (
        rules["carve.wide"].severity == "look"
        and "6.00 mm" in rules["carve.wide"].message
        and rules["carve.floor"]
    )
    assert rules["carve.through"].severity == "stop" and "5.20" in rules["carve.through"].message
    thin = carve(shapely.box(0, 0, 40, 3), Bit(60, 20))
    # a line's width changes by 2 tan(a/2) per mm of height
    assert "0.58 mm wider" in next(s for s in judged(thin, 20, 0.5) if s.rule == "carve.flat").message
    assert not [s for s in judged(thin, 20, 0.05) if s.severity != "note"]
    assert "carve.read" in {s.rule for s in judged(carve(shapely.box(0, 0, 40, 0.3), Bit(60, 20)))}
    assert "carve.fragile" in {s.rule for s in judged(carve(shapely.box(0, 0, 40, 3), Bit(20, 20)))}


@settings(max_examples=6 * MANY)
@given(st.lists(st.tuples(st.floats(0, 20), st.floats(0, 20)), min_size=3, max_size=12))
def test_any_polygon_carves_or_is_refused_in_words(points):
    p = shapely.make_valid(shapely.Polygon(points))
    if p.area < 0.5:
        return
    c = carve(p, Bit(60, 30))
    z = [w.points for w in (*c.walks, *c.rows)]
    assert z and min(float(w[:, 2].min()) for w in z) >= -c.deepest - 1e-9
    fat = shapely.union_all(list(c.polygons)).buffer(0.01)
    assert all(fat.covers(shapely.MultiPoint(w[:, :2])) for w in z), "the point stays inside"


def icons():
    return ICONS[:1000] if MANY > 1 else random.Random(3).sample(ICONS[:1000], 14)


def test_icons_carve():
    done = 0
    for file in icons():
        area, lines, _snags = drawn_area(file.read_bytes(), file.name, "mm")
        if area.is_empty:
            assert lines, file.name
            continue
        c = carve(area, Bit(60, 30))
        assert c.walks and c.deepest > 0, file.name
        points = np.concatenate([w.points for w in c.walks])
        assert area.buffer(0.02).covers(shapely.MultiPoint(points[:, :2])), file.name
        done += 1
    assert done >= 0.9 * len(icons())


def shaped(data: bytes, letter: str) -> list[str]:
    """Names of the glyphs that a letter is set with; script faces take another at a word's end."""
    shaper, buffer = hb.Font(hb.Face(data)), hb.Buffer()
    buffer.add_str(letter)
    buffer.guess_segment_properties()
    hb.shape(shaper, buffer, {"kern": True, "liga": True})
    order = TTFont(io.BytesIO(data)).getGlyphOrder()
    return [order[i.codepoint] for i in buffer.glyph_infos]


def filled(glyphs, names: list[str], font: Font) -> float:
    """Area that a printer fills, strokes that overlap counted once, by the path engine of skia-pathops; font
    units.
    """
    total = 0.0
    for name in names:
        path = pathops.Path(fillType=pathops.FillType.WINDING)
        glyphs[name].draw(path.getPen(glyphSet=glyphs))
        path.simplify(fix_winding=True, keep_starting_points=False)
        total += abs(path.area)
    return total


def test_strokes_that_overlap_in_a_glyph_are_one():
    from fontTools.fontBuilder import FontBuilder
    from fontTools.pens.ttGlyphPen import TTGlyphPen

    pen = TTGlyphPen(None)
    for x0, y0, x1, y1 in ((0, 300, 700, 400), (300, 0, 400, 700)):  # a cross of two bars
        pen.moveTo((x0, y0))
        for p in ((x0, y1), (x1, y1), (x1, y0)):
            pen.lineTo(p)
        pen.closePath()
    fb = FontBuilder(1000, isTTF=True)
    fb.setupGlyphOrder([".notdef", "t"])
    fb.setupCharacterMap({ord("t"): "t"})
    fb.setupGlyf({".notdef": TTGlyphPen(None).glyph(), "t": pen.glyph()})
    fb.setupHorizontalMetrics({".notdef": (700, 0), "t": (700, 0)})
    fb.setupHorizontalHeader(ascent=800, descent=-200)
    fb.setupOS2(sCapHeight=700)
    fb.setupPost()
    out = io.BytesIO()
    fb.save(out)
    found = regions(Font(out.getvalue(), "bars").outlines("t", 70)[0])
    assert len(found) == 1 and found[0].area == pytest.approx(2 * 700 - 100, rel=1e-3)


@pytest.mark.parametrize("file", spread(FONTS, 4), ids=[f.stem for f in FONTS])
def test_every_latin_letter_of_ten_fonts_carves(file):
    data = file.read_bytes()
    if file.suffix == ".woff":
        font = TTFont(io.BytesIO(data))
        font.flavor = None
        out = io.BytesIO()
        font.save(out)
        data = out.getvalue()
    table = TTFont(io.BytesIO(data)).getBestCmap()
    latin = [chr(u) for u in sorted(table) if 0x21 <= u <= 0x17F and u != 0xAD and not chr(u).isspace()]
    assert len(latin) >= 150, f"{file.name}: a full Latin set"
    font = Font(data, file.stem)
    glyphs = TTFont(io.BytesIO(data)).getGlyphSet()
    sample = latin if MANY > 1 else random.Random(5).sample(latin, 10)
    for letter in sample:
        loops, _advance, missing = font.outlines(letter, 30)
        assert not missing
        if not loops:
            continue
        area = shapely.union_all([r.polygon(0.01) for r in regions(loops)])
        assert area.area == pytest.approx(
            filled(glyphs, shaped(data, letter), font) * (30 / font.cap) ** 2, rel=0.005
        ), letter
        c = carve(area, Bit(60, 60))
        assert c.walks, letter
        z = np.concatenate([w.points for w in c.walks])
        assert area.buffer(0.02).covers(shapely.MultiPoint(z[:, :2])), letter
