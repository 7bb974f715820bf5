"""Rectangles sheet by sheet: each sheet as full as it gets, by what its pieces are worth.

A search over one order for all sheets finds it hard to make the early ones full. Here each sheet in turn
takes what is worth most of what is left; pieces that ended on poorly filled sheets are worth more in the next
round and so come earlier (sequential value correction: Belov, Scheithauer and Mukhacheva 2008, from memory).
The last sheet is made short instead.
"""

from __future__ import annotations

import numba
import numpy as np

from venzo.core.nesting.packers import MOST_FREE, Sheets, judge, pack

ENOUGH = 60
"""Orders per piece beyond which no more are tried: few pieces have few."""
EARLY = 24
"""Of two places that change, one is among so many of the first: what lies on the sheet stands there."""


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _shuffled(order, n, mode, guillotine):  # pragma: no cover - compiled
    """A few places of the order changed; now and then another way of packing."""
    pick = np.random.random()
    if pick < 0.15:
        mode[0] = np.random.randint(5)
        mode[2] = np.random.randint(4)
        mode[3] = 1 if guillotine else np.random.randint(2)
    for _ in range(1 + (np.random.randint(3) if pick > 0.6 else 0)):
        i = np.random.randint(min(n, EARLY))
        j = np.random.randint(n)
        if np.random.random() < 0.5:
            order[i], order[j] = order[j], order[i]
        else:
            v = order[j]
            step = -1 if j > i else 1
            k = j
            while k != i:
                order[k] = order[k + step]
                k += step
            order[i] = v


@numba.njit(cache=True, nogil=True, error_model="numpy")
def round_of_sheets(
    values, pieces, sheets, own, which, guillotine, laid, seed, out, key, halt
):  # pragma: no cover - compiled
    """Sheets filled in turn; ``values`` are brought up to date, ``out`` and ``key`` are the packing's.

    ``own``: the pieces to be laid; others stay where ``out`` has them, on other sheets than ``which``.
    ``which``: numbers of the sheets, in the order in which they are filled; ``laid``: pieces laid in all per
    sheet, which makes the orders tried; ``halt``: not 0 once another thread wants an end.
    """
    w, h, fill, classes, bins = pieces.w, pieces.h, pieces.fill, pieces.classes, sheets.size
    np.random.seed(seed)
    n = len(w)
    free, counts = np.empty((1, MOST_FREE, 4)), np.zeros(1, np.int64)
    one, best_one = np.zeros((n, 4)), np.zeros((n, 4))
    right = np.zeros(len(bins))
    out[own] = -1.0
    left = own.copy()
    used = 0
    power = 1.0 + 0.12 * np.random.random()
    for b in which:
        count = len(left)
        if count == 0 or halt[0]:
            break
        # the worthiest first, a class after another
        rank = np.empty(count)
        for k in range(count):
            i = left[k]
            rank[k] = 1e15 * classes[i] - values[i] * (0.8 + 0.4 * np.random.random())
        order = left[np.argsort(rank)]
        total = 0.0
        for k in range(count):
            total += w[order[k]] * h[order[k]]
        last = total <= bins[b, 0] * bins[b, 1]
        mode = np.array([np.random.randint(5), 0, np.random.randint(4), 1 if guillotine else 0])
        trial, trial_mode = order.copy(), mode.copy()
        only = Sheets(bins[b : b + 1], sheets.kinds[b : b + 1], sheets.costs[b : b + 1])
        now = -1e300
        best = -1e300
        for t in range(min(ENOUGH * count, max(2, laid * (3 if last else 1) // count))):
            if halt[0]:
                break
            trial[:] = order
            trial_mode[:] = mode
            if t:
                _shuffled(trial, count, trial_mode, guillotine)
                if classes[trial[0]] != classes[trial[count - 1]]:
                    keep = np.empty(count, np.int64)
                    for k in range(count):
                        keep[k] = classes[trial[k]]
                    trial[:] = trial[np.argsort(keep, kind="mergesort")]
            pack(trial, pieces, only, trial_mode, free, counts, one)
            worth = 0.0
            reach = 0.0
            for k in range(count):
                i = trial[k]
                if one[i, 0] >= 0:
                    worth += values[i]
                    reach = max(reach, one[i, 1] + (w[i] if one[i, 3] == 0 else h[i]))
            if last:
                worth -= 1e-6 * values[left[0]] * reach / bins[b, 0]
            if worth >= now:
                now = worth
                order[:] = trial
                mode[:] = trial_mode
            if worth > best + 1e-12:
                best = worth
                best_one[:] = one
        # what fills up opens no sheet by itself
        opened = used == 0 and count == n and len(own) == n
        for k in range(count):
            opened = opened or (best_one[left[k], 0] >= 0 and not fill[left[k]])
        if not opened:
            continue
        # what lies on it leaves the list, and is worth by how well the sheet is used
        placed = 0.0
        kept = 0
        rest = np.empty(count, np.int64)
        for k in range(count):
            i = left[k]
            if best_one[i, 0] >= 0:
                out[i] = best_one[i]
                out[i, 0] = b
                placed += w[i] * h[i]
            else:
                rest[kept] = i
                kept += 1
        if kept == count:
            continue
        used += 1
        gain = bins[b, 0] * bins[b, 1] / placed
        for k in range(count):
            i = left[k]
            if out[i, 0] == b:
                values[i] = 0.5 * values[i] + 0.5 * (w[i] * h[i]) ** power * (1.0 if last else gain)
        left = rest[:kept]
    judge(out, pieces, sheets, right, key)
