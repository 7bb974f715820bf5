"""Collisions planted in programs: each is found, with its line; and sound work beside each passes.

Invented programs in a small world: a sheet 100 x 100 x 18 mm, a mill of 6 mm. What must be found follows from
the numbers in the program alone (plain geometry).
"""

import dataclasses

import pytest
from shapely.geometry import Point, box

from tests.support.trial import TrialJob, rect
from venzo.core.edits import SetFixings, SetSetup, read_command
from venzo.core.holding.fixings import Clamp
from venzo.core.holding.in_the_way import Obstacle
from venzo.core.motion.time import Axes
from venzo.core.tooling.assembly import NOSE, DustShoe
from venzo.desk import jobs, library
from venzo.desk.proving import prove_programs, world_of

HEAD = "G21 G90 G17\nS18000 M3\nG0 X10 Y10\nG0 Z5\n"
END = "\nG0 Z5\nM5\nM30\n"
SLOT = "G1 Z-5 F500\nG1 X60 F2000"
CLAMP = Obstacle("c", "clamp", "the clamp at 90, 10", box(85, 5, 95, 15), 12.0, False)
CLAMP_RIGHT = Obstacle("r", "clamp", "the clamp at 95, 45", box(92, 40, 99, 50), 12.0, False)
SCREW = Obstacle("s", "screw", "the screw at 50, 50", Point(50, 50).buffer(4), 3.0, True)
PIN = Obstacle("p", "pin", "the pin at 30, 80", Point(30, 80).buffer(5), 8.0, True)
SURFACER = "surfacing:25"


def said(text, tools=("flat:6",), sheet="100x100x18", envelope=None, shoe=None, **world):
    """Snags of a program, whole or only what it cuts."""
    made = world_of(sheet, list(tools), envelope, "0,0", Axes())
    if shoe is not None:
        made = dataclasses.replace(made, any_tool=dataclasses.replace(made.any_tool, shoe=shoe))
    made = dataclasses.replace(made, **world)
    whole = text if text.startswith("G21") else HEAD + text + END
    return prove_programs([("p.nc", whole)], made, (0.0, 0.0), False).snags


def held(text, *things, keep=3.0, **more):
    return said(text, obstacles=list(things), keep=keep, **more)


