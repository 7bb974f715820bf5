"""Operations as a person states them: what is done to which kind of feature, with which cutter. A union told
apart by ``kind``.

A number that is None follows the house rule. Several operations on one kind of feature are steps, taken in
their order.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from venzo.core.model import Id, NotNegative, Positive, Value
from venzo.core.rules.house import Direction, Entry, Tabs

On = Literal["outlines", "holes", "round holes", "pockets", "grooves", "engravings", "drillings", "reliefs"]
"""Kinds of feature. Round holes are holes too: where no operation is on them, those on holes cut them."""
StepKind = Literal[
    "profile",
    "pocket",
    "groove",
    "drill",
    "bore",
    "chamfer",
    "face",
    "v-carve",
    "relief rough",
    "relief finish",
]
FEATURE_ON: dict[str, On] = {
    "pocket": "pockets",
    "groove": "grooves",
    "engraving": "engravings",
    "drilling": "drillings",
    "relief": "reliefs",
}
Share = Annotated[float, Field(gt=0.02, le=2)]
StepOver = Annotated[float, Field(gt=0.02, lt=1)]


class Step(Value):
    """What every operation has. ``rpm``, ``feed``, ``plunge`` (mm/min) instead of the cutter's;
    ``feed_share`` scales the feed.

    ``z_zero``: where Z 0 lies for this operation, if not as in the setup; it then gets files of its own.
    """

    kind: StepKind
    id: Id
    on: On
    cutter: Id
    rpm: Positive | None = None
    feed: Positive | None = None
    plunge: Positive | None = None
    feed_share: Share = 1.0
    step_down: Positive | None = None
    depth: Positive | None = None
    """mm below the top; None: through, or as the drawing says."""
    z_zero: Literal["top", "bed"] | None = None
    note: Annotated[str, Field(max_length=300)] = ""


class Profile(Step):
    """Follow a contour: outlines outside, holes and pockets inside, or with the cutter's middle on the
    line.
    """

    kind: Literal["profile"] = "profile"
    on: Literal["outlines", "holes", "round holes", "pockets"]
    side: Literal["waste", "on line"] = "waste"
    direction: Direction = "climb"
    overshoot: NotNegative | None = None
    ramp_length: Positive | None = None
    entry: Entry | None = None
    lead: Literal["none", "straight", "arc"] = "none"
    """Lateral entry from the waste; it protects a finished edge and tears in closed grooves (common
    practice).
    """
    lead_length: Positive = 5.0
    corners: Literal["steady", "slow", "round"] = "steady"
    """In inside corners: full feed, slowed by house rule, or rounded, which leaves a little for a later pass
    and spares the cutter.
    """
    side_allowance: NotNegative = 0.0
    """Left on the wall for a later pass, mm."""
    floor_allowance: NotNegative = 0.0
    """Left under the cut, mm: a skin, on a through cut."""
    one_pass: bool = False
    """The whole depth at once, whatever the depth rule says."""
    rest: bool = False
    """Only where the steps before could not reach: notches, corners."""
    tabs: Tabs | None = None
    """None: by house rule on outlines, none on holes (the drop falls free)."""


class Pocket(Step):
    """Clear an area to a depth, around its islands; sides along the part's outline are open."""

    kind: Literal["pocket"] = "pocket"
    on: Literal["pockets", "grooves", "engravings", "drillings", "round holes"] = "pockets"
    pattern: Literal["offset", "raster"] = "offset"
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    """Of the rows of a raster, degrees from the part's X."""
    wall_pass: bool = True
    """Close a raster with a pass along the walls."""
    step_over: StepOver | None = None
    direction: Direction = "climb"
    entry: Entry | None = None
    ramp_length: Positive | None = None
    side_allowance: NotNegative = 0.0
    floor_allowance: NotNegative = 0.0
    rest: bool = False
    """Only what the steps before could not reach."""
    bowl: Id | None = None
    """Leave steps along the wall for this bowl cutter, which follows."""


class Groove(Step):
    """Follow a line with the cutter's middle: grooves, engraving, score lines."""

    kind: Literal["groove"] = "groove"
    on: Literal["grooves", "engravings"] = "grooves"
    width: Positive | None = None
    """Of the line on the face, mm. Wider than a straight cutter: runs side by side; with a V bit, or a ball
    wider than the line, it says how deep, whatever ``depth`` says.
    """
    entry: Entry | None = None
    ramp_length: Positive | None = None
    skin: Positive | None = None
    """Left under a V groove that the sheet is folded along, mm; it says how deep the groove is."""
    fold: Annotated[float, Field(gt=0, lt=180)] = 90.0
    """Degrees the sheet is folded by."""
    follow_relief: bool = False
    """An engraving that lies over a relief is reckoned from its surface, not from the face."""


class Drill(Step):
    """Drill round features to their own size, by pecks."""

    kind: Literal["drill"] = "drill"
    on: Literal["drillings", "round holes"] = "drillings"
    peck: Positive | None = None
    overshoot: NotNegative | None = None
    dwell: Annotated[float, Field(ge=0, le=10)] = 0.0


class Bore(Step):
    """Bore round features larger than the cutter along a helix."""

    kind: Literal["bore"] = "bore"
    on: Literal["drillings", "round holes"] = "round holes"
    pitch: Positive | None = None
    """mm down a turn; None: a quarter of the diameter, no more than the depth rule."""
    direction: Direction = "climb"
    overshoot: NotNegative | None = None


