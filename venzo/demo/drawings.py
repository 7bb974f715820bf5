"""Drawings of the hide's parts, made as DXF files the way a drawing office would hand them over."""

from __future__ import annotations

import io
import math
from collections.abc import Callable

import ezdxf
import numpy as np
from ezdxf.layouts import Modelspace
from PIL import Image

from venzo.formats.fonts import bundled

Draw = Callable[[Modelspace], None]


def _file(draw: Draw, units: int = 4) -> bytes:
    doc = ezdxf.new("R2010", setup=False)
    doc.header["$INSUNITS"] = units
    draw(doc.modelspace())
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def _slot(m: Modelspace, x: float, y: float, w: float, h: float) -> None:
    m.add_lwpolyline([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], close=True)


def _obround(m: Modelspace, x: float, y: float, length: float, width: float) -> None:
    r = width / 2
    m.add_lwpolyline(
        [(x + r, y, 0), (x + length - r, y, 1), (x + length - r, y + width, 0), (x + r, y + width, 1)],
        format="xyb",
        close=True,
    )


def wall_rib(m: Modelspace) -> None:
    """Curved rib of separate lines and arcs, with two mating slots and a cable hole."""
    m.add_line((0, 0), (1180, 0))
    m.add_line((1180, 0), (1180, 90))
    half = math.degrees(math.asin(590 / 1580))
    m.add_arc((590, 90 - 1580 * math.cos(math.radians(half))), 1580, 90 - half, 90 + half)
    m.add_line((0, 90), (0, 0))
    for x in (250, 912):
        _slot(m, x, 30, 18, 62)
    m.add_circle((590, 110), 20)
    m.add_text("RIB  A", dxfattribs={"layer": "NOTES", "height": 20}).set_placement((40, 30))


def bench_end(m: Modelspace) -> None:
    """Bench end: clipped corners, a hand slot and shelf-pin holes."""
    m.add_lwpolyline(
        [(0, 0, 0), (420, 0, 0), (420, 300, 0.2), (340, 430, 0), (90, 430, 0.2), (0, 330, 0)],
        format="xyb",
        close=True,
    )
    _obround(m, 140, 340, 140, 34)
    for k in range(4):
        m.add_circle((60, 60 + 60 * k), 2.5)
        m.add_circle((360, 60 + 60 * k), 2.5)


def seat_rail(m: Modelspace) -> None:
    """Long narrow rail with notched ends."""
    m.add_lwpolyline(
        [
            (0, 18),
            (30, 18),
            (30, 0),
            (1070, 0),
            (1070, 18),
            (1100, 18),
            (1100, 72),
            (1070, 72),
            (1070, 90),
            (30, 90),
            (30, 72),
            (0, 72),
        ],
        close=True,
    )
    for x in (200, 550, 900):
        m.add_circle((x, 45), 6)


def shutter_batten(m: Modelspace) -> None:
    """Narrow batten, round ends."""
    _obround(m, 0, 0, 620, 46)
    m.add_circle((40, 23), 4)
    m.add_circle((580, 23), 4)


def viewing_hoop(m: Modelspace) -> None:
    """Ring around a viewing port: its middle takes other parts."""
    m.add_circle((0, 0), 190)
    m.add_circle((0, 0), 138)
    for k in range(6):
        m.add_circle((164 * math.cos(k * math.pi / 3), 164 * math.sin(k * math.pi / 3)), 3.5)


def gusset(m: Modelspace) -> None:
    """Corner gusset with a hollow long side."""
    m.add_lwpolyline(
        [(0, 0, 0), (210, 0, 0), (210, 35, -0.25), (35, 210, 0), (0, 210, 0)], format="xyb", close=True
    )
    m.add_circle((45, 45), 14)


def shelf(m: Modelspace) -> None:
    """Rounded shelf with a scribed back edge (spline)."""
    m.add_line((0, 0), (560, 0))
    m.add_arc((560, 60), 60, 270, 0)
    m.add_line((620, 60), (620, 240))
    m.add_spline([(620, 240), (470, 252), (310, 236), (150, 254), (0, 240)])
    m.add_line((0, 240), (0, 0))


def species_oval(m: Modelspace) -> None:
    """Oval backing of a species plate (ellipse) with two screw slots."""
    m.add_ellipse((130, 85), (130, 0), 85 / 130)
    _obround(m, 30, 80, 24, 10)
    _obround(m, 206, 80, 24, 10)


