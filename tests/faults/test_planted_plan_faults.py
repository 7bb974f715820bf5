"""Faults planted in plans: for each the rule that must speak, and how gravely. What each rule offers as a
remedy is applied for real: it clears what it names and stops nothing new.
"""

import ast
import math
import re
from pathlib import Path

import pytest

from tests.conftest import dxf
from tests.core.test_hold import MISTAKES
from tests.faults.offers import offers_mend
from tests.support.trial import Clamp, FixtureBoard, TrialJob, rect, ring
from venzo.core.cuts.operations import Bore, Chamfer, Groove, Pocket, Profile, VCarve
from venzo.core.edits import ChangeStops, SetContour, SetSetup, SetSteps, SetStock, read_command
from venzo.core.edits.asks import AlterPart, ChangeModel, MakeSurface
from venzo.core.edits.indexing import IndexStock
from venzo.core.edits.turning import ChangeTurn, OrderFaces, TurnOver
from venzo.core.faces.registration import Dowel, Dowels
from venzo.core.indexing.positions import FenceMark, Indexing, IndexPins
from venzo.core.parts.made import BoxSet
from venzo.core.plan import AcceptedNest, OperatorStop
from venzo.core.stock.zeros import CornerZero
from venzo.demo.library import CUTTERS
from venzo.desk import drawings, jobs, models, remedies

PLATE = rect(200, 120)
NOTCHED = [(0, 0), (120, 0), (120, 60), (62.5, 60), (62.5, 30), (57.5, 30), (57.5, 60), (0, 60)]
DUMBBELL = [
    (20, 20),
    (60, 20),
    (60, 37),
    (90, 37),
    (90, 20),
    (130, 20),
    (130, 60),
    (90, 60),
    (90, 43),
    (60, 43),
    (60, 60),
    (20, 60),
]


def on(layer, draw, w=200, h=120):
    """A plate with something drawn on a layer."""

    def do(m):
        m.doc.layers.add(layer)
        m.add_lwpolyline([(0, 0), (w, 0), (w, h), (0, h)], close=True)
        draw(m, {"layer": layer})

    return dxf(do)


def holed(points):
    def do(m):
        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
        m.add_lwpolyline(points, close=True)

    return dxf(do)


def trial(store, data=PLATE, **more):
    return TrialJob(store, (data, [(100, 100)]), **more)


def steps(b, kind, *steps):
    b.do(SetSteps(setup="main", on=kind, steps=steps))
    return b


def cutters(b, **change):
    """Cutters of the setup with some changed: id -> fields."""
    b.do(
        SetSetup(
            setup="main",
            cutters=tuple(
                c.model_copy(update=change.get(c.id.replace("-", "_"), {})) for c in b.setup.cutters
            ),
        )
    )
    return b


def more_cutters(b, *ids):
    b.do(
        SetSetup(
            setup="main",
            cutters=(*b.setup.cutters, *(c for c in CUTTERS if c.id in ids and not b.setup.cutter(c.id))),
        )
    )
    return b


def machine(b, **change):
    b.do(SetSetup(setup="main", machine=b.setup.machine.model_copy(update=change), zones_on=b.setup.zones_on))
    return b


def rules(b, **change):
    b.do(SetSetup(setup="main", rules=b.setup.rules.model_copy(update=change)))
    return b


def held(b, **change):
    return rules(b, hold=b.setup.rules.hold.model_copy(update=change))


def stock(b, **change):
    b.do(SetStock(setup="main", stock=b.setup.stock[0].model_copy(update=change)))
    return b


def contour(b, name, **choice):
    b.do(SetContour(part=b.part(), contour=name, **choice))
    return b


def POCKET(d):
    return on(
        f"POCKET {d}mm",
        lambda m, a: m.add_lwpolyline([(40, 30), (120, 30), (120, 80), (40, 80)], close=True, dxfattribs=a),
    )


def GROOVE(d):
    return on(f"GROOVE {d}mm", lambda m, a: m.add_line((20, 60), (180, 60), dxfattribs=a))


RINGED = on(
    "GROOVE 4mm",
    lambda m, a: m.add_lwpolyline([(40, 30), (120, 30), (120, 80), (40, 80)], close=True, dxfattribs=a),
)
"""A closed line on a groove layer: said to be cleared it is an area, which a step that runs along lines does
not cut.
"""
CARVED = on("ENGRAVE", lambda m, a: m.add_circle((100, 60), 12, dxfattribs=a))


