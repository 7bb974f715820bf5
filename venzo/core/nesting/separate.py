"""Can these pieces lie in this box without overlap? Guided local search, compiled.

Every piece that overlaps another is moved to where its weighted overlap is least; the weights of pairs that
stay in each other's way grow until they part (guided local search on overlap depth: Egeblad, Nielsen and
Odgaard 2007; Umetani and Murakami 2022; multiplicative weights, sampling and descent per move as in Gardeyn
and Wauters 2025; all from memory). One call advances the search by a budget of overlap evaluations and can be
resumed, so a run is the same on any machine.
"""

from __future__ import annotations

import math

import numba
import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

NEAR_END, TILT = 1e-3, 0.01
"""How far beyond an edge's end a point still belongs to the edge: mm, and mm more for each mm that it lies
off the edge's line. Edges are kept in single precision: from deep inside, a corner that is hardly one would
otherwise be found nearer than the edges beside it, and say that the point lies outside.
"""
FEASIBLE, STALLED, SPENT = 1, 2, 3

# counters kept between calls (int64 array)
EVALS, QUIET, ROUNDS, MOVES = 0, 1, 2, 3
COUNTERS = 8
WIDE, NEAR, KEEP = 24, 16, 3
"""Poses sampled per move over the whole box, near the piece, and how many of the best are refined."""


def _loader(kind, llvm):
    """A compiled read of ``address[index]``: an array argument would bring its whole descriptor and reference
    count into each call.
    """

    def load(typingctx, address, index):
        def code(context, builder, signature, args):
            pointer = builder.inttoptr(args[0], llvm.as_pointer())
            return builder.load(builder.gep(pointer, [args[1]]))

        return kind(types.int64, types.int64), code

    return intrinsic(load)


f8 = _loader(types.float64, ir.DoubleType())
f4r = _loader(types.float32, ir.FloatType())
i4r = _loader(types.int32, ir.IntType(32))
i8 = _loader(types.int64, ir.IntType(64))
b1r = _loader(types.int8, ir.IntType(8))


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def f4(address, index):  # pragma: no cover - compiled
    """A number of an array of float32, by its address."""
    return float(f4r(address, index))


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def i4(address, index):  # pragma: no cover - compiled
    """A number of an array of int32, by its address."""
    return int(i4r(address, index))


@intrinsic  # type: ignore[misc]
def put1(typingctx, address, index, value):
    """address[index] = value for one byte."""

    def code(context, builder, signature, args):
        kind = ir.IntType(8)
        pointer = builder.inttoptr(args[0], kind.as_pointer())
        builder.store(builder.zext(args[2], kind), builder.gep(pointer, [args[1]]))
        return context.get_dummy_value()

    return types.none(types.int64, types.int64, types.boolean), code


