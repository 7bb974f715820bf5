"""Several pieces at once, each edit taken back as one; and measuring on the drawing."""

import math
import re

import pytest
from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api

JOB = "viewing-slot-glazing"


def pieces(url):
    setup = api(url, f"/jobs/{JOB}")["setups"][0]
    return {p["id"]: p for p in setup["pieces"]}


def open_nest(page, url):
    page.goto(f"{url}/job/{JOB}/nest")
    page.get_by_label("Docket").wait_for()
    page.locator("[data-piece]").first.wait_for()


def middle(page, piece):
    box = page.locator(f'[data-piece="{piece}"]').bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def history(url):
    return api(url, f"/jobs/{JOB}/history")


def settled(page, url, was):
    """The pieces once the edit is answered: one revision more."""
    until(lambda: history(url)[0]["revision"] == was + 1, 30)
    return pieces(url)


def choose(page, ids):
    page.keyboard.press("Escape")
    for i in ids:
        page.locator(f'[data-piece="{i}"]').click(modifiers=["Shift"], position={"x": 4, "y": 4}, force=True)
    expect(page.get_by_role("heading", name=f"{len(ids)} pieces chosen")).to_be_visible()


def test_many_pieces_are_framed_moved_turned_aligned_spread_locked_and_each_is_one_edit(served, page):
    url, _restart = served
    open_nest(page, url)
    before = pieces(url)
    table = page.get_by_test_id("table").bounding_box()
    boxes = [page.locator(f'[data-piece="{i}"]').bounding_box() for i in before]
    left, top = min(b["x"] for b in boxes) - 6, min(b["y"] for b in boxes) - 6
    right, low = max(b["x"] + b["width"] for b in boxes) + 6, max(b["y"] + b["height"] for b in boxes) + 6
    assert table["x"] < left
    page.keyboard.down("Shift")
    page.mouse.move(left, top)
    page.mouse.down()
    page.mouse.move((left + right) / 2, (top + low) / 2)
    page.mouse.move(right, low)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.get_by_role("heading", name=f"{len(before)} pieces chosen")).to_be_visible()
    # all of them a step to the right: one edit, and one undo
    was = history(url)[0]["revision"]
    page.locator("[data-piece]").first.focus()
    page.keyboard.press("ArrowRight")
    now = settled(page, url, was)
    assert all(math.isclose(now[i]["x"], before[i]["x"] + 1, abs_tol=1e-4) for i in before)
    assert history(url)[0]["says"] == f"{len(before)} pieces moved"
    page.get_by_role("button", name="Undo").click()
    assert settled(page, url, was + 1) == before

    some = sorted(before, key=lambda i: before[i]["x"])[:3]
    choose(page, some)
    was = history(url)[0]["revision"]
    page.get_by_role("button", name="Lock", exact=True).click()
    now = settled(page, url, was)
    assert [i for i in now if now[i]["locked"] and not before[i]["locked"]] == [
        i for i in before if i in some
    ]
    expect(page.get_by_text("3 locked, which stay where they are")).to_be_visible()
    page.locator(f'[data-piece="{some[0]}"]').focus()
    page.keyboard.press("ArrowUp")  # a locked piece stays where it is
    page.get_by_role("button", name="Unlock").click()
    now = settled(page, url, was + 1)
    assert now == before

    page.get_by_role("button", name="near edges").click()
    now = settled(page, url, was + 2)
    assert all(math.isclose(now[i]["x"], before[i]["x"], abs_tol=1e-3) for i in some) and now != before
    assert history(url)[0]["says"] == "3 pieces aligned"
    page.get_by_role("button", name="along X", exact=True).click()
    settled(page, url, was + 3)
    page.get_by_role("button", name="Take off").click()
    now = settled(page, url, was + 4)
    assert set(now) == set(before) - set(some)


@pytest.mark.long
def test_quick_key_presses_all_count_and_more_are_laid_by_copy_and_paste(served, page):
    url, _restart = served
    open_nest(page, url)
    before = pieces(url)
    free = next(i for i, p in before.items() if not p["locked"])
    page.locator(f'[data-piece="{free}"]').focus()
    for _ in range(10):
        page.keyboard.press("ArrowRight")
    until(lambda: math.isclose(pieces(url)[free]["x"], before[free]["x"] + 10, abs_tol=1e-3), 30)
    was = history(url)[0]["revision"]
    page.keyboard.press("Control+c")
    page.keyboard.press("Control+v")
    now = settled(page, url, was)
    assert len(now) == len(before) + 1 and history(url)[0]["says"] == "1 piece more laid"


