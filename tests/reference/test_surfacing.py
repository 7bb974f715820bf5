"""Surfacing against the outside: swept areas by shapely, row counts of shared check values, tram formulas
derived and tried on a tilted disc, least squares on planted boards, programs read by an independent parser.
"""

import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from tests.conftest import MANY
from tests.reference.test_program_sweep import explicit, segments
from tests.support.breadth import spread
from venzo.core.motion.time import Axes, path_time
from venzo.core.snags import BadInput
from venzo.core.stock.grid import Grid
from venzo.core.surfacing.board import Board, KeepOut, Reading, SecondFace, SurfaceSetup, Surfacing
from venzo.core.surfacing.faces import faces, turned
from venzo.core.surfacing.flatness import flatness, pasted
from venzo.core.surfacing.ledger import Entry, state
from venzo.core.surfacing.passes import plan_passes
from venzo.core.surfacing.rows import Room, row_count, runs, swept
from venzo.core.surfacing.shifts import shifts
from venzo.core.surfacing.tradeoff import choices, elsewhere, ways, worth
from venzo.core.surfacing.tram import dish_along, find_tram, step_across
from venzo.desk.surfacing import Placed, clearance_snags, program, surface
from venzo.devices.probe import SCATTER, SimulatedProbe
from venzo.formats.rs274 import read

PATTERNS = st.sampled_from(["rows", "rows+perimeter", "spiral"])


def test_rows_of_the_check_values():
    # shared check values [CP]: n = ceil((W - D) / s) + 1
    assert [row_count(635, 50.8, share * 50.8) for share in (0.4, 0.1)] == [30, 116]
    s = Surfacing(cutter=60, step_over=0.45, overrun=0, depth=1)
    found = runs(s, 800, 300)
    assert row_count(300, 60, 27) == 10 and len(found) == 1
    y = sorted({round(float(v), 6) for v in found[0].points[:, 1]})
    assert len(y) == 10 and y[0] == 30 and y[-1] == 270 and np.diff(y) == pytest.approx(240 / 9)
    # ten rows from edge to edge, nine steps between them, and the way in from where the cutter's edge is 2 mm
    # clear
    assert found[0].length == pytest.approx(10 * 800 + 240 + 32, abs=0.1)
    made = surface(800, 300, s)
    # at 6000 mm/min 8.27 m are 82.7 s; 21 corners at 800 mm/s2 cost up to 0.125 s each
    # and the way from the middle, where Z was touched off, to the first row: 449 mm fast
    travel = 449 / Axes().rapid * 60 + 1.0
    assert made.cut_length == pytest.approx(8272 + 4, abs=1)
    assert 82.7 < made.seconds < 82.7 + 22 * 0.13 + travel


@settings(max_examples=60 * MANY)
@given(
    st.floats(60, 2500),
    st.floats(60, 1300),
    st.floats(6, 80),
    st.floats(0.08, 0.9),
    st.floats(0, 20),
    PATTERNS,
    st.sampled_from(["both ways", "climb", "conventional"]),
    st.sampled_from(["x", "y", "longer"]),
)
def test_everything_is_swept_and_overrun_and_entered_from_outside(
    width, height, cutter, share, overrun, pattern, ways, along
):
    share = max(share, max(width, height) / cutter / 400)  # no more than a few hundred rows a case
    s = Surfacing(
        cutter=cutter, step_over=min(share, 0.9), overrun=overrun, pattern=pattern, ways=ways, along=along
    )
    found = runs(s, width, height)
    area = swept(found, cutter)
    assert box(0, 0, width, height).difference(area.buffer(1e-4 * cutter)).area < 1e-6
    x0, y0, x1, y1 = area.bounds
    assert min(-x0, -y0, x1 - width, y1 - height) >= overrun - 1e-6
    assert all(r.outside for r in found), "no run starts on the work"
    # a run steps over at the work's ends only: its turns lie within a cutter of the edge, whatever the
    # pattern of rows
    if pattern == "rows":
        inner = box(0, 0, width, height).buffer(-cutter / 2 - 1e-6)
        assert not any(inner.contains(Point(q)) for r in found for q in r.points)


