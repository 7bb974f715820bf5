"""Compiled loops over tiles of heights. Heights and lengths in mm; a tile that nobody touched has no slot
(-1) and stands at the top.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from venzo.core.body.tiles import TILE


@njit(cache=True, nogil=True)
def mark(index, x0, y0, cell, segments, reach, flags):
    """Set ``flags`` for every tile that a disc of radius ``reach`` meets along ``segments`` (n, 5: ax, ay,
    bx, by, z).
    """
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
def chord(px, py, radius, y):
    """Where a line at ``y`` crosses a disc: from and to, mm; the second is the smaller where it does not."""
    up = radius * radius - (y - py) * (y - py)
    half = math.sqrt(up) if up >= 0.0 else -1e18
    return px - half, px + half


@njit(cache=True, nogil=True)
def span(ax, ay, bx, by, radius, y):
    """Where a line at ``y`` crosses what a disc sweeps from a to b. The swept shape is convex: its two ends
    lie on one of the discs or on a long side.
    """
    left, right = chord(ax, ay, radius, y)
    l, r = chord(bx, by, radius, y)
    left, right = min(left, l), max(right, r)
    dx, dy = bx - ax, by - ay
    if dy != 0.0:
        long = math.hypot(dx, dy)
        for side in (-1.0, 1.0):
            t = (y - ay - side * radius * dx / long) / dy
            if 0.0 <= t <= 1.0:
                x = ax - side * radius * dy / long + t * dx
                left, right = min(left, x), max(right, x)
    return left, right


@njit(cache=True, nogil=True)
def lower(index, tiles, i, j0, j1, z):
    """Lower cells ``j0`` to ``j1`` of row ``i`` to ``z``, where they stand higher."""
    inside = i % TILE
    j = j0
    while j <= j1:
        t = j // TILE
        end = min(j1, t * TILE + TILE - 1)
        slot = index[i // TILE, t]
        if slot >= 0:
            for c in range(j - t * TILE, end - t * TILE + 1):
                if tiles[slot, inside, c] > z:
                    tiles[slot, inside, c] = z
        j = end + 1


@njit(cache=True, nogil=True)
def shape_into(index, tiles, x0, cell, i, j0, j1, y, a, profile, step):
    """Lower cells ``j0`` to ``j1`` of row ``i`` (at ``y``) to a shaped cutter's height over its way ``a``
    (ax, ay, bx, by, z).
    """
    ax, ay, z = a[0], a[1], a[4]
    dx, dy = a[2] - ax, a[3] - ay
    long2 = dx * dx + dy * dy
    last = len(profile) - 1
    for j in range(j0, j1 + 1):
        slot = index[i // TILE, j // TILE]
        if slot < 0 or tiles[slot, i % TILE, j % TILE] <= z:
            continue
        x = x0 + (j + 0.5) * cell - ax
        t = 0.0 if long2 == 0.0 else min(1.0, max(0.0, (x * dx + (y - ay) * dy) / long2))
        away = math.hypot(x - t * dx, y - ay - t * dy) / step
        n = int(away)
        h = z + (profile[last] if n >= last else profile[n] + (profile[n + 1] - profile[n]) * (away - n))
        if h < tiles[slot, i % TILE, j % TILE]:
            tiles[slot, i % TILE, j % TILE] = h


@njit(cache=True, nogil=True)
def sweep_one(index, tiles, x0, y0, cell, top, segments, k, profile, step):
    """Lower what a cutter passes along segment ``k``.

    A flat cutter that goes on where the segment before ended, no higher, finds its disc there swept already
    and takes only what lies ahead.
    """
    rows, columns = index.shape[0] * TILE, index.shape[1] * TILE
    ax, ay, bx, by, z = segments[k, 0], segments[k, 1], segments[k, 2], segments[k, 3], segments[k, 4]
    last = len(profile) - 1
    wide = last
    while wide > 0 and z + profile[wide - 1] >= top:  # as wide as it is below the top
        wide -= 1
    reach = step * wide
    flat = profile[last] == 0.0
    goes_on = (
        flat
        and k > 0
        and abs(segments[k - 1, 2] - ax) + abs(segments[k - 1, 3] - ay) < 1e-9
        and segments[k - 1, 4] <= z
    )
    i0 = max(0, int(math.ceil((min(ay, by) - reach - y0) / cell - 0.5)))
    i1 = min(rows - 1, int(math.floor((max(ay, by) + reach - y0) / cell - 0.5)))
    for i in range(i0, i1 + 1):
        y = y0 + (i + 0.5) * cell
        left, right = span(ax, ay, bx, by, reach, y)
        if right < left:
            continue
        j0 = max(0, int(math.ceil((left - x0) / cell - 0.5)))
        j1 = min(columns - 1, int(math.floor((right - x0) / cell - 0.5)))
        if not flat:
            shape_into(index, tiles, x0, cell, i, j0, j1, y, segments[k], profile, step)
            continue
        if goes_on:
            done, upto = chord(ax, ay, reach, y)
            if upto >= done:
                before = min(j1, int(math.ceil((done - x0) / cell - 0.5)) - 1)
                if before >= j0:
                    lower(index, tiles, i, j0, before, z)
                j0 = max(j0, int(math.floor((upto - x0) / cell - 0.5)) + 1)
        if j1 >= j0:
            lower(index, tiles, i, j0, j1, z)


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
    """The highest material under a disc at each of ``points`` (n, 2); ``outside``: the height taken beyond
    the field.
    """
    out = np.full(len(points), -1e9)
    rows, columns = index.shape[0] * TILE, index.shape[1] * TILE
    for k in range(len(points)):
        px, py = points[k, 0], points[k, 1]
        most = -1e9
        for i in range(
            int(math.ceil((py - radius - y0) / cell - 0.5)),
            int(math.floor((py + radius - y0) / cell - 0.5)) + 1,
        ):
            left, right = chord(px, py, radius, y0 + (i + 0.5) * cell)
            j0, j1 = int(math.ceil((left - x0) / cell - 0.5)), int(math.floor((right - x0) / cell - 0.5))
            if j1 < j0:
                continue
            if i < 0 or i >= rows or j0 < 0 or j1 >= columns:
                most = max(most, outside)
                if i < 0 or i >= rows:
                    continue
                j0, j1 = max(j0, 0), min(j1, columns - 1)
            for t in range(j0 // TILE, j1 // TILE + 1 if j1 >= j0 else j0 // TILE):
                slot = index[i // TILE, t]
                if slot < 0:
                    most = max(most, top)
                    continue
                line = tiles[slot, i % TILE]
                for j in range(max(j0 - t * TILE, 0), min(j1 - t * TILE, TILE - 1) + 1):
                    most = max(most, line[j])
            if most >= max(top, outside):
                break
        out[k] = most
    return out


@njit(cache=True, nogil=True)
def clash(index, tiles, x0, y0, cell, top, places, profile, step):
    """How far (mm) a cutter at each of ``places`` (n, 3) stands in material, at worst; cells at its rim
    within one and a half of their size are not asked.
    """
    out = np.full(len(places), -1e9)
    rows, columns = index.shape[0] * TILE, index.shape[1] * TILE
    reach = step * (len(profile) - 1) - 1.5 * cell
    for k in range(len(places)):
        px, py, pz = places[k, 0], places[k, 1], places[k, 2]
        for i in range(
            max(0, int(math.ceil((py - reach - y0) / cell - 0.5))),
            min(rows - 1, int(math.floor((py + reach - y0) / cell - 0.5))) + 1,
        ):
            for j in range(
                max(0, int(math.ceil((px - reach - x0) / cell - 0.5))),
                min(columns - 1, int(math.floor((px + reach - x0) / cell - 0.5))) + 1,
            ):
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
    """What a cutter meets on its way, and take it away: for every one of ``steps`` (n, 6: ax, ay, bx, by, z,
    measured?) a row of ``out``.

    Columns: width met (mm), deepest met along the axis (mm), width of what is deeper than ``limit`` (mm),
    largest chip section over the feed per tooth (mm), section of what is taken across the travel (mm2); of a
    step straight down only the second, on its axis. Points on the leading half of the rim, where the cutter
    is as wide as it is below the top, are asked a little inside it, so that a cell cut by the rim of an
    earlier pass is not taken for material; what the cutter's own shape leaves under them is not met.
    """
    last = len(profile) - 1
    met = np.zeros(arcs)
    turn = math.pi / (arcs - 1)
    sine = np.sin(np.arange(arcs) * turn)
    cosine = np.cos(np.arange(arcs) * turn)
    gap = max(1, int(round(2.0 * math.pi / flutes / turn)))
    for k in range(steps.shape[0]):
        ax, ay, bx, by, z = steps[k, 0], steps[k, 1], steps[k, 2], steps[k, 3], steps[k, 4]
        dx, dy = bx - ax, by - ay
        long = math.hypot(dx, dy)
        if steps[k, 5] > 0.0 and long == 0.0:
            out[k, 1] = max(0.0, height(index, tiles, x0, y0, cell, top, bx, by) - z)
        if steps[k, 5] > 0.0 and long > 0.0:
            ux, uy = dx / long, dy / long
            wide = thick = deep = area = 0.0
            widest = last
            while widest > 0 and z + profile[widest - 1] >= top:
                widest -= 1
            reach = min(radius, step * widest)
            inside = max(reach - 0.75 * cell, 0.25 * reach)
            for m in range(arcs):
                # from the right of travel (0) over straight ahead to the left (pi)
                px = bx + inside * (uy * cosine[m] + ux * sine[m])
                py = by + inside * (-ux * cosine[m] + uy * sine[m])
                under = profile[min(last, int(reach * abs(cosine[m]) / step))]
                h = height(index, tiles, x0, y0, cell, top, px, py) - z - under
                met[m] = h if h > 0.02 else 0.0
                if met[m] > 0.0:
                    share = reach * sine[m] * turn
                    wide += share
                    area += share * h
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
            out[k, 0] = min(wide, 2.0 * reach)
            out[k, 1] = deep
            out[k, 2] = min(thick, 2.0 * reach)
            out[k, 3] = most
            out[k, 4] = area
        sweep_one(index, tiles, x0, y0, cell, top, steps, k, profile, step)
