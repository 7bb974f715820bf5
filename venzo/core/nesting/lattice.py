"""Many like pieces in columns or rows: what a hand does with two hundred hexagons, found exactly.

A *unit* is a piece, or a piece with a turned (or mirrored) one against it (a double lattice: Kuperberg and
Kuperberg 1990, from memory). Units stand in columns one pitch apart; columns follow each other with a shift
along them. Where a unit may not lie, seen from another, is the union of their members' no-fit polygons, grown
by the spacing; its outermost crossings with a line give the least pitch and, for every shift, the least
distance of columns. Columns are laid within the sheet one by one, so that what its edges cost counts too;
rows are columns of the sheet turned. Where columns that lean are denser, a leaning lattice is clipped by the
sheet instead, at the phase at which it needs the least of it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numba
import numpy as np

from venzo.core.geometry.clip import union
from venzo.core.geometry.contour import Array
from venzo.core.geometry.offset import offset_points
from venzo.core.nesting.fill import SAFE, Fill, Pose
from venzo.core.nesting.nofit import no_fit
from venzo.core.nesting.problem import NestProblem, Placement, SheetKind
from venzo.core.nesting.worth import Worth

MANY = 8
"""Like pieces from which columns are tried."""
EACH = 0.15
"""Share of the area that one part must have: columns of many small lots take seconds and gain nothing."""
SHARE = 0.25
"""Of the order's area that such pieces must make up."""
MOST_PARTS = 6
"""Kinds of such pieces that are laid in columns, the largest area first."""
MOST_POSES = 8
"""Ways to lie of which all pairs are tried."""
CONTACTS = 64
"""Places at which a second piece of a unit is tried against the first."""
SHIFTS = 48
"""Shifts from column to column that are tried."""
LAID = 10
"""Units of the densest that are laid out in full."""
SHORTER = 1e-3
"""Of a room's length: rows are not made shorter by less."""
DENSER = 0.985
"""Of the area that a unit takes in upright columns: a lattice that leans must take less than this share."""
LEANING = 4
"""Leaning lattices of a unit that are clipped."""
PHASES = 6
"""Places of the lattice against the sheet, each way, that are tried."""
MOST_CLIPPED = 60_000
"""Units of a clipped lattice."""
EPS = 1e-7


@numba.njit(cache=True, nogil=True)
def pitch(edges):  # pragma: no cover - compiled
    """Least distance of units straight above each other: the outermost crossing with x = 0."""
    most = 0.0
    for k in range(len(edges)):
        x0, y0, x1, y1 = edges[k]
        if (x0 > 0.0) == (x1 > 0.0) and x0 != 0.0 and x1 != 0.0:
            continue
        if x0 == x1:
            y = max(y0, y1)
        else:
            y = y0 + (y1 - y0) * (0.0 - x0) / (x1 - x0)
        if y > most:
            most = y
    return most


@numba.njit(cache=True, nogil=True)
def apart(edges, period, shift, lean=0.0):  # pragma: no cover - compiled
    """Least distance of two columns of a period, the second shifted by so much along them; ``lean``: mm along
    X from each unit to the next.
    """
    most = 0.0
    for k in range(len(edges)):
        x0, y0, x1, y1 = edges[k]
        low, high = min(y0, y1), max(y0, y1)
        n = math.ceil((low - shift) / period - 1e-12)
        while shift + n * period <= high + 1e-12:
            y = shift + n * period
            x = max(x0, x1) if y0 == y1 else x0 + (x1 - x0) * (min(max(y, low), high) - y0) / (y1 - y0)
            if x - n * lean > most:
                most = x - n * lean
            n += 1
    return most


@numba.njit(cache=True, nogil=True)
def nearest(edges, period, lean, shifts):  # pragma: no cover - compiled
    """The least distance of two columns over so many shifts, and that shift."""
    best, at = np.inf, 0.0
    for k in range(shifts):
        shift = period * k / shifts
        d = apart(edges, period, shift, lean)
        if d < best:
            best, at = d, shift
    return best, at


