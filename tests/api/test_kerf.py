"""Kerf tables over the web: what is shown, changed, measured, charted, released, logged."""

import io
import re
import zipfile

import pytest

from tests.support.kerf_sweep import swept
from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.core.snags import BadInput


@pytest.fixture
def job(store):
    return TrialJob(
        store,
        (rect(220, 60, [(30, 30, 8), (170, 30, 8)]), [(20, 20), (20, 120)]),
        machine="slat-table",
        material="mild-steel",
        thick=2.0,
        screwed=False,
        at=(30.0, 30.0),
    )


@pytest.fixture
def web(job):
    with web_over(job.store) as c:
        yield c


def change(web, job, **fields):
    base = job.store.head(job.job)
    command = {"kind": "change-kerf", "setup": "main", "fields": fields}
    return web.post(f"/api/jobs/{job.job}/commands", json={"base": base, "command": command})


def test_the_document_and_a_change_of_it(web, job):
    at = f"/api/jobs/{job.job}/kerf?setup=main"
    kerf = web.get(at).json()
    (sheet,) = kerf["sheets"]
    assert kerf["kerf"] == pytest.approx(1.4) and sheet["pierces"] == 6 and sheet["proof"] == []
    assert sheet["cuts"][-1]["loosens"] and len(sheet["slats"]) > 3
    assert [c["inside"] for c in sheet["cuts"]] == [True] * 4 + [False] * 2
    assert sheet["cost"]["total"] == pytest.approx(
        sum(sheet["cost"][k] for k in ("machine", "gas", "consumables", "abrasive"))
    )
    whole = web.get(f"/api/jobs/{job.job}").json()["setups"][0]
    assert whole["yields"]["seconds"] == sheet["seconds"]  # one figure
    assert whole["release"]["files"][0]["seconds"] == sheet["seconds"]
    answer = change(web, job, tabs={"count": 1}, hop=300.0)
    assert answer.status_code == 200, answer.text
    again = web.get(at).json()
    assert again["choices"]["tabs"] == {"count": 1, "width": 0.25, "every": 0}
    assert again["sheets"][0]["hop_length"] > 0 and all(c["tabbed"] for c in again["sheets"][0]["cuts"][-2:])
    web.post(f"/api/jobs/{job.job}/undo", json={"base": job.store.head(job.job)})
    assert web.get(at).json()["choices"]["tabs"]["count"] == 0


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"lead": -1}, "lead"),
        ({"lead_angle": 175}, "runs back along the cut"),
        ({"nozzle": 2}, "has no 'nozzle'"),
        ({"head": "gone"}, "no head setting"),
        ({"level": 9}, "level"),
    ],
)
def test_what_is_refused_says_why_and_changes_nothing(web, job, fields, words):
    before = job.store.head(job.job)
    answer = change(web, job, **fields)
    assert answer.status_code == 422 and words in answer.text
    assert job.store.head(job.job) == before


def test_what_is_cut_beside_the_parts_belongs_to_none(web, job):
    assert change(web, job, cut_up="skeleton", cut_up_every=120, tabs={"every": 150}).status_code == 200
    (sheet,) = web.get(f"/api/jobs/{job.job}/kerf?setup=main").json()["sheets"]
    beside = [c for c in sheet["cuts"] if not c["pieces"]]
    assert {c["contour"] for c in beside} == {"skeleton line", "remnant line"} and sheet["proof"] == []
    assert sheet["cuts"][-1]["contour"] == "remnant line"
    assert sum(c["tabbed"] for c in sheet["cuts"]) == 2 * round(2 * (220 + 60) / 150)
    assert web.get(f"/api/jobs/{job.job}/yield").status_code == 200
    part = job.plan.parts[0].id
    said = {"setup": "main", "sheet": job.setup.stock[0].id}
    (line,) = web.post(f"/api/jobs/{job.job}/runs", json=said).json()["runs"]
    assert line["run"]["sound"] == {part: 2}


