"""At which position is each cut of long stock made, and which are made in lengths?

A piece is cut at one position where one reaches all of it, so that its holes lie to its outline as they are
drawn; else each of its cuts is, where one reaches that. What no position reaches whole is made in lengths,
and with it what cuts into the same place before or after, so that nothing is finished before it is roughed.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from venzo.core.cuts.cut import ON_RELIEFS, Cut, ReliefCut
from venzo.core.cuts.moves import FEED, KIND, LINE, Z, lengths, placed, polyline
from venzo.core.geometry.contour import Array
from venzo.core.indexing.portions import EPS, Down, extent, within
from venzo.core.indexing.reach import TOUCH, Span
from venzo.core.plan import Piece

TRIES = 41
"""Places at which a seam is tried."""


@dataclass(frozen=True, eq=False)
class CutOnSheet:
    """A cut of a piece where it lies on the sheet."""

    piece: Piece
    cut: Cut
    contour: str
    moves: Array

    def span(self, column: int) -> Span:
        """What of the sheet the cutter's middle goes over along X (0) or Y (1)."""
        return extent(self.moves, column)


@dataclass(frozen=True, eq=False)
class Made:
    """A cut, or a length of one, with the position at which it is made; ``of``: the index of the cut."""

    of: int
    cut: Cut
    moves: Array
    position: int


@dataclass(frozen=True)
class Seam:
    """Where cuts are parted between a position and the next: ``at`` mm along the sheet, ``cuts``: how many
    are; ``room``: from where to where it could lie.
    """

    before: int
    at: float
    cuts: int
    room: Span


@dataclass(frozen=True, eq=False)
class Assigned:
    """Every cut with its position; ``out_of_reach``: indices of cuts of which some lies where no position
    reaches, or that are longer than neighbouring positions can share; they are made at the first, whole.
    """

    made: tuple[Made, ...]
    seams: tuple[Seam, ...]
    out_of_reach: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Reached:
    """What there is to be assigned: cuts, what can be reached at each position, and mm of overlap."""

    cuts: Sequence[CutOnSheet]
    spans: Sequence[Span]
    column: int
    overlap: float
    retract: float

    @cached_property
    def extents(self) -> list[Span]:
        """Of every cut."""
        return [c.span(self.column) for c in self.cuts]

    def positions(self, span: Span) -> list[int]:
        """At which positions a stretch can be cut whole."""
        return [k for k, s in enumerate(self.spans) if s[0] - TOUCH <= span[0] and span[1] <= s[1] + TOUCH]

    def seam_room(self, before: int) -> Span:
        """From where to where a seam between a position and the next can lie; high before low: nowhere."""
        half = self.overlap / 2
        return (self.spans[before + 1][0] + half, self.spans[before][1] - half)


def assign(reached: Reached) -> Assigned:
    """The position of every cut, and what is made in lengths."""
    where: dict[int, int] = {}
    loose: list[_Piece] = []
    for mine in _by_piece(reached.cuts).values():
        whole = reached.positions(_union(reached.extents[i] for i in mine))
        if whole:
            where |= dict.fromkeys(mine, whole[0])
        else:
            loose.append(_Piece(reached, mine))
    split = {i for p in loose for i in p.cuts if not reached.positions(reached.extents[i])}
    while True:
        seams = _seams(reached, split)
        more = {i for p in loose for i in p.settle(seams, split, where)}
        if not more - split:
            break
        split |= more
    lost = sorted(i for i in split if not _can_part(reached, seams, i))
    out: list[Made] = []
    for i, c in enumerate(reached.cuts):
        in_lengths = _in_lengths(reached, seams, i) if i in split and i not in lost else []
        out += in_lengths or [Made(i, c.cut, c.moves, where.get(i, 0))]
    return Assigned(tuple(out), _counted(seams, out), tuple(lost))


@dataclass(frozen=True, eq=False)
class _Piece:
    """A piece that no position reaches whole: its cuts (indices)."""

    reached: Reached
    cuts: Sequence[int]

    @cached_property
    def in_turn(self) -> list[int]:
        """What comes before others first."""
        return sorted(self.cuts, key=lambda i: _rank(self.reached.cuts[i].cut))

    def settle(self, seams: Sequence[Seam], split: set[int], where: dict[int, int]) -> set[int]:
        """Give every cut that is made whole its position (in ``where``); returns those that must be made in
        lengths after all.
        """
        more: set[int] = set()
        for n, i in enumerate(self.in_turn):
            before = [a for a in self.in_turn[:n] if _goes_before(self.reached.cuts[a], self.reached.cuts[i])]
            if i in split:
                more |= {a for a in before if a not in split and self._too_late(a, i, seams, where)}
                continue
            bound = max((self._done_at(a, i, seams, split, where) for a in before), default=0)
            fits = self.reached.positions(self.reached.extents[i])
            at = [k for k in fits if k >= bound]
            if at:
                where[i] = at[0]
            else:
                more.add(i)
        return more

    def _shared(self, a: int, b: int, k: int, seams: Sequence[Seam]) -> bool:
        """Do two cuts share some of what is made at a position?"""
        zone = _zone(self.reached, seams, k)
        both = (self.reached.extents[a], self.reached.extents[b], zone)
        return min(s[1] for s in both) - max(s[0] for s in both) > -EPS

    def _too_late(self, a: int, i: int, seams: Sequence[Seam], where: Mapping[int, int]) -> bool:
        """Would a length of a cut be made before what goes before it there?"""
        return any(self._shared(a, i, k, seams) for k in range(where.get(a, 0)))

    def _done_at(
        self, a: int, i: int, seams: Sequence[Seam], split: set[int], where: Mapping[int, int]
    ) -> int:
        """At which position a cut is made as far as another needs it."""
        if a not in split:
            return where.get(a, 0)
        return max((k for k in range(len(self.reached.spans)) if self._shared(a, i, k, seams)), default=0)


