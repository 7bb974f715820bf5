"""How it is held and in which order, as a programmer uses it: the table shaded, the tape scrubbed and
rearranged, what holds this, screws proposed and dragged; and Prove: the sheet as it is cut.
"""

import math
import re

from playwright.sync_api import expect

from tests.support.waiting import settled, until
from tests.ui.pick import pick

JOB = "estuary-hide-ribs-and-benches"


def opened(page, served, tab, job=JOB):
    address, _restart = served
    page.goto(f"{address}/job/{job}/cuts")
    page.get_by_role("tab", name=tab).click()
    return address


def setup_of(page, address, job=JOB):
    return page.request.get(f"{address}/api/jobs/{job}").json()["setups"][0]


def scrub(page, share):
    """To a moment on the tape, on the row of the hold."""
    box = page.get_by_test_id("tape").bounding_box()
    page.mouse.click(box["x"] + 58 + (box["width"] - 76) * share, box["y"] + 70)


def test_the_table_is_shaded_by_hold_and_the_tape_moves_it(page, served):
    address = opened(page, served, "how held")
    expect(page.get_by_label("Scale of hold")).to_contain_text("part of the sheet")
    pieces = page.locator("[data-piece]")
    expect(pieces.first).to_have_attribute("data-hold", re.compile("firm|enough|thin"))
    scrub(page, 0.02)
    expect(page.locator("[data-piece][data-hold=whole]")).to_have_count(pieces.count())
    scrub(page, 0.99)
    until(lambda: page.locator("[data-piece][data-hold=whole]").count() < pieces.count())
    # what holds this, at that moment and before it was parted
    page.locator("[data-piece]").nth(3).focus()
    what = page.get_by_role("region", name="What holds this")
    expect(what).to_contain_text("what its last cut asks")
    expect(what).to_contain_text("vacuum")
    expect(what.get_by_role("img")).to_have_attribute(
        "aria-label", re.compile("Loose-part timeline: .*times")
    )
    scrub(page, 0.02)
    expect(what).to_contain_text("It is still part of the sheet")
    least = setup_of(page, address)["sheets"][0]["hold"]["lowest"]["ratio"]
    page.keyboard.press("Escape")
    expect(page.get_by_label("Lowest hold")).to_contain_text(
        f"{math.floor(least * 10 + 1e-6) / 10:.1f}"
    )  # never rounded up


def test_ways_are_compared_and_taken_and_zones_switched(page, served):
    address = opened(page, served, "how held")
    card = page.get_by_role("region", name="Ways to hold the outlines")
    card.get_by_role("button", name="compare ways").click()
    expect(card.locator("[data-way]")).to_have_count(4, timeout=60_000)
    card.get_by_role("button", name="skin, last pass").click()
    until(
        lambda: any(
            o["floor_allowance"] > 0 for o in setup_of(page, address)["operations"] if o["on"] == "outlines"
        )
    )
    page.get_by_role("button", name="Undo").click()
    until(
        lambda: (
            not any(
                o.get("floor_allowance")
                for o in setup_of(page, address)["operations"]
                if o["on"] == "outlines"
            )
        )
    )
    before = setup_of(page, address)["sheets"][0]["hold"]["pressure"][0]
    page.get_by_role("region", name="Vacuum").get_by_role("button", name="5 on").click()
    until(lambda: (setup_of(page, address)["sheets"][0]["hold"]["pressure"] or [0])[0] > before)
    page.get_by_role("region", name="Screws and clamps").get_by_role(
        "button", name="Cover open zones"
    ).click()
    until(lambda: any(f["kind"] == "cover" for f in setup_of(page, address)["fixings"]))
    for _ in range(2):
        page.get_by_role("button", name="Undo").click()
        settled(page)


