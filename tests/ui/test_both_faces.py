"""Stock cut from both faces in the browser: from a drawing and models to files of both faces and their
papers.
"""

import json
import re
import urllib.request

import trimesh
from playwright.sync_api import expect

from tests.conftest import dxf
from tests.support.trial import rect
from tests.support.waiting import until
from tests.ui.conftest import api, programs_in, released

JOB = "both-faces"


def plate(m):
    """A plate with a pocket in its front, and one in its back at the same place."""
    m.add_lwpolyline([(0, 0), (220, 0), (220, 120), (0, 120)], close=True)
    for layer in ("POCKET 5", "BACK POCKET 6"):
        m.doc.layers.add(layer)
        ring = [(20, 20), (70, 20), (70, 100), (20, 100)]
        m.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})


def shell():
    return trimesh.creation.icosphere(3, 30).apply_scale((1.4, 1.2, 0.25)).export(file_type="stl")


def edit(url, command, job=JOB):
    """What another page does with the job meanwhile."""
    said = {"base": api(url, f"/jobs/{job}")["revision"], "command": command}
    headers = {"content-type": "application/json"}
    body = json.dumps(said).encode()
    with urllib.request.urlopen(urllib.request.Request(f"{url}/api/jobs/{job}/commands", body, headers)):
        pass


def setups(url):
    return api(url, f"/jobs/{JOB}")["setups"]


def test_from_models_to_the_files_of_both_faces(served, page, tmp_path):
    url, _restart = served
    drawing, model = tmp_path / "plate.dxf", tmp_path / "shell.stl"
    drawing.write_bytes(dxf(plate))
    model.write_bytes(shell())
    page.goto(url)
    new = page.get_by_role("region", name="New job")
    new.get_by_label("Job name").fill("both faces")
    new.get_by_role("button", name=re.compile("Start")).click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Take in drawings").click()
    chooser.value.set_files(drawing)
    page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("plate")).click()
    page.get_by_role("button", name=re.compile("open this part")).click()
    page.get_by_role("tab", name="Changes").click()
    # a model on each face, the second one behind the first
    page.get_by_label("Model or picture of heights").set_input_files(model)
    until(lambda: len(api(url, f"/jobs/{JOB}")["parts"][0]["features"]) == 3, 30)
    first = page.get_by_label("Relief of shell", exact=True)
    first.get_by_role("button", name=re.compile("^from the left")).click()
    first.get_by_label("from the left", exact=True).fill("110")
    first.get_by_label("from the left", exact=True).press("Enter")
    first.get_by_role("button", name=re.compile("^height of the relief")).click()
    first.get_by_label("height of the relief", exact=True).fill("4")
    first.get_by_label("height of the relief", exact=True).press("Enter")
    first.get_by_label("which face").click()
    page.get_by_role("option", name="the back").click()

    def faces():
        return sorted(f["face"] for f in api(url, f"/jobs/{JOB}")["parts"][0]["features"])

    until(lambda: faces() == ["back", "back", "front"], 30)
    # the sheet leaves room for dowels, and is nested
    wide = {"width": 620.0, "height": 400.0, "margin": 40.0}
    stock = setups(url)[0]["stock"][0]["id"]
    command = {"kind": "change-stock", "setup": "main", "stock": stock, "fields": wide}
    edit(url, command)
    page.goto(f"{url}/job/{JOB}/nest")
    docket = page.get_by_label("Docket")
    docket.wait_for()
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")
    # what is on the back waits for the turn, which is offered with dowels that fit only as they are meant
    expect(docket).to_contain_text("which nothing cuts")
    docket.get_by_role("button", name="Turn the stock over").click()
    turn = page.get_by_role("region", name="The turn")
    expect(turn).to_contain_text("It goes on only as it is meant")
    expect(turn.get_by_role("img", name=re.compile("turned over about X"))).to_be_visible()
    expect(page.get_by_test_id("dowel")).to_have_count(2)
    expect(turn).to_contain_text("Left between the faces")
    # dowels that are alike let it lie half turned: said, and mended as offered
    dowels = turn.get_by_role("list", name="Dowels").get_by_role("listitem")
    small = dowels.filter(has_text="d1")
    other = setups(url)[1]["turned"]["turn"]["registration"]["dowels"][1]["diameter"]
    small.get_by_role("button", name=re.compile("^diameter of d1")).click()
    small.get_by_label("diameter of d1", exact=True).fill(f"{other:g}")
    small.get_by_label("diameter of d1", exact=True).press("Enter")
    expect(turn.get_by_role("status")).to_contain_text("half turned as well")
    turn.get_by_role("button", name="Place them where they fit only as meant").click()
    expect(turn.get_by_role("status")).to_contain_text("only as it is meant")
    # the outline half from each face, meeting or with a web between
    turn.get_by_label("outlines").click()
    page.get_by_role("option", name="half from each face").click()
    expect(turn).to_contain_text("meeting, with an overlap of")
    turn.get_by_label("what is between the halves").click()
    page.get_by_role("option", name="leaving a web of").click()
    until(lambda: setups(url)[1]["turned"]["turn"]["overlap"] == -1.0, 30)
    said = [s["rule"] for s in setups(url)[1]["snags"]]
    assert "turn.web" in said and "turn.halves" not in said
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
    expect(turn).to_contain_text("after the turn")
    expect(turn).not_to_contain_text("half from each face")
    # an empty set, a dowel through a piece: told, and taken back
    turn.get_by_role("button", name="Another dowel").click()
    expect(dowels).to_have_count(3)
    page.get_by_role("button", name="Undo").click()
    expect(dowels).to_have_count(2)

    turn.get_by_role("button", name="Show the other face").click()
    expect(page.get_by_label("Docket")).to_contain_text("it follows from the first face")
    back = setups(url)[1]
    first_pieces = {p["id"]: p for p in setups(url)[0]["pieces"]}
    assert all(p["mirrored"] for p in back["pieces"]) and set(first_pieces) == {
        p["id"] for p in back["pieces"]
    }
    # its layout follows from the first face: nothing is nested there
    page.keyboard.press("n")
    told = page.get_by_role("alert").filter(has_text="no layout of its own")
    told.get_by_role("button").click()
    expect(told).to_have_count(0)
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Cuts & hold")).click()
    docket = page.get_by_label("Docket")
    expect(docket).to_contain_text("Roll over the surface")
    cut = [c["contour"] for c in setups(url)[1]["sheets"][0]["cuts"]]
    assert {"relief 1", "outline"} <= set(cut) and "outline" not in [
        c["contour"] for c in setups(url)[0]["sheets"][0]["cuts"]
    ]
    # seen in section from both faces, the pockets back to back
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Prove")).click()
    page.get_by_test_id("as-cut").wait_for(state="attached")
    page.get_by_role("button", name="Section").click()
    table = page.get_by_test_id("table").bounding_box()
    page.mouse.click(table["x"] + table["width"] * 0.2, table["y"] + table["height"] * 0.3)
    page.mouse.click(table["x"] + table["width"] * 0.5, table["y"] + table["height"] * 0.3)
    page.get_by_test_id("cut-section").wait_for()
    expect(page.get_by_test_id("behind")).to_be_attached()
    page.get_by_role("button", name="Close").click()
    # both faces are released: files in running order over the turn, and the paper that draws it
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Release")).click()
    until(lambda: not stops(url), 60)
    for at in ("main", "main-back"):  # as for a machine whose cutters are changed by hand
        edit(url, {"kind": "set-order", "setup": at, "files_by": "cutter"})
    page.reload()
    texts, said = programs_in(released(page))
    names = sorted(texts)
    assert len(names) >= 6 and [int(n.split("_")[3]) for n in names] == list(range(1, len(names) + 1))
    assert "dowels-spoilboard" in names[0] and "face-1" in names[2] and "face-2" in names[-1]
    assert "Z0 top of the spoilboard" in texts[names[0]] and "FACE 2 of 2" in texts[names[-1]]
    assert "turn it over about X" in said and "set the dowels" in said


