"""Drawings from outside the project: an open icon package against independent readers, plotter files, and
other libraries' own answers.

Icons: the npm package bootstrap-icons (MIT licence, about 2,000 filled icons). Independent area: fontTools'
SVG path reader and the path boolean engine of skia-pathops, each shape under its own declared fill rule.
"""

import random
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pathops
import pytest
from fontTools.svgLib import SVGPath
from fontTools.ttLib import TTFont
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import MANY, dxf
from venzo.core.parts.intake import take_in
from venzo.formats.drawing_file import read_file
from venzo.formats.fonts import BUNDLED, FOLDER, bundled

ICONS = sorted((Path(__file__).parents[2] / "web/node_modules/bootstrap-icons/icons").glob("*.svg"))
EXPLAINED = {
    "apple.svg": "the file draws its outline twice",
    "cc-square.svg": "the file draws its outline twice",
    "strava.svg": "two shapes painted partly over one another",
    "align-top.svg": "two shapes painted partly over one another",
    "align-bottom.svg": "two shapes painted partly over one another",
}
"""Icons whose parts differ from the painted area, and why: shapes of their own nest even-odd here, painted
ones cover each other.
"""


def painted_area(data: bytes) -> float:
    """Sum over shapes of the area that each paints."""
    root = ElementTree.fromstring(data)
    total = 0.0
    for e in root.iter():
        if e.tag.rsplit("}", 1)[-1] not in ("path", "circle", "rect", "ellipse", "polygon", "polyline"):
            continue
        alone = ElementTree.Element(root.tag, root.attrib)
        alone.append(e)
        path = pathops.Path(
            fillType=(
                pathops.FillType.EVEN_ODD if e.get("fill-rule") == "evenodd" else pathops.FillType.WINDING
            )
        )
        SVGPath.fromstring(ElementTree.tostring(alone)).draw(path.getPen(glyphSet=None))
        path.simplify(fix_winding=True, keep_starting_points=False)
        total += abs(path.area)
    return total


def test_icon_areas_agree_with_an_independent_reader():
    assert len(ICONS) > 1900, "the icon package is installed with the test tools"
    sample = ICONS if MANY > 1 else random.Random(7).sample(ICONS, 150)
    off = {}
    for file in sample:
        data = file.read_bytes()
        i = take_in(read_file(data, file.name), file.name, "mm")
        area, want = sum(p.quantity * p.shape.region.area for p in i.parts), painted_area(data)
        if abs(area - want) > 0.005 * want:
            off[file.name] = (area, want)
    assert len(off) <= 0.01 * len(sample) and set(off) <= set(EXPLAINED), off


@pytest.mark.parametrize("name", BUNDLED)
def test_letters_cover_what_the_font_says(name):
    """Area of glyphs against fontTools' own area pen; advance against the font's own table (no kerning in the
    sample).
    """
    from fontTools.pens.areaPen import AreaPen

    tt = TTFont(FOLDER / BUNDLED[name])
    glyphs, cmap = tt.getGlyphSet(), tt.getBestCmap()
    font = bundled(name)
    k = 50 / font.cap
    for letter in "HOBgq8&":
        pen = AreaPen(glyphs)
        glyphs[cmap[ord(letter)]].draw(pen)
        loops, advance, missing = font.outlines(letter, 50)
        assert not missing and abs(sum(c.area for c in loops)) == pytest.approx(
            abs(pen.value) * k * k, rel=2e-3
        )
        assert advance == pytest.approx(tt["hmtx"][cmap[ord(letter)]][0] * k)


def test_a_plotter_file_gives_what_its_words_say():
    """HPGL units of 0.025 mm (common practice); PD draws, CI a circle."""
    data = b"IN;SP1;PU0,0;PD4000,0,4000,2000,0,2000,0,0;SP2;PU2000,1000;CI400;PU;SP0;"
    for head in (b"", b"\x1b%1B"):
        i = take_in(read_file(head + data, "a.plt"), "a.plt")
        (part,) = i.parts
        assert part.shape.size == pytest.approx((100, 50)) and part.shape.region.area == pytest.approx(
            5000 - np.pi * 100, abs=0.2
        )
        assert {v.name for v in i.layers} == {"pen 1", "pen 2"}


def test_unevenly_scaled_nested_blocks_hatches_and_faces_have_their_exact_areas():
    """Exact mathematics: an affine map scales every area by |sx sy|, however nested and turned; a bulge of 1
    is a half circle.
    """

    def draw(m):
        doc = m.doc
        b = doc.blocks.new("B")
        b.add_circle((0, 0), 10)
        b.add_lwpolyline([(20, 0), (40, 0), (40, 10, 0, 0, 1), (20, 10)], close=True)
        outer = doc.blocks.new("OUTER")
        outer.add_blockref("B", (5, 5), dxfattribs={"xscale": 1.5, "yscale": 0.7, "rotation": 33})
        for k, (sx, sy, turn) in enumerate(SCALES):
            m.add_blockref("OUTER", (300 * k, 0), dxfattribs={"xscale": sx, "yscale": sy, "rotation": turn})
        m.add_solid([(0, 300), (30, 300), (0, 320), (30, 320)])
        m.add_3dface([(100, 300, 5), (130, 300, 5), (130, 325, 5), (100, 325, 5)])
        hatch = m.add_hatch()
        hatch.paths.add_polyline_path([(200, 300), (260, 300), (260, 340, 1), (200, 340)], is_closed=True)

    i = take_in(read_file(dxf(draw), "b.dxf"), "b.dxf")
    ours = sorted(p.shape.region.area for p in i.parts for _ in range(p.quantity))
    want = [a * abs(sx * sy) * 1.05 for sx, sy, _t in SCALES for a in (np.pi * 100, 200 + np.pi * 50)] + [
        600,
        750,
        2400 + np.pi * 450,
    ]
    assert ours == pytest.approx(sorted(want), rel=1e-3)