def test_screws_are_proposed_marked_and_dragged(page, served):
    address = opened(page, served, "how held", "viewing-slot-glazing")
    had = len(setup_of(page, address, "viewing-slot-glazing")["screws"])
    page.get_by_role("button", name="Propose screws").click()
    until(lambda: len(setup_of(page, address, "viewing-slot-glazing")["screws"]) > had)
    new = setup_of(page, address, "viewing-slot-glazing")["screws"][-1]
    assert new["marked"] and any(
        "screw-marks" in f["name"]
        for f in setup_of(page, address, "viewing-slot-glazing")["release"]["files"]
    )
    page.locator(f"[data-fixing={new['id']}]").focus()
    page.keyboard.press("ArrowRight")
    until(lambda: setup_of(page, address, "viewing-slot-glazing")["screws"][-1]["x"] == new["x"] + 5)
    # its place is typed too
    page.get_by_text(re.compile("^places of \\d+ screw")).click()
    last = len(setup_of(page, address, "viewing-slot-glazing")["screws"])
    page.get_by_role("button", name=re.compile(f"^Y of screw {last}: ")).click()
    page.get_by_label(f"Y of screw {last}", exact=True).fill("31.5")
    page.get_by_label(f"Y of screw {last}", exact=True).press("Enter")
    until(lambda: setup_of(page, address, "viewing-slot-glazing")["screws"][-1]["y"] == 31.5)
    page.locator(f"[data-fixing={new['id']}]").focus()
    page.keyboard.press("Delete")
    until(
        lambda: new["id"] not in {s["id"] for s in setup_of(page, address, "viewing-slot-glazing")["screws"]}
    )
    pick(page, "Add a fixing", "clamp")
    until(
        lambda: any(f["kind"] == "clamp" for f in setup_of(page, address, "viewing-slot-glazing")["fixings"])
    )
    page.get_by_role("button", name="take clamp-1 away").click()
    until(lambda: not setup_of(page, address, "viewing-slot-glazing")["fixings"])


def test_the_order_is_compared_moved_by_hand_and_refused_with_a_reason(page, served):
    address = opened(page, served, "in which order")
    table = page.get_by_role("region", name="Orders compared")
    expect(table.locator("[data-order]")).to_have_count(5, timeout=60_000)
    cuts = [c["name"] for c in setup_of(page, address)["sheets"][0]["cuts"]]
    outlines = [c for c in setup_of(page, address)["sheets"][0]["cuts"] if c["outline"]]
    # a cell dragged on the tape: the second outline after the third
    cells = page.locator("[data-cell]")
    a, b = (next(i for i, n in enumerate(cuts) if n == outlines[k]["name"]) for k in (3, 5))
    first, second = cells.nth(a).bounding_box(), cells.nth(b).bounding_box()
    page.mouse.move(first["x"] + first["width"] / 2, first["y"] + 10)
    page.mouse.down()
    page.mouse.move(second["x"] + second["width"] * 0.8, second["y"] + 10, steps=6)
    page.mouse.up()
    until(lambda: [c["name"] for c in setup_of(page, address)["sheets"][0]["cuts"]].index(cuts[a]) == b)
    expect(page.get_by_role("region", name="By hand")).to_contain_text("before")
    page.get_by_role("button", name="take back").click()
    until(lambda: [c["name"] for c in setup_of(page, address)["sheets"][0]["cuts"]] == cuts)


def test_a_step_is_not_put_before_the_one_that_opens_its_way(page, served):
    job = "hinge-and-latch-plates"
    address = opened(page, served, "in which order", job)
    cuts = [c["name"] for c in setup_of(page, address, job)["sheets"][0]["cuts"]]
    second = next(i for i, n in enumerate(cuts) if n.endswith("outline/1"))
    cell = page.locator("[data-cell]").nth(second).bounding_box()
    page.mouse.click(cell["x"] + cell["width"] / 2, cell["y"] + 10)
    card = page.get_by_role("region", name="By hand")
    expect(card).to_contain_text(f"{second + 1} of {len(cuts)}")
    card.get_by_role("button", name="first").click()
    expect(page.get_by_role("alert")).to_contain_text("must come before outline, step 2")
    assert [c["name"] for c in setup_of(page, address, job)["sheets"][0]["cuts"]] == cuts


def test_a_trial_piece_comes_first_in_a_program_of_its_own(page, served):
    address = opened(page, served, "in which order", "hinge-and-latch-plates")
    page.locator("[data-piece]").nth(5).focus()
    page.get_by_role("button", name=re.compile("first$")).filter(has_text="piece").click()
    until(
        lambda: any(
            "_trial" in f["name"]
            for f in setup_of(page, address, "hinge-and-latch-plates")["release"]["files"]
        )
    )
    expect(page.get_by_test_id("tape")).to_contain_text("trial ends")
    page.get_by_role("button", name="with the rest").click()
    until(
        lambda: (
            not any(
                "_trial" in f["name"]
                for f in setup_of(page, address, "hinge-and-latch-plates")["release"]["files"]
            )
        )
    )


# -- Prove: the sheet as it is cut, moved by the tape, measured, cut through


def proving(page, served):
    address, _restart = served
    page.goto(f"{address}/job/{JOB}/prove")
    expect(page.get_by_test_id("as-cut")).to_be_attached()
    return page.get_by_test_id("as-cut")


def at(page, x, y):
    """A place of the sheet, mm, in the window: by the piece that lies there the camera is known."""
    return page.evaluate(
        """([x, y]) => {
            const g = document.querySelector('[data-testid=as-cut]').parentElement.getScreenCTM();
            const p = new DOMPoint(x, y).matrixTransform(g);
            return [p.x, p.y];
        }""",
        [x, y],
    )


