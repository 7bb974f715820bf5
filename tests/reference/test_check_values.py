"""Values from outside the project, each with its source; [CP] common practice, [EX] exact mathematics, [M]
quoted from memory.
"""

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import dxf
from venzo.core.cuts.operations import Profile
from venzo.core.motion.time import move_time
from venzo.core.parts.intake import take_in
from venzo.core.parts.layers import depth_of
from venzo.core.rules.house import HouseRules
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import Cutter, Feeds
from venzo.core.units import as_fraction, parse_corners, parse_length, parse_lengths, show_length
from venzo.formats.drawing_file import read_file

INCH = 25.4


# [CP]; F = n z f_z, Machinery's Handbook [M]
def test_chip_load_600_in_min_16000_rpm_2_flutes_is_0_01875_in():
    c = Cutter(
        id="a",
        number=1,
        name="a",
        kind="up-cut",
        diameter=9.525,
        flutes=2,
        cutting_length=25,
        feeds={"wood": Feeds(rpm=16_000, feed=600 * INCH, plunge=1000)},
    )
    assert c.chip_load("wood") / INCH == pytest.approx(0.01875)


@pytest.mark.parametrize(
    ("family", "inches"), [("wood", 0.75), ("plastic", 0.375), ("aluminium", 0.1875)]
)  # [CP] 2 D, 1 D, D/2 for a 3/8 in cutter
def test_depth_per_pass_by_material(family, inches):
    assert HouseRules().largest_step(family, 0.375 * INCH) == pytest.approx(inches * INCH)


@pytest.mark.parametrize(
    ("depth", "step", "passes"),
    [
        (0.5, 0.375, 2),
        (0.75, 0.75, 1),
        (0.75, 1 / 32, 24 - 1),
        (0.75 * 1.05, 0.75, 1),
        (0.75 * 1.0501, 0.75, 2),
    ],
)
def test_passes(depth, step, passes):
    """[CP] 1/2 in acrylic takes 2, 0.72 + 0.03 takes 1; 3/4 in at 1/32 is 24 without the accepted excess of 5
    %, 23 with it; both sides of the excess.
    """
    assert HouseRules().passes(depth * INCH, step * INCH) == passes


def test_twenty_four_passes_without_excess():  # [CP]
    assert HouseRules(accepted_excess=0).passes(0.75 * INCH, INCH / 32) == 24


def test_measured_thickness_and_overshoot_give_the_depth(
    store,
):  # [CP] 0.72 + 0.03 = 0.75 in; 0.1875 + 0.010 = 0.1975
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
        # mixed lengths as shops write them [CP]
        *(
            (t, "in", 1.125 * INCH)
            for t in ("1-1/8", "1 1/8", '1-1/8"', "1⅛", "1 ⅛", "1-⅛", "1 + 1/8", "1 1⁄8")
        ),
        ("7-1/2", "in", 7.5 * INCH),
        ("2' 3-1/2\"", "mm", 27.5 * INCH),
        ("2ft 3 1/2in", "mm", 27.5 * INCH),
        ("2'-3-1/2\"", "mm", 27.5 * INCH),
        ("3/4in-0.8mm", "mm", 18.25),
        (".5", "in", 12.7),
        ("0,5", "in", 12.7),
        ("17,6", "mm", 17.6),
        # a minus with spaces, or before a number of its own
        ("1 - 1/8", "in", 0.875 * INCH),
        ("1 -1/8", "in", 0.875 * INCH),
        ("1/2-1/4", "in", 0.25 * INCH),
        ("1 1/2-1/4", "in", 1.25 * INCH),
        ("2440-8", "mm", 2432),
        ("1.5-1/8", "in", 1.375 * INCH),
    ],
)
def test_lengths_as_people_write_them(text, unit, mm):  # 1 in = 25.4 mm exactly (international inch)
    assert parse_length(text, unit) == pytest.approx(mm)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("15 1/2, 16", "more than one"),
        ("1,220", "1220 or 1.220"),
        ("1-9/8", "no proper fraction"),
        ("1 1/0", "no proper"),
        ("2 440", "left over"),
        ("5' 3", "missing"),
    ],
)
def test_what_can_be_read_in_two_ways_is_not_read(text, why):
    with pytest.raises(BadInput, match=why):
        parse_length(text, "in")


