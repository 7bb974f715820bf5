"""What holds for every view: it can be read and worked by everybody (axe), nothing scrolls the page, nothing
is too small to read or hit, and keys are letters while one types.
"""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.pick import pick

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
JOB = "/job/estuary-hide-ribs-and-benches"
VIEWS = {
    "/": "On the desk",
    f"{JOB}/parts": "Parts of this job",
    f"{JOB}/stock": "Zero",
    f"{JOB}/nest": "Keep searching",
    f"{JOB}/cuts": "How it is cut",
    f"{JOB}/prove": "time of motion",
    f"{JOB}/yield": "What the job uses",
    f"{JOB}/release": "Contains",
    "/job/bench-feet-6-mm-steel/cuts": "nozzle bore",
    "/job/bench-feet-6-mm-steel/prove": "Reads back as planned",
    "/library/heads": "Air plasma, 45 A nozzle",
    "/library": "8 mm compression",
    "/library/materials": "Birch plywood",
    "/library/machines": "Long Bed",
    "/library/rules": "House rules",
    "/reckon/cusp": "Ridges of a ball end",
    "/rack": "Something came in",
    "/surfacing": "Surfacing bench",
    "/table/saturday-on-the-small-bench": "Saturday on the small bench",
    "/job/no-such-job": "There is nothing here",
    "/no/such/page": "There is nothing here",
}
SMALL = """() => [...document.querySelectorAll('button, a, summary, [role=tab]')].filter((e) => {
  const r = e.getBoundingClientRect();
  return r.width > 0 && (r.width < 23.5 || r.height < 23.5) && !e.closest('p, li, td, dd, svg');
}).map((e) => e.outerHTML.slice(0, 120))"""
SIZES = """() => [...document.querySelectorAll('body *')].filter((e) => !e.closest('svg') &&
  [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim()) &&
  e.getBoundingClientRect().width > 1).map((e) => parseFloat(getComputedStyle(e).fontSize))"""


def violations(page):
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
    return [(v["id"], n["target"], n["html"][:160]) for v in found for n in v["nodes"]]


COUNTED = "piece|sheet|hole|stop|look|file|cutter|tab|screw|job|change|part|row|pass|board|setup|minute|note"
MISCOUNTED = re.compile(rf"(?<![\\d.,])1 ({COUNTED})(e?s)\\b|(?<![\\d.,])0 ({COUNTED})(e?s)?\\b")


def miscounted(page):
    """Counts that do not agree with what they count, and counts of nothing."""
    text = page.evaluate("document.body.innerText")
    return [m.group(0) for m in MISCOUNTED.finditer(text)]


