"""Dialects tried out: a small program as a controller would get it, read back and held against what it is to
do; and the shop's own jobs in it, proven.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from venzo.core.cuts.moves import CCW, CW, LINE, RAPID, row
from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.kerf_cuts import kerf_cuts
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.kerf_proof import against_run, taken_apart
from venzo.core.kerf.running import run
from venzo.core.model import Document
from venzo.core.plan import Plan
from venzo.core.proof.compare import (
    first_deviation,
    planned_dwells,
    planned_sections,
    read_sections,
)
from venzo.core.proof.program import ToolRun
from venzo.core.release.pen_lines import off_plan, pen_lines
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.machine import Machine
from venzo.core.voice import counted
from venzo.desk import jobs, kerf_jobs
from venzo.formats.hpgl import strokes
from venzo.formats.kerf_program import write_kerf
from venzo.formats.program_text import write_program
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound, Store

CLEARANCE = 20.0
MOST_JOBS = 3


class DialectTried(Document):
    """A small program in a dialect, and how it reads back. ``same``: it does what it is to do, move for move;
    ``says``: that in words; ``limits``: what the dialect cannot say, and what is done about it.
    """

    text: str
    same: bool
    says: str
    limits: list[str]


class JobTried(Document):
    """A job's programs in a dialect, read back and proven: how many, and what stops them, if anything."""

    job: str
    name: str
    programs: int
    stops: list[str]


def sample() -> list[ToolRun]:
    """What the small program does: a helix, a hole with a dwell, a stop, an outline of arcs and lines."""
    ring = [
        row(RAPID, 60, 20, 3),
        row(LINE, 60, 20, 0, 1500),
        row(CCW, 60, 20, -3, 1500, 50, 20),
        row(CCW, 60, 20, -6.5, 1500, 50, 20),
        row(CCW, 60, 20, -6.5, 3000, 50, 20),
        row(LINE, 60, 20, 3, 3000),
    ]
    outline = [
        row(RAPID, 20, 0, 3),
        row(LINE, 20, 0, -3.25, 1500),
        row(LINE, 100, 0, -3.25, 4000),
        row(CCW, 110, 10, -3.25, 4000, 100, 10),
        row(LINE, 110, 50.5, -3.25, 4000),
        row(LINE, 20, 50.5, -3.25, 4000),
        row(CW, 20, 0, -3.25, 4000, 20, 25.25),
        row(LINE, 20, 0, 3, 4000),
    ]
    drilled = [
        row(RAPID, 90, 40, 3),
        row(LINE, 90, 40, -6.5, 600),
        row(LINE, 90, 40, -6.5, -0.5),
        row(LINE, 90, 40, 3, 600),
    ]
    return [
        ToolRun(1, "6 mm compression", 18_000, [("ring", np.array(ring))]),
        ToolRun(
            2,
            "5 mm drill",
            4_500,
            [("hole", np.array(drilled)), ("outline", np.array(outline))],
            stops={1: "clamp the middle (by hand)"},
        ),
    ]


def tried(dialect: Dialect) -> DialectTried:
    """The small program in a dialect, read back."""
    if dialect.process == "head":
        return _tried_head(dialect)
    runs = sample() if dialect.tool_change else sample()[1:]
    header = ["VENZO a small program", "X0 Y0 lower left corner of the sheet; Z0 top of the material"]
    text = write_program(runs, dialect, header, CLEARANCE, 0.0, (1, 2))
    wrong = _plot_wrong(runs, text) if dialect.language == "hpgl" else _wrong(runs, dialect, text)
    lines = counted(len(text.splitlines()), "line")
    return DialectTried(
        text=text,
        same=not wrong,
        says=wrong or f"read back: {lines} do what they are to do, move for move",
        limits=list(_limits(dialect)),
    )


def _tried_head(dialect: Dialect) -> DialectTried:
    """A small plate with a hole as a kerf table would get it, read back."""
    how = KerfHow(kerf=1.5, lead=3.0, feed=3000, lead_feed=1000, hop=60, hop_feed=4000, pierce=0.5, still=6)
    outline = Contour.of([(20, 10), (110, 10), (110, 60.5), (20, 60.5)])
    plate = [Body("plate", Region(outline, (Contour.circle(50, 30, 10).reversed(),)))]
    cuts = kerf_cuts(plate, how)
    done = run(cuts.cuts, plate, how)
    text = write_kerf(done, how, ["VENZO a small program"], dialect)
    told = taken_apart(interpret(text, "the small program", dialect))
    wrong = [s.message for s in (*told.snags, *against_run(told, done))]
    lines = counted(len(text.splitlines()), "line")
    limits = [] if dialect.sense else ["no word that senses the height: it is set by hand before each pierce"]
    limits += [] if dialect.follow_on else ["no words that switch height following: it is on or off for all"]
    limits += [] if dialect.arcs else ["no arcs: they are written as lines within 0.005 mm"]
    says = wrong[0] if wrong else f"read back: {lines} do what they are to do, cut for cut"
    return DialectTried(text=text, same=not wrong, says=says, limits=limits)


