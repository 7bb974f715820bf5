"""Compiled loops over tiles of heights. Heights and lengths in mm; a tile that nobody touched has no slot (-1) and stands at the top."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

TILE = 64
"""Cells along a tile's side."""


@njit(cache=True, nogil=True)
def mark(index, x0, y0, cell, segments, reach, flags):
    """Set ``flags`` for every tile that a disc of radius ``reach`` meets along ``segments`` (n, 5: ax, ay, bx, by, z)."""
    ny, nx = index.shape
    side = cell * TILE
    for k in range(segments.shape[0]):
        ax, ay, bx, by = segments[k, 0], segments[k, 1], segments[k, 2], segments[k, 3]
        i0 = max(0, int(math.floor((min(ay, by) - reach - y0) / side)))
        i1 = min(ny - 1, int(math.floor((max(ay, by) + reach - y0) / side)))
        j0 = max(0, int(math.floor((min(ax, bx) - reach - x0) / side)))
        j1 = min(nx - 1, int(math.floor((max(ax, bx) + reach - x0) / side)))
        for i in range(i0, i1 + 1):
            for j in range(j0, j1 + 1):
                flags[i, j] = True


@njit(cache=True, nogil=True)
def sweep(index, tiles, x0, y0, cell, top, segments, profile, step):
    """Lower every height that a cutter passes: ``profile`` its height over the tip at every ``step`` mm from its axis."""
    ny, nx = index.shape
    rows, columns = ny * TILE, nx * TILE
    for k in range(segments.shape[0]):
        ax, ay, bx, by, z = segments[k, 0], segments[k, 1], segments[k, 2], segments[k, 3], segments[k, 4]
        wide = len(profile) - 1
        while wide > 0 and z + profile[wide - 1] >= top:  # as wide as it is below the top
            wide -= 1
        reach = step * wide
        dx, dy = bx - ax, by - ay
        long2 = dx * dx + dy * dy
        i0 = max(0, int(math.ceil((min(ay, by) - reach - y0) / cell - 0.5)))
        i1 = min(rows - 1, int(math.floor((max(ay, by) + reach - y0) / cell - 0.5)))
        j0 = max(0, int(math.ceil((min(ax, bx) - reach - x0) / cell - 0.5)))
        j1 = min(columns - 1, int(math.floor((max(ax, bx) + reach - x0) / cell - 0.5)))
        for i in range(i0, i1 + 1):
            y = y0 + (i + 0.5) * cell - ay
            for j in range(j0, j1 + 1):
                x = x0 + (j + 0.5) * cell - ax
                t = 0.0 if long2 == 0.0 else min(1.0, max(0.0, (x * dx + y * dy) / long2))
                away = math.hypot(x - t * dx, y - t * dy)
                if away > reach:
                    continue
                slot = index[i // TILE, j // TILE]
                if slot < 0:
                    continue
                n = int(away / step)
                low = profile[n] if n >= len(profile) - 1 else profile[n] + (profile[n + 1] - profile[n]) * (away / step - n)
                h = z + low
                if h < tiles[slot, i % TILE, j % TILE]:
                    tiles[slot, i % TILE, j % TILE] = h


@njit(cache=True, nogil=True)
def height(index, tiles, x0, y0, cell, top, x, y):
    """Height at a point; outside the field the top."""
    i = int(math.floor((y - y0) / cell))
    j = int(math.floor((x - x0) / cell))
    if i < 0 or j < 0 or i >= index.shape[0] * TILE or j >= index.shape[1] * TILE:
        return top
    slot = index[i // TILE, j // TILE]
    return top if slot < 0 else tiles[slot, i % TILE, j % TILE]


@njit(cache=True, nogil=True)
def highest(index, tiles, x0, y0, cell, top, points, radius, outside):
    """The highest material under a disc at each of ``points`` (n, 2); ``outside``: the height taken beyond the field."""
    out = np.full(len(points), -1e9)
    rows, columns = index.shape[0] * TILE, index.shape[1] * TILE
    for k in range(len(points)):
        px, py = points[k, 0], points[k, 1]
        for i in range(int(math.ceil((py - radius - y0) / cell - 0.5)), int(math.floor((py + radius - y0) / cell - 0.5)) + 1):
            for j in range(int(math.ceil((px - radius - x0) / cell - 0.5)), int(math.floor((px + radius - x0) / cell - 0.5)) + 1):
                if math.hypot(x0 + (j + 0.5) * cell - px, y0 + (i + 0.5) * cell - py) > radius:
                    continue
                if i < 0 or j < 0 or i >= rows or j >= columns:
                    h = outside
                else:
                    slot = index[i // TILE, j // TILE]
                    h = top if slot < 0 else tiles[slot, i % TILE, j % TILE]
                out[k] = max(out[k], h)
    return out


@njit(cache=True, nogil=True)
def clash(index, tiles, x0, y0, cell, top, places, profile, step):
    """How far (mm) a cutter at each of ``places`` (n, 3) stands in material, at worst; cells at its rim within one and a half of their size are not asked."""
    out = np.full(len(places), -1e9)
    rows, columns = index.shape[0] * TILE, index.shape[1] * TILE
    reach = step * (len(profile) - 1) - 1.5 * cell
    for k in range(len(places)):
        px, py, pz = places[k, 0], places[k, 1], places[k, 2]
        for i in range(max(0, int(math.ceil((py - reach - y0) / cell - 0.5))), min(rows - 1, int(math.floor((py + reach - y0) / cell - 0.5))) + 1):
            for j in range(max(0, int(math.ceil((px - reach - x0) / cell - 0.5))), min(columns - 1, int(math.floor((px + reach - x0) / cell - 0.5))) + 1):
                away = math.hypot(x0 + (j + 0.5) * cell - px, y0 + (i + 0.5) * cell - py)
                if away > reach:
                    continue
                slot = index[i // TILE, j // TILE]
                h = top if slot < 0 else tiles[slot, i % TILE, j % TILE]
                low = profile[min(len(profile) - 1, int((away + 1.5 * cell) / step))]
                out[k] = max(out[k], h - pz - low)
    return out


@njit(cache=True, nogil=True)
def engage(index, tiles, x0, y0, cell, top, steps, profile, step, radius, limit, flutes, radial, arcs, out):
    """What a cutter meets on its way, and take it away: for every one of ``steps`` (n, 6: ax, ay, bx, by, z, measured?) a row of ``out``.

    Columns: width met (mm), deepest met along the axis (mm), width of what is deeper than ``limit`` (mm), largest chip section over the feed per tooth (mm).
    Points on the leading half of the rim are asked a little inside it, so that a cell cut by the rim of an earlier pass is not taken for material.
    """
    inside = radius - 0.75 * cell
    met = np.zeros(arcs)
    one = np.zeros((1, 5))
    turn = math.pi / (arcs - 1)
    sine = np.sin(np.arange(arcs) * turn)
    cosine = np.cos(np.arange(arcs) * turn)
    gap = max(1, int(round(2.0 * math.pi / flutes / turn)))
    for k in range(steps.shape[0]):
        ax, ay, bx, by, z = steps[k, 0], steps[k, 1], steps[k, 2], steps[k, 3], steps[k, 4]
        dx, dy = bx - ax, by - ay
        long = math.hypot(dx, dy)
        if steps[k, 5] > 0.0 and long > 0.0:
            ux, uy = dx / long, dy / long
            wide = thick = deep = 0.0
            for m in range(arcs):
                # from the right of travel (0) over straight ahead to the left (pi)
                px = bx + inside * (uy * cosine[m] + ux * sine[m])
                py = by + inside * (-ux * cosine[m] + uy * sine[m])
                h = height(index, tiles, x0, y0, cell, top, px, py) - z
                met[m] = h if h > 0.02 else 0.0
                if met[m] > 0.0:
                    share = radius * sine[m] * turn
                    wide += share
                    deep = max(deep, h)
                    if h > limit:
                        thick += share
            most = 0.0
            for m in range(gap if wide > 0.0 else 0):
                fx = fy = 0.0
                for n in range(m, arcs, gap):
                    chip = met[n] * sine[n]
                    fx += chip * (-sine[n] - radial * cosine[n])
                    fy += chip * (cosine[n] - radial * sine[n])
                most = max(most, math.hypot(fx, fy))
            out[k, 0] = min(wide, 2.0 * radius)
            out[k, 1] = deep
            out[k, 2] = min(thick, 2.0 * radius)
            out[k, 3] = most
        one[0, 0], one[0, 1], one[0, 2], one[0, 3], one[0, 4] = ax, ay, bx, by, z
        sweep(index, tiles, x0, y0, cell, top, one, profile, step)
