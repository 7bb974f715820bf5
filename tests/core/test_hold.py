"""What is said about holding: mistakes that people make are found and their remedies mend them; sound plans
pass without a stop.
"""

import math

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.conftest import MANY
from tests.faults.offers import offers_mend
from tests.support.library_shop import library_shop
from tests.support.trial import Clamp, Cover, FixtureBoard, Pin, Pod, Tape, TrialJob, disc, rect, ring, screws
from venzo.core.cuts.operations import Profile
from venzo.core.edits import SetContour, SetOrder, SetQuantity, SetScrews, SetSetup, SetSteps, SetStock
from venzo.core.holding.screws import Screw
from venzo.core.plan import MovedCut
from venzo.core.snags import BadInput
from venzo.desk import holding, jobs
from venzo.desk.jobs import programs
from venzo.formats.gcode import read

HOLE = [(150.0, 100.0, 30.0)]
PLATE = rect(300, 200, HOLE)


def vacuum(store, *parts, **more):
    """On the vacuum table, the sheet over its first two zones."""
    b = TrialJob(store, *parts, machine="long-bed", sheet=(1900, 760), screwed=False, at=(60, 0), **more)
    return b.zones("1", "2")


def outline_before_its_hole(store):
    b = TrialJob(store, (PLATE, [(100, 100)])).outline({}).hold_by("nothing")
    return b.move("hole 1/0")


def finger(store):
    """A comb whose finger is 3 mm wide and 40 mm long."""
    return (
        TrialJob(
            store,
            (
                ring([(0, 0), (200, 0), (200, 60), (103, 60), (103, 100), (100, 100), (100, 60), (0, 60)]),
                [(150, 100)],
            ),
        )
        .outline({})
        .tabs((100, 80), (100, 0), (0, 30), (200, 30))
    )


def one_corner(store):
    return (
        TrialJob(store, (rect(200, 120), [(150, 100)]))
        .outline({})
        .tabs((0, 0), (100, 0), (200, 60), (100, 120))
    )


def thick_tabs(store):
    return TrialJob(store, (rect(200, 120), [(150, 100)]), thick=3.0).outline(
        {"tabs": {"count": 4, "height": 4.0}}
    )


def small_part_on_a_dead_zone(store):
    b = (
        vacuum(store, (rect(400, 300), [(100, 100)]), (rect(90, 60), [(1300, 300)]))
        .outline({})
        .hold_by("nothing")
    )
    return b.zones("1")


def leak(store):
    """A small sheet on a table with every zone on."""
    b = (
        TrialJob(
            store,
            (rect(200, 140), [(60, 60)]),
            machine="long-bed",
            sheet=(900, 700),
            screwed=False,
            at=(60, 0),
        )
        .outline({})
        .hold_by("nothing")
    )
    return b.zones("1", "2", "3", "4", "5", "6")


def thin_sheet(store):
    b = TrialJob(store, (rect(300, 100), [(300, 300)]), sheet=(900, 700), thick=3.0).outline(
        {"cutter": "up-6", "step_down": 3.5}
    )
    b.do(
        SetSetup(
            setup="main",
            sheet_at=(10.0, 10.0),
            rules=b.setup.rules.model_copy(
                update={"tabs": {"wood": b.setup.rules.tabs["wood"].model_copy(update={"height": 1.2})}}
            ),
        )
    )
    return b


def skin_on_a_wavy_sheet(store):
    b = TrialJob(store, (rect(300, 200), [(100, 100)]), spread=0.9).outline({})
    b.do(SetSetup(setup="main", z_zero="top"))
    return b.hold_by("skin, last pass", skin=0.4)


def tied_at_its_middle(store):
    return TrialJob(store, (rect(460, 18), [(70, 200)])).outline({}).tabs((222, 0), (240, 18))


def side_by_side(store, between="one kerf"):
    """Two panels a kerf apart, their tabs facing each other's cut."""
    b = (
        TrialJob(store, (rect(200, 120), [(100, 60)]), (rect(200, 120), [(100, 190)]))
        .outline({})
        .tabs((60, 120), (140, 120), (100, 0), k=0)
    )
    return b.tabs((50, 120), (150, 120), k=1)


