"""The improving search over all sheets of a layout: shorten one sheet, move pieces to others.

Two threads work side by side; each step gives each a fixed budget of evaluations and then compares what they
found, in a fixed order, so that a run can be repeated. Sheets are emptied by putting their pieces on others,
if need be against smaller ones (separation decides); what lies on the emptiest sheet is squeezed together.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Array
from venzo.core.nesting import separate as kernel
from venzo.core.nesting.arena import Arena
from venzo.core.nesting.bound import room, taken
from venzo.core.nesting.fill import Fill
from venzo.core.nesting.firm import make_firm
from venzo.core.nesting.forms import MOST_TABLES, Forms, make_forms
from venzo.core.nesting.laid import LaidSheet, Name
from venzo.core.nesting.problem import NestProblem, Placement
from venzo.core.nesting.squeeze import Lie, Squeeze
from venzo.core.nesting.worth import Worth

THREADS = 2
BUDGET = 120_000
"""Evaluations per thread and step: about a tenth of a second."""
TRY_BUDGET, TRY_QUIET = 60_000, 40
"""Evaluations, and rounds without progress, after which a piece is said not to fit on a sheet."""
FULLEST = 0.985
"""Share of a sheet's room beyond which nothing more is tried on it."""
EVERY, PATIENCE, SELDOM = 3, 30, 4
"""Every third step squeezes while moves between sheets succeed; after so many failures on end only every
fourth step moves.
"""
WINDOW, WINDOW_PIECES, WINDOW_PATIENCE = 3, 240, 8
"""Sheets squeezed together, pieces on them at most, and failures in a row after which other ones are
taken.
"""
MOST_FROZEN = 22_000
"""Tables that may be had (300 MB, some seven seconds) when pieces keep their turns: about 200 distinct shapes
on one sheet.
"""
TIRED = 24
"""Failures on end after which another sheet is taken in hand, where not all can be at once."""
MOST_AT_ONCE, AT_ONCE = 8, 0.7
"""Pieces brought onto a sheet at once at most, and the share of its free area that several may take."""
FEWEST_SHEETS = 3
"""Sheets from which on they are pressed together one by one and filled up from the emptiest."""
PRESS_STEPS, LEAST_GAIN = 8, 0.003
"""Steps for which a sheet is pressed (half as many without success), and the share of its room that must be
brought onto it for another turn.
"""
FIRM_EVERY = 20
"""Steps between two looks for firmer places."""


@dataclass
class Try:
    """Pieces that may come onto a sheet, from the emptied one or from those that wait; ``out``: which of the
    sheet's own would leave for them.
    """

    sheet: LaidSheet
    names: list[Name]
    kinds: list[int]
    out: list[int]
    victim: LaidSheet | None
    seed: int


@dataclass
class Pressed:
    """A sheet being pressed together; ``version``: how it lay when that began."""

    sheet: LaidSheet
    version: int
    squeeze: Squeeze
    steps: int = 0


@dataclass
class Tried:
    """How a sheet lies after a try that worked, what has left it, and how the emptied sheet lies then where
    it must take that (names, kinds, lie, version that it was found for).
    """

    names: list[Name]
    kinds: list[int]
    lie: Lie
    left: list[Name]
    emptied: tuple[list[Name], list[int], Lie, int] | None = None


