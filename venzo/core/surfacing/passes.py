"""All passes over a board as moves, with what each takes, how long it lasts and what ridges it leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import RAPID, lengths
from venzo.core.cuts.track import Track
from venzo.core.geometry.contour import Array
from venzo.core.motion.time import path_time
from venzo.core.snags import Snag, look, note, stop
from venzo.core.surfacing.board import Board, Surfacing
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.rows import Run, along_x, row_count, runs, uncut
from venzo.core.surfacing.tram import step_across

RAMP = 60.0
"""mm along which the cutter goes down where it cannot start outside the work."""
RETRACT = 3.0
HEADROOM = 1.0
"""mm that fast moves keep over the highest reading."""


@dataclass(frozen=True, eq=False)
class Layer:
    """One pass. ``depth``: mm below Z 0; ``takes``: mm; ``rows``: how many; ``touched``: share of the board it cuts, None where nothing was read."""

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
class Plan:
    """Planned passes with their sums, the area (geometry) that stays uncut, and snags."""

    layers: tuple[Layer, ...]
    skipped: tuple[str, ...]
    cut_length: float
    seconds: float
    uncut: BaseGeometry
    deepest: float
    snags: tuple[Snag, ...]


def plan(board: Board, s: Surfacing, flat: Flatness | None = None, reach: BaseGeometry | None = None, acceleration: float = 800.0, rapid: float = 20_000.0) -> Plan:
    """Every pass over a board, in its own coordinates (lower left corner at 0, 0), Z 0 where the surfacing says.

    Args:
        board: what is surfaced.
        s: how.
        flat: readings, for what each pass touches.
        reach: where the cutter's middle can go, board coordinates.
        acceleration, rapid: of the machine, mm/s2 and mm/min.

    Raises:
        BadInput: too many rows.
    """
    layers: list[Layer] = []
    skipped: list[str] = []
    snags: list[Snag] = []
    before = s.start
    x_rows = along_x(s, board.width, board.height, board.grain)
    across = board.height if x_rows else board.width
    levels = s.levels()
    for k, (depth, share) in enumerate(levels):
        name = f"pass {k + 1} of {len(levels)}" + (", fine" if s.finish_depth and k == len(levels) - 1 else "")
        touched = flat.touched(depth) if flat else None
        if flat and touched == 0 and s.only_touched:
            skipped.append(f"{name}, {depth:.2f} mm: touches nothing, left out")
            before = depth
            continue
        extent = flat.extent(depth, s.cutter, x_rows) if flat and s.only_touched and touched is not None and touched < 1 and s.pattern != "spiral" else None
        found = runs(s, board.width, board.height, share, board.grain, board.dead, reach, extent)
        moves = laid(found, depth, before, s)
        d = lengths(moves)
        seconds, _each = path_time(moves, acceleration, rapid)
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
        else uncut(runs(s, board.width, board.height, None, board.grain, board.dead, reach), s.cutter, board.width, board.height)
    )
    if left.area > 1:
        snags.append(
            look(
                "surface.uncut",
                f"{left.area / 100:.0f} cm2 of {board.name} stay uncut: dead areas or the machine's travel are in the way; they stand {s.start + s.total:.2f} mm proud afterwards",
            )
        )
    inside = sum(not r.outside for layer in layers for r in layer.runs)
    if inside:
        snags.append(note("surface.entry", f"{inside} run{'s' * (inside != 1)} cannot start clear of the work and ramp{'s' * (inside == 1)} in over {RAMP:g} mm"))
    if flat and flat.high.z > RETRACT - HEADROOM:
        at = f"X {flat.high.x:.0f} Y {flat.high.y:.0f}"
        snags.append(stop("surface.high", f"{board.name} stands {flat.high.z:.2f} mm over Z 0 at {at}, fast moves pass at {RETRACT:g} mm: touch off on the high spot"))
    elif flat and flat.high.z > 0.3:
        bite = levels[0][0] - s.start + flat.high.z
        snags.append(look("surface.high", f"the high spot stands {flat.high.z:.2f} mm over Z 0: the first pass bites {bite:.2f} mm there; touch off on the high spot"))
    if flat:
        need = flat.least_depth()
        deepest = levels[-1][0]
        if deepest < need - 1e-6:
            snags.append(look("surface.shallow", f"{deepest:.2f} mm leave low spots untouched; {need:.2f} mm clean everything"))
        elif layers and levels and len(levels) > 1 and levels[-2][0] > need + 1e-6:
            snags.append(note("surface.deep", f"{need:.2f} mm would clean everything, the passes take {deepest:.2f} mm"))
        for layer in layers:
            if layer.touched is not None and layer.touched < 0.5:
                share_ = f"{layer.touched:.0%}"
                snags.append(note("surface.air", f"{layer.name} touches {share_} of the board" + ("" if s.only_touched else "; the rest of it cuts air")))
    if s.step_over > 0.85 and s.pattern != "spiral":
        snags.append(note("surface.step", f"rows {s.step_over:.0%} of the diameter apart: quick, but the slightest tilt leaves steps to feel"))
    if s.depth > 0.15 * s.cutter:
        snags.append(look("surface.depth", f"{s.depth:g} mm a pass is much for a surfacing cutter {s.cutter:g} mm in diameter; 0.8 to 1.3 mm is usual"))
    if s.ways == "both ways" and board.grain and board.kind == "board":
        with_grain = (board.grain == "x") == x_rows
        if not with_grain:
            snags.append(note("surface.grain", "the rows run across the grain: edges may splinter where the cutter leaves the board"))
    saw = board.kind == "board" and not flat and s.total > 6
    if saw:
        snags.append(note("surface.saw", f"{s.total:.1f} mm off a board is quicker on a bandsaw or a planer, if the shop has one"))
    return Plan(tuple(layers), tuple(skipped), sum(layer.cut_length for layer in layers), sum(layer.seconds for layer in layers), left, layers[-1].depth if layers else 0.0, tuple(snags))


def laid(found: Sequence[Run], depth: float, before: float, s: Surfacing) -> Array:
    """Runs of one level as moves: straight down outside the work, or along a ramp from what is cleared already."""
    track = Track(RETRACT, s.feed, s.plunge)
    for r in found:
        p = r.points
        track.over(*p[0])
        if r.outside:
            track.down(-depth)
        else:
            track.down(-before)
            _ramp(track, p, -before, -depth)
        for x, y in p[1:]:
            track.line(float(x), float(y))
    return track.array() if track.rows else np.zeros((1, 7))


def _ramp(track: Track, p: Array, z0: float, z1: float) -> None:
    """To and fro along the start of a run, ending where it began."""
    if len(p) < 2:
        track.down(z1)
        return
    d = p[1] - p[0]
    long = float(np.hypot(*d))
    far = p[0] + d * min(1.0, RAMP / 2 / max(long, 1e-9))
    track.line(float(far[0]), float(far[1]), (z0 + z1) / 2, _ramp_feed(track))
    track.line(float(p[0][0]), float(p[0][1]), z1, _ramp_feed(track))


def _ramp_feed(track: Track) -> float:
    """Feed along a ramp: the plunge feed, which the slope keeps far below straight plunging."""
    return max(track.plunge, track.feed / 2)
