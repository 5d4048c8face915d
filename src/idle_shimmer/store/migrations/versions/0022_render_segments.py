"""Long renders are made of segments, which several workers render."""

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"


def upgrade() -> None:
    """Add the table."""
    op.create_table(
        "render_segment",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "render_id",
            sa.Uuid,
            sa.ForeignKey("render.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("first_frame", sa.Integer, nullable=False),
        sa.Column("end_frame", sa.Integer, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("done_frames", sa.Integer, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("file", sa.Text, nullable=False),
        sa.Column("worker", sa.Text, nullable=False),
        sa.Column("claim", sa.Integer, nullable=False),
        sa.Column("starts", sa.Integer, nullable=False),
        sa.Column("seen_at", sa.DateTime(timezone=True)),
        sa.UniqueConstraint("render_id", "number"),
        sa.CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed')", name="render_segment_state"
        ),
    )
