"""How strongly does the vacuum hold? The pump against everything that leaks."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from venzo.core.model import Positive, Value


class Pump(Value):
    """A vacuum pump: the deepest vacuum it reaches with nothing leaking (kPa below the air's) and its free flow with nothing to hold it back (m3/h)."""

    pressure: Annotated[float, Field(gt=0, le=101.325)] = 60.0
    flow: Positive = 250.0


class Spoilboard(Value):
    """The board that the air goes through."""

    thickness: Positive = 18.0
    """mm left; screws must not go deeper."""
    leak: Annotated[float, Field(ge=0, le=1000)] = 3.0
    """m3/h through an open m2 for every kPa (common practice for skimmed MDF; faces left on or paint make it far less)."""


ESTIMATED = Pump(pressure=70.0, flow=400.0)
"""A pump nobody has entered: what a router with a zoned table usually comes with (common practice: 60 to 85 kPa, 250 to 600 m3/h)."""


def pressure(pump: Pump, leak: float, open_area: float) -> float:
    """kPa under the sheet, where pump and leak are in balance.

    The pump's curve is taken as straight, Q = Q0 (1 - p / p0); the leak is Q = k A p. So p = p0 / (1 + p0 k A / Q0).

    Args:
        pump: the pump.
        leak: k, m3/h per m2 and kPa.
        open_area: A, live area that nothing covers, and kerfs cut through over it, mm2.

    >>> round(pressure(Pump(pressure=60, flow=180), 3.0, 1_000_000), 3)
    30.0
    """
    return pump.pressure / (1 + pump.pressure * leak * open_area / 1e6 / pump.flow)
