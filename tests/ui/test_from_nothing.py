"""From an empty shop to files: a board with a groove, tabs and a ball-end outline, counted as a person works:
1.5 s before every click, 0.25 s a character, and what the computer takes.
"""

import io
import re
import time
import zipfile

import pytest
from playwright.sync_api import expect

from tests.ui.conftest import api, serve_folder
from tests.ui.pick import pick

CLICK, CHARACTER, LIMIT = 1.5, 0.25, 240.0
"""s."""


class Hand:
    """A person at the screen, who takes time."""

    def __init__(self, page):
        self.page, self.spent = page, 0.0

    def click(self, where):
        self.spent += CLICK
        where.click()

    def type(self, where, text, enter=True):
        self.spent += CLICK + CHARACTER * (len(text) + enter)
        where.fill(text)
        if enter:
            where.press("Enter")

    def key(self, key):
        self.spent += CHARACTER
        self.page.keyboard.press(key)


@pytest.mark.long
def test_a_board_from_an_empty_shop_to_files_in_under_four_minutes(tmp_path, page):
    with serve_folder(tmp_path / "new") as url:
        began, hand = time.monotonic(), Hand(page)
        page.goto(url)
        form = page.get_by_role("region", name="First start")
        hand.type(form.get_by_label("reach along X"), "1300")
        hand.type(form.get_by_label("reach along Y"), "900", enter=False)
        hand.click(form.get_by_role("button", name="Birch plywood"))
        hand.click(form.get_by_role("button", name="This is my shop"))
        hand.type(page.get_by_label("Job name"), "Tray")
        page.wait_for_url("**/parts")
        # the board, and its groove
        hand.click(page.get_by_role("button", name="Make parts here"))
        hand.type(page.get_by_label("width"), "300")
        hand.type(page.get_by_label("height"), "200")
        hand.click(page.get_by_role("button", name="Take in 1 piece"))
        hand.click(page.locator("[data-part]").first)
        hand.key("o")
        hand.click(page.get_by_role("tab", name="Changes"))
        hand.click(page.get_by_role("button", name="Groove it"))
        expect(page.get_by_text("a groove 3 mm deep, 15 mm inside the outline").first).to_be_visible()
        # the sheet, as the calipers say
        hand.key("2")
        hand.type(page.get_by_label("another sheet, in a line"), "600 x 400 x 18 ply")
        hand.type(page.get_by_label("Caliper readings"), "17.6 17.7 17.5")
        expect(page.get_by_text("mean of 3").first).to_be_visible()
        hand.key("3")
        expect(page.get_by_role("button", name="Nest", exact=False).first).to_be_visible()
        hand.key("n")
        expect(page.locator("[data-piece]")).to_have_count(1)
        # how it is held and cut
        hand.key("4")
        hand.click(page.get_by_role("button", name="screws in the waste"))
        outlines = page.get_by_role("region", name="Operations on outlines")
        hand.spent += CLICK
        pick(outlines, "Cutter for outlines", "a new cutter ...")
        hand.spent += CLICK
        new = page.get_by_role("form", name="A new cutter")
        hand.spent += CLICK
        pick(new, "kind", "ball")
        hand.spent += CLICK
        hand.type(new.get_by_label("diameter"), "6")
        hand.type(new.get_by_label("length of its edge"), "25")
        hand.click(new.get_by_role("button", name="Cut with it"))
        expect(outlines.get_by_label("Cutter for outlines")).to_contain_text("ball")
        expect(outlines).to_contain_text("tabs")
        hand.key("7")
        hand.click(page.get_by_role("button", name=re.compile(r"^Release \d+ programs?$")))
        with page.expect_download() as saved:
            hand.click(page.get_by_role("listitem", name="Release 1").get_by_role("button", name="Download"))
        took = hand.spent + time.monotonic() - began
        files = zipfile.ZipFile(io.BytesIO(saved.value.path().read_bytes()))
        programs = [files.read(n).decode() for n in files.namelist() if n.endswith(".nc")]
        assert any("ball" in t for t in programs) and any("groove" in t for t in programs)
        assert any(n.endswith(".pdf") for n in files.namelist())
        (job,) = api(url, "/jobs")
        cuts = api(url, f"/jobs/{job['id']}")["setups"][0]["sheets"][0]["cuts"]
        assert any(c["tabs"] >= 2 for c in cuts)
        assert took < LIMIT, f"{hand.spent:.0f} s of hands, {took:.0f} s in all"
        print(f"{hand.spent:.0f} s of hands, {took:.0f} s in all")
