"""The program of holes for dowels in the spoilboard, proven before it is given: it is run with no stock on
the table, so that no sheet's proof reads it.
"""

from __future__ import annotations

from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan, Setup
from venzo.core.proof.compare import first_deviation, planned_sections, read_sections
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.world import Given, World, world_snags
from venzo.core.release.programs import ProgramFile, tool_runs
from venzo.core.snags import Snag, Where, stop
from venzo.formats.rs274 import read

LEAST_BOARD = 3.0
"""mm of spoilboard that stay under a dowel."""


def spoilboard_snags(plan: Plan, setup: Setup, sheet: SheetPlan, file: ProgramFile) -> list[Snag]:
    """What is to be said of a program of holes in the spoilboard, written for the stock of ``sheet``."""
    m, where = setup.machine, Where(setup=setup.id, file=file.name)
    if m.dialect.language != "rs-274":
        return []
    runs = tool_runs(plan, setup, sheet, file)
    reading = read(file.text, file.name, m.dialect)
    loaded = runs[0].number if runs else 0
    stock = setup.stock_of(sheet.sheet)
    assert stock is not None
    at = setup.lying.point_on_table(datum_on_sheet(setup, stock))
    world = World(
        m.width,
        m.height,
        m.spoilboard.thickness,
        {c.number: setup.assembly(c) for c in setup.cutters},
        reach=(0.0, 0.0, m.width, m.height),
        z_span=m.z_travel,
        safe=min(m.retract, m.clearance),
        strict=True,
        dead=m.dead_areas,
        axes=m.axes,
    )
    given = Given(file.name, reading, loaded, *at)
    out = [s.model_copy(update={"where": {**where, **(s.where or {})}}) for s in world_snags(world, [given])]
    want = planned_sections(runs, m.clearance, 0.0)
    last = max((b.lines[-1] for b in reading.blocks if b.lines), default=0)
    wrong = first_deviation(want, read_sections(reading.blocks, loaded), last)
    if wrong:
        out.append(stop("proof.plan", f"line {wrong.line}: {wrong.message}", {**where, "line": wrong.line}))
    deepest = max((-float(moves[:, 3].min()) for r in runs for _w, moves in r.cuts), default=0.0)
    if deepest > m.spoilboard.thickness - LEAST_BOARD:
        words = (
            f"dowels {deepest:g} mm deep in a spoilboard of {m.spoilboard.thickness:g} mm go through to the"
            " table; make them less deep"
        )
        out.append(stop("turn.spoilboard", words, where))
    return out