def DRILLED(r, d=""):
    return on(f"DRILL {d}".strip(), lambda m, a: m.add_circle((100, 60), r, dxfattribs=a))


CARVE = VCarve(id="carve", on="engravings", cutter="vee-60")


FILLETED = dxf(
    lambda m: m.add_lwpolyline(
        [
            (0, 0, 0),
            (200, 0, 0),
            (200, 60, 0),
            (84, 60, -math.tan(math.pi / 8)),
            (80, 64, 0),
            (80, 120, 0),
            (0, 120, 0),
        ],
        format="xyb",
        close=True,
    )
)
"""An inside corner of 4 mm, as round as the 8 mm cutter."""


def slotted(store):
    """A slot 18.2 mm wide for the sheet of 17.6 mm: 0.6 mm loose."""
    return trial(
        store, ring([(0, 0), (90, 0), (90, 50), (108.2, 50), (108.2, 0), (200, 0), (200, 120), (0, 120)])
    )


def altered_away(store):
    """A slot is relieved, then the newer drawing has none."""
    b = trial(store, holed([(60, 40), (120, 40), (120, 60), (60, 60)]))
    bone = {"kind": "relief", "style": "dog-bone", "radius": 3.05}
    drawings.alter_part(store, b.job, store.get(b.job).number, AlterPart(part=b.part(), add=bone))
    drawings.take_drawing(store, b.job, store.get(b.job).number, "main", "part0.dxf", PLATE)
    return b


def moved_cut_gone(store):
    b = trial(store, rect(200, 120, [(60, 60, 20)])).outline({}).move("hole 1/0")
    return contour(b, "hole 1", omit=True)


def overlapping(s):
    b = TrialJob(s, (PLATE, [(100, 100), (350, 100)]))
    nest = b.setup.nest
    moved = tuple(q.model_copy(update={"x": 150.0}) if q.copy_no else q for q in nest.pieces)
    from venzo.core.edits import AcceptNest

    b.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=moved, inputs="by hand")))
    return b


def on_a_board(store, **board):
    """A sheet on the large vacuum table over a fixture board."""
    b = TrialJob(store, (rect(80, 60), [(60, 60)]), machine="long-bed", screwed=False, at=(60.0, 0.0))
    return b.fix(FixtureBoard(id="f", **board))


def on_slats(store):
    """A small piece on a kerf table whose bars lie far apart."""
    return TrialJob(
        store,
        (rect(40, 30), [(20, 20)]),
        machine="slat-table",
        material="mild-steel",
        thick=2.0,
        screwed=False,
        at=(0.0, 0.0),
    )


def board_over_a_dead_zone(store):
    """A fixture board whose zone is off."""
    b = on_a_board(store, x=300, y=200, width=600, height=400)
    b.do(SetSetup(setup="main", zones_on=()))
    return b


def made(store, recipe):
    """A job whose boards are made here and not nested yet."""
    b = TrialJob(store)
    drawings.make_parts(store, b.job, store.head(b.job), "main", recipe)
    return b


def stop_at_a_hole_left_out(store):
    """A stop for the operator before a hole that is not cut any more."""
    b = TrialJob(store, (rect(200, 120, ((60, 60, 20),)), [(60, 60)]))
    cut = next(c.name for c in b.sheet.cuts if c.cut.contour.startswith("hole"))
    b.do(ChangeStops(setup="main", add=[OperatorStop(id="s", sheet="own", before=cut, words="turn it")]))
    b.do(SetContour(part=b.part(), contour=cut.split("/")[1], omit=True))
    return b


