"""Pictures of every main view from a running demo. Usage: python docs/take_screenshots.py [http://127.0.0.1:8321]"""

import sys
from pathlib import Path

from playwright.sync_api import sync_playwright

ADDRESS = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8321"
HERE = Path(__file__).parent / "screenshots"
JOB = "/job/estuary-hide-ribs-and-benches/"
ARGS = [
    "--no-sandbox",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


with sync_playwright() as p:
    browser = p.chromium.launch(executable_path="/usr/bin/chromium", args=ARGS)
    page = browser.new_page(viewport={"width": 1280, "height": 800})

    def take(name: str) -> None:
        page.wait_for_load_state("load")
        page.wait_for_timeout(2500)
        page.screenshot(path=HERE / f"{name}.png")

    for name, path in {
        "jobs": "/",
        **{s: JOB + s for s in ("parts", "stock", "yield")},
    }.items():
        page.goto(ADDRESS + path)
        take(name)
    page.goto(ADDRESS + "/table/saturday-on-the-small-bench")
    page.get_by_role("region", name="Cutters").wait_for(timeout=60_000)
    take("table")
    page.goto(ADDRESS + JOB + "prove")
    page.get_by_text("read back, clear").wait_for(timeout=60_000)
    page.get_by_test_id("as-cut").wait_for(state="attached")
    strip = page.get_by_test_id("tape").bounding_box()
    page.mouse.click(strip["x"] + 58 + (strip["width"] - 76) * 0.62, strip["y"] + 70)
    page.get_by_role("button", name="Section").click()
    sheet = page.get_by_test_id("table").bounding_box()
    page.mouse.click(sheet["x"] + 120, sheet["y"] + 60)
    page.mouse.click(sheet["x"] + 860, sheet["y"] + 200)
    page.get_by_test_id("cut-section").wait_for()
    page.get_by_test_id("verdict").wait_for(timeout=60_000)
    page.get_by_test_id("moment").wait_for()
    take("prove")
    page.goto(ADDRESS + "/job/tidal-channels-relief/prove")
    page.get_by_role("button", name="Against the model").click()
    page.get_by_test_id("verdict").wait_for(timeout=60_000)
    page.mouse.move(300, 330)
    with page.expect_response(lambda r: "against_models=true" in r.url, timeout=60_000):
        for _ in range(4):
            page.mouse.wheel(0, -300)
    take("relief")
    page.goto(ADDRESS + "/job/scoop-and-spice-shelf/nest")
    page.get_by_role("button", name="other face", exact=True).click()
    page.get_by_text("Left between the faces").first.wait_for()
    take("both-faces")
    page.goto(ADDRESS + "/job/nest-boxes-drawings-as-they-came/parts")
    page.get_by_role("button", name="front and back").first.click()
    page.get_by_role("button", name="Change its dimensions").click()
    take("made-here")
    page.goto(ADDRESS + JOB + "cuts")
    page.wait_for_selector("[data-piece]")
    page.get_by_role("tab", name="Sheet 2").or_(page.get_by_role("button", name="Sheet 2")).first.click()
    tape = page.get_by_test_id("tape").bounding_box()
    page.mouse.click(tape["x"] + tape["width"] * 0.62, tape["y"] + 40)
    page.get_by_role("button", name="Sheet", exact=True).click()
    page.locator('[aria-label^="field desk"]').first.focus()
    take("cuts")
    # how it is held, at a moment of the program
    page.goto(ADDRESS + JOB + "cuts")
    page.wait_for_selector("[data-piece][data-hold]")
    page.get_by_role("tab", name="how held").click()
    box = page.get_by_test_id("tape").bounding_box()

    def scrub(share: float) -> None:
        page.mouse.click(box["x"] + 58 + (box["width"] - 76) * share, box["y"] + 70)

    scrub(0.72)
    page.get_by_role("button", name="compare ways").click()
    page.locator("[data-way]").nth(3).wait_for(timeout=90_000)
    take("hold")
    page.goto(ADDRESS + "/job/hinge-and-latch-plates/cuts")
    page.wait_for_selector("[data-piece]")
    page.get_by_role("button", name="Sheet", exact=True).click()
    page.get_by_role("region", name="Operations on outlines").get_by_role(
        "button", name="feed window"
    ).last.click()
    page.get_by_role("button", name="spindle speed, what if").click()
    page.get_by_label("spindle speed, what if").fill("24000")
    page.get_by_label("spindle speed, what if").press("Enter")
    page.get_by_role("button", name="feed, what if").click()
    page.get_by_label("feed, what if").fill("0.5")
    page.get_by_label("feed, what if").press("Enter")
    page.get_by_role("img", name="outside the window").wait_for()
    take("feeds")
    page.goto(ADDRESS + "/job/name-board-carved-oak/cuts")
    page.get_by_role("tab", name="how carved").click()
    page.wait_for_selector("img[data-ready=true]", timeout=60_000)
    page.get_by_role("button", name="Work one out").click()
    page.get_by_test_id("inlay-section").wait_for(timeout=90_000)
    figure = page.get_by_test_id("carve-board").locator("figure").first.bounding_box()
    page.mouse.move(figure["x"] + figure["width"] * 437.5 / 620, figure["y"] + figure["height"] * 60 / 190)
    take("carved")
    page.goto(ADDRESS + "/surfacing/long-bed-spoilboard")
    page.get_by_role("tab", name="how flat").click()
    take("surfacing")
    page.goto(ADDRESS + "/job/hide-ironmongery-2-mm-steel/cuts")
    page.get_by_test_id("kerfs").wait_for(state="attached", timeout=60_000)
    page.get_by_role("button", name="Sheet", exact=True).click()
    box = page.get_by_test_id("tape").bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.82, box["y"] + 20)
    take("kerf")
    page.goto(ADDRESS + "/library/machines")
    page.get_by_role("button", name="How it reads").first.click()
    page.get_by_label("dialect to begin with").click()
    page.get_by_role("option", name="RS-274, metric, own words for shoe and vacuum").click()
    page.get_by_label("before cutting: shoe down").scroll_into_view_if_needed()
    page.get_by_role("button", name="Prove the newest jobs in it").click()
    page.get_by_role("list", name="Jobs proven").wait_for(timeout=90_000)
    take("dialect")
    # insides went out, the rest is next, and the code shows where it is on the table
    page.goto(ADDRESS + JOB + "release")
    page.get_by_role("heading", name="Ready to release").wait_for(timeout=90_000)
    page.get_by_role("group", name="What goes out").get_by_label("side").click()
    page.get_by_role("option", name="insides only").click()
    page.get_by_text("for a later release").wait_for()
    page.get_by_label("Note on the release").fill("holes first, outsides tomorrow")
    page.get_by_role("button", name="Release 2 programs").click()
    page.get_by_role("listitem", name="Release 1").wait_for(timeout=90_000)
    page.get_by_role("button", name="the whole job").click()
    page.get_by_role("button", name="The code of").click()
    page.get_by_test_id("program").focus()
    for _ in range(40):
        page.keyboard.press("PageDown")
    page.get_by_test_id("way").wait_for()
    take("release")
    # last: a search that goes on lays the pieces otherwise
    page.goto(ADDRESS + JOB + "nest")
    page.get_by_role("button", name="Keep this layout").click()
    page.get_by_label("Kept layouts").wait_for()
    page.get_by_role("button", name="Keep searching").click()
    page.get_by_role("button", name="Stop").first.wait_for()
    page.get_by_role("button", name="Keep searching").wait_for(timeout=60_000)
    page.locator("[data-piece]").nth(7).focus()
    take("nest")
    # the rack, asked what a size would fit in
    page.goto(ADDRESS + "/rack")
    page.get_by_role("article").first.wait_for()
    page.get_by_role("button", name="Move, count, change").nth(3).click()
    take("rack")
    browser.close()
