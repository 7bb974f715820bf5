"""The plan: everything about a job that a person decided or accepted. All else is derived from it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.cuts.operations import Chamfer, On, Operation, Profile, RecipeSteps
from venzo.core.faces.registration import FaceRole, OtherFace, TurnedBack
from venzo.core.holding.fixings import Fixing
from venzo.core.holding.screws import Screw
from venzo.core.indexing.positions import Indexing
from venzo.core.kerf.how import KerfChoices, KerfHow
from venzo.core.model import Id, Name, NotNegative, Point, Value, digest
from venzo.core.parts.alter import Alteration, ModelSet, SurfaceMade
from venzo.core.parts.intake import HowRead
from venzo.core.parts.made import Inset, Recipe
from venzo.core.rules.house import ClosedLine, HouseRules, Tabs
from venzo.core.snags import BadInput, Snag
from venzo.core.stock.laid_sheets import TableRun
from venzo.core.stock.lying import Lying, lying
from venzo.core.stock.machine import Machine
from venzo.core.stock.material import Material
from venzo.core.stock.sheet import Stock
from venzo.core.stock.zeros import CornerZero, Datum
from venzo.core.surfacing.board import SurfaceSetup
from venzo.core.tooling.assembly import NOSE, Assembly
from venzo.core.tooling.cutter import Cutter, Holder
from venzo.core.tooling.head import LEVELS, Charted, HeadSetting, charted

Coordinate = Annotated[float, Field(ge=-100_000, le=100_000)]
Quantity = Annotated[int, Field(ge=0, le=10_000)]


class Order(Value):
    """One customer's order; several orders may share sheets."""

    id: Id
    name: Name


class Drawing(Value):
    """A drawing file or a recipe of a made part: ``blob`` is the digest of the file as it came, ``units`` as
    understood, ``scale_mm`` mm per unit.

    ``how``: what a person said about how it is read. ``made``: the recipe, where the parts were made here.
    """

    id: Id
    filename: Name
    blob: str
    units: str
    scale_mm: float
    how: HowRead = HowRead()
    made: Recipe | None = None
    revision: int = 1
    snags: tuple[Snag, ...] = ()
    """What reading it gave cause to say."""
    kept: tuple[Id, ...] = ()
    """Parts that stay as they were although this version of the file has them otherwise, or no longer: a
    person did not adopt them.
    """
    refused: tuple[str, ...] = ()
    """Shapes (digests) that are new in this version of the file and that a person did not take in."""


class PartLine(Value):
    """How many pieces of a part an order wants."""

    order: Id
    quantity: Quantity


class PartVersion(Value):
    """A shape that a part had before, and what was learned from it; ``alterations`` of ``drawn`` that made it
    so, where a person kept it.
    """

    shape: str
    drawing_revision: int
    note: Annotated[str, Field(max_length=2000)] = ""
    drawn: str = ""
    alterations: Annotated[tuple[Alteration, ...], Field(max_length=200)] = ()


MOST_VERSIONS = 40
"""Versions of a part that are kept; the oldest go first."""


class Part(Value):
    """A part. ``shape``: digest of its geometry as it is cut; ``origin``: where its frame lies in the
    drawing, mm.

    ``drawn``: digest of its geometry as drawn, before ``alterations`` (empty: the same). ``missing``: a newer
    drawing no longer has it. ``note``: what was learned about it as it is now.
    """

    id: Id
    name: Name
    setup: Id
    drawing: Id
    shape: str
    origin: Point
    lines: tuple[PartLine, ...]
    rotations: Literal["free"] | tuple[float, ...] = (0.0, 90.0, 180.0, 270.0)
    grain: Literal[0, 90] | None = None
    mirror: bool = False
    group: Annotated[str, Field(max_length=80)] = ""
    """Parts of one group are kept together on a sheet."""
    priority: Annotated[int, Field(ge=0, le=9)] = 0
    """Higher is placed first where the sheets do not take all."""
    fill: bool = False
    """Used only where it opens no new sheet."""
    missing: bool = False
    drawn: str = ""
    alterations: Annotated[tuple[Alteration, ...], Field(max_length=200)] = ()
    versions: tuple[PartVersion, ...] = ()
    note: Annotated[str, Field(max_length=2000)] = ""

    @property
    def quantity(self) -> int:
        """Pieces wanted over all orders."""
        return sum(line.quantity for line in self.lines)


