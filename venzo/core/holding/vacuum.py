"""How strongly does the vacuum hold? The pump against everything that leaks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from venzo.core.model import Positive, Value


class Pump(Value):
    """A vacuum pump: the deepest vacuum it reaches with nothing leaking (kPa below the air's) and its free
    flow with nothing to hold it back (m3/h).
    """

    pressure: Annotated[float, Field(gt=0, le=101.325)] = 60.0
    flow: Positive = 250.0


class Spoilboard(Value):
    """The board that the air goes through."""

    thickness: Positive = 18.0
    """mm left; screws must not go deeper."""
    leak: Annotated[float, Field(ge=0, le=1000)] = 3.0
    """m3/h through an open m2 for every kPa (common practice for skimmed MDF; faces left on or paint make it
    far less).
    """


COVERED = 0.25
"""A live zone that the work covers less than this leaks more than it holds."""


def zones_under(
    zones: Sequence[tuple[str, tuple[float, float, float, float]]], sheet: tuple[float, float, float, float]
) -> tuple[str, ...]:
    """Ids of the zones (id, x0 y0 x1 y1) that a sheet (x0 y0 x1 y1) covers well enough to switch on; the best
    covered where none is.

    >>> zones = [("a", (0, 0, 100, 100)), ("b", (100, 0, 200, 100)), ("c", (200, 0, 300, 100))]
    >>> zones_under(zones, (10, 10, 190, 90))
    ('a', 'b')
    """

    def share(r: tuple[float, float, float, float]) -> float:
        w, h = min(r[2], sheet[2]) - max(r[0], sheet[0]), min(r[3], sheet[3]) - max(r[1], sheet[1])
        return max(0.0, w) * max(0.0, h) / max((r[2] - r[0]) * (r[3] - r[1]), 1e-9)

    shares = {z: share(r) for z, r in zones}
    best = max(shares.values(), default=0.0)
    return tuple(z for z, s in shares.items() if s >= COVERED or (best < COVERED and s == best and s > 0))


ESTIMATED = Pump(pressure=70.0, flow=400.0)
"""A pump nobody has entered: what a router with a zoned table usually comes with (common practice: 60 to 85
kPa, 250 to 600 m3/h).
"""


def pressure(pump: Pump, leak: float, open_area: float) -> float:
    """kPa under the sheet, where pump and leak are in balance.

    The pump's curve is taken as straight, Q = Q0 (1 - p / p0); the leak is Q = k A p. So p = p0 / (1 + p0 k A
    / Q0).

    Args:
        pump: the pump.
        leak: k, m3/h per m2 and kPa.
        open_area: A, live area that nothing covers, and kerfs cut through over it, mm2.

    >>> round(pressure(Pump(pressure=60, flow=180), 3.0, 1_000_000), 3)
    30.0
    """
    return pump.pressure / (1 + pump.pressure * leak * open_area / 1e6 / pump.flow)
