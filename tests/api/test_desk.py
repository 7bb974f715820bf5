"""The desk: jobs found, put away and brought back, made once more; their cards say what the job says."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import panel
from tests.support.library_shop import library_shop
from tests.support.web import web_over
from venzo.core.route import MATTERS, Facts, go_on, stands
from venzo.core.snags import look, stop
from venzo.store.models import JobRow

ESTUARY, GLAZING = "estuary-hide-ribs-and-benches", "viewing-slot-glazing"


@pytest.fixture
def shop(known_demo):
    with web_over(known_demo) as c:
        yield c


def found(shop, **asked):
    answer = shop.get("/api/desk", params=asked)
    assert answer.status_code == 200, answer.text
    return answer.json()


def ids(shop, **asked):
    return {j["id"] for j in found(shop, **asked)["jobs"]}


@pytest.mark.parametrize(
    ("words", "jobs"),
    [
        ("estuary", {ESTUARY}),
        ("ESTUARY Ribs", {ESTUARY}),
        ("saltmarsh plywood", {ESTUARY}),  # its order and its material
        ("acrylic", {GLAZING}),
        ("wall rib", {ESTUARY}),  # a part
        ("no_such%", set()),  # not a pattern
    ],
)
def test_jobs_are_found_by_every_name_in_them(shop, words, jobs):
    assert ids(shop, words=words) == jobs


def test_they_are_found_by_machine_kind_cutter_and_when_they_changed(shop, known_demo):
    everything = found(shop)
    assert everything["total"] == len(known_demo.jobs()) == everything["places"]["desk"]
    assert {j["kind"] for j in found(shop, kind="surface")["jobs"]} == {"surface"}
    cutter = next(c["name"] for c in known_demo.library("cutter") if "compression" in c["name"])
    assert ESTUARY in ids(shop, words=cutter)
    assert ids(shop, days=1) == {j["id"] for j in everything["jobs"]}
    with known_demo._engine.begin() as c:
        old = datetime.now(UTC).replace(tzinfo=None) - timedelta(days=40)
        c.execute(JobRow.__table__.update().where(JobRow.id == ESTUARY).values(changed=old))
    assert ESTUARY not in ids(shop, days=31) and ESTUARY in ids(shop, days=365)
    first, rest = found(shop, most=2), found(shop, after=2, most=200)
    assert len(first["jobs"]) == 2 and first["total"] == everything["total"]
    assert [j["id"] for j in first["jobs"] + rest["jobs"]] == [j["id"] for j in found(shop)["jobs"]]


def test_a_card_says_what_the_job_says(shop):
    job = shop.get(f"/api/jobs/{ESTUARY}").json()
    (line,) = found(shop, words="estuary")["jobs"]
    card, setup = line["card"], job["setups"][0]
    assert card["revision"] == job["revision"] == line["revision"]
    assert card["pieces"] == setup["yields"]["pieces"] and card["sheets"] == len(setup["yields"]["sheets"])
    assert card["seconds"] == pytest.approx(setup["yields"]["seconds"], abs=0.06)
    told = [{k: s[k] for k in ("station", "mark", "stops", "looks")} for s in setup["route"]]
    assert card["route"] == told
    assert shop.get(f"/api/jobs/{ESTUARY}/card").json() == card
    drawn = card["picture"]
    on_first = [p for p in setup["pieces"] if (p["sheet"], p["sheet_copy"]) == ("ply-18", 0)] or setup[
        "pieces"
    ]
    assert 0 < len(on_first) <= len(drawn["pieces"])
    xs = [x for outline in drawn["pieces"] for x, _y in outline]
    assert min(xs) >= 0 and max(xs) <= drawn["width"]


def test_the_card_of_a_run_draws_its_sheets_where_they_lie_as_their_jobs_have_them_now(shop):
    run = next(j for j in found(shop)["jobs"] if j["kind"] == "run")
    assert run["card"] is None, "its sheets are other jobs': it is asked for"
    table = shop.get(f"/api/table-runs/{run['id']}").json()
    drawn = shop.get(f"/api/jobs/{run['id']}/card").json()["picture"]
    k = drawn["width"] / table["width"]
    assert drawn["height"] == pytest.approx(table["height"] * k, abs=1)
    for sheet in table["sheets"]:
        corners = {(round(x * k), round(y * k)) for x, y in sheet["outline"]}
        assert any(set(map(tuple, p)) == corners for p in drawn["pieces"]), sheet["called"]
    # a sheet nested otherwise meanwhile is drawn otherwise
    job = shop.get(f"/api/jobs/{table['run']['sheets'][0]['job']}").json()
    piece = job["setups"][0]["pieces"][0]
    off = {"kind": "take-off-piece", "setup": "main", "part": piece["part"], "copy_no": piece["copy_no"]}
    edit = {"base": job["revision"], "command": off}
    assert shop.post(f"/api/jobs/{job['id']}/commands", json=edit).status_code == 200
    assert shop.get(f"/api/jobs/{run['id']}/card").json()["picture"]["pieces"] != drawn["pieces"]


def test_an_edit_makes_the_card_old_until_it_is_read_again(shop):
    before = shop.get(f"/api/jobs/{GLAZING}").json()
    named = {"base": before["revision"], "command": {"kind": "rename-job", "name": "Glazing of hide 3"}}
    after = shop.post(f"/api/jobs/{GLAZING}/commands", json=named).json()
    (line,) = found(shop, words="glazing of hide")["jobs"]
    assert line["card"]["revision"] == before["revision"] and line["revision"] == after["revision"]
    assert GLAZING not in ids(shop, standing="looks"), "how it stands now is not known yet"
    assert shop.get(f"/api/jobs/{GLAZING}/card").json()["revision"] == after["revision"]
    assert found(shop, words="viewing-slot")["total"] == 0


def test_a_job_goes_to_the_archive_the_bin_and_back_and_is_deleted_only_from_the_bin(shop, known_demo):
    place = f"/api/jobs/{GLAZING}/place"
    for where in ("archive", "bin", "desk", "bin"):
        assert shop.put(place, json={"place": where}).json() == {"id": GLAZING, "place": where}
        assert GLAZING in ids(shop, place=where)
        assert all(GLAZING not in ids(shop, place=p) for p in {"desk", "archive", "bin"} - {where})
        assert shop.get(f"/api/jobs/{GLAZING}").status_code == 200
    shop.put(place, json={"place": "desk"})
    refused = shop.delete(f"/api/jobs/{GLAZING}")
    assert refused.status_code == 422 and "is not in the bin" in refused.json()["detail"]
    shop.put(place, json={"place": "bin"})
    lays = shop.delete(f"/api/jobs/{GLAZING}")
    if lays.status_code == 422:  # the demo's table lays one of its sheets
        assert "lays sheets of it" in lays.json()["detail"]
        shop.put("/api/jobs/saturday-on-the-small-bench/place", json={"place": "bin"})
        assert shop.delete(f"/api/jobs/{GLAZING}").status_code == 200
    assert shop.get(f"/api/jobs/{GLAZING}").status_code == 404
    assert GLAZING not in {j["id"] for j in known_demo.jobs()}
    for missing in (
        shop.put("/api/jobs/nothing/place", json={"place": "bin"}),
        shop.delete("/api/jobs/nothing"),
        shop.get("/api/jobs/nothing/card"),
    ):
        assert missing.status_code == 404


def test_a_board_in_the_bin_is_off_the_bench(shop):
    before = {b["id"] for b in shop.get("/api/surfacing").json()}
    assert "oak-plank-b" in before
    shop.put("/api/jobs/oak-plank-b/place", json={"place": "bin"})
    assert {b["id"] for b in shop.get("/api/surfacing").json()} == before - {"oak-plank-b"}


def test_a_copy_and_a_next_version_are_jobs_of_their_own(shop, known_demo):
    old = known_demo.get(ESTUARY).plan
    copy = shop.post(f"/api/jobs/{ESTUARY}/once-more", json={"how": "copy"}).json()
    version = shop.post(f"/api/jobs/{ESTUARY}/once-more", json={"how": "version"}).json()
    third = shop.post(f"/api/jobs/{version['id']}/once-more", json={"how": "version"}).json()
    names = [copy["name"], version["name"], third["name"]]
    assert names == [f"{old.name}, copy", f"{old.name}, version 2", f"{old.name}, version 3"]
    for made in (copy, version):
        plan = known_demo.get(made["id"]).plan
        assert plan.model_copy(update={"id": old.id, "name": old.name}) == old
        assert shop.get(f"/api/jobs/{made['id']}/history").json()[-1]["says"].endswith(old.name)
    board = shop.post("/api/jobs/oak-plank-a/once-more", json={"how": "copy"}).json()
    assert board["kind"] == "surface" and shop.get(f"/api/surfacing/{board['id']}").status_code == 200
    again = {"how": "copy", "stock": [{"setup": "main", "stock": "x", "readings": [18.0]}]}
    assert shop.post(f"/api/jobs/{ESTUARY}/once-more", json=again).status_code == 422


def test_the_same_again_asks_for_thickness_zero_and_cutters_and_keeps_the_layout(shop, known_demo):
    old = known_demo.get(ESTUARY).plan
    asked = shop.get(f"/api/jobs/{ESTUARY}/again").json()
    (setup,) = asked["setups"]
    assert setup["touch_off"] and setup["stock"] and setup["cutters"]
    path = f"/api/jobs/{ESTUARY}/once-more"
    refused = shop.post(path, json={"how": "again"})
    assert refused.status_code == 422 and "measure" in refused.json()["detail"]
    stock = [{"setup": setup["id"], "stock": k["id"], "readings": [17.9, 18.1]} for k in setup["stock"]]
    wrong = [{"setup": setup["id"], "cutter": "no-such", "diameter": 5.0}]
    refused = shop.post(path, json={"how": "again", "stock": stock, "cutters": wrong})
    assert refused.status_code == 422 and "no-such" in refused.json()["detail"]
    first = setup["cutters"][0]
    measured = [{"setup": setup["id"], "cutter": first["id"], "diameter": first["diameter"] - 0.05}]
    made = shop.post(path, json={"how": "again", "stock": stock, "cutters": measured}).json()
    plan = known_demo.get(made["id"]).plan
    assert plan.setups[0].nest == old.setups[0].nest
    assert plan.setups[0].stock_of(setup["stock"][0]["id"]).thickness == pytest.approx(18.0)
    assert plan.setups[0].cutter(first["id"]).diameter == pytest.approx(first["diameter"] - 0.05)
    deep = shop.get(f"/api/jobs/{made['id']}").json()["setups"][0]
    assert deep["layout"]["state"] in ("fits", "out of date") and deep["yields"]["pieces"] == 46
    assert len(known_demo.jobs()) == len({j["id"] for j in known_demo.jobs()})


def test_what_waits_in_the_shop_is_told(shop, known_demo):
    cutter = next(c for c in known_demo.library("cutter") if c.get("life"))
    before = shop.get("/api/desk/attention").json()
    assert [b["id"] for b in before["boards"]] == ["long-bed-spoilboard"]
    assert cutter["id"] not in {c["id"] for c in before["cutters"]}
    shop.post(f"/api/library/cutter/{cutter['id']}/wear", json={"metres": 2 * cutter["life"]})
    (worn,) = [c for c in shop.get("/api/desk/attention").json()["cutters"] if c["id"] == cutter["id"]]
    assert worn["over"] and worn["metres"] >= 2 * cutter["life"]
    assert shop.get("/api/searches").json() == []
    shop.post(f"/api/jobs/{ESTUARY}/nest", json={"setup": "main", "seconds": 60})
    (search,) = shop.get("/api/searches").json()
    assert search["job"] == ESTUARY and search["state"] in ("waiting", "running")
    shop.post(f"/api/jobs/{ESTUARY}/nest/stop", params={"setup": "main"})


def test_jobs_of_an_older_version_are_named_when_it_starts(known_demo):
    with known_demo._engine.begin() as c:
        c.execute(JobRow.__table__.update().values(words=None, facts=None, card=None, card_of=None))
    with web_over(known_demo) as shop:
        assert found(shop)["total"] == len(known_demo.jobs()) and ids(shop, words="saltmarsh") == set()
        assert known_demo.name_jobs() == len(known_demo.jobs()) and known_demo.name_jobs() == 0
        assert ESTUARY in ids(shop, words="saltmarsh")


def test_a_new_job_is_found_by_the_drawing_it_was_given(tmp_path):
    store = library_shop(tmp_path / "shop")
    with web_over(store) as shop:
        job = shop.post("/api/jobs", json={"name": "Gate"}).json()
        files = {"files": ("latch plate.dxf", panel(), "application/dxf")}
        shop.post(f"/api/jobs/{job['id']}/drawings", data={"setup": "main"}, files=files).raise_for_status()
        assert ids(shop, words="latch plate") == {job["id"]}
        assert shop.get(f"/api/jobs/{job['id']}/card").json()["go_on"] in ("stock", "nest", "parts")
    store.close()


FACTS = st.builds(
    Facts,
    parts=st.integers(0, 3),
    stock=st.integers(0, 2),
    measured=st.integers(0, 2),
    pieces=st.integers(0, 3),
    nested=st.booleans(),
    left_out=st.integers(0, 1),
)
RULES = [f"{word}.x" for words in MATTERS.values() for word in words] + ["load.x"]
SNAGS = st.lists(st.tuples(st.sampled_from([stop, look]), st.sampled_from(RULES)), max_size=6)


@given(SNAGS, FACTS)
def test_a_stop_holds_its_station_up_and_release_with_it(said, facts):
    snags = [make(rule, "...") for make, rule in said]
    route = {s.station: s for s in stands(snags, facts)}
    for snag in snags:
        for station, words in MATTERS.items():
            if snag.severity == "stop" and snag.rule.split(".")[0] in words:
                s = route[station]
                assert s.stops > 0 and (s.mark == "held up" or (station == "nest" and not facts.nested))
        if snag.severity == "stop" and facts.pieces:
            assert route["release"].mark == "held up"
    at = route[go_on(list(route.values()))]
    held = [s for s in route.values() if s.mark == "held up"]
    assert at.mark == "held up" if held else (at.mark != "clear" or at.station == "release")


def test_two_revisions_are_compared_and_an_older_one_is_brought_back(shop, known_demo):
    path = f"/api/jobs/{GLAZING}"
    job = shop.get(path).json()
    base, (setup,) = job["revision"], job["setups"]
    first, second = setup["pieces"][:2]
    moved = [{"part": first["part"], "copy_no": first["copy_no"], "x": first["x"] + 3}]
    off = [{"part": second["part"], "copy_no": second["copy_no"], "off": True}]
    for n, changed in enumerate((moved, off)):
        command = {"kind": "change-pieces", "setup": setup["id"], "pieces": changed}
        command["does"] = "moved" if changed is moved else "taken off"
        answer = shop.post(f"{path}/commands", json={"base": base + n, "command": command})
        assert answer.status_code == 200, answer.text
    both = shop.get(f"{path}/compared", params={"one": base + 2, "other": base}).json()
    assert both["changes"] == ["1 piece moved", "1 piece taken off"]
    assert both["older"]["revision"] == base and both["newer"]["revision"] == base + 2
    states = [[s for sheet in both[w]["sheets"] for s in sheet["states"]] for w in ("older", "newer")]
    assert set(states[0]) == {"same", "moved", "only here"} and set(states[1]) == {"same", "moved"}
    for which in ("older", "newer"):
        for sheet in both[which]["sheets"]:
            assert len(sheet["states"]) == len(sheet["picture"]["pieces"])
    figures = both["older"]["figures"]
    assert figures["pieces"] == setup["yields"]["pieces"] == both["newer"]["figures"]["pieces"] + 1
    assert figures["material_yield"] == pytest.approx(setup["layout"]["yield"])
    assert figures["seconds"] == pytest.approx(setup["yields"]["seconds"], abs=0.06)

    drawn = shop.get(f"{path}/history/{base}/picture")
    assert (
        drawn.headers["content-type"].startswith("image/svg+xml")
        and "immutable" in drawn.headers["cache-control"]
    )
    assert drawn.text != shop.get(f"{path}/history/{base + 2}/picture").text
    back = shop.post(f"{path}/bring-back", json={"revision": base}).json()
    assert back["revision"] == base + 3 and back["setups"][0]["pieces"] == setup["pieces"]
    assert shop.post(f"{path}/undo").json()["setups"][0]["layout"]["unplaced"]
    assert shop.post(f"{path}/redo").json()["setups"][0]["pieces"] == setup["pieces"]
    late = {"kind": "change-pieces", "setup": setup["id"], "pieces": moved}
    assert shop.post(f"{path}/commands", json={"base": base + 1, "command": late}).status_code == 409
    for asked, says in (
        ({"one": base, "other": base}, "compared with itself"),
        ({"one": base, "other": 9999}, "no revision 9999"),
    ):
        assert says in shop.get(f"{path}/compared", params=asked).json()["detail"]
    assert shop.post(f"{path}/bring-back", json={"revision": base + 5}).status_code == 422
    assert shop.get(f"{path}/history/9999/picture").status_code == 404


def test_the_shop_s_rules_are_tried_on_a_job_without_changing_it(shop, known_demo):
    path = "/api/jobs/hinge-and-latch-plates"
    same = shop.get(f"{path}/rules-trial").json()
    before = shop.get(path).json()
    assert same["differ"] == ["between"], "the demo's small machine keeps a skeleton"
    rules = known_demo.library("rules")[0]
    halved = {**rules["step_factor"], "aluminium": 0.05}
    shop.patch(f"/api/library/rules/{rules['id']}", json={"step_factor": halved}).raise_for_status()
    tried = shop.get(f"{path}/rules-trial").json()
    assert tried["differ"] == ["step_factor", "between"]
    assert tried["then"]["seconds"] > 1.5 * tried["now"]["seconds"], "ten times as many passes"
    assert shop.get(path).json()["revision"] == before["revision"]
    # what was tried is what comes when the job takes them
    (setup,) = before["setups"]
    adopt = {"kind": "set-setup", "setup": setup["id"], "rules": known_demo.library("rules")[0]}
    adopt["rules"] = {k: v for k, v in adopt["rules"].items() if k != "id"}
    after = shop.post(f"{path}/commands", json={"base": before["revision"], "command": adopt}).json()
    assert after["setups"][0]["yields"]["seconds"] == pytest.approx(tried["then"]["seconds"], abs=0.06)


def test_a_locked_piece_is_moved_by_no_command_and_more_are_laid_only_as_they_may_lie(shop):
    path = f"/api/jobs/{GLAZING}"
    job = shop.get(path).json()
    setup = job["setups"][0]
    p = setup["pieces"][0]
    named = {k: p[k] for k in ("part", "copy_no")}
    place = {k: p[k] for k in ("x", "y", "rotation", "mirrored", "sheet", "sheet_copy")}

    def do(**command):
        base = shop.get(path).json()["revision"]
        return shop.post(
            f"{path}/commands", json={"base": base, "command": {"setup": setup["id"], **command}}
        )

    assert do(kind="move-piece", **named, **place, locked=True).status_code == 200
    # as it lies, but for rounding of a whole turn: not moved
    same = {**place, "rotation": place["rotation"] - 1e-9}
    assert do(kind="move-piece", **named, **same).status_code == 200
    moved = {**place, "x": place["x"] + 1}
    for refused in (
        do(kind="move-piece", **named, **moved),
        do(kind="change-pieces", pieces=[{**named, "x": moved["x"]}]),
        do(kind="change-pieces", does="taken off", pieces=[{**named, "off": True}]),
    ):
        assert refused.status_code == 422 and "is locked; unlock it first" in refused.json()["detail"]
    assert do(kind="change-pieces", pieces=[{**named, "x": moved["x"], "locked": False}]).status_code == 200
    part = next(q for q in job["parts"] if not q["mirror"])
    more = {"part": part["id"], "x": 0, "y": 0, "mirrored": True, "sheet": p["sheet"]}
    refused = do(kind="change-pieces", more=[more])
    assert refused.status_code == 422 and "may not be mirrored" in refused.json()["detail"]
