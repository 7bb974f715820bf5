"""The reckonings against published tables and worked examples, each source named beside it; [M]: quoted from
memory; [CP]: common practice; [EX]: exact mathematics.
"""

import math
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Polygon

from venzo.core.reckonings import RECKONINGS, find
from venzo.core.reckonings.quantities import read, show
from venzo.core.reckonings.reckoning import shown, work_out, work_out_all
from venzo.core.snags import BadInput

IN = 25.4


def out(name, **given):
    return work_out_all(find(name), given).values


TABLE = [
    # 600 in/min, 16,000 rpm, 2 flutes -> 0.01875 in [CP]
    ("chip-load", {"feed": 600 * IN, "rpm": 16_000.0, "flutes": 2.0}, "chip_load", 0.01875 * IN),
    # rpm = 12 SFM / (pi D): 1000 ft/min at 1/2 in (Machinery's Handbook, speeds and feeds [M])
    ("edge-speed", {"edge_speed": 304.8, "diameter": 12.7}, "rpm", 12 * 1000 / (math.pi * 0.5)),
    # h = 2 fz sqrt((ae/D)(1 - ae/D)) (Machinery's Handbook, chip thinning [M])
    ("chip-thinning", {"diameter": 10.0, "width": 1.0, "chip_load": 0.2}, "thickness", 0.12),
    # d = F L^3 / (3 E I), I = pi d^4 / 64 (Machinery's Handbook, beam table [M])
    (
        "cutter-bend",
        {"diameter": 6.0, "overhang": 40.0, "force": 100.0},
        "bend",
        100 * 40**3 / (3 * 600_000 * math.pi * 6**4 / 64),
    ),
    # a 1/2 in acrylic sheet with a 3/8 in cutter takes 2 passes; 0.72 in plywood with 0.03 in overshoot 1;
    # 3/4 in at 1/32 in a pass is 24 [CP]
    ("passes", {"depth": 12.7, "family": "plastic", "diameter": 9.525}, "passes", 2),
    ("passes", {"depth": 0.75 * IN, "family": "wood", "diameter": 9.525}, "passes", 1),
    ("passes", {"depth": 0.75 * IN, "step": IN / 32, "excess": 0.0}, "passes", 24),
    # depth = w / (2 tan(a / 2)) [EX]; a flat of 0.5 mm [EX]
    ("v-groove", {"angle": 60.0, "width": 4.0}, "depth", 2 / math.tan(math.radians(30))),
    ("v-groove", {"angle": 90.0, "width": 4.0, "tip": 0.5}, "depth", 1.75),
    # R 0.125 in, 0.02 in below the sheet -> 0.057 in a side [CP], exactly R - sqrt(2 R h - h^2)
    (
        "ball-lip",
        {"diameter": 0.25 * IN, "below": 0.02 * IN},
        "lip",
        (0.125 - math.sqrt(2 * 0.125 * 0.02 - 0.02**2)) * IN,
    ),
    # h = R - sqrt(R^2 - (s/2)^2) [EX]; on a slope s / cos t [EX]
    ("cusp", {"diameter": 6.0, "step": 0.6}, "cusp", 3 - math.sqrt(9 - 0.09)),
    ("cusp", {"diameter": 6.0, "step": 0.6, "slope": 60.0}, "cusp", 3 - math.sqrt(9 - 0.36)),
    # 635 mm, 50.8 mm cutter: 30 rows at 40 %, 116 at 10 % [EX]; 300 mm, 60 mm, 45 %: 10 [EX]
    ("surfacing-rows", {"length": 800.0, "width": 635.0, "cutter": 50.8, "share": 40.0}, "rows", 30),
    ("surfacing-rows", {"length": 800.0, "width": 635.0, "cutter": 50.8, "share": 10.0}, "rows", 116),
    ("surfacing-rows", {"length": 800.0, "width": 300.0, "cutter": 60.0, "share": 45.0}, "rows", 10),
    # 144 cubic inches [EX]: a board 1 in x 8 in x 8 ft is 5 1/3 board feet
    ("board-feet", {"thickness": IN, "width": 8 * IN, "length": 96 * IN}, "board_feet", 16 / 3),
    # 6061 aluminium 2.70 g/cm3 (Machinery's Handbook [M]): a sheet 1 m x 1 m x 3 mm is 8.1 kg
    (
        "sheet-mass",
        {"material": "Aluminium 6061", "thickness": 3.0, "width": 1000.0, "length": 1000.0},
        "mass",
        8.1,
    ),
    # northern red oak, specific gravity 0.63 x 1120 (Wood Handbook FPL-GTR-282 [M])
    (
        "sheet-mass",
        {"material": "Northern red oak", "thickness": 25.0, "width": 200.0, "length": 2000.0},
        "mass",
        0.63 * 1120 * 0.01,
    ),
    # full vacuum 101.325 kPa (ISO 2533) on 100 x 100 mm is 1013.25 N [EX]
    ("vacuum-hold", {"width": 100.0, "height": 100.0, "pressure": 101.325}, "down", 1013.25),
    # 90 degrees: R (sqrt 2 - 1) [EX]
    ("inside-corner", {"diameter": 6.0}, "left", 3 * (math.sqrt(2) - 1)),
    # dog-bone: D (1 - 1 / sqrt 2) / 2 beyond, mouth D / sqrt 2; T-bone: D / 2 beyond, mouth D [EX]
    ("corner-relief", {"diameter": 6.0}, "over", 3 * (1 - 1 / math.sqrt(2))),
    ("corner-relief", {"diameter": 6.0}, "mouth", 6 / math.sqrt(2)),
    ("corner-relief", {"diameter": 6.0, "style": "T-bone"}, "over", 3.0),
    ("corner-relief", {"diameter": 6.0, "style": "T-bone"}, "mouth", 6.0),
    # bend allowance = angle x (r + K x skin) (Machinery's Handbook [M]; K = 0.44 [CP]); groove [EX]
    ("fold-groove", {"thickness": 4.0, "skin": 0.8, "fold": 90.0}, "width", 6.4),
    ("fold-groove", {"thickness": 4.0, "skin": 0.8, "fold": 90.0}, "allowance", math.pi / 2 * 0.44 * 0.8),
    # linear expansion 70e-6 (supplier data sheets [M]): 96 in of acrylic over 30 K
    ("heat-growth", {"material": "acrylic", "length": 96 * IN, "warmer": 30.0}, "growth", 96 * IN * 2.1e-3),
    # tangential coefficient of white oak 0.00365 (Wood Handbook, dimensional change table [M])
    (
        "seasonal-movement",
        {"species": "white oak", "width": 250.0, "dry": 6.0, "damp": 10.0},
        "growth",
        250 * 4 * 0.00365,
    ),
    # flip about X of a board of width W: (x, y) -> (x, W - y); about Y: (L - x, y) [EX]
    ("dowel-flip", {"axis": "X", "x": 50.0, "y": 80.0, "board_y": 400.0}, "y2", 320.0),
    ("dowel-flip", {"axis": "Y", "x": 50.0, "y": 80.0, "board_x": 600.0}, "x2", 550.0),
    # 23/32 in is 18.25625 mm [EX]; 18 mm is nearest to 45/64
    ("fraction", {"length": 18.0}, "nearest", 45 / 64 * IN),
]
GAUGES = [  # sheet steel, Manufacturers' Standard Gauge (Machinery's Handbook [M])
    *(
        (n, t, "steel sheet")
        for n, t in ((11, 0.1196), (14, 0.0747), (16, 0.0598), (18, 0.0478), (20, 0.0359))
    ),
    # aluminium by the Brown & Sharpe gauge (Machinery's Handbook [M])
    *((n, t, "aluminium sheet") for n, t in ((10, 0.1019), (14, 0.0641), (18, 0.0403), (22, 0.0253))),
]


