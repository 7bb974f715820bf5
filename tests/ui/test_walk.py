"""A programmer's walk through the real interface in headless Chromium: own drawings to a downloaded
program.
"""

import re
import zipfile

import pytest
from playwright.sync_api import expect

from tests.conftest import dxf, panel
from tests.ui.conftest import api
from tests.ui.pick import pick

pytestmark = pytest.mark.ui


def test_from_drawings_to_a_downloaded_program(served, page, tmp_path):
    url, restart = served
    page.goto(url)
    expect(page.get_by_text("Estuary hide, ribs and benches")).to_be_visible()
    page.get_by_label("Job name").fill("Own job")
    page.get_by_role("button", name="Start").click()
    expect(page.get_by_text("No parts yet")).to_be_visible()

    slotted = dxf(
        lambda m: (
            m.add_lwpolyline([(0, 0), (500, 0), (500, 160, 0, 0, 0.2), (0, 160)], close=True),
            m.add_circle((60, 60), 3),
            m.add_circle((250, 80), 30),
        )
    )
    for name, data in (
        ("tray x4.dxf", panel(420, 260, ((80, 80, 25),))),
        ("rail x3.dxf", slotted),
        ("report.dxf", b"%PDF-1.4 not a drawing"),
    ):
        (tmp_path / name).write_bytes(data)
    page.get_by_label("Drawings").set_input_files(
        [str(tmp_path / n) for n in ("tray x4.dxf", "rail x3.dxf", "report.dxf")]
    )
    expect(page.get_by_role("alert")).to_contain_text("report.dxf: this is a PDF file")
    expect(page.get_by_role("list", name="Parts").get_by_role("button")).to_have_count(2)
    expect(page.locator("[data-station=parts]")).to_contain_text("7")

    page.keyboard.press("2")
    readings = page.get_by_label("Caliper readings").first
    readings.fill("17.4 17.5 0.69in")
    readings.press("Enter")
    expect(page.locator("[data-station=stock]")).to_contain_text("17.48 mm")
    page.get_by_role("button", name=re.compile("^Where the sheet lies")).click()
    margin = page.get_by_label("sheet's corner, from the table's left")
    margin.fill("2 3/8 in + 4")
    expect(page.locator("aside")).to_contain_text("64.33 mm")
    margin.press("Enter")
    expect(page.get_by_text("place of the sheet changed")).to_be_visible()

    page.keyboard.press("3")
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits", timeout=60_000)
    # pieces can be dragged once the job has been read with its layout
    expect(page.get_by_role("button", name="Keep searching")).to_be_enabled(timeout=60_000)
    piece = page.locator("[data-piece]").first
    box = piece.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 8)
    page.mouse.down()
    table = page.get_by_test_id("table").bounding_box()
    page.keyboard.down("Alt")  # not drawn into contact: half over the sheet's edge
    page.mouse.move(table["x"] + 60, box["y"] + 8, steps=5)
    expect(page.get_by_test_id("drag-says")).to_contain_text("mm")
    page.mouse.up()
    page.keyboard.up("Alt")
    expect(page.get_by_test_id("layout-state")).to_have_text("pieces overlap")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")

    page.keyboard.press("4")
    page.locator("[data-piece]").first.focus()
    expect(page.get_by_role("heading", name="piece")).to_be_visible()
    tab = page.locator("[data-tab]").last
    before = tab.get_attribute("transform")
    tab.focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.get_by_text("placed by hand", exact=True)).to_be_visible()
    assert page.locator("[data-tab]").last.get_attribute("transform") != before
    page.keyboard.press("Control+z")
    expect(page.get_by_text("placed by hand", exact=True)).to_have_count(0)
    page.keyboard.press("Escape")
    expect(
        page.get_by_text("4 mm up-cut, the largest of the setup that can, cuts it instead")
    ).to_be_visible()
    page.keyboard.press("7")
    expect(page.get_by_text("Ready to release")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name=re.compile("^The code of")).click()
    expect(page.get_by_test_id("program")).to_contain_text("G17 G90")

    job = api(url, "/jobs")[0]["id"]
    revision = api(url, f"/jobs/{job}")["revision"]
    restart()
    page.reload()
    expect(page.get_by_text("Ready to release")).to_be_visible(timeout=30_000)
    assert api(url, f"/jobs/{job}")["revision"] == revision, "a restart loses nothing"
    page.get_by_role("button", name=re.compile(r"^Release \d+ programs?$")).click()
    out = page.get_by_role("listitem", name="Release 1")
    with page.expect_download() as d:
        out.get_by_role("button", name="Download").click()
    archive = zipfile.ZipFile(d.value.path())
    program = archive.read(next(n for n in archive.namelist() if n.endswith(".nc"))).decode()
    assert (
        "M30" in program
        and "T3" in program
        and any(n.endswith("setup-sheet.pdf") for n in archive.namelist())
    )


