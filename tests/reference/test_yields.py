"""Where a sheet goes, from outside: kerf by the sweep of the written programs (gcodeparser and shapely),
parts by their drawings, masses and gauges by published tables, costs reckoned by hand.
"""

import math
import random

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon, box

from tests.conftest import dxf
from tests.reference.test_program_sweep import explicit, segments
from tests.support.breadth import spread
from tests.support.trial import TrialJob, disc, rect, ring
from venzo.core.edits import AddOrder, SetQuantity, SetSetup
from venzo.core.plan import Order
from venzo.core.stock.amounts import board_feet, gauge_thickness
from venzo.core.stock.known import KNOWN
from venzo.core.yields.costing import CostRules
from venzo.core.yields.parted import KINDS
from venzo.desk import jobs
from venzo.desk.jobs import programs
from venzo.desk.yields import job_use, parted, total_cost

FINE = 64
"""Segments to a quarter of a circle in the outside sweep."""


@pytest.fixture
def demo(known_demo):
    """What the jobs come to is asked here, not how they are cut."""
    return known_demo


def swept(plan, d, sheet, stock):
    """What the written programs open through the sheet, by an independent reader."""
    shapes = []
    for f in (f for f in programs(plan, d) if f.serves(sheet)):
        number = d.setup.cutter(f.cutters[0]).number
        for tool, rapid, pts in segments(explicit(f.text), number):
            cutter = next(c for c in d.setup.cutters if c.number == tool)
            if rapid or pts[:, 2].max() > -stock.thickness + 1e-3:
                continue
            line = LineString(pts[:, :2]) if np.ptp(pts[:, :2], axis=0).max() > 1e-9 else Point(pts[0, :2])
            shapes.append(line.buffer(cutter.radius, quad_segs=FINE))
    return shapely.union_all(shapes)


def a_job(store, rng, family="birch-ply"):
    """A few parts of several shapes with holes and pockets, laid apart by hand where no two can meet."""
    kinds = [
        rect(rng.uniform(60, 110), rng.uniform(50, 80), [(35, 30, rng.uniform(9, 16))]),
        disc(rng.uniform(18, 38)),
        ring([(0, 0), (rng.uniform(70, 100), 0), (60, 40), (20, rng.uniform(50, 75))]),
        rect(100, 80, (), (50, 40, rng.uniform(12, 25))),
    ]
    cells = [(20 + 140 * i, 20 + 120 * j) for i in range(4) for j in range(3)]
    rng.shuffle(cells)
    return TrialJob(
        store, *[(k, cells[2 * n : 2 * n + 2]) for n, k in enumerate(kinds)], material=family, screwed=False
    )


@pytest.mark.parametrize("seed", spread(range(5), 2))
def test_areas_add_up_and_the_kerf_is_the_sweep_of_the_programs(store, seed):
    trial = a_job(store, random.Random(seed))
    plan = trial.plan
    d = jobs.derive(store, plan)["main"]
    sheet, stock = d.sheets[0], d.setup.stock[0]
    found = parted(store, plan, d, sheet, d.yields.sheets[0])
    areas = found.areas()
    assert sum(areas[k] for k in KINDS) == pytest.approx(areas["sheet"], rel=1e-6)
    assert areas["sheet"] == stock.width * stock.height
    net = sum(store.shapes[plan.part(q.part).shape].region.area for q in sheet.pieces)
    assert areas["parts"] == pytest.approx(net, rel=1e-9)
    solids = shapely.union_all(
        [
            Polygon(r.outline.points(5e-4), [h.points(5e-4) for h in r.holes])
            for q in sheet.pieces
            for r in [store.shapes[plan.part(q.part).shape].region.placed(q.x, q.y, q.rotation, q.mirrored)]
        ]
    )
    table = box(0, 0, stock.width, stock.height)
    kerf = swept(plan, d, sheet, stock).intersection(table).difference(solids)
    # tabs are kerf with something left in it: the sweep at full depth has none of them
    assert areas["kerf"] - found.thin == pytest.approx(kerf.area, rel=0.01)
    every = [getattr(found, k) for k in KINDS]
    for k, a in enumerate(every):
        for b in every[k + 1 :]:
            assert a.intersection(b).area < 1e-6 * areas["sheet"], "nothing counts twice"


