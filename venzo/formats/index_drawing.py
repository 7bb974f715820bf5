"""Long stock at each of its positions on the table, one strip under another: what lies in dead areas, where
pins or the fence's mark hold it, where cuts are made in lengths.
"""

from __future__ import annotations

from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from venzo.core.indexing.positions import FenceMark, Indexing, IndexPins
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.stock.sheet import Stock
from venzo.formats.paper import INK, PLAIN
from venzo.formats.sheet_drawing import PALE

STRIP, STOCK, WIDE = 30.0, 11.0, 500.0
"""Points: height of a strip, of the stock in it, and its width."""


@dataclass(frozen=True)
class OnStrips:
    """What is drawn: a sheet of long stock, and up to which position it is cut."""

    setup: Setup
    stock: Stock
    sheet: SheetPlan

    @property
    def indexing(self) -> Indexing:
        """How it is moved."""
        assert self.setup.indexing is not None
        return self.setup.indexing

    @property
    def count(self) -> int:
        """Positions at which it lies."""
        return max(self.sheet.positions, default=0) + 1

    @property
    def height(self) -> float:
        """Points that the strips take."""
        return self.count * STRIP + 10

    @property
    def size(self) -> tuple[float, float]:
        """Of stock and table along the axis, mm."""
        k, m = self.indexing.column, self.setup.machine
        return ((self.stock.width, self.stock.height)[k], (m.width, m.height)[k])


def draw_positions(c: Canvas, on: OnStrips, at: tuple[float, float]) -> None:
    """The strips, the first on top; ``at``: their lower left corner, points."""
    long, table = on.size
    first = on.setup.sheet_at[on.indexing.column]
    low = min(0.0, first - on.indexing.offset(on.count - 1))
    high = max(table, first + long)
    k = (WIDE - 50) / (high - low)
    c.saveState()
    c.translate(at[0], at[1])
    for p in range(on.count):
        c.saveState()
        c.translate(50 - low * k, (on.count - 1 - p) * STRIP + 8)
        _strip(c, on, p, k)
        c.restoreState()
        c.setFillColorRGB(*INK)
        c.setFont(PLAIN, 7.5)
        c.drawString(0, (on.count - 1 - p) * STRIP + 15, f"position {p + 1}")
    c.restoreState()


def _strip(c: Canvas, on: OnStrips, position: int, k: float) -> None:
    """The table's length with its dead areas, and the stock on it; X 0 is the table's low end."""
    column, m = on.indexing.column, on.setup.machine
    long, table = on.size
    c.setStrokeColorRGB(*INK)
    c.setLineWidth(0.7)
    c.rect(0, 0, table * k, STOCK + 9)
    c.setLineWidth(0.4)
    for r in m.dead_areas:
        a, b = r[column] * k, r[column + 2] * k
        if r[column] <= 0 and r[column + 2] >= table:
            continue
        c.rect(a, 0, b - a, STOCK + 9)
        c.line(a, 0, b, STOCK + 9)
        c.line(a, STOCK + 9, b, 0)
    x = on.setup.sheet_at[column] - on.indexing.offset(position)
    c.setFillColorRGB(*PALE)
    c.setLineWidth(0.9)
    c.rect(x * k, 4.5, long * k, STOCK, fill=1)
    c.setFillColorRGB(*INK)
    _seams(c, on, position, x, k)
    _brought(c, on, position, k)


def _seams(c: Canvas, on: OnStrips, position: int, x: float, k: float) -> None:
    c.setDash(3, 2)
    for s in on.sheet.seams:
        if position in (s.before, s.before + 1):
            c.line((x + s.at) * k, 2, (x + s.at) * k, STOCK + 7)
    c.setDash()


def _brought(c: Canvas, on: OnStrips, position: int, k: float) -> None:
    """The pins that the stock is on, or the mark that its line lies at."""
    brought, column = on.indexing.brought, on.indexing.column
    first = on.setup.sheet_at[column]
    if isinstance(brought, IndexPins):
        for p in brought.pins:
            c.circle((first + p.at[column]) * k, 4.5 + STOCK / 2, 1.9, fill=int(position > 0))
    elif isinstance(brought, FenceMark):
        at = (first + brought.at) * k
        path = c.beginPath()
        path.moveTo(at, 4.5)
        path.lineTo(at - 2.5, 0.5)
        path.lineTo(at + 2.5, 0.5)
        path.close()
        c.drawPath(path, stroke=0, fill=1)
