"""Several jobs on one table, in the real interface: started from the first page, sheets laid and moved, one
set of programs saved.
"""

import re

from playwright.sync_api import expect

from tests.ui.pick import pick


def test_sheets_of_two_jobs_are_laid_on_one_table_and_cut_by_one_set_of_programs(served, page):
    url, _restart = served
    page.goto(f"{url}/")
    page.get_by_role("button", name="+ sheets of several jobs, one program").click()
    form = page.get_by_role("form", name="New table")
    form.get_by_label("Name").fill("Monday")
    form.get_by_role("button", name="Lay the table").click()
    page.wait_for_url("**/table/monday")
    docket = page.get_by_label("Docket")
    expect(page.get_by_text("Nothing lies on the table yet")).to_be_visible()
    lay = docket.get_by_role("region", name="Lay a sheet")
    pick(lay, "job", "Hinge and latch plates")
    lay.get_by_role("button", name="Lay").click()
    view = page.get_by_test_id("table-view")
    expect(view).to_have_attribute("aria-label", re.compile("Small Bench: Hinge.*on square 1$"))
    pick(lay, "job", "Name board, carved oak")
    lay.get_by_role("button", name="Lay").click()
    # the next free square lies under the first sheet
    snags = docket.get_by_role("region", name="Snags")
    expect(snags).to_contain_text("lie on one another")
    docket.get_by_role("button", name="2 programs").or_(
        docket.get_by_role("button", name="4 programs")
    ).click()
    expect(docket.get_by_role("alert")).to_contain_text("no program while this stands")
    # held, and put down on a square that is clicked
    sheets = docket.get_by_role("list", name="Sheets on the table")
    sheets.get_by_role("listitem").filter(has_text="Name board").get_by_role("button", name="move").click()
    page.locator("[data-square='66']").click()
    expect(view).to_have_attribute("aria-label", re.compile("Name board.*on square 66"))
    expect(snags).not_to_be_attached()
    expect(docket.get_by_role("region", name="Cutters")).to_contain_text("4 cutter loads")
    with page.expect_download() as d:
        docket.get_by_role("button", name="4 programs").click()
    assert d.value.suggested_filename == "monday.zip"
    with page.expect_download() as d:
        docket.get_by_role("button", name="Table sheet to print").click()
    assert d.value.suggested_filename.endswith("table-sheet.pdf")
    # its square typed: no such square is told, and taken back
    docket.get_by_role("button", name=re.compile("^square of Name board")).click()
    docket.get_by_label(re.compile("^square of Name board")).fill("400")
    page.keyboard.press("Enter")
    expect(docket.get_by_role("region", name="Snags")).to_contain_text("there is no square 400")
    page.get_by_role("button", name="Undo").click()
    expect(docket.get_by_role("region", name="Snags")).not_to_be_attached()
    docket.get_by_role("button", name=re.compile("take off Hinge and latch plates")).click()
    expect(sheets.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("link", name=re.compile("venzo")).click()
    expect(page.get_by_role("region", name="Tables")).to_contain_text("Monday")
