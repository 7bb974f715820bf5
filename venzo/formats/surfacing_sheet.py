"""The sheet for surfacing: where zero is, where to touch off, what each pass takes, and the pencil lines to
look for.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.pdfgen.canvas import Canvas

from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.surfacing.faces import Faces
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.ledger import State
from venzo.core.surfacing.passes import Passes
from venzo.core.voice import counted, in_unit, inches
from venzo.formats.paper import INK, LEFT, Paper
from venzo.formats.setup_sheet import _clock, say_snags

CAUTION = (
    "Local codes, the makers' instructions and trained people come first. Never leave a running machine."
)
SECOND_FACE = 360.0
"""Points of a page that the second face asks for, so that its facts and its drawing stand together."""
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


@dataclass(frozen=True, eq=False)
class SecondOnPaper:
    """The second face: how the board lies then, its passes, what the faces take, what is done between."""

    b: SurfaceSetup
    p: Passes
    faces: Faces
    turning: Sequence[str]


@dataclass(frozen=True, eq=False)
class OnPaper:
    """A board for its sheet; ``files``: names of its programs; ``boards``: those of one program, a line
    each.
    """

    b: SurfaceSetup
    p: Passes
    state: State
    flat: Flatness | None
    machine: Machine | None
    files: Sequence[str]
    boards: Sequence[str] = ()
    second: SecondOnPaper | None = None


def surfacing_sheet(on: OnPaper) -> bytes:
    """PDF bytes, in the unit of the machine's programs."""
    b, p, machine = on.b, on.p, on.machine
    unit = "in" if machine and machine.dialect.inch else "mm"
    paper = Paper(f"{b.board.name}: surfacing", [CAUTION])
    paper.begin(f"Surfacing: {b.board.name}", machine.name if machine else "")
    for label, text in _facts(b, p, on.state.thickness, on.flat, unit):
        paper.fact(label, in_unit(text, unit))
    _face(paper, b, p, on.flat, unit)
    for name in on.files:
        paper.text(f"file {name}")
    if on.boards:
        paper.heading("Boards in this program, laid on the squares of the table's grid")
        paper.text("X0 Y0 of the program is the lower left corner of square 1, not of a board.")
        for line in on.boards:
            paper.tick(in_unit(line, unit))
    paper.heading("At the machine")
    for k, step in enumerate(STEPS, 1):
        paper.tick(f"{k}. {step}")
    say_snags(paper, [*p.snags, *on.state.snags], unit)
    if on.second:
        _turned_over(paper, on.second, unit)
    return paper.finish()


def _turned_over(paper: Paper, second: SecondOnPaper, unit: str) -> None:
    """The step between the faces, and the second face."""
    b, f = second.b, second.faces
    paper.heading("Then turned over")
    for k, step in enumerate(second.turning, 1):
        paper.tick(in_unit(f"{k}. {step}", unit))
    paper.room(SECOND_FACE)
    paper.heading("Second face")
    for label, text in _facts(b, second.p, f.after_first, None, unit):
        paper.fact(label, in_unit(text, unit))
    _face(paper, b, second.p, None, unit)
    say_snags(paper, [*second.p.snags, *(s for s in f.snags if s.rule != "surface.first")], unit)


def _face(paper: Paper, b: SurfaceSetup, p: Passes, flat: Flatness | None, unit: str) -> None:
    """A face drawn, its fixings and passes."""
    over = 2 * (b.how.overrun + b.how.cutter)
    high = min(230.0, (b.board.height + over) * (paper.width - 20) / (b.board.width + over) + 12)
    paper.gap(8)
    paper.room(high + 20)
    paper.y = _picture(paper.canvas, b, p, flat, unit, (LEFT, paper.y), (paper.width, high))
    if b.board.dead:
        paper.heading("What holds it and stands about it")
        for k, d in enumerate(b.board.dead, 1):
            stands = f"{d.height:g} mm over Z 0" if d.height >= 0 else f"{-d.height:g} mm under Z 0"
            spot = f"X {d.x0:g} mm to {d.x1:g} mm, Y {d.y0:g} mm to {d.y1:g} mm"
            paper.tick(in_unit(f"{k}. {d.what}: {spot}, top {stands}, {d.margin:g} mm of room", unit))
    paper.heading("Passes")
    for layer in p.layers:
        touched = "" if layer.touched is None else f", touches {layer.touched:.0%}"
        paper.text(
            f"{layer.name}: Z {_level(b, layer.depth, unit)}, {counted(layer.rows, 'row')}, step-over"
            f" {layer.step_over:.0%}, {_clock(layer.seconds)}{touched}"
        )
    for said in p.skipped:
        paper.text(in_unit(said, unit))


def _level(b: SurfaceSetup, depth: float, unit: str) -> str:
    """The height of a pass as the program has it."""
    if b.how.touch == "table":
        return _bare(b.board.thickness - depth, unit)
    return f"-{_bare(depth, unit)}"


def _facts(
    b: SurfaceSetup, p: Passes, thickness: float, flat: Flatness | None, unit: str
) -> list[tuple[str, str]]:
    """What is to be known before a face is cut, in millimetres; ``thickness``: of the board then."""
    s, off = b.how, p.deepest - b.how.start
    high = flat.high if flat and s.touch == "high spot" else None
    where = f" (X {_bare(high.x, unit, 0)} Y {_bare(high.y, unit, 0)})" if high else ""
    high_is = f"; the board's top lies at Z {b.board.thickness:.2f} mm" if s.touch == "table" else ""
    since = f"; {s.start:.2f} mm were taken off since, do not touch off again" if s.start else ""
    return [
        (
            "Board",
            f"{b.board.width:g} x {b.board.height:g} mm, {thickness:.2f} mm thick then; {off:.2f} mm come"
            f" off its highest place, {b.board.thickness - p.deepest:.2f} mm stay"
            + (f"; held by {b.board.held}" if b.board.held else ""),
        ),
        (
            "Cutter",
            f"T{s.number}  {s.cutter_name}, {s.cutter:g} mm; {s.rpm:.0f} rpm, {s.feed / 1000:.1f} m/min,"
            f" plunge {s.plunge / 1000:.1f}, ramp {s.ramp_feed / 1000:.1f} m/min",
        ),
        ("Zero X Y", f"lower left corner of the board, at {b.board.x:g}, {b.board.y:g} mm on the table"),
        ("Zero Z", f"touch off on the {s.touch}{where}{since}{high_is}"),
        ("Overrun", f"{s.overrun:g} mm on every side; {s.pattern}, {s.ways}"),
        (
            "Time",
            f"{_clock(p.seconds)} estimated, {_clock(p.travel)} of it travel; {p.cut_length / 1000:.1f} m of"
            " cut",
        ),
    ]


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
    for k, d in enumerate(b.board.dead, 1):
        x0, y0, x1, y1 = d.box
        c.rect(ox + x0 * scale, oy + y0 * scale, (x1 - x0) * scale, (y1 - y0) * scale)
        c.line(ox + x0 * scale, oy + y0 * scale, ox + x1 * scale, oy + y1 * scale)
        c.setFont("Helvetica", 8)
        c.drawString(ox + x1 * scale + 2, oy + y1 * scale - 7, str(k))
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
