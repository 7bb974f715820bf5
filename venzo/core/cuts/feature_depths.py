"""How deep a pocket, groove, engraving or drilling is; what is said where nobody said or little stays."""

from __future__ import annotations

from collections.abc import Sequence

from venzo.core.cuts.in_hand import (
    PartInHand,
)
from venzo.core.cuts.operations import (
    FEATURE_ON,
    Groove,
    Operation,
    VCarve,
)
from venzo.core.parts.shape import Feature
from venzo.core.snags import Remedy, look, stop
from venzo.core.tooling.cutter import Cutter

LEAST_FLOOR, THIN_FLOOR = 0.3, 0.05
"""mm, and share of the sheet's thickness, that must stay under a pocket or groove without a word."""


class FeatureDepths:
    """Depths of the features of a part in hand."""

    def __init__(self, hand: PartInHand) -> None:
        self.hand = hand

    def of(self, f: Feature) -> float | None:
        """Depth of a feature in mm; None: neither its steps nor the drawing nor a house rule says it."""
        steps, _own = self.hand.steps_of(f.name, FEATURE_ON[f.kind])
        given = next((s.depth for s in steps if s.depth and not isinstance(s, VCarve)), None)
        if given:
            return given
        if f.depth:
            return f.depth
        if f.kind == "engraving":
            return self.hand.rules.engraving_depth
        return self.hand.rules.undrawn_depth * self.hand.thickness if self.hand.rules.undrawn_depth else None

    def of_groove(self, f: Feature, step: Groove, cutter: Cutter | None) -> float | None:
        """Depth of one step along a line in mm: what a fold's skin leaves, what a line as wide as asked
        takes with a cutter that is wider the deeper it goes, or the feature's own; None: nobody says it.
        """
        if step.skin:
            return max(0.01, self.hand.thickness - step.skin)
        if step.width and cutter and cutter.deeper_is_wider(step.width):
            return cutter.height_at(step.width / 2)
        return step.depth or self.of(f)

    def missing(self, f: Feature, steps: Sequence[Operation]) -> None:
        label = self.hand.label(f.name)
        half = round(self.hand.thickness / 2, 2)
        remedies = [
            Remedy(
                label=f"{d:g} mm deep",
                command={
                    "kind": "set-steps",
                    "part": self.hand.part.id,
                    "on": FEATURE_ON[f.kind],
                    "contour": f.name,
                    "steps": [{**s.model_dump(mode="json"), "depth": d} for s in steps],
                },
            )
            for d in (half, 6.0)
            if d < self.hand.thickness
        ]
        self.hand.say(
            stop(
                "cuts.no-depth",
                f"{label}: neither the drawing nor its operation says how deep; half the sheet is"
                f" {half:g} mm",
                self.hand.where(f.name),
                *remedies,
            )
        )
        self.hand.left_out.append(f"{label}: no depth given")

    def floor_left(self, name: str, depth: float) -> None:
        """Say where a pocket or groove goes through the sheet, or nearly."""
        left = self.hand.thickness - depth
        label, where = self.hand.label(name), self.hand.where(name)
        if left <= 1e-6:
            words = (
                f"{label}: {depth:g} mm deep goes through the {self.hand.thickness:.2f} mm sheet, and what it"
                " cuts off is not held"
            )
            self.hand.say(
                stop(
                    "cuts.deep-pocket",
                    f"{words}; draw it as a hole and profile it, or give it less depth",
                    where,
                    *self._shallower(name),
                )
            )
        elif left < max(LEAST_FLOOR, THIN_FLOOR * self.hand.thickness):
            words = (
                f"{label}: only {left:.2f} mm stay under its {depth:g} mm in a sheet of"
                f" {self.hand.thickness:.2f} mm: it breaks through where the sheet is thin or the board not"
                " flat"
            )
            self.hand.say(
                look(
                    "cuts.thin-floor",
                    f"{words}; give it less depth, or profile it through",
                    where,
                    *self._shallower(name),
                )
            )

    def _shallower(self, name: str) -> tuple[Remedy, ...]:
        """A feature's own steps with as much left under them as a floor needs."""
        feature = next((f for f in self.hand.shape.features if f.name == name), None)
        if feature is None:
            return ()
        on = FEATURE_ON[feature.kind]
        depth = round(self.hand.thickness - max(LEAST_FLOOR, THIN_FLOOR * self.hand.thickness) - 0.01, 2)
        steps = [{**s.model_dump(mode="json"), "depth": depth} for s in self.hand.steps_of(name, on)[0]]
        command = {"kind": "set-steps", "part": self.hand.part.id, "on": on, "contour": name, "steps": steps}
        return (Remedy(label=f"{depth:g} mm deep", command=command),) if depth > 0.1 and steps else ()
