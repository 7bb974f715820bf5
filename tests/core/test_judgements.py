"""What is proposed, judged and said: each case was met in hard use, and was missed, false or useless
before.
"""

import math

import numpy as np
import pytest

from tests.conftest import dxf, panel
from tests.support.trial import TrialJob, disc, rect
from venzo.core.cuts.operations import Drill, Profile
from venzo.core.edits import SetOperation, SetSetup, SetSteps, SetStock
from venzo.core.holding.strength import tipping
from venzo.core.holding.vacuum import zones_under
from venzo.core.motion.time import Axes, path_time
from venzo.core.proof.compare import planned_dwells
from venzo.core.release.programs import Stamp, tool_runs
from venzo.core.rules.house import HouseRules
from venzo.core.rules.propose import propose_operations
from venzo.core.rules.recipes import house_recipes
from venzo.core.stock.sheet import Stock
from venzo.demo.library import CUTTERS, MACHINES
from venzo.demo.seed import nest_job
from venzo.desk import drawings, jobs, library
from venzo.desk.jobs import programs
from venzo.formats.rs274 import read
from venzo.formats.setup_sheet import setup_sheet


def test_first_cutters_suit_the_sheet_the_holes_and_the_magazine(store):
    """1/2 in PVC: nothing stops before anything was touched, and no cutter is too short (a 6 mm diamond with
    a 12 mm edge was proposed).
    """
    pvc = {"id": "pvc", "name": "PVC, rigid", "family": "plastic", "density": 1400}
    library.put(store, "material", pvc)
    job = jobs.new_job(store, "pvc", "long-bed", "pvc").plan.id
    s = store.get(job).plan.setups[0]
    store.apply(
        job,
        1,
        SetStock(
            setup="main",
            stock=Stock(
                id="own",
                name="PVC 1/2",
                width=1200,
                height=800,
                nominal=12.7,
                readings=(12.7, 12.65, 12.75),
                margin=20,
            ),
        ),
    )
    drawings.take_drawing(
        store, job, store.get(job).number, "main", "p.dxf", panel(300, 200, ((60, 60, 20),))
    )
    nest_job(store, job, "main", 1)
    plan = store.get(job).plan
    d = jobs.derive(store, plan)["main"]
    assert not [x.message for x in d.snags if x.severity == "stop"]
    now = plan.setups[0]
    assert (
        all(now.cutter(o.cutter).reach >= 12.95 for o in now.operations if o.on in ("outlines", "holes"))
        and now.as_proposed
        and s.as_proposed
    )
    thin = jobs.new_job(store, "thin", "long-bed", "acrylic").plan.id
    assert store.get(thin).plan.setups[0].operation("holes").cutter == "single-5"
    drawings.take_drawing(store, thin, 1, "main", "p.dxf", panel(300, 200, ((60, 60, 2.2),)))
    after = store.get(thin).plan.setups[0]
    assert after.cutter(after.operation("holes").cutter).diameter < 4.4, (
        "holes 4.4 mm wide get a cutter that enters them"
    )
    rules = HouseRules()
    few = MACHINES[0].model_copy(update={"slots": 3})
    material = now.material.model_copy(update={"family": "wood"})
    assert all(
        next(c for c in CUTTERS if c.id == o.cutter).number <= 3
        for o in propose_operations(CUTTERS, material, 17.6, rules, few)
        if o.on == "outlines"
    ), "what has a place in the changer first"
    diamonds = [
        r
        for r in house_recipes(CUTTERS, rules)
        if sum(getattr(x, "cutter", "") == "diamond-6" for x in r.steps) > 1
    ]
    assert not diamonds, "no recipe takes the finishing cutter for roughing"


def test_a_chosen_step_stays_when_the_sheet_changes(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)]))
    b.do(
        SetOperation(
            setup="main", operation=b.setup.operation("outlines").model_copy(update={"cutter": "up-4"})
        )
    )
    b.do(
        SetStock(
            setup="main", stock=b.setup.stock[0].model_copy(update={"readings": (24.0,), "nominal": 24.0})
        )
    )
    assert b.setup.operation("outlines").cutter == "up-4" and not b.setup.as_proposed


