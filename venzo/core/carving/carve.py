"""A carving: what the V bit runs, what an end mill clears, and how deep it all goes.

The bit's point follows the medial axis at the depth at which the bit is as wide as the stroke there, so that
it touches both edges at the surface: depth = half width / tan(half the included angle). Where that is deeper
than wanted, or wider than the bit, the carving gets a flat floor: the bit runs along the floor's edge, an end
mill clears the floor as far as it reaches, and the bit takes what that leaves.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from venzo.core.carving.bit import Bit
from venzo.core.carving.medial import Axis, clean, medial_axis
from venzo.core.carving.walks import Walk, plan_length, stretches, walks
from venzo.core.cuts.areas import Area, polygons_in, region_of
from venzo.core.cuts.pocket import Lines, clear_area
from venzo.core.geometry.contour import Array
from venzo.core.geometry.fit import fit
from venzo.core.geometry.offset import offset_points
from venzo.core.memo import give_way
from venzo.core.snags import BadInput, Snag, Where, look, note, stop

RIDGES = (0.02, 0.05, 0.1, 0.2)
"""mm; heights of ridges that the bit may leave on a floor it clears itself. The lowest whose rows stay within
MOST_ROWS is taken.
"""
MOST_ROWS = 20_000.0
"""mm of rows of the V bit on floors."""
END_MILL_SIDE = 0.02
"""mm that the end mill keeps from the foot of the walls, which are the bit's."""
HAIR = 0.002
"""mm; a stroke wider than the limit by less has no floor of its own."""
SHORT = 0.05
"""mm; stretches of the axis shorter than this beside a floor are the floor's."""
KICKS = 60
"""Disturbances that the search for a short order tries."""
STEP_OVER = 0.45
"""Of the end mill, over its diameter."""


@dataclass(frozen=True)
class Depths:
    """What limits a carving; mm, all positive downwards from the surface. None: no such limit.

    ``below``: the plane the drawing is reckoned at, under the surface. ``step_down``: deepest a pass goes;
    ``finish``: left for the last, light pass where there are several. ``ridge``: height of ridges on floors
    that the bit clears; None: chosen by how long that takes.
    """

    most: float | None = None
    floor: float | None = None
    clear: float | None = None
    """Diameter of the end mill that clears floors."""
    below: float = 0.0
    step_down: float | None = None
    finish: float = 0.2
    ridge: float | None = None

    def __post_init__(self) -> None:
        for name, value in (
            ("maximum depth", self.most),
            ("floor depth", self.floor),
            ("clearing diameter", self.clear),
            ("step-down", self.step_down),
            ("ridge", self.ridge),
        ):
            if value is not None and not 0 < value <= 500:
                raise BadInput(f"a {name} of {value:g} mm is not between 0 and 500 mm")
        if not 0 <= self.below <= 100 or not 0 <= self.finish <= 10:
            raise BadInput(
                f"reckoned {self.below:g} mm below the surface with {self.finish:g} mm left to the last pass:"
                " give 0 to 100 and 0 to 10 mm"
            )


@dataclass(frozen=True, eq=False)
class Carving:
    """A planned carving. Lengths in mm, Z 0 at the surface, down negative.

    ``walks``: the bit's final pass at full depth; ``rows``: its rows on floors; ``levels``: depths of the
    passes before it (negative); ``floor``: where it is flat, at the floor's depth; ``cleared``: what the end
    mill runs on each floor; ``wide``: where strokes are wider than the limit; ``deepest``: positive.
    """

    bit: Bit
    depths: Depths
    polygons: tuple[Polygon, ...]
    walks: tuple[Walk, ...]
    rows: tuple[Walk, ...]
    levels: tuple[float, ...]
    floor: BaseGeometry
    floor_depth: float | None
    cleared: tuple[Lines, ...]
    by_bit: float
    """mm of rows that the bit runs on floors."""
    ridge: float
    deepest: float
    widest: float
    """Widest stroke at the reckoning plane, mm."""
    thin: tuple[tuple[float, float], ...]
    """Points where the stroke is narrower than the bit's point."""
    limited_by: str
    """What made the floor: "", "bit", "maximum depth" or "floor depth"."""
    snags: tuple[Snag, ...] = field(default=())

    @property
    def length(self) -> float:
        """Of the bit's final pass with its rows, mm."""
        return float(
            sum(
                np.sqrt((np.diff(w.points, axis=0) ** 2).sum(axis=1)).sum() for w in (*self.walks, *self.rows)
            )
        )


