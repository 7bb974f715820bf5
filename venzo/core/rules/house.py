"""House rules of the shop. Every default is common practice and can be changed."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.faces.registration import TurnRules
from venzo.core.holding.strength import HoldRules
from venzo.core.model import Family, NotNegative, Positive, Value
from venzo.core.parts.layers import COMMON, LayerRule
from venzo.core.release.file_names import USUAL, Pattern
from venzo.core.yields.costing import CostRules

School = Literal["by material", "one diameter", "half diameter"]
Plunge = Literal["half the feed", "third of the feed", "fixed"]
Entry = Literal["ramp", "zigzag", "helix", "plunge"]
Direction = Literal["climb", "conventional"]
ClosedLine = Literal["on line", "inside", "outside", "clear"]
"""What a closed line on a groove layer means: run with the cutter's middle on it, inside or outside of it, or
clear all it encloses.
"""


class Tabs(Value):
    """How many tabs, how wide along the cut and how thick above the bed, mm. ``count`` 0: none."""

    count: Annotated[int, Field(ge=0, le=40)] = 4
    width: Annotated[float, Field(gt=0, le=100)] = 6.0
    height: Annotated[float, Field(gt=0, le=100)] = 4.0
    every: Annotated[float, Field(gt=5, le=10_000)] | None = None
    """One at least every so many mm; None: by house rule."""
    sloped: bool = False
    """Tops that rise and fall along the cut: easier to clean up, half as strong."""


class HouseRules(Value):
    """The school a shop follows; a plan keeps the rules it was made under."""

    name: str = "Shop rules"
    currency: Annotated[str, Field(max_length=8)] = ""
    """What prices are in, as it is written after a sum; empty: nobody said."""
    file_names: Pattern = USUAL
    """What programs are called, with words in braces."""
    setup_sheets: Literal["step by step", "one page a sheet"] = "step by step"
    """How a setup sheet is printed: with boxes to tick, or all on one page for a shop where one person plans
    and cuts.
    """
    step_down: School = "by material"
    step_factor: dict[Family, Positive] = {"wood": 2.0, "plastic": 1.0, "aluminium": 0.5}
    """Depth per pass over cutter diameter, school 'by material' (common practice: 2 D, 1 D, D/2)."""
    accepted_excess: Annotated[float, Field(ge=0, le=0.5)] = 0.05
    """Share of the step-down by which a pass may go deeper so that an overshoot does not force a further
    pass.
    """
    overshoot: dict[Family, NotNegative] = {"wood": 0.75, "plastic": 0.25, "aluminium": 0.25}
    """Depth below the sheet of a through cut, mm (common practice: 0.03 in plywood, 0.010 in aluminium and
    thin sheet).
    """
    roughing_double: bool = True
    """Roughing cutters go two diameters deep whatever the school (common practice: 2 D and twice the
    feed).
    """
    plunge: Plunge = "half the feed"
    plunge_fixed: Positive = 1500.0
    """mm/min, for the rule 'fixed'."""
    entry: dict[Family, Entry] = {"wood": "ramp", "plastic": "ramp", "aluminium": "ramp", "steel": "ramp"}
    side_allowance: dict[Family, NotNegative] = {"wood": 1.3, "plastic": 0.25, "aluminium": 0.75}
    """Left on walls by roughing for a finishing pass, mm (common practice: 0.05 to 1/16 in in hardwood, 0.010
    in plastic, 0.030 in aluminium).
    """
    rough_direction: dict[Family, Direction] = {
        "wood": "climb",
        "plastic": "climb",
        "aluminium": "conventional",
        "steel": "conventional",
    }
    finish_direction: dict[Family, Direction] = {
        "wood": "climb",
        "plastic": "climb",
        "aluminium": "climb",
        "steel": "climb",
    }
    """Aluminium is roughed conventional, chips thrown clear, and finished climb in one pass (common
    practice).
    """
    step_over: Annotated[float, Field(gt=0.02, lt=1)] = 0.6
    """Pockets: distance between rows over the cutter's diameter (common practice: up to 0.92 for roughing,
    0.1 for a finished floor).
    """
    wall_feed: Annotated[float, Field(gt=0.05, le=1)] = 0.5
    """Share of the feed for the closing pass along a pocket's walls (common practice: half to a tenth where
    end grain tears).
    """
    corner_feed: Annotated[float, Field(gt=0.05, le=1)] = 0.5
    """Share of the feed in corners where an operation slows in them."""
    peck: dict[Family, Positive] = {"wood": 3.0, "plastic": 1.5, "aluminium": 1.0, "steel": 1.0}
    """Depth of a peck over the drill's diameter."""
    bore_upto: Positive = 3.0
    """Round holes of up to so many cutter diameters are bored by helix."""
    undrawn_depth: Annotated[float, Field(gt=0, le=1)] | None = None
    """Share of the thickness for pockets and grooves whose drawing gives no depth; None: ask."""
    closed_grooves: ClosedLine | None = None
    """What closed lines on groove layers mean; None: ask, unless the line is as long and narrow as a groove
    itself.
    """
    engraving_depth: Positive = 0.5
    carve_step: dict[Family, Positive] = {"wood": 6.0, "plastic": 2.0, "aluminium": 0.4, "steel": 0.2}
    """Deepest pass of a V bit, mm; deeper carvings take several and a light last one (common practice: wood
    nearly always in one).
    """
    deflection_limit: Positive = 0.05
    """Bend of the cutter's tip that is not questioned, mm."""
    web: NotNegative = 2.0
    """mm between a piece and its neighbour's cut; spacing = cutter diameter + web, or two diameters + web
    where a skeleton is kept.
    """
    between: Literal["one kerf", "skeleton"] = "one kerf"
    """One kerf between neighbours saves material and suits vacuum; a skeleton between them is what tabs hold
    on to (both common practice).
    """
    jet_level: Annotated[int, Field(ge=1, le=5)] = 3
    """Edge quality that a jet starts from, 1 parting only to 5 finest, where a job does not say."""
    ramp_length: Positive = 50.0
    tabs: dict[Family, Tabs] = {
        "wood": Tabs(),
        "plastic": Tabs(width=5, height=1.5),
        "aluminium": Tabs(width=4, height=1.0),
    }
    tab_every: Positive = 700.0
    """Longest stretch of outline without a tab, mm."""
    hold: HoldRules = HoldRules()
    """What friction, screws and tabs bear."""
    costs: CostRules = CostRules()
    """What work costs, and which remnants are kept."""
    turning: TurnRules = TurnRules()
    """What it goes by where stock is cut from both faces."""
    layers: tuple[LayerRule, ...] = COMMON
    """What the layers of drawings mean, by words in their names."""
    joint_clearance: NotNegative = 0.15
    """mm by which a slot is wider than the measured sheet that goes into it (common practice: a few
    thousandths of an inch).
    """
    least_web: Positive = 3.0
    """Narrowest web between two cuts of a part that is not questioned, mm."""
    spread_limit: Positive = 0.3
    nominal_share: Positive = 0.05

    def largest_step(self, family: Family, diameter: float, kind: str = "") -> float:
        """Largest depth per pass, mm, by the shop's school.

        >>> rules, halves = HouseRules(), HouseRules(step_down="half diameter")
        >>> rules.largest_step("wood", 9.525), rules.largest_step("aluminium", 9.525)
        (19.05, 4.7625)
        >>> halves.largest_step("aluminium", 12, "roughing")
        24.0
        """
        return self._factor(family, kind) * diameter

    def _factor(self, family: Family, kind: str) -> float:
        if kind == "roughing" and self.roughing_double:
            return 2.0
        return {
            "by material": self.step_factor.get(family, 0.25 if family == "steel" else 1.0),
            "one diameter": 1.0,
            "half diameter": 0.5,
        }[self.step_down]

    def step_reason(self, family: Family, kind: str = "") -> str:
        """The school in words, with its reason."""
        if kind == "roughing" and self.roughing_double:
            return "roughing cutters take 2 diameters a pass: their serrated edge breaks the chip"
        if self.step_down == "by material":
            return f"{self._factor(family, kind):g} x diameter in {family}: the softer the deeper"
        return {
            "one diameter": "never more than one diameter a pass: the cutter stays stiff",
            "half diameter": "half a diameter a pass: cautious, quiet, for weak machines and first trials",
        }[self.step_down]

    def plunge_feed(self, feed: float) -> float:
        """Plunge by the shop's rule, mm/min."""
        return {
            "half the feed": feed / 2,
            "third of the feed": feed / 3,
            "fixed": min(self.plunge_fixed, feed),
        }[self.plunge]

    def with_layer_rule(self, rule: LayerRule) -> HouseRules:
        """These rules with one more about layers; it goes before the others and takes its words from them."""
        rest = tuple(
            LayerRule(words=left, role=r.role)
            for r in self.layers
            if (left := tuple(w for w in r.words if w not in rule.words))
        )
        return self.model_copy(update={"layers": (rule, *rest)})

    def passes(self, depth: float, step: float) -> int:
        """Passes for a depth: the excess is accepted over the step.

        >>> rules = HouseRules()
        >>> [rules.passes(depth, 19.05) for depth in (19.05, 20.0, 20.01)]
        [1, 1, 2]
        """
        return max(1, math.ceil(depth / (step * (1 + self.accepted_excess)) - 1e-9))
