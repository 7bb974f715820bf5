"""Compiled loop that paints tiles of heights. Lengths in mm, colours 0 to 255."""

from __future__ import annotations

import math

from numba import njit

from venzo.core.body.kernel import height
from venzo.core.body.tiles import TILE


@njit(cache=True, nogil=True)
def untouched(index, x0, y0, cell, x, y, about):
    """Does a point lie in a tile that nobody touched, further than ``about`` from its edges?"""
    side = cell * TILE
    u, v = (x - x0) / side, (y - y0) / side
    i, j = int(math.floor(v)), int(math.floor(u))
    if i < 0 or j < 0 or i >= index.shape[0] or j >= index.shape[1]:
        return True
    near = about / side
    inside = near < u - j < 1.0 - near and near < v - i < 1.0 - near
    return inside and index[i, j] < 0


@njit(cache=True, nogil=True)
def paint(index, tiles, x0, y0, cell, top, area, floor, every, slope, colours, through, hatch, first, out):
    """Paint an area (x0, y0, x1, y1), Y up, into ``out`` (rows, columns, 3), two samples a pixel; ``out``
    begins at row ``first[0]`` of ``first[1]``.

    ``every``: mm of depth between ink lines; ``slope``: how much a slope's light counts; ``colours`` (n, 3):
    of depth from the top to the floor; ``through``: of what lies below the floor, hatched every ``hatch``
    pixels.
    """
    rows, columns = out.shape[0], out.shape[1]
    dx, dy = (area[2] - area[0]) / columns, (area[3] - area[1]) / first[1]
    half = 0.5 * max(dx, cell)
    last = len(colours) - 1
    for r in range(rows):
        for c in range(columns):
            red = green = blue = 0.0
            for s in range(2):
                # two of four, in turn, so that lines keep their weight
                x = area[0] + (c + 0.25 + 0.5 * s) * dx
                y = area[3] - (first[0] + r + 0.25 + 0.5 * ((s + r + c) % 2)) * dy
                if untouched(index, x0, y0, cell, x, y, half):
                    red += colours[0, 0]
                    green += colours[0, 1]
                    blue += colours[0, 2]
                    continue
                h = height(index, tiles, x0, y0, cell, top, x, y)
                if h < floor - 0.005:
                    # what stands beneath: hatched, so that it is told without colour
                    shade = 0.78 if (c + r + first[0]) % hatch < 1 else 1.0
                    red += through[0] * shade
                    green += through[1] * shade
                    blue += through[2] * shade
                    continue
                west = height(index, tiles, x0, y0, cell, top, x - half, y)
                north = height(index, tiles, x0, y0, cell, top, x, y + half)
                east = height(index, tiles, x0, y0, cell, top, x + half, y)
                south = height(index, tiles, x0, y0, cell, top, x, y - half)
                at = min(1.0, max(0.0, (top - h) / (top - floor))) * last
                n = min(last - 1, int(at))
                t = at - n
                light = max(-1.0, min(1.0, ((h - west) + (h - north)) / (2.0 * half) * slope))
                shade = 1.0 + 0.2 * light
                step = math.floor((top - h) / every + 1e-6)
                deepest = min(min(west, north), min(east, south))
                if math.floor((top - deepest) / every + 1e-6) > step:
                    shade *= 0.45
                red += (colours[n, 0] + (colours[n + 1, 0] - colours[n, 0]) * t) * shade
                green += (colours[n, 1] + (colours[n + 1, 1] - colours[n, 1]) * t) * shade
                blue += (colours[n, 2] + (colours[n + 1, 2] - colours[n, 2]) * t) * shade
            out[r, c, 0] = min(255, int(red / 2))
            out[r, c, 1] = min(255, int(green / 2))
            out[r, c, 2] = min(255, int(blue / 2))