def carve(
    area: BaseGeometry | Sequence[BaseGeometry],
    bit: Bit,
    depths: Depths = Depths(),
    lift: float = 25.0,
    at: tuple[float, float] = (0.0, 0.0),
) -> Carving:
    """Plan the carving of closed regions.

    Args:
        area: polygons, holes open (counters of letters stay standing).
        bit: the V bit.
        depths: limits.
        lift: mm of feed travel that lifting, moving over and going down again costs.
        at: where the bit starts from.

    Raises:
        BadInput: nothing to carve, or measures that contradict each other.
    """
    polygons = clean(area)
    if not polygons:
        raise BadInput("there is no closed outline to carve; a V-carving fills closed shapes")
    if depths.clear and depths.floor is None and depths.most is None:
        raise BadInput(
            "a clearing cutter needs the depth of the floor that it clears; give a floor depth or a maximum"
            " depth"
        )
    below = depths.below
    limits = [
        (v, n)
        for v, n in ((depths.floor, "floor depth"), (depths.most, "maximum depth"), (bit.deepest, "bit"))
        if v is not None
    ]
    limit, by = min(limits, key=lambda t: t[0])
    if limit <= below + 1e-9:
        raise BadInput(
            f"the plane it is reckoned from lies {below:g} mm down, the {by} is {limit:.3g} mm; give more"
            " depth, or reckon from higher up"
        )
    axis = medial_axis(polygons, min(1.0, bit.tan / 0.577))
    foot = float(bit.cone_radius(limit - below) if below else bit.radius(limit - below))
    wide = axis.widest > foot + HAIR
    floor: BaseGeometry = MultiPolygon()
    rings: list[Array] = []
    if wide:
        floor, rings = _floor(polygons, foot)
    give_way()
    ramps, thin = _branches(axis, bit, below, foot if wide else np.inf)
    snags: list[Snag] = []
    give_way()
    cleared, ridge, rows = _clear(floor, bit, depths, limit)
    branches = [*ramps, *_ring_branches(rings, ramps, -limit)] if wide else ramps
    give_way()
    done = walks(branches, lift, at)
    done += [
        Walk(np.array([[x, y, z], [x, y, z]]), 0.0)
        for x, y, z in _spots(axis, bit, below, foot if wide else np.inf)
    ]
    give_way()
    done = _in_order(done, at)
    last = done[-1].points[-1, :2] if done else np.array(at)
    on_floor = _row_walks(rows, -limit, floor, (float(last[0]), float(last[1])), lift) if rows else []
    deepest = max([0.0, *(-float(w.points[:, 2].min()) for w in done), limit if cleared else 0.0])
    by_bit = float(sum(r.length for r in rows))
    if not done:
        snags.append(
            stop(
                "carve.point",
                f"every stroke is narrower than the bit's point, {bit.tip:g} mm; take a bit with a finer"
                " point or enlarge the drawing",
            )
        )
    out = Carving(
        bit,
        depths,
        tuple(polygons),
        tuple(done),
        tuple(on_floor),
        _levels(deepest, depths),
        floor,
        limit if wide else None,
        cleared,
        by_bit,
        ridge,
        deepest,
        2 * axis.widest,
        thin,
        by if wide else "",
        tuple(snags),
    )
    return out


