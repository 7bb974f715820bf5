"""What a person decides about kerf cutting: kerf, pierces, leads, feeds, hops and tabs."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.model import NotNegative, Positive, Value

LeadKind = Literal["straight", "arc"]
LeadOut = Literal["none", "short", "overburn"]
Swirl = Literal["right", "left", "none"]
CutUp = Literal["none", "remnant", "skeleton"]
Corners = Literal["through", "slow", "loop"]
KerfOrder = Literal["insides first", "piece by piece", "small parts first", "heat spread"]

Kerf = Annotated[float, Field(gt=0.01, le=20)]
Speed = Annotated[float, Field(gt=0, le=100_000)]


class SmallHoles(Value):
    """What becomes of round and other narrow holes, by their width over the thickness of the sheet.

    A jet or an arc leaves a tapered, blown-out hole where it is not much wider than the sheet is thick; about
    1 to 1.5 times the thickness is the least for an arc (common practice).
    """

    slow_below: Annotated[float, Field(ge=0, le=20)] = 1.5
    """Narrower holes, in thicknesses, are cut at ``slow_to`` of the feed."""
    slow_to: Annotated[float, Field(ge=0.1, le=1)] = 0.6
    drill_below: Annotated[float, Field(ge=0, le=20)] = 1.0
    """Narrower ones are pierced in the middle only, for a drill to follow."""


class KerfTabs(Value):
    """Metal that is left standing in an outline, mm: how many, or one ``every`` so far along it (the more of
    the two), and how wide.
    """

    count: Annotated[int, Field(ge=0, le=40)] = 0
    width: NotNegative = 0.25
    every: NotNegative = 0.0
    """0: by count alone."""

    def along(self, length: float) -> int:
        """Tabs of an outline so long, mm.

        >>> [KerfTabs(count=2, every=e).along(430) for e in (0, 100)], KerfTabs(every=100).along(60)
        ([2, 4], 1)
        """
        by_way = max(1, min(40, round(length / self.every))) if self.every else 0
        return max(self.count, by_way)


def _one_of_two(bridge: float, common_line: bool) -> None:
    if bridge and common_line:
        raise ValueError("bridges keep neighbours together and common lines part them; take one of the two")


class KerfHow(Value):
    """How contours are cut by a kerf. Lengths in mm, feeds in mm/min.

    ``lead``: from the kerf's middle line to the pierce: the length of a straight lead, the distance aside
    that an arc begins at. ``lead_angle``: between a straight lead and the way it runs into, or through which
    an arc turns, degrees.
    """

    kerf: Kerf
    lead: Annotated[float, Field(gt=0, le=200)] = 2.54
    lead_kind: LeadKind = "straight"
    lead_angle: Annotated[float, Field(ge=20, le=180)] = 90.0
    lead_out: LeadOut = "none"
    out_length: Annotated[float, Field(ge=0, le=50)] = 0.0
    """Of a short lead-out, which runs onward into the waste at 45 degrees, or of an overburn along the kerf
    that is open already.
    """
    feed: Speed
    lead_feed: Speed | None = None
    """None: as ``feed``."""
    out_feed: Speed | None = None
    hop: NotNegative = 0.0
    """The longest hop for which the head stays down; 0: it always lifts."""
    hop_feed: Speed | None = None
    tabs: KerfTabs = KerfTabs()
    thickness: Positive | None = None
    """Of the sheet; None: not known, and holes are not judged by it."""
    holes: SmallHoles = SmallHoles()
    common_line: bool = False
    cut_up: CutUp = "none"
    """Beside the parts: the line that parts off a remnant, and lines that cut the skeleton up."""
    cut_up_every: Annotated[float, Field(ge=50, le=5000)] = 400.0
    swirl: Swirl = "right"
    """The good edge is at the right of a right-hand swirl's travel (common practice)."""
    corners: Corners = "through"
    corner_to: Annotated[float, Field(ge=0.1, le=1)] = 0.5
    """Share of the feed through corners that are slowed."""
    loop: NotNegative = 3.0
    """How far a loop runs on past a sharp outside corner."""
    still: Annotated[float, Field(ge=0, le=100)] = 0.0
    """How far from corners, and from where it comes back to its own kerf, the height is not followed; 0: it
    always is, but for small contours.
    """
    pierce: NotNegative = 0.0
    """Seconds that a pierce takes."""
    edge_start: bool = False
    """The sheet is too thick to pierce: every cut begins at its edge."""
    pre_pierce: bool = False
    """All of a sheet is pierced before anything is cut."""
    bridge: NotNegative = 0.0
    """Width of the metal that joins neighbours to a row in one pierce; 0: every part has its own."""
    bridge_reach: NotNegative = 0.0
    """How far apart two parts may lie for a bridge between them."""
    bridge_most: Annotated[int, Field(ge=2, le=60)] = 6

    @model_validator(mode="after")
    def _fits(self) -> KerfHow:
        if (self.tabs.count or self.tabs.every) and self.tabs.width <= 0:
            raise ValueError("tabs need a width above 0 mm")
        _one_of_two(self.bridge, self.common_line)
        if self.lead_kind == "straight" and self.lead_angle > 160:
            raise ValueError(
                f"a straight lead at {self.lead_angle:g} degrees runs back along the cut; give 160 or less"
            )
        return self

    @property
    def into_at(self) -> float:
        """Feed of lead-ins, mm/min."""
        return self.lead_feed or self.feed

    @property
    def out_at(self) -> float:
        """Feed of lead-outs, mm/min."""
        return self.out_feed or self.feed

    @property
    def hop_at(self) -> float:
        """Feed of hops with the head off, mm/min."""
        return self.hop_feed or self.feed

    @property
    def waste_left(self) -> bool:
        """Does the waste lie at the left of travel? At the right for a left-hand swirl."""
        return self.swirl != "left"