@numba.njit(cache=True, nogil=True)
def one_by_one(edges, period, shift, zigzag, size, members, wanted):  # pragma: no cover - compiled
    """Columns laid one after the other until there are as many pieces as wanted, or no room.

    Args:
        zigzag: every other column is shifted; else each by so much more than the one before, modulo a period.
        size: length and width of the room, width and height of a unit.

    Returns:
        x and offset of each column, and how many pieces stand in all.
    """
    length, width, unit_width, unit_height = size
    columns = np.empty((4096, 2))
    n = count = 0
    while count < wanted and n < len(columns):
        if zigzag:
            offset = shift if n % 2 else 0.0
            if offset > width - unit_height + 1e-7:
                break
        else:
            offset = (n * shift) % period
            if offset > width - unit_height + 1e-7:
                offset = 0.0
        x = 0.0
        for k in range(max(0, n - 4), n):
            step = (offset - columns[k, 1]) % period
            x = max(x, columns[k, 0] + apart(edges, period, step))
        if x + unit_width > length + 1e-7:
            break
        columns[n, 0], columns[n, 1] = x, offset
        n += 1
        count += members * (int((width - unit_height - offset) / period + 1e-7) + 1)
    return columns[:n], count


@numba.njit(cache=True, nogil=True)
def met(edges, u, v):  # pragma: no cover - compiled
    """Does a unit of the lattice of two vectors lie where it may not, seen from the one at 0? What touches
    does not.
    """
    far = 0.0
    for k in range(len(edges)):
        far = max(far, abs(edges[k, 0]), abs(edges[k, 1]))
    det = abs(u[0] * v[1] - u[1] * v[0])
    if det < 1e-6:
        return True
    reach = 2.0 * far * max(np.hypot(u[0], u[1]), np.hypot(v[0], v[1])) / det
    n = int(min(reach + 1.0, 40.0))
    for i in range(-n, n + 1):
        for j in range(0, n + 1):
            if j == 0 and i <= 0:
                continue
            x, y = i * u[0] + j * v[0], i * u[1] + j * v[1]
            if abs(x) > far or abs(y) > far:
                continue
            winding, near = 0, False
            for k in range(len(edges)):
                x0, y0, x1, y1 = edges[k]
                ex, ey = x1 - x0, y1 - y0
                long2 = ex * ex + ey * ey
                t = 0.0 if long2 == 0.0 else min(1.0, max(0.0, ((x - x0) * ex + (y - y0) * ey) / long2))
                if np.hypot(x0 + t * ex - x, y0 + t * ey - y) < 1e-5:
                    near = True
                    break
                side = ex * (y - y0) - ey * (x - x0)
                if y0 <= y < y1 and side > 0:
                    winding += 1
                elif y1 <= y < y0 and side < 0:
                    winding -= 1
            if not near and winding > 0:
                return True
    return False


@dataclass(frozen=True)
class Member:
    """A pose in a unit: the lower left corner of its box, and the box's size."""

    pose: Pose
    x: float
    y: float
    width: float
    height: float

    @property
    def turned(self) -> Member:
        """Seen with X and Y changed."""
        return Member(self.pose, self.y, self.x, self.height, self.width)


@dataclass(frozen=True, eq=False)
class Unit:
    """Members, the box of all at (0, 0); ``edges``: of where another unit may not lie, with some inside it;
    ``loops``: the no-fit polygons that these are of.
    """

    members: tuple[Member, ...]
    loops: tuple[Array, ...]
    edges: Array
    width: float
    height: float

    @property
    def turned(self) -> Unit:
        """Seen with X and Y changed: its rows are columns."""
        # seen in a mirror the loops go the other way round
        loops = tuple(np.ascontiguousarray(loop[::-1, ::-1]) for loop in self.loops)
        return Unit(tuple(m.turned for m in self.members), loops, _edges_of(loops), self.height, self.width)


@dataclass(frozen=True)
class Room:
    """A rectangle of a sheet: its lower left corner, and how long (X) and wide (Y) it is, mm."""

    x: float
    y: float
    length: float
    width: float


Stop = Callable[[], bool]
Spot = tuple[Pose, float, float]
"""A pose with the lower left corner of its box."""


