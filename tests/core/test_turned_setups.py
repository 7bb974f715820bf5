"""A setup that is the other face of another: what it takes from that one, what is refused, what is said."""

import math
import re

import numpy as np
import pytest

from tests.conftest import dxf
from tests.reference.test_program_sweep import explicit, segments
from tests.support.trial import TrialJob
from venzo.core.edits import (
    AcceptNest,
    MovePiece,
    RemoveSetup,
    SetOperation,
    SetSetup,
    SetStock,
    TakeOffPiece,
)
from venzo.core.edits.asks import PlaceDowels
from venzo.core.edits.turning import ChangeDowels, ChangeTurn, TurnOver
from venzo.core.faces.left_by_first import left_by_first
from venzo.core.faces.registration import Dowel, Dowels, FenceCorners
from venzo.core.faces.seen import seen
from venzo.core.faces.turn import turn_of
from venzo.core.plan import AcceptedNest
from venzo.core.snags import BadInput
from venzo.core.stock.zeros import CornerZero
from venzo.desk import archives, drawings, jobs, table_runs, turning, yields
from venzo.desk.jobs import programs
from venzo.store.store import Store

TWO = Dowels(
    dowels=(Dowel(id="d1", x=20, y=200, diameter=6), Dowel(id="d2", x=580, y=200, diameter=10)), below=8.0
)


def plate(m):
    m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
    m.add_circle((170, 90), 11)
    for layer, (x, y, w, h) in (("POCKET 5", (20, 20, 60, 40)), ("BACK POCKET 6", (90, 20, 60, 60))):
        m.doc.layers.add(layer)
        ring = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        m.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})


PLATE = dxf(plate)


def turned(store, registration=TWO, axis="x", **more):
    b = TrialJob(store, (PLATE, [(60, 60), (300, 60)]), **more)
    b.do(TurnOver(setup="main", axis=axis, registration=registration))
    b.up = "main-back"
    return b


def both(b):
    return jobs.derive(b.store, b.plan)


def test_it_takes_stock_pieces_place_and_zero_from_the_first_face(store):
    b = turned(store)
    own = b.plan.setup("main-back")
    assert own.nest is None and own.stock == () and own.role is None  # nothing of it is stored
    d = both(b)
    first, back = d["main"].setup, d["main-back"].setup
    assert [q.id for q in back.nest.pieces] == [q.id for q in first.nest.pieces]
    assert all(q.mirrored for q in back.nest.pieces) and back.stock[0].thickness == first.stock[0].thickness
    assert (back.sheet_at, back.datum) == (first.sheet_at, first.datum) and back.z_zero == "bed"
    assert seen(*seen(b.plan, own)) == seen(b.plan, own)
    cut = {i: {c.cut.contour for c in x.sheets[0].cuts} for i, x in d.items()}
    assert cut == {"main": {"pocket 1", "hole 1"}, "main-back": {"pocket 2", "outline"}}
    # the first face moves, and the other with it
    q = first.nest.pieces[0]
    b.do(MovePiece(setup="main", part=q.part, copy_no=q.copy_no, sheet="own", x=70.0, y=240.0))
    after = both(b)["main-back"].setup.nest.pieces[0]
    assert (after.x, after.y) == (70.0, 160.0)


def test_halves_that_do_not_meet_are_stopped_and_a_piece_s_own_tabs_go_over(store):
    """A depth of its own on one face leaves a web; tabs moved clear of a neighbour's cut on the first face
    stand at the same place on the other.
    """
    b = TrialJob(store, (PLATE, [(60, 60), (60, 190)]))
    b.do(TurnOver(setup="main", axis="x", registration=TWO))
    b.do(ChangeTurn(setup="main-back", fields={"outlines": "half", "overlap": 1.0}))
    d = both(b)
    front, back = d["main"], d["main-back"]
    assert front.own, "the pieces lie so near that tabs are moved"
    for q in front.setup.nest.pieces:
        mine = front.own.get(q.id) or front.cuts["own"][q.part, False]
        theirs = back.own.get(q.id) or back.cuts["own"][q.part, True]
        assert np.allclose(mine.of("outline").tabs, theirs.of("outline").tabs)
    step = next(o for o in b.plan.setup("main-back").operations if o.on == "outlines")
    b.do(SetOperation(setup="main-back", operation=step.model_copy(update={"depth": 3.0})))
    b.up = "main-back"
    (said,) = b.said("turn.halves")
    assert said.severity == "stop" and "a web of 5.30 mm stays" in said.message


