"""The algebra of commands, kind by kind: what is done can be taken back and done again to the letter, those
on different things go in either order, and of two on one thing made on the same revision the second
is told so. Every kind of command has an example here; a new kind without one fails.
"""

from __future__ import annotations

import itertools
import typing

import pytest

from tests.conftest import MANY
from tests.support.breadth import spread
from tests.support.library_shop import library_shop
from tests.support.trial import Clamp, TrialJob, rect, screws
from venzo.api.documents.job import view
from venzo.core.cuts.operations import Profile
from venzo.core.edits import (
    AcceptNest,
    AddDrawing,
    AddOrder,
    AddSetup,
    AdoptHead,
    ApplyCutList,
    CalibrateHold,
    ChangeChosenSteps,
    ChangeContours,
    ChangeFixings,
    ChangeKerf,
    ChangeMates,
    ChangeParts,
    ChangePieces,
    ChangeQuantity,
    ChangeRun,
    ChangeScrews,
    ChangeSetup,
    ChangeSteps,
    ChangeStock,
    ChangeStops,
    ChangeSurface,
    Command,
    CutListLine,
    ForgetLayout,
    KeepLayout,
    KeepVersion,
    LockPieces,
    MoveParts,
    MovePiece,
    NotePart,
    RemovePart,
    RemoveSetup,
    RemoveStock,
    RenameJob,
    ReviseDrawing,
    SetAlterations,
    SetContour,
    SetFixings,
    SetHold,
    SetOperation,
    SetOrder,
    SetPart,
    SetQuantity,
    SetScrews,
    SetSetup,
    SetSteps,
    SetStock,
    SetSurface,
    SwapPieces,
    TakeOffPiece,
    TakeVersion,
    UseLayout,
    read_command,
    reads,
)
from venzo.core.edits.fields import Changed
from venzo.core.edits.indexing import ChangeIndexing, IndexStock, StopIndexing
from venzo.core.edits.turning import ChangeDowels, ChangeTurn, OrderFaces, TurnOver
from venzo.core.faces.registration import Dowel, Dowels, FenceCorners
from venzo.core.holding.screws import Screw
from venzo.core.indexing.positions import Indexing
from venzo.core.memo import budget
from venzo.core.parts.alter import Rounding
from venzo.core.plan import Mate, OperatorStop, Order
from venzo.core.snags import BadInput
from venzo.desk import jobs
from venzo.desk.jobs import new_setup
from venzo.store.store import Conflict, Revision

ON_BOARDS = (SetSurface, ChangeSurface, ChangeRun)
"""They have jobs of their own: see ``test_boards``."""
KINDS = [k for k in typing.get_args(typing.get_args(Command)[0]) if k not in ON_BOARDS]
COUNTED = (ChangeQuantity,)
"""So many more than there are, whatever was wanted meanwhile: both count."""


PINS = (Dowel(id="d1", x=20, y=200, diameter=6), Dowel(id="d2", x=580, y=200, diameter=8))


