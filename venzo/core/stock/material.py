"""A material: family, density, grain, price."""

from __future__ import annotations

from venzo.core.model import Family, Id, Name, NotNegative, Positive, Value


class Material(Value):
    """A sheet material; density in kg/m3, price per m2 in the shop's currency."""

    id: Id
    name: Name
    family: Family
    density: Positive
    grained: bool = False
    price_m2: NotNegative = 0.0
    caution: str = ""
