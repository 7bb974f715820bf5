"""A kerf table from an icon to its program, in the browser."""

import io
import re
import zipfile

import pytest
from playwright.sync_api import expect

from tests.support.kerf_sweep import swept
from tests.support.waiting import settled, until
from tests.ui.conftest import api
from tests.ui.pick import pick

ICON = b"""<svg xmlns="http://www.w3.org/2000/svg" width="160mm" height="120mm" viewBox="0 0 160 120">
<path fill-rule="evenodd"
d="M10 10H150V110H10Z M40 30 A20 20 0 1 0 40.01 30Z M90 40H130V50H90Z M90 70H130V80H90Z"/>
<text x="12" y="118">draft 3</text></svg>"""
FEET = "/job/bench-feet-6-mm-steel"


def test_from_an_icon_to_the_program(served, page, tmp_path):
    url, _restart = served
    drawing = tmp_path / "gate.svg"
    drawing.write_bytes(ICON)
    page.goto(url)
    new = page.get_by_role("region", name="New job")
    new.get_by_label("Job name").fill("Gate plates")
    pick(new, "machine", "Slat Table, 2600 x 1350 mm")
    pick(new, "material", "Mild steel")
    new.get_by_role("button", name=re.compile("Start")).click()
    job = f"{url}/job/gate-plates"
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Take in drawings").click()
    chooser.value.set_files(drawing)
    part = page.get_by_label("Parts", exact=True).get_by_role("button", name=re.compile("gate"))
    part.wait_for()
    assert len(api(url, "/jobs/gate-plates")["parts"][0]["contours"]) == 4
    page.goto(f"{job}/nest")
    page.get_by_label("Docket").wait_for()
    page.keyboard.press("n")
    expect(page.get_by_test_id("layout-state")).to_have_text("fits")
    page.goto(f"{job}/cuts")
    docket = page.get_by_label("Docket")
    expect(docket.get_by_role("heading", name="How it is cut")).to_be_visible()
    expect(docket).to_contain_text("nozzle bore")
    page.get_by_test_id("kerfs").wait_for()
    expect(docket.get_by_label("Figures of the sheet")).to_contain_text("4 pierces")
    typed(docket, "lead", "1/8 in")
    until(lambda: abs(kerf_of(url)["choices"]["lead"] - 3.175) < 1e-6, 30)
    pick(docket, "kind of lead", "arcs")
    until(lambda: kerf_of(url)["choices"]["lead_kind"] == "arc", 30)
    settled(page)
    expect(page.get_by_label("Tape: order of cuts")).to_have_attribute("aria-busy", "false")
    # the tape goes from cut to cut
    tape = page.get_by_role("slider", name="Moment in the program")
    tape.focus()
    page.keyboard.press("End")
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_label("Tape: order of cuts")).to_contain_text("gate piece 1, outline")
    page.keyboard.press("Escape")
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Prove")).click()
    proven = page.get_by_role("heading", name="Reads back as planned")
    expect(proven).to_be_visible()
    # what was proven before an edit is not said of what comes after it
    held = []
    page.route("**/kerf?setup=*", lambda asked: held.append(asked))
    with page.expect_request("**/kerf?setup=*"):
        page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("reading it back")).to_be_visible()
    expect(proven).to_have_count(0)
    for asked in held:
        asked.continue_()
    page.unroute("**/kerf?setup=*")
    expect(proven).to_be_visible()
    page.get_by_role("button", name="Redo").click()
    settled(page)
    expect(proven).to_be_visible()
    expect(page.get_by_role("list", name="What comes loose")).to_contain_text("gate piece 1")
    page.get_by_label("Route").get_by_role("button", name=re.compile("^Release")).click()
    key = page.get_by_role("button", name="Release 1 program")
    expect(key).to_be_enabled()
    expect(page.get_by_role("list", name="Cautions")).to_contain_text("Arc: eye and skin protection")
    key.click()
    line = page.get_by_role("listitem", name="Release 1")
    line.wait_for()
    with page.expect_download() as file:
        line.get_by_role("button", name="Download", exact=True).click()
    body = zipfile.ZipFile(io.BytesIO(file.value.path().read_bytes()))
    (program,) = (n for n in body.namelist() if n.endswith(".nc"))
    read = swept(body.read(program).decode())
    assert len(read.burns) == 4
    kerf = kerf_of(url)
    assert sum(d for b in read.burns for d, _f in b.feeds) == pytest.approx(
        kerf["sheets"][0]["cut_length"], rel=1e-3
    )


