"""Interlaced clips are deinterlaced, unless a placed clip says otherwise."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
_FORMER = "The clip is interlaced: both fields of a frame are shown together."
_NEWER = "The clip is interlaced: Deinterlace, in its panel, makes whole frames of its fields."


def upgrade() -> None:
    """Add what is known of clips, from the notes that they had, and the choice on placed clips."""
    op.add_column(
        "clip", sa.Column("interlaced", sa.Boolean, nullable=False, server_default=sa.false())
    )
    op.add_column(
        "placed_clip",
        sa.Column("deinterlaced", sa.Boolean, nullable=False, server_default=sa.true()),
    )
    noted = sa.text(
        "UPDATE clip SET interlaced = true, notes = replace(notes::text, :former, :newer)::jsonb"
        " WHERE strpos(notes::text, :former) > 0"
    )
    op.execute(noted.bindparams(former=_FORMER, newer=_NEWER))
