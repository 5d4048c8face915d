"""Detections of the cuts of finished videos."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Create the table of detections."""
    op.create_table(
        "cut_search",
        sa.Column(
            "clip_id", sa.Uuid, sa.ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("done_frames", sa.Integer, nullable=False),
        sa.Column("total_frames", sa.Integer, nullable=False),
        sa.Column("cancel_asked", sa.Boolean, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("scores", postgresql.JSONB, nullable=False),
        sa.CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
            name="cut_search_state",
        ),
    )
