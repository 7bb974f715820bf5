"""Does the work fit the machine? Table, dead areas, heights, screws, the way the sheet lies."""

from __future__ import annotations

import math

import numpy as np
import shapely
from shapely.geometry import Point, Polygon, box

from venzo.core.cuts.moves import X, Y
from venzo.core.holding.fixings import FixtureBoard
from venzo.core.holding.screws import Screw
from venzo.core.holding.timeline import held_at_all
from venzo.core.indexing.fewest_positions import even_positions
from venzo.core.indexing.positions import Axis
from venzo.core.model import Fields
from venzo.core.model import Point as XY
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.snags import Remedy, Snag, Where, look, stop
from venzo.core.stock.machine import Corner, Machine
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import RIM, CentreZero, CornerZero, MarkZero, Zero, called, corner_of, place
from venzo.core.voice import counted

READ, FAR_OFF = 0.2, 1.0
"""mm of error in reading an edge by hand (common practice), and what it may come to at the far corner."""
LOWEST = 1.0
"""mm over the sheet below which a cutter does not travel without a word."""
CORNERS: tuple[Corner, ...] = ("lower left", "lower right", "upper left", "upper right")
LIVE, OVERHANG = 0.2, 5.0
"""Share of a fixture board that must lie over live zones; thicknesses that a sheet may reach beyond it
(common practice: a few).
"""
BED_CLEAR = 1.0
"""mm of spoilboard that stay between a cutter and the table."""


def datum_on_sheet(setup: Setup, stock: Stock, position: int = 0) -> XY:
    """Where program X0 Y0 lies on the sheet, mm from its lower left corner. It stays where it was on the
    table when the stock is moved along to another ``position``.
    """
    x, y = place(setup.datum, stock, setup.machine, setup.lying)
    dx, dy = setup.shift(position)
    return (x + dx, y + dy)


