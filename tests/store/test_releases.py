"""Part releases and releases that are kept: nothing is cut twice unseen, what is left over is remembered, and
together they are the whole.
"""

import json
import random
import zipfile
from io import BytesIO

import numpy as np
import pytest

from tests.support.breadth import spread
from tests.support.trial import Tape, TrialJob, rect
from venzo.core.edits import SetSetup
from venzo.core.release.picking import Picked, PickedSheet
from venzo.core.release.programs import tool_runs
from venzo.core.runs.records import Released
from venzo.core.snags import BadInput
from venzo.core.stock.dialect import Dialect
from venzo.desk import jobs, part_releases, programs_told, release_record, releases, runs
from venzo.desk.part_releases import ReleaseSaid
from venzo.store.store import Conflict, NotFound


@pytest.fixture
def job(store):
    trial = TrialJob(store, (rect(200, 120, ((60, 60, 20), (140, 60, 6))), [(60, 60), (300, 60), (60, 220)]))
    machine = trial.setup.machine.model_copy(update={"dialect": Dialect()})
    trial.do(SetSetup(setup="main", machine=machine))
    return trial


def release(job, **picked):
    """Release a part of the job as it stands; the release's number."""
    head = job.store.head(job.job)
    return part_releases.freeze(job.store, job.job, ReleaseSaid(revision=head, picked=Picked(**picked)))


def state(job):
    return part_releases.state(job.store, job.store.get(job.job))


def of(job, number):
    return release_record.released(job.store, job.job, number)


def cut_names(job, number):
    cuts = release_record.manifest_of(job.store, of(job, number)).cuts
    return [n for sheets in cuts.values() for names in sheets.values() for n in names]


def sheet_of(job):
    (d,) = jobs.derive(job.store, job.plan, hold=False).values()
    return d, d.sheets[0]


def test_two_first_and_then_the_rest(job):
    _d, sheet = sheet_of(job)
    pieces = [q.id for q in sheet.pieces]
    assert release(job, pieces=tuple(pieces[:2])) == 1
    left = state(job)
    assert left.left == sum(c.piece.id == pieces[2] for c in sheet.cuts)
    assert release(job) == 2
    assert state(job).left == 0
    assert not set(cut_names(job, 1)) & set(cut_names(job, 2))
    assert sorted(cut_names(job, 1) + cut_names(job, 2)) == sorted(c.name for c in sheet.cuts)
    # names go on in running order and none is used twice
    names = [f.name for n in (1, 2) for f in of(job, n).files if f.kind == "program"]
    assert len(set(names)) == len(names) and names == sorted(names)
    with pytest.raises(BadInput, match="nothing is left that was asked for"):
        release(job)


@pytest.mark.parametrize("seed", spread(range(4), 2))
def test_part_releases_in_any_split_are_together_the_whole(job, seed):
    """Pieces, sides, cutters, operations in random order, as far as the rules let; every cut goes out once,
    move for move as in the whole, and every part is proven on what those before it leave.
    """
    rng = random.Random(seed)
    d, sheet = sheet_of(job)
    whole = {
        label: moves
        for f in jobs.programs(job.plan, d)
        for run in tool_runs(job.plan, d.setup, sheet, f)
        for label, moves in run.cuts
    }
    pieces = [q.id for q in sheet.pieces]
    asks = [
        {"side": "insides", "pieces": tuple(rng.sample(pieces, rng.randint(1, 3)))},
        {"cutters": (rng.choice(sheet.cuts).cut.cutter,), "side": "insides"},
        {"pieces": tuple(rng.sample(pieces, rng.randint(1, 2)))},
        {"operations": (rng.choice(sheet.cuts).cut.kind,)},
        {},
    ]
    got = {}
    for ask in asks:
        try:
            number = release(job, **ask)
        except BadInput as e:
            assert "nothing is left" in str(e) or "first, which is left over" in str(e), e
            continue
        share = release_record.manifest_of(job.store, of(job, number)).cuts
        names = {n for s in share.values() for p in s.values() for n in p}
        rows = [i for i, c in enumerate(sheet.cuts) if c.name in names]
        part = jobs_some(d, sheet, rows)
        for f in jobs.programs(job.plan, part):
            for run in tool_runs(job.plan, d.setup, part.sheets[0], f):
                for label, moves in run.cuts:
                    assert label not in got or np.array_equal(got[label], moves)
                    got[label] = moves
        assert sum(f.seconds for f in of(job, number).files) == pytest.approx(part.sheets[0].seconds, abs=0.2)
    assert got.keys() == whole.keys()
    assert all(np.allclose(got[k], whole[k]) for k in whole)
    every = [n for k in range(1, len(state(job).releases) + 1) for n in cut_names(job, k)]
    assert sorted(every) == sorted(c.name for c in sheet.cuts)


