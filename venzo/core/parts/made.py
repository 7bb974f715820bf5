"""Parts made here: shapes drawn again and again in the trade, from a few named dimensions."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Annotated, ClassVar, Literal, Protocol

from pydantic import Field

from venzo.core.geometry.contour import Contour
from venzo.core.geometry.offset import offset, offset_points
from venzo.core.geometry.regions import Region, regions
from venzo.core.model import NotNegative, Positive, Value
from venzo.core.parts.alter import Relief, alter
from venzo.core.parts.corners import ReliefStyle, corners, fillets, rounded
from venzo.core.parts.joints import EdgeJoint, mortise
from venzo.core.parts.lettering import Align, SetLetter, set_in_box, set_lines
from venzo.core.parts.shape import Feature, Shape
from venzo.core.snags import BadInput
from venzo.core.tolerances import CHORD

Count = Annotated[int, Field(ge=1, le=500)]
Length = Annotated[float, Field(gt=0, le=20_000)]


@dataclass
class MadePart:
    """One part of a recipe, with how many it makes."""

    name: str
    shape: Shape
    quantity: int = 1
    parent: tuple[Contour, ...] = ()
    """Contours of what it was taken from, in its own frame."""


@dataclass(frozen=True)
class Offer:
    """A change of a recipe that mends what was said of it."""

    label: str
    fields: Mapping[str, float]


class Outlines(Protocol):
    """A font, as far as letters to be cut need one."""

    def outlines(self, text: str, cap_height: float) -> tuple[list[Contour], float, list[str]]:
        """Closed contours, advance in mm, letters that are missing."""
        ...

    def letters(self, text: str, cap_height: float) -> tuple[Sequence[SetLetter], float, list[str]]:
        """Letters one by one, advance in mm, letters that are missing."""
        ...


@dataclass(frozen=True)
class Sources:
    """What recipes draw from: shapes by digest and fonts by name."""

    shape: Callable[[str], Shape]
    font: Callable[[str], Outlines]


@dataclass
class Made:
    """What a recipe draws: parts, dimensions to show as (name, value in mm, from, to) on the first part, and
    what is to be said.
    """

    parts: list[MadePart]
    dimensions: list[tuple[str, float, tuple[float, float], tuple[float, float]]] = field(
        default_factory=list
    )
    notes: list[str] = field(default_factory=list)
    offers: list[Offer] = field(default_factory=list)


def _part(
    name: str,
    outline: Contour,
    holes: Sequence[Contour] = (),
    quantity: int = 1,
    features: Sequence[Feature] = (),
) -> MadePart:
    region = Region(outline.oriented(True), tuple(h.oriented(False) for h in holes))
    shape, _at = Shape.of(region, features=list(features))
    return MadePart(name, shape, quantity)


def _rectangle(w: float, h: float, x: float = 0.0, y: float = 0.0) -> Contour:
    return Contour.of([(x, y), (x + w, y), (x + w, y + h), (x, y + h)])


def _slot(x: float, y: float, length: float, width: float) -> Contour:
    """A slot with round ends along X about (x, y)."""
    r, a = width / 2, (length - width) / 2
    return Contour.of([(x - a, y - r, 0), (x + a, y - r, 1), (x + a, y + r, 0), (x - a, y + r, 1)])


class Panel(Value):
    """A panel with square, rounded, clipped or notched corners."""

    kind: Literal["panel"] = "panel"
    width: Length = 600
    height: Length = 400
    corner: Literal["square", "rounded", "clipped", "notched"] = "rounded"
    size: NotNegative = 30

    def make(self, _sources: Sources) -> Made:
        """Draw it."""
        w, h, s = self.width, self.height, self.size if self.corner != "square" else 0.0
        if 2 * s >= min(w, h) - 1e-9 and s:
            raise BadInput(
                f"corners of {s:g} mm do not fit a panel of {w:g} x {h:g} mm; at most {min(w, h) / 2:g}"
            )
        c = _rectangle(w, h)
        if s and self.corner == "rounded":
            for i in (3, 2, 1, 0):
                c = rounded(c, i, s) or c
        elif s and self.corner == "clipped":
            c = Contour.of([(s, 0), (w - s, 0), (w, s), (w, h - s), (w - s, h), (s, h), (0, h - s), (0, s)])
        elif s:
            c = Contour.of(
                [
                    (s, 0),
                    (w - s, 0),
                    (w - s, s),
                    (w, s),
                    (w, h - s),
                    (w - s, h - s),
                    (w - s, h),
                    (s, h),
                    (s, h - s),
                    (0, h - s),
                    (0, s),
                    (s, s),
                ]
            )
        notes = (
            [
                "notched corners are inside corners: a round cutter leaves its radius there; add a relief if"
                " something square sits in them"
            ]
            if self.corner == "notched" and s
            else []
        )
        return Made(
            [_part("panel", c)],
            [
                ("width", w, (0, 0), (w, 0)),
                ("height", h, (w, 0), (w, h)),
                *([("corner", s, (0, h), (s, h))] if s else []),
            ],
            notes,
        )


class Ring(Value):
    """A ring, or a disc where the inner diameter is 0, with holes on a circle if wanted."""

    kind: Literal["ring"] = "ring"
    outer: Length = 300
    inner: NotNegative = 220
    holes: Annotated[int, Field(ge=0, le=500)] = 0
    hole: Positive = 6
    circle: NotNegative = 0
    """Diameter of the circle the holes lie on; 0: half way between inner and outer."""

    def make(self, _sources: Sources) -> Made:
        """Draw it."""
        if self.inner >= self.outer:
            raise BadInput(
                f"the inner diameter of {self.inner:g} mm is not smaller than the outer of {self.outer:g} mm"
            )
        r = self.outer / 2
        pitch = (
            self.circle or (self.outer + self.inner) / 2 if self.inner or self.circle else self.outer * 0.7
        )
        inside = [Contour.circle(r, r, self.inner / 2)] if self.inner else []
        if self.holes and (pitch / 2 + self.hole / 2 >= r or pitch / 2 - self.hole / 2 <= self.inner / 2):
            raise BadInput(
                f"holes of {self.hole:g} mm on a circle of {pitch:g} mm do not stay inside the ring"
            )
        if self.holes and 2 * math.sin(math.pi / self.holes) * pitch / 2 <= self.hole and self.holes > 1:
            raise BadInput(
                f"{self.holes} holes of {self.hole:g} mm on a circle of {pitch:g} mm run into each other"
            )
        inside += [
            Contour.circle(
                r + pitch / 2 * math.cos(2 * math.pi * k / self.holes),
                r + pitch / 2 * math.sin(2 * math.pi * k / self.holes),
                self.hole / 2,
            )
            for k in range(self.holes)
        ]
        dims = [("outer", self.outer, (0.0, r), (self.outer, r))] + (
            [("inner", self.inner, (r, r - self.inner / 2), (r, r + self.inner / 2))] if self.inner else []
        )
        return Made([_part("ring" if self.inner else "disc", Contour.circle(r, r, r), inside)], dims)


class Strip(Value):
    """A strip with a row of holes or slots."""

    kind: Literal["strip"] = "strip"
    length: Length = 600
    width: Length = 50
    ends: Literal["square", "round"] = "square"
    openings: Annotated[int, Field(ge=0, le=500)] = 5
    opening: Literal["holes", "slots"] = "holes"
    across: Positive = 8
    """Diameter of a hole, width of a slot."""
    along: Positive = 30
    """Length of a slot."""
    edge: Positive = 40
    """From the strip's end to the middle of the first opening."""

    def make(self, _sources: Sources) -> Made:
        """Draw it."""
        w, b = self.length, self.width
        if self.ends == "round" and w <= b:
            raise BadInput(f"a strip with round ends must be longer ({w:g} mm) than wide ({b:g} mm)")
        c = _rectangle(w, b) if self.ends == "square" else _slot(w / 2, b / 2, w, b)
        n, size = self.openings, self.along if self.opening == "slots" else self.across
        step = (w - 2 * self.edge) / (n - 1) if n > 1 else 0.0
        if n and (
            self.across >= b - 1
            or self.edge - size / 2 < 0.5
            or (n > 1 and step < size + 0.5)
            or (self.opening == "slots" and self.along < self.across)
        ):
            raise BadInput(
                f"{n} {self.opening} of {size:g} x {self.across:g} mm do not fit a strip of {w:g} x {b:g} mm,"
                f" {self.edge:g} mm from its ends"
            )
        xs = [self.edge + k * step for k in range(n)] if n > 1 else [w / 2] * n
        inside = [
            (
                Contour.circle(x, b / 2, self.across / 2)
                if self.opening == "holes"
                else _slot(x, b / 2, self.along, self.across)
            )
            for x in xs
        ]
        dims = [("length", w, (0.0, 0.0), (w, 0.0)), ("width", b, (w, 0.0), (w, b))] + (
            [("pitch", step, (xs[0], b / 2), (xs[1], b / 2))] if n > 1 else []
        )
        return Made([_part("strip", c, inside)], dims)


