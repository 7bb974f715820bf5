"""Lengths as people write them: units, fractions and arithmetic, read into millimetres."""

from __future__ import annotations

import math
import re
import unicodedata
from fractions import Fraction

from venzo.core.snags import BadInput

MM: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8, "thou": 0.0254}
"""Millimetres in one of each unit; 1 in = 25.4 mm exactly."""

_WORDS = {
    '"': "in",
    "inch": "in",
    "inches": "in",
    "'": "ft",
    "foot": "ft",
    "feet": "ft",
    "mil": "thou",
    "thous": "thou",
}
_TOKEN = re.compile(r"\s*(?:(\d+\.?\d*(?:[eE][-+]?\d+)?|\.\d+)|([a-zA-Z]+|\"|')|([-+*/()]))")
_MIXED = re.compile(r"(\d+)(?:-|\s+)(\d+)\s*/\s*(\d+)(?![\d.])")
_FEET = re.compile(r"(\d\s*(?:'|ft|foot|feet))-(?=\d)", re.I)
_VULGAR = re.compile("[\u00bc-\u00be\u2150-\u215e]")
_TYPED = str.maketrans(
    {
        "\u00d7": "*",
        "\u2212": "-",
        "\u2010": "-",
        "\u2011": "-",
        "\u2013": "-",
        "\u2044": "/",
        "\u201d": '"',
        "\u201c": '"',
        "\u2033": '"',
        "\u2019": "'",
        "\u2018": "'",
        "\u2032": "'",
        "\u00a0": " ",
    }
)
"""Signs that keyboards and word processors put in, and what is meant."""
_GROUPED = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])")
LONGEST = 200
LARGEST = 1e6
MOST = 500
"""Lengths of one list."""


def plain_signs(text: str) -> str:
    """Fraction signs, dashes, quotes and crosses as keyboards have them.

    >>> plain_signs("1⅛″"), plain_signs("1-⅛")
    ('1 1/8"', '1-1/8')
    """
    spaced = re.sub(rf"(\d)\s*(?={_VULGAR.pattern})", r"\1 ", text)
    return _VULGAR.sub(lambda m: unicodedata.normalize("NFKC", m.group()), spaced).translate(_TYPED)


def _plain(text: str) -> str:
    """The text with plain signs, decimal commas as points."""
    out = plain_signs(text.strip().replace("''", '"'))
    grouped = _GROUPED.search(out)
    if grouped:
        n = grouped.group()
        raise BadInput(
            f"{n!r} in {text!r} can be {n.replace(',', '')} or {n.replace(',', '.', 1)}: write one of the two"
        )
    if re.search(r",\s|[;]|,$", out):
        raise BadInput(
            f"{text!r} holds more than one length (a comma followed by a space parts them), and one is asked"
            " for here"
        )
    return _FEET.sub(r"\1 ", re.sub(r",(?=\d)", ".", out))


def _tokens(text: str) -> list[str]:
    out: list[str] = []
    plain, i = _plain(text), 0
    while i < len(plain):
        while plain[i].isspace():
            i += 1
        mixed = _MIXED.match(plain, i) if not out or out[-1] != "/" else None
        m = mixed or _TOKEN.match(plain, i)
        if not m:
            raise BadInput(
                f"cannot read {plain[i:].strip()[:20]!r} in {text!r}: use numbers, fractions, + - * / ( ) and"
                " mm, cm, m, in, ft, thou"
            )
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
        mixed = _MIXED.fullmatch(token)
        if mixed:
            whole, above, below = (int(g) for g in mixed.groups())
            if not below or above >= below:
                raise self.fail(f"{above}/{below} after {whole} is no proper fraction")
            return whole + above / below, 0
        return float(token), 0

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

    A hyphen straight between a whole number and a fraction joins them, as shops write them; so does one
    between feet and inches. A minus has spaces round it, or stands before a number of its own. A comma
    without a space is a decimal point.

    >>> parse_length("23/32", "in"), parse_length("3/4 in - 0.8 mm"), parse_length("1/8/2", "in")
    (18.25625, 18.25, 1.5875)
    >>> parse_length("1 1/2 in"), parse_length("1-1/8", "in")
    (38.1, 28.575)
    >>> parse_length("2'-3 1/2\\""), parse_length("0,5", "in")
    (698.5, 12.7)

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


def parse_number(text: str) -> float:
    """A plain number as people write it: a comma is a decimal point, but thousands may be grouped.

    >>> parse_number("0,5"), parse_number("18,000"), parse_number("18 000")
    (0.5, 18000.0, 18000.0)

    Raises:
        BadInput: no number, or not a finite one.
    """
    plain = re.sub(r"\s", "", plain_signs(text))
    plain = (
        plain.replace(",", "")
        if re.fullmatch(r"[-+]?[1-9]\d{0,2}(,\d{3})+(\.\d+)?", plain)
        else plain.replace(",", ".", 1)
    )
    if not re.fullmatch(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d{1,3})?", plain) or not math.isfinite(
        float(plain)
    ):
        raise BadInput(f"{text.strip()[:40]!r} is not a number")
    return float(plain)


