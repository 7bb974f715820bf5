"""The shop's desk: what lies on it, found, put away and brought back, fed with drawings, made once more."""

import re

import pytest
from playwright.sync_api import expect

from tests.conftest import panel
from tests.support.library_shop import library_shop
from tests.ui.conftest import api, serve_folder
from venzo.core.plan import Order, Plan
from venzo.desk.jobs import new_setup

DROP = """(target, [name, text]) => {
  const files = new DataTransfer();
  files.items.add(new File([text], name));
  for (const kind of ["dragover", "drop"])
    target.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: files }));
}"""


def card(page, name):
    return page.get_by_role("listitem").filter(has=page.get_by_role("link", name=name, exact=True))


def choose(page, name, what):
    page.get_by_role("button", name=f"More for {name}", exact=True).click()
    page.get_by_role("menuitem", name=what).click()


def test_a_job_is_found_shown_with_its_stations_and_gone_on_with(served, page):
    url, _restart = served
    page.goto(url)
    estuary = card(page, "Estuary hide, ribs and benches")
    expect(estuary).to_contain_text("46 pieces on 2 sheets")
    expect(estuary).to_contain_text("Saltmarsh Trust, hide 3")
    expect(estuary.get_by_label("Stations")).to_contain_text(
        re.compile(r"Cuts & hold: (clear|\d+ to look at)")
    )
    page.get_by_label("Find jobs").fill("acrylic")
    expect(page.get_by_text("1 job found")).to_be_visible()
    expect(estuary).to_have_count(0)
    page.get_by_role("link", name="go on at Cuts & hold").click()
    expect(page).to_have_url(f"{url}/job/viewing-slot-glazing/cuts")
    page.get_by_label("venzo, all jobs").click()
    page.get_by_label("Find jobs").fill("no such thing")
    expect(page.get_by_text("0 jobs found")).to_be_visible()


def test_a_job_is_renamed_copied_archived_and_binned_and_each_is_taken_back(served, page):
    url, _restart = served
    page.goto(url)
    name = "Hinge and latch plates"
    choose(page, name, "Rename")
    page.get_by_label("Name", exact=True).fill("Hinges of hide 3")
    page.get_by_role("button", name="Rename").click()
    expect(card(page, "Hinges of hide 3")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(card(page, name)).to_be_visible()
    choose(page, name, "Next version")
    expect(card(page, f"{name}, version 2")).to_be_visible()
    for what, where in (("Put into the archive", "Archive"), ("Put into the bin", "Bin")):
        choose(page, f"{name}, version 2", what)
        expect(card(page, f"{name}, version 2")).to_have_count(0)
        page.get_by_role("button", name="Undo").click()
        expect(card(page, f"{name}, version 2")).to_be_visible()
        choose(page, f"{name}, version 2", what)
        page.get_by_role("button", name=re.compile(f"^{where} 1")).click()
        expect(card(page, f"{name}, version 2")).to_be_visible()
        if where == "Archive":
            choose(page, f"{name}, version 2", "Put back on the desk")
            page.get_by_role("button", name=re.compile("^On the desk")).click()
            expect(card(page, f"{name}, version 2")).to_be_visible()
    choose(page, f"{name}, version 2", "Delete for good")
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_text("The bin is empty.")).to_be_visible()
    assert all("version 2" not in j["name"] for j in api(url, "/jobs"))


def test_drawings_dropped_on_a_job_or_anywhere_are_taken_in(served, page):
    url, _restart = served
    page.goto(url)
    drawing = panel(320, 210).decode()
    card(page, "Nest boxes, drawings as they came").evaluate(DROP, ["ledge.dxf", drawing])
    expect(page).to_have_url(re.compile("/job/nest-boxes-drawings-as-they-came/parts"))
    expect(page.get_by_role("button", name=re.compile("ledge"))).to_be_visible()
    page.goto(url)
    page.get_by_role("heading", name="Start a job").wait_for()
    page.locator("main").evaluate(DROP, ["perch rail.dxf", drawing])
    expect(page.get_by_label("Job name")).to_have_value("perch rail")
    expect(page.get_by_text("With perch rail.dxf.")).to_be_visible()
    page.get_by_role("button", name="Start", exact=True).click()
    expect(
        page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("perch rail"))
    ).to_be_visible()


def test_the_same_again_on_new_stock(served, page):
    url, _restart = served
    page.goto(url)
    choose(page, "Viewing-slot glazing", "Same again on new stock")
    dialog = page.get_by_role("dialog")
    thick = dialog.get_by_label(re.compile("^Thickness of"))
    thick.first.wait_for()
    for field in thick.all():
        field.fill("5.9, 6.1")
    for box in dialog.get_by_role("checkbox").all():
        box.check()
    dialog.get_by_role("button", name="Make it").click()
    expect(page).to_have_url(re.compile("/job/viewing-slot-glazing-again/stock"))
    setup = api(url, "/jobs/viewing-slot-glazing-again")["setups"][0]
    old = api(url, "/jobs/viewing-slot-glazing")["setups"][0]
    where = [(p["id"], p["x"], p["y"], p["rotation"]) for p in setup["pieces"]]
    assert where == [(p["id"], p["x"], p["y"], p["rotation"]) for p in old["pieces"]]
    assert [s["readings"] for s in setup["stock"] if s["readings"]] == [[5.9, 6.1]]


@pytest.fixture(scope="module")
def crowded(tmp_path_factory):
    """A shop with 500 jobs."""
    folder = tmp_path_factory.mktemp("crowded") / "shop"
    store = library_shop(folder)
    setup = new_setup(store)
    for n in range(500):
        order = Order(id="order-1", name=f"Reedbed Trust, hide {n % 40}")
        store.create(Plan(id=f"job-{n}", name=f"Fence {n}", orders=(order,), setups=(setup,)))
    store.close()
    with serve_folder(folder) as url:
        yield url


@pytest.mark.long
def test_five_hundred_jobs_are_shown_a_page_at_a_time_and_found_as_one_types(crowded, page):
    page.goto(crowded)
    jobs = page.get_by_label("Jobs found").locator("[data-job]")
    expect(jobs).to_have_count(60)
    page.get_by_role("button", name="Show more, 440 jobs left").click()
    expect(jobs).to_have_count(120)
    page.get_by_label("Find jobs").press_sequentially("fence 499")
    expect(jobs).to_have_count(1)
    expect(page.get_by_text("1 job found")).to_be_visible()