@pytest.mark.parametrize("off", [0.0, 0.01])
def test_dowels_at_one_place_are_said_and_nothing_breaks(store, off):
    """They leave the stock free to turn: how well the faces meet cannot be told."""
    two = tuple(Dowel(id=f"d{k}", x=20 + k * off, y=200, diameter=6 + 4 * k) for k in (0, 1))
    b = turned(store, Dowels(dowels=two))
    assert "run into each other" in b.said("turn.dowels")[0].message
    assert turning.turn_seen(b.plan, both(b), "main-back", store.shapes).across is None


def test_what_it_takes_from_there_is_not_changed_here(store):
    b = turned(store)
    q = b.setup.nest.pieces[0]
    stock = b.setup.stock[0]
    nest = AcceptedNest(pieces=(), inputs="")
    for command in (
        MovePiece(setup="main-back", part=q.part, copy_no=0, sheet="own", x=1.0, y=1.0),
        TakeOffPiece(setup="main-back", part=q.part, copy_no=0),
        AcceptNest(setup="main-back", nest=nest),
        SetStock(setup="main-back", stock=stock),
        SetSetup(setup="main-back", datum=CornerZero(corner="upper right")),
        SetSetup(setup="main-back", sheet_at=(5.0, 5.0)),
    ):
        with pytest.raises(BadInput, match=r"turned over|registration has it"):
            b.do(command)
    with pytest.raises(BadInput, match="other face already"):
        b.do(TurnOver(setup="main"))
    with pytest.raises(BadInput, match="turned already"):
        b.do(TurnOver(setup="main-back"))
    with pytest.raises(BadInput, match="no dowel 'd9'"):
        b.do(ChangeDowels(setup="main-back", drop=("d9",)))
    b.do(RemoveSetup(setup="main-back"))
    b.up = "main"
    assert b.said("turn.back")


@pytest.mark.parametrize(
    ("registration", "axis", "zero"),
    [
        (FenceCorners(), "x", CornerZero(corner="upper left")),
        (FenceCorners(), "y", CornerZero(corner="lower right")),
        (FenceCorners(second="same corner"), "x", CornerZero(corner="lower left")),
    ],
)
def test_fences_give_the_corner_that_is_zeroed(store, registration, axis, zero):
    b = turned(store, registration, axis)
    assert both(b)["main-back"].setup.datum == zero
    assert not [f for f in programs(b.plan, both(b)["main"]) if f.guide]
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"=": {"kind": "edges"}}}))
    assert both(b)["main-back"].setup.datum.kind == "centre"


def holes_bored(text, number, radius):
    """(x, y, diameter, lowest Z) of every hole of a program, by its widest rounds and their middle."""
    out = []
    for tool, fast, path in segments(explicit(text), number):
        if fast or len(path) < 3:
            continue
        x, y = (path[:, k].min() + np.ptp(path[:, k]) / 2 for k in (0, 1))
        for hole in out:
            if math.dist(hole["at"], (x, y)) < 30:
                hole["ways"].append(path)
                break
        else:
            out.append({"at": (x, y), "ways": [path], "tool": tool})
    found = []
    for hole in out:
        ways = np.vstack(hole["ways"])
        low, high = ways[:, :2].min(axis=0), ways[:, :2].max(axis=0)
        middle = (low + high) / 2
        wide = 2 * np.hypot(*(ways[:, :2] - middle).T).max() + 2 * radius
        found.append((*np.round(middle, 3), round(float(wide), 2), round(float(ways[:, 2].min()), 3)))
    return sorted(found)