class Case:
    """A job with two kinds of part, four pieces and a kept layout, and examples of every command on it."""

    def __init__(self, store):
        self.store = store
        b = TrialJob(
            store,
            (rect(120, 80, [(40, 40, 15)]), [(20, 20), (160, 20)]),
            (rect(90, 60), [(20, 150), (160, 150)]),
        )
        b.outline({}).fix(Clamp(id="c1", x=560, y=200))
        stock = b.setup.stock[0]
        b.do(SetStock(setup="main", stock=stock.model_copy(update={"id": "spare", "name": "spare sheet"})))
        b.do(KeepLayout(setup="main", id="first", name="first"))
        beside = b.setup.model_copy(update={"id": "beside", "name": "beside", "nest": None, "kept": ()})
        b.do(AddSetup(setup=beside))
        b.do(AddSetup(setup=new_setup(store, "slat-table", "mild-steel", "slats")))
        b.do(TurnOver(setup="main", axis="x", registration=Dowels(dowels=PINS)))
        b.do(AddSetup(setup=beside.model_copy(update={"id": "along", "name": "along"})))
        b.do(IndexStock(setup="along", indexing=Indexing(moved=(120.0, 260.0))))
        b.do(NotePart(part=b.part(1), note="the first one"))
        b.do(KeepVersion(part=b.part(1)))
        self.job, self.plan = b.job, b.plan
        self.a, self.c = (p.id for p in self.plan.parts)
        self.setup = self.plan.setups[0]

    @property
    def number(self) -> int:
        return self.store.get(self.job).number

    def examples(self) -> dict[type, list]:
        """By kind of command, some that change the plan."""
        a, c, setup, plan = self.a, self.c, self.setup, self.plan
        step = next(o for o in setup.operations if o.on == "outlines")
        stock, drawing = setup.stock[0], plan.drawings[0]
        part, other = plan.parts
        nest = setup.nest
        head = next(s for s in plan.setups if s.id == "slats").heads[0]
        again = drawing.model_copy(update={"revision": drawing.revision + 1})
        more = part.model_copy(update={"id": "more", "name": "more", "drawing": "d9"})
        rounded = [Rounding(radius=6.0)]
        return {
            RenameJob: [RenameJob(name="another"), RenameJob(name="Ääkköset 3/4")],
            AddOrder: [AddOrder(order=Order(id="order-2", name="two"))],
            AddSetup: [AddSetup(setup=setup.model_copy(update={"id": "turned", "nest": None, "kept": ()}))],
            AddDrawing: [
                AddDrawing(drawing=drawing.model_copy(update={"id": "d9", "name": "d9.dxf"}), parts=(more,))
            ],
            ReviseDrawing: [ReviseDrawing(drawing=again, parts=(part,), why="read again")],
            RemovePart: [RemovePart(part=a), RemovePart(part=c)],
            RemoveSetup: [RemoveSetup(setup="beside"), RemoveSetup(setup="main-back")],
            TurnOver: [
                TurnOver(setup="beside", axis="y"),
                TurnOver(setup="beside", registration=FenceCorners()),
            ],
            ChangeTurn: [
                ChangeTurn(setup="main-back", fields={"outlines": "before"}),
                ChangeTurn(setup="main-back", fields={"registration": {"=": {"kind": "edges"}}}),
            ],
            OrderFaces: [
                OrderFaces(setup="main-back", rough_both_first=True),
                OrderFaces(setup="main-back", rough_both_first=True, outlines="before"),
            ],
            ChangeDowels: [
                ChangeDowels(setup="main-back", change=(Changed(id="d1", fields={"diameter": 5.0}),)),
                ChangeDowels(setup="main-back", drop=("d2",)),
                ChangeDowels(setup="main-back", add=(Dowel(id="d3", x=300, y=380, diameter=6),)),
            ],
            IndexStock: [IndexStock(setup="beside", indexing=Indexing(axis="y", moved=(90.0,)))],
            ChangeIndexing: [
                ChangeIndexing(setup="along", fields={"overlap": 25.0}),
                ChangeIndexing(setup="along", fields={"moved": {"=": [150.0]}}),
                ChangeIndexing(setup="along", fields={"brought": {"at": 40.0}}),
            ],
            StopIndexing: [StopIndexing(setup="along")],
            MoveParts: [MoveParts(setup="main", parts=(a,), to="beside")],
            SetQuantity: [SetQuantity(part=a, order="order-1", quantity=5)],
            SetPart: [
                SetPart(part=a, name="lid"),
                SetPart(part=a, grain=90),
                SetPart(part=c, rotations="free", mirror=True),
                SetPart(part=c, group="g", priority=3),
                SetPart(part=c, fill=True),
            ],
            SetStock: [SetStock(setup="main", stock=stock.model_copy(update={"quantity": 7}))],
            RemoveStock: [RemoveStock(setup="main", stock="spare")],
            SetSetup: [
                SetSetup(setup="main", z_zero="bed"),
                SetSetup(setup="main", datum="centre"),
                SetSetup(setup="main", allow_in_holes=True, guillotine=True),
                SetSetup(setup="main", name="one sheet"),
            ],
            SetOperation: [
                SetOperation(setup="main", operation=step.model_copy(update={"feed": 2500.0})),
            ],
            SetSteps: [
                SetSteps(setup="main", on="holes", steps=(Profile(id="h", on="holes", cutter="up-6"),)),
                SetSteps(part=a, on="outlines", steps=(Profile(id="own", on="outlines", cutter="up-6"),)),
                SetSteps(
                    setup="main",
                    on="holes",
                    steps=(Profile(id="h", on="holes", cutter="up-6"),),
                    were_of=a,
                ),
            ],
            SetContour: [
                SetContour(part=a, contour="outline", tab_count=3),
                SetContour(part=a, contour="hole 1", omit=True),
                SetContour(part=c, contour="outline", start=(45.0, 0.0)),
            ],
            ChangeSteps: [
                ChangeSteps(setup="main", on="outlines", change=({"id": step.id, "fields": {"rpm": 15000}},)),
                ChangeSteps(
                    setup="main", on="holes", add=(Profile(id="h2", on="holes", cutter="up-6"),), drop=()
                ),
            ],
            ChangeChosenSteps: [
                ChangeChosenSteps(
                    setup="main", steps=({"on": "outlines", "step": step.id},), fields={"feed": 2400.0}
                ),
                ChangeChosenSteps(setup="main", steps=({"on": "outlines", "step": step.id},), drop=True),
            ],
            ChangeContours: [
                ChangeContours(
                    contours=({"part": a, "contour": "outline"}, {"part": c, "contour": "outline"}),
                    tab_count=5,
                ),
                ChangeContours(
                    contours=({"part": a, "contour": "hole 1"},),
                    on="holes",
                    steps=(Profile(id="own", on="holes", cutter="up-6"),),
                ),
            ],
            ChangeQuantity: [ChangeQuantity(part=c, order="order-1", more=2)],
            ChangeScrews: [
                ChangeScrews(setup="main", add=(Screw(id="new", x=300, y=380),)),
                ChangeScrews(setup="main", drop=("s1",)),
                ChangeScrews(setup="main", change=({"id": "s2", "fields": {"x": 580.0}},)),
            ],
            ChangeFixings: [
                ChangeFixings(setup="main", add=(Clamp(id="c2", x=560, y=300),)),
                ChangeFixings(setup="main", change=({"id": "c1", "fields": {"y": 220.0}},)),
            ],
            ChangeMates: [ChangeMates(add=(Mate(id="acrylic", name="acrylic 6", thickness=5.93),))],
            ChangeStops: [
                ChangeStops(
                    setup="main",
                    add=(
                        OperatorStop(id="t1", sheet="own", before=f"{a}#1/outline/0", words="turn the clamp"),
                    ),
                ),
            ],
            ChangeKerf: [
                ChangeKerf(setup="slats", fields={"lead": 3.5}),
                ChangeKerf(setup="slats", fields={"tabs": {"count": 2}}),
                ChangeKerf(setup="slats", fields={"common_line": True, "order": "heat spread"}),
            ],
            AdoptHead: [AdoptHead(setup="slats", head=head.model_copy(update={"nozzle": 0.9}))],
            ChangeStock: [ChangeStock(setup="main", stock="spare", fields={"quantity": 4})],
            ChangeSetup: [
                ChangeSetup(setup="main", machine={"retract": 6.0}),
                ChangeSetup(setup="main", rules={"web": 5.0}),
                ChangeSetup(setup="main", corner={"x": 30.0}),
            ],
            AcceptNest: [AcceptNest(setup="main", nest=nest.model_copy(update={"inputs": "another"}))],
            ChangeParts: [
                ChangeParts(parts=(a, c), mirror=True, priority=2),
                ChangeParts(parts=(c,), more=2),
                ChangeParts(parts=(a, c), tab_count=3),
                ChangeParts(parts=(c,), remove=True),
            ],
            ChangePieces: [
                ChangePieces(setup="main", pieces=({"part": a, "copy_no": 0, "x": 24.0, "y": 26.0},)),
                ChangePieces(
                    setup="main",
                    does="turned",
                    pieces=(
                        {"part": a, "copy_no": 0, "rotation": 90.0},
                        {"part": c, "copy_no": 1, "rotation": 450.0},
                    ),
                ),
                ChangePieces(
                    setup="main",
                    does="locked",
                    pieces=({"part": a, "copy_no": 0, "locked": True},),
                    more=({"part": a, "x": 400.0, "y": 300.0, "sheet": "own"},),
                ),
            ],
            MovePiece: [
                MovePiece(setup="main", part=a, copy_no=0, x=24.0, y=26.0, sheet="own"),
                MovePiece(setup="main", part=c, copy_no=1, x=300.0, y=200.0, rotation=90, sheet="own"),
            ],
            TakeOffPiece: [TakeOffPiece(setup="main", part=c, copy_no=0)],
            LockPieces: [LockPieces(setup="main", sheet="own")],
            SwapPieces: [SwapPieces(setup="main", part=a, copy_no=0, other_part=c, other_copy_no=0)],
            KeepLayout: [KeepLayout(setup="main", id="second", name="second")],
            UseLayout: [UseLayout(setup="main", id="first")],
            ForgetLayout: [ForgetLayout(setup="main", id="first")],
            SetScrews: [SetScrews(setup="main", screws=screws((50, 380), (550, 380)))],
            SetFixings: [SetFixings(setup="main", fixings=())],
            SetOrder: [
                SetOrder(setup="main", order_by="piece by piece"),
                SetOrder(setup="main", insides_apart=True),
            ],
            SetHold: [
                SetHold(setup="main", way="skin, by hand", skin=0.4),
                SetHold(setup="main", part=a, way="nothing"),
            ],
            CalibrateHold: [
                CalibrateHold(setup="main", what="tab", pull=150.0, area=24.0),
                CalibrateHold(setup="main", what="screw", pull=900.0),
            ],
            SetAlterations: [SetAlterations(part=a, alterations=rounded, shape=part.shape, drawn=part.shape)],
            NotePart: [NotePart(part=c, note="check the grain")],
            KeepVersion: [KeepVersion(part=a)],
            TakeVersion: [TakeVersion(part=c, version=0)],
            ApplyCutList: [
                ApplyCutList(name="l.csv", order="order-1", lines=(CutListLine(part=other.id, quantity=3),))
            ],
        }

    def all(self) -> list:
        """Every example."""
        return [command for commands in self.examples().values() for command in commands]


