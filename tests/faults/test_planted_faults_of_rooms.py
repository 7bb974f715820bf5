"""Faults planted in carvings, feeds, drawings, surfacing and programs: the rule that must speak."""

import dataclasses
import math
from types import SimpleNamespace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box

from tests.conftest import MANY, dxf
from venzo.core.carving.bit import Bit
from venzo.core.carving.carve import Depths, carve, judged
from venzo.core.carving.inlay import Mating, mating_snags
from venzo.core.carving.proof import carving_snags
from venzo.core.cuts.cut import ContourCut
from venzo.core.cuts.moves import LINE, RAPID, row
from venzo.core.feeds.adviser import CutNumbers, advise
from venzo.core.holding.verdict import _Judge
from venzo.core.parts.intake import HowRead, take_in
from venzo.core.proof.world import Axes, Given, World
from venzo.core.rules.house import HouseRules
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.surfacing.board import Board, KeepOut, Reading, SurfaceSetup, Surfacing
from venzo.core.surfacing.faces import faces
from venzo.core.surfacing.flatness import flatness
from venzo.core.surfacing.ledger import Entry, state
from venzo.core.surfacing.passes import plan_passes
from venzo.core.surfacing.rows import Room
from venzo.core.surfacing.tradeoff import elsewhere
from venzo.core.tooling.assembly import Assembly
from venzo.core.tooling.cutter import Cutter
from venzo.desk import jobs, vcarve
from venzo.desk.board_documents import view as bench_view
from venzo.desk.proving import prove_programs, tool, world_of
from venzo.desk.spoilboards import put
from venzo.formats.drawing_file import read_file
from venzo.formats.rs274 import interpret

SQUARE = box(0, 0, 40, 40)
BIT = Bit(60, 20)
LETTER = box(0, 0, 40, 3)


def mill(d=6.0, kind="up-cut", flutes=2, **more):
    return Cutter(
        id="m",
        number=1,
        name=f"{d:g} mm {kind}",
        kind=kind,
        diameter=d,
        flutes=flutes,
        cutting_length=more.pop("cutting_length", 30),
        **more,
    )


def stuff(family="wood"):
    return Material(id=family, name=family, family=family, density=1000)


ROUTER = Machine(
    id="r",
    name="router",
    width=1000,
    height=1000,
    rpm_min=8000,
    rpm_max=24_000,
    rapid=10_000,
    power=((8000, 0.6), (24_000, 1.5)),
)


def advice(cutter=None, family="wood", machine=ROUTER, **more):
    return advise(cutter or mill(), stuff(family), HouseRules(), machine, CutNumbers(**more)).snags


FEEDS = {
    "feeds.bend": lambda: advice(
        mill(3, cutting_length=40), "aluminium", feed=3000, rpm=18_000, depth=6, width=3
    ),
    "feeds.break": lambda: advice(rpm=12_000, feed=20_000),
    "feeds.deep": lambda: advice(rpm=18_000, feed=12_000, depth=8, width=6),
    "feeds.depth": lambda: advice(rpm=18_000, feed=6000, depth=20, width=6),
    "feeds.dry": lambda: advice(family="aluminium"),
    "feeds.edge": lambda: advice(mill(cutting_length=10), depth=12),
    "feeds.fast-edge": lambda: advice(mill(20), "aluminium", rpm=24_000, feed=2000),
    "feeds.kind": lambda: advice(mill(kind="compression"), "aluminium"),
    "feeds.plunge": lambda: advice(rpm=18_000, feed=6000, plunge=7000),
    "feeds.power": lambda: advice(mill(12), "aluminium", rpm=12_000, feed=3000, depth=12, width=12),
    "feeds.rpm": lambda: advice(rpm=30_000, feed=6000),
    "feeds.rub": lambda: advice(rpm=18_000, feed=500),
    "feeds.slow-edge": lambda: advice(mill(3), rpm=8000, feed=1000),
    "feeds.thin": lambda: advice(rpm=18_000, feed=5200, depth=10, width=0.3),
    "feeds.top-speed": lambda: advice(rpm=18_000, feed=12_000),
    "feeds.worn": lambda: advice(mill(metres=900, life=500)),
}


def test_a_depth_two_per_cent_over_the_diameter_is_no_deep_cut():
    assert not [s for s in advice(rpm=18_000, feed=12_000, depth=6.1, width=6) if s.rule == "feeds.deep"]


