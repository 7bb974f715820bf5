"""A planned cut: the moves of one step on one feature, in the part's frame."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

from venzo.core.cuts.moves import KIND, RAPID, lengths, placed
from venzo.core.geometry.contour import Array, Contour

MOST_PLACES = 600
"""Places that a cut remembers its moves for."""


@dataclass(frozen=True, eq=False)
class Cut:
    """One step on one ring of a contour, or on one feature.

    ``path``: the line that stands for it on a drawing and in questions of order; ``trace``: every line of its
    deepest pass; ``levels``: depths of the passes, negative; ``tabs``: their middles on the part's contour;
    ``frees``: it cuts through and lets a part or a drop go.
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
    tab_top: float | None = None
    """Z of the tops of its tabs, negative."""
    tab_width: float = 0.0
    ring: int = 0
    """Which of several separate rings of one step (bays before the main path)."""
    tab_sloped: bool = False
    force: float = 0.0
    """N that its heaviest pass pushes sideways with."""
    lift: float = 0.0
    """N that it pulls upwards with; negative: it presses down."""
    steady_lift: float = 0.0
    """N that it pulls upwards with on average over a turn."""
    in_area: bool = False
    """It runs along the walls of a pocket: what is left under it is the pocket's floor, not a skin."""

    @property
    def lines(self) -> tuple[Contour, ...]:
        """What is drawn of it."""
        return self.trace or (self.path,)

    @cached_property
    def key(self) -> str:
        """Digest of all that an order or a program depends on."""
        told = (self.contour, self.cutter, self.operation, self.step, self.frees, self.rpm, self.z_zero)
        rest = "|".join(str(t) for t in (*told, self.kind))
        return hashlib.sha256(self.moves.tobytes() + rest.encode()).hexdigest()[:24]

    @cached_property
    def shape_key(self) -> str:
        """Digest of all that precedence depends on: what it is, and the ring that it lets go."""
        ring = hashlib.sha256(self.path.vertices.tobytes()).hexdigest()[:16] if self.frees else ""
        return f"{self.contour}|{self.step}|{self.kind}|{self.frees}|{ring}"

    @cached_property
    def cut_length(self) -> float:
        """Way at feed from its first to its last move, mm; fast moves in between cut nothing."""
        return float(lengths(self.moves)[self.moves[:, KIND] != RAPID].sum())

    def placed(self, x: float, y: float, rotation: float) -> Array:
        """The moves where a piece lies; remembered, since an edit elsewhere leaves it there."""
        kept = self._placed
        if (x, y, rotation) not in kept:
            if len(kept) > MOST_PLACES:
                kept.clear()
            kept[x, y, rotation] = placed(self.moves, x, y, rotation)
        return kept[x, y, rotation]

    @cached_property
    def _placed(self) -> dict[tuple[float, float, float], Array]:
        return {}

    @cached_property
    def name(self) -> str:
        """What it is called within its piece: contour, step, and which of several rings."""
        return f"{self.contour}/{self.step}" + (f"/{self.ring}" if self.ring else "")

    @cached_property
    def kerfs(self) -> dict[tuple, Any]:
        """What it takes out of the sheet, by cutter and thickness."""
        return {}

    @cached_property
    def times(self) -> dict[tuple[float, ...], float]:
        """Seconds by what a machine can do; filled by the order of a sheet."""
        return {}
