"""What do the movements come to? On hand, reserved and free, lot by lot; a movement that cannot be is
refused.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from venzo.core.rack.lots import (
    Changed,
    Counted,
    Lot,
    Moved,
    Received,
    Reserved,
    Returned,
    Scrapped,
    SetFree,
    Taken,
)
from venzo.core.snags import BadInput
from venzo.core.voice import counted


@dataclass(frozen=True)
class Shelf:
    """A lot as it stands: how many are on hand, and how many of them each job has reserved."""

    lot: Lot
    on_hand: int = 0
    reserved: dict[str, int] = field(default_factory=dict)

    @property
    def free(self) -> int:
        """On hand and reserved by nobody; below nothing where a count found fewer than are reserved."""
        return self.on_hand - sum(self.reserved.values())

    def for_job(self, job: str | None) -> int:
        """How many a job may use: what is free, and its own."""
        return max(0, self.free) + (self.reserved.get(job, 0) if job else 0)


def shelves(movements: Iterable[Moved]) -> dict[str, Shelf]:
    """Every lot that ever was, as it stands after all movements, in the order in which they came.

    >>> board = Lot(id="a", label="A1", name="ply", material="ply", width=100, height=100, nominal=18)
    >>> found = shelves([Received(lot=board, count=5), Reserved(lot="a", job="j", count=2)])
    >>> found["a"].on_hand, found["a"].free, found["a"].for_job("j")
    (5, 3, 5)
    """
    out: dict[str, Shelf] = {}
    for m in movements:
        out[m.of] = moved(out.get(m.of), m)
    return out


def moved(shelf: Shelf | None, m: Moved) -> Shelf:
    """A lot after a movement.

    Raises:
        BadInput: there is no such lot, or fewer are there than the movement takes.
    """
    if isinstance(m, Received):
        if shelf is None:
            return Shelf(m.lot, m.count)
        return replace(shelf, on_hand=shelf.on_hand + m.count)
    if shelf is None:
        raise BadInput(f"the rack has no lot {m.of!r}; look it up in the rack")
    label = shelf.lot.label
    match m:
        case Reserved():
            if m.count > shelf.free:
                raise BadInput(
                    f"{label}: {max(0, shelf.free)} of {shelf.on_hand} are free, not {m.count}; set others"
                    " free, or take another lot"
                )
            return _with_reserved(shelf, m.job, m.count)
        case SetFree():
            mine = shelf.reserved.get(m.job, 0)
            if m.count > mine:
                raise BadInput(f"{label}: {m.job} has {mine} reserved, not {m.count}")
            return _with_reserved(shelf, m.job, -m.count)
        case Taken():
            if m.count > shelf.on_hand:
                raise BadInput(
                    f"{label}: {counted(shelf.on_hand, 'sheet')} on hand, {m.count} cannot be taken;"
                    " count the lot, or book what came in first"
                )
            left = replace(shelf, on_hand=shelf.on_hand - m.count)
            return _with_reserved(left, m.job, -m.from_reserved) if m.job and m.from_reserved else left
        case Returned():
            return replace(shelf, on_hand=shelf.on_hand + m.count)
        case Scrapped():
            if m.count > shelf.free:
                raise BadInput(
                    f"{label}: {max(0, shelf.free)} of {shelf.on_hand} are free, {m.count} cannot be"
                    " scrapped; set them free first"
                )
            return replace(shelf, on_hand=shelf.on_hand - m.count)
        case Counted():
            return replace(shelf, on_hand=m.found)
        case Changed():
            return replace(shelf, lot=shelf.lot.model_copy(update=m.fields()))


def _with_reserved(shelf: Shelf, job: str, more: int) -> Shelf:
    left = max(0, shelf.reserved.get(job, 0) + more)
    rest = {j: n for j, n in shelf.reserved.items() if j != job}
    return replace(shelf, reserved=rest | ({job: left} if left else {}))


def taken_by(movements: Iterable[Moved], run: int) -> list[Taken]:
    """What the run of this number took."""
    return [m for m in movements if isinstance(m, Taken) and m.run == run]


def left_by(movements: Iterable[Moved], run: int) -> list[Lot]:
    """Remnants that the run of this number left."""
    return [m.lot for m in movements if isinstance(m, Received) and m.lot.origin and m.lot.origin.run == run]
