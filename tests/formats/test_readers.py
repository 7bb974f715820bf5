"""Drawings in: what is read, what is refused and how, and areas against an independent library."""

import io
import math

import ezdxf
import pytest
import svgpathtools
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import dxf, panel
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.snags import BadInput
from venzo.formats.cut_list import read_cut_list
from venzo.formats.drawing_file import read_file
from venzo.formats.fonts import BUNDLED, FOLDER, Font


def found(data: bytes, name: str = "x.dxf", units: str = "auto"):
    return take_in(read_file(data, name), name, units)


def everything(m):
    m.add_line((0, 0), (100, 0))
    m.add_line((100, 0.01), (100, 50))
    m.add_arc((50, 50), 50, 0, 180)
    m.add_line((0, 50), (0, 0))
    m.add_line((0, 50), (0, 0))
    m.add_circle((50, 50), 10)
    m.add_circle((50, 50), 3)  # an island in the hole is a part of its own
    block = m.doc.blocks.new("B")
    block.add_lwpolyline([(0, 0), (30, 0, 0, 0, 0.5), (30, 20), (0, 14)], close=True)
    block.add_circle((10, 8), 4)
    for at, rotation, sx in ((200, 0, 1), (300, 37, 1), (400, 0, -1)):
        m.add_blockref("B", (at, 0), dxfattribs={"rotation": rotation, "xscale": sx})
    m.add_ellipse((300, 200), (40, 0), 0.5)
    m.add_spline([(500, 0), (540, 10), (560, 40), (520, 60), (490, 30), (500, 0)])
    m.add_polyline2d([(600, 0), (650, 0), (650, 30)], close=True)
    m.add_line((700, 0), (710, 0))
    m.add_text("title")


@pytest.mark.parametrize("version", ["R12", "R2000", "R2018"])
def test_every_kind_of_line_is_read(version):
    if version == "R12":  # R12 has neither ellipses, splines nor lightweight polylines
        i = found(
            dxf(
                lambda m: (
                    m.add_polyline2d([(0, 0), (80, 0), (80, 40)], close=True),
                    m.add_circle((60, 15), 5),
                ),
                0,
                version,
            ),
            units="mm",
        )
        assert [p.shape.region.area for p in i.parts] == pytest.approx([1600 - 25 * math.pi], rel=1e-6)
        return
    i = found(dxf(everything, version=version))
    assert i.units == "mm" and i.scale_mm == 1
    by = {round(p.shape.region.area): p for p in i.parts}
    cathedral = 100 * 50 + math.pi * 2500 / 2 - math.pi * 100
    assert any(abs(a - cathedral) < 2 for a in by)
    assert any(abs(a - math.pi * 9) < 1 for a in by), "the island"
    assert any(abs(a - math.pi * 800) < 2 for a in by), "the ellipse"
    turned = [p for p in i.parts if p.quantity == 2]
    assert len(turned) == 1 and len([p for p in i.parts if len(p.shape.region.holes) == 1]) == 3, (
        "turned copies count as one part, a mirrored one does not"
    )
    arcs = sum((c.vertices[:, 2] != 0).sum() for p in i.parts for c in p.shape.region.loops)
    assert arcs >= 12, "arcs stay arcs"
    rules = {s.rule for s in i.snags}
    assert {"intake.ignored", "intake.duplicates", "intake.open"} <= rules and len(i.open_contours) == 1


def test_dimensions_leaders_and_stray_lines_at_a_corner_are_not_cut():
    def draw(m):
        m.add_lwpolyline([(0, 0), (100, 0), (100, 50), (0, 50)])
        m.add_line((0, 50), (0, 0.04))
        m.add_linear_dim(base=(0, -20), p1=(0, 0), p2=(100, 0)).render()
        m.add_radius_dim(center=(50, 25), radius=10, angle=45).render()
        m.add_leader([(10, 10), (30, 30), (40, 30)])
        m.add_line((100.03, 0), (130, -20))

    i = found(dxf(draw))
    (part,) = i.parts
    assert part.shape.region.area == pytest.approx(5000, abs=3) and part.shape.region.outline.bbox[
        2
    ] == pytest.approx(100, abs=1e-6), "a stray line does not pull the corner"
    assert (
        "2 DIMENSION, 1 LEADER" in next(s.message for s in i.snags if s.rule == "intake.ignored")
        and len(i.open_contours) == 1
    )


