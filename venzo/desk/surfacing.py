"""Surfacing as programs and papers: what the command line and the API share; a shop's boards and their
ledgers.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely.affinity import translate
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.moves import CX, CY, X, Y, Z
from venzo.core.motion.time import Axes, path_time
from venzo.core.snags import BadInput, Snag, stop
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.machine import Machine
from venzo.core.surfacing.board import Board, KeepOut, Surfacing
from venzo.core.surfacing.flatness import Flatness
from venzo.core.surfacing.passes import CLEARANCE, Passes, plan_passes, way
from venzo.core.units import show_length
from venzo.desk.vcarve import Made
from venzo.formats.gcode import ToolRun, write

CAUTIONS = (
    "wear a mask and ear protection: MDF dust; extraction on",
    "keep hands and clamps out of the cutter's way; look over screw heads first",
)


@dataclass(frozen=True, eq=False)
class Placed:
    """A board with its plan and where its lower left corner lies in program coordinates, mm."""

    board: Board
    plan: Passes
    at: tuple[float, float]


def reach_of(machine: Machine | None, board: Board) -> BaseGeometry | None:
    """Where the machine's spindle can go, less its dead areas, in the board's coordinates."""
    if machine is None:
        return None
    whole: BaseGeometry = box(0, 0, machine.width, machine.height)
    for d in machine.dead_areas:
        whole = whole.difference(box(*d))
    return translate(whole, -board.x, -board.y)


def clearance_snags(boards: Sequence[Board], clearance: float) -> list[Snag]:
    """A *stop* where a fixing stands higher than fast moves pass."""
    tallest = max((d for b in boards for d in b.dead), key=lambda d: d.over, default=None)
    if tallest is None or tallest.over <= clearance + 1e-9:
        return []
    words = (
        f"a fixing stands {tallest.height:g} mm over Z 0 and wants {tallest.margin:g} mm over it, fast moves"
        f" pass at {clearance:g} mm"
    )
    return [
        stop(
            "surface.clearance",
            f"{words}: take it lower or away, or raise the machine's rapid height to {tallest.over:g} mm",
        )
    ]


def program(
    boards: Sequence[Placed],
    s: Surfacing,
    title: str,
    dialect: Dialect = Dialect(),
    clearance: float = CLEARANCE,
    axes: Axes = Axes(),
) -> Made:
    """One program for one or several boards, each pass of each board named; where Z is touched off on the
    table, the top of the first lies as high as it is thick.
    """
    unit = "in" if dialect.inch else "mm"
    cuts = []
    on_table = s.touch == "table"
    top = boards[0].board.thickness if on_table and boards else 0.0
    for b in boards:
        for layer in b.plan.layers:
            m = layer.moves.copy()
            if on_table:
                m[:, Z] += b.board.thickness - top
            m[:, [X, Y]] += b.at
            m[:, [CX, CY]] += b.at
            label = f"{b.board.name}: " if len(boards) > 1 else ""
            cuts.append(
                (
                    (
                        f"{label}{layer.name}, {_z(b.board, s, layer.depth, unit)}, step-over"
                        f" {layer.step_over:.0%}"
                    ),
                    m,
                )
            )
    deepest = max((b.plan.deepest for b in boards), default=0.0)
    sizes = ", ".join(
        f"{b.board.name} {show_length(b.board.width, unit)} x {show_length(b.board.height, unit)}"
        for b in boards
    )
    zero = (
        f"X0 Y0 lower left corner of {boards[0].board.name if len(boards) == 1 else 'the grid'}; Z0 touched"
        f" off on the {s.touch}"
        + (f", the board's top lies at Z{show_length(top, unit)}" if on_table else "")
    )
    header = [
        f"VENZO surfacing {title}",
        sizes,
        zero,
        (
            f"first pass at {_z(boards[0].board, s, boards[0].plan.layers[0].depth, unit)}"
            if boards and boards[0].plan.layers
            else "nothing to cut"
        ),
        (
            f"deepest {_deepest(boards, s, deepest, unit)}; T{s.number} {s.cutter_name}"
            f" D{show_length(s.cutter, unit)}"
        ),
        "touch off before starting: without it the first pass may go in too deep",
        "draw pencil lines both ways: lines left are low spots",
        *CAUTIONS,
    ]
    snags: list[Snag] = [n for b in boards for n in b.plan.snags]
    snags += clearance_snags([b.board for b in boards], clearance)
    text = write([ToolRun(s.number, s.cutter_name, s.rpm, cuts)], dialect, header, clearance, top)
    begins = tuple(np.add(boards[0].plan.begins, boards[0].at)) if boards else (0.0, 0.0)
    seconds = path_time(way([m for _label, m in cuts], clearance, begins), axes)[0]
    return Made(text, sum(b.plan.cut_length for b in boards), seconds, deepest, snags)


def _deepest(boards: Sequence[Placed], s: Surfacing, deepest: float, unit: str) -> str:
    """How low a program goes, as its Z is taken."""
    if s.touch != "table" or not boards:
        return show_length(deepest, unit)
    lowest = min(b.board.thickness - b.plan.deepest for b in boards)
    return f"Z{show_length(lowest, unit)}, what stays of the thickness"


def _z(board: Board, s: Surfacing, depth: float, unit: str) -> str:
    """The height of a pass in the program."""
    if s.touch == "table":
        return f"Z{show_length(board.thickness - depth, unit)}"
    return f"Z-{show_length(depth, unit)}"


def surface(
    width: float,
    height: float,
    s: Surfacing,
    inch: bool = False,
    dead: Sequence[KeepOut] = (),
    flat: Flatness | None = None,
) -> Made:
    """The program that surfaces one board (``venzo surface``).

    Raises:
        BadInput: names the number and the remedy.
    """
    if not (5 < width <= 20_000 and 5 < height <= 20_000):
        raise BadInput(f"a board of {width:g} x {height:g} mm: give 5 to 20000 mm each way")
    board = Board(id="work", name="work", width=width, height=height, kind="board", dead=tuple(dead))
    unit = "in" if inch else "mm"
    clearance = max(
        [CLEARANCE, *(d.over for d in dead)]
    )  # no machine is named: the program lifts as high as its fixings ask
    return program(
        [Placed(board, plan_passes(board, s, flat, clearance=clearance), (0.0, 0.0))],
        s,
        f"{show_length(width, unit)} x {show_length(height, unit)}",
        Dialect(inch=inch),
        clearance,
    )
