"""Detections of beats say how far they are, and can be cancelled."""

import sqlalchemy as sa
from alembic import op

revision = "0027"
down_revision = "0026"


def upgrade() -> None:
    """Add what every claimed job has; seconds of sound are counted."""
    for name in ("done_s", "total_s", "claim", "starts"):
        op.add_column(
            "beat_detection", sa.Column(name, sa.Integer, nullable=False, server_default="0")
        )
    op.add_column(
        "beat_detection",
        sa.Column("cancel_asked", sa.Boolean, nullable=False, server_default=sa.false()),
    )
    op.drop_constraint("beat_detection_state", "beat_detection")
    op.create_check_constraint(
        "beat_detection_state",
        "beat_detection",
        "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')",
    )
