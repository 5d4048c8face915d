"""The tables and functions of the job queue, brought from one pinned version to another.

The queue's package ships its schema as numbered SQL files. Each migration of ours names the last of
them that it applies, so that the same migration always makes the same tables, whichever version of
the package is installed.
"""

from importlib import resources

from alembic import op

NEWEST = "03.04.00_50_post_add_retry_failed_job_procedure.sql"


def shipped() -> list[str]:
    """Return the names of the SQL files of the installed package, in order."""
    folder = resources.files("procrastinate.sql.migrations")
    return sorted(file.name for file in folder.iterdir() if file.name.endswith(".sql"))


def upgrade_queue(through: str, after: str = "") -> None:
    """Apply the files after ``after``, up to and with ``through``."""
    names = shipped()
    if through not in names:
        raise RuntimeError(
            f"the installed job queue has no file {through}: install the packages of requirements.lock"
        )
    folder = resources.files("procrastinate.sql.migrations")
    # New members of an enumeration can only be used once they are committed.
    with op.get_context().autocommit_block():
        for name in names:
            if after < name <= through:
                sql = (folder / name).read_text(encoding="utf-8")
                op.get_bind().exec_driver_sql(sql.replace("%", "%%"))
