"""A board longer than the table is surfaced in shifts: moved along between programs, with a marked
overlap.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.snags import BadInput


@dataclass(frozen=True)
class Shift:
    """One position of the board. mm along its length: what is cut from ``start`` to ``end``; its line at
    ``mark`` goes to the table's zero.
    """

    number: int
    start: float
    end: float
    mark: float


def shifts(length: float, room: float, overlap: float) -> list[Shift]:
    """Positions of a board ``length`` mm long on a table with ``room`` mm, each overlapping the one before by
    ``overlap``, evenly shared.

    Raises:
        BadInput: the overlap is as long as the room.

    >>> [(s.start, s.end) for s in shifts(2500, 1300, 100)]
    [(0.0, 1300.0), (1200.0, 2500.0)]
    """
    if length <= room:
        return [Shift(1, 0.0, length, 0.0)]
    if not 0 < overlap < room / 2:
        raise BadInput(
            f"an overlap of {overlap:g} mm on {room:g} mm of table: give more than 0 and less than half of"
            " the table"
        )
    n = math.ceil((length - overlap) / (room - overlap) - 1e-9)
    if n > 50:
        raise BadInput(f"{n} shifts for a board of {length:g} mm; the table has only {room:g} mm of room")
    each = (length + (n - 1) * overlap) / n
    return [
        Shift(
            k + 1,
            round(k * (each - overlap), 6),
            round(k * (each - overlap) + each, 6),
            round(k * (each - overlap), 6),
        )
        for k in range(n)
    ]