def setup_snags(setup: Setup, spacing: float) -> list[Snag]:  # noqa: C901
    """Judge how the stock lies on the table, and the heights and numbers of the setup; ``spacing`` between
    pieces, mm.
    """
    out: list[Snag] = []
    m = setup.machine
    where: Where = {"setup": setup.id}
    lies = setup.lying
    for s in setup.stock:
        if not s.quantity:
            continue
        along = setup.indexing.axis if setup.indexing else None
        over = _over_the_table(lies.bounds(s.width, s.height), m, along)
        turn = Remedy(
            label="Turn the sheet",
            command={
                "kind": "set-stock",
                "setup": setup.id,
                "stock": {
                    **s.model_dump(mode="json"),
                    "width": s.height,
                    "height": s.width,
                    "grain": None if s.grain is None else 90 - s.grain,
                },
            },
        )
        turned = _over_the_table(lies.bounds(s.height, s.width), m) <= 1e-6
        across = (s.width - s.height) * (m.width - m.height) < 0
        if over > 1e-6:
            moved = _moved_along(setup, s)
            shorter = "move it along in positions" if moved else "move it, or cut a smaller sheet"
            why = " it lies across the machine's long axis;" if across and turned else ""
            out.append(
                stop(
                    "table.too-small",
                    f"{s.name}: {s.width:g} x {s.height:g} mm reaches {over:.0f} mm over the table of"
                    f" {m.name};{why}"
                    f" {'turn it' if across and turned else shorter}",
                    {**where, "stock": s.id},
                    *([turn] if turned else []),
                    *moved,
                )
            )
        elif across and along is None:
            out.append(
                look(
                    "table.across",
                    f"{s.name}: its long side lies across the machine's long axis; X and Y may be swapped",
                    {**where, "stock": s.id},
                    turn,
                )
            )
    for screw in setup.screws:
        if screw.proud >= m.clearance:
            words = (
                f"screw at {screw.x:.0f}, {screw.y:.0f} mm stands {screw.proud:g} mm proud, the rapid height"
                f" is only {m.clearance:g} mm"
            )
            out.append(
                stop("table.clearance", words, {**where, "fixing": screw.id}, _higher(setup, screw.proud))
            )
    for fixing in setup.fixings:
        if fixing.kind in ("clamp", "cam", "pin") and fixing.proud >= m.clearance:
            words = (
                f"the {fixing.kind} at {fixing.x:.0f}, {fixing.y:.0f} mm stands {fixing.proud:g} mm proud,"
                f" the rapid height is only {m.clearance:g} mm"
            )
            out.append(
                stop(
                    "table.clearance",
                    words,
                    {**where, "fixing": fixing.id},
                    _higher(setup, fixing.proud),
                    _without(setup, fixing.id),
                )
            )
    if m.retract < LOWEST:
        up = m.model_copy(update={"retract": 3.0, "clearance": max(m.clearance, 3.0)})
        command = {
            "kind": "set-setup",
            "setup": setup.id,
            "machine": up.model_dump(mode="json"),
            "zones_on": list(setup.zones_on),
        }
        words = (
            f"the cutter travels {m.retract:g} mm over the sheet within a cut: less than {LOWEST:g} mm, and a"
            " bowed sheet or a chip is in its way"
        )
        out.append(
            (stop if m.clearance < LOWEST else look)(
                "table.heights", words, where, Remedy(label="Retract to 3 mm", command=command)
            )
        )
    if m.slots:
        used = {o.cutter for o in setup.operations} | {
            c for o in setup.operations if (c := getattr(o, "clear", None))
        }
        for tool in setup.cutters:
            if tool.id in used and tool.number > m.slots:
                out.append(
                    stop(
                        "cutters.slot",
                        f"{tool.name} is T{tool.number}, the changer of {m.name} has {m.slots} places; give"
                        " it a number that it has",
                        {**where, "cutter": tool.id},
                    )
                )
    out += _off_the_sheet(setup)
    out += _zero_off(setup)
    out += _crooked(setup)
    out += _fixture_boards(setup)
    # on slats a sheet lies by its own weight: what comes loose there is said by the kerfs
    if m.head is None and setup.stock and not held_at_all(setup):
        stock = setup.stock[0]
        inset = max(10.0, stock.margin / 2)
        corners = [
            (inset, inset),
            (stock.width - inset, inset),
            (stock.width - inset, stock.height - inset),
            (inset, stock.height - inset),
        ]
        screws = [Screw(id=f"s{k + 1}", x=x, y=y).model_dump(mode="json") for k, (x, y) in enumerate(corners)]
        on = (
            [
                Remedy(
                    label="All zones on",
                    command={"kind": "set-setup", "setup": setup.id, "zones_on": [z.id for z in m.zones]},
                )
            ]
            if m.zones
            else []
        )
        out.append(
            stop(
                "holding.sheet",
                "nothing holds the sheet: no vacuum zone is on, no screw or clamp is set; say how it is held",
                where,
                *on,
                Remedy(
                    label="Screw the four corners",
                    command={"kind": "set-screws", "setup": setup.id, "screws": screws},
                ),
            )
        )
    by_number: dict[int, str] = {}
    for tool in setup.cutters:
        if tool.number in by_number:
            out.append(
                stop(
                    "cutters.number",
                    f"{tool.name} and {by_number[tool.number]} are both T{tool.number}; give each cutter its"
                    " own number",
                    where,
                )
            )
        by_number[tool.number] = tool.name
    for op in setup.operations:
        cutter, extra = setup.cutter(op.cutter), getattr(op, "overshoot", None)
        if extra is not None and extra > 3:
            worst = stop if extra > 12 else look
            out.append(
                worst(
                    "cuts.overshoot",
                    f"{op.kind} of {op.on}: {extra:g} mm overshoot cuts {extra:g} mm deep into the"
                    " spoilboard; 0.25 to 0.8 mm is common",
                    where,
                )
            )
        largest = (
            setup.rules.largest_step(setup.material.family, cutter.diameter, cutter.kind) if cutter else 0.0
        )
        if op.step_down is not None and cutter and op.step_down > 2 * largest:
            out.append(
                look(
                    "cuts.step-down",
                    f"{op.kind} of {op.on}: {op.step_down:g} mm a pass is more than twice the shop's rule of"
                    f" {largest:g} mm for {cutter.name}",
                    where,
                )
            )
    if spacing > 200:
        out.append(
            look(
                "nest.spacing",
                f"{spacing:g} mm between pieces wastes most of the sheet; the web is {setup.rules.web:g} mm",
                where,
            )
        )
    return out


def _over_the_table(
    box_of: tuple[float, float, float, float], m: Machine, along: Axis | None = None
) -> float:
    """mm by which a box of the table reaches over its edge; below 0: it does not. Stock that is moved
    ``along`` an axis reaches over its ends.
    """
    x0, y0, x1, y1 = box_of
    over = {"x": max(x1 - m.width, -x0), "y": max(y1 - m.height, -y0)}
    return max(v for k, v in over.items() if k != along)


def _moved_along(setup: Setup, stock: Stock) -> list[Remedy]:
    """Stock too long for the table is moved along it, where it is narrow enough."""
    if setup.edge_at is not None or setup.role is not None or setup.machine.head is not None:
        return []
    found = even_positions(setup, stock)
    if found is None or setup.indexing is not None:
        return []
    command: Fields = {"kind": "index-stock", "setup": setup.id, "indexing": found.model_dump(mode="json")}
    return [Remedy(label=f"Move it along in {counted(found.count, 'position')}", command=command)]