FOUND = {
    # fast moves
    "fast through material": (lambda: said("G1 Z-5 F500\nG0 X60"), "proof.rapid", 6),
    "fast down into material": (lambda: said("G0 Z-4\nG1 X60 F2000"), "proof.rapid", 5),
    "fast up a slope through material": (lambda: said("G1 Z-8 F500\nG0 X40 Z-1"), "proof.rapid", 6),
    "fast beside a slot": (lambda: said(SLOT + "\nG0 Z-2\nG0 Y30"), "proof.rapid", None),
    "fast lower than the slot": (lambda: said(SLOT + "\nG0 X10\nG0 Z-7"), "proof.rapid", None),
    "fast across below the safe height": (lambda: said("G0 Z1\nG0 X60\n" + SLOT, safe=3.0), "proof.rapid", 6),
    # what holds the work
    "the cutter into a clamp": (lambda: held("G1 Z-5 F500\nG1 X90 F2000", CLAMP), "proof.fixing", 6),
    "the cutter grazes a clamp": (lambda: held("G1 Z-5 F500\nG1 X82.5 F2000", CLAMP), "proof.fixing", 6),
    "fast over a clamp, too low": (lambda: held("G0 Z13\nG0 X95", CLAMP), "proof.fixing", 6),
    "over a screw head, too low": (lambda: held("G0 X50\nG0 Z4\nG0 Y60", SCREW), "proof.fixing", 7),
    "the cutter into a screw in the stock": (
        lambda: held("G0 X20 Y50\nG1 Z-5 F500\nG1 X60 F2000", SCREW),
        "proof.fixing",
        7,
    ),
    "the cutter into a pin": (lambda: held("G0 Y80\nG1 Z-5 F500\nG1 X26 F900", PIN), "proof.fixing", 7),
    "the nut into a clamp": (
        lambda: held("G1 Z-5 F500\nG1 X70 F2000", CLAMP, tools=["flat:6:edge=12:out=15:nut=40"]),
        "proof.fixing",
        6,
    ),
    "the nut over a clamp, moving fast": (
        lambda: held("G0 Z1\nG0 X70", CLAMP, tools=["flat:6:edge=12:out=13:nut=40"]),
        "proof.fixing",
        6,
    ),
    "the shoe into a clamp": (
        lambda: held(
            "G1 Z-5 F500\nG1 X50 F2000", CLAMP, tools=["flat:6:edge=12:out=18"], shoe=DustShoe(diameter=90)
        ),
        "proof.fixing",
        6,
    ),
    "the shoe that hangs low into a pin": (
        lambda: held(
            "G0 Y50\nG0 X60\n" + SLOT, PIN, tools=["flat:6:edge=12:out=40"], shoe=DustShoe(lower=30)
        ),
        "proof.fixing",
        None,
    ),
    # the work itself
    "the nut into the work": (
        lambda: said("G1 Z-12 F500\nG1 X60 F900", ["flat:6:out=10:nut=20"]),
        "proof.nut",
        5,
    ),
    "the nut into what is only cut later in the same run": (
        # down 12 mm in the middle, then all about it: by the end nothing stands that it could meet
        lambda: said(
            "G0 X50 Y50\nG1 Z-12 F500\n"
            + "".join(f"X{x}\nY{-12 if n % 2 else 112}\n" for n, x in enumerate(range(-12, 113, 4))),
            ["flat:6:out=10:nut=16"],
        ),
        "proof.nut",
        6,
    ),
    "the nut into a wall beside a slot": (
        lambda: said("G1 Z-6 F500\nX60\nX10\nG1 Z-12\nG1 X60", ["flat:6:out=10:nut=20"]),
        "proof.nut",
        8,
    ),
    "the shoe onto the work": (
        lambda: said("G1 Z-12 F500\nG1 X60 F900", ["flat:6:out=20"], shoe=DustShoe(lower=10)),
        "proof.shoe",
        5,
    ),
    "deeper than the edge": (lambda: said("G1 Z-9 F500\nG1 X60 F900", ["flat:6:edge=8"]), "proof.edge", 5),
    "a surfacing cutter straight down": (
        lambda: said("G1 Z-2 F500\nG1 X60 F900", [SURFACER]),
        "proof.plunge",
        5,
    ),
    "straight down beside its own slot": (
        lambda: said("G0 X-30\nG1 Z-2 F500\nX20\nG0 Z5\nG0 Y60\nG1 Z-2\nX60", [SURFACER]),
        "proof.plunge",
        None,
    ),
    # the table
    "beyond the table": (lambda: said("G1 Z-5 F500\nG1 X260 F900", envelope="200x200x90"), "proof.table", 6),
    "before the table's edge": (lambda: said("G0 X-5\n" + SLOT, envelope="200x200x90"), "proof.table", 5),
    "an arc bulges over the edge": (
        lambda: said("G1 Z-5 F500\nG2 X10 Y60 I0 J25 F900", envelope="200x200x90"),
        "proof.table",
        6,
    ),
    "higher and lower than Z travels": (
        lambda: said(SLOT + "\nG0 Z90", envelope="200x200x90"),
        "proof.table",
        None,
    ),
    "an arc through a dead area": (
        lambda: said("G1 Z-5 F500\nG2 X10 Y60 I0 J25 F900", dead=[(-40, 20, -5, 50)], safe=3.0),
        "proof.table",
        6,
    ),
    "an arc into a clamp": (
        lambda: held("G0 X60\nG1 Z-5 F500\nG3 X60 Y80 I0 J35 F900", CLAMP_RIGHT),
        "proof.fixing",
        7,
    ),
    "into a dead area": (lambda: said(SLOT, dead=[(40, 0, 60, 30)], safe=3.0), "proof.table", 6),
    "across the corner of a dead area": (
        lambda: said("G1 Z-5 F500\nG1 X40 Y40 F900", dead=[(22, 0, 60, 26)], safe=3.0),
        "proof.table",
        6,
    ),
    "far into the spoilboard": (lambda: said("G1 Z-31 F500\nG1 X60 F900"), "proof.deep", 5),
    "into the spoilboard": (lambda: said("G1 Z-22 F500\nG1 X60 F900"), "proof.deep", 5),
    # to the changer and home
    "a change while it turns": (lambda: said(SLOT + "\nG0 Z5\nT1 M6", ["1=flat:6"]), "proof.change", 8),
    "a change in the cut": (lambda: said(SLOT + "\nM5\nT1 M6\nS9000 M3"), "proof.change", 8),
    "a change below the safe height": (
        lambda: said(SLOT + "\nG0 Z2\nM5\nT1 M6\nS9000 M3\nG0 X10 Y10", safe=3.0),
        "proof.change",
        9,
    ),
    "home at the height of a clamp": (lambda: held(SLOT + "\nG0 Z5\nG28 X0 Y0", CLAMP), "proof.away", 8),
    "a stop in the cut": (lambda: said("G1 Z-5 F500\nM0\nG1 X60 F900"), "proof.pause", 6),
}
"""What: what is said, the rule that says it, the line it names (None: not asked)."""

