"""All cuts of one part under a setup: which steps each feature gets, with which cutter, how deep, how fast,
and why.
"""

from __future__ import annotations

from dataclasses import replace

from venzo.core.cuts.areas import open_sided
from venzo.core.cuts.on_features import FeatureSteps
from venzo.core.cuts.operations import Chamfer, Face, Profile, VCarve
from venzo.core.cuts.planner import PartCuts
from venzo.core.holding.tabs import Stretch
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import ContourChoice, Part, Setup, StepsChoice
from venzo.core.snags import Remedy, stop

VERSION = "steps-7"


def setup_key(setup: Setup) -> str:
    """Digest of all of a setup that the cuts of a part depend on."""
    m = setup.machine
    return digest(
        VERSION,
        setup.operations,
        setup.cutters,
        setup.rules,
        setup.material,
        setup.z_zero,
        setup.allow_in_holes,
        [m.name, m.retract, m.rpm_min, m.rpm_max, m.power, m.rapid, m.top_feed, list(m.cooling)],
    )


def plan_part(
    part: Part,
    shape: Shape,
    setup: Setup,
    choices: list[ContourChoice],
    steps: list[StepsChoice],
    thickness: float,
    spacing: float,
    mirrored: bool = False,
    key: str = "",
) -> PartCuts:
    """Cuts of a part for one sheet thickness (mm), remembered by what they depend on.

    ``spacing``: to the neighbours, mm. ``key``: ``setup_key`` of the setup if known. A mirrored piece is
    planned from the mirrored shape, so that climb stays climb; its moves are in the mirrored frame.
    """
    room = (
        spacing if _needs_room(shape, setup, steps) else 0.0
    )  # a wider web must not plan parts anew that do not reach beyond their edge
    key = digest(
        key or setup_key(setup),
        part.id,
        part.name,
        part.grain,
        shape.digest,
        mirrored,
        thickness,
        room,
        _spread(setup, steps, thickness),
        choices,
        steps,
    )
    return memo(
        "cuts", key, lambda: _Planner(part, shape, setup, choices, steps, thickness, spacing, mirrored).plan()
    )


def with_clear_tabs(
    base: PartCuts,
    part: Part,
    shape: Shape,
    setup: Setup,
    choices: list[ContourChoice],
    steps: list[StepsChoice],
    thickness: float,
    spacing: float,
    mirrored: bool,
    key: str,
    blocked: tuple[Stretch, ...],
) -> PartCuts:
    """``base`` with the automatic tabs of its outline moved clear of ``blocked`` stretches; ``base`` itself
    where they are, or where a person placed them.

    Arguments as of ``plan_part``; only the outline is planned anew.
    """
    outline = shape.region.outline
    plan = base.of(shape.names[0])
    if plan is None or plan.tabs_by_hand or not plan.tabs or not blocked:
        return base
    width = setup.tabs_on("outlines").width / 2
    at = base.tabs_along(shape.names[0], outline)
    if not any(
        a - width < s + lap < b + width
        for s in at
        for a, b in blocked
        for lap in (-outline.length, 0.0, outline.length)
    ):
        return base
    room = spacing if _needs_room(shape, setup, steps) else 0.0
    rounded = tuple((round(a, 2), round(b, 2)) for a, b in blocked)
    whole = digest(
        key, part.id, part.name, part.grain, shape.digest, mirrored, thickness, room, choices, steps, rounded
    )
    return memo(
        "clear-tabs",
        whole,
        lambda: _Planner(part, shape, setup, choices, steps, thickness, spacing, mirrored).outline_again(
            base, blocked
        ),
    )


def _spread(setup: Setup, steps: list[StepsChoice], thickness: float) -> float:
    """Thickness spread of the sheets, where a carving's widths depend on it; else 0."""
    if not any(isinstance(s, VCarve) for s in (*setup.operations, *(s for c in steps for s in c.steps))):
        return 0.0
    return max((s.spread for s in setup.stock if abs(s.thickness - thickness) < 1e-3), default=0.0)


def _needs_room(shape: Shape, setup: Setup, steps: list[StepsChoice]) -> bool:
    """Does any cut of a part depend on how far its neighbours are: leads, edges, faces, pockets with open
    sides?
    """
    all_steps = [*setup.operations, *(s for c in steps for s in c.steps)]
    if any(
        isinstance(s, Chamfer | Face) or (isinstance(s, Profile) and s.lead != "none" and s.on != "pockets")
        for s in all_steps
    ):
        return True
    return memo("open-sided", shape.digest, lambda: open_sided(shape))


class _Planner(FeatureSteps):
    """Plans the whole part."""

    def outline_again(self, base: PartCuts, blocked: tuple[Stretch, ...]) -> PartCuts:
        """``base`` with the outline planned anew, its tabs clear of ``blocked``."""
        name = self.shape.names[0]
        self.blocked = blocked
        self._contour(name, self.shape.region.outline, False)
        own = tuple(c for c in self.cuts if c.contour == name)
        fresh = next((c for c in self.plans if c.contour == name), None)
        if fresh is None or fresh.tabs == next(c.tabs for c in base.contours if c.contour == name):
            return base
        first = next(i for i, c in enumerate(base.cuts) if c.contour == name)
        cuts = (*(c for c in base.cuts[:first]), *own, *(c for c in base.cuts[first:] if c.contour != name))
        return replace(
            base, cuts=cuts, contours=tuple(fresh if c.contour == name else c for c in base.contours)
        )

    def plan(self) -> PartCuts:
        known = set(self.shape.names) | {f.name for f in self.shape.features}
        for name in (self.choices.keys() | self.steps_by_contour.keys()) - known:
            drop = Remedy(
                label="Drop this choice",
                command={
                    "kind": "set-contour",
                    "part": self.part.id,
                    "contour": name,
                    "automatic": ["cutter", "tabs", "tab_count", "start", "steps", "line"],
                    "omit": False,
                },
            )
            self.say(
                stop(
                    "choice.unmatched",
                    f"{self.part.name}: the drawing no longer has {name}, for which a choice was made by"
                    " hand",
                    {"part": self.part.id, "contour": name},
                    drop,
                )
            )
        self._features()
        outline, *holes = list(self.shape.contours)
        for name, contour in (*holes, outline):  # the outline last
            self._contour(name, contour, name != outline[0])
        return PartCuts(
            tuple(self.cuts),
            tuple(self.plans),
            tuple(self.snags),
            tuple(self.left_out),
            tuple(self.areas.values()),
        )