class Inset(Value):
    """The outline of a part moved inwards (negative) or outwards as a new part, or as a groove on the part
    itself (inwards).
    """

    kind: Literal["inset"] = "inset"
    source: str
    """Digest of the shape it is taken from."""
    distance: Annotated[float, Field(ge=-5000, le=5000)] = -10
    corners: Literal["round", "sharp"] = "round"
    round_to: NotNegative = 0
    """Radius that sharp outside corners get afterwards, mm; an inset sharpens every corner rounder than the
    inset is deep.
    """
    holes: bool = False

    def make(self, sources: Sources) -> Made:
        """Draw it."""
        source = sources.shape(self.source)
        if self.distance == 0:
            raise BadInput("a distance of 0 gives the same outline; type how far in (negative) or out")
        loops = source.region.loops if self.holes else [source.region.outline]
        if self.corners == "round":
            found = regions([r.contour for r in offset(loops, self.distance)])
        else:
            found = regions(
                [
                    Contour.of(p)
                    for p in offset_points([c.points(CHORD) for c in loops], self.distance, round_joins=False)
                ]
            )
        if not found:
            raise BadInput(
                f"nothing is left {-self.distance:g} mm inside this outline; its narrowest place is smaller"
                " than twice that"
            )
        notes: list[str] = []
        parts = []
        for k, r in enumerate(found):
            c = r.outline.simplified(1e-3)
            sharp = [q for q in corners(c, False) if not q.inside]
            if self.round_to:
                for q in sorted(sharp, key=lambda q: -q.index):
                    c = rounded(c, q.index, self.round_to) or c
            elif self.distance < 0 and sharp and any(s.bulge > 0 for s in source.region.outline.segments()):
                notes.append(
                    f"{len(sharp)} outside corners are sharp now: the inset is deeper than they were round."
                    " Give a radius to round them again"
                )
            made = _part(
                f"{'inset' if self.distance < 0 else 'outset'}{f' {k + 1}' if len(found) > 1 else ''}",
                c,
                list(r.holes),
            )
            x, y = c.bbox[:2]
            made.parent = tuple(loop.moved(-x, -y) for loop in source.region.loops)
            parts.append(made)
        if len(found) > 1:
            notes.append(f"the inset falls apart into {len(found)} pieces")
        b = source.region.outline.bbox
        offers = [] if self.round_to or not notes else _back(source.region.outline)
        return Made(
            parts,
            [("distance", abs(self.distance), (b[0], b[1]), (b[0] - self.distance, b[1]))],
            notes,
            offers,
        )


