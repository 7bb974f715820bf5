"""The yield report: each sheet drawn as what becomes of it, with its areas and masses, and the job's sums."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas
from shapely.geometry.base import BaseGeometry

from venzo.core.voice import counted
from venzo.core.yields.material_use import DEFINED, Amounts
from venzo.core.yields.parted import KINDS, SheetParted
from venzo.formats.paper import BOLD, INK, LEFT, PLAIN, RIGHT, Paper

GREY: Mapping[str, float] = {
    "parts": 1.0,
    "kerf": 0.25,
    "drops": 0.62,
    "skeleton": 0.8,
    "edge": 0.88,
    "remnant": 0.95,
}
"""How light each kind is printed; what is kept is hatched, too."""
DRAWING = (RIGHT - LEFT, 190.0)
SIMPLE = 0.3
"""mm; finer than a printed line."""
ACRE = {"mm": (1e6, "m2"), "in": (92_903.04, "sq ft")}
HEAVY = {"mm": (1.0, "kg"), "in": (0.45359237, "lb")}


@dataclass(frozen=True)
class ReportedSheet:
    """A sheet of the report: its name, what becomes of it, its amounts."""

    name: str
    parted: SheetParted
    amounts: Amounts


@dataclass(frozen=True)
class YieldReport:
    """What is reported: of which job and revision, sheet by sheet, all together, and lines on cost."""

    job: str
    stamp: str
    code: str
    sheets: tuple[ReportedSheet, ...]
    whole: Amounts
    costs: tuple[tuple[str, str, str], ...]
    unit: str = "mm"


def yield_report(r: YieldReport) -> bytes:
    """PDF bytes."""
    from venzo.formats.qr import draw_qr

    paper = Paper(
        f"{r.job}: material yield",
        ["Areas and masses of the plan, kerf by the sweep of its programs; weigh what matters."],
    )
    paper.begin(r.job, "material yield", counted(len(r.sheets), "sheet"), r.stamp)
    draw_qr(paper.canvas, r.code, RIGHT - 66, paper.y - 54, 66)
    paper.heading("How well the material is used")
    for key, share in r.whole.utilisation.items():
        paper.text(f"{share:.1%}  {DEFINED[key]}", 9)
    paper.gap(4)
    _table(paper, "All sheets", r.whole, r.unit)
    if r.costs:
        paper.heading("Cost as planned")
        for of, sum_, says in r.costs:
            paper.fact(of, f"{sum_}   ({says})")
    for s in r.sheets:
        paper.gap(8)
        _sheet(paper, s, r.unit)
    return paper.finish()


def _sheet(paper: Paper, s: ReportedSheet, unit: str) -> None:
    x0, y0, x1, y1 = s.parted.sheet.bounds
    k = min(DRAWING[0] / (x1 - x0), DRAWING[1] / (y1 - y0))
    high = (y1 - y0) * k
    paper.room(high + 60)
    paper.text(s.name, 10.5, BOLD)
    paper.gap(2)
    c = paper.canvas
    c.saveState()
    c.translate(LEFT, paper.y - high + 6)
    for kind in (*KINDS[1:], "parts"):
        _area(c, getattr(s.parted, kind), k, GREY[kind])
    for r in s.parted.kept:
        _hatched(c, r.box, k)
        w, h = r.size
        c.setFillColorRGB(*INK)
        c.setFont(BOLD, 8)
        bx = r.box
        size = f"{w:.0f} x {h:.0f}" if unit == "mm" else f"{w / 25.4:.1f} x {h / 25.4:.1f} in"
        c.drawCentredString((bx[0] + bx[2]) / 2 * k, (bx[1] + bx[3]) / 2 * k - 3, f"keep {size}")
    _area(c, s.parted.sheet, k, None)
    c.restoreState()
    paper.y -= high + 4
    _bar(paper, s.amounts)
    _table(paper, "", s.amounts, unit)


def _rings(shape: BaseGeometry) -> list[Sequence[tuple[float, float]]]:
    simple = shape.simplify(SIMPLE)
    polygons = getattr(simple, "geoms", [simple])
    return [ring.coords for p in polygons if p.geom_type == "Polygon" for ring in (p.exterior, *p.interiors)]


def _area(c: Canvas, shape: BaseGeometry, k: float, grey: float | None) -> None:
    rings = [r for r in _rings(shape) if len(r) > 2]
    if not rings:
        return
    path = c.beginPath()
    for ring in rings:
        path.moveTo(ring[0][0] * k, ring[0][1] * k)
        for x, y in ring[1:]:
            path.lineTo(x * k, y * k)
        path.close()
    if grey is not None:
        c.setFillGray(grey)
    c.setLineWidth(0.3)
    c.drawPath(path, stroke=int(grey in (None, 1.0)), fill=int(grey is not None), fillMode=0)


def _hatched(c: Canvas, box: tuple[float, float, float, float], k: float) -> None:
    x0, y0, x1, y1 = (v * k for v in box)
    c.saveState()
    path = c.beginPath()
    path.rect(x0, y0, x1 - x0, y1 - y0)
    c.clipPath(path, stroke=1)
    c.setLineWidth(0.25)
    step = 7.0
    at = x0 - (y1 - y0)
    while at < x1:
        c.line(at, y0, at + (y1 - y0), y1)
        at += step
    c.restoreState()


def _bar(paper: Paper, a: Amounts) -> None:
    """Shares of the sheet as one bar, each with its share where there is room."""
    c, wide, high = paper.canvas, RIGHT - LEFT, 12.0
    paper.y -= high
    x = LEFT
    for kind in KINDS:
        share = a.area_mm2[kind] / a.area_mm2["sheet"]
        w = wide * share
        c.setFillGray(GREY[kind])
        c.setLineWidth(0.4)
        c.rect(x, paper.y, w, high, stroke=1, fill=1)
        words = f"{kind} {share:.0%}"
        if c.stringWidth(words, PLAIN, 7) < w - 3:
            c.setFillGray(1.0 if kind == "kerf" else 0.0)
            c.setFont(PLAIN, 7)
            c.drawString(x + 2, paper.y + 3.5, words)
        x += w
    c.setFillColorRGB(*INK)
    paper.y -= 14


def _table(paper: Paper, head: str, a: Amounts, unit: str) -> None:
    (per_area, area), (per_mass, mass) = ACRE[unit], HEAVY[unit]
    if head:
        paper.heading(head)
    c, wide = paper.canvas, (RIGHT - LEFT) / 5
    cells = [(kind, a.area_mm2[kind] / per_area, a.mass_kg[kind] / per_mass) for kind in ("sheet", *KINDS)]
    paper.room(12 * 4)
    for k, (kind, much, heavy) in enumerate(cells):
        column, row = k % 4, k // 4
        x, y = LEFT + column * wide * 1.25, paper.y - 22 * row
        c.setFont(BOLD, 8.5)
        c.drawString(x, y, kind)
        c.setFont(PLAIN, 8.5)
        c.drawString(x + 48, y, f"{much:.3f} {area}")
        c.drawString(x + 48, y - 10, f"{heavy:.2f} {mass}")
    k = len(cells)
    x, y = LEFT + (k % 4) * wide * 1.25, paper.y - 22 * (k // 4)
    c.setFont(BOLD, 8.5)
    c.drawString(x, y, "chips")
    c.setFont(PLAIN, 8.5)
    chips = (a.mass_kg["kerf"] + a.mass_kg["pockets"]) / per_mass
    c.drawString(x + 48, y, f"{a.chips / 1e6:.2f} l solid")
    c.drawString(x + 48, y - 10, f"{chips:.2f} {mass}, {a.mass_kg['pockets'] / per_mass:.2f} of pockets")
    paper.y -= 48
