"""Commands on a setup's layout: accept, move, lock, swap, keep. See ``edits`` for what a command is."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from venzo.core.edits.base import laid_setup, part_of, swapped, with_setup
from venzo.core.geometry.contour import rotation_matrix
from venzo.core.model import Id, Name, Point, Value
from venzo.core.plan import AcceptedNest, Coordinate, KeptLayout, Piece, Plan, Setup
from venzo.core.snags import BadInput
from venzo.core.voice import counted

SAME_PLACE = 1e-4
"""mm, or degrees: places are sent to four digits."""


class AcceptNest(Value):
    """Accept a layout that a search found for ``nest.inputs``."""

    kind: Literal["accept-nest"] = "accept-nest"
    setup: Id
    nest: AcceptedNest

    def touches(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        sheets = {(p.sheet, p.sheet_copy) for p in self.nest.pieces}
        return f"nested {counted(len(self.nest.pieces), 'piece')} on {counted(len(sheets), 'sheet')}"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        for piece in self.nest.pieces:
            part_of(plan, piece.part)
        return with_setup(plan, s, nest=self.nest)


class MovePiece(Value):
    """Place one piece by hand."""

    kind: Literal["move-piece"] = "move-piece"
    setup: Id
    part: Id
    copy_no: int
    x: Coordinate
    y: Coordinate
    rotation: Annotated[float, Field(ge=-3600, le=3600)] = 0.0
    mirrored: bool = False
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    locked: bool | None = None

    def touches(self) -> set[str]:
        return {f"piece/{self.setup}/{self.part}#{self.copy_no}"}

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        name = part_of(plan, self.part).name
        return (
            f"{name}, piece {self.copy_no + 1}:"
            f" {'locked' if self.locked else 'unlocked' if self.locked is False else 'moved by hand'}"
        )

    def apply(self, plan: Plan) -> Plan:
        s, p = laid_setup(plan, self.setup), part_of(plan, self.part)
        stock = s.stock_of(self.sheet)
        if stock is None or self.sheet_copy >= stock.quantity:
            raise BadInput(f"sheet {self.sheet!r} {self.sheet_copy + 1} is not on hand")
        if not 0 <= self.copy_no < p.quantity:
            raise BadInput(f"{p.name}: piece {self.copy_no + 1} is not ordered ({p.quantity} wanted)")
        if self.mirrored and not p.mirror:
            raise BadInput(f"{p.name}: may not be mirrored; allow it at the part first")
        nest = s.nest or AcceptedNest(pieces=(), inputs="", engine="by hand")
        old = next((q for q in nest.pieces if q.part == self.part and q.copy_no == self.copy_no), None)
        if old is not None and old.locked and self.locked is not False and self._moves(old):
            raise BadInput(f"{p.name}, piece {self.copy_no + 1} is locked; unlock it first")
        locked = self.locked if self.locked is not None else (old.locked if old else False)
        piece = Piece(
            part=self.part,
            copy_no=self.copy_no,
            sheet=self.sheet,
            sheet_copy=self.sheet_copy,
            x=self.x,
            y=self.y,
            rotation=self.rotation % 360,
            mirrored=self.mirrored,
            locked=locked,
        )
        return with_setup(plan, s, nest=nest.model_copy(update={"pieces": swapped(nest.pieces, piece)}))

    def _moves(self, old: Piece) -> bool:
        """Is it elsewhere than it lay, by more than is written of a place?"""
        there = (self.sheet, self.sheet_copy, self.mirrored) == (old.sheet, old.sheet_copy, old.mirrored)
        turn = abs((self.rotation - old.rotation + 180) % 360 - 180)
        return not there or max(abs(self.x - old.x), abs(self.y - old.y), turn) > SAME_PLACE


class PieceChange(Value):
    """What changes of one piece: only the fields given. ``off``: it is taken off its sheet."""

    part: Id
    copy_no: Annotated[int, Field(ge=0)]
    x: Coordinate | None = None
    y: Coordinate | None = None
    rotation: Annotated[float, Field(ge=-3600, le=3600)] | None = None
    mirrored: bool | None = None
    locked: bool | None = None
    off: bool | None = None

    @property
    def moves(self) -> bool:
        """Does it change where the piece lies?"""
        return bool(self.off) or any(v is not None for v in (self.x, self.y, self.rotation, self.mirrored))


class PieceMore(Value):
    """One piece more of a part, and where it is laid."""

    part: Id
    x: Coordinate
    y: Coordinate
    rotation: Annotated[float, Field(ge=-3600, le=3600)] = 0.0
    mirrored: bool = False
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0


MOST_PIECES = 5000
MOST_WANTED = 10_000
"""Pieces of a part in one order."""


class ChangePieces(Value):
    """Change several pieces at once, and lay more of them: one edit, taken back as one.

    ``does``: what is done with them, in a word.
    """

    kind: Literal["change-pieces"] = "change-pieces"
    setup: Id
    does: Literal[
        "moved", "turned", "aligned", "spread out", "centred", "locked", "unlocked", "taken off"
    ] = "moved"
    pieces: Annotated[tuple[PieceChange, ...], Field(max_length=MOST_PIECES)] = ()
    more: Annotated[tuple[PieceMore, ...], Field(max_length=MOST_PIECES)] = ()

    def touches(self) -> set[str]:
        mine = {f"piece/{self.setup}/{p.part}#{p.copy_no}" for p in self.pieces}
        return mine | {f"quantity/{p.part}" for p in self.more}

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        def many(n: int) -> str:
            return f"{n} piece{'s' * (n != 1)}"

        said = [f"{many(len(self.pieces))} {self.does}"] if self.pieces else []
        return ", ".join([*said, *([f"{many(len(self.more))} more laid"] if self.more else [])])

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        if not self.pieces and not self.more:
            raise BadInput("no piece is named; choose the pieces first")
        nest = s.nest or AcceptedNest(pieces=(), inputs="", engine="by hand")
        lie = {(q.part, q.copy_no): q for q in nest.pieces}
        for change in self.pieces:
            _change(plan, lie, change)
        plan, new = _laid_more(plan, s, self.more)
        pieces = (*lie.values(), *new)
        return with_setup(plan, s, nest=nest.model_copy(update={"pieces": pieces}))


def _change(plan: Plan, lie: dict[tuple[str, int], Piece], change: PieceChange) -> None:
    p = part_of(plan, change.part)
    at = (change.part, change.copy_no)
    piece = lie.get(at)
    if piece is None:
        raise BadInput(f"{p.name}, piece {change.copy_no + 1} lies on no sheet")
    if piece.locked and change.moves and change.locked is not False:
        raise BadInput(f"{p.name}, piece {change.copy_no + 1} is locked; unlock it first")
    if change.mirrored and not p.mirror:
        raise BadInput(f"{p.name}: may not be mirrored; allow it at the part first")
    if change.off:
        del lie[at]
        return
    fields = change.model_dump(exclude={"part", "copy_no", "off"}, exclude_none=True)
    if "rotation" in fields:
        fields["rotation"] %= 360
    lie[at] = piece.model_copy(update=fields)


def _laid_more(plan: Plan, s: Setup, more: tuple[PieceMore, ...]) -> tuple[Plan, list[Piece]]:
    """The plan with so many pieces more ordered, and where they lie."""
    new = []
    for m in more:
        p = part_of(plan, m.part)
        stock = s.stock_of(m.sheet)
        if stock is None or m.sheet_copy >= stock.quantity:
            raise BadInput(f"sheet {m.sheet!r} {m.sheet_copy + 1} is not on hand")
        if p.setup != s.id or not p.lines:
            raise BadInput(f"{p.name} is not ordered from this material")
        if m.mirrored and not p.mirror:
            raise BadInput(f"{p.name}: may not be mirrored; allow it at the part first")
        if p.lines[0].quantity >= MOST_WANTED:
            raise BadInput(f"{p.name}: more than {MOST_WANTED:,} pieces; that is the most an order wants")
        new.append(Piece(copy_no=p.quantity, **m.model_dump()))
        first, *rest = p.lines
        lines = (first.model_copy(update={"quantity": first.quantity + 1}), *rest)
        parts = tuple(q.model_copy(update={"lines": lines}) if q.id == p.id else q for q in plan.parts)
        plan = plan.model_copy(update={"parts": parts})
    return plan, new


class TakeOffPiece(Value):
    """Take a piece off its sheet; it is then unplaced."""

    kind: Literal["take-off-piece"] = "take-off-piece"
    setup: Id
    part: Id
    copy_no: int

    def touches(self) -> set[str]:
        return {f"piece/{self.setup}/{self.part}#{self.copy_no}"}

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"{part_of(plan, self.part).name}, piece {self.copy_no + 1}: taken off its sheet"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        if s.nest is None:
            return plan
        pieces = tuple(q for q in s.nest.pieces if (q.part, q.copy_no) != (self.part, self.copy_no))
        return with_setup(plan, s, nest=s.nest.model_copy(update={"pieces": pieces}))


class LockPieces(Value):
    """Lock or unlock every piece on a sheet: the next nest lays the others around them."""

    kind: Literal["lock-pieces"] = "lock-pieces"
    setup: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    locked: bool = True

    def touches(self) -> set[str]:
        return {f"locks/{self.setup}/{self.sheet}/{self.sheet_copy}"}

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"all pieces on a sheet {'locked' if self.locked else 'unlocked'}"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        if s.nest is None:
            return plan
        here = (self.sheet, self.sheet_copy)
        pieces = tuple(
            q.model_copy(update={"locked": self.locked}) if (q.sheet, q.sheet_copy) == here else q
            for q in s.nest.pieces
        )
        return with_setup(plan, s, nest=s.nest.model_copy(update={"pieces": pieces}))


class SwapPieces(Value):
    """Let two pieces change places: the middle of each comes to lie where the other's was, each in its own
    turn.
    """

    kind: Literal["swap-pieces"] = "swap-pieces"
    setup: Id
    part: Id
    copy_no: int
    other_part: Id
    other_copy_no: int
    middles: tuple[Point, Point] = ((0.0, 0.0), (0.0, 0.0))
    """Middle of each part's box in its own frame, mm."""

    def touches(self) -> set[str]:
        return {
            f"piece/{self.setup}/{self.part}#{self.copy_no}",
            f"piece/{self.setup}/{self.other_part}#{self.other_copy_no}",
        }

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return (
            f"{part_of(plan, self.part).name}, piece {self.copy_no + 1} and"
            f" {part_of(plan, self.other_part).name}, piece {self.other_copy_no + 1}: places changed"
        )

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        pieces = {(q.part, q.copy_no): q for q in (s.nest.pieces if s.nest else ())}
        a, b = pieces.get((self.part, self.copy_no)), pieces.get((self.other_part, self.other_copy_no))
        if a is None or b is None or s.nest is None:
            raise BadInput("both pieces must lie on a sheet to change places")
        if a.locked or b.locked:
            raise BadInput("a locked piece stays where it is; unlock it first")

        def at(q: Piece, middle: Point) -> tuple[float, float]:
            (c, d), (e, f) = rotation_matrix(q.rotation)
            x = -middle[0] if q.mirrored else middle[0]
            return c * x + d * middle[1], e * x + f * middle[1]

        (ax, ay), (bx, by) = at(a, self.middles[0]), at(b, self.middles[1])
        a2 = a.model_copy(
            update={"x": b.x + bx - ax, "y": b.y + by - ay, "sheet": b.sheet, "sheet_copy": b.sheet_copy}
        )
        b2 = b.model_copy(
            update={"x": a.x + ax - bx, "y": a.y + ay - by, "sheet": a.sheet, "sheet_copy": a.sheet_copy}
        )
        if (
            a.part == b.part
        ):  # copies of one part take each other's turn as well, so nothing about the layout changes
            a2, b2 = (
                q.model_copy(
                    update={
                        "x": o.x,
                        "y": o.y,
                        "rotation": o.rotation,
                        "mirrored": o.mirrored,
                        "sheet": o.sheet,
                        "sheet_copy": o.sheet_copy,
                    }
                )
                for q, o in ((a, b), (b, a))
            )
        pieces[a.part, a.copy_no], pieces[b.part, b.copy_no] = a2, b2
        return with_setup(plan, s, nest=s.nest.model_copy(update={"pieces": tuple(pieces.values())}))


