"""What of a sheet is kept when its pieces are out? The largest free rectangles, or all beyond the last piece
of an irregular sheet.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.geometry.contour import Array
from venzo.core.holding.swath import surface

CELLS = 260
"""Cells along the longer side in which rectangles are looked for; each is grown to its exact size after."""
MOST = 3
"""Remnants of one sheet: more are not sorted back into a rack."""
PARTING = 4.0
"""mm that the saw takes where two remnants are parted."""
HAIR = 1e-6


@dataclass(frozen=True)
class Remnant:
    """A part of the sheet that is kept: corners of its outline on the sheet, mm (counter-clockwise)."""

    corners: tuple[tuple[float, float], ...]

    @property
    def polygon(self) -> Polygon:
        """Its outline."""
        return Polygon(self.corners)

    @property
    def area(self) -> float:
        """mm2."""
        return float(self.polygon.area)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1."""
        x0, y0, x1, y1 = self.polygon.bounds
        return x0, y0, x1, y1

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of its box."""
        x0, y0, x1, y1 = self.box
        return x1 - x0, y1 - y0

    @property
    def rectangular(self) -> bool:
        """Is it a rectangle?"""
        w, h = self.size
        return abs(self.area - w * h) < 1e-6 * w * h


Keeps = Callable[[float, float], bool]
"""Of a short side (mm) and an area (mm2): is it worth keeping?"""


def remnants(sheet: Polygon, taken: BaseGeometry, keeps: Keeps, most: int = MOST) -> tuple[Remnant, ...]:
    """What is kept of a sheet of which ``taken`` (pieces and kerf) goes: the largest first, the saw's kerf
    apart, as long as they are worth keeping.

    A free rectangle lies in one stretch, so it comes off with straight cuts. Of an irregular sheet what lies
    beyond the last piece on one side is kept with its true outline, where that is larger.

    >>> found = remnants(box(0, 0, 1000, 600), box(0, 0, 700, 400), lambda short, area: short > 150)
    >>> [r.box for r in found]
    [(0.0, 400.0, 1000.0, 600.0), (700.0, 0.0, 1000.0, 396.0)]
    """
    found: list[Remnant] = []
    free = surface(shapely.difference(sheet, taken))
    whole = abs(sheet.area - box(*sheet.bounds).area) < 1e-6 * sheet.area
    while len(found) < most and not free.is_empty:
        offers = [_rectangle(free)]
        if not whole and not found:
            offers += _beyond(sheet, taken)
        good = [r for r in offers if r is not None and keeps(_short(r), r.area)]
        if not good:
            break
        best = max(good, key=lambda r: r.area)
        found.append(best)
        free = surface(shapely.difference(free, best.polygon.buffer(PARTING, join_style="mitre")))
    return tuple(found)


def _short(r: Remnant) -> float:
    """The short side of the smallest rectangle about it."""
    if r.rectangular:
        return min(r.size)
    around = shapely.get_coordinates(shapely.minimum_rotated_rectangle(r.polygon))
    return float(np.hypot(*np.diff(around, axis=0).T).min())


def _as_box(x0: float, y0: float, x1: float, y1: float) -> Remnant:
    return Remnant(((x0, y0), (x1, y0), (x1, y1), (x0, y1)))


def _beyond(sheet: Polygon, taken: BaseGeometry) -> list[Remnant]:
    """What lies right of, above, left of and below all that is taken, with the sheet's own outline."""
    if taken.is_empty:
        return [Remnant(tuple(map(tuple, sheet.exterior.coords[:-1])))]
    x0, y0, x1, y1 = sheet.bounds
    a0, b0, a1, b1 = taken.bounds
    out = []
    for part in (box(a1, y0, x1, y1), box(x0, b1, x1, y1), box(x0, y0, a0, y1), box(x0, y0, x1, b0)):
        left = [p for p in shapely.get_parts(shapely.intersection(sheet, part)) if p.geom_type == "Polygon"]
        if left:
            ring = shapely.orient_polygons(max(left, key=lambda p: p.area)).exterior
            out.append(Remnant(tuple((float(x), float(y)) for x, y in ring.coords[:-1])))
    return out


