"""Reliefs in the browser: from a model, and from a picture, to programs that rough and finish them."""

import io
import re
import zipfile

import numpy as np
import pytest
import trimesh
from PIL import Image
from playwright.sync_api import expect

from tests.support.trial import rect
from tests.support.waiting import until
from tests.ui.conftest import api


def shell():
    return trimesh.creation.icosphere(4, 30).apply_scale((2.0, 1.4, 0.4)).export(file_type="stl")


def dunes():
    x, y = np.meshgrid(np.linspace(0, 9, 120), np.linspace(0, 6, 80))
    out = io.BytesIO()
    grey = 0.5 + 0.5 * np.sin(x + np.sin(y))
    Image.fromarray((grey * 65535).astype(np.uint16)).save(out, "PNG")
    return out.getvalue()


@pytest.mark.parametrize(("name", "make"), [("shell.stl", shell), ("dunes.png", dunes)])
def test_from_a_model_or_a_picture_to_the_programs(served, page, tmp_path, name, make):
    url, _restart = served
    stem = name.partition(".")[0]
    model = tmp_path / name
    model.write_bytes(make())
    opened(page, url, tmp_path, f"{stem} board", (220, 150))
    # what is no model is refused where it was asked for, and nothing is lost
    wrong = tmp_path / "notes.stl"
    wrong.write_bytes(b"no model at all")
    page.get_by_label("Model or picture of heights").set_input_files(wrong)
    expect(page.get_by_text("notes.stl").first).to_be_visible()
    page.get_by_label("Model or picture of heights").set_input_files(model)
    sentence = page.get_by_label(f"Relief of {stem}", exact=True)
    sentence.wait_for()
    expect(page.get_by_test_id("lit-relief")).to_be_visible()
    sentence.get_by_role("button", name=re.compile("^height of the relief")).click()
    sentence.get_by_label("height of the relief", exact=True).fill("1/4 in")
    sentence.get_by_label("height of the relief", exact=True).press("Enter")
    job = f"{stem}-board"
    until(lambda: api(url, f"/jobs/{job}")["parts"][0]["features"][0]["depth"] == pytest.approx(6.35), 30)
    page.goto(f"{url}/job/{job}/nest")
    page.get_by_label("Docket").wait_for()
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")
    page.goto(f"{url}/job/{job}/cuts")
    docket = page.get_by_label("Docket")
    docket.get_by_role("button", name="Add reliefs by house rule").first.click()
    expect(docket).to_contain_text("Rough in levels")
    expect(docket).to_contain_text("Roll over the surface")
    cuts = [c["name"] for c in api(url, f"/jobs/{job}")["setups"][0]["sheets"][0]["cuts"]]
    assert sum("relief 1" in c for c in cuts) == 2
    route = page.get_by_label("Route")
    expect(route.get_by_role("button", name=re.compile("^Prove"))).to_contain_text("read back, clear")
    route.get_by_role("button", name=re.compile("^Release")).click()
    page.get_by_role("button", name=re.compile("^Release 1 program")).click()
    line = page.get_by_role("listitem", name="Release 1")
    line.wait_for()
    with page.expect_download() as file:
        line.get_by_role("button", name="Download", exact=True).click()
    body = zipfile.ZipFile(io.BytesIO(file.value.path().read_bytes()))
    text = "".join(body.read(n).decode() for n in body.namelist() if n.endswith(".nc"))
    rough, finish = text.index("relief rough"), text.index("relief finish")
    assert rough < finish
    lowest = min(float(z) for z in re.findall(r"Z(-[0-9.]+)", text[finish : text.index("outline", finish)]))
    assert -6.35 - 0.002 <= lowest < -5.5


def opened(page, url, tmp_path, name, size=(160, 110)):
    """A job with one board, its part open at its changes."""
    drawing = tmp_path / "board.dxf"
    drawing.write_bytes(rect(*size))
    page.goto(url)
    new = page.get_by_role("region", name="New job")
    new.get_by_label("Job name").fill(name)
    new.get_by_role("button", name=re.compile("Start")).click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Take in drawings").click()
    chooser.value.set_files(drawing)
    page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("board")).click()
    page.get_by_role("button", name=re.compile("open this part")).click()
    page.get_by_role("tab", name="Changes").click()


def typed(page, where, label, text):
    where.get_by_role("button", name=re.compile(f"^{label}")).click()
    field = where.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def test_a_surface_is_made_here_finished_or_sanded_and_held_against_its_model(served, page, tmp_path):
    url, _restart = served
    opened(page, url, tmp_path, "made here")
    job = "made-here"

    def depth():
        return api(url, f"/jobs/{job}")["parts"][0]["features"][0]["depth"]

    page.get_by_role("button", name="Make one here").click()
    made = page.get_by_label("Relief made here: surface 1")
    made.wait_for()
    expect(page.get_by_test_id("lit-relief")).to_be_visible()
    first = made.get_by_label("Form 1", exact=True)
    typed(page, first, "height", "1/4 in")
    until(lambda: depth() == pytest.approx(6.35, abs=0.02), 30)
    # a second form, and how it is put together with the first
    made.get_by_role("group", name="Add a form").get_by_role("button", name="plateau").click()
    second = made.get_by_label("Form 2", exact=True)
    second.wait_for()
    expect(second).to_contain_text("added to what is there")
    second.get_by_label("how it is put together").click()
    page.get_by_role("option", name="the higher of both counts").click()
    until(lambda: depth() == pytest.approx(6.35, abs=0.02), 30)
    # what cannot be made is said where it is asked for, and nothing is lost
    typed(page, made, "field: inset", "70")
    expect(page.get_by_text("nothing is left").first).to_be_visible()
    assert depth() == pytest.approx(6.35, abs=0.02)
    # a version is kept with what was learned
    note = page.get_by_label("Note on this part")
    note.fill("proud of the rim")
    note.blur()
    until(lambda: api(url, f"/jobs/{job}")["parts"][0]["note"] == "proud of the rim", 30)
    page.get_by_role("button", name="Keep this version").click()
    expect(page.get_by_role("button", name="Take version 1 again")).to_be_visible()

    page.goto(f"{url}/job/{job}/nest")
    page.get_by_label("Docket").wait_for()
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")
    page.goto(f"{url}/job/{job}/cuts")
    docket = page.get_by_label("Docket")
    docket.get_by_role("button", name="Add reliefs by house rule").first.click()
    expect(docket).to_contain_text("Roll over the surface")
    docket.get_by_role("button", name="Finish or sand?").click()
    ways = docket.get_by_label("Finish or sand", exact=True)
    coarse = ways.get_by_role("listitem").nth(2)
    expect(coarse).to_contain_text("min of sanding")
    coarse.get_by_role("button", name="take it").click()
    expect(docket.get_by_text(re.compile("^finish or sand: .* of sanding"))).to_be_visible()

    page.goto(f"{url}/job/{job}/prove")
    page.get_by_role("button", name="Against the model").click()
    expect(page.get_by_label("Against the model", exact=True).first).to_be_visible()
    with page.expect_response(lambda r: "against_models=true" in r.url) as seen:
        page.get_by_role("button", name="Sheet", exact=True).click()
    assert seen.value.ok
