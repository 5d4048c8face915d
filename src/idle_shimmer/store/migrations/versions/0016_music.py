"""Edits have a music track; the beats of sounds are detected and kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    """Add the columns and the table."""
    op.add_column("edit", sa.Column("music_clip_id", sa.Uuid, sa.ForeignKey("clip.id")))
    for name in ("music_offset_s", "music_gain_db"):
        op.add_column(
            "edit", sa.Column(name, sa.Float, nullable=False, server_default=sa.text("0"))
        )
    op.create_table(
        "beat_detection",
        sa.Column(
            "clip_id", sa.Uuid, sa.ForeignKey("clip.id", ondelete="CASCADE"), primary_key=True
        ),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        # {"bpm", "offset_s", "beats_s"}, once it is done.
        sa.Column("found", JSONB),
        sa.CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed')", name="beat_detection_state"
        ),
    )
