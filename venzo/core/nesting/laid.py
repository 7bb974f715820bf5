"""How does one sheet in use lie? What the search moves about."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from venzo.core.nesting.arena import Arena
from venzo.core.nesting.forms import Forms
from venzo.core.nesting.problem import Placement
from venzo.core.nesting.squeeze import Lie

Name = tuple[str, int]


@dataclass
class LaidSheet:
    """One sheet in use: its pieces (part, copy) and how they lie; ``still``: what does not move on it."""

    sheet: str
    copy: int
    names: list[Name]
    kinds: list[int]
    still: list[tuple[int, int, float, float]]
    box: tuple[float, float, float, float]
    room: float
    locked: list[Placement]
    locked_right: float = 0.0
    """Largest x that a locked piece reaches: the sheet gets no shorter than that."""
    version: int = 0
    tired: int = 0
    """Tries on end to bring more onto it that failed."""
    pressed_out: bool = False
    """Pressing it together has brought nothing more onto it."""
    appetite: int = 1
    """Pieces that the next try may bring at once."""
    lie: Lie = field(default_factory=lambda: Lie(0.0, np.zeros((0, 2), np.int64), np.zeros((0, 6))))

    def arena(self, forms: Forms) -> Arena:
        """A fresh arena with the pieces as they lie."""
        arena = Arena(forms, self.kinds, self.still, [self.box])
        arena.load(self.lie.pose, self.lie.place)
        return arena