@pytest.fixture(scope="module")
def case(tmp_path_factory):

    store = library_shop(tmp_path_factory.mktemp("algebra") / "shop")
    yield Case(store)
    store.close()


def applied(plan, command):
    """The plan after a command, or the words with which it is refused."""
    try:
        return command.apply(plan)
    except BadInput as e:
        return str(e)


def test_every_kind_of_command_has_an_example(case):
    assert set(case.examples()) == set(KINDS)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.__name__)
def test_a_command_says_itself_and_reads_back_from_json(case, kind):
    for command in case.examples()[kind]:
        assert read_command(command.model_dump(mode="json")) == command
        told = command.says(case.plan)
        assert told and told == told.strip() and "\n" not in told and len(told) < 300
        assert command.touches() or kind in COUNTED
        assert all(isinstance(t, str) for t in reads(command))


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.__name__)
def test_a_command_leaves_the_plan_it_is_applied_to_as_it_was(case, kind):
    for command in case.examples()[kind]:
        before = case.plan.model_dump_json()
        after = command.apply(case.plan)
        assert case.plan.model_dump_json() == before
        same = kind in (UseLayout,)  # the kept layout is the one there is
        assert same or after != case.plan, "an example changes something"


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.__name__)
def test_what_is_done_is_taken_back_and_done_again_to_the_letter(case, kind):
    for command in case.examples()[kind]:
        start = case.store.get(case.job)
        done = case.store.apply(case.job, start.number, command)
        assert done.plan == command.apply(start.plan) and done.says == command.says(start.plan)
        assert case.store.undo(case.job).plan == start.plan
        assert case.store.redo(case.job).plan == done.plan
        back = case.store.undo(case.job)
        assert back.plan == start.plan and back.number == start.number + 4, "history is only added to"


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.__name__)
def test_a_second_edit_of_one_thing_made_on_the_same_revision_is_told(case, kind):
    """What was done meanwhile is named, and nothing is stored."""
    for command in case.examples()[kind] if kind not in COUNTED else ():
        start = case.store.get(case.job)
        done = case.store.apply(case.job, start.number, command)
        with pytest.raises(Conflict) as told:
            case.store.apply(case.job, start.number, command)
        assert told.value.theirs == [done.says] and told.value.head == done.number
        assert case.store.get(case.job) == done
        case.store.undo(case.job)


