"""Edits made faster than they are answered: every one is there afterwards, in jobs, in the library and on the
surfacing bench.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.conftest import MANY
from tests.support.waiting import settled
from tests.ui.conftest import api

JOB = "estuary-hide-ribs-and-benches"


def setup_of(page, address):
    return page.request.get(f"{address}/api/jobs/{JOB}").json()["setups"][0]


def typed(card, button, field, text):
    """A number in a sentence typed anew, without waiting for the answer."""
    card.get_by_role("button", name=re.compile(f"^{button}")).first.click()
    card.get_by_label(field, exact=True).fill(text)
    card.get_by_label(field, exact=True).press("Enter")


@pytest.mark.long
def test_numbers_of_one_step_typed_one_after_the_other(page, served):
    address, _restart = served
    page.goto(f"{address}/job/{JOB}/cuts")
    card = page.get_by_role("region", name="Operations on pockets")
    card.wait_for()
    typed(card, "step-over", "step-over", "43")
    typed(card, "depth", "depth", "6.1")
    typed(card, "feed", "feed", "2,9")  # with a decimal comma
    settled(page, 120 * MANY)
    step = next(o for o in setup_of(page, address)["operations"] if o["on"] == "pockets")
    assert (step["step_over"], step["depth"], step["feed"]) == (0.43, 6.1, 2900)


@pytest.mark.long
def test_many_quick_clicks_are_all_there(page, served):
    """Pieces counted up by key, zones switched, fields of the stock passed through with Tab: as fast as a
    browser can.
    """
    address, _restart = served
    page.goto(f"{address}/job/{JOB}/parts")
    cards = page.locator("main li > button")
    first, second = cards.nth(0), cards.nth(1)
    first.wait_for()
    before = {p["name"]: p["quantity"] for p in page.request.get(f"{address}/api/jobs/{JOB}").json()["parts"]}
    names = [c.locator("b").first.inner_text() for c in (first, second)]
    times = 25 * MANY
    for k in range(times):
        card = (first, second)[k % 2]
        card.focus()
        page.keyboard.press("+")
    settled(page, 120 * MANY)
    after = {p["name"]: p["quantity"] for p in page.request.get(f"{address}/api/jobs/{JOB}").json()["parts"]}
    grown = [next(after[n] - before[n] for n in before if name == n) for name in names]
    assert grown == [(times + 1) // 2, times // 2]


def test_zones_and_stock_changed_in_one_go(page, served):
    address, _restart = served
    page.goto(f"{address}/job/{JOB}/stock")
    page.get_by_role("button", name=re.compile("^Vacuum zones")).click()
    zones = page.get_by_role("group", name="Vacuum zones").get_by_role("button")
    zones.first.wait_for()
    was = set(setup_of(page, address)["zones_on"])
    for k in range(zones.count()):
        zones.nth(k).click()
    page.get_by_text("margin").first.click()
    card = page.locator("section[aria-label]").filter(has_text="thick, mean").first
    for label, text in (("along Y", "1221"), ("margin kept free", "11"), ("nominal thickness", "18.1")):
        card.get_by_label(label, exact=True).fill(text)
        card.get_by_label(label, exact=True).press("Tab")
    settled(page, 120 * MANY)
    now = setup_of(page, address)
    assert set(now["zones_on"]) == {z["id"] for z in now["machine"]["zones"]} - was
    assert (now["stock"][0]["height"], now["stock"][0]["margin"], now["stock"][0]["nominal"]) == (
        1221,
        11,
        18.1,
    )


def test_what_another_screen_changes_is_seen_at_once(served, browser, page):
    """Two people on one job: nobody reads it again to see what the other did."""
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/parts")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_be_visible()
    other = browser.new_context().new_page()
    other.goto(f"{url}/job/{JOB}/parts")
    expect(other.get_by_role("heading", level=1)).to_have_text(heading.inner_text())
    before = heading.inner_text()
    revision = api(url, f"/jobs/{JOB}")["revision"]
    body = {"base": revision, "command": {"kind": "rename-job", "name": "Renamed elsewhere"}}
    other.evaluate(
        "([path, body]) => fetch(path, {method: 'POST', headers: {'content-type': 'application/json'},"
        " body: JSON.stringify(body)})",
        [f"/api/jobs/{JOB}/commands", body],
    )
    expect(heading).to_have_text("Renamed elsewhere")
    expect(other.get_by_role("heading", level=1)).to_have_text("Renamed elsewhere")
    other.keyboard.press("Control+z")
    expect(heading).to_have_text(before)
    other.context.close()


def test_the_history_says_who_changed_what(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/parts")
    page.get_by_role("button", name="History").click()
    panel = page.get_by_role("dialog")
    panel.get_by_label("Your name").fill("Mara (office)")
    panel.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    page.get_by_role("button", name="History").click()
    newest = panel.get_by_role("listitem").first
    expect(newest).to_contain_text("undone")
    expect(newest).to_contain_text("Mara (office)")
    expect(panel.get_by_role("listitem").last).not_to_contain_text("Mara")
    panel.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()
    page.reload()
    page.get_by_role("button", name="History").click()
    expect(panel.get_by_label("Your name")).to_have_value("Mara (office)")


def test_a_name_of_any_signs_stops_no_request(served, page):
    """A name with half a sign could not be put into a request: nothing would be answered any more."""
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/parts")
    page.get_by_role("button", name="History").click()
    panel = page.get_by_role("dialog")
    panel.get_by_label("Your name").evaluate(
        "(e) => { const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set;"
        " set.call(e, 'Jürgen \\ud83d'); e.dispatchEvent(new Event('input', {bubbles: true})); }"
    )
    page.reload()
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.get_by_role("button", name="History").click()
    expect(panel.get_by_role("listitem").first).to_be_visible()
