"""A planned cut: the moves of one step on one feature, in the part's frame."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from venzo.core.cuts.moves import KIND, RAPID, lengths, placed
from venzo.core.cuts.operations import StepKind
from venzo.core.geometry.contour import Array, Contour
from venzo.core.motion.time import Axes

MOST_PLACES = 600
"""Places that a cut remembers its moves for."""


@dataclass(frozen=True)
class Tab:
    """What a contour's tabs are like: Z of their tops (negative), width along the cut, mm, and whether their
    tops slope.
    """

    top: float
    width: float
    sloped: bool = False


@dataclass(frozen=True)
class Load:
    """What the heaviest pass of a cut does to the work, N: ``force`` pushes sideways, ``lift`` pulls upwards
    (negative: it presses down), ``steady_lift`` does so on average over a turn.
    """

    force: float = 0.0
    lift: float = 0.0
    steady_lift: float = 0.0


@dataclass(frozen=True, eq=False, kw_only=True)
class Cut:
    """One step on one ring of a contour, or on one feature. Its kinds, below, say what order, hold, time,
    proof and tape need to know of it; none of these asks for the cutter.

    ``path``: the line that stands for it on a drawing and in questions of order; ``trace``: every line of its
    deepest pass; ``levels``: depths of the passes, negative; ``frees``: it cuts through and lets a part or a
    drop go; ``ring``: which of several separate rings of one step (bays before the main path); ``kind``: of
    the step.
    """

    contour: str
    cutter: str
    operation: str
    kind: StepKind
    moves: Array
    path: Contour
    levels: tuple[float, ...]
    load: Load = Load()
    step: int = 0
    ring: int = 0
    frees: bool = False
    rpm: float = 0.0
    z_zero: Literal["top", "bed"] | None = None
    trace: tuple[Contour, ...] = ()
    portion: int = 0
    portions: int = 0
    """Of long stock: which length of a cut it is that is made in so many, from 1; 0: it is whole. Its line,
    trace and tabs are those of the whole.
    """

    @property
    def lets_go(self) -> bool:
        """Does it let a part or a drop go? The last length of a cut does."""
        return self.frees and self.portion == self.portions

    @property
    def inside(self) -> bool:
        """Within the part's outline?"""
        return True

    @property
    def tabs(self) -> tuple[tuple[float, float], ...]:
        """Middles of the tabs it leaves, on the part's contour."""
        return ()

    @property
    def takes_through(self) -> bool:
        """Where it is deep enough, does it take something out of the sheet that parts it?"""
        return True

    @property
    def face_first(self) -> bool:
        """Does all else of the piece wait for it, whichever step it is?"""
        return False

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """What a program is held against beside its moves: every line at its depth, every point, or no more
        than that nothing is cut into.
        """
        return "nothing"

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
        told = (self.contour, self.step, self.kind, self.frees, ring, self.portion, self.portions)
        return "|".join(map(str, told))

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
        ring = f"/{self.ring}" if self.ring else ""
        return f"{self.contour}/{self.step}{ring}" + (f"@{self.portion}" if self.portion else "")

    @cached_property
    def kerfs(self) -> dict[tuple, Any]:
        """What it takes out of the sheet, by cutter and thickness."""
        return {}

    @cached_property
    def times(self) -> dict[tuple[Axes, float], float]:
        """Seconds by what a machine can do; filled by the order of a sheet."""
        return {}


@dataclass(frozen=True, eq=False, kw_only=True)
class ContourCut(Cut):
    """Along a contour; what holds its piece meanwhile is left standing: tabs, or a skin under all of it.

    ``tabs``: their middles on the part's contour; ``tab``: what they are like; ``in_area``: it runs along the
    walls of a pocket, so that what is left under it is the pocket's floor, not a skin.
    """

    inside: bool = True
    tabs: tuple[tuple[float, float], ...] = ()
    tab: Tab | None = None
    in_area: bool = False

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """Every line, but at the tabs."""
        return "lines"


@dataclass(frozen=True, eq=False, kw_only=True)
class EdgeCut(Cut):
    """Breaks or shapes the top edge; it goes through nowhere."""

    @property
    def takes_through(self) -> bool:
        """No."""
        return False


@dataclass(frozen=True, eq=False, kw_only=True)
class AreaCut(Cut):
    """Clears an area: a pocket, the floor of a carving, steps along a wall, or the whole face."""

    @property
    def takes_through(self) -> bool:
        """A pocket may; a face never does."""
        return self.kind != "face"

    @property
    def face_first(self) -> bool:
        """The face comes first."""
        return self.kind == "face"

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """Every line of its deepest pass, where it is kept."""
        return "lines" if self.trace else "nothing"


@dataclass(frozen=True, eq=False, kw_only=True)
class LineCut(Cut):
    """Along lines with the cutter's middle: grooves, engraving, score lines."""

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """Every line."""
        return "lines"


@dataclass(frozen=True, eq=False, kw_only=True)
class HoleCut(Cut):
    """A round hole: drilled, or bored along a helix.

    ``ringed``: it runs round at full depth, which a program is held against.
    """

    ringed: bool = False

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """The round at full depth, where there is one."""
        return "lines" if self.ringed else "nothing"


@dataclass(frozen=True, eq=False, kw_only=True)
class CarvedCut(Cut):
    """A V carving's moves with the bit: the depth follows the width of the strokes."""

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """Every point."""
        return "points"


@dataclass(frozen=True, eq=False, kw_only=True)
class ReliefCut(Cut):
    """Roughs or finishes a relief: the depth follows its surface."""

    @property
    def held_to(self) -> Literal["lines", "points", "nothing"]:
        """Every point."""
        return "points"


KINDS: dict[StepKind, type[Cut]] = {
    "profile": ContourCut,
    "chamfer": EdgeCut,
    "pocket": AreaCut,
    "face": AreaCut,
    "groove": LineCut,
    "drill": HoleCut,
    "bore": HoleCut,
    "v-carve": CarvedCut,
    "relief rough": ReliefCut,
    "relief finish": ReliefCut,
}
"""Of which kind the cuts of a step are."""
ON_RELIEFS: tuple[StepKind, ...] = ("v-carve", "groove")
"""Steps that come after a piece's reliefs: what they cut may lie on one."""
