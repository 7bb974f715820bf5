"""The sheet for surfacing: where zero is, where to touch off, what each pass takes, and the pencil lines to
look for.
"""

from __future__ import annotations

import io

from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas

from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.ledger import State
from venzo.core.surfacing.passes import Passes
from venzo.core.voice import in_unit, inches
from venzo.formats.setup_sheet import INK, _clock, _wrapped, snag_lines

STEPS = (
    "Look over the board: no screw heads, staples or clamps in the way; screws deeper than the deepest pass.",
    "Draw pencil lines over the whole face, a hand apart, along and across.",
    (
        "Set X and Y zero where the drawing shows it. Touch off Z at the marked spot: that height is Z 0."
        " Without it the first pass may go in too deep."
    ),
    "Mask and ear defenders on, extraction on; keep clear of the cutter, it throws chips far.",
    (
        "Run it. Look for pencil lines left over: they are low spots; take another pass, or live with them"
        " and write it down."
    ),
    (
        "Feel across the rows. A step means the spindle is out of square: measure it and enter it at the"
        " bench, which says which side to shim."
    ),
)


def surfacing_sheet(
    b: SurfaceSetup, p: Passes, st: State, flat: Flatness | None, machine: Machine | None, files: list[str]
) -> bytes:
    """PDF bytes: one page, in the unit of the machine's programs."""
    unit = "in" if machine and machine.dialect.inch else "mm"
    out = io.BytesIO()
    c = Canvas(out, pagesize=A4, pageCompression=1)
    c.setTitle(f"{b.board.name}: surfacing")
    width, height = A4
    left, right, y = 40.0, width - 40.0, height - 48.0
    c.setFillColorRGB(*INK)
    c.setStrokeColorRGB(*INK)
    c.setFont("Helvetica-Bold", 17)
    c.drawString(left, y, f"Surfacing: {b.board.name}"[:60])
    c.setFont("Helvetica", 10)
    c.drawRightString(right, y, machine.name if machine else "")
    y -= 8
    c.line(left, y, right, y)
    y -= 18
    s = b.how
    facts = [
        (
            "Board",
            (
                f"{b.board.width:g} x {b.board.height:g} mm, {st.thickness:.2f} mm thick now;"
                f" {p.deepest - s.start:.2f} mm come off, {st.thickness - (p.deepest - s.start):.2f} mm stay"
            ),
        ),
        (
            "Cutter",
            f"T{s.number}  {s.cutter_name}, {s.cutter:g} mm; {s.rpm:.0f} rpm, {s.feed / 1000:.1f} m/min",
        ),
        ("Zero X Y", f"lower left corner of the board, at {b.board.x:g}, {b.board.y:g} mm on the table"),
        (
            "Zero Z",
            f"touch off on the {s.touch}"
            + (
                f" (X {_bare(flat.high.x, unit, 0)} Y {_bare(flat.high.y, unit, 0)})"
                if flat and s.touch == "high spot"
                else ""
            )
            + (f"; {s.start:.2f} mm were taken off since, do not touch off again" if s.start else ""),
        ),
        ("Overrun", f"{s.overrun:g} mm on every side; {s.pattern}, {s.ways}"),
        ("Time", f"{_clock(p.seconds)} estimated, {p.cut_length / 1000:.1f} m of cut"),
    ]
    for label, text in facts:
        c.setFont("Helvetica-Bold", 9.5)
        c.drawString(left, y, label)
        c.setFont("Helvetica", 9.5)
        y = _wrapped(c, in_unit(text, unit), left + 72, y, right - left - 72, 2) - 1.5
    y -= 8
    y = _picture(c, b, p, flat, unit, (left, y), (right - left, 230))
    c.setFont("Helvetica-Bold", 9.5)
    c.drawString(left, y, "Passes")
    y -= 13
    c.setFont("Helvetica", 9)
    for layer in p.layers[:12]:
        touched = "" if layer.touched is None else f", touches {layer.touched:.0%}"
        c.drawString(
            left,
            y,
            f"{layer.name}: Z -{_bare(layer.depth, unit)}, {layer.rows} rows, step-over"
            f" {layer.step_over:.0%}, {_clock(layer.seconds)}{touched}",
        )
        y -= 12
    for said in p.skipped[:3]:
        c.drawString(left, y, in_unit(said, unit))
        y -= 12
    for name in files[:4]:
        c.drawString(left, y, f"file {name}")
        y -= 12
    y -= 6
    c.setFont("Helvetica-Bold", 9.5)
    c.drawString(left, y, "At the machine")
    y -= 13
    c.setFont("Helvetica", 9)
    for k, step in enumerate(STEPS, 1):
        c.rect(left, y - 1, 7, 7)
        y = _wrapped(c, f"{k}. {step}", left + 14, y, right - left - 14, 2)
    y = snag_lines(c, [*p.snags, *st.snags], left, y, right - left, unit)
    c.setFont("Helvetica-Oblique", 8)
    c.drawString(
        left,
        34,
        "Local codes, the makers' instructions and trained people come first. Never leave a running machine.",
    )
    c.showPage()
    c.save()
    return out.getvalue()


