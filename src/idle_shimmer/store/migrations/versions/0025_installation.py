"""The mark that the store of files carries."""

import sqlalchemy as sa
from alembic import op

revision = "0025"
down_revision = "0024"


def upgrade() -> None:
    """Add the table, which has one row at most."""
    op.create_table(
        "installation",
        sa.Column("id", sa.Integer, sa.CheckConstraint("id = 1"), primary_key=True),
        sa.Column("store_mark", sa.Text, nullable=False),
    )
