"""Pieces that are cut out on the first face and turned one by one into the corner of a jig."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from tests.conftest import dxf
from tests.reference.test_turned_stock import heights
from tests.support.trial import TrialJob
from venzo.core.edits import ChangeSetup, MovePiece, SetPart, read_command
from venzo.core.edits.turning import ChangeTurn, OrderFaces, TurnOver
from venzo.core.faces.left_by_first import left_singly
from venzo.core.faces.registration import Dowels, JigCorner
from venzo.core.faces.singly import _named, in_the_corner
from venzo.core.plan import Part, PartLine
from venzo.core.release.picking import Picked
from venzo.core.release.programs import Stamp
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import JigZero
from venzo.desk import archives, jobs, papers, part_releases, runs, turning, yields
from venzo.desk.jobs import programs
from venzo.formats.paper import Paper
from venzo.store.store import Store

JIG = {"id": "corner", "name": "Corner jig", "at": [40.0, 70.0]}
LIMIT = 0.02


def shelf(m):
    """A plate that nothing maps onto itself: a notched corner, a pocket in front, a pocket in its back."""
    m.add_lwpolyline([(0, 0), (180, 0), (180, 80), (150, 80), (150, 110), (0, 110)], close=True)
    m.add_circle((30, 85), 10)
    for layer, (x, y, w, h) in (("POCKET 4", (20, 15, 50, 40)), ("BACK POCKET 5", (60, 20, 80, 30))):
        m.doc.layers.add(layer)
        ring = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        m.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})


def plain(m):
    m.add_lwpolyline([(0, 0), (90, 0), (90, 60), (0, 60)], close=True)


def job(store, axis="x", long="x", held=True):
    b = TrialJob(store, (dxf(shelf), [(30, 30), (300, 30), (30, 200)]), (dxf(plain), [(300, 220)]))
    b.do(TurnOver(setup="main", axis=axis, registration=Dowels()))
    b.do(ChangeSetup(setup="main-back", machine={"jigs": {"=": [JIG]}}))
    jig = JigCorner(jig="corner", long=long).model_dump(mode="json")
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"=": jig}}))
    if held:
        cam = {"kind": "cam", "id": "c1", "x": 110.0, "y": 130.0}
        b.do(read_command({"kind": "change-fixings", "setup": "main-back", "add": [cam]}))
    b.up = "main-back"
    return b


def derived(b):
    return jobs.derive(b.store, b.plan)


def test_each_piece_is_stock_of_its_own_in_the_jig_s_corner(store):
    b = job(store)
    d = derived(b)
    first, back = d["main"], d["main-back"]
    assert [c.cut.contour for c in first.sheets[0].cuts if c.outline].count("outline") == 4  # all are cut out
    s = back.setup
    assert s.datum == JigZero(jig="corner") and s.sheet_at == (40.0, 70.0) and s.screws == ()
    (kind,) = s.stock  # the plain one has nothing on its back and stays as it is
    assert (kind.width, kind.height, kind.quantity) == (180.0, 110.0, 3) and len(kind.outline) == 6
    assert kind.thickness == first.setup.stock[0].thickness
    assert [x.copy_no for x in back.sheets] == [0, 1, 2] and all(len(x.pieces) == 1 for x in back.sheets)
    assert {c.cut.contour for x in back.sheets for c in x.cuts} == {"pocket 2"}
    for x in back.sheets:
        (q,) = x.pieces
        shape = store.shapes[b.plan.part(q.part).shape]
        x0, y0, x1, y1 = shape.region.outline.placed(q.x, q.y, q.rotation, q.mirrored).bbox
        assert (x0, y0) == pytest.approx((0, 0), abs=1e-9) and (x1, y1) == pytest.approx((180, 110))


@settings(
    max_examples=6, phases=[Phase.generate], suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(
    st.sampled_from(["x", "y"]),
    st.sampled_from(["x", "y"]),
    st.sampled_from([0.0, 90.0, 180.0]),
    st.booleans(),
)
def test_both_programs_leave_the_part_that_was_drawn(store, axis, long, rotation, mirror):
    """Swept by programs read by another library, whatever way the piece lay on its sheet: the pocket of the
    back lies where it was drawn, seen through the part.
    """
    b = job(store, axis, long)
    part = b.part()
    b.do(SetPart(part=part, rotations=(0.0, 90.0, 180.0, 270.0), mirror=mirror))
    lies = {"x": 330.0, "y": 190.0} if rotation == 180 else {"x": 300.0 if not mirror else 500.0, "y": 30.0}
    if rotation == 90:
        lies = {"x": 440.0, "y": 190.0}
    b.do(MovePiece(setup="main", part=part, copy_no=1, sheet="own", rotation=rotation, **lies))
    d = derived(b)
    sheet = next(s for s in d["main-back"].sheets if s.pieces[0].copy_no == 1)
    q = sheet.pieces[0]
    own = np.random.default_rng(7).uniform((1, 1), (149, 79), (900, 2))
    c, s = math.cos(math.radians(q.rotation)), math.sin(math.radians(q.rotation))
    seen = own * ((-1, 1) if q.mirrored else (1, 1))
    there = seen @ np.array([[c, s], [-s, c]]) + (q.x, q.y)
    thick = d["main"].setup.stock[0].thickness
    taken = thick - heights(store, b.plan, "main-back", there)
    x, y = own.T
    inside = (x > 64) & (x < 136) & (y > 24) & (y < 46)
    outside = (x < 59.9) | (x > 140.1) | (y < 19.9) | (y > 50.1)
    assert np.abs(taken[inside] - 5.0).max() <= LIMIT and np.abs(taken[outside]).max() <= LIMIT


def test_its_program_is_made_once_and_says_how_often_it_is_run(store):
    b = job(store)
    d = derived(b)
    first, back = programs(b.plan, d["main"]), programs(b.plan, d["main-back"])
    numbers = [int(f.name.split("_face-")[1].split("_")[1]) for f in (*first, *back)]
    assert numbers == list(range(1, len(numbers) + 1))
    assert len(back) == 1 and back[0].copies == (0, 1, 2) and "x3_face-2" in back[0].name
    assert "turned over about X" in back[0].text and "pushed into the corner of Corner jig" in back[0].text
    assert not [f for f in first if f.guide]  # no dowels
    for t in ("main", "main-back"):
        proofs = jobs.prove_setup(store, b.plan, d[t])
        assert {s.rule for p in proofs for s in p.snags} == {"proof.clear"}
    assert not [s for x in d.values() for s in x.snags if s.severity == "stop"]


def test_what_lies_hollow_underneath_holds_nothing(store):
    """The pocket of the front, where it lies in the jig: as the part turned over by hand says."""
    b = job(store)
    d = derived(b)
    sheet = d["main-back"].sheets[0]
    (q,) = sheet.pieces
    left = left_singly(d["main"].setup, d["main"].sheets[0], q, 17.6)
    # turned about X the part lies mirrored and upside down: (x, y) -> (x, 110 - y)
    mine = left.hollow.intersection(shapely.box(15, 50, 75, 100))
    assert mine.bounds == pytest.approx((20, 55, 70, 95), abs=0.05)
    assert mine.area == pytest.approx(50 * 40, rel=0.03)


def test_the_corner_that_is_marked_is_the_one_that_comes_into_the_jig(store):
    b = job(store)
    found = in_the_corner(b.plan, b.plan.setup("main"), b.plan.setup("main-back").other_face, store.shapes)
    by_piece = {c.piece: c.at for c in found}
    first = b.plan.setup("main").nest.pieces
    mine = [q for q in first if q.id in by_piece]
    assert len(mine) == 3
    for q in mine:  # about X the upper left corner of the part comes to the lower left
        assert by_piece[q.id] == pytest.approx((q.x, q.y + 110))
    seen = turning.turn_seen(b.plan, derived(b), "main", store.shapes)
    assert {c.piece for c in seen.corners} == set(by_piece) and seen.across < 0.4
    assert turning.turn_seen(b.plan, derived(b), "main-back", store.shapes).corners == []


def test_time_costs_and_log_count_each_piece(store):
    b = job(store)
    d = derived(b)
    each = [s.seconds for s in d["main-back"].sheets]
    assert d["main"].yields_of_both.seconds == pytest.approx(d["main"].yields.seconds + sum(each))
    assert d["main-back"].yields.material_cost == 0
    use = yields.job_use(store, b.plan)
    assert [s.setup for s in use.setups] == ["main"] and use.job.pieces == 4
    number = store.get(b.job).number
    runs.record(store, b.job, runs.SheetCut(revision=number, setup="main", sheet="own"))
    assert sum(runs.of_job(store, b.job).sound.values()) == 1  # the plain one is ready
    for k in range(3):
        at = d["main-back"].sheets[k]
        runs.record(
            store, b.job, runs.SheetCut(revision=number, setup="main-back", sheet=at.sheet, sheet_copy=k)
        )
    assert sum(runs.of_job(store, b.job).sound.values()) == 4
    ahead = part_releases.ahead(store, store.get(b.job), Picked())
    assert sum(c.pieces for c in ahead.contains) == 4


def test_papers_are_one_page_a_part_and_labels_go_with_the_first_face(store, monkeypatch):
    b = job(store)
    d = derived(b)
    pages = []
    begin = Paper.begin
    monkeypatch.setattr(Paper, "begin", lambda self, *a: pages.append(a) or begin(self, *a))
    named = {
        t: [n for n, _b in papers.papers_of(store, b.plan, d[t], programs(b.plan, d[t]), True, Stamp(1))]
        for t in ("main-back", "main")
    }
    assert "3 pieces" in pages[0][1] and sum("pieces," in str(p[1]) for p in pages) == 1
    assert [any("labels" in n for n in named[t]) for t in ("main", "main-back")] == [True, False]


def test_what_does_not_go_with_a_jig_is_refused_in_one_line(store):
    b = job(store)
    for command, words in (
        (OrderFaces(setup="main-back", rough_both_first=True), "turned one by one"),
        (ChangeTurn(setup="main-back", fields={"registration": {"jig": "gone"}}), "has no jig 'gone'"),
    ):
        with pytest.raises(BadInput, match=words):
            b.do(command)
    # back to dowels it is a turn of the stock again
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"=": {"kind": "edges"}}}))
    d = derived(b)
    assert [s.sheet for s in d["main-back"].sheets] == ["own"] and len(d["main-back"].sheets[0].pieces) == 4
    store.undo(b.job)
    assert len(derived(b)["main-back"].sheets) == 3


def test_nothing_on_any_back_leaves_nothing_to_turn(store):
    b = TrialJob(store, (dxf(plain), [(30, 30)]))
    b.do(TurnOver(setup="main", axis="x", registration=Dowels()))
    b.do(ChangeSetup(setup="main-back", machine={"jigs": {"=": [JIG]}}))
    jig = JigCorner(jig="corner").model_dump(mode="json")
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"=": jig}}))
    d = derived(b)
    assert not d["main-back"].underived and not d["main-back"].sheets
    assert not programs(b.plan, d["main-back"]) and d["main"].sheets[0].cuts


def test_it_goes_into_an_archive(store, tmp_path):
    b = job(store)
    other = Store(tmp_path / "other")
    data = archives.export(store, store.get(b.job))
    there = other.get(archives.bring_in(other, data, "jig.zip", True).job)
    assert len(jobs.derive(other, there.plan)["main-back"].sheets) == 3


def test_long_names_of_parts_and_sheets_are_told_apart():
    """Each piece has a sheet of its own kind, whatever ids were given."""
    line = PartLine(order="o", quantity=1)
    part = Part(id="p" * 80, name="p", setup="s", drawing="d", shape="x", origin=(0, 0), lines=(line,))
    sheets = [Stock(id="s" * 78 + end, name="s", width=9, height=9, nominal=3) for end in ("a", "b")]
    ids = {_named(part, s, m) for s in sheets for m in (False, True)}
    assert len(ids) == 4 and all(len(i) <= 80 for i in ids)
