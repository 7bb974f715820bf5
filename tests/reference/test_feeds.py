"""Speeds and feeds against handbook formulas and facts of the trade. [M] quoted from memory, [CP] common
practice, [EX] exact mathematics.
"""

import itertools
import json
import math
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from venzo.core.feeds import mechanics as m
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.feeds.windows import CHIPS, ENERGY, SPEEDS, window
from venzo.core.rules.house import HouseRules
from venzo.core.stock.known import KNOWN, find
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import ChipWindow, Material
from venzo.core.tooling.cutter import FLAT, Cutter

INCH = 25.4
FAMILIES = ("wood", "plastic", "aluminium", "steel")


def material(family, **more):
    return Material(id=family, name=family, family=family, density=1000, **more)


def mill(diameter, flutes=2, kind="up-cut", length=None, **more):
    return Cutter(
        id="c",
        number=1,
        name="c",
        kind=kind,
        diameter=diameter,
        flutes=flutes,
        cutting_length=length or 4 * diameter,
        shank=diameter,
        **more,
    )


# -- formulas


@given(st.floats(0.5, 80), st.floats(1000, 30_000))
def test_speed_and_feed_in_metric_and_inch_units(
    d, rpm
):  # n = v / (pi D); rpm = 12 SFM / (pi D); F = n z f_z: Machinery's Handbook [M], ISO 3002-3 terms
    v = m.surface_speed(d, rpm)
    assert m.spindle_speed(d, v) == pytest.approx(rpm)
    sfm = v / 0.3048
    assert 12 * sfm / (math.pi * d / INCH) == pytest.approx(rpm)
    assert m.chip_load(m.table_feed(0.1, rpm, 3), rpm, 3) == pytest.approx(0.1)


@given(st.floats(0.01, 1), st.floats(2, 30), st.floats(0.01, 1))
def test_chip_thinning(
    f, d, share
):  # h = 2 f_z sqrt((ae/D)(1 - ae/D)) below half the diameter: Machinery's Handbook [M]
    h = m.chip_thickness(f, share * d, d)
    assert h == pytest.approx(2 * f * math.sqrt(share * (1 - share)) if share < 0.5 else f)
    # [EX] the chip's thickest place measured between two circles a feed apart, for small feeds
    if share < 0.45:
        small = 1e-5 * d
        angle = math.acos(1 - 2 * share)
        assert m.chip_thickness(small, share * d, d) == pytest.approx(small * math.sin(angle), rel=1e-3)


# d = F L^3 / (3 E I), I = pi d^4 / 64 and carbide about 600 GPa [M]; aluminium 0.7 to 0.9 J/mm3 = 0.25 to
# 0.33 hp per in3/min [M]
def test_deflection_power_and_force():
    assert m.deflection(100, 40, 6) == pytest.approx(100 * 40**3 / (3 * 600_000 * math.pi * 6**4 / 64))
    assert m.deflection(100, 80, 6) == pytest.approx(8 * m.deflection(100, 40, 6)) and m.deflection(
        100, 40, 12
    ) == pytest.approx(m.deflection(100, 40, 6) / 16)
    assert 500_000 <= m.CARBIDE <= 650_000
    low, high = (hp * 745.7 / (16387.064 / 60) for hp in (0.25, 0.33))
    assert (
        low == pytest.approx(0.68, abs=0.03)
        and high == pytest.approx(0.90, abs=0.03)
        and low <= ENERGY["aluminium"][0] <= high
    )
    a = advise(mill(10), material("aluminium"), HouseRules(), None, CutNumbers(12_000, 600, 2, 5))
    assert a.removal == pytest.approx(100) and a.power == pytest.approx(100 * ENERGY["aluminium"][0])
    # mean force along the edge's path: power over surface speed [EX]
    assert m.cutting_force(a.power, a.surface_speed) == pytest.approx(
        a.power / (math.pi * 0.010 * 12_000 / 60)
    )


