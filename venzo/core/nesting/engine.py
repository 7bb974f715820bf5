"""The search: resumable, anytime, on two threads, never an infeasible result.

First passes fill the sheets in order (``fill``), many like pieces are laid in columns (``lattice``); then the
improving search shortens what is used and moves pieces between sheets (``improve``); rectangles take their
own road (``rectangles``). The best layout by the objective is kept; whatever leaves this room has passed the
independent judge (``verify``).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence

from venzo.core.nesting.bound import sheets_bound, shortest
from venzo.core.nesting.fill import Fill
from venzo.core.nesting.firm import on_live_only
from venzo.core.nesting.forms import Forms
from venzo.core.nesting.improve import Improve
from venzo.core.nesting.jigsaw import Jigsaw, snug
from venzo.core.nesting.lattice import Lattice
from venzo.core.nesting.mixes import Mixes
from venzo.core.nesting.problem import VERSION as VERSION
from venzo.core.nesting.problem import NestProblem, NestResult, Placement, Unplaced
from venzo.core.nesting.rectangles import Rectangles, boxes_of, refuse_other_shapes, shape_of
from venzo.core.nesting.repeat import Repeat
from venzo.core.nesting.verify import faults
from venzo.core.nesting.worth import Key, Worth, same_sheets
from venzo.core.snags import BadInput

MIX_EVERY = 3
"""Of so many steps one improves the best layout while cheaper mixes of sheets are tried in the others."""
FILLS = 4
"""Filling passes before the improving search begins."""
MANY_PIECES, FILLS_OF_MANY = 1000, 2
"""From so many pieces on there are fewer: a further pass takes seconds and is seldom better."""
BOXED_STEPS = 6
"""Steps for which parts are laid as boxes, where most of them are."""
JIGSAW_STEPS = 400
"""Steps for which pieces that fill a sheet are put together corner to corner."""
LIVE_EVERY = 3
"""Of so many steps one goes to the search that keeps all pieces over live areas."""
COMPLETED_EVERY = 8
"""Steps of the search over live areas between two tries to lay what has no room there around the others."""
JUDGED_EVERY = 100
"""Steps between two looks of the judge at what the improving search builds on."""


class Search:
    """A resumable search. Call ``step`` until it returns False or time is up; ``best`` is always a feasible
    result.

    Args:
        problem: checked by ``NestProblem.check``.
        seed: same seed and number of steps give the same result.
        start: a feasible layout to go on from; the result is never worse. Locked pieces are part of it.

    Raises:
        BadInput: the problem or its locked pieces are impossible.
    """

    def __init__(self, problem: NestProblem, seed: int = 0, start: Sequence[Placement] = ()):
        problem.check()
        # further apart than a sheet is across no two pieces ever lie on it, however much more is asked: the
        # rasters are as wide as half of the spacing all round
        across = max(math.hypot(s.width, s.height) for s in problem.sheets)
        if problem.spacing > across:
            problem = problem.model_copy(update={"spacing": across + 1.0})
        # in whatever order a file lists its sheets, the layout is the same
        sheets = sorted(problem.sheets, key=lambda s: (s.price / (s.width * s.height), s.price, s.id))
        problem = problem.model_copy(update={"sheets": sheets})
        self.problem, self.seed, self.steps = problem, seed, 0
        locked = faults(problem, problem.locked)
        if locked:
            raise BadInput(f"locked pieces are in each other's way: {locked[0][1]}; unlock or move one")
        self.worth = Worth(problem)
        self.bound = sheets_bound(problem, self.worth)
        seed = self._seed = (
            abs(seed) % 100_000
        )  # any whole number will do; the kernels' own seeds are made from it
        self.fill = Fill(problem, seed)
        if problem.guillotine:
            refuse_other_shapes(problem, self.worth)
        ways = shape_of(problem, self.worth)
        boxes = boxes_of(problem, self.worth) if ways is None else None
        self._boxed = BOXED_STEPS if boxes is not None else 0
        how = ways or boxes
        self.rectangles = Rectangles(problem, self.worth, how, seed) if how is not None else None
        self.repeat = Repeat(problem, self.worth, seed) if problem.repeat else None
        self.lattice: Lattice | None = Lattice(problem, self.worth, self.fill)
        self.jigsaw: Jigsaw | None = Jigsaw(problem, self.worth)
        self._snug = False
        self.live: Search | None = None
        self._lives = any(f.firmness == 1 for kind in problem.sheets for f in kind.firm)
        self._live_for: Counter[str] | None = None
        self._completed: Key | None = None
        self.improve: Improve | None = None
        self.mixes: Mixes | None = None
        self._forms: Forms | None = None
        self._key: Key | None = None
        self._start: list[Placement] = []
        self._candidates: list[tuple[list[Placement], bool]] = []
        self._best: NestResult | None = None
        many = sum(p.quantity for p in problem.parts) > MANY_PIECES
        self._fills = FILLS_OF_MANY if many else FILLS
        if start and not faults(problem, list(start)):
            self._start, self._fills = list(start), 1
            if self.worth.failed(self._start):  # what waits for a place is laid around what lies already
                draft = Fill(problem.model_copy(update={"locked": self._start}), seed).next()
                self._start = draft.placements if draft is not None else self._start
            self._keep(self._start, False)
            self.lattice = self.jigsaw = None
            if not problem.guillotine:
                self.rectangles = None

    # -- advancing ------------------------------------------------------------

    def step(self, stop: Callable[[], bool] = lambda: False, progress: float | None = None) -> bool:
        """One step. False when a further one cannot help or ``stop`` cut this one short.

        ``progress`` is the part of the time or steps that is over; the last fifth presses the best layout
        together.
        """
        if (live := self._live_turn()) is not None:
            return self._step_live(live, stop, progress)
        if self.rectangles is not None:
            return self._step_rectangles(self.rectangles, stop)
        if self.jigsaw is not None and self.jigsaw.able and self.steps >= 1:
            return self._step_jigsaw(self.jigsaw, stop)
        if self.lattice is not None and self.lattice.many and self.steps >= 1:
            laid = self.lattice.layout(stop)
            self.lattice = None
            self.steps += 1
            if laid is not None and self._keep(laid, False):
                self._start = laid
            return not stop() and not self._perfect()
        if self.steps < self._fills or (self.improve is not None and not self.improve.able):
            draft = self.fill.next(stop, partial=self.steps == 0)
            if draft is None:
                return False
            self.steps += 1
            kept = self._keep(draft.placements, draft.late)
            if kept or not self.fill.best_order:
                self.fill.best_order = self.fill.this_order
            if kept:
                self._start = draft.placements
            return not draft.late and not self._perfect()
        if not self._snug:
            return self._step_snug(stop)
        if self.repeat is not None:
            going = self.repeat.step(stop, Search)
            self.steps += 1
            if self.repeat.layout is not None:
                self._keep(self.repeat.layout, False)
            if not going:
                self.repeat = None
            return not stop()
        if self.improve is None:
            self.improve = Improve(self.problem, self.worth, self._start, self._seed, self._forms)
            self._forms = self.improve.forms
            self.mixes = self.mixes or Mixes(self.problem, self.worth, self._seed, self._forms)
        if self.mixes and self.mixes.able and self._key and not self._key.over and self.steps % MIX_EVERY:
            return self._step_mixes(self.mixes, self._key.cost, stop)
        going = self.improve.step(stop, progress)
        self.steps += 1
        if self.improve.changed:
            self._keep(self.improve.placements(), False)
        if self.steps % JUDGED_EVERY == 0:
            self._judge()
        return (going or (self.mixes is not None and self.mixes.able)) and not self._perfect()

    def _step_rectangles(self, rectangles: Rectangles, stop: Callable[[], bool]) -> bool:
        going = rectangles.step(stop)
        self.steps += 1
        if rectangles.changed or self.steps == 1:
            self._keep(rectangles.placements(), False)
            self._start = rectangles.placements()
        if self._boxed and self.steps >= self._boxed:  # other shapes than boxes are laid closer
            going, self._fills = False, self._fills + self.steps
        if not going and not self.problem.guillotine and not stop():
            self.rectangles = None
        return (going or self.rectangles is None) and not self._perfect()

    def _step_jigsaw(self, jigsaw: Jigsaw, stop: Callable[[], bool]) -> bool:
        going = jigsaw.step(stop)
        self.steps += 1
        if jigsaw.done and jigsaw.layout is not None and self._keep(jigsaw.layout, False):
            self._start = jigsaw.layout
        if stop():
            return False
        if not going or self.steps >= JIGSAW_STEPS:
            self.jigsaw = None
            if not jigsaw.done and jigsaw.fullest:  # what found no corner is laid around the others
                rest = self.problem.model_copy(update={"locked": jigsaw.fullest})
                draft = Fill(rest, self._seed).next(stop)
                if draft is not None and self._keep(draft.placements, False):
                    self._start = draft.placements
        return not self._perfect()

    def _live_turn(self) -> Search | None:
        """The search that keeps all where it holds, on as many sheets as the best layout uses, when it is its
        turn: every third step.
        """
        if not self._lives or not self.steps or not (self.steps % LIVE_EVERY == 1 or self._all_live()):
            return None
        used: Counter[str] = Counter()
        for pl in self.layout:
            used[pl.sheet] = max(used[pl.sheet], pl.sheet_copy + 1)
        if used != self._live_for:
            self._live_for, self.live = used, None
            problem = on_live_only(self.problem, self.worth, used)
            self._lives = problem is not None
            if problem is not None and not faults(problem, problem.locked):
                self.live = Search(problem, self._seed)
        return self.live

    def _all_live(self) -> bool:
        """Does everything lie where it holds, on as few sheets as any layout needs?"""
        key, live = self._key, self.live.key if self.live is not None else None
        if key is None or live is None or live.over or len(self.problem.sheets) > 1:
            return False
        return live.sheets <= self.bound

    def _step_live(self, live: Search, stop: Callable[[], bool], progress: float | None) -> bool:
        """A step of the search that keeps all pieces where they hold; what finds no room there is laid around
        them.
        """
        before = live.key
        going = live.step(stop, progress)
        self.steps += 1
        if live.key is not None and not live.key.over:
            if live.key != before:
                self._keep(live.layout, False)
        elif live.key != self._completed and live.steps % COMPLETED_EVERY == 1:
            self._completed = live.key
            rest = self.problem.model_copy(update={"locked": live.layout})
            draft = Fill(rest, self._seed).next(stop)
            if draft is not None:
                self._keep(draft.placements, False)
        if not going and not stop():
            self.live = None
        return not stop()

    def _step_mixes(self, mixes: Mixes, cost: float, stop: Callable[[], bool]) -> bool:
        mixes.step(stop, cost)
        self.steps += 1
        if mixes.layout is not None and self._keep(mixes.layout, False):
            self._start, self.improve = mixes.layout, None
        return not stop() and not self._perfect()

    def _step_snug(self, stop: Callable[[], bool]) -> bool:
        tight = snug(self.problem, self.worth, self._start)
        self.steps += 1
        self._snug = tight is None or not self._keep(tight, False)
        if tight is not None and not self._snug:
            self._start = tight
        return not stop() and not self._perfect()

    @property
    def key(self) -> Key | None:
        """Worth of the best layout so far (``Worth.key``); lower is better."""
        return self._key

    @property
    def layout(self) -> list[Placement]:
        """The best layout so far, not judged yet."""
        if self._candidates:
            return self._candidates[-1][0]
        return self._best.placements if self._best is not None else []

    # -- judging --------------------------------------------------------------

    def _keep(self, placements: list[Placement], late: bool) -> bool:
        """Keep a layout if it is no worse than the best; it is judged when the best is asked for."""
        key = self.worth.key(placements)
        if self._key is not None and key > self._key:
            return False
        self._key = key
        self._candidates.append((placements, late))
        del self._candidates[
            1:-8
        ]  # the first one and the last ones: should the judge refuse a layout, an older one takes its place
        return True

    def _judge(self) -> None:
        """Go back to what the judge takes, should it refuse what the search builds on: else all that comes
        after would be for nothing. Never seen since tables are asked deep inside, too.
        """
        wanted = self._key
        best = self.best
        if best is not None and self._key != wanted:
            self._start, self.improve = best.placements, None

    @property
    def best(self) -> NestResult | None:
        """The best layout so far, checked by the independent judge."""
        refused = False
        while self._candidates:
            placements, late = self._candidates.pop()
            wrong = {i for i, _why in faults(self.problem, placements)}
            if wrong:  # an infeasible layout must not leave this room
                refused = True
                kept = [pl for i, pl in enumerate(placements) if i not in wrong]
                if self._candidates or self._best is not None:
                    continue
                placements = kept
            self._candidates.clear()
            self._best = self._result(placements, late)
        if refused and self._best is not None:
            self._key = self.worth.key(self._best.placements)
        if self._best is not None:
            self._best.steps = self.steps
        return self._best

    def _result(self, placements: list[Placement], late: bool) -> NestResult:
        failed = self.worth.failed(placements)
        tidy = [pl.model_copy(update={"x": round(pl.x, 6), "y": round(pl.y, 6)}) for pl in placements]
        unplaced = [Unplaced(part=p, quantity=n, reason=self.fill.reason(p, late)) for p, n in failed.items()]
        return NestResult(
            placements=tidy,
            unplaced=unplaced,
            sheets=self.worth.uses(tidy),
            bound={"sheets": self.bound},
            layouts=same_sheets(tidy),
            seed=self.seed,
            steps=self.steps,
        )

    def _perfect(self) -> bool:
        """Nothing better is possible: all placed on one sheet, no longer than the area or the longest piece
        needs.
        """
        if (
            self._key is None
            or self._key.over
            or self._key.fill
            or self._key.off_live
            or len(self.problem.sheets) > 1
            or self._key.sheets > 1
        ):
            return False
        kind = self.problem.sheets[0]
        room = kind.height - 2 * kind.margin
        longest = max(
            (
                min(
                    (q.width for q in self.fill.poses(p.id, kind.grain) if q.height <= room + 1e-6),
                    default=0.0,
                )
                for p in self.problem.parts
                if p.quantity
            ),
            default=0.0,
        )
        return self._key.last <= max(shortest(self.problem, self.worth), longest + kind.margin) + 1e-3