def _higher(setup: Setup, proud: float) -> Remedy:
    """The rapid height over the tallest fixing."""
    m, keep = setup.machine, setup.rules.hold.keep_clear
    tallest = max(
        [
            proud,
            *(f.proud for f in setup.fixings if f.kind in ("clamp", "cam", "pin")),
            *(s.proud for s in setup.screws),
        ]
    )
    up = m.model_copy(update={"clearance": tallest + keep})
    return Remedy(
        label=f"Rapid height {tallest + keep:g} mm",
        command={
            "kind": "set-setup",
            "setup": setup.id,
            "machine": up.model_dump(mode="json"),
            "zones_on": list(setup.zones_on),
        },
    )


def _without(setup: Setup, fixing: str) -> Remedy:
    rest = [f.model_dump(mode="json") for f in setup.fixings if f.id != fixing]
    return Remedy(label="Take it away", command={"kind": "set-fixings", "setup": setup.id, "fixings": rest})


def _zero_at(setup: Setup, zero: Zero, label: str) -> Remedy:
    command = {"kind": "set-setup", "setup": setup.id, "datum": zero.model_dump(mode="json")}
    return Remedy(label=label, command=command)


def _zero_off(setup: Setup) -> list[Snag]:
    """A zero that lies where the sheet has nothing to touch: a sawn corner, a point beside it."""
    zero = setup.datum
    if not isinstance(zero, CornerZero | MarkZero):
        return []
    out = []
    for k in (k for k in setup.stock if k.quantity):
        real = Polygon(k.outline) if k.outline else box(0, 0, k.width, k.height)
        at = Point(place(zero, k, setup.machine, setup.lying))
        away = real.distance(at)
        if away <= RIM:
            continue
        what = called(zero, setup.machine, lambda v: f"{v:g} mm")
        others = [
            CornerZero(corner=c)
            for c in CORNERS
            if real.distance(Point(corner_of(c, k.width, k.height))) <= RIM
        ]
        mend = [_zero_at(setup, z, f"Zero at the {z.corner}") for z in others[:1]]
        mend.append(_zero_at(setup, CentreZero(), "Zero at the centre"))
        out.append(
            stop(
                "zero.off-sheet",
                f"{k.name}: the zero, {what}, lies {away:.1f} mm beside what there is of it: nothing can be"
                " touched there; take another zero",
                {"setup": setup.id, "stock": k.id},
                *mend,
            )
        )
    return out


def _crooked(setup: Setup) -> list[Snag]:
    """A turn that was read over a short length of the edge."""
    if setup.edge_at is None:
        return []
    out = []
    length = math.dist(setup.sheet_at, setup.edge_at)
    for k in (k for k in setup.stock if k.quantity):
        far = math.hypot(k.width, k.height)
        off = READ * far / length
        if off > FAR_OFF:
            out.append(
                look(
                    "table.crooked",
                    f"{k.name}: its turn was read over {length:.0f} mm of its edge: {READ:g} mm of error"
                    f" there is {off:.1f} mm at the far corner; read the second point further away",
                    {"setup": setup.id, "stock": k.id},
                )
            )
    return out


def _fixture_boards(setup: Setup) -> list[Snag]:
    """Fixture boards over no live zone, and sheets that reach far beyond theirs."""
    boards = [f for f in setup.fixings if isinstance(f, FixtureBoard)]
    zones = {z.id: setup.lying.rect_on_sheet(z.rect) for z in setup.machine.zones}
    out = []
    for b in boards if zones else ():
        there = box(*b.box)
        live = sum(zones[z].intersection(there).area for z in setup.zones_on if z in zones)
        if live >= LIVE * there.area:
            continue
        under = [z for z, zone in zones.items() if zone.intersects(there) and z not in setup.zones_on]
        on: Fields = {"kind": "set-setup", "setup": setup.id, "zones_on": [*setup.zones_on, *under]}
        mend = [Remedy(label=f"Zone{'s' * (len(under) > 1)} {', '.join(under)} on", command=on)]
        out.append(
            stop(
                "holding.board",
                f"the fixture board at {b.x:.0f}, {b.y:.0f} mm lies over {live / there.area:.0%} of live"
                " zone: it holds nothing; switch the zone under it on, or move it",
                {"setup": setup.id, "fixing": b.id},
                *(mend if under else []),
            )
        )
    held = shapely.union_all([box(*b.box) for b in boards])
    for k in (k for k in setup.stock if k.quantity and boards):
        real = Polygon(k.outline) if k.outline else box(0, 0, k.width, k.height)
        beyond = real.difference(held)
        far = max((held.distance(Point(p)) for p in shapely.get_coordinates(beyond)), default=0.0)
        if far > OVERHANG * k.thickness:
            out.append(
                look(
                    "holding.overhang",
                    f"{k.name} reaches {far:.0f} mm beyond its fixture board: it bends and chatters there"
                    " under the cutter; take a larger board, or support it",
                    {"setup": setup.id, "stock": k.id},
                )
            )
    return out


