"""Step-over against time and ridges: what people work out several times over before they choose."""

from __future__ import annotations

from dataclasses import dataclass

from venzo.core.cuts.moves import RAPID, lengths
from venzo.core.motion.time import Axes, path_time
from venzo.core.surfacing.board import Board, Surfacing
from venzo.core.surfacing.passes import laid
from venzo.core.surfacing.rows import along_x, row_count, runs
from venzo.core.surfacing.tram import ridge

SHARES = (0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9)


@dataclass(frozen=True)
class Choice:
    """One step-over: share of the diameter and mm, rows, length of a pass (mm), seconds of a pass, and the
    ridge (mm) to expect.
    """

    share: float
    spacing: float
    rows: int
    length: float
    seconds: float
    ridge: float


def choices(
    board: Board,
    s: Surfacing,
    tilt_across: float,
    tilt_along: float = 0.0,
    axes: Axes = Axes(),
) -> list[Choice]:
    """The choices for one pass over a board with the spindle's tilts (degrees)."""
    out = []
    across = board.height if along_x(s, board.width, board.height, board.grain) else board.width
    for share in sorted({*SHARES, s.step_over}):
        found = runs(s, board.width, board.height, share, board.grain)
        moves = laid(found, s.depth, s)
        d = lengths(moves)
        seconds = path_time(moves, axes)[0]
        rows = row_count(across, s.cutter, share * s.cutter, s.overrun)
        spacing = (across + 2 * s.overrun - s.cutter) / (rows - 1) if rows > 1 else 0.0
        out.append(
            Choice(
                share,
                spacing,
                rows,
                float(d[moves[:, 0] != RAPID].sum()),
                seconds,
                ridge(tilt_across, tilt_along, spacing, s.cutter),
            )
        )
    return out


def worth(found: list[Choice], limit: float) -> Choice | None:
    """The quickest choice whose ridges stay within ``limit`` mm."""
    good = [c for c in found if c.ridge <= limit + 1e-12]
    return min(good, key=lambda c: c.seconds) if good else None