def peg_plate(m: Modelspace) -> None:
    """Small plate of the coat-peg row, drawn as a block placed three times."""
    block = m.doc.blocks.new("PEG")
    block.add_lwpolyline(
        [
            (10, 0, 0),
            (90, 0, 0.41421356),
            (100, 10, 0),
            (100, 60, 0.41421356),
            (90, 70, 0),
            (10, 70, 0.41421356),
            (0, 60, 0),
            (0, 10, 0.41421356),
        ],
        format="xyb",
        close=True,
    )
    block.add_circle((50, 35), 11)
    for k in range(3):
        m.add_blockref("PEG", (130 * k, 0))


def hide_sign(m: Modelspace) -> None:
    """Arrow-headed pointer for the path; a line drawn twice, as happens."""
    pts = [(0, 30), (230, 30), (230, 0), (330, 65), (230, 130), (230, 100), (0, 100), (26, 65)]
    for a, b in zip(pts, [*pts[1:], pts[0]], strict=True):
        m.add_line(a, b)
    m.add_line(pts[0], pts[1])


def slot_retainer(m: Modelspace) -> None:
    """Retainer frame of a viewing slot, in inches."""
    m.add_lwpolyline([(0, 0), (9, 0), (9, 4), (0, 4)], close=True)
    m.add_lwpolyline([(1, 1), (8, 1), (8, 3), (1, 3)], close=True)
    for x, y in ((0.5, 0.5), (8.5, 0.5), (8.5, 3.5), (0.5, 3.5)):
        m.add_circle((x, y), 0.09)


def lens_disc(m: Modelspace) -> None:
    """Port lens."""
    m.add_circle((0, 0), 66)


def label_holder(m: Modelspace) -> None:
    """Label holder with a window."""
    m.add_lwpolyline(
        [
            (6, 0, 0),
            (144, 0, 0.41421356),
            (150, 6, 0),
            (150, 54, 0.41421356),
            (144, 60, 0),
            (6, 60, 0.41421356),
            (0, 54, 0),
            (0, 6, 0.41421356),
        ],
        format="xyb",
        close=True,
    )
    _obround(m, 20, 20, 110, 20)


def field_desk(m: Modelspace) -> None:
    """Hinged field desk: a pencil tray with an island, a housing across its back, screw holes to drill and a
    rule engraved along its edge.
    """
    for name in ("POCKET 6mm", "GROOVE 8mm", "DRILL", "ENGRAVE"):
        m.doc.layers.add(name)
    k = 0.41421356
    m.add_lwpolyline(
        [
            (20, 0, 0),
            (440, 0, k),
            (460, 20, 0),
            (460, 280, k),
            (440, 300, 0),
            (20, 300, k),
            (0, 280, 0),
            (0, 20, k),
        ],
        format="xyb",
        close=True,
    )
    tray = {"layer": "POCKET 6mm"}
    m.add_lwpolyline(
        [
            (58, 40, 0),
            (402, 40, k),
            (410, 48, 0),
            (410, 82, k),
            (402, 90, 0),
            (58, 90, k),
            (50, 82, 0),
            (50, 48, k),
        ],
        format="xyb",
        close=True,
        dxfattribs=tray,
    )
    m.add_circle((230, 65), 9, dxfattribs=tray)
    m.add_lwpolyline(
        [(0, 240), (460, 240), (460, 257.6), (0, 257.6)], close=True, dxfattribs={"layer": "GROOVE 8mm"}
    )
    for x in (40, 160, 300, 420):
        m.add_circle((x, 280), 2.5, dxfattribs={"layer": "DRILL"})
    m.add_line((40, 18), (420, 18), dxfattribs={"layer": "ENGRAVE"})
    for n in range(20):
        m.add_line((40 + 20 * n, 18), (40 + 20 * n, 26 if n % 5 else 32), dxfattribs={"layer": "ENGRAVE"})


def hinge_plate(m: Modelspace) -> None:
    """Hinge plate in aluminium: a recess for the leaf, countersink pilots, rounded ends."""
    m.doc.layers.add("POCKET 1.2mm")
    m.add_lwpolyline([(10, 0, 0), (110, 0, 1), (110, 40, 0), (10, 40, 1)], format="xyb", close=True)
    m.add_lwpolyline([(30, 8), (90, 8), (90, 32), (30, 32)], close=True, dxfattribs={"layer": "POCKET 1.2mm"})
    for x in (10, 110):
        m.add_circle((x, 20), 4)
    m.add_circle((60, 20), 7)


