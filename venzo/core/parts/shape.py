"""The shape of a part in its own frame: lower left of its box at (0, 0), contours with stable names."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal

import numpy as np
from shapely.geometry import Polygon

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.regions import Region
from venzo.core.relief.surface_forms import Formed
from venzo.core.tolerances import LIKE

Face = Literal["front", "back"]
"""The face of a part that is drawn, and the one that is up when it is turned over."""
FEATURES = ("pocket", "groove", "engraving", "drilling", "relief")

OUTLINE = "outline"
"""What a part's outer contour is called, from the first reading on."""


@dataclass(frozen=True, eq=False)
class Feature:
    """Something cut into a part but not through its outline: kind (of FEATURES), persistent id, closed or
    open contour, depth in mm if known.

    A relief fills its contour's box with a ``surface`` (digest), whose highest point lies ``sits`` mm below
    the face and whose lowest at ``depth``; the middle of a tip may go ``margin`` mm beyond its contour. One
    made here says by ``formed`` what of.

    ``face``: into which face it is cut; its contour lies in the part's frame either way, as if seen through
    the part from the front.
    """

    kind: str
    name: str
    contour: Contour
    depth: float | None = None
    surface: str = ""
    sits: float = 0.0
    margin: float = 0.0
    formed: Formed | None = None
    face: Face = "front"

    def changed(self, make: Callable[[Contour], Contour]) -> Feature:
        """The same feature with another contour."""
        return replace(self, contour=make(self.contour))


@dataclass(frozen=True, eq=False)
class Shape:
    """Outline, holes and features of one part; ``names`` are the persistent contour ids, outline first,
    features not among them.
    """

    region: Region
    names: tuple[str, ...]
    features: tuple[Feature, ...] = ()

    @staticmethod
    def of(
        region: Region, names: tuple[str, ...] | None = None, features: Sequence[Feature] = ()
    ) -> tuple[Shape, tuple[float, float]]:
        """A shape moved into its own frame, and the (x, y) in the drawing where its frame lies."""
        x, y = region.outline.bbox[:2]
        own = Region(region.outline.moved(-x, -y), tuple(h.moved(-x, -y) for h in region.holes))
        return Shape(
            own, names or default_names(region), tuple(f.changed(lambda c: c.moved(-x, -y)) for f in features)
        ), (x, y)

    def scaled(self, k: float) -> Shape:
        """The same shape in another size, contour names kept."""
        if k == 1:
            return self
        return Shape(
            Region(self.region.outline.scaled(k), tuple(h.scaled(k) for h in self.region.holes)),
            self.names,
            tuple(f.changed(lambda c: c.scaled(k)) for f in self.features),
        )

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

    def right(self, rotation: float, mirrored: bool) -> float:
        """Largest x (mm) of the outline turned about its origin; remembered, since many pieces lie alike."""
        kept = self._rights
        if (rotation, mirrored) not in kept:
            if len(kept) > 2000:
                kept.clear()
            kept[rotation, mirrored] = self.region.outline.placed(0, 0, rotation, mirrored).bbox[2]
        return kept[rotation, mirrored]

    @cached_property
    def _rights(self) -> dict[tuple[float, bool], float]:
        return {}

    def on(self, face: Face) -> Shape:
        """The part with what is cut into one of its faces only; itself where that is all."""
        return self._by_face[face]

    @cached_property
    def _by_face(self) -> dict[Face, Shape]:
        out: dict[Face, Shape] = {}
        for face in ("front", "back"):
            mine = tuple(f for f in self.features if f.face == face)
            out[face] = self if len(mine) == len(self.features) else replace(self, features=mine)
        return out

    @cached_property
    def polygon(self) -> Polygon:
        """The net shape as a shapely polygon, chords within 0.002 mm."""
        return self.region.polygon()

    def to_json(self) -> dict[str, Any]:
        """Vertex rows by contour id; a feature is a dictionary."""
        return {
            **{name: c.rows() for name, c in self.contours},
            **{
                f.name: {
                    "kind": f.kind,
                    "rows": f.contour.rows(),
                    "closed": f.contour.closed,
                    "depth": f.depth,
                    **({"surface": f.surface, "sits": f.sits, "margin": f.margin} if f.surface else {}),
                    **({"formed": f.formed.model_dump(mode="json")} if f.formed else {}),
                    **({"face": f.face} if f.face != "front" else {}),
                }
                for f in self.features
            },
        }

    @staticmethod
    def from_json(data: dict[str, Any]) -> Shape:
        """The inverse of ``to_json``."""
        names = tuple(k for k, v in data.items() if not isinstance(v, dict))
        loops = [Contour.of(data[k]) for k in names]
        features = tuple(
            Feature(
                v["kind"],
                k,
                Contour.of(v["rows"], v["closed"]),
                v["depth"],
                v.get("surface", ""),
                v.get("sits", 0.0),
                v.get("margin", 0.0),
                Formed.model_validate(v["formed"]) if "formed" in v else None,
                v.get("face", "front"),
            )
            for k, v in data.items()
            if isinstance(v, dict)
        )
        return Shape(Region(loops[0], tuple(loops[1:])), names, features)

    @cached_property
    def digest(self) -> str:
        """Content digest: equal shapes with equal contour names have equal digests."""
        return hashlib.sha256(json.dumps(self.to_json(), separators=(",", ":")).encode()).hexdigest()[:32]


