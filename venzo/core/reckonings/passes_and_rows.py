"""How many: passes for a depth, rows for a face."""

from __future__ import annotations

from functools import lru_cache

from venzo.core.figure import Mark, Said, Values, box, measure, path, word
from venzo.core.model import Family
from venzo.core.motion.time import path_time
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule
from venzo.core.rules.house import HouseRules
from venzo.core.surfacing.board import Surfacing
from venzo.core.surfacing.passes import laid
from venzo.core.surfacing.rows import row_count, runs

FAMILIES: tuple[Family, ...] = ("wood", "plastic", "aluminium", "steel")


def _rules(excess: float = 5.0) -> HouseRules:
    return HouseRules(accepted_excess=excess / 100)


def _passes(depth: float, step: float, excess: float) -> float:
    return float(_rules(excess).passes(depth, step))


def _step_of(family: Family, diameter: float) -> float:
    return _rules().largest_step(family, diameter)


def _draw_passes(v: Values, shown: Said) -> list[Mark]:
    depth, n, wide = v["depth"], int(min(v["passes"], 60)), v["diameter"]
    marks = [
        box(-2 * wide, -1.35 * depth, 2 * wide, 0),
        box(-wide / 2, -depth, wide / 2, 0, "cut away"),
        measure((1.2 * wide, 0), (1.2 * wide, -depth), shown("depth")),
        measure((-1.0 * wide, 0), (-1.0 * wide, -depth / v["passes"]), shown("each")),
    ]
    return marks + [path([(-wide / 2, -depth * k / n), (wide / 2, -depth * k / n)]) for k in range(1, n + 1)]


PASSES = Reckoning(
    name="passes",
    title="Passes for a depth",
    asks="How many passes does a depth take, and how deep is each?",
    fields=(
        Field("family", "material", "choice", "wood", usual=True, words=FAMILIES),
        Field("diameter", "cutter diameter", start=9.525, usual=True, least=0.05, most=200),
        Field("depth", "depth in all", start=19.05, least=0.001, most=500),
        Field("step", "at most a pass", least=0.001, most=500),
        Field("excess", "accepted over it", "percent", 5.0, usual=True, most=50),
        Field("passes", "passes", "number", least=1, most=100_000),
        Field("each", "each pass", least=1e-6, most=500, more=1),
    ),
    rules=(
        Rule("step", ("family", "diameter"), _step_of, offered=True),
        Rule("passes", ("depth", "step", "excess"), _passes),
        Rule("depth", ("passes", "step", "excess"), lambda n, s, e: n * s * (1 + e / 100)),
        Rule("each", ("depth", "passes"), lambda d, n: d / n),
    ),
    formula="passes = depth / (most x (1 + excess)), rounded up; most = 2 D in wood, D in plastic, D / 2 in"
    " aluminium",
    source="common practice; the shop's own school is in its rules",
    draw=_draw_passes,
    rounds=True,
    near="step down depth per pass",
)


def _surfacing(cutter: float, share: float, overrun: float, feed: float) -> Surfacing:
    given = {"cutter": cutter, "step_over": share / 100, "overrun": overrun, "feed": feed}
    more = {"depth": 0.5, "rpm": 16_000, "plunge": min(feed, 1500.0), "along": "x"}
    return Surfacing.model_validate({**given, **more})


@lru_cache(maxsize=64)
def _minutes(length: float, width: float, cutter: float, share: float, overrun: float, feed: float) -> float:
    s = _surfacing(cutter, share, overrun, feed)
    moves, _ramped = laid(runs(s, length, width, s.step_over, None), s.depth, s)
    return path_time(moves)[0] / 60


def _rows(width: float, cutter: float, share: float, overrun: float) -> float:
    return float(row_count(width, cutter, share * cutter / 100, overrun))


def _share(rows: float, width: float, cutter: float, overrun: float) -> float:
    return 100 * (width + 2 * overrun - cutter) / (rows - 1) / cutter


def _draw_rows(v: Values, shown: Said) -> list[Mark]:
    long, wide, o = v["length"], v["width"], v["overrun"]
    n = int(min(v["rows"], 120))
    first, last = v["cutter"] / 2 - o, wide + o - v["cutter"] / 2
    places = [first + (last - first) * k / (n - 1) for k in range(n)] if n > 1 else [wide / 2]
    way = [(x, y) for k, y in enumerate(places) for x in ((0, long) if k % 2 == 0 else (long, 0))]
    return [
        box(0, 0, long, wide),
        path(way),
        measure((0, -0.12 * wide), (long, -0.12 * wide), shown("length")),
        measure((long * 1.06, 0), (long * 1.06, wide), shown("width")),
        word((long / 2, 1.12 * wide), f"rows: {shown('rows')}, {shown('minutes')} a pass"),
    ]


SURFACING = Reckoning(
    name="surfacing-rows",
    title="Rows and minutes of surfacing",
    asks="How many rows does a face take, and how long does a pass run?",
    fields=(
        Field("length", "along the rows", start=1200.0, least=6, most=20_000),
        Field("width", "across the rows", start=635.0, least=6, most=20_000),
        Field("cutter", "cutter diameter", start=50.8, least=1, most=500),
        Field("share", "step-over", "percent", 40.0, least=1, most=95),
        Field("overrun", "over the edge", start=0.0, usual=True, most=500),
        Field("feed", "feed", "feed", 6000.0, usual=True, least=10, most=100_000),
        Field("rows", "rows", "number", least=1, most=20_000),
        Field("minutes", "a pass takes", "minutes", most=1e6),
    ),
    rules=(
        Rule("rows", ("width", "cutter", "share", "overrun"), _rows),
        Rule("share", ("rows", "width", "cutter", "overrun"), _share),
        Rule("minutes", ("length", "width", "cutter", "share", "overrun", "feed"), _minutes),
    ),
    formula="rows = (width + 2 over - D) / (step-over x D), rounded up, + 1; the time is that of the planned"
    " path, with its turns",
    source="exact geometry; accelerations as of a machine nobody has entered",
    draw=_draw_rows,
    rounds=True,
    near="spoilboard planing flattening stepover",
)
