"""What limited jerk adds to the time of moves: how fast a controller lets the acceleration change, mm/s3."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Array


def from_rest(distance: Array, speed: Array, acceleration: Array, jerk: float) -> Array:
    """Seconds that limited jerk adds to moves from rest to rest."""
    peak = np.minimum(speed, np.sqrt(acceleration * np.maximum(distance, 0.0)))
    humps = zip(distance.tolist(), peak.tolist(), acceleration.tolist(), strict=True)
    return np.array([_hump(0.0, 0.0, d, p, a, jerk) if d > 0 else 0.0 for d, p, a in humps])


def jerked(u0: Array, peak: Array, u1: Array, cruise: Array, acceleration: Array, jerk: float) -> Array:
    """Seconds that limited jerk adds to every move.

    A change of speed dv takes dv/a + a/j, or 2 sqrt(dv/j) where it is so small that the acceleration is not
    reached (S-curve; handbooks of motion control); the way it takes more is taken from the speed held after
    it. Where speeding up and slowing down follow one another with too little between them, the highest speed
    is the one from which both still fit. Changes run through from move to move: a line in pieces takes as
    long as the whole.
    """
    extra = np.zeros(len(u0))
    phases = _phases(u0, peak, u1, cruise, acceleration)
    k = 0
    while k < len(phases):
        up, held, down = _hump_at(phases, k)
        took = [p for p in (up, held, down) if p is not None]
        low = up.low if up else held.low if held else 0.0
        if up is None and down is None:
            k += 1
            continue
        top = max(p.high for p in took)
        end = down.low if down else top
        a = min(p.acceleration for p in took if p.acceleration)
        if up is not None and down is not None:
            more = _hump(low, end, sum(p.length for p in took), top, a, jerk)
        else:
            slope = up or down
            assert slope is not None
            dv = slope.high - slope.low
            more = (_ramp(dv, a, jerk) - dv / a) * dv / max(2 * slope.high, 1e-12)
        moves = sorted({m for p in took for m in p.moves})
        extra[moves] += more / len(moves)
        k += len(took)
    return extra


@dataclass
class _Phase:
    """Speeding up (1), holding a speed (0) or slowing down (-1), over one or more moves."""

    sense: int
    low: float
    high: float
    length: float
    acceleration: float
    moves: list[int]


def _phases(u0: Array, peak: Array, u1: Array, cruise: Array, acceleration: Array) -> list[_Phase]:
    """A chain of moves as phases; alike ones of neighbours are one."""
    out: list[_Phase] = []
    rows = zip(u0.tolist(), peak.tolist(), u1.tolist(), cruise.tolist(), acceleration.tolist(), strict=True)
    for k, (a, p, b, c, g) in enumerate(rows):
        steps = (
            (1, a, p, (p * p - a * a) / (2 * g)),
            (0, p, p, c),
            (-1, b, p, (p * p - b * b) / (2 * g)),
        )
        for sense, low, high, length in steps:
            if length < 1e-9:
                continue
            last = out[-1] if out else None
            # a stop between two moves parts what would else be one
            if last is not None and last.sense == sense and not (k not in last.moves and a < 1e-9):
                last.low, last.high = min(last.low, low), max(last.high, high)
                last.length += length
                last.acceleration = min(last.acceleration, g)
                if last.moves[-1] != k:
                    last.moves.append(k)
            else:
                out.append(_Phase(sense, low, high, length, g, [k]))
    return out


def _hump_at(phases: list[_Phase], k: int) -> tuple[_Phase | None, _Phase | None, _Phase | None]:
    """Speeding up, holding and slowing down as far as they follow one another from a phase on."""
    found: dict[int, _Phase] = {}
    for p in phases[k : k + 3]:
        if found and p.sense >= min(found):
            break
        found[p.sense] = p
    return found.get(1), found.get(0), found.get(-1)


def _ramp(dv: float, acceleration: float, jerk: float) -> float:
    """Seconds for a change of speed with limited jerk."""
    if dv >= acceleration * acceleration / jerk:
        return dv / acceleration + acceleration / jerk
    return 2 * math.sqrt(max(dv, 0.0) / jerk)


def _hump(start: float, end: float, length: float, top: float, acceleration: float, jerk: float) -> float:
    """Seconds that limited jerk adds to going ``length`` mm between two speeds by way of ``top``, mm/s.

    >>> round(_hump(0, 0, 100, 100, 1000, 10_000), 4)  # d/v + v/a + a/j instead of d/v + v/a
    0.1
    """

    def needs(peak: float) -> float:
        return sum((u + peak) / 2 * _ramp(peak - u, acceleration, jerk) for u in (start, end))

    low, high = max(start, end), top
    if needs(high) > length:
        for _ in range(50):
            middle = (low + high) / 2
            low, high = (middle, high) if needs(middle) <= length else (low, middle)
    else:
        low = high
    slow = sum(_ramp(low - u, acceleration, jerk) for u in (start, end)) + max(
        length - needs(low), 0.0
    ) / max(low, 1e-12)
    quick = (2 * top - start - end) / acceleration
    held = length - (2 * top * top - start * start - end * end) / (2 * acceleration)
    return max(0.0, slow - quick - max(held, 0.0) / max(top, 1e-12))
