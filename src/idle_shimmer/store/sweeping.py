"""The files of the data folder: which belong to rows, which are left over, which can be deleted.

What was begun and never finished is deleted. A finished file that no row knows is set aside and
deleted a month later: it may be missing from the database because that was restored or exchanged.
"""

import fcntl
import re
import shutil
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

import structlog
from sqlalchemy import select
from sqlalchemy.orm import Session

from idle_shimmer.files.clip_proxies import path_of_proxy
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.kept_files import KeptFile, files_below
from idle_shimmer.settings import settings
from idle_shimmer.store.tables import Clip, Render, RenderSegment, SubjectMatte

UPLOAD_PREFIX = "upload-"
_LOCK_NAME = ".lock"
_SET_ASIDE_S = 30 * 24 * 3600
# A file that is being registered has no row yet.
_NEW_S = 3600
_RENDER_NAME = re.compile(r"\.?([0-9a-f-]{36})-(\d+)(\.unfinished(?:\.part)?)*\.\w+")
_log = structlog.get_logger()


@contextmanager
def upload_lock(folder: Path) -> Iterator[None]:
    """Hold the lock that says that an upload is under way in ``folder``."""
    with (folder / _LOCK_NAME).open("wb") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def sweep(session: Session) -> int:
    """Remove what is left over; return how many files and folders that were."""
    removed = _sweep_uploads() + _sweep_renders(session) + _sweep_media(session)
    removed += _sweep_made(session)
    file_store().delete_set_aside(time.time() - _SET_ASIDE_S)
    if removed:
        _log.info("removed what was left over", count=removed)
    return removed


def _sweep_uploads() -> int:
    """Delete the folders of uploads that nobody receives any more."""
    abandoned = [
        folder for folder in settings().media.glob(f"{UPLOAD_PREFIX}*") if not _is_locked(folder)
    ]
    for folder in abandoned:
        shutil.rmtree(folder, ignore_errors=True)
    return len(abandoned)


def _is_locked(folder: Path) -> bool:
    try:
        with (folder / _LOCK_NAME).open("rb") as lock:
            return not _can_lock(lock)
    except OSError:
        return False


def _can_lock(lock: IO[bytes]) -> bool:
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _sweep_renders(session: Session) -> int:
    """Delete what ended workers left, and set files aside that no row knows."""
    count = 0
    for kept in _found_in(settings().renders):
        file = kept.path
        match = _RENDER_NAME.fullmatch(file.name)
        render = session.get(Render, uuid.UUID(match[1])) if match else None
        if render is not None and file.name == render.file:
            continue
        if render is not None and match and render.state == "running":
            if int(match[2]) == render.claim:
                continue
            file_store().delete(file)
        elif match and match[3]:
            file.unlink(missing_ok=True)
        elif not _put_aside(kept):
            continue
        count += 1
    return count


def _sweep_media(session: Session) -> int:
    known = set(session.scalars(select(Clip.file)))
    media = settings().media
    unknown = [
        kept
        for kept in _found_in(media)
        if str(kept.path.relative_to(media)) not in known
        and not kept.path.relative_to(media).parts[0].startswith(UPLOAD_PREFIX)
    ]
    return sum(_put_aside(kept) for kept in unknown)


def _sweep_made(session: Session) -> int:
    """Delete mattes, segments and proxies that no row knows: they can be made again."""
    count = 0
    proxies = {path_of_proxy(each).name for each in session.scalars(select(Clip.sha256))}
    for folder, known in (
        (settings().mattes, set(session.scalars(select(SubjectMatte.file)))),
        (settings().segments, set(session.scalars(select(RenderSegment.file)))),
        (settings().proxies, proxies),
    ):
        for kept in _found_in(folder):
            if kept.path.name not in known and not _is_new(kept):
                file_store().delete(kept.path)
                count += 1
    return count


def _put_aside(kept: KeptFile) -> bool:
    """Move a file that no row knows; return False for one that may only be new."""
    if _is_new(kept):
        return False
    file_store().set_aside(kept.path)
    _log.warning("no row knows this file: it is set aside", file=str(kept.path))
    return True


def _is_new(kept: KeptFile) -> bool:
    return time.time() - kept.modified_s < _NEW_S


def _found_in(folder: Path) -> list[KeptFile]:
    """Return the files of a folder, those that are kept elsewhere included."""
    here = {each.path: each for each in files_below(folder)}
    return list((here | {each.path: each for each in file_store().listed(folder)}).values())