@pytest.mark.parametrize("flutes", [1, 2, 3, 4])
@pytest.mark.parametrize("share", [0.02, 0.1, 0.5, 1.0])
def test_the_peak_force_is_that_of_the_thickest_chips_in_the_arc(flutes, share):
    """[EX] Straight flutes: every tooth cuts f_z sin(a) thick; over a whole turn the tangential share does
    exactly the work that feed, width and depth say.
    """
    d, depth, width = 10.0, 3.0, 10.0 * share
    end = math.acos(1 - 2 * share)
    angle = np.linspace(0, 2 * math.pi, 72_001)[:-1]
    teeth = [(angle + 2 * math.pi * k / flutes) % (2 * math.pi) for k in range(flutes)]
    chips = [np.where(t <= end, np.sin(t), 0.0) * depth for t in teeth]
    mean = sum(c.mean() for c in chips)
    assert mean * math.pi * d == pytest.approx(flutes * depth * width, rel=2e-3), (
        "chips of one turn are what one turn's feed removes"
    )
    fx = sum(c * (-np.sin(t) - m.RADIAL * np.cos(t)) for c, t in zip(chips, teeth, strict=True))
    fy = sum(c * (np.cos(t) - m.RADIAL * np.sin(t)) for c, t in zip(chips, teeth, strict=True))
    peak = float(np.hypot(fx, fy).max())
    assert m.slot_section(depth, width, d, flutes) == pytest.approx(peak, rel=5e-3)
    if flutes == 2 and share == 1.0:
        assert peak / mean / math.hypot(1, m.RADIAL) == pytest.approx(math.pi / 2, rel=1e-3), (
            "about 1.5 times the mean for two flutes in a full slot [CP]"
        )
    if share == 0.02:
        assert peak / mean > 5, "far more in a thin skim"


# [CP] R 0.125 in, 0.02 in below the sheet: 0.057 in a side; [EX] R - sqrt(2 R h - h^2), 0 at h = R
def test_ball_end_lip():
    assert (
        m.ball_lip(0.125, 0.02) == pytest.approx(0.057, abs=5e-4)
        and m.ball_lip(3, 3) == 0
        and m.ball_lip(3, 9) == 0
        and m.ball_lip(3, 0) == 3
    )


# -- depth schools (SHOP-PRACTICE: by material 2 D, 1 D, D/2; never more than D; D/2; roughers 2 D) [CP]


@pytest.mark.parametrize(
    ("school", "family", "kind", "times"),
    [
        ("by material", "wood", "up-cut", 2),
        ("by material", "plastic", "up-cut", 1),
        ("by material", "aluminium", "up-cut", 0.5),
        ("one diameter", "wood", "up-cut", 1),
        ("one diameter", "aluminium", "up-cut", 1),
        ("half diameter", "wood", "up-cut", 0.5),
        ("half diameter", "aluminium", "roughing", 2),
    ],
)
def test_schools_of_depth_give_the_stated_passes_on_both_sides_of_the_accepted_excess(
    school, family, kind, times
):
    rules, d = HouseRules(step_down=school), 9.525
    step = rules.largest_step(family, d, kind)
    assert step == pytest.approx(times * d)
    for n in (1, 2, 5):
        assert rules.passes(n * step * 1.05 - 1e-6, step) == n
        assert rules.passes(n * step * 1.05 + 1e-6, step) == n + 1
    assert rules.step_reason(family, kind)


@given(st.floats(100, 20_000))
def test_plunge_rules(feed):  # [CP] half the feed; a third; fixed
    assert HouseRules().plunge_feed(feed) == feed / 2 and HouseRules(plunge="third of the feed").plunge_feed(
        feed
    ) == pytest.approx(feed / 3)
    assert HouseRules(plunge="fixed", plunge_fixed=900).plunge_feed(feed) == min(900, feed)


# -- windows and advice


