"""Edits after which something else must be said, on a plan of which all is remembered: what is said is what
is said with nothing remembered. Each edit is one that a digest with something left out would not notice.
"""

import pytest

from tests.support.trial import Clamp, TrialJob, rect, screws
from venzo.core.edits import (
    AcceptNest,
    ChangeSteps,
    MovePiece,
    SetFixings,
    SetQuantity,
    SetScrews,
    SetSetup,
    SetStock,
)
from venzo.core.memo import budget
from venzo.core.nesting.layout import inputs_now
from venzo.core.plan import AcceptedNest

SPOTS = [(40, 40), (240, 40)]


def small(job):
    stock = job.setup.stock[0]
    return SetStock(setup="main", stock=stock.model_copy(update={"width": 300.0}))


def moved(job, **to):
    at = {"x": 40.0, "y": 40.0, "rotation": 0.0, **to}
    return MovePiece(setup="main", part=job.part(), copy_no=0, sheet="own", sheet_copy=0, **at)


def between_zones(job):
    """X at which the sheet's middle lies where one zone of the table ends."""
    return sorted(z.rect[2] for z in job.setup.machine.zones)[0] - 300.0


def stepped(job, on, **fields):
    step = next(o for o in job.setup.operations if o.on == on)
    return ChangeSteps(setup="main", on=on, change=[{"id": step.id, "fields": fields}])


EDITS = {
    "a zone off": lambda job: SetSetup(setup="main", zones_on=job.setup.zones_on[1:]),
    "the sheet over more zones": lambda job: SetSetup(setup="main", sheet_at=(between_zones(job), 0.0)),
    "the sheet beyond the table": lambda job: SetSetup(setup="main", sheet_at=(9000.0, 0.0)),
    "a clamp where it is cut": lambda job: SetFixings(setup="main", fixings=(Clamp(id="c", x=40, y=90),)),
    "a screw where it is cut": lambda job: SetScrews(setup="main", screws=screws((40, 90))),
    "a piece on another": lambda job: moved(job, x=200.0),
    "a piece near another": lambda job: moved(job, x=116.0),
    "a piece turned off the sheet": lambda job: moved(job, rotation=180.0),
    "a smaller sheet": small,
    "one more wanted": lambda job: SetQuantity(part=job.part(), order="order-1", quantity=3),
    "one less wanted": lambda job: SetQuantity(part=job.part(), order="order-1", quantity=1),
    "a deeper pocket": lambda job: stepped(job, "pockets", depth=9.0),
    "a slower feed": lambda job: stepped(job, "outlines", feed=1500.0),
}


def said(job):
    """What the programmer is told: snags, what became of the layout, times, and how each cut is held."""
    d = job.derived
    return (
        sorted(s.model_dump_json() for s in d.snags),
        d.layout.state,
        [sheet.seconds for sheet in d.sheets],
        [(held.cut, held.ratio) for hold in d.holds for held in hold.held],
    )


def nested(job):
    """The layout as one that was found for the job as it is."""
    found = {"pieces": job.setup.nest.pieces, "inputs": inputs_now(job.plan, job.setup, job.store.shapes)}
    job.do(AcceptNest(setup="main", nest=AcceptedNest(**found)))


@pytest.mark.parametrize("what", EDITS)
def test_what_is_said_after_an_edit_is_what_is_said_anew(store, what):
    job = TrialJob(store, (rect(120, 80, pocket=(60, 40, 20)), SPOTS), machine="long-bed", at=(60.0, 0.0))
    nested(job)
    before = said(job)
    job.do(EDITS[what](job))
    remembered = said(job)
    assert remembered != before, "an edit of which nothing is said asks nothing here"
    with budget(1_000_000_000):
        assert remembered == said(job)
