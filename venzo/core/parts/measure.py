"""Can this part be made? Inside radii, narrow slots and webs, where which cutter cannot reach, fillets that
stall a cutter, slots against their mate.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.ops import nearest_points

from venzo.core.memo import memo
from venzo.core.model import digest
from venzo.core.parts.alter import slots
from venzo.core.parts.corners import corners, fillets, smallest_inside_radius
from venzo.core.parts.shape import Shape
from venzo.core.snags import Remedy, Snag, Where, look, note
from venzo.core.tooling.cutter import Cutter

CHORD = 0.02
WIDEST = 40.0
"""mm; slots and webs wider than this are not called narrow and not measured."""
SAME_RADIUS = 0.03
"""Share by which a fillet may differ from the cutter's radius and still make the cutter stop in the
corner.
"""
EASIER = 1.067
"""A fillet this many times the cutter's radius lets it keep moving (common practice: 0.40 in for a 0.375 in
radius).
"""
RELIEF = 0.05
"""mm over the cutter's radius that a relief gets, so that the cutter is not stuck (common practice: a couple
of thousandths of an inch).
"""
_BUFFER = {"quad_segs": 12}


@dataclass(frozen=True)
class Narrow:
    """The narrowest place of its kind: width in mm, and where."""

    width: float
    x: float
    y: float


@dataclass(frozen=True)
class Reach:
    """What one cutter leaves uncut of the waste beside a part: contours it cannot enter, area in mm2, and the
    patches as rings of points.
    """

    cutter: str
    name: str
    diameter: float
    blocked: tuple[str, ...]
    left_over: float
    patches: tuple[tuple[tuple[float, float], ...], ...]


@dataclass(frozen=True)
class Judgement:
    """What can be measured of a part. ``inside_radius`` 0: a sharp inside corner; None: no inside corner at
    all.
    """

    inside_radius: float | None
    sharp_inside: int
    web: Narrow | None
    slot: Narrow | None
    reaches: tuple[Reach, ...]


def _pieces(g: shapely.Geometry) -> list[Polygon]:
    return [p for p in shapely.get_parts(g).tolist() if isinstance(p, Polygon) and p.area > 1e-6]


def _thin(region: Polygon | MultiPolygon, width: float) -> Polygon | None:
    """A place of the region narrower than ``width``, corners not counted: what an opening by half of it
    removes and is nearly as wide as that.
    """
    r = width / 2
    rest = region.difference(region.buffer(-r, **_BUFFER).buffer(r * 1.02 + 0.01, **_BUFFER))
    # a square corner leaves a remnant of inradius 0.17 r, one of 30 degrees 0.59 r; a web or slot just too
    # narrow leaves about r
    for p in sorted(_pieces(rest), key=lambda p: -p.area)[:30]:
        if p.area > 0.5 * r * r and shapely.maximum_inscribed_circle(p, tolerance=r * 0.05).length > 0.65 * r:
            return p
    return None


def narrowest(region: Polygon | MultiPolygon, upto: float = WIDEST) -> Narrow | None:
    """The narrowest web of a region (or slot, of the waste): None where nothing is narrower than ``upto`` mm.

    Between two of its edges the web is their distance; where one edge bends back on itself widths are tried
    upwards, then bisected.
    """
    between = _between(region)
    if between is not None and between.width < upto:
        within = _bent(region, min(upto, between.width))
        return within or between
    return _bent(region, upto)


def _between(region: Polygon | MultiPolygon) -> Narrow | None:
    """The least distance between two edges of a region, exact for its polygon, and the middle of it."""
    best: Narrow | None = None
    for p in _pieces(region):
        rings = [p.exterior, *p.interiors]
        if len(rings) < 2:
            continue
        pairs, far = shapely.STRtree(rings).query_nearest(rings, exclusive=True, return_distance=True)
        k = int(np.argmin(far))
        (i, j), away = pairs[:, k], float(far[k])
        if best is None or away < best.width:
            a, b = nearest_points(rings[int(i)], rings[int(j)])
            best = Narrow(round(away, 2), round((a.x + b.x) / 2, 2), round((a.y + b.y) / 2, 2))
    return best


def _bent(region: Polygon | MultiPolygon, upto: float) -> Narrow | None:
    """The narrowest place by opening with discs of growing width."""
    low, high, found = 0.0, min(0.1, upto), None
    while found is None:
        found = _thin(region, high)
        if found is None:
            if high >= upto:
                return None
            low, high = high, min(upto, high * 1.4)
    while high - low > max(0.005, 0.001 * high):
        middle = (low + high) / 2
        p = _thin(region, middle)
        if p is None:
            low = middle
        else:
            high, found = middle, p
    x, y = shapely.maximum_inscribed_circle(found, tolerance=high * 0.02).coords[0]
    return Narrow(round(low, 2), round(x, 2), round(y, 2))


def waste_of(shape: Shape, room: float) -> list[tuple[str, Polygon | MultiPolygon]]:
    """The waste beside each contour: what is in a hole; around the outline a frame ``room`` mm wide with its
    bays.
    """
    out: list[tuple[str, Polygon | MultiPolygon]] = []
    for name, c in shape.contours:
        solid = Polygon(c.points(CHORD)).buffer(0)
        if name == shape.names[0]:
            out.append(
                (name, box(*solid.bounds).buffer(room).difference(solid))
            )  # round corners: a square frame would have inside corners of its own
        else:
            out.append((name, solid))
    return out


def reach(shape: Shape, cutter: Cutter) -> Reach:
    """Where a cutter cannot reach the waste: waste less its morphological opening by the cutter's disc."""
    r = cutter.radius
    blocked: list[str] = []
    patches: list[tuple[tuple[float, float], ...]] = []
    total = 0.0
    for name, waste in waste_of(shape, 4 * r + 10):
        core = waste.buffer(-r + 0.002, quad_segs=24)
        if core.is_empty:
            blocked.append(name)
        rest = waste.difference(core.buffer(r + 0.01, quad_segs=24))
        for p in _pieces(rest):
            if p.area > 0.02 * r * r and p.area > 0.01:
                total += p.area
                if len(patches) < 200:
                    patches.append(tuple((round(x, 2), round(y, 2)) for x, y in p.exterior.coords))
    return Reach(cutter.id, cutter.name, cutter.diameter, tuple(blocked), round(total, 2), tuple(patches))


