"""Clips, edits, placed clips, cuts with their revisions, renders."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None


def _moment(name: str, *, required: bool = True) -> "sa.Column[object]":
    default = sa.func.now() if required else None
    return sa.Column(
        name, sa.DateTime(timezone=True), nullable=not required, server_default=default
    )


def upgrade() -> None:
    """Create the first tables."""
    op.create_table(
        "clip",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("file", sa.Text, nullable=False),
        sa.Column("sha256", sa.Text, nullable=False, unique=True),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("rate", sa.Text, nullable=False),
        sa.Column("frame_count", sa.Integer, nullable=False),
        sa.Column("duration_s", sa.Float, nullable=False),
        sa.Column("has_sound", sa.Boolean, nullable=False),
        sa.Column("still", sa.Boolean, nullable=False),
        sa.Column("constant_rate", sa.Boolean, nullable=False),
        sa.Column("notes", JSONB, nullable=False),
        _moment("created_at"),
    )
    op.create_table(
        "edit",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("rate", sa.Text, nullable=False),
        _moment("created_at"),
        _moment("changed_at"),
    )
    op.create_table(
        "placed_clip",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "edit_id",
            sa.Uuid,
            sa.ForeignKey("edit.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("clip_id", sa.Uuid, sa.ForeignKey("clip.id"), nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("in_frame", sa.Integer, nullable=False),
        sa.Column("out_frame", sa.Integer, nullable=False),
        sa.UniqueConstraint("edit_id", "position", deferrable=True, initially="DEFERRED"),
        sa.CheckConstraint("0 <= in_frame AND in_frame < out_frame", name="placed_clip_has_frames"),
    )
    op.create_table(
        "cut",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "outgoing_id",
            sa.Uuid,
            sa.ForeignKey("placed_clip.id", ondelete="CASCADE"),
            nullable=False,
            unique=True,
        ),
        sa.Column("current", sa.Integer, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
    )
    op.create_table(
        "cut_revision",
        sa.Column("cut_id", sa.Uuid, sa.ForeignKey("cut.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("label", sa.Text, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        _moment("created_at"),
    )
    op.create_table(
        "render",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("edit_id", sa.Uuid, sa.ForeignKey("edit.id", ondelete="SET NULL")),
        sa.Column("cut_id", sa.Uuid, sa.ForeignKey("cut.id", ondelete="SET NULL")),
        sa.Column("title", sa.Text, nullable=False),
        sa.Column("snapshot", JSONB, nullable=False),
        sa.Column("state", sa.Text, nullable=False),
        sa.Column("done_frames", sa.Integer, nullable=False),
        sa.Column("total_frames", sa.Integer, nullable=False),
        sa.Column("cancel_asked", sa.Boolean, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("file", sa.Text, nullable=False),
        _moment("created_at"),
        _moment("started_at", required=False),
        _moment("finished_at", required=False),
        sa.CheckConstraint(
            "state IN ('waiting', 'running', 'done', 'failed', 'cancelled')", name="render_state"
        ),
    )


def downgrade() -> None:
    """Drop the first tables."""
    for name in ("render", "cut_revision", "cut", "placed_clip", "edit", "clip"):
        op.drop_table(name)
