"""Which lines does a pen in the collet draw of a program, and does a plot draw them?"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely import STRtree, linestrings, points

from venzo.core.cuts.moves import RAPID, chords
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import ToolRun

UNIT = 0.025
"""mm; a plotter unit of HPGL."""
CHORD = 0.005
"""mm; arcs are drawn as chords within this."""
SLACK = UNIT + CHORD
"""mm by which a plot may lie beside what was planned: rounding to units, and chords."""
TOUCHES = 1e-6
"""mm below the top from which the pen touches."""


def pen_lines(runs: Sequence[ToolRun]) -> list[tuple[int, Array]]:
    """Lines (pen, points (n, 2) in mm) that cuts draw where the tip is below the top of the stock, each once:
    a pass that goes over a line drawn before is left out, since a plot says no heights.

    >>> from venzo.core.cuts.moves import LINE, row
    >>> down = np.array([row(RAPID, 0, 0, 3), row(LINE, 0, 0, -1, 9), row(LINE, 5, 0, -1, 9)])
    >>> [(pen, line.tolist()) for pen, line in pen_lines([ToolRun(1, "pen", 0, [("a", down)] * 2)])]
    [(1, [[0.0, 0.0], [5.0, 0.0]])]
    """
    out: list[tuple[int, Array]] = []
    drawn: set[tuple[float, ...]] = set()
    for run in runs:
        for _label, moves in run.cuts:
            out += [(run.number, line) for line in _of_cut(moves, drawn)]
    return out


def _of_cut(moves: Array, drawn: set[tuple[float, ...]]) -> list[Array]:
    """Lines of one cut that are not among those drawn, which they join."""
    way, of_move = chords(moves, CHORD)
    lines: list[list[Array]] = []
    for a, b, m in zip(way[:-1], way[1:], of_move, strict=True):
        touches = moves[m, 0] != RAPID and min(a[2], b[2]) < -TOUCHES
        flat = [float(v) for v in np.round(np.concatenate([a[:2], b[:2]]), 3)]
        same = tuple(flat) if flat[:2] <= flat[2:] else (*flat[2:], *flat[:2])
        if not touches or same in drawn or flat[:2] == flat[2:]:
            if touches and flat[:2] == flat[2:]:
                continue  # straight down: what follows draws on
            lines.append([])
            continue
        drawn.add(same)
        if not lines or not lines[-1]:
            lines.append([a[:2]])
        lines[-1].append(b[:2])
    return [np.array(line) for line in lines if len(line) > 1]


def off_plan(wanted: Sequence[Array], drawn: Sequence[Array]) -> tuple[str, float, float] | None:
    """The first place at which a plot is not what was planned, as ("missing" or "too much", x, y) in mm; None
    where every line lies within SLACK of the other's.
    """
    for what, these, those in (("missing", wanted, drawn), ("too much", drawn, wanted)):
        if not len(these):
            continue
        probe = np.concatenate([_probes(line) for line in these])
        if not len(those):
            return what, float(probe[0][0]), float(probe[0][1])
        edges = np.concatenate([np.stack([line[:-1], line[1:]], axis=1) for line in those])
        tree = STRtree(linestrings(edges))
        hits = tree.query(points(probe), predicate="dwithin", distance=SLACK)[0]
        lost = np.setdiff1d(np.arange(len(probe)), hits)
        if len(lost):
            return what, float(probe[lost[0]][0]), float(probe[lost[0]][1])
    return None


def _probes(line: Array) -> Array:
    """Points along a line no more than 1 mm apart."""
    steps = np.maximum(1, np.ceil(np.hypot(*np.diff(line, axis=0).T)).astype(int))
    which = np.repeat(np.arange(len(steps)), steps)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(steps) - steps, steps) + 0.5) / steps[which]
    between = line[which] + (line[which + 1] - line[which]) * t[:, None]
    return np.concatenate([line, between])
