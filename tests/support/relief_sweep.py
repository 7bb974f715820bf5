"""A relief's programs read by another library and swept here: nothing of Venzo's reader, writer, drop-cutter
or stock body.
"""

import math
import re

import numpy as np
from gcodeparser import parse_gcode_lines
from scipy.spatial import cKDTree


def rise(kind, away, *sizes):
    """Height of a cutter over its tip: from the shape's own definition."""
    away = np.asarray(away, dtype=float)
    if kind == "flat":
        out = np.zeros_like(away)
    elif kind == "ball":
        r = sizes[0] / 2
        out = r - np.sqrt(np.maximum(0.0, r * r - away**2))
    elif kind == "bull":
        d, c = sizes
        off = np.maximum(0.0, away - (d / 2 - c))
        out = c - np.sqrt(np.maximum(0.0, c * c - off**2))
    elif kind == "taper":
        r, half, d = sizes
        w = math.radians(half)
        touch = r * math.cos(w)
        on_ball = r - np.sqrt(np.maximum(0.0, r * r - np.minimum(away, r) ** 2))
        out = np.where(away <= touch, on_ball, r - r * math.sin(w) + (away - touch) / math.tan(w))
    else:
        d, angle = sizes
        out = away / math.tan(math.radians(angle / 2))
    radius = sizes[2] / 2 if kind == "taper" else sizes[0] / 2
    return np.where(away <= radius + 1e-12, out, np.inf)


def radius_of(kind, *sizes):
    return sizes[2] / 2 if kind == "taper" else sizes[0] / 2


def way_of(text):
    """Places (n, 3) of a program in mm, and for each whether it is come to at a feed."""
    scale, at, mode = 1.0, [0.0, 0.0, 0.0], 0
    places, cuts = [], []
    lines, motion = [], ""
    for line in re.sub(r"\([^)]*\)", "", text).splitlines():
        found = re.match(r"G[0-3](?!\d)", line)
        motion = found.group() if found else motion
        lines.append(f"{motion} {line}" if re.match("[XYZ]", line) else line)
    for line in parse_gcode_lines("\n".join(lines)):
        letter, number = line.command
        if letter != "G":
            continue
        if number in (20, 21):
            scale = 25.4 if number == 20 else 1.0
        elif number in (0, 1):
            mode = number
            for k, axis in enumerate("XYZ"):
                if axis in line.params:
                    at[k] = line.params[axis] * scale
            places.append(tuple(at))
            cuts.append(mode == 1)
        assert number not in (2, 3), "a relief has straight moves only"
    return np.array(places), np.array(cuts)


def dense(places, cuts, pitch):
    """Points along the cutting moves, at most ``pitch`` apart, in running order."""
    a, b = places[:-1][cuts[1:]], places[1:][cuts[1:]]
    n = np.maximum(1, np.ceil(np.sqrt(((b - a) ** 2).sum(axis=1)) / pitch)).astype(int)
    which = np.repeat(np.arange(len(a)), n)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n) + 1) / n[which]
    return np.vstack([a[:1], a[which] + (b[which] - a[which]) * t[:, None]])


def less(by, kind, *sizes):
    """A cutter's sizes with a skin ``by`` mm thick taken off all round; its tip is ``by`` higher then."""
    if kind == "bull":
        return sizes[0] - 2 * by, sizes[1] - by
    if kind == "taper":
        return sizes[0] - by, sizes[1], sizes[2] - 2 * by
    return (sizes[0] - 2 * by, *sizes[1:])


def spared_to(way, points, by, kind, *sizes):
    """As ``swept_to`` for a cutter that is ``by`` mm thinner all round: what it still takes lies deeper in
    than that, measured normal to the surface; beside an upright wall a hair aside is all of its height.
    """
    lifted = way + (0.0, 0.0, by)
    return swept_to(lifted, points, kind, *less(by, kind, *sizes))


def swept_to(way, points, kind, *sizes):
    """Height to which each place (n, 2) is cut by a cutter along a way; inf where it never comes."""
    radius = radius_of(kind, *sizes)
    tree, out = cKDTree(way[:, :2]), np.full(len(points), np.inf)
    for k, near in enumerate(tree.query_ball_point(points, radius)):
        if near:
            p = way[near]
            out[k] = (p[:, 2] + rise(kind, np.hypot(*(p[:, :2] - points[k]).T), *sizes)).min()
    return out


def heights_on(triangles, points):
    """The highest face over each place (n, 2), face by face; -inf where there is none."""
    out = np.full(len(points), -np.inf)
    for a, b, c in triangles:
        u, v, w = b[:2] - a[:2], c[:2] - a[:2], points - a[:2]
        turn = u[0] * v[1] - u[1] * v[0]
        if abs(turn) < 1e-12:
            continue
        p = (w[:, 0] * v[1] - w[:, 1] * v[0]) / turn
        q = (u[0] * w[:, 1] - u[1] * w[:, 0]) / turn
        on = (p >= 0) & (q >= 0) & (p + q <= 1)
        z = a[2] + p * (b[2] - a[2]) + q * (c[2] - a[2])
        out[on] = np.maximum(out[on], z[on])
    return out
