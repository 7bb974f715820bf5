"""Measure and correct: a coupon of known sizes, and the kerf that its measured sizes tell."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.kerf.how import Kerf
from venzo.core.model import Positive, Value
from venzo.core.snags import BadInput

OUTSIDES = (20.0, 40.0, 60.0)
INSIDES = (12.0, 20.0, 30.0)
LEAST, MOST = 0.02, 20.0
"""mm between which kerfs lie."""
FAR = 5.0
"""mm: a measured size further from the drawn one is a slip of the pen."""


class Size(Value):
    """A size as drawn and as measured, mm: of a part, or of a hole in it."""

    side: Literal["outside", "inside"]
    drawn: Positive
    measured: Annotated[float, Field(gt=0, le=5000)]


@dataclass(frozen=True)
class Corrected:
    """What coupons say, mm: the ``kerf``, the ``scatter`` of single sizes (standard deviation; 0 from one),
    how far the kerf may be off (``unsure``, one standard error), and by how much parts came out large, and
    holes small, with the kerf that was taken. ``allowance``: left on a part, it comes out no smaller than
    drawn in nineteen of twenty.
    """

    kerf: float
    scatter: float
    unsure: float
    outside: float | None
    inside: float | None
    allowance: float


def coupon(gap: float = 12.0) -> list[Region]:
    """Squares of OUTSIDES, the two larger ones with a round hole of INSIDES, and one more hole's plate, side
    by side ``gap`` mm apart.
    """
    out, x = [], 0.0
    for side, hole in zip((*OUTSIDES, 50.0), (0.0, INSIDES[0], INSIDES[2], INSIDES[1]), strict=True):
        square = Contour.of([(x, 0), (x + side, 0), (x + side, side), (x, side)])
        holes = (Contour.circle(x + side / 2, side / 2, hole / 2).reversed(),) if hole else ()
        out.append(Region(square, holes))
        x += side + gap
    return out


def corrected(taken: Kerf, sizes: Sequence[Size]) -> Corrected:
    """The kerf from measured sizes of a coupon that was cut with ``taken`` as its kerf.

    Half a kerf is taken off at either side of a size, so that an outside comes out at drawn + taken - true,
    an inside at drawn - (taken - true): the true kerf is ``taken`` less the mean error, each inside with its
    sign turned (least squares).

    >>> found = corrected(1.4, [Size(side="outside", drawn=40, measured=40.2),
    ...                         Size(side="inside", drawn=20, measured=19.8)])
    >>> round(found.kerf, 3), found.scatter
    (1.2, 0.0)

    Raises:
        BadInput: no sizes, or one too far from the drawn size.
    """
    if not sizes:
        raise BadInput("no sizes: measure at least one outside and one inside of the coupon, and type both")
    errors = []
    for s in sizes:
        off = s.measured - s.drawn
        if abs(off) > FAR:
            raise BadInput(
                f"{s.side} {s.drawn:g} mm was measured {s.measured:g} mm, {abs(off):.2f} mm off: that is no"
                " kerf; correct the reading"
            )
        errors.append(off if s.side == "outside" else -off)
    mean = sum(errors) / len(errors)
    spread = math.sqrt(sum((e - mean) ** 2 for e in errors) / (len(errors) - 1)) if len(errors) > 1 else 0.0
    kerf = taken - mean
    if not LEAST <= kerf <= MOST:
        raise BadInput(
            f"these sizes tell a kerf of {kerf:.2f} mm, which cannot be: are outsides and insides swapped?"
        )

    def by(side: str) -> float | None:
        own = [s.measured - s.drawn for s in sizes if s.side == side]
        return sum(own) / len(own) if own else None

    spread = 0.0 if spread < 1e-9 else spread
    return Corrected(
        kerf,
        spread,
        spread / math.sqrt(len(errors)),
        by("outside"),
        by("inside"),
        1.645 * spread,
    )
