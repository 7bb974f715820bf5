"""Texts are worded in millimetres; whoever works in inches reads them in inches, every number of them."""

from __future__ import annotations

import re
from typing import Literal

from venzo.core.units import as_fraction, show_length

Unit = Literal["mm", "in"]
_N = r"\d+(?:\.\d+)?"
_MANY = re.compile(rf"(?<![\w.])({_N}(?:(?: x | to | and |, )-?{_N})*) mm(2|/min)?(?![\w/])")
_METRES = re.compile(rf"(?<![\w.])({_N}) m/min(?: \({_N} in/min\))?")
_RUN = re.compile(rf"(?<![\w.])({_N}) m(?= (?:of|or|since|long|booked|cut)\b)")

_CM2 = re.compile(rf"(?<![\w.])({_N}) cm2(?!\w)")


def counted(n: int, word: str) -> str:
    """So many of something.

    >>> counted(1, "piece"), counted(3, "piece"), counted(2, "pass"), counted(1, "pass")
    ('1 piece', '3 pieces', '2 passes', '1 pass')
    """
    return f"{n} {word}" if n == 1 else f"{n} {word}{'es' if word.endswith(('s', 'ch', 'sh', 'x')) else 's'}"


def inches(mm: float) -> str:
    """A number of inches as shops write it: four decimals under a tenth, three above, no idle zeros. Texts
    hold hundredths of a millimetre: more would be made up.

    >>> inches(6.35), inches(0.02), inches(19.05), inches(2438.4)
    ('0.25', '0.0008', '0.75', '96')
    """
    value = mm / 25.4
    text = f"{value:.{4 if abs(value) < 0.1 else 3}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def in_unit(text: str, unit: str) -> str:
    """A text worded in millimetres, in ``mm`` or ``in``.

    >>> in_unit("a web 3.18 mm wide, sheet 2440 x 1220 mm, 0.5 to 1.5 mm left", "in")
    'a web 0.125 in wide, sheet 96.063 x 48.031 in, 0.0197 to 0.0591 in left'
    >>> in_unit("4.0 mm2 uncut, feed 5.08 m/min (200 in/min)", "in")
    '0.0062 sq in uncut, feed 200 in/min'
    >>> in_unit("102 cm2 stay uncut, the largest at 12, -5 mm", "in")
    '15.8 sq in stay uncut, the largest at 0.472, -0.197 in'
    >>> in_unit("a web 3.18 mm wide", "mm")
    'a web 3.18 mm wide'
    """
    if unit != "in":
        return text

    def lengths(m: re.Match[str]) -> str:
        numbers, power = m.group(1), m.group(2)
        if power == "2":
            return (
                re.sub(_N, lambda n: f"{float(n.group()) / 645.16:.4f}".rstrip("0").rstrip("."), numbers)
                + " sq in"
            )
        return re.sub(_N, lambda n: inches(float(n.group())), numbers) + (" in/min" if power else " in")

    out = _METRES.sub(lambda m: f"{float(m.group(1)) * 1000 / 25.4:.0f} in/min", text)
    out = _RUN.sub(lambda m: f"{float(m.group(1)) / 0.3048:.1f} ft", out)
    out = _CM2.sub(lambda m: f"{float(m.group(1)) / 6.4516:.1f}".removesuffix(".0") + " sq in", out)
    return _MANY.sub(lengths, out)


def thickness(mm: float, unit: str) -> str:
    """A thickness with its inch fraction where it is one, within half a thousandth.

    >>> thickness(17.6, "mm"), thickness(18.256, "mm"), thickness(18.256, "in"), thickness(17.6, "in")
    ('17.6 mm', '18.26 mm (23/32 in)', '0.719 in (23/32 in)', '0.693 in')
    """
    said = show_length(mm) if unit == "mm" else f"{mm / 25.4:.3f}".rstrip("0").rstrip(".") + " in"
    fraction = as_fraction(mm)
    return f"{said} ({fraction})" if "/" in fraction and fraction != said else said