def typed(docket, label, text):
    """A number of the docket's sentences, typed anew."""
    docket.get_by_role("button", name=re.compile(f"^{label}:?")).first.click()
    docket.get_by_label(label, exact=True).fill(text)
    docket.get_by_label(label, exact=True).press("Enter")


def kerf_of(url, job="gate-plates"):
    return api(url, f"/jobs/{job}/kerf?setup=main")


def test_tabs_common_lines_and_a_coupon(served, page):
    url, _restart = served
    page.goto(f"{url}{FEET}/cuts")
    docket = page.get_by_label("Docket")
    expect(docket.get_by_label("Figures of the sheet")).to_contain_text("72 pierces")
    before = kerf_of(url, "bench-feet-6-mm-steel")["room"]
    pick(docket, "common lines", "shared edges are cut once")
    until(lambda: kerf_of(url, "bench-feet-6-mm-steel")["room"] < before, 30)
    page.get_by_role("button", name="Undo").click()
    until(lambda: kerf_of(url, "bench-feet-6-mm-steel")["room"] == before, 30)
    # rows in one pierce, all pierced first, and an absurd lead: drawn, then taken back
    typed(docket, "width of a bridge", "3")
    expect(docket.get_by_label("Figures of the sheet")).to_contain_text("row")
    rows = kerf_of(url, "bench-feet-6-mm-steel")["sheets"][0]
    assert rows["rows"] and rows["pierces"] < 72 and rows["proof"] == []
    pick(docket, "when it is pierced", "all of them before anything is cut")
    until(lambda: kerf_of(url, "bench-feet-6-mm-steel")["sheets"][0]["cuts"][0]["prepares"], 30)
    expect(page.get_by_label("Route")).to_contain_text(f"{rows['pierces']} pierces")
    typed(docket, "lead", "80")
    expect(page.get_by_test_id("misfit").first).to_be_visible()
    for _ in range(3):
        page.get_by_role("button", name="Undo").click()
    until(lambda: kerf_of(url, "bench-feet-6-mm-steel")["room"] == before, 30)
    expect(docket.get_by_label("Figures of the sheet")).to_contain_text("72 pierces")
    docket.get_by_role("button", name="Coupon: measure and correct the kerf").click()
    docket.get_by_label("measured outside 40").fill("39.9")
    docket.get_by_label("measured inside 20").fill("20.1")
    docket.get_by_role("button", name="What kerf is that?").click()
    expect(docket.get_by_role("status")).to_contain_text("1.702 mm")
    docket.get_by_label("measured outside 40").fill("59.9")
    docket.get_by_role("button", name="What kerf is that?").click()
    expect(docket.get_by_role("alert")).to_contain_text("that is no kerf")
    docket.get_by_label("measured outside 40").fill("39.9")
    docket.get_by_role("button", name=re.compile("^Keep it for")).click()
    expect(docket.get_by_role("status")).to_contain_text("Kept for Air plasma, 45 A nozzle")
    expect(docket.get_by_role("list", name="Kerfs measured")).to_have_count(0)  # the plan keeps its own copy
    page.goto(f"{url}/library/heads")
    card = page.get_by_role("article", name="Air plasma, 45 A nozzle")
    expect(card).to_contain_text("1.702 mm in mild steel")
    page.goto(f"{url}/library/machines")
    expect(page.get_by_role("article", name="Slat Table")).to_contain_text("slats")
