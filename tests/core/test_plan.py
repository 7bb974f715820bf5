"""The plan: hand choices survive what happens upstream, layouts know their state, commands rebase or
conflict.
"""

import pytest
from shapely.geometry import Polygon, box

from tests.conftest import dxf, panel
from venzo.core.edits import (
    AcceptNest,
    AddDrawing,
    ForgetLayout,
    KeepLayout,
    LockPieces,
    MovePiece,
    SetContour,
    SetOperation,
    SetPart,
    SetQuantity,
    SetScrews,
    SetSetup,
    SetStock,
    SwapPieces,
    UseLayout,
    read_command,
)
from venzo.core.holding.screws import Screw
from venzo.core.nesting.engine import Search
from venzo.core.nesting.layout import accepted, nest_problem
from venzo.core.release.programs import Stamp
from venzo.core.snags import BadInput
from venzo.core.stock.sheet import Flaw
from venzo.demo.seed import nest_job
from venzo.desk import drawings, jobs, releases
from venzo.desk.jobs import programs
from venzo.desk.yields import kept_of
from venzo.formats.setup_sheet import setup_sheet
from venzo.store.store import Conflict


def rules(d):
    return {(s.severity, s.rule) for s in d.snags}


class TrialJob:
    """A job with one panel, nested, and short words for what a person does to it."""

    def __init__(self, store):
        self.store = store
        self.job = jobs.new_job(store, "bench", "long-bed", "birch-ply").plan.id
        self.take(panel(300, 200, ((60, 60, 20), (240, 140, 8))))
        self.part = self.plan.parts[0].id
        self.do(SetQuantity(part=self.part, order="order-1", quantity=3))
        nest_job(store, self.job, "main", 1)

    @property
    def plan(self):
        return self.store.get(self.job).plan

    @property
    def setup(self):
        return self.plan.setups[0]

    @property
    def derived(self):
        return jobs.derive(self.store, self.plan)["main"]

    def do(self, command):
        return self.store.apply(self.job, self.store.get(self.job).number, command)

    def take(self, data, name="panel.dxf"):
        return drawings.take_drawing(
            self.store, self.job, self.store.get(self.job).number, "main", name, data
        )

    def tabs(self):
        return self.derived.cuts["ply-2440"][self.part, False].contours[-1].tabs


@pytest.fixture
def trial(store):
    return TrialJob(store)


CORNERS = SetScrews(
    setup="main", screws=tuple(Screw(id=f"s{x}{y}", x=x, y=y) for x in (8, 2432) for y in (8, 1212))
)
MOVED = ((40.0, 0.0), (300.0, 90.0), (150.0, 200.0))


def test_hand_choices_survive_a_revised_drawing_a_thickness_and_a_cutter(trial):
    trial.do(SetContour(part=trial.part, contour="outline", tabs=MOVED))
    trial.do(SetContour(part=trial.part, contour="hole 2", cutter="up-4"))
    q = trial.setup.nest.pieces[0]
    trial.do(
        MovePiece(
            setup="main", part=q.part, copy_no=q.copy_no, x=q.x + 700, y=q.y + 500, sheet=q.sheet, locked=True
        )
    )
    spot = trial.setup.nest.pieces[0]

    trial.take(
        panel(304, 200, ((60, 60, 20), (243, 140, 8)), x=55, y=-20)
    )  # longer, a hole moved, drawn elsewhere
    trial.do(SetStock(setup="main", stock=trial.setup.stock[0].model_copy(update={"readings": (18.4, 18.5)})))
    trial.do(
        SetOperation(
            setup="main", operation=trial.setup.operation("outlines").model_copy(update={"cutter": "down-6"})
        )
    )

    assert trial.plan.parts[0].id == trial.part and trial.plan.parts[0].quantity == 3, (
        "the same part, with its quantity"
    )
    assert len(trial.tabs()) == 3 and trial.tabs()[0] == pytest.approx((40, 0), abs=0.01)
    plans = {c.contour: c for c in trial.derived.cuts["ply-2440"][trial.part, False].contours}
    assert plans["hole 2"].cutter == "up-4" and plans["outline"].tabs_by_hand
    assert trial.setup.nest.pieces[0] == spot and trial.derived.layout.state in ("out of date", "at fault")
    search = Search(nest_problem(trial.plan, trial.setup, trial.store.shapes), 2)
    search.step()
    trial.do(AcceptNest(setup="main", nest=accepted(search.best, search.problem, "t")))
    assert spot in trial.setup.nest.pieces and trial.derived.layout.state == "fits"


