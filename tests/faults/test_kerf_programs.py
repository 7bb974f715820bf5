"""Faults planted in kerf programs are found by line; sound programs pass. What is wrong is found by sweeping
the kerf, even where it was planned so.
"""

import re
from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.geometry import Point

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.kerf.how import KerfHow, KerfTabs
from venzo.core.kerf.kerf_cuts import kerf_cuts
from venzo.core.kerf.kerf_lines import Body
from venzo.core.kerf.kerf_proof import against_run, against_world, taken_apart
from venzo.core.kerf.running import run
from venzo.formats.kerf_program import PLAIN, write_kerf
from venzo.formats.rs274 import interpret

PLATE = shapely.box(-20, -20, 200, 90)


def box(x, y, w=60, h=50):
    return Contour.of([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])


BODIES = [
    Body("left", Region(box(0, 0), (Contour.circle(30, 25, 8).reversed(),))),
    Body("right", Region(box(90, 0), (Contour.circle(120, 25, 8).reversed(),))),
]
HOW = KerfHow(kerf=1.4, lead=2.5, feed=3000, lead_feed=1000, hop=40, hop_feed=4000)


def made(how=HOW, bodies=BODIES, plate=PLATE):
    planned = kerf_cuts(bodies, how, plate)
    done = run(planned.cuts, bodies, how)
    return planned, done, write_kerf(done, how, ["t"])


def rules(text, done, how=HOW, bodies=BODIES, plate=PLATE):
    """Rules of what is found of a program, of which the first names a line."""
    told = taken_apart(interpret(text, "t", PLAIN))
    found = [*told.snags, *against_run(told, done), *against_world(told, bodies, how, plate)]
    assert all(s.severity == "stop" for s in found)
    return {s.rule for s in found}


def test_sound_programs_pass():
    for how in (
        HOW,
        HOW.model_copy(update={"lead_kind": "arc", "swirl": "left", "hop": 0.0}),
        HOW.model_copy(update={"tabs": KerfTabs(count=2, width=0.4)}),
        HOW.model_copy(update={"corners": "loop"}),
        HOW.model_copy(update={"lead_out": "overburn", "out_length": 3.0}),
        HOW.model_copy(update={"lead_out": "short", "out_length": 2.0}),
        HOW.model_copy(update={"pierce": 0.4, "still": 5.0}),
    ):
        _planned, done, text = made(how)
        assert rules(text, done, how) == set()


def test_a_short_lead_out_goes_onward_into_the_waste():
    """It was never cut once: its own lead-in, which it touches, kept it off."""
    short = HOW.model_copy(update={"lead_out": "short", "out_length": 2.0})
    for kind in ("straight", "arc"):
        planned, done, _text = made(short.model_copy(update={"lead_kind": kind}))
        assert not planned.snags
        for cut in done.cuts:
            assert cut.out == pytest.approx(2.0)
            before, close, end = (np.array(p) for p in cut.line.coords[-3:])
            way, off = close - before, end - close
            turn = np.degrees(np.arccos(way @ off / np.hypot(*way) / np.hypot(*off)))
            assert turn < 60, "onward, not back along the cut"
            body = BODIES[cut.body].polygon
            assert body.distance(Point(end)) > short.kerf / 2 + 1.0


def once(pattern, put, text):
    out, n = re.subn(pattern, put, text, count=1, flags=re.M)
    assert n == 1
    return out


PLANTED = {
    "another feed": (lambda t: once(r"F3000", "F2600", t), {"kerf.differs"}),
    "a lead at full feed": (lambda t: once(r"F1000", "F3000", t), {"kerf.differs"}),
    "no end": (lambda t: once(r"^M30$", "", t), {"kerf.end"}),
    "backwards": (lambda t: once(r"^M3$", "M4", t), {"kerf.sense"}),
    "a pierce too many": (lambda t: once(r"^M30$", "G0 X-10 Y-10\nM3\nM5\nM30", t), {"kerf.count"}),
    "a fast move with the head on": (
        lambda t: once(r"^M3\nG1 ", "M3\nG0 ", t),
        {"kerf.fast-on", "kerf.differs"},
    ),
    "a stop": (lambda t: once(r"^M3$", "M0\nM3", t), {"kerf.foreign"}),
    "another offset": (lambda t: once(r"^G21$", "G21\nG55", t), {"kerf.offset"}),
    "a dwell": (lambda t: once(r"^M3$", "M3\nG4 P2", t), {"kerf.stands"}),
    "a word that is not known": (lambda t: once(r"^M3$", "M3 Q7", t), None),
    "a corner in the part": (lambda t: once(r"X60\.7 ", "X50 ", t), {"kerf.into-part", "kerf.differs"}),
}


@pytest.mark.parametrize("name", PLANTED)
def test_what_is_planted_in_the_text_is_found(name):
    _planned, done, text = made()
    spoil, expected = PLANTED[name]
    if name == "a corner in the part":
        text = spoil(text) if "X60.7 " in text else once(r"(?<=\n)Y50\.7", "Y42", text)
    else:
        text = spoil(text)
    found = rules(text, done)
    assert found if expected is None else expected <= found


def test_a_cut_left_out_leaves_its_part_on():
    _planned, done, _text = made()
    less = replace(
        done, cuts=done.cuts[:-1], ways=done.ways[:-1], freed=done.freed[:-1], seconds=done.seconds[:-1]
    )
    text = write_kerf(less, HOW, [])
    assert {"kerf.count", "kerf.left-on"} <= rules(text, done)


