"""What holds each piece, at every moment of a sheet's program, and is it enough for what is cut then?"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import shapely
from shapely import STRtree
from shapely.affinity import affine_transform
from shapely.geometry import Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from venzo.core.cuts.cut import ContourCut
from venzo.core.cuts.moves import X, Y
from venzo.core.faces.left_by_first import LeftByFirst, kerf_to_half
from venzo.core.geometry.contour import Array
from venzo.core.holding.fixings import Cam, Clamp, Cover, FixtureBoard, Pin, Pod, Tape
from venzo.core.holding.pieces import NEVER, Divided, divide, moments
from venzo.core.holding.strength import (
    HoldRules,
    friction_force,
    group_force,
    shear_force,
    suction,
    tab_section,
    tape_hold,
    tipping,
)
from venzo.core.holding.swath import Kerf, kerf_of, surface
from venzo.core.holding.vacuum import ESTIMATED, Spoilboard, pressure
from venzo.core.indexing.reach import at_position
from venzo.core.memo import known, memo
from venzo.core.model import digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Plan, Setup
from venzo.core.stock.sheet import Stock
from venzo.core.tooling.cutter import Cutter

VERSION = "hold-4"
BESIDE = 1.0
"""mm; a screw further from every piece of the sheet holds nothing."""
BEYOND = 12.0
"""mm all round by which a piece that is cut out may be larger than it is drawn: lips beside a pointed cut."""
SPOTS = 24
"""Points of a cut at which its load is tried."""


@dataclass(frozen=True)
class Hold:
    """One thing that holds a piece: what it is in words, N sideways and N upwards, its middle (mm) and its
    spread (radius of gyration, mm).
    """

    kind: str
    says: str
    side: float
    up: float
    x: float
    y: float
    spread: float = 0.0


@dataclass(frozen=True)
class Held:
    """A piece of material after one cut.

    ``cut``: index in the sheet's order; ``kind``: "piece", "drop" (waste from within ``piece``), "skeleton",
    or "sheet" where it is still several; ``body``: an atom of it. ``side``, ``up``: N that hold it where the
    load is worst; ``load``, ``lift``: N of that cut; ``ratio``: the lesser of hold over load (inf without
    load). ``frees``: this cut parted it from another piece of material (tabs and skin may remain). ``area``:
    mm2.
    """

    cut: int
    kind: str
    piece: str
    body: int
    side: float
    up: float
    load: float
    lift: float
    ratio: float
    area: float
    frees: bool
    holds: tuple[Hold, ...] = field(default=())
    joined: str = ""
    """"tabs" or "skin" that join it to the rest, whether or not the rest holds."""
    tips: float = math.inf
    """What keeps it from tipping over the edge of its footprint, over what tips it: the load at the height of
    the cut (inf: not asked).
    """


@dataclass(frozen=True, eq=False)
class SheetHold:
    """The hold of one sheet through its program. ``held``: in order of cuts; ``pressures``: kPa after every
    cut (empty without vacuum).
    """

    divided: Divided
    held: tuple[Held, ...]
    bodies: dict[str, int]
    """Atom that remains of each piece."""
    freed: dict[str, int]
    """Cut after which a piece is joined to the rest by tabs or skin at most."""
    loose: dict[str, int]
    """Cut after which nothing joins a piece to the rest."""
    pressures: tuple[float, ...]
    scenes: Mapping[int, _Scene]
    """What holds and loads at each position of the stock; at 0 alone where it stays."""
    key: str = ""
    """Digest of all that it depends on."""

    def scene_at(self, cut: int) -> _Scene:
        """What holds and loads as the stock lies at a cut (-1: before the first)."""
        first = next(iter(self.scenes.values()))
        at = first.cuts[max(cut, 0)].position if first.cuts else 0
        return self.scenes.get(at, first)

    @cached_property
    def of_piece(self) -> dict[str, list[Held]]:
        """What was found for each piece, in order of cuts."""
        out: dict[str, list[Held]] = {}
        for h in self.held:
            if h.kind == "piece":
                out.setdefault(h.piece, []).append(h)
        return out

    def at(self, piece: str, cut: int) -> Held | None:
        """What holds a piece after a cut (-1: before the first), reckoned from the graph at that moment; its
        load is that of the heaviest cut still to come on it.

        None: the piece is not on the sheet.
        """
        body = self.bodies.get(piece)
        return self.scene_at(cut).held_at(self.divided, body, piece, cut) if body is not None else None


def _hold_key(setup: Setup, sheet: SheetPlan, stock: Stock, first: LeftByFirst | None = None) -> str:
    m, r = setup.machine, setup.rules.hold
    fix = digest(
        setup.zones_on,
        m.zones,
        m.pump,
        m.spoilboard,
        setup.screws,
        setup.fixings,
        r,
        setup.material.family,
        list(setup.sheet_at),
        setup.edge_at,
        setup.indexing,
        stock.thickness,
        stock.outline,
        stock.width,
        stock.height,
    )
    return digest(VERSION, sheet.key, fix, sheet.loads, first.key if first else "")


def hold_sheet(
    plan: Plan,
    setup: Setup,
    sheet: SheetPlan,
    stock: Stock,
    shapes: Mapping[str, Shape],
    first: LeftByFirst | None = None,
) -> SheetHold:
    """The hold of one sheet; remembered by what it depends on. ``first``: what the other face has left."""
    key = _hold_key(setup, sheet, stock, first)
    return memo("hold", key, lambda: replace(_hold_sheet(plan, setup, sheet, stock, shapes, first), key=key))


def hold_ready(setup: Setup, sheet: SheetPlan, stock: Stock, first: LeftByFirst | None = None) -> bool:
    """Is the hold of a sheet worked out already?"""
    return known("hold", _hold_key(setup, sheet, stock, first))


def divide_sheet(setup: Setup, sheet: SheetPlan, stock: Stock, first: LeftByFirst | None = None) -> Divided:
    """The sheet as atoms; it stays while neither the cuts' places nor their order change. Moments before the
    first cut (below 0) are those of the ``first`` face's cuts.
    """
    key = digest(VERSION, sheet.key, stock.thickness, stock.outline, stock.width, stock.height)
    if first is not None:
        key = digest(key, first.key)

    def make() -> Divided:
        outline = Polygon(stock.outline) if stock.outline else box(0, 0, stock.width, stock.height)
        through: list[BaseGeometry | None] = []
        thin: list[BaseGeometry | None] = []
        swath: list[BaseGeometry | None] = []
        left: list[float] = []
        for before in first.kerfs if first else ():
            through.append(before.through if before.swath is not None else None)
            thin.append(before.thin)
            swath.append(before.swath)
            left.append(before.left)
        for pc in sheet.cuts:
            cutter = setup.cutter(pc.cut.cutter)
            kerf = _kerf_in(pc, cutter, stock.thickness, first) if cutter else None
            if kerf is None or kerf.swath is None:
                through.append(None)
                thin.append(None)
                swath.append(None)
                left.append(0.0)
                continue
            c, s = math.cos(math.radians(pc.piece.rotation)), math.sin(math.radians(pc.piece.rotation))
            place = [c, -s, s, c, pc.piece.x, pc.piece.y]
            w = affine_transform(kerf.swath, place)
            swath.append(w)
            through.append(
                None
                if kerf.through is None
                else w
                if kerf.through is kerf.swath
                else affine_transform(kerf.through, place)
            )
            thin.append(
                None
                if kerf.thin is None
                else w
                if kerf.thin is kerf.swath
                else affine_transform(kerf.thin, place)
            )
            left.append(kerf.left)
        whole = divide(outline, through, thin, swath, left)
        return whole.from_moment(len(first.kerfs)) if first else whole

    return memo("divided", key, make)


def _kerf_in(pc: PlacedCut, cutter: Cutter, thickness: float, first: LeftByFirst | None) -> Kerf:
    """A cut's kerf in stock as the other face has left it."""
    half = first.halves.get((pc.piece.id, pc.cut.contour)) if first else None
    if half is not None and isinstance(pc.cut, ContourCut) and not pc.cut.inside:
        return kerf_to_half(pc.cut, cutter, thickness, half)
    return kerf_of(pc.cut, cutter, thickness)


