"""Deleted edits that can be restored."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    """Add the column."""
    op.add_column("edit", sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True))
