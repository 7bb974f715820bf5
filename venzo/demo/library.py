"""Machines, materials, cutters and stock of Marram Works. Feeds are common practice, not any maker's."""

from __future__ import annotations

from typing import Any

from venzo.core.holding.vacuum import Pump
from venzo.core.stock.machine import Dialect, Machine, Zone
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter, Feeds, Holder

MACHINES = [
    Machine(
        id="long-bed",
        name="Long Bed",
        width=3100,
        height=1600,
        dead_areas=((0, 0, 60, 1600), (3040, 0, 3100, 1600)),
        zones=tuple(Zone(id=str(n + 1), rect=(60 + 994 * (n % 3), 0 + 800 * (n // 3), 1044 + 994 * (n % 3), 800 + 800 * (n // 3))) for n in range(6)),
        pump=Pump(pressure=65, flow=300),
        clearance=15,
        retract=3,
        rapid=40_000,
        z_speed=12_000,
        acceleration=1500,
        rpm_max=24_000,
        power=((6000, 2.2), (12_000, 4.5), (18_000, 6.0), (24_000, 6.0)),
        slots=12,
        cooling=("air",),
        rate_per_hour=64,
        change_seconds=12,
    ),
    Machine(
        id="small-bench",
        name="Small Bench",
        width=1300,
        height=900,
        clearance=20,
        retract=3,
        rapid=8_000,
        z_speed=3_000,
        acceleration=400,
        rpm_min=8_000,
        rpm_max=24_000,
        power=((8000, 0.6), (12_000, 1.1), (24_000, 1.5)),
        cooling=("air", "mist"),
        rate_per_hour=38,
        change_seconds=90,
        home="upper left",
        dialect=Dialect(name="RS-274, metric, one cutter a file", tool_change=False),
    ),
]
HOLDERS = [
    Holder(id="chuck-20", name="Collet chuck, long nose", nose=34, length=70, collets=(3, 4, 6, 8, 10, 12, 16)),
    Holder(id="nut-16", name="Spindle nut, small router", nose=28, length=22, collets=(3.175, 4, 6, 6.35, 8)),
]
MATERIALS = [
    Material(
        id="birch-ply",
        name="Birch plywood",
        family="wood",
        density=680,
        grained=True,
        price_m2=46,
        caution="Fine birch dust irritates: extraction on; watch for smouldering chips in the bag.",
    ),
    Material(id="acrylic", name="Acrylic sheet", family="plastic", density=1190, price_m2=58, caution="Leave the film on while cutting; keep chips out of the cut."),
    Material(
        id="oak-board",
        name="White oak board",
        family="wood",
        sort="white oak",
        density=762,
        density_source="Wood Handbook, 0.68 x 1120, from memory",
        grained=True,
        price_m2=92,
        caution="Oak dust is a known cause of nasal cancer: extraction and mask.",
    ),
    Material(
        id="hdpe-sheet", name="HDPE sheet", family="plastic", sort="HDPE", density=950, price_m2=49, caution="Long strings wind round the cutter: stop the spindle before clearing them."
    ),
    Material(
        id="aluminium-6000",
        name="Aluminium sheet",
        family="aluminium",
        sort="6082",
        density=2700,
        price_m2=74,
        specific_energy=0.8,
        energy_source="handbook unit power, 0.7 to 0.9 J/mm3",
        caution="Mist or lubricant, clear the chips; aluminium dust can burn: no sparks in the extraction.",
    ),
]


def _feeds(wood: tuple | None = None, plastic: tuple | None = None, aluminium: tuple | None = None) -> dict[Any, Feeds]:
    given = {"wood": wood, "plastic": plastic, "aluminium": aluminium}
    return {k: Feeds(rpm=v[0], feed=v[1], plunge=v[2]) for k, v in given.items() if v}


CUTTERS = [
    Cutter(id="comp-8", number=1, name="8 mm compression", kind="compression", diameter=8, flutes=2, cutting_length=27, shank=8, feeds=_feeds((18_000, 9_000, 3_000))),
    Cutter(id="down-6", number=2, name="6 mm down-cut", kind="down-cut", diameter=6, flutes=2, cutting_length=22, shank=6, feeds=_feeds((18_000, 6_500, 2_200))),
    Cutter(id="up-4", number=3, name="4 mm up-cut", kind="up-cut", diameter=4, flutes=2, cutting_length=20, shank=6, feeds=_feeds((20_000, 3_600, 1_200))),
    Cutter(
        id="single-5",
        number=4,
        name="5 mm single-flute",
        kind="single-flute",
        diameter=5,
        flutes=1,
        cutting_length=16,
        shank=6,
        feeds=_feeds(plastic=(18_000, 2_700, 900), aluminium=(20_000, 1_400, 350)),
    ),
    Cutter(
        id="single-3",
        number=5,
        name="3 mm single-flute",
        kind="single-flute",
        diameter=3,
        flutes=1,
        cutting_length=10,
        shank=6,
        feeds=_feeds(plastic=(20_000, 1_800, 600), aluminium=(22_000, 1_000, 250)),
    ),
    Cutter(
        id="up-6",
        number=6,
        name="6 mm up-cut",
        kind="up-cut",
        diameter=6,
        flutes=2,
        cutting_length=28,
        shank=6,
        holder="chuck-20",
        metres=412,
        life=900,
        feeds=_feeds((18_000, 7_000, 2_400)),
    ),
    Cutter(
        id="vee-60",
        number=7,
        name="60 degree V bit",
        kind="v-bit",
        diameter=12,
        flutes=2,
        cutting_length=10,
        shank=6,
        angle=60,
        tip=0.2,
        feeds=_feeds((18_000, 5_400, 1_800), (15_000, 3_000, 1_000), (15_000, 1_200, 300)),
    ),
    Cutter(id="vee-90", number=15, name="90 degree V bit", kind="v-bit", diameter=32, flutes=2, cutting_length=16, shank=8, angle=90, tip=0.1, feeds=_feeds((16_000, 4_800, 1_600))),
    Cutter(id="drill-5", number=8, name="5 mm brad drill", kind="drill", diameter=5, flutes=2, cutting_length=40, shank=5, angle=150, feeds=_feeds((6_000, 1_500, 1_200))),
    Cutter(id="rough-12", number=9, name="12 mm rougher", kind="roughing", diameter=12, flutes=2, cutting_length=45, shank=12, holder="chuck-20", feeds=_feeds((16_000, 13_000, 4_000))),
    Cutter(
        id="point-3",
        number=10,
        name="3 mm point roundover",
        kind="point roundover",
        diameter=8,
        flutes=2,
        cutting_length=6,
        shank=6,
        tip=1.6,
        corner_radius=3,
        feeds=_feeds((18_000, 4_500, 1_500)),
    ),
    Cutter(
        id="bowl-20",
        number=11,
        name="20 mm bowl, R6",
        kind="bowl",
        diameter=20,
        flutes=2,
        cutting_length=22,
        shank=8,
        corner_radius=6,
        centre_cutting=True,
        feeds=_feeds((14_000, 7_000, 1_800)),
    ),
    Cutter(id="skim-50", number=12, name="50 mm surfacing", kind="surfacing", diameter=50, flutes=3, cutting_length=8, shank=12, centre_cutting=False, feeds=_feeds((12_000, 9_000, 2_000))),
    Cutter(id="ball-6", number=13, name="6 mm ball", kind="ball", diameter=6, flutes=2, cutting_length=22, shank=6, feeds=_feeds((18_000, 6_000, 2_000), (16_000, 3_000, 1_000))),
    Cutter(id="diamond-6", number=14, name="6 mm diamond-tipped", kind="diamond-tipped", diameter=6, flutes=2, cutting_length=12, shank=6, feeds=_feeds(plastic=(18_000, 5_000, 1_500))),
]
STOCK: list[tuple[str, Stock]] = [
    ("birch-ply", Stock(id="ply-2440", name="Birch plywood 18, 2440 x 1220", width=2440, height=1220, quantity=4, nominal=18, margin=12, grain=0)),
    ("birch-ply", Stock(id="ply-offcut", name="Birch plywood 18, offcut 1220 x 700", width=1220, height=700, quantity=1, nominal=18, margin=12, grain=0, price=12)),
    ("oak-board", Stock(id="oak-700", name="Oak board 22, 700 x 240", width=700, height=240, quantity=1, nominal=22, margin=10, grain=0)),
    ("acrylic", Stock(id="acrylic-1000", name="Acrylic 6, 1000 x 600", width=1000, height=600, quantity=2, nominal=6, margin=25)),
    ("aluminium-6000", Stock(id="alu-500", name="Aluminium 3, 500 x 500", width=500, height=500, quantity=2, nominal=3, margin=20)),
]
CALIPERS: dict[str, tuple[float, ...]] = {
    "ply-2440": (17.6, 17.7, 17.5, 17.6),
    "ply-offcut": (17.6, 17.6),
    "oak-700": (22.1, 22.0, 22.1, 22.0),
    "acrylic-1000": (5.9, 6.0, 5.9),
    "alu-500": (3.0, 3.0),
}
"""What the calipers said of the sheets of the demo's jobs."""