def test_distances_are_measured_between_what_the_pointer_snaps_to(served, page):
    url, _restart = served
    open_nest(page, url)
    page.keyboard.press("d")
    expect(page.get_by_role("button", name="Measure", exact=True)).to_have_attribute("aria-pressed", "true")
    stock = api(url, f"/jobs/{JOB}")["setups"][0]["stock"][0]
    table = page.get_by_test_id("table").bounding_box()
    told = page.get_by_test_id("pointer")

    def where(x, y):
        """A place in the window, found by what is told of the pointer."""
        page.mouse.move(x, y)
        words = told.text_content().replace(",", "").split()
        return float(words[0]), float(words[1])

    a = (table["x"] + 80, table["y"] + table["height"] - 80)
    b = (a[0] + 200, a[1] - 100)
    (xa, ya), (xb, _yb) = where(*a), where(*b)
    k = (xb - xa) / 200
    corner = (a[0] - xa / k, a[1] + ya / k)
    far = (corner[0] + stock["width"] / k, corner[1] - stock["height"] / k)
    page.mouse.click(*corner)
    page.mouse.move(*far)
    page.mouse.click(*far)
    across = math.hypot(stock["width"], stock["height"])
    shown = f"{across:.3f}".rstrip("0").rstrip(".")
    measures = page.get_by_test_id("measures")
    expect(measures).to_contain_text(f"{shown} mm")
    expect(measures).to_contain_text(f"X {stock['width']:g} mm")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("measures")).to_have_count(0)
    expect(page.get_by_role("button", name="Measure", exact=True)).to_have_attribute("aria-pressed", "false")
    assert re.search("/nest$", page.url)


def test_many_parts_are_changed_in_one_edit(served, page):
    url, _restart = served
    page.goto(f"{url}/job/estuary-hide-ribs-and-benches/parts")
    wall = page.get_by_label("Parts", exact=True)

    def parts():
        return {p["name"]: p for p in api(url, "/jobs/estuary-hide-ribs-and-benches")["parts"]}

    before = parts()
    wall.get_by_role("button", name="wall rib").click()
    for name in ("bench end", "gusset"):
        wall.get_by_role("button", name=name).click(modifiers=["Shift"])
    docket = page.get_by_role("region", name="Chosen parts")
    expect(docket.get_by_role("heading", name="3 parts chosen")).to_be_visible()
    docket.get_by_role("button", name="One more of each").click()
    three = ("wall rib", "bench end", "gusset")
    until(lambda: all(parts()[n]["quantity"] == before[n]["quantity"] + 1 for n in three), 30)
    said = api(url, "/jobs/estuary-hide-ribs-and-benches/history")
    assert said[0]["says"] == "3 parts: number wanted changed"
    wall.get_by_role("button", name="gusset").focus()
    page.keyboard.press("-")
    until(lambda: all(parts()[n]["quantity"] == before[n]["quantity"] for n in three), 30)
    docket.get_by_role("button", name="tabs of all").click()
    page.get_by_role("option", name="3 tabs").click()
    expect(page.get_by_text("3 parts: tabs changed")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("undone: 3 parts: tabs changed")).to_be_visible()
    docket.get_by_role("button", name="Remove").click()
    until(lambda: set(before) - set(parts()) == set(three), 30)
    page.get_by_role("button", name="Undo").click()
    until(lambda: set(parts()) == set(before), 30)


def test_a_part_is_measured_on_its_own_drawing(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/parts")
    page.get_by_label("Parts", exact=True).get_by_role("button").first.dblclick()
    page.get_by_role("button", name="Back to the wall").wait_for()
    page.keyboard.press("d")
    over = page.get_by_test_id("measure-over")
    drawn = page.get_by_role("group", name=re.compile("drawn large")).locator("path").nth(1).bounding_box()
    left, right = drawn["x"], drawn["x"] + drawn["width"]
    middle = drawn["y"] + drawn["height"] / 2
    for x in (left, right):
        page.mouse.move(x, middle)
        page.mouse.click(x, middle)
    part = next(p for p in api(url, f"/jobs/{JOB}")["parts"])
    wide = part["box"][2] - part["box"][0]
    expect(page.get_by_test_id("measures")).to_contain_text(f"X {wide:g} mm")
    page.keyboard.press("Escape")
    expect(over).to_have_count(0)
    expect(page.get_by_role("button", name="Back to the wall")).to_be_visible()
