"""What do the layers of a drawing mean? House rules by the words in their names; a person's word goes
first.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Value
from venzo.core.parts.drawing import BROKEN_LINE
from venzo.core.parts.shape import Face
from venzo.core.snags import BadInput
from venzo.core.units import parse_length, plain_signs

Role = Literal["cut", "pocket", "groove", "engrave", "drill", "leave out"]
ROLES: tuple[Role, ...] = ("cut", "pocket", "groove", "engrave", "drill", "leave out")
BACK = frozenset(("back", "backface", "backside", "rear", "underside"))
"""Words in a layer's name that put what is on it on the part's back (common practice)."""
DEEPEST = 200.0
"""mm; a larger number in a layer's name is no depth."""
_DEPTH = re.compile(
    r"(?<![\d.,/])(?P<mark>(?:\b[a-z])?)-?"
    r"(?P<number>\d+(?:-|\s+)\d+/\d+|\d+/\d+|\d+(?:[.,]\d+)?|[.,]\d+)"
    r"\s*(?P<unit>mm\b|cm\b|in\b|inch\b|\"|'')?(?![\d/])(?![.,]\d)",
    re.I,
)


class LayerRule(Value):
    """Layers whose name holds one of ``words`` (whole words, any case) mean ``role``."""

    words: Annotated[tuple[str, ...], Field(min_length=1, max_length=40)]
    role: Role


COMMON: tuple[LayerRule, ...] = (
    LayerRule(
        words=(
            "defpoints",
            "dim",
            "dims",
            "dimension",
            "dimensions",
            "construction",
            "constr",
            "centre",
            "center",
            "centerline",
            "axis",
            "hidden",
            "guide",
            "guides",
            "sketch",
            "note",
            "notes",
            "title",
            "titleblock",
            "border",
            "frame",
            "viewport",
            "hatch",
            "annotation",
        ),
        role="leave out",
    ),
    LayerRule(words=("pocket", "pockets", "recess", "rebate"), role="pocket"),
    LayerRule(words=("groove", "grooves", "dado", "housing"), role="groove"),
    LayerRule(
        words=(
            "engrave",
            "engraving",
            "engravings",
            "etch",
            "score",
            "mark",
            "marking",
            "text",
            "vcarve",
            "carve",
        ),
        role="engrave",
    ),
    LayerRule(words=("drill", "drilling", "bore", "pilot"), role="drill"),
)
"""Words met in shops everywhere (common practice); a shop changes the list in its house rules."""


def role_of(
    layer: str, rules: Sequence[LayerRule] = COMMON, chosen: Mapping[str, str] | None = None
) -> tuple[Role, str]:
    """What a layer means, and why.

    >>> role_of("POCKET_6mm"), role_of("Outline"), role_of("0 (broken lines)")[0]
    (('pocket', 'its name says pocket'), ('cut', 'nothing says otherwise'), 'leave out')
    """
    if chosen and chosen.get(layer) in ROLES:
        return chosen[layer], "said by hand"  # type: ignore[return-value]
    words = set(re.findall(r"[a-z]+", layer.removesuffix(BROKEN_LINE).lower()))
    for rule in rules:
        hit = words & {w.lower() for w in rule.words}
        if hit:
            return rule.role, f"its name says {sorted(hit)[0]}"
    if layer.endswith(BROKEN_LINE):
        return "leave out", "drawn in broken lines: construction"
    return "cut", "nothing says otherwise"


def face_of(layer: str, chosen: Mapping[str, Face] | None = None) -> Face:
    """Into which face of a part is cut what is drawn on a layer? It is drawn as seen through the part.

    >>> face_of("BACK pocket 6"), face_of("groove_back_4"), face_of("backplate pocket")
    ('back', 'back', 'front')
    """
    if chosen and layer in chosen:
        return chosen[layer]
    words = set(re.findall(r"[a-z]+", layer.removesuffix(BROKEN_LINE).lower()))
    return "back" if words & BACK else "front"


def depth_of(layer: str, unit: str = "mm") -> float | None:
    """A depth that a layer's name gives, mm; a bare number is in the drawing's ``unit``. None where it gives
    none, or several and no unit tells which.

    >>> depth_of("pocket 6"), depth_of("GROOVE_5.5mm"), depth_of("Z6 pocket"), depth_of("pocket T3")
    (6.0, 5.5, 6.0, None)
    >>> names = ["pocket .5", "POCKET 1/2", 'pocket 0.5"', "POCKET-1-1/8"]
    >>> tuple(depth_of(name, "in") for name in names)
    (12.7, 12.7, 12.7, 28.575)
    """
    bare = {"ft": "in", "m": "mm", "px": "mm"}.get(unit, unit)
    found = [
        m
        for m in _DEPTH.finditer(plain_signs(layer.removesuffix(BROKEN_LINE).replace("_", " ")))
        if m["mark"].lower() in ("", "z")
    ]
    told = [m for m in found if m["unit"]] or [m for m in found if m["mark"]] or found
    if len({m["number"] + (m["unit"] or "") for m in told}) != 1:
        return None
    number, own = told[0]["number"], told[0]["unit"]
    if "/" in number and not own and bare != "in":
        return None  # a fraction in a metric drawing: whoever wrote it meant inches, or a name
    try:
        value = parse_length(number + (own or ""), bare)
    except BadInput:
        return None
    return value if 0 < value < DEEPEST else None
