"""Rectangles on rectangular sheets: their own, faster road, and layouts for a panel saw.

Three packers take the pieces in an order; a local search over orders looks for the best layout:

* largest free rectangles (Jylanki 2010, from memory), scored by short side, long side, area or reach;
* guillotine: every cut goes from edge to edge of what is left, so that a saw can make it;
* a tree search without any waste for sets whose areas fill the sheet exactly (perfect dissections).

Spacing is folded in once: pieces and sheets grow by it, since it need not be kept to the sheet's edge.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Array
from venzo.core.nesting.bound import room
from venzo.core.nesting.forms import turns_of
from venzo.core.nesting.mixes import Mix, cheaper
from venzo.core.nesting.packers import EPS, MOST_FREE, Pieces, Sheets, judge, less, pack
from venzo.core.nesting.problem import NestProblem, Placement, SheetKind
from venzo.core.nesting.sheetwise import round_of_sheets
from venzo.core.nesting.worth import Worth
from venzo.core.snags import BadInput

ROUNDS = 60_000
"""Pieces laid per thread and step: about a tenth of a second."""
NODES = 3_000_000
"""Nodes of the waste-free tree search per step."""
CLIMB_EVERY = 5
"""Of so many steps one searches for one order for all sheets; the others fill sheet after sheet."""
SHEET_BUDGETS, MOST_LAID = (80_000, 240_000), 2_000_000
"""Pieces laid for each sheet, in turn, and in all per step at most."""
LOOK = 0.05
"""Seconds between two looks at the stop while a round goes on."""
MOST_MIXES = 12
"""Cheaper mixes of sheets among which the steps go round."""
MOSTLY = 0.6
"""Share of the parts' area in rectangles from which on boxes are laid for a start."""
PATIENCE = 60
"""Steps without a better layout after which the general search takes over."""


@numba.njit(cache=True, nogil=True, error_model="numpy")
def climb(
    order, pieces, sheets, guillotine, settings, best_key, best_out, laid, seed, fresh
):  # pragma: no cover - compiled
    """Local search over orders: swap, move or reverse pieces of one class (priority), keep what is no worse.

    ``order``, ``best_key``, ``best_out`` and ``settings`` (score, best_bin, split, guillotine) hold the state
    and are changed in place; ``laid`` pieces are laid in all.
    """
    np.random.seed(seed)
    n, m, classes = len(order), len(sheets.size), pieces.classes
    free = np.empty((m, MOST_FREE, 4))
    counts = np.zeros(m, np.int64)
    out, key, right = np.zeros((n, 4)), np.zeros(6), np.zeros(m)
    trial, mode = order.copy(), settings.copy()
    now = np.full(6, 1e300)
    done = 0
    quiet = 0
    first = fresh
    while done < laid:
        trial[:] = order
        mode[:] = settings
        if not first:
            pick = np.random.random()
            if pick < 0.12:
                mode[0] = np.random.randint(5)
                mode[1] = np.random.randint(2)
                mode[2] = np.random.randint(4)
                mode[3] = 1 if guillotine else np.random.randint(2)
            for _ in range(1 + (np.random.randint(4) if pick > 0.7 else 0)):
                i, j = np.random.randint(n), np.random.randint(n)
                if classes[trial[i]] != classes[trial[j]]:
                    continue
                if np.random.random() < 0.5:
                    trial[i], trial[j] = trial[j], trial[i]
                else:
                    v = trial[i]
                    if i < j:
                        for k in range(i, j):
                            trial[k] = trial[k + 1]
                    else:
                        for k in range(i, j, -1):
                            trial[k] = trial[k - 1]
                    trial[j] = v
                    # a move across another class would break the order of classes
                    for k in range(1, n):
                        if classes[trial[k - 1]] > classes[trial[k]]:
                            trial[:] = order
                            break
        first = False
        pack(trial, pieces, sheets, mode, free, counts, out)
        judge(out, pieces, sheets, right, key)
        done += n
        quiet += 1
        if less(key, now) <= 0 or quiet > 4000 // max(1, n // 10):
            if less(key, now) < 0 or quiet > 4000 // max(1, n // 10):
                quiet = 0
            now[:] = key
            order[:] = trial
            settings[:] = mode
        if less(key, best_key) < 0:
            best_key[:] = key
            best_out[:] = out


