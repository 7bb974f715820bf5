"""Layouts beside the revisions that name them."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "layouts",
        sa.Column("digest", sa.String(32), primary_key=True),
        sa.Column("body", sa.LargeBinary, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("layouts")
