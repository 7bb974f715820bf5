"""A board to be surfaced and how: what a person decides."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.model import Id, Name, NotNegative, Positive, Value
from venzo.core.stock.machine import Rect

Pattern = Literal["rows", "rows+perimeter", "spiral"]
Ways = Literal["both ways", "climb", "conventional"]
Held = Literal["screws", "clamps", "side cams", "vacuum pods", "tape"]
Touch = Literal["high spot", "middle", "lower left corner", "table"]


MOST_PASSES = 200
"""Over one face."""


class Reading(Value):
    """A height read at a point of the board, mm; x, y from its lower left corner, z up from where Z was set
    to 0.
    """

    x: Annotated[float, Field(ge=-100_000, le=100_000)]
    y: Annotated[float, Field(ge=-100_000, le=100_000)]
    z: Annotated[float, Field(ge=-1000, le=1000)]


class KeepOut(Value):
    """A clamp, a cam at the side, a stop, a pod under the board or an insert: its box (mm, board
    coordinates), how high it stands over Z 0 (negative: under it), and the room that cutter and holder leave
    beside and over it.

    Four numbers in place of the whole entry are its box.

    >>> KeepOut.model_validate([0, 0, 40, 60]).height
    25.0
    >>> cam = KeepOut(what="cam", x0=-40, y0=0, x1=0, y1=60, height=-6, margin=3)
    >>> cam.bars(2.5), cam.bars(3.5)
    (False, True)
    """

    what: Literal["clamp", "cam", "stop", "pod", "insert"] = "clamp"

    x0: Annotated[float, Field(ge=-100_000, le=100_000)]
    y0: Annotated[float, Field(ge=-100_000, le=100_000)]
    x1: Annotated[float, Field(ge=-100_000, le=100_000)]
    y1: Annotated[float, Field(ge=-100_000, le=100_000)]
    height: Annotated[float, Field(ge=-500, le=300)] = 25.0
    margin: Annotated[float, Field(ge=0, le=200)] = 3.0

    @model_validator(mode="before")
    @classmethod
    def _numbers(cls, given: object) -> object:
        if isinstance(given, list | tuple) and 4 <= len(given) <= 6:
            return dict(zip(("x0", "y0", "x1", "y1", "height", "margin"), given, strict=False))
        return given

    @model_validator(mode="after")
    def _sound(self) -> KeepOut:
        if self.x0 >= self.x1 or self.y0 >= self.y1:
            raise ValueError(
                f"a place to keep out of from {self.x0:g}, {self.y0:g} to {self.x1:g}, {self.y1:g} has no"
                " size; give its lower left corner first"
            )
        return self

    @property
    def box(self) -> Rect:
        """x0, y0, x1, y1."""
        return self.x0, self.y0, self.x1, self.y1

    @property
    def over(self) -> float:
        """Height at which a tip passes over it, mm."""
        return self.height + self.margin

    def bars(self, depth: float) -> bool:
        """Is it in the way of a tip ``depth`` mm below Z 0?"""
        return self.over > -depth + 1e-9


class Board(Value):
    """A spoilboard or a board on the table. mm; ``x``, ``y``: its lower left corner in table coordinates.
    ``thickness``: as it was when it was put down.

    ``least``: below that it is replaced. ``screw_head``: depth of the highest screw head under the top as it
    was; None: no screws. ``due_metres``: through-cuts after which its top is due; ``due_depth``: depth of
    scores after which it is due.
    """

    id: Id
    name: Name
    kind: Literal["spoilboard", "board"] = "spoilboard"
    machine: Id | None = None
    x: Annotated[float, Field(ge=-100_000, le=100_000)] = 0.0
    y: Annotated[float, Field(ge=-100_000, le=100_000)] = 0.0
    width: Annotated[float, Field(gt=5, le=20_000)]
    height: Annotated[float, Field(gt=5, le=20_000)]
    thickness: Annotated[float, Field(gt=0.5, le=500)] = 18.0
    least: NotNegative = 9.0
    screw_head: Positive | None = None
    grain: Literal["x", "y"] | None = None
    due_metres: Positive = 400.0
    due_depth: Positive = 1.0
    held: Held | None = None
    """By what it is held; None: nobody said."""
    dead: Annotated[tuple[KeepOut, ...], Field(max_length=40)] = ()
    """Places that the cutter must not enter, and must be lifted over: clamps, stops, inserts."""


class Surfacing(Value):
    """How a face is cut. ``cutter``: diameter, mm; ``step_over``: share of the diameter; ``depth`` of each of
    ``passes``, mm; ``overrun``: how far the cutter's edge runs beyond the work on every side at least.
    ``finish_step_over``, ``finish_depth``: of one more, last pass; depth 0: none.

    ``start``: depth already taken off since Z was set to 0. ``touch``: where Z 0 is taken; on the table, it
    lies as far under the top as the board is thick.
    """

    cutter: Annotated[float, Field(gt=0.5, le=200)] = 50.8
    cutter_name: Annotated[str, Field(max_length=120)] = "surfacing cutter"
    number: Annotated[int, Field(ge=1, le=999)] = 1
    cutter_id: Id | None = None
    """The shop library's cutter that it is; None: none of them."""
    step_over: Annotated[float, Field(gt=0.01, le=0.95)] = 0.4
    depth: Annotated[float, Field(gt=0, le=50)] = 0.8
    passes: Annotated[int, Field(ge=1, le=MOST_PASSES)] = 1
    finish_step_over: Annotated[float, Field(gt=0.01, le=0.95)] = 0.15
    finish_depth: Annotated[float, Field(ge=0, le=10)] = 0.0
    pattern: Pattern = "rows"
    ways: Ways = "both ways"
    along: Literal["x", "y", "longer", "grain"] = "longer"
    inwards: bool = True
    """A spiral runs from the outside in; False: from the middle out."""
    overrun: NotNegative = 12.7
    start: Annotated[float, Field(ge=0, le=500)] = 0.0
    only_touched: bool = False
    """Where readings tell that a pass would cut air, it does not go."""
    feed: Annotated[float, Field(gt=0, le=60_000)] = 6000.0
    plunge: Annotated[float, Field(gt=0, le=60_000)] = 1500.0
    rpm: Annotated[float, Field(gt=0, le=60_000)] = 12_000.0
    ramp: Annotated[float, Field(gt=0, le=60_000)] | None = None
    """Feed along ramps, mm/min; None: half the feed, no less than the plunge."""
    touch: Touch = "high spot"
    tram: Annotated[float, Field(ge=-5, le=5)] = 0.0
    """Tilt of the spindle across the rows, degrees, if it is known: for the ridges to expect."""

    @model_validator(mode="after")
    def _sound(self) -> Surfacing:
        if self.pattern == "spiral" and self.ways != "both ways" and not self.inwards:
            raise ValueError(
                "a spiral outwards starts in the middle of the work; let it run both ways or inwards"
            )
        return self

    @property
    def total(self) -> float:
        """Taken off by all passes, mm."""
        return self.depth * self.passes + self.finish_depth

    @property
    def ramp_feed(self) -> float:
        """mm/min along ramps, whose slope keeps it far below straight plunging."""
        return self.ramp or max(self.plunge, self.feed / 2)

    def levels(self) -> list[tuple[float, float]]:
        """(depth from Z 0 in mm, step-over share) of every pass.

        >>> Surfacing(depth=1, passes=2, finish_depth=0.2, start=0.5).levels()
        [(1.5, 0.4), (2.5, 0.4), (2.7, 0.15)]
        """
        out = [(self.start + self.depth * (k + 1), self.step_over) for k in range(self.passes)]
        if self.finish_depth:
            out.append((self.start + self.total, self.finish_step_over))
        return [(round(d, 9), s) for d, s in out]


