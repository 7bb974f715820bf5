"""Where could screws go, and what should be covered? Proposals that a person takes or leaves."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import polyline
from venzo.core.geometry.contour import Array
from venzo.core.holding.fixings import Cover
from venzo.core.holding.screws import Screw
from venzo.core.holding.timeline import SheetHold, live_area
from venzo.core.model import Point
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Setup
from venzo.core.stock.sheet import Stock

GRID = 5.0
"""mm between the places that are tried."""
ALONG = 1.0
"""mm between the points that stand for a path; half of it is kept more."""


def free_for_screws(setup: Setup, sheet: SheetPlan, hold: SheetHold, head: float, proud: float) -> Array:
    """Places (n, 2) for the middle of a screw on a grid: in the skeleton or a wide drop, clear of every
    cutter and its holder at any height.
    """
    keep = setup.rules.hold.keep_clear
    waste = [hold.divided.polygons[i] for i in hold.divided.solid if i not in hold.bodies.values()]
    wide = [
        g
        for w in waste
        if w.area > head * head
        for g in shapely.get_parts(w.buffer(-head / 2 - keep))
        if not g.is_empty
    ]
    if not wide:
        return np.empty((0, 2))
    spots = np.concatenate([_grid_in(g) for g in wide])
    by_reach: dict[float, list[Array]] = {}
    for pc in sheet.cuts:
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None:
            continue
        path = polyline(pc.moves, ALONG / 4)
        low = path[path[:, 2] < proud + keep]
        if len(low) < 2:
            continue
        deepest = float(low[:, 2].min())
        above = setup.assembly(cutter).above_tip
        near = [cutter.radius, *(radius for radius, height in above if deepest + height < proud + keep)]
        by_reach.setdefault(max(near) + head / 2 + keep, []).append(_along(low[:, :2]))
    for reach, points in by_reach.items():
        from scipy.spatial import cKDTree  # here: dear to load

        near, _at = cKDTree(np.concatenate(points)).query(spots, distance_upper_bound=reach + ALONG)
        spots = spots[near > reach + ALONG / 2]
        if not len(spots):
            break
    return spots


def _along(path: Array) -> Array:
    """Points (n, 2) along a path, no further than ``ALONG`` from one to the next.

    >>> _along(np.array([[0.0, 0.0], [2.5, 0.0], [2.5, 0.0]]))[:, 0].round(2).tolist()
    [0.0, 0.83, 1.67, 2.5, 2.5]
    """
    steps = np.diff(path, axis=0)
    count = np.maximum(1, np.ceil(np.hypot(*steps.T) / ALONG)).astype(int)
    which = np.repeat(np.arange(len(steps)), count)
    share = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count)) / count[which]
    return np.concatenate([path[which] + share[:, None] * steps[which], path[-1:]])


def _grid_in(area: BaseGeometry) -> Array:
    """Grid points within an area, and one in its middle, so that a narrow one has a place too."""
    x0, y0, x1, y1 = area.bounds
    xs, ys = np.arange(np.ceil(x0 / GRID) * GRID, x1, GRID), np.arange(np.ceil(y0 / GRID) * GRID, y1, GRID)
    grid = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    shapely.prepare(area)
    middle = area.representative_point()
    return np.concatenate([grid[shapely.intersects_xy(area, grid[:, 0], grid[:, 1])], [[middle.x, middle.y]]])


def propose_screws(
    setup: Setup, sheet: SheetPlan, stock: Stock, hold: SheetHold, count: int = 6, kind: str = "screw"
) -> list[Screw]:
    """Places for screws (or nails) on one sheet: the corners first, then always where the work is farthest
    from any.

    Returns fewer than ``count`` where the layout leaves no room for them.
    """
    probe = Screw(id="probe", x=0, y=0)
    spots = free_for_screws(setup, sheet, hold, probe.head, probe.proud)
    if not len(spots):
        return []
    chosen: list[Point] = [(s.x, s.y) for s in setup.screws if s.on(sheet.sheet, sheet.copy_no)]
    new: list[Point] = []
    # the load acts where the cutter is
    work = (
        np.concatenate([hold.scene_at(-1).spots(pc)[::3] for pc in sheet.cuts])
        if sheet.cuts
        else np.array([(stock.width / 2, stock.height / 2)])
    )
    work = work[:: max(1, len(work) // 400)]
    corners = np.array([(0, 0), (stock.width, stock.height), (stock.width, 0), (0, stock.height)])
    for k in range(count):
        if k < 4 and len(chosen) - len(new) == 0:
            at = spots[int(np.argmin(np.hypot(*(spots - corners[k]).T)))]
        else:
            far = (
                np.min(np.hypot(*(work[:, None] - np.array(chosen)[None]).transpose(2, 0, 1)), axis=1)
                if chosen
                else np.full(len(work), np.inf)
            )
            target = work[int(np.argmax(far))]
            d = np.hypot(*(spots - target).T)
            if chosen:
                d = d + 1e6 * (
                    np.min(np.hypot(*(spots[:, None] - np.array(chosen)[None]).transpose(2, 0, 1)), axis=1)
                    < 4 * probe.head
                )
            at = spots[int(np.argmin(d))]
        spot = (round(float(at[0]), 1), round(float(at[1]), 1))
        if any(np.hypot(spot[0] - c[0], spot[1] - c[1]) < 2 * probe.head for c in chosen):
            continue
        chosen.append(spot)
        new.append(spot)
    taken = {s.id for s in setup.screws}
    names = (f"w{n}" for n in range(1, 10_000) if f"w{n}" not in taken)
    return [
        Screw(id=next(names), x=x, y=y, kind=kind, sheet=sheet.sheet, sheet_copy=sheet.copy_no, marked=True)
        for x, y in new
    ]  # type: ignore[arg-type]


def propose_covers(setup: Setup, stock: Stock) -> list[Cover]:
    """Rectangles that cover the live spoilboard beside the sheet: a strip along each side where it is
    open.
    """
    live = live_area(setup)[0]
    if live is None:
        return []
    x0, y0, x1, y1 = live.bounds
    strips = [
        (x0, y0, 0.0, y1),
        (stock.width, y0, x1, y1),
        (max(x0, 0.0), y0, min(x1, stock.width), 0.0),
        (max(x0, 0.0), stock.height, min(x1, stock.width), y1),
    ]
    out: list[Cover] = []
    for a, b, c, d in strips:
        if c - a > 5 and d - b > 5 and box(a, b, c, d).intersection(live).area > 1000:
            out.append(
                Cover(
                    id=f"cover-{len(out) + 1}",
                    x=round((a + c) / 2, 1),
                    y=round((b + d) / 2, 1),
                    width=round(c - a, 1),
                    height=round(d - b, 1),
                )
            )
    return out