def test_climb_has_the_work_on_the_right_of_a_clockwise_spindle():
    for along in ("x", "y"):
        s = Surfacing(cutter=40, step_over=0.5, ways="climb", along=along, overrun=5)
        found = runs(s, 300, 200)
        for a, b in itertools.pairwise(found):
            d = a.points[-1] - a.points[0]
            to = b.points[0] - a.points[0]
            assert d[0] * to[1] - d[1] * to[0] < 0, "what is still to cut lies to the right"
        assert all(
            np.allclose(
                np.sign(r.points[-1] - r.points[0]), np.sign(found[0].points[-1] - found[0].points[0])
            )
            for r in found
        )


def test_dead_areas_are_kept_out_of_and_what_stays_is_drawn():
    b = Board(id="b", name="bed", width=1000, height=600, dead=((450, 200, 550, 300),))
    s = Surfacing(cutter=50, step_over=0.4, overrun=10, passes=2, depth=1)
    for pattern in ("rows", "rows+perimeter", "spiral"):
        p = plan_passes(b, s.model_copy(update={"pattern": pattern}))
        hit = swept(p.layers[0].runs, 50).intersection(box(450, 200, 550, 300))
        assert hit.area < 0.1
        # uncut: the dead area and what a round cutter cannot reach beside it
        assert 100 * 100 <= p.uncut.area < 130 * 150 and p.uncut.contains(box(451, 201, 549, 299))
        assert {"surface.uncut", "surface.entry"} <= {g.rule for g in p.snags} | (
            {"surface.entry"} if pattern == "spiral" else set()
        )
        # where it cannot start outside it ramps
        chain = np.vstack([layer.moves for layer in p.layers])
        nothing_is_plunged_into(chain, 25.0, box(0, 0, 1000, 600))
    reach = box(0, 0, 900, 600)
    assert plan_passes(b, s, room=Room(reach)).uncut.bounds[2] == pytest.approx(1000)


def test_the_program_is_what_was_planned_by_an_independent_parser():
    s = Surfacing(
        cutter=63.5,
        step_over=0.7,
        depth=0.5,
        passes=3,
        finish_depth=0.1,
        finish_step_over=0.2,
        overrun=15,
        pattern="rows+perimeter",
        feed=5000,
        rpm=12000,
    )
    for inch in (False, True):
        made = surface(700, 450, s, inch)
        moves = segments(explicit(made.text), 1)
        depths = sorted(
            {
                round(float(p[-1, 2]), 2)
                for _t, rapid, p in moves
                if not rapid and p[-1, 2] < 0 and abs(p[0, 2] - p[-1, 2]) < 1e-9
            },
            reverse=True,
        )
        assert depths == [-0.5, -1.0, -1.5, -1.6] and made.deepest == pytest.approx(1.6)
        for z in depths:
            lines = [
                LineString(p[:, :2])
                for _t, rapid, p in moves
                if not rapid
                and abs(p[0, 2] - z) < 0.01
                and abs(p[-1, 2] - z) < 0.01
                and np.ptp(p[:, :2], axis=0).max() > 1e-6
            ]
            assert (
                shapely.union_all([g.buffer(63.5 / 2, quad_segs=32) for g in lines])
                .buffer(0.02)
                .covers(box(0, 0, 700, 450))
            )
        length = sum(np.linalg.norm(np.diff(p, axis=0), axis=1).sum() for _t, rapid, p in moves if not rapid)
        assert length == pytest.approx(made.cut_length, rel=1e-3)
        work = box(0, 0, 700, 450)
        for _t, rapid, p in moves:
            down = p[-1, 2] < min(p[0, 2], 0) - 1e-6
            if down and not rapid and np.hypot(*(p[-1] - p[0])[:2]) < 1e-6:
                assert work.distance(Point(p[-1, :2])) > 63.5 / 2, "straight down only clear of the work"
            assert not (rapid and p[-1, 2] < 0)