def order_of(part: Part, copy_no: int) -> str:
    """Which order a piece is for: copies are given out line by line; empty for more than are wanted.

    >>> lines = (PartLine(order="a", quantity=2), PartLine(order="b", quantity=1))
    >>> own = Part(id="p", name="p", setup="s", drawing="d", shape="x", origin=(0, 0), lines=lines)
    >>> [order_of(own, n) for n in range(4)]
    ['a', 'a', 'b', '']
    """
    for line in part.lines:
        if copy_no < line.quantity:
            return line.order
        copy_no -= line.quantity
    return ""


class ContourChoice(Value):
    """What a person chose for one contour of a part, anchored in the part's own frame.

    ``tabs``: middles of tabs placed by hand (they replace the automatic ones); ``cutter``: instead of the
    operation's; ``start``: where the cutter enters; ``omit``: not cut, on purpose; ``line``: what a closed
    groove line means.
    """

    part: Id
    contour: Name
    cutter: Id | None = None
    tabs: tuple[Point, ...] | None = None
    tab_count: Annotated[int, Field(ge=0, le=40)] | None = None
    start: Point | None = None
    omit: bool = False
    line: ClosedLine | None = None

    @property
    def empty(self) -> bool:
        """Nothing chosen: the record can go."""
        return (
            self.cutter is None
            and self.tabs is None
            and self.tab_count is None
            and self.start is None
            and self.line is None
            and not self.omit
        )


class StepsChoice(Value):
    """Steps that a part has of its own for a kind of feature, or for one contour, in place of the setup's."""

    part: Id
    on: On
    contour: Annotated[str, Field(max_length=200)] = ""
    """Empty: every feature of that kind in the part."""
    steps: Annotated[tuple[Operation, ...], Field(max_length=12)]

    @property
    def key(self) -> tuple[str, str, str]:
        """What it is about."""
        return self.part, self.on if not self.contour else "", self.contour


class Piece(Value):
    """One copy of a part on a sheet: mirrored (x -> -x), rotated counter-clockwise about the part's origin,
    moved by (x, y).
    """

    part: Id
    copy_no: Annotated[int, Field(ge=0)]
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)]
    x: Coordinate
    y: Coordinate
    rotation: Annotated[float, Field(ge=-3600, le=3600)] = 0.0
    mirrored: bool = False
    locked: bool = False

    @property
    def id(self) -> str:
        """Persistent id of this piece."""
        return f"{self.part}#{self.copy_no + 1}"


class AcceptedNest(Value):
    """A layout that was accepted, with where it came from. ``inputs``: digest of the nest problem it
    answered.
    """

    pieces: tuple[Piece, ...]
    inputs: str
    reasons: dict[str, str] = {}
    """Why copies of a part (id) found no place."""
    engine: str = ""
    seed: int = 0
    steps: int = 0
    bound: int = 0


OrderBy = Literal["insides first", "outsides first", "piece by piece", "small parts first", "heat spread"]


class MovedCut(Value):
    """A cut that a person put just before another (or at the end), on one sheet; both by their
    ``CutName``.
    """

    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    cut: Annotated[str, Field(max_length=400)]
    before: Annotated[str, Field(max_length=400)] = ""
    """Empty: at the end."""


class OperatorStop(Value):
    """The program stops before a cut of one sheet for something to be done by hand, said in ``words``."""

    id: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    before: Annotated[str, Field(min_length=1, max_length=400)]
    """The cut's ``CutName``."""
    words: Annotated[str, Field(min_length=1, max_length=100)]


