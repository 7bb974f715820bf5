"""RS-274 programs out (words of ISO 6983-1)."""

from __future__ import annotations

import math
import textwrap
from collections.abc import Iterable

import numpy as np

from venzo.core.cuts.moves import CCW, CW, CX, CY, FEED, KIND, LINE, RAPID, X, Y, Z, polyline, row
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import ToolRun
from venzo.core.stock.machine import Dialect
from venzo.formats.rs274 import read

__all__ = ["ToolRun", "read", "write"]


LONGEST = 110
"""Characters of a comment line that every controller reads (common practice)."""


def _comments(text: str) -> list[str]:
    """Words as comment lines that every controller reads: plain characters, no brackets inside, nothing left
    out.

    >>> _comments("zero (top)")
    ['(zero [top])']
    """
    clean = text.encode("ascii", "replace").decode().replace("(", "[").replace(")", "]")
    return [f"({line})" for line in textwrap.wrap(clean, LONGEST)] or ["()"]


class _Writer:
    def __init__(self, dialect: Dialect):
        self.dialect = dialect
        self.scale = 1 / 25.4 if dialect.inch else 1.0
        self.digits = 5 if dialect.inch else 3
        self.out: list[str] = []
        self.modal: dict[str, str] = {}

    def number(self, mm: float) -> str:
        text = f"{mm * self.scale:.{self.digits}f}".rstrip("0").rstrip(".")
        return "0" if text in ("-0", "") else text

    def turning(self, rpm: float) -> None:
        """The spindle on; a pen's stands."""
        self.out.append(f"S{rpm:.0f} M3" if rpm else "M5")

    def words(
        self,
        motion: str,
        axes: dict[str, float],
        feed: float | None = None,
        centre: tuple[float, float] | None = None,
    ) -> None:
        parts = [] if self.modal.get("motion") == motion else [motion]
        said = False
        for axis, value in axes.items():
            text = self.number(value)
            if self.modal.get(axis) != text or (centre and axis in "XY"):
                parts.append(f"{axis}{text}")
                self.modal[axis] = text
                said = True
        if centre:
            parts += [f"I{self.number(centre[0])}", f"J{self.number(centre[1])}"]
        elif not said:
            return
        if feed is not None:
            text = f"{feed * self.scale:.{2 if self.dialect.inch else 0}f}"
            if self.modal.get("F") != text:
                parts.append(f"F{text}")
                self.modal["F"] = text
        self.modal["motion"] = motion
        self.out.append(" ".join(parts))


def write(
    runs: list[ToolRun], dialect: Dialect, header: Iterable[str], clearance: float, z_shift: float
) -> str:
    """One program file.

    Args:
        runs: in running order; moves are in program X/Y with Z 0 at the top of the stock; 0 rpm: the spindle
        stands.
        dialect: units, arcs, tool changes.
        header: lines for people, written as comments.
        clearance: rapid height over the top, mm.
        z_shift: height of the stock's top in program Z (0: zero at the top; the thickness: zero on the bed).
    """
    w = _Writer(dialect)
    w.out += ["%", *(line for h in header for line in _comments(h))]
    w.out += ["G17 G90 G94 G40 G49 G80", "G20" if dialect.inch else "G21", "G54"]
    top = clearance + z_shift
    loaded = None
    for run in runs:
        if loaded == run.number:  # the same cutter at another speed: no change, only a new S
            w.turning(run.rpm)
        else:
            w.modal.clear()
            w.out += _comments(f"cutter T{run.number}: {run.name}")
            if dialect.tool_change:
                w.out += ["M5", f"T{run.number} M6"]
            w.turning(run.rpm)
        loaded = run.number
        w.words("G0", {"Z": top})
        for k, (label, moves) in enumerate(run.cuts):
            if k in run.stops:
                w.out += ["M5", *_comments(f"OPERATOR: {run.stops[k]}"), "M0"]
                w.turning(run.rpm)
            w.out += _comments(label)
            w.modal.pop("motion", None)
            w.words("G0", {"X": moves[0, X], "Y": moves[0, Y]})
            w.words("G0", {"Z": moves[0, Z] + z_shift})
            for m in _moves(moves, dialect, w):
                x, y, z = m[X], m[Y], m[Z] + z_shift
                if m[FEED] < 0:
                    w.out.append(f"G4 P{-m[FEED]:g}")
                    continue
                if m[KIND] >= CW:
                    px, py = m[7], m[8]
                    w.words(
                        "G2" if m[KIND] == CW else "G3",
                        {"X": x, "Y": y, "Z": z},
                        m[FEED],
                        (m[CX] - px, m[CY] - py),
                    )
                else:
                    w.words(
                        "G0" if m[KIND] == RAPID else "G1",
                        {"X": x, "Y": y, "Z": z},
                        None if m[KIND] == RAPID else m[FEED],
                    )
            w.words("G0", {"Z": top})
    w.out.append("M5")
    w.modal.pop("motion", None)
    w.words("G0", {"Z": top})
    if runs and runs[-1].park is not None:
        w.words("G0", {"X": runs[-1].park[0], "Y": runs[-1].park[1]})
    w.out += ["M30", "%"]
    return "\n".join(w.out) + "\n"


def _moves(moves: Array, dialect: Dialect, w: _Writer) -> Iterable[Array]:
    """Moves after the first with the programmed (rounded) start point in two further columns.

    Arc centres are given from the rounded start, and arcs too short for the controller's radius check become
    lines.
    """
    step = 10.0**-w.digits / w.scale
    px, py, pz = (round(v / step) * step for v in moves[0, [X, Y, Z]])
    for m in moves[1:]:
        x, y = round(m[X] / step) * step, round(m[Y] / step) * step
        if m[KIND] >= CW:
            r = math.hypot(m[X] - m[CX], m[Y] - m[CY])
            if not dialect.arcs:
                for p in polyline(np.array([row(RAPID, px, py, pz), m]), 0.005)[1:]:
                    yield np.array([*row(LINE, p[0], p[1], p[2], m[FEED]), 0, 0])
                px, py, pz = x, y, m[Z]
                continue
            if (math.hypot(x - px, y - py) < 4 * step and _sweep(m, px, py) < math.pi) or r < 4 * step:
                m = np.array(row(LINE, m[X], m[Y], m[Z], m[FEED]))
        yield np.array([*m, px, py])
        px, py, pz = x, y, m[Z]


def _sweep(m: Array, px: float, py: float) -> float:
    a, b = math.atan2(py - m[CY], px - m[CX]), math.atan2(m[Y] - m[CY], m[X] - m[CX])
    return ((b - a) if m[KIND] == CCW else (a - b)) % (2 * math.pi)
