"""Healing: what is mended in a drawing before parts are looked for, as a list whose lines can be taken back
one by one.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from venzo.core.geometry.contour import Array, Contour, arc_of
from venzo.core.geometry.fit import fit
from venzo.core.geometry.loops import Joined, join
from venzo.core.geometry.many import measure
from venzo.core.model import Value

NEAR = 0.01
"""mm; lines this near to each other all along are one line drawn twice."""
SMALL_LINE = 0.05
"""mm; lines up to twice as long are lost in joining without a word."""
BESIDE = 0.02
"""mm; straight lines this near beside each other for a while are one line drawn twice in pieces."""
NEAR_TWIN = 0.15
"""mm; a closed outline this near inside another all along is the same one drawn again: nothing can be cut
between them.
"""
MOST_ITEMS = 200
"""Things listed one by one under a line; more are only counted."""


class HealItem(Value):
    """One thing that was changed or dropped: where it is, in drawing millimetres, as vertex rows; ``id``
    takes it back by itself.
    """

    id: str
    rows: list[list[float]]
    closed: bool = False


class HealLine(Value):
    """One kind of mending: what was done, how often, counts before and after, the largest deviation in mm,
    and whether it is applied.
    """

    id: str
    says: str
    count: int
    before: int
    after: int
    deviation: float = 0.0
    applied: bool = True
    items: tuple[HealItem, ...] = ()


@dataclass
class Healed:
    """Closed loops, lines that stay open, and the list of what was done."""

    loops: list[Contour]
    open: list[Contour]
    branches: list[tuple[float, float]]
    lines: list[HealLine] = field(default_factory=list)


class _Choices:
    """Which lines and items are applied: as a person chose, else by default."""

    def __init__(self, chosen: Mapping[str, bool]):
        self.chosen = chosen

    def __call__(self, line: str, item: str = "", default: bool = True) -> bool:
        if item and item in self.chosen:
            return self.chosen[item]
        return self.chosen.get(line, default)


def _items(line: str, dropped: list[tuple[int, Contour]]) -> tuple[HealItem, ...]:
    return tuple(HealItem(id=f"{line}:{k}", rows=c.rows(3), closed=c.closed) for k, c in dropped[:MOST_ITEMS])


def _s(n: int, one: str, many: str = "") -> str:
    return f"{n} {one if n == 1 else many or one + 's'}"


def heal(
    chains: list[Contour], tolerance: float, refit: float, chosen: Mapping[str, bool] | None = None
) -> Healed:
    """Mend a drawing, millimetres throughout.

    In this order: points and lines without length dropped; lines drawn twice dropped; lines that partly lie
    on each other divided so that every stretch is there once; ends joined within ``tolerance``; loops that
    touch themselves divided; runs of short lines refitted to lines and arcs within ``refit``.

    Args:
        chains: as read, scaled to mm.
        tolerance: largest gap that is closed.
        refit: largest distance between a refitted curve and the drawn one; 0 refits nothing.
        chosen: line or item ids switched off (False) or on (True) by a person.
    """
    apply = _Choices(chosen or {})
    lines: list[HealLine] = []
    measure(chains)
    chains = _without_dust(chains, apply, lines)
    chains = _without_twins(chains, apply, lines)
    chains = _without_overlaps(chains, apply, lines)
    chains = _without_near_overlaps(chains, apply, lines)
    joined = _joined(chains, tolerance, apply, lines)
    measure([c for c in joined.closed if "area" not in c.__dict__])
    loops = _split(joined.closed, tolerance, apply, lines)
    loops = _without_twins(loops, apply, lines, "twin-outlines")
    loops = _without_near_twins(loops, apply, lines)
    loops = _refitted(loops, refit, apply, lines)
    return Healed(loops, joined.open, joined.branches, lines)


def _without_dust(chains: list[Contour], apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    dust = [(i, c) for i, c in enumerate(chains) if c.length < 1e-6]
    if dust:
        lines.append(
            HealLine(
                id="dust",
                says=f"{_s(len(dust), 'point')} without length dropped",
                count=len(dust),
                before=len(chains),
                after=len(chains) - len(dust),
                items=_items("dust", dust),
            )
        )
    return [
        c for c in chains if c.length >= 1e-6
    ]  # nothing can be made of them: this line cannot be taken back


def _prints(chains: list[Contour]) -> Array:
    """What tells chains apart ``(n, 6)``: both ends in order (or the box), the middle; equal for copies,
    either way round.
    """
    out = np.empty((len(chains), 6))
    plain = np.array([not c.closed and len(c.vertices) == 2 for c in chains])
    if plain.any():
        v = np.array([c.vertices for c, p in zip(chains, plain, strict=True) if p])
        a, b, bulge = v[:, 0, :2], v[:, 1, :2], v[:, 0, 2]
        middle = (a + b) / 2 + np.column_stack([(b - a)[:, 1], (a - b)[:, 0]]) * bulge[:, None] / 2
        swap = (a[:, 0] > b[:, 0]) | ((a[:, 0] == b[:, 0]) & (a[:, 1] > b[:, 1]))
        out[plain] = np.hstack([np.where(swap[:, None], b, a), np.where(swap[:, None], a, b), middle])
    for i in np.flatnonzero(~plain):
        c = chains[i]
        if c.closed:
            out[i] = (*c.bbox, c.length, abs(c.area) ** 0.5)
        else:
            p, q, m = tuple(c.vertices[0, :2]), tuple(c.vertices[-1, :2]), c.at(c.length / 2)[:2]
            out[i] = (*min(p, q), *max(p, q), *m)
    return out


def _without_twins(
    chains: list[Contour], apply: _Choices, lines: list[HealLine], line: str = "twins"
) -> list[Contour]:
    """Exact and near copies dropped, the first drawn kept."""
    if len(chains) < 2:
        return chains
    import shapely

    prints = _prints(chains)
    spot = shapely.points(prints[:, :2] + prints[:, 2:4])  # the same whichever end comes first
    i, j = shapely.STRtree(spot).query(spot, predicate="dwithin", distance=6 * NEAR)
    keep = i < j
    i, j = i[keep], j[keep]
    ends = np.minimum(
        np.abs(prints[i, :4] - prints[j, :4]).max(axis=1),
        np.abs(prints[i, :4] - prints[j][:, [2, 3, 0, 1]]).max(axis=1),
    )
    close = (ends <= 2 * NEAR) & (np.abs(prints[i, 4:] - prints[j, 4:]).max(axis=1) <= 2 * NEAR)
    dropped: set[int] = set()
    for a, b in sorted(zip(i[close].tolist(), j[close].tolist(), strict=True)):
        if a not in dropped and b not in dropped and _alike(chains[a], chains[b]):
            dropped.add(b)
    if not dropped:
        return chains
    twins = [(k, chains[k]) for k in sorted(dropped)]
    gone = {k for k in dropped if apply(line, f"{line}:{k}")}
    what = "line" if line == "twins" else "outline"
    lines.append(
        HealLine(
            id=line,
            says=f"{_s(len(twins), what)} drawn twice, counted once",
            count=len(twins),
            before=len(chains),
            after=len(chains) - len(gone),
            applied=apply(line),
            items=_items(line, twins),
        )
    )
    return [c for k, c in enumerate(chains) if k not in gone]


def _without_near_twins(loops: list[Contour], apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    """Outlines that run beside another so near that nothing could be cut between them: the smaller one
    dropped.
    """
    if len(loops) < 2:
        return loops
    import shapely

    boxes = np.array([c.bbox for c in loops])
    middles = shapely.points((boxes[:, :2] + boxes[:, 2:]) / 2)
    i, j = shapely.STRtree(middles).query(middles, predicate="dwithin", distance=NEAR_TWIN)
    keep = (i < j) & (np.abs(boxes[i] - boxes[j]).max(axis=1) <= NEAR_TWIN)
    dropped: set[int] = set()
    widest = 0.0
    for a, b in sorted(zip(i[keep].tolist(), j[keep].tolist(), strict=True)):
        if a in dropped or b in dropped or min(boxes[a][2:] - boxes[a][:2]) < 4 * NEAR_TWIN:
            continue
        apart = max(_apart(loops[a], loops[b]), _apart(loops[b], loops[a]))
        if apart <= NEAR_TWIN:
            dropped.add(a if abs(loops[a].area) < abs(loops[b].area) else b)
            widest = max(widest, apart)
    if not dropped:
        return loops
    twins = [(k, loops[k]) for k in sorted(dropped)]
    gone = {k for k in dropped if apply("near-twins", f"near-twins:{k}")}
    lines.append(
        HealLine(
            id="near-twins",
            says=(
                f"{_s(len(twins), 'outline')} up to {widest:.3f} mm inside another, taken as drawn twice; the"
                " outer one counts"
            ),
            count=len(twins),
            before=len(loops),
            after=len(loops) - len(gone),
            deviation=widest,
            applied=apply("near-twins"),
            items=_items("near-twins", twins),
        )
    )
    return [c for k, c in enumerate(loops) if k not in gone]


def _apart(a: Contour, b: Contour) -> float:
    """How far ``b`` strays from ``a``, mm: at its corners and between them."""
    spots = [*b.vertices[:, :2].tolist(), *(b.at(s)[:2] for s in np.linspace(0, b.length, 25)[:-1])]
    return max(a.nearest(x, y)[1] for x, y in spots)


def _alike(a: Contour, b: Contour) -> bool:
    """Does ``b`` run along ``a`` within NEAR?"""
    if a.closed != b.closed:
        return False
    if (
        len(a.vertices) == len(b.vertices) == 2
        and not a.closed
        and not a.vertices[0, 2]
        and not b.vertices[0, 2]
    ):
        return True  # straight lines: their ends agree already
    step = np.linspace(0, b.length, 9)[:-1] + b.length / 17
    return all(a.nearest(*b.at(s)[:2])[1] <= NEAR for s in step)


def _without_overlaps(chains: list[Contour], apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    """Straight lines and arcs that partly lie on each other, divided at each other's ends so that every
    stretch is there once.
    """
    single = [i for i, c in enumerate(chains) if not c.closed and (len(c.vertices) == 2 or _one_arc(c))]
    if len(single) < 2:
        return chains
    carriers: dict[tuple, list[int]] = defaultdict(list)
    for i in single:
        v = chains[i].vertices
        if v[0, 2]:
            cx, cy, r, *_ = arc_of(v[0], v[1], v[0, 2])
            carriers["arc", round(cx / NEAR / 2), round(cy / NEAR / 2), round(r / NEAR / 2)].append(i)
        else:
            d = v[1, :2] - v[0, :2]
            w = math.atan2(d[1], d[0]) % math.pi
            w = 0.0 if math.pi - w < 1e-5 else w
            off = v[0, 0] * math.sin(w) - v[0, 1] * math.cos(w)
            carriers["line", round(w / 2e-5), round(off / NEAR / 2)].append(i)
    cut: dict[int, list[Contour]] = {}
    hit: list[tuple[int, Contour]] = []
    for key, members in carriers.items():
        if len(members) < 2:
            continue
        spans, at = _spans(key[0], [chains[i] for i in members])
        ends = np.unique(np.round(np.array([ab for _k, ab in spans]).ravel() / NEAR) * NEAR)
        spans.sort(key=lambda s: s[1])
        reach, lapping = -math.inf, []
        for k, (begin, end) in spans:
            if begin < reach - 2 * NEAR and k not in lapping:
                lapping.append(k)
            reach = max(reach, end)
        if not lapping:
            continue
        taken: set[int] = set()
        own: dict[int, list[Contour]] = {k: [] for k, _ab in spans}
        for k, (begin, end) in spans:
            inside = ends[(ends > begin + NEAR) & (ends < end - NEAR)]
            stops = [begin, *inside.tolist(), end]
            for a, b in itertools.pairwise(stops):
                slot = round((a + b) / 2 / NEAR)
                if any(s in taken for s in (slot - 1, slot, slot + 1)):
                    continue
                taken.add(slot)
                own[k].append(at(a, b, chains[members[k]]))
        for k in lapping:
            hit.append((members[k], chains[members[k]]))
            if not apply("overlaps", f"overlaps:{members[k]}"):
                own[k] = [chains[members[k]]]
        for k, pieces in own.items():
            cut[members[k]] = pieces
    if not hit:
        return chains
    out = [d for i, c in enumerate(chains) for d in cut.get(i, [c])]
    lines.append(
        HealLine(
            id="overlaps",
            says=f"{_s(len(hit), 'line')} partly on top of another, every stretch counted once",
            count=len(hit),
            before=len(chains),
            after=len(out),
            applied=apply("overlaps"),
            items=_items("overlaps", hit),
        )
    )
    return out if apply("overlaps") else chains


def _without_near_overlaps(chains: list[Contour], apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    """Straight lines that run beside each other within BESIDE for a while: each divided at the other's ends,
    so that joining finds every stretch once.

    Lines that lie exactly on each other are dealt with before; drawn twice a hair apart they bound a sliver,
    and what they belong to falls apart.
    """
    single = [
        i
        for i, c in enumerate(chains)
        if not c.closed and len(c.vertices) == 2 and not c.vertices[0, 2] and c.length > 4 * BESIDE
    ]
    if len(single) < 2:
        return chains
    import shapely

    ends = np.array([chains[i].vertices[:, :2] for i in single])
    strokes = shapely.linestrings(ends)
    a, b = shapely.STRtree(strokes).query(strokes, predicate="dwithin", distance=BESIDE)
    keep = a != b
    cuts: dict[int, list[tuple[float, Array]]] = defaultdict(list)
    beside: set[int] = set()
    widest = 0.0
    for i, j in zip(
        a[keep].tolist(), b[keep].tolist(), strict=True
    ):  # both ways round: i is divided at the ends of j
        start, along = ends[i, 0], ends[i, 1] - ends[i, 0]
        length = float(np.hypot(*along))
        d = along / length
        s = (ends[j] - start) @ d
        off = np.abs((ends[j] - start) @ np.array([-d[1], d[0]]))
        lo, hi = max(0.0, float(s.min())), min(length, float(s.max()))
        if hi - lo < 4 * BESIDE or float(off.max()) > BESIDE * max(1.0, abs(float(s[1] - s[0])) / (hi - lo)):
            continue
        inner = [
            (float(t), p)
            for t, p, w in zip(s, ends[j], off, strict=True)
            if BESIDE < t < length - BESIDE and w <= BESIDE
        ]
        if inner:
            cuts[i] += inner
            beside.update((i, j))
            widest = max(widest, float(off.max()))
    if not cuts:
        return chains
    hit = [(single[k], chains[single[k]]) for k in sorted(beside)]
    lines.append(
        HealLine(
            id="near-overlaps",
            says=(
                f"{_s(len(hit), 'line')} beside another, up to {widest:.3f} mm apart, divided where the other"
                " ends; every stretch counted once"
            ),
            count=len(hit),
            before=len(chains),
            after=len(chains) + sum(len(c) for c in cuts.values()),
            deviation=widest,
            applied=apply("near-overlaps"),
            items=_items("near-overlaps", hit),
        )
    )
    if not apply("near-overlaps"):
        return chains
    out: list[Contour] = []
    number = {single[k]: k for k in cuts}
    for i, c in enumerate(chains):
        if i not in number:
            out.append(c)
            continue
        stops = [
            c.vertices[0, :2],
            *(p for _t, p in sorted(cuts[number[i]], key=lambda tp: tp[0])),
            c.vertices[1, :2],
        ]
        out += [
            Contour.of([tuple(p), tuple(q)], False, c.layer)
            for p, q in itertools.pairwise(stops)
            if math.dist(p, q) > 1e-6
        ]
    return out


def _one_arc(c: Contour) -> bool:
    """Is an open line one arc in several pieces, as arcs over half a circle are kept?"""
    if len(c.vertices) != 3 or not c.vertices[:-1, 2].all():
        return False
    (ax, ay, ar, *_), (bx, by, br, *_) = (arc_of(a, b, a[2]) for a, b in itertools.pairwise(c.vertices))
    return (
        max(abs(ax - bx), abs(ay - by), abs(ar - br)) < NEAR / 10 and c.vertices[0, 2] * c.vertices[1, 2] > 0
    )


def _spans(kind: str, members: list[Contour]):
    """(member, (begin, end)) along the line or circle they share (mm), in two where an arc goes over the
    circle's start, and a maker of a stretch of it.
    """
    first = members[0].vertices
    if kind == "line":
        d = first[1, :2] - first[0, :2]
        d = d / np.hypot(*d)
        spans = [
            (k, tuple(sorted(((c.vertices[:, :2] - first[0, :2]) @ d).tolist())))
            for k, c in enumerate(members)
        ]

        def line(a: float, b: float, like: Contour) -> Contour:
            return Contour.of([first[0, :2] + d * a, first[0, :2] + d * b], False, like.layer)

        return spans, line
    cx, cy, r, *_ = arc_of(first[0], first[1], first[0, 2])
    spans = []
    once = 2 * math.pi * r
    for k, c in enumerate(members):
        start = arc_of(c.vertices[0], c.vertices[1], c.vertices[0, 2])[3]
        sweep = sum(arc_of(a, b, a[2])[4] for a, b in itertools.pairwise(c.vertices))
        a = start if sweep > 0 else start + sweep
        a %= 2 * math.pi
        begin, end = a * r, (a + abs(sweep)) * r
        spans += [(k, (begin, end))] if end <= once + NEAR else [(k, (begin, once)), (k, (0.0, end - once))]

    def arc(a: float, b: float, like: Contour) -> Contour:
        p, q = a / r, b / r
        return Contour.of(
            [
                (cx + r * math.cos(p), cy + r * math.sin(p), math.tan((q - p) / 4)),
                (cx + r * math.cos(q), cy + r * math.sin(q)),
            ],
            False,
            like.layer,
        )

    return spans, arc


def _joined(chains: list[Contour], tolerance: float, apply: _Choices, lines: list[HealLine]) -> Joined:
    loose = [c for c in chains if not c.closed]
    if not loose:
        return join(chains, 1e-4)
    before = sum(c.closed for c in chains)
    gap = _largest_gap(chains, tolerance)
    joined = exact = join(chains, tolerance)
    if gap > 1e-4:
        exact = join(chains, 1e-4)
        if len(joined.closed) < len(exact.closed):  # what closes as it is drawn is never lost to a wider gap
            rest = join(exact.open, tolerance)
            joined = Joined(
                [*exact.closed, *rest.closed],
                rest.open,
                exact.duplicates + rest.duplicates,
                [*exact.branches, *rest.branches],
                rest.lost,
            )
    result = joined
    if (len(joined.closed) == len(exact.closed) and len(joined.open) == len(exact.open)) or not apply("join"):
        result, gap = exact, 0.0
    says = (
        f"{_s(len(loose), 'open line')} joined end to end: {_s(before, 'closed outline')} before,"
        f" {len(result.closed)} after"
    )
    if gap > 1e-4:
        says += f"; gaps up to {gap:.3f} mm closed"
    elif result is exact and joined is not exact and len(joined.closed) > len(exact.closed):
        says += (
            f"; {_s(len(joined.closed) - len(exact.closed), 'more')} with gaps up to {tolerance:g} mm closed"
        )
    if result.duplicates:
        n = result.duplicates
        twice = f"{_s(n, 'line')} between the same ends as another, within the join tolerance, counted once"
        lines.append(HealLine(id="join-twins", says=twice, count=n, before=len(loose), after=len(loose) - n))
    real = [c for c in result.lost if c.length > 2 * SMALL_LINE]
    if real:
        n = len(real)
        said = (
            f"{_s(n, 'line')} up to {max(c.length for c in real):.2f} mm long lost in the join tolerance of"
            f" {tolerance:g} mm; read it with a smaller one if they are wanted"
        )
        lines.append(HealLine(id="join-lost", says=said, count=n, before=len(loose), after=len(loose) - n))
    if len(result.closed) == before and gap <= 1e-4 and len(joined.closed) == len(result.closed):
        return result  # nothing came of it: nothing to say
    lines.append(
        HealLine(
            id="join",
            says=says,
            count=len(loose),
            before=before,
            after=len(result.closed),
            deviation=gap / 2,
            applied=apply("join"),
        )
    )
    return result


def _largest_gap(chains: list[Contour], tolerance: float) -> float:
    """The widest gap between line ends that the tolerance closes, mm."""
    import shapely

    ends = np.concatenate([c.vertices[[0, -1], :2] for c in chains if not c.closed])
    pts = shapely.points(ends)
    i, j = shapely.STRtree(pts).query(pts, predicate="dwithin", distance=tolerance)
    return float(np.hypot(*(ends[i] - ends[j]).T).max())


def _split(loops: list[Contour], tolerance: float, apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    """Loops that come back to a point they passed, divided there."""
    out: list[Contour] = []
    hit: list[tuple[int, Contour]] = []
    for i, c in enumerate(loops):
        parts = _pinched(c, min(tolerance, 0.01))
        if len(parts) > 1:
            hit.append((i, c))
            out.extend(parts if apply("pinch", f"pinch:{i}") else [c])
        else:
            out.append(c)
    if hit:
        lines.append(
            HealLine(
                id="pinch",
                says=f"{_s(len(hit), 'outline')} touching itself divided at that point",
                count=len(hit),
                before=len(loops),
                after=len(out),
                applied=apply("pinch"),
                items=_items("pinch", hit),
            )
        )
    return out


def _pinched(c: Contour, tolerance: float) -> list[Contour]:
    """The loops a contour consists of where a vertex is passed twice."""
    v = c.vertices
    if len(v) < 4:
        return [c]
    keys = [tuple(k) for k in np.round(v[:, :2] / tolerance).tolist()]
    if len(set(keys)) == len(keys):
        return [c]
    number = {k: n for n, k in enumerate(dict.fromkeys(keys))}
    inverse = [number[k] for k in keys]
    stack: list[int] = []
    at: dict[int, int] = {}
    out: list[Contour] = []
    for i, k in enumerate(inverse):
        if k in at:
            run = stack[at[k] :]
            if len(run) > 1:
                out.append(Contour.of(v[run], True, c.layer))
            for gone in run:
                at.pop(inverse[gone], None)
            del stack[len(stack) - len(run) :]
        at[k] = len(stack)
        stack.append(i)
    if len(stack) > 1:
        out.append(Contour.of(v[stack], True, c.layer))
    return [p for p in out if p.length > 1e-6] or [c]


def _refitted(loops: list[Contour], refit: float, apply: _Choices, lines: list[HealLine]) -> list[Contour]:
    """Runs of short lines as lines and arcs, where that saves at least a third of the nodes."""
    out: list[Contour] = []
    hit: list[tuple[int, Contour]] = []
    before = after = 0
    worst = 0.0
    for i, c in enumerate(loops):
        if refit <= 0 or len(c.vertices) < 8:
            out.append(c)
            continue
        if (c.vertices[:, 2] == 0).sum() <= len(c.vertices) / 2:  # mostly arcs already
            out.append(c)
            continue
        new = _refit(c, refit)
        if len(new.vertices) > len(c.vertices) * 2 / 3:
            out.append(c)
            continue
        on = apply("refit", f"refit:{i}")
        hit.append((i, c))
        before += len(c.vertices)
        after += len(new.vertices) if on else len(c.vertices)
        if on:
            worst = max(worst, deviation(c, new))
        out.append(new if on else c)
    if hit:
        lines.append(
            HealLine(
                id="refit",
                says=(
                    f"{_s(len(hit), 'curve')} refitted to lines and arcs: {before} nodes before, {after}"
                    " after"
                ),
                count=len(hit),
                before=before,
                after=after,
                deviation=round(worst, 5),
                applied=apply("refit"),
                items=_items("refit", hit),
            )
        )
    return out


def _refit(c: Contour, tolerance: float) -> Contour:
    """Runs of straight lines refitted; drawn arcs stay as they are."""
    straight = c.vertices[:, 2] == 0
    if straight.all():
        return fit(c.vertices[:, :2], True, tolerance, c.layer)
    n = len(straight)
    arcs = np.flatnonzero(~straight)
    rows: list[list[float]] = []
    for a, b in zip(arcs, np.append(arcs[1:], arcs[0] + n), strict=True):
        rows.append(c.vertices[a].tolist())
        run = c.vertices[np.arange(a + 1, b + 1) % n, :2]
        if len(run) > 1:
            rows.extend(
                fit(run, False, tolerance).vertices[:-1].tolist()
                if len(run) > 3
                else [[*p, 0.0] for p in run[:-1].tolist()]
            )
    return Contour.of(rows, True, c.layer)


def deviation(drawn: Contour, new: Contour) -> float:
    """Largest distance (mm) of the drawn contour's vertices and segment middles from the new one."""
    import shapely
    from shapely.geometry import LinearRing

    probes = np.concatenate([drawn.vertices[:, :2], [s.at(0.5)[:2] for s in drawn.segments()]])
    return float(shapely.distance(shapely.points(probes), LinearRing(new.points(1e-4))).max())
