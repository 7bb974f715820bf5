"""Compiled loops that lower tiles of heights to what a cutter sweeps along lines that may rise and fall,
exactly at each cell's point. Lengths in mm.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from venzo.core.body.kernel import height, lower, span
from venzo.core.body.tiles import TILE

FLAT, CONE, BALL, CONVEX, ANY = 0.0, 1.0, 2.0, 3.0, 4.0
"""How a cutter's height over its tip runs outwards: flat; a cone over a flat point; a ball; some other that
grows ever steeper; any other.
"""
ALPHA, BETA = 0.7548776662466927, 0.5698402909980532
"""Shares by which a cell's point moves on from cell to cell, so that an edge meets all of a cell evenly
(powers of the plastic number, as in the R2 sequence).
"""
TRIES = 24


@njit(cache=True, nogil=True)
def rise(away, profile, step):
    """Height over the tip at a distance from the axis, between the profile's steps."""
    last = len(profile) - 1
    at = away / step
    n = int(at)
    return profile[last] if n >= last else profile[n] + (profile[n + 1] - profile[n]) * (at - n)


@njit(cache=True, nogil=True)
def least(a, b, s, d, slope, profile, step):
    """The least height between two places on a line, for a profile that grows ever steeper (golden
    section).
    """
    g = 0.6180339887498949
    p, q = b - g * (b - a), a + g * (b - a)
    fp = slope * p + rise(math.hypot(d, s - p), profile, step)
    fq = slope * q + rise(math.hypot(d, s - q), profile, step)
    for _k in range(TRIES):
        if fp < fq:
            b, q, fq = q, p, fp
            p = b - g * (b - a)
            fp = slope * p + rise(math.hypot(d, s - p), profile, step)
        else:
            a, p, fp = p, q, fq
            q = a + g * (b - a)
            fq = slope * q + rise(math.hypot(d, s - q), profile, step)
    return min(fp, fq)


@njit(cache=True, nogil=True)
def swept(s, d, long, az, slope, form, profile, step):
    """Height to which a point is cut, ``s`` along and ``d`` beside a line that begins at ``az`` and rises
    by ``slope``; 1e9 where nothing reaches it. ``form``: kind, radius, point's radius, rise of the cone.
    """
    kind, radius, tip, cone = form[0], form[1], form[2], form[3]
    if d >= radius:
        return 1e9
    half = math.sqrt(radius * radius - d * d)
    t0, t1 = max(0.0, s - half), min(long, s + half)
    if t0 > t1:
        return 1e9
    if kind == FLAT:
        return az + min(slope * t0, slope * t1)
    if kind == CONE:
        t = (
            (t1 if slope < 0 else t0)
            if abs(slope) >= cone
            else s - slope * d / math.sqrt(cone * cone - slope * slope)
        )
        flat = math.sqrt(max(0.0, tip * tip - d * d))
        best = 1e9
        for q in (t, s - flat, s + flat):
            q = min(t1, max(t0, q))
            best = min(best, slope * q + max(0.0, math.hypot(d, s - q) - tip) * cone)
        return az + best
    if kind == BALL:
        w = math.sqrt((radius * radius - d * d) / (1.0 + slope * slope))
        t = min(t1, max(t0, s - slope * w))
        return az + slope * t + radius - math.sqrt(max(0.0, radius * radius - d * d - (s - t) * (s - t)))
    if slope == 0.0:
        return az + rise(math.hypot(d, s - min(t1, max(t0, s))), profile, step)
    if kind == CONVEX:
        return az + least(t0, t1, s, d, slope, profile, step)
    best, near = 1e9, t0
    for k in range(TRIES + 1):
        q = t0 + (t1 - t0) * k / TRIES
        h = slope * q + rise(math.hypot(d, s - q), profile, step)
        if h < best:
            best, near = h, q
    gap = (t1 - t0) / TRIES
    return az + min(best, least(max(t0, near - gap), min(t1, near + gap), s, d, slope, profile, step))


