"""Folders of numbered pictures with an index: written whole, or not at all."""

import json
import re
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.output.written_files import INDEX, SOUND

_PICTURE_NAME = re.compile(r"(frame|matte)_\d{4,}\.png")


def require_folder(folder: Path) -> None:
    """Raise InvalidValue where there is no such folder."""
    if not folder.is_dir():
        raise InvalidValue(f"there is no folder {folder}: create it first", field="out")


@contextmanager
def folder_written(out: Path) -> Iterator[Path]:
    """Yield a folder to write into; its files are moved to ``out`` when all of them are there.

    An earlier render at ``out`` is replaced. Raises InvalidValue where ``out`` holds anything else.
    """
    require_folder(out.parent)
    # Before the work as well as after it.
    _require_own_files(out)
    with tempfile.TemporaryDirectory(prefix=".unfinished-", dir=out.parent) as name:
        folder = Path(name)
        yield folder
        _require_own_files(out)
        out.mkdir(exist_ok=True)
        # The index first: while files change, none says that they belong together.
        for old in sorted(out.iterdir(), key=lambda each: each.name != INDEX):
            old.unlink()
        for made in sorted(folder.iterdir(), key=lambda each: each.name == INDEX):
            shutil.move(made, out / made.name)


def _require_own_files(folder: Path) -> None:
    """Raise InvalidValue where a folder holds anything but an earlier render, all of it listed."""
    found = {each.name for each in folder.iterdir()} if folder.is_dir() else set()
    if foreign := sorted(found - _listed_in(folder)):
        raise InvalidValue(
            f"{folder} holds {foreign[0]}, which is not part of an earlier render: choose an empty"
            " folder or a new name",
            field="out",
        )


def _listed_in(folder: Path) -> set[str]:
    """Return the names of the files of a render in ``folder``, its index and sound included."""
    try:
        index = json.loads((folder / INDEX).read_text(encoding="utf-8"))
        names = {str(each["file"]) for each in index["frames"]}
    except (OSError, ValueError, TypeError, KeyError):
        return set()
    return {name for name in names if _PICTURE_NAME.fullmatch(name)} | {INDEX, SOUND}