def latch_plate(m: Modelspace) -> None:
    """Latch plate: a bolt slot, screw holes and a fine line engraved."""
    m.doc.layers.add("ENGRAVE")
    m.add_lwpolyline(
        [(0, 0, 0), (64, 0, 0.41421356), (76, 12, 0), (76, 52, 0.41421356), (64, 64, 0), (0, 64, 0)],
        format="xyb",
        close=True,
    )
    _obround(m, 24, 27, 36, 10)
    for x, y in ((12, 12), (12, 52)):
        m.add_circle((x, y), 3)
    m.add_lwpolyline([(24, 14), (60, 14), (60, 20)], dxfattribs={"layer": "ENGRAVE"})


def box_front(m: Modelspace) -> None:
    """As it came: loose lines with gaps, one drawn twice, one partly on another, centre lines, a pocket and a
    name to engrave; slots for 18 mm sheet.
    """
    for name, colour in (("OUTLINE", 7), ("POCKET 6mm", 5), ("ENGRAVE", 1), ("CONSTRUCTION", 3)):
        m.doc.layers.add(name, color=colour)
    m.doc.linetypes.add("CENTER", [50.0, 32.0, -6.0, 6.0, -6.0])
    line = {"layer": "OUTLINE"}
    corners = [(0, 0), (180, 0), (180, 240), (90, 300), (0, 240)]
    for a, b in zip(corners, [*corners[1:], corners[0]], strict=True):
        m.add_line(a, (b[0] + 0.02, b[1]), dxfattribs=line)
    m.add_line((180, 240), (180, 0), dxfattribs=line)
    m.add_line((40, 0), (140, 0), dxfattribs=line)
    for x in (30, 132):
        m.add_lwpolyline([(x, 40), (x + 18, 40), (x + 18, 100), (x, 100)], close=True, dxfattribs=line)
    m.add_lwpolyline(
        [(90 + 16 * math.cos(k * math.pi / 90), 190 + 16 * math.sin(k * math.pi / 90)) for k in range(180)],
        close=True,
        dxfattribs=line,
    )
    m.add_lwpolyline(
        [
            (60, 120, 0),
            (120, 120, 0.41421356),
            (124, 124, 0),
            (124, 146, 0.41421356),
            (120, 150, 0),
            (60, 150, 0.41421356),
            (56, 146, 0),
            (56, 124, 0.41421356),
        ],
        format="xyb",
        close=True,
        dxfattribs={"layer": "POCKET 6mm"},
    )
    m.add_spline([(60, 22), (75, 30), (90, 20), (105, 30), (120, 22)], dxfattribs={"layer": "ENGRAVE"})
    m.add_line((90, -20), (90, 320), dxfattribs={"layer": "OUTLINE", "linetype": "CENTER"})
    m.add_line((-20, 190), (200, 190), dxfattribs={"layer": "CONSTRUCTION"})
    m.add_text("NEST BOX FRONT", dxfattribs={"layer": "CONSTRUCTION", "height": 8}).set_placement((20, -40))


def box_shelf(m: Modelspace) -> None:
    """A shelf in a drawing frame, its inside fillets as round as the shop's 8 mm cutter."""
    m.add_lwpolyline([(-60, -60), (420, -60), (420, 260), (-60, 260)], close=True, dxfattribs={"layer": "0"})
    k = -math.tan(math.pi / 8)
    m.add_lwpolyline(
        [
            (0, 0, 0),
            (320, 0, 0),
            (320, 150, 0),
            (230, 150, 0),
            (230, 104, k),
            (226, 100, 0),
            (94, 100, k),
            (90, 104, 0),
            (90, 150, 0),
            (0, 150, 0),
        ],
        format="xyb",
        close=True,
    )
    m.add_lwpolyline([(30, 40), (70, 40), (70, 80), (30, 80)], close=True)
    m.add_lwpolyline([(44, 54), (56, 54), (56, 66), (44, 66)], close=True)


def strap_hinge(m: Modelspace) -> None:
    """A strap for a shutter: tapered, with a round eye and screw holes."""
    m.add_lwpolyline(
        [(0, 10, 0), (300, 0, 0), (318, 0, 1), (318, 36, 0), (300, 36, 0), (0, 26, 1)],
        format="xyb",
        close=True,
    )
    m.add_circle((318, 18), 6.5)
    for x in (30, 110, 190, 260):
        m.add_circle((x, 18), 3.5)


