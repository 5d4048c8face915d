"""Presets of single filters, and when the steps of an edit's history were made."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0029"
down_revision = "0028"


def upgrade() -> None:
    """Add the table of presets; the time of steps that were made earlier is not known."""
    op.add_column("edit_history_step", sa.Column("created_at", sa.DateTime(timezone=True)))
    op.create_table(
        "filter_preset",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.Text, nullable=False, unique=True),
        sa.Column("document", JSONB, nullable=False),
        sa.Column(
            "created_at",
            sa.DateTime(timezone=True),
            nullable=False,
            server_default=sa.func.now(),
        ),
    )
