"""The height field: tiles of heights over the stock, lowered by every cut. Z 0 at the top, down negative,
mm.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from types import ModuleType

import numpy as np
import numpy.typing as npt

from venzo.core.body.tiles import TILE
from venzo.core.cuts.moves import FEED, KIND, RAPID, chords, lengths
from venzo.core.geometry.contour import Array
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import FLAT, Cutter, Kind

Mask = npt.NDArray[np.bool_]
CHORD = 0.02
"""mm; arcs become chords within this."""
SLOPE = 0.1
"""mm; where a cutter's engagement is measured a slope is cut into pieces that fall no more, each taken at its
higher end: the body never says that more is gone than is.
"""
THREADS = 2
"""Threads that sweep one body, each its own rows of tiles."""
WORTH_THREADS = 2000
"""Lines from which a second thread pays."""
MOST_TILES = 4_000_000
"""Tiles of one field; only those that a cutter touches take room."""
GONE = 1000.0
"""mm below the top at which what is no stock counts as lying."""
RINGS = 400
"""Steps in which a cutter's profile is tabulated from its axis outwards."""


@dataclass(frozen=True)
class Box:
    """x0, y0, x1, y1, mm."""

    x0: float
    y0: float
    x1: float
    y1: float


class StockBody:
    """How high the stock stands over ``box``, in cells of ``cell`` mm. ``top``: its height where nothing was
    cut. ``spread``: a cell keeps the height of a point that moves on within it from cell to cell, not of its
    middle, so that sums over cells are right whichever way edges run.

    Cuts are swept when a height is first asked for. ``story`` is a digest of all that was cut: two bodies
    with one story are alike, so that what was measured in the one need not be measured again in the other.

    >>> from venzo.core.cuts.moves import LINE, RAPID, row
    >>> body = StockBody(Box(0, 0, 60, 20), 0.1)
    >>> mill = Cutter(id="m", number=1, name="6 mm", kind="up-cut", diameter=6, cutting_length=20)
    >>> body.cut(np.array([row(RAPID, 10, 10, 3), row(LINE, 10, 10, -5), row(LINE, 50, 10, -5)]), mill)
    >>> body.heights(np.array([[30, 10], [30, 12.9], [30, 13.1]])).round(2).tolist()
    [-5.0, -5.0, 0.0]

    Raises:
        BadInput: more tiles than MOST_TILES.
    """

    def __init__(self, box: Box, cell: float, top: float = 0.0, spread: bool = False):
        side = cell * TILE
        self.box, self.cell, self.top, self.spread = box, cell, top, spread
        nx, ny = (max(1, math.ceil((b - a) / side)) for a, b in ((box.x0, box.x1), (box.y0, box.y1)))
        if nx * ny > MOST_TILES:
            raise BadInput(
                f"a body of {box.x1 - box.x0:.0f} x {box.y1 - box.y0:.0f} mm in cells of {cell:g} mm is over"
                f" {MOST_TILES:,} tiles; take larger cells"
            )
        self.index = np.full((ny, nx), -1, dtype=np.int32)
        self.dirty = np.zeros((ny, nx), dtype=np.bool_)
        """Tiles that may have been cut since somebody cleared this."""
        self.tiles = np.zeros((0, TILE, TILE), dtype=np.float32)
        self.used = 0
        self.watched: Mask | None = None
        self.story = _told("", repr((box, cell, top, spread)).encode())
        self._waiting: list[tuple[Array, Cutter]] = []

    @property
    def touched(self) -> bool:
        """Was anything cut?"""
        return bool(self._waiting) or self.used > 0

    def watch(self, paths: Sequence[Array], reach: float) -> StockBody:
        """Keep heights only within ``reach`` mm of some paths (n, 2 each): elsewhere nothing will be
        asked.
        """
        flags = np.zeros(self.index.shape, dtype=np.bool_)
        for p in paths:
            rows = np.column_stack([p[:-1, :2], p[1:, :2], np.zeros(len(p) - 1)])
            _kernel().mark(
                self.index, self.box.x0, self.box.y0, self.cell, np.ascontiguousarray(rows), reach, flags
            )
        self.watched = flags
        self.story = _told(self.story, flags.tobytes())
        return self

    def within(self, outline: Sequence[tuple[float, float]]) -> StockBody:
        """Take away at once all that lies beyond an outline (none: nothing is): the sheet is a remnant.

        >>> body = StockBody(Box(0, 0, 40, 40), 0.5).within([(0, 0), (40, 0), (0, 40)])
        >>> (body.heights(np.array([[10, 10], [30, 30]])) > -1).tolist()
        [True, False]
        """
        if not outline:
            return self
        from PIL import Image, ImageDraw  # here: of use for remnants alone

        ny, nx = self.index.shape
        drawn = Image.new("L", (nx * TILE, ny * TILE), 1)
        corners = [
            ((x - self.box.x0) / self.cell - 0.5, (y - self.box.y0) / self.cell - 0.5) for x, y in outline
        ]
        ImageDraw.Draw(drawn).polygon(corners, fill=0)
        beyond = np.asarray(drawn, dtype=np.bool_).reshape(ny, TILE, nx, TILE).swapaxes(1, 2)
        flags = np.asarray(beyond.any(axis=(2, 3)))
        self._take_room(flags)
        for i, j in np.argwhere(flags):
            self.tiles[self.index[i, j]][beyond[i, j]] = self.top - GONE
        self.story = _told(self.story, repr([tuple(p) for p in outline]).encode())
        return self

    def copy(self) -> StockBody:
        """A body of its own in the same state."""
        self.settle()
        out = StockBody.__new__(StockBody)
        out.box, out.cell, out.top, out.spread = self.box, self.cell, self.top, self.spread
        out.used, out.watched, out.story = self.used, self.watched, self.story
        out.index, out.tiles, out._waiting = self.index.copy(), self.tiles[: self.used].copy(), []
        out.dirty = self.dirty.copy()
        return out

    def cut(self, moves: Array, cutter: Cutter) -> None:
        """Take away what a cutter's moves (n, 7, the first only a start) sweep; fast moves cut nothing."""
        self.story = self.story_after(moves, cutter)
        self._waiting.append((moves, cutter))

    def story_after(self, moves: Array, cutter: Cutter) -> str:
        """The story once some more moves are cut; how fast they go takes nothing away."""
        return _told(
            self.story, repr(_shape(cutter)).encode(), np.ascontiguousarray(moves[:, :FEED]).tobytes()
        )

    def settle(self) -> None:
        """Sweep the cuts that wait."""
        for moves, cutter in self._waiting:
            self.cut_lines(lines_of(moves, 2 * TILE * self.cell), cutter)
        self._waiting = []

    def cut_lines(self, lines: Array, cutter: Cutter) -> None:
        """Take away at once what a cutter sweeps along lines (n, 6: ax, ay, az, bx, by, bz); no story tells
        it.
        """
        if not len(lines):
            return
        # the deepest first: what lies over it is found gone
        lines = lines[np.argsort(np.minimum(lines[:, 2], lines[:, 5]), kind="stable")]
        self.room(lines[:, [0, 1, 3, 4, 5]], cutter.radius)
        profile, step = profile_of(cutter)
        form = form_of(cutter)
        rows = len(self.index)
        parts = THREADS if len(lines) >= WORTH_THREADS and rows >= THREADS else 1
        bounds = [rows * k // parts for k in range(parts + 1)]

        def part(k: int) -> None:
            _slopes().sweep_lines(
                self.index,
                self.tiles,
                self.box.x0,
                self.box.y0,
                self.cell,
                self.top,
                lines,
                form,
                profile,
                step,
                self.spread,
                np.array(bounds[k : k + 2]),
            )

        if parts == 1:
            part(0)
            return
        with ThreadPoolExecutor(parts) as pool:
            list(pool.map(part, range(parts)))

    def removed(self, floor: float) -> float:
        """mm3 gone between the top and ``floor``, inside the box.

        >>> from venzo.core.cuts.moves import LINE, RAPID, row
        >>> body = StockBody(Box(0, 0, 100, 100), 0.5, spread=True)
        >>> mill = Cutter(id="m", number=1, name="m", kind="up-cut", diameter=6, cutting_length=20)
        >>> body.cut(np.array([row(RAPID, -9, 50, 3), row(LINE, -9, 50, -5), row(LINE, 109, 50, -5)]), mill)
        >>> bool(abs(body.removed(-18.0) - 100 * 6 * 5) < 15)
        True
        """
        self.settle()
        b = self.box
        return float(
            _slopes().volume(
                self.index,
                self.tiles,
                b.x0,
                b.y0,
                self.cell,
                self.top,
                floor,
                (b.x0, b.y0, b.x1, b.y1),
                self.spread,
            )
        )

    def heights(self, points: Array) -> Array:
        """Height at every point (n, 2)."""
        self.settle()
        at = np.ascontiguousarray(points, dtype=float).reshape(-1, 2)
        return _slopes().heights(self.index, self.tiles, self.box.x0, self.box.y0, self.cell, self.top, at)

    def middles(self, points: Array) -> Array:
        """The middles of the cells that points (n, 2) lie in: there heights are exact, elsewhere in a cell
        they are its middle's.
        """
        low = np.array([self.box.x0, self.box.y0])
        return low + (np.floor((points - low) / self.cell) + 0.5) * self.cell

    def highest(self, points: Array, radius: float, outside: float = -math.inf) -> Array:
        """The highest material under a disc of ``radius`` mm at each point (n, 2); ``outside``: what is taken
        to stand beyond the field.
        """
        self.settle()
        beyond = outside if math.isfinite(outside) else -1e9
        return _kernel().highest(
            self.index,
            self.tiles,
            self.box.x0,
            self.box.y0,
            self.cell,
            self.top,
            np.ascontiguousarray(points, dtype=float),
            radius,
            beyond,
        )

    def clash(self, places: Array, cutter: Cutter) -> Array:
        """How far (mm) a cutter's body would stand in material with its tip at each place (n, 3); negative:
        clear of it.
        """
        self.settle()
        profile, step = profile_of(cutter)
        return _kernel().clash(
            self.index,
            self.tiles,
            self.box.x0,
            self.box.y0,
            self.cell,
            self.top,
            np.ascontiguousarray(places, dtype=float),
            profile,
            step,
        )

    def room(self, found: Array, reach: float) -> None:
        """Tiles for all that segments touch."""
        flags = np.zeros(self.index.shape, dtype=np.bool_)
        _kernel().mark(
            self.index,
            self.box.x0,
            self.box.y0,
            self.cell,
            np.ascontiguousarray(found[:, :5]),
            reach + self.cell,
            flags,
        )
        if self.watched is not None:
            flags = flags & self.watched
        self._take_room(flags)

    def _take_room(self, flags: Mask) -> None:
        """Slots for flagged tiles that have none."""
        self.dirty |= flags
        new = np.argwhere(flags & (self.index < 0))
        if not len(new):
            return
        need = self.used + len(new)
        if need > len(self.tiles):
            # room that is not written to weighs nothing
            grown = np.empty((max(need, int(1.5 * len(self.tiles))), TILE, TILE), dtype=np.float32)
            grown[: self.used] = self.tiles[: self.used]
            self.tiles = grown
        self.tiles[self.used : need] = self.top
        self.index[new[:, 0], new[:, 1]] = np.arange(self.used, need, dtype=np.int32)
        self.used = need


def segments(moves: Array, longest: float = math.inf) -> Array:
    """Cutting moves as rows (ax, ay, bx, by, z): arcs as chords, slopes as short level pieces at their higher
    end.
    """
    lines = lines_of(moves, longest, SLOPE)
    return np.ascontiguousarray(
        np.column_stack([lines[:, :2], lines[:, 3:5], np.maximum(lines[:, 2], lines[:, 5])])
    )


def lines_of(moves: Array, longest: float = math.inf, falls: float = math.inf) -> Array:
    """Cutting moves as lines (ax, ay, az, bx, by, bz), none longer in plan than ``longest`` mm nor falling or
    rising more than ``falls`` mm: arcs and helices as chords.
    """
    points, of = chords(moves, CHORD)
    cutting = np.flatnonzero(moves[of, KIND] != RAPID)
    if not len(cutting):
        return np.zeros((0, 6))
    start = points[cutting]
    d = points[cutting + 1] - start
    n = np.maximum(np.ceil(np.abs(d[:, 2]) / falls), np.ceil(np.hypot(d[:, 0], d[:, 1]) / longest))
    n = np.maximum(n, 1).astype(int)
    if n.max() == 1:
        return np.hstack([start, start + d])
    which = np.repeat(np.arange(len(d)), n)
    k = np.arange(len(which)) - np.repeat(np.cumsum(n) - n, n)
    a = start[which] + d[which] * (k / n[which])[:, None]
    b = start[which] + d[which] * ((k + 1) / n[which])[:, None]
    return np.hstack([a, b])


def moves_of(moves: Array, longest: float = math.inf) -> npt.NDArray[np.int_]:
    """For every row of ``segments`` the move it is part of, by the way come since the cutter began to cut."""
    out: list[npt.NDArray[np.int_]] = []
    cutting = np.flatnonzero(moves[1:, KIND] != RAPID) + 1
    if not len(cutting):
        return np.zeros(0, dtype=int)
    for run in np.split(cutting, np.flatnonzero(np.diff(cutting) > 1) + 1):
        rows = moves[run[0] - 1 : run[-1] + 1]
        lines = lines_of(rows, longest, SLOPE)
        far = np.sqrt(((lines[:, 3:] - lines[:, :3]) ** 2).sum(axis=1))
        middle = np.cumsum(far) - far / 2
        ends = np.cumsum(lengths(rows)[1:])
        # chords are a little shorter than their arcs
        middle *= ends[-1] / max(float(far.sum()), 1e-12)
        out.append(run[np.minimum(np.searchsorted(ends, middle), len(run) - 1)])
    return np.concatenate(out)


CONES: tuple[Kind, ...] = ("v-bit", "drill")
BENDING: tuple[Kind, ...] = ("tapered ball", "bowl", "v-bit")
"""Kinds whose height over the tip grows ever steeper outwards (a V bit's where its point is rounded)."""


def form_of(cutter: Cutter) -> tuple[float, float, float, float]:
    """What ``slope_kernel`` asks of a cutter: its form, radius, point's radius (mm), rise of its cone."""
    from venzo.core.body import slope_kernel as k

    r, tip = cutter.radius, cutter.tip / 2
    if cutter.kind in FLAT:
        return k.FLAT, r, 0.0, 0.0
    if cutter.kind in CONES and not cutter.corner_radius:
        return k.CONE, r, tip, 1.0 / math.tan(math.radians(cutter.angle or 90.0) / 2)
    if cutter.kind == "ball":
        return k.BALL, r, 0.0, 0.0
    return (k.CONVEX if cutter.kind in BENDING else k.ANY), r, 0.0, 0.0


def profile_of(cutter: Cutter) -> tuple[Array, float]:
    """The cutter's height over its tip at even steps from its axis outwards, and the step, mm."""
    return _profile(*_shape(cutter))


def _shape(cutter: Cutter) -> tuple[Kind, float, float, float, float | None, float]:
    """All of a cutter that shapes what it leaves."""
    return cutter.kind, cutter.diameter, cutter.tip, cutter.corner_radius, cutter.angle, cutter.cutting_length


def _told(before: str, *parts: bytes) -> str:
    """A story with more told."""
    digest = hashlib.blake2b(before.encode(), digest_size=16)
    for p in parts:
        digest.update(p)
    return digest.hexdigest()


@lru_cache(256)
def _profile(
    kind: Kind, diameter: float, tip: float, corner: float, angle: float | None, edge: float
) -> tuple[Array, float]:
    c = Cutter(
        id="p",
        number=1,
        name="profile",
        kind=kind,
        diameter=diameter,
        tip=tip,
        corner_radius=corner,
        angle=angle,
        cutting_length=edge,
    )
    step = c.radius / RINGS
    heights = (
        np.zeros(RINGS + 1)
        if kind in FLAT
        else np.array([c.height_at(min(k * step, c.radius)) for k in range(RINGS + 1)])
    )
    return heights, step


def _slopes() -> ModuleType:
    """The loops over lines that rise and fall, loaded when they are first needed."""
    from venzo.core.body import slope_kernel

    return slope_kernel


def _kernel() -> ModuleType:
    """The compiled loops, loaded when they are first needed: their compiler takes half a second to load."""
    from venzo.core.body import kernel

    return kernel
