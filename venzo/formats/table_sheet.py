"""The sheet for a table with sheets of several jobs: which lies on which square, what is loaded when."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from venzo.core.snags import Snag
from venzo.core.stock.machine import Machine
from venzo.core.voice import counted, in_unit
from venzo.formats.paper import LEFT, Paper
from venzo.formats.setup_sheet import _clock, say_snags

Ring = Sequence[tuple[float, float]]


@dataclass(frozen=True)
class SheetOnPaper:
    """A sheet on its square: width, height and thickness, mm; its outline, then those of its pieces, on the
    table.
    """

    square: int
    called: str
    size: tuple[float, float, float]
    rings: Sequence[Ring]


@dataclass(frozen=True)
class TableOnPaper:
    """A table for its sheet; ``alone``: cutter loads, were each sheet run by itself; ``loads``: number, name,
    cuts and sheets of each.
    """

    name: str
    machine: Machine | None
    z_zero: str
    seconds: float
    alone: int
    sheets: Sequence[SheetOnPaper]
    loads: Sequence[tuple[int, str, int, Sequence[str]]]
    files: Sequence[str]
    snags: Sequence[Snag]


CAUTION = (
    "Local codes, the makers' instructions and trained people come first. Never leave a running machine."
)
STEPS = (
    "Sweep the table. Lay every sheet with its lower left corner on that of its square; hold it as the setup"
    " sheet of its own job says.",
    "X0 Y0 is the lower left corner of square 1: touch off there. Touch off Z where the program's head says.",
    "Mask and ear defenders on, extraction on; run the files in order, with the cutters listed.",
)


def table_sheet(table: TableOnPaper) -> bytes:
    """PDF bytes, in the unit of the machine's programs."""
    m = table.machine
    unit = "in" if m and m.dialect.inch else "mm"
    paper = Paper(f"{table.name}: table", [CAUTION])
    paper.begin(f"On one table: {table.name}", m.name if m else "")
    zero = "on the spoilboard" if table.z_zero == "bed" else "on top of the material"
    paper.fact("Zero", f"X0 Y0 lower left corner of square 1; Z0 {zero}")
    paper.fact("Time", f"{_clock(table.seconds)} estimated, cutter changes and stops included")
    paper.fact("Cutters", f"loaded {len(table.loads)} times; sheet by sheet it would be {table.alone}")
    if m:
        paper.gap(8)
        paper.room(290)
        paper.y = _picture(paper.canvas, table, m, (LEFT, paper.y), (paper.width, 270))
    paper.heading("Lay")
    for s in sorted(table.sheets, key=lambda x: x.square):
        w, h, thick = s.size
        paper.tick(in_unit(f"square {s.square}: {s.called}, {w:g} mm x {h:g} mm, {thick:.2f} mm thick", unit))
    paper.heading("Load")
    for k, (number, name, cuts, sheets) in enumerate(table.loads, 1):
        paper.tick(f"{k}. T{number} {name}: {counted(cuts, 'cut')}, {'; '.join(dict.fromkeys(sheets))}")
    for name in table.files:
        paper.text(f"file {name}")
    paper.heading("At the machine")
    for k, step in enumerate(STEPS, 1):
        paper.tick(f"{k}. {step}")
    say_snags(paper, table.snags, unit)
    return paper.finish()


def _picture(
    c: Canvas, table: TableOnPaper, m: Machine, at: tuple[float, float], room: tuple[float, float]
) -> float:
    """The table with its squares and what lies on them; where the next line of text goes."""
    (x, y), (w, h) = at, room
    scale = min(w / m.width, h / m.height)
    low = y - m.height * scale

    def place(px: float, py: float) -> tuple[float, float]:
        return x + px * scale, low + py * scale

    c.setLineWidth(1.2)
    c.rect(x, low, m.width * scale, m.height * scale)
    if m.grid:
        g = m.grid
        c.setLineWidth(0.25)
        c.setStrokeGray(0.6)
        for i in range(g.columns + 1):
            px = g.at[0] + i * g.pitch
            c.line(*place(px, g.at[1]), *place(px, g.at[1] + g.rows * g.pitch))
        for i in range(g.rows + 1):
            py = g.at[1] + i * g.pitch
            c.line(*place(g.at[0], py), *place(g.at[0] + g.columns * g.pitch, py))
    c.setStrokeGray(0.1)
    for s in table.sheets:
        for k, ring in enumerate(r for r in s.rings if len(r) > 2):
            c.setLineWidth(0.5 if k else 1.2)
            path = c.beginPath()
            for n, (px, py) in enumerate(ring):
                (path.lineTo if n else path.moveTo)(*place(px, py))
            path.close()
            c.drawPath(path)
        if s.rings and len(s.rings[0]):
            px, py = place(min(p[0] for p in s.rings[0]), min(p[1] for p in s.rings[0]))
            c.setFont("Helvetica-Bold", 9)
            c.setFillGray(1)
            wide = c.stringWidth(str(s.square), "Helvetica-Bold", 9) + 4
            c.rect(px + 2, py + 2, wide, 11, stroke=0, fill=1)
            c.setFillGray(0.1)
            c.drawString(px + 4, py + 4.5, str(s.square))
    return low - 16
