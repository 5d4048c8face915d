"""Files that are kept in the data folder itself."""

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from idle_shimmer.files.kept_files import KeptFile, files_below, no_report


class OwnFiles:
    """Keeps files where they were written; several processes may share the folder."""

    def __init__(self, data: Path) -> None:
        self._aside = data / "set-aside"

    def keep(self, file: Path, report: Callable[[], None] = no_report) -> None:
        """Leave the file where it lies."""

    def bring(self, file: Path) -> None:
        """Leave the file where it lies."""

    def has(self, file: Path) -> bool:
        """Whether the file is there."""
        return file.is_file()

    def delete(self, file: Path) -> int:
        """Delete the file; return its bytes."""
        try:
            size = file.stat().st_size
        except FileNotFoundError:
            return 0
        file.unlink(missing_ok=True)
        return size

    def listed(self, folder: Path) -> list[KeptFile]:
        """Return the files below a folder."""
        return files_below(folder)

    def set_aside(self, file: Path) -> None:
        """Move a file away; from now on it counts as old."""
        self._aside.mkdir(parents=True, exist_ok=True)
        with suppress(FileNotFoundError):
            file.replace(self._aside / file.name).touch()

    def require(self) -> None:
        """The folder is made where it is missing."""

    def become_own(self) -> None:
        """It is."""

    def examined(self) -> str:
        """Return that files lie in the data folder."""
        return "the data folder"

    def delete_set_aside(self, before_s: float) -> None:
        """Delete what was set aside before a time."""
        for each in self.listed(self._aside):
            if each.modified_s < before_s:
                each.path.unlink(missing_ok=True)
