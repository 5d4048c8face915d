"""The locations of the database and the files, from the environment."""

from functools import lru_cache
from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

from idle_shimmer.core.errors import ShimmerError


class SettingMissing(ShimmerError):
    """A variable is not set: start with ./start, or set it."""


class Settings(BaseSettings):
    """``DATABASE_URL``, ``IDLE_SHIMMER_DATA`` (media and renders), ``IDLE_SHIMMER_WEB`` (built pages).

    ``IDLE_SHIMMER_STORE`` is the URL of a store of files that several machines share; the data folder is
    then a cache of it. ``IDLE_SHIMMER_PROXIES`` are the addresses or networks of reverse proxies, with commas
    between them: they say where a request comes from, and whether by TLS. ``IDLE_SHIMMER_WARM_UP`` is false where
    processes need not have everything loaded before the first picture is asked for.
    """

    model_config = SettingsConfigDict(env_file=None)

    database_url: str = ""
    idle_shimmer_data: Path = Path("var")
    idle_shimmer_store: str = ""
    idle_shimmer_web: Path = Path("web/build")
    idle_shimmer_proxies: str = "127.0.0.1"
    idle_shimmer_warm_up: bool = True

    def database(self) -> str:
        """Return the database address for SQLAlchemy with psycopg."""
        if not self.database_url:
            raise SettingMissing(
                "no database is set: run ./start, or set this to postgresql://user@host/name",
                field="DATABASE_URL",
            )
        _, _, rest = self.database_url.partition("://")
        return f"postgresql+psycopg://{rest}"

    def plain_database(self) -> str:
        """Return the database address for psycopg."""
        return self.database().replace("postgresql+psycopg://", "postgresql://", 1)

    @property
    def media(self) -> Path:
        """The folder of imported files."""
        return self.idle_shimmer_data.resolve() / "media"

    @property
    def renders(self) -> Path:
        """The folder of rendered files."""
        return self.idle_shimmer_data.resolve() / "renders"

    @property
    def mattes(self) -> Path:
        """The folder of the mattes of subjects."""
        return self.idle_shimmer_data.resolve() / "mattes"

    @property
    def proxies(self) -> Path:
        """The folder of the small copies of clips."""
        return self.idle_shimmer_data.resolve() / "proxies"

    @property
    def segments(self) -> Path:
        """The folder of the segments of renders that are at work."""
        return self.idle_shimmer_data.resolve() / "segments"

    @property
    def demo(self) -> Path:
        """The folder of drawn demo clips."""
        return self.idle_shimmer_data.resolve() / "demo"


@lru_cache(maxsize=1)
def settings() -> Settings:
    """Return the settings of this process."""
    return Settings()