def test_an_own_feed_beyond_the_machine_is_held_and_not_complained_of():
    from venzo.core.tooling.cutter import Feeds

    own = mill(12, "roughing", feeds={"wood": Feeds(rpm=16_000, feed=13_000, plunge=4000)})
    a = advise(own, stuff(), HouseRules(), ROUTER)
    assert (
        a.feed == 10_000 and "held to" in a.source and not [s for s in a.snags if s.rule == "feeds.top-speed"]
    )


def test_a_power_snag_names_the_margin():
    (snag,) = [s for s in FEEDS["feeds.power"]() if s.rule == "feeds.power"]
    assert "80%" in snag.message


CARVINGS = {
    "carve.clear": lambda: judged(carve(box(0, 0, 60, 6), BIT, Depths(floor=2.0, clear=5.0))),
    "carve.deep": lambda: judged(carve(box(0, 0, 60, 16), BIT, Depths()), 17.0),
    "carve.floor": lambda: judged(carve(SQUARE, BIT, Depths(floor=2.0))),
    "carve.fragile": lambda: judged(carve(LETTER, Bit(30, 12), Depths())),
    "carve.flat": lambda: judged(carve(LETTER, BIT, Depths()), 18.0, 1.0),
    "carve.gouge": lambda: carving_snags(
        [LETTER],
        BIT,
        0.0,
        [(1.5, np.array([row(RAPID, 20, 1.5, 3), row(LINE, 20, 1.5, -2, 900), row(LINE, 30, 1.5, -2, 900)]))],
    ),
    "carve.inlay": lambda: mating_snags(Mating(12.0, 1.8, 0.3, 0.1, 1.5, 0.06, 10.0, 20.0)),
    "carve.open": lambda: (
        vcarve.vcarve(
            dxf(lambda m: (m.add_circle((20, 20), 5), m.add_line((50, 0), (60, 0)))),
            "x.dxf",
            BIT,
            Depths(),
            vcarve.Feeds(),
        ).snags
    ),
    "carve.point": lambda: judged(carve(box(0, 0, 40, 0.5), Bit(60, 12, tip=1.0), Depths())),
    "carve.reach": lambda: judged(carve(box(0, 0, 200, 60), Bit(90, 10), Depths(floor=20.0))),
    "carve.read": lambda: judged(carve(box(0, 0, 40, 0.2), BIT, Depths())),
    "carve.rest": lambda: judged(
        dataclasses.replace(carve(SQUARE, BIT, Depths(floor=2.0, clear=3.0)), by_bit=5000.0)
    ),
    "carve.thin": lambda: judged(
        carve(shapely.union_all([LETTER, box(0, 10, 40, 10.4)]), Bit(60, 12, tip=1.0), Depths())
    ),
    "carve.through": lambda: judged(carve(box(0, 0, 60, 16), BIT, Depths()), 12.0),
    "carve.wide": lambda: judged(carve(box(0, 0, 200, 60), Bit(90, 10), Depths())),
}


def drawn(draw, name="x.dxf", units=4, how=None):
    return take_in(
        read_file(dxf(draw, units) if callable(draw) else draw, name), name, how or HowRead()
    ).snags


def _on(layer, draw):
    def do(m):
        m.doc.layers.add(layer)
        m.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
        draw(m, {"layer": layer})

    return do


def frame(m, *more):
    m.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
    for f in more:
        f(m)


SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="60mm" viewBox="0 0 100 60"{}>{}</svg>'
INTAKE = {
    "intake.branch": lambda: drawn(
        lambda m: [
            m.add_line(a, b)
            for a, b in (
                ((0, 0), (50, 0)),
                ((50, 0), (100, 0)),
                ((100, 0), (100, 60)),
                ((100, 60), (50, 60)),
                ((50, 60), (0, 60)),
                ((0, 60), (0, 0)),
                ((50, 0), (50, 60)),
            )
        ]
    ),
    "intake.clip": lambda: drawn(
        SVG.format(
            "",
            '<clipPath id="c"><rect width="5" height="5"/></clipPath><rect width="20" height="20"'
            ' clip-path="url(#c)"/>',
        ).encode(),
        "x.svg",
    ),
    "intake.crossing": lambda: drawn(
        lambda m: m.add_lwpolyline([(0, 0), (60, 40), (60, 0), (0, 20)], close=True)
    ),
    "intake.duplicates": lambda: drawn(lambda m: (frame(m), frame(m))),
    "intake.dust": lambda: drawn(
        lambda m: (
            frame(m),
            m.add_lwpolyline([(20, 20), (20.09, 20), (20.09, 20.05), (20, 20.05)], close=True),
        ),
        how=HowRead(join=0.001),
    ),
    "intake.healed": lambda: drawn(
        lambda m: (
            m.add_line((0, 0), (60, 0)),
            m.add_line((40, 0), (100, 0)),
            m.add_line((100, 0), (100, 60)),
            m.add_line((100, 60), (0, 60)),
            m.add_line((0, 60), (0, 0)),
        )
    ),
    "intake.layer": lambda: drawn(
        _on("DIMENSIONS", lambda m, a: m.add_line((10, 10), (60, 10), dxfattribs=a))
    ),
    "intake.recovered": lambda: drawn(_damaged()),
    "intake.roles": lambda: drawn(
        lambda m: (
            m.doc.layers.add("DIMENSIONS"),
            m.add_lwpolyline(
                [(0, 0), (100, 0), (100, 60), (0, 60)], close=True, dxfattribs={"layer": "DIMENSIONS"}
            ),
        )
    ),
    "intake.size": lambda: drawn(lambda m: m.add_lwpolyline([(0, 0), (4, 0), (4, 2), (0, 2)], close=True)),
    "intake.stray": lambda: drawn(
        _on("ENGRAVE", lambda m, a: m.add_line((300, 10), (360, 10), dxfattribs=a))
    ),
    "intake.tilted": lambda: drawn(lambda m: (frame(m), m.add_line((10, 10, 0), (30, 10, 20)))),
    "intake.unreadable": lambda: drawn(
        dxf(lambda m: (frame(m), m.add_circle((50, 30), 10))).replace(b"\nCIRCLE\n", b"\nCIRKLE\n")
    ),
}


def _damaged():
    text = dxf(lambda m: (frame(m), m.add_circle((50, 30), 10))).decode()
    return text.replace("AcDbCircle", "AcDbCircle\n 62\n999", 1).encode()


def test_an_inch_drawing_called_millimetre_and_the_reverse():
    """Parts of 15 m, and of 3 mm: the unit is asked for, with the other one at hand."""
    large = drawn(lambda m: m.add_lwpolyline([(0, 0), (600, 0), (600, 300), (0, 300)], close=True), units=1)
    small = drawn(lambda m: m.add_lwpolyline([(0, 0), (3.2, 0), (3.2, 2), (0, 2)], close=True))
    for snags, unit in ((large, "mm"), (small, "in")):
        (snag,) = [s for s in snags if s.rule == "intake.size"]
        assert snag.severity == "look" and snag.remedies[0].command == {"kind": "read-again", "units": unit}


BOARD = Board(id="b", name="bed", width=800, height=300, kind="board", grain="y")


def surfaced(**how):
    return plan_passes(BOARD, Surfacing(**how)).snags


def readings(*z):
    spots = [(0, 0), (800, 0), (800, 300), (0, 300), (400, 150)]
    return [Reading(x=x, y=y, z=h) for (x, y), h in zip(spots, z, strict=True)]


def flat_plan(z, **how):
    return plan_passes(BOARD, Surfacing(**how), flatness(readings(*z), 800, 300)).snags


def on_bench(store, machine="small-bench", z=None, **how):
    b = SurfaceSetup(
        id="b",
        board=BOARD.model_copy(update={"machine": machine, "width": 600}),
        how=Surfacing(**how),
        readings=tuple(r.model_copy(update={"x": r.x * 0.75}) for r in readings(*z)) if z else (),
        simulated=bool(z),
    )
    return bench_view(store, put(store, b.model_dump(mode="json"))).snags


def ledger(*entries, take=0.8, board=BOARD):
    return state(board, list(enumerate(entries)), take).snags


