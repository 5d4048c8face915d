"""Placed clips have strokes that mark their subject; its mattes are made by jobs and kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"


def upgrade() -> None:
    """Add the column and the table."""
    op.add_column(
        "placed_clip",
        sa.Column("strokes", JSONB, nullable=False, server_default=sa.text("'[]'::jsonb")),
    )
    op.create_table(
        "subject_matte",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("mark", sa.Text, nullable=False, unique=True),
        sa.Column(
            "clip_id",
            sa.Uuid,
            sa.ForeignKey("clip.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("strokes", JSONB, nullable=False),
        sa.Column("first", sa.Integer, nullable=False),
        sa.Column("last", sa.Integer, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("done_frames", sa.Integer, nullable=False),
        sa.Column("cancel_asked", sa.Boolean, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("file", sa.Text, nullable=False),
        sa.Column("changes", JSONB, nullable=False),
        sa.Column("claim", sa.Integer, nullable=False),
        sa.Column("starts", sa.Integer, nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()
        ),
        sa.CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
            name="subject_matte_state",
        ),
    )