def _back(outline: Contour) -> list[Offer]:
    """The radii that an inset swallowed, to be given back: those of the outline's outside corners."""
    radii = {round(f.radius, 3) for f in fillets(outline, False) if not f.inside}
    return [Offer(f"Give the corners {r:g} mm back", {"round_to": r}) for r in sorted(radii)[:4]]


class BoxSet(Value):
    """Four sides of a box with finger or dovetail joints: both boards as parts that mate.

    ``front``, ``side``: measured thicknesses of the boards. Outside sizes. ``count``: fingers or tails of a
    front at each end.
    """

    kind: Literal["box"] = "box"
    length: Length = 400
    width: Length = 280
    height: Length = 140
    joint: Literal["fingers", "dovetails"] = "fingers"
    front: Annotated[float, Field(gt=0.5, le=100)] = 12
    side: Annotated[float, Field(gt=0.5, le=100)] = 12
    count: Annotated[int, Field(ge=1, le=60)] = 3
    angle: Annotated[float, Field(ge=2, le=30)] = 10
    clearance: Annotated[float, Field(ge=0, le=3)] = 0.15
    relief: Literal["none"] | ReliefStyle = "dog-bone"
    cutter: Positive = 6
    """Diameter of the cutter that cuts the joint, mm."""
    allowance: Annotated[float, Field(ge=0, le=1)] = 0.05
    groove: NotNegative = 0
    """Depth of a groove for a bottom, 0 for none; it is as wide as ``bottom``."""
    bottom: Positive = 6

    boards: ClassVar[dict[str, str]] = {"front and back": "front", "side": "side"}
    """Its parts in order, each with the field that has its thickness."""

    def _bottom(self) -> list[str]:
        """What is to be said of the bottom and its groove."""
        if not self.groove:
            return []
        long = self.length - 2 * self.side + 2 * self.groove
        wide = self.width - 2 * self.front + 2 * self.groove
        out = [
            f"The bottom is {long:.1f} x {wide:.1f} mm and {self.bottom:g} mm thick, less the play it is to"
            f" have; its corners are rounded to {self.cutter / 2:g} mm, as the groove's ends are. Boards lie"
            " inner face up."
        ]
        if self.joint == "dovetails":
            out.append(
                "The sides lie outer face up for their lines: their groove is on the other face and is not"
                " cut here; turn them over for it, or take it on the saw."
            )
        return out

    def edge_joint(self) -> EdgeJoint:
        """The joint at each corner: A is a front (tails), B a side (pins)."""
        j = EdgeJoint(
            self.height,
            self.side,
            self.front,
            self.count,
            math.tan(math.radians(self.angle)) if self.joint == "dovetails" else 0.0,
            self.clearance,
        )
        j.check()
        return j

    def make(self, _sources: Sources) -> Made:
        """Draw it."""
        j = self.edge_joint()
        h = self.height
        if self.length <= 2 * self.side + 5 or self.width <= 2 * self.front + 5:
            raise BadInput(
                f"a box of {self.length:g} x {self.width:g} mm is too small for boards {self.front:g} and"
                f" {self.side:g} mm thick"
            )
        if self.groove and self.groove > min(self.front, self.side) - 2:
            raise BadInput(
                f"a groove {self.groove:g} mm deep leaves less than 2 mm of boards {self.front:g} and"
                f" {self.side:g} mm thick"
            )
        if self.groove and FOOT + self.bottom > h - 2:
            raise BadInput(
                f"a groove {self.bottom:g} mm wide, {FOOT:g} mm from the edge, does not fit a side {h:g} mm"
                " high"
            )
        parts = []
        for name, board, long, mate in (
            ("front and back", "A", self.length, self.side),
            ("side", "B", self.width, self.front),
        ):
            right = [(long - mate + out, y) for y, out in j.profile(board)]
            left = [(mate - out, y) for y, out in reversed(j.profile(board))]
            c = Contour.of([*right, *left]).oriented(True).simplified(1e-6)
            features: list[Feature] = []
            if self.groove and not (board == "B" and j.slope):
                # it ends within the corner, where the bottom does: it shows at no end
                begins = mate - self.groove
                features.append(
                    Feature(
                        "groove",
                        "groove 1",
                        _rectangle(long - 2 * begins, self.bottom, begins, FOOT),
                        self.groove,
                    )
                )
            if board == "B":
                n = 1
                for near, far, _sign in j.slope_lines():
                    for x0, x1 in ((0.0, mate), (long - mate, long)):
                        features.append(
                            Feature(
                                "engraving", f"engraving {n}", Contour.of([(x0, far), (x1, far)], False), 0.2
                            )
                        )
                        n += 1
                    del near
            shape, _at = Shape.of(Region(c, ()), features=features)
            if self.relief != "none":
                shape, _lost, _gone = alter(
                    shape, [Relief(style=self.relief, radius=self.cutter / 2 + self.allowance, under=135)]
                )
            parts.append(MadePart(name, shape, 2))
        narrow = min(b - a for d in (0.0, 1.0) for board in "AB" for a, b in _gaps(j, board, d))
        notes = []
        if narrow < self.cutter + 2 * self.allowance:
            notes.append(
                f"the narrowest gap between {'tails' if j.slope else 'fingers'} is {narrow:.2f} mm: a"
                f" {self.cutter:g} mm cutter does not enter; choose a thinner one or fewer"
            )
        notes += self._bottom()
        if self.joint == "dovetails":
            notes.append(
                "The sides' pins slope through the thickness, which a straight cutter cannot cut in a flat"
                " board. Lay the sides outer face up: they are cut through at the sockets' narrow width, and"
                " the engraved lines show the wide one. Bring the walls to the line with a tapered cutter of"
                f" {self.angle:g} degrees a side, or pare them by hand."
            )
        dims = [
            ("length", self.length, (0.0, 0.0), (self.length, 0.0)),
            ("height", h, (self.length, 0.0), (self.length, h)),
            ("depth", self.side, (0.0, h), (self.side, h)),
        ]
        return Made(parts, dims, notes)