def four_around_a_scrap(store):
    """Four panels round a square of waste that nothing holds."""
    b = TrialJob(
        store,
        (rect(180, 120), [(100, 60)]),
        (rect(120, 180), [(290, 60)]),
        (rect(180, 120), [(230, 250)]),
        (rect(120, 180), [(100, 190)]),
        sheet=(600, 450),
    ).outline({})
    b.tabs((40, 0), (120, 0), (0, 60), k=0).tabs((60, 0), (120, 60), (120, 140), k=1)
    return b.tabs((60, 120), (140, 120), (180, 60), k=2).tabs((0, 60), (0, 120), (60, 180), k=3)


def at_work(store, *fixings, **more):
    return TrialJob(store, (rect(300, 200), [(150, 100)]), **more).outline({}).fix(*fixings)


MISTAKES = {
    "an inside after its outline, with nothing left to hold": (
        outline_before_its_hole,
        "holding.loose-cut",
        "stop",
        "Back into the usual order",
    ),
    "no tab, no vacuum": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}).hold_by("nothing"),
        "holding.none",
        "stop",
        "tabs",
    ),
    "a single tab the only hold": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}).tabs((150, 0)),
        "holding.single-tab",
        "stop",
        "tabs",
    ),
    "tabs on but none placed": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}).tabs(),
        "holding.tabs-none",
        "look",
        "Automatic tabs",
    ),
    "no run long enough for a tab": (
        lambda s: TrialJob(s, (rect(5.5, 5), [(100, 100)])).outline({}),
        "holding.tabs-none",
        "look",
        None,
    ),
    "a tab in a corner": (one_corner, "holding.tab-corner", "look", "Automatic tabs"),
    "a tab on a finger of 3 mm": (finger, "holding.tab-detail", "look", "Automatic tabs"),
    "tabs as thick as the sheet": (thick_tabs, "holding.tab-height", "stop", None),
    "a clamp in the way of fast moves": (
        lambda s: at_work(s, Clamp(id="c", x=100, y=60, proud=40)),
        "holding.rapid-hit",
        "stop",
        "Rapid height 43 mm",
    ),
    "a clamp under the cutter": (
        lambda s: at_work(s, Clamp(id="c", x=300, y=85, proud=12)),
        "holding.clamp-hit",
        "stop",
        "Take the clamp away",
    ),
    "a clamp under the holder": (
        lambda s: at_work(s, Clamp(id="c", x=300, y=70, proud=19, height=20)),
        "holding.holder-hit",
        "stop",
        "Take the clamp away",
    ),
    "a screw under a cut": (
        lambda s: (
            TrialJob(s, (rect(300, 200), [(150, 100)])).outline({}).screw((12, 12), (588, 388), (300, 92))
        ),
        "holding.screw-hit",
        "stop",
        "Take the screw out",
    ),
    "a pin in the way": (
        lambda s: at_work(s, Pin(id="p", x=146, y=200, proud=5)),
        "holding.clamp-hit",
        "stop",
        "Take the pin away",
    ),
    "a pod under a cut": (
        lambda s: at_work(s, Pod(id="p", x=160, y=200)),
        "holding.pod-hit",
        "stop",
        "Take the pod away",
    ),
    "tape under a cut": (
        lambda s: at_work(s, Tape(id="t", x=150, y=200)),
        "holding.tape-cut",
        "look",
        "Take the tape away",
    ),
    "a zone off under a small part": (small_part_on_a_dead_zone, "holding.none", "stop", "Zone 2 on"),
    "zones on that leak": (leak, "holding.zone-open", "look", "off"),
    "up-cut lifting a thin sheet": (thin_sheet, "holding.lift", "look", "screws in the waste"),
    "a drop that can tip": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}),
        "holding.drop",
        "look",
        "Two tabs keep it in",
    ),
    "a skin thinner than the sheet's spread": (
        skin_on_a_wavy_sheet,
        "holding.skin-spread",
        "stop",
        "Z zero on the bed",
    ),
    "a long thin part tied at its middle": (
        tied_at_its_middle,
        "holding.chatter",
        "look",
        "Tabs towards the ends",
    ),
    "tabs that lead into a neighbour's cut": (
        side_by_side,
        "holding.tab-web",
        "look",
        "Keep a skeleton between pieces",
    ),
    "a scrap of skeleton that breaks loose": (
        four_around_a_scrap,
        "holding.scrap",
        "look",
        "Keep a skeleton between pieces",
    ),
    "nothing holds the sheet": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)]), screwed=False).outline({}),
        "holding.sheet",
        "stop",
        "screws in the waste",
    ),
    "one nail holds the sheet": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}).screw((12, 12), kind="nail"),
        "holding.sheet-weak",
        "stop",
        "screws in the waste",
    ),
    "a small part on weak vacuum": (
        lambda s: vacuum(s, (rect(60, 40), [(100, 100)])).outline({}).hold_by("nothing"),
        "holding.weak",
        "stop",
        "tabs",
    ),
}
UNMENDED = {
    "tabs that lead into a neighbour's cut": "asks for another nest first",
    "a scrap of skeleton that breaks loose": "asks for another nest first",
    "a zone off under a small part": "the zone holds with 0.3 times what the cutter pushes: another stop",
}
"""What the rule would say is no remedy when it is tried, so it is not offered."""


