"""Contours and steps chosen together, each change one edit; places of tabs and starts typed."""

import math
import re

import pytest
from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api
from tests.ui.pick import pick

JOB = "estuary-hide-ribs-and-benches"


def job(url):
    return api(url, f"/jobs/{JOB}")


def one_more(page, url, was):
    """The job once the edit is answered: exactly one revision more."""
    until(lambda: job(url)["revision"] > was["revision"], 30)
    now = job(url)
    assert now["revision"] == was["revision"] + 1, "one edit, one undo"
    return now


def steps_of(document):
    """The setup's steps by kind of feature and name; kinds stand in no order."""
    return {(o["on"], o["id"]): o for o in document["setups"][0]["operations"]}


@pytest.mark.long
def test_steps_are_chosen_and_changed_together(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/cuts")
    page.get_by_role("heading", name="How it is cut").wait_for()
    before = job(url)
    boxes = page.get_by_role("checkbox", name=re.compile("^choose "))
    for n in range(2):
        boxes.nth(n).check()
    chosen = page.get_by_role("region", name="Chosen steps")
    expect(chosen.get_by_role("heading")).to_contain_text("2 steps chosen")
    chosen.get_by_role("button", name=re.compile("^spindle speed of all: by rule")).click()
    chosen.get_by_label("spindle speed of all").fill("15500")
    chosen.get_by_label("spindle speed of all").press("Enter")
    now = one_more(page, url, before)
    turned = [o["id"] for o in now["setups"][0]["operations"] if o["rpm"] == 15500]
    assert len(turned) == 2
    expect(chosen.get_by_role("button", name=re.compile("^spindle speed of all: 15,500"))).to_be_visible()
    chosen.get_by_role("button", name="As cutter and house rules say").click()
    again = one_more(page, url, now)
    assert steps_of(again) == steps_of(before)
    chosen.get_by_role("button", name="Take them out").click()
    gone = one_more(page, url, again)
    assert len(steps_of(gone)) == len(steps_of(before)) - 2
    page.get_by_role("button", name="Undo").click()
    until(lambda: steps_of(job(url)) == steps_of(before), 30)


def test_contours_are_chosen_and_changed_together_and_places_typed(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/cuts")
    before = job(url)
    part = next(p for p in before["parts"] if p["name"] == "wall rib")
    piece = next(p for p in before["setups"][0]["pieces"] if p["part"] == part["id"] and p["sheet_copy"] == 0)
    page.locator(f'[data-piece="{piece["id"]}"]').click(position={"x": 40, "y": 30}, force=True)
    page.get_by_role("heading", name=re.compile("^wall rib, piece")).wait_for()
    page.get_by_role("button", name="choose all 3").click()
    chosen = page.get_by_role("region", name="Chosen contours")
    expect(chosen.get_by_role("heading")).to_contain_text("3 contours chosen")
    pick(chosen, "tabs on each of the chosen", "2")
    now = one_more(page, url, before)
    counts = {c["contour"]: len(c["tabs"]) for c in now["setups"][0]["contours"][part["id"]]}
    assert [counts[f"hole {n}"] for n in (1, 2, 3)] == [2, 2, 2]
    chosen.get_by_role("button", name="All automatic").click()
    again = one_more(page, url, now)
    assert again["choices"] == before["choices"]
    chosen.get_by_role("button", name="Let go").click()
    expect(chosen).to_have_count(0)
    # a tab and the start go where they are typed, on the nearest place of the edge
    outlines = page.get_by_role("region", name="Outlines of wall rib")
    outlines.get_by_text(re.compile("places of start and")).click()
    tab = outlines.get_by_role("button", name=re.compile("^X of tab 2 of outline"))
    tab.click()
    outlines.get_by_label("X of tab 2 of outline").fill("400")
    outlines.get_by_label("X of tab 2 of outline").press("Enter")
    typed = one_more(page, url, again)
    tabs = next(c for c in typed["setups"][0]["contours"][part["id"]] if c["contour"] == "outline")["tabs"]
    assert any(math.isclose(t[0], 400, abs_tol=0.02) for t in tabs), tabs
    outlines.get_by_role("button", name=re.compile("^X of start of outline")).click()
    outlines.get_by_label("X of start of outline").fill("300")
    outlines.get_by_label("X of start of outline").press("Enter")
    moved = one_more(page, url, typed)
    start = next(c for c in moved["choices"] if c["contour"] == "outline")["start"]
    assert math.isclose(start[0], 300, abs_tol=0.02)
