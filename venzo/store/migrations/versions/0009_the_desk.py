"""The shop's desk: where a job lies, what it is found by, and its card."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
NEW = (
    sa.Column("place", sa.String(10), nullable=False, server_default="desk"),
    sa.Column("words", sa.Text, nullable=True),
    sa.Column("facts", sa.JSON, nullable=True),
    sa.Column("card", sa.JSON, nullable=True),
    sa.Column("card_of", sa.Integer, nullable=True),
    sa.Column("standing", sa.String(10), nullable=False, server_default=""),
)


def upgrade() -> None:
    for column in NEW:
        op.add_column("jobs", column.copy())
    op.create_index("jobs_by_place", "jobs", ["place", "changed"])


def downgrade() -> None:
    op.drop_index("jobs_by_place", "jobs")
    for column in NEW:
        op.drop_column("jobs", column.name)
