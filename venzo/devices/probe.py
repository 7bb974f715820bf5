"""A simulated touch probe: it reads a made-up board, with tilt, droop, a few hollows and the scatter of a
real probe.
"""

from __future__ import annotations

import numpy as np

from venzo.core.snags import BadInput
from venzo.core.surfacing.board import Board, Reading

SCATTER = 0.01
"""mm; standard deviation of a reading."""


class SimulatedProbe:
    """Probes a board that exists only here. The same ``seed`` is the same board.

    Args:
        board: its size.
        seed: which made-up board.
        worn: mm; how uneven it is.
    """

    says = "simulated probe: these readings are made up; connect a real one or type what you read"

    def __init__(self, board: Board, seed: int = 1, worn: float = 0.8):
        r = np.random.default_rng(seed)
        self.board, self._r = board, r
        self.tilt = r.uniform(-0.7, 0.7, 2) * worn
        self.droop = r.uniform(0.1, 0.6, 2) * worn
        self.hollows = [
            (r.uniform(0.15, 0.85), r.uniform(0.15, 0.85), r.uniform(0.08, 0.2), r.uniform(0.1, 0.4) * worn)
            for _ in range(3)
        ]

    def height(self, x: float, y: float) -> float:
        """The board's true height (mm) at a point."""
        u, v = 2 * x / self.board.width - 1, 2 * y / self.board.height - 1
        z = (
            self.tilt[0] / 2 * u
            + self.tilt[1] / 2 * v
            + self.droop[0] * (u * u - 1)
            + self.droop[1] * (v * v - 1)
        )
        for hx, hy, size, deep in self.hollows:
            d2 = (x / self.board.width - hx) ** 2 + (y / self.board.height - hy) ** 2
            z -= deep * np.exp(-d2 / (2 * size * size))
        return float(z)

    def read(self, x: float, y: float) -> Reading:
        """One touch."""
        return Reading(
            x=round(x, 2), y=round(y, 2), z=round(self.height(x, y) + float(self._r.normal(0, SCATTER)), 3)
        )

    def walk(self, columns: int, rows: int, inset: float = 30.0) -> list[Reading]:
        """Touches on a grid, to and fro, zeroed on the highest.

        Raises:
            BadInput: fewer than 2 or more than 40 a side.
        """
        if not (2 <= columns <= 40 and 2 <= rows <= 40):
            raise BadInput(f"{columns} x {rows} touches: give 2 to 40 each way")
        inset = min(inset, self.board.width / 6, self.board.height / 6)
        xs, ys = (
            np.linspace(inset, self.board.width - inset, columns),
            np.linspace(inset, self.board.height - inset, rows),
        )
        out = [
            self.read(float(x), float(y)) for j, y in enumerate(ys) for x in (xs if j % 2 == 0 else xs[::-1])
        ]
        top = max(r.z for r in out)
        return [r.model_copy(update={"z": round(r.z - top, 3)}) for r in out]
