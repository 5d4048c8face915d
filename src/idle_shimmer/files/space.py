"""How much space the files take and how much is left."""

import errno
import shutil
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.files.file_store import file_store
from idle_shimmer.limits import size_text
from idle_shimmer.settings import settings

# Kept free for the database, which stops where it cannot write.
_RESERVE_BYTES = 200 << 20


def is_full(error: OSError) -> bool:
    """Whether an error says that there is no space, or no more of it for this user."""
    return error.errno in (errno.ENOSPC, errno.EDQUOT)


class DiskFull(ShimmerError, OSError):
    """Free some space where media and renders lie, then try again."""


@dataclass(frozen=True)
class Space:
    """What files take, in bytes, and what is free on their disk."""

    media_bytes: int
    renders_bytes: int
    free_bytes: int


def space() -> Space:
    """Return what media, with the mattes that are made of them, and renders take now."""
    folders = settings().media, settings().mattes, settings().proxies
    media = sum(_size_of(each) for each in folders)
    return Space(media, _size_of(settings().renders), free_bytes())


def sizes_of(files: Iterable[Path]) -> int:
    """Return the bytes of imported files, as far as they are there."""
    sizes = {each.path: each.size for each in file_store().listed(settings().media)}
    return sum(sizes.get(each, 0) for each in files)


def free_bytes() -> int:
    """Return what is free on the disk of the data folder."""
    folder = settings().idle_shimmer_data.resolve()
    while not folder.is_dir():
        folder = folder.parent
    return shutil.disk_usage(folder).free


def require_space(needed_bytes: int, what: str) -> None:
    """Raise DiskFull where there is no room for ``needed_bytes``."""
    free = free_bytes()
    if needed_bytes + _RESERVE_BYTES > free:
        raise disk_full(what, needed_bytes or None, free)


def disk_full(what: str = "", needed_bytes: int | None = None, free: int | None = None) -> DiskFull:
    """Return the error that says what is full and how much is needed."""
    left = size_text(free_bytes() if free is None else free)
    needs = "" if needed_bytes is None else f" {what} needs {size_text(needed_bytes)}."
    folder = settings().idle_shimmer_data.resolve().name
    return DiskFull(
        f"the disk of the folder {folder} is full: {left} are free.{needs} Delete renders or clips that"
        " are not used, or free space elsewhere, then try again"
    )


def _size_of(folder: Path) -> int:
    return sum(each.size for each in file_store().listed(folder))
