"""What stands on the table to hold the work, besides vacuum and screws. Lengths mm, sheet coordinates."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Id, Positive, Value

At = Annotated[float, Field(ge=-20_000, le=20_000)]


class _Fixing(Value):
    """A fixing: its middle, size along X and Y, and the height over the top of the stock."""

    id: Id
    x: At
    y: At
    width: Positive = 40.0
    height: Positive = 40.0
    proud: Annotated[float, Field(ge=0, le=300)] = 0.0

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 of its footprint."""
        return (
            self.x - self.width / 2,
            self.y - self.height / 2,
            self.x + self.width / 2,
            self.y + self.height / 2,
        )


class Clamp(_Fixing):
    """A top clamp: presses down where it stands, and stands in the way up to ``proud`` mm."""

    kind: Literal["clamp"] = "clamp"
    proud: Annotated[float, Field(ge=0, le=300)] = 25.0
    force: Positive | None = None


class Cam(_Fixing):
    """A side cam at an edge of the sheet; it pushes towards a stop across, and leaves the whole top free."""

    kind: Literal["cam"] = "cam"
    force: Positive | None = None


class Pin(_Fixing):
    """A location pin: keeps the sheet from sliding, not from lifting."""

    kind: Literal["pin"] = "pin"
    width: Positive = 8.0
    height: Positive = 8.0


class Tape(_Fixing):
    """A patch of double-sided tape under the sheet."""

    kind: Literal["tape"] = "tape"
    width: Positive = 100.0
    height: Positive = 50.0


class Pod(_Fixing):
    """A vacuum pod or pad: holds by its own sealed area; a cutter must not go into it."""

    kind: Literal["pod"] = "pod"
    width: Positive = 120.0
    height: Positive = 120.0
    seal: Annotated[float, Field(ge=0, le=50)] = 6.0
    """Width of the seal round it that does not hold."""


class FixtureBoard(_Fixing):
    """A board of the shop's own over a zone: only where it stands does the zone hold, and what it covers does
    not leak.
    """

    kind: Literal["fixture board"] = "fixture board"
    width: Positive = 400.0
    height: Positive = 300.0
    thickness: Positive = 18.0


class Cover(_Fixing):
    """A strip of plastic or board laid over spoilboard that the sheet leaves open, so that it does not
    leak.
    """

    kind: Literal["cover"] = "cover"
    width: Positive = 600.0
    height: Positive = 400.0


Fixing = Annotated[Clamp | Cam | Pin | Tape | Pod | FixtureBoard | Cover, Field(discriminator="kind")]