@pytest.mark.parametrize("mistake", MISTAKES)
def test_a_mistake_is_found_and_its_remedy_mends_it(store, mistake):
    plant, rule, severity, label = MISTAKES[mistake]
    b = plant(store)
    found = b.said(rule)
    assert found, [(s.rule, s.message) for s in b.derived.snags]
    assert found[0].severity == severity and len(found[0].message) > 25
    if label is None:
        return
    assert any(label in r.label for r in found[0].remedies), [r.label for r in found[0].remedies]
    done = offers_mend(b, rule)
    assert any(label in said for said in done) == (mistake not in UNMENDED), done


# -- sound plans


def skim_on_vacuum(store):
    return vacuum(store, (PLATE, [(100, 100), (500, 100), (100, 400)])).outline(
        {"side_allowance": 1.3, "tabs": NO_TABS}, {"tabs": NO_TABS}
    )


def insides_last_on_a_skin(store):
    """Outlines to a skin, then the holes, then off the skin on vacuum."""
    b = vacuum(store, (PLATE, [(100, 100)])).outline({}).hold_by("skin, last pass", skin=1.5)
    return b.move("outline/0", "hole 1/0")


def inside_last_on_vacuum(store):
    return (
        vacuum(store, (rect(400, 300, [(200, 150, 40)]), [(100, 100)]))
        .outline({})
        .hold_by("nothing")
        .move("hole 1/0")
    )


def screwed_waste_middle(store):
    """A frame: its wide middle is screwed down as waste, the frame keeps four tabs."""
    b = TrialJob(store, (rect(360, 260, [(180, 130, 90)]), [(120, 70)])).outline({})
    b.do(
        SetScrews(
            setup="main", screws=(*screws(), Screw(id="m1", x=280, y=200), Screw(id="m2", x=320, y=200))
        )
    )
    return b


def pods_under_parts(store):
    b = TrialJob(store, (rect(400, 300), [(100, 50)]), screwed=False).outline({}).hold_by("nothing")
    return b.fix(
        *(
            Pod(id=f"p{k}", x=x, y=y, width=150, height=120)
            for k, (x, y) in enumerate(((200, 130), (400, 130), (200, 270), (400, 270)))
        )
    )


def taped(store):
    b = TrialJob(store, (rect(260, 200), [(100, 100)])).outline({}).hold_by("nothing")
    return b.fix(
        Tape(id="t1", x=160, y=200, width=90, height=160), Tape(id="t2", x=290, y=200, width=90, height=160)
    )