def test_a_router_s_setup_has_no_kerfs(web, store):
    other = TrialJob(store, (rect(100, 60), [(20, 20)]))
    assert web.get(f"/api/jobs/{other.job}/kerf?setup=main").status_code == 422
    assert web.get(f"/api/jobs/{other.job}/kerf?setup=none").status_code == 422


def test_coupon_measured_kept_and_adopted(web, job):
    text = web.get(f"/api/jobs/{job.job}/kerf/coupon?setup=main").text
    assert len(swept(text).burns) == 7
    ask = {
        "head": "air-45",
        "sort": "mild steel",
        "thickness": 2.0,
        "taken": 1.4,
        "sizes": [
            {"side": "outside", "drawn": 40, "measured": 39.8},
            {"side": "inside", "drawn": 20, "measured": 20.2},
        ],
        "on": "2026-11-29",
    }
    said = web.post("/api/kerf/measured", json=ask).json()
    assert said["kerf"] == pytest.approx(1.6) and said["history"] == []
    kept = web.post("/api/kerf/measured", json={**ask, "keep": True}).json()
    assert [m["kerf"] for m in kept["history"]] == [1.6]
    (news,) = (
        n for n in web.get(f"/api/jobs/{job.job}").json()["setups"][0]["news"] if n["kind"] == "head setting"
    )
    base = job.store.head(job.job)
    web.post(f"/api/jobs/{job.job}/commands", json={"base": base, "command": news["command"]})
    assert web.get(f"/api/jobs/{job.job}/kerf?setup=main").json()["kerf"] == 1.6
    assert web.post("/api/kerf/measured", json={**ask, "head": "gone"}).status_code == 422


def test_charts_as_csv_out_and_in(web):
    text = web.get("/api/heads/air-45/chart.csv").text
    assert text.splitlines()[0] == "material,thickness,kerf,feed,pierce,pierce height,cut height,source"
    back = web.post("/api/heads/air-45/chart", files={"file": ("c.csv", text.encode())})
    assert back.status_code == 200 and len(back.json()["chart"]) == len(text.splitlines()) - 1
    assert web.get("/api/heads/air-45/chart.csv").text == text
    for body, words in (
        (b"material,thickness\n", "there is no column 'kerf'"),
        (b"material,thickness,kerf,feed\nsteel,two,1,1\n", "line 2, thickness"),
        (b"material,thickness,kerf,feed\nsteel,2,0.2,1000\n", "are the two swapped"),
        (b"material,thickness,kerf,feed\n", "no lines under its head"),
        (b"\xff\xfe", "UTF-8"),
    ):
        bad = web.post("/api/heads/air-45/chart", files={"file": ("c.csv", body)})
        assert bad.status_code == 422 and words in bad.text, bad.text
    assert web.get("/api/heads/air-45/chart.csv").text == text
    assert web.get("/api/heads/none/chart.csv").status_code == 404


def test_a_sheet_goes_out_once_and_again_when_it_is_otherwise(web, job):
    at = f"/api/jobs/{job.job}/releases"
    ahead = web.post(f"{at}/ahead", json={}).json()
    assert len(ahead["files"]) == 1 and ahead["cuts"] == 6
    made = web.post(at, json={"revision": job.store.head(job.job)})
    assert made.status_code == 200, made.text
    assert made.json()["left"] == 0 and web.post(f"{at}/ahead", json={}).json()["files"] == []
    body = web.get(f"{at}/1.zip").content
    names = zipfile.ZipFile(io.BytesIO(body)).namelist()
    (program,) = (n for n in names if n.endswith(".nc"))
    assert any(n.endswith("_kerf-sheet.pdf") for n in names)
    assert len(swept(zipfile.ZipFile(io.BytesIO(body)).read(program).decode()).burns) == 6
    change(web, job, lead=3.5)
    assert len(web.post(f"{at}/ahead", json={}).json()["files"]) == 1
    assert web.post(f"{at}/ahead", json={"which": "everything"}).json()["cuts"] == 6
    assert web.post(f"{at}/ahead", json={"parts": [job.plan.parts[0].id]}).json()["files"] == []


