"""What a machine's controller reads, as data: how lines are written, how a cutter is changed, and the
machine's own words for dust shoe, vacuum, length and height.
"""

from __future__ import annotations

import json
import re
from functools import lru_cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from venzo.core.model import Value

MODES = frozenset({"G17", "G40", "G49", "G61", "G61.1", "G64", "G80", "G90", "G94"})
"""First words that leave a program what it is; inch or millimetre and the work offset have fields of their
own.
"""
ZONE = "{zone}"
_OWN = re.compile(r"M(?:[89]|1\d|2\d|3[1-9]|[4-9]\d|\d{3,4})(?:\.\d)?(?: [PQR](?:-?\d+(?:\.\d+)?|\{zone\}))*")
MOST_LINES = 12
SHORTEST = 96
"""Characters that the longest line of a program may need: an arc with every word."""


def _own(line: str) -> str:
    """One line of the machine's own words, parted by single spaces.

    Raises:
        ValueError: it holds anything but an M word from M8 on with P, Q or R beside it: what moves, stops or
        ends is written by Venzo, which proves it.
    """
    clean = re.sub(r"(?<=[\d}])\s*(?=[A-Z])", " ", " ".join(line.upper().replace("{ZONE}", ZONE).split()))
    if not _OWN.fullmatch(clean):
        raise ValueError(
            f"{line.strip()[:40]!r} is no word of the machine's own: give one M word a line, from M8 on but"
            " not M30, with P, Q or R and a number beside it; what moves, turns or ends is written by Venzo"
        )
    return clean


def _everywhere(line: str) -> str:
    if ZONE in line:
        raise ValueError(f"{line!r}: {ZONE} has a meaning only in the words that switch a vacuum zone")
    return line


OwnLine = Annotated[str, Field(max_length=80), AfterValidator(_own), AfterValidator(_everywhere)]
ZoneLine = Annotated[str, Field(max_length=80), AfterValidator(lambda s: _own(s) if s.strip() else "")]
OwnLines = Annotated[tuple[OwnLine, ...], Field(max_length=MOST_LINES)]


def _modes(words: str) -> str:
    clean = " ".join(words.upper().split())
    wrong = [w for w in clean.split() if w not in MODES]
    if wrong:
        raise ValueError(
            f"{wrong[0]} does not go among the first words; they may be {', '.join(sorted(MODES))}: programs"
            " are absolute, in the XY plane, in feed a minute"
        )
    return clean


def _letters(text: str) -> str:
    return "".join(sorted(set(re.sub(r"[^A-Z]", "", text.upper()))))


