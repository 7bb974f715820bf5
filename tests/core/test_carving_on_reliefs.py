"""Carvings and engraved lines that follow a relief: read out of the written programs by another library and
held against the surface, reckoned here from its formula.
"""

import math
import re
from itertools import pairwise

import numpy as np
import pytest
from scipy.spatial import cKDTree

from tests.conftest import dxf
from tests.support.relief_sweep import way_of
from tests.support.trial import TrialJob
from venzo.core.cuts.operations import Groove, VCarve
from venzo.core.edits import AcceptNest, SetSteps, read_command
from venzo.core.edits.asks import ChangeModel, MakeSurface
from venzo.core.plan import AcceptedNest, Piece
from venzo.desk import jobs, models

R, HIGH = 45.0, 6.0
"""The dome: over a disc of this radius, so high."""
BALL = (R**2 + HIGH**2) / (2 * HIGH)
AT = 60.0
"""Where the piece lies on the sheet, and the middle of the dome on the piece, mm."""


def dome(x, y):
    """How high the surface lies: its top at the face, the face itself beside it."""
    r = np.hypot(np.asarray(x) - AT, np.asarray(y) - AT)
    return np.where(r <= R, np.sqrt(np.maximum(BALL**2 - r**2, 0)) - BALL, 0.0)


def plaque(*shapes):
    def draw(m):
        m.add_lwpolyline([(0, 0), (120, 0), (120, 120), (0, 120)], close=True)
        m.doc.layers.add("ENGRAVE")
        for points, closed in shapes:
            m.add_lwpolyline(points, close=closed, dxfattribs={"layer": "ENGRAVE"})

    return dxf(draw)


def domed(store, drawing, step, form=None, **more):
    """A plaque with a dome, or another form over a rectangle, and one step on its engravings."""
    job = TrialJob(store, (drawing, [(AT, AT)]), thick=more.pop("thick", 22.0), **more)
    kind = form or "dome"
    models.make_surface(store, job.job, store.get(job.job).number, MakeSurface(part=job.part(), form=kind))
    field = {"kind": "ellipse", "at": [AT - R, AT - R], "size": [2 * R, 2 * R]}
    changed = {"field": {"=": field}, "forms": {"0": {"height": HIGH}}}
    if form:
        box = {"kind": "rectangle", "at": [10, 10], "size": [100, 100]}
        changed = {"field": {"=": box}, "forms": {"0": {"low": 0.0, "high": HIGH}}}
    ask = ChangeModel(part=job.part(), number=0, fields=changed)
    models.change_model(store, job.job, store.get(job.job).number, ask)
    job.do(SetSteps(part=job.part(), on="engravings", steps=(step,)))
    add = next(s for s in job.derived.snags if s.rule == "cuts.no-operation")
    job.do(read_command(add.remedies[0].command))
    return job


def stops(job):
    return [s.message for s in job.derived.snags if s.severity == "stop"]


def proof(job):
    return [s.rule for p in jobs.prove_setup(job.store, job.plan, job.derived) for s in p.snags]


def dense(places, cuts, every=0.02):
    """Every place along the ways that cut."""
    out = []
    for a, b, cut in zip(places[:-1], places[1:], cuts[1:], strict=True):
        if cut and max(a[2], b[2]) <= 1e-6:
            n = max(2, math.ceil(math.dist(a, b) / every))
            out.append(a + (b - a) * np.linspace(0, 1, n)[:, None])
    return np.vstack(out)


def way(job, number):
    """The way of one cutter in the programs, on the part."""
    texts = [p.text for p in jobs.programs(job.plan, job.derived)]
    (text,) = [t for t in texts if f"(cutter T{number}:" in t]  # without a changer a file a cutter
    places, cuts = way_of(text)
    return dense(places, cuts) - (AT, AT, 0)


LINE = [(20, 52), (60, 75), (100, 60)]


def test_a_line_is_engraved_as_deep_below_the_dome_as_asked(store):
    step = Groove(id="e", on="engravings", cutter="vee-60", depth=1.2, follow_relief=True)
    job = domed(store, plaque((LINE, False)), step)
    assert not stops(job)
    kinds = [c.cut.kind for c in job.sheet.cuts]
    assert kinds.index("groove") > max(i for i, k in enumerate(kinds) if k.startswith("relief"))
    assert proof(job) == ["proof.clear"]
    run = way(job, 7)
    off_rim = np.abs(np.hypot(run[:, 0] - AT, run[:, 1] - AT) - R) > 0.2  # there the face falls to the dome
    deep = dome(run[:, 0], run[:, 1]) - run[:, 2]
    assert deep[off_rim].max() < 1.2 + 0.03
    tree = cKDTree(run[:, :2])
    for a, b in pairwise(LINE):
        on = np.array(a) + (np.array(b) - a) * np.linspace(0.01, 0.99, 300)[:, None]
        on = on[np.abs(np.hypot(*(on - AT).T) - R) > 0.3]
        lowest = np.array([run[k, 2].min() for k in tree.query_ball_point(on, 0.03)])
        assert np.abs(lowest - (dome(*on.T) - 1.2)).max() < 0.03