SURFACING = {
    "flat.range": lambda s: on_bench(s, z=(0, 0, -3.0, 0, 0)),
    "flat.simulated": lambda s: on_bench(s, z=(0, 0, -0.4, 0, 0)),
    "ledger.due": lambda s: ledger(Entry(kind="through-cut", metres=900, score=0.5), take=0.8),
    "ledger.score": lambda s: ledger(Entry(kind="through-cut", metres=9, score=0.9), take=0.3),
    "ledger.screws": lambda s: ledger(take=0.8, board=BOARD.model_copy(update={"screw_head": 0.5})),
    "ledger.thin": lambda s: ledger(Entry(kind="surfaced", removed=8.9), take=0.8),
    "ledger.start": lambda s: on_bench(s, start=1.0),
    "surface.air": lambda s: flat_plan((0, -3, -3, -3, -3), depth=0.1),
    "surface.balance": lambda s: faces(40, 30, 0.5, 0.5).snags,
    "surface.clearance": lambda s: on_bench_tall(s),
    "surface.deep": lambda s: flat_plan((0, 0, -0.1, 0, 0), depth=1.0, passes=3),
    "surface.depth": lambda s: surfaced(depth=12.0),
    "surface.entry": lambda s: plan_passes(BOARD, Surfacing(), room=Room(box(0, 0, 800, 300))).snags,
    "surface.feed": lambda s: on_bench(s, feed=20_000.0),
    "surface.first": lambda s: faces(40, 30, 0.5, 0.5).snags,
    "surface.grain": lambda s: surfaced(along="x"),
    "surface.high": lambda s: flat_plan((0.9, 0, 0, 0, 0)),
    "surface.rpm": lambda s: on_bench(s, rpm=4000.0),
    "surface.cam": lambda s: fixed("cam", -20, 60, -2.0),
    "surface.planer": lambda s: elsewhere(BOARD, Surfacing(depth=2.0, passes=5), 3000.0, True),
    "surface.pod": lambda s: fixed("pod", 100, 200, -3.0),
    "surface.pods": lambda s: (
        plan_passes(BOARD.model_copy(update={"held": "vacuum pods"}), Surfacing()).snags
    ),
    "surface.saw": lambda s: elsewhere(BOARD, Surfacing(depth=2.0, passes=5), 3000.0, False),
    "surface.second": lambda s: faces(40, 30, 0.5, 0.5).snags,
    "surface.shallow": lambda s: flat_plan((0, 0, -2.0, 0, 0), depth=0.5),
    "surface.step": lambda s: surfaced(step_over=0.9),
    "surface.through": lambda s: surfaced(depth=6.0, passes=3),
    "surface.uncut": lambda s: _with_clamp(),
}


def fixed(what, y0, y1, height):
    place = KeepOut(what=what, x0=300, y0=y0, x1=380, y1=y1, height=height)
    return plan_passes(BOARD.model_copy(update={"dead": (place,)}), Surfacing()).snags


def _with_clamp():
    return plan_passes(
        Board.model_validate({**BOARD.model_dump(), "dead": [[300, 100, 380, 160]]}), Surfacing()
    ).snags


def on_bench_tall(store):
    b = Board.model_validate(
        {**BOARD.model_dump(), "machine": "small-bench", "width": 600, "dead": [[300, 100, 380, 160, 60]]}
    )
    return bench_view(store, put(store, SurfaceSetup(id="b", board=b).model_dump(mode="json"))).snags


HEAD = "G21 G90 G17\nS18000 M3\nG0 X10 Y10\nG0 Z5\n"
CUT = "G1 Z-5 F500\nG1 X60 F2000\nG0 Z5\n"


def proved(text, tools=("flat:6",), sheet="100x100x18", envelope=None, **world):
    made = world_of(sheet, list(tools), envelope, "0,0", Axes())
    return prove_programs([("p.nc", text)], dataclasses.replace(made, **world), (0.0, 0.0), False).snags


def in_the_way():
    from venzo.core.holding.in_the_way import Obstacle

    return proved(
        HEAD + CUT + "M5\nM30\n",
        obstacles=[Obstacle("c", "clamp", "the clamp at 40, 10", box(35, 5, 45, 15), 12.0, False)],
        keep=3.0,
    )


