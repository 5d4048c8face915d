"""Where finished files are kept: in the data folder, or in a store that several machines share.

Files are named by their paths in the data folder (``media/…``, ``renders/…``, ``mattes/…``,
``proxies/…``, ``segments/…``), wherever they are kept, and never change once they are there.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Protocol

from idle_shimmer.media import local_copies
from idle_shimmer.settings import settings


@dataclass(frozen=True, slots=True)
class KeptFile:
    """A file that is kept: its path in the data folder, its bytes, and its last change (Unix time)."""

    path: Path
    size: int
    modified_s: float


def no_report() -> None:
    """Report nothing."""


class FileStore(Protocol):
    """Keeps finished files by their paths in the data folder."""

    def keep(self, file: Path, report: Callable[[], None] = no_report) -> None:
        """Keep a finished file of the data folder. ``report`` is called on the way, and may raise."""

    def bring(self, file: Path) -> None:
        """Put a kept file into the data folder, unless it is there; one that is not kept stays missing."""

    def has(self, file: Path) -> bool:
        """Whether the file is kept."""

    def delete(self, file: Path) -> int:
        """Delete a file wherever it lies; return its bytes, 0 where there is none."""

    def listed(self, folder: Path) -> list[KeptFile]:
        """Return the files below a folder of the data folder."""

    def set_aside(self, file: Path) -> None:
        """Move a file that no row knows out of the way, for ``delete_set_aside``."""

    def delete_set_aside(self, before_s: float) -> None:
        """Delete what was set aside before a time."""

    def examined(self) -> str:
        """Write, read and delete a small file; return where files are kept. Raises StoreFault."""


def kept_file(path: Path) -> KeptFile:
    """Return a file of the data folder."""
    found = path.stat()
    return KeptFile(path, found.st_size, found.st_mtime)


def files_below(folder: Path) -> list[Path]:
    """Return the files below a local folder."""
    return [each for each in folder.rglob("*") if each.is_file()]


@lru_cache(maxsize=1)
def file_store() -> FileStore:
    """Return the store of this process. Raises StoreFault where its URL is wrong."""
    if settings().idle_shimmer_store:
        from idle_shimmer.files.shared_files import SharedFiles

        return SharedFiles(settings().idle_shimmer_store, settings().idle_shimmer_data.resolve())
    from idle_shimmer.files.own_files import OwnFiles

    return OwnFiles(settings().idle_shimmer_data.resolve())


# Whoever opens a file of a path that was given here gets it from the store.
local_copies.brought_by(lambda file: file_store().bring(file))
