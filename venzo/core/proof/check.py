"""The proof: a written program is read back and held against the plan it should carry out."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import STRtree
from shapely.affinity import affine_transform
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from venzo.core.cuts.areas import Area
from venzo.core.cuts.cut import ContourCut, HoleCut
from venzo.core.cuts.moves import KIND, RAPID, X, Y, Z, chords
from venzo.core.cuts.of_part import PartCuts
from venzo.core.geometry.contour import Array
from venzo.core.holding.in_the_way import obstacles
from venzo.core.memo import give_way
from venzo.core.order.of_sheet import PlacedCut, SheetPlan
from venzo.core.parts.shape import Shape
from venzo.core.plan import Piece, Plan, Setup
from venzo.core.proof.compare import (
    Section,
    first_deviation,
    planned_dwells,
    planned_sections,
    planned_stops,
    read_sections,
)
from venzo.core.proof.into_reliefs import Reliefs, unread
from venzo.core.proof.limits import datum_on_sheet
from venzo.core.proof.program import Block, Reading, ToolRun
from venzo.core.proof.world import Given, World, figures, world_snags
from venzo.core.snags import Snag, Where, note, stop
from venzo.core.stock.sheet import Stock
from venzo.core.tolerances import BUDGET, PROVE_CHORD
from venzo.core.tooling.cutter import FLAT, Cutter
from venzo.core.voice import counted

HAIR = 1e-4
"""mm; a strip of material thinner than this between a pocket and the edge of its piece is rounding."""
TAB_SLACK = 0.3
"""mm along the cut by which a tab may end earlier: rounding of the lift over it."""
LEVEL = 0.003
"""mm; ends of a move that differ by less in height are level: three decimals round each of them."""
DEEPER = 0.002
"""mm; a cut this much deeper than its feature is rounding."""


@dataclass(frozen=True)
class Proof:
    """What was found: snags, extents (program mm), lengths (mm), time (s); ``deepest``: the tip's lowest over
    the stock's top, mm.
    """

    snags: tuple[Snag, ...]
    lowest: Array
    highest: Array
    cut_length: float
    rapid_length: float
    seconds: float
    moves: int
    deepest: float = 0.0


@dataclass(frozen=True)
class AsRun:
    """How a program is run: its name, the number of the cutter in the collet, where its Z 0 is, whether
    nothing stands on the table yet (``bare``), and how far the stock has been ``moved`` along it by then, mm.
    """

    name: str
    loaded: int
    zero: str
    bare: bool = False
    moved: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Subject:
    """What programs are held against: a sheet of a plan, with the shapes and the cuts of its parts."""

    plan: Plan
    setup: Setup
    sheet: SheetPlan
    shapes: Mapping[str, Shape]
    part_cuts: Mapping[tuple[str, bool], PartCuts]
    whole: SheetPlan | None = None
    """All cuts of the sheet, where ``sheet`` has only some of them."""

    @property
    def stock(self) -> Stock:
        """The sheet itself."""
        found = self.setup.stock_of(self.sheet.sheet)
        assert found is not None
        return found

    @property
    def where(self) -> Where:
        """For snags."""
        return {"setup": self.setup.id, "sheet": self.sheet.sheet, "sheet_copy": self.sheet.copy_no}

    def given(self, run: AsRun, reading: Reading) -> Given:
        """A program where it lies on the sheet."""
        x, y = datum_on_sheet(self.setup, self.stock)
        dx, dy = x + run.moved[0], y + run.moved[1]
        top = 0.0 if run.zero == "top" else self.stock.thickness
        turn = self.setup.lying.turn
        return Given(run.name, reading, run.loaded, dx, dy, top, run.bare, turn=turn, moved=run.moved)

    def world(self) -> World:
        """The sheet, the table and what stands on it."""
        m = self.setup.machine
        tools = {c.number: self.setup.assembly(c) for c in self.setup.cutters}
        return World(
            self.stock.width,
            self.stock.height,
            self.stock.thickness,
            tools,
            None,
            (0.0, 0.0, m.width, m.height),
            m.z_travel,
            obstacles(self.setup, self.sheet),
            self.setup.rules.hold.keep_clear,
            min(m.retract, m.clearance),
            True,
            m.dead_areas,
            self.stock.outline,
            m.axes,
            self.setup.lying,
        )


@dataclass(frozen=True)
class Program:
    """A program of a sheet: how it reads, what it is to do, and which of the sheet's cuts are its own
    (indices).
    """

    given: Given
    runs: Sequence[ToolRun]
    cuts: Sequence[int]

    def stopping(self) -> Program:
        """The same, the given program with as many stops as it is to have."""
        return replace(self, given=replace(self.given, stops=sum(len(r.stops) for r in self.runs)))


@dataclass(frozen=True)
class Ran:
    """A program that is run on the sheet before: how it reads, and the names of the cuts that it makes."""

    given: Given
    cuts: frozenset[str]


def _whole_features(subject: Subject, done: Sequence[PlacedCut], before: set[str]) -> list[PlacedCut]:
    """Of the cuts that are done those whose contour is cut whole by now: a rougher's walls are not held
    against the drawing before its finisher has been.
    """
    names = {c.name for c in done} | before
    left = {(c.piece.id, c.cut.contour) for c in (subject.whole or subject.sheet).cuts if c.name not in names}
    return [c for c in done if (c.piece.id, c.cut.contour) not in left]


def prove(subject: Subject, programs: Sequence[Program], before: Sequence[Ran] = ()) -> Proof:
    """Hold the programs of one sheet against plan and world, on what those run ``before`` leave of it.

    Against the plan: every move, feed, speed, cutter and stop is what was planned, and nothing more
    (``compare``). Against the drawing: no piece is cut into by more than BUDGET (0.02 mm), no pocket, groove
    or edge is cut wider or deeper than it is meant, every contour is cut as deep as it should be but at its
    tabs, and the tabs stand. Against the world: fixings, table, stock, spindle, depth (``world``).
    """
    programs = [p.stopping() for p in programs]
    world, givens = subject.world(), [p.given for p in programs]
    sums = figures(givens, world.axes)
    earlier = [r.given for r in before]
    snags = [
        s.model_copy(update={"where": {**subject.where, **(s.where or {})}})
        for s in world_snags(world, givens, earlier)
    ]
    for p in programs:
        snags += _as_planned(subject, p)
    found = _Geometry(subject)
    for g in earlier:
        found.program(g)
    found.snags.clear()  # they were judged when they went out
    found.gouged.clear()
    for p in programs:
        found.program(p.given)
    snags += found.snags
    done = [subject.sheet.cuts[i] for p in programs for i in p.cuts]
    cuts = _whole_features(subject, done, {name for r in before for name in r.cuts})
    snags += _uncut(subject, cuts, found.floors)
    snags += _tabs(subject, cuts, found.floors)
    snags += _uncarved(subject, cuts, found.carved)
    rank = {"stop": 0, "look": 1, "note": 2}
    snags.sort(key=lambda s: rank[s.severity])
    if not any(s.severity == "stop" for s in snags):
        snags.append(
            note(
                "proof.clear",
                f"read back: {sums.moves} moves as planned; no part cut into,"
                f" {_through_words(subject, cuts)}, fast moves clear",
                subject.where,
            )
        )
    return Proof(
        tuple(snags),
        sums.lowest,
        sums.highest,
        sums.cut_length,
        sums.rapid_length,
        sums.seconds,
        sums.moves,
        sums.deepest,
    )


def _through_words(subject: Subject, cuts: Sequence[PlacedCut]) -> str:
    """How many contours are cut through, and what is left under those that are not."""
    last: dict[tuple[str, str], PlacedCut] = {}
    for c in cuts:
        on_contour = isinstance(c.cut, ContourCut) and not c.cut.in_area
        if on_contour or (isinstance(c.cut, ContourCut | HoleCut) and c.cut.frees):
            key = (c.piece.id, c.cut.contour)
            if key not in last or c.cut.levels[-1] < last[key].cut.levels[-1]:
                last[key] = c
    through = sum(-c.cut.levels[-1] >= subject.stock.thickness - 1e-6 for c in last.values())
    left = sorted(
        {
            round(subject.stock.thickness + c.cut.levels[-1], 2)
            for c in last.values()
            if -c.cut.levels[-1] < subject.stock.thickness - 1e-6
        }
    )
    if subject.setup.halves and left:
        over = " and ".join(f"{v:g} mm" for v in left)
        return f"{counted(through, 'contour')} cut through, outlines down to {over} over the other face"
    if not left:
        return "every contour cut through" if through else "no contour to cut through"
    n = len(last) - through
    skins = " and ".join(f"{v:g} mm" for v in left)
    return f"{through} contour{'s' * (through != 1)} cut through, {n} left with a skin of {skins}"


def _stops_as_planned(
    subject: Subject, p: Program, want: Sequence[Section], got: Sequence[Section]
) -> list[Snag]:
    """Stops for the operator that are left out, or made before another cut than planned."""
    meant = planned_stops(p.runs, want)
    made = [e.line for e in p.given.reading.events if e.kind == "stop"]
    starts = [int(r.source[0]) for s in got for r in s.runs if not r.fast]
    for k, (before, words) in enumerate(meant):
        if k >= len(made):
            said = f'the stop for the operator ("{words}") is left out'
        elif sum(line < made[k] for line in starts) != before:
            said = (
                f'line {made[k]}: the stop for the operator ("{words}") comes before another cut than planned'
            )
        else:
            continue
        where: Where = {**subject.where, "file": p.given.name, "line": made[k] if k < len(made) else 0}
        return [stop("proof.stop", said, where)]
    return []


def _as_planned(subject: Subject, p: Program) -> list[Snag]:
    """The first place at which a program does anything else than planned."""
    m = subject.setup.machine
    want = planned_sections(p.runs, m.clearance, p.given.top)
    got = read_sections(p.given.reading.blocks, p.given.loaded)
    last = max((b.lines[-1] for b in p.given.reading.blocks if b.lines), default=0)
    out = []
    wrong = first_deviation(want, got, last)
    if wrong:
        where: Where = {**subject.where, "file": p.given.name, "line": wrong.line, "kind": wrong.kind}
        out.append(stop("proof.plan", f"line {wrong.line}: {wrong.message}", where))
    meant, made = planned_dwells(p.runs), [e for e in p.given.reading.events if e.kind == "dwell"]
    odd = next(
        (
            e
            for e, s in itertools.zip_longest(made, meant)
            if e is not None and (s is None or abs(e.value - s) > 0.01)
        ),
        None,
    )
    if odd or len(made) < len(meant):
        line = odd.line if odd else last
        words = (
            f"line {line}: it dwells {odd.value:g} s where no such dwell is planned"
            if odd
            else f"{len(meant) - len(made)} planned dwell(s) are left out"
        )
        out.append(stop("proof.dwell", words, {**subject.where, "file": p.given.name, "line": line}))
    out += _stops_as_planned(subject, p, want, got)
    own = subject.setup.machine.dialect.offset or "G54"
    other = next((b for b in p.given.reading.blocks if b.offset != own), None)
    if other:
        where = {**subject.where, "file": p.given.name, "line": other.lines[0]}
        out.append(
            stop(
                "proof.offset",
                f"line {other.lines[0]}: the work offset is {other.offset}, the sheet is zeroed in {own}",
                where,
            )
        )
    return out


class _Geometry:
    """Programs against the drawn pieces: what is cut into, and which lines were run how deep."""

    def __init__(self, subject: Subject):
        self.subject = subject
        self.snags: list[Snag] = []
        self.floors: dict[int, list[tuple[LineString, float]]] = {}
        self.carved: dict[int, list[Array]] = {}
        self.gouged: set[str] = set()
        whole = subject.whole or subject.sheet
        self.by_points = {
            c.number
            for pc in whole.cuts
            if pc.cut.held_to == "points" and (c := subject.setup.cutter(pc.cut.cutter)) is not None
        }
        self.solids: list[tuple[str, _Solid]] = []
        self.beside_reliefs: list[tuple[str, _Solid]] = []
        """The same, with nothing taken by reliefs: for what is reckoned from their surface."""
        for q in subject.sheet.pieces:
            part = subject.plan.part(q.part)
            assert part is not None
            cuts = subject.part_cuts.get((q.part, q.mirrored))
            body = (
                subject.shapes[part.shape]
                .region.placed(q.x, q.y, q.rotation, q.mirrored)
                .polygon(PROVE_CHORD)
            )
            areas = cuts.areas if cuts else ()
            named = f"{part.name} piece {q.copy_no + 1}"
            self.solids.append((named, _Solid(body, q, areas)))
            reliefs = {f.name for f in subject.shapes[part.shape].features if f.kind == "relief"}
            beside = [a for a in areas if a.name not in reliefs] if reliefs else areas
            self.beside_reliefs.append((named, _Solid(body, q, beside)))
        self.tree = STRtree([p.body for _n, p in self.solids])
        thickness = subject.stock.thickness
        self.reliefs = Reliefs(
            subject.plan,
            subject.setup,
            subject.whole or subject.sheet,
            subject.shapes,
            subject.part_cuts,
            round(thickness, 4),
        )

    def program(self, given: Given) -> None:
        """Take one program in."""
        for block in given.reading.blocks:
            give_way()
            cutter = next(
                (c for c in self.subject.setup.cutters if c.number == (block.tool or given.loaded)), None
            )
            if cutter is None:
                continue  # said by the world
            self._block(given, block, cutter)

    def _block(self, given: Given, block: Block, cutter: Cutter) -> None:
        chain = given.on_sheet(block)
        where: Where = {**self.subject.where, "file": given.name}
        if cutter.number in self.by_points:
            self.carved.setdefault(cutter.number, []).append(chain[chain[:, KIND] != RAPID][:, [X, Y, Z]])
        asked = [(chain, self.solids)]
        if self.reliefs.laid:
            self.snags += self.reliefs.gone_into(chain, cutter, where)
            chain = unread(chain, self.reliefs.within(chain))
            laid, on = self.reliefs.from_surface(chain)
            asked = [(unread(chain, on), self.solids)]
            if on.any():
                asked.append((unread(laid, ~on), self.beside_reliefs))
        for moves, solids in asked:
            self._cut_into(moves, solids, cutter, where)

    def _cut_into(self, chain: Array, solids: list[tuple[str, _Solid]], cutter: Cutter, where: Where) -> None:
        pointed = cutter.kind == "v-bit"
        if pointed:
            self.snags += _carved_into(chain, cutter, self.tree, solids, self.gouged, where)
        for line, deepest, highest_z in _cutting_lines(chain):
            sloped = deepest < highest_z - LEVEL
            if pointed and sloped:
                # a slope of a pointed bit is narrower where it is higher: held against the pieces above
                continue
            if not sloped:
                self.floors.setdefault(cutter.number, []).append((line, highest_z))
            radius = cutter.radius_at(-deepest)
            for k in self.tree.query(line, predicate="dwithin", distance=max(radius - BUDGET, 0.0)):
                name, solid = solids[k]
                if name in self.gouged:
                    continue
                keep = solid.keep(-deepest, pointed)
                away = line.distance(keep) if not keep.is_empty else np.inf
                if away < radius - BUDGET:
                    self.gouged.add(name)
                    words = (
                        f"{name} is cut into by {radius - away:.3f} mm, {-deepest:.2f} mm deep, by"
                        f" {cutter.name}"
                    )
                    self.snags.append(stop("proof.gouge", words, where))


def placed(g: BaseGeometry, q: Piece) -> BaseGeometry:
    """A geometry of a planned part where its piece lies; mirrored parts are planned mirrored."""
    c, s = np.cos(np.radians(q.rotation)), np.sin(np.radians(q.rotation))
    return affine_transform(g, [c, -s, s, c, q.x, q.y])


class _Solid:
    """A piece and what its cuts may take out of it, by depth."""

    def __init__(self, body: Polygon, piece: Piece, areas: Sequence[Area]):
        self.body = body
        self.areas = [(a.depth, a.pointed, placed(a.target, piece)) for a in areas]
        self.kept: dict[tuple[int, bool], BaseGeometry] = {}

    def keep(self, depth: float, pointed: bool) -> BaseGeometry:
        """What must not be touched at a depth, mm: the piece less every area that is at least so deep; areas
        with sloping walls are a pointed bit's alone.
        """
        fine = [g for d, slopes, g in self.areas if d >= depth - DEEPER and (pointed or not slopes)]
        key = (len(fine), pointed)
        if key not in self.kept:
            self.kept[key] = self.body.difference(unary_union(fine).buffer(HAIR)) if fine else self.body
        return self.kept[key]


def _cutting_lines(chain: Array):
    """Runs of cutting moves below the surface as (line or point, deepest, highest z), split where they are
    level and where they slope.
    """
    z0, z1 = chain[:-1, Z], chain[1:, Z]
    below = (chain[1:, KIND] != RAPID) & (np.minimum(z0, z1) < -1e-6)
    level = np.abs(z1 - z0) < LEVEL
    points, of = chords(chain, PROVE_CHORD)
    ends = np.searchsorted(of, np.arange(len(chain)), side="right")
    i, n = 0, len(z0)
    while i < n:
        j = i + 1
        if not below[i]:
            i = j
            continue
        if level[i]:
            while j < n and below[j] and level[j] and abs(z1[j] - z1[i]) < LEVEL:
                j += 1
        else:
            while j < n and below[j] and not level[j]:
                j += 1
        run = chain[i : j + 1]
        pts = points[ends[i] : ends[j] + 1, :2]
        shape = LineString(pts) if np.ptp(pts, axis=0).max() > 1e-9 else Point(pts[0])
        yield shape, float(run[:, Z].min()), float(run[:, Z].max())
        i = j


def _carved_into(
    chain: Array,
    cutter: Cutter,
    tree: STRtree,
    solids: list[tuple[str, _Solid]],
    gouged: set[str],
    where: Where,
) -> list[Snag]:
    """Pieces that a pointed bit cuts into on its slopes: at every point and half way to the next the disc it
    is at the surface must lie in what may go.

    Between these the bit's radius is a straight line and the distance to an edge nearly so.
    """
    z0, z1 = chain[:-1, Z], chain[1:, Z]
    slope = (chain[1:, KIND] != RAPID) & (np.minimum(z0, z1) < -1e-6) & (np.abs(z1 - z0) >= 1e-6)
    a, b = chain[:-1][slope][:, [X, Y, Z]], chain[1:][slope][:, [X, Y, Z]]
    pts = np.concatenate([a, (a + b) / 2, b])
    pts = pts[pts[:, 2] < -1e-6]
    if not len(pts):
        return []
    deepest = -float(pts[:, 2].min())
    radius = np.array([cutter.radius_at(-z) for z in pts[:, 2]]) - BUDGET
    spots = shapely.points(pts[:, :2])
    out = []
    near: dict[int, list[int]] = {}
    hits = tree.query(spots, predicate="dwithin", distance=np.maximum(radius, 0.0))
    for i, k in hits.T.tolist():
        near.setdefault(k, []).append(i)
    for k, mine in near.items():
        name, solid = solids[k]
        if name in gouged:
            continue
        keep = solid.keep(deepest, True)
        if keep.is_empty:
            continue
        shapely.prepare(keep)
        bad = shapely.dwithin(keep, spots[mine], np.maximum(radius[mine], 0.0)) & (radius[mine] > 0)
        if bad.any():
            worst = np.array(mine)[bad]
            bite = float((radius[worst] + BUDGET - shapely.distance(keep, spots[worst])).max())
            gouged.add(name)
            out.append(
                stop("proof.gouge", f"{name} is cut into by {bite:.3f} mm by {cutter.name} on a slope", where)
            )
    return out


def _uncarved(subject: Subject, cuts: Sequence[PlacedCut], carved: dict[int, list[Array]]) -> list[Snag]:
    """Carvings of which the program leaves out something: every planned point must be one of its points,
    within BUDGET.
    """
    from scipy.spatial import cKDTree

    out = []
    trees = {n: cKDTree(np.concatenate(rows)) for n, rows in carved.items()}
    for pc in cuts:
        cutter = subject.setup.cutter(pc.cut.cutter)
        if cutter is None or pc.cut.held_to != "points":
            continue
        want = pc.moves[pc.moves[:, KIND] != RAPID][:, [X, Y, Z]]
        tree = trees.get(cutter.number)
        missed = len(want) if tree is None else int((tree.query(want)[0] > BUDGET).sum())
        if missed:
            words = f"{_named(subject, pc)}, carving: {missed / len(want):.0%} of it is not carved as planned"
            out.append(stop("proof.uncut", words, {**subject.where, "piece": pc.piece.id}))
    return out


def _named(subject: Subject, pc: PlacedCut) -> str:
    part = subject.plan.part(pc.piece.part)
    return f"{part.name if part else pc.piece.part} piece {pc.piece.copy_no + 1}"


def _tabs(
    subject: Subject, cuts: Sequence[PlacedCut], floors: dict[int, list[tuple[LineString, float]]]
) -> list[Snag]:
    """Tabs that the program cuts away or thins: beneath the middle of each nothing may be cut lower than its
    top, unless a later step of the plan takes it off.
    """
    out = []
    for pc in cuts:
        c, cutter = pc.cut, subject.setup.cutter(pc.cut.cutter)
        if not isinstance(c, ContourCut) or c.tab is None or cutter is None:
            continue
        if any(
            o.piece.id == pc.piece.id
            and o.cut.contour == c.contour
            and o.cut.step > c.step
            and o.cut.frees
            and not o.cut.tabs
            for o in subject.sheet.cuts
        ):
            continue
        roots = _roots(pc)
        for number, lines in floors.items():
            other = next((k for k in subject.setup.cutters if k.number == number), None)
            low = [line for line, z in lines if z < c.tab.top - BUDGET]
            if other is None or not low:
                continue
            radius = (
                other.radius if other.kind in FLAT else other.radius_at(c.tab.top - min(z for _l, z in lines))
            )
            hit = STRtree(low).query(roots, predicate="dwithin", distance=radius + BUDGET)
            if hit.size:
                n = len({int(i) for i in hit[0]})
                words = (
                    f"{_named(subject, pc)}, {c.contour}: {n} of its {counted(len(c.tabs), 'tab')}"
                    f" {'is' if n == 1 else 'are'} cut away or thinned by T{number}"
                )
                out.append(stop("proof.tabs", words, {**subject.where, "piece": pc.piece.id}))
                break
    return out


def _roots(pc: PlacedCut) -> Array:
    """The roots of a cut's tabs on the contour, each as a straight line nearly as long as the tab is wide,
    where the piece lies.
    """
    assert isinstance(pc.cut, ContourCut) and pc.cut.tab is not None
    q, half = pc.piece, max(pc.cut.tab.width / 2 - TAB_SLACK, 0.05)
    ends = []
    for x, y in pc.cut.tabs:
        tx, ty = pc.cut.path.at(pc.cut.path.nearest(x, y)[0])[2:]
        ends.append([(x - tx * half, y - ty * half), (x + tx * half, y + ty * half)])
    c, s = np.cos(np.radians(q.rotation)), np.sin(np.radians(q.rotation))
    return shapely.linestrings(np.array(ends, dtype=float) @ np.array([[c, s], [-s, c]]) + (q.x, q.y))


def _uncut(
    subject: Subject, cuts: Sequence[PlacedCut], floors: dict[int, list[tuple[LineString, float]]]
) -> list[Snag]:
    """Planned lines that are not run at their depth everywhere but at the tabs."""
    out = []
    setup, thickness, where = subject.setup, subject.stock.thickness, subject.where
    trees: dict[tuple[int, float], STRtree] = {}
    for pc in cuts:
        cutter = setup.cutter(pc.cut.cutter)
        if cutter is None or pc.cut.held_to != "lines":
            continue
        through = -pc.cut.levels[-1] >= thickness - 1e-6
        need = -thickness if through and pc.cut.frees else pc.cut.levels[-1]
        key = (cutter.number, round(need, 3))
        if key not in trees:
            trees[key] = STRtree([line for line, z in floors.get(cutter.number, ()) if z <= need + LEVEL])
        lift = max(setup.tabs_on("holes").width, setup.tabs_on("outlines").width) / 2 + cutter.radius + 0.1
        missed = tried = 0
        for line in pc.cut.lines:
            path = line.placed(pc.piece.x, pc.piece.y, pc.piece.rotation)
            tabs = [line.nearest(*t)[0] for t in pc.cut.tabs]
            total = path.length
            n = max(3, int(total / 4)) if pc.cut.trace else max(12, int(total / 4))
            at = (np.arange(n) + 0.5) * total / n
            if tabs:
                gap = np.abs((at[:, None] - np.array(tabs)[None] + total / 2) % total - total / 2)
                at = at[(gap > lift).all(axis=1)]
            spots = shapely.points([path.at(s)[:2] for s in at])
            near = trees[key].query(spots, predicate="dwithin", distance=BUDGET)[0]
            tried += len(spots)
            missed += len(spots) - len(np.unique(near))
        if missed:
            what = "cut through" if through and pc.cut.frees else f"cut to {-need:.2f} mm"
            out.append(
                stop(
                    "proof.uncut",
                    f"{_named(subject, pc)}, {pc.cut.contour}: {missed / tried:.0%} of it is not {what}",
                    {**where, "piece": pc.piece.id},
                )
            )
    return out