PROGRAMS = {
    "proof.arc": lambda: proved(HEAD + "G1 Z-5 F500\nG2 X30 Y10 I4 J0\nM30\n"),
    "proof.away": lambda: proved(HEAD + CUT + "G28 X0 Y0\nM30\n"),
    "proof.change": lambda: proved(HEAD + CUT + "T2 M6\nM30\n"),
    "proof.deep": lambda: proved(HEAD + "G1 Z-25 F500\nG1 X60 F2000\nG0 Z5\nM30\n"),
    "proof.edge": lambda: proved(HEAD + CUT + "M30\n", ["flat:6:edge=4"]),
    "proof.end": lambda: proved(HEAD + CUT),
    "proof.feed": lambda: proved("G21 G90\nS18000 M3\nG0 X10 Y10\nG0 Z5\nG1 Z-5\nM30\n"),
    "proof.fixing": in_the_way,
    "proof.nut": lambda: proved(HEAD + CUT + "M30\n", ["flat:6:out=3:nut=20"]),
    "proof.pause": lambda: proved(HEAD + "G1 Z-5 F500\nM0\nG1 X60\nG0 Z5\nM30\n"),
    "proof.rapid": lambda: proved(HEAD + "G1 Z-5 F500\nG0 X60\nG0 Z5\nM30\n"),
    "proof.sense": lambda: proved(HEAD.replace("M3", "M4") + CUT + "M30\n"),
    "proof.skip": lambda: proved(HEAD + "/" + CUT + "M30\n"),
    "proof.speed": lambda: proved(HEAD.replace("S18000 ", "") + CUT + "M30\n"),
    "proof.spindle": lambda: proved(HEAD.replace("S18000 M3", "") + CUT + "M30\n"),
    "proof.table": lambda: proved(HEAD + "G1 Z-5 F500\nG1 X260 F2000\nG0 Z5\nM30\n", envelope="200x200x100"),
    "proof.tool": lambda: proved(HEAD + "M5\nT9 M6\nS9000 M3\n" + CUT + "M30\n", ["1=flat:6", "2=flat:8"]),
    "proof.unread": lambda: proved(HEAD + "G92 X0\n" + CUT + "M30\n"),
}
TABLES = {
    **{k: lambda s, f=f: f() for t in (FEEDS, CARVINGS, INTAKE, PROGRAMS) for k, f in t.items()},
    **SURFACING,
}


@pytest.mark.parametrize("rule", TABLES)
def test_a_planted_fault_is_said_by_its_rule(store, rule):
    found = TABLES[rule](store)
    assert [s for s in found if s.rule == rule and len(s.message) > 15], (
        f"{rule} says nothing; said were {sorted({s.rule for s in found})}"
    )


def test_a_sound_program_is_clear():
    assert not proved(HEAD + CUT + "M5\nM30\n")


@pytest.mark.parametrize(
    ("kind", "rule", "frees"),
    [("drop", "holding.loose-drop", True), ("skeleton", "holding.loose-scrap", False)],
)
def test_cuts_into_what_is_loose_already(kind, rule, frees):
    """A drop or a scrap of skeleton that came free by one cut and is cut into by the next: built by hand,
    since the order of cuts avoids it.
    """
    body = Polygon([(0, 0), (60, 0), (60, 60), (0, 60)])
    cut = SimpleNamespace(contour="hole 1", operation="holes", step=0, tabs=(), name="hole 1/0", cutter="m")
    piece = SimpleNamespace(id="p#1", part="p", copy_no=0)
    cuts = [SimpleNamespace(cut=cut, piece=piece)] * 2
    blank = {
        "piece": "p#1",
        "body": 0,
        "side": 0.0,
        "up": 0.0,
        "load": 50.0,
        "lift": 20.0,
        "ratio": 0.0,
        "area": 3600.0,
        "holds": (),
        "joined": "",
        "tips": 9.9,
    }
    held = [
        SimpleNamespace(cut=0, kind=kind, frees=True, **blank),
        SimpleNamespace(cut=1, kind=kind, frees=False, **blank),
    ]
    judge = _Judge.__new__(_Judge)
    judge.setup = SimpleNamespace(
        rules=HouseRules(), machine=ROUTER, zones_on=(), id="main", cutter=lambda _i: None
    )
    judge.rules, judge.names, judge.part_of, judge.where, judge.out = (
        HouseRules().hold,
        {"p": "part"},
        {"p#1": "p"},
        {},
        [],
    )
    judge.sheet = SimpleNamespace(cuts=cuts)
    judge.hold = SimpleNamespace(held=held, divided=SimpleNamespace(polygons=[body]), bodies={})
    judge._zones_under = lambda _h: []
    judge._drops() if kind == "drop" else judge._waste()
    assert [s.severity for s in judge.out if s.rule == rule] == ["stop"]


