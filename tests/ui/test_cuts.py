"""Cuts & hold and the shop library as a programmer uses them: sentences edited in place, recipes, own steps,
feeds by the window, cutters by CSV.
"""

import re

import pytest
from playwright.sync_api import expect

from tests.support.waiting import settled, until
from tests.ui.pick import pick


def open_cuts(page, served, job="estuary-hide-ribs-and-benches"):
    address, _restart = served
    page.goto(f"{address}/job/{job}/cuts")
    page.get_by_role("heading", name="How it is cut").wait_for()
    return address


def figure(page, address, job, pick):
    return pick(page.request.get(f"{address}/api/jobs/{job}").json()["setups"][0])


def test_a_sentence_is_edited_where_it_stands_and_undone(page, served):
    job = "estuary-hide-ribs-and-benches"
    address = open_cuts(page, served)
    card = page.get_by_role("region", name="Operations on pockets")
    assert "Clear by" in card.inner_text() and "1 pass" in card.inner_text()
    card.get_by_role("button", name=re.compile("^step-over")).click()
    card.get_by_label("step-over", exact=True).fill("45")
    card.get_by_label("step-over", exact=True).press("Enter")
    card.get_by_role("button", name="step-over: 45 %").wait_for()
    assert (
        figure(
            page,
            address,
            job,
            lambda s: next(o for o in s["operations"] if o["on"] == "pockets")["step_over"],
        )
        == 0.45
    )
    card.get_by_role("button", name=re.compile("^depth")).click()
    card.get_by_label("depth", exact=True).fill("1/4 in")
    card.get_by_label("depth", exact=True).press("Enter")
    card.get_by_role("button", name="depth: 1/4 in").wait_for()  # shown as it was typed
    card.get_by_role("button", name=re.compile("^depth")).click()
    card.get_by_label("depth", exact=True).fill("deep")
    card.get_by_label("depth", exact=True).press("Enter")
    page.get_by_role("alert").filter(has_text="deep").wait_for()
    card.get_by_label("depth", exact=True).press("Escape")
    pick(card, "Cutter for pockets", "4 mm up-cut")
    until(
        lambda: (
            figure(
                page,
                address,
                job,
                lambda s: next(o for o in s["operations"] if o["on"] == "pockets")["cutter"],
            )
            == "up-4"
        )
    )
    for _ in range(3):
        page.keyboard.press("Control+z")
        settled(page)
    card.get_by_role("button", name="step-over: 60 %").wait_for()


@pytest.mark.long
def test_an_engraved_line_gets_the_width_that_is_typed(page, served):
    job = "estuary-hide-ribs-and-benches"
    address = open_cuts(page, served)

    def line():
        return figure(
            page, address, job, lambda s: next(o for o in s["operations"] if o["on"] == "engravings")
        )

    was = line()
    card = page.get_by_role("region", name="Operations on engravings")
    card.get_by_role("button", name=re.compile("^line width")).click()
    card.get_by_label("line width", exact=True).fill("1.2")
    card.get_by_label("line width", exact=True).press("Enter")
    # 60 degrees, a flat of 0.2 mm: 0.5 / tan 30 deep
    card.get_by_role("button", name="depth: 0.87 mm").wait_for()
    card.get_by_role("button", name=re.compile("^depth")).click()
    card.get_by_label("depth", exact=True).fill("0.5")
    card.get_by_label("depth", exact=True).press("Enter")
    card.get_by_role("button", name="line width: 0.78 mm").wait_for()
    assert line()["width"] is None and line()["depth"] == 0.5
    card.get_by_role("button", name=re.compile("^line width")).click()
    card.get_by_label("line width", exact=True).fill("14")
    card.get_by_label("line width", exact=True).press("Enter")
    page.get_by_text("a line of 14 mm takes a wider one").first.wait_for()
    until(lambda: line()["width"] == 14)
    while line() != was:
        settled(page)
        page.keyboard.press("Control+z")
        settled(page)


def test_hovering_a_number_says_its_rule(page, served):
    open_cuts(page, served)
    card = page.get_by_role("region", name="Operations on outlines")
    card.get_by_text("passes", exact=False).first.hover()
    tip = card.get_by_role("tooltip").filter(has_text="2 x diameter in wood")
    tip.first.wait_for()
    card.get_by_role("button", name=re.compile("^feed:")).hover()
    card.get_by_role("tooltip").filter(has_text="window").first.wait_for()


