"""What the release of a setup contains and what it leaves out."""

from __future__ import annotations

from venzo.core.derive import DerivedSetup
from venzo.core.model import Document
from venzo.core.plan import Plan
from venzo.core.release.programs import same_cuts


class PartCount(Document):
    """Pieces of a part, by its name."""

    part: str
    pieces: int


class Contents(Document):
    """What the release of a setup contains and what it leaves out, by name and number."""

    setup: str
    contains: list[PartCount]
    cuts: int
    sheets: int
    layouts: int
    leaves_out: list[str]
    stops: list[str]


def contents(plan: Plan, derived: DerivedSetup) -> Contents:
    """What the release contains and what it leaves out, by name and number."""
    names = {p.id: p.name for p in plan.parts}
    cut: dict[str, int] = {}
    for s in derived.sheets:
        for q in s.pieces:
            cut[q.part] = cut.get(q.part, 0) + 1
    left = [f"{names[p]}: {n} not placed" for p, n in derived.layout.unplaced.items()]
    left += [f"{p.name}: none wanted" for p in plan.parts_of(derived.setup.id) if not p.quantity]
    left += [
        f"{p.name}: missing from the newer drawing" for p in plan.parts_of(derived.setup.id) if p.missing
    ]
    seen = dict.fromkeys(w for parts in derived.cuts.values() for pc in parts.values() for w in pc.left_out)
    stops = [s.message for s in derived.snags if s.severity == "stop"]
    return Contents(
        setup=derived.setup.name,
        contains=[
            PartCount(part=names[p], pieces=n) for p, n in sorted(cut.items(), key=lambda kv: names[kv[0]])
        ],
        cuts=sum(len(s.cuts) for s in derived.sheets),
        sheets=len(derived.sheets),
        layouts=len(same_cuts(derived.sheets)),
        leaves_out=[*left, *seen],
        stops=stops,
    )
