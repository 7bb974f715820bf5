"""Toolpaths as arrays: one row per move, column names as constants."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from venzo.core.geometry.contour import Array, Segment, rotation_matrix

KIND, X, Y, Z, CX, CY, FEED = range(7)
"""Columns: kind, end point, centre of arcs, feed in mm/min (0 for rapids)."""
RAPID, LINE, CW, CCW = 0.0, 1.0, 2.0, 3.0
PLANE = ((X, Y), (CX, CY))
"""Pairs of columns that are a place in the plane."""

TINY = 2e-3
"""mm; an arc shorter than this is a line: its ends could no longer be told from those of a full circle."""


def row(
    kind: float, x: float, y: float, z: float, feed: float = 0.0, cx: float = 0.0, cy: float = 0.0
) -> list[float]:
    """One move."""
    return [kind, x, y, z, cx, cy, feed]


def along(segment: Segment, z: float, feed: float) -> list[float]:
    """The move that follows a line or arc to its end at height z."""
    from venzo.core.geometry.contour import arc_of

    if segment.bulge == 0.0 or segment.length < TINY:
        return row(LINE, segment.x1, segment.y1, z, feed)
    cx, cy = arc_of((segment.x0, segment.y0), (segment.x1, segment.y1), segment.bulge)[:2]
    return row(CCW if segment.bulge > 0 else CW, segment.x1, segment.y1, z, feed, cx, cy)


def placed(moves: Array, x: float, y: float, rotation: float) -> Array:
    """Moves rotated about the part's origin and shifted; mirrored parts are planned mirrored, never mirrored
    here.
    """
    out = moves.copy()
    turn = rotation_matrix(rotation).T
    out[:, [X, Y]] = out[:, [X, Y]] @ turn + (x, y)
    out[:, [CX, CY]] = out[:, [CX, CY]] @ turn + (x, y)
    return out


def dwells(moves: Array) -> Array:
    """Seconds that each move stands still: a cutting move of no length with a negative feed."""
    return np.where(moves[:, FEED] < 0, -moves[:, FEED], 0.0)


def lengths(moves: Array) -> Array:
    """Travel of every move, mm, arcs and helices exact; the first row is only a start point and counts 0."""
    a, b = moves[:-1], moves[1:]
    flat = np.hypot(b[:, X] - a[:, X], b[:, Y] - a[:, Y])
    arcs = b[:, KIND] >= CW
    if arcs.any():
        flat = np.where(
            arcs, np.abs(sweeps(moves)[1:]) * np.hypot(b[:, X] - b[:, CX], b[:, Y] - b[:, CY]), flat
        )
    return np.concatenate([[0.0], np.hypot(flat, b[:, Z] - a[:, Z])])


def sweeps(moves: Array) -> Array:
    """Signed angle (radians) of every arc move, 0 for the rest."""
    a, b = moves[:-1], moves[1:]
    start = np.arctan2(a[:, Y] - b[:, CY], a[:, X] - b[:, CX])
    end = np.arctan2(b[:, Y] - b[:, CY], b[:, X] - b[:, CX])
    ccw = b[:, KIND] == CCW
    turn = np.where(ccw, end - start, start - end) % (2 * np.pi)
    turn = np.where(turn < 1e-9, 2 * np.pi, turn)
    return np.concatenate([[0.0], np.where(b[:, KIND] >= CW, np.where(ccw, turn, -turn), 0.0)])


def polyline(moves: Array, chord: float) -> Array:
    """The path as points ``(n, 3)``, arcs replaced by chords within ``chord`` mm, z linear along arcs."""
    return chords(moves, chord)[0]


def chords(moves: Array, chord: float) -> tuple[Array, npt.NDArray[np.int_]]:
    """The path as points ``(n + 1, 3)`` and, for each of its n chords, the row of the move it belongs to
    (from 1 on).
    """
    m, p = moves[1:], moves[:-1]
    if not len(m):
        return moves[:1][:, [X, Y, Z]].copy(), np.zeros(0, dtype=int)
    arc = m[:, KIND] >= CW
    if not arc.any():
        return moves[:, [X, Y, Z]].copy(), np.arange(1, len(moves))
    r = np.hypot(m[:, X] - m[:, CX], m[:, Y] - m[:, CY])
    turn = sweeps(moves)[1:]
    half = np.where(r > chord, 2 * np.arccos(np.clip(1 - chord / np.maximum(r, 1e-12), -1.0, 1.0)), np.pi / 2)
    n = np.where(arc, np.maximum(2, np.ceil(np.abs(turn) / half)), 1).astype(int)
    which = np.repeat(np.arange(len(m)), n)
    t = (np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n) + 1) / n[which]
    begin = np.arctan2(p[:, Y] - m[:, CY], p[:, X] - m[:, CX])
    angle = begin[which] + turn[which] * t
    out = np.column_stack(
        [
            m[which, CX] + r[which] * np.cos(angle),
            m[which, CY] + r[which] * np.sin(angle),
            p[which, Z] + (m[which, Z] - p[which, Z]) * t,
        ]
    )
    ends = np.cumsum(n) - 1
    out[ends] = m[:, [X, Y, Z]]
    return np.vstack([moves[:1][:, [X, Y, Z]], out]), which + 1