class Lattice:
    """Lays the like pieces of a problem in columns, and the rest about them.

    Args:
        problem: checked by ``NestProblem.check``.
        fill: whose poses are used, and that lays the rest.
    """

    def __init__(self, problem: NestProblem, worth: Worth, fill: Fill):
        self.problem, self.worth, self.fill = problem, worth, fill
        self.many = self._many()
        self._units: dict[tuple[str, float | None], list[Unit]] = {}

    def _many(self) -> list[str]:
        """Parts that are worth it, the largest area first; none where something keeps off free columns."""
        p = self.problem
        plain = [s for s in p.sheets if s.quantity and not s.outline and not s.keepouts]
        if p.locked or p.guillotine or not plain or any(q.group for q in p.parts):
            return []
        area = {q.id: self.worth.areas[q.id] * q.quantity for q in p.parts}
        # what only fills up never opens a sheet
        whole = sum(area.values())
        often = [q.id for q in p.parts if q.quantity >= MANY and not q.fill and area[q.id] >= EACH * whole]
        many = sorted(often, key=lambda i: -area[i])[:MOST_PARTS]
        return many if sum(area[i] for i in many) >= SHARE * max(sum(area.values()), EPS) else []

    def layout(self, stop: Callable[[], bool] = lambda: False) -> list[Placement] | None:
        """A whole layout; None where there is nothing to be laid in columns, or ``stop`` came first."""
        if not self.many:
            return None
        sheets = [
            (s, n)
            for s in sorted(self.problem.sheets, key=lambda s: (s.price / (s.width * s.height), -s.price))
            if not s.outline and not s.keepouts
            for n in range(s.quantity)
        ]
        placed: list[Placement] = []
        at, used = 0, 0.0
        for part in self.many:
            left = self.fill.parts[part].quantity
            while left and at < len(sheets) and not stop():
                kind, copy = sheets[at]
                spots = self._laid(part, kind, used, left, stop)
                if spots:
                    first = self.fill.parts[part].quantity - left
                    placed += [self._placement(s, kind, copy, first + i) for i, s in enumerate(spots)]
                    left -= len(spots)
                    used = max(x + pose.width for pose, x, _y in spots) - kind.margin + self.problem.spacing
                if left:
                    at, used = at + 1, 0.0
        if stop() or not placed:
            return None
        rest = self.problem.model_copy(update={"locked": placed})
        draft = Fill(rest).next(stop)
        return draft.placements if draft is not None and not draft.late else None

    def _placement(self, spot: Spot, kind: SheetKind, copy: int, n: int) -> Placement:
        pose, x, y = spot
        return Placement(
            part=pose.part,
            copy=n,
            sheet=kind.id,
            sheet_copy=copy,
            x=x - pose.dx,
            y=y - pose.dy,
            rotation=pose.rotation,
            mirrored=pose.mirrored,
        )

    def _laid(
        self, part: str, kind: SheetKind, used: float, wanted: int, stop: Callable[[], bool]
    ) -> list[Spot]:
        """As many pieces of a part as are wanted or go into what is free of a sheet, on the least length."""
        room = Room(
            kind.margin + used,
            kind.margin,
            kind.width - 2 * kind.margin - used,
            kind.height - 2 * kind.margin,
        )
        best: tuple[tuple[int, float], list[Spot]] = ((0, math.inf), [])
        for unit in self._densest(part, kind, room, stop):
            for way in (_columns, _rows, _leaning):
                if stop():
                    return []
                spots = way(unit, room, wanted, stop)
                if not spots:
                    continue
                length = max(x + pose.width for pose, x, _y in spots)
                worth = (-len(spots), length)
                if worth < best[0]:
                    best = (worth, spots)
        return best[1]

    def _densest(self, part: str, kind: SheetKind, room: Room, stop: Callable[[], bool]) -> list[Unit]:
        """The units of a part that fit, by the area that each takes in an endless lattice."""
        key = (part, kind.grain)
        if key not in self._units:
            units = self._all_units(_upright(self.fill.poses(part, kind.grain)), stop)
            if stop():
                return []
            by_piece = sorted(units, key=lambda u: _density(u) / len(u.members))
            singles = [u for u in by_piece if len(u.members) == 1][: LAID // 2]
            self._units[key] = list(dict.fromkeys((*by_piece[:LAID], *singles)))
        return [u for u in self._units[key] if u.width <= room.length + EPS and u.height <= room.width + EPS]

    def _all_units(self, poses: Sequence[Pose], stop: Callable[[], bool]) -> list[Unit]:
        """Every pose alone, and with another one against it."""
        grow = self.problem.spacing + (SAFE if self.problem.spacing else 0.0)

        def kept_off(a: Pose, b: Pose) -> list[Array]:
            loops = no_fit([a.rings[0]], [b.rings[0]])
            return offset_points(loops, grow) if grow else loops

        own = {id(p): kept_off(p, p) for p in poses}
        out = [_unit([(p, 0.0, 0.0)], own[id(p)]) for p in poses]
        for a in poses:
            for b in poses:
                if a is b or stop():
                    continue
                ab = kept_off(a, b)
                ba = [-loop for loop in ab]
                outer = max(ab, key=len)
                for w in np.concatenate([_contacts(outer), _flush(outer, a, b)]):
                    shifted = [
                        *own[id(a)],
                        *own[id(b)],
                        *(loop - w for loop in ab),
                        *(loop + w for loop in ba),
                    ]
                    out.append(_unit([(a, 0.0, 0.0), (b, float(w[0]), float(w[1]))], shifted))
        return out


def _upright(poses: Sequence[Pose]) -> Sequence[Pose]:
    """Of many turns those at right angles to the first, at which the narrowest box lies along the sheet."""
    if len(poses) <= MOST_POSES:
        return poses
    first = poses[0].rotation
    square = [p for p in poses if min((p.rotation - first) % 90, (first - p.rotation) % 90) < 1e-6]
    return square[:MOST_POSES]


def _edges_of(loops: Sequence[Array]) -> Array:
    """Edges of loops as rows x0, y0, x1, y1."""
    rows = [np.hstack([loop, np.roll(loop, -1, axis=0)]) for loop in loops if len(loop) > 2]
    return np.ascontiguousarray(np.concatenate(rows)) if rows else np.zeros((0, 4))


def _unit(members: list[Spot], loops: Sequence[Array]) -> Unit:
    x0, y0 = min(x for _p, x, _y in members), min(y for _p, _x, y in members)
    moved = tuple(Member(p, x - x0, y - y0, p.width, p.height) for p, x, y in members)
    return Unit(
        moved,
        tuple(loops),
        _edges_of(loops),
        max(m.x + m.width for m in moved),
        max(m.y + m.height for m in moved),
    )


def _contacts(loop: Array) -> Array:
    """Places along a loop: its corners, and between them evenly."""
    ends = np.roll(loop, -1, axis=0)
    long = np.hypot(*(ends - loop).T)
    step = max(float(long.sum()) / CONTACTS, EPS)
    out = [loop]
    for a, b, n in zip(loop, ends, np.floor(long / step).astype(int), strict=True):
        if n > 0:
            out.append(a + (b - a) * (np.arange(1, n + 1) / (n + 1))[:, None])
    found = np.concatenate(out)
    return found[:: max(1, len(found) // (2 * CONTACTS))]


def _flush(loop: Array, a: Pose, b: Pose) -> Array:
    """Places on a loop at which the second piece's box is flush with the first one's, or stands midway: rows
    as high as one piece need them.
    """
    out = [np.zeros((0, 2))]
    for axis, sizes in ((0, (a.width, b.width)), (1, (a.height, b.height))):
        for value in sorted({0.0, sizes[0] - sizes[1], (sizes[0] - sizes[1]) / 2}):
            p, q = loop, np.roll(loop, -1, axis=0)
            crosses = (p[:, axis] - value) * (q[:, axis] - value) < 0
            t = (value - p[crosses, axis]) / (q[crosses, axis] - p[crosses, axis])
            at = p[crosses] + (q[crosses] - p[crosses]) * t[:, None]
            at[:, axis] = value
            out.append(at)
    return np.concatenate(out)


def _density(unit: Unit) -> float:
    """Area that a unit takes in an endless lattice of columns, or of rows: the less of both."""
    return min(_area_each(unit), _area_each(unit.turned))


def _area_each(unit: Unit) -> float:
    p = pitch(unit.edges)
    return p * nearest(unit.edges, p, 0.0, SHIFTS // 2)[0] if p > 0 else math.inf


def _columns(unit: Unit, room: Room, wanted: int, _stop: Stop) -> list[Spot]:
    """Columns of units in a room until there are as many pieces as wanted, by the shift that needs the least
    length.
    """
    p = pitch(unit.edges)
    if p <= 0 or unit.height > room.width + EPS:
        return []
    free = (room.width - unit.height) % p
    # beside evenly spread ones, shifts that use up just what a column leaves over
    shifts = np.array([*(p * k / SHIFTS for k in range(SHIFTS)), free, p / 2])
    size = (room.length, room.width, unit.width, unit.height)
    best: tuple[tuple[int, float], Array] = ((0, math.inf), np.zeros((0, 2)))
    for shift in shifts.tolist():
        for zigzag in (True, False):
            columns, count = one_by_one(unit.edges, p, shift, zigzag, size, len(unit.members), wanted)
            if not len(columns):
                continue
            worth = (-min(int(count), wanted), float(columns[-1, 0]))
            if worth < best[0]:
                best = (worth, columns)
    return _spots(unit, room, [(float(x), float(o)) for x, o in best[1]], p)[:wanted]


def _spots(unit: Unit, room: Room, columns: Sequence[tuple[float, float]], p: float) -> list[Spot]:
    """The pieces of columns, those of the last from below; over a column's last unit as many of its members
    as have room.
    """
    out: list[Spot] = []
    for x, offset in columns:
        n = int((room.width - unit.height - offset) / p + EPS) + 1
        for k in range(n + 1):
            for m in unit.members:
                y = offset + k * p + m.y
                if k < n or y + m.height <= room.width + EPS:
                    out.append((m.pose, room.x + x + m.x, room.y + y))
    return out


def _rows(unit: Unit, room: Room, wanted: int, stop: Stop) -> list[Spot]:
    """Rows along the sheet, as short as hold what is wanted."""
    turned = unit.turned

    def within(length: float) -> list[Spot]:
        across = Room(room.y, room.x, room.width, length)
        return [(pose, x, y) for pose, y, x in _columns(turned, across, wanted, stop)]

    best = within(room.length)
    if len(best) < wanted:
        return best
    low, high = unit.width, room.length
    while high - low > SHORTER * room.length and not stop():
        middle = (low + high) / 2
        spots = within(middle)
        if len(spots) >= wanted:
            best, high = spots, max(x + p.width for p, x, _y in spots) - room.x
        else:
            low = middle
    return best


def _leaning(unit: Unit, room: Room, wanted: int, stop: Stop) -> list[Spot]:
    """A lattice whose columns lean, clipped by the room, where that is denser than upright ones."""
    upright = _density(unit)
    found = sorted(
        (lattice for lattice in _lattices(unit) if lattice[0] < DENSER * upright), key=lambda f: f[0]
    )
    best: tuple[tuple[int, float], Array] = ((0, math.inf), np.zeros((0, 4)))
    for area, u, v in found[:LEANING]:
        if stop():
            break
        # as much of the room as they may take, with its slanting ends
        needed = area * wanted / len(unit.members) / room.width + 4 * (unit.width + unit.height)
        part = Room(room.x, room.y, min(room.length, needed), room.width)
        for px in np.arange(PHASES) / PHASES:
            for py in np.arange(PHASES) / PHASES:
                laid = _clipped(unit, part, wanted, np.array([u, v]), px * u + py * v)
                if not len(laid):
                    continue
                worth = (-len(laid), float(laid[:, 2].max() - laid[:, 0].min()))
                if worth < best[0]:
                    best = (worth, laid)
    laid = best[1]
    first = laid[:, 0].min() if len(laid) else 0.0  # pushed against the left edge
    return [(unit.members[int(n)].pose, room.x + float(x - first), room.y + float(y)) for x, y, _r, n in laid]


def _lattices(unit: Unit) -> list[tuple[float, Array, Array]]:
    """Area a unit, and two vectors: a unit touching the first, and the nearest column to theirs."""
    out = []
    bounds = union(list(unit.loops), "positive")
    edges = _edges_of(bounds)
    for u in np.concatenate([_contacts(loop) for loop in bounds]):
        if u[1] <= EPS:
            continue
        far, shift = nearest(edges, float(u[1]), float(u[0]), SHIFTS)
        v = np.array([far, shift])
        if far > EPS and not met(edges, u, v):
            out.append((float(u[1] * far), u, v))
    return out


def _clipped(unit: Unit, room: Room, wanted: int, uv: Array, phase: Array) -> Array:
    """Members of a lattice that lie in the room, the leftmost first: x, y, right edge and which member."""
    corners = np.array([[0, 0], [room.length, 0], [0, room.width], [room.length, room.width]]) - phase
    ij = corners @ np.linalg.inv(uv)
    low, high = np.floor(ij.min(0)).astype(int) - 2, np.ceil(ij.max(0)).astype(int) + 2
    if (high - low).prod() > MOST_CLIPPED:
        return np.zeros((0, 4))
    i, j = np.meshgrid(np.arange(low[0], high[0]), np.arange(low[1], high[1]), indexing="ij")
    at = np.stack([i.ravel(), j.ravel()], 1) @ uv + phase
    rows = []
    for n, m in enumerate(unit.members):
        x, y = at[:, 0] + m.x, at[:, 1] + m.y
        inside = (x >= -EPS) & (y >= -EPS) & (x <= room.length - m.width + EPS)
        inside &= y <= room.width - m.height + EPS
        x, y = x[inside], y[inside]
        rows.append(np.column_stack([x, y, x + m.width, np.full(len(x), float(n))]))
    found = np.concatenate(rows)
    return found[np.lexsort((found[:, 1], found[:, 2]))][:wanted]


def warm() -> None:
    """Compile the kernels."""
    square = np.array([[-1.0, -1, 1, -1], [1, -1, 1, 1], [1, 1, -1, 1], [-1, 1, -1, -1]])
    met(square, np.array([0.2, 2.0]), np.array([2.0, nearest(square, pitch(square), 0.2, 4)[1]]))
    one_by_one(square, 2.0, 0.0, True, (9.0, 9.0, 1.0, 1.0), 1, 4)
