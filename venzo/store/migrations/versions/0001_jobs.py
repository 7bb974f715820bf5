"""Jobs, revisions and the library."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(80), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("head", sa.Integer, nullable=False),
        sa.Column("created", sa.DateTime, nullable=False),
        sa.Column("changed", sa.DateTime, nullable=False),
    )
    op.create_table(
        "revisions",
        sa.Column("job", sa.String(80), sa.ForeignKey("jobs.id"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("plan", sa.LargeBinary, nullable=False),
        sa.Column("command", sa.JSON, nullable=False),
        sa.Column("touches", sa.JSON, nullable=False),
        sa.Column("says", sa.Text, nullable=False),
        sa.Column("back", sa.Integer),
        sa.Column("forward", sa.Integer),
        sa.Column("made", sa.DateTime, nullable=False),
    )
    op.create_index("revisions_by_job", "revisions", ["job", "number"])
    op.create_table(
        "library",
        sa.Column("kind", sa.String(20), primary_key=True),
        sa.Column("id", sa.String(80), primary_key=True),
        sa.Column("place", sa.Integer, nullable=False),
        sa.Column("body", sa.JSON, nullable=False),
    )


def downgrade() -> None:
    for table in ("library", "revisions", "jobs"):
        op.drop_table(table)