def _in_order(found: list[Walk], at: tuple[float, float]) -> list[Walk]:
    """Walks with little travel in air between them; their own direction stays, since each starts where the
    bit goes in shallowest.
    """
    if len(found) < 3:
        return found
    from venzo.core.order.sequence_kernel import improve

    starts, ends = np.array([w.points[0, :2] for w in found]), np.array([w.points[-1, :2] for w in found])
    order = improve(starts, ends, np.arange(len(found)), at, None, [[] for _ in found], KICKS)
    return [found[int(i)] for i in order]


def _levels(deepest: float, depths: Depths) -> tuple[float, ...]:
    """Depths (negative) of the passes before the last; they stay ``finish`` above the carved surface."""
    if not depths.step_down or deepest <= depths.step_down * 1.05:
        return ()
    count = int(np.ceil(deepest / depths.step_down - 1e-9))
    step = deepest / count
    return tuple(-step * k for k in range(1, count + 1))


def _floor(polygons: Sequence[Polygon], foot: float) -> tuple[BaseGeometry, list[Array]]:
    """The flat floor, where the edge is ``foot`` mm away or more, and the loops around it."""
    floors: list[BaseGeometry] = []
    loops: list[Array] = []
    for p in polygons:  # one by one: a shape may stand in the counter of another
        q = shapely.orient_polygons(p)
        rings = [shapely.get_coordinates(g)[:-1] for g in (q.exterior, *q.interiors)]
        mine = offset_points(rings, -foot) if foot > 1e-9 else rings
        floors.append(region_of(mine))
        loops += mine
    return shapely.union_all(floors), loops


