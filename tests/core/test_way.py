"""Where the cutter is at a moment: against the moves themselves, at their ends and in their middles."""

from itertools import pairwise

import numpy as np
import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z
from venzo.core.motion.time import pace
from venzo.core.proof.way import AROUND, moment_of
from venzo.desk import jobs


@pytest.fixture
def sheet(store):
    job = TrialJob(store, (rect(300, 200, ((150, 100, 30),), pocket=(60, 60, 25)), [(50, 50)]))
    (d,) = jobs.derive(store, job.plan).values()
    return d.setup, d.sheets[0]


def test_at_the_end_of_every_move_it_is_there(sheet):
    setup, plan = sheet
    for k, c in enumerate(plan.cuts):
        p = pace(c.moves, setup.machine.axes)
        ends = c.begins + np.cumsum(p.seconds)
        for i in range(1, len(c.moves), max(1, len(c.moves) // 12)):
            if p.seconds[i] < 1e-6:
                continue
            m = moment_of(setup, plan, float(ends[i]) - 1e-6)
            assert (m.cut, m.cutter) == (k, c.cut.cutter)
            assert np.abs(np.array(m.at) - c.moves[i, [X, Y, Z]]).max() < 0.01
            assert m.reached <= m.wanted + 1e-6
            want = "fast" if c.moves[i, KIND] == RAPID else None
            assert (m.motion == "fast") == (want == "fast")


def test_kinds_of_motion_are_those_of_the_heights(sheet):
    setup, plan = sheet
    seen = set()
    for t in np.linspace(0, plan.seconds, 400):
        m = moment_of(setup, plan, float(t))
        seen.add(m.motion)
        if m.motion not in ("fast", "stands"):
            below = plan.cuts[m.cut].moves[:, Z].min()
            assert below - 0.01 <= m.at[2] <= setup.machine.clearance
        for leg in m.legs:
            assert leg.points.shape[1] == 2 and len(leg.points) > 1
        done = [leg.done for leg in m.legs]
        assert done == sorted(done, reverse=True), "what is done comes before what is to come"
    assert {"fast", "level", "slope"} <= seen


def test_the_way_is_one_line_through_the_cutter(sheet):
    setup, plan = sheet
    c = plan.cuts[-1]
    m = moment_of(setup, plan, c.begins + c.seconds / 2)
    joined = [leg.points for leg in m.legs]
    for a, b in pairwise(joined):
        assert np.hypot(*(a[-1] - b[0])) < 0.02
    last_done = [leg for leg in m.legs if leg.done][-1]
    assert np.hypot(*(last_done.points[-1] - np.array(m.at[:2]))) < 0.01
    reach = sum(
        float(np.hypot(*np.diff(leg.points, axis=0).T).sum()) for leg in m.legs if leg.motion != "fast"
    )
    assert reach <= 2.5 * AROUND * setup.machine.fastest_feed / 60


def test_before_all_between_two_and_after_all(sheet):
    setup, plan = sheet
    assert moment_of(setup, plan, 0.0).cut == 0
    a, b = plan.cuts[0], plan.cuts[1]
    gap = moment_of(setup, plan, (a.begins + a.seconds + b.begins) / 2)
    assert gap.motion == "fast" and gap.at[2] == setup.machine.clearance and gap.cut == 1
    end = moment_of(setup, plan, plan.seconds + 99)
    assert end.cut == len(plan.cuts) - 1
    assert np.abs(np.array(end.at) - plan.cuts[-1].moves[-1, [X, Y, Z]]).max() < 1e-6
