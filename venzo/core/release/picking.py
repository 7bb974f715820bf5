"""Which part of a job is released: cuts by sheet, part, piece, cutter, operation and side, less what went out
before, and what a part must not do to the rest.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Literal

import numpy as np
from pydantic import Field
from shapely import STRtree, points
from shapely.geometry import Polygon

from venzo.core.cuts.moves import X, Y
from venzo.core.cuts.operations import StepKind
from venzo.core.derive import DerivedSetup
from venzo.core.memo import memo
from venzo.core.model import Id, Value, digest
from venzo.core.order.of_sheet import PlacedCut, SheetPlan, some_of
from venzo.core.parts.shape import OUTLINE
from venzo.core.snags import Snag, Where, look, stop
from venzo.core.voice import counted

Which = Literal["left over", "left over and changed", "everything", "spoilt"]
PieceId = Annotated[str, Field(max_length=120)]


class PickedSheet(Value):
    """One sheet of a setup."""

    setup: Id
    sheet: Id
    copy_no: Annotated[int, Field(ge=0)] = 0


class Picked(Value):
    """Which cuts are released: those that every field given lets through. ``which``: of those that went out
    before none, only such as are otherwise since and were not run, or all of them again; ``spoilt``: only
    those of pieces that did not come off sound, to be cut again on a fresh sheet.
    """

    which: Which = "left over and changed"
    sheets: Annotated[tuple[PickedSheet, ...], Field(max_length=2000)] | None = None
    parts: Annotated[tuple[Id, ...], Field(max_length=2000)] | None = None
    pieces: Annotated[tuple[PieceId, ...], Field(max_length=5000)] | None = None
    cutters: Annotated[tuple[Id, ...], Field(max_length=200)] | None = None
    operations: Annotated[tuple[StepKind, ...], Field(max_length=20)] | None = None
    side: Literal["insides", "outlines"] | None = None

    @property
    def whole(self) -> bool:
        """Does it leave nothing out but what went out before?"""
        return all(v is None for k, v in self if k != "which")

    def lets(self, setup: str, sheet: SheetPlan, c: PlacedCut) -> bool:
        """Is a cut among those asked for?"""
        at = PickedSheet(setup=setup, sheet=sheet.sheet, copy_no=sheet.copy_no)
        outside = c.cut.contour == OUTLINE
        return (
            (self.sheets is None or at in self.sheets)
            and (self.parts is None or c.piece.part in self.parts)
            and (self.pieces is None or c.piece.id in self.pieces)
            and (self.cutters is None or c.cut.cutter in self.cutters)
            and (self.operations is None or c.cut.kind in self.operations)
            and (self.side is None or outside == (self.side == "outlines"))
        )

    def says(self, names: Callable[[str, str], str] = lambda _kind, i: i) -> str:
        """In words. ``names``: of (kind, id) what it is called.

        >>> Picked(side="outlines", cutters=("c8",)).says()
        'outlines, cutter c8'
        """
        said: list[str] = [self.side] if self.side else []
        if self.sheets is not None:
            said.append(counted(len(self.sheets), "sheet"))
        for kind, ids in (("part", self.parts), ("piece", self.pieces), ("cutter", self.cutters)):
            if ids is not None:
                few = ", ".join(names(kind, i) for i in ids[:3])
                said.append(f"{kind}{'s' * (len(ids) != 1)} {few}" + (" ..." if len(ids) > 3 else ""))
        said += [", ".join(self.operations)] if self.operations is not None else []
        return ", ".join(said) or "all"


@dataclass(frozen=True)
class Gone:
    """A cut that went out: with which release, how it moved then, on which sheet, whether it was run."""

    release: int
    prints: str
    sheet: str
    copy_no: int
    run: bool = False
    spoilt: bool = False
    """Its piece did not come off sound, and was not cut again."""


Before = Mapping[str, Gone]
"""What of a setup went out before, by the name of the cut."""


def cut_prints(sheet: SheetPlan) -> dict[str, str]:
    """By the name of every cut of a sheet: digest of where its piece lies, a dash, and digest of where it
    goes, how fast, with what.
    """

    def make() -> dict[str, str]:
        return {c.name: _print(c) for c in sheet.cuts}

    return memo("cut prints", sheet.key, make)


def _print(c: PlacedCut) -> str:
    told = f"{c.cut.cutter}|{c.cut.rpm!r}|{c.cut.z_zero}|"
    rows = np.ascontiguousarray(np.round(c.moves, 4)) + 0.0  # no minus zero
    q = c.piece
    lies = f"{q.sheet}|{q.sheet_copy}|{q.x:.4f}|{q.y:.4f}|{q.rotation:.4f}|{q.mirrored}"
    place = hashlib.blake2b(lies.encode(), digest_size=6).hexdigest()
    return f"{place}-{hashlib.blake2b(told.encode() + rows.tobytes(), digest_size=12).hexdigest()}"


@dataclass(frozen=True)
class SheetShare:
    """Cuts of a sheet by where they stand (indices): ``now`` in this release; ``left`` still to go out after
    it; ``same`` went out before as they are; ``changed`` went out and are otherwise since; ``ran`` of those
    changed, on a sheet that was run.
    """

    sheet: SheetPlan
    now: tuple[int, ...]
    left: tuple[int, ...]
    same: tuple[int, ...]
    changed: tuple[int, ...]
    ran: tuple[int, ...]


def share_of(setup: str, sheet: SheetPlan, picked: Picked, before: Before) -> SheetShare:
    """How a sheet's cuts part into what is released now and the rest."""
    prints = cut_prints(sheet)
    now: list[int] = []
    left: list[int] = []
    same: list[int] = []
    changed: list[int] = []
    ran: list[int] = []
    for i, c in enumerate(sheet.cuts):
        went = before.get(c.name)
        alike = went is not None and went.prints == prints[c.name]
        if went is not None:
            (same if alike else changed).append(i)
            if not alike and went.run:
                ran.append(i)
        again = {
            "left over": went is None,
            "left over and changed": went is None or not (alike or went.run),
            "everything": True,
            "spoilt": went is not None and went.spoilt,
        }[picked.which]
        if again and picked.lets(setup, sheet, c):
            now.append(i)
        elif went is None:
            left.append(i)
    return SheetShare(sheet, tuple(now), tuple(left), tuple(same), tuple(changed), tuple(ran))


