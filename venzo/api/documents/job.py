"""The job document, from which the screen draws: a plan and everything derived."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from datetime import date
from functools import lru_cache
from typing import Annotated, Any, Literal
from weakref import WeakKeyDictionary

import shapely
from pydantic import Field

from venzo.core.cuts.of_part import PartCuts
from venzo.core.cuts.operations import On, Operation, RecipeSteps, StepKind, differences
from venzo.core.cuts.planned import StepPlan
from venzo.core.derive import DerivedSetup, of_drawing
from venzo.core.geometry.contour import Contour, arc_of
from venzo.core.geometry.regions import Region
from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.holding.timeline import SheetHold
from venzo.core.memo import memo
from venzo.core.model import Document, Point
from venzo.core.nesting.layout import InTheWay, figures, in_the_way, inputs_now, placement
from venzo.core.nesting.problem import SameSheets
from venzo.core.nesting.worth import same_sheets
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.parts.intake import HowRead
from venzo.core.parts.made import Recipe
from venzo.core.parts.shape import Face, Feature, Shape
from venzo.core.plan import (
    ContourChoice,
    Drawing,
    FilesBy,
    KeptLayout,
    Mate,
    MovedCut,
    OperatorStop,
    Order,
    OrderBy,
    Part,
    PartLine,
    Piece,
    Plan,
    Setup,
    StepsChoice,
)
from venzo.core.release.contents import Contents, contents
from venzo.core.release.programs import count_files, programs
from venzo.core.route import Stand
from venzo.core.rules.house import HouseRules, Tabs
from venzo.core.snags import BadInput, Snag
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Flaw
from venzo.core.stock.zeros import Datum, place, touched_off
from venzo.core.tooling.cutter import Cutter
from venzo.core.yields.sheet_yield import JobYield
from venzo.desk import kerf_jobs
from venzo.desk.cards import route_of
from venzo.desk.holding import SheetHolding, sheet_holding
from venzo.desk.indexing import LongSeen, long_seen
from venzo.desk.library import News
from venzo.desk.turning import TurnSeen, turn_seen
from venzo.store.store import Revision, Shapes

RING = 0.02
"""mm by which the chords that stand for arcs on the screen lie outside of them at most."""


def path_of(c: Contour) -> str:
    """A contour as SVG path data, arcs kept; y up as in the core (the screen flips it).

    >>> path_of(Contour.of([(0, 0), (2, 0), (2, 1)]))
    'M0 0L2 0L2 1Z'
    """

    def n(v: float) -> str:
        text = f"{v:.3f}".rstrip("0").rstrip(".")
        return "0" if text in ("", "-0") else text

    out = [f"M{n(c.vertices[0, 0])} {n(c.vertices[0, 1])}"]
    segments = c.segments()
    for k, s in enumerate(segments):
        if s.bulge:
            r = arc_of((s.x0, s.y0), (s.x1, s.y1), s.bulge)[2]
            # y is flipped on screen by a transform, which turns the sense of arcs by itself
            out.append(f"A{n(r)} {n(r)} 0 {int(abs(s.bulge) > 1)} {int(s.bulge > 0)} {n(s.x1)} {n(s.y1)}")
        elif not (c.closed and k == len(segments) - 1):
            out.append(f"L{n(s.x1)} {n(s.y1)}")
    return "".join(out) + ("Z" if c.closed else "")


Box = tuple[float, float, float, float]


class OutlineDrawn(Document):
    """A contour as SVG path data (mm, y up) and its width and height."""

    name: str
    d: str
    size: Point


class FeatureDrawn(Document):
    """A feature as SVG path data; ``depth`` in mm, None: not drawn; ``box``: of a relief, which has a picture
    that fills it.
    """

    name: str
    kind: str
    d: str
    depth: float | None
    closed: bool
    box: Box | None = None
    surface: str = ""
    """Of a relief: digest of its surface; another one is drawn anew."""
    face: Face = "front"


class PartDocument(Document):
    """A part as it is cut; ``label``: middle and radius of the largest circle in it; ``rings``: its loops as
    points, for collisions while dragging. mm.
    """

    id: str
    name: str
    setup: str
    drawing: str
    quantity: int
    lines: tuple[PartLine, ...]
    rotations: Literal["free"] | tuple[float, ...]
    grain: Literal[0, 90] | None
    mirror: bool
    group: str
    priority: int
    fill: bool
    missing: bool
    box: Box
    label: tuple[float, float, float]
    area: float
    perimeter: float
    contours: list[OutlineDrawn]
    features: list[FeatureDrawn]
    origin: Point
    shape: str
    altered: int
    versions: int
    note: str
    rings: list[list[Point]]


class DrawingDocument(Document):
    """A drawing of the job, without the file itself."""

    id: str
    filename: str
    units: str
    scale_mm: float
    how: HowRead
    made: Recipe | None
    revision: int
    snags: tuple[Snag, ...]
    kept: tuple[str, ...]
    refused: tuple[str, ...]


class KeptPiece(Document):
    """Where a piece lies in a kept layout."""

    part: str
    sheet: str
    sheet_copy: int
    x: float
    y: float
    rotation: float
    mirrored: bool


class KeptDocument(Document):
    """A kept layout with its figures; ``last``: used length of its last sheet, mm; ``current``: made from
    what the job still is.
    """

    id: str
    name: str
    sheets: int
    last: float
    material_yield: Annotated[float, Field(alias="yield")]
    placed: int
    current: bool
    pieces: list[KeptPiece]


class LayoutDocument(Document):
    """The accepted layout and how it stands."""

    state: Literal["none", "fits", "out of date", "at fault"]
    fault: str
    """In a few words."""
    unplaced: dict[str, int]
    at_fault: list[str]
    bound: int
    engine: str
    steps: int
    last: float
    material_yield: Annotated[float, Field(alias="yield")]
    same: list[SameSheets]


class PieceDocument(Document):
    """Where a copy of a part lies on a sheet, with its id. mm, degrees."""

    id: str
    part: str
    copy_no: int
    sheet: str
    sheet_copy: int
    x: float
    y: float
    rotation: float
    mirrored: bool
    locked: bool


class InTheWayDocument(Document):
    """Something on a sheet that pieces keep away from: its outline (mm, round ones as chords that lie
    outside) and by how much; ``copy_no``: the only sheet of its kind that has it, None: all.
    """

    name: str
    outline: list[Point]
    clearance: float
    copy_no: int | None


class StockDocument(Document):
    """A line of stock with the thickness that counts and its spread, mm."""

    id: str
    name: str
    width: float
    height: float
    quantity: int
    nominal: float
    readings: tuple[float, ...]
    measured: date | None
    margin: float
    grain: Literal[0, 90] | None
    price: float | None
    outline: tuple[Point, ...]
    flaws: tuple[Flaw, ...]
    lot: str | None
    zero_at: Point
    """Where X0 Y0 lies on it."""
    thickness: float
    spread: float
    in_the_way: list[InTheWayDocument]


class ContourDocument(Document):
    """One feature as planned; ``tabs``: x, y and the direction of the edge there, degrees."""

    contour: str
    operation: str
    cutter: str
    inside: bool
    passes: int
    depth: float
    step_down: float
    tabs: list[tuple[float, float, float]]
    by_hand: bool
    omitted: bool
    reason: str
    on: On
    own_steps: bool
    steps: list[StepPlan]


class PathDocument(Document):
    """The lines of one cut as SVG path data in the part's frame."""

    contour: str
    cutter: str
    operation: str
    kind: StepKind
    d: str


