"""Dialects as data: whatever they say, what is written is read back as the same way, and what a controller
does not take is not written.
"""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from shapely.geometry import LineString, Point

from tests.support.breadth import spread
from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import CCW, LINE, RAPID, lengths, polyline, row
from venzo.core.edits import ChangeStops, SetSetup
from venzo.core.proof.program import ToolRun
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect, starters
from venzo.desk import jobs
from venzo.desk.dialects import tried as dialects_tried
from venzo.desk.dialects import tried_on_jobs
from venzo.formats.gcode import read, write
from venzo.formats.hpgl import strokes
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound

MOVES = np.array(
    [
        row(RAPID, 10, 10, 3),
        row(LINE, 10, 10, 0, 900),
        row(LINE, 40.0625, 10, -5, 2000),
        row(CCW, 40, 30, -5, 2000, 40, 20),
        row(LINE, 10, 30, -5, 2000),
        row(LINE, 10, 30, -5, -0.5),
        row(CCW, 10, 10, -6.25, 2000, 10, 20),
    ]
)
OWN = st.sampled_from([(), ("M66 P1",), ("M101", "M102 P0 Q1.5")])
KNOWN = "GXYZFSMPIJNHT"


@st.composite
def dialects(draw):
    """Any dialect that a person may say of a controller that reads RS-274."""
    inch = draw(st.booleans())
    pick = {
        "inch": st.just(inch),
        "arcs": st.booleans(),
        "tool_change": st.booleans(),
        "stops": st.booleans(),
        "percent": st.booleans(),
        "offset": st.sampled_from(["", "G54", "G57"]),
        "change": st.sampled_from(["T M6", "M6 T"]),
        "lengths": st.booleans(),
        "spindle_up": st.sampled_from([0.0, 2.5]),
        "dwell_in": st.sampled_from(["s", "ms"]),
        "cooling": st.sampled_from(["", "M7", "M8"]),
        "at_start": OWN,
        "before_change": OWN,
        "after_change": OWN,
        "before_cut": OWN,
        "after_cut": OWN,
        "at_end": OWN,
        "comments": st.sampled_from(["brackets", "semicolon", "none"]),
        "decimals": st.sampled_from([None, 4, 5, 6]),
        "whole": st.sampled_from(["10", "10.", "10.000"]),
        "spaces": st.booleans(),
        "numbers": st.sampled_from([0, 1, 10]),
        "modal": st.booleans(),
        "crlf": st.booleans(),
        "letters": st.sampled_from(["", KNOWN]),
        "end": st.sampled_from(["M30", "M2"]),
        "park": st.sampled_from(["over the work", "machine's top"]),
    }
    fields = {k: draw(v) for k, v in pick.items()}
    zones = {"zone_on": "M64 P{zone}", "zone_off": "M65 P{zone}"} if draw(st.booleans()) else {}
    return Dialect(**fields, **zones)


