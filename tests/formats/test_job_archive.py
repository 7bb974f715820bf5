"""A whole job handed on: what comes back is the same to the last digest, in this shop or another; what is
damaged or hostile is refused with nothing changed; nested sheets read again by intake give the same areas
and places.
"""

import io
import json
import random
import zipfile

import numpy as np
import pytest
from starlette.testclient import TestClient

from tests.conftest import MANY
from tests.support.library_shop import library_shop
from tests.support.trial import TrialJob, disc, rect
from venzo.api.app import make_app
from venzo.cli import main as command
from venzo.core.edits import RenameJob
from venzo.core.snags import BadInput
from venzo.desk import archives, drawings, jobs, library, rack, rack_of_job, spoilboards
from venzo.desk.cut_stock import SheetAt
from venzo.desk.rack import NewLot
from venzo.formats import job_archive
from venzo.formats.cut_list import cut_list_csv, read_cut_list
from venzo.formats.job_archive import MANIFEST, read_archive, safe_name
from venzo.store.store import Store

GLAZING = "viewing-slot-glazing"


@pytest.fixture
def other(tmp_path):
    """Another shop, with nothing in it."""
    s = Store(tmp_path / "other")
    yield s
    s.close()


@pytest.fixture
def trial(store):
    return TrialJob(
        store, (rect(150, 90, [(40, 40, 12)], (100, 45, 15)), [(20, 20)]), (disc(30), [(250, 60)])
    )


@pytest.fixture(scope="module")
def exported(tmp_path_factory):
    """An archive, made once, to be spoilt."""
    s = library_shop(tmp_path_factory.mktemp("exported"))
    plate = rect(150, 90, [(40, 40, 12)], (100, 45, 15))
    job = TrialJob(s, (plate, [(20, 20)]), (disc(30), [(250, 60)])).job
    body = archives.export(s, s.get(job))
    s.close()
    return body


def archive_of(store, job):
    return archives.export(store, store.get(job))