def random_state(seed: int) -> np.ndarray:
    """State of the kernel's random numbers for a seed (never zero, from which xorshift does not move)."""
    return np.array([(seed * 2654435761 + 88172645463325252) % 2**64 or 1], np.uint64)


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _random(rng):  # pragma: no cover - compiled
    """xorshift64*: the next number in [0, 1); ``rng`` is one uint64."""
    x = rng[0]
    x ^= x >> np.uint64(12)
    x ^= x << np.uint64(25)
    x ^= x >> np.uint64(27)
    rng[0] = x
    return float((x * np.uint64(2685821657736338717)) >> np.uint64(11)) / 9007199254740992.0


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _depth(tid, dx, dy, head, edges, cells, lists, deep):  # pragma: no cover - compiled
    """Overlap depth (mm, spacing included; 0 when apart) at a difference of origins in the table's frame."""
    h = head + tid * 64
    cell = f8(h, 2)
    u = (dx - f8(h, 0)) * cell
    v = (dy - f8(h, 1)) * cell
    ny = f8(h, 4)
    if u < 0.0 or v < 0.0 or u >= f8(h, 3) or v >= ny:
        return 0.0
    iu, iv = int(u), int(v)
    code = i4(cells, int(f8(h, 5)) + iu * int(ny) + iv)
    if code == 0:
        return 0.0
    if code < 0:
        at = deep + (-code - 1) * 12
        return f4(at, 0) + ((u - iu - 0.5) * f4(at, 1) + (v - iv - 0.5) * f4(at, 2)) / cell + f8(h, 6)
    at = lists + (code - 1) * 4
    best = 1e30
    sign = -1.0
    for k in range(1, 1 + i4(at, 0)):
        e = edges + i4(at, k) * 32
        px, py = dx - f4(e, 0), dy - f4(e, 1)
        ux, uy, length = f4(e, 2), f4(e, 3), f4(e, 4)
        t = px * ux + py * uy
        c = ux * py - uy * px
        near = NEAR_END + TILT * abs(c)
        if t < -near:  # at the very end of an edge its line still says which side it is
            d = c * c + t * t
            if d < best - 1e-7:
                best, sign = d, f4(e, 5)
        elif t > length + near:
            d = c * c + (t - length) * (t - length)
            if d < best - 1e-7:
                best, sign = d, f4(e, 6)
        else:
            d = c * c
            if d <= best:
                best = d
                sign = 1.0 if c > 0 else -1.0
    value = sign * math.sqrt(best) + f8(h, 6)
    return value if value > 0.0 else 0.0


@numba.njit(cache=True, nogil=True, error_model="numpy", inline="always")
def _pair(si, ri, xi, yi, sj, rj, xj, yj, ctx):  # pragma: no cover - compiled
    """Overlap depth of two placed shapes."""
    shapes, turns = i8(ctx, 15), i8(ctx, 16)
    if si <= sj:
        a, b, ra, rb = si, sj, ri, rj
        dx, dy = xj - xi, yj - yi
    else:
        a, b, ra, rb = sj, si, rj, ri
        dx, dy = xi - xj, yi - yj
    tid = i4(i8(ctx, 5), (a * shapes + b) * i8(ctx, 17) + i4(i8(ctx, 6), ra * turns + rb))
    if tid < 0:
        return 0.0
    c, s = f8(i8(ctx, 7), 2 * ra), f8(i8(ctx, 7), 2 * ra + 1)
    return _depth(
        tid, c * dx + s * dy, c * dy - s * dx, i8(ctx, 8), i8(ctx, 9), i8(ctx, 10), i8(ctx, 11), i8(ctx, 12)
    )


@numba.njit(cache=True, nogil=True, error_model="numpy")
def weigh(i, shape, turn, x, y, limit, ctx):  # pragma: no cover - compiled
    """Weighted overlap of piece ``i`` at a pose with all others; stops counting beyond ``limit``."""
    n, reach = i8(ctx, 14), f8(ctx, 18)
    place, pose, weights, flags = i8(ctx, 0), i8(ctx, 1), i8(ctx, 2), i8(ctx, 13)
    left, low, right, high = i8(ctx, 20), i8(ctx, 21), i8(ctx, 22), i8(ctx, 23)
    b = i8(ctx, 4) + (shape * i8(ctx, 16) + turn) * 32
    x0, y0 = numba.float32(x + f8(b, 0) - reach), numba.float32(y + f8(b, 1) - reach)
    x1, y1 = numba.float32(x + f8(b, 2) + reach), numba.float32(y + f8(b, 3) + reach)
    padded = (n + 7) & -8
    # whose boxes meet this one: a loop that the compiler turns into vector instructions
    for j in range(padded):
        meets = (f4r(left, j) < x1) & (f4r(right, j) > x0) & (f4r(low, j) < y1) & (f4r(high, j) > y0)
        put1(flags, j, meets)  # type: ignore[call-arg]
    total = 0.0
    row = weights + i * n * 4
    for w in range(padded >> 3):
        if i8(flags, w) == 0:
            continue
        for j in range(8 * w, 8 * w + 8):
            if b1r(flags, j) == 0 or j == i:
                continue
            q = place + j * 48
            d = _pair(shape, turn, x, y, i8(pose, 2 * j), i8(pose, 2 * j + 1), f8(q, 0), f8(q, 1), ctx)
            if d > 0.0:
                total += d * f4(row, j)
                if total >= limit:
                    return total
    return total


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _set(i, shape, turn, x, y, pose, place, boxes, quick):  # pragma: no cover - compiled
    pose[i, 0], pose[i, 1] = shape, turn
    place[i, 0], place[i, 1] = x, y
    place[i, 2], place[i, 3] = x + boxes[shape, turn, 0], y + boxes[shape, turn, 1]
    place[i, 4], place[i, 5] = x + boxes[shape, turn, 2], y + boxes[shape, turn, 3]
    for k in range(4):
        quick[k, i] = place[i, k + 2]


