"""Does a program do what was planned, move for move? The first place at which it does anything else, with its
line.

Programs are compared as ways, not as text: arcs may be chords, blocks may be split, as long as the cutter is
in the same place (0.02 mm) at the same feed all along.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from venzo.core.cuts.moves import FEED, KIND, RAPID, X, Y, Z, chords, dwells
from venzo.core.geometry.contour import Array
from venzo.core.proof.program import Block, ToolRun
from venzo.core.tolerances import BUDGET

CHORD = 0.001
"""mm; arcs become chords within this."""
FEED_OFF = 0.005
"""Share by which a feed may differ: rounding to whole mm/min."""
SEEK = 0.1
"""mm along a way within which a corner of the other is sought."""
ROUND = 0.0025
"""mm by which rounded ends may make a way longer or shorter, each block."""


@dataclass(frozen=True, eq=False)
class Run:
    """Moves of one kind without a break: points (n, 3) of its way; of every chord the feed, the spindle's
    speed (negative: backwards) and the program line (or the index of the planned cut).
    """

    fast: bool
    points: Array
    feed: Array
    speed: Array
    source: Array
    blocks: int

    @property
    def along(self) -> Array:
        """Distance of every point along the way."""
        return np.concatenate([[0.0], np.cumsum(np.sqrt((np.diff(self.points, axis=0) ** 2).sum(axis=1)))])

    @property
    def length(self) -> float:
        return float(self.along[-1])


@dataclass(frozen=True, eq=False)
class Section:
    """What one cutter does from a place it came to on a way that is not known."""

    tool: int
    rpm: float
    runs: tuple[Run, ...]
    labels: tuple[str, ...] = field(default=())


@dataclass(frozen=True)
class Deviation:
    """The first place at which a program does something else: its line (0: after the last), what kind of
    thing, and words.
    """

    line: int
    kind: str
    message: str


def runs_of(rows: Array, speeds: Sequence[float] | Array, sources: Sequence[int]) -> tuple[Run, ...]:
    """Rows of moves, the first only a place, as runs of fast and of cutting moves."""
    # a move to where the tip already is is none, unless it is a full circle
    gone = np.abs(np.diff(rows[:, [X, Y, Z]], axis=0)).max(axis=1) <= 1e-6
    kept = [0, *(np.flatnonzero(~gone | (rows[1:, KIND] > 1.5)) + 1).tolist()]
    rows, src, rpm = rows[kept], np.asarray(sources)[kept], np.asarray(speeds, dtype=float)[kept]
    out: list[Run] = []
    i = 1
    while i < len(rows):
        fast = bool(rows[i, KIND] == RAPID)
        j = i
        while j < len(rows) and bool(rows[j, KIND] == RAPID) == fast:
            j += 1
        points, move = chords(rows[i - 1 : j], CHORD)
        at = move + i - 1
        out.append(Run(fast, points, rows[at, FEED], rpm[at], src[at], j - i))
        i = j
    return tuple(out)


def planned_sections(runs: Sequence[ToolRun], clearance: float, top: float) -> list[Section]:
    """What a file is to do, with the travel between its cuts at ``clearance`` over the stock; Z of the
    program, ``top`` the height of the stock's top in it.
    """
    grouped: list[tuple[int, list[tuple[float, str, Array]]]] = []
    park = runs[-1].park if runs else None
    for r in runs:
        if not grouped or grouped[-1][0] != r.number:
            grouped.append((r.number, []))
        grouped[-1][1].extend((r.rpm, label, moves) for label, moves in r.cuts)
    out = []
    last: Array | None = None
    for g, (number, cuts) in enumerate(grouped):
        rows: list[Array] = [last] if last is not None else []
        sources: list[int] = [0] * len(rows)
        speeds: list[float] = [0.0] * len(rows)
        for k, (rpm, _label, moves) in enumerate(cuts):
            m = moves.copy()
            m[:, Z] += top
            over, back = m[:1].copy(), m[-1:].copy()
            over[0, [KIND, Z]] = RAPID, clearance + top
            back[0, [KIND, Z, FEED]] = RAPID, clearance + top, 0.0
            m[0, [KIND, FEED]] = RAPID, 0.0
            rows += [over, m, back]
            sources += [k] * (len(m) + 2)
            speeds += [rpm] * (len(m) + 2)
            last = back
        if park is not None and g == len(grouped) - 1 and last is not None:
            home = last.copy()
            home[0, [X, Y]] = park
            rows.append(home)
            sources.append(len(cuts) - 1)
            speeds.append(0.0)
        labels = tuple(label for _rpm, label, _m in cuts)
        out.append(Section(number, cuts[0][0], runs_of(np.vstack(rows), speeds, sources), labels))
    return out


def read_sections(blocks: Sequence[Block], loaded: int) -> list[Section]:
    """What a program does; blocks of one cutter that follow one another are one section."""
    out: list[Section] = []
    for b in blocks:
        runs = runs_of(b.moves, b.speed, b.lines)
        number = b.tool or loaded
        if out and out[-1].tool == number:
            out[-1] = Section(number, out[-1].rpm, (*out[-1].runs, *runs))
        else:
            out.append(Section(number, b.rpm, runs))
    return out


def planned_stops(runs: Sequence[ToolRun], sections: Sequence[Section]) -> list[tuple[int, str]]:
    """Stops that a file is to make for the operator, in order: how many cutting runs come before each, and
    what is done then. ``sections``: those of ``planned_sections``.
    """
    out: list[tuple[int, str]] = []
    section, cut, last = -1, 0, None
    before = [0]
    for s in sections:
        before.append(before[-1] + sum(not r.fast for r in s.runs))
    for r in runs:
        if r.number != last:
            section, cut, last = section + 1, 0, r.number
        for k in range(len(r.cuts)):
            if k in r.stops:
                mine = sections[section].runs
                done = sum(not x.fast and int(x.source[0]) < cut for x in mine)
                out.append((before[section] + done, r.stops[k]))
            cut += 1
    return out


def planned_dwells(runs: Sequence[ToolRun]) -> list[float]:
    """Seconds of every dwell that a file is to make, in order."""
    return [float(s) for r in runs for _label, m in r.cuts for s in dwells(m) if s > 0]


def first_deviation(planned: Sequence[Section], found: Sequence[Section], last_line: int) -> Deviation | None:
    """The first place at which a program does anything else than planned; None: nowhere."""
    for k, want in enumerate(planned):
        if k >= len(found):
            return Deviation(
                last_line,
                "missing",
                f"it ends before T{want.tool} has cut {want.labels[0] if want.labels else 'anything'}",
            )
        got = found[k]
        first = int(got.runs[0].source[0]) if got.runs else last_line
        if got.tool != want.tool:
            return Deviation(first, "cutter", f"T{got.tool} cuts where T{want.tool} is planned")
        wrong = _in_section(want, got, last_line)
        if wrong:
            return wrong
    if len(found) > len(planned):
        extra = found[len(planned)]
        return Deviation(
            int(extra.runs[0].source[0]) if extra.runs else last_line,
            "added",
            f"T{extra.tool} cuts something that is not planned",
        )
    return None


def _in_section(want: Section, got: Section, last_line: int) -> Deviation | None:
    for i, a in enumerate(want.runs):
        if i >= len(got.runs):
            return Deviation(
                last_line, "missing", f"{_label(want, a)} is not cut any more: the program leaves it out"
            )
        if i == 0:  # by what way it came from the change of cutters is not known everywhere
            a = _from(a, got.runs[0].points[0])
        wrong = _differs(want, a, got.runs[i])
        if wrong:
            return _explained(want, got, i, wrong)
    if len(got.runs) > len(want.runs):
        b = got.runs[len(want.runs)]
        return Deviation(int(b.source[0]), "added", "moves that are not planned follow")
    return None


def _from(a: Run, place: Array) -> Run:
    """A planned fast run, begun at the place that a program's own begins at if that is one of its corners."""
    near = (
        np.flatnonzero(np.abs(a.points - place).max(axis=1) <= BUDGET) if a.fast else np.zeros(0, dtype=int)
    )
    k = int(near[0]) if len(near) and near[0] < len(a.points) - 1 else 0
    return Run(a.fast, a.points[k:], a.feed[k:], a.speed[k:], a.source[k:], a.blocks)