@settings(max_examples=30 * MANY)
@given(st.floats(0.01, 0.5), st.floats(20, 100), st.floats(0.1, 0.95))
def test_tram_by_a_tilted_disc(tilt, cutter, share):
    """Derived again by points on the rim of a tilted disc: what stays above a row's floor is the lowest rim
    point over each place across.
    """
    s, r, t = share * cutter, cutter / 2, math.radians(tilt)
    a = np.linspace(0, 2 * math.pi, 4_000_001)[:-1] if MANY > 1 else np.linspace(0, 2 * math.pi, 400_001)[:-1]
    # tilted across the rows: rim point (r cos a, r sin a) stands at height r sin a . sin t over the middle;
    # its place across is r sin a . cos t
    across, height = r * np.sin(a) * math.cos(t), r * np.sin(a) * math.sin(t)
    half = s / 2
    left, right = height[np.argmin(np.abs(across + half))], height[np.argmin(np.abs(across - half))]
    assert right - left == pytest.approx(step_across(tilt, s), rel=1e-3, abs=1e-6)
    # tilted along the travel: over a place y across, the lower rim point cuts: -sqrt(r^2 - y^2) sin t
    ridge = (-math.sqrt(r * r - half * half) + r) * math.sin(t)
    assert ridge == pytest.approx(dish_along(tilt, s, cutter), rel=1e-9)
    found = find_tram(step_across(tilt, s), s, "back", "x")
    assert (
        found.tilt == pytest.approx(tilt, rel=1e-9)
        and "leans to the front" in found.says
        and found.per_100 == pytest.approx(100 * math.tan(t), rel=1e-9)
    )


def test_the_trade_off_has_both_ends():
    b = Board(id="b", name="bed", width=1200, height=635)
    found = choices(b, Surfacing(cutter=50.8, overrun=0), tilt_across=0.05)
    assert [c.rows for c in found if c.share in (0.1, 0.4)] == [116, 30]
    assert all(x.seconds >= y.seconds and x.ridge <= y.ridge + 1e-12 for x, y in itertools.pairwise(found)), (
        "finer is slower and smoother"
    )
    assert (
        worth(found, 0.01).share == max(c.share for c in found if c.ridge <= 0.01)
        and worth(found, 0.0) is None
    )
    with pytest.raises(BadInput, match="run rows along y"):
        find_tram(0.1, 20, "left", "x")


@settings(max_examples=25 * MANY)
@given(st.floats(-2, 2), st.floats(-2, 2), st.floats(-1.5, 1.5), st.floats(-1.5, 1.5), st.integers(0, 10_000))
def test_planted_tilt_and_droop_are_recovered(tx, ty, dx, dy, seed):
    r = np.random.default_rng(seed)
    w, h, noise = 2440.0, 1220.0, 0.02
    at = [(x, y) for x in np.linspace(20, w - 20, 9) for y in np.linspace(20, h - 20, 6)]

    def height(x, y):
        u, v = 2 * x / w - 1, 2 * y / h - 1
        return tx / 2 * u + ty / 2 * v + dx * u * u + dy * v * v

    f = flatness([Reading(x=x, y=y, z=height(x, y) + r.normal(0, noise)) for x, y in at], w, h)
    # the standard error of each coefficient is about noise x sqrt(variance) with 54 readings: a tenth of the
    # noise and less; four of them are allowed
    assert (
        f.tilt == pytest.approx((tx, ty), abs=0.06)
        and f.droop == pytest.approx((dx, dy), abs=0.06)
        and f.rest < 2 * noise
    )
    lowest = min(height(x, y) for x, y in at)
    assert f.least_depth() == pytest.approx(max(0.0, -lowest), abs=0.1 * f.range + 4 * noise)


def test_touched_parts_and_passes_over_air():
    # a board that rises 2 mm from left to right, zeroed on its right edge
    w, h = 1000.0, 500.0
    f = flatness(
        [Reading(x=x, y=y, z=2 * x / w - 2) for x in np.linspace(0, w, 6) for y in np.linspace(0, h, 4)], w, h
    )
    assert (
        f.tilt == pytest.approx((2, 0), abs=1e-9)
        and f.droop == pytest.approx((0, 0), abs=1e-9)
        and f.least_depth() == pytest.approx(2, abs=1e-3)
    )
    assert f.touched(1.0) == pytest.approx(0.5, abs=0.03)
    b = Board(id="b", name="bed", width=w, height=h)
    s = Surfacing(cutter=50, step_over=0.4, depth=0.5, passes=4, overrun=5)
    whole, lean = plan_passes(b, s, f), plan_passes(b, s.model_copy(update={"only_touched": True}), f)
    assert lean.cut_length < 0.75 * whole.cut_length and lean.seconds < whole.seconds
    assert {"surface.air"} <= {g.rule for g in whole.snags}
    for layer in lean.layers:  # what each pass leaves out lies lower than it
        xs, ys, z = f.grid
        gx, gy = np.meshgrid(xs, ys)
        must = shapely.points(gx[z > -layer.depth + 1e-3], gy[z > -layer.depth + 1e-3])
        assert shapely.covers(swept(layer.runs, 50).buffer(5e-3), must).all()
    shallow = plan_passes(b, s.model_copy(update={"passes": 2}), f)
    assert "2.00 mm clean everything" in next(g.message for g in shallow.snags if g.rule == "surface.shallow")
    skipped = plan_passes(
        b,
        s.model_copy(update={"only_touched": True}),
        flatness([r.model_copy(update={"z": r.z - 0.6}) for r in f.readings], w, h),
    )
    assert len(skipped.skipped) == 1 and len(skipped.layers) == 3