PLANS = {
    "holding.board": ("stop", board_over_a_dead_zone),
    "holding.overhang": ("look", lambda s: on_a_board(s, x=150, y=130, width=220, height=220)),
    "joint.thickness": ("stop", lambda s: made(s, BoxSet(front=12, side=12, cutter=8))),
    "joint.cutter": ("stop", lambda s: made(s, BoxSet(front=17.6, side=17.6, cutter=6))),
    "joint.overlap": ("stop", lambda s: made(s, BoxSet(front=17.6, side=17.6, relief="none", cutter=8))),
    "kerf.tips": ("look", on_slats),
    "order.stop": ("stop", stop_at_a_hole_left_out),
    "carve.edge": (
        "look",
        lambda s: steps(
            trial(s, on("ENGRAVE", lambda m, a: m.add_circle((195, 60), 12, dxfattribs=a))),
            "engravings",
            CARVE,
        ),
    ),
    "carve.floor-depth": (
        "note",
        lambda s: steps(trial(s, CARVED), "engravings", CARVE.model_copy(update={"clear": "up-4"})),
    ),
    "carve.refused": (
        "stop",
        lambda s: steps(trial(s, CARVED), "engravings", CARVE.model_copy(update={"below": 12.0})),
    ),
    "carve.under": (
        "look",
        lambda s: steps(
            trial(
                s,
                dxf(
                    lambda m: (
                        m.doc.layers.add("ENGRAVE"),
                        m.doc.layers.add("POCKET 3mm"),
                        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True),
                        m.add_circle((100, 60), 12, dxfattribs={"layer": "ENGRAVE"}),
                        m.add_circle((105, 60), 14, dxfattribs={"layer": "POCKET 3mm"}),
                    )
                ),
            ),
            "engravings",
            CARVE,
        ),
    ),
    "choice.unmatched": (
        "stop",
        lambda s: contour(trial(s, rect(200, 120, [(60, 60, 20)])), "hole 7", omit=True),
    ),
    "cuts.absurd": ("stop", lambda s: trial(s).outline({"step_down": 0.01})),
    "cuts.below": (
        "look",
        lambda s: steps(trial(s, GROOVE(6)), "grooves", Groove(id="g", cutter="up-6", depth=21.0)),
    ),
    "cuts.carve-mixed": (
        "stop",
        lambda s: steps(
            trial(s, CARVED), "engravings", CARVE, Groove(id="g", on="engravings", cutter="vee-60")
        ),
    ),
    "cuts.chamfer": (
        "stop",
        lambda s: steps(
            trial(s),
            "outlines",
            Chamfer(id="c", cutter="comp-8"),
            Profile(id="p", on="outlines", cutter="comp-8"),
        ),
    ),
    "cuts.compression": ("look", lambda s: trial(s).outline({"step_down": 5.0})),
    "cuts.core": (
        "look",
        lambda s: steps(
            trial(s, DRILLED(5, "6mm")), "drillings", Bore(id="b", on="drillings", cutter="up-4")
        ),
    ),
    "cuts.deep-pocket": ("stop", lambda s: trial(s, POCKET(20))),
    "cuts.drill-size": ("stop", lambda s: trial(s, DRILLED(30))),
    "cuts.fold": (
        "stop",
        lambda s: steps(
            trial(s, GROOVE(6)), "grooves", Groove(id="g", cutter="vee-60", skin=1.0, fold=120.0)
        ),
    ),
    "cuts.groove-width": (
        "stop",
        lambda s: steps(
            trial(s, CARVED), "engravings", Groove(id="g", on="engravings", cutter="up-4", width=12.0)
        ),
    ),
    "cuts.kind": ("stop", lambda s: trial(s).outline({"cutter": "drill-5"})),
    "cuts.lip": ("look", lambda s: trial(s).outline({"cutter": "ball-6"})),
    "cuts.neck": (
        "look",
        lambda s: steps(trial(s, holed(DUMBBELL)), "holes", Profile(id="h", on="holes", cutter="comp-8")),
    ),
    "cuts.no-cutter": ("stop", lambda s: _gone(contour(trial(s), "outline", cutter="vee-90"), "vee-90")),
    "cuts.no-depth": (
        "stop",
        lambda s: trial(s, on("POCKET", lambda m, a: m.add_circle((100, 60), 20, dxfattribs=a))),
    ),
    "cuts.no-feeds": (
        "stop",
        lambda s: contour(more_cutters(trial(s), "single-5"), "outline", cutter="single-5"),
    ),
    "cuts.no-operation": ("stop", lambda s: steps(trial(s, POCKET(6)), "pockets")),
    "cuts.closed-line": ("stop", lambda s: trial(s, RINGED)),
    "cuts.not-cut": (
        "stop",
        lambda s: steps(
            rules(trial(s, RINGED), closed_grooves="clear"), "grooves", Groove(id="g", cutter="up-4")
        ),
    ),
    "cuts.not-opened": (
        "note",
        lambda s: TrialJob(s, (ring(NOTCHED), [(100, 100)])).outline(
            {"side_allowance": 0.5}, {"cutter": "up-4"}
        ),
    ),
    "cuts.not-round": (
        "stop",
        lambda s: trial(
            s,
            on(
                "DRILL",
                lambda m, a: m.add_lwpolyline(
                    [(90, 50), (110, 50), (110, 70), (90, 70)], close=True, dxfattribs=a
                ),
            ),
        ),
    ),
    "cuts.not-through": ("stop", lambda s: trial(s).outline({"depth": 10.0})),
    "cuts.open-line": (
        "stop",
        lambda s: steps(trial(s, GROOVE(6)), "grooves", Pocket(id="p", on="grooves", cutter="up-6")),
    ),
    "cuts.overshoot": ("look", lambda s: trial(s).outline({"overshoot": 6.0})),
    "cuts.packing": ("note", lambda s: trial(s).outline({"cutter": "down-6", "step_down": 18.0})),
    "cuts.plunge": (
        "look",
        lambda s: cutters(
            steps(trial(s, POCKET(6)), "pockets", Pocket(id="p", cutter="up-6", entry="plunge")),
            up_6={"centre_cutting": False},
        ),
    ),
    "cuts.pocket-through": (
        "stop",
        lambda s: steps(
            trial(s, rect(200, 120, [(60, 60, 20)])),
            "round holes",
            Pocket(id="p", on="round holes", cutter="up-6"),
        ),
    ),
    "cuts.rest": (
        "note",
        lambda s: steps(trial(s, POCKET(6)), "pockets", Pocket(id="p", cutter="up-6", rest=True)),
    ),
    "cuts.rpm": ("stop", lambda s: trial(s).outline({"rpm": 30_000.0})),
    "cuts.skin": ("stop", lambda s: trial(s).outline({"floor_allowance": 20.0})),
    "cuts.skin-left": ("note", lambda s: trial(s).outline({"floor_allowance": 0.8})),
    "cuts.smaller": (
        "note",
        lambda s: steps(
            trial(s, rect(200, 120, [(60, 60, 3)])), "holes", Profile(id="h", on="holes", cutter="down-6")
        ),
    ),
    "cuts.step-down": ("look", lambda s: trial(s).outline({"step_down": 40.0})),
    "cuts.stick-out": ("stop", lambda s: cutters(trial(s).outline({}), comp_8={"stick_out": 15.0})),
    "cuts.thin-floor": ("look", lambda s: trial(s, POCKET(17.5))),
    "cuts.too-deep": ("stop", lambda s: cutters(trial(s).outline({}), comp_8={"cutting_length": 12.0})),
    "cuts.too-small": (
        "stop",
        lambda s: contour(trial(s, rect(200, 120, [(60, 60, 3)])), "hole 1", cutter="comp-8"),
    ),
    "cuts.unreached": ("look", lambda s: TrialJob(s, (ring(NOTCHED), [(100, 100)])).outline({})),
    "cutters.number": ("stop", lambda s: cutters(trial(s), up_4={"number": 1})),
    "cutters.slot": ("stop", lambda s: machine(trial(s).outline({"cutter": "up-6"}), slots=3)),
    "feeds.worn": ("look", lambda s: cutters(trial(s).outline({"cutter": "up-6"}), up_6={"metres": 950.0})),
    "feeds.plunge": ("look", lambda s: trial(s).outline({"plunge": 12_000.0})),
    "holding.clamp-hit": ("stop", lambda s: trial(s).fix(Clamp(id="c", x=100, y=160, proud=15.0))),
    "holding.rapid-hit": (
        "stop",
        lambda s: trial(s, rect(200, 120, [(50, 60, 12), (150, 60, 12)])).fix(
            Clamp(id="c", x=200, y=160, proud=19.0, width=6.0, height=6.0)
        ),
    ),
    "holding.screw-hit": ("stop", lambda s: trial(s).screw((100, 160))),
    "holding.screw-off": (
        "stop",
        lambda s: trial(s).screw((12, 12), (588, 12), (588, 388), (12, 388), (640, 200)),
    ),
    "holding.sheet": ("stop", lambda s: trial(s, screwed=False)),
    "holding.sheet-thin": (
        "look",
        lambda s: _until(
            "holding.sheet-thin",
            lambda k: held(
                TrialJob(s, (PLATE, [(60, 100), (330, 100)])), screw_shear=float(k), screw_pull=float(k)
            ),
            range(20, 400, 10),
        ),
    ),
    "holding.sheet-weak": (
        "stop",
        lambda s: held(TrialJob(s, (PLATE, [(60, 100), (330, 100)])), screw_shear=10.0),
    ),
    "holding.single-tab": ("stop", lambda s: contour(trial(s), "outline", tab_count=1)),
    "holding.none": ("stop", lambda s: contour(trial(s), "outline", tab_count=0)),
    "holding.skin-unmeasured": (
        "look",
        lambda s: stock(trial(s).outline({"floor_allowance": 0.8}), readings=()),
    ),
    "holding.skin-spread": (
        "stop",
        lambda s: stock(trial(s).outline({"floor_allowance": 0.8}), readings=(16.6, 18.6)),
    ),
    "holding.tab-height": ("stop", lambda s: trial(s).outline({"tabs": {"count": 4, "height": 30.0}})),
    "holding.tab-corner": (
        "look",
        lambda s: contour(trial(s), "outline", tabs=((0.0, 0.0), (100.0, 0.0), (100.0, 120.0))),
    ),
    "holding.tab-room": ("look", lambda s: contour(trial(s), "outline", tab_count=40)),
    "holding.tabs-none": ("look", lambda s: contour(trial(s), "outline", tabs=())),
    "holding.tabs-cut": (
        "stop",
        lambda s: _until(
            "holding.tabs-cut",
            lambda k: TrialJob(
                s,
                (rect(k, k), [(100 + i * (k + 8.2), 60 + j * (k + 8.2)) for i in range(3) for j in range(3)]),
            ),
            [40, 50, 60, 70],
        ),
    ),
    "holding.thin": (
        "look",
        lambda s: _until(
            "holding.thin",
            lambda k: held(trial(s), tab_strength={"wood": k}),
            [1.0 + 0.25 * n for n in range(20)],
        ),
    ),
    "holding.open": (
        "note",
        lambda s: machine(
            trial(s, machine="long-bed", sheet=(700, 500), at=(60.0, 0.0), screwed=False).zones("1"),
            spoilboard=_board(18.0, 12.0),
        ),
    ),
    "nest.out-of-date": ("look", lambda s: rules(trial(s), web=4.0)),
    "nest.fault": ("stop", overlapping),
    "nest.none": ("stop", lambda s: _bare(trial(s))),
    "nest.zones-off": (
        "note",
        lambda s: trial(s, machine="long-bed", sheet=(1400, 500), screwed=False).zones("1"),
    ),
    "nest.zones-many": (
        "note",
        lambda s: trial(s, machine="long-bed", sheet=(700, 500), at=(400.0, 0.0), screwed=False),
    ),
    "nest.spacing": ("look", lambda s: rules(trial(s), web=300.0)),
    "nest.impossible": ("stop", lambda s: stock(trial(s), quantity=0)),
    "order.by-hand": ("look", moved_cut_gone),
    "parts.alteration": ("stop", altered_away),
    "parts.fillet": ("look", lambda s: trial(s, FILLETED)),
    "parts.slot": ("look", slotted),
    "parts.corner": (
        "note",
        lambda s: TrialJob(
            s, (ring([(0, 0), (200, 0), (200, 60), (80, 60), (80, 120), (0, 120)]), [(100, 100)])
        ),
    ),
    "parts.small": ("note", lambda s: trial(s, rect(50, 30))),
    "parts.web": ("look", lambda s: trial(s, rect(200, 120, [(60, 60, 20), (101, 60, 20)]))),
    "parts.sliver": ("look", lambda s: trial(s, rect(200, 0.9))),
    "holding.thin-end": ("look", lambda s: thinned(s)),
    "index.reach": ("stop", lambda s: along(s, (600.0,))),
    "index.overlap": ("look", lambda s: along(s, (1295.0,))),
    "index.lengths": ("look", lambda s: along(s, (300.0, 600.0), BOARD, 500)),
    "index.pins": ("stop", lambda s: pinned(s, ("p1", 60, 20))),
    "index.pin-place": ("stop", lambda s: pinned(s, ("p1", 60, 120), ("p2", 420, 120))),
    "index.pin-length": ("stop", lambda s: pinned(s, ("p1", 60, 20), ("p2", 420, 20), length=60.0)),
    "index.pin-cutter": ("stop", lambda s: pinned(s, ("p1", 60, 20), ("p2", 420, 20), less=5.0)),
    "index.mark": ("stop", lambda s: marked_too_far(s)),
    "turn.back": ("stop", lambda s: backed(s)),
    "turn.dowels": ("stop", lambda s: turned(s, alike)),
    "turn.dowel-place": ("stop", lambda s: turned(s, through_a_piece)),
    "turn.length": ("stop", lambda s: turned(s, too_long)),
    "turn.halves": ("look", lambda s: halved(s, 0.05)),
    "turn.web": ("note", lambda s: halved(s, -1.0)),
    "turn.zero": ("look", lambda s: zeroed_on_top(s)),
    "turn.hollow": ("look", lambda s: over_a_hollow(s)),
    "turn.nothing-rough": ("stop", lambda s: roughed(s, 0.0)),
    "turn.pins-once": ("stop", lambda s: pins_after_the_turn(roughed(s, 0.5))),
    "turn.allowance": ("look", lambda s: roughed(s, 0.05)),
    "relief.flat-spots": ("look", lambda s: stock(domed(s), readings=(17.4, 17.9, 17.6))),
    "relief.not-followed": ("look", lambda s: domed(s, LETTERED)),
    "stock.overshoot": ("look", lambda s: stock(trial(s), readings=(17.0, 18.8, 17.6))),
    "stock.reading": ("stop", lambda s: stock(trial(s), readings=(17.6, 1.76, 17.5, 17.7))),
    "stock.spread": ("look", lambda s: stock(trial(s), readings=(17.4, 17.9, 17.6))),
    "stock.unmeasured": ("look", lambda s: stock(trial(s), readings=())),
    "stock.far-from-nominal": ("look", lambda s: stock(trial(s), nominal=20.0)),
    "zero.off-sheet": ("stop", lambda s: sawn_at_zero(trial(s))),
    "table.clearance": ("stop", lambda s: trial(s).fix(Clamp(id="c", x=40, y=40, proud=25.0))),
    "table.heights": ("look", lambda s: machine(trial(s), retract=0.5)),
    "table.outside": ("stop", lambda s: TrialJob(s, (PLATE, [(3, 100)]))),
    "table.spoilboard": ("stop", lambda s: machine(trial(s), spoilboard=_board(1.5))),
    "table.too-small": ("stop", lambda s: stock(trial(s), width=2000.0)),
    "table.across": ("look", lambda s: stock(trial(s), width=500.0, height=800.0)),
    "table.dead-area": ("stop", lambda s: machine(trial(s), dead_areas=((0, 0, 120, 900),))),
}


