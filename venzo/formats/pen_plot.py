"""HPGL out: the lines of a program for a pen in the collet (PU, PD, PA, SP and VS of plain HPGL, in units of
0.025 mm).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from venzo.core.cuts.moves import FEED, KIND, RAPID
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import ToolRun
from venzo.core.release.pen_lines import UNIT, pen_lines
from venzo.core.stock.dialect import Dialect

FASTEST = 127
"""cm/s; the most that VS takes."""


def write(runs: Sequence[ToolRun], dialect: Dialect) -> str:
    """One plot: pen lines from the program's zero. It says no heights and knows no comments; a line is broken
    where the dialect's longest would be passed.
    """
    out = ["IN;", "PA;"]
    pen = 0
    for number, line in pen_lines(runs):
        if number != pen:
            pen = number
            out += [f"SP{min(number, 255)};", f"VS{_speed(runs, number)};"]
        at = np.round(line / UNIT).astype(int)
        out.append(f"PU{at[0][0]},{at[0][1]};")
        out += _drawn(at[1:], dialect.longest)
    out += ["PU;", "SP0;"]
    ends = "\r\n" if dialect.crlf else "\n"
    return ends.join(out) + ends


def _drawn(at: Array, longest: int) -> list[str]:
    """Pen down over places, in lines no longer than may be."""
    lines, now = [], ""
    for x, y in at.tolist():
        more = f"{now},{x},{y}" if now else f"PD{x},{y}"
        if len(more) + 1 > longest:
            lines.append(f"{now};")
            more = f"PD{x},{y}"
        now = more
    return [*lines, f"{now};"] if now else lines


def _speed(runs: Sequence[ToolRun], number: int) -> int:
    """The fastest feed of a pen, in whole cm/s, at least 1."""
    moves = [m for r in runs if r.number == number for _label, m in r.cuts]
    fastest = max((float(m[m[:, KIND] != RAPID][:, FEED].max(initial=0.0)) for m in moves), default=0.0)
    return int(min(FASTEST, max(1, round(fastest / 600))))
