"""The ledger of boards: entries that are only ever added."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "ledger",
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("board", sa.String(80), nullable=False),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.Column("body", sa.JSON, nullable=False),
    )
    op.create_index("ledger_by_board", "ledger", ["board", "number"])


def downgrade() -> None:
    op.drop_table("ledger")
