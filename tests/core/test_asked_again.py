"""Edits after which something else must be said, on a plan of which all is remembered: what is said is what
is said with nothing remembered. Each edit is one that a digest with something left out would not notice.
"""

import pytest

from tests.support.trial import Clamp, TrialJob, rect, screws
from venzo.core.edits import MovePiece, SetFixings, SetQuantity, SetScrews, SetSetup, SetStock
from venzo.core.memo import budget

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
}


def said(job):
    return sorted(s.model_dump_json() for s in job.derived.snags)


@pytest.mark.parametrize("what", EDITS)
def test_what_is_said_after_an_edit_is_what_is_said_anew(store, what):
    job = TrialJob(store, (rect(120, 80), SPOTS), machine="long-bed", at=(60.0, 0.0))
    before = said(job)
    job.do(EDITS[what](job))
    remembered = said(job)
    assert remembered != before, "an edit of which nothing is said asks nothing here"
    with budget(1_000_000_000):
        assert remembered == said(job)