BACKED = dxf(
    lambda m: (
        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True),
        m.doc.layers.add("BACK pocket 5"),
        m.add_lwpolyline(
            [(30, 30), (90, 30), (90, 80), (30, 80)], close=True, dxfattribs={"layer": "BACK pocket 5"}
        ),
    )
)
"""A plate with a pocket in its back."""


LONG_BOARD = rect(1900, 120, [(60, 60, 10)])
BOARD = rect(1150, 120)


def along(store, moved, board=LONG_BOARD, x=50, **fields):
    """A board on a sheet longer than the small bench, moved along it."""
    b = TrialJob(store, (board, [(x, 60)]), sheet=(2000, 300), screwed=False)
    b.do(IndexStock(setup="main", indexing=Indexing(moved=moved, **fields)))
    return more_cutters(b, "up-4")


def pinned(store, *pins, less=0.0, length=25.0):
    """On pins of 8 and 10 mm, or so much less."""
    named = [
        Dowel(id=i, x=x, y=y, diameter=8.0 + 2 * k - less, length=length) for k, (i, x, y) in enumerate(pins)
    ]
    return along(store, (760.0,), brought=IndexPins(pins=tuple(named)))


def marked_too_far(store):
    return along(store, (760.0,), brought=FenceMark(at=1800.0))