def test_a_choice_that_finds_no_place_is_a_stop_with_remedies(trial):
    trial.do(SetContour(part=trial.part, contour="outline", tabs=((150.0, 200.0), (40.0, 0.0))))
    trial.do(SetContour(part=trial.part, contour="hole 2", cutter="up-4"))
    gabled = dxf(
        lambda m: [
            m.add_lwpolyline([(0, 0), (300, 0), (300, 160), (150, 120), (0, 160)], close=True),
            m.add_circle((60, 60), 20),
        ]
    )
    trial.take(gabled)  # the upper edge came down and has a valley, a hole is gone
    stops = [s for s in trial.derived.snags if s.rule == "choice.unmatched"]
    assert len(stops) == 2 and all(s.severity == "stop" and s.remedies for s in stops)
    assert trial.plan.choice(trial.part, "outline").tabs[0] == (150.0, 200.0), "nothing vanishes by itself"
    for s in stops:
        trial.do(read_command(s.remedies[0].command))
    assert not [s for s in trial.derived.snags if s.rule == "choice.unmatched"]


def test_a_new_hole_never_inherits_the_choice_of_a_lost_one(trial):
    trial.do(SetContour(part=trial.part, contour="hole 2", omit=True))
    trial.take(panel(300, 200, ((60, 60, 20), (150, 40, 11))))
    assert "hole 2" not in trial.store.shapes[trial.plan.parts[0].shape].names
    assert ("stop", "choice.unmatched") in rules(trial.derived)


def test_a_part_that_vanishes_from_the_drawing_is_a_stop_and_comes_back(trial):
    two = dxf(
        lambda m: (
            m.add_lwpolyline([(0, 0), (300, 0), (300, 200), (0, 200)], close=True),
            m.add_lwpolyline([(400, 0), (500, 0), (450, 90)], close=True),
        )
    )
    trial.take(two)
    assert len(trial.plan.parts) == 2
    trial.take(panel(300, 200, ()))
    assert [p.missing for p in trial.plan.parts] == [False, True] and ("stop", "parts.missing") in rules(
        trial.derived
    )
    trial.take(two)
    assert not any(p.missing for p in trial.plan.parts)


def test_a_layout_is_fits_out_of_date_or_at_fault(trial):
    assert trial.derived.layout.state == "fits"
    trial.do(SetSetup(setup="main", rules=trial.setup.rules.model_copy(update={"web": 1.0})))
    assert trial.derived.layout.state == "out of date" and ("look", "nest.out-of-date") in rules(
        trial.derived
    )
    trial.do(SetSetup(setup="main", rules=trial.setup.rules.model_copy(update={"web": 60.0})))
    assert trial.derived.layout.state == "at fault" and ("stop", "nest.fault") in rules(trial.derived)
    trial.do(SetSetup(setup="main", rules=trial.setup.rules.model_copy(update={"web": 2.0})))
    trial.do(SetQuantity(part=trial.part, order="order-1", quantity=5))
    assert trial.derived.layout.unplaced == {trial.part: 2} and ("stop", "nest.unplaced") in rules(
        trial.derived
    )
    trial.do(SetQuantity(part=trial.part, order="order-1", quantity=3))
    assert trial.derived.layout.state == "fits"


def test_layouts_are_kept_and_pieces_swapped_and_locked(trial):
    before = {q.id: q for q in trial.setup.nest.pieces}
    a, b = f"{trial.part}#1", f"{trial.part}#2"
    trial.do(KeepLayout(setup="main", id="first", name="first"))
    with pytest.raises(BadInput, match="kept as 'first' already"):
        trial.do(KeepLayout(setup="main", id="first", name="again"))
    trial.do(SwapPieces(setup="main", part=trial.part, copy_no=0, other_part=trial.part, other_copy_no=1))
    after = {q.id: q for q in trial.setup.nest.pieces}
    assert (after[a].x, after[a].y) == (before[b].x, before[b].y) and trial.derived.layout.state == "fits"
    trial.do(LockPieces(setup="main", sheet="ply-2440"))
    assert all(q.locked for q in trial.setup.nest.pieces)
    with pytest.raises(BadInput, match="locked piece stays"):
        trial.do(SwapPieces(setup="main", part=trial.part, copy_no=0, other_part=trial.part, other_copy_no=1))
    trial.do(UseLayout(setup="main", id="first"))
    assert {q.id: q for q in trial.setup.nest.pieces} == before
    trial.do(ForgetLayout(setup="main", id="first"))
    with pytest.raises(BadInput, match="no layout is kept"):
        trial.do(UseLayout(setup="main", id="first"))


