"""Sheets of several jobs on one table: where they lie, what is loaded when, what the one program does."""

import itertools
import re
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.formats.test_papers import pages
from tests.support.trial import Clamp, FixtureBoard, TrialJob, rect
from venzo.core.edits import SetQuantity, SetSetup, read_command
from venzo.core.order.merged import loads_together
from venzo.core.snags import BadInput
from venzo.desk import jobs, releases, table_runs
from venzo.formats import gcode
from venzo.formats.rs274 import interpret

GRID = {"pitch": 320, "at": [30, 20], "columns": 3, "rows": 2}
PLATE = rect(150, 90, [(40, 45, 14)], pocket=(105, 45, 20))
HOLED = rect(120, 80, [(60, 40, 12)])


@pytest.fixture
def shop(store):
    table(store, GRID)
    return store


def table(store, grid):
    bench = next(m for m in store.library("machine") if m["id"] == "small-bench")
    store.put_library("machine", {**bench, "grid": grid})


def job(store, *parts, thick=17.6, **more):
    return TrialJob(store, *parts, sheet=(250, 200), thick=thick, **more).outline({})


def run(store, *laid, z_zero=None):
    """A run with (job, square) each."""
    at = table_runs.start(store, "today")
    add = []
    for k, (b, square) in enumerate(laid):
        (sheet, *_) = table_runs.sheets_of(store, b.job)
        own = {"job": b.job, "setup": sheet.setup, "sheet": sheet.sheet, "copy_no": sheet.copy_no}
        add.append({"id": f"s{k}", "square": square, **own})
    command = {"kind": "change-run", "add": add, **({"z_zero": z_zero} if z_zero else {})}
    store.apply(at.plan.id, at.number, read_command(command))
    return at.plan.id


def at_feed(text):
    """End points of all moves at feed below the fast moves, three decimals."""
    m = interpret(text, "p").moves
    return sorted(map(tuple, m[m[:, 0] != 0][:, 1:4].round(2).tolist()))


def test_one_program_makes_the_moves_of_every_job_where_its_sheet_lies(shop):
    """Against the programs of the jobs themselves, Z from the bed: the same moves at feed, each set moved to
    its square; sheets of two thicknesses.
    """
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]), thick=12.0)
    own = []
    for one, square in ((a, (0, 0)), (b, (320, 320))):
        one.do(SetSetup(setup="main", z_zero="bed"))
        derived = jobs.derive(shop, one.plan)["main"]
        for f in jobs.programs(one.plan, derived):
            own += [(round(x + square[0], 2), round(y + square[1], 2), z) for x, y, z in at_feed(f.text)]
    found = run(shop, (a, 1), (b, 5))
    together = [p for _name, text in table_runs.programs(shop, found) for p in at_feed(text)]
    assert len(together) == len(own)
    assert np.allclose(sorted(together), sorted(own), atol=0.011)


def test_cutters_are_loaded_once_and_time_counts_them(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (PLATE, [(30, 40)]))
    d = table_runs.document(shop, run(shop, (a, 1), (b, 2)))
    assert not [s for s in d.snags if s.severity == "stop"], [s.message for s in d.snags]
    assert len(d.loads) == d.alone / 2 and all(len(x.sheets) == 2 for x in d.loads)
    single = [table_runs.document(shop, run(shop, (one, 1))).seconds for one in (a, b)]
    assert d.seconds < sum(single)
    text = " ".join(pages(table_runs.paper(shop, run(shop, (a, 1), (b, 6)))[1]))
    assert "square 6: bench" in text and "Touch off Z" in text.replace("touch", "Touch")