@pytest.mark.long
def test_a_recipe_is_put_on_and_kept_and_one_part_has_its_own(page, served):
    job = "estuary-hide-ribs-and-benches"
    address = open_cuts(page, served)
    card = page.get_by_role("region", name="Operations on outlines")
    pick(card, "Recipe for outlines", "Break the edge first, then cut out (version 1)")
    card.get_by_role("button", name=re.compile("^width of the chamfer")).wait_for()
    kinds = figure(
        page, address, job, lambda s: [o["kind"] for o in s["operations"] if o["on"] == "outlines"]
    )
    assert kinds == ["chamfer", "profile"]
    card.get_by_role("button", name=re.compile("^width of the chamfer")).click()
    card.get_by_label("width of the chamfer", exact=True).fill("1.2")
    card.get_by_label("width of the chamfer", exact=True).press("Enter")
    card.get_by_text("Differs from the recipe: edge: width 1.2, the recipe says 0.8").wait_for()
    card.get_by_role("button", name="keep as recipe").click()
    card.get_by_label("Name of the recipe").fill("wide edge first")
    card.get_by_role("button", name="Keep", exact=True).click()
    card.get_by_label("Recipe for outlines").click()
    page.get_by_role("option", name="wide edge first (version 1)").wait_for()
    page.keyboard.press("Escape")
    page.locator('[aria-label^="wall rib"]').first.focus()
    own = page.get_by_role("region", name="Holes of wall rib")
    own.get_by_role("button", name="steps of its own").first.click()
    own.get_by_role("button", name="as the setup says").wait_for()
    pick(own, "Cutter for holes", "6 mm down-cut")
    own.get_by_text("Differs from the recipe: cutter down-6 instead of up-4").wait_for()
    own.get_by_role("button", name="as the setup says").click()
    own.get_by_role("button", name="as the setup says").wait_for(state="detached")
    for _ in range(5):
        page.keyboard.press("Control+z")
        settled(page)


def test_what_if_by_the_window_becomes_the_operation_s_feed(page, served):
    job = "hinge-and-latch-plates"
    address = open_cuts(page, served, job)
    page.get_by_role("region", name="Operations on outlines").get_by_role(
        "button", name="feed window"
    ).last.click()
    bench = page.get_by_role("region", name=re.compile("^Feeds of"))
    bench.get_by_role("img", name=re.compile("inside the window")).wait_for()
    bench.get_by_role("button", name=re.compile("^feed, what if")).click()
    bench.get_by_label("feed, what if").fill("0.2")
    bench.get_by_label("feed, what if").press("Enter")
    bench.get_by_role("img", name=re.compile("outside the window")).wait_for()
    said = bench.get_by_label("Judgement").inner_text()
    assert "welds" in said and "feed" in said
    bench.get_by_role("button", name=re.compile("^feed, what if")).click()
    bench.get_by_label("feed, what if").fill("1.1")
    bench.get_by_label("feed, what if").press("Enter")
    bench.get_by_role("button", name=re.compile("^Use .*1.10")).click()
    page.get_by_role("region", name="Operations on outlines").get_by_role(
        "button", name="feed: 1.10 m/min"
    ).wait_for()
    assert (
        figure(
            page, address, job, lambda s: [o for o in s["operations"] if o["on"] == "outlines"][-1]["feed"]
        )
        == 1100
    )


def test_a_start_point_is_moved_by_hand_and_given_back(page, served):
    job = "estuary-hide-ribs-and-benches"
    address = open_cuts(page, served)
    page.locator('[aria-label^="wall rib"]').first.focus()
    mark = page.get_by_role("button", name="start of outline; arrow keys move it")
    before = mark.get_attribute("transform")
    mark.focus()
    page.keyboard.press("Shift+ArrowRight")
    until(lambda: mark.get_attribute("transform") != before)
    choices = page.request.get(f"{address}/api/jobs/{job}").json()["choices"]
    assert [c["start"] is not None for c in choices if c["contour"] == "outline"] == [True]
    page.get_by_role("button", name="start on a flat again").click()
    until(lambda: mark.get_attribute("transform") == before)


