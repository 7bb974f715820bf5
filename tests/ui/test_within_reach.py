"""A whole job by keyboard alone, and one by touch at both sizes of a tablet."""

import math
import re

import pytest
from playwright.sync_api import expect

from tests.conftest import panel
from tests.support.waiting import until
from tests.ui.conftest import api

MOST_TABS = 80
FOCUSED = """() => {
  const e = document.activeElement, text = e?.matches("button, a, summary") && e.innerText;
  return e ? [e.getAttribute("aria-label"), e.labels?.[0]?.innerText, text].filter(Boolean).join(" | ") : "";
}"""


def tab_to(page, name, back=False):
    """Tab until what has the focus is called so."""
    pattern = re.compile(name)
    for _ in range(MOST_TABS):
        if pattern.search(page.evaluate(FOCUSED)):
            return
        page.keyboard.press("Shift+Tab" if back else "Tab")
    raise AssertionError(f"{MOST_TABS} Tabs never came to {name}; at: {page.evaluate(FOCUSED)}")


@pytest.fixture
def keyed(browser):
    """A page in which a test may ask what has the focus."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, bypass_csp=True)
    page = context.new_page()
    page.set_default_timeout(60_000)
    # the browser is told to hand file choosers over when the first listener comes: not as a key is pressed
    page.on("filechooser", lambda _: None)
    yield page
    context.close()


def test_a_job_from_drawing_to_release_by_keyboard_alone(served, keyed, tmp_path):
    url, _restart = served
    page = keyed
    drawing = tmp_path / "hatch.dxf"
    drawing.write_bytes(panel(420, 260))
    page.goto(url)
    page.get_by_role("heading", name="Start a job").wait_for()
    tab_to(page, "Job name")
    page.keyboard.type("Hatch by keys")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Take in drawings").wait_for()
    tab_to(page, "^Take in drawings")
    with page.expect_file_chooser() as chooser:
        page.keyboard.press("Enter")
    chooser.value.set_files(drawing)
    page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("hatch")).wait_for()
    tab_to(page, "hatch")
    page.keyboard.press("+")
    job = f"{url}/job/hatch-by-keys"
    until(lambda: api(url, "/jobs/hatch-by-keys")["parts"][0]["quantity"] == 2, 30)
    page.keyboard.press("2")
    expect(page).to_have_url(f"{job}/stock")
    tab_to(page, "(?i)caliper|reading")
    page.keyboard.type("17.6, 17.7, 17.6")
    page.keyboard.press("Enter")
    until(lambda: api(url, "/jobs/hatch-by-keys")["setups"][0]["stock"][0]["readings"], 30)
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("3")
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")
    page.locator("[data-piece]").first.wait_for()
    # one stop for all pieces, and direction keys from one to the next
    tab_to(page, "hatch, piece")
    first = page.evaluate("document.activeElement.dataset.piece")
    for way in ("Right", "Left", "Up", "Down"):
        page.keyboard.press(f"Control+Arrow{way}")
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.dataset.piece") is None, "the next Tab leaves the pieces"
    assert first
    page.keyboard.press("Escape")  # out of the field: keys are shortcuts again
    page.keyboard.press("4")
    page.get_by_role("heading", name="How it is cut").wait_for()
    page.keyboard.press("5")
    expect(page).to_have_url(f"{job}/prove")
    page.get_by_text(re.compile("time of motion")).first.wait_for()
    page.keyboard.press("7")
    expect(page).to_have_url(f"{job}/release")
    # whatever still holds it up is said by name, and its remedy is a button that Tab reaches
    stops = [s for s in api(url, "/jobs/hatch-by-keys")["setups"][0]["snags"] if s["severity"] == "stop"]
    assert stops == [], stops
    # Tab passes over a key that cannot be pressed yet: the programs are still being read back
    expect(page.get_by_role("button", name=re.compile("^Release \\d+ program"))).to_be_enabled()
    tab_to(page, "^Release \\d+ program")
    page.keyboard.press("Enter")
    page.get_by_role("listitem", name="Release 1").wait_for()
    expect(page.get_by_role("button", name="Download", exact=True).first).to_be_enabled()
    tab_to(page, "^Download$")
    with page.expect_download() as file:
        page.keyboard.press("Enter")
    assert file.value.suggested_filename.endswith((".zip", ".nc"))


@pytest.fixture(
    params=[
        pytest.param((1024, 768), id="landscape"),
        pytest.param((768, 1024), id="portrait"),
    ]
)
def tablet(browser, request):
    """A tablet: fingers, no pointer that rests."""
    width, height = request.param
    context = browser.new_context(
        viewport={"width": width, "height": height}, has_touch=True, is_mobile=True, bypass_csp=True
    )
    page = context.new_page()
    page.set_default_timeout(60_000)
    yield page
    context.close()


KEYS = "button, a, summary, [role=tab]"
"""All that fingers go to, words within sentences too."""
SMALL = """(keys) => [...document.querySelectorAll(keys)].filter((e) => {
  const r = e.getBoundingClientRect();
  return r.width > 0 && (r.width < 43.5 || r.height < 43.5) && !e.closest('svg');
}).map((e) => e.outerHTML.slice(0, 120))"""


def fingers(page, *frames):
    """Touches frame by frame: each a list of (x, y)."""
    session = page.context.new_cdp_session(page)
    for n, frame in enumerate(frames):
        points = [{"x": x, "y": y, "id": i} for i, (x, y) in enumerate(frame)]
        kind = "touchStart" if n == 0 else "touchMove"
        session.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
    session.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})


def test_a_job_is_gone_through_and_altered_by_fingers(served, tablet):
    url, _restart = served
    page, job = tablet, "viewing-slot-glazing"
    page.goto(url)
    page.get_by_role("link", name="Viewing-slot glazing", exact=True).tap()
    page.get_by_label("Docket").wait_for()
    for station in ("Parts", "Stock", "Nest", "Cuts", "Prove", "Release"):
        page.get_by_label("Route").get_by_role("button", name=re.compile(f"^{station}")).tap()
        expect(page).to_have_url(re.compile(f"/{job}/{station.lower()}"))
        page.get_by_label("Docket").wait_for()
        assert page.evaluate(SMALL, KEYS) == [], station
        size = page.viewport_size
        root = "document.getElementById('root')"
        fits = f"[{root}.scrollWidth, {root}.scrollHeight].join() === '{size['width']},{size['height']}'"
        page.wait_for_function(
            fits, timeout=10_000
        )  # while it is being laid out it may be wider for a moment
    page.goto(f"{url}/job/{job}/nest")
    page.locator("[data-piece]").first.wait_for()
    before = {p["id"]: p for p in api(url, f"/jobs/{job}")["setups"][0]["pieces"]}
    # the rightmost piece is dragged by a finger to where there is room
    mine = max(before, key=lambda i: before[i]["x"])
    box = page.locator(f'[data-piece="{mine}"]').bounding_box()
    at = (box["x"] + 6, box["y"] + box["height"] / 2)
    fingers(page, [at], [(at[0] + 8, at[1])], [(at[0] + 20, at[1])], [(at[0] + 34, at[1])])
    until(lambda: pieces_of(url, job)[mine]["x"] > before[mine]["x"] + 5, 30)
    # two fingers bring it nearer
    wide = page.locator(f'[data-piece="{mine}"]').bounding_box()["width"]
    table = page.get_by_test_id("table").bounding_box()
    x, y = table["x"] + table["width"] - 60, table["y"] + table["height"] - 60
    fingers(page, [(x - 20, y), (x + 20, y)], [(x - 40, y), (x + 30, y)], [(x - 80, y), (x + 40, y)])
    now = page.locator(f'[data-piece="{mine}"]').bounding_box()["width"]
    assert now > 1.5 * wide, (wide, now)
    page.get_by_role("button", name="Undo").tap()
    until(lambda: math.isclose(pieces_of(url, job)[mine]["x"], before[mine]["x"], abs_tol=1e-3), 30)


def pieces_of(url, job):
    return {p["id"]: p for p in api(url, f"/jobs/{job}")["setups"][0]["pieces"]}
