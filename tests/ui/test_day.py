"""A day's work at the screen: a sheet typed in a line, a zero clicked, a crooked sheet read, the table's grid
marked, a joint made anew when the board is measured again, a stop for the operator.
"""

import re

from playwright.sync_api import expect

from tests.support.waiting import until
from tests.ui.conftest import api

GLAZING, BOXES = "viewing-slot-glazing", "nest-boxes-drawings-as-they-came"


def setup_of(url, job):
    return api(url, f"/jobs/{job}")["setups"][0]


def test_a_crooked_sheet_is_read_by_two_points_and_drawn_as_it_lies(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{GLAZING}/stock")
    page.get_by_role("button", name="Where the sheet lies").click()
    page.get_by_role("button", name="It lies crooked").click()
    field = page.get_by_label("far end of its lower edge, from the near side")
    x, y = setup_of(url, GLAZING)["sheet_at"]
    field.fill(str(y + 12))
    field.press("Enter")
    expect(page.get_by_test_id("turned")).to_contain_text("0.69° counter-clockwise")
    expect(page.get_by_test_id("touch-off")).to_have_count(0)  # the section of the zero is folded
    lying = page.get_by_test_id("table").locator("g[transform*=rotate]").first
    expect(lying).to_have_attribute("transform", re.compile(rf"translate\({x:g} {y:g}\) rotate\(0\.68"))
    # a point that tells no turn is refused, and what was there stays
    near = page.get_by_label("far end of its lower edge, from the left")
    near.fill(str(x + 5))
    near.press("Enter")
    expect(page.locator("main").get_by_role("alert")).to_contain_text("too near to read a turn")
    assert setup_of(url, GLAZING)["turn"] > 0.6
    page.get_by_role("button", name="It lies straight").click()
    until(lambda: setup_of(url, GLAZING)["edge_at"] is None)


def test_a_pencilled_point_is_clicked_on_the_sheet(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{GLAZING}/stock")
    page.get_by_role("button", name="Zero", exact=False).first.click()
    page.get_by_label("zero", exact=False).first.click()
    page.get_by_role("option", name="a place on the sheet").click()
    page.get_by_role("button", name="Click it on the sheet").click()
    box = page.get_by_test_id("table").bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    expect(page.get_by_role("button", name="Click it on the sheet")).to_be_visible()
    datum = setup_of(url, GLAZING)["datum"]
    stock = setup_of(url, GLAZING)["stock"][0]
    assert datum["kind"] == "mark"
    assert all(
        abs(v - s / 2) < 0.2 * s for v, s in zip(datum["at"], (stock["width"], stock["height"]), strict=True)
    )
    expect(page.get_by_test_id("touch-off")).to_contain_text("pointed tool over the point")
    page.get_by_role("button", name="Undo").click()


def test_the_grid_of_a_table_is_entered_and_its_program_saved(served, page):
    url, _restart = served
    page.goto(f"{url}/library")
    page.get_by_text("Machines").click()
    card = page.get_by_role("article", name="Long Bed")
    card.get_by_role("button", name="It has a grid").click()
    with page.expect_download() as saved:
        card.get_by_role("button", name="Program that marks it").click()
    text = saved.value.path().read_text()
    assert "sprung pen" in text and "machine home, lower left" in text and "31 x 16 squares of 100 mm" in text
    card.get_by_role("button", name="what marks the grid").click()
    page.get_by_role("option", name="V bit").first.click()
    with page.expect_download() as saved:
        card.get_by_role("button", name="Program that marks it").click()
    assert "M3" in saved.value.path().read_text()


def test_a_joint_of_a_board_measured_again_is_made_anew_in_one_key(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{BOXES}/stock")
    readings = page.get_by_label("Caliper readings").first
    readings.fill("18.2 18.3 18.2")
    readings.press("Enter")
    expect(page.get_by_text("mean of 3").first).to_be_visible()
    page.get_by_role("button", name="Parts").first.click()
    stop = page.get_by_text("they cannot go together")
    expect(stop).to_be_visible()
    page.get_by_role("button", name=re.compile("Make it for 18.2")).click()
    expect(stop).to_have_count(0)
    page.get_by_role("button", name="front and back").first.click()
    page.get_by_role("button", name="Change its dimensions").click()
    expect(page.get_by_test_id("joint-fit")).to_contain_text("gaps 0.15")
    expect(page.get_by_label("front board, measured")).to_have_value(re.compile("18.2"))


def test_the_program_stops_for_the_operator_where_it_was_said(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{GLAZING}/cuts")
    page.get_by_role("tab", name="in which order").click()
    stops = page.get_by_role("region", name="Stops for the operator")
    expect(stops).to_contain_text("Scrub the tape")
    box = page.get_by_test_id("tape").bounding_box()
    page.mouse.click(box["x"] + 58 + (box["width"] - 76) * 0.5, box["y"] + 70)
    stops.get_by_role("button", name="clear the drops").click()
    expect(stops).to_contain_text(re.compile("clear the drops before .* of "))
    expect(page.get_by_test_id("stops").locator("title")).to_have_text("The program stops: clear the drops")
    stops.get_by_role("button", name="remove").click()
    expect(page.get_by_test_id("stops").locator("title")).to_have_count(0)
    page.get_by_label("first run, per cent of the feeds").click()
    share = page.get_by_label("first run, per cent of the feeds")
    share.fill("60")
    share.press("Enter")
    until(lambda: setup_of(url, GLAZING)["first_run"] == 60)


def test_a_finish_is_noted_on_the_job_and_found_from_its_cutter(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{GLAZING}/release")
    section = page.get_by_role("region", name="How it came out")
    section.get_by_label("words on the finish").fill("lower edge")
    section.get_by_role("button", name="fuzz left").click()
    row = section.locator("[data-finish=fuzzy]")
    expect(row).to_contain_text("lower edge")
    section.get_by_role("button", name="clean").click()
    expect(section.locator("[data-finish]")).to_have_count(2)
    cutter = api(url, f"/jobs/{GLAZING}/finishes")[0]["seen"]["cutter_name"]
    page.goto(f"{url}/library")
    page.get_by_role("button", name=cutter).first.click()
    expect(page.get_by_role("region", name="Edges it left").locator("[data-finish]")).to_have_count(2)


def test_a_part_is_cut_from_another_material_in_the_same_job(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{BOXES}/parts")
    page.get_by_role("button", name="+ another material").click()
    page.get_by_label("another material").click()
    page.get_by_role("option", name="Acrylic sheet").click()
    tabs = page.get_by_role("navigation", name="What the job is cut from")
    expect(tabs.get_by_role("button", name="Acrylic sheet", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(page.locator("[data-part]")).to_have_count(0)
    tabs.get_by_role("button", name="Birch plywood", exact=True).click()
    page.locator("[data-part]").first.click()
    page.get_by_role("complementary", name="Docket").get_by_label("cut from").click()
    page.get_by_role("option", name="Acrylic sheet").click()
    tabs.get_by_role("button", name="Acrylic sheet", exact=True).click()
    expect(page.locator("[data-part]")).to_have_count(1)
    page.keyboard.press("3")
    page.keyboard.press("n")
    expect(page.locator("[data-piece]").first).to_be_attached()
    until(lambda: len(api(url, f"/jobs/{BOXES}")["setups"][1]["pieces"]) >= 1)
