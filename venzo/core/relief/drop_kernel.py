"""Compiled loops: a cutter let down on triangles until it touches, exactly. Lengths in mm.

Over one triangle *height of the surface less height of the cutter over its tip* is concave in plan, since
cutters that grow ever steeper outwards are convex. Its greatest value is therefore where the surface's slope
is the cutter's own, if that lies in the triangle, else on one of its three edges, along which the same is
asked again: the vertex, edge and facet of the drop-cutter method, here for every kind at once.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

NONE = -1e18
"""What a cutter that touches nothing stands at."""
UPRIGHT = 1e-12
"""mm2 in plan; a triangle that covers no more stands upright: only its edges are touched."""
INSIDE = 1e-9
"""Share of a triangle by which a place may lie beyond its side and still counts as on it."""


@njit(cache=True, nogil=True)
def over_tip(away, tip):
    """Height of the cutter over its tip at a distance from the axis."""
    flat, corner, meets, rise = tip[1], tip[2], tip[3], tip[4]
    if away <= flat:
        return 0.0
    if away <= meets:
        off = away - flat
        return corner - math.sqrt(max(0.0, corner * corner - off * off))
    off = meets - flat
    return corner - math.sqrt(max(0.0, corner * corner - off * off)) + rise * (away - meets)


@njit(cache=True, nogil=True)
def steepness(away, tip):
    """Slope of the cutter at a distance from the axis, up to ``meets``."""
    off = away - tip[1]
    under = tip[2] * tip[2] - off * off
    if off <= 0.0:
        return 0.0
    return off / math.sqrt(under) if under > 0.0 else 1e18


@njit(cache=True, nogil=True)
def where_slope(slope, tip):
    """Distance from the axis at which the cutter is as steep as ``slope`` > 0 (its rim, where it nowhere
    is).
    """
    radius, flat, corner, meets, rise = tip
    if corner > 0.0:
        away = flat + corner * slope / math.sqrt(1.0 + slope * slope)
        if away <= meets:
            return away
    if meets < radius:  # from where the cone begins
        return meets if slope <= rise else radius
    return radius


@njit(cache=True, nogil=True)
def _on_round(slope, aside, low, high, tip):
    """``along_edge`` on the round corner about a flat end, between two places: Newton's steps, kept between
    the two, since the slope across grows all the way.
    """
    flat, corner = tip[1], tip[2]
    s = 0.5 * (low + high)
    for _k in range(60):
        away = math.hypot(aside, s)
        off = away - flat
        under = corner * corner - off * off
        if off <= 0.0 or s <= 0.0:
            low = s
            s = 0.5 * (low + high)
            continue
        if under <= 0.0:
            high = s
            s = 0.5 * (low + high)
            continue
        q = math.sqrt(under)
        at = off * s / (away * q)
        if at < slope:
            low = s
        else:
            high = s
        grows = at * (s / (away * off) + 1.0 / s - s / (away * away) + off * s / (away * under))
        step = (slope - at) / grows
        following = s + step
        if not low < following < high:
            following = 0.5 * (low + high)
        if abs(following - s) < 1e-12:
            return following
        s = following
    return s


@njit(cache=True, nogil=True)
def along_edge(slope, aside, tip):
    """How far along an edge that rises by ``slope`` >= 0 and passes ``aside`` mm from the axis it is touched,
    from where it passes; an edge without end.
    """
    radius, flat, corner, meets, rise = tip
    far = math.sqrt(max(0.0, radius * radius - aside * aside))
    if slope <= 0.0:
        return 0.0
    begin = math.sqrt(flat * flat - aside * aside) if aside < flat else 0.0
    if aside < meets and corner > 0.0:
        end = math.sqrt(meets * meets - aside * aside)
        at_end = steepness(meets, tip) * end / meets
        if at_end >= slope:
            if flat == 0.0:
                left = corner * corner - aside * aside
                return slope * math.sqrt(max(0.0, left)) / math.sqrt(1.0 + slope * slope)
            return _on_round(slope, aside, begin, end, tip)
        begin = end
    if meets < radius:
        at_begin = rise * begin / max(math.hypot(aside, begin), 1e-300)
        if at_begin >= slope:
            return begin
        if slope < rise:
            return min(far, slope * aside / math.sqrt(rise * rise - slope * slope))
    return far


@njit(cache=True, nogil=True)
def on_edge(x, y, ax, ay, az, bx, by, bz, tip, z):
    """Height at which the tip stands over (x, y) when the cutter rests on an edge; ``NONE`` where that is not
    higher than ``z``.
    """
    radius = tip[0]
    dx, dy = bx - ax, by - ay
    long = math.hypot(dx, dy)
    if long < 1e-12:
        away = math.hypot(x - ax, y - ay)
        return max(az, bz) - over_tip(away, tip) if away <= radius else NONE
    ux, uy = dx / long, dy / long
    slope = (bz - az) / long
    passes = (x - ax) * ux + (y - ay) * uy
    aside = abs((x - ax) * uy - (y - ay) * ux)
    if aside > radius:
        return NONE
    half = math.sqrt(max(0.0, radius * radius - aside * aside))
    low, high = max(0.0, passes - half), min(long, passes + half)
    if low > high:
        return NONE
    if az + slope * (high if slope > 0.0 else low) - over_tip(aside, tip) <= z:
        return NONE
    s = along_edge(abs(slope), aside, tip)
    at = passes + (s if slope > 0.0 else -s)
    at = min(high, max(low, at))
    return az + slope * at - over_tip(math.hypot(aside, at - passes), tip)


@njit(cache=True, nogil=True)
def lean_on(triangles, tip, lean):
    """For every triangle where a cutter touches its plane (from the axis: dx, dy) and how much higher than
    the plane under the axis its tip stands then: three columns of ``lean``; a face that stands upright none.
    """
    for k in range(triangles.shape[0]):
        t = triangles[k]
        ux, uy, uz = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1], t[1, 2] - t[0, 2]
        vx, vy, vz = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1], t[2, 2] - t[0, 2]
        turn = ux * vy - uy * vx
        if abs(turn) <= UPRIGHT:
            lean[k, 2] = math.inf
            continue
        gx, gy = (uz * vy - vz * uy) / turn, (vz * ux - uz * vx) / turn
        slope = math.hypot(gx, gy)
        away = where_slope(slope, tip) if slope > 0.0 else 0.0
        lean[k, 0] = away * gx / slope if slope > 0.0 else 0.0
        lean[k, 1] = away * gy / slope if slope > 0.0 else 0.0
        lean[k, 2] = slope * away - over_tip(away, tip)


@njit(cache=True, nogil=True)
def on_triangle(x, y, t, sharp, lean, tip, z):
    """The higher of ``z`` and the height at which the tip stands over (x, y) when the cutter rests on a
    triangle (3, 3): on its face, else on those of its edges that are ``sharp`` (a bit each).
    """
    ax, ay, az = t[0, 0], t[0, 1], t[0, 2]
    bx, by, bz = t[1, 0], t[1, 1], t[1, 2]
    cx, cy, cz = t[2, 0], t[2, 1], t[2, 2]
    if lean[2] != math.inf:
        ux, uy, uz = bx - ax, by - ay, bz - az
        vx, vy, vz = cx - ax, cy - ay, cz - az
        turn = ux * vy - uy * vx
        wx, wy = x - ax, y - ay
        # over the plane without end: no point of the triangle lets the cutter stand higher
        stands = az + (wx * (uz * vy - vz * uy) + wy * (vz * ux - uz * vx)) / turn + lean[2]
        if stands <= z:
            return z
        px, py = wx + lean[0], wy + lean[1]
        p = (px * vy - py * vx) / turn
        q = (ux * py - uy * px) / turn
        if p >= -INSIDE and q >= -INSIDE and p + q <= 1.0 + INSIDE:
            return stands
    if sharp & 1:
        z = max(z, on_edge(x, y, ax, ay, az, bx, by, bz, tip, z))
    if sharp & 2:
        z = max(z, on_edge(x, y, bx, by, bz, cx, cy, cz, tip, z))
    if sharp & 4:
        z = max(z, on_edge(x, y, cx, cy, cz, ax, ay, az, tip, z))
    return z


@njit(cache=True, nogil=True)
def drop(points, triangles, sharp, lean, boxes, starts, members, tops, x0, y0, cell, tip, low, out, seen):
    """Heights of the tip over ``points`` (n, 2), into ``out``; points that follow one another are best near
    one another.

    ``sharp``, ``lean``: as ``on_triangle`` asks; ``boxes`` (n, 5): in plan, and the top, of each triangle;
    ``starts``, ``members``: which triangles each cell of a grid holds; ``tops`` (rows, columns): the highest
    of them; ``low``: the tip never stands lower; ``seen``: room for a number a triangle.
    """
    rows, columns = tops.shape
    radius = tip[0]
    last = -1
    for k in range(points.shape[0]):
        x, y = points[k, 0], points[k, 1]
        z, stamp = low, k + 1
        touched = last
        if last >= 0:  # what was touched before is most likely touched again
            better = on_triangle(x, y, triangles[last], 7, lean[last], tip, z)
            z = max(z, better)
        i0 = max(0, int(math.floor((y - radius - y0) / cell)))
        i1 = min(rows - 1, int(math.floor((y + radius - y0) / cell)))
        j0 = max(0, int(math.floor((x - radius - x0) / cell)))
        j1 = min(columns - 1, int(math.floor((x + radius - x0) / cell)))
        for i in range(i0, i1 + 1):
            bottom = y0 + i * cell
            ey = max(0.0, max(bottom - y, y - bottom - cell))
            for j in range(j0, j1 + 1):
                top = tops[i, j]
                if top <= z:
                    continue
                left = x0 + j * cell
                ex = max(0.0, max(left - x, x - left - cell))
                away = math.sqrt(ex * ex + ey * ey)
                if away > radius or top - over_tip(away, tip) <= z:
                    continue
                at = i * columns + j
                for n in range(starts[at], starts[at + 1]):
                    m = members[n]
                    if seen[m] == stamp:
                        continue
                    seen[m] = stamp
                    b = boxes[m]
                    if b[4] <= z:
                        continue
                    tx = max(0.0, max(b[0] - x, x - b[2]))
                    ty = max(0.0, max(b[1] - y, y - b[3]))
                    near = math.sqrt(tx * tx + ty * ty)
                    if near > radius or b[4] - over_tip(near, tip) <= z:
                        continue
                    better = on_triangle(x, y, triangles[m], sharp[m], lean[m], tip, z)
                    if better > z:
                        z, touched = better, m
        out[k] = z
        last = touched


@njit(cache=True, nogil=True)
def spread(triangles, x0, y0, cell, rows, columns, counts, tops):
    """Count, for every cell of a grid, the triangles whose box meets it, and keep the highest."""
    for k in range(triangles.shape[0]):
        t = triangles[k]
        top = max(t[0, 2], max(t[1, 2], t[2, 2]))
        i0 = max(0, int((min(t[0, 1], min(t[1, 1], t[2, 1])) - y0) / cell))
        i1 = min(rows - 1, int((max(t[0, 1], max(t[1, 1], t[2, 1])) - y0) / cell))
        j0 = max(0, int((min(t[0, 0], min(t[1, 0], t[2, 0])) - x0) / cell))
        j1 = min(columns - 1, int((max(t[0, 0], max(t[1, 0], t[2, 0])) - x0) / cell))
        for i in range(i0, i1 + 1):
            for j in range(j0, j1 + 1):
                counts[i * columns + j] += 1
                if top > tops[i, j]:
                    tops[i, j] = top


@njit(cache=True, nogil=True)
def put_in(triangles, x0, y0, cell, rows, columns, at, members):
    """Write every triangle's number into the cells that its box meets; ``at``: where each cell goes on."""
    for k in range(triangles.shape[0]):
        t = triangles[k]
        i0 = max(0, int((min(t[0, 1], min(t[1, 1], t[2, 1])) - y0) / cell))
        i1 = min(rows - 1, int((max(t[0, 1], max(t[1, 1], t[2, 1])) - y0) / cell))
        j0 = max(0, int((min(t[0, 0], min(t[1, 0], t[2, 0])) - x0) / cell))
        j1 = min(columns - 1, int((max(t[0, 0], max(t[1, 0], t[2, 0])) - x0) / cell))
        for i in range(i0, i1 + 1):
            for j in range(j0, j1 + 1):
                members[at[i * columns + j]] = k
                at[i * columns + j] += 1


