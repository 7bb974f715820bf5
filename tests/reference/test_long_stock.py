"""Long stock from outside: programs of every position parsed by an independent reader (gcodeparser), put
where
the stock lay and swept into one body, held against the same job cut in one go on a longer machine.

The union of what the positions cut is what the whole cuts; nothing is lowered in a dead area; positions are
as few as an exhaustive search finds; pins are judged as by trying every pair of holes, slid and turned
freely.
"""

import math
from itertools import combinations, pairwise, permutations

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, assume, given, settings
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from tests.conftest import MANY, dxf
from tests.reference.test_program_sweep import explicit, segments
from tests.reference.test_turned_stock import dense
from tests.support.relief_sweep import swept_to
from tests.support.trial import TrialJob
from venzo.core.cuts.moves import CCW, CW, KIND, LINE, RAPID, Z, polyline, row
from venzo.core.edits import SetSetup, SetStock
from venzo.core.edits.asks import PlaceAlong
from venzo.core.edits.indexing import IndexStock
from venzo.core.faces.registration import Dowel, Errors
from venzo.core.indexing.fewest_positions import WHOLE, positions_for
from venzo.core.indexing.pins import holes_of, nearest_wrong
from venzo.core.indexing.portions import Down, extent, within
from venzo.core.indexing.positions import MOST_POSITIONS, FenceMark, Indexing, IndexPins
from venzo.core.indexing.reach import clear_of_dead
from venzo.core.indexing.seams import lengths_meet
from venzo.core.snags import BadInput
from venzo.core.stock.machine import Machine
from venzo.desk import indexing, jobs
from venzo.desk.jobs import programs

# -- a cut in lengths


def chain(steps):
    """A cut of lines, arcs and fast moves: from its start down, along, and up."""
    rows = [row(RAPID, 0.0, 0.0, 3.0), row(LINE, 0.0, 0.0, -2.0, 400)]
    x = y = 0.0
    for kind, dx, dy, z in steps:
        if kind == RAPID:
            rows += [
                row(RAPID, x, y, 3.0),
                row(RAPID, x + dx, y + dy, 3.0),
                row(LINE, x + dx, y + dy, z, 400),
            ]
        elif kind == LINE or math.hypot(dx, dy) < 1.0:
            rows.append(row(LINE, x + dx, y + dy, z, 1200))
        else:  # half a circle
            rows.append(row(kind, x + dx, y + dy, z, 1200, x + dx / 2, y + dy / 2))
        x, y = x + dx, y + dy
    rows.append(row(RAPID, x, y, 3.0))
    return np.array(rows)


step = st.tuples(
    st.sampled_from([LINE, LINE, CW, CCW, RAPID]),
    st.integers(-90, 90),
    st.integers(-60, 60),
    st.sampled_from([-2.0, -2.0, -5.0, -8.0]),
)


def points_of(moves):
    """Points every 0.2 mm along what is cut below the surface, with their heights."""
    out = []
    for i in range(1, len(moves)):
        if moves[i, KIND] == RAPID:
            continue
        p = polyline(moves[i - 1 : i + 1], 0.01)
        out.append(dense(p, 0.2))
    p = np.vstack(out) if out else np.zeros((0, 3))
    return p[p[:, 2] < -1e-6]


@settings(max_examples=60 * MANY)
@given(
    st.lists(step, min_size=3, max_size=12),
    st.lists(st.integers(-120, 120), min_size=1, max_size=3, unique=True),
    st.sampled_from([0.0, 6.0, 15.0]),
    st.sampled_from([0, 1]),
)
def test_lengths_together_are_the_whole_cut_and_nothing_more(steps, seams, overlap, column):
    """Every point of the cut is on a length of it; no length is lower anywhere than the cut, leaves its
    stretch, or goes across in the material.
    """
    whole = chain(steps)
    seams, half = sorted(seams), overlap / 2
    assume(all(b - a > overlap for a, b in pairwise(seams)))
    zones = [
        (seams[k - 1] - half if k else -math.inf, seams[k] + half if k < len(seams) else math.inf)
        for k in range(len(seams) + 1)
    ]
    made = [within(whole, column, z, Down(3.0, 400.0)) for z in zones]
    meant, found = points_of(whole), np.vstack([points_of(m) for m in made])
    away = cKDTree(found).query(meant)[0] if len(found) else np.full(len(meant), np.inf)
    assert away.max(initial=0.0) < 0.15
    tree = cKDTree(meant[:, :2])
    for zone, moves in zip(zones, made, strict=True):
        if not len(moves):
            continue
        p = points_of(moves)
        assert p[:, column].min() >= zone[0] - 1e-6 and p[:, column].max() <= zone[1] + 1e-6
        for q, near in zip(p[::7], tree.query_ball_point(p[::7, :2], 0.3), strict=True):
            assert near and q[2] >= meant[near, 2].min() - 0.05  # heights change along a chord
        across = np.hypot(*np.diff(moves[:, [1, 2]], axis=0).T) > 1e-6
        fast = moves[1:, KIND] == RAPID
        assert (np.minimum(moves[1:, Z], moves[:-1, Z])[fast & across] >= 3.0 - 1e-9).all()
        assert moves[0, Z] == 3.0 and moves[-1, Z] == 3.0


