"""Finishing a relief: a cutter rolls over the surface along rows, rings or a spiral."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Literal

import numpy as np
import shapely
from pydantic import Field

from venzo.core.body.field import StockBody
from venzo.core.cuts.moves import FEED, LINE, RAPID, X, Y, Z
from venzo.core.geometry.contour import Array
from venzo.core.model import NotNegative, Positive, Value
from venzo.core.relief.block import Relief
from venzo.core.relief.patterns import HALVED, Pattern, Ways, between_lines, chained, over
from venzo.core.relief.rolling import Rolls, followed
from venzo.core.relief.tip import Tip
from venzo.core.tooling.assembly import Assembly
from venzo.core.tooling.cutter import Cutter

RETRACT = 3.0
"""mm over the block's top between two ways, where nothing says more."""
Above = tuple[tuple[float, float], ...]
LOOKS = 20_000
"""Places along a pass that are looked at."""
REST_CELL = 0.15
"""mm between places at which it is looked what is left."""
OFF_SEEN = 0.05
"""mm; a tip that stands no higher than it would rest counts as resting."""
SLACK = 0.02
"""Share by which ways may lie further apart along the surface before they are closed up."""
NEAR = 3.0
"""Step-overs: two ways that are no further apart are joined without lifting."""


class Pace(Value):
    """Feed and plunge, mm/min."""

    feed: Annotated[float, Field(gt=0, le=60_000)]
    plunge: Annotated[float, Field(gt=0, le=60_000)]


class Finish(Value):
    """How a relief is finished. ``step_over``: share of the tip's diameter, in plan; ``angle``: of rows, from
    X, degrees: along the grain (common practice).
    """

    step_over: Annotated[float, Field(gt=0.002, le=1)] = 0.1
    pattern: Pattern = "raster"
    angle: Annotated[float, Field(ge=-360, le=360)] = 0.0
    ways: Ways = "both ways"
    retract: Positive = RETRACT
    cusp: Annotated[float, Field(ge=0.001, le=5)] | None = None
    """Height of ridges, mm, in place of ``step_over``: kept on slopes by closing the ways up there."""
    over: NotNegative | None = None
    """Only where the passes before left more than so much above the surface, mm; None: all over."""


@dataclass(frozen=True, eq=False)
class ReliefPass:
    """What one cutter does on a relief. ``moves`` as everywhere, Z 0 at the block's top; ``step``: mm between
    ways, in plan; ``lowest``: of the tip.
    """

    kind: Literal["rough", "finish"]
    cutter: Cutter
    moves: Array
    step: float
    levels: tuple[float, ...] = ()
    kept_off: float = 0.0
    """Share of its way on which shank or nut keep the tip off the surface."""

    @cached_property
    def key(self) -> str:
        """Digest of what it cuts."""
        return hashlib.sha256(self.moves.tobytes() + self.cutter.id.encode()).hexdigest()[:24]

    @property
    def lowest(self) -> float:
        """Lowest place of the tip, mm."""
        return float(self.moves[:, Z].min()) if len(self.moves) else 0.0


def finish(
    relief: Relief,
    cutter: Cutter,
    how: Finish,
    pace: Pace,
    above: Above = (),
    before: StockBody | None = None,
) -> ReliefPass:
    """The finishing pass of a cutter over a relief.

    Args:
        relief: the surface in its block.
        cutter: with a round end.
        how: pattern and step-over; with ``over`` only what the passes ``before`` left.
        pace: feeds.
        above: what is rigid over its tip (``above_edge``).
        before: the block as it stands when the pass begins.

    Raises:
        BadInput: a cutter that leaves no relief, or too fine a step-over.
    """
    tip = Tip.of(cutter)
    step = tip.step_for(how.cusp) if how.cusp else tip.across * how.step_over
    lines = over(relief.boundary, how.pattern, step, how.angle, how.ways)
    if how.cusp:
        lines += closed_up(relief, tip, how, step)
    if how.over is not None and before is not None:
        lines = where_left(relief, lines, before, how.over, tip.radius)
    lines = chained(lines, relief.boundary, NEAR * step)
    ways = followed(relief.ground, lines, Rolls(tip, 0.0, above))
    moves = as_moves(ways, pace, how.retract)
    return ReliefPass(
        "finish", cutter, moves, step, kept_off=kept_off(relief, moves, Rolls(tip)) if above else 0.0
    )


def closed_up(relief: Relief, tip: Tip, how: Finish, step: float) -> list[Array]:
    """Ways between the ways of a pattern, only where the surface rises so much from one to the next that they
    lie further apart along it than ``step``; gaps are halved until they do not.
    """
    out: list[Array] = []
    for halved in range(1, HALVED + 1):
        lines = between_lines(relief.boundary, how.pattern, step, how.angle, halved)
        found = [part for line in lines for part in _where_steep(relief, tip, line, step, halved)]
        if not found:
            break
        out += found
    return out