class CutDocument(Document):
    """A cut of a sheet on the tape: when it begins, how long it takes (s), where it starts (mm)."""

    name: str
    trial: bool
    outline: bool
    force: float
    piece: str
    contour: str
    cutter: str
    operation: str
    kind: StepKind
    frees: bool
    inside: bool
    begins: float
    seconds: float
    passes: int
    tabs: int
    start: Point
    stop: str
    """What the operator does before it, while the program stops; empty: it does not."""
    position: int
    """Of long stock that is moved along: at which of its positions it is made, from 1."""


class RefusedMove(Document):
    """A cut that a person moved and that is back in its usual place, and why."""

    cut: str
    before: str
    why: str


class SheetDocument(Document):
    """A sheet's cuts in order; ``changes``: when which cutter is loaded; ``hold`` None: being worked out."""

    sheet: str
    copy_no: int
    seconds: float
    cut_length: float
    rapid_length: float
    changes: tuple[tuple[float, str], ...]
    hold: SheetHolding | None
    refused: list[RefusedMove]
    cuts: list[CutDocument]


class Reached(Document):
    """What acceleration leaves of a feed: metres, seconds, and mm/min on average."""

    metres: float
    seconds: float
    feed: float


class FileDocument(Document):
    """A program of the release."""

    name: str
    seconds: float
    sheet: str
    copy_no: int
    copies: tuple[int, ...]
    cutters: tuple[str, ...]
    z_zero: Literal["top", "bed"]


