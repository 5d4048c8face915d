"""The tables and functions of the job queue, as its own package ships them."""

from alembic import op
from procrastinate.schema import SchemaManager

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Create the job queue."""
    op.get_bind().exec_driver_sql(SchemaManager.get_schema().replace("%", "%%"))
