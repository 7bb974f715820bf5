"""The paper of a sheet on a kerf table: how it lies, what is set at the head, what comes loose when, what it
costs, and the cautions.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.kerf.kerf_costs import KerfCost
from venzo.core.kerf.kerf_cuts import KerfCut
from venzo.core.kerf.of_setup import KerfSheet
from venzo.core.plan import Setup
from venzo.core.snags import Snag
from venzo.core.stock.sheet import Stock
from venzo.core.voice import counted, in_unit
from venzo.formats.paper import LEFT, Paper
from venzo.formats.setup_sheet import say_snags

HIGH = 300.0
"""Points that a sheet's drawing may be high."""


@dataclass(frozen=True, eq=False)
class KerfOnPaper:
    """A sheet for its paper; ``file``: its program, empty where it is withheld; ``zero``: how X0 Y0 is
    set.
    """

    number: int
    of: int
    sheet: KerfSheet
    stock: Stock
    file: str
    zero: str
    cost: KerfCost
    snags: Sequence[Snag]


def kerf_paper(title: str, setup: Setup, sheets: Sequence[KerfOnPaper], cautions: Sequence[str]) -> bytes:
    """PDF bytes, a page or more a sheet, in the unit of the machine's programs."""
    unit = setup.machine.dialect.unit
    paper = Paper(f"{title}: kerf sheet", cautions)
    for one in sheets:
        paper.begin(f"{title}: {setup.name}", f"sheet {one.number} of {one.of}", setup.machine.name)
        for label, text in _facts(setup, one):
            paper.fact(label, in_unit(text, unit))
        _drawn(paper, one)
        paper.heading("At the table")
        for k, step in enumerate(_steps(setup, one), 1):
            paper.tick(in_unit(f"{k}. {step}", unit))
        rests = [x for x in one.sheet.loosened if x.piece and x.state in ("tips", "falls")]
        if rests:
            paper.heading("What does not lie still once it is free")
            for x in rests:
                paper.tick(in_unit(f"{x.name} {x.state}, {_clock(x.seconds)} into the program", unit))
        say_snags(paper, one.snags, unit)
    return paper.finish()


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{int(seconds % 60):02d} min"


def _facts(setup: Setup, one: KerfOnPaper) -> list[tuple[str, str]]:
    s, head, table = one.sheet, setup.head, setup.machine.head
    how, said, run = s.how, s.said, s.run
    out = [
        ("Stock", f"{one.stock.name}, {one.stock.width:g} x {one.stock.height:g} mm, {how.thickness:.2f} mm"),
        ("Program", one.file or "withheld until every stop is cleared"),
        ("Zero", one.zero),
    ]
    if head is not None:
        pierced = "none: begins at the edge" if said.pierce is None else f"{said.pierce:.2f} s"
        out += [
            ("Head", f"{head.name}; nozzle bore {head.nozzle:g} mm (not the kerf)"),
            ("Kerf", f"{how.kerf:.3f} mm, {said.source}"),
            ("Pierce", f"{pierced} at {said.pierce_height:g} mm; cut height {said.cut_height:g} mm"),
        ]
    out += [
        ("Feed", f"{how.feed:.0f} mm/min, lead-ins {how.into_at:.0f} mm/min"),
        (
            "Work",
            f"{counted(run.pierces, 'pierce')}, {run.cut_length / 1000:.2f} m with the head on, about"
            f" {_clock(run.time)}: an estimate; hardness, nozzle wear and sensing move it",
        ),
    ]
    if table is not None and table.set_up:
        out.append(("Setting up", f"{table.set_up:g} min before the first sheet, booked with the job"))
    c = one.cost
    if c.total:
        kinds = (("machine", c.machine), ("gas", c.gas), ("starts", c.consumables), ("abrasive", c.abrasive))
        parts = [f"{name} {value:.2f}" for name, value in kinds if value]
        out.append(("Cost", f"{c.total:.2f}: {', '.join(parts)}"))
    return out


def _steps(setup: Setup, one: KerfOnPaper) -> list[str]:
    table = setup.machine.head
    below = {"water": "water level as the maker says", "draught": "extraction on"}
    under = below.get(table.under, "fire watch at hand") if table else ""
    tabs = one.sheet.how.tabs.count
    return [
        "Lay the sheet flat on clean slats, clamp it clear of every cut, connect the ground.",
        f"Check nozzle and electrode against the head named above; {under}.",
        "Set zero as said; trace the sheet's edge with the head off.",
        "Run it. Stay with it: a part or a drop that stands up stops the program, not the head.",
        *([f"{counted(tabs, 'tab')} hold every part: break or cut them once all is cool."] if tabs else []),
        "Let it cool, sort the parts, write down what was spoilt.",
    ]


def _drawn(paper: Paper, one: KerfOnPaper) -> None:
    """The sheet: parts, kerfs and pierces."""
    w, h = one.stock.width, one.stock.height
    scale = min(paper.width / w, HIGH / h)
    paper.gap(8)
    paper.room(h * scale + 12)
    c, x0, y0 = paper.canvas, LEFT, paper.y - h * scale
    c.saveState()
    c.setLineWidth(0.7)
    c.rect(x0, y0, w * scale, h * scale)
    c.setLineWidth(0.35)
    for body in one.sheet.bodies:
        for loop in body.region.loops:
            _polyline(paper, loop, (x0, y0), scale)
    c.setFont("Helvetica", 6)
    for k, cut in enumerate(one.sheet.run.cuts, 1):
        _pierce(paper, cut, k, (x0, y0), scale)
    c.restoreState()
    paper.y = y0 - 8


def _polyline(paper: Paper, loop: Contour, at: tuple[float, float], scale: float) -> None:
    points = loop.points(0.1) * scale + np.array(at)
    path = paper.canvas.beginPath()
    path.moveTo(*points[0])
    for p in points[1:]:
        path.lineTo(*p)
    path.close()
    paper.canvas.drawPath(path)


def _pierce(paper: Paper, cut: KerfCut, number: int, at: tuple[float, float], scale: float) -> None:
    x, y = (v * scale + o for v, o in zip(cut.pierce, at, strict=True))
    paper.canvas.circle(x, y, 1.1, fill=1)
    if number <= 99:
        paper.canvas.drawString(x + 2, y + 1, str(number))
