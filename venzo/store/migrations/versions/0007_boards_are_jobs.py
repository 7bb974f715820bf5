"""Boards to surface become jobs: until now they lay in the library."""

import json
import zlib
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("kind", sa.String(20), nullable=False, server_default="parts"))
    base = op.get_bind()
    meta = sa.MetaData()
    library, jobs, revisions, ledger = (
        sa.Table(name, meta, autoload_with=base) for name in ("library", "jobs", "revisions", "ledger")
    )
    taken = set(base.execute(sa.select(jobs.c.id)).scalars())
    wanted = (
        sa.select(library.c.id, library.c.body).where(library.c.kind == "bench").order_by(library.c.place)
    )
    for board, body in base.execute(wanted).all():
        name = board
        while name in taken:  # a job had the board's name
            name = f"{name}-board"
        taken.add(name)
        surface = {**body, "id": name, "board": {**body["board"], "id": name}}
        plan = {"id": name, "name": surface["board"]["name"], "surface": surface}
        now = datetime.now(UTC).replace(tzinfo=None)
        base.execute(
            jobs.insert().values(id=name, name=plan["name"], head=1, created=now, changed=now, kind="surface")
        )
        base.execute(
            revisions.insert().values(
                job=name,
                number=1,
                plan=zlib.compress(json.dumps(plan).encode(), 3),
                command=None,
                touches=[],
                says=f"{plan['name']} put on the bench",
                made=now,
                author="",
            )
        )
        base.execute(ledger.update().where(ledger.c.board == board).values(board=name))
    base.execute(library.delete().where(library.c.kind == "bench"))


def downgrade() -> None:
    op.drop_column("jobs", "kind")
