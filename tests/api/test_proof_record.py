"""One verdict a sheet, and the record that somebody looked: it stands while nothing changes, says what did,
and is never made of what was not seen.
"""

import re

import pytest

from tests.support.trial import TrialJob, rect
from tests.support.web import web_over
from venzo.core.edits import SetScrews, SetSetup
from venzo.core.edits.indexing import ChangeIndexing, IndexStock
from venzo.core.holding.screws import Screw
from venzo.core.indexing.positions import Indexing
from venzo.core.runs.records import READ, SheetProven
from venzo.core.snags import BadInput
from venzo.core.stock.zeros import CentreZero, CornerZero
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt
from venzo.desk.proof_record import SheetLookedAt, look_at, records, verdict
from venzo.store.author import made_by
from venzo.store.store import Conflict


@pytest.fixture
def job(store):
    job = TrialJob(store, (rect(200, 120), [(60, 60), (320, 60)]))
    return job


def at_of(job):
    (d,) = jobs.derive(job.store, job.plan).values()
    return SheetAt(setup=d.setup.id, sheet=d.sheets[0].sheet)


def seen(job):
    return verdict(job.store, job.store.get(job.job), at_of(job))


def let_go(job, v, note="", who="Ann"):
    at = at_of(job)
    with made_by(who):
        look_at(job.store, job.job, SheetLookedAt(setup=at.setup, sheet=at.sheet, seen=v.seen, note=note))


def test_the_verdict_counts_every_rule_that_spoke_and_is_the_gravest_of_them(job):
    v = seen(job)
    assert v.stops == sum(r.count for r in v.rules if r.severity == "stop")
    assert v.looks + v.stops + v.notes == sum(r.count for r in v.rules)
    assert v.verdict == ("stopped" if v.stops else "to look at" if v.looks else "clear")
    assert "proof.clear" in {r.rule for r in v.rules}
    # two outlines of 200 x 120 at the cutter's width and 17.6 mm deep, less what tabs leave
    (d,) = jobs.derive(job.store, job.plan).values()
    wide = d.setup.cutter(d.sheets[0].cuts[-1].cut.cutter).diameter
    assert v.removed == pytest.approx(2 * (640 + 4 * wide) * wide * 17.6, rel=0.05)
    assert v.record is None


def test_a_record_stands_until_something_changes_and_says_what(job):
    v = seen(job)
    if v.stops:
        pytest.fail(f"the trial job stops: {[r.message for r in v.rules if r.severity == 'stop']}")
    let_go(job, v, note="tabs are on the long sides")
    r = seen(job).record
    (listed,) = records(job.store, job.store.get(job.job))
    assert listed.record == r and listed.setup == job.setup.id
    assert (r.author, r.note, r.changed, r.revision) == (
        "Ann",
        "tabs are on the long sides",
        [],
        job.store.head(job.job),
    )
    machine = job.setup.machine
    slower = machine.model_copy(update={"deviation": 0.1})
    job.do(SetSetup(setup=job.setup.id, machine=slower, zones_on=job.setup.zones_on))
    assert seen(job).record.changed == [f"machine {machine.name}"]
    job.do(SetSetup(setup=job.setup.id, datum="centre"))
    assert set(seen(job).record.changed) == {"the zeros", f"machine {machine.name}"}
    job.store.undo(job.job)
    job.store.undo(job.job)
    assert seen(job).record.changed == [], "as it was, it stands again"
    let_go(job, seen(job), who="Ben")
    assert seen(job).record.author == "Ben"


def test_screws_moved_make_it_stale_and_a_name_changed_elsewhere_does_not(job):
    let_go(job, seen(job))
    job.do(SetScrews(setup=job.setup.id, screws=(*job.setup.screws[:-1], Screw(id="s9", x=30, y=380))))
    assert seen(job).record.changed == ["how the sheet lies and is held"]


def test_what_was_not_seen_is_not_let_go(job):
    v = seen(job)
    job.do(SetSetup(setup=job.setup.id, datum="centre"))
    with pytest.raises(Conflict, match="not as it was seen"):
        let_go(job, v)
    assert seen(job).record is None
    job.do(SetScrews(setup=job.setup.id, screws=(Screw(id="in-the-way", x=60, y=60),)))
    stopped = seen(job)
    assert stopped.verdict == "stopped"
    with pytest.raises(BadInput, match=r"has [0-9]+ stops?; a sheet is let go once nothing stops it"):
        let_go(job, stopped)


def test_an_unknown_sheet_is_refused_and_records_read_back(job):
    with pytest.raises(BadInput, match="no piece lies on sheet"):
        verdict(job.store, job.store.get(job.job), SheetAt(setup=job.setup.id, sheet="nowhere"))
    let_go(job, seen(job))
    kept = job.store.runs(job.job)[-1].record
    assert isinstance(kept, SheetProven) and READ.validate_python(kept.model_dump(mode="json")) == kept
    assert kept.follows["the programs"] and any(k.startswith("the drawing of") for k in kept.follows)


@pytest.mark.parametrize("zero", [CornerZero(), CornerZero(corner="upper right"), CentreZero()])
@pytest.mark.parametrize("z_zero", ["top", "bed"])
def test_extents_are_told_as_the_display_shows_them_and_the_lowest_from_the_top(store, zero, z_zero):
    """X and Y are those of the written programs; Z is from the top of the stock, whichever zero it has."""
    b = TrialJob(store, (rect(220, 90), [(60, 60)]))
    b.do(SetSetup(setup="main", datum=zero, z_zero=z_zero))
    said = web_over(store).get(f"/api/jobs/{b.job}/proof").json()["main"][0]
    lines = [line for f in jobs.programs(b.plan, b.derived) for line in f.text.splitlines()]
    words = [w for line in lines if not line.startswith("(") for w in line.split()]
    for k, axis in enumerate("XY"):
        at = [float(w[1:]) for w in words if re.fullmatch(axis + r"-?[\d.]+", w)]
        assert (said["lowest"][k], said["highest"][k]) == pytest.approx((min(at), max(at)), abs=0.002)
    thick = b.setup.stock[0].thickness
    deepest = min(c.cut.levels[-1] for c in b.sheet.cuts)
    assert said["lowest"][2] == pytest.approx(deepest) and deepest < -thick


def test_a_look_is_of_the_positions_that_long_stock_lay_at(store):
    """Moved otherwise along the table, what was looked at is another thing."""
    b = TrialJob(store, (rect(1900, 120), [(50, 60)]), sheet=(2000, 300), screwed=False, machine="long-bed")
    b.do(SetSetup(setup="main", sheet_at=(1500.0, 100.0)))
    b.do(IndexStock(setup="main", indexing=Indexing(moved=(740.0,))))
    b.zones("1", "2", "3")
    v = seen(b)
    assert not v.stops, [r.message for r in v.rules if r.severity == "stop"]
    let_go(b, v)
    assert not seen(b).record.changed
    b.do(ChangeIndexing(setup="main", fields={"moved": {"=": [760.0]}}))
    assert "how the sheet lies and is held" in seen(b).record.changed
