"""A new shop: nothing is in its library but what it says; its first job is nominal until the calipers have
spoken.
"""

import json
import urllib.request

import pytest
from playwright.sync_api import expect

from tests.ui.conftest import api, serve_folder


@pytest.fixture
def new_shop(tmp_path):
    with serve_folder(tmp_path / "new") as url:
        yield url


def test_a_new_shop_is_asked_for_its_machine_and_holds_nothing_nobody_said(page, new_shop):
    library = api(new_shop, "/library")
    assert all(library[kind] == [] for kind in ("machine", "material", "cutter", "stock", "recipe", "holder"))
    page.goto(new_shop)
    form = page.get_by_role("region", name="First start")
    page.get_by_role("button", name="Unit").click()
    form.get_by_role("button", name="This is my shop").click()
    expect(form.get_by_role("alert")).to_contain_text("measured on the machine")
    form.get_by_label("reach along X").fill("97 1/2")
    form.get_by_label("reach along Y").fill("4'1\"")
    form.get_by_label("vacuum zones along X").fill("2")
    form.get_by_label("vacuum zones along Y").fill("1")
    form.get_by_role("button", name="Birch plywood").click()
    form.get_by_role("button", name="This is my shop").click()
    page.get_by_label("Job name").fill("First")
    page.get_by_role("button", name="Start").click()
    page.wait_for_url("**/parts")
    library = api(new_shop, "/library")
    (machine,) = library["machine"]
    assert (round(machine["width"], 2), round(machine["height"], 2)) == (2476.5, 1244.6) and [
        z["rect"][2] for z in machine["zones"]
    ] == [1238.25, 2476.5]
    assert [m["id"] for m in library["material"]] == ["plywood"] and library["material"][0]["price_m2"] == 0
    assert library["stock"] == [] and all(
        "nominal" in c["note"] and c["metres"] == 0 for c in library["cutter"]
    )
    assert {c["name"] for c in library["cutter"]} >= {
        "1/4 in compression",
        "1/8 in up-cut",
        "1/2 in 60 degree V bit",
    }

    page.get_by_role("button", name="Stock & table").click()
    typed = page.get_by_label("another sheet, in a line")
    typed.fill("8' x 4' x 3/4 shop ply")
    typed.press("Enter")
    expect(page.get_by_role("region", name="shop ply")).to_contain_text("not measured")
    readings = page.get_by_label("Caliper readings")
    readings.fill("23/32 0.72 0.71")
    readings.press("Enter")
    expect(page.get_by_role("region", name="shop ply")).to_contain_text("mean of 3")
    request = urllib.request.Request(
        f"{new_shop}/api/library/first-start",
        json.dumps({"machine": machine, "materials": ["mdf"]}).encode(),
        {"content-type": "application/json"},
    )
    with pytest.raises(urllib.error.HTTPError, match="422"):
        urllib.request.urlopen(request)


def test_a_job_of_a_known_shop_starts_unmeasured_too(page, served):
    url, _restart = served
    page.goto(url)
    page.get_by_label("Job name").fill("Fresh sheet")
    page.get_by_role("button", name="Start").click()
    page.wait_for_url("**/parts")
    page.get_by_role("button", name="Stock & table").click()
    expect(page.get_by_text("nominal 18, not measured").first).to_be_visible()
