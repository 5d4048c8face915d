"""The framing of placed clips."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Add the column; existing clips have the original framing."""
    op.add_column(
        "placed_clip",
        sa.Column("framing", postgresql.JSONB, nullable=False, server_default=sa.text("'{}'")),
    )
