"""Reckonings over HTTP and on the command line."""

import json

import pytest

from tests.api.test_api import run
from tests.support.web import web_over
from venzo.core.reckonings import RECKONINGS
from venzo.core.reckonings.quantities import core_unit
from venzo.store.store import Store


@pytest.fixture(scope="module")
def client(tmp_path_factory):
    store = Store(tmp_path_factory.mktemp("reckon"))
    with web_over(store) as c:
        yield c
    store.close()


def values(answer):
    return {v["name"]: v for v in answer.json()["values"]}


def test_each_is_listed_and_opens_with_its_drawing(client):
    listed = client.get("/api/reckonings").json()
    assert [r["name"] for r in listed] == [r.name for r in RECKONINGS]
    for r in listed:
        for unit in ("mm", "in"):
            opened = client.get(f"/api/reckonings/{r['name']}", params={"unit": unit}).json()
            assert opened["missing"] == [] and opened["marks"] and len(opened["values"]) == len(r["fields"])


def test_what_is_typed_last_stands_and_is_read_in_its_own_unit(client):
    asked = {"given": ["chip_load@in=0.01", "feed=400 in/min"], "unit": "mm"}
    v = values(client.get("/api/reckonings/chip-load", params=asked))
    assert v["chip_load"]["shown"] == "0.254 mm" and v["chip_load"]["given"]
    assert v["feed"]["shown"] == "10.16 m/min" and v["feed"]["other"] == "400 in/min"
    assert v["flutes"]["given"] and not v["rpm"]["given"] and v["rpm"]["shown"] == "20,000 rpm"


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ("feed=", "feed: the field is empty"),
        ("feed=fast", "feed: 'fast' is not a number"),
        ("feed=20 furlongs", "'furlongs' in '20 furlongs' is no unit of this (m/min, in/min, mm/min"),
        ("feeed=20", "chip-load has no field 'feeed'"),
        ("rpm=-5", "spindle speed: -5 rpm is outside 1 rpm to 100,000 rpm"),
    ],
)
def test_what_cannot_be_read_is_said_by_its_field(client, given, says):
    answer = client.get("/api/reckonings/chip-load", params={"given": [given]})
    assert answer.status_code == 422 and says in answer.json()["detail"]


def test_no_such_reckoning_names_those_there_are(client):
    answer = client.get("/api/reckonings/taxes")
    assert answer.status_code == 422 and "chip-load, edge-speed" in answer.json()["detail"]


def test_the_command_line_keeps_its_contract():
    listed = json.loads(run("reckon", "--json").stdout)
    assert {f["unit"] for r in listed for f in r["fields"]} <= {
        core_unit(f.kind) for r in RECKONINGS for f in r.fields
    }
    given = ("--feed", "15240", "--rpm", "16000", "--flutes", "2")
    document = json.loads(run("reckon", "chip-load", *given, "--json").stdout)
    assert set(document) == {"name", "given", "result", "formula", "source"}
    assert document["given"] == {"feed": 15240.0, "rpm": 16000.0, "flutes": 2.0}
    assert document["result"] == {"chip_load": 0.47625}
    lines = run("reckon", "v-groove", "--width", "1/4 in", "--angle=60", "--inch").stdout.splitlines()
    assert lines[0] == "V groove" and "depth: 0.2165 in" in lines
    assert "--width x" in run("reckon", "v-groove", "--width", "x", "--angle", "60", code=2).stderr
    assert "stands alone" in run("reckon", "v-groove", "--width", code=2).stderr
    assert "give one more field" in run("reckon", "v-groove", "--width", "6", code=2).stderr