def test_a_carving_is_the_level_one_laid_on_the_surface(store):
    letter = [(40, 50), (80, 50), (80, 54), (62, 54), (62, 85), (58, 85), (58, 54), (40, 54)]
    steps = [
        VCarve(id="v", on="engravings", cutter="vee-60", follow_relief=follow) for follow in (False, True)
    ]
    level, laid = (domed(store, plaque((letter, True)), s) for s in steps)
    assert not stops(laid) and proof(laid) == ["proof.clear"]
    # the dome is steepest under the letter's top: r / sqrt(ball2 - r2), against the flank of the bit
    said = next(s.message for s in laid.derived.snags if s.rule == "relief.wider-strokes")
    slope = 25 / math.sqrt(BALL**2 - 25**2)
    assert float(re.search(r"up to ([0-9.]+) times", said)[1]) == pytest.approx(
        1 / (1 - slope * math.tan(math.radians(30))), abs=0.1
    )
    flat, run = way(level, 7), way(laid, 7)
    _far, k = cKDTree(flat[:, :2]).query(run[:, :2])
    deep = dome(run[:, 0], run[:, 1]) - run[:, 2]
    # both were looked at every 0.02 mm; going down and up stand at one place
    moving = np.hypot(*np.gradient(run[:, :2], axis=0).T) > 1e-4
    assert np.percentile(np.abs(deep + flat[k, 2])[moving], 99.5) < 0.03
    assert deep.max() < -flat[:, 2].min() + 0.03
    remedy = next(s for s in level.derived.snags if s.rule == "relief.not-followed")
    level.do(read_command(remedy.remedies[0].command))
    assert "relief.not-followed" not in {s.rule for s in level.derived.snags}
    assert way(level, 7) == pytest.approx(run, abs=1e-9)


@pytest.mark.parametrize("mirrored", [False, True])
def test_it_follows_a_ramp_on_a_turned_and_a_mirrored_piece(store, mirrored):
    step = Groove(id="e", on="engravings", cutter="vee-60", depth=0.8, follow_relief=True)
    job = domed(store, plaque(([(20, 60), (100, 90)], False)), step, form="ramp")
    piece = Piece(
        part=job.part(), copy_no=0, sheet="own", sheet_copy=0, x=300, y=200, rotation=90, mirrored=mirrored
    )
    job.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=(piece,), inputs="by hand")))
    assert proof(job) == ["proof.clear"]
    run = way(job, 7) + (AT, AT, 0) - (300, 200, 0)
    # turned back by 90 degrees, and out of the mirror
    x = run[:, 1] * (-1 if mirrored else 1)
    want = np.where((x > 10) & (x < 110), -HIGH + HIGH * (x - 10) / 100, 0.0)
    deep = want - run[:, 2]
    assert deep.max() < 0.8 + 0.03 and np.percentile(deep, 50) > 0.75


def test_what_a_relief_cannot_bear_is_said(store):
    step = Groove(id="e", on="engravings", cutter="vee-60", depth=7.0, follow_relief=True)
    job = domed(store, plaque((LINE, False)), step, thick=12.0)
    said = next(s for s in job.derived.snags if s.rule == "relief.through")
    assert said.severity == "stop" and "12.00 mm thick" in said.message
    square = [(50, 50), (70, 50), (70, 70), (50, 70)]
    floor = VCarve(id="v", on="engravings", cutter="vee-60", depth=1.5, clear="up-4", follow_relief=True)
    assert "carve.floor-on-relief" in {
        s.rule for s in domed(store, plaque((square, True)), floor).derived.snags
    }
    steep = Groove(id="e", on="engravings", cutter="vee-90", depth=0.5, follow_relief=True)
    job = domed(store, plaque((LINE, False)), steep)
    models.change_model(
        store,
        job.job,
        store.get(job.job).number,
        ChangeModel(part=job.part(), number=0, fields={"forms": {"0": {"height": 18.0, "rise": 12.0}}}),
    )
    assert "relief.steep-carving" in {s.rule for s in job.derived.snags}


def test_a_place_carved_deeper_below_the_surface_than_asked_is_found(store):
    """The stroke would be 0.3 mm wider there, though no deeper than the relief is elsewhere."""
    from venzo.core.proof.check import prove

    step = Groove(id="e", on="engravings", cutter="vee-60", depth=1.2, follow_relief=True)
    job = domed(store, plaque((LINE, False)), step)
    d = job.derived
    (file,) = [p for p in jobs.programs(job.plan, d) if "(cutter T7:" in p.text]
    lines = file.text.splitlines()
    middle = [k for k, t in enumerate(lines) if re.search(r"^X.* Z-1\.[2-9]", t)]
    k = middle[len(middle) // 2]
    lines[k] = re.sub(r"Z(-[0-9.]+)", lambda m: f"Z{float(m[1]) - 0.5:.3f}", lines[k])
    planted = file.__class__(**{**vars(file), "text": "\n".join(lines) + "\n"})
    subject, own = jobs._read_back(store, job.plan, d, d.sheets[0], [planted])
    assert "proof.gouge" in {s.rule for s in prove(subject, own).snags}
