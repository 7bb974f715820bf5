"""Steps along lines: grooves, folding grooves, engravings; what a closed groove line means."""

from __future__ import annotations

from collections.abc import Sequence

from shapely.geometry import LineString
from shapely.ops import unary_union

from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import fold
from venzo.core.cuts.areas import Area
from venzo.core.cuts.depths import DepthRule, levels_in_full
from venzo.core.cuts.feature_depths import FeatureDepths
from venzo.core.cuts.follow import beside, follow_moves
from venzo.core.cuts.in_hand import (
    MOST_PASSES,
    Doing,
    PartInHand,
    closed_points,
)
from venzo.core.cuts.operations import (
    Groove,
    On,
    Operation,
    Pocket,
    VCarve,
    as_fields,
)
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.rounds import FIT, slender
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points
from venzo.core.parts.alter import INSET
from venzo.core.parts.shape import Feature
from venzo.core.rules.house import ClosedLine
from venzo.core.snags import BadInput, Remedy, look, stop
from venzo.core.tolerances import CHORD
from venzo.core.tooling.cutter import Cutter


class LineSteps:
    """Plans the steps along lines."""

    def __init__(self, hand: PartInHand, depths: FeatureDepths) -> None:
        self.hand, self.depths = hand, depths

    def meant(self, f: Feature) -> ClosedLine | None:
        """What a closed groove line means: by hand, by steps of its own that clear, by house rule, by its own
        form; None: nobody said.
        """
        choice = self.hand.choices.get(f.name)
        if choice and choice.line:
            return choice.line
        if f.name.startswith(INSET):
            return "on line"
        steps, own = self.hand.steps_of(f.name, "grooves")
        if own and any(isinstance(s, Pocket) for s in steps):
            return "clear"
        return self.hand.rules.closed_grooves or ("clear" if slender(f.contour) else None)

    def ask(self, f: Feature) -> None:
        label = self.hand.label(f.name)
        ways = (
            ("Run on the line", "on line"),
            ("Run inside it", "inside"),
            ("Run outside it", "outside"),
            ("Clear it", "clear"),
        )
        remedies = (
            Remedy(
                label=words,
                command={
                    "kind": "change-setup",
                    "setup": self.hand.setup.id,
                    "rules": {"closed_grooves": way},
                },
            )
            for words, way in ways
        )
        words = (
            f"{label}: a closed line on a groove layer; say whether the cutter runs on it, inside or outside"
            " of it, or clears what it encloses"
        )
        self.hand.say(stop("cuts.closed-line", words, self.hand.where(f.name), *remedies))
        self.hand.left_out.append(f"{label}: a closed line, and nobody said what it means")

    def line(
        self, f: Feature, steps: Sequence[Operation], own: bool, on: On, way: ClosedLine = "on line"
    ) -> None:
        """An open groove, an engraving, or a closed groove line with the cutter's middle on it, inside or
        outside.
        """
        label, where = self.hand.label(f.name), self.hand.where(f.name)
        depth = self.depths.of(f)
        if depth is None:
            self.depths.missing(f, steps)
            return
        if not any(isinstance(s, Groove) and s.skin for s in steps):
            self.depths.floor_left(f.name, depth)
        plans = []
        if on == "engravings":  # beside carved shapes lines are engraved with the same bit
            steps = [
                Groove(**as_fields(s, Groove, depth=None)) if isinstance(s, VCarve) else s for s in steps
            ]
        for k, step in enumerate(steps):
            if not isinstance(step, Groove):
                continue
            cutter = self.hand.setup.cutter(step.cutter)
            lines = (
                [f.contour]
                if way == "on line" or not cutter
                else self._beside(f, cutter, way, step.depth or depth)
            )
            if not lines:
                self.hand.say(
                    stop(
                        "cuts.too-small",
                        f"{label}: {cutter.name if cutter else step.cutter} does not fit inside the line;"
                        " take a smaller cutter, or run on the line",
                        where,
                    )
                )
                continue
            if step.width and cutter and step.width > cutter.diameter + FIT:
                if f.contour.closed:
                    self.hand.say(
                        stop(
                            "cuts.groove-width",
                            f"{label}: a closed line cannot be widened to {step.width:g} mm; take a cutter of"
                            " that width",
                            where,
                        )
                    )
                    continue
                try:
                    lines = beside(
                        f.contour, step.width, cutter.diameter, self.hand.rules.step_over * cutter.diameter
                    )
                except ValueError as e:
                    self.hand.say(
                        stop(
                            "cuts.groove-width", f"{label}: {e}; take a cutter {step.width:g} mm wide", where
                        )
                    )
                    continue
            plan = self.follow(f.name, lines, step, k, step.depth or depth)
            if plan:
                plans.append(plan)
        if not plans and not any(isinstance(s, Groove) for s in steps):
            self.hand.say(
                stop(
                    "cuts.open-line",
                    f"{label}: an open line; it needs a groove operation, not a pocket",
                    where,
                    *self.hand.proposal(on),
                )
            )
        self.hand.finish(f.name, on, True, plans, own)

    def _beside(self, f: Feature, cutter: Cutter, way: ClosedLine, depth: float) -> list[Contour]:
        """Where the cutter's middle runs so that its edge touches a closed line from within or without."""
        radius = min(cutter.radius, cutter.radius_at(depth))
        shift = radius if way == "outside" else -radius
        return [fit(p) for p in offset_points([f.contour.oriented(True).points(CHORD)], shift)]

    def follow(self, name: str, lines: list[Contour], step: Groove, k: int, depth: float) -> StepPlan | None:
        cutter = self.hand.tool(step, name)
        if cutter is None:
            return None
        self.hand.deep_enough(name, cutter, depth)
        largest, school = self.hand.step_down(step, cutter)
        lv = levels_in_full(depth, cutter.diameter, DepthRule(largest, school, self.hand.rules))
        if len(lv.depths) > MOST_PASSES:
            self.hand.say(
                stop(
                    "cuts.absurd",
                    f"{self.hand.label(name)}: {len(lv.depths)} passes of {largest:g} mm; give a larger depth"
                    " per pass",
                    self.hand.where(name),
                )
            )
            return None
        entry, ramp, entry_why = self.hand.entry(step, cutter, name)
        wide = 2 * cutter.radius_at(depth)
        a = self.hand.numbers(step, cutter, lv.engaged / len(lv.depths), min(wide, cutter.diameter))
        doing = Doing(name, step, k, cutter, a)
        moves = follow_moves(
            lines, lv.depths, entry, ramp, Track(self.hand.setup.machine.retract, a.feed, a.plunge)
        )
        self.hand.add(doing, moves, lines[0], lv.depths, trace=lines)
        touched = unary_union(
            [LineString(closed_points(c)).buffer(wide / 2 + 0.01, quad_segs=24) for c in lines]
        )
        self.hand.areas[f"{name} line {k}"] = Area(name, depth, touched, touched, tuple(lines))
        why = [("depth", f"{depth:.2f} mm, {wide:.2f} mm wide at the surface"), ("entry", entry_why)]
        if step.skin:
            why.append(self._fold(name, step, cutter))
        return self.hand.step_plan(doing, lv, [moves], entry, why)

    def _fold(self, name: str, step: Groove, cutter: Cutter) -> tuple[str, str]:
        """What a folding groove does to the sheet."""
        try:
            f = fold(self.hand.thickness, step.skin or 0.0, step.fold, Bit.of(cutter))
        except BadInput as e:
            self.hand.say(stop("cuts.fold", f"{self.hand.label(name)}: {e}", self.hand.where(name)))
            return "fold", str(e)
        if f.closes < step.fold - 1:
            self.hand.say(look("cuts.fold", f"{self.hand.label(name)}: {f.says}", self.hand.where(name)))
        words = f"{step.fold:g} degrees over {step.skin:g} mm of skin: bend allowance {f.allowance:.2f} mm"
        return (
            "fold",
            (
                f"{words}, the flat blank is {f.deduction:.2f} mm shorter than the outer sides together;"
                f" {f.says}"
            ),
        )
