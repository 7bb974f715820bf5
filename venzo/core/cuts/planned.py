"""What was planned of a step, of a contour or feature, of a part: for screen, papers and proof."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import Cut
from venzo.core.cuts.operations import On, StepKind
from venzo.core.geometry.contour import Contour
from venzo.core.snags import Snag


@dataclass(frozen=True)
class StepPlan:
    """One step on one feature as planned, for the screen and the papers. mm, mm/min, m/min, rpm; ``why``:
    (what, reason) pairs.
    """

    operation: str
    kind: StepKind
    cutter: str
    passes: int
    depth: float
    begins: float
    width: float
    rpm: float
    feed: float
    plunge: float
    chip: float
    speed: float
    window: tuple[float, float, float, float]
    entry: str
    lead: float
    z_zero: str
    length: float
    left: float
    why: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class ContourPlan:
    """One feature as planned: its last cutter, passes and tabs (x, y on the part's contour), and every
    step.
    """

    contour: str
    operation: str
    cutter: str
    inside: bool
    passes: int
    depth: float
    step_down: float
    tabs: tuple[tuple[float, float], ...]
    tabs_by_hand: bool
    omitted: bool
    reason: str
    on: On = "outlines"
    steps: tuple[StepPlan, ...] = ()
    own_steps: bool = False
    """Its steps were chosen for this part or contour alone."""


@dataclass(frozen=True, eq=False)
class PartCuts:
    """Cuts of a part in its own frame with what is to be said about them; ``areas``: what its cuts may take
    out of it, for the proof.
    """

    cuts: tuple[Cut, ...]
    contours: tuple[ContourPlan, ...]
    snags: tuple[Snag, ...]
    left_out: tuple[str, ...]
    areas: tuple[Area, ...] = ()

    def of(self, contour: str) -> ContourPlan | None:
        """What is planned on one contour."""
        return self._by_name.get(contour)

    def tabs_along(self, name: str, contour: Contour) -> tuple[float, ...]:
        """Where the tabs of a contour are, as ways along it from its first vertex, mm; reckoned once."""
        if name not in self._along:
            plan = self.of(name)
            self._along[name] = tuple(contour.nearest(*t)[0] for t in plan.tabs) if plan else ()
        return self._along[name]

    @cached_property
    def _by_name(self) -> dict[str, ContourPlan]:
        return {c.contour: c for c in self.contours}

    @cached_property
    def _along(self) -> dict[str, tuple[float, ...]]:
        return {}
