"""Slots are judged against sheets that are cut elsewhere too, by their measured thickness."""

import pytest

from tests.conftest import dxf
from tests.support.trial import TrialJob
from venzo.core.edits import ChangeMates
from venzo.core.edits.asks import AlterPart
from venzo.core.plan import Mate
from venzo.core.snags import BadInput
from venzo.desk import drawings


def slotted(m):
    """A plate with a slot 60 x 6 mm."""
    for x, y, w, h in ((0, 0, 200, 120), (60, 50, 60, 6.0)):
        m.add_lwpolyline([(x, y), (x + w, y), (x + w, y + h), (x, y + h)], close=True)


def test_a_slot_for_a_sheet_of_another_material_is_opened_for_its_measure(store):
    job = TrialJob(store, (dxf(slotted), [(100, 100)]))
    assert not job.said("parts.slot"), "17.6 mm plywood does not go into 6 mm"
    job.do(ChangeMates(add=(Mate(id="acrylic", name="acrylic 6", thickness=5.93),)))
    (snag,) = job.said("parts.slot")
    clear = job.setup.rules.joint_clearance
    assert "acrylic 6" in snag.message and "5.93 mm" in snag.message
    ask = AlterPart.model_validate(snag.remedies[0].command)
    drawings.alter_part(store, job.job, store.head(job.job), ask)
    assert not job.said("parts.slot")
    hole = dict(store.shapes[job.plan.parts[0].shape].contours)["hole 1"]
    x0, y0, x1, y1 = hole.bbox
    assert min(x1 - x0, y1 - y0) == pytest.approx(5.93 + clear, abs=1e-3)
    # it brings no sheet to the table
    assert [k.id for k in job.setup.stock] == ["own"]
    job.do(ChangeMates(drop=("acrylic",)))
    assert not job.plan.mates
    with pytest.raises(BadInput, match="no mating sheet"):
        job.do(ChangeMates(drop=("acrylic",)))
    with pytest.raises(BadInput, match="already"):
        twice = Mate(id="a", name="a", thickness=3)
        job.do(ChangeMates(add=(twice,)))
        job.do(ChangeMates(add=(twice,)))
