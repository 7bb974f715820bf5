"""How much do friction, screws, tape and tabs bear? One function each with its source, and the shop's
coefficients.

Forces in N, areas in mm2, lengths in mm, pressures in kPa (1 kPa on 1 mm2 is 0.001 N), strengths in N/mm2.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated

from pydantic import Field

from venzo.core.model import Family, Positive, Value

Share = Annotated[float, Field(gt=0, le=2)]


class HoldRules(Value):
    """What the shop reckons with when it asks whether a piece is held. Every number is common practice on the
    careful side and can be changed.

    Replace them by what your own pull scale says (``calibrated_friction``, ``calibrated_strength``).
    """

    friction: dict[Family, Share] = {"wood": 0.4, "plastic": 0.3, "aluminium": 0.3, "steel": 0.3}
    """Of a sheet on its spoilboard or pad (common practice; dust and film lower it)."""
    tab_strength: dict[Family, Positive] = {"wood": 5.0, "plastic": 20.0, "aluminium": 80.0, "steel": 150.0}
    """Shear strength of a tab or skin, N/mm2: below handbook values, for chatter and grain (Wood Handbook,
    shear parallel to grain 7 to 14; PMMA about 60; 6061 about 200; from memory).
    """
    stiffness: dict[Family, Annotated[float, Field(gt=0, le=1e6)]] = {
        "wood": 7_000.0,
        "plastic": 2_500.0,
        "aluminium": 69_000.0,
        "steel": 200_000.0,
    }
    """Young's modulus, N/mm2 (Wood Handbook, plywood about 7 to 10 GPa; PMMA 2.4 to 3.3; aluminium 69; steel
    200; from memory).
    """
    screw_shear: Positive = 600.0
    """N a screw bears sideways in a spoilboard before it ploughs."""
    screw_pull: Positive = 400.0
    """N to pull a screw out of a spoilboard."""
    nail_shear: Positive = 250.0
    nail_pull: Positive = 60.0
    clamp_force: Positive = 1_000.0
    """N that a top clamp presses with."""
    cam_force: Positive = 600.0
    """N that a side cam pushes with."""
    pin_shear: Positive = 1_000.0
    tape_shear: Positive = 0.10
    """N/mm2 of double-sided tape sideways."""
    tape_pull: Positive = 0.03
    """N/mm2 of double-sided tape straight up; peel from an edge takes far less."""
    peel: Positive = 0.5
    """N per mm of width to peel tape from its edge."""
    margin: Annotated[float, Field(ge=1, le=20)] = 1.25
    """A piece held with less than so many times its load is looked at; the load is the peak of a tooth's way
    (twice the mean of a slot is 1.25 times its peak).
    """
    chatter: Positive = 0.3
    """mm that an end may be bent by its load before it is said to chatter."""
    rise: Positive = 0.5
    """mm that a thin sheet may be lifted between its fixings."""
    tip: Positive = 25.0
    """mm; a loose drop narrower than this falls or is swept away rather than tipping."""
    tab_seconds: Positive = 15.0
    """Hand work to cut and clean one tab, s."""
    skin_seconds_m: Positive = 30.0
    """Hand work to cut a skin with a knife or flush-trim it, s a metre."""
    skin: dict[Family, Positive] = {"wood": 1.0, "plastic": 0.25, "aluminium": 0.2, "steel": 0.2}
    """Thickness of an onion skin, mm (common practice: 1/16 in in wood at the most, 0.010 in in sheet
    plastic).
    """
    keep_clear: Positive = 3.0
    """mm between a moving cutter or holder and anything that stands on the table."""


LIFT = {
    "up-cut": 0.58,
    "single-flute": 0.4,
    "roughing": 0.4,
    "compression": 0.0,
    "down-cut": -0.58,
    "drill": 0.5,
    "ball": 0.4,
    "tapered ball": 0.3,
}
"""Share of the cutting force that lifts: the tangent of the helix angle (30 degrees: 0.58; rake geometry,
exact for a sharp oblique edge without friction); negative: it presses down.
"""


def friction_force(normal: float, coefficient: float) -> float:
    """N sideways before a body pressed down with ``normal`` N slides: F = mu N (Coulomb)."""
    return coefficient * max(0.0, normal)


def suction(area: float, pressure: float) -> float:
    """N by which air presses an area (mm2) down at a pressure difference (kPa): F = p A.

    >>> round(suction(100 * 100, 50), 6)
    500.0
    """
    return area * pressure / 1000


def shear_force(section: float, strength: float) -> float:
    """N to shear a section (mm2) at a strength in N/mm2: F = tau A (any strength-of-materials text).

    >>> shear_force(6 * 4, 5.0)
    120.0
    """
    return section * strength


def tab_section(width: float, height: float, sloped: bool = False) -> float:
    """mm2 that a tab tears through: width x height, half of it under a sloped top."""
    return width * height * (0.5 if sloped else 1.0)


def tape_hold(width: float, length: float, rules: HoldRules) -> tuple[float, float]:
    """N that a patch of double-sided tape bears sideways and upwards: its area, or peeling along its shorter
    edge, whichever is less.
    """
    area = width * length
    return area * rules.tape_shear, min(area * rules.tape_pull, rules.peel * max(width, length))


def group_force(
    forces: Sequence[float],
    places: Sequence[tuple[float, float]],
    spreads: Sequence[float],
    at: tuple[float, float],
) -> float:
    """N that a group of holds bears at a point, mm: the force also turns the body about the middle of its
    holds.

    F = S / (1 + e / r), S the sum of what each bears, e the distance from their middle to the point and r the
    mean distance of what bears from that middle. Straight-line interaction of push and turn, which is on the
    careful side of the true limit (eccentric shear of bolt groups, any text on steel connections).

    Args:
        forces: N that each hold bears sideways.
        places: their middles, mm.
        spreads: radius of gyration of each about its own middle, mm; 0 for a point.
        at: where the load acts.

    >>> group_force([100, 100], [(0, 0), (100, 0)], [0, 0], (50, 0))
    200.0
    >>> group_force([100, 100], [(0, 0), (100, 0)], [0, 0], (50, 50))
    100.0
    """
    total = sum(forces)
    if total <= 0:
        return 0.0
    cx = sum(f * x for f, (x, _y) in zip(forces, places, strict=True)) / total
    cy = sum(f * y for f, (_x, y) in zip(forces, places, strict=True)) / total
    e = math.hypot(at[0] - cx, at[1] - cy)
    r = (
        sum(
            f * math.sqrt((x - cx) ** 2 + (y - cy) ** 2 + g * g)
            for f, (x, y), g in zip(forces, places, spreads, strict=True)
        )
        / total
    )
    return total / (1 + e / r) if r > 1e-9 else (total if e < 1e-6 else 0.0)


def tipping(holds: Sequence[tuple[float, float, float]], corners: Sequence[tuple[float, float]]) -> float:
    """N mm that the holds of a body bear before it tips over the edge of its footprint that is worst: the
    least over the edges of sum(up_i d_i) (moment balance about that edge).

    Args:
        holds: (x, y, N upwards) of each hold.
        corners: of the smallest rectangle around the footprint, in order, mm.

    >>> tipping([(10, 50, 100)], [(0, 0), (20, 0), (20, 100), (0, 100)])
    1000.0
    """
    least = math.inf
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        long = math.hypot(bx - ax, by - ay)
        if long < 1e-9:
            return 0.0
        arms = [abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / long for x, y, _n in holds]
        least = min(least, sum(n * d for (_x, _y, n), d in zip(holds, arms, strict=True)))
    return least


def bending(force: float, length: float, width: float, thickness: float, modulus: float) -> float:
    """mm that the end of a strip bends sideways, held at its root: F L^3 / (3 E I), I = t b^3 / 12
    (Machinery's Handbook, beam table).
    """
    return force * length**3 / (3 * modulus * thickness * width**3 / 12)


def rise_between(force: float, span: float, thickness: float, modulus: float) -> float:
    """mm that a sheet rises in the middle of a span between fixings, as a strip as wide as the span: F L^3 /
    (48 E I), I = L t^3 / 12 (beam table).

    >>> round(rise_between(40, 400, 3, 69000), 2)
    0.86
    """
    return force * span**2 / (4 * modulus * thickness**3)


def sag_over(force: float, span: float, thickness: float, modulus: float) -> float:
    """mm that a floor sinks under a force (N) in the middle of a hollow, mm across: a round plate held all
    round, 3 (1 - v^2) F a^2 / (4 pi E t^3) with a half the span and v = 0.3 (theory of plates).

    >>> round(sag_over(100, 80, 3, 8000), 3)
    0.161
    """
    return 3 * (1 - 0.3**2) * force * (span / 2) ** 2 / (4 * math.pi * modulus * thickness**3)


def tabs_needed(
    load: float, width: float, height: float, strength: float, margin: float, sloped: bool = False
) -> int:
    """Tabs that a load (N) at the edge of a part asks for: half of what they bear counts, since the load also
    turns the part (``group_force`` with e = r).
    """
    return math.ceil(2 * margin * load / shear_force(tab_section(width, height, sloped), strength) - 1e-9)


def calibrated_friction(pull: float, area: float, pressure: float) -> float:
    """Friction of a piece that slid at ``pull`` N on a pull scale, with ``area`` mm2 over live zones at
    ``pressure`` kPa.

    >>> round(calibrated_friction(180, 300 * 300, 10), 3)
    0.2
    """
    return pull / suction(area, pressure)


def calibrated_strength(pull: float, section: float) -> float:
    """Strength (N/mm2) of a tab or skin of a section (mm2) that tore at ``pull`` N."""
    return pull / section
