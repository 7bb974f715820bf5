"""All passes over a board as moves, with what each takes, how long it lasts and what ridges it leaves."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import LineString, box
from shapely.geometry.base import BaseGeometry

from venzo.core.body.field import Box, StockBody
from venzo.core.cuts.moves import RAPID, lengths, row
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import Axes, path_time
from venzo.core.snags import Snag, look, note, stop
from venzo.core.surfacing.board import Board, KeepOut, Surfacing
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.rows import Run, along_x, row_count, runs, uncut
from venzo.core.surfacing.tram import step_across
from venzo.core.tooling.cutter import Cutter

RAMP = 60.0
"""mm along which the cutter goes down where it cannot start outside the work."""
RETRACT = 3.0
STEEPEST = 0.1
"""mm down a mm along, at most, where it ramps in."""
FLUSH = 0.02
"""mm of material that is not called any."""
CLOSE = 0.5
"""mm over what stands from which the feed begins."""
MOST_CELLS = 4_000_000
"""Cells in which a board is followed."""
HEADROOM = 1.0
"""mm that fast moves keep over the highest reading."""


@dataclass(frozen=True, eq=False)
class Layer:
    """One pass. ``depth``: mm below Z 0; ``takes``: mm; ``rows``: how many; ``touched``: share of the board
    it cuts, None where nothing was read.
    """

    depth: float
    takes: float
    step_over: float
    runs: tuple[Run, ...]
    moves: Array
    cut_length: float
    seconds: float
    rows: int
    ridge: float
    touched: float | None
    name: str


@dataclass(frozen=True, eq=False)
class Passes:
    """Planned passes with their sums, the area (geometry) that stays uncut, and snags."""

    layers: tuple[Layer, ...]
    skipped: tuple[str, ...]
    cut_length: float
    seconds: float
    uncut: BaseGeometry
    deepest: float
    snags: tuple[Snag, ...]


def plan_passes(
    board: Board,
    s: Surfacing,
    flat: Flatness | None = None,
    reach: BaseGeometry | None = None,
    axes: Axes = Axes(),
) -> Passes:
    """Every pass over a board, in its own coordinates (lower left corner at 0, 0), Z 0 where the surfacing
    says.

    Args:
        board: what is surfaced.
        s: how.
        flat: readings, for what each pass touches.
        reach: where the cutter's middle can go, board coordinates.
        axes: of the machine, for the times.

    Raises:
        BadInput: too many rows.
    """
    layers: list[Layer] = []
    skipped: list[str] = []
    snags: list[Snag] = []
    before = s.start
    body = body_of(board, s, flat)
    x_rows = along_x(s, board.width, board.height, board.grain)
    across = board.height if x_rows else board.width
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
        found = runs(s, board.width, board.height, share, board.grain, board.dead, reach, extent)
        moves = laid(found, depth, s, body, board.dead)
        d = lengths(moves)
        seconds, _each = path_time(moves, axes)
        layers.append(
            Layer(
                depth,
                depth - before,
                share,
                tuple(found),
                moves,
                float(d[moves[:, 0] != RAPID].sum()),
                seconds,
                row_count(across, s.cutter, share * s.cutter, s.overrun),
                step_across(s.tram, share * s.cutter),
                touched,
                name,
            )
        )
        before = depth
    left = (
        uncut(layers[0].runs, s.cutter, board.width, board.height)
        if layers and not (flat and s.only_touched)
        else uncut(
            runs(s, board.width, board.height, None, board.grain, board.dead, reach),
            s.cutter,
            board.width,
            board.height,
        )
    )
    if left.area > 1:
        snags.append(
            look(
                "surface.uncut",
                f"{left.area / 100:.0f} cm2 of {board.name} stay uncut: dead areas or the machine's travel"
                f" are in the way; they stand {s.start + s.total:.2f} mm proud afterwards",
            )
        )
    inside = sum(not r.outside for layer in layers for r in layer.runs)
    if inside:
        snags.append(
            note(
                "surface.entry",
                f"{inside} run{'s' * (inside != 1)} cannot start clear of the work and"
                f" ramp{'s' * (inside == 1)} in over {RAMP:g} mm",
            )
        )
    if flat and flat.high.z > RETRACT - HEADROOM:
        at = f"X {flat.high.x:.0f} Y {flat.high.y:.0f}"
        snags.append(
            stop(
                "surface.high",
                f"{board.name} stands {flat.high.z:.2f} mm over Z 0 at {at}, fast moves pass at {RETRACT:g}"
                " mm: touch off on the high spot",
            )
        )
    elif flat and flat.high.z > 0.3:
        bite = levels[0][0] - s.start + flat.high.z
        snags.append(
            look(
                "surface.high",
                f"the high spot stands {flat.high.z:.2f} mm over Z 0: the first pass bites {bite:.2f} mm"
                " there; touch off on the high spot",
            )
        )
    if flat:
        need = flat.least_depth()
        deepest = levels[-1][0]
        if deepest < need - 1e-6:
            snags.append(
                look(
                    "surface.shallow",
                    f"{deepest:.2f} mm leave low spots untouched; {need:.2f} mm clean everything",
                )
            )
        elif layers and levels and len(levels) > 1 and levels[-2][0] > need + 1e-6:
            snags.append(
                note(
                    "surface.deep", f"{need:.2f} mm would clean everything, the passes take {deepest:.2f} mm"
                )
            )
        for layer in layers:
            if layer.touched is not None and layer.touched < 0.5:
                share_ = f"{layer.touched:.0%}"
                snags.append(
                    note(
                        "surface.air",
                        f"{layer.name} touches {share_} of the board"
                        + ("" if s.only_touched else "; the rest of it cuts air"),
                    )
                )
    if s.step_over > 0.85 and s.pattern != "spiral":
        snags.append(
            note(
                "surface.step",
                f"rows {s.step_over:.0%} of the diameter apart: quick, but the slightest tilt leaves steps to"
                " feel",
            )
        )
    if s.depth > 0.15 * s.cutter:
        snags.append(
            look(
                "surface.depth",
                f"{s.depth:g} mm a pass is much for a surfacing cutter {s.cutter:g} mm in diameter; 0.8 to"
                " 1.3 mm is usual",
            )
        )
    if s.ways == "both ways" and board.grain and board.kind == "board":
        with_grain = (board.grain == "x") == x_rows
        if not with_grain:
            snags.append(
                note(
                    "surface.grain",
                    "the rows run across the grain: edges may splinter where the cutter leaves the board",
                )
            )
    saw = board.kind == "board" and not flat and s.total > 6
    if saw:
        snags.append(
            note(
                "surface.saw",
                f"{s.total:.1f} mm off a board is quicker on a bandsaw or a planer, if the shop has one",
            )
        )
    return Passes(
        tuple(layers),
        tuple(skipped),
        sum(layer.cut_length for layer in layers),
        sum(layer.seconds for layer in layers),
        left,
        layers[-1].depth if layers else 0.0,
        tuple(snags),
    )


def body_of(board: Board, s: Surfacing, flat: Flatness | None = None) -> StockBody:
    """The board before the first pass: nothing beside it, its top where the ledger or the readings say."""
    cell = max(s.cutter / 40, math.sqrt(board.width * board.height / MOST_CELLS))
    return StockBody(
        Box(0, 0, board.width, board.height), cell, max(-s.start, flat.high.z) if flat else -s.start
    )


def laid(
    found: Sequence[Run],
    depth: float,
    s: Surfacing,
    body: StockBody | None = None,
    dead: Sequence[KeepOut] = (),
) -> Array:
    """Runs of one level as moves, taken out of ``body``: straight down only where nothing stands under the
    cutter, else along a ramp from what does; over fixings, never across them.

    Without a body (to compare step-overs) every run is taken to start clear.
    """
    track = Track(RETRACT, s.feed, s.plunge)
    cutter = Cutter(
        id="surfacing",
        number=s.number,
        name=s.cutter_name,
        kind="surfacing",
        diameter=s.cutter,
        cutting_length=500,
        shank=12,
    )
    zones = [(box(*d.box).buffer(s.cutter / 2 + d.margin), max(RETRACT, d.over)) for d in dead]
    for r in found:
        p, first = r.points, len(track.rows)
        _travel(track, p[0], zones)
        stands = float(body.highest(p[:1], s.cutter / 2 - 1.5 * body.cell)[0]) if body else -math.inf
        if stands <= -depth + FLUSH:
            track.down(-depth)
        else:
            track.down(min(RETRACT, stands + (CLOSE if stands > -s.start - FLUSH else 0.0)))
            _ramp(track, p, track.at[2], -depth)
        for x, y in p[1:]:
            track.line(float(x), float(y))
        if body:
            body.cut(np.array(track.rows[max(first - 1, 0) :]), cutter)
    return track.array() if track.rows else np.zeros((1, 7))


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


def _ramp(track: Track, p: Array, z0: float, z1: float) -> None:
    """To and fro along the start of a run, ending where it began; as often as it takes to keep the slope
    gentle.
    """
    if len(p) < 2:
        track.down(z1)
        return
    d = p[1] - p[0]
    long = float(np.hypot(*d))
    leg = min(long, RAMP / 2)
    far = p[0] + d * (leg / max(long, 1e-9))
    legs = 2 * max(1, math.ceil((z0 - z1) / (2 * leg * STEEPEST) - 1e-9)) if leg > 0.5 else 2
    for k in range(legs):
        x, y = far if k % 2 == 0 else p[0]
        track.line(float(x), float(y), z0 + (z1 - z0) * (k + 1) / legs, _ramp_feed(track))


def _ramp_feed(track: Track) -> float:
    """Feed along a ramp: the plunge feed, which the slope keeps far below straight plunging."""
    return max(track.plunge, track.feed / 2)