def backed(store):
    return more_cutters(trial(store, BACKED), "up-4")


def turned(store, dowels):
    """The plate turned over about X, a sheet of 600 x 400 mm, with dowels of a kind."""
    b = backed(store)
    b.do(TurnOver(setup="main", axis="x", registration=dowels))
    b.up = "main-back"
    return b


def two_dowels(*places):
    named = [Dowel(id=f"d{k}", x=x, y=y, diameter=d) for k, (x, y, d) in enumerate(places, 1)]
    return Dowels(dowels=tuple(named))


alike = two_dowels((20, 200, 8), (580, 200, 8))
too_long = Dowels(
    dowels=tuple(Dowel(id=f"d{d}", x=x, y=200, diameter=d, length=40.0) for x, d in ((20, 6), (580, 8)))
)
through_a_piece = two_dowels((200, 200, 6), (580, 200, 8))


def halved(store, overlap):
    b = turned(store, two_dowels((20, 200, 6), (580, 200, 8)))
    b.do(ChangeTurn(setup="main-back", fields={"outlines": "half", "overlap": overlap}))
    return b


def zeroed_on_top(store):
    b = turned(store, two_dowels((20, 200, 6), (580, 200, 8)))
    b.do(SetSetup(setup="main-back", z_zero="top"))
    return b