def shown(case, plan):
    """All that follows from a plan, as it is answered."""
    derived = jobs.derive(case.store, plan)
    return view(Revision(1, plan, "", False, False), derived, case.store.shapes).model_dump_json()


@pytest.mark.parametrize("kind", spread(KINDS, 12), ids=lambda k: k.__name__)
def test_nothing_remembered_of_the_plan_before_is_taken_for_what_follows_after(case, kind):
    """Stages are remembered by digests of what they follow from: a digest that forgets something would show
    here.
    """
    shown(case, case.plan)
    for command in case.examples()[kind]:
        after = command.apply(case.plan)
        remembered = shown(case, after)
        with budget(1_000_000_000):
            assert remembered == shown(case, after)


STEPS = {"set-operation", "change-steps", "change-chosen-steps"}


def pairs(case):
    """Commands on different things."""
    for a, b in itertools.combinations(case.all(), 2):
        mine, theirs = a.touches() | reads(a), b.touches() | reads(b)
        if "keep-layout" in (a.kind, b.kind) and {a.kind, b.kind} & {"remove-part", "change-parts"}:
            continue  # a layout is kept with or without the pieces of what is removed
        if a.kind in STEPS and b.kind == "set-hold" and b.part:
            continue  # a part's own way of holding is made of the setup's steps as they are then
        if {a.kind, b.kind} == {"change-quantity", "apply-cut-list"}:
            continue  # so many more than the list says, or than were there before it
        if not any(meet(x, y) for x in mine for y in theirs):
            yield a, b


