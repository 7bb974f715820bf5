"""Sheets that were run: what is recorded follows from the plan its programs were made from, wear and the
spoilboard are sums over the records, and a mistake is taken back without anything being lost.
"""

from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.trial import TrialJob, disc, rect
from tests.support.web import web_over
from venzo.core.runs.records import READ, Renewed, SheetRun, TakenBack, Worn
from venzo.core.runs.sums import made, standing, wear
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import Board, SurfaceSetup
from venzo.desk import board_documents, jobs, library, runs, spoilboards
from venzo.desk.runs import SheetCut


@pytest.fixture
def trial(store):
    return TrialJob(
        store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), (disc(30), [(20, 150), (120, 150)])
    )


@pytest.fixture
def web(store):
    with web_over(store) as client:
        yield client


def board_of(store, board, machine="small-bench"):
    own = Board(id=board, name=board, kind="spoilboard", machine=machine, width=600, height=400, thickness=18)
    return spoilboards.put(store, SurfaceSetup(id=board, board=own).model_dump(mode="json"))


def cut(**fields):
    return SheetCut(setup="main", sheet="own", **fields)


def last(store, job):
    return runs.of_job(store, job).runs[0].run


def worn(store):
    return {c.id: c.metres for c in library.cutters(store)}


def test_what_a_run_books_is_what_the_plan_says(store, trial):
    before, d = worn(store), trial.derived
    board_of(store, "bed")
    runs.record(store, trial.job, cut(seconds=700, note=" chatter "))
    run = last(store, trial.job)
    sheet = d.sheets[0]
    assert run.sound == {trial.part(0): 2, trial.part(1): 2} and run.note == "chatter" and run.board == "bed"
    assert (run.planned, run.planned_cuts, run.done) == (
        round(sheet.seconds, 1),
        len(sheet.cuts),
        len(sheet.cuts),
    )
    assert sum(run.metres.values()) == pytest.approx(sheet.cut_length / 1000, abs=0.01), "one figure"
    after = worn(store)
    for cutter in after:
        assert after[cutter] == pytest.approx(before[cutter] + run.metres.get(cutter, 0.0), abs=1e-3)
    view = board_documents.view(store, spoilboards.surface_setup(store, "bed"))
    assert view.state.metres == pytest.approx(run.through, abs=1e-3) and 0 < run.through <= sum(
        run.metres.values()
    )
    assert view.state.score == pytest.approx(-min(c.cut.levels[-1] for c in sheet.cuts) - 17.6, abs=1e-3)
    assert view.ledger[0].entry.run == runs.of_job(store, trial.job).runs[0].number


def test_a_run_that_stopped_books_what_was_cut(store, trial):
    cuts = trial.derived.sheets[0].cuts
    totals = []
    for done in range(1, len(cuts) + 1):
        runs.record(store, trial.job, cut(done=done))
        run = last(store, trial.job)
        totals.append(sum(run.metres.values()))
        assert run.planned == pytest.approx(sum(c.takes for c in cuts[:done]), abs=0.2)
        untouched = {c.piece.id for c in cuts[done:]}
        assert sum(run.sound.values()) == len({c.piece.id for c in cuts} - untouched)
    assert totals == sorted(totals) and run.complete


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({"sheet_copy": 7}, "no sheet own 8"),
        ({"done": 900}, "cuts, not 900"),
        ({"spoilt": ("nothing#1",)}, "holds no piece 'nothing#1'"),
        ({"board": "another"}, "no spoilboard 'another'"),
    ],
)
def test_what_cannot_have_happened_is_refused(store, trial, said, words):
    with pytest.raises(BadInput, match=words):
        runs.record(store, trial.job, cut(**said))
    assert runs.of_job(store, trial.job).runs == []


def test_a_sheet_is_not_cut_twice_unseen(store, trial):
    number = runs.record(store, trial.job, cut())
    with pytest.raises(BadInput, match=f"cut already \\(record {number}\\)"):
        runs.record(store, trial.job, cut())
    runs.record(store, trial.job, cut(again=True))
    assert runs.of_job(store, trial.job).sound == {trial.part(0): 4, trial.part(1): 4}


def test_taking_back_leaves_the_record_and_takes_all_it_booked(store, trial):
    board_of(store, "bed")
    before = worn(store)
    number = runs.record(store, trial.job, cut(spoilt=(trial.piece(),), seconds=60))
    assert runs.of_job(store, trial.job).spoilt == {trial.part(): 1}
    runs.take_back(store, trial.job, number, "the wrong sheet")
    told = runs.of_job(store, trial.job)
    assert (
        [r.taken_back for r in told.runs] == [True]
        and not told.sound
        and not told.seconds
        and not told.spoilt
    )
    assert worn(store) == before
    assert board_documents.view(store, spoilboards.surface_setup(store, "bed")).state.metres == 0
    with pytest.raises(BadInput, match="taken back already"):
        runs.take_back(store, trial.job, number)
    runs.record(store, trial.job, cut())
    with pytest.raises(BadInput, match="take the run back at its job's release"):
        spoilboards.book(
            store,
            "bed",
            spoilboards.Entry(kind="reversed", reverses=spoilboards.entries(store, "bed")[-1][0]),
        )


def test_a_run_keeps_the_figures_of_the_plan_it_was_cut_from(store, trial):
    then = trial.plan
    base = store.head(trial.job)
    figure = jobs.derive(store, then)["main"].sheets[0].cut_length
    trial.do({"kind": "set-quantity", "part": trial.part(1), "order": "order-1", "quantity": 0})
    runs.record(store, trial.job, cut(revision=base))
    assert sum(last(store, trial.job).metres.values()) == pytest.approx(figure / 1000, abs=0.01)
    assert last(store, trial.job).revision == base


