"""Examines an installation: what is missing, what is wrong, and what to do about it."""

import os
import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import func, select, text
from sqlalchemy.exc import SQLAlchemyError

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.space import free_bytes
from idle_shimmer.limits import size_text
from idle_shimmer.media.decode.confinement import available
from idle_shimmer.settings import settings
from idle_shimmer.store import migrate
from idle_shimmer.store.accounts.accounts import all_accounts
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.database import engine, session_scope
from idle_shimmer.store.installation import guard_store
from idle_shimmer.store.queue_state import living_worker_slots
from idle_shimmer.store.renders.renders import file_of
from idle_shimmer.store.tables import Clip, Edit, Render

Status = Literal["ok", "warning", "failed"]
_LOW_BYTES = 2_000_000_000
_LISTED = 5


@dataclass(frozen=True)
class Finding:
    """What was examined, how it is, and what to do where it is not well."""

    what: str
    status: Status
    message: str


def examine() -> Iterator[Finding]:
    """Yield a finding for everything that the application needs."""
    for what, look in _EXAMINATIONS:
        try:
            status, message = look()
        except (ShimmerError, SQLAlchemyError, OSError, ImportError) as error:
            status, message = "failed", " ".join(str(error).split())
        yield Finding(what, status, message)


def _python() -> tuple[Status, str]:
    import av

    libraries = ", ".join(f"{name} {version[0]}" for name, version in av.library_versions.items())
    return "ok", f"{sys.version.split()[0]}, PyAV {av.__version__} ({libraries})"


def _decoders() -> tuple[Status, str]:
    layers = available()
    if layers.files and layers.system_calls:
        return "ok", "confined by limits, seccomp and Landlock"
    missing = [
        name
        for name, has in (("seccomp (libseccomp)", layers.system_calls), ("Landlock", layers.files))
        if not has
    ]
    return "warning", f"confined by limits alone: this system lacks {' and '.join(missing)}"


def _pages() -> tuple[Status, str]:
    pages = settings().idle_shimmer_web.resolve()
    if (pages / "index.html").is_file():
        return "ok", str(pages)
    return "failed", f"not built at {pages}: run ./start, or set IDLE_SHIMMER_WEB"


def _database() -> tuple[Status, str]:
    with engine().connect() as connection:
        version = connection.scalar(text("SHOW server_version"))
        current = MigrationContext.configure(connection).get_current_revision()
    config = Config()
    config.set_main_option("script_location", str(Path(migrate.__file__).parent / "migrations"))
    newest = ScriptDirectory.from_config(config).get_current_head()
    if current != newest:
        return "failed", f"at revision {current or 'none'}, not {newest}: run idle-shimmer migrate"
    return "ok", f"PostgreSQL {version}, revision {current}"


def _workers() -> tuple[Status, str]:
    with session_scope() as session:
        count = living_worker_slots(session)
    if count:
        return "ok", f"{count} slots answered within 30 s"
    return "warning", "none runs: renders wait. Start one with idle-shimmer worker"


def _data() -> tuple[Status, str]:
    folder = settings().idle_shimmer_data.resolve()
    if not folder.is_dir():
        return "failed", f"{folder} does not exist: run ./start, or set IDLE_SHIMMER_DATA"
    if not os.access(folder, os.W_OK):
        return "failed", f"{folder} cannot be written to: change its owner or permissions"
    free = free_bytes()
    status: Status = "ok" if free > _LOW_BYTES else "warning"
    return status, f"{folder}, {size_text(free)} free"


def _store() -> tuple[Status, str]:
    guard_store()
    return "ok", file_store().examined()


def _files() -> tuple[Status, str]:
    with session_scope() as session:
        clips = [clip.name for clip in session.scalars(select(Clip)) if _is_gone(clip)]
        done = select(Render).where(Render.file != "")
        renders = [
            each.title for each in session.scalars(done) if not file_store().has(file_of(each))
        ]
        edits = session.scalar(select(func.count()).select_from(Edit)) or 0
    if not clips and not renders:
        return "ok", f"edits: {edits}; every clip and render has its file"
    named = ", ".join([*clips, *renders][:_LISTED])
    return "failed", (
        f"{len(clips)} clips and {len(renders)} renders have lost their file ({named}): restore"
        " their folder or store, or import the clips again"
    )


def _is_gone(clip: Clip) -> bool:
    return not file_store().has(path_of(clip.file))


def _accounts() -> tuple[Status, str]:
    with session_scope() as session:
        count = len(all_accounts(session))
    if not count:
        return "ok", "none: it serves on this machine only"
    return "ok", f"{count}: everybody has to sign in"


_EXAMINATIONS: tuple[tuple[str, Callable[[], tuple[Status, str]]], ...] = (
    ("Python", _python),
    ("Decoders", _decoders),
    ("Pages", _pages),
    ("Data folder", _data),
    ("Store", _store),
    ("Database", _database),
    ("Workers", _workers),
    ("Accounts", _accounts),
    ("Files", _files),
)
