"""The rack with everything about it: bookers at the same time, runs that take and leave, a crash between,
labels read back by an independent reader, and jobs planned on what stands there.
"""

import io
import os
import signal
import subprocess
import sys
import threading

import pytest
import zxingcpp
from PIL import Image

from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.core.edits import AcceptNest
from venzo.core.snags import BadInput
from venzo.desk import rack, rack_of_job, runs
from venzo.desk.rack import CountIt, FreeIt, MoreCame, NewLot, ReserveIt, ScrapIt, TakeIt
from venzo.desk.runs import SheetCut
from venzo.store.store import Store


@pytest.fixture
def web(store):
    with web_over(store) as client:
        yield client


def put(store, count=5, **fields):
    said = {"material": "birch-ply", "width": 600, "height": 400, "nominal": 18, "count": count, **fields}
    return rack.receive(store, NewLot.model_validate(said))


def on_hand(store, lot):
    return rack.standing(store)[lot].on_hand


def test_twenty_bookers_and_a_thousand_movements(store):
    """Each takes, brings and reserves; nobody takes what is not there, nothing booked is lost."""
    lot = put(store, 40)
    job = TrialJob(store, (rect(100, 80), [(20, 20)])).job
    start = len(store.rack())
    done = {"take": 0, "more came": 0, "scrap": 0, "reserve": 0, "set free": 0}
    lock, refused = threading.Lock(), [0]

    def book(k):
        other = Store(store.folder)  # as another process would
        try:
            for n in range(50):
                kinds = [
                    TakeIt(count=1 + n % 3),
                    MoreCame(count=1),
                    ScrapIt(count=1),
                    ReserveIt(job=job, count=1),
                ]
                what = [*kinds, FreeIt(job=job, count=1)][(k + n) % 5]
                try:
                    rack.do(other, lot, what)
                except BadInput:
                    with lock:
                        refused[0] += 1
                    continue
                with lock:
                    done[what.kind] += what.count
        finally:
            other.close()

    workers = [threading.Thread(target=book, args=(k,)) for k in range(20)]
    for w in workers:
        w.start()
    for w in workers:
        w.join()
    shelf = rack.standing(store)[lot]
    assert shelf.on_hand == 40 + done["more came"] - done["take"] - done["scrap"] >= 0
    assert shelf.reserved.get(job, 0) == done["reserve"] - done["set free"] >= 0
    assert shelf.free >= 0
    booked = len(store.rack()) - start
    assert booked + refused[0] == 1000 and booked > 300


@pytest.fixture
def trial(store):
    """A job whose sheet comes from the rack; its layout leaves a remnant."""
    t = TrialJob(store, (rect(150, 90), [(20, 20), (20, 150)]), screwed=False)
    lot = put(store, 3, margin=5, readings=[17.6], price=12.0, place="bay 1")
    rack_of_job.take_into(store, t.job, store.get(t.job).number, "main", lot)
    nest = t.setup.nest
    moved = nest.model_copy(
        update={"pieces": tuple(q.model_copy(update={"sheet": lot}) for q in nest.pieces)}
    )
    t.do(AcceptNest(setup="main", nest=moved))
    t.lot = lot
    return t


def cut(t, **fields):
    return SheetCut(setup="main", sheet=t.lot, **fields)


def test_a_run_takes_its_sheet_and_leaves_its_remnants(store, trial):
    state = rack_of_job.reserve_for(store, trial.plan).planned[0]
    assert (state.needed, state.reserved, state.on_hand, state.short) == (1, 1, 3, 0)
    number = runs.record(store, trial.job, cut(trial, place="rack A"))
    found = rack.standing(store)
    assert found[trial.lot].on_hand == 2 and not found[trial.lot].reserved
    left = [s.lot for s in found.values() if s.lot.origin]
    assert left and all(x.remnant and x.place == "rack A" and x.origin.run == number for x in left)
    assert left[0].readings == (17.6,) and left[0].material == "birch-ply"
    costs = trial.setup.rules.costs
    worth = costs.remnant_share * left[0].area / (600 * 400) * 12.0 - costs.remnant_handling
    assert left[0].price == pytest.approx(worth, abs=0.01)
    assert rack_of_job.of_job(store, trial.plan).planned[0].needed == 0, "what was cut is not needed again"
    offered = [x.lot.id for x in rack_of_job.of_job(store, trial.plan).offered["main"]]
    assert {x.id for x in left} < set(offered) and trial.lot not in offered
    runs.take_back(store, trial.job, number)
    found = rack.standing(store)
    assert found[trial.lot].on_hand == 3 and all(found[x.id].on_hand == 0 for x in left)


