"""In which order are the cutters loaded, so that each is loaded as seldom as the rules of order allow?

Cuts that wait for alike cuts, with the same cutter in the same block, become ready together: they are one
class, and a sheet of hundreds of pieces has a handful of them. Over sets of classes that are done the
shortest row of loads is found by breadth-first search (Moore 1959); with a cutter loaded all is cut that may
be cut with it before another is.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

MOST_STATES = 4000
"""Sets of classes that are looked at; beyond them nothing is said."""


@dataclass(frozen=True)
class Class:
    """Cuts that become ready together: their cutter, block, the classes they wait for, and which they are."""

    cutter: str
    block: int
    after: frozenset[int]
    members: tuple[int, ...]


def classes_of(cutters: Sequence[str], blocks: Sequence[int], after: Sequence[frozenset[int]]) -> list[Class]:
    """Cuts by class, each class behind those that it waits for.

    Raises:
        ValueError: cuts wait for one another in a ring.
    """
    left = [len(a) for a in after]
    followers: list[list[int]] = [[] for _ in after]
    for i, a in enumerate(after):
        for k in a:
            followers[k].append(i)
    ready = deque(i for i, n in enumerate(left) if not n)
    of: dict[int, int] = {}
    index: dict[tuple[str, int, frozenset[int]], int] = {}
    members: list[list[int]] = []
    while ready:
        i = ready.popleft()
        key = (cutters[i], blocks[i], frozenset(of[k] for k in after[i]))
        if key not in index:
            index[key] = len(members)
            members.append([])
        of[i] = index[key]
        members[of[i]].append(i)
        for f in followers[i]:
            left[f] -= 1
            if not left[f]:
                ready.append(f)
    if len(of) < len(after):
        raise ValueError("cuts wait for one another")
    return [Class(c, b, a, tuple(members[n])) for (c, b, a), n in index.items()]


def fewest_loads(classes: Sequence[Class], rank: Mapping[str, int]) -> list[int] | None:
    """At which load each class is cut, from 0; of equally short rows of loads the one with the lower ranks
    first. None: too many ways to be looked at.

    >>> a, b = Class("a", 0, frozenset(), (0,)), Class("b", 0, frozenset(), (1,))
    >>> fewest_loads([a, b, Class("a", 0, frozenset({1}), (2,))], {"a": 0, "b": 1})
    [1, 0, 1]
    """
    whole = (1 << len(classes)) - 1
    needs = [sum(1 << k for k in c.after) for c in classes]
    came: dict[int, tuple[int, int] | None] = {0: None}  # set of done classes -> (before, done in this load)
    todo = deque([0])
    while todo:
        done = todo.popleft()
        if done == whole:
            return _loads(classes, came, done)
        if len(came) > MOST_STATES:
            return None
        for cutter in sorted({classes[i].cutter for i in _open(classes, needs, done)}, key=lambda c: rank[c]):
            after = _with(classes, needs, done, cutter)
            if after not in came:
                came[after] = (done, after & ~done)
                todo.append(after)
    return None


def _open(classes: Sequence[Class], needs: Sequence[int], done: int) -> list[int]:
    """Classes that may be cut now: those of the earliest block of all that wait for nothing."""
    free = [i for i, n in enumerate(needs) if not done >> i & 1 and n & ~done == 0]
    low = min((classes[i].block for i in free), default=0)
    return [i for i in free if classes[i].block == low]


def _with(classes: Sequence[Class], needs: Sequence[int], done: int, cutter: str) -> int:
    """What is done once all is cut that may be cut with a cutter."""
    while mine := [i for i in _open(classes, needs, done) if classes[i].cutter == cutter]:
        done |= sum(1 << i for i in mine)
    return done


def _loads(classes: Sequence[Class], came: Mapping[int, tuple[int, int] | None], done: int) -> list[int]:
    steps: list[int] = []
    while (step := came[done]) is not None:
        done, made = step
        steps.append(made)
    out = [0] * len(classes)
    for load, made in enumerate(reversed(steps)):
        for i in range(len(classes)):
            if made >> i & 1:
                out[i] = load
    return out
