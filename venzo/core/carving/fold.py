"""A V groove that a sheet is folded along: how deep, how wide, and how much longer or shorter the folded part
gets.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from venzo.core.carving.bit import Bit
from venzo.core.snags import BadInput

NEUTRAL = 0.44
"""Where the neutral layer of the skin lies, as a share of its thickness from the inside of the bend (K
factor; common practice for sharp bends in soft sheet).
"""


@dataclass(frozen=True)
class Fold:
    """mm and degrees. ``depth``, ``width``: of the groove at the surface. ``closes``: the angle at which the
    groove's sides meet.

    ``allowance``: length of the neutral layer in the bend; ``setback``: from the tangent of the bend to the
    outer corner; ``deduction``: what the flat blank is shorter than the sum of the two outer lengths (2
    setback - allowance). Sheet-metal practice (Machinery's Handbook, bend allowance, quoted from memory).
    """

    thickness: float
    skin: float
    angle: float
    depth: float
    width: float
    closes: float
    radius: float
    allowance: float
    setback: float
    deduction: float
    says: str


def fold(
    thickness: float, skin: float, angle: float, bit: Bit, radius: float = 0.0, neutral: float = NEUTRAL
) -> Fold:
    """A groove for a fold.

    Args:
        thickness: of the sheet, mm.
        skin: left under the groove, mm.
        angle: the sheet is folded by, degrees from flat.
        bit: V bit that cuts the groove.
        radius: inside radius of the bend in the skin, mm; a grooved fold is nearly sharp.
        neutral: K factor.

    Raises:
        BadInput: the skin is no skin, or the groove is wider than the bit.

    >>> f = fold(4.0, 0.8, 90, Bit(90, 12))
    >>> round(f.depth, 2), round(f.width, 2), round(f.allowance, 3), round(f.deduction, 3)
    (3.2, 6.4, 0.553, 1.047)
    """
    if not 0 < skin < thickness:
        raise BadInput(
            f"a skin of {skin:g} mm in a sheet of {thickness:g} mm: give more than 0 and less than the sheet"
        )
    if not 0 < angle < 180:
        raise BadInput(f"a fold of {angle:g} degrees: give more than 0 and less than 180")
    depth = thickness - skin
    if depth > bit.deepest:
        raise BadInput(f"a groove {depth:.2f} mm deep is more than the bit reaches, {bit.deepest:.2f} mm")
    turn = math.radians(angle)
    allowance = turn * (radius + neutral * skin)
    setback = math.tan(turn / 2) * (radius + skin)
    half = float(bit.radius(depth))
    # the flat of the point stays open when the flanks meet
    closes = bit.angle
    if abs(closes - angle) < 1:
        says = "the sides of the groove meet when it is folded"
    elif closes < angle:
        says = (
            f"the sides meet at {closes:g} degrees, {angle - closes:g} short of the fold; take a bit of"
            f" {angle:g} degrees or more"
        )
    else:
        says = (
            f"the groove stays {closes - angle:g} degrees open when it is folded; that is room for glue or"
            " sealant"
        )
    return Fold(
        thickness,
        skin,
        angle,
        depth,
        2 * half,
        closes,
        radius,
        allowance,
        setback,
        2 * setback - allowance,
        says,
    )
