"""Changes of the library, so that they can be read and taken back."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.create_table(
        "library_changes",
        sa.Column("number", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("kind", sa.String(20), nullable=False),
        sa.Column("item", sa.String(80), nullable=False),
        sa.Column("before", sa.JSON(none_as_null=True)),
        sa.Column("after", sa.JSON(none_as_null=True)),
        sa.Column("says", sa.Text, nullable=False),
        sa.Column("undoes", sa.Integer),
        sa.Column("made", sa.DateTime, nullable=False),
    )
    op.create_index("library_changes_by_item", "library_changes", ["kind", "item", "number"])


def downgrade() -> None:
    op.drop_table("library_changes")
