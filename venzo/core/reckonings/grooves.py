"""Grooves and floors of shaped cutters: V bits, ball ends, folds."""

from __future__ import annotations

import math

from venzo.core.carving.bit import Bit
from venzo.core.carving.fold import Fold, fold
from venzo.core.feeds.mechanics import ball_lip, cusp, cusp_step
from venzo.core.figure import Mark, Said, Values, arc, box, disc, measure, path, word
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule
from venzo.core.snags import BadInput

_WIDE = 400.0
"""mm; a bit so wide that its own diameter limits nothing."""


def _bit(angle: float, tip: float) -> Bit:
    return Bit(angle, _WIDE, tip)


def _depth(width: float, angle: float, tip: float) -> float:
    depth = float(_bit(angle, tip).depth(width / 2))
    if depth < 0:
        raise BadInput(
            f"a groove {width:g} mm wide is narrower than the bit's flat of {tip:g} mm; no depth makes it"
        )
    return depth


def _width(depth: float, angle: float, tip: float) -> float:
    return 2 * float(_bit(angle, tip).radius(depth))


def _angle(width: float, depth: float, tip: float) -> float:
    return math.degrees(2 * math.atan((width - tip) / 2 / depth))


def _tip(width: float, depth: float, angle: float) -> float:
    return width - _width(depth, angle, 0.0)


def _draw_v(v: Values, shown: Said) -> list[Mark]:
    w, d, t = v["width"] / 2, v["depth"], v["tip"] / 2
    wide, low = 1.9 * w + 0.5, -1.5 * d - 0.3
    return [
        box(-wide, low, wide, 0),
        Mark("cut away", ((-w, 0), (-t, -d), (t, -d), (w, 0))),
        measure((-w, 0.25 * d), (w, 0.25 * d), shown("width")),
        measure((wide * 0.8, 0), (wide * 0.8, -d), shown("depth")),
        word((0, low * 0.9), shown("angle")),
    ]


V_GROOVE = Reckoning(
    name="v-groove",
    title="V groove",
    asks="How deep for a width, how wide at a depth, which bit; also with a flat at its point.",
    fields=(
        Field("angle", "included angle", "angle", 90.0, least=1, most=178),
        Field("tip", "flat at the point", start=0.0, usual=True, most=50),
        Field("width", "width at the surface", start=6.0, least=1e-3, most=_WIDE),
        Field("depth", "depth", least=0, most=_WIDE),
    ),
    rules=(
        Rule("depth", ("width", "angle", "tip"), _depth),
        Rule("width", ("depth", "angle", "tip"), _width),
        Rule("angle", ("width", "depth", "tip"), _angle),
    ),
    formula="depth = (width - flat) / (2 tan(angle / 2))",
    source="exact geometry",
    draw=_draw_v,
    near="engraving carving chamfer vee",
)


def _below(diameter: float, lip: float) -> float:
    r = diameter / 2
    return r - math.sqrt(r * r - (r - lip) ** 2)


def _draw_lip(v: Values, shown: Said) -> list[Mark]:
    r, below, lip = v["diameter"] / 2, v["below"], v["lip"]
    y = r - below
    return [
        box(-2.4 * r, 0, 2.4 * r, 1.6 * r),
        Mark("cut away", ((-r, 1.6 * r), *arc(0, y, r, 180, 360), (r, 1.6 * r))),
        disc(0, y, r),
        path([(-2.4 * r, 0), (2.4 * r, 0)]),
        measure((r - lip, -0.35 * r), (r, -0.35 * r), shown("lip")),
        word((-1.2 * r, -0.55 * r), f"{shown('below')} below the sheet"),
    ]


BALL_LIP = Reckoning(
    name="ball-lip",
    title="Lip of a ball end",
    asks="What does a ball end leave standing at each side of a through cut?",
    fields=(
        Field("diameter", "ball diameter", start=6.35, least=0.05, most=200),
        Field("below", "below the sheet", start=0.508, most=200),
        Field("lip", "lip at each side", most=100, more=1),
    ),
    rules=(
        Rule("lip", ("diameter", "below"), lambda d, below: ball_lip(d / 2, below)),
        Rule("below", ("diameter", "lip"), _below),
    ),
    formula="lip = R - sqrt(2 R h - h^2), h how far the tip goes below the sheet",
    source="exact geometry",
    draw=_draw_lip,
    near="through cut overshoot",
)


def _ball(step: float, height: float, slope: float) -> float:
    half = step / (2 * math.cos(math.radians(slope)))
    return (half * half + height * height) / height


