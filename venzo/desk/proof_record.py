"""One verdict a sheet: every rule that spoke of it, and the record that somebody looked, which stands as long
as nothing that the sheet's programs follow from changes.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from venzo.core.derive import DerivedSetup
from venzo.core.model import Id, Moment, Value, digest
from venzo.core.order.of_sheet import SheetPlan
from venzo.core.plan import Plan
from venzo.core.proof.left import Left
from venzo.core.proof.load import load_snags
from venzo.core.runs.records import SheetProven, Words
from venzo.core.runs.sums import standing
from venzo.core.snags import BadInput, Severity, Snag, look, note
from venzo.core.stock.sheet import Stock
from venzo.desk import jobs
from venzo.desk.cut_stock import SheetAt, left_of, sheet_of
from venzo.desk.loads import loads_of
from venzo.store.store import Conflict, KeptRun, Revision, Store

RANK: dict[Severity, int] = {"stop": 0, "look": 1, "note": 2}
Verdict = Literal["stopped", "to look at", "clear"]


class RuleSaid(Value):
    """A rule that spoke: how grave at worst, how often, and what it said first."""

    rule: str
    severity: Severity
    count: int
    message: str


class RecordOfProof(Value):
    """That somebody looked: which change of the job, who and when; ``changed``: what is otherwise since."""

    number: int
    revision: int
    author: str
    made: Moment
    note: str
    changed: list[str]


class SheetVerdict(Value):
    """What is to be said of a sheet before it is cut. ``seen``: names the state that the verdict is of; a
    record is made of what was seen. ``removed``: mm3 taken off the sheet; None: a cutter is not named.
    """

    verdict: Verdict
    stops: int
    looks: int
    notes: int
    rules: list[RuleSaid]
    removed: float | None
    seen: str
    record: RecordOfProof | None


class SheetRecord(Value):
    """The last record that somebody looked at a sheet's proof; None: nobody did."""

    setup: str
    sheet: str
    copy_no: int
    record: RecordOfProof | None


class SheetLookedAt(Value):
    """A person looked at a sheet's proof as it was ``seen``, and lets it go."""

    setup: Id
    sheet: Id
    sheet_copy: Annotated[int, Field(ge=0)] = 0
    seen: Annotated[str, Field(max_length=100)]
    note: Words = ""


def verdict(store: Store, revision: Revision, at: SheetAt) -> SheetVerdict:
    """The verdict on a sheet, with the last record of its proof.

    Raises:
        BadInput: no such sheet.
    """
    plan = revision.plan
    d, sheet, stock = sheet_of(store, plan, at)
    snags = said_of(store, plan, at)
    counts = {w: sum(s.severity == w for s in snags) for w in RANK}
    now = follows_from(store, plan, d, sheet, stock)
    return SheetVerdict(
        verdict="stopped" if counts["stop"] else "to look at" if counts["look"] else "clear",
        stops=counts["stop"],
        looks=counts["look"],
        notes=counts["note"],
        rules=_by_rule(snags),
        removed=jobs.removed_from(store, plan, d, sheet),
        seen=digest(now, [s.plain() for s in snags]),
        record=_latest(store, plan.id, at, now),
    )


def records(store: Store, revision: Revision) -> list[SheetRecord]:
    """Who looked at the proof of each sheet of a job, and what is otherwise since."""
    plan = revision.plan
    out = []
    for d in jobs.derive(store, plan, hold=False).values():
        for sheet in d.sheets:
            at = SheetAt(setup=d.setup.id, sheet=sheet.sheet, copy_no=sheet.copy_no)
            stock = sheet_of(store, plan, at)[2]
            now = follows_from(store, plan, d, sheet, stock)
            found = _latest(store, plan.id, at, now)
            out.append(SheetRecord(setup=at.setup, sheet=at.sheet, copy_no=at.copy_no, record=found))
    return out


def look_at(store: Store, job: str, said: SheetLookedAt) -> None:
    """Record that somebody looked at a sheet's proof and lets it go.

    Raises:
        NotFound: no such job.
        BadInput: no such sheet, or something stops it.
        Conflict: it is not any more as it was seen.
    """
    revision = store.get(job)
    at = SheetAt(setup=said.setup, sheet=said.sheet, copy_no=said.sheet_copy)
    found = verdict(store, revision, at)
    if found.stops:
        many = f"{found.stops} stop{'s' * (found.stops != 1)}"
        raise BadInput(
            f"sheet {said.sheet} {said.sheet_copy + 1} has {many}; a sheet is let go once nothing stops it"
        )
    if found.seen != said.seen:
        raise Conflict("the proof", ["the sheet is not as it was seen; look at it again"], revision.number)
    d, sheet, stock = sheet_of(store, revision.plan, at)
    new = SheetProven(
        job=job,
        revision=revision.number,
        setup=said.setup,
        sheet=said.sheet,
        sheet_copy=said.sheet_copy,
        follows=follows_from(store, revision.plan, d, sheet, stock),
        looks=found.looks,
        notes=found.notes,
        said=tuple(r.rule for r in found.rules)[:400],
        note=said.note.strip(),
    )

    def check(_kept: list[KeptRun]) -> None:
        if store.head(job) != revision.number:
            raise Conflict("the proof", ["the job was edited meanwhile; look at it again"], store.head(job))

    store.record(new, check)


