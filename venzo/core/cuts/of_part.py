"""All cuts of one part under a setup: which steps each feature gets, with which cutter, how deep, how fast,
and why.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from venzo.core.cuts.areas import open_sided
from venzo.core.cuts.feature_depths import FeatureDepths
from venzo.core.cuts.in_hand import PartInHand, PartToCut
from venzo.core.cuts.on_carvings import CarveSteps
from venzo.core.cuts.on_contours import ContourSteps
from venzo.core.cuts.on_edges import EdgeSteps
from venzo.core.cuts.on_features import FeatureSteps
from venzo.core.cuts.on_lines import LineSteps
from venzo.core.cuts.on_pockets import PocketSteps
from venzo.core.cuts.on_reliefs import ReliefSteps
from venzo.core.cuts.operations import Chamfer, Face, Profile, VCarve
from venzo.core.cuts.planned import PartCuts
from venzo.core.cuts.walls import thin_wall
from venzo.core.holding.tabs import Stretch
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.shape import Shape
from venzo.core.plan import Setup, StepsChoice
from venzo.core.snags import Remedy, look, stop

VERSION = "steps-13"


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
        setup.role.planned if setup.role else None,
        [m.name, m.retract, m.rpm_min, m.rpm_max, m.power, m.rapid, m.top_feed, list(m.cooling)],
    )


def plan_part(wanted: PartToCut, key: str = "") -> PartCuts:
    """Cuts of a part, remembered by what they depend on; ``key``: ``setup_key`` of its setup if known."""
    return memo("cuts", part_key(wanted, key), lambda: PartPlanner(wanted).plan())


def with_clear_tabs(base: PartCuts, wanted: PartToCut, key: str, blocked: tuple[Stretch, ...]) -> PartCuts:
    """``base``, what ``plan_part`` planned, with the automatic tabs of its outline moved clear of ``blocked``
    stretches; ``base`` itself where they are, or a person placed them. Only the outline is planned anew.
    ``key``: ``part_key``.
    """
    name, outline = wanted.shape.names[0], wanted.shape.region.outline
    plan = base.of(name)
    if plan is None or plan.tabs_by_hand or not plan.tabs or not blocked:
        return base
    width = wanted.setup.tabs_on("outlines").width / 2
    laps = (-outline.length, 0.0, outline.length)
    at = base.tabs_along(name, outline)
    if not any(a - width < s + lap < b + width for s in at for a, b in blocked for lap in laps):
        return base
    rounded = tuple((round(a, 2), round(b, 2)) for a, b in blocked)
    moved = memo(
        "clear-tabs",
        digest(key, rounded),
        lambda: (PartPlanner(wanted).outline_again(base, blocked),),
    )[0]
    return moved or base


def part_key(wanted: PartToCut, key: str = "") -> str:
    """Digest of all that a part's cuts depend on; ``key``: ``setup_key`` of its setup if known."""
    part, setup = wanted.part, wanted.setup
    # a wider web must not plan parts anew that do not reach beyond their edge
    room = wanted.spacing if _needs_room(wanted.shape, setup, wanted.steps) else 0.0
    return digest(
        key or setup_key(setup),
        part.id,
        part.name,
        part.grain,
        wanted.shape.digest,
        wanted.mirrored,
        wanted.thickness,
        room,
        _spread(setup, wanted.steps, wanted.thickness),
        list(wanted.choices),
        list(wanted.steps),
    )


def _spread(setup: Setup, steps: Sequence[StepsChoice], thickness: float) -> float:
    """Thickness spread of the sheets, where a carving's widths depend on it; else 0."""
    if not any(isinstance(s, VCarve) for s in (*setup.operations, *(s for c in steps for s in c.steps))):
        return 0.0
    return max((s.spread for s in setup.stock if abs(s.thickness - thickness) < 1e-3), default=0.0)


def _needs_room(shape: Shape, setup: Setup, steps: Sequence[StepsChoice]) -> bool:
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


class PartPlanner:
    """Plans a whole part: its features, its holes, its outline last."""

    def __init__(self, wanted: PartToCut) -> None:
        self.hand = hand = PartInHand(wanted)
        edges, depths = EdgeSteps(hand), FeatureDepths(hand)
        lines = LineSteps(hand, depths)
        pockets = PocketSteps(hand, lines)
        self.contours = ContourSteps(hand, edges, pockets)
        self.features = FeatureSteps(hand, edges, depths, lines, pockets, CarveSteps(hand), ReliefSteps(hand))

    def outline_again(self, base: PartCuts, blocked: tuple[Stretch, ...]) -> PartCuts | None:
        """``base`` with the outline planned anew, its tabs clear of ``blocked``; None: they stay."""
        name = self.hand.shape.names[0]
        self.hand.blocked = blocked
        self.contours.plan(name, self.hand.shape.region.outline, False)
        own = tuple(c for c in self.hand.cuts if c.contour == name)
        fresh = next((c for c in self.hand.plans if c.contour == name), None)
        if fresh is None or fresh.tabs == next(c.tabs for c in base.contours if c.contour == name):
            return None
        first = next(i for i, c in enumerate(base.cuts) if c.contour == name)
        cuts = (*(c for c in base.cuts[:first]), *own, *(c for c in base.cuts[first:] if c.contour != name))
        return replace(
            base, cuts=cuts, contours=tuple(fresh if c.contour == name else c for c in base.contours)
        )

    def plan(self) -> PartCuts:
        """Every cut of the part, with what is to be said."""
        known = set(self.hand.shape.names) | {f.name for f in self.hand.drawn.features}
        for name in (self.hand.choices.keys() | self.hand.steps_by_contour.keys()) - known:
            drop = Remedy(
                label="Drop this choice",
                command={
                    "kind": "set-contour",
                    "part": self.hand.part.id,
                    "contour": name,
                    "automatic": ["cutter", "tabs", "tab_count", "start", "steps", "line"],
                    "omit": False,
                },
            )
            self.hand.say(
                stop(
                    "choice.unmatched",
                    f"{self.hand.part.name}: the drawing no longer has {name}, for which a choice was made by"
                    " hand",
                    {"part": self.hand.part.id, "contour": name},
                    drop,
                )
            )
        self.features.plan()
        outline, *holes = list(self.hand.shape.contours)
        for name, contour in (*holes, outline):  # the outline last
            self.contours.plan(name, contour, name != outline[0])
        self._walls()
        return PartCuts(
            tuple(self.hand.cuts),
            tuple(self.hand.plans),
            tuple(self.hand.snags),
            tuple(self.hand.left_out),
            tuple(self.hand.areas.values()),
        )

    def _walls(self) -> None:
        """Say where pockets leave a wall that breaks or chatters."""
        hand = self.hand
        pockets, least = list(hand.areas.values()), hand.rules.least_web
        told = [(a.name, a.depth, a.pointed, a.open_sided, a.loops_key) for a in pockets]
        found = memo(
            "thin wall",
            digest(hand.shape.digest, told, hand.thickness, least),
            lambda: (thin_wall(hand.shape, pockets, hand.thickness, least),),
        )[0]
        if found is None:
            return
        area, wall, wanted = found
        words = (
            f"{hand.label(area.name)}: its {area.depth:g} mm leave a wall {wall.width:.2f} mm wide at"
            f" {wall.x:.1f}, {wall.y:.1f} mm, {wanted:.2g} mm is the house rule for so high a wall; it breaks"
            " or chatters: move the pocket, or make it less deep"
        )
        hand.say(look("cuts.thin-wall", words, {**hand.where(area.name), "x": wall.x, "y": wall.y}))