def _label(want: Section, run: Run) -> str:
    k = int(run.source[0])
    return want.labels[k] if k < len(want.labels) else "a cut"


def _explained(want: Section, got: Section, i: int, wrong: Deviation) -> Deviation:
    """Is something left out or done twice, rather than done otherwise?"""
    b = got.runs[i]
    if b.length > 1.0:
        for ahead in range(1, 4):
            if i + ahead < len(want.runs) and _differs(want, want.runs[i + ahead], b) is None:
                missing = next((r for r in want.runs[i : i + ahead] if not r.fast), want.runs[i])
                return Deviation(
                    int(b.source[0]), "missing", f"{_label(want, missing)}: a run of it is missing"
                )
        if any(_differs(want, want.runs[k], b) is None for k in range(max(0, i - 3), i)):
            return Deviation(
                int(b.source[0]),
                "doubled",
                f"{_label(want, want.runs[max(0, i - 1)])}: a run of it is done twice",
            )
    return wrong


def _differs(want: Section, a: Run, b: Run) -> Deviation | None:
    """Where one run first differs from the planned one."""
    label, line = _label(want, a), int(b.source[0])
    if a.fast != b.fast:
        return Deviation(
            line,
            "motion",
            f"{label}: {'a cutting move' if a.fast else 'a fast move'} where"
            f" {'a fast' if a.fast else 'a cutting'} one is planned",
        )
    at = _first_off(a, b)
    if at is not None:
        s, p, q = at
        line = int(b.source[min(int(np.searchsorted(b.along[1:], s, side="left")), len(b.source) - 1)])
        dz, dxy = q[2] - p[2], math.hypot(q[0] - p[0], q[1] - p[1])
        if abs(dz) > BUDGET and abs(dz) >= dxy * 0.5:
            return Deviation(
                line,
                "deeper" if dz < 0 else "shallower",
                f"{label}: {abs(dz):.2f} mm {'lower' if dz < 0 else 'higher'} than"
                f" planned{' in a fast move' if a.fast else ''}",
            )
        return Deviation(
            line,
            "elsewhere",
            f"{label}: {max(dxy, abs(dz)):.2f} mm from where it is"
            f" planned{', in a fast move' if a.fast else ''}",
        )
    return None if a.fast else _turning(label, a, b) or _feeds(label, a, b)


