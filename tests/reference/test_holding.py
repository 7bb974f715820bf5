"""What holds a piece: hand-worked cases, the working written out beside each.

Formulas: Coulomb friction, F = p A, F = tau A, trapezoid-free geometry: exact mathematics. The straight-line
interaction of push and turn is on the careful side of the limit surface (eccentric shear of bolt groups,
texts on steel connections, from memory). Coefficients are the product's defaults, common practice.
"""

import math

import pytest

from tests.support.trial import FixtureBoard, TrialJob, disc, rect
from venzo.core.edits import SetSetup
from venzo.core.holding.strength import bending, group_force, rise_between, tape_hold
from venzo.core.holding.vacuum import Pump, Spoilboard, pressure
from venzo.core.stock.machine import Zone


def on_zone(store, part, at, zone=(0, 0, 1000, 1000), pump=Pump(pressure=60, flow=180)):
    """One piece on a sheet of 1000 x 1000 mm that lies on a zone of the same size."""
    b = TrialJob(store, (part, [at]), sheet=(1000, 800), screwed=False, at=(100, 50))
    m = b.setup.machine.model_copy(
        update={"zones": (Zone(id="a", rect=zone),), "pump": pump, "spoilboard": Spoilboard(leak=3.0)}
    )
    b.do(SetSetup(setup="main", machine=m, zones_on=("a",)))
    b.outline({"cutter": "up-6", "one_pass": True}).hold_by("nothing")
    return b


def test_a_disc_on_one_zone(store):
    """A disc of 200 mm on a zone that the sheet covers exactly.

    Kerf of the 6 mm cutter: pi (106^2 - 100^2) = 3883 mm2 open. Pump 60 kPa, 180 m3/h, leak 3 m3/h/m2/kPa:
        p = 60 / (1 + 60 x 3 x 0.003883 / 180) = 59.77 kPa
    Area 0.031416 m2: N = 59.77 x 31.416 = 1877.7 N. Up-cut lifts with 0.58 of the cutting force F. Friction
    0.4: 0.4 (1877.7 - 0.58 F). The cutter's middle runs 103 mm from the disc's middle; the disc's radius of
    gyration is 100 / sqrt 2 = 70.7 mm:
        hold at the edge = 0.4 (1877.7 - 0.58 F) / (1 + 103 / 70.7)
    """
    b = on_zone(store, disc(100), (300, 300), zone=(100, 50, 1100, 850))
    h = b.hold.of_piece[b.piece()][-1]
    force = b.sheet.cuts[-1].cut.load.force
    assert h.load == pytest.approx(force) and h.lift == pytest.approx(0.58 * force)
    assert b.hold.pressures[-1] == pytest.approx(59.77, rel=2e-3)
    assert h.up == pytest.approx(1877.7, rel=5e-3)
    assert h.side == pytest.approx(0.4 * (1877.7 - 0.58 * force) / (1 + 103 / 70.71), rel=0.01)
    assert h.ratio == pytest.approx(min(h.side / force, h.up / (0.58 * force)))


def test_a_strip_half_on_a_dead_zone(store):
    """A strip 400 x 60 mm whose right half lies on a zone that is off.

    Held area 200 x 60 mm, its middle 100 mm from the left end. The far corner of the cutter's path is 303 and
    30 mm away: e = hypot(303, 30) = 304.5 mm. Radius of gyration of the held half: sqrt(200^2 + 60^2) / sqrt
    12 = 60.3 mm. The zone ends at the strip's middle; the sheet covers it: only the kerf over it is open, one
    206 mm run each side and one 72 mm end, 6 mm wide: (2 x 200 + 72) x 6 = 2832 mm2 -> p = 60 / (1 + 60 x 3 x
    0.002832 / 180) = 59.83 kPa
        N = 59.83 x 12 = 718 N; hold = 0.4 (718 - 0.58 F) / (1 + 304.5 / 60.3)
    """
    b = on_zone(store, rect(400, 60), (200, 300), zone=(100, 50, 500, 850))
    h = b.hold.of_piece[b.piece()][-1]
    force = h.load
    assert h.up == pytest.approx(718, rel=5e-3)
    assert h.side == pytest.approx(0.4 * (718 - 0.58 * force) / (1 + 304.5 / 60.3), rel=0.02)
    assert b.said("holding.weak")


