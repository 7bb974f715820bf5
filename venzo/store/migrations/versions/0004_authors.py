"""Who made a revision, or a change of the library."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    for table in ("revisions", "library_changes"):
        op.add_column(table, sa.Column("author", sa.String(80), nullable=False, server_default=""))


def downgrade() -> None:
    for table in ("revisions", "library_changes"):
        op.drop_column(table, "author")