def shares(derived: DerivedSetup, picked: Picked, before: Before) -> list[SheetShare]:
    """Of every sheet of a setup what is released now and what is not."""
    return [share_of(derived.setup.id, s, picked, before) for s in derived.sheets]


def parted(
    derived: DerivedSetup, found: Sequence[SheetShare], files: Mapping[tuple[str, int], int]
) -> DerivedSetup:
    """A setup with only the cuts that are released now, on the sheets that have any; they keep their
    numbers. ``files``: how many programs each sheet (stock line, copy) has had, so that numbers go on.
    """
    rows = [
        (n, some_of(derived.setup, x.sheet, x.now), held)
        for (n, _s), x, held in zip(
            derived.numbered, found, derived.holds or [None] * len(found), strict=True
        )
        if x.now
    ]
    return replace(
        derived,
        sheets=tuple(s for _n, s, _h in rows),
        holds=tuple(h for _n, _s, h in rows),
        numbers=tuple(n for n, _s, _h in rows),
        of=derived.count,
        begun=dict(files),
        wholes={(x.sheet.sheet, x.sheet.copy_no): x.sheet for x in found} | dict(derived.wholes),
    )


def part_snags(derived: DerivedSetup, found: Sequence[SheetShare], before: Before) -> list[Snag]:
    """What a part release must not do: a step before the one that opens its way, a cut in a piece that is
    loose by then; what it should not do unseen: let a piece go of which something is still to be cut, cut
    again what was run.
    """
    out: list[Snag] = []
    for x in found:
        if not x.now:
            continue
        where: Where = {
            "setup": derived.setup.id,
            "sheet": x.sheet.sheet,
            "sheet_copy": x.sheet.copy_no,
        }
        out += _steps(x, before, where) + _loose(x, before, where)
        out += _fits(x, before, where) + _again(x, before, where)
    return out


def _steps(x: SheetShare, before: Before, where: Where) -> list[Snag]:
    """Steps whose earlier ones on the same contour, or whose faces, are left over."""
    cuts = x.sheet.cuts
    missing = []
    left: dict[str, list[PlacedCut]] = {}
    for k in x.left:
        left.setdefault(cuts[k].piece.id, []).append(cuts[k])
    for i in x.now:
        c = cuts[i]
        for d in left.get(c.piece.id, ()):
            earlier = d.cut.contour == c.cut.contour and d.cut.step < c.cut.step
            if earlier or (d.cut.face_first and not c.cut.face_first):
                missing.append((c, d))
    if not missing:
        return []
    c, d = missing[0]
    more = f", and {len(missing) - 1} more" if len(missing) > 1 else ""
    return [
        stop(
            "release.step",
            f"{_called(c)} needs {_called(d)} first, which is left over{more}; release both, or that first",
            {**where, "piece": c.piece.id},
        )
    ]