def test_a_fill_part_left_over_is_no_stop(trial):
    trial.do(SetPart(part=trial.part, fill=True))
    trial.do(SetQuantity(part=trial.part, order="order-1", quantity=9))
    assert (
        trial.derived.layout.state in ("fits", "out of date")
        and ("note", "nest.unplaced") in rules(trial.derived)
        and ("stop", "nest.unplaced") not in rules(trial.derived)
    )


def test_sheets_with_the_same_cuts_share_one_program(trial):
    pieces = [
        q.model_copy(
            update={"sheet_copy": q.copy_no, "x": 60.0, "y": 60.0, "rotation": 0.0, "mirrored": False}
        )
        for q in trial.setup.nest.pieces
    ]
    trial.do(
        SetStock(setup="main", stock=trial.setup.stock_of("ply-2440").model_copy(update={"quantity": 3}))
    )
    trial.do(AcceptNest(setup="main", nest=trial.setup.nest.model_copy(update={"pieces": tuple(pieces)})))
    files = programs(trial.plan, trial.derived)
    assert len(trial.derived.sheets) == 3 and len(files) == 1 and files[0].copies == (0, 1, 2)
    assert "s1x3_" in files[0].name and "cut 3 times" in files[0].text
    trial.do(
        MovePiece(setup="main", part=trial.part, copy_no=1, x=61.0, y=60.0, sheet="ply-2440", sheet_copy=1)
    )
    assert sorted(f.copies for f in programs(trial.plan, trial.derived)) == [(0, 2), (1,)]


@pytest.mark.parametrize(
    ("outline", "words"),
    [
        (((0, 0), (900, 0)), "at least three corners"),
        (((0, 0), (900, 0), (0, 500), (900, 500)), "must not cross"),
        (((0, 0), (2600, 0), (0, 500)), "160.0 mm outside"),
        (((0, 0), (30, 0), (0, 15)), "leaves nothing inside"),
    ],
)
def test_a_wrong_outline_of_a_remnant_is_refused_with_its_number(trial, outline, words):
    stock = trial.setup.stock_of("ply-2440")
    with pytest.raises(BadInput, match=words):
        trial.do(SetStock(setup="main", stock=stock.model_copy(update={"outline": outline})))


def test_edits_of_different_things_rebase_and_of_the_same_thing_conflict(trial):
    base = trial.store.get(trial.job).number
    trial.do(SetQuantity(part=trial.part, order="order-1", quantity=2))
    trial.store.apply(trial.job, base, SetSetup(setup="main", z_zero="bed"))
    assert trial.plan.parts[0].quantity == 2 and trial.setup.z_zero == "bed"
    with pytest.raises(Conflict) as e:
        trial.store.apply(trial.job, base, SetQuantity(part=trial.part, order="order-1", quantity=9))
    assert e.value.mine == "panel: 9 wanted" and e.value.theirs == ["panel: 2 wanted"]
    base = trial.store.get(trial.job).number
    nest_job(trial.store, trial.job, "main", 1)
    with pytest.raises(Conflict):  # a drag made on the layout before
        trial.store.apply(
            trial.job, base, MovePiece(setup="main", part=trial.part, copy_no=0, x=1, y=1, sheet="ply-2440")
        )


def test_undo_and_redo_walk_the_whole_history_and_a_new_edit_ends_redo(trial):
    states = [trial.plan]
    for n in (4, 5, 6):
        states.append(trial.do(SetQuantity(part=trial.part, order="order-1", quantity=n)).plan)
    for plan in reversed(states[:-1]):
        assert trial.store.undo(trial.job).plan == plan
    for plan in states[1:]:
        assert trial.store.redo(trial.job).plan == plan
    with pytest.raises(BadInput, match="nothing to redo"):
        trial.store.redo(trial.job)
    trial.store.undo(trial.job)
    trial.do(SetQuantity(part=trial.part, order="order-1", quantity=1))
    with pytest.raises(BadInput):
        trial.store.redo(trial.job)
    while trial.store.get(trial.job).can_undo:
        trial.store.undo(trial.job)
    assert trial.plan.parts == ()


