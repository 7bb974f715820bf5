"""Does a cutter or its holder run into what holds the work? Screws, clamps, pins, pods: at any height,
cutting or travelling.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely.geometry import Point, box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import RAPID, polyline
from venzo.core.geometry.contour import Array
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.snags import Remedy, Snag, Where, look, stop
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.assembly import Assembly

CHORD = 0.5
ABOVE: tuple[Literal["holder", "shoe"], ...] = ("holder", "shoe")
"""What stands above the cutter, in the order of ``Assembly.above_tip``."""


@dataclass(frozen=True)
class Obstacle:
    """Something that stands on the table: words, footprint in sheet coordinates, top over the stock, mm.
    ``buried``: it reaches down through the stock.
    """

    key: str
    kind: str
    says: str
    shape: BaseGeometry
    top: float
    buried: bool


def obstacles(setup: Setup, sheet: SheetPlan) -> list[Obstacle]:
    """All that a cutter must keep clear of on a sheet."""
    out = [
        Obstacle(
            s.id,
            s.kind,
            f"the {s.kind} at {s.x:.0f}, {s.y:.0f} mm",
            Point(s.x, s.y).buffer(s.head / 2),
            s.proud,
            True,
        )
        for s in setup.screws
        if s.on(sheet.sheet, sheet.copy_no)
    ]
    for f in setup.fixings:
        if f.kind in ("clamp", "cam", "pin"):
            shape = Point(f.x, f.y).buffer(f.width / 2) if f.kind == "pin" else box(*f.box)
            out.append(
                Obstacle(
                    f.id, f.kind, f"the {f.kind} at {f.x:.0f}, {f.y:.0f} mm", shape, f.proud, f.kind == "pin"
                )
            )
    return out


def way_snags(setup: Setup, sheet: SheetPlan, stock: Stock) -> list[Snag]:
    """Judge every move of a sheet, and the travel between its cuts, against everything in the way."""
    things = obstacles(setup, sheet)
    where: Where = {"setup": setup.id, "sheet": sheet.sheet, "sheet_copy": sheet.copy_no}
    out: list[Snag] = []
    if things and sheet.cuts:
        keep = setup.rules.hold.keep_clear
        hit: set[tuple[str, str]] = set()
        said: dict[tuple[str, str], int] = {}
        shapes = np.array([t.shape for t in things], dtype=object)
        out += _travel(setup, sheet, things, keep, where)
        for k, pc in enumerate(sheet.cuts):
            cutter = setup.cutter(pc.cut.cutter)
            if cutter is None:
                continue
            path = polyline(pc.moves, CHORD)
            clamped = setup.assembly(cutter)
            reach = max(cutter.radius, *(r for r, _h in clamped.above_tip)) + keep
            x0, y0 = path[:, :2].min(axis=0) - reach
            x1, y1 = path[:, :2].max(axis=0) + reach
            close = np.flatnonzero(shapely.intersects(shapes, box(x0, y0, x1, y1)))
            for i in close.tolist():
                t = things[i]
                how = meets(path, t, clamped, keep)
                if how and (t.key, how) not in hit:
                    hit.add((t.key, how))
                    said[how, pc.cut.cutter] = said.get((how, pc.cut.cutter), 0) + 1
                    out.append(
                        _hit(
                            setup, how, t, clamped, {**where, "piece": pc.piece.id, "cut": k, "fixing": t.key}
                        )
                    )
    out += _below(setup, sheet, stock, where)
    return out


Meeting = Literal["cutter", "rapid", "shank", "holder", "shoe", ""]
"""How something is met: by the cutter, passing too low over it, by the shank, the nut or nose, the dust
shoe; "": not at all.
"""


def meets(path: Array, t: Obstacle, clamped: Assembly, keep: float) -> Meeting:
    """How a path (n, 3) of a cutter's tip meets a thing."""
    return meets_between(path[:-1], path[1:], t, clamped, keep)


def meets_between(a: Array, b: Array, t: Obstacle, clamped: Assembly, keep: float) -> Meeting:
    """``meets`` for moves from every row of ``a`` to that of ``b`` (n, 3)."""
    cutter = clamped.cutter
    low = np.minimum(a[:, 2], b[:, 2])
    lines = shapely.linestrings(np.stack([a[:, :2], b[:, :2] + 1e-9], axis=1))
    away = shapely.distance(lines, t.shape)
    # the cutter's radius at the height of the thing's top: a V bit is wider up there
    radius = (
        np.array([cutter.radius_at(h) if h > 0 else 0.0 for h in (t.top - low).clip(0, None).round(2)])
        if cutter.radius_at(0.0) < cutter.radius
        else np.full(len(low), cutter.radius)
    )
    cutting = low < t.top
    if ((away < radius) & cutting).any() or (t.buried and ((away < radius) & (low < 0)).any()):
        return "cutter"
    if ((away < cutter.radius) & (low < t.top + keep) & (low > 0)).any():
        return "rapid"
    edge = clamped.edge
    if edge is not None and ((away < cutter.shank / 2) & (low + edge < t.top + keep)).any():
        return "shank"
    for what, (wide, height) in zip(ABOVE, clamped.above_tip, strict=False):
        if ((away < wide) & (low + height < t.top + keep)).any():
            return what
    return ""


