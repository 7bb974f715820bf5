"""Stock longer than the table in the browser: positions, pins, what is cut where, files and papers."""

import re

from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api, programs_in, released

JOB = "boardwalk-handrail"


def setup(url):
    return api(url, f"/jobs/{JOB}")["setups"][0]


def test_a_plank_is_moved_along_and_its_files_go_out(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/nest")
    long = page.get_by_role("region", name="Long stock")
    expect(long).to_contain_text("Moved along the table in 2 positions")
    # left where it lies the table does not reach it: said, and offered again
    long.get_by_role("button", name="Leave it where it lies").click()
    expect(page.get_by_label("Docket")).to_contain_text("does not reach all of")
    page.get_by_role("button", name="Move it along in positions").click()
    expect(long).to_contain_text("lines along a fence")
    assert setup(url)["long"]["along"]["indexing"]["brought"]["kind"] == "mark"
    # on pins, in holes that the job bores
    long.get_by_role("button", name="pins").click()
    expect(page.get_by_test_id("pin-hole")).to_have_count(2)
    expect(long).to_contain_text("It goes on its own holes alone")
    # a pin that is moved into a piece is stopped, and mended as offered
    pins = long.get_by_role("list", name="Pins")
    pins.get_by_role("button", name=re.compile("^Y of p1")).click()
    pins.get_by_label("Y of p1", exact=True).fill("90")
    pins.get_by_label("Y of p1", exact=True).press("Enter")
    docket = page.get_by_label("Docket")
    expect(docket).to_contain_text("does not lie clear in the stock")
    docket.get_by_role("button", name="Pins where there is room").click()
    expect(docket).not_to_contain_text("does not lie clear in the stock")
    # the table is looked at as the stock lies at a position
    zones = page.get_by_role("group", name=re.compile("^Table of Long Bed"))
    expect(zones).to_be_visible()
    second = long.get_by_role("button", name="show position 2")
    second.click()
    expect(second).to_have_attribute("aria-pressed", "true")
    # moved too far for what is cut in lengths: said; undone it is as before
    long.get_by_role("button", name=re.compile("^moved at position 2")).click()
    long.get_by_label("moved at position 2", exact=True).fill("3100")
    long.get_by_label("moved at position 2", exact=True).press("Enter")
    expect(docket).to_contain_text("at no position")
    page.get_by_role("button", name="Undo").click()
    expect(docket).not_to_contain_text("at no position")
    # the tape tells when it is moved
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Prove")).click()
    expect(page.get_by_test_id("moves-along")).to_contain_text("position 2")
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Release")).click()
    until(lambda: not [s for s in setup(url)["snags"] if s["severity"] == "stop"], 60)
    texts, said = programs_in(released(page))
    kinds = [re.search(r"pins-spoilboard|position-1_pins|position-\d", n).group() for n in sorted(texts)]
    assert kinds == ["pins-spoilboard", "position-1_pins", "position-1", "position-2"]
    assert "it is cut at 2 positions" in said and "drop its holes of position 2 on the 2 pins" in said