@njit(cache=True, nogil=True)
def layers(points, triangles, starts, members, x0, y0, cell, rows, columns, apart, out):
    """How many faces that look up lie over one another at each point, ``apart`` mm from one another."""
    found = np.empty(64)
    for k in range(points.shape[0]):
        x, y = points[k, 0], points[k, 1]
        i, j = int((y - y0) / cell), int((x - x0) / cell)
        if i < 0 or j < 0 or i >= rows or j >= columns:
            out[k] = 0
            continue
        many = 0
        for m in range(starts[i * columns + j], starts[i * columns + j + 1]):
            t = triangles[members[m]]
            ux, uy = t[1, 0] - t[0, 0], t[1, 1] - t[0, 1]
            vx, vy = t[2, 0] - t[0, 0], t[2, 1] - t[0, 1]
            turn = ux * vy - uy * vx
            if turn <= 1e-14:
                continue
            wx, wy = x - t[0, 0], y - t[0, 1]
            p, q = (wx * vy - wy * vx) / turn, (ux * wy - uy * wx) / turn
            if p < 0.0 or q < 0.0 or p + q > 1.0 or many == 64:
                continue
            z = t[0, 2] + p * (t[1, 2] - t[0, 2]) + q * (t[2, 2] - t[0, 2])
            new = True
            for n in range(many):
                if abs(found[n] - z) < apart:
                    new = False
            if new:
                found[many] = z
                many += 1
        out[k] = many