def _turning(label: str, a: Run, b: Run) -> Deviation | None:
    """Spindle speed and sense; one run has one speed in a plan."""
    want = float(a.speed[0])
    off = np.flatnonzero(np.abs(b.speed - want) > 0.01 * abs(want))
    if not len(off):
        return None
    rpm, line = float(b.speed[off[0]]), int(b.source[off[0]])
    if rpm < 0:
        return Deviation(line, "sense", f"{label}: the spindle turns backwards (M4); cutters are made for M3")
    return Deviation(
        line,
        "speed",
        f"{label}: the spindle {f'turns at {rpm:.0f} rpm' if rpm else 'has no speed'}, {want:.0f} is planned",
    )


def _first_off(a: Run, b: Run) -> tuple[float, Array, Array] | None:
    """Distance along ``b`` at which two ways are first more than BUDGET apart, with both places.

    Corner by corner as long as they have the same; from the first that differs every corner of ``b`` is
    sought on ``a`` a little further along than the one before, and every corner of ``a`` on ``b`` between
    those.
    """
    n = min(len(a.points), len(b.points))
    same = np.abs(a.points[:n] - b.points[:n]).max(axis=1) <= BUDGET / 2
    k = n if same.all() else int(np.argmin(same))
    if k == len(a.points) == len(b.points):
        return None
    k = max(k - 1, 0)
    pa, pb, la, lb = a.points[k:], b.points[k:], a.along[k:] - a.along[k], b.along[k:] - b.along[k]
    if np.abs(pa[0] - pb[0]).max() > BUDGET:
        return float(b.along[k]), pa[0], pb[0]
    from venzo.core.proof.compare_kernel import follow  # here, since its compiler is dear to load

    at, place = np.zeros(len(pb)), np.zeros(3)
    ways = [np.ascontiguousarray(v, dtype=float) for v in (pa, la, pb, lb)]
    lost = int(follow(*ways, SEEK, BUDGET, at, place))  # type: ignore[call-arg]
    if lost >= 0:
        return float(b.along[k] + lb[lost]), place, pb[lost]
    marks = la[la <= at[-1] + 1e-9]
    q = np.column_stack([np.interp(np.interp(marks, at, lb), lb, pb[:, c]) for c in range(3)])
    off = np.sqrt(((pa[: len(marks)] - q) ** 2).sum(axis=1)) > BUDGET
    if off.any():
        i = int(np.argmax(off))
        return float(b.along[k] + np.interp(marks[i], at, lb)), pa[i], q[i]
    if la[-1] - at[-1] > BUDGET:
        return float(b.length), pa[-1], pb[-1]
    return None


def _feeds(label: str, a: Run, b: Run) -> Deviation | None:
    if len(a.points) == len(b.points) and np.abs(a.points - b.points).max() <= BUDGET:
        want = a.feed
        off = np.diff(b.along) > 2 * ROUND
        off &= np.abs(b.feed - want) > np.maximum(1.0, FEED_OFF * want)
    else:
        k = a.length / max(b.length, 1e-9)
        middles = (b.along[1:] + b.along[:-1]) / 2 * k
        # a chord that spans the place at which the planned feed changes may have either
        want, after = (
            a.feed[np.clip(np.searchsorted(a.along[1:], middles + d), 0, len(a.feed) - 1)]
            for d in (-SEEK, SEEK)
        )
        off = np.diff(b.along) > 2 * SEEK
        for f in (want, after):
            off &= np.abs(b.feed - f) > np.maximum(1.0, FEED_OFF * f)
    if not off.any():
        return None
    i = int(np.argmax(off))
    return Deviation(
        int(b.source[i]), "feed", f"{label}: feed {b.feed[i]:.0f} mm/min, {want[i]:.0f} is planned"
    )


def likeness(planned: Sequence[Section], found: Sequence[Section]) -> float:
    """Share of runs of either that the other has too, by place and length: 1 for the same program, 0 for
    nothing in common.
    """

    def keys(sections: Sequence[Section]) -> set[tuple]:
        return {
            (
                s.tool,
                r.fast,
                *np.round(r.points[0] * 2).tolist(),
                *np.round(r.points[-1] * 2).tolist(),
                round(r.length),
            )
            for s in sections
            for r in s.runs
        }

    a, b = keys(planned), keys(found)
    return len(a & b) / max(1, len(a | b))