def small_on_a_fixture_board(store):
    b = vacuum(store, (rect(150, 120), [(300, 200)])).outline({}).hold_by("nothing").zones("1")
    return b.fix(
        FixtureBoard(id="f", x=375, y=260, width=150, height=120),
        Cover(id="c", x=900, y=380, width=1900, height=760),
    )


def trial_then_rest(store):
    b = vacuum(store, (PLATE, [(100, 100), (500, 100), (100, 400)])).outline({}).hold_by("nothing")
    b.do(SetOrder(setup="main", trial=(b.piece(0, 2),), insides_apart=True))
    return b


NO_TABS = {"count": 0}
SOUND = {
    "through roughing, then a skim, on vacuum": skim_on_vacuum,
    "insides finished on a skin": insides_last_on_a_skin,
    "an inside after its outline on good vacuum": inside_last_on_vacuum,
    "no tabs on a good vacuum table": lambda s: (
        vacuum(s, (PLATE, [(100, 100), (500, 100), (100, 400)])).outline({}).hold_by("nothing")
    ),
    "screws through the waste middle": screwed_waste_middle,
    "four tabs, the margin screwed": lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}),
    "sloped tabs, more of them": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({"tabs": {"count": 8, "sloped": True}})
    ),
    "a skin for the knife": lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline({}).hold_by("skin, by hand"),
    "two screws in each part": lambda s: (
        TrialJob(s, (PLATE, [(100, 100)]))
        .outline({})
        .hold_by("nothing")
        .screw((12, 12), (588, 388), (588, 12), (12, 388), (150, 200), (350, 200))
    ),
    "top clamps on the margin": lambda s: (
        TrialJob(s, (rect(300, 160), [(150, 120)]), screwed=False)
        .outline({})
        .fix(
            *(
                Clamp(id=f"c{k}", x=x, y=y, proud=15)
                for k, (x, y) in enumerate(((20, 20), (580, 20), (580, 380), (20, 380)))
            )
        )
    ),
    "pods under a solid part": pods_under_parts,
    "taped down": taped,
    "a single tab beside vacuum": lambda s: vacuum(s, (PLATE, [(100, 100)])).outline({}).tabs((150, 0)),
    "a small part on its fixture board": small_on_a_fixture_board,
    "piece by piece on vacuum": lambda s: _ordered(
        vacuum(s, (PLATE, [(100, 100), (500, 100), (100, 400)])).outline({}).hold_by("nothing"),
        "piece by piece",
    ),
    "a trial first, insides apart": trial_then_rest,
    "roughed deep to a skin, finished in one pass, tabs": (
        lambda s: TrialJob(s, (PLATE, [(100, 100)])).outline(
            {"side_allowance": 1.3, "floor_allowance": 0.8}, {}
        )
    ),
    "a disc on tabs": lambda s: TrialJob(s, (disc(80), [(200, 120)])).outline({}),
    "a thin strip with tabs by rule": lambda s: TrialJob(s, (rect(460, 40), [(70, 180)])).outline({}),
}


def _ordered(b, by):
    b.do(SetOrder(setup="main", order_by=by))
    return b


@pytest.mark.parametrize("plan", SOUND)
def test_a_sound_plan_meets_no_stop(store, plan):
    b = SOUND[plan](store)
    assert not b.stops(), [s.message for s in b.stops()]
    assert b.sheet.cuts and b.hold.held


def test_the_demo_shop_meets_no_stop_of_its_hold(demo):
    for j in demo.jobs():
        for d in jobs.derive(demo, demo.get(j["id"]).plan).values():
            assert not [
                s.message for s in d.snags if s.severity == "stop" and s.rule.startswith("holding.")
            ], j["id"]


def test_ordinary_work_says_so(store):
    b = skim_on_vacuum(store)
    (said,) = b.said("holding.after-free")
    assert said.severity == "note" and "ordinary work" in said.message and "vacuum" in said.message


