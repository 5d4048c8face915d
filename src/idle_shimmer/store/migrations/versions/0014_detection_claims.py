"""Detections of cuts are claimed by number, as renders are."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"


def upgrade() -> None:
    """Add the columns."""
    for name in ("claim", "starts"):
        op.add_column(
            "cut_detection",
            sa.Column(name, sa.Integer, nullable=False, server_default=sa.text("0")),
        )