@pytest.mark.parametrize(("name", "given", "asked", "value"), TABLE)
def test_a_value_from_outside(name, given, asked, value):
    assert out(name, **given)[asked] == pytest.approx(value, rel=1e-9)


@pytest.mark.parametrize(("gauge", "inches", "of"), GAUGES)
def test_a_gauge_is_as_thick_as_its_table_says_and_found_again(gauge, inches, of):
    thick = out("gauge", gauge=float(gauge), of=of)["thickness"]
    assert thick / IN == pytest.approx(inches, abs=5e-5)
    assert out("gauge", thickness=thick * 1.01, of=of)["gauge"] == gauge


def test_a_relieved_corner_lets_a_square_one_in():
    """By shapely: a square corner pushed into the relieved one meets nothing; without the relief it does."""
    for style, at in (("dog-bone", (3 / math.sqrt(2),) * 2), ("T-bone", (3.0, 0.0))):
        v = out("corner-relief", diameter=6.0, style=style)
        rounded = Polygon([(0, 0), (60, 0), (60, 60), (0, 60)]).buffer(-3).buffer(3, quad_segs=256)
        relieved = rounded.union(LineString([(3, 3), at]).buffer(3, quad_segs=256))
        square = Polygon([(0, 0), (50, 0), (50, 50), (0, 50)])
        assert square.difference(rounded).area > 1.8 and square.difference(relieved).area < 2e-3
        assert -relieved.bounds[1] == pytest.approx(v["over"], abs=1e-3)
        below = relieved.intersection(LineString([(0, -1e-4), (40, -1e-4)]))
        assert below.bounds[2] == pytest.approx(v["mouth"], abs=5e-3)


def test_a_ball_s_ridge_is_what_two_circles_leave():
    """By sampling the lower side of two balls a step apart."""
    v = out("cusp", diameter=8.0, step=2.0)
    x = np.linspace(0, 2, 20_001)
    floor = np.minimum(4 - np.sqrt(16 - x**2), 4 - np.sqrt(16 - (2 - x) ** 2))
    assert v["cusp"] == pytest.approx(floor.max(), abs=1e-8)


def ways(r):
    """Every set of fields that determines the rest, the usual ones as they stand."""
    free = [f.name for f in r.fields if not f.usual and not r.follows(f.name)]
    start = work_out(r, r.starts()).values
    for n in range(1, len(free) + 1):
        for names in combinations(free, n):
            found = work_out(r, {k: start[k] for k in names})
            if not found.missing and not found.left:
                yield names


