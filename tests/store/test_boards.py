"""A board to surface is a job: its changes are revisions, taken back and done again, told to whoever watches,
in conflict where they meet; its ledger stays beside them.
"""

import json
import zipfile
from pathlib import Path

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session
from starlette.testclient import TestClient

from tests.support.trial import TrialJob, rect
from venzo.api.app import make_app
from venzo.core.edits import AddOrder, ChangeSurface, RenameJob, SetQuantity, SetSurface, read_command
from venzo.core.plan import Order
from venzo.core.snags import BadInput
from venzo.core.surfacing.board import Board, Reading, SurfaceSetup
from venzo.core.surfacing.ledger import Entry
from venzo.desk import board_documents, releases, spoilboards
from venzo.store.store import Conflict, NotFound, Store

OLD = Path(__file__).parent / "old_shops" / "shop_2026_11_27.zip"
READINGS = [
    {"x": x, "y": y, "z": z} for x, y, z in ((0, 0, 0.1), (500, 0, 0.3), (0, 300, 0.2), (500, 300, 0))
]


def board(name="bed", **fields):
    sizes = {"width": 600, "height": 400, "thickness": 18, "machine": "small-bench", **fields}
    return SurfaceSetup(id=name, board=Board(id=name, name=name, **sizes))


@pytest.fixture
def bed(store):
    return spoilboards.put(store, board().model_dump(mode="json"))


CHANGES = [
    {"how": {"feed": 3210.0}},
    {"how": {"passes": 3, "depth": 0.4}},
    {"board": {"name": "the bed"}},
    {"readings": READINGS},
    {"pitch": 90.0},
    {"away": True},
]
COMMANDS = [
    *(ChangeSurface(fields=f) for f in CHANGES),
    SetSurface(surface=board(width=700)),
    RenameJob(name="new"),
]
each = pytest.mark.parametrize(
    "command", COMMANDS, ids=lambda c: c.says(None) if c.kind == "rename-job" else c.kind
)


@each
def test_a_change_is_taken_back_and_done_again_to_the_letter(store, bed, command):
    start = store.get("bed")
    assert read_command(command.model_dump(mode="json")) == command
    done = store.apply("bed", start.number, command)
    assert done.plan == command.apply(start.plan) != start.plan and done.says == command.says(start.plan)
    assert done.plan.name == done.plan.surface.board.name, "the job is called as its board"
    assert store.undo("bed").plan == start.plan and store.redo("bed").plan == done.plan
    assert [h["says"] for h in store.history("bed")][-1] == "bed put on the bench"


@each
def test_the_same_thing_changed_twice_from_one_revision_is_told(store, bed, command):
    start = store.head("bed")
    done = store.apply("bed", start, command)
    with pytest.raises(Conflict) as told:
        store.apply("bed", start, command)
    assert told.value.theirs == [done.says] and store.head("bed") == done.number


def test_changes_of_other_things_go_on_top_of_each_other_and_meet_the_whole(store, bed):
    start = store.head("bed")
    for fields in ({"how": {"feed": 1000.0}}, {"how": {"rpm": 9000.0}}, {"board": {"x": 5.0}}):
        store.apply("bed", start, ChangeSurface(fields=fields))
    now = spoilboards.surface_setup(store, "bed")
    assert (now.how.feed, now.how.rpm, now.board.x) == (1000, 9000, 5)
    with pytest.raises(Conflict):
        store.apply("bed", start, SetSurface(surface=board()))


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"how": {"fed": 1}}, "fed"),
        ({"hwo": {}}, "no 'hwo'"),
        ({"id": "other"}, "its id stays"),
        ({"board": {"id": "other"}}, "id of a board is that of its job"),
        ({"board": {"width": -3}}, "width"),
        ({"readings": [{"x": 900, "y": 0, "z": 0}]}, "beside the board"),
        ({"how": {"depth": 9e9}}, "depth"),
    ],
)
def test_a_change_that_makes_no_sense_is_refused_and_nothing_is_stored(store, bed, fields, words):
    with pytest.raises(BadInput, match=words):
        spoilboards.change(store, "bed", fields)
    assert store.head("bed") == 1 and spoilboards.surface_setup(store, "bed") == bed


def test_boards_and_parts_do_not_mix(store, bed):
    with pytest.raises(BadInput, match="parts go into a job of their own"):
        store.apply("bed", 1, AddOrder(order=Order(id="o", name="o")))
    with pytest.raises(BadInput, match="no part"):
        store.apply("bed", 1, SetQuantity(part="a", order="o", quantity=1))
    trial = TrialJob(store, (rect(90, 60), [(20, 20)]))
    for command in COMMANDS[:-1]:
        with pytest.raises(BadInput, match="surfaces no board"):
            trial.do(command)
    with pytest.raises(BadInput, match="surfaces no board"):
        spoilboards.put(store, board(trial.job).model_dump(mode="json"))
    with pytest.raises(NotFound, match="no board"):
        spoilboards.surface_setup(store, trial.job)


def test_taken_off_the_bench_it_keeps_its_ledger_and_comes_back(store, bed):
    spoilboards.book(store, "bed", Entry(kind="surfaced", removed=0.5))
    spoilboards.remove(store, "bed")
    assert spoilboards.surface_setups(store) == []
    with pytest.raises(NotFound):
        spoilboards.change(store, "bed", {"pitch": 80.0})
    again = spoilboards.put(store, board().model_dump(mode="json"))
    assert again == bed and spoilboards.state_of(store, again).removed == 0.5
    assert [h["says"] for h in store.history("bed")] == [
        "bed put on the bench",
        "bed: away changed",
        "bed put on the bench",
    ]