def test_the_simulated_probe_is_measured_back():
    b = Board(id="b", name="bed", width=2000, height=1000)
    probe = SimulatedProbe(b, seed=4)
    readings = probe.walk(9, 5)
    top = max(probe.height(r.x, r.y) for r in readings)
    assert np.std([r.z - (probe.height(r.x, r.y) - top) for r in readings]) < 3 * SCATTER
    assert flatness(readings, 2000, 1000).high.z == 0
    for bad in ("a b c", "1 2\n", "1 2 3\n4 x 6", ""):
        with pytest.raises(BadInput):
            pasted(bad)
    assert pasted("x,y,z\n1,2,3.5\n4, 5, -0.25")[1].z == -0.25


def test_boards_on_a_numbered_grid_in_one_program():
    b = [
        Board(id=f"b{k}", name=f"board {n}", width=180, height=120, kind="board")
        for k, n in enumerate((1, 4))
    ]
    s, table = Surfacing(cutter=40, step_over=0.5, overrun=8), Grid(pitch=250, columns=4, rows=2)
    made = program(
        [
            Placed(x, plan_passes(x, s), table.corner(*table.square(n)))
            for x, n in zip(b, (1, 4), strict=True)
        ],
        s,
        "two boards",
    )
    moves = segments(explicit(made.text), 1)
    lines = [
        LineString(p[:, :2])
        for _t, rapid, p in moves
        if not rapid and p[-1, 2] < 0 and np.ptp(p[:, :2], axis=0).max() > 1e-6
    ]
    area = shapely.union_all([g.buffer(20, quad_segs=32) for g in lines]).buffer(0.02)
    assert (
        area.covers(box(0, 0, 180, 120))
        and area.covers(box(750, 0, 930, 120))
        and not area.intersects(box(300, 0, 600, 120))
    )


@given(st.floats(500, 9000), st.floats(400, 3000), st.floats(20, 150))
def test_shifts_cover_a_long_board(length, room, overlap):
    found = shifts(length, room, overlap)
    assert found[0].start == 0 and found[-1].end == pytest.approx(length)
    assert all(s.end - s.start <= room + 1e-6 for s in found)
    assert all(b.start == pytest.approx(a.end - overlap) for a, b in itertools.pairwise(found))


def test_faces_and_the_ledger():
    f = faces(32.0, 28.0, 1.5, 1.0)
    assert (f.first, f.after_first, f.second, f.after_second) == (1.5, 30.5, 2.5, 28.0)
    with pytest.raises(BadInput, match=r"leaves 29\.50 mm; 30"):
        faces(32.0, 30.0, 1.5, 1.0)
    b = Board(
        id="b",
        name="bed",
        width=100,
        height=100,
        thickness=18,
        least=10,
        screw_head=6,
        due_metres=300,
        due_depth=1.0,
    )
    lines = [
        (1, Entry(kind="surfaced", removed=0.8)),
        (2, Entry(kind="through-cut", metres=200, score=0.75)),
        (3, Entry(kind="through-cut", metres=150, score=0.5)),
    ]
    s = state(b, lines, take=0.8)
    assert (s.thickness, s.since_zero, s.metres, s.score, s.due, s.cover) == (
        17.2,
        0.8,
        350,
        0.75,
        True,
        5.2,
    ) and s.passes_left == 6
    again = state(b, [*lines, (4, Entry(kind="surfaced", removed=0.8))], take=0.8)
    assert (again.thickness, again.since_zero, again.metres, again.score, again.due) == (
        16.4,
        1.6,
        0,
        0,
        False,
    ), "deep enough: every groove is gone, and the next pass starts at 1.6"
    back = state(
        b, [*lines, (4, Entry(kind="surfaced", removed=0.8)), (5, Entry(kind="reversed", reverses=4))]
    )
    assert back.thickness == 17.2 and back.due
    deep = state(b, [(1, Entry(kind="surfaced", removed=5.5))], take=0.8)
    assert {g.rule: g.severity for g in deep.snags} == {"ledger.screws": "stop"}
    assert state(b, [(1, Entry(kind="surfaced", removed=5.5)), (2, Entry(kind="replaced"))]).thickness == 18
    assert (
        state(
            b,
            [
                (1, Entry(kind="surfaced", removed=1)),
                (2, Entry(kind="zero")),
                (3, Entry(kind="surfaced", removed=0.5)),
            ],
        ).since_zero
        == 0.5
    )


