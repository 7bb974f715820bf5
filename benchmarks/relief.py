"""How long a relief takes by the number of its triangles, and what its programs come to, in one run.

python -m benchmarks.relief
"""

from __future__ import annotations

import math
import resource
import time

import numpy as np

from venzo.core.relief.block import Block, Sitting, set_in
from venzo.core.relief.drop import Ground
from venzo.core.relief.finishing import Finish, Pace, finish
from venzo.core.relief.height_grid import grid_mesh
from venzo.core.relief.left_on import carved
from venzo.core.relief.mesh import Mesh
from venzo.core.relief.tip import Tip
from venzo.desk.proving import tool

SIDE, STEP = 300.0, 0.25
"""mm: of the square, and between rows."""
BALL = 6.0
"""mm, of the finishing cutter."""


def waves(n: int) -> Mesh:
    """Waves of two lengths over the square, n places a side."""
    g = np.linspace(0, SIDE, n)
    x, y = np.meshgrid(g, g)
    heights = 8 * np.sin(x / 17) * np.cos(y / 23) + 2 * np.sin(x / 3.1 + y / 4.7)
    return grid_mesh("waves", heights).placed((SIDE / (n - 1), SIDE / (n - 1), 1.0), (0.0, 0.0, 0.0))


def main() -> None:
    """Print seconds by triangles with the growth exponent, then the whole way at 200,000."""
    block, pace = Block(width=SIDE, height=SIDE, thickness=40), Pace(feed=3000, plunge=1000)
    cutter, how = tool(f"ball:{BALL}")[1].cutter, Finish(step_over=STEP / BALL)
    small = set_in(waves(9), block, Sitting())
    carved(small, [finish(small, cutter, Finish(step_over=1.0), pace)])  # compiles
    xs = np.arange(0, SIDE, STEP)
    points = np.stack(np.meshgrid(xs, xs), axis=-1).reshape(-1, 2)
    print(f"{'triangles':>12}{'let down s':>12}{'of the first':>14}")
    first = None
    rows = []
    for n in (101, 142, 201, 284, 317, 448):
        ground = Ground(waves(n).triangles)
        began = time.perf_counter()
        ground.rest(points, Tip.ball(BALL))
        took = time.perf_counter() - began
        rows.append((2 * (n - 1) ** 2, took))
        first = first or took
        print(f"{rows[-1][0]:12,}{took:12.2f}{took / first:14.2f}")
    logs = np.log(np.array(rows))
    slope = np.polyfit(logs[:, 0], logs[:, 1], 1)[0]
    print(f"growth exponent {slope:.2f}")
    began = time.perf_counter()
    relief = set_in(waves(317), block, Sitting())
    done = finish(relief, cutter, how, pace)
    planned = time.perf_counter() - began
    held = carved(relief, [done])
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    print(
        f"{len(relief.mesh.faces):,} triangles, {STEP} mm between rows: planned in {planned:.1f} s,"
        f" looked at in {time.perf_counter() - began - planned:.1f} s, {memory:.2f} GB;"
        f" {math.floor(len(done.moves) / 1000)} thousand moves, into the model {held.deepest_in:.3f} mm,"
        f" left {held.share(50):.4f} mm in the middle, {held.share(99):.3f} mm at 99 %"
    )


if __name__ == "__main__":
    main()
