"""Which positions serve? As few as reach all of it, laid so that as many pieces as may be are cut at one.

A piece that the table reaches whole at some position need never be cut in lengths: the lowest piece that is
still to come is put at the low end of the next position (of all intervals one long, so many hold every piece;
the usual exchange argument shows that no fewer do). Longer pieces go on with the overlap from one to the
next.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

from venzo.core.indexing.portions import extent
from venzo.core.indexing.positions import MOST_POSITIONS, OVERLAP, Axis, Indexing
from venzo.core.indexing.reach import Span, first_span
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.stock.sheet import Stock

WHOLE = 1.0
"""mm to which positions are rounded: they are set out with a rule."""
LEAST_REACH = 50.0
"""mm of table that are worth moving stock along for."""


def long_axis(setup: Setup, stock: Stock) -> Axis | None:
    """Along which axis stock is longer than the table reaches; None: along neither, or both."""
    sizes: dict[Axis, float] = {"x": stock.width, "y": stock.height}
    over = [a for a, size in sizes.items() if first_span(setup, stock, a)[1] < size - stock.margin]
    return over[0] if len(over) == 1 else None


def even_positions(setup: Setup, stock: Stock, axis: Axis | None = None) -> Indexing | None:
    """Positions evenly along stock, whatever lies on it; None where the table reaches all of it, or it is too
    wide for it as well.
    """
    along = axis or long_axis(setup, stock)
    if along is None:
        return None
    low, high = first_span(setup, stock, along)
    size = stock.width if along == "x" else stock.height
    step = high - low - OVERLAP
    if step < LEAST_REACH:
        return None
    n = max(1, math.ceil((size - high) / step - 1e-9))
    if n >= MOST_POSITIONS:
        return None
    each = math.ceil((size - high) / n / WHOLE) * WHOLE
    return Indexing(axis=along, moved=tuple(each * (k + 1) for k in range(n))) if each > 0 else None


def positions_for(reach: Span, work: Iterable[Span], overlap: float) -> tuple[float, ...] | None:
    """How far stock is moved at each position after the first, mm, so that every stretch of ``work`` lies in
    what is reached at one, and longer ones in several with the overlap; None where no positions do.

    >>> positions_for((0, 1000), [(10, 400), (900, 1500), (1450, 1700)], 10)
    (701.0,)
    >>> positions_for((0, 1000), [(10, 2500)], 10)
    (989.0, 1501.0)
    """
    low, wide = reach[0], reach[1] - reach[0] - WHOLE
    todo = sorted(work)
    if wide <= overlap or (todo and todo[0][0] < low):
        return None
    out: list[float] = []
    at = low
    while len(out) < MOST_POSITIONS:
        todo = [s for s in (_to_come(s, at, wide, overlap) for s in todo) if s is not None]
        if not todo:
            return tuple(out)
        most = min(s[0] for s in todo)
        least = max(s[1] for s in todo) - wide
        on = math.ceil(least - low) if least <= most else math.floor(most - low)
        if low + on <= at:
            return None
        at = low + on
        out.append(float(on))
    return None


def _to_come(s: Span, at: float, wide: float, overlap: float) -> Span | None:
    """What of a stretch is still to be cut once a position has been; a stretch that one position can hold is
    cut whole or not at all.
    """
    high = at + wide
    if s[1] <= high and s[0] >= at:
        return None
    if s[1] - s[0] <= wide or s[0] >= high - overlap:
        return s
    return (high - overlap, s[1])


def work_on(sheets: Sequence[SheetPlan], column: int, wide: float) -> list[Span]:
    """What is best cut at one position along X (0) or Y (1), mm: pieces, and of those that are longer than
    ``wide`` each contour by itself.
    """
    pieces: dict[tuple[str, ...], Span] = {}
    contours: dict[tuple[str, ...], Span] = {}
    for sheet in sheets:
        for c in sheet.cuts:
            piece = (sheet.sheet, str(sheet.copy_no), c.piece.id)
            for found, key in ((pieces, piece), (contours, (*piece, c.cut.contour))):
                low, high = extent(c.moves, column)
                was = found.get(key, (low, high))
                found[key] = (min(was[0], low), max(was[1], high))
    long = {k for k, (low, high) in pieces.items() if high - low > wide}
    return [s for k, s in pieces.items() if k not in long] + [s for k, s in contours.items() if k[:3] in long]


def best_positions(
    setup: Setup, stock: Stock, sheets: Sequence[SheetPlan], axis: Axis
) -> tuple[float, ...] | None:
    """Positions for what is cut on sheets of a setup; none at all where the table reaches it as it lies."""
    overlap = setup.indexing.overlap if setup.indexing else OVERLAP
    reach = first_span(setup, stock, axis)
    work = work_on(sheets, 0 if axis == "x" else 1, reach[1] - reach[0] - WHOLE)
    return positions_for(reach, work, overlap)
