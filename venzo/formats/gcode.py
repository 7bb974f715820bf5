"""RS-274 programs out and in (words of ISO 6983-1; modal groups and arc rules after the NIST RS274/NGC report)."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from venzo.core.cuts.moves import CCW, CW, CX, CY, FEED, KIND, LINE, RAPID, X, Y, Z, polyline, row
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import Block, Reading
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Dialect

LARGEST = 64 * 1024 * 1024


@dataclass(frozen=True)
class ToolRun:
    """Everything one cutter does in a file: (label, moves) of each cut, in program coordinates, mm."""

    number: int
    name: str
    rpm: float
    cuts: list[tuple[str, Array]]


def _comment(text: str) -> str:
    """A comment line that every controller reads: plain characters, no brackets inside."""
    clean = text.encode("ascii", "replace").decode().replace("(", "[").replace(")", "]")
    return f"({clean[:110]})"


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

    def words(self, motion: str, axes: dict[str, float], feed: float | None = None, centre: tuple[float, float] | None = None) -> None:
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


def write(runs: list[ToolRun], dialect: Dialect, header: Iterable[str], clearance: float, z_shift: float) -> str:
    """One program file.

    Args:
        runs: in running order; moves are in program X/Y with Z 0 at the top of the stock.
        dialect: units, arcs, tool changes.
        header: lines for people, written as comments.
        clearance: rapid height over the top, mm.
        z_shift: height of the stock's top in program Z (0: zero at the top; the thickness: zero on the bed).
    """
    w = _Writer(dialect)
    w.out += ["%", *(_comment(h) for h in header)]
    w.out += ["G17 G90 G94 G40 G49 G80", "G20" if dialect.inch else "G21", "G54"]
    top = clearance + z_shift
    loaded = None
    for run in runs:
        if loaded == run.number:  # the same cutter at another speed: no change, only a new S
            w.out.append(f"S{run.rpm:.0f} M3")
        else:
            w.modal.clear()
            w.out.append(_comment(f"cutter T{run.number}: {run.name}"))
            if dialect.tool_change:
                w.out += ["M5", f"T{run.number} M6"]
            w.out.append(f"S{run.rpm:.0f} M3")
        loaded = run.number
        w.words("G0", {"Z": top})
        for label, moves in run.cuts:
            w.out.append(_comment(label))
            w.modal.pop("motion", None)
            w.words("G0", {"X": moves[0, X], "Y": moves[0, Y]})
            w.words("G0", {"Z": moves[0, Z] + z_shift})
            for m in _moves(moves, dialect, w):
                x, y, z = m[X], m[Y], m[Z] + z_shift
                if m[KIND] >= CW:
                    px, py = m[7], m[8]
                    w.words("G2" if m[KIND] == CW else "G3", {"X": x, "Y": y, "Z": z}, m[FEED], (m[CX] - px, m[CY] - py))
                else:
                    w.words("G0" if m[KIND] == RAPID else "G1", {"X": x, "Y": y, "Z": z}, None if m[KIND] == RAPID else m[FEED])
            w.words("G0", {"Z": top})
    w.out.append("M5")
    w.words("G0", {"Z": top})
    w.out += ["M30", "%"]
    return "\n".join(w.out) + "\n"


def _moves(moves: Array, dialect: Dialect, w: _Writer) -> Iterable[Array]:
    """Moves after the first with the programmed (rounded) start point in two further columns.

    Arc centres are given from the rounded start, and arcs too short for the controller's radius check become lines.
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


_WORD = re.compile(r"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
_KNOWN_G = {0, 1, 2, 3, 4, 17, 20, 21, 28, 40, 49, 53, 54, 55, 56, 57, 58, 59, 61, 64, 80, 90, 91.1, 94}
_KNOWN_M = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 30}


