"""A planned cut: the moves of one step on one feature, in the part's frame."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from venzo.core.geometry.contour import Array, Contour


@dataclass(frozen=True)
class Cut:
    """One step on one ring of a contour, or on one feature.

    ``path``: the line that stands for it on a drawing and in questions of order; ``trace``: every line of its deepest pass; ``levels``: depths of the
    passes, negative; ``tabs``: their middles on the part's contour; ``frees``: it cuts through and lets a part or a drop go.
    """

    contour: str
    cutter: str
    operation: str
    inside: bool
    moves: Array
    path: Contour
    levels: tuple[float, ...]
    tabs: tuple[tuple[float, float], ...]
    kind: str = "profile"
    step: int = 0
    frees: bool = True
    rpm: float = 0.0
    z_zero: Literal["top", "bed"] | None = None
    trace: tuple[Contour, ...] = field(default=())
    by_trace: bool = False
    """The proof holds the path itself to full depth (profiles and grooves)."""

    @property
    def lines(self) -> tuple[Contour, ...]:
        """What is drawn of it."""
        return self.trace or (self.path,)
