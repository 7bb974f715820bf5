"""How turned stock comes to lie where it lay: by dowels, against fence corners, or by its measured edges."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import Id, Point, Positive, Value
from venzo.core.stock.machine import Corner
from venzo.core.stock.zeros import Show

At = Annotated[float, Field(ge=-20_000, le=20_000)]
ReachesIn = Annotated[float, Field(gt=0, le=200)]
MOST_DOWELS = 8
LEAST_IN = 4.0
"""mm of a dowel that must stand in the stock."""


class DowelPin(Value):
    """A sort of dowel that the shop has. ``fit``: how much larger its hole is drilled, on the diameter;
    ``length``: of the pin; mm.
    """

    diameter: Annotated[float, Field(ge=1, le=60)]
    fit: Annotated[float, Field(ge=0, le=2)] = 0.05
    length: Annotated[float, Field(ge=4, le=300)] = 25.0


SHOP_DOWELS: tuple[DowelPin, ...] = (
    DowelPin(diameter=6.0, length=20.0),
    DowelPin(diameter=8.0, length=25.0),
    DowelPin(diameter=10.0, length=30.0),
)
"""Wooden or steel dowels as shops have them (common practice)."""


class Dowel(Value):
    """A dowel: where its hole lies in the stock as the first face is up (mm from its lower left corner), its
    diameter, the fit of its hole and its length, mm.
    """

    id: Id
    x: At
    y: At
    diameter: Annotated[float, Field(ge=1, le=60)]
    fit: Annotated[float, Field(ge=0, le=2)] = 0.05
    length: Annotated[float, Field(ge=4, le=300)] = 25.0

    @property
    def at(self) -> Point:
        """Its middle."""
        return (self.x, self.y)

    @property
    def hole(self) -> float:
        """Diameter of its hole, mm."""
        return self.diameter + self.fit

    def wrong_length(self, below: float, thickness: float) -> str:
        """What is wrong with its length where it stands ``below`` mm deep in the spoilboard, under stock of a
        thickness, mm; empty: nothing.

        >>> Dowel(id="a", x=0, y=0, diameter=8, length=30).wrong_length(10, 18)
        'stands 2 mm over the stock'
        """
        stands = self.length - below
        if stands > thickness + 1e-9:
            return f"stands {stands - thickness:.3g} mm over the stock"
        if stands < LEAST_IN:
            return f"stands {max(stands, 0.0):.3g} mm in the stock, which holds nothing"
        return ""


class Dowels(Value):
    """Dowels in stock and spoilboard.

    ``sets`` "one": the same dowels hold the stock before it is turned and afterwards; "second": they hold it
    only when it is turned. ``below``: how deep they stand in the spoilboard, ``into``: how deep in the stock
    (None: all through it); mm.
    """

    kind: Literal["dowels"] = "dowels"
    sets: Literal["one", "second"] = "one"
    dowels: Annotated[tuple[Dowel, ...], Field(max_length=MOST_DOWELS)] = ()
    below: ReachesIn = 10.0
    into: ReachesIn | None = None


class FenceCorners(Value):
    """Stock pushed into a corner of two fences, before and after the turn.

    ``second`` "same corner": after the turn another corner of the stock lies in the same fences, so that the
    stock's own size counts; "same edges": the corner of the stock that lay in the first fences lies in fences
    at the other side, so that it does not.
    """

    kind: Literal["fences"] = "fences"
    corner: Corner = "lower left"
    second: Literal["same corner", "same edges"] = "same edges"


class MeasuredEdges(Value):
    """The four edges of the stock are touched again after the turn, its middle and turn reckoned from
    them.
    """

    kind: Literal["edges"] = "edges"


class JigCorner(Value):
    """Pieces that were cut out before are turned over one by one, each into the corner of a jig of the
    machine's. ``long``: along which of the jig's sides a piece's long side lies.
    """

    kind: Literal["jig"] = "jig"
    jig: Id
    long: Literal["x", "y"] = "x"


Registration = Annotated[Dowels | FenceCorners | MeasuredEdges | JigCorner, Field(discriminator="kind")]


class Errors(Value):
    """What a shop can keep to when stock is turned, mm."""

    placing: Positive = 0.03
    """How far off a hole is bored."""
    edge: Positive = 0.1
    """How well an edge is touched or a fence is met."""
    square: Annotated[float, Field(ge=0, le=20)] = 0.5
    """How far stock is out of square, mm in a metre."""
    size: Positive = 0.5
    """How well the stock's length and width are known."""
    zero: Positive = 0.05
    """How well Z 0 is set."""
    thickness: Positive = 0.05
    """How well the thickness is read."""