@njit(cache=True, nogil=True)
def point_of(i, j, cell, spread):
    """Where in its cell the point lies whose height it keeps: x and y from the cell's lower left, mm."""
    if not spread:
        return 0.5 * cell, 0.5 * cell
    return cell * ((i * ALPHA + j * BETA) % 1.0), cell * ((i * BETA + j * ALPHA) % 1.0)


@njit(cache=True, nogil=True)
def sweep_lines(index, tiles, x0, y0, cell, top, lines, form, profile, step, spread, rows):
    """Lower every height that a cutter passes along ``lines`` (n, 6: ax, ay, az, bx, by, bz), in tile rows
    ``rows`` (from, to).
    """
    first, last = rows[0] * TILE, rows[1] * TILE - 1
    columns = index.shape[1] * TILE
    for k in range(lines.shape[0]):
        ax, ay, az, bx, by, bz = lines[k, 0], lines[k, 1], lines[k, 2], lines[k, 3], lines[k, 4], lines[k, 5]
        low = min(az, bz)
        if low >= top:
            continue
        wide = len(profile) - 1
        while wide > 0 and low + profile[wide - 1] >= top:  # as wide as it is below the top
            wide -= 1
        reach = step * wide
        dx, dy = bx - ax, by - ay
        long = math.hypot(dx, dy)
        ux, uy, slope = 1.0, 0.0, 0.0
        if long > 1e-9:
            ux, uy, slope = dx / long, dy / long, (bz - az) / long
        begin = az if long > 1e-9 else low
        more = 0.5 * cell if spread else 0.0
        i0 = max(first, int(math.floor((min(ay, by) - reach - y0) / cell)))
        i1 = min(last, int(math.floor((max(ay, by) + reach - y0) / cell)))
        level = form[0] == FLAT and slope == 0.0 and not spread
        for i in range(i0, i1 + 1):
            left, right = span(ax, ay, bx, by, reach + 2 * more, y0 + (i + 0.5) * cell)
            if right < left:
                continue
            if level:
                j0 = max(0, int(math.ceil((left - x0) / cell - 0.5)))
                j1 = min(columns - 1, int(math.floor((right - x0) / cell - 0.5)))
                if j1 >= j0:
                    lower(index, tiles, i, j0, j1, begin)
                continue
            j0 = max(0, int(math.floor((left - more - x0) / cell)))
            j1 = min(columns - 1, int(math.floor((right + more - x0) / cell)))
            for j in range(j0, j1 + 1):
                slot = index[i // TILE, j // TILE]
                if slot < 0 or tiles[slot, i % TILE, j % TILE] <= low:
                    continue
                px, py = point_of(i, j, cell, spread)
                px, py = x0 + j * cell + px - ax, y0 + i * cell + py - ay
                h = swept(px * ux + py * uy, abs(px * uy - py * ux), long, begin, slope, form, profile, step)
                if h < tiles[slot, i % TILE, j % TILE]:
                    tiles[slot, i % TILE, j % TILE] = h


@njit(cache=True, nogil=True)
def volume(index, tiles, x0, y0, cell, top, floor, inside, spread):
    """mm3 gone between ``top`` and ``floor`` at points inside a box (x0, y0, x1, y1)."""
    total = 0.0
    for a in range(index.shape[0]):
        for b in range(index.shape[1]):
            slot = index[a, b]
            if slot < 0:
                continue
            part = 0.0
            for i in range(TILE):
                for j in range(TILE):
                    h = tiles[slot, i, j]
                    if h >= top:
                        continue
                    px, py = point_of(a * TILE + i, b * TILE + j, cell, spread)
                    x, y = x0 + (b * TILE + j) * cell + px, y0 + (a * TILE + i) * cell + py
                    if inside[0] <= x <= inside[2] and inside[1] <= y <= inside[3]:
                        part += top - max(h, floor)
            total += part
    return total * cell * cell


@njit(cache=True, nogil=True)
def heights(index, tiles, x0, y0, cell, top, points):
    """Height at every point (n, 2)."""
    out = np.empty(len(points))
    for k in range(len(points)):
        out[k] = height(index, tiles, x0, y0, cell, top, points[k, 0], points[k, 1])
    return out