def _wrong(runs: list[ToolRun], dialect: Dialect, text: str) -> str:
    """The first thing that a program does otherwise, in words; empty: nothing."""
    reading = interpret(text, "the small program", dialect)
    if reading.faults:
        return f"line {reading.faults[0].line}: {reading.faults[0].message}"
    first = runs[0].number
    last = max((b.lines[-1] for b in reading.blocks if b.lines), default=0)
    off = first_deviation(planned_sections(runs, CLEARANCE, 0.0), read_sections(reading.blocks, first), last)
    if off:
        return f"line {off.line}: {off.message}"
    dwells = [e.value for e in reading.events if e.kind == "dwell"]
    if not np.allclose(dwells, planned_dwells(runs)):
        return "a dwell is lost or is too many"
    stops = sum(e.kind == "stop" for e in reading.events)
    if stops != (sum(len(r.stops) for r in runs) if dialect.stops else 0):
        return "a stop for the operator is lost or is too many"
    return "" if reading.ended else "the program does not end"


def _plot_wrong(runs: list[ToolRun], text: str) -> str:
    off = off_plan([line for _pen, line in pen_lines(runs)], strokes(text.encode(), "the plot"))
    return f"{off[0]} at {off[1]:.2f}, {off[2]:.2f} mm" if off else ""


def _limits(d: Dialect) -> Iterator[str]:
    """What a dialect cannot say, and what is done about it."""
    if d.language == "hpgl":
        yield "a plot says no heights: the pen is set down by hand, passes over one line are drawn once"
        yield "a plot says no spindle: it is switched on and off by hand"
        return
    if not d.arcs:
        yield "no arcs: they are written as lines within 0.005 mm"
    if not d.tool_change:
        yield "no cutter change: every cutter is a file of its own"
    if not d.stops:
        yield "no stops: what follows a stop for the operator is a file of its own"
    if d.comments == "none":
        yield "no comments: zero, cutters and stops stand on the setup sheet only"
    if not d.zone_on:
        yield "no words for vacuum zones: they are switched by hand, as the setup sheet says"


def tried_on_jobs(store: Store, machine: str, dialect: Dialect) -> list[JobTried]:
    """The newest jobs of a machine, at most three, with their programs in a dialect, read back and proven.
    Nothing is changed.

    Raises:
        NotFound: no such machine.
        BadInput: no job of it is nested.
    """
    if not any(m["id"] == machine for m in store.library("machine")):
        raise NotFound(f"machine {machine!r}")
    out: list[JobTried] = []
    for line in store.jobs():
        plan = store.get(line["id"]).plan
        mine = [s.id for s in plan.setups if s.machine.id == machine and s.nest]
        if not mine:
            continue
        out.append(_proven(store, plan, mine, dialect))
        if len(out) == MOST_JOBS:
            return out
    if not out:
        raise BadInput("no job of this machine is nested yet: the small program is all there is to read back")
    return out


def _proven(store: Store, plan: Plan, setups: list[str], dialect: Dialect) -> JobTried:
    def spoken(m: Machine) -> Machine:
        return m.model_copy(update={"dialect": dialect})

    other = plan.model_copy(
        update={
            "setups": tuple(
                s.model_copy(update={"machine": spoken(s.machine)}) if s.id in setups else s
                for s in plan.setups
            )
        }
    )
    count, stops = 0, []
    for d in jobs.derive(store, other, hold=False).values():
        if d.setup.id not in setups:
            continue
        if d.kerf:
            count += len(d.kerf)
            stops += [s.message for s in kerf_jobs.proofs(other, d) if s.severity == "stop"]
            continue
        count += len(jobs.programs(other, d))
        for sheet in d.sheets:
            found = jobs.prove_sheet(store, other, d, sheet).snags
            stops += [s.message for s in found if s.severity == "stop"]
    return JobTried(job=plan.id, name=plan.name, programs=count, stops=stops[:20])
