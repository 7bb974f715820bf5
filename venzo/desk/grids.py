"""The program that engraves or draws the numbered grid of a table, run from machine home."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import box
from shapely.geometry.base import BaseGeometry

from venzo.core.model import Family
from venzo.core.proof.program import ToolRun
from venzo.core.proof.world import Given, World, world_snags
from venzo.core.release.file_names import slug
from venzo.core.snags import BadInput
from venzo.core.stock.grid import Grid, grid_lines, grid_moves
from venzo.core.stock.machine import Machine
from venzo.core.stock.zeros import corner_of
from venzo.core.tooling.assembly import Assembly
from venzo.core.tooling.cutter import Cutter
from venzo.core.units import show_length
from venzo.formats.gcode import write
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound, Store

PEN_FEED, PEN_PLUNGE = 3000.0, 1000.0
"""mm/min; a pen in the collet needs no more care (common practice)."""
PEN = Cutter(id="pen", name="sprung pen", number=1, kind="straight", diameter=1.0, cutting_length=20.0)
PEN = Cutter(id="pen", name="sprung pen", number=1, kind="straight", diameter=1.0, cutting_length=20.0)
BOARD: Family = "wood"
"""What spoilboards are made of."""


@dataclass(frozen=True)
class Marker:
    """What marks the lines, and how deep, mm; ``cutter`` None: a sprung pen, pressed down so far while the
    spindle stands.
    """

    cutter: Cutter | None = None
    depth: float = 0.3

    @property
    def name(self) -> str:
        """For headers."""
        return "sprung pen, the spindle stands" if self.cutter is None else self.cutter.name


def table_grid(store: Store, machine: str, cutter: str | None, depth: float) -> tuple[str, str]:
    """File name and program of a machine's grid.

    Raises:
        BadInput: it has no grid, the cutter has no feeds for boards, or the program would meet something.
        NotFound: no such machine or cutter.
    """
    m = next((Machine.model_validate(x) for x in store.library("machine") if x["id"] == machine), None)
    if m is None:
        raise NotFound(f"machine {machine!r}")
    found = next((Cutter.model_validate(x) for x in store.library("cutter") if x["id"] == cutter), None)
    if cutter and found is None:
        raise NotFound(f"cutter {cutter!r}")
    return grid_program(m, Marker(found, depth))


def grid_program(m: Machine, marker: Marker) -> tuple[str, str]:
    """File name and program of the grid on a machine's table, Z 0 on its board; proven before it is given.

    Raises:
        BadInput: as ``table_grid``.
    """
    if m.grid is None:
        raise BadInput(f"{m.name} has no numbered grid; say in the library how large its squares are")
    home = corner_of(m.home, m.width, m.height)
    radius = marker.cutter.radius if marker.cutter else 0.0
    lines = [line - np.array(home) for line in grid_lines(m.grid, _free(m, radius))]
    feed, plunge, rpm = _feeds(m, marker)
    moves = grid_moves(lines, marker.depth, feed, plunge, m.retract)
    dialect = m.dialect if marker.cutter else m.dialect.model_copy(update={"tool_change": False})
    number = marker.cutter.number if marker.cutter else 1
    unit = "in" if m.dialect.inch else "mm"
    header = [
        f"VENZO numbered grid of {m.name}",
        _says(m.grid, unit),
        f"lines {show_length(marker.depth, unit)} deep, {marker.name}",
        f"X0 Y0 machine home, {m.home}; Z0 top of the board on the table",
        f"units {'inch' if m.dialect.inch else 'millimetre'}; take off all that lies or stands on the table",
    ]
    run = ToolRun(number, marker.name, rpm, [("grid", moves)], (0.0, 0.0))
    text = write([run], dialect, header, m.clearance, 0.0)
    _prove(m, marker, number, home, text)
    return f"grid_{slug(m.name)}.{m.dialect.ending}", text


def _says(grid: Grid, unit: str) -> str:
    """A grid in a line."""
    x, y, pitch = (show_length(v, unit) for v in (*grid.at, grid.pitch))
    return f"{grid.columns} x {grid.rows} squares of {pitch}, the first at {x}, {y} of the table"


def _free(m: Machine, radius: float) -> BaseGeometry:
    """Where lines may go on a table: not into its dead areas."""
    dead = shapely.union_all([box(*d).buffer(radius, join_style="mitre") for d in m.dead_areas])
    return box(0, 0, m.width, m.height).difference(dead)


def _feeds(m: Machine, marker: Marker) -> tuple[float, float, float]:
    """Feed, plunge (mm/min) and rpm."""
    if marker.cutter is None:
        return min(PEN_FEED, m.fastest_feed), min(PEN_PLUNGE, m.fastest_feed), 0.0
    feeds = marker.cutter.feeds.get(BOARD)
    if feeds is None:
        raise BadInput(
            f"{marker.cutter.name} has no feeds for {BOARD}; enter them in the library, or take another"
            " cutter"
        )
    if not m.rpm_min <= feeds.rpm <= m.rpm_max:
        raise BadInput(
            f"{marker.cutter.name}: {feeds.rpm:g} rpm is beyond the spindle of {m.name},"
            f" {m.rpm_min:g} to {m.rpm_max:g}"
        )
    return min(feeds.feed, m.fastest_feed), min(feeds.plunge, m.fastest_feed), feeds.rpm


def _prove(m: Machine, marker: Marker, number: int, home: tuple[float, float], text: str) -> None:
    """Raise BadInput where the written program meets something or leaves the table."""
    tool = marker.cutter or PEN
    world = World(
        m.width,
        m.height,
        m.spoilboard.thickness,
        {number: Assembly(tool, None, None, tool.diameter)},
        reach=(0.0, 0.0, m.width, m.height),
        z_span=m.z_travel,
        safe=min(m.retract, m.clearance),
        dead=m.dead_areas,
        axes=m.axes,
    )
    reading = interpret(text, "grid", m.dialect)
    if marker.cutter is None:  # a pen is moved with the spindle standing
        reading = replace(reading, faults=[f for f in reading.faults if f.rule != "proof.spindle"])
    given = Given("grid", reading, number, *home)
    stops = [s.message for s in world_snags(world, [given]) if s.severity == "stop"]
    if stops:
        raise BadInput(f"the grid of {m.name} cannot be marked: {stops[0]}")