FOOT = 8.0
"""mm between a box's lower edge and its bottom's groove."""


def _gaps(j: EdgeJoint, board: str, depth: float) -> list[tuple[float, float]]:
    s = j.solid(board, depth)
    stops = [0.0] + [v for i in s for v in i] + [j.edge]
    return [(a, b) for a, b in zip(stops[0::2], stops[1::2], strict=True) if b - a > 1e-6]


class MortiseTenon(Value):
    """A rail with a through tenon and the board with its mortise, square or leaning.

    ``rail``, ``board``: measured thicknesses. ``lean``: angle between the rail and the board's face.
    ``leans``: in the plane of the tenon's width, or across it.
    """

    kind: Literal["mortise"] = "mortise"
    rail_length: Length = 500
    rail_width: Length = 80
    rail: Annotated[float, Field(gt=0.5, le=100)] = 18
    tenon: Length = 50
    board_length: Length = 300
    board_width: Length = 160
    board: Annotated[float, Field(gt=0.5, le=100)] = 18
    lean: Annotated[float, Field(ge=20, le=90)] = 90
    leans: Literal["along", "across"] = "along"
    proud: NotNegative = 0
    clearance: Annotated[float, Field(ge=0, le=3)] = 0.15
    relief: Literal["none"] | ReliefStyle = "dog-bone"
    cutter: Positive = 6
    allowance: Annotated[float, Field(ge=0, le=1)] = 0.05
    boards: ClassVar[dict[str, str]] = {"rail": "rail", "mortised board": "board"}
    """Its parts in order, each with the field that has its thickness."""

    def make(self, _sources: Sources) -> Made:
        """Draw it."""
        if self.tenon > self.rail_width:
            raise BadInput(f"the tenon ({self.tenon:g} mm) is wider than its rail ({self.rail_width:g} mm)")
        w = math.radians(self.lean)
        long, wide = mortise(
            self.rail, self.tenon, self.board, self.clearance, self.lean, self.leans == "along"
        )
        if long > self.board_length - 10 or wide > self.board_width - 10:
            raise BadInput(
                f"the mortise of {long:.1f} x {wide:.1f} mm does not fit a board of {self.board_length:g} x"
                f" {self.board_width:g} mm"
            )
        # along: the shoulder leans in the rail's face; the tenon runs on along the rail's axis
        cot = 1 / math.tan(w) if self.lean < 90 and self.leans == "along" else 0.0
        reach = self.board / math.sin(w) + self.proud
        n, t, m = self.rail_width, self.tenon, (self.rail_width - self.tenon) / 2

        def shoulder(y: float) -> float:
            return self.rail_length + y * cot

        pts = [
            (0.0, 0.0),
            (shoulder(0), 0.0),
            (shoulder(m), m),
            (shoulder(m) + reach, m),
            (shoulder(m + t) + reach, m + t),
            (shoulder(m + t), m + t),
            (shoulder(n), n),
            (0.0, n),
        ]
        clean = [p for i, p in enumerate(pts) if i == 0 or math.dist(p, pts[i - 1]) > 1e-9]
        slot = _rectangle(long, wide, (self.board_length - long) / 2, (self.board_width - wide) / 2)
        parts = [
            _part("rail", Contour.of(clean)),
            _part("mortised board", _rectangle(self.board_length, self.board_width), [slot]),
        ]
        if self.relief != "none":
            relief = Relief(style=self.relief, radius=self.cutter / 2 + self.allowance, under=135)
            for p in parts:
                p.shape = alter(p.shape, [relief])[0]
        notes = []
        if self.lean < 90:
            extra = self.board / math.tan(w)
            notes.append(
                f"The mortise has upright walls: it is {extra:.2f} mm longer than the leaning tenon covers on"
                " any one level. The two wedges that stay open are filled, or the walls are pared to"
                f" {self.lean:g} degrees."
            )
            across = wide if self.leans == "along" else long
            notes.append(
                f"Wedges: two, {90 - self.lean:g} degrees, {self.board:g} mm long, {extra:.2f} mm at the"
                f" thick end, {across:.2f} mm wide, {extra * self.board * across / 2000:.2f} cm3 each."
            )
            if self.leans == "across":
                notes.append(
                    "The rail leans across its thickness: its shoulder is square in the drawing and is"
                    " bevelled by hand or on a saw."
                )
        if wide < self.cutter + 2 * self.allowance:
            notes.append(f"the mortise is {wide:.2f} mm wide: a {self.cutter:g} mm cutter does not enter it")
        tip = shoulder(m) + reach
        dims = [
            ("rail", self.rail_length, (0.0, 0.0), (self.rail_length, 0.0)),
            ("tenon", t, (tip, m), (tip, m + t)),
            ("through", reach, (shoulder(m), m), (tip, m)),
        ]
        return Made(parts, dims, notes)