class ReleaseDocument(Contents):
    """What the release contains, what it leaves out, its programs, and how many files they go out as."""

    files: list[FileDocument]
    count: int


class SetupDocument(Document):
    """A setup: what was decided, and everything that follows from it."""

    id: str
    name: str
    machine: Machine
    material: Material
    cutters: tuple[Cutter, ...]
    rules: HouseRules
    datum: Datum
    touch_off: str
    """How X0 Y0 is set, in a sentence."""
    z_zero: Literal["top", "bed"]
    sheet_at: Point
    edge_at: Point | None
    turn: float
    """How far the sheet is turned on the table, degrees counter-clockwise."""
    zones_on: tuple[str, ...]
    screws: tuple[Screw, ...]
    fixings: tuple[Fixing, ...]
    order_by: OrderBy
    moved_cuts: tuple[MovedCut, ...]
    trial: tuple[str, ...]
    insides_apart: bool
    files_by: FilesBy
    stops: tuple[OperatorStop, ...]
    first_run: float
    operations: tuple[Operation, ...]
    proposed: str
    recipes: tuple[RecipeSteps, ...]
    allow_in_holes: bool
    guillotine: bool
    same_layouts: bool
    kept: list[KeptDocument]
    spacing: float
    kerf: float
    stock: list[StockDocument]
    layout: LayoutDocument
    pieces: list[PieceDocument]
    snags: tuple[Snag, ...]
    route: list[Stand]
    """How each station stands; at Prove and Release what the programs say comes on top."""
    contours: dict[str, list[ContourDocument]]
    paths: dict[str, dict[str, list[PathDocument]]]
    sheets: list[SheetDocument]
    own_tabs: dict[str, list[tuple[float, float, float]]]
    cutters_used: list[str]
    reached: dict[str, Reached]
    differs: dict[str, list[str]]
    yields: JobYield
    release: ReleaseDocument
    tabs_policy: Tabs
    news: list[News]
    turned: TurnSeen | None
    """How its sheets are turned over, where they are cut from both faces."""
    long: LongSeen | None
    """Whether and how its stock is moved along the table; None where that is no question."""


class Rest(Document):
    """What an answer leaves out, because whoever asked holds it in the answer with the tag ``since``.

    ``names``: of each list, by its path, the names of all its things in order; those that did not come are as
    they were. Paths: ``parts``, and of a setup ``SETUP/pieces``, ``SETUP/sheets`` (SHEET/COPY),
    ``SETUP/contours`` (by part) and ``SETUP/paths/STOCK``.
    """

    since: str
    names: dict[str, list[str]]


class JobDocument(Document):
    """Everything a screen needs for one revision; ``untried``: some remedies were not tried yet, reading
    again brings them.

    ``tag`` names this answer: a request that has it as header ``x-holds`` is answered with what changed
    since, and with ``rest``.
    """

    tag: str = ""
    rest: Rest | None = None
    id: str
    kind: Literal["parts", "surface", "run"]
    name: str
    revision: int
    says: str
    can_undo: bool
    can_redo: bool
    untried: bool
    orders: tuple[Order, ...]
    drawings: list[DrawingDocument]
    parts: list[PartDocument]
    choices: tuple[ContourChoice, ...]
    steps: tuple[StepsChoice, ...]
    mates: tuple[Mate, ...]
    setups: list[SetupDocument]


def view(
    revision: Revision,
    derived: Mapping[str, DerivedSetup],
    shapes: Shapes,
    news: Mapping[str, list[News]] | None = None,
    snags: Mapping[str, Sequence[Snag]] | None = None,
    untried: bool = False,
) -> JobDocument:
    """The document of one revision; ``news``: by setup, what the library has newer than the plan; ``snags``:
    with the remedies that work.
    """
    plan = revision.plan
    said = snags or {}
    return JobDocument(
        id=plan.id,
        kind=plan.kind,
        name=plan.name,
        revision=revision.number,
        says=revision.says,
        can_undo=revision.can_undo,
        can_redo=revision.can_redo,
        untried=untried,
        orders=plan.orders,
        drawings=[_drawing(d) for d in plan.drawings],
        parts=[_part(p, shapes) for p in plan.parts],
        choices=plan.choices,
        steps=plan.steps,
        mates=plan.mates,
        setups=[
            _setup(
                plan, derived, s.id, shapes, said.get(s.id, derived[s.id].snags), (news or {}).get(s.id, [])
            )
            for s in plan.setups
        ],
    )