def nothing_is_plunged_into(chain, radius, board):
    """Straight down only where nothing stands: what of the board a disc still meets when it goes down is what
    no move before it has swept, by shapely.
    """
    lines = shapely.linestrings(np.stack([chain[:-1, 1:3], chain[1:, 1:3] + 1e-9], axis=1))
    heights, pieces = [], []
    for a, b, line in zip(chain[:-1], chain[1:], lines, strict=True):
        if b[0] == 0:
            continue
        if np.hypot(*(b[1:3] - a[1:3])) < 1e-6 and b[3] < min(a[3], -0.02):
            foot = Point(b[1:3]).buffer(radius - 1).intersection(board)
            gone = [p for z, p in zip(heights, pieces, strict=True) if z <= b[3] + 0.02]
            stands = 0.0 if foot.is_empty else foot.difference(shapely.union_all(gone)).area
            assert stands < 30.0, (
                f"straight down to {b[3]:.2f} at {b[1]:.0f}, {b[2]:.0f} into {stands:.0f} mm2"
            )
        heights.append(max(a[3], b[3]))
        pieces.append(line.buffer(radius, quad_segs=8))


CLAMPS = ((100, 100, 160, 160), (400, 0, 460, 60), (300, 250, 340, 300))


FINISHES = [("rows", 0.2), ("rows", 0.0), ("rows+perimeter", 0.0), ("rows+perimeter", 0.2)]


@pytest.mark.parametrize(("pattern", "finish"), spread(FINISHES, 2))
def test_fixings_are_lifted_over_and_nothing_is_plunged_into(finish, pattern):
    """Three clamps and a fine pass: no move, fast or cutting, comes nearer to a clamp than its margin below
    its height; straight down only where nothing stands.

    Held against shapely: what of the board a disc still meets when it goes down is what no run before it has
    swept.
    """
    keep = [KeepOut.model_validate([*c, 25.0, 3.0]) for c in CLAMPS]
    s = Surfacing(
        cutter=50.8,
        step_over=0.4,
        depth=0.8,
        passes=3,
        finish_depth=finish,
        finish_step_over=0.15,
        overrun=5,
        pattern=pattern,
    )
    made = surface(600, 400, s, dead=keep)
    assert not [x.message for x in made.snags if x.severity == "stop"]
    chain = np.vstack([b.moves for b in read(made.text).blocks])
    lines = shapely.linestrings(np.stack([chain[:-1, 1:3], chain[1:, 1:3] + 1e-9], axis=1))
    low = np.minimum(chain[:-1, 3], chain[1:, 3])
    for k in keep:
        near = shapely.distance(lines, box(*k.box)) < 25.4 + 3.0 - 1e-3
        assert (low[near] >= 28.0 - 1e-6).all(), f"{int((low[near] < 28).sum())} moves too near a clamp"
    nothing_is_plunged_into(chain, 25.4, box(0, 0, 600, 400))


spots = st.tuples(st.floats(-20, 560), st.floats(-20, 360), st.floats(20, 120), st.floats(20, 90))


