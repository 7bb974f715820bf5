"""Board feet, mass, gauge, and fractions of an inch."""

from __future__ import annotations

from collections.abc import Callable
from typing import get_args

from venzo.core.figure import Mark, Said, Values, box, measure, path, word
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule
from venzo.core.stock.amounts import Gauged, board_feet, gauge_thickness, mass, nearest_gauge
from venzo.core.stock.known import KNOWN
from venzo.core.units import as_fraction

_SIZES = (
    Field("thickness", "thickness", start=18.0, least=0.01, most=500),
    Field("width", "width", start=1220.0, least=0.1, most=20_000),
    Field("length", "length", start=2440.0, least=0.1, most=20_000),
    Field("count", "pieces", "number", 1.0, usual=True, least=1, most=100_000),
)


def _draw_slab(v: Values, shown: Said) -> list[Mark]:
    x, y, t = v["length"], v["width"], max(v["thickness"], v["width"] / 25)
    dx, dy = 0.35 * y, 0.3 * y
    return [
        Mark("stock", ((0, 0), (x, 0), (x + dx, dy), (dx, dy))),
        Mark("thing", ((0, 0), (x, 0), (x, -t), (0, -t))),
        Mark("thing", ((x, 0), (x + dx, dy), (x + dx, dy - t), (x, -t))),
        measure((0, -t - 0.12 * y), (x, -t - 0.12 * y), shown("length")),
        measure((x + 0.1 * y, -t), (x + dx + 0.1 * y, dy - t), shown("width")),
        measure((-0.1 * y, -t), (-0.1 * y, 0), shown("thickness")),
    ]


_SIDES = ("length", "width", "thickness")


def _back(product: Callable[..., float], goal: str, *more: str) -> tuple[Rule, ...]:
    """The sizes of a product any way round: a side is to its like as what is wanted to what that gives."""

    def rule(side: str) -> Rule:
        names = (*_SIDES, *more)

        def by(wanted: float, *others: float) -> float:
            given = dict(zip((n for n in names if n != side), others, strict=True))
            return wanted / product(*(1.0 if n == side else given[n] for n in names))

        return Rule(side, (goal, *(n for n in names if n != side)), by)

    return tuple(rule(side) for side in _SIDES)


BOARD_FEET = Reckoning(
    name="board-feet",
    title="Board feet",
    asks="How many board feet are these boards?",
    fields=(
        Field("thickness", "thickness", start=25.4, least=0.01, most=500),
        Field("width", "width", start=203.2, least=0.1, most=20_000),
        Field("length", "length", start=2438.4, least=0.1, most=20_000),
        _SIZES[3],
        Field("board_feet", "board feet", "board feet", least=1e-6, most=1e6),
    ),
    rules=(
        Rule("board_feet", ("length", "width", "thickness", "count"), board_feet),
        *_back(board_feet, "board_feet", "count"),
    ),
    formula="board feet = length x width x thickness / 144 cubic inches",
    source="exact: a board foot is 144 cubic inches",
    draw=_draw_slab,
    near="lumber timber hardwood volume",
)

ALONE = 25.0
"""kg; what one person lifts at most (common practice; local rules and health may say less)."""
MATERIALS = {m.name: m.density for m in KNOWN}
MASS = Reckoning(
    name="sheet-mass",
    title="Mass of a sheet",
    asks="How heavy is it? Can two people lift it?",
    fields=(
        Field("material", "material", "choice", "Birch plywood", usual=True, words=tuple(MATERIALS)),
        Field("density", "density", "density", least=1, most=25_000),
        *_SIZES,
        Field("mass", "mass", "mass", least=1e-6, most=1e6),
    ),
    rules=(
        Rule("density", ("material",), MATERIALS.__getitem__, offered=True),
        Rule("mass", ("length", "width", "thickness", "density", "count"), mass),
        *_back(mass, "mass", "density", "count"),
    ),
    formula="mass = length x width x thickness x density",
    source="densities: Wood Handbook FPL-GTR-282 at 12 % moisture and supplier data sheets (from memory)",
    draw=_draw_slab,
    near="weight lifting density",
    says=lambda v, shown: (
        [f"{shown('mass')} is more than one person should lift: take a second person or a lift"]
        if v["mass"] > ALONE
        else []
    ),
)


def _draw_gauge(v: Values, shown: Said) -> list[Mark]:
    t = v["thickness"]
    return [box(0, 0, 8 * t, t), measure((8.6 * t, 0), (8.6 * t, t), shown("thickness"))]


GAUGE = Reckoning(
    name="gauge",
    title="Gauge of sheet metal",
    asks="How thick is a gauge number, and which gauge is nearest to a sheet?",
    fields=(
        Field("of", "sheet", "choice", "steel sheet", usual=True, words=get_args(Gauged)),
        Field("gauge", "gauge", "number", 16.0, least=7, most=30),
        Field("thickness", "thickness", least=0.1, most=10, more=1),
    ),
    rules=(
        Rule("thickness", ("gauge", "of"), gauge_thickness),
        Rule("gauge", ("thickness", "of"), lambda t, of: float(nearest_gauge(t, of))),
    ),
    formula="steel: Manufacturers' Standard Gauge, a table; aluminium: 0.005 in x 92^((36 - n) / 39)",
    source="Machinery's Handbook and ASTM B258, from memory; measure the sheet all the same",
    draw=_draw_gauge,
    rounds=True,
    near="metal thickness",
)


PARTS_OF_AN_INCH = ("8", "16", "32", "64")


def _nearest(length: float, parts: str) -> float:
    return round(length / 25.4 * int(parts)) * 25.4 / int(parts)


def _draw_fraction(v: Values, shown: Said) -> list[Mark]:
    length, n = v["length"], int(v["parts"])
    first = max(0, int(length / 25.4 * n) - 4)
    ticks = [
        path([(k * 25.4 / n, 0), (k * 25.4 / n, (1.6 if k % 2 == 0 else 1.0) * 12 / n)])
        for k in range(first, first + 10)
    ]
    low, high = first * 25.4 / n, (first + 9) * 25.4 / n
    return [
        path([(low, 0), (high, 0)]),
        *ticks,
        path([(length, 0), (length, -30 / n)]),
        word((length, -40 / n), f"{shown('length')}, nearest {as_fraction(v['nearest'])}"),
    ]


FRACTION = Reckoning(
    name="fraction",
    title="Fractions of an inch",
    asks="Which fraction is nearest to a length, and how far off is it?",
    fields=(
        Field("length", "length", start=17.6, least=0, most=100_000, more=1),
        Field("parts", "to the nearest 1/", "choice", "64", usual=True, words=PARTS_OF_AN_INCH),
        Field("nearest", "nearest fraction", least=0, most=200_000, more=1),
        Field("off", "it is off by", least=-10, most=10, more=1),
    ),
    rules=(
        Rule("nearest", ("length", "parts"), _nearest),
        Rule("off", ("length", "nearest"), lambda length, nearest: nearest - length),
    ),
    formula="1 in = 25.4 mm exactly",
    source="the international inch of 1959",
    draw=_draw_fraction,
    rounds=True,
    near="inch decimal convert",
    says=lambda v, shown: [f"{shown('length')} is nearest to {as_fraction(v['nearest'])}"],
)
