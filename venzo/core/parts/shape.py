"""The shape of a part in its own frame: lower left of its box at (0, 0), contours with stable names."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.tolerances import LIKE


@dataclass(frozen=True, eq=False)
class Shape:
    """Outline and holes of one part; ``names`` are their persistent contour ids, outline first."""

    region: Region
    names: tuple[str, ...]

    @staticmethod
    def of(region: Region, names: tuple[str, ...] | None = None) -> tuple[Shape, tuple[float, float]]:
        """A shape moved into its own frame, and the (x, y) in the drawing where its frame lies."""
        x, y = region.outline.bbox[:2]
        own = Region(region.outline.moved(-x, -y), tuple(h.moved(-x, -y) for h in region.holes))
        return Shape(own, names or ("outline", *(f"hole {k + 1}" for k in range(len(region.holes))))), (x, y)

    def scaled(self, k: float) -> Shape:
        """The same shape in another size, contour names kept."""
        return self if k == 1 else Shape(Region(self.region.outline.scaled(k), tuple(h.scaled(k) for h in self.region.holes)), self.names)

    @property
    def contours(self) -> Iterator[tuple[str, Contour]]:
        """(contour id, contour), outline first."""
        return zip(self.names, self.region.loops, strict=True)

    def contour(self, name: str) -> Contour | None:
        """The contour with this id, or None."""
        return next((c for n, c in self.contours if n == name), None)

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of the box, mm."""
        b = self.region.outline.bbox
        return b[2] - b[0], b[3] - b[1]

    @cached_property
    def polygon(self) -> Polygon:
        """The net shape as a shapely polygon, chords within 0.002 mm."""
        return self.region.polygon()

    def to_json(self) -> dict[str, Any]:
        """Vertex rows by contour id."""
        return {name: c.rows() for name, c in self.contours}

    @staticmethod
    def from_json(data: dict[str, Any]) -> Shape:
        """The inverse of ``to_json``."""
        names = tuple(data)
        loops = [Contour.of(rows) for rows in data.values()]
        return Shape(Region(loops[0], tuple(loops[1:])), names)

    @cached_property
    def digest(self) -> str:
        """Content digest: equal shapes with equal contour names have equal digests."""
        return hashlib.sha256(json.dumps(self.to_json(), separators=(",", ":")).encode()).hexdigest()[:32]


def _fits(a: Region, b: Region, turn: float, shift: tuple[float, float]) -> bool:
    """Do the contours of ``a``, turned (radians) and moved, lie on those of ``b`` within LIKE?"""
    moved = a.placed(*shift, math.degrees(turn))
    rest = list(b.holes)
    if not _same_loop(moved.outline, b.outline):
        return False
    for h in moved.holes:
        hit = next((k for k, o in enumerate(rest) if _same_loop(h, o)), None)
        if hit is None:
            return False
        rest.pop(hit)
    return not rest


def _same_loop(a: Contour, b: Contour) -> bool:
    if abs(a.length - b.length) > 4 * LIKE or max(abs(p - q) for p, q in zip(a.bbox, b.bbox, strict=True)) > 2 * LIKE:
        return False
    if len(a.vertices) == len(b.vertices) == 2 and (a.vertices[:, 2] == 1).all():  # circles: box says all
        return True
    probe = [a.at(s)[:2] for s in np.concatenate([a.starts[:-1], a.starts[:-1] + a.lengths / 2])]
    return all(b.nearest(*p)[1] <= LIKE for p in probe)


def _centroid(c: Contour) -> np.ndarray:
    p = Polygon(c.points(0.05))
    return np.array([p.centroid.x, p.centroid.y])


def alike(a: Region, b: Region) -> bool:
    """Is ``b`` a copy of ``a``, moved and turned but not mirrored, every point within LIKE (0.02 mm)?"""
    if len(a.holes) != len(b.holes) or abs(a.area - b.area) > LIKE * (a.perimeter + 1) or abs(a.perimeter - b.perimeter) > 0.5:
        return False
    ca, cb = _centroid(a.outline), _centroid(b.outline)
    # marks: points whose distance from the centroid tells the turn: vertices, hole centres, arc middles
    def marks(r: Region, c: np.ndarray) -> np.ndarray:
        pts = [r.outline.vertices[:, :2]] + [_centroid(h)[None, :] for h in r.holes]
        q = np.concatenate(pts) - c
        circle = len(r.outline.vertices) == 2
        return q[2:] if circle and len(q) > 2 else q

    ma, mb = marks(a, ca), marks(b, cb)
    ra, rb = np.hypot(*ma.T), np.hypot(*mb.T)
    k = int(np.argmax(ra))
    if ra[k] < LIKE:
        return _fits(a, b, 0.0, tuple(cb - ca))
    wa = math.atan2(ma[k, 1], ma[k, 0])
    turns = [0.0] + [math.atan2(mb[j, 1], mb[j, 0]) - wa for j in np.flatnonzero(np.abs(rb - ra[k]) < 5 * LIKE)[:64]]
    for w in turns:
        c, s = math.cos(w), math.sin(w)
        spun = np.array([c * ca[0] - s * ca[1], s * ca[0] + c * ca[1]])
        if _fits(a, b, w, tuple(cb - spun)):
            return True
    return False
