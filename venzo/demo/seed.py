"""Fill a store with the demo shop: library, two jobs taken in from drawings, nested and planned."""

from __future__ import annotations

from venzo.core.cuts.operations import RecipeSteps, VCarve
from venzo.core.edits import (
    AcceptNest,
    AddOrder,
    ChangeKerf,
    ChangeRun,
    ChangeStock,
    RemoveStock,
    RenameJob,
    SetContour,
    SetPart,
    SetQuantity,
    SetScrews,
    SetSetup,
    SetSteps,
    SetStock,
    read_command,
)
from venzo.core.edits.asks import AlterPart, ChangeModel, PlaceAlong, PlaceDowels
from venzo.core.holding.screws import Screw
from venzo.core.nesting.engine import VERSION, Search
from venzo.core.nesting.layout import accepted, nest_problem
from venzo.core.parts.forming import SurfaceMade
from venzo.core.parts.made import BoxSet, LetteredBoard, Lettering
from venzo.core.plan import Order
from venzo.core.relief.surface_forms import Dish, Drawn, Ellipse, RoundedEdge
from venzo.core.rules.house import HouseRules
from venzo.core.stock.laid_sheets import LaidSheet
from venzo.core.stock.sheet import Stock
from venzo.core.surfacing.board import Board, KeepOut, SurfaceSetup, Surfacing
from venzo.core.surfacing.ledger import Entry
from venzo.core.yields.costing import CostRules
from venzo.demo.drawings import (
    AS_THEY_CAME,
    BOTH_FACES,
    FEET,
    GLAZING,
    HIDE,
    IRONMONGERY,
    LONG_RAIL,
    PANEL,
    PLATES,
    tidal_channels,
)
from venzo.demo.library import CALIPERS, CUTTERS, EDGES, HEADS, HOLDERS, MACHINES, MATERIALS, RACK, STOCK
from venzo.desk import spoilboards, table_runs
from venzo.desk.drawings import alter_part, make_parts, take_drawing
from venzo.desk.indexing import place_along
from venzo.desk.jobs import derive, new_job
from venzo.desk.library import apply_recipe, starter_recipes
from venzo.desk.models import change_model, set_model
from venzo.desk.rack import NewLot, receive
from venzo.desk.remedies import SEARCHES, try_remedy
from venzo.desk.runs import book_wear
from venzo.desk.turning import place_dowels
from venzo.store.store import Store

STEPS = 60


HOUSE = HouseRules(
    name="Marram Works",
    currency="EUR",
    costs=CostRules(labour_per_hour=46.0, remnant_handling=1.5, spoilt_share=0.02, added_share=0.35),
)


def seed_library(store: Store) -> None:
    """Put the library of Marram Works into a store."""
    for kind, items in (
        ("machine", MACHINES),
        ("material", MATERIALS),
        ("cutter", CUTTERS),
        ("holder", HOLDERS),
        ("head", HEADS),
    ):
        for item in items:
            body = item.model_dump(mode="json")
            if kind == "cutter" and item.id in EDGES:
                price, life = EDGES[item.id]
                body |= {"price": price, "life": body["life"] or life}
            store.put_library(kind, body)
    for cutter in CUTTERS:
        book_wear(store, cutter.id, cutter.metres)
    for material, stock in STOCK:
        store.put_library("stock", {**stock.model_dump(mode="json"), "material": material})
    store.put_library("rules", {"id": "house", **HOUSE.model_dump(mode="json")})
    for material, count, lot in RACK:
        receive(store, NewLot.model_validate({"material": material, "count": count, **lot}))
    starter_recipes(store)


def nest_job(store: Store, job: str, setup_id: str, steps: int = STEPS, seed: int = 1) -> None:
    """Nest one setup with a fixed number of passes and accept the result."""
    revision = store.get(job)
    setup = revision.plan.setup(setup_id)
    assert setup is not None
    problem = nest_problem(revision.plan, setup, store.shapes)
    search = Search(problem, seed)
    for _ in range(steps):
        if not search.step():
            break
    assert search.best is not None
    store.apply(
        job, revision.number, AcceptNest(setup=setup_id, nest=accepted(search.best, problem, VERSION))
    )