def test_dwells_offsets_and_tabs_of_a_plan(demo):
    """What only a plan can say of a program: another offset, a dwell nobody planned, tabs that do not
    stand.
    """
    from venzo.core.proof.check import prove
    from venzo.desk.jobs import programs

    plan = demo.get("viewing-slot-glazing").plan
    d = jobs.derive(demo, plan, hold=False)["main"]
    files = programs(plan, d)
    subject = jobs.subject_of(demo, plan, d, d.sheets[0])

    def rules(change):
        return {
            s.rule
            for s in prove(
                subject,
                [
                    jobs.as_program(subject, f, interpret(change(f.text), f.name))
                    for f in files
                    if f.serves(d.sheets[0])
                ],
            ).snags
            if s.severity == "stop"
        }

    assert rules(lambda t: t) == set()
    assert "proof.offset" in rules(lambda t: t.replace("G54", "G57"))
    assert "proof.dwell" in rules(lambda t: t.replace("M5\nM30", "G4 P3\nM5\nM30"))
    tops = sorted(
        {round(c.cut.tab.top, 3) for c in d.sheets[0].cuts if isinstance(c.cut, ContourCut) and c.cut.tab}
    )
    low = min(c.cut.levels[-1] for c in d.sheets[0].cuts)
    assert "proof.tabs" in rules(lambda t: t.replace(f"Z{tops[0]:g}", f"Z{low:g}"))


def test_tools_of_the_command_line():
    for text, kind, d in (
        ("flat:6.35", "up-cut", 6.35),
        ("1=ball:6", "ball", 6),
        ("bull:12:2", "bowl", 12),
        ("2=vee:12.7:60", "v-bit", 12.7),
        ("taper:1:5:6", "tapered ball", 6),
        ("drill:5", "drill", 5),
    ):
        cutter = tool(text)[1].cutter
        assert cutter.kind == kind and cutter.diameter == d
    assert (
        Assembly(mill()).edge is None
        and World(1, 1, 1, {}).tool(3) is None
        and Given("p", interpret(HEAD + CUT), 1).top == 0
        and Point(0, 0).is_valid
    )


SLOTS = st.lists(
    st.tuples(
        st.floats(10, 90), st.floats(10, 90), st.floats(10, 90), st.floats(10, 90), st.floats(0.5, 17.0)
    ),
    min_size=2,
    max_size=5,
)


@settings(max_examples=15 * MANY)
@given(SLOTS, st.data())
def test_programs_in_order_on_one_stock_are_as_one(slots, data):
    """A fast move down into a slot is clear when the slot was cut before, in the same program or in one that
    ran earlier on the same stock; else it is found.
    """
    cut = [
        f"G0 X{a:.3f} Y{b:.3f}\nG1 Z{-z:.3f} F500\nG1 X{c:.3f} Y{d:.3f} F2000\nG0 Z5\n"
        for a, b, c, d, z in slots
    ]
    which = data.draw(st.integers(0, len(slots) - 1))
    c, d, z = slots[which][2:]
    again = f"G0 X{c:.3f} Y{d:.3f}\nG0 Z{-z + 0.1:.3f}\nG0 Z5\n"
    at = data.draw(st.integers(1, len(slots)))
    end = "M5\nM30\n"
    parts = [HEAD + "".join(cut[:at]) + end, HEAD + "".join(cut[at:]) + again + end]
    made = world_of("100x100x18", ["flat:6"], None, "0,0", Axes())

    def verdict(texts):
        return {
            s.rule
            for s in prove_programs(
                [(f"p{k}.nc", t) for k, t in enumerate(texts)], made, (0.0, 0.0), False
            ).snags
        }

    assert verdict(parts) == verdict([HEAD + "".join(cut) + again + end]) == set()
    ways = [
        LineString([e[:2], e[2:4]]) if math.dist(e[:2], e[2:4]) else Point(e[:2])
        for k, e in enumerate(slots)
        if k != which
    ]
    if min(w.distance(Point(c, d)) for w in ways) > 7:
        alone = [
            HEAD + "".join(x for k, x in enumerate(cut) if k != which) + again + end,
            HEAD + cut[which] + end,
        ]
        assert "proof.rapid" in verdict(alone), "the slot was not cut yet"