@pytest.mark.parametrize(
    ("code", "unit", "mm"), [(1, "in", 25.4), (2, "ft", 304.8), (4, "mm", 1), (5, "cm", 10), (6, "m", 1000)]
)
def test_header_units(code, unit, mm):
    i = found(dxf(lambda m: m.add_circle((0, 0), 1), code))
    assert (i.units, i.scale_mm) == (unit, mm) and max(i.parts[0].shape.size) == pytest.approx(2 * mm)


def test_a_drawing_without_unit_gets_the_likely_one_with_the_reason():
    def plate(metric):
        return dxf(
            lambda m: [
                m.doc.header.__setitem__("$MEASUREMENT", metric),
                m.add_lwpolyline([(0, 0), (23.75, 0), (23.75, 11.5), (0, 11.5)], close=True),
            ],
            0,
        )

    i = found(plate(1))
    assert i.units == "mm" and any("metric" in s.message for s in i.snags), (
        "what the header asks for is not overruled, only said"
    )
    i = found(plate(0))
    assert i.units == "in" and any(s.rule == "intake.unit" and "inch" in s.message for s in i.snags)
    assert found(panel(), units="in").scale_mm == 25.4, "the person has the last word"


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("empty.dxf", b"", "empty"),
        ("spaces.dxf", b" \n ", "empty"),
        ("plan.dxf", b"%PDF-1.7\n%...", "PDF"),
        ("photo.dxf", b"\x89PNG\r\n", "picture"),
        ("noise.dxf", b"\x00\xff\x13" * 500, "not a readable DXF"),
        ("letter.txt", b"Dear sir", "reads .dxf, .svg"),
        ("x.svg", b"<svg", "well-formed"),
        ("x.svg", b"<html/>", "not <svg>"),
        ("bomb.svg", b'<!DOCTYPE s [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>', "entities"),
    ],
)
def test_bad_files_are_refused_by_name_with_a_remedy(name, data, words):
    with pytest.raises(BadInput) as e:
        found(data, name)
    assert str(e.value).startswith(name) and words in str(e.value) and "\n" not in str(e.value)


@pytest.mark.parametrize(
    "draw",
    [
        lambda m: m.add_text("only words"),
        lambda m: m.add_lwpolyline([(0, 0), (50, 0), (50, 50)]),
        lambda m: None,
    ],
)
def test_nothing_to_cut_is_a_stop(draw):
    i = found(dxf(draw))
    assert i.parts == [] and any(s.severity == "stop" and s.rule == "intake.no-outline" for s in i.snags)


def test_an_open_line_around_closed_shapes_is_told():
    def draw(m):
        m.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60), (0, 1)])
        m.add_circle((50, 30), 5)

    assert any(s.rule == "intake.open-around" for s in found(dxf(draw)).snags)


@given(st.binary(max_size=400), st.integers(0, 2000))
def test_damaged_files_never_end_in_a_stack_trace(junk, at):
    data = panel()
    at = at * len(data) // 2000
    try:
        found(data[:at] + junk + data[at + len(junk) :])
    except BadInput as e:
        assert str(e)


SHAPES = [
    ("M10 10h80v40h-80z", "nonzero"),
    ("M0 0C30 -20 70 -20 100 0S130 60 100 80Q50 120 0 80z", "nonzero"),
    ("M10 50a40 40 0 1 0 80 0a40 40 0 1 0 -80 0z", "nonzero"),
    ("M0 0h60v60h-60zM20 20v20h20v-20z", "nonzero"),
    ("M0 0h60v60h-60zM20 20h20v20h-20z", "evenodd"),
    ("M50 10A40 25 30 1 1 49 10z", "nonzero"),
]


