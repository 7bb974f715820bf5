"""Ways in plan let down on a surface: the cutter touches it all along and goes into it nowhere.

Where a way is sampled evenly, what stands up between two samples is seen by how the heights before and after
bend; there the way is halved until its middle lies on the straight line between its ends, or the halves are
``LEAST`` long. Over a step the cutter goes up before it goes on, and down after.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.relief.drop import Ground
from venzo.core.relief.tip import Tip
from venzo.core.snags import BadInput

OFF = 0.005
"""mm by which a way may lie off the surface that the tip rolls on, between two of its points."""
THIN = 0.008
"""mm that leaving points out may add to it."""
LEAST = 0.004
"""mm; a way is halved no further."""
FINEST, COARSEST = 0.03, 0.5
"""mm between samples, at least and at most."""
CLEAR = 0.5
"""mm that shank and nut keep over the surface."""
MOST_POINTS = 40_000_000


@dataclass(frozen=True)
class Rolls:
    """What follows a surface: the cutter's tip, how far off the surface it stays, mm; ``above``: what is
    rigid over it, (radius, height of its lower end over the tip), and stays clear of the surface too.
    """

    tip: Tip
    allowance: float = 0.0
    above: tuple[tuple[float, float], ...] = ()

    def rest(self, ground: Ground, points: Array) -> Array:
        """Where the tip stands over places (n, 2), mm."""
        z = ground.rest(points, self.tip, self.allowance)
        for radius, up in self.above:
            z = np.maximum(z, ground.rest(points, Tip.mill(2 * radius)) - up + CLEAR)
        return z

    @property
    def pitch(self) -> float:
        """mm between samples. A round corner of radius r rolls over even the sharpest spike on a circle of r,
        so that between two samples no more than pitch squared / 8 r stays unseen: ``OFF``.
        """
        corner = self.tip.corner + self.allowance
        round_ = corner if corner > 0 else self.tip.radius
        return min(COARSEST, max(FINEST, math.sqrt(8 * round_ * OFF)))


def followed(ground: Ground, lines: Sequence[Array], rolls: Rolls) -> list[Array]:
    """Lines in plan, each (n, 2), as ways in space (m, 3) with the tip resting on the surface.

    Raises:
        BadInput: more samples than MOST_POINTS.
    """
    if not lines:
        return []
    xy, of, s = _sampled(lines, rolls.pitch)
    z = rolls.rest(ground, xy)
    xy, of, s, z = _refined(ground, rolls, xy, of, s, z)
    begins = np.concatenate([[0], np.flatnonzero(np.diff(of)) + 1, [len(of)]])
    out = []
    for a, b in pairwise(begins):
        give_way()
        out.append(_thinned(*_stepped(xy[a:b], s[a:b], z[a:b])))
    return out


def _sampled(lines: Sequence[Array], pitch: float) -> tuple[Array, Array, Array]:
    """Points along all lines at most ``pitch`` apart with the lines' own corners, the line of each, and how
    far along it.
    """
    total = sum(float(np.hypot(*np.diff(g, axis=0).T).sum()) for g in lines)
    if total / pitch > MOST_POINTS:
        raise BadInput(
            f"{total / 1000:,.0f} m of way in steps of {pitch:.2f} mm is more than {MOST_POINTS:,} points:"
            " take a larger step-over or cutter"
        )
    points, of, along = [], [], []
    for k, g in enumerate(lines):
        d = np.hypot(*np.diff(g, axis=0).T)
        n = np.maximum(1, np.ceil(d / pitch)).astype(int)
        which = np.repeat(np.arange(len(d)), n)
        t = (np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n)) / n[which]
        at = g[which] + (g[which + 1] - g[which]) * t[:, None]
        far = np.concatenate([[0.0], np.cumsum(d)])
        points += [at, g[-1:]]
        along += [far[which] + d[which] * t, far[-1:]]
        of.append(np.full(len(at) + 1, k))
    return np.vstack(points), np.concatenate(of), np.concatenate(along)


def _bends(s: Array, z: Array, of: Array) -> Array:
    """For every interval, how far the surface may lie off the straight line over it: by how the slope changes
    at its ends.
    """
    same = of[1:] == of[:-1]
    d = np.where(same, np.maximum(np.diff(s), 1e-9), 1.0)
    slope = np.where(same, np.diff(z) / d, 0.0)
    turns = np.zeros(len(z))
    inner = same[1:] & same[:-1]
    # at the ends of a way nobody knows how it bends: there it is asked
    turns[1:-1] = np.where(inner, np.diff(slope), -1.0)
    turns[[0, -1]] = -1.0
    over, under = np.maximum(-turns, 0.0), np.maximum(turns, 0.0)
    # over a round corner it bends evenly, at most: a tenth where a sixteenth would do; in a valley it may
    # turn at once, and what is off there stays standing
    off = d * ((over[:-1] + over[1:]) / 10 + (under[:-1] + under[1:]) / 8)
    # measured normal to the way: on a steep one a little aside is much up
    return np.where(same, off / np.hypot(1.0, slope), 0.0)


def _refined(
    ground: Ground, rolls: Rolls, xy: Array, of: Array, s: Array, z: Array
) -> tuple[Array, Array, Array, Array]:
    """With the middles of all intervals over which the surface is not straight, and so on."""
    ask = np.flatnonzero(_bends(s, z, of) > OFF)
    a = np.column_stack([xy[ask], s[ask], z[ask], of[ask]])
    b = np.column_stack([xy[ask + 1], s[ask + 1], z[ask + 1], of[ask + 1]])
    found = [np.column_stack([xy, s, z, of])]
    while len(a):
        middle = (a + b) / 2
        straight = middle[:, 3].copy()
        middle[:, 3] = rolls.rest(ground, middle[:, :2])
        found.append(middle)
        long = b[:, 2] - a[:, 2]
        slope = (b[:, 3] - a[:, 3]) / np.maximum(long, 1e-12)
        off = np.abs(middle[:, 3] - straight) / np.hypot(1.0, slope)
        # half: what bends more at one end than at the other is not told by its middle alone
        more = (off > OFF / 2) & (long > LEAST)
        a, b = np.vstack([a[more], middle[more]]), np.vstack([middle[more], b[more]])
    every = np.vstack(found)
    every = every[np.lexsort((every[:, 2], every[:, 4]))]
    return every[:, :2], every[:, 4], every[:, 2], every[:, 3]


def _stepped(xy: Array, s: Array, z: Array) -> tuple[Array, Array, Array]:
    """Where it still goes up or down between two points that close to one another, it does so at the lower
    one's place.
    """
    rise, d = np.diff(z), np.diff(s)
    jump = np.flatnonzero((d <= LEAST) & (np.abs(rise) > OFF))
    if not len(jump):
        return xy, s, z
    place = np.where(rise[jump] > 0, jump, jump + 1)
    return (
        np.insert(xy, jump + 1, xy[place], axis=0),
        np.insert(s, jump + 1, s[place]),
        np.insert(z, jump + 1, np.maximum(z[jump], z[jump + 1])),
    )


def _thinned(xy: Array, s: Array, z: Array) -> Array:
    """The way with no more points than it needs."""
    from venzo.core.relief.rolling_kernel import thin

    corners = _corners(xy)
    keep = np.zeros(len(s), dtype=bool)
    for a, b in pairwise(corners):
        part = np.zeros(b - a + 1, dtype=bool)
        thin(s[a : b + 1], z[a : b + 1], THIN, part)
        keep[a : b + 1] |= part
    return np.column_stack([xy[keep], z[keep]])


def _corners(xy: Array) -> Array:
    """Numbers of the points at which a way turns in plan, the first and the last."""
    d = np.diff(xy, axis=0)
    long = np.hypot(*d.T)
    moves = np.flatnonzero(long > 1e-9)
    if len(moves) < 2:
        return np.array([0, len(xy) - 1])
    u = d[moves] / long[moves][:, None]
    turn = np.abs(u[:-1, 0] * u[1:, 1] - u[:-1, 1] * u[1:, 0]) + (np.einsum("ij,ij->i", u[:-1], u[1:]) < 0)
    at = moves[1:][turn > 1e-7]
    return np.unique(np.concatenate([[0], at, [len(xy) - 1]]))


def warm() -> None:
    """Compile the loops by a ridge of two triangles."""
    ridge = np.array([[[0, -9, 0], [20, -9, 0], [10, 0, 5]], [[0, 9, 0], [20, 9, 0], [10, 0, 5]]], float)
    ground = Ground(ridge)
    ground.layers(np.array([[10.0, 1.0]]))
    followed(ground, [np.array([[0.0, 0.0], [20.0, 1.0]])], Rolls(Tip.ball(4), 0.5))
