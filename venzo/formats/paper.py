"""Printed pages that are written from top to bottom: what does not fit goes on on a next page, nothing is cut
off.

>>> p = Paper("Trial", ["Glasses on."])
>>> p.begin("Trial", "sheet 1")
>>> p.fact("Stock", "birch plywood")
>>> p.finish()[:5]
b'%PDF-'
"""

from __future__ import annotations

import io
from collections.abc import Sequence

from reportlab.lib.pagesizes import A4
from reportlab.lib.utils import simpleSplit
from reportlab.pdfgen.canvas import Canvas

INK = (0.13, 0.15, 0.16)
LEFT, RIGHT, TOP = 40.0, A4[0] - 40.0, A4[1] - 48.0
FOOT = 30.0
"""Points from the lower edge to the last line of the cautions."""
LABEL = 72.0
PLAIN, BOLD = "Helvetica", "Helvetica-Bold"


class Paper:
    """A4 pages with a head and, at the foot of each, cautions. Lengths in points; ``y`` is where the next
    line goes.
    """

    def __init__(self, title: str, foot: Sequence[str]):
        self._out = io.BytesIO()
        self.canvas = Canvas(self._out, pagesize=A4, pageCompression=1, invariant=1)
        self.canvas.setTitle(title)
        self._foot = [line for text in foot for line in simpleSplit(text, PLAIN, 8, self.width)]
        self._head: tuple[str, str, str, str] = ("", "", "", "")
        self._pages = 0
        self.y = TOP

    @property
    def width(self) -> float:
        """Between the margins."""
        return RIGHT - LEFT

    @property
    def lowest(self) -> float:
        """Where the cautions begin."""
        return FOOT + 10 * len(self._foot) + 12

    def begin(self, head: str, right: str, under: str = "", right_under: str = "") -> None:
        """Start a page with a head line and a line under it."""
        self._head = (head, right, under, right_under)
        self._page("")

    def _page(self, again: str) -> None:
        c, (head, right, under, right_under) = self.canvas, self._head
        if self._pages:
            c.showPage()
        self._pages += 1
        c.setFillColorRGB(*INK)
        c.setStrokeColorRGB(*INK)
        c.setLineWidth(1)
        self.y = TOP
        room = self.width - c.stringWidth(f"{right}{again}", PLAIN, 10) - 12
        lines = simpleSplit(head, BOLD, 17, room) or [""]
        c.setFont(PLAIN, 10)
        c.drawRightString(RIGHT, self.y, f"{right}{again}")
        c.setFont(BOLD, 17)
        for k, line in enumerate(lines):
            c.drawString(LEFT, self.y - 19 * k, line)
        self.y -= 19 * (len(lines) - 1) + 16
        if under or right_under:
            c.setFont(PLAIN, 10)
            c.drawRightString(RIGHT, self.y, right_under)
            room = self.width - c.stringWidth(right_under, PLAIN, 10) - 12
            for line in simpleSplit(under, PLAIN, 10, room):
                c.drawString(LEFT, self.y, line)
                self.y -= 12
            self.y += 4
        c.line(LEFT, self.y, RIGHT, self.y)
        self.y -= 18
        c.line(LEFT, self.lowest, RIGHT, self.lowest)
        c.setFont(PLAIN, 8)
        for k, line in enumerate(self._foot):
            c.drawString(LEFT, self.lowest - 12 - 10 * k, line)

    def room(self, height: float) -> None:
        """Go on on a next page where so much does not fit any more."""
        if self.y - height < self.lowest + 4:
            self._page(", continued")

    def gap(self, height: float = 6.0) -> None:
        """Leave room."""
        self.y -= height

    def text(self, words: str, size: float = 9.0, font: str = PLAIN, indent: float = 0.0) -> None:
        """Lines of text, wrapped at the margins."""
        for line in simpleSplit(words, font, size, self.width - indent) or [""]:
            self.room(size)
            self.canvas.setFont(font, size)
            self.canvas.drawString(LEFT + indent, self.y, line)
            self.y -= size + 3

    def heading(self, words: str) -> None:
        """A heading that stays with the first lines of what follows."""
        self.gap()
        self.room(36)
        self.text(words, 9.5, BOLD)

    def fact(self, label: str, words: str) -> None:
        """A label and what there is to say."""
        lines = simpleSplit(words, PLAIN, 9.5, self.width - LABEL) or [""]
        self.room(12.5 * len(lines))
        self.canvas.setFont(BOLD, 9.5)
        self.canvas.drawString(LEFT, self.y, label)
        self.canvas.setFont(PLAIN, 9.5)
        for line in lines:
            self.canvas.drawString(LEFT + LABEL, self.y, line)
            self.y -= 12.5
        self.y -= 1

    def tick(self, words: str) -> None:
        """A box to tick with what is to be done."""
        self.room(24)
        self.canvas.rect(LEFT, self.y - 1, 7, 7)
        self.text(words, indent=14)

    def small(self, label: str, words: str, size: float) -> None:
        """A label and what there is to say, in small print."""
        c = self.canvas
        c.setFont(BOLD, size)
        c.drawString(LEFT, self.y, label)
        c.setFont(PLAIN, size)
        for line in self.small_lines(words, size):
            c.drawString(LEFT + LABEL, self.y, line)
            self.y -= size * 1.22
        self.y -= size * 0.25

    def small_lines(self, words: str, size: float) -> list[str]:
        """The lines that ``small`` would write."""
        return simpleSplit(words, PLAIN, size, self.width - LABEL) or [""]

    def step(self, words: str) -> None:
        """A heading with a line over it, for one of the steps of a page; it stays with what follows."""
        self.gap(3)
        self.room(38)
        self.canvas.setLineWidth(0.5)
        self.canvas.line(LEFT, self.y + 11, RIGHT, self.y + 11)
        self.text(words, 10.5, BOLD)

    def blanks(self, words: str, count: int, unit: str) -> None:
        """Room to write in, so many fields."""
        self.room(16)
        c = self.canvas
        c.setFont(PLAIN, 9)
        c.drawString(LEFT + 14, self.y - 2, f"{words}:")
        x = LEFT + 20 + c.stringWidth(f"{words}:", PLAIN, 9)
        wide = min(90.0, (RIGHT - x) / count - 22)
        c.setLineWidth(0.6)
        for _ in range(count):
            c.line(x, self.y - 4, x + wide, self.y - 4)
            c.drawString(x + wide + 3, self.y - 2, unit)
            x += wide + 22
        self.y -= 17

    def finish(self) -> bytes:
        """The PDF."""
        self.canvas.showPage()
        self.canvas.save()
        return self._out.getvalue()
