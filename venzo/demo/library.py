"""Machines, materials, cutters and stock of Marram Works. Feeds are common practice, not any maker's."""

from __future__ import annotations

from typing import Any

from venzo.core.stock.machine import Dialect, Machine, Zone
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter, Feeds

MACHINES = [
    Machine(id="long-bed", name="Long Bed", width=3100, height=1600, dead_areas=((0, 0, 60, 1600), (3040, 0, 3100, 1600)),
            zones=tuple(Zone(id=str(n + 1), rect=(60 + 994 * (n % 3), 0 + 800 * (n // 3), 1044 + 994 * (n % 3), 800 + 800 * (n // 3))) for n in range(6)),
            clearance=15, retract=3, rapid=40_000, acceleration=1500, rpm_max=24_000, rate_per_hour=64, change_seconds=12),
    Machine(id="small-bench", name="Small Bench", width=1300, height=900, clearance=20, retract=3, rapid=8_000, acceleration=400, rpm_min=8_000, rpm_max=24_000,
            rate_per_hour=38, change_seconds=90, home="upper left", dialect=Dialect(name="RS-274, metric, one cutter a file", tool_change=False)),
]
MATERIALS = [
    Material(id="birch-ply", name="Birch plywood", family="wood", density=680, grained=True, price_m2=46,
             caution="Fine birch dust irritates: extraction on; watch for smouldering chips in the bag."),
    Material(id="acrylic", name="Acrylic sheet", family="plastic", density=1190, price_m2=58, caution="Leave the film on while cutting; keep chips out of the cut."),
    Material(id="aluminium-6000", name="Aluminium sheet", family="aluminium", density=2700, price_m2=74,
             caution="Mist or lubricant, clear the chips; aluminium dust can burn: no sparks in the extraction."),
]


def _feeds(wood: tuple | None = None, plastic: tuple | None = None, aluminium: tuple | None = None) -> dict[Any, Feeds]:
    given = {"wood": wood, "plastic": plastic, "aluminium": aluminium}
    return {k: Feeds(rpm=v[0], feed=v[1], plunge=v[2]) for k, v in given.items() if v}


CUTTERS = [
    Cutter(id="comp-8", number=1, name="8 mm compression", kind="compression", diameter=8, flutes=2, cutting_length=27, shank=8, feeds=_feeds((18_000, 9_000, 3_000))),
    Cutter(id="down-6", number=2, name="6 mm down-cut", kind="down-cut", diameter=6, flutes=2, cutting_length=22, shank=6, feeds=_feeds((18_000, 6_500, 2_200))),
    Cutter(id="up-4", number=3, name="4 mm up-cut", kind="up-cut", diameter=4, flutes=2, cutting_length=20, shank=6, feeds=_feeds((20_000, 3_600, 1_200))),
    Cutter(id="single-5", number=4, name="5 mm single-flute", kind="single-flute", diameter=5, flutes=1, cutting_length=16, shank=6,
           feeds=_feeds(plastic=(18_000, 2_700, 900), aluminium=(20_000, 1_400, 350))),
    Cutter(id="single-3", number=5, name="3 mm single-flute", kind="single-flute", diameter=3, flutes=1, cutting_length=10, shank=6,
           feeds=_feeds(plastic=(20_000, 1_800, 600), aluminium=(22_000, 1_000, 250))),
]
STOCK: list[tuple[str, Stock]] = [
    ("birch-ply", Stock(id="ply-2440", name="Birch plywood 18, 2440 x 1220", width=2440, height=1220, quantity=4, nominal=18, readings=(17.6, 17.7, 17.5, 17.6), margin=12, grain=0)),
    ("birch-ply", Stock(id="ply-offcut", name="Birch plywood 18, offcut 1220 x 700", width=1220, height=700, quantity=1, nominal=18, readings=(17.6, 17.6), margin=12, grain=0, price=12)),
    ("acrylic", Stock(id="acrylic-1000", name="Acrylic 6, 1000 x 600", width=1000, height=600, quantity=2, nominal=6, readings=(5.9, 6.0, 5.9), margin=25)),
    ("aluminium-6000", Stock(id="alu-500", name="Aluminium 3, 500 x 500", width=500, height=500, quantity=2, nominal=3, readings=(3.0, 3.0), margin=20)),
]
