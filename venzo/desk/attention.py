"""What waits in the shop beside the jobs: boards due to be surfaced, cutters that have cut their metres."""

from __future__ import annotations

from venzo.core.model import Document
from venzo.core.tooling.cutter import Cutter
from venzo.desk.runs import worn
from venzo.desk.spoilboards import state_of, surface_setups
from venzo.store.store import Store


class BoardDue(Document):
    """A board whose top is due: metres cut into it since it was surfaced, and the deepest score, mm."""

    id: str
    name: str
    metres: float
    score: float


class CutterWorn(Document):
    """A cutter that has cut most of its metres; ``over``: all of them."""

    id: str
    name: str
    metres: float
    life: float
    over: bool


class Attention(Document):
    """What waits."""

    boards: list[BoardDue]
    cutters: list[CutterWorn]


NEARLY = 0.9
"""Share of its life from which a cutter is named."""


def attention(store: Store) -> Attention:
    """Boards due and cutters worn, the worst first."""
    boards = []
    for b in surface_setups(store):
        st = state_of(store, b)
        if st.due:
            boards.append(
                BoardDue(id=b.id, name=b.board.name, metres=round(st.metres, 1), score=round(st.score, 2))
            )
    cut = worn(store)
    cutters = [
        CutterWorn(id=c.id, name=c.name, metres=cut[c.id], life=c.life, over=cut[c.id] >= c.life)
        for c in (Cutter.model_validate(x) for x in store.library("cutter"))
        if c.life and cut.get(c.id, 0.0) >= NEARLY * c.life
    ]
    return Attention(
        boards=sorted(boards, key=lambda b: -b.metres),
        cutters=sorted(cutters, key=lambda c: -c.metres / c.life),
    )