def parse_lengths(text: str, unit: str = "mm") -> list[float]:
    """Millimetres of several lengths, parted by a comma and a space, a semicolon, or spaces alone.

    >>> parse_lengths("15 1/2, 16", "in"), parse_lengths("17,6 17.7; 11/16 in")
    ([393.7, 406.4], [17.6, 17.7, 17.4625])

    Raises:
        BadInput: naming the one that could not be read, or more than MOST.
    """
    if len(text) > MOST * 8:
        raise BadInput(f"a list of {len(text):,} characters is too long to read (limit {MOST * 8:,})")
    out: list[float] = []
    for part in re.split(r",\s+|\s*[;\n]\s*", text.strip().rstrip(",;")):
        words = part.split()
        while words:
            taken, n = _first_length(words, unit)
            out.append(taken)
            words = words[n:]
    if len(out) > MOST:
        raise BadInput(f"{len(out)} lengths are over the limit of {MOST}")
    return out


def _first_length(words: list[str], unit: str) -> tuple[float, int]:
    """The length that the most of some words make up together, and how many those are: "1 1/8" is one."""
    for n in range(min(len(words), 8), 1, -1):
        try:
            return parse_length(" ".join(words[:n]), unit), n
        except BadInput:
            continue
    return parse_length(words[0], unit), 1


def parse_corners(text: str, unit: str = "mm") -> list[tuple[float, float]]:
    """Corners as X, Y pairs, one after the other: ``0, 0; 36 1/2, 0``, or close together as ``0,0 36.5,0``.

    >>> parse_corners("0, 0; 15 1/2, 16", "in"), parse_corners("0,0 900,0 900,300.5")
    ([(0.0, 0.0), (393.7, 406.4)], [(0.0, 0.0), (900.0, 0.0), (900.0, 300.5)])

    Raises:
        BadInput: naming the corner that is none.
    """
    close = not re.search(r"[;\n]|,\s", text)
    out = []
    for corner in text.split() if close else [c for c in re.split(r"\s*[;\n]\s*", text.strip()) if c]:
        two = (
            [parse_length(t, unit) for t in corner.split(",") if t] if close else parse_lengths(corner, unit)
        )
        if len(two) != 2:
            raise BadInput(
                f"{corner!r} is not a corner: write X, Y and part corners with a semicolon, as in 0, 0; 15"
                " 1/2, 16"
            )
        out.append((two[0], two[1]))
    return out


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
    """An inch fraction where the length is one within half a thousandth, else inches with decimals.

    >>> as_fraction(18.25625), as_fraction(17.6), as_fraction(1.016)
    ('23/32 in', '0.693 in', '0.04 in')
    """
    f = Fraction(round(mm / 25.4 * denominator), denominator)
    if abs(float(f) - mm / 25.4) > 0.0005:
        return f"{mm / 25.4:.3f}".rstrip("0").rstrip(".") + " in"
    whole, rest = divmod(f, 1)
    text = f"{whole}" if not rest else (f"{whole} {rest}" if whole else f"{rest}")
    return f"{text} in"
