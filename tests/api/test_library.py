"""The shop library: one cutter is one entry, CSV out and in changes nothing, bad lines are named, plans are
offered what is newer.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.api.test_api import drop, start
from tests.conftest import panel
from tests.support.web import web_over
from venzo.core.snags import BadInput
from venzo.core.tooling.cutter import FLAT, Cutter, Feeds, same_cutter
from venzo.formats.cutters_csv import offers, read_cutters, write_cutters


@pytest.fixture
def api(store):
    with web_over(store) as c:
        yield c


@st.composite
def owned(draw):
    n = draw(st.integers(1, 8))
    out = []
    for k in range(n):
        kind = draw(st.sampled_from([*FLAT, "ball", "v-bit", "drill", "bowl"]))
        d = round(draw(st.floats(1, 40)), 3)
        feeds = {
            f: Feeds(
                rpm=draw(st.integers(1000, 24_000)),
                feed=draw(st.integers(10, 20_000)),
                plunge=draw(st.integers(10, 5000)),
                source=draw(st.sampled_from(["maker's data", "=1+1", "shop's log"])),
            )
            for f in draw(st.sets(st.sampled_from(["wood", "plastic", "aluminium"]), max_size=2))
        }
        c = Cutter(
            id=f"c{k}",
            number=k + 1,
            name=draw(st.sampled_from(["a, b", '6 "fine"', "plain", "-minus"])),
            kind=kind,
            diameter=d,
            flutes=draw(st.integers(1, 4)),
            cutting_length=round(d * 2, 3),
            corner_radius=round(d / 4, 3) if kind == "bowl" else 0.0,
            feeds=feeds,
            metres=draw(st.sampled_from([0.0, 12.5])),
            life=draw(st.sampled_from([None, 800.0])),
        )
        if not any(same_cutter(c, o) for o in out):
            out.append(c)
    return out


@given(owned())
def test_csv_out_and_in_again_changes_nothing(cutters):
    again = read_cutters(write_cutters(cutters).encode(), "own.csv")
    assert [c for _n, c in again] == cutters
    assert all(o.action == "same" for o in offers(again, cutters))


@given(owned())
def test_importing_the_same_cutters_under_other_names_proposes_merges_never_doubles(cutters):
    renamed = [
        (k + 2, c.model_copy(update={"id": "new", "name": f"bought {k}", "number": 999}))
        for k, c in enumerate(cutters)
    ]
    assert all(o.action == "same" and o.into for o in offers(renamed, cutters))
    fresh = offers([*renamed, *renamed], [])
    assert [o.action for o in fresh] == ["new"] * len(cutters) + ["same"] * len(cutters)
    assert len({o.cutter.number for o in fresh[: len(cutters)]}) == len(cutters) and len(
        {o.cutter.id for o in fresh[: len(cutters)]}
    ) == len(cutters)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("name,size\nx,6", "kind"),
        ("kind,diameter\nspoon,6", "spoon"),
        ("kind,diameter\nup-cut,six", "line 2, diameter"),
        ("kind,diameter\nup-cut,-6", "line 2"),
        ("kind,diameter,wood rpm\nup-cut,6,18000", "wood feed"),
        ("kind,diameter,flutes\nup-cut,6,two", "flutes"),
        ("kind,diameter\nbowl,20", "corner radius"),
        ("kind;diameter\nup-cut;", "diameter"),
    ],
)
def test_bad_lines_are_named(text, words):
    with pytest.raises(BadInput) as e:
        read_cutters(text.encode(), "bought.csv")
    assert words in str(e.value) and "bought.csv" in str(e.value)


def test_cutters_are_read_as_people_write_them():
    ((_n, c),) = read_cutters(
        b"\xef\xbb\xbfTool;Type;Dia;Flute length;Teeth\nT12;Up cut;1/4 in;3/4 in;3\n", "x.csv"
    )
    assert (c.number, c.kind, c.diameter, c.cutting_length, c.flutes) == (12, "up-cut", 6.35, 19.05, 3)


def test_import_shows_first_and_takes_what_is_wanted(api):
    before = api.get("/api/library").json()["cutter"]
    csv = (
        b"name,kind,diameter,cutting length,flutes,wood rpm,wood feed\nbought"
        b" six,up-cut,6,28,2,17000,6000\nslim,up-cut,2,8,2,20000,1500\nfat,straight,16,40,2,15000,9000\n"
    )
    seen = api.post("/api/library/cutters", files=[("file", ("new.csv", csv))]).json()
    assert (
        [o["action"] for o in seen] == ["merge", "new", "new"]
        and seen[0]["into"] == "up-6"
        and "17000" in seen[0]["says"]
    )
    assert api.get("/api/library").json()["cutter"] == before, "nothing is done before it is wanted"
    api.post("/api/library/cutters", files=[("file", ("new.csv", csv))], data={"take": "true", "leave": "4"})
    after = {c["name"]: c for c in api.get("/api/library").json()["cutter"]}
    assert len(after) == len(before) + 1 and "slim" in after and "fat" not in after
    assert after["6 mm up-cut"]["feeds"]["wood"]["rpm"] == 17000 and after["6 mm up-cut"]["metres"] == 412, (
        "one entry; wear is kept"
    )
    listed = api.get("/api/library/cutters.csv")
    assert listed.headers["content-type"].startswith("text/csv") and "slim" in listed.text


def test_doubles_taken_numbers_and_nonsense_are_refused_and_nothing_changes(api):
    own = api.get("/api/library").json()
    six = next(c for c in own["cutter"] if c["id"] == "up-6")
    for change, words in (
        ({"id": "other", "number": 77, "name": "again"}, "one cutter is one entry"),
        ({"id": "other", "number": 1, "diameter": 9}, "T1 is"),
        ({"diameter": -3}, "diameter"),
        ({"kind": "bowl", "diameter": 9}, "corner radius"),
        ({"tip": 99.0}, "tip"),
    ):
        answer = api.put("/api/library/cutter", json={**six, **change})
        assert answer.status_code == 422 and words in answer.json()["detail"], change
    assert api.put("/api/library/machine", json={**own["machine"][0], "rpm_min": 30_000}).status_code == 422
    assert (
        api.put(
            "/api/library/machine", json={**own["machine"][0], "power": [[6000, 1], [5000, 2]]}
        ).status_code
        == 422
    )
    assert (
        api.put("/api/library/spoon", json={"id": "x"}).status_code == 404
        and api.delete("/api/library/cutter/nothing").status_code == 404
    )
    assert api.delete("/api/library/cutter/up-6").status_code == 422, "recipes cut with it"
    assert api.get("/api/library").json() == own


def test_wear_is_kept_and_set_back(api):
    assert api.post("/api/library/cutter/up-6/wear", json={"metres": 30.5}).json()["metres"] == 442.5
    assert api.post("/api/library/cutter/up-6/wear", json={"metres": -1}).status_code == 422
    assert (
        api.post("/api/library/cutter/up-6/wear", json={"metres": 0, "sharpened": True}).json()["metres"] == 0
    )


def test_a_plan_keeps_its_copies_and_is_offered_what_is_newer(api):
    job = start(api)["id"]
    view = drop(api, job, ("panel x2.dxf", panel())).json()["job"]
    assert view["setups"][0]["news"] == []
    comp = next(c for c in api.get("/api/library").json()["cutter"] if c["id"] == "comp-8")
    api.put("/api/library/cutter", json={**comp, "feeds": {"wood": {**comp["feeds"]["wood"], "feed": 8000}}})
    api.post("/api/library/cutter/comp-8/wear", json={"metres": 5})
    view = api.get(f"/api/jobs/{job}").json()
    (news,) = view["setups"][0]["news"]
    assert news["kind"] == "cutter" and news["changes"] == ["feeds"], "wear is no news"
    assert (
        next(c for c in view["setups"][0]["cutters"] if c["id"] == "comp-8")["feeds"]["wood"]["feed"] == 9000
    )
    after = api.post(
        f"/api/jobs/{job}/commands", json={"base": view["revision"], "command": news["command"]}
    ).json()
    assert (
        after["setups"][0]["news"] == []
        and next(c for c in after["setups"][0]["cutters"] if c["id"] == "comp-8")["feeds"]["wood"]["feed"]
        == 8000
    )
    house = api.get("/api/library").json()["rules"][0]
    api.put("/api/library/rules", json={**house, "step_over": 0.45})
    assert [n["kind"] for n in api.get(f"/api/jobs/{job}").json()["setups"][0]["news"]] == ["house rules"]


def test_feeds_are_judged_for_library_and_plan(api):
    a = api.post(
        "/api/feeds",
        json={"cutter": "up-6", "material": "birch-ply", "machine": "long-bed", "rpm": 24_000, "feed": 3000},
    ).json()
    assert (
        [s["rule"] for s in a["snags"]] == ["feeds.rub"]
        and a["available"] == 6000
        and a["run_up"] == pytest.approx(50**2 / 1500, abs=0.01)
    )
    job = start(api)["id"]
    mine = api.post("/api/feeds", json={"cutter": "comp-8", "job": job, "setup": "main"}).json()
    assert mine["rpm"] == 18_000 and mine["feed"] == 9000 and mine["source"] == "common practice"
    assert api.post("/api/feeds", json={"cutter": "nobody", "material": "birch-ply"}).status_code == 404
    assert api.post("/api/feeds", json={"cutter": "up-6", "rpm": -4}).status_code == 422