def roughed(store, allowance):
    """Pockets in both faces that are roughed with an allowance, if there is any, and then finished."""
    b = TrialJob(store, (POCKET(5), [(200, 100)]))
    b.do(TurnOver(setup="main", axis="x", registration=two_dowels((20, 200, 6), (580, 200, 8))))
    for at in ("main", "main-back") if allowance else ():
        fine = next(o for o in b.plan.setup(at).operations if o.on == "pockets")
        rough = fine.model_copy(
            update={"id": "rough", "side_allowance": allowance, "floor_allowance": allowance}
        )
        b.do(SetSteps(setup=at, on="pockets", steps=(rough, fine)))
    b.do(OrderFaces(setup="main-back", rough_both_first=True))
    b.up = "main-again"
    return b


def over_a_hollow(store):
    """A pocket in the back over one in the front, with little left between."""

    def draw(m):
        m.add_lwpolyline([(0, 0), (200, 0), (200, 120), (0, 120)], close=True)
        for layer, (x, y, w, h) in (("POCKET 9.5", (30, 15, 140, 90)), ("BACK pocket 6", (50, 30, 90, 60))):
            m.doc.layers.add(layer)
            ring = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
            m.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})

    b = TrialJob(store, (dxf(draw), [(200, 100)]))
    b.do(TurnOver(setup="main", axis="x", registration=two_dowels((20, 200, 6), (580, 200, 8))))
    b.up = "main-back"
    return b


