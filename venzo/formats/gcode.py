"""RS-274 programs out (words of ISO 6983-1)."""

from __future__ import annotations

import math
import textwrap
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise

import numpy as np

from venzo.core.cuts.moves import CCW, CW, CX, CY, FEED, KIND, LINE, RAPID, X, Y, Z, polyline, row
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import ToolRun
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import ZONE, Dialect
from venzo.formats.rs274 import read

__all__ = ["ToolRun", "read", "write"]


def comment_lines(text: str, dialect: Dialect) -> list[str]:
    """Words as comment lines that every controller reads: plain characters, no brackets inside, nothing left
    out.

    >>> comment_lines("zero (top)", Dialect()), comment_lines("zero (top)", Dialect(comments="semicolon"))
    (['(zero [top])'], ['; zero [top]'])
    """
    if dialect.comments == "none":
        return []
    clean = text.encode("ascii", "replace").decode().replace("(", "[").replace(")", "]")
    lines = textwrap.wrap(clean, dialect.longest - 2) or [""]
    return [f"({line})" if dialect.comments == "brackets" else f"; {line}".rstrip() for line in lines]


class Writer:
    """Lines of a program in a dialect, with what is in force."""

    def __init__(self, dialect: Dialect):
        self.dialect = dialect
        self.scale = 1 / 25.4 if dialect.inch else 1.0
        self.digits = dialect.digits
        self.out: list[str] = []
        self.modal: dict[str, str] = {}
        self.count = 0

    def number(self, value: float, digits: int) -> str:
        """A number as the dialect writes it."""
        text = f"{value:.{digits}f}"
        whole = self.dialect.whole
        if whole != "10.000":
            text = text.rstrip("0").rstrip(".") if "." in text else text
            if whole == "10." and "." not in text:
                text += "."
        return text.removeprefix("-") if float(text) == 0 else text

    def length(self, mm: float) -> str:
        """A length, given in mm."""
        return self.number(mm * self.scale, self.digits)

    def line(self, *words: str) -> None:
        """A block of the program."""
        text = (" " if self.dialect.spaces else "").join(w for w in words if w)
        if not self.dialect.spaces:
            text = text.replace(" ", "")
        if self.dialect.numbers:
            self.count = self.count + self.dialect.numbers if self.count < 99_000 else self.dialect.numbers
            text = f"N{self.count}{' ' if self.dialect.spaces else ''}{text}"
        self.out.append(text)

    def say(self, text: str) -> None:
        """Words for people."""
        self.out += comment_lines(text, self.dialect)

    def own(self, lines: Iterable[str]) -> None:
        """Lines of the machine's own words."""
        for line in lines:
            self.line(line)

    def dwell(self, seconds: float) -> None:
        """Stand still."""
        self.line("G4", f"P{seconds * (1000 if self.dialect.dwell_in == 'ms' else 1):g}")

    def turning(self, rpm: float) -> None:
        """The spindle on, its cooling, what goes down with it; a pen's stands."""
        if not rpm:
            self.line("M5")
            return
        self.line(f"S{rpm:.0f}", "M3")
        if self.dialect.spindle_up:
            self.dwell(self.dialect.spindle_up)

    def cutting(self, on: bool) -> None:
        """What is switched before a cutter's cuts, and after them."""
        if on:
            self.line(self.dialect.cooling) if self.dialect.cooling else None
            self.own(self.dialect.before_cut)
        else:
            self.own(self.dialect.after_cut)
            self.line("M9") if self.dialect.cooling else None

    def words(
        self,
        motion: str,
        axes: dict[str, float],
        feed: float | None = None,
        centre: tuple[float, float] | None = None,
    ) -> None:
        """One move; nothing where it goes nowhere."""
        every = not self.dialect.modal
        parts = [] if self.modal.get("motion") == motion and not every else [motion]
        said = False
        given = {axis: self.length(value) for axis, value in axes.items()}
        for axis in "XYZ":
            text = given.get(axis, self.modal.get(axis) if every else None)
            if text is None:
                continue
            new = self.modal.get(axis) != text
            if new or every or (centre and axis in "XY"):
                parts.append(f"{axis}{text}")
                self.modal[axis] = text
                said = said or new or bool(centre)
        if centre:
            parts += [f"I{self.length(centre[0])}", f"J{self.length(centre[1])}"]
        elif not said:
            return
        if feed is not None:
            text = self.number(feed * self.scale, 2 if self.dialect.inch else 0)
            if self.modal.get("F") != text or every:
                parts.append(f"F{text}")
                self.modal["F"] = text
        self.modal["motion"] = motion
        self.line(*parts)

    def begin(self, header: Iterable[str]) -> None:
        """Words for people, the first words, unit and offset, what the machine does at the start."""
        if self.dialect.percent:
            self.out.append("%")
        for h in header:
            self.say(h)
        self.line(*self.dialect.modes.split())
        self.line("G20" if self.dialect.inch else "G21")
        if self.dialect.offset:
            self.line(self.dialect.offset)
        self.own(self.dialect.at_start)

    def end(self) -> str:
        """The last words; the whole text."""
        self.own(self.dialect.at_end)
        self.line(self.dialect.end)
        if self.dialect.percent:
            self.out.append("%")
        ends = "\r\n" if self.dialect.crlf else "\n"
        return ends.join(self.out) + ends

    def move(self, m: Array, z_shift: float, height: bool = True) -> None:
        """One move of ``rounded``; without its ``height`` on machines that have none."""
        to = {"X": m[X], "Y": m[Y]} | ({"Z": m[Z] + z_shift} if height else {})
        if m[FEED] < 0:
            self.dwell(-m[FEED])
        elif m[KIND] >= CW:
            middle = (m[CX] - m[7], m[CY] - m[8])
            self.words("G2" if m[KIND] == CW else "G3", to, m[FEED], middle)
        else:
            self.words("G0" if m[KIND] == RAPID else "G1", to, None if m[KIND] == RAPID else m[FEED])

    def straight(self, moves: Array, z_shift: float) -> None:
        """Many straight moves at once, as ``move`` would write them one by one."""
        places = (moves[:, [X, Y, Z]] + (0.0, 0.0, z_shift)) * self.scale
        # what would be written as -0 is 0
        places[np.abs(places) < 0.49 * 10.0**-self.digits] = 0.0
        feed_digits = 2 if self.dialect.inch else 0
        feeds = np.round(moves[:, FEED] * self.scale, feed_digits)
        modal, digits, between = self.modal, self.digits, " " if self.dialect.spaces else ""
        x0, y0, z0, f0 = (modal.get(k, "") for k in "XYZF")
        said = None
        short, dot = self.dialect.whole != "10.000", "." if self.dialect.whole == "10." else ""
        for x, y, z, f in zip(*places.T.tolist(), feeds.tolist(), strict=True):
            xs, ys, zs = f"{x:.{digits}f}", f"{y:.{digits}f}", f"{z:.{digits}f}"
            if short:
                xs, ys, zs = (v.rstrip("0").rstrip(".") for v in (xs, ys, zs))
                if dot:
                    xs, ys, zs = (v if dot in v else v + dot for v in (xs, ys, zs))
            parts = [] if modal.get("motion") == "G1" else ["G1"]
            if xs != x0:
                parts.append(f"X{xs}")
            if ys != y0:
                parts.append(f"Y{ys}")
            if zs != z0:
                parts.append(f"Z{zs}")
            if xs == x0 and ys == y0 and zs == z0:
                continue
            fs = self.number(f, feed_digits) if f != said else f0
            said = f
            if fs != f0:
                parts.append(f"F{fs}")
            x0, y0, z0, f0 = xs, ys, zs, fs
            modal["motion"] = "G1"
            self.out.append(between.join(parts))
        modal.update({"X": x0, "Y": y0, "Z": z0, "F": f0})

    def rounded(self, moves: Array) -> Iterator[Array]:
        """Moves after the first with the programmed (rounded) start point and their row in three further
        columns.

        Arc centres are given from the rounded start, and arcs too short for the controller's radius check
        become lines.
        """
        step = 10.0**-self.digits / self.scale
        px, py, pz = (round(v / step) * step for v in moves[0, [X, Y, Z]])
        for k, (before, m) in enumerate(pairwise(moves), 1):
            if m[KIND] >= CW and math.hypot(m[X] - before[X], m[Y] - before[Y]) < 1e-6:
                m = m.copy()  # once round: it ends where it begins, rounded too
                m[X], m[Y] = px, py
            x, y = round(m[X] / step) * step, round(m[Y] / step) * step
            if m[KIND] >= CW:
                r = math.hypot(m[X] - m[CX], m[Y] - m[CY])
                if not self.dialect.arcs:
                    for p in polyline(np.array([row(RAPID, px, py, pz), m]), 0.005)[1:]:
                        yield np.array([*row(LINE, p[0], p[1], p[2], m[FEED]), 0, 0, k])
                    px, py, pz = x, y, m[Z]
                    continue
                if (math.hypot(x - px, y - py) < 4 * step and _sweep(m, px, py) < math.pi) or r < 4 * step:
                    m = np.array(row(LINE, m[X], m[Y], m[Z], m[FEED]))
            yield np.array([*m, px, py, k])
            px, py, pz = x, y, m[Z]


