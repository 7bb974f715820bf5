"""Which sheets, where their kinds differ in cost? Cheaper mixes than the best layout's are tried whole.

Moving pieces one by one never leaves a remnant that makes the whole dearer: it would have to be emptied onto
sheets that are full. So every number of sheets of each kind that costs less than the best layout, and has
room for the pieces by area, is a mix to be tried: filled, then what waits is pressed in between what lies
there. The roomiest first; one that works makes all dearer ones superfluous, one that does not gets another
try with more steps when all others had theirs.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

from venzo.core.nesting.bound import room, taken
from venzo.core.nesting.fill import Fill
from venzo.core.nesting.forms import Forms
from venzo.core.nesting.improve import Improve
from venzo.core.nesting.problem import NestProblem, Placement, SheetKind
from venzo.core.nesting.worth import Worth

MOST = 20_000
"""Mixes that are listed."""
THINNEST = 4.0
"""Times the sheets that the pieces need by area: no more of one kind are listed, however cheap."""
STEPS = 24
"""Steps that a mix gets the first time; each further time twice as many."""
ROUNDS = 6
PER_PRICE = 2
"""Mixes of one price that are tried: the roomiest."""


@dataclass(frozen=True)
class Mix:
    """Sheets of each kind, what they cost, and the share of their room that the pieces need."""

    counts: tuple[int, ...]
    cost: float
    share: float


class Mixes:
    """Tries cheaper mixes step by step; ``layout`` is one found in the last step, or None.

    Args:
        forms: of the same problem, whose tables all tries share.
    """

    def __init__(self, problem: NestProblem, worth: Worth, seed: int, forms: Forms):
        self.problem, self.worth, self.seed, self.forms = problem, worth, seed, forms
        self.layout: list[Placement] | None = None
        self.need = sum(
            p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts if not p.fill
        )
        self._rooms = [room(s, problem.spacing) for s in problem.sheets]
        self._round, self._waiting = 0, list[Mix]()
        self._now: tuple[Mix, Improve] | None = None
        self._left = 0
        self._tried = 0
        prices = {round(s.price / max(1e-9, r), 9) for s, r in zip(problem.sheets, self._rooms, strict=True)}
        several = len([s for s in problem.sheets if s.quantity]) > 1 and len(prices) > 1
        # a group is never parted to be cheaper
        grouped = any(p.group for p in problem.parts)
        self.able = several and not problem.locked and not problem.repeat and not grouped

    def step(self, stop: Callable[[], bool], best: float) -> bool:
        """One step towards a layout cheaper than ``best``; False when no mix is worth a try any more."""
        self.layout = None
        if not self.able:
            return False
        if self._now is not None and self._now[0].cost >= best - 1e-6:
            self._now = None
        if self._now is None and not self._begin(stop, best):
            return self.able
        if self._now is None:
            return True
        _mix, improve = self._now
        improve.step(stop, None)
        self._left -= 1
        if not improve.urgent():
            self.layout, self._now = improve.placements(), None
        elif self._left <= 0 or not improve.able:
            self._now = None
        return True

    def _begin(self, stop: Callable[[], bool], best: float) -> bool:
        """Take up the next mix; False where there is none now, or it worked at once."""
        self._waiting = [m for m in self._waiting if m.cost < best - 1e-6]
        if not self._waiting:
            self._round += 1
            self._waiting = (
                cheaper(self.problem, self._rooms, self.need, best) if self._round <= ROUNDS else []
            )
            if not self._waiting:
                self.able = False
                return False
        mix = self._waiting.pop(0)
        sheets = [
            s.model_copy(update={"quantity": n}) for s, n in zip(self.problem.sheets, mix.counts, strict=True)
        ]
        restricted = self.problem.model_copy(update={"sheets": sheets})
        self._tried += 1
        draft = Fill(restricted, self.seed + self._tried).next(stop)
        if draft is None or draft.late:
            return False
        if not self._missing(draft.placements):
            self.layout = draft.placements
            return False
        improve = Improve(restricted, self.worth, draft.placements, self.seed + self._tried, self.forms)
        self._now, self._left = (mix, improve), STEPS * 2 ** (self._round - 1)
        return True

    def _missing(self, placements: list[Placement]) -> bool:
        return any(not self.worth.parts[p].fill for p in self.worth.failed(placements))


def cheaper(problem: NestProblem, rooms: Sequence[float], need: float, best: float) -> list[Mix]:
    """Mixes that cost less than ``best`` and have room for ``need`` mm2, of each price the roomiest, the
    loosest first.

    Args:
        rooms: mm2 of room on a sheet of each kind (``bound.room``).
    """
    by_price: dict[float, list[Mix]] = {}
    for counts in _counts(problem.sheets, rooms, need, best):
        space = sum(r * n for r, n in zip(rooms, counts, strict=True))
        if space <= 0 or need > space * (1 + 1e-9):
            continue
        cost = sum(s.price * n for s, n in zip(problem.sheets, counts, strict=True))
        by_price.setdefault(round(cost, 6), []).append(Mix(counts, cost, need / space))
    kept = [m for same in by_price.values() for m in sorted(same, key=lambda m: m.share)[:PER_PRICE]]
    return sorted(kept, key=lambda m: (round(m.share, 3), m.cost, m.counts))


def _counts(
    kinds: Sequence[SheetKind], rooms: Sequence[float], need: float, most: float
) -> Iterator[tuple[int, ...]]:
    """Numbers of sheets of each kind that together cost less than ``most`` and have ``need`` mm2 of room; at
    most ``MOST`` of them.
    """
    # the most room that money can buy with the kinds from one on
    worth = [
        max((r / s.price if s.price > 0 else math.inf) for s, r in zip(kinds[k:], rooms[k:], strict=True))
        for k in range(len(kinds))
    ]

    def rest(k: int, left: float, wanted: float) -> Iterator[tuple[int, ...]]:
        if k == len(kinds):
            yield ()
            return
        if wanted > 0 and left * worth[k] < wanted * (1 - 1e-9):
            return
        price, room_ = kinds[k].price, rooms[k]
        n_most = min(kinds[k].quantity, math.ceil(THINNEST * need / room_) + 1) if room_ > 0 else 0
        if price > 0:
            n_most = min(n_most, int(left / price + 1e-9))
        for n in range(n_most, -1, -1):
            for others in rest(k + 1, left - n * price, wanted - n * room_):
                yield (n, *others)

    yield from islice(rest(0, most - 1e-6, need), MOST)
