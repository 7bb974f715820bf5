"""A machine: table, dead areas, heights, axes and what its controller reads."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from venzo.core.holding.vacuum import Pump, Spoilboard
from venzo.core.model import Id, Name, NotNegative, Positive, Value
from venzo.core.motion.time import CORNER, Axes
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.grid import Grid, Place
from venzo.core.stock.kerf_table import KerfTable
from venzo.core.tooling.assembly import DustShoe


def _from_lower_left(corners: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """A box by any two opposite corners, as lower left and upper right: typed the other way round it must not
    keep nothing out.
    """
    x0, y0, x1, y1 = corners
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


Rect = Annotated[tuple[float, float, float, float], AfterValidator(_from_lower_left)]


class Zone(Value):
    """A vacuum zone of the table: x0, y0, x1, y1 in table coordinates, mm."""

    id: Id
    rect: Rect


Corner = Literal["lower left", "lower right", "upper left", "upper right"]


class Jig(Value):
    """A corner that work is laid against, on the table, mm."""

    id: Id
    name: Name
    at: Place


class Machine(Value):
    """A router, or with ``head`` a kerf table. Table coordinates: origin at the table's lower left as the
    operator stands, X right, Y away, mm.
    """

    id: Id
    name: Name
    width: Positive
    height: Positive
    z_travel: Positive = 200.0
    dead_areas: tuple[Rect, ...] = ()
    zones: tuple[Zone, ...] = ()
    pump: Pump | None = None
    """The vacuum pump; None: estimated where there are zones."""
    spoilboard: Spoilboard = Spoilboard()
    clearance: Annotated[float, Field(gt=0, le=500)] = 20.0
    """Rapid height over the top of the stock; clears screws and clamps too."""
    retract: Annotated[float, Field(gt=0, le=500)] = 3.0
    """Height over the top from which the cutter goes down at plunge feed."""
    rapid: Positive = 20_000.0
    """Top speed of X, and of any way, mm/min."""
    z_speed: Positive | None = None
    """Top speed of Z, mm/min; None: as X."""
    top_feed: Positive | None = None
    """Fastest cutting feed the controller runs, mm/min; None: the top speed."""
    acceleration: Annotated[float, Field(gt=0, le=50_000)] = 800.0
    y_speed: Annotated[float, Field(ge=1, le=1e6)] | None = None
    """Top speed of Y, mm/min, where it is less than that of X."""
    y_acceleration: Annotated[float, Field(ge=1, le=50_000)] | None = None
    z_acceleration: Annotated[float, Field(ge=1, le=50_000)] | None = None
    """mm/s2; None: as X."""
    jerk: Annotated[float, Field(ge=10, le=1e9)] | None = None
    """mm/s3; None: the controller changes acceleration at once, or it is not known."""
    blocks: Annotated[float, Field(ge=1, le=1e6)] | None = None
    """Program lines a second that the controller takes; None: not known."""
    deviation: Annotated[float, Field(gt=0, le=5)] = CORNER
    """mm by which the controller may round a corner: the more, the faster it goes through."""
    rpm_min: Positive = 6_000.0
    rpm_max: Positive = 24_000.0
    power: Annotated[tuple[tuple[Positive, Positive], ...], Field(max_length=40)] = ()
    """The spindle's curve: (rpm, kW at the cutter), rising rpm; empty: not known."""
    slots: Annotated[int, Field(ge=0, le=200)] = 0
    """Places in the changer; 0: changed by hand."""
    shoe: DustShoe | None = None
    """The dust shoe, where it goes down with the spindle; None: none, or it floats on the work."""
    cooling: tuple[Literal["air", "mist", "flood"], ...] = ()
    home: Corner = "lower left"
    """The corner of the table at which its own coordinates are 0."""
    grid: Grid | None = None
    jigs: Annotated[tuple[Jig, ...], Field(max_length=40)] = ()
    rate_per_hour: NotNegative = 0.0
    change_seconds: NotNegative = 20.0
    stop_seconds: NotNegative = 60.0
    """What a stop for the operator takes."""
    dialect: Dialect = Dialect()
    head: KerfTable | None = None
    """A kerf table's head, slats and costs; None: a router. Nothing asks a kerf table for its spindle."""

    @model_validator(mode="after")
    def _heights(self) -> Machine:
        if self.clearance < self.retract:
            raise ValueError(
                f"clearance {self.clearance:g} mm is below the retract height {self.retract:g} mm; clearance"
                " >= retract > top of stock"
            )
        if self.rpm_min > self.rpm_max:
            raise ValueError(
                f"the slowest spindle speed, {self.rpm_min:g} rpm, is above the fastest, {self.rpm_max:g} rpm"
            )
        if self.head is not None and self.dialect.process != "head":
            raise ValueError(
                f"{self.name} has a head, and {self.dialect.name} switches a spindle: choose a dialect for"
                " kerf tables"
            )
        if self.head is None and self.dialect.process == "head":
            raise ValueError(
                f"{self.name} has a spindle, and {self.dialect.name} switches a head: choose a dialect for"
                " routers, or make it a kerf table"
            )
        if any(a[0] >= b[0] for a, b in pairwise(self.power)):
            raise ValueError("the spindle's power curve must rise in rpm from point to point")
        return self

    @property
    def axes(self) -> Axes:
        """What its times are reckoned with."""
        return Axes(
            self.acceleration,
            self.rapid,
            self.deviation,
            self.z_speed,
            self.y_speed,
            self.y_acceleration,
            self.z_acceleration,
            self.jerk,
            self.blocks,
        )

    @property
    def fastest_feed(self) -> float:
        """Fastest cutting feed, mm/min."""
        return min(self.top_feed or self.rapid, self.rapid)

    def power_at(self, rpm: float) -> float | None:
        """Power at the cutter, kW, between the points of the spindle's curve; below the first it falls with
        the speed (constant torque). None: not known.

        >>> Machine(id="m", name="m", width=1, height=1, power=((6000, 1.0), (18000, 3.0))).power_at(12000)
        2.0
        """
        if not self.power:
            return None
        if rpm <= self.power[0][0]:
            return self.power[0][1] * rpm / self.power[0][0]
        for (r0, p0), (r1, p1) in pairwise(self.power):
            if rpm <= r1:
                return p0 + (p1 - p0) * (rpm - r0) / (r1 - r0)
        return self.power[-1][1]