def _rank(cut: Cut) -> tuple[int, int]:
    """What is cut before what, within a piece."""
    over = cut.kind in ON_RELIEFS
    return (0 if cut.face_first else 1 if isinstance(cut, ReliefCut) else 3 if over else 2, cut.step)


def _goes_before(a: CutOnSheet, b: CutOnSheet) -> bool:
    """Does one cut of a piece prepare the place for another?"""
    if a.cut.face_first:
        return not b.cut.face_first
    if isinstance(a.cut, ReliefCut) and b.cut.kind in ON_RELIEFS:
        return True
    return a.contour == b.contour and a.cut.step < b.cut.step


def _by_piece(cuts: Sequence[CutOnSheet]) -> Mapping[str, list[int]]:
    out: dict[str, list[int]] = {}
    for i, c in enumerate(cuts):
        out.setdefault(c.piece.id, []).append(i)
    return out


def _union(spans: Iterable[Span]) -> Span:
    lows, highs = zip(*spans, strict=True)
    return (min(lows), max(highs))


def _seams(reached: Reached, split: set[int]) -> list[Seam]:
    """Between every position and the next the place that parts least: where the lengths that are cut twice
    are shortest, which is where edges run straight across it.
    """
    lines = [polyline(reached.cuts[i].moves, 0.5) for i in sorted(split)]
    out = []
    for k in range(len(reached.spans) - 1):
        low, high = reached.seam_room(k)
        middle = (low + high) / 2
        if high < low or not lines:
            out.append(Seam(k, middle, 0, (low, high)))
            continue
        tried = np.linspace(low, high, TRIES)
        cost = [(round(_cut_twice(lines, reached, s), 3), abs(s - middle), s) for s in tried.tolist()]
        out.append(Seam(k, min(cost)[2], 0, (low, high)))
    return out


def _cut_twice(lines: Sequence[Array], reached: Reached, at: float) -> float:
    """mm of cutting in the overlap about a place."""
    half, total = max(reached.overlap / 2, 1.0), 0.0
    for p in lines:
        v = p[:, reached.column]
        a, b = v[:-1], v[1:]
        low, high = np.minimum(a, b), np.maximum(a, b)
        inside = np.clip(np.minimum(high, at + half) - np.maximum(low, at - half), 0.0, None)
        flat = (high - low < EPS) & (low >= at - half) & (high <= at + half)
        share = np.where(high - low > EPS, inside / np.maximum(high - low, EPS), flat)
        total += float((np.linalg.norm(np.diff(p, axis=0), axis=1) * share).sum())
    return total


def _zone(reached: Reached, seams: Sequence[Seam], k: int) -> Span:
    """What of a cut in lengths is made at a position."""
    half = reached.overlap / 2
    low = seams[k - 1].at - half if k else -math.inf
    high = seams[k].at + half if k < len(seams) else math.inf
    return (low, high)


def _can_part(reached: Reached, seams: Sequence[Seam], i: int) -> bool:
    """Does every length of a cut lie where its position reaches?"""
    low, high = reached.extents[i]
    for k, span in enumerate(reached.spans):
        zone = _zone(reached, seams, k)
        mine = (max(low, zone[0]), min(high, zone[1]))
        if mine[1] - mine[0] <= EPS:
            continue
        if mine[0] < span[0] - TOUCH or mine[1] > span[1] + TOUCH:
            return False
    return True


def _in_lengths(reached: Reached, seams: Sequence[Seam], i: int) -> list[Made]:
    """A cut in its lengths, one a position; one that lies in the stretch of one position is made there."""
    c = reached.cuts[i]
    down = Down(reached.retract, _plunge(c.moves))
    found: list[tuple[int, Array]] = []
    for k in range(len(reached.spans)):
        zone = _zone(reached, seams, k)
        moves = within(c.moves, reached.column, zone, down)
        if moves is c.moves:
            return [Made(i, c.cut, c.moves, k)]
        if len(moves):
            found.append((k, moves))
    return [Made(i, _portion(c, moves, n + 1, len(found)), moves, k) for n, (k, moves) in enumerate(found)]


def _portion(c: CutOnSheet, moves: Array, number: int, of: int) -> Cut:
    """A length of a cut as a cut of its own, in its part's frame."""
    q = c.piece
    own = placed(placed(moves, -q.x, -q.y, 0.0), 0.0, 0.0, -q.rotation)
    return replace(c.cut, moves=own, portion=number, portions=of)


def _plunge(moves: Array) -> float:
    """The feed at which a cut goes straight down; where it never does, its slowest."""
    fed = (moves[1:, KIND] >= LINE) & (moves[1:, FEED] > 0)
    ways = lengths(moves)[1:]
    down = fed & (moves[:-1, Z] - moves[1:, Z] > 0.99 * ways) & (ways > EPS)
    feeds = moves[1:, FEED]
    return float(feeds[down].min() if down.any() else feeds[fed].min() if fed.any() else 500.0)


def _counted(seams: Sequence[Seam], made: Sequence[Made]) -> tuple[Seam, ...]:
    """Seams that part something, with how many cuts they part."""
    at: dict[int, list[int]] = {}
    for m in made:
        if m.cut.portion:
            at.setdefault(m.of, []).append(m.position)
    out = []
    for s in seams:
        n = sum(s.before in positions and s.before + 1 in positions for positions in at.values())
        if n:
            out.append(replace(s, cuts=n))
    return tuple(out)