def said_of(store: Store, plan: Plan, at: SheetAt) -> list[Snag]:
    """Everything that any rule says of a sheet, the gravest first: of its plan, its programs, its loads, and
    what is left standing.
    """
    d, sheet, stock = sheet_of(store, plan, at)
    loads = loads_of(d.setup, sheet, stock)
    whole = jobs.derive(store, plan)[d.setup.id]  # how it is held must be known, not only if it happens to be
    found = [
        *_of_plan(whole, sheet),
        *jobs.prove_sheet(store, plan, d, sheet).snags,
        *load_snags(d.setup, sheet, loads),
        *_of_left(plan, left_of(store, plan, at), stock),
    ]
    return sorted(found, key=lambda s: RANK[s.severity])


def _of_plan(d: DerivedSetup, sheet: SheetPlan) -> list[Snag]:
    """What the plan's rules say of a sheet, its pieces and parts, and of its setup as a whole."""
    parts = {q.part for q in sheet.pieces}
    pieces = {q.id for q in sheet.pieces}

    def about(s: Snag) -> bool:
        where = s.where or {}
        if "sheet" in where:
            return (where["sheet"], where.get("sheet_copy", 0)) == (sheet.sheet, sheet.copy_no)
        if "piece" in where:
            return where["piece"] in pieces
        if "part" in where:
            return where["part"] in parts
        return where.get("stock", sheet.sheet) == sheet.sheet

    return [s for s in d.snags if about(s)]


def _of_left(plan: Plan, left: Sequence[Left], stock: Stock) -> list[Snag]:
    """What is left standing, a line for each kind and part: corners that no cutter comes into are told; a
    contour or a floor is to be looked at.
    """
    names = {p.id: p.name for p in plan.parts}
    groups: dict[tuple[str, str, str], list[Left]] = {}
    for f in left:
        groups.setdefault((f.kind, f.part, f.contour), []).append(f)
    out = []
    for (kind, part, contour), places in groups.items():
        high = max(p.height for p in places)
        n = len(places)
        what = {
            "corner": f"in {n} corner{'s' * (n != 1)} of {contour}",
            "beside": f"all along {contour}" + (f", {n} times" if n != 1 else ""),
            "floor": f"on the floor of {contour}" + (f", {n} times" if n != 1 else ""),
        }[kind]
        how = "as high as the sheet" if high >= stock.thickness - 0.05 else f"up to {high:.2f} mm high"
        words = f"{names.get(part, part)}: material stays {what}, {how}"
        tell = note if kind == "corner" else look
        out.append(tell(f"left.{kind}", words, {"part": part, "contour": contour}))
    return out


def _by_rule(snags: Sequence[Snag]) -> list[RuleSaid]:
    first: dict[str, Snag] = {}
    count: dict[str, int] = {}
    for s in snags:
        first.setdefault(s.rule, s)
        count[s.rule] = count.get(s.rule, 0) + 1
    return [
        RuleSaid(rule=r, severity=s.severity, count=count[r], message=s.message) for r, s in first.items()
    ]


def follows_from(store: Store, plan: Plan, d: DerivedSetup, sheet: SheetPlan, stock: Stock) -> dict[str, str]:
    """Digests of all that a sheet's programs and their proof follow from, by name as a programmer says it."""
    s = d.setup
    names = {p.id: p.name for p in plan.parts}
    parts = sorted({q.part for q in sheet.pieces})
    used = {c.cut.cutter for c in sheet.cuts}
    cuts = [f"{c.name} {c.cut.key}" for c in sheet.cuts]
    files = [f for f in jobs.programs(plan, d) if f.serves(sheet)]
    return {
        **{f"the drawing of {names.get(p, p)}": plan.shape_of(p) for p in parts},
        "the layout": digest([(q.id, q.x, q.y, q.rotation, q.mirrored) for q in sheet.pieces]),
        "the cuts": digest(sorted(cuts)),
        "the order of cuts": digest([c.name for c in sheet.cuts]),
        **{f"cutter {c.name}": digest(c) for c in s.cutters if c.id in used},
        "holders": digest(s.holders),
        "the stock": digest(stock.model_dump(mode="json", exclude={"quantity", "price"})),
        "the material": digest(s.material),
        "machine " + s.machine.name: digest(s.machine),
        "how the sheet lies and is held": digest(
            list(s.sheet_at), s.edge_at, s.indexing, s.zones_on, s.screws, s.fixings
        ),
        "the zeros": digest(s.datum, s.z_zero),
        "the house rules": digest(s.rules),
        "the programs": digest([f.text for f in files]),
    }


def _latest(store: Store, job: str, at: SheetAt, now: dict[str, str]) -> RecordOfProof | None:
    """The last record of a sheet's proof, and what is otherwise since."""
    here = (at.setup, at.sheet, at.copy_no)
    kept = {k.number: k for k in store.runs(job)}
    for n, r in reversed(standing([(k.number, k.record) for k in kept.values()])):
        if isinstance(r, SheetProven) and (r.setup, r.sheet, r.sheet_copy) == here:
            changed = [k for k in dict.fromkeys((*now, *r.follows)) if now.get(k) != r.follows.get(k)]
            # the programs' text follows from the rest: named only where nothing else is
            changed = [k for k in changed if k != "the programs"] or changed
            return RecordOfProof(
                number=n,
                revision=r.revision,
                author=kept[n].author,
                made=kept[n].made,
                note=r.note,
                changed=changed,
            )
    return None
