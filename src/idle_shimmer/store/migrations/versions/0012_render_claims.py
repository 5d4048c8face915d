"""Renders are claimed by number: a worker that has lost its claim writes nothing."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Add the columns."""
    for name in ("claim", "starts"):
        op.add_column(
            "render", sa.Column(name, sa.Integer, nullable=False, server_default=sa.text("0"))
        )
