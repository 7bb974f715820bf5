"""Compiled loops that paint tiles of heights. Lengths in mm, colours 0 to 255."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from venzo.core.body.tiles import TILE


@njit(cache=True, nogil=True)
def sampled(index, tiles, x0, y0, cell, top, xs, ys):
    """Heights at every crossing of columns ``xs`` and rows ``ys`` as (rows, columns); outside the field the
    top.
    """
    out = np.full((len(ys), len(xs)), np.float32(top), dtype=np.float32)
    across = np.empty(len(xs), dtype=np.int32)
    for c in range(len(xs)):
        j = int(math.floor((xs[c] - x0) / cell))
        across[c] = j if 0 <= j < index.shape[1] * TILE else -1
    for r in range(len(ys)):
        i = int(math.floor((ys[r] - y0) / cell))
        if i < 0 or i >= index.shape[0] * TILE:
            continue
        slots, inside = index[i // TILE], i % TILE
        for c in range(len(xs)):
            j = across[c]
            if j >= 0 and slots[j // TILE] >= 0:
                out[r, c] = tiles[slots[j // TILE], inside, j % TILE]
    return out


@njit(cache=True, nogil=True)
def paint(heights, top, floor, every, about, reach, slope, tones, through, hatch, first, out):
    """Paint heights into ``out`` (rows, columns, 3), two samples a pixel; ``out`` begins at row ``first`` of
    the picture.

    ``heights``: two rows and two columns a pixel, from the upper left, and ``about`` more on every side; a
    height's neighbours are the ones ``about`` from it, ``reach`` mm away. ``every``: mm of depth between ink
    lines; ``slope``: how much a slope's light counts; ``tones`` (n, 3): of depth from the top to the floor;
    ``through``: of what lies below the floor, hatched every ``hatch`` pixels.
    """
    one = np.float32(1.0)
    lowest = np.float32(floor - 0.005)
    deeper = np.float32((len(tones) - 1) / (top - floor))
    lit = np.float32(0.2 * slope / (2.0 * reach))
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            red = green = blue = np.float32(0.0)
            for s in range(2):
                # two of four, in turn, so that lines keep their weight
                i, j = 2 * r + (s + first + r + c) % 2 + about, 2 * c + s + about
                h = heights[i, j]
                if h < lowest:
                    # what stands beneath: hatched, so that it is told without colour
                    shade = np.float32(0.78) if (c + r + first) % hatch < 1 else one
                    red += through[0] * shade
                    green += through[1] * shade
                    blue += through[2] * shade
                    continue
                west, north = heights[i, j - about], heights[i - about, j]
                east, south = heights[i, j + about], heights[i + about, j]
                n = max(0, min(len(tones) - 1, int((np.float32(top) - h) * deeper)))
                light = ((h - west) + (h - north)) * lit
                shade = one + max(np.float32(-0.2), min(np.float32(0.2), light))
                deepest = min(min(west, north), min(east, south))
                if deepest < h and math.floor((top - deepest) / every + 1e-6) > math.floor(
                    (top - h) / every + 1e-6
                ):
                    shade *= np.float32(0.45)
                red += tones[n, 0] * shade
                green += tones[n, 1] * shade
                blue += tones[n, 2] * shade
            out[r, c, 0] = min(255, int(red / 2))
            out[r, c, 1] = min(255, int(green / 2))
            out[r, c, 2] = min(255, int(blue / 2))