def meet(a: str, b: str) -> bool:
    """Is one thing the other, or does it lie in it?"""
    return a == b or a.startswith(b + "/") or b.startswith(a + "/")


@pytest.mark.long
def test_commands_on_different_things_go_in_either_order(case):
    """As they must, since an edit of one made on an older revision is put on top of the other."""
    tried, odd = 0, set()
    for n, (a, b) in enumerate(pairs(case)):
        if MANY == 1 and n % 2:
            continue  # the long check tries them all
        one, two = applied(case.plan, a), applied(case.plan, b)
        first = applied(one, b) if not isinstance(one, str) else one
        second = applied(two, a) if not isinstance(two, str) else two
        if isinstance(first, str) or isinstance(second, str):
            continue
        tried += 1
        if first != second and _unordered(first) != _unordered(second):
            odd.add((a.kind, b.kind))
    assert odd == set() and tried > 200


def _unordered(plan):
    """A plan whose lists of things with ids count as sets: of two things added, neither is first."""

    def plain(v):
        if isinstance(v, dict):
            return {k: plain(x) for k, x in v.items()}
        if isinstance(v, list):
            rows = [plain(x) for x in v]
            return sorted(rows, key=repr) if all(isinstance(x, dict) for x in rows) else rows
        return v

    return plain(plan.model_dump(mode="json"))


def test_an_edit_made_on_an_older_revision_is_put_on_top_of_one_of_another_thing(case):
    """The store does so, for a sample of pairs that covers every kind."""
    seen: set[str] = set()
    for a, b in pairs(case):
        if {a.kind, b.kind} <= seen or isinstance(applied(applied(case.plan, a), b), str):
            continue
        seen |= {a.kind, b.kind}
        start = case.store.get(case.job)
        case.store.apply(case.job, start.number, a)
        done = case.store.apply(case.job, start.number, b)
        assert done.plan == b.apply(a.apply(start.plan))
        case.store.undo(case.job)
        assert case.store.undo(case.job).plan == start.plan
    assert len(seen) > len(KINDS) - 4


