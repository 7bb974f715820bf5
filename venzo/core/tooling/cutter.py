"""A cutter of the shop library."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.model import Family, Id, Name, NotNegative, Positive, Value
from venzo.core.tolerances import FIT

Kind = Literal[
    "straight",
    "up-cut",
    "down-cut",
    "compression",
    "roughing",
    "single-flute",
    "diamond-tipped",
    "ball",
    "tapered ball",
    "v-bit",
    "bowl",
    "roundover",
    "point roundover",
    "surfacing",
    "drill",
]
FLAT: tuple[Kind, ...] = (
    "straight",
    "up-cut",
    "down-cut",
    "compression",
    "roughing",
    "single-flute",
    "diamond-tipped",
    "surfacing",
)
"""Kinds that leave an upright wall and a flat floor."""


class Feeds(Value):
    """Spindle speed (rpm), feed and plunge (mm/min) for one family of material, and where the numbers come
    from.
    """

    rpm: Annotated[float, Field(gt=0, le=60_000)]
    feed: Annotated[float, Field(gt=0, le=60_000)]
    plunge: Annotated[float, Field(gt=0, le=60_000)]
    source: str = "common practice"


class Holder(Value):
    """What grips a cutter: collet chuck or nut; lengths in mm. ``nose``: the diameter that must clear clamps
    and walls; ``length``: from the spindle's face to the nose's end.
    """

    id: Id
    name: Name
    nose: Positive = 40.0
    length: Positive = 60.0
    collets: Annotated[tuple[Positive, ...], Field(max_length=40)] = ()
    """Bores of the collets on hand; a collet is filled fully or it does not grip (common practice)."""


class Cutter(Value):
    """One cutter, one entry. Lengths in mm.

    ``tip``: diameter at the very tip (flat of a V bit, point of a roundover; twice the ball's radius of a
    tapered ball). ``corner_radius``: of a bowl cutter's corner, a roundover's hollow, or the rounded point of
    a V bit. ``angle``: included angle of a V bit or drill, or of a tapered ball's cone, degrees.
    """

    id: Id
    number: Annotated[int, Field(ge=1, le=999)]
    name: Name
    kind: Kind
    diameter: Annotated[float, Field(gt=0.1, le=200)]
    flutes: Annotated[int, Field(ge=1, le=12)] = 2
    cutting_length: Positive
    shank: Positive = 6.0
    tip: NotNegative = 0.0
    corner_radius: NotNegative = 0.0
    angle: Annotated[float, Field(gt=0, lt=180)] | None = None
    up_cut: NotNegative = 0.0
    """Length of the up-cut end of a compression cutter; 0: taken as its diameter."""
    centre_cutting: bool = True
    """False: it must not plunge straight down."""
    max_depth: Positive | None = None
    """Deepest the shop lets it go, below the cutting length."""
    stick_out: Positive | None = None
    """From the collet to the tip; None: cutting length plus half a diameter of shank."""
    holder: Id | None = None
    feeds: dict[Family, Feeds] = {}
    metres: NotNegative = 0.0
    """Metres cut since it was new or sharpened."""
    life: Positive | None = None
    """Metres after which the shop changes it."""
    price: NotNegative | None = None
    """What a new edge costs, by buying or sharpening, in the shop's currency; None: nobody has said."""
    note: Annotated[str, Field(max_length=500)] = ""

    @model_validator(mode="after")
    def _sound(self) -> Cutter:
        if self.kind in ("v-bit", "drill", "tapered ball") and self.angle is None:
            object.__setattr__(self, "angle", {"v-bit": 90.0, "drill": 118.0}.get(self.kind, 10.0))
        if self.kind in ("bowl", "roundover", "point roundover") and not self.corner_radius:
            raise ValueError(f"{self.name}: a {self.kind} cutter needs its corner radius")
        if self.kind == "bowl" and self.corner_radius > self.radius + 1e-9:
            raise ValueError(
                f"{self.name}: corner radius {self.corner_radius:g} mm is more than half the diameter"
                f" {self.diameter:g} mm"
            )
        if (
            self.kind in ("roundover", "point roundover")
            and self.tip / 2 + self.corner_radius > self.radius + 1e-9
        ):
            raise ValueError(
                f"{self.name}: point {self.tip:g} mm and radius {self.corner_radius:g} mm do not fit in"
                f" {self.diameter:g} mm"
            )
        if self.tip > self.diameter:
            raise ValueError(
                f"{self.name}: the tip, {self.tip:g} mm, is wider than the cutter, {self.diameter:g} mm"
            )
        return self

    @property
    def radius(self) -> float:
        """Half the diameter, mm."""
        return self.diameter / 2

    @property
    def reach(self) -> float:
        """Deepest it can cut, mm."""
        return min(self.cutting_length, self.max_depth) if self.max_depth else self.cutting_length

    @property
    def overhang(self) -> float:
        """Stick-out that deflection is reckoned with, mm."""
        return self.stick_out or self.cutting_length + self.diameter / 2

    @property
    def up_cut_length(self) -> float:
        """Length of the up-cut end that must be below the top face, mm (compression cutters; common practice
        where not given: one diameter).
        """
        return self.up_cut or self.diameter

    def chip_load(self, family: Family) -> NotNegative:
        """Feed per tooth, mm: feed / (rpm x flutes).

        >>> c = Cutter(id="a", number=1, name="a", kind="up-cut", diameter=9.525, cutting_length=25,
        ...            feeds={"wood": Feeds(rpm=16000, feed=600 * 25.4, plunge=1000)})
        >>> round(c.chip_load("wood") / 25.4, 5)
        0.01875
        """
        f = self.feeds[family]
        return f.feed / (f.rpm * self.flutes)

    def radius_at(self, height: float) -> float:
        """Radius (mm) of the cut at a height over the tip.

        >>> v = Cutter(id="v", number=1, name="v", kind="v-bit", diameter=12, cutting_length=10, angle=60)
        >>> round(v.radius_at(3.0), 3), v.radius_at(30.0)
        (1.732, 6.0)
        """
        h, full, tip = max(0.0, height), self.radius, self.tip / 2
        if self.kind == "ball":
            return math.sqrt(max(0.0, full**2 - (full - h) ** 2)) if h < full else full
        if self.kind == "bowl":
            c = self.corner_radius
            return full - c + math.sqrt(max(0.0, c * c - (c - h) ** 2)) if h < c else full
        if self.kind == "v-bit" and self.corner_radius:
            half, ball = math.radians(self.angle or 90) / 2, self.corner_radius
            if h < (touch := ball * (1 - math.sin(half))):
                return math.sqrt(max(0.0, ball**2 - (ball - h) ** 2))
            return min(full, ball * math.cos(half) + (h - touch) * math.tan(half))
        if self.kind in ("v-bit", "drill"):
            return min(full, tip + h * math.tan(math.radians(self.angle or 90) / 2))
        if self.kind == "tapered ball":
            half = math.radians(self.angle or 10) / 2
            touch = tip * (1 - math.sin(half))  # height at which ball and cone meet
            if h < touch:
                return math.sqrt(max(0.0, tip**2 - (tip - h) ** 2))
            return min(full, tip * math.cos(half) + (h - touch) * math.tan(half))
        if self.kind in ("roundover", "point roundover"):
            c = self.corner_radius
            return tip + c - math.sqrt(max(0.0, c * c - h * h)) if h < c else full
        return full

    def height_at(self, radius: float) -> float:
        """Least height (mm) over the tip at which the cutter is ``radius`` wide; the inverse of
        ``radius_at``.
        """
        if radius <= self.radius_at(0.0):
            return 0.0
        low, high = 0.0, max(self.cutting_length, 2 * self.diameter) * 4
        for _ in range(60):
            mid = (low + high) / 2
            low, high = (mid, high) if self.radius_at(mid) < radius - 1e-12 else (low, mid)
        return high

    def deeper_is_wider(self, width: float) -> bool:
        """Does it leave a line of this width (mm) by how deep it goes? A V bit always does, a ball up to its
        own width.
        """
        if self.kind == "v-bit":
            return True
        return self.kind in ("ball", "tapered ball") and width < self.diameter - FIT

    def silhouette(self, steps: int = 24) -> list[tuple[float, float]]:
        """Right half of the cutter from tip to the end of its shank as (radius, height), mm: what the library
        draws.
        """
        curved = {
            "ball": self.radius,
            "bowl": self.corner_radius,
            "roundover": self.corner_radius,
            "point roundover": self.corner_radius,
        }.get(self.kind)
        if curved is None:
            curved = self.height_at(self.radius) if self.kind not in FLAT else 0.0
        curved = min(curved, self.cutting_length)
        out = (
            [
                (0.0, 0.0),
                *((self.radius_at(curved * k / steps), curved * k / steps) for k in range(steps + 1)),
            ]
            if curved
            else [(0.0, 0.0), (self.radius, 0.0)]
        )
        out += [(self.radius_at(self.cutting_length), self.cutting_length)]
        neck = self.cutting_length + abs(self.shank / 2 - out[-1][0]) * 0.4
        return [*out, (self.shank / 2, neck), (self.shank / 2, max(neck, self.overhang) + 8.0)]


def same_cutter(a: Cutter, b: Cutter) -> bool:
    """Are two entries one cutter? Same kind, flutes and measures within 0.05 mm, whatever they are called or
    numbered.
    """
    near = all(
        abs(x - y) < 0.05
        for x, y in (
            (a.diameter, b.diameter),
            (a.cutting_length, b.cutting_length),
            (a.tip, b.tip),
            (a.corner_radius, b.corner_radius),
            (a.angle or 0, b.angle or 0),
        )
    )
    return near and a.kind == b.kind and a.flutes == b.flutes