def judge(shape: Shape, cutters: Iterable[Cutter]) -> Judgement:
    """Measure a part; remembered by its shape and the cutters."""
    tools = sorted(cutters, key=lambda c: -c.diameter)
    return memo("judgement", digest(shape.digest, tools), lambda: _judge(shape, tools))


def _judge(shape: Shape, cutters: Sequence[Cutter]) -> Judgement:
    outline = shape.names[0]
    radii = [r for n, c in shape.contours if (r := smallest_inside_radius(c, n != outline)) is not None]
    sharp = sum(k.inside for n, c in shape.contours for k in corners(c, n != outline))
    solid = shape.region.polygon(CHORD).buffer(0)
    waste = shapely.unary_union([w for _n, w in waste_of(shape, 3 * WIDEST)])
    return Judgement(
        min(radii, default=None),
        sharp,
        narrowest(solid),
        narrowest(waste),
        tuple(reach(shape, c) for c in cutters),
    )


def part_snags(
    part_id: str,
    name: str,
    shape: Shape,
    cutters: Sequence[Cutter],
    mates: Sequence[tuple[str, float]],
    clearance: float,
    least_web: float,
) -> list[Snag]:
    """What is to be said of a part at Parts, quick enough for every edit.

    Args:
        part_id: for remedies.
        name: for people.
        shape: the part.
        cutters: those that cut it.
        mates: (name, measured thickness mm) of sheets that slots may take.
        clearance: mm a slot is wider than its mate, by house rule.
        least_web: mm; narrower webs are said.
    """
    key = digest(
        part_id,
        name,
        shape.digest,
        [(c.id, c.diameter) for c in cutters],
        [list(m) for m in mates],
        clearance,
        least_web,
    )
    return memo(
        "part-snags", key, lambda: _part_snags(part_id, name, shape, cutters, mates, clearance, least_web)
    )


def _part_snags(
    part_id: str,
    name: str,
    shape: Shape,
    cutters: Sequence[Cutter],
    mates: Sequence[tuple[str, float]],
    clearance: float,
    least_web: float,
) -> list[Snag]:
    out: list[Snag] = []
    where: Where = {"part": part_id}
    outline = shape.names[0]

    def offer(label: str, alteration: dict | list[dict]) -> Remedy:
        return Remedy(label=label, command={"kind": "alter-part", "part": part_id, "add": alteration})

    for cutter in cutters:
        stalled = [
            f
            for n, c in shape.contours
            for f in fillets(c, n != outline)
            if f.inside and abs(f.radius - cutter.radius) <= SAME_RADIUS * cutter.radius
        ]
        if stalled:
            to, n = round(cutter.radius * EASIER, 2), len(stalled)
            out.append(
                look(
                    "parts.fillet",
                    f"{name}: {n} inside fillet{'s' * (n != 1)} of {stalled[0].radius:.2f} mm"
                    f" {'are' if n != 1 else 'is'} as round as the {cutter.name}: it stops, squeals and burns"
                    " there",
                    {**where, "x": stalled[0].x, "y": stalled[0].y},
                    offer(
                        f"Make them {to:g} mm",
                        {"kind": "fillets", "radius": round(stalled[0].radius, 4), "to": to},
                    ),
                )
            )
    out += _slot_snags(name, shape, mates, clearance, where, offer)
    solid = shape.region.polygon(0.05).buffer(0)
    thin = narrowest(solid, least_web)
    if thin is not None:
        words = (
            f"{name}: a web {thin.width:.2f} mm wide at {thin.x:.1f}, {thin.y:.1f}, {least_web:g} mm is the"
            " house rule; it breaks or chatters"
        )
        out.append(look("parts.web", words, {**where, "x": thin.x, "y": thin.y}))
    out += _corner_snags(name, shape, cutters, where, offer)
    breadth = 2 * shape.region.area / max(shape.region.perimeter, 1e-9)
    if breadth < 1.0:
        out.append(
            look(
                "parts.sliver",
                f"{name}: a sliver, {breadth:.2f} mm broad on average; nothing holds it",
                where,
            )
        )
    elif max(shape.size) < 60 and min(shape.size) < 40:
        out.append(
            note(
                "parts.small",
                f"{name}: {shape.size[0]:.0f} x {shape.size[1]:.0f} mm is little for vacuum to hold; keep its"
                " tabs, or cut it while the sheet is whole",
                where,
            )
        )
    return out


