"""What does a house rule do? Each drawn to scale with its own numbers, on one sheet and with one cutter.

>>> [d.rule for d in drawn(HouseRules(), DrawnFor("wood", 6.0, 18.0))][:3]
['step_down', 'roughing_double', 'plunge']
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from venzo.core.figure import Mark, arc, box, disc, measure, path, word
from venzo.core.model import Family, Point
from venzo.core.rules.house import HouseRules
from venzo.core.tooling.head import LEVELS
from venzo.core.voice import counted

FEED = 4_800.0
"""mm/min of the cut that plunges and corners are drawn for."""
MOST_LINES = 80
"""Passes, or pecks, that are drawn one by one."""
BEND_SHOWN = 20.0
"""Times that a bend is drawn larger than it is."""


@dataclass(frozen=True)
class DrawnFor:
    """Material, cutter diameter and thickness of the sheet that rules are drawn for, mm."""

    family: Family
    diameter: float
    thickness: float


@dataclass(frozen=True)
class RuleDrawn:
    """A rule, by its field of the house rules: what it does in a sentence with its numbers, and drawn."""

    rule: str
    says: str
    marks: tuple[Mark, ...]


Scene = tuple[str, list[Mark]]


def drawn(rules: HouseRules, on: DrawnFor) -> list[RuleDrawn]:
    """Every rule that has a figure, in the order of the shelf.

    A rule kept by family is drawn for the one asked for; a family without a number of its own has none.
    """
    scenes = [(name, draw(rules, on)) for name, draw in SCENES.items()]
    return [RuleDrawn(name, scene[0], tuple(scene[1])) for name, scene in scenes if scene]


def _mm(value: float) -> str:
    return f"{round(value, 3):g} mm"


def _slot(x: float, width: float, depth: float, levels: Sequence[float] = ()) -> list[Mark]:
    """A slot from above down to a depth, with the levels of its passes."""
    half = width / 2
    return [
        box(x - half, -depth, x + half, 0, "cut away"),
        *(path([(x - half, -z), (x + half, -z)]) for z in levels),
    ]


def _sheet(wide: float, thick: float) -> Mark:
    return box(-wide / 2, -thick, wide / 2, 0)


def _levels(depth: float, each: float) -> list[float]:
    """Depths of all passes but the last; where they would be too many to be told apart, none."""
    return [each * k for k in range(1, math.ceil(depth / each - 1e-9))] if depth / each < MOST_LINES else []


def _step_down(r: HouseRules, on: DrawnFor) -> Scene:
    d, t = on.diameter, on.thickness
    most = r.largest_step(on.family, d)
    n = r.passes(t, most)
    says = (
        f"{_mm(t)} of {on.family} with {_mm(d)}: {'one pass' if n == 1 else f'{n} passes'} of"
        f" {_mm(t / n)}; at most"
        f" {_mm(most)}, and {round(r.accepted_excess * 100, 1):g} % over it before a further pass is made"
    )
    marks = [
        _sheet(8 * d, t),
        *_slot(0, d, t, _levels(t, t / n)),
        measure((-2.5 * d, 0), (-2.5 * d, -t / n), _mm(t / n)),
    ]
    return says, [*marks, measure((1.5 * d, 0), (1.5 * d, -t), _mm(t))]


def _roughing(r: HouseRules, on: DrawnFor) -> Scene:
    d, t = on.diameter, on.thickness
    usual, rough = (r.largest_step(on.family, d, kind) for kind in ("", "roughing"))
    marks = [_sheet(10 * d, max(t, 1.1 * rough))]
    for x, deep, name in ((-2.5 * d, usual, "other cutters"), (2.5 * d, rough, "rougher")):
        marks += [
            *_slot(x, d, deep),
            measure((x + d, 0), (x + d, -deep), _mm(deep)),
            word((x, 0.25 * d), name),
        ]
    return f"deepest pass with {_mm(d)}: {_mm(usual)}, a rougher {_mm(rough)}", marks


def _plunge(r: HouseRules, on: DrawnFor) -> Scene:
    d = on.diameter
    step = min(r.largest_step(on.family, d), on.thickness)
    angle = math.degrees(math.atan2(step, r.ramp_length))
    slope = [(0.0, 0.0), (r.ramp_length, -step), (r.ramp_length + 3 * d, -step)]
    says = (
        f"a ramp of {_mm(r.ramp_length)} goes {_mm(step)} down, {angle:.1f} degrees steep; straight"
        f" down a feed"
        f" of {FEED:g} mm/min becomes {r.plunge_feed(FEED):g} mm/min"
    )
    return says, [
        box(-4 * d, -on.thickness, r.ramp_length + 4 * d, 0),
        path(slope),
        path([(-2 * d, 0.8 * d), (-2 * d, -step)]),
        measure((0, 1.2 * d), (r.ramp_length, 1.2 * d), _mm(r.ramp_length)),
        measure((r.ramp_length + 2 * d, 0), (r.ramp_length + 2 * d, -step), _mm(step)),
    ]


def _entry(r: HouseRules, on: DrawnFor) -> Scene | None:
    way = r.entry.get(on.family)
    if way is None:
        return None
    d = on.diameter
    step, long = min(r.largest_step(on.family, d), on.thickness), min(r.ramp_length, 8 * d)
    turns = [k / 24 for k in range(24 * 3 + 1)]
    lines: dict[str, list[Point]] = {
        "plunge": [(0, d), (0, -step), (long, -step)],
        "ramp": [(0, d), (0, 0), (long, -step), (1.3 * long, -step)],
        "zigzag": [(0, d), (0, 0), (long, -step / 2), (0, -step), (1.3 * long, -step)],
        "helix": [
            (0, d),
            *((d / 2 * math.sin(2 * math.pi * u), -step * u / 3) for u in turns),
            (long, -step),
        ],
    }
    words = {
        "plunge": "straight down, at plunge feed",
        "ramp": "down a slope along the cut",
        "zigzag": "down to and fro along the cut",
        "helix": "down a spiral",
    }
    return f"in {on.family} the cutter goes in {words[way]}", [
        box(-3 * d, -on.thickness, 1.3 * long + 2 * d, 0),
        path(lines[way]),
        word((long / 2, 0.6 * d), words[way]),
    ]


def _direction(which: str) -> Callable[[HouseRules, DrawnFor], Scene | None]:
    def scene(r: HouseRules, on: DrawnFor) -> Scene | None:
        way = (r.rough_direction if which == "roughing" else r.finish_direction).get(on.family)
        if way is None:
            return None
        d = on.diameter
        ahead = 1 if way == "climb" else -1
        tip = (ahead * 4.5 * d, d / 2)
        arrow = [(ahead * d, d / 2), tip, (tip[0] - ahead * d / 3, d / 2 + d / 4), tip]
        turn = arc(0, d / 2, d / 3, 200, -70)
        side = "right" if way == "climb" else "left"
        thick, into = ("thick", "thin") if way == "climb" else ("thin", "thick")
        return (
            f"{which} of {on.family}: {way}; seen from above with the spindle turning right, the"
            f" piece lies to"
            f" the {side} of the way and chips begin {thick} and end {into}",
            [
                box(-6 * d, -3 * d, 6 * d, 0),
                disc(0, d / 2, d / 2),
                path(turn),
                path(
                    [
                        (turn[-1][0] + d / 6, turn[-1][1] + d / 8),
                        turn[-1],
                        (turn[-1][0] + d / 7, turn[-1][1] - d / 9),
                    ]
                ),
                path(arrow),
                word((0, -1.5 * d), "piece"),
                word((ahead * 3 * d, 1.3 * d), way),
            ],
        )

    return scene


def _side_allowance(r: HouseRules, on: DrawnFor) -> Scene | None:
    left = r.side_allowance.get(on.family)
    if left is None:
        return None
    d, t = on.diameter, on.thickness
    return f"roughing leaves {_mm(left)} on walls of {on.family} for a finishing pass", [
        box(-3 * d, -t, 0, 0),
        box(0, -t, left, 0, "thing"),
        box(left, -t, left + d, 0.3 * d, "cutter"),
        measure((0, 0.8 * d), (left, 0.8 * d), _mm(left)),
        word((-1.5 * d, -t / 2), "piece"),
    ]


def _overshoot(r: HouseRules, on: DrawnFor) -> Scene | None:
    over = r.overshoot.get(on.family)
    if over is None:
        return None
    d, t = on.diameter, on.thickness
    return f"through cuts go {_mm(over)} below a sheet of {on.family}, into the spoilboard", [
        box(-4 * d, -t, 4 * d, 0),
        box(-4 * d, -t - d, 4 * d, -t, "thing"),
        box(-d / 2, -t - over, d / 2, 0, "cut away"),
        measure((d, -t), (d, -t - over), _mm(over)),
        word((-2.3 * d, -t - 0.65 * d), "spoilboard"),
    ]


def _peck(r: HouseRules, on: DrawnFor) -> Scene | None:
    share = r.peck.get(on.family)
    if share is None:
        return None
    d, t = on.diameter, on.thickness
    each = share * d
    n = max(1, math.ceil(t / each - 1e-9))
    says = (
        f"{_mm(d)} drilled {_mm(t)} deep in {on.family}: {'one peck' if n == 1 else f'{n} pecks'} of at"
        f" most {_mm(each)}"
    )
    levels = _levels(t, each)
    return says, [
        _sheet(6 * d, t),
        *_slot(0, d, t, levels),
        measure((1.2 * d, 0), (1.2 * d, -min(each, t)), _mm(min(each, t))),
    ]


def _carve_step(r: HouseRules, on: DrawnFor) -> Scene | None:
    step = r.carve_step.get(on.family)
    if step is None:
        return None
    deep = max(2 * step, on.thickness / 2)
    n = math.ceil(deep / step - 1e-9)
    groove = Mark("cut away", ((-deep, 0), (0, -deep), (deep, 0)))
    lines = [path([(-(deep - z), -z), (deep - z, -z)]) for z in _levels(deep, step)]
    return (
        f"a V bit of 90 degrees carves {on.family} in passes of at most {_mm(step)}: {n} for {_mm(deep)}",
        [
            box(-2 * deep, -1.4 * deep, 2 * deep, 0),
            groove,
            *lines,
            measure((1.3 * deep, 0), (1.3 * deep, -step), _mm(step)),
        ],
    )


def _pockets(r: HouseRules, on: DrawnFor) -> Scene:
    d = on.diameter
    step, wide = r.step_over * d, 8 * d
    rows = [d / 2 + step * k for k in range(int((4 * d) / step) + 1)]
    high = rows[-1] + d / 2
    last = rows[min(1, len(rows) - 1)]
    says = (
        f"rows {_mm(step)} apart with {_mm(d)}; of a feed of {FEED:g} mm/min walls get"
        f" {r.wall_feed * FEED:g} mm/min,"
        f" corners {r.corner_feed * FEED:g} mm/min where a step slows in them"
    )
    return says, [
        box(-2 * d, -1.5 * d, wide + 2 * d, high + 1.5 * d),
        box(0, 0, wide, high, "cut away"),
        *(path([(d / 2, y), (wide - d / 2, y)]) for y in rows),
        disc(wide / 2, rows[0], d / 2),
        disc(wide / 2, last, d / 2),
        measure((wide / 2 + d, rows[0]), (wide / 2 + d, last), _mm(last - rows[0] or step)),
    ]


def _not_drawn(r: HouseRules, on: DrawnFor) -> Scene:
    d, t = on.diameter, on.thickness
    deep = None if r.undrawn_depth is None else r.undrawn_depth * t
    shown = deep if deep is not None else t / 3
    says = (
        f"pockets and grooves drawn without a depth: {'asked for' if deep is None else _mm(deep)};"
        f" engraving goes"
        f" {_mm(r.engraving_depth)} deep"
    )
    return says, [
        _sheet(14 * d, t),
        box(-5 * d, -shown, -d, 0, "cut away"),
        word((-3 * d, -shown / 2), "?") if deep is None else measure((-3 * d, 0), (-3 * d, -deep), _mm(deep)),
        *_slot(3 * d, d / 4, r.engraving_depth),
        measure((4 * d, 0), (4 * d, -r.engraving_depth), _mm(r.engraving_depth)),
    ]


def _hold(r: HouseRules, on: DrawnFor) -> Scene:
    d, t, h = on.diameter, on.thickness, r.hold
    friction, tab = h.friction.get(on.family), h.tab_strength.get(on.family)
    parts = [
        None if friction is None else f"pressed down with 100 N it bears {100 * friction:g} N sideways",
        None if tab is None else f"a tab of 4 x 1.5 mm bears {6 * tab:g} N",
        f"a screw {h.screw_shear:g} N",
    ]
    says = (
        f"{on.family}: {', '.join(p for p in parts if p)}; a piece with less than"
        f" {h.margin:g} times its load is to be looked at"
    )
    x = 3.5 * d
    return says, [
        box(-6 * d, -t - d, 6 * d, -t, "thing"),
        box(-5 * d, -t, x, 0),
        box(x, -t, x + 1.5 * d, -t + 1.5, "thing"),
        word((x + 2.4 * d, -t + 2.2 * d), "tab"),
        box(-3.5 * d, -t - 0.7 * d, -3 * d, 0, "cutter"),
        word((-3.25 * d, 0.5 * d), f"screw {h.screw_shear:g} N"),
        path([(0, 2 * d), (0, 0), (-d / 3, d / 2), (0, 0), (d / 3, d / 2)]),
        word((0, 2.3 * d), "pressed down"),
        path(
            [
                (x + 3 * d, -t / 2),
                (x, -t / 2),
                (x + d / 2, -t / 2 + d / 3),
                (x, -t / 2),
                (x + d / 2, -t / 2 - d / 3),
            ]
        ),
    ]


def _between(r: HouseRules, on: DrawnFor) -> Scene:
    d = on.diameter
    kerfs = 1 if r.between == "one kerf" else 2
    gap = kerfs * d + r.web
    high = 5 * d
    says = (
        f"pieces lie {_mm(gap)} apart with {_mm(d)}: {'one cut' if kerfs == 1 else 'two cuts'} and a web of"
        f" {_mm(r.web)}"
    )
    marks = [
        box(-5 * d, 0, 0, high),
        box(gap, 0, gap + 5 * d, high),
        disc(d / 2, high / 2, d / 2),
        measure((0, high + 0.4 * d), (gap, high + 0.4 * d), _mm(gap)),
        word((-2.5 * d, high / 2), "piece"),
        word((gap + 2.5 * d, high / 2), "piece"),
    ]
    if r.web > 0:
        marks.append(box(d, 0, d + r.web, high, "thing"))
    if kerfs == 2:
        marks.append(disc(gap - d / 2, high / 2, d / 2))
    return says, marks


def _bore(r: HouseRules, on: DrawnFor) -> Scene:
    d = on.diameter
    hole = r.bore_upto * d
    way = max((hole - d) / 2, 0.0)
    return (
        f"round holes of up to {_mm(hole)} are bored by helix with {_mm(d)}; larger ones are contours",
        [
            box(-0.8 * hole, -0.7 * hole, 0.8 * hole, 0.7 * hole),
            disc(0, 0, hole / 2, "cut away"),
            path(arc(0, 0, way, 0, 330)),
            disc(way, 0, d / 2),
            measure((-hole / 2, -0.6 * hole), (hole / 2, -0.6 * hole), _mm(hole)),
        ],
    )


def _bend(r: HouseRules, on: DrawnFor) -> Scene:
    d, long = on.diameter, 6 * on.diameter
    shown = r.deflection_limit * BEND_SHOWN
    # a beam held at one end and pushed at the other: y = f (3 u2 - u3) / 2
    line = [(shown * (3 * u * u - u**3) / 2, -long * u) for u in (k / 20 for k in range(21))]
    bent = tuple([(x - d / 2, y) for x, y in line] + [(x + d / 2, y) for x, y in reversed(line)])
    return (
        f"a tip that bends {_mm(r.deflection_limit)} or less is not questioned; drawn {BEND_SHOWN:g} times"
        " larger",
        [
            box(-1.5 * d, 0, 1.5 * d, d, "thing"),
            Mark("cutter", bent),
            path([(0, 0), (0, -long - d / 2)]),
            measure((0, -long - d / 2), (shown, -long - d / 2), _mm(r.deflection_limit)),
        ],
    )


def _jet(r: HouseRules, on: DrawnFor) -> Scene:
    """The edge that a jet leaves, seen from aside: the faster it goes, the further its lines lag below."""
    t = on.thickness
    share = LEVELS[r.jet_level - 1]
    lag = 0.8 * t * share**2
    wide = 6 * t
    lines = [
        path([(x + lag * (k / 12) ** 2, -t * k / 12) for k in range(13)])
        for x in (-wide / 2 + t * 0.3 * n for n in range(1, 17))
    ]
    return (
        f"a jet starts at edge quality {r.jet_level} of 5: {round(100 * share)} % of the feed in its chart;"
        " how far lines lag is drawn by feel",
        [_sheet(wide + 2 * t, t), *lines, measure((wide / 2, -t), (wide / 2 + lag, -t), "lag")],
    )


def _turning(r: HouseRules, on: DrawnFor) -> Scene:
    """A sheet with something cut into both faces, and a dowel that holds it where it lay."""
    least = r.turning.least_floor
    t = max(on.thickness, 1.25 * least)
    half, wide = (t - least) / 2, 3 * t
    marks = [
        _sheet(2 * wide, t),
        box(-0.4 * wide, -half, 0.2 * wide, 0, "cut away"),
        box(-0.1 * wide, -t, 0.5 * wide, -t + half, "cut away"),
    ]
    if least > 0:
        marks.append(measure((0.05 * wide, -half), (0.05 * wide, -half - least), _mm(least)))
    pins = sorted(r.turning.dowels, key=lambda d: d.diameter)
    said = "no dowels"
    if pins:
        first = pins[0]
        said = (
            f"{counted(len(pins), 'sort')} of dowel, the thinnest of {_mm(first.diameter)} in a hole of"
            f" {_mm(first.diameter + first.fit)}"
        )
        marks.append(box(-0.8 * wide, -t - 0.6 * t, -0.8 * wide + first.diameter, -0.2 * t, "thing"))
    return f"less than {_mm(least)} between the faces is looked at; {said}", marks


SCENES: dict[str, Callable[[HouseRules, DrawnFor], Scene | None]] = {
    "step_down": _step_down,
    "roughing_double": _roughing,
    "plunge": _plunge,
    "entry": _entry,
    "rough_direction": _direction("roughing"),
    "finish_direction": _direction("finishing"),
    "side_allowance": _side_allowance,
    "overshoot": _overshoot,
    "peck": _peck,
    "carve_step": _carve_step,
    "step_over": _pockets,
    "undrawn_depth": _not_drawn,
    "hold": _hold,
    "turning": _turning,
    "between": _between,
    "jet_level": _jet,
    "bore_upto": _bore,
    "deflection_limit": _bend,
}
"""By the field of the house rules that stands for the line of the shelf."""
