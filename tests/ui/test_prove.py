"""Prove as a programmer looks at it: the sheet as it is cut, moved by the tape, measured, cut through."""

import re

from playwright.sync_api import expect

from tests.ui.test_hold import JOB, scrub


def opened(page, served):
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
    picture = opened(page, served)
    expect(picture).not_to_have_attribute("data-address", re.compile("seconds="))
    scrub(page, 0.5)
    expect(picture).to_have_attribute("data-address", re.compile(r"seconds=\d+"))
    half = picture.get_attribute("data-address")
    page.get_by_test_id("tape").press("End")
    expect(picture).not_to_have_attribute("data-address", half)
    page.get_by_role("button", name="Whole plan").click()
    expect(picture).not_to_have_attribute("data-address", re.compile("seconds="))
    page.get_by_role("button", name="nearer").click()
    expect(picture).not_to_have_attribute("data-address", re.compile("area=0,0,2440"))
    assert float(picture.get_attribute("width")) < 2440, "only what is looked at, and sharper"
    page.get_by_role("button", name="How it is held").click()
    expect(picture).to_have_count(0)
    expect(page.get_by_label("Scale of hold")).to_be_visible()
    page.get_by_role("button", name="As it is cut").click()
    expect(picture).to_be_attached()


def test_depth_and_width_are_told_under_the_pointer(page, served):
    opened(page, served)
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
    opened(page, served)
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
    picture = opened(page, served)
    left = page.get_by_role("button", name=re.compile("What is left standing"))
    expect(left).to_contain_text(re.compile(r"\d+ places"))
    rings = page.get_by_test_id("places").locator("circle")
    expect(rings).to_have_count(int(re.search(r"(\d+) places", left.inner_text())[1]))
    line = page.get_by_role("listitem").filter(has_text="seat rail")
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
