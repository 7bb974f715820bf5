"""The rack: movements of sheets and remnants, only ever added to. A key is booked once."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.create_table(
        "rack",
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("lot", sa.String(80), nullable=False),
        sa.Column("job", sa.String(80), nullable=True),
        sa.Column("made", sa.DateTime, nullable=False),
        sa.Column("author", sa.String(80), nullable=False),
        sa.Column("body", sa.JSON, nullable=False),
    )
    op.create_index("rack_by_lot", "rack", ["lot", "number"])


def downgrade() -> None:
    op.drop_table("rack")
