"""Runs: records that are only ever added to; wear so far, which stood on the cutters, becomes records."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    runs = op.create_table(
        "runs",
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("job", sa.String(80), nullable=True),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("body", sa.JSON, nullable=False),
    )
    op.create_index("runs_by_job", "runs", ["job", "number"])
    library = sa.table("library", sa.column("kind"), sa.column("id"), sa.column("body"))
    base = op.get_bind()
    wanted = sa.select(library.c.id, library.c.body).where(library.c.kind == "cutter")
    for cutter, body in base.execute(wanted).all():
        entry = json.loads(body)
        if entry.get("metres"):
            worn = {
                "kind": "worn",
                "cutter": cutter,
                "metres": entry["metres"],
                "says": "before runs were kept",
            }
            base.execute(runs.insert().values(job=None, made=sa.func.now(), author="", body=worn))


def downgrade() -> None:
    op.drop_table("runs")
