"""Where do tabs go on a contour? On straight runs, clear of corners, spread evenly."""

from __future__ import annotations

import math

import numpy as np

from venzo.core.geometry.contour import Contour

FLAT_RADIUS = 25.0
"""An arc of at least this radius (mm) takes a tab where straight runs are short of room (common practice: not on fine detail)."""


def tab_count(contour: Contour, asked: int, every: float, footprint: float) -> int:
    """Tabs for this outline: as asked, more on a long one (one per ``every`` mm), fewer where they would crowd.

    A small part keeps at least two, unless none are asked for.
    """
    if asked == 0:
        return 0
    wanted = max(asked, math.ceil(contour.length / every))
    room = int(contour.length // (3 * footprint))
    return max(min(wanted, room), min(asked, 2))


def _intervals(contour: Contour, clear: float, tightest: float, straight_only: bool) -> list[tuple[float, float]]:
    """Stretches (start, end along the contour) where a tab's middle may lie ``clear`` mm from each end of its segment."""
    out = []
    for s, begin in zip(contour.segments(), contour.starts[:-1], strict=True):
        if s.bulge:
            radius = s.length / abs(4 * math.atan(s.bulge))
            if straight_only or radius < tightest:
                continue
        if s.length > 2 * clear:
            out.append((float(begin) + clear, float(begin) + s.length - clear))
    if len(contour.vertices) == 2 and not straight_only and contour.vertices[0, 2] and len(out) == 2:
        return [(0.0, contour.length)]  # a full circle has no corners
    return out


def place_tabs(contour: Contour, count: int, width: float, diameter: float) -> list[float]:
    """Distances along a closed contour for ``count`` tabs, spread as evenly as straight runs allow.

    Args:
        contour: the part's own contour.
        count: how many are wanted; fewer come back where there is no room.
        width: of the tab along the cut, mm.
        diameter: of the cutter, mm: the cutter lifts over ``width + diameter``.

    A tab's middle stays half that lift plus 2 mm away from each end of its run. Straight runs are used first, then arcs
    of at least FLAT_RADIUS, then any arc.
    """
    if count <= 0:
        return []
    lift = width + diameter
    clear = lift / 2 + 2.0
    for tightest, straight_only in ((0, True), (FLAT_RADIUS, False), (width, False)):
        runs = _intervals(contour, clear, tightest, straight_only)
        room = sum(int((b - a) // (2 * lift)) + 1 for a, b in runs)
        if room >= count:
            break
    else:
        runs = runs or _intervals(contour, width / 2, width / 2, False)
        count = min(count, sum(int((b - a) // (2 * lift)) + 1 for a, b in runs))
    if not runs or count == 0:
        return []
    lo, hi = np.array(runs).T
    total = contour.length
    best: tuple[float, list[float]] | None = None
    for phase in np.arange(24) / 24 * total / count:
        chosen: list[float] = []
        cost = 0.0
        for k in range(count):
            target = (phase + k * total / count) % total
            spots = np.clip(target, lo, hi)
            for c in chosen:  # step aside from tabs already there
                gap = (spots - c + total / 2) % total - total / 2
                aside = np.where(gap >= 0, c + 2 * lift, c - 2 * lift)
                spots = np.where(np.abs(gap) < 2 * lift - 1e-9, aside, spots)
            fine = (spots >= lo - 1e-9) & (spots <= hi + 1e-9)
            for c in chosen:
                gap = np.abs((spots - c + total / 2) % total - total / 2)
                fine &= gap >= 2 * lift - 1e-6
            if not fine.any():
                cost += total**2
                continue
            off = np.abs((spots - target + total / 2) % total - total / 2)
            off[~fine] = np.inf
            j = int(np.argmin(off))
            chosen.append(float(spots[j] % total))
            cost += float(off[j]) ** 2
        if best is None or cost < best[0] - 1e-9:
            best = (cost, sorted(chosen))
    return best[1] if best else []
