"""Values from outside the project, each with its source; [CP] common practice, [EX] exact mathematics, [M] quoted from memory."""

import math

import pytest

from venzo.core.cuts.operations import Profile
from venzo.core.motion.time import move_time
from venzo.core.rules.house import HouseRules
from venzo.core.tooling.cutter import Cutter, Feeds
from venzo.core.units import as_fraction, parse_length, show_length

INCH = 25.4


def test_chip_load_600_in_min_16000_rpm_2_flutes_is_0_01875_in():  # [CP]; F = n z f_z, Machinery's Handbook [M]
    c = Cutter(id="a", number=1, name="a", kind="up-cut", diameter=9.525, flutes=2, cutting_length=25, feeds={"wood": Feeds(rpm=16_000, feed=600 * INCH, plunge=1000)})
    assert c.chip_load("wood") / INCH == pytest.approx(0.01875)


@pytest.mark.parametrize(("family", "inches"), [("wood", 0.75), ("plastic", 0.375), ("aluminium", 0.1875)])  # [CP] 2 D, 1 D, D/2 for a 3/8 in cutter
def test_depth_per_pass_by_material(family, inches):
    assert HouseRules().largest_step(family, 0.375 * INCH) == pytest.approx(inches * INCH)


@pytest.mark.parametrize(("depth", "step", "passes"), [(0.5, 0.375, 2), (0.75, 0.75, 1), (0.75, 1 / 32, 24 - 1), (0.75 * 1.05, 0.75, 1), (0.75 * 1.0501, 0.75, 2)])
def test_passes(depth, step, passes):
    """[CP] 1/2 in acrylic takes 2, 0.72 + 0.03 takes 1; 3/4 in at 1/32 is 24 without the accepted excess of 5 %, 23 with it; both sides of the excess."""
    assert HouseRules().passes(depth * INCH, step * INCH) == passes


def test_twenty_four_passes_without_excess():  # [CP]
    assert HouseRules(accepted_excess=0).passes(0.75 * INCH, INCH / 32) == 24


def test_measured_thickness_and_overshoot_give_the_depth(store):  # [CP] 0.72 + 0.03 = 0.75 in; 0.1875 + 0.010 = 0.1975
    assert parse_length("0.72 in + 0.03 in") == pytest.approx(0.75 * INCH)
    assert parse_length("3/16 + 0.010", "in") == pytest.approx(0.1975 * INCH)
    assert Profile(id="o", on="outlines", cutter="c", overshoot=0.03 * INCH).overshoot == pytest.approx(0.762)


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("23/32", "in", 23 / 32 * INCH),
        ("3/4 in - 0.8 mm", "mm", 18.25),
        ("1/8/2", "in", 1.5875),
        ("1 1/2 in", "mm", 38.1),
        ("5' 3\"", "in", 1600.2),
        ("(2 + 1) * 4", "mm", 12),
        ("-3/8 in", "mm", -9.525),
        (".5 in", "mm", 12.7),
        ("250 thou", "mm", 6.35),
    ],
)
def test_lengths_as_people_write_them(text, unit, mm):  # 1 in = 25.4 mm exactly (international inch)
    assert parse_length(text, unit) == pytest.approx(mm)


def test_lengths_are_shown_in_both_units():
    assert show_length(19.05, "in") == "0.75 in" and as_fraction(18.25625) == "23/32 in"


def test_trapezoidal_move():  # [EX] d >= v^2/a: d/v + v/a, else 2 sqrt(d/a)
    assert move_time(100, 6000, 1000) == pytest.approx(100 / 100 + 100 / 1000)
    assert move_time(1, 6000, 1000) == pytest.approx(2 * math.sqrt(1 / 1000))


def test_perfect_squared_square_adds_up():  # Duijvestijn 1978 [M]
    squares = [50, 35, 27, 8, 19, 15, 17, 11, 6, 24, 29, 25, 9, 2, 7, 18, 16, 42, 4, 37, 33]
    assert sum(s * s for s in squares) == 112**2
