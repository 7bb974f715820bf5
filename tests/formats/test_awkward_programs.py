"""Awkward programs: each is read as a controller reads it, or refused by line (modal groups, order of words
and arc rules after the NIST RS274/NGC report, NISTIR 6556, from memory); and whatever comes, nothing crashes
or hangs. Extents and lengths are held against the reading of ``tests/faults/judge``, which shares no code.
"""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.faults.judge import trace
from venzo.core.cuts.moves import CCW, CW, KIND, LINE, RAPID, Z, lengths, polyline, row
from venzo.core.motion.time import Axes
from venzo.core.proof.program import ToolRun
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.desk.proving import prove_programs, world_of
from venzo.formats.gcode import write
from venzo.formats.rs274 import interpret, read

UP = "G21 G90\nS9000 M3 F900\nG0 X0 Y0\nG0 Z5\n"

READ = {
    "lower case, no spaces": ("g1x10y4z-1", (10, 4, -1)),
    "spaces within words": ("G 1 X 10 Y 4 Z - 1".replace("- 1", "-1"), (10, 4, -1)),
    "tabs and carriage returns": ("G1\tX10\tY4\tZ-1\r", (10, 4, -1)),
    "leading zeros": ("G01 X010 Y04.0 Z-01.", (10, 4, -1)),
    "no digit before the point": ("G1 X.5 Y-.25 Z-+0.1".replace("-+", "-"), (0.5, -0.25, -0.1)),
    "plus signs": ("G1 X+10 Y+4 Z-1", (10, 4, -1)),
    "line numbers": ("N10 G1 X10\nN20 Y4\nN30 Z-1", (10, 4, -1)),
    "a program number": ("O1000\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "the motion word stays": ("G1 X1\nX10\nY4\nZ-1", (10, 4, -1)),
    "words in any order": ("Z-1 X10 G1 Y4", (10, 4, -1)),
    "comments amid words": ("G1 (across) X10 (and up) Y4 Z-1 ; done", (10, 4, -1)),
    "a semicolon in brackets": ("(a ; b) G1 X10 Y4 Z-1", (10, 4, -1)),
    "a bracket after a semicolon": ("G1 X10 Y4 Z-1 ; (open", (10, 4, -1)),
    "a feed with nothing else": ("F1200\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "inch in the middle": ("G20\nG1 X1 Y1 Z-.1\nG21\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "inch keeps the place": ("G1 X10 Y4 Z-1\nG20", (10, 4, -1)),
    "increments": ("G91 G1 X10 Y4 Z-6\nG90", (10, 4, -1)),
    "increments in inch": ("G20 G91 G1 X1 Y1 Z-.1\nG90 G21", (25.4, 25.4, 5 - 2.54)),
    "unit and move on one line": ("G20 G1 X1 Y1 Z0", (25.4, 25.4, 0)),
    "distance and move on one line": ("G1 X2 Y2\nG91 X8 Y2 Z-6", (10, 4, -1)),
    "a cancelled cycle beside a motion": ("G0 G17 G40 G49 G80 G90 X10 Y4", (10, 4, 5)),
    "a full circle by its middle": ("G1 Z-1\nG2 I5 J0\nG1 X10 Y4", (10, 4, -1)),
    "a helix": ("G1 Z0\nG3 X0 Y0 Z-1 I5 J0\nG1 X10 Y4", (10, 4, -1)),
    "an arc by its radius": ("G2 X10 Y0 R5\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "the long way by a negative radius": ("G2 X1 Y1 R-1\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "an arc in increments": ("G91 G2 X10 Y0 I5 J0\nG90\nG1 Y4 Z-1", (10, 4, -1)),
    "arc after arc without the word": ("G3 X10 Y0 I5 J0\nX0 I-5\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "a move to where it stands": ("G1 X0 Y0\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "coolant and spindle together": ("M3 M8\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "a dwell": ("G4 P0.5\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "a lift to the machine's top": ("G53 G0 Z0\nG0 X10 Y4\nG0 Z-1", (10, 4, -1)),
    "home in Z by increments": ("G91 G28 Z0\nG90\nG0 X10 Y4\nG0 Z-1", (10, 4, -1)),
    "its own length": ("M5\nT3 M6\nS900 M3\nG43 H3\nG1 X10 Y4 Z-1", (10, 4, -1)),
    "percent signs around": ("%", (0, 0, 5)),
}
"""What: lines after ``UP``, where the tip is then."""

REFUSED = {
    "a number with two points": ("G1 X1.2.3", "cannot read"),
    "a number with an exponent": ("G1 X1e2", "not understood|cannot read"),
    "digits of another script": ("G1 X\u0661\u0662", "cannot read"),
    "a comma for the point": ("G1 X1,5", "cannot read"),
    "an open bracket": ("G1 X10 (and so", "cannot read"),
    "brackets in brackets": ("(a (b) c)\nG1 X1", "cannot read"),
    "a variable": ("G1 X#100", "cannot read"),
    "an expression": ("G1 X[1+2]", "cannot read"),
    "a word of a language": ("WHILE 1", "cannot read"),
    "another axis": ("G1 A90", "not understood"),
    "one word twice": ("G1 X1 Y2 X3", "twice"),
    "two motions": ("G0 G1 X1", "two motion words"),
    "two units": ("G20 G21", "two unit words"),
    "two distances": ("G90 G91", "two distance words"),
    "two offsets": ("G54 G55", "two work offset words"),
    "two ways of the spindle": ("M3 M4", "two spindle words"),
    "a stop and the end": ("M0 M30", "two stopping words"),
    "a dwell and a move": ("G4 P1 X10", "a dwell and a way"),
    "a dwell by X": ("G4 X2", "without a time"),
    "a dwell without a time": ("G4", "without a time"),
    "a dwell of another word": ("G1 X10 P2", "P without"),
    "radius and middle": ("G2 X10 Y0 I5 J0 R5", "give one of them"),
    "a whole circle by radius": ("G2 X0 Y0 R5", "does not reach"),
    "a middle on a straight move": ("G1 X10 I5", "straight move"),
    "turns of a circle": ("G2 I5 J0 P3", "P without"),
    "middles as places": ("G90.1", "not understood"),
    "an arc in another plane": ("G18\nG2 X10 Z-5 I5 K0", "not understood"),
    "an arc that spirals": ("G2 X10 Y0 I4 J0", "radius"),
    "a drilling cycle": ("G81 X10 Y10 Z-5 R2", "not understood"),
    "a drilling cycle's words": ("G1 X10 Q2", "nothing on the line takes Q"),
    "a length without its word": ("G0 H2", "H without"),
    "radius compensation": ("G41 D1", "not understood"),
    "feed by time": ("G93", "not understood"),
    "feed by turn": ("G95", "not understood"),
    "a shifted zero": ("G92 X0 Y0", "not understood"),
    "a stored zero": ("G10 L2 P1 X5", "not understood"),
    "a scale": ("G51 X2 Y2", "not understood"),
    "a turned plane": ("G68 R45", "not understood"),
    "a subprogram": ("M98 P1000", "not understood"),
    "a subprogram's end": ("M99", "not understood"),
    "half a cutter": ("M5\nT1.5 M6", "no number for T"),
    "a negative speed": ("S-9000", "no number for S"),
    "a negative feed": ("F-100", "negative feed"),
    "a feed of nothing": ("F0\nG1 X5", "without a feed"),
    "beyond any machine": ("G1 X1" + "0" * 300, "over 100 m"),
    "a middle beyond any machine": ("G2 X10 Y0 R9" + "0" * 9, "over 100 m|radius"),
    "an endless line": ("G1 " + " " * 3000 + "X1", "characters long"),
    "what follows the end": ("M30\nG0 X5", "after the program's end"),
    "what follows the second sign": ("%\nG1 X1\n%\nG1 X2", "second percent sign"),
    "a byte of nothing": ("G1 X1\x00", "cannot read"),
}
"""What: lines after ``UP``, how it is refused."""


def ways(reading):
    return np.vstack([polyline(b.moves, 1e-4) for b in reading.blocks])


@pytest.mark.parametrize("what", READ)
def test_read_as_a_controller_reads_it(what):
    text, tip = READ[what]
    got = read(UP + text + "\n")
    assert got.blocks[-1].moves[-1, 1:4] == pytest.approx(tip, abs=1e-9)
    assert not interpret(UP + text + "\n").faults


@pytest.mark.parametrize("what", REFUSED)
def test_refused_by_line(what):
    text, words = REFUSED[what]
    with pytest.raises(BadInput, match=words) as e:
        read(UP + text + "\n", "p.nc")
    assert str(e.value).startswith("p.nc, line") and len(str(e.value)) < 250
    faults = interpret(UP + text + "\n", "p.nc").faults
    assert faults and faults[0].line > UP.count("\n") - 1


def test_an_arc_from_nowhere_is_refused_and_no_place_is_made_up_for_it():
    with pytest.raises(BadInput, match="line 4: an arc from a place that is not known"):
        read("G21 G90\nS9000 M3 F900\nG0 Z5\nG2 X10 Y0 I5 J0\n", "p.nc")


@st.composite
def runs(draw):
    """Cutters with random chains of lines and arcs, in the machine's own steps of 0.001 mm."""
    at = st.integers(-3_000_000, 3_000_000).map(lambda k: k / 1000)
    height = st.integers(-40_000, 20_000).map(lambda k: k / 1000)
    out = []
    for number in draw(st.lists(st.integers(1, 99), min_size=1, max_size=3, unique=True)):
        cuts = []
        for _ in range(draw(st.integers(1, 3))):
            x, y, z = draw(at), draw(at), draw(height)
            rows = [row(RAPID, x, y, z)]
            for _ in range(draw(st.integers(1, 8))):
                feed = draw(st.integers(50, 20_000))
                if draw(st.booleans()):
                    x, y, z = draw(at), draw(at), draw(height)
                    rows.append(row(draw(st.sampled_from([RAPID, LINE])), x, y, z, feed))
                else:
                    r, a, b = draw(st.integers(1, 900)), draw(st.floats(0, 6.28)), draw(st.floats(0.1, 6.1))
                    way = draw(st.sampled_from([CW, CCW]))
                    cx, cy = x - r * math.cos(a), y - r * math.sin(a)
                    a += b if way == CCW else -b
                    x, y = cx + r * math.cos(a), cy + r * math.sin(a)
                    rows.append(row(way, x, y, z, feed, cx, cy))
            cuts.append(("cut", np.array(rows)))
        out.append(ToolRun(number, f"cutter {number}", draw(st.integers(1000, 24_000)), cuts))
    return out


@given(runs(), st.booleans(), st.sampled_from([0.0, 17.6]))
def test_what_is_written_is_read_back_whatever_it_is(tools, inch, lift):
    text = write(tools, Dialect(inch=inch), ["a job"], 20.0, lift)
    got = read(text)
    step = 2.54e-4 if inch else 1e-3
    assert [b.tool for b in got.blocks] == [t.number for t in tools]
    assert [b.rpm for b in got.blocks] == [t.rpm for t in tools]
    for block, tool in zip(got.blocks, tools, strict=True):
        want = np.vstack([m[m[:, KIND] != RAPID] for _l, m in tool.cuts])
        made = block.moves[block.moves[:, KIND] != RAPID]
        # a move to where the cutter stands is not written; all others are, in order
        there = iter(made)
        for w in want:
            row_ = next((m for m in there if np.abs(m[1:3] - w[1:3]).max() <= step), None)
            assert row_ is not None or _stays(w, tool.cuts, step), w
            if row_ is not None:
                assert abs(row_[Z] - w[Z] - lift) <= step


def _stays(move, cuts, step):
    return any(
        np.abs(a[1:4] - b[1:4]).max() <= 2 * step
        for _l, m in cuts
        for a, b in itertools.pairwise(m)
        if (b == move).all()
    )


@given(runs(), st.booleans())
def test_extents_and_lengths_are_those_of_another_reading(tools, inch):
    text = write(tools, Dialect(inch=inch), [], 20.0, 0.0)
    got, (other, _said) = read(text), trace(text)
    # the first moves of each cutter are a place, not a way: all further ones are told by both
    known = {n for b in got.blocks for n in b.lines[1:]}
    theirs = [(points, fast) for (_t, _s, _o, fast, _f), points, n in other if n in known]
    ours = sum(float(lengths(b.moves)[1:].sum()) for b in got.blocks)
    length = sum(float(np.sqrt((np.diff(p, axis=0) ** 2).sum(axis=1)).sum()) for p, _fast in theirs)
    assert length == pytest.approx(ours, rel=1e-3, abs=0.01)  # their arcs are 64 chords
    low, high = ways(got).min(axis=0), ways(got).max(axis=0)
    points = np.vstack([p for p, _fast in theirs] + [b.moves[:1, 1:4] for b in got.blocks])
    assert np.abs(points.min(axis=0) - low).max() < 1.3 and np.abs(points.max(axis=0) - high).max() < 1.3


PLAIN = """G0 G1 G2 G3 G4 G20 G21 G28 G43 G53 G54 G55 G80 G90 G91 M0 M3 M4 M5 M6 M8 M30 T1 T2 T9 S9000 F900
F0 % / ; ( ) N5 P1 H1 H2 R5 R-5 I5 J0 I0 J-5 X0 Y0 Z5 Z-3 Z-30 X10 Y10 X60 X1e9 Q1 #1 ,"""
WORDS = st.one_of(
    st.sampled_from(PLAIN.split()),
    st.builds("{}{:.4f}".format, st.sampled_from("XYZIJR"), st.floats(-300, 300, allow_nan=False)),
    st.text(max_size=6),
)
MOVES = st.builds(
    "{} X{} Y{} Z{} {}".format,
    st.sampled_from(["G0", "G1", "G1", "G2", "G3"]),
    st.integers(-20, 120),
    st.integers(-20, 100),
    st.integers(-30, 9),
    st.sampled_from(["", "R50", "R-70", "I9 J0", "F300", "M5", "T2 M6", "G91", "G90"]),
)
LINES = st.one_of(MOVES, st.lists(WORDS, max_size=7).map(" ".join))


@given(st.sampled_from(["", UP, UP + "T1 M6\nS9000 M3\n"]), st.lists(LINES, max_size=40).map("\n".join))
def test_whatever_comes_it_is_read_or_refused_and_proven_without_a_crash(head, text):
    text = head + text
    world = world_of(
        "100x80x18", ["1=flat:6:edge=20:out=30:nut=20", "2=vee:12:60"], "400x400x90", "5,5", Axes()
    )
    try:
        proven = prove_programs([("p.nc", text)], world, (0.0, 0.0), False)
    except BadInput as e:
        assert str(e).startswith("p.nc")
        return
    said = proven.to_json()
    assert said["removed_mm3"] is None or 0 <= said["removed_mm3"] <= 100 * 80 * 18 * 1.001
    assert all(s["message"] and s["severity"] in ("stop", "look", "note") for s in said["snags"])
    for s in proven.snags:
        line = (s.where or {}).get("line")
        assert line is None or 0 <= line <= len(text.splitlines())
