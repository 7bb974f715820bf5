"""Files that would hang or drown a reader: each is answered with a sentence, within the reader's 20 s and 500
MB, and the next file is read.
"""

import ezdxf
import pytest

from tests.conftest import dxf
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.parts.layers import COMMON
from venzo.core.snags import BadInput
from venzo.formats.drawing_file import read_file
from venzo.work.reader import Reader

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100mm"'
    ' height="100mm" viewBox="0 0 100 100">{}</svg>'
)


def nested_uses(depth=40, wide=8):
    groups = ['<g id="g0"><rect width="1" height="1"/></g>']
    groups += [
        f'<g id="g{k}">' + f'<use xlink:href="#g{k - 1}" x="1"/>' * wide + "</g>" for k in range(1, depth)
    ]
    return SVG.format(f"<defs>{''.join(groups)}</defs><use href='#g{depth - 1}'/>").encode()


def nested_blocks(depth=8, array=100):
    doc = ezdxf.new("R2010")
    block = doc.blocks.new("B0")
    block.add_line((0, 0), (1, 1))
    for k in range(1, depth):
        doc.blocks.new(f"B{k}").add_blockref(
            f"B{k - 1}",
            (0, 0),
            dxfattribs={"column_count": array, "row_count": array, "column_spacing": 1, "row_spacing": 1},
        )
    return dxf_of(doc, f"B{depth - 1}")


def dxf_of(doc, name):
    import io

    doc.modelspace().add_blockref(name, (0, 0))
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def block_in_itself():
    doc = ezdxf.new("R2010")
    a, b = doc.blocks.new("A"), doc.blocks.new("B")
    a.add_line((0, 0), (1, 0))
    a.add_blockref("B", (0, 0))
    b.add_blockref("A", (0, 0))
    return dxf_of(doc, "A")


HOSTILE = {
    "encoded line that is no number": ("a.plt", b"\x1b%1BIN;SP1;PUPD;PE5;PU;PD1,1;PA5,5;", "encoded line"),
    "encoded number without end": ("a.plt", b"\x1b%1BIN;SP1;PE>" + b"@" * 30_000 + b";PD1,1;", "digits"),
    "arc of a milliard turns": ("a.plt", b"IN;SP1;PU4000,0;PD;AA0,0,99999999999;PU;", "degrees"),
    "circle as large as the sun": ("a.plt", b"IN;SP1;PU0,0;PD;CI99999999999999;PU;", "radius"),
    "groups re-used forty deep": ("a.svg", nested_uses(), "re-used groups"),
    "a group that re-uses itself": (
        "a.svg",
        SVG.format('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>').encode(),
        "re-uses itself",
    ),
    "groups ten thousand deep": (
        "a.svg",
        SVG.format("<g>" * 10_000 + '<rect width="9" height="9"/>' + "</g>" * 10_000).encode(),
        "",
    ),
    "blocks in arrays eight deep": ("a.dxf", nested_blocks(), "block references"),
    "a block in itself": ("a.dxf", block_in_itself(), "holds itself"),
    "a path of two hundred thousand numbers, all the same": (
        "a.svg",
        SVG.format('<path d="M0 0 ' + "L1 1 " * 100_000 + 'Z"/>').encode(),
        "",
    ),
    "a spline of degree 60000": (
        "a.dxf",
        b"0\nSECTION\n2\nENTITIES\n0\nSPLINE\n8\n0\n71\n60000\n72\n10\n73\n4\n0\nENDSEC\n0\nEOF\n",
        "",
    ),
    "an arc of radius 1e300": ("a.dxf", dxf(lambda m: m.add_arc((0, 0), 1e300, 0, 90)), ""),
    "coordinates that are no numbers": (
        "a.dxf",
        dxf(lambda m: m.add_line((0, 0), (1, 1))).replace(b" 10\n0.0", b" 10\nnan"),
        "",
    ),
}


@pytest.fixture(scope="module")
def reader():
    r = Reader(seconds=20.0, memory=500)
    r.warm()
    yield r
    r.close()


@pytest.mark.parametrize("which", HOSTILE)
def test_a_hostile_file_is_answered_with_a_sentence(reader, which):
    name, data, why = HOSTILE[which]
    try:
        got = reader.read(data, name, HowRead(), COMMON)
        assert not why, "it was read"
        assert all(len(s.message) > 10 for s in got.snags)
    except BadInput as e:
        assert why in str(e) and name in str(e) and "takes more than" not in str(e) and "\n" not in str(e)
    sound = reader.read(dxf(lambda m: m.add_circle((0, 0), 10)), "sound.dxf", HowRead(), COMMON)
    assert len(sound.parts) == 1


def test_what_takes_too_long_or_too_much_is_given_up_and_the_next_is_read():
    many = dxf(lambda m: [m.add_circle((x % 200 * 25, x // 200 * 25), 10) for x in range(4000)])
    slow, small = Reader(seconds=0.3, memory=4000), Reader(seconds=60, memory=60)
    try:
        for reader, why in ((slow, "takes more than 0 s to read"), (small, "MB of memory")):
            with pytest.raises(BadInput, match=why):
                reader.read(many, "many.dxf", HowRead(), COMMON)
        slow.seconds, small.memory = 60.0, 4000
        for reader in (slow, small):
            assert (
                len(
                    reader.read(dxf(lambda m: m.add_circle((0, 0), 10)), "sound.dxf", HowRead(), COMMON).parts
                )
                == 1
            )
        with pytest.raises(BadInput, match=r"^broken.dxf: "):
            slow.read(b"nonsense", "broken.dxf", HowRead(), COMMON)
    finally:
        slow.close()
        small.close()


@pytest.mark.parametrize(
    ("text", "area"),
    [
        (b"IN;SP1;PU0,0;EA4000,2000;", 5000),
        (b"IN;SP1;PU1000,1000;ER4000,2000;", 5000),
        (b"IN;SP1;PU0,0;RR4000,2000;", 5000),
        (b"IN;SP1;PU0,0;EW4000,0,90;", 2500 * 3.14159265),
        (b"IN;SP1;PU0 0;PD4000 0 4000 2000 0 2000 0 0;PU;", 5000),
        (b"IN;SP1;PU0,0;PD4000,0,4000,2000,0,2000,0,0;PU;", 5000),
        (b"IN;SP1;PU4000,0;PD;AA0,0,720;PU;", 10_000 * 3.14159265),
        (
            b"IN;SP1;PU4000,0;PD;BZ4000,2209,2209,4000,0,4000,-2209,4000,-4000,2209,-4000,0,-4000,-2209,"
            b"-2209,-4000,0,-4000,2209,-4000,4000,-2209,4000,0;PU;",
            10_000 * 3.14159265,
        ),
    ],
)
def test_what_the_plotter_language_draws_is_read(text, area):
    """HPGL/2 reference: EA/ER/EW edge rectangles and wedges, RA/RR/WG fill them, BZ cubic Bezier curves,
    parameters parted by commas or spaces. [M]
    """
    (part,) = take_in(read_file(text, "a.plt"), "a.plt").parts
    assert part.shape.region.area == pytest.approx(area, rel=5e-4)
