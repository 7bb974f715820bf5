"""What holds: vacuum over an area, screws, tabs."""

from __future__ import annotations

import math

from venzo.core.figure import Mark, Said, Values, box, disc, measure, path, word
from venzo.core.holding.strength import (
    HoldRules,
    friction_force,
    group_force,
    shear_force,
    suction,
    tab_section,
    tabs_needed,
)
from venzo.core.model import Family
from venzo.core.reckonings.passes_and_rows import FAMILIES
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule

RULES = HoldRules()
_MARGIN = Field("margin", "safety over the load", "number", RULES.margin, usual=True, least=1, most=20)
_FAMILY = Field("family", "material", "choice", "wood", usual=True, words=FAMILIES)


def _draw_vacuum(v: Values, shown: Said) -> list[Mark]:
    side = math.sqrt(v["area"])
    w = v.get("width", side)
    h = v["area"] / w
    holes = [disc(w * (i + 0.5) / 8, h * (j + 0.5) / 5, min(w, h) / 60) for i in range(8) for j in range(5)]
    return [
        box(0, 0, w, h),
        *holes,
        word((w / 2, 1.1 * h), f"pressed down by {shown('down')}"),
        word((w / 2, -0.14 * h), f"slides at {shown('sideways')}"),
    ]


VACUUM = Reckoning(
    name="vacuum-hold",
    title="Vacuum over an area",
    asks="How hard does the vacuum press a piece down, and what can push it aside?",
    fields=(
        Field("width", "width", start=300.0, least=0.1, most=20_000, aside=True),
        Field("height", "height", start=200.0, least=0.1, most=20_000, aside=True),
        Field("area", "area over live zones", "area", least=0.01, most=4e8),
        Field("pressure", "vacuum under it", "pressure", 50.0, least=0.01, most=101.325),
        _FAMILY,
        Field("friction", "friction", "number", least=0.01, most=2),
        Field("down", "pressed down by", "force", most=1e8),
        Field("sideways", "slides at", "force", most=1e8),
    ),
    rules=(
        Rule("friction", ("family",), RULES.friction.__getitem__, offered=True),
        Rule("area", ("width", "height"), lambda w, h: w * h),
        Rule("down", ("area", "pressure"), suction),
        Rule("sideways", ("down", "friction"), friction_force),
        Rule("down", ("sideways", "friction"), lambda f, mu: f / mu),
        Rule("area", ("down", "pressure"), lambda f, p: f / suction(1.0, p)),
        Rule("pressure", ("down", "area"), lambda f, a: f / suction(a, 1.0)),
        Rule("width", ("area", "height"), lambda a, h: a / h),
        Rule("height", ("area", "width"), lambda a, w: a / w),
    ),
    formula="pressed down = pressure x area; slides at = friction x that",
    source="exact; full vacuum 101.325 kPa (ISO 2533); friction common practice, dust lowers it",
    draw=_draw_vacuum,
    near="hold suction zones",
)


def _turned(number: float, each: float) -> float:
    """What a ring of screws bears when the push goes past it by its own radius."""
    n = max(2, round(number))
    ring = [(math.cos(2 * math.pi * k / n), math.sin(2 * math.pi * k / n)) for k in range(n)]
    return group_force([each * number / n] * n, ring, [0.0] * n, (1.0, 0.0))


def _screws_needed(load: float, each: float, margin: float) -> float:
    return float(math.ceil(margin * load / _turned(1.0, each) - 1e-9))


def _draw_screws(v: Values, shown: Said) -> list[Mark]:
    n = int(min(v["number"], 24))
    across = math.ceil(n / 2)
    places = [((k // 2 + 0.5) * 240 / across, 12 if k % 2 else 108) for k in range(n)]
    return [
        box(0, 0, 240, 120),
        *(disc(x, y, 4) for x, y in places),
        path([(-70, 60), (0, 60)]),
        word((-36, 70), shown("load")),
        word((120, 60), f"{shown('bears')} straight on"),
    ]


SCREWS = Reckoning(
    name="screws",
    title="Screws in the spoilboard",
    asks="How many screws does a load ask for, and what do they bear sideways?",
    fields=(
        Field("number", "screws", "number", 4.0, least=1, most=500),
        Field("each", "a screw bears", "force", RULES.screw_shear, usual=True, least=1, most=100_000),
        _MARGIN,
        Field("bears", "together, straight on", "force", most=1e8),
        Field("turning", "together, pushed past", "force", most=1e8),
        Field("load", "load it may have", "force", least=0.01, most=1e8),
    ),
    rules=(
        Rule("number", ("load", "each", "margin"), _screws_needed),
        Rule("bears", ("number", "each"), lambda n, each: n * each),
        Rule("turning", ("number", "each"), _turned),
        Rule("load", ("turning", "margin"), lambda f, m: f / m),
    ),
    formula="pushed past its middle by the ring's own radius a group bears half; load = that / safety",
    source="eccentric shear of bolt groups (texts on steel connections, from memory); 600 N a screw: common"
    " practice",
    draw=_draw_screws,
    rounds=True,
    near="hold fixing shear",
)


def _strength(family: Family) -> float:
    return RULES.tab_strength[family]


def _tabs_needed(load: float, width: float, height: float, strength: float, margin: float) -> float:
    return float(max(1, tabs_needed(load, width, height, strength, margin)))


def _tab_load(number: float, one: float, margin: float) -> float:
    # half of what they bear counts, since the load also turns the part (``tabs_needed``)
    return number * one / (2 * margin)


def _draw_tab(v: Values, shown: Said) -> list[Mark]:
    w, h = v["width"], v["height"]
    t = max(4 * h, w)
    return [
        box(-2 * w, 0, -w / 2, t),
        box(w / 2, 0, 2 * w, t),
        box(-w / 2, 0, w / 2, h, "thing"),
        measure((-w / 2, 1.15 * t), (w / 2, 1.15 * t), shown("width")),
        measure((2.3 * w, 0), (2.3 * w, h), shown("height")),
        word((0, -0.16 * t), f"one bears {shown('one')}"),
    ]


TABS = Reckoning(
    name="tabs",
    title="Tabs",
    asks="How many tabs does a load ask for, and what does one bear?",
    fields=(
        _FAMILY,
        Field("strength", "shear strength", "strength", least=0.1, most=2000),
        Field("width", "width along the cut", start=6.0, least=0.1, most=100),
        Field("height", "height", start=4.0, least=0.05, most=100),
        _MARGIN,
        Field("one", "one bears", "force", least=0.01, most=1e8),
        Field("number", "tabs", "number", 4.0, least=1, most=10_000),
        Field("load", "load they may have", "force", least=0.01, most=1e8),
    ),
    rules=(
        Rule("strength", ("family",), _strength, offered=True),
        Rule("one", ("width", "height", "strength"), lambda w, h, s: shear_force(tab_section(w, h), s)),
        Rule("number", ("load", "width", "height", "strength", "margin"), _tabs_needed),
        Rule("load", ("number", "one", "margin"), _tab_load),
        Rule("width", ("one", "height", "strength"), lambda f, h, s: f / shear_force(tab_section(1.0, h), s)),
        Rule("height", ("one", "width", "strength"), lambda f, w, s: f / shear_force(tab_section(w, 1.0), s)),
    ),
    formula="one bears width x height x strength; half of all counts, since the load also turns the part",
    source="any text on strength of materials; strengths common practice, below handbook values",
    draw=_draw_tab,
    rounds=True,
    near="hold bridge onion skin",
)
