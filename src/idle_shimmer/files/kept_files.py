"""What a store of finished files does, and the record of one that is kept.

Files are named by their paths in the data folder (``media/…``, ``renders/…``, ``mattes/…``,
``proxies/…``, ``segments/…``), wherever they are kept, and never change once they are there.
"""

import os
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol


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

    def require(self) -> None:
        """Raise StoreUnreachable where files cannot be kept at the moment."""

    def become_own(self) -> None:
        """Make the store that of this installation, whatever it was before."""

    def examined(self) -> str:
        """Write, read and delete a small file; return where files are kept. Raises StoreFault."""


def files_below(folder: Path) -> list[KeptFile]:
    """Return the files below a local folder. Those that go while it is read are left out."""
    found = []
    for place, _, names in os.walk(folder):
        for name in names:
            path = Path(place, name)
            with suppress(FileNotFoundError):
                facts = path.stat()
                found.append(KeptFile(path, facts.st_size, facts.st_mtime))
    return found
