"""The library as pictures: what a change did, side by side, and brought back; and every house rule drawn."""

import re

import pytest
from playwright.sync_api import expect

from tests.ui.conftest import api


def cutter(url, name):
    return next(c for c in api(url, "/library")["cutter"] if c["name"] == name)


def test_a_change_of_a_cutter_is_seen_side_by_side_and_brought_back(served, page):
    url, _restart = served
    page.goto(f"{url}/library")
    page.get_by_role("button", name=re.compile("4 mm up-cut")).first.click()
    was = cutter(url, "4 mm up-cut")
    page.get_by_role("button", name=re.compile("^cutting length")).first.click()
    field = page.locator("input:focus")
    field.fill("14")
    field.press("Enter")
    expect(page.get_by_role("button", name=re.compile(": 14 mm")).first).to_be_visible()
    page.get_by_role("button", name="History").click()
    page.get_by_role("button", name=re.compile("Compare change \\d+ of the library")).first.click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("img", name="4 mm up-cut, before")).to_be_visible()
    expect(dialog.get_by_role("img", name="4 mm up-cut, after")).to_be_visible()
    row = dialog.get_by_role("row", name=re.compile("cutting length"))
    expect(row).to_contain_text(f"{was['cutting_length']:g} mm")
    expect(row).to_contain_text("14 mm")
    dialog.get_by_role("button", name="as it is now").click()
    expect(dialog.get_by_role("img", name="4 mm up-cut, now")).to_be_visible()
    dialog.get_by_role("button", name="Bring back as before").click()
    expect(page.get_by_role("status").filter(has_text="as it was before change")).to_be_visible()
    assert cutter(url, "4 mm up-cut")["cutting_length"] == was["cutting_length"]


def test_every_house_rule_is_drawn_where_it_is_looked_at(served, page):
    url, _restart = served
    page.goto(f"{url}/library/rules")
    figure = page.get_by_role("region", name="What it does")
    lines = page.locator("[data-rule]")
    expect(figure.get_by_role("img")).to_be_visible()
    names = list(dict.fromkeys(line.get_attribute("data-rule") for line in lines.all()))
    drawn = {d["rule"] for d in api(url, "/house-rules/drawn")}
    assert set(names) == drawn and len(names) > 12
    seen = set()
    for name in names:
        page.locator(f'[data-rule="{name}"]').first.hover()
        words = next(d["says"] for d in api(url, "/house-rules/drawn") if d["rule"] == name)
        expect(figure.get_by_role("img", name=f"{words}, drawn to scale", exact=True)).to_be_visible()
        seen.add(words)
    assert len(seen) == len(names)
    figure.get_by_role("button", name="aluminium").click()
    page.locator('[data-rule="overshoot"]').hover()
    expect(figure).to_contain_text("0.25 mm below a sheet of aluminium")
    page.get_by_role("button", name=re.compile("^overshoot, aluminium: 0.25")).click()
    page.get_by_label("overshoot, aluminium").fill("0.4")
    page.get_by_label("overshoot, aluminium").press("Enter")
    expect(figure).to_contain_text("0.4 mm below a sheet of aluminium")


def test_a_board_is_measured(served, page):
    url, _restart = served
    page.goto(f"{url}/surfacing/long-bed-spoilboard")
    page.get_by_test_id("board-view").wait_for()
    page.get_by_role("tab", name="how flat").click()
    page.keyboard.press("d")
    board = page.get_by_test_id("board-view").bounding_box()
    over = page.get_by_test_id("measure-over")
    expect(over).to_be_visible()
    bench = api(url, "/surfacing/long-bed-spoilboard")["bench"]["board"]
    outline = page.locator("[data-testid=board-view] g > rect[fill=none]").bounding_box()
    assert board["width"] >= outline["width"]
    low = (outline["x"] + 1, outline["y"] + outline["height"] - 1)
    high = (outline["x"] + outline["width"] - 1, outline["y"] + 1)
    for x, y in (low, high):
        page.mouse.move(x, y)
        page.mouse.click(x, y)
    expect(page.get_by_text(f"X {bench['width']:g} mm")).to_be_visible()
    expect(page.get_by_text(f"Y {bench['height']:g} mm")).to_be_visible()
    page.keyboard.press("Escape")
    expect(over).to_have_count(0)


def test_what_is_made_is_measured_before_it_is_taken_in(served, page):
    url, _restart = served
    page.goto(f"{url}/job/viewing-slot-glazing/parts")
    page.get_by_role("button", name="Make parts here").click()
    picture = page.get_by_role("img", name="Picture of what is made")
    outline = picture.locator("path[fill='#efe0bd']").first
    outline.wait_for()
    page.keyboard.press("d")
    box = outline.bounding_box()
    for x, y in ((box["x"] + 1, box["y"] + box["height"] / 2), (box["x"] + box["width"] - 1, box["y"] + 90)):
        page.mouse.move(x, y)
        page.mouse.click(x, y)
    expect(page.get_by_text("X 600 mm")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("measure-over")).to_have_count(0)
    expect(picture).to_be_visible()  # Esc is for the measures first


@pytest.mark.long
def test_an_inlay_on_its_way_is_stopped_and_gone_on_with(served, page):
    url, _restart = served
    asked = []

    def hold(route):
        asked.append(route.request.url)
        if len(asked) > 1:
            route.continue_()

    page.route(re.compile(r"/inlay\?"), hold)
    page.goto(f"{url}/job/name-board-carved-oak/cuts")
    page.get_by_role("tab", name="how carved").click()
    page.get_by_role("button", name="Work one out").click()
    waiting = page.get_by_role("status").filter(has_text="working out socket and plug")
    waiting.get_by_role("button", name="Stop").click()
    stopped = page.get_by_role("status").filter(has_text="stopped")
    expect(stopped).to_be_visible()
    assert len(asked) == 1
    stopped.get_by_role("button", name="Go on").click()
    expect(page.get_by_test_id("inlay-section")).to_be_visible()
    assert len(asked) == 2