def test_every_station_of_the_demo_shows_real_content(served, page):
    url, _restart = served
    page.goto(f"{url}/job/estuary-hide-ribs-and-benches/parts")
    wanted = {
        "parts": "wall rib",
        "stock": "mean of 4",
        "nest": "fits",
        "cuts": "Order of cuts",
        "prove": "read back: ",
        "yield": "What the job uses",
        "release": "Ready to release",
    }
    for n, (station, text) in enumerate(wanted.items(), 1):
        page.keyboard.press(str(n))
        expect(page.locator(f"[data-station={station}]")).to_have_attribute("aria-current", "page")
        expect(page.get_by_text(text).first).to_be_visible(timeout=30_000)
        assert page.evaluate("document.documentElement.scrollWidth") <= 1280
    page.keyboard.press("4")
    tape = page.get_by_test_id("tape")
    tape.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(tape).not_to_have_attribute("aria-valuenow", "0")
    page.get_by_role("button", name="millimetres are shown").click()
    expect(page.locator("[data-station=stock]")).to_contain_text("0.6929 in")
    page.get_by_role("button", name="History").click()
    expect(page.get_by_role("dialog")).to_contain_text("nested 46 pieces on 2 sheets")


def test_drawings_as_they_come_are_understood_mended_altered_and_revised(served, page, tmp_path):
    """The Parts station: a frame left out by one click, a layer's meaning changed, a healing line taken back,
    a corner relieved, parts made, a newer drawing adopted.
    """
    url, _restart = served
    page.goto(f"{url}/job/nest-boxes-drawings-as-they-came/parts")
    wall = page.get_by_role("list", name="Parts").get_by_role("button")
    wall.first.wait_for()
    page.get_by_role("button", name="Leave the frame out").click()
    expect(page.get_by_text("read again (chosen)")).to_be_visible()
    front = page.get_by_role("list", name="Parts").get_by_role("button", name="box front")
    front.focus()
    page.keyboard.press("+")
    expect(front).to_contain_text("5 x")
    page.keyboard.press("o")
    expect(page.get_by_role("group", name="box front, drawn large")).to_be_visible()
    page.get_by_role("tab", name="Drawing").click()
    expect(page.get_by_role("list", name="Healing list")).to_contain_text("180 nodes before, 2 after")
    page.get_by_label("curve refitted").click()
    expect(page.get_by_text("180 nodes before, 180 after")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("180 nodes before, 2 after")).to_be_visible()
    pick(page, "Layer POCKET 6mm means", "cut through")
    expect(page.get_by_text("read again (roles)")).to_be_visible()
    page.get_by_role("tab", name="Can it be made").click()
    expect(page.get_by_text("8 mm compression", exact=True)).to_be_visible()
    page.get_by_role("button", name="Make them 17.75 mm").click()
    expect(page.get_by_text("slot in hole")).to_be_visible()
    page.get_by_role("tab", name="Changes").click()
    corner = page.get_by_role("button", name="Relieve the inside corner").first
    corner.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("dog-bone relief")).to_have_count(2)
    page.get_by_role("button", name="Back to the wall").click()

    page.get_by_role("button", name="Make parts here").wait_for()
    wall.first.wait_for()
    before = wall.count()
    page.get_by_role("button", name="Make parts here").click()
    page.get_by_role("button", name="Ring or disc").click()
    page.get_by_label("outer").fill("10 in")
    page.get_by_label("outer").press("Enter")
    expect(page.get_by_role("img", name="Picture of what is made")).to_contain_text("254")
    page.get_by_label("inner").fill("300")
    page.get_by_label("inner").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not smaller than the outer")
    page.get_by_label("inner").fill("8 in")
    page.get_by_label("inner").press("Enter")
    page.get_by_role("button", name="Take in 1 piece").click()
    expect(wall).to_have_count(before + 1)

    (tmp_path / "box front x4.dxf").write_bytes(panel(190, 260, ((95, 190, 18),)))
    page.get_by_label("Drawings").set_input_files(str(tmp_path / "box front x4.dxf"))
    expect(page.get_by_role("heading", name="box front x4.dxf, version 2")).to_be_visible()
    expect(page.get_by_role("list", name="Changed parts")).to_contain_text("changed")
    page.get_by_role("button", name="Adopt the newer drawing").click()
    expect(front).to_contain_text("190 x 260")
    expect(page.locator("[data-severity=stop]").first).to_contain_text("no longer has")
    page.get_by_role("button", name="Undo").click()
    expect(front).to_contain_text("180 x 300")