def test_a_job_s_edit_is_in_the_run_at_once_and_what_it_stops_stops_here(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    found = run(shop, (a, 1), (b, 2))
    before = table_runs.document(shop, found).cut_length
    moved = {
        "kind": "move-piece",
        "setup": "main",
        "part": a.part(),
        "copy_no": 0,
        "sheet": "own",
        "sheet_copy": 0,
    }
    a.do({**moved, "x": 60, "y": 60.0})
    again = table_runs.document(shop, found)
    assert again.cut_length == pytest.approx(before, rel=1e-3) and again.sheets[0].parts[0][0] != (60.0, 60.0)
    # over the sheet's edge
    a.do({**moved, "x": 150, "y": 60.0})
    said = [s for s in table_runs.document(shop, found).snags if s.severity == "stop"]
    assert said and said[0].rule == "table.job"
    with pytest.raises(BadInput, match="no program while this stands"):
        table_runs.programs(shop, found)


def test_sheets_are_laid_moved_taken_off_and_that_taken_back(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    found = run(shop, (a, 1))
    (other, *_) = table_runs.sheets_of(shop, b.job)
    lay = {"id": "s9", "job": b.job, "setup": other.setup, "sheet": other.sheet, "square": 2}

    def do(**command):
        return shop.apply(found, shop.head(found), read_command({"kind": "change-run", **command}))

    do(add=[lay])
    do(change=[{"id": "s9", "fields": {"square": 6}}])
    assert [s.square for s in table_runs.document(shop, found).sheets] == [1, 6]
    with pytest.raises(BadInput, match="lies on square 6 already"):
        do(add=[{**lay, "id": "s10"}])
    with pytest.raises(BadInput, match="cannot lie on its own table"):
        do(add=[{**lay, "id": "s11", "job": found}])
    with pytest.raises(BadInput, match="no sheet on the table 'nothing'"):
        do(drop=["nothing"])
    with pytest.raises(BadInput, match="runs sheets of other jobs"):
        jobs.add_setup(shop, found, shop.head(found), None, "birch-ply")
    with pytest.raises(BadInput, match="nothing of the table is to change"):
        do()
    with pytest.raises(BadInput, match="needs a name"):
        table_runs.start(shop, "  ")
    do(drop=["s9"])
    shop.undo(found)
    assert len(table_runs.document(shop, found).sheets) == 2
    shop.redo(found)
    assert len(table_runs.document(shop, found).sheets) == 1
    assert [x.id for x in table_runs.listed(shop)] == [found]


def test_its_release_has_programs_and_paper_and_under_a_stop_the_paper_only(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    found = run(shop, (a, 1), (b, 2))
    names = [n for n, _b in table_runs.programs(shop, found)]
    files, manifest = releases.release(shop, shop.get(found).plan, 2)
    assert [n for n, _b in files] == [*names, "today_table-sheet.pdf", "release.json"]
    assert manifest.files == [*names, "today_table-sheet.pdf"]
    shop.apply(
        found,
        shop.head(found),
        read_command({"kind": "change-run", "change": [{"id": "s1", "fields": {"square": 1}}]}),
    )
    files, _manifest = releases.release(shop, shop.get(found).plan, 3)
    assert [n for n, _b in files] == ["today_table-sheet.pdf", "release.json"]
    assert "lie on one another" in " ".join(pages(files[0][1]))


def said(store, found):
    return {s.rule: s.severity for s in table_runs.document(store, found).snags}


def test_what_cannot_be_cut_together_is_said(shop):
    """Each planted fault by its rule, and its opposite without a word."""
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]), thick=12.0)
    assert not said(shop, run(shop, (a, 1), (b, 2)))
    assert said(shop, run(shop, (a, 1), (b, 2), z_zero="top")) == {"table.thickness": "stop"}
    assert said(shop, run(shop, (a, 1), (b, 1)))["table.overlap"] == "stop"
    assert said(shop, run(shop, (a, 1), (b, 9))) == {"table.no-square": "stop"}
    wide = TrialJob(shop, (PLATE, [(30, 40)]), sheet=(250, 200), machine="long-bed")
    assert said(shop, run(shop, (a, 1), (wide.outline({}), 2)))["table.machines"] == "stop"
    boarded = job(shop, (HOLED, [(40, 50)])).fix(
        FixtureBoard(id="f", x=0, y=0, width=240, height=190, thickness=12)
    )
    assert said(shop, run(shop, (a, 1), (boarded, 2)))["table.own-files"] == "stop"
    marked = job(shop, (HOLED, [(60, 60)])).screw((20, 180), (230, 180), sheet=(250, 200), marked=True)
    assert said(shop, run(shop, (a, 1), (marked, 2)))["table.marks"] == "look"
    table(shop, None)
    assert said(shop, run(shop, (a, 1))) == {"table.no-grid": "stop"}


