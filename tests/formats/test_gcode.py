"""Programs out and in; what an interpreter must refuse (NIST RS274/NGC version 3 report, NISTIR 6556 [M])."""

import numpy as np
import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import CCW, LINE, RAPID, lengths, row
from venzo.core.edits import SetOperation, SetSetup
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.grid import Grid
from venzo.core.stock.zeros import SquareZero
from venzo.desk import jobs
from venzo.formats.gcode import ToolRun, read, write

MOVES = np.array(
    [
        row(RAPID, 10, 10, 3),
        row(LINE, 10, 10, 0, 900),
        row(LINE, 40, 10, -5, 2000),
        row(CCW, 40, 30, -5, 2000, 40, 20),
        row(LINE, 10, 30, -5, 2000),
        row(CCW, 10, 10, -6.25, 2000, 10, 20),
    ]
)


@pytest.mark.parametrize(
    "dialect", [Dialect(), Dialect(inch=True), Dialect(arcs=False), Dialect(tool_change=False)]
)
def test_what_is_written_is_read_back(dialect):
    text = write([ToolRun(7, "six (mm)", 18_000, [("a cut", MOVES)])], dialect, ["job"], 15, 0)
    got = read(text)
    assert got.ended and got.inch == dialect.inch
    block = got.blocks[0]
    assert block.tool == (7 if dialect.tool_change else 0) and block.rpm == 18_000
    cut = block.moves[block.moves[:, 0] != RAPID]
    assert cut[:, 1:4].min(axis=0) == pytest.approx([0 if dialect.arcs else 0.0, 10, -6.25], abs=0.01) or cut[
        :, 3
    ].min() == pytest.approx(-6.25, abs=1e-3)
    start = np.array([row(RAPID, 10, 10, 3)])
    assert lengths(np.vstack([start, cut])).sum() == pytest.approx(lengths(MOVES).sum(), rel=1e-3)


def test_zero_on_the_bed_lifts_everything_by_the_thickness():
    top = read(write([ToolRun(1, "a", 1000, [("c", MOVES)])], Dialect(), [], 15, 0)).moves
    bed = read(write([ToolRun(1, "a", 1000, [("c", MOVES)])], Dialect(), [], 15, 17.6)).moves
    assert bed[:, 3] - top[:, 3] == pytest.approx(17.6)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("G1 X5", "without a feed"),
        ("F100 G1 X5", "spindle stopped"),
        ("G0 X0 Y0\nS9 M3 F100 G2 X10 Y0 I4 J0", "radius"),
        ("G0 X0 Y0\nS9 M3 F100 G2 X10 Y0", "no radius"),
        ("G92 X0", "not understood"),
        ("G18", "not understood"),
        ("G41 D1", "not understood"),
        ("T2 M6\nG43 H1", "another cutter"),
        ("G0 Z5\nG91 G0 X1", "not known"),
        ("X5", "without a motion word"),
        ("G0 X1 X2", "twice"),
        ("G0 G1 X1", "two motion words"),
        ("G0 X=#1", "cannot read"),
        ("G38.2 Z-5", "not understood"),
        ("S9 M3 F9 G1 X1", "is not known"),
        ("M30\nG0 X1", "after the program's end"),
        ("G0 X0 Y0\nS9 M3 F9 G3 X10 Y0 R2", "does not reach"),
    ],
)
def test_what_a_controller_must_refuse(line, words):
    with pytest.raises(BadInput, match=words) as e:
        read("G21 G90\n" + line, "p.nc")
    assert str(e.value).startswith("p.nc, line")


def test_nothing_of_a_header_is_cut_off(store):
    """A zero in many words and another Z zero for one step: what is said last is what hurts."""
    job = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60)]))
    machine = job.setup.machine.model_copy(update={"grid": Grid(pitch=100.5, columns=12, rows=8)})
    steps = [o for o in job.setup.operations if o.on == "holes"]
    other = "top" if job.setup.z_zero == "bed" else "bed"
    job.do(SetSetup(setup="main", machine=machine, datum=SquareZero(column=11, row=7)))
    for step in steps:
        job.do(SetOperation(setup="main", operation=step.model_copy(update={"z_zero": other})))
    (d,) = jobs.derive(store, job.plan, hold=False).values()
    text = "\n".join(f.text for f in jobs.programs(job.plan, d))
    assert all(len(line) <= 112 for line in text.splitlines())
    words = " ".join(line.strip("()") for line in text.splitlines() if line.startswith("("))
    assert "NOT AS THE OTHER FILES: touch off again" in words
    assert "square 83 of the table's grid, column 11, row 7 of 100.5 mm squares" in words
