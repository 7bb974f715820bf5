"""A quotation: what the parts cost, as a paper and as a table for the shop's own books."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from venzo.core.snags import BadInput
from venzo.formats.paper import BOLD, LEFT, PLAIN, RIGHT, Paper

COLUMNS = ("part", "material", "pieces", "each", "sum", "currency")


@dataclass(frozen=True)
class QuotedLine:
    """Pieces of a part with the price of each; ``each`` is rounded to cents, the sum is so many times it."""

    part: str
    material: str
    pieces: int
    each: float

    @property
    def sum(self) -> float:
        """Money, cents exact."""
        return round(self.each * self.pieces, 2)


@dataclass(frozen=True)
class Quotation:
    """What is quoted: of which job and revision, its lines, and what is said under them. ``number``: under
    which it is found again.
    """

    number: str
    job: str
    orders: tuple[str, ...]
    made: str
    lines: tuple[QuotedLine, ...]
    currency: str
    says: tuple[str, ...] = ()

    @property
    def total(self) -> float:
        """The sum of the lines as they stand, so that whoever adds them up finds it."""
        return round(sum(line.sum for line in self.lines), 2)


def quoted_lines(
    parts: Sequence[tuple[str, str, int, float | None]], added: float, lacks: Sequence[str]
) -> tuple[QuotedLine, ...]:
    """Lines of (name, material, pieces, cost of one piece) with what the shop adds, as a share.

    Raises:
        BadInput: something has no price, so that no honest sum can be said.
    """
    if lacks or any(each is None for _n, _m, _p, each in parts):
        named = ", ".join(lacks[:4]) + (f" and {len(lacks) - 4} more" if len(lacks) > 4 else "")
        raise BadInput(
            f"there is no quotation yet: no price for {named or 'something'}; give it in the library, or set"
            " what is not charged to 0"
        )
    if not parts:
        raise BadInput("there is no quotation yet: nothing is nested; nest first")
    return tuple(QuotedLine(n, m, p, round((each or 0.0) * (1 + added), 2)) for n, m, p, each in parts)


def quotation_csv(q: Quotation) -> bytes:
    """A table: a line a part, then the total."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for line in q.lines:
        table.writerow(
            [line.part, line.material, line.pieces, f"{line.each:.2f}", f"{line.sum:.2f}", q.currency]
        )
    table.writerow(["total", "", sum(x.pieces for x in q.lines), "", f"{q.total:.2f}", q.currency])
    return out.getvalue().encode()


def quotation_pdf(q: Quotation) -> bytes:
    """A paper: who, what, each, sum, total."""
    from venzo.formats.qr import draw_qr

    paper = Paper(
        f"Quotation {q.number}", ["Prices hold for the quantities named and this state of the plan."]
    )
    paper.begin(
        "Quotation", q.number, f"{q.job}{'; order ' + ', '.join(q.orders) if q.orders else ''}", q.made
    )
    top = paper.y
    c = paper.canvas
    right = RIGHT - 78
    columns = (LEFT, LEFT + 165, right - 150, right - 75, right)
    _row(paper, columns, ("Part", "Material", "Pieces", f"Each {q.currency}", f"Sum {q.currency}"), BOLD)
    for line in q.lines:
        paper.room(14)
        _row(
            paper,
            columns,
            (line.part, line.material, str(line.pieces), f"{line.each:,.2f}", f"{line.sum:,.2f}"),
            PLAIN,
        )
    paper.gap(2)
    c.setLineWidth(0.8)
    c.line(LEFT, paper.y + 9, right, paper.y + 9)
    paper.gap(3)
    pieces = str(sum(x.pieces for x in q.lines))
    _row(paper, columns, ("Total", "", pieces, "", f"{q.total:,.2f}"), BOLD)
    paper.gap(8)
    for words in q.says:
        paper.text(words)
    paper.canvas.setPageSize(c._pagesize)
    draw_qr(
        c, f"VENZO QUOTATION {q.number} TOTAL {q.total:.2f} {q.currency}".strip(), RIGHT - 66, top - 58, 66
    )
    return paper.finish()


def _row(paper: Paper, columns: Sequence[float], cells: Sequence[str], font: str) -> None:
    c, size = paper.canvas, 9.5
    c.setFont(font, size)
    for k, (x, text) in enumerate(zip(columns, cells, strict=True)):
        if k < 2:
            c.drawString(x, paper.y, _fitted(c, text, font, size, columns[k + 1] - x - (6 if k == 0 else 42)))
        else:
            c.drawRightString(x, paper.y, text)
    paper.y -= 14


def _fitted(c, text: str, font: str, size: float, room: float) -> str:
    """A text cut to the room there is, said so by its end."""
    if c.stringWidth(text, font, size) <= room:
        return text
    while text and c.stringWidth(text + "...", font, size) > room:
        text = text[:-1]
    return text + "..."