def stops(url):
    return [s["message"] for d in setups(url) for s in d["snags"] if s["severity"] == "stop"]


def test_a_drawing_of_its_back_is_laid_on_a_part_and_turned(served, page, tmp_path):
    url, _restart = served
    front, back = tmp_path / "lid.dxf", tmp_path / "lid behind.dxf"
    front.write_bytes(rect(200, 120))
    back.write_bytes(dxf(behind))
    page.goto(url)
    new = page.get_by_role("region", name="New job")
    new.get_by_label("Job name").fill("lid")
    new.get_by_role("button", name=re.compile("Start")).click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Take in drawings").click()
    chooser.value.set_files(front)
    page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("lid")).click()
    page.get_by_role("button", name=re.compile("open this part")).click()
    page.get_by_role("tab", name="Changes").click()

    def boxes():
        features = api(url, "/jobs/lid")["parts"][0]["features"]
        return [(f["face"], f["d"].split("L")[0]) for f in features]

    # another part's back does not fit: told, and nothing is lost
    page.get_by_label("Drawing of its back").set_input_files(
        files=[{"name": "other.dxf", "mimeType": "image/vnd.dxf", "buffer": rect(90, 60)}]
    )
    expect(page.get_by_role("alert")).to_contain_text("does not lie on the part's")
    assert boxes() == []
    page.get_by_label("Drawing of its back").set_input_files(back)
    said = "1 line on the back, from lid behind.dxf seen from the back"
    expect(page.get_by_role("listitem").filter(has_text=said)).to_be_visible()
    first = boxes()
    assert [face for face, _d in first] == ["back"]
    expect(page.get_by_role("group", name="Face that is drawn")).to_be_visible()
    page.get_by_role("button", name="Turn it").click()
    expect(page.get_by_role("listitem").filter(has_text="turned by 180 degrees")).to_be_visible()
    assert boxes() != first
    page.get_by_role("button", name="Undo").click()
    until(lambda: boxes() == first, 30)


