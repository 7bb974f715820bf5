"""What a snag offers is done for real: it clears what it names, and stops nothing that went before."""

from __future__ import annotations

from pydantic import TypeAdapter

from tests.support.trial import TrialJob
from venzo.core.edits import read_command
from venzo.core.edits.asks import AlterPart, Ask, ChangeModel, Remake
from venzo.desk import drawings, jobs, models, remedies
from venzo.desk.remedies import RANK, SEARCHES, key_of

ANY_ASK: TypeAdapter[Ask] = TypeAdapter(Ask)


def offers_mend(b: TrialJob, rule: str) -> list[str]:
    """Apply every remedy that a rule offers on a trial, one at a time, each taken back again; their
    labels.
    """
    derived = jobs.derive(b.store, b.plan)
    offered, complete = remedies.offered(b.store, b.plan, derived, 60.0)
    assert complete
    head = b.plan
    stops = {key_of(s) for d in derived.values() for s in d.snags if s.severity == "stop"}
    done = []
    for snag in [s for s in offered[b.up] if s.rule == rule]:
        for r in snag.remedies:
            if r.command["kind"] in SEARCHES:
                ANY_ASK.validate_python(r.command)
                continue
            if r.command["kind"] == "alter-part":
                ask = AlterPart.model_validate(r.command)
                drawings.alter_part(b.store, b.job, b.store.get(b.job).number, ask)
            elif r.command["kind"] == "change-model":
                asked = ChangeModel.model_validate(r.command)
                models.change_model(b.store, b.job, b.store.get(b.job).number, asked)
            elif r.command["kind"] == "remake":
                again = Remake.model_validate(r.command)
                drawings.remake(b.store, b.job, b.store.get(b.job).number, again)
            else:
                b.do(read_command(r.command))
            after = [s for d in jobs.derive(b.store, b.plan).values() for s in d.snags]
            still = max((RANK[s.severity] for s in after if key_of(s) == key_of(snag)), default=-1)
            assert still < RANK[snag.severity], f"{rule}: {r.label!r} does not clear it"
            new = [s.message for s in after if s.severity == "stop" and key_of(s) not in stops]
            assert not new, f"{rule}: {r.label!r} brings {new}"
            done.append(r.label)
            while b.plan != head:
                b.store.undo(b.job)
    return done
