"""Labels for sheets and remnants in the rack, one a page of 100 x 62 mm, with a code that a phone reads."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence

from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas
from shapely import get_parts
from shapely.geometry import LineString, Polygon, box

from venzo.core.rack.lots import Lot
from venzo.core.voice import inches, thickness
from venzo.formats.paper import BOLD, INK, PLAIN
from venzo.formats.qr import draw_qr

MM = 72 / 25.4
PAGE = (100 * MM, 62 * MM)
EDGE = 5 * MM
CODE = 25 * MM


def code_of(lot: Lot) -> str:
    """What the code says."""
    return f"VENZO RACK {lot.label}"


def rack_labels(lots: Sequence[Lot], materials: Mapping[str, str], unit: str = "mm") -> bytes:
    """PDF bytes: a label a page. ``materials``: names by id; ``unit``: in which sizes are said."""
    out = io.BytesIO()
    c = Canvas(out, pagesize=PAGE, pageCompression=1, invariant=1)
    c.setTitle("Rack labels")
    for lot in lots:
        _label(c, lot, materials.get(lot.material, lot.material), unit)
        c.showPage()
    c.save()
    return out.getvalue()


def _size(lot: Lot, unit: str) -> str:
    if unit == "in":
        return f"{inches(lot.width)} x {inches(lot.height)} in"
    return f"{lot.width:.0f} x {lot.height:.0f} mm"


def _label(c: Canvas, lot: Lot, material: str, unit: str) -> None:
    wide, high = PAGE
    c.setFillColorRGB(*INK)
    c.setStrokeColorRGB(*INK)
    c.setFont(BOLD, 30)
    c.drawString(EDGE, high - EDGE - 22, lot.label)
    draw_qr(c, code_of(lot), wide - EDGE - CODE, high - EDGE - CODE, CODE)
    room = wide - 3 * EDGE - CODE
    y = high - EDGE - 40
    for text, font, size in (
        (material, BOLD, 11.0),
        (f"{_size(lot, unit)}, {thickness(lot.thickness, unit)}", BOLD, 11.0),
        (_details(lot), PLAIN, 8.5),
    ):
        for line in simpleSplit(text, font, size, room)[:2]:
            c.setFont(font, size)
            c.drawString(EDGE, y, line)
            y -= size + 3
    _outline(c, lot, (EDGE, EDGE, wide - 2 * EDGE, y - EDGE + 2))
    c.setFont(PLAIN, 7)
    where = f"from {lot.origin.job}, run {lot.origin.run}" if lot.origin else ""
    if where:
        c.drawRightString(wide - EDGE, EDGE - 4, where[:70])


def _details(lot: Lot) -> str:
    told = [
        lot.grade,
        lot.face,
        f"batch {lot.batch}" if lot.batch else "",
        lot.place and f"place {lot.place}",
    ]
    said = ", ".join(t for t in told if t)
    return said or ("remnant" if lot.remnant else "")


def _outline(c: Canvas, lot: Lot, room: tuple[float, float, float, float]) -> None:
    """The sheet to scale with its grain and flaws, and its measures where they are read."""
    x, y, w, h = room
    k = min(w * 0.72 / lot.width, h / lot.height)
    corners = lot.outline or ((0, 0), (lot.width, 0), (lot.width, lot.height), (0, lot.height))
    path = c.beginPath()
    path.moveTo(x + corners[0][0] * k, y + corners[0][1] * k)
    for cx, cy in corners[1:]:
        path.lineTo(x + cx * k, y + cy * k)
    path.close()
    c.setLineWidth(1)
    c.drawPath(path, stroke=1, fill=0)
    for f in lot.flaws:
        c.rect(x + f.x * k, y + f.y * k, f.width * k, f.height * k)
        c.line(x + f.x * k, y + f.y * k, x + (f.x + f.width) * k, y + (f.y + f.height) * k)
    if lot.grain is not None:
        _grain(c, lot, (x, y, k))
    c.setFont(PLAIN, 8)
    right = x + lot.width * k + 5
    words = ["grain along the arrow"] if lot.grain is not None else []
    words += [f"{len(lot.outline)} corners"] if lot.outline else []
    words.append("thickness measured" if lot.readings else "thickness nominal, not measured")
    for n, line in enumerate(words):
        c.drawString(right, y + 2 + 10 * n, line)


def _grain(c: Canvas, lot: Lot, at: tuple[float, float, float]) -> None:
    """An arrow along the grain, within the outline."""
    x, y, k = at
    shape = Polygon(lot.outline) if lot.outline else box(0, 0, lot.width, lot.height)
    middle = shape.representative_point()
    far = lot.width + lot.height
    dx, dy = (far, 0.0) if lot.grain == 0 else (0.0, far)
    line = LineString([(middle.x - dx, middle.y - dy), (middle.x + dx, middle.y + dy)])
    inside = [g for g in get_parts(line.intersection(shape)) if g.distance(middle) < 1e-6]
    (ax, ay), (bx, by) = inside[0].coords[0], inside[0].coords[-1]
    trim = 0.2
    ax, ay, bx, by = (
        ax + (bx - ax) * trim,
        ay + (by - ay) * trim,
        bx - (bx - ax) * trim,
        by - (by - ay) * trim,
    )
    c.line(x + ax * k, y + ay * k, x + bx * k, y + by * k)
    for px, py, back in ((ax, ay, 1), (bx, by, -1)):
        for side in (-1, 1):
            hx, hy = (back * 4, side * 2.5) if lot.grain == 0 else (side * 2.5, back * 4)
            c.line(x + px * k, y + py * k, x + px * k + hx, y + py * k + hy)
