"""Common lines: straight edges of two parts that lie one kerf apart are cut once.

The lines of the parts concerned are laid into one graph, each shared stretch once, and the graph is taken
apart into trails that go straight on where they can. A trail that ends on another is cut before that one,
so that it is pierced in metal that the other's kerf takes away later.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely

from venzo.core.geometry.contour import Contour, Segment
from venzo.core.kerf.kerf_lines import TURN, KerfLine

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

ALIKE = 0.01
"""mm; two lines nearer than this are one."""
LEAST = 2.0
"""mm; a shorter stretch is not worth sharing."""
ON = math.cos(math.radians(30))
"""A trail goes on through a crossing where it turns by less than 30 degrees."""


@dataclass(frozen=True, eq=False)
class Trail:
    """A way that is cut in one go along lines of one or several parts.

    ``bodies``: whose lines it runs on; ``after``: indices of trails that are cut before it, since they end
    on it; ``shared``: mm of it that serve two parts.
    """

    path: Contour
    bodies: tuple[int, ...]
    after: frozenset[int]
    shared: float


@dataclass(frozen=True, eq=False)
class Common:
    """What common lines make of a sheet: ``trails``; ``lines``: indices of the kerf lines they stand for;
    ``saved``: mm that are not cut twice.
    """

    trails: list[Trail]
    lines: frozenset[int]
    saved: float


def sharpened(path: Contour, half: float) -> Contour:
    """A line with its arcs round sharp corners drawn out to where the sides meet: there lines of neighbours
    meet too.
    """
    segs = path.segments()
    rows = []
    for k, s in enumerate(segs):
        before, after = segs[k - 1], segs[(k + 1) % len(segs)]
        sweep = 4 * math.atan(s.bulge)
        corner = (
            s.bulge != 0
            and TURN < abs(sweep) < math.radians(125)
            and abs(s.length - abs(sweep) * half) < 0.02
            and before.bulge == 0
            and after.bulge == 0
        )
        if not corner:
            rows.append((s.x0, s.y0, s.bulge))
            continue
        ux, uy = before.at(1.0)[2:]
        reach = half * math.tan(abs(sweep) / 2)
        rows.append((s.x0 + ux * reach, s.y0 + uy * reach, 0.0))
    return Contour.of(rows).simplified(1e-4)


def _sharing(lines: Sequence[KerfLine], paths: dict[int, Contour]) -> list[tuple[int, int]]:
    """Pairs of lines of different parts that share a straight stretch."""
    segs = [(n, s) for n, p in paths.items() for s in p.segments() if s.bulge == 0 and s.length >= LEAST]
    if not segs:
        return []
    shapes = [shapely.LineString([(s.x0, s.y0), (s.x1, s.y1)]) for _n, s in segs]
    tree = shapely.STRtree(shapes)
    pairs = set()
    for i, j in tree.query(shapes, "dwithin", ALIKE).T:
        a, b = segs[i][0], segs[j][0]
        if i < j and lines[a].body != lines[b].body and _overlap(segs[i][1], segs[j][1]) >= LEAST:
            pairs.add((min(a, b), max(a, b)))
    return sorted(pairs)


def _overlap(a: Segment, b: Segment) -> float:
    """mm for which two straight segments run on one line; 0 where they do not."""
    ux, uy = (a.x1 - a.x0) / a.length, (a.y1 - a.y0) / a.length
    along, off = [], []
    for x, y in ((b.x0, b.y0), (b.x1, b.y1)):
        along.append((x - a.x0) * ux + (y - a.y0) * uy)
        off.append(abs((x - a.x0) * uy - (y - a.y0) * ux))
    if max(off) > ALIKE:
        return 0.0
    return max(0.0, min(a.length, max(along)) - max(0.0, min(along)))


def common_lines(lines: Sequence[KerfLine], half: float, waste_left: bool) -> Common:
    """Trails for all outlines that share straight stretches with others."""
    import networkx as nx  # slow to import: only where it is asked

    outer = [n for n, k in enumerate(lines) if k.frees and k.spot is None]
    paths = {n: sharpened(lines[n].path, half) for n in outer}
    pairs = _sharing(lines, paths)
    trails: list[Trail] = []
    used: set[int] = set()
    saved = 0.0
    graph = nx.Graph(pairs)
    for group in sorted(nx.connected_components(graph), key=min):
        edges = _edges({n: paths[n] for n in group}, lines)
        found = _trails(edges, waste_left, len(trails))
        trails += found
        used |= set(group)
        saved += sum(paths[n].length for n in group) - sum(t.path.length for t in found)
    return Common(trails, frozenset(used), saved)


@dataclass(frozen=True)
class _Edge:
    """A stretch between two nodes: how it runs, and the parts at its sides."""

    a: int
    b: int
    segment: Segment
    bodies: tuple[int, ...]


class _Nodes:
    """Places within ALIKE of each other as one."""

    def __init__(self, points: np.ndarray):
        import networkx as nx  # both slow to import: only where they are asked
        from scipy.spatial import cKDTree

        tree = cKDTree(points)
        graph = nx.Graph(sorted(tree.query_pairs(ALIKE * 1.5)))
        graph.add_nodes_from(range(len(points)))
        self.of = np.empty(len(points), dtype=int)
        self.at = []
        for k, group in enumerate(sorted(nx.connected_components(graph), key=min)):
            members = sorted(group)
            self.of[members] = k
            self.at.append(points[members].mean(axis=0))


def _edges(paths: dict[int, Contour], lines: Sequence[KerfLine]) -> list[_Edge]:
    """Every stretch of the lines once, split where others begin or end on it."""
    segs = [(lines[n].body, s) for n, p in paths.items() for s in p.segments()]
    ends = np.array([(s.x0, s.y0) for _b, s in segs] + [(s.x1, s.y1) for _b, s in segs])
    nodes = _Nodes(ends)
    n = len(segs)
    at = np.array(nodes.at)
    from scipy.spatial import cKDTree

    tree = cKDTree(at)
    found: dict[tuple[int, int, float], tuple[Segment, set[int]]] = {}
    for k, (body, s) in enumerate(segs):
        a, b = int(nodes.of[k]), int(nodes.of[n + k])
        stops = [a, b]
        if s.bulge == 0:
            stops = _on_the_way(a, b, at, tree)
        for p, q in pairwise(stops):
            (x0, y0), (x1, y1) = at[p], at[q]
            seg = Segment(
                x0, y0, x1, y1, s.bulge, math.dist((x0, y0), (x1, y1)) if s.bulge == 0 else s.length
            )
            low, high = min(p, q), max(p, q)
            bend = round(s.bulge if p == low else -s.bulge, 4)
            known = found.get((low, high, bend))
            if known is None:
                found[low, high, bend] = (seg if p == low else _back(seg), {body})
            else:
                known[1].add(body)
    return [_Edge(a, b, s, tuple(sorted(who))) for (a, b, _k), (s, who) in sorted(found.items())]


def _back(s: Segment) -> Segment:
    return Segment(s.x1, s.y1, s.x0, s.y0, -s.bulge, s.length)


def _on_the_way(a: int, b: int, at: np.ndarray, tree: cKDTree) -> list[int]:
    """Nodes on the straight way between two, both of them included, in order."""
    p, q = at[a], at[b]
    length = float(np.hypot(*(q - p)))
    if length < 1e-9:
        return [a, b]
    u = (q - p) / length
    near = tree.query_ball_point((p + q) / 2, length / 2 + ALIKE)
    rel = at[near] - p
    along, off = rel @ u, np.abs(rel[:, 0] * u[1] - rel[:, 1] * u[0])
    on = [
        (float(t), int(k)) for t, d, k in zip(along, off, near, strict=True) if d <= ALIKE and 0 < t < length
    ]
    return [a, *(k for _t, k in sorted(on) if k not in (a, b)), b]


def _trails(edges: Sequence[_Edge], waste_left: bool, first: int) -> list[Trail]:
    """The stretches as trails that go straight on, with what is to be cut before what."""
    at_node: dict[int, list[tuple[int, bool]]] = {}
    for k, e in enumerate(edges):
        at_node.setdefault(e.a, []).append((k, True))
        at_node.setdefault(e.b, []).append((k, False))
    link: dict[tuple[int, bool], tuple[int, bool]] = {}
    for ends in at_node.values():
        for one, other in _paired(ends, edges):
            link[one], link[other] = other, one
    chains: list[list[tuple[int, bool]]] = []
    seen: set[int] = set()
    loose = [(k, begin) for k in range(len(edges)) for begin in (True, False) if (k, begin) not in link]
    for start in [*loose, *((k, True) for k in range(len(edges)))]:
        if start[0] in seen:
            continue
        chain, here = [], start
        while here[0] not in seen:
            seen.add(here[0])
            chain.append(here)  # entered at this end
            out = (here[0], not here[1])
            if out not in link:
                break
            here = link[out]
        chains.append(chain)
    return _in_order(chains, edges, waste_left, first)


def _paired(
    ends: list[tuple[int, bool]], edges: Sequence[_Edge]
) -> list[tuple[tuple[int, bool], tuple[int, bool]]]:
    """Which stretches at a node go on into which: both where there are two, else those that run straight."""
    if len(ends) == 2:
        return [(ends[0], ends[1])]

    def away(k: int, begin: bool) -> tuple[float, float]:
        s = edges[k].segment
        x, y = s.at(0.0)[2:] if begin else s.at(1.0)[2:]
        return (x, y) if begin else (-x, -y)

    ways = [away(*e) for e in ends]
    found = sorted(
        (ways[i][0] * ways[j][0] + ways[i][1] * ways[j][1], i, j)
        for i in range(len(ends))
        for j in range(i + 1, len(ends))
    )
    out, taken = [], set()
    for cos, i, j in found:
        if cos < -ON and i not in taken and j not in taken:
            taken |= {i, j}
            out.append((ends[i], ends[j]))
    return out


def _in_order(
    chains: list[list[tuple[int, bool]]], edges: Sequence[_Edge], waste_left: bool, first: int
) -> list[Trail]:
    """Chains of stretches as trails; those that end on another are cut before it."""
    import networkx as nx

    through: dict[int, set[int]] = {}
    finish: list[tuple[int, int] | None] = []
    paths = []
    for n, chain in enumerate(chains):
        segs = [edges[k].segment if begin else _back(edges[k].segment) for k, begin in chain]
        nodes = [edges[k].a if begin else edges[k].b for k, begin in chain]
        last = edges[chain[-1][0]]
        end = last.b if chain[-1][1] else last.a
        closed = len(chain) > 1 and end == nodes[0]
        rows = [(s.x0, s.y0, s.bulge) for s in segs]
        if not closed:
            rows.append((segs[-1].x1, segs[-1].y1, 0.0))
        path = Contour.of(rows, closed).simplified(1e-4)
        if closed and (path.area < 0) != waste_left:
            path = path.reversed()  # round the outside, the parts at the right of a right-hand swirl's travel
        paths.append(path)
        finish.append(None if closed else (nodes[0], end))
        for m in nodes if closed else nodes[1:]:
            through.setdefault(m, set()).add(n)
    waits = nx.DiGraph()
    waits.add_nodes_from(range(len(chains)))
    for n, ends in enumerate(finish):
        for m in ends or ():
            waits.add_edges_from((n, other) for other in through.get(m, ()) if other != n)
    while True:  # ends that bite each other's tails: one is cut all the same
        try:
            ring = nx.find_cycle(waits)
        except nx.NetworkXNoCycle:
            break
        waits.remove_edge(*ring[0][:2])
    out = []
    for n, chain in enumerate(chains):
        mine = [edges[k] for k, _b in chain]
        bodies = tuple(sorted({b for e in mine for b in e.bodies}))
        shared = sum(e.segment.length for e in mine if len(e.bodies) > 1)
        before = frozenset(first + k for k in waits.predecessors(n))
        out.append(Trail(paths[n], bodies, before, shared))
    return out
