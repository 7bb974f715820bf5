"""A program as a controller sees it: what each loaded cutter does, with what is switched on at every move, in
program coordinates (mm).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from venzo.core.geometry.contour import Array


@dataclass(frozen=True)
class ToolRun:
    """Everything one cutter does in a file: (label, moves) of each cut, in program coordinates, mm."""

    number: int
    name: str
    rpm: float
    cuts: list[tuple[str, Array]]
    park: tuple[float, float] | None = None
    """Where it goes after its last cut, at the height of fast moves; None: it stays over that cut."""
    stops: Mapping[int, str] = field(default_factory=dict)
    """Before which of its cuts the program stops for the operator, and what is done then."""


@dataclass
class Block:
    """What one loaded cutter does without a break. ``moves`` (n, 7) as in ``cuts.moves``; ``lines``: program
    line of each.

    ``speed`` (n): rpm, negative where the spindle turns backwards, 0 where it stands; ``offset``: the work
    offset in force. Where a block begins is not known (the machine's top, or wherever it stood): its first
    move is a place, not a way.
    """

    tool: int
    rpm: float
    moves: Array
    lines: list[int] = field(default_factory=list)
    speed: Array = field(default_factory=lambda: np.zeros(0))
    offset: str = "G54"


EventKind = Literal[
    "change", "stop", "skip", "end", "dwell", "away", "no-speed", "length", "spin-up", "own", "spot"
]


@dataclass(frozen=True)
class Event:
    """Something between moves. ``kind``: a cutter change, a stop (M0, M1), a block that may be skipped, the
    end, a dwell, a way to a place that is not known, a spindle started without a speed, a length offset,
    waiting for the spindle after it is switched on, a word of the machine's own, a head that went on and off
    again at one place.
    ``value``: the cutter's number, seconds. ``turning``: the spindle did; ``z``: height of the tip then,
    None: the machine's top.
    """

    kind: EventKind
    line: int
    value: float = 0.0
    turning: bool = False
    z: float | None = None


@dataclass(frozen=True)
class Fault:
    """A line that cannot be read as a controller would have to: a word, block or mode that is not understood,
    a move that cannot be.
    """

    rule: str
    line: int
    message: str


@dataclass
class Reading:
    """A program read back: blocks in order, what happened between them, what could not be read, and whether
    it ends.
    """

    blocks: list[Block]
    inch: bool
    ended: bool
    events: Sequence[Event] = ()
    faults: Sequence[Fault] = ()
    lines: int = 0

    @property
    def moves(self) -> Array:
        """All moves in one array."""
        return np.concatenate([b.moves for b in self.blocks]) if self.blocks else np.zeros((0, 7))