def test_windows_hold_the_facts_of_the_trade_and_name_their_sources():
    low, high = window(mill(9.525), material("wood")).chip
    assert low < 600 * INCH / (16_000 * 2) < high  # [CP] 600 in/min at 16,000 rpm, 2 flutes in wood
    for family in FAMILIES:
        assert all(w.source for w in CHIPS[family]) and SPEEDS[family][2] and ENERGY[family][1]
    spread = [window(mill(6), material(f)).chip for f in FAMILIES]
    assert spread[0][1] / spread[0][0] > 2.5 and spread[2][1] < spread[0][1], (
        "wood's window is wide, aluminium's is narrow"
    )  # [CP]
    own = material("wood", windows=(ChipWindow(rows=((6, 0.3, 0.31),), source="the shop's log"),))
    assert window(mill(6), own).chip == (0.3, 0.31) and window(mill(6), own).chip_source == "the shop's log"


@given(
    st.sampled_from(FAMILIES),
    st.floats(1, 25),
    st.integers(1, 4),
    st.sampled_from([k for k in FLAT if k != "surfacing"]),
)
def test_what_is_proposed_lies_in_its_window(family, d, z, kind):
    a = advise(mill(d, z, kind), material(family), HouseRules())
    assert a.window.chip[0] <= a.chip_load * 1.0001 and a.chip_load <= a.window.chip[1] * 1.0001
    assert 6000 <= a.rpm <= 24_000
    assert not [s for s in a.snags if s.rule in ("feeds.rub", "feeds.break")]


@given(
    st.sampled_from(FAMILIES),
    st.floats(2, 16),
    st.integers(1, 3),
    st.floats(6000, 24_000),
    st.floats(50, 30_000),
)
def test_the_direction_that_a_remedy_gives_leads_into_the_window(family, d, z, rpm, feed):
    rules, mat, c = HouseRules(), material(family), mill(d, z)
    a = advise(c, mat, rules, None, CutNumbers(rpm, feed))
    for s in a.snags:
        if s.rule not in ("feeds.rub", "feeds.break"):
            continue
        edge = a.window.chip[0 if s.rule == "feeds.rub" else 1]
        mended = advise(c, mat, rules, None, CutNumbers(rpm, edge * rpm * z))
        assert not [x for x in mended.snags if x.rule == s.rule]
        words = s.message.split(" rpm")[0].split()
        if " rpm" in s.message:
            turned = advise(c, mat, rules, None, CutNumbers(float(words[-1]), feed))
            assert turned.chip_load == pytest.approx(edge, rel=2e-3)


@given(st.floats(0.05, 3), st.floats(3, 12))
def test_power_is_held_against_the_spindle_s_curve(kw, d):
    weak = Machine(id="m", name="weak", width=1, height=1, rapid=30_000, power=((6000, kw), (24_000, kw)))
    proposed = advise(mill(d), material("aluminium"), HouseRules(), weak)
    assert proposed.power <= 0.8 * kw * 1000 * 1.001 and proposed.feed <= weak.fastest_feed
    slot = CutNumbers(18_000, 18_000 * 2 * 0.1, d, d)
    asked = advise(mill(d), material("aluminium"), HouseRules(), weak, slot)
    over = [s for s in asked.snags if s.rule == "feeds.power"]
    assert bool(over) == (asked.power > 0.8 * kw * 1000) and (
        not over or (over[0].severity == "stop") == (asked.power > kw * 1000)
    )


def test_the_power_curve_is_read_between_its_points():
    c = Machine(id="m", name="m", width=1, height=1, power=((6000, 1.0), (18_000, 4.0), (24_000, 4.0)))
    assert [c.power_at(r) for r in (3000, 6000, 12_000, 20_000, 30_000)] == [0.5, 1.0, 2.5, 4.0, 4.0]


