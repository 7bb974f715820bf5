"""Stock that is moved along the table: what is refused, in which order it is cut, what holds it, what goes
out.
"""

import numpy as np
import pytest

from tests.conftest import dxf
from tests.support.trial import TrialJob, rect
from venzo.core.edits import ChangeSetup, MovePiece, SetPart, SetSetup
from venzo.core.edits.asks import PlaceAlong
from venzo.core.edits.indexing import ChangeIndexing, IndexStock, StopIndexing
from venzo.core.edits.turning import TurnOver
from venzo.core.faces.registration import Dowel
from venzo.core.indexing.positions import Indexing, IndexPins, brought_says
from venzo.core.indexing.reach import at_position
from venzo.core.snags import BadInput
from venzo.desk import indexing, jobs, table_runs
from venzo.desk.jobs import programs

LONG = rect(1900, 120, [(60, 60, 10), (1840, 60, 10)])
SHORT = rect(300, 100, [(150, 50, 12)])


def board(store, *more, **fields):
    """A board of 1,900 mm and a short one on a sheet of 2,000 mm, on the small bench of 1,300 mm."""
    b = TrialJob(store, (LONG, [(50, 60)]), *more, sheet=(2000, 400), screwed=False)
    b.do(IndexStock(setup="main", indexing=Indexing(moved=(740.0,), **fields)))
    return b


def place(b, by=None):
    return indexing.place_along(b.store, b.job, b.store.get(b.job).number, PlaceAlong(setup="main", by=by))


def test_stock_that_is_too_long_is_moved_along_by_its_remedy_and_left_again(store):
    b = TrialJob(store, (LONG, [(50, 60)]), sheet=(2000, 400), screwed=False)
    (said,) = b.said("table.too-small")
    b.do(said.remedies[-1].command)
    assert not b.said("table.too-small") and not b.said("table.outside") and b.setup.indexing.count == 2
    b.do(StopIndexing(setup="main"))
    assert b.said("table.too-small") and {c.position for c in b.sheet.cuts} == {0}
    with pytest.raises(BadInput, match="not moved along the table"):
        b.do(ChangeIndexing(setup="main", fields={"overlap": 5.0}))


def test_what_cannot_be_is_refused_with_where_to_go(store):
    b = board(store)
    for command, why in (
        (IndexStock(setup="main", indexing=Indexing(moved=(100.0,))), "moved along the table already"),
        (ChangeIndexing(setup="main", fields={"moved": {"=": [800.0, 700.0]}}), "give them in order"),
        (ChangeIndexing(setup="main", fields={"moved": {"=": []}}), "moved"),
        (ChangeIndexing(setup="main", fields={"sideways": 3.0}), "has no 'sideways'"),
        (ChangeSetup(setup="main", edge=(900.0, 12.0)), "lies straight"),
        (TurnOver(setup="main"), "not turned over as well"),
    ):
        before = store.get(b.job).number
        with pytest.raises(BadInput, match=why):
            b.do(command)
        assert store.get(b.job).number == before
    short = TrialJob(store, (SHORT, [(50, 60)]), sheet=(600, 400))
    with pytest.raises(BadInput, match="nothing is gained"):
        place(short)


def test_a_piece_is_cut_at_one_position_where_one_reaches_it(store):
    b = board(store, (SHORT, [(60, 240), (1600, 240)]))
    at = {}
    for c in b.sheet.cuts:
        at.setdefault(c.piece.id, []).append((c.cut.contour, c.position, c.cut.portion))
    first, last = (at[b.piece(1, n)] for n in (1, 2))
    assert {p for _c, p, _n in first} == {0} and {p for _c, p, _n in last} == {1}
    assert sorted(at[b.piece()]) == [
        ("hole 1", 0, 0),
        ("hole 2", 1, 0),
        ("outline", 0, 1),
        ("outline", 1, 2),
    ]
    positions = [c.position for c in b.sheet.cuts]
    assert positions == sorted(positions)
    (seam,) = b.sheet.seams
    assert seam.cuts == 1 and seam.room[0] <= seam.at <= seam.room[1]
    assert [c.cut.lets_go for c in b.sheet.cuts if c.cut.portion] == [False, True]


