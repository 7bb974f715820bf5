"""Which segments of a drawing make a loop? Endpoint joining with a tolerance."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from venzo.core.geometry.contour import Array, Contour
from venzo.core.tolerances import JOIN


@dataclass(frozen=True)
class Joined:
    """Result of joining: closed loops, chains that stay open, exact copies dropped, branch points (x, y),
    lines that are shorter than the gaps closed and so lost.
    """

    closed: list[Contour]
    open: list[Contour]
    duplicates: int
    branches: list[tuple[float, float]]
    lost: list[Contour] = field(default_factory=list)


def _clusters(points: Array, tolerance: float) -> NDArray[np.intp]:
    """Cluster number of every point; points within ``tolerance`` of each other share one."""
    where = shapely.points(points)
    pairs = shapely.STRtree(where).query(where, predicate="dwithin", distance=tolerance).T
    root = list(range(len(points)))

    def find(i: int) -> int:
        while root[i] != i:
            root[i] = root[root[i]]
            i = root[i]
        return i

    for i, j in pairs[pairs[:, 0] < pairs[:, 1]].tolist():
        a, b = find(i), find(j)
        root[max(a, b)] = min(a, b)
    return np.unique([find(i) for i in range(len(points))], return_inverse=True)[1]


SAME_RUN = 0.05
"""mm; two lines between the same joints whose middles lie this near, and whose lengths differ by no more, are
one drawn twice.
"""


def _same_run(a: Contour, b: Contour) -> bool:
    """Do two chains between the same joints run over the same points, either way round?"""
    return (
        abs(a.length - b.length) <= SAME_RUN
        and math.dist(a.at(a.length / 2)[:2], b.at(b.length / 2)[:2]) <= SAME_RUN
    )


def _departure(c: Contour, backwards: bool) -> float:
    """Direction (radians) in which the chain leaves its first (or last) point, looked at a little way
    along.
    """
    reach = min(c.length, max(0.05 * c.length, 0.5))
    p = c.at(c.length if backwards else 0.0)
    q = c.at(c.length - reach if backwards else reach)
    return math.atan2(q[1] - p[1], q[0] - p[0])


def join(chains: list[Contour], tolerance: float = JOIN) -> Joined:  # noqa: C901
    """Join open chains end to end where their ends lie within ``tolerance`` mm.

    Closed contours pass through (exact copies of one another dropped). Dead ends are pruned to ``open``.
    Where three or more chains meet, the smallest faces between them become the loops and the meeting point is
    reported in ``branches``. A gap is closed by moving the joint to the mean of its ends.
    """
    closed: list[Contour] = []
    seen: set[tuple] = set()
    duplicates = 0
    loose: list[Contour] = []
    for c in chains:
        if c.length <= 1e-9:
            continue
        if not c.closed:
            loose.append(c)
            continue
        x0, y0, x1, y1 = c.bbox
        key = (
            round(abs(c.area), 2),
            round(c.length, 2),
            round(x0, 1),
            round(y0, 1),
            round(x1, 1),
            round(y1, 1),
        )
        if key in seen:
            duplicates += 1
        else:
            seen.add(key)
            closed.append(c)
    if not loose:
        return Joined(closed, [], duplicates, [])

    ends = np.array([[*c.vertices[0, :2]] for c in loose] + [[*c.vertices[-1, :2]] for c in loose])
    label = _clusters(ends, tolerance)
    centre = np.column_stack([np.bincount(label, ends[:, k]) for k in (0, 1)]) / np.bincount(label)[:, None]
    n = len(loose)
    lost: list[Contour] = []
    edges: dict[int, tuple[int, int]] = {}
    between: dict[tuple[int, int], list[int]] = {}
    for i, c in enumerate(loose):
        a, b = int(label[i]), int(label[n + i])
        if a == b and c.length <= 4 * tolerance:
            lost.append(c)  # shorter than a gap
            continue
        joints = (min(a, b), max(a, b))
        if any(
            _same_run(c, loose[k]) for k in between.get(joints, ())
        ):  # only lines between the same two joints can be one line twice
            duplicates += 1
            continue
        between.setdefault(joints, []).append(i)
        edges[i] = (a, b)
    at_node: dict[int, set[int]] = defaultdict(set)
    for i, (a, b) in edges.items():
        at_node[a].add(i)
        at_node[b].add(i)

    def degree(node: int) -> int:
        return sum(1 + (edges[i][0] == edges[i][1]) for i in at_node[node])

    # prune dead ends: they bound nothing
    dead: list[int] = []
    stack = [node for node in at_node if degree(node) == 1]
    while stack:
        node = stack.pop()
        if degree(node) != 1:
            continue
        i = next(iter(at_node[node]))
        dead.append(i)
        a, b = edges[i]
        at_node[a].discard(i)
        at_node[b].discard(i)
        other = b if a == node else a
        if degree(other) == 1:
            stack.append(other)
    dead_set = set(dead)
    # joints of loops lie in the middle of the loops' own ends: a stray line that ends there must not pull
    # them
    live = [i for i in edges if i not in dead_set]
    at = np.concatenate([label[live], label[[n + i for i in live]]]).astype(int) if live else np.zeros(0, int)
    if live:
        own = np.concatenate([ends[live], ends[[n + i for i in live]]])
        count = np.bincount(at, minlength=len(centre))
        mean = np.column_stack([np.bincount(at, own[:, k], minlength=len(centre)) for k in (0, 1)])
        centre[count > 0] = mean[count > 0] / count[count > 0][:, None]
    many = {v: degree(v) for v in at_node}
    branches = [(float(centre[v, 0]), float(centre[v, 1])) for v, n_at in many.items() if n_at > 2]

    # half-edges: (chain, backwards?). The next one at a joint is the first clockwise from where we came,
    # which walks every face of the planar drawing once with the face on the left.
    leaving: dict[int, list[tuple[float, int, bool]]] = defaultdict(list)
    for i, (a, b) in edges.items():
        if i in dead_set:
            continue
        # where only two chains meet there is nothing to sort
        leaving[a].append((_departure(loose[i], False) if many[a] > 2 else 0.0, i, False))
        leaving[b].append((_departure(loose[i], True) if many[b] > 2 else 0.0, i, True))
    rank: dict[tuple[int, bool], tuple[int, int]] = {}
    for node, out in leaving.items():
        out.sort()
        for k, (_w, i, back) in enumerate(out):
            rank[i, back] = (node, k)
    used: set[tuple[int, bool]] = set()
    for start in list(rank):
        if start in used:
            continue
        face: list[tuple[int, bool]] = []
        here = start
        while here not in used:
            used.add(here)
            face.append(here)
            node, k = rank[here[0], not here[1]]
            _w, i, back = leaving[node][k - 1]
            here = (i, back)
        loop = _chain([(loose[i], back, edges[i]) for i, back in face], centre, True)
        if loop.area > 1e-6:
            closed.append(loop)
    opened = _open_chains(dead, edges, loose, centre)
    return Joined(closed, opened, duplicates, branches, lost)


def _open_chains(
    dead: list[int], edges: dict[int, tuple[int, int]], loose: list[Contour], centre: Array
) -> list[Contour]:
    """Dead-end chains strung together where exactly two of them meet."""
    at_node: dict[int, list[int]] = defaultdict(list)
    for i in dead:
        for node in set(edges[i]):
            at_node[node].append(i)
    left, out = set(dead), []
    starts = [v for v, who in at_node.items() if len(who) != 2] + list(at_node)
    for node in starts:
        while True:
            follow = next((i for i in at_node[node] if i in left), None)
            if follow is None:
                break
            run, here = [], node
            while follow is not None:
                left.discard(follow)
                a, b = edges[follow]
                run.append((loose[follow], a != here, edges[follow]))
                here = a if a != here else b
                onward = [i for i in at_node[here] if i in left]
                follow = onward[0] if len(at_node[here]) == 2 and onward else None
            out.append(_chain(run, centre, False))
    return out


def _chain(run: list[tuple[Contour, bool, tuple[int, int]]], centre: Array, closed: bool) -> Contour:
    rows: list[Array] = []
    for c, back, (a, b) in run:
        v = (c.reversed() if back else c).vertices.copy()
        v[0, :2] = centre[b if back else a]
        v[-1, :2] = centre[a if back else b]
        rows.append(v[:-1])
        last = v[-1:]
    if not closed:
        rows.append(last)
    layers = {c.layer for c, _b, _e in run}
    return Contour.of(np.concatenate(rows), closed, layers.pop() if len(layers) == 1 else "")
