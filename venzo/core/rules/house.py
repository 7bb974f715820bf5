"""House rules of the shop. Every default is common practice and can be changed."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Family, NotNegative, Positive, Value
from venzo.core.parts.layers import COMMON, LayerRule

School = Literal["by material", "one diameter", "half diameter"]


class Tabs(Value):
    """How many tabs, how wide along the cut and how thick above the bed, mm. ``count`` 0: none."""

    count: Annotated[int, Field(ge=0, le=40)] = 4
    width: Annotated[float, Field(gt=0, le=100)] = 6.0
    height: Annotated[float, Field(gt=0, le=100)] = 4.0


class HouseRules(Value):
    """The school a shop follows; a plan keeps the rules it was made under."""

    name: str = "Shop rules"
    step_down: School = "by material"
    step_factor: dict[Family, Positive] = {"wood": 2.0, "plastic": 1.0, "aluminium": 0.5}
    """Depth per pass over cutter diameter, school 'by material' (common practice: 2 D, 1 D, D/2)."""
    accepted_excess: Annotated[float, Field(ge=0, le=0.5)] = 0.05
    """Share of the step-down by which a pass may go deeper so that an overshoot does not force a further pass."""
    overshoot: dict[Family, NotNegative] = {"wood": 0.75, "plastic": 0.25, "aluminium": 0.25}
    """Depth below the sheet of a through cut, mm (common practice: 0.03 in plywood, 0.010 in aluminium and thin sheet)."""
    web: NotNegative = 2.0
    """Material left between the cuts of neighbours, mm; spacing = cutter diameter + web."""
    ramp_length: Positive = 50.0
    tabs: dict[Family, Tabs] = {"wood": Tabs(), "plastic": Tabs(width=5, height=1.5), "aluminium": Tabs(width=4, height=1.0)}
    tab_every: Positive = 700.0
    """Longest stretch of outline without a tab, mm."""
    layers: tuple[LayerRule, ...] = COMMON
    """What the layers of drawings mean, by words in their names."""
    joint_clearance: NotNegative = 0.15
    """mm by which a slot is wider than the measured sheet that goes into it (common practice: a few thousandths of an inch)."""
    least_web: Positive = 3.0
    """Narrowest web between two cuts of a part that is not questioned, mm."""
    spread_limit: Positive = 0.3
    nominal_share: Positive = 0.05

    def largest_step(self, family: Family, diameter: float) -> float:
        """Largest depth per pass, mm, by the shop's school.

        >>> HouseRules().largest_step("wood", 9.525), HouseRules().largest_step("aluminium", 9.525)
        (19.05, 4.7625)
        """
        factor = {"by material": self.step_factor.get(family, 1.0), "one diameter": 1.0, "half diameter": 0.5}[self.step_down]
        return factor * diameter

    def with_layer_rule(self, rule: LayerRule) -> HouseRules:
        """These rules with one more about layers; it goes before the others and takes its words from them."""
        rest = tuple(LayerRule(words=left, role=r.role) for r in self.layers if (left := tuple(w for w in r.words if w not in rule.words)))
        return self.model_copy(update={"layers": (rule, *rest)})

    def passes(self, depth: float, step: float) -> int:
        """Passes for a depth: the excess is accepted over the step.

        >>> HouseRules().passes(19.05, 19.05), HouseRules().passes(20.0, 19.05), HouseRules().passes(20.01, 19.05)
        (1, 1, 2)
        """
        return max(1, math.ceil(depth / (step * (1 + self.accepted_excess)) - 1e-9))