def clear_stops(store: Store, job: str) -> None:
    """As a programmer would: take the first remedy that works for whatever stops a job."""
    for _ in range(3):
        revision = store.get(job)
        derived = derive(store, revision.plan, True)
        remedy = next(
            (
                r
                for d in derived.values()
                for s in d.snags
                if s.severity == "stop"
                for r in s.remedies
                if r.command["kind"] not in SEARCHES and try_remedy(store, revision.plan, derived, s, r).works
            ),
            None,
        )
        if remedy is None:
            return
        store.apply(job, revision.number, read_command(remedy.command))


def seed(store: Store, steps: int = STEPS) -> None:
    """The whole demo shop; does nothing when the store already has jobs."""
    if store.jobs():
        return
    seed_library(store)
    _boards(store)
    _nest_boxes(store)
    _name_board(store)
    _channels(store)
    _both_faces(store)
    _long_rail(store)
    _plates(store, max(6, steps // 4))
    _glazing(store, max(6, steps // 4))
    _hide(store, steps)
    _small_bench_table(store)
    _steel(store, "Hide ironmongery, 2 mm steel", IRONMONGERY, "steel-2", max(6, steps // 4))
    _steel(store, "Bench feet, 6 mm steel", FEET, "steel-6", max(6, steps // 4))


def _steel(store: Store, name: str, files: dict[str, bytes], stock: str, steps: int) -> None:
    """Sheet metal on the slat table: holes spread against heat, the feet with a tab that keeps them from
    tipping.
    """
    job = new_job(store, name, "slat-table", "mild-steel").plan.id
    sheet = next(s for s in store.library("stock") if s["id"] == stock)
    own = Stock.model_validate({k: v for k, v in sheet.items() if k != "material"})
    if store.get(job).plan.setups[0].stock[0].id != stock:
        old = store.get(job).plan.setups[0].stock[0].id
        store.apply(job, store.get(job).number, SetStock(setup="main", stock=own))
        store.apply(job, store.get(job).number, RemoveStock(setup="main", stock=old))
    _calipers(store, job)
    _take(store, job, files)
    chosen = {"order": "heat spread"} if stock == "steel-2" else {"tabs": {"count": 1, "width": 0.4}}
    store.apply(job, store.get(job).number, ChangeKerf(setup="main", fields=chosen))
    place = SetSetup(setup="main", name=own.name.split(",")[0], sheet_at=(60.0, 60.0))
    store.apply(job, store.get(job).number, place)
    for p in store.get(job).plan.parts:
        for c in HAND_DRILLED.get(p.name, ()):
            store.apply(job, store.get(job).number, SetContour(part=p.id, contour=c, omit=True))
    nest_job(store, job, "main", steps)


HAND_DRILLED: dict[str, tuple[str, ...]] = {}
"""Marks that are drilled by hand, by part."""


def _small_bench_table(store: Store) -> None:
    """Sheets of two jobs cut in one go on the small bench."""
    run = table_runs.start(store, "Saturday on the small bench")
    laid = []
    for k, (job, square) in enumerate((("name-board-carved-oak", 1), ("hinge-and-latch-plates", 40)), 1):
        own = table_runs.sheets_of(store, job)[0].model_dump(include=OF_SHEET)
        laid.append(LaidSheet(id=f"sheet-{k}", square=square, **own))
    store.apply(run.plan.id, run.number, ChangeRun(add=tuple(laid)))


OF_SHEET = {"job", "setup", "sheet", "copy_no"}


def _calipers(store: Store, job: str) -> None:
    """As the programmer does before anything is nested: the calipers' readings of the sheet."""
    now = store.get(job)
    for stock in now.plan.setups[0].stock:
        store.apply(
            job,
            store.get(job).number,
            ChangeStock(setup="main", stock=stock.id, fields={"readings": list(CALIPERS[stock.id])}),
        )


def _take(store: Store, job: str, files: dict[str, bytes]) -> None:
    for name, data in files.items():
        take_drawing(store, job, store.get(job).number, "main", name, data)


def _mend(store: Store, job: str) -> None:
    """Apply the first remedy of every hole that is too small for its cutter, as the programmer would."""
    plan = store.get(job).plan
    for snag in derive(store, plan)["main"].snags:
        if snag.rule == "cuts.too-small" and snag.remedies:
            store.apply(job, store.get(job).number, SetContour.model_validate(snag.remedies[0].command))


def _hide(store: Store, steps: int) -> None:
    job = new_job(store, "Estuary hide, ribs and benches", "long-bed", "birch-ply").plan.id
    _calipers(store, job)
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Saltmarsh Trust, hide 3"))
    )
    _take(store, job, HIDE)
    for p in store.get(job).plan.parts:
        if any(word in p.name for word in ("rib", "rail", "batten")):
            store.apply(job, store.get(job).number, SetPart(part=p.id, grain=0, rotations=(0.0, 180.0)))
    store.apply(job, store.get(job).number, SetSetup(setup="main", name="18 mm birch plywood", z_zero="bed"))
    _mend(store, job)
    nest_job(store, job, "main", steps)
    clear_stops(store, job)


def _nest_boxes(store: Store) -> None:
    """Drawings as they came, still to be understood, and box sides made here."""
    job = new_job(store, "Nest boxes, drawings as they came", "long-bed", "birch-ply").plan.id
    _calipers(store, job)
    store.apply(job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Hide shop, spring")))
    _take(store, job, AS_THEY_CAME)
    make_parts(
        store,
        job,
        store.get(job).number,
        "main",
        BoxSet(
            length=260, width=180, height=120, front=17.6, side=17.6, joint="dovetails", count=2, cutter=8
        ),
    )
    make_parts(store, job, store.get(job).number, "main", Lettering(text="Wren", font="serif", cap_height=40))


def _boards(store: Store) -> None:
    """A spoilboard due for surfacing, probed by the simulated probe, and two oak boards that are to be planed
    flat.
    """
    bed = Board(
        id="long-bed-spoilboard",
        name="Long Bed spoilboard",
        machine="long-bed",
        x=100,
        y=40,
        width=2900,
        height=1520,
        thickness=19,
        least=10,
        screw_head=8,
        due_metres=400,
        dead=(KeepOut(x0=2780, y0=0, x1=2900, y1=70, height=10),),
    )
    how = Surfacing(
        cutter=50,
        cutter_name="50 mm surfacing",
        number=12,
        cutter_id="skim-50",
        step_over=0.4,
        depth=0.5,
        passes=2,
        finish_depth=0.1,
        finish_step_over=0.2,
        feed=9000,
        plunge=2000,
        pattern="rows+perimeter",
    )
    spoilboards.put(store, SurfaceSetup(id=bed.id, board=bed, how=how, pitch=300).model_dump(mode="json"))
    for entry in (
        Entry(kind="surfaced", removed=0.8, flat=0.05, says="first surfacing after fitting"),
        Entry(kind="zero", says="touched off on the fresh top"),
        Entry(kind="through-cut", metres=262.4, score=0.75, says="wall ribs, hide 1"),
        Entry(kind="through-cut", metres=181.9, score=0.75, says="wall ribs, hide 2"),
    ):
        spoilboards.book(store, bed.id, entry)
    spoilboards.probe(store, bed.id, 9, 5, seed=11)
    plane = Surfacing(
        cutter=50,
        cutter_name="50 mm surfacing",
        number=12,
        cutter_id="skim-50",
        step_over=0.45,
        depth=0.8,
        passes=2,
        feed=7000,
        ways="climb",
        along="grain",
        overrun=10,
    )
    for k, (name, w, h, square) in enumerate((("Oak plank A", 900, 210, 2), ("Oak plank B", 840, 190, 24))):
        board = Board(
            id=f"oak-plank-{'ab'[k]}",
            name=name,
            kind="board",
            machine="long-bed",
            x=200,
            y=0,
            width=w,
            height=h,
            thickness=31,
            least=20,
            grain="x",
        )
        spoilboards.put(
            store,
            SurfaceSetup(id=board.id, board=board, how=plane, pitch=200, square=square, wanted=27).model_dump(
                mode="json"
            ),
        )


def _name_board(store: Store) -> None:
    """Oak, carved: letters made here, in passes with a light last one."""
    job = new_job(store, "Name board, carved oak", "small-bench", "oak-board").plan.id
    _calipers(store, job)
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Saltmarsh Trust, hide 3"))
    )
    board = LetteredBoard(
        text="SANDLING HIDE / estuary of the Marr", width=620, height=190, margin=28, border=5, size=22
    )
    make_parts(store, job, store.get(job).number, "main", board)
    part = store.get(job).plan.parts[0].id
    store.apply(job, store.get(job).number, SetPart(part=part, grain=0, rotations=(0.0, 180.0)))
    screws = tuple(
        Screw(id=f"s{k + 1}", x=x, y=y)
        for k, (x, y) in enumerate(((12, 12), (688, 12), (688, 228), (12, 228)))
    )
    store.apply(job, store.get(job).number, SetScrews(setup="main", screws=screws))
    _tab_held(store, job, "22 mm oak")
    recipes = {r["id"]: RecipeSteps.model_validate(r) for r in store.library("recipe")}
    store.apply(
        job, store.get(job).number, read_command(apply_recipe(store, recipes["wood-v-carve"], "main"))
    )
    nest_job(store, job, "main", 6)


def _channels(store: Store) -> None:
    """Oak with a relief of tidal channels from a picture, roughed and finished along the grain."""
    job = new_job(store, "Tidal channels, relief", "small-bench", "oak-board").plan.id
    _calipers(store, job)
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Saltmarsh Trust, hide 3"))
    )
    _take(store, job, PANEL)
    part = store.get(job).plan.parts[0].id
    store.apply(job, store.get(job).number, SetPart(part=part, grain=0, rotations=(0.0, 180.0)))
    screws = tuple(
        Screw(id=f"s{k + 1}", x=x, y=y)
        for k, (x, y) in enumerate(((12, 12), (688, 12), (688, 228), (12, 228)))
    )
    store.apply(job, store.get(job).number, SetScrews(setup="main", screws=screws))
    _tab_held(store, job, "22 mm oak")
    set_model(store, job, store.get(job).number, part, "tidal channels.png", tidal_channels())
    lower = ChangeModel(part=part, number=0, fields={"sits": 0.6})
    change_model(store, job, store.get(job).number, lower)
    words = VCarve(id="words", on="engravings", cutter="vee-60", step_down=1.5, follow_relief=True)
    store.apply(job, store.get(job).number, SetSteps(setup="main", on="engravings", steps=(words,)))
    nest_job(store, job, "main", 6)
    clear_stops(store, job)
    step = {"id": "relief finish", "fields": {"step_over": 0.12}}
    change = {"kind": "change-steps", "setup": "main", "on": "reliefs", "change": [step]}
    store.apply(job, store.get(job).number, read_command(change))


def _both_faces(store: Store) -> None:
    """Oak cut from both faces: a scoop, hollow in front and rounded at the back, and a shelf with grooves in
    both; turned over on two dowels.
    """
    job = new_job(store, "Scoop and spice shelf", "small-bench", "oak-board").plan.id
    _calipers(store, job)
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Hide kitchen, turned parts"))
    )
    _take(store, job, BOTH_FACES)
    for part in store.get(job).plan.parts:
        set_ = SetPart(part=part.id, grain=0, rotations=(0.0, 180.0))
        store.apply(job, store.get(job).number, set_)
    _tab_held(store, job, "22 mm oak")
    sheet = ChangeStock(setup="main", stock="oak-700", fields={"margin": 32.0})
    store.apply(job, store.get(job).number, sheet)
    spoon = next(p.id for p in store.get(job).plan.parts if p.name == "measuring scoop")
    bowl = SurfaceMade(
        name="bowl", field=Ellipse(at=(7.0, 7.0), size=(66.0, 66.0)), forms=(Dish(depth=11.0),), sits=0.4
    )
    back = SurfaceMade(
        name="rounded back",
        field=Drawn(names=("outline",)),
        forms=(RoundedEdge(radius=7.0),),
        sits=0.4,
        margin=6.0,
        face="back",
    )
    alter_part(store, job, store.get(job).number, AlterPart(part=spoon, add=(bowl, back)))
    screws = tuple(
        Screw(id=f"s{k + 1}", x=x, y=y)
        for k, (x, y) in enumerate(((12, 12), (688, 12), (688, 228), (12, 228)))
    )
    store.apply(job, store.get(job).number, SetScrews(setup="main", screws=screws))
    nest_job(store, job, "main", 6)
    place_dowels(store, job, store.get(job).number, PlaceDowels(setup="main", axis="x"))
    clear_stops(store, job)


def _long_rail(store: Store) -> None:
    """An oak plank longer than the long bed reaches: moved along it on pins, the rail cut in lengths."""
    job = new_job(store, "Boardwalk handrail", "long-bed", "oak-board").plan.id
    plank = Stock(
        id="oak-4600",
        name="Oak plank 22, 4600 x 300",
        width=4600,
        height=300,
        quantity=1,
        nominal=22,
        readings=(22.1, 22.0, 22.1, 22.0),
        margin=32,
        grain=0,
    )
    old = [s.id for s in store.get(job).plan.setups[0].stock]
    store.apply(job, store.get(job).number, SetStock(setup="main", stock=plank))
    for stock in old:
        store.apply(job, store.get(job).number, RemoveStock(setup="main", stock=stock))
    order = Order(id="order-1", name="Saltmarsh Trust, boardwalk")
    store.apply(job, store.get(job).number, AddOrder(order=order))
    _take(store, job, LONG_RAIL)
    for part in store.get(job).plan.parts:
        set_ = SetPart(part=part.id, grain=0, rotations=(0.0, 180.0))
        store.apply(job, store.get(job).number, set_)
        if part.name == "rail post":
            more = SetQuantity(part=part.id, order="order-1", quantity=3)
            store.apply(job, store.get(job).number, more)
    place = SetSetup(setup="main", name="22 mm oak plank", sheet_at=(60.0, 200.0), zones_on=("1", "2", "3"))
    store.apply(job, store.get(job).number, place)
    nest_job(store, job, "main", 6)
    for by in (None, "pins"):
        place_along(store, job, store.get(job).number, PlaceAlong(setup="main", by=by))
    clear_stops(store, job)


def _tab_held(store: Store, job: str, name: str) -> None:
    """No vacuum on this table: tabs need a skeleton between the pieces to hold on to."""
    now = store.get(job)
    rules = now.plan.setups[0].rules.model_copy(update={"between": "skeleton"})
    store.apply(job, now.number, SetSetup(setup="main", name=name, sheet_at=(100.0, 100.0), rules=rules))


def _plates(store: Store, steps: int) -> None:
    """Aluminium: roughed conventional, finished climb by a recipe of the shop; round holes bored; held by
    screws and tabs.
    """
    job = new_job(store, "Hinge and latch plates", "small-bench", "aluminium-6000").plan.id
    _calipers(store, job)
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Saltmarsh Trust, hide 3"))
    )
    _take(store, job, PLATES)
    screws = tuple(
        Screw(id=f"s{k + 1}", x=x, y=y)
        for k, (x, y) in enumerate(((10, 10), (490, 10), (490, 490), (10, 490)))
    )
    store.apply(job, store.get(job).number, SetScrews(setup="main", screws=screws))
    _tab_held(store, job, "3 mm aluminium")
    recipes = {r["id"]: RecipeSteps.model_validate(r) for r in store.library("recipe")}
    for wanted in ("aluminium-rough-finish", "aluminium-bore", "aluminium-pocket-wall"):
        store.apply(job, store.get(job).number, read_command(apply_recipe(store, recipes[wanted], "main")))
    _mend(store, job)
    nest_job(store, job, "main", steps)


def _glazing(store: Store, steps: int) -> None:
    job = new_job(store, "Viewing-slot glazing", "small-bench", "acrylic").plan.id
    _calipers(store, job)
    store.apply(job, store.get(job).number, RenameJob(name="Viewing-slot glazing"))
    store.apply(
        job, store.get(job).number, AddOrder(order=Order(id="order-1", name="Saltmarsh Trust, hide 3"))
    )
    _take(store, job, GLAZING)
    screws = tuple(
        Screw(id=f"s{k + 1}", x=x, y=y)
        for k, (x, y) in enumerate(((12, 12), (988, 12), (988, 588), (12, 588)))
    )
    store.apply(job, store.get(job).number, SetScrews(setup="main", screws=screws))
    _tab_held(store, job, "6 mm acrylic")
    _mend(store, job)
    nest_job(store, job, "main", steps)