def _corner_snags(name: str, shape: Shape, cutters: Sequence[Cutter], where: Where, offer) -> list[Snag]:
    """Sharp inside corners of the outline, which a round cutter leaves round; those of holes are told with
    each hole.
    """
    outline = shape.names[0]
    found = [(outline, k) for k in corners(shape.region.outline, False) if k.inside]
    if not found or not cutters:
        return []
    smallest = min(cutters, key=lambda c: c.diameter)
    n, first = len(found), found[0]
    words = (
        f"{name}: {n} sharp inside corner{'s' * (n != 1)}, the first in {first[0]} at {first[1].x:.1f},"
        f" {first[1].y:.1f}: {smallest.name} leaves a radius of {smallest.radius:g} mm there"
    )
    spot: Where = {**where, "contour": first[0], "x": round(first[1].x, 2), "y": round(first[1].y, 2)}
    bones = offer(
        "Dog-bones", {"kind": "relief", "style": "dog-bone", "radius": round(smallest.radius + RELIEF, 3)}
    )
    return [note("parts.corner", f"{words}; relieve what a square corner must go into", spot, bones)]


def _slot_snags(
    name: str, shape: Shape, mates: Sequence[tuple[str, float]], clearance: float, where: Where, offer
) -> list[Snag]:
    """Slots whose width is near a mating sheet's thickness but not thickness + clearance."""
    outline = shape.names[0]
    found: dict[tuple[float, str], list[tuple[str, tuple[float, float]]]] = {}
    for contour, c in shape.contours:
        for s in slots(c, contour != outline):
            near = min(mates, key=lambda m: abs(m[1] + clearance - s.width), default=None)
            if (
                near is None
                or abs(s.width - near[1]) > 0.15 * near[1]
                or abs(s.width - near[1] - clearance) <= max(0.05, clearance / 2)
            ):
                continue
            found.setdefault((round(s.width, 3), near[0]), []).append((contour, s.at))
    out = []
    for (width, mate), places in found.items():
        thick = next(t for n, t in mates if n == mate)
        want = round(thick + clearance, 3)
        gap = width - thick
        how = (
            f"{-gap:.2f} mm too tight"
            if gap < 0
            else f"{gap:.2f} mm loose"
            if gap > clearance
            else f"only {gap:.2f} mm clear"
        )
        first = places[0]
        several = f"{len(places)} slots" if len(places) > 1 else f"the slot in {first[0]}"
        changes = [
            {"kind": "slot-width", "contour": c, "at": [round(at[0], 3), round(at[1], 3)], "width": want}
            for c, at in places
        ]
        spot: Where = {**where, "contour": first[0], "x": first[1][0], "y": first[1][1]}
        out.append(
            look(
                "parts.slot",
                f"{name}: {several}, {width:g} mm, would be {how} for {mate}, measured {thick:.2f} mm",
                spot,
                offer(f"Make {'them' if len(places) > 1 else 'it'} {want:g} mm", changes),
            )
        )
    return out


def corner_points(shape: Shape) -> list[tuple[str, float, float, float, bool]]:
    """Every sharp corner for the screen: contour, x, y, angle of the waste in degrees, inside?"""
    outline = shape.names[0]
    return [
        (n, round(k.x, 3), round(k.y, 3), round(k.angle, 2), k.inside)
        for n, c in shape.contours
        for k in corners(c, n != outline)
    ]


def fell_out(shapes: Sequence[tuple[Shape, tuple[float, float], int]]) -> list[tuple[int, int]]:
    """Which parts of a drawing lie in a hole of another, and so fall out when it is cut through: (inner
    index, outer index).
    """
    solids = [np.array(s.region.outline.moved(*at).bbox) for s, at, _q in shapes]
    out = []
    for i, (s, at, _q) in enumerate(shapes):
        for j, (o, there, _n) in enumerate(shapes):
            if (
                i == j
                or not (solids[i][:2] > solids[j][:2]).all()
                or not (solids[i][2:] < solids[j][2:]).all()
            ):
                continue
            spot = shapely.Point(*s.region.outline.moved(*at).vertices[0, :2])
            if any(Polygon(h.moved(*there).points(0.05)).contains(spot) for h in o.region.holes):
                out.append((i, j))
    return out