@numba.njit(cache=True, nogil=True, error_model="numpy")
def exact(w, h, ways, width, height, state, xs, ys, turned, limit):  # pragma: no cover - compiled
    """Tree search without waste: lay a piece into the left end of the lowest notch, until the sheet is full.

    Pieces come sorted, largest first. ``state`` (int64): depth, then per depth the choice tried (2 * piece +
    turn); kept between calls. Returns 1 solved, 0 impossible, 2 more nodes wanted.
    """
    n = len(w)
    used = np.zeros(n, np.bool_)
    # skyline after each depth: x and level of its segments
    sx, sy = np.zeros((n + 1, n + 2)), np.zeros((n + 1, n + 2))
    sn = np.zeros(n + 1, np.int64)
    sn[0] = 1
    sx[0, 1] = width
    depth = int(state[0])
    choice = state[1:]
    for d in range(depth):
        _lay(d, choice[d], w, h, sx, sy, sn, xs, ys, turned, used, width)
    if state[1 + depth] == -9:
        choice[depth] = -1
    nodes = 0
    while True:
        if depth == n:
            state[0] = depth
            return 1
        if nodes > limit:
            state[0] = depth
            return 2
        # the lowest notch, the left one of equals
        k = 0
        for q in range(1, sn[depth]):
            if sy[depth, q] < sy[depth, k] - EPS:
                k = q
        gap = sx[depth, k + 1] - sx[depth, k]
        room = height - sy[depth, k]
        found = -1
        c = choice[depth] + 1
        while c < 2 * n:
            i, turn = c >> 1, c & 1
            if (
                used[i]
                or not (ways[i] >> turn) & 1
                or (turn == 1 and (ways[i] & 1) and abs(w[i] - h[i]) < EPS)
            ):
                c += 1
                continue
            # of equal pieces only the first unused one is tried
            same = False
            for q in range(i - 1, -1, -1):
                if abs(w[q] - w[i]) > EPS or abs(h[q] - h[i]) > EPS:
                    break
                if not used[q] and ways[q] == ways[i]:
                    same = True
                    break
            pw, ph = (w[i], h[i]) if turn == 0 else (h[i], w[i])
            if same or pw > gap + EPS or ph > room + EPS:
                c += 1
                continue
            rest = gap - pw
            if rest > EPS:
                # something must fit into what is left of the notch
                fits = False
                for q in range(n):
                    if (
                        not used[q]
                        and q != i
                        and ((ways[q] & 1 and w[q] <= rest + EPS) or (ways[q] & 2 and h[q] <= rest + EPS))
                    ):
                        fits = True
                        break
                if not fits:
                    c += 1
                    continue
            found = c
            break
        nodes += 1
        if found < 0:
            if depth == 0:
                return 0
            choice[depth] = -1
            depth -= 1
            used[choice[depth] >> 1] = False
            continue
        choice[depth] = found
        _lay(depth, found, w, h, sx, sy, sn, xs, ys, turned, used, width)
        depth += 1
        if depth < n:
            choice[depth] = -1


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _lay(d, c, w, h, sx, sy, sn, xs, ys, turned, used, width):  # pragma: no cover - compiled
    """Put choice ``c`` on the skyline of depth ``d``, making that of depth d + 1."""
    i, turn = c >> 1, c & 1
    pw, ph = (w[i], h[i]) if turn == 0 else (h[i], w[i])
    used[i] = True
    m = sn[d]
    k = 0
    for q in range(1, m):
        if sy[d, q] < sy[d, k] - EPS:
            k = q
    x, y = sx[d, k], sy[d, k]
    xs[i], ys[i], turned[i] = x, y, turn
    e = d + 1
    count = 0
    for q in range(m):
        a, b, level = sx[d, q], sx[d, q + 1], sy[d, q]
        if q != k:
            if count and abs(sy[e, count - 1] - level) < EPS:
                continue
            sx[e, count], sy[e, count] = a, level
            count += 1
            continue
        if not (count and abs(sy[e, count - 1] - (y + ph)) < EPS):
            sx[e, count], sy[e, count] = x, y + ph
            count += 1
        if b - (x + pw) > EPS:
            sx[e, count], sy[e, count] = x + pw, level
            count += 1
    sx[e, count] = width
    sn[e] = count


@dataclass
class _Piece:
    part: str
    w: float
    h: float


Ways = dict[tuple[str, float | None], list[tuple[int, float]]]
"""For each part and grain of a sheet its ways to lie: turned (1) or not (0), rotation in degrees."""


