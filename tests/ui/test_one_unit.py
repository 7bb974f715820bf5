"""A shop in inches reads no millimetre on any page, paper or program, and one in millimetres no inch."""

import io
import re
import urllib.request
import zipfile

import pytest
from playwright.sync_api import expect
from pypdf import PdfReader

from tests.conftest import dxf
from tests.ui.conftest import serve_folder
from venzo.core.edits import ChangeSetup, SetStock
from venzo.core.stock.dialect import Dialect
from venzo.core.stock.machine import Machine
from venzo.core.stock.sheet import Stock
from venzo.core.surfacing.board import Board, SurfaceSetup, Surfacing
from venzo.demo.seed import nest_job
from venzo.desk import drawings, jobs, library, spoilboards
from venzo.store.store import Store

TEXTS = """() => {
  const out = [];
  const aside = (n) => n.parentElement.closest('[id$="-aside"], select, [aria-label^="Unit:"]');
  const seen = (n) => (aside(n) ? NodeFilter.FILTER_REJECT : NodeFilter.FILTER_ACCEPT);
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT, seen);
  const parts = (n) => [...n.parentElement.childNodes];
  const words = (n) => parts(n).filter((c) => c.nodeName !== "SELECT").map((c) => c.textContent);
  for (let n = walk.nextNode(); n; n = walk.nextNode()) if (n.textContent.trim()) out.push(words(n).join(""));
  for (const e of document.querySelectorAll("[title], [aria-label], [placeholder]"))
    for (const a of ["title", "aria-label", "placeholder"]) {
      const said = e.getAttribute(a);
      if (said && !said.startsWith("Unit:")) out.push(said);
    }
  return [...new Set(out)];
}"""
"""What a page says, tips and labels too. Left out: the other unit that a field shows beside itself, and lists
of choices that are not open.
"""
MM = re.compile(r"\d ?mm\b|\bmm[²2/]|\bm/min|\d\.?\d* m\b(?!²)|\bm²", re.I)
INCH = re.compile(
    r"\d ?in\b(?!"
    r" (?:all|one|the|a|it|its|this|each|order|hand|force|place|places|passes|turn|\d))"
    r"|\bft\b|\d/(?:2|4|8|16|32|64)\b",
    re.I,
)
STATIONS = ("parts", "stock", "nest", "cuts", "prove", "yield", "release")


def plate(m):
    """A plate of 12 x 8 in with a hole, a groove and a pocket: slightly thinner sheet leaves snags to read
    too.
    """
    for name in ("POCKET 0.25in", "GROOVE 0.125in"):
        m.doc.layers.add(name)
    k = 25.4
    m.add_lwpolyline([(0, 0), (12 * k, 0), (12 * k, 8 * k), (0, 8 * k)], close=True)
    m.add_circle((3 * k, 3 * k), 1 * k)
    m.add_lwpolyline(
        [(6 * k, 2 * k), (10 * k, 2 * k), (10 * k, 5 * k), (6 * k, 5 * k)],
        close=True,
        dxfattribs={"layer": "POCKET 0.25in"},
    )
    m.add_line((2 * k, 7 * k), (10 * k, 7 * k), dxfattribs={"layer": "GROOVE 0.125in"})


def metric_plate(m):
    m.doc.layers.add("POCKET 6")
    m.add_lwpolyline([(0, 0), (300, 0), (300, 200), (0, 200)], close=True)
    m.add_circle((80, 80), 25)
    m.add_lwpolyline(
        [(150, 50), (250, 50), (250, 130), (150, 130)], close=True, dxfattribs={"layer": "POCKET 6"}
    )


