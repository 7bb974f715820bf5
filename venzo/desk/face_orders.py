"""In which order both faces of stock are cut, from which face what parts the pieces: ways side by side, tried
and not done.
"""

from __future__ import annotations

from typing import Literal

from venzo.core.derive import DerivedSetup, check_derives
from venzo.core.edits.base import setup_of
from venzo.core.edits.turning import OrderFaces
from venzo.core.model import Document
from venzo.core.plan import Plan
from venzo.core.snags import BadInput, Snag
from venzo.core.voice import counted
from venzo.desk.compared import RevisionFigures, figures_of
from venzo.desk.jobs import derive, programs
from venzo.store.store import Revision, Store

Outlines = Literal["here", "before", "half"]
MOST_SAID = 6


class FaceOrder(Document):
    """A way to cut both faces, and what comes of it.

    ``now``: the job is cut so; ``refused``: why it cannot be (empty: it can). ``seconds``: of motion;
    ``turning``: by hand, over all sheets, s; ``hold``: how many times over the piece that is held least is
    held; ``said``: the stops and looks that the job does not have now.
    """

    rough_both_first: bool
    outlines: Outlines
    says: str
    now: bool
    refused: str
    turns: int
    files: int
    seconds: float
    turning: float
    stops: int
    looks: int
    hold: float | None
    cost: float | None
    currency: str
    said: list[str]


def _says(way: OrderFaces, outlines: Outlines) -> str:
    """The way in words."""
    last = "the first face" if way.rough_both_first else "the other face"
    cut = {
        "here": "outlines from the other face",
        "before": "outlines from the first face",
        "half": f"outlines half from each, parted from {last}",
    }[outlines]
    order = "both faces roughed, then both finished" if way.rough_both_first else "one face, then the other"
    return f"{order}; {cut}"


def face_order(store: Store, job: str, setup: str, rough_both_first: bool, outlines: Outlines) -> FaceOrder:
    """Plan a job with its faces cut in a certain way; nothing is stored.

    Raises:
        NotFound: no such job.
        BadInput: no such setup, or it is not the other face of one.
    """
    revision = store.get(job)
    plan = revision.plan
    own = setup_of(plan, setup)
    if own.other_face is None:
        raise BadInput(f"{own.name} is not turned over; turn it over first")
    way = OrderFaces(setup=setup, rough_both_first=rough_both_first, outlines=outlines)
    tried = way.apply(plan)
    first = own.other_face.of
    turns = tried.turns(first)
    about = {
        "rough_both_first": rough_both_first,
        "outlines": outlines,
        "says": _says(way, outlines),
        "now": tried == plan,
        "turns": turns,
    }
    try:
        check_derives(tried, store.shapes, plan)
        now, then = derive(store, plan), derive(store, tried)
        figures = figures_of(store, Revision(revision.number, tried, revision.says, False, False), then)
    except BadInput as e:
        none = {"files": 0, "seconds": 0.0, "turning": 0.0, "stops": 0, "looks": 0, "hold": None}
        return FaceOrder(**about, **none, refused=str(e), cost=None, currency="", said=[])
    return FaceOrder(**about, **_came(plan, tried, now, then, figures, first))


def _came(
    plan: Plan,
    tried: Plan,
    now: dict[str, DerivedSetup],
    then: dict[str, DerivedSetup],
    figures: RevisionFigures,
    first: str,
) -> dict[str, object]:
    """What comes of a way."""
    mine = [d for d in then.values() if d.setup.id == first or first in (x.setup.id for x in d.turns_before)]
    snags = [s for d in mine for s in d.snags]
    before = {s.message for d in now.values() for s in d.snags}
    sheets = len(then[first].sheets)
    minutes = tried.turns(first) * sheets * then[first].setup.rules.costs.turn_minutes
    return {
        "refused": "",
        "files": sum(len(programs(tried, d)) for d in mine),
        "seconds": round(then[first].yields_of_both.seconds, 1),
        "turning": round(minutes * 60, 1),
        "stops": _count(snags, "stop"),
        "looks": _count(snags, "look"),
        "hold": figures.hold,
        "cost": figures.cost,
        "currency": figures.currency,
        "said": _new(snags, before),
    }


def _count(snags: list[Snag], severity: str) -> int:
    return sum(s.severity == severity for s in snags)


def _new(snags: list[Snag], before: set[str]) -> list[str]:
    said = list(dict.fromkeys(s.message for s in snags if s.severity != "note" and s.message not in before))
    more = len(said) - MOST_SAID
    return [*said[:MOST_SAID], *([f"and {counted(more, 'other')}"] if more > 0 else [])]