class KerfChoices(Value):
    """What a setup on a kerf table decides; the chart of its head says the rest. Lengths in mm.

    ``head``: of the setup's heads; empty: the first. ``level``: edge quality of a jet, 1 parting only to 5
    finest; None: as the house rules have it.
    """

    head: Annotated[str, Field(max_length=80)] = ""
    lead: Annotated[float, Field(gt=0, le=200)] = 2.54
    lead_kind: LeadKind = "straight"
    lead_angle: Annotated[float, Field(ge=20, le=180)] = 90.0
    lead_share: Annotated[float, Field(ge=0.05, le=1)] = 0.33
    """Feed of lead-ins, as a share of the cut's: 50 of 150 in/min is usual (common practice)."""
    lead_out: LeadOut = "none"
    out_length: Annotated[float, Field(ge=0, le=50)] = 1.0
    out_share: Annotated[float, Field(ge=0.05, le=1)] = 1.0
    """Feed of lead-outs, as a share of the cut's."""
    hop: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    hop_feed: Speed | None = None
    tabs: KerfTabs = KerfTabs()
    holes: SmallHoles = SmallHoles()
    common_line: bool = False
    cut_up: CutUp = "none"
    cut_up_every: Annotated[float, Field(ge=50, le=5000)] = 400.0
    corners: Corners = "through"
    corner_to: Annotated[float, Field(ge=0.1, le=1)] = 0.5
    loop: Annotated[float, Field(ge=1, le=50)] = 3.0
    still: Annotated[float, Field(ge=0, le=100)] = 6.0
    level: Annotated[int, Field(ge=1, le=5)] | None = None
    order: KerfOrder = "insides first"
    pre_pierce: bool = False
    """Pierce all of a sheet before anything is cut (common practice in thick plate: what a pierce throws up
    lies there before the cuts come by, and the head is checked between).
    """
    bridge: Annotated[float, Field(ge=0, le=50)] = 0.0
    """Width of the metal that joins neighbours to a row in one pierce; 0: every part has its own."""
    bridge_most: Annotated[int, Field(ge=2, le=60)] = 6
    """Parts in a row, at most."""

    @model_validator(mode="after")
    def _fits(self) -> KerfChoices:
        _one_of_two(self.bridge, self.common_line)
        return self
