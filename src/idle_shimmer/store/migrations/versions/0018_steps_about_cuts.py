"""A step in the history of an edit may be about one cut."""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"


def upgrade() -> None:
    """Add the column."""
    op.add_column("edit_history_step", sa.Column("cut_id", sa.Uuid))
