"""What moves: sheets in the heat, boards in the seasons, holes when a board is turned over."""

from __future__ import annotations

from typing import get_args

from venzo.core.figure import Mark, Said, Values, box, disc, measure, path, word
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule
from venzo.core.stock.movement import (
    EXPANSION,
    SHRINKAGE,
    Grain,
    heat_growth,
    seasonal_movement,
    shrinkage,
)


def _draw_growth(v: Values, shown: Said) -> list[Mark]:
    long = v["length"]
    more = 0.06 * long * (1 if v["growth"] >= 0 else -1)
    return [
        box(0, 0, long, 0.3 * long),
        path([(long + more, -0.04 * long), (long + more, 0.34 * long)]),
        measure((0, -0.09 * long), (long, -0.09 * long), shown("length")),
        word((long / 2, 0.38 * long), f"{shown('growth')} longer" if v["growth"] >= 0 else shown("growth")),
    ]


HEAT = Reckoning(
    name="heat-growth",
    title="Growth with heat",
    asks="How much longer is a sheet in the sun than on the machine?",
    fields=(
        Field("material", "material", "choice", "acrylic", usual=True, words=tuple(EXPANSION)),
        Field("expansion", "expansion", "expansion", least=1e-7, most=1e-3),
        Field("length", "length", start=2440.0, least=0.1, most=100_000),
        Field("warmer", "warmer by", "temperature", 15.0, least=-200, most=500),
        Field("growth", "grows by", least=-1000, most=1000),
    ),
    rules=(
        Rule("expansion", ("material",), EXPANSION.__getitem__, offered=True),
        Rule("growth", ("length", "warmer", "expansion"), heat_growth),
        Rule("warmer", ("growth", "length", "expansion"), lambda g, x, a: g / heat_growth(x, 1.0, a)),
        Rule("length", ("growth", "warmer", "expansion"), lambda g, t, a: g / heat_growth(1.0, t, a)),
    ),
    formula="growth = length x expansion x temperature difference",
    source="exact law; coefficients: supplier data sheets (from memory), HDPE differs by grade",
    draw=_draw_growth,
    near="thermal plastic fit",
)


def _draw_season(v: Values, shown: Said) -> list[Mark]:
    wide = v["width"]
    more = 0.05 * wide * (1 if v["growth"] >= 0 else -1)
    rings = [path([(wide * k / 12, 0.05 * wide), (wide * (k + 0.6) / 12, 0.25 * wide)]) for k in range(12)]
    return [
        box(0, 0, wide, 0.3 * wide),
        *rings,
        path([(wide + more, -0.04 * wide), (wide + more, 0.34 * wide)]),
        measure((0, -0.1 * wide), (wide, -0.1 * wide), shown("width")),
        word((wide / 2, 0.38 * wide), shown("growth")),
    ]


SEASON = Reckoning(
    name="seasonal-movement",
    title="Movement with the seasons",
    asks="How much does a board's width move between a dry and a damp room?",
    fields=(
        Field("species", "species", "choice", "white oak", usual=True, words=tuple(SHRINKAGE)),
        Field("grain", "the width goes", "choice", "across flat-sawn", usual=True, words=get_args(Grain)),
        Field("coefficient", "change a percent of moisture", "number", least=1e-5, most=0.02, more=3),
        Field("width", "width", start=300.0, least=0.1, most=20_000),
        Field("dry", "moisture now", "percent", 8.0, least=4, most=25),
        Field("damp", "moisture later", "percent", 12.0, least=4, most=25),
        Field("growth", "moves by", least=-2000, most=2000),
    ),
    rules=(
        Rule("coefficient", ("species", "grain"), shrinkage, offered=True),
        Rule(
            "growth",
            ("width", "dry", "damp", "coefficient"),
            lambda w, a, b, c: seasonal_movement(w, b - a, c),
        ),
        Rule(
            "width",
            ("growth", "dry", "damp", "coefficient"),
            lambda g, a, b, c: g / seasonal_movement(1.0, b - a, c),
        ),
        Rule(
            "damp",
            ("growth", "width", "dry", "coefficient"),
            lambda g, w, a, c: a + g / seasonal_movement(w, 1.0, c),
        ),
        Rule(
            "dry",
            ("growth", "width", "damp", "coefficient"),
            lambda g, w, b, c: b - g / seasonal_movement(w, 1.0, c),
        ),
    ),
    formula="movement = width x coefficient x change of moisture, between 6 and 14 %",
    source="Wood Handbook FPL-GTR-282, dimensional change table (coefficients from memory)",
    draw=_draw_season,
    near="wood swelling shrinking moisture solid",
)

AXES = ("X", "Y")


def _draw_flip(v: Values, shown: Said) -> list[Mark]:
    w, h = v["board_x"], v["board_y"]
    axis = [(0, h / 2), (w, h / 2)] if v["axis"] == "X" else [(w / 2, 0), (w / 2, h)]
    r = min(w, h) / 40
    return [
        box(0, 0, w, h),
        path(axis),
        disc(v["x"], v["y"], r),
        disc(v["x2"], v["y2"], r, "thing"),
        word((v["x"], v["y"] + 2.4 * r), f"{shown('x')}, {shown('y')}"),
        word((v["x2"], v["y2"] - 3.6 * r), f"{shown('x2')}, {shown('y2')}"),
    ]


FLIP = Reckoning(
    name="dowel-flip",
    title="A hole when the board is turned over",
    asks="Where does a dowel or a hole lie after the board is flipped about an axis?",
    fields=(
        Field("axis", "flipped about", "choice", "X", usual=True, words=AXES),
        Field("board_x", "board in X", start=600.0, usual=True, least=1, most=20_000),
        Field("board_y", "board in Y", start=400.0, usual=True, least=1, most=20_000),
        Field("x", "X before", start=50.0, least=-20_000, most=20_000),
        Field("y", "Y before", start=80.0, least=-20_000, most=20_000),
        Field("x2", "X after", least=-20_000, most=20_000),
        Field("y2", "Y after", least=-20_000, most=20_000),
    ),
    rules=(
        *(
            Rule(a, (b, "axis", "board_x"), lambda x, axis, w: x if axis == "X" else w - x)
            for a, b in (("x2", "x"), ("x", "x2"))
        ),
        *(
            Rule(a, (b, "axis", "board_y"), lambda y, axis, h: h - y if axis == "X" else y)
            for a, b in (("y2", "y"), ("y", "y2"))
        ),
    ),
    formula="about X: (x, y) -> (x, H - y); about Y: (x, y) -> (W - x, y); corner at 0, 0",
    source="exact geometry",
    draw=_draw_flip,
    near="two sided register pin dowel face",
)