def read(text: str, name: str = "program") -> Reading:
    """Read a program as a controller does.

    Understands G0 to G3 in the XY plane (I/J or R), G20/G21, G90, tool changes, spindle and feed; anything that changes where the
    cutter goes and is not understood is refused.

    Raises:
        BadInput: naming the line, the word and the remedy: unknown words, arcs whose radii differ by more than 0.01 mm or 0.1 %,
            cutting moves without a feed or with the spindle stopped.
    """
    if len(text) > LARGEST:
        raise BadInput(f"{name}: over {LARGEST // 1024**2} MB; split the program")
    scale, motion, feed, rpm, tool, pending, spindle = 1.0, None, 0.0, 0.0, 0, 0, False
    inch = ended = False
    pos = {"X": 0.0, "Y": 0.0, "Z": 0.0}
    known: set[str] = set()
    blocks: list[Block] = []
    rows: list[list[float]] = []
    lines: list[int] = []

    def close() -> None:
        nonlocal rows, lines
        if rows:
            blocks.append(Block(tool, rpm, np.array(rows), lines))
        rows, lines = [], []

    def fail(n: int, why: str, remedy: str) -> BadInput:
        return BadInput(f"{name}, line {n}: {why}; {remedy}")

    for n, raw in enumerate(text.splitlines(), 1):
        line = re.sub(r"\([^)]*\)|;.*", "", raw).strip().upper()
        if not line or line == "%":
            continue
        if ended:
            raise fail(n, f"{line[:20]!r} stands after the program's end", "remove what follows M30")
        line = line.lstrip("/")
        found = _WORD.findall(line)
        if re.sub(r"\s", "", "".join(a + b for a, b in found)) != re.sub(r"\s", "", line):
            raise fail(n, f"cannot read {raw.strip()[:40]!r}", "only letter-number words and comments are allowed")
        words: dict[str, float] = {}
        new_motion = None
        change = False
        for letter, value in found:
            v = float(value)
            if letter == "G":
                if v not in _KNOWN_G:
                    raise fail(n, f"G{value} is not understood", "post the program with G0 to G3 in the XY plane, absolute")
                if v in (0, 1, 2, 3):
                    if new_motion is not None:
                        raise fail(n, "two motion words on one line", "give each its own line")
                    new_motion = int(v)
                elif v in (20, 21):
                    inch = v == 20
                    scale = 25.4 if inch else 1.0
                elif v in (28, 53):
                    raise fail(n, f"G{value} moves in machine coordinates, which are not known here", "leave it out")
                elif v == 80:
                    motion = None
            elif letter == "M":
                if v not in _KNOWN_M:
                    raise fail(n, f"M{value} is not understood", "remove it or add it to the dialect")
                if v in (3, 4):
                    spindle = True
                elif v == 5:
                    spindle = False
                elif v == 6:
                    change = True
                elif v in (2, 30):
                    ended = True
            elif letter in "XYZIJKRFSTPNOD":
                if letter in words:
                    raise fail(n, f"{letter} is given twice", "give it once")
                words[letter] = v
            else:
                raise fail(n, f"word {letter}{value} is not understood", "remove it")
        if "T" in words:
            pending = int(words["T"])
        if "S" in words:
            rpm = words["S"]
        if change:
            close()
            tool = pending
        if "F" in words:
            feed = words["F"] * scale
        if new_motion is not None:
            motion = new_motion
        target = {k: words[k] * scale if k in words else pos[k] for k in pos}
        if not any(k in words for k in ("X", "Y", "Z", "I", "J", "R")):
            continue
        if motion is None:
            raise fail(n, "axis words without a motion word", "put G0 or G1 before them")
        if motion and feed <= 0:
            raise fail(n, "a cutting move without a feed", "give F before it")
        if motion and not spindle:
            raise fail(n, "a cutting move with the spindle stopped", "give S and M3 before it")
        known.update(k for k in pos if k in words)
        if not motion and not {"X", "Y"} <= known:  # a lift before X and Y are known happens wherever the machine stands
            pos = target
            continue
        if motion in (2, 3):
            centre = _centre(motion, pos, target, words, scale)
            if isinstance(centre, str):
                raise fail(n, centre, "correct the arc")
            rows.append(row(CW if motion == 2 else CCW, target["X"], target["Y"], target["Z"], feed, *centre))
        else:
            rows.append(row(float(motion), target["X"], target["Y"], target["Z"], feed if motion else 0.0))
        lines.append(n)
        pos = target
    close()
    return Reading(blocks, inch, ended)


def _centre(motion: int, pos: dict[str, float], to: dict[str, float], words: dict[str, float], scale: float) -> tuple[float, float] | str:
    dx, dy = to["X"] - pos["X"], to["Y"] - pos["Y"]
    if "R" in words:
        r, d = words["R"] * scale, math.hypot(dx, dy)
        if d < 1e-9 or d > 2 * abs(r) + 1e-3:
            return "the arc's radius does not reach its end point"
        h = math.sqrt(max(0.0, r * r - d * d / 4)) / d
        side = (1 if motion == 3 else -1) * (1 if r > 0 else -1)
        return pos["X"] + dx / 2 - side * h * dy, pos["Y"] + dy / 2 + side * h * dx
    cx, cy = pos["X"] + words.get("I", 0.0) * scale, pos["Y"] + words.get("J", 0.0) * scale
    r0, r1 = math.hypot(pos["X"] - cx, pos["Y"] - cy), math.hypot(to["X"] - cx, to["Y"] - cy)
    if r0 < 1e-9:
        return "the arc has no radius (I and J are missing)"
    if abs(r0 - r1) > max(0.01, 0.001 * r0):
        return f"the arc's radius is {r0:.4f} mm at its start and {r1:.4f} mm at its end"
    return cx, cy
