"""Renders say how they are written and how large they are; the last choice of each account is kept."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    """Add the columns and the table."""
    op.add_column(
        "render", sa.Column("settings", JSONB, nullable=False, server_default=sa.text("'{}'"))
    )
    op.add_column("render", sa.Column("bytes", sa.BigInteger))
    op.create_table(
        "render_choice",
        # Empty where nobody is signed in.
        sa.Column("author", sa.Text, primary_key=True),
        sa.Column("choice", JSONB, nullable=False),
    )
