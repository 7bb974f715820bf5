"""What the cuts of a sheet leave standing where the drawing wants nothing: in corners, beside a contour, on
the floor of a pocket. Measured in the body that the cuts leave, along every contour that is cut; tabs are
meant, and skins too.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt
import shapely

from venzo.core.body.field import StockBody
from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import AreaCut, ContourCut, HoleCut
from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.order.of_sheet import PlacedCut
from venzo.core.plan import Piece
from venzo.core.proof.check import Subject, placed

BESIDE = 0.4
"""mm beside a contour at which it is looked whether something stands; more where cells are larger."""
STANDS = 0.05
"""mm over the depth that was wanted from which something stands."""
STEP = 0.5
"""mm along a contour, and on a floor, from one look to the next; more where cells are larger."""
LIFT = 1.0
"""mm beyond a tab's end, and the cutter's radius, within which the cutter is still going down."""
WHOLE = 0.9
"""Share of a contour from which what stands is no corner but all along it."""
MOST = 400
"""Places of a sheet that are told, the highest first."""
CHORD = 0.05
Flags = npt.NDArray[np.bool_]
Kind = Literal["corner", "beside", "floor"]


@dataclass(frozen=True)
class Left:
    """Something that stands. ``at``: on the sheet; ``length``: along the contour, or across a floor;
    ``height``: over the depth that was wanted; all mm.
    """

    kind: Kind
    piece: str
    part: str
    contour: str
    at: tuple[float, float]
    length: float
    height: float


def left_over(subject: Subject, body: StockBody) -> tuple[Left, ...]:
    """All that stands on a sheet once it is cut, the highest first."""
    found: list[Left] = []
    of_piece: dict[str, list[PlacedCut]] = {}
    for c in subject.sheet.cuts:
        of_piece.setdefault(c.piece.id, []).append(c)
    for q in subject.sheet.pieces:
        give_way()
        found += _beside_contours(subject, body, q, of_piece.get(q.id, []))
        cuts = subject.part_cuts.get((q.part, q.mirrored))
        named = {c.cut.contour for c in of_piece.get(q.id, []) if isinstance(c.cut, AreaCut)}
        for area in cuts.areas if cuts else ():
            if area.name in named and not area.pointed:
                found += _in_area(subject, body, q, area)
    return tuple(sorted(found, key=lambda f: (-f.height, f.piece, f.contour, f.at))[:MOST])


def _beside_contours(
    subject: Subject, body: StockBody, q: Piece, cuts: Sequence[PlacedCut]
) -> Iterator[Left]:
    """What stands beside the contours of a piece that are to be cut through."""
    part = subject.plan.part(q.part)
    assert part is not None
    thickness = subject.stock.thickness
    for name, contour in subject.shapes[part.shape].contours:
        mine = [c.cut for c in cuts if c.cut.contour == name and isinstance(c.cut, ContourCut | HoleCut)]
        deepest = min((c.levels[-1] for c in mine if c.levels), default=0.0)
        if -deepest < thickness - 1e-6:
            continue  # not cut through by plan: a skin, or left out
        loop = contour.placed(q.x, q.y, q.rotation, q.mirrored)
        tabs = [t for c in mine if isinstance(c, ContourCut) for t in _tabs(subject, c, q)]
        # beyond the outline, or within the hole: to the right of a loop that runs counter-clockwise
        outward = name == subject.shapes[part.shape].names[0]
        yield from _along(subject, body, q, name, loop.points(CHORD), outward, -thickness, tabs)


def _tabs(subject: Subject, cut: ContourCut, q: Piece) -> Iterator[tuple[Array, float]]:
    """The middle of every tab on the sheet, and how far from it the cutter is lifted, mm."""
    cutter = subject.setup.cutter(cut.cutter)
    if cut.tab is None or not cut.tabs or cutter is None:
        return
    reach = cut.tab.width / 2 + cutter.radius + LIFT
    for x, y in shapely.get_coordinates(placed(shapely.MultiPoint(cut.tabs), q)):
        yield np.array([x, y]), reach


def _in_area(subject: Subject, body: StockBody, q: Piece, area: Area) -> Iterator[Left]:
    """What stands on the floor of a pocket, along its walls and between them."""
    target = placed(area.target, q)
    for polygon in shapely.get_parts(target):
        for k, ring in enumerate((polygon.exterior, *polygon.interiors)):
            yield from _along(
                subject, body, q, area.name, shapely.get_coordinates(ring), k > 0, -area.depth, ()
            )
    step = 2 * max(STEP, body.cell)
    inner = target.buffer(-2 * BESIDE - body.cell)
    if inner.is_empty:
        return
    x0, y0, x1, y1 = inner.bounds
    xs, ys = np.arange(x0, x1, step), np.arange(y0, y1, step)
    spots = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    spots = spots[shapely.contains_xy(inner, spots)]
    over = body.heights(spots) + area.depth if len(spots) else np.zeros(0)
    stands = over > STANDS
    if stands.any():
        k = int(np.argmax(over))
        across = float(np.hypot(*np.ptp(spots[stands], axis=0)))
        yield Left(
            "floor", q.id, q.part, area.name, (float(spots[k, 0]), float(spots[k, 1])), across, float(over[k])
        )


def _along(
    subject: Subject,
    body: StockBody,
    q: Piece,
    name: str,
    loop: Array,
    outward: bool,
    wanted: float,
    tabs: Sequence[tuple[Array, float]],
) -> Iterator[Left]:
    """What stands beside a closed loop (n, 2), on its outer or its inner side."""
    kind: Kind
    beside, step = max(BESIDE, 1.2 * body.cell), max(STEP, body.cell)
    at, normal, total = _spaced(loop, step)
    spots = at + normal * (beside if outward else -beside)
    h = body.heights(spots)
    on = (spots >= 0).all(axis=1) & (spots <= (subject.stock.width, subject.stock.height)).all(axis=1)
    over = np.where(on, h - wanted, 0.0)
    for middle, reach in tabs:
        on &= np.hypot(*(at - middle).T) >= reach
    over[~on] = 0.0
    runs = _runs(over > STANDS)
    each = total / len(at)
    # tabs part what stands all along: it is one all the same
    if runs and sum(map(len, runs)) > WHOLE * on.sum():
        longest = max(runs, key=len)
        runs, kind, long = [longest], "beside", each * sum(map(len, runs))
    else:
        kind, long = "corner", 0.0
    for run in runs:
        k = run[len(run) // 2]
        place = (float(at[k, 0]), float(at[k, 1]))
        highest = float(over.max() if kind == "beside" else over[run].max())
        yield Left(kind, q.id, q.part, name, place, long or len(run) * each, highest)


def _spaced(loop: Array, step: float) -> tuple[Array, Array, float]:
    """Points at even steps along a closed loop, the outward normal at each, and the loop's length, mm."""
    closed = np.vstack([loop, loop[:1]])
    d = np.diff(closed, axis=0)
    far = np.hypot(*d.T)
    keep = far > 1e-9
    closed, d, far = np.vstack([closed[:-1][keep], closed[-1:]]), d[keep], far[keep]
    s = np.concatenate([[0.0], np.cumsum(far)])
    n = max(8, int(s[-1] / step))
    where = (np.arange(n) + 0.5) * s[-1] / n
    k = np.clip(np.searchsorted(s, where, side="right") - 1, 0, len(d) - 1)
    way = d[k] / far[k][:, None]
    at = closed[k] + way * (where - s[k])[:, None]
    area = float((closed[:-1, 0] * closed[1:, 1] - closed[1:, 0] * closed[:-1, 1]).sum())
    right = np.stack([way[:, 1], -way[:, 0]], axis=1)
    return at, right if area > 0 else -right, float(s[-1])


def _runs(flags: Flags) -> list[npt.NDArray[np.int_]]:
    """Stretches of a closed row of flags that are set, at least two long, each as its places in order.

    >>> [r.tolist() for r in _runs(np.array([1, 1, 0, 0, 1, 0, 1], dtype=bool))]
    [[6, 0, 1]]
    """
    if flags.all():
        return [np.arange(len(flags))]
    if not flags.any():
        return []
    first = int(np.argmin(flags))
    order = np.roll(np.arange(len(flags)), -first)
    set_ = flags[order]
    edge = np.flatnonzero(np.diff(np.concatenate([[0], set_.astype(int), [0]])))
    return [order[a:b] for a, b in zip(edge[::2], edge[1::2], strict=True) if b - a >= 2]
