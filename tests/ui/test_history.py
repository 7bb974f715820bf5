"""History as pictures: what the plan was, two changes side by side, and going back to one."""

import re

from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api

JOB = "hinge-and-latch-plates"


def test_two_changes_are_drawn_side_by_side_and_one_is_brought_back(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/nest")
    before = api(url, f"/jobs/{JOB}")
    page.locator("[data-piece]").first.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_text(re.compile("moved by hand"))).to_be_visible()
    page.get_by_role("button", name="History").click()
    pictures = page.get_by_role("dialog").locator("img")
    expect(pictures.first).to_be_visible()
    until(lambda: all(i.evaluate("(i) => i.naturalWidth > 0") for i in pictures.all()[:3]), 30)
    page.get_by_role("button", name=f"Compare change {before['revision']} with now").click()
    older = page.get_by_role("region", name=f"Change {before['revision']}", exact=True)
    newer = page.get_by_role("region", name=f"Change {before['revision'] + 1}", exact=True)
    for side in (older, newer):
        expect(side.locator("[data-state=moved]").first).to_be_visible()
        assert side.locator("[data-state=same]").count() > 5
    expect(
        page.get_by_text(f"1 change from {before['revision']} to {before['revision'] + 1}")
    ).to_be_visible()
    expect(older.get_by_role("row", name="pieces")).to_contain_text(
        str(before["setups"][0]["yields"]["pieces"])
    )
    older.get_by_role("button", name="Bring this back").click()
    expect(page.get_by_text(f"brought back as it was at change {before['revision']}")).to_be_visible()
    now = api(url, f"/jobs/{JOB}")
    assert now["setups"][0]["pieces"] == before["setups"][0]["pieces"]
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text(re.compile("undone: brought back"))).to_be_visible()
