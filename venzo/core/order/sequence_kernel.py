"""The hot loops of ordering cuts, written so that they run as plain Python and compiled alike."""

from __future__ import annotations

from typing import Any

import numpy as np

from venzo.core.geometry.contour import Array

MUCH = 16
"""Runs of more stops than this are worth loading the compiler for."""
NEAREST = 8
_compiled: Any = None


def _greedy(starts, ends, kinds, blocks, waits, first, followers, x, y, order):
    """Fill ``order`` (n) with cuts: the nearest that may be made with the loaded cutter, of the earliest
    block that has one. Returns how many.

    ``kinds``: rank of each cut's cutter; ``blocks``: lower ones are emptied first as far as waiting allows;
    ``waits``: how many must come before it; ``first``, ``followers``: who waits for it (rows one after the
    other).
    """
    n = len(kinds)
    loaded = -1
    for done in range(n):
        block = -1
        for i in range(n):
            if waits[i] == 0 and (block < 0 or blocks[i] < block):
                block = blocks[i]
        if block < 0:
            return done
        least = -1  # rank of the cutter that cuts next: the loaded one if it can
        for i in range(n):
            if waits[i] == 0 and blocks[i] == block:
                if kinds[i] == loaded:
                    least = loaded
                    break
                if least < 0 or kinds[i] < least:
                    least = kinds[i]
        loaded = least
        pick, best = -1, 0.0
        for i in range(n):
            if waits[i] == 0 and kinds[i] == loaded and blocks[i] == block:
                far = round((((starts[i, 0] - x) ** 2 + (starts[i, 1] - y) ** 2) ** 0.5) * 1e6) / 1e6
                if pick < 0 or far < best:
                    pick, best = i, far
        order[done] = pick
        waits[pick] = -1
        for k in range(first[pick], first[pick + 1]):
            waits[followers[k]] -= 1
        x, y = ends[pick, 0], ends[pick, 1]
    return n


def _way(s, e, a, b):
    return ((e[a, 0] - s[b, 0]) ** 2 + (e[a, 1] - s[b, 1]) ** 2) ** 0.5


def _try_turn(s, e, t, pos, closed, pf, pl, i, j):
    """Reverse stops i..j of the tour if that is shorter and no stop in it waits for another. Returns the
    gain.
    """
    n = len(t)
    a, b, c = t[i - 1], t[i], t[j]
    gain = _way(s, e, a, b) - _way(s, e, a, c)
    if j + 1 < n - 1 or closed:
        d = t[j + 1]
        gain += _way(s, e, c, d) - _way(s, e, b, d)
    if gain <= 1e-7:
        return 0.0
    for k in range(i, j):  # the way there and the way back differ where a cut does not end where it began
        gain += _way(s, e, t[k], t[k + 1]) - _way(s, e, t[k + 1], t[k])
    if gain <= 1e-7:
        return 0.0
    for k in range(i, j + 1):
        for m in range(pf[t[k]], pf[t[k] + 1]):
            if pos[pl[m]] >= i:
                return 0.0
    lo, hi = i, j
    while lo < hi:
        swap = t[lo]
        t[lo] = t[hi]
        t[hi] = swap
        lo += 1
        hi -= 1
    for k in range(i, j + 1):
        pos[t[k]] = k
    return gain


def _try_move(s, e, t, pos, closed, pf, pl, ff, fl, i, size, j, turned):
    """Put stops i..i+size-1 between stops j and j + 1 if that is shorter and keeps what waits. Returns the
    gain.
    """
    n = len(t)
    k = i + size - 1
    if i - 1 <= j <= k:
        return 0.0
    a, b, c, d, p, q = t[i - 1], t[i], t[k], t[k + 1], t[j], t[j + 1]
    gain = _way(s, e, a, b)
    if k + 1 < n - 1 or closed:
        gain += _way(s, e, c, d) - _way(s, e, a, d)
    if j + 1 < n - 1 or closed:
        gain += _way(s, e, p, q)
    x, y = (c, b) if turned else (b, c)
    gain -= _way(s, e, p, x)
    if j + 1 < n - 1 or closed:
        gain -= _way(s, e, y, q)
    if turned:
        for m in range(i, k):
            gain += _way(s, e, t[m], t[m + 1]) - _way(s, e, t[m + 1], t[m])
    if gain <= 1e-7:
        return 0.0
    if j > k:
        for m in range(i, k + 1):
            for w in range(ff[t[m]], ff[t[m] + 1]):
                if k < pos[fl[w]] <= j:
                    return 0.0
    else:
        for m in range(i, k + 1):
            for w in range(pf[t[m]], pf[t[m] + 1]):
                if j < pos[pl[w]] < i:
                    return 0.0
    if turned:
        for m in range(i, k + 1):
            for w in range(pf[t[m]], pf[t[m] + 1]):
                if i <= pos[pl[w]] <= k:
                    return 0.0
    held0, held1, held2 = t[i], t[min(i + 1, k)], t[k]
    if j > k:
        for m in range(k + 1, j + 1):
            t[m - size] = t[m]
            pos[t[m - size]] = m - size
        at = j - size + 1
    else:
        for m in range(i - 1, j, -1):
            t[m + size] = t[m]
            pos[t[m + size]] = m + size
        at = j + 1
    if turned:
        swap = held0
        held0 = held2
        held2 = swap
    if size == 1:
        t[at] = held0
    elif size == 2:
        t[at], t[at + 1] = held0, held2
    else:
        t[at], t[at + 1], t[at + 2] = held0, held1, held2
    for m in range(at, at + size):
        pos[t[m]] = m
    return gain