def shape_of(problem: NestProblem, worth: Worth) -> Ways | None:
    """Each part's ways, or None when the problem is not one of plain rectangles."""
    if problem.locked or problem.repeat or any(s.outline or s.keepouts for s in problem.sheets):
        return None
    out: Ways = {}
    for p in problem.parts:
        if not p.quantity:
            continue
        region = worth.regions[p.id]
        if (
            p.group
            or (region.holes and problem.part_in_hole)
            or bool((np.asarray(region.outline.vertices)[:, 2] != 0).any())
        ):
            return None
        corner = np.array(Polygon(region.outline.points()).minimum_rotated_rectangle.exterior.coords)[:2]
        lean = float(-np.degrees(np.arctan2(*(corner[1] - corner[0])[::-1])))
        for grain in {s.grain for s in problem.sheets}:
            turns = turns_of(p, grain, [lean % 360, (lean + 90) % 360])
            sizes = [_box(worth, p.id, t) for t in turns]
            if any(abs(w * h - abs(region.outline.area)) > 1e-6 * w * h for w, h in sizes):
                return None
            out[p.id, grain] = _ways(turns, sizes)
    return out


def boxes_of(problem: NestProblem, worth: Worth) -> Ways | None:
    """Each part's ways as its box, for a start where most of the area is in rectangles; None where it is
    not, or where boxes would not do.
    """
    if problem.locked or problem.repeat or any(s.outline or s.keepouts for s in problem.sheets):
        return None
    parts = [p for p in problem.parts if p.quantity]
    if any(p.group or p.rotations == "free" for p in parts):
        return None
    square = 0.0
    out: Ways = {}
    for p in parts:
        area = abs(worth.regions[p.id].outline.area)
        for grain in {s.grain for s in problem.sheets}:
            turns = turns_of(p, grain, [])
            sizes = [_box(worth, p.id, t) for t in turns]
            out[p.id, grain] = _ways(turns, sizes)
            if sizes and min(w * h for w, h in sizes) <= area * (1 + 1e-6):
                square += p.quantity * area / len({s.grain for s in problem.sheets})
    whole = sum(p.quantity * abs(worth.regions[p.id].outline.area) for p in parts)
    return out if square >= MOSTLY * whole else None


def _box(worth: Worth, part: str, turn: float) -> tuple[float, float]:
    """Width and height of a turned part."""
    x0, y0, x1, y1 = worth.regions[part].outline.placed(0, 0, turn, False).bbox
    return x1 - x0, y1 - y0


def _ways(turns: Sequence[float], sizes: Sequence[tuple[float, float]]) -> list[tuple[int, float]]:
    """One rotation for each of the two ways a box can lie, as seen from the first; others are of no use to
    boxes.
    """
    out: list[tuple[int, float]] = []
    for t, size in zip(turns, sizes, strict=True):
        if np.abs(np.subtract(size, sizes[0])).max() < 1e-6:
            turned = 0
        elif np.abs(np.subtract(size, sizes[0][::-1])).max() < 1e-6:
            turned = 1
        else:
            continue
        if turned not in [w for w, _t in out]:
            out.append((turned, t))
    return out