def test_what_holds_this_agrees_with_the_pass_backwards(demo):
    """The graph walked at one moment and the union-find run backwards through all of them say the same of
    every piece.
    """
    for job, setup in (("estuary-hide-ribs-and-benches", "main"), ("hinge-and-latch-plates", "main")):
        plan = demo.get(job).plan
        d = jobs.derive(demo, plan)[setup]
        for h in d.holds:
            for q, rows in h.of_piece.items():
                first = rows[0]
                at = h.at(q, first.cut)
                assert at.frees and at.area == pytest.approx(first.area, rel=1e-6)
                assert sorted((x.kind, round(x.side, 3)) for x in at.holds if x.kind != "vacuum") == sorted(
                    (x.kind, round(x.side, 3)) for x in first.holds if x.kind != "vacuum"
                )
                assert not h.at(q, -1).frees and h.freed[q] == first.cut


# -- order by hand


def test_a_cut_is_moved_within_the_rules_and_refused_with_the_reason(store):
    b = vacuum(store, (rect(400, 300, [(200, 150, 40)]), [(100, 100)])).outline(
        {"side_allowance": 1.3, "tabs": NO_TABS}, {"tabs": NO_TABS}
    )
    name = f"{b.piece()}/"

    def move(cut, before):
        return holding.move_cut(
            b.store,
            b.job,
            b.store.get(b.job).number,
            "main",
            "own",
            0,
            name + cut,
            name + before if before else "",
        )

    move("hole 1/0", "outline/1")
    assert [c.cut.name for c in b.sheet.cuts] == ["outline/0", "hole 1/0", "outline/1"]
    with pytest.raises(BadInput, match="outline of piece 1 must come before outline, step 2"):
        move("outline/1", "outline/0")
    b.zones()
    b.screw((12, 12), (1888, 748), (1888, 12), (12, 748))
    assert b.said("holding.loose-cut")
    b.do({"kind": "set-order", "setup": "main", "moved_cuts": []})
    with pytest.raises(BadInput, match="nothing left to hold it"):
        move("hole 1/0", "")
    assert not b.setup.moved_cuts


def test_a_move_whose_cut_is_gone_is_left_out_and_named(store):
    b = vacuum(store, (PLATE, [(100, 100)])).outline({}).hold_by("nothing").move("hole 1/0")
    b.do(SetContour(part=b.part(), contour="hole 1", omit=True))
    ((m, why),) = b.sheet.refused
    assert m.cut.endswith("hole 1/0") and "not cut on this sheet any more" in why and b.said("order.by-hand")
    assert isinstance(m, MovedCut)


def test_a_trial_is_a_program_of_its_own_with_all_it_waits_for(store):
    """A small piece lies in the other's hole: a trial of the outer one cuts the inner one too."""
    b = (
        vacuum(
            store, (rect(300, 300, [(150, 150, 90)]), [(100, 100)]), (rect(80, 60), [(210, 220), (800, 100)])
        )
        .outline({})
        .hold_by("nothing")
    )
    b.do(SetOrder(setup="main", trial=(b.piece(0),)))
    trial = [c.piece.id for c in b.sheet.cuts if c.trial]
    assert set(trial) == {b.piece(0), b.piece(1, 1)} and not b.sheet.cuts[-1].trial
    first, second = list(programs(b.plan, b.derived))
    assert "_trial" in first.name and "_trial" not in second.name
    b.do(SetOrder(setup="main", insides_apart=True))
    files = programs(b.plan, b.derived)
    assert all(("_insides" in p.name) != ("_outlines" in p.name) for p in files)
    assert [p.name for p in files] == sorted((p.name for p in files), key=lambda n: "_trial" not in n), (
        "the trial first"
    )
    assert all(s.severity != "stop" for p in jobs.prove_setup(b.store, b.plan, b.derived) for s in p.snags)


# -- proposals