def write(
    runs: list[ToolRun],
    dialect: Dialect,
    header: Iterable[str],
    clearance: float,
    z_shift: float,
    zones: Sequence[int] = (),
) -> str:
    """One program file.

    Args:
        runs: in running order; moves are in program X/Y with Z 0 at the top of the stock; 0 rpm: the spindle
        stands.
        dialect: how it is written.
        header: lines for people, written as comments.
        clearance: rapid height over the top, mm.
        z_shift: height of the stock's top in program Z (0: zero at the top; the thickness: zero on the bed).
        zones: numbers of the vacuum zones that are switched on, where the dialect has words for that.

    Raises:
        BadInput: the dialect is a plot's, which says no heights.
    """
    if dialect.language != "rs-274":
        raise BadInput(
            f"{dialect.name} draws lines and says no heights: this program needs a controller that reads"
            " RS-274; choose another dialect for the machine"
        )
    w = Writer(dialect)
    w.begin(header)
    w.own(_zoned(dialect.zone_on, zones))
    _write_runs(w, runs, clearance + z_shift, z_shift)
    w.line("M5")
    w.modal.pop("motion", None)
    w.words("G0", {"Z": clearance + z_shift})
    if runs and runs[-1].park is not None:
        w.words("G0", {"X": runs[-1].park[0], "Y": runs[-1].park[1]})
    if dialect.park == "machine's top":
        w.line("G53", "G0", "Z0")
    w.own(_zoned(dialect.zone_off, zones))
    return w.end()