class Lettering(Value):
    """A line of text as parts: every letter an outline of its own, like letters counted once."""

    kind: Literal["lettering"] = "lettering"
    text: Annotated[str, Field(min_length=1, max_length=300)] = "Venzo"
    font: Annotated[str, Field(max_length=80)] = "plain"
    cap_height: Annotated[float, Field(ge=0.5, le=5000)] = 60

    def make(self, sources: Sources) -> Made:
        """Draw it."""
        loops, advance, missing = sources.font(self.font).outlines(self.text, self.cap_height)
        # TrueType letters wind filled areas one way and counters the other; even-odd nesting gives the same
        # for sound fonts
        from venzo.core.parts.intake import count_alike

        found = count_alike(
            [(r, []) for r in regions([c for c in loops if abs(c.area) > 1e-3])], self.text.strip()[:60]
        )
        if not found:
            raise BadInput(f"the font {self.font!r} has no outlines for {self.text!r}")
        notes = [f"the font lacks {', '.join(sorted(set(missing)))}"] if missing else []
        islands = sum(len(p.shape.region.holes) * p.quantity for p in found)
        if islands:
            notes.append(f"{islands} counter{'s' * (islands != 1)} fall out when the letters are cut through")
        dims = [
            ("cap height", self.cap_height, (0.0, 0.0), (0.0, self.cap_height)),
            ("length", advance, (0.0, 0.0), (advance, 0.0)),
        ]
        return Made([MadePart(p.name, p.shape, p.quantity) for p in found], dims, notes)


