"""Edits keep the beats of their music one by one, where the tempo drifts."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0021"
down_revision = "0020"


def upgrade() -> None:
    """Add the column."""
    op.add_column("edit", sa.Column("beat_times_s", JSONB))