def behind(m):
    m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
    m.doc.layers.add("POCKET 3")
    ring = [(10, 20), (50, 20), (50, 44), (10, 44)]
    m.add_lwpolyline(ring, close=True, dxfattribs={"layer": "POCKET 3"})


SCOOP = "scoop-and-spice-shelf"


def test_orders_of_the_faces_are_compared_and_both_are_roughed_first(served, page):
    """The demo's scoop: every order is tried, one is taken, and the first face comes up once more."""
    url, _restart = served
    page.goto(f"{url}/job/{SCOOP}/nest")
    order = page.get_by_role("region", name="Order of the faces")
    order.get_by_role("button", name="compare orders").click()
    expect(order.get_by_text("the orders compared")).to_be_visible(timeout=120_000)
    rows = order.locator("tr[data-order]")
    expect(rows).to_have_count(6)
    turns = [rows.nth(i).locator("td").nth(1).inner_text() for i in range(6)]
    assert turns == ["1", "1", "1", "2", "2", "2"]
    expect(rows.nth(0).get_by_role("button")).to_be_disabled()  # it is cut so
    assert rows.nth(3).locator("td").nth(2).inner_text().startswith("+")
    rows.nth(3).get_by_role("button").click()
    bar = page.get_by_label("What the job is cut from")
    bar.get_by_role("button", name="first face again", exact=True).click()
    turn = page.get_by_role("region", name="The turn")
    expect(turn).to_contain_text("First face up once more, to be finished")
    expect(turn.get_by_role("img")).to_have_accessible_name(re.compile("comes up again at the lower left"))
    # its steps are those of the first face, and are changed there from here too
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Cuts & hold")).click()
    docket = page.get_by_label("Docket")
    expect(docket).to_contain_text("The first face is up once more")
    three = api(url, f"/jobs/{SCOOP}")["setups"]
    cuts = [[c["kind"] for c in s["sheets"][0]["cuts"] if c["contour"] == "relief 1"] for s in three]
    assert cuts == [["relief rough"], [], ["relief finish"]]
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Release")).click()
    until(
        lambda: (
            not [
                x for s in api(url, f"/jobs/{SCOOP}")["setups"] for x in s["snags"] if x["severity"] == "stop"
            ]
        ),
        60,
    )
    texts, said = programs_in(released(page))
    named = sorted(texts)
    finish = [n for n in texts if "face-1-finish" in n]
    assert finish and all("FACE 1 once more, turned back about X" in texts[n] for n in finish)
    assert any("face-1-rough" in n for n in named) and any("_face-2_" in n for n in named)
    assert "turn it back about X" in said and "on top" in said
    # taken out, it is one face and then the other
    bar.get_by_role("button", name="first face again", exact=True).click()
    page.get_by_role("button", name="take the first face again out").click()
    expect(bar.get_by_role("button", name="first face again", exact=True)).to_have_count(0)


def test_pieces_are_turned_one_by_one_into_a_jig(served, page):
    """Without a jig at the machine it cannot be chosen; with one each part has its program, zeroed in it."""
    url, _restart = served
    page.goto(f"{url}/job/{SCOOP}/nest")
    turn = page.get_by_role("region", name="The turn")
    jig = turn.get_by_role("button", name="a jig, piece by piece")
    expect(jig).to_be_disabled()
    corner = {"id": "corner", "name": "Corner jig", "at": [60, 80]}
    edit(url, {"kind": "change-setup", "setup": "main-back", "machine": {"jigs": {"=": [corner]}}}, SCOOP)
    page.reload()
    jig.click()
    expect(turn).to_contain_text("each into the corner of Corner jig")
    expect(page.get_by_test_id("jig-corner")).to_have_count(2)
    expect(page.get_by_role("region", name="Order of the faces")).to_have_count(0)
    turn.get_by_role("button", name="Show the other face").click()
    expect(page.get_by_role("tab", name="Sheet 2")).to_be_visible()
    back = api(url, f"/jobs/{SCOOP}")["setups"][1]
    assert sorted(s["name"] for s in back["stock"]) == ["measuring scoop", "spice shelf"]
    assert sorted(n.split("_")[1] for n in files_of(back)) == [
        "s-measuring-scoop",
        "s-measuring-scoop",
        "s-spice-shelf",
    ]
    turn.get_by_label("long side").click()
    page.get_by_role("option", name="along Y").click()
    until(lambda: tall(api(url, f"/jobs/{SCOOP}")["setups"][1]["stock"]), 30)
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(turn.get_by_role("list", name="Dowels")).to_be_visible()


def tall(stock):
    return all(s["height"] > s["width"] for s in stock)


def files_of(setup):
    return [f["name"] for f in setup["release"]["files"]]