@pytest.mark.parametrize(
    ("change", "rule", "severity"),
    [
        (
            lambda b: b.do(
                SetOperation(
                    setup="main",
                    operation=b.setup.operation("outlines").model_copy(update={"overshoot": 6.0}),
                )
            ),
            "cuts.overshoot",
            "look",
        ),
        (
            lambda b: b.do(
                SetOperation(
                    setup="main",
                    operation=b.setup.operation("outlines").model_copy(update={"overshoot": 400.0}),
                )
            ),
            "cuts.overshoot",
            "stop",
        ),
        (
            lambda b: b.do(
                SetOperation(
                    setup="main",
                    operation=b.setup.operation("outlines").model_copy(update={"step_down": 0.001}),
                )
            ),
            "cuts.absurd",
            "stop",
        ),
        (
            lambda b: (
                b.do(CORNERS),
                b.do(SetSetup(setup="main", zones_on=())),
                b.do(SetContour(part=b.part, contour="outline", tab_count=1)),
            ),
            "holding.single-tab",
            "stop",
        ),
        (
            lambda b: (
                b.do(SetSetup(setup="main", zones_on=())),
                b.do(SetContour(part=b.part, contour="outline", tab_count=0)),
            ),
            "holding.none",
            "stop",
        ),
        (lambda b: b.do(SetSetup(setup="main", zones_on=())), "holding.sheet", "stop"),
        (
            lambda b: b.do(SetScrews(setup="main", screws=(Screw(id="a", x=12, y=60),))),
            "holding.screw-hit",
            "stop",
        ),
        (
            lambda b: b.do(
                SetStock(setup="main", stock=b.setup.stock[0].model_copy(update={"readings": ()}))
            ),
            "stock.unmeasured",
            "look",
        ),
        (
            lambda b: b.do(
                SetStock(setup="main", stock=b.setup.stock[0].model_copy(update={"readings": (17.0, 17.9)}))
            ),
            "stock.spread",
            "look",
        ),
        (
            lambda b: b.do(
                SetStock(setup="main", stock=b.setup.stock[0].model_copy(update={"readings": (1.76,)}))
            ),
            "stock.far-from-nominal",
            "stop",
        ),
        (
            lambda b: b.do(
                SetStock(
                    setup="main",
                    stock=b.setup.stock[0].model_copy(update={"width": 1220.0, "height": 2440.0}),
                )
            ),
            "table.too-small",
            "stop",
        ),
        (
            lambda b: b.do(
                SetStock(
                    setup="main", stock=b.setup.stock[0].model_copy(update={"width": 800.0, "height": 1220.0})
                )
            ),
            "table.across",
            "look",
        ),
        (lambda b: b.do(SetSetup(setup="main", sheet_at=(0.0, 0.0))), "table.dead-area", "stop"),
        (lambda b: b.take(panel(300, 200, ((60, 60, 2.0),)), "pin.dxf"), "cuts.too-small", "stop"),
        (lambda b: b.take(panel(5.5, 5, ()), "chip.dxf"), "holding.tabs-none", "look"),
        (
            lambda b: (b.take(panel(4000, 20, ()), "long.dxf"), nest_job(b.store, b.job, "main", 1)),
            "nest.unplaced",
            "stop",
        ),
    ],
)
def test_what_goes_wrong_is_said(trial, change, rule, severity):
    change(trial)
    found = [s for s in trial.derived.snags if s.rule == rule]
    if rule == "nest.unplaced":
        assert "1584.0 mm too long for Birch plywood 18" in found[0].message
    assert found and found[0].severity == severity and len(found[0].message) > 20


