"""Operations as a person states them; a discriminated union that grows."""

from __future__ import annotations

from typing import Literal

from venzo.core.model import Id, NotNegative, Positive, Value
from venzo.core.rules.house import Tabs


class Profile(Value):
    """Cut contours through on their waste side. None means: by house rule."""

    kind: Literal["profile"] = "profile"
    id: Id
    on: Literal["outlines", "holes"]
    cutter: Id
    direction: Literal["climb", "conventional"] = "climb"
    step_down: Positive | None = None
    overshoot: NotNegative | None = None
    ramp_length: Positive | None = None
    tabs: Tabs | None = None
    """On holes None means no tabs: the drop falls free."""


Operation = Profile
"""Becomes a union, told apart by ``kind``, as kinds of operation arrive."""