def test_zones_are_on_where_the_sheet_lies_and_follow_it(store):
    """[CP] The sheet is pushed over as few zones as it needs; those it hardly covers are off from the
    start.
    """
    zones = [(z.id, z.rect) for z in MACHINES[0].zones]
    assert (
        zones_under(zones, (60, 0, 1054, 400)) == ("1",)
        and set(zones_under(zones, (60, 0, 2500, 1220)))
        == {"1", "2", "3", "4", "5", "6"} - {"3", "6"} | set(zones_under(zones, (60, 0, 2500, 1220)))
        and zones_under(zones, (60, 0, 160, 100)) == ("1",)
    )
    job = jobs.new_job(store, "zones", "long-bed", "birch-ply").plan.id
    old = store.get(job).plan.setups[0].stock[0]
    store.apply(
        job, 1, SetStock(setup="main", stock=old.model_copy(update={"width": 900.0, "height": 600.0}))
    )
    assert store.get(job).plan.setups[0].zones_on == ("1",)
    store.apply(job, store.get(job).number, SetSetup(setup="main", zones_on=("1", "2")))
    store.apply(job, store.get(job).number, SetStock(setup="main", stock=old))
    assert store.get(job).plan.setups[0].zones_on == ("1", "2"), "what a person chose stays"


def test_a_tall_narrow_piece_tips_before_it_slides(store):
    """[EX] Moments about the edge: 100 N in the middle of a foot 20 mm wide bear 1,000 N mm; the ratio falls
    with the foot, not with friction.
    """
    assert tipping([(10, 50, 100)], [(0, 0), (20, 0), (20, 100), (0, 100)]) == pytest.approx(1000)
    assert tipping([(0, 50, 100)], [(0, 0), (20, 0), (20, 100), (0, 100)]) == pytest.approx(0), (
        "a hold on the edge it tips over holds nothing"
    )
    made = {}
    for width in (14, 120):
        b = TrialJob(
            store,
            (rect(width, 160), [(200, 100)]),
            machine="long-bed",
            at=(60.0, 0.0),
            thick=24.0,
            screwed=False,
        )
        b.zones("1").outline({"tabs": {"count": 0}})
        made[width] = next(h for h in b.hold.of_piece[b.piece()] if h.cut == len(b.sheet.cuts) - 1)
    assert made[14].tips < made[120].tips / 20 and made[14].ratio <= made[14].tips
    cut = b.sheet.cuts[-1].cut
    high = 24.0 + (cut.levels[-2] + max(cut.levels[-1], -24.0)) / 2 if len(cut.levels) > 1 else 24.0 - 12.0
    vacuum = sum(h.up for h in made[120].holds)
    assert made[120].tips == pytest.approx(vacuum * 60 / (cut.load.force * high), rel=0.1), (
        "[EX] hold-down times half the foot over load times height"
    )


def test_what_is_not_cut_through_is_said_on_screen_and_paper(store):
    import io

    from pypdf import PdfReader

    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({"floor_allowance": 0.8})
    d = b.derived
    (note,) = [s for s in d.snags if s.rule == "cuts.skin-left"]
    assert note.severity == "note" and "0.80 mm" in note.message
    (proof,) = jobs.prove_setup(store, b.plan, d)
    assert (
        "1 left with a skin of 0.8 mm" in proof.snags[-1].message
        and "every contour" not in proof.snags[-1].message
    )
    printed = setup_sheet(b.plan, d, programs(b.plan, d), True, store.shapes, Stamp(1))
    paper = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(printed)).pages)
    assert "a skin of 0.80 mm is left" in paper.replace("\n", " ")
    shallow = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({"depth": 10.0}).derived
    assert [s.severity for s in shallow.snags if s.rule == "cuts.not-through"] == ["stop"]


def test_ends_of_arcs_a_thousandth_apart_in_height_are_floor():
    """A false stop withheld good programs: an arc whose ends differ by 0.001 mm in Z after rounding is
    level.
    """
    from venzo.core.cuts.moves import CCW, LINE, RAPID, row
    from venzo.core.proof.check import _cutting_lines

    chain = np.array(
        [
            row(RAPID, 10, 0, 3),
            row(LINE, 10, 0, -18.35, 900),
            row(CCW, -10, 0, -18.351, 900, 0, 0),
            row(CCW, 10, 0, -18.35, 900, 0, 0),
        ]
    )
    _down, (line, _low, high) = list(_cutting_lines(chain))
    assert line.length == pytest.approx(2 * math.pi * 10, rel=1e-3) and high == pytest.approx(-18.35)


