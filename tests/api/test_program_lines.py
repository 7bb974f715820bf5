"""Every line of a program is at its moment of the tape: the tip is there then."""

import numpy as np
import pytest

from tests.support.trial import TrialJob, rect
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.way import moment_of
from venzo.desk import jobs
from venzo.desk.program_lines import program_text
from venzo.formats.rs274 import interpret
from venzo.store.store import NotFound


def test_the_tip_is_where_the_line_says_at_the_time_of_the_line(store):
    job = TrialJob(store, (rect(200, 120, ((60, 60, 20), (140, 60, 6))), [(60, 60), (300, 60)]))
    (d,) = jobs.derive(store, job.plan, hold=False).values()
    sheet, off = d.sheets[0], []
    for f in jobs.programs(job.plan, d):
        told = program_text(store, job.plan, f.name)
        assert told.lines == f.text.splitlines() and len(told.at) == len(told.lines)
        assert told.at == sorted(told.at), "the tape runs on"
        dx, dy = datum_on_sheet(d.setup, d.setup.stock_of(sheet.sheet))
        for block in interpret(f.text, "p", d.setup.machine.dialect).blocks:
            for m, line in zip(block.moves, block.lines, strict=True):
                if m[0] == 0 or m[3] > -0.5:
                    continue
                at = moment_of(d.setup, sheet, told.at[line - 1]).at
                off.append(np.hypot(at[0] - m[1] - dx, at[1] - m[2] - dy))
    assert len(off) > 50 and max(off) < 0.8  # the tape is told in hundredths of a second


def test_a_program_that_is_not_there_any_more_is_said(store):
    job = TrialJob(store, (rect(200, 120), [(60, 60)]))
    with pytest.raises(NotFound, match="the plan has changed"):
        program_text(store, job.plan, "gone.nc")
