"""Steps along lines: grooves, folding grooves, engravings; what a closed groove line means."""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

from shapely.geometry import LineString
from shapely.ops import unary_union

from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import fold
from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import CarvedCut
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
    FEATURE_ON,
    Groove,
    On,
    Operation,
    Pocket,
    VCarve,
    as_fields,
)
from venzo.core.cuts.over_reliefs import OverReliefs
from venzo.core.cuts.planned import StepPlan
from venzo.core.cuts.rounds import slender
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points
from venzo.core.parts.alter import INSET
from venzo.core.parts.shape import Feature
from venzo.core.rules.house import ClosedLine
from venzo.core.snags import BadInput, Remedy, look, stop
from venzo.core.tolerances import CHORD, FIT
from venzo.core.tooling.cutter import Cutter


def _widened(step: Groove, cutter: Cutter) -> bool:
    """Is the line made by runs side by side?"""
    return bool(step.width and not step.skin and step.width > cutter.diameter + FIT)


def _width_wrong(step: Groove, cutter: Cutter) -> str:
    """Why one run of this cutter cannot leave a line as wide as asked; empty: it can."""
    wide = step.width
    if not wide or step.skin:
        return ""
    if not cutter.deeper_is_wider(wide):
        if wide < cutter.diameter - FIT:
            return (
                f"{cutter.name} leaves {cutter.diameter:g} mm, more than the {wide:g} mm asked; take a"
                f" cutter of {wide:g} mm, or a pointed one"
            )
        return ""
    least, most = 2 * cutter.radius_at(0.0), 2 * cutter.radius_at(cutter.reach)
    if wide <= least:
        return (
            f"{cutter.name} is {least:g} mm wide at its very point; a line of {wide:g} mm takes a sharper one"
        )
    if wide > most + 1e-6:
        return (
            f"{cutter.name} leaves {most:.2f} mm at most, at its full depth; a line of {wide:g} mm takes a"
            " wider one"
        )
    return ""


class LineSteps:
    """Plans the steps along lines."""

    def __init__(self, hand: PartInHand, depths: FeatureDepths) -> None:
        self.hand, self.depths, self.over = hand, depths, OverReliefs(hand)

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
        if on == "engravings":  # beside carved shapes lines are engraved with the same bit
            steps = [
                Groove(**as_fields(s, Groove, depth=None)) if isinstance(s, VCarve) else s for s in steps
            ]
        deep = self._depths(f, steps)
        if any(d is None for d in deep.values()):
            self.depths.missing(f, steps)
            return
        floors = [d for k, d in deep.items() if d and not cast(Groove, steps[k]).skin]
        if floors:
            self.depths.floor_left(f.name, max(floors))
        plans = []
        for k, depth in deep.items():
            step = cast(Groove, steps[k])
            lines = self._lines(f, steps, k, way, depth or 0.0)
            plan = self.follow(f.name, lines, step, k, depth or 0.0) if lines else None
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

    def _depths(self, f: Feature, steps: Sequence[Operation]) -> dict[int, float | None]:
        """How deep each step along the line goes, mm, by its number."""
        return {
            k: self.depths.of_groove(f, step, self.hand.setup.cutter(step.cutter))
            for k, step in enumerate(steps)
            if isinstance(step, Groove)
        }

    def _lines(
        self, f: Feature, steps: Sequence[Operation], k: int, way: ClosedLine, depth: float
    ) -> list[Contour]:
        """Where the cutter's middle runs; none, with the reason said, where that cannot be."""
        step, label = cast(Groove, steps[k]), self.hand.label(f.name)
        cutter = self.hand.setup.cutter(step.cutter)
        if cutter is None:
            return [f.contour]
        wrong = _width_wrong(step, cutter)
        if wrong:
            return self._not_so_wide(f, steps, k, wrong)
        lines = [f.contour] if way == "on line" else self._beside(f, cutter, way, depth)
        if not lines:
            words = (
                f"{label}: {cutter.name} does not fit inside the line; take a smaller cutter, or run on the"
            )
            self.hand.say(stop("cuts.too-small", f"{words} line", self.hand.where(f.name)))
            return []
        if not _widened(step, cutter):
            return lines
        wide = step.width or 0.0
        if f.contour.closed:
            return self._not_so_wide(
                f, steps, k, f"a closed line cannot be widened to {wide:g} mm; take a cutter of that width"
            )
        try:
            return beside(f.contour, wide, cutter.diameter, self.hand.rules.step_over * cutter.diameter)
        except ValueError as e:
            return self._not_so_wide(f, steps, k, f"{e}; take a cutter {wide:g} mm wide")

    def _not_so_wide(self, f: Feature, steps: Sequence[Operation], k: int, why: str) -> list[Contour]:
        """Say that a line cannot be made as wide as asked; nothing is cut along it."""
        plain = [
            {**s.model_dump(mode="json"), **({"width": None} if j == k else {})} for j, s in enumerate(steps)
        ]
        command = {
            "kind": "set-steps",
            "part": self.hand.part.id,
            "on": FEATURE_ON[f.kind],
            "contour": f.name,
            "steps": plain,
        }
        as_cut = Remedy(label="As wide as the cutter leaves it", command=command)
        where = self.hand.where(f.name)
        self.hand.say(stop("cuts.groove-width", f"{self.hand.label(f.name)}: {why}", where, as_cut))
        return []

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
        wide = min(2 * cutter.radius_at(depth), cutter.diameter)
        lv = levels_in_full(depth, wide, DepthRule(largest, school, self.hand.rules))
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
        a = self.hand.numbers(step, cutter, lv.engaged / len(lv.depths), wide)
        doing = Doing(name, step, k, cutter, a)
        moves = follow_moves(
            lines, lv.depths, entry, ramp, Track(self.hand.setup.machine.retract, a.feed, a.plunge)
        )
        flat = moves
        (moves,) = self.over.follow(name, step, cutter, [flat], a.plunge)
        # a line that follows a relief is held against point by point: it has no one depth
        made = None if moves is flat else CarvedCut
        self.hand.add(doing, moves, lines[0], lv.depths, trace=lines, made=made)
        touched = unary_union(
            [LineString(closed_points(c)).buffer(wide / 2 + 0.01, quad_segs=24) for c in lines]
        )
        self.hand.areas[f"{name} line {k}"] = Area(
            name, depth, touched, touched, tuple(lines), follows=step.follow_relief
        )
        why = [("depth", f"{depth:.2f} mm, {wide:.2f} mm wide at the surface"), ("entry", entry_why)]
        if step.skin:
            why.append(self._fold(name, step, cutter))
        elif step.width and cutter.deeper_is_wider(step.width):
            why.append(("line width", f"as deep as {cutter.name} leaves a line {step.width:g} mm wide"))
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
