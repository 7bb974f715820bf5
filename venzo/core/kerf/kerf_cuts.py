"""What the head does from one pierce until it goes off: a line, a stretch between two tabs, or a common
line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from venzo.core.cuts.moves import LINE, RAPID, along, dwells, lengths, polyline, row
from venzo.core.geometry.contour import Array, Contour, Segment
from venzo.core.kerf.common import Common, Trail, common_lines
from venzo.core.kerf.how import KerfHow
from venzo.core.kerf.joined_rows import rows_of
from venzo.core.kerf.kerf_lines import FINE, Body, KerfLine, Row, corners_of, kerf_lines
from venzo.core.kerf.piercing import ROOM, Ground, LeadIn, edge_lead, fit_lead, lead_in, starts_along
from venzo.core.snags import Snag, look, note, stop
from venzo.core.tolerances import BUDGET
from venzo.core.voice import counted

PHASES = 12
"""Turns of a ring of tabs that are tried until the leads beside them fit."""


@dataclass(frozen=True, eq=False)
class KerfCut:
    """One cut of the head. ``moves`` (n, 7) as in ``cuts.moves``: from the pierce on, Z 0; a pierce that
    takes time stands still first.

    ``after``: indices of cuts that come before it; ``group``:
    cuts of one line, which follow one another; ``area``: what its line goes round; None: a common line.
    """

    name: str
    body: int
    """Of the part it belongs to; -1: of none."""
    contour: str
    inside: bool
    moves: Array
    group: int
    bodies: tuple[int, ...] = ()
    """Parts that it runs along; a pierce for the drill runs along none."""
    after: frozenset[int] = frozenset()
    area: Polygon | None = None
    lead: LeadIn | None = None
    spot: bool = False
    tabbed: bool = False
    shared: float = 0.0
    """mm of it that serve two parts."""
    still: frozenset[int] = frozenset()
    """Rows of its moves along which the height is not followed."""
    out: float = 0.0
    """mm of lead-out at its end."""
    prepares: bool = False
    """It only pierces, for another cut to begin there later."""
    pierced: bool = False
    """It begins where it was pierced before."""

    @property
    def whose(self) -> tuple[int, ...]:
        """Indices of the parts that it is cut for; none: a line beside the parts."""
        return self.bodies or ((self.body,) if self.body >= 0 else ())

    @property
    def pierce(self) -> tuple[float, float]:
        """Where the head goes on."""
        return float(self.moves[0, 1]), float(self.moves[0, 2])

    @property
    def end(self) -> tuple[float, float]:
        """Where it goes off."""
        return float(self.moves[-1, 1]), float(self.moves[-1, 2])

    @cached_property
    def length(self) -> float:
        """mm with the head on, lead included."""
        return float(lengths(self.moves).sum())

    @cached_property
    def stands(self) -> float:
        """Seconds that the pierce takes."""
        return float(dwells(self.moves).sum())

    @cached_property
    def line(self) -> shapely.LineString | Point:
        """Its way as a line; a point where it only pierces."""
        points = polyline(self.moves, FINE)[:, :2]
        return shapely.LineString(points) if len(points) > 1 and self.length > 1e-6 else Point(points[0])


@dataclass(frozen=True, eq=False)
class Misfit:
    """A lead as it was asked for, where it finds no room so. ``cut``: a changed one is cut in its place; else
    the line is left out. ``line``: the closed line that it should have led into.
    """

    name: str
    lead: LeadIn
    cut: bool
    line: KerfLine


@dataclass(frozen=True)
class KerfCuts:
    """All cuts of a sheet before they are put in order, and what there is to say."""

    cuts: list[KerfCut]
    snags: list[Snag]
    common: Common = field(default_factory=lambda: Common([], frozenset(), 0.0))
    left_out: frozenset[tuple[int, str]] = frozenset()
    """Contours (part's index, name) that no cut goes round."""
    rows: tuple[Row, ...] = ()
    """Parts that bridges join."""
    misfits: tuple[Misfit, ...] = ()
    """Leads as they were asked for, where they find no room."""


def kerf_cuts(
    bodies: Sequence[Body],
    how: KerfHow,
    plate: Polygon | None = None,
    avoid: Sequence[Polygon] = (),
    beside: Sequence[shapely.LineString] = (),
) -> KerfCuts:
    """Every cut of parts as they lie, with its pierce and lead.

    Args:
        bodies: the parts.
        how: what was decided.
        plate: the sheet's metal; None: everywhere.
        avoid: clamps and other places that a kerf keeps off.
        beside: ways that are cut beside the parts, which leads keep off.

    >>> from venzo.core.geometry.regions import Region
    >>> disc = Body("disc", Region(Contour.circle(0, 0, 50), (Contour.circle(0, 0, 10).reversed(),)))
    >>> [c.name for c in kerf_cuts([disc], KerfHow(kerf=1.4, feed=3800)).cuts]
    ['disc, hole 1', 'disc, outline']
    """
    rows, snags = rows_of(bodies, how)
    lines, said = kerf_lines(bodies, how, rows)
    snags += said
    common = (
        common_lines(lines, how.kerf / 2, how.waste_left) if how.common_line else Common([], frozenset(), 0.0)
    )
    single = [k for n, k in enumerate(lines) if n not in common.lines]
    trails = [_line_of(t.path) for t in common.trails]
    ground = Ground(bodies, single, how, plate, avoid, [*trails, *beside])
    made: list[KerfCut] = []
    misfits: list[Misfit] = []
    left_out: set[tuple[int, str]] = {(_named(s, bodies)) for s in snags if s.rule == "kerf.narrow"}
    for group, line in enumerate(single):
        cuts, said = _of_line(line, bodies, ground, group)
        snags += said
        made += cuts
        misfits += _misfits(line, bodies, how, cuts)
        if not cuts or line.spot is not None:
            left_out |= {(b, bodies[b].contour_name(0) if line.row else line.contour) for b in line.bodies}
    made, said = _with_trails(made, common, bodies, ground, len(single))
    snags += said
    if common.lines:
        snags.append(
            note(
                "kerf.common",
                f"common lines save {common.saved:.0f} mm of cut",
            )
        )
    out = frozenset(left_out - {(-1, "")})
    return KerfCuts(_waiting(made, common, len(single)), snags, common, out, tuple(rows), tuple(misfits))


def _line_of(path: Contour) -> shapely.LineString:
    """A way as a line."""
    points = path.points(FINE)
    return shapely.LineString(np.vstack([points, points[:1]]) if path.closed else points)


def _named(snag: Snag, bodies: Sequence[Body]) -> tuple[int, str]:
    where = snag.where or {}
    found = next((n for n, b in enumerate(bodies) if b.name == where.get("part")), -1)
    return (found, where.get("contour", "")) if found >= 0 else (-1, "")


def _called(line: KerfLine, body: Body) -> str:
    row = f" of a row of {len(line.row)}" if line.row else ""
    return f"{body.name}, {line.contour}{row}" + (f" ({line.ring + 1})" if line.ring else "")


def _start_wanted(line: KerfLine, bodies: Sequence[Body]) -> tuple[float, float] | None:
    """Where a person wants a line to be entered: of a row, what any of its parts says."""
    names = ((b, bodies[b].contour_name(0) if line.row else line.contour) for b in line.bodies)
    return next((bodies[b].starts[name] for b, name in names if name in bodies[b].starts), None)


def _misfits(line: KerfLine, bodies: Sequence[Body], how: KerfHow, cuts: Sequence[KerfCut]) -> list[Misfit]:
    """The lead as asked for beside each cut that has another; where nothing is cut, the one that would be
    the first to be tried.
    """
    name = _called(line, bodies[line.body])
    if line.spot is not None or how.edge_start:
        return []
    if not cuts:
        wanted = _start_wanted(line, bodies)
        starts = starts_along(line.path, None if wanted is None else line.path.nearest(*wanted)[0])
        asked = lead_in(line.path, starts[0], line.waste_left, how.lead_kind, how.lead, how.lead_angle)
        return [Misfit(name, asked, False, line)]
    out = []
    for c in cuts:
        if c.lead is None or not c.lead.differs(how):
            continue
        asked = lead_in(line.path, c.lead.s, line.waste_left, how.lead_kind, how.lead, how.lead_angle)
        out.append(Misfit(c.name, asked, True, line))
    return out


def _of_line(
    line: KerfLine, bodies: Sequence[Body], ground: Ground, group: int
) -> tuple[list[KerfCut], list[Snag]]:
    """The cuts of one line: one, or one from tab to tab."""
    body = bodies[line.body]
    how, name = ground.how, _called(line, body)
    if line.spot is not None:
        if not ground.over_metal(*line.spot):
            return [], [_off_metal(name, line, *line.spot)]
        moves, _still = _moves(line.spot, how, [])
        return [KerfCut(name, line.body, line.contour, True, moves, group, spot=True)], []
    by_hand = body.tabs.get(line.contour)
    if line.frees and (by_hand or how.tabs.along(line.path.length)):
        return _tabbed(line, body, ground, group, by_hand)
    wanted = _start_wanted(line, bodies)
    if how.edge_start:
        lead = edge_lead(line, ground, wanted)
        said = [] if lead else [_no_edge(name, line, how)]
    else:
        lead, said = fit_lead(line, ground, name, wanted)
    if lead is None:
        return [], said
    ring = _stretch(line, how, lead.s, lead.s + line.path.length)
    out, told = _lead_out(line, ground, lead, name)
    moves, still = _moves(lead.pierce, how, [*_led(lead, how), *ring, *out])
    return [
        KerfCut(
            name,
            line.body,
            line.contour,
            line.inside,
            moves,
            group,
            line.bodies,
            area=line.area,
            lead=lead,
            still=still,
            out=sum(t.segment.length for t in out),
        )
    ], [*said, *told]


def _off_metal(name: str, line: KerfLine, x: float, y: float) -> Snag:
    return stop(
        "kerf.off-metal",
        f"{name} would be pierced at {x:.1f}, {y:.1f} mm where the sheet has no metal; move the part",
        {"contour": line.contour, "x": round(x, 3), "y": round(y, 3)},
    )


def _no_edge(name: str, line: KerfLine, how: KerfHow) -> Snag:
    what = (
        "a hole cannot be begun at the sheet's edge"
        if line.inside
        else "no clear way leads in from the sheet's edge"
    )
    return stop(
        "kerf.edge-start",
        f"{name}: the sheet is too thick to pierce, and {what}; drill a hole to start from, or"
        " cut it elsewhere",
        {"contour": line.contour},
    )


@dataclass(frozen=True)
class Stretch:
    """A segment with its feed, mm/min; ``still``: the height is not followed along it."""

    segment: Segment
    feed: float
    still: bool = False


def _stretch(line: KerfLine, how: KerfHow, s0: float, s1: float, closes: bool = True) -> list[Stretch]:
    """A line from one distance to another: slowed through corners where that is asked for; the height not
    followed about corners, in small contours, and where it comes back to its own open kerf.
    """
    path, feed = line.path, how.feed * line.feed
    slow = _windows(path, how, how.kerf, s0, s1) if how.corners == "slow" else []
    still = _windows(path, how, how.still, s0, s1) if how.still and not line.small else []
    if how.still and closes:
        still.append((max(s0, s1 - how.still), s1))
    marks = sorted({s0, s1, *(v for w in (*slow, *still) for v in w)})
    out = []
    for a, b in pairwise(marks):
        if b - a < 1e-4:
            continue
        middle = (a + b) / 2
        pace = feed * how.corner_to if any(low <= middle <= high for low, high in slow) else feed
        stays = line.small or any(low <= middle <= high for low, high in still)
        out += [Stretch(g, pace, stays) for g in path.walk(a, b)]
    return out


def _windows(path: Contour, how: KerfHow, reach: float, s0: float, s1: float) -> list[tuple[float, float]]:
    """Where between two distances a line is within ``reach`` of a corner."""
    out = []
    for a, b in corners_of(path, how.kerf / 2):
        for lap in range(-1, 3):
            low, high = a - reach + lap * path.length, b + reach + lap * path.length
            if high > s0 and low < s1:
                out.append((max(low, s0), min(high, s1)))
    return out


def _moves(
    at: tuple[float, float], how: KerfHow, stretches: Sequence[Stretch]
) -> tuple[Array, frozenset[int]]:
    """Moves from the pierce on, and the rows at which the height is not followed."""
    rows = [row(RAPID, *at, 0.0)]
    if how.pierce > 0 and not how.edge_start:
        rows.append(row(LINE, *at, 0.0, -how.pierce))
    begin = len(rows)
    rows += [along(t.segment, 0.0, t.feed) for t in stretches]
    return np.array(rows), frozenset(begin + k for k, t in enumerate(stretches) if t.still)


def _led(lead: LeadIn | None, how: KerfHow) -> list[Stretch]:
    """A lead-in's own way."""
    return [Stretch(g, how.into_at, True) for g in lead.way] if lead else []


def _lead_out(line: KerfLine, ground: Ground, lead: LeadIn, name: str) -> tuple[list[Stretch], list[Snag]]:
    """What follows once the line is closed: onward off it into the waste, where its own lead-in may be
    open, or along the kerf.
    """
    how, path = ground.how, line.path
    if how.lead_out == "none" or how.out_length <= 0:
        return [], []
    if how.lead_out == "overburn":
        return [Stretch(g, how.out_at, True) for g in path.walk(lead.s, lead.s + how.out_length)], []
    length = max(how.out_length, how.kerf / 4)
    back = lead_in(path.reversed(), path.reversed_at(lead.s), not line.waste_left, "straight", length, 45)
    if not ground.way_clear(line, back.line, lead):
        return [], [
            note(
                "kerf.lead-out",
                f"{name}: the lead-out is left away, since it finds no room",
                {"contour": line.contour},
            )
        ]
    ground.take(back)
    g = back.way[0]
    return [Stretch(Segment(g.x1, g.y1, g.x0, g.y0, 0.0, g.length), how.out_at, True)], []


def _tabbed(
    line: KerfLine, body: Body, ground: Ground, group: int, by_hand: tuple[tuple[float, float], ...] | None
) -> tuple[list[KerfCut], list[Snag]]:
    """An outline from tab to tab: each stretch pierced and led into on its own."""
    how, path, name = ground.how, line.path, _called(line, body)
    gap = how.tabs.width + how.kerf  # the ends of a kerf are round: it takes half a kerf at either side
    if by_hand:
        phases = [sorted(path.nearest(x, y)[0] for x, y in by_hand)]
    else:
        n = how.tabs.along(path.length)
        step = path.length / n
        phases = [[step * (k + 0.5 + p / PHASES) % path.length for k in range(n)] for p in range(PHASES)]
    many = len(phases[0])
    if path.length < many * (gap + 2 * how.kerf):
        return [], [
            stop(
                "kerf.tabs",
                f"{name} is {path.length:.1f} mm round: {counted(many, 'tab')} of {how.tabs.width:g} mm find"
                " no room; ask for fewer",
                {"contour": line.contour},
            )
        ]
    best: tuple[int, list[tuple[float, float, LeadIn]], list[Snag]] | None = None
    lost: list[Snag] = []
    for middles in phases:
        places = middles if by_hand else [_off_corners(line, m, gap, how) for m in middles]
        runs, said = _between_tabs(line, ground, sorted(places), gap, name)
        if runs is None:
            lost = lost or said
            continue
        ground.give_back(lead for _a, _b, lead in runs)  # a turn that is only tried keeps nobody off
        if best is None or len(said) < best[0]:
            best = (len(said), runs, said)
        if not said:
            break
    if best is None:
        return [], lost
    for _a, _b, lead in best[1]:
        ground.take(lead)
    cuts = []
    for k, (a, b, lead) in enumerate(best[1]):
        moves, still = _moves(lead.pierce, how, [*_led(lead, how), *_stretch(line, how, a, b, False)])
        label = f"{name}, from tab {k + 1}" if many > 1 else name
        cuts.append(
            KerfCut(
                label,
                line.body,
                line.contour,
                False,
                moves,
                group,
                line.bodies,
                area=line.area,
                lead=lead,
                still=still,
                tabbed=True,
            )
        )
    return cuts, best[2]


def _off_corners(line: KerfLine, middle: float, gap: float, how: KerfHow) -> float:
    """A tab's middle, moved along the line out of a corner."""
    reach = gap / 2 + how.kerf / 2
    total = line.path.length
    for a, b in corners_of(line.path, how.kerf / 2):
        off = (middle - a + reach + total / 2) % total - total / 2  # from where it would touch the corner
        wide = b - a + 2 * reach
        if 0 <= off < wide and wide < total / 3:
            return (middle - off if off < wide / 2 else middle - off + wide) % total
    return middle % total


def _between_tabs(
    line: KerfLine, ground: Ground, middles: list[float], gap: float, name: str
) -> tuple[list[tuple[float, float, LeadIn]] | None, list[Snag]]:
    """Stretches between tabs as (from, to, lead), or None and why one finds no lead."""
    total = line.path.length
    out: list[tuple[float, float, LeadIn]] = []
    said: list[Snag] = []
    for k, m in enumerate(middles):
        after = middles[(k + 1) % len(middles)] + (total if k == len(middles) - 1 else 0.0)
        a, b = m + gap / 2, after - gap / 2
        lead, told = fit_lead(line, ground, f"{name}, tab {k + 1}", among=[a % total])
        said += told
        if lead is None:
            ground.give_back(lead for _a, _b, lead in out)
            return None, told
        out.append((a, b, lead))
    return out, said


def _with_trails(
    made: list[KerfCut], common: Common, bodies: Sequence[Body], ground: Ground, group: int
) -> tuple[list[KerfCut], list[Snag]]:
    """The cuts with those of common lines behind them."""
    said: list[Snag] = []
    out = list(made)
    # closed ones last: their leads keep off the ends of the others
    for k, trail in sorted(enumerate(common.trails), key=lambda t: t[1].path.closed):
        names = " and ".join(bodies[b].name for b in trail.bodies[:2])
        more = f" and {len(trail.bodies) - 2} more" if len(trail.bodies) > 2 else ""
        name = f"common line {k + 1}, {names}{more}"
        cut, told = _trail_cut(trail, name, ground, group + k, k)
        said += told
        if cut is not None:
            out.append(cut)
    return out, said


def _trail_cut(
    trail: Trail, name: str, ground: Ground, group: int, number: int
) -> tuple[KerfCut | None, list[Snag]]:
    """One trail, from where a lead fits best."""
    how, path = ground.how, trail.path
    if path.closed:
        line = KerfLine(path, trail.bodies[0], "common line", False, how.waste_left)
        ground.number[id(line)] = ground.trail(number)
        lead, said = fit_lead(line, ground, name)
        if lead is None:
            return None, said
        way, at = path.walk(lead.s, lead.s + path.length), lead.pierce
    else:
        open_way, lead, said = _open_start(path, ground, name, number)
        way = iter(open_way.segments())
        at = lead.pierce if lead else (float(open_way.vertices[0, 0]), float(open_way.vertices[0, 1]))
    # others cross it: the height is not followed along what may lie over an open kerf
    moves, still = _moves(at, how, [*_led(lead, how), *(Stretch(g, how.feed, True) for g in way)])
    return KerfCut(
        name,
        trail.bodies[0],
        "common line",
        False,
        moves,
        group,
        trail.bodies,
        lead=lead,
        shared=trail.shared,
        still=still,
    ), said


def _open_start(
    path: Contour, ground: Ground, name: str, number: int
) -> tuple[Contour, LeadIn | None, list[Snag]]:
    """From which end an open trail is cut: led into straight on from outside where that is waste, else
    pierced at its end, which a later cut's kerf takes away.
    """
    how = ground.how
    for way in (path, path.reversed()):
        x, y, tx, ty = way.at(0.0)
        lead = LeadIn(
            0.0,
            "straight",
            how.lead,
            0.0,
            (Segment(x - tx * how.lead, y - ty * how.lead, x, y, 0.0, how.lead),),
        )
        line, at = lead.line, Point(lead.pierce)
        half = how.kerf / 2
        # it may cross common lines that are cut later, but is not pierced on one
        off = not len(ground.tree.query(line, "dwithin", half - BUDGET)) and all(
            int(k) >= ground.first_trail for k in ground.kerfs.query(line, "dwithin", how.kerf - BUDGET)
        )
        aside = not len(ground.tree.query(at, "dwithin", half + ROOM * how.kerf)) and all(
            int(k) == ground.trail(number) for k in ground.kerfs.query(at, "dwithin", how.kerf - BUDGET)
        )
        metal = ground.inner is None or ground.inner.covers(line)
        if off and aside and metal and ground.free(line):
            ground.take(lead)
            return way, lead, []
    x, y = (float(v) for v in path.vertices[0, :2])
    return (
        path,
        None,
        [
            look(
                "kerf.common-pierce",
                f"{name}: pierced on the line itself at {x:.1f}, {y:.1f} mm, where a later cut takes the mark"
                " away only as wide as its kerf",
                {"x": round(x, 3), "y": round(y, 3)},
            )
        ],
    )


def pre_pierced(planned: KerfCuts, how: KerfHow) -> KerfCuts:
    """A sheet's cuts with every pierce done before anything is cut, where that is asked for: each cut then
    begins at a place that is open already.
    """
    if not how.pre_pierce:
        return planned
    n = len(planned.cuts)
    cuts, pierces = [], []
    for c in planned.cuts:
        if c.spot or c.stands <= 0:
            cuts.append(c)
            continue
        first = replace(
            c,
            name=f"{c.name}, pierced",
            inside=True,
            moves=c.moves[:2],
            bodies=(),
            body=c.whose[0] if c.whose else -1,
            after=frozenset(),
            area=None,
            lead=None,
            tabbed=False,
            shared=0.0,
            still=frozenset(),
            out=0.0,
            prepares=True,
        )
        pierces.append(first)
        moves = np.delete(c.moves, 1, axis=0)
        own = c.after | {n + len(pierces) - 1}
        cuts.append(replace(c, moves=moves, still=frozenset(i - 1 for i in c.still), after=own, pierced=True))
    return replace(planned, cuts=[*cuts, *pierces])


def _waiting(cuts: list[KerfCut], common: Common, base: int) -> list[KerfCut]:
    """Every cut with the indices of those that come before it: what lies in a hole before the hole, holes
    before their outline, the stretches of a line in turn, trails before those that they end on.
    """
    before: list[set[int]] = [set() for _ in cuts]
    round_it = [(i, c.area) for i, c in enumerate(cuts) if c.area is not None]
    if round_it:
        tree = shapely.STRtree([a for _i, a in round_it])
        for inner, outer in tree.query([Point(c.end) for c in cuts], predicate="within").T:
            i, j = int(inner), round_it[int(outer)][0]
            if cuts[i].group != cuts[j].group:
                before[j].add(i)
    for i in range(1, len(cuts)):
        if cuts[i].group == cuts[i - 1].group:
            before[i].add(i - 1)
    of_body: dict[int, list[int]] = {}
    for i, c in enumerate(cuts):
        if c.inside:
            of_body.setdefault(c.body, []).append(i)
    place = {c.group: i for i, c in enumerate(cuts) if c.group >= base}
    for group, i in place.items():
        before[i] |= {k for b in cuts[i].bodies for k in of_body.get(b, ())}
        before[i] |= {place[base + k] for k in common.trails[group - base].after if base + k in place}
    return [replace(c, after=frozenset(b)) for c, b in zip(cuts, before, strict=True)]