def pins_after_the_turn(b):
    b.do(ChangeTurn(setup="main-back", fields={"registration": {"sets": "second"}}))
    return b


LETTERED = dxf(
    lambda m: (
        m.add_lwpolyline([(0, 0), (120, 0), (120, 80), (0, 80)], close=True),
        m.doc.layers.add("ENGRAVE 1mm"),
        m.add_lwpolyline([(30, 40), (90, 44)], dxfattribs={"layer": "ENGRAVE 1mm"}),
    )
)


def domed(store, drawing=None):
    """A plate with a dome made on it, roughed and finished by house rule, maybe with a line over it."""
    b = TrialJob(store, (drawing or rect(120, 80), [(100, 100)]))
    number = store.get(b.job).number
    models.make_surface(store, b.job, number, MakeSurface(part=b.part()))
    line = Groove(id="e", on="engravings", cutter="vee-60", depth=1.0)
    b.do(SetSteps(setup="main", on="engravings", steps=(line,)))
    add = next(s for s in b.derived.snags if s.rule == "cuts.no-operation")
    b.do(read_command(add.remedies[0].command))
    return b


def thinned(store):
    """A slat that a ramp makes thin at one end, tabs at the other only."""
    b = TrialJob(store, (rect(360, 40), [(100, 100)]))
    number = store.get(b.job).number
    models.make_surface(store, b.job, number, MakeSurface(part=b.part(), form="ramp"))
    slope = {"field": {"inset": 0.0}, "forms": {"0": {"low": 0.0, "high": 14.0}}}
    ask = ChangeModel(part=b.part(), number=0, fields=slope)
    models.change_model(store, b.job, store.get(b.job).number, ask)
    add = next(s for s in b.derived.snags if s.rule == "cuts.no-operation")
    b.do(read_command(add.remedies[0].command))
    b.tabs((350.0, 0.0), (350.0, 40.0), (330.0, 0.0), (330.0, 40.0))
    return b


def sawn_at_zero(b):
    """The upper right corner is sawn off, and the zero is there."""
    b = stock(b, outline=((0, 0), (600, 0), (600, 300), (500, 400), (0, 400)))
    b.do(SetSetup(setup="main", datum=CornerZero(corner="upper right")))
    return b


