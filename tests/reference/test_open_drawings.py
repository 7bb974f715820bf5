"""Drawings from outside the project: an open icon package against independent readers, plotter files, and other libraries' own answers.

Icons: the npm package bootstrap-icons (MIT licence, about 2,000 filled icons). Independent area: fontTools' SVG path reader and the path
boolean engine of skia-pathops, each shape under its own declared fill rule.
"""

import random
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pathops
import pytest
from fontTools.svgLib import SVGPath
from fontTools.ttLib import TTFont

from tests.conftest import MANY, dxf
from venzo.core.parts.intake import read_file, take_in
from venzo.formats.fonts import BUNDLED, FOLDER, bundled

ICONS = sorted((Path(__file__).parents[2] / "web/node_modules/bootstrap-icons/icons").glob("*.svg"))
EXPLAINED = {
    "apple.svg": "the file draws its outline twice", "cc-square.svg": "the file draws its outline twice",
    "strava.svg": "two shapes painted partly over one another", "align-top.svg": "two shapes painted partly over one another", "align-bottom.svg": "two shapes painted partly over one another",
}
"""Icons whose parts differ from the painted area, and why: shapes of their own nest even-odd here, painted ones cover each other."""


def painted_area(data: bytes) -> float:
    """Sum over shapes of the area that each paints."""
    root = ElementTree.fromstring(data)
    total = 0.0
    for e in root.iter():
        if e.tag.rsplit("}", 1)[-1] not in ("path", "circle", "rect", "ellipse", "polygon", "polyline"):
            continue
        alone = ElementTree.Element(root.tag, root.attrib)
        alone.append(e)
        path = pathops.Path(fillType=pathops.FillType.EVEN_ODD if e.get("fill-rule") == "evenodd" else pathops.FillType.WINDING)
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
    """Area of glyphs against fontTools' own area pen; advance against the font's own table (no kerning in the sample)."""
    from fontTools.pens.areaPen import AreaPen

    tt = TTFont(FOLDER / BUNDLED[name])
    glyphs, cmap = tt.getGlyphSet(), tt.getBestCmap()
    font = bundled(name)
    k = 50 / font.cap
    for letter in "HOBgq8&":
        pen = AreaPen(glyphs)
        glyphs[cmap[ord(letter)]].draw(pen)
        loops, advance, missing = font.outlines(letter, 50)
        assert not missing and abs(sum(c.area for c in loops)) == pytest.approx(abs(pen.value) * k * k, rel=2e-3)
        assert advance == pytest.approx(tt["hmtx"][cmap[ord(letter)]][0] * k)


def test_a_plotter_file_gives_what_its_words_say():
    """HPGL units of 0.025 mm (common practice); PD draws, CI a circle."""
    data = b"IN;SP1;PU0,0;PD4000,0,4000,2000,0,2000,0,0;SP2;PU2000,1000;CI400;PU;SP0;"
    for head in (b"", b"\x1b%1B"):
        i = take_in(read_file(head + data, "a.plt"), "a.plt")
        part, = i.parts
        assert part.shape.size == pytest.approx((100, 50)) and part.shape.region.area == pytest.approx(5000 - np.pi * 100, abs=0.2)
        assert {v.name for v in i.layers} == {"pen 1", "pen 2"}


def test_unevenly_scaled_nested_blocks_hatches_and_faces_have_their_exact_areas():
    """Exact mathematics: an affine map scales every area by |sx sy|, however nested and turned; a bulge of 1 is a half circle."""
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
    want = [a * abs(sx * sy) * 1.05 for sx, sy, _t in SCALES for a in (np.pi * 100, 200 + np.pi * 50)] + [600, 750, 2400 + np.pi * 450]
    assert ours == pytest.approx(sorted(want), rel=1e-3)


SCALES = ((1, 1, 0), (2, 1, 20), (-1, 3, 77), (0.5, -0.5, 190))
