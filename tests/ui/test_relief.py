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
    drawing, model = tmp_path / "board.dxf", tmp_path / name
    drawing.write_bytes(rect(220, 150))
    model.write_bytes(make())
    page.goto(url)
    new = page.get_by_role("region", name="New job")
    new.get_by_label("Job name").fill(f"{stem} board")
    new.get_by_role("button", name=re.compile("Start")).click()
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Take in drawings").click()
    chooser.value.set_files(drawing)
    page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("board")).click()
    page.get_by_role("button", name=re.compile("open this part")).click()
    page.get_by_role("tab", name="Changes").click()
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
