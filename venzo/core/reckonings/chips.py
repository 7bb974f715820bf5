"""What happens at the cutting edge: chip load, edge speed, chip thinning, bend of the cutter."""

from __future__ import annotations

from venzo.core.feeds.mechanics import (
    chip_load,
    chip_thickness,
    deflection,
    spindle_speed,
    surface_speed,
    table_feed,
)
from venzo.core.figure import Mark, Said, Values, arc, box, disc, measure, path, word
from venzo.core.reckonings.reckoning import Field, Reckoning, Rule


def _flutes(feed: float, rpm: float, chip: float) -> float:
    # the same law, asked for its other factor
    return feed / (rpm * chip)


def _draw_chips(v: Values, shown: Said) -> list[Mark]:
    # teeth as they come by: each begins a chip load further on
    r, chip = 3.0, min(max(v["chip_load"], 0.05), 1.5)
    marks = [box(-1.5 * r, -1.6 * r, 2.4 * r, 0, "stock")]
    marks += [path(arc(-k * chip, 0, r, -90, 60)) for k in range(4)]
    marks += [disc(0, 0, r)]
    marks += [measure((r - chip, 0), (r, 0), shown("chip_load"))]
    return [*marks, word((-1.3 * r, 1.15 * r), f"{v['flutes']:g} teeth, {shown('rpm')}")]


CHIP_LOAD = Reckoning(
    name="chip-load",
    title="Chip load",
    asks="How thick is the bite of a tooth? Or the feed, the speed or the flutes for a bite.",
    fields=(
        Field("flutes", "flutes", "number", 2.0, least=1, most=24),
        Field("rpm", "spindle speed", "rpm", 16000.0, least=1, most=100_000),
        Field("feed", "feed", "feed", 15240.0, least=1, most=100_000),
        Field("chip_load", "chip load", least=1e-5, most=100, more=2),
    ),
    rules=(
        Rule("chip_load", ("feed", "rpm", "flutes"), chip_load),
        Rule("feed", ("chip_load", "rpm", "flutes"), table_feed),
        Rule("rpm", ("feed", "chip_load", "flutes"), chip_load),
        Rule("flutes", ("feed", "rpm", "chip_load"), _flutes),
    ),
    formula="chip load = feed / (rpm x flutes)",
    source="Machinery's Handbook, table feed; terms of ISO 3002-3 (from memory)",
    draw=_draw_chips,
    near="feeds speed fz tooth",
)


def _draw_edge(v: Values, shown: Said) -> list[Mark]:
    r = v["diameter"] / 2
    out = [disc(0, 0, r), path(arc(0, 0, 1.18 * r, 20, 130)), measure((-r, 0), (r, 0), shown("diameter"))]
    return [*out, word((0, 1.3 * r), shown("edge_speed"))]


EDGE_SPEED = Reckoning(
    name="edge-speed",
    title="Surface speed",
    asks="How fast does the edge go through the material?",
    fields=(
        Field("diameter", "cutter diameter", start=12.7, least=0.05, most=500),
        Field("rpm", "spindle speed", "rpm", 18000.0, least=1, most=100_000),
        Field("edge_speed", "surface speed", "edge speed", least=0.001, most=100_000),
    ),
    rules=(
        Rule("edge_speed", ("diameter", "rpm"), surface_speed),
        Rule("rpm", ("diameter", "edge_speed"), spindle_speed),
        # the same law: what turns so fast at so many rpm is so wide
        Rule("diameter", ("rpm", "edge_speed"), spindle_speed),
    ),
    formula="surface speed = pi x diameter x rpm",
    source="Machinery's Handbook, speeds and feeds; rpm = 12 SFM / (pi D) (from memory)",
    draw=_draw_edge,
    near="feeds sfm",
)


def _thin_chip(thickness: float, width: float, diameter: float) -> float:
    return thickness / chip_thickness(1.0, width, diameter)


def _draw_thinning(v: Values, shown: Said) -> list[Mark]:
    r, w = v["diameter"] / 2, min(v["width"], v["diameter"])
    return [
        box(-2.2 * r, -3 * r, 2.2 * r, -r + w, "stock"),
        disc(0, 0, r),
        measure((1.6 * r, -r), (1.6 * r, -r + w), shown("width")),
        measure((-r, 0), (r, 0), shown("diameter")),
    ]


THINNING = Reckoning(
    name="chip-thinning",
    title="Chip of a skim",
    asks="A cutter that takes less than half its width makes thinner chips than its chip load says.",
    fields=(
        Field("diameter", "cutter diameter", start=10.0, least=0.05, most=500),
        Field("width", "width of the cut", start=1.0, least=1e-3, most=500),
        Field("chip_load", "chip load", start=0.2, least=1e-5, most=100, more=2),
        Field("thickness", "thickest chip", least=1e-6, most=100, more=2),
    ),
    rules=(
        Rule("thickness", ("chip_load", "width", "diameter"), chip_thickness),
        Rule("chip_load", ("thickness", "width", "diameter"), _thin_chip),
    ),
    formula="thickest chip = 2 x chip load x sqrt((w/D)(1 - w/D)), w the width of the cut, up to half of D",
    source="Machinery's Handbook, chip thinning (from memory)",
    draw=_draw_thinning,
    near="feeds engagement skim finishing",
)


def _force(bend: float, overhang: float, diameter: float) -> float:
    return bend / deflection(1.0, overhang, diameter)


def _overhang(bend: float, force: float, diameter: float) -> float:
    return (bend / deflection(force, 1.0, diameter)) ** (1 / 3)


def _diameter(bend: float, force: float, overhang: float) -> float:
    return (deflection(force, overhang, 1.0) / bend) ** 0.25


def _draw_bend(v: Values, shown: Said) -> list[Mark]:
    long, r = v["overhang"], v["diameter"] / 2
    lean = long / 6
    bent = [(lean * (3 * t * t - t**3) / 2, -long * t) for t in (k / 20 for k in range(21))]
    return [
        box(-2.4 * r - 2, 0, 2.4 * r + 2, long / 4, "thing"),
        Mark("cutter", tuple([(x - r, y) for x, y in bent] + [(x + r, y) for x, y in reversed(bent)])),
        measure((-3 * r - 3, 0), (-3 * r - 3, -long), shown("overhang")),
        word((lean + r + 2, -long), f"{shown('bend')} at {shown('force')}"),
    ]


BEND = Reckoning(
    name="cutter-bend",
    title="Bend of the cutter",
    asks="How far is the tip of a solid carbide cutter pushed aside?",
    fields=(
        Field("diameter", "diameter", start=6.0, least=0.2, most=100),
        Field("overhang", "stick-out", start=40.0, least=1, most=500),
        Field("force", "force at the tip", "force", 100.0, least=1e-3, most=100_000),
        Field("bend", "bend of the tip", least=1e-9, most=1000, more=2),
    ),
    rules=(
        Rule("bend", ("force", "overhang", "diameter"), deflection),
        Rule("force", ("bend", "overhang", "diameter"), _force),
        Rule("overhang", ("bend", "force", "diameter"), _overhang),
        Rule("diameter", ("bend", "force", "overhang"), _diameter),
    ),
    formula="bend = F L^3 / (3 E I), I = pi d^4 / 64, E = 600 GPa",
    source="Machinery's Handbook, beam table; carbide 500 to 650 GPa by grade (from memory)",
    draw=_draw_bend,
    near="stick-out deflection chatter",
)
