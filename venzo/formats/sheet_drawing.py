"""A sheet drawn to scale on paper: pieces numbered in cutting order, what is cut into their faces, tabs, what
holds the sheet, the zero and the grain; and where it lies on the table.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from venzo.core.derive import DerivedSetup
from venzo.core.faces.seen import shape_up
from venzo.core.geometry.contour import Array, Contour
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import corner_of
from venzo.formats.paper import BOLD, INK, PLAIN

CHORD = 0.5
"""mm on the sheet; finer than a printed line."""
PALE, WHITE = (0.93, 0.9, 0.82), (1.0, 1.0, 1.0)
DASHES: Mapping[str, Sequence[float]] = {
    "pocket": (),
    "groove": (4, 1.5),
    "engraving": (1, 1.5),
    "drilling": (),
    "relief": (6, 1.5, 1.5, 1.5),
}
"""Line styles of what is cut into a face, in points."""


def numbers(sheet: SheetPlan) -> dict[str, int]:
    """The pieces' numbers on drawing and lists: in the order in which their outlines are cut."""
    out: dict[str, int] = {}
    for pc in sheet.cuts:
        if not pc.cut.inside and pc.cut.frees:
            out.setdefault(pc.piece.id, len(out) + 1)
    for q in sheet.pieces:
        out.setdefault(q.id, len(out) + 1)
    return out


def fixings(setup: Setup, sheet: SheetPlan) -> list[tuple[str, str, float, float]]:
    """Screws and fixings of a sheet as (mark, what, x, y), mm from its lower left corner: S1, S2 ... screws
    and nails, F1, F2 ... all else.
    """
    screws = [s for s in setup.screws if s.on(sheet.sheet, sheet.copy_no)]
    return [
        *((f"S{k}", s.kind, s.x, s.y) for k, s in enumerate(screws, 1)),
        *((f"F{k}", f.kind, f.x, f.y) for k, f in enumerate(setup.fixings, 1)),
    ]


@dataclass(frozen=True)
class Drawn:
    """What is drawn, and where on the page: its lower left corner and points to a millimetre."""

    plan: Plan
    derived: DerivedSetup
    sheet: SheetPlan
    shapes: Mapping[str, Shape]
    x: float
    y: float
    k: float

    @property
    def setup(self) -> Setup:
        return self.derived.setup

    @property
    def stock(self) -> Stock:
        found = self.setup.stock_of(self.sheet.sheet)
        assert found is not None
        return found


def draw_sheet(c: Canvas, d: Drawn) -> None:
    """The sheet with all that is cut and all that holds it."""
    c.saveState()
    c.translate(d.x, d.y)
    c.setStrokeColorRGB(*INK)
    c.setFillColorRGB(*INK)
    _edge(c, d)
    _grain(c, d)
    _pieces(c, d)
    _tabs(c, d)
    _holding(c, d)
    _zero(c, d)
    c.restoreState()


def _path(c: Canvas, loops: Iterable[Array], k: float, closed: bool, fill: bool) -> None:
    path = c.beginPath()
    for points in loops:
        path.moveTo(*(points[0] * k))
        for p in points[1:] * k:
            path.lineTo(*p)
        if closed:
            path.close()
    c.drawPath(path, stroke=1, fill=int(fill), fillMode=0)


def _edge(c: Canvas, d: Drawn) -> None:
    c.setLineWidth(1)
    stock, k = d.stock, d.k
    if stock.outline:
        _path(c, [Contour.of(list(stock.outline)).points(CHORD)], k, True, False)
    else:
        c.rect(0, 0, stock.width * k, stock.height * k)
    for f in stock.flaws:  # crossed out
        c.rect(f.x * k, f.y * k, f.width * k, f.height * k)
        c.line(f.x * k, f.y * k, (f.x + f.width) * k, (f.y + f.height) * k)
        c.line(f.x * k, (f.y + f.height) * k, (f.x + f.width) * k, f.y * k)


def _grain(c: Canvas, d: Drawn) -> None:
    """A double arrow along the grain, beside the sheet."""
    if d.stock.grain is None:
        return
    c.setLineWidth(0.8)
    w, h = d.stock.width * d.k, d.stock.height * d.k
    if d.stock.grain == 0:
        _arrow(c, (w / 2 - 26, h + 6), (w / 2 + 26, h + 6))
        c.setFont(PLAIN, 7)
        c.drawString(w / 2 + 32, h + 4, "grain")
    else:
        _arrow(c, (w + 6, h / 2 - 26), (w + 6, h / 2 + 26))
        c.setFont(PLAIN, 7)
        c.drawString(w + 10, h / 2 - 2, "grain")


def _arrow(c: Canvas, a: tuple[float, float], b: tuple[float, float]) -> None:
    c.line(*a, *b)
    dx, dy = (1.0, 0.0) if a[1] == b[1] else (0.0, 1.0)
    for (x, y), way in ((a, 1), (b, -1)):
        c.line(x, y, x + way * (4 * dx + 2 * dy), y + way * (4 * dy + 2 * dx))
        c.line(x, y, x + way * (4 * dx - 2 * dy), y + way * (4 * dy - 2 * dx))