@pytest.mark.parametrize(("path", "rule"), SHAPES)
def test_svg_areas_agree_with_an_independent_library(path, rule):
    """svgpathtools integrates the same path data."""
    svg = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="200mm" viewBox="0 0 100 100"><g'
        f' transform="translate(3 4)"><path fill-rule="{rule}" d="{path}"/></g></svg>'
    )
    i = found(svg.encode(), "a.svg")
    subs = sorted(
        (
            abs(svgpathtools.parse_path(p.d()).area(chord_length=0.02))
            for p in svgpathtools.parse_path(path).continuous_subpaths()
        ),
        reverse=True,
    )
    wanted = 4 * (subs[0] - sum(subs[1:]))
    assert i.scale_mm == pytest.approx(2) and sum(
        p.shape.region.area * p.quantity for p in i.parts
    ) == pytest.approx(wanted, rel=2e-4)


def test_svg_units_flip_and_same_winding():
    svg = (
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50"><rect x="10" y="5" width="20"'
        b' height="10"/><path d="M50 10h30v30h-30zM60 20h5v5h-5z"/></svg>'
    )
    auto, mm = found(svg, "a.svg"), found(svg, "a.svg", "mm")
    assert auto.scale_mm == pytest.approx(25.4 / 96) and mm.scale_mm == 1
    assert mm.parts[0].origin == pytest.approx((10, 35)), "y is turned up about the viewBox"
    assert mm.parts[1].shape.region.area == pytest.approx(900), (
        "under the non-zero rule a loop of the same winding is no hole"
    )


def test_binary_dxf_is_read():
    doc = ezdxf.new()
    doc.header["$INSUNITS"] = 4
    doc.modelspace().add_circle((0, 0), 10)
    out = io.BytesIO()
    doc.write(out, fmt="bin")
    assert found(out.getvalue()).parts[0].shape.size == pytest.approx((20, 20))


SEEDS = {
    "a.svg": (
        b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 50" width="100mm"><g'
        b' transform="rotate(10)"><rect width="10" height="5" rx="2"/><text x="3" y="9">Hi</text><path d="M0'
        b' 0C1 2 3 4 5 6A3 2 20 0 1 9 9Z" fill-rule="evenodd"/><use href="#a"/></g><defs><circle id="a"'
        b' r="4"/></defs></svg>'
    ),
    "a.plt": b"IN;SP1;PU0,0;PD4000,0,4000,2000,0,2000,0,0;SP2;PU2000,1000;CI400;AA100,100,90;PU;SP0;",
    "a.csv": b"name,qty,thickness,grain\nleaf,3,18 mm,along\nb,2,3/4 in,\n",
    "a.ttf": (FOLDER / BUNDLED["plain"]).read_bytes(),
}


@given(
    st.sampled_from(sorted(SEEDS)),
    st.lists(
        st.tuples(
            st.floats(0, 1),
            st.integers(0, 12),
            st.sampled_from(
                [b"", b"\x00", b"nan", b"1e400", b"-", b"9999999999999", b'"', b"<g>", b"\r", b"\xff\xfe"]
            ),
        ),
        min_size=1,
        max_size=6,
    ),
)
def test_other_damaged_files_never_end_in_a_stack_trace_either(name, edits):
    data = bytearray(SEEDS[name])
    for where, gone, new in edits:
        at = int(where * len(data))
        data[at : at + gone] = new
    try:
        if name == "a.csv":
            read_cut_list(bytes(data), name)
        elif name == "a.ttf":
            Font(bytes(data), name).outlines("ABg&", 10)
        else:
            take_in(
                read_file(bytes(data), name), name, HowRead(bridge=1, chosen={"text": True, "open": True})
            )
    except BadInput as e:
        assert "\n" not in str(e)
