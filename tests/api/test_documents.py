"""What a screen is told of a job agrees with itself: one figure once, and everything spoken of is there."""

import itertools
import math
import re

import pytest

from tests.faults.test_planted_plan_faults import PLANS
from tests.support.breadth import spread
from tests.support.trial import Clamp, TrialJob, disc, rect
from tests.support.web import web_over
from venzo.api.documents.job import JobDocument
from venzo.core.edits import SetContour, SetHold, SetSetup
from venzo.core.snags import Where


def shown(store, job):
    """A job's document as it is answered, once everything is worked out."""
    with web_over(store) as web:
        for _ in range(20):
            found = web.get(f"/api/jobs/{job}").json()
            if not found["untried"]:
                return found
    raise AssertionError("its remedies are never all tried")


def wooden(store):
    b = TrialJob(
        store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), (disc(30), [(20, 150), (120, 150)])
    )
    return b.outline({}).fix(Clamp(id="c1", x=560, y=200)).job


def by_skin(store):
    b = TrialJob(store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), material="acrylic", thick=6.0)
    b.do(SetHold(setup="main", way="skin, last pass", skin=0.4))
    return b.job


def left_out(store):
    b = TrialJob(store, (rect(150, 90, [(40, 40, 12), (100, 40, 8)]), [(20, 20)]))
    b.outline({}).do(SetContour(part=b.part(), contour="hole 2", omit=True))
    b.do(SetSetup(setup="main", datum="centre", z_zero="bed"))
    return b.job


JOBS = {"wooden": wooden, "held by a skin": by_skin, "something left out": left_out}


@pytest.fixture(params=JOBS, ids=list(JOBS))
def told(request, store):
    return shown(store, JOBS[request.param](store))


@pytest.fixture(scope="module")
def demo_told(demo_folder, tmp_path_factory):
    import shutil

    from venzo.store.store import Store

    folder = tmp_path_factory.mktemp("told") / "shop"
    shutil.copytree(demo_folder, folder)
    store = Store(folder)
    found = [shown(store, j["id"]) for j in store.jobs()]
    store.close()
    return found


def check(job):
    """Every agreement that holds of any job."""
    JobDocument.model_validate(job)
    parts = {p["id"]: p for p in job["parts"]}
    orders, drawings = {o["id"] for o in job["orders"]}, {d["id"] for d in job["drawings"]}
    for p in parts.values():
        assert p["drawing"] in drawings and p["quantity"] == sum(line["quantity"] for line in p["lines"])
        assert {line["order"] for line in p["lines"]} <= orders
        x0, y0, x1, y1 = p["box"]
        assert x1 > x0 and y1 > y0 and 0 < p["area"] <= (x1 - x0) * (y1 - y0) * (1 + 1e-9)
        assert p["perimeter"] > 2 * math.sqrt(math.pi * p["area"]) * 0.99, (
            "no outline is shorter than a circle's"
        )
    for setup in job["setups"]:
        check_setup(setup, parts)
    check_places(job)


def check_setup(setup, parts):
    turned = setup["turned"]
    own = {turned["first"] if turned else setup["id"]}
    own = {k for k, p in parts.items() if p["setup"] in own}
    cutters, stock = {c["id"] for c in setup["cutters"]}, {s["id"]: s for s in setup["stock"]}
    pieces = {q["id"]: q for q in setup["pieces"]}
    for q in pieces.values():
        assert q["part"] in own and q["sheet"] in stock and q["sheet_copy"] < stock[q["sheet"]]["quantity"]
        assert q["copy_no"] < parts[q["part"]]["quantity"]
    for part, missing in setup["layout"]["unplaced"].items():
        placed = sum(q["part"] == part for q in pieces.values())
        assert placed + missing == parts[part]["quantity"]
    used = setup["cutters_used"]
    assert set(used) <= cutters and len(set(used)) == len(used)
    for s in stock.values():
        read = s["readings"]
        assert s["thickness"] == pytest.approx(sum(read) / len(read) if read else s["nominal"])
        assert s["spread"] == pytest.approx(max(read) - min(read) if read else 0.0)
    check_sheets(setup, pieces, cutters)
    check_contours(setup, parts, cutters)
    check_figures(setup, pieces)


def check_sheets(setup, pieces, cutters):
    """Cuts follow one another in time, each of a piece that lies there."""
    for sheet in setup["sheets"]:
        names = [c["name"] for c in sheet["cuts"]]
        assert len(set(names)) == len(names)
        at = (sheet["sheet"], sheet["copy_no"])
        here = {q["id"] for q in pieces.values() if (q["sheet"], q["sheet_copy"]) == at}
        assert {c["piece"] for c in sheet["cuts"]} <= here
        for a, b in itertools.pairwise(sheet["cuts"]):
            assert a["begins"] + a["seconds"] <= b["begins"] + 1e-6
        for c in sheet["cuts"]:
            assert c["cutter"] in cutters and c["seconds"] > 0 and c["passes"] >= 1 and c["force"] >= 0
        last = sheet["cuts"][-1] if sheet["cuts"] else None
        assert last is None or last["begins"] + last["seconds"] <= sheet["seconds"] + 1e-6
        changes = [cutter for _at, cutter in sheet["changes"]]
        in_turn = [k for k, _g in itertools.groupby(c["cutter"] for c in sheet["cuts"])]
        assert changes == in_turn, "a cutter is loaded when another was in the spindle, and not otherwise"