def test_holes_for_dowels_are_bored_where_they_say_and_each_file_states_its_zero(store):
    b = turned(store)
    d = both(b)["main"]
    files = [f for f in programs(b.plan, d) if f.guide]
    assert [f.guide for f in files] == ["spoilboard", "stock"]
    cutter = d.setup.cutter(files[0].cutters[0])
    board, stock = (holes_bored(f.text, cutter.number, cutter.radius) for f in files)
    want = [(20.0, 200.0, 6.05), (580.0, 200.0, 10.05)]
    for found, depth in ((board, -8.0), (stock, -17.6 - 0.75)):
        for have, (x, y, wide) in zip(found, want, strict=True):
            assert have[:3] == pytest.approx((x, y, wide), abs=0.02) and have[3] == pytest.approx(depth)
    assert "Z0 top of the spoilboard" in files[0].text and "Z0 top of the material" in files[1].text
    every = [*programs(b.plan, d), *programs(b.plan, both(b)["main-back"])]
    assert [int(re.search(r"face-[12]_(\d+)", f.name)[1]) for f in every] == list(range(1, len(every) + 1))
    for i, x in both(b).items():
        proof = jobs.prove_setup(b.store, b.plan, x)
        assert not [s for p in proof for s in p.snags if s.severity == "stop"], i


def test_dowels_that_go_too_deep_or_have_no_cutter_are_stopped(store):
    b = turned(store)
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"below": 17.0}}))
    (proof,) = jobs.prove_setup(b.store, b.plan, both(b)["main"])
    assert "turn.spoilboard" in {s.rule for s in proof.snags}
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"below": 8.0}}))
    for length, says in ((28.0, "2.4 mm over the stock"), (10.0, "holds nothing")):
        b.do(ChangeDowels(setup="main-back", change=({"id": "d1", "fields": {"length": length}},)))
        (said,) = b.said("turn.length")
        assert says in said.message and said.remedies
    b.do(ChangeDowels(setup="main-back", change=({"id": "d1", "fields": {"length": 20.0}},)))
    b.do(ChangeDowels(setup="main-back", change=({"id": "d1", "fields": {"diameter": 2.0}},)))
    assert b.said("turn.dowel-cutter")
    other = b.setup.stock[0].model_copy(update={"id": "more", "name": "more", "height": 300.0})
    b.do(SetStock(setup="main", stock=other))
    nest = b.setup.nest
    moved = tuple(q.model_copy(update={"sheet": "more"}) if q.copy_no else q for q in nest.pieces)
    b.do(AcceptNest(setup="main", nest=nest.model_copy(update={"pieces": moved})))
    assert b.said("turn.sizes")


def test_dowels_are_placed_where_there_is_room_or_that_is_said(store):
    b = TrialJob(store, (PLATE, [(60, 140), (300, 140)]))
    number = store.get(b.job).number
    turning.place_dowels(store, b.job, number, PlaceDowels(setup="main"))
    d = both(b)
    shown = turning.turn_seen(b.plan, d, "main-back", store.shapes)
    assert shown.fits and len(shown.dowels) >= 2 and shown.across < 0.3 and shown.turn.axis == "x"
    assert not [s for s in d["main-back"].snags if s.rule.startswith("turn.")]
    full = TrialJob(store, (PLATE, [(x, y) for x in (8, 215) for y in (6, 135, 264)]), sheet=(424, 392))
    full.do(SetStock(setup="main", stock=full.setup.stock[0].model_copy(update={"margin": 2.0})))
    turning.place_dowels(store, full.job, store.get(full.job).number, PlaceDowels(setup="main", axis="y"))
    full.up = "main-back"
    (said,) = full.said("turn.dowels")
    assert "leaves no room" in said.message and not said.remedies
    with pytest.raises(BadInput, match="leaves no room"):
        turning.place_dowels(store, full.job, store.get(full.job).number, PlaceDowels(setup="main-back"))