@given(
    st.sampled_from(["ball", "v-bit", "tapered ball", "bowl", "point roundover", "drill"]),
    st.floats(3, 20),
    st.floats(0.01, 0.99),
)
def test_a_profile_s_height_is_the_inverse_of_its_radius(kind, d, share):
    extra = {
        "v-bit": {"angle": 60, "tip": 0.2},
        "tapered ball": {"angle": 12, "tip": d / 4},
        "bowl": {"corner_radius": d / 3},
        "point roundover": {"tip": d / 8, "corner_radius": d / 4},
        "drill": {"angle": 118},
    }.get(kind, {})
    c = mill(d, kind=kind, **extra)
    radius = c.radius_at(0) + share * (c.radius - c.radius_at(0))
    assume(radius < c.radius - 1e-6)
    h = c.height_at(radius)
    assert c.radius_at(h) >= radius - 1e-6 and c.radius_at(max(0.0, h - 1e-3)) <= radius + 1e-3
    outline = c.silhouette()
    assert (
        all(b >= a - 1e-9 for (_r, a), (_q, b) in itertools.pairwise(outline))
        and max(r for r, _h in outline) >= c.radius - 1e-3
    )


# -- materials


@pytest.mark.parametrize(
    ("name", "gravity"),
    [
        ("northern red oak", 0.63),
        ("black cherry", 0.50),
        ("black walnut", 0.55),
        ("sugar maple", 0.63),
        ("yellow-poplar", 0.42),
        ("white oak", 0.68),
        ("eastern white pine", 0.35),
    ],
)
def test_densities_of_woods(
    name, gravity
):  # Wood Handbook FPL-GTR-282: specific gravity at 12 % moisture x 1120 [M]
    assert find(name).density == pytest.approx(gravity * 1120)


@pytest.mark.parametrize(
    ("name", "density"),
    [
        ("aluminium 6061", 2700),
        ("carbon steel", 7850),
        ("acrylic", 1190),
        ("polycarbonate", 1200),
        ("HDPE", 950),
        ("PVC", 1400),
    ],
)
def test_densities_of_metals_and_plastics(name, density):  # supplier data sheets, Machinery's Handbook [M]
    assert find(name).density == density and all(k.density_source and k.caution for k in KNOWN)


# -- the command

VENZO = Path(sys.executable).parent / "venzo"


def feeds(*args):
    done = subprocess.run([VENZO, "feeds", *args], capture_output=True, text=True, timeout=60)
    return done.returncode, done.stdout, done.stderr


def test_feeds_command_keeps_its_contract(tmp_path):
    code, out, _err = feeds(
        "--material",
        "wood",
        "--tool",
        "flat:9.525:2",
        "--rpm",
        "16000",
        "--feed",
        "15240",
        "--json",
        "--data",
        str(tmp_path),
    )
    said = json.loads(out)
    assert (
        code == 0
        and {
            "chip_load_mm",
            "surface_speed_m_min",
            "rpm",
            "feed_mm_min",
            "plunge_mm_min",
            "max_step_down_mm",
            "snags",
        }
        <= said.keys()
    )
    assert said["chip_load_mm"] == pytest.approx(0.01875 * INCH) and said[
        "max_step_down_mm"
    ] == pytest.approx(0.75 * INCH)
    assert said["surface_speed_m_min"] == pytest.approx(math.pi * 9.525 * 16)
    for bad, word in (
        (("--material", "cheese", "--tool", "flat:6"), "cheese"),
        (("--material", "wood", "--tool", "spoon:6"), "spoon"),
        (("--material", "wood", "--tool", "flat:0"), "flat:0"),
        (("--material", "wood", "--tool", "flat:6", "--rpm", "-5"), "-5"),
        (("--material", "wood", "--tool", "flat:6", "--machine", "nobody's"), "nobody's"),
    ):
        code, out, err = feeds(*bad, "--data", str(tmp_path))
        assert code == 2 and word in err and len(err.strip().splitlines()) == 1 and not out, bad
