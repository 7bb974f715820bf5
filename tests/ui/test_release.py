"""The Release station: a part goes out and then the rest, to a machine's folder and back; code beside the
table; a dialect of the shop's own; one page of papers.
"""

import io
import json
import re
import urllib.request
import zipfile

import pypdfium2
import zxingcpp
from playwright.sync_api import expect

from tests.ui.pick import pick

GLAZING = "viewing-slot-glazing"
HINGES = "hinge-and-latch-plates"


def api(url, path):
    with urllib.request.urlopen(f"{url}/api{path}") as answer:
        return json.loads(answer.read())


def opened(page, url, job):
    page.goto(f"{url}/job/{job}/release")
    page.get_by_role("heading", name="Ready to release").wait_for()


def let_out(page):
    key = page.get_by_role("button", name=re.compile(r"^Release \d+ programs?$"))
    expect(key).to_be_enabled()
    key.click()


def test_two_pieces_first_and_then_the_rest(served, page, tmp_path):
    url, _restart = served
    share = tmp_path / "share"
    share.mkdir()
    machine = api(url, f"/jobs/{GLAZING}")["setups"][0]["machine"]
    page.goto(f"{url}/library/machines")
    card = page.get_by_role("article", name=machine["name"])
    card.get_by_role("button", name=re.compile("^folder of its programs")).click()
    card.get_by_label("folder of its programs").fill("/no/such")
    card.get_by_label("folder of its programs").press("Enter")
    expect(card.get_by_role("alert")).to_contain_text("there is no such folder")
    card.get_by_role("button", name=re.compile("^folder of its programs")).click()
    card.get_by_label("folder of its programs").fill(str(share))
    card.get_by_label("folder of its programs").press("Enter")
    expect(card).to_contain_text(str(share))

    opened(page, url, GLAZING)
    pieces = page.locator("[data-piece]")
    pieces.first.click(position={"x": 3, "y": 12})
    page.keyboard.down("Shift")
    pieces.nth(1).click(position={"x": 3, "y": 12})
    page.keyboard.up("Shift")
    goes = page.get_by_role("group", name="What goes out")
    goes.get_by_role("button", name="only the 2 chosen pieces").click()
    going = page.get_by_role("region", name="What goes out next")
    expect(going).to_contain_text(re.compile(r"Leaves over \d+ cuts, for a later release"))
    page.get_by_label("Note on the release").fill("these two today")
    let_out(page)
    first = page.get_by_role("listitem", name="Release 1")
    expect(first).to_contain_text("pieces")
    expect(first).to_contain_text("these two today")
    goes.get_by_role("button", name="the whole job").click()
    expect(page.get_by_label("Sheet 1", exact=True)).to_contain_text("left over")
    let_out(page)
    expect(page.get_by_role("heading", name="All of it went out")).to_be_visible()
    second = page.get_by_role("listitem", name="Release 2")
    state = api(url, f"/jobs/{GLAZING}/releases")
    names = [f["name"] for r in state["releases"] for f in r["released"]["files"] if f["kind"] == "program"]
    assert len(set(names)) == len(names) and state["left"] == 0

    second.get_by_role("button", name="To the machine").click()
    expect(page.get_by_text(f"release 2 is in the folder of {machine['name']}")).to_be_visible()
    (folder,) = [p for p in share.iterdir() if p.is_dir()]
    program = next(folder.glob("*.nc"))
    page.get_by_text("Is a program from the machine one of these?").click()
    page.get_by_label("Program to be told").set_input_files(program)
    expect(page.get_by_text(f"{program.name} is {program.name} of release 2, as it went out")).to_be_visible()
    altered = program.read_text().replace("M30", "M0\nM30")
    page.get_by_label("Program to be told").set_input_files(
        {"name": program.name, "mimeType": "text/plain", "buffer": altered.encode()}
    )
    expect(page.get_by_text("is not as it went out: 1 line otherwise")).to_be_visible()

    with page.expect_download() as saved:
        second.get_by_role("button", name="Download").click()
    files = zipfile.ZipFile(io.BytesIO(saved.value.path().read_bytes()))
    labels = files.read(next(n for n in files.namelist() if n.endswith("_labels.pdf")))
    said = [
        c.text
        for p in pypdfium2.PdfDocument(labels)
        for c in zxingcpp.read_barcodes(p.render(scale=3).to_pil())
    ]
    wanted = api(url, f"/jobs/{GLAZING}")["setups"][0]["pieces"]
    assert len(said) == len(wanted) - 2 and all(t.startswith(f"VENZO PIECE {GLAZING} ") for t in said)

    first.get_by_role("button", name="Withdraw").click()
    first.get_by_label("Why it is withdrawn").fill("wrong pieces")
    first.get_by_role("button", name="It is not to be run").click()
    expect(first).to_contain_text("withdrawn: not to be run")
    expect(page.get_by_role("heading", name="Ready to release")).to_be_visible()