@settings(max_examples=40 * MANY)
@given(st.lists(step, min_size=2, max_size=8), st.sampled_from([0, 1]))
def test_how_far_a_cut_reaches_is_told_with_the_bulge_of_its_arcs(steps, column):
    moves = chain(steps)
    p = polyline(moves, 0.0005)[:, column]
    assert extent(moves, column) == pytest.approx((p.min(), p.max()), abs=0.001)


# -- whole jobs


def slat(length, high, pocket, hole):
    """A board with a hole near each end and a pocket along its middle."""

    def draw(m):
        m.add_lwpolyline([(0, 0), (length, 0), (length, high), (0, high)], close=True)
        for x in (hole, length - hole):
            m.add_circle((x, high / 2), 8.0)
        if pocket:
            m.doc.layers.add("POCKET 6")
            a, b = length * (0.5 - pocket / 2), length * (0.5 + pocket / 2)
            ring = [(a, 20), (b, 20), (b, high - 20), (a, high - 20)]
            m.add_lwpolyline(ring, close=True, dxfattribs={"layer": "POCKET 6"})

    return dxf(draw)


def cut_to(plan, d, at):
    """To which height over the stock's underside its programs cut it at places of the sheet, and every move:
    table X, Y and height over the stock of its two ends.
    """
    stock, moves = d.setup.stock[0], []
    out = {grown: np.full(len(at), stock.thickness) for grown in (-0.03, 0.0, 0.03)}
    for f in programs(plan, d):
        if f.guide == "spoilboard":
            continue
        moved = d.setup.indexing.moved[f.position - 1] if f.position else 0.0
        over = 0.0 if f.z_zero == "bed" else stock.thickness
        by_tool = {}
        for tool, fast, path in segments(explicit(f.text), d.setup.cutter(f.cutters[0]).number):
            lies = path + (moved, 0.0, over - stock.thickness)  # zeroed at the stock's corner
            table = lies[:, :2] - (moved, 0.0) + d.setup.sheet_at
            moves.append((table, lies[:, 2]))
            if not fast:
                by_tool.setdefault(tool, []).append(lies)
        for tool, paths in by_tool.items():
            cutter = next(c for c in d.setup.cutters if c.number == tool)
            way = np.vstack([dense(p) for p in paths])
            for grown, height in out.items():
                reached = swept_to(way, at, "flat", cutter.diameter + 2 * grown)
                np.minimum(height, reached + stock.thickness, out=height)
    return out, moves


def stops_of(b):
    """What the proof of a job's programs stops."""
    proofs = jobs.prove_setup(b.store, b.plan, b.derived)
    return [s.message for p in proofs for s in p.snags if s.severity == "stop"]


slats = st.tuples(
    st.sampled_from([320, 760, 1500, 2300]),
    st.sampled_from([60, 90]),
    st.sampled_from([0, 0.3, 0.7]),
    st.sampled_from([22, 38]),
)