@settings(max_examples=25 * MANY)
@given(
    st.lists(spots, min_size=1, max_size=4),
    st.sampled_from([0.1, 0.4, 0.9]),
    PATTERNS,
    st.sampled_from(["x", "y"]),
    st.floats(0, 15),
)
def test_all_that_can_be_reached_beside_fixings_is_cut(fixings, share, pattern, along, overrun):
    """No scallops where rows end at a fixing, the perimeter goes on behind one, a spiral leaves nothing that
    the cutter can come to: what a disc can sweep without coming nearer to a fixing than its margin, by
    shapely.
    """
    keep = [KeepOut(x0=x, y0=y, x1=x + w, y1=y + h) for x, y, w, h in fixings]
    s = Surfacing(cutter=50, step_over=share, overrun=overrun, pattern=pattern, along=along)
    work = box(0, 0, 600, 400)
    found = runs(s, 600, 400, room=Room(dead=keep))
    area = swept(found, 50)
    closed = shapely.union_all([box(*k.box).buffer(25 + k.margin + 0.05, quad_segs=64) for k in keep])
    reachable = work.buffer(25).difference(closed).buffer(25 - 0.1, quad_segs=64).intersection(work)
    missed = reachable.difference(area.buffer(0.03))
    assert missed.area < 2.0, [g.bounds for g in shapely.get_parts(missed)]
    lines = [LineString(r.points) for r in found]
    assert all(line.distance(box(*k.box)) >= 25 + k.margin - 1e-6 for k in keep for line in lines)


def test_rows_are_counted_as_they_are_cut():
    board = Board(id="b", name="bed", width=600, height=400)
    plain = plan_passes(board, Surfacing(cutter=50, overrun=5))
    assert plain.layers[0].rows == row_count(400, 50, 20, 5)
    # a table that ends half way up leaves half of the rows
    half = plan_passes(board, Surfacing(cutter=50, overrun=5), room=Room(box(-99, -99, 999, 200)))
    assert 0.4 < half.layers[0].rows / plain.layers[0].rows < 0.62
    air = flatness(
        [Reading(x=x, y=y, z=-2.0 * (y > 190)) for x in (0, 300, 600) for y in (0, 200, 400)], 600, 400
    )
    lean = plan_passes(board, Surfacing(cutter=50, overrun=5, depth=0.3, only_touched=True), air)
    assert lean.layers[0].rows < plain.layers[0].rows


def test_a_cam_that_stands_low_is_passed_over_until_a_pass_goes_too_deep():
    cam = KeepOut(what="cam", x0=250, y0=-40, x1=330, y1=10, height=-4.0, margin=2.0)
    board = Board(id="b", name="plank", kind="board", width=600, height=200, thickness=40, dead=(cam,))
    p = plan_passes(board, Surfacing(cutter=50, depth=0.9, passes=3, overrun=5))
    assert [layer.depth for layer in p.layers] == pytest.approx([0.9, 1.8, 2.7])
    near = box(*cam.box).buffer(25 + 2.0 - 0.01)
    met = [any(LineString(r.points).intersects(near) for r in layer.runs) for layer in p.layers]
    assert met == [True, True, False], "2 mm over a top 4 mm down: the tip may go 2 mm deep"
    chain = np.vstack([layer.moves for layer in p.layers])
    lines = shapely.linestrings(np.stack([chain[:-1, 1:3], chain[1:, 1:3] + 1e-9], axis=1))
    low = np.minimum(chain[:-1, 3], chain[1:, 3])
    assert (low[shapely.intersects(lines, near)] >= -2.0 - 1e-9).all()
    (said,) = [x for x in p.snags if x.rule == "surface.cam"]
    assert "0.70 mm lower" in said.message and p.uncut.area > 1
    # as much lower as is said, and everything is cut
    lower = cam.model_copy(update={"height": -4.7})
    again = plan_passes(
        board.model_copy(update={"dead": (lower,)}), Surfacing(cutter=50, depth=0.9, passes=3, overrun=5)
    )
    assert not [x for x in again.snags if x.rule == "surface.cam"] and again.uncut.area < 1


def test_the_time_of_a_program_counts_its_travel():
    s = Surfacing(cutter=50, depth=0.8, passes=2, finish_depth=0.2, overrun=5)
    keep = [KeepOut.model_validate([*c, 25.0, 3.0]) for c in CLAMPS]
    for dead in ((), keep):
        made = surface(600, 400, s, dead=dead)
        (block,) = read(made.text).blocks
        own = path_time(block.moves, Axes())[0]
        # the program's first move is from wherever the cutter is; it is reckoned from the middle, where Z was
        # touched off
        board = Board(id="w", name="w", kind="board", width=600, height=400, dead=dead)
        plan = plan_passes(board, s, clearance=max([10.0, *(d.over for d in dead)]))
        assert plan.seconds == pytest.approx(made.seconds, abs=1e-6)
        assert plan.seconds == pytest.approx(own, abs=3.0)
        assert plan.travel > 0.5 and plan.seconds > sum(layer.seconds for layer in plan.layers)