def test_drills_dwell(store):
    def draw(m):
        m.doc.layers.add("DRILL")
        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
        m.add_circle((50, 50), 2.5, dxfattribs={"layer": "DRILL"})

    b = TrialJob(store, (dxf(draw), [(100, 100)]), machine="long-bed", at=(60.0, 0.0))
    plain = next(c for c in b.sheet.cuts if c.cut.kind == "drill")
    b.do(SetSteps(setup="main", on="drillings", steps=(Drill(id="d", cutter="drill-5", dwell=0.5),)))
    cut = next(c for c in b.sheet.cuts if c.cut.kind == "drill")
    d = b.derived
    files = [f for f in programs(b.plan, d) if "drill-5" in f.cutters]
    dwells = [s for f in files for s in planned_dwells(tool_runs(b.plan, b.setup, b.sheet, f))]
    assert dwells and all(s == 0.5 for s in dwells) and files[0].text.count("G4 P0.5") == len(dwells)
    assert cut.seconds - plain.seconds == pytest.approx(0.5 * len(dwells), abs=0.2), "the clock counts them"
    assert [e.value for e in read(files[0].text).events if e.kind == "dwell"] == dwells
    assert not [s for p in jobs.prove_setup(store, b.plan, d) for s in p.snags if s.severity == "stop"]
    still = np.array(
        [
            [0, 0, 0, 0, 0, 0, 0],
            [1, 10, 0, 0, 0, 0, 600],
            [1, 10, 0, 0, 0, 0, -2.0],
            [1, 20, 0, 0, 0, 0, 600],
        ],
        dtype=float,
    )
    a, b_ = (
        path_time(still, Axes(1000, 20_000))[0],
        path_time(np.delete(still, 2, axis=0), Axes(1000, 20_000))[0],
    )
    assert a == pytest.approx(b_ + 2.0 + 10 / 1000, abs=1e-3), (
        "[EX] it stops and starts again: v/a each way less the one carried through"
    )


def test_tabs_of_round_and_pointed_cutters_hold(store):
    """One piece on the sheet has no neighbour: its tabs led into a neighbour's cut for 16 of 16 round and
    pointed cutters.
    """
    for cutter in ("ball-6", "vee-60", "vee-90"):
        b = TrialJob(store, (rect(200, 120), [(200, 140)])).outline({"cutter": cutter})
        assert not b.said("holding.tab-web"), cutter
        assert sum(h.kind == "tab" for h in b.hold.of_piece[b.piece()][-1].holds) == len(
            b.sheet.cuts[-1].cut.tabs
        )


def test_a_hole_just_as_wide_as_its_cutter_is_cut_by_a_smaller_one(store):
    b = TrialJob(store, (rect(200, 120, [(60, 60, 3.0)]), [(100, 100)]))
    b.do(SetSteps(setup="main", on="holes", steps=(Profile(id="h", on="holes", cutter="up-6"),)))
    assert not b.said("cuts.too-small") and b.said("cuts.smaller")[0].severity == "note"
    assert next(c.cut for c in b.sheet.cuts if c.cut.contour == "hole 1").cutter == "up-4"
    b.do(
        SetSteps(
            setup="main",
            on="holes",
            steps=(
                Profile(id="r", on="holes", cutter="up-6", side_allowance=0.5),
                Profile(id="f", on="holes", cutter="up-4"),
            ),
        )
    )
    assert not b.said("cuts.too-small") and {
        c.cut.cutter for c in b.sheet.cuts if c.cut.contour == "hole 1"
    } == {"up-4"}


def test_feeds_shares_below_the_window_are_said(store):
    b = TrialJob(store, (rect(200, 120), [(100, 100)])).outline({"feed_share": 0.2})
    assert b.said("feeds.rub")


def test_narrow_webs_are_found_whatever_their_width(store):
    for width in (0.3, 0.8, 1.4, 1.9, 2.7):
        b = TrialJob(store, (rect(200, 120, [(60, 60, 20), (100 + width, 60, 20)]), [(100, 100)]))
        (snag,) = b.said("parts.web")
        assert float(snag.message.split("a web ")[1].split(" mm")[0]) == pytest.approx(width, abs=0.02)
    assert not TrialJob(store, (rect(200, 120, [(60, 60, 20), (103.5, 60, 20)]), [(100, 100)])).said(
        "parts.web"
    )


def test_one_more_keeps_off_screws_of_its_own_sheet(store):
    from venzo.core.nesting.layout import find_place

    b = TrialJob(store, (disc(40), [(100, 100)]), sheet=(300, 220))
    b.do({"kind": "set-quantity", "part": b.part(), "order": "order-1", "quantity": 2})
    free = find_place(b.plan, b.setup, store.shapes, b.part(), 1, "own", 0)
    x, y = free.x + 40, free.y + 40
    b.do({"kind": "set-screws", "setup": "main", "screws": [{"id": "w", "x": x, "y": y, "sheet": "own"}]})
    again = find_place(b.plan, b.setup, store.shapes, b.part(), 1, "own", 0)
    assert math.hypot(again.x + 40 - x, again.y + 40 - y) > 40 + 5, "the piece lies clear of the head"


def test_a_dead_area_typed_from_any_corner_keeps_out_the_same():
    boxes = [(60, 0, 0, 1600), (0, 1600, 60, 0), (0, 0, 60, 1600)]
    made = [
        MACHINES[0].model_validate({**MACHINES[0].model_dump(), "dead_areas": [b]}).dead_areas for b in boxes
    ]
    assert made == [((0.0, 0.0, 60.0, 1600.0),)] * 3