@settings(
    max_examples=2 if MANY == 1 else 4 * MANY,
    phases=[Phase.generate],
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(
    st.lists(slats, min_size=2, max_size=3),
    st.integers(0, 120),
    st.integers(0, 120),
    st.sampled_from([6.0, 20.0]),
    st.booleans(),
)
def test_positions_together_cut_what_one_long_machine_cuts(store, parts, low, high, overlap, pinned):
    """For random boards and dead areas at both ends of the table."""
    lay, x, y = [], 45.0, 45.0
    for length, tall, pocket, hole in parts:
        lay.append((slat(length, tall, pocket, hole), [(x, y)]))
        x, y = (x + 130, y + tall + 25) if length > 1000 else (x + 61, y + tall + 25)
    b = TrialJob(store, *lay, sheet=(2700, 400), screwed=False)
    short = b.setup.machine.model_copy(update={"dead_areas": ((0, 0, low, 900), (1300 - high, 0, 1300, 900))})
    long = short.model_copy(update={"width": 4000.0, "dead_areas": ()})
    b.do(SetSetup(setup="main", machine=long, sheet_at=(float(low), 100.0)))
    rng = np.random.default_rng(low * 131 + high)
    in_one_go = b.plan, b.derived
    b.do(SetSetup(setup="main", machine=short))
    indexing.place_along(store, b.job, store.get(b.job).number, PlaceAlong(setup="main"))
    b.do({"kind": "change-indexing", "setup": "main", "fields": {"overlap": overlap}})
    if b.said("index.reach"):
        indexing.place_along(store, b.job, store.get(b.job).number, PlaceAlong(setup="main"))
    if pinned:
        try:
            indexing.place_along(store, b.job, store.get(b.job).number, PlaceAlong(setup="main", by="pins"))
        except BadInput as e:  # where boards leave no room for pins that is said
            assert "no pin of the shop" in str(e)
            pinned = False
    d = b.derived
    assert not b.said("index.reach") and not b.said("table.dead-area") and not b.said("table.outside")
    near = [s.at for s in d.sheets[0].seams]
    seams = [rng.uniform((x - 2 * overlap, 30), (x + 2 * overlap, 370), (500, 2)) for x in near]
    at = np.vstack([rng.uniform((30, 30), (2670, 370), (1500, 2)), *seams])
    whole, _moves = cut_to(*in_one_go, at)
    made, moves = cut_to(b.plan, d, at)
    bored = np.array([h.at for h in holes_of(d.setup.indexing.brought, d.setup.indexing)]) if pinned else []
    clear = cKDTree(bored).query(at)[0] > 6 if len(bored) else np.ones(len(at), dtype=bool)
    assert (made[0.0] <= whole[-0.03] + 0.003)[clear].all()  # nothing is left standing
    assert (made[0.0] >= whole[0.03] - 0.003)[clear].all()  # nothing more is cut
    for table, height in moves:
        lowest = height.min()
        for x0, _y0, x1, _y1 in short.dead_areas:
            inside = (table[:, 0].max() > x0 + 1e-3) and (table[:, 0].min() < x1 - 1e-3)
            assert not inside or lowest >= short.clearance - 1e-6, "in a dead area only at the rapid height"
        assert table[:, 0].min() >= -1e-6 and table[:, 0].max() <= short.width + 1e-6
    assert stops_of(b) == []
    parted = {}
    for c in (c for c in d.sheets[0].cuts if c.cut.portion):
        parted.setdefault(c.name.split("@")[0], []).append(extent(c.moves, 0))
    reach = [p.reach for p in indexing.long_seen(b.plan, {"main": d}, "main", store.shapes).along.positions]
    for lengths in parted.values():  # only what no position holds whole
        low_end, high_end = min(a for a, _ in lengths), max(b for _, b in lengths)
        assert not any(a <= low_end and high_end <= b for a, b in reach)


# -- positions


@settings(max_examples=80 * MANY)
@given(
    st.lists(st.tuples(st.integers(0, 28), st.integers(1, 9)), min_size=1, max_size=6),
)
def test_as_few_positions_as_an_exhaustive_search_finds(pieces):
    """Pieces that fit within the reach, on a grid: all sets of positions are tried, the smallest first."""
    wide = 10
    work = [(float(10 * a), float(10 * (a + n))) for a, n in pieces]
    found = positions_for((0.0, 10.0 * wide + WHOLE), work, 5.0)
    assert found is not None

    def held(at):
        return all(any(a <= s[0] and s[1] <= a + 10 * wide for a in at) for s in work)

    assert held([0.0, *found])
    for n in range(len(found)):
        for at in combinations(range(10, 400, 10), n):
            assert not held([0.0, *map(float, at)])


@settings(max_examples=60 * MANY)
@given(st.integers(300, 3000), st.integers(101, 280), st.integers(0, 40))
def test_what_is_longer_is_reached_end_to_end_with_the_overlap(length, wide, overlap):
    found = positions_for((0.0, wide + WHOLE), [(0.0, float(length))], float(overlap))
    least = math.ceil((length - wide) / (wide - overlap) - 1e-9) if length > wide else 0
    if found is None:
        assert least + 1 >= MOST_POSITIONS
        return
    at = [0.0, *found]
    assert at[-1] + wide + WHOLE >= length
    assert all(b - a <= wide - overlap + 1e-9 for a, b in pairwise(at))
    assert len(at) - 1 <= least + 1


def test_dead_areas_are_kept_out_of_the_reach():
    m = Machine(id="m", name="m", width=2000, height=900, dead_areas=((0, 0, 90, 900), (700, 600, 800, 900)))
    assert clear_of_dead(m, "x", (0.0, 500.0)) == (90.0, 2000.0)  # the second lies beside the stock
    assert clear_of_dead(m, "x", (0.0, 700.0)) == (800.0, 2000.0)
    assert clear_of_dead(m, "y", (750.0, 900.0)) == (0.0, 600.0)


# -- pins

places = st.lists(st.tuples(st.integers(0, 600), st.integers(0, 60)), min_size=2, max_size=2, unique=True)


@settings(max_examples=40 * MANY)
@given(places, st.lists(st.integers(150, 900), min_size=1, max_size=3), st.sampled_from([(8, 8), (6, 10)]))
def test_pins_are_judged_as_by_trying_every_pair_of_holes(spots, steps, sizes):
    """The board slid and turned freely puts a hole over each of two pins as well as their distances let it:
    half of the difference at each, less the play.
    """
    assume(math.dist(*spots) > 30)
    pins = tuple(
        Dowel(id=f"p{k}", x=x, y=y, diameter=d)
        for k, ((x, y), d) in enumerate(zip(spots, sizes, strict=True))
    )
    moved = tuple(float(sum(steps[: k + 1])) for k in range(len(steps)))
    indexing_ = Indexing(moved=moved, brought=IndexPins(pins=pins))
    holes = holes_of(indexing_.brought, indexing_)
    assert len(holes) == 2 * len(moved)
    best = math.inf
    for h, g in permutations(range(len(holes)), 2):
        if h % 2 == 0 and g == h + 1:
            continue
        a, b = np.array(holes[h].at), np.array(holes[g].at)
        p, q = np.array(pins[0].at), np.array(pins[1].at)
        # the best slide puts the middles on each other, the best turn the directions: no search can do better
        off = abs(np.linalg.norm(a - b) - np.linalg.norm(p - q))
        play = (holes[h].diameter - pins[0].diameter + holes[g].diameter - pins[1].diameter) / 2
        thick = max(pins[0].diameter - holes[h].diameter, pins[1].diameter - holes[g].diameter)
        best = min(best, max(off - play, thick))
    wrong = nearest_wrong(indexing_.brought, indexing_)
    assert wrong is not None and wrong.error == pytest.approx(best, abs=1e-9)


@settings(max_examples=8 * MANY)
@given(st.floats(0, 2 * math.pi), st.floats(-1, 1), st.sampled_from([0, 1]))
def test_lengths_meet_as_well_as_the_budget_says(way, spin, before):
    """Stock on its pins, moved at both positions until one of them stops it."""
    pins = tuple(Dowel(id=f"p{k}", x=x, y=20, diameter=8, fit=0.2) for k, x in enumerate((100, 700)))
    moved = Indexing(moved=(500.0, 1100.0), brought=IndexPins(pins=pins))
    place = (900.0, 250.0)
    budget = lengths_meet(moved, before, Errors(placing=1e-6), [place]).across
    total = 0.0
    for k in (before, before + 1):
        if k == 0:
            continue
        at = np.array([p.at for p in pins]) + moved.shift(k)
        middle = at.mean(axis=0)

        def goes(p, middle=middle):
            arm = np.atleast_2d(p) - middle
            return np.array([math.cos(way), math.sin(way)]) + spin / 100 * np.column_stack(
                [-arm[:, 1], arm[:, 0]]
            )

        # half the fit in the stock, half in the spoilboard
        scale = 0.2 / np.hypot(*goes(at).T).max()
        total += scale * float(np.hypot(*goes(place)[0]))
    assert total <= budget + 1e-3


def test_a_line_set_by_eye_meets_less_well_than_pins():
    pins = IndexPins(pins=tuple(Dowel(id=f"p{k}", x=x, y=20, diameter=8) for k, x in enumerate((100, 900))))
    marks, pinned = (Indexing(moved=(500.0,), brought=w) for w in (FenceMark(), pins))
    place = [(700.0, 100.0)]
    assert lengths_meet(pinned, 0, Errors(), place).across < lengths_meet(marks, 0, Errors(), place).across


def test_stock_moved_along_y_is_the_same_turned(store):
    """A board along Y is cut as its image along X."""
    b = TrialJob(store, (slat(300, 60, 0, 40), [(40, 60)]), sheet=(400, 1700), screwed=False)
    stock = b.setup.stock[0]
    b.do(SetStock(setup="main", stock=stock.model_copy(update={"grain": None})))
    b.do(IndexStock(setup="main", indexing=Indexing(axis="y", moved=(700.0,))))
    assert b.setup.shift(1) == (0.0, 700.0) and not b.said("table.too-small")
    q = b.setup.nest.pieces[0]
    lies = {"part": q.part, "copy_no": 0, "sheet": "own", "sheet_copy": 0}
    b.do({"kind": "move-piece", "setup": "main", "x": 200.0, "y": 1200.0, "rotation": 90.0, **lies})
    assert {c.position for c in b.sheet.cuts} == {1}
    assert all(f.position == 1 for f in programs(b.plan, b.derived))
    assert not [
        s for p in jobs.prove_setup(store, b.plan, b.derived) for s in p.snags if s.severity == "stop"
    ]
