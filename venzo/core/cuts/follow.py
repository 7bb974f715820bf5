"""Lines followed with the cutter's middle: grooves, engraving, slots as wide as the cutter."""

from __future__ import annotations

import math

from venzo.core.cuts.track import Track, ramp_down, run
from venzo.core.geometry.contour import Array, Contour


def follow_moves(
    lines: list[Contour], levels: tuple[float, ...], entry: str, ramp: float, track: Track
) -> Array:
    """Every line at every level; open ones to and fro, so that the cutter stays in the work between
    passes.
    """
    for line in lines:
        path, before = line, 0.0
        track.over(*path.at(0.0)[:2])
        track.down(0.0)
        s = 0.0
        for level in levels:
            if entry == "plunge" or path.length < 0.2:
                track.down(level)
            else:
                s = ramp_down(track, path, s, before, level, ramp)
            if path.closed:
                track.follow(run(path, s, s + path.length), level, level, path.length)
            else:
                track.follow(run(path, 0.0, path.length), level, level, path.length)
                path, s = path.reversed(), 0.0
            before = level
    return track.array()


def beside(line: Contour, width: float, diameter: float, step: float) -> list[Contour]:
    """Lines side by side that make a groove ``width`` mm wide with a narrower cutter; ``step`` mm between
    them at most.

    Raises:
        ValueError: the line is closed or bends too sharply for lines beside it.
    """
    import numpy as np
    from shapely.geometry import LineString

    from venzo.core.geometry.fit import fit

    room = (width - diameter) / 2
    if room <= 1e-6:
        return [line]
    n = max(2, math.ceil(2 * room / step) + 1)
    # a hair of a bend would part what is laid beside it in two
    middle = LineString(line.points(0.002)).simplify(0.001)
    out = []
    for k in range(n):
        off = -room + 2 * room * k / (n - 1)
        moved = (
            middle.parallel_offset(abs(off), "left" if off > 0 else "right") if abs(off) > 1e-9 else middle
        )
        if moved.geom_type != "LineString" or moved.is_empty:
            raise ValueError("the line bends too sharply for its width")
        pts = np.array(moved.coords)
        if math.dist(pts[0], middle.coords[0]) > math.dist(pts[-1], middle.coords[0]):
            pts = pts[::-1]
        out.append(fit(pts, False) if k % 2 == 0 else fit(pts[::-1], False))
    return out
