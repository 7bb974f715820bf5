"""Papers say what the plan says, all of it, in the machine's unit: read back by an independent reader."""

import io
import re
import shutil

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.support.papers import places
from tests.support.trial import Clamp, TrialJob, disc, rect
from venzo.core.release.programs import Stamp
from venzo.core.snags import look
from venzo.core.surfacing.board import Board, SurfaceSetup
from venzo.desk import board_programs, jobs, releases, spoilboards
from venzo.formats.paper import Paper
from venzo.formats.setup_sheet import setup_sheet
from venzo.formats.sheet_drawing import fixings, numbers
from venzo.store.store import Store


def pages(data):
    return [re.sub(r"\s+", " ", p.extract_text()) for p in PdfReader(io.BytesIO(data)).pages]


def printed(store, job, released=True, snags=None):
    plan = store.get(job).plan
    d = jobs.derive(store, plan)["main"]
    if snags is not None:
        from dataclasses import replace

        d = replace(d, snags=tuple(snags))
    return setup_sheet(plan, d, jobs.programs(plan, d), released, store.shapes, Stamp(7)), plan, d


@pytest.fixture(scope="module")
def demo(demo_folder, tmp_path_factory):
    folder = tmp_path_factory.mktemp("papers") / "shop"
    shutil.copytree(demo_folder, folder)
    store = Store(folder)
    yield store
    store.close()


def clock(seconds):
    minutes, s = divmod(round(seconds), 60)
    return f"{minutes // 60}:{minutes % 60:02d}:{s:02d}" if minutes >= 60 else f"{minutes}:{s:02d}"


def test_every_sheet_of_the_demo_says_what_its_plan_says(demo):
    seen = 0
    for line in demo.jobs():
        setup = demo.get(line["id"]).plan.setups[0] if line["kind"] == "parts" else None
        if setup is None or not setup.nest or setup.machine.head:
            continue
        data, plan, d = printed(demo, line["id"])
        text = " ".join(pages(data))
        for n, sheet in enumerate(d.sheets, 1):
            assert f"sheet {n} of {len(d.sheets)}, plan revision 7" in text
            assert clock(sheet.seconds) in text and f"{sheet.cut_length / 1000:.1f} m of cut" in text
            for _t, cutter in sheet.changes:
                assert f"T{d.setup.cutter(cutter).number} {d.setup.cutter(cutter).name}:" in text
            for part in {q.part for q in sheet.pieces}:
                count = sum(q.part == part for q in sheet.pieces)
                assert f"{plan.part(part).name} {count}x" in text
        for f in jobs.programs(plan, d):
            assert f.name in text.replace(" ", "") or f.name in text
        assert not re.search(r"\b(nan|inf|None|True|False)\b", text)
        assert d.setup.material.caution[:40] in text and "released" in text
        seen += 1
    assert seen >= 4


@pytest.mark.long
def test_nothing_runs_off_the_page_or_over_the_cautions(demo):
    for line in demo.jobs():
        files, _manifest = releases.release(demo, demo.get(line["id"]).plan, 1)
        # labels have no cautions, and a test of their own
        for data in (b for n, b in files if n.endswith(".pdf") and not n.endswith("_labels.pdf")):
            for found in places(data):
                foot = max(y for _x, y, t in found if "Local codes" in t or "Eyes, ears" in t)
                for x, y, text in found:
                    assert 20 <= x < 560 and 20 < y < 830, text
                own = [t for _x, y, t in found if y <= foot]
                assert not any(t.startswith(("look:", "stop:", "T1", "pass ")) for t in own)


@pytest.fixture
def trial(store):
    b = TrialJob(store, (rect(150, 90, [(40, 40, 12)]), [(20, 20), (200, 20)]), (disc(30), [(20, 150)]))
    return b.outline({}).fix(Clamp(id="c1", x=560, y=200))


@given(st.integers(0, 120))
def test_a_paper_goes_on_on_a_next_page_and_leaves_nothing_out(count):
    paper = Paper("trial", ["one caution", "another caution " * 20])
    paper.begin("A job", "sheet 1 of 1", "under it", "released")
    for k in range(count):
        (paper.text, paper.tick, lambda w: paper.fact("what", w))[k % 3](f"line {k} stands here")
    found = places(paper.finish())
    told = " ".join(t for page in found for _x, _y, t in page)
    assert all(f"line {k} stands here" in told for k in range(count))
    for page in found:
        assert sum("one caution" in t for _x, _y, t in page) == 1, "on every page"
        floor = next(y for _x, y, t in page if "one caution" in t)
        lines = [y for _x, y, t in page if t.startswith("line")]
        assert all(y > floor for y in lines) and len(set(lines)) == len(lines), "none on another"
        assert ("continued" in " ".join(t for _x, _y, t in page)) == (page is not found[0])


