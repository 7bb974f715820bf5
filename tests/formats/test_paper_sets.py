"""Papers of a job as one set: labels that a phone reads, numbered as on the drawing; one page a sheet; the
same bytes every time.
"""

import io
import re

import pypdfium2
import pytest
import zxingcpp
from pypdf import PdfReader

from tests.support.papers import places
from tests.support.trial import TrialJob, disc, rect
from venzo.core.edits import SetSetup
from venzo.core.release.picking import Picked
from venzo.desk import jobs, part_releases, release_record, releases
from venzo.desk.papers import one_set
from venzo.desk.part_releases import ReleaseSaid
from venzo.formats.part_label import part_labels, piece_labels
from venzo.formats.sheet_drawing import numbers


@pytest.fixture
def job(store):
    return TrialJob(store, (rect(150, 90, [(40, 40, 12)]), [(60, 60), (300, 60)]), (disc(30), [(60, 220)]))


def pages(data):
    return [p.extract_text() for p in PdfReader(io.BytesIO(data)).pages]


def codes(data):
    """What the codes of a PDF say, page by page, from the upper left along the rows."""
    out = []
    for page in pypdfium2.PdfDocument(data):
        picture = page.render(scale=3).to_pil()
        found = zxingcpp.read_barcodes(picture)
        out += [
            c.text
            for c in sorted(found, key=lambda c: (round(c.position.top_left.y, -2), c.position.top_left.x))
        ]
    return out


def made(job, name):
    files, _m = releases.release(job.store, job.plan, 3)
    return next(b for n, b in files if n.endswith(name))


def test_labels_are_read_back_in_the_order_of_the_drawing(job):
    (d,) = jobs.derive(job.store, job.plan).values()
    data = made(job, "_labels.pdf")
    by_number = sorted(numbers(d.sheets[0]).items(), key=lambda kv: kv[1])
    assert codes(data) == [f"VENZO PIECE {job.job} main {piece}" for piece, _n in by_number]
    (text,) = pages(data)
    assert re.findall(r"^1 - (\d+)$", text, re.M) == [str(n) for _p, n in by_number]
    (places_,) = places(data)
    assert all(12 <= x < 560 and 12 < y < 830 for x, y, _t in places_)
    assert "150.0 x 90.0 mm" in text and "Order 1" in text and "17.6 mm" in text


def test_labels_are_in_the_unit_of_the_machine_and_go_on_on_a_next_page(job):
    (d,) = jobs.derive(job.store, job.plan).values()
    labels = piece_labels(job.plan, d, job.store.shapes, "in")
    assert labels[0].size.endswith(" in") and "in" in labels[0].stock
    many = part_labels(labels * 20)
    assert len(pages(many)) == 3 and len(codes(many)) == 60


def test_a_piece_has_its_label_with_the_part_release_that_ends_it(job):
    def labels_of(**picked):
        said = ReleaseSaid(revision=job.store.head(job.job), picked=Picked(**picked))
        number = part_releases.freeze(job.store, job.job, said)
        r = release_record.released(job.store, job.job, number)
        name = next((f.name for f in r.files if f.name.endswith("_labels.pdf")), None)
        body = release_record.file_of(job.store, job.job, number, name) if name else b""
        sheet = next(f.name for f in r.files if f.name.endswith("setup-sheet.pdf"))
        text = " ".join(pages(release_record.file_of(job.store, job.job, number, sheet)))
        assert f"release {number}" in text
        return (len(codes(body)) if body else 0), text

    first, text = labels_of(side="insides")
    assert first == 0 and re.search(r"\d cuts? of the sheet's \d+; the others go out apart", text)
    rest, _text = labels_of()
    assert rest == 3


def test_the_set_holds_every_paper_once_and_is_the_same_every_time(job):
    files, _m = releases.release(job.store, job.plan, 3)
    papers = [(n, b) for n, b in files if n.endswith(".pdf")]
    whole = one_set(papers)
    kinds = ["setup-sheet", "cut-list", "labels"]
    assert sorted(n.rsplit("_", 1)[1] for n, _b in papers) == sorted(f"{k}.pdf" for k in kinds)
    assert len(pages(whole)) == sum(len(pages(b)) for _n, b in papers)
    text = pages(whole)
    assert "sheet 1 of 1" in text[0] and "cut list" in text[-2] and "1 - 1" in text[-1]
    assert one_set(papers) == whole == releases.paper_set(job.store, job.plan, 3)


def test_the_cut_list_names_every_part_with_its_pieces_and_size(job):
    (text,) = pages(made(job, "cut-list.pdf"))
    assert "2 x part0: 150.0 x 90.0 mm, 17.6 mm" in text and "1 x part1: 60.0 x 60.0 mm" in text


@pytest.mark.parametrize("inch", [False, True])
def test_one_page_a_sheet_says_all_that_the_steps_say(job, inch):
    steps = " ".join(pages(made(job, "setup-sheet.pdf")))
    brief = job.setup.rules.model_copy(update={"setup_sheets": "one page a sheet"})
    machine = job.setup.machine
    dialect = machine.dialect.model_copy(update={"inch": inch})
    job.do(SetSetup(setup="main", rules=brief, machine=machine.model_copy(update={"dialect": dialect})))
    (d,) = jobs.derive(job.store, job.plan).values()
    (page,) = pages(made(job, "setup-sheet.pdf"))
    for f in jobs.programs(job.plan, d):
        assert f.name in page.replace("\n", " ")
    for _t, c in d.sheets[0].changes:
        assert f"T{d.setup.cutter(c).number} {d.setup.cutter(c).name}" in page.replace("\n", " ")
    for word in ("Fetch", "Measure", "Lay", "Fix", "Zero", "Load", "Run", "Take off"):
        assert word in page and word in steps
    assert "Local codes" in page and ("in" if inch else "mm") in page


def test_one_page_stays_one_page_with_many_cutters_and_snags(demo):
    for line in demo.jobs():
        plan = demo.get(line["id"]).plan
        if line["kind"] != "parts" or not plan.setups[0].nest or plan.setups[0].machine.head:
            continue
        rules = plan.setups[0].rules.model_copy(update={"setup_sheets": "one page a sheet"})
        plan = plan.model_copy(
            update={"setups": (plan.setups[0].model_copy(update={"rules": rules}), *plan.setups[1:])}
        )
        d = jobs.derive(demo, plan)[plan.setups[0].id]
        files, _m = releases.release(demo, plan, 1)
        data = next(b for n, b in files if n.endswith("setup-sheet.pdf"))
        assert len(pages(data)) == len(d.sheets)