def test_the_sheet_is_seen_as_it_is_cut_and_goes_with_the_tape(page, served):
    picture = proving(page, served)
    expect(picture).not_to_have_attribute("data-address", re.compile("seconds="))
    scrub(page, 0.5)
    expect(picture).to_have_attribute("data-address", re.compile(r"seconds=\d+"))
    half = picture.get_attribute("data-address")
    page.get_by_test_id("tape").press("End")
    expect(picture).not_to_have_attribute("data-address", half)
    page.get_by_role("button", name="Whole plan").click()
    expect(picture).not_to_have_attribute("data-address", re.compile("seconds="))
    for _ in range(4):
        page.get_by_role("button", name="nearer").click()
    expect(picture).not_to_have_attribute("data-address", re.compile("area=0,0,2440"))
    assert float(picture.get_attribute("width")) < 2440, "only what is looked at, and sharper"
    page.get_by_role("button", name="How it is held").click()
    expect(picture).to_have_count(0)
    expect(page.get_by_label("Scale of hold")).to_be_visible()
    page.get_by_role("button", name="As it is cut").click()
    expect(picture).to_be_attached()


def sheet_with(page, part):
    """Show the sheet on which a part lies; which one that is hangs on the nest."""
    for name in ("Sheet 1", "Sheet 2"):
        tab = page.get_by_role("tab", name=name, exact=True)
        tab.click()
        expect(tab).to_have_attribute("aria-selected", "true")
        if page.locator(f'[aria-label^="{part}"]').count():
            return


def test_depth_and_width_are_told_under_the_pointer(page, served):
    proving(page, served)
    sheet_with(page, "seat rail")
    box = page.locator('[aria-label^="seat rail"]').first.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    told = page.get_by_test_id("under-pointer")
    expect(told).to_contain_text(re.compile("stands|deep|cut through"))
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] - 1.5)
    expect(told).to_contain_text("cut through")
    expect(told).to_contain_text(re.compile(r"[\d.]+ mm across"))
    page.get_by_role("button", name="switch the unit").click()
    page.mouse.move(box["x"] + box["width"] / 2 + 1, box["y"] - 1.5)
    expect(told).to_contain_text(re.compile(r"[\d.]+ in across"))


def test_a_section_is_clicked_typed_and_closed(page, served):
    proving(page, served)
    page.get_by_role("button", name="Section").click()
    panel = page.get_by_role("region", name="Section")
    expect(panel).to_contain_text("click one end")
    page.mouse.click(*at(page, 300, 1150))
    expect(panel).to_contain_text("click its other end")
    page.mouse.click(*at(page, 300, 700))
    drawn = panel.get_by_role("img")
    expect(drawn).to_have_accessible_name(re.compile(r"Section with \d+ cuts: .*through"))
    before = drawn.get_attribute("aria-label")
    panel.get_by_role("button", name="start X").click()
    panel.get_by_label("start X").fill("1900")
    panel.get_by_label("start X").press("Enter")
    expect(drawn).not_to_have_attribute("aria-label", before)
    page.get_by_test_id("tape").press("Home")
    expect(drawn).to_have_accessible_name("Section: nothing is cut along it")
    panel.get_by_role("button", name="Close").click()
    expect(panel).to_have_count(0)


def test_what_is_left_standing_is_listed_marked_and_shown(page, served):
    """Sharp inside corners of the seat rails: a ring at each, and the list goes from one to the next."""
    picture = proving(page, served)
    sheet_with(page, "seat rail")
    expect(picture).to_be_attached()
    left = page.get_by_role("button", name=re.compile("What is left standing"))
    expect(left).to_contain_text(re.compile(r"\d+ places"))
    rings = page.get_by_test_id("places").locator("circle")
    expect(rings).to_have_count(int(re.search(r"(\d+) places", left.inner_text())[1]))
    line = page.get_by_role("listitem").filter(has=page.get_by_role("button", name="Show seat rail"))
    expect(line).to_contain_text(re.compile(r"corners, up to [\d.]+ mm along, as high as the sheet"))
    whole = float(picture.get_attribute("width"))
    line.get_by_role("button", name="Show seat rail").click()
    expect(picture).not_to_have_attribute("width", str(whole))
    first = at(page, 0, 0)
    line.get_by_role("button", name="Show seat rail").click()
    expect(line).to_contain_text("show 2")
    assert at(page, 0, 0) != first, "the table has moved on to the next"
    page.get_by_role("button", name="Sheet", exact=True).click()
    scrub(page, 0.5)
    expect(page.get_by_test_id("places")).to_have_count(0)