@given(
    st.integers(0, 400),
    st.integers(1, 63),
    st.sampled_from(
        [
            "{w}-{n}/{d}",
            "{w} {n}/{d}",
            "{w} + {n}/{d}",
            '{w}-{n}/{d}"',
            "{w} {n}/{d} in",
            "0 - (-{w} - {n}/{d})",
        ]
    ),
)
def test_mixed_numbers_add_their_fraction(whole, above, written):
    """[EX] However a whole number and a fraction are written together, the fraction adds to it."""
    f = Fraction(above, 64)
    text = written.format(w=whole, n=f.numerator, d=f.denominator)
    assert parse_length(text, "in") == pytest.approx(float(whole + f) * INCH, abs=1e-6)


def test_lists_and_pairs_of_lengths():  # [CP] a comma followed by a space parts a pair
    assert parse_lengths("15 1/2, 16", "in") == [393.7, 406.4]
    assert parse_lengths("1 1/8 1 1/8; 0.69 11/16", "in") == [28.575, 28.575, 17.526, 17.4625]
    assert (
        parse_corners("0, 0; 36-1/2, 0; 36 1/2, 12", "in")[1:]
        == [(927.1, 0.0), (927.1, 304.8)]
        == parse_corners("0,0 36.5,0 36.5,12", "in")[1:]
    )
    for bad in ("1 2 3", "0, 0; 5", "0,5,0 1,1"):
        with pytest.raises(BadInput, match="corner"):
            parse_corners(bad)


@pytest.mark.parametrize(
    ("layer", "unit", "mm"),
    [
        ("POCKET 0.5", "in", 12.7),
        ("POCKET .5", "in", 12.7),
        ("POCKET 1/2", "in", 12.7),
        ('POCKET 0.5"', "mm", 12.7),
        ("POCKET-1-1/8", "in", 28.575),
        ("POCKET_⅜", "in", 9.525),
        ("pocket 6", "mm", 6),
        ("pocket 6mm", "in", 6),
        ("GROOVE 5,5", "mm", 5.5),
        ("POCKET T3 6mm", "mm", 6),
        ("drill 5 z12", "mm", 12),
        ("POCKET 3 6", "mm", None),
        ("POCKET 1/2", "mm", None),
    ],
)
def test_a_depth_in_a_layers_name_has_the_drawings_unit(layer, unit, mm):
    assert depth_of(layer, unit) == (pytest.approx(mm) if mm is not None else None)
    if set(layer) & set('/"'):
        return  # no name of a layer in DXF, but in SVG
    plate = dxf(
        lambda m: [
            m.add_lwpolyline([(0, 0), (9, 0), (9, 6), (0, 6)], close=True),
            m.add_lwpolyline([(2, 2), (4, 2), (4, 4), (2, 4)], close=True, dxfattribs={"layer": layer}),
        ],
        1 if unit == "in" else 4,
    )
    (part,) = take_in(read_file(plate, "plate.dxf"), "plate.dxf").parts
    assert part.shape.features[0].depth == (pytest.approx(mm) if mm is not None else None)


def test_lengths_are_shown_in_both_units():
    assert show_length(19.05, "in") == "0.75 in" and as_fraction(18.25625) == "23/32 in"


def test_trapezoidal_move():  # [EX] d >= v^2/a: d/v + v/a, else 2 sqrt(d/a)
    assert move_time(100, 6000, 1000) == pytest.approx(100 / 100 + 100 / 1000)
    assert move_time(1, 6000, 1000) == pytest.approx(2 * math.sqrt(1 / 1000))


def test_perfect_squared_square_adds_up():  # Duijvestijn 1978 [M]
    squares = [50, 35, 27, 8, 19, 15, 17, 11, 6, 24, 29, 25, 9, 2, 7, 18, 16, 42, 4, 37, 33]
    assert sum(s * s for s in squares) == 112**2
