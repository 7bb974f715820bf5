"""The Nest station by hand: keep, compare, swap, lock, drag into contact, a remnant drawn on the table."""

import json
import urllib.request

import pytest
from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api

pytestmark = pytest.mark.ui
JOB = "estuary-hide-ribs-and-benches"


def pieces(url):
    return {p["id"]: p for p in api(url, f"/jobs/{JOB}")["setups"][0]["pieces"]}


def command(url, **fields):
    base = api(url, f"/jobs/{JOB}")["revision"]
    body = json.dumps({"base": base, "command": {"setup": "main", **fields}}).encode()
    return json.load(
        urllib.request.urlopen(
            urllib.request.Request(
                f"{url}/api/jobs/{JOB}/commands", body, {"content-type": "application/json"}
            ),
            timeout=30,
        )
    )


@pytest.mark.long
def test_layouts_are_kept_compared_searched_on_and_taken_up(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/nest")
    state = page.get_by_test_id("layout-state")
    expect(state).to_have_text("fits")
    docket = page.get_by_label("Docket")
    expect(docket).to_contain_text("of the material used is parts")
    docket.get_by_role("button", name="Keep this layout").click()
    kept = docket.get_by_label("Kept layouts")
    expect(kept.get_by_role("listitem")).to_have_count(1)
    before = pieces(url)
    page.keyboard.press("n")
    expect(page.get_by_role("button", name="Stop, keep the best")).to_be_visible()
    expect(docket.get_by_role("img", name="no layout can reach")).to_be_visible(timeout=60_000)
    until(lambda: api(url, f"/jobs/{JOB}/nest?setup=main")["found"] > 0)
    page.get_by_role("button", name="Stop, keep the best").click()
    expect(page.get_by_role("button", name="Keep searching")).to_be_visible(timeout=60_000)
    expect(state).to_have_text("fits")
    setup = api(url, f"/jobs/{JOB}")["setups"][0]
    assert setup["layout"]["yield"] >= setup["kept"][0]["yield"] - 1e-9, "searching on is never worse"
    docket.get_by_role("button", name="Use", exact=True).click()
    expect(page.get_by_text("kept layout taken up")).to_be_visible()
    assert pieces(url) == before
    docket.get_by_role("button", name="Forget").click()
    expect(kept).to_have_count(0)


def test_pieces_change_places_are_locked_turned_over_and_go_into_contact(served, page):
    url, _restart = served
    part = api(url, f"/jobs/{JOB}")["parts"][1]
    other = next(p for p in api(url, f"/jobs/{JOB}")["parts"] if p["id"] != part["id"] and p["quantity"])
    page.goto(f"{url}/job/{JOB}/nest")
    docket = page.get_by_label("Docket")
    a, b = f"{part['id']}#1", f"{part['id']}#2"
    before = pieces(url)
    page.get_by_role("tab", name=f"Sheet {before[a]['sheet_copy'] + 1}").click()
    page.locator(f'[data-piece="{a}"]').click()
    docket.get_by_role("button", name="Change places").click()
    expect(docket).to_contain_text("choose the piece it changes places with")
    page.get_by_role("tab", name=f"Sheet {before[b]['sheet_copy'] + 1}").click()
    page.locator(f'[data-piece="{b}"]').click()
    expect(page.get_by_text("places changed")).to_be_visible()
    after = pieces(url)
    assert [(after[p]["x"], after[p]["y"]) for p in (a, b)] == [
        (before[p]["x"], before[p]["y"]) for p in (b, a)
    ]
    page.keyboard.press("Control+z")

    small = min((p for p in api(url, f"/jobs/{JOB}")["parts"] if p["quantity"]), key=lambda p: p["area"])
    page.get_by_role("tab", name=f"Sheet {before[small['id'] + '#1']['sheet_copy'] + 1}").click()
    page.locator(f'[data-piece="{small["id"]}#1"]').focus()
    docket.get_by_role("button", name="One more").click()
    expect(page.locator(f'[data-piece="{small["id"]}#{small["quantity"] + 1}"]')).to_be_visible()
    expect(page.get_by_test_id("layout-state")).to_have_text("out of date")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")

    lock = docket.get_by_role("button", name="Lock this sheet")
    lock.click()
    expect(docket.get_by_role("button", name="Nest around the locked")).to_be_visible()
    assert any(p["locked"] for p in pieces(url).values())
    docket.get_by_role("button", name="Unlock this sheet").click()
    expect(docket.get_by_role("button", name="Lock this sheet")).to_be_visible()

    # a piece alone on a sheet, dragged near its corner, lies just at the margin
    stock = api(url, f"/jobs/{JOB}")["setups"][0]["stock"][0]
    command(
        url,
        kind="move-piece",
        part=other["id"],
        copy_no=0,
        x=400,
        y=400,
        rotation=0,
        sheet=stock["id"],
        sheet_copy=stock["quantity"] - 1,
    )
    page.reload()
    page.get_by_role("tab").last.click()
    piece = page.locator(f'[data-piece="{other["id"]}#1"]')
    box = piece.bounding_box()
    table = page.get_by_test_id("table").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    scale = box["width"] / (other["box"][2] - other["box"][0])
    left = (400 + other["box"][0] - stock["margin"]) * scale
    page.mouse.move(box["x"] + box["width"] / 2 - left - 6, box["y"] + box["height"] / 2, steps=8)
    expect(page.get_by_test_id("drag-says")).to_contain_text("in contact")
    page.mouse.up()
    assert table
    # "moved by hand" stands there already, from the move before: ask where it lies
    until(lambda: abs(pieces(url)[f"{other['id']}#1"]["x"] + other["box"][0] - stock["margin"]) < 0.01)
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()


def test_a_remnants_outline_is_typed_or_drawn_and_a_wrong_one_is_told(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/stock")
    typed = page.get_by_label("another sheet, in a line")
    typed.fill("1220 x 610 sheet of mine")
    typed.press("Enter")
    expect(page.get_by_text("a sheet has three sizes")).to_be_visible()
    typed.fill("1220 x 610 x 18 sheet of mine")
    typed.press("Enter")
    card = page.get_by_role("region", name="sheet of mine")
    card.get_by_text("outline and flaws").click()
    field = card.get_by_label("Corner readings")
    field.fill("0,0 1200")
    field.press("Enter")
    expect(card.get_by_role("alert")).to_contain_text("is not a corner")
    field.fill("0,0 1200,0 0,600 1200,600")
    field.press("Enter")
    expect(page.locator("main").get_by_role("alert")).to_contain_text("must not cross itself")
    field.fill("0,0 1200,0 1200,300 24in,600 0,600")
    field.press("Enter")
    expect(card).to_contain_text("remnant of 5 corners")
    card.get_by_role("button", name="Whole sheet again").click()
    expect(card).to_contain_text("whole sheet")
    card.get_by_role("button", name="Draw the outline on the table").click()
    box = page.get_by_test_id("table").bounding_box()
    for x, y in ((0.2, 0.8), (0.5, 0.8), (0.4, 0.6), (0.2, 0.55)):
        page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)
    card.get_by_role("button", name="Close the outline").click()
    expect(card).to_contain_text("remnant of 4 corners")
    card.get_by_role("button", name="+ a flaw").click()
    expect(card).to_contain_text("1 flaw")
    card.get_by_text("mm, margin").click()
    card.get_by_role("button", name="Take it out").click()
    expect(card).to_have_count(0)
