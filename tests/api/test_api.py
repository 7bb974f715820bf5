"""The API as a screen and as a stranger would use it."""

import io
import json
import sys
import zipfile
from pathlib import Path

import pypdf
import pytest

from benchmarks.check_layout import check
from tests.conftest import dxf, panel
from tests.support.command import venzo
from tests.support.waiting import until
from tests.support.web import web_over

VENZO = Path(sys.executable).parent / "venzo"


@pytest.fixture
def api(store):
    with web_over(store) as c:
        yield c


def start(api, name="A job"):
    return api.post("/api/jobs", json={"name": name, "machine": "long-bed", "material": "birch-ply"}).json()


def drop(api, job, *files, **fields):
    return api.post(
        f"/api/jobs/{job}/drawings", data={"setup": "main", **fields}, files=[("files", f) for f in files]
    )


def test_from_drawings_to_programs(api):
    job, drawing = start(api)["id"], panel()
    answer = drop(
        api,
        job,
        ("panel x3.dxf", drawing),
        ("bad.dxf", b"%PDF-1.4"),
        ("words.dxf", dxf(lambda m: m.add_text("hello"))),
    ).json()
    assert [r["ok"] for r in answer["results"]] == [True, False, False]
    view = answer["job"]
    assert [(p["name"], p["quantity"]) for p in view["parts"]] == [("panel", 3)], (
        "good files are in, bad ones are named"
    )
    assert all(r["file"] in r["says"] for r in answer["results"][1:])
    assert api.get(f"/api/jobs/{job}/drawings/{view['drawings'][0]['id']}").content == drawing, (
        "the file as it came is kept"
    )

    measured = {
        "kind": "change-stock",
        "setup": "main",
        "stock": "ply-2440",
        "fields": {"readings": [17.6, 17.7, 17.5]},
    }
    assert (
        api.post(
            f"/api/jobs/{job}/commands", json={"base": view["revision"], "command": measured}
        ).status_code
        == 200
    )
    assert api.post(f"/api/jobs/{job}/nest", json={"setup": "main", "seconds": 1}).status_code == 202
    state = until(
        lambda: (
            (s := api.get(f"/api/jobs/{job}/nest", params={"setup": "main"}).json())["state"]
            not in ("waiting", "running")
            and s
        ),
        120,
    )
    assert state["state"] == "accepted", state
    view = api.get(f"/api/jobs/{job}").json()
    setup = view["setups"][0]
    assert len(setup["pieces"]) == 3 and setup["layout"]["state"] == "fits" and setup["yields"]["pieces"] == 3
    assert api.get(f"/api/jobs/{job}/proof").json()["main"][0]["snags"][0]["rule"] == "proof.clear"
    files = zipfile.ZipFile(io.BytesIO(api.get(f"/api/jobs/{job}/release.zip").content))
    names = files.namelist()
    assert (
        len([n for n in names if n.endswith(".nc")]) == 1
        and json.loads(files.read("release.json"))["setups"][0]["stops"] == []
    )
    text = "".join(
        p.extract_text()
        for p in pypdf.PdfReader(io.BytesIO(files.read(next(n for n in names if n.endswith(".pdf"))))).pages
    )
    assert (
        "lower left corner of the sheet" in text
        and "17.6 mm" in text
        and "8 mm compression" in text
        and "released" in text
    )
    assert api.post(f"/api/jobs/{job}/undo").json()["setups"][0]["pieces"] == []
    assert len(api.post(f"/api/jobs/{job}/redo").json()["setups"][0]["pieces"]) == 3


