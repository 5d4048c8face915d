"""The tables and functions of the job queue, at the version with which this project began."""

from idle_shimmer.store.migrations.queue_schema import create_queue

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Create the job queue."""
    create_queue("03.04.00_50_post_add_retry_failed_job_procedure.sql")
