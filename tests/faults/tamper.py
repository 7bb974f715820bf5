"""Ways in which a program is tampered with, by hand, by a slip, by a bad post or a torn stick: each takes the
lines and a random generator, and gives lines back (None: nothing to do).
"""

import re

NUMBER = r"[-+]?\d*\.?\d+"


def _cutting(lines):
    """Indices of lines that move while cutting (G1 to G3 in force), with the modal state."""
    motion, out = None, []
    for i, line in enumerate(lines):
        if line.startswith("(") or line.startswith("%"):
            continue
        found = re.match(r"G([0-3])\b", line)
        motion = int(found[1]) if found else motion
        if (
            motion in (1, 2, 3)
            and re.search(r"[XYZ]", line)
            and not line.startswith(("G17", "G2 0", "G21", "G20"))
        ):
            out.append(i)
    return out


def _pick(rng, items):
    return items[int(rng.integers(len(items)))] if len(items) else None


def _with(lines, i, new):
    return [*lines[:i], *([new] if isinstance(new, str) else new), *lines[i + 1 :]]


def _sub_word(line, letter, change):
    return re.sub(
        rf"{letter}({NUMBER})",
        lambda m: f"{letter}{change(float(m[1])):.5f}".rstrip("0").rstrip("."),
        line,
        count=1,
    )


def _one(letter, change, only=lambda line: True):
    def apply(lines, rng):
        i = _pick(
            rng, [k for k in _cutting(lines) if re.search(rf"{letter}{NUMBER}", lines[k]) and only(lines[k])]
        )
        if i is None:
            return None
        new = _sub_word(lines[i], letter, change)
        return None if new == lines[i] else _with(lines, i, new)

    return apply


def _every(letter, change):
    def apply(lines, rng):
        new = [line if line.startswith("(") else _sub_word(line, letter, change) for line in lines]
        return new if new != lines else None

    return apply


def _replace(old, new, count=1):
    def apply(lines, rng):
        at = [i for i, line in enumerate(lines) if re.search(old, line) and not line.startswith("(")]
        if not at:
            return None
        if count == 1:
            i = _pick(rng, at)
            return _with(lines, i, re.sub(old, new, lines[i], count=1))
        return [re.sub(old, new, line) if i in at else line for i, line in enumerate(lines)]

    return apply


def _insert(text, where):
    def apply(lines, rng):
        i = _pick(rng, where(lines))
        return None if i is None else [*lines[: i + 1], text, *lines[i + 1 :]]

    return apply


def _drop(where):
    def apply(lines, rng):
        i = _pick(rng, where(lines))
        return None if i is None else _with(lines, i, [])

    return apply


def _labels(lines):
    """(first, last) line indices of every labelled cut."""
    at = [i for i, line in enumerate(lines) if line.startswith("(") and ": " in line and "," in line]
    ends = (
        [*at[1:], next((i for i, line in enumerate(lines) if line == "M5" and i > at[-1]), len(lines) - 3)]
        if at
        else []
    )
    return [
        (a, b)
        for a, b in zip(at, ends, strict=True)
        if b > a + 1 and not any("M6" in line for line in lines[a:b])
    ]


def _double_cut(lines, rng):
    cut = _pick(rng, _labels(lines))
    return None if cut is None else [*lines[: cut[1]], *lines[cut[0] : cut[1]], *lines[cut[1] :]]


def _drop_cut(lines, rng):
    cut = _pick(rng, _labels(lines))
    return None if cut is None else [*lines[: cut[0]], *lines[cut[1] :]]


def _swap_cuts(lines, rng):
    cuts = [(a, b) for a, b in zip(_labels(lines), _labels(lines)[1:], strict=False) if a[1] == b[0]]
    pair = _pick(rng, cuts)
    if pair is None:
        return None
    (a, b), (_b, c) = pair
    return [*lines[:a], *lines[b:c], *lines[a:b], *lines[c:]]