class SecondFace(Value):
    """The other face of a board, cut after it is turned over and lies on the flat one.

    ``how``: its passes are made of its depth a pass, as many as the thickness wanted asks; ``stands``: how
    far the highest place of this face stands over the thickness, mm. ``turn``: the line it is turned about.
    """

    how: Surfacing = Surfacing(touch="table")
    turn: Literal["x", "y"] = "x"
    stands: Annotated[float, Field(ge=0, le=100)] = 0.0
    held: Held | None = None
    dead: Annotated[tuple[KeepOut, ...], Field(max_length=40)] = ()


class SurfaceSetup(Value):
    """A board to surface, as a job decides it: the board, how it is cut, what was read of it, and what the
    programmer wants to see.
    """

    id: Id
    board: Board
    how: Surfacing = Surfacing()
    readings: Annotated[tuple[Reading, ...], Field(max_length=2000)] = ()
    simulated: bool = False
    """The readings are the simulated probe's, not this board's."""
    tilt_across: Annotated[float, Field(ge=-5, le=5)] = 0.05
    tilt_along: Annotated[float, Field(ge=-5, le=5)] = 0.0
    """Of the spindle, degrees, for the ridges to expect."""
    ridge_limit: Annotated[float, Field(gt=0, le=2)] = 0.02
    """mm; ridges that are not felt (common practice: a few hundredths)."""
    pitch: Annotated[float, Field(ge=30, le=1000)] = 200.0
    """Of the numbered grid, mm."""
    square: Annotated[int, Field(ge=1, le=2000)] | None = None
    """Number of the grid's square at whose corner it lies, for programs with several boards."""
    wanted: Annotated[float, Field(gt=0, le=500)] | None = None
    """Thickness a board should have after both faces."""
    second: SecondFace | None = None
    """The other face of a board; None: only one is cut."""
    overlap: Annotated[float, Field(gt=0, le=1000)] = 60.0
    """Of shifts, where it is longer than the table."""
    away: bool = False
    """Taken off the bench; its job and its ledger stay."""