def test_a_ramp_has_its_own_feed():
    inside = Room(box(25, 25, 575, 375))
    board = Board(id="b", name="bed", width=600, height=400)
    for ramp, feed in ((None, 3000.0), (900.0, 900.0)):
        s = Surfacing(cutter=50, feed=6000, plunge=1500, ramp=ramp)
        m = plan_passes(board, s, room=inside).layers[0].moves
        slopes = (np.diff(m[:, 3]) < -1e-6) & (np.hypot(*np.diff(m[:, 1:3], axis=0).T) > 1)
        assert slopes.any() and (m[1:][slopes][:, 6] == feed).all()


@settings(max_examples=30 * MANY)
@given(
    st.floats(20, 60),
    st.floats(0.2, 3),
    st.floats(0.3, 12),
    st.floats(0.2, 2.5),
    st.floats(0, 0.5),
    st.floats(0, 2),
)
def test_the_second_face_ends_at_the_wanted_thickness(thick, first, second, deep, fine, stands):
    wanted = thick - first - second
    b = SurfaceSetup(
        id="b",
        board=Board(id="b", name="plank", kind="board", width=300, height=120, thickness=thick),
        how=Surfacing(depth=first),
        wanted=wanted,
        second=SecondFace(how=Surfacing(depth=deep, finish_depth=fine, touch="table"), stands=stands),
    )
    f = faces(thick, wanted, first, min(deep, second))
    lies = turned(b, f)
    levels = [lies.board.thickness - d for d, _share in lies.how.levels()]
    assert levels[-1] == pytest.approx(wanted) and levels == sorted(levels, reverse=True)
    takes = -np.diff([lies.board.thickness, *levels])
    assert takes.max() <= max(deep, fine) + 1e-6 and lies.board.thickness == pytest.approx(
        thick - first + stands
    )
    made = program([Placed(lies.board, plan_passes(lies.board, lies.how), (0.0, 0.0))], lies.how, "second")
    chain = np.vstack([block.moves for block in read(made.text).blocks])
    # Z 0 is the table: the lowest move runs at the thickness wanted, and no fast move lower than the top
    assert chain[:, 3].min() == pytest.approx(wanted, abs=2e-3)
    assert chain[chain[:, 0] == 0][:, 3].min() >= lies.board.thickness - 1e-3


def test_when_a_saw_or_a_planer_is_quicker():
    plank = Board(id="b", name="plank", kind="board", width=1200, height=200, thickness=40)
    thick, thin = Surfacing(depth=1.5, passes=8), Surfacing(depth=0.5, passes=1)
    rules = {x.rule for x in elsewhere(plank, thick, 3000.0, True)}
    assert rules == {"surface.saw", "surface.planer"}
    # a planer copies the face that the board lies on: no word of it while that is rough
    assert {x.rule for x in elsewhere(plank, thick, 3000.0, False)} == {"surface.saw"}
    assert not elsewhere(plank, thin, 40.0, True), "as quick here"
    assert not elsewhere(plank.model_copy(update={"kind": "spoilboard"}), thick, 3000.0, True)


def test_quick_and_smooth_are_weighed_over_the_whole_job():
    board = Board(id="b", name="bed", width=1200, height=600)
    found = choices(board, Surfacing(cutter=50, overrun=5), 0.05)
    quick, both, smooth = ways(found, 3)
    assert quick.seconds < both.seconds < smooth.seconds and both.ridge == smooth.ridge < quick.ridge
    one = plan_passes(board, Surfacing(cutter=50, overrun=5, passes=3, step_over=0.1))
    assert smooth.seconds == pytest.approx(sum(x.seconds for x in one.layers), rel=1e-3)


def test_a_fixing_higher_than_fast_moves_stops():
    board = Board.model_validate(
        {"id": "b", "name": "bed", "width": 600, "height": 400, "dead": [[100, 100, 160, 160, 40]]}
    )
    assert [x.rule for x in clearance_snags([board], 15.0)] == ["surface.clearance"] and not clearance_snags(
        [board], 43.0
    )