def test_a_drawing_in_the_wrong_unit_is_read_again_and_keeps_what_was_set(api):
    job = start(api)["id"]
    part = drop(api, job, ("panel x3.dxf", panel(30, 20, ((6, 6, 2),)))).json()["job"]["parts"][0]
    again = api.post(
        f"/api/jobs/{job}/commands",
        json={"base": 2, "command": {"kind": "set-part", "part": part["id"], "grain": 0}},
    ).json()
    after = api.post(
        f"/api/jobs/{job}/asks",
        json={
            "base": again["revision"],
            "command": {"kind": "read-again", "drawing": part["drawing"], "units": "in"},
        },
    ).json()["parts"]
    assert [(p["id"], p["quantity"], p["grain"], p["missing"]) for p in after] == [(part["id"], 3, 0, False)]
    assert after[0]["box"][2] == pytest.approx(762) and [c["name"] for c in after[0]["contours"]] == [
        "outline",
        "hole 1",
    ]
    assert (
        api.post(
            f"/api/jobs/{job}/asks",
            json={"base": 1, "command": {"kind": "read-again", "drawing": part["drawing"], "units": "ell"}},
        ).status_code
        == 422
    )


def test_a_piece_finds_its_own_place_on_a_sheet(api):
    job = start(api)["id"]
    view = drop(api, job, ("panel x3.dxf", panel(1000, 900))).json()["job"]
    part = view["parts"][0]["id"]
    for copy in range(3):
        ask = {"kind": "find-place", "setup": "main", "part": part, "copy_no": copy, "sheet": "ply-2440"}
        answer = api.post(f"/api/jobs/{job}/asks", json={"base": view["revision"], "command": ask})
        view = answer.json() if answer.status_code == 200 else view
    assert answer.status_code == 422 and "no free place" in answer.json()["detail"]
    setup = view["setups"][0]
    assert (
        len(setup["pieces"]) == 2
        and setup["layout"]["at_fault"] == []
        and len({p["x"] for p in setup["pieces"]}) == 2
    )


def test_a_nest_that_was_overtaken_is_not_applied(api):
    job = start(api)["id"]
    drop(api, job, ("panel.dxf", panel()))
    part = api.get(f"/api/jobs/{job}").json()["parts"][0]["id"]
    api.post(f"/api/jobs/{job}/nest", json={"setup": "main", "seconds": 2})
    base = api.get(f"/api/jobs/{job}").json()["revision"]
    edit = {
        "base": base,
        "command": {"kind": "set-quantity", "part": part, "order": "order-1", "quantity": 4},
    }
    assert api.post(f"/api/jobs/{job}/commands", json=edit).status_code == 200
    api.post(f"/api/jobs/{job}/nest/stop", params={"setup": "main"})
    state = until(
        lambda: (
            (s := api.get(f"/api/jobs/{job}/nest", params={"setup": "main"}).json())["state"]
            not in ("waiting", "running")
            and s
        )
    )
    assert (
        state["state"] in ("outdated", "failed")
        and api.get(f"/api/jobs/{job}").json()["setups"][0]["pieces"] == []
    )


def test_errors_are_one_clear_line(api):
    job = start(api)["id"]
    for answer, status in (
        (api.get("/api/jobs/nobody"), 404),
        (api.post("/api/jobs", json={"name": " "}), 422),
        (api.get("/api/length", params={"text": "2 bananas"}), 422),
        (api.post(f"/api/jobs/{job}/nest", json={"setup": "main", "seconds": 1}), 422),
        (api.post(f"/api/jobs/{job}/commands", json={"base": 1, "command": {"kind": "x"}}), 422),
        (api.post(f"/api/jobs/{job}/undo"), 422),
    ):
        assert (
            answer.status_code == status
            and isinstance(answer.json()["detail"], str)
            and "Traceback" not in answer.text
        )
    api.post(f"/api/jobs/{job}/commands", json={"base": 1, "command": {"kind": "rename-job", "name": "B"}})
    conflict = api.post(
        f"/api/jobs/{job}/commands", json={"base": 1, "command": {"kind": "rename-job", "name": "C"}}
    )
    assert (
        conflict.status_code == 409
        and conflict.json()["theirs"] == ["job renamed to B"]
        and conflict.json()["mine"] == "job renamed to C"
    )


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"host": "evil.example"}, 403),
        ({"origin": "http://evil.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://testserver"}, 200),
    ],
)
def test_only_our_own_pages_may_talk_to_it(api, headers, status):
    assert api.get("/api/jobs", headers=headers).status_code == status


