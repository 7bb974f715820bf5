"""The reckonings: one key away on every page, any field typed, both units."""

from playwright.sync_api import expect

JOB = "/job/estuary-hide-ribs-and-benches"


def test_r_opens_them_and_any_field_can_be_typed(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/nest")
    page.get_by_label("Docket").wait_for()
    page.keyboard.press("r")
    sum_ = page.get_by_role("region", name="Reckoning", exact=True)
    expect(sum_.get_by_label("chip load", exact=True)).to_have_value("0.4763 mm")
    page.keyboard.type("ridge")
    page.keyboard.press("Enter")
    expect(sum_.get_by_role("heading", name="Ridges of a ball end")).to_be_visible()
    sum_.get_by_label("ball diameter", exact=True).fill("1/4 in")
    sum_.get_by_label("ridge height", exact=True).fill("0.01")
    expect(sum_.get_by_label("step-over in plan")).to_have_value("0.504 mm")
    sum_.get_by_label("ridge height", exact=True).press("Tab")
    expect(sum_.get_by_label("ridge height", exact=True)).to_have_value("0.01 mm")
    sum_.get_by_role("button", name="mm / in").click()
    expect(sum_.get_by_label("ball diameter", exact=True)).to_have_value("0.25 in")
    expect(sum_.get_by_label("ridge height", exact=True)).to_have_value("0.00039 in")
    sum_.get_by_label("ball diameter", exact=True).fill("wide")
    expect(sum_.get_by_role("alert")).to_contain_text("ball diameter: cannot read 'wide'")
    sum_.get_by_role("button", name="As it was opened").click()
    expect(sum_.get_by_label("ball diameter", exact=True)).to_have_value("0.2362 in")
    page.keyboard.press("Escape")
    expect(page).to_have_url(f"{url}{JOB}/nest")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_it_opens_with_what_stands_where_it_is_asked_for(served, page):
    url, _restart = served
    page.goto(f"{url}{JOB}/stock")
    page.get_by_role("button", name="how heavy").first.click()
    sum_ = page.get_by_role("region", name="Reckoning", exact=True)
    expect(sum_.get_by_label("thickness")).to_have_value("17.6 mm")
    expect(sum_.get_by_label("length", exact=True)).to_have_value("2440 mm")
    page.get_by_role("button", name="Close").click()
    page.goto(f"{url}/reckon/v-groove?angle=60&width=4")
    expect(page.get_by_label("depth", exact=True)).to_have_value("3.46 mm")