def test_which_board_it_lay_on_is_asked_where_there_are_two(store, trial):
    board_of(store, "bed")
    board_of(store, "other")
    runs.record(store, trial.job, cut())
    assert last(store, trial.job).board is None
    runs.record(store, trial.job, cut(again=True, board="other"))
    assert board_documents.view(store, spoilboards.surface_setup(store, "other")).state.metres > 0
    assert board_documents.view(store, spoilboards.surface_setup(store, "bed")).state.metres == 0


def test_what_was_cut_and_surfaced_in_one_second_counts_in_the_order_it_came(store, trial):
    board_of(store, "bed")
    runs.record(store, trial.job, cut())
    spoilboards.book(store, "bed", spoilboards.Entry(kind="surfaced", removed=2.0))
    runs.record(store, trial.job, cut(again=True))
    view = board_documents.view(store, spoilboards.surface_setup(store, "bed"))
    assert [line.entry.kind for line in view.ledger] == ["through-cut", "surfaced", "through-cut"]
    assert view.state.metres == last(store, trial.job).through, "what was surfaced away counts no more"


def test_over_the_web(web, store, trial):
    at = f"/api/jobs/{trial.job}/runs"
    assert web.get(at).json()["runs"] == []
    told = web.post(at, json={"setup": "main", "sheet": "own", "seconds": 90}).json()
    assert told["seconds"] == 90 and told["sound"]
    assert web.post(at, json={"setup": "main", "sheet": "own"}).status_code == 422
    back = web.post(f"{at}/{told['runs'][0]['number']}/take-back", json={"says": "no"}).json()
    assert back["runs"][0]["taken_back"] and not back["sound"]
    assert web.post(f"{at}/999/take-back", json={}).status_code == 404
    assert web.get("/api/jobs/none/runs").status_code == 404
    other = TrialJob(store, (disc(30), [(20, 20)]))
    number = told["runs"][0]["number"]
    assert web.post(f"/api/jobs/{other.job}/runs/{number}/take-back", json={}).status_code == 404, (
        "not its run"
    )


def test_forty_at_once_are_all_there_and_a_sheet_is_cut_once(store, trial):
    def go(k):
        try:
            return runs.record(store, trial.job, cut(note=str(k)))
        except BadInput:
            return None

    with ThreadPoolExecutor(8) as pool:
        numbers = list(pool.map(go, range(16)))
        library_wear = list(pool.map(lambda _k: library.book_wear(store, "up-6", 0.5), range(24)))
    assert len([n for n in numbers if n]) == 1 and len(library_wear) == 24
    assert worn(store)["up-6"] == pytest.approx(412 + 12 + last(store, trial.job).metres.get("up-6", 0.0))


def test_wear_that_an_entry_brings_is_booked(store):
    library.change(store, "cutter", "up-6", {"metres": 500.0})
    assert worn(store)["up-6"] == 500
    library.change(store, "cutter", "up-6", {"metres": 0.0, "note": "sharp"})
    assert worn(store)["up-6"] == 0
    library.book_wear(store, "up-6", 3)
    library.undo(store)
    assert worn(store)["up-6"] == 3, "taking back a change of the entry takes no wear back"


CUTTERS = st.sampled_from(["a", "b"])
METRES = st.integers(0, 1000).map(float)
RECORDS = st.lists(
    st.builds(Worn, cutter=CUTTERS, metres=METRES)
    | st.builds(Renewed, cutter=CUTTERS)
    | st.builds(TakenBack, number=st.integers(1, 12))
    | st.builds(
        SheetRun,
        job=st.sampled_from(["x", "y"]),
        revision=st.just(1),
        setup=st.just("main"),
        sheet=st.just("s"),
        sheet_copy=st.just(0),
        machine=st.just("m"),
        material=st.just("m"),
        done=st.just(3),
        planned_cuts=st.just(3),
        planned=METRES,
        seconds=st.none() | METRES,
        sound=st.dictionaries(st.sampled_from(["p", "q"]), st.integers(0, 9)),
        spoilt=st.lists(st.sampled_from(["p#1", "q#2"]), unique=True).map(tuple),
        metres=st.dictionaries(CUTTERS, METRES),
    ),
    max_size=12,
)


@given(RECORDS)
def test_sums_are_those_of_a_plain_reckoning(records):
    kept = list(enumerate(records, 1))
    gone = {r.number for r in records if r.kind == "taken back"}
    left = [r for n, r in kept if n not in gone and r.kind != "taken back"]
    assert [r for _n, r in standing(kept)] == left
    for cutter in "ab":
        since = []
        for r in left:
            if r.kind == "renewed" and r.cutter == cutter:
                since = []
            elif r.kind == "worn" and r.cutter == cutter:
                since.append(r.metres)
            elif r.kind == "sheet":
                since.append(r.metres.get(cutter, 0.0))
        assert wear(standing(kept)).get(cutter, 0.0) == sum(since)
    for job in "xy":
        mine = [r for r in left if r.kind == "sheet" and r.job == job]
        came_to = made(standing(kept), job)
        assert came_to.sound.get("p", 0) == sum(r.sound.get("p", 0) for r in mine)
        assert came_to.spoilt.get("q", 0) == sum("q#2" in r.spoilt for r in mine)
        assert came_to.planned == sum(r.planned for r in mine if r.seconds is not None)
    assert [READ.validate_python(r.model_dump(mode="json")) for r in records] == records