@given(dialects())
def test_whatever_the_dialect_the_way_is_the_same(dialect):
    runs = [
        ToolRun(7, "six (mm)", 18_000, [("a cut", MOVES)], stops={}),
        ToolRun(8, "eight", 12_000, [("a cut", MOVES), ("again", MOVES)], stops={1: "turn the clamp (left)"}),
    ]
    text = write(runs, dialect, ["job " + "long " * 60], 15, 0, (1, 3))
    got = read(text, "p", dialect)
    assert got.ended and got.inch == dialect.inch and not got.faults
    assert all(len(line) <= dialect.longest for line in text.splitlines())
    assert ("\r\n" in text) == dialect.crlf
    tools = [7, 8] if dialect.tool_change else [0]
    assert list(dict.fromkeys(b.tool for b in got.blocks)) == tools
    assert {abs(s) for b in got.blocks for s in b.speed} - {0} == {18_000, 12_000}
    want = polyline(MOVES, 0.001)[:, :3]
    way = np.concatenate([polyline(b.moves, 0.001) for b in got.blocks])
    for a, b in ((want, way[way[:, 2] < 2.9]), (way[way[:, 2] < 2.9], want)):
        line = LineString(b[:, :2])
        assert max(line.distance(Point(*p)) for p in a[:, :2]) < 0.01
    assert abs(way[:, 2].min() + 6.25) < 1e-3
    cuts = [b.moves[b.moves[:, 0] != RAPID] for b in got.blocks]
    assert {round(float(f)) for m in cuts for f in m[:, 6]} == {900, 2000}
    waits = [e.value for e in got.events if e.kind == "dwell"]
    assert waits == pytest.approx([0.5] * 3)
    made = [e for e in got.events if e.kind == "stop"]
    assert len(made) == (1 if dialect.stops else 0)
    if dialect.letters:
        words = "".join(
            line for line in text.splitlines() if line[:1] not in "(;%" and not dialect.is_own(line)
        )
        assert {c for c in words if c.isalpha()} <= set(dialect.letters)


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"at_start": ("G0 Z50",)}, "no word of the machine's own"),
        ({"at_start": ("M30",)}, "no word of the machine's own"),
        ({"before_cut": ("M3",)}, "no word of the machine's own"),
        ({"before_cut": ("M66 X10",)}, "no word of the machine's own"),
        ({"at_end": ("M64 P{zone}",)}, "only in the words that switch a vacuum zone"),
        ({"zone_on": "M64 P{zone}"}, "give both"),
        ({"modes": "G91"}, "G91 does not go"),
        ({"modes": "G17"}, "G90 is missing"),
        ({"letters": "GXYZFSM"}, "dwells need the letter P"),
        ({"letters": "GXYZFSMPT"}, "arcs need the letter I"),
        ({"letters": "GXYZFSMPTIJ", "numbers": 5}, "block numbers need the letter N"),
        ({"inch": True, "decimals": 3}, "coarser than 0.02 mm"),
        ({"ending": "../x"}, "match pattern"),
        ({"longest": 40}, "greater than or equal to 96"),
        ({"at_start": ("M66",) * 13}, "at most 12"),
    ],
)
def test_what_no_dialect_may_say(fields, words):
    with pytest.raises(ValidationError, match=words):
        Dialect(**fields)


def test_words_of_another_machine_are_not_understood():
    """A shoe that one machine lowers with M66 is a stop on a machine that was never told of it."""
    own = Dialect(before_cut=("M66 P1",))
    text = write([ToolRun(1, "a", 9000, [("c", MOVES)])], own, [], 15, 0)
    assert not interpret(text, "p", own).faults
    (fault,) = interpret(text, "p").faults
    assert "M66" in fault.message
    (other,) = interpret(text.replace("M66 P1", "M66 P2"), "p", own).faults
    assert "M66" in other.message


def test_a_wait_for_the_spindle_is_no_dwell_in_the_work_and_a_longer_one_is():
    own = Dialect(spindle_up=3)
    text = write([ToolRun(1, "a", 9000, [("c", MOVES[:5])])], own, [], 15, 0)
    assert [e.kind for e in interpret(text, "p", own).events if e.value] == ["change", "spin-up"]
    assert "dwell" in [e.kind for e in interpret(text.replace("G4 P3", "G4 P30"), "p", own).events]


@pytest.fixture
def job(store):
    return TrialJob(store, (rect(200, 120, ((60, 60, 20), (140, 60, 6))), [(60, 60), (300, 60)]))


def spoken(job, dialect, **fields):
    """The job's sheet written for a machine with a dialect: programs and proof."""
    machine = job.setup.machine.model_copy(update={"dialect": dialect, **fields})
    job.do(SetSetup(setup="main", machine=machine))
    (d,) = jobs.derive(job.store, job.plan, hold=False).values()
    return d, jobs.programs(job.plan, d), jobs.prove_sheet(job.store, job.plan, d, d.sheets[0])


@pytest.mark.parametrize("dialect", spread(starters(), 4), ids=lambda d: d.name)
def test_a_job_in_every_dialect_to_begin_with_is_proven(job, dialect):
    _d, files, proof = spoken(job, dialect)
    assert not [s.message for s in proof.snags if s.severity == "stop"]
    assert all(f.name.endswith(f".{dialect.ending}") for f in files)
    if dialect.language == "hpgl":
        (said,) = [s for s in proof.snags if s.rule == "proof.heights"]
        assert "says no heights" in said.message