def _rectangle(free: BaseGeometry) -> Remnant | None:
    """About the largest rectangle in a free area: the largest of whole cells, then each side moved out until
    it meets something. None: not one cell is free.
    """
    x0, y0, x1, y1 = free.bounds
    cell = max(x1 - x0, y1 - y0) / CELLS
    # cells are a hair smaller than the widths they are made of, so that an exact strip holds a row of them
    xs = np.linspace(x0, x1, max(2, round((x1 - x0) / cell) + 1))
    ys = np.linspace(y0, y1, max(2, round((y1 - y0) / cell) + 1))
    found = _largest(_free_cells(free, xs, ys))
    if found is None:
        return None
    i0, j0, i1, j1 = found
    sides = _grown(free, (float(xs[i0]), float(ys[j0]), float(xs[i1]), float(ys[j1])))
    return _as_box(*sides)


def _free_cells(free: BaseGeometry, xs: Array, ys: Array) -> Array:
    """Which cells between the lines ``xs`` and ``ys`` lie wholly in a free area: ``(rows, columns)``."""
    cells = shapely.box(
        *(
            v.ravel()
            for v in (
                *np.meshgrid(xs[:-1] + HAIR, ys[:-1] + HAIR),
                *np.meshgrid(xs[1:] - HAIR, ys[1:] - HAIR),
            )
        )
    )
    inside = np.zeros(len(cells), dtype=bool)
    parts = shapely.get_parts(free)
    cell = float(np.diff(xs).min() * np.diff(ys).min()) * 0.99
    for part in parts[shapely.area(parts) >= cell]:  # slivers between kerfs and parts hold none
        shapely.prepare(part)
        inside |= shapely.contains(part, cells)
    return inside.reshape(len(ys) - 1, len(xs) - 1)


def _largest(free: Array) -> tuple[int, int, int, int] | None:
    """The largest rectangle of free cells: columns i0 to i1, rows j0 to j1 (the last not in it).

    Heights of free columns, row by row, and a stack of rising ones (largest rectangle under a histogram;
    common practice in algorithms).

    >>> _largest(np.array([[1, 1, 0], [1, 1, 1]], dtype=bool))
    (0, 0, 2, 2)
    """
    best, where = 0, None
    heights = np.zeros(free.shape[1], dtype=int)
    for j, row in enumerate(free):
        heights = np.where(row, heights + 1, 0)
        stack: list[tuple[int, int]] = []
        for i, h in enumerate([*heights.tolist(), 0]):
            start = i
            while stack and stack[-1][1] >= h:
                start, tall = stack.pop()
                if tall * (i - start) > best:
                    best, where = tall * (i - start), (start, j + 1 - tall, i, j + 1)
            stack.append((start, h))
    return where


def _grown(free: BaseGeometry, sides: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """A free rectangle with each side moved out until it meets what is not free: the sides along which most
    is won first.
    """
    x0, y0, x1, y1 = sides
    low_x, low_y, high_x, high_y = free.bounds
    blocked = surface(shapely.difference(box(low_x, low_y, high_x, high_y), free))
    shapely.prepare(blocked)

    def met(room: tuple[float, float, float, float]) -> tuple[float, float, float, float] | None:
        if room[2] - room[0] <= HAIR or room[3] - room[1] <= HAIR:
            return None
        hit = surface(shapely.intersection(blocked, box(*room)))
        return None if hit.is_empty else hit.bounds

    for side in ("left", "right", "down", "up") if x1 - x0 < y1 - y0 else ("down", "up", "left", "right"):
        if side == "left":
            hit = met((low_x, y0 + HAIR, x0, y1 - HAIR))
            x0 = hit[2] if hit else low_x
        elif side == "right":
            hit = met((x1, y0 + HAIR, high_x, y1 - HAIR))
            x1 = hit[0] if hit else high_x
        elif side == "down":
            hit = met((x0 + HAIR, low_y, x1 - HAIR, y0))
            y0 = hit[3] if hit else low_y
        else:
            hit = met((x0 + HAIR, y1, x1 - HAIR, high_y))
            y1 = hit[1] if hit else high_y
    return x0, y0, x1, y1