def _board(thickness, leak=3.0):
    from venzo.core.holding.vacuum import Spoilboard

    return Spoilboard(thickness=thickness, leak=leak)


def _gone(b, cutter):
    b.do(SetSetup(setup="main", cutters=tuple(c for c in b.setup.cutters if c.id != cutter)))
    return b


def _bare(b):
    from venzo.core.edits import AcceptNest

    b.do(AcceptNest(setup="main", nest=AcceptedNest(pieces=(), inputs="none")))
    return b


def _until(rule, make, values):
    """The first of several benches at which a rule speaks."""
    for v in values:
        b = make(v)
        if b.said(rule):
            return b
    return b


@pytest.mark.parametrize("rule", PLANS)
def test_a_planted_fault_is_said_by_its_rule_and_its_remedies_mend_it(store, rule):
    severity, make = PLANS[rule]
    b = make(store)
    found = b.said(rule)
    assert found, f"{rule} says nothing; said were {sorted({s.rule for s in b.derived.snags})}"
    assert severity in {s.severity for s in found} and all(len(s.message) > 20 for s in found)
    offers_mend(b, rule)


def test_bad_remedies_are_not_offered(store):
    """Remedies that made it worse: screws into parts and cuts, a skeleton that no nest was made for."""
    b = TrialJob(store, (rect(582, 382), [(9, 9)]), screwed=False)
    offered, _all = remedies.offered(store, b.plan, jobs.derive(store, b.plan), 60.0)
    (snag,) = [s for s in offered["main"] if s.rule == "holding.sheet"]
    assert not snag.remedies, (
        "no waste is wide enough for a screw: nothing is offered rather than screws in the parts"
    )
    two = TrialJob(store, (rect(60, 60), [(100, 100), (168.5, 100)]))
    offered, _all = remedies.offered(store, two.plan, jobs.derive(store, two.plan), 60.0)
    assert not [r.label for s in offered["main"] for r in s.remedies if "skeleton" in r.label], (
        "the layout would have to be made anew first"
    )


RULE = re.compile(r"[a-z]+\.[a-z-]+")
NEVER_LAID = {"holding.loose-drop", "holding.loose-scrap"}
"""The order of cuts keeps clear of both; they are planted by hand in the other table. Snags of intake offer
to read the file in another way.
"""
ELSEWHERE = {"jobs.id"}
"""Looks like a rule's id and is none: a foreign key."""


def test_every_rule_that_offers_something_is_tried():
    """What a rule offers is applied in one of the two tables; those left over read, search or are met by no
    plan that can be laid.
    """
    root = Path(__file__).parents[2] / "venzo"
    offers = set()
    for path in root.rglob("*.py"):
        for n in ast.walk(ast.parse(path.read_text())):
            says = (
                isinstance(n, ast.Call)
                and n.args
                and isinstance(n.args[0], ast.Constant)
                and RULE.fullmatch(str(n.args[0].value))
            )
            if says and (len(n.args) > 3 or any(isinstance(a, ast.Starred) for a in n.args)):
                offers.add(n.args[0].value)
    tried = set(PLANS) | {rule for _make, rule, _severity, _label in MISTAKES.values()}
    assert {r for r in offers - tried if not r.startswith("intake.")} == NEVER_LAID and len(offers) > 50


def test_every_rule_is_met_by_a_test():
    root = Path(__file__).parents[2]
    ids = set()
    for path in (root / "venzo").rglob("*.py"):
        for n in ast.walk(ast.parse(path.read_text())):
            if (
                isinstance(n, ast.Call)
                and n.args
                and isinstance(n.args[0], ast.Constant)
                and isinstance(n.args[0].value, str)
                and RULE.fullmatch(n.args[0].value)
            ):
                ids.add(n.args[0].value)
    ids = {
        i
        for i in ids
        if i.split(".")[0]
        in {
            "carve",
            "choice",
            "cuts",
            "cutters",
            "feeds",
            "flat",
            "holding",
            "intake",
            "ledger",
            "nest",
            "order",
            "parts",
            "proof",
            "stock",
            "surface",
            "table",
        }
    }
    tests = "".join(p.read_text() for p in (root / "tests").rglob("*.py"))
    missing = sorted(i for i in ids - ELSEWHERE if f'"{i}"' not in tests)
    assert not missing, f"rules that no test meets: {missing}"
    assert len(ids) > 150
