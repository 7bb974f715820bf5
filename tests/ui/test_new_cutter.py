"""A cutter that was just bought, entered where it is needed; and one that has changed, noticed by jobs and
boards alike.
"""

import json
import urllib.request

from playwright.sync_api import expect

from tests.ui.conftest import api
from tests.ui.pick import pick

JOB = "estuary-hide-ribs-and-benches"


def test_a_new_cutter_is_entered_from_the_step_and_cuts_at_once(served, page):
    url, _restart = served
    page.goto(f"{url}/job/{JOB}/cuts")
    card = page.get_by_role("region", name="Operations on pockets")
    pick(card, "Cutter for pockets", "a new cutter ...")
    form = card.get_by_role("form", name="A new cutter")
    pick(form, "kind", "up-cut")
    form.get_by_label("diameter").fill("1/4 in")
    form.get_by_label("length of its edge").fill("25")
    form.get_by_label("tool number").fill("1")
    form.get_by_role("button", name="Cut with it").click()
    expect(form.get_by_role("alert")).to_contain_text("every cutter has its own number")
    form.get_by_label("tool number").fill("31")
    form.get_by_role("button", name="Cut with it").click()
    expect(form).to_have_count(0)
    expect(page.get_by_text("working ...")).to_have_count(0, timeout=60_000)
    (new,) = [c for c in api(url, "/library")["cutter"] if c["number"] == 31]
    setup = api(url, f"/jobs/{JOB}")["setups"][0]
    step = next(o for o in setup["operations"] if o["on"] == "pockets")
    assert (new["diameter"], new["cutting_length"]) == (6.35, 25) and new["feeds"]["wood"][
        "source"
    ].startswith("proposed")
    assert step["cutter"] == new["id"] and any(c["id"] == new["id"] for c in setup["cutters"])


def test_a_changed_cutter_is_noticed_by_jobs_and_boards_alike(served, page):
    url, _restart = served
    fields = json.dumps({"diameter": 48.6}).encode()
    urllib.request.urlopen(
        urllib.request.Request(
            f"{url}/api/library/cutter/skim-50", fields, {"content-type": "application/json"}, method="PATCH"
        )
    )
    page.goto(f"{url}/job/{JOB}/cuts")
    expect(page.get_by_text("The library has a newer cutter, 50 mm surfacing: diameter.")).to_be_visible()
    page.goto(f"{url}/surfacing/long-bed-spoilboard")
    expect(page.get_by_text("The library has changed 50 mm surfacing: diameter.")).to_be_visible()
    page.get_by_role("button", name="Adopt").click()
    expect(page.get_by_text("The library has changed")).to_have_count(0)
    assert api(url, "/surfacing/long-bed-spoilboard")["bench"]["how"]["cutter"] == 48.6
    assert api(url, "/surfacing/oak-plank-a")["news"]["how"] == {"cutter": 48.6}
