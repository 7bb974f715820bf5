"""Carving and surfacing as their users do it: a board lettered and carved, an inlay worked out; a spoilboard
probed, planned, booked.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.ui.pick import pick

JOB = "name-board-carved-oak"


@pytest.mark.long
def test_a_board_is_lettered_carved_and_an_inlay_worked_out(page, served):
    address, _restart = served
    page.goto(f"{address}/job/{JOB}/cuts")
    page.get_by_role("tab", name="how carved").click()
    board = page.get_by_test_id("carve-board")
    expect(board.get_by_role("img", name="as it will be carved")).to_have_attribute(
        "data-ready", "true", timeout=60_000
    )
    docket = page.get_by_label("Docket")
    expect(docket).to_contain_text("widest stroke at the surface")
    figure = board.locator("figure").first.bounding_box()
    page.mouse.move(figure["x"] + figure["width"] * 437.5 / 620, figure["y"] + figure["height"] * 60 / 190)
    expect(board.get_by_role("status")).to_contain_text("wide")
    before = board.get_by_role("img").first.get_attribute("src")
    # a flat floor by typing a depth: the figures and the picture follow
    docket.get_by_role("button", name=re.compile("^depth:")).click()
    docket.get_by_label("depth", exact=True).fill("1/8 in")
    page.keyboard.press("Enter")
    expect(docket.get_by_label("cutter for the floor")).to_be_visible()
    pick(docket, "cutter for the floor", "floor cleared with 4 mm up-cut")
    expect(docket.get_by_role("button", name="depth: 1/8 in")).to_be_visible()
    expect(board.get_by_role("img").first).not_to_have_attribute("src", before, timeout=60_000)
    expect(board.get_by_role("img", name="as it will be carved")).to_have_attribute(
        "data-ready", "true", timeout=60_000
    )
    board.get_by_role("button", name="The bit's path").click()
    assert board.locator("svg path").count() > 0
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(docket.get_by_label("cutter for the floor")).to_have_count(0)
    docket.get_by_text("Groove for folding").click()
    expect(docket).to_contain_text("bend allowance")
    # letters are made at Parts; an inlay of them is worked out with its section
    page.goto(f"{address}/job/{JOB}/parts")
    page.get_by_role("button", name="Make parts here").click()
    docket.get_by_role("button", name="Lettered board").click()
    docket.get_by_label("text", exact=True).fill("Ro")
    for field, value in (("width", "120"), ("height", "60"), ("margin around the text", "12")):
        docket.get_by_label(field, exact=True).fill(value)
        page.keyboard.press("Enter")
    expect(page.get_by_role("img", name="Picture of what is made")).to_contain_text("120 mm x 60 mm")
    docket.get_by_role("button", name="Take in 1 piece").click()
    expect(page.locator("[data-station=parts]")).to_contain_text("in 2 shapes")  # taken in, not only drawn
    page.goto(f"{address}/job/{JOB}/cuts")
    page.get_by_role("tab", name="how carved").click()
    pick(docket, "Part that is carved", "sign Ro")
    docket.get_by_role("button", name="Work one out").click()
    expect(page.get_by_test_id("inlay-section").get_by_role("img")).to_have_attribute(
        "aria-label", re.compile("socket .* deep, plug 0.3 above its floor"), timeout=90_000
    )
    inlay = docket.get_by_role("region", name="Inlay")
    expect(inlay).to_contain_text("overlap of the two")
    expect(inlay).to_contain_text("none")
    with page.expect_download() as d:
        inlay.get_by_role("link", name="Both programs").click()
    assert d.value.suggested_filename.endswith(".zip")


def test_a_spoilboard_is_probed_weighed_planned_and_booked(page, served):
    address, _restart = served
    page.goto(f"{address}/")
    page.get_by_role("link", name="Surfacing bench").click()
    docket = page.get_by_label("Docket")
    view = page.get_by_test_id("board-view")
    expect(view).to_have_attribute(
        "aria-label", re.compile("Long Bed spoilboard, 2900 by 1520 mm, heights from .* stay uncut")
    )
    docket.get_by_role("tab", name="how flat").click()
    docket.get_by_label("Readings").fill(
        "0 0 0\n2900 0 -0.4\n2900 1520 -0.5\n0 1520 -0.1\n1450 760 -0.7\n1450 0 -0.3"
    )
    docket.get_by_role("button", name=re.compile("Take these readings")).click()
    expect(docket).to_contain_text("6 readings.")
    docket.get_by_label("Readings").fill("1 2")
    docket.get_by_role("button", name=re.compile("Take these readings")).click()
    expect(page.get_by_role("alert")).to_contain_text("line 1")
    docket.get_by_role("button", name="Take just that").click()
    docket.get_by_role("tab", name="how cut").click()
    expect(docket.get_by_role("table", name="Passes")).to_contain_text("100 %")
    docket.get_by_role("button", name="+ a clamp, cam, stop or pod").click()
    expect(docket.get_by_text("Keep out of 2 places")).to_be_visible()
    docket.get_by_role("button", name="remove").last.click()
    expect(docket.get_by_text("Keep out of 1 place")).to_be_visible()
    pick(docket, "pattern", "A spiral")
    expect(docket.get_by_role("button", name=re.compile("^spiral:"))).to_be_visible()
    pick(docket, "pattern", "Rows")
    docket.get_by_role("tab", name="ridges and tram").click()
    chart = page.get_by_test_id("trade-off")
    expect(chart).to_have_attribute("aria-label", re.compile("10 % takes .* leaves 0.00"))
    page.get_by_role("button", name="Take 60 %").click()
    expect(page.get_by_role("row", name=re.compile("60 %.*taken"))).to_be_visible()
    docket.get_by_role("button", name=re.compile("^height of the step")).click()
    docket.get_by_label("height of the step").fill("0.08")
    page.keyboard.press("Enter")
    expect(docket.get_by_role("status")).to_contain_text("leans to the front")
    docket.get_by_role("tab", name="ledger").click()
    thick = docket.get_by_text("thickness left").locator("xpath=following-sibling::dd[1]")
    before = float(thick.inner_text().split()[0])
    docket.get_by_role("button", name="The passes were cut: book them").click()
    expect(docket.get_by_role("list", name="Ledger").get_by_role("listitem").first).to_contain_text(
        "surfaced"
    )
    assert float(thick.inner_text().split()[0]) < before
    docket.get_by_role("button", name=re.compile("Take back entry")).first.click()
    expect(docket.get_by_role("list", name="Ledger").get_by_role("listitem").first).to_contain_text(
        "taken back"
    )
    expect(docket).to_contain_text("take the ledger's")
    docket.get_by_role("button", name="Take the ledger's").click()
    expect(docket).not_to_contain_text("take the ledger's")
    docket.get_by_role("tab", name="how cut").click()
    with page.expect_download() as d:
        docket.get_by_role("button", name="Program", exact=True).click()
    assert d.value.suggested_filename == "surface_long-bed-spoilboard.nc"
    # a board of one's own
    page.get_by_role("button", name="+ a board").click()
    form = page.get_by_role("form", name="New board")
    form.get_by_label("Name of the board").fill("Ash top")
    form.get_by_role("button", name="Put it on the bench").click()
    expect(page.get_by_role("heading", name="Ash top")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Oak plank A")).click()
    docket.get_by_label("Oak plank B").check()
    expect(docket.get_by_role("button", name="Program for 2 boards")).to_be_visible()
    docket.get_by_role("button", name=re.compile("^wanted thickness")).click()
    docket.get_by_label("wanted thickness").fill("30.5")
    page.keyboard.press("Enter")
    expect(docket.get_by_role("alert")).to_contain_text("are wanted")


def test_a_board_is_a_job_with_history_undo_and_redo(served, page):
    url, _restart = served
    page.goto(f"{url}/job/oak-plank-b/parts")
    page.wait_for_url("**/surfacing/oak-plank-b")
    docket = page.get_by_label("Docket")
    pick(docket, "pattern", "A spiral")
    expect(docket.get_by_role("button", name=re.compile("^spiral:"))).to_be_visible()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(docket.get_by_role("button", name=re.compile("^spiral:"))).to_have_count(0)
    page.get_by_role("button", name="Redo", exact=True).click()
    expect(docket.get_by_role("button", name=re.compile("^spiral:"))).to_be_visible()
    page.get_by_role("button", name="History").click()
    lines = page.get_by_role("dialog").get_by_role("listitem")
    expect(lines).to_have_count(4)
    expect(lines.last).to_contain_text("Oak plank B put on the bench")
    expect(lines.nth(2)).to_contain_text("Oak plank B: pattern changed")
    page.get_by_role("button", name="Close").click()
    page.goto(url)
    jobs = page.get_by_role("link", name="Estuary hide")
    expect(jobs).to_be_visible()
    expect(page.get_by_role("link", name="Oak plank B")).to_have_attribute("href", "/surfacing/oak-plank-b")


def test_another_screens_change_of_a_board_is_shown(served, page):
    url, _restart = served
    page.goto(f"{url}/surfacing/oak-plank-a")
    docket = page.get_by_label("Docket")
    expect(docket.get_by_label("pattern")).to_be_visible()
    body = {"how": {"pattern": "spiral"}}
    assert page.request.patch(f"{url}/api/surfacing/oak-plank-a", data=body).ok
    expect(docket.get_by_role("button", name=re.compile("^spiral:"))).to_be_visible()


def test_a_board_gets_its_second_face(served, page):
    """From one face to both: the wanted thickness typed, a cam at the side, both programs saved, first and
    second face booked, and what is left of the thickness.
    """
    url, _restart = served
    page.goto(f"{url}/surfacing/oak-plank-b")
    docket = page.get_by_label("Docket")
    docket.get_by_role("button", name="+ its other face too").click()
    expect(docket.get_by_role("button", name="Second face")).to_have_attribute("aria-pressed", "true")
    docket.get_by_role("button", name=re.compile("^wanted thickness")).click()
    docket.get_by_label("wanted thickness").fill("26")
    page.keyboard.press("Enter")
    expect(docket.get_by_role("region", name="Turned over")).to_contain_text(
        "the last pass runs at Z 26.00 mm: that is its thickness"
    )
    last = docket.get_by_role("table", name="Passes").get_by_role("row").filter(has_text="in all")
    expect(last).to_contain_text("26")
    pick(docket, "held by", "cams at its sides")
    expect(docket).to_contain_text("cams at its sides")
    docket.get_by_text("Keep out of nothing").click()
    docket.get_by_role("button", name="+ a clamp, cam, stop or pod").click()
    pick(docket, "place 1, what stands there", "A cam at the side")
    for name, value in (("from Y", "-40"), ("to Y", "-1"), ("height over Z 0", "-2")):
        docket.get_by_role("button", name=re.compile(f"^place 1, {name}:")).click()
        docket.get_by_label(f"place 1, {name}").fill(value)
        page.keyboard.press("Enter")
        expect(docket.get_by_role("button", name=re.compile(f"^place 1, {name}: {value} mm"))).to_be_visible()
    expect(docket.get_by_text(re.compile(r"the cam at X .* ends 2 mm under Z 0"))).to_be_visible()
    docket.get_by_role("button", name="First face").click()
    expect(docket.get_by_text("Keep out of nothing")).to_be_visible()
    with page.expect_download() as d:
        docket.get_by_role("button", name="Programs for both faces").click()
    assert d.value.suggested_filename.endswith(".zip")
    docket.get_by_role("tab", name="ledger").click()
    docket.get_by_role("button", name="The first face was cut: book it").click()
    docket.get_by_role("button", name="The second face was cut: book it").click()
    lines = docket.get_by_role("list", name="Ledger").get_by_role("listitem")
    expect(lines.first).to_contain_text("second face")
    expect(docket.get_by_text("thickness left").locator("xpath=following-sibling::dd[1]")).to_contain_text(
        "26 mm"
    )
    expect(docket.get_by_role("button", name="The second face was cut: book it")).to_be_disabled()