class KeptLayout(Value):
    """A layout laid aside to compare with others."""

    id: Id
    name: Name
    nest: AcceptedNest


FilesBy = Literal["job", "sheet", "cutter", "operation"]


class Setup(Value):
    """One machine, one material and its sheets, with snapshots of everything from the library that the plan
    was made with.
    """

    id: Id
    name: Name
    machine: Machine
    material: Material
    cutters: tuple[Cutter, ...]
    holders: Annotated[tuple[Holder, ...], Field(max_length=200)] = ()
    """What the cutters are clamped in."""
    heads: Annotated[tuple[HeadSetting, ...], Field(max_length=40)] = ()
    """Of a kerf table: the head settings that may cut here."""
    kerf_cutting: KerfChoices = KerfChoices()
    """Of a kerf table: how its contours are cut."""
    rules: HouseRules
    stock: tuple[Stock, ...] = ()
    datum: Datum = CornerZero()
    z_zero: Literal["top", "bed"] = "top"
    sheet_at: Point = (0.0, 0.0)
    """Where the sheet's lower left corner lies on the table, mm."""
    edge_at: Point | None = None
    """A second point read on the lower edge of a sheet that lies crooked, on the table, mm; None: it lies
    straight.
    """
    zones_on: tuple[Id, ...] = ()
    screws: Annotated[tuple[Screw, ...], Field(max_length=400)] = ()
    fixings: Annotated[tuple[Fixing, ...], Field(max_length=200)] = ()
    """Clamps, cams, pins, tape, pods and fixture boards."""
    order_by: OrderBy = "insides first"
    """How the cuts of a sheet are put in order."""
    moved_cuts: Annotated[tuple[MovedCut, ...], Field(max_length=2000)] = ()
    """Cuts that a person moved on the tape."""
    trial: Annotated[tuple[str, ...], Field(max_length=200)] = ()
    """Pieces that are cut first, in a program of their own."""
    files_by: FilesBy = "sheet"
    """What a program holds: all sheets with a stop between them, all of a sheet, what one cutter does, or one
    operation of one cutter.
    """
    insides_apart: bool = False
    """Insides and outlines in programs of their own."""
    stops: Annotated[tuple[OperatorStop, ...], Field(max_length=200)] = ()
    """Where programs stop for the operator."""
    first_run: Annotated[float, Field(ge=10, le=100)] = 100.0
    """Per cent of the feeds at which the first sheet is run, said on paper; the programs have the whole."""
    operations: Annotated[tuple[Operation, ...], Field(max_length=80)] = ()
    proposed: str = ""
    """Digest of the operations as the app proposed them: while they are the same, nobody has chosen any, and
    another sheet or a drawing gets a proposal of its own.
    """
    recipes: Annotated[tuple[RecipeSteps, ...], Field(max_length=20)] = ()
    """The recipe each kind of feature took its steps from, as it was then."""
    nest: AcceptedNest | None = None
    allow_in_holes: bool = True
    guillotine: bool = False
    """Rectangles only: every cut from edge to edge, for a panel saw."""
    same_layouts: bool = False
    """Prefer one layout on several sheets where it costs no sheet more."""
    kept: Annotated[tuple[KeptLayout, ...], Field(max_length=24)] = ()
    indexing: Indexing | None = None
    """The stock is longer than the table and moved along it."""
    other_face: OtherFace | None = None
    """The other face of another setup: it has no nest and no stock of its own, they are the image of that
    one's.
    """
    turned_back: TurnedBack | None = None
    """The first face of another setup once more: its layout, stock, cutters and steps are that one's."""
    role: FaceRole | None = None
    """Of stock cut from both faces what this setup does of it: never stored, but as ``faces.seen`` sees
    it.
    """

    @property
    def head(self) -> HeadSetting | None:
        """The head setting that cuts, on a kerf table; None on a router."""
        if self.machine.head is None:
            return None
        fits = [h for h in self.heads if h.process == self.machine.head.process]
        return next((h for h in fits if h.id == self.kerf_cutting.head), fits[0] if fits else None)

    def kerf_how(self, thickness: float) -> tuple[KerfHow, Charted]:
        """How a sheet of a thickness (mm) is cut on a kerf table, and what the head's chart says of it.

        Raises:
            BadInput: the setup has no head setting for its table.
        """
        return how_cut(self, thickness)

    @property
    def lying(self) -> Lying:
        """How the sheet lies on the table."""
        return lying(self.sheet_at, self.edge_at)

    def shift(self, position: int) -> Point:
        """What is added to a place of the table, mm, to find it on stock that is moved along it, at a
        position.
        """
        return self.indexing.shift(position) if self.indexing is not None else (0.0, 0.0)

    @property
    def as_proposed(self) -> bool:
        """Are the operations still the app's own proposal?"""
        return bool(self.proposed) and digest(self.operations) == self.proposed

    def with_proposal(self, operations: tuple[Operation, ...]) -> Setup:
        """The setup with a proposal in place of its operations."""
        return self.model_copy(update={"operations": operations, "proposed": digest(operations)})

    def cutter(self, cutter_id: str) -> Cutter | None:
        """The pinned cutter with this id."""
        return next((c for c in self.cutters if c.id == cutter_id), None)

    def assembly(self, cutter: Cutter) -> Assembly:
        """A cutter as it is clamped here; in a usual nut where its holder is not pinned."""
        nose = next((h.nose for h in self.holders if h.id == cutter.holder), NOSE)
        return Assembly(
            cutter,
            cutter.reach,
            cutter.overhang,
            max(nose, cutter.shank),
            self.machine.shoe,
            cutter.stick_out is None,
        )

    def cutters_named(self, ids: Sequence[str]) -> list[Cutter]:
        """The pinned cutters with these ids, in this order; those that are not pinned are left out."""
        return [c for i in ids if (c := self.cutter(i)) is not None]

    def stock_of(self, stock_id: str) -> Stock | None:
        """The stock line with this id."""
        return next((s for s in self.stock if s.id == stock_id), None)

    def cuts_here(self, on: str) -> bool:
        """Are contours of a kind (outlines, holes) cut in this setup, or is that the other face's?"""
        if self.role is None or on not in ("outlines", "holes", "round holes"):
            return True
        return (self.role.outlines if on == "outlines" else self.role.holes) != "there"

    @property
    def follows(self) -> bool:
        """Do its stock and its layout follow from another setup, of which this is a turn?"""
        return self.other_face is not None or self.turned_back is not None

    @property
    def in_jig(self) -> bool:
        """Do pieces lie here that are turned one by one?"""
        return self.role is not None and self.role.singly and self.role.number == 2

    @property
    def halves(self) -> bool:
        """Are outlines cut half from here and half from the other face?"""
        return self.role is not None and self.role.outlines == "half"

    def steps_on(self, on: str) -> tuple[Operation, ...]:
        """The operations on a kind of feature, in order."""
        return tuple(o for o in self.operations if o.on == on)

    def operation(self, on: str) -> Profile | None:
        """The last profile on ``outlines`` or ``holes``: the one that leaves the finished edge."""
        return next((o for o in reversed(self.operations) if o.on == on and isinstance(o, Profile)), None)

    def recipe(self, on: str) -> RecipeSteps | None:
        """The recipe that the steps on a kind of feature came from."""
        return next((r for r in self.recipes if r.on == on), None)

    def house_tabs(self, on: str) -> Tabs:
        """Tabs by house rule: none on holes."""
        house = self.rules.tabs.get(self.material.family, Tabs())
        return house if on == "outlines" else house.model_copy(update={"count": 0})

    def tabs_on(self, on: str) -> Tabs:
        """The tab policy in force for ``outlines`` or ``holes``: an operation's own, else the house rule."""
        return next(
            (
                o.tabs
                for o in reversed(self.operations)
                if o.on == on and isinstance(o, Profile) and o.tabs is not None
            ),
            None,
        ) or self.house_tabs(on)


