"""Programs of kerf tables out: the head on by M3, off by M5, no heights (words of ISO 6983-1)."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from venzo.core.cuts.moves import FEED, LINE, PLANE, X, Y, row
from venzo.core.geometry.contour import Array
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_cuts import KerfCut
from venzo.core.kerf.running import KerfRun, Way
from venzo.core.model import Point
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.lying import Lying
from venzo.formats.gcode import Writer

PLAIN = Dialect(
    name="RS-274, metric, head on by M3",
    process="head",
    modes="G17 G90 G94 G40",
    offset="",
    tool_change=False,
    percent=False,
)
"""What is written where no machine says otherwise."""
FLAT = Lying()


def write_kerf(
    run: KerfRun,
    how: KerfHow,
    header: Iterable[str],
    dialect: Dialect = PLAIN,
    lies: Lying = FLAT,
    zero: Point = (0.0, 0.0),
) -> str:
    """One program file of a sheet.

    Args:
        run: the cuts in running order and the ways between them, in the sheet's coordinates.
        how: its feeds of hops.
        header: lines for people, written as comments.
        dialect: how it is written.
        lies: how the sheet lies on the table.
        zero: where program X0 Y0 lies on the sheet, mm.
    """
    w = Writer(dialect)
    w.begin(header)
    w.line("M5")
    for way, cut in zip(run.ways, run.cuts, strict=True):
        w.say(cut.name)
        moves = lies.moves_from(cut.moves, zero, PLANE)
        if way.sensed is None:
            _go(w, way, moves, how)
        else:
            spot = lies.moves_from(np.array([row(LINE, *way.sensed, 0.0)]), zero, PLANE)
            _go(w, way, spot, how)
            w.own(dialect.before_cut)
            w.own(dialect.sense)
            w.words("G1", {"X": moves[0, X], "Y": moves[0, Y]}, how.hop_at)
        _cut(w, cut, moves)
    w.own(dialect.raise_head)
    return w.end()


def _go(w: Writer, way: Way, moves: Array, how: KerfHow) -> None:
    """To the next pierce, the head off."""
    to = {"X": moves[0, X], "Y": moves[0, Y]}
    if way.down:
        w.words("G1", to, how.hop_at)
        return
    w.own(w.dialect.raise_head)
    w.words("G0", to)


def _cut(w: Writer, cut: KerfCut, moves: Array) -> None:
    """A pierce and what follows it, until the head is off."""
    dialect = w.dialect
    if not cut.pierced:
        w.own(dialect.before_cut)
        w.own(dialect.sense)
    w.line("M3")
    following = False
    for m in w.rounded(moves):
        stands = m[FEED] < 0
        wanted = not stands and int(m[-1]) not in cut.still and bool(dialect.follow_on)
        if wanted != following and not stands:
            w.own(dialect.follow_on if wanted else dialect.follow_off)
            following = wanted
        w.move(m, 0.0, height=False)
    if following:
        w.own(dialect.follow_off)
    w.line("M5")
    w.own(dialect.after_cut)
