"""Dialects, from outside: a job written in each of them is parsed by an independent reader (gcodeparser for
RS-274, the drawing library's HPGL/2 player for plots) and swept with shapely; every dialect takes the same
out of the sheet.

Inch and metric: one inch is 25.4 mm exactly (international yard and pound agreement, 1959).
"""

import re

import numpy as np
import pytest
import shapely
from shapely import STRtree
from shapely.geometry import LineString, Point
from shapely.ops import unary_union

from tests.reference.test_program_sweep import explicit, segments
from tests.support.breadth import spread
from tests.support.trial import TrialJob, rect
from venzo.core.edits import SetSetup
from venzo.core.stock.dialect import Dialect, starters
from venzo.desk import jobs

ROUND = 0.02
"""mm; rounding to three decimals, and chords of lines-only programs."""
CUT_AT = (-0.5, -5.0, -11.0, -17.0)
"""mm; heights at which the swept shapes are compared."""


def plain(text: str) -> str:
    """A program as the outside parser takes it: no comments, no block numbers, no percent, words parted,
    a digit after every point, no words of the machine's own.
    """
    out = []
    for line in text.splitlines():
        line = re.sub(r"\([^)]*\)|;.*|%", "", line)
        line = re.sub(r"^\s*N\d+", "", line)
        line = re.sub(r"(\d\.)(?!\d)", r"\g<1>0", line)
        line = re.sub(r"\s*(?<=.)([A-Z])", r" \1", line).strip()
        if line and not re.match(r"M(?!3|5|6|0|2|30)\d+|G4\b|G43", line):
            out.append(line)
    return explicit("\n".join(out))


def swept(setup, files):
    """What is taken out at each height, whatever cutter does it."""
    lines = {z: [] for z in CUT_AT}
    for f in files:
        number = setup.cutter(f.cutters[0]).number
        for tool, rapid, pts in segments(plain(f.text), number):
            cutter = next(c for c in setup.cutters if c.number == tool)
            if rapid or np.ptp(pts[:, :2], axis=0).max() < 1e-9:
                continue
            for z in CUT_AT:
                if pts[:, 2].max() <= z:
                    lines[z].append(LineString(pts[:, :2]).buffer(cutter.radius, quad_segs=32))
    return {z: unary_union(found) for z, found in lines.items()}


def made(job, dialect):
    machine = job.setup.machine.model_copy(update={"dialect": dialect})
    job.do(SetSetup(setup="main", machine=machine))
    (d,) = jobs.derive(job.store, job.plan, hold=False).values()
    return d, jobs.programs(job.plan, d)


@pytest.fixture
def job(store):
    return TrialJob(store, (rect(200, 120, ((60, 60, 20), (140, 60, 6))), [(60, 60), (300, 60)]))


SPOKEN = [d for d in starters() if d.language == "rs-274"]


@pytest.mark.parametrize("dialect", spread(SPOKEN, 4), ids=lambda d: d.name)
def test_every_dialect_takes_the_same_out_of_the_sheet(job, dialect):
    d, files = made(job, Dialect())
    want = swept(d.setup, files)
    d, files = made(job, dialect)
    got = swept(d.setup, files)
    assert any(a.area > 100 for a in want.values())
    for z, area in want.items():
        assert not got[z].difference(area.buffer(ROUND)).area > 1e-6, f"{dialect.name} takes more at {z}"
        assert not area.difference(got[z].buffer(ROUND)).area > 1e-6, f"{dialect.name} takes less at {z}"


def test_a_plot_played_by_another_reader_draws_where_the_cutter_goes(job):
    from ezdxf.addons.hpgl2.backend import Recorder
    from ezdxf.addons.hpgl2.interpreter import Interpreter
    from ezdxf.addons.hpgl2.plotter import Plotter
    from ezdxf.addons.hpgl2.tokenizer import hpgl2_commands

    d, files = made(job, Dialect())
    number = {c.id: c.number for c in d.setup.cutters}
    want = [
        LineString(pts[:, :2])
        for f in files
        for _t, rapid, pts in segments(plain(f.text), number[f.cutters[0]])
        if not rapid and pts[:, 2].min() < -1e-6 and np.ptp(pts[:, :2], axis=0).max() > 1e-9
    ]
    _d, plots = made(job, next(x for x in starters() if x.language == "hpgl"))
    drawn = []
    for f in plots:
        recorder = Recorder()
        Interpreter(Plotter(recorder)).run(hpgl2_commands(b"\x1b%1B" + f.text.encode()))
        for _kind, _pen, record in recorder.player().recordings():
            for item in record if isinstance(record, tuple) else (record,):
                pts = np.array([(v.x, v.y) for v in item.vertices()]) * 0.025
                if len(pts) > 1:
                    drawn.append(LineString(pts))
    for these, those in ((want, drawn), (drawn, want)):
        tree = STRtree(those)
        probes = [Point(p) for line in these for p in shapely.segmentize(line, 1.0).coords]
        near = tree.query(probes, predicate="dwithin", distance=0.04)[0]
        assert len(set(near.tolist())) == len(probes)
