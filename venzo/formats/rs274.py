"""RS-274 programs in, as a controller reads them (words of ISO 6983-1; modal groups and arc rules after the
NIST RS274/NGC report).
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

import numpy as np

from venzo.core.cuts.moves import CCW, CW, row
from venzo.core.proof.program import Block, Event, EventKind, Fault, Reading
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect

LARGEST = 64 * 1024 * 1024
_PLAIN = Dialect()
MOST_FAULTS = 100
"""Faults after which a file is not read on."""
LONGEST_LINE = 2000
"""Characters of a line; controllers take 256 or fewer."""
FARTHEST = 100_000.0
"""mm from zero, for places and the middles of arcs; no machine reaches so far."""
_WORD = re.compile(r"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))", re.ASCII)
_STRAIGHT = re.compile(
    r"(?:G0?1 ?)?(?:X([-+]?\d+\.?\d*))? ?(?:Y([-+]?\d+\.?\d*))? ?(?:Z([-+]?\d+\.?\d*))? ?(?:F(\d+\.?\d*))?\Z",
    re.ASCII,
)
"""A line of nothing but a straight move, as most programs have it."""
_COMMENT = re.compile(r"\([^)]*\)|;.*")
_MODES = {
    17.0,
    21.0,
    20.0,
    40.0,
    49.0,
    54.0,
    55.0,
    56.0,
    57.0,
    58.0,
    59.0,
    61.0,
    61.1,
    64.0,
    80.0,
    90.0,
    91.0,
    91.1,
    94.0,
}
_MOTIONS = {0.0, 1.0, 2.0, 3.0}
_HOMES = {28.0, 30.0}
_M = {0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 30.0}
_GROUPS = (
    (_MOTIONS, "motion"),
    ({20.0, 21.0}, "unit"),
    ({90.0, 91.0}, "distance"),
    ({54.0, 55.0, 56.0, 57.0, 58.0, 59.0}, "work offset"),
    ({61.0, 61.1, 64.0}, "path"),
    ({4.0, 28.0, 30.0, 53.0}, "single-line"),
)
"""G codes of which a line may have one (modal groups of NIST RS274/NGC, table 4; G80 may stand beside)."""
_M_GROUPS = (({0.0, 1.0, 2.0, 30.0}, "stopping"), ({3.0, 4.0, 5.0}, "spindle"))
_WAY = frozenset("XYZIJR")
_AXES = ("X", "Y", "Z")
_LETTERS = set("XYZIJRFSTPNODHQL")


def interpret(text: str, name: str = "program", dialect: Dialect | None = None) -> Reading:
    """Read a program as a controller does, and say what of it cannot be read. ``dialect``: the machine's own
    words and the unit of its dwells are known too.

    Understands G0 to G3 in the XY plane (I/J or R), millimetre and inch, absolute and incremental, work
    offsets, G43 with the loaded cutter's own number, lifts by G53, G28 and G30, tool changes, spindle, feed,
    dwells and stops. Whatever else would change where the cutter goes or how it turns is a fault; the rest of
    its line is left out.

    Raises:
        BadInput: over 64 MB, or no program at all.
    """
    if len(text) > LARGEST:
        raise BadInput(f"{name}: over {LARGEST // 1024**2} MB; split the program")
    reader = _Reader(dialect)
    for n, raw in enumerate(text.splitlines(), 1):
        reader.line(n, raw)
        if len(reader.faults) > MOST_FAULTS:
            break
    reader.close()
    out = Reading(reader.blocks, reader.inch, reader.ended, reader.events, reader.faults, reader.known_lines)
    if not out.blocks and (not reader.known_lines or len(reader.faults) >= reader.known_lines):
        raise BadInput(
            f"{name}: this is no program: not one line of it is a move or a word that a controller knows;"
            " choose the file that goes to the machine"
        )
    return out


def read(text: str, name: str = "program", dialect: Dialect | None = None) -> Reading:
    """Read a program; nothing in it may be left out. ``dialect``: as for ``interpret``.

    Raises:
        BadInput: naming the line, the word and the remedy: unknown words, arcs whose radii differ by more
        than 0.01 mm or 0.1 %,
            cutting moves without a feed or with the spindle stopped.
    """
    if len(text) > LARGEST:
        raise BadInput(f"{name}: over {LARGEST // 1024**2} MB; split the program")
    reader = _Reader(dialect)
    for n, raw in enumerate(text.splitlines(), 1):
        reader.line(n, raw)
        if reader.faults:
            raise BadInput(f"{name}, line {reader.faults[0].line}: {reader.faults[0].message}")
    reader.close()
    return Reading(reader.blocks, reader.inch, reader.ended, reader.events, (), reader.known_lines)


@dataclass
class _Line:
    """The words of one line: G and M codes in order, the others by letter."""

    g: list[float] = field(default_factory=list)
    m: list[float] = field(default_factory=list)
    words: dict[str, float] = field(default_factory=dict)


class _Unread(Exception):
    """A line that cannot be read, with the reason."""

    def __init__(self, why: str, remedy: str, rule: str = "proof.unread"):
        super().__init__(f"{why}; {remedy}")
        self.rule = rule


class _Reader:
    """The state of a controller that goes through a program line by line."""

    def __init__(self, dialect: Dialect | None = None) -> None:
        self.dialect = dialect or _PLAIN
        self.head = self.dialect.process == "head"
        """A kerf table's: no height is written, and the head goes between cuts switched off."""
        self.moved_on = False
        """Something moved since it was last switched on."""
        self.started = False
        """The spindle was switched on by the line before."""
        self.scale, self.inch, self.incremental = 1.0, False, False
        self.motion: int | None = None
        self.feed = self.rpm = 0.0
        self.sense, self.tool, self.pending = 0, 0, 0
        self.offset = "G54"
        self.pos = {"X": 0.0, "Y": 0.0, "Z": 0.0}
        self.known: set[str] = {"Z"} if self.head else set()
        self.ended = False
        self.blocks: list[Block] = []
        self.events: list[Event] = []
        self.faults: list[Fault] = []
        self.known_lines = 0
        self.marks = 0
        """Lines with a percent sign: the second ends the program (NIST RS274/NGC, 3.3.1)."""
        self.rows: list[list[float]] = []
        self.lines: list[int] = []
        self.speeds: list[float] = []

    # -- lines

    def line(self, n: int, raw: str) -> None:
        if self.motion == 1 and self._plain(n, raw):
            return
        text = _COMMENT.sub("", raw[: LONGEST_LINE + 1]).strip().upper()
        if not text:
            return
        if text == "%":
            self.marks += 1
            return
        try:
            if len(raw) > LONGEST_LINE:
                raise _Unread(
                    f"the line is {len(raw):,} characters long",
                    f"break it; {LONGEST_LINE:,} are read at most",
                )
            if self.marks > 1:
                raise _Unread(
                    f"{text[:20]!r} stands after the second percent sign, where a program ends",
                    "remove the sign, or what follows it",
                )
            if self.ended:
                raise _Unread(f"{text[:20]!r} stands after the program's end", "remove what follows M30")
            if text.startswith("/"):
                self.event("skip", n)
                text = text.lstrip("/").strip()
            if self.dialect.is_own(text):
                self.event("own", n)
                self.known_lines += 1
                return
            self.obey(n, self.words(text, raw))
            self.known_lines += 1
        except _Unread as e:
            self.known_lines += e.rule != "proof.unread"
            self.faults.append(Fault(e.rule, n, str(e)))

    def _plain(self, n: int, raw: str) -> bool:
        """A line that is only a straight move to X, Y and Z at F, where all that a controller must know by
        then is known: read at once, as most lines of a relief are. False: it is read as any other.
        """
        found = _STRAIGHT.match(raw)
        if found is None or self.incremental or self.ended or self.marks > 1 or len(self.known) < 3:
            return False
        x, y, z, f = found.groups()
        if f is not None:
            self.feed = float(f) * self.scale
        if self.feed <= 0 or (not self.sense and not self.head) or (x is None and y is None and z is None):
            return False
        pos, scale = self.pos, self.scale
        px = pos["X"] if x is None else float(x) * scale
        py = pos["Y"] if y is None else float(y) * scale
        pz = pos["Z"] if z is None else float(z) * scale
        if not (-FARTHEST <= px <= FARTHEST and -FARTHEST <= py <= FARTHEST and -FARTHEST <= pz <= FARTHEST):
            return False
        self.rows.append([1.0, px, py, pz, 0.0, 0.0, self.feed])
        self.lines.append(n)
        self.speeds.append(self.rpm * self.sense)
        self.pos = {"X": px, "Y": py, "Z": pz}
        self.moved_on, self.started = self.moved_on or self.sense != 0, False
        self.known_lines += 1
        return True

    def words(self, text: str, raw: str) -> _Line:
        found = _WORD.findall(text)
        if re.sub(r"\s", "", "".join(a + b for a, b in found)) != re.sub(r"\s", "", text):
            raise _Unread(
                f"cannot read {raw.strip()[:40]!r}", "only letter-number words and comments are allowed"
            )
        out = _Line()
        for letter, value in found:
            v = float(value)
            if letter == "G":
                if v not in _MODES | _MOTIONS | _HOMES | {4.0, 43.0, 53.0}:
                    raise _Unread(
                        f"G{value} is not understood",
                        "post the program with G0 to G3 in the XY plane, absolute",
                    )
                out.g.append(v)
            elif letter == "M":
                if v not in _M:
                    raise _Unread(f"M{value} is not understood", "remove it or add it to the dialect")
                out.m.append(v)
            elif letter in _LETTERS:
                if letter in out.words:
                    raise _Unread(f"{letter} is given twice", "give it once")
                out.words[letter] = v
            else:
                raise _Unread(f"word {letter}{value} is not understood", "remove it")
        _together(out)
        return out

    # -- what a line does, in the order a controller does it (NIST RS274/NGC: feed and speed, cutter, spindle,
    # dwell, units, offsets, motion, stop)

    def obey(self, n: int, line: _Line) -> None:
        w = line.words
        if "T" in w:
            self.pending = int(w["T"])
        for v in (20.0, 21.0):
            if v in line.g:
                self.inch, self.scale = v == 20.0, 25.4 if v == 20.0 else 1.0
        if "F" in w:
            self.feed = w["F"] * self.scale
        if "S" in w:
            self.rpm = w["S"]
        self._switch(n, line)
        for v in line.g:
            if 54.0 <= v <= 59.0:
                if f"G{v:.0f}" != self.offset:
                    self.close()
                self.offset = f"G{v:.0f}"
            elif v in (90.0, 91.0):
                self.incremental = v == 91.0
            elif v == 80.0:  # beside a motion word, as in many a first line, it only ends a drilling cycle
                self.motion = None if not _MOTIONS & set(line.g) else self.motion
            elif v in _MOTIONS:
                self.motion = int(v)
        if 4.0 in line.g:
            self._dwell(n, w["P"] / (1000 if self.dialect.dwell_in == "ms" else 1))
        elif 43.0 in line.g:
            self._length(n, w)
        elif 53.0 in line.g or _HOMES & set(line.g):
            self._home(n, line)
        elif any(k in w for k in ("X", "Y", "Z", "I", "J", "R")):
            self._move(n, w)
        self.started = 3.0 in line.m
        if {0.0, 1.0} & set(line.m):
            self.event("stop", n)
        if {2.0, 30.0} & set(line.m):
            self.event("end", n)
            self.ended = True

    def _dwell(self, n: int, seconds: float) -> None:
        waits = self.started and abs(seconds - self.dialect.spindle_up) < 1e-6
        self.event("spin-up" if waits else "dwell", n, seconds)

    def _switch(self, n: int, line: _Line) -> None:
        """Cutter change and spindle."""
        if 6.0 in line.m:
            self.close()
            self.tool = self.pending
            self.event("change", n, self.tool)
            self.sense = 0 if 5.0 in line.m else self.sense
        if 3.0 in line.m or 4.0 in line.m:
            self.sense = 1 if 3.0 in line.m else -1
            self.moved_on = False
            if self.head:
                self.rpm = self.rpm or 1.0
            elif self.rpm <= 0 and "S" not in line.words:
                self.event("no-speed", n)
        elif 5.0 in line.m:
            if self.head and self.sense and not self.moved_on:
                self.event("spot", n)
            self.sense = 0

    def _length(self, n: int, w: dict[str, float]) -> None:
        if int(w.get("H", self.tool or self.pending)) != (self.tool or self.pending):
            raise _Unread(
                f"G43 H{w['H']:.0f} takes the length of another cutter than T{self.tool or self.pending}",
                "give the loaded cutter's own number",
            )
        self.event("length", n, w.get("H", self.tool))
        if any(k in w for k in _AXES):
            self._move(n, w)

    def _home(self, n: int, line: _Line) -> None:
        """A way in machine coordinates: up to the machine's top, or away to a place that is not known
        here.
        """
        named = {k for k in _AXES if k in line.words}
        if (
            53.0 not in line.g and "Z" in named and not self.incremental and "Z" in self.known
        ):  # by way of the height given
            self._row(n, 0, {**self.pos, "Z": line.words["Z"] * self.scale})
        gone = named or set(_AXES)
        self.close()
        if gone - {"Z"}:
            self.event("away", n)
        self.known -= gone

    def _move(self, n: int, w: dict[str, float]) -> None:
        if self.motion in (0, 1) and any(k in w for k in "IJR"):
            raise _Unread("I, J or R on a straight move", "remove it, or write G2 or G3 before it")
        if self.motion is None:
            raise _Unread("axis words without a motion word", "put G0 or G1 before them")
        target = dict(self.pos)
        for k in _AXES:
            if k in w:
                if self.incremental and k not in self.known:
                    raise _Unread(
                        f"an incremental {k} from a place that is not known",
                        "give an absolute position first",
                    )
                target[k] = w[k] * self.scale + (self.pos[k] if self.incremental else 0.0)
        if self.motion and self.feed <= 0:
            self._fault("proof.feed", n, "a cutting move without a feed; give F before it")
        if self.motion and not self.sense and not self.head:
            self._fault(
                "proof.spindle", n, "a cutting move with the spindle stopped; give S and M3 before it"
            )
        if self.motion in (2, 3) and not self.known >= {"X", "Y"}:
            raise _Unread("an arc from a place that is not known", "position with G0 in X and Y before it")
        if any(abs(v) > FARTHEST for v in target.values()):
            raise _Unread(
                f"it goes over {FARTHEST / 1000:g} m from zero", "correct the number; is the unit right?"
            )
        self.known.update(k for k in _AXES if k in w)
        centre = self._arc(target, w) if self.motion in (2, 3) else (0.0, 0.0)
        if not self.known >= set(_AXES):
            if self.motion:
                missing = " and ".join(sorted(set(_AXES) - self.known))
                self._fault(
                    "proof.unread",
                    n,
                    f"a cutting move while {missing} is not known; position with G0 in X, Y and Z first",
                )
            self.pos = target
            return
        self._row(n, {2: CW, 3: CCW}.get(self.motion, float(self.motion)), target, centre)

    def _arc(self, target: dict[str, float], w: dict[str, float]) -> tuple[float, float]:
        """The middle of an arc."""
        if "K" in w:
            raise _Unread("K has no meaning in the XY plane", "remove it")
        centre = _centre(self.motion or 0, self.pos, target, w, self.scale)
        if not isinstance(centre, str) and max(abs(v) for v in centre) > FARTHEST:
            centre = f"the arc's middle lies over {FARTHEST / 1000:g} m from zero"
        if isinstance(centre, str):
            raise _Unread(centre, "correct the arc", "proof.arc")
        return centre

    def _row(
        self, n: int, kind: float, target: dict[str, float], centre: tuple[float, float] = (0.0, 0.0)
    ) -> None:
        self.rows.append(
            row(float(kind), target["X"], target["Y"], target["Z"], self.feed if kind else 0.0, *centre)
        )
        self.lines.append(n)
        self.speeds.append(self.rpm * self.sense)
        self.moved_on = self.moved_on or self.sense != 0
        self.pos = target

    def _fault(self, rule: str, n: int, message: str) -> None:
        if not any(f.rule == rule for f in self.faults):
            self.faults.append(Fault(rule, n, message))

    def event(self, kind: EventKind, n: int, value: float = 0.0) -> None:
        self.events.append(
            Event(kind, n, value, self.sense != 0, self.pos["Z"] if "Z" in self.known else None)
        )

    def close(self) -> None:
        if self.rows:
            first = next((abs(s) for s in self.speeds if s), self.rpm)
            self.blocks.append(
                Block(self.tool, first, np.array(self.rows), self.lines, np.array(self.speeds), self.offset)
            )
        self.rows, self.lines, self.speeds = [], [], []


