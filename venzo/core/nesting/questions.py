"""Questions that whole nests answer, as plain data that can be asked anywhere: in this process, in another,
or on another machine. The same question with the same steps has the same answer wherever it is asked.

>>> sheet = {"id": "s", "width": 100, "height": 100, "quantity": 3, "cost": 8}
>>> square = {"id": "p", "outline": [[0, 0], [40, 0], [40, 40], [0, 40]], "quantity": 5}
>>> asked = NestAsked(problem=NestProblem.model_validate({"sheets": [sheet], "parts": [square]}), steps=3)
>>> found = answer(asked)
>>> found.sheets, found.cost, found.counts, found.unplaced
(2, 16.0, {'s': 2}, 0)
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field, TypeAdapter

from venzo.core.model import Value
from venzo.core.nesting.buying import SLACK, Run, as_many_as_wanted, cheapest, cost_bound, order_curve
from venzo.core.nesting.problem import NestProblem, NestResult, Placement
from venzo.core.nesting.worth import Worth

if TYPE_CHECKING:
    from venzo.core.nesting.engine import Search

TELL = 0.5
"""s between two words on how far it is."""
LONGEST = 3600.0


class _Asked(Value):
    """``steps`` and ``seconds`` of search, whichever comes first; by steps alone answers can be repeated."""

    problem: NestProblem
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1
    steps: Annotated[int | None, Field(ge=1)] = None
    seconds: Annotated[float | None, Field(gt=0, le=LONGEST)] = None


class NestAsked(_Asked):
    """What does this take? It ends where nothing cheaper can be: how short the last sheet is used is not
    asked.
    """

    kind: Literal["nest"] = "nest"
    start: tuple[Placement, ...] = ()
    """A layout to go on from."""


class CurveAsked(_Asked):
    """What does each quantity of a part take, from ``first`` to ``last``?"""

    kind: Literal["curve"] = "curve"
    part: str
    first: Annotated[int, Field(ge=1)]
    last: Annotated[int, Field(ge=1)]


class CheapestAsked(_Asked):
    """Which sheets are cheapest? Of the kinds ``endless`` there are as many as wanted."""

    kind: Literal["cheapest"] = "cheapest"
    endless: tuple[str, ...] = ()


Asked = NestAsked | CurveAsked | CheapestAsked
ASKED: TypeAdapter[Asked] = TypeAdapter(Annotated[Asked, Field(discriminator="kind")])
"""Reads a question from its fields."""


class Quantity(Value):
    """One quantity of a curve: sheets and cost, and pieces that have no place."""

    quantity: int
    sheets: int
    cost: float
    unplaced: int


class Answer(Value):
    """What was found: sheets by kind and in all, their cost, pieces without a place and why the first has
    none; of a curve every quantity; ``bound``: no choice of sheets costs less (None: not asked).
    """

    sheets: int
    cost: float
    counts: dict[str, int]
    unplaced: int
    why: str = ""
    used: float = 0.0
    """Share of the sheets that is parts."""
    curve: tuple[Quantity, ...] = ()
    bound: float | None = None
    placements: tuple[Placement, ...] = ()
    steps: int = 0
    seconds: float = 0.0
    cut_short: bool = False
    """Somebody stopped it; it is the best found until then."""


Tell = Callable[[float, Answer | None], None]
"""Hears how far it is, 0 to 1, and the best so far where there is a new one."""


def answer(
    asked: Asked, stop: Callable[[], bool] = lambda: False, tell: Tell = lambda _share, _best: None
) -> Answer:
    """Answer a question.

    Args:
        stop: asked often; once it says so, the best so far is the answer.
        tell: hears how far it is and what was found so far, a few times a second.

    Raises:
        BadInput: the question is impossible, in words.
    """
    began = time.monotonic()
    limit = asked.seconds if asked.seconds is not None else LONGEST
    told = 0.0

    def late() -> bool:
        return stop() or time.monotonic() - began > limit

    def word(share: float, best: Answer | None) -> None:
        nonlocal told
        now = time.monotonic()
        if now - told >= TELL or best is not None:
            told = now
            tell(min(1.0, share), best)

    if isinstance(asked, NestAsked):
        found = _nest(asked, late, word, began, limit)
    elif isinstance(asked, CurveAsked):
        found = _curve(asked, late, word, began, limit)
    else:
        found = _cheapest(asked, late, word, began, limit)
    return found.model_copy(update={"seconds": round(time.monotonic() - began, 2), "cut_short": bool(stop())})


def _share(steps: int, asked: _Asked, began: float, limit: float) -> float:
    by_time = (time.monotonic() - began) / limit
    return max(by_time, steps / asked.steps) if asked.steps else by_time


def _least(search: Search, least: float) -> bool:
    """Has everything a place at the least cost there can be?"""
    return search.key is not None and not search.key.over and search.key.cost <= least * (1 + SLACK)


def _told(worth: Worth, result: NestResult, steps: int) -> Answer:
    """A layout as an answer."""
    laid = result.placements
    counts = Counter(sheet for sheet, _copy in sorted({(p.sheet, p.sheet_copy) for p in laid}))
    left = sum(n for p, n in worth.failed(laid).items() if not worth.parts[p].fill)
    area = {s.id: s.width * s.height for s in worth.problem.sheets}
    bought = sum(area[k] * n for k, n in counts.items())
    return Answer(
        sheets=sum(counts.values()),
        cost=worth.key(laid).cost,
        counts=dict(counts),
        unplaced=left,
        why=result.unplaced[0].reason if left and result.unplaced else "",
        used=sum(worth.areas[p.part] for p in laid) / bought if bought else 0.0,
        placements=tuple(laid),
        steps=steps,
    )


def _nest(asked: NestAsked, late: Callable[[], bool], word: Tell, began: float, limit: float) -> Answer:
    from venzo.core.nesting.engine import Search

    search = Search(asked.problem, asked.seed, asked.start)
    key, least = None, cost_bound(asked.problem, search.worth)
    while (
        not _least(search, least)
        and search.step(late, _share(search.steps, asked, began, limit))
        and not late()
    ):
        best = search.best if search.key != key else None
        key = search.key
        word(
            _share(search.steps, asked, began, limit),
            _told(search.worth, best, search.steps).model_copy(update={"placements": ()}) if best else None,
        )
        if asked.steps and search.steps >= asked.steps:
            break
    result = search.best
    if result is None:
        return Answer(sheets=0, cost=0.0, counts={}, unplaced=sum(p.quantity for p in asked.problem.parts))
    return _told(search.worth, result, search.steps)


def _within(asked: _Asked, late: Callable[[], bool], word: Tell, began: float, limit: float) -> Run:
    """Several searches share the time that is left, each at most its steps."""
    searched = 0

    def run(search: Search, more: int) -> None:
        nonlocal searched
        least = cost_bound(search.problem, search.worth)
        now = time.monotonic()
        until = now + max(0.0, began + limit - now) / (more + 1)
        searched += 1
        while (
            not _least(search, least)
            and search.step(late, _share(search.steps, asked, now, max(1e-3, until - now)))
            and not late()
        ):
            word(searched / (searched + more), None)
            if (asked.steps and search.steps >= asked.steps) or time.monotonic() > until:
                break

    return run


def _curve(asked: CurveAsked, late: Callable[[], bool], word: Tell, began: float, limit: float) -> Answer:
    run = _within(asked, late, word, began, limit)
    found = order_curve(asked.problem, asked.part, range(asked.first, asked.last + 1), run, asked.seed)
    last = found[-1]
    return Answer(
        sheets=last.sheets,
        cost=last.cost,
        counts={},
        unplaced=last.unplaced,
        why=last.why,
        curve=tuple(
            Quantity(quantity=o.quantity, sheets=o.sheets, cost=o.cost, unplaced=o.unplaced) for o in found
        ),
    )


def _cheapest(
    asked: CheapestAsked, late: Callable[[], bool], word: Tell, began: float, limit: float
) -> Answer:
    problem = as_many_as_wanted(asked.problem, asked.endless)
    found = cheapest(problem, _within(asked, late, word, began, limit), asked.seed)
    worth = Worth(problem)
    laid = list(found.placements)
    area = {s.id: s.width * s.height for s in problem.sheets}
    bought = sum(area[k] * n for k, n in found.counts.items())
    return Answer(
        sheets=sum(found.counts.values()),
        cost=found.cost,
        counts=found.counts,
        unplaced=found.unplaced,
        used=sum(worth.areas[p.part] for p in laid) / bought if bought else 0.0,
        bound=found.bound if math.isfinite(found.bound) else None,
        placements=found.placements,
    )