def _bare(mm: float, unit: str, digits: int = 2) -> str:
    """A number in the sheet's unit, without its name."""
    return inches(mm) if unit == "in" else f"{mm:.{digits}f}"


def _picture(
    c: Canvas,
    b: SurfaceSetup,
    p: Passes,
    flat: Flatness | None,
    unit: str,
    at: tuple[float, float],
    room: tuple[float, float],
) -> float:
    """The board with the first pass, high and low spot, and zero; where the next line of text goes."""
    (x, y), (w, h) = at, room
    over = b.how.overrun + b.how.cutter
    scale = min((w - 20) / (b.board.width + 2 * over), h / (b.board.height + 2 * over))
    ox, oy = x + 10 + over * scale, y - h + (h - b.board.height * scale) / 2
    c.setLineWidth(1.2)
    c.rect(ox, oy, b.board.width * scale, b.board.height * scale)
    c.setLineWidth(0.3)
    c.setStrokeGray(0.62)
    if p.layers:
        for r in p.layers[0].runs:
            path = c.beginPath()
            for k, (px, py) in enumerate(r.points):
                (path.moveTo if k == 0 else path.lineTo)(ox + px * scale, oy + py * scale)
            c.drawPath(path)
    c.setStrokeColorRGB(*INK)
    c.setLineWidth(1)
    for d in b.board.dead:
        x0, y0, x1, y1 = d.box
        c.rect(ox + x0 * scale, oy + y0 * scale, (x1 - x0) * scale, (y1 - y0) * scale)
        c.line(ox + x0 * scale, oy + y0 * scale, ox + x1 * scale, oy + y1 * scale)
    c.setFont("Helvetica-Bold", 9)
    c.circle(ox, oy, 4)
    c.line(ox - 8, oy, ox + 8, oy)
    c.line(ox, oy - 8, ox, oy + 8)
    c.drawString(ox + 6, oy - 11, "X0 Y0")
    if flat:
        for spot, what in (
            (flat.high, "high, touch off here" if b.how.touch == "high spot" else "high"),
            (flat.low, "low"),
        ):
            c.circle(ox + spot.x * scale, oy + spot.y * scale, 3, fill=1)
            text = f"{what} {'+' if spot.z > 0 else ''}{_bare(spot.z, unit)}"
            tx, ty = ox + spot.x * scale + 6, oy + spot.y * scale + 4
            c.setFillGray(1)
            c.rect(tx - 2, ty - 2.5, c.stringWidth(text, "Helvetica-Bold", 9) + 4, 11, stroke=0, fill=1)
            c.setFillColorRGB(*INK)
            c.drawString(tx, ty, text)
    c.setFont("Helvetica", 9)
    return y - h - 16