@pytest.mark.parametrize("r", RECKONINGS, ids=lambda r: r.name)
def test_any_way_round_says_the_same(r):
    """From whichever fields it is asked, the others come out as they were; counts come out as they were."""
    start = work_out(r, r.starts())
    assert not start.missing and not start.left
    tried = list(ways(r))
    assert tried
    for names in tried:
        again = work_out(r, {k: start.values[k] for k in names})
        same = [f for f in r.fields if not r.rounds or f.name in names or f.kind == "number"]
        for f in same:
            a, b = start.values.get(f.name), again.values.get(f.name)
            if isinstance(a, float | int) and b is not None:
                assert b == pytest.approx(a, rel=1e-6, abs=1e-9), (names, f.name)
    if not r.rounds:  # every field that is worked out by any rule can be the one that is asked for
        asked = {rule.target for rule in r.rules}
        free = {f.name for f in r.fields if not f.usual and not f.aside}
        assert all(any(name not in names for names in tried) for name in asked & free)


EXACT = [r for r in RECKONINGS if not r.rounds and r.name not in ("corner-relief", "sheet-mass")]


@given(st.sampled_from(EXACT), st.data())
def test_any_way_round_for_any_values(r, data):
    """The same with values anywhere from half to one and a half of those it is opened with."""
    start = {
        k: v if isinstance(v, str) or v == 0 else v * data.draw(st.floats(0.5, 1.5))
        for k, v in r.starts().items()
    }
    try:
        first = work_out(r, start)
    except BadInput:
        return  # said as such: a groove narrower than its flat, a lip wider than the ball
    for names in ways(r):
        try:
            again = work_out(
                r,
                {
                    **{k: first.values[k] for k in start if r.field(k).usual},
                    **{k: first.values[k] for k in names},
                },
            )
        except BadInput as e:
            assert "would be" in str(e) or "no " in str(e)  # beyond what the field may be
            continue
        for k, v in first.values.items():
            if isinstance(v, float) and k in again.values and abs(v) > 1e-6:
                assert again.values[k] == pytest.approx(v, rel=1e-5), (names, k)


@given(st.sampled_from(RECKONINGS), st.sampled_from(["mm", "in"]))
def test_what_is_shown_can_be_typed_again(r, unit):
    """A value shown in a unit, typed as shown, is that value as near as its digits say."""
    start = work_out(r, r.starts()).values
    for name, text in shown(r, start, unit).items():
        f = r.field(name)
        if f.kind == "choice":
            continue
        typed = read(text, f.kind, unit)
        assert show(typed, f.kind, unit, f.more) == text
        other = "in" if unit == "mm" else "mm"
        assert read(text, f.kind, other) == pytest.approx(typed, rel=1e-9), "its own unit stands beside it"


@pytest.mark.parametrize("r", RECKONINGS, ids=lambda r: r.name)
def test_each_is_drawn_within_reason_and_cites_its_source(r):
    values = work_out(r, r.starts()).values
    marks = r.draw(values, shown(r, values, "mm").__getitem__)
    points = [p for m in marks for p in m.points]
    assert len(points) > 3 and all(math.isfinite(v) for p in points for v in p)
    assert any(m.text for m in marks) and r.formula and r.source


@pytest.mark.parametrize(
    ("name", "given", "says"),
    [
        ("chip-load", {"feed": 1000.0, "rpm": 16_000.0}, "not enough is given"),
        (
            "chip-load",
            {"feed": 1000.0, "rpm": 16_000.0, "flutes": 2.0, "chip_load": 1.0},
            "follows from what else is given",
        ),
        ("chip-load", {"feed": -1.0, "rpm": 1.0, "flutes": 1.0}, "outside"),
        ("chip-load", {"rpm": math.inf}, "is no number"),
        ("v-groove", {"width": 0.2, "tip": 0.5, "angle": 90.0}, "narrower than the bit's flat"),
        ("cusp", {"diameter": 2.0, "step": 3.0}, "there is no ridge height"),
        ("gauge", {"gauge": 16.5}, "whole number"),
        ("gauge", {"of": "brass"}, "choose one of"),
        ("seasonal-movement", {"dry": 8.0, "damp": 8.0, "growth": 2.0}, "there is no width"),
        ("dowel-flip", {"z": 1.0}, "no field"),
    ],
)
def test_what_cannot_be_is_said(name, given, says):
    with pytest.raises(BadInput, match=says):
        work_out_all(find(name), given)


def test_the_last_typed_stand_and_an_older_one_gives_way():
    r = find("chip-load")
    again = work_out(r, {"chip_load": 0.2, **r.starts()})
    assert again.left == ("feed",) and again.values["feed"] == pytest.approx(0.2 * 16_000 * 2)
    again = work_out(
        r, {"feed": 9000.0, "chip_load": 0.2, **{k: v for k, v in r.starts().items() if k != "feed"}}
    )
    assert again.left == ("rpm",) and again.values["rpm"] == pytest.approx(9000 / 0.4)