def jobs_some(d, sheet, rows):
    from dataclasses import replace

    from venzo.core.order.of_sheet import some_of

    return replace(d, sheets=(some_of(d.setup, sheet, rows),), holds=(None,))


def test_holes_first_then_outsides_and_never_the_other_way_round(job):
    job.tabs()
    spots = [(160, 120), (400, 120), (160, 280)]
    job.fix(*(Tape(id=f"t{k}", x=x, y=y, width=190, height=110) for k, (x, y) in enumerate(spots)))
    ahead = part_releases.ahead(job.store, job.store.get(job.job), Picked(side="outlines"))
    (said,) = [s for s in ahead.snags if s.rule == "release.loose-later"]
    assert said.severity == "look" and "can then not be released any more" in said.message
    assert release(job, side="outlines") == 1
    with pytest.raises(BadInput, match="would be cut in a piece that release 1 has let go"):
        release(job)
    release_record.withdraw(job.store, job.job, 1, "the wrong way round")
    assert release(job, side="insides") == 2
    assert release(job, side="outlines") == 3
    assert state(job).left == 0


def test_a_finisher_does_not_go_out_before_its_rougher(store):
    """Both steps of an outline are of one kind and side: told apart by their cutters."""
    trial = TrialJob(store, (rect(200, 120), [(60, 60)]))
    other = next(c for c in trial.setup.cutters if c.kind in ("down-cut", "up-cut") and c.diameter < 8)
    trial.outline({"side_allowance": 1.0}, {"cutter": other.id})
    with pytest.raises(BadInput, match="first, which is left over"):
        release(trial, cutters=(other.id,))
    assert release(trial, cutters=("comp-8",)) == 1
    assert release(trial, cutters=(other.id,)) == 2
    assert state(trial).left == 0


def test_a_release_stays_as_it_went_out(job):
    number = release(job)
    r = of(job, number)
    name, body = release_record.archive(job.store, job.job, number)
    assert name == "bench_release-1.zip"
    with zipfile.ZipFile(BytesIO(body)) as z:
        files = {n: z.read(n) for n in z.namelist()}
    assert list(files) == [f.name for f in r.files]
    job.do(SetSetup(setup="main", z_zero="bed" if job.setup.z_zero == "top" else "top"))
    assert release_record.archive(job.store, job.job, number)[1] == body
    program = next(f for f in r.files if f.kind == "program")
    now = jobs.programs(job.plan, sheet_of(job)[0])
    assert all(f.text.encode() != files[program.name] for f in now)


def test_what_the_edit_changed_goes_out_again_and_what_was_run_does_not(job):
    _d, sheet = sheet_of(job)
    release(job)
    runs.record(job.store, job.job, runs.SheetCut(setup="main", sheet=sheet.sheet, release=1, done=3))
    first = {c.piece.id for c in sheet.cuts[:3]}
    deeper = job.setup.rules.model_copy(update={"overshoot": {**job.setup.rules.overshoot, "wood": 0.9}})
    job.do(SetSetup(setup="main", rules=deeper))
    (now,) = state(job).sheets
    assert now.left == 0 and now.changed == len(sheet.cuts) and now.run == 3
    assert set(now.differ) == first
    ahead = part_releases.ahead(job.store, job.store.get(job.job), Picked())
    assert "release.fits" in {s.rule for s in ahead.snags if s.severity == "look"}
    assert release(job) == 2  # what was not run goes out again
    assert set(cut_names(job, 2)) == {c.name for c in sheet.cuts[3:]}
    ahead = part_releases.ahead(job.store, job.store.get(job.job), Picked(which="everything"))
    (said,) = [s for s in ahead.snags if s.rule == "release.again"]
    assert "3 cuts" in said.message


