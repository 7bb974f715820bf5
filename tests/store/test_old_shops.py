"""Shops made by earlier versions open: their jobs are read, planned, shown, undone and released, their boards
planned, their library told.
"""

import json
import sqlite3
import zipfile
import zlib
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from venzo.api.app import make_app
from venzo.desk import board_documents, jobs, library, releases, spoilboards
from venzo.store.store import Store

OLD = sorted((Path(__file__).parent / "old_shops").glob("*.zip"))


@pytest.fixture(params=OLD, ids=[p.stem for p in OLD])
def old(request, tmp_path):
    with zipfile.ZipFile(request.param) as z:
        z.extractall(tmp_path / "shop")
    store = Store(tmp_path / "shop")
    yield store
    store.close()


def test_an_old_shop_opens_and_goes_on(old):
    found = [j for j in old.jobs() if j["kind"] == "parts"]
    assert len(found) == 2
    with TestClient(make_app(old), base_url="http://testserver") as web:
        for line in found:
            plan = old.get(line["id"]).plan
            assert all(d.sheets and not d.underived for d in jobs.derive(old, plan).values())
            shown = web.get(f"/api/jobs/{plan.id}").json()
            assert shown["setups"][0]["pieces"] and shown["revision"] == line["revision"] == len(
                web.get(f"/api/jobs/{plan.id}/history").json()
            )
            before = shown["setups"][0]["pieces"]
            assert web.post(f"/api/jobs/{plan.id}/undo").status_code == 200
            assert web.post(f"/api/jobs/{plan.id}/redo").json()["setups"][0]["pieces"] == before
            files, manifest = releases.release(old, old.get(plan.id).plan, 1)
            assert files and manifest.setups[0].contains
        assert web.get("/api/library").json()["cutter"] and len(library.cutters(old)) == 15
        boards = web.get("/api/surfacing").json()
        assert len(boards) == 3
        for b in boards:
            view = board_documents.view(old, spoilboards.surface_setup(old, b["id"]))
            assert view.layers and view.news is None


def test_the_store_knows_its_newest_migration():
    """A database that says so is opened without asking what migrates."""
    from alembic.config import Config
    from alembic.script import ScriptDirectory

    from venzo.store import store

    config = Config()
    config.set_main_option("script_location", str(Path(store.__file__).parent / "migrations"))
    assert ScriptDirectory.from_config(config).get_current_head() == store.SCHEMA


def test_jets_leave_the_cutters_and_are_not_lost(old, tmp_path):
    """A torch that stood among the cutters, in the library, its log and a job, is kept as a head setting."""
    folder = tmp_path / "shop"
    old.close()
    jet = {"id": "torch", "number": 90, "name": "torch", "kind": "plasma torch", "diameter": 1.4}
    with sqlite3.connect(folder / "venzo.db") as base:
        # what later versions added is not there yet
        base.execute("DROP TABLE rack")
        base.execute("DROP INDEX jobs_by_place")
        for column in ("place", "words", "facts", "card", "card_of", "standing"):
            base.execute(f"ALTER TABLE jobs DROP COLUMN {column}")
        base.execute("UPDATE alembic_version SET version_num = '0007'")
        base.execute("INSERT INTO library VALUES ('cutter', 'torch', 99, ?)", [json.dumps(jet)])
        base.execute(
            "INSERT INTO library_changes (kind, item, after, says, made, author)"
            " VALUES ('cutter', 'torch', ?, 'torch entered', '2026-01-01 00:00:00', '')",
            [json.dumps(jet)],
        )
        base.execute(
            "INSERT INTO library_changes (kind, item, before, after, says, made, author)"
            " VALUES ('cutter', 'up-6', ?, ?, 'was a torch', '2026-01-01 00:00:00', '')",
            [json.dumps({**jet, "id": "up-6"}), json.dumps({**jet, "id": "up-6", "kind": "up-cut"})],
        )
        job, number, packed = base.execute("SELECT job, number, plan FROM revisions").fetchone()
        plan = json.loads(zlib.decompress(packed))
        before = [c["id"] for s in plan["setups"] for c in s["cutters"]]
        for s in plan["setups"]:
            s["cutters"].append({**jet, "cutting_length": 20})
        base.execute(
            "UPDATE revisions SET plan = ? WHERE job = ? AND number = ?",
            [zlib.compress(json.dumps(plan).encode()), job, number],
        )
    store = Store(folder)
    assert "torch" not in {c.id for c in library.cutters(store)}
    assert "up-6" in {c.id for c in library.cutters(store)}, "a cutter now, whatever it was once"
    assert [h["name"] for h in store.library("head setting")] == ["torch"]
    read = store.get(job, number).plan
    assert [c.id for s in read.setups for c in s.cutters] == before
    store.close()


def test_wear_that_stood_on_cutters_is_kept_as_records(old):
    metres = {c.id: c.metres for c in library.cutters(old)}
    assert metres["up-6"] == 412 and [k.record.says for k in old.runs()] == ["before runs were kept"]
    library.book_wear(old, "up-6", 8)
    assert {c.id: c.metres for c in library.cutters(old)} == {**metres, "up-6": 420}
