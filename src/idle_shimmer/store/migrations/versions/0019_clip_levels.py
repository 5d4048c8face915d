"""Placed clips have a gain, and crossfade with the next one."""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    """Add the columns."""
    for name, kind in (("gain_db", sa.Float), ("crossfade", sa.Integer)):
        op.add_column(
            "placed_clip", sa.Column(name, kind, nullable=False, server_default=sa.text("0"))
        )