def test_of_a_disc_with_a_hole_every_area_is_known(store):
    """In closed form: disc of 60 mm with a hole of 40 mm, one kerf about it, a drop in its middle."""

    def draw(m):
        m.add_circle((60, 60), 60)
        m.add_circle((60, 60), 40)

    trial = TrialJob(store, (dxf(draw), [(150, 120)]), screwed=False)
    d = trial.derived
    cutter = next(c for c in d.setup.cutters if c.id == d.setup.operation("outlines").cutter)
    hole = next(c for c in d.setup.cutters if c.id == d.setup.operation("holes").cutter)
    found = parted(store, trial.plan, d, d.sheets[0], d.yields.sheets[0])
    a = found.areas()
    assert a["parts"] == pytest.approx(math.pi * (60**2 - 40**2), rel=1e-6)
    around = math.pi * ((60 + cutter.diameter) ** 2 - 60**2)
    inside = math.pi * (40**2 - (40 - hole.diameter) ** 2)
    assert a["kerf"] == pytest.approx(around + inside, rel=0.01)
    assert a["drops"] == pytest.approx(math.pi * (40 - hole.diameter) ** 2, rel=0.01)


def test_masses_are_areas_times_thickness_and_density_less_the_pockets(store):
    pocket = TrialJob(store, (rect(200, 100, (), (100, 50, 30)), [(50, 50)]), screwed=False)
    use = job_use(store, pocket.plan)
    s, stock, material = use.sheets[0], pocket.setup.stock[0], pocket.setup.material
    whole = 600 * 400 * stock.thickness * material.density / 1e9
    assert s.mass_kg["sheet"] == pytest.approx(whole, rel=1e-9)
    assert sum(v for k, v in s.mass_kg.items() if k != "sheet") == pytest.approx(whole, rel=1e-9)
    deep = math.pi * 30**2 * 6 * material.density / 1e9
    assert s.mass_kg["pockets"] == pytest.approx(deep, rel=0.05)  # the field is good to 1 % of all chips
    assert s.mass_kg["parts"] + s.mass_kg["pockets"] == pytest.approx(
        200 * 100 * stock.thickness * material.density / 1e9, rel=1e-6
    )


def test_published_values():
    """Wood Handbook FPL-GTR-282 and Machinery's Handbook, from memory (CHECK-VALUES)."""
    by_id = {m.id: m for m in KNOWN}
    assert by_id["red-oak"].density == pytest.approx(0.63 * 1120, abs=0.1)
    assert gauge_thickness(16, "steel sheet") == pytest.approx(0.0598 * 25.4)
    assert board_feet(8 * 304.8, 6 * 25.4, 25.4) == pytest.approx(4.0)  # 8 ft of 1 x 6: four board feet


def test_board_feet_and_volume_of_a_job_are_those_of_its_sheets(store):
    trial = TrialJob(store, (rect(100, 80), [(20, 20)]), screwed=False)
    use = job_use(store, trial.plan).job
    assert use.volume_m3 == pytest.approx(600 * 400 * 17.6 / 1e9)
    assert use.board_feet == pytest.approx(600 * 400 * 17.6 / (144 * 25.4**3))


def test_a_job_s_costs_reckoned_by_hand(store):
    """Two like parts on one priced sheet; every sum by hand from lengths and times that the plan shows."""
    trial = TrialJob(store, (rect(200, 100), [(20, 20), (20, 150)]), screwed=False)
    rules = trial.setup.rules.model_copy(
        update={
            "costs": CostRules(
                labour_per_hour=60,
                setup_minutes=10,
                sheet_minutes=5,
                edge_seconds_m={"wood": 12.0},
                remnant_share=0.5,
                remnant_handling=1.0,
                spoilt_share=0.1,
            )
        }
    )
    cutters = tuple(c.model_copy(update={"price": 50.0, "life": 1000.0}) for c in trial.setup.cutters)
    machine = trial.setup.machine.model_copy(update={"rate_per_hour": 36.0})
    trial.do(SetSetup(setup="main", rules=rules, cutters=cutters, machine=machine))
    d = trial.derived
    use = job_use(store, trial.plan)
    by = {line.of: line.sum for line in use.setups[0].cost.lines}
    area = 600 * 400 / 1e6
    sheet_price = area * trial.setup.material.price_m2
    assert by["material"] == pytest.approx(sheet_price)
    kept = sum(r.area for r in use.sheets[0].remnants) / 1e6
    assert kept and by["remnants"] == pytest.approx(
        -sum(0.5 * r.area / 1e6 * trial.setup.material.price_m2 - 1.0 for r in use.sheets[0].remnants)
    )
    assert by["machine"] == pytest.approx(d.sheets[0].seconds / 3600 * 36)
    metres = sum(c.cut_length for c in d.sheets[0].cuts) / 1000
    assert by["cutters"] == pytest.approx(50 * metres / 1000)
    assert by["set-up"] == pytest.approx((10 + 5) / 60 * 60)
    tabs = sum({c.piece.id: len(c.cut.tabs) for c in d.sheets[0].cuts if c.outline and c.cut.tabs}.values())
    seconds = tabs * rules.hold.tab_seconds + 2 * 0.6 * 12  # two outlines of 600 mm
    assert tabs and by["by hand"] == pytest.approx(seconds / 3600 * 60)
    sound = sum(v for k, v in by.items() if k != "spoilt")
    assert by["spoilt"] == pytest.approx(sound / 9)  # one in ten is spoilt: ten are made for nine
    assert use.cost["total"] == pytest.approx(sound * 10 / 9)
    part = use.setups[0].cost.parts[0]
    assert part.pieces == 2 and part.each == pytest.approx(use.cost["total"] / 2)