@numba.njit(cache=True, nogil=True, error_model="numpy")
def overlaps(i, pose, place, out, reach, ctx):  # pragma: no cover - compiled
    """Overlap depth of piece ``i`` with every other, into row and column ``i`` of ``out``; their sum."""
    total = 0.0
    for j in range(len(pose)):
        d = 0.0
        if j != i and not (
            place[j, 2] >= place[i, 4] + reach
            or place[j, 4] <= place[i, 2] - reach
            or place[j, 3] >= place[i, 5] + reach
            or place[j, 5] <= place[i, 3] - reach
        ):
            d = _pair(
                pose[i, 0],
                pose[i, 1],
                place[i, 0],
                place[i, 1],
                pose[j, 0],
                pose[j, 1],
                place[j, 0],
                place[j, 1],
                ctx,
            )
            if d < 1e-4:
                d = 0.0
        out[i, j] = d
        out[j, i] = d
        total += d
    return total


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _fits(s, r, room, boxes):  # pragma: no cover - compiled
    return (
        boxes[s, r, 2] - boxes[s, r, 0] <= room[2] - room[0] + 1e-9
        and boxes[s, r, 3] - boxes[s, r, 1] <= room[3] - room[1] + 1e-9
    )


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _house(
    i, kind, first_way, ways, rooms, where, home, pose, place, boxes, quick, rng
):  # pragma: no cover - compiled
    """Push a piece back into its room; where that is too small for it, into another way of lying or another
    room. False when none takes it.
    """
    b, s, r = where[i], pose[i, 0], pose[i, 1]
    if not _fits(s, r, rooms[b], boxes):
        w0, w1 = first_way[kind[i]], first_way[kind[i] + 1]
        found = False
        start_room, start_way = int(_random(rng) * len(rooms)), int(_random(rng) * (w1 - w0))
        for q in range(len(rooms)):
            c = (
                home[i]
                if home[i] >= 0
                else ((b + q) % len(rooms) if q == 0 else (start_room + q) % len(rooms))
            )
            for k in range(w1 - w0):
                way = w0 + (start_way + k) % (w1 - w0)
                if _fits(ways[way, 0], ways[way, 1], rooms[c], boxes):
                    found = True
                    s, r = ways[way, 0], ways[way, 1]
                    break
            if found:
                if c != b:
                    room = rooms[c]
                    place[i, 0] = (
                        room[0]
                        - boxes[s, r, 0]
                        + _random(rng) * (room[2] - room[0] - boxes[s, r, 2] + boxes[s, r, 0])
                    )
                    place[i, 1] = (
                        room[1]
                        - boxes[s, r, 1]
                        + _random(rng) * (room[3] - room[1] - boxes[s, r, 3] + boxes[s, r, 1])
                    )
                b = c
                break
        if not found:
            return False
    where[i] = b
    x = min(max(place[i, 0], rooms[b, 0] - boxes[s, r, 0]), rooms[b, 2] - boxes[s, r, 2])
    y = min(max(place[i, 1], rooms[b, 1] - boxes[s, r, 1]), rooms[b, 3] - boxes[s, r, 3])
    _set(i, s, r, x, y, pose, place, boxes, quick)
    return True