def test_a_run_that_stopped_leaves_nothing_and_thrown_remnants_stay_out(store, trial):
    runs.record(store, trial.job, cut(trial, done=1))
    assert on_hand(store, trial.lot) == 3 and not any(s.lot.origin for s in rack.standing(store).values())
    with pytest.raises(BadInput, match="there is none numbered 10"):
        runs.record(store, trial.job, cut(trial, keep=(9,)))
    runs.record(store, trial.job, cut(trial, keep=()))
    assert on_hand(store, trial.lot) == 2 and not any(s.lot.origin for s in rack.standing(store).values())


def test_a_run_is_not_lost_where_the_records_have_no_sheet(store, trial):
    rack.do(store, trial.lot, CountIt(found=0, says="none there"))
    runs.record(store, trial.job, cut(trial))
    assert on_hand(store, trial.lot) == 0 and len(runs.of_job(store, trial.job).runs) == 1


def test_a_run_whose_remnant_is_used_is_not_taken_back(store, trial):
    number = runs.record(store, trial.job, cut(trial))
    left = next(s.lot for s in rack.standing(store).values() if s.lot.origin)
    rack.do(store, left.id, ReserveIt(job=trial.job, count=1))
    with pytest.raises(BadInput, match=f"{left.label}, a remnant"):
        runs.take_back(store, trial.job, number)
    assert not runs.of_job(store, trial.job).runs[0].taken_back and on_hand(store, trial.lot) == 2
    rack.do(store, left.id, FreeIt(job=trial.job, count=1))
    runs.take_back(store, trial.job, number)
    assert on_hand(store, trial.lot) == 3


def test_a_lot_that_others_have_reserved_is_short(store, trial):
    other = TrialJob(store, (rect(80, 60), [(20, 20)])).job
    rack.do(store, trial.lot, ReserveIt(job=other, count=3))
    assert rack_of_job.of_job(store, trial.plan).planned[0].short == 1
    with pytest.raises(BadInput, match="0 of 3 are free"):
        rack_of_job.reserve_for(store, trial.plan)
    assert rack.standing(store)[trial.lot].reserved == {other: 3}


KILLED = """
import os, signal, sys
from venzo.store import store as kept
from venzo.desk import runs
from venzo.desk.runs import SheetCut
from pathlib import Path
folder, job, lot = sys.argv[1:]
s = kept.Store(Path(folder))
book = s._book
def dies(session, new):
    if new:
        book(session, list(new)[:1])
        os.kill(os.getpid(), signal.SIGKILL)
    return []
s._book = dies
runs.record(s, job, SheetCut(setup="main", sheet=lot))
"""


def test_kill_9_between_a_run_and_its_booking_leaves_neither(store, trial):
    p = subprocess.run([sys.executable, "-c", KILLED, str(store.folder), trial.job, trial.lot], check=False)
    assert p.returncode == -signal.SIGKILL
    again = Store(store.folder)
    assert not runs.of_job(again, trial.job).runs and on_hand(again, trial.lot) == 3
    runs.record(again, trial.job, cut(trial))
    assert len(runs.of_job(again, trial.job).runs) == 1 and on_hand(again, trial.lot) == 2
    again.close()
    assert os.path.exists(store.folder / "venzo.db")


def test_a_sheet_cut_twice_is_one_sheet_of_the_layout(store, trial):
    """It took two of the lot; the layout's other sheets are still to be cut."""
    nest = trial.setup.nest
    apart = nest.model_copy(
        update={"pieces": tuple(q.model_copy(update={"sheet_copy": k}) for k, q in enumerate(nest.pieces))}
    )
    trial.do(AcceptNest(setup="main", nest=apart))
    for again in (False, True):
        runs.record(store, trial.job, cut(trial, again=again, keep=()))
    assert on_hand(store, trial.lot) == 1
    assert rack_of_job.of_job(store, trial.plan).planned[0].needed == 1


def test_a_lot_of_another_material_does_not_go_into_a_setup(store, trial):
    head = store.get(trial.job).number
    with pytest.raises(BadInput, match=r"S-0004 is Acrylic 6, .* cuts Birch plywood"):
        rack_of_job.take_into(store, trial.job, head, "main", "lot-S-0004")
    assert store.get(trial.job).number == head


