"""Labels for the pieces of a job, in the order in which they come off: A4 sheets of 3 x 8, 70 x 37 mm each,
with a code that a phone reads.
"""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

from venzo.core.derive import DerivedSetup
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, order_of
from venzo.core.voice import inches, thickness
from venzo.formats.paper import BOLD, INK, PLAIN
from venzo.formats.qr import draw_qr
from venzo.formats.sheet_drawing import numbers

MM = 72 / 25.4
WIDE, HIGH = 70 * MM, 37 * MM
ACROSS, DOWN = 3, 8
EDGE = 5 * MM
CODE = 21 * MM


@dataclass(frozen=True)
class PieceLabel:
    """What a label says: the piece's number on the drawing of its sheet, what it is and for whom."""

    sheet: int
    number: int
    part: str
    size: str
    stock: str
    job: str
    order: str
    code: str


def piece_labels(
    plan: Plan, derived: DerivedSetup, shapes: Mapping[str, Shape], unit: str = "mm"
) -> list[PieceLabel]:
    """Labels of the pieces whose last cut these sheets make, sheet by sheet in the order in which they are
    numbered on the drawing: where a part of the job goes out, a piece has its label with the part that ends
    it.
    """
    out = []
    orders = {o.id: o.name for o in plan.orders}
    for n, sheet in derived.numbered:
        stock = derived.setup.stock_of(sheet.sheet)
        whole = derived.wholes.get((sheet.sheet, sheet.copy_no), sheet)
        last = {c.piece.id: c.name for c in whole.cuts}
        here = {c.name for c in sheet.cuts}
        ended = {piece for piece, cut in last.items() if cut in here}
        by_id = {q.id: q for q in sheet.pieces}
        for piece, number in sorted(numbers(sheet).items(), key=lambda kv: kv[1]):
            q = by_id[piece]
            part = plan.part(q.part)
            if piece not in ended or part is None or stock is None:
                continue
            out.append(
                PieceLabel(
                    sheet=n,
                    number=number,
                    part=part.name,
                    size=_size(shapes[part.shape], unit),
                    stock=f"{derived.setup.material.name}, {thickness(stock.thickness, unit)}",
                    job=plan.name,
                    order=orders.get(order_of(part, q.copy_no), ""),
                    code=f"VENZO PIECE {plan.id} {derived.setup.id} {piece}",
                )
            )
    return out


def _size(shape: Shape, unit: str) -> str:
    w, h = shape.size
    return f"{inches(w)} x {inches(h)} in" if unit == "in" else f"{w:.1f} x {h:.1f} mm"


def part_labels(labels: Sequence[PieceLabel]) -> bytes:
    """PDF bytes: 24 labels a page, from the upper left along the rows."""
    out = io.BytesIO()
    c = Canvas(out, pagesize=A4, pageCompression=1, invariant=1)
    c.setTitle("Labels of pieces")
    top = (A4[1] - DOWN * HIGH) / 2
    for i, label in enumerate(labels):
        k = i % (ACROSS * DOWN)
        if i and not k:
            c.showPage()
        x, y = (k % ACROSS) * WIDE, A4[1] - top - (k // ACROSS + 1) * HIGH
        _label(c, label, x, y)
    c.showPage()
    c.save()
    return out.getvalue()


def _label(c: Canvas, p: PieceLabel, x: float, y: float) -> None:
    c.setFillColorRGB(*INK)
    c.setFont(BOLD, 15)
    c.drawString(x + EDGE, y + HIGH - EDGE - 12, f"{p.sheet} - {p.number}")
    draw_qr(c, p.code, x + WIDE - EDGE - CODE, y + HIGH - EDGE - CODE, CODE)
    room = WIDE - 2.5 * EDGE - CODE
    at = y + HIGH - EDGE - 28
    for words, font, size, most in (
        (p.part, BOLD, 10.0, 2),
        (p.size, PLAIN, 9.0, 1),
        (p.stock, PLAIN, 8.0, 2),
    ):
        for line in simpleSplit(words, font, size, room)[:most] if words else []:
            c.setFont(font, size)
            c.drawString(x + EDGE, at, line)
            at -= size + 2
    for k, words in enumerate(w for w in (p.job, p.order) if w):
        c.setFont(PLAIN, 8)
        c.drawString(x + EDGE, y + EDGE + 10 * (1 - k), _short(c, words, WIDE - 2 * EDGE))


def _short(c: Canvas, words: str, room: float) -> str:
    """Words on one line; what has no room gives way to dots."""
    if c.stringWidth(words, PLAIN, 8) <= room:
        return words
    while words and c.stringWidth(f"{words.rstrip()} ...", PLAIN, 8) > room:
        words = words[:-1]
    return f"{words.rstrip()} ..."