def test_proposed_screws_stand_clear_and_their_marks_are_drilled_first(store):
    b = TrialJob(
        store, (PLATE, [(100, 100)]), (rect(120, 80), [(430, 60), (430, 250)]), screwed=False
    ).outline({})
    found = holding.screws_for(b.store, b.plan, "main", "own", 0, 6, "screw")
    assert len(found) == 6
    b.do({"kind": "set-screws", "setup": "main", "screws": [s.model_dump() for s in found]})
    assert not b.stops() and not [s for s in b.derived.snags if s.rule.endswith("-hit")]
    marks, *_rest = programs(b.plan, b.derived)
    assert "screw-marks" in marks.name
    bottoms = [
        m
        for block in read(marks.text, marks.name).blocks
        for m in block.moves
        if m[3] < (17.6 if b.setup.z_zero == "bed" else 0)
    ]
    assert {(round(m[1], 1), round(m[2], 1)) for m in bottoms} == {(s.x, s.y) for s in found}
    assert all(s.severity != "stop" for p in jobs.prove_setup(b.store, b.plan, b.derived) for s in p.snags)


def test_covering_open_zones_lifts_the_pressure(store):
    b = leak(store)
    before = b.hold.pressures[0]
    b.do(
        {
            "kind": "set-fixings",
            "setup": "main",
            "fixings": [c.model_dump() for c in holding.covers_for(b.plan, "main")],
        }
    )
    assert b.hold.pressures[0] > 1.3 * before


def test_ways_and_orders_are_compared(store):
    b = vacuum(store, (PLATE, [(100, 100), (500, 100)])).outline({})
    ways = {w.way: w for w in holding.compare_ways(b.store, b.plan, "main")}
    assert (
        [w for w in ways if ways[w].now] == ["tabs"]
        and ways["tabs"].tabs >= 8
        and ways["tabs"].hand_seconds > 0 == ways["nothing"].hand_seconds
    )
    assert (
        ways["skin, last pass"].seconds > ways["skin, by hand"].seconds
        and ways["skin, by hand"].hand_seconds > 0
    )
    assert ways["tabs"].lowest > ways["nothing"].lowest
    orders = {o.order_by: o for o in holding.compare_orders(b.store, b.plan, "main")}
    assert (
        len(orders) == 5
        and orders["heat spread"].travel >= orders["insides first"].travel
        and orders["insides first"].now
    )


def test_a_pull_scale_replaces_common_practice(store):
    b = vacuum(store, (PLATE, [(100, 100)]))
    b.do(
        {
            "kind": "calibrate-hold",
            "setup": "main",
            "what": "friction",
            "pull": 450.0,
            "area": 90_000.0,
            "pressure": 20.0,
        }
    )
    assert b.setup.rules.hold.friction["wood"] == pytest.approx(0.25)
    with pytest.raises(BadInput, match="needs the area"):
        b.do({"kind": "calibrate-hold", "setup": "main", "what": "friction", "pull": 450.0})
    b.do({"kind": "calibrate-hold", "setup": "main", "what": "tab", "pull": 120.0, "area": 24.0})
    assert b.setup.rules.hold.tab_strength["wood"] == pytest.approx(5.0)


def test_the_middle_of_a_hole_is_kept_on_a_skin_and_taken_back(store):
    b = TrialJob(store, (PLATE, [(100, 100)])).outline({})
    b.do({"kind": "set-hold", "setup": "main", "part": b.part(), "contour": "hole 1", "way": "skin, by hand"})
    assert not b.said("holding.drop") and not b.stops()
    assert b.hold.divided.left[
        [i for i, t in enumerate(b.hold.divided.thin_at) if t == b.cut_index("hole 1")]
    ].max() == pytest.approx(1.0)
    b.do({"kind": "set-hold", "setup": "main", "part": b.part(), "contour": "hole 1", "way": "nothing"})
    assert b.said("holding.drop")


def test_skins_that_touch_hold_each_piece_along_its_own_edge(store):
    """Three panels a kerf apart, all on one skin: what holds each lies around it, not at a neighbour's."""
    b = (
        TrialJob(store, (rect(120, 80), [(60, 60), (190, 60), (320, 60)]))
        .outline({})
        .hold_by("skin, by hand")
    )
    assert not b.stops()
    for q, rows in b.hold.of_piece.items():
        x0, y0, x1, y1 = b.hold.divided.polygons[b.hold.bodies[q]].bounds
        assert rows[-1].holds and all(
            x0 - 10 < x.x < x1 + 10 and y0 - 10 < x.y < y1 + 10 for x in rows[-1].holds if x.kind == "skin"
        )


