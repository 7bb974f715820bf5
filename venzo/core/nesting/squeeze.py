"""How short can what lies on one sheet become? Shrink, separate, disrupt; at the end press together.

Exploration shortens the sheet by a step and lets the pieces part again; where that fails, it goes back to one
of the least overlapping failures, swaps two large pieces and tries again (Gardeyn and Wauters 2025, from
memory). Pressing moves what lies right of a random cut by a hair to the left and mends the overlap.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.nesting import separate as kernel
from venzo.core.nesting.arena import Arena

SHRINK = 0.01
"""Part of the length taken off in one exploring attempt."""
QUIET = 200
"""Rounds without 2 % less overlap after which an attempt is given up."""
PATIENCE = 6
"""Failed attempts after which the step is halved, down to ``LEAST``."""
LEAST = 0.0025
POOL = 20
PRESS = (5e-4, 1e-5)
"""Part of the length taken off by pressing, at its beginning and at its end."""


@dataclass
class Lie:
    """How the pieces lie, and the largest x they reach in the first room; ``where``: the room of each (None:
    all in the first).
    """

    right: float
    pose: np.ndarray
    place: Array
    where: np.ndarray | None = None


class Squeeze:
    """One thread's search for a lie of the pieces in an arena that leaves the first room shorter. ``advance``
    may be called again and again.

    ``length``: mm of sheet that the pieces use in all, of which a step takes off its part.
    """

    def __init__(self, arena: Arena, start: Lie, floor: float, seed: int, length: float | None = None):
        self.arena, self.floor = arena, floor
        self._length = length
        self.stuck = 0
        """Attempts in a row that failed."""
        self.kernel_rng = kernel.random_state(seed)
        self.rng = np.random.default_rng(seed)
        self.best = start
        self._open = False
        self._pool: list[tuple[float, np.ndarray, Array, np.ndarray]] = []
        self._target = 0.0
        self._step, self._fails = SHRINK, 0
        self._pressing = False
        b = arena.forms.boxes
        first = arena.ways[arena.first_way[arena.kind]] if arena.n else np.zeros((0, 2), int)
        size = np.prod(b[first[:, 0], first[:, 1], 2:], axis=1) if arena.n else np.zeros(0)
        self._large = np.argsort(-size, kind="stable")[: max(4, (arena.n + 1) // 2)]

    def share(self, lie: Lie) -> None:
        """Take note of a better lie that another thread has found."""
        if lie.right < self.best.right:
            self.best = lie
            if self._open and not self._pressing and lie.right <= self._target + 1e-9:
                self._open = False
                self._pool = []
                self.arena.load(lie.pose, lie.place, lie.where)

    def advance(self, budget: int, stop: np.ndarray, press: float | None = None) -> None:
        """Search on for about ``budget`` evaluations; ``press``: None explores, 0 .. 1 is how far the
        pressing has come.
        """
        a = self.arena
        if (press is not None) != self._pressing:
            self._open, self._pressing = False, press is not None
            if not self._pressing:
                self._pool = []
                a.load(self.best.pose, self.best.place, self.best.where)
        while budget > 0 and not stop[0] and self.best.right > self.floor + 1e-6:
            if not self._open:
                self._start(press)
            status, spent = a.advance(self.kernel_rng, QUIET, budget, stop)
            budget -= max(spent, 200)
            if status == kernel.SPENT:
                return
            self._open = False
            if status == kernel.FEASIBLE:
                if a.right < self.best.right:
                    self.best = Lie(a.right, a.pose[: a.n].copy(), a.place[: a.n].copy(), a.where.copy())
                self._pool = []
                self._step, self._fails, self.stuck = SHRINK, 0, 0
            elif press is None:
                self._disrupt()
                self._fails += 1
                self.stuck += 1
                if self._fails >= PATIENCE and self._step > LEAST:
                    self._step, self._fails = max(LEAST, self._step / 2), 0
                    self._target = self._shorter()

    def _start(self, press: float | None) -> None:
        a, best = self.arena, self.best
        left = float(a.rooms[0, 0])
        length = best.right - left
        if press is None:
            if not self._pool:
                self._target = self._shorter()
            a.rooms[0, 2] = self._target
        else:
            cut = left + self.rng.uniform() * length
            step = length * (PRESS[0] * (1 - press) + PRESS[1])
            a.load(best.pose, best.place, best.where)
            beyond = (a.where == 0) & ((a.place[: a.n, 2] + a.place[: a.n, 4]) / 2 > cut)
            a.place[: a.n][beyond, 0] -= step
            a.place[: a.n][beyond, 2] -= step
            a.place[: a.n][beyond, 4] -= step
            a.rooms[0, 2] = max(self.floor, best.right - step)
        a.begin()
        self._open = True

    def _shorter(self) -> float:
        """The next target: a step of the whole length off, but never more than a tenth of the first room's
        own.
        """
        own = self.best.right - float(self.arena.rooms[0, 0])
        return max(
            self.floor,
            self.best.right
            - min(
                self._step * (own if self._length is None else self._length), max(0.1 * own, self._step * own)
            ),
        )

    def _disrupt(self) -> None:
        a = self.arena
        self._pool.append(
            (float(a.best[0]), a.kept_pose[: a.n].copy(), a.kept_place[: a.n].copy(), a.kept_where.copy())
        )
        self._pool.sort(key=lambda q: q[0])
        del self._pool[POOL:]
        pick = min(len(self._pool) - 1, int(abs(self.rng.normal()) * 0.25 * len(self._pool)))
        a.load(*self._pool[pick][1:])
        large = self._large
        if len(large) < 2:
            return
        for _ in range(20):
            i, j = (int(v) for v in self.rng.choice(large, 2, replace=False))
            if a.kind[i] != a.kind[j] and (a.where[i] == a.where[j] or (a.home[i] < 0 and a.home[j] < 0)):
                break
        else:
            return
        ci, cj = (a.place[i, 2:4] + a.place[i, 4:6]) / 2, (a.place[j, 2:4] + a.place[j, 4:6]) / 2
        a.where[i], a.where[j] = int(a.where[j]), int(a.where[i])
        for k, c in ((i, cj), (j, ci)):
            form, turn = (int(v) for v in a.pose[k])
            b = a.forms.boxes[form, turn]
            a.put(k, form, turn, *(c - (b[:2] + b[2:]) / 2))