def _drawing(d: Drawing) -> DrawingDocument:
    told = {k: getattr(d, k) for k in DrawingDocument.model_fields}
    return DrawingDocument(**{**told, "snags": tuple(of_drawing(s, d.id) for s in d.snags)})


GONE = Shape.of(Region(Contour.of([(0, 0), (1, 0), (1, 1), (0, 1)]), ()))[0]
"""Drawn in place of a shape that cannot be read."""


def _label_point(shape: Shape) -> tuple[float, float, float]:
    """Middle (x, y) and radius of the largest circle that lies in the part: where its name is written."""
    line = shapely.maximum_inscribed_circle(shape.region.polygon(0.2).buffer(0), tolerance=1.0)
    x, y = line.coords[0]
    return round(x, 2), round(y, 2), round(line.length, 2)


def feature_drawn(f: Feature) -> FeatureDrawn:
    """A feature for the screen."""
    x0, y0, x1, y1 = (round(v, 3) for v in f.contour.bbox)
    return FeatureDrawn(
        name=f.name,
        kind=f.kind,
        d=path_of(f.contour),
        depth=f.depth,
        closed=f.contour.closed,
        box=(x0, y0, x1, y1) if f.surface else None,
        surface=f.surface,
        face=f.face,
    )


def outline_drawn(name: str, c: Contour) -> OutlineDrawn:
    """A contour for the screen."""
    return OutlineDrawn(
        name=name, d=path_of(c), size=(round(c.bbox[2] - c.bbox[0], 3), round(c.bbox[3] - c.bbox[1], 3))
    )


def _part(p: Part, shapes: Shapes) -> PartDocument:
    try:
        shape = shapes[p.shape]
    except (BadInput, LookupError, ValueError):
        shape = GONE  # its setup says so with a stop; the plan opens all the same
    drawn = memo("drawn", shape.digest, lambda: _shape_drawn(shape))
    own = {
        k: getattr(p, k)
        for k in (
            "id",
            "name",
            "setup",
            "drawing",
            "quantity",
            "lines",
            "rotations",
            "grain",
            "mirror",
            "group",
            "priority",
            "fill",
            "missing",
            "origin",
            "shape",
            "note",
        )
    }
    return PartDocument(**own, altered=len(p.alterations), versions=len(p.versions), **drawn)


def _shape_drawn(shape: Shape) -> dict[str, object]:
    """The fields of a part's document that its geometry alone decides."""
    x0, y0, x1, y1 = (round(v, 4) for v in shape.region.outline.bbox)
    return {
        "box": (x0, y0, x1, y1),
        "label": _label_point(shape),
        "area": shape.region.area,
        "perimeter": shape.region.perimeter,
        "contours": [outline_drawn(n, c) for n, c in shape.contours],
        "features": [feature_drawn(f) for f in shape.features],
        "rings": [
            [(round(float(x), 3), round(float(y), 3)) for x, y in c.points(RING, 1)]
            for c in shape.region.loops
        ],
    }


def _kept(plan: Plan, s: Setup, k: KeptLayout, shapes: Shapes, inputs: str) -> KeptDocument:
    """A kept layout with its figures and its pieces, for a picture beside others."""
    f = figures(plan, s, k.nest, shapes)
    pieces = [
        KeptPiece(
            part=q.part,
            sheet=q.sheet,
            sheet_copy=q.sheet_copy,
            x=round(q.x, 1),
            y=round(q.y, 1),
            rotation=q.rotation,
            mirrored=q.mirrored,
        )
        for q in k.nest.pieces
    ]
    return KeptDocument(
        id=k.id,
        name=k.name,
        sheets=f.sheets,
        last=f.last,
        material_yield=f.material_yield,
        placed=f.pieces,
        current=k.nest.inputs == inputs,
        pieces=pieces,
    )


def _layout(plan: Plan, d: DerivedSetup, shapes: Shapes) -> LayoutDocument:
    s = d.setup
    f = figures(plan, s, s.nest, shapes) if s.nest and not d.underived else None
    return LayoutDocument(
        state=d.layout.state,
        fault=d.layout.fault,
        unplaced=dict(d.layout.unplaced),
        at_fault=sorted(d.layout.at_fault),
        bound=s.nest.bound if s.nest else 0,
        engine=s.nest.engine if s.nest else "",
        steps=s.nest.steps if s.nest else 0,
        last=f.last if f else 0.0,
        material_yield=f.material_yield if f else 0.0,
        same=same_sheets([placement(q) for q in s.nest.pieces]) if s.nest else [],
    )