SCALES = ((1, 1, 0), (2, 1, 20), (-1, 3, 77), (0.5, -0.5, 190))


# -- exact mathematics: what any reader must find


@given(
    st.sampled_from(["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"]),
    st.sampled_from([(1, 25.4), (2, 304.8), (4, 1.0), (5, 10.0), (6, 1000.0)]),
    st.floats(0.5, 3),
    st.floats(0, 0.9),
    st.booleans(),
)
@settings(max_examples=30 * MANY, deadline=None)
def test_a_bulged_panel_has_its_exact_area_in_every_version_and_unit(version, unit, size, bulge, crlf):
    """Area of a circular segment from its bulge: r = c (1 + b2) / (4 b), A = r2 (w - sin w) / 2 with w = 4
    atan b.
    """
    code, mm = unit
    w, h = 4 * size, 3 * size

    def draw(m):
        if version == "R12":
            m.add_polyline2d([(0, 0, bulge), (w, 0, 0), (w, h, 0), (0, h, 0)], format="xyb", close=True)
        else:
            m.add_lwpolyline([(0, 0, -bulge), (w, 0, 0), (w, h, 0), (0, h, 0)], format="xyb", close=True)
        m.add_circle((w / 2, h * 0.75), size / 4)

    data = dxf(draw, code, version)
    i = take_in(
        read_file(data.replace(b"\n", b"\r\n") if crlf else data, "p.dxf"),
        "p.dxf",
        {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m"}[code],
    )
    segment = 0.0
    if bulge > 1e-6:
        r, turn = w * (1 + bulge**2) / (4 * bulge), 4 * np.arctan(bulge)
        segment = r * r * (turn - np.sin(turn)) / 2 * (1 if version == "R12" else -1)
    inner = 0.75 * h - size / 4 > w * bulge / 2 + 0.01 * size or version == "R12"
    if inner:
        (part,) = i.parts
        assert part.shape.region.area == pytest.approx(
            (w * h + segment - np.pi * size**2 / 16) * mm * mm, rel=1e-6
        )
        assert len(part.shape.region.holes) == 1 and i.scale_mm == mm


@given(
    st.floats(0.2, 4),
    st.floats(0.2, 4),
    st.floats(-180, 180),
    st.floats(-40, 40),
    st.sampled_from([("mm", 1.0), ("cm", 10.0), ("in", 25.4), ("pt", 25.4 / 72), ("px", 25.4 / 96)]),
    st.floats(0.3, 3),
)
@settings(max_examples=40 * MANY, deadline=None)
def test_svg_transforms_and_sizes_scale_areas_by_their_determinant(sx, sy, turn, skew, unit, ratio):
    """SVG 1.1, coordinate systems: a transform scales area by |det|; user units by (physical width / viewBox
    width) squared.
    """
    name, mm = unit
    body = (
        f'<g transform="translate(150 150) rotate({turn}) skewX({skew})"><g transform="scale({sx}'
        f' {sy})"><rect x="-10" y="-5" width="20" height="10"/><path d="M40 0a8 8 0 1 0 .001 0z"/></g></g>'
    )
    data = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 300" width="{300 * ratio}{name}"'
        f' height="{300 * ratio}{name}">{body}</svg>'.encode()
    )
    i = take_in(read_file(data, "t.svg"), "t.svg")
    k = sx * sy * (ratio * mm) ** 2
    assert sorted(p.shape.region.area for p in i.parts) == pytest.approx(
        sorted([200 * k, np.pi * 64 * k]), rel=2e-3
    )
    assert i.scale_mm == pytest.approx(ratio * mm)


@given(
    st.lists(
        st.tuples(st.integers(0, 40_000), st.integers(0, 30_000), st.integers(40, 2_000)),
        min_size=1,
        max_size=6,
        unique_by=lambda c: (c[0] // 5_000, c[1] // 5_000),
    ),
    st.integers(1, 8),
)
@settings(max_examples=30 * MANY, deadline=None)
def test_plotted_circles_and_boxes_keep_their_size(circles, pen):
    """HPGL: CI draws a circle of the given radius about the pen; one unit is 0.025 mm (common practice)."""
    far = [
        c
        for k, c in enumerate(circles)
        if all(np.hypot(c[0] - d[0], c[1] - d[1]) > c[2] + d[2] + 100 for d in circles[:k])
    ]
    data = f"IN;SP{pen};" + "".join(f"PU{x},{y};CI{r};" for x, y, r in far) + "PU;SP0;"
    i = take_in(read_file(data.encode(), "c.plt"), "c.plt")
    radii = sorted(p.shape.size[0] / 2 for p in i.parts for _ in range(p.quantity))
    assert radii == pytest.approx(sorted(r * 0.025 for *_xy, r in far), abs=0.005)
    assert all(len(p.shape.region.outline.vertices) == 2 for p in i.parts if p.shape.size[0] > 4), (
        "circles come back as circles"
    )