def test_a_sheet_is_let_go_by_somebody_and_says_what_changed_since(page, served):
    address, _restart = served
    page.goto(f"{address}/job/viewing-slot-glazing/prove")
    verdict = page.get_by_role("region", name="Verdict on Sheet 1")
    expect(page.get_by_test_id("verdict")).to_have_text(
        re.compile("Sheet 1: (clear|to look at)"), timeout=60_000
    )
    expect(verdict).to_contain_text("Nobody has looked at it yet.")
    verdict.get_by_role("button", name="I have looked").click()
    verdict.get_by_label("your name").fill("Mara")
    verdict.get_by_label("what was seen").fill("slots before outlines")
    verdict.get_by_role("button", name="It can be cut").click()
    looked = page.get_by_test_id("looked-at")
    expect(looked).to_contain_text("Looked at by Mara")
    expect(looked).to_contain_text("slots before outlines. It is still as it was.")
    page.goto(f"{address}/job/viewing-slot-glazing/release")
    expect(page.get_by_label("Check list of sheet 1")).to_contain_text("Mara looked")
    page.goto(f"{address}/job/viewing-slot-glazing/stock")
    page.get_by_role("button", name=re.compile("Zero")).click()
    page.get_by_role("button", name=re.compile("^zero:")).click()
    page.get_by_role("option", name="a place on the sheet").click()
    expect(page.get_by_test_id("touch-off")).to_contain_text("bring a pointed tool over the point")
    page.get_by_role("button", name=re.compile("^zero X")).click()
    page.get_by_role("textbox", name=re.compile("^zero X")).fill("5000")
    page.get_by_role("textbox", name=re.compile("^zero X")).press("Enter")
    expect(page.get_by_label("Snags")).to_contain_text("nothing can be touched there")
    page.get_by_role("button", name="Zero at the centre").click()
    expect(page.get_by_test_id("touch-off")).to_contain_text("halve")
    page.goto(f"{address}/job/viewing-slot-glazing/prove")
    expect(looked).to_contain_text(
        re.compile("Was looked at by Mara.*Changed since: .*the zeros"), timeout=60_000
    )
    for _ in range(3):  # a place, its X, the centre
        before = page.get_by_text(re.compile(r"^change \d+")).first.inner_text()
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text(re.compile(r"^change \d+")).first).not_to_have_text(before)
    expect(looked).to_contain_text("It is still as it was.", timeout=60_000)


def test_the_load_is_measured_along_the_tape_and_the_cutter_goes_with_it(page, served):
    proving(page, served)
    now = page.get_by_test_id("load-now")
    expect(now).to_contain_text(re.compile(r"at most [\d.]+ cm³/min"), timeout=60_000)
    scrub(page, 0.6)
    expect(now).to_contain_text(re.compile(r"[\d.]+ cm³/min here|nothing is cut here"))
    way = page.get_by_test_id("way")
    expect(way).to_be_attached()
    expect(page.get_by_test_id("moment")).to_contain_text(re.compile(r"X [\d.]+ Y [\d.]+ Z -?[\d.]+"))
    first = way.locator("circle").get_attribute("cx")
    page.get_by_test_id("tape").press("End")
    expect(way.locator("circle")).not_to_have_attribute("cx", first)
    page.get_by_role("button", name=re.compile("^what the strip shows")).click()
    page.get_by_role("option", name="share of the feed reached").click()
    page.get_by_role("button", name="Whole plan").click()
    expect(way).to_have_count(0)
    expect(now).to_contain_text(re.compile(r"least \d+ %, \d+ % on the mean"))


def test_comparing_shows_what_is_found_and_is_stopped_and_gone_on_with(served, page):
    url, _restart = served
    page.route("**/ways*skin%2C*by*hand*", lambda _route: None)  # the third way is not answered
    page.goto(f"{url}/job/hinge-and-latch-plates/cuts")
    page.get_by_role("tab", name="how held").click()
    card = page.get_by_role("region", name="Ways to hold the outlines")
    card.get_by_role("button", name="compare ways").click()
    expect(card.get_by_text("working the ways through, 2 of 4")).to_be_visible()
    expect(card.locator("[data-way]")).to_have_count(2)
    card.get_by_role("button", name="Stop").click()
    expect(card.get_by_text("stopped, 2 of 4")).to_be_visible()
    page.unroute("**/ways*skin%2C*by*hand*")
    card.get_by_role("button", name="Go on").click()
    expect(card.locator("[data-way]")).to_have_count(4)
    expect(card.get_by_role("progressbar")).to_have_count(0)