def _zoned(line: str, zones: Sequence[int]) -> list[str]:
    return [line.replace(ZONE, str(z)) for z in zones] if ZONE in line else [line] if line and zones else []


def _write_runs(w: Writer, runs: list[ToolRun], top: float, z_shift: float) -> None:
    """What each cutter does, with what is switched around it."""
    dialect = w.dialect
    loaded = None
    for k_run, run in enumerate(runs):
        if loaded == run.number:  # the same cutter at another speed: no change, only a new S
            w.turning(run.rpm)
        else:
            w.modal.clear()
            w.say(f"cutter T{run.number}: {run.name}")
            if dialect.tool_change:
                w.own(dialect.before_change)
                w.line("M5")
                change = [f"T{run.number}", "M6"]
                w.line(*(change if dialect.change == "T M6" else change[::-1]))
                if dialect.lengths:
                    w.line("G43", f"H{run.number}")
            w.own(dialect.after_change)
            w.turning(run.rpm)
        loaded = run.number
        w.words("G0", {"Z": top})
        w.cutting(True)
        for k, (label, moves) in enumerate(run.cuts):
            if k in run.stops and dialect.stops:
                w.cutting(False)
                w.line("M5")
                w.say(f"OPERATOR: {run.stops[k]}")
                w.line("M0")
                w.turning(run.rpm)
                w.cutting(True)
            w.say(label)
            w.modal.pop("motion", None)
            w.words("G0", {"X": moves[0, X], "Y": moves[0, Y]})
            w.words("G0", {"Z": moves[0, Z] + z_shift})
            _write_moves(w, moves, z_shift)
            w.words("G0", {"Z": top})
        after = runs[k_run + 1].number if k_run + 1 < len(runs) else None
        if after != run.number or dialect.before_cut or dialect.cooling:
            w.cutting(False)


MANY = 200
"""Straight moves in a row from which they are written all at once."""


def _write_moves(w: Writer, moves: Array, z_shift: float) -> None:
    """The moves of one cut, from where it goes down; long rows of straight ones at once."""
    straight = (moves[:, KIND] == LINE) & (moves[:, FEED] > 0)
    edges = np.flatnonzero(np.diff(np.concatenate([[False], straight, [False]]).astype(int))).reshape(-1, 2)
    at = 0
    for a, b in edges if w.dialect.plain_lines else ():
        a = max(a, 1)
        if b - a < MANY:
            continue
        for m in w.rounded(moves[at:a]):
            w.move(m, z_shift)
        w.straight(moves[a:b], z_shift)
        at = b - 1
    for m in w.rounded(moves[at:]):
        w.move(m, z_shift)


def _sweep(m: Array, px: float, py: float) -> float:
    """Radians that an arc goes round; once round where it ends where it begins (as ``moves.sweeps``)."""
    a, b = math.atan2(py - m[CY], px - m[CX]), math.atan2(m[Y] - m[CY], m[X] - m[CX])
    turn = ((b - a) if m[KIND] == CCW else (a - b)) % (2 * math.pi)
    return turn if turn > 1e-9 else 2 * math.pi