def _together(line: _Line) -> None:
    """Do the words of a line go together? Two of one group, a word that nothing on the line takes, a number
    that is none for its word: a controller stops there, or each takes it in its own way.

    Raises:
        _Unread: naming the words.
    """
    for groups, given, letter in ((_GROUPS, line.g, "G"), (_M_GROUPS, line.m, "M")):
        for group, what in groups if len(given) > 1 else ():
            both = [f"{letter}{v:g}" for v in given if v in group]
            if len(both) > 1:
                raise _Unread(f"two {what} words on one line, {' and '.join(both)}", "give each its own line")
    w = line.words
    if w.keys() <= _WAY and 4.0 not in line.g:
        return  # most lines: places and a middle
    for letter in "TSHNO":
        if w.get(letter, 0.0) < 0 or (letter in "TH" and w.get(letter, 0.0) % 1):
            raise _Unread(f"{letter}{w[letter]:g} is no number for {letter}", "correct it")
    if w.get("F", 1.0) < 0 or w.get("P", 0.0) < 0:
        raise _Unread("a negative feed or time", "correct it")
    if 4.0 in line.g:
        if "P" not in w:
            raise _Unread("a dwell without a time", "give it as P, in seconds")
        if any(k in w for k in "XYZIJR"):
            raise _Unread("a dwell and a way on one line", "give each its own line")
    elif "P" in w:
        raise _Unread("P without a dwell", "remove it, or write G4 before it")
    if "H" in w and 43.0 not in line.g:
        raise _Unread("H without G43", "remove it")
    for letter in "LQD":
        if letter in w:
            raise _Unread(f"nothing on the line takes {letter}", "remove it")


def _centre(
    motion: int, pos: dict[str, float], to: dict[str, float], words: dict[str, float], scale: float
) -> tuple[float, float] | str:
    dx, dy = to["X"] - pos["X"], to["Y"] - pos["Y"]
    if "R" in words and ("I" in words or "J" in words):
        return "the arc has a radius (R) and a middle (I, J); give one of them"
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