def check_contours(setup, parts, cutters):
    """What is planned on each contour is drawn, and told by steps of its own cutters."""
    for part, contours in setup["contours"].items():
        known = {c["name"] for c in parts[part]["contours"]} | {f["name"] for f in parts[part]["features"]}
        for c in contours:
            assert c["contour"] in known
            if c["omitted"]:
                assert not c["steps"] and not c["tabs"]
                continue
            last = c["steps"][-1]
            assert (c["cutter"], c["operation"]) == (last["cutter"], last["operation"])
            assert (c["passes"], c["depth"]) == (last["passes"], last["depth"])
            for step in c["steps"]:
                assert step["cutter"] in cutters and step["depth"] > step["begins"] >= 0 and step["rpm"] > 0
                assert step["feed"] > 0 and step["length"] > 0 and step["why"], "no number without its reason"


def check_figures(setup, pieces):
    """One figure once: sums of what sheets and files say of themselves."""
    y, sheets = setup["yields"], setup["sheets"]
    if setup["machine"]["head"]:  # its sheets stand in a document of their own
        files = {(f["sheet"], f["copy_no"]): f["seconds"] for f in setup["release"]["files"]}
        assert files == {(s["sheet"], s["copy_no"]): s["seconds"] for s in y["sheets"]} and not sheets
        return
    assert y["pieces"] == len(pieces)
    assert y["net_area"] == pytest.approx(sum(s["net_area"] for s in y["sheets"]))
    assert y["cut_length"] == pytest.approx(sum(s["cut_length"] for s in sheets))
    assert [(s["sheet"], s["copy_no"]) for s in y["sheets"]] == [(s["sheet"], s["copy_no"]) for s in sheets]
    for mine, theirs in zip(y["sheets"], sheets, strict=True):
        assert mine["seconds"] == pytest.approx(theirs["seconds"]) and 0 <= mine["utilisation"] <= 1
    guides = re.compile(r"dowels-|pins")  # holes for dowels and pins are no sheet's time
    files = [f for f in setup["release"]["files"] if not guides.search(f["name"])]
    assert len({f["name"] for f in files}) == len(files)
    timed = {(s["sheet"], s["copy_no"]): s["seconds"] for s in sheets}
    for at, seconds in timed.items():
        own = [f["seconds"] for f in files if f["sheet"] == at[0] and at[1] in f["copies"]]
        along = (setup["long"] or {}).get("along")
        moved = len(along["indexing"]["moved"]) * along["indexing"]["seconds"] if along else 0.0
        near = pytest.approx(seconds - moved, abs=0.51 * len(own) + 30 * (len(own) - 1))
        assert not own or sum(own) == near


def check_places(job):
    """Whatever a snag or a remedy names is there."""
    parts = {p["id"] for p in job["parts"]}
    for setup in job["setups"]:
        stock = {s["id"] for s in setup["stock"]}
        things = {q["id"] for q in setup["pieces"]} | {"sheet"}
        fixings = {f["id"] for f in setup["fixings"]} | {s["id"] for s in setup["screws"]}
        cuts = {(s["sheet"], s["copy_no"]): len(s["cuts"]) for s in setup["sheets"]}
        for snag in setup["snags"]:
            where = snag["where"] or {}
            assert set(where) <= set(Where.__annotations__)
            assert where.get("setup", setup["id"]) == setup["id"]
            assert where.get("part", next(iter(parts), "")) in parts or not parts
            assert "sheet" not in where or where["sheet"] in stock
            assert "piece" not in where or where["piece"] in things
            assert "fixing" not in where or where["fixing"] in fixings
            if "cut" in where and "sheet" in where:
                assert 0 <= where["cut"] < cuts[where["sheet"], where.get("sheet_copy", 0)]
            assert snag["message"] == snag["message"].strip() and len(snag["message"]) < 600
            labels = [r["label"] for r in snag["remedies"]]
            assert len(set(labels)) == len(labels), "two remedies of one name"


def test_a_job_s_document_agrees_with_itself(told):
    check(told)


def test_the_demo_s_documents_agree_with_themselves(demo_told):
    for job in demo_told:
        check(job)


PLANTED = sorted(PLANS)[::20]


@pytest.mark.parametrize("rule", spread(PLANTED, 4))
def test_a_faulty_job_s_document_agrees_with_itself_too(store, rule):
    b = PLANS[rule][1](store)
    check(shown(store, b.job))


def test_what_changed_in_an_edit_is_what_the_edit_named(store):
    """A rename changes a name and a number; nothing else of the document moves."""
    job = wooden(store)
    before = shown(store, job)
    with web_over(store) as web:
        body = {"base": before["revision"], "command": {"kind": "rename-job", "name": "another"}}
        assert web.post(f"/api/jobs/{job}/commands", json=body).status_code == 200
    after = shown(store, job)
    moved = {k for k in before if before[k] != after[k]}
    assert moved <= {"tag", "name", "revision", "says", "can_undo", "setups"}
    for a, b in zip(before["setups"], after["setups"], strict=True):
        assert {k for k in a if a[k] != b[k]} <= {"release"}, "its files are called by the job's name"