def test_a_lost_tab_and_a_tab_too_many_are_told():
    tabbed = HOW.model_copy(update={"tabs": KerfTabs(count=1, width=0.4)})
    _planned, _done, plain = made()
    _planned, done, text = made(tabbed)
    assert "kerf.differs" in rules(plain, done, tabbed)
    _planned, whole, _text = made()
    assert "kerf.left-on" in rules(text, whole)


def test_a_kerf_wider_than_was_taken_runs_into_the_parts():
    _planned, done, text = made()
    wide = HOW.model_copy(update={"kerf": 1.6})
    assert "kerf.into-part" in rules(text, done, wide)


def test_pierces_off_the_metal_and_over_a_kerf_are_told():
    _planned, done, text = made()
    x, y = done.cuts[-1].pierce
    holed = PLATE.difference(Point(x, y).buffer(1.2))
    assert "kerf.pierce" in rules(text, done, plate=holed)
    again = once(r"^M30$", f"G0 X{done.cuts[0].end[0]:.3f} Y{done.cuts[0].end[1]:.3f}\nM3\nM5\nM30", text)
    assert "kerf.pierce" in rules(again, done)


def test_a_hop_over_what_is_loose_is_told():
    _planned, done, text = made(HOW.model_copy(update={"hop": 0.0}))
    # with the head down from the first hole to a place beyond its slug, and on
    x, y = done.cuts[0].end
    down = once(r"^M5\n(?=\(right)", f"M5\nG1 X30 Y{50 - y:.3f} F4000\n", text)
    assert x == pytest.approx(30)
    assert "kerf.over-loose" in rules(down, done)
    _planned, planned, _text = made(HOW.model_copy(update={"hop": 400.0}))
    assert any(not w.down for w in planned.ways[1:]), "the planner lifts there by itself"


def test_what_cannot_be_cut_is_said_with_its_numbers():
    def said(how, *holes, body=None, plate=PLATE):
        b = body or Body("p", Region(box(0, 0, 100, 60), tuple(h.reversed() for h in holes)))
        return {s.rule: s for s in kerf_cuts([b], how, plate).snags}

    slot = Contour.of([(40, 20), (41.2, 20), (41.2, 40), (40, 40)])
    narrow = said(HOW, slot)["kerf.narrow"]
    assert narrow.severity == "stop" and "1.20 mm" in narrow.message and "1.40 mm" in narrow.message
    assert "kerf.no-lead" in said(HOW, Contour.circle(50, 30, 1.2))
    thick = HOW.model_copy(update={"thickness": 8.0})
    assert said(thick, Contour.circle(50, 30, 3.0))["kerf.drill"].severity == "look"
    neck = Contour.of(
        [(20, 20), (40, 20), (40, 29.6), (60, 29.6), (60, 20), (80, 20), (80, 40), (60, 40)]
        + [(60, 30.4), (40, 30.4), (40, 40), (20, 40)]
    )
    assert said(HOW, neck)["kerf.unreached"].severity == "look"
    many = HOW.model_copy(update={"tabs": KerfTabs(count=40, width=8.0)})
    assert said(many)["kerf.tabs"].severity == "stop"
    edge = HOW.model_copy(update={"edge_start": True})
    assert said(edge, Contour.circle(50, 30, 9))["kerf.edge-start"].severity == "stop"
    spot = said(thick, Contour.circle(50, 30, 3.0), plate=PLATE.difference(Point(50, 30).buffer(2)))
    assert spot["kerf.off-metal"].severity == "stop"
    short = HOW.model_copy(update={"lead_out": "short", "out_length": 30.0})
    assert said(short, Contour.circle(50, 30, 9))["kerf.lead-out"].severity == "note"


def test_an_absurd_lead_is_drawn_shorter_and_said():
    long = HOW.model_copy(update={"lead": 100.0})
    planned = kerf_cuts(BODIES, long, PLATE)
    assert planned.cuts and all(c.lead.length < 100 for c in planned.cuts if c.inside)
    assert {s.rule for s in planned.snags} == {"kerf.lead"}
    tiny = kerf_cuts(BODIES, HOW.model_copy(update={"lead": 0.5}), PLATE)
    assert all(c.lead.length == 1.4 for c in tiny.cuts)


def test_a_sheet_too_thick_to_pierce_is_begun_at_its_edge():
    edge = HOW.model_copy(update={"edge_start": True, "hop": 0.0})
    solid = [Body("p", Region(box(0, 0), ()))]
    planned, done, text = made(edge, solid)
    assert not planned.snags and not PLATE.covers(Point(done.cuts[0].pierce))
    assert rules(text, done, edge, solid) == set()


def test_common_lines_pierced_on_the_line_are_said():
    k = 1.4
    bricks = [
        Body(f"{i}{j}", Region(box(i * (40 + k) + (j % 2) * 20, j * (20 + k), 40, 20), ()))
        for i in range(3)
        for j in range(3)
    ]
    how = HOW.model_copy(update={"common_line": True, "hop": 0.0})
    planned, done, text = made(how, bricks, shapely.box(-20, -20, 220, 120))
    assert {s.rule for s in planned.snags} <= {"kerf.common-pierce", "kerf.common"}
    assert "kerf.common-pierce" in {s.rule for s in planned.snags}
    assert rules(text, done, how, bricks, shapely.box(-20, -20, 220, 120)) == set()