def corner_bracket(m: Modelspace) -> None:
    """A bracket with a curved brace, slots and holes."""
    q = -math.tan(math.pi / 8)
    m.add_lwpolyline(
        [(0, 0, 0), (150, 0, 0), (150, 30, 0), (110, 30, q), (30, 110, 0), (30, 150, 0), (0, 150, 0)],
        format="xyb",
        close=True,
    )
    for x, y in ((135, 15), (15, 135), (15, 15)):
        m.add_circle((x, y), 4)
    _obround(m, 50, 11, 40, 8)
    m.add_circle((28, 28), 1.6)  # a mark that no arc can cut


def reed_plate(m: Modelspace) -> None:
    """A sign of our own for the hide's door: three reeds and a wave, cut through."""
    m.add_lwpolyline(
        [
            (12, 0, 0),
            (208, 0, 0.41421356),
            (220, 12, 0),
            (220, 268, 0.41421356),
            (208, 280, 0),
            (12, 280, 0.41421356),
            (0, 268, 0),
            (0, 12, 0.41421356),
        ],
        format="xyb",
        close=True,
    )
    for x, top, lean in ((60, 235, 10), (110, 255, 0), (160, 225, -12)):
        m.add_lwpolyline(
            [
                (x - 4, 70),
                (x + 4, 70),
                (x + lean + 5, top - 60),
                (x + lean + 13, top - 30),
                (x + lean, top),
                (x + lean - 13, top - 30),
                (x + lean - 5, top - 60),
            ],
            close=True,
        )
    k = 0.5
    m.add_lwpolyline(
        [
            (30, 30, -k),
            (70, 30, k),
            (110, 30, -k),
            (150, 30, k),
            (190, 30, 0),
            (190, 42, -k),
            (150, 42, k),
            (110, 42, -k),
            (70, 42, k),
            (30, 42, 0),
        ],
        format="xyb",
        close=True,
    )
    for x in (16, 204):
        for y in (16, 264):
            m.add_circle((x, y), 3)


def bench_foot(m: Modelspace) -> None:
    """A foot of 6 mm plate."""
    m.add_lwpolyline(
        [(0, 0, 0), (180, 0, 0), (180, 20, 0), (120, 100, 0.6), (60, 100, 0), (0, 20, 0)],
        format="xyb",
        close=True,
    )
    for x in (20, 160):
        m.add_circle((x, 12), 5.5)
    m.add_circle((90, 70), 14)


def base_plate(m: Modelspace) -> None:
    """A base plate with four bolt holes and a window."""
    m.add_lwpolyline([(0, 0), (120, 0), (120, 80), (0, 80)], close=True)
    for x in (15, 105):
        for y in (15, 65):
            m.add_circle((x, y), 5.5)
    m.add_lwpolyline([(45, 25), (75, 25), (75, 55), (45, 55)], close=True)


IRONMONGERY = {
    "strap hinge x8.dxf": _file(strap_hinge),
    "corner bracket x12.dxf": _file(corner_bracket),
    "reed plate x2.dxf": _file(reed_plate),
}
FEET = {"bench foot x6.dxf": _file(bench_foot), "base plate x8.dxf": _file(base_plate)}
HIDE = {
    "wall rib x4.dxf": _file(wall_rib),
    "bench end x6.dxf": _file(bench_end),
    "seat rail x6.dxf": _file(seat_rail),
    "shutter batten x8.dxf": _file(shutter_batten),
    "viewing hoop x2.dxf": _file(viewing_hoop),
    "gusset x6.dxf": _file(gusset),
    "shelf x4.dxf": _file(shelf),
    "species oval x3.dxf": _file(species_oval),
    "peg plate.dxf": _file(peg_plate),
    "hide sign x2.dxf": _file(hide_sign),
    "field desk x2.dxf": _file(field_desk),
}
"""Main job: file name to DXF bytes; the quantity stands in the name."""
GLAZING = {
    "slot retainer x6.dxf": _file(slot_retainer, units=1),
    "lens disc x4.dxf": _file(lens_disc),
    "label holder x6.dxf": _file(label_holder),
}
"""Second job, for the small router: acrylic."""
PLATES = {"hinge plate x8.dxf": _file(hinge_plate), "latch plate x6.dxf": _file(latch_plate)}
"""Third job, for the small router: aluminium."""
AS_THEY_CAME = {"box front x4.dxf": _file(box_front), "box shelf x4.dxf": _file(box_shelf)}