def test_by_cutter_and_wear(page, served):
    open_cuts(page, served)
    page.get_by_role("button", name="by cutter").click()
    card = page.get_by_role("region", name="Cuts of 6 mm up-cut")
    assert "reaches" in card.inner_text() and "412.0 m" in card.inner_text()
    page.keyboard.press("7")
    log = page.get_by_role("region", name="What was run")
    sheets = log.get_by_role("listitem", name=re.compile("Runs of sheet"))
    expect(sheets).to_have_count(2)
    for k in range(2):
        record_run(sheets.nth(k), "43:20" if k else "")
    expect(log).to_contain_text("46 of 46 pieces are made")
    expect(log).to_contain_text("43:20 at the machine")
    page.keyboard.press("4")
    page.get_by_role("button", name="by cutter").click()
    expect(card).not_to_contain_text("412.0 m")


def record_run(sheet, took):
    sheet.get_by_role("button", name="It was cut").click()
    if took:
        sheet.get_by_label("Real time").fill("soon")
        sheet.get_by_role("button", name="Record").click()
        expect(sheet).to_contain_text("a time is minutes, or minutes:seconds")
        sheet.get_by_label("Real time").fill(took)
    sheet.get_by_role("button", name="Record").click()
    expect(sheet.get_by_role("button", name="Cut again")).to_be_visible()


def test_a_stopped_sheet_with_a_spoilt_piece_is_recorded_and_taken_back(page, served):
    url, _restart = served
    page.goto(f"{url}/job/hinge-and-latch-plates/release")
    log = page.get_by_role("region", name="What was run")
    sheet = log.get_by_role("listitem", name="Runs of sheet 1")
    sheet.get_by_role("button", name="It was cut").click()
    sheet.get_by_label("Stopped after cut").fill("3")
    sheet.get_by_text("Every piece that came off is sound").click()
    sheet.get_by_role("checkbox").first.check()
    sheet.get_by_label("Note on the run").fill("a chip came off")
    page.keyboard.press("Enter")
    expect(sheet).to_contain_text("stopped after cut 3 of")
    expect(sheet).to_contain_text("1 spoilt: a chip came off")
    expect(log).to_contain_text("1 spoilt")
    sheet.get_by_role("button", name=re.compile("take back run")).click()
    expect(log).to_contain_text("Nothing yet.")
    expect(sheet).to_contain_text("stopped after cut 3 of")


def test_library_shelves_new_cutter_and_import(page, served):
    address, _restart = served
    page.goto(f"{address}/library")
    page.get_by_role("heading", name="Shop library").wait_for()
    shown = page.get_by_role("list", name="Cutters").get_by_role("button").count()
    page.get_by_label("CSV of cutters").set_input_files(
        {
            "name": "bought.csv",
            "mimeType": "text/csv",
            "buffer": (
                b"name,kind,diameter,cutting length,flutes\nsix again,up-cut,6,28,2\nslim,straight,2,8,2\n"
            ),
        }
    )
    offer = page.get_by_role("region", name="Import")
    assert "in the library already as 6 mm up-cut" in offer.inner_text() and "slim: new" in offer.inner_text()
    offer.get_by_role("button", name="Take these").click()
    page.get_by_text("1 new, 0 merged, 1 there already.").wait_for()
    until(lambda: page.get_by_role("list", name="Cutters").get_by_role("button").count() == shown + 1)
    page.get_by_role("button", name=re.compile("slim")).click()
    card = page.get_by_role("article", name="slim")
    card.get_by_role("button", name=re.compile("^tool number")).click()
    card.get_by_label("tool number").fill("1")
    card.get_by_label("tool number").press("Enter")
    page.get_by_role("alert").filter(has_text="T1 is 8 mm compression").wait_for()
    card.get_by_role("button", name="Propose from the feed window").click()
    card.get_by_text("not tried yet").wait_for()
    for shelf, word in (
        ("Materials", "specific cutting"),
        ("Machines", "power curve"),
        ("Holders", "cutters in it"),
        ("Recipes", "version"),
        ("House rules", "depth per pass"),
    ):
        page.get_by_role("link", name=re.compile(shelf)).click()
        until(lambda word=word: word in page.locator("main").inner_html())