def test_nothing_goes_out_over_a_stop_or_over_an_edit(job):
    head = job.store.head(job.job)
    job.do(SetSetup(setup="main", machine=job.setup.machine.model_copy(update={"rpm_min": 6001})))
    with pytest.raises(Conflict, match="look again"):
        part_releases.freeze(job.store, job.job, ReleaseSaid(revision=head))
    job.do(SetSetup(setup="main", machine=job.setup.machine.model_copy(update={"width": 300.0})))
    with pytest.raises(BadInput, match="nothing was released: "):
        release(job)
    assert not state(job).releases


def test_a_release_is_withdrawn_unless_it_was_run(job):
    _d, sheet = sheet_of(job)
    release(job)
    said = runs.SheetCut(setup="main", sheet=sheet.sheet, release=1)
    number = runs.record(job.store, job.job, said)
    with pytest.raises(BadInput, match="was run"):
        release_record.withdraw(job.store, job.job, 1)
    runs.take_back(job.store, job.job, number)
    release_record.withdraw(job.store, job.job, 1, "wrong sheet")
    with pytest.raises(BadInput, match="withdrawn already"):
        release_record.withdraw(job.store, job.job, 1)
    with pytest.raises(BadInput, match="was withdrawn"):
        runs.record(job.store, job.job, said)
    assert state(job).left == len(sheet.cuts) and state(job).releases[0].taken_back
    with pytest.raises(NotFound, match="no release 7"):
        release_record.withdraw(job.store, job.job, 7)


def test_the_run_of_each_part_counts_its_pieces_once(job):
    _d, sheet = sheet_of(job)
    release(job, side="insides")
    release(job, side="outlines")
    at = {"setup": "main", "sheet": sheet.sheet}
    runs.record(job.store, job.job, runs.SheetCut(**at, release=1, edge="clean"))
    assert runs.of_job(job.store, job.job).sound == {}
    spoilt = sheet.pieces[0].id
    runs.record(job.store, job.job, runs.SheetCut(**at, release=2, spoilt=(spoilt,), edge="torn"))
    made = runs.of_job(job.store, job.job)
    assert sum(made.sound.values()) == 2 and sum(made.spoilt.values()) == 1
    one, two = (line.run for line in reversed(made.runs))
    assert not one.complete and two.complete and (one.edge, two.edge) == ("clean", "torn")
    assert one.rest == two.planned_cuts and two.rest == 0
    assert one.planned + two.planned == pytest.approx(
        sum(f.seconds for n in (1, 2) for f in of(job, n).files), abs=0.5
    )
    with pytest.raises(BadInput, match="recorded as cut already"):
        runs.record(job.store, job.job, runs.SheetCut(**at, release=2))


def test_a_program_is_known_told_by_its_lines_or_foreign(job):
    release(job)
    r = of(job, 1)
    f = next(x for x in r.files if x.kind == "program")
    body = release_record.file_of(job.store, job.job, 1, f.name)
    same = programs_told.tell(job.store, job.job, "stick.nc", body)
    assert same.what == "released" and same.release == 1 and same.file == f.name
    rows = body.decode().split("\n")
    at = next(i for i, line in enumerate(rows) if line.startswith("G1"))
    rows[at] = rows[at] + "1"
    rows.insert(at + 3, "M0")
    altered = programs_told.tell(job.store, job.job, f.name, "\n".join(rows).encode())
    assert altered.what == "changed" and altered.differs == 2
    assert [(x.line, x.what) for x in altered.lines] == [(at + 1, "changed"), (at + 4, "added")]
    strange = programs_told.tell(job.store, job.job, f.name, b"G21 G90\nG0 X1 Y2 Z3\nM30\n")
    assert strange.what == "foreign" and "not to be run" in strange.says
    release_record.withdraw(job.store, job.job, 1)
    gone = programs_told.tell(job.store, job.job, "stick.nc", body)
    assert gone.withdrawn and "do not run it" in gone.says