def how_cut(setup: Setup, thickness: float) -> tuple[KerfHow, Charted]:
    """As ``Setup.kerf_how``."""
    head, table = setup.head, setup.machine.head
    if head is None or table is None:
        process = table.process if table else "kerf"
        raise BadInput(
            f"{setup.name}: there is no {process} head setting among those of this job; enter one in the"
            " library and adopt it"
        )
    said = charted(head, setup.material.sort or setup.material.name, thickness)
    c = setup.kerf_cutting
    share = LEVELS[(c.level or setup.rules.jet_level) - 1] if head.process == "fluid jet" else 1.0
    feed = said.feed * share
    return KerfHow(
        kerf=said.kerf,
        lead=c.lead,
        lead_kind=c.lead_kind,
        lead_angle=c.lead_angle,
        lead_out=c.lead_out,
        out_length=c.out_length,
        feed=feed,
        lead_feed=feed * c.lead_share,
        out_feed=feed * c.out_share,
        hop=c.hop,
        hop_feed=c.hop_feed,
        tabs=c.tabs,
        thickness=thickness,
        holes=c.holes,
        common_line=c.common_line,
        cut_up=c.cut_up,
        cut_up_every=c.cut_up_every,
        swirl=head.swirl if head.process == "plasma" else "none",
        corners=c.corners,
        corner_to=c.corner_to,
        loop=c.loop,
        still=c.still,
        pierce=said.pierce or 0.0,
        edge_start=said.pierce is None,
        pre_pierce=c.pre_pierce,
        bridge=c.bridge,
        bridge_reach=1.25 * _own_lines_room(setup, said.kerf) if c.bridge else 0.0,
        bridge_most=c.bridge_most,
    ), said