def altered(body, change):
    """The archive with its files as ``change`` makes them of a dictionary."""
    with zipfile.ZipFile(io.BytesIO(body)) as z:
        files = {n: z.read(n) for n in z.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for n, data in files.items():
            z.writestr(n, data)
    return out.getvalue()


def in_manifest(change):
    def alter(files):
        told = json.loads(files[MANIFEST])
        change(told)
        files[MANIFEST] = json.dumps(told).encode()

    return alter


def test_the_demo_comes_back_the_same_to_the_last_digest_in_an_empty_shop(demo, other, capsys):
    body = archive_of(demo, GLAZING)
    assert body == archive_of(demo, GLAZING), "the same job gives the same bytes"
    found = archives.bring_in(other, body, "glazing.venzo.zip", bring=True)
    assert found.same and not found.differs and found.job == GLAZING and not found.others
    assert other.get(GLAZING).plan == demo.get(GLAZING).plan
    assert other.get(GLAZING).number == demo.get(GLAZING).number
    told = []
    for s in (demo, other):
        with pytest.raises(SystemExit):
            _run("plan", GLAZING, "--json", "--data", str(s.folder))
        told.append(capsys.readouterr().out)
    assert told[0] == told[1] and json.loads(told[0])["job"] == GLAZING


def _run(*words):
    import sys

    before, sys.argv = sys.argv, ["venzo", *words]
    try:
        command()
    finally:
        sys.argv = before


def test_by_the_command_line_into_a_folder_that_is_not_there_yet(trial, tmp_path, capsys):
    archive, folder = tmp_path / "job.zip", tmp_path / "new shop"
    for words, code in (
        (("export", trial.job, "-o", str(archive), "--data", str(trial.store.folder)), 0),
        (("import", str(archive), "--data", str(folder), "--json"), 0),
        (("import", str(tmp_path / "none.zip"), "--data", str(folder)), 2),
        (("export", "none", "-o", str(archive), "--data", str(folder)), 2),
    ):
        with pytest.raises(SystemExit) as end:
            _run(*words)
        assert end.value.code == code, words
        said = capsys.readouterr()
        if "--json" in words:
            assert json.loads(said.out)["same"] is True


def test_a_job_of_the_same_name_stays_and_goes_on(trial):
    body = archive_of(trial.store, trial.job)
    trial.do(RenameJob(name="mine, later"))
    found = archives.bring_in(trial.store, body, "x.zip")
    assert found.job == f"{trial.job}-2" and found.name == "bench" and found.same
    assert trial.plan.name == "mine, later"
    number = trial.store.get(found.job).number
    after = trial.store.apply(found.job, number, RenameJob(name="again"))
    assert after.number == number + 1
    assert trial.store.undo(found.job).plan.name == "bench"
    assert [r["revision"] for r in trial.store.history(found.job)][-1] == number


def test_what_the_other_shop_has_otherwise_is_offered_and_what_it_lacks_is_brought(trial, other):
    body = archive_of(trial.store, trial.job)
    setup = trial.setup
    mine = {**setup.machine.model_dump(mode="json"), "rate_per_hour": 99.0}
    other.put_library("machine", mine)
    other.put_library("cutter", {**setup.cutters[0].model_dump(mode="json"), "id": "own", "name": "own"})
    found = archives.bring_in(other, body, "x.zip", bring=True)
    assert found.others == [f"machine {setup.machine.name}"] and found.same
    assert f"material {setup.material.name}" in found.brought
    numbers = [c.number for c in library.cutters(other)]
    assert len(numbers) == len(set(numbers)) == len(setup.cutters) + 1, "a taken number is given to nobody"
    assert other.get(found.job).plan.setups[0].machine.rate_per_hour != 99.0, (
        "the plan stays as it was pinned"
    )
    again = archives.bring_in(other, body, "x.zip")
    assert not again.brought and f"material {setup.material.name}" in again.known


def test_stock_of_another_rack_is_of_no_lot_here(trial, other):
    """The same label is another lot there; a run must not take from it."""
    lot = rack.receive(
        trial.store, NewLot(material="birch-ply", width=600, height=400, nominal=18, readings=(17.6,))
    )
    head = trial.store.get(trial.job)
    rack_of_job.take_into(trial.store, trial.job, head.number, "main", lot)
    body = archive_of(trial.store, trial.job)
    found = archives.bring_in(other, body, "x.zip")
    assert (
        found.same
        and len(found.let_go) == 1
        and all(k.lot is None for k in other.get(found.job).plan.setups[0].stock)
    )
    assert any(k.lot == lot for k in trial.setup.stock), "here it stays"


def test_a_board_comes_back_under_another_id_too(demo):
    body = archive_of(demo, "oak-plank-a")
    found = archives.bring_in(demo, body, "x.zip")
    assert found.job == "oak-plank-a-2" and demo.get(found.job).plan.surface.id == found.job
    assert (
        spoilboards.surface_setup(demo, found.job).board
        == spoilboards.surface_setup(demo, "oak-plank-a").board
    )


def swap(d, a, b):
    d[a] = b


HOSTILE = {
    "no zip at all": (lambda f: None, "no archive of a job"),
    "without a manifest": (lambda f: f.pop(MANIFEST), "it has no job.json"),
    "a path that climbs out": (lambda f: swap(f, "../../etc/cron.d/x", b"!"), "outside itself"),
    "a path of the root": (lambda f: swap(f, "/etc/passwd", b"!"), "outside itself"),
    "a path of another system": (lambda f: swap(f, "C:\\x", b"!"), "outside itself"),
    "ten thousand files": (lambda f: f.update({f"x{n}": b"" for n in range(10_000)}), "more than the limit"),
    "a manifest that is no JSON": (lambda f: swap(f, MANIFEST, b"{"), "is no JSON"),
    "a manifest of something else": (lambda f: swap(f, MANIFEST, b"[]"), "does not say that it is a job"),
    "deep JSON": (lambda f: swap(f, MANIFEST, b"[" * 100_000), "is no JSON"),
    "a newer version": (in_manifest(lambda m: swap(m, "version", 2)), "of version 2"),
    "an unknown field": (in_manifest(lambda m: swap(m, "surprise", 1)), "surprise"),
    "a plan that is none": (in_manifest(lambda m: swap(m["plan"], "parts", 7)), "plan"),
    "a file that is missing": (
        lambda f: f.pop(next(n for n in f if n.startswith("drawings/"))),
        "is missing from the archive",
    ),
    "a drawing that was altered": (
        lambda f: swap(f, (n := next(n for n in f if n.startswith("drawings/"))), f[n][:-1] + b"!"),
        "altered",
    ),
    "a shape that was altered": (
        lambda f: swap(
            f, (n := next(n for n in f if n.startswith("shapes/"))), f[n].replace(b"150", b"151", 1)
        ),
        "altered|bytes",
    ),
    "a digest that is none": (
        in_manifest(lambda m: swap(m["files"], "x" * 32, next(iter(m["files"].values())))),
        "files",
    ),
    "a file that nobody names": (
        in_manifest(lambda m: m["files"].pop(next(iter(m["files"])))),
        "lacks 1 of what its plan names",
    ),
}


@pytest.mark.parametrize("what", HOSTILE)
def test_a_damaged_or_hostile_archive_changes_nothing(exported, other, what):
    change, words = HOSTILE[what]
    body = exported
    body = b"PK, but not really" if what == "no zip at all" else altered(body, change)
    with pytest.raises(BadInput, match=words):
        archives.bring_in(other, body, "x.zip", bring=True)
    assert not other.jobs() and not list(other.blobs.folder.iterdir())
    assert not other.library("machine")


def test_a_bomb_is_refused_by_what_it_says_and_by_what_it_is(exported, other, monkeypatch):
    big = altered(exported, lambda f: swap(f, "zeros", bytes(600 * 1024 * 1024)))
    assert len(big) < 2_000_000
    with pytest.raises(BadInput, match="MB unpacked are more than the limit"):
        archives.bring_in(other, big, "x.zip")
    monkeypatch.setattr(job_archive, "LARGEST_MANIFEST", 1024 * 1024)
    long = altered(exported, lambda f: swap(f, MANIFEST, f[MANIFEST] + b" " * 2**21))
    with pytest.raises(BadInput, match="is larger than the limit of 1 MB"):
        archives.bring_in(other, long, "x.zip")


def test_whatever_byte_is_broken_it_is_refused_or_the_same(exported):
    body = exported
    before, rng, refused = read_archive(body, "x.zip"), random.Random(7), 0
    for _ in range(250 * MANY):
        broken = bytearray(body)
        broken[rng.randrange(len(body))] ^= rng.randrange(1, 256)
        try:
            after = read_archive(bytes(broken), "x.zip")
        except BadInput as e:
            assert str(e).startswith("x.zip: ")
            refused += 1
            continue
        assert after.manifest.plan == before.manifest.plan and after.files == before.files
    assert refused > 50


@pytest.mark.parametrize("ending", ["dxf", "svg"])
def test_a_nested_sheet_is_read_again_with_the_same_parts_in_the_same_places(trial, ending):
    """By the intake, which leaves sheet, remnants and labels out."""
    at = SheetAt(setup="main", sheet="own", copy_no=0)
    name, body = archives.nested(trial.store, trial.plan, at, ending)
    assert name.endswith(f".{ending}")
    again = jobs.new_job(trial.store, "again", "small-bench", "birch-ply").plan.id
    drawings.take_drawing(trial.store, again, 1, "main", name, body)
    plan = trial.store.get(again).plan
    pieces = trial.sheet.pieces
    assert sum(p.quantity for p in plan.parts) == len(pieces) == 2
    there = sorted(round(trial.store.shapes[trial.plan.shape_of(q.part)].region.area, 2) for q in pieces)
    here = sorted(round(trial.store.shapes[p.shape].region.area, 2) for p in plan.parts)
    assert np.allclose(there, here, atol=0.05)
    boxes = sorted(
        trial.store.shapes[trial.plan.shape_of(q.part)]
        .region.placed(q.x, q.y, q.rotation, q.mirrored)
        .outline.bbox[:2]
        for q in pieces
    )
    assert np.allclose(sorted(p.origin for p in plan.parts), boxes, atol=0.01)
    pocket = next(f for p in plan.parts for f in trial.store.shapes[p.shape].features)
    assert pocket.kind == "pocket" and (ending == "svg" or pocket.depth == pytest.approx(6.0))


def test_the_cut_list_is_read_again(trial):
    rows = read_cut_list(cut_list_csv(trial.plan), "cut-list.csv")
    assert [(r.name, r.quantity, r.thickness) for r in rows] == [
        (p.name, p.quantity, pytest.approx(17.6)) for p in trial.plan.parts
    ]


def test_over_the_web(trial):
    with TestClient(make_app(trial.store), base_url="http://testserver") as web:
        answer = web.get(f"/api/jobs/{trial.job}/archive.zip")
        assert answer.headers["content-type"] == "application/zip"
        files = {"file": ("job.zip", answer.content, "application/zip")}
        found = web.post("/api/archives", files=files, data={"bring": "true"}).json()
        assert found["same"] and web.get(f"/api/jobs/{found['job']}").status_code == 200
        told = web.get("/api/archives/schema").json()
        assert "plan" in told["properties"] and told["additionalProperties"] is False
        bad = web.post("/api/archives", files={"file": ("x.zip", b"no", "application/zip")})
        assert bad.status_code == 422 and "x.zip: no archive of a job" in bad.json()["detail"]
        assert web.get(f"/api/jobs/{trial.job}/nest.png?setup=main&sheet=own").status_code == 422
        assert web.get(f"/api/jobs/{trial.job}/cut-list.csv").text.startswith("name,quantity,")


def test_file_names_that_any_system_takes():
    assert safe_name("..\\..\\Hide: ribs / 2.dxf") == "2.dxf"
    assert safe_name("...") == "file" and len(safe_name("x" * 300)) == 80
