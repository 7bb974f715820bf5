"""A numbered grid on a spoilboard: lines a square apart and a number in every square, so that boards can be
put down by number.
"""

from __future__ import annotations

import math

import numpy as np

from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput

STROKES: dict[str, tuple[tuple[tuple[float, float], ...], ...]] = {
    "0": (((0, 0), (0.6, 0), (0.6, 1), (0, 1), (0, 0)),),
    "1": (((0.1, 0.8), (0.3, 1), (0.3, 0)),),
    "2": (((0, 1), (0.6, 1), (0.6, 0.55), (0, 0), (0.6, 0)),),
    "3": (((0, 1), (0.6, 1), (0.25, 0.6), (0.6, 0.4), (0.6, 0), (0, 0)),),
    "4": (((0.45, 0), (0.45, 1), (0, 0.35), (0.6, 0.35)),),
    "5": (((0.6, 1), (0, 1), (0, 0.55), (0.6, 0.5), (0.6, 0), (0, 0)),),
    "6": (((0.55, 1), (0, 0.5), (0, 0), (0.6, 0), (0.6, 0.5), (0, 0.5)),),
    "7": (((0, 1), (0.6, 1), (0.2, 0)),),
    "8": (((0, 0.52), (0, 1), (0.6, 1), (0.6, 0.52), (0, 0.52), (0, 0), (0.6, 0), (0.6, 0.52)),),
    "9": (((0.6, 0.5), (0, 0.5), (0, 1), (0.6, 1), (0.6, 0.5), (0.1, 0)),),
}
"""Single-line digits, one high and 0.6 wide."""


def squares(width: float, height: float, pitch: float) -> tuple[int, int]:
    """Columns and rows of squares that fit; what is left over stays at the right and at the back."""
    return max(1, math.floor(width / pitch + 1e-6)), max(1, math.floor(height / pitch + 1e-6))


def corner_of(number: int, width: float, height: float, pitch: float) -> tuple[float, float]:
    """Lower left corner of a numbered square; they count from 1 at the lower left, along x first.

    >>> corner_of(6, 1000, 600, 200)
    (0.0, 200.0)
    """
    nx, ny = squares(width, height, pitch)
    if not 1 <= number <= nx * ny:
        raise BadInput(f"there is no square {number}: the grid has {nx * ny}")
    return float((number - 1) % nx * pitch), float((number - 1) // nx * pitch)


def grid_lines(width: float, height: float, pitch: float, digit: float = 12.0) -> list[Array]:
    """Lines and digits of a numbered grid as polylines (n, 2), in an order of short hops: lines to and fro,
    then numbers square by square.

    Raises:
        BadInput: squares smaller than their numbers, or more than 2000 of them.
    """
    nx, ny = squares(width, height, pitch)
    if pitch < 3 * digit:
        raise BadInput(
            f"squares of {pitch:g} mm are too small for numbers {digit:g} mm high; take at least"
            f" {3 * digit:g} mm"
        )
    if nx * ny > 2000:
        raise BadInput(f"{nx * ny} squares are over the limit of 2000; take a larger pitch")
    w, h = nx * pitch, ny * pitch
    out: list[Array] = []
    for k in range(nx + 1):
        ends = [(k * pitch, 0.0), (k * pitch, h)]
        out.append(np.array(ends if k % 2 == 0 else ends[::-1]))
    for k in range(ny + 1):
        ends = [(0.0, k * pitch), (w, k * pitch)]
        out.append(np.array(ends if k % 2 == 0 else ends[::-1]))
    for j in range(ny):
        for i in range(nx) if j % 2 == 0 else range(nx - 1, -1, -1):
            x, y = i * pitch + digit / 2, j * pitch + digit / 2
            for c in str(j * nx + i + 1):
                out += [np.array(s) * digit + (x, y) for s in STROKES[c]]
                x += digit
    return out


def grid_moves(
    width: float,
    height: float,
    pitch: float,
    depth: float,
    feed: float,
    plunge: float,
    retract: float = 3.0,
    digit: float = 12.0,
) -> Array:
    """Moves that engrave the grid ``depth`` mm deep, or draw it with a sprung pen pressed down so far."""
    if not 0 < depth <= 5:
        raise BadInput(f"lines {depth:g} mm deep: give a depth above 0 and up to 5 mm")
    track = Track(retract, feed, plunge)
    for line in grid_lines(width, height, pitch, digit):
        track.over(*line[0])
        track.down(-depth)
        for x, y in line[1:]:
            track.line(float(x), float(y))
    return track.array()