def _settle(s, e, t, pos, closed, near, pf, pl, ff, fl, queue, waiting, count):
    """Turn stretches and move short ones while that shortens the way, beginning at the stops in ``queue``.
    Returns the gain.
    """
    n = len(t)
    total = 0.0
    head = 0
    size_q = len(queue)
    while count > 0:
        a = queue[head]
        head = (head + 1) % size_q
        count -= 1
        waiting[a] = False
        better = True
        while better:
            better = False
            for ahead in range(2):
                i = pos[a]
                b = t[i + 1] if ahead == 1 else t[i - 1]
                if ahead == 1 and i + 1 == n - 1 and not closed:
                    old = 0.0
                else:
                    old = _way(s, e, a, b) if ahead == 1 else _way(s, e, b, a)
                for v in range(near.shape[1]):
                    c = near[a, v]
                    # only a shorter way to a neighbour can begin a gain (Lin and Kernighan 1973)
                    if c < 0 or (_way(s, e, a, c) >= old and _way(s, e, c, a) >= old):
                        break
                    j = pos[c]
                    lo, hi = (i, j) if i < j else (j, i)
                    gain = 0.0
                    if ahead == 1:
                        gain = _try_turn(s, e, t, pos, closed, pf, pl, lo + 1, hi)
                    else:
                        gain = _try_turn(s, e, t, pos, closed, pf, pl, lo, hi - 1)
                    if gain == 0.0:
                        at = i if ahead == 1 else i - 1  # between a and the stop it is parted from
                        for size in range(1, 4):
                            # a stretch with c at its end comes to a; or one with a at its end goes to c
                            for option in range(4):
                                turned = option % 2 == 1
                                if size == 1 and turned:
                                    continue
                                if option < 2:
                                    first = j if (ahead == 1) != turned else j - size + 1
                                    slot = at
                                else:
                                    first = i - size + 1 if ahead == 1 else i
                                    slot = j - 1 if (ahead == 1) != turned else j
                                if first < 1 or first + size > n - 1 or slot < 0 or slot > n - 2:
                                    continue
                                gain = _try_move(
                                    s, e, t, pos, closed, pf, pl, ff, fl, first, size, slot, turned
                                )
                                if gain > 0.0:
                                    break
                            if gain > 0.0:
                                break
                    if gain > 0.0:
                        total += gain
                        better = True
                        for w in (
                            i - 1,
                            i,
                            i + 1,
                            j - 1,
                            j,
                            j + 1,
                            pos[a] - 1,
                            pos[a] + 1,
                            pos[c] - 1,
                            pos[c] + 1,
                        ):
                            if 1 <= w < n - 1 and not waiting[t[w]] and count < size_q:
                                waiting[t[w]] = True
                                queue[(head + count) % size_q] = t[w]
                                count += 1
                        break
                if better:
                    break
    return total


