"""How stock is turned over, drawn as the hands do it: before, after, and the corner that tells which is
up.
"""

from __future__ import annotations

from reportlab.pdfgen.canvas import Canvas

from venzo.core.faces.registration import Dowels, OtherFace
from venzo.core.faces.turn import Turn, turn_of
from venzo.core.stock.machine import Corner
from venzo.core.stock.sheet import Stock
from venzo.formats.paper import INK, PLAIN

WHITE = (1.0, 1.0, 1.0)
HIGH, WIDE = 74.0, 380.0
"""Points that the drawing takes."""
GAP = 70.0
AXIS = (6.0, 2.0, 1.5, 2.0)


def draw_turn(c: Canvas, turn: OtherFace, stock: Stock, at: tuple[float, float], back: bool = False) -> None:
    """A sheet as its first face is up and as it is turned, side by side, lower left corner ``at`` (points);
    ``stock`` as its first face is up; ``back``: how it is turned back.
    """
    k = min((WIDE - GAP) / 2 / stock.width, (HIGH - 20) / stock.height)
    turned = turn_of(turn.axis, stock)
    c.saveState()
    c.translate(at[0], at[1] + 12)
    c.setStrokeColorRGB(*INK)
    c.setFillColorRGB(*INK)
    _sheet(c, turn, turned, k, back)
    w, h = stock.width * k, stock.height * k
    _hands(c, turn.axis, w, h)
    c.setLineWidth(1.2)
    x0, x1, y = w + 12, w + GAP - 12, h / 2
    c.line(x0, y, x1, y)
    c.line(x1, y, x1 - 6, y + 4)
    c.line(x1, y, x1 - 6, y - 4)
    c.translate(w + GAP, 0)
    _sheet(c, turn, turned, k, not back)
    c.restoreState()


def _sheet(c: Canvas, turn: OtherFace, turned: Turn, k: float, over: bool) -> None:
    w, h = turned.width * k, turned.height * k
    c.setLineWidth(0.9)
    c.rect(0, 0, w, h)
    c.setLineWidth(0.6)
    c.setDash(list(AXIS))
    if turn.axis == "x":
        c.line(-5, h / 2, w + 5, h / 2)
    else:
        c.line(w / 2, -5, w / 2, h + 5)
    c.setDash()
    _mark(c, turned.corner(turn.mark) if over else turn.mark, (w, h), over)
    if isinstance(turn.registration, Dowels):
        for d in turn.registration.dowels:
            x, y = turned.point(d.at) if over else d.at
            shown = over or turn.registration.sets == "one"
            c.circle(x * k, y * k, max(1.8, d.hole / 2 * k), fill=int(shown))
    c.setFont(PLAIN, 7)
    c.drawCentredString(w / 2, -10, "other face up" if over else "first face up")


def _mark(c: Canvas, corner: Corner, size: tuple[float, float], under: bool) -> None:
    """The marked corner: filled where it is seen, hollow and dashed where it lies underneath."""
    w, h = size
    a = min(14.0, w / 3, h / 3)
    x, y = (w if "right" in corner else 0.0), (h if "upper" in corner else 0.0)
    path = c.beginPath()
    path.moveTo(x, y)
    path.lineTo(x + (-a if "right" in corner else a), y)
    path.lineTo(x, y + (-a if "upper" in corner else a))
    path.close()
    c.setDash(*([2, 1.5] if under else []))
    c.setFillColorRGB(*(WHITE if under else INK))
    c.drawPath(path, stroke=1, fill=int(not under))
    c.setFillColorRGB(*INK)
    c.setDash()


def _hands(c: Canvas, axis: str, w: float, h: float) -> None:
    """An arrow over the axis: which edge goes where."""
    c.saveState()
    c.translate(w / 2, h / 2)
    if axis == "y":
        c.rotate(90)
    r = min(w, h) * 0.3
    c.setLineWidth(1.2)
    path = c.beginPath()
    path.moveTo(0, r)
    path.curveTo(r * 1.1, r, r * 1.1, -r, 0, -r)
    c.drawPath(path, stroke=1, fill=0)
    c.line(0, -r, 5, -r + 4.5)
    c.line(0, -r, 6, -r - 3)
    c.restoreState()
