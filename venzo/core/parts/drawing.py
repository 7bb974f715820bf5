"""A drawing as read: chains in the drawing's own units, and what came along with them."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from venzo.core.geometry.contour import Contour
from venzo.core.snags import Snag, look

LARGEST_FILE = 64 * 1024 * 1024
"""Bytes; a larger drawing is refused."""
MOST_ENTITIES = 400_000
FARTHEST = 1e7
"""Drawing units; coordinates further out are damage."""
BROKEN_LINE = " (broken lines)"
"""Ending of the layer name of what is drawn in centre, hidden or other broken lines: construction, by common
practice.
"""


@dataclass
class TextLine:
    """A line of text in a drawing; ``chains``: its outlines in drawing units, should they be wanted."""

    text: str
    layer: str
    chains: list[Contour]


@dataclass
class Drawing:
    """What a reader found.

    ``chains``: lines, arcs and polylines in drawing units, y up; their ``layer`` is the hint of what they
    mean. ``unit``: the header's unit or None. ``scale_mm``: mm per drawing unit where the file itself fixes
    it (SVG sizes), else None. ``colours``: by layer, as the file names them. ``ignored``: entity kinds that
    are not cut, with counts.
    """

    chains: list[Contour] = field(default_factory=list)
    texts: list[TextLine] = field(default_factory=list)
    colours: dict[str, str] = field(default_factory=dict)
    unit: str | None = None
    scale_mm: float | None = None
    unit_hint: str | None = None
    ignored: dict[str, int] = field(default_factory=dict)
    entities: int = 0
    snags: list[Snag] = field(default_factory=list)

    def drop_wild(self, name: str) -> None:
        """Leave out chains with fewer than two points or with coordinates that cannot be reckoned with, and
        say so.
        """
        self.chains = [c for c in self.chains if len(c.vertices) > 1]
        if not self.chains:
            return
        everything = np.concatenate([c.vertices for c in self.chains])
        with np.errstate(invalid="ignore"):
            if np.isfinite(everything).all() and np.abs(everything[:, :2]).max() <= FARTHEST:
                return
            fine = [
                c
                for c in self.chains
                if np.isfinite(c.vertices).all() and np.abs(c.vertices[:, :2]).max() <= FARTHEST
            ]
        n = len(self.chains) - len(fine)
        self.snags.append(
            look(
                "intake.unreadable",
                f"{name}: left out, {n} line{'s' * (n != 1)} with coordinates out of range",
            )
        )
        self.chains = fine