def _draw_cusp(v: Values, shown: Said) -> list[Mark]:
    r, s = v["diameter"] / 2, v["step"]
    rows = [k * s for k in (-1, 0, 1)]
    floor = [p for x in rows for p in arc(x, r, r, 270 - _spread(r, s), 270 + _spread(r, s), 16)]
    edge = rows[-1] + s / 2
    return [
        Mark("stock", ((-edge, -r / 2), *floor, (edge, -r / 2))),
        *(disc(x, r, r) for x in rows[1:2]),
        measure((0, 2.2 * r), (s, 2.2 * r), shown("step")),
        word((0, -0.75 * r), f"ridge {shown('cusp')}"),
    ]


def _spread(r: float, step: float) -> float:
    return math.degrees(math.asin(min(1.0, step / 2 / r)))


CUSP = Reckoning(
    name="cusp",
    title="Ridges of a ball end",
    asks="How high are the ridges between rows, or how far apart may rows be?",
    fields=(
        Field("diameter", "ball diameter", start=6.0, least=0.02, most=200),
        Field("step", "step-over in plan", start=0.6, least=1e-4, most=200, more=1),
        Field("slope", "slope across the rows", "angle", 0.0, usual=True, most=89),
        Field("cusp", "ridge height", least=1e-9, most=100, more=2),
        Field("share", "step-over", "percent", least=1e-3, most=100),
    ),
    rules=(
        Rule("cusp", ("diameter", "step", "slope"), lambda d, s, t: cusp(d / 2, s, t)),
        Rule("step", ("diameter", "cusp", "slope"), lambda d, h, t: cusp_step(d / 2, h, t)),
        Rule("diameter", ("step", "cusp", "slope"), _ball),
        Rule("share", ("step", "diameter"), lambda s, d: 100 * s / d),
        Rule("step", ("share", "diameter"), lambda share, d: share * d / 100),
        Rule("diameter", ("share", "step"), lambda share, s: 100 * s / share),
    ),
    formula="ridge = R - sqrt(R^2 - (s / (2 cos slope))^2), normal to the surface",
    source="exact geometry",
    draw=_draw_cusp,
    near="scallop relief finishing stepover",
)


def _folded(thickness: float, skin: float, fold_angle: float, angle: float, bit: float) -> Fold:
    return fold(thickness, skin, fold_angle, Bit(angle, bit))


_FOLD = ("thickness", "skin", "fold", "angle", "bit")


def _draw_fold(v: Values, shown: Said) -> list[Mark]:
    t, w, d = v["thickness"], v["width"] / 2, v["depth"]
    tip = max(0.0, w - d * math.tan(math.radians(v["angle"]) / 2))
    wide = 2.5 * w + t
    return [
        box(-wide, 0, wide, t),
        Mark("cut away", ((-w, t), (-tip, t - d), (tip, t - d), (w, t))),
        measure((-w, 1.3 * t), (w, 1.3 * t), shown("width")),
        measure((-0.85 * wide, 0), (-0.85 * wide, t), shown("thickness")),
        measure((0.6 * wide, 0), (0.6 * wide, t - d), shown("skin")),
    ]


FOLD = Reckoning(
    name="fold-groove",
    title="Folding groove",
    asks="How deep and wide is the groove a sheet is folded along, and how long is the blank?",
    fields=(
        Field("thickness", "sheet", start=4.0, least=0.1, most=100),
        Field("skin", "skin left", start=0.8, least=0.01, most=100),
        Field("fold", "folded by", "angle", 90.0, least=1, most=179),
        Field("angle", "bit, included angle", "angle", 90.0, usual=True, least=1, most=178),
        Field("bit", "bit diameter", start=_WIDE / 4, usual=True, least=0.5, most=_WIDE),
        Field("depth", "depth of the groove", least=0.001, most=100),
        Field("width", "width at the surface", least=0.001, most=_WIDE),
        Field("closes", "sides meet at", "angle", most=180),
        Field("allowance", "bend allowance", most=1000),
        Field("deduction", "blank is shorter by", least=-1000, most=1000),
    ),
    rules=(
        Rule("skin", ("thickness", "depth"), lambda t, d: t - d),
        Rule("thickness", ("skin", "depth"), lambda s, d: s + d),
        Rule("depth", _FOLD, lambda *a: _folded(*a).depth),
        Rule("width", _FOLD, lambda *a: _folded(*a).width),
        Rule("closes", _FOLD, lambda *a: _folded(*a).closes),
        Rule("allowance", _FOLD, lambda *a: _folded(*a).allowance),
        Rule("deduction", _FOLD, lambda *a: _folded(*a).deduction),
    ),
    formula="depth = sheet - skin; width = 2 depth tan(angle / 2); allowance = fold x 0.44 skin",
    source="exact geometry; bend allowance: Machinery's Handbook (from memory), K = 0.44 common practice",
    draw=_draw_fold,
    near="composite panel bend kerf",
    says=lambda v, _shown: [_folded(*(v[n] for n in _FOLD)).says],
)