def test_a_run_of_a_part_is_recorded_with_what_its_edges_look_like(served, page):
    url, _restart = served
    opened(page, url, HINGES)
    goes = page.get_by_role("group", name="What goes out")
    pick(goes, "side", "insides only")
    expect(page.get_by_role("region", name="What goes out next")).to_contain_text("for a later release")
    let_out(page)
    page.get_by_role("listitem", name="Release 1").wait_for()
    goes.get_by_role("button", name="the whole job").click()
    let_out(page)
    page.get_by_role("listitem", name="Release 2").wait_for()
    sheet = page.get_by_role("listitem", name="Runs of sheet 1")
    sheet.get_by_role("button", name="It was cut").click()
    expect(sheet.get_by_label("Release that was run")).to_contain_text("release 1: insides")
    pick(sheet, "What the edges looked like", "burnt")
    sheet.get_by_label("Real time").fill("3:30")
    sheet.get_by_role("button", name="Record", exact=True).click()
    expect(sheet).to_contain_text(re.compile(r"cut, \d+ cuts still to be run, 0 pieces, 3:30"))
    expect(sheet).to_contain_text("release 1, edges burnt")
    sheet.get_by_role("button", name="It was cut").click()
    expect(sheet.get_by_label("Release that was run")).to_contain_text("release 2")
    sheet.get_by_role("button", name="Record", exact=True).click()
    expect(sheet.get_by_role("button", name="Cut again")).to_be_visible()
    made = api(url, f"/jobs/{HINGES}/runs")
    assert sum(made["sound"].values()) == len(api(url, f"/jobs/{HINGES}")["setups"][0]["pieces"])
    cutter = next(iter(made["runs"][-1]["run"]["metres"]))
    name = next(c["name"] for c in api(url, "/library")["cutter"] if c["id"] == cutter)
    page.goto(f"{url}/library")
    page.get_by_role("button", name=name).first.click()
    expect(page.get_by_role("region", name="Edges it left")).to_contain_text("burnt")


def test_the_table_goes_along_with_the_line_of_the_code(served, page):
    url, _restart = served
    page.goto(f"{url}/job/name-board-carved-oak/release")
    page.get_by_role("button", name=re.compile("^The code of")).click()
    lines = page.get_by_test_id("program").get_by_role("option")
    lines.first.wait_for()
    page.get_by_test_id("program").focus()
    for _ in range(6):
        page.keyboard.press("PageDown")
    expect(page.locator('[role=option][aria-selected="true"]')).to_have_count(1)
    expect(page.get_by_test_id("way")).to_be_visible()
    page.get_by_role("button", name=re.compile("^The code of")).click()
    expect(page.get_by_test_id("way")).to_have_count(0)


def test_a_dialect_of_one_s_own_is_made_seen_and_proven(served, page):
    url, _restart = served
    page.goto(f"{url}/library/machines")
    card = page.get_by_role("article", name="Long Bed")
    card.get_by_role("button", name="How it reads").click()
    form = page.get_by_role("dialog")
    verdict = form.get_by_test_id("reads-back")
    expect(verdict).to_contain_text("do what they are to do, move for move")
    pick(form, "block numbers", "N10, N20, N30 ...")
    form.get_by_label("before cutting: shoe down").fill("M66 P1")
    form.get_by_label("after cutting: shoe up").fill("M66 P0")
    program = form.get_by_role("region", name="A small program")
    expect(program).to_contain_text("M66 P1")
    expect(program).to_contain_text("N10 G17 G90")
    expect(verdict).to_contain_text("move for move")
    form.get_by_label("at the end").fill("G0 Z500")
    expect(form.get_by_role("alert")).to_contain_text("no word of the machine's own")
    expect(form.get_by_role("button", name="Keep it for Long Bed")).to_be_disabled()
    form.get_by_label("at the end").fill("")
    form.get_by_label("name of the dialect").fill("RS-274, metric, numbered, shoe by M66")
    form.get_by_role("button", name="Prove the newest jobs in it").click()
    proven = form.get_by_role("list", name="Jobs proven")
    expect(proven).to_contain_text("proven, nothing stops them")
    form.get_by_role("button", name="Keep it for Long Bed").click()
    expect(card).to_contain_text("RS-274, metric, numbered, shoe by M66")
    kept = next(m for m in api(url, "/library")["machine"] if m["name"] == "Long Bed")["dialect"]
    assert kept["numbers"] == 10 and kept["before_cut"] == ["M66 P1"] and kept["at_end"] == []


def test_files_are_called_by_the_house_pattern_which_is_shown(served, page):
    url, _restart = served
    page.goto(f"{url}/library/rules")
    page.get_by_role("button", name=re.compile("^file names")).click()
    page.get_by_label("file names").fill("{nonsense}")
    page.get_by_label("file names").press("Enter")
    expect(page.get_by_text("{nonsense} is no word of a file name").first).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^file names")).click()
    page.get_by_label("file names").fill("{order}-{job}-{sheet}_{cutter}")
    page.get_by_label("file names").press("Enter")
    expect(page.get_by_test_id("file-names-shown")).to_contain_text("02-reading-nook-1_t7.nc")


def test_the_papers_are_printed_from_the_page_in_one_go(served, browser):
    """The browser's own printing is asked for, of a set that its rules let it show; a page of its own, since
    the browser's own viewer of papers is loaded from the browser.
    """
    url, _restart = served
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.add_init_script(
        # a browser without a screen has nothing to print on: that it is asked to is what is seen
        "window.refused = []; window.printed = 0;"
        "Object.defineProperty(HTMLIFrameElement.prototype, 'contentWindow',"
        " { get: () => ({ print: () => { window.printed += 1; } }) });"
        "document.addEventListener('securitypolicyviolation', (e) => window.refused.push(e.blockedURI));"
    )
    page.goto(f"{url}/job/{HINGES}/release")
    page.get_by_text("The papers, before anything goes out").click()
    page.get_by_role("button", name="Print all papers").click()
    page.locator('iframe[title="papers to print"]').wait_for(state="attached")
    page.wait_for_function("window.printed === 1")
    assert page.evaluate("window.refused") == []
    source = page.locator('iframe[title="papers to print"]').get_attribute("src")
    assert source.startswith("blob:")
    answer = page.request.get(f"{url}/api/jobs/{HINGES}/papers.pdf?look=true")
    assert answer.body()[:5] == b"%PDF-" and answer.headers["content-type"] == "application/pdf"
    context.close()