class Dialect(Value):
    """What the controller reads, in general words.

    Lines of the machine's own words (``at_start`` to ``at_end``) are written as they are and read back as
    what they are; they cannot move the machine.
    """

    name: Annotated[str, Field(min_length=1, max_length=120)] = "RS-274, metric, tool change by M6"
    language: Literal["rs-274", "hpgl"] = "rs-274"
    """``hpgl``: a plot of pen lines, for a pen in the collet; heights are the machine's."""
    process: Literal["spindle", "head"] = "spindle"
    """``head``: of a kerf table, on by M3 and off by M5, without speeds and heights."""
    inch: bool = False
    arcs: bool = True
    tool_change: bool = True
    """False: no changer, every cutter is a file of its own."""
    stops: bool = True
    """It stops at M0 and goes on; False: what follows a stop for the operator is a file of its own."""
    ending: Annotated[str, Field(pattern=r"^[a-z0-9]{1,4}$")] = "nc"
    percent: bool = True
    """Programs stand between percent signs."""
    modes: Annotated[str, Field(max_length=80), AfterValidator(_modes)] = "G17 G90 G94 G40 G49 G80"
    offset: Literal["", "G54", "G55", "G56", "G57", "G58", "G59"] = "G54"
    change: Literal["T M6", "M6 T"] = "T M6"
    lengths: bool = False
    """After a change the cutter's length is taken up (G43 with its number)."""
    spindle_up: Annotated[float, Field(ge=0, le=60)] = 0.0
    """Seconds to wait after the spindle is switched on."""
    dwell_in: Literal["s", "ms"] = "s"
    """What P of a dwell is in."""
    cooling: Literal["", "M7", "M8"] = ""
    """Air or mist (M7) or flood (M8) while it cuts."""
    at_start: OwnLines = ()
    before_change: OwnLines = ()
    after_change: OwnLines = ()
    """Such as measuring the length, or sensing the height."""
    before_cut: OwnLines = ()
    """Such as the dust shoe down."""
    after_cut: OwnLines = ()
    at_end: OwnLines = ()
    sense: OwnLines = ()
    """Of a kerf table: what senses the sheet's height before a pierce."""
    follow_on: OwnLines = ()
    """From here on the head follows the sheet's height."""
    follow_off: OwnLines = ()
    """From here on it keeps its height: about corners, over kerfs, in small holes."""
    raise_head: OwnLines = ()
    """Lifts the head before a way over what may have tipped."""
    zone_on: ZoneLine = ""
    """Switches a vacuum zone on, ``{zone}`` in place of its number; empty: by hand."""
    zone_off: ZoneLine = ""
    comments: Literal["brackets", "semicolon", "none"] = "brackets"
    longest: Annotated[int, Field(ge=SHORTEST, le=250)] = 112
    """Characters of a line."""
    decimals: Annotated[int, Field(ge=3, le=6)] | None = None
    """None: 3 in millimetres, 5 in inches."""
    whole: Literal["10", "10.", "10.000"] = "10"
    """How a whole number is written."""
    spaces: bool = True
    """False: words run together."""
    numbers: Annotated[int, Field(ge=0, le=100)] = 0
    """Step of the block numbers; 0: none."""
    modal: bool = True
    """False: the motion word and every axis stand in every block."""
    crlf: bool = False
    """Lines end with carriage return and line feed."""
    letters: Annotated[str, Field(max_length=60), AfterValidator(_letters)] = ""
    """Letters of words that the controller takes; empty: all that are needed."""
    end: Literal["M30", "M2"] = "M30"
    park: Literal["over the work", "machine's top"] = "over the work"
    """Where the cutter is left at the end: at the height of fast moves, or lifted by G53 to the machine's
    top.
    """

    @model_validator(mode="after")
    def _goes_together(self) -> Dialect:
        needed = {"G": "moves", "X": "places", "Y": "places", "F": "feeds"}
        needed |= {} if self.process == "head" else {"Z": "places", "S": "speeds"}
        needed |= {"M": "the spindle", "P": "dwells"} | ({"I": "arcs", "J": "arcs"} if self.arcs else {})
        needed |= ({"N": "block numbers"} if self.numbers else {}) | (
            {"H": "lengths"} if self.lengths else {}
        )
        needed |= {"T": "cutter changes"} if self.tool_change and self.process == "spindle" else {}
        missing = [k for k in needed if k not in self.letters] if self.letters else []
        if missing:
            raise ValueError(
                f"{needed[missing[0]]} need the letter {missing[0]}, which is not among those that it takes:"
                " add it, or choose another way"
            )
        if self.inch and self.decimals == 3:
            raise ValueError("three decimals of an inch are 0.025 mm, coarser than 0.02 mm; give 4 or more")
        if bool(self.zone_on) != bool(self.zone_off):
            raise ValueError("a vacuum zone that is switched on by a word is switched off by one: give both")
        if bool(self.follow_on) != bool(self.follow_off):
            raise ValueError("a height that is followed from a word on is let be by another: give both")
        if self.process == "head" and self.language != "rs-274":
            raise ValueError("a head is switched on and off: a plot has no words for that; choose RS-274")
        if "G90" not in self.modes.split() and self.language == "rs-274":
            raise ValueError("G90 is missing among the first words: programs are written in absolute places")
        return self

    @property
    def plain_lines(self) -> bool:
        """Is a straight move no more than its words: no line numbers, every word only where it changes?"""
        return not self.numbers and self.modal

    @property
    def digits(self) -> int:
        """Decimals of a length."""
        return self.decimals if self.decimals is not None else 5 if self.inch else 3

    @property
    def joins(self) -> bool:
        """Can several sheets be run from one file? The controller must change cutters and stop by itself."""
        return self.language == "rs-274" and self.tool_change and self.stops

    @property
    def unit(self) -> Literal["mm", "in"]:
        """The unit of its lengths."""
        return "in" if self.inch else "mm"

    @property
    def own_lines(self) -> frozenset[str]:
        """All lines of the machine's own words, zones with their number left open."""
        every = [self.at_start, self.before_change, self.after_change, self.before_cut, self.after_cut]
        every += [self.sense, self.follow_on, self.follow_off, self.raise_head]
        zones = [z for z in (self.zone_on, self.zone_off) if z]
        return frozenset([line for lines in (*every, self.at_end) for line in lines] + zones)

    def is_own(self, line: str) -> bool:
        """Is a line of a program one of the machine's own words?

        >>> Dialect(zone_on="M64 P{zone}", zone_off="M65 P{zone}").is_own("M64P3")
        True
        >>> Dialect().is_own("M64 P3")
        False
        """
        return bool(self.own_lines) and any(p.fullmatch(line) for p in _patterns(self.own_lines))


@lru_cache(maxsize=64)
def _patterns(lines: frozenset[str]) -> tuple[re.Pattern[str], ...]:
    def pattern(line: str) -> re.Pattern[str]:
        body = re.escape(line).replace(re.escape(ZONE), r"\d{1,3}").replace(r"\ ", r"\s*")
        return re.compile(rf"(?:N\d+\s*)?{body}")

    return tuple(pattern(line) for line in sorted(lines))


@lru_cache(maxsize=2)
def starters(process: Literal["spindle", "head"] = "spindle") -> tuple[Dialect, ...]:
    """Dialects to begin with, by what controllers of routers, or of kerf tables, take in common.

    >>> [d.name for d in starters()][:2]
    ['RS-274, metric, tool change by M6', 'RS-274, inch, tool change by M6']
    """
    text = files("venzo.core.stock").joinpath("dialects.json").read_text("utf-8")
    every = (Dialect.model_validate(d) for d in json.loads(text))
    return tuple(d for d in every if d.process == process)