@numba.njit(cache=True, nogil=True, error_model="numpy")
def separate(
    n,
    kind,
    first_way,
    ways,
    rooms,
    share,
    where,
    home,
    pose,
    place,
    weights,
    depths,
    kept_pose,
    kept_place,
    kept_where,
    boxes,
    reach,
    ctx,
    quick,
    rng,
    counters,
    best,
    quiet_limit,
    budget,
    stop,
):  # pragma: no cover - compiled
    """Advance the search by about ``budget`` evaluations.

    The first ``n`` pieces move, those after them are fixed. ``ways[first_way[k]:first_way[k + 1]]`` are the
    (shape, turn) that kind ``k`` may take; ``rooms``: x0, y0, x1, y1 of each sheet, far apart from each
    other; ``share``: cumulative odds of each being tried; ``where``: the room of each piece; ``home``: the
    room it may not leave, or -1. ``kept_*`` take the least overlapping state of this attempt, ``best[0]`` its
    overlap (inf before the first call). Returns FEASIBLE, STALLED (no better for ``quiet_limit`` rounds) or
    SPENT.
    """
    m = len(pose)
    order = np.empty(n, np.int64)
    top = np.empty((KEEP + 1, 6))
    if counters[ROUNDS] == 0:
        for i in range(n):
            if not _house(i, kind, first_way, ways, rooms, where, home, pose, place, boxes, quick, rng):
                return STALLED
        for i in range(n, m):
            for k in range(4):
                quick[k, i] = place[i, k + 2]
        for i in range(m):
            overlaps(i, pose, place, depths, reach, ctx)
    evals = 0
    while True:
        count = 0
        total = 0.0
        for i in range(n):
            row = 0.0
            for j in range(m):
                row += depths[i, j]
            if row > 0.0:
                order[count] = i
                count += 1
                total += row
        if total < best[0] - 1e-9:
            if total < best[0] * 0.98:
                counters[QUIET] = 0
            best[0] = total
            kept_pose[:] = pose
            kept_place[:] = place
            kept_where[:] = where
        if count == 0:
            counters[EVALS] += evals
            return FEASIBLE
        if counters[QUIET] >= quiet_limit:
            counters[EVALS] += evals
            return STALLED
        if evals >= budget or stop[0] != 0:
            counters[EVALS] += evals
            return SPENT
        counters[QUIET] += 1
        counters[ROUNDS] += 1
        if counters[ROUNDS] > 1:
            worst = 0.0
            for i in range(n):
                for j in range(m):
                    worst = max(worst, depths[i, j])
            for i in range(n):
                for j in range(m):
                    d = depths[i, j]
                    if j < n and j < i:
                        continue
                    w = weights[i, j]
                    w = w * (1.1 + 0.4 * d / worst) if d > 0.0 else max(1.0, w * 0.95)
                    weights[i, j] = w
                    weights[j, i] = w
        for k in range(count - 1, 0, -1):
            q = int(_random(rng) * (k + 1))
            order[k], order[q] = order[q], order[k]
        for k in range(count):
            i = order[k]
            row = 0.0
            for j in range(m):
                row += depths[i, j] * weights[i, j]
            if row <= 0.0:
                continue
            counters[MOVES] += 1
            w0, w1 = first_way[kind[i]], first_way[kind[i] + 1]
            s, r = pose[i, 0], pose[i, 1]
            # the best few poses so far, best first: value, shape, turn, x, y, room
            size = 1
            top[0, 0], top[0, 1], top[0, 2], top[0, 3], top[0, 4], top[0, 5] = (
                row,
                s,
                r,
                place[i, 0],
                place[i, 1],
                where[i],
            )
            for q in range(WIDE + NEAR):
                way = w0 + int(_random(rng) * (w1 - w0))
                ws, wr = ways[way, 0], ways[way, 1]
                room_no = where[i]
                if q < WIDE and home[i] < 0 and len(rooms) > 1:
                    odds = _random(rng)
                    room_no = 0
                    while room_no < len(rooms) - 1 and odds > share[room_no]:
                        room_no += 1
                box = rooms[room_no]
                ax, ay = box[0] - boxes[ws, wr, 0], box[1] - boxes[ws, wr, 1]
                bx, by = box[2] - boxes[ws, wr, 2], box[3] - boxes[ws, wr, 3]
                if bx < ax - 1e-9 or by < ay - 1e-9:
                    continue
                if q >= WIDE:
                    span_x, span_y = boxes[s, r, 2] - boxes[s, r, 0], boxes[s, r, 3] - boxes[s, r, 1]
                    ax, bx = max(ax, place[i, 0] - span_x), min(bx, place[i, 0] + span_x)
                    ay, by = max(ay, place[i, 1] - span_y), min(by, place[i, 1] + span_y)
                    if bx < ax or by < ay:
                        continue
                x, y = ax + _random(rng) * (bx - ax), ay + _random(rng) * (by - ay)
                limit = top[size - 1, 0] if size == KEEP else 1e30
                value = weigh(i, ws, wr, x, y, limit, ctx)
                evals += 1
                if value >= limit:
                    continue
                at = size if size < KEEP else KEEP - 1
                while at > 0 and top[at - 1, 0] > value:
                    for c in range(6):
                        top[at, c] = top[at - 1, c]
                    at -= 1
                top[at, 0], top[at, 1], top[at, 2], top[at, 3], top[at, 4], top[at, 5] = (
                    value,
                    ws,
                    wr,
                    x,
                    y,
                    room_no,
                )
                size = min(size + 1, KEEP)
                if value == 0.0:
                    break
            bv, bs, br, bxx, byy, bb = row, s, r, place[i, 0], place[i, 1], where[i]
            for q in range(size):
                value, ws, wr, x, y = top[q, 0], int(top[q, 1]), int(top[q, 2]), top[q, 3], top[q, 4]
                room_no = int(top[q, 5])
                box = rooms[room_no]
                ax, ay = box[0] - boxes[ws, wr, 0], box[1] - boxes[ws, wr, 1]
                bx, by = box[2] - boxes[ws, wr, 2], box[3] - boxes[ws, wr, 3]
                least = min(boxes[ws, wr, 2] - boxes[ws, wr, 0], boxes[ws, wr, 3] - boxes[ws, wr, 1])
                sx = sy = 0.25 * least
                end = max(0.001 * least, 0.05)
                while value > 0.0 and (sx > end or sy > end):
                    axis = int(_random(rng) * 4)
                    ox = sx if axis != 1 else 0.0
                    oy = sy if axis == 1 or axis == 2 else (-sy if axis == 3 else 0.0)
                    better = False
                    ux, uy = x, y
                    for side in range(2):
                        tx, ty = (ux + ox, uy + oy) if side == 0 else (ux - ox, uy - oy)
                        tx, ty = min(max(tx, ax), bx), min(max(ty, ay), by)
                        v = weigh(i, ws, wr, tx, ty, value, ctx)
                        evals += 1
                        if v < value:
                            value, x, y = v, tx, ty
                            better = True
                    grow = 1.1 if better else 0.5
                    if axis != 1:
                        sx *= grow
                    if axis != 0:
                        sy *= grow
                if value < bv:
                    bv, bs, br, bxx, byy, bb = value, ws, wr, x, y, room_no
                if bv == 0.0:
                    break
            if bv < row:
                where[i] = bb
                _set(i, bs, br, bxx, byy, pose, place, boxes, quick)
                overlaps(i, pose, place, depths, reach, ctx)
