"""Runs the migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config

from idle_shimmer.settings import settings


def upgrade(revision: str = "head", database: str | None = None) -> None:
    """Bring a database to a revision, by default that of the settings to the newest."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", (database or settings().database()).replace("%", "%%"))
    command.upgrade(config, revision)