def panel(m: Modelspace) -> None:
    """A panel with rounded corners that a relief is set on, and the words that are carved over it."""
    w, h, r, q = 300.0, 160.0, 12.0, math.tan(math.pi / 8)
    rows = [
        (r, 0, 0),
        (w - r, 0, q),
        (w, r, 0),
        (w, h - r, q),
        (w - r, h, 0),
        (r, h, q),
        (0, h - r, 0),
        (0, r, q),
    ]
    m.add_lwpolyline(rows, format="xyb", close=True)
    m.doc.layers.add("ENGRAVE")
    for letter in bundled("serif").letters("SALTMARSH", 17.0)[0]:
        for c in letter.contours:
            around = [(34 + letter.x + x, 104 + letter.y + y, b) for x, y, b in c.rows()]
            m.add_lwpolyline(around, format="xyb", close=True, dxfattribs={"layer": "ENGRAVE"})


def scoop(m: Modelspace) -> None:
    """A measuring scoop: a round bowl on a handle. Its hollow and its rounded back are made here."""
    reach = math.sqrt(40.0**2 - 12.0**2)
    round_it = math.tan(math.radians(360 - 2 * math.degrees(math.atan2(12, reach))) / 4)
    rows = [
        (40 + reach, 28, 0),
        (206, 28, 1),
        (206, 52, 0),
        (40 + reach, 52, round_it),
    ]
    m.add_lwpolyline(rows, format="xyb", close=True)


def spice_shelf(m: Modelspace) -> None:
    """A shelf for jars: grooves for dividers above, and two below for the rails that it slides on."""
    m.add_lwpolyline([(0, 0), (360, 0), (360, 120), (0, 120)], close=True)
    for layer, places in (
        ("POCKET 7", ((60, 14), (174, 14), (288, 14))),
        ("BACK POCKET 6", ((0, 24), (0, 86))),
    ):
        m.doc.layers.add(layer)
        for x, y in places:
            w, h = (12, 92) if layer == "POCKET 7" else (360, 10)
            m.add_lwpolyline(
                [(x, y), (x + w, y), (x + w, y + h), (x, y + h)], close=True, dxfattribs={"layer": layer}
            )


BOTH_FACES = {"measuring scoop.dxf": _file(scoop), "spice shelf.dxf": _file(spice_shelf)}
"""Parts that are cut from both faces."""


def handrail(m: Modelspace) -> None:
    """Longer than any bed of the shop: round ends, peg holes, a rebate for its bracket."""
    _obround(m, 0, 0, 4300, 80)
    for x in range(290, 4260, 620):
        m.add_circle((x, 40), 6.0)
    m.doc.layers.add("POCKET 8mm")
    ring = [(400, 25), (2200, 25), (2200, 55), (400, 55)]
    m.add_lwpolyline(ring, close=True, dxfattribs={"layer": "POCKET 8mm"})


def rail_post(m: Modelspace) -> None:
    """A post of the rail, with a notch at its head."""
    ring = [(0, 0), (1250, 0), (1250, 30), (1200, 30), (1200, 80), (1250, 80), (1250, 110), (0, 110)]
    m.add_lwpolyline(ring, close=True)
    m.add_circle((60, 55), 10.0)


LONG_RAIL = {"handrail.dxf": _file(handrail), "rail post.dxf": _file(rail_post)}
"""Parts of a plank that is longer than the table."""
PANEL = {"channel panel.dxf": _file(panel)}


def tidal_channels() -> bytes:
    """Heights of a salt marsh with its creeks, as a 16-bit picture: white is the marsh, dark its channels."""
    x, y = np.meshgrid(np.linspace(0, 2, 300), np.linspace(0, 1, 150))
    marsh = 0.86 + 0.05 * np.sin(9 * x + 3 * np.sin(4 * y)) + 0.03 * np.sin(17 * y + 5 * x)
    for middle, swing, waves, wide, deep in (
        (0.55, 0.16, 3.1, 0.075, 0.78),
        (0.25, 0.10, 5.3, 0.035, 0.5),
        (0.82, 0.07, 6.4, 0.028, 0.42),
    ):
        creek = middle + swing * np.sin(waves * x + 4 * middle) + 0.03 * np.sin(11 * x)
        grows = wide * (0.35 + 0.65 * x / 2)
        marsh -= deep * np.exp(-(((y - creek) / grows) ** 2))
    low, high = float(marsh.min()), float(marsh.max())
    out = io.BytesIO()
    grey = np.round((marsh - low) / (high - low) * 65535).astype(np.uint16)
    Image.fromarray(grey[::-1]).save(out, "PNG")
    return out.getvalue()