def test_yield_adds_up_to_the_sheet(web, job):
    use = web.get(f"/api/jobs/{job.job}/yield").json()
    (sheet,) = use["sheets"]
    areas = sheet["area_mm2"]
    assert sum(v for k, v in areas.items() if k != "sheet") == pytest.approx(areas["sheet"])
    kerf = web.get(f"/api/jobs/{job.job}/kerf?setup=main").json()
    # the kerf's area is its way times its width, and a round end
    way = kerf["sheets"][0]["cut_length"] * kerf["kerf"]
    assert areas["kerf"] == pytest.approx(way, rel=0.05)
    assert {c["of"] for c in use["setups"][0]["cost"]["lines"]} >= {"consumables", "machine", "material"}


def test_a_head_that_knows_not_the_material_stops_the_programs(web, job):
    base = job.store.head(job.job)
    copper = {**job.setup.material.model_dump(mode="json"), "sort": "copper"}
    command = {"kind": "set-setup", "setup": "main", "material": copper}
    assert (
        web.post(f"/api/jobs/{job.job}/commands", json={"base": base, "command": command}).status_code == 200
    )
    snags = web.get(f"/api/jobs/{job.job}").json()["setups"][0]["snags"]
    assert any(s["rule"] == "kerf.chart" and s["severity"] == "stop" for s in snags)
    made = web.post(f"/api/jobs/{job.job}/releases", json={"revision": job.store.head(job.job)})
    assert made.status_code == 422 and "copper" in made.text


def test_what_was_run_is_recorded(web, job):
    at, sheet = f"/api/jobs/{job.job}", job.setup.stock[0].id
    web.post(f"{at}/releases", json={"revision": job.store.head(job.job)})
    part = job.plan.parts[0].id
    said = {"setup": "main", "sheet": sheet, "release": 1, "seconds": 300.0, "done": 5}
    answer = web.post(f"{at}/runs", json=said)
    assert answer.status_code == 200, answer.text
    (line,) = answer.json()["runs"]
    # five of six cuts: one outline is still to be cut
    assert line["run"]["sound"] == {part: 1} and line["run"]["planned_cuts"] == 6
    assert web.get(f"{at}/releases").json()["sheets"][0]["run"] == 5
    for wrong, words in (
        ({"done": 7}, "6 cuts, not 7"),
        ({"spoilt": ["no#1"]}, "no piece"),
        ({"sheet": "x"}, "no sheet"),
    ):
        assert words in web.post(f"{at}/runs", json={**said, **wrong}).text
    whole = web.post(f"{at}/runs", json={**said, "done": None, "spoilt": [f"{part}#1"]}).json()
    run = whole["runs"][0]["run"]
    assert run["sound"] == {part: 1} and run["spoilt"] == [f"{part}#1"] and run["metres"] == {}
    assert run["area_mm2"]["sheet"] == pytest.approx(600 * 400) and run["seconds"] == 300.0
    again = web.post(f"{at}/runs", json={**said, "done": None})
    assert again.status_code == 422 and "recorded as cut already" in again.text
    assert web.post(f"{at}/releases/1/withdraw", json={"says": "no"}).status_code == 422


def test_a_program_from_a_stick_is_held_against_the_sheet(job):
    from venzo.desk import proving
    from venzo.desk.releases import release

    files, _manifest = release(job.store, job.plan, 1)
    name, body = next((n, b) for n, b in files if n.endswith(".nc"))
    text = body.decode()
    sound = proving.prove_against(job.store, job.plan, name, text)
    assert [s.severity for s in sound.snags] == ["note"] and sound.file == name
    assert sound.sums.cut_length == pytest.approx(swept(text).length, rel=1e-4)
    spoilt = proving.prove_against(job.store, job.plan, name, re.sub(r"F\d+", "F777", text, count=1))
    assert "kerf.differs" in {s.rule for s in spoilt.snags}
    with pytest.raises(BadInput, match="no such sheet"):
        proving.prove_against(job.store, job.plan, name, text, "gone")
