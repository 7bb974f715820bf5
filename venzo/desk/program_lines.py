"""A program line by line: its text, and where on the tape of its sheet each line stands."""

from __future__ import annotations

from functools import partial

import numpy as np

from venzo.core.cuts.moves import KIND, RAPID, Z
from venzo.core.derive import DerivedSetup
from venzo.core.geometry.contour import Array
from venzo.core.memo import memo
from venzo.core.model import Document, digest
from venzo.core.motion.time import pace
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.release.programs import ProgramFile
from venzo.desk import jobs
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound, Store

AT_TOP = 0.02
"""mm; a fast move that ends this near the height of fast moves ends a cut."""


class ProgramText(Document):
    """A program with the sheet that it cuts. ``at``: for every line when on the sheet's tape what it says is
    done, s; a line that moves nothing has the time of the one before; empty where a program is no list of
    moves.
    """

    name: str
    setup: str
    sheet: str
    copy_no: int
    lines: list[str]
    at: list[float]


def program_text(store: Store, plan: Plan, name: str) -> ProgramText:
    """A program of a job by its name.

    Raises:
        NotFound: no such program: the plan has changed.
    """
    for d in jobs.derive(store, plan, hold=False).values():
        for f in jobs.programs(plan, d):
            if f.name != name:
                continue
            sheet = next(s for s in d.sheets if (s.sheet, s.copy_no) == (f.sheet, f.copy_no))
            lines = f.text.splitlines()
            key = digest("lines-1", f.text, sheet.key, d.setup.machine)
            at = memo("program lines", key, partial(_times, d, sheet, f, len(lines)))
            return ProgramText(
                name=name, setup=d.setup.id, sheet=f.sheet, copy_no=f.copy_no, lines=lines, at=at
            )
    raise NotFound(f"the job has no program {name!r}: the plan has changed")


def _times(d: DerivedSetup, sheet: SheetPlan, f: ProgramFile, lines: int) -> list[float]:
    """Seconds of the tape at every line: within a cut by the time that its moves take."""
    m = d.setup.machine
    if m.dialect.language != "rs-274" or not f.cuts:
        return []
    stock = d.setup.stock_of(sheet.sheet)
    over = m.clearance + (stock.thickness if stock and f.z_zero == "bed" else 0.0)
    reading = interpret(f.text, f.name, m.dialect)
    out = np.full(lines + 1, np.nan)
    k = 0
    for block in reading.blocks:
        for first, last in _cuts(block.moves, over):
            if k >= len(f.cuts):
                break
            cut = sheet.cuts[f.cuts[k]]
            # from where the cutter is fast down to, as the plan's moves begin
            spent = pace(block.moves[first : last + 1], m.axes).seconds if last > first else np.ones(1)
            share = np.cumsum(spent) / max(float(spent.sum()), 1e-9)
            out[np.array(block.lines[first : last + 1])] = cut.begins + share * cut.seconds
            k += 1
    start = sheet.cuts[f.cuts[0]].begins
    known = np.flatnonzero(~np.isnan(out))
    if not len(known):
        return []
    before = np.searchsorted(known, np.arange(1, lines + 1), side="right") - 1
    filled = np.where(before >= 0, out[known[np.maximum(before, 0)]], start)
    return [round(float(t), 2) for t in filled]


def _cuts(moves: Array, over: float) -> list[tuple[int, int]]:
    """First and last row of every stretch that is not at the height of fast moves."""
    down = ~((moves[:, KIND] == RAPID) & (moves[:, Z] >= over - AT_TOP))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], down.astype(int), [0]])))
    return [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
