"""All passes over a board as moves, with what each takes, how long it lasts and what ridges it leaves."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import LineString, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import substring

from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.moves import RAPID, X, Y, Z, lengths, row
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import Axes, path_time
from venzo.core.snags import Snag, look, note, stop
from venzo.core.surfacing.board import Board, KeepOut, Surfacing
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.rows import Room, Run, along_x, rows_run, runs, uncut
from venzo.core.surfacing.tram import step_across
from venzo.core.tooling.cutter import Cutter

RAMP = 60.0
"""mm along which the cutter goes down where it cannot start outside the work."""
RETRACT = 3.0
STEEPEST = 0.1
"""mm down a mm along, at most, where it ramps in."""
MOST_TIMES = 20
"""Times that it goes to and fro at most: on what is left of a few millimetres a ramp is steeper."""
FLUSH = 0.02
"""mm of material that is not called any."""
CLOSE = 0.5
"""mm over what stands from which the feed begins."""
MOST_CELLS = 4_000_000
"""Cells in which a board is followed."""
CLEARANCE = 10.0
"""mm over the board between passes, where no machine says it."""
HEADROOM = 1.0
"""mm that fast moves keep over the highest reading."""


@dataclass(frozen=True, eq=False)
class Layer:
    """One pass. ``depth``: mm below Z 0; ``takes``: mm; ``rows``: how many are run; ``ramped``: for every
    run, does it go down along a ramp, since something stands under it? ``touched``: share of the board it
    cuts, None where nothing was read.
    """

    depth: float
    takes: float
    step_over: float
    runs: tuple[Run, ...]
    ramped: tuple[bool, ...]
    moves: Array
    cut_length: float
    seconds: float
    rows: int
    ridge: float
    touched: float | None
    name: str


@dataclass(frozen=True, eq=False)
class Passes:
    """Planned passes with their sums, the area (geometry) that stays uncut, and snags. ``seconds``: of the
    whole way, the travel to the first pass and between them too.
    """

    layers: tuple[Layer, ...]
    skipped: tuple[str, ...]
    cut_length: float
    seconds: float
    uncut: BaseGeometry
    deepest: float
    snags: tuple[Snag, ...]
    begins: tuple[float, float] = (0.0, 0.0)
    """Where the cutter is once Z was touched off, board coordinates."""

    @property
    def travel(self) -> float:
        """Seconds from where Z was touched off to the first pass, and from pass to pass."""
        return self.seconds - sum(layer.seconds for layer in self.layers)


def plan_passes(
    board: Board,
    s: Surfacing,
    flat: Flatness | None = None,
    room: Room = Room(),
    axes: Axes = Axes(),
    clearance: float = CLEARANCE,
) -> Passes:
    """Every pass over a board, in its own coordinates (lower left corner at 0, 0), Z 0 where the surfacing
    says.

    Args:
        board: what is surfaced.
        s: how.
        flat: readings, for what each pass touches.
        room: where the cutter's middle can go; what the board is to be kept out of is added.
        axes: of the machine, for the times.
        clearance: mm over the board at which it travels from pass to pass.

    Raises:
        BadInput: too many rows.
    """
    layers: list[Layer] = []
    skipped: list[str] = []
    before = s.start
    body = body_of(board, s, flat)
    room = replace(room, dead=(*room.dead, *board.dead))
    x_rows = along_x(s, board.width, board.height, board.grain)
    levels = s.levels()
    for k, (depth, share) in enumerate(levels):
        name = f"pass {k + 1} of {len(levels)}" + (
            ", fine" if s.finish_depth and k == len(levels) - 1 else ""
        )
        touched = flat.touched(depth) if flat else None
        if flat and touched == 0 and s.only_touched:
            skipped.append(f"{name}, {depth:.2f} mm: touches nothing, left out")
            before = depth
            continue
        extent = (
            flat.extent(depth, s.cutter, x_rows)
            if flat and s.only_touched and touched is not None and touched < 1 and s.pattern != "spiral"
            else None
        )
        found = runs(s, board.width, board.height, share, board.grain, room.at(depth), extent)
        moves, ramped = laid(found, depth, s, body, board.dead)
        d = lengths(moves)
        layers.append(
            Layer(
                depth,
                depth - before,
                share,
                tuple(found),
                ramped,
                moves,
                float(d[moves[:, 0] != RAPID].sum()),
                path_time(moves, axes)[0],
                rows_run(found, not x_rows),
                step_across(s.tram, share * s.cutter),
                touched,
                name,
            )
        )
        before = depth
    # where passes go only where they touch, what they leave out is no longer in their way
    last = (
        layers[-1].runs
        if layers and not (flat and s.only_touched)
        else runs(s, board.width, board.height, None, board.grain, room.at(levels[-1][0]))
    )
    whole_board = box(0, 0, board.width, board.height)
    work = whole_board if room.wanted is None else whole_board.intersection(room.wanted)
    left = uncut(last, s.cutter, work)
    snags = [
        *_stands(board, s, left),
        *_entries(layers),
        *_by_readings(board, s, flat, layers),
        *_how(board, s, x_rows),
        *_held(board, s),
    ]
    begins = _touched_off(board, s, flat)
    whole = way([layer.moves for layer in layers], clearance, begins)
    return Passes(
        tuple(layers),
        tuple(skipped),
        sum(layer.cut_length for layer in layers),
        path_time(whole, axes)[0],
        left,
        layers[-1].depth if layers else 0.0,
        tuple(snags),
        begins,
    )


def _touched_off(board: Board, s: Surfacing, flat: Flatness | None) -> tuple[float, float]:
    """Where the cutter is once Z was touched off, board coordinates."""
    if s.touch == "high spot" and flat:
        return flat.high.x, flat.high.y
    return (board.width / 2, board.height / 2) if s.touch in ("middle", "high spot") else (0.0, 0.0)


def way(cuts: Sequence[Array], clearance: float, begins: tuple[float, float]) -> Array:
    """The whole way of a program: from over ``begins`` across at ``clearance`` mm, down to each cut and up
    again.

    >>> from venzo.core.cuts.moves import LINE
    >>> cut = np.array([row(RAPID, 10, 0, 3), row(LINE, 10, 0, -1), row(LINE, 40, 0, -1)])
    >>> way([cut], 15, (0, 0))[:, 1:4].tolist()[:3], float(way([cut], 15, (0, 0))[-1, 3])
    ([[0.0, 0.0, 15.0], [10.0, 0.0, 15.0], [10.0, 0.0, 3.0]], 15.0)
    """
    out = [np.array([row(RAPID, *begins, clearance)])]
    for moves in cuts:
        over = [row(RAPID, moves[0, X], moves[0, Y], clearance), row(RAPID, *moves[0, [X, Y, Z]])]
        out += [np.array(over), moves[1:], np.array([row(RAPID, moves[-1, X], moves[-1, Y], clearance)])]
    return np.vstack(out)


def _stands(board: Board, s: Surfacing, left: BaseGeometry) -> list[Snag]:
    """What stays uncut."""
    if left.area <= 1:
        return []
    return [
        look(
            "surface.uncut",
            f"{left.area / 100:.0f} cm2 of {board.name} stay uncut: dead areas or the machine's travel"
            f" are in the way; they stand up to {s.start + s.total:.2f} mm proud afterwards",
        )
    ]


def _entries(layers: Sequence[Layer]) -> list[Snag]:
    """Runs that go down on the work."""
    ramps = sum(sum(layer.ramped) for layer in layers)
    if not ramps:
        return []
    return [
        note(
            "surface.entry",
            f"{ramps} run{'s' * (ramps != 1)} cannot go down clear of the work and"
            f" ramp{'s' * (ramps == 1)} in over {RAMP:g} mm",
        )
    ]


def _by_readings(board: Board, s: Surfacing, flat: Flatness | None, layers: Sequence[Layer]) -> list[Snag]:
    """What the readings say of the passes."""
    if flat is None:
        return []
    out: list[Snag] = []
    levels = s.levels()
    if flat.high.z > RETRACT - HEADROOM:
        at = f"X {flat.high.x:.0f} Y {flat.high.y:.0f}"
        out.append(
            stop(
                "surface.high",
                f"{board.name} stands {flat.high.z:.2f} mm over Z 0 at {at}, fast moves pass at {RETRACT:g}"
                " mm: touch off on the high spot",
            )
        )
    elif flat.high.z > 0.3:
        bite = levels[0][0] - s.start + flat.high.z
        out.append(
            look(
                "surface.high",
                f"the high spot stands {flat.high.z:.2f} mm over Z 0: the first pass bites {bite:.2f} mm"
                " there; touch off on the high spot",
            )
        )
    need, deepest = flat.least_depth(), levels[-1][0]
    if deepest < need - 1e-6:
        out.append(
            look(
                "surface.shallow",
                f"{deepest:.2f} mm leave low spots untouched; {need:.2f} mm clean everything",
            )
        )
    elif layers and len(levels) > 1 and levels[-2][0] > need + 1e-6:
        out.append(
            note("surface.deep", f"{need:.2f} mm would clean everything, the passes take {deepest:.2f} mm")
        )
    for layer in layers:
        if layer.touched is not None and layer.touched < 0.5:
            out.append(
                note(
                    "surface.air",
                    f"{layer.name} touches {layer.touched:.0%} of the board"
                    + ("" if s.only_touched else "; the rest of it cuts air"),
                )
            )
    return out


def _how(board: Board, s: Surfacing, x_rows: bool) -> list[Snag]:
    """What is to be said of step-over, depth and grain."""
    out: list[Snag] = []
    if s.step_over > 0.85 and s.pattern != "spiral":
        out.append(
            note(
                "surface.step",
                f"rows {s.step_over:.0%} of the diameter apart: quick, but the slightest tilt leaves steps to"
                " feel",
            )
        )
    if s.depth > 0.15 * s.cutter:
        out.append(
            look(
                "surface.depth",
                f"{s.depth:g} mm a pass is much for a surfacing cutter {s.cutter:g} mm in diameter; 0.8 to"
                " 1.3 mm is usual",
            )
        )
    across_grain = board.grain is not None and (board.grain == "x") != x_rows
    if s.ways == "both ways" and board.kind == "board" and across_grain:
        out.append(
            note(
                "surface.grain",
                "the rows run across the grain: edges may splinter where the cutter leaves the board",
            )
        )
    return out


def _held(board: Board, s: Surfacing) -> list[Snag]:
    """What holds the board, against how deep it is cut."""
    out: list[Snag] = []
    deepest = s.levels()[-1][0]
    for d in board.dead:
        if not d.bars(deepest) or d.height > 0:
            continue
        at, under = f"the {d.what} at X {d.x0:.0f} Y {d.y0:.0f}", f"{-d.height:g} mm under Z 0"
        on_board = d.x1 > 0 and d.y1 > 0 and d.x0 < board.width and d.y0 < board.height
        if d.what == "pod" and on_board:
            words = f"{at} ends {under}; {deepest:.2f} mm deep comes nearer than {d.margin:g} mm to it"
            out.append(stop("surface.pod", f"{words}: cut less, or take the pod away"))
        elif d.what != "pod":
            words = f"{at} ends {under}, the last pass goes {deepest:.2f} mm deep, {d.margin:g} mm over it"
            lower = d.height + deepest + d.margin
            out.append(
                look(
                    "surface.cam",
                    f"{words} are wanted: set it {lower:.2f} mm lower, or what is beside it stays uncut",
                )
            )
    if deepest >= board.thickness:
        out.append(
            stop(
                "surface.through",
                f"{deepest:.2f} mm deep is through {board.name}, {board.thickness:.2f} mm thick",
            )
        )
    if board.kind == "board" and board.held == "vacuum pods" and not any(d.what == "pod" for d in board.dead):
        out.append(
            note(
                "surface.pods",
                "say where the pods lie: between them a thin board gives way under the cutter and comes out"
                " thicker there",
            )
        )
    return out


def body_of(board: Board, s: Surfacing, flat: Flatness | None = None) -> StockBody:
    """The board before the first pass: nothing beside it, its top where the ledger or the readings say."""
    w, h = board.width, board.height
    cell = max(s.cutter / 40, math.sqrt(w * h / MOST_CELLS))
    top = max(-s.start, flat.high.z) if flat else -s.start
    return StockBody(Box(0, 0, w, h), cell, top).within([(0, 0), (w, 0), (w, h), (0, h)])


def laid(
    found: Sequence[Run],
    depth: float,
    s: Surfacing,
    body: StockBody | None = None,
    dead: Sequence[KeepOut] = (),
) -> tuple[Array, tuple[bool, ...]]:
    """Runs of one level as moves, taken out of ``body``: straight down only where nothing stands under the
    cutter, else along a ramp from what does (the second answer: of every run, whether it ramps); over
    fixings, never across them.

    Without a body (to compare step-overs) every run is taken to start clear.
    """
    track = Track(RETRACT, s.feed, s.plunge)
    ramped: list[bool] = []
    cutter = Cutter(
        id="surfacing",
        number=s.number,
        name=s.cutter_name,
        kind="surfacing",
        diameter=s.cutter,
        cutting_length=500,
        shank=12,
    )
    zones = [
        (box(*d.box).buffer(s.cutter / 2 + d.margin), max(RETRACT, d.over)) for d in dead if d.over > -depth
    ]
    for r in found:
        p, first = r.points, len(track.rows)
        _travel(track, p[0], zones)
        stands = float(body.highest(p[:1], s.cutter / 2 - 1.5 * body.cell)[0]) if body else -math.inf
        ramped.append(stands > -depth + FLUSH)
        if not ramped[-1]:
            track.down(-depth)
        else:
            track.down(min(RETRACT, stands + (CLOSE if stands > -s.start - FLUSH else 0.0)))
            _ramp(track, p, (track.at[2], -depth), s.ramp_feed)
        for x, y in p[1:]:
            track.line(float(x), float(y))
        if body:
            body.cut(np.array(track.rows[max(first - 1, 0) :]), cutter)
    return (track.array() if track.rows else np.zeros((1, 7))), tuple(ramped)


def _travel(track: Track, to: Array, zones: Sequence[tuple[BaseGeometry, float]]) -> None:
    """Up, across and down again at rapid: higher where the way crosses a fixing."""
    high = RETRACT
    if track.rows:
        way = LineString([track.at[:2], (float(to[0]), float(to[1]))])
        high = max([RETRACT, *(over for zone, over in zones if zone.intersects(way))])
    track.retract = high
    track.over(float(to[0]), float(to[1]))
    track.retract = RETRACT
    if high > RETRACT:
        track.rows.append(row(RAPID, *track.at[:2], RETRACT))


def _ramp(track: Track, p: Array, z: tuple[float, float], feed: float) -> None:
    """To and fro along the start of a run from one height to another, ending where it began; as often as it
    takes to keep the slope gentle.
    """
    if len(p) < 2:
        track.down(z[1])
        return
    line = LineString(p)
    leg = min(line.length, RAMP / 2)
    start = shapely.get_coordinates(substring(line, 0.0, leg))
    far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(start, axis=0).T))])
    legs = 2 * min(MOST_TIMES, max(1, math.ceil((z[0] - z[1]) / (2 * leg * STEEPEST) - 1e-9)))
    for k in range(legs):
        there = far[1:] if k % 2 == 0 else (far[-1] - far[:-1])[::-1]
        points = start[1:] if k % 2 == 0 else start[:-1][::-1]
        for (x, y), gone in zip(points, there, strict=True):
            done = (k + gone / far[-1]) / legs
            track.line(float(x), float(y), z[0] + (z[1] - z[0]) * done, feed)