def set_up(folder, unit):
    """A shop set up in one unit, with a job that is nested, and a spoilboard; the job's id."""
    inch = unit == "in"
    store = Store(folder)
    machine = Machine(
        id="m", name="Router", width=2540, height=1270, z_speed=5080, dialect=Dialect(inch=inch)
    )
    library.first_start(store, library.FirstStart(machine=machine, materials=("plywood",), unit=unit))
    job = jobs.new_job(store, "Shelf", "m", "plywood").plan.id
    width, height, nominal, readings = (
        (1219.2, 609.6, 19.05, (18.6, 18.7)) if inch else (1200, 600, 18, (17.6, 17.7))
    )
    stock = Stock(id="s", name="Sheet", width=width, height=height, nominal=nominal, readings=readings)
    for command in (
        SetStock(setup="main", stock=stock),
        ChangeSetup(setup="main", rules={"between": "skeleton"}),
    ):
        store.apply(job, store.get(job).number, command)
    drawings.take_drawing(
        store,
        job,
        store.get(job).number,
        "main",
        "shelf.dxf",
        dxf(plate if inch else metric_plate, 1 if inch else 4),
    )
    nest_job(store, job, "main", 2)
    board = Board(
        id="board",
        name="Spoilboard",
        machine="m",
        x=25.4,
        y=25.4,
        width=2400,
        height=1200,
        thickness=19,
        least=10,
    )
    cutter = next(c for c in library.cutters(store) if c.kind == "surfacing")
    how = Surfacing(cutter=cutter.diameter, cutter_name=cutter.name, number=cutter.number)
    spoilboards.put(store, SurfaceSetup(id="board", board=board, how=how).model_dump(mode="json"))
    spoilboards.probe(store, "board", 5, 4, seed=3)
    store.close()
    return job


@pytest.mark.parametrize(
    ("unit", "never"),
    [
        pytest.param("in", MM, id="inches"),
        # texts are worded in millimetres: this way round goes wrong less, the long check looks
        pytest.param("mm", INCH, id="millimetres", marks=pytest.mark.long),
    ],
)
def test_a_job_from_drawing_to_papers_speaks_one_unit(page, tmp_path, unit, never):
    job = set_up(tmp_path / "shop", unit)
    with serve_folder(tmp_path / "shop") as url:
        page.goto(url)
        page.evaluate("u => localStorage.setItem('venzo-unit', u)", unit)
        wrong, read = [], 0

        def read_page(where):
            nonlocal read
            texts = page.evaluate(TEXTS)
            read += len(texts)
            wrong.extend((where, m.group(), t[:160]) for t in texts if (m := never.search(t)))

        for station in STATIONS:
            page.goto(f"{url}/job/{job}/{station}")
            page.get_by_role("navigation", name="Route").wait_for()
            expect(page.locator("aside, main").first).not_to_contain_text("reading ...")
            page.evaluate("document.querySelectorAll('details').forEach((d) => (d.open = true))")
            read_page(station)
            for tab in (
                page.get_by_role("tablist", name="What is looked at").get_by_role("tab").all()
                if station == "cuts"
                else ()
            ):
                tab.click()
                read_page(f"{station}, {tab.inner_text()}")
        for shelf in ("cutters", "materials", "machines", "holders", "recipes", "rules"):
            page.goto(f"{url}/library/{shelf}")
            page.get_by_role("heading", name="Shop library").wait_for()
            read_page(f"library, {shelf}")
        page.goto(f"{url}/library/cutters")
        page.get_by_role("button", name="Feed window").click()
        page.get_by_role("img", name="Window chart").wait_for()
        read_page("feeds")
        assert read > 300, "pages were there to be read"
        page.goto(f"{url}/surfacing/board")
        page.get_by_role("img", name="Spoilboard").wait_for()
        read_page("surfacing")
        with zipfile.ZipFile(io.BytesIO(_get(url, f"/jobs/{job}/release.zip"))) as z:
            files = [(n, z.read(n)) for n in z.namelist() if not n.endswith(".json")]
        files += [
            ("surfacing.pdf", _get(url, "/surfacing/board/sheet.pdf")),
            ("surfacing.nc", _get(url, "/surfacing/board/program")),
        ]
        for name, data in files:
            text = (
                "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(data)).pages)
                if name.endswith(".pdf")
                else data.decode()
            )
            wrong.extend(
                (name, m.group(), line) for line in (name, *text.splitlines()) if (m := never.search(line))
            )
        assert not wrong, "\n".join(map(str, wrong))


def _get(url, path):
    return urllib.request.urlopen(f"{url}/api{path}", timeout=60).read()
