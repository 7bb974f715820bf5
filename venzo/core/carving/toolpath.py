"""A planned carving as moves: the end mill on the floors first, then the bit, pass by pass, the last one
light.
"""

from __future__ import annotations

import itertools

import numpy as np

from venzo.core.carving.carve import Carving
from venzo.core.carving.walks import Walk, stretches
from venzo.core.cuts.moves import LINE, RAPID
from venzo.core.cuts.pocket import lay_levels
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array


def mill_moves(
    c: Carving, retract: float, feed: float, plunge: float, step_down: float | None = None
) -> list[Array]:
    """Moves of the end mill, one array a floor: entry along a ramp, in passes of at most ``step_down`` mm."""
    out: list[Array] = []
    if c.floor_depth is None:
        return out
    count = max(1, int(np.ceil(c.floor_depth / step_down - 1e-9))) if step_down else 1
    for lines in c.cleared:
        track = Track(retract, feed, plunge)
        levels = [(-c.floor_depth * (k + 1) / count, lines) for k in range(count)]
        lay_levels(levels, 0.0, track, "ramp", 30.0, (c.depths.clear or 1.0) / 2, 1.0)
        out.append(track.array())
    return out


def bit_moves(c: Carving, retract: float, feed: float, plunge: float) -> list[Array]:
    """Moves of the bit: passes that stay ``finish`` above the carved surface and no deeper than their level,
    then everything at full depth.

    Going down a slope the feed is held so that the bit sinks no faster than ``plunge``.
    """
    from venzo.core.carving.medial_kernel import thin  # here, since its compiler is dear to load

    out = []
    before = 0.0
    for level in c.levels:
        # what stays for the last pass lets these follow the path more loosely: fewer blocks, steadier feed
        loose = min(0.02, c.depths.finish * min(c.bit.tan, 1.0) / 4)
        done = [
            p[thin(p, loose)] if len(p) > 2 and loose > 1e-4 else p
            for w in c.walks
            for p in _at_level(w, level, before, c.depths.finish)
        ]
        if done:
            out.append(_laid(done, retract, feed, plunge))
        before = level
    last = [w.points for w in (*c.walks, *c.rows)]
    if last:
        out.append(_laid(last, retract, feed, plunge))
    return out


def chained(passes: list[Array], retract: float) -> Array:
    """Passes as one run of moves, lifted over from one to the next."""
    out = [passes[0]]
    for p in passes[1:]:
        out.append(np.array([[RAPID, out[-1][-1, 1], out[-1][-1, 2], retract, 0, 0, 0]]))
        out.append(p)
    return np.concatenate(out)


def _at_level(w: Walk, level: float, before: float, finish: float) -> list[Array]:
    """Stretches of a walk that a pass at ``level`` takes something from: where the pass before, at
    ``before``, was not yet within ``finish`` of the surface.
    """
    p = w.points
    want = p[:, 2] + finish
    if len(p) == 2 and (p[0] == p[1]).all():
        return [np.column_stack([p[:, :2], np.maximum(want, level)])] if want[0] < before - 1e-9 else []
    out = []
    deep = want < before - 1e-9
    for i, j in stretches(deep[:-1] | deep[1:]):
        rows = _cut_at(np.column_stack([p[i : j + 1, :2], want[i : j + 1]]), level)
        rows[:, 2] = np.clip(rows[:, 2], level, 0.0)
        out.append(rows)
    return out


def _cut_at(rows: Array, level: float) -> Array:
    """Points added where a run crosses ``level`` and the surface, so that a clamped height is exact between
    points.
    """
    marks = [rows[:1]]
    for p, q in itertools.pairwise(rows):
        if p[2] != q[2]:
            t = sorted(t for v in (level, 0.0) if 0 < (t := (v - p[2]) / (q[2] - p[2])) < 1)
            marks += [(p + (q - p) * k)[None, :] for k in t]
        marks.append(q[None, :])
    return np.concatenate(marks)


def _laid(runs: list[Array], retract: float, feed: float, plunge: float) -> Array:
    """Runs (n, 3) with lifts between them."""
    blocks: list[Array] = []
    for k, p in enumerate(runs):
        start = p[0]
        head = []
        if k:
            head.append([RAPID, blocks[-1][-1, 1], blocks[-1][-1, 2], retract, 0, 0, 0])
        head.append([RAPID, start[0], start[1], retract, 0, 0, 0])
        head.append([LINE, start[0], start[1], start[2], 0, 0, plunge])
        d = np.diff(p, axis=0)
        long = np.sqrt((d**2).sum(axis=1))
        keep = long > 1e-6
        d, long, to = d[keep], long[keep], p[1:][keep]
        sink = np.maximum(-d[:, 2], 0.0) / np.maximum(long, 1e-12)
        f = np.minimum(feed, plunge / np.maximum(sink, plunge / feed))
        zero = np.zeros(len(to))
        body = np.column_stack([np.full(len(to), LINE), to, zero, zero, f])
        blocks.append(np.concatenate([np.array(head, dtype=float), body]))
    return np.concatenate(blocks)