def _improve(s, e, t, pos, closed, near, pf, pl, ff, fl, kicks, seed):
    """Iterated local search on one run: settle, then swap two short neighbouring stretches anywhere and
    settle again, kept when it is no longer.
    """
    n = len(t)
    queue = np.empty(n + 8, dtype=np.int64)
    waiting = np.zeros(n, dtype=np.bool_)
    for k in range(1, n - 1):
        queue[k - 1] = t[k]
        waiting[t[k]] = True
    _settle(s, e, t, pos, closed, near, pf, pl, ff, fl, queue, waiting, n - 2)
    state = seed
    kept = t.copy()
    longest = max(1, min(10, (n - 2) // 2))
    for _ in range(kicks):
        state = (state * 1103515245 + 12345) % 2147483648
        i = 1 + (state // 65536) % (n - 2)
        state = (state * 1103515245 + 12345) % 2147483648
        a = 1 + (state // 65536) % longest
        state = (state * 1103515245 + 12345) % 2147483648
        b = 1 + (state // 65536) % longest
        j, k = i + a, i + a + b  # stretches i..j-1 and j..k-1
        if k > n - 1:
            continue
        clash = False
        for m in range(j, k):
            for w in range(pf[t[m]], pf[t[m] + 1]):
                if i <= pos[pl[w]] < j:
                    clash = True
        if clash:
            continue
        before = _way(s, e, t[i - 1], t[i]) + _way(s, e, t[j - 1], t[j])
        after = _way(s, e, t[i - 1], t[j]) + _way(s, e, t[k - 1], t[i])
        if k < n - 1 or closed:
            before += _way(s, e, t[k - 1], t[k])
            after += _way(s, e, t[j - 1], t[k])
        for m in range(b):
            t[i + m] = kept[j + m]
        for m in range(a):
            t[i + b + m] = kept[i + m]
        for m in range(i, k):
            pos[t[m]] = m
        count = 0
        for w in (i - 1, i, i + b - 1, i + b, k - 1, k):
            if 1 <= w < n - 1 and not waiting[t[w]]:
                waiting[t[w]] = True
                queue[count] = t[w]
                count += 1
        gain = before - after + _settle(s, e, t, pos, closed, near, pf, pl, ff, fl, queue, waiting, count)
        if gain >= -1e-9:
            for m in range(n):
                kept[m] = t[m]
        else:
            for m in range(n):
                if t[m] != kept[m]:
                    t[m] = kept[m]
                    pos[t[m]] = m


def improve(
    starts: Array,
    ends: Array,
    run: Any,
    before: tuple[float, float],
    after: tuple[float, float] | None,
    waits: list[list[int]],
    kicks: int,
) -> Any:
    """A shorter order of a run of cuts.

    Args:
        starts, ends: (n, 2) of the run's cuts, mm.
        run: a legal order, indices 0 to n - 1.
        before: where the cutter comes from; ``after``: where it goes then, None: nowhere.
        waits: for every cut those of the run that must come before it.
        kicks: how often the search is disturbed; the same number gives the same order.
    """
    n = len(run)
    if n < 3:
        return run
    s = np.vstack([starts, [before], [after or before]])
    e = np.vstack([ends, [before], [after or before]])
    t = np.concatenate([[n], run, [n + 1]]).astype(np.int64)
    pos = np.empty(n + 2, dtype=np.int64)
    pos[t] = np.arange(n + 2)
    mid = (starts + ends) / 2
    k = min(NEAREST, n - 1)
    near = np.full((n + 2, k), -1, dtype=np.int64)
    if n <= 64:
        d = np.hypot(*(mid[:, None] - mid[None]).transpose(2, 0, 1))
        np.fill_diagonal(d, np.inf)
        near[:n] = np.argsort(d, axis=1, kind="stable")[:, :k]
    else:
        from scipy.spatial import cKDTree

        found = cKDTree(mid).query(mid, k + 1)[1]
        for i in range(n):
            others = [c for c in found[i] if c != i][:k]
            near[i, : len(others)] = others
    pf, pl = _rows([*waits, [], []])
    followers: list[list[int]] = [[] for _ in range(n + 2)]
    for i, w in enumerate(waits):
        for p in w:
            followers[p].append(i)
    ff, fl = _rows(followers)
    _ready(n)["_improve"](s, e, t, pos, after is not None, near, pf, pl, ff, fl, kicks, 20_240 + n)
    return t[1:-1]


def _rows(lists: list[list[int]]) -> tuple[Any, Any]:
    first = np.concatenate([[0], np.cumsum([len(x) for x in lists])]).astype(np.int64)
    return first, np.array([i for x in lists for i in x] or [0], dtype=np.int64)


def greedy(
    starts: Array,
    ends: Array,
    kinds: Any,
    blocks: Any,
    waits: Any,
    first: Any,
    followers: Any,
    at: tuple[float, float],
    order: Any,
) -> int:
    """``_greedy``, compiled for long lists; ``waits`` and ``order`` are changed in place."""
    return int(
        _ready(len(kinds))["_greedy"](
            starts, ends, kinds, blocks, waits, first, followers, float(at[0]), float(at[1]), order
        )
    )


def _ready(size: int) -> dict[str, Any]:
    if _compiled is None and size > MUCH:
        warm()
    return _compiled or {"_improve": _improve, "_greedy": _greedy}


def warm() -> None:
    """Compile the loops (kept on disk from then on)."""
    global _compiled
    if _compiled is not None:
        return
    import numba

    def made(f: Any) -> Any:
        return numba.njit(cache=True, nogil=True)(f)

    # callees first: a compiled loop calls compiled loops
    for f in (_way, _try_turn, _try_move, _settle, _improve, _greedy):
        globals()[f.__name__] = made(f)
    _compiled = {"_improve": _improve, "_greedy": _greedy}
