"""Clips know the timecode at which their file begins."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"


def upgrade() -> None:
    """Add the column: clips that were imported before count from 0, as they did."""
    op.add_column(
        "clip", sa.Column("start_frame", sa.Integer, nullable=False, server_default=sa.text("0"))
    )