class Chamfer(Step):
    """Break or shape the top edge with a V bit or a roundover cutter."""

    kind: Literal["chamfer"] = "chamfer"
    on: Literal["outlines", "holes", "round holes", "pockets"] = "outlines"
    width: Positive = 1.0
    """Of the chamfer on the face, mm; a roundover cutter makes its own radius."""
    offset: NotNegative | None = None
    """How far the cutter's axis runs from the contour, mm; None: clear of the tip (V) or the point's own
    shift (common practice: about 0.8 mm).
    """
    direction: Direction = "climb"


class Face(Step):
    """Take the whole face of the part down; every side is open."""

    kind: Literal["face"] = "face"
    on: Literal["outlines"] = "outlines"
    depth: Positive = 1.0
    pattern: Literal["offset", "raster"] = "raster"
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    step_over: StepOver | None = None
    direction: Direction = "climb"


class VCarve(Step):
    """Carve closed shapes with a V bit along their middle; ``depth``: of a flat floor, None: as deep as the
    strokes are wide.

    ``clear``: end mill that clears floors; ``below``: reckoned from a plane so far under the surface;
    ``finish``: left for a light last pass where ``step_down`` makes several.
    """

    kind: Literal["v-carve"] = "v-carve"
    on: Literal["engravings", "pockets"] = "engravings"
    clear: Id | None = None
    below: Annotated[float, Field(ge=0, le=50)] = 0.0
    finish: Annotated[float, Field(ge=0, le=5)] = 0.2
    ridge: Annotated[float, Field(ge=0.005, le=1)] = 0.05
    """Height of ridges the bit may leave on floors that it clears itself."""
    follow_relief: bool = False
    """Over a relief it is reckoned from its surface, not from the face."""


class ReliefRough(Step):
    """Rough a relief in levels, an allowance off its surface; ``step_down``: of a level."""

    kind: Literal["relief rough"] = "relief rough"
    on: Literal["reliefs"] = "reliefs"
    allowance: NotNegative = 1.0
    """Left for finishing, normal to the surface, mm (common practice: 0.04 in)."""
    step_over: StepOver = 0.45
    """Share of the cutter's diameter between rows or rings."""
    pattern: Literal["raster", "rings"] = "raster"
    round_last: bool = True
    """On every level once along the boundary when its rows are done (common practice)."""
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0


class ReliefFinish(Step):
    """Finish a relief with a ball, a tapered ball or a cutter with round corners that rolls over it."""

    kind: Literal["relief finish"] = "relief finish"
    on: Literal["reliefs"] = "reliefs"
    step_over: Annotated[float, Field(gt=0.005, lt=1)] = 0.1
    """Share of the tip's diameter between ways, in plan (common practice: 8 to 10 %)."""
    cusp: Annotated[float, Field(ge=0.001, le=5)] | None = None
    """Height of ridges, mm, in place of the step-over: ways are closed up on slopes. None: by step-over."""
    pattern: Literal["raster", "rings", "spiral"] = "raster"
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    """Of rows, degrees from the part's X: along the grain (common practice)."""
    ways: Literal["both ways", "one way"] = "both ways"
    """One way: every row begins at the same side, lifted back in between."""
    over: NotNegative | None = None
    """Only where the steps before left more than so much above the surface, mm; None: all over."""


Operation = Annotated[
    Profile | Pocket | Groove | Drill | Bore | Chamfer | Face | VCarve | ReliefRough | ReliefFinish,
    Field(discriminator="kind"),
]


class RecipeSteps(Value):
    """A named sequence of operations for a kind of feature and a family of material.

    ``why``: what chose it, in a sentence; ``version`` counts up with every change in the library.
    """

    id: Id
    name: Annotated[str, Field(min_length=1, max_length=120)]
    on: On
    family: Literal["wood", "plastic", "aluminium", "steel"] | None = None
    """None: for any material."""
    steps: Annotated[tuple[Operation, ...], Field(min_length=1, max_length=12)]
    version: Annotated[int, Field(ge=1)] = 1
    why: Annotated[str, Field(max_length=300)] = ""
    rules: Annotated[str, Field(max_length=120)] = ""
    """Name of the house rules it was made under."""

    @model_validator(mode="after")
    def _same_feature(self) -> RecipeSteps:
        wrong = next((s for s in self.steps if s.on != self.on), None)
        if wrong is not None:
            raise ValueError(f"recipe {self.name}: step {wrong.id} is on {wrong.on}, the recipe on {self.on}")
        if len({s.id for s in self.steps}) < len(self.steps):
            raise ValueError(f"recipe {self.name}: two steps have the same id")
        return self


def as_fields(step: Step, kind: type[Step], **other: object) -> dict[str, Any]:
    """What a step says, as far as another kind of step can say it too."""
    return {
        **{k: getattr(step, k) for k in kind.model_fields if k != "kind" and k in type(step).model_fields},
        **other,
    }


def differences(step: Step, recipe: RecipeSteps) -> dict[str, tuple[object, object]] | None:
    """Fields in which a step differs from the recipe's step of the same id: field -> (recipe's, step's);
    None: the recipe has no such step.
    """
    own = next((s for s in recipe.steps if s.id == step.id), None)
    if own is None or own.kind != step.kind:
        return None
    a, b = own.model_dump(), step.model_dump()
    return {k: (a[k], b[k]) for k in b if a[k] != b[k]}