def test_what_is_no_longer_there_or_held_elsewhere_is_said(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    found = run(shop, (a, 1), (b, 2))
    b.do(SetQuantity(part=b.part(), order="order-1", quantity=0))
    assert said(shop, found)["table.gone"] == "stop"
    bed = next(m for m in shop.library("machine") if m["id"] == "long-bed")
    shop.put_library("machine", {**bed, "grid": {"pitch": 300, "at": [100, 100], "columns": 4, "rows": 3}})
    wide = TrialJob(shop, (PLATE, [(30, 40)]), sheet=(250, 200), machine="long-bed").outline({})
    wide.zones(wide.setup.machine.zones[0].id)
    assert said(shop, run(shop, (wide, 2))).get("table.zones") == "look"
    wide.do(SetSetup(setup="main", sheet_at=(400.0, 100.0)))
    assert "table.zones" not in said(shop, run(shop, (wide, 2)))


@pytest.mark.parametrize(
    ("before", "after"),
    [("X", None), ("F", "F9")],
    ids=["a move left out", "another feed"],
)
def test_a_program_that_does_anything_else_is_found(shop, monkeypatch, before, after):
    """Read back, every move, feed and speed is what the jobs planned."""
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    found = run(shop, (a, 1), (b, 2))

    def tampered(*asked):
        lines = gcode.write(*asked).splitlines()
        at = [k for k, line in enumerate(lines) if line.startswith(("G1", before)) and before in line]
        k = at[len(at) // 2]
        lines[k] = re.sub(rf" ?{before}[-.0-9]*", f" {after}" if after else "", lines[k])
        return "\n".join(lines) + "\n"

    monkeypatch.setattr(table_runs, "write", tampered)
    assert said(shop, found).get("table.program") == "stop"


def test_sheets_too_near_to_one_another_are_cut_into(shop):
    """Outlines along the sheet's edge: the cutter overhangs it by its radius and meets the neighbour."""
    table(shop, {**GRID, "pitch": 251})
    edge = job(shop, (rect(244, 90), [(3, 40)]))
    b = job(shop, (HOLED, [(40, 50)]))
    assert said(shop, run(shop, (edge, 1), (b, 2)))["table.cut-into"] == "stop"
    table(shop, {**GRID, "pitch": 265})
    assert "table.cut-into" not in said(shop, run(shop, (edge, 1), (b, 2)))


def test_a_fixing_of_one_sheet_is_in_the_way_of_another(shop):
    table(shop, {**GRID, "pitch": 265})
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(6, 60)]))
    assert not said(shop, run(shop, (a, 1), (b, 2)))
    a.fix(Clamp(id="c", x=250, y=100))
    assert said(shop, run(shop, (a, 1), (b, 2)))["table.fixing"] == "stop"
    table(shop, {**GRID, "pitch": 320})
    assert "table.fixing" not in said(shop, run(shop, (a, 1), (b, 2)))
    # 17.6 mm and what it stands over that, against 17.6 and the clearance
    tall = a.setup.machine.clearance + 1
    a.fix(Clamp(id="c", x=250, y=100, proud=tall))
    assert said(shop, run(shop, (a, 1), (b, 2)))["table.high"] == "stop"


def test_one_number_is_one_cutter(shop):
    a, b = job(shop, (PLATE, [(30, 40)])), job(shop, (HOLED, [(40, 50)]))
    cutters = list(b.setup.cutters)
    used = {c.cut.cutter for c in jobs.derive(shop, b.plan)["main"].sheets[0].cuts}
    first = next(c for c in cutters if c.id in used)
    other = first.model_copy(update={"diameter": first.diameter + 0.5, "name": "another"})
    b.do(SetSetup(setup="main", cutters=tuple(other if c is first else c for c in cutters)))
    assert said(shop, run(shop, (a, 1), (b, 2)))["table.cutters"] == "stop"
    again = first.model_copy(update={"number": 77})
    b.do(SetSetup(setup="main", cutters=tuple(again if c is first else c for c in cutters)))
    assert said(shop, run(shop, (a, 1), (b, 2)))["table.twice"] == "look"


def chain(name, letters):
    cuts = [SimpleNamespace(cut=SimpleNamespace(cutter=c)) for c in letters]
    return SimpleNamespace(
        id=name, sheet=SimpleNamespace(cuts=cuts), cutter=lambda c: SimpleNamespace(number=c.cut.cutter)
    )


def shortest(sequences):
    """Length of the shortest row of loads that holds every sequence in its order, by trying all."""
    letters = sorted(set("".join(sequences)))
    for n in range(30):
        for row in itertools.product(letters, repeat=n):
            if all(_holds(row, s) for s in sequences):
                return n
    raise AssertionError


def _holds(row, sequence):
    at = iter(row)
    return all(c in at for c in sequence)


@given(st.lists(st.text("abc", min_size=1, max_size=4), min_size=1, max_size=4))
def test_cutters_are_loaded_as_seldom_as_the_orders_allow(sequences):
    """Against trying every row of loads."""
    groups = ["".join(k for k, _g in itertools.groupby(s)) for s in sequences]
    loads = loads_together([chain(str(n), s) for n, s in enumerate(sequences)])
    assert len(loads) == shortest(groups)
    for n, s in enumerate(sequences):
        mine = [c.cut.cutter for load in loads for on, cuts in load if on.id == str(n) for c in cuts]
        assert "".join(mine) == s, "a sheet keeps its own order"
    assert all(len({c.cut.cutter for _on, cuts in load for c in cuts}) == 1 for load in loads)
