"""Releases over the web: what is asked is checked, what is refused changes nothing."""

import io
import zipfile

import pytest

from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.core.edits import SetSetup
from venzo.core.stock.dialect import Dialect


@pytest.fixture
def job(store):
    trial = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60), (300, 60)]))
    machine = trial.setup.machine.model_copy(update={"dialect": Dialect()})
    trial.do(SetSetup(setup="main", machine=machine))
    return trial


@pytest.fixture
def web(job):
    with web_over(job.store) as c:
        yield c


def test_a_release_from_ahead_to_withdrawn(web, job):
    at, head = f"/api/jobs/{job.job}/releases", job.store.head(job.job)
    ahead = web.post(f"{at}/ahead", json={"side": "insides"}).json()
    assert (
        ahead["left"] and len(ahead["files"]) == 1 and ahead["contains"] == [{"part": "part0", "pieces": 2}]
    )
    assert web.get(at).json()["releases"] == []
    said = {"revision": head, "picked": {"side": "insides"}, "note": "holes"}
    made = web.post(at, json=said, headers={"x-author": "Ines"}).json()
    (line,) = made["releases"]
    assert line["author"] == "Ines" and line["released"]["note"] == "holes" and made["left"] == ahead["left"]
    assert [f["name"] for f in line["released"]["files"] if f["kind"] == "program"] == [
        f["name"] for f in ahead["files"]
    ]
    answer = web.get(f"{at}/1.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as z:
        name = ahead["files"][0]["name"]
        assert z.read(name) == web.get(f"{at}/1/files/{name}").content
    assert web.get(f"{at}/1/papers.pdf").content[:5] == b"%PDF-"
    assert web.get(f"{at}/1/papers.pdf?look=true").headers["content-type"] == "application/pdf"
    told = web.post(f"/api/jobs/{job.job}/programs/told", files={"file": ("x.nc", b"G21")}).json()
    assert told["what"] == "foreign"
    gone = web.post(f"{at}/1/withdraw", json={"says": "no"}).json()
    assert gone["releases"][0]["taken_back"] and gone["left"] == ahead["left"] + ahead["cuts"]
    again = web.post(f"{at}/1/withdraw", json={})
    assert again.status_code == 422 and "withdrawn already" in again.json()["detail"]


@pytest.mark.parametrize(
    ("path", "body", "status", "words"),
    [
        ("", {"revision": 1}, 409, "look again"),
        ("", {"revision": 0}, 422, "greater"),
        ("", {"revision": "HEAD", "picked": {"parts": ["no such"]}}, 422, "nothing is left"),
        ("", {"revision": "HEAD", "picked": {"side": "sideways"}}, 422, "insides"),
        ("", {"revision": "HEAD", "picked": {"operations": ["sanding"]}}, 422, "profile"),
        ("/7/withdraw", {}, 404, "no release 7"),
        ("/7/deliver", {}, 404, "no release 7"),
    ],
)
def test_what_is_refused_says_why_and_changes_nothing(web, job, path, body, status, words):
    body = {k: job.store.head(job.job) if v == "HEAD" else v for k, v in body.items()}
    answer = web.post(f"/api/jobs/{job.job}/releases{path}", json=body)
    assert answer.status_code == status and words in str(answer.json()["detail"])
    assert web.get(f"/api/jobs/{job.job}/releases").json()["releases"] == []


def test_what_is_not_there_is_said(web, job):
    assert web.get("/api/jobs/none/releases").status_code == 404
    assert web.get(f"/api/jobs/{job.job}/releases/1.zip").status_code == 404
    assert web.get(f"/api/jobs/{job.job}/releases/1/files/x.nc").status_code == 404
    assert web.get(f"/api/jobs/{job.job}/programs/none.nc").status_code == 404


def test_dialects_are_tried_and_a_wrong_one_is_said(web):
    starters = web.get("/api/dialects").json()
    assert all(web.post("/api/dialects/tried", json=d).json()["same"] for d in starters)
    wrong = web.post("/api/dialects/tried", json={**starters[0], "at_end": ["G0 Z9"]})
    assert wrong.status_code == 422 and "no word of the machine's own" in str(wrong.json()["detail"])
    assert web.post("/api/machines/none/dialect/tried", json=starters[0]).status_code == 404


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("", "reading-nook_s1_02_t7.nc"),
        ("{order}_{job}", "02_reading-nook.nc"),
        ("{job}-{size}-{order}-{cutter}", "reading-nook-2440x1220-02-t7.nc"),
        ("O{order}", "O02.nc"),
    ],
)
def test_names_come_out_as_they_are_shown(web, pattern, name):
    asked = f"?pattern={pattern}" if pattern else ""
    assert web.get(f"/api/file-names/shown{asked}").json()[0] == name


@pytest.mark.parametrize("pattern", ["{nonsense}{order}", "a/{order}", "{job}", "..%5C{order}"])
def test_no_pattern_but_a_sound_one(web, pattern):
    assert web.get(f"/api/file-names/shown?pattern={pattern}").status_code == 422


def test_a_folder_is_said_and_taken_back(web, tmp_path):
    place = tmp_path / "machine"
    place.mkdir()
    said = web.post("/api/machines/small-bench/folder", json={"path": str(place)}).json()
    assert next(f for f in said if f["machine"] == "small-bench")["path"] == str(place)
    gone = web.post("/api/machines/small-bench/folder", json={"path": ""}).json()
    assert all(f["path"] is None for f in gone)
    wrong = web.post("/api/machines/small-bench/folder", json={"path": "relative"})
    assert wrong.status_code == 422 and "give the whole way" in wrong.json()["detail"]
