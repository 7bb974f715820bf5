"""Acceleration-limited time of a path, with speeds carried through smooth corners."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from venzo.core.cuts.moves import CW, CX, CY, FEED, KIND, RAPID, X, Y, Z, dwells, lengths, sweeps
from venzo.core.geometry.contour import Array
from venzo.core.motion.jerk import from_rest, jerked

CORNER = 0.02
"""mm a controller is taken to round a corner by, where its machine does not say: sets the speed kept through
it.
"""


@dataclass(frozen=True)
class Axes:
    """How fast a machine's axes go: mm/s2, mm/min, and mm by which its controller may round a corner.

    ``acceleration``, ``rapid``: of X, and along any path; ``y_speed``, ``z_speed``, ``y_acceleration``,
    ``z_acceleration``: of the other axes where they are slower; None: as X. ``jerk``: mm/s3; None: none, the
    controller changes acceleration at once. ``blocks``: program lines a second that the controller takes;
    None: as many as come.
    """

    acceleration: float = 800.0
    rapid: float = 20_000.0
    deviation: float = CORNER
    z_speed: float | None = None
    y_speed: float | None = None
    y_acceleration: float | None = None
    z_acceleration: float | None = None
    jerk: float | None = None
    blocks: float | None = None

    @property
    def alike(self) -> bool:
        """Are X and Y equally fast?"""
        return self.y_speed is None and self.y_acceleration is None

    @property
    def vertical(self) -> float:
        """Top speed of Z, mm/min."""
        return min(self.z_speed or self.rapid, self.rapid)

    def travel_times(self, way: Array) -> Array:
        """Seconds for straight fast moves, each from rest to rest; ``way`` (n, 3): X, Y, Z of each, mm.

        >>> Axes(1000.0, 6000.0).travel_times(np.array([[100.0, 0, 0], [0, 0, 0]])).round(3).tolist()
        [1.1, 0.0]
        """
        distance = np.linalg.norm(way, axis=1)
        unit = np.abs(way) / np.maximum(distance, 1e-12)[:, None]
        speed, acceleration = self._limits(unit)
        out = _trapezoid(distance, speed, acceleration)
        return out if self.jerk is None else out + from_rest(distance, speed, acceleration, self.jerk)

    def _limits(self, unit: Array) -> tuple[Array, Array]:
        """Top speed (mm/s) and acceleration along directions (n, 3), each component without its sign."""
        speed = np.full(len(unit), self.rapid / 60)
        acceleration = np.full(len(unit), self.acceleration)
        for k, top, most in ((1, self.y_speed, self.y_acceleration), (2, self.z_speed, self.z_acceleration)):
            share = np.maximum(unit[:, k], 1e-9)
            if top is not None:
                speed = np.minimum(speed, top / 60 / share)
            if most is not None:
                acceleration = np.minimum(acceleration, most / share)
        return speed, acceleration


@dataclass(frozen=True, eq=False)
class Pace:
    """How a chain of moves goes, one entry a move, the first (where it starts) 0: seconds; the fastest it
    gets and the speed it was to have, mm/s, both 0 where it stands. ``starved``: moves that come faster than
    the controller takes lines, and are slowed by it.
    """

    seconds: Array
    reached: Array
    wanted: Array
    starved: npt.NDArray[np.bool_]

    @property
    def total(self) -> float:
        """Seconds of the whole chain."""
        return float(self.seconds.sum())


def move_time(distance: float, feed: float, acceleration: float) -> float:
    """Seconds for one move from rest to rest.

    Trapezoid: with v = feed/60 and a the acceleration, d >= v^2/a takes d/v + v/a, a shorter move 2
    sqrt(d/a).

    >>> round(move_time(100, 6000, 1000), 3), round(move_time(1, 6000, 1000), 4)
    (1.1, 0.0632)
    """
    v = feed / 60
    if distance <= 0:
        return 0.0
    return (
        distance / v + v / acceleration
        if distance >= v * v / acceleration
        else 2 * math.sqrt(distance / acceleration)
    )


def _trapezoid(distance: Array, speed: Array, acceleration: Array) -> Array:
    """``move_time`` for many moves at once: mm, mm/s, mm/s2; s."""
    d = np.maximum(distance, 0.0)
    far = d >= speed * speed / acceleration
    return np.where(far, d / speed + speed / acceleration, 2 * np.sqrt(d / acceleration)) * (d > 0)


def path_time(moves: Array, axes: Axes = Axes()) -> tuple[float, Array]:
    """Seconds for a chain of moves (n, 7) from rest to rest, and per move (``pace``)."""
    p = pace(moves, axes)
    return p.total, p.seconds


WINDOW = 16
"""Lines that a controller has read ahead (common practice: a handful to some dozens)."""
STARVED = 0.999


def pace(moves: Array, axes: Axes = Axes()) -> Pace:
    """How a chain of moves (n, 7) goes from rest to rest.

    Each corner is passed at the speed at which an arc that rounds it by the axes' ``deviation`` keeps to the
    acceleration (v^2 = a r, r = deviation s / (1 - s) with s = sin of half the angle between the legs); arcs
    keep v^2 <= a r. No move asks more of an axis than it has, nor comes faster than the controller takes
    lines (the mean of ``WINDOW`` moves). Then one pass back and one forward limit every speed by what
    acceleration allows. Limited jerk makes each speeding up and slowing down longer (``motion.jerk``).
    """
    n = len(moves) - 1
    none = np.zeros(max(len(moves), 0))
    if n < 1:
        return Pace(none, none, none, np.zeros(len(moves), dtype=np.bool_))
    d = lengths(moves)[1:]
    kind = moves[1:, KIND]
    stands = dwells(moves)[1:]
    way = _Way(moves, d)
    top, acceleration = axes._limits(np.maximum(np.abs(way.enter), np.abs(way.leave)))
    arcs = kind >= CW
    flat = min(axes.acceleration, axes.y_acceleration or axes.acceleration)
    if arcs.any():
        steep = way.steep[arcs]
        level = min(axes.rapid, axes.y_speed or axes.rapid) / 60 / np.sqrt(np.maximum(1 - steep**2, 1e-12))
        top[arcs] = np.minimum(
            np.minimum(level, axes.rapid / 60), axes.vertical / 60 / np.maximum(steep, 1e-9)
        )
        acceleration[arcs] = np.minimum(acceleration[arcs], flat)
    asked = np.where((kind == RAPID) | (stands > 0), axes.rapid, moves[1:, FEED]) / 60
    wanted = np.minimum(asked, top)
    v = np.minimum(wanted, np.sqrt(flat * way.radius))
    starved = np.zeros(n, dtype=np.bool_)
    if axes.blocks is not None:
        most = axes.blocks * _mean_of(d, WINDOW)
        starved = (most < STARVED * v) & (d > 0)
        v = np.where(starved, most, v)
    corner = axes._limits(way.bend)[1]
    with np.errstate(divide="ignore"):
        junction = np.sqrt(corner * axes.deviation * way.half / np.maximum(1 - way.half, 1e-12))
    node = np.concatenate([[0.0], np.minimum(junction, np.minimum(v[:-1], v[1:])), [0.0]])
    node[1:][stands > 0] = node[:-1][stands > 0] = 0.0
    u0, u1 = _within_acceleration(node, 2 * acceleration * d)
    peak = np.minimum(v, np.sqrt(acceleration * d + (u0**2 + u1**2) / 2))
    peak = np.maximum(peak, np.maximum(u0, u1))
    ramps = (2 * peak**2 - u0**2 - u1**2) / (2 * acceleration)
    cruise = np.maximum(d - ramps, 0)
    seconds = stands + np.where(
        d > 0, (2 * peak - u0 - u1) / acceleration + cruise / np.maximum(peak, 1e-12), 0.0
    )
    if axes.jerk is not None:
        seconds = seconds + jerked(u0, peak, u1, cruise, acceleration, axes.jerk)
    moving = d > 0

    def each(x: Array) -> Array:
        return np.concatenate([[0.0], np.where(moving, x, 0.0)])

    return Pace(
        np.concatenate([[0.0], seconds]), each(peak), each(wanted), np.concatenate([[False], starved])
    )


class _Way:
    """Directions of a chain of moves: ``enter``, ``leave`` (n, 3) at the ends of each; ``steep``: share of Z;
    ``radius`` of arcs; at every corner ``half``: the sine of half the angle between the legs, and ``bend``:
    the direction (without signs) in which speed changes there.
    """

    def __init__(self, moves: Array, d: Array):
        a, b = moves[:-1], moves[1:]
        turn = sweeps(moves)[1:]
        arcs = b[:, KIND] >= CW
        self.radius = np.where(arcs, np.hypot(b[:, X] - b[:, CX], b[:, Y] - b[:, CY]), np.inf)
        chord = b[:, [X, Y, Z]] - a[:, [X, Y, Z]]
        straight = _unit(chord)
        self.steep = np.abs(chord[:, 2]) / np.maximum(d, 1e-12)
        self.enter = np.where(arcs[:, None], _tangent(a, b, turn), straight)
        self.leave = np.where(arcs[:, None], _tangent(b, b, turn), straight)
        cos = np.sum(self.leave[:-1] * self.enter[1:], axis=1)
        self.half = np.sqrt(np.clip((1 - np.clip(-cos, -1, 1)) / 2, 0, 1))
        self.bend = np.abs(_unit(self.enter[1:] - self.leave[:-1]))


def _unit(v: Array) -> Array:
    size = np.linalg.norm(v, axis=1, keepdims=True)
    return np.divide(v, size, out=np.zeros_like(v), where=size > 1e-12)


def _tangent(p: Array, arc: Array, turn: Array) -> Array:
    """The direction of arcs at points of theirs."""
    side = np.sign(turn)
    return _unit(
        np.stack([-(p[:, Y] - arc[:, CY]) * side, (p[:, X] - arc[:, CX]) * side, np.zeros(len(p))], axis=1)
    )


def _mean_of(d: Array, many: int) -> Array:
    """Mean of ``many`` values around each, fewer at the ends.

    >>> _mean_of(np.array([1.0, 1.0, 1.0, 7.0]), 2).tolist()
    [1.0, 1.0, 4.0, 7.0]
    """
    total = np.concatenate([[0.0], np.cumsum(d)])
    k = np.arange(len(d))
    low, high = np.maximum(k - (many // 2 - 1), 0), np.minimum(k + many // 2 + 1, len(d))
    return (total[high] - total[low]) / (high - low)


def _within_acceleration(node: Array, reach: Array) -> tuple[Array, Array]:
    """Speeds at both ends of every move: no more than ``node`` allows, and none that could not be come by;
    ``reach``: 2 a d of each.
    """
    u, r = node.tolist(), reach.tolist()
    for i in range(len(r) - 1, -1, -1):
        u[i] = min(u[i], math.sqrt(u[i + 1] ** 2 + r[i]))
    for i in range(len(r)):
        u[i + 1] = min(u[i + 1], math.sqrt(u[i] ** 2 + r[i]))
    return np.array(u[:-1]), np.array(u[1:])
