"""One layout for several sheets: fewer programs to prove, fewer labels to mix up.

A sheet's share of every part (quantity over k, rounded down) is nested on one sheet; where it fits, it is
repeated k times and what is left over goes on further sheets. The whole is kept only when it costs no sheet
more than the best layout without repetition.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from venzo.core.nesting.fill import Fill
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.worth import Worth

STEPS = 25
"""Steps of the inner search for each number of repetitions."""
MOST = 12
"""Numbers of repetitions tried, from the fewest sheets up."""


class Repeat:
    """Tries repeated layouts step by step; ``layout`` is one found in the last step, or None."""

    def __init__(self, problem: NestProblem, worth: Worth, seed: int):
        self.problem, self.worth, self.seed = problem, worth, seed
        kind = min(problem.sheets, key=lambda s: (s.price / (s.width * s.height), s.price))
        self.kind = next(
            (
                s
                for s in sorted(problem.sheets, key=lambda s: s.price / (s.width * s.height))
                if s.quantity > 1
            ),
            kind,
        )
        most = max((p.quantity for p in problem.parts), default=0)
        area = sum(worth.areas[p.id] * p.quantity for p in problem.parts)
        least = max(2, int(area / (self.kind.width * self.kind.height)))
        self._counts = (
            [k for k in range(least, least + MOST) if k <= min(self.kind.quantity, most)]
            if not problem.locked
            else []
        )
        self._search: Any = None
        self.layout: list[Placement] | None = None

    def step(self, stop: Callable[[], bool], search: Callable[[NestProblem, int], Any]) -> bool:
        """One step; False when no further repetition is worth trying."""
        self.layout = None
        if not self._counts:
            return False
        k = self._counts[0]
        if self._search is None:
            parts = [
                p.model_copy(update={"quantity": p.quantity // k})
                for p in self.problem.parts
                if p.quantity // k
            ]
            if not parts:
                return False
            self._search = search(
                self.problem.model_copy(
                    update={
                        "sheets": [self.kind.model_copy(update={"quantity": 1})],
                        "parts": parts,
                        "repeat": False,
                        "steps": None,
                    }
                ),
                self.seed,
            )
        going = self._search.step(stop)
        fits = self._search.key is not None and not self._search.key[0] and not self._search.key[3]
        if fits:
            best = self._search.best
            if best is not None and not best.unplaced:
                self.layout = self._repeated(best.placements, k, stop)
                return False
        if not going or self._search.steps >= STEPS:
            self._search = None
            self._counts.pop(0)
        return bool(self._counts)

    def _repeated(self, one: list[Placement], k: int, stop: Callable[[], bool]) -> list[Placement] | None:
        share = {p.id: p.quantity // k for p in self.problem.parts}
        whole = [
            pl.model_copy(update={"sheet_copy": n, "copy_": n * share[pl.part] + pl.copy_})
            for n in range(k)
            for pl in one
        ]
        rest = self.problem.model_copy(update={"locked": whole})
        draft = Fill(rest, self.seed).next(stop)
        return draft.placements if draft is not None else None