def _pieces(c: Canvas, d: Drawn) -> None:
    by_number = numbers(d.sheet)
    for q in d.sheet.pieces:
        part = d.plan.part(q.part)
        assert part is not None
        shape = d.shapes[part.shape]
        region = shape.region.placed(q.x, q.y, q.rotation, q.mirrored)
        c.setLineWidth(0.6)
        c.setDash()
        c.setFillColorRGB(*PALE)
        _path(c, [loop.points(CHORD) for loop in region.loops], d.k, True, True)
        for f in shape_up(shape, d.setup).features:
            c.setLineWidth(0.4)
            c.setDash(*([list(DASHES[f.kind])] if DASHES.get(f.kind) else []))
            placed = f.contour.placed(q.x, q.y, q.rotation, q.mirrored)
            _path(c, [placed.points(CHORD)], d.k, placed.closed, False)
        c.setDash()
        spot = region.polygon(CHORD).representative_point()
        c.setFillColorRGB(*WHITE)
        c.setStrokeColorRGB(*WHITE)
        c.circle(spot.x * d.k, spot.y * d.k, 4.6, stroke=0, fill=1)
        c.setStrokeColorRGB(*INK)
        c.setFillColorRGB(*INK)
        c.setFont(BOLD, 7)
        c.drawCentredString(spot.x * d.k, spot.y * d.k - 2.5, str(by_number[q.id]))


def _tabs(c: Canvas, d: Drawn) -> None:
    c.setLineWidth(2)
    for pc in d.sheet.cuts:
        if not pc.cut.tabs:
            continue
        placed = pc.cut.path.placed(pc.piece.x, pc.piece.y, pc.piece.rotation)
        for tx, ty in pc.cut.tabs:
            px, py = placed.at(pc.cut.path.nearest(tx, ty)[0])[:2]
            c.line(px * d.k - 2, py * d.k - 2, px * d.k + 2, py * d.k + 2)


def _holding(c: Canvas, d: Drawn) -> None:
    """Screws, clamps and what else holds, each with its mark."""
    k = d.k
    c.setLineWidth(0.8)
    c.setFont(PLAIN, 6.5)
    for n, fixing in enumerate(d.setup.fixings, 1):
        x0, y0, x1, y1 = fixing.box
        c.setDash(*([3, 2] if fixing.kind in ("cover", "tape", "pod") else []))
        c.rect(x0 * k, y0 * k, (x1 - x0) * k, (y1 - y0) * k)
        c.setDash()
        c.drawString(x1 * k + 1.5, y1 * k - 5, f"F{n}")
    screws = [s for s in d.setup.screws if s.on(d.sheet.sheet, d.sheet.copy_no)]
    for n, s in enumerate(screws, 1):
        r = max(2.0, s.head / 2 * k)
        c.circle(s.x * k, s.y * k, r)
        c.line(s.x * k - r * 0.7, s.y * k, s.x * k + r * 0.7, s.y * k)
        c.drawString(s.x * k + r + 1, s.y * k - 2, f"S{n}")


def _zero(c: Canvas, d: Drawn) -> None:
    dx, dy = datum_on_sheet(d.setup, d.stock)
    turn = d.setup.lying
    c.saveState()
    c.translate(dx * d.k, dy * d.k)
    if turn.turn:
        c.rotate(-turn.turn * 57.29577951308232)
    c.setLineWidth(0.9)
    c.circle(0, 0, 4)
    c.line(0, 0, 24, 0)
    c.line(0, 0, 0, 24)
    c.setFont(BOLD, 8)
    c.drawString(26, -3, "X")
    c.drawString(-3, 26, "Y")
    c.restoreState()


def draw_table(
    c: Canvas, setup: Setup, stock: Stock, at: tuple[float, float], room: tuple[float, float]
) -> None:
    """The table seen from where the operator stands: the sheet on it, dead areas crossed out, zones that are
    on, home.
    """
    m = setup.machine
    k = min(room[0] / m.width, room[1] / m.height)
    c.saveState()
    c.translate(*at)
    c.setStrokeColorRGB(*INK)
    c.setFillColorRGB(*INK)
    c.setLineWidth(0.4)
    for z in m.zones:
        x0, y0, x1, y1 = (v * k for v in z.rect)
        c.setDash(*([] if z.id in setup.zones_on else [1, 2]))
        c.rect(x0, y0, x1 - x0, y1 - y0)
    c.setDash()
    for x0, y0, x1, y1 in m.dead_areas:
        c.line(x0 * k, y0 * k, x1 * k, y1 * k)
        c.line(x0 * k, y1 * k, x1 * k, y0 * k)
        c.rect(x0 * k, y0 * k, (x1 - x0) * k, (y1 - y0) * k)
    c.setLineWidth(0.8)
    c.rect(0, 0, m.width * k, m.height * k)
    corners = [(0.0, 0.0), (stock.width, 0.0), (stock.width, stock.height), (0.0, stock.height)]
    c.setFillColorRGB(*PALE)
    c.setLineWidth(1)
    path = c.beginPath()
    for n, corner in enumerate(corners):
        x, y = (v * k for v in setup.lying.point_on_table(corner))
        (path.lineTo if n else path.moveTo)(x, y)
    path.close()
    c.drawPath(path, stroke=1, fill=1)
    c.setFillColorRGB(*INK)
    hx, hy = corner_of(m.home, m.width, m.height)
    c.circle(hx * k, hy * k, 2.4, fill=1)
    c.setFont(PLAIN, 6.5)
    c.drawString(0, -8, "table; the dot is home")
    c.restoreState()