def test_length_endpoint(api):
    assert api.get("/api/length", params={"text": "23/32", "unit": "in"}).json() == {
        "mm": 18.25625,
        "shown": "18.26 mm",
        "inch": "0.7188 in",
        "fraction": "23/32 in",
        "said": "",
    }


def test_a_layers_meaning_becomes_a_house_rule_for_new_jobs(api):
    assert api.post("/api/library/layer-rules", json={"words": ["rille"], "role": "groove"}).json()["layers"][
        0
    ] == {"words": ["rille"], "role": "groove"}
    again = api.post(
        "/api/library/layer-rules", json={"words": ["rille", "pocket"], "role": "engrave"}
    ).json()["layers"]
    assert [r["role"] for r in again if "rille" in r["words"] or "pocket" in r["words"]] == ["engrave"], (
        "a word means one thing"
    )
    job = start(api)["id"]
    data = dxf(
        lambda m: (
            m.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True),
            m.add_line((20, 50), (180, 50), dxfattribs={"layer": "Rille A"}),
        )
    )
    part = drop(api, job, ("board.dxf", data)).json()["job"]["parts"][0]
    assert [f["kind"] for f in part["features"]] == ["engraving"]
    assert api.post("/api/library/layer-rules", json={"words": ["x"], "role": "dance"}).status_code == 422


def test_parts_are_read_judged_scaled_altered_and_made_over_the_api(api):
    from venzo.formats.fonts import BUNDLED, FOLDER

    job = start(api)["id"]

    def slotted(m):
        m.add_lwpolyline([(0, 0), (200, 0), (200, 100), (0, 100)], close=True)
        m.add_lwpolyline([(40, 40), (100, 40), (100, 58), (40, 58)], close=True)

    made = drop(api, job, ("side.dxf", dxf(slotted))).json()["job"]
    part, at = made["parts"][0], f"/api/jobs/{job}"
    reading = api.get(f"{at}/drawings/{part['drawing']}/reading").json()
    assert [v["role"] for v in reading["layers"]] == ["cut"] and reading["how"]["join"] == 0.05
    judged = api.get(f"{at}/parts/{part['id']}/judgement").json()
    assert (
        judged["sharp_inside"] == 4
        and judged["slot"]["width"] == pytest.approx(18, abs=0.05)
        and len(judged["corners"]) == 8
    )
    corner = next(c for c in judged["corners"] if c["inside"])
    relieve = {
        "kind": "alter-part",
        "part": part["id"],
        "add": {
            "kind": "relief",
            "style": "T-bone, long side",
            "radius": 4.05,
            "at": [[corner["x"], corner["y"]]],
        },
    }
    altered = api.post(f"{at}/asks", json={"base": made["revision"], "command": relieve}).json()
    assert altered["parts"][0]["altered"] == 1 and "T-bone" in altered["says"]
    stale = {**relieve, "add": {"kind": "rounding", "radius": 5}}
    assert api.post(f"{at}/asks", json={"base": made["revision"], "command": stale}).status_code == 409, (
        "made on what has changed meanwhile"
    )
    after = api.get(f"{at}/parts/{part['id']}/judgement").json()
    assert after["sharp_inside"] == 3 and after["alterations"][0]["removed_mm2"] == pytest.approx(
        3.14159 / 2 * 4.05**2, rel=1e-3
    )
    for add, words in (
        ({"kind": "relief", "radius": 80}, "too short"),
        ({"kind": "fillets", "radius": 3, "to": 4}, "no longer has"),
        ({"kind": "relief", "radius": -1}, "greater than 0"),
        ({"kind": "bend"}, "bend"),
    ):
        bad = api.post(f"{at}/asks", json={"base": altered["revision"], "command": {**relieve, "add": add}})
        assert bad.status_code == 422 and words in bad.json()["detail"], bad.json()
    scaled = api.post(f"{at}/drawings/{part['drawing']}/scale", json={"width": 400}).json()["parts"][0]
    assert scaled["box"][2] == pytest.approx(400) and scaled["id"] == part["id"]
    assert (
        api.post(f"{at}/drawings/{part['drawing']}/scale", json={"width": 1, "height": 2}).status_code == 422
    )
    kinds = api.get("/api/made").json()
    assert {r["kind"] for r in kinds["recipes"]} == {
        "panel",
        "ring",
        "strip",
        "inset",
        "box",
        "mortise",
        "lettering",
        "sign",
    }
    font = (FOLDER / BUNDLED["serif"]).read_bytes()
    name = api.post("/api/fonts", files={"file": ("Own Face.ttf", font)}).json()["name"]
    assert (
        name in api.get("/api/made").json()["fonts"]
        and api.post("/api/fonts", files={"file": ("x.ttf", b"not a font")}).status_code == 422
    )
    letters = api.post(
        "/api/made/draw", json={"kind": "lettering", "text": "AA B", "font": name, "cap_height": 30}
    ).json()
    assert sorted(p["quantity"] for p in letters["parts"]) == [1, 2]
    assert (
        api.post("/api/made/draw", json={"kind": "panel", "size": 900}).status_code == 422
        and api.post("/api/made/draw", json={"kind": "cube"}).status_code == 422
    )
    inset = api.post(
        f"{at}/made",
        json={"setup": "main", "recipe": {"kind": "inset", "source": scaled["shape"], "distance": -20}},
    ).json()
    assert [p["name"] for p in inset["parts"]] == ["side", "inset"] and inset["parts"][1]["box"][
        2
    ] == pytest.approx(360)
    assert api.get(f"{at}/drawings/{inset['parts'][1]['drawing']}/reading").json()["made"]["distance"] == -20


