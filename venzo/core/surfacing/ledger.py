"""The ledger of a board: what was taken off and cut into it, entry by entry; nothing is erased, a mistake is
reversed by an entry of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.model import NotNegative, Value
from venzo.core.snags import Snag, look, note, stop
from venzo.core.surfacing.board import Board

SCREW_COVER = 3.0
"""mm of wood that should stay over a screw head (common practice)."""


class Entry(Value):
    """One line. ``removed``: mm off the top. ``metres``, ``score``: of through-cuts, and how deep they went
    into the board, mm. ``zero``: Z was set on the top anew.

    ``flat``: flatness (highest less lowest, mm) expected or read after it. ``reverses``: number of the entry
    it takes back.
    """

    kind: Literal["surfaced", "through-cut", "zero", "read", "replaced", "reversed"]
    removed: NotNegative = 0.0
    metres: NotNegative = 0.0
    score: NotNegative = 0.0
    flat: NotNegative | None = None
    says: Annotated[str, Field(max_length=300)] = ""
    reverses: int | None = None
    face: Literal[1, 2] = 1
    """Of a board: 2 when it lies turned over, its Z taken from the table."""
    run: int | None = None
    """The record of the run that it comes from; it is taken back with that."""


@dataclass(frozen=True)
class State:
    """How a board stands. mm and m; ``since_zero``: taken off since Z was set on its top; ``cover``: of wood
    over the highest screw head.
    """

    thickness: float
    removed: float
    since_zero: float
    metres: float
    score: float
    flat: float | None
    cover: float | None
    due: bool
    passes_left: int | None
    snags: tuple[Snag, ...]


def standing_entries(entries: Sequence[tuple[int, Entry]]) -> list[tuple[int, Entry]]:
    """Entries that nobody took back, since the board was replaced last."""
    undone = {e.reverses for _n, e in entries if e.kind == "reversed"}
    kept = [(n, e) for n, e in entries if n not in undone and e.kind != "reversed"]
    last = max((k for k, (_n, e) in enumerate(kept) if e.kind == "replaced"), default=-1)
    return kept[last + 1 :]


def state(board: Board, entries: Sequence[tuple[int, Entry]], take: float = 0.0) -> State:
    """How a board stands after its entries, as (number, entry) in order; ``take``: mm that a plan would take
    off next.

    >>> b = Board(id="a", name="a", width=100, height=100, thickness=18, screw_head=8)
    >>> cut = Entry(kind="through-cut", metres=450, score=0.8)
    >>> s = state(b, [(1, cut), (2, Entry(kind="surfaced", removed=1.0))])
    >>> s.thickness, s.metres, s.due, s.cover
    (17.0, 0.0, False, 7.0)
    """
    removed = since = metres = score = 0.0
    thickness, flat = board.thickness, None
    for _n, e in standing_entries(entries):
        if e.kind == "zero":
            since = 0.0
        elif e.kind == "read":
            flat = e.flat
        elif e.kind == "through-cut":
            metres += e.metres
            score = max(score, e.score)
        else:
            removed += e.removed
            since += e.removed if e.face == 1 else 0.0
            score = max(0.0, score - e.removed)
            if score < 1e-9:  # every groove is gone
                metres, score = 0.0, 0.0
            flat = e.flat
    thickness = board.thickness - removed
    cover = None if board.screw_head is None else board.screw_head - removed
    snags: list[Snag] = []
    after = thickness - take
    due = metres >= board.due_metres or score >= board.due_depth
    if due:
        snags.append(
            look(
                "ledger.due",
                f"{board.name} is due: {metres:.0f} m cut into it since it was surfaced, up to {score:.2f} mm"
                f" deep (due at {board.due_metres:g} m or {board.due_depth:g} mm)",
            )
        )
    if score and take and take < score:
        snags.append(
            note(
                "ledger.score",
                f"{take:.2f} mm leave the deepest scores, {score:.2f} mm, open by {score - take:.2f} mm",
            )
        )
    if after < board.least - 1e-9:
        snags.append(
            stop(
                "ledger.thin",
                f"{board.name} would be {after:.2f} mm thick, it is replaced at {board.least:g} mm",
            )
        )
    if cover is not None:
        if cover - take <= 0:
            snags.append(
                stop(
                    "ledger.screws",
                    f"the highest screw head lies {max(cover, 0):.2f} mm under the top, the cut goes"
                    f" {take:.2f} mm deep: set the screws deeper first",
                )
            )
        elif cover - take < SCREW_COVER:
            snags.append(
                look(
                    "ledger.screws",
                    f"only {cover - take:.2f} mm of wood would be left over the highest screw head",
                )
            )
    lefts = [(thickness - board.least) / take] if take else []
    if take and cover is not None:
        lefts.append(cover / take - 1e-9)
    return State(
        round(thickness, 6),
        round(removed, 6),
        round(since, 6),
        round(metres, 3),
        round(score, 4),
        flat,
        None if cover is None else round(cover, 6),
        due,
        max(0, int(min(lefts) + 1e-9)) if lefts else None,
        tuple(snags),
    )