def test_a_controller_without_stops_gets_a_file_from_each_stop_on(job):
    (d,) = jobs.derive(job.store, job.plan, hold=False).values()
    at = {"sheet": d.sheets[0].sheet, "sheet_copy": 0, "before": d.sheets[0].cuts[3].name}
    stop = {"id": "s", **at, "words": "turn the clamp"}
    job.do(ChangeStops(setup="main", add=(stop,)))
    one = spoken(job, Dialect())
    two = spoken(job, Dialect(stops=False))
    assert len(two[1]) == len(one[1]) + 1
    assert "M0" in one[1][0].text.split() and not any("M0" in f.text.split() for f in two[1])
    assert any("OPERATOR, before this file: turn the clamp" in f.text for f in two[1])
    assert not [s.message for s in two[2].snags if s.severity == "stop"]
    assert sum(f.seconds for f in two[1]) == pytest.approx(two[0].sheets[0].seconds)


def test_a_plot_draws_every_line_once_and_an_altered_one_is_found(job):
    plot = next(d for d in starters() if d.language == "hpgl")
    d, files, _proof = spoken(job, plot)
    drawn = sum(
        float(np.hypot(*np.diff(s, axis=0).T).sum()) for f in files for s in strokes(f.text.encode(), "")
    )
    assert drawn < d.sheets[0].cut_length  # several passes over one line are one line
    bad = [type(f)(**{**f.__dict__, "text": f.text.replace("PD", "PU", 1)}) for f in files]
    found = jobs._plotted(job.plan, d, d.sheets[0], bad)
    assert any(s.rule == "proof.plot" and "missing" in s.message for s in found)


def test_a_plot_cannot_surface(store):
    plot = next(d for d in starters() if d.language == "hpgl")
    with pytest.raises(BadInput, match="says no heights"):
        write([ToolRun(1, "a", 9000, [("c", MOVES)])], plot, [], 15, 0)


def test_files_by_cutter_and_by_operation_hold_the_same_cuts(job):
    def cuts(by):
        job.do({"kind": "set-order", "setup": "main", "files_by": by})
        (d,) = jobs.derive(job.store, job.plan, hold=False).values()
        files = jobs.programs(job.plan, d)
        assert not [
            s for s in jobs.prove_sheet(job.store, job.plan, d, d.sheets[0]).snags if s.severity == "stop"
        ]
        assert sum(f.seconds for f in files) == pytest.approx(d.sheets[0].seconds)
        return files

    spoken(job, Dialect())
    whole, cutter, operation = cuts("sheet"), cuts("cutter"), cuts("operation")
    assert len(whole) == 1 <= len(cutter) <= len(operation)
    for files in (cutter, operation):
        assert [i for f in files for i in f.cuts] == list(whole[0].cuts)
        assert len({f.name for f in files}) == len(files)
    assert all(len(f.cutters) == 1 for f in cutter)


@pytest.mark.parametrize("arcs", [True, False])
def test_once_round_stays_once_round(arcs):
    """A full circle ends where it begins; it is no line of no length."""
    moves = np.array([row(RAPID, 60, 20, 3), row(LINE, 60, 20, 0, 900), row(CCW, 60, 20, -3, 900, 50, 20)])
    got = read(write([ToolRun(1, "a", 9000, [("c", moves)])], Dialect(arcs=arcs), [], 15, 0)).moves
    cut = got[got[:, 0] != RAPID]
    assert lengths(np.vstack([moves[:1], cut])).sum() == pytest.approx(lengths(moves).sum(), rel=1e-3)


@pytest.mark.parametrize("dialect", starters(), ids=lambda d: d.name)
def test_the_small_program_reads_back_in_every_dialect_to_begin_with(dialect):
    tried = dialects_tried(dialect)
    assert tried.same, tried.says
    assert tried.limits or dialect.zone_on


def test_a_dialect_is_tried_on_the_machine_s_own_jobs(demo):
    plan = demo.get("viewing-slot-glazing").plan
    machine = plan.setups[0].machine.id
    before = demo.head("viewing-slot-glazing")
    (first, *_more) = tried_on_jobs(demo, machine, Dialect(numbers=10, tool_change=False))
    assert first.programs and not first.stops
    assert demo.head("viewing-slot-glazing") == before
    with pytest.raises(NotFound):
        tried_on_jobs(demo, "no such", Dialect())
