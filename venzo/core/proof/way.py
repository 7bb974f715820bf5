"""Where the cutter is at a moment of a sheet's tape, how it moves there, and its way before and after."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from shapely import LineString

from venzo.core.body.moments import part_of
from venzo.core.cuts.moves import FEED, KIND, RAPID, X, Y, Z, polyline, row
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import pace
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.plan import Setup

Motion = Literal["fast", "down", "slope", "level", "stands"]
"""Fast; at feed straight down, along a slope (ramps, helices, carving) or level; standing still."""
AROUND = 15.0
"""s before and after the moment whose way is shown."""
LEVEL = 0.003
"""mm; a move that rises or falls less is level."""
CHORD = 0.05


@dataclass(frozen=True, eq=False)
class Leg:
    """Moves of one kind that follow one another: points (n, 2) on the sheet, and whether they are done."""

    motion: Motion
    points: Array
    done: bool


@dataclass(frozen=True, eq=False)
class Moment:
    """The tip at a moment: where (mm, Z 0 at the top), how it moves, how fast it gets in the move under way
    and how fast it was to go (mm/min), with which cutter in which cut (index), and the way about it.
    """

    at: tuple[float, float, float]
    motion: Motion
    reached: float
    wanted: float
    cutter: str
    cut: int
    legs: tuple[Leg, ...]


def moment_of(setup: Setup, sheet: SheetPlan, seconds: float) -> Moment | None:
    """Where the cutter is at a moment; None: nothing is cut on the sheet."""
    if not sheet.cuts:
        return None
    begins = [c.begins for c in sheet.cuts]
    k = max(0, bisect_right(begins, seconds) - 1)
    cut = sheet.cuts[k]
    p = pace(cut.moves, setup.machine.axes)
    done = cut.begins + np.cumsum(p.seconds)
    if seconds >= done[-1] and k + 1 < len(sheet.cuts):
        return _between(setup, sheet, k, seconds)
    i = int(np.clip(np.searchsorted(done, seconds, side="right"), 1, len(done) - 1))
    before = float(done[i - 1])
    took = float(done[i]) - before
    share = min(1.0, max(0.0, (seconds - before) / took)) if took > 0 else 1.0
    here = part_of(cut.moves[i - 1], cut.moves[i], share)
    legs = [_travel(sheet, k, True), *_legs(cut, done, seconds, here, i)]
    if k + 1 < len(sheet.cuts):
        legs.append(_travel(sheet, k + 1, False))
    return Moment(
        (float(here[X]), float(here[Y]), float(here[Z])),
        _motion(cut.moves[i - 1], cut.moves[i]),
        float(p.reached[i]) * 60,
        float(p.wanted[i]) * 60,
        cut.cut.cutter,
        k,
        tuple(leg for leg in legs if len(leg.points) > 1),
    )


def _between(setup: Setup, sheet: SheetPlan, k: int, seconds: float) -> Moment:
    """On the way to the next cut, or waiting for its cutter: by share of the time between."""
    a, b = sheet.cuts[k], sheet.cuts[k + 1]
    left = a.begins + a.seconds
    share = min(1.0, max(0.0, (seconds - left) / max(b.begins - left, 1e-9)))
    way = LineString(_way_to(sheet, k + 1))
    x, y = shapely.line_interpolate_point(way, share, normalized=True).coords[0]
    rapid = setup.machine.rapid
    legs = (_travel(sheet, k + 1, True),)
    return Moment(
        (float(x), float(y), setup.machine.clearance), "fast", rapid, rapid, b.cut.cutter, k + 1, legs
    )


def _travel(sheet: SheetPlan, k: int, done: bool) -> Leg:
    """The fast way to a cut from the one before."""
    return Leg("fast", _way_to(sheet, k), done)


def _way_to(sheet: SheetPlan, k: int) -> Array:
    """Corners (n, 2) of the fast way to a cut: from where the one before ended, over home where a program
    ends between them.
    """
    to = sheet.cuts[k]
    corners = [np.array(to.comes_from), to.moves[0, [X, Y]]]
    if k and np.abs(sheet.cuts[k - 1].moves[-1, [X, Y]] - corners[0]).max() > LEVEL:
        corners.insert(0, sheet.cuts[k - 1].moves[-1, [X, Y]])
    return np.stack(corners)


def _motion(a: Array, b: Array) -> Motion:
    if b[FEED] < 0:
        return "stands"
    if b[KIND] == RAPID:
        return "fast"
    if abs(b[Z] - a[Z]) < LEVEL:
        return "level"
    return "down" if np.hypot(b[X] - a[X], b[Y] - a[Y]) < LEVEL else "slope"


def _legs(cut: PlacedCut, done: Array, seconds: float, here: Array, i: int) -> Iterator[Leg]:
    """The cut's moves about the moment, by kind of motion, parted where the cutter is."""
    first = max(1, int(np.searchsorted(done, seconds - AROUND)))
    last = min(len(cut.moves) - 1, int(np.searchsorted(done, seconds + AROUND)) + 1)
    run: list[Array] = []
    kind: Motion | None = None
    was = True
    steps: list[tuple[Array, Array, bool]] = []
    for j in range(first, last + 1):
        if j == i:
            rest = cut.moves[j].copy()
            steps += [(cut.moves[j - 1], here, True), (_start(here), rest, False)]
        else:
            steps.append((cut.moves[j - 1], cut.moves[j], j < i))
    for a, b, past in steps:
        motion = _motion(a, b)
        if motion == "stands":
            continue
        if motion != kind or past != was:
            if kind is not None and run:
                yield Leg(kind, np.vstack(run), was)
            kind, was, run = motion, past, [a[None, [X, Y]]]
        run.append(polyline(np.vstack([_start(a), b]), CHORD)[1:, :2])
    if kind is not None and run:
        yield Leg(kind, np.vstack(run), was)


def _start(at: Array) -> Array:
    """A row that only says where moves begin."""
    return np.array(row(RAPID, at[X], at[Y], at[Z]))
