"""How the values of a reckoning are typed and shown, in both units: one table of quantities.

Values are kept in the core's own units: mm, mm/min, m/min for the cutting edge, degrees, N, kPa, kg, kg/m3,
minutes, kelvins.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from venzo.core.snags import BadInput
from venzo.core.units import parse_length, parse_number, show_length

Unit = Literal["mm", "in"]
Kind = Literal[
    "length",
    "area",
    "feed",
    "edge speed",
    "rpm",
    "number",
    "angle",
    "percent",
    "force",
    "strength",
    "pressure",
    "mass",
    "density",
    "board feet",
    "minutes",
    "temperature",
    "expansion",
    "choice",
]


@dataclass(frozen=True)
class Shown:
    """A unit: what a value in the core's unit is multiplied by, the digits that mean something, its name."""

    scale: float
    digits: int
    name: str


_SAME = {
    "rpm": Shown(1, 0, "rpm"),
    "number": Shown(1, 2, ""),
    "angle": Shown(1, 2, "°"),
    "percent": Shown(1, 1, "%"),
    "board feet": Shown(1, 2, "bd ft"),
    "minutes": Shown(1, 1, "min"),
}
UNITS: dict[str, tuple[Shown, Shown]] = {
    **{kind: (shown, shown) for kind, shown in _SAME.items()},
    "length": (Shown(1, 2, "mm"), Shown(1 / 25.4, 4, "in")),
    "area": (Shown(1e-2, 1, "cm²"), Shown(1 / 645.16, 2, "sq in")),
    "feed": (Shown(1e-3, 2, "m/min"), Shown(1 / 25.4, 1, "in/min")),
    "edge speed": (Shown(1, 0, "m/min"), Shown(1 / 0.3048, 0, "ft/min")),
    "force": (Shown(1, 0, "N"), Shown(1 / 4.4482216, 1, "lbf")),
    "strength": (Shown(1, 1, "N/mm²"), Shown(145.0377, 0, "psi")),
    "pressure": (Shown(1, 1, "kPa"), Shown(1 / 3.386389, 1, "inHg")),
    "mass": (Shown(1, 2, "kg"), Shown(1 / 0.45359237, 2, "lb")),
    "density": (Shown(1, 0, "kg/m³"), Shown(0.062427961, 1, "lb/cu ft")),
    "temperature": (Shown(1, 1, "°C"), Shown(1.8, 1, "°F")),
    "expansion": (Shown(1e6, 1, "µm/m per °C"), Shown(1e6 / 1.8, 1, "µin/in per °F")),
}
"""Metric and inch. 1 lbf = 4.4482216 N, 1 inHg = 3.386389 kPa, 1 lb = 0.45359237 kg (exact), 1 lb/cu ft =
16.018463 kg/m3 (NIST SP 811, from memory). A temperature is a difference of two.
"""
CORE = {
    "length": "mm",
    "area": "mm2",
    "feed": "mm/min",
    "expansion": "1/K",
    "choice": "one of its words",
    "number": "",
}
"""What the core's unit is called, where it is not the metric one above."""


def core_unit(kind: Kind) -> str:
    """The core's unit of a quantity.

    >>> core_unit("feed"), core_unit("pressure")
    ('mm/min', 'kPa')
    """
    return CORE[kind] if kind in CORE else UNITS[kind][0].name


_ALSO = {
    "feed": {"mm/min": 1.0, "m/min": 1000.0, "in/min": 25.4, "ipm": 25.4, "mm/s": 60.0},
    "edge speed": {"sfm": 0.3048, "m/s": 60.0},
    "area": {"mm²": 1.0, "mm2": 1.0, "cm2": 100.0, "m²": 1e6, "m2": 1e6, "in²": 645.16, "in2": 645.16},
    "pressure": {"mbar": 0.1, "bar": 100.0, "psi": 6.894757, "in hg": 3.386389},
    "mass": {"g": 0.001, "lbs": 0.45359237},
    "force": {"kn": 1000.0, "kgf": 9.80665, "lb": 4.4482216, "lbs": 4.4482216},
    "angle": {"deg": 1.0, "degrees": 1.0},
    "minutes": {"h": 60.0, "s": 1 / 60},
    "density": {"g/cm3": 1000.0, "g/cm³": 1000.0},
}
"""Further words that are read."""
_NUMBER_AND_WORD = re.compile(r"\s*([-+\d.,/\s()*]*\d[\d.,)\s]*)\s*([^\d\s].*)?$")


def read(text: str, kind: Kind, unit: Unit) -> float:
    """A value as people write it, in the core's unit; a bare number is in the screen's unit.

    >>> read("3/8", "length", "in"), read("600 in/min", "feed", "mm"), read("18 m/min", "feed", "in")
    (9.525, 15240.0, 18000.0)
    >>> read("18,000", "rpm", "mm"), read("20 inHg", "pressure", "mm")
    (18000.0, 67.72778)

    Raises:
        BadInput: naming what could not be read.
    """
    if kind == "length":
        return parse_length(text, unit)
    found = _NUMBER_AND_WORD.match(text[:200])
    if not text.strip():
        raise BadInput("the field is empty: type a number")
    if not found:
        raise BadInput(f"{text.strip()[:40]!r} is not a number")
    number, word = found.group(1).strip(), (found.group(2) or "").strip()
    value = parse_length(number) if re.search(r"[/*()]|\d\s+\d", number) else parse_number(number)
    return value * _scale(word, kind, unit, text)


def _scale(word: str, kind: str, unit: Unit, text: str) -> float:
    metric, inch = UNITS[kind]
    if not word:
        return 1 / (metric if unit == "mm" else inch).scale
    known = {s.name.lower(): 1 / s.scale for s in (metric, inch)} | _ALSO.get(kind, {})
    if word.lower() not in known:
        names = ", ".join(dict.fromkeys([metric.name, inch.name, *_ALSO.get(kind, {})])) or "no unit"
        raise BadInput(f"{word!r} in {text.strip()[:40]!r} is no unit of this ({names})")
    return known[word.lower()]


def show(value: float, kind: Kind, unit: Unit, more: int = 0) -> str:
    """A value with its unit, ``more`` digits beyond the usual.

    >>> show(15240, "feed", "in"), show(0.47625, "length", "mm", 2), show(90, "angle", "in")
    ('600 in/min', '0.4763 mm', '90°')
    """
    if kind == "length":
        return show_length(value, unit, 2 + more if unit == "mm" else 4 + max(0, more - 1))
    shown = UNITS[kind][0 if unit == "mm" else 1]
    digits = shown.digits + more
    text = f"{value * shown.scale:,.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    text = "0" if text == "-0" else text
    return f"{text}{shown.name}" if shown.name in ("°", "%") else f"{text} {shown.name}".strip()
