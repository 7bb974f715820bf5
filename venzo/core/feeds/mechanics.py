"""Formulas of cutting: one function each, its source beside it."""

from __future__ import annotations

import math

import numpy as np

CARBIDE = 600_000.0
"""Young's modulus of cemented carbide, N/mm2 (500 to 650 GPa by grade; Machinery's Handbook, from memory)."""


RADIAL = 0.4
"""Radial over tangential force of a tooth (handbooks give 0.3 to 0.5 for sharp milling cutters; from
memory).
"""


def surface_speed(diameter: float, rpm: float) -> float:
    """Speed of the cutting edge, m/min: v = pi D n (Machinery's Handbook, speeds and feeds).

    >>> round(surface_speed(12.7, 18000), 1)
    718.2
    """
    return math.pi * diameter * rpm / 1000


def spindle_speed(diameter: float, speed: float) -> float:
    """rpm for a surface speed in m/min: n = v / (pi D); in inch units rpm = 12 SFM / (pi D)."""
    return speed * 1000 / (math.pi * diameter)


def chip_load(feed: float, rpm: float, flutes: int) -> float:
    """Feed per tooth, mm, from the table feed: f_z = F / (n z) (terms of ISO 3002-3)."""
    return feed / (rpm * flutes)


def table_feed(chip: float, rpm: float, flutes: int) -> float:
    """Table feed, mm/min: F = n z f_z."""
    return chip * rpm * flutes


def chip_thickness(chip: float, width: float, diameter: float) -> float:
    """Thickest chip, mm, at a radial engagement ``width``: h = 2 f_z sqrt((ae/D)(1 - ae/D)) below half the
    diameter, f_z from there on.

    Chip thinning (Machinery's Handbook). A thin skim makes thinner chips than its feed per tooth says.

    >>> chip_thickness(0.2, 6, 12), round(chip_thickness(0.2, 1, 10), 4)
    (0.2, 0.12)
    """
    share = min(max(width / diameter, 0.0), 1.0)
    return chip if share >= 0.5 else 2 * chip * math.sqrt(share * (1 - share))


def removal_rate(feed: float, width: float, depth: float) -> float:
    """Material removed, mm3/s: feed x width x depth."""
    return feed * width * depth / 60


def cutting_power(rate: float, energy: float) -> float:
    """Power at the edge, W: removal rate (mm3/s) x specific cutting energy (J/mm3) (Machinery's Handbook,
    unit power).
    """
    return rate * energy


def cutting_force(power: float, speed: float) -> float:
    """Mean force along the edge's path, N: power (W) over surface speed (m/min)."""
    return power / (speed / 60) if speed > 0 else 0.0


def chip_force(energy: float, chip: float, section: float) -> float:
    """Largest force of the teeth in the arc engaged, N: F = k_c f_z s.

    k_c is the specific cutting energy in N/mm2 (1 J/mm3 is 1000 N/mm2; Machinery's Handbook, unit power),
    ``chip`` the feed per tooth f_z in mm and ``section`` the largest chip section over f_z in mm: depth times
    the sine of the angle, summed as vectors over the teeth that are in material at one moment, radial share
    included (``slot_section``; ``core.body.engagement`` measures it). The peak of a turn, not its mean: for
    two flutes in a full slot that is pi/2 times the mean (exact for straight flutes).

    >>> chip_force(0.06, 0.2, 12.0)
    144.0
    """
    return energy * 1000 * chip * section


def slot_section(depth: float, width: float, diameter: float, flutes: int) -> float:
    """The largest chip section over the feed per tooth (mm), radial share included, of a cutter ``width`` mm
    engaged at one side, ``depth`` deep.

    The same sum as the measured one, over the arc that a straight wall leaves: teeth at every 2 pi / z, each
    with chip thickness sin(a) of the feed per tooth (Machinery's Handbook, chip thickness; the sum over the
    teeth in the arc is exact for straight flutes).

    >>> per_mm = 10 * math.hypot(1, RADIAL)
    >>> round(slot_section(10, 6, 6, 2) / per_mm, 3), round(slot_section(10, 0.6, 6, 1) / per_mm, 3)
    (1.0, 0.6)
    """
    end = math.acos(max(-1.0, 1 - 2 * min(width, diameter) / diameter))
    gap = 2 * math.pi / flutes
    first = np.append(np.linspace(0.0, gap, 241), end % gap)[:, None]
    angle = first + gap * np.arange(flutes)[None, :]
    chip = np.where(angle <= end + 1e-12, np.sin(angle), 0.0) * depth
    fx = (chip * (-np.sin(angle) - RADIAL * np.cos(angle))).sum(axis=1)
    fy = (chip * (np.cos(angle) - RADIAL * np.sin(angle))).sum(axis=1)
    return float(np.hypot(fx, fy).max())


def drilling_rate(plunge: float, diameter: float) -> float:
    """Material a drill removes, mm3/s: pi/4 D^2 times its feed."""
    return math.pi / 4 * diameter**2 * plunge / 60


def deflection(force: float, overhang: float, diameter: float, modulus: float = CARBIDE) -> float:
    """Bend of the tip, mm: d = F L^3 / (3 E I), I = pi d^4 / 64, a cantilever with its load at the end
    (Machinery's Handbook, beam table).

    >>> round(deflection(100, 40, 6), 4)
    0.0559
    """
    return force * overhang**3 / (3 * modulus * math.pi * diameter**4 / 64)


def ball_lip(radius: float, below: float) -> float:
    """Width of the lip that a ball end leaves on each side of a through cut ``below`` mm under the sheet: R -
    sqrt(2 R h - h^2), 0 from h = R.

    >>> round(ball_lip(0.125, 0.02), 3)
    0.057
    """
    h = min(max(below, 0.0), radius)
    return radius - math.sqrt(2 * radius * h - h * h)


def cusp(radius: float, step: float, slope: float = 0.0) -> float:
    """Height of the ridge that a ball leaves between rows, mm, normal to the surface: R - sqrt(R^2 - (s / (2
    cos t))^2).

    Exact geometry; ``step`` is measured in plan, ``slope`` in degrees across the rows.

    >>> round(cusp(3, 0.6), 4), round(cusp(3, 0.6, 60), 4)
    (0.015, 0.0606)

    Raises:
        ValueError: the rows are further apart than the ball is wide.
    """
    half = step / (2 * math.cos(math.radians(slope)))
    return radius - math.sqrt(radius * radius - half * half)


def cusp_step(radius: float, height: float, slope: float = 0.0) -> float:
    """Distance between rows in plan, mm, that leaves ridges of a height; the inverse of ``cusp``."""
    return 2 * math.sqrt(2 * radius * height - height * height) * math.cos(math.radians(slope))
