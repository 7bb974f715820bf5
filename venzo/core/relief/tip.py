"""The end of a cutter that finishes or roughs a relief: how high it stands over its lowest point, by the
distance from its axis.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import FLAT, Cutter


@dataclass(frozen=True)
class Tip:
    """A flat disc, a round corner about it, then a cone, all turned about the axis. Lengths in mm.

    ``flat``: radius of the disc; ``corner``: radius of the round; ``meets``: distance from the axis at which
    the cone begins (``radius`` where there is none); ``rise``: mm up a mm outwards on the cone.

    >>> ball = Tip.ball(6)
    >>> [round(ball.height(d), 4) for d in (0, 1.5, 3)]
    [0.0, 0.4019, 3.0]
    >>> Tip.tapered(0.8, 3, 6.35).meets < 0.8
    True
    """

    radius: float
    flat: float = 0.0
    corner: float = 0.0
    meets: float = math.inf
    rise: float = 0.0

    def __post_init__(self) -> None:
        if not 0 < self.radius <= 200:
            raise BadInput(f"a cutter of {2 * self.radius:g} mm: give a diameter above 0 and up to 400 mm")
        object.__setattr__(self, "meets", min(self.meets, self.radius))

    @classmethod
    def mill(cls, diameter: float) -> Tip:
        """An end mill with a flat end."""
        return cls(diameter / 2, flat=diameter / 2)

    @classmethod
    def ball(cls, diameter: float) -> Tip:
        """A ball end."""
        return cls(diameter / 2, corner=diameter / 2)

    @classmethod
    def bull(cls, diameter: float, corner: float) -> Tip:
        """A flat end with a round corner."""
        if not 0 < corner <= diameter / 2:
            raise BadInput(
                f"bull:{diameter:g}:{corner:g}: the corner's radius is above 0 and at most half the diameter"
            )
        return cls(diameter / 2, flat=diameter / 2 - corner, corner=corner)

    @classmethod
    def tapered(cls, radius: float, half_angle: float, diameter: float) -> Tip:
        """A ball of ``radius`` that runs out into a cone of ``half_angle`` degrees a side."""
        if not 0 < half_angle < 60:
            raise BadInput(f"a taper of {half_angle:g} degrees a side: give more than 0 and less than 60")
        if not 0 < radius <= diameter / 2:
            raise BadInput(
                f"a tip of radius {radius:g} mm on a cutter of {diameter:g} mm: the ball is above 0 and at"
                " most half the diameter"
            )
        w = math.radians(half_angle)
        return cls(diameter / 2, corner=radius, meets=radius * math.cos(w), rise=1 / math.tan(w))

    @classmethod
    def vee(cls, diameter: float, angle: float, flat: float = 0.0) -> Tip:
        """A V bit of an included ``angle`` in degrees, over a ``flat`` of that diameter."""
        return cls(diameter / 2, flat=flat / 2, meets=flat / 2, rise=1 / math.tan(math.radians(angle / 2)))

    @classmethod
    def of(cls, cutter: Cutter) -> Tip:
        """The tip of a cutter of the library.

        Raises:
            BadInput: of a kind that leaves no relief.
        """
        d = cutter.diameter
        if cutter.kind in FLAT:
            return cls.mill(d)
        if cutter.kind == "ball":
            return cls.ball(d)
        if cutter.kind == "bowl":
            return cls.bull(d, cutter.corner_radius)
        if cutter.kind == "tapered ball":
            return cls.tapered(cutter.tip / 2, (cutter.angle or 10.0) / 2, d)
        if cutter.kind == "v-bit" and not cutter.corner_radius:
            return cls.vee(d, cutter.angle or 90.0, cutter.tip)
        raise BadInput(
            f"{cutter.name} is a {cutter.kind}: a relief is roughed with an end mill and finished with a"
            " ball, a tapered ball or a cutter with round corners"
        )

    @property
    def shape(self) -> tuple[float, float, float, float, float]:
        """What the compiled loops are given: radius, flat, corner, meets, rise."""
        return self.radius, self.flat, self.corner, self.meets, self.rise

    @property
    def across(self) -> float:
        """The diameter that step-overs are a share of: of the ball; of a flat end all of it."""
        return 2 * (self.corner if self.flat == 0 and self.corner > 0 else self.radius)

    def height(self, away: float) -> float:
        """mm over the lowest point at a distance from the axis of at most ``radius``."""
        if away <= self.flat:
            return 0.0
        if away <= self.meets:
            off = away - self.flat
            return self.corner - math.sqrt(max(0.0, self.corner**2 - off**2))
        off = self.meets - self.flat
        begin = self.corner - math.sqrt(max(0.0, self.corner**2 - off**2))
        return begin + self.rise * (away - self.meets)

    def wider(self, by: float) -> Tip:
        """The tip with a skin ``by`` mm thick all round; its lowest point lies ``by`` lower. What that skin
        touches is ``by`` from the tip, measured normal to the surface.

        >>> grown = Tip.mill(6).wider(1)
        >>> grown.radius, grown.flat, grown.corner
        (4.0, 3.0, 1.0)
        """
        if by <= 0:
            return self
        if not self.rise:
            return Tip(self.radius + by, self.flat, self.corner + by)
        w = math.atan(1 / self.rise)
        return Tip(
            self.radius + by * math.cos(w),
            self.flat,
            self.corner + by,
            self.meets + by * math.cos(w),
            self.rise,
        )

    def narrower(self, by: float) -> Tip:
        """The tip with a skin ``by`` mm thick taken off all round; its lowest point lies ``by`` higher. What
        it still meets the whole one goes into by more than that, measured normal to the surface.

        >>> Tip.ball(6).narrower(0.5).radius, Tip.mill(6).narrower(0.5).flat
        (2.5, 2.5)
        """
        if self.radius <= by:
            return self
        corner = max(0.0, self.corner - by)
        if not self.rise:
            radius = self.radius - by
            return Tip(radius, min(self.flat, radius) if self.corner else radius, corner)
        w = math.atan(1 / self.rise)
        meets = max(self.flat, self.meets - by * math.cos(w)) if self.corner else self.meets
        return Tip(max(meets, self.radius - by * math.cos(w)), self.flat, corner, meets, self.rise)

    def step_for(self, cusp: float) -> float:
        """How far apart rows may be for ridges no higher than ``cusp`` mm, measured along the surface, by its
        round alone: on a slope the flat of a tip helps nothing.

        >>> round(Tip.ball(6).step_for(Tip.ball(6).cusp(0.6)), 6)
        0.6

        Raises:
            BadInput: a tip without a round, or ridges as high as its round.
        """
        r = self.corner
        if not 0 < cusp < r:
            raise BadInput(
                f"ridges {cusp:g} mm high: give more than 0 and less than the tip's {r:g} mm round"
            )
        return 2 * math.sqrt(2 * r * cusp - cusp**2)

    def cusp(self, step: float) -> float:
        """Height of the ridges that rows ``step`` mm apart leave on a flat floor, mm.

        >>> round(Tip.ball(6).cusp(0.6), 5)
        0.01504
        """
        half = step / 2
        if half <= self.flat:
            return 0.0
        return self.height(min(half, self.radius))
