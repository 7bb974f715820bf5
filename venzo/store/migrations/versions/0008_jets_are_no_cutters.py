"""Jets leave the cutters: a torch or a fluid jet is a head setting of a kerf table. Entries are kept apart,
under a kind of their own; pinned in a job for a router they never cut anything.
"""

import json
import zlib

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"

JETS = ("plasma torch", "fluid jet")


def upgrade() -> None:
    base = op.get_bind()
    meta = sa.MetaData()
    library, changes, revisions = (
        sa.Table(name, meta, autoload_with=base) for name in ("library", "library_changes", "revisions")
    )
    wanted = sa.select(library.c.id, library.c.body).where(library.c.kind == "cutter")
    jets = {i for i, body in base.execute(wanted).all() if _is_jet(body)}
    base.execute(
        library.update().where(library.c.kind == "cutter", library.c.id.in_(jets)).values(kind="head setting")
    )
    # an entry that was a jet once and is a cutter now stays one; what the log tells of the jet is set apart
    logged = sa.select(changes.c.number, changes.c.before, changes.c.after).where(changes.c.kind == "cutter")
    told = [n for n, before, after in base.execute(logged).all() if _is_jet(before) or _is_jet(after)]
    base.execute(changes.update().where(changes.c.number.in_(told)).values(kind="head setting"))
    for number, job, packed in base.execute(
        sa.select(revisions.c.number, revisions.c.job, revisions.c.plan)
    ).all():
        plan = json.loads(zlib.decompress(packed))
        if _drop_jets(plan):
            base.execute(
                revisions.update()
                .where(revisions.c.job == job, revisions.c.number == number)
                .values(plan=zlib.compress(json.dumps(plan).encode(), 3))
            )


def _is_jet(body: object) -> bool:
    entry = json.loads(body) if isinstance(body, str) else body
    return isinstance(entry, dict) and entry.get("kind") in JETS


def _drop_jets(plan: dict) -> bool:
    """Take jets out of a plan's cutters; was there any?"""
    found = False
    for setup in plan.get("setups", []):
        cutters = [c for c in setup.get("cutters", []) if not _is_jet(c)]
        found = found or len(cutters) < len(setup.get("cutters", []))
        setup["cutters"] = cutters
    return found


def downgrade() -> None:
    op.execute("UPDATE library SET kind = 'cutter' WHERE kind = 'head setting'")
    op.execute("UPDATE library_changes SET kind = 'cutter' WHERE kind = 'head setting'")
