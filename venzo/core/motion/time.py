"""Acceleration-limited time of a path, with speeds carried through smooth corners."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from venzo.core.cuts.moves import CW, CX, CY, FEED, KIND, RAPID, X, Y, Z, dwells, lengths, sweeps
from venzo.core.geometry.contour import Array

CORNER = 0.02
"""mm a controller is taken to round a corner by, where its machine does not say: sets the speed kept through
it.
"""


@dataclass(frozen=True)
class Axes:
    """How fast a machine's axes go: mm/s2, mm/min, and mm by which its controller may round a corner.
    ``z_speed``: of Z, mm/min; None: as X and Y.
    """

    acceleration: float = 800.0
    rapid: float = 20_000.0
    deviation: float = CORNER
    z_speed: float | None = None

    @property
    def vertical(self) -> float:
        """Top speed of Z, mm/min."""
        return self.z_speed or self.rapid


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


def move_times(distances: Array, feed: float, acceleration: float) -> Array:
    """``move_time`` for many moves (mm) at once, s."""
    v = feed / 60
    d = np.maximum(distances, 0.0)
    return np.where(d >= v * v / acceleration, d / v + v / acceleration, 2 * np.sqrt(d / acceleration)) * (
        d > 0
    )


def path_time(moves: Array, axes: Axes = Axes()) -> tuple[float, Array]:
    """Seconds for a chain of moves from rest to rest, and per move.

    Each corner is passed at the speed at which an arc that rounds it by the axes' ``deviation`` keeps to the
    acceleration (v^2 = a r, r = deviation s / (1 - s) with s = sin of half the angle between the legs); arcs
    keep v^2 <= a r. Then one pass back and one forward limit every speed by what acceleration allows. No move
    goes faster up or down than ``z_speed``.
    """
    acceleration, rapid, corner, z_speed = axes.acceleration, axes.rapid, axes.deviation, axes.z_speed
    n = len(moves) - 1
    if n < 1:
        return 0.0, np.zeros(len(moves))
    d = lengths(moves)[1:]
    kind = moves[1:, KIND]
    stands = dwells(moves)[1:]
    v = np.where(kind == RAPID, rapid, np.minimum(np.where(stands > 0, rapid, moves[1:, FEED]), rapid)) / 60
    if z_speed is not None and z_speed < rapid:
        steep = np.abs(np.diff(moves[:, Z])) / np.maximum(d, 1e-12)
        v = np.minimum(v, z_speed / 60 / np.maximum(steep, 1e-9))
    turn = sweeps(moves)[1:]
    a, b = moves[:-1], moves[1:]
    arcs = kind >= CW
    radius = np.where(arcs, np.hypot(b[:, X] - b[:, CX], b[:, Y] - b[:, CY]), np.inf)
    v = np.minimum(v, np.sqrt(acceleration * radius))
    # unit directions at the start and end of every move
    chord = np.stack([b[:, X] - a[:, X], b[:, Y] - a[:, Y], b[:, Z] - a[:, Z]], axis=1)
    norm = np.linalg.norm(chord, axis=1, keepdims=True)
    straight = np.divide(chord, norm, out=np.zeros_like(chord), where=norm > 1e-12)

    def tangent(p: Array) -> Array:
        side = np.sign(turn)
        t = np.stack([-(p[:, Y] - b[:, CY]) * side, (p[:, X] - b[:, CX]) * side, np.zeros(n)], axis=1)
        size = np.linalg.norm(t, axis=1, keepdims=True)
        return np.divide(t, size, out=np.zeros_like(t), where=size > 1e-12)

    enter = np.where(arcs[:, None], tangent(a), straight)
    leave = np.where(arcs[:, None], tangent(b), straight)
    cos = np.sum(leave[:-1] * enter[1:], axis=1)
    s = np.sqrt(np.clip((1 - np.clip(-cos, -1, 1)) / 2, 0, 1))  # sin of half the angle between the legs
    with np.errstate(divide="ignore"):
        junction = np.sqrt(acceleration * corner * s / np.maximum(1 - s, 1e-12))
    node = np.concatenate([[0.0], np.minimum(junction, np.minimum(v[:-1], v[1:])), [0.0]])
    node[1:][stands > 0] = node[:-1][stands > 0] = 0.0
    reach = (2 * acceleration * d).tolist()
    u = node.tolist()
    for i in range(n - 1, -1, -1):
        u[i] = min(u[i], math.sqrt(u[i + 1] ** 2 + reach[i]))
    for i in range(n):
        u[i + 1] = min(u[i + 1], math.sqrt(u[i] ** 2 + reach[i]))
    u0, u1 = np.array(u[:-1]), np.array(u[1:])
    peak = np.minimum(v, np.sqrt(acceleration * d + (u0**2 + u1**2) / 2))
    peak = np.maximum(peak, np.maximum(u0, u1))
    ramps = (2 * peak**2 - u0**2 - u1**2) / (2 * acceleration)
    cruise = np.maximum(d - ramps, 0)
    seconds = stands + np.where(
        d > 0, (2 * peak - u0 - u1) / acceleration + cruise / np.maximum(peak, 1e-12), 0.0
    )
    return float(seconds.sum()), np.concatenate([[0.0], seconds])