def default_names(region: Region) -> tuple[str, ...]:
    """Contour ids of a region seen for the first time."""
    return (OUTLINE, *(f"hole {k + 1}" for k in range(len(region.holes))))


def _fits(
    a: Region,
    b: Region,
    turn: float,
    shift: tuple[float, float],
    fa: Sequence[Feature] = (),
    fb: Sequence[Feature] = (),
) -> bool:
    """Do the contours and features of ``a``, turned (radians) and moved, lie on those of ``b`` within
    LIKE?
    """
    moved = (
        a.placed(*shift, math.degrees(turn))
        if turn
        else Region(a.outline.moved(*shift), tuple(h.moved(*shift) for h in a.holes))
    )
    rest = list(b.holes)
    if not _same_loop(moved.outline, b.outline):
        return False
    for h in moved.holes:
        hit = next((k for k, o in enumerate(rest) if _same_loop(h, o)), None)
        if hit is None:
            return False
        rest.pop(hit)
    left = list(fb)
    for f in fa:
        c = f.contour.placed(*shift, math.degrees(turn))
        match = next(
            (
                k
                for k, g in enumerate(left)
                if g.kind == f.kind
                and (g.depth, g.surface, g.sits, g.margin, g.face)
                == (f.depth, f.surface, f.sits, f.margin, f.face)
                and g.contour.closed == c.closed
                and _same_loop(c, g.contour)
            ),
            None,
        )
        if match is None:
            return False
        left.pop(match)
    return not rest and not left


def _same_loop(a: Contour, b: Contour) -> bool:
    if (
        abs(a.length - b.length) > 4 * LIKE
        or max(abs(p - q) for p, q in zip(a.bbox, b.bbox, strict=True)) > 2 * LIKE
    ):
        return False
    n = len(a.vertices)
    if n == len(b.vertices) == 2 and (a.vertices[:, 2] == 1).all():  # circles: box says all
        return True
    if n == len(b.vertices) and a.closed and b.closed:  # the same vertices in the same order from some start
        d = b.vertices[:, :2] - a.vertices[0, :2]
        for k in np.flatnonzero(d[:, 0] ** 2 + d[:, 1] ** 2 <= LIKE * LIKE):
            turned = np.roll(b.vertices, -int(k), axis=0) if k else b.vertices
            chord = np.hypot(*(np.roll(turned[:, :2], -1, axis=0) - turned[:, :2]).T)
            if (np.hypot(*(turned[:, :2] - a.vertices[:, :2]).T) <= LIKE).all() and (
                np.abs(turned[:, 2] - a.vertices[:, 2]) * chord / 2 <= LIKE
            ).all():
                return True
    probe = [a.at(s)[:2] for s in np.concatenate([a.starts[:-1], a.starts[:-1] + a.lengths / 2])]
    return all(b.nearest(*p)[1] <= LIKE for p in probe)


def _centroid(c: Contour) -> np.ndarray:
    """Centroid of the loop's area, arcs as chords that turn with it."""
    p = c.points(0.05)
    q, shift = p - p[0], p[0]
    n = np.roll(q, -1, axis=0)
    cross = q[:, 0] * n[:, 1] - q[:, 1] * n[:, 0]
    total = cross.sum()
    return (
        shift + ((q + n) * cross[:, None]).sum(axis=0) / (3 * total) if abs(total) > 1e-12 else p.mean(axis=0)
    )


def alike(a: Region, b: Region, fa: Sequence[Feature] = (), fb: Sequence[Feature] = ()) -> bool:
    """Is ``b`` with its features a copy of ``a``, moved and turned but not mirrored, every point within LIKE
    (0.02 mm)?
    """
    if (
        len(a.holes) != len(b.holes)
        or len(fa) != len(fb)
        or abs(a.area - b.area) > LIKE * (a.perimeter + 1)
        or abs(a.perimeter - b.perimeter) > 0.5
    ):
        return False
    ax, ay, bx, by = *a.outline.bbox[:2], *b.outline.bbox[:2]
    if (
        not a.holes and not fa and a.outline.vertices.shape == b.outline.vertices.shape
    ):  # the quickest look: drawn the same way and only moved
        off = b.outline.vertices - a.outline.vertices
        off[:, :2] -= (bx - ax, by - ay)
        if np.abs(off).max() < 1e-6:
            return True
    if len(a.outline.vertices) == len(b.outline.vertices) and _fits(
        a, b, 0.0, (bx - ax, by - ay), fa, fb
    ):  # nearly always copies are only moved
        return True
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
        return _fits(a, b, 0.0, tuple(cb - ca), fa, fb)
    wa = math.atan2(ma[k, 1], ma[k, 0])
    turns = [0.0] + [
        math.atan2(mb[j, 1], mb[j, 0]) - wa for j in np.flatnonzero(np.abs(rb - ra[k]) < 5 * LIKE)[:64]
    ]
    for w in turns:
        c, s = math.cos(w), math.sin(w)
        spun = np.array([c * ca[0] - s * ca[1], s * ca[0] + c * ca[1]])
        if _fits(a, b, w, tuple(cb - spun), fa, fb):
            return True
    return False