DECIDED = (
    "id",
    "name",
    "machine",
    "material",
    "cutters",
    "rules",
    "datum",
    "z_zero",
    "sheet_at",
    "edge_at",
    "zones_on",
    "screws",
    "fixings",
    "order_by",
    "moved_cuts",
    "trial",
    "insides_apart",
    "files_by",
    "stops",
    "first_run",
    "operations",
    "proposed",
    "recipes",
    "allow_in_holes",
    "guillotine",
    "same_layouts",
)
"""Fields of a setup that its document has as they are."""


def _setup(
    plan: Plan,
    derived: Mapping[str, DerivedSetup],
    setup_id: str,
    shapes: Shapes,
    snags: Sequence[Snag],
    news: list[News],
) -> SetupDocument:
    d = derived[setup_id]
    s = d.setup
    kept = () if d.underived else s.kept
    inputs = inputs_now(plan, s, shapes) if kept else ""
    first = next(iter(d.cuts.values()), {})
    return SetupDocument(
        **{k: getattr(s, k) for k in DECIDED},
        kept=[_kept(plan, s, k, shapes, inputs) for k in kept],
        spacing=plan.spacing(s),
        kerf=plan.kerf(s),
        turn=math.degrees(s.lying.turn),
        touch_off=touched_off(s.datum, s.machine, s.lying, lambda v: f"{v:g} mm"),
        stock=[
            StockDocument(
                **dict(k),
                thickness=k.thickness,
                spread=k.spread,
                zero_at=place(s.datum, k, s.machine, s.lying),
                in_the_way=[_standing(w) for w in in_the_way(s, k, plan.kerf(s))],
            )
            for k in s.stock
        ],
        layout=_layout(plan, d, shapes),
        pieces=[_piece(q) for q in (s.nest.pieces if s.nest else ())],
        snags=tuple(snags),
        route=route_of(plan, d),
        contours={part: _drawn(pc)[0] for (part, flip), pc in first.items() if not flip},
        paths={
            stock: {f"{part}{'!' if flip else ''}": _drawn(pc)[1] for (part, flip), pc in parts.items()}
            for stock, parts in d.cuts.items()
        },
        sheets=[_sheet(sh, held) for sh, held in zip(d.sheets, d.holds, strict=True)],
        own_tabs={q: _drawn(pc)[0][-1].tabs for q, pc in d.own.items()},
        cutters_used=list(d.cutters_used),
        reached=_reached(d),
        differs=_differs(s),
        yields=d.yields,
        release=_release(plan, d),
        tabs_policy=s.tabs_on("outlines"),
        news=news,
        turned=turn_seen(plan, derived, setup_id, shapes),
        long=long_seen(plan, derived, setup_id, shapes),
    )


@lru_cache(maxsize=40_000)
def _piece(q: Piece) -> PieceDocument:
    """A piece for the screen; most edits leave most of them as they are."""
    return PieceDocument(**dict(q), id=q.id)


def _standing(w: InTheWay) -> InTheWayDocument:
    outline = Contour.of(w.shape).points(RING, 1)
    return InTheWayDocument(
        name=w.name,
        outline=[(round(float(x), 3), round(float(y), 3)) for x, y in outline],
        clearance=w.clearance,
        copy_no=w.copy_no,
    )


def _release(plan: Plan, d: DerivedSetup) -> ReleaseDocument:
    if d.kerf:
        ready = kerf_jobs.programs(plan, d, d.kerf)
        stops = [s.message for s in d.snags if s.severity == "stop"]
        told = kerf_jobs.contents(plan, d, d.kerf, stops)
        out = [FileDocument(**{k: getattr(f, k) for k in FileDocument.model_fields}) for f in ready]
        return ReleaseDocument(**dict(told), files=out, count=len(out))
    ready = programs(plan, d)
    files = [FileDocument(**{k: getattr(f, k) for k in FileDocument.model_fields}) for f in ready]
    return ReleaseDocument(**dict(contents(plan, d)), files=files, count=count_files(plan, d, ready))


