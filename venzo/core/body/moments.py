"""The stock at any moment: cuts in time, with the body kept at some moments on the way, so that any other is
soon reached.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from venzo.core.body.field import Box, StockBody, lines_of
from venzo.core.body.tiles import TILE
from venzo.core.cuts.moves import CW, CX, CY, KIND, RAPID, X, Y, Z, lengths, sweeps
from venzo.core.geometry.contour import Array
from venzo.core.memo import give_way
from venzo.core.tooling.cutter import Cutter

WORK = 1_500_000
"""Heights asked from one kept moment to the next; what lies between is swept again when it is wanted."""
LONGEST = 30.0
"""mm; longer lines are parted where a small area is swept, so that what passes far off is left out."""
MOST_KEPT = 24
"""Kept moments of one film."""
MOST_BYTES = 250_000_000
"""Bytes of kept moments; over it every other is let go."""


@dataclass(frozen=True, eq=False)
class Stage:
    """A cut in time: moves (n, 7) in sheet coordinates, Z 0 at the top, and when each is done, s. The first
    row is only a start; nothing is done before ``begins``.
    """

    moves: Array
    cutter: Cutter
    begins: float
    done: Array


@dataclass(frozen=True, eq=False)
class _Kept:
    """The body before a move of a stage: for every tile the row of the pool, -1 where nothing was cut."""

    stage: int
    move: int
    seconds: float
    rows: npt.NDArray[np.int32]


class Moments:
    """Stages run one after the other on one stock; ``at`` gives the body at any moment.

    >>> from venzo.core.cuts.moves import LINE, row
    >>> mill = Cutter(id="m", number=1, name="m", kind="up-cut", diameter=6, cutting_length=20)
    >>> moves = np.array([row(RAPID, 0, 10, -2), row(LINE, 40, 10, -2), row(LINE, 40, 30, -2)])
    >>> film = Moments(Box(0, 0, 40, 40), 0.5, [Stage(moves, mill, 1.0, np.array([1.0, 5.0, 7.0]))])
    >>> [round(float(film.at(t).heights(np.array([[20.0, 10.0]]))[0]), 1) for t in (0.5, 2.5, 3.5)]
    [0.0, 0.0, -2.0]
    """

    def __init__(
        self,
        box: Box,
        cell: float,
        stages: Sequence[Stage],
        work: float = WORK,
        outline: Sequence[tuple[float, float]] = (),
    ):
        self.box, self.cell, self.stages, self.outline = box, cell, tuple(stages), tuple(outline)
        self.kept: list[_Kept] = []
        self.pool = np.zeros((0, TILE, TILE), dtype=np.float32)
        self.used = 0
        """Tiles of the pool that are taken."""
        self.final = StockBody(box, cell).within(self.outline)
        self._made: dict[int, Array] = {}
        self._latest = np.full(self.final.index.shape, -1, dtype=np.int32)
        asked_of = [_heights_asked(s, cell) for s in self.stages]
        work = max(work, sum(float(a[-1]) for a in asked_of if len(a)) / MOST_KEPT)
        done = 0.0
        for i, (stage, asked) in enumerate(zip(self.stages, asked_of, strict=True)):
            at = 0
            while at < len(stage.moves) - 1:
                give_way()
                upto = int(np.searchsorted(asked, asked[at] + work - done, side="right"))
                upto = min(max(upto, at + 1), len(stage.moves) - 1)
                self.final.cut(stage.moves[at : upto + 1], stage.cutter)
                done += float(asked[upto] - asked[at])
                at = upto
                if done >= work:
                    self._keep(i, at, float(stage.done[at]))
                    done = 0.0
        self.final.settle()

    @property
    def seconds(self) -> float:
        """When the last stage is done."""
        return max((float(s.done[-1]) for s in self.stages), default=0.0)

    def at(self, seconds: float) -> StockBody:
        """The body at a moment; a move under way is cut as far as it has come."""
        if seconds >= self.seconds:
            return self.final
        k = bisect_right([c.seconds for c in self.kept], seconds) - 1
        body, first, move = self._opened(k)
        for stage in self.stages[first:]:
            if stage.begins >= seconds:
                break
            body.cut(_upto(stage, seconds, move), stage.cutter)
            move = 0
        body.settle()
        return body

    def close(self, seconds: float, area: Box, cell: float) -> StockBody:
        """A small area at a moment, in finer cells: only what comes near it is swept, from the beginning."""
        body = StockBody(area, cell).within(self.outline)
        for k, stage in enumerate(self.stages):
            if stage.begins >= seconds:
                break
            whole = seconds >= float(stage.done[-1])
            lines = self._lines(k) if whole else lines_of(_upto(stage, seconds, 0), LONGEST)
            r = stage.cutter.radius
            near = (np.minimum(lines[:, 0], lines[:, 3]) < area.x1 + r) & (
                np.maximum(lines[:, 0], lines[:, 3]) > area.x0 - r
            )
            near &= (np.minimum(lines[:, 1], lines[:, 4]) < area.y1 + r) & (
                np.maximum(lines[:, 1], lines[:, 4]) > area.y0 - r
            )
            body.cut_lines(np.ascontiguousarray(lines[near]), stage.cutter)
        return body

    def _lines(self, stage: int) -> Array:
        """All lines of a stage, made once."""
        if stage not in self._made:
            self._made[stage] = lines_of(self.stages[stage].moves, LONGEST)
        return self._made[stage]

    def _keep(self, stage: int, move: int, seconds: float) -> None:
        body = self.final
        body.settle()
        rows = self._latest.copy()
        new = body.dirty & (body.index >= 0)
        many = int(new.sum())
        if self.used + many > len(self.pool):
            room = np.empty((max(self.used + many, 2 * self.used), TILE, TILE), dtype=np.float32)
            room[: self.used] = self.pool[: self.used]
            self.pool = room
        self.pool[self.used : self.used + many] = body.tiles[body.index[new]]
        rows[new] = np.arange(self.used, self.used + many, dtype=np.int32)
        self.used += many
        body.dirty[:] = False
        self._latest = rows
        self.kept.append(_Kept(stage, move, seconds, rows))
        if self.used * TILE * TILE * 4 > MOST_BYTES:
            self._thin()

    def _thin(self) -> None:
        """Let every other kept moment go, and the tiles that only they had."""
        kept = self.kept[1::2]
        used = np.unique(
            np.concatenate([k.rows[k.rows >= 0] for k in kept] + [self._latest[self._latest >= 0]])
        )
        place = np.full(len(self.pool) + 1, -1, dtype=np.int32)
        place[used] = np.arange(len(used), dtype=np.int32)
        self.pool, self.used = self.pool[used], len(used)
        self.kept = [_Kept(k.stage, k.move, k.seconds, place[k.rows]) for k in kept]
        self._latest = place[self._latest]

    def _opened(self, k: int) -> tuple[StockBody, int, int]:
        """A body of its own at a kept moment, and the stage and move that come next; -1: before all."""
        if k < 0:
            return StockBody(self.box, self.cell).within(self.outline), 0, 0
        body = StockBody(self.box, self.cell)
        kept = self.kept[k]
        there = kept.rows >= 0
        body.used = int(there.sum())
        # room for all that will be cut: what is not written to weighs nothing
        body.tiles = np.empty((self.final.used, TILE, TILE), dtype=np.float32)
        np.take(self.pool, kept.rows[there], axis=0, out=body.tiles[: body.used], mode="clip")
        body.index[there] = np.arange(body.used, dtype=np.int32)
        return body, kept.stage, kept.move


def _heights_asked(stage: Stage, cell: float) -> Array:
    """For every move how many heights were asked up to its end, about."""
    cutting = (stage.moves[:, KIND] != RAPID) & (stage.moves[:, Z] < 0)
    wide = 2 * stage.cutter.radius
    each = np.where(cutting, (lengths(stage.moves) + wide) * wide / cell**2, 0.0)
    return np.cumsum(each)


def _upto(stage: Stage, seconds: float, move: int) -> Array:
    """A stage's moves from one on, up to a moment; the last is cut off where the cutter is then."""
    n = int(np.searchsorted(stage.done, seconds, side="right"))
    if n >= len(stage.moves):
        return stage.moves[move:]
    n = max(n, 1)
    before = float(stage.done[n - 1])
    took = float(stage.done[n]) - before
    share = min(1.0, max(0.0, (seconds - before) / took)) if took > 0 else 1.0
    return np.vstack([stage.moves[move:n], part_of(stage.moves[n - 1], stage.moves[n], share)])


def part_of(start: Array, move: Array, share: float) -> Array:
    """The first share of a move that begins where ``start`` ends, arcs along themselves.

    >>> from venzo.core.cuts.moves import CCW, LINE, row
    >>> quarter = np.array(row(CCW, 0, 5, -2, 100, 0, 0))
    >>> part_of(np.array(row(LINE, 5, 0, 0)), quarter, 0.5)[1:4].round(3).tolist()
    [3.536, 3.536, -1.0]
    """
    out = move.copy()
    out[Z] = start[Z] + (move[Z] - start[Z]) * share
    if move[KIND] < CW:
        out[[X, Y]] = start[[X, Y]] + (move[[X, Y]] - start[[X, Y]]) * share
        return out
    turn = float(sweeps(np.vstack([start, move]))[1]) * share
    r = math.hypot(move[X] - move[CX], move[Y] - move[CY])
    angle = math.atan2(start[Y] - move[CY], start[X] - move[CX]) + turn
    out[[X, Y]] = move[CX] + r * math.cos(angle), move[CY] + r * math.sin(angle)
    return out
