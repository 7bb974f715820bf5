"""Which vacuum zones carry the sheet, and where on it nothing is held? What the nest is told, and the user
before it.
"""

from __future__ import annotations

from functools import partial

import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.indexing.reach import at_position
from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.nesting.live import pieces_of
from venzo.core.nesting.problem import Firm
from venzo.core.plan import Setup
from venzo.core.snags import Remedy, Snag, Where, note
from venzo.core.stock.lying import Lying
from venzo.core.stock.machine import Machine, Zone
from venzo.core.stock.sheet import Stock
from venzo.core.voice import counted

SEAM = 60.0
"""mm: seals and gaps between live zones up to twice this wide are bridged by what lies over them."""
LEAST = 0.01
"""Share of the sheet, or of a zone, that is worth a word."""


def _over_zones(setup: Setup, stock: Stock, on: bool) -> BaseGeometry:
    """The part of a sheet over the zones that are on (or off), in sheet coordinates; of long stock at any of
    its positions.
    """
    rects = [r for z in setup.machine.zones if (z.id in setup.zones_on) == on for r in _under(setup, z)]
    return shapely.union_all(rects).intersection(box(0, 0, stock.width, stock.height))


def _over_key(setup: Setup, stocks: list[Stock]) -> str:
    """Digest of what it depends on which zones lie under which sheets."""
    m = setup.machine
    on_table = [m.zones, m.width, m.height, setup.zones_on, setup.sheet_at, setup.edge_at, setup.indexing]
    return digest("zones-1", on_table, [(s.width, s.height) for s in stocks])


def _under(setup: Setup, zone: Zone) -> list[BaseGeometry]:
    """Where a zone lies under the sheet, at every position of it."""
    count = setup.indexing.count if setup.indexing else 1
    return [at_position(setup, k).lying.rect_on_sheet(zone.rect) for k in range(count)]


def live_areas(setup: Setup, stock: Stock) -> list[Firm]:
    """Where the zones that are on hold the sheet; nothing where none is off under it (or none is on: the
    sheet is held otherwise).
    """
    return memo("live areas", _over_key(setup, [stock]), partial(_live_areas, setup, stock))


def _live_areas(setup: Setup, stock: Stock) -> list[Firm]:
    on, off = _over_zones(setup, stock, True), _over_zones(setup, stock, False)
    if on.is_empty or off.area < LEAST * stock.width * stock.height:
        return []
    closed = on.buffer(SEAM, join_style="mitre").buffer(-SEAM, join_style="mitre")
    held = closed.union(on).difference(off.difference(on))
    return [
        Firm(shape=[list(c) for c in p.exterior.coords[:-1]])
        for g in shapely.get_parts(held)
        for p in pieces_of(g)
    ]


def zone_notes(setup: Setup) -> list[Snag]:
    """What is to be said of the zones before the nest: those off under the sheet, and a place on the table
    where the sheet lies over fewer.
    """
    stocks = [s for s in setup.stock if s.quantity]
    if not setup.machine.zones or not setup.zones_on or not stocks:
        return []
    key = digest(setup.id, _over_key(setup, stocks), [s.name for s in stocks])
    return memo("zone notes", key, partial(_zone_notes, setup, stocks))


def _zone_notes(setup: Setup, stocks: list[Stock]) -> list[Snag]:
    out: list[Snag] = []
    where: Where = {"setup": setup.id}
    stock = max(stocks, key=lambda s: s.width * s.height)
    share = _over_zones(setup, stock, False).area / (stock.width * stock.height)
    off = [
        z.id
        for z in setup.machine.zones
        if z.id not in setup.zones_on
        and shapely.union_all(_under(setup, z)).intersection(box(0, 0, stock.width, stock.height)).area
        >= LEAST * stock.width * stock.height
    ]
    if off and share >= LEAST:
        several = len(off) > 1
        out.append(
            note(
                "nest.zones-off",
                f"zone{'s' * several} {', '.join(off)} {'are' if several else 'is'} off under {share:.0%} of"
                f" {stock.name}: air holds nothing there, so pieces are laid over the others where that costs"
                " no sheet",
                where,
                Remedy(
                    label=f"Zone{'s' * several} {', '.join(off)} on",
                    command={
                        "kind": "set-setup",
                        "setup": setup.id,
                        "zones_on": [z.id for z in setup.machine.zones if z.id in (*setup.zones_on, *off)],
                    },
                ),
            )
        )
    better = fewer_zones(setup.machine, stock, setup.lying) if setup.indexing is None else None
    if better is not None:
        at, count, now = better
        out.append(
            note(
                "nest.zones-many",
                f"{stock.name} lies over {counted(now, 'vacuum zone')}; with its corner at X {at[0]:g} Y"
                f" {at[1]:g} it would lie over {count}",
                where,
                Remedy(
                    label=f"Lay it at X {at[0]:g} Y {at[1]:g}",
                    command={"kind": "set-setup", "setup": setup.id, "sheet_at": list(at)},
                ),
            )
        )
    return out


def zones_covered(machine: Machine, bounds: tuple[float, float, float, float]) -> int:
    """Zones that a box on the table lies over by more than a seal's width."""
    lies = box(*bounds)
    return sum(lies.intersection(box(*z.rect)).area > LEAST * box(*z.rect).area for z in machine.zones)


def fewer_zones(machine: Machine, stock: Stock, lying: Lying) -> tuple[tuple[float, float], int, int] | None:
    """The nearest place of the sheet's corner (mm on the table) at which it lies over fewer zones than now,
    fully over zones as far as it is now: (place, zones there, zones now); None where there is none, or the
    sheet lies crooked.
    """
    if lying.turn or not machine.zones:
        return None
    live = shapely.union_all([box(*z.rect) for z in machine.zones])

    def carried(x: float, y: float) -> float:
        return float(box(x, y, x + stock.width, y + stock.height).intersection(live).area)

    x0, y0 = lying.at
    now = zones_covered(machine, lying.bounds(stock.width, stock.height))
    xs = {x0, *(z.rect[0] for z in machine.zones), *(z.rect[2] - stock.width for z in machine.zones)}
    ys = {y0, *(z.rect[1] for z in machine.zones), *(z.rect[3] - stock.height for z in machine.zones)}
    best: tuple[int, float, float, float] | None = None
    for x in sorted(xs):
        for y in sorted(ys):
            if x < 0 or y < 0 or x + stock.width > machine.width or y + stock.height > machine.height:
                continue
            if carried(x, y) < carried(x0, y0) - 1.0:
                continue
            count = zones_covered(machine, (x, y, x + stock.width, y + stock.height))
            key = (count, abs(x - x0) + abs(y - y0), x, y)
            if count < now and (best is None or key < best):
                best = key
    return None if best is None else ((best[2], best[3]), best[0], now)
