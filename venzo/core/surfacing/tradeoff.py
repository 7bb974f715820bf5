"""Step-over against time and ridges: what people work out several times over before they choose."""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.cuts.moves import RAPID, lengths
from venzo.core.motion.time import Axes, path_time
from venzo.core.snags import Snag, note
from venzo.core.surfacing.board import Board, Surfacing
from venzo.core.surfacing.passes import laid
from venzo.core.surfacing.rows import Room, along_x, row_count, rows_run, runs
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
    x_rows = along_x(s, board.width, board.height, board.grain)
    across = board.height if x_rows else board.width
    for share in sorted({*SHARES, s.step_over}):
        room = Room(dead=board.dead).at(s.start + s.depth)
        found = runs(s, board.width, board.height, share, board.grain, room)
        moves, _ramped = laid(found, s.depth, s)
        d = lengths(moves)
        seconds = path_time(moves, axes)[0]
        apart = row_count(across, s.cutter, share * s.cutter, s.overrun) - 1
        spacing = (across + 2 * s.overrun - s.cutter) / apart if apart else 0.0
        out.append(
            Choice(
                share,
                spacing,
                rows_run(found, not x_rows),
                float(d[moves[:, 0] != RAPID].sum()),
                seconds,
                ridge(tilt_across, tilt_along, spacing, s.cutter),
            )
        )
    return out


COARSE, FINE = 0.4, 0.1
"""Step-overs that people weigh against each other: quick, and smooth (common practice)."""


@dataclass(frozen=True)
class Way:
    """A way to cut all of a board's passes: its step-over and that of one more, fine pass (0: none), seconds,
    and the ridge (mm) that its last pass leaves.
    """

    share: float
    fine: float
    seconds: float
    ridge: float


def ways(found: list[Choice], passes: int) -> list[Way]:
    """The quick way, the quick way with a fine pass after it, and the fine way, over as many passes.

    >>> quick, fine = (Choice(s, 20, 30, 1e4, t, r) for s, t, r in ((0.4, 300, 0.05), (0.1, 1200, 0.012)))
    >>> [(w.share, w.fine, w.seconds, w.ridge) for w in ways([quick, fine], 2)]
    [(0.4, 0.0, 600, 0.05), (0.4, 0.1, 1800, 0.012), (0.1, 0.0, 2400, 0.012)]
    """
    by = {c.share: c for c in found}
    quick, fine = by[COARSE], by[FINE]
    return [
        Way(COARSE, 0.0, passes * quick.seconds, quick.ridge),
        Way(COARSE, FINE, passes * quick.seconds + fine.seconds, fine.ridge),
        Way(FINE, 0.0, passes * fine.seconds, fine.ridge),
    ]


SAW_FEED, SAW_HANDS = 1000.0, 120.0
"""Resawing on a bandsaw: mm/min, and seconds to set its fence (common practice; wood and blade differ)."""
PLANER_FEED, PLANER_TAKES, PLANER_HANDS = 6000.0, 2.0, 15.0
"""A thickness planer: mm/min, mm a pass, and seconds to bring the board round again (common practice)."""
SAWN_FROM = 6.0
"""mm from which what comes off is worth sawing off."""
QUICKER = 0.5
"""Share of the time on the router under which it is said."""


def elsewhere(board: Board, s: Surfacing, seconds: float, lies_flat: bool) -> list[Snag]:
    """When a saw or a planer would be quicker: a planer needs a flat face to lie on.

    Args:
        board: a board; its length is the longer side.
        s: how it is cut here.
        seconds: that this takes.
        lies_flat: does it lie on a face that is flat already?
    """
    if board.kind != "board" or s.total <= 0:
        return []
    long, wide = max(board.width, board.height), min(board.width, board.height)
    out = []
    sawn = SAW_HANDS + 60 * long / SAW_FEED
    if s.total > SAWN_FROM and sawn < QUICKER * seconds:
        out.append(
            note(
                "surface.saw",
                f"{s.total:.1f} mm come off in {seconds / 60:.0f} min here; a bandsaw with {wide:.0f} mm"
                f" under its guides takes most of that off in about {sawn / 60:.0f} min, if the shop has one",
            )
        )
    planed = math.ceil(s.total / PLANER_TAKES - 1e-9) * (PLANER_HANDS + 60 * long / PLANER_FEED)
    if lies_flat and planed < QUICKER * seconds:
        out.append(
            note(
                "surface.planer",
                f"this face takes {seconds / 60:.0f} min here; a planer {wide:.0f} mm wide needs about"
                f" {math.ceil(planed / 60):.0f} min, if the shop has one",
            )
        )
    return out


def worth(found: list[Choice], limit: float) -> Choice | None:
    """The quickest choice whose ridges stay within ``limit`` mm."""
    good = [c for c in found if c.ridge <= limit + 1e-12]
    return min(good, key=lambda c: c.seconds) if good else None