def _off_the_sheet(setup: Setup) -> list[Snag]:
    """Screws that go into nothing."""
    out = []
    for s in setup.screws:
        sheets = [k for k in setup.stock if k.quantity and (s.sheet is None or s.sheet == k.id)]
        outlines = [Polygon(k.outline) if k.outline else box(0, 0, k.width, k.height) for k in sheets]
        if sheets and not any(o.contains(Point(s.x, s.y)) for o in outlines):
            rest = [k.model_dump(mode="json") for k in setup.screws if k.id != s.id]
            mend = Remedy(
                label=f"Take the {s.kind} out",
                command={"kind": "set-screws", "setup": setup.id, "screws": rest},
            )
            out.append(
                stop(
                    "holding.screw-off",
                    f"the {s.kind} at {s.x:.0f}, {s.y:.0f} mm lies beside the sheet and holds nothing;"
                    " move it",
                    {"setup": setup.id, "fixing": s.id},
                    mend,
                )
            )
    return out


def _below(setup: Setup, sheet: SheetPlan, stock: Stock, where: Where) -> list[Snag]:
    """Cuts that go deeper into the spoilboard than it is thick, and through cuts that do not reach through
    the thickest place of the sheet.
    """
    out = []
    deepest = max(sheet.cuts, key=lambda c: -c.cut.levels[-1])
    below = -deepest.cut.levels[-1] - stock.thickness
    under = [f.thickness for f in setup.fixings if isinstance(f, FixtureBoard)]
    board = min(under, default=setup.machine.spoilboard.thickness)
    if below > board - BED_CLEAR:
        words = (
            f"{deepest.cut.contour} goes {below:.2f} mm below the sheet, the spoilboard is {board:g} mm"
            " thick: the cutter meets the table"
        )
        out.append(
            stop(
                "table.spoilboard",
                f"{words}; give less overshoot, or enter the board that lies there",
                {**where, "piece": deepest.piece.id},
            )
        )
    through = [
        c
        for c in sheet.cuts
        if c.cut.frees
        and -c.cut.levels[-1] >= stock.thickness - 1e-6
        and (c.cut.z_zero or setup.z_zero) == "top"
    ]
    if through and stock.readings:
        shallow = min(through, key=lambda c: -c.cut.levels[-1])
        over = -shallow.cut.levels[-1] - stock.thickness
        more = max(stock.readings) - stock.thickness
        if more > over + 1e-6:
            bed = Remedy(
                label="Z zero on the bed", command={"kind": "set-setup", "setup": setup.id, "z_zero": "bed"}
            )
            words = (
                f"{stock.name} is {max(stock.readings):g} mm thick at its thickest, {more:.2f} mm over the"
                f" mean; {over:.2f} mm of overshoot do not reach through there"
            )
            out.append(
                look(
                    "stock.overshoot",
                    f"{words}: touch off on the thickest place with more overshoot, or set Z zero on the bed",
                    {**where, "stock": stock.id},
                    bed,
                )
            )
    return out


def sheet_snags(setup: Setup, sheet: SheetPlan, stock: Stock) -> list[Snag]:
    """Judge the cuts of one sheet against table, dead areas and screws."""
    out: list[Snag] = []
    m = setup.machine
    where: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    if not sheet.cuts:
        return out
    out += _below(setup, sheet, stock, where)
    sizes = np.array([len(pc.moves) for pc in sheet.cuts])
    first = np.cumsum(sizes) - sizes
    moved = np.repeat([setup.shift(pc.position) for pc in sheet.cuts], sizes, axis=0)
    xy = setup.lying.on_table(np.concatenate([pc.moves[:, [X, Y]] for pc in sheet.cuts]) - moved)
    lows, highs = np.minimum.reduceat(xy, first), np.maximum.reduceat(xy, first)
    over = np.maximum((-lows).max(axis=1), (highs - (m.width, m.height)).max(axis=1))
    if (over > 0).any():
        worst = int(np.argmax(over))
        out.append(
            stop(
                "table.outside",
                f"a cut reaches {over[worst]:.1f} mm beyond the table of {m.name}",
                {**where, "piece": sheet.cuts[worst].piece.id},
            )
        )
    for ax, ay, bx, by in m.dead_areas:
        inside = np.flatnonzero((xy[:, 0] > ax) & (xy[:, 0] < bx) & (xy[:, 1] > ay) & (xy[:, 1] < by))
        if len(inside):
            piece = sheet.cuts[int(np.searchsorted(first, inside[0], side="right")) - 1].piece
            out.append(
                stop(
                    "table.dead-area",
                    f"a cut lies in the dead area {ax:g} to {bx:g}, {ay:g} to {by:g} mm of {m.name}; move the"
                    " sheet or raise its margin",
                    {**where, "piece": piece.id},
                )
            )
    return out