class KeepLayout(Value):
    """Lay the layout aside under a name, to compare it with others; ``nest``: another than the one there
    is.
    """

    kind: Literal["keep-layout"] = "keep-layout"
    setup: Id
    id: Id
    name: Name
    nest: AcceptedNest | None = None

    def touches(self) -> set[str]:
        return {f"kept/{self.setup}/{self.id}"}

    def reads(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def says(self, plan: Plan) -> str:
        return f"layout kept: {self.name}"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        nest = self.nest or s.nest
        if nest is None or not nest.pieces:
            raise BadInput(f"{s.name}: there is no layout to keep; nest the pieces first")
        if any(k.id == self.id for k in s.kept):
            raise BadInput(f"a layout is kept as {self.id!r} already")
        if len(s.kept) >= 24:
            raise BadInput(f"{s.name}: 24 layouts are kept already; forget one first")
        return with_setup(plan, s, kept=(*s.kept, KeptLayout(id=self.id, name=self.name, nest=nest)))


class UseLayout(Value):
    """Take a kept layout up again; the present one is left (undo brings it back)."""

    kind: Literal["use-layout"] = "use-layout"
    setup: Id
    id: Id

    def touches(self) -> set[str]:
        return {f"nest/{self.setup}"}

    def reads(self) -> set[str]:
        return {f"kept/{self.setup}/{self.id}"}

    def says(self, plan: Plan) -> str:
        return f"kept layout taken up: {_kept(laid_setup(plan, self.setup), self.id).name}"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        nest = _kept(s, self.id).nest
        known = {p.id for p in plan.parts}
        return with_setup(
            plan, s, nest=nest.model_copy(update={"pieces": tuple(q for q in nest.pieces if q.part in known)})
        )


class ForgetLayout(Value):
    """Throw a kept layout away."""

    kind: Literal["forget-layout"] = "forget-layout"
    setup: Id
    id: Id

    def touches(self) -> set[str]:
        return {f"kept/{self.setup}/{self.id}"}

    def says(self, plan: Plan) -> str:
        return f"kept layout thrown away: {_kept(laid_setup(plan, self.setup), self.id).name}"

    def apply(self, plan: Plan) -> Plan:
        s = laid_setup(plan, self.setup)
        _kept(s, self.id)
        return with_setup(plan, s, kept=tuple(k for k in s.kept if k.id != self.id))


def _kept(setup: Setup, kept_id: str) -> KeptLayout:
    found = next((k for k in setup.kept if k.id == kept_id), None)
    if found is None:
        raise BadInput(f"{setup.name}: no layout is kept as {kept_id!r}")
    return found