@pytest.fixture
def wide(browser):
    """A page in which scripts of a test may run."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    page = context.new_page()
    page.set_default_timeout(60_000)
    yield page
    context.close()


def test_every_view_can_be_read_and_worked_by_everybody(served, wide):
    url, _restart = served
    for path, words in VIEWS.items():
        wide.goto(url + path)
        wide.get_by_text(words).first.wait_for()
        assert violations(wide) == [], path
        assert wide.evaluate(SMALL) == [], path
        assert miscounted(wide) == [], path
        sizes = set(wide.evaluate(SIZES))
        assert sizes <= {12, 14, 15, 18, 21, 28}, (path, sizes)
    wide.goto(f"{url}{JOB}/parts")
    wide.get_by_role("button", name="wall rib").first.dblclick()
    wide.get_by_role("button", name="Back to the wall").wait_for()
    assert violations(wide) == []
    wide.keyboard.press("Escape")
    wide.get_by_role("button", name="Make parts here").wait_for()
    wide.keyboard.press("?")
    wide.get_by_role("dialog").get_by_text("Everywhere in a job").wait_for()
    assert violations(wide) == []


@pytest.mark.parametrize(("width", "height"), [(1024, 768), (390, 844)])
def test_the_page_never_scrolls_whatever_the_window(served, wide, width, height):
    url, _restart = served
    wide.set_viewport_size({"width": width, "height": height})
    for station in ("parts", "stock", "nest", "cuts", "prove", "yield", "release"):
        wide.goto(f"{url}{JOB}/{station}")
        wide.get_by_label("Docket").wait_for()
        wide.mouse.move(width / 2, height / 2)
        wide.mouse.wheel(0, 600)
        root = "document.getElementById('root')"
        assert wide.evaluate(f"[{root}.scrollTop, {root}.scrollLeft, scrollX, scrollY]") == [0, 0, 0, 0]
        assert wide.evaluate(f"[{root}.scrollWidth, {root}.scrollHeight]") == [width, height], station
        docket = wide.get_by_label("Docket").bounding_box()
        assert docket["x"] >= 0 and docket["x"] + docket["width"] <= width + 0.5, station


def test_keys_are_letters_while_one_types_and_let_go_with_escape(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/cuts")
    card = page.get_by_role("region", name="Operations on pockets")
    card.get_by_role("button", name="step-over: 60 %").click()
    page.keyboard.type("65")  # 6 is Yield's key, and a figure here
    expect(card.get_by_label("step-over", exact=True)).to_have_value("65")
    page.keyboard.press("Escape")
    expect(page).to_have_url(f"{url}{JOB}/cuts")
    card.get_by_label("Cutter for pockets").click()
    page.keyboard.type("4 mm")
    expect(page.get_by_role("option")).to_have_text(["4 mm up-cut"])
    page.keyboard.press("Escape")
    expect(page.get_by_role("option")).to_have_count(0)
    expect(page).to_have_url(f"{url}{JOB}/cuts")
    pick(card, "Cutter for pockets", "4 mm up-cut")
    expect(card.get_by_role("button", name="Cutter for pockets: 4 mm up-cut")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(card.get_by_role("button", name="Cutter for pockets: 6 mm up-cut")).to_be_visible()
    page.keyboard.press("Control+y")
    expect(card.get_by_role("button", name="Cutter for pockets: 4 mm up-cut")).to_be_visible()
    page.locator("[data-piece]").first.focus()
    expect(page.get_by_role("heading", name="piece 1 of")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="How it is cut")).to_be_visible()
    page.keyboard.press("6")
    expect(page).to_have_url(f"{url}{JOB}/yield")
    page.keyboard.press("3")
    page.get_by_role("button", name="Wishes for the layout").click()
    wish = page.get_by_label("pieces may lie in the holes of others")
    wish.click()
    expect(wish).not_to_be_checked()
    page.keyboard.press("Control+z")  # the box has the focus, and takes no letters
    expect(wish).to_be_checked()


def test_what_one_looks_at_is_kept_from_station_to_station(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/nest")
    piece = page.locator("[data-piece]").first
    piece.wait_for()
    whole = piece.bounding_box()["width"]
    page.keyboard.press("+")
    page.keyboard.press("+")
    near = piece.bounding_box()["width"]
    assert near == pytest.approx(whole * 1.4**2, rel=0.01)
    page.keyboard.press("6")
    page.get_by_text("What the job uses").wait_for()
    page.keyboard.press("4")
    piece.wait_for()
    assert piece.bounding_box()["width"] == pytest.approx(near, rel=0.01)
    page.keyboard.press("0")
    page.get_by_role("button", name="farther").click()
    assert piece.bounding_box()["width"] < near
    page.get_by_role("button", name="Table", exact=True).click()
    assert piece.bounding_box()["width"] <= whole * 1.001
    table = page.get_by_test_id("table").bounding_box()
    before = piece.bounding_box()["width"]
    page.mouse.move(table["x"] + 300, table["y"] + 200)
    page.mouse.wheel(0, -400)
    assert piece.bounding_box()["width"] > before


def test_a_server_that_is_gone_is_said_with_a_way_on(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/nest")
    page.get_by_role("button", name="Keep searching").wait_for()
    page.route("**/api/**", lambda route: route.abort())
    page.get_by_role("button", name="Keep this layout").click()
    expect(page.get_by_role("heading", name="Venzo does not answer")).to_be_visible()
    expect(page.get_by_role("alert").first).to_contain_text("does not answer")


def test_two_fingers_bring_the_table_nearer_and_move_it(served, page):
    """Touches as a screen sends them: what lies between the fingers stays there while they part."""
    url, _restart = served
    page.goto(f"{url}{JOB}/nest")
    piece = page.locator("[data-piece]").first
    piece.wait_for()
    table = page.get_by_test_id("table").bounding_box()
    x, y = table["x"] + table["width"] * 0.8, table["y"] + table["height"] - 30  # beside the sheet
    touch = page.context.new_cdp_session(page)

    def fingers(kind, apart, shift=0.0):
        points = [{"x": x + shift + side * apart, "y": y, "id": i} for i, side in enumerate((-1, 1))]
        touch.send(
            "Input.dispatchTouchEvent", {"type": kind, "touchPoints": points if kind != "touchEnd" else []}
        )

    before = piece.bounding_box()
    fingers("touchStart", 20)
    for apart in (25, 30, 40):
        fingers("touchMove", apart)
    fingers("touchEnd", 40)
    until(lambda: abs(piece.bounding_box()["width"] / before["width"] - 2) < 0.02)
    nearer = piece.bounding_box()
    assert x - nearer["x"] == pytest.approx(2 * (x - before["x"]), rel=0.03), "about the place between them"
    fingers("touchStart", 30)
    for shift in (-20, -40, -60):
        fingers("touchMove", 30, shift)
    fingers("touchEnd", 30)
    until(lambda: abs(piece.bounding_box()["x"] - nearer["x"] + 60) < 2)
    assert piece.bounding_box()["width"] == pytest.approx(nearer["width"], rel=0.01)


def test_the_focus_goes_to_what_lies_beside_what_was_removed(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/parts")
    parts = page.locator("[data-part]")
    parts.first.wait_for()
    count = parts.count()
    third = parts.nth(2).get_attribute("data-part")
    parts.nth(1).focus()
    page.keyboard.press("Delete")
    expect(parts).to_have_count(count - 1)
    expect(page.locator(f'[data-part="{third}"]')).to_be_focused()
    parts.last.focus()
    last_but_one = parts.nth(count - 3).get_attribute("data-part")
    page.keyboard.press("Delete")
    expect(parts).to_have_count(count - 2)
    expect(page.locator(f'[data-part="{last_but_one}"]')).to_be_focused()
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(parts).to_have_count(count)