class _Scene:
    """What holds and what loads on one sheet, apart from how it is cut up."""

    def __init__(
        self,
        setup: Setup,
        sheet: SheetPlan,
        stock: Stock,
        divided: Divided,
        bodies: Mapping[str, int],
        first: LeftByFirst | None = None,
    ):
        self.rules: HoldRules = setup.rules.hold
        self.family, self.thickness = setup.material.family, stock.thickness
        self.cuts = sheet.cuts
        self._links: dict[int, Hold] = {}
        self._feet: dict[int, tuple[tuple[float, float], ...]] = {}
        self.owners: dict[int, str] = {}
        """Whose is each atom that stays solid."""
        self.friction = self.rules.friction[self.family]
        self.tabs_before = first.tabs if first else ()
        self.live, self.live_area = live_area(setup)
        if self.live is not None and first is not None:  # nothing lies on the table under a hollow
            self.live = surface(shapely.difference(self.live, first.hollow))
            self.live_area = self.live.area
        n = len(divided.polygons)
        self.whole = moments(divided.polygons)
        self.under = self.whole.copy()
        if self.live is None:
            self.under[:] = 0.0
        else:
            shapely.prepare(self.live)
            out = np.flatnonzero(~shapely.covers(self.live, divided.polygons))
            if len(out):
                self.under[out] = moments(
                    np.array(
                        [surface(g) for g in shapely.intersection(divided.polygons[out], self.live)],
                        dtype=object,
                    )
                )
        self.fixed: list[list[Hold]] = [[] for _ in range(n)]
        for hold, place in self._fixings(setup, sheet):
            for i, share in self._atoms(divided, place):
                self.fixed[i].append(
                    Hold(
                        hold.kind, hold.says, hold.side * share, hold.up * share, hold.x, hold.y, hold.spread
                    )
                )
        if not held_at_all(setup, sheet):
            # how the sheet is held was not said: what is cut off it is judged as if its edge were held
            rest = [i for i in divided.solid if i not in bodies.values()] or divided.solid
            for i in sorted(rest, key=lambda i: -self.whole[i, 0])[:1]:
                area, sx, sy, _polar = self.whole[i]
                self.fixed[i].append(
                    Hold(
                        "edge",
                        "the sheet's edge, however it is held",
                        1e5,
                        1e5,
                        float(sx / area),
                        float(sy / area),
                        1e3,
                    )
                )
        pump = setup.machine.pump or ESTIMATED
        self.pressures: tuple[float, ...] = ()
        if self.live is not None:
            board: Spoilboard = setup.machine.spoilboard
            outline = Polygon(stock.outline) if stock.outline else box(0, 0, stock.width, stock.height)
            covers = [box(*f.box) for f in setup.fixings if isinstance(f, Cover | FixtureBoard)]
            open_area = shapely.difference(self.live, shapely.union_all([outline, *covers])).area
            gone = divided.gone_at < NEVER
            when = np.maximum(divided.gone_at[gone].astype(np.int64) + 1, 0)
            opened = np.bincount(when, self.under[gone, 0], len(divided.by_cut) + 1)
            self.pressures = tuple(
                pressure(pump, board.leak, a) for a in (np.cumsum(opened) + open_area).tolist()
            )
        self.open_at_start = 0.0 if self.live is None else open_area

    def _fixings(self, setup: Setup, sheet: SheetPlan) -> list[tuple[Hold, BaseGeometry]]:
        r, mu = self.rules, self.friction
        out: list[tuple[Hold, BaseGeometry]] = []
        for s in setup.screws:
            if s.on(sheet.sheet, sheet.copy_no):
                side, up = (r.screw_shear, r.screw_pull) if s.kind == "screw" else (r.nail_shear, r.nail_pull)
                # the head grips by friction in a ring round its screw: two thirds of its radius away
                out.append((Hold(s.kind, s.kind, side, up, s.x, s.y, s.head / 3), Point(s.x, s.y)))
        for f in setup.fixings:
            at, foot, spread = Point(f.x, f.y), box(*f.box), math.hypot(f.width, f.height) / math.sqrt(12)
            if isinstance(f, Clamp):
                n = (
                    f.force or r.clamp_force
                )  # the sheet is gripped between clamp and bed: friction on both faces
                out.append((Hold("clamp", "top clamp", friction_force(2 * n, mu), n, f.x, f.y, spread), foot))
            elif isinstance(f, Cam):
                n = f.force or r.cam_force
                out.append((Hold("cam", "side cam", n, friction_force(n, mu), f.x, f.y, spread), foot))
            elif isinstance(f, Pin):
                out.append((Hold("pin", "pin", r.pin_shear, 0.0, f.x, f.y), at))
            elif isinstance(f, Tape):
                side, up = tape_hold(f.width, f.height, r)
                out.append((Hold("tape", "tape", side, up, f.x, f.y, spread), foot))
        return out

    @staticmethod
    def _atoms(divided: Divided, place: BaseGeometry) -> list[tuple[int, float]]:
        """Atoms that a fixing holds, with its share in each; a fixing beside the sheet holds the nearest."""
        if not len(divided.polygons):
            return []
        if place.geom_type == "Point":
            d = shapely.distance(divided.polygons, place)
            k = int(np.argmin(d))
            return [(k, 1.0)] if d[k] < BESIDE else []
        hit = np.flatnonzero(shapely.intersects(divided.polygons, place))
        if not len(hit):
            d = shapely.distance(divided.polygons, place)
            k = int(np.argmin(d))
            return [(k, 1.0)] if d[k] < 10 else []
        areas = shapely.area(shapely.intersection(divided.polygons[hit], place))
        total = float(areas.sum())
        return (
            [(int(i), float(a) / total) for i, a in zip(hit, areas, strict=True) if a > 0.01 * total]
            if total > 0
            else [(int(hit[0]), 1.0)]
        )

    # -- weighing one piece

    def own(self, under: Array, fixed: Sequence[Hold], cut: int, lift: float) -> list[Hold]:
        """What holds a piece by itself: air on its area, and what is fixed in it."""
        out = list(fixed)
        p = self.pressures[cut + 1] if self.pressures else 0.0
        down = suction(float(under[0]), p)
        if down > 0.05:
            cx, cy = under[1] / under[0], under[2] / under[0]
            spread = math.sqrt(max(under[3] / under[0] - cx * cx - cy * cy, 0.0))
            words = f"vacuum, {p:.0f} kPa on {under[0] / 1e4:.3g} dm2"
            out.append(
                Hold(
                    "vacuum",
                    words,
                    friction_force(down - max(0.0, lift), self.friction),
                    down,
                    float(cx),
                    float(cy),
                    spread,
                )
            )
        return out

    def link(self, divided: Divided, atom: int) -> Hold:
        """A tab or a skin as a hold: it tears through its narrowest section."""
        if atom not in self._links:
            self._links[atom] = self._link(divided, atom)
        return self._links[atom]

    def _link(self, divided: Divided, atom: int) -> Hold:
        shape, mm = divided.polygons[atom], float(divided.left[atom])
        area, sx, sy, polar = self.whole[atom]
        cx, cy = sx / area, sy / area
        spread = math.sqrt(max(polar / area - cx * cx - cy * cy, 0.0))
        k = int(divided.thin_at[atom])
        cut = self.cuts[k].cut if k >= 0 else None
        tab = cut.tab if isinstance(cut, ContourCut) else self.tabs_before[k] if k < 0 else None
        wide = tab.width if tab else 0.0
        if tab is not None and wide and area < 4 * wide * (wide + 30):
            section, words = tab_section(wide, mm, tab.sloped), f"tab {wide:g} x {mm:.2g} mm"
            spread = wide / 4
        else:
            # a strip of skin between two edges: half its outline is one edge
            section, words = shape.length / 2 * mm, f"skin {mm:.2g} mm"
        force = shear_force(section, self.rules.tab_strength[self.family])
        return Hold(
            "tab" if words.startswith("tab") else "skin", words, force, force, float(cx), float(cy), spread
        )

    def links(
        self, divided: Divided, thin: Iterable[int], cut: int, outside: Callable[[int], bool]
    ) -> list[Hold]:
        """Tabs and skins that join a piece to something else after a cut. ``thin``: atoms at its edge; what
        is thin and touches is one tab. ``outside``: not of the piece?
        """
        thin_at, gone_at = divided.thin_at, divided.gone_at
        edge = {int(a) for a in thin if thin_at[a] <= cut < gone_at[a]}
        todo = set(edge)
        out: list[Hold] = []
        while todo:
            group, stack = set(), [todo.pop()]
            reaches = False
            while stack:
                a = stack.pop()
                group.add(a)
                for m in divided.near[a]:
                    if gone_at[m] <= cut or m in group:
                        continue
                    if thin_at[m] <= cut:
                        stack.append(m)
                    elif outside(m):
                        reaches = True
            todo -= group
            if reaches:
                # a later cut may divide one tab into atoms that touch: they count once; a skin holds along
                # all of the piece's edge
                counted: set[int] = set()
                for a in sorted(group & edge, key=lambda a: (-self.whole[a, 0], a)):
                    link = self.link(divided, a)
                    if link.kind == "skin" or a not in counted:
                        out.append(link)
                    together = [a]
                    while together:
                        m = together.pop()
                        if m not in counted:
                            counted.add(m)
                            together += [x for x in divided.near[m] if x in edge and x not in counted]
        return out

    def spots(self, pc: PlacedCut) -> Array:
        """Points (n, 2) of a cut at which its load is tried."""
        xy = pc.moves[:, [X, Y]]
        return xy[:: max(1, len(xy) // SPOTS)]

    def weigh(
        self,
        own: Sequence[Hold],
        links: Sequence[Hold],
        rest: tuple[float, float],
        spots: Array,
        load: float,
        lift: float,
    ) -> tuple[float, float, float, tuple[Hold, ...]]:
        """N sideways at the worst spot, N upwards, the ratio to the load, and the holds that count; tabs bear
        no more than holds what they lead to (``rest``).
        """
        most, up_most = sum(h.side for h in links), sum(h.up for h in links)
        k, k_up = (
            (min(1.0, rest[0] / most) if most > 0 else 0.0),
            (min(1.0, rest[1] / up_most) if up_most > 0 else 0.0),
        )
        held = [*own, *(Hold(h.kind, h.says, h.side * k, h.up * k_up, h.x, h.y, h.spread) for h in links)]
        held = [h for h in held if h.side > 0.5 or h.up > 0.5]
        up = sum(h.up for h in held)
        f, places, spreads = [h.side for h in held], [(h.x, h.y) for h in held], [h.spread for h in held]
        total = sum(f)
        side = total
        if total > 0 and len(spots):
            cx, cy = (
                sum(v * p[0] for v, p in zip(f, places, strict=True)) / total,
                sum(v * p[1] for v, p in zip(f, places, strict=True)) / total,
            )
            worst = int(np.argmax(np.hypot(spots[:, 0] - cx, spots[:, 1] - cy)))
            side = group_force(f, places, spreads, (float(spots[worst, 0]), float(spots[worst, 1])))
        ratio = min(side / load if load > 0.05 else math.inf, up / lift if lift > 0.05 else math.inf)
        return side, up, ratio, tuple(held)

    def tips(self, divided: Divided, body: int, holds: Sequence[Hold], pc: PlacedCut) -> float:
        """How far a piece is from tipping under a cut: what its holds bear about the worst edge of its
        footprint over load times the height at which it acts.

        The load acts half way up what the heaviest pass meets. A piece lower than it is wide hardly ever
        tips; a tall narrow one does before it slides.
        """
        levels = pc.cut.levels
        before = levels[-2] if len(levels) > 1 else 0.0
        high = self.thickness + (before + max(levels[-1], -self.thickness)) / 2
        if high <= 0:
            return math.inf
        if body not in self._feet:
            box_ = divided.polygons[body].minimum_rotated_rectangle
            self._feet[body] = (
                tuple((float(x), float(y)) for x, y in box_.exterior.coords[:4])
                if box_.geom_type == "Polygon"
                else ()
            )
        corners = self._feet[body]
        if not corners:
            return math.inf
        return tipping([(h.x, h.y, h.up) for h in holds], corners) / (pc.cut.load.force * high)

    def held_at(self, divided: Divided, body: int, piece: str, cut: int) -> Held:
        """``SheetHold.at``."""
        solid, whole = divided.joined(cut, True), divided.joined(cut, False)
        mine = np.flatnonzero(solid == solid[body])
        mates = np.flatnonzero((whole == whole[body]) & (solid != solid[body]) & (solid >= 0))
        to_come = [k for k, c in enumerate(self.cuts) if c.piece.id == piece and k >= max(cut, 0)] or [
            k for k, c in enumerate(self.cuts) if c.piece.id == piece
        ][-1:]
        heavy = max(to_come, key=lambda k: self.cuts[k].cut.load.force, default=None)
        load, lift = (
            (self.cuts[heavy].cut.load.force, max(0.0, self.cuts[heavy].cut.load.lift))
            if heavy is not None
            else (0.0, 0.0)
        )
        own = self.own(self.under[mine].sum(axis=0), [h for i in mine for h in self.fixed[i]], cut, lift)
        edge = sorted({n for i in mine for n in divided.near[i] if solid[n] < 0 <= whole[n]})
        links = self.links(divided, edge, cut, lambda m: solid[m] != solid[body])
        rest = (
            self.own(self.under[mates].sum(axis=0), [h for i in mates for h in self.fixed[i]], cut, 0.0)
            if len(mates)
            else []
        )
        spots = self.spots(self.cuts[heavy]) if heavy is not None else np.zeros((0, 2))
        side, up, ratio, holds = self.weigh(
            own, links, (sum(h.side for h in rest), sum(h.up for h in rest)), spots, load, lift
        )
        last = all(self.owners.get(int(i), piece) == piece for i in mine)
        return Held(
            cut,
            "piece" if last else "sheet",
            piece,
            body,
            side,
            up,
            load,
            lift,
            ratio,
            float(self.whole[mine, 0].sum()),
            last,
            holds,
        )


def held_at_all(setup: Setup, sheet: SheetPlan | None = None) -> bool:
    """Is anything set that holds the sheet?"""
    screws = [s for s in setup.screws if sheet is None or s.on(sheet.sheet, sheet.copy_no)]
    return bool(
        screws
        or any(f.kind not in ("cover", "pin") for f in setup.fixings)
        or (setup.zones_on and setup.machine.zones)
    )


def live_area(setup: Setup) -> tuple[BaseGeometry | None, float]:
    """Where air can hold, in sheet coordinates, and its area in mm2: live zones, of them only what a fixture
    board covers, and pods less their seals.
    """
    boards = [box(*f.box) for f in setup.fixings if isinstance(f, FixtureBoard)]
    shapes: list[BaseGeometry] = []
    for z in setup.machine.zones:
        if z.id in setup.zones_on:
            zone = setup.lying.rect_on_sheet(z.rect)
            own = [b for b in boards if b.intersects(zone)]
            shapes.append(shapely.intersection(zone, shapely.union_all(own)) if own else zone)
    for f in setup.fixings:
        if isinstance(f, Pod) and 2 * f.seal < min(f.width, f.height):
            shapes.append(box(*f.box).buffer(-f.seal, join_style="mitre"))
    if not shapes:
        return None, 0.0
    whole = shapely.union_all(shapes)
    return whole, whole.area


def _hold_sheet(
    plan: Plan,
    setup: Setup,
    sheet: SheetPlan,
    stock: Stock,
    shapes: Mapping[str, Shape],
    first: LeftByFirst | None,
) -> SheetHold:
    divided = divide_sheet(setup, sheet, stock, first)
    outlines: dict[str, Polygon] = {}
    spots = []
    for q in sheet.pieces:
        part = plan.part(q.part)
        assert part is not None
        polygon = shapes[part.shape].polygon
        c, s = math.cos(math.radians(q.rotation)), math.sin(math.radians(q.rotation))
        flip = -1.0 if q.mirrored else 1.0
        place = [c * flip, -s, s * flip, c, q.x, q.y]
        spots.append(affine_transform(memo("spot", part.shape, polygon.representative_point), place))
        outlines[q.id] = affine_transform(Polygon(polygon.exterior), place)
    found = divided.atoms_at(np.array(spots, dtype=object))
    bodies = {q.id: atom for q, atom in zip(sheet.pieces, found, strict=True) if atom is not None}
    outlines = {q: outlines[q] for q in bodies}
    owners = _owners(divided, bodies, outlines)
    scenes: dict[int, _Scene] = {}
    held: list[Held] = []
    for k in sheet.positions or (0,):
        scene = scenes[k] = _Scene(at_position(setup, k), sheet, stock, divided, bodies, first)
        scene.owners = owners
        there, freed, loose = _backwards(divided, scene, bodies, owners)
        held += [h for h in there if not sheet.cuts or sheet.cuts[h.cut].position == k]
    if first is not None:
        freed = _apart_already(divided, bodies, owners, True) | freed
        loose = _apart_already(divided, bodies, owners, False) | loose
    return SheetHold(divided, tuple(held), bodies, freed, loose, _pressures(sheet, scenes), scenes)


def _pressures(sheet: SheetPlan, scenes: Mapping[int, _Scene]) -> tuple[float, ...]:
    """kPa before the first cut and after every one, as the stock lies then."""
    if len(scenes) == 1:
        return next(iter(scenes.values())).pressures
    at = [sheet.cuts[0].position, *(c.position for c in sheet.cuts)]
    return tuple(p[n] if (p := scenes[k].pressures) else 0.0 for n, k in enumerate(at))


def _apart_already(
    divided: Divided, bodies: Mapping[str, int], owners: Mapping[int, str], solid: bool
) -> dict[str, int]:
    """Pieces that are joined to no other and no skeleton before the first cut; ``solid``: tabs and skins do
    not count.
    """
    joined = divided.joined(-1, solid)
    whose: dict[int, set[str]] = {}
    for i in divided.solid:
        whose.setdefault(int(joined[i]), set()).add(owners.get(i, ""))
    return {q: -1 for q, i in bodies.items() if whose[int(joined[i])] == {q}}


class _Groups:
    """Union-find over atoms with what each group adds up to."""

    def __init__(self, scene: _Scene, owners: dict[int, str]):
        n = len(scene.whole)
        self.up = list(range(n))
        self.under = {i: scene.under[i].copy() for i in range(n)}
        self.area = scene.whole[:, 0].tolist()
        self.fixed: dict[int, list[Hold]] = {i: list(scene.fixed[i]) for i in range(n)}
        self.owners: dict[int, set[str]] = {i: {owners[i]} if i in owners else set() for i in range(n)}

    def find(self, i: int) -> int:
        while self.up[i] != i:
            self.up[i] = self.up[self.up[i]]
            i = self.up[i]
        return i

    def members(self, root: int) -> list[int]:
        """Atoms that stay to the end of a group with one owner; all of a small one."""
        return [i for i in range(len(self.up)) if self.find(i) == root]

    def join(self, a: int, b: int) -> tuple[int, int] | None:
        """Join the groups of two atoms: (root that stays, root that went), None where they were one."""
        a, b = self.find(a), self.find(b)
        if a == b:
            return None
        if len(self.owners[a]) + len(self.fixed[a]) < len(self.owners[b]) + len(self.fixed[b]):
            a, b = b, a
        self.up[b] = a
        self.under[a] += self.under.pop(b)
        self.area[a] += self.area[b]
        self.fixed[a] += self.fixed.pop(b)
        self.owners[a] |= self.owners.pop(b)
        return a, b


def _behind(divided: Divided, thin: list[int], cut: int) -> set[int]:
    """Solid atoms that what is left of cut-off tabs and skins still hangs on: they lose a hold though the cut
    does not touch them.
    """
    todo, seen, out = list(thin), set(thin), set()
    while todo:
        for m in divided.near[todo.pop()]:
            if divided.gone_at[m] <= cut or m in seen:
                continue
            seen.add(m)
            if divided.thin_at[m] <= cut:
                todo.append(m)
            else:
                out.add(m)
    return out


def _owners(divided: Divided, bodies: dict[str, int], outlines: dict[str, Polygon]) -> dict[int, str]:
    """Whose is each atom that stays solid: a piece's own or its drop's; "" for the skeleton."""
    out = {a: q for q, a in bodies.items()}
    shared = Counter(bodies.values())
    for q, a in bodies.items():  # nothing parts it from others, or from the sheet: it is nobody's own
        if shared[a] > 1 or divided.polygons[a].area > outlines[q].area + BEYOND * outlines[q].length:
            out[a] = ""
    rest = [a for a in divided.solid if a not in out]
    if rest and outlines:
        names, shapes = list(outlines), np.array(list(outlines.values()), dtype=object)
        tree = STRtree(shapes)
        points = shapely.point_on_surface(divided.polygons[rest])
        smallest: dict[int, int] = {}
        for i, j in zip(*tree.query(points, predicate="within").tolist(), strict=True):
            if (
                i not in smallest or shapes[j].area < shapes[smallest[i]].area
            ):  # a piece in another's hole owns its own drops
                smallest[i] = j
        out |= {a: names[smallest[i]] if i in smallest else "" for i, a in enumerate(rest)}
    return out | {a: "" for a in rest if a not in out}


def _backwards(  # noqa: C901
    divided: Divided, scene: _Scene, bodies: dict[str, int], owners: dict[int, str]
) -> tuple[list[Held], dict[str, int], dict[str, int]]:
    """From the last cut to the first: pieces only ever join. What every cut finds, and when each piece parts
    from the rest.
    """
    n = len(divided.polygons)
    solid, whole = _Groups(scene, owners), _Groups(scene, owners)
    thin_at, gone_at = divided.thin_at.tolist(), divided.gone_at.tolist()
    thin_near: dict[int, set[int]] = {i: set() for i in range(n)}
    for i in range(n):
        if divided.left[i] > 0 and gone_at[i] > thin_at[i]:
            for m in divided.near[i]:
                thin_near[m].add(i)
    freed: dict[str, int] = {}
    loose: dict[str, int] = {}

    def alone(groups: _Groups, *roots: int) -> list[str]:
        """Pieces whose body is in a group that belongs to them alone."""
        return [
            q
            for r in roots
            if len(groups.owners[r]) == 1
            for q in groups.owners[r]
            if q in bodies and groups.find(bodies[q]) == r
        ]

    def join(groups: _Groups, a: int, b: int, k: int, parted: dict[str, int]) -> None:
        a, b = groups.find(a), groups.find(b)
        if a == b:
            return
        before = alone(groups, a, b)
        went = groups.join(a, b)
        assert went is not None
        if groups is solid:
            stays, goes = thin_near[went[0]], thin_near.pop(went[1])
            thin_near[went[0]] = stays | goes if len(stays) >= len(goes) else goes | stays
        if before and len(groups.owners[went[0]]) > 1:
            for q in before:
                parted.setdefault(q, k)

    end = len(divided.by_cut) - 1
    for i in range(n):  # the state after the last cut
        for m in divided.near[i]:
            if m < i and gone_at[i] > end and gone_at[m] > end:
                join(whole, i, m, NEVER, loose)
                if thin_at[i] > end and thin_at[m] > end:
                    join(solid, i, m, NEVER, freed)

    def weigh(root: int, k: int) -> Held:
        pc = scene.cuts[k]
        load, lift = pc.cut.load.force, max(0.0, pc.cut.load.lift)
        own = scene.own(solid.under[root], solid.fixed[root], k, lift)
        spots = scene.spots(pc)
        if (
            solid.owners[root].isdisjoint({"", pc.piece.id}) and len(solid.owners[root]) == 1
        ):  # a neighbour's cut: only where it passes the piece
            away = shapely.distance(
                shapely.points(spots),
                divided.polygons[max(solid.members(root), key=lambda i: scene.whole[i, 0])],
            )
            spots = spots[away <= max(float(away.min()) + 1.0, 15.0)]
        side, up, ratio, holds = scene.weigh(own, [], (0.0, 0.0), spots, load, lift)
        # a sheet or skeleton that is firm by itself does not hang on the tabs of its pieces
        firm = ratio >= 2 * scene.rules.margin and ("" in solid.owners[root] or len(solid.owners[root]) > 1)
        links = (
            [] if firm else scene.links(divided, sorted(thin_near[root]), k, lambda m: solid.find(m) != root)
        )
        if links:
            w = whole.find(root)
            rest = scene.own(whole.under[w] - solid.under[root], whole.fixed[w], k, 0.0)
            bears = (
                max(0.0, sum(h.side for h in rest) - sum(h.side for h in solid.fixed[root])),
                max(0.0, sum(h.up for h in rest) - sum(h.up for h in solid.fixed[root])),
            )
            side, up, ratio, holds = scene.weigh(own, links, bears, spots, load, lift)
        of = solid.owners[root]
        q = next(iter(of)) if len(of) == 1 else ""
        kind = (
            "sheet"
            if len(of) > 1
            else "skeleton"
            if not q
            else "piece"
            if solid.find(bodies[q]) == root
            else "drop"
        )
        tips = scene.tips(divided, root, holds, pc) if len(of) == 1 and q and load > 0.05 else math.inf
        ratio = min(ratio, tips)
        joined = "skin" if any(x.kind == "skin" for x in links) else "tabs" if links else ""
        return Held(
            k, kind, q, root, side, up, load, lift, ratio, float(solid.area[root]), False, holds, joined, tips
        )

    held: list[Held] = []
    for k in range(end, -1, -1):
        changed = divided.by_cut[k]
        touched = {solid.find(m) for a in changed for m in divided.near[a] if thin_at[m] > k}
        touched |= {solid.find(m) for m in _behind(divided, [a for a in changed if thin_at[a] < k], k)}
        if (
            not touched and scene.cuts[k].piece.id in bodies
        ):  # not through, or nothing left to take: it pushes on what its piece is part of
            touched = {solid.find(bodies[scene.cuts[k].piece.id])}
        found = [weigh(root, k) for root in sorted(touched) if solid.owners[root]]
        for a in changed:
            for m in divided.near[a]:
                if gone_at[a] == k <= gone_at[m]:
                    join(whole, a, m, k, loose)
                if thin_at[a] == k <= thin_at[m]:
                    join(solid, a, m, k, freed)
        after = [solid.find(h.body) for h in found]
        held += [replace(h, frees=after.count(r) > 1) for h, r in zip(found, after, strict=True)]
    held.reverse()
    return (
        held,
        {q: freed[q] for q in bodies if freed.get(q, NEVER) < NEVER},
        {q: loose[q] for q in bodies if loose.get(q, NEVER) < NEVER},
    )
