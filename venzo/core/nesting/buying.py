"""What does one more part cost, and which sheets are cheapest for an order? Whole nests, compared.

A layout for one piece more, less that piece, is a layout: so cost and sheets never fall as the quantity
rises, whatever the searches find. Between two quantities that cost the same nothing is searched; a quantity
is searched only where its area leaves room for a cheaper mix of sheets than it has.

>>> sheet = {"id": "s", "width": 100, "height": 100, "quantity": 3, "cost": 8}
>>> square = {"id": "p", "outline": [[0, 0], [40, 0], [40, 40], [0, 40]], "quantity": 1}
>>> problem = NestProblem.model_validate({"sheets": [sheet], "parts": [square]})
>>> [(o.quantity, o.sheets, o.cost) for o in order_curve(problem, "p", range(3, 7), by_steps(3))]
[(3, 1, 8.0), (4, 1, 8.0), (5, 2, 16.0), (6, 2, 16.0)]
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from venzo.core.nesting.bound import room, taken
from venzo.core.nesting.problem import MOST_PIECES, NestProblem, Placement
from venzo.core.nesting.worth import Key, Worth
from venzo.core.snags import BadInput
from venzo.core.voice import counted

if TYPE_CHECKING:
    from venzo.core.nesting.engine import Search

Run = Callable[["Search", int], None]
"""Takes a search as far as it may go; the number tells about how many more searches may follow it."""
MOST_QUANTITIES = 200
MOST_CHOICES = 100_000
"""Mixes of sheets looked at for a bound: kinds whose prices go by area all seem worth a look."""
SLACK = 1e-6
"""Share of a price by which two costs are the same."""


@dataclass(frozen=True)
class Ordered:
    """One quantity: the sheets it takes, what they cost, and a layout; ``unplaced``: pieces without a
    place, and ``why`` the first of them has none.
    """

    quantity: int
    sheets: int
    cost: float
    unplaced: int
    placements: tuple[Placement, ...]
    why: str = ""


def by_steps(steps: int) -> Run:
    """Every search gets so many steps: the same results on any machine."""

    def run(search: Search, _more: int) -> None:
        while search.steps < steps and search.step(progress=search.steps / steps):
            pass

    return run


def order_curve(problem: NestProblem, part: str, quantities: range, run: Run, seed: int = 0) -> list[Ordered]:
    """What each quantity of a part takes, the other parts as they are; rising.

    Args:
        problem: checked by ``NestProblem.check``.
        part: id of the part whose quantity changes.
        quantities: one after another, at most ``MOST_QUANTITIES``.
        run: takes each search as far as it may go.

    Raises:
        BadInput: no such part, no quantity, too many of them, or pieces locked beyond the least quantity.
    """
    _check(problem, part, quantities)
    return _Curve(problem, part, run, seed).over(quantities)


@dataclass
class _Curve:
    """The layouts found so far, by quantity."""

    problem: NestProblem
    part: str
    run: Run
    seed: int
    found: dict[int, tuple[Key, list[Placement]]] = field(default_factory=dict)
    worths: dict[int, Worth] = field(default_factory=dict)
    why: dict[int, str] = field(default_factory=dict)
    """Why pieces have no place, of the quantities searched."""
    searches: int = 0

    def over(self, quantities: range) -> list[Ordered]:
        """All quantities: the ends first, then halves of what lies between two that cost different; at last
        each quantity at which the cost rises once more.
        """
        first, last = quantities[0], quantities[-1]
        # halves between two ends, for a few rises of the cost, and each rise once more
        self._expected = 2 + 3 * max(1, (last - first).bit_length())
        self._nest(last)
        self._nest(first)
        self._between(first, last)
        self._passed_down(first, last)
        for n in range(last, first, -1):
            if self.found[n - 1][0].cost < self.found[n][0].cost:
                self._nest(n)
        self._passed_down(first, last)
        return _rising([self._ordered(n) for n in quantities])

    def _ordered(self, n: int) -> Ordered:
        key, laid = self.found[n]
        worth = self._worth(n)
        left = sum(k for p, k in worth.failed(laid).items() if not worth.parts[p].fill)
        # what was not searched is a larger quantity's layout less some pieces
        why = next((self.why[k] for k in sorted(self.why) if k >= n), "") if left else ""
        return Ordered(n, key.sheets, key.cost, left, tuple(laid), why)

    def _worth(self, n: int) -> Worth:
        if n not in self.worths:
            self.worths[n] = Worth(_with(self.problem, self.part, n))
        return self.worths[n]

    def _nest(self, n: int) -> None:
        """Search a layout for a quantity, unless nothing cheaper has room."""
        worth = self._worth(n)
        best = self.found.get(n)
        if (
            best is not None
            and not best[0].over
            and cost_bound(worth.problem, worth) >= best[0].cost * (1 - SLACK)
        ):
            return
        self.searches += 1
        from venzo.core.nesting.engine import Search

        search = Search(worth.problem, self.seed + self.searches)
        self.run(search, max(0, self._expected - self.searches))
        result = search.best
        if result is not None and result.unplaced:
            self.why[n] = result.unplaced[0].reason
        self._keep(n, result.placements if result is not None else [])

    def _keep(self, n: int, laid: list[Placement]) -> None:
        key = self._worth(n).key(laid)
        if n not in self.found or key < self.found[n][0]:
            self.found[n] = key, laid

    def _between(self, low: int, high: int) -> None:
        one, other = self.found[low][0], self.found[high][0]
        if high - low < 2 or (one.cost >= other.cost * (1 - SLACK) and not other.over):
            return
        middle = (low + high) // 2
        self._keep(middle, self._reduced(high, middle))
        self._nest(middle)
        self._between(low, middle)
        self._between(middle, high)

    def _reduced(self, n: int, quantity: int) -> list[Placement]:
        """The layout for ``n`` pieces less as many as are too many."""
        laid = self.found[n][1]
        for fewer in range(n - 1, quantity - 1, -1):
            laid = _less_one(self._worth(fewer), laid, self.part, fewer)
        return laid

    def _passed_down(self, first: int, last: int) -> None:
        """A layout for one piece more serves for one less."""
        for n in range(last - 1, first - 1, -1):
            self._keep(n, self._reduced(n + 1, n))


def _check(problem: NestProblem, part: str, quantities: range) -> None:
    known = [p.id for p in problem.parts]
    if part not in known:
        raise BadInput(f"part {part!r} is not in the problem; its parts are {', '.join(known[:12])}")
    if not quantities or quantities.start < 1:
        raise BadInput("quantities: give a first one of at least 1 and a last one that is no smaller")
    if len(quantities) > MOST_QUANTITIES:
        raise BadInput(
            f"{len(quantities)} quantities are more than the limit of {MOST_QUANTITIES}; ask for fewer"
        )
    others = sum(p.quantity for p in problem.parts if p.id != part)
    if others + quantities[-1] > MOST_PIECES:
        raise BadInput(
            f"{counted(others + quantities[-1], 'piece')} are more than the limit of {MOST_PIECES}"
        )
    locked = 1 + max((pl.copy_ for pl in problem.locked if pl.part == part), default=-1)
    if locked > quantities.start:
        raise BadInput(f"part {part!r}: piece {locked} is locked, so its least quantity is {locked}")


def _with(problem: NestProblem, part: str, quantity: int) -> NestProblem:
    parts = [p.model_copy(update={"quantity": quantity}) if p.id == part else p for p in problem.parts]
    return problem.model_copy(update={"parts": parts})


def _less_one(worth: Worth, lying: list[Placement], part: str, quantity: int) -> list[Placement]:
    """A layout for ``quantity`` pieces of a part made of one for one more: the piece goes whose going leaves
    the least on its sheet.
    """
    load: Counter[tuple[str, int]] = Counter()
    for pl in lying:
        load[pl.sheet, pl.sheet_copy] += worth.areas[pl.part]  # type: ignore[assignment]
    fixed = {(pl.part, pl.copy_) for pl in worth.problem.locked}
    own = [pl for pl in lying if pl.part == part]
    free = [pl for pl in own if (part, pl.copy_) not in fixed]
    if len(own) > quantity and free:
        gone = min(free, key=lambda pl: (load[pl.sheet, pl.sheet_copy], pl.sheet, pl.sheet_copy, pl.copy_))
        lying = [pl for pl in lying if pl is not gone]
    # the numbers of those that stay go from 0 up; locked ones keep theirs
    numbers = iter(n for n in range(quantity) if (part, n) not in fixed)
    return [
        pl if pl.part != part or (part, pl.copy_) in fixed else pl.model_copy(update={"copy_": next(numbers)})
        for pl in lying
    ]


def _rising(curve: list[Ordered]) -> list[Ordered]:
    """Sheets and cost as the contract tells them, never falling: where pieces have no place, or one large
    sheet is dearer than the two small ones before it, fewer may be in use than for a smaller quantity.
    """
    out: list[Ordered] = []
    for o in curve:
        sheets = max([o.sheets, *(p.sheets for p in out[-1:])])
        cost = max([o.cost, *(p.cost for p in out[-1:])])
        out.append(replace(o, sheets=sheets, cost=cost))
    return out


def cost_bound(problem: NestProblem, worth: Worth) -> float:
    """No layout of all pieces (fill pieces left out) costs less: the cheapest sheets that have room enough by
    area, in whole numbers; infinite where all on hand have not. Where the choices are too many, parts of
    sheets count.
    """
    need = sum(p.quantity * taken(worth.areas[p.id], problem.spacing) for p in problem.parts if not p.fill)
    kinds = [
        (s.price, r, s.quantity) for s in problem.sheets if s.quantity and (r := room(s, problem.spacing)) > 0
    ]
    kinds.sort(key=lambda k: (k[0] / k[1], k[0]))
    best, nodes = math.inf, 0

    def cover(k: int, left: float, spent: float) -> None:
        nonlocal best, nodes
        nodes += 1
        if nodes > MOST_CHOICES:
            return
        if left <= 1e-6:
            best = min(best, spent)
            return
        if k == len(kinds) or spent + left * kinds[k][0] / kinds[k][1] >= best - 1e-9:
            return
        price, space, most = kinds[k]
        for n in range(min(most, math.ceil(left / space - 1e-9)), -1, -1):
            cover(k + 1, left - n * space, spent + n * price)

    cover(0, need, 0.0)
    if nodes > MOST_CHOICES:
        return min(best, need * kinds[0][0] / kinds[0][1])
    return best


@dataclass(frozen=True)
class Purchase:
    """Sheets of each kind to buy, what they cost, what no choice can beat, and a layout."""

    counts: dict[str, int]
    cost: float
    bound: float
    unplaced: int
    placements: tuple[Placement, ...]


def as_many_as_wanted(problem: NestProblem, without_limit: Iterable[str]) -> NestProblem:
    """The problem with as many sheets of some kinds as the pieces could ever take."""
    most, kinds = max(1, sum(p.quantity for p in problem.parts)), set(without_limit)
    sheets = [s.model_copy(update={"quantity": most}) if s.id in kinds else s for s in problem.sheets]
    return problem.model_copy(update={"sheets": sheets})


def cheapest(problem: NestProblem, run: Run, seed: int = 0) -> Purchase:
    """The cheapest sheets for an order, as far as the search gets.

    Args:
        problem: with a price on every kind of sheet; quantities are what can be had.
    """
    from venzo.core.nesting.engine import Search

    search = Search(problem, seed)
    run(search, 0)
    found = search.best
    laid = found.placements if found is not None else []
    worth = search.worth
    counts = Counter(sheet for sheet, _copy in sorted({(pl.sheet, pl.sheet_copy) for pl in laid}))
    left = sum(n for p, n in worth.failed(laid).items() if not worth.parts[p].fill)
    bound = cost_bound(problem, worth)
    return Purchase(dict(counts), worth.key(laid).cost, bound, left, tuple(laid))