def test_what_the_desk_answers(web, store):
    new = {"material": "acrylic", "width": 500, "height": 300, "nominal": 6, "count": 2, "place": "bay 4"}
    lot = web.post("/api/rack", json=new).json()["lot"]
    for body, status, words in (
        ({"kind": "take", "count": 3}, 422, "2 of 2 are free"),
        ({"kind": "take", "count": 0}, 422, "greater than or equal to 1"),
        ({"kind": "reserve", "job": "nobody", "count": 1}, 404, "nobody"),
        ({"kind": "change"}, 422, "nothing is changed"),
        ({"kind": "burn", "count": 1}, 422, "take"),
        ({"kind": "count", "found": 7}, 200, "counted 7, the records said 2"),
    ):
        answer = web.post(f"/api/rack/{lot}/moves", json={"done": body})
        assert answer.status_code == status and words in answer.text, answer.text
    assert web.post("/api/rack/none/moves", json={"done": {"kind": "take", "count": 1}}).status_code == 404
    assert web.post("/api/rack", json={**new, "material": "moon cheese"}).status_code == 422
    thin = web.post("/api/rack", json={**new, "margin": 150})
    assert thin.status_code == 422 and "leaves nothing of a 500 x 300 mm sheet" in thin.text
    assert web.post("/api/rack", json={**new, "outline": [[0, 0], [900, 0], [0, 300]]}).status_code == 422
    line = next(x for x in web.get("/api/rack").json()["lots"] if x["lot"]["id"] == lot)
    assert line["on_hand"] == line["free"] == 7 and line["material"] == "Acrylic sheet"
    assert web.get("/api/rack/fits").status_code == 422
    fits = web.get("/api/rack/fits?width=270&height=470").json()
    mine = next(f for f in fits if f["lot"] == lot)
    assert mine["rotation"] in (90, 270)


def test_a_part_of_a_job_is_asked_of_the_rack(web, store):
    t = TrialJob(store, (rect(150, 90), [(20, 20)]))
    small, large = put(store, 1, width=180, height=120, remnant=True), put(store, 1)
    fits = web.get(f"/api/rack/fits?job={t.job}&part={t.part()}").json()
    order = [f["lot"] for f in fits]
    assert order[0] == small and order.index(large) > 0 and all(x != "lot-S-0004" for x in order)
    assert web.get(f"/api/rack/fits?job={t.job}&part=none").status_code == 404


def test_labels_are_read_by_an_independent_reader(web, store):
    """Rendered from the paper itself: every code says its label."""
    from tests.support.papers import pictures

    lots = [put(store, 1, remnant=True, outline=[[0, 0], [600, 0], [300, 400]]), put(store, 4, grain=90)]
    answer = web.get("/api/rack/labels.pdf?" + "&".join(f"lot={x}" for x in lots))
    said = [zxingcpp.read_barcodes(Image.open(io.BytesIO(p)))[0].text for p in pictures(answer.content)]
    labels = [rack.standing(store)[x].lot.label for x in lots]
    assert said == [f"VENZO RACK {x}" for x in labels]
    assert web.get("/api/rack/labels.pdf?lot=none").status_code == 404


def test_what_the_runs_took_month_by_month(web, store, trial):
    number = runs.record(store, trial.job, cut(trial))
    (line,) = web.get("/api/rack/past").json()
    run = runs.of_job(store, trial.job).runs[0].run
    assert (line["sheets"], line["sound"], line["cost"]) == (1, 2, 12.0) and line["name"] == "Birch plywood"
    assert line["utilisation"] == pytest.approx(2 * 150 * 90 / (600 * 400), rel=1e-3)
    assert sum(v for k, v in run.area_mm2.items() if k != "sheet") == pytest.approx(240_000, abs=1)
    runs.record(store, trial.job, cut(trial, again=True, spoilt=(trial.piece(),)))
    (line,) = web.get("/api/rack/past").json()
    assert (line["sheets"], line["sound"], line["spoilt"], line["cost"]) == (2, 3, 1, 24.0)
    runs.take_back(store, trial.job, number)
    (line,) = web.get("/api/rack/past").json()
    assert line["sheets"] == 1 and line["area_mm2"]["sheet"] == pytest.approx(240_000)