def _loose(x: SheetShare, before: Before, where: Where) -> list[Snag]:
    """Cuts in what was let go before, and cuts let out that leave work in a loose piece."""
    cuts = x.sheet.cuts
    freed_before = [i for i, c in enumerate(cuts) if c.name in before and i not in x.now and _frees(c)]
    freed_now = [i for i in x.now if _frees(cuts[i])]
    out: list[Snag] = []
    late = _within(cuts, freed_before, x.now)
    if late:
        c, by = cuts[late[0][0]], cuts[late[0][1]]
        out.append(
            stop(
                "release.loose",
                f"{_called(c)} would be cut in a piece that release {before[by.name].release} has let go"
                f" ({counted(len(late), 'cut')} so); lay the piece in a jig as a job of its own, or cut its"
                " sheet again",
                {**where, "piece": c.piece.id},
            )
        )
    later = _within(cuts, freed_now, x.left)
    if later:
        c, by = cuts[later[0][0]], cuts[later[0][1]]
        out.append(
            look(
                "release.loose-later",
                f"{_called(by)} lets go what {_called(c)} is still to be cut in, which is left over"
                f" ({counted(len(later), 'cut')} so): it can then not be released any more",
                {**where, "piece": c.piece.id},
            )
        )
    return out


def _fits(x: SheetShare, before: Before, where: Where) -> list[Snag]:
    """Pieces of which something was run as it is not any more: the rest does not fit a piece that lay
    elsewhere, and is to be looked at on one whose cuts were otherwise.
    """
    cuts, now, prints = x.sheet.cuts, set(x.now), cut_prints(x.sheet)
    ran: dict[str, bool] = {}
    for i in x.ran:
        if i not in now:
            name = cuts[i].name
            moved = prints[name].split("-")[0] != before[name].prints.split("-")[0]
            ran[cuts[i].piece.id] = ran.get(cuts[i].piece.id, False) or moved
    out: list[Snag] = []
    for moved, say in ((True, stop), (False, look)):
        rest = [i for i in x.now if ran.get(cuts[i].piece.id) is moved]
        if not rest:
            continue
        pieces = dict.fromkeys(cuts[i].piece.id for i in rest)
        few = ", ".join(list(pieces)[:4]) + (" ..." if len(pieces) > 4 else "")
        was = "where it does not lie any more" if moved else "otherwise than it is planned now"
        then = (
            "the rest would not fit; undo the edit, or cut such pieces again as a whole"
            if moved
            else "see that the rest fits what was cut"
        )
        at: Where = {**where, "piece": cuts[rest[0]].piece.id}
        out.append(
            say(
                "release.fits",
                f"something of {counted(len(pieces), 'piece')} ({few}) was run {was}: {then}",
                at,
            )
        )
    return out


def _again(x: SheetShare, before: Before, where: Where) -> list[Snag]:
    """Cuts of sheets that were run, released once more."""
    cuts = x.sheet.cuts
    ran = [i for i in x.now if (w := before.get(cuts[i].name)) is not None and w.run]
    if not ran:
        return []
    pieces = dict.fromkeys(cuts[i].piece.id for i in ran)
    few = ", ".join(list(pieces)[:4]) + (" ..." if len(pieces) > 4 else "")
    return [
        look(
            "release.again",
            f"{counted(len(ran), 'cut')} of {counted(len(pieces), 'piece')} that were run go out again:"
            f" {few}",
            {**where, "piece": cuts[ran[0]].piece.id},
        )
    ]


def _frees(c: PlacedCut) -> bool:
    return c.cut.lets_go and not c.cut.tabs


def _within(cuts: Sequence[PlacedCut], freeing: Sequence[int], asked: Sequence[int]) -> list[tuple[int, int]]:
    """(cut, what lets it go) for every cut asked about that lies within a ring that lets something go."""
    if not freeing or not asked:
        return []
    tree = STRtree(points([(cuts[i].moves[0, X], cuts[i].moves[0, Y]) for i in asked]))
    rings = [
        Polygon(c.cut.path.placed(c.piece.x, c.piece.y, c.piece.rotation).points(0.1)).buffer(0)
        for c in (cuts[k] for k in freeing)
    ]
    out = []
    for ring, at in tree.query(rings, predicate="covers").T.tolist():
        i, k = asked[at], freeing[ring]
        # a later pass of the very ring is no cut within it
        if (cuts[i].piece.id, cuts[i].cut.contour) != (cuts[k].piece.id, cuts[k].cut.contour):
            out.append((i, k))
    return sorted(out)


def _called(c: PlacedCut) -> str:
    return f"{c.cut.contour}, {c.cut.kind}, of piece {c.piece.id}"


def release_digest(parts: Sequence[tuple[str, str]]) -> str:
    """One digest of a release: of the names and digests of its files, in order."""
    return digest("release", [list(p) for p in parts])