def _hit(setup: Setup, how: Meeting, t: Obstacle, clamped: Assembly, where: Where) -> Snag:
    cutter = clamped.cutter
    remedies = _move_it(setup, t)
    screw = t.kind in ("screw", "nail")
    if how == "cutter":
        return stop(
            "holding.screw-hit" if screw else "holding.clamp-hit",
            f"the {cutter.name} runs into {t.says}; move it, or move the piece",
            where,
            *remedies,
        )
    if how == "rapid":
        return stop(
            "holding.rapid-hit",
            f"the {cutter.name} passes less than {setup.rules.hold.keep_clear:g} mm over {t.says}, which"
            f" stands {t.top:g} mm proud; move it, or raise the retract height"
            f" ({setup.machine.retract:g} mm)",
            where,
            *remedies,
        )
    if how == "shank":
        what = f"the shank of {cutter.name} ({cutter.shank:g} mm across, {clamped.edge:g} mm over the tip)"
    else:
        radius, height = clamped.above_tip[ABOVE.index(how)]
        name = "dust shoe" if how == "shoe" else f"holder of {cutter.name}"
        what = f"the {name} ({2 * radius:g} mm across, {height:.0f} mm over the tip)"
    mend = "take it off, or" if how == "shoe" else "take the cutter longer, or"
    return stop(
        "holding.holder-hit",
        f"{what} runs into {t.says}, {t.top:g} mm high; {mend} move the {t.kind}",
        where,
        *remedies,
    )


def _move_it(setup: Setup, t: Obstacle) -> list[Remedy]:
    if t.kind in ("screw", "nail"):
        rest = [s.model_dump(mode="json") for s in setup.screws if s.id != t.key]
        return [
            Remedy(
                label=f"Take the {t.kind} out",
                command={"kind": "set-screws", "setup": setup.id, "screws": rest},
            )
        ]
    rest = [f.model_dump(mode="json") for f in setup.fixings if f.id != t.key]
    return [
        Remedy(
            label=f"Take the {t.kind} away",
            command={"kind": "set-fixings", "setup": setup.id, "fixings": rest},
        )
    ]


def _travel(setup: Setup, sheet: SheetPlan, things: list[Obstacle], keep: float, where: Where) -> list[Snag]:
    """Fast moves between cuts, at the rapid height."""
    m = setup.machine
    tall = [t for t in things if t.top + keep > m.clearance]
    if not tall:
        return []
    out = []
    here = np.array([0.0, 0.0])
    legs = []
    for pc in sheet.cuts:
        legs.append((here, pc.moves[0, [1, 2]]))
        here = pc.moves[-1, [1, 2]]
    lines = shapely.linestrings(np.array([[a, b + 1e-9] for a, b in legs]))
    radius = np.array([c.radius if (c := setup.cutter(pc.cut.cutter)) else 0.0 for pc in sheet.cuts])
    for t in tall:
        near = np.flatnonzero(shapely.distance(lines, t.shape) < radius)
        if len(near):
            k = int(near[0])
            up = {**m.model_dump(mode="json"), "clearance": max(t.top + keep, m.clearance)}
            out.append(
                stop(
                    "holding.rapid-hit",
                    f"fast moves at {m.clearance:g} mm run into {t.says}, which stands {t.top:g} mm proud;"
                    f" raise the rapid height to {t.top + keep:g} mm or more",
                    {**where, "cut": k, "fixing": t.key},
                    Remedy(
                        label=f"Rapid height {t.top + keep:g} mm",
                        command={
                            "kind": "set-setup",
                            "setup": setup.id,
                            "machine": up,
                            "zones_on": list(setup.zones_on),
                        },
                    ),
                    *_move_it(setup, t),
                )
            )
    return out


def _below(setup: Setup, sheet: SheetPlan, stock: Stock, where: Where) -> list[Snag]:
    """Cuts that go through into a pod, a fixture board's seal or a patch of tape under the sheet."""
    under = [f for f in setup.fixings if f.kind in ("pod", "tape")]
    out: list[Snag] = []
    hit: set[str] = set()
    for k, pc in enumerate(sheet.cuts if under else ()):
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None or pc.cut.levels[-1] > -stock.thickness + 1e-6:
            continue
        path = polyline(pc.moves[pc.moves[:, 0] != RAPID] if len(pc.moves) > 2 else pc.moves, CHORD)
        through = (path[:-1, 2] < -stock.thickness + 1e-6) & (path[1:, 2] < -stock.thickness + 1e-6)
        if not through.any():
            continue
        deep = shapely.linestrings(np.stack([path[:-1, :2][through], path[1:, :2][through] + 1e-9], axis=1))
        for f in under:
            if f.id in hit or float(shapely.distance(deep, box(*f.box)).min()) > cutter.radius:
                continue
            hit.add(f.id)
            rest = [x.model_dump(mode="json") for x in setup.fixings if x.id != f.id]
            away = Remedy(
                label=f"Take the {f.kind} away",
                command={"kind": "set-fixings", "setup": setup.id, "fixings": rest},
            )
            if f.kind == "pod":
                out.append(
                    stop(
                        "holding.pod-hit",
                        f"{cutter.name} cuts {-pc.cut.levels[-1] - stock.thickness:.2g} mm into the pod at"
                        f" {f.x:.0f}, {f.y:.0f}; move the pod under the piece",
                        {**where, "piece": pc.piece.id, "cut": k, "fixing": f.id},
                        away,
                    )
                )
            else:
                out.append(
                    look(
                        "holding.tape-cut",
                        f"{cutter.name} cuts through the tape at {f.x:.0f}, {f.y:.0f} mm: its glue gums the"
                        " cutter; lay it clear of the cuts",
                        {**where, "piece": pc.piece.id, "cut": k, "fixing": f.id},
                        away,
                    )
                )
    return out
