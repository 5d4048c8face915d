"""The tables and functions of the job queue, of a pinned version.

The queue's package ships its schema as numbered SQL files. The migration names the last of
them that it applies, so that the same migration always makes the same tables, whichever version of
the package is installed.
"""

from importlib import resources

from alembic import op

NEWEST = "03.04.00_50_post_add_retry_failed_job_procedure.sql"
_REMOVED = """
DO $$
DECLARE
    one text;
BEGIN
    FOR one IN SELECT oid::regclass::text FROM pg_class
        WHERE relkind = 'r' AND relname LIKE 'procrastinate\\_%%' LOOP
        EXECUTE 'DROP TABLE ' || one || ' CASCADE';
    END LOOP;
    FOR one IN SELECT oid::regprocedure::text FROM pg_proc WHERE proname LIKE 'procrastinate\\_%%' LOOP
        EXECUTE 'DROP ROUTINE ' || one || ' CASCADE';
    END LOOP;
    FOR one IN SELECT oid::regtype::text FROM pg_type
        WHERE typtype IN ('e', 'c') AND typname LIKE 'procrastinate\\_%%' LOOP
        EXECUTE 'DROP TYPE ' || one || ' CASCADE';
    END LOOP;
END
$$
"""
_FOLDER = resources.files("procrastinate.sql.migrations")


def shipped() -> list[str]:
    """Return the names of the SQL files of the installed package, in order."""
    return sorted(file.name for file in _FOLDER.iterdir() if file.name.endswith(".sql"))


def read_shipped(name: str) -> str:
    """Return the text of one of them."""
    return (_FOLDER / name).read_text(encoding="utf-8")


def create_queue(through: str) -> None:
    """Make the tables and functions by the files up to and with ``through``.

    New members of an enumeration can only be used once they are committed: the files cannot be one transaction.
    What an attempt that was interrupted has left is removed first.
    """
    names = shipped()
    if through not in names:
        raise RuntimeError(
            f"the installed job queue has no file {through}: install the packages of requirements.lock"
        )
    with op.get_context().autocommit_block():
        connection = op.get_bind()
        connection.exec_driver_sql(_REMOVED)
        for name in names:
            if name <= through:
                connection.exec_driver_sql(read_shipped(name).replace("%", "%%"))