def test_a_look_that_was_accepted_is_listed_with_who_and_why(known_demo):
    from venzo.desk import proof_record
    from venzo.desk.cut_stock import SheetAt
    from venzo.desk.proof_record import SheetLookedAt
    from venzo.store.author import made_by

    job = next(j["id"] for j in known_demo.jobs() if "glazing" in j["id"])
    plan = known_demo.get(job).plan
    (d,) = jobs.derive(known_demo, plan).values()
    s = d.sheets[0]
    at = SheetAt(setup=d.setup.id, sheet=s.sheet, copy_no=s.copy_no)
    seen = proof_record.verdict(known_demo, known_demo.get(job), at)
    if seen.stops:
        pytest.skip("a stop stands in the demo's glazing")
    with made_by("Ines"):
        proof_record.look_at(
            known_demo,
            job,
            SheetLookedAt(setup=at.setup, sheet=at.sheet, sheet_copy=0, seen=seen.seen, note="tried it"),
        )
        part_releases.freeze(known_demo, job, ReleaseSaid(revision=known_demo.head(job)))
    r = release_record.released(known_demo, job, 1)
    accepted = [x for x in r.looks if x.sheet == s.sheet]
    assert all((x.who, x.why, x.accepted) == ("Ines", "tried it", True) for x in accepted)
    assert not any(x.accepted for x in r.looks if x.sheet not in ("", s.sheet))


def test_blobs_of_releases_are_kept_and_a_damaged_one_is_said(job):
    release(job)
    r = of(job, 1)
    job.store.collect()
    assert release_record.archive(job.store, job.job, 1)[1]
    path = job.store.blobs.folder / r.archive
    path.write_bytes(path.read_bytes()[:-1] + b"x")
    with pytest.raises(Exception, match="altered"):
        release_record.archive(job.store, job.job, 1)


def test_the_whole_at_once_is_what_the_job_releases(job):
    files, manifest = releases.release(job.store, job.plan, job.store.head(job.job))
    release(job)
    r = of(job, 1)
    kept = {f.name: f.sha256 for f in r.files if f.kind == "program"}
    import hashlib

    assert kept == {n: hashlib.sha256(b).hexdigest() for n, b in files if n.endswith(".nc")}
    assert json.loads(files[-1][1])["cuts"] == manifest.cuts
    assert isinstance(r, Released) and r.says == "all" and r.left == 0


def test_sheets_of_one_layout_go_out_one_by_one(known_demo):
    """n of m sheets: the first of two, then the other."""
    job = next(j["id"] for j in known_demo.jobs() if "estuary" in j["id"])
    plan = known_demo.get(job).plan
    d = next(iter(jobs.derive(known_demo, plan, False).values()))
    if any(s.severity == "stop" for s in d.snags):
        pytest.skip("a stop stands in the demo's hide")
    first = d.sheets[0]
    one = PickedSheet(setup=d.setup.id, sheet=first.sheet, copy_no=first.copy_no)
    number = part_releases.freeze(
        known_demo, job, ReleaseSaid(revision=known_demo.head(job), picked=Picked(sheets=(one,)))
    )
    told = part_releases.state(known_demo, known_demo.get(job))
    here = [s for s in told.sheets if (s.sheet, s.copy_no) == (first.sheet, first.copy_no)]
    assert here[0].left == 0 and told.left == sum(len(s.cuts) for s in d.sheets[1:])
    r = release_record.released(known_demo, job, number)
    assert all(f.copies == (first.copy_no,) for f in r.files if f.kind == "program")


def test_a_spoilt_piece_goes_out_again_on_a_fresh_sheet_and_books_no_sheet(job):
    _d, sheet = sheet_of(job)
    release(job)
    at = {"setup": "main", "sheet": sheet.sheet}
    lost = sheet.pieces[1].id
    runs.record(job.store, job.job, runs.SheetCut(**at, release=1, spoilt=(lost,)))
    (now,) = state(job).sheets
    assert now.spoilt == [lost] and now.left == 0
    with pytest.raises(BadInput, match="nothing is left"):
        release(job)
    again = release(job, which="spoilt")
    assert {n.split("/")[0] for n in cut_names(job, again)} == {lost}
    with pytest.raises(BadInput, match="nothing is left"):
        release(job, which="spoilt")  # it is out already
    runs.record(job.store, job.job, runs.SheetCut(**at, release=again, spoilt=(lost,)))
    assert state(job).sheets[0].spoilt == [lost], "spoilt once more"
    number = release(job, which="spoilt")
    runs.record(job.store, job.job, runs.SheetCut(**at, release=number))
    assert state(job).sheets[0].spoilt == []
    made = runs.of_job(job.store, job.job)
    assert sum(made.sound.values()) == 3 and sum(made.spoilt.values()) == 2
    recut = [line.run for line in made.runs if line.run.recut]
    assert len(recut) == 2 and not any(r.complete for r in recut)
    with pytest.raises(BadInput, match="nothing is left"):
        release(job, which="spoilt")