@pytest.mark.parametrize(("rotation", "mirrored"), [(180.0, False), (0.0, True), (180.0, True)])
def test_a_turned_or_mirrored_piece_is_parted_where_it_lies(store, rotation, mirrored):
    """Its lengths go through the part's frame and back: they lie where the whole lay, and prove."""
    b = board(store)
    (q,) = b.setup.nest.pieces
    x = 1950.0 if (rotation == 180.0) != mirrored else 50.0
    y = 180.0 if rotation == 180.0 else 60.0
    lies = {"part": q.part, "copy_no": 0, "sheet": "own", "sheet_copy": 0}
    b.do(SetPart(part=q.part, mirror=True))
    b.do(MovePiece(setup="main", x=x, y=y, rotation=rotation, mirrored=mirrored, **lies))
    parted = [c for c in b.sheet.cuts if c.cut.portion]
    assert [c.position for c in parted] == [0, 1]
    for c in parted:
        assert np.allclose(c.cut.placed(c.piece.x, c.piece.y, c.piece.rotation), c.moves, atol=1e-6)
    proof = jobs.prove_setup(store, b.plan, b.derived)[0]
    assert not [s.message for s in proof.snags if s.severity == "stop"]


def test_what_is_roughed_at_a_position_is_finished_there(store):
    """Two steps along one contour are parted alike, and in the order of the steps at each position."""
    b = board(store)
    b.outline({"side_allowance": 0.5}, {"cutter": "comp-8"})
    made = [(c.position, c.cut.step) for c in b.sheet.cuts if c.cut.contour == "outline"]
    assert made == [(0, 0), (0, 1), (1, 0), (1, 1)]


def test_a_hand_moves_cuts_within_a_position_only(store):
    b = board(store, (SHORT, [(1600, 240)]))
    b.move("hole 1/0", "hole 2/0")
    assert any("another position of the stock" in s.message for s in b.said("order.by-hand"))


def test_time_counts_the_moves_and_each_file_its_own(store):
    b = board(store)
    d = b.derived
    still = sum(c.takes for c in d.sheets[0].cuts) - d.setup.indexing.seconds
    files = programs(b.plan, d)
    assert sum(f.seconds for f in files) == pytest.approx(still)
    assert d.sheets[0].seconds == pytest.approx(still + d.setup.indexing.seconds)
    b.do(ChangeIndexing(setup="main", fields={"seconds": 600.0}))
    assert b.sheet.seconds == pytest.approx(still + 600.0)


def test_files_go_out_in_running_order_with_the_zero_of_each(store):
    b = board(store)
    b.do(SetSetup(setup="main", sheet_at=(20.0, 60.0)))
    place(b, "pins")
    assert isinstance(b.setup.indexing.brought, IndexPins)
    files = programs(b.plan, b.derived)
    jobs_of = [(f.position, f.guide) for f in jobs.programs(b.plan, b.derived)]
    assert jobs_of[0] == (0, "spoilboard") and jobs_of[1] == (0, "stock")
    assert [p for p, _g in jobs_of] == sorted(p for p, _g in jobs_of)
    names = [f.name for f in files]
    assert names == sorted(names) and "position-2" in names[-1] and "pins" in names[0]
    last = [f for f in files if f.position == 1][-1]
    assert "POSITION 2 of 2: lift the stock off, move it 740 mm to the left" in last.text
    assert "where at position 1 was: lower left corner" in last.text
    xs = [
        float(w[1:])
        for line in last.text.splitlines()
        if line[:1] == "G"
        for w in line.split()
        if w[0] == "X"
    ]
    assert min(xs) > -1 and max(xs) < 1300  # from X0 where it was, on the table
    proof = jobs.prove_setup(store, b.plan, b.derived)[0]
    assert not [s for s in proof.snags if s.severity == "stop"]


def test_a_program_run_at_another_position_is_found(store):
    """The second position's program, run where the stock lies first, cuts into it and leaves the table."""
    from dataclasses import replace

    b = board(store)
    d = b.derived
    sheet, files = d.sheets[0], programs(b.plan, d)
    wrong = [replace(f, position=0) for f in files]
    subject = jobs.subject_of(store, b.plan, d, sheet)
    from venzo.core.proof.check import prove
    from venzo.formats.rs274 import read

    given = [jobs.as_program(subject, f, read(f.text, f.name, d.setup.machine.dialect)) for f in wrong]
    assert {s.rule for s in prove(subject, given).snags if s.severity == "stop"} >= {"proof.uncut"}


