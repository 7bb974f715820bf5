"""QR codes on papers (ISO/IEC 18004), drawn as squares so that they print sharp at any size."""

from __future__ import annotations

import segno
from reportlab.pdfgen.canvas import Canvas

QUIET = 2
"""Modules left white around a code on a white page."""


def draw_qr(c: Canvas, words: str, x: float, y: float, side: float) -> None:
    """A code that says ``words``, in a square of ``side`` points with its lower left corner at (x, y); error
    correction M at least.
    """
    code = segno.make(words, error="m", micro=False)
    rows = [list(row) for row in code.matrix]
    module = side / (len(rows) + 2 * QUIET)
    c.saveState()
    c.setFillColorRGB(1, 1, 1)
    c.rect(x, y, side, side, stroke=0, fill=1)
    c.setFillColorRGB(0, 0, 0)
    path = c.beginPath()
    for j, row in enumerate(rows):
        start = None
        for i, dark in enumerate([*row, 0]):
            if dark and start is None:
                start = i
            elif not dark and start is not None:
                path.rect(
                    x + (QUIET + start) * module,
                    y + side - (QUIET + j + 1) * module,
                    (i - start) * module,
                    module,
                )
                start = None
    c.drawPath(path, stroke=0, fill=1)
    c.restoreState()
