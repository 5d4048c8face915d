"""The undo history of edits, beats, muted clips."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Add the columns, and the table of steps."""
    op.add_column("edit", sa.Column("beats_per_minute", sa.Float, nullable=True))
    op.add_column(
        "edit", sa.Column("beat_offset_s", sa.Float, nullable=False, server_default=sa.text("0"))
    )
    op.add_column(
        "placed_clip",
        sa.Column("muted", sa.Boolean, nullable=False, server_default=sa.text("false")),
    )
    # Cuts move between clips during an undo: the constraint has to hold only at its end.
    op.drop_constraint("cut_outgoing_id_key", "cut")
    op.create_unique_constraint(
        "cut_outgoing_id_key", "cut", ["outgoing_id"], deferrable=True, initially="DEFERRED"
    )
    op.create_table(
        "arranging_step",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column(
            "edit_id",
            sa.Uuid,
            sa.ForeignKey("edit.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("before", JSONB, nullable=False),
    )