def test_the_rest_of_a_piece_does_not_go_out_once_it_would_not_fit(job):
    """Holes are run, then the piece is moved: its outline would be cut beside them."""
    _d, sheet = sheet_of(job)
    release(job, side="insides")
    runs.record(job.store, job.job, runs.SheetCut(setup="main", sheet=sheet.sheet, release=1))
    q = sheet.pieces[0]
    job.do(
        {
            "kind": "move-piece",
            "setup": "main",
            "part": q.part,
            "copy_no": q.copy_no,
            "x": q.x + 2,
            "y": q.y,
            "rotation": q.rotation,
            "mirrored": q.mirrored,
            "sheet": q.sheet,
            "sheet_copy": q.sheet_copy,
        }
    )
    with pytest.raises(BadInput, match=r"where it does not lie any more.* the rest would not fit"):
        release(job)
    others = tuple(p.id for p in sheet.pieces[1:])
    assert release(job, pieces=others) == 2, "the others can go"
    assert release(job, which="everything", pieces=(q.id,)) == 3, "or the piece as a whole"


def test_spoilt_pieces_are_none_where_nothing_went_out(job):
    with pytest.raises(BadInput, match="nothing is left"):
        release(job, which="spoilt")


def test_a_sheet_recorded_as_cut_without_a_release_is_not_cut_again_unseen(job):
    _d, sheet = sheet_of(job)
    runs.record(job.store, job.job, runs.SheetCut(setup="main", sheet=sheet.sheet))
    ahead = part_releases.ahead(job.store, job.store.get(job.job), Picked())
    (said,) = [s for s in ahead.snags if s.rule == "release.again"]
    assert said.severity == "look" and "recorded as cut, with no release" in said.message


def test_very_long_programs_are_told_apart_in_good_time(job):
    release(job)
    r = of(job, 1)
    f = next(x for x in r.files if x.kind == "program")
    body = release_record.file_of(job.store, job.job, 1, f.name).decode()
    ways = "".join(f"G1 X{k} Y{k % 7}\n" for k in range(8_000))
    longer = body.replace("M30", ways + "M30")
    found = programs_told.tell(job.store, job.job, f.name, longer.encode())
    assert found.what == "foreign" or found.differs >= 8_000
    off = programs_told._line_differences(("a\n" + ways).encode(), ("b\n" + ways[::-1]).encode())
    assert off


def test_a_job_of_the_same_name_as_a_deleted_one_has_none_of_its_releases(job):
    release(job)
    job.store.put_at(job.job, "bin")
    job.store.burn(job.job)
    new = jobs.new_job(job.store, "bench", "small-bench", "birch-ply")
    assert new.plan.id != job.job
    assert part_releases.state(job.store, new).releases == []


def test_what_a_part_lets_be_looked_at_is_accepted_by_who_releases_it(job):
    """Who looked at a sheet's proof has not seen what only a part of it says."""
    from venzo.store.author import made_by

    job.tabs()
    spots = [(160, 120), (400, 120), (160, 280)]
    job.fix(*(Tape(id=f"t{k}", x=x, y=y, width=190, height=110) for k, (x, y) in enumerate(spots)))
    with made_by("Ines"):
        head = job.store.head(job.job)
        said = ReleaseSaid(revision=head, picked=Picked(side="outlines"), note="the drops are glued")
        part_releases.freeze(job.store, job.job, said)
    looks = {x.rule: x for x in of(job, 1).looks}
    part = looks["release.loose-later"]
    assert (part.accepted, part.who, part.why) == (True, "Ines", "the drops are glued")
    assert not any(x.accepted for rule, x in looks.items() if not rule.startswith("release."))
