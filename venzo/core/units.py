"""Lengths as people write them: units, fractions and arithmetic, read into millimetres."""

from __future__ import annotations

import math
import re
from fractions import Fraction

from venzo.core.snags import BadInput

MM: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8, "thou": 0.0254}
"""Millimetres in one of each unit; 1 in = 25.4 mm exactly."""

_WORDS = {'"': "in", "inch": "in", "inches": "in", "'": "ft", "foot": "ft", "feet": "ft", "mil": "thou", "thous": "thou"}
_TOKEN = re.compile(r"\s*(?:(\d+\.?\d*(?:[eE][-+]?\d+)?|\.\d+)|([a-zA-Z]+|\"|')|([-+*/()]))")
LONGEST = 200
LARGEST = 1e6


def _tokens(text: str) -> list[str]:
    out, i = [], 0
    text = text.strip().replace("×", "*").replace("−", "-").replace(",", ".")
    while i < len(text):
        m = _TOKEN.match(text, i)
        if not m:
            raise BadInput(f"cannot read {text[i:].strip()[:20]!r} in {text!r}: use numbers, fractions, + - * / ( ) and mm, cm, m, in, ft, thou")
        out.append(m.group().strip())
        i = m.end()
    return out


class _Reader:
    """Recursive descent over values that carry a power of length: 0 for a bare number, 1 for a length."""

    def __init__(self, text: str, unit: str):
        self.text, self.tokens, self.i, self.unit = text, _tokens(text), 0, unit

    def fail(self, why: str) -> BadInput:
        return BadInput(f"cannot read {self.text!r} as a length: {why}")

    def peek(self) -> str:
        return self.tokens[self.i] if self.i < len(self.tokens) else ""

    def take(self) -> str:
        token = self.peek()
        self.i += 1
        return token

    def sum(self) -> tuple[float, int]:
        value, power = self.product()
        while self.peek() in ("+", "-"):
            sign = 1 if self.take() == "+" else -1
            v, p = self.product()
            if p != power:  # a bare number beside a length is in the field's unit
                unit = MM[self.unit]
                v, value, power = (v * unit if p == 0 else v), (value * unit if power == 0 else value), 1
            value += sign * v
        return value, power

    def product(self) -> tuple[float, int]:
        value, power = self.unit_after(*self.factor())
        while self.peek() in ("*", "/"):
            op = self.take()
            v, p = self.factor()
            if op == "/" and v == 0:
                raise self.fail("it divides by 0")
            if p and (power or op == "/"):
                raise self.fail("lengths can be added, but not multiplied or divided by each other")
            value = value * v if op == "*" else value / v
            # a unit belongs to the whole fraction before it: 3/4 in
            value, power = self.unit_after(value, power + p)
        return value, power

    def factor(self) -> tuple[float, int]:
        token = self.take()
        if token in ("-", "+"):
            v, p = self.factor()
            return (-v if token == "-" else v), p
        if token == "(":
            value = self.sum()
            if self.take() != ")":
                raise self.fail("a ) is missing")
            return value
        if not token or not (token[0].isdigit() or token[0] == "."):
            raise self.fail("it ends too early" if not token else f"{token!r} stands where a number should")
        number = float(token)
        # "1 3/4": a whole number followed by a fraction
        if self.i + 2 < len(self.tokens) and token.isdigit():
            a, slash, b = (*self.tokens[self.i : self.i + 3], "", "", "")[:3]
            if a.isdigit() and slash == "/" and b.isdigit() and int(b):
                self.i += 3
                number += int(a) / int(b)
        return number, 0

    def unit_after(self, value: float, power: int) -> tuple[float, int]:
        word = self.peek()
        if not word or not (word[0].isalpha() or word in "\"'"):
            return value, power
        self.take()
        unit = _WORDS.get(word.lower(), word.lower())
        if unit not in MM:
            raise self.fail(f"{word!r} is no unit of length here (mm, cm, m, in, ft, thou)")
        if power:
            raise self.fail(f"{word!r} is a second unit on one length")
        value *= MM[unit]
        if self.peek()[:1].isdigit():  # 5' 3": feet and inches side by side
            more, p = self.unit_after(*self.factor())
            if p != 1:
                raise self.fail("the unit of its last number is missing")
            value += more
        return value, 1


def parse_length(text: str, unit: str = "mm") -> float:
    """Millimetres of a length written by a person; bare numbers are in ``unit``.

    >>> parse_length("23/32", "in"), parse_length("3/4 in - 0.8 mm"), parse_length("1/8/2", "in")
    (18.25625, 18.25, 1.5875)
    >>> parse_length("1 1/2 in"), parse_length("5' 3\\"")
    (38.1, 1600.2)

    Raises:
        BadInput: naming what could not be read.
    """
    if unit not in MM:
        raise BadInput(f"unknown unit {unit!r}: use one of {', '.join(MM)}")
    if len(text) > LONGEST:
        raise BadInput(f"a length of {len(text)} characters is too long to read (limit {LONGEST})")
    if not text.strip():
        raise BadInput("the field is empty: type a length, such as 18 or 23/32 in")
    reader = _Reader(text, unit)
    try:
        value, power = reader.sum()
    except RecursionError:
        raise reader.fail("too many brackets") from None
    if reader.peek():
        raise reader.fail(f"{reader.peek()!r} is left over")
    mm = value * MM[unit] if power == 0 else value
    if not math.isfinite(mm) or abs(mm) > LARGEST:
        raise reader.fail(f"larger than {LARGEST:g} mm")
    return round(mm, 9)


def show_length(mm: float, unit: str = "mm", digits: int | None = None) -> str:
    """A length for people, in ``mm`` or ``in``.

    >>> show_length(17.6), show_length(19.05, "in")
    ('17.6 mm', '0.75 in')
    """
    value = mm / MM[unit]
    places = digits if digits is not None else (2 if unit == "mm" else 4)
    text = f"{value:.{places}f}".rstrip("0").rstrip(".") if places else f"{value:.0f}"
    return f"{'0' if text in ('-0', '') else text} {unit}"


def as_fraction(mm: float, denominator: int = 64) -> str:
    """Nearest inch fraction, e.g. ``23/32 in``.

    >>> as_fraction(18.25625)
    '23/32 in'
    """
    f = Fraction(round(mm / 25.4 * denominator), denominator)
    whole, rest = divmod(f, 1)
    text = f"{whole}" if not rest else (f"{whole} {rest}" if whole else f"{rest}")
    return f"{text} in"
