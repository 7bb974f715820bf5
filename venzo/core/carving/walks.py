"""In which order are the branches of a carving run? Continuous walks, back along what is carved already where
that is quicker than lifting.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from venzo.core.geometry.contour import Array

SNAP = 1e-3
"""mm; ends of branches nearer than this meet."""


@dataclass(frozen=True, eq=False)
class Walk:
    """One stretch without lifting: points (n, 3), and how much of it runs a second time over carved ground,
    mm.
    """

    points: Array
    again: float


def stretches(keep: Any) -> list[tuple[int, int]]:
    """First and one past the last index of every run of True.

    >>> stretches(np.array([True, True, False, True]))
    [(0, 2), (3, 4)]
    """
    edges = np.flatnonzero(np.diff(np.concatenate([[False], keep, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def plan_length(points: Array) -> float:
    """Length in plan, mm."""
    return float(np.hypot(*np.diff(points[:, :2], axis=0).T).sum())


def walks(branches: Sequence[Array], lift: float, at: tuple[float, float] = (0.0, 0.0)) -> list[Walk]:
    """Branches (n, 3), every one run once, joined into continuous walks.

    A covering walk with repeats (a greedy answer to the rural postman problem): at a fork short dead ends
    come first, so that the way on is not walked twice; from a dead end the walk goes back along carved
    branches to the nearest fork with something left, if that is no longer than ``lift`` mm, the feed travel
    that a lift costs; else it lifts to the nearest open end. Shapes are taken from the nearest to ``at`` on;
    a walk starts at the shallowest of its open ends.

    >>> cross = [np.array([[0.0, 0, -1], [x, y, 0]]) for x, y in ((1, 0), (0, 1), (-1, 0), (0, -1))]
    >>> [(round(w.again, 6), len(w.points)) for w in walks(cross, 10)]
    [(2.0, 7)]
    """
    if not branches:
        return []
    nodes: dict[tuple[int, int], int] = {}
    spots: list[tuple[float, float]] = []
    ends: list[tuple[int, int]] = []
    for branch in branches:
        pair = []
        for p in (branch[0], branch[-1]):
            key = (round(p[0] / SNAP), round(p[1] / SNAP))
            if key not in nodes:
                nodes[key] = len(spots)
                spots.append((float(p[0]), float(p[1])))
            pair.append(nodes[key])
        ends.append((pair[0], pair[1]))
    lengths = [plan_length(b) for b in branches]
    near: list[list[int]] = [[] for _ in spots]
    for i, (a, b) in enumerate(ends):
        near[a].append(i)
        if b != a:
            near[b].append(i)
    depth = np.zeros(len(spots))
    for run, (i, j) in zip(branches, ends, strict=True):
        depth[i], depth[j] = run[0, 2], run[-1, 2]
    part = _parts(len(spots), ends)
    open_ends = np.array(
        [
            sum(1 if e[0] != e[1] else 2 for e in (ends[i] for i in near[v])) % 2 == 1
            for v in range(len(spots))
        ]
    )
    has_open = np.zeros(max(part) + 1, dtype=bool)
    has_open[np.array(part)[open_ends]] = True
    # a shape may be entered at its open ends, or anywhere where it has none
    entry = open_ends | ~has_open[np.array(part)]
    xy = np.array(spots)
    parts = np.array(part)
    left = np.ones(len(branches), dtype=bool)
    members: dict[int, list[int]] = {}
    for i, (a, _b) in enumerate(ends):
        members.setdefault(part[a], []).append(i)
    waiting = np.ones(len(spots), dtype=bool)
    out: list[Walk] = []
    here = np.array(at)
    for _ in range(len(members)):
        reach = np.where(waiting & entry, np.hypot(*(xy - here).T), np.inf)
        which = parts[int(np.argmin(reach))]
        waiting[parts == which] = False
        mine = np.flatnonzero((parts == which) & entry)
        # of the ends of this shape the shallowest, the nearer of equal ones
        start = int(mine[np.lexsort((np.hypot(*(xy[mine] - here).T), -np.round(depth[mine], 1)))[0]])
        todo = set(members[int(which)])
        while todo:
            walk, start = _one(start, todo, ends, lengths, near, left, lift)
            out.append(_joined(walk, branches, lengths))
            here = out[-1].points[-1, :2]
            if todo:
                rest = [v for i in todo for v in ends[i]]
                odd = [v for v in rest if sum(left[k] for k in near[v]) % 2] or rest
                start = min(odd, key=lambda v: float(np.hypot(*(xy[v] - here))))
    return out


def _parts(count: int, ends: Sequence[tuple[int, int]]) -> list[int]:
    """Number of the connected shape of every node."""
    top = list(range(count))

    def root(v: int) -> int:
        while top[v] != v:
            top[v] = top[top[v]]
            v = top[v]
        return v

    for a, b in ends:
        top[root(a)] = root(b)
    names: dict[int, int] = {}
    return [names.setdefault(root(v), len(names)) for v in range(count)]


def _one(
    start: int,
    todo: set[int],
    ends: Sequence[tuple[int, int]],
    lengths: Sequence[float],
    near: Sequence[Sequence[int]],
    left: Array,
    lift: float,
) -> tuple[list[tuple[int, bool, bool]], int]:
    """A walk from ``start`` until a lift is quicker: (branch, forwards, for the second time) in order, and
    the node it ends at.
    """
    steps: list[tuple[int, bool, bool]] = []
    v = start
    while True:
        choice = [i for i in near[v] if left[i]]
        if choice:

            def rank(i: int, v: int = v) -> tuple[bool, float]:
                far = ends[i][1] if ends[i][0] == v else ends[i][0]
                dead = sum(left[k] for k in near[far]) == 1 and far != v
                return not dead, lengths[i]

            i = min(choice, key=rank)
            forwards = ends[i][0] == v
            left[i] = False
            todo.discard(i)
            steps.append((i, forwards, False))
            v = ends[i][1] if forwards else ends[i][0]
            continue
        if not todo:
            return steps, v
        back = _way_back(v, ends, lengths, near, left, lift)
        if back is None:
            return steps, v
        for i, forwards in back:
            steps.append((i, forwards, True))
            v = ends[i][1] if forwards else ends[i][0]


def _way_back(
    v: int,
    ends: Sequence[tuple[int, int]],
    lengths: Sequence[float],
    near: Sequence[Sequence[int]],
    left: Array,
    limit: float,
) -> list[tuple[int, bool]] | None:
    """Shortest way over carved branches to a node with something left, up to ``limit`` mm (Dijkstra 1959)."""
    best = {v: 0.0}
    came: dict[int, tuple[int, int, bool]] = {}
    queue = [(0.0, v)]
    while queue:
        d, u = heapq.heappop(queue)
        if d > best.get(u, np.inf):
            continue
        if u != v and any(left[i] for i in near[u]):
            steps: list[tuple[int, bool]] = []
            while u != v:
                u, i, forwards = came[u]
                steps.append((i, forwards))
            return steps[::-1]
        for i in near[u]:
            if left[i]:
                continue
            forwards = ends[i][0] == u
            w = ends[i][1] if forwards else ends[i][0]
            far = d + lengths[i]
            if far <= limit and far < best.get(w, np.inf):
                best[w] = far
                came[w] = (u, i, forwards)
                heapq.heappush(queue, (far, w))
    return None


def _joined(
    steps: Sequence[tuple[int, bool, bool]], branches: Sequence[Array], lengths: Sequence[float]
) -> Walk:
    runs = []
    again = 0.0
    for n, (i, forwards, second) in enumerate(steps):
        p = branches[i] if forwards else branches[i][::-1]
        runs.append(p if n == 0 else p[1:])
        again += lengths[i] if second else 0.0
    return Walk(np.concatenate(runs), again)