class TurnRules(Value):
    """What a shop goes by where stock is cut from both faces. ``least_floor``: mm between the faces that are
    not questioned.
    """

    dowels: Annotated[tuple[DowelPin, ...], Field(max_length=20)] = SHOP_DOWELS
    errors: Errors = Errors()
    least_floor: Annotated[float, Field(ge=0, le=100)] = 2.0


class OtherFace(Value):
    """A setup is the other face of another: of which, turned about which axis, and how it is registered.

    ``outlines``, ``holes``: whether what parts the pieces from the stock is cut here or was cut before the
    turn; outlines also half from each face. ``overlap``: how much deeper than half both then go together, mm;
    below 0 they leave a web so thick. ``mark``: the corner of the stock, as the first face is up, that is
    marked: it tells turned from not turned.
    """

    of: Id
    axis: Literal["x", "y"] = "x"
    registration: Registration = Dowels()
    outlines: Literal["here", "before", "half"] = "here"
    holes: Literal["here", "before"] = "before"
    overlap: Annotated[float, Field(ge=-20, le=20)] = 1.0
    mark: Corner = "lower left"
    filled: bool = False
    """What lies hollow underneath is filled: by a filler or a cradle. It bears, but no vacuum holds there."""

    @property
    def singly(self) -> bool:
        """Are pieces turned one by one, and not the stock with all of them?"""
        return isinstance(self.registration, JigCorner)

    @property
    def parts(self) -> Literal["here", "before", "half"]:
        """From where outlines are cut: pieces that are turned one by one were cut out before."""
        return "before" if self.singly else self.outlines

    @property
    def opens(self) -> Literal["here", "before"]:
        """From where holes are cut: with the outlines where pieces are turned one by one."""
        return "before" if self.singly else self.holes


class TurnedBack(Value):
    """A setup has the first face up once more: ``after``, the other face, the stock is turned back, and what
    was only roughed is finished.
    """

    after: Id


Takes = Literal["all", "roughing", "rest"]
"""Which of a face's cuts are made while it is up."""


class FaceRole(Value):
    """What part a setup has in a job that is cut from both faces: which face is up, which setup has the other
    one, and what is cut there. ``number``: of its turn, in running order; ``of``: how many there are.
    """

    face: Literal["front", "back"]
    number: Annotated[int, Field(ge=1, le=3)]
    of: Annotated[int, Field(ge=2, le=3)] = 2
    other: Id
    takes: Takes = "all"
    outlines: Literal["here", "there", "half"]
    holes: Literal["here", "there"]
    singly: bool = False
    """Are pieces turned one by one?"""
    overlap: float = 0.0
    """Of outlines cut half from each face: how much deeper than half both go together, mm; below 0 a web."""

    @property
    def parts_last(self) -> bool:
        """Is what this face cuts of the outlines cut after the other face's?"""
        if self.singly:
            return self.number == 1
        return self.number == self.of or (self.of == 3 and self.face == "front")

    @property
    def frees(self) -> bool:
        """Do the pieces come off while this face is up?"""
        return self.number == (1 if self.singly else self.of)

    @property
    def planned(self) -> tuple[str, str, str, float, bool]:
        """All of it that the cuts of a part depend on."""
        return self.face, self.outlines, self.holes, self.overlap, self.parts_last


def registration_says(r: Dowels | FenceCorners | MeasuredEdges | JigCorner, show: Show) -> str:
    """How stock is registered, in words.

    >>> registration_says(FenceCorners(), str)
    'lower left corner in the fences, after the turn with the same edges in fences at the other side'
    """
    if isinstance(r, FenceCorners):
        then = (
            "with the same edges in fences at the other side"
            if r.second == "same edges"
            else "with the corner that comes there"
        )
        return f"{r.corner} corner in the fences, after the turn {then}"
    if isinstance(r, JigCorner):
        return f"a jig's corner, piece by piece, the long side along its {r.long.upper()}"
    if isinstance(r, MeasuredEdges):
        return "four edges touched again after the turn, the middle reckoned from them"
    named = ", ".join(f"{show(d.diameter)} at {show(d.x)}, {show(d.y)}" for d in r.dowels)
    when = "before and after the turn" if r.sets == "one" else "after the turn"
    return f"dowels {when}: {named}" if r.dowels else f"dowels {when}, none placed yet"
