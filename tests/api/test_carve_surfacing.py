"""Carvings and the surfacing bench over the API, the command line, and their papers."""

import io
import json
import zipfile

import numpy as np
import pytest
import shapely
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader
from shapely.geometry import LineString, Point, box
from typer.testing import CliRunner

from tests.reference.test_program_sweep import explicit, segments
from venzo.api.app import make_app
from venzo.cli import app

JOB = "name-board-carved-oak"
BED = "long-bed-spoilboard"


@pytest.fixture
def client(known_demo):
    with TestClient(
        make_app(known_demo), base_url="http://testserver", headers={"origin": "http://testserver"}
    ) as c:
        yield c


def part_of(client):
    return client.get(f"/api/jobs/{JOB}").json()["parts"][0]["id"]


def test_the_carved_board_is_painted_with_its_figures(client):
    part = part_of(client)
    view = client.get(f"/api/jobs/{JOB}/carving?setup=main&part={part}").json()
    assert view["steps"][0]["kind"] == "v-carve" and view["steps"][0]["depth"] > 3 and view["shapes"] > 20
    png = client.get(f"/api/jobs/{JOB}/carved.png?setup=main&part={part}&px=500")
    image = Image.open(io.BytesIO(png.content))
    assert image.size[0] == 501 and image.mode == "RGBA" and image.getpixel((0, 0))[3] == 0, (
        "what lies outside the rounded corner is clear"
    )
    light = [
        sum(image.getpixel((x, y))[:3]) for x in range(20, 480, 3) for y in range(20, image.size[1] - 20, 3)
    ]
    assert (
        max(light) > 1.5 * sorted(light)[len(light) // 2] * 0.7
        and min(light) < 0.6 * sorted(light)[len(light) // 2]
    ), "lit and shaded walls stand out"
    assert client.get(f"/api/jobs/{JOB}/carved.png?setup=main&part=none").status_code == 404
    # a stroke measured where it is hovered: the upright of the I of HIDE, whose width is the drawing's
    at = client.get(f"/api/jobs/{JOB}/carving/at?setup=main&part={part}&x=438&y=130").json()
    assert (
        at["width"] == pytest.approx(2 * at["depth"] + 0.1, abs=0.01)
        and 6 < at["width"] < view["steps"][0]["width"]
    )
    assert client.get(f"/api/jobs/{JOB}/carving/at?setup=main&part={part}&x=2&y=2").json() is None


def test_an_inlay_pair_and_a_fold(client):
    client.post("/api/jobs", json={"name": "small", "machine": "small-bench", "material": "oak-board"})
    recipe = {"kind": "sign", "text": "Ro", "width": 120, "height": 60, "margin": 12, "corner": "square"}
    made = client.post("/api/jobs/small/made", json={"base": 1, "setup": "main", "recipe": recipe})
    assert made.status_code == 200, made.text
    part = made.json()["parts"][0]["id"]
    ask = f"setup=main&part={part}&depth=3&gap=0.3&saw=1.5&clear=4"
    view = client.get(f"/api/jobs/small/inlay?{ask}").json()
    assert (
        view["mating"]["overlap"] == 0
        and view["mating"]["floor_gap"] == pytest.approx(0.3, abs=0.02)
        and min(view["socket"]) == pytest.approx(-3, abs=0.02)
    )
    files = zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/small/inlay.zip?{ask}").content))
    # a machine changed by hand: a file a cutter, by the cutters' own numbers, speeds and heights
    assert sorted(n.split("_", 2)[2] for n in files.namelist()) == [
        "plug_01_t3.nc",
        "plug_02_t7.nc",
        "socket_01_t7.nc",
    ], "the socket's strokes have no floor for the end mill"
    texts = {n.split("_", 2)[2]: files.read(n).decode() for n in files.namelist()}
    assert (
        "S20000 M3" in texts["plug_01_t3.nc"]
        and "S18000 M3" in texts["socket_01_t7.nc"]
        and all("G0 Z20" in t for t in texts.values())
    )
    assert "F3600" in texts["plug_01_t3.nc"] and "F5400" in texts["socket_01_t7.nc"], "the library's feeds"
    plug = segments(explicit(texts["plug_02_t7.nc"]), 7)
    none = client.get(f"/api/jobs/small/inlay?{ask.replace('clear=4', 'clear=3.3')}")
    assert none.status_code == 422 and "no end mill 3.3 mm" in none.json()["detail"]
    assert min(p[:, 2].min() for _t, rapid, p in plug if not rapid) == pytest.approx(
        -(3 - 0.3 + 1.5), abs=1e-3
    )
    bad = client.get(f"/api/jobs/small/inlay?setup=main&part={part}&depth=3&gap=3")
    assert bad.status_code == 422 and "less than the depth" in bad.json()["detail"]
    assert client.get("/api/fold?thickness=3&skin=0.5&angle=90&bit_angle=90").json()["depth"] == 2.5


def test_a_spoilboard_from_readings_to_the_ledger(client):
    v = client.get(f"/api/surfacing/{BED}").json()
    assert (
        v["state"]["due"]
        and v["flatness"]["least"] > 0.5
        and v["uncut"]
        and len(v["choices"]) >= 10
        and v["worth"]
    )
    assert client.get("/api/surfacing").json()[0]["id"] == BED
    pasted = client.post(
        f"/api/surfacing/{BED}/readings",
        json={
            "text": (
                "x y z\n0 0 0\n2900 0 -0.6\n2900 1520 -0.6\n0 1520 0\n1450 760 -0.9\n0 760 0\n2900 760 -0.6"
            )
        },
    )
    f = pasted.json()["flatness"]
    assert (
        not pasted.json()["bench"]["simulated"]
        and f["tilt"][0] == pytest.approx(-0.6, abs=0.02)
        and f["droop"][0] > 0.4
    )
    assert client.post(f"/api/surfacing/{BED}/readings", json={"text": "1 2"}).status_code == 422
    beside = client.post(f"/api/surfacing/{BED}/readings", json={"text": "5000 0 1"})
    assert beside.status_code == 422 and "beside the board" in beside.json()["detail"]
    # cut, booked, and taken back by an entry of its own
    before = client.get(f"/api/surfacing/{BED}").json()
    after = client.post(f"/api/surfacing/{BED}/ledger", json={"planned": True}).json()
    took = (
        before["bench"]["how"]["depth"] * before["bench"]["how"]["passes"]
        + before["bench"]["how"]["finish_depth"]
    )
    assert after["state"]["thickness"] == pytest.approx(before["state"]["thickness"] - took) and after[
        "bench"
    ]["how"]["start"] == pytest.approx(took)
    assert not after["state"]["due"] and after["state"]["metres"] == 0, (
        "the scores were shallower than what came off"
    )
    assert after["layers"][0]["depth"] == pytest.approx(took + before["bench"]["how"]["depth"]), (
        "the same again goes on below"
    )
    number = after["ledger"][0]["number"]
    back = client.post(
        f"/api/surfacing/{BED}/ledger", json={"entry": {"kind": "reversed", "reverses": number}}
    ).json()
    assert (
        back["state"]["thickness"] == before["state"]["thickness"]
        and back["state"]["due"]
        and "ledger.start" in {s["rule"] for s in back["snags"]}
    )
    twice = client.post(
        f"/api/surfacing/{BED}/ledger", json={"entry": {"kind": "reversed", "reverses": number}}
    )
    assert twice.status_code == 422 and "taken back already" in twice.json()["detail"]
    nothing = client.post(f"/api/surfacing/{BED}/ledger", json={})
    assert nothing.status_code == 422


def test_programs_papers_and_what_stops_them(client, known_demo):
    text = client.get(f"/api/surfacing/{BED}/program").text
    cuts = [p for _t, rapid, p in segments(explicit(text), 1) if not rapid and p[-1, 2] < 0]
    assert min(p[:, 2].min() for p in cuts) == pytest.approx(-1.1) and "pencil lines" in text
    pdf = PdfReader(io.BytesIO(client.get(f"/api/surfacing/{BED}/sheet.pdf").content)).pages[0].extract_text()
    assert "Touch off Z" in pdf and "pencil" in pdf and "Mask" in pdf and "pass 3 of 3, fine" in pdf
    assert "G1 Z-0.3" in client.get(f"/api/surfacing/{BED}/grid?depth=0.3").text
    two = client.get("/api/surfacing/oak-plank-a/program?others=oak-plank-b").text
    assert "Oak plank A: pass 1" in two and "Oak plank B: pass 2" in two
    bench = client.get(f"/api/surfacing/{BED}").json()["bench"]
    bench["how"].update(depth=4.0, passes=2)
    deep = client.put(f"/api/surfacing/{BED}", json=bench).json()
    assert any(s["rule"] == "ledger.screws" and s["severity"] == "stop" for s in deep["snags"])
    refused = client.get(f"/api/surfacing/{BED}/program")
    assert refused.status_code == 422 and "screw head" in refused.json()["detail"]
    assert client.get(f"/api/surfacing/{BED}/sheet.pdf").status_code == 200
    # a board longer than its table comes in shifts, a program each
    long = {
        "id": "long-plank",
        "board": {
            "id": "long-plank",
            "name": "Long plank",
            "kind": "board",
            "machine": "small-bench",
            "width": 2400,
            "height": 200,
            "thickness": 40,
        },
    }
    v = client.put("/api/surfacing/long-plank", json=long).json()
    assert len(v["shifts"]) == 2
    for ways in ("both ways", "climb"):
        long["how"] = {"ways": ways, "passes": 2, "cutter": 40.0}
        v = client.put("/api/surfacing/long-plank", json=long).json()
        archive = zipfile.ZipFile(io.BytesIO(client.get("/api/surfacing/long-plank/program").content))
        assert [f.split("_")[-1] for f in archive.namelist()] == ["shift-1.nc", "shift-2.nc"]
        board, cleared = box(0, 0, 2400, 200), []
        for name, shift in zip(archive.namelist(), v["shifts"], strict=True):
            moves = segments(explicit(archive.read(name).decode()), 1)
            for k, (_t, rapid, p) in enumerate(moves):
                x, y = p[-1, 0] + shift["mark"], p[-1, 1]
                if (
                    not rapid
                    and p[-1, 2] < p[0, 2] - 1e-6
                    and np.hypot(*(p[-1] - p[0])[:2]) < 1e-6
                    and board.distance(Point(x, y)) < 20
                ):
                    level = next(
                        q[-1, 2]
                        for _n, fast, q in moves[k + 1 :]
                        if not fast and abs(q[-1, 2] - q[0, 2]) < 1e-9
                    )
                    assert p[-1, 2] >= level + 0.8 - 1e-6, (
                        "straight down on the board only to what the pass before has cleared"
                    )
                if (
                    not rapid
                    and abs(p[-1, 2] + 1.6) < 1e-6
                    and abs(p[0, 2] + 1.6) < 1e-6
                    and np.ptp(p[:, :2], axis=0).max() > 1e-6
                ):
                    cleared.append(LineString(p[:, :2] + (shift["mark"], 0)).buffer(20, quad_segs=32))
        assert shapely.union_all(cleared).buffer(0.02).covers(board), "both shifts together surface all of it"
    near = client.get("/api/surfacing/oak-plank-b").json()["bench"]
    client.put(
        "/api/surfacing/oak-plank-b", json={**near, "square": 17}
    )  # just behind plank A, 210 mm wide on squares of 200
    assert (
        "needs 54 mm" in client.get("/api/surfacing/oak-plank-a/program?others=oak-plank-b").json()["detail"]
    )
    high = client.post(
        "/api/surfacing/oak-plank-a/readings", json={"text": "0 0 0\n450 100 2.6\n900 210 0"}
    ).json()
    assert [x["severity"] for x in high["snags"] if x["rule"] == "surface.high"] == ["stop"]
    assert client.get("/api/surfacing/oak-plank-a/program").status_code == 422
    assert client.put("/api/surfacing/other", json=long).status_code == 422
    long["board"]["width"] = -4
    assert client.put("/api/surfacing/long-plank", json=long).status_code == 422
    assert client.get("/api/surfacing/long-plank").json()["bench"]["board"]["width"] == 2400, (
        "nothing is lost"
    )
    assert (
        client.post("/api/tram", json={"height": 0.05, "spacing": 20, "high": "left", "along": "y"}).json()[
            "per_100"
        ]
        == 0.25
    )
    assert (
        client.post(
            "/api/tram", json={"height": 0.05, "spacing": 20, "high": "left", "along": "x"}
        ).status_code
        == 422
    )


def run(*args):
    r = (
        CliRunner(mix_stderr=False)
        if "mix_stderr" in CliRunner.__init__.__code__.co_varnames
        else CliRunner()
    )
    return r.invoke(app, [str(a) for a in args])


def test_the_two_commands(tmp_path):
    drawing = tmp_path / "ring.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60"><path'
        ' fill-rule="evenodd" d="M5 5h50v50h-50z M20 20h20v20h-20z"/></svg>'
    )
    out = tmp_path / "a.nc"
    r = run("vcarve", drawing, "--angle", 60, "--bit-diameter", 20, "-o", out, "--json")
    d = json.loads(r.stdout)
    assert r.exit_code == 0 and set(d) == {"cut_length_mm", "time_s", "max_depth_mm", "snags"}
    cuts = [p for _t, rapid, p in segments(explicit(out.read_text()), 1) if not rapid]
    assert min(p[:, 2].min() for p in cuts) == pytest.approx(-d["max_depth_mm"], abs=1e-3)
    r = run(
        "vcarve",
        drawing,
        "--angle",
        60,
        "--bit-diameter",
        20,
        "--floor-depth",
        3,
        "--clear-diameter",
        4,
        "--inch",
        "-o",
        out,
        "--json",
    )
    text = out.read_text()
    assert r.exit_code == 0 and text.index("T1 M6") < text.index("T2 M6") and "G20" in text
    r = run("vcarve", drawing, "--angle", 60, "--bit-diameter", 20, "--thickness", 5, "-o", out, "--json")
    assert r.exit_code == 1 and json.loads(r.stdout)["snags"], "deeper than the stock"
    for bad in (
        ["--angle", 0],
        ["--angle", 60, "--below", -1],
        ["--angle", 60, "--clear-diameter", 3],
        ["--angle", 60, "--max-depth", 0],
    ):
        r = run("vcarve", drawing, "--bit-diameter", 20, "-o", out, *bad)
        assert r.exit_code != 0 and "Traceback" not in (r.stdout + str(r.stderr if r.stderr_bytes else "")), (
            bad
        )
    r = run(
        "surface",
        "--width",
        300,
        "--height",
        200,
        "--cutter",
        50,
        "--stepover",
        40,
        "--depth",
        0.5,
        "--passes",
        2,
        "--feed",
        6000,
        "--rpm",
        12000,
        "--pattern",
        "spiral",
        "-o",
        out,
        "--json",
    )
    d = json.loads(r.stdout)
    assert (
        r.exit_code == 0
        and set(d) == {"cut_length_mm", "time_s", "max_depth_mm", "snags"}
        and d["max_depth_mm"] == 1.0
    )
    assert (
        run(
            "surface",
            "--width",
            300,
            "--height",
            200,
            "--cutter",
            50,
            "--stepover",
            400,
            "--depth",
            0.5,
            "--feed",
            6000,
            "--rpm",
            12000,
            "-o",
            out,
        ).exit_code
        != 0
    )


def test_an_inlay_from_the_command_line(tmp_path):
    drawing = tmp_path / "disc.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 40 40"><circle'
        ' cx="20" cy="20" r="8"/></svg>'
    )
    r = run(
        "inlay",
        drawing,
        "--angle",
        60,
        "--bit-diameter",
        20,
        "--clear-diameter",
        3,
        "--depth",
        3,
        "--gap",
        0.3,
        "-o",
        tmp_path / "out",
        "--json",
    )
    d = json.loads(r.stdout)
    assert (
        r.exit_code == 0
        and d["mating"]["overlap"] == 0
        and d["mating"]["floor_gap"] == pytest.approx(0.3, abs=0.02)
    )
    plug = [
        p
        for _t, rapid, p in segments(explicit((tmp_path / "out" / "disc_plug.nc").read_text()), 1)
        if not rapid
    ]
    low = min(p[:, :2].min() for p in plug)
    assert low > 0 and max(p[:, 0].max() for p in plug) < d["plug_board_mm"][0], (
        "the plug's moves lie on its board"
    )
    assert (
        run(
            "inlay",
            drawing,
            "--angle",
            60,
            "--bit-diameter",
            20,
            "--depth",
            3,
            "--gap",
            4,
            "-o",
            tmp_path / "out",
        ).exit_code
        != 0
    )
