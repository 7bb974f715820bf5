"""Which of a cut's moves lie in a stretch of the stock, and how is each run of them entered?

A cut that no position reaches whole is made in lengths. What lies outside is left out; where the cutter comes
in from outside it goes down along its own way, back and forth, never below it: it takes nothing that the cut
itself does not take.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from venzo.core.cuts.moves import (
    CCW,
    CW,
    CX,
    CY,
    FEED,
    KIND,
    LINE,
    RAPID,
    TINY,
    X,
    Y,
    Z,
    lengths,
    row,
    sweeps,
)
from venzo.core.geometry.contour import Array
from venzo.core.indexing.reach import Span

Mask = npt.NDArray[np.bool_]

EPS = 1e-6
RAMP = 50.0
"""mm along its way over which a cutter goes down (common practice: some two inches)."""
STEEPEST = 0.1
"""Rise over run of that way down at most."""
SAME = 0.05
"""mm within which a run is entered where one before was."""


@dataclass(frozen=True)
class Down:
    """How the cutter gets to where it enters: fast at the height ``retract`` (mm), down at ``plunge``
    (mm/min).
    """

    retract: float
    plunge: float


def extent(moves: Array, column: int) -> Span:
    """Lowest and highest of the cutter's middle along X (0) or Y (1), arcs with their bulges, mm.

    >>> half = np.array([row(RAPID, 0, 0, 1), row(CCW, -20, 0, -1, 500, -10, 0)])
    >>> extent(half, 0), extent(half, 1)
    ((-20.0, 0.0), (0.0, 10.0))
    """
    at, centre = (X, Y)[column], (CX, CY)[column]
    low, high = float(moves[:, at].min()), float(moves[:, at].max())
    turns = sweeps(moves)
    for i in np.flatnonzero(turns):
        begin = math.atan2(moves[i - 1, Y] - moves[i, CY], moves[i - 1, X] - moves[i, CX])
        radius = math.hypot(moves[i - 1, X] - moves[i, CX], moves[i - 1, Y] - moves[i, CY])
        for angle, sign in ((column * math.pi / 2, 1.0), (column * math.pi / 2 + math.pi, -1.0)):
            if _swept(begin, float(turns[i]), angle):
                reach = float(moves[i, centre]) + sign * radius
                low, high = min(low, reach), max(high, reach)
    return (low, high)


def _swept(begin: float, turn: float, angle: float) -> bool:
    """Does a turn from an angle pass over another?"""
    way = (angle - begin) % (2 * math.pi) if turn > 0 else (begin - angle) % (2 * math.pi)
    return way <= abs(turn) + EPS


def parted(moves: Array, column: int, at: Sequence[float]) -> Array:
    """The same moves, ended and begun anew wherever they cross one of the places along X (0) or Y (1).

    >>> line = np.array([row(RAPID, 0, 0, 0), row(LINE, 100, 0, -10, 800)])
    >>> parted(line, 0, [40.0])[:, [X, Z]].tolist()
    [[0.0, 0.0], [40.0, -4.0], [100.0, -10.0]]
    """
    turns = sweeps(moves)
    out = [moves[0].tolist()]
    for i in range(1, len(moves)):
        a, b = moves[i - 1], moves[i]
        for t in _crossings(a, b, float(turns[i]), column, at):
            out.append(_on_the_way(a, b, float(turns[i]), t))
        out.append(b.tolist())
    return _no_slivers(np.array(out))


def _no_slivers(moves: Array) -> Array:
    """Arcs too short to be told from full circles as lines."""
    short = (moves[:, KIND] >= CW) & (lengths(moves) < TINY)
    full = np.abs(sweeps(moves)) > 2 * math.pi - 1e-3
    moves[short & ~full, KIND] = LINE
    return moves


def _crossings(a: Array, b: Array, turn: float, column: int, at: Sequence[float]) -> list[float]:
    """Where on its way (0 to 1) a move crosses places along an axis."""
    k, found = (X, Y)[column], []
    for place in at:
        if turn:
            found += _arc_crossings(a, b, turn, column, place)
        elif abs(b[k] - a[k]) > EPS:
            found.append((place - a[k]) / (b[k] - a[k]))
    return sorted({float(t) for t in found if EPS < t < 1 - EPS})


def _arc_crossings(a: Array, b: Array, turn: float, column: int, place: float) -> list[float]:
    radius = math.hypot(a[X] - b[CX], a[Y] - b[CY])
    off = place - b[(CX, CY)[column]]
    if abs(off) >= radius:
        return []
    begin = math.atan2(a[Y] - b[CY], a[X] - b[CX])
    half = math.acos(off / radius)
    middle = column * math.pi / 2
    out = []
    for angle in (middle + half, middle - half):
        way = (angle - begin) % (2 * math.pi) if turn > 0 else (begin - angle) % (2 * math.pi)
        out.append(way / abs(turn))
    return out


def _on_the_way(a: Array, b: Array, turn: float, t: float) -> list[float]:
    """A move up to a share of its way."""
    z = float(a[Z] + (b[Z] - a[Z]) * t)
    if not turn:
        x, y = (float(a[k] + (b[k] - a[k]) * t) for k in (X, Y))
        return row(float(b[KIND]), x, y, z, float(b[FEED]), float(b[CX]), float(b[CY]))
    radius = math.hypot(a[X] - b[CX], a[Y] - b[CY])
    angle = math.atan2(a[Y] - b[CY], a[X] - b[CX]) + turn * t
    x, y = b[CX] + radius * math.cos(angle), b[CY] + radius * math.sin(angle)
    return row(float(b[KIND]), float(x), float(y), z, float(b[FEED]), float(b[CX]), float(b[CY]))


def _middles(moves: Array, column: int) -> Array:
    """Half way along every move after the first, where it is along an axis."""
    turns = sweeps(moves)
    return np.array(
        [
            _on_the_way(moves[i - 1], moves[i], float(turns[i]), 0.5)[(X, Y)[column]]
            for i in range(1, len(moves))
        ]
    )


def within(moves: Array, column: int, span: Span, down: Down) -> Array:
    """The moves of a cut that lie in a stretch along X (0) or Y (1), each run of them entered and left at the
    height of fast moves; no rows where nothing of it is cut there.

    A cut that lies in the stretch whole is left as it is.
    """
    low, high = extent(moves, column)
    if span[0] <= low + EPS and high <= span[1] + EPS:
        return moves
    pieces = parted(moves, column, [s for s in span if math.isfinite(s)])
    at = _middles(pieces, column)
    inside = (at >= span[0] - EPS) & (at <= span[1] + EPS)
    out: list[list[float]] = []
    before: list[list[float]] = []
    for first, last in _runs(pieces, inside):
        out += _entered(pieces, first, last, down, before, not out)
    return np.array(out) if out else moves[:0]


def _runs(moves: Array, inside: Mask) -> list[tuple[int, int]]:
    """Rows (first and last, of the moves proper) of what is cut in one go within the stretch."""
    out, i, n = [], 0, len(inside)
    while i < n:
        if not inside[i]:
            i += 1
            continue
        j = i
        while j < n and inside[j]:
            j += 1
        first, last = i + 1, j
        while first <= last and moves[first, KIND] == RAPID:
            first += 1
        while last >= first and moves[last, KIND] == RAPID:
            last -= 1
        if first <= last and moves[first - 1 : last + 1, Z].min() < -EPS:
            out.append((first, last))
        i = j
    return out


def _entered(
    moves: Array, first: int, last: int, down: Down, before: list[list[float]], begins: bool
) -> list[list[float]]:
    """One run with the way to its start before it and up from its end after it. ``before``: where and how low
    runs were entered until now.
    """
    start, run = moves[first - 1], moves[first - 1 : last + 1]
    x, y, z = (float(start[k]) for k in (X, Y, Z))
    out = [row(RAPID, x, y, down.retract)]
    if begins and first == 1:
        out = [moves[0].tolist()]
    else:
        floor = min([0.0, *(b[2] for b in before if math.hypot(b[0] - x, b[1] - y) < SAME)], default=0.0)
        if z < down.retract - EPS:
            out.append(row(LINE, x, y, max(floor, z), down.plunge))
        if floor - z > EPS:
            out += _ramp(run, floor - z, down.plunge)
    before.append([x, y, z])
    out += [m.tolist() for m in run[1:]]
    end = run[-1]
    if end[Z] < down.retract - EPS:
        out.append(row(RAPID, float(end[X]), float(end[Y]), down.retract))
    return out


def _ramp(run: Array, depth: float, feed: float) -> list[list[float]]:
    """Down by some depth to the start of a run, along its first stretch and back as often as it takes."""
    stretch = _first_of(run, RAMP)
    way = np.concatenate([[0.0], np.cumsum(lengths(stretch)[1:])])
    length = float(way[-1])
    if length < SAME:
        return [row(LINE, float(run[0, X]), float(run[0, Y]), float(run[0, Z]), feed)]
    legs = 2 * max(1, math.ceil(depth / (2 * STEEPEST * length)))
    back = _reversed(stretch)
    out: list[list[float]] = []
    for leg in range(legs):
        moves = back if leg % 2 else stretch
        ways = length - way[::-1] if leg % 2 else way
        over = depth * (1 - (leg + ways / length) / legs)
        for m, above in zip(moves[1:], over[1:], strict=True):
            out.append([*m[:Z].tolist(), float(m[Z] + above), *m[Z + 1 : FEED].tolist(), feed])
    return out


def _first_of(run: Array, length: float) -> Array:
    """The start of a run, so long at most, mm; where it stands still it is passed over."""
    ways = lengths(run)
    total, out = 0.0, [run[0].tolist()]
    turns = sweeps(run)
    for i in range(1, len(run)):
        if ways[i] < EPS:
            continue
        if run[i, KIND] == RAPID:
            break
        if total + ways[i] >= length:
            out.append(_on_the_way(run[i - 1], run[i], float(turns[i]), (length - total) / float(ways[i])))
            break
        out.append(run[i].tolist())
        total += float(ways[i])
    return np.array(out)


def _reversed(moves: Array) -> Array:
    """The same way backwards."""
    out = moves[::-1].copy()
    kinds = moves[::-1, KIND]
    out[1:, KIND] = np.where(kinds[:-1] == CW, CCW, np.where(kinds[:-1] == CCW, CW, kinds[:-1]))
    out[1:, [CX, CY]] = moves[::-1][:-1][:, [CX, CY]]
    out[1:, FEED] = moves[::-1][:-1][:, FEED]
    out[0, KIND] = RAPID
    return out
