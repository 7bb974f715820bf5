"""One file for several sheets: it does what its parts do, with a stop between each, and is kept with them."""

import io
import zipfile

import numpy as np
import pytest

from tests.support.breadth import spread
from tests.support.trial import TrialJob, rect
from venzo.core.edits import AcceptNest, SetSetup
from venzo.core.plan import AcceptedNest, Piece
from venzo.core.release.picking import Picked, PickedSheet
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect, starters
from venzo.desk import jobs, part_releases, release_record, releases, runs
from venzo.desk.part_releases import ReleaseSaid
from venzo.formats.joined_program import join_programs
from venzo.formats.rs274 import interpret

JOINS = [d for d in starters() if d.joins]


@pytest.fixture
def job(store):
    """Two sheets with different layouts."""
    trial = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60), (300, 60)]))
    part = trial.part()
    pieces = (
        Piece(part=part, copy_no=0, sheet="own", sheet_copy=0, x=60, y=60),
        Piece(part=part, copy_no=1, sheet="own", sheet_copy=1, x=150, y=100),
    )
    stock = trial.setup.stock[0].model_copy(update={"quantity": 2})
    trial.do({"kind": "set-stock", "setup": "main", "stock": stock.model_dump(mode="json")})
    trial.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=pieces, inputs="by hand")))
    speak(trial, Dialect())
    return trial


def speak(job, dialect, files_by="job"):
    job.do(SetSetup(setup="main", machine=job.setup.machine.model_copy(update={"dialect": dialect})))
    job.do({"kind": "set-order", "setup": "main", "files_by": files_by})


def programs_of(job):
    files, _m = releases.release(job.store, job.plan, 1)
    return {n: b.decode() for n, b in files if part_releases.is_program(n)}


@pytest.mark.parametrize("dialect", spread(JOINS, 3), ids=lambda d: d.name)
def test_one_file_does_what_its_sheets_do_with_a_stop_between(job, dialect):
    speak(job, dialect, "sheet")
    apart = programs_of(job)
    speak(job, dialect)
    ((name, text),) = programs_of(job).items()
    assert "_s1-2_01_all_" in name
    whole = interpret(text, name, dialect)
    single = [interpret(t, n, dialect) for n, t in apart.items()]
    assert not whole.faults and whole.ended and sum(e.kind == "stop" for e in whole.events) == 1
    blocks = [b for r in single for b in r.blocks]
    assert len(whole.blocks) == len(blocks) == 2 * len(single[0].blocks)
    assert all(
        np.array_equal(a.moves[-len(b.moves) :], b.moves) for a, b in zip(whole.blocks, blocks, strict=True)
    )
    if dialect.comments != "none":
        assert "OPERATOR: lay sheet 2 of 2" in text
    if dialect.numbers:
        numbers = [int(x.split()[0][1:]) for x in text.splitlines() if x.startswith("N")]
        assert numbers == sorted(set(numbers)), "block numbers run on"


def test_it_is_kept_with_its_sections_and_run_sheet_by_sheet(job):
    said = ReleaseSaid(revision=job.store.head(job.job))
    ahead = part_releases.ahead(job.store, job.store.get(job.job), said.picked)
    assert len(ahead.files) == 1 and ahead.left == 0
    number = part_releases.freeze(job.store, job.job, said)
    r = release_record.released(job.store, job.job, number)
    (program,) = [f for f in r.files if f.kind == "program"]
    sections = [f for f in r.files if f.kind == "section"]
    assert program.name == ahead.files[0].name and program.seconds == pytest.approx(ahead.seconds, abs=0.1)
    assert [(f.sheet, f.copies) for f in sections] == [("own", (0,)), ("own", (1,))]
    assert program.cuts == sum(f.cuts for f in sections) == r.cuts
    stop = job.setup.machine.stop_seconds
    assert program.seconds == pytest.approx(sum(f.seconds for f in sections) + stop, abs=0.3)
    _name, body = release_record.archive(job.store, job.job, number)
    with zipfile.ZipFile(io.BytesIO(body)) as z:
        assert all(f.name in z.namelist() for f in (program, *sections))
    paper = next(f.name for f in r.files if f.name.endswith("setup-sheet.pdf"))
    assert paper and all(f.kind != "section" or f.name.startswith("sections/") for f in r.files)
    runs.record(job.store, job.job, runs.SheetCut(setup="main", sheet="own", sheet_copy=1, release=number))
    states = part_releases.state(job.store, job.store.get(job.job)).sheets
    assert [s.run for s in states] == [0, states[1].cuts]


def test_a_part_of_a_job_that_goes_out_as_one_file_is_proven_on_the_sections_before(job):
    def out(**picked):
        said = ReleaseSaid(revision=job.store.head(job.job), picked=Picked(**picked))
        return part_releases.freeze(job.store, job.job, said)

    assert out(side="insides") == 1
    assert out() == 2
    names = [f.name for n in (1, 2) for f in release_record.released(job.store, job.job, n).files]
    programs = [n for n in names if n.endswith(".nc")]
    assert len(set(programs)) == len(programs)
    assert part_releases.state(job.store, job.store.get(job.job)).left == 0


def test_one_sheet_alone_is_a_file_of_its_own(job):
    only = PickedSheet(setup="main", sheet="own", copy_no=1)
    said = ReleaseSaid(revision=job.store.head(job.job), picked=Picked(sheets=(only,)))
    number = part_releases.freeze(job.store, job.job, said)
    r = release_record.released(job.store, job.job, number)
    assert [f.copies for f in r.files if f.kind == "program"] == [(1,)]
    assert not [f for f in r.files if f.kind == "section"]


def test_a_controller_that_cannot_gets_a_file_a_sheet_or_a_cutter(job):
    for dialect in (Dialect(stops=False), Dialect(tool_change=False)):
        speak(job, dialect)
        files = programs_of(job)
        assert len(files) >= 2 and not any("_all_" in n for n in files)
        with pytest.raises(BadInput, match="make a file for each sheet"):
            join_programs([("", "M30"), ("lay", "M30")], dialect)


def test_what_does_not_read_back_as_its_parts_is_not_joined(job):
    (d,) = jobs.derive(job.store, job.plan, hold=False).values()
    texts = [f.text for f in jobs.programs(job.plan, d)]
    broken = texts[0].replace("M30", "M30\nG0 X1")
    with pytest.raises(BadInput, match="the programs were not joined"):
        join_programs([("", broken), ("lay sheet 2", texts[1])], Dialect())
