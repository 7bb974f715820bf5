"""How quickly is a full sheet cut in the computer? Random programs of 5 mm moves with a 6 mm cutter, spread
over 2440 x 1220 mm: seconds to sweep them all with moments kept, to the removed volume, to a picture at any
moment, and memory; and how the time grows with the moves.

    python -m benchmarks.removal [MOVES ...]
"""

from __future__ import annotations

import io
import math
import resource
import statistics
import sys
import time

import numpy as np
from PIL import Image

from venzo.core.body.field import Box, StockBody
from venzo.core.body.moments import Moments, Stage
from venzo.core.body.picture import painted
from venzo.core.cuts.moves import LINE, RAPID
from venzo.core.geometry.contour import Array
from venzo.core.tooling.cutter import Cutter

WIDTH, HEIGHT, THICK, CELL = 2440.0, 1220.0, 18.0, 0.5
MILL = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=25)
RUN = 50
"""Moves from one way down to the next."""


def program(moves: int) -> Array:
    """Runs of 50 moves, each 5 mm on, turning a little, 1 to 18 mm deep, the first a plunge."""
    rng = np.random.default_rng(moves)
    runs = moves // RUN
    turn = np.cumsum(rng.normal(0, 0.4, (runs, RUN)), axis=1) + rng.uniform(0, 2 * np.pi, (runs, 1))
    x = rng.uniform(0, WIDTH, (runs, 1)) + np.cumsum(5 * np.cos(turn), axis=1)
    y = rng.uniform(0, HEIGHT, (runs, 1)) + np.cumsum(5 * np.sin(turn), axis=1)
    z = -rng.uniform(1, THICK, (runs, 1)) + np.cumsum(rng.normal(0, 0.05, (runs, RUN)), axis=1)
    out = np.zeros((runs, RUN + 2, 7))
    out[:, 1:, 0] = LINE
    out[:, 0, 0] = RAPID
    out[:, 2:, 1], out[:, 2:, 2], out[:, 2:, 3] = (
        np.clip(x, 0, WIDTH),
        np.clip(y, 0, HEIGHT),
        np.minimum(z, -0.2),
    )
    out[:, :2, 1:3] = out[:, 2:3, 1:3]
    out[:, 1, 3], out[:, 0, 3] = out[:, 2, 3], 5.0
    return out.reshape(-1, 7)


def main(counts: list[int]) -> None:
    """Run and print."""
    box = Box(0, 0, WIDTH, HEIGHT)
    warm = program(RUN)
    painted(
        Moments(box, CELL, [Stage(warm, MILL, 0.0, np.arange(len(warm)) * 0.1)]).at(2.0), THICK, box, 200, 5.0
    )
    print("| moves | all moments | volume | picture, median | slowest | memory |")
    print("| --- | --- | --- | --- | --- | --- |")
    took = []
    for n in counts:
        moves = program(n)
        began = time.perf_counter()
        film = Moments(box, CELL, [Stage(moves, MILL, 0.0, np.arange(len(moves)) * 0.1)])
        took.append(time.perf_counter() - began)
        began = time.perf_counter()
        body = StockBody(box, CELL, spread=True)
        body.cut(moves, MILL)
        body.removed(-THICK)
        volume = time.perf_counter() - began
        pictures = []
        for k in range(24):
            began = time.perf_counter()
            shown = painted(film.at(film.seconds * (k + 0.37) / 24), THICK, box, 1200, 5.0)
            Image.fromarray(shown).save(io.BytesIO(), "WEBP", lossless=True, quality=0, method=0)
            pictures.append(time.perf_counter() - began)
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(
            f"| {n:,} | {took[-1]:.2f} s | {volume:.2f} s | {statistics.median(pictures) * 1000:.0f} ms"
            f" | {max(pictures) * 1000:.0f} ms | {memory:.0f} MB |",
            flush=True,
        )
    if len(counts) > 1:
        growth = math.log(took[-1] / took[0]) / math.log(counts[-1] / counts[0])
        print(f"\ntime grows with the moves to the power of {growth:.2f}")


if __name__ == "__main__":
    main([int(a) for a in sys.argv[1:]] or [10_000, 100_000, 1_000_000])
