"""A machine: table, dead areas, heights, axes and what its controller reads."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from venzo.core.model import Id, Name, NotNegative, Positive, Value

Rect = tuple[float, float, float, float]


class Zone(Value):
    """A vacuum zone of the table: x0, y0, x1, y1 in table coordinates, mm."""

    id: Id
    rect: Rect


class Dialect(Value):
    """What the controller reads, in general words."""

    name: str = "RS-274, metric, tool change by M6"
    inch: bool = False
    arcs: bool = True
    tool_change: bool = True
    """False: no changer, every cutter is a file of its own."""
    ending: Literal["nc", "tap", "ngc", "txt"] = "nc"


class Machine(Value):
    """A router. Table coordinates: origin at the table's lower left as the operator stands, X right, Y away, mm."""

    id: Id
    name: Name
    width: Positive
    height: Positive
    z_travel: Positive = 200.0
    dead_areas: tuple[Rect, ...] = ()
    zones: tuple[Zone, ...] = ()
    clearance: Annotated[float, Field(gt=0, le=500)] = 20.0
    """Rapid height over the top of the stock; clears screws and clamps too."""
    retract: Annotated[float, Field(gt=0, le=500)] = 3.0
    """Height over the top from which the cutter goes down at plunge feed."""
    rapid: Positive = 20_000.0
    acceleration: Annotated[float, Field(gt=0, le=50_000)] = 800.0
    rpm_min: Positive = 6_000.0
    rpm_max: Positive = 24_000.0
    home: Literal["lower left", "lower right", "upper left", "upper right"] = "lower left"
    rate_per_hour: NotNegative = 0.0
    change_seconds: NotNegative = 20.0
    dialect: Dialect = Dialect()

    @model_validator(mode="after")
    def _heights(self) -> Machine:
        if self.clearance < self.retract:
            raise ValueError(f"clearance {self.clearance:g} mm is below the retract height {self.retract:g} mm; clearance >= retract > top of stock")
        return self
