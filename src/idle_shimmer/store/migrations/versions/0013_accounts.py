"""Accounts, who is signed in, and who made revisions, steps and renders."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"

_WITH_AUTHOR = ("cut_revision", "edit_history_step", "render")


def upgrade() -> None:
    """Create the tables of accounts and the columns of authors."""
    now = sa.text("now()")
    op.create_table(
        "account",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.Text, nullable=False, unique=True),
        sa.Column("password_hash", sa.Text, nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=now),
    )
    op.create_table(
        "signed_in",
        sa.Column("token_hash", sa.Text, primary_key=True),
        sa.Column(
            "account_id",
            sa.Uuid,
            sa.ForeignKey("account.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=now),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
    )
    for table in _WITH_AUTHOR:
        op.add_column(table, sa.Column("author", sa.Text))