def _branches(
    axis: Axis, bit: Bit, below: float, foot: float
) -> tuple[list[Array], tuple[tuple[float, float], ...]]:
    """Stretches of the axis as (x, y, z) where the clearance is between the point's and ``foot``; and places
    too thin for the point.
    """
    least = bit.tip / 2
    if below:  # the walls go on above the plane: there is room for the point where it stays higher
        least = max(0.0, float(bit.radius(0.0)) - below * bit.tan)
    out: list[Array] = []
    thin: list[tuple[float, float]] = []
    for b in axis.branches:
        r = b[:, 2]
        if least and r.max() < least - 1e-9:
            thin.append((float(b[len(b) // 2, 0]), float(b[len(b) // 2, 1])))
            continue
        pieces = [b] if (r.min() >= least - 1e-12 and r.max() <= foot + HAIR) else _between(b, least, foot)
        if (
            r.max() > foot + HAIR
            # a stroke just as wide as the limit has a floor too thin for an offset: its middle is run at the
            # limit
        ):
            pieces += [p for p in _between(b, foot, foot + HAIR) if plan_length(p) > SHORT]
        for piece in pieces:
            fine = _refined(piece, bit) if bit.tip_radius and not below else piece
            out.append(
                np.column_stack(
                    [fine[:, :2], -np.maximum(_depth(bit, np.minimum(fine[:, 2], foot), below), 0.0)]
                )
            )
    return out, tuple(thin)


def _depth(bit: Bit, clearance: Array, below: float) -> Array:
    """Depth under the surface for a clearance at a plane ``below`` it."""
    return below + bit.cone_depth(clearance) if below else bit.depth(clearance)


def _between(b: Array, low: float, high: float) -> list[Array]:
    """Stretches of a branch whose third column lies between two values, cut exactly there."""
    marks = [b[0]]
    for p, q in itertools.pairwise(b):
        if p[2] != q[2]:
            ts = sorted(
                t for v in (low, high) if np.isfinite(v) and 0 < (t := (v - p[2]) / (q[2] - p[2])) < 1
            )
            marks += [p + (q - p) * t for t in ts]
        marks.append(q)
    pts = np.array(marks)
    mid = (pts[:-1, 2] + pts[1:, 2]) / 2
    return [pts[i : j + 1] for i, j in stretches((mid >= low) & (mid <= high))]


def _refined(b: Array, bit: Bit) -> Array:
    """More points where the point's rounding makes the depth curve."""
    touch = bit.tip_radius * np.cos(bit.half)
    rows = [b[:1]]
    for p, q in itertools.pairwise(b):
        n = 1
        if min(p[2], q[2]) < touch and p[2] != q[2]:
            n = int(np.clip(np.ceil(abs(p[2] - q[2]) / touch * 24), 1, 200))
        t = np.arange(1, n + 1)[:, None] / n
        rows.append(p + (q - p) * t)
    return np.concatenate(rows)


def _spots(axis: Axis, bit: Bit, below: float, foot: float) -> list[tuple[float, float, float]]:
    return [
        (x, y, -float(_depth(bit, np.asarray(min(r, foot)), below)))
        for x, y, r in axis.spots.tolist()
        if bit.tip / 2 <= r <= foot + HAIR
    ]


def _ring_branches(rings: Sequence[Array], ramps: list[Array], z: float) -> list[Array]:
    """Loops around floors as branches, cut where stretches of the axis run into them; those stretches' ends
    are moved onto the loop's corner.
    """
    if not rings:
        return []
    corners = np.concatenate(rings)
    tree = shapely.STRtree(shapely.points(corners))
    ends = [(n, k) for n, b in enumerate(ramps) for k in (0, -1) if abs(b[k, 2] - z) < 1e-6]
    cut: set[int] = set()
    if ends:
        at = shapely.points(np.array([ramps[n][k, :2] for n, k in ends]))
        pairs, far = tree.query_nearest(at, max_distance=0.03, return_distance=True, all_matches=False)
        del far
        for i, j in pairs.T.tolist():
            n, k = ends[i]
            moved = ramps[n].copy()
            moved[k, :2] = corners[j]
            ramps[n] = moved
            cut.add(j)
    out = []
    first = 0
    for ring in rings:
        here = sorted(j - first for j in cut if first <= j < first + len(ring)) or [0]
        first += len(ring)
        loop = np.column_stack([ring, np.full(len(ring), z)])
        for a, b in zip(here, [*here[1:], here[0] + len(ring)], strict=True):
            out.append(loop[np.arange(a, b + 1) % len(ring)])
    return out


def _clear(
    floor: BaseGeometry, bit: Bit, depths: Depths, depth: float
) -> tuple[tuple[Lines, ...], float, list[LineString]]:
    """What the end mill runs on every floor, and the bit's rows where that leaves something, with the height
    of the ridges between them.
    """
    cleared: list[Lines] = []
    rests: list[tuple[Polygon, BaseGeometry, bool]] = []
    for p in polygons_in(floor, 1e-6):
        p = shapely.orient_polygons(p)
        lines = None
        if depths.clear:
            radius = depths.clear / 2
            loops = tuple(fit(shapely.get_coordinates(r)[:-1], True) for r in (p.exterior, *p.interiors))
            lines = clear_area(Area("floor", depth, p, p, loops), radius, END_MILL_SIDE, STEP_OVER)
            if lines.paths:
                cleared.append(lines)
        milled = lines is not None and bool(lines.paths)
        rest = (
            shapely.union_all(polygons_in(p.difference(lines.centres.buffer(radius, quad_segs=32)), 1e-4))
            if lines is not None and milled
            else p
        )
        if not rest.is_empty:
            rests.append((p, rest, milled))
    if not rests:
        return tuple(cleared), 0.0, []
    area = sum(r.area for _p, r, _m in rests)
    ridge, step = 0.0, 0.0
    for ridge in (depths.ridge,) if depths.ridge else RIDGES:
        step = 2 * float(bit.radius(ridge))
        if area / step <= MOST_ROWS:
            break
    rows: list[LineString] = []
    hair = 0.05 * step  # rings need not follow every chord; they only have to lie a step apart
    for p, rest, milled in rests:
        near = rest.buffer(step / 2, quad_segs=4).simplify(hair) if milled else p.buffer(1e-3, quad_segs=2)
        shapely.prepare(near)
        inner = [shapely.get_coordinates(r)[:-1] for r in (p.exterior, *p.interiors)]
        found: list[LineString] = []
        for _ in range(20_000):
            inner = [q for r in offset_points(inner, -step, chord=hair) if len(q := _thinned(r, hair)) > 2]
            closed = [np.vstack([q, q[:1]]) for q in inner]
            lines_in = (
                shapely.linestrings(
                    np.concatenate(closed),
                    indices=np.repeat(np.arange(len(closed)), [len(q) for q in closed]),
                ).tolist()
                if closed
                else []
            )
            if not lines_in or not shapely.intersects(near, lines_in).any():
                break
            found += lines_in
        # rings miss the middle where they run out: the axis of the floor takes it
        found += [LineString(b[:, :2]) for b in medial_axis([p], 1.0).branches if len(b) > 1]
        if milled:
            whole = shapely.covers(near, found)
            rows += [g for g, ok in zip(found, whole, strict=True) if ok]
            part = [g for g, ok in zip(found, whole, strict=True) if not ok]
            cut = shapely.intersection(shapely.multilinestrings(part), near) if part else LineString()
            rows += [g for g in getattr(cut, "geoms", [cut]) if isinstance(g, LineString) and g.length > 1e-3]
        else:
            rows += [g for g in found if g.length > 1e-3]
    return tuple(cleared), ridge, rows


def _thinned(ring: Array, tolerance: float) -> Array:
    """A closed ring with fewer points."""
    from venzo.core.carving.medial_kernel import thin  # here, since its compiler is dear to load

    p = np.vstack([ring, ring[:1]])
    return p[thin(np.column_stack([p, np.zeros(len(p))]), tolerance)][:-1]


def _row_walks(
    rows: Sequence[LineString], z: float, floor: BaseGeometry, at: tuple[float, float], lift: float
) -> list[Walk]:
    """The bit's rows on a floor, the nearest next, joined where the straight way between stays on the floor
    and is short.
    """
    fat = floor.buffer(2e-3)
    shapely.prepare(fat)
    left = [shapely.get_coordinates(r) for r in rows]
    ends = np.array([[p[0], p[-1]] for p in left])
    waiting = np.ones(len(left), dtype=bool)
    runs: list[list[Array]] = []
    here = np.array(at)
    for _ in range(len(left)):
        d = np.where(waiting[:, None], np.hypot(ends[:, :, 0] - here[0], ends[:, :, 1] - here[1]), np.inf)
        i, side = divmod(int(np.argmin(d)), 2)
        waiting[i] = False
        p = left[i] if side == 0 else left[i][::-1]
        if runs and d[i, side] <= lift and fat.covers(LineString([here, p[0]])):
            runs[-1].append(p)
        else:
            runs.append([p])
        here = p[-1]
    return [Walk(np.column_stack([np.concatenate(r), np.full(sum(map(len, r)), z)]), 0.0) for r in runs]


def judged(
    c: Carving,
    thickness: float | None = None,
    spread: float = 0.0,
    under: str = "",
    family: str = "wood",
    readable: float = 0.4,
) -> list[Snag]:
    """What a carver would say to a plan.

    Args:
        c: the carving.
        thickness: of the stock, mm; ``spread``: largest less smallest reading.
        under: what lies beneath and must not be touched, in words.
        family: of material.
        readable: narrowest stroke that is read, mm (common practice, at arm's length; outdoors several times
        that).
    """
    out = list(c.snags)
    bit = c.bit
    if c.limited_by == "bit":
        inside = [p.representative_point() for p in polygons_in(c.floor)[:40]]
        where: Where = {"places": [(round(p.x, 3), round(p.y, 3)) for p in inside]}
        widest = (
            f"strokes of up to {c.widest:.2f} mm are wider than the bit reaches"
            f" ({2 * float(bit.radius(bit.deepest)):.2f} mm)"
        )
        advice = (
            "a wider bit or a blunter one goes deeper"
            if c.cleared
            else "a wider bit, a blunter one or a floor cleared by an end mill is quicker"
        )
        out.append(
            look("carve.wide", f"{widest}: they get a flat floor at {c.floor_depth:.2f} mm; {advice}", where)
        )
    asked = c.depths.floor or c.depths.most
    if asked and asked > bit.deepest + 1e-9 and c.limited_by == "bit":
        out.append(
            look(
                "carve.reach",
                f"{asked:.2f} mm were asked for; the bit is as wide as it is at {bit.deepest:.2f} mm and goes"
                " no deeper",
            )
        )
    if c.by_bit and not c.depths.clear:
        out.append(
            look(
                "carve.floor",
                f"the bit alone clears {c.floor.area:.0f} mm2 of floor, {c.by_bit / 1000:.1f} m of rows, and"
                f" leaves ridges {c.ridge:g} mm high; an end mill is quicker",
            )
        )
    elif c.by_bit > 3000:
        out.append(
            note(
                "carve.rest",
                f"the bit takes {c.by_bit / 1000:.1f} m of rows where the {c.depths.clear:g} mm end mill does"
                " not reach; a smaller end mill leaves less",
            )
        )
    if c.depths.clear and not c.cleared and not c.floor.buffer(-0.1).is_empty:
        out.append(
            look(
                "carve.clear",
                f"the {c.depths.clear:g} mm end mill fits nowhere on the floor; take a smaller one, or none",
            )
        )
    if c.thin:
        out.append(
            look(
                "carve.thin",
                f"{len(c.thin)} stroke{'s are' if len(c.thin) > 1 else ' is'} narrower than the bit's point,"
                f" {bit.tip:g} mm, and stay uncut",
                {"places": [(x, y) for x, y in c.thin[:40]]},
            )
        )
    elif 0 < c.widest < readable:
        out.append(
            look(
                "carve.read",
                f"the widest stroke is {c.widest:.2f} mm: hardly read; reckon it from a plane"
                f" {readable / 2 / bit.tan:.2f} mm lower, or enlarge it",
            )
        )
    if bit.angle < 40 and bit.tip < 0.2 and bit.tip_radius < 0.1 and family != "plastic":
        out.append(
            note(
                "carve.fragile",
                f"a sharp point of {bit.angle:g} degrees breaks easily: go down slowly, along a slope",
            )
        )
    if thickness is not None:
        if c.deepest >= thickness - 1e-9:
            out.append(
                stop(
                    "carve.through",
                    f"the carving is {c.deepest:.2f} mm deep, the stock {thickness:.2f} mm thick; set a"
                    " maximum depth below that",
                )
            )
        elif c.deepest > 0.7 * thickness:
            out.append(
                look(
                    "carve.deep",
                    f"the carving takes {c.deepest:.2f} of {thickness:.2f} mm; what is left under it,"
                    f" {thickness - c.deepest:.2f} mm, is weak",
                )
            )
        if under and c.deepest >= thickness - 1e-9:
            out.append(stop("carve.under", f"{under} lies under the carving"))
    if spread > 0:
        change = 2 * bit.tan * spread
        share = change / c.widest if c.widest else 0.0
        words = (
            f"the thickness differs by {spread:.2f} mm: lines get up to {change:.2f} mm wider or narrower"
            f" ({2 * bit.tan:.2f} mm per mm of height)"
        )
        if spread > 0.25 * max(c.deepest, 1e-9) or share > 0.15:
            out.append(
                look("carve.flat", words + "; face the board first, or carve to the top of each letter")
            )
        elif change > 0.1:
            out.append(note("carve.flat", words))
    return out