def test_two_tabs_of_known_section_under_a_known_load(store):
    """A square of 100 mm on two tabs 6 x 4 mm, in the middle of its left and right sides, the sheet screwed,
    no vacuum.

    A tab shears at 5 N/mm2 x 24 mm2 = 120 N, so 240 N together. The tabs' middles lie 4 mm outside (half the
    8 mm kerf), 54 mm from the square's middle. A corner of the cutter's path lies 54 mm and 50 mm away: e =
    hypot(54, 50) = 73.6 mm; r = sqrt(54^2 + 1.5^2) = 54.0 mm (a tab 6 mm wide spreads 6 / 4 mm):
        hold = 240 / (1 + 73.6 / 54.0) = 101.6 N
    """
    b = TrialJob(store, (rect(100, 100), [(200, 150)]))
    b.outline({"one_pass": True}).tabs((0, 50), (100, 50))
    h = b.hold.of_piece[b.piece()][-1]
    assert [x.kind for x in h.holds] == ["tab", "tab"] and sum(x.side for x in h.holds) == pytest.approx(240)
    assert h.side == pytest.approx(240 / (1 + math.hypot(54, 50) / math.hypot(54, 1.5)), rel=0.01)
    assert h.up == pytest.approx(240)


def test_a_screw_in_shear(store):
    """A piece of 100 mm with one screw in its middle: 600 N straight, but it turns about it.

    The head, 10 mm, grips in a ring of two thirds of its radius, 3.33 mm. A corner of the path is hypot(54,
    50) = 73.6 mm away:
        hold = 600 / (1 + 73.6 / 3.33) = 26.0 N
    Two screws, 50 mm apart: r = hypot(25, 3.33) = 25.2 mm, hold = 1200 / (1 + 73.6 / 25.2) = 306 N
    """
    b = TrialJob(store, (rect(100, 100), [(200, 150)]))
    b.outline({"one_pass": True}).hold_by("nothing").screw((12, 12), (588, 388), (250, 200))
    assert b.hold.of_piece[b.piece()][-1].side == pytest.approx(
        600 / (1 + math.hypot(54, 50) / (10 / 3)), rel=0.01
    )
    assert b.said("holding.weak")
    b.screw((12, 12), (588, 388), (225, 200), (275, 200))
    assert b.hold.of_piece[b.piece()][-1].side == pytest.approx(
        1200 / (1 + math.hypot(54, 50) / math.hypot(25, 10 / 3)), rel=0.01
    )
    assert not b.stops()


def test_leaking_air_by_hand():
    """1 m2 of live spoilboard left open: leak 3 x 1 x p = flow 180 (1 - p / 60): 3 p = 180 - 3 p, p = 30
    kPa.
    """
    assert pressure(Pump(pressure=60, flow=180), 3.0, 1e6) == pytest.approx(30)
    assert pressure(Pump(), 3.0, 0.0) == Pump().pressure


def test_a_fixture_board_holds_only_where_it_stands(store):
    """A board of 200 x 100 mm on the zone, the piece of 300 x 80 mm lies over it by 200 x 80: 16,000 mm2
    hold; what the board covers does not leak.
    """
    b = on_zone(store, rect(300, 80), (300, 300), zone=(100, 50, 1100, 850))
    b.fix(FixtureBoard(id="f", x=400, y=340, width=200, height=100))
    h = b.hold.of_piece[b.piece()][-1]
    assert h.up == pytest.approx(b.hold.pressures[-1] * 16.0, rel=0.01) and b.hold.pressures[-1] > 59


def test_beams_tape_and_groups_by_hand():
    """Beam table (Machinery's Handbook, from memory): F L^3 / 3EI and F L^3 / 48EI; tape peels along an edge
    before its area gives.
    """
    assert bending(88, 190, 20, 17.6, 7000) == pytest.approx(88 * 190**3 / (3 * 7000 * 17.6 * 20**3 / 12))
    assert rise_between(40, 400, 3, 69_000) == pytest.approx(40 * 400**3 / (48 * 69_000 * 400 * 3**3 / 12))
    from venzo.core.holding.strength import HoldRules

    side, up = tape_hold(100, 50, HoldRules())
    assert side == pytest.approx(0.1 * 5000) and up == pytest.approx(0.5 * 100), (
        "50 N to peel beats 150 N to lift"
    )
    # four equal holds in the corners of a square, pushed at a corner: e = r, half of their sum
    assert group_force(
        [100] * 4, [(0, 0), (100, 0), (100, 100), (0, 100)], [0] * 4, (100, 100)
    ) == pytest.approx(200)