def test_many_snags_cutters_and_long_names_are_all_there(store, trial):
    trial.do({"kind": "rename-job", "name": "A very long name of a job " * 7})
    trial.do({"kind": "set-part", "part": trial.part(), "name": "panel with a name that is long " * 5})
    snags = [look("a.rule", f"finding number {k} " + "that says quite a lot " * 8) for k in range(40)]
    data, plan, _d = printed(store, trial.job, snags=snags)
    text = " ".join(pages(data))
    assert all(f"finding number {k} " in text for k in range(40)) and len(pages(data)) > 1
    assert plan.name in text and plan.parts[0].name.strip() in text
    for found in places(data):
        assert all(x < 560 for x, _y, _t in found)


def test_a_paper_of_what_is_not_released_says_so_on_every_sheet(store, trial):
    data, _plan, _d = printed(store, trial.job, released=False)
    found = pages(data)
    assert all("NOT RELEASED" in text and "running order" not in text for text in found)
    assert "Files withheld" in " ".join(found)


def test_the_operator_s_steps_come_in_his_order_with_the_numbers_of_the_drawing(store, trial):
    trial.do({"kind": "rename-job", "name": "Steps"})
    data, _plan, d = printed(store, trial.job)
    text = " ".join(pages(data))
    steps = ["1 Fetch", "2 Measure", "3 Lay", "4 Fix", "5 Zero", "6 Load", "7 Run", "8 Take off"]
    at = [text.index(s) for s in steps]
    assert at == sorted(at)
    # every piece has one number, on the drawing and in the list; screws and clamps have marks and places
    numbered = numbers(d.sheets[0])
    assert sorted(numbered.values()) == list(range(1, len(d.sheets[0].pieces) + 1))
    drawn = [t for page in places(data) for _x, _y, t in page]
    assert all(str(n) in drawn for n in numbered.values())
    for part in {q.part for q in d.sheets[0].pieces}:
        nos = sorted(n for q, n in numbered.items() if q.startswith(part))
        assert f"no. {', '.join(map(str, nos))}" in text
    for mark, _what, x, y in fixings(d.setup, d.sheets[0]):
        assert re.search(rf"{mark}[a-z ]* {x:.0f}, {y:.0f} mm", text), mark
    for _t, cutter in d.sheets[0].changes:
        assert f"{d.setup.cutter(cutter).overhang:g} mm out" in text


def test_a_page_has_the_snags_of_its_sheet_and_no_others(store, trial):
    def about(name, **where):
        return look(f"rule.{name}", f"words of {name}", where)

    snags = [
        about("this", setup="main", sheet="own", sheet_copy=0),
        about("another", setup="main", sheet="own", sheet_copy=1),
        about("elsewhere", setup="main", stock="other"),
        about("every", setup="main"),
        about("part", part=trial.part()),
    ]
    text = " ".join(pages(printed(store, trial.job, snags=snags)[0]))
    said = {n for n in ("this", "another", "elsewhere", "every", "part") if f"words of {n}" in text}
    assert said == {"this", "every", "part"}


def test_the_head_tells_order_date_of_the_revision_and_who(store, trial):
    from venzo.store.author import made_by

    with made_by("Wren"):
        trial.do({"kind": "rename-job", "name": "Dated"})
    number = store.head(trial.job)
    files, _manifest = releases.release(store, store.get(trial.job).plan, number)
    made = next(line["made"] for line in store.history(trial.job))
    text = pages(next(b for n, b in files if n.endswith(".pdf")))[0]
    assert f"plan revision {number} of {made[:10]} {made[11:16]}, Wren" in text and "order Order 1" in text


def test_in_inches_every_length_is_in_inches(store, trial):
    trial.do({"kind": "change-setup", "setup": "main", "machine": {"dialect": {"inch": True}}})
    data, _plan, d = printed(store, trial.job)
    text = " ".join(pages(data))
    named = re.sub(r"T\d+ [^:]*:", "", text)  # a cutter is called as it is
    assert not re.search(r"\d mm\b|m/min", named) and "in/min" in text
    deepest = max(-min(c.cut.levels) for c in d.sheets[0].cuts)
    assert f"{deepest / 25.4:.3f}" in text or f"{deepest / 25.4:.4f}" in text


def test_the_surfacing_sheet_says_what_the_passes_are(store):
    board = Board(id="bed", name="bed", width=600, height=400, thickness=18, machine="small-bench")
    spoilboards.put(store, SurfaceSetup(id="bed", board=board).model_dump(mode="json"))
    spoilboards.change(store, "bed", {"how": {"passes": 20, "depth": 0.3, "start": 0.5}})
    spoilboards.probe(store, "bed", 5, 4)
    b = spoilboards.surface_setup(store, "bed")
    p = spoilboards.planned(store, b)
    name, data = board_programs.paper(store, "bed")
    text = " ".join(pages(data))
    assert name == "surface_bed.pdf" and len(p.layers) == 20
    for layer in p.layers:
        assert f"{layer.name}: Z -{layer.depth:.2f}, {layer.rows} rows" in text
    assert clock(p.seconds) in text and "0.50 mm were taken off since" in text
    for k in range(1, 7):
        assert f"{k}. " in text
