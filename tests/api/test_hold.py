"""Holding and order over the API and the command line: holds worked out after the answer, questions with
their numbers, moves refused with 422 and the reason.
"""

import json

import pytest
from typer.testing import CliRunner

from tests.support.web import web_over
from venzo.cli import app
from venzo.core.memo import forget

JOB = "estuary-hide-ribs-and-benches"


@pytest.fixture
def client(known_demo):
    with web_over(known_demo) as c:
        yield c


def edit(client, command, base=None, asks=False):
    base = base or client.get(f"/api/jobs/{JOB}").json()["revision"]
    return client.post(
        f"/api/jobs/{JOB}/{'asks' if asks else 'commands'}",
        json={"base": base, "command": command},
        headers={"origin": "http://testserver"},
    )


def test_an_edit_is_answered_before_its_hold_is_known_and_reading_the_job_knows_it(client):
    base = client.get(f"/api/jobs/{JOB}").json()["revision"]
    forget("hold")
    answer = edit(client, {"kind": "set-setup", "setup": "main", "zones_on": ["1", "2", "3", "4"]}, base)
    assert answer.status_code == 200, answer.text
    assert all(s["hold"] is None for s in answer.json()["setups"][0]["sheets"])
    known = client.get(f"/api/jobs/{JOB}").json()["setups"][0]["sheets"]
    assert all(s["hold"]["pieces"] and s["hold"]["pressure"] for s in known)


def test_what_holds_this(client):
    setup = client.get(f"/api/jobs/{JOB}").json()["setups"][0]
    sheet = setup["sheets"][0]
    piece, cut = next(iter(sheet["hold"]["freed"].items()))
    ask = (
        f"/api/jobs/{JOB}/hold?setup=main&sheet={sheet['sheet']}&copy_no=0&piece={piece.replace('#', '%23')}"
    )
    before, after = client.get(f"{ask}&cut={cut - 1}").json(), client.get(f"{ask}&cut={cut}").json()
    assert before["joined"] and not after["joined"] and after["area"] < before["area"]
    assert after["side"] <= sum(h["side"] for h in after["holds"]) + 0.1 and after["ratio"] == pytest.approx(
        after["side"] / after["load"], rel=0.01
    )
    assert after["timeline"][0]["cut"] == cut
    assert (
        client.get(f"{ask}&cut=9999").status_code == 422
        and "numbered from 0" in client.get(f"{ask}&cut=9999").json()["detail"]
    )
    assert client.get(ask.replace("main", "none")).status_code == 422


def test_a_move_that_a_rule_forbids_is_refused_and_changes_nothing(client):
    job = client.get("/api/jobs/hinge-and-latch-plates").json()
    cuts = job["setups"][0]["sheets"][0]["cuts"]
    late = next(c for c in cuts if c["name"].endswith("outline/1"))
    early = late["name"].removesuffix("1") + "0"
    answer = client.post(
        "/api/jobs/hinge-and-latch-plates/asks",
        json={
            "base": job["revision"],
            "command": {
                "kind": "move-cut",
                "setup": "main",
                "sheet": job["setups"][0]["sheets"][0]["sheet"],
                "cut": late["name"],
                "before": early,
            },
        },
        headers={"origin": "http://testserver"},
    )
    assert answer.status_code == 422 and "must come before" in answer.json()["detail"]
    assert client.get("/api/jobs/hinge-and-latch-plates").json()["revision"] == job["revision"]
    for before, why in ((late["name"], "before itself"), ("nobody#1/outline/0", "not cut on this sheet")):
        answer = client.post(
            "/api/jobs/hinge-and-latch-plates/asks",
            json={
                "base": job["revision"],
                "command": {
                    "kind": "move-cut",
                    "setup": "main",
                    "sheet": job["setups"][0]["sheets"][0]["sheet"],
                    "cut": late["name"],
                    "before": before,
                },
            },
        )
        assert answer.status_code == 422 and why in answer.json()["detail"]
    for bad in (
        {"screws": [{"id": "a", "x": 5, "y": 5}, {"id": "a", "x": 9, "y": 9}], "kind": "set-screws"},
        {"kind": "set-order", "trial": ["nobody#1"]},
        {"kind": "set-fixings", "fixings": [{"kind": "glue", "id": "g", "x": 1, "y": 1}]},
    ):
        assert edit(client, {"setup": "main", **bad}).status_code == 422


def test_plan_on_the_command_line_says_what_holds(known_demo, tmp_path):
    found = CliRunner().invoke(app, ["plan", JOB, "--data", str(tmp_path / "demo"), "--json"])
    said = json.loads(found.stdout)["setups"][0]
    assert found.exit_code in (0, 1) and any(s["rule"].startswith("holding.") for s in said["snags"])
    sheet = said["cuts"][0]
    names = [c["name"] for c in sheet["order"]]
    assert (
        sheet["hold"]["lowest"]["ratio"] > 0
        and set(sheet["hold"]["freed"]) <= {n.split("/")[0] for n in names}
        and len(set(names)) == len(names)
    )