def _tabs(height):
    """Lower the places at which a cut rises over its tabs; ``height``: of the stock's floor to the new top,
    None: all gone.
    """

    def apply(lines, rng, every=True):
        rises = []
        z = None
        for i in _cutting(lines):
            found = re.search(rf"Z({NUMBER})", lines[i])
            if not found:
                continue
            new = float(found[1])
            if z is not None and z < new < -0.2 and not re.search(r"[XY]", lines[i]):
                rises.append((i, z, new))
            z = new
        if not rises:
            return None
        chosen = rises if every else [_pick(rng, rises)]
        out = list(lines)
        for i, low, top in chosen:
            out[i] = re.sub(
                rf"Z{NUMBER}", f"Z{(low if height is None else top - height):.3f}", out[i], count=1
            )
        return out if out != lines else None

    return apply


def _once(apply):
    return lambda lines, rng: apply(lines, rng, False)


def _half(lines, rng):
    return lines[: int(rng.integers(len(lines) // 3, 2 * len(lines) // 3))]


def _changes(lines):
    return [i for i, line in enumerate(lines) if line == "M5" and i + 1 < len(lines) and "M6" in lines[i + 1]]


def _retracts(lines):
    """Fast moves up out of a cut."""
    return [
        i
        for i, line in enumerate(lines)
        if re.fullmatch(rf"G0 Z{NUMBER}", line)
        and 0 < i < len(lines) - 6
        and re.search(r"^[XYZGIJ]", lines[i - 1])
        and not lines[i + 1].startswith("(")
    ]


def _lower_travel(lines, rng):
    top = max((float(m[1]) for line in lines for m in re.finditer(rf"^G0 Z({NUMBER})", line)), default=None)
    return None if top is None else [re.sub(rf"^G0 Z{top:g}$", "G0 Z2", line) for line in lines]


TAMPERED = {
    "every Z 40 mm deeper": _every("Z", lambda v: v - 40),
    "every Z 0.5 mm deeper": _every("Z", lambda v: v - 0.5),
    "one Z too deep": _one("Z", lambda v: v - 1.2, lambda s: "Z-" in s),
    "one Z not deep enough": _one("Z", lambda v: v + 1.2, lambda s: "Z-" in s),
    "sign of a Z lost": _replace(rf"Z-({NUMBER})", r"Z\1"),
    "all tabs gone": _tabs(None),
    "one tab gone": _once(_tabs(None)),
    "tabs thinner": _tabs(0.8),
    "feed times ten": _every("F", lambda v: v * 10),
    "feed a tenth": _every("F", lambda v: v / 10),
    "one feed doubled": _one("F", lambda v: v * 2),
    "no speed": _replace(r"S\d+ M3", "M3", 0),
    "speed 0": _replace(r"S\d+ M3", "S0 M3", 0),
    "speed 60000": _replace(r"S\d+ M3", "S60000 M3"),
    "spindle backwards": _replace(r"M3\b", "M4"),
    "spindle not started": _replace(r"S\d+ M3", "", 0),
    "spindle stopped in a cut": _insert("M5", lambda ls: _cutting(ls)[:-1]),
    "another work offset": _replace("G54", "G55"),
    "work offset changed in a cut": _insert("G56", lambda ls: _cutting(ls)[:-1]),
    "no end": _replace(r"^M30$", ""),
    "a stop in a cut": _insert("M0", lambda ls: _cutting(ls)[:-1]),
    "a block that may be skipped": lambda ls, rng: (lambda i: _with(ls, i, "/" + ls[i]))(
        _pick(rng, _cutting(ls))
    ),
    "a cut done twice": _double_cut,
    "a cut left out": _drop_cut,
    "two cuts changed about": _swap_cuts,
    "a move left out": _drop(lambda ls: _cutting(ls)[1:-1]),
    "a retract left out": _drop(_retracts),
    "no M5 before a change": _drop(_changes),
    "travel lowered to 2 mm": _lower_travel,
    "an arc the other way": lambda ls, rng: (
        lambda i: (
            None
            if i is None
            else _with(ls, i, ls[i].replace("G2 ", "G9 ").replace("G3 ", "G2 ").replace("G9 ", "G3 "))
        )
    )(_pick(rng, [i for i, s in enumerate(ls) if re.match(r"G[23] ", s)])),
    "middle of an arc moved": _one("I", lambda v: v + 0.6, lambda s: "J0" not in s),
    "one X off": _one("X", lambda v: v + 0.4),
    "one Y off": _one("Y", lambda v: v - 3.0),
    "a decimal point lost": _replace(r"([XY])(\d+)\.(\d)", r"\1\2\3"),
    "everything mirrored": _every("X", lambda v: -v),
    "everything 0.5 mm to the right": _every("X", lambda v: v + 0.5),
    "another cutter": _replace(r"^T(\d+) M6$", r"T7\1 M6"),
    "inches instead of millimetres": _replace(r"\bG21\b", "G20"),
    "incremental": _replace(r"\bG90\b", "G91"),
    "fast in a cut": _replace(r"^G1 ", "G0 "),
    "slow where it should be fast": _replace(r"^G0 (?=[XY])", "G1 F1000 "),
    "torn off half way": _half,
    "other numbers for a height": _insert("G92 Z1", lambda ls: _cutting(ls)[:-1]),
    "a cycle that is not known": _insert("G81 X10 Y10 Z-5 R2 F300", lambda ls: _cutting(ls)[-1:]),
    "length of another cutter": _insert("G43 H77", lambda ls: _cutting(ls)[:1]),
    "a letter that is not known": _insert("A90", lambda ls: _cutting(ls)[:1]),
}


def _split_line(lines, rng):
    at = [
        k
        for k in _cutting(lines)
        if re.fullmatch(rf"X{NUMBER} Y{NUMBER}", lines[k])
        and re.match(rf"(G1 )?X{NUMBER} Y{NUMBER}", lines[k - 1])
        and not lines[k - 1].startswith("G0")
    ]
    i = _pick(rng, at)
    if i is None:
        return None
    (x0, y0), (x1, y1) = (
        [float(re.search(rf"{a}({NUMBER})", lines[k])[1]) for a in "XY"] for k in (i - 1, i)
    )
    return _with(lines, i, [f"X{(x0 + x1) / 2:.4f} Y{(y0 + y1) / 2:.4f}", lines[i]])


def _explicit(lines, rng):
    motion, out = None, []
    for line in lines:
        found = re.match(r"(G[0-3])\b", line)
        motion = found[1] if found else motion
        out.append(f"{motion} {line}" if re.match(r"[XYZ]", line) else line)
    return out


def _reordered(lines, rng):
    out = []
    for line in lines:
        words = line.split(" ")
        plain = not line.startswith(("(", "%", "/")) and len(words) > 1 and "M6" not in words
        out.append(" ".join(words[k] for k in rng.permutation(len(words))) if plain else line)
    return out


HARMLESS = {
    "comments removed": lambda ls, rng: [s for s in ls if not s.startswith("(")],
    "a comment added": lambda ls, rng: _with(
        ls, k := int(rng.integers(3, len(ls) - 3)), ["(checked)", ls[k]]
    ),
    "block numbers": lambda ls, rng: [
        s if s.startswith(("(", "%")) else f"N{10 * k} {s}" for k, s in enumerate(ls)
    ],
    "small letters": lambda ls, rng: [s.lower() for s in ls],
    "no spaces": lambda ls, rng: [s if s.startswith("(") else s.replace(" ", "") for s in ls],
    "leading zeros": lambda ls, rng: [
        s if s.startswith("(") else re.sub(r"\bG([0-3])\b", r"G0\1", s) for s in ls
    ],
    "trailing zeros": lambda ls, rng: [
        s if s.startswith("(") else re.sub(r"([XYZ]-?\d+)\.(\d)\b", r"\1.\g<2>00", s) for s in ls
    ],
    "motion word on every line": _explicit,
    "words in another order": _reordered,
    "empty lines": lambda ls, rng: [x for s in ls for x in (s, "")],
    "other line ends": lambda ls, rng: [f"{s}\r" for s in ls],
    "a straight cut in two": _split_line,
    "coolant on": lambda ls, rng: _insert("M8", lambda q: [k for k, s in enumerate(q) if s.startswith("S")])(
        ls, rng
    ),
    "M2 for M30": _replace(r"^M30$", "M2"),
    "after the end nothing but a mark": lambda ls, rng: [*ls, "%"],
}