class Improve:
    """Improves a feasible layout step by step; ``placements`` gives it at any time.

    Args:
        problem: the problem.
        worth: its judge of better and worse.
        start: placements of a feasible layout.
        seed: same seed and steps give the same layouts.
        forms: of a problem with the same parts, sheets and spacing, whose tables are used too.
    """

    def __init__(
        self,
        problem: NestProblem,
        worth: Worth,
        start: list[Placement],
        seed: int,
        forms: Forms | None = None,
    ):
        self.problem, self.worth = problem, worth
        self.forms = forms or make_forms(problem, start)
        self.changed, self.able = False, True
        """``able``: False once there are too many distinct shapes for tables; first passes are then all there
        is.
        """
        self.rng = np.random.default_rng([seed, 1])
        self._seeds = iter(range(seed * 1000 + 1, 2**62))
        self._taken = {p: taken(a, problem.spacing) for p, a in worth.areas.items()}
        self.laid_sheets: list[LaidSheet] = []
        locked = {(pl.part, pl.copy_) for pl in problem.locked}
        kind_of = {s.id: s for s in problem.sheets}
        self.grains = {s.id: s.grain for s in problem.sheets}
        by_sheet: dict[tuple[str, int], list[Placement]] = {}
        for pl in start:
            by_sheet.setdefault((pl.sheet, pl.sheet_copy), []).append(pl)
        for (sheet, copy), pieces in by_sheet.items():
            still = [(form, self.forms.angles.index(0.0), x, y) for form, x, y in self.forms.obstacles[sheet]]
            own = [pl for pl in pieces if (pl.part, pl.copy_) in locked]
            still += [self.forms.pose(pl) for pl in own]
            free = [pl for pl in pieces if (pl.part, pl.copy_) not in locked]
            laid = LaidSheet(
                sheet,
                copy,
                [(pl.part, pl.copy_) for pl in free],
                [self.kind(pl.part, sheet) for pl in free],
                still,
                self.forms.boxes_of[sheet],
                room(kind_of[sheet], problem.spacing),
                own,
            )
            laid.locked_right = max(
                (self.forms.boxes[form, turn, 2] + x for form, turn, x, _y in map(self.forms.pose, own)),
                default=0.0,
            )
            laid.lie = self._lie(free, laid.box)
            self.laid_sheets.append(laid)
        placed = {(pl.part, pl.copy_) for pl in start}
        self.waiting: list[Name] = [
            (p.id, c)
            for p in problem.parts
            for c in range(p.quantity)
            if (p.id, c) not in placed and self._possible(p.id)
        ]
        shapes = len({int(s) for s, _turn in self.forms.ways})
        self.crowded = shapes * (shapes + 1) // 2 * self.forms.fields.k > MOST_TABLES
        """Are there more distinct shapes than tables may be had for at once?"""
        self._in_hand: list[LaidSheet] = []
        self._pressed: list[Pressed] = []
        self._fill: Fill | None = None
        self._squeezes: list[Squeeze] = []
        self._window: list[LaidSheet] = []
        self._offsets: list[float] = []
        self._failures = 0
        self._pool = ThreadPoolExecutor(THREADS)
        self._stop = np.zeros(1, np.int64)
        self._steps = 0

    def _lie(self, pieces: list[Placement], box: tuple[float, float, float, float]) -> Lie:
        """How pieces lie, in the search's own terms."""
        pose, place = np.zeros((len(pieces), 2), np.int64), np.zeros((len(pieces), 6))
        for i, pl in enumerate(pieces):
            form, turn, x, y = self.forms.pose(pl)
            turn = self.forms.usual(form, turn)
            b = self.forms.boxes[form, turn]
            pose[i], place[i] = (form, turn), (x, y, x + b[0], y + b[1], x + b[2], y + b[3])
        return Lie(float(place[:, 4].max(initial=box[0])), pose, place)

    def kind(self, part: str, sheet: str) -> int:
        """Kind of a piece of a part on a sheet (its grain may matter)."""
        grain = self.grains[sheet] if self.worth.parts[part].grain is not None else None
        return self.forms.kinds[part, grain]

    def _possible(self, part: str) -> bool:
        """Does the part fit any sheet in any way, by its box?"""
        for sheet, (x0, y0, x1, y1) in self.forms.boxes_of.items():
            kind = self.kind(part, sheet)
            size = self.forms.boxes[
                tuple(self.forms.ways[self.forms.first_way[kind] : self.forms.first_way[kind + 1]].T)
            ]
            if (
                (size[:, 2] - size[:, 0] <= x1 - x0 + 1e-9) & (size[:, 3] - size[:, 1] <= y1 - y0 + 1e-9)
            ).any():
                return True
        return False

    def urgent(self) -> list[Name]:
        """Pieces that wait for a place and are more than fill."""
        return [n for n in self.waiting if not self.worth.parts[n[0]].fill]

    def placements(self) -> list[Placement]:
        """The layout as it is now."""
        return [pl for b in self.laid_sheets for pl in self._placements_on(b)]

    def _placements_on(self, b: LaidSheet) -> list[Placement]:
        out = list(b.locked)
        for (part, copy), (form, turn), (x, y, *_box) in zip(
            b.names, b.lie.pose.tolist(), b.lie.place.tolist(), strict=True
        ):
            out.append(self.forms.placement(part, copy, b.sheet, b.copy, form, turn, x, y))
        return out

    # -- steps ----------------------------------------------------------------

    def step(self, stop: Callable[[], bool], progress: float | None) -> bool:
        """One step of both threads. False when nothing can be improved any more or ``stop`` says so."""
        self.changed = False
        self._steps += 1
        if not any(b.names for b in self.laid_sheets):
            return False
        if progress is None:  # no end known: press now and then, so that a stop finds a tidy layout
            turn = self._steps % 50
            press = (turn - 40) / 10 if turn >= 40 else None
        else:
            press = (progress - 0.8) / 0.2 if progress > 0.8 else None
        # while moves succeed they come first; the sheet they empty is squeezed in between, so that a stop
        # finds it short
        moving = (
            press is None
            and self._movable()
            and (self._steps % EVERY != 0 if self._failures < PATIENCE else self._steps % SELDOM == 0)
        )
        if press is None and (self._pressed or self._loosest() is not None):
            ok = self._top_up(stop)
        else:
            ok = self._move(stop) if moving else self._squeeze(stop, press)
        if self._steps % FIRM_EVERY == 0 or (press is not None and self._steps % 5 == 0):
            for laid in self.laid_sheets:
                if (
                    self.worth.sheets[laid.sheet].firm
                    and self._ensure(laid, laid.kinds, stop)
                    and make_firm(self.forms, laid, self.worth, self.rng)
                ):
                    self.changed, self._window = True, []
        return ok and not stop()

    def _ensure(self, laid: LaidSheet, kinds: list[int], stop: Callable[[], bool]) -> bool:
        return self.forms.fields.ensure(Arena.tables(self.forms, kinds, laid.still, laid.lie.pose), stop)

    def _last(self) -> LaidSheet:
        """The sheet to shorten, of those with pieces to move: where they take least of it, which is where
        most can be gained, were it used as long as another.
        """
        return min(
            (b for b in self.laid_sheets if b.names),
            key=lambda b: max(self._load(b) / b.room, b.locked_right / self.worth.sheets[b.sheet].width),
        )

    @staticmethod
    def _right(b: LaidSheet) -> float:
        return max(b.lie.right, b.locked_right)

    def _squeeze(self, stop: Callable[[], bool], press: float | None) -> bool:
        """Make the last sheet shorter, with a few others beside it that its pieces may go to."""
        laid = self._last()
        stuck = (
            len(self.laid_sheets) > 1
            and press is None
            and all(s.stuck >= WINDOW_PATIENCE for s in self._squeezes)
        )
        if not self._window or laid is not self._window[0] or stuck:
            # a sheet that will not get shorter by itself is squeezed together with others that its pieces may
            # go to
            self._window = [laid, *(self._beside(laid) if stuck and len(self._window) == 1 else [])]
            wanted, frozen = self._tables(self._window)
            if wanted is None:
                self.able, self._window = False, []
                return True
            if not self.forms.fields.ensure(wanted, stop):
                self._window = []
                return False
            self._squeezes = [self._over(self._window, frozen) for _ in range(THREADS)]
        list(self._pool.map(lambda s: s.advance(BUDGET, self._stop, press), self._squeezes))
        best = min((s.best for s in self._squeezes), key=lambda lie: lie.right)
        if best.right < laid.lie.right - 1e-9:
            self._take(best)
            self.changed = True
        for s in self._squeezes:
            s.share(best)
        if not laid.names or all(self.worth.parts[p].fill for p, _c in laid.names):
            self._close(laid)
        return True

    def _tables(self, window: list[LaidSheet]) -> tuple[list[tuple[int, int, int]] | None, bool]:
        """Tables that a squeeze of these sheets may ask for, and whether pieces must keep their turns to need
        no more; None when even that is too many.
        """
        kinds, lying, still = (
            [k for b in window for k in b.kinds],
            np.concatenate([b.lie.pose for b in window]),
            [q for b in window for q in b.still],
        )
        for frozen in (False, True):
            wanted = Arena.tables(self.forms, [] if frozen else kinds, still, lying)
            if len(self.forms.fields.missing(wanted)) + len(self.forms.fields.head) <= (
                MOST_FROZEN if frozen else MOST_TABLES + MOST_TABLES // 4
            ):
                return wanted, frozen
        return None, True

    def _beside(self, laid: LaidSheet) -> list[LaidSheet]:
        """Other sheets for pieces of this one to go to: with the same grain, not too many pieces in all."""
        grained = any(p.grain is not None for p in self.worth.parts.values())
        others = [
            b
            for b in self.laid_sheets
            if b is not laid and (not grained or self.grains[b.sheet] == self.grains[laid.sheet])
        ]
        out: list[LaidSheet] = []
        count = len(laid.names)
        for k in self.rng.permutation(len(others)):
            if len(out) < WINDOW - 1 and count + len(others[k].names) <= WINDOW_PIECES:
                out.append(others[k])
                count += len(others[k].names)
        return out

    def _over(self, window: list[LaidSheet], frozen: bool) -> Squeeze:
        """A squeeze of the first sheet of a window; the others lie to the right of it, far apart."""
        self._offsets, x = [], 0.0
        for b in window:
            self._offsets.append(x)
            x += b.box[2] + self.forms.apart
        rooms = [
            (b.box[0] + o, b.box[1], b.box[2] + o, b.box[3])
            for b, o in zip(window, self._offsets, strict=True)
        ]
        still = [
            (f, t, x + o, y) for b, o in zip(window, self._offsets, strict=True) for f, t, x, y in b.still
        ]
        home = [w if self.worth.parts[p].group else -1 for w, b in enumerate(window) for p, _c in b.names]
        arena = Arena(
            self.forms,
            [k for b in window for k in b.kinds],
            still,
            rooms,
            home,
            np.concatenate([b.lie.pose for b in window]) if frozen else None,
        )
        shift = np.array([1, 0, 1, 0, 1, 0])
        place = np.concatenate([b.lie.place + o * shift for b, o in zip(window, self._offsets, strict=True)])
        where = np.concatenate([np.full(len(b.names), w, np.int64) for w, b in enumerate(window)])
        start = Lie(window[0].lie.right, np.concatenate([b.lie.pose for b in window]), place, where)
        arena.load(start.pose, start.place, where)
        first = window[0]
        floor = max(first.box[0], min(first.locked_right, first.box[2]))
        if len(window) == 1 and not first.still:
            floor = max(
                floor,
                first.box[0]
                + sum(self.worth.areas[p] for p, _c in first.names) / max(1e-9, first.box[3] - first.box[1]),
            )
        self._names = [n for b in window for n in b.names]
        self._kinds = [k for b in window for k in b.kinds]
        return Squeeze(arena, start, floor, next(self._seeds), sum(b.lie.right - b.box[0] for b in window))

    def _take(self, lie: Lie) -> None:
        """Give the sheets of the window what a squeeze has put on them."""
        assert lie.where is not None
        shift = np.array([1, 0, 1, 0, 1, 0])
        for w, (b, o) in enumerate(zip(self._window, self._offsets, strict=True)):
            mine = np.flatnonzero(lie.where == w)
            place = lie.place[mine] - o * shift
            b.names, b.kinds = [self._names[i] for i in mine], [self._kinds[i] for i in mine]
            b.lie = Lie(float(place[:, 4].max(initial=b.box[0])), lie.pose[mine], place)
            b.version += 1

    def _close(self, laid: LaidSheet) -> None:
        """Take an emptied sheet away (fill pieces never hold one open by themselves)."""
        if laid.locked or len(self.laid_sheets) < 2:
            return
        self.waiting += laid.names
        laid.names, laid.version = [], laid.version + 1  # a try that counts on them comes too late
        self.laid_sheets.remove(laid)
        self._window, self.changed = [], True

    # -- sheet by sheet -----------------------------------------------------------

    def _loosest(self) -> LaidSheet | None:
        """The sheet that most can be brought onto when it is pressed together, of those not given up."""
        victim = self._victim() if len(self.laid_sheets) >= FEWEST_SHEETS else None
        if victim is None:
            return None
        busy = [p.sheet for p in self._pressed]
        free = [
            b
            for b in self.laid_sheets
            if b is not victim and b.names and not b.pressed_out and not any(b is k for k in busy)
        ]
        return min(free, key=lambda b: self._load(b) / b.room, default=None)

    def _top_up(self, stop: Callable[[], bool]) -> bool:
        """Each thread presses a sheet of its own together; what gets free on it is filled from the emptiest
        one.
        """
        while len(self._pressed) < THREADS and (laid := self._loosest()) is not None:
            wanted = Arena.tables(self.forms, laid.kinds, laid.still, laid.lie.pose)
            fields = self.forms.fields
            if len(fields.missing(wanted)) + len(fields.head) > MOST_TABLES:
                if not self._room_for(wanted):
                    laid.pressed_out = True
                    continue
                fields.forget()  # the other thread's arena holds on to its own
            if not fields.ensure(wanted, stop):
                return False
            arena = laid.arena(self.forms)
            height = max(1e-9, laid.box[3] - laid.box[1])
            floor = laid.box[0] + sum(self.worth.areas[p] for p, _c in laid.names) / height
            squeeze = Squeeze(arena, laid.lie, max(floor, laid.locked_right), next(self._seeds))
            self._pressed.append(Pressed(laid, laid.version, squeeze))
        list(self._pool.map(lambda p: p.squeeze.advance(BUDGET, self._stop, None), self._pressed))
        for p in list(self._pressed):
            p.steps += 1
            gone = p.sheet.version != p.version or not any(p.sheet is b for b in self.laid_sheets)
            shorter = p.squeeze.best.right < p.sheet.lie.right - 1e-9
            if not gone and p.steps < (PRESS_STEPS if shorter else PRESS_STEPS // 2):
                continue
            self._pressed.remove(p)
            if gone:
                continue
            if shorter:
                p.sheet.lie = p.squeeze.best
                p.sheet.version += 1
                self.changed, self._window = True, []
            before = self._load(p.sheet)
            self._fill_up(p.sheet)
            p.sheet.pressed_out = self._load(p.sheet) < before + LEAST_GAIN * p.sheet.room
        return True

    def _fill_up(self, laid: LaidSheet) -> None:
        """Bring onto a sheet what of the emptiest one has a place there, the largest first."""
        victim = self._victim()
        if victim is None or victim is laid:
            return
        if self._fill is None:
            self._fill = Fill(self.problem)
        source = [n for n in victim.names if not self.worth.parts[n[0]].group]
        source.sort(key=lambda n: (-self.worth.areas[n[0]], n))
        new = self._fill.more(self.worth.sheets[laid.sheet], laid.copy, self._placements_on(laid), source)
        if not new:
            return
        lie = self._lie(new, laid.box)
        names = [(pl.part, pl.copy_) for pl in new]
        laid.names = [*laid.names, *names]
        laid.kinds = [*laid.kinds, *(self.kind(part, laid.sheet) for part, _c in names)]
        laid.lie = Lie(
            max(laid.lie.right, lie.right),
            np.concatenate([laid.lie.pose, lie.pose]),
            np.concatenate([laid.lie.place, lie.place]),
        )
        laid.version += 1
        self._leave(victim, names)
        self._window, self._failures, self.changed = [], 0, True

    # -- between sheets ---------------------------------------------------------

    def _leave(self, victim: LaidSheet, names: list[Name]) -> None:
        """Take pieces off the emptied sheet."""
        rest = [i for i, n in enumerate(victim.names) if n not in names]
        place = victim.lie.place[rest]
        victim.names, victim.kinds = [victim.names[i] for i in rest], [victim.kinds[i] for i in rest]
        victim.lie = Lie(float(place[:, 4].max(initial=victim.box[0])), victim.lie.pose[rest], place)
        victim.version += 1
        if all(self.worth.parts[p].fill for p, _c in victim.names):
            self._close(victim)

    def _load(self, b: LaidSheet) -> float:
        """Least area (mm2) that the pieces of a sheet take with half the spacing around each."""
        return sum(self._taken[p] for p, _c in b.names) + sum(self._taken[pl.part] for pl in b.locked)

    def _victim(self) -> LaidSheet | None:
        """The sheet to be emptied: the one with the least on it for its price (None when pieces still wait
        for a place or it is the only one).
        """
        if len(self.laid_sheets) < 2 or self.urgent():
            return None
        free = [
            b
            for b in self.laid_sheets
            if not b.locked and not any(self.worth.parts[p].group for p, _c in b.names)
        ]
        return (
            min(free, key=lambda b: self._load(b) / max(1e-9, self.worth.sheets[b.sheet].price))
            if free
            else None
        )

    def _movable(self) -> bool:
        return bool(self.waiting) or self._victim() is not None

    def _targets(self, victim: LaidSheet | None) -> list[LaidSheet]:
        """Sheets that may take a piece more: all but the emptied one; where there are too many distinct
        shapes for tables of all, those in hand until they take no more.
        """
        others = [b for b in self.laid_sheets if b is not victim]
        if not self.crowded:
            return others
        kept = [b for b in self._in_hand if b in others and b.tired < TIRED]
        if len(kept) < THREADS:
            if all(b.tired >= TIRED for b in others):
                for b in others:
                    b.tired = 0
            fresh = [b for b in others if b.tired < TIRED and b not in kept]
            kept += sorted(fresh, key=lambda b: (b.tired, self._load(b) / b.room))[: THREADS - len(kept)]
        self._in_hand = kept
        return kept

    def _move(self, stop: Callable[[], bool]) -> bool:
        """Each thread tries to bring one or more pieces onto a sheet."""
        victim, fill = self._victim(), [n for n in self.waiting if self.worth.parts[n[0]].fill]
        if victim is not None and fill and self.rng.uniform() < 0.3:
            victim = None
        source = list(victim.names) if victim else self.urgent() or fill
        source = [n for n in source if victim is None or not self.worth.parts[n[0]].group]
        tasks = self._tasks(victim, source, self._targets(victim))
        if not tasks:
            self._failures += 5
            return self._squeeze(stop, None)
        wanted: list[tuple[int, int, int]] = []
        for t in tasks:
            wanted += Arena.tables(self.forms, [*t.sheet.kinds, *t.kinds], t.sheet.still, t.sheet.lie.pose)
            if victim is not None and t.out:
                back = (self.kind(t.sheet.names[i][0], victim.sheet) for i in t.out)
                wanted += Arena.tables(self.forms, [*victim.kinds, *back], victim.still, victim.lie.pose)
        if len(self.forms.fields.missing(wanted)) + len(self.forms.fields.head) > MOST_TABLES:
            if not self._room_for(wanted):
                for t in tasks:
                    t.sheet.tired = TIRED
                self._failures += 5
                return self._squeeze(stop, None)
            self.forms.fields.forget()
        if not self.forms.fields.ensure(wanted, stop):
            return False
        # both threads end before either result is applied: a try reads the sheets as they were
        for task, done in zip(tasks, list(self._pool.map(self._try, tasks)), strict=True):
            if done is None:
                self._failures += 1
                task.sheet.tired += 1
                task.sheet.appetite = max(1, task.sheet.appetite // 2)
            else:
                task.sheet.tired = 0
                task.sheet.appetite = min(MOST_AT_ONCE, task.sheet.appetite + 1)
                self._apply(task, done)
        return True

    def _room_for(self, wanted: list[tuple[int, int, int]]) -> bool:
        """Would these tables be few enough, were all others given up?"""
        return len(set(wanted)) <= MOST_TABLES

    def _tasks(self, victim: LaidSheet | None, source: list[Name], targets: list[LaidSheet]) -> list[Try]:
        """What the threads try next, each on a sheet of its own."""
        tasks: list[Try] = []
        for _ in range(40):
            if len(tasks) == THREADS or not source or not targets:
                break
            laid = targets[int(self.rng.integers(len(targets)))]
            name = source[int(self.rng.integers(len(source)))]
            if victim is not None and self.rng.uniform() < 0.25:
                # what reaches farthest decides the length
                far = np.argsort(-victim.lie.place[:, 4])[:4]
                name = victim.names[int(far[int(self.rng.integers(len(far)))])]
                if name not in source:
                    continue
            if any(t.sheet is laid or name in t.names for t in tasks) or not self._lies_on(name, laid):
                continue
            free = laid.room * FULLEST - self._load(laid)
            area = self._taken[name[0]]
            names, out = [name], list[int]()
            if area > free or self.rng.uniform() < 0.5:
                # against one or two smaller pieces that need not stay
                smaller = [i for i, n in enumerate(laid.names) if self._may_leave(n, name, victim is None)]
                self.rng.shuffle(smaller)
                given = 0.0
                for i in smaller[: int(self.rng.integers(1, 3))]:
                    if given + self._taken[laid.names[i][0]] < area * 0.97:
                        out.append(i)
                        given += self._taken[laid.names[i][0]]
                if area > free + given:
                    continue
            if not out and laid.appetite > 1:
                coming = {n for t in tasks for n in t.names}
                names = self._several(name, [n for n in source if n not in coming], laid, free)
            kinds = [self.kind(n[0], laid.sheet) for n in names]
            tasks.append(Try(laid, names, kinds, out, victim, next(self._seeds)))
        return tasks

    def _lies_on(self, name: Name, laid: LaidSheet) -> bool:
        """Is there a way for the piece to lie on the sheet?"""
        kind = self.kind(name[0], laid.sheet)
        return bool(self.forms.first_way[kind] < self.forms.first_way[kind + 1])

    def _several(self, first: Name, source: list[Name], laid: LaidSheet, free: float) -> list[Name]:
        """A piece with others that a sheet may take at once, by area."""
        names, area = [first], self._taken[first[0]]
        for k in self.rng.permutation(len(source)):
            name = source[int(k)]
            if len(names) == laid.appetite:
                break
            more = area + self._taken[name[0]]
            if name not in names and more <= free * AT_ONCE and self._lies_on(name, laid):
                names.append(name)
                area = more
        return names

    def _may_leave(self, leaving: Name, coming: Name, waits: bool) -> bool:
        a, b = self.worth.parts[leaving[0]], self.worth.parts[coming[0]]
        if a.group or leaving[0] == coming[0]:
            return False
        if waits:  # who leaves will have no place: only what weighs less
            return (a.fill and not b.fill) or (
                a.fill == b.fill
                and self.worth.weight(a.id) < self.worth.weight(b.id) * 0.97
                and a.priority <= b.priority
            )
        return self.worth.areas[a.id] < self.worth.areas[b.id] * 0.97

    def _try(self, task: Try) -> Tried | None:
        """Can the sheet take the pieces (and the emptied sheet what leaves for them)? The new lies, or
        None.
        """
        laid, victim, out = task.sheet, task.victim, task.out
        stay = [i for i in range(len(laid.names)) if i not in out]
        names = [*(laid.names[i] for i in stay), *task.names]
        kinds = [*(laid.kinds[i] for i in stay), *task.kinds]
        at = [laid.lie.place[out[0]] if out else None] * len(task.names)
        lie = self._settle(laid, kinds, laid.lie.pose[stay], laid.lie.place[stay], at, task.seed)
        if lie is None:
            return None
        done = Tried(names, kinds, lie, [laid.names[i] for i in out])
        if victim is None or not out:
            return done
        k = victim.names.index(task.names[0])
        rest = [i for i in range(len(victim.names)) if i != k]
        v_kinds = [*(victim.kinds[i] for i in rest), *(self.kind(p, victim.sheet) for p, _c in done.left)]
        if any(self.forms.first_way[q] == self.forms.first_way[q + 1] for q in v_kinds):
            return None
        v_lie = self._settle(
            victim,
            v_kinds,
            victim.lie.pose[rest],
            victim.lie.place[rest],
            [victim.lie.place[k]] * len(out),
            task.seed + 7,
            victim.lie.right if task.seed % 3 == 0 else None,
        )
        if v_lie is None:
            return None
        done.emptied = ([*(victim.names[i] for i in rest), *done.left], v_kinds, v_lie, victim.version)
        return done

    def _settle(
        self,
        laid: LaidSheet,
        kinds: list[int],
        pose: np.ndarray,
        place: Array,
        at: list,
        seed: int,
        right: float | None = None,
    ) -> Lie | None:
        """Separate the pieces of a laid with new ones laid near ``at`` (anywhere where None), none beyond
        ``right``.
        """
        box = laid.box if right is None else (laid.box[0], laid.box[1], min(right, laid.box[2]), laid.box[3])
        rng = np.random.default_rng(seed)
        arena = Arena(self.forms, kinds, laid.still, [box])
        arena.load(pose, place)
        for k in range(len(pose), len(kinds)):
            ways = self.forms.ways[self.forms.first_way[kinds[k]] : self.forms.first_way[kinds[k] + 1]]
            form, turn = (int(v) for v in ways[int(rng.integers(len(ways)))])
            b = self.forms.boxes[form, turn]
            spot = at[k - len(pose)]
            low, high = np.array(box[:2]) - b[:2], np.array(box[2:]) - b[2:]
            if (high < low).any():
                fits = [
                    (int(f), int(t))
                    for f, t in ways
                    if (
                        self.forms.boxes[f, t][2:] - self.forms.boxes[f, t][:2]
                        <= np.array(box[2:]) - np.array(box[:2]) + 1e-9
                    ).all()
                ]
                if not fits:
                    return None
                form, turn = fits[0]
                b = self.forms.boxes[form, turn]
                low, high = np.array(box[:2]) - b[:2], np.array(box[2:]) - b[2:]
            x, y = (
                rng.uniform(low, np.maximum(high, low))
                if spot is None
                else np.clip((spot[2:4] + spot[4:6]) / 2 - (b[:2] + b[2:]) / 2, low, np.maximum(high, low))
            )
            arena.put(k, form, turn, float(x), float(y))
        arena.begin()
        status, _spent = arena.advance(kernel.random_state(seed), TRY_QUIET, TRY_BUDGET, self._stop)
        if status != kernel.FEASIBLE:
            return None
        return Lie(arena.right, arena.pose[: arena.n].copy(), arena.place[: arena.n].copy())

    def _apply(self, task: Try, done: Tried) -> None:
        laid, victim = task.sheet, task.victim
        if victim is None:
            for name in task.names:
                self.waiting.remove(name)
            self.waiting += done.left
        elif done.emptied is not None:
            names, kinds, lie, version = done.emptied
            if victim.version != version:
                return  # the other thread has changed that sheet meanwhile
            victim.names, victim.kinds, victim.lie = names, kinds, lie
            victim.version += 1
            if all(self.worth.parts[p].fill for p, _c in victim.names):
                self._close(victim)
        else:
            if any(n not in victim.names for n in task.names):
                return  # it was closed meanwhile, and they wait now
            self._leave(victim, task.names)
        laid.names, laid.kinds, laid.lie = done.names, done.kinds, done.lie
        laid.version += 1
        self._window, self._failures, self.changed = [], 0, True

    def failed(self) -> Counter[str]:
        """Copies by part that have no place."""
        return Counter(p for p, _c in self.waiting)