class LetteredBoard(Value):
    """A board with text to be carved: lines, an arc, or as large as the board allows, and a border if
    wanted.
    """

    kind: Literal["sign"] = "sign"
    text: Annotated[str, Field(min_length=1, max_length=400)] = "MARRAM WORKS"
    """Lines are parted by a new line or by " / "."""
    font: Annotated[str, Field(max_length=80)] = "serif"
    width: Length = 600
    height: Length = 180
    corner: Literal["square", "rounded", "clipped", "notched"] = "rounded"
    size: NotNegative = 20
    setting: Literal["as large as fits", "by cap height", "on an arc"] = "as large as fits"
    cap_height: Annotated[float, Field(ge=0.5, le=5000)] = 60
    arc: Annotated[float, Field(ge=-50_000, le=50_000)] = 500
    """Radius of the first baseline; negative bends it down."""
    align: Align = "middle"
    leading: Annotated[float, Field(ge=1, le=5)] = 1.6
    margin: NotNegative = 30
    border: NotNegative = 0
    """Width of a carved line around the text, half a margin from the edge; 0: none."""

    def make(self, sources: Sources) -> Made:
        """Draw it."""
        board = (
            Panel(width=self.width, height=self.height, corner=self.corner, size=self.size)
            .make(sources)
            .parts[0]
            .shape
        )
        lines = [line.strip() for line in self.text.replace(" / ", "\n").split("\n")]
        font = sources.font(self.font)
        w, h = self.width - 2 * self.margin, self.height - 2 * self.margin
        if w <= 1 or h <= 1:
            raise BadInput(
                f"margins of {self.margin:g} mm leave nothing of a board of {self.width:g} x"
                f" {self.height:g} mm"
            )
        cap = self.cap_height
        if self.setting == "as large as fits":
            found, cap, missing = set_in_box(lines, font, w, h, self.leading, self.align)
        else:
            found, missing = set_lines(
                lines, font, cap, self.leading, self.align, self.arc if self.setting == "on an arc" else 0.0
            )
            boxes = [c.bbox for c in found]
            x0, y0, x1, y1 = (
                min(b[0] for b in boxes),
                min(b[1] for b in boxes),
                max(b[2] for b in boxes),
                max(b[3] for b in boxes),
            )
            if x1 - x0 > w + 1e-6 or y1 - y0 > h + 1e-6:
                raise BadInput(
                    f"the text is {x1 - x0:.0f} x {y1 - y0:.0f} mm, the board has room for {w:.0f} x {h:.0f}"
                    " mm; take smaller letters, a larger board or less margin"
                )
            found = [c.moved(-(x0 + x1) / 2, -(y0 + y1) / 2) for c in found]
        contours = [c.moved(self.width / 2, self.height / 2) for c in found]
        notes = [f"the font lacks {', '.join(sorted(set(missing)))}"] if missing else []
        if self.border:
            off = self.margin / 2
            rings = [
                r
                for d in (off - self.border / 2, off + self.border / 2)
                for r in offset([board.region.outline], -d)
            ]
            if len(rings) != 2 or self.border > self.margin / 2:
                raise BadInput(
                    f"a border {self.border:g} mm wide does not fit a margin of {self.margin:g} mm; take a"
                    " wider margin"
                )
            contours += [r.contour for r in rings]
        features = [
            Feature("engraving", f"engraving {k + 1}", c.oriented(True))
            for k, c in enumerate(sorted(contours, key=lambda c: (round(c.bbox[0], 2), round(c.bbox[1], 2))))
        ]
        shape, _at = Shape.of(board.region, features=features)
        left = min(c.bbox[0] for c in contours) - 4
        dims = [
            ("cap height", cap, (left, self.height / 2 + cap / 2), (left, self.height / 2 - cap / 2)),
            ("width", self.width, (0.0, 0.0), (self.width, 0.0)),
            ("height", self.height, (self.width, 0.0), (self.width, self.height)),
        ]
        return Made([MadePart(f"sign {lines[0][:40]}".strip(), shape)], dims, notes)


Recipe = Annotated[
    Panel | Ring | Strip | Inset | BoxSet | MortiseTenon | Lettering | LetteredBoard,
    Field(discriminator="kind"),
]
TITLES = {
    "panel": "Panel",
    "ring": "Ring or disc",
    "strip": "Strip with holes or slots",
    "inset": "Inset or outset of an outline",
    "box": "Box sides, jointed",
    "mortise": "Mortise and tenon",
    "lettering": "Letters",
    "sign": "Lettered board",
}