def _where_steep(relief: Relief, tip: Tip, line: Array, step: float, halved: int) -> list[Array]:
    """The stretches of a line on which those beside it lie too far off along the surface."""
    points = shapely.get_coordinates(shapely.LineString(line).segmentize(step))
    d = np.gradient(points, axis=0)
    normal = np.column_stack([-d[:, 1], d[:, 0]]) / np.maximum(np.hypot(*d.T), 1e-12)[:, None]
    aside = step / 2**halved
    z = relief.ground.rest(np.vstack([points, points + normal * aside, points - normal * aside]), tip)
    here, left, right = np.split(z, 3)
    # before this line is run: from the one on its left to the one on its right
    apart = np.hypot(aside, left - here) + np.hypot(aside, here - right)
    steep = apart > step * (1 + SLACK)
    steep[:-1] |= steep[1:]
    steep[1:] |= steep[:-1]
    edges = np.flatnonzero(np.diff(np.concatenate([[0], steep.astype(int), [0]]))).reshape(-1, 2)
    return [points[a:b] for a, b in edges if b - a > 1]


def where_left(
    relief: Relief, lines: Sequence[Array], before: StockBody, more: float, reach: float
) -> list[Array]:
    """The stretches of lines in plan from which a tip ``reach`` mm wide comes to places where more than
    ``more`` mm stand above the surface; stretches that a tip's width parts are one.
    """
    from scipy.ndimage import distance_transform_edt

    x0, y0, x1, y1 = relief.boundary.bounds
    cell = max(before.cell, REST_CELL)
    xs, ys = (np.arange(a + cell / 2, b + cell, cell) for a, b in ((x0, x1), (y0, y1)))
    at = np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)
    left = np.full(len(at), -np.inf)
    own = shapely.contains_xy(relief.boundary, at[:, 0], at[:, 1])
    left[own] = before.heights(at[own]) - relief.ground.heights(at[own])
    high = (left > more).reshape(len(ys), len(xs))
    if not high.any():
        return []
    near = distance_transform_edt(~high) * cell <= reach
    out: list[Array] = []
    for line in lines:
        d = np.hypot(*np.diff(line, axis=0).T)
        n = np.maximum(1, np.ceil(d / cell)).astype(int)
        which = np.repeat(np.arange(len(d)), n)
        t = (np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n)) / n[which]
        points = np.vstack([line[which] + (line[which + 1] - line[which]) * t[:, None], line[-1:]])
        i = np.clip(((points[:, 1] - y0) / cell).astype(int), 0, len(ys) - 1)
        j = np.clip(((points[:, 0] - x0) / cell).astype(int), 0, len(xs) - 1)
        keep = near[i, j]
        edges = np.flatnonzero(np.diff(np.concatenate([[0], keep.astype(int), [0]]))).reshape(-1, 2)
        out += [points[a:b] for a, b in edges if b - a > 1]
    return out


def above_edge(fitted: Assembly) -> Above:
    """What is rigid over a cutter's edge, as (radius, height of its lower end over the tip), mm: a shank that
    is wider than the cutter, and the nut, as far as they are known: a stick-out that nobody measured says
    nothing of the work.
    """
    c = fitted.cutter
    shank = ((c.shank / 2, fitted.edge),) if fitted.edge and c.shank > c.diameter + 0.05 else ()
    return shank if fitted.estimated else (*shank, *fitted.above_tip)


def kept_off(relief: Relief, moves: Array, rolls: Rolls) -> float:
    """Share of a pass's places at which its tip stands higher than it would rest."""
    at = moves[moves[:, 0] != RAPID][:, [X, Y, Z]]
    at = at[:: max(1, len(at) // LOOKS)]
    if not len(at):
        return 0.0
    return float((at[:, 2] > rolls.rest(relief.ground, at[:, :2]) + OFF_SEEN).mean())


def as_moves(ways: Sequence[Array], pace: Pace, retract: float) -> Array:
    """Ways in space as moves: fast over the first place, down at the plunge feed, along, up again."""
    if not ways:
        return np.zeros((0, 7))
    out = []
    for way in ways:
        m = np.zeros((len(way) + 2, 7))
        m[0, [X, Y, Z]] = (*way[0, :2], retract)
        m[1:-1, [X, Y, Z]] = way
        m[-1, [X, Y, Z]] = (*way[-1, :2], retract)
        m[1:-1, 0] = LINE
        m[0, 0] = m[-1, 0] = RAPID
        m[1:-1, FEED] = paced(np.vstack([m[0, [X, Y, Z]], way]), pace)
        out.append(m)
    return np.vstack(out)


def paced(points: Array, pace: Pace) -> Array:
    """The feed of every way between points (n, 3): where it falls, no faster down than the plunge."""
    d = np.diff(points, axis=0)
    long = np.sqrt((d**2).sum(axis=1))
    falls = np.maximum(-d[:, 2], 0.0)
    most = np.where(falls > 1e-9, pace.plunge * long / np.maximum(falls, 1e-9), np.inf)
    # whole mm/min: a feed word a line would say nothing more
    return np.maximum(1.0, np.floor(np.minimum(pace.feed, most)))