def test_remedies_mend_what_they_name(trial):
    trial.take(panel(300, 200, ((60, 60, 2.5),)), "pin.dxf")
    assert not [s for s in trial.derived.snags if s.rule == "cuts.too-small"], (
        "a smaller cutter of the setup takes the hole"
    )
    trial.do(SetContour(part=trial.plan.parts[-1].id, contour="hole 1", cutter="comp-8"))
    snag = next(s for s in trial.derived.snags if s.rule == "cuts.too-small")
    assert [r.label for r in snag.remedies] == ["Cut it with 4 mm up-cut", "Leave it out"]
    trial.do(read_command(snag.remedies[0].command))
    assert ("stop", "cuts.too-small") not in rules(trial.derived)
    trial.do(
        SetStock(
            setup="main",
            stock=trial.setup.stock[0].model_copy(update={"width": 1220.0, "height": 2440.0, "grain": 90}),
        )
    )
    turn = next(s for s in trial.derived.snags if s.rule == "table.too-small").remedies[0]
    trial.do(read_command(turn.command))
    assert (trial.setup.stock[0].width, trial.setup.stock[0].grain) == (2440, 0)


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (
            {"kind": "set-quantity", "part": "PART", "order": "order-1", "quantity": -3},
            "greater than or equal to 0",
        ),
        (
            {"kind": "set-quantity", "part": "PART", "order": "order-1", "quantity": 10**9},
            "less than or equal",
        ),
        ({"kind": "set-quantity", "part": "nobody", "order": "order-1", "quantity": 1}, "no part"),
        ({"kind": "set-setup", "setup": "main", "sheet_at": [float("nan"), 0]}, "finite"),
        ({"kind": "set-setup", "setup": "main", "zones_on": ["77"]}, "no vacuum zone"),
        ({"kind": "set-contour", "part": "PART", "contour": "outline", "cutter": "spoon"}, "no cutter"),
        (
            {
                "kind": "move-piece",
                "setup": "main",
                "part": "PART",
                "copy_no": 99,
                "x": 0,
                "y": 0,
                "sheet": "ply-2440",
            },
            "not ordered",
        ),
        ({"kind": "fly"}, "fly"),
    ],
)
def test_impossible_edits_are_refused_and_change_nothing(trial, command, words):
    before = trial.store.get(trial.job)
    with pytest.raises(BadInput, match=words):
        trial.do(read_command({k: trial.part if v == "PART" else v for k, v in command.items()}))
    assert trial.store.get(trial.job) == before


def test_a_clearance_below_the_retract_height_is_refused(trial):
    m = trial.setup.machine.model_dump() | {"clearance": 1.0}
    with pytest.raises(BadInput, match="clearance"):
        read_command({"kind": "set-setup", "setup": "main", "machine": m})


def test_the_release_withholds_programs_while_a_stop_is_open_and_says_what_it_leaves_out(trial):
    files, manifest = releases.release(trial.store, trial.plan, 1)
    assert [n for n, _b in files if n.endswith(".nc")] and not manifest.setups[0].stops
    trial.do(SetContour(part=trial.part, contour="hole 1", omit=True))
    _files, manifest = releases.release(trial.store, trial.plan, 1)
    assert "panel, hole 1: left out on purpose" in manifest.setups[0].leaves_out
    trial.take(panel(300, 200, ((60, 60, 2.0),)), "pin.dxf")
    files, manifest = releases.release(trial.store, trial.plan, 1)
    assert not [n for n, _b in files if n.endswith(".nc")] and any(
        "withheld" in w for w in manifest.setups[0].leaves_out
    )
    assert any(n.endswith(".pdf") for n, _b in files)


def test_the_same_drawing_id_twice_is_refused(trial):
    d = trial.plan.drawings[0]
    with pytest.raises(BadInput, match="already"):
        trial.do(AddDrawing(drawing=d, parts=()))


def test_a_remnants_outline_reaches_the_nest_the_yield_and_the_paper(trial):
    """A corner cut off keeps pieces out, counts in the yield and is drawn on the setup sheet."""
    stock = trial.setup.stock_of("ply-2440").model_copy(
        update={
            "width": 900.0,
            "height": 600.0,
            "quantity": 1,
            "outline": ((0, 0), (900, 0), (900, 250), (500, 600), (0, 600)),
            "flaws": (Flaw(x=20, y=20, width=100, height=80, clearance=5),),
        }
    )
    trial.do(SetStock(setup="main", stock=stock))
    assert trial.derived.layout.state == "at fault" or trial.derived.layout.state == "out of date"
    nest_job(trial.store, trial.job, "main", 6)
    derived = trial.derived
    assert derived.layout.state == "fits" and len(derived.sheets[0].pieces) == 3
    edge, flaw = Polygon(stock.outline), box(20, 20, 120, 100)
    shape = trial.store.shapes[trial.plan.part(trial.part).shape].region
    for q in derived.sheets[0].pieces:
        lies = shape.placed(q.x, q.y, q.rotation, q.mirrored).polygon(0.01)
        assert edge.buffer(-stock.margin + 0.01).covers(lies) and lies.distance(flaw) >= 4.99
    assert derived.yields.sheets[0].sheet_area == pytest.approx(edge.area)
    kept = kept_of(trial.store, trial.plan, derived, derived.sheets[0])
    assert kept and all(r.polygon.within(edge.buffer(1e-6)) for r, _worth in kept)
    assert setup_sheet(
        trial.plan, derived, programs(trial.plan, derived), True, trial.store.shapes, Stamp(1)
    ).startswith(b"%PDF")