SOUND = {
    "a slot": lambda: said(SLOT),
    "fast back in its own slot": lambda: said(SLOT + "\nG0 X10"),
    "fast down into its own slot": lambda: said(SLOT + "\nG0 Z5\nG0 X30\nG0 Z-4.9\nG1 X40"),
    "fast across high enough": lambda: said("G0 X60\n" + SLOT.replace("60", "90"), safe=3.0),
    "past a clamp": lambda: held("G1 Z-5 F500\nG1 X78 F2000", CLAMP),
    "over a clamp": lambda: held("G0 Z16\nG0 X95\nG0 X10", CLAMP),
    "a long cutter past a clamp": lambda: held(
        "G1 Z-5 F500\nG1 X70 F2000", CLAMP, tools=["flat:6:edge=12:out=40:nut=40"]
    ),
    "a shoe that stands high": lambda: held(
        SLOT, CLAMP, tools=["flat:6:edge=12:out=40"], shoe=DustShoe(lower=10)
    ),
    "the nut over an open pocket": lambda: said(
        "G0 X-5 Y50\nG1 Z-6 F500\n"
        + "".join(f"G1 Y{y}\nX105\nY{y + 2}\nX-5\n" for y in range(0, 101, 4))
        + "Z-12\nX60",
        ["flat:6:out=10:nut=20"],
    ),
    "a ramp with a surfacing cutter": lambda: said("G1 X60 Z-1 F900\nG1 X10", [SURFACER]),
    "a surfacing cutter down clear of the work": lambda: said(
        "G0 X-30\nG1 Z-1 F500\nG1 X60 F900", [SURFACER]
    ),
    "a surfacing cutter down where it cut": lambda: said(
        "G0 X-30\nG1 Z-1 F500\nG1 X60 F900\nG0 Z5\nG0 X20\nG1 Z-0.98 F500", [SURFACER]
    ),
    "along the edge of a dead area": lambda: said(SLOT, dead=[(0, 10, 60, 30)], safe=3.0),
    "over a dead area": lambda: said("G0 X90\nG1 Z-5 F500", dead=[(40, 0, 60, 30)], safe=3.0),
    "a little into the spoilboard": lambda: said("G1 Z-18.8 F500\nG1 X60 F900"),
    "a change above": lambda: said(SLOT + "\nG0 Z5\nM5\nT1 M6\nS9000 M3\nG0 X10 Y10", safe=3.0),
    "home over all": lambda: [s for s in held(SLOT + "\nG0 Z20\nG28 X0 Y0", CLAMP) if s.severity == "stop"],
}


@pytest.mark.parametrize("what", FOUND)
def test_a_planted_collision_is_found_with_its_line(what):
    make, rule, line = FOUND[what]
    found = [s for s in make() if s.rule == rule]
    assert found, f"{rule} says nothing"
    if line is not None:
        assert found[0].where["line"] == line, found[0].message


@pytest.mark.parametrize("what", SOUND)
def test_sound_work_passes(what):
    assert not [s.message for s in SOUND[what]()]


def test_what_is_clamped_stands_where_its_measures_say():
    """Nut and shoe against a thing of growing height: met from exactly the height at which they stand, less
    what is kept clear.
    """
    for tool, shoe, wide in (
        ("flat:6:out=20:nut=40", None, 20),
        ("flat:6:out=20", DustShoe(diameter=80, lower=4), 40),
    ):
        stands = 20 - (shoe.lower if shoe else 0) - 5 - 3
        for over, away, hit in ((0.1, -0.1, True), (-0.1, -0.1, False), (0.1, 0.1, False)):
            x = 60 + wide + away
            thing = Obstacle("t", "clamp", "the clamp", box(x, 0, x + 5, 20), stands + over, False)
            found = {s.rule for s in held(SLOT, thing, tools=[tool], shoe=shoe)}
            assert ("proof.fixing" in found) == hit, (tool, over, away)


def test_a_plan_knows_the_shop_s_holders_and_the_machine_s_shoe(store):
    """A clamp 12 mm high beside a panel: clear of a usual nut, met by a low shoe, which the plan says."""
    job = TrialJob(store, (rect(200, 120), [(150, 120)]))
    assert {h.id for h in job.setup.holders} == {h["id"] for h in store.library("holder")}
    job.do(SetFixings(setup="main", fixings=(Clamp(id="c", x=80, y=180, width=20, proud=12),)))
    assert not job.said("holding.holder-hit")
    machine = job.setup.machine
    for lower, met in ((-5.0, False), (25.0, True)):
        shod = machine.model_copy(update={"shoe": DustShoe(diameter=160, lower=lower)})
        job.do(SetSetup(setup="main", machine=shod, zones_on=job.setup.zones_on))
        said_ = job.said("holding.holder-hit")
        assert bool(said_) == met, lower
    assert "dust shoe (160 mm across" in said_[0].message
    proof = jobs.prove_setup(store, job.plan, job.derived)[0]
    assert any(s.rule == "proof.fixing" and "dust shoe" in s.message for s in proof.snags)


def test_a_pinned_holder_s_nose_is_the_one_that_is_judged(store):
    job = TrialJob(store, (rect(200, 120), [(150, 120)]))
    cutter = next(c for c in job.setup.cutters if c.holder)
    nose = next(h.nose for h in job.setup.holders if h.id == cutter.holder)
    assert job.setup.assembly(cutter).nut == nose
    bare = job.setup.model_copy(update={"holders": ()})
    assert bare.assembly(cutter).nut == NOSE
    fat = next(h for h in store.library("holder") if h["id"] == cutter.holder) | {"nose": 77.0}
    store.put_library("holder", fat)
    (news,) = [n for n in library.news(store, job.plan)["main"] if n.kind == "holder"]
    assert news.changes == ["nose"]
    job.do(read_command(news.command))
    assert job.setup.assembly(cutter).nut == 77.0
    assert not [n for n in library.news(store, job.plan)["main"] if n.kind == "holder"]