def run(*args, code=0):
    done = venzo(*args)
    assert done.returncode == code, done.stderr + done.stdout
    assert "Traceback" not in done.stderr
    return done


def test_command_line_contract(tmp_path, demo):
    drawing = tmp_path / "p.dxf"
    drawing.write_bytes(panel())
    document = json.loads(run("intake", drawing, "--json").stdout)
    assert set(document) >= {"units", "scale_mm", "parts", "open_contours", "snags"} and document["parts"][0][
        "bbox_mm"
    ] == [0, 0, 300, 200]
    (tmp_path / "w.dxf").write_bytes(dxf(lambda m: m.add_text("x")))
    assert (
        json.loads(run("intake", tmp_path / "w.dxf", "--json", code=1).stdout)["snags"][-1]["severity"]
        == "stop"
    )
    problem = {
        "sheets": [{"id": "s", "width": 400, "height": 300, "quantity": 1}],
        "parts": [{"id": "a", "outline": [[0, 0], [90, 0], [90, 70]], "quantity": 6, "rotations": [0, 180]}],
        "spacing": 4,
    }
    (tmp_path / "n.json").write_text(json.dumps({**problem, "steps": 3}))
    result = json.loads(run("nest", tmp_path / "n.json", "--seconds", 30, "--seed", 4, "--json").stdout)
    assert (
        check(problem, result)[0] == []
        and 1 <= result["steps"] <= 3
        and set(result)
        >= {"placements", "unplaced", "sheets", "bound", "seconds", "seed", "steps", "layouts"}
    )
    demo.close()
    estuary = json.loads(run("plan", "estuary-hide-ribs-and-benches", "--data", demo.folder, "--json").stdout)
    assert estuary["setups"][0]["layout"] == "fits"
    out = tmp_path / "out"
    assert json.loads(
        run("release", "viewing-slot-glazing", "-o", out, "--data", demo.folder, "--json").stdout
    )["files"]
    assert len(list(out.glob("*.nc"))) == 2, "no changer: a file a cutter"


@pytest.mark.parametrize(
    "args",
    [
        ("intake", "nowhere.dxf"),
        ("intake",),
        ("nest", "nowhere.json"),
        ("plan", "x", "--data", "/nowhere"),
        ("serve", "--host", "0.0.0.0"),
        ("fly",),
    ],
)
def test_bad_calls_exit_2_with_one_line(args):
    done = run(*args, code=2)
    assert len(done.stderr.strip().splitlines()) == 1 and done.stdout == ""