class Rectangles:
    """The search for plain rectangles. ``placements`` is the best layout so far.

    Args:
        problem: of plain rectangles (``shape_of`` gives its ways).
        worth: the judge of better and worse.
        ways: from ``shape_of``.
        seed: same seed and steps give the same layouts.
    """

    def __init__(
        self,
        problem: NestProblem,
        worth: Worth,
        ways: Ways,
        seed: int,
    ):
        self.problem, self.worth, self._ways = problem, worth, ways
        s = problem.spacing
        names: list[str] = []
        sizes: list[tuple[float, float]] = []
        for p in problem.parts:
            x, y = self._size(p.id)
            names += [p.id] * p.quantity
            sizes += [(x + s, y + s)] * p.quantity
        self.names = names
        order = sorted(
            range(len(names)),
            key=lambda i: (
                worth.parts[names[i]].fill,
                -worth.parts[names[i]].priority,
                -sizes[i][0] * sizes[i][1],
            ),
        )
        self.w, self.h = np.array([q[0] for q in sizes]), np.array([q[1] for q in sizes])
        classes = {
            c: k
            for k, c in enumerate(sorted({(worth.parts[n].fill, -worth.parts[n].priority) for n in names}))
        }
        self._classes = np.array([classes[worth.parts[n].fill, -worth.parts[n].priority] for n in names])
        self._fill = np.array([worth.parts[n].fill for n in names])
        self._weight = np.array([worth.areas[n] if worth.parts[n].fill else worth.weight(n) for n in names])
        sheets = sorted(problem.sheets, key=lambda k: (k.price / (k.width * k.height), k.price))
        self._sheets: list[tuple[SheetKind, int]] = []
        for k in sheets:
            need = sum(1 for _ in names)
            self._sheets += [(k, c) for c in range(min(k.quantity, need))]
        kinds = {k.id: i for i, k in enumerate(sheets)}
        self._bits = np.zeros((len(names), len(sheets)), np.int64)
        for i, name in enumerate(names):
            for k in sheets:
                first_way = next((w for (part, _g), w in ways.items() if part == name and w), [(0, 0.0)])
                for turned, _t in self._by_size(name, k.grain, first_way[0][1]):
                    self._bits[i, kinds[k.id]] |= 1 << turned
        self._kinds = np.array([kinds[k.id] for k, _c in self._sheets])
        self._bins = np.array(
            [
                [max(0.0, k.width - 2 * k.margin + s), max(0.0, k.height - 2 * k.margin + s)]
                for k, _c in self._sheets
            ]
        ).reshape(-1, 2)
        self._costs = np.array([k.price for k, _c in self._sheets])
        self.pieces = Pieces(self.w, self.h, self._bits, self._fill, self._weight, self._classes)
        self.sheets = Sheets(self._bins, self._kinds, self._costs)
        n = len(names)
        self._orders = self._sorted(sizes, order)
        self._states = [
            (
                np.array(order),
                np.array([k, 0, 0, int(problem.guillotine)]),
                np.full(6, 1e300),
                np.full((n, 4), -1.0),
            )
            for k in (0, 3)
        ]
        self._values = [self.w * self.h, self.w * self.h]
        self._rng = np.random.default_rng([seed, 2])
        self._halt = np.zeros(1, np.int64)
        self._rooms = [room(k, s) for k in problem.sheets]
        self._need = sum(
            p.quantity * (self._size(p.id)[0] + s) * (self._size(p.id)[1] + s)
            for p in problem.parts
            if not p.fill
        )
        self._seeds = iter(range(seed * 7919 + 1, 2**31))
        self._pool = ThreadPoolExecutor(2)
        self.best_key: Array = np.full(6, 1e300)
        self._out: Array = np.full((n, 4), -1.0)
        self._steps = self._quiet = 0
        self.changed = False
        self._tree = self._tree_state() if not problem.guillotine else None

    def _size(self, part: str) -> tuple[float, float]:
        """Width and height of a part as it first may lie."""
        first = next((w for (own, _g), w in self._ways.items() if own == part and w), [(0, 0.0)])
        return _box(self.worth, part, first[0][1])

    def _sorted(self, sizes: list[tuple[float, float]], order: list[int]) -> list[list[int]]:
        """The usual orders to begin with: by area, perimeter, long side, short side, difference and ratio of
        the sides, within each class.
        """
        measures: list[Callable[[float, float], float]] = [
            lambda w, h: w * h,
            lambda w, h: w + h,
            lambda w, h: max(w, h),
            lambda w, h: min(w, h),
            lambda w, h: abs(w - h),
            lambda w, h: max(w, h) / min(w, h),
        ]

        def by(measure: Callable[[float, float], float]) -> list[int]:
            return sorted(order, key=lambda i: (int(self._classes[i]), -measure(*sizes[i])))

        return [order, *(by(m) for m in measures[1:])]

    def _sweep(self) -> None:
        """Every usual order with every packer once; each thread goes on from one of the two best."""
        n = len(self.names)
        free, counts, out = (
            np.empty((len(self._bins), MOST_FREE, 4)),
            np.zeros(len(self._bins), np.int64),
            np.zeros((n, 4)),
        )
        right = np.zeros(len(self._bins))
        found = []
        for order in self._orders[: 6 if n <= 300 else 2]:
            for cut in (1,) if self.problem.guillotine else (0, 1):
                for split in range(4 if cut else 1):
                    for score in range(5):
                        for best_bin in range(2):
                            key = np.zeros(6)
                            how = np.array([score, best_bin, split, cut])
                            pack(np.array(order), self.pieces, self.sheets, how, free, counts, out)
                            judge(out, self.pieces, self.sheets, right, key)
                            found.append((tuple(np.round(key, 6)), order, (score, best_bin, split, cut)))
                            if less(key, self.best_key) < 0:
                                self._take(out)
        found.sort(key=lambda q: q[0])
        for (state_order, mode, _key, _out), (_k, order, best_mode) in zip(self._states, found, strict=False):
            state_order[:], mode[:] = order, best_mode

    def _by_size(self, part: str, grain: float | None, base: float) -> list[tuple[int, float]]:
        """Ways on a sheet with this grain, turned or not as seen from rotation ``base``."""
        size0 = _box(self.worth, part, base)
        sizes = [(_box(self.worth, part, t), t) for _turned, t in self._ways[part, grain]]
        return [(0 if np.abs(np.subtract(size, size0)).max() < 1e-6 else 1, t) for size, t in sizes]

    def _tree_state(self):
        """State of the waste-free search, when the pieces' area is that of a sheet's room over some
        length.
        """
        if len(self.names) > 60 or len(self.problem.sheets) != 1 or not len(self._bins):
            return None
        width, height = self._bins[0]
        area = float(np.sum(self.w * self.h))
        length = area / height if height else 0.0
        if not 0 < length <= width + 1e-6:
            return None
        order = sorted(range(len(self.names)), key=lambda i: (-self.w[i] * self.h[i], self.w[i], self.h[i]))
        state = np.full(len(order) + 2, -1, np.int64)
        state[0] = 0
        return order, state, float(min(length, width)), float(height)

    def step(self, stop: Callable[[], bool]) -> bool:
        """One step of both threads; False when the search has gone quiet, is solved or ``stop`` says so."""
        self.changed = False
        n = len(self.names)
        if not n or not len(self._bins):
            return False
        if self._tree is not None:
            order, state, length, height = self._tree
            xs, ys, turned = np.zeros(n), np.zeros(n), np.zeros(n, np.int64)
            # the notch search builds upwards; lengths run along X here, so sheets stand on their left edge
            done = exact(
                self.h[order],
                self.w[order],
                self._bits[order, 0],
                height,
                length,
                state,
                xs,
                ys,
                turned,
                NODES // 10,
            )
            if done == 1:
                out = np.zeros((n, 4))
                for k, i in enumerate(order):
                    out[i] = 0, ys[k], xs[k], turned[k]
                self._take(out)
                self._tree = None
                return False
            if done == 0:
                self._tree = None
        fresh = self._steps == 0
        if fresh:
            self._sweep()

        def run(k: int, seed: int) -> None:
            order, mode, key, out = self._states[k]
            guillotine, laid = self.problem.guillotine, max(ROUNDS, 2 * n)
            climb(order, self.pieces, self.sheets, guillotine, mode, key, out, laid, seed, fresh)

        seeds = [next(self._seeds) for _ in range(2)]
        self._steps += 1
        self._quiet += 1
        if (self.best_key[2] > 1 or self._mixes()) and self._steps % CLIMB_EVERY:
            found = self._rounds(seeds, stop)
        else:
            list(self._pool.map(run, range(2), seeds))
            found = [(key, out) for _o, _m, key, out in self._states]
        for key, out in found:
            if less(key, self.best_key) < 0:
                self._take(out)
        return (self._quiet < PATIENCE or self.problem.guillotine) and not stop()

    def _tasks(self) -> list[tuple[NDArray[np.int64], NDArray[np.int64]]]:
        """For each thread the pieces to be laid anew and the sheets to be filled with them, in order."""
        n, every = len(self.names), np.arange(len(self._bins))
        mixes = self._mixes()
        if mixes and self._steps % 2:
            counts = mixes[self._steps // 2 % len(mixes)].counts
            wanted = dict(zip((k.id for k in self.problem.sheets), counts, strict=True))
            mix = np.array([b for b, (k, c) in enumerate(self._sheets) if c < wanted[k.id]])
            # the largest first, so that the small ones take what is left; or the other way round
            size = self._bins[mix].prod(axis=1)
            return [(np.arange(n), mix[np.argsort(s * size, kind="stable")]) for s in (-1, 1)]
        if self._steps % 4 == 1:
            return [(np.arange(n), every)] * 2
        return [self._part_of_best() for _ in range(2)]

    def _mixes(self) -> list[Mix]:
        """Cheaper mixes of sheets that are worth a try."""
        if len({(k.width, k.height, k.price) for k, _c in self._sheets}) < 2:
            return []
        return cheaper(self.problem, self._rooms, self._need, float(self.best_key[1]))[:MOST_MIXES]

    def _part_of_best(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Two or three sheets of the best packing, the least used among them, with their pieces and those
        that wait.
        """
        bins = self._out[:, 0].astype(np.int64)
        reach = np.zeros(len(self._bins))
        long = self._out[:, 1] + np.where(self._out[:, 3] == 0, self.w, self.h)
        np.maximum.at(reach, bins[bins >= 0], long[bins >= 0])
        used = np.flatnonzero(reach)
        last = used[np.argmin(reach[used] / self._bins[used, 0])]
        others = self._rng.permutation(used[used != last])[: int(self._rng.integers(1, 3))]
        which = np.append(others, last)
        return np.flatnonzero(np.isin(bins, which) | (bins < 0)), which

    def _rounds(self, seeds: list[int], stop: Callable[[], bool]) -> list[tuple[Array, Array]]:
        """A round of both threads, ended as soon as ``stop`` says so: it takes up to a second."""
        self._halt[0] = 0
        tasks = self._tasks()
        waiting = {self._pool.submit(self._sheet_by_sheet, k, tasks[k], seeds[k]): k for k in range(2)}
        left = set(waiting)
        while left:
            _done, left = wait(left, timeout=LOOK)
            if left and stop():
                self._halt[0] = 1
        return [f.result() for f in sorted(waiting, key=lambda f: waiting[f])]

    def _sheet_by_sheet(
        self, k: int, task: tuple[NDArray[np.int64], NDArray[np.int64]], seed: int
    ) -> tuple[Array, Array]:
        own, which = task
        key, out = np.zeros(6), self._out.copy()
        sheets = max(1, min(len(which), int(self.best_key[2])))
        laid = min(SHEET_BUDGETS[self._steps % len(SHEET_BUDGETS)], MOST_LAID // sheets)
        round_of_sheets(
            self._values[k],
            self.pieces,
            self.sheets,
            own,
            which,
            self.problem.guillotine,
            laid,
            seed,
            out,
            key,
            self._halt,
        )
        return key, out

    def _take(self, out: Array) -> None:
        right, key = np.zeros(len(self._bins)), np.zeros(6)
        judge(out, self.pieces, self.sheets, right, key)
        self.best_key, self._out, self._quiet, self.changed = key, out.copy(), 0, True

    def placements(self) -> list[Placement]:
        """The best layout so far as placements; copies count up in the order of the parts."""
        copies: dict[str, int] = {}
        out: list[Placement] = []
        for i, name in enumerate(self.names):
            b = int(self._out[i, 0])
            if b < 0:
                continue
            sheet, copy = self._sheets[b]
            base = next(w for (part, _g), w in self._ways.items() if part == name and w)[0][1]
            rotation = next(
                t for turned, t in self._by_size(name, sheet.grain, base) if turned == int(self._out[i, 3])
            )
            low = self.worth.regions[name].outline.placed(0, 0, rotation, False).bbox
            x, y = self._out[i, 1] + sheet.margin - low[0], self._out[i, 2] + sheet.margin - low[1]
            number = copies.get(name, 0)
            copies[name] = number + 1
            out.append(
                Placement(
                    part=name,
                    copy=number,
                    sheet=sheet.id,
                    sheet_copy=copy,
                    x=float(x),
                    y=float(y),
                    rotation=rotation,
                    mirrored=False,
                )
            )
        return out


def refuse_other_shapes(problem: NestProblem, worth: Worth) -> None:
    """Raise BadInput, naming what stands in the way, when a guillotine layout is asked for and not all is
    plain rectangles.
    """
    if problem.locked:
        raise BadInput("a guillotine layout cannot keep locked pieces; unlock them or switch guillotine off")
    for s in problem.sheets:
        if s.outline or s.keepouts:
            raise BadInput(
                f"a guillotine layout needs plain rectangular sheets; sheet {s.id!r} has"
                f" {'an outline' if s.outline else 'keep-outs'}"
            )
    for p in problem.parts:
        if p.quantity:
            alone = problem.model_copy(update={"parts": [p]})
            if shape_of(alone, worth) is None:
                raise BadInput(
                    f"a guillotine layout needs plain rectangles lying square; part {p.id!r} is not one (or"
                    " belongs to a group)"
                )
