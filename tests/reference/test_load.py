"""Loads along the tape against what geometry and handbook formulas say of simple cuts (removal = feed x width
x depth, chip thinning, power by specific energy, a beam's bend: Machinery's Handbook, from memory), and the
volume that an independent sweep takes off.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from tests.support.library_shop import library_shop
from tests.support.trial import TrialJob, rect
from venzo.core.body.field import Box, StockBody
from venzo.core.cuts import moves as columns
from venzo.core.cuts.moves import CCW, KIND, LINE, RAPID, row
from venzo.core.feeds import mechanics as m
from venzo.core.feeds.windows import energy
from venzo.core.motion.time import pace
from venzo.core.proof.load import held, load_snags, sheet_loads
from venzo.core.proof.removal import stages_of
from venzo.core.tooling.cutter import Cutter
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt
from venzo.desk.loads import load_document

FEED = 1200.0


@pytest.fixture(scope="module")
def base(tmp_path_factory):
    """A nested job of which cuts, cutters and machine can be swapped for simple ones; frozen, so one does for
    all.
    """
    store = library_shop(tmp_path_factory.mktemp("load") / "shop")
    job = TrialJob(store, (rect(300, 200), [(50, 50)]))
    (d,) = jobs.derive(store, job.plan).values()
    store.close()
    return d.setup, d.sheets[0], d.setup.stock_of(d.sheets[0].sheet)


def loads(base, cutter, moves, rpm=18_000.0, machine=None):
    """Loads of one cut, and the setup and sheet that have it."""
    setup, sheet, stock = base
    setup = setup.model_copy(update={"cutters": (cutter,), "machine": machine or setup.machine})
    placed = sheet.cuts[0]
    cut = replace(placed.cut, cutter=cutter.id, moves=moves, rpm=rpm)
    sheet = replace(sheet, cuts=(replace(placed, cut=cut, moves=moves, begins=5.0),))
    found = sheet_loads(setup, sheet, stock)
    return setup, sheet, found.cuts[0], found


def mill(**more):
    return Cutter(
        **{
            "id": "t",
            "number": 1,
            "name": "mill",
            "kind": "up-cut",
            "diameter": 8,
            "cutting_length": 25,
            **more,
        }
    )


def slot(depth, x0=100, x1=300, y=100, feed=FEED):
    return np.array([row(RAPID, x0, y, 3), row(LINE, x0, y, -depth, 600), row(LINE, x1, y, -depth, feed)])


@pytest.mark.parametrize("depth", (1.0, 4.0, 12.0))
def test_a_slot_takes_feed_times_width_times_depth(base, depth):
    setup, _s, c, _l = loads(base, mill(), slot(depth))
    inside = (c.at[:, 0] > 115) & (c.at[:, 0] < 280)
    assert np.median(c.removal[inside]) == pytest.approx(m.removal_rate(FEED, 8, depth), rel=0.02)
    assert np.median(c.width[inside]) == pytest.approx(8, rel=0.02)
    assert np.median(c.depth[inside]) == pytest.approx(depth, abs=0.01)
    per_joule = energy(setup.material)[0]
    assert np.median(c.power[inside]) == pytest.approx(
        m.cutting_power(m.removal_rate(FEED, 8, depth), per_joule), rel=0.02
    )
    chip = m.chip_load(FEED, 18_000, 2)
    force = m.chip_force(per_joule, chip, m.slot_section(depth, 8, 8, 2))
    assert np.median(c.force[inside]) == pytest.approx(force, rel=0.03)
    assert np.median(c.chip[inside]) == pytest.approx(chip, rel=0.02)
    assert np.median(c.bend[inside]) == pytest.approx(m.deflection(force, 29, 8), rel=0.03)


@pytest.mark.parametrize("width", (1.0, 2.0, 3.0))
def test_a_skim_beside_a_slot_makes_thinner_chips(base, width):
    first, second = slot(6.0), slot(6.0, y=100 + width)
    moves = np.vstack([first, [row(RAPID, 300, 100, 3)], second])
    _s, _sh, c, _l = loads(base, mill(), moves)
    again = (c.at[:, 1] > 100.5) & (c.at[:, 0] > 115) & (c.at[:, 0] < 280)
    assert np.median(c.width[again]) == pytest.approx(width, abs=0.12)
    assert np.median(c.chip[again]) == pytest.approx(
        m.chip_thickness(m.chip_load(FEED, 18_000, 2), width, 8), rel=0.06
    )


@pytest.mark.parametrize(("angle", "depth"), [(60.0, 4.0), (90.0, 3.0), (90.0, 5.5)])
def test_a_groove_of_a_pointed_bit_is_a_triangle(base, angle, depth):
    """Section d^2 tan(angle / 2), width 2 d tan(angle / 2)."""
    bit = mill(kind="v-bit", diameter=20, angle=angle)
    _s, _sh, c, _l = loads(base, bit, slot(depth))
    inside = (c.at[:, 0] > 115) & (c.at[:, 0] < 280)
    slope = math.tan(math.radians(angle / 2))
    assert np.median(c.area[inside]) == pytest.approx(depth**2 * slope, rel=0.08)
    assert np.median(c.width[inside]) == pytest.approx(2 * depth * slope, rel=0.06)


def test_a_groove_of_a_ball_is_a_segment_of_a_circle(base):
    """Section of a circle of radius R cut h deep: R^2 acos(1 - h/R) - (R - h) sqrt(2 R h - h^2)."""
    h, r = 2.0, 5.0
    _s, _sh, c, _l = loads(base, mill(kind="ball", diameter=10), slot(h))
    inside = (c.at[:, 0] > 115) & (c.at[:, 0] < 280)
    section = r * r * math.acos(1 - h / r) - (r - h) * math.sqrt(2 * r * h - h * h)
    assert np.median(c.area[inside]) == pytest.approx(section, rel=0.06)


def test_what_is_removed_in_all_is_what_an_independent_sweep_takes(base):
    """Section times way, summed, against the volume of the body (held against Booleans of solids)."""
    moves = np.vstack([slot(5.0), [row(CCW, 300, 160, -5, FEED, 300, 130), row(LINE, 120, 101.5, -5, FEED)]])
    setup, sheet, c, _l = loads(base, mill(), moves)
    stock = base[2]
    body = StockBody(Box(0, 0, stock.width, stock.height), 0.1, spread=True)
    (stage,) = stages_of(setup, sheet)
    body.cut(stage.moves, stage.cutter)
    far = np.linalg.norm(np.diff(c.at, axis=0, prepend=c.at[:1]), axis=1)
    sideways = c.width > 0
    taken = float((c.area * far)[sideways].sum()) + math.pi * 16 * 5  # and the plunge
    assert taken == pytest.approx(body.removed(-stock.thickness), rel=0.04)


def test_straight_down_is_the_cutter_s_own_section_and_nothing_in_a_hole(base):
    drill = mill(kind="drill", diameter=6, angle=118)
    down = np.array([row(RAPID, 100, 100, 3), row(LINE, 100, 100, -10, 300)])
    _s, _sh, c, _l = loads(base, drill, np.vstack([down, down]))
    half = len(c.at) // 2
    assert held(c.removal)[:half].max() == pytest.approx(m.drilling_rate(300, 6), rel=0.01)
    assert held(c.removal)[half:].max() == 0.0


def test_every_step_is_at_its_time_on_the_tape(base):
    _s, sheet, c, _l = loads(base, mill(), slot(5.0, x0=100, x1=300, feed=2000))
    middle = int(np.argmin(np.abs(c.at[:, 0] - 200)))
    # symmetric: half of the long move's time is gone in its middle
    p = pace(sheet.cuts[0].moves, base[0].machine.axes)
    assert c.begins[middle] == pytest.approx(5.0 + p.seconds[:2].sum() + p.seconds[2] / 2, abs=0.02)
    assert (np.diff(c.begins) >= -1e-9).all() and c.took.sum() == pytest.approx(p.total, rel=1e-6)


def rules(base, cutter, moves, rpm=18_000.0, **machine):
    m_ = base[0].machine.model_copy(update=machine) if machine else base[0].machine
    setup, sheet, _c, found = loads(base, cutter, moves, rpm, m_)
    return {s.rule: s for s in load_snags(setup, sheet, found)}


ZIGZAG = np.array(
    [row(RAPID, 100, 100, 3), row(LINE, 100, 100, -2, 600)]
    + [row(LINE, 100 + k, 100 + 3 * (k % 2), -2, 9000) for k in range(1, 150)]
)
CURVE = np.array(
    [row(RAPID, 180, 150, 3), row(LINE, 180, 150, -2, 600)]
    + [
        row(LINE, 150 + 30 * math.cos(t), 150 + 30 * math.sin(t), -2, 4000)
        for t in np.linspace(0.002, 6.2, 3000)
    ]
)
OVERLOADS = {
    "power, a full slot": (
        mill(diameter=20),
        slot(20, feed=9000),
        "load.power",
        {"power": ((18_000.0, 2.0),)},
    ),
    "power, a weak spindle": (mill(), slot(6, feed=4000), "load.power", {"power": ((18_000.0, 0.05),)}),
    "power, turning slowly": (mill(), slot(12, feed=4000), "load.power", {"power": ((18_000.0, 0.3),)}),
    "power, straight down": (
        mill(diameter=20),
        slot(12, feed=100),
        "load.power",
        {"power": ((18_000.0, 0.01),)},
    ),
    "power, beyond the curve's end": (
        mill(diameter=12),
        slot(18, feed=9000),
        "load.power",
        {"power": ((9000.0, 1.0),)},
    ),
    "bend, long and thin": (
        mill(diameter=3, cutting_length=25, stick_out=50),
        slot(8, feed=3000),
        "load.bend",
        {},
    ),
    "bend, a thin shank": (mill(diameter=6, shank=3, stick_out=60), slot(10, feed=5000), "load.bend", {}),
    "bend, a deep slot": (mill(diameter=4, cutting_length=25), slot(16, feed=6000), "load.bend", {}),
    "rubs in short moves": (mill(), ZIGZAG, "load.slow", {"acceleration": 200.0}),
    "rubs on a slow machine": (
        mill(),
        slot(3, feed=9000),
        "load.slow",
        {"rapid": 9000.0, "acceleration": 30.0},
    ),
    "rubs where Y is slow": (
        mill(),
        np.array([row(RAPID, 100, 100, 3), row(LINE, 100, 100, -2, 600), row(LINE, 100, 400, -2, 9000)]),
        "load.slow",
        {"y_acceleration": 30.0},
    ),
    "lines too fast": (mill(), CURVE, "load.blocks", {"blocks": 200.0}),
}


@pytest.mark.parametrize("what", OVERLOADS)
def test_a_planted_overload_is_found_with_its_moment(base, what):
    cutter, moves, rule, machine = OVERLOADS[what]
    found = rules(base, cutter, moves, **({"power": ((18_000.0, 4.0),)} | machine))
    assert rule in found, found
    snag = found[rule]
    assert 5.0 <= snag.where["seconds"] <= 1e4 and snag.where["cut"] == 0 and len(snag.message) > 40


@pytest.mark.parametrize(
    ("cutter", "moves", "machine"),
    [
        (mill(), slot(6, feed=6000), {}),
        (mill(diameter=20), slot(3, feed=4000), {}),
        (mill(kind="v-bit", diameter=20, angle=90), slot(3, feed=4000), {}),
        (mill(), CURVE, {"blocks": 2000.0}),
        (mill(), CURVE, {}),
    ],
)
def test_sound_loads_pass(base, cutter, moves, machine):
    found = rules(base, cutter, moves, **({"power": ((18_000.0, 4.0),)} | machine))
    assert not {r for r, s in found.items() if s.severity != "note"}, found


def test_one_odd_cell_is_no_peak_and_the_strip_shows_what_was_measured(store):
    assert held(np.array([1.0, 1.0, 50.0, 1.0])).max() == 1.0
    job = TrialJob(store, (rect(300, 200), [(50, 50)]))
    (d,) = jobs.derive(store, job.plan).values()
    doc = load_document(store, job.plan, SheetAt(setup=d.setup.id, sheet=d.sheets[0].sheet))
    assert {r.of for r in doc.rows} == {"removal", "power", "chip", "bend", "feed"}
    by = {r.of: r for r in doc.rows}
    assert max(v for v in by["feed"].values if v is not None) <= 1.0
    cutting = [v for v in by["removal"].values if v]
    op = d.sheets[0].cuts[-1].cut
    feed = float(op.moves[op.moves[:, KIND] >= LINE, columns.FEED].max())
    deepest = max(a - b for a, b in zip((0.0, *op.levels[:-1]), op.levels, strict=True))
    cutter = d.setup.cutter(op.cutter)
    assert max(cutting) <= m.removal_rate(feed, cutter.diameter, deepest) * 1.05