def test_own_steps_hold_one_part_otherwise(store):
    b = TrialJob(store, (PLATE, [(100, 100)]), (rect(100, 80), [(450, 100)])).outline({})
    b.do({"kind": "set-hold", "setup": "main", "part": b.part(1), "way": "skin, by hand"})
    assert [c.cut.frees for c in b.sheet.cuts if c.cut.contour == "outline"].count(
        False
    ) == 1 and not b.stops()
    b.do(SetSteps(setup="main", on="outlines", steps=(Profile(id="a", on="outlines", cutter="comp-8"),)))
    assert b.plan.steps, "the part's own way stays when the setup's changes"


# -- tabs


def test_tabs_moved_by_hand_survive_ten_upstream_edits(store):
    """Anchored in the part's own frame: each of ten edits elsewhere leaves them where they were put."""
    from tests.conftest import panel
    from venzo.demo.seed import nest_job
    from venzo.desk import drawings

    b = vacuum(
        store,
        (panel(300, 200, ((60, 60, 20), (240, 140, 8))), [(100, 100), (500, 100)]),
        (rect(120, 80), [(900, 100)]),
    ).outline({})
    spots = ((40.0, 0.0), (300.0, 90.0), (150.0, 200.0))
    b.tabs(*spots)

    def alike(data, x=0.0):
        return drawings.take_drawing(store, b.job, b.store.get(b.job).number, "main", "part0.dxf", data)

    stock = b.setup.stock[0]
    edits = {
        "more pieces": lambda: b.do(
            {"kind": "set-quantity", "part": b.part(), "order": "order-1", "quantity": 4}
        ),
        "nested again": lambda: nest_job(store, b.job, "main", 2),
        "renamed": lambda: b.do({"kind": "set-part", "part": b.part(), "name": "Hatch"}),
        "another thickness": lambda: b.do(
            {
                "kind": "set-stock",
                "setup": "main",
                "stock": stock.model_copy(update={"readings": (18.4, 18.5)}).model_dump(mode="json"),
            }
        ),
        "another cutter": lambda: b.outline({"cutter": "up-6"}),
        "another step": lambda: b.outline({"cutter": "up-6", "side_allowance": 1.0}, {"cutter": "down-6"}),
        "a newer drawing, drawn elsewhere, a hole moved": lambda: alike(
            panel(300, 200, ((60, 60, 20), (243, 140, 8)), x=55, y=-20)
        ),
        "another part removed": lambda: b.do({"kind": "remove-part", "part": b.part(1)}),
        "may be turned over": lambda: (
            b.do({"kind": "set-part", "part": b.part(), "mirror": True, "rotations": [90.0]}),
            nest_job(store, b.job, "main", 2),
        ),
        "zones, zero and house rules": lambda: b.do(
            {
                "kind": "set-setup",
                "setup": "main",
                "zones_on": ["1"],
                "z_zero": "bed",
                "rules": {**b.setup.rules.model_dump(mode="json"), "between": "skeleton"},
            }
        ),
    }
    for edit, do in edits.items():
        do()
        mine = [
            c
            for pc in b.derived.cuts["own"].values()
            for c in pc.contours
            if c.contour == "outline" and len(c.tabs) == 3 and c.tabs_by_hand
        ]
        assert mine, edit
        for c in mine:
            assert all(math.dist(t, s) < 0.01 for t, s in zip(sorted(c.tabs), sorted(spots), strict=True)), (
                edit
            )
        assert not b.said("choice.unmatched"), edit
    assert len(edits) == 10


