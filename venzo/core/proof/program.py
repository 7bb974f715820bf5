"""The program as a controller sees it: cutters with the moves each makes, in program coordinates (mm)."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from venzo.core.geometry.contour import Array


@dataclass
class Block:
    """What one loaded cutter does. ``moves`` (n, 7) as in ``cuts.moves``; ``lines``: program line of each."""

    tool: int
    rpm: float
    moves: Array
    lines: list[int] = field(default_factory=list)


@dataclass
class Reading:
    """A program read back: blocks in order, words that were met but mean nothing here, and its end."""

    blocks: list[Block]
    inch: bool
    ended: bool

    @property
    def moves(self) -> Array:
        """All moves in one array."""
        return np.concatenate([b.moves for b in self.blocks]) if self.blocks else np.zeros((0, 7))
