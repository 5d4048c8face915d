"""A cut that its edit no longer has is kept while undoing or redoing can bring it back."""

import sqlalchemy as sa
from alembic import op

revision = "0024"
down_revision = "0023"


def upgrade() -> None:
    """Let a cut be on no clip, but of an edit."""
    op.alter_column("cut", "outgoing_id", nullable=True)
    op.add_column(
        "cut",
        sa.Column(
            "left_edit_id", sa.Uuid, sa.ForeignKey("edit.id", ondelete="CASCADE"), index=True
        ),
    )
    op.create_check_constraint(
        "cut_is_in_one_place", "cut", "num_nonnulls(outgoing_id, left_edit_id) = 1"
    )
