"""Runs the migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config

from idle_shimmer.settings import settings


def upgrade(revision: str = "head") -> None:
    """Bring the database to a revision, by default the newest."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", settings().database().replace("%", "%%"))
    command.upgrade(config, revision)
