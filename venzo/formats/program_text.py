"""A program in whatever its machine's controller reads."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from venzo.core.proof.program import ToolRun
from venzo.core.stock.dialect import Dialect
from venzo.formats import gcode, pen_plot


def write_program(
    runs: list[ToolRun],
    dialect: Dialect,
    header: Iterable[str],
    clearance: float,
    z_shift: float,
    zones: Sequence[int] = (),
) -> str:
    """The text of a program, in its dialect; arguments as for ``gcode.write``."""
    if dialect.language == "hpgl":
        return pen_plot.write(runs, dialect)
    return gcode.write(runs, dialect, header, clearance, z_shift, zones)
