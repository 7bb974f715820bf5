"""Do dowels let turned stock lie only as it is meant to? The stock may be laid as it is or turned over, and
slid and turned freely; a wrong way in which every dowel finds a hole is a wrong fit.

A dowel finds a hole where the hole's middle is no further from its own than the hole is larger. How far a
wrong way is from fitting is its *error*: the largest distance over all dowels, less the play of its hole,
after the best slide and turn. One set of dowels for both faces fits only as meant where its own symmetries
are none and the stated turn; a set of its own for the second face where it has none.

>>> from venzo.core.faces.registration import Dowel, Dowels
>>> from venzo.core.faces.turn import Turn
>>> turn = Turn("x", 600, 400)
>>> alike = Dowels(dowels=(Dowel(id="a", x=40, y=200, diameter=8), Dowel(id="b", x=560, y=200, diameter=8)))
>>> judge_dowels(alike, turn).says
'it goes on half turned as well, turned over or not'
>>> other = Dowels(dowels=(Dowel(id="a", x=40, y=200, diameter=8), Dowel(id="b", x=560, y=200, diameter=10)))
>>> found = judge_dowels(other, turn)
>>> found.fits_only_as_meant, round(found.nearest.error, 3)
(True, 0.975)
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations
from typing import NamedTuple

import numpy as np

from venzo.core.faces.registration import Dowel, Dowels
from venzo.core.faces.turn import Turn
from venzo.core.geometry.contour import Array
from venzo.core.voice import counted

SAME = 0.01
"""mm; places that differ by less are one."""
LEAST_ERROR = 0.5
"""mm; a wrong way nearer than this goes on with a mallet."""
MOST_ASKED = 200
"""Assignments either way up that are fitted, those first that may be nearest."""
ANGLES = 720
"""Turns that are looked at before the best are refined."""


class Round(NamedTuple):
    """A hole or a dowel: its middle and diameter, mm."""

    x: float
    y: float
    diameter: float


@dataclass(frozen=True)
class WrongFit:
    """A way in which the stock is not meant to lie. ``turned``: over; ``degrees``: from the meant way if it
    is turned over, else from how it lay before, counter-clockwise; ``error``: mm by which it does not fit, at
    most 0 where it does.
    """

    turned: bool
    degrees: float
    error: float

    @property
    def says(self) -> str:
        """The way in words."""
        angle = (self.degrees + 180.0) % 360.0 - 180.0
        over = "turned over" if self.turned else "not turned over"
        if abs(angle) < 0.5:
            return "turned over and shifted" if self.turned else "not turned over at all"
        return f"{over} and half turned" if abs(abs(angle) - 180) < 0.5 else f"{over} and turned {angle:.1f}°"


@dataclass(frozen=True)
class DowelsJudged:
    """What is said of a registration by dowels. ``wrong``: why they do not serve at all; ``nearest``: the
    wrong way that is nearest to fitting; ``fitting``: all that go on.
    """

    wrong: str = ""
    nearest: WrongFit | None = None
    fitting: tuple[WrongFit, ...] = ()

    @property
    def fits_only_as_meant(self) -> bool:
        """Is there no other way to lay the stock on them?"""
        return not self.wrong and not self.fitting

    @property
    def says(self) -> str:
        """The verdict in words."""
        if self.wrong:
            return self.wrong
        if not self.fitting:
            return "it goes on only as it is meant"
        if {f.turned for f in self.fitting} == {True, False} and all("half" in f.says for f in self.fitting):
            return "it goes on half turned as well, turned over or not"
        forced = "" if self.fitting[0].error <= SAME else f", forced by {self.fitting[0].error:.2f} mm"
        return f"it goes on {self.fitting[0].says} as well{forced}"


def judge_dowels(registration: Dowels, turn: Turn) -> DowelsJudged:
    """Judge dowels in stock that is turned: do they hold it, and only as it is meant to lie?"""
    dowels = registration.dowels
    wrong = _not_serving(dowels, turn, registration.sets == "one")
    if wrong:
        return DowelsJudged(wrong)
    holes = [Round(d.x, d.y, d.hole) for d in dowels]
    if registration.sets == "one":
        pins = [Round(d.x, d.y, d.diameter) for d in dowels]
        meant = {False: tuple(range(len(dowels))), True: _images(dowels, turn)}
    else:
        pins = [Round(*turn.point(d.at), d.diameter) for d in dowels]
        meant = {True: tuple(range(len(dowels)))}
    found = wrong_fits(holes, pins, turn, meant)
    fitting = tuple(f for f in found if f.error < LEAST_ERROR)
    return DowelsJudged("", found[0] if found else None, fitting)


def _not_serving(dowels: Sequence[Dowel], turn: Turn, both: bool) -> str:
    """Why dowels hold no stock; empty: they do."""
    if len(dowels) < 2:
        return f"{counted(len(dowels), 'dowel')}: the stock can still be turned about; place two or more"
    for k, a in enumerate(dowels):
        for b in dowels[:k]:
            if math.dist(a.at, b.at) < (a.hole + b.hole) / 2 + 1.0:
                return f"the holes of dowels {b.id} and {a.id} run into each other"
    if not both:
        return ""
    lost = [d for d, i in zip(dowels, _images(dowels, turn), strict=True) if i < 0]
    if lost:
        x, y = turn.point(lost[0].at)
        return (
            f"turned over, dowel {lost[0].id} meets no hole of its diameter: one is needed at {x:.2f},"
            f" {y:.2f} mm too"
        )
    return ""


def _images(dowels: Sequence[Dowel], turn: Turn) -> tuple[int, ...]:
    """For every dowel the hole that comes to it when the stock is turned; -1: none of its diameter."""
    out = []
    for d in dowels:
        x, y = turn.point(d.at)
        hits = (
            k
            for k, e in enumerate(dowels)
            if math.dist(e.at, (x, y)) < SAME and abs(e.diameter - d.diameter) < SAME
        )
        out.append(next(hits, -1))
    return tuple(out)


def wrong_fits(
    holes: Sequence[Round], pins: Sequence[Round], turn: Turn, meant: dict[bool, tuple[int, ...]]
) -> list[WrongFit]:
    """The ways other than the ``meant`` in which dowels may find holes, the nearest to fitting first.

    ``meant``: by whether the stock is turned over, the hole of every dowel; a way that is not there at all is
    always wrong. All that fit are found, and of the others the nearest.
    """
    out: list[WrongFit] = []
    every = np.array(list(permutations(range(len(pins)))))
    cases = {}
    asked: list[tuple[float, bool, tuple[int, ...]]] = []
    for over in (False, True):
        as_it_lies = np.array([turn.point((h.x, h.y)) if over else (h.x, h.y) for h in holes])
        at, size = np.array([(p.x, p.y) for p in pins]), np.array([p.diameter for p in pins])
        cases[over] = _Case(as_it_lies, np.array([h.diameter for h in holes]), at, size)
        least = cases[over].least_errors(every)
        for k in np.argsort(least)[:MOST_ASKED].tolist():
            asked.append((float(least[k]), over, tuple(every[k].tolist())))
    nearest = math.inf
    for least_error, over, pairs in sorted(asked):
        if least_error >= max(nearest, LEAST_ERROR):
            break
        if pairs == meant.get(over):
            continue
        error, angle = cases[over].best_fit(pairs)
        nearest = min(nearest, error)
        out.append(WrongFit(over, math.degrees(angle), error))
    return sorted(out, key=lambda f: f.error)


class _Case:
    """Holes of stock laid one way, to be put on as many pins."""

    def __init__(self, holes: Array, wide: Array, pins: Array, size: Array):
        self.holes, self.pins = holes, pins
        self.play = (wide[None, :] - size[:, None]) / 2  # of pin j in hole i, below 0: it does not go in

    def least_errors(self, every: Array) -> Array:
        """For every assignment (n, pins) of a hole to each pin an error that no slide and turn falls below:
        the largest distance is no less than the root of the mean square of all, which has its least in closed
        form (Kabsch 1976, in the plane), and no dowel goes into a smaller hole.
        """
        a = self.holes[:, 0] + 1j * self.holes[:, 1]
        b = self.pins[:, 0] + 1j * self.pins[:, 1]
        a, b = a - a.mean(), b - b.mean()
        n = len(b)
        across = np.abs((np.conj(a)[every] * b).sum(axis=1))
        square = np.maximum((np.abs(a) ** 2).sum() + (np.abs(b) ** 2).sum() - 2 * across, 0.0) / n
        play = self.play[np.arange(n), every]
        return np.maximum(np.sqrt(square) - play.max(axis=1), -play.min(axis=1))

    def best_fit(self, pairs: tuple[int, ...]) -> tuple[float, float]:
        """The error of an assignment after the best slide and turn, mm, and that turn, radians."""
        from scipy.optimize import minimize  # slow to import: only where it is asked

        h, p = self.holes[list(pairs)], self.pins
        play = self.play[np.arange(len(p)), list(pairs)]
        angles = np.linspace(-math.pi, math.pi, ANGLES, endpoint=False)
        off = p[None] - _spun(h, angles)
        slide = (off.max(axis=1) + off.min(axis=1)) / 2
        errors = (np.hypot(*(off - slide[:, None]).transpose(2, 0, 1)) - play).max(axis=1)
        middle = h.mean(axis=0)
        reach = max(1.0, float(np.hypot(*(h - middle).T).max()))

        def error(way: Array) -> float:
            # a slide beside a turn about the middle, both in mm at the furthest hole
            left = p - _spun(h - middle, way[:1] / reach)[0] - way[1:]
            return float((np.hypot(left[:, 0], left[:, 1]) - play).max())

        starts = [self._closest(h, p), *(float(angles[k]) for k in _lowest(errors, 2))]
        best = (math.inf, 0.0)
        for angle in starts:
            first = np.array([angle * reach, *p.mean(axis=0)])
            simplex = first + np.vstack([np.zeros(3), np.eye(3)])
            options = {"xatol": 1e-5, "fatol": 1e-6, "maxiter": 600, "initial_simplex": simplex}
            found = minimize(error, first, method="Nelder-Mead", options=options)
            best = min(best, (float(found.fun), float(found.x[0]) / reach))
        return best

    @staticmethod
    def _closest(h: Array, p: Array) -> float:
        """The turn that brings holes nearest to pins by least squares (Kabsch 1976, in the plane)."""
        a, b = h - h.mean(axis=0), p - p.mean(axis=0)
        return math.atan2(float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum()), float((a * b).sum()))


def _lowest(errors: Array, count: int) -> list[int]:
    """Indices of the lowest of a closed row of values that are lower than their neighbours."""
    dips = np.flatnonzero((errors <= np.roll(errors, 1)) & (errors <= np.roll(errors, -1)))
    return dips[np.argsort(errors[dips])][:count].tolist()


def _spun(points: Array, angles: Array) -> Array:
    """Points (n, 2) turned about the origin by each angle: (angles, n, 2)."""
    c, s = np.cos(angles)[:, None], np.sin(angles)[:, None]
    x, y = points[:, 0], points[:, 1]
    return np.stack([c * x - s * y, s * x + c * y], axis=-1)
