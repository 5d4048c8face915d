"""Pinned variants of transitions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Create the table of variants."""
    op.create_table(
        "cut_variant",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "cut_id",
            sa.Uuid,
            sa.ForeignKey("cut.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("document", postgresql.JSONB, nullable=False),
        sa.Column(
            "created_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()
        ),
    )