def test_over_the_web_it_is_a_job_like_others(store, bed):
    heard = []
    store.watch(lambda job, number: heard.append((job, number)))
    with TestClient(make_app(store), base_url="http://testserver") as web:
        view = web.patch(
            "/api/surfacing/bed", json={"how": {"feed": 2000}}, headers={"x-author": "Mira"}
        ).json()
        assert (view["revision"], view["can_undo"], view["can_redo"]) == (2, True, False)
        back = web.post("/api/surfacing/bed/undo").json()
        assert back["bench"]["how"]["feed"] == 6000 and back["can_redo"]
        assert web.post("/api/surfacing/bed/redo").json()["bench"]["how"]["feed"] == 2000
        assert [h["author"] for h in web.get("/api/jobs/bed/history").json()] == ["", "", "Mira", ""]
        assert heard == [("bed", 2), ("bed", 3), ("bed", 4)]
        command = {"kind": "change-surface", "fields": {"pitch": 75}}
        assert web.post("/api/jobs/bed/commands", json={"base": 4, "command": command}).status_code == 200
        stale = {"base": 1, "command": {"kind": "change-surface", "fields": {"how": {"feed": 1}}}}
        assert web.post("/api/jobs/bed/commands", json=stale).status_code == 409
        assert [j["kind"] for j in web.get("/api/jobs").json()] == ["surface"]
        shown = web.get("/api/jobs/bed").json()
        assert shown["setups"] == [] and shown["name"] == "bed"
        assert web.get("/api/jobs/bed/proof").json() == {}
        zipped = web.get("/api/jobs/bed/release.zip")
        assert zipped.status_code == 200 and b"surface_bed.nc" in zipped.content
        assert web.delete("/api/surfacing/bed").status_code == 200 and web.get("/api/surfacing").json() == []


def test_its_release_holds_programs_and_paper_or_says_what_stops_it(store, bed):
    files, manifest = releases.release(store, store.get("bed").plan, 1)
    assert [n for n, _b in files] == ["surface_bed.nc", "surface_bed.pdf", "release.json"]
    assert manifest.files == ["surface_bed.nc", "surface_bed.pdf"]
    spoilboards.change(store, "bed", {"how": {"depth": 12.0}})
    files, _manifest = releases.release(store, store.get("bed").plan, 2)
    assert [n for n, _b in files] == ["surface_bed.pdf", "release.json"], "too thin then: no program"


def _known(told, old):
    """Of what is told now, what was known then; what is new says nothing."""
    if isinstance(old, dict):
        return {k: _known(v, old[k]) for k, v in told.items() if k in old and k not in ("id", "board")}
    if isinstance(old, list):
        return [_known(t, o) for t, o in zip(told, old, strict=True)]
    return told


def test_boards_of_an_older_shop_become_jobs_with_their_ledgers(tmp_path):
    with zipfile.ZipFile(OLD) as z:
        z.extractall(tmp_path / "shop")
    import sqlite3

    with sqlite3.connect(tmp_path / "shop" / "venzo.db") as base:
        kept = dict(base.execute("SELECT id, body FROM library WHERE kind = 'bench'").fetchall())
        ledger = dict(base.execute("SELECT board, count(*) FROM ledger GROUP BY board").fetchall())
        # a job that bears the name of a board
        base.execute("UPDATE library SET id = 'taken' WHERE kind = 'bench' AND id = 'oak-plank-a'")
        base.execute("UPDATE ledger SET board = 'taken' WHERE board = 'oak-plank-a'")
        base.execute("INSERT INTO jobs SELECT 'taken', 'x', head, created, changed FROM jobs LIMIT 1")
        base.execute(
            "INSERT INTO ledger (board, made, body) VALUES ('taken', '2026-11-27', '{\"kind\": \"zero\"}')"
        )
    store = Store(tmp_path / "shop")
    boards = {b.id: b for b in spoilboards.surface_setups(store)}
    assert set(boards) == {"long-bed-spoilboard", "taken-board", "oak-plank-b"} and len(kept) == 3
    for name, body in kept.items():
        old, new = json.loads(body), boards.get(name, boards["taken-board"])
        told = new.model_dump(mode="json")
        assert _known(told, old) == {k: v for k, v in old.items() if k not in ("id", "board")}
        assert {**_known(told["board"], old["board"]), "id": name} == old["board"]
        assert board_documents.view(store, new).layers
    assert len(spoilboards.entries(store, "long-bed-spoilboard")) == ledger["long-bed-spoilboard"]
    assert [e.kind for _n, e in spoilboards.entries(store, "taken-board")] == ["zero"]
    with Session(store._engine) as s:
        assert s.execute(text("SELECT count(*) FROM library WHERE kind = 'bench'")).scalar() == 0
    changed = spoilboards.change(store, "oak-plank-b", {"pitch": 77.0})
    assert changed.pitch == 77 and spoilboards.undo(store, "oak-plank-b") == boards["oak-plank-b"]
    store.close()


def test_readings_are_part_of_the_history(store, bed):
    spoilboards.probe(store, "bed", 4, 3)
    probed = spoilboards.surface_setup(store, "bed")
    spoilboards.paste(store, "bed", "0 0 0.1\n500 0 0.3\n0 300 0.2\n500 300 0")
    assert probed.simulated and len(probed.readings) == 12
    assert spoilboards.surface_setup(store, "bed").readings[1] == Reading(x=500, y=0, z=0.3)
    assert spoilboards.undo(store, "bed") == probed and spoilboards.undo(store, "bed") == bed