def test_vacuum_does_not_hold_under_a_hollow(store):
    """A plate whose front is hollow nearly all over: turned, little of it lies on the table."""

    def hollow(m):
        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
        for layer, (x, y, w, h) in (("POCKET 5", (8, 8, 184, 104)), ("BACK POCKET 4", (60, 40, 80, 40))):
            m.doc.layers.add(layer)
            ring = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
            m.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})

    b = TrialJob(store, (dxf(hollow), [(60, 60)]), machine="long-bed", screwed=False, at=(60.0, 0.0))
    b.do(TurnOver(setup="main", registration=TWO))
    d = both(b)
    first, back = d["main"].setup, d["main-back"]
    stock = first.stock[0]
    left = left_by_first(first, d["main"].sheets[0], stock, turn_of("x", stock))
    assert left.hollow.area == pytest.approx(184 * 104, rel=0.02)
    x0, y0, x1, y1 = left.hollow.bounds
    assert (x0, y0, x1, y1) == pytest.approx((68, 400 - 172, 252, 400 - 68), abs=0.3)
    piece = back.holds[0].at(back.sheets[0].pieces[0].id, len(back.sheets[0].cuts) - 1)
    sucked = sum(h.up for h in piece.holds if h.kind == "vacuum")
    solid = jobs.derive(
        store, b.plan.model_copy(update={"setups": (first.model_copy(update={"role": None}),)})
    )
    whole = solid["main"].holds[0]
    before = whole.at(back.sheets[0].pieces[0].id, len(solid["main"].sheets[0].cuts) - 1)
    assert sucked < 0.5 * sum(h.up for h in before.holds if h.kind == "vacuum")


def test_pieces_cut_out_before_the_turn_hang_on_their_tabs_afterwards(store):
    b = turned(store)
    whole = both(b)["main-back"].holds[0]
    piece = both(b)["main-back"].sheets[0].pieces[0].id
    assert whole.freed[piece] >= 0
    b.do(ChangeTurn(setup="main-back", fields={"outlines": "before", "holes": "here"}))
    d = both(b)
    assert {c.cut.contour for c in d["main"].sheets[0].cuts} == {"pocket 1", "outline"}
    assert {c.cut.contour for c in d["main-back"].sheets[0].cuts} == {"pocket 2", "hole 1"}
    held = d["main-back"].holds[0]
    assert held.freed[piece] == -1 and piece not in held.loose
    found = held.at(piece, -1)
    assert found.joined == "" and {h.kind for h in found.holds} >= {"tab"}


def test_the_sheet_is_paid_for_once_with_the_time_of_both_faces(store):
    b = turned(store)
    alone = b.plan.model_copy(update={"setups": (b.plan.setup("main"),)})
    front = yields.job_use(store, alone)
    use = yields.job_use(store, b.plan)
    assert len(use.sheets) == 1 and use.job.pieces == 2
    assert use.cost["material"] == pytest.approx(front.cost["material"])
    seconds = {i: x.yields.seconds for i, x in both(b).items()}
    assert both(b)["main"].yields_of_both.seconds == pytest.approx(sum(seconds.values()))
    assert use.sheets[0].area_mm2["parts"] == pytest.approx(front.sheets[0].area_mm2["parts"])
    assert sum(v for k, v in use.sheets[0].area_mm2.items() if k != "sheet") == pytest.approx(
        use.sheets[0].area_mm2["sheet"]
    )


def test_a_face_said_by_hand_counts_before_the_layer_s_name(store):
    b = TrialJob(store, (PLATE, [(60, 60)]))
    drawing = b.plan.drawings[0].id
    number = store.get(b.job).number
    drawings.read_again(store, b.job, number, drawing, {"faces": {"BACK POCKET 6": "front"}})
    faces = [f.face for f in store.shapes[b.plan.parts[0].shape].features]
    assert faces == ["front", "front"] and not b.said("turn.back")
    drawings.read_again(store, b.job, store.get(b.job).number, drawing, {"faces": {"POCKET 5": "back"}})
    assert sorted(f.face for f in store.shapes[b.plan.parts[0].shape].features) == ["back", "front"]


def test_a_turned_job_goes_into_an_archive_and_comes_back(store, tmp_path):
    b = turned(store)
    data = archives.export(store, store.get(b.job))
    other = Store(tmp_path / "other")
    job = archives.bring_in(other, data, "turned.zip", True).job
    again = other.get(job).plan
    assert again.setup("main-back").other_face == b.plan.setup("main-back").other_face
    files = {i: [f.text for f in programs(b.plan, x)] for i, x in both(b).items()}
    assert files == {i: [f.text for f in programs(again, x)] for i, x in jobs.derive(other, again).items()}
    other.close()


def test_sheets_that_are_turned_are_run_by_themselves(store):
    """On a square of the table among sheets of other jobs their dowels would not be under them."""
    b = turned(store)
    assert table_runs.sheets_of(store, b.job) == []
    b.do(RemoveSetup(setup="main-back"))
    assert len(table_runs.sheets_of(store, b.job)) == 1