@pytest.mark.parametrize(
    "job",
    [
        pytest.param("estuary-hide-ribs-and-benches", marks=pytest.mark.long),
        "hinge-and-latch-plates",
        "bench-feet-6-mm-steel",
    ],
)
def test_all_parts_together_cost_what_the_job_costs(demo, job):
    use = job_use(demo, demo.get(job).plan)
    for s in use.setups:
        assert s.cost.total == pytest.approx(sum(p.each * p.pieces for p in s.cost.parts))
        for line in s.cost.lines:
            assert line.sum == pytest.approx(sum(p.by_kind[line.of] * p.pieces for p in s.cost.parts))
    assert sum(s.area_mm2["sheet"] for s in use.sheets) == pytest.approx(use.job.area_mm2["sheet"])


def test_scrap_brings_its_mass_times_its_price(store):
    trial = TrialJob(store, (rect(150, 90), [(20, 20)]), material="aluminium-6000", thick=3.0, screwed=False)
    material = trial.setup.material.model_copy(update={"scrap_price": 1.2})
    trial.do(SetSetup(setup="main", material=material))
    use = job_use(store, trial.plan)
    mass = use.sheets[0].mass_kg
    lines = {line.of: line.sum for line in use.setups[0].cost.lines}
    assert lines["scrap"] == pytest.approx(-1.2 * (mass["drops"] + mass["skeleton"] + mass["edge"]))
    assert use.setups[0].gauge == "gauge 9"  # 0.005 in x 92^(27/39) = 0.1144 in = 2.91 mm


def test_customers_orders_share_what_the_job_costs(demo):
    """Two orders of the same parts: their pieces cost what the job's pieces cost."""
    job = "hinge-and-latch-plates"
    head = demo.get(job)
    part = head.plan.parts[0]
    first = head.plan.orders[0]
    demo.apply(job, head.number, AddOrder(order=Order(id="second", name="Second")))
    n = part.quantity
    demo.apply(job, demo.get(job).number, SetQuantity(part=part.id, order="second", quantity=1))
    demo.apply(job, demo.get(job).number, SetQuantity(part=part.id, order=first.id, quantity=n - 1))
    use = job_use(demo, demo.get(job).plan)
    assert [o.pieces for o in use.orders] == [use.job.pieces - 1, 1]
    assert sum(o.cost for o in use.orders) == pytest.approx(use.cost["total"])


@pytest.mark.parametrize("job", ["estuary-hide-ribs-and-benches", "name-board-carved-oak"])
def test_revisions_are_compared_at_the_same_sum(demo, job):
    """The quick total, which measures no pockets, is the job's total to the cent."""
    plan = demo.get(job).plan
    assert total_cost(demo, plan, jobs.derive(demo, plan)) == pytest.approx(job_use(demo, plan).cost["total"])


def test_what_each_kind_takes_is_told_in_sheets(demo):
    use = job_use(demo, demo.get("estuary-hide-ribs-and-benches").plan).setups[0]
    assert sum(use.in_sheets.values()) == pytest.approx(use.use.sheets) and use.least <= use.use.sheets
