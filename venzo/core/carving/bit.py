"""A pointed bit as carving sees it: how deep for which width, and how wide at which depth."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter


@dataclass(frozen=True)
class Bit:
    """A V bit. Lengths in mm; ``angle``: included, as measured; ``tip``: diameter of the flat at its point,
    or ``tip_radius`` of its rounding (one of them 0).
    """

    angle: float
    diameter: float
    tip: float = 0.0
    tip_radius: float = 0.0
    length: float = 1e9
    """Of the cutting edge."""

    def __post_init__(self) -> None:
        if not 1 <= self.angle < 179:
            raise BadInput(
                f"a bit of {self.angle:g} degrees: give the included angle, from 1 to under 179 degrees"
            )
        if not 0 < self.diameter <= 500:
            raise BadInput(
                f"a bit {self.diameter:g} mm in diameter: give a diameter above 0 and up to 500 mm"
            )
        if self.tip < 0 or self.tip_radius < 0 or (self.tip and self.tip_radius):
            raise BadInput("a bit's point is flat or round, not both, and neither measure is negative")
        if max(self.tip, 2 * self.tip_radius * math.cos(self.half)) >= self.diameter:
            raise BadInput(
                f"the bit's point is as wide as the bit, {self.diameter:g} mm; a V bit is narrower at its"
                " point"
            )

    @staticmethod
    def of(cutter: Cutter) -> Bit:
        """The bit of a library cutter.

        Raises:
            BadInput: it is not a V bit.
        """
        if cutter.kind != "v-bit":
            raise BadInput(f"{cutter.name} is a {cutter.kind} cutter; carving needs a V bit")
        return Bit(cutter.angle or 90.0, cutter.diameter, cutter.tip, cutter.corner_radius, cutter.reach)

    @property
    def half(self) -> float:
        """Half the included angle, radians."""
        return math.radians(self.angle) / 2

    @property
    def tan(self) -> float:
        """mm of half width per mm of depth."""
        return math.tan(self.half)

    def depth(self, clearance: Array | float) -> Array:
        """Depth (mm) at which the bit is ``clearance`` mm wide to each side: clearance / tan(half the angle),
        the point's shape allowed for.

        Negative where the clearance is less than the flat: the point does not go in there.

        >>> sharp, blunt = Bit(60, 20), Bit(90, 20, tip=1)
        >>> float(sharp.depth(math.tan(math.radians(30)))), round(float(blunt.depth(2.0)), 9)
        (1.0, 1.5)
        """
        r = np.asarray(clearance, dtype=float)
        if self.tip_radius:
            touch = self.tip_radius * math.cos(self.half)
            ball = self.tip_radius - np.sqrt(np.maximum(self.tip_radius**2 - np.minimum(r, touch) ** 2, 0.0))
            return np.where(
                r <= touch, ball, self.tip_radius * (1 - math.sin(self.half)) + (r - touch) / self.tan
            )
        return (r - self.tip / 2) / self.tan

    def radius(self, depth: Array | float) -> Array:
        """Half width (mm) of the cut at a depth over the point; the inverse of ``depth`` up to the bit's own
        radius.

        >>> round(float(Bit(90, 6).radius(2.0)), 9), float(Bit(90, 6).radius(50.0))
        (2.0, 3.0)
        """
        h = np.maximum(np.asarray(depth, dtype=float), 0.0)
        if self.tip_radius:
            touch = self.tip_radius * (1 - math.sin(self.half))
            ball = np.sqrt(
                np.maximum(self.tip_radius**2 - (self.tip_radius - np.minimum(h, touch)) ** 2, 0.0)
            )
            r = np.where(h <= touch, ball, self.tip_radius * math.cos(self.half) + (h - touch) * self.tan)
        else:
            r = self.tip / 2 + h * self.tan
        return np.minimum(r, self.diameter / 2)

    def cone_radius(self, depth: Array | float) -> Array:
        """Half width between the flanks at a depth over the point, as far up as the bit is wide; the inverse
        of ``cone_depth``.
        """
        return np.clip(self.blunt + np.asarray(depth, dtype=float) * self.tan, 0.0, self.diameter / 2)

    @property
    def blunt(self) -> float:
        """Half width (mm) at which the flanks would meet the level of the point's end."""
        return self.tip / 2 if self.tip else self.tip_radius * (1 - math.sin(self.half)) / math.cos(self.half)

    def cone_depth(self, clearance: Array | float) -> Array:
        """Depth at which the bit's flanks, not its point, are ``clearance`` mm apart to each side; negative
        where that lies above its end.

        What counts where a wall goes on upwards beyond the plane it is reckoned at.
        """
        return (np.asarray(clearance, dtype=float) - self.blunt) / self.tan

    @property
    def deepest(self) -> float:
        """Depth at which it is as wide as its diameter, or as long as its edge, mm."""
        return min(float(self.depth(self.diameter / 2)), self.length)