def _sheet(sh: SheetPlan, held: SheetHold | None) -> SheetDocument:
    return SheetDocument(
        sheet=sh.sheet,
        copy_no=sh.copy_no,
        seconds=sh.seconds,
        cut_length=sh.cut_length,
        rapid_length=sh.rapid_length,
        changes=sh.changes,
        hold=sheet_holding(held),
        refused=[RefusedMove(cut=m.cut, before=m.before, why=why) for m, why in sh.refused],
        cuts=memo("cut cells", sh.key, lambda: [_cell(c) for c in sh.cuts]),
    )


def _cell(c: PlacedCut) -> CutDocument:
    cut = c.cut
    return CutDocument(
        name=c.name,
        trial=c.trial,
        outline=c.outline,
        position=c.position + 1,
        force=round(cut.load.force, 1),
        piece=c.piece.id,
        contour=cut.contour,
        cutter=cut.cutter,
        operation=cut.operation,
        kind=cut.kind,
        frees=cut.frees,
        inside=cut.inside,
        begins=round(c.begins, 3),
        seconds=round(c.seconds, 3),
        passes=len(cut.levels),
        tabs=len(cut.tabs),
        stop=c.stop,
        start=(round(float(c.moves[0, 1]), 2), round(float(c.moves[0, 2]), 2)),
    )


def _reached(d: DerivedSetup) -> dict[str, Reached]:
    """By operation, and by operation and cutter: metres cut, seconds, and the mean speed that acceleration
    leaves of the feed, mm/min.
    """
    sums: dict[str, list[float]] = {}
    for sheet in d.sheets:
        for c in sheet.cuts:
            for key in (c.cut.operation, f"{c.cut.operation}|{c.cut.cutter}"):
                row = sums.setdefault(key, [0.0, 0.0])
                row[0] += c.cut_length
                row[1] += c.seconds
    return {
        op: Reached(
            metres=round(length / 1000, 3),
            seconds=round(seconds, 1),
            feed=round(length / seconds * 60, 1) if seconds else 0.0,
        )
        for op, (length, seconds) in sums.items()
    }


def _differs(s: Setup) -> dict[str, list[str]]:
    """By kind of feature: in what its steps differ from the recipe they came from, in words."""
    out: dict[str, list[str]] = {}
    for r in s.recipes:
        own = s.steps_on(r.on)
        said = []
        for step in own:
            diff = differences(step, r)
            if diff is None:
                said.append(f"step {step.id} is not in the recipe")
            said += [
                f"{step.id}: {k.replace('_', ' ')} {_plain(b)}, the recipe says {_plain(a)}"
                for k, (a, b) in (diff or {}).items()
            ]
        said += [f"step {x.id} left out" for x in r.steps if x.id not in {o.id for o in own}]
        out[r.on] = said
    return out


def _plain(v: Any) -> str:
    return "by house rule" if v is None else f"{v:g}" if isinstance(v, float) else str(v)


_cuts_seen: WeakKeyDictionary[PartCuts, tuple[list[ContourDocument], list[PathDocument]]] = (
    WeakKeyDictionary()
)


def _drawn(pc: PartCuts) -> tuple[list[ContourDocument], list[PathDocument]]:
    """Features as planned and the lines of their cuts; worked out once for a part's cuts, which most edits
    leave as they are.
    """
    if pc not in _cuts_seen:
        lines = [
            PathDocument(
                contour=c.contour,
                cutter=c.cutter,
                operation=c.operation,
                kind=c.kind,
                d="".join(path_of(line) for line in c.lines),
            )
            for c in pc.cuts
        ]
        _cuts_seen[pc] = (_contours(pc), lines)
    return _cuts_seen[pc]


def _contours(pc: PartCuts) -> list[ContourDocument]:
    out = []
    for c in pc.contours:
        path = next((k.path for k in reversed(pc.cuts) if k.contour == c.contour), None)
        same = {
            k: getattr(c, k)
            for k in (
                "contour",
                "operation",
                "cutter",
                "inside",
                "passes",
                "depth",
                "step_down",
                "omitted",
                "reason",
                "on",
                "own_steps",
            )
        }
        tabs = [_tab_drawn(path, *t) for t in c.tabs]
        out.append(ContourDocument(**same, tabs=tabs, by_hand=c.tabs_by_hand, steps=list(c.steps)))
    return out


def _tab_drawn(path: Contour | None, x: float, y: float) -> tuple[float, float, float]:
    """A tab's place, and the direction of the edge there, degrees."""
    dx, dy = path.at(path.nearest(x, y)[0])[2:] if path is not None else (1.0, 0.0)
    return round(x, 3), round(y, 3), round(math.degrees(math.atan2(dy, dx)), 2)