def kerf_room(setup: Setup) -> float:
    """Distance that pieces keep on a kerf table, mm: one kerf where lines are common, else room for a lead
    and for the neighbour's kerf.
    """
    if setup.head is None:
        return 0.0
    how = how_cut(setup, setup.stock[0].thickness if setup.stock else 1.0)[0]
    return how.kerf if how.common_line else _own_lines_room(setup, how.kerf)


def _own_lines_room(setup: Setup, kerf: float) -> float:
    """Distance that pieces keep where each has its own line, mm: room for a lead, and for both kerfs."""
    return setup.kerf_cutting.lead + 2 * kerf + setup.rules.web


class Mate(Value):
    """A sheet that slots are made for and that is not cut here: its name and measured thickness, mm."""

    id: Id
    name: Name
    thickness: Annotated[float, Field(gt=0, le=500)]


class Plan(Value):
    """A job's plan."""

    id: Id
    name: Name
    orders: tuple[Order, ...] = ()
    drawings: tuple[Drawing, ...] = ()
    parts: tuple[Part, ...] = ()
    setups: tuple[Setup, ...] = ()
    choices: tuple[ContourChoice, ...] = ()
    steps: tuple[StepsChoice, ...] = ()
    mates: Annotated[tuple[Mate, ...], Field(max_length=40)] = ()
    surface: SurfaceSetup | None = None
    """The board to surface, in a job of that kind; it has no parts and no other setups."""
    run: TableRun | None = None
    """Sheets of other jobs cut in one go, in a job of that kind; it has no parts and no setups."""

    @property
    def kind(self) -> Literal["parts", "surface", "run"]:
        """Does the job cut parts, surface a board, or run sheets of other jobs?"""
        return "surface" if self.surface else "run" if self.run else "parts"

    def part(self, part_id: str) -> Part | None:
        """The part with this id."""
        return next((p for p in self.parts if p.id == part_id), None)

    def shape_of(self, part_id: str) -> str:
        """The digest of a part's shape; KeyError where there is no such part."""
        found = self.part(part_id)
        if found is None:
            raise KeyError(part_id)
        return found.shape

    def setup(self, setup_id: str) -> Setup | None:
        """The setup with this id."""
        return next((s for s in self.setups if s.id == setup_id), None)

    def other_face_of(self, setup_id: str) -> Setup | None:
        """The setup that is the other face of one."""
        return next((s for s in self.setups if s.other_face and s.other_face.of == setup_id), None)

    def turned_back_after(self, setup_id: str) -> Setup | None:
        """The setup that has the first face up once more after another face was cut."""
        return next((s for s in self.setups if s.turned_back and s.turned_back.after == setup_id), None)

    def turns(self, setup_id: str) -> int:
        """How often the sheets of a setup are turned over while they are cut."""
        back = self.other_face_of(setup_id)
        return 0 if back is None else 1 if self.turned_back_after(back.id) is None else 2

    def parts_of(self, setup_id: str) -> list[Part]:
        """Parts that are cut in a setup."""
        return [p for p in self.parts if p.setup == setup_id]

    def spacing(self, setup: Setup) -> NotNegative:
        """Distance between pieces, mm: one kerf, or two where the shop keeps a skeleton between them, plus
        the web.
        """
        if setup.machine.head is not None:
            return self.kerf(setup)
        return self.kerf(setup) * (2 if setup.rules.between == "skeleton" else 1) + setup.rules.web

    def kerf(self, setup: Setup) -> NotNegative:
        """Room that the cuts of a piece take beside it, mm: the largest cutter that runs between pieces, with
        its lead and its allowance.

        The holes' cutter counts where pieces may lie in holes, and so does a cutter chosen by hand for one
        contour.
        """
        if setup.machine.head is not None:
            return kerf_room(setup)
        mine = {p.id for p in self.parts_of(setup.id)}
        between = ("outlines", "holes", "round holes") if setup.allow_in_holes else ("outlines",)
        steps = [*setup.operations, *(s for c in self.steps if c.part in mine for s in c.steps)]
        room = [0.0]
        for s in steps:
            cutter = setup.cutter(s.cutter)
            if cutter is None or s.on not in between:
                continue
            if isinstance(s, Profile):
                lead = s.lead_length if s.lead != "none" else 0.0
                room.append(cutter.diameter + s.side_allowance + (lead if s.lead == "arc" else lead * 0.71))
            elif isinstance(s, Chamfer):
                off = (
                    s.offset
                    if s.offset is not None
                    else cutter.tip / 2 + (0.25 if cutter.kind == "v-bit" else 0.0)
                )
                room.append(
                    2 * off + (s.width if cutter.kind == "v-bit" else cutter.corner_radius) - setup.rules.web
                )
        by_id = {c.id: c.diameter for c in setup.cutters}
        room += [
            by_id.get(c.cutter, 0.0)
            for c in self.choices
            if c.cutter and c.part in mine and (setup.allow_in_holes or not c.contour.startswith("hole"))
        ]
        return max(room)

    def choice(self, part_id: str, contour: str) -> ContourChoice | None:
        """The hand choice for a contour, if any."""
        return next((c for c in self.choices if c.part == part_id and c.contour == contour), None)

    @property
    def shapes(self) -> set[str]:
        """Digests of all geometry the plan refers to."""
        made = {d.made.source for d in self.drawings if isinstance(d.made, Inset)}
        return (
            {p.shape for p in self.parts}
            | {p.drawn for p in self.parts if p.drawn}
            | {s for p in self.parts for v in p.versions for s in (v.shape, v.drawn) if s}
            | made
        )

    @property
    def blobs(self) -> set[str]:
        """Digests of everything stored outside the plan."""
        drawings = {d.blob for d in self.drawings} | {r for d in self.drawings for r in d.refused}
        return self.shapes | self.surfaces | drawings

    @property
    def surfaces(self) -> set[str]:
        """Digests of the models of reliefs."""
        every = [a for p in self.parts for a in p.alterations]
        every += [a for p in self.parts for v in p.versions for a in v.alterations]
        models = {a.surface for a in every if isinstance(a, ModelSet)}
        return models.union(*(a.pictures for a in every if isinstance(a, SurfaceMade)))
