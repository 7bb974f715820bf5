"""How flat is a board? Readings to a surface, tilt and droop told apart, high and low spots, and what a pass
touches.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import Reading
from venzo.core.surfacing.rows import Extent
from venzo.core.voice import counted

MOST = 2000
GRID = 80
"""Cells along the longer side of a flatness map."""


@dataclass(frozen=True, eq=False)
class Flatness:
    """What readings tell of a board ``width`` x ``height`` mm.

    ``tilt``: rise (mm) over the whole board along x and along y. ``droop``: how much the middle hangs below
    its ends (mm, negative: it is crowned), along x and along y. ``rest``: what neither explains, as the root
    mean square of residuals. z is modelled as a + b u + c v + d u^2 + e v^2, u and v from -1 to 1.
    """

    readings: tuple[Reading, ...]
    width: float
    height: float
    tilt: tuple[float, float]
    droop: tuple[float, float]
    rest: float
    high: Reading
    low: Reading

    @property
    def range(self) -> float:
        """Highest less lowest reading, mm."""
        return self.high.z - self.low.z

    @cached_property
    def grid(self) -> tuple[Array, Array, Array]:
        """x, y and heights (rows, columns) over the board: a thin-plate spline through the readings, kept
        within their range by no more than a tenth of it.
        """
        n = GRID / max(self.width, self.height)
        xs = np.linspace(0, self.width, max(8, round(self.width * n)))
        ys = np.linspace(0, self.height, max(8, round(self.height * n)))
        pts = np.array([(r.x / self.width, r.y / self.height) for r in self.readings])
        z = np.array([r.z for r in self.readings])
        gx, gy = np.meshgrid(xs, ys)
        flat = np.ptp(pts, axis=0).min() < 1e-9 or len(pts) < 4
        if flat or np.linalg.matrix_rank(np.column_stack([np.ones(len(pts)), pts]), tol=1e-6) < 3:
            u, v = 2 * gx / self.width - 1, 2 * gy / self.height - 1
            heights = z.mean() + self.tilt[0] / 2 * u + self.tilt[1] / 2 * v
        else:
            from scipy.interpolate import RBFInterpolator  # here: dear to load, seldom needed

            spline = RBFInterpolator(pts, z, kernel="thin_plate_spline", neighbors=min(60, len(pts)))
            heights = spline(np.column_stack([gx.ravel() / self.width, gy.ravel() / self.height])).reshape(
                gx.shape
            )
        slack = 0.1 * self.range
        return xs, ys, np.clip(heights, self.low.z - slack, self.high.z + slack)

    def touched(self, depth: float) -> float:
        """Share of the board that lies above -depth (mm below Z 0)."""
        return float((self.grid[2] > -depth + 1e-9).mean())

    def least_depth(self) -> float:
        """Depth (mm below Z 0) of a cut that takes something off everywhere."""
        return max(0.0, -float(min(self.low.z, self.grid[2].min())))

    def extent(self, depth: float, cutter: float, along_x: bool, margin: float = 5.0) -> Extent:
        """Of each row, from where to where the cutter's middle touches anything at a depth; rows over air are
        left out.
        """
        xs, ys, h = self.grid
        high = h > -depth + 1e-9
        rows, cols = np.nonzero(high)
        place, at = (ys[rows], xs[cols]) if along_x else (self.width - xs[cols], ys[rows])
        long = self.width if along_x else self.height
        cell = max(xs[1] - xs[0], ys[1] - ys[0])

        def span(y: float) -> tuple[float, float] | None:
            near = np.abs(place - y) <= cutter / 2 + cell
            if not near.any():
                return None
            a, b = (
                float(at[near].min()) - cutter / 2 - cell - margin,
                float(at[near].max()) + cutter / 2 + cell + margin,
            )
            # what reaches the board's end runs out beyond it
            return (-np.inf if a <= cutter / 2 else a), (np.inf if b >= long - cutter / 2 else b)

        return span


def flatness(readings: Sequence[Reading], width: float, height: float) -> Flatness:
    """Tilt, droop and spots from readings by least squares.

    With fewer than six readings droop is not told from tilt and stays 0; with fewer than three there is no
    tilt either.

    Raises:
        BadInput: none, too many, or one that does not lie on the board.
    """
    if not 1 <= len(readings) <= MOST:
        raise BadInput(f"{counted(len(readings), 'reading')}: give 1 to {MOST}")
    for r in readings:
        if not (-1 <= r.x <= width + 1 and -1 <= r.y <= height + 1):
            raise BadInput(
                f"the reading at X {r.x:g} Y {r.y:g} lies beside the board of {width:g} x {height:g} mm;"
                " readings are measured from its lower left corner"
            )
    u = np.array([2 * r.x / width - 1 for r in readings])
    v = np.array([2 * r.y / height - 1 for r in readings])
    z = np.array([r.z for r in readings])
    one = np.ones(len(z))
    columns = [one]
    if len(z) >= 3:
        columns += [u, v]
    bent = len(z) >= 6
    if bent:
        columns += [u * u, v * v]
    a = np.column_stack(columns)
    spread = [np.ptp(c) > 1e-6 for c in columns]
    use = [k for k in range(len(columns)) if k == 0 or spread[k]]
    found, *_ = np.linalg.lstsq(a[:, use], z, rcond=1e-8)
    k = dict(zip(use, found.tolist(), strict=True))
    rest = z - a[:, use] @ found
    high, low = readings[int(np.argmax(z))], readings[int(np.argmin(z))]
    return Flatness(
        tuple(readings),
        width,
        height,
        (2 * k.get(1, 0.0), 2 * k.get(2, 0.0)),
        (k.get(3, 0.0), k.get(4, 0.0)),
        float(np.sqrt(np.mean(rest**2))),
        high,
        low,
    )


_NUMBER = r"[-+]?(?:\d+(?:[.,]\d*)?|[.,]\d+)"


def pasted(text: str, scale: float = 1.0) -> list[Reading]:
    """Readings from pasted lines of x, y and z: with spaces, tabs, semicolons or commas between, a header and
    empty lines allowed; ``scale``: mm per unit.

    Raises:
        BadInput: names the line that cannot be read.

    >>> pasted("x y z\\n0 0 0.1\\n100; 0; -0,2\\n")
    [Reading(x=0.0, y=0.0, z=0.1), Reading(x=100.0, y=0.0, z=-0.2)]
    """
    out: list[Reading] = []
    for n, line in enumerate(text.splitlines(), 1):
        bare = line.split("#")[0].strip()
        if not bare:
            continue
        parts = (
            re.split(r"[;\t]|\s+", bare)
            if re.search(r"[;\t]|\s", bare) and not re.search(r",\s", bare)
            else re.split(r"\s*,\s*|\s+", bare)
        )
        parts = [p.strip() for p in parts if p.strip()]
        if all(re.fullmatch(_NUMBER, p) for p in parts) and len(parts) == 3:
            x, y, z = (float(p.replace(",", ".")) * scale for p in parts)
            if abs(z) > 1000 or max(abs(x), abs(y)) > 100_000:
                raise BadInput(f"line {n}: {bare[:60]!r} is out of all measure; give x, y and z in mm")
            out.append(Reading(x=x, y=y, z=z))
        elif not out and not re.search(r"\d", bare):
            continue
        else:
            raise BadInput(f"line {n}: {bare[:60]!r} is not x, y and z; give three numbers a line")
        if len(out) > MOST:
            raise BadInput(f"more than {MOST} readings; thin them out")
    if not out:
        raise BadInput("no readings in it; give lines of x, y and z")
    return out
