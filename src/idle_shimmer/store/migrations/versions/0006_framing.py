"""How each placed clip is framed and graded."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Every clip that is placed already stays as it is."""
    op.add_column(
        "placed_clip",
        sa.Column("framing", postgresql.JSONB, nullable=False, server_default=sa.text("'{}'")),
    )
