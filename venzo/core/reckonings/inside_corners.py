"""What a round cutter leaves in corners, and how a corner is relieved."""

from __future__ import annotations

import math

import numpy as np

from venzo.core.figure import Mark, Said, Values, arc, disc, measure, path, word
from venzo.core.geometry.contour import Contour
from venzo.core.parts.corners import corners, left_in_corner, relieved
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule
from venzo.core.snags import BadInput


def _draw_inside(v: Values, shown: Said) -> list[Mark]:
    r = v["diameter"] / 2
    half = math.radians(v["angle"]) / 2
    far, away = 5 * r, r / math.sin(half)
    legs = [
        (far * math.cos(half), far * math.sin(half)),
        (0.0, 0.0),
        (far * math.cos(half), -far * math.sin(half)),
    ]
    return [
        path(legs),
        disc(away, 0, r),
        measure((0, 0), (away - r, 0), shown("left")),
        word((away, 1.4 * r), f"radius {shown('radius')}"),
    ]


INSIDE = Reckoning(
    name="inside-corner",
    title="Inside radius and cutter",
    asks="Which cutter fits an inside radius, and how much stays in a sharp corner?",
    fields=(
        Field("diameter", "cutter diameter", start=6.0, least=0.02, most=500),
        Field("radius", "inside radius it leaves", least=0.01, most=250),
        Field("angle", "angle of the corner", "angle", 90.0, usual=True, least=5, most=175),
        Field("left", "stays in a sharp corner", most=10_000),
    ),
    rules=(
        Rule("radius", ("diameter",), lambda d: d / 2),
        Rule("diameter", ("radius",), lambda r: 2 * r),
        Rule("left", ("radius", "angle"), left_in_corner),
        Rule("radius", ("left", "angle"), lambda left, a: left / left_in_corner(1.0, a)),
    ),
    formula="stays = R (1 / sin(angle / 2) - 1), from the corner to the cutter",
    source="exact geometry",
    draw=_draw_inside,
    near="fillet pocket",
)

STYLES = ("dog-bone", "T-bone")


def _pocket(diameter: float, style: str) -> tuple[Contour, Contour]:
    """A square corner with room round it, and the same relieved as parts are."""
    side = 20 * diameter
    square = Contour(np.array([[0, 0, 0], [side, 0, 0], [side, side, 0], [0, side, 0]], dtype=float), True)
    corner = next(c for c in corners(square, hole=True) if abs(c.x) + abs(c.y) < 1e-9)
    made = relieved(square, corner, diameter / 2, "dog-bone" if style == "dog-bone" else "T-bone, long side")
    if made is None:
        raise BadInput(f"a corner cannot be relieved by a cutter of {diameter:g} mm")
    return square, made


def _over(diameter: float, style: str) -> float:
    x0, y0, _x1, _y1 = _pocket(diameter, style)[1].bbox
    return -min(x0, y0)


def _mouth(diameter: float, style: str) -> float:
    """How much of a side the relief opens."""
    v = _pocket(diameter, style)[1].vertices
    on_sides = [max(x, y) for x, y, _b in v if min(abs(x), abs(y)) < 1e-9 and max(x, y) < 10 * diameter]
    return max(on_sides)


def _draw_relief(v: Values, shown: Said) -> list[Mark]:
    d = v["diameter"]
    r = d / 2
    x, y = (r / math.sqrt(2),) * 2 if v["style"] == "dog-bone" else (r, 0.0)
    return [
        Mark("cut away", ((0, 0), (3 * d, 0), (3 * d, 3 * d), (0, 3 * d))),
        Mark("cut away", tuple(arc(x, y, r, 0, 360))),
        disc(x, y, r),
        measure((0, -1.1 * r), (v["mouth"], -1.1 * r), shown("mouth")),
        word((1.6 * d, 1.6 * d), f"{shown('over')} beyond the side"),
    ]


RELIEF = Reckoning(
    name="corner-relief",
    title="Dog-bone and T-bone",
    asks="How far does the relief of a square corner go beyond its sides, and how wide is its mouth?",
    fields=(
        Field("style", "relief", "choice", "dog-bone", usual=True, words=STYLES),
        Field("diameter", "cutter diameter", start=6.0, least=0.05, most=200),
        Field("over", "beyond the side", most=200),
        Field("mouth", "mouth along the side", most=400),
    ),
    rules=(
        Rule("over", ("diameter", "style"), _over),
        Rule("mouth", ("diameter", "style"), _mouth),
        # a relief grows evenly with its cutter
        Rule("diameter", ("over", "style"), lambda over, style: over / _over(1.0, style)),
        Rule("diameter", ("mouth", "style"), lambda mouth, style: mouth / _mouth(1.0, style)),
    ),
    formula="dog-bone: mouth D / sqrt 2, beyond D (1 - 1 / sqrt 2) / 2; T-bone: mouth D, beyond D / 2",
    source="exact geometry; the outlines are those that parts are given",
    draw=_draw_relief,
    near="joints tab slot mortise",
)
