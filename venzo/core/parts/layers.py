"""What do the layers of a drawing mean? House rules by the words in their names; a person's word goes first."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Value
from venzo.core.parts.drawing import BROKEN_LINE

Role = Literal["cut", "pocket", "groove", "engrave", "drill", "leave out"]
ROLES: tuple[Role, ...] = ("cut", "pocket", "groove", "engrave", "drill", "leave out")
_DEPTH = re.compile(r"(\d+(?:[.,]\d+)?)\s*(mm|in)?\b", re.I)


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
    LayerRule(words=("engrave", "engraving", "engravings", "etch", "score", "mark", "marking", "text", "vcarve", "carve"), role="engrave"),
    LayerRule(words=("drill", "drilling", "bore", "pilot"), role="drill"),
)
"""Words met in shops everywhere (common practice); a shop changes the list in its house rules."""


def role_of(layer: str, rules: Sequence[LayerRule] = COMMON, chosen: Mapping[str, str] | None = None) -> tuple[Role, str]:
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


def depth_of(layer: str) -> float | None:
    """A depth that a layer's name gives, mm.

    >>> depth_of("pocket 6"), depth_of("GROOVE_5.5mm"), depth_of("groove 1/4"), depth_of("outline")
    (6.0, 5.5, None, None)
    """
    if "/" in layer or role_of(layer)[0] in ("cut", "leave out"):
        return None
    m = _DEPTH.search(layer.replace("_", " "))
    if not m:
        return None
    value = float(m.group(1).replace(",", ".")) * (25.4 if (m.group(2) or "").lower() == "in" else 1.0)
    return value if 0 < value < 200 else None