def test_what_holds_is_what_lies_over_the_table_then(store):
    """Vacuum under the second half holds nothing of the first position, and the other way round."""
    b = TrialJob(
        store, (rect(4300, 200), [(30, 30)]), machine="long-bed", sheet=(4400, 300), screwed=False, thick=18
    )
    b.do(SetSetup(setup="main", sheet_at=(60.0, 200.0), zones_on=("1", "2", "3")))
    place(b)
    setup = b.setup
    assert at_position(setup, 1).sheet_at[0] == 60.0 - setup.indexing.moved[0]
    hold = b.derived.holds[0]
    assert set(hold.scenes) == {0, 1}
    one, two = (hold.scenes[k].live.bounds for k in (0, 1))
    assert two[0] - one[0] == pytest.approx(setup.indexing.moved[0])
    by_cut = {h.cut: h for h in hold.held if h.kind in ("piece", "sheet")}
    assert {b.sheet.cuts[k].position for k in by_cut} == {0, 1} and all(h.side > 0 for h in by_cut.values())


def test_screws_are_set_anew_where_they_come_over_the_table(store):
    b = board(store)
    b.screw((20, 20), (1280, 20), (1980, 20), (1980, 380))
    at = [[s.x for s in at_position(b.setup, k).screws] for k in (0, 1)]
    assert at == [[20, 1280], [1280, 1980, 1980]]


def test_positions_that_split_less_are_offered_and_no_others(store):
    b = TrialJob(store, (rect(1150, 120), [(500, 60)]), sheet=(2000, 300), screwed=False)
    b.do(IndexStock(setup="main", indexing=Indexing(moved=(300.0, 600.0))))
    (said,) = b.said("index.lengths")
    b.do(said.remedies[0].command)
    assert not b.said("index.lengths") and {c.cut.portion for c in b.sheet.cuts} == {0}
    with pytest.raises(BadInput, match="no other positions split less"):
        place(b)


def test_pins_at_one_place_are_said_and_nothing_breaks(store):
    """Their play leaves the stock free to turn: no error can be told."""
    pins = tuple(Dowel(id=f"p{k}", x=50.0, y=20.0, diameter=8.0 + 2 * k) for k in (0, 1))
    b = board(store, brought=IndexPins(pins=pins))
    (said,) = b.said("index.pins")
    assert "nearer than 40 mm" in said.message
    seen = indexing.long_seen(b.plan, {"main": b.derived}, "main", store.shapes).along
    assert seen.across is None and seen.seams


def test_positions_that_reach_nothing_are_mended_as_offered(store):
    b = board(store)
    b.do(ChangeIndexing(setup="main", fields={"moved": {"=": [0.5]}}))
    (said,) = b.said("index.reach")
    b.do(said.remedies[0].command)
    assert not b.said("index.reach") and not b.said("table.outside")


def test_it_is_run_alone_not_among_sheets_of_other_jobs(store):
    b = board(store)
    assert table_runs.sheets_of(store, b.job) == []


def test_how_it_is_brought_there_is_told_in_words():
    along = Indexing(axis="y", moved=(500.0, 900.0))
    assert brought_says(along, 0, str) == "lay the stock as the zero has it"
    assert "400.0 towards you" in brought_says(along, 2, str)


def test_a_relief_is_roughed_before_it_is_finished_at_every_position(store):
    """Steps that share a place are parted together; none comes before what it follows there."""

    def draw(m):
        m.add_lwpolyline([(0, 0), (1850, 0), (1850, 150), (0, 150)], close=True)
        m.doc.layers.add("POCKET 5")
        ring = [(200, 30), (1700, 30), (1700, 120), (200, 120)]
        m.add_lwpolyline(ring, close=True, dxfattribs={"layer": "POCKET 5"})

    b = TrialJob(store, (dxf(draw), [(60, 60)]), sheet=(2000, 300), screwed=False)
    place(b)
    pocket = [(c.position, c.cut.portion) for c in b.sheet.cuts if c.cut.kind == "pocket"]
    assert pocket == [(0, 1), (1, 2)]
    proof = jobs.prove_setup(store, b.plan, b.derived)[0]
    assert not [s for s in proof.snags if s.severity == "stop"]