def test_automatic_tabs_go_where_they_hold(store):
    """Two panels side by side, a kerf apart: each finds its tabs on the edges that face no neighbour; by hand
    they stay where they were put.
    """
    b = TrialJob(store, (rect(200, 120), [(100, 60), (100, 190)])).outline({})
    assert b.derived.own and not b.said("holding.tab-web") and not b.stops()
    assert all(sum(x.kind == "tab" for x in rows[-1].holds) >= 2 for rows in b.hold.of_piece.values())
    b.tabs((60, 120), (140, 120))
    assert not b.derived.own


def test_sloped_tabs_rise_to_their_height_and_hold_half(store):
    b = TrialJob(store, (rect(200, 120), [(150, 100)])).outline(
        {"one_pass": True, "tabs": {"count": 4, "sloped": True}}
    )
    cut = b.sheet.cuts[-1].cut
    assert (abs(cut.moves[:, 3] + 13.6) < 1e-6).sum() >= 2 * len(cut.tabs) and len(cut.tabs) >= 6, (
        "half as strong, so more of them"
    )
    first = b.hold.of_piece[b.piece()][-1]
    assert [x.side for x in first.holds] == [pytest.approx(60.0)] * len(cut.tabs), (
        "6 x 4 mm, half of it under a slope, 5 N/mm2"
    )


def test_tabs_by_distance(store):
    b = TrialJob(store, (rect(400, 200), [(100, 100)])).outline({"tabs": {"count": 2, "every": 150}})
    assert len(b.sheet.cuts[-1].cut.tabs) == 8, "1200 mm round, one every 150"


sound_parts = st.lists(
    st.tuples(
        st.integers(110, 420), st.integers(90, 300), st.one_of(st.none(), st.floats(4, 50)), st.integers(1, 4)
    ),
    min_size=1,
    max_size=4,
)


@settings(max_examples=6 * MANY)
@given(
    sound_parts,
    st.sampled_from(["birch-ply", "acrylic", "aluminium-6000"]),
    st.sampled_from(["long-bed", "small-bench"]),
    st.booleans(),
    st.integers(0, 99),
)
@example(
    [(79, 193, None, 1), (174, 283, None, 1), (332, 105, None, 2)], "acrylic", "long-bed", False, 0
)  # edges that only touch: an overlay left lines beside its polygons
def test_parts_nested_and_tied_by_house_rule_meet_no_stop(
    tmp_path_factory, parts, material, machine, skeleton, seed
):
    """Any panels, on vacuum with one kerf or a skeleton between, or screwed with a skeleton: what the house
    rules propose is sound.
    """
    from tests.conftest import panel
    from venzo.demo.seed import nest_job
    from venzo.desk import drawings

    store = library_shop(tmp_path_factory.mktemp("sound"))
    job = jobs.new_job(store, "sound", machine, material).plan.id
    do = lambda command: store.apply(job, store.get(job).number, command)  # noqa: E731
    for k, (w, h, r, count) in enumerate(parts):
        holes = ((w / 2, h / 2, min(r, min(w, h) / 2 - 14)),) if r else ()
        drawings.take_drawing(store, job, store.get(job).number, "main", f"p{k}.dxf", panel(w, h, holes))
        do(SetQuantity(part=store.get(job).plan.parts[-1].id, order="order-1", quantity=count))
    setup = store.get(job).plan.setups[0]
    if skeleton or machine == "small-bench":
        do(SetSetup(setup="main", rules=setup.rules.model_copy(update={"between": "skeleton"})))
    if machine == "small-bench":
        s = setup.stock[0].model_copy(
            update={
                "width": min(setup.stock[0].width, 1200.0),
                "height": min(setup.stock[0].height, 800.0),
                "margin": 24.0,
            }
        )
        do(SetSetup(setup="main", sheet_at=(10.0, 10.0)))
        do(SetStock(setup="main", stock=s))
        do(SetScrews(setup="main", screws=screws(sheet=(s.width, s.height))))
    nest_job(store, job, "main", 2, seed)
    found = jobs.derive(store, store.get(job).plan)["main"]
    assert not [s.message for s in found.snags if s.severity == "stop" and s.rule.startswith("holding.")]
