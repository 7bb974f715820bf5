"""A job to try things on in tests: parts laid where the test wants them, and short words for what a person
does.
"""

from __future__ import annotations

from tests.conftest import dxf
from venzo.core.cuts.operations import Profile
from venzo.core.edits import (
    AcceptNest,
    RemoveStock,
    SetContour,
    SetFixings,
    SetHold,
    SetOrder,
    SetQuantity,
    SetScrews,
    SetSetup,
    SetSteps,
    SetStock,
    read_command,
)
from venzo.core.holding.fixings import Clamp, Cover, FixtureBoard, Pin, Pod, Tape
from venzo.core.holding.screws import Screw
from venzo.core.plan import AcceptedNest, MovedCut, Order, Piece, Plan
from venzo.core.stock.sheet import Stock
from venzo.desk import drawings, jobs
from venzo.store.packed import checked

__all__ = [
    "Clamp",
    "Cover",
    "FixtureBoard",
    "Pin",
    "Pod",
    "Tape",
    "TrialJob",
    "disc",
    "rect",
    "ring",
    "screws",
]


ORDER = Order(id="order-1", name="Order 1")


def rect(w, h, holes=(), pocket=None):
    """A rectangle with round holes (x, y, radius) and maybe a round pocket 6 mm deep."""

    def draw(m):
        m.add_lwpolyline([(0, 0), (w, 0), (w, h), (0, h)], close=True)
        for x, y, r in holes:
            m.add_circle((x, y), r)
        if pocket:
            m.doc.layers.add("POCKET 6mm")
            m.add_circle(pocket[:2], pocket[2], dxfattribs={"layer": "POCKET 6mm"})

    return dxf(draw)


def disc(r):
    return dxf(lambda m: m.add_circle((r, r), r))


def ring(points):
    """Any closed outline."""
    return dxf(lambda m: m.add_lwpolyline(points, close=True))


def screws(*spots, sheet=(600, 400), **fields):
    """Screws at given places, or 12 mm in from the four corners."""
    w, h = sheet
    spots = spots or ((12, 12), (w - 12, 12), (w - 12, h - 12), (12, h - 12))
    return tuple(Screw(id=f"s{k}", x=x, y=y, **fields) for k, (x, y) in enumerate(spots))


class TrialJob:
    """One job with one setup; ``parts``: (drawing, [(x, y) of every piece])."""

    def __init__(
        self,
        store,
        *parts,
        machine="small-bench",
        material="birch-ply",
        sheet=(600, 400),
        thick=17.6,
        spread=0.0,
        screwed=True,
        at=None,
    ):
        self.store = store
        start = jobs.new_setup(store, machine, material)
        plan = Plan(id=jobs.free_id(store, "bench"), name="bench", orders=(ORDER,), setups=(start,))
        own = Stock(
            id="own",
            name="sheet",
            width=sheet[0],
            height=sheet[1],
            nominal=thick,
            readings=(thick - spread / 2, thick + spread / 2),
            margin=5,
        )
        begun = [SetStock(setup="main", stock=own)]
        begun += [RemoveStock(setup="main", stock=s.id) for s in start.stock]
        begun += [SetSetup(setup="main", sheet_at=at)] if at else []
        for command in begun:
            plan = command.apply(plan)
        pieces = []
        for k, (data, spots) in enumerate(parts):
            command, _read = drawings.taking(store, plan, "main", f"part{k}.dxf", data)
            plan = command.apply(plan)
            part = plan.parts[-1].id
            plan = SetQuantity(part=part, order="order-1", quantity=len(spots)).apply(plan)
            pieces += [
                Piece(part=part, copy_no=c, sheet="own", sheet_copy=0, x=x, y=y)
                for c, (x, y) in enumerate(spots)
            ]
        laid = AcceptNest(setup="main", nest=AcceptedNest(pieces=tuple(pieces), inputs="by hand"))
        held = [SetScrews(setup="main", screws=screws(sheet=sheet))] if screwed else []
        for command in (laid, *held):
            plan = command.apply(plan)
        self.job = store.create(checked(plan, plan)).plan.id

    plan = property(lambda self: self.store.get(self.job).plan)
    setup = property(lambda self: self.plan.setups[0])
    up = "main"
    """The setup that is asked."""
    derived = property(lambda self: jobs.derive(self.store, self.plan)[self.up])
    sheet = property(lambda self: self.derived.sheets[0])
    hold = property(lambda self: self.derived.holds[0])

    def part(self, k=0):
        return self.plan.parts[k].id

    def piece(self, k=0, copy=1):
        return f"{self.part(k)}#{copy}"

    def do(self, command):
        return self.store.apply(
            self.job,
            self.store.head(self.job),
            command if not isinstance(command, dict) else read_command(command),
        )

    def said(self, rule):
        return [s for s in self.derived.snags if s.rule == rule]

    def stops(self):
        return [
            s
            for s in self.derived.snags
            if s.severity == "stop" and s.rule.split(".")[0] in ("holding", "order")
        ]

    # -- what a person does

    def outline(self, *steps, on="outlines"):
        """Steps on outlines: dictionaries of a profile's fields."""
        self.do(
            SetSteps(
                setup="main",
                on=on,
                steps=tuple(
                    Profile(**{"id": f"step{k}", "on": on, "cutter": "comp-8", **s})
                    for k, s in enumerate(steps)
                ),
            )
        )
        return self

    def hold_by(self, way, **fields):
        self.do(SetHold(setup="main", way=way, **fields))
        return self

    def tabs(self, *spots, k=0, contour="outline"):
        self.do(SetContour(part=self.part(k), contour=contour, tabs=spots))
        return self

    def fix(self, *fixings):
        self.do(SetFixings(setup="main", fixings=fixings))
        return self

    def screw(self, *spots, **fields):
        self.do(SetScrews(setup="main", screws=screws(*spots, **fields) if spots else ()))
        return self

    def zones(self, *ids):
        self.do(SetSetup(setup="main", zones_on=ids))
        return self

    def move(self, cut, before=""):
        """Put a cut of the first part's first piece before another, without asking whether it is wise."""
        name = f"{self.piece()}/"
        wanted = MovedCut(sheet="own", cut=name + cut, before=(name + before) if before else "")
        self.do(SetOrder(setup="main", moved_cuts=(*self.setup.moved_cuts, wanted)))
        return self

    def cut_index(self, contour, step=0, k=0, copy=1):
        return next(
            i
            for i, c in enumerate(self.sheet.cuts)
            if c.piece.id == self.piece(k, copy) and c.cut.contour == contour and c.cut.step == step
        )