WRONG = [
    ("no such part", {"kind": "set-quantity", "part": "nobody", "order": "order-1", "quantity": 2}),
    ("no such order", {"kind": "set-quantity", "part": "A", "order": "order-9", "quantity": 2}),
    ("half a piece", {"kind": "set-quantity", "part": "A", "order": "order-1", "quantity": 2.5}),
    ("no name", {"kind": "rename-job", "name": ""}),
    ("no such setup", {"kind": "set-setup", "setup": "nowhere", "z_zero": "bed"}),
    ("a zero that is none", {"kind": "set-setup", "setup": "main", "z_zero": "middle"}),
    ("no such stock", {"kind": "remove-stock", "setup": "main", "stock": "nowhere"}),
    ("no such screw", {"kind": "change-screws", "setup": "main", "drop": ["s99"]}),
    ("a screw twice", {"kind": "change-screws", "setup": "main", "add": [{"id": "s1", "x": 1, "y": 1}]}),
    ("no such fixing", {"kind": "change-fixings", "setup": "main", "drop": ["c9"]}),
    ("no such step", {"kind": "change-steps", "setup": "main", "on": "outlines", "drop": ["nothing"]}),
    (
        "a field that is none",
        {"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"colour": "red"}},
    ),
    (
        "a thickness below nothing",
        {"kind": "change-stock", "setup": "main", "stock": "own", "fields": {"nominal": -1}},
    ),
    (
        "no such piece",
        {"kind": "move-piece", "setup": "main", "part": "A", "copy_no": 40, "x": 1, "y": 1, "sheet": "own"},
    ),
    (
        "not a number",
        {
            "kind": "move-piece",
            "setup": "main",
            "part": "A",
            "copy_no": 0,
            "x": "NaN",
            "y": 1,
            "sheet": "own",
        },
    ),
    ("no such layout", {"kind": "use-layout", "setup": "main", "id": "ninth"}),
    ("a kind that is none", {"kind": "make-coffee"}),
    ("no kind", {"setup": "main"}),
    ("not a command", ["set-setup"]),
    ("no such cutter", {"kind": "set-contour", "part": "A", "contour": "outline", "cutter": "spoon"}),
    ("skin below nothing", {"kind": "set-hold", "setup": "main", "way": "skin, by hand", "skin": -0.2}),
    ("pulled by nothing", {"kind": "calibrate-hold", "setup": "main", "what": "tab", "pull": 0, "area": 20}),
]


@pytest.mark.parametrize(("what", "command"), WRONG, ids=[w for w, _c in WRONG])
def test_what_cannot_be_is_refused_in_one_line_and_nothing_is_stored(case, what, command):
    before = case.store.get(case.job)
    if isinstance(command, dict):
        command = {k: case.a if v == "A" else v for k, v in command.items()}
    with pytest.raises(BadInput) as told:
        case.store.apply(case.job, before.number, read_command(command))
    words = str(told.value)
    assert words and "\n" not in words and "pydantic" not in words and len(words) < 300
    assert case.store.get(case.job) == before


@pytest.mark.parametrize(
    "command",
    [
        KeepLayout(setup="main", id="mine", name="mine"),
        LockPieces(setup="main", sheet="own"),
        UseLayout(setup="main", id="first"),
        "swap",
    ],
    ids=["keep", "lock", "use", "swap"],
)
def test_what_relies_on_the_layout_is_told_that_another_was_accepted_meanwhile(case, command):
    """Else somebody keeps, locks or turns about a layout that he never saw."""
    if command == "swap":
        command = SwapPieces(setup="main", part=case.a, copy_no=0, other_part=case.c, other_copy_no=0)
    start = case.store.get(case.job)
    if isinstance(command, UseLayout):
        meanwhile = ForgetLayout(setup="main", id="first")
    else:
        nest = start.plan.setups[0].nest.model_copy(update={"inputs": "another"})
        meanwhile = AcceptNest(setup="main", nest=nest)
    done = case.store.apply(case.job, start.number, meanwhile)
    with pytest.raises(Conflict):
        case.store.apply(case.job, start.number, command)
    assert case.store.get(case.job) == done
    case.store.undo(case.job)


def test_a_way_of_holding_the_outline_leaves_the_tabs_of_a_hole_alone(case):
    """The middle of a hole was let go when its part was held otherwise."""
    start = case.store.get(case.job)
    held = SetHold(setup="main", part=case.a, contour="hole 1", way="tabs").apply(start.plan)
    counted = SetContour(part=case.a, contour="outline", tab_count=3).apply(held)
    after = SetHold(setup="main", part=case.a, way="nothing").apply(counted)
    assert after.choice(case.a, "hole 1").tab_count == 2 and after.choice(case.a, "outline") is None


def test_counts_that_two_people_raise_at_once_are_both_there(case):
    start = case.store.get(case.job)
    command = ChangeQuantity(part=case.c, order="order-1", more=2)
    had = start.plan.part(case.c).quantity
    for _ in range(2):
        case.store.apply(case.job, start.number, command)
    assert case.store.get(case.job).plan.part(case.c).quantity == had + 4
    case.store.undo(case.job)
    assert case.store.undo(case.job).plan == start.plan
