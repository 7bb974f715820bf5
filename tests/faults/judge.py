"""What a controller would do with a program, read by this file's own few lines: used to decide which
tampering matters. Shares no code with the proof.
"""

import math
import re

import numpy as np

WORD = re.compile(r"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")


def trace(text):
    """[(state, points (n, 3), line)] of every move in order, and [(what, line)] of everything else that is
    obeyed.

    ``state``: cutter, signed spindle speed, work offset, fast?, feed. Arcs become 64 chords.
    """
    pos, motion, scale, absolute = np.zeros(3), None, 1.0, True
    tool = pending = 0
    speed, sense, feed, offset = 0.0, 0, 0.0, 54.0
    moves, other = [], []
    for n, raw in enumerate(text.splitlines(), 1):
        line = re.sub(r"\([^)]*\)|;.*", "", raw).strip().upper()
        if not line or line == "%":
            continue
        if line.startswith("/"):
            other.append(("skip", n))
            line = line[1:]
        words = WORD.findall(line)
        g = [float(v) for k, v in words if k == "G"]
        m = [float(v) for k, v in words if k == "M"]
        p = {k: float(v) for k, v in words if k not in "GMN"}
        other += [(f"{k}{v}", n) for k, v in words if k not in "GMNXYZIJRFSTPHO"]
        pending = int(p.get("T", pending))
        feed = p["F"] * (25.4 if 20 in g else 1.0 if 21 in g else scale) if "F" in p else feed
        speed = p.get("S", speed)
        for v in g:
            if v in (20, 21):
                scale = 25.4 if v == 20 else 1.0
            elif v in (90, 91):
                absolute = v == 90
            elif 54 <= v <= 59:
                offset = v
            elif v in (0, 1, 2, 3):
                motion = int(v)
            elif v not in (17, 40, 49, 64, 80, 94):
                other.append((f"G{v:g}", n))
        for v in m:
            if v == 6:
                tool = pending
                other.append((f"change to {tool}, spindle {sense}", n))
            elif v in (3, 4, 5):
                sense = {3: 1, 4: -1, 5: 0}[int(v)]
            elif v in (2, 30):
                other.append(("end", n))
            elif v not in (7, 8, 9):
                other.append((f"M{v:g}", n))
        if not any(k in p for k in "XYZIJR") or 4 in g:
            continue
        to = np.array(
            [p[a] * scale + (0 if absolute else pos[i]) if a in p else pos[i] for i, a in enumerate("XYZ")]
        )
        if motion in (2, 3):
            c = pos[:2] + np.array([p.get("I", 0), p.get("J", 0)]) * scale
            r, a0, a1 = (
                math.hypot(*(pos[:2] - c)),
                math.atan2(*(pos[:2] - c)[::-1]),
                math.atan2(*(to[:2] - c)[::-1]),
            )
            turn = (a1 - a0) % (2 * math.pi) or 2 * math.pi
            turn = turn if motion == 3 else (turn - 2 * math.pi) or -2 * math.pi
            t = np.linspace(0, 1, 65)[:, None]
            points = np.hstack(
                [
                    c + r * np.hstack([np.cos(a0 + turn * t), np.sin(a0 + turn * t)]),
                    pos[2] + (to[2] - pos[2]) * t,
                ]
            )
            points[-1] = to
        else:
            points = np.array([pos, to])
        moves.append(((tool, speed * sense, offset, motion == 0, feed if motion else 0.0), points, n))
        pos = to
    return moves, other


def joined(moves):
    """Moves of one state that follow one another as one way each; what stays in place is left out."""
    out = []
    for state, points, line in moves:
        if np.abs(np.diff(points, axis=0)).max() < 1e-9:
            continue
        if out and out[-1][0] == state:
            out[-1][1].append(points)
        else:
            out.append((state, [points], line))
    return [(s, np.vstack(p), line) for s, p, line in out]


def apart(a, b):
    """mm by which two ways are apart at the same share of their length, at worst."""
    if len(a) == len(b) and np.abs(a - b).max() < 1e-9:
        return 0.0
    la, lb = (
        np.concatenate([[0], np.cumsum(np.sqrt((np.diff(w, axis=0) ** 2).sum(axis=1)))]) for w in (a, b)
    )
    at = np.unique(np.concatenate([la / la[-1], lb / lb[-1], np.linspace(0, 1, 2000)]))
    pa, pb = (
        np.column_stack([np.interp(at * w[-1], w, q[:, k]) for k in range(3)]) for w, q in ((la, a), (lb, b))
    )
    return float(np.sqrt(((pa - pb) ** 2).sum(axis=1)).max())


def harmful(before, after):
    """Does a tampered program do anything else: another way by over 0.02 mm, or another word that the
    controller obeys?
    """
    (m0, o0), (m1, o1) = trace(before), trace(after)
    if [w for w, _n in o0] != [w for w, _n in o1]:
        return True
    a, b = joined(m0), joined(m1)
    if [s for s, _p, _n in a] != [s for s, _p, _n in b]:
        return True
    return any(apart(p, q) > 0.02 for (_s, p, _n), (_t, q, _k) in zip(a, b, strict=True))
