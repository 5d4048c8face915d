"""Edits have a version, steps of their history can be redone, cuts keep the status of their checks."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Add the columns. Steps recorded earlier had no name and tempo: they are kept as they are."""
    op.add_column(
        "edit", sa.Column("version", sa.Integer, nullable=False, server_default=sa.text("1"))
    )
    op.add_column("edit_history_step", sa.Column("after", JSONB, nullable=True))
    op.add_column(
        "edit_history_step",
        sa.Column("revisions", JSONB, nullable=False, server_default=sa.text("'{}'")),
    )
    op.add_column(
        "edit_history_step",
        sa.Column("undone", sa.Boolean, nullable=False, server_default=sa.text("false")),
    )
    # The worst finding of a cut's checks, kept with the state that it was found in.
    op.add_column("cut", sa.Column("status", JSONB, nullable=True))
